package sparse

import (
	"math"

	"saltkettle/core/dense"
)

// findNull computes vectors that span what the matrix takes to zero: each has one
// of the unknowns without a pivot for its own. Their largest elements are 1.
func (f *Factors[T]) findNull(dimension int) {
	n := f.a.n
	for i := range f.parts {
		p := &f.parts[i]
		if f.a.fronts[i].parent >= 0 {
			continue
		}
		for _, id := range p.ids[p.eliminated:] {
			s := &substitution[T]{Factors: f, m: 1, x: make([]T, n)}
			s.x[id] = 1
			s.backward()
			v := make([]T, n)
			for k, u := range f.a.order {
				v[u] = times(s.x[k], f.cols[k])
			}
			big := 0.0
			for _, z := range v {
				big = max(big, dense.Magnitude(z))
			}
			scaleBy(v, asScalar[T](complex(1/big, 0)))
			f.Null = append(f.Null, v)
		}
	}
	if len(f.Null) != dimension {
		panic("sparse: null space lost")
	}
}

// Refined solves A·x = b and improves the solution until its residual no longer
// falls, at most steps times. It returns |b − A·x| / |b|.
func (f *Factors[T]) Refined(m *Matrix[T], x, b []T, steps int) float64 {
	f.Solve(x, b)
	n := len(b)
	r, next, y := make([]T, n), make([]T, n), make([]T, n)
	size := norm(b)
	if size == 0 {
		return 0
	}
	residual := func(x []T) float64 {
		m.MulVec(r, x)
		for i := range r {
			r[i] = b[i] - r[i]
		}
		return norm(r) / size
	}
	now := residual(x)
	for range steps {
		if now < 1e-16 {
			break
		}
		f.Solve(y, r)
		for i := range next {
			next[i] = x[i] + y[i]
		}
		after := residual(next)
		if !(after < now) {
			break
		}
		copy(x, next)
		if after > now/2 {
			return after
		}
		now = after
	}
	return now
}

// Residual is |b − A·x| / |b|.
func Residual[T dense.Scalar](a *Matrix[T], x, b []T) float64 {
	r := make([]T, len(b))
	a.MulVec(r, x)
	for i := range r {
		r[i] = b[i] - r[i]
	}
	return norm(r) / norm(b)
}

// Condition estimates the condition of the matrix that was factored in the norm of
// the largest column sum, from below, mostly by less than a factor of 3 (N.
// Higham, ACM Trans. Math. Softw. 14 (1988) 381). Times 1e-16 it is about the
// relative error that round-off makes of a solution.
func (f *Factors[T]) Condition(m *Matrix[T]) float64 {
	n := m.N()
	sums := make([]float64, n)
	for i := range n {
		cols, data := m.Row(i)
		for k, c := range cols {
			sums[c] += size(data[k])
		}
	}
	largest := 0.0
	for _, v := range sums {
		largest = max(largest, v)
	}
	x := make([]T, n)
	for i := range x {
		x[i] = asScalar[T](complex(1/float64(n), 0))
	}
	y, z := make([]T, n), make([]T, n)
	estimate, last := 0.0, -1
	const steps = 5
	for range steps {
		f.Solve(y, x)
		var sum float64
		for _, v := range y {
			sum += size(v)
		}
		if sum <= estimate {
			break
		}
		estimate = sum
		// The direction in which the sum grows: the signs of y, conjugated for the
		// Hermitian transpose.
		for i, v := range y {
			z[i] = sign(v)
		}
		conjugate(z)
		f.SolveTransposed(z, z)
		best, most := 0, -1.0
		for i, v := range z {
			if a := size(v); a > most {
				best, most = i, a
			}
		}
		if best == last {
			break
		}
		last = best
		clear(x)
		x[best] = asScalar[T](1)
	}
	// A vector of alternating, growing elements defeats what cancels by chance.
	for i := range x {
		v := 1 + float64(i)/float64(max(n-1, 1))
		if i%2 == 1 {
			v = -v
		}
		x[i] = asScalar[T](complex(v, 0))
	}
	f.Solve(y, x)
	var sum float64
	for _, v := range y {
		sum += size(v)
	}
	return largest * max(estimate, 2*sum/(3*float64(n)))
}

// size is the absolute value.
func size[T dense.Scalar](x T) float64 {
	z := asComplex(x)
	return math.Hypot(real(z), imag(z))
}

// sign is x/|x|, and 1 for 0.
func sign[T dense.Scalar](x T) T {
	a := size(x)
	if a == 0 {
		return asScalar[T](1)
	}
	return times(x, 1/a)
}

// conjugate changes the signs of imaginary parts.
func conjugate[T dense.Scalar](x []T) {
	if c, ok := any(x).([]complex128); ok {
		for i, z := range c {
			c[i] = complex(real(z), -imag(z))
		}
	}
}
