package coupled

import (
	"fmt"
	"slices"

	"saltkettle/core/fem"
)

// flow is what [Solution.Through] needs of a field and some bodies, of one state.
type flow struct {
	residual []float64           // of the equations of these bodies alone
	sides    map[int32][]float64 // by facet and by its nodes: what conditions take out
	known    map[int32]float64   // by node: what leaves through facets with conditions
	whole    map[int32]float64   // by node: the shares of all facets where it is not known what passes
	kept     map[int32]bool      // facets on which the field is held
}

// given says that what passes a facet is what conditions say.
func (f *flow) given(s *Solution, facet int32) bool {
	return s.Mesh.Facets[facet].Other < 0 && !f.kept[facet]
}

// Through returns what of a field's conserved quantity leaves the given bodies
// through facets of theirs. It is consistent with the discrete equations: what
// conditions bring in is integrated as it was assembled, and what passes to other
// bodies or to held values is the residual of the equations of these bodies alone. At
// a node that several such surfaces share, the residual is divided by their areas
// there.
func (s *Solution) Through(field int, facets []int32, bodies map[int32]bool, k fem.Kernel) (float64, error) {
	w, err := s.flowOf(field, bodies, k)
	if err != nil {
		return 0, err
	}
	var out float64
	var open []fem.Side
	for _, f := range facets {
		m := &s.Mesh.Facets[f]
		inside, beyond := bodies[m.Body], m.Other >= 0 && bodies[m.OtherBody]
		switch {
		case inside == beyond:
		case w.given(s, f):
			for _, q := range w.sides[f] {
				out += q
			}
		default:
			open = append(open, s.seen(f, bodies))
		}
	}
	if len(open) == 0 {
		return out, nil
	}
	part, err := s.System.Shares(open, field)
	if err != nil {
		return 0, err
	}
	for v, share := range part {
		if e := s.System.Equation(field, 0, v); e >= 0 {
			out -= (w.residual[e] + w.known[v]) * share / w.whole[v]
		}
	}
	return out, nil
}

// flowOf returns the flows of a field out of some bodies, which readings of one state
// share.
func (s *Solution) flowOf(field int, bodies map[int32]bool, k fem.Kernel) (*flow, error) {
	if s.flows == nil || s.flowsAt != s.State.Time {
		s.flows, s.flowsAt = map[string]*flow{}, s.State.Time
	}
	var names []int32
	for b, in := range bodies {
		if in {
			names = append(names, b)
		}
	}
	slices.Sort(names)
	key := fmt.Sprint(field, names)
	if f := s.flows[key]; f != nil {
		return f, nil
	}
	w := &flow{kept: map[int32]bool{}, known: map[int32]float64{}}
	for _, h := range s.held {
		if h.field == field {
			for _, f := range h.Facets {
				w.kept[f] = true
			}
		}
	}
	var err error
	if w.sides, err = s.sideFlows(field, k); err != nil {
		return nil, err
	}
	if w.residual, err = s.System.ResidualOf(k, s.State, bodies); err != nil {
		return nil, err
	}
	var open []fem.Side
	for f := range int32(len(s.Mesh.Facets)) {
		m := &s.Mesh.Facets[f]
		if bodies[m.Body] != (m.Other >= 0 && bodies[m.OtherBody]) && !w.given(s, f) {
			open = append(open, s.seen(f, bodies))
		}
	}
	if w.whole, err = s.System.Shares(open, field); err != nil {
		return nil, err
	}
	for f, list := range w.sides {
		if !bodies[s.Mesh.Facets[f].Body] || !w.given(s, f) {
			continue
		}
		for i, v := range s.System.Grid.SideNodes(s.sides[f]) {
			w.known[v] += list[i]
		}
	}
	s.flows[key] = w
	return w, nil
}

// sideFlows returns, by facet and by its nodes, what conditions take out of a field.
func (s *Solution) sideFlows(field int, k fem.Kernel) (map[int32][]float64, error) {
	out := map[int32][]float64{}
	err := s.System.SideResiduals(k, s.State, field, func(number int, values []float64) {
		out[s.Facets[number]] = append([]float64(nil), values...)
	})
	return out, err
}
