package heat

import (
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/mesh"
)

// Through returns the heat that leaves the given bodies through facets of
// theirs, W. It is consistent with the discrete equations: given fluxes and
// convection are integrated as they were assembled, and what passes to other
// bodies or to held temperatures is the residual of the equations of these
// bodies alone. At a node that several such surfaces share, the residual is
// divided by their areas there.
func (s *Solution) Through(facets []int32, bodies map[int32]bool) float64 {
	m := s.Problem.Mesh
	wanted := make(map[int32]bool, len(facets))
	for _, k := range facets {
		wanted[k] = true
	}
	var out float64
	var w fem.Facet
	// nodes of wanted facets whose flow is not given: their share of the area.
	mine := map[int32]float64{}
	for _, k := range facets {
		f := &m.Facets[k]
		w.Set(m, f)
		if s.given(k) {
			for _, flow := range s.surface.at(k, &w, s.Temperature) {
				out -= flow
			}
			continue
		}
		for i, v := range f.Corners() {
			mine[v] += w.Share(i)
		}
	}
	if len(mine) == 0 {
		return out
	}
	total := make(map[int32]float64, len(mine))
	known := make(map[int32]float64, len(mine))
	for k := range m.Facets {
		f := &m.Facets[k]
		if !bodies[f.Body] && !bodies[f.OtherBody] || bodies[f.Body] && bodies[f.OtherBody] {
			continue
		}
		var flows [4]float64
		given := s.given(int32(k))
		w.Set(m, f)
		if given {
			flows = s.surface.at(int32(k), &w, s.Temperature)
		}
		for i, v := range f.Corners() {
			if _, ok := mine[v]; !ok {
				continue
			}
			if given {
				known[v] += flows[i]
			} else {
				total[v] += w.Share(i)
			}
		}
	}
	for v, share := range mine {
		// What enters these bodies at the node beyond what is known.
		out -= (s.residual(v, bodies) - known[v]) * share / total[v]
	}
	return out
}

// given says whether the flow through a facet follows from its own conditions.
func (s *Solution) given(k int32) bool {
	return s.Problem.Mesh.Facets[k].Other < 0 && !s.kept[k]
}

// residual is the heat that the cells of the given bodies at a node need from
// outside, W: conduction less source.
func (s *Solution) residual(v int32, bodies map[int32]bool) float64 {
	m := s.Problem.Mesh
	var w fem.Wedge
	var r float64
	for _, c := range s.space.CellsAt(v) {
		if !bodies[m.Body[c]] || w.Set(m, int(c)) != nil {
			continue
		}
		var k [36]float64
		var f [6]float64
		s.laws.cell(int(c), &w, s.Temperature, &k, &f)
		nodes := m.Cells[mesh.WedgeNodes*c : mesh.WedgeNodes*c+6]
		for i, u := range nodes {
			if u != v {
				continue
			}
			for j, x := range nodes {
				r += k[6*i+j] * s.Temperature[x]
			}
			r -= f[i]
		}
	}
	return r
}

// Extreme is a greatest or least temperature and the node that has it.
type Extreme struct {
	Value float64 // K
	Node  int32
}

// Extremes of the temperature over nodes; ok is false if there are none.
func (s *Solution) Extremes(nodes []int32) (least, greatest Extreme, ok bool) {
	least, greatest = Extreme{math.Inf(1), -1}, Extreme{math.Inf(-1), -1}
	for _, v := range nodes {
		t := s.Temperature[v]
		if t < least.Value {
			least = Extreme{t, v}
		}
		if t > greatest.Value {
			greatest = Extreme{t, v}
		}
	}
	return least, greatest, len(nodes) > 0
}
