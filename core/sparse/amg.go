package sparse

import (
	"context"
	"errors"
	"math"
	"sync/atomic"

	"saltkettle/core/parallel"
)

// AMG is a multigrid cycle built from the matrix alone by smoothed aggregation
// (Vaněk, Mandel, Brezina, "Algebraic multigrid by smoothed aggregation for
// second and fourth order elliptic problems", Computing 56 (1996) 179–196), for
// symmetric positive definite matrices whose near-nullspace is the constant
// vector, such as those of conduction, or given vectors. Smoothing is by Chebyshev polynomials of
// degree 2, which need only products with the matrix (Adams, Brezina, Hu,
// Tuminaro, J. Comput. Phys. 188 (2003) 593–610). One Apply is a symmetric
// V-cycle.
type AMG struct {
	levels []*amgLevel
	coarse interface{ solve(x, b []float64) } // of the last level; nil where smoothing is enough
}

// amgLevel is a matrix with the transfer to the next coarser one. The matrices
// of the cycle are kept in single precision: a preconditioner loses nothing by
// it, and products are bound by memory.
type amgLevel struct {
	a, p, r       *single
	inverse       []float64 // of the diagonal
	bound         float64   // of the eigenvalues of D⁻¹A
	b, x, res, d  []float64 // work
	n, aggregates int
}

// AMGSettings shape the hierarchy. The zero value works.
type AMGSettings struct {
	// Strength is the least |a_ij|/√(a_ii a_jj) of a strong connection on the
	// finest level, halved from level to level; 0 means 0.02 or, for matrices of flat
	// cells, another measure.
	Strength float64
	// Coarsest is the order below which a level is solved directly; 0 means 600.
	Coarsest int
	// Near are the vectors that the matrix hardly changes, such as [RigidMotions] for
	// elasticity; nil means the constant. PerNode unknowns in turn belong to a node;
	// 0 means 1.
	Near    [][]float64
	PerNode int
	// Lower, if it is not nil, leads to the finest level from one with fewer unknowns that is known beforehand, such as from
	// functions of order 1 to those of order 2, where aggregates would be of very unlike unknowns (of p-multigrid: E. M.
	// Rønquist, A. T. Patera, J. Sci. Comput. 2 (1987) 389).
	Lower *Transfer
}

// Transfer has for each unknown of a level those of a coarser one that it follows from, with their factors, in compressed
// rows; Width is how many unknowns the coarser one has. Its unknowns that are also ones of the finer level, in the order
// of that, have a factor of one alone and are listed in Kept.
type Transfer struct {
	Rows, Cols []int32
	Data       []float64
	Width      int
	Kept       []int32
}

const (
	usualStrength = 0.02
	// Entries that are positive beside the diagonal, summed over a row and relative to the
	// diagonal, from which on average cells count as flat, and the part of the strongest
	// connection that counts as strong there.
	flatRow      = 0.05
	flatStrength = 0.6

	maxLevels   = 20
	stallFactor = 0.8   // a level that shrinks by less is the last
	sparseLimit = 60000 // greatest order that is factorised when coarsening stalls
	// enough is the least part of the spectrum of D⁻¹A from which smoothing alone solves
	// equations well, as those in which what is stored outweighs what is conducted.
	enough       = 0.04
	lowFraction  = 0.25 // of the spectrum, below which the smoother leaves errors to the coarse grid
	boundMargin  = 1.1  // of the estimated greatest eigenvalue
	powerSteps   = 12
	prolongScale = 4.0 / 3
)

// NewAMG builds the hierarchy. It fails if the diagonal of a level is not
// positive.
func NewAMG(ctx context.Context, a *CSR, set *AMGSettings) (*AMG, error) {
	if set == nil {
		set = &AMGSettings{}
	}
	theta, coarsest := set.Strength, set.Coarsest
	if theta == 0 {
		theta = usualStrength
	}
	if coarsest == 0 {
		coarsest = 600
	}
	m := &AMG{}
	var near *nearSpace
	if set.Near != nil {
		near = newNearSpace(a.N(), set.PerNode, set.Near)
	}
	current := &rect{rows: a.Rows, cols: a.Cols, data: a.Data, width: a.N()}
	for len(m.levels) < maxLevels {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		l, err := newLevel(current)
		if err != nil {
			return nil, err
		}
		m.levels = append(m.levels, l)
		if l.n <= coarsest {
			break
		}
		if lower := set.Lower; lower != nil && len(m.levels) == 1 {
			p := &rect{rows: lower.Rows, cols: lower.Cols, data: lower.Data, width: lower.Width}
			r := p.transpose()
			current = r.times(current.times(p))
			l.p, l.r, l.aggregates = p.single(), r.single(), lower.Width
			if near != nil {
				near = near.kept(lower.Kept)
			}
			continue
		}
		if finest := 1; set.Strength == 0 && near == nil && theta > 0 {
			if set.Lower != nil {
				finest = 2
			}
			if len(m.levels) == finest && isFlat(current, l.inverse) {
				theta = -flatStrength
			}
		}
		var p *rect
		var count int
		if near != nil {
			p, near, count = l.prolongNear(current, near, theta)
		} else {
			var aggregate []int32
			aggregate, count = aggregates(current, l.inverse, theta)
			if float64(count) <= stallFactor*float64(l.n) {
				p = l.prolongation(current, aggregate, count, theta)
			}
		}
		if count == 0 || p == nil {
			break
		}
		r := p.transpose()
		current = r.times(current.times(p))
		l.p, l.r, l.aggregates = p.single(), r.single(), count
		if theta > 0 {
			theta /= 2
		}
	}
	last := m.levels[len(m.levels)-1]
	switch {
	case last.n <= coarsest:
		c, err := newCholesky(current)
		if err != nil {
			return nil, err
		}
		m.coarse = c
	case last.n <= sparseLimit && last.least() < enough*last.bound:
		c, err := newSparseCoarse(ctx, current)
		if err != nil {
			return nil, err
		}
		m.coarse = c
	}
	return m, nil
}

// least estimates the smallest eigenvalue of D⁻¹A, from above, as what the greatest of
// bound − D⁻¹A leaves of the bound.
func (l *amgLevel) least() float64 {
	return l.bound - l.power(func(w, v []float64) {
		l.a.mul(w, v)
		for i := range w {
			w[i] = l.bound*v[i] - w[i]*l.inverse[i]
		}
	})
}

// sparseCoarse solves a level by sparse factors.
type sparseCoarse struct{ factors *Factors[float64] }

func newSparseCoarse(ctx context.Context, r *rect) (*sparseCoarse, error) {
	a := &CSR{Rows: r.rows, Cols: r.cols, Data: r.data}
	f, err := Factor(ctx, Analyse(a, Definite, nil), a, nil)
	return &sparseCoarse{f}, err
}

func (c *sparseCoarse) solve(x, b []float64) { c.factors.Solve(x, b) }

// Levels returns the order of the matrix on each level, the finest first.
func (m *AMG) Levels() []int {
	n := make([]int, len(m.levels))
	for i, l := range m.levels {
		n[i] = l.n
	}
	return n
}

func newLevel(a *rect) (*amgLevel, error) {
	n := a.n()
	l := &amgLevel{n: n, inverse: make([]float64, n), b: make([]float64, n), x: make([]float64, n), res: make([]float64, n), d: make([]float64, n)}
	var bad atomic.Bool
	parallel.For(n, rowGrain, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			for k := a.rows[i]; k < a.rows[i+1]; k++ {
				if int(a.cols[k]) == i {
					l.inverse[i] = 1 / a.data[k]
					break
				}
			}
			if !(l.inverse[i] > 0) || math.IsInf(l.inverse[i], 1) {
				bad.Store(true)
			}
		}
	})
	if bad.Load() {
		return nil, errors.New("sparse: the diagonal of the matrix is not positive")
	}
	l.a = a.single()
	l.bound = l.spectrum()
	return l, nil
}

// spectrum estimates the greatest eigenvalue of D⁻¹A with a margin.
func (l *amgLevel) spectrum() float64 {
	return boundMargin * l.power(func(w, v []float64) {
		l.a.mul(w, v)
		for i := range w {
			w[i] *= l.inverse[i]
		}
	})
}

// power estimates the greatest eigenvalue of a product by the power method from a fixed
// start that has all frequencies.
func (l *amgLevel) power(mul func(w, v []float64)) float64 {
	v, w := l.x, l.res
	seed := uint32(12345)
	for i := range v {
		seed = seed*1664525 + 1013904223
		v[i] = float64(seed>>8)/(1<<24) - 0.5
	}
	value := 1.0
	for range powerSteps {
		mul(w, v)
		norm := Norm(w)
		if norm == 0 {
			break
		}
		value = norm / Norm(v)
		for i := range v {
			v[i] = w[i] / norm
		}
	}
	clear(l.x)
	return value
}

// isFlat says that the cells of a matrix are flat: across them connections are so strong
// that the ones along them are positive.
func isFlat(a *rect, inverse []float64) bool {
	var sum float64
	for i, d := range inverse {
		for k := a.rows[i]; k < a.rows[i+1]; k++ {
			if int(a.cols[k]) != i && a.data[k] > 0 {
				sum += a.data[k] * d
			}
		}
	}
	return sum > flatRow*float64(len(inverse))
}

// connect tells whether entry k, in row i, is a strong connection. A negative theta
// compares the negative entries with the strongest of both rows; the positive ones of
// flat cells connect nothing.
func connect(a *rect, inverse []float64, theta float64) func(i int, k int32) bool {
	if theta >= 0 {
		limit := theta * theta
		return func(i int, k int32) bool {
			j := a.cols[k]
			return int(j) != i && a.data[k]*a.data[k]*inverse[i]*inverse[j] > limit
		}
	}
	most := make([]float64, a.n())
	for i := range most {
		for k := a.rows[i]; k < a.rows[i+1]; k++ {
			most[i] = max(most[i], -a.data[k])
		}
	}
	return func(i int, k int32) bool {
		j := a.cols[k]
		return int(j) != i && a.data[k] < 0 && a.data[k] <= theta*min(most[i], most[j])
	}
}

// aggregates groups the unknowns by strong connections: whole neighbourhoods
// first, then what is left to a neighbouring group. Unknowns without a strong
// connection belong to none (−1); smoothing alone solves them.
func aggregates(a *rect, inverse []float64, theta float64) (group []int32, count int) {
	n := a.n()
	group = make([]int32, n)
	for i := range group {
		group[i] = -1
	}
	strong := connect(a, inverse, theta)
	for i := range n {
		if group[i] >= 0 {
			continue
		}
		free, any := true, false
		for k := a.rows[i]; k < a.rows[i+1] && free; k++ {
			if strong(i, k) {
				any = true
				free = group[a.cols[k]] < 0
			}
		}
		if !free || !any {
			continue
		}
		group[i] = int32(count)
		for k := a.rows[i]; k < a.rows[i+1]; k++ {
			if strong(i, k) {
				group[a.cols[k]] = int32(count)
			}
		}
		count++
	}
	joined := make([]int32, n)
	copy(joined, group)
	for i := range n {
		if group[i] >= 0 {
			continue
		}
		best := 0.0
		for k := a.rows[i]; k < a.rows[i+1]; k++ {
			j := a.cols[k]
			if w := math.Abs(a.data[k]) * math.Sqrt(inverse[j]); strong(i, k) && group[j] >= 0 && w > best {
				best, joined[i] = w, group[j]
			}
		}
	}
	for i := range n {
		if joined[i] >= 0 {
			continue
		}
		any := false
		for k := a.rows[i]; k < a.rows[i+1]; k++ {
			if strong(i, k) && joined[a.cols[k]] < 0 {
				joined[a.cols[k]] = int32(count)
				any = true
			}
		}
		if any {
			joined[i] = int32(count)
			count++
		}
	}
	return joined, count
}

// prolongation smooths the piecewise constant functions of the aggregates by one
// damped Jacobi step with the matrix without its weak connections.
func (l *amgLevel) prolongation(a *rect, group []int32, count int, theta float64) *rect {
	omega := prolongScale / (l.bound / boundMargin)
	strong := connect(a, l.inverse, theta)
	return build(l.n, count, func(i int, acc *accumulator) {
		if group[i] < 0 {
			return
		}
		// The weak connections are moved to the diagonal.
		diagonal := 0.0
		for k := a.rows[i]; k < a.rows[i+1]; k++ {
			j := int(a.cols[k])
			if j == i || !strong(i, k) {
				diagonal += a.data[k]
			}
		}
		if diagonal <= 0 {
			diagonal = 1 / l.inverse[i]
		}
		scale := omega / diagonal
		for k := a.rows[i]; k < a.rows[i+1]; k++ {
			j := int(a.cols[k])
			if group[j] >= 0 && strong(i, k) {
				acc.add(group[j], -scale*a.data[k])
			}
		}
		acc.add(group[i], 1-omega)
	})
}

// Apply sets dst to one V-cycle for the right side r.
func (m *AMG) Apply(dst, r []float64) {
	copy(m.levels[0].b, r)
	m.cycle(0)
	copy(dst, m.levels[0].x)
}

// cycle solves level k for its b approximately into its x.
func (m *AMG) cycle(k int) {
	l := m.levels[k]
	if k == len(m.levels)-1 {
		if m.coarse != nil {
			m.coarse.solve(l.x, l.b)
			return
		}
		l.smooth(true)
		return
	}
	l.smooth(true)
	next := m.levels[k+1]
	l.r.mul(next.b, l.res)
	m.cycle(k + 1)
	l.p.mul(l.res, next.x)
	parallel.For(l.n, vectorGrain, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			l.x[i] += l.res[i]
		}
	})
	l.smooth(false)
}

// vectorGrain is the fewest entries of a vector that are worth a goroutine.
const vectorGrain = 1 << 15

// smooth makes two Chebyshev steps on A·x = b. From zero the first needs no
// product, and the residual is left in res.
func (l *amgLevel) smooth(zero bool) {
	high, low := l.bound, lowFraction*l.bound
	theta, delta := (high+low)/2, (high-low)/2
	sigma := theta / delta
	rho := 1 / sigma
	next := 1 / (2*sigma - rho)
	c1, c2 := next*rho, 2*next/delta
	if zero {
		copy(l.res, l.b)
	} else {
		l.a.residual(l.res, l.b, l.x)
	}
	parallel.For(l.n, vectorGrain, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			l.d[i] = l.res[i] * l.inverse[i] / theta
			if zero {
				l.x[i] = l.d[i]
			} else {
				l.x[i] += l.d[i]
			}
		}
	})
	l.a.subtract(l.res, l.d)
	parallel.For(l.n, vectorGrain, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			l.d[i] = c1*l.d[i] + c2*l.res[i]*l.inverse[i]
			l.x[i] += l.d[i]
		}
	})
	if zero {
		l.a.subtract(l.res, l.d)
	}
}
