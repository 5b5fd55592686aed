package sparse

import (
	"errors"
	"math"
	"math/cmplx"
	"slices"
)

// square is a small full matrix by rows.
type square struct {
	n int
	a []complex128
}

func newSquare(n int) square { return square{n, make([]complex128, n*n)} }

func (s square) at(i, j int) *complex128 { return &s.a[i*s.n+j] }

// rotation is a plane rotation that takes (f, g) to (r, 0):
//
//	 c        s
//	−conj(s)  c
type rotation struct {
	c float64
	s complex128
}

func rotate(f, g complex128) (rotation, complex128) {
	if g == 0 {
		return rotation{1, 0}, f
	}
	af, ag := cmplx.Abs(f), cmplx.Abs(g)
	if af == 0 {
		return rotation{0, cmplx.Conj(g) / complex(ag, 0)}, complex(ag, 0)
	}
	size := cmplx.Abs(complex(af, ag))
	phase := f / complex(af, 0)
	return rotation{af / size, phase * cmplx.Conj(g) / complex(size, 0)}, phase * complex(size, 0)
}

// rows applies a rotation to rows i and i+1 from column j on.
func (s square) rows(r rotation, i, j int) {
	x, y := s.a[i*s.n:(i+1)*s.n], s.a[(i+1)*s.n:(i+2)*s.n]
	c := complex(r.c, 0)
	for ; j < s.n; j++ {
		x[j], y[j] = c*x[j]+r.s*y[j], c*y[j]-cmplx.Conj(r.s)*x[j]
	}
}

// columns applies the inverse of a rotation to columns i and i+1, down to row end.
func (s square) columns(r rotation, i, end int) {
	c := complex(r.c, 0)
	for k := range end {
		x, y := s.at(k, i), s.at(k, i+1)
		*x, *y = c**x+cmplx.Conj(r.s)**y, c**y-r.s**x
	}
}

// errSchur says that the iteration for the eigenvalues of a small matrix failed.
var errSchur = errors.New("sparse: the eigenvalues of the projected matrix could not be found")

// schur returns Q and T with A = Q·T·Qᴴ, Q unitary and T upper triangular, by the
// QR algorithm with Wilkinson's shifts (G. Golub and C. Van Loan, Matrix
// Computations, 4th ed., 7.3–7.5). a becomes T.
func schur(a square) (q square, err error) {
	n := a.n
	q = newSquare(n)
	for i := range n {
		*q.at(i, i) = 1
	}
	// Hessenberg form by rotations from the bottom of each column.
	for j := range max(n-2, 0) {
		for i := n - 2; i > j; i-- {
			if *a.at(i+1, j) == 0 {
				continue
			}
			r, v := rotate(*a.at(i, j), *a.at(i+1, j))
			a.rows(r, i, j)
			*a.at(i, j), *a.at(i+1, j) = v, 0
			a.columns(r, i, n)
			q.columns(r, i, n)
		}
	}
	rots := make([]rotation, n)
	for hi, tries := n-1, 0; hi > 0; {
		lo := hi
		for lo > 0 {
			small := cmplx.Abs(*a.at(lo, lo)) + cmplx.Abs(*a.at(lo-1, lo-1))
			if small == 0 {
				small = 1
			}
			if cmplx.Abs(*a.at(lo, lo-1)) <= 1e-16*small {
				*a.at(lo, lo-1) = 0
				break
			}
			lo--
		}
		if lo == hi {
			hi--
			tries = 0
			continue
		}
		if tries++; tries > 60 {
			return q, errSchur
		}
		shift := wilkinson(*a.at(hi-1, hi-1), *a.at(hi-1, hi), *a.at(hi, hi-1), *a.at(hi, hi))
		if tries%20 == 0 {
			shift += complex(cmplx.Abs(*a.at(hi, hi-1)), 0)
		}
		for i := lo; i <= hi; i++ {
			*a.at(i, i) -= shift
		}
		for i := lo; i < hi; i++ {
			r, v := rotate(*a.at(i, i), *a.at(i+1, i))
			rots[i] = r
			a.rows(r, i, i)
			*a.at(i, i), *a.at(i+1, i) = v, 0
		}
		for i := lo; i < hi; i++ {
			a.columns(rots[i], i, min(i+2, hi+1))
			q.columns(rots[i], i, n)
		}
		for i := lo; i <= hi; i++ {
			*a.at(i, i) += shift
		}
	}
	return q, nil
}

// wilkinson is the eigenvalue of [a b; c d] that is closest to d.
func wilkinson(a, b, c, d complex128) complex128 {
	half := (a - d) / 2
	root := cmplx.Sqrt(half*half + b*c)
	x, y := half+root, half-root
	if cmplx.Abs(y) < cmplx.Abs(x) {
		x = y
	}
	return d + x
}

// sortSchur brings the eigenvalues of a Schur form into the order of rank, smallest
// first, by exchanging neighbours.
func sortSchur(t, q square, rank func(v complex128) float64) {
	n := t.n
	for {
		moved := false
		for i := range n - 1 {
			a, b := *t.at(i, i), *t.at(i+1, i+1)
			if ra := rank(a); rank(b) >= ra-1e-12*math.Abs(ra) {
				continue
			}
			// The eigenvector of b in the plane of the two becomes the first axis.
			r, _ := rotate(*t.at(i, i+1), b-a)
			t.rows(r, i, i)
			t.columns(r, i, min(i+2, n))
			*t.at(i+1, i) = 0
			*t.at(i, i), *t.at(i+1, i+1) = b, a
			q.columns(r, i, n)
			moved = true
		}
		if !moved {
			return
		}
	}
}

func (s square) times(x []complex128) []complex128 {
	out := make([]complex128, s.n)
	for i := range out {
		for j, v := range x {
			out[i] += *s.at(i, j) * v
		}
	}
	return out
}

// eigenvector returns eigenvector k of an upper triangle, of length 1.
func (s square) eigenvector(k int) []complex128 {
	v := make([]complex128, s.n)
	v[k] = 1
	floor := 1e-16 * max(cmplx.Abs(*s.at(k, k)), 1e-300)
	for i := k - 1; i >= 0; i-- {
		var sum complex128
		for j := i + 1; j <= k; j++ {
			sum += *s.at(i, j) * v[j]
		}
		d := *s.at(k, k) - *s.at(i, i)
		if cmplx.Abs(d) < floor {
			d = complex(floor, 0)
		}
		v[i] = sum / d
		if size := cmplx.Abs(v[i]); size > 1e100 {
			for j := i; j <= k; j++ {
				v[j] /= complex(size, 0)
			}
		}
	}
	normalise(v)
	return v
}

func normalise(v []complex128) {
	size := complex(norm(v), 0)
	for i := range v {
		v[i] /= size
	}
}

// orthonormal drops from a list of vectors what is a combination of those before
// and makes the rest orthonormal.
func orthonormal(list [][]complex128) [][]complex128 {
	var out [][]complex128
	for _, v := range list {
		v = slices.Clone(v)
		before := norm(v)
		if before == 0 {
			continue
		}
		for range 2 {
			for _, u := range out {
				var c complex128
				for i := range v {
					c += cmplx.Conj(u[i]) * v[i]
				}
				for i := range v {
					v[i] -= c * u[i]
				}
			}
		}
		if norm(v) > 1e-8*before {
			normalise(v)
			out = append(out, v)
		}
	}
	return out
}

// realify turns a vector that is a complex multiple of a real one into that, of
// the same length.
func realify(x []complex128) {
	var big complex128
	for _, z := range x {
		if cmplx.Abs(z) > cmplx.Abs(big) {
			big = z
		}
	}
	if big == 0 {
		return
	}
	phase := cmplx.Conj(big) / complex(cmplx.Abs(big), 0)
	for i, z := range x {
		x[i] = complex(real(z*phase), 0)
	}
}
