package sparse

import (
	"context"
	"math"
)

// Status says why an iterative solver ended.
type Status int

// Reasons for ending.
const (
	Converged    Status = iota + 1
	Stagnated           // round-off keeps the residual from falling any further
	LimitReached        // the greatest number of iterations was made
	NotDefinite         // the matrix or the preconditioner is not positive definite
	Stopped             // the context ended
	NotFinite           // a number became infinite or undefined
)

var statusText = map[Status]string{
	Converged:    "converged",
	Stagnated:    "limited by round-off",
	LimitReached: "iteration limit reached",
	NotDefinite:  "matrix not positive definite",
	Stopped:      "stopped",
	NotFinite:    "numbers not finite",
}

func (s Status) String() string { return statusText[s] }

// Preconditioner approximates the inverse of a matrix.
type Preconditioner interface {
	// Apply sets dst to an approximation of the inverse times r.
	Apply(dst, r []float64)
}

// Settings of an iterative solver. The zero value works.
type Settings struct {
	// Tolerance is the residual relative to the right side at which the solution
	// is accepted; 0 means 1e-10.
	Tolerance float64
	// MaxIterations bounds the work; 0 means 20 + 10·√n, at least 500.
	MaxIterations int
	// Flexible lets the preconditioner of GMRES be another one in each iteration, such
	// as an iterative solver. It takes more memory.
	Flexible bool
	// Beside adds to dst what stands beside the matrix in the equations times x, for
	// GMRES. It may be nil.
	Beside func(dst, x []float64)
	// Progress is called after every iteration with the relative residual. It may
	// be nil.
	Progress func(iteration int, residual float64)
}

// bounds are the tolerance and the limit of iterations for n unknowns.
func (s *Settings) bounds(n int) (tolerance float64, limit int) {
	tolerance, limit = 1e-10, max(500, 20+int(10*math.Sqrt(float64(n))))
	if s != nil && s.Tolerance != 0 {
		tolerance = s.Tolerance
	}
	if s != nil && s.MaxIterations != 0 {
		limit = s.MaxIterations
	}
	return tolerance, limit
}

// Result tells how an iterative solver ended.
type Result struct {
	Status     Status
	Iterations int
	// Residual is |b − A·x| / |b|, computed from the solution at the end.
	Residual float64
	// History is the relative residual after each iteration.
	History []float64
}

// CG solves A·x = b for a symmetric positive definite A by preconditioned
// conjugate gradients (Hestenes and Stiefel, J. Res. Natl. Bur. Stand. 49 (1952)
// 409). x holds the initial guess and receives the solution, which is usable
// whatever the status. A nil preconditioner means none.
func CG(ctx context.Context, a Operator, b, x []float64, pre Preconditioner, set *Settings) Result {
	n := a.N()
	if len(b) != n || len(x) != n {
		panic("sparse: length of vector does not match the matrix")
	}
	tol, limit := set.bounds(n)
	r, z, p, q := make([]float64, n), make([]float64, n), make([]float64, n), make([]float64, n)
	residual := func() float64 {
		a.MulVec(q, x)
		for i := range r {
			r[i] = b[i] - q[i]
		}
		return Norm(r)
	}
	res := Result{Status: LimitReached}
	scale := Norm(b)
	if scale == 0 {
		clear(x)
		return Result{Status: Converged}
	}
	norm := residual()
	if norm <= tol*scale {
		return Result{Status: Converged, Residual: norm / scale}
	}
	apply := func() {
		if pre == nil {
			copy(z, r)
			return
		}
		pre.Apply(z, r)
	}
	apply()
	copy(p, z)
	rz := Dot(r, z)
	restarted := false
	for res.Iterations < limit {
		if ctx.Err() != nil {
			res.Status = Stopped
			break
		}
		a.MulVec(q, p)
		pq := Dot(p, q)
		if !(pq > 0) || !(rz > 0) {
			res.Status = NotDefinite
			if math.IsNaN(pq) || math.IsNaN(rz) {
				res.Status = NotFinite
			}
			break
		}
		alpha := rz / pq
		for i := range x {
			x[i] += alpha * p[i]
			r[i] -= alpha * q[i]
		}
		res.Iterations++
		norm = Norm(r)
		res.History = append(res.History, norm/scale)
		if set != nil && set.Progress != nil {
			set.Progress(res.Iterations, norm/scale)
		}
		if norm <= tol*scale {
			// The updated residual drifts from the true one: accept only the latter.
			norm = residual()
			if norm <= tol*scale*1.01 {
				res.Status = Converged
				break
			}
			if restarted {
				res.Status = Stagnated
				break
			}
			restarted = true
			apply()
			copy(p, z)
			rz = Dot(r, z)
			continue
		}
		apply()
		next := Dot(r, z)
		beta := next / rz
		rz = next
		for i := range p {
			p[i] = z[i] + beta*p[i]
		}
	}
	res.Residual = residual() / scale
	return res
}
