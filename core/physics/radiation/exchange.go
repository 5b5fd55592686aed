package radiation

import (
	"saltkettle/core/dense"
	"saltkettle/core/parallel"
)

// Exchange tells what arrives at patches from what they emit:
//
//	A_i·H_i = Σ_j S_ij·(e_j + (1 − ε_j)·H_j) + S_i∞·E∞,
//
// with e the power that they emit per area, W/m², and E∞ that of the surroundings.
type Exchange struct {
	Views      *Views
	emissivity []float64
	// H = P·e + w·E∞.
	p, w []float64
}

// NewExchange solves the equations for the mean emissivities of the patches.
func NewExchange(v *Views, emissivity []float64) *Exchange {
	n := v.Count()
	x := &Exchange{Views: v, emissivity: append([]float64(nil), emissivity...)}
	// (A − S·(1 − ε))·[P w] = [S S∞].
	m := make([]float64, n*n)
	cols := n + 1
	right := make([]float64, n*cols)
	for i := range n {
		for j, s := range v.Exchange[i*n : (i+1)*n] {
			m[i*n+j] = -s * (1 - emissivity[j])
			right[i*cols+j] = s
		}
		m[i*n+i] += v.Area[i]
		right[i*cols+n] = v.Open[i]
	}
	eliminate(m, right, n, cols)
	x.p, x.w = make([]float64, n*n), make([]float64, n)
	for i := range n {
		copy(x.p[i*n:(i+1)*n], right[i*cols:])
		x.w[i] = right[i*cols+n]
	}
	return x
}

// Fits says that the exchange was made for these emissivities.
func (x *Exchange) Fits(emissivity []float64) bool {
	for i, e := range emissivity {
		if x.emissivity[i] != e {
			return false
		}
	}
	return true
}

// Irradiation sets h to what arrives per area when the patches emit e and the
// surroundings around, W/m².
func (x *Exchange) Irradiation(h, e []float64, around float64) {
	n := len(x.w)
	parallel.For(n, 128, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			h[i] = dense.Dot(x.p[i*n:(i+1)*n], e) + x.w[i]*around
		}
	})
}

// block of columns that are eliminated together.
const block = 64

// eliminate solves m·X = right by Gaussian elimination in blocks, without pivoting:
// the diagonal dominates. It leaves X in right.
func eliminate(m, right []float64, n, cols int) {
	threads := parallel.Workers()
	type plain = dense.Operand[float64]
	for k := 0; k < n; k += block {
		e := min(k+block, n)
		// The columns of the block, from its diagonal down.
		for c := k; c < e; c++ {
			pivot := m[c*n+c]
			for i := c + 1; i < n; i++ {
				f := m[i*n+c] / pivot
				m[i*n+c] = f
				if f != 0 {
					dense.Axpy(-f, m[c*n+c+1:c*n+e], m[i*n+c+1:i*n+e])
				}
			}
		}
		// Its rows to the right, and of the right side.
		for i := k + 1; i < e; i++ {
			for c := k; c < i; c++ {
				dense.Axpy(-m[i*n+c], m[c*n+e:(c+1)*n], m[i*n+e:(i+1)*n])
				dense.Axpy(-m[i*n+c], right[c*cols:(c+1)*cols], right[i*cols:(i+1)*cols])
			}
		}
		if e == n {
			break
		}
		left := plain{Data: m[e*n+k:], Row: n, Col: 1}
		dense.Add(m[e*n+e:], n, n-e, n-e, e-k, -1, left, plain{Data: m[k*n+e:], Row: n, Col: 1}, dense.Full, threads)
		dense.Add(right[e*cols:], cols, n-e, cols, e-k, -1, left, plain{Data: right[k*cols:], Row: cols, Col: 1}, dense.Full, threads)
	}
	for e := n; e > 0; e = (e - 1) / block * block {
		k := (e - 1) / block * block
		for i := e - 1; i >= k; i-- {
			row := right[i*cols : (i+1)*cols]
			for c := i + 1; c < e; c++ {
				dense.Axpy(-m[i*n+c], right[c*cols:(c+1)*cols], row)
			}
			f := 1 / m[i*n+i]
			for j := range row {
				row[j] *= f
			}
		}
		dense.Add(right, cols, k, cols, e-k, -1, plain{Data: m[k:], Row: n, Col: 1}, plain{Data: right[k*cols:], Row: cols, Col: 1}, dense.Full, threads)
	}
}
