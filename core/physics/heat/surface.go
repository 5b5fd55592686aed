package heat

import (
	"errors"
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/sparse"
)

// surface holds the fluxes and convections of a problem at the quadrature points
// of its facets, as terms d − c·T of what enters.
type surface struct {
	problem *Problem
	// By condition, fluxes first, then by the facets of each.
	c, d [][][4]float64
	// By facet of the mesh: all conditions together.
	sumC, sumD [][4]float64
	density    []float64 // of each flux, from its total, W/m²
	nonlinear  bool
}

func newSurface(p *Problem) (*surface, error) {
	s := &surface{problem: p, sumC: make([][4]float64, len(p.Mesh.Facets)), sumD: make([][4]float64, len(p.Mesh.Facets))}
	add := func(facets []int32, laws ...Law) {
		s.c = append(s.c, make([][4]float64, len(facets)))
		s.d = append(s.d, make([][4]float64, len(facets)))
		for _, l := range laws {
			s.nonlinear = s.nonlinear || l != nil && l.Uses(0)
		}
	}
	var w fem.Facet
	for _, f := range p.Fluxes {
		add(f.Facets, f.Area)
		var area, density float64
		for _, k := range f.Facets {
			w.Set(p.Mesh, &p.Mesh.Facets[k])
			area += w.Total()
		}
		if f.Total != 0 {
			if area == 0 {
				return nil, errors.New("a heat flux acts on a patch without area")
			}
			density = f.Total / area
		}
		s.density = append(s.density, density)
	}
	for _, c := range p.Convections {
		add(c.Facets, c.Coefficient, c.Medium)
	}
	return s, nil
}

// assemble evaluates the conditions at the temperatures t and adds them to a
// and b.
func (s *surface) assemble(a *sparse.CSR, b, t []float64) error {
	p := s.problem
	clear(s.sumC)
	clear(s.sumD)
	for i, f := range p.Fluxes {
		law := f.Area
		if law == nil {
			law = zero
		}
		err := s.condition(i, f.Facets, []Law{law}, []bound{{"heat flux", math.Inf(-1)}}, t, func(temperature float64, v []point) (c, d float64) {
			return -v[0].slope, s.density[i] + v[0].value - v[0].slope*temperature
		})
		if err != nil {
			return err
		}
	}
	for i, c := range p.Convections {
		err := s.condition(len(p.Fluxes)+i, c.Facets, []Law{c.Coefficient, c.Medium}, []bound{{"heat-transfer coefficient", 0}, {"temperature of the fluid", 0}}, t, func(temperature float64, v []point) (c, d float64) {
			h, medium := v[0], v[1]
			slope := h.slope*(medium.value-temperature) + h.value*medium.slope
			return h.value - slope, h.value*medium.value - slope*temperature
		})
		if err != nil {
			return err
		}
	}
	var w fem.Facet
	for k := range p.Mesh.Facets {
		if s.sumC[k] == ([4]float64{}) && s.sumD[k] == ([4]float64{}) {
			continue
		}
		w.Set(p.Mesh, &p.Mesh.Facets[k])
		fem.AddFacet(a, b, &p.Mesh.Facets[k], &w, &s.sumC[k], &s.sumD[k])
	}
	return nil
}

// point is a law at one point.
type point struct{ value, slope float64 }

// bound is what a law on a surface may not fall below.
type bound struct {
	what  string
	least float64
}

func (b bound) check(v float64) error {
	if !(v >= b.least) || math.IsInf(v, 0) {
		return &LawError{-1, b.what, v}
	}
	return nil
}

// condition computes the terms of one condition from its laws.
func (s *surface) condition(i int, facets []int32, list []Law, bounds []bound, t []float64, terms func(temperature float64, v []point) (c, d float64)) error {
	m := s.problem.Mesh
	at := newSampler(list, true)
	var w fem.Facet
	values := make([]point, len(list))
	const group = 64
	for lo := 0; lo < len(facets); lo += group {
		hi := min(lo+group, len(facets))
		at.reset()
		for _, k := range facets[lo:hi] {
			f := &m.Facets[k]
			w.Set(m, f)
			for q := range w.Points {
				at.add(w.At(q, f.Corners(), t), w.Place[q])
			}
		}
		list := at.run()
		n := 0
		for j, k := range facets[lo:hi] {
			points := len(m.Facets[k].Corners())
			for q := range points {
				for l := range list {
					values[l] = point{list[l].value[n], list[l].slope[n]}
					if err := bounds[l].check(values[l].value); err != nil {
						return err
					}
				}
				c, d := terms(at.in[0][n], values)
				s.c[i][lo+j][q], s.d[i][lo+j][q] = c, d
				s.sumC[k][q] += c
				s.sumD[k][q] += d
				n++
			}
		}
	}
	return nil
}

// entering sums what enters by each condition, W.
func (s *surface) entering(t []float64) (fluxes, convections []float64) {
	p := s.problem
	out := make([]float64, len(s.c))
	var w fem.Facet
	for i := range out {
		facets := p.facetsOf(i)
		for j, k := range facets {
			f := &p.Mesh.Facets[k]
			w.Set(p.Mesh, f)
			for q := range w.Points {
				out[i] += w.Area[q] * (s.d[i][j][q] - s.c[i][j][q]*w.At(q, f.Corners(), t))
			}
		}
	}
	return out[:len(p.Fluxes)], out[len(p.Fluxes):]
}

func (p *Problem) facetsOf(i int) []int32 {
	if i < len(p.Fluxes) {
		return p.Fluxes[i].Facets
	}
	return p.Convections[i-len(p.Fluxes)].Facets
}

// at sums what enters by all conditions around each node of a facet, W.
func (s *surface) at(k int32, w *fem.Facet, t []float64) (out [4]float64) {
	f := &s.problem.Mesh.Facets[k]
	for q := range w.Points {
		flow := w.Area[q] * (s.sumD[k][q] - s.sumC[k][q]*w.At(q, f.Corners(), t))
		for i := range w.Count {
			out[i] += w.Shape[q][i] * flow
		}
	}
	return out
}
