package fem

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/sparse"
)

// TransientSettings of [System.March]. The zero value needs an End.
type TransientSettings struct {
	Newton NewtonSettings
	// End of the time, s, and the first step; 0 means a thousandth of the whole.
	End, FirstStep float64
	// LongestStep bounds the steps, s; 0 means no bound.
	LongestStep float64
	// Tolerance of the error of a step, relative to how far the values of the field have
	// been apart so far; 0 means 1e-4. Steps are chosen by it.
	Tolerance float64
	// FixedStep keeps the first step throughout.
	FixedStep bool
	MaxSteps  int // 0 means 100000
	// Changes says, by field, which have rates: errors are those of these. nil means all.
	// Second says which of these have rates of second order.
	Changes, Second []bool
	// Damping, if it is not nil, times the speeds of fields with rates of second order is among the residuals.
	Damping *sparse.CSR
	// Bound says that some of the equations of fields with rates have none themselves, so that what they
	// begin with is to be made such that these hold.
	Bound bool
	// Breaks are ascending times at which data jump or have a kink. Steps end there; on
	// either side of one, data are asked for at a time a little before or after it.
	Breaks []float64
	// Constrain sets the values of held unknowns at a time. It may be nil.
	Constrain func(time float64, c *Constraints)
	// Jump is called at the start and at breaks after held unknowns were given their
	// values of the time to come, with the state before. It may be nil.
	Jump func(before []float64) error
	// Missed returns how much of what is given within a step its stages miss, relative to
	// what is allowed: a step with more than 1 is made again, shorter. It may be nil.
	Missed func(s *Step) float64
	// Locate says that the march is to end within a step, and when. It may be nil.
	Locate func(s *Step) (at float64, ends bool)
	// Step is called after each step that was accepted; it may end the march by
	// returning true. It may be nil.
	Step func(s *Step) (stop bool)
	// Resume goes on from a checkpoint of a march with the same settings, nil from the
	// state that is given.
	Resume *Checkpoint
	// Checkpoint is called after each step but the last, when Jump has been called if the
	// state jumps there. It may be nil.
	Checkpoint func(c *Checkpoint)
}

// TransientResult counts the steps.
type TransientResult struct {
	Time               float64
	Accepted, Rejected int
}

// Step is a step in time with what it was made from. It is good until the next one.
type Step struct {
	From, To      float64
	Before, After []float64
	// Rates at both ends, see [State]; that at the beginning is nil after a start or a jump.
	RateBefore, RateAfter []float64
	// SpeedBefore and SpeedAfter are how fast fields with rates of second order change, nil if
	// there are none.
	SpeedBefore, SpeedAfter []float64
	Stages                  []Stage

	second []bool // by unknown
}

// Stage is a state whose rate counts in a step with a weight, s: the change of the state
// over the step is the sum of weights times rates.
type Stage struct {
	Time, Weight float64
	U, Rate      []float64
	// Speed is how fast fields with rates of second order change, nil if there are none.
	Speed []float64
	// Reaction is what held unknowns take up.
	Reaction []float64
}

// At sets out to the state at a time within the step: on the cubic with the values and
// slopes of both ends, or the parabola where there is no slope at the beginning, of the
// fields that have rates; straight between the values of the others.
func (s *Step) At(time float64, changes func(i int) bool, out []float64) {
	h := s.To - s.From
	x := (time - s.From) / h
	for i := range out {
		a, b := s.Before[i], s.After[i]
		switch {
		case !changes(i):
			out[i] = a + x*(b-a)
		case s.second != nil && s.second[i]:
			y := 1 - x
			out[i] = y*y*(1+2*x)*a + x*x*(3-2*x)*b + h*x*y*(y*s.SpeedBefore[i]-x*s.SpeedAfter[i])
		case s.RateBefore == nil:
			out[i] = b + (1-x)*((1-x)*(a-b+h*s.RateAfter[i])-h*s.RateAfter[i])
		default:
			y := 1 - x
			out[i] = y*y*(1+2*x)*a + x*x*(3-2*x)*b + h*x*y*(y*s.RateBefore[i]-x*s.RateAfter[i])
		}
	}
}

// ErrStepTooSmall says that the steps became too short to go on.
var ErrStepTooSmall = errors.New("the time steps became too short")

// shortestStep is the length of the shortest step, as a part of the whole time.
const shortestStep = 1e-12

// aside is by how much data are asked for before or after a break, as a part of the whole
// time.
const aside = 1e-11

// March follows a state through time by diagonally implicit Runge–Kutta methods of order
// 3, with steps chosen by the difference to a formula of order 2 (E. Hairer, G. Wanner,
// Solving Ordinary Differential Equations II, 1996, section IV.8). The error at the end
// falls with the tolerance.
//
// Fields with rates of second order, which begin at rest, are followed by the same methods: a
// stage has the speed v = (u − u₀)/γh and the rate a = (v − v₀)/γh, in which u₀ and v₀ are what
// the stages before give, so that the speeds are no unknowns of their own. They and fields with
// rates of first order may be in one system.
func (s *System) March(ctx context.Context, kernel Kernel, at *State, c *Constraints, set *TransientSettings) (*TransientResult, error) {
	m := &march{System: s, set: *set, at: at, c: c, kernel: kernel, fresh: true}
	if m.c == nil {
		m.c = s.NewConstraints()
	}
	if m.set.FirstStep == 0 {
		m.set.FirstStep = (m.set.End - at.Time) / 1000
	}
	if m.set.Tolerance == 0 {
		m.set.Tolerance = 1e-4
	}
	if m.set.MaxSteps == 0 {
		m.set.MaxSteps = 100000
	}
	if !(m.set.FirstStep > 0) {
		return nil, fmt.Errorf("a time step of %g s leads nowhere: the end must be after the start and the step positive", m.set.FirstStep)
	}
	if m.set.Newton.Linear == nil {
		m.set.Newton.Linear = (&Direct{Kind: m.set.Newton.Kind}).Solve
	}
	m.Time = at.Time
	m.span = m.set.End - m.Time
	m.at.Rate = make([]float64, s.N)
	m.field = s.FieldOf()
	if slices.Contains(m.set.Second, true) {
		m.second, m.speed = make([]bool, s.N), make([]float64, s.N)
		for i, f := range m.field {
			m.second[i] = m.set.Second[f]
		}
		at.RateSlopes = make([]float64, len(s.Fields))
	}
	for range s.Fields {
		m.ranges = append(m.ranges, span{math.Inf(1), math.Inf(-1)})
	}
	m.ranges = m.spans()
	m.set.Newton.Scale = make([]float64, len(s.Fields))
	if m.set.Resume != nil {
		if err := m.resume(m.set.Resume); err != nil {
			return nil, err
		}
	}
	if m.set.Newton.Straight && Timeless(kernel) {
		var err error
		if m.set.Newton.always, err = s.newTimeless(kernel, at); err != nil {
			return nil, err
		}
	}
	err := m.run(ctx)
	if err != nil { // what a step that failed had is no state
		m.at.Time, m.at.Rate = m.Time, m.last.Rate
		if m.at.Rate == nil {
			m.at.Rate = make([]float64, s.N)
		}
	}
	return &m.TransientResult, err
}

type march struct {
	System *System
	TransientResult
	set    TransientSettings
	kernel Kernel
	at     *State
	c      *Constraints
	span   float64 // of the time
	field  []int   // of each unknown
	ranges []span
	fresh  bool // the state has no past that the next step could go on from
	after  float64
	step   Step
	last   Stage // of the step before
	// Of fields with rates of second order: which unknowns these have, and their speeds.
	second []bool
	speed  []float64
	off    []setOff // by field, of the first step
}

// changes says whether an unknown has a rate.
func (m *march) changes(i int) bool { return m.set.Changes == nil || m.set.Changes[m.field[i]] }

// Bounds of how much longer or shorter the next step may be, the part of the step that the
// error would allow that is taken, and by how much it must differ for another length to
// be worth another matrix.
const (
	shorter, longer = 0.1, 4.0
	careful         = 0.85
	hardlyLonger    = 1.3
)

func (m *march) run(ctx context.Context) error {
	h, noted := m.set.FirstStep, m.Accepted
	for m.Time < m.set.End-shortestStep*m.span {
		if m.Accepted+m.Rejected >= m.set.MaxSteps {
			return fmt.Errorf("%w: %d steps were made", ErrStepTooSmall, m.set.MaxSteps)
		}
		end := m.end()
		if m.fresh {
			if err := m.jump(); err != nil {
				return err
			}
			if m.set.Bound {
				if err := m.bind(ctx); err != nil {
					return err
				}
			}
			if m.after > 0 && !m.set.FixedStep {
				h = m.after // what did after the break before
			}
		}
		if m.set.Checkpoint != nil && m.Accepted > noted {
			noted = m.Accepted
			m.set.Checkpoint(m.checkpoint(h))
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		to := m.target(h, end)
		failed, err := m.attempt(ctx, to, end)
		short := to-m.Time <= shortestStep*m.span
		if err != nil && (ctx.Err() != nil || m.set.FixedStep || short) {
			return err
		}
		if err != nil || failed > 1 && !m.set.FixedStep {
			m.Rejected++
			copy(m.at.U, m.step.Before)
			if short {
				return ErrStepTooSmall
			}
			h = (to - m.Time) * min(0.7, max(shorter, careful*math.Pow(failed, -1./3)))
			if err != nil {
				h = (to - m.Time) / 4
			}
			if m.fresh {
				m.after = h
			}
			continue
		}
		stop := false
		if m.set.Locate != nil {
			if at, ends := m.set.Locate(&m.step); ends {
				stop = true
				if at < to-aside*m.span && at > m.Time+shortestStep*m.span {
					copy(m.at.U, m.step.Before)
					if _, err := m.attempt(ctx, at, end); err != nil {
						return err
					}
				}
			}
		}
		wasFresh, length := m.fresh, m.step.To-m.Time
		m.accept(end)
		if m.set.Step != nil && m.set.Step(&m.step) || stop {
			return nil
		}
		if !m.set.FixedStep {
			grow := min(longer, max(shorter, careful*math.Pow(max(failed, 1e-9), -1./3)))
			if grow > 1 && grow < hardlyLonger {
				grow = 1
			}
			if wasFresh {
				m.after = length * min(grow, 1)
			}
			h = length * grow
		}
	}
	return nil
}

// end is the next break, or the end of the march.
func (m *march) end() float64 {
	for len(m.set.Breaks) > 0 && m.set.Breaks[0] <= m.Time+100*aside*m.span {
		m.set.Breaks = m.set.Breaks[1:]
	}
	if len(m.set.Breaks) > 0 && m.set.Breaks[0] < m.set.End-100*aside*m.span {
		return m.set.Breaks[0]
	}
	return m.set.End
}

// target is where a step of about a length should lead.
func (m *march) target(h, end float64) float64 {
	if m.set.LongestStep > 0 {
		h = min(h, m.set.LongestStep)
	}
	left := end - m.Time
	switch {
	case h >= left*(1-1e-9):
		return end
	case h > left/2 && !m.set.FixedStep:
		return m.Time + left/2
	}
	return m.Time + h
}

// dataTime is when data are asked for that hold at a time within a step: beside the ends
// of the step where these are breaks.
func (m *march) dataTime(t, end float64) float64 {
	beside := aside * m.span
	if m.fresh && t < m.Time+beside {
		return m.Time + beside
	}
	if t > end-beside {
		return end - beside
	}
	return t
}

// jump gives held unknowns their values after a break.
func (m *march) jump() error {
	before := append([]float64(nil), m.at.U...)
	if m.set.Constrain != nil {
		m.set.Constrain(m.dataTime(m.Time, math.Inf(1)), m.c)
	}
	for i, fixed := range m.c.Fixed {
		if fixed {
			m.at.U[i] = m.c.Value[i]
		}
	}
	m.ranges = m.spans()
	if m.set.Jump != nil {
		return m.set.Jump(before)
	}
	return nil
}

// bindingStep is the length of the step that binds a state, as a part of the whole time.
const bindingStep = 1e-9

// bind makes the state one in which equations without rates hold, such as that no fluid is made, as it may not be
// where values begin to be held: by a step so short that nothing else changes.
func (m *march) bind(ctx context.Context) error {
	rest := append([]float64(nil), m.at.U...)
	_, err := m.solve(ctx, m.dataTime(m.Time, math.Inf(1)), bindingStep*m.span, rest, rest)
	return err
}

// accept goes on to the end of the step.
func (m *march) accept(end float64) {
	s := &m.step
	m.Time = s.To
	m.Accepted++
	m.last = s.Stages[len(s.Stages)-1]
	m.ranges = m.spans()
	m.fresh = s.To == end && end < m.set.End
	if m.second != nil {
		m.speed, m.at.Speed = s.SpeedAfter, s.SpeedAfter
	}
	m.at.Time, m.at.Rate = s.To, s.RateAfter
}

// attempt makes a step and returns its error relative to what is allowed.
func (m *march) attempt(ctx context.Context, to, end float64) (failed float64, err error) {
	method := follower
	if m.fresh {
		method = starter
	}
	h := to - m.Time
	n := len(m.at.U)
	s := &m.step
	*s = Step{From: m.Time, To: to, Before: append([]float64(nil), m.at.U...), SpeedBefore: m.speed, second: m.second}
	rest := make([]float64, n) // of the rate: what does not depend on the state
	weights := method.weights()
	for i := range method.stages() {
		if i == 0 && method.explicit {
			first := m.last
			first.Weight = h * weights[0]
			s.Stages = append(s.Stages, first)
			s.RateBefore = first.Rate
			continue
		}
		t := m.dataTime(m.Time+method.c[i]*h, end)
		for k := range rest {
			rest[k] = s.Before[k]
		}
		for j, a := range method.a[i][:i] {
			for k, r := range s.Stages[j].Rate {
				if m.second == nil || !m.second[k] {
					rest[k] += h * a * r
				}
			}
		}
		var still []float64 // rest without what the speed at hand adds
		if m.second != nil {
			still = m.restOfSecond(method, i, rest)
		}
		if m.set.Damping != nil {
			m.set.Newton.damped = &damped{m.set.Damping, still, h * diagonal}
		}
		stage := Stage{Time: t, Weight: h * weights[i]}
		if stage.Reaction, err = m.solve(ctx, t, h*diagonal, rest, m.guess(method, i)); err != nil {
			copy(m.at.U, s.Before)
			return 0, err
		}
		stage.U, stage.Rate = append([]float64(nil), m.at.U...), append([]float64(nil), m.at.Rate...)
		if m.second != nil {
			stage.Speed = make([]float64, n)
			for k, v := range stage.U {
				if m.second[k] {
					stage.Speed[k] = (v - still[k]) / (h * diagonal)
				}
			}
		}
		s.Stages = append(s.Stages, stage)
	}
	end1 := &s.Stages[len(s.Stages)-1]
	s.After, s.RateAfter, s.SpeedAfter = end1.U, end1.Rate, end1.Speed
	failed = m.error(method)
	if m.set.Missed != nil && failed <= 1 {
		failed = max(failed, m.set.Missed(s))
	}
	return failed, nil
}

// restOfSecond gives the unknowns with rates of second order what the rates at a stage do not
// depend on: rest, from which they are (u − rest)/(γh)². It returns what their speeds, which are
// (u − still)/γh, do not depend on.
func (m *march) restOfSecond(method *tableau, i int, rest []float64) (still []float64) {
	s, h := &m.step, m.step.To-m.step.From
	still = make([]float64, len(rest))
	for k, is := range m.second {
		if !is {
			continue
		}
		u, v := s.Before[k], s.SpeedBefore[k]
		for j, a := range method.a[i][:i] {
			u += h * a * s.Stages[j].Speed[k]
			v += h * a * s.Stages[j].Rate[k]
		}
		still[k], rest[k] = u, u+h*diagonal*v
	}
	return still
}

// guess is what the stages so far let expect of the next one.
func (m *march) guess(method *tableau, i int) []float64 {
	s := &m.step
	out := append([]float64(nil), s.Before...)
	switch {
	case i == 0:
	case method.explicit && i == 1:
		for k, r := range s.Stages[0].Rate {
			if m.second != nil && m.second[k] {
				r = s.Stages[0].Speed[k]
			}
			out[k] += (s.To - s.From) * method.c[1] * r
		}
	default:
		// On the straight line through the start and the stage before.
		f := method.c[i] / method.c[i-1]
		for k, v := range s.Stages[i-1].U {
			out[k] += f * (v - s.Before[k])
		}
	}
	for k := range out {
		if !m.changes(k) && i > 0 {
			out[k] = s.Stages[i-1].U[k]
		}
	}
	return out
}

// forgetful is the part of the size of residuals that counts for the next stage: sudden
// changes have large ones.
const forgetful = 0.5

// solve finds the state at a time whose rate is (state − rest)/length.
func (m *march) solve(ctx context.Context, t, length float64, rest, guess []float64) (reaction []float64, err error) {
	m.at.Time, m.at.RateSlope = t, 1/length
	for f := range m.at.RateSlopes {
		m.at.RateSlopes[f] = 1 / length
		if m.set.Second[f] {
			m.at.RateSlopes[f] /= length
		}
	}
	slope := func(i int) float64 {
		if m.second != nil && m.second[i] {
			return 1 / length / length
		}
		return 1 / length
	}
	if m.set.Constrain != nil {
		m.set.Constrain(t, m.c)
	}
	m.at.Rate = make([]float64, len(guess))
	for i, v := range guess {
		if m.c.Fixed[i] {
			v = m.c.Value[i]
		}
		m.at.U[i], m.at.Rate[i] = v, (v-rest[i])*slope(i)
	}
	for f := range m.set.Newton.Scale {
		m.set.Newton.Scale[f] *= forgetful
	}
	r, err := m.System.Solve(ctx, m.kernel, m.at, m.c, &m.set.Newton)
	if err != nil {
		return nil, err
	}
	// The rates as they follow from the state, without the round-off of its steps.
	for i, v := range m.at.U {
		m.at.Rate[i] = (v - rest[i]) * slope(i)
	}
	return r.Reaction, nil
}
