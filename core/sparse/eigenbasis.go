package sparse

import (
	"math"
	"math/cmplx"

	"saltkettle/core/dense"
	"saltkettle/core/parallel"
)

// start fills the first block with noise that has gone through the operator.
func (e *eigen[T]) start() {
	e.basis, e.massed, e.size = nil, nil, 0
	e.h = e.newProjection()
	block := make([][]T, e.b)
	for i := range block {
		block[i] = e.noise()
	}
	e.join(e.operate(block, nil), nil)
}

// newProjection makes room for H and B. The last block that is taken in may reach
// beyond the most vectors wanted.
func (e *eigen[T]) newProjection() [][]complex128 {
	h := make([][]complex128, e.most+2*e.b)
	for i := range h {
		h[i] = make([]complex128, e.most+e.b)
	}
	return h
}

func (e *eigen[T]) noise() []T {
	v := make([]T, e.n)
	for i := range v {
		v[i] = asScalar[T](complex(e.rng.NormFloat64(), e.rng.NormFloat64()))
	}
	return v
}

// times is M·v; v itself if M is the identity.
func (e *eigen[T]) times(v []T) []T {
	if e.m == nil {
		return v
	}
	out := make([]T, e.n)
	e.m.MulVec(out, v)
	return out
}

// operate applies (K − σM)⁻¹·M to a block of vectors, whose duals may be known.
func (e *eigen[T]) operate(block, duals [][]T) [][]T {
	b := len(block)
	x := make([]T, b*e.n)
	for s, v := range block {
		var massed []T
		if e.set.Symmetric && duals != nil {
			massed = duals[s]
		} else {
			massed = e.times(v)
		}
		for i, w := range massed {
			if e.set.Efforts != nil && e.set.Efforts[i] {
				w /= e.set.Shift
			}
			x[i*b+s] = w
		}
	}
	e.factors.SolveMany(x, x, b)
	e.Solves += b
	out := make([][]T, b)
	for s := range out {
		out[s] = make([]T, e.n)
		for i := range out[s] {
			out[s][i] = x[i*b+s]
		}
	}
	return out
}

// dual is what the inner product of v is taken with: M·v for a symmetric pencil,
// the conjugate for others.
func (e *eigen[T]) dual(v []T) []T {
	if e.set.Symmetric {
		return e.times(v)
	}
	if c, ok := any(v).([]complex128); ok {
		out := make([]complex128, len(c))
		for i, z := range c {
			out[i] = cmplx.Conj(z)
		}
		return any(out).([]T)
	}
	return v
}

// join makes a block orthonormal to the basis and in itself and appends it. The
// coefficients are added to the columns of H from the given one on.
func (e *eigen[T]) join(block [][]T, record func(row, col int, c T)) {
	if record == nil {
		record = func(int, int, T) {}
	}
	base := len(e.basis)
	before := make([]float64, len(block))
	for s, w := range block {
		before[s] = norm(w)
	}
	for range 2 {
		coefficients := make([][]T, base)
		parallel.For(base, 1, func(_, lo, hi int) {
			for i := lo; i < hi; i++ {
				coefficients[i] = make([]T, len(block))
				for s, w := range block {
					coefficients[i][s] = dense.Dot(e.massed[i], w)
				}
			}
		})
		parallel.For(e.n, rowGrain, func(_, lo, hi int) {
			for i, c := range coefficients {
				for s := range block {
					dense.Axpy(-c[s], e.basis[i][lo:hi], block[s][lo:hi])
				}
			}
		})
		for i, c := range coefficients {
			for s := range block {
				record(i, s, c[s])
			}
		}
	}
	for s, w := range block {
		for range 2 {
			for r := range s {
				c := dense.Dot(e.massed[base+r], w)
				dense.Axpy(-c, e.basis[base+r], w)
				record(base+r, s, c)
			}
		}
		dual := e.dual(w)
		size := math.Sqrt(max(0, real(asComplex(dense.Dot(dual, w)))))
		if !(norm(w) > 1e-13*before[s]) || size == 0 {
			// The block has lost a direction: another one takes its place, with no
			// part in H.
			w = e.fresh()
			dual = e.dual(w)
		} else {
			record(base+s, s, asScalar[T](complex(size, 0)))
			scaleBy(w, asScalar[T](complex(1/size, 0)))
			if &dual[0] != &w[0] {
				scaleBy(dual, asScalar[T](complex(1/size, 0)))
			}
		}
		e.basis = append(e.basis, w)
		e.massed = append(e.massed, dual)
	}
}

func (e *eigen[T]) length(w []T) float64 {
	if e.set.Symmetric {
		return math.Sqrt(max(0, real(asComplex(dense.Dot(e.times(w), w)))))
	}
	return norm(w)
}

// fresh is a random vector of length 1 that is orthogonal to the basis.
func (e *eigen[T]) fresh() []T {
	w := e.noise()
	for range 3 {
		for i, d := range e.massed {
			dense.Axpy(-dense.Dot(d, w), e.basis[i], w)
		}
	}
	scaleBy(w, asScalar[T](complex(1/max(e.length(w), math.SmallestNonzeroFloat64), 0)))
	return w
}

// restart keeps the part of the basis that belongs to the wanted eigenvalues.
func (e *eigen[T]) restart(t, q square, converged int) {
	keep := min(max(e.set.Count+e.b, converged+(e.size-converged)/2), e.size-e.b)
	keep = max(keep, e.b)
	var wanted [][]complex128
	column := func(k int) []complex128 {
		v := make([]complex128, e.size)
		for i := range v {
			v[i] = *q.at(i, k)
		}
		return v
	}
	var zero T
	_, isReal := any(zero).(float64)
	for k := 0; len(wanted) < keep && k < e.size; k++ {
		v := column(k)
		if !isReal {
			wanted = append(wanted, v)
			continue
		}
		// Real vectors that span the same space.
		re, im := make([]complex128, e.size), make([]complex128, e.size)
		for i, z := range v {
			re[i], im[i] = complex(real(z), 0), complex(imag(z), 0)
		}
		if norm(im) > 1e-8 {
			wanted = append(wanted, re, im)
		} else {
			wanted = append(wanted, re)
		}
		wanted = orthonormal(wanted)
	}
	p := len(wanted)
	// H and B in the new basis.
	h := e.newProjection()
	old := newSquare(e.size)
	for i := range e.size {
		copy(old.a[i*e.size:(i+1)*e.size], e.h[i])
	}
	for j, v := range wanted {
		hv := old.times(v)
		for i, u := range wanted {
			for r, z := range u {
				h[i][j] += cmplx.Conj(z) * hv[r]
			}
		}
		locked := j < converged && e.coupling(v) <= e.set.Tolerance*norm(hv)
		for r := range e.b {
			if locked {
				break
			}
			for c, z := range v {
				h[p+r][j] += e.h[e.size+r][c] * z
			}
		}
	}
	kept := e.mixed(wanted)
	e.basis = append(kept, e.basis[e.size:]...)
	duals := make([][]T, len(kept), len(e.basis))
	for i, v := range kept {
		duals[i] = e.dual(v)
	}
	e.massed = append(duals, e.massed[e.size:]...)
	e.h, e.size = h, p
}

// mixed returns combinations of the vectors of the basis before the last block.
func (e *eigen[T]) mixed(weights [][]complex128) [][]T {
	out := make([][]T, len(weights))
	for j := range out {
		out[j] = make([]T, e.n)
	}
	parallel.For(e.n, rowGrain, func(_, lo, hi int) {
		for j, w := range weights {
			for i, v := range e.basis[:e.size] {
				dense.Axpy(asScalar[T](w[i]), v[lo:hi], out[j][lo:hi])
			}
		}
	})
	return out
}
