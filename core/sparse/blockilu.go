package sparse

import (
	"fmt"
	"math"
	"slices"
	"sync"

	"saltkettle/core/dense"
	"saltkettle/core/parallel"
)

// BlockILU is an incomplete factorisation L·U in blocks, with the pattern of the blocks: of
// neighbouring nodes with blocks full of numbers it is much closer to the matrix than that of
// the single unknowns. Rows of one level need none of each other, so that all cores work on
// them; the nodes are renumbered so that there are few levels and those of one follow each
// other.
type BlockILU[T Real] struct {
	m        *Blocked[T] // of the renumbered nodes: L below with the unit, U above, inverses of the diagonal blocks
	diagonal []int64
	from     []int64 // of each block the one of the matrix that it was
	// order has the node of each row, and levels the first row of each level and the end.
	order  []int32
	levels []int
	// back are the levels of U from the last row on.
	backRows   []int32
	backLevels []int

	x, r []float64
}

// BlockILUSettings of [NewBlockILU]. The zero value works.
type BlockILUSettings struct {
	// Colours renumbers the nodes by colours, no two neighbours of one: few levels, and about
	// half as many iterations more. Without it they keep their order, and levels are waves.
	Colours bool
}

// NewBlockILU factors a blocked matrix incompletely. Every row must store its diagonal block.
func NewBlockILU[T Real](a *Blocked[T], set *BlockILUSettings) (*BlockILU[T], error) {
	f := &BlockILU[T]{}
	f.order = renumbered(a.Rows, a.Cols, set != nil && set.Colours)
	f.m, f.from = a.permuted(f.order)
	n := f.m.Nodes()
	f.diagonal = make([]int64, n)
	for i := range n {
		lo, hi := f.m.Rows[i], f.m.Rows[i+1]
		k, ok := slices.BinarySearch(f.m.Cols[lo:hi], int32(i))
		if !ok {
			return nil, fmt.Errorf("sparse: the row of node %d stores no diagonal block", f.order[i])
		}
		f.diagonal[i] = lo + int64(k)
	}
	f.findLevels()
	f.x, f.r = make([]float64, n*f.m.B), make([]float64, n*f.m.B)
	return f, f.factor()
}

// renumbered is the order in which nodes are factored: level by level.
func renumbered(rows []int64, cols []int32, colours bool) []int32 {
	n := len(rows) - 1
	of := make([]int32, n) // level
	if colours {
		for i := range of {
			of[i] = -1
		}
		var taken []bool
		for i := range n {
			clear(taken)
			for _, j := range cols[rows[i]:rows[i+1]] {
				if c := of[j]; c >= 0 && int(j) != i {
					for len(taken) <= int(c) {
						taken = append(taken, false)
					}
					taken[c] = true
				}
			}
			free := slices.Index(taken, false)
			if free < 0 {
				free = len(taken)
			}
			of[i] = int32(free)
		}
	} else {
		for i := range n {
			for _, j := range cols[rows[i]:rows[i+1]] {
				if int(j) < i {
					of[i] = max(of[i], of[j]+1)
				}
			}
		}
	}
	order := make([]int32, n)
	for i := range order {
		order[i] = int32(i)
	}
	slices.SortStableFunc(order, func(a, b int32) int { return int(of[a]) - int(of[b]) })
	return order
}

// Renew factors another matrix with the same pattern.
func (f *BlockILU[T]) Renew(a *Blocked[T]) error {
	size := int64(a.B * a.B)
	parallel.For(len(f.from), 4096, func(_, lo, hi int) {
		for k := lo; k < hi; k++ {
			from := f.from[k]
			copy(f.m.Data[int64(k)*size:(int64(k)+1)*size], a.Data[from*size:(from+1)*size])
		}
	})
	return f.factor()
}

// permuted is the matrix with its nodes in another order, and the block that each of its blocks
// was.
func (m *Blocked[T]) permuted(order []int32) (out *Blocked[T], from []int64) {
	n, size := m.Nodes(), int64(m.B*m.B)
	place := make([]int32, n)
	for i, v := range order {
		place[v] = int32(i)
	}
	out = &Blocked[T]{B: m.B, Rows: make([]int64, n+1), Cols: make([]int32, len(m.Cols)), Data: make([]T, len(m.Data))}
	from = make([]int64, len(m.Cols))
	for i, v := range order {
		out.Rows[i+1] = out.Rows[i] + m.Rows[v+1] - m.Rows[v]
	}
	parallel.For(n, 512, func(_, lo, hi int) {
		var ks []int64
		for i := lo; i < hi; i++ {
			v := order[i]
			ks = ks[:0]
			for k := m.Rows[v]; k < m.Rows[v+1]; k++ {
				ks = append(ks, k)
			}
			slices.SortFunc(ks, func(a, b int64) int { return int(place[m.Cols[a]]) - int(place[m.Cols[b]]) })
			for n, k := range ks {
				to := out.Rows[i] + int64(n)
				out.Cols[to], from[to] = place[m.Cols[k]], k
				copy(out.Data[to*size:(to+1)*size], m.Data[k*size:(k+1)*size])
			}
		}
	})
	return out, from
}

// findLevels finds which rows need none of each other, forwards and backwards.
func (f *BlockILU[T]) findLevels() {
	n := f.m.Nodes()
	of := make([]int32, n)
	f.levels = append(f.levels[:0], 0)
	for i := range n {
		for k := f.m.Rows[i]; k < f.diagonal[i]; k++ {
			of[i] = max(of[i], of[f.m.Cols[k]]+1)
		}
		// The order is by levels: rows of one follow each other.
		if i > 0 && of[i] != of[i-1] {
			f.levels = append(f.levels, i)
		}
	}
	f.levels = append(f.levels, n)
	clear(of)
	most := int32(0)
	for i := n - 1; i >= 0; i-- {
		for k := f.diagonal[i] + 1; k < f.m.Rows[i+1]; k++ {
			of[i] = max(of[i], of[f.m.Cols[k]]+1)
		}
		most = max(most, of[i])
	}
	f.backRows = make([]int32, n)
	for i := range f.backRows {
		f.backRows[i] = int32(n - 1 - i)
	}
	slices.SortStableFunc(f.backRows, func(a, b int32) int { return int(of[a]) - int(of[b]) })
	f.backLevels = append(f.backLevels[:0], 0)
	for i := 1; i < n; i++ {
		if of[f.backRows[i]] != of[f.backRows[i-1]] {
			f.backLevels = append(f.backLevels, i)
		}
	}
	f.backLevels = append(f.backLevels, n)
}

// Levels is how many levels there are forwards.
func (f *BlockILU[T]) Levels() int { return len(f.levels) - 1 }

// fewRows is below how many rows of a level one core does them by itself.
const fewRows = 64

// factor eliminates row by row, the rows of a level side by side.
func (f *BlockILU[T]) factor() error {
	m, b := f.m, f.m.B
	size := int64(b * b)
	workers := parallel.Workers()
	at := make([][]int64, workers)
	for w := range at {
		at[w] = make([]int64, m.Nodes())
		for i := range at[w] {
			at[w][i] = -1
		}
	}
	var once sync.Once
	var failed error
	singles := m.singles()
	parallel.Stages(f.levels, fewRows, func(worker, lo, hi int) {
		place := at[worker]
		var inverse [MaxBlock * MaxBlock]float64
		for i := lo; i < hi; i++ {
			for k := m.Rows[i]; k < m.Rows[i+1]; k++ {
				place[m.Cols[k]] = k
			}
			if singles != nil {
				f.eliminateSingles(singles, i, place)
			} else {
				f.eliminate(i, place)
			}
			pivot := m.Data[f.diagonal[i]*size : (f.diagonal[i]+1)*size]
			if !invert(inverse[:], pivot, b) {
				once.Do(func() { failed = fmt.Errorf("sparse: the diagonal block of node %d has no inverse", f.order[i]) })
			}
			for x := range pivot {
				pivot[x] = T(inverse[x])
			}
			for k := m.Rows[i]; k < m.Rows[i+1]; k++ {
				place[m.Cols[k]] = -1
			}
		}
	})
	return failed
}

// eliminate takes from row i what the rows above it have; place has where its blocks are, −1 where there are none.
func (f *BlockILU[T]) eliminate(i int, place []int64) {
	m, b := f.m, f.m.B
	size := int64(b * b)
	var l [MaxBlock * MaxBlock]float64
	for k := m.Rows[i]; k < f.diagonal[i]; k++ {
		c := m.Cols[k]
		// L = A·U⁻¹, as the diagonal blocks are inverted already.
		block, pivot := m.Data[k*size:(k+1)*size], m.Data[f.diagonal[c]*size:(f.diagonal[c]+1)*size]
		for r := range b {
			for s := range b {
				sum := 0.0
				for t := range b {
					sum += float64(block[r*b+t]) * float64(pivot[t*b+s])
				}
				l[r*b+s] = sum
			}
		}
		for x := range block {
			block[x] = T(l[x])
		}
		for q := f.diagonal[c] + 1; q < m.Rows[c+1]; q++ {
			to := place[m.Cols[q]]
			if to < 0 {
				continue
			}
			u, out := m.Data[q*size:(q+1)*size], m.Data[to*size:(to+1)*size]
			for r := range b {
				for s := range b {
					sum := 0.0
					for t := range b {
						sum += l[r*b+t] * float64(u[t*b+s])
					}
					out[r*b+s] -= T(sum)
				}
			}
		}
	}
}

// eliminateSingles is eliminate for blocks in single precision for which there are kernels.
func (f *BlockILU[T]) eliminateSingles(data []float32, i int, place []int64) {
	m := f.m
	size := int64(m.B * m.B)
	var l, less [dense.MostBlock * dense.MostBlock]float32
	for k := m.Rows[i]; k < f.diagonal[i]; k++ {
		c := m.Cols[k]
		block := data[size*k : size*(k+1)]
		clear(less[:])
		dense.SubtractProduct(m.B, less[:], block, data[size*f.diagonal[c]:])
		for x, v := range less {
			l[x] = -v
		}
		copy(block, l[:size])
		for q := f.diagonal[c] + 1; q < m.Rows[c+1]; q++ {
			if to := place[m.Cols[q]]; to >= 0 {
				dense.SubtractProduct(m.B, data[size*to:], l[:], data[size*q:])
			}
		}
	}
}

// invert inverts a block by Gauss–Jordan elimination with pivots in columns; false if it cannot.
func invert[T Real](out []float64, block []T, b int) bool {
	var a [MaxBlock * MaxBlock]float64
	for i := range b * b {
		a[i] = float64(block[i])
		out[i] = 0
	}
	for i := range b {
		out[i*b+i] = 1
	}
	for k := range b {
		best := k
		for r := k + 1; r < b; r++ {
			if math.Abs(a[r*b+k]) > math.Abs(a[best*b+k]) {
				best = r
			}
		}
		pivot := a[best*b+k]
		if pivot == 0 || math.IsNaN(pivot) || math.IsInf(pivot, 0) {
			return false
		}
		for c := range b {
			a[k*b+c], a[best*b+c] = a[best*b+c], a[k*b+c]
			out[k*b+c], out[best*b+c] = out[best*b+c], out[k*b+c]
		}
		for c := range b {
			a[k*b+c] /= pivot
			out[k*b+c] /= pivot
		}
		for r := range b {
			if v := a[r*b+k]; r != k && v != 0 {
				for c := range b {
					a[r*b+c] -= v * a[k*b+c]
					out[r*b+c] -= v * out[k*b+c]
				}
			}
		}
	}
	return true
}

// Apply solves with the factors.
func (f *BlockILU[T]) Apply(dst, r []float64) {
	b := f.m.B
	x, y := f.x, f.r
	for i, v := range f.order {
		copy(y[b*i:b*i+b], r[b*int(v):b*int(v)+b])
	}
	parallel.Stages(f.levels, fewRows, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			f.m.addRow(y[b*i:b*i+b], f.m.Rows[i], f.diagonal[i], y, -1)
		}
	})
	parallel.Stages(f.backLevels, fewRows, func(_, lo, hi int) {
		for _, i := range f.backRows[lo:hi] {
			f.m.addRow(y[b*int(i):b*int(i)+b], f.diagonal[i]+1, f.m.Rows[i+1], x, -1)
			out := x[b*int(i) : b*int(i)+b]
			clear(out)
			subtract(out, f.m.Data[f.diagonal[i]*int64(b*b):], y[b*int(i):], b, -1)
		}
	})
	for i, v := range f.order {
		copy(dst[b*int(v):b*int(v)+b], x[b*i:b*i+b])
	}
}
