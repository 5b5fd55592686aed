package sparse

import (
	"context"
	"math"
)

// attempt is the frame that iterative solvers share: sizes, the true residual and
// the record of the iterations.
type attempt struct {
	Result
	ctx        context.Context
	a          Operator
	b, x, r    []float64
	pre        Preconditioner
	set        *Settings
	tol, scale float64
	limit      int
	last       float64 // residual at the last start
}

// newAttempt checks sizes and computes the first residual. done says that there
// is nothing left to do.
func newAttempt(ctx context.Context, a Operator, b, x []float64, pre Preconditioner, set *Settings) (t *attempt, done bool) {
	n := a.N()
	if len(b) != n || len(x) != n {
		panic("sparse: length of vector does not match the matrix")
	}
	t = &attempt{ctx: ctx, a: a, b: b, x: x, pre: pre, set: set, r: make([]float64, n), scale: Norm(b), last: math.Inf(1)}
	t.Status = LimitReached
	t.tol, t.limit = set.bounds(n)
	if t.scale == 0 {
		clear(x)
		t.Status = Converged
		return t, true
	}
	return t, t.settle()
}

// settle computes the true residual and says whether it is small enough.
func (t *attempt) settle() bool {
	t.a.MulVec(t.r, t.x)
	for i, v := range t.b {
		t.r[i] = v - t.r[i]
	}
	t.Residual = Norm(t.r) / t.scale
	switch {
	case math.IsNaN(t.Residual) || math.IsInf(t.Residual, 0):
		t.Status = NotFinite
		return true
	case t.Residual <= t.tol*1.01:
		t.Status = Converged
		return true
	}
	return false
}

// precondition sets dst to the preconditioned r.
func (t *attempt) precondition(dst, r []float64) {
	if t.pre == nil {
		copy(dst, r)
		return
	}
	t.pre.Apply(dst, r)
}

// record counts an iteration whose residual is estimated and says whether to go on.
func (t *attempt) record(estimate float64) bool {
	t.Iterations++
	t.History = append(t.History, estimate)
	if t.set != nil && t.set.Progress != nil {
		t.set.Progress(t.Iterations, estimate)
	}
	switch {
	case t.ctx.Err() != nil:
		t.Status = Stopped
	case math.IsNaN(estimate):
		t.Status = NotFinite
	case t.Iterations < t.limit:
		return true
	}
	return false
}

// starts says whether a new start, from the true residual, is worth while: not if
// the last one gained little.
func (t *attempt) starts() bool {
	if t.Status != LimitReached || t.Iterations >= t.limit {
		return false
	}
	if t.Residual > 0.5*t.last {
		t.Status = Stagnated
		return false
	}
	t.last = t.Residual
	return true
}

// finish leaves the true residual in the result.
func (t *attempt) finish() Result {
	status := t.Status
	if !t.settle() || status == Stopped {
		t.Status = status
	}
	return t.Result
}

// MINRES solves A·x = b for a symmetric A, definite or not, by minimal residuals
// (C. Paige, M. Saunders, SIAM J. Numer. Anal. 12 (1975) 617). The preconditioner
// must be positive definite. x holds the initial guess and receives the solution.
func MINRES(ctx context.Context, a Operator, b, x []float64, pre Preconditioner, set *Settings) Result {
	t, done := newAttempt(ctx, a, b, x, pre, set)
	if done {
		return t.Result
	}
	n := a.N()
	vector := func() []float64 { return make([]float64, n) }
	old, now, next, z, w0, w1, w2, az := vector(), vector(), vector(), vector(), vector(), vector(), vector(), vector()
	// The estimate is of the residual in the norm of the preconditioner: a new start
	// goes on where that was too kind.
	for t.starts() {
		clear(old)
		clear(w0)
		clear(w1)
		copy(now, t.r)
		t.precondition(z, now)
		beta := math.Sqrt(Dot(z, now))
		if !(beta > 0) {
			t.Status = NotDefinite
			break
		}
		first, eta, beta0 := beta, beta, 1.0
		c0, c1, s0, s1 := 1.0, 1.0, 0.0, 0.0
		start := t.Residual
		for {
			scaleBy(z, 1/beta)
			a.MulVec(az, z)
			alpha := Dot(az, z)
			for i := range next {
				next[i] = az[i] - alpha/beta*now[i] - beta/beta0*old[i]
			}
			t.precondition(w2, next)
			square := Dot(w2, next)
			if square < 0 {
				t.Status = NotDefinite
				break
			}
			after := math.Sqrt(square)
			delta := c1*alpha - c0*s1*beta
			rho1 := math.Hypot(delta, after)
			rho2, rho3 := s1*alpha+c0*c1*beta, s0*beta
			if rho1 == 0 {
				t.Status = Stagnated
				break
			}
			c0, c1, s0, s1 = c1, delta/rho1, s1, after/rho1
			for i := range w0 {
				w0[i], w1[i] = w1[i], (z[i]-rho3*w0[i]-rho2*w1[i])/rho1
				x[i] += c1 * eta * w1[i]
			}
			eta = -s1 * eta
			copy(z, w2)
			old, now, next = now, next, old
			beta0, beta = beta, after
			if !t.record(start*math.Abs(eta)/first) || start*math.Abs(eta)/first <= t.tol || after == 0 {
				break
			}
		}
		if t.Status != LimitReached || t.settle() {
			break
		}
	}
	return t.finish()
}

// BiCGStab solves A·x = b for any regular A by stabilised biconjugate gradients (H.
// van der Vorst, SIAM J. Sci. Stat. Comput. 13 (1992) 631) with preconditioning
// from the right. It needs little memory, but may break down where GMRES does not.
func BiCGStab(ctx context.Context, a Operator, b, x []float64, pre Preconditioner, set *Settings) Result {
	t, done := newAttempt(ctx, a, b, x, pre, set)
	if done {
		return t.Result
	}
	n := a.N()
	vector := func() []float64 { return make([]float64, n) }
	shadow, p, v, s, ps, ss, ts := vector(), vector(), vector(), vector(), vector(), vector(), vector()
	for t.starts() {
		copy(shadow, t.r)
		copy(p, t.r)
		rho := Dot(shadow, t.r)
		for {
			t.precondition(ps, p)
			a.MulVec(v, ps)
			alpha := rho / Dot(shadow, v)
			for i := range s {
				s[i] = t.r[i] - alpha*v[i]
			}
			t.precondition(ss, s)
			a.MulVec(ts, ss)
			omega := 0.0
			if square := Dot(ts, ts); square > 0 {
				omega = Dot(ts, s) / square
			}
			for i := range x {
				x[i] += alpha*ps[i] + omega*ss[i]
				t.r[i] = s[i] - omega*ts[i]
			}
			estimate := Norm(t.r) / t.scale
			next := Dot(shadow, t.r)
			if !t.record(estimate) || estimate <= t.tol || omega == 0 || next == 0 {
				break
			}
			beta := next / rho * alpha / omega
			rho = next
			for i := range p {
				p[i] = t.r[i] + beta*(p[i]-omega*v[i])
			}
		}
		if t.Status != LimitReached || t.settle() {
			break
		}
	}
	return t.finish()
}
