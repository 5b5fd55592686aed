package dense

import (
	"math"
	"math/rand/v2"
	"runtime"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
)

// eachKernel runs a test with every kernel of this processor.
func eachKernel(t *testing.T, f func(t *testing.T)) {
	before := active
	defer func() { active = before }()
	for _, k := range kernels {
		active = k
		t.Run(k.name, f)
	}
}

func noise[T Scalar](rng *rand.Rand, n int) []T {
	s := make([]T, n)
	w := words(s)
	for i := range w {
		w[i] = 2*rng.Float64() - 1
	}
	return s
}

// checkProduct compares a product of the given sizes with the sum of its terms.
func checkProduct[T Scalar](t *testing.T, rng *rand.Rand, m, n, k int, shape Shape, threads int) {
	a := Operand[T]{noise[T](rng, m*k), k, 1}
	if rng.IntN(2) == 0 {
		a.Row, a.Col = 1, m
	}
	b := Operand[T]{noise[T](rng, n*k), n, 1}
	if rng.IntN(2) == 0 {
		b.Row, b.Col = 1, k
	}
	ldc := n + rng.IntN(3)
	c := noise[T](rng, m*ldc)
	want := append([]T(nil), c...)
	sign := float64(1 - 2*rng.IntN(2))
	Add(c, ldc, m, n, k, sign, a, b, shape, threads)
	worst, beyond := 0.0, true
	for i := range m {
		for j := range n {
			if shape == Lower && j > i {
				continue
			}
			var s T
			for p := range k {
				s += a.Data[i*a.Row+p*a.Col] * b.Data[p*b.Row+j*b.Col]
			}
			if sign < 0 {
				s = -s
			}
			s += want[i*ldc+j]
			worst = max(worst, Magnitude(c[i*ldc+j]-s))
		}
		for j := n; j < ldc; j++ {
			beyond = beyond && want[i*ldc+j] == c[i*ldc+j]
		}
	}
	assert.LessOrEqual(t, worst, 1e-14*float64(k+4), "%d by %d by %d", m, n, k)
	assert.True(t, beyond, "nothing is written beyond the last column")
}

func TestProductIsTheSumOfItsTerms(t *testing.T) {
	eachKernel(t, func(t *testing.T) {
		rng := rand.New(rand.NewPCG(1, 2))
		for trial := range 60 {
			m, n, k := 1+rng.IntN(50), 1+rng.IntN(50), 1+rng.IntN(50)
			checkProduct[float64](t, rng, m, n, k, Shape(trial%2), 1)
			checkProduct[complex128](t, rng, m, n, k, Shape(trial%2), 1)
		}
		// Sizes beyond every block, and two threads.
		checkProduct[float64](t, rng, 230, 250, 300, Full, 2)
		checkProduct[float64](t, rng, 250, 250, 280, Lower, 2)
		checkProduct[complex128](t, rng, 120, 100, 150, Lower, 2)
	})
}

func TestProductDoesNotDependOnTheThreads(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	const n = 310
	a, b := noise[float64](rng, n*n), noise[float64](rng, n*n)
	for _, shape := range []Shape{Full, Lower} {
		one, two := make([]float64, n*n), make([]float64, n*n)
		Add(one, n, n, n, n, 1, Operand[float64]{a, n, 1}, Operand[float64]{b, 1, n}, shape, 1)
		before := runtime.GOMAXPROCS(2)
		Add(two, n, n, n, n, 1, Operand[float64]{a, n, 1}, Operand[float64]{b, 1, n}, shape, 2)
		runtime.GOMAXPROCS(before)
		same := true
		for i := range n {
			for j := range n {
				same = same && (shape == Lower && j > i || one[i*n+j] == two[i*n+j])
			}
		}
		assert.True(t, same)
	}
}

func TestVectorKernels(t *testing.T) {
	eachKernel(t, func(t *testing.T) {
		rng := rand.New(rand.NewPCG(5, 6))
		for n := range 40 {
			x, y := noise[float64](rng, n), noise[float64](rng, n)
			var s float64
			want := append([]float64(nil), y...)
			for i := range x {
				s += x[i] * y[i]
				want[i] += 0.3 * x[i]
			}
			assert.InDelta(t, s, Dot(x, y), 1e-14)
			Axpy(0.3, x, y)
			assert.InDeltaSlice(t, want, y, 1e-15)
		}
		cx, cy := noise[complex128](rng, 7), noise[complex128](rng, 7)
		var s complex128
		for i := range cx {
			s += cx[i] * cy[i]
		}
		assert.InDelta(t, 0, Magnitude(s-Dot(cx, cy)), 1e-15)
		before := cy[3]
		Axpy(2i, cx, cy)
		assert.Equal(t, before+2i*cx[3], cy[3])
	})
}

// TestPairs: the kernels on two rows and two vectors against single ones, at all
// lengths about their blocks.
func TestPairs(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 9))
	eachKernel(t, func(t *testing.T) {
		for n := range 40 {
			var v [4][]float64
			for i := range v {
				v[i] = make([]float64, n)
				for j := range v[i] {
					v[i][j] = rng.NormFloat64()
				}
			}
			s := DotPair(v[0], v[1], v[2], v[3])
			for i, pair := range [4][2]int{{0, 2}, {1, 2}, {0, 3}, {1, 3}} {
				assert.InDelta(t, Dot(v[pair[0]], v[pair[1]]), s[i], 1e-12)
			}
			a := [4]float64{0.3, -2, 1.1, 0.7}
			want := [2][]float64{slices.Clone(v[2]), slices.Clone(v[3])}
			for i := range want {
				Axpy(a[2*i], v[0], want[i])
				Axpy(a[2*i+1], v[1], want[i])
			}
			AxpyPair(&a, v[0], v[1], v[2], v[3])
			assert.InDeltaSlice(t, want[0], v[2], 1e-12)
			assert.InDeltaSlice(t, want[1], v[3], 1e-12)
		}
	})
}

func TestMagnitude(t *testing.T) {
	assert.Equal(t, 3.0, Magnitude(-3.0))
	assert.Equal(t, 7.0, Magnitude(3-4i))
	assert.True(t, math.IsNaN(Magnitude(math.NaN())))
}

func BenchmarkProduct1024(b *testing.B) {
	const n = 1024
	rng := rand.New(rand.NewPCG(7, 8))
	x, y, z := noise[float64](rng, n*n), noise[float64](rng, n*n), make([]float64, n*n)
	before := active
	defer func() { active = before }()
	for _, k := range kernels {
		active = k
		for threads := 1; threads <= 2; threads++ {
			b.Run(k.name+map[int]string{1: "/one", 2: "/two"}[threads], func(b *testing.B) {
				for b.Loop() {
					Add(z, n, n, n, n, 1, Operand[float64]{x, n, 1}, Operand[float64]{y, n, 1}, Full, threads)
				}
				b.ReportMetric(2*n*n*n*float64(b.N)/b.Elapsed().Seconds()/1e9, "GFLOP/s")
			})
		}
	}
}
