package sparse

import (
	"context"
	"math"

	"saltkettle/core/dense"
	"saltkettle/core/parallel"
)

// restart is how many directions GMRES keeps.
const restart = 50

// Operator is a square matrix, of whatever kind.
type Operator interface {
	// N is its order.
	N() int
	// MulVec sets dst to the product with x.
	MulVec(dst, x []float64)
}

// GMRES solves A·x = b for any regular A by generalised minimal residuals with
// restarts and preconditioning from the right (Y. Saad, M. H. Schultz, SIAM J.
// Sci. Stat. Comput. 7 (1986) 856). x holds the initial guess and receives the
// solution, which is usable whatever the status. A nil preconditioner means none; a
// flexible one may change from one iteration to the next (Y. Saad, SIAM J. Sci.
// Comput. 14 (1993) 461).
func GMRES(ctx context.Context, a Operator, b, x []float64, pre Preconditioner, set *Settings) Result {
	n := a.N()
	if len(b) != n || len(x) != n {
		panic("sparse: length of vector does not match the matrix")
	}
	tol, limit := set.bounds(n)
	scale := Norm(b)
	if scale == 0 {
		clear(x)
		return Result{Status: Converged}
	}
	res := Result{Status: LimitReached}
	m := min(restart, limit)
	basis := make([][]float64, 0, m+1)
	vector := func(k int) []float64 {
		if k == len(basis) {
			basis = append(basis, make([]float64, n))
		}
		return basis[k]
	}
	z := make([]float64, n)
	// What the preconditioner made of each direction, if it may change.
	var changed [][]float64
	if set != nil && set.Flexible {
		changed = make([][]float64, m)
	}
	product := func(dst, x []float64) {
		a.MulVec(dst, x)
		if set != nil && set.Beside != nil {
			set.Beside(dst, x)
		}
	}
	apply := func(dst, r []float64) {
		if pre == nil {
			copy(dst, r)
			return
		}
		pre.Apply(dst, r)
	}
	h := make([][]float64, m) // columns of the triangular factor
	cos, sin, g := make([]float64, m), make([]float64, m), make([]float64, m+1)
	last := math.Inf(1)
	for res.Iterations < limit && res.Status == LimitReached {
		r := vector(0)
		product(r, x)
		parallel.For(n, rowGrain, func(_, lo, hi int) {
			for i := lo; i < hi; i++ {
				r[i] = b[i] - r[i]
			}
		})
		norm := Norm(r)
		res.Residual = norm / scale
		switch {
		case norm <= tol*scale:
			res.Status = Converged
			return res
		case math.IsNaN(norm) || math.IsInf(norm, 0):
			res.Status = NotFinite
			return res
		case norm > 0.95*last:
			res.Status = Stagnated
			return res
		}
		last = norm
		scaleBy(r, 1/norm)
		clear(g)
		g[0] = norm
		k := 0
		for k < m && res.Iterations < limit {
			if ctx.Err() != nil {
				res.Status = Stopped
				break
			}
			if changed != nil {
				if changed[k] == nil {
					changed[k] = make([]float64, n)
				}
				z = changed[k]
			}
			apply(z, basis[k])
			w := vector(k + 1)
			product(w, z)
			col := make([]float64, k+1)
			// Twice is enough: Gram and Schmidt once more against round-off.
			for range 2 {
				for j := range col {
					d := Dot(basis[j], w)
					col[j] += d
					axpy(w, -d, basis[j])
				}
			}
			length := Norm(w)
			for j := range k {
				col[j], col[j+1] = cos[j]*col[j]+sin[j]*col[j+1], cos[j]*col[j+1]-sin[j]*col[j]
			}
			rho := math.Hypot(col[k], length)
			if rho == 0 {
				break
			}
			cos[k], sin[k] = col[k]/rho, length/rho
			col[k] = rho
			h[k] = col
			g[k], g[k+1] = cos[k]*g[k], -sin[k]*g[k]
			k++
			res.Iterations++
			estimate := math.Abs(g[k]) / scale
			res.History = append(res.History, estimate)
			if set != nil && set.Progress != nil {
				set.Progress(res.Iterations, estimate)
			}
			if estimate <= tol || length == 0 {
				break
			}
			scaleBy(w, 1/length)
		}
		// x += M⁻¹·V·y with H·y = g.
		y := make([]float64, k)
		for i := k - 1; i >= 0; i-- {
			y[i] = g[i]
			for j := i + 1; j < k; j++ {
				y[i] -= h[j][i] * y[j]
			}
			y[i] /= h[i][i]
		}
		if changed != nil {
			for j, v := range y {
				axpy(x, v, changed[j])
			}
			continue
		}
		sum := vector(k)
		clear(sum)
		for j, v := range y {
			axpy(sum, v, basis[j])
		}
		apply(z, sum)
		axpy(x, 1, z)
	}
	r := vector(0)
	product(r, x)
	for i := range r {
		r[i] -= b[i]
	}
	res.Residual = Norm(r) / scale
	if res.Status == LimitReached && res.Residual <= tol {
		res.Status = Converged
	}
	return res
}

// scaleBy multiplies a vector by a number.
func scaleBy[T dense.Scalar](x []T, f T) {
	parallel.For(len(x), rowGrain, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			x[i] *= f
		}
	})
}

// axpy adds f·y to x.
func axpy(x []float64, f float64, y []float64) {
	parallel.For(len(x), rowGrain, func(_, lo, hi int) {
		xs, ys := x[lo:hi], y[lo:hi]
		for i, v := range ys {
			xs[i] += f * v
		}
	})
}

// SymmetricPart returns (A + Aᵀ)/2 of a matrix whose pattern is symmetric.
func (m *Matrix[T]) SymmetricPart() *Matrix[T] {
	out := m.Clone()
	parallel.For(m.N(), rowGrain, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			cols, data := out.Row(i)
			for k, c := range cols {
				data[k] = (data[k] + m.At(int(c), i)) / 2
			}
		}
	})
	return out
}
