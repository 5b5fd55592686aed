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
	dense.Eliminate(m, right, n, cols)
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
