package sparse

import (
	"fmt"

	"saltkettle/core/dense"
	"saltkettle/core/parallel"
)

// Real are the numbers that blocks are kept in: float32 is enough for a preconditioner and
// half as much to read.
type Real interface{ float32 | float64 }

// Blocked is a square matrix in blocks of b×b, one for each pair of nodes that meet: one column
// index stands for b² numbers. Starts of rows are wide enough for any matrix that fits memory.
type Blocked[T Real] struct {
	B    int
	Rows []int64 // of nodes, in blocks
	Cols []int32
	Data []T // of each block its rows
}

// MaxBlock is the largest order of blocks.
const MaxBlock = 8

// NewBlocked unites unknowns that follow each other, b at a time, to nodes. Places of blocks that
// the matrix does not store are zero.
func NewBlocked[T Real](a *CSR, b int) (*Blocked[T], error) {
	if b < 1 || b > MaxBlock || a.N()%b != 0 {
		return nil, fmt.Errorf("sparse: a matrix of order %d has no blocks of %d", a.N(), b)
	}
	n := a.N() / b
	m := &Blocked[T]{B: b, Rows: make([]int64, n+1)}
	counts := make([]int64, n)
	each := func(f func(node int, cols []int32)) {
		parallel.For(n, 512, func(_, lo, hi int) {
			seen := make([]int32, n)
			for i := range seen {
				seen[i] = -1
			}
			var cols []int32
			for node := lo; node < hi; node++ {
				// Rows of one node have ascending columns, and mostly the same ones.
				cols = cols[:0]
				for r := node * b; r < (node+1)*b; r++ {
					for _, c := range a.Cols[a.Rows[r]:a.Rows[r+1]] {
						if k := c / int32(b); seen[k] != int32(node) {
							seen[k] = int32(node)
							cols = append(cols, k)
						}
					}
				}
				f(node, cols)
			}
		})
	}
	each(func(node int, cols []int32) { counts[node] = int64(len(cols)) })
	for i, c := range counts {
		m.Rows[i+1] = m.Rows[i] + c
	}
	m.Cols, m.Data = make([]int32, m.Rows[n]), make([]T, m.Rows[n]*int64(b*b))
	each(func(node int, cols []int32) {
		out := m.Cols[m.Rows[node]:m.Rows[node+1]]
		copy(out, cols)
		sortShort(out)
	})
	m.Set(a)
	return m, nil
}

// sortShort sorts the columns of a row, most of which are in order.
func sortShort(list []int32) {
	for i := 1; i < len(list); i++ {
		v, k := list[i], i
		for ; k > 0 && list[k-1] > v; k-- {
			list[k] = list[k-1]
		}
		list[k] = v
	}
}

// Nodes is the number of nodes, N that of unknowns.
func (m *Blocked[T]) Nodes() int { return len(m.Rows) - 1 }

// N is the number of unknowns.
func (m *Blocked[T]) N() int { return m.B * m.Nodes() }

// Set takes the numbers of a matrix with the pattern that the blocks were made of.
func (m *Blocked[T]) Set(a *CSR) {
	b := m.B
	clear(m.Data)
	parallel.For(m.Nodes(), 512, func(_, lo, hi int) {
		for node := lo; node < hi; node++ {
			first := m.Rows[node]
			cols := m.Cols[first:m.Rows[node+1]]
			for r := range b {
				row := node*b + r
				at := 0
				for k := a.Rows[row]; k < a.Rows[row+1]; k++ {
					c := a.Cols[k]
					for cols[at] < c/int32(b) {
						at++
					}
					m.Data[(first+int64(at))*int64(b*b)+int64(r*b)+int64(c%int32(b))] = T(a.Data[k])
				}
			}
		}
	})
}

// MulVec sets dst to m·x, in the order of the unknowns of the matrix. They must not overlap.
func (m *Blocked[T]) MulVec(dst, x []float64) {
	if len(dst) != m.N() || len(x) != len(dst) {
		panic("sparse: length of vector does not match the matrix")
	}
	parallel.For(m.Nodes(), 512, func(_, lo, hi int) { m.rows(dst, x, lo, hi) })
}

func (m *Blocked[T]) rows(dst, x []float64, lo, hi int) {
	switch m.B {
	case 3:
		for i := lo; i < hi; i++ {
			var s0, s1, s2 float64
			for k := m.Rows[i]; k < m.Rows[i+1]; k++ {
				d := m.Data[9*k : 9*k+9 : 9*k+9]
				c := 3 * int(m.Cols[k])
				v := x[c : c+3 : c+3]
				s0 += float64(d[0])*v[0] + float64(d[1])*v[1] + float64(d[2])*v[2]
				s1 += float64(d[3])*v[0] + float64(d[4])*v[1] + float64(d[5])*v[2]
				s2 += float64(d[6])*v[0] + float64(d[7])*v[1] + float64(d[8])*v[2]
			}
			dst[3*i], dst[3*i+1], dst[3*i+2] = s0, s1, s2
		}
	default:
		b := m.B
		for i := lo; i < hi; i++ {
			out := dst[b*i : b*i+b]
			clear(out)
			m.addRow(out, m.Rows[i], m.Rows[i+1], x, 1)
		}
	}
}

// singles are the numbers of blocks in single precision for which there are kernels; nil if these are others.
func (m *Blocked[T]) singles() []float32 {
	if m.B < dense.LeastBlock || m.B > dense.MostBlock {
		return nil
	}
	if data, ok := any(&m.Data).(*[]float32); ok { // by its place: a slice would be copied to the heap for each row
		return *data
	}
	return nil
}

// addRow adds by times the blocks from k to end, of one row, times x to out.
func (m *Blocked[T]) addRow(out []float64, k, end int64, x []float64, by float64) {
	data := m.singles()
	if data == nil {
		for ; k < end; k++ {
			subtract(out, m.Data[k*int64(m.B*m.B):], x[m.B*int(m.Cols[k]):], m.B, -by)
		}
		return
	}
	var sum [dense.MostBlock]float64
	size := int64(m.B * m.B)
	dense.AddRow(m.B, &sum, data[size*k:size*end], m.Cols[k:end], x)
	for c := range out[:m.B] {
		out[c] += by * sum[c]
	}
}

// subtract takes by times a block times x from out.
func subtract[T Real](out []float64, block []T, x []float64, b int, by float64) {
	for r := range b {
		sum := 0.0
		for c, v := range x[:b] {
			sum += float64(block[r*b+c]) * v
		}
		out[r] -= by * sum
	}
}
