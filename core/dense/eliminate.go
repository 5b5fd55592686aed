package dense

import "saltkettle/core/parallel"

// eliminated is how many columns [Eliminate] takes at once.
const eliminated = 64

// Eliminate solves m·X = right by Gaussian elimination in blocks, without pivoting:
// the diagonal dominates, or the matrix is symmetric and positive definite. Both are by
// rows, m with n columns, right with cols. It leaves X in right and spoils m.
func Eliminate(m, right []float64, n, cols int) {
	threads := parallel.Workers()
	type plain = Operand[float64]
	for k := 0; k < n; k += eliminated {
		e := min(k+eliminated, n)
		// The columns of the block, from its diagonal down.
		for c := k; c < e; c++ {
			pivot := m[c*n+c]
			for i := c + 1; i < n; i++ {
				f := m[i*n+c] / pivot
				m[i*n+c] = f
				if f != 0 {
					Axpy(-f, m[c*n+c+1:c*n+e], m[i*n+c+1:i*n+e])
				}
			}
		}
		// Its rows to the right, and of the right side.
		for i := k + 1; i < e; i++ {
			for c := k; c < i; c++ {
				Axpy(-m[i*n+c], m[c*n+e:(c+1)*n], m[i*n+e:(i+1)*n])
				Axpy(-m[i*n+c], right[c*cols:(c+1)*cols], right[i*cols:(i+1)*cols])
			}
		}
		if e == n {
			break
		}
		left := plain{Data: m[e*n+k:], Row: n, Col: 1}
		Add(m[e*n+e:], n, n-e, n-e, e-k, -1, left, plain{Data: m[k*n+e:], Row: n, Col: 1}, Full, threads)
		Add(right[e*cols:], cols, n-e, cols, e-k, -1, left, plain{Data: right[k*cols:], Row: cols, Col: 1}, Full, threads)
	}
	for e := n; e > 0; e = (e - 1) / eliminated * eliminated {
		k := (e - 1) / eliminated * eliminated
		for i := e - 1; i >= k; i-- {
			row := right[i*cols : (i+1)*cols]
			for c := i + 1; c < e; c++ {
				Axpy(-m[i*n+c], right[c*cols:(c+1)*cols], row)
			}
			f := 1 / m[i*n+i]
			for j := range row {
				row[j] *= f
			}
		}
		Add(right, cols, k, cols, e-k, -1, plain{Data: m[k:], Row: n, Col: 1}, plain{Data: right[k*cols:], Row: cols, Col: 1}, Full, threads)
	}
}
