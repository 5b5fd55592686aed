package shape

import (
	"math"
	"slices"
)

// Surface is a closed surface of triangles that turn left seen from outside.
type Surface struct {
	Points    [][3]float64 `json:"points"` // m
	Triangles [][3]int32   `json:"triangles"`
}

// Volume that the surface encloses, m³, negative if it is turned inside out.
func (s *Surface) Volume() (sum float64) {
	for _, t := range s.Triangles {
		a, b, c := s.Points[t[0]], s.Points[t[1]], s.Points[t[2]]
		sum += (a[0]*(b[1]*c[2]-b[2]*c[1]) + a[1]*(b[2]*c[0]-b[0]*c[2]) + a[2]*(b[0]*c[1]-b[1]*c[0])) / 6
	}
	return sum
}

// Box around the surface.
func (s *Surface) Box() (lo, hi [3]float64) {
	lo, hi = [3]float64{math.Inf(1), math.Inf(1), math.Inf(1)}, [3]float64{math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	for _, p := range s.Points {
		for k := range p {
			lo[k], hi[k] = min(lo[k], p[k]), max(hi[k], p[k])
		}
	}
	return lo, hi
}

// Moved returns the surface with its points elsewhere.
func (s *Surface) Moved(place func(p [3]float64) [3]float64) *Surface {
	out := &Surface{Points: make([][3]float64, len(s.Points)), Triangles: s.Triangles}
	for i, p := range s.Points {
		out.Points[i] = place(p)
	}
	return out
}

// Crossings returns the heights at which an upright line meets the surface, ascending. A
// line that passes exactly through an edge is moved aside by a part in 10⁹.
func (s *Surface) Crossings(x, y float64) []float64 {
	var list []float64
	for _, t := range s.Triangles {
		a, b, c := s.Points[t[0]], s.Points[t[1]], s.Points[t[2]]
		if x < min(a[0], b[0], c[0]) || x > max(a[0], b[0], c[0]) || y < min(a[1], b[1], c[1]) || y > max(a[1], b[1], c[1]) {
			continue
		}
		side := func(p, q [3]float64) float64 { return (q[0]-p[0])*(y-p[1]) - (x-p[0])*(q[1]-p[1]) }
		u, v, w := side(b, c), side(c, a), side(a, b)
		area := u + v + w
		if area == 0 {
			continue // upright
		}
		u, v, w = u/area, v/area, w/area
		if u < 0 || v < 0 || w < 0 {
			continue
		}
		if u == 0 || v == 0 || w == 0 {
			lo, hi := s.Box()
			return s.Crossings(x+1e-9*(hi[0]-lo[0]), y+0.7e-9*(hi[1]-lo[1]))
		}
		list = append(list, u*a[2]+v*b[2]+w*c[2])
	}
	slices.Sort(list)
	return list
}

// Contains says whether a place lies within the surface.
func (s *Surface) Contains(p [3]float64) bool {
	below := 0
	for _, z := range s.Crossings(p[0], p[1]) {
		if z < p[2] {
			below++
		}
	}
	return below%2 == 1
}
