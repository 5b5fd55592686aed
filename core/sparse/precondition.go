package sparse

import (
	"errors"
	"fmt"
	"math"
	"slices"
)

// ILU is an incomplete factorisation L·U with the pattern of the matrix (J.
// Meijerink, H. van der Vorst, Math. Comp. 31 (1977) 148).
type ILU struct {
	m        *CSR
	diagonal []int32 // place of the diagonal in each row
}

// NewILU factors a matrix incompletely. Every row must store its diagonal.
func NewILU(a *CSR) (*ILU, error) {
	f := &ILU{m: a.Clone(), diagonal: make([]int32, a.N())}
	at := make([]int32, a.N())
	for i := range at {
		at[i] = -1
	}
	for i := range a.N() {
		lo, hi := f.m.Rows[i], f.m.Rows[i+1]
		k, ok := slices.BinarySearch(f.m.Cols[lo:hi], int32(i))
		if !ok {
			return nil, fmt.Errorf("sparse: row %d stores no diagonal", i)
		}
		f.diagonal[i] = lo + int32(k)
		for p := lo; p < hi; p++ {
			at[f.m.Cols[p]] = p
		}
		for p := lo; p < f.diagonal[i]; p++ {
			c := f.m.Cols[p]
			l := f.m.Data[p] / f.m.Data[f.diagonal[c]]
			f.m.Data[p] = l
			for q := f.diagonal[c] + 1; q < f.m.Rows[c+1]; q++ {
				if to := at[f.m.Cols[q]]; to >= 0 {
					f.m.Data[to] -= l * f.m.Data[q]
				}
			}
		}
		for p := lo; p < hi; p++ {
			at[f.m.Cols[p]] = -1
		}
		if d := f.m.Data[f.diagonal[i]]; d == 0 || math.IsNaN(d) || math.IsInf(d, 0) {
			return nil, fmt.Errorf("sparse: row %d has no pivot", i)
		}
	}
	return f, nil
}

// Apply solves with the factors.
func (f *ILU) Apply(dst, r []float64) {
	m := f.m
	for i := range r {
		s := r[i]
		for p := m.Rows[i]; p < f.diagonal[i]; p++ {
			s -= m.Data[p] * dst[m.Cols[p]]
		}
		dst[i] = s
	}
	for i := len(r) - 1; i >= 0; i-- {
		s := dst[i]
		for p := f.diagonal[i] + 1; p < m.Rows[i+1]; p++ {
			s -= m.Data[p] * dst[m.Cols[p]]
		}
		dst[i] = s / m.Data[f.diagonal[i]]
	}
}

// Blocks preconditions a saddle system
//
//	A  B   x   f
//	C  D   y = g
//
// by approximate inverses of A and of its Schur complement (M. Benzi, G. Golub, J.
// Liesen, Acta Numerica 14 (2005) 1, section 10): alone, which keeps a symmetric
// system symmetric, or after the coupling C.
type Blocks struct {
	first, second []int32 // unknowns of the two blocks
	inverse       [2]Preconditioner
	coupling      *CSR // all rows, of which those of the second block are used; nil for none
	isFirst       []bool
	r, z          [2][]float64
}

// NewBlocks makes the preconditioner. second marks the unknowns of y; a and schur
// work on the unknowns of their block in ascending order. coupled takes C in.
func NewBlocks(m *CSR, second []bool, a, schur Preconditioner, coupled bool) (*Blocks, error) {
	if len(second) != m.N() {
		panic("sparse: length of vector does not match the matrix")
	}
	p := &Blocks{inverse: [2]Preconditioner{a, schur}, isFirst: make([]bool, m.N())}
	for i, s := range second {
		p.isFirst[i] = !s
		if s {
			p.second = append(p.second, int32(i))
		} else {
			p.first = append(p.first, int32(i))
		}
	}
	if len(p.first) == 0 || len(p.second) == 0 {
		return nil, errors.New("sparse: a saddle system has two blocks")
	}
	if coupled {
		p.coupling = m
	}
	for k, n := range []int{len(p.first), len(p.second)} {
		p.r[k], p.z[k] = make([]float64, n), make([]float64, n)
	}
	return p, nil
}

// Apply solves approximately, A first.
func (p *Blocks) Apply(dst, r []float64) {
	for i, v := range p.first {
		p.r[0][i] = r[v]
	}
	p.inverse[0].Apply(p.z[0], p.r[0])
	for i, v := range p.first {
		dst[v] = p.z[0][i]
	}
	for i, v := range p.second {
		s := r[v]
		if p.coupling != nil {
			cols, data := p.coupling.Row(int(v))
			for k, c := range cols {
				if p.isFirst[c] {
					s -= data[k] * dst[c]
				}
			}
		}
		p.r[1][i] = s
	}
	p.inverse[1].Apply(p.z[1], p.r[1])
	for i, v := range p.second {
		dst[v] = p.z[1][i]
	}
}

// Part returns the rows and columns of the marked unknowns.
func (m *Matrix[T]) Part(marked []bool) *Matrix[T] {
	number := make([]int32, m.N())
	count := int32(0)
	for i, k := range marked {
		number[i] = count
		if k {
			count++
		}
	}
	out := &Matrix[T]{Rows: []int32{0}}
	for i, k := range marked {
		if !k {
			continue
		}
		cols, data := m.Row(i)
		for j, c := range cols {
			if marked[c] {
				out.Cols, out.Data = append(out.Cols, number[c]), append(out.Data, data[j])
			}
		}
		out.Rows = append(out.Rows, int32(len(out.Cols)))
	}
	return out
}

// Apply makes the factors a preconditioner.
func (f *Factors[T]) Apply(dst, r []T) { f.Solve(dst, r) }
