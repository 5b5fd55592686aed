package fem

import (
	"math"

	"saltkettle/core/mesh"
)

// Facet holds the quadrature points of a facet of order 1. It is work memory:
// filled anew for each facet.
type Facet struct {
	Count, Points int // nodes and quadrature points: both 3 or both 4
	// At each point: the area that it stands for, m², the shape functions and the
	// place, m.
	Area  [4]float64
	Shape [4][4]float64
	Place [4][3]float64
}

var (
	// triangleFacet is exact for degree 2: the middles of the edges.
	triangleFacet = [3][2]float64{{0.5, 0}, {0.5, 0.5}, {0, 0.5}}
	gauss2        = [2]float64{-1 / math.Sqrt(3), 1 / math.Sqrt(3)}
)

// Set loads a facet of a mesh.
func (w *Facet) Set(m *mesh.Mesh, f *mesh.Facet) {
	corners := f.Corners()
	w.Count, w.Points = len(corners), 0
	x := func(i int) []float64 { return m.Nodes[3*corners[i] : 3*corners[i]+3] }
	if w.Count == 3 {
		a, b, c := x(0), x(1), x(2)
		area := cross(b[0]-a[0], b[1]-a[1], b[2]-a[2], c[0]-a[0], c[1]-a[1], c[2]-a[2]) / 2
		for _, p := range triangleFacet {
			w.add(m, corners, [4]float64{1 - p[0] - p[1], p[0], p[1]}, area/3)
		}
		return
	}
	for _, s := range gauss2 {
		for _, t := range gauss2 {
			n := [4]float64{(1 - s) * (1 - t) / 4, (1 + s) * (1 - t) / 4, (1 + s) * (1 + t) / 4, (1 - s) * (1 + t) / 4}
			ds := [4]float64{-(1 - t) / 4, (1 - t) / 4, (1 + t) / 4, -(1 + t) / 4}
			dt := [4]float64{-(1 - s) / 4, -(1 + s) / 4, (1 + s) / 4, (1 - s) / 4}
			var u, v [3]float64
			for i := range 4 {
				for r, c := range x(i) {
					u[r] += ds[i] * c
					v[r] += dt[i] * c
				}
			}
			w.add(m, corners, n, cross(u[0], u[1], u[2], v[0], v[1], v[2]))
		}
	}
}

func (w *Facet) add(m *mesh.Mesh, corners []int32, n [4]float64, area float64) {
	q := w.Points
	w.Points++
	w.Area[q], w.Shape[q] = area, n
	w.Place[q] = [3]float64{}
	for i, v := range corners {
		for r := range 3 {
			w.Place[q][r] += n[i] * m.Nodes[3*int(v)+r]
		}
	}
}

// Total is the area of the facet, m².
func (w *Facet) Total() float64 {
	var sum float64
	for _, a := range w.Area[:w.Points] {
		sum += a
	}
	return sum
}

// Share is the integral of the shape function of node i, m².
func (w *Facet) Share(i int) float64 {
	var sum float64
	for q, a := range w.Area[:w.Points] {
		sum += a * w.Shape[q][i]
	}
	return sum
}

// At interpolates nodal values at point q.
func (w *Facet) At(q int, corners []int32, nodal []float64) float64 {
	var v float64
	for i, n := range corners {
		v += w.Shape[q][i] * nodal[n]
	}
	return v
}

// cross is the length of the vector product.
func cross(a, b, c, d, e, f float64) float64 {
	x, y, z := b*f-c*e, c*d-a*f, a*e-b*d
	return math.Sqrt(x*x + y*y + z*z)
}
