package solve

import (
	"context"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/frame"
)

// A hard solution is approached from an easier one, which is looked for up to mostEase times as easy; steps
// towards it become shorter where they fail, and in all there are easeTries of them. On the way solutions need
// be no better than easeTolerance, and what is not found in easeSteps is not looked for any longer. The start is
// good if startSteps lead below nearTolerance.
const (
	firstEase     = 4
	mostEase      = 1 << 14
	easeTries     = 24
	easeTolerance = 1e-2
	easeSteps     = 9
	startSteps    = 2
	nearTolerance = 1e-2
	slowSteps     = 150 // in artificial time
)

// easedOf are the kernels of a group whose equations can be made easier.
func (g *group) easedOf() (list []frame.Eased) {
	for _, p := range g.parts {
		if k, ok := p.kernel.(frame.Eased); ok && !p.carriesFriction() {
			list = append(list, k)
		}
	}
	return list
}

// carriesFriction says that a flow carries along what its friction follows from: it begins with much of that, which eases it.
func (p *portion) carriesFriction() bool { return p.Paced && len(p.Fields) > 2 }

// easing approaches the solution of a group.
type easing struct {
	ctx       context.Context
	group     *group
	kernels   []frame.Eased
	steps     int
	residuals []float64
}

// try solves with some factor, and counts.
func (e *easing) try(factor float64, set couple.SolveSettings) (*couple.Solution, error) {
	for _, k := range e.kernels {
		k.Ease(factor)
	}
	s, err := e.group.Solve(e.ctx, e.group.kernel, &set)
	if err == nil {
		e.steps, e.residuals = e.steps+s.Steps, append(e.residuals, s.Residuals...)
		s.Steps, s.Residuals = e.steps, e.residuals
	}
	return s, err
}

// over says that nothing is left to be tried.
func (e *easing) over(s *couple.Solution, err error) bool {
	return err != nil || s.Settled || e.ctx.Err() != nil
}

// eased solves a group whose equations may be hard. What acts on each other is first found one after the other,
// so that what is carried along begins where it is carried.
func (r *run) eased(ctx context.Context, g *group, set *couple.SolveSettings, kernels []frame.Eased) (*couple.Solution, error) {
	e := &easing{ctx: ctx, group: g, kernels: kernels}
	defer func() {
		for _, k := range kernels {
			k.Ease(1)
		}
	}()
	begun := *set
	if len(g.parts) > 1 && set.From == nil {
		for _, p := range e.order() {
			one := begun
			one.Tolerance = easeTolerance
			for k := range p.Fields {
				one.Only = append(one.Only, p.field+k)
			}
			if one.From == nil {
				one.From = g.Begun(g.kernel, set.Given).State.U
			}
			s, err := e.approach(one)
			if err != nil || ctx.Err() != nil {
				return s, err
			}
			if s.Settled {
				begun.From = s.State.U
			}
		}
	}
	return e.approach(begun)
}

// order lists the parts of the group, those that can be made easier first.
func (e *easing) order() []*portion {
	list := slices.Clone(e.group.parts)
	slices.SortStableFunc(list, func(p, q *portion) int {
		rank := func(p *portion) int {
			if _, ok := p.kernel.(frame.Eased); ok {
				return 0
			}
			return 1
		}
		return rank(p) - rank(q)
	})
	return list
}

// approach solves from a start at first, and if that does not lead near to a solution soon by way of easier problems, or
// of an artificial time.
func (e *easing) approach(set couple.SolveSettings) (*couple.Solution, error) {
	first := set
	first.MaxSteps = startSteps
	failed, err := e.try(1, first)
	if e.over(failed, err) {
		return failed, err
	}
	if failed.Fault == nil && e.residuals[len(e.residuals)-1] < nearTolerance { // it is on its way
		near := set
		near.From, near.MaxSteps = failed.State.U, easeSteps
		if s, err := e.try(1, near); e.over(s, err) {
			return s, err
		}
	}
	// What heat moves has no easier problem on the way: it comes about in time.
	ways := []func(couple.SolveSettings) (*couple.Solution, error){e.step, e.slowly}
	switch {
	case set.Paced != nil: // it has gone through one already
		ways = ways[:1]
	case len(e.group.parts) > 1:
		slices.Reverse(ways)
	}
	for _, way := range ways {
		s, err := way(set)
		if s == nil && err == nil {
			continue
		}
		if e.over(s, err) {
			return s, err
		}
		if s.Period > 0 {
			failed = s // it says why
		}
	}
	return failed, nil
}

// slowly solves by way of an artificial time.
func (e *easing) slowly(set couple.SolveSettings) (*couple.Solution, error) {
	set.Inertia, set.MaxSteps = e.kernels[0].Inertia(), slowSteps
	return e.try(1, set)
}

// step goes by way of easier problems; nil if these lead nowhere.
func (e *easing) step(set couple.SolveSettings) (*couple.Solution, error) {
	rough := set
	rough.MaxSteps, rough.Tolerance = easeSteps, easeTolerance
	factor, reached, step := float64(firstEase), 0.0, float64(firstEase)
	for range easeTries {
		now := rough
		if factor == 1 {
			now.MaxSteps, now.Tolerance = set.MaxSteps, set.Tolerance
		}
		s, err := e.try(factor, now)
		if err != nil || e.ctx.Err() != nil || s.Settled && factor == 1 {
			return s, err
		}
		switch {
		case s.Settled:
			reached, rough.From = factor, s.State.U
			factor = max(1, factor/step)
		case reached == 0:
			if factor *= firstEase; factor > mostEase {
				return nil, nil
			}
		default:
			step = math.Sqrt(step)
			if factor = max(1, reached/step); step < 1.02 {
				return nil, nil
			}
		}
	}
	return nil, nil
}
