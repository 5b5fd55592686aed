package sparse

import (
	"fmt"
	"math"
	"slices"

	"saltkettle/core/dense"
	"saltkettle/core/parallel"
)

// Matrix is a square matrix in compressed rows. The columns of each row ascend.
type Matrix[T dense.Scalar] struct {
	Rows []int32 // start of each row in Cols and Data, and the end of the last
	Cols []int32
	Data []T
}

// CSR is a real matrix.
type CSR = Matrix[float64]

// N is the order of the matrix.
func (m *Matrix[T]) N() int { return len(m.Rows) - 1 }

// rowGrain is the fewest rows that are worth a goroutine.
const rowGrain = 4096

// MulVec sets dst to m·x. dst and x must not overlap.
func (m *Matrix[T]) MulVec(dst, x []T) {
	if len(dst) != m.N() || len(x) != m.N() {
		panic("sparse: length of vector does not match the matrix")
	}
	if a, ok := any(m).(*CSR); ok {
		x, dst := any(x).([]float64), any(dst).([]float64)
		parallel.For(a.N(), rowGrain, func(_, lo, hi int) { mulRows(a.Rows, a.Cols, a.Data, dst, x, lo, hi) })
		return
	}
	parallel.For(m.N(), rowGrain, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			a, b := m.Rows[i], m.Rows[i+1]
			cols, data := m.Cols[a:b], m.Data[a:b]
			var s T
			for k, c := range cols {
				s += data[k] * x[c]
			}
			dst[i] = s
		}
	})
}

// mulRows sets the rows from lo to hi of a product. The loop over any number type is
// half as fast.
func mulRows(rows, cols []int32, data, dst, x []float64, lo, hi int) {
	for i := lo; i < hi; i++ {
		a, b := rows[i], rows[i+1]
		c, d := cols[a:b], data[a:b]
		var s float64
		for k, j := range c {
			s += d[k] * x[j]
		}
		dst[i] = s
	}
}

// Row returns the columns and values of row i.
func (m *Matrix[T]) Row(i int) ([]int32, []T) {
	a, b := m.Rows[i], m.Rows[i+1]
	return m.Cols[a:b], m.Data[a:b]
}

// At returns the element (i, j), 0 if it is not stored.
func (m *Matrix[T]) At(i, j int) T {
	cols, data := m.Row(i)
	if k, ok := slices.BinarySearch(cols, int32(j)); ok {
		return data[k]
	}
	return 0
}

// Clone copies the values and shares the pattern.
func (m *Matrix[T]) Clone() *Matrix[T] {
	return &Matrix[T]{Rows: m.Rows, Cols: m.Cols, Data: slices.Clone(m.Data)}
}

// Fix turns the unknowns marked in fixed into given ones, keeping the matrix
// symmetric: their rows and columns become those of the identity times the
// diagonal, and b gets the influence of the values in x. b and x are changed in
// place; entries of x at free unknowns are not read.
func (m *Matrix[T]) Fix(fixed []bool, x, b []T) {
	parallel.For(m.N(), rowGrain, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			cols, data := m.Row(i)
			if fixed[i] {
				for k, c := range cols {
					if int(c) == i {
						if data[k] == 0 {
							data[k] = 1
						}
						b[i] = data[k] * x[i]
					} else {
						data[k] = 0
					}
				}
				continue
			}
			for k, c := range cols {
				if fixed[c] {
					b[i] -= data[k] * x[c]
					data[k] = 0
				}
			}
		}
	})
}

// Dot is the inner product, summed in fixed chunks so that it does not depend on
// the number of cores.
func Dot(x, y []float64) float64 {
	const chunk = 4096
	n := len(x)
	parts := make([]float64, (n+chunk-1)/chunk)
	parallel.For(len(parts), 4, func(_, lo, hi int) {
		for p := lo; p < hi; p++ {
			var s float64
			end := min((p+1)*chunk, n)
			xs, ys := x[p*chunk:end], y[p*chunk:end]
			for i, v := range xs {
				s += v * ys[i]
			}
			parts[p] = s
		}
	})
	var s float64
	for _, p := range parts {
		s += p
	}
	return s
}

// Norm is the Euclidean norm.
func Norm(x []float64) float64 { return math.Sqrt(Dot(x, x)) }

// Check reports the first fault in the structure or values of a matrix.
func (m *Matrix[T]) Check() error {
	for i := range m.N() {
		cols, data := m.Row(i)
		for k, c := range cols {
			if c < 0 || int(c) >= m.N() || k > 0 && cols[k-1] >= c {
				return fmt.Errorf("sparse: row %d has a column out of order or range", i)
			}
			if v := dense.Magnitude(data[k]); math.IsNaN(v) || math.IsInf(v, 0) {
				return fmt.Errorf("sparse: element (%d, %d) is not finite", i, c)
			}
		}
	}
	return nil
}

// norm is the Euclidean norm of real or complex numbers.
func norm[T dense.Scalar](x []T) float64 {
	switch v := any(x).(type) {
	case []float64:
		return Norm(v)
	case []complex128:
		var s float64
		for _, z := range v {
			s += real(z)*real(z) + imag(z)*imag(z)
		}
		return math.Sqrt(s)
	}
	panic("sparse: unknown kind of number")
}

// Combined returns alpha·A + beta·B, B the identity if it is nil.
func Combined[T dense.Scalar](a *Matrix[T], alpha T, b *Matrix[T], beta T) *Matrix[T] {
	n := a.N()
	out := &Matrix[T]{Rows: make([]int32, n+1), Cols: make([]int32, 0, len(a.Cols)), Data: make([]T, 0, len(a.Cols))}
	one, unit := []int32{0}, []T{1}
	for i := range n {
		ac, ad := a.Row(i)
		bc, bd := one, unit
		if b != nil {
			bc, bd = b.Row(i)
		} else {
			one[0] = int32(i)
		}
		for len(ac) > 0 || len(bc) > 0 {
			switch {
			case len(bc) == 0 || len(ac) > 0 && ac[0] < bc[0]:
				out.Cols, out.Data = append(out.Cols, ac[0]), append(out.Data, alpha*ad[0])
				ac, ad = ac[1:], ad[1:]
			case len(ac) == 0 || bc[0] < ac[0]:
				out.Cols, out.Data = append(out.Cols, bc[0]), append(out.Data, beta*bd[0])
				bc, bd = bc[1:], bd[1:]
			default:
				out.Cols, out.Data = append(out.Cols, ac[0]), append(out.Data, alpha*ad[0]+beta*bd[0])
				ac, ad, bc, bd = ac[1:], ad[1:], bc[1:], bd[1:]
			}
		}
		out.Rows[i+1] = int32(len(out.Cols))
	}
	return out
}
