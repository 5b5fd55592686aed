package dense

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// symmetric makes a full symmetric matrix of order n; with gaps its leading block
// is zero, so that no column has a pivot of its own.
func symmetric[T Scalar](rng *rand.Rand, n, zeros int) []T {
	a := noise[T](rng, n*n)
	for i := range n {
		for j := range i {
			a[j*n+i] = a[i*n+j]
		}
	}
	for i := range zeros {
		for j := range zeros {
			a[i*n+j] = 0
		}
	}
	return a
}

// frontOf splits a full matrix into a front with p candidates.
func frontOf[T Scalar](a []T, n, p int) *Front[T] {
	r := n - p
	f := &Front[T]{Rows: n, Candidates: p, Left: make([]T, n*p), Rest: make([]T, r*r), Order: make([]int32, p), Diagonal: make([]T, p), Beside: make([]T, p)}
	for i := range n {
		copy(f.Left[i*p:(i+1)*p], a[i*n:i*n+p])
		if i >= p {
			copy(f.Rest[(i-p)*r:(i-p+1)*r], a[i*n+p:(i+1)*n])
		}
	}
	for i := range f.Order {
		f.Order[i] = int32(i)
	}
	return f
}

// checkFront multiplies the factors of a front out and compares with a.
func checkFront[T Scalar](t *testing.T, a []T, f *Front[T], bound float64) {
	n, p, q, r := f.Rows, f.Candidates, f.Eliminated, f.Rows-f.Candidates
	lower := func(i, k int) T {
		switch {
		case i == k:
			return 1
		case i < k:
			return 0
		}
		return f.Left[i*p+k]
	}
	// L·D
	scaled := make([]T, n*q)
	for i := range n {
		for k := 0; k < q; k++ {
			if f.Beside[k] == 0 {
				scaled[i*q+k] = lower(i, k) * f.Diagonal[k]
				continue
			}
			x, y := lower(i, k), lower(i, k+1)
			scaled[i*q+k] = x*f.Diagonal[k] + y*f.Beside[k]
			scaled[i*q+k+1] = x*f.Beside[k] + y*f.Diagonal[k+1]
			k++
		}
	}
	place := func(i int) int {
		if i < p {
			return int(f.Order[i])
		}
		return i
	}
	worst := 0.0
	for i := range n {
		for j := range i + 1 {
			var s T
			for k := range q {
				s += scaled[i*q+k] * lower(j, k)
			}
			if j >= q {
				if j < p {
					s += f.Left[i*p+j]
				} else {
					s += f.Rest[(i-p)*r+j-p]
				}
			}
			worst = max(worst, Magnitude(s-a[place(i)*n+place(j)]))
		}
	}
	require.LessOrEqual(t, worst, bound)
}

func testFront[T Scalar](t *testing.T, rng *rand.Rand) {
	var w Workspace[T]
	for _, c := range []struct{ n, p, zeros, least int }{
		{1, 1, 0, 1}, {5, 5, 0, 5}, {40, 20, 0, 15}, {90, 90, 45, 90}, {200, 150, 60, 120}, {300, 170, 0, 150}, {40, 10, 10, 0}, {150, 140, 70, 130},
	} {
		a := symmetric[T](rng, c.n, c.zeros)
		f := frontOf(a, c.n, c.p)
		require.NoError(t, w.Factor(f, &Pivoting{Tiny: 1e-14}, 2))
		assert.GreaterOrEqual(t, f.Eliminated, c.least, "%+v", c)
		checkFront(t, a, f, 1e-8)
		largest := 0.0
		for i := range f.Rows {
			for k := range min(i, f.Eliminated) {
				largest = max(largest, Magnitude(f.Left[i*f.Candidates+k]))
			}
		}
		require.LessOrEqual(t, largest, 201.0, "elements of L are bounded")
		// Positive definite by its diagonal, in the order given.
		for i := range c.n {
			words(a[i*c.n+i : i*c.n+i+1])[0] = 3 * float64(c.n)
		}
		f = frontOf(a, c.n, c.p)
		require.NoError(t, w.Factor(f, &Pivoting{Definite: true}, 1))
		assert.Equal(t, c.p, f.Eliminated)
		checkFront(t, a, f, 1e-11)
	}
}

func TestFrontsAreTheProductOfTheirFactors(t *testing.T) {
	eachKernel(t, func(t *testing.T) {
		rng := rand.New(rand.NewPCG(11, 12))
		testFront[float64](t, rng)
		testFront[complex128](t, rng)
	})
}

func TestSingularFrontsKeepTheirNullSpace(t *testing.T) {
	var w Workspace[float64]
	const n = 60
	rng := rand.New(rand.NewPCG(13, 14))
	// Rank n−3: a product with a thin factor.
	thin := noise[float64](rng, n*(n-3))
	a := make([]float64, n*n)
	Add(a, n, n, n, n-3, 1, Operand[float64]{thin, n - 3, 1}, Operand[float64]{thin, 1, n - 3}, Full, 1)
	f := frontOf(a, n, n)
	require.NoError(t, w.Factor(f, &Pivoting{Tiny: 1e-11}, 1))
	assert.Equal(t, n-3, f.Eliminated)
	checkFront(t, a, f, 1e-11)
	f = frontOf(a, n, n)
	assert.ErrorIs(t, w.Factor(f, &Pivoting{Definite: true, Tiny: 1e-11}, 1), ErrNotDefinite)

	u := squareOf(a, n, n)
	w.FactorSquare(u, &Pivoting{Tiny: 1e-11}, 1)
	assert.Equal(t, n-3, u.Eliminated)
	checkSquare(t, a, u, 1e-11)
}

func squareOf[T Scalar](a []T, n, p int) *Square[T] {
	r := n - p
	f := &Square[T]{Rows: n, Candidates: p, Left: make([]T, n*p), Upper: make([]T, p*r), Rest: make([]T, r*r), RowOrder: make([]int32, p), ColumnOrder: make([]int32, p)}
	for i := range n {
		copy(f.Left[i*p:(i+1)*p], a[i*n:i*n+p])
		if i < p {
			copy(f.Upper[i*r:(i+1)*r], a[i*n+p:(i+1)*n])
			f.RowOrder[i], f.ColumnOrder[i] = int32(i), int32(i)
		} else {
			copy(f.Rest[(i-p)*r:(i-p+1)*r], a[i*n+p:(i+1)*n])
		}
	}
	return f
}

func checkSquare[T Scalar](t *testing.T, a []T, f *Square[T], bound float64) {
	n, p, q, r := f.Rows, f.Candidates, f.Eliminated, f.Rows-f.Candidates
	at := func(i, j int) T {
		switch {
		case j < p:
			return f.Left[i*p+j]
		case i < p:
			return f.Upper[i*r+j-p]
		}
		return f.Rest[(i-p)*r+j-p]
	}
	place := func(order []int32, i int) int {
		if i < p {
			return int(order[i])
		}
		return i
	}
	worst := 0.0
	for i := range n {
		for j := range n {
			var s T
			for k := range min(i, j+1, q) {
				s += at(i, k) * at(k, j)
			}
			if i < q && i <= j || i >= q && j >= q {
				s += at(i, j)
			}
			worst = max(worst, Magnitude(s-a[place(f.RowOrder, i)*n+place(f.ColumnOrder, j)]))
		}
	}
	require.LessOrEqual(t, worst, bound)
}

func testSquare[T Scalar](t *testing.T, rng *rand.Rand) {
	var w Workspace[T]
	for _, c := range []struct{ n, p, zeros, least int }{
		{1, 1, 0, 1}, {5, 5, 0, 5}, {40, 20, 0, 18}, {90, 90, 45, 90}, {260, 200, 60, 190}, {300, 20, 20, 0}, {150, 140, 70, 130},
	} {
		a := noise[T](rng, c.n*c.n)
		for i := range c.zeros {
			clear(a[i*c.n : i*c.n+c.zeros])
		}
		f := squareOf(a, c.n, c.p)
		w.FactorSquare(f, &Pivoting{Tiny: 1e-14}, 2)
		assert.GreaterOrEqual(t, f.Eliminated, c.least, "%+v", c)
		checkSquare(t, a, f, 1e-9)
	}
}

func TestSquaresAreTheProductOfTheirFactors(t *testing.T) {
	eachKernel(t, func(t *testing.T) {
		rng := rand.New(rand.NewPCG(15, 16))
		testSquare[float64](t, rng)
		testSquare[complex128](t, rng)
	})
}
