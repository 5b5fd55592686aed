package solve

import (
	"context"
	"math"

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
)

// easedOf are the kernels of a group whose equations can be made easier.
func (g *group) easedOf() (list []frame.Eased) {
	for _, p := range g.parts {
		if k, ok := p.kernel.(frame.Eased); ok {
			list = append(list, k)
		}
	}
	return list
}

// eased solves a group whose equations may be hard: from its start at first, and if that does not lead near to a
// solution soon by way of easier problems.
func (r *run) eased(ctx context.Context, g *group, set *couple.SolveSettings, kernels []frame.Eased) (*couple.Solution, error) {
	ease := func(factor float64) {
		for _, k := range kernels {
			k.Ease(factor)
		}
	}
	defer ease(1)
	var steps int
	var residuals []float64
	try := func(factor float64, set couple.SolveSettings) (*couple.Solution, error) {
		ease(factor)
		s, err := g.Solve(ctx, g.kernel, &set)
		if err == nil {
			steps, residuals = steps+s.Steps, append(residuals, s.Residuals...)
			s.Steps, s.Residuals = steps, residuals
		}
		return s, err
	}
	first := *set
	first.MaxSteps = startSteps
	failed, err := try(1, first)
	if err != nil || failed.Settled || failed.Fault != nil || ctx.Err() != nil {
		return failed, err
	}
	rough, last := *set, *set
	rough.MaxSteps, rough.Tolerance = easeSteps, easeTolerance
	if residuals[len(residuals)-1] < nearTolerance { // it is on its way
		near := *set
		near.From, near.MaxSteps = failed.State.U, easeSteps
		if s, err := try(1, near); err != nil || s.Settled || ctx.Err() != nil {
			return s, err
		}
	}
	factor, reached, step := float64(firstEase), 0.0, float64(firstEase)
	for range easeTries {
		now := rough
		if factor == 1 {
			now = last
		}
		s, err := try(factor, now)
		if err != nil || ctx.Err() != nil || s.Settled && factor == 1 {
			return s, err
		}
		switch {
		case s.Settled:
			reached, rough.From, last.From = factor, s.State.U, s.State.U
			factor = max(1, factor/step)
		case reached == 0:
			if factor *= firstEase; factor > mostEase {
				return failed, nil
			}
		default:
			step = math.Sqrt(step)
			if factor = max(1, reached/step); step < 1.02 {
				return failed, nil
			}
		}
	}
	return failed, nil
}
