package solve

import (
	"context"
	"fmt"

	"saltkettle/core/couple"
	"saltkettle/core/sparse"
)

// How many turns groups may take to agree, and by how much of the largest value what they
// exchange may then still change.
const (
	mostTurns = 200
	agreed    = 1e-9
	// roughly is the residual to which groups are solved in the first turn, closer what part of the last change it
	// is in others.
	roughly = 1e-3
	closer  = 1e-2
)

// solveInTurn solves groups that act on each other one after the other, again and again, until
// they agree. What the last of them gives to the others is relaxed.
func (r *run) solveInTurn(ctx context.Context, turn [2]int, progress func(int, float64)) (settled bool, err error) {
	first, last := turn[0], turn[1]
	for n := first; n <= last; n++ {
		g := r.posed.groups[n]
		r.states.of = append(r.states.of, g.Begun(g.kernel, nil))
	}
	r.states.fresh = last + 1
	for n := first; n <= last; n++ {
		r.states.of[n].State.Given = r.given(n)
	}
	var relaxation couple.Relaxation
	relaxed := append([]float64(nil), r.states.of[last].State.U...)
	r.near = roughly
	defer func() { r.near = 0 }()
	for k := range mostTurns {
		for n := first; n <= last; n++ {
			s, err := r.solveGroup(ctx, n, progress)
			if err != nil {
				return false, err
			}
			if r.states.of[n] = s; !s.Settled {
				return false, nil
			}
		}
		s := r.states.of[last]
		change := relaxation.Next(relaxed, s.State.U)
		if change < agreed && r.near == 0 {
			s.Method += fmt.Sprintf(", in %d turns", k+1)
			return true, nil
		}
		// While they are far from each other none of them need be exact.
		if r.near = min(roughly, change*closer); r.near < agreed {
			r.near = 0
		}
		copy(s.State.U, relaxed)
		r.report(Event{Nodes: r.mesh.NodeCount(), Cells: r.mesh.CellCount(), Iteration: k + 1})
	}
	s := r.states.of[last]
	s.Settled, s.Straight, s.Linear.Status = false, true, sparse.LimitReached
	return false, nil
}
