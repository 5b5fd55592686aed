package sparse

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// massAndStiffness is a + shift·(mass of linear elements on the same grid of m × m nodes).
func massAndStiffness(m int, stiffness, shift float64) *CSR {
	out := &CSR{Rows: []int32{0}}
	one := func(d int, near, far float64) float64 {
		switch d {
		case 0:
			return near
		case 1, -1:
			return far
		}
		return 0
	}
	for y := range m {
		for x := range m {
			for dy := -1; dy <= 1; dy++ {
				for dx := -1; dx <= 1; dx++ {
					if x+dx < 0 || x+dx >= m || y+dy < 0 || y+dy >= m {
						continue
					}
					mass := one(dx, 2./3, 1./6) * one(dy, 2./3, 1./6)
					k := one(dx, 2, -1)*one(dy, 2./3, 1./6) + one(dx, 2./3, 1./6)*one(dy, 2, -1)
					out.Cols = append(out.Cols, int32((y+dy)*m+x+dx))
					out.Data = append(out.Data, stiffness*k+shift*mass)
				}
			}
			out.Rows = append(out.Rows, int32(len(out.Cols)))
		}
	}
	return out
}

// TestMultigridOfWhatIsStored: matrices in which what is stored outweighs what is conducted,
// wholly or nearly, and those that are almost diagonal are solved in few iterations, by
// factors of a level that are no larger than the matrix by much, whatever the balance.
func TestMultigridOfWhatIsStored(t *testing.T) {
	for _, c := range []struct{ stiffness, shift float64 }{{0, 1}, {1e-6, 1}, {1e-3, 1}, {1e-2, 1}, {0.05, 1}, {0.1, 1}, {0.3, 1}, {1, 1}, {1, 1e-3}} {
		for _, m := range []int{60, 150} {
			a := massAndStiffness(m, c.stiffness, c.shift)
			amg, err := NewAMG(t.Context(), a, nil)
			require.NoError(t, err)
			b, x := make([]float64, a.N()), make([]float64, a.N())
			for i := range b {
				b[i] = 1 + math.Sin(float64(i))
			}
			r := CG(t.Context(), a, b, x, amg, &Settings{Tolerance: 1e-10})
			assert.Equal(t, Converged, r.Status)
			assert.LessOrEqual(t, r.Iterations, 30, "%+v, %d × %d: %v", c, m, m, amg.Levels())
			if last, ok := amg.coarse.(*cholesky); ok {
				assert.LessOrEqual(t, len(last.l), 600*601, "%+v", c)
			}
		}
	}
	// Almost diagonal: nothing is strongly connected.
	a := laplace(80, 1)
	for i := range a.N() {
		for k := a.Rows[i]; k < a.Rows[i+1]; k++ {
			if int(a.Cols[k]) == i {
				a.Data[k] *= 1e3
			}
		}
	}
	amg, err := NewAMG(t.Context(), a, nil)
	require.NoError(t, err)
	assert.Nil(t, amg.coarse, "smoothing is enough")
	b, x := make([]float64, a.N()), make([]float64, a.N())
	b[17] = 1
	assert.LessOrEqual(t, CG(t.Context(), a, b, x, amg, &Settings{Tolerance: 1e-10}).Iterations, 12)
	// It stops when it is told to.
	stopped, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = NewAMG(stopped, massAndStiffness(60, 0.05, 1), nil)
	assert.ErrorIs(t, err, context.Canceled)
}
