package sparse

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// laplace is the five-point matrix of a square of m × m free nodes, with
// coefficients that jump by the given contrast between its halves.
func laplace(m int, contrast float64) *CSR {
	a := &CSR{Rows: []int32{0}}
	k := func(i int) float64 {
		if i < m/2 {
			return 1
		}
		return contrast
	}
	for j := range m {
		for i := range m {
			c := [5]float64{-k(j), -k(j), 0, -k(j), -k(j)}
			if j > 0 {
				c[0] = -(k(j) + k(j-1)) / 2
			}
			if j < m-1 {
				c[4] = -(k(j) + k(j+1)) / 2
			}
			c[2] = -(c[0] + c[1] + c[3] + c[4])
			for s, d := range [5][2]int{{0, -1}, {-1, 0}, {0, 0}, {1, 0}, {0, 1}} {
				x, y := i+d[0], j+d[1]
				if x < 0 || y < 0 || x >= m || y >= m {
					continue
				}
				a.Cols = append(a.Cols, int32(y*m+x))
				a.Data = append(a.Data, c[s])
			}
			a.Rows = append(a.Rows, int32(len(a.Cols)))
		}
	}
	return a
}

func TestCGSolvesWithAndWithoutPreconditioner(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 1))
	a := laplace(60, 400)
	require.NoError(t, a.Check())
	want := make([]float64, a.N())
	for i := range want {
		want[i] = rng.Float64()
	}
	b := make([]float64, a.N())
	a.MulVec(b, want)
	amg, err := NewAMG(t.Context(), a, nil)
	require.NoError(t, err)
	plain, pre := make([]float64, a.N()), make([]float64, a.N())
	r1 := CG(t.Context(), a, b, plain, nil, &Settings{Tolerance: 1e-12, MaxIterations: 5000})
	r2 := CG(t.Context(), a, b, pre, amg, &Settings{Tolerance: 1e-12})
	assert.Equal(t, Converged, r1.Status)
	assert.Equal(t, Converged, r2.Status)
	assert.Less(t, 3*r2.Iterations, r1.Iterations)
	for i := range want {
		assert.InDelta(t, want[i], pre[i], 1e-8)
	}
}

// TestMultigridIsIndependentOfTheMesh: the iterations hardly grow with the size
// of the problem, whatever the contrast of the coefficients.
func TestMultigridIsIndependentOfTheMesh(t *testing.T) {
	for _, contrast := range []float64{1, 1e-4, 1e4} {
		for _, m := range []int{40, 120, 300} {
			a := laplace(m, contrast)
			b := make([]float64, a.N())
			for i := range b {
				b[i] = 1 + math.Sin(float64(i))
			}
			amg, err := NewAMG(t.Context(), a, nil)
			require.NoError(t, err)
			x := make([]float64, a.N())
			r := CG(t.Context(), a, b, x, amg, &Settings{Tolerance: 1e-10})
			assert.Equal(t, Converged, r.Status)
			assert.LessOrEqual(t, r.Iterations, 26, "%d × %d, contrast %g: %v", m, m, contrast, amg.Levels())
			assert.Less(t, r.Residual, 1.1e-10)
		}
	}
}

// TestMultigridIsSymmetric: a preconditioner of conjugate gradients must be
// symmetric and positive definite, here up to single precision, and must give
// the same answer twice.
func TestMultigridIsSymmetric(t *testing.T) {
	rng := rand.New(rand.NewPCG(2, 2))
	a := laplace(70, 50)
	amg, err := NewAMG(t.Context(), a, &AMGSettings{Coarsest: 50})
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(amg.Levels()), 3)
	n := a.N()
	u, v, mu, mv := make([]float64, n), make([]float64, n), make([]float64, n), make([]float64, n)
	for range 5 {
		for i := range u {
			u[i], v[i] = rng.NormFloat64(), rng.NormFloat64()
		}
		amg.Apply(mu, u)
		amg.Apply(mv, v)
		assert.InEpsilon(t, Dot(mu, v), Dot(u, mv), 1e-4)
		assert.Positive(t, Dot(u, mu))
		again := make([]float64, n)
		amg.Apply(again, u)
		assert.Equal(t, mu, again)
	}
}

// TestMultigridWithGivenUnknowns: rows of the identity, as elimination leaves
// them, and a block that is connected to nothing else.
func TestMultigridWithGivenUnknowns(t *testing.T) {
	a := laplace(60, 3)
	fixed := make([]bool, a.N())
	x, b := make([]float64, a.N()), make([]float64, a.N())
	for i := range fixed {
		fixed[i] = i%60 < 3 || i%7 == 0
		x[i] = 4
	}
	a.Fix(fixed, x, b)
	amg, err := NewAMG(t.Context(), a, nil)
	require.NoError(t, err)
	y := make([]float64, a.N())
	r := CG(t.Context(), a, b, y, amg, &Settings{Tolerance: 1e-12})
	assert.Equal(t, Converged, r.Status)
	for i := range y {
		if fixed[i] {
			assert.InDelta(t, 4, y[i], 1e-9)
		}
	}
	a.Data[0] = -1
	_, err = NewAMG(t.Context(), a, nil)
	assert.ErrorContains(t, err, "not positive")
}

func TestFixKeepsSymmetryAndValues(t *testing.T) {
	a := laplace(8, 3)
	fixed := make([]bool, a.N())
	x, b := make([]float64, a.N()), make([]float64, a.N())
	for i := range 8 {
		fixed[i] = true
		x[i] = 5
	}
	m := a.Clone()
	m.Fix(fixed, x, b)
	for i := range m.N() {
		for j := range i {
			require.Equal(t, m.At(i, j), m.At(j, i))
		}
	}
	r := CG(t.Context(), m, b, x, nil, nil)
	require.Equal(t, Converged, r.Status)
	assert.InDelta(t, 5, x[3], 1e-12)
	res := make([]float64, a.N())
	a.MulVec(res, x)
	for i := 8; i < a.N(); i++ {
		assert.InDelta(t, 0, res[i], 1e-8)
	}
}

func TestCGSaysWhyItEnded(t *testing.T) {
	a := laplace(20, 1)
	b := make([]float64, a.N())
	b[7] = 1
	x := make([]float64, a.N())
	assert.Equal(t, LimitReached, CG(t.Context(), a, b, x, nil, &Settings{MaxIterations: 3}).Status)
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	assert.Equal(t, Stopped, CG(ctx, a, b, make([]float64, a.N()), nil, nil).Status)
	for i := range a.Data {
		a.Data[i] = -a.Data[i]
	}
	assert.Equal(t, NotDefinite, CG(t.Context(), a, b, make([]float64, a.N()), nil, nil).Status)
	_, err := NewAMG(t.Context(), a, nil)
	assert.Error(t, err)
	zero := make([]float64, a.N())
	r := CG(t.Context(), a, zero, x, nil, nil)
	assert.Equal(t, Converged, r.Status)
	assert.Zero(t, Norm(x))
}
