package solve

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
)

// march follows the model through time, with the readings at every step and the
// fields at some.
func (r *run) march(ctx context.Context, set couple.SolveSettings) error {
	g := r.posed.groups[r.posed.marching]
	start, err := r.starts()
	if err != nil {
		return err
	}
	signals, err := r.newSignals()
	if err != nil {
		return err
	}
	r.signals, r.account, r.followed = *signals, account{}, followed{}
	resume, err := r.takeUp()
	if err != nil {
		return err
	}
	m := &couple.MarchSettings{SolveSettings: set, End: r.model.End, Tolerance: r.model.Tolerance, Longest: r.longest(), Start: start, GoesOn: r.model.From > 0,
		Breaks: r.signals.breaks, Missed: r.missed, Resume: resume}
	if r.opt.Checkpoints > 0 && r.opt.Dir != "" && !r.quiet {
		m.Checkpoint = r.checkpoint
	}
	var failed error
	fail := func(err error) bool {
		failed = errors.Join(failed, err)
		return failed != nil
	}
	m.Jump = r.jump
	if r.model.Until != nil && !r.quiet {
		m.Locate = func(s *couple.Solution, step *fem.Step) (float64, bool) {
			at, ends, err := r.locate(s, step)
			return at, fail(err) || ends
		}
	}
	m.Moment = func(s *couple.Solution, step *fem.Step) bool {
		r.take(s)
		r.checkpoints.march = nil // it is not what has been followed any more
		if step != nil {
			r.signals.accept()
			r.book()
		}
		if r.quiet && !r.follows() {
			r.report(Event{Nodes: r.mesh.NodeCount(), Cells: r.mesh.CellCount(), Time: s.State.Time, End: r.model.End})
			return false
		}
		if fail(r.between(step)) || !r.quiet && fail(r.frame(step)) {
			return true
		}
		r.glimpse(Event{Time: s.State.Time, End: r.model.End}, r.followed.last)
		return false
	}
	s, err := g.March(ctx, g.kernel, m)
	if err != nil || failed != nil {
		return errors.Join(err, failed)
	}
	r.take(s)
	if ctx.Err() != nil {
		r.leave() // it can go on from there
		return nil
	}
	if r.model.Until == nil || r.quiet {
		return nil
	}
	if r.result.Ended == nil {
		r.warn("the condition that ends the run, %s, did not come to hold before its end at %s", r.model.Document.Run.Until, quantity.Show(r.model.End, "s", false, 4))
	}
	if r.moments() > 0 && r.result.History != nil && last(r.surface.Moments) < last(r.result.History.Times) {
		return r.keep(s.State, last(r.result.History.Times))
	}
	return nil
}

func last(list []float64) float64 { return list[len(list)-1] }

// longest is that of the steps: as the model says, or else a part of the time if anything
// changes in it that is not straight from break to break.
func (r *run) longest() float64 {
	if r.model.Longest > 0 {
		return r.model.Longest
	}
	if slices.ContainsFunc(r.signals.list, func(g *signal) bool { return g.bends }) {
		return r.model.End / signalFall
	}
	return 0
}

// At how many moments of a run readings are taken at least, more of them where a reading is
// over time, and how soon after a jump, as a part of a step.
const (
	leastMoments = 60.
	closeMoments = 240.
	afterJump    = 1e-3
)

// between takes the readings at moments within a step, so that the curve over time is
// smooth, and at its end.
func (r *run) between(step *fem.Step) error {
	if step != nil {
		most := leastMoments
		if r.follows() {
			most = closeMoments
		}
		n := int(math.Ceil(most * (step.To - step.From) / r.model.End))
		var parts []float64
		if step.RateBefore == nil && step.From > 0 {
			parts = append(parts, afterJump) // readings may jump where data do
		}
		for i := 1; i < n; i++ {
			parts = append(parts, float64(i)/float64(n))
		}
		for _, part := range parts {
			at := r.solution().Within(step, step.From+(step.To-step.From)*part)
			if err := r.at(at, func() error { return r.follow(at.Time) }); err != nil {
				return err
			}
		}
	}
	if step != nil {
		return r.follow(step.To)
	}
	return r.follow(0)
}

// follow takes the readings as those of a time, into the history and for what is over time.
func (r *run) follow(time float64) error {
	r.moment = time
	h := r.result.History
	if h == nil && !r.quiet {
		h = &result.History{Readings: map[string]result.Values{}}
		r.result.History = h
	}
	return r.aside(func() {
		r.followed.add(time, r.result.Readings)
		r.followed.last = append(r.followed.last[:0], r.result.Readings...)
		if r.quiet {
			return
		}
		h.Times = append(h.Times, time)
		for _, q := range r.result.Readings {
			h.Readings[q.Key] = append(h.Readings[q.Key], q.Shown.Value)
		}
	})
}

// aside takes the readings of a moment, for a look at them alone.
func (r *run) aside(look func()) error {
	warnings := len(r.result.Warnings)
	r.passing = true
	err := r.read()
	r.passing = false
	if err != nil {
		return fmt.Errorf("at %.4g s: %w", r.solution().State.Time, err)
	}
	look()
	r.result.Readings, r.result.Warnings = r.result.Readings[:0], r.result.Warnings[:warnings]
	return nil
}

// asked returns what the condition that ends the run is about: the readings, SI, not
// numbers where they could not be read, and the time.
func (r *run) asked() (now []float64, err error) {
	err = r.aside(func() {
		for i := range r.model.Readings {
			v, ok := r.valueOf(r.model.Readings[i].ID)
			if !ok {
				v = math.NaN()
			}
			now = append(now, v)
		}
	})
	return append(now, r.solution().State.Time), err
}

// locate finds when within a step the condition that ends the run comes to hold.
func (r *run) locate(s *couple.Solution, step *fem.Step) (at float64, ends bool, err error) {
	r.take(s)
	until := r.model.Until
	before := r.lastAsked
	now, err := r.asked()
	if err != nil || before != nil && until.At(before...) == 1 {
		return step.To, err == nil, err // it holds from the start
	}
	if until.At(now...) != 1 {
		r.lastAsked = now
		return 0, false, nil
	}
	if before == nil {
		if err := r.at(s.Within(step, step.From), func() error { before, err = r.asked(); return err }); err != nil {
			return 0, false, err
		}
	}
	// Where it comes to hold on straight lines between what the readings are at both ends,
	// which then come closer.
	from, to := step.From, step.To
	for range 12 {
		f := crossing(until, before, now)
		next := from + f*(to-from)
		// A little beyond it, so that both ends move.
		next = min(max(next+1e-3*(to-from), from+1e-2*(to-from)), to-1e-2*(to-from))
		if to-from < 1e-7*(step.To-step.From) {
			break
		}
		var mid []float64
		if err := r.at(s.Within(step, next), func() error { mid, err = r.asked(); return err }); err != nil {
			return 0, false, err
		}
		if until.At(mid...) == 1 {
			to, now = next, mid
		} else {
			from, before = next, mid
		}
	}
	to = from + crossing(until, before, now)*(to-from)
	r.result.Ended = &result.Ended{Condition: r.model.Document.Run.Until, At: to}
	return to, true, nil
}

// crossing is the part of the way from one set of values to another after which a condition
// holds.
func crossing(until *formula.Program, before, now []float64) float64 {
	at := make([]float64, len(now))
	lo, hi := 0.0, 1.0
	for range 50 {
		f := (lo + hi) / 2
		for i := range at {
			at[i] = (1-f)*before[i] + f*now[i]
		}
		if until.At(at...) == 1 {
			hi = f
		} else {
			lo = f
		}
	}
	return hi
}

// starts says what the fields that change are when time begins: as sentences say, then as the run says that
// this one goes on from, then as the model says of the field that it is asked for, and otherwise nothing.
func (r *run) starts() (func(field, component int, body int32, x [][3]float64, out []float64) error, error) {
	var earlier *result.Earlier
	if r.model.From > 0 {
		var err error
		if earlier, err = r.earlier(); err != nil {
			return nil, err
		}
	}
	begins := map[int]*begin{}
	for _, p := range r.posed.groups[r.posed.marching].parts {
		for k := range p.Fields {
			if !p.Fields[k].Changes {
				continue
			}
			b := &begin{run: r, part: p, field: &p.Fields[k], laws: make([]*frame.Start, len(r.owner)), earlier: earlier}
			begins[p.field+k] = b
			for i := range p.Starts {
				c := &p.Starts[i]
				if c.Field != k {
					continue
				}
				for _, body := range r.site().BodiesOf(c.Sentence.On) {
					b.laws[body] = c
				}
			}
			if earlier == nil || earlier.Has(b.name(0)) {
				continue
			}
			if p.PhysicsKind.Changes {
				return nil, wrong("run/from", "choose another run", "this run cannot go on from run #%d: it did not solve for the %s", r.model.From, b.name(0))
			}
			b.earlier = nil
			if !r.quiet {
				r.warn("run #%d, from which this one goes on, has no %s: it begins with none", r.model.From, b.field.Name)
			}
		}
	}
	return func(field, component int, body int32, x [][3]float64, out []float64) error {
		return begins[field].at(component, body, x, out)
	}, nil
}

// begin is how a field begins.
type begin struct {
	run     *run
	part    *portion
	field   *frame.Field
	laws    []*frame.Start // by body
	earlier *result.Earlier
}

// name is that of a component in results.
func (b *begin) name(c int) string { return component(b.field, c) }

// at sets out to a component at places in a body.
func (b *begin) at(component int, body int32, x [][3]float64, out []float64) error {
	r, kind := b.run, &b.part.PhysicsKind
	if c := b.laws[body]; c != nil {
		return startBy(c, cmp.Or(kind.Start.Label, b.field.Name), x, out)
	}
	for i := range out {
		if out[i] = b.field.Start; b.field.StartAt != nil {
			out[i] = b.field.StartAt(x[i])
		}
		if kind.Changes {
			out[i] = r.model.Start
		}
	}
	if b.earlier == nil {
		return nil
	}
	part := r.site().Part(body)
	missing, err := b.earlier.At(b.name(component), part.ID, x, out)
	if err != nil {
		return wrong("run/from", "choose another run", "this run cannot go on from run #%d: %v", r.model.From, err)
	}
	if missing > 0 && kind.Changes && r.model.Start == 0 {
		return wrong("run/start", "say the "+kind.Start.Label+" of what it did not have", "run #%d, from which this one goes on, has no %s for the %s", r.model.From, b.name(component), part.Name)
	}
	if missing > 0 && !r.quiet && component == 0 {
		begins := "nothing"
		if kind.Changes {
			begins = quantity.Show(r.model.Start, kind.Start.Unit, false, 4)
		}
		r.warn("%d of %d places of the %s were not in run #%d: they begin at %s", missing, len(x), r.bodyName(body), r.model.From, begins)
	}
	return nil
}

// startBy sets a field by a law of the place.
func startBy(c *frame.Start, what string, x [][3]float64, out []float64) error {
	points := make([]fem.Point, len(x))
	for i := range x {
		points[i].X = x[i]
	}
	set := law.NewSet(c.Value)
	set.Run(points, -1)
	for i := range out {
		v := set.At(0, i)
		if c.Positive && !(v > 0) || math.IsInf(v, 0) || math.IsNaN(v) {
			return &law.Error{Body: -1, What: what, Value: v}
		}
		out[i] = v
	}
	return nil
}
