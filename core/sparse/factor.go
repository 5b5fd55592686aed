package sparse

import (
	"context"
	"fmt"
	"math"
	"slices"
	"sync"
	"sync/atomic"

	"saltkettle/core/dense"
	"saltkettle/core/parallel"
)

// FactorSettings of a direct solver. The zero value works.
type FactorSettings struct {
	// Threshold of the pivots of indefinite and unsymmetric matrices: elements of L
	// are at most its inverse; 0 means 0.01.
	Threshold float64
	// Progress is called with the part of the work done. It may be nil and is called
	// from one goroutine at a time.
	Progress func(part float64)
}

// Factors of a matrix, with rows and columns scaled and permuted: L·D·Lᵀ or L·U,
// made by the multifrontal method (I. Duff and J. Reid, ACM Trans. Math. Softw. 9
// (1983) 302).
type Factors[T dense.Scalar] struct {
	// PutOff counts the columns that had to be eliminated later than planned, for
	// want of a pivot.
	PutOff int
	// Positive, Negative and Zero pivots of a real symmetric matrix: its inertia.
	Positive, Negative, Zero int
	// Null spans the vectors that the matrix takes to zero; empty if there are none.
	// The solution is then one of many, if there is one at all.
	Null [][]T

	a     *Analysis
	rows  []float64 // scale of each row, by place
	cols  []float64
	parts []part[T]
	set   FactorSettings
}

// part is a front of the factors.
type part[T dense.Scalar] struct {
	candidates, eliminated int
	ids                    []int32 // places of the candidates as columns, those eliminated first
	rowIDs                 []int32 // and as rows, the same list for a symmetric matrix
	left                   []T     // rows by candidates
	upper                  []T     // candidates by rows below
	diagonal, beside       []T
}

// tiny is the size of a pivot, relative to the scaled matrix, that counts as zero.
const tiny = 1.0 / (1 << 45)

// SingularError says that a matrix has no inverse.
type SingularError struct{ Dimension int }

func (e *SingularError) Error() string {
	return fmt.Sprintf("the matrix is singular: %d of its rows follow from the others", e.Dimension)
}

// Factor computes the factors of a matrix whose pattern was analysed. It returns a
// [SingularError] with factors that hold the null space if the matrix is singular,
// dense.ErrNotDefinite if it is not positive definite though its kind says so,
// and the error of ctx if that ends.
func Factor[T dense.Scalar](ctx context.Context, a *Analysis, m *Matrix[T], set *FactorSettings) (*Factors[T], error) {
	if m.N() != a.n {
		panic("sparse: the matrix is not the one that was analysed")
	}
	f := &Factors[T]{a: a, parts: make([]part[T], len(a.fronts))}
	if set != nil {
		f.set = *set
	}
	if err := f.scale(m); err != nil {
		return nil, err
	}
	j := &job[T]{ctx: ctx, Factors: f, m: m, rests: make([]rest[T], len(a.fronts))}
	j.run()
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	if j.failed != nil {
		return nil, j.failed
	}
	f.inertia()
	if j.left > 0 {
		f.findNull(int(j.left))
		return f, &SingularError{Dimension: int(j.left)}
	}
	return f, nil
}

// scale finds factors for rows and columns that bring the largest element of each
// near 1 (D. Ruiz, RAL-TR-2001-034, two steps for a symmetric matrix).
func (f *Factors[T]) scale(m *Matrix[T]) error {
	n := m.N()
	row, col := make([]float64, n), make([]float64, n)
	for i := range n {
		row[i], col[i] = 1, 1
	}
	symmetric := f.a.Kind != Unsymmetric
	largest := make([]float64, n)
	for step := range 2 {
		parallel.For(n, rowGrain, func(_, lo, hi int) {
			for i := lo; i < hi; i++ {
				cols, data := m.Row(i)
				big := 0.0
				for k, c := range cols {
					if v := dense.Magnitude(data[k]) * col[c]; !(v <= big) {
						big = v
					}
				}
				largest[i] = big * row[i]
			}
		})
		if step == 0 {
			for i, v := range largest {
				if math.IsNaN(v) || math.IsInf(v, 0) {
					return fmt.Errorf("sparse: row %d of the matrix has an element that is not finite", i)
				}
			}
		}
		for i, v := range largest {
			if v == 0 {
				continue
			}
			if symmetric {
				row[i] /= math.Sqrt(v)
			} else if step == 0 {
				row[i] /= v
			}
		}
		if symmetric {
			copy(col, row)
			continue
		}
		if step == 0 {
			big := make([]float64, n)
			for i := range n {
				cols, data := m.Row(i)
				for k, c := range cols {
					big[c] = max(big[c], dense.Magnitude(data[k])*row[i])
				}
			}
			for j, v := range big {
				if v > 0 {
					col[j] = 1 / v
				}
			}
		}
	}
	f.rows, f.cols = make([]float64, n), make([]float64, n)
	for k, v := range f.a.order {
		// Powers of two do not round.
		f.rows[k], f.cols[k] = power(row[v]), power(col[v])
	}
	return nil
}

func power(x float64) float64 {
	_, e := math.Frexp(x)
	return math.Ldexp(1, e)
}

// rest is the block of a front that waits for the parent.
type rest[T dense.Scalar] struct {
	ids, rowIDs []int32 // places of its columns and rows
	data        []T
}

// job is a factorisation under way.
type job[T dense.Scalar] struct {
	*Factors[T]
	ctx    context.Context
	m      *Matrix[T]
	rests  []rest[T]
	pool   [][]T // memory of blocks that were used up, by rising size
	mu     sync.Mutex
	failed error
	left   int32 // columns without a pivot at the roots
	putOff int32
	work   float64
}

// worker holds what a goroutine needs for a front.
type worker[T dense.Scalar] struct {
	*job[T]
	dense.Workspace[T]
	local, localRow []int32 // where a place is in the front at hand
	threads         int
}

func (j *job[T]) worker(threads int) *worker[T] {
	w := &worker[T]{job: j, threads: threads, local: make([]int32, j.a.n)}
	w.localRow = w.local
	if j.a.Kind == Unsymmetric {
		w.localRow = make([]int32, j.a.n)
	}
	return w
}

func (j *job[T]) run() {
	var next atomic.Int32
	var wg sync.WaitGroup
	for range min(parallel.Workers(), len(j.a.subtrees)) {
		wg.Go(func() {
			w := j.worker(1)
			for {
				k := int(next.Add(1)) - 1
				if k >= len(j.a.subtrees) {
					return
				}
				for _, s := range j.a.subtrees[k] {
					if !w.do(s) {
						return
					}
				}
			}
		})
	}
	wg.Wait()
	w := j.worker(parallel.Workers())
	for _, s := range j.a.top {
		if !w.do(s) {
			break
		}
	}
	j.PutOff = int(j.putOff)
}

// do makes a front and eliminates it. It returns false if the factorisation has
// failed or was stopped.
func (w *worker[T]) do(s int32) bool {
	if w.ctx.Err() != nil {
		return false
	}
	f := &w.a.fronts[s]
	p := &w.parts[s]
	r := len(f.rows)
	w.gather(f, p)
	c := p.candidates
	p.left = make([]T, (c+r)*c)
	p.diagonal, p.beside = nil, nil
	var block []T
	if r > 0 {
		block = w.block(r * r)
	}
	rule := dense.Pivoting{Definite: w.a.Kind == Definite, Threshold: w.set.Threshold, Tiny: tiny}
	if w.a.Kind == Unsymmetric {
		p.upper = make([]T, c*r)
		w.assembleSquare(f, p, block)
		q := &dense.Square[T]{Rows: c + r, Candidates: c, Left: p.left, Upper: p.upper, Rest: block, RowOrder: counting(c), ColumnOrder: counting(c)}
		w.FactorSquare(q, &rule, w.threads)
		p.eliminated = q.Eliminated
		p.ids, p.rowIDs = reorder(p.ids, q.ColumnOrder), reorder(p.rowIDs, q.RowOrder)
	} else {
		w.assembleFront(f, p, block)
		diagonal := make([]T, 2*c)
		p.diagonal, p.beside = diagonal[:c], diagonal[c:]
		q := &dense.Front[T]{Rows: c + r, Candidates: c, Left: p.left, Rest: block, Order: counting(c), Diagonal: p.diagonal, Beside: p.beside}
		if err := w.Factor(q, &rule, w.threads); err != nil {
			w.mu.Lock()
			w.failed = err
			w.mu.Unlock()
			return false
		}
		p.eliminated = q.Eliminated
		p.ids = reorder(p.ids, q.Order)
		p.rowIDs = p.ids
	}
	w.pass(s, block)
	w.report(f.work)
	w.mu.Lock()
	ok := w.failed == nil
	w.mu.Unlock()
	return ok
}

// report counts the work done.
func (w *worker[T]) report(work float64) {
	w.mu.Lock()
	defer w.mu.Unlock()
	before := w.work
	w.work += work
	const steps = 50
	if w.set.Progress != nil && w.a.Work > 0 && math.Floor(steps*w.work/w.a.Work) > math.Floor(steps*before/w.a.Work) {
		w.set.Progress(w.work / w.a.Work)
	}
}

func counting(n int) []int32 {
	s := make([]int32, n)
	for i := range s {
		s[i] = int32(i)
	}
	return s
}

func reorder(ids, order []int32) []int32 {
	out := make([]int32, len(ids))
	for i, o := range order {
		out[i] = ids[o]
	}
	return out
}

// gather lists the candidates of a front: its own columns and those its children
// put off.
func (w *worker[T]) gather(f *front, p *part[T]) {
	for j := f.first; j < f.last; j++ {
		p.ids = append(p.ids, j)
	}
	for _, c := range f.children {
		child := &w.parts[c]
		p.ids = append(p.ids, child.ids[child.eliminated:]...)
	}
	p.candidates = len(p.ids)
	for i, id := range p.ids {
		w.local[id] = int32(i)
	}
	for i, id := range f.rows {
		w.local[id] = int32(p.candidates + i)
	}
	if w.a.Kind != Unsymmetric {
		return
	}
	for j := f.first; j < f.last; j++ {
		p.rowIDs = append(p.rowIDs, j)
	}
	for _, c := range f.children {
		child := &w.parts[c]
		p.rowIDs = append(p.rowIDs, child.rowIDs[child.eliminated:]...)
	}
	for i, id := range p.rowIDs {
		w.localRow[id] = int32(i)
	}
	for i, id := range f.rows {
		w.localRow[id] = int32(p.candidates + i)
	}
}

// block returns zeroed memory for n elements.
func (j *job[T]) block(n int) []T {
	j.mu.Lock()
	// The smallest that is large enough, unless it is much too large.
	k, _ := slices.BinarySearchFunc(j.pool, n, func(s []T, n int) int { return cap(s) - n })
	if k == len(j.pool) || cap(j.pool[k]) > 4*n+1024 {
		j.mu.Unlock()
		return make([]T, n)
	}
	s := j.pool[k][:n]
	j.pool = slices.Delete(j.pool, k, k+1)
	j.mu.Unlock()
	clear(s)
	return s
}

// free gives memory back. What does not serve the next fronts, which tend to be
// larger, goes first.
func (j *job[T]) free(s []T) {
	if cap(s) == 0 {
		return
	}
	const most = 24
	j.mu.Lock()
	defer j.mu.Unlock()
	k, _ := slices.BinarySearchFunc(j.pool, cap(s), func(s []T, n int) int { return cap(s) - n })
	j.pool = slices.Insert(j.pool, k, s)
	if len(j.pool) > most {
		j.pool = slices.Delete(j.pool, 0, 1)
	}
}

// times scales an element.
func times[T dense.Scalar](x T, by float64) T {
	switch p := any(&x).(type) {
	case *float64:
		*p *= by
	case *complex128:
		*p = complex(real(*p)*by, imag(*p)*by)
	}
	return x
}

// assembleFront adds the elements of the matrix and the blocks of the children to
// the lower part of a symmetric front.
func (w *worker[T]) assembleFront(f *front, p *part[T], block []T) {
	c, r := p.candidates, len(f.rows)
	for j := f.first; j < f.last; j++ {
		at := int(w.local[j])
		cols, data := w.m.Row(int(w.a.order[j]))
		scale := w.cols[j]
		for k, u := range cols {
			if i := w.a.place[u]; i >= j {
				row, col := int(w.local[i]), at
				if row < col {
					row, col = col, row
				}
				p.left[row*c+col] += times(data[k], scale*w.rows[i])
			}
		}
	}
	for _, child := range f.children {
		b := &w.rests[child]
		n := len(b.ids)
		to := make([]int32, n)
		ascending := true
		for i, id := range b.ids {
			to[i] = w.local[id]
			ascending = ascending && (i == 0 || to[i] > to[i-1])
		}
		if !ascending {
			for i := range n {
				for k, v := range b.data[i*n : i*n+i+1] {
					row, col := int(to[i]), int(to[k])
					if row < col {
						row, col = col, row
					}
					if col < c {
						p.left[row*c+col] += v
					} else {
						block[(row-c)*r+col-c] += v
					}
				}
			}
		} else {
			// The columns that are candidates of this front come first.
			split := 0
			for split < n && int(to[split]) < c {
				split++
			}
			candidates, others := runs(to[:split], 0), runs(to[split:], c)
			parallelIf(w.threads > 1 && n > 200, n, func(lo, hi int) {
				for i := lo; i < hi; i++ {
					row := int(to[i])
					from := b.data[i*n : i*n+i+1]
					addRuns(p.left[row*c:row*c+c], from[:min(split, i+1)], candidates)
					if i >= split {
						addRuns(block[(row-c)*r:(row-c+1)*r], from[split:], others)
					}
				}
			})
		}
		w.free(b.data)
		b.data = nil
	}
}

// run is a stretch of elements that go to neighbouring places.
type run struct{ from, to, n int }

// runs finds the stretches in a list of places, which are counted from base.
func runs(places []int32, base int) []run {
	var list []run
	for i, p := range places {
		if k := len(list) - 1; k >= 0 && list[k].to+list[k].n == int(p)-base {
			list[k].n++
			continue
		}
		list = append(list, run{i, int(p) - base, 1})
	}
	return list
}

// addRuns adds the elements of from to their places in out; from may be cut short.
func addRuns[T dense.Scalar](out, from []T, list []run) {
	for _, r := range list {
		n := min(r.n, len(from)-r.from)
		if n <= 0 {
			return
		}
		x, y := from[r.from:r.from+n], out[r.to:r.to+n]
		if n >= 8 {
			dense.Axpy(1, x, y)
			continue
		}
		for i, v := range x {
			y[i] += v
		}
	}
}

// parallelIf runs a loop on all workers, with about the same part of a triangle
// each, or on one.
func parallelIf(many bool, n int, f func(lo, hi int)) {
	if !many {
		f(0, n)
		return
	}
	k := parallel.Workers()
	cut := func(i int) int { return int(math.Sqrt(float64(i)/float64(k)) * float64(n)) }
	parallel.For(k, 1, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			end := cut(i + 1)
			if i == k-1 {
				end = n
			}
			f(cut(i), end)
		}
	})
}

// assembleSquare is assembleFront for an unsymmetric matrix.
func (w *worker[T]) assembleSquare(f *front, p *part[T], block []T) {
	c, r := p.candidates, len(f.rows)
	put := func(row, col int, v T) {
		switch {
		case col < c:
			p.left[row*c+col] += v
		case row < c:
			p.upper[row*r+col-c] += v
		default:
			block[(row-c)*r+col-c] += v
		}
	}
	for j := f.first; j < f.last; j++ {
		unknown := w.a.order[j]
		cols, data := w.m.Row(int(unknown))
		for k, u := range cols {
			if i := w.a.place[u]; i >= j {
				put(int(w.localRow[j]), int(w.local[i]), times(data[k], w.rows[j]*w.cols[i]))
			}
		}
		for k := w.a.columns[unknown]; k < w.a.columns[unknown+1]; k++ {
			if i := w.a.place[w.a.rowOf[k]]; i > j {
				put(int(w.localRow[i]), int(w.local[j]), times(w.m.Data[w.a.dataOf[k]], w.rows[i]*w.cols[j]))
			}
		}
	}
	for _, child := range f.children {
		b := &w.rests[child]
		n := len(b.ids)
		to, split := make([]int32, n), 0
		for i, id := range b.ids {
			to[i] = w.local[id]
		}
		for split < n && int(to[split]) < c {
			split++
		}
		candidates, others := runs(to[:split], 0), runs(to[split:], c)
		for i := range n {
			row := int(w.localRow[b.rowIDs[i]])
			from := b.data[i*n : (i+1)*n]
			addRuns(p.left[row*c:row*c+c], from[:split], candidates)
			if row < c {
				addRuns(p.upper[row*r:(row+1)*r], from[split:], others)
			} else {
				addRuns(block[(row-c)*r:(row-c+1)*r], from[split:], others)
			}
		}
		w.free(b.data)
		b.data = nil
	}
}

// pass hands what is left of a front to its parent.
func (w *worker[T]) pass(s int32, block []T) {
	f, p := &w.a.fronts[s], &w.parts[s]
	c, r, e := p.candidates, len(f.rows), p.eliminated
	d := c - e
	if f.parent < 0 {
		atomic.AddInt32(&w.left, int32(d))
		return
	}
	b := &w.rests[s]
	if d == 0 {
		b.ids, b.rowIDs, b.data = f.rows, f.rows, block
		return
	}
	atomic.AddInt32(&w.putOff, int32(d))
	n := d + r
	b.ids = append(append(make([]int32, 0, n), p.ids[e:]...), f.rows...)
	b.rowIDs = append(append(make([]int32, 0, n), p.rowIDs[e:]...), f.rows...)
	b.data = w.block(n * n)
	for i := range n {
		out := b.data[i*n : (i+1)*n]
		copy(out[:d], p.left[(e+i)*c+e:(e+i)*c+c])
		switch {
		case i >= d:
			copy(out[d:], block[(i-d)*r:(i-d+1)*r])
		case p.upper != nil:
			copy(out[d:], p.upper[(e+i)*r:(e+i+1)*r])
		}
	}
	w.free(block)
}

// inertia counts the signs of the pivots of a real symmetric matrix.
func (f *Factors[T]) inertia() {
	for i := range f.parts {
		p := &f.parts[i]
		diagonal, ok := any(p.diagonal).([]float64)
		if !ok || p.diagonal == nil {
			return
		}
		beside := any(p.beside).([]float64)
		for k := 0; k < p.eliminated; k++ {
			switch {
			case beside[k] != 0:
				// Such a block is taken only if its determinant is negative.
				f.Positive++
				f.Negative++
				k++
			case diagonal[k] > 0:
				f.Positive++
			default:
				f.Negative++
			}
		}
		if f.a.fronts[i].parent < 0 {
			f.Zero += p.candidates - p.eliminated
		}
	}
}
