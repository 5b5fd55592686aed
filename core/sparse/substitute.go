package sparse

import (
	"slices"
	"sync"
	"sync/atomic"

	"saltkettle/core/dense"
	"saltkettle/core/parallel"
)

// strip is how many rows a triangle is solved for at a time.
const strip = 64

// Solve computes x with A·x = b. x and b may be the same slice.
func (f *Factors[T]) Solve(x, b []T) { f.SolveMany(x, b, 1) }

// SolveMany solves for m right sides at once: element i of side s is b[i·m + s].
// It is safe for concurrent use.
func (f *Factors[T]) SolveMany(x, b []T, m int) { f.solve(x, b, m, false) }

// SolveTransposed computes x with Aᵀ·x = b. x and b may be the same slice.
func (f *Factors[T]) SolveTransposed(x, b []T) { f.solve(x, b, 1, true) }

func (f *Factors[T]) solve(x, b []T, m int, transposed bool) {
	n := f.a.n
	if len(x) != n*m || len(b) != n*m {
		panic("sparse: length of vector does not match the matrix")
	}
	s := &substitution[T]{Factors: f, m: m, b: make([]T, n*m), x: make([]T, n*m)}
	before, after := f.rows, f.cols
	if transposed {
		before, after = f.cols, f.rows
		s.transpose = f.a.Kind == Unsymmetric
	}
	for k, v := range f.a.order {
		for i := range m {
			s.b[k*m+i] = times(b[int(v)*m+i], before[k])
		}
	}
	s.forward()
	s.backward()
	for k, v := range f.a.order {
		for i := range m {
			x[int(v)*m+i] = times(s.x[k*m+i], after[k])
		}
	}
}

// substitution is a solution under way: b by places of rows, x by places of
// columns.
type substitution[T dense.Scalar] struct {
	*Factors[T]
	m    int
	b, x []T
	// transpose solves with Uᵀ and Lᵀ, in which columns and rows change their roles.
	transpose bool
	// above[k] collects what subtree k takes from the rows above it.
	above [][]T
}

// hand is the work space of one goroutine.
type hand[T dense.Scalar] struct {
	*substitution[T]
	y, z   []T
	local  []int32 // where a row above the subtree is in its list
	end    int32   // columns from here on are above the subtree
	target []T
	many   bool // all workers are free for the front
}

// eachSubtree runs f for all subtrees, on all workers.
func (s *substitution[T]) eachSubtree(f func(h *hand[T], k int)) {
	var next atomic.Int32
	var wg sync.WaitGroup
	for range min(parallel.Workers(), len(s.a.subtrees)) {
		wg.Go(func() {
			h := &hand[T]{substitution: s, local: make([]int32, s.a.n)}
			for {
				k := int(next.Add(1)) - 1
				if k >= len(s.a.subtrees) {
					return
				}
				f(h, k)
			}
		})
	}
	wg.Wait()
}

// forward solves with L and D.
func (s *substitution[T]) forward() {
	s.above = make([][]T, len(s.a.subtrees))
	s.eachSubtree(func(h *hand[T], k int) {
		list := s.a.subtrees[k]
		root := &s.a.fronts[list[len(list)-1]]
		h.end = root.last
		h.target = make([]T, len(root.rows)*s.m)
		for i, id := range root.rows {
			h.local[id] = int32(i)
		}
		for _, f := range list {
			h.down(f)
		}
		s.above[k] = h.target
	})
	for k, list := range s.a.subtrees {
		for i, id := range s.a.fronts[list[len(list)-1]].rows {
			for j := range s.m {
				s.b[int(id)*s.m+j] += s.above[k][i*s.m+j]
			}
		}
	}
	h := &hand[T]{substitution: s, end: int32(s.a.n), many: true}
	for _, f := range s.a.top {
		h.down(f)
	}
}

// backward solves with the transpose of L, or with U.
func (s *substitution[T]) backward() {
	h := &hand[T]{substitution: s, many: true}
	for i := len(s.a.top) - 1; i >= 0; i-- {
		h.up(s.a.top[i])
	}
	s.eachSubtree(func(h *hand[T], k int) {
		list := s.a.subtrees[k]
		for i := len(list) - 1; i >= 0; i-- {
			h.up(list[i])
		}
	})
}

// rows runs a loop over n rows of the given length, on all workers where that is
// worth it.
func (h *hand[T]) rows(n, length int, f func(lo, hi int)) {
	if !h.many || n*length < 1<<15 {
		f(0, n)
		return
	}
	parallel.For(n, 1, func(_, lo, hi int) { f(lo, hi) })
}

// few is the number of right sides up to which inner products of rows are faster
// than the product of blocks.
const few = 8

// sides are the values of some unknowns: those of right side s begin at s·stride.
type sides[T dense.Scalar] struct {
	data   []T
	stride int
}

// from returns the values from an unknown on.
func (v sides[T]) from(i int) sides[T] { return sides[T]{v.data[i:], v.stride} }

// side returns n values of right side s.
func (v sides[T]) side(s, n int) []T { return v.data[s*v.stride : s*v.stride+n] }

// take copies the values of unknowns out of a vector by places, starting at i.
func (h *hand[T]) take(to sides[T], i int, ids []int32, x []T) {
	for k, id := range ids {
		for s, v := range x[int(id)*h.m : (int(id)+1)*h.m] {
			to.data[s*to.stride+i+k] = v
		}
	}
}

// down eliminates the unknowns of a front from the right side.
func (h *hand[T]) down(s int32) {
	f, p, m := &h.a.fronts[s], &h.parts[s], h.m
	c, e := p.candidates, p.eliminated
	below := c - e + len(f.rows)
	h.y, h.z = slices.Grow(h.y[:0], e*m)[:e*m], slices.Grow(h.z[:0], below*m)[:below*m]
	y, z := sides[T]{h.y, e}, sides[T]{h.z, below}
	clear(h.z)
	from, to := p.rowIDs, p.ids
	if h.transpose {
		from, to = to, from
	}
	h.take(y, 0, from[:e], h.b)
	switch {
	case h.transpose:
		h.upperTransposed(p.left, c, e, y)
		if c > e {
			h.transposed(p.left[e:], c, e, c-e, y, z)
		}
		if r := len(f.rows); r > 0 {
			h.transposed(p.upper, r, e, r, y, z.from(c-e))
		}
	default:
		h.lower(p.left, c, e, y)
		if below > 0 {
			h.times(p.left[e*c:], c, below, e, y, z)
		}
	}
	h.scatter(from[e:], z, 0)
	h.scatter(f.rows, z, c-e)
	if p.diagonal != nil {
		h.divide(p, y)
	}
	h.keep(to[:e], y)
}

// keep stores the values of eliminated unknowns.
func (h *hand[T]) keep(ids []int32, y sides[T]) {
	for i, id := range ids {
		to := h.x[int(id)*h.m : (int(id)+1)*h.m]
		for s := range to {
			to[s] = y.data[s*y.stride+i]
		}
	}
}

func (h *hand[T]) threads() int {
	if h.many {
		return parallel.Workers()
	}
	return 1
}

// scatter adds values from the given one on to the right side at some places.
func (h *hand[T]) scatter(ids []int32, z sides[T], from int) {
	m := h.m
	for i, id := range ids {
		to := h.b[int(id)*m:]
		if id >= h.end {
			to = h.target[int(h.local[id])*m:]
		}
		for s := range m {
			to[s] += z.data[s*z.stride+from+i]
		}
	}
}

// divide solves with D.
func (h *hand[T]) divide(p *part[T], y sides[T]) {
	for s := range h.m {
		v := y.side(s, p.eliminated)
		for k := 0; k < p.eliminated; k++ {
			if p.beside[k] == 0 {
				v[k] /= p.diagonal[k]
				continue
			}
			v[k], v[k+1] = dense.SolvePair(p.diagonal[k], p.beside[k], p.diagonal[k+1], v[k], v[k+1])
			k++
		}
	}
}

// up finds the unknowns of a front from those above it.
func (h *hand[T]) up(s int32) {
	f, p, m := &h.a.fronts[s], &h.parts[s], h.m
	c, e := p.candidates, p.eliminated
	below := c - e + len(f.rows)
	h.y, h.z = slices.Grow(h.y[:0], e*m)[:e*m], slices.Grow(h.z[:0], below*m)[:below*m]
	y, z := sides[T]{h.y, e}, sides[T]{h.z, below}
	ids := p.ids
	if h.transpose {
		ids = p.rowIDs
	}
	h.take(y, 0, ids[:e], h.x)
	h.take(z, 0, ids[e:], h.x)
	h.take(z, c-e, f.rows, h.x)
	if p.diagonal != nil || h.transpose {
		if below > 0 {
			h.transposed(p.left[e*c:], c, below, e, z, y)
		}
		h.lowerTransposed(p.left, c, e, y)
	} else {
		r := len(f.rows)
		if c > e {
			h.times(p.left[e:], c, e, c-e, z, y)
		}
		if r > 0 {
			h.times(p.upper, r, e, r, z.from(c-e), y)
		}
		h.upperSolve(p.left, c, e, y)
	}
	h.keep(ids[:e], y)
}

// lower solves L·y = y for a unit lower triangle of order e.
func (h *hand[T]) lower(l []T, ld, e int, y sides[T]) {
	for i0 := 0; i0 < e; i0 += strip {
		i1 := min(i0+strip, e)
		if i0 > 0 {
			h.times(l[i0*ld:], ld, i1-i0, i0, y, y.from(i0))
		}
		for s := range h.m {
			v := y.side(s, e)
			for i := i0 + 1; i < i1; i++ {
				v[i] -= dense.Dot(l[i*ld+i0:i*ld+i], v[i0:i])
			}
		}
	}
}

// times takes the product of a block of n rows and k columns with z from y.
func (h *hand[T]) times(a []T, ld, n, k int, z, y sides[T]) {
	if n == 0 || k == 0 {
		return
	}
	if h.m > few {
		dense.Add(y.data, y.stride, h.m, n, k, -1, dense.Operand[T]{Data: z.data, Row: z.stride, Col: 1}, dense.Operand[T]{Data: a, Row: 1, Col: ld}, dense.Full, h.threads())
		return
	}
	if real, ok := any(a).([]float64); ok && h.m == 2 {
		zs, ys := any(z.data).([]float64), any(y.data).([]float64)
		h.rows(n, k, func(lo, hi int) { timesPair(real, ld, lo, hi, k, zs, z.stride, ys, y.stride) })
		return
	}
	h.rows(n, k, func(lo, hi int) {
		for i := lo; i < hi; i++ {
			row := a[i*ld : i*ld+k]
			for s := range h.m {
				y.data[s*y.stride+i] -= dense.Dot(row, z.side(s, k))
			}
		}
	})
}

// timesPair is times for two right sides, of rows lo to hi: two rows at a time are read
// once for both.
func timesPair(a []float64, ld, lo, hi, k int, z []float64, zStride int, y []float64, yStride int) {
	x1, x2 := z[:k], z[zStride:zStride+k]
	i := lo
	for ; i+1 < hi; i += 2 {
		s := dense.DotPair(a[i*ld:i*ld+k], a[(i+1)*ld:(i+1)*ld+k], x1, x2)
		y[i] -= s[0]
		y[i+1] -= s[1]
		y[yStride+i] -= s[2]
		y[yStride+i+1] -= s[3]
	}
	if i < hi {
		row := a[i*ld : i*ld+k]
		y[i] -= dense.Dot(row, x1)
		y[yStride+i] -= dense.Dot(row, x2)
	}
}

// transposedPair is transposed for two right sides, of columns lo to hi.
func transposedPair(a []float64, ld, n, lo, hi int, z []float64, zStride int, y []float64, yStride int) {
	y1, y2 := y[lo:hi], y[yStride+lo:yStride+hi]
	i := 0
	for ; i+1 < n; i += 2 {
		f := [4]float64{-z[i], -z[i+1], -z[zStride+i], -z[zStride+i+1]}
		dense.AxpyPair(&f, a[i*ld+lo:i*ld+hi], a[(i+1)*ld+lo:(i+1)*ld+hi], y1, y2)
	}
	if i < n {
		row := a[i*ld+lo : i*ld+hi]
		dense.Axpy(-z[i], row, y1)
		dense.Axpy(-z[zStride+i], row, y2)
	}
}

// transposed takes the product of the transpose of a block of n rows and k columns
// with z from y.
func (h *hand[T]) transposed(a []T, ld, n, k int, z, y sides[T]) {
	if n == 0 || k == 0 {
		return
	}
	if h.m > few {
		dense.Add(y.data, y.stride, h.m, k, n, -1, dense.Operand[T]{Data: z.data, Row: z.stride, Col: 1}, dense.Operand[T]{Data: a, Row: ld, Col: 1}, dense.Full, h.threads())
		return
	}
	if real, ok := any(a).([]float64); ok && h.m == 2 {
		zs, ys := any(z.data).([]float64), any(y.data).([]float64)
		h.rows(k, n, func(lo, hi int) { transposedPair(real, ld, n, lo, hi, zs, z.stride, ys, y.stride) })
		return
	}
	h.rows(k, n, func(lo, hi int) {
		for i := range n {
			row := a[i*ld+lo : i*ld+hi]
			for s := range h.m {
				dense.Axpy(-z.data[s*z.stride+i], row, y.data[s*y.stride+lo:s*y.stride+hi])
			}
		}
	})
}

// lowerTransposed solves Lᵀ·y = y for a unit lower triangle of order e.
func (h *hand[T]) lowerTransposed(l []T, ld, e int, y sides[T]) {
	for i1 := e; i1 > 0; {
		i0 := (i1 - 1) / strip * strip
		for s := range h.m {
			v := y.side(s, e)
			for i := i1 - 1; i > i0; i-- {
				dense.Axpy(-v[i], l[i*ld+i0:i*ld+i], v[i0:i])
			}
		}
		h.transposed(l[i0*ld:], ld, i1-i0, i0, y.from(i0), y)
		i1 = i0
	}
}

// upperSolve solves U·y = y for an upper triangle of order e.
func (h *hand[T]) upperSolve(u []T, ld, e int, y sides[T]) {
	for i1 := e; i1 > 0; {
		i0 := (i1 - 1) / strip * strip
		if i1 < e {
			h.times(u[i0*ld+i1:], ld, i1-i0, e-i1, y.from(i1), y.from(i0))
		}
		for s := range h.m {
			v := y.side(s, e)
			for i := i1 - 1; i >= i0; i-- {
				v[i] = (v[i] - dense.Dot(u[i*ld+i+1:i*ld+i1], v[i+1:i1])) / u[i*ld+i]
			}
		}
		i1 = i0
	}
}

// upperTransposed solves Uᵀ·y = y for an upper triangle of order e.
func (h *hand[T]) upperTransposed(u []T, ld, e int, y sides[T]) {
	for i0 := 0; i0 < e; i0 += strip {
		i1 := min(i0+strip, e)
		for s := range h.m {
			v := y.side(s, e)
			for i := i0; i < i1; i++ {
				v[i] /= u[i*ld+i]
				dense.Axpy(-v[i], u[i*ld+i+1:i*ld+i1], v[i+1:i1])
			}
		}
		if i1 < e {
			h.transposed(u[i0*ld+i1:], ld, i1-i0, e-i1, y.from(i0), y.from(i1))
		}
	}
}
