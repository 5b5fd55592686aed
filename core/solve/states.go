package solve

import (
	"context"
	"errors"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/law"
)

// states are the solutions of the groups of a run. Those of the groups after the one that
// goes through time are found when they are asked for.
type states struct {
	of []*couple.Solution
	// fresh is how many of them belong to the present state of the one that goes through time.
	fresh int
}

// solution is that of the group that goes through time, or of the first one.
func (r *run) solution() *couple.Solution { return r.states.of[r.posed.marching] }

// take takes a solution of the group that goes through time.
func (r *run) take(s *couple.Solution) {
	for len(r.states.of) < len(r.posed.groups) {
		r.states.of = append(r.states.of, nil)
	}
	r.states.of[r.posed.marching] = s
	r.states.fresh = r.posed.marching + 1
}

// solutionOf is the solution of the group of a part.
func (r *run) solutionOf(p *portion) (*couple.Solution, error) { return r.solutionAt(p.group) }

// solutionAt is that of a group, by its number.
func (r *run) solutionAt(n int) (*couple.Solution, error) {
	for ; r.states.fresh <= n; r.states.fresh++ {
		// What follows belongs to the moment that was reached, also where the run was stopped.
		s, err := r.solveGroup(context.WithoutCancel(r.ctx), r.states.fresh, nil)
		if err != nil {
			return nil, err
		}
		r.states.of[r.states.fresh] = s
	}
	return r.states.of[n], nil
}

// errNotReached is why there is no reading of a group that was never solved.
var errNotReached = errors.New("what it follows from was not solved")

// readable is the solution of a group, if there is one to be read.
func (r *run) readable(n int) (*couple.Solution, error) {
	s, err := r.solutionAt(n)
	if err == nil && s.Method == "" && !s.Settled && !r.model.Document.Transient() {
		err = errNotReached
	}
	return s, err
}

// given are the fields that other groups have found so far.
func (r *run) given(n int) [][]float64 {
	list := make([][]float64, len(r.posed.ground.Fields))
	for _, p := range r.posed.parts {
		for k := range p.Fields {
			if p.group != n && p.group < len(r.states.of) && r.states.of[p.group] != nil {
				list[p.field+k] = r.states.of[p.group].Nodal(p.field + k)
			}
		}
	}
	return list
}

// viewer is the solution that has all fields that a quantity needs.
func (r *run) viewer(programs ...*formula.Program) (*couple.Solution, error) {
	n := 0
	for _, p := range r.posed.parts {
		for v := p.first; v < p.first+len(p.Derived); v++ {
			if slices.ContainsFunc(programs, func(q *formula.Program) bool { return q.Uses(v) }) {
				n = max(n, p.group)
			}
		}
	}
	for v := range law.Variables {
		part, _ := r.posed.solvesFor(law.Variables[v].Name)
		if part != nil && slices.ContainsFunc(programs, func(q *formula.Program) bool { return q.Uses(v) }) {
			n = max(n, part.group)
		}
	}
	return r.readable(n)
}

// at does something with another state as that of the group that goes through time.
func (r *run) at(state *fem.State, do func() error) error {
	s := r.solution()
	now := s.State
	s.State, r.states.fresh = state, r.posed.marching+1
	err := do()
	s.State, r.states.fresh = now, r.posed.marching+1
	return err
}

// settled says that all groups are solved.
func (r *run) settled() bool {
	return !slices.ContainsFunc(r.states.of, func(s *couple.Solution) bool { return s != nil && !s.Settled })
}
