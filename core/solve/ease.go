package solve

import (
	"context"
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/frame"
)

// A hard solution is approached from an easier one, which is looked for up to mostEase times as easy; steps
// towards it become shorter where they fail, and in all there are easeTries of them.
const (
	firstEase = 4
	mostEase  = 1 << 14
	easeTries = 24
)

// eased solves a group that was not solved from its start by way of easier problems; failed is what comes back
// if that does not succeed either.
func (r *run) eased(ctx context.Context, g *group, set *couple.SolveSettings, failed *couple.Solution) (*couple.Solution, error) {
	var list []frame.Eased
	for _, p := range g.parts {
		if k, ok := p.kernel.(frame.Eased); ok {
			list = append(list, k)
		}
	}
	if len(list) == 0 || failed.Fault != nil || set.MaxIterations > 0 {
		return failed, nil
	}
	ease := func(factor float64) {
		for _, k := range list {
			k.Ease(factor)
		}
	}
	defer ease(1)
	steps, residuals := failed.Steps, failed.Residuals
	factor, reached, step := float64(firstEase), 0.0, float64(firstEase)
	next := *set
	for range easeTries {
		if ctx.Err() != nil {
			return failed, nil
		}
		ease(factor)
		s, err := g.Solve(ctx, g.kernel, &next)
		if err != nil {
			return nil, err
		}
		steps, residuals = steps+s.Steps, append(residuals, s.Residuals...)
		switch {
		case s.Settled && factor == 1:
			s.Steps, s.Residuals = steps, residuals
			return s, nil
		case s.Settled:
			reached, next.From = factor, s.State.U
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
