package couple

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
	kept     map[int32]bool      // facets on which the field is held
	// By node the shares of all facets where it is not known what passes: those on the
	// outside, where the field is held, and those to other bodies.
	outside, within map[int32]float64
}

// given says that what passes a facet is what conditions say.
func (f *flow) given(s *Solution, facet int32) bool {
	return s.Mesh.Facets[facet].Other < 0 && !f.kept[facet]
}

// leaves is what leaves the bodies at a node where it is not known through which facet.
func (f *flow) leaves(node, equation int32) float64 { return -f.residual[equation] - f.known[node] }

// parted divides what leaves the bodies at a node between the outside, where the field is
// held, and other bodies. Where no other body has a held facet at the node, all that the
// held value brings in there passes those of these bodies, which matters where the flux is
// singular at the end of a held patch.
func (f *flow) parted(all func() (*flow, error), joined map[int32]bool, node, equation int32) (outside, within float64, err error) {
	leaves := f.leaves(node, equation)
	mine, next := f.outside[node], f.within[node]
	switch {
	case mine == 0:
		return 0, leaves, nil
	case next == 0:
		return leaves, 0, nil
	case joined[node]:
		// Across a joint the other body has nodes of its own: by areas.
		outside = leaves * mine / (mine + next)
	default:
		everything, err := all()
		if err != nil {
			return 0, 0, err
		}
		outside = everything.leaves(node, equation)
		if everything.outside[node] > mine*(1+1e-9) {
			outside = leaves // bodies beside each other, each with what it conducts
		}
	}
	return outside, leaves - outside, nil
}

// Through returns what of a field's conserved quantity leaves the given bodies
// through facets of theirs. It is consistent with the discrete equations: what
// conditions bring in is integrated as it was assembled, and what passes to other
// bodies or to held values is the residual of the equations of these bodies alone. At
// a node that several such surfaces share, it is divided by their areas there.
func (s *Solution) Through(field int, facets []int32, bodies map[int32]bool, k fem.Kernel) (float64, error) {
	w, err := s.flowOf(field, bodies, k)
	if err != nil {
		return 0, err
	}
	all := func() (*flow, error) { return s.flowOf(field, nil, k) }
	var out float64
	var held, open []fem.Side
	for _, f := range facets {
		m := &s.Mesh.Facets[f]
		inside, beyond := bodies[m.Body], m.Other >= 0 && bodies[m.OtherBody]
		switch {
		case inside == beyond:
		case w.given(s, f):
			for _, q := range w.sides[f] {
				out += q
			}
		case m.Other < 0:
			held = append(held, s.seen(f, bodies))
		default:
			open = append(open, s.seen(f, bodies))
		}
	}
	for i, sides := range [][]fem.Side{held, open} {
		if len(sides) == 0 {
			continue
		}
		part, err := s.System.Shares(sides, field)
		if err != nil {
			return 0, err
		}
		for v, share := range part {
			e := s.System.Equation(field, 0, v)
			if e < 0 {
				continue
			}
			outside, within, err := w.parted(all, s.joined(), v, e)
			if err != nil {
				return 0, err
			}
			if i == 0 {
				out += outside * share / w.outside[v]
			} else {
				out += within * share / w.within[v]
			}
		}
	}
	return out, nil
}

// joined are the nodes on joints.
func (s *Solution) joined() map[int32]bool {
	if s.onJoints == nil {
		s.onJoints = map[int32]bool{}
		for _, k := range s.Joints {
			for _, side := range []fem.Side{s.sides[k], s.beyond(k)} {
				for _, v := range s.System.Grid.SideNodes(side) {
					s.onJoints[v] = true
				}
			}
		}
	}
	return s.onJoints
}

// flowOf returns the flows of a field out of some bodies, nil for all, which readings of
// one state share.
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
	key := fmt.Sprint(field, bodies == nil, names)
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
	in := func(body int32) bool { return bodies == nil || bodies[body] }
	var held, open []fem.Side
	for f := range int32(len(s.Mesh.Facets)) {
		m := &s.Mesh.Facets[f]
		switch {
		case w.given(s, f) || in(m.Body) == (m.Other >= 0 && in(m.OtherBody)):
		case m.Other < 0:
			held = append(held, s.sides[f])
		default:
			open = append(open, s.seen(f, bodies))
		}
	}
	if w.outside, err = s.System.Shares(held, field); err != nil {
		return nil, err
	}
	if w.within, err = s.System.Shares(open, field); err != nil {
		return nil, err
	}
	for f, list := range w.sides {
		if !in(s.Mesh.Facets[f].Body) || !w.given(s, f) {
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
