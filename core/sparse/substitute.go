package sparse

import (
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
func (f *Factors[T]) SolveMany(x, b []T, m int) {
	n := f.a.n
	if len(x) != n*m || len(b) != n*m {
		panic("sparse: length of vector does not match the matrix")
	}
	s := &substitution[T]{Factors: f, m: m, b: make([]T, n*m), x: make([]T, n*m)}
	for k, v := range f.a.order {
		for i := range m {
			s.b[k*m+i] = times(b[int(v)*m+i], f.rows[k])
		}
	}
	s.forward()
	s.backward()
	for k, v := range f.a.order {
		for i := range m {
			x[int(v)*m+i] = times(s.x[k*m+i], f.cols[k])
		}
	}
}

// substitution is a solution under way: b by places of rows, x by places of
// columns.
type substitution[T dense.Scalar] struct {
	*Factors[T]
	m    int
	b, x []T
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

// down eliminates the unknowns of a front from the right side.
func (h *hand[T]) down(s int32) {
	f, p, m := &h.a.fronts[s], &h.parts[s], h.m
	c, e := p.candidates, p.eliminated
	below := c - e + len(f.rows)
	y := grow(h.y, e*m)
	z := grow(h.z, below*m)
	h.y, h.z = y, z
	for i, id := range p.rowIDs[:e] {
		copy(y[i*m:(i+1)*m], h.b[int(id)*m:(int(id)+1)*m])
	}
	h.lower(p.left, c, e, y)
	if below > 0 {
		clear(z)
		if m == 1 {
			h.rows(below, e, func(lo, hi int) {
				for i := lo; i < hi; i++ {
					z[i] = -dense.Dot(p.left[(e+i)*c:(e+i)*c+e], y)
				}
			})
		} else {
			dense.Add(z, m, below, m, e, -1, dense.Operand[T]{Data: p.left[e*c:], Row: c, Col: 1}, dense.Operand[T]{Data: y, Row: m, Col: 1}, dense.Full, h.threads())
		}
		h.scatter(p.rowIDs[e:], z)
		h.scatter(f.rows, z[(c-e)*m:])
	}
	if p.diagonal != nil {
		h.divide(p, y)
	}
	for i, id := range p.ids[:e] {
		copy(h.x[int(id)*m:(int(id)+1)*m], y[i*m:(i+1)*m])
	}
}

func (h *hand[T]) threads() int {
	if h.many {
		return parallel.Workers()
	}
	return 1
}

// scatter adds values to the right side at some places.
func (h *hand[T]) scatter(ids []int32, z []T) {
	m := h.m
	for i, id := range ids {
		to := h.b[int(id)*m:]
		if id >= h.end {
			to = h.target[int(h.local[id])*m:]
		}
		for j, v := range z[i*m : (i+1)*m] {
			to[j] += v
		}
	}
}

// divide solves with D.
func (h *hand[T]) divide(p *part[T], y []T) {
	m := h.m
	for k := 0; k < p.eliminated; k++ {
		if p.beside[k] == 0 {
			for j := range m {
				y[k*m+j] /= p.diagonal[k]
			}
			continue
		}
		o := p.beside[k]
		a, b := p.diagonal[k]/o, p.diagonal[k+1]/o
		det := a*b - 1
		for j := range m {
			u, v := y[k*m+j]/o, y[(k+1)*m+j]/o
			y[k*m+j], y[(k+1)*m+j] = (b*u-v)/det, (a*v-u)/det
		}
		k++
	}
}

// up finds the unknowns of a front from those above it.
func (h *hand[T]) up(s int32) {
	f, p, m := &h.a.fronts[s], &h.parts[s], h.m
	c, e := p.candidates, p.eliminated
	below := c - e + len(f.rows)
	y := grow(h.y, e*m)
	z := grow(h.z, below*m)
	h.y, h.z = y, z
	for i, id := range p.ids[:e] {
		copy(y[i*m:(i+1)*m], h.x[int(id)*m:(int(id)+1)*m])
	}
	for i, id := range p.ids[e:] {
		copy(z[i*m:(i+1)*m], h.x[int(id)*m:(int(id)+1)*m])
	}
	for i, id := range f.rows {
		copy(z[(c-e+i)*m:(c-e+i+1)*m], h.x[int(id)*m:(int(id)+1)*m])
	}
	if p.upper == nil {
		h.transposed(p.left[e*c:], c, below, e, z, y)
		h.lowerTransposed(p.left, c, e, y)
	} else {
		r := len(f.rows)
		h.times(p.left[e:], c, e, c-e, z, y)
		h.times(p.upper, r, e, r, z[(c-e)*m:], y)
		h.upperSolve(p.left, c, e, y)
	}
	for i, id := range p.ids[:e] {
		copy(h.x[int(id)*m:(int(id)+1)*m], y[i*m:(i+1)*m])
	}
}

// lower solves L·y = y for a unit lower triangle of order e.
func (h *hand[T]) lower(l []T, ld, e int, y []T) {
	m := h.m
	for i0 := 0; i0 < e; i0 += strip {
		i1 := min(i0+strip, e)
		if i0 > 0 {
			h.times(l[i0*ld:], ld, i1-i0, i0, y[:i0*m], y[i0*m:i1*m])
		}
		for i := i0 + 1; i < i1; i++ {
			if m == 1 {
				y[i] -= dense.Dot(l[i*ld+i0:i*ld+i], y[i0:i])
				continue
			}
			for k := i0; k < i; k++ {
				dense.Axpy(-l[i*ld+k], y[k*m:(k+1)*m], y[i*m:(i+1)*m])
			}
		}
	}
}

// times takes the product of a block of n rows and k columns with z from y.
func (h *hand[T]) times(a []T, ld, n, k int, z, y []T) {
	if n == 0 || k == 0 {
		return
	}
	m := h.m
	if m > 1 {
		dense.Add(y, m, n, m, k, -1, dense.Operand[T]{Data: a, Row: ld, Col: 1}, dense.Operand[T]{Data: z, Row: m, Col: 1}, dense.Full, h.threads())
		return
	}
	h.rows(n, k, func(lo, hi int) {
		for i := lo; i < hi; i++ {
			y[i] -= dense.Dot(a[i*ld:i*ld+k], z[:k])
		}
	})
}

// transposed takes the product of the transpose of a block of n rows and k columns
// with z from y.
func (h *hand[T]) transposed(a []T, ld, n, k int, z, y []T) {
	if n == 0 || k == 0 {
		return
	}
	m := h.m
	if m > 1 {
		dense.Add(y, m, k, m, n, -1, dense.Operand[T]{Data: a, Row: 1, Col: ld}, dense.Operand[T]{Data: z, Row: m, Col: 1}, dense.Full, h.threads())
		return
	}
	h.rows(k, n, func(lo, hi int) {
		for i := range n {
			dense.Axpy(-z[i], a[i*ld+lo:i*ld+hi], y[lo:hi])
		}
	})
}

// lowerTransposed solves Lᵀ·y = y for a unit lower triangle of order e.
func (h *hand[T]) lowerTransposed(l []T, ld, e int, y []T) {
	m := h.m
	for i1 := e; i1 > 0; {
		i0 := (i1 - 1) / strip * strip
		for i := i1 - 1; i > i0; i-- {
			if m == 1 {
				dense.Axpy(-y[i], l[i*ld+i0:i*ld+i], y[i0:i])
				continue
			}
			for k := i0; k < i; k++ {
				dense.Axpy(-l[i*ld+k], y[i*m:(i+1)*m], y[k*m:(k+1)*m])
			}
		}
		h.transposed(l[i0*ld:], ld, i1-i0, i0, y[i0*m:i1*m], y[:i0*m])
		i1 = i0
	}
}

// upperSolve solves U·y = y for an upper triangle of order e.
func (h *hand[T]) upperSolve(u []T, ld, e int, y []T) {
	m := h.m
	for i1 := e; i1 > 0; {
		i0 := (i1 - 1) / strip * strip
		if i1 < e {
			h.times(u[i0*ld+i1:], ld, i1-i0, e-i1, y[i1*m:e*m], y[i0*m:i1*m])
		}
		for i := i1 - 1; i >= i0; i-- {
			row := y[i*m : (i+1)*m]
			if m == 1 {
				row[0] -= dense.Dot(u[i*ld+i+1:i*ld+i1], y[i+1:i1])
			} else {
				for k := i + 1; k < i1; k++ {
					dense.Axpy(-u[i*ld+k], y[k*m:(k+1)*m], row)
				}
			}
			for j := range row {
				row[j] /= u[i*ld+i]
			}
		}
		i1 = i0
	}
}

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
			scaleAll(v, 1/big)
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
