package fem

import (
	"math"

	"saltkettle/core/mesh"
)

// cell maps a reference cell to its place and turns derivatives of shape functions
// into gradients. It is work memory of one goroutine, filled anew for each point.
type cell struct {
	rule *Rule
	// At each point of the rule: functions of the geometry and of the corners.
	n  [][]float64
	dn [][][3]float64
	// For order-1 fields on an element of order 2.
	low     [][]float64
	lowSlop [][][3]float64

	dimension int
	grid      *Grid
	at        [][3]float64 // places of the nodes of the cell that is loaded
	form      mesh.Form
	straight  bool // the Jacobian is the same everywhere in the cell that is loaded
	known     bool // and has been computed
	x         [3]float64
	det       float64 // of the Jacobian
	weight    float64
	inverse   [3][3]float64 // of the Jacobian: ∂ξ/∂x
	grad      [][3]float64  // of the functions at the point at hand
	lowGrad   [][3]float64
}

func newCell(e, low *Element, rule *Rule) *cell {
	c := &cell{rule: rule, form: e.Form, dimension: e.Dimension, at: make([][3]float64, e.Count()), grad: make([][3]float64, e.Count()), lowGrad: make([][3]float64, low.Count())}
	for _, p := range rule.Points {
		n, dn := make([]float64, e.Count()), make([][3]float64, e.Count())
		e.Shape(p, n, dn)
		c.n, c.dn = append(c.n, n), append(c.dn, dn)
		n, dn = make([]float64, low.Count()), make([][3]float64, low.Count())
		low.Shape(p, n, dn)
		c.low, c.lowSlop = append(c.low, n), append(c.lowSlop, dn)
	}
	return c
}

// load takes a cell of a grid with the given nodes.
func (c *cell) load(g *Grid, nodes []int32) {
	c.grid = g
	for i, v := range nodes {
		c.at[i] = [3]float64(g.Nodes[3*v : 3*v+3])
	}
	c.straight, c.known = c.isStraight(), false
}

// isStraight says that the cell is the reference cell but for stretching and turning, to the last bit: most cells of extruded plans and all
// simplices with straight edges are.
func (c *cell) isStraight() bool {
	at := c.at
	// Edges that are to be alike: from which node to which, as the pair that follows.
	alike := func(a, b, c, d int) bool {
		return at[b][0]-at[a][0] == at[d][0]-at[c][0] && at[b][1]-at[a][1] == at[d][1]-at[c][1] && at[b][2]-at[a][2] == at[d][2]-at[c][2]
	}
	switch {
	case len(at) == 3 && c.form == mesh.Triangle, len(at) == 4 && c.form == mesh.Tetrahedron:
		return true
	case len(at) == 6 && c.form == mesh.Wedge:
		return alike(0, 3, 1, 4) && alike(0, 3, 2, 5)
	case len(at) == 4 && c.form == mesh.Quadrilateral:
		return alike(0, 1, 3, 2)
	case len(at) == 8 && c.form == mesh.Hexahedron:
		return alike(0, 1, 3, 2) && alike(0, 4, 1, 5) && alike(0, 4, 2, 6) && alike(0, 4, 3, 7)
	}
	return false
}

// set moves to point q of the cell that is loaded and computes the gradients there.
func (c *cell) set(q int) error {
	if err := c.move(q); err != nil {
		return err
	}
	c.gradients(c.dn[q], c.grad)
	return nil
}

// move goes to point q of the cell that is loaded.
func (c *cell) move(q int) error {
	if c.known && c.straight {
		var x, y, z float64
		for i, f := range c.n[q] {
			p := &c.at[i]
			x += f * p[0]
			y += f * p[1]
			z += f * p[2]
		}
		return c.weigh(q, [3]float64{x, y, z})
	}
	var j [3][3]float64
	at := c.at
	n, dn := c.n[q][:len(at)], c.dn[q][:len(at)]
	var x, y, z float64
	for i := range at {
		p, f, d := &at[i], n[i], &dn[i]
		px, py, pz := p[0], p[1], p[2]
		d0, d1, d2 := d[0], d[1], d[2]
		x += f * px
		y += f * py
		z += f * pz
		j[0][0] += px * d0
		j[0][1] += px * d1
		j[0][2] += px * d2
		j[1][0] += py * d0
		j[1][1] += py * d1
		j[1][2] += py * d2
		j[2][0] += pz * d0
		j[2][1] += pz * d1
		j[2][2] += pz * d2
	}
	switch c.dimension {
	case 3:
		c.det = c.invert(&j)
	case 2:
		det := j[0][0]*j[1][1] - j[0][1]*j[1][0]
		c.inverse = [3][3]float64{{j[1][1] / det, -j[0][1] / det}, {-j[1][0] / det, j[0][0] / det}}
		c.det = det
	default: // a bar, which may lie anywhere in space: gradients are those along it
		square := j[0][0]*j[0][0] + j[1][0]*j[1][0] + j[2][0]*j[2][0]
		c.det = math.Sqrt(square)
		c.inverse = [3][3]float64{{j[0][0] / square, j[1][0] / square, j[2][0] / square}}
	}
	if !(c.det > 0) {
		return ErrInverted
	}
	c.known = true
	return c.weigh(q, [3]float64{x, y, z})
}

// weigh takes a place and its weight in the integral.
func (c *cell) weigh(q int, x [3]float64) error {
	c.x = x
	c.weight = c.det * c.rule.Weights[q]
	if c.grid.Measure != nil {
		c.weight *= c.grid.Measure(c.x)
	}
	return nil
}

// setLow computes the gradients of the functions of order 1 as well.
func (c *cell) setLow(q int) { c.gradients(c.lowSlop[q], c.lowGrad) }

func (c *cell) gradients(dn, out [][3]float64) {
	m := &c.inverse
	out = out[:len(dn)]
	for i := range dn {
		d, o := &dn[i], &out[i]
		o[0] = d[0]*m[0][0] + d[1]*m[1][0] + d[2]*m[2][0]
		o[1] = d[0]*m[0][1] + d[1]*m[1][1] + d[2]*m[2][1]
		o[2] = d[0]*m[0][2] + d[1]*m[1][2] + d[2]*m[2][2]
	}
}

// invert sets the inverse of a Jacobian and returns its determinant.
func (c *cell) invert(j *[3][3]float64) float64 {
	m := &c.inverse
	m[0][0] = j[1][1]*j[2][2] - j[1][2]*j[2][1]
	m[1][0] = j[1][2]*j[2][0] - j[1][0]*j[2][2]
	m[2][0] = j[1][0]*j[2][1] - j[1][1]*j[2][0]
	det := j[0][0]*m[0][0] + j[0][1]*m[1][0] + j[0][2]*m[2][0]
	m[0][1] = j[0][2]*j[2][1] - j[0][1]*j[2][2]
	m[1][1] = j[0][0]*j[2][2] - j[0][2]*j[2][0]
	m[2][1] = j[0][1]*j[2][0] - j[0][0]*j[2][1]
	m[0][2] = j[0][1]*j[1][2] - j[0][2]*j[1][1]
	m[1][2] = j[0][2]*j[1][0] - j[0][0]*j[1][2]
	m[2][2] = j[0][0]*j[1][1] - j[0][1]*j[1][0]
	over := 1 / det
	for a := range 3 {
		for b := range 3 {
			m[a][b] *= over
		}
	}
	return det
}

// side maps a facet of a cell: the reference points of a rule on it lie in the
// cell, so that functions and gradients of the whole cell are at hand.
type side struct {
	*cell
	normal [3]float64
	// At each point: how the place in the reference cell changes along the axes of the
	// facet, of which there are one or two, or at an end of a bar along the bar out of it.
	along [][2][3]float64
	axes  int
	plain float64 // the weight without the measure
	kept  []placed
}

// placed is the geometry at a point of a side that was visited.
type placed struct {
	x, normal [3]float64
	inverse   [3][3]float64
	weight    float64
}

// restore goes back to point q of the side that was visited last.
func (s *side) restore(q int) {
	k := &s.kept[q]
	s.x, s.normal, s.inverse, s.weight = k.x, k.normal, k.inverse, k.weight
	s.gradients(s.dn[q], s.grad)
}

// newSide prepares facet k of an element with a rule that is exact up to a degree.
func newSide(e, low *Element, k, degree int) *side {
	return newSideWith(e, low, k, func(form mesh.Form) *Rule { return NewRule(form, degree) })
}

// newSideWith prepares it with the rule that is given for its form.
func newSideWith(e, low *Element, k int, ruleOf func(form mesh.Form) *Rule) *side {
	form := mesh.Bar
	list := e.Facets[k]
	switch {
	case len(list) == 3:
		form = mesh.Triangle
	case len(list) == 4:
		form = mesh.Quadrilateral
	}
	if len(list) == 1 {
		return newEnd(e, low, list[0])
	}
	facet, rule := NewElement(form, 1), ruleOf(form)
	s := &side{axes: facet.Dimension}
	n, dn := make([]float64, facet.Count()), make([][3]float64, facet.Count())
	inner := &Rule{Weights: rule.Weights}
	for _, p := range rule.Points {
		facet.Shape(p, n, dn)
		var at [3]float64
		var along [2][3]float64
		for i, c := range list {
			for d, x := range e.Nodes[c] {
				at[d] += n[i] * x
				for axis := range s.axes {
					along[axis][d] += dn[i][axis] * x
				}
			}
		}
		inner.Points = append(inner.Points, at)
		s.along = append(s.along, along)
	}
	s.cell = newCell(e, low, inner)
	s.kept = make([]placed, len(inner.Points))
	return s
}

// newEnd prepares an end of a bar, which is a point and stands for an area of 1.
func newEnd(e, low *Element, corner int) *side {
	at := e.Nodes[corner]
	outward := [2][3]float64{{at[0]}}
	return &side{cell: newCell(e, low, &Rule{Points: [][3]float64{at}, Weights: []float64{1}}), along: [][2][3]float64{outward}, kept: make([]placed, 1)}
}

// set moves to point q of the facet of the cell that is loaded and computes the gradients
// there.
func (s *side) set(q int) error {
	if err := s.move(q); err != nil {
		return err
	}
	s.gradients(s.dn[q], s.grad)
	return nil
}

// move goes to point q of the facet of the cell that is loaded. weight is then the area
// that it stands for.
func (s *side) move(q int) error {
	if err := s.cell.move(q); err != nil {
		return err
	}
	var tangent [2][3]float64
	for axis, along := range s.along[q][:max(1, s.axes)] {
		for i, p := range s.at {
			slope := &s.dn[q][i]
			f := slope[0]*along[0] + slope[1]*along[1] + slope[2]*along[2]
			for d, x := range p {
				tangent[axis][d] += f * x
			}
		}
	}
	t, u := tangent[0], tangent[1]
	switch s.axes {
	case 0:
		s.normal = t
	case 1:
		s.normal = [3]float64{t[1], -t[0], 0}
	default:
		s.normal = [3]float64{t[1]*u[2] - t[2]*u[1], t[2]*u[0] - t[0]*u[2], t[0]*u[1] - t[1]*u[0]}
	}
	area := math.Sqrt(s.normal[0]*s.normal[0] + s.normal[1]*s.normal[1] + s.normal[2]*s.normal[2])
	for d := range s.normal {
		s.normal[d] /= area
	}
	if s.axes == 0 {
		area = 1
	}
	s.plain = area * s.rule.Weights[q]
	s.weight = s.plain
	if s.grid.Measure != nil {
		s.weight *= s.grid.Measure(s.x)
	}
	s.kept[q] = placed{s.x, s.normal, s.inverse, s.weight}
	return nil
}
