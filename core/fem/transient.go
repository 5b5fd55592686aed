package fem

import (
	"context"
	"errors"
	"fmt"
	"math"

	"saltkettle/core/sparse"
)

// TransientSettings of [System.March]. The zero value needs an End.
type TransientSettings struct {
	Newton NewtonSettings
	// End of the time, s, and the first step; 0 means a thousandth of the whole.
	End, FirstStep float64
	// Tolerance of the error of a step, relative to the largest value so far of each
	// field; 0 means 1e-4. Steps are chosen by it.
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
// between a step and the parabola through the three values before it. It begins
// with two steps of order 1.
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
	set  TransientSettings
	at   *State
	c    *Constraints
	past []past // the last ones, the latest first
	size float64
}

// keep records the state reached.
func (m *march) keep() {
	p := past{m.Time, append([]float64(nil), m.at.U...)}
	m.past = append([]past{p}, m.past...)
	if len(m.past) > 3 {
		m.past = m.past[:3]
	}
	for _, v := range m.at.U {
		m.size = max(m.size, math.Abs(v))
	}
}

func (m *march) run(ctx context.Context, kernel Kernel) error {
	step := m.set.FirstStep
	span := m.set.End - m.Time
	m.at.Rate = make([]float64, m.System.N)
	for m.Time < m.set.End-1e-12*span {
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
		err := m.attempt(ctx, kernel, h)
		failed := 0.0
		if err == nil && !m.set.FixedStep {
			failed = m.error() / m.set.Tolerance
		}
		if err != nil && (ctx.Err() != nil || m.set.FixedStep || h < 1e-12*span) {
			return err
		}
		if err != nil || failed > 1 {
			m.Rejected++
			copy(m.at.U, m.past[0].u)
			if h < 1e-12*span {
				return ErrStepTooSmall
			}
			step = h * max(0.2, 0.9*math.Pow(max(failed, 2), -1./3))
			if err != nil {
				step = h / 4
			}
			continue
		}
		m.Time += h
		m.Accepted++
		m.keep()
		if m.set.Step != nil && m.set.Step(m.Time, m.at.U) {
			return nil
		}
		if !m.set.FixedStep {
			step = h * min(2, max(0.3, 0.9*math.Pow(max(failed, 1e-6), -1./3)))
		}
	}
	return nil
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
	guess := m.predict(h)
	for i := range m.at.U {
		rest := w[1] * u0[i]
		if len(m.past) > 1 {
			rest += w[2] * m.past[1].u[i]
		}
		m.at.U[i] = guess[i]
		if m.c.Fixed[i] {
			m.at.U[i] = m.c.Value[i]
		}
		m.at.Rate[i] = w[0]*m.at.U[i] + rest
	}
	m.at.RateSlope = w[0]
	_, err := m.System.Solve(ctx, kernel, m.at, m.c, &m.set.Newton)
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

// error estimates the error of the step just made, relative to the largest value.
// From the difference to the parabola the constant of the formula takes its part;
// before there are three values the difference to a line is taken as it is.
func (m *march) error() float64 {
	h := m.at.Time - m.Time
	guess := m.predict(h)
	var sum float64
	for i, v := range m.at.U {
		d := v - guess[i]
		sum += d * d
	}
	part := 0.5
	if len(m.past) == 3 {
		// Of the third derivative the formula misses h²(h+h₁)/6·…, the parabola
		// h(h+h₁)(h+h₁+h₂)/6.
		h1, h2 := m.past[0].time-m.past[1].time, m.past[1].time-m.past[2].time
		missed := h * h * (h + h1) * (h + h1) / (6 * (2*h + h1))
		part = missed / (missed + h*(h+h1)*(h+h1+h2)/6)
	}
	return part * math.Sqrt(sum/float64(len(guess))) / max(m.size, math.SmallestNonzeroFloat64)
}

// Alpha holds the parameters of the generalised-α method.
type Alpha struct{ M, F, Beta, Gamma float64 }

// NewAlpha returns the parameters for a damping of the highest frequencies: the
// spectral radius there is between 0 (all gone in a step) and 1 (none).
func NewAlpha(radius float64) Alpha {
	a := Alpha{M: (2*radius - 1) / (radius + 1), F: radius / (radius + 1)}
	a.Gamma = 0.5 - a.M + a.F
	a.Beta = 0.25 * (1 - a.M + a.F) * (1 - a.M + a.F)
	return a
}

// Inertia marches M·ü + C·u̇ + K·u = f(t) with steps of a fixed length by the
// generalised-α method (J. Chung, G. Hulbert, J. Appl. Mech. 60 (1993) 371), of
// order 2. u and v hold the state at the start and receive that at the end; fixed
// unknowns keep their values.
func Inertia(ctx context.Context, mass, damping, stiffness *sparse.CSR, load func(time float64, f []float64), fixed []bool, u, v []float64, step float64, steps int, p Alpha, each func(time float64, u, v []float64)) error {
	n := mass.N()
	if !(step > 0) || len(u) != n || len(v) != n {
		return fmt.Errorf("a march of steps of %g s with %d unknowns does not fit matrices of order %d", step, len(u), n)
	}
	clampRows := func(a *sparse.CSR, b []float64) {
		if fixed != nil {
			a.Fix(fixed, make([]float64, n), b)
		}
	}
	f, r, tmp, acc, next := make([]float64, n), make([]float64, n), make([]float64, n), make([]float64, n), make([]float64, n)
	subtract := func(a *sparse.CSR, x []float64) {
		if a == nil {
			return
		}
		a.MulVec(tmp, x)
		for i := range r {
			r[i] -= tmp[i]
		}
	}
	factor := func(a *sparse.CSR) (*sparse.Factors[float64], error) {
		clampRows(a, make([]float64, n))
		return sparse.Factor(ctx, sparse.Analyse(a, sparse.Symmetric, nil), a, nil)
	}
	start, err := factor(mass.Clone())
	if err != nil {
		return err
	}
	load(0, r)
	subtract(damping, v)
	subtract(stiffness, u)
	clampVector(fixed, r)
	start.Solve(acc, r)
	system := sparse.Combined(mass, 1-p.M, stiffness, (1-p.F)*p.Beta*step*step)
	if damping != nil {
		system = sparse.Combined(system, 1, damping, (1-p.F)*p.Gamma*step)
	}
	all, err := factor(system)
	if err != nil {
		return err
	}
	uf, vf := make([]float64, n), make([]float64, n)
	for k := range steps {
		if err := ctx.Err(); err != nil {
			return err
		}
		load((float64(k)+1-p.F)*step, f)
		copy(r, f)
		for i := range u {
			uf[i] = u[i] + (1-p.F)*(step*v[i]+step*step*(0.5-p.Beta)*acc[i])
			vf[i] = v[i] + (1-p.F)*step*(1-p.Gamma)*acc[i]
		}
		subtract(stiffness, uf)
		subtract(damping, vf)
		mass.MulVec(tmp, acc)
		for i := range r {
			r[i] -= p.M * tmp[i]
		}
		clampVector(fixed, r)
		all.Solve(next, r)
		for i := range u {
			u[i] += step*v[i] + step*step*((0.5-p.Beta)*acc[i]+p.Beta*next[i])
			v[i] += step * ((1-p.Gamma)*acc[i] + p.Gamma*next[i])
		}
		acc, next = next, acc
		if each != nil {
			each(float64(k+1)*step, u, v)
		}
	}
	return nil
}

func clampVector(fixed []bool, r []float64) {
	for i, f := range fixed {
		if f {
			r[i] = 0
		}
	}
}
