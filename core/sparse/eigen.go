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
	"saltkettle/core/parallel"
)

// EigenSettings of [Eigen]. The zero value asks for the 6 eigenvalues nearest to
// zero of a general pencil.
type EigenSettings[T dense.Scalar] struct {
	Count int // eigenvalues wanted; 0 means 6
	Shift T   // those nearest to it are found
	// Symmetric says that K and M are real and symmetric and M is positive definite.
	Symmetric bool
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
	// pencils.
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
	if err := e.prepare(); err != nil {
		return nil, err
	}
	if err := e.shift(); err != nil {
		return nil, err
	}
	e.start()
	err := e.iterate()
	if err == nil && e.set.Verify && e.set.Symmetric {
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

func (e *eigen[T]) prepare() error {
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
	if e.n < 64 {
		e.b = 1
	}
	e.most = s.Basis
	if e.most == 0 {
		e.most = max(4*s.Count+4*e.b, s.Count+24)
	}
	e.most = max(e.most, s.Count+2*e.b)
	e.most = min((e.most+e.b-1)/e.b, e.n/e.b) * e.b
	e.rng = rand.New(rand.NewPCG(20, 26))
	if e.m != nil && e.m.N() != e.n {
		panic("sparse: the matrices of the pencil differ in order")
	}
	if e.n > 1<<30 {
		return errors.New("sparse: matrix too large")
	}
	return nil
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
	if e.set.Symmetric {
		kind = Symmetric
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

func asScalar[T dense.Scalar](z complex128) T {
	var out T
	switch p := any(&out).(type) {
	case *float64:
		*p = real(z)
	case *complex128:
		*p = z
	}
	return out
}

func asComplex[T dense.Scalar](x T) complex128 {
	switch v := any(x).(type) {
	case float64:
		return complex(v, 0)
	case complex128:
		return v
	}
	return 0
}

// Combined returns alpha·A + beta·B, B the identity if it is nil.
func Combined[T dense.Scalar](a *Matrix[T], alpha T, b *Matrix[T], beta T) *Matrix[T] {
	n := a.N()
	out := &Matrix[T]{Rows: make([]int32, n+1), Cols: make([]int32, 0, len(a.Cols)), Data: make([]T, 0, len(a.Cols))}
	one, unit := []int32{0}, []T{1}
	for i := range n {
		ac, ad := a.Row(i)
		bc, bd := one, unit
		if b != nil {
			bc, bd = b.Row(i)
		} else {
			one[0] = int32(i)
		}
		for len(ac) > 0 || len(bc) > 0 {
			switch {
			case len(bc) == 0 || len(ac) > 0 && ac[0] < bc[0]:
				out.Cols, out.Data = append(out.Cols, ac[0]), append(out.Data, alpha*ad[0])
				ac, ad = ac[1:], ad[1:]
			case len(ac) == 0 || bc[0] < ac[0]:
				out.Cols, out.Data = append(out.Cols, bc[0]), append(out.Data, beta*bd[0])
				bc, bd = bc[1:], bd[1:]
			default:
				out.Cols, out.Data = append(out.Cols, ac[0]), append(out.Data, alpha*ad[0]+beta*bd[0])
				ac, ad, bc, bd = ac[1:], ad[1:], bc[1:], bd[1:]
			}
		}
		out.Rows[i+1] = int32(len(out.Cols))
	}
	return out
}

// start fills the first block with noise that has gone through the operator.
func (e *eigen[T]) start() {
	e.basis, e.massed, e.size = nil, nil, 0
	e.h = make([][]complex128, e.most+e.b)
	for i := range e.h {
		e.h[i] = make([]complex128, e.most)
	}
	block := make([][]T, e.b)
	for i := range block {
		block[i] = e.noise()
	}
	e.join(e.operate(block, nil), nil)
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
			scaleAll(w, 1/size)
			if &dual[0] != &w[0] {
				scaleAll(dual, 1/size)
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

func scaleAll[T dense.Scalar](v []T, by float64) {
	f := asScalar[T](complex(by, 0))
	for i := range v {
		v[i] *= f
	}
}

// fresh is a random vector of length 1 that is orthogonal to the basis.
func (e *eigen[T]) fresh() []T {
	w := e.noise()
	for range 3 {
		for i, d := range e.massed {
			dense.Axpy(-dense.Dot(d, w), e.basis[i], w)
		}
	}
	scaleAll(w, 1/max(e.length(w), math.SmallestNonzeroFloat64))
	return w
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

func (s square) times(x []complex128) []complex128 {
	out := make([]complex128, s.n)
	for i := range out {
		for j, v := range x {
			out[i] += *s.at(i, j) * v
		}
	}
	return out
}

// restart keeps the part of the basis that belongs to the wanted eigenvalues.
func (e *eigen[T]) restart(t, q square, converged int) {
	keep := min(max(e.set.Count+e.b, converged+(e.size-converged)/2), e.size-e.b)
	keep = max(keep/e.b*e.b, e.b)
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
	for len(wanted)%e.b != 0 && len(wanted) < e.size {
		// A pair must not be torn; the next ones fill the block up.
		for k := len(wanted); k < e.size; k++ {
			v := column(k)
			for i, z := range v {
				if isReal {
					v[i] = complex(real(z), 0)
				}
			}
			if longer := orthonormal(append(wanted, v)); len(longer) > len(wanted) {
				wanted = longer
				break
			}
		}
	}
	p := len(wanted)
	// H and B in the new basis.
	h := make([][]complex128, e.most+e.b)
	for i := range h {
		h[i] = make([]complex128, e.most)
	}
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
	e.basis = append(e.mixed(e.basis[:e.size], wanted), e.basis[e.size:]...)
	e.massed = append(e.mixed2(wanted), e.massed[e.size:]...)
	e.h, e.size = h, p
}

// mixed returns combinations of vectors.
func (e *eigen[T]) mixed(list [][]T, weights [][]complex128) [][]T {
	out := make([][]T, len(weights))
	for j := range out {
		out[j] = make([]T, e.n)
	}
	parallel.For(e.n, rowGrain, func(_, lo, hi int) {
		for j, w := range weights {
			for i, v := range list {
				dense.Axpy(asScalar[T](w[i]), v[lo:hi], out[j][lo:hi])
			}
		}
	})
	return out
}

// mixed2 is what mixed is for the duals.
func (e *eigen[T]) mixed2(weights [][]complex128) [][]T {
	conjugate := make([][]complex128, len(weights))
	for j, w := range weights {
		conjugate[j] = make([]complex128, len(w))
		for i, z := range w {
			conjugate[j][i] = cmplx.Conj(z)
		}
	}
	return e.mixed(e.massed[:e.size], conjugate)
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

// realify turns a vector that is a complex multiple of a real one into that, of
// the same length.
func realify(x []complex128) {
	var big complex128
	for _, z := range x {
		if cmplx.Abs(z) > cmplx.Abs(big) {
			big = z
		}
	}
	if big == 0 {
		return
	}
	phase := cmplx.Conj(big) / complex(cmplx.Abs(big), 0)
	for i, z := range x {
		x[i] = complex(real(z*phase), 0)
	}
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
		if err := e.prepare(); err != nil {
			return err
		}
		e.rng = rand.New(rand.NewPCG(uint64(e.Solves), 1))
		e.start()
		if err := e.iterate(); err != nil {
			return err
		}
	}
	return nil
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
	// for do not count.
	reach *= 1 - 1e-6
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
	low := e.factors
	if below || low.Negative > 0 {
		if low, err = e.factor(asScalar[T](complex(shift-reach, 0))); err != nil {
			return 0, err
		}
	}
	return max(0, high.Negative-low.Negative-inside), nil
}
