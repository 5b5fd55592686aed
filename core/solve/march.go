package solve

import (
	"context"
	"fmt"
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/physics/coupled"
	"saltkettle/core/physics/law"
	"saltkettle/core/result"
)

// frames is how many moments of a run in time are kept as fields.
const frames = 25

// moment is the fields at a time.
type moment struct {
	time   float64
	values []result.Field
}

// march follows the model through time, with the readings at every step and the
// fields at some.
func (r *run) march(ctx context.Context, set coupled.SolveSettings) error {
	start, err := r.starts()
	if err != nil {
		return err
	}
	m := &coupled.MarchSettings{SolveSettings: set, End: r.model.End, Tolerance: r.model.Tolerance, Start: start}
	var failed error
	m.Moment = func(s *coupled.Solution) bool {
		r.solution = s
		if r.quiet {
			return false
		}
		r.report(Event{Nodes: r.mesh.NodeCount(), Cells: r.mesh.CellCount(), Time: s.State.Time, End: r.model.End})
		if failed = r.follow(); failed != nil {
			return true
		}
		r.frame()
		return false
	}
	s, err := r.posed.group.March(ctx, r.posed.kernel, m)
	if err != nil {
		return err
	}
	r.solution = s
	return failed
}

// frame keeps the fields at the moments that the last step has passed. They are evenly
// spread over the time, on the straight line between the states before and after.
func (r *run) frame() {
	now := moment{r.solution.State.Time, r.values()}
	if len(r.moments) == 0 {
		r.moments, r.before = append(r.moments, now), now
		return
	}
	for {
		at := r.model.End * float64(len(r.moments)) / (frames - 1)
		if at > now.time*(1+1e-9) {
			break
		}
		f := (at - r.before.time) / (now.time - r.before.time)
		m := moment{time: at}
		for i, v := range now.values {
			mixed := make([]float64, len(v.Values))
			for k := range mixed {
				mixed[k] = (1-f)*r.before.values[i].Values[k] + f*v.Values[k]
			}
			v.Values = mixed
			m.values = append(m.values, v)
		}
		r.moments = append(r.moments, m)
	}
	r.before = now
}

// starts returns the temperature when time begins.
func (r *run) starts() (func(body int32, x [3]float64) (float64, error), error) {
	laws := make([]law.Law, len(r.owner))
	for _, c := range r.posed.start {
		for _, b := range r.bodiesOf(c.On) {
			laws[b] = c.Laws["temperature"]
		}
	}
	sets := make([]*law.Set, len(laws))
	for b, l := range laws {
		if l != nil {
			sets[b] = law.NewSet(l)
		}
	}
	return func(body int32, x [3]float64) (float64, error) {
		set := sets[body]
		if set == nil {
			return r.model.Start, nil
		}
		set.Run([]fem.Point{{X: x}}, -1)
		v := set.At(0, 0)
		if !(v > 0) || math.IsInf(v, 0) {
			return 0, &law.Error{Body: -1, What: "temperature at the start", Value: v}
		}
		return v, nil
	}, nil
}

// follow takes the readings at a moment.
func (r *run) follow() error {
	h := r.result.History
	if h == nil {
		h = &result.History{Readings: map[string][]float64{}}
		r.result.History = h
	}
	h.Times = append(h.Times, r.solution.State.Time)
	warnings := len(r.result.Warnings)
	if err := r.read(); err != nil {
		return fmt.Errorf("at %.4g s: %w", r.solution.State.Time, err)
	}
	for _, q := range r.result.Readings {
		h.Readings[q.Key] = append(h.Readings[q.Key], q.Shown.Value)
	}
	r.result.Readings, r.result.Warnings = r.result.Readings[:0], r.result.Warnings[:warnings]
	return nil
}
