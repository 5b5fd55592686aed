// Package plate finds what plates show of the fields of a result: where a plane or a level of a
// field passes through the cells, and values along lines.
package plate

import (
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/parallel"
	"saltkettle/core/result"
)

// Section is where something passes through cells: triangles in space, and lines in a plane, with
// values at their corners. Corners are not shared.
type Section struct {
	// Corners of a triangle or of a line: 3 or 2.
	Corners int
	// Positions are three coordinates of each corner, m; Values are those of each field, in the order
	// in which they were asked for.
	Positions []float32
	Values    [][]float32
	// Parts has the part of each triangle or line.
	Parts []int32
}

// Count is the number of triangles or lines.
func (s *Section) Count() int { return len(s.Parts) }

// Plane is the places x with Normal·x = At, m. The normal has the length 1.
type Plane struct {
	Normal [3]float64
	At     float64
}

// NewPlane is the plane at a distance from the origin along a normal of any length; ok is false if
// this has none.
func NewPlane(normal [3]float64, at float64) (p Plane, ok bool) {
	size := math.Sqrt(dot(normal, normal))
	if !(size > 0) || math.IsInf(size, 0) {
		return p, false
	}
	for d := range normal {
		p.Normal[d] = normal[d] / size
	}
	p.At = at
	return p, true
}

// Across is a plane across an axis.
func Across(axis int, at float64) Plane {
	p := Plane{At: at}
	p.Normal[axis] = 1
	return p
}

// Slice cuts fields by a plane; values are those at the points of the fields.
func Slice(f *result.Fields, p Plane, values ...[]float64) *Section {
	level := make([]float64, len(f.Nodes)/3)
	parallel.For(len(level), 1<<14, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			x := f.Nodes[3*i : 3*i+3]
			level[i] = p.Normal[0]*x[0] + p.Normal[1]*x[1] + p.Normal[2]*x[2] - p.At
		}
	})
	return zeros(f, level, values)
}

// Level is where a field has a value. Cells in which it is not known have none.
func Level(f *result.Fields, field []float64, at float64, values ...[]float64) *Section {
	level := make([]float64, len(field))
	for i, v := range field {
		level[i] = v - at
	}
	return zeros(f, level, values)
}

// zeros is where a function of the points, straight between them, is zero.
func zeros(f *result.Fields, level []float64, values [][]float64) *Section {
	first := 0
	out := &Section{Values: make([][]float32, len(values))}
	for k := range f.Blocks {
		b := &f.Blocks[k]
		parts := f.Part[first : first+b.Count()]
		first += b.Count()
		out.Corners = b.Element.Dimension
		shares := make([]Section, parallel.Workers())
		simplices := b.Element.Simplices()
		parallel.For(b.Count(), 4096, func(worker, lo, hi int) {
			c := &cutter{f: f, level: level, values: values, out: &shares[worker]}
			c.out.Values = make([][]float32, len(values))
			n := b.Element.Count()
			for cell := lo; cell < hi; cell++ {
				own := b.Cells[n*cell : n*(cell+1)]
				if c.passes(own) {
					c.cell(b.Element, simplices, own, parts[cell])
				}
			}
		})
		for i := range shares {
			s := &shares[i]
			out.Positions, out.Parts = append(out.Positions, s.Positions...), append(out.Parts, s.Parts...)
			for v := range s.Values {
				out.Values[v] = append(out.Values[v], s.Values[v]...)
			}
		}
	}
	return out
}

// cutter is the work of one core.
type cutter struct {
	f      *result.Fields
	level  []float64
	values [][]float64
	out    *Section
}

// passes says that the level has both signs at some points. A level that is not known has none.
func (c *cutter) passes(points []int32) bool {
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, p := range points {
		v := c.level[p]
		if math.IsNaN(v) {
			return false
		}
		lo, hi = min(lo, v), max(hi, v)
	}
	return lo < 0 && hi >= 0
}

// cell adds what passes through a cell.
func (c *cutter) cell(e *fem.Element, simplices [][]int, points []int32, part int32) {
	for _, s := range simplices {
		var below, above [4]int32
		nb, na := 0, 0
		for _, i := range s {
			if p := points[i]; c.level[p] < 0 {
				below[nb] = p
				nb++
			} else {
				above[na] = p
				na++
			}
		}
		switch {
		case nb == 0 || na == 0:
		case e.Dimension == 2: // a line between two edges of a triangle
			for _, b := range below[:nb] {
				for _, a := range above[:na] {
					c.corner(b, a)
				}
			}
			c.out.Parts = append(c.out.Parts, part)
		case nb == 2: // a quadrilateral
			q := [4][2]int32{{below[0], above[0]}, {below[0], above[1]}, {below[1], above[1]}, {below[1], above[0]}}
			for _, i := range [6]int{0, 1, 2, 0, 2, 3} {
				c.corner(q[i][0], q[i][1])
			}
			c.out.Parts = append(c.out.Parts, part, part)
		default:
			for _, b := range below[:nb] {
				for _, a := range above[:na] {
					c.corner(b, a)
				}
			}
			c.out.Parts = append(c.out.Parts, part)
		}
	}
}

// corner adds the place between two points where the level is zero.
func (c *cutter) corner(a, b int32) {
	t := c.level[a] / (c.level[a] - c.level[b])
	for d := range 3 {
		x, y := c.f.Nodes[3*a+int32(d)], c.f.Nodes[3*b+int32(d)]
		c.out.Positions = append(c.out.Positions, float32(x+t*(y-x)))
	}
	for i, v := range c.values {
		c.out.Values[i] = append(c.out.Values[i], float32(v[a]+t*(v[b]-v[a])))
	}
}
