package fem

import (
	"context"
	"errors"
	"fmt"
	"math"
)

// TransientSettings of [System.March]. The zero value needs an End.
type TransientSettings struct {
	Newton NewtonSettings
	// End of the time, s, and the first step; 0 means a thousandth of the whole.
	End, FirstStep float64
	// Tolerance of the error of a step, relative to how far the values of the field have
	// been apart so far; 0 means 1e-4. Steps are chosen by it.
	Tolerance float64
	// FixedStep keeps the first step throughout.
	FixedStep bool
	MaxSteps  int // 0 means 100000
	// Constrain sets the values of held unknowns at a time. It may be nil.
	Constrain func(time float64, c *Constraints)
	// Step is called after each step that was accepted; it may end the march by
	// returning true. It may be nil.
	Step func(time float64, u []float64) (stop bool)
}

// TransientResult counts the steps.
type TransientResult struct {
	Time               float64
	Accepted, Rejected int
}

// ErrStepTooSmall says that the steps became too short to go on.
var ErrStepTooSmall = errors.New("the time steps became too short")

// March follows a state through time by the backward differentiation formula of
// order 2 with steps chosen by an estimate of their error (C. Gear, Numerical
// Initial Value Problems in Ordinary Differential Equations, 1971): the difference
// between a step and the parabola through the three values before it. The first
// step is compared with two of half its length.
func (s *System) March(ctx context.Context, kernel Kernel, at *State, c *Constraints, set *TransientSettings) (*TransientResult, error) {
	m := &march{System: s, set: *set, at: at, c: c}
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
	for range s.Fields {
		m.ranges = append(m.ranges, span{math.Inf(1), math.Inf(-1)})
	}
	m.keep()
	return &m.TransientResult, m.run(ctx, kernel)
}

// past is a state that was reached.
type past struct {
	time float64
	u    []float64
}

type march struct {
	System *System
	TransientResult
	set    TransientSettings
	at     *State
	c      *Constraints
	span   float64 // of the time
	past   []past  // the last ones, the latest first
	field  []int   // of each unknown
	ranges []span
	guess  []float64 // what the past lets expect of the step at hand
}

// keep records the state reached.
func (m *march) keep() {
	p := past{m.Time, append([]float64(nil), m.at.U...)}
	m.past = append([]past{p}, m.past...)
	if len(m.past) > 3 {
		m.past = m.past[:3]
	}
	m.ranges = m.spans()
}

// span is what a field has been through: its least and its greatest value.
type span struct{ least, greatest float64 }

// size of a field that errors are compared with: how far its values are apart, so
// that a temperature counts from where it varies and not from absolute zero.
func (s span) size() float64 {
	return max(s.greatest-s.least, littleOf*max(math.Abs(s.greatest), math.Abs(s.least)))
}

// littleOf is the part of its largest value that a field that is even has as its size.
const littleOf = 1e-3

// spans are those of the fields so far, with the state at hand.
func (m *march) spans() []span {
	out := append([]span(nil), m.ranges...)
	for i, v := range m.at.U {
		f := m.field[i]
		out[f] = span{min(out[f].least, v), max(out[f].greatest, v)}
	}
	return out
}

func (m *march) run(ctx context.Context, kernel Kernel) error {
	step := m.set.FirstStep
	for m.Time < m.set.End-1e-12*m.span {
		if err := ctx.Err(); err != nil {
			return err
		}
		if m.Accepted+m.Rejected >= m.set.MaxSteps {
			return fmt.Errorf("%w: %d steps were made", ErrStepTooSmall, m.set.MaxSteps)
		}
		left := m.set.End - m.Time
		h := step
		if h > left*(1-1e-9) {
			h = left
		} else if h > left/2 && !m.set.FixedStep {
			h = left / 2
		}
		before := m.Accepted
		failed, err := m.advance(ctx, kernel, h)
		if err != nil && (ctx.Err() != nil || m.set.FixedStep || h < 1e-12*m.span) {
			return err
		}
		if err != nil || failed > 1 {
			m.Rejected++
			copy(m.at.U, m.past[0].u)
			if h < 1e-12*m.span {
				return ErrStepTooSmall
			}
			step = h * max(0.2, 0.9*math.Pow(max(failed, 2), -1./3))
			if err != nil {
				step = h / 4
			}
			continue
		}
		for i := m.Accepted - before - 1; i >= 0; i-- {
			if m.set.Step != nil && m.set.Step(m.past[i].time, m.past[i].u) {
				return m.settle(ctx, kernel)
			}
		}
		if !m.set.FixedStep {
			step = h * min(2, max(0.3, 0.9*math.Pow(max(failed, 1e-6), -1./3)))
		}
	}
	return nil
}

// settle solves the last step to the end, as balances are drawn up of it.
func (m *march) settle(ctx context.Context, kernel Kernel) error {
	newton := m.set.Newton
	if newton.Fall == 0 {
		return nil
	}
	newton.Fall = 0
	_, err := m.System.Solve(ctx, kernel, m.at, m.c, &newton)
	return err
}

// advance makes a step and keeps it if its error, relative to the tolerance, is at
// most 1.
func (m *march) advance(ctx context.Context, kernel Kernel, h float64) (failed float64, err error) {
	switch {
	case m.set.FixedStep:
		err = m.attempt(ctx, kernel, h)
	case len(m.past) == 1:
		return m.first(ctx, kernel, h)
	default:
		if err = m.attempt(ctx, kernel, h); err == nil {
			failed = m.error()
		}
	}
	if err == nil && failed <= 1 {
		m.Time += h
		m.Accepted++
		m.keep()
	}
	return failed, err
}

// first makes the first step as two halves, of which the second has a past, and
// compares with a whole one.
func (m *march) first(ctx context.Context, kernel Kernel, h float64) (float64, error) {
	start := m.past[0]
	if err := m.attempt(ctx, kernel, h); err != nil {
		return 0, err
	}
	whole := append([]float64(nil), m.at.U...)
	copy(m.at.U, start.u)
	for range 2 {
		if err := m.attempt(ctx, kernel, h/2); err != nil {
			m.Time, m.past = start.time, []past{start}
			return 0, err
		}
		m.Time += h / 2
		m.keep()
	}
	failed := m.distance(whole) / m.set.Tolerance
	if failed > 1 {
		m.Time, m.past = start.time, []past{start}
		return failed, nil
	}
	m.Accepted += 2
	return failed, nil
}

// attempt solves for the state after a step.
func (m *march) attempt(ctx context.Context, kernel Kernel, h float64) error {
	u0 := m.past[0].u
	m.at.Time = m.Time + h
	if m.set.Constrain != nil {
		m.set.Constrain(m.at.Time, m.c)
	}
	// Rate = slope·u + rest, by the values before.
	var w [3]float64
	if len(m.past) == 1 {
		w = [3]float64{1 / h, -1 / h}
	} else {
		r := h / (m.past[0].time - m.past[1].time)
		w = [3]float64{(1 + 2*r) / (1 + r) / h, -(1 + r) / h, r * r / (1 + r) / h}
	}
	m.guess = m.predict(h)
	for i := range m.at.U {
		rest := w[1] * u0[i]
		if len(m.past) > 1 {
			rest += w[2] * m.past[1].u[i]
		}
		m.at.U[i] = m.guess[i]
		if m.c.Fixed[i] {
			m.at.U[i] = m.c.Value[i]
		}
		m.at.Rate[i] = w[0]*m.at.U[i] + rest
	}
	m.at.RateSlope = w[0]
	newton := m.set.Newton
	if m.at.Time >= m.set.End-1e-12*m.span {
		newton.Fall = 0 // balances are drawn up of the end
	}
	_, err := m.System.Solve(ctx, kernel, m.at, m.c, &newton)
	return err
}

// predict goes on along the parabola (or less) through the values before.
func (m *march) predict(h float64) []float64 {
	out := append([]float64(nil), m.past[0].u...)
	t := m.Time + h
	switch len(m.past) {
	case 2:
		f := h / (m.past[0].time - m.past[1].time)
		for i := range out {
			out[i] += f * (m.past[0].u[i] - m.past[1].u[i])
		}
	case 3:
		var l [3]float64
		for a := range l {
			l[a] = 1
			for b := range l {
				if a != b {
					l[a] *= (t - m.past[b].time) / (m.past[a].time - m.past[b].time)
				}
			}
		}
		for i := range out {
			out[i] = l[0]*m.past[0].u[i] + l[1]*m.past[1].u[i] + l[2]*m.past[2].u[i]
		}
	}
	return out
}

// error estimates the error of the step just made, relative to the tolerance. Of
// the difference to what the past lets expect the formula has its part.
func (m *march) error() float64 {
	part := 0.5
	if len(m.past) == 3 {
		// Of the third derivative the formula misses h²(h+h₁)²/(6(2h+h₁)), the parabola
		// h(h+h₁)(h+h₁+h₂)/6.
		h := m.at.Time - m.Time
		h1, h2 := m.past[0].time-m.past[1].time, m.past[1].time-m.past[2].time
		missed := h * h * (h + h1) * (h + h1) / (6 * (2*h + h1))
		part = missed / (missed + h*(h+h1)*(h+h1+h2)/6)
	}
	return part * m.distance(m.guess) / m.set.Tolerance
}

// distance is the root mean square of the difference to the state at hand, relative
// to the size of the field; that of the worst field.
func (m *march) distance(u []float64) float64 {
	spans := m.spans()
	sum, count := make([]float64, len(spans)), make([]float64, len(spans))
	for i, v := range m.at.U {
		f := m.field[i]
		sum[f] += (v - u[i]) * (v - u[i])
		count[f]++
	}
	worst := 0.0
	for f, q := range sum {
		if q > 0 {
			worst = max(worst, math.Sqrt(q/count[f])/spans[f].size())
		}
	}
	return worst
}
