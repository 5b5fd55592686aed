package radiation

import "math"

// Space says what facets are.
type Space int

const (
	// Solid facets are triangles and quadrilaterals.
	Solid Space = iota
	// Plane facets are lines in a section of something as good as endless, of which
	// [Settings.Depth] counts.
	Plane
	// Axial facets are lines beside an axis, x from it, that turn about it.
	Axial
)

// sectors is into how many flat pieces a turn is cut for rays.
const sectors = 96

// scene is the triangles behind facets: those that rays start from, which share the
// area of their facet, and those that they meet.
type scene struct {
	from, met []triangle
	centres   []vector
	normals   []vector
	areas     []float64 // of the facets, m²
	flat      bool      // rays stay in the section
}

// newScene prepares facets for rays.
func newScene(facets []Facet, set *Settings) *scene {
	n := len(facets)
	s := &scene{centres: make([]vector, n), normals: make([]vector, n), areas: make([]float64, n)}
	space := Solid
	if set != nil {
		space = set.Space
	}
	switch space {
	case Plane:
		s.plane(facets, set.Depth)
	case Axial:
		s.axial(facets)
	default:
		s.solid(facets)
	}
	if set != nil {
		for _, m := range set.Mirrors {
			for _, t := range s.met {
				s.met = append(s.met, m.image(t))
			}
		}
	}
	return s
}

// Mirror is a plane of symmetry across an axis, 0 to 2, at a place, m. Planes across one
// axis at two places would have images without end.
type Mirror struct {
	Axis int
	At   float64
}

// image of a triangle, which is of the same facet.
func (m Mirror) image(t triangle) triangle {
	out := triangle{a: t.a, u: t.v, v: t.u, n: t.n, owner: t.owner} // turned over, it turns the other way
	out.a[m.Axis] = 2*m.At - out.a[m.Axis]
	for _, v := range []*vector{&out.u, &out.v, &out.n} {
		v[m.Axis] = -v[m.Axis]
	}
	return out
}

func (s *scene) solid(facets []Facet) {
	for i := range facets {
		for _, t := range split(&facets[i], int32(i)) {
			a := t.u.cross(t.v).length() / 2
			s.areas[i] += a
			s.centres[i] = s.centres[i].plus(t.centre().times(a))
			s.normals[i] = s.normals[i].plus(t.n.times(a))
			s.from = append(s.from, t)
		}
		s.centres[i] = s.centres[i].times(1 / s.areas[i])
		s.normals[i] = s.normals[i].times(1 / s.normals[i].length())
	}
	s.met = append(s.met, s.from...)
}

// line is a facet of a section, two corners or an upright quadrilateral on them; its
// body lies to the left of the way from a to b.
func line(f *Facet) (a, b vector, length float64) {
	a, b = vector(f.Corners[0]), vector(f.Corners[1])
	if len(f.Corners) == 4 && f.Corners[2][2] < f.Corners[1][2] {
		a, b = b, a // seen from above it turns the other way
	}
	a[2], b[2] = 0, 0
	return a, b, b.minus(a).length()
}

// plane makes a strip of each line. How far a ray comes along the depth does not matter:
// rays are cast in the section, in directions that are those of space seen from its end.
func (s *scene) plane(facets []Facet, depth float64) {
	s.flat = true
	extent := 0.0
	for i := range facets {
		_, _, l := line(&facets[i])
		extent = max(extent, l)
	}
	up := vector{0, 0, extent}
	for i := range facets {
		a, b, l := line(&facets[i])
		s.areas[i] = l * depth
		s.centres[i] = a.plus(b).times(0.5)
		s.normals[i] = vector{b[1] - a[1], a[0] - b[0], 0}.times(1 / l)
		strip := Facet{Corners: [][3]float64{a, b, b.plus(up), a.plus(up)}}
		s.from = append(s.from, split(&strip, int32(i))...)
	}
	s.met = append(s.met, s.from...)
}

// axial turns each line about the axis y in flat pieces, whose outline has the area of
// the circle. Rays start from the first piece: all are alike.
func (s *scene) axial(facets []Facet) {
	const step = 2 * math.Pi / sectors
	grow := math.Sqrt(step / math.Sin(step))
	at := func(p vector, k int) [3]float64 {
		sin, cos := math.Sincos(step * float64(k))
		return [3]float64{grow * p[0] * cos, p[1], grow * p[0] * sin}
	}
	for i := range facets {
		a, b, l := line(&facets[i])
		s.areas[i] = math.Pi * (a[0] + b[0]) * l
		s.centres[i] = a.plus(b).times(0.5)
		s.normals[i] = vector{b[1] - a[1], a[0] - b[0], 0}.times(1 / l)
		for k := range sectors {
			piece := Facet{Corners: [][3]float64{at(a, k), at(b, k), at(b, k+1), at(a, k+1)}}
			list := split(&piece, int32(i))
			if k == 0 {
				s.from = append(s.from, list...)
			}
			s.met = append(s.met, list...)
		}
	}
}
