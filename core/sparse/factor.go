package sparse

import (
	"context"
	"fmt"
	"math"
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
	// Where the block of a child goes.
	to                 []int32
	candidates, others []run
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
