package sparse

import (
	"errors"
	"math"
	"slices"

	"saltkettle/core/parallel"
)

// rect is a matrix in compressed rows that need not be square. Columns within a
// row may stand in any order.
type rect struct {
	rows  []int32
	cols  []int32
	data  []float64
	width int // number of columns
}

func (m *rect) n() int { return len(m.rows) - 1 }

// accumulator sums the elements of one row.
type accumulator struct {
	place []int32 // of a column in this row, valid if ≥ start
	start int32
	cols  []int32
	data  []float64
}

func (a *accumulator) add(col int32, v float64) {
	if at := a.place[col]; at >= a.start {
		a.data[at] += v
		return
	}
	a.place[col] = int32(len(a.cols))
	a.cols = append(a.cols, col)
	a.data = append(a.data, v)
}

// sampleRows is how many rows are made before the room for all is estimated.
const sampleRows = 2000

// build makes a matrix row by row, on all cores. fill adds the elements of a row
// to the accumulator.
func build(n, width int, fill func(i int, acc *accumulator)) *rect {
	m := &rect{rows: make([]int32, n+1), width: width}
	pieces := make([]accumulator, parallel.Workers())
	starts := make([][2]int, parallel.Workers())
	parallel.For(n, 1024, func(w, lo, hi int) {
		acc := &pieces[w]
		starts[w] = [2]int{lo, hi}
		acc.place = make([]int32, width)
		for i := range acc.place {
			acc.place[i] = -1
		}
		for i := lo; i < hi; i++ {
			if i == lo+sampleRows {
				// Make room for the rest at once, by what the first rows needed.
				more := int(float64(len(acc.cols)) / sampleRows * 1.1 * float64(hi-i))
				acc.cols, acc.data = slices.Grow(acc.cols, more), slices.Grow(acc.data, more)
			}
			acc.start = int32(len(acc.cols))
			fill(i, acc)
			m.rows[i+1] = int32(len(acc.cols)) - acc.start
		}
	})
	for i := range n {
		m.rows[i+1] += m.rows[i]
	}
	m.cols, m.data = make([]int32, m.rows[n]), make([]float64, m.rows[n])
	parallel.For(len(starts), 1, func(_, lo, hi int) {
		for w := lo; w < hi; w++ {
			if s := starts[w]; s[1] > s[0] {
				copy(m.cols[m.rows[s[0]]:], pieces[w].cols)
				copy(m.data[m.rows[s[0]]:], pieces[w].data)
			}
		}
	})
	return m
}

// times returns the product with b.
func (m *rect) times(b *rect) *rect {
	return build(m.n(), b.width, func(i int, acc *accumulator) {
		for k := m.rows[i]; k < m.rows[i+1]; k++ {
			j, v := m.cols[k], m.data[k]
			for l := b.rows[j]; l < b.rows[j+1]; l++ {
				acc.add(b.cols[l], v*b.data[l])
			}
		}
	})
}

func (m *rect) transpose() *rect {
	t := &rect{rows: make([]int32, m.width+1), cols: make([]int32, len(m.cols)), data: make([]float64, len(m.data)), width: m.n()}
	for _, c := range m.cols {
		t.rows[c+1]++
	}
	for i := range m.width {
		t.rows[i+1] += t.rows[i]
	}
	fill := append([]int32(nil), t.rows[:m.width]...)
	for i := range m.n() {
		for k := m.rows[i]; k < m.rows[i+1]; k++ {
			at := fill[m.cols[k]]
			fill[m.cols[k]]++
			t.cols[at], t.data[at] = int32(i), m.data[k]
		}
	}
	return t
}

// single is a matrix with its values in single precision, for preconditioning.
// Vectors stay in double precision.
type single struct {
	rows []int32
	cols []int32
	data []float32
}

func (m *rect) single() *single {
	s := &single{rows: m.rows, cols: m.cols, data: make([]float32, len(m.data))}
	parallel.For(len(m.data), 1<<16, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			s.data[i] = float32(m.data[i])
		}
	})
	return s
}

func (m *single) row(i int, x []float64) float64 {
	a, b := m.rows[i], m.rows[i+1]
	cols, data := m.cols[a:b], m.data[a:b]
	var s float64
	for k, c := range cols {
		s += float64(data[k]) * x[c]
	}
	return s
}

// mul sets dst to m·x.
func (m *single) mul(dst, x []float64) {
	parallel.For(len(dst), rowGrain, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			dst[i] = m.row(i, x)
		}
	})
}

// subtract takes m·x from dst.
func (m *single) subtract(dst, x []float64) {
	parallel.For(len(dst), rowGrain, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			dst[i] -= m.row(i, x)
		}
	})
}

// residual sets dst to b − m·x.
func (m *single) residual(dst, b, x []float64) {
	parallel.For(len(dst), rowGrain, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			dst[i] = b[i] - m.row(i, x)
		}
	})
}

// cholesky is the factor of a small dense matrix, LLᵀ, row by row.
type cholesky struct {
	n int
	l []float64
	y []float64
}

func newCholesky(a *rect) (*cholesky, error) {
	n := a.n()
	c := &cholesky{n: n, l: make([]float64, n*n), y: make([]float64, n)}
	for i := range n {
		for k := a.rows[i]; k < a.rows[i+1]; k++ {
			c.l[i*n+int(a.cols[k])] = a.data[k]
		}
	}
	for i := range n {
		row := c.l[i*n : i*n+n]
		for j := range i + 1 {
			other := c.l[j*n : j*n+n]
			s := row[j]
			for k := range j {
				s -= row[k] * other[k]
			}
			if j < i {
				row[j] = s / other[j]
				continue
			}
			if !(s > 0) {
				return nil, errors.New("sparse: the coarsest matrix is not positive definite")
			}
			row[i] = math.Sqrt(s)
		}
	}
	return c, nil
}

// solve sets x to (LLᵀ)⁻¹ b.
func (c *cholesky) solve(x, b []float64) {
	n := c.n
	for i := range n {
		s := b[i]
		for k, l := range c.l[i*n : i*n+i] {
			s -= l * c.y[k]
		}
		c.y[i] = s / c.l[i*n+i]
	}
	for i := n - 1; i >= 0; i-- {
		x[i] = c.y[i] / c.l[i*n+i]
		for k, l := range c.l[i*n : i*n+i] {
			c.y[k] -= l * x[i]
		}
	}
}
