package sparse

import (
	"math"
	"slices"
	"sync/atomic"

	"saltkettle/core/dense"
	"saltkettle/core/parallel"
)

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

// free gives the memory of a block back. What does not serve the next fronts, which tend to be
// larger, goes first.
func (j *job[T]) free(b *rest[T]) {
	s := b.data
	b.data = nil
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
		to, split := w.places(b.ids, c)
		if !slices.IsSorted(to) {
			// Columns that were put off are out of order.
			for i := range n {
				for k, v := range b.data[i*n : i*n+i+1] {
					row, col := int(max(to[i], to[k])), int(min(to[i], to[k]))
					if col < c {
						p.left[row*c+col] += v
					} else {
						block[(row-c)*r+col-c] += v
					}
				}
			}
			w.free(b)
			continue
		}
		w.candidates, w.others = runs(w.candidates[:0], to[:split], 0), runs(w.others[:0], to[split:], c)
		parallelIf(w.threads > 1 && n > 200, n, func(lo, hi int) {
			for i := lo; i < hi; i++ {
				row := int(to[i])
				from := b.data[i*n : i*n+i+1]
				addRuns(p.left[row*c:row*c+c], from[:min(split, i+1)], w.candidates)
				if i >= split {
					addRuns(block[(row-c)*r:(row-c+1)*r], from[split:], w.others)
				}
			}
		})
		w.free(b)
	}
}

// run is a stretch of elements that go to neighbouring places.
type run struct{ from, to, n int }

// places is where the rows of a child are in the front at hand, and how many of
// them come before row c, that is are candidates.
func (w *worker[T]) places(ids []int32, c int) (to []int32, split int) {
	to = slices.Grow(w.to[:0], len(ids))[:len(ids)]
	w.to = to
	for i, id := range ids {
		to[i] = w.local[id]
	}
	for split < len(to) && int(to[split]) < c {
		split++
	}
	return to, split
}

// runs appends the stretches in a list of places, which are counted from base.
func runs(list []run, places []int32, base int) []run {
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
		to, split := w.places(b.ids, c)
		w.candidates, w.others = runs(w.candidates[:0], to[:split], 0), runs(w.others[:0], to[split:], c)
		for i := range n {
			row := int(w.localRow[b.rowIDs[i]])
			from := b.data[i*n : (i+1)*n]
			addRuns(p.left[row*c:row*c+c], from[:split], w.candidates)
			if row < c {
				addRuns(p.upper[row*r:(row+1)*r], from[split:], w.others)
			} else {
				addRuns(block[(row-c)*r:(row-c+1)*r], from[split:], w.others)
			}
		}
		w.free(b)
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
	w.free(&rest[T]{data: block})
}
