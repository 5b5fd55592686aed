package sparse

import (
	"context"
	"math"
	"math/rand/v2"
	"runtime"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/dense"
)

// random makes a matrix with a symmetric pattern of about the given elements a
// row; its values are symmetric if wanted, and its diagonal has the given size.
func random[T dense.Scalar](rng *rand.Rand, n, perRow int, symmetric bool, diagonal float64) *Matrix[T] {
	near := make([]map[int32]T, n)
	for i := range near {
		near[i] = map[int32]T{int32(i): asScalar[T](complex(diagonal*(rng.Float64()-0.4), diagonal*rng.Float64()))}
	}
	value := func() T { return asScalar[T](complex(rng.NormFloat64(), rng.NormFloat64())) }
	for i := range n {
		for range perRow / 2 {
			// Mostly near the diagonal, so that the fill stays small.
			j := min(n-1, max(0, i+rng.IntN(41)-20))
			if j == i {
				continue
			}
			v := value()
			near[i][int32(j)] = v
			if !symmetric {
				v = value()
			}
			near[j][int32(i)] = v
		}
	}
	a := &Matrix[T]{Rows: []int32{0}}
	for i := range n {
		var cols []int32
		for c := range near[i] {
			cols = append(cols, c)
		}
		slices.Sort(cols)
		for _, c := range cols {
			a.Cols, a.Data = append(a.Cols, c), append(a.Data, near[i][c])
		}
		a.Rows = append(a.Rows, int32(len(a.Cols)))
	}
	return a
}

func checkSolution[T dense.Scalar](t *testing.T, rng *rand.Rand, a *Matrix[T], kind Kind, order Ordering) *Factors[T] {
	f, err := Factor(context.Background(), Analyse(a, kind, &OrderSettings{Ordering: order}), a, nil)
	require.NoError(t, err)
	const sides = 3
	n := a.N()
	b := make([]T, n*sides)
	for i := range b {
		b[i] = asScalar[T](complex(rng.NormFloat64(), rng.NormFloat64()))
	}
	x := make([]T, n*sides)
	f.SolveMany(x, b, sides)
	for s := range sides {
		one, side := make([]T, n), make([]T, n)
		for i := range n {
			one[i], side[i] = x[i*sides+s], b[i*sides+s]
		}
		require.Less(t, Residual(a, one, side), 1e-8)
		require.Less(t, f.Refined(a, one, side, 3), 1e-11)
	}
	return f
}

func TestDirectSolversSolve(t *testing.T) {
	rng := rand.New(rand.NewPCG(21, 22))
	for _, order := range []Ordering{MinimumDegree, Dissection, Automatic} {
		for _, n := range []int{1, 2, 17, 400, 1500} {
			checkSolution(t, rng, random[float64](rng, n, 6, true, 8), Symmetric, order)
			checkSolution(t, rng, random[float64](rng, n, 6, false, 8), Unsymmetric, order)
			checkSolution(t, rng, random[complex128](rng, n, 6, true, 8), Symmetric, order)
			checkSolution(t, rng, random[complex128](rng, n, 6, false, 8), Unsymmetric, order)
		}
		f := checkSolution(t, rng, laplace(14, 1e4), Definite, order)
		assert.Equal(t, f.a.n, f.Positive)
	}
}

// saddle is [A B; Bᵀ 0], or with −Bᵀ, with A a Laplacian and B a difference.
func saddle(m int, sign float64) *CSR {
	a := box[float64](m, 0)
	n := a.N()
	k := n / 2
	out := &CSR{Rows: []int32{0}}
	for i := range n {
		cols, data := a.Row(i)
		out.Cols, out.Data = append(out.Cols, cols...), append(out.Data, data...)
		if i > 0 && i <= k {
			out.Cols, out.Data = append(out.Cols, int32(n+i-1)), append(out.Data, -1)
		}
		if i < k {
			out.Cols, out.Data = append(out.Cols, int32(n+i)), append(out.Data, 1)
		}
		out.Rows = append(out.Rows, int32(len(out.Cols)))
	}
	for j := range k {
		out.Cols, out.Data = append(out.Cols, int32(j), int32(j+1)), append(out.Data, sign, -sign)
		out.Rows = append(out.Rows, int32(len(out.Cols)))
	}
	return out
}

func TestSaddlePointsNeedPivots(t *testing.T) {
	rng := rand.New(rand.NewPCG(23, 24))
	for _, order := range []Ordering{MinimumDegree, Dissection} {
		a := saddle(30, 1)
		f := checkSolution(t, rng, a, Symmetric, order)
		assert.Equal(t, 900, f.Positive)
		assert.Equal(t, 450, f.Negative, "as many as there are constraints")
		checkSolution(t, rng, saddle(30, -1), Unsymmetric, order)
	}
}

func TestInertiaCountsEigenvalues(t *testing.T) {
	const m = 20
	a := box[float64](m, 0)
	for _, shift := range []float64{0.01, 0.777, 3.3} {
		below := 0
		for _, v := range boxValues(m, 0) {
			if real(v) < shift {
				below++
			}
		}
		b := Combined(a, 1, nil, -shift)
		f, err := Factor(context.Background(), Analyse(b, Symmetric, nil), b, nil)
		require.NoError(t, err)
		assert.Equal(t, below, f.Negative)
		assert.Equal(t, m*m-below, f.Positive)
	}
}

// floating is the Laplacian of two separate squares that nothing holds.
func floating(m int) *CSR {
	out := &CSR{Rows: []int32{0}}
	for part := range 2 {
		base := int32(part * m * m)
		a := box[float64](m, 0)
		for i := range a.N() {
			cols, data := a.Row(i)
			var sum float64
			for _, v := range data {
				sum += v
			}
			for k, c := range cols {
				v := data[k]
				if int(c) == i {
					v -= sum
				}
				out.Cols, out.Data = append(out.Cols, base+c), append(out.Data, v)
			}
			out.Rows = append(out.Rows, int32(len(out.Cols)))
		}
	}
	return out
}

func TestSingularMatricesSayTheirNullSpace(t *testing.T) {
	const m = 25
	a := floating(m)
	for _, kind := range []Kind{Symmetric, Unsymmetric} {
		f, err := Factor(context.Background(), Analyse(a, kind, nil), a, nil)
		var singular *SingularError
		require.ErrorAs(t, err, &singular)
		assert.Equal(t, 2, singular.Dimension, "one for each part that nothing holds")
		require.Len(t, f.Null, 2)
		for _, v := range f.Null {
			r := make([]float64, a.N())
			a.MulVec(r, v)
			assert.Less(t, Norm(r), 1e-11*Norm(v))
		}
	}
	_, err := Factor(context.Background(), Analyse(a, Definite, nil), a, nil)
	assert.ErrorIs(t, err, dense.ErrNotDefinite)
	empty := &CSR{Rows: []int32{0, 1, 1}, Cols: []int32{0}, Data: []float64{2}}
	f, err := Factor(context.Background(), Analyse(empty, Symmetric, nil), empty, nil)
	assert.Error(t, err)
	assert.Equal(t, [][]float64{{0, 1}}, f.Null, "an unknown without an equation")
}

func TestFactorsDoNotDependOnTheRun(t *testing.T) {
	rng := rand.New(rand.NewPCG(25, 26))
	a := random[float64](rng, 3000, 8, true, 6)
	b := make([]float64, a.N())
	for i := range b {
		b[i] = rng.NormFloat64()
	}
	solve := func(threads int) []float64 {
		before := runtime.GOMAXPROCS(threads)
		defer runtime.GOMAXPROCS(before)
		f, err := Factor(context.Background(), Analyse(a, Symmetric, &OrderSettings{Ordering: Dissection}), a, nil)
		require.NoError(t, err)
		x := make([]float64, a.N())
		f.Solve(x, b)
		return x
	}
	two := solve(2)
	assert.Equal(t, two, solve(2), "bit by bit")
	one := solve(1)
	for i := range one {
		one[i] -= two[i]
	}
	assert.Less(t, Norm(one), 1e-9*Norm(two))
}

func TestOrderingsArePermutationsWithLittleFill(t *testing.T) {
	const m = 40
	a := box[float64](m, 0)
	at := make([]float64, 0, 3*m*m)
	for y := range m {
		for x := range m {
			at = append(at, float64(x), float64(y), 0)
		}
	}
	fill := map[string]int64{}
	for name, set := range map[string]*OrderSettings{"degree": {Ordering: MinimumDegree}, "dissection": {Ordering: Dissection}, "space": {Ordering: Dissection, Coordinates: at}} {
		an := Analyse(a, Definite, set)
		seen := make([]bool, m*m)
		for _, v := range an.order {
			assert.False(t, seen[v])
			seen[v] = true
		}
		fill[name] = an.Fill
	}
	// The band of the natural order has m³ elements.
	for name, f := range fill {
		assert.Less(t, f, int64(m*m*m*7/10), name)
	}
}

func TestFactorStops(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	a := box[float64](10, 0)
	_, err := Factor(ctx, Analyse(a, Definite, nil), a, nil)
	assert.ErrorIs(t, err, context.Canceled)
}

func testTransposed[T dense.Scalar](t *testing.T, rng *rand.Rand, kind Kind, symmetric bool) {
	a := random[T](rng, 700, 6, symmetric, 8)
	f, err := Factor(context.Background(), Analyse(a, kind, nil), a, nil)
	require.NoError(t, err)
	n := a.N()
	want, b := make([]T, n), make([]T, n)
	for i := range want {
		want[i] = asScalar[T](complex(rng.NormFloat64(), rng.NormFloat64()))
	}
	for i, v := range want {
		cols, data := a.Row(i)
		for k, c := range cols {
			b[c] += data[k] * v
		}
	}
	x := make([]T, n)
	f.SolveTransposed(x, b)
	for i := range x {
		x[i] -= want[i]
	}
	assert.Less(t, norm(x), 1e-6*norm(want))
}

func TestTransposedSystems(t *testing.T) {
	rng := rand.New(rand.NewPCG(27, 28))
	testTransposed[float64](t, rng, Symmetric, true)
	testTransposed[float64](t, rng, Unsymmetric, false)
	testTransposed[complex128](t, rng, Unsymmetric, false)
	// Put-off pivots as well.
	a := saddle(12, -1)
	f, err := Factor(context.Background(), Analyse(a, Unsymmetric, nil), a, nil)
	require.NoError(t, err)
	b := make([]float64, a.N())
	b[3] = 1
	x, y, r := make([]float64, a.N()), make([]float64, a.N()), make([]float64, a.N())
	f.SolveTransposed(x, b)
	// ⟨A⁻ᵀ·b, c⟩ = ⟨b, A⁻¹·c⟩
	for i := range r {
		r[i] = rng.NormFloat64()
	}
	f.Solve(y, r)
	assert.InDelta(t, Dot(b, y), Dot(x, r), 1e-9*(1+Norm(x)*Norm(r)))
}

func TestConditionOfKnownMatrices(t *testing.T) {
	// By columns the diagonal matrix has exactly the ratio of its elements.
	a := &CSR{Rows: []int32{0}}
	for i := range int32(300) {
		a.Cols, a.Data = append(a.Cols, i), append(a.Data, float64(1+i*i))
		a.Rows = append(a.Rows, i+1)
	}
	f, err := Factor(context.Background(), Analyse(a, Unsymmetric, nil), a, nil)
	require.NoError(t, err)
	assert.InEpsilon(t, 1+299.0*299, f.Condition(a), 1e-9)
	// For a Laplacian the sums of the inverse are known by solving for each column.
	b := box(12, 0.4)
	f, err = Factor(context.Background(), Analyse(b, Unsymmetric, nil), b, nil)
	require.NoError(t, err)
	n := b.N()
	inverse, columns := 0.0, 0.0
	for j := range n {
		x := make([]float64, n)
		x[j] = 1
		f.Solve(x, x)
		var sum, own float64
		for i, v := range x {
			sum += size(v)
			own += size(b.At(i, j))
		}
		inverse, columns = max(inverse, sum), max(columns, own)
	}
	assert.LessOrEqual(t, f.Condition(b), inverse*columns*(1+1e-12))
	assert.Greater(t, f.Condition(b), inverse*columns/3)
}

func TestMemoryIsPredicted(t *testing.T) {
	for _, kind := range []Kind{Definite, Unsymmetric} {
		a := laplace(16, 1)
		an := Analyse(a, kind, nil)
		f, err := Factor(context.Background(), an, a, nil)
		require.NoError(t, err)
		var held int64
		for i := range f.parts {
			held += int64(len(f.parts[i].left) + len(f.parts[i].upper))
		}
		assert.Greater(t, an.Memory(8), 8*held, "blocks that wait come on top")
		assert.Less(t, an.Memory(8), 4*8*held)
		assert.GreaterOrEqual(t, 2*held, an.Fill)
	}
}

func TestFactorReportsProgress(t *testing.T) {
	a := laplace(18, 1)
	var parts []float64
	_, err := Factor(context.Background(), Analyse(a, Definite, nil), a, &FactorSettings{Progress: func(p float64) { parts = append(parts, p) }})
	require.NoError(t, err)
	require.NotEmpty(t, parts)
	assert.True(t, slices.IsSorted(parts))
	assert.InDelta(t, 1, parts[len(parts)-1], 0.03)
}

func TestMatricesThatAreNotFiniteAreRefused(t *testing.T) {
	a := box[float64](5, 0)
	a.Data[7] = math.NaN()
	_, err := Factor(context.Background(), Analyse(a, Symmetric, nil), a, nil)
	assert.ErrorContains(t, err, "not finite")
}
