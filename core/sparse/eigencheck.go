package sparse

import (
	"math"
	"math/cmplx"
	"math/rand/v2"

	"saltkettle/core/dense"
)

// residual is |K·x − λ·M·x| / (|K·x| + |λ|·|M·x|).
func (e *eigen[T]) residual(value complex128, x []complex128) float64 {
	var r, a, b float64
	for i := range e.n {
		var kx, mx complex128
		cols, data := e.k.Row(i)
		for k, c := range cols {
			kx += asComplex(data[k]) * x[c]
		}
		mx = x[i]
		if e.m != nil {
			mx = 0
			cols, data = e.m.Row(i)
			for k, c := range cols {
				mx += asComplex(data[k]) * x[c]
			}
		}
		d := kx - value*mx
		r += real(d)*real(d) + imag(d)*imag(d)
		a += real(kx)*real(kx) + imag(kx)*imag(kx)
		b += real(mx)*real(mx) + imag(mx)*imag(mx)
	}
	return math.Sqrt(r) / (math.Sqrt(a) + cmplx.Abs(value)*math.Sqrt(b) + math.SmallestNonzeroFloat64)
}

// verify counts the eigenvalues between the shift and the farthest one found, on
// both sides, and looks again if some are missing.
func (e *eigen[T]) verify() error {
	for range 3 {
		missing, err := e.missing()
		if err != nil {
			return err
		}
		if missing == 0 {
			e.Verified = true
			return nil
		}
		// A larger space from another start finds what hid from the first.
		e.set.Block = e.b + missing
		e.set.Basis = e.most + 4*(e.b+missing)
		e.prepare()
		e.rng = rand.New(rand.NewPCG(uint64(e.Solves), 1))
		e.start()
		if err := e.iterate(); err != nil {
			return err
		}
	}
	return nil
}

// pivotRoundOff is the part of the largest eigenvalue by which a shift must be away from an
// eigenvalue for the signs of pivots to tell on which side it is.
const pivotRoundOff = 1e-11

// largest is the largest ratio of the diagonals, about the largest eigenvalue.
func (e *eigen[T]) largest() float64 {
	most := 0.0
	for i := range e.n {
		k, m := dense.Magnitude(e.k.At(i, i)), 1.0
		if e.m != nil {
			m = dense.Magnitude(e.m.At(i, i))
		}
		if m > 0 {
			most = max(most, k/m)
		}
	}
	return most
}

// missing is how many eigenvalues closer to the shift than the farthest found are
// not among those found.
func (e *eigen[T]) missing() (int, error) {
	if len(e.Values) == 0 {
		return 0, nil
	}
	shift := real(asComplex(e.set.Shift))
	reach := 0.0
	for _, v := range e.Values {
		reach = max(reach, math.Abs(real(v)-shift))
	}
	// Just inside the last one, so that those of its cluster that were not asked
	// for do not count, and far enough from it for the pivots not to be round-off of the
	// largest ones.
	if reach > 0 {
		reach *= 1 - min(0.1, max(1e-6, pivotRoundOff*e.largest()/reach))
	}
	inside, below := 0, false
	for _, v := range e.Values {
		if math.Abs(real(v)-shift) < reach {
			inside++
		}
		below = below || real(v) < shift
	}
	high, err := e.factor(asScalar[T](complex(shift+reach, 0)))
	if err != nil {
		return 0, err
	}
	lower := e.below(e.factors, shift)
	if below || lower > 0 {
		low, err := e.factor(asScalar[T](complex(shift-reach, 0)))
		if err != nil {
			return 0, err
		}
		lower = e.below(low, shift-reach)
	}
	return max(0, e.below(high, shift+reach)-lower-inside), nil
}

// below is how many eigenvalues there are below a shift, by the factors there.
func (e *eigen[T]) below(f *Factors[T], shift float64) int {
	count := f.Negative
	if shift < 0 {
		for _, effort := range e.set.Efforts {
			if effort {
				count--
			}
		}
	}
	return count
}
