package solve

import (
	"context"
	"errors"

	"saltkettle/core/couple"
	"saltkettle/core/frame"
	"saltkettle/core/law"
)

// What bends far is led to all of its loads part by part: a part is looked for in rampSteps of Newton's method to
// rampTolerance, and if it is not found, half as much more is tried, down to leastPart. Where few steps are enough, the
// next part is larger.
const (
	rampSteps     = 14
	rampTolerance = 1e-5
	leastPart     = 1. / 1024
	fewSteps      = 6
	rampGrows     = 2
	// bendsDirect is up to how many unknowns what bends far is solved for by factorisations, of which the length of a step
	// of Newton's method can be judged.
	bendsDirect = 150000
)

// ramp is the kernel of a group whose loads may act in part, if its equations are not linear; nil if there is none.
func (g *group) ramp() frame.Ramped {
	k, ok := g.parts[0].kernel.(frame.Ramped)
	if !ok || len(g.parts) > 1 || g.parts[0].kernel.Straight() {
		return nil
	}
	return k
}

// ramped solves a group by way of parts of its loads.
func (r *run) ramped(ctx context.Context, g *group, set *couple.SolveSettings, kernel frame.Ramped) (*couple.Solution, error) {
	act := func(part float64) {
		kernel.Ramp(part)
		g.Part = part
	}
	defer act(1)
	var last, before *couple.Solution
	reached, earlier, step := 0.0, 0.0, 1.0
	steps, parts := 0, 0
	var residuals []float64
	for {
		part := min(1, reached+step)
		now := *set
		now.MaxSteps, now.Bold = rampSteps, true
		if now.Tolerance = rampTolerance; part == 1 {
			now.Tolerance = set.Tolerance
			now.MaxSteps = 2 * rampSteps
		}
		if last != nil {
			now.From = ahead(before, last, earlier, reached, part)
		}
		act(part)
		s, err := g.Solve(ctx, g.kernel, &now)
		if bad := (*law.Error)(nil); errors.As(err, &bad) {
			s, err = g.Begun(g.kernel, set.Given), nil // so far at once cells turn inside out
			s.Fault = bad
		}
		if err != nil {
			return s, err
		}
		steps, residuals = steps+s.Steps, append(residuals, s.Residuals...)
		used := s.Steps
		s.Steps, s.Residuals = steps, residuals
		if ctx.Err() != nil || s.Settled && part == 1 {
			if parts > 0 && s.Settled {
				r.note("What bends far was led to all of its loads in %d parts.", parts+1)
			}
			return s, nil
		}
		if s.Settled {
			before, earlier = last, reached
			last, reached = s, part
			parts++
			if used <= fewSteps {
				step *= rampGrows
			}
			continue
		}
		if step = (part - reached) / 2; step < leastPart {
			if last != nil {
				s.State.U = last.State.U
			}
			s.Settled = false
			r.warn("no shape was found at which more than %.3g %% of the loads are borne: beyond that the device may buckle or snap", 100*reached)
			return s, nil
		}
	}
}

// ahead is where the last two parts of the way lead to.
func ahead(before, last *couple.Solution, earlier, reached, part float64) []float64 {
	out := append([]float64(nil), last.State.U...)
	if before == nil {
		for i := range out {
			out[i] *= part / reached
		}
		return out
	}
	by := (part - reached) / (reached - earlier)
	for i, v := range before.State.U {
		out[i] += by * (out[i] - v)
	}
	return out
}
