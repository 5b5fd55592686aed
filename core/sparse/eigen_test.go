package sparse

import (
	"context"
	"math"
	"math/cmplx"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// box is the five-point Laplacian of a square with m² inner points, with
// convection of the given strength along x.
func box[T float64 | complex128](m int, convection T) *Matrix[T] {
	a := &Matrix[T]{Rows: []int32{0}}
	for y := range m {
		for x := range m {
			put := func(dx, dy int, v T) {
				if i, j := x+dx, y+dy; i >= 0 && j >= 0 && i < m && j < m {
					a.Cols, a.Data = append(a.Cols, int32(j*m+i)), append(a.Data, v)
				}
			}
			put(0, -1, -1)
			put(-1, 0, -1-convection)
			put(0, 0, 4)
			put(1, 0, -1+convection)
			put(0, 1, -1)
			a.Rows = append(a.Rows, int32(len(a.Cols)))
		}
	}
	return a
}

// boxValues are the eigenvalues of box, known in closed form.
func boxValues(m int, convection complex128) []complex128 {
	var list []complex128
	root := cmplx.Sqrt((1 - convection) * (1 + convection))
	for p := 1; p <= m; p++ {
		for q := 1; q <= m; q++ {
			c := func(k int) float64 { return math.Cos(float64(k) * math.Pi / float64(m+1)) }
			list = append(list, 4-2*root*complex(c(p), 0)-complex(2*c(q), 0))
		}
	}
	return list
}

// nearest sorts by distance from a point, by rising distance.
func nearest(list []complex128, to complex128, count int) []float64 {
	var d []float64
	for _, v := range list {
		d = append(d, cmplx.Abs(v-to))
	}
	for i := range count {
		for j := i + 1; j < len(d); j++ {
			if d[j] < d[i] {
				d[i], d[j] = d[j], d[i]
			}
		}
	}
	return d[:count]
}

func distances(list []complex128, to complex128) []float64 {
	var d []float64
	for _, v := range list {
		d = append(d, cmplx.Abs(v-to))
	}
	return d
}

func TestSymmetricEigenvaluesWithMultiples(t *testing.T) {
	// The square has most eigenvalues twice.
	const m = 24
	a := box[float64](m, 0)
	for _, c := range []struct {
		shift float64
		count int
	}{{0, 12}, {0.5, 10}, {4, 14}} {
		// 4 is an eigenvalue of multiplicity m.
		r, err := Eigen(context.Background(), a, nil, &EigenSettings[float64]{Count: c.count, Shift: c.shift, Symmetric: true, Verify: true})
		require.NoError(t, err)
		assert.True(t, r.Verified)
		want := nearest(boxValues(m, 0), complex(c.shift, 0), c.count)
		got := distances(r.Values, complex(c.shift, 0))
		assert.InDeltaSlice(t, want, got, 1e-9*(1+c.shift), "shift %g", c.shift)
		for i, x := range r.Vectors {
			assert.Less(t, r.Residuals[i], 1e-9)
			for _, y := range r.Vectors[:i] {
				var s complex128
				for k := range x {
					s += x[k] * y[k]
				}
				assert.InDelta(t, 0, cmplx.Abs(s), 1e-8, "vectors are orthogonal")
			}
		}
	}
}

func TestPencilWithMass(t *testing.T) {
	const m = 20
	k := box[float64](m, 0)
	mass := k.Clone()
	for i := range mass.Data {
		mass.Data[i] = 0
	}
	for i := range mass.N() {
		cols, data := mass.Row(i)
		for j, c := range cols {
			if int(c) == i {
				data[j] = 3
			}
		}
	}
	r, err := Eigen(context.Background(), k, mass, &EigenSettings[float64]{Count: 8, Symmetric: true})
	require.NoError(t, err)
	want := nearest(boxValues(m, 0), 0, 8)
	for i, v := range r.Values {
		assert.InEpsilon(t, want[i]/3, real(v), 1e-9)
		var s complex128
		for _, z := range r.Vectors[i] {
			s += 3 * z * z
		}
		assert.InDelta(t, 1, real(s), 1e-9, "vectors have M-length 1")
	}
}

func TestGeneralEigenvalues(t *testing.T) {
	const m = 14
	// Convection above 1 makes the spectrum complex.
	for _, convection := range []float64{0.3, 5} {
		r, err := Eigen(context.Background(), box(m, convection), nil, &EigenSettings[float64]{Count: 8, Shift: 0.3})
		require.NoError(t, err)
		want := nearest(boxValues(m, complex(convection, 0)), 0.3, 8)
		assert.InDeltaSlice(t, want, distances(r.Values[:8], 0.3), 1e-7, "convection %g", convection)
		for _, v := range r.Residuals {
			assert.Less(t, v, 1e-7)
		}
	}
	shift := 2 + 1i
	r, err := Eigen(context.Background(), box(m, 0.5i), nil, &EigenSettings[complex128]{Count: 6, Shift: shift})
	require.NoError(t, err)
	assert.InDeltaSlice(t, nearest(boxValues(m, 0.5i), shift, 6), distances(r.Values, shift), 1e-8)
}

func TestEigenvaluesOfSmallMatrices(t *testing.T) {
	for n := 1; n <= 3; n++ {
		a := box[float64](n, 0)
		r, err := Eigen(context.Background(), a, nil, &EigenSettings[float64]{Count: n * n, Symmetric: true})
		require.NoError(t, err)
		assert.InDeltaSlice(t, nearest(boxValues(n, 0), 0, n*n), distances(r.Values, 0), 1e-10)
	}
}

func TestEigenStops(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	_, err := Eigen(ctx, box[float64](10, 0), nil, nil)
	assert.ErrorIs(t, err, context.Canceled)
}

func TestHiddenMultiplesAreFound(t *testing.T) {
	// A single Krylov vector sees one copy of each eigenvalue of a diagonal matrix.
	const n = 240
	a := &CSR{Rows: []int32{0}}
	for i := range int32(n) {
		a.Cols, a.Data = append(a.Cols, i), append(a.Data, float64(1+i/3))
		a.Rows = append(a.Rows, i+1)
	}
	set := EigenSettings[float64]{Count: 6, Symmetric: true, Block: 1}
	blind, err := Eigen(context.Background(), a, nil, &set)
	require.NoError(t, err)
	assert.Greater(t, real(blind.Values[5]), 2.5, "without the count the copies are missed")
	set.Verify = true
	r, err := Eigen(context.Background(), a, nil, &set)
	require.NoError(t, err)
	assert.True(t, r.Verified)
	assert.InDeltaSlice(t, []float64{1, 1, 1, 2, 2, 2}, distances(r.Values, 0), 1e-9)
}

func TestRestartsKeepRealPairsWhole(t *testing.T) {
	// A small basis restarts often; blocks of 3 do not divide the pairs.
	const m = 14
	for _, block := range []int{1, 2, 3} {
		r, err := Eigen(context.Background(), box(m, 5.0), nil, &EigenSettings[float64]{Count: 6, Shift: 0.3, Block: block, Basis: 14})
		require.NoError(t, err)
		assert.Positive(t, r.Restarts)
		assert.InDeltaSlice(t, nearest(boxValues(m, 5), 0.3, 6), distances(r.Values[:6], 0.3), 1e-6, "blocks of %d", block)
	}
}

func TestShiftAtAnEigenvalue(t *testing.T) {
	// The matrix with the shift taken off is singular.
	const m = 12
	values := boxValues(m, 0)
	r, err := Eigen(context.Background(), floating(m), nil, &EigenSettings[float64]{Count: 3, Symmetric: true})
	require.NoError(t, err)
	assert.InDelta(t, 0, real(r.Values[0]), 1e-9)
	assert.InDelta(t, 0, real(r.Values[1]), 1e-9, "each part floats")
	assert.Greater(t, real(r.Values[2]), 1e-3)
	shift := real(values[0])
	q, err := Eigen(context.Background(), box[float64](m, 0), nil, &EigenSettings[float64]{Count: 1, Shift: shift, Symmetric: true})
	require.NoError(t, err)
	assert.InDelta(t, shift, real(q.Values[0]), 1e-9)
}

// TestJoinedEigenvaluesAreCounted of a motion and an effort: those of the symmetric form are those of the pencil itself, one of them zero, and one
// that is left out is missed.
func TestJoinedEigenvaluesAreCounted(t *testing.T) {
	const m, n = 6, 36
	body := box[float64](m, 0)
	full := func() *Matrix[float64] {
		a := &Matrix[float64]{Rows: []int32{0}, Data: make([]float64, 4*n*n)}
		for range 2 * n {
			for c := range int32(2 * n) {
				a.Cols = append(a.Cols, c)
			}
			a.Rows = append(a.Rows, int32(len(a.Cols)))
		}
		return a
	}
	stiffness, inertia, efforts := full(), full(), make([]bool, 2*n)
	put := func(a *Matrix[float64], r, c int, v float64) { a.Data[r*2*n+c] += v }
	for i := range n {
		cols, data := body.Row(i)
		for j, c := range cols {
			put(stiffness, i, int(c), data[j])
			if int(c) != i {
				put(stiffness, n+i, n+int(c), 0.3*data[j])
				put(stiffness, n+i, n+i, -0.3*data[j]) // closed: a constant effort is at rest
			}
		}
		put(inertia, i, i, 2)
		put(inertia, n+i, n+i, 1.5)
		efforts[n+i] = true
		if i%3 == 0 {
			put(stiffness, i, n+i, -0.4)
			put(inertia, n+i, i, 0.4)
		}
	}
	find := func(set EigenSettings[float64]) (values []float64) {
		set.Count, set.Shift = 9, -1e-3
		r, err := Eigen(t.Context(), stiffness, inertia, &set)
		require.NoError(t, err)
		for _, v := range r.Values {
			assert.InDelta(t, 0, imag(v), 1e-8)
			values = append(values, real(v))
		}
		return values
	}
	counted := find(EigenSettings[float64]{Efforts: efforts, Verify: true})
	assert.InDelta(t, 0, counted[0], 1e-9)
	assert.InDeltaSlice(t, find(EigenSettings[float64]{}), counted, 1e-8)

	e := &eigen[float64]{ctx: t.Context(), k: stiffness, m: inertia, n: 2 * n, set: EigenSettings[float64]{Count: 9, Shift: -1e-3, Efforts: efforts}}
	e.prepare()
	require.NoError(t, e.shift())
	e.start()
	require.NoError(t, e.iterate())
	missing, err := e.missing()
	require.NoError(t, err)
	assert.Zero(t, missing)
	e.Values = append(e.Values[:3:3], e.Values[4:]...)
	missing, err = e.missing()
	require.NoError(t, err)
	assert.Equal(t, 1, missing)
}
