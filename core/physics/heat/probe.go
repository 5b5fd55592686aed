package heat

import (
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/mesh"
	"saltkettle/core/quantity"
)

// Quantities are what readings may use, in the order of the inputs of their
// programs: [Variables], then the heat flux along x, y and z and its size.
var Quantities = func() []formula.Variable {
	flux := quantity.MustUnit("W/m²").Dimension
	list := append([]formula.Variable{}, Variables...)
	for _, name := range []string{"heat_flux_x", "heat_flux_y", "heat_flux_z", "heat_flux"} {
		list = append(list, formula.Variable{Name: name, Dimension: flux})
	}
	return list
}()

// Measure is what a reading finds of a quantity over a region.
type Measure struct {
	Least, Greatest   float64
	LeastAt, MostAt   [3]float64
	Integral, Content float64 // Content is the volume, area or length
}

// Mean is the mean value over the region.
func (m *Measure) Mean() float64 { return m.Integral / m.Content }

func newMeasure() *Measure { return &Measure{Least: math.Inf(1), Greatest: math.Inf(-1)} }

func (m *Measure) add(value, content float64, at [3]float64) {
	m.extreme(value, at)
	m.Integral += value * content
	m.Content += content
}

func (m *Measure) extreme(value float64, at [3]float64) {
	if value < m.Least {
		m.Least, m.LeastAt = value, at
	}
	if value > m.Greatest {
		m.Greatest, m.MostAt = value, at
	}
}

// prober evaluates a quantity at points of cells.
type prober struct {
	s       *Solution
	q       Law
	work    *formula.Work
	in      [][]float64
	derived bool
	wedge   fem.Wedge
	cell    int32                      // the one that wedge holds
	laws    map[int32][3]*formula.Work // of the conductivities that vary, by body
}

func (s *Solution) prober(q Law) *prober {
	p := &prober{s: s, q: q, work: q.NewWork(), in: make([][]float64, len(Quantities)), cell: -1, laws: map[int32][3]*formula.Work{}}
	for v := range p.in {
		p.in[v] = make([]float64, 1)
		p.derived = p.derived || v >= len(Variables) && q.Uses(v)
	}
	return p
}

// at evaluates the quantity at a place in a cell, with the temperature there.
// The heat flux is that of the cell's mean gradient.
func (p *prober) at(cell int32, place [3]float64, temperature float64) float64 {
	p.in[0][0] = temperature
	for r, x := range place {
		p.in[1+r][0] = x
	}
	p.in[4][0], p.in[5][0] = math.Hypot(place[0], place[1]), math.Atan2(place[1], place[0])
	if p.derived {
		p.flux(cell)
	}
	var out [1]float64
	p.work.Run(p.in, out[:])
	return out[0]
}

func (p *prober) flux(cell int32) {
	m := p.s.Problem.Mesh
	if cell != p.cell {
		if p.wedge.Set(m, int(cell)) != nil {
			return // its volume has been computed before
		}
		p.cell = cell
	}
	b := &p.s.laws.bodies[m.Body[cell]]
	k := b.value
	if b.varies {
		works, ok := p.laws[m.Body[cell]]
		if !ok {
			for r, law := range b.along {
				works[r] = law.NewWork()
			}
			p.laws[m.Body[cell]] = works
		}
		for r := range works {
			works[r].Run(p.in, k[r:r+1])
		}
	}
	var gradient [3]float64
	for i, v := range m.Cells[mesh.WedgeNodes*cell : mesh.WedgeNodes*cell+6] {
		for q := range fem.Points {
			for r := range 3 {
				gradient[r] += p.wedge.Gradient[q][i][r] * p.s.Temperature[v] / float64(fem.Points)
			}
		}
	}
	tensor := fem.Turned(k, b.cos, b.sin)
	g := tensor.Times(gradient)
	n := len(Variables)
	for r := range 3 {
		p.in[n+r][0] = -g[r]
	}
	p.in[n+3][0] = math.Sqrt(g[0]*g[0] + g[1]*g[1] + g[2]*g[2])
}

// InBodies measures a quantity in bodies.
func (s *Solution) InBodies(q Law, bodies map[int32]bool) *Measure {
	m := s.Problem.Mesh
	out := newMeasure()
	p := s.prober(q)
	var w fem.Wedge
	for c, body := range m.Body {
		if !bodies[body] || w.Set(m, c) != nil {
			continue
		}
		nodes := m.Cells[mesh.WedgeNodes*c : mesh.WedgeNodes*c+6]
		for k := range fem.Points {
			var temperature float64
			var at [3]float64
			for i, n := range fem.WedgeShape(k) {
				temperature += n * s.Temperature[nodes[i]]
				for r := range 3 {
					at[r] += n * w.X[i][r]
				}
			}
			out.add(p.at(int32(c), at, temperature), w.Volume[k], at)
		}
		if p.derived {
			continue
		}
		for i, v := range nodes {
			out.extreme(p.at(int32(c), w.X[i], s.Temperature[v]), w.X[i])
		}
	}
	return out
}

// OnFacets measures a quantity on facets, seen from the given bodies.
func (s *Solution) OnFacets(q Law, facets []int32, bodies map[int32]bool) *Measure {
	m := s.Problem.Mesh
	out := newMeasure()
	p := s.prober(q)
	var w fem.Facet
	for _, k := range facets {
		f := &m.Facets[k]
		cell := f.Cell
		if !bodies[f.Body] {
			cell = f.Other
		}
		w.Set(m, f)
		for j := range w.Points {
			out.add(p.at(cell, w.Place[j], w.At(j, f.Corners(), s.Temperature)), w.Area[j], w.Place[j])
		}
		if p.derived {
			continue
		}
		for _, v := range f.Corners() {
			place := [3]float64(m.Nodes[3*v : 3*v+3])
			out.extreme(p.at(cell, place, s.Temperature[v]), place)
		}
	}
	return out
}

// linePoints is at how many points a line is read.
const linePoints = 501

// OnLine measures a quantity along a straight line, as far as it runs through
// the mesh; Content is that length.
func (s *Solution) OnLine(q Law, from, to [3]float64) *Measure {
	points := make([]float64, 0, 3*linePoints)
	for i := range linePoints {
		u := float64(i) / (linePoints - 1)
		for r := range 3 {
			points = append(points, from[r]+u*(to[r]-from[r]))
		}
	}
	step := math.Sqrt((to[0]-from[0])*(to[0]-from[0])+(to[1]-from[1])*(to[1]-from[1])+(to[2]-from[2])*(to[2]-from[2])) / (linePoints - 1)
	values, inside := s.AtPoints(q, points)
	out := newMeasure()
	for i, v := range values {
		if !inside[i] {
			continue
		}
		at := [3]float64(points[3*i : 3*i+3])
		out.extreme(v, at)
		if i > 0 && inside[i-1] {
			out.Integral += step * (v + values[i-1]) / 2
			out.Content += step
		}
	}
	return out
}

// AtPoints evaluates a quantity at points of three coordinates each and says
// which of them lie in the mesh.
func (s *Solution) AtPoints(q Law, points []float64) (values []float64, inside []bool) {
	m := s.Problem.Mesh
	cells, shapes := fem.Locate(m, points)
	values, inside = make([]float64, len(cells)), make([]bool, len(cells))
	p := s.prober(q)
	for i, c := range cells {
		if c < 0 {
			continue
		}
		inside[i] = true
		var temperature float64
		for j, v := range m.Cells[mesh.WedgeNodes*c : mesh.WedgeNodes*c+6] {
			temperature += shapes[i][j] * s.Temperature[v]
		}
		values[i] = p.at(c, [3]float64(points[3*i:3*i+3]), temperature)
	}
	return values, inside
}
