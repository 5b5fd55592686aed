package sparse

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type solver func(ctx context.Context, a Operator, b, x []float64, pre Preconditioner, set *Settings) Result

// checkIterative solves for a known solution and compares.
func checkIterative(t *testing.T, name string, solve solver, a *CSR, pre Preconditioner, set Settings) Result {
	rng := rand.New(rand.NewPCG(31, 32))
	want, b, x := make([]float64, a.N()), make([]float64, a.N()), make([]float64, a.N())
	for i := range want {
		want[i] = rng.NormFloat64()
	}
	a.MulVec(b, want)
	r := solve(context.Background(), a, b, x, pre, &set)
	require.Equal(t, Converged, r.Status, name)
	assert.LessOrEqual(t, Residual(a, x, b), 1.1e-10, name)
	assert.NotEmpty(t, r.History, name)
	assert.Len(t, r.History, r.Iterations, name)
	return r
}

func TestMinimalResidualsSolveIndefiniteSystems(t *testing.T) {
	// Eigenvalues on both sides of zero, none at it.
	a := Combined(box[float64](30, 0), 1, nil, -0.7)
	checkIterative(t, "alone", MINRES, a, nil, Settings{MaxIterations: 3000})
	checkIterative(t, "definite", MINRES, box[float64](30, 0), nil, Settings{})
	s := saddle(20, 1)
	second := make([]bool, s.N())
	for i := 400; i < s.N(); i++ {
		second[i] = true
	}
	first := make([]bool, s.N())
	for i := range first {
		first[i] = !second[i]
	}
	top := s.Part(first)
	inverse, err := Factor(context.Background(), Analyse(top, Definite, nil), top, nil)
	require.NoError(t, err)
	plain := checkIterative(t, "saddle", MINRES, s, nil, Settings{MaxIterations: 20000})
	blocks, err := NewBlocks(s, second, inverse, identity{}, false)
	require.NoError(t, err)
	better := checkIterative(t, "saddle by blocks", MINRES, s, blocks, Settings{MaxIterations: 20000})
	assert.Less(t, better.Iterations, plain.Iterations)
	coupled, err := NewBlocks(s, second, inverse, negative{}, true)
	require.NoError(t, err)
	checkIterative(t, "saddle by a triangle of blocks", GMRES, s, coupled, Settings{})
}

type identity struct{}

func (identity) Apply(dst, r []float64) { copy(dst, r) }

type negative struct{}

func (negative) Apply(dst, r []float64) {
	for i, v := range r {
		dst[i] = -v
	}
}

func TestUnsymmetricSystems(t *testing.T) {
	a := box(40, 0.8)
	alone := checkIterative(t, "alone", BiCGStab, a, nil, Settings{})
	ilu, err := NewILU(a)
	require.NoError(t, err)
	helped := checkIterative(t, "ILU", BiCGStab, a, ilu, Settings{})
	assert.Less(t, helped.Iterations, alone.Iterations/2)
	checkIterative(t, "GMRES with ILU", GMRES, a, ilu, Settings{})
	// A preconditioner that is an iterative solver itself.
	inner := &inexact{a: a}
	checkIterative(t, "flexible", GMRES, a, inner, Settings{Flexible: true})
	assert.Positive(t, inner.calls)
}

// inexact solves with a tolerance that changes from call to call.
type inexact struct {
	a     *CSR
	calls int
}

func (p *inexact) Apply(dst, r []float64) {
	p.calls++
	clear(dst)
	BiCGStab(context.Background(), p.a, r, dst, nil, &Settings{Tolerance: 0.1 / float64(1+p.calls%3), MaxIterations: 30})
}

func TestIncompleteFactorsAreExactWithoutFill(t *testing.T) {
	// A tridiagonal matrix has no fill.
	a := &CSR{Rows: []int32{0}}
	for i := range int32(50) {
		if i > 0 {
			a.Cols, a.Data = append(a.Cols, i-1), append(a.Data, -1.5)
		}
		a.Cols, a.Data = append(a.Cols, i), append(a.Data, 4)
		if i < 49 {
			a.Cols, a.Data = append(a.Cols, i+1), append(a.Data, -2)
		}
		a.Rows = append(a.Rows, int32(len(a.Cols)))
	}
	f, err := NewILU(a)
	require.NoError(t, err)
	b, x := make([]float64, 50), make([]float64, 50)
	b[7] = 1
	f.Apply(x, b)
	assert.Less(t, Residual(a, x, b), 1e-15)
	_, err = NewILU(&CSR{Rows: []int32{0, 1, 2}, Cols: []int32{1, 0}, Data: []float64{1, 1}})
	assert.ErrorContains(t, err, "row 0 stores no diagonal")
}

func TestIterativeSolversSayWhyTheyEnded(t *testing.T) {
	a := box[float64](20, 0)
	b, x := make([]float64, a.N()), make([]float64, a.N())
	for i := range b {
		b[i] = 1
	}
	stopped, cancel := context.WithCancel(context.Background())
	cancel()
	for name, solve := range map[string]solver{"MINRES": MINRES, "BiCGStab": BiCGStab} {
		clear(x)
		r := solve(context.Background(), a, b, x, nil, &Settings{MaxIterations: 3})
		assert.Equal(t, LimitReached, r.Status, name)
		assert.Equal(t, 3, r.Iterations, name)
		clear(x)
		assert.Equal(t, Stopped, solve(stopped, a, b, x, nil, nil).Status, name)
		clear(x)
		assert.Equal(t, Converged, solve(context.Background(), a, make([]float64, a.N()), x, nil, nil).Status, name)
		bad := make([]float64, a.N())
		bad[0] = math.NaN()
		assert.Equal(t, NotFinite, solve(context.Background(), a, bad, x, nil, nil).Status, name)
	}
}
