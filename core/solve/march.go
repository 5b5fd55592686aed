package solve

import (
	"context"
	"fmt"
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/physics/coupled"
	"saltkettle/core/physics/law"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
)

// march follows the model through time, with the readings at every step and the
// fields at some.
func (r *run) march(ctx context.Context, set coupled.SolveSettings) error {
	start, err := r.starts()
	if err != nil {
		return err
	}
	m := &coupled.MarchSettings{SolveSettings: set, End: r.model.End, Tolerance: r.model.Tolerance, Start: start}
	var failed error
	var last []float64 // what the condition that ends the run was asked about
	m.Moment = func(s *coupled.Solution) bool {
		r.solution = s
		r.report(Event{Nodes: r.mesh.NodeCount(), Cells: r.mesh.CellCount(), Time: s.State.Time, End: r.model.End})
		if r.quiet {
			return false
		}
		var now []float64
		if now, failed = r.follow(); failed == nil {
			failed = r.frame()
		}
		if failed != nil {
			return true
		}
		ends := r.ends(last, now)
		last = now
		return ends
	}
	s, err := r.posed.group.March(ctx, r.posed.kernel, m)
	if err != nil {
		return err
	}
	r.solution = s
	if failed != nil || r.model.Until == nil {
		return failed
	}
	if r.result.Ended == nil {
		r.warn("the condition that ends the run, %s, did not come to hold before its end at %s", r.model.Document.Run.Until, quantity.Show(r.model.End, "s", false, 4))
	}
	if len(r.moments) > 0 && r.moments[len(r.moments)-1].time < s.State.Time {
		return r.keep(s.State)
	}
	return nil
}

// follow takes the readings at a moment. It returns their values, SI, and the time: what
// a condition may be about. Readings that could not be read are not numbers.
func (r *run) follow() ([]float64, error) {
	h := r.result.History
	if h == nil {
		h = &result.History{Readings: map[string][]float64{}}
		r.result.History = h
	}
	h.Times = append(h.Times, r.solution.State.Time)
	warnings := len(r.result.Warnings)
	if err := r.read(); err != nil {
		return nil, fmt.Errorf("at %.4g s: %w", r.solution.State.Time, err)
	}
	for _, q := range r.result.Readings {
		h.Readings[q.Key] = append(h.Readings[q.Key], q.Shown.Value)
	}
	var now []float64
	for i := range r.model.Readings {
		v, ok := r.readingValue(r.model.Readings[i].ID)
		if !ok {
			v = math.NaN()
		}
		now = append(now, v)
	}
	r.result.Readings, r.result.Warnings = r.result.Readings[:0], r.result.Warnings[:warnings]
	return append(now, r.solution.State.Time), nil
}

// ends says whether the condition that ends the run holds, and notes since when. A run
// does not end before its first step.
func (r *run) ends(before, now []float64) bool {
	until := r.model.Until
	if until == nil || before == nil || until.At(now...) != 1 {
		return false
	}
	// On straight lines between the readings of the two steps.
	at := make([]float64, len(now))
	held, lo, hi := now[len(now)-1], 0.0, 1.0
	for range 50 {
		f := (lo + hi) / 2
		for i := range at {
			at[i] = (1-f)*before[i] + f*now[i]
		}
		if until.At(at...) == 1 {
			hi, held = f, at[len(at)-1]
		} else {
			lo = f
		}
	}
	r.result.Ended = &result.Ended{Condition: r.model.Document.Run.Until, At: held, Time: now[len(now)-1]}
	return true
}

// starts returns what sets the temperature when time begins: where the run goes on from
// an earlier one that of its end, and what the model says elsewhere. A sentence about a
// part holds over both.
func (r *run) starts() (func(body int32, x [][3]float64, out []float64) error, error) {
	laws := make([]law.Law, len(r.owner))
	for _, c := range r.posed.start {
		for _, b := range r.bodiesOf(c.On) {
			laws[b] = c.Laws["temperature"]
		}
	}
	var earlier *result.Earlier
	if n := r.model.From; n > 0 {
		if r.opt.Earlier == nil {
			return nil, wrong("run/from", "give the folder of its result", "the result of run #%d, from which this one is to go on, is not at hand", n)
		}
		var err error
		if earlier, err = r.opt.Earlier(n); err != nil {
			return nil, wrong("run/from", "choose another run", "this run cannot go on from run #%d: %v", n, err)
		}
		if !earlier.Has("temperature") {
			return nil, wrong("run/from", "choose another run", "this run cannot go on from run #%d: it did not solve for the temperature", n)
		}
	}
	return func(body int32, x [][3]float64, out []float64) error {
		if laws[body] != nil {
			return startBy(laws[body], x, out)
		}
		for i := range out {
			out[i] = r.model.Start
		}
		if earlier == nil {
			return nil
		}
		p := &r.model.Parts[r.owner[body][0]]
		missing := earlier.At("temperature", p.ID, x, out)
		if missing > 0 && r.model.Start == 0 {
			return wrong("run/start", "say the temperature at the start of what it did not have", "run #%d, from which this one goes on, has no temperature for the %s", r.model.From, p.Name)
		}
		if missing > 0 && !r.quiet {
			r.warn("%d of %d places of the %s were not in run #%d: they begin at %s", missing, len(x), r.bodyName(body), r.model.From, quantity.Show(r.model.Start, "°C", false, 4))
		}
		return nil
	}, nil
}

// startBy sets temperatures by a law of the place.
func startBy(l law.Law, x [][3]float64, out []float64) error {
	points := make([]fem.Point, len(x))
	for i := range x {
		points[i].X = x[i]
	}
	set := law.NewSet(l)
	set.Run(points, -1)
	for i := range out {
		v := set.At(0, i)
		if !(v > 0) || math.IsInf(v, 0) {
			return &law.Error{Body: -1, What: "temperature at the start", Value: v}
		}
		out[i] = v
	}
	return nil
}
