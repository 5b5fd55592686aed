package sparse

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/cmplx"
	"math/rand/v2"
	"sort"

	"saltkettle/core/dense"
)

// EigenSettings of [Eigen]. The zero value asks for the 6 eigenvalues nearest to
// zero of a general pencil.
type EigenSettings[T dense.Scalar] struct {
	Count int // eigenvalues wanted; 0 means 6
	Shift T   // those nearest to it are found
	// Symmetric says that K and M are real and symmetric and M is positive definite.
	Symmetric bool
	// Efforts marks the rows that make K − σM symmetric when they are divided by σ, where K and M themselves are real and not symmetric: those of an
	// effort, as a pressure, beside a motion. With M = (M₁ 0; Cᵀ M₂) and K = (K₁ −C; 0 K₂) this is
	// D(σ) = (K₁ − σM₁, −C; −Cᵀ, K₂/σ − M₂), which falls with σ, so that its negative pivots count the eigenvalues below a σ above
	// zero; below zero as many more are negative as there are such rows. nil is none.
	Efforts []bool
	// Tolerance of the residuals relative to the eigenvalues of the inverse; 0 means
	// 1e-10.
	Tolerance float64
	// Block is how many vectors are worked on at once, Basis how many are kept at
	// most; 0 lets it choose.
	Block, Basis int
	// MaxRestarts bounds the work; 0 means 100.
	MaxRestarts int
	// Verify counts the eigenvalues in the interval by the signs of the pivots of
	// factorisations at its ends and looks for those missed. Only for symmetric
	// pencils, and those with Efforts.
	Verify bool
	// Progress is called after each restart with how many have converged.
	Progress func(restart, converged int)
}

// EigenResult has eigenvalues and vectors by rising distance from the shift.
type EigenResult struct {
	Values  []complex128
	Vectors [][]complex128 // of M-length 1 for a symmetric pencil, of length 1 otherwise
	// Residuals are |K·x − λ·M·x| / (|K·x| + |λ|·|M·x|).
	Residuals []float64
	Restarts  int
	Solves    int // linear systems solved
	// Verified says that the interval holds no other eigenvalue.
	Verified bool
}

// ErrEigen says that not all eigenvalues wanted converged; those that did are in
// the result.
var ErrEigen = errors.New("sparse: not all eigenvalues converged")

// Eigen finds the eigenvalues of K·x = λ·M·x nearest to a shift by the block
// Krylov–Schur method (G. Stewart, SIAM J. Matrix Anal. Appl. 23 (2001) 601; Y.
// Zhou and Y. Saad, Numer. Algorithms 47 (2008) 341) with the inverse of K − σM. A
// nil M is the identity. Converged vectors are locked.
func Eigen[T dense.Scalar](ctx context.Context, k, m *Matrix[T], set *EigenSettings[T]) (*EigenResult, error) {
	e := &eigen[T]{ctx: ctx, k: k, m: m, n: k.N()}
	if set != nil {
		e.set = *set
	}
	e.prepare()
	if err := e.shift(); err != nil {
		return nil, err
	}
	e.start()
	err := e.iterate()
	if err == nil && e.set.Verify && (e.set.Symmetric || e.set.Efforts != nil) {
		err = e.verify()
	}
	return &e.EigenResult, err
}

// eigen is the state of an eigenvalue computation. The basis holds vectors as rows;
// K−σM inverse times M takes V to V·H + W·B, where W is the last block.
type eigen[T dense.Scalar] struct {
	EigenResult
	ctx     context.Context
	set     EigenSettings[T]
	k, m    *Matrix[T]
	n       int
	b       int // vectors of a block
	most    int // vectors kept without the last block
	factors *Factors[T]
	an      *Analysis
	basis   [][]T
	massed  [][]T // M times the basis, for a symmetric pencil
	h       [][]complex128
	size    int // vectors before the last block
	rng     *rand.Rand
}

// prepare fills in what the settings leave open.
func (e *eigen[T]) prepare() {
	s := &e.set
	if s.Count == 0 {
		s.Count = 6
	}
	if s.Tolerance == 0 {
		s.Tolerance = 1e-10
	}
	if s.MaxRestarts == 0 {
		s.MaxRestarts = 100
	}
	s.Count = min(s.Count, e.n)
	e.b = s.Block
	if e.b == 0 {
		e.b = 2
	}
	if e.n < 64 || 2*s.Count > e.n {
		e.b = 1
	}
	e.most = s.Basis
	if e.most == 0 {
		e.most = max(4*s.Count+4*e.b, s.Count+24)
	}
	e.most = max(e.most, s.Count+2*e.b)
	if e.b > 1 {
		// The space must not fill up in the middle of a block.
		e.most = min(e.most, e.n-2*e.b)
	}
	e.most = min(e.most, e.n)
	e.rng = rand.New(rand.NewPCG(20, 26))
	if e.m != nil && e.m.N() != e.n {
		panic("sparse: the matrices of the pencil differ in order")
	}
}

// shift factors K − σM.
func (e *eigen[T]) shift() error {
	f, err := e.factor(e.set.Shift)
	var singular *SingularError
	if errors.As(err, &singular) {
		// The shift is an eigenvalue: beside it the same ones are nearest.
		off := e.scale() * 1e-6
		f, err = e.factor(e.set.Shift - asScalar[T](complex(off, 0)))
		e.set.Shift -= asScalar[T](complex(off, 0))
	}
	e.factors = f
	return err
}

// scale is a typical size of the eigenvalues: the mean ratio of the diagonals.
func (e *eigen[T]) scale() float64 {
	var k, m float64
	for i := range e.n {
		k += dense.Magnitude(e.k.At(i, i))
		if e.m != nil {
			m += dense.Magnitude(e.m.At(i, i))
		} else {
			m++
		}
	}
	if k == 0 || m == 0 {
		return 1
	}
	return k / m
}

func (e *eigen[T]) factor(shift T) (*Factors[T], error) {
	a := Combined(e.k, 1, e.m, -shift)
	kind := Unsymmetric
	if e.set.Symmetric || e.set.Efforts != nil {
		kind = Symmetric
	}
	for i, effort := range e.set.Efforts {
		if effort {
			_, data := a.Row(i)
			for k := range data {
				data[k] /= shift
			}
		}
	}
	if e.an == nil {
		e.an = Analyse(a, kind, nil)
	}
	f, err := Factor(e.ctx, e.an, a, nil)
	if err != nil {
		return nil, fmt.Errorf("the shifted matrix cannot be factored: %w", err)
	}
	return f, nil
}

// iterate expands and restarts until enough have converged.
func (e *eigen[T]) iterate() error {
	for {
		// The projected matrix is looked at now and then on the way.
		for next := min(max(2*e.set.Count, e.size+2*e.b), e.most); e.size < next; {
			if err := e.ctx.Err(); err != nil {
				return err
			}
			col := e.size
			block := e.operate(e.basis[col:col+e.b], e.massed[col:col+e.b])
			e.size += e.b
			e.join(block, func(row, s int, c T) { e.h[row][col+s] += asComplex(c) })
		}
		t := newSquare(e.size)
		for i := range e.size {
			copy(t.a[i*e.size:(i+1)*e.size], e.h[i])
		}
		if e.set.Symmetric {
			for i := range e.size {
				for j := range i {
					mean := (*t.at(i, j) + *t.at(j, i)) / 2
					*t.at(i, j), *t.at(j, i) = mean, mean
				}
			}
		}
		q, err := schur(t)
		if err != nil {
			return err
		}
		sortSchur(t, q, func(v complex128) float64 { return -cmplx.Abs(v) })
		converged := e.converged(t, q)
		if e.set.Progress != nil {
			e.set.Progress(e.Restarts, converged)
		}
		if converged < e.set.Count && e.size < e.most {
			continue
		}
		if converged >= e.set.Count || e.Restarts >= e.set.MaxRestarts {
			e.collect(t, q, min(converged, e.set.Count))
			if converged < e.set.Count {
				return ErrEigen
			}
			return nil
		}
		e.restart(t, q, converged)
		e.Restarts++
	}
}

// converged counts the leading eigenvalues whose residual is small enough.
func (e *eigen[T]) converged(t, q square) int {
	count := 0
	for k := range e.size {
		y := e.direction(t, q, k)
		if e.coupling(y) > e.set.Tolerance*cmplx.Abs(*t.at(k, k)) {
			break
		}
		count++
	}
	return count
}

// direction is eigenvector k of the projected matrix. Where that is symmetric T is
// diagonal but for round-off, which must not turn the vectors of a multiple
// eigenvalue.
func (e *eigen[T]) direction(t, q square, k int) []complex128 {
	if !e.set.Symmetric {
		return q.times(t.eigenvector(k))
	}
	v := make([]complex128, t.n)
	for i := range v {
		v[i] = *q.at(i, k)
	}
	return v
}

// coupling is the length of what the operator takes a vector of the basis to
// beyond it.
func (e *eigen[T]) coupling(y []complex128) float64 {
	var sum float64
	for r := e.size; r < e.size+e.b; r++ {
		var c complex128
		for j, v := range y {
			c += e.h[r][j] * v
		}
		sum += real(c)*real(c) + imag(c)*imag(c)
	}
	return math.Sqrt(sum)
}

// collect turns the leading eigenvalues of the projected matrix into those of the
// pencil.
func (e *eigen[T]) collect(t, q square, count int) {
	e.Values, e.Vectors, e.Residuals = nil, nil, nil
	for k := range count {
		y := e.direction(t, q, k)
		x := make([]complex128, e.n)
		for i, c := range y {
			for r, v := range e.basis[i] {
				x[r] += c * asComplex(v)
			}
		}
		value := asComplex(e.set.Shift) + 1/(*t.at(k, k))
		if e.set.Symmetric {
			value = complex(real(value), 0)
			realify(x)
		} else {
			normalise(x)
		}
		e.Values = append(e.Values, value)
		e.Vectors = append(e.Vectors, x)
		e.Residuals = append(e.Residuals, e.residual(value, x))
	}
	sort.Stable(e)
}

func (e *eigen[T]) Len() int { return len(e.Values) }

func (e *eigen[T]) Less(i, j int) bool {
	s := asComplex(e.set.Shift)
	return cmplx.Abs(e.Values[i]-s) < cmplx.Abs(e.Values[j]-s)
}

func (e *eigen[T]) Swap(i, j int) {
	e.Values[i], e.Values[j] = e.Values[j], e.Values[i]
	e.Vectors[i], e.Vectors[j] = e.Vectors[j], e.Vectors[i]
	e.Residuals[i], e.Residuals[j] = e.Residuals[j], e.Residuals[i]
}
