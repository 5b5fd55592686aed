package surface

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/sample"
)

// branin of the unit square (L. C. W. Dixon, G. P. Szegő, 1978): its least value is 0.397887.
func branin(u []float64) float64 {
	x, y := 15*u[0]-5, 15*u[1]
	a := y - 5.1/(4*math.Pi*math.Pi)*x*x + 5/math.Pi*x - 6
	return a*a + 10*(1-1/(8*math.Pi))*math.Cos(x) + 10
}

// ishigami of the unit cube (T. Ishigami, T. Homma, 1990).
func ishigami(u []float64) float64 {
	x := [3]float64{}
	for i := range x {
		x[i] = math.Pi * (2*u[i] - 1)
	}
	return math.Sin(x[0]) + 7*math.Sin(x[1])*math.Sin(x[1]) + 0.1*math.Pow(x[2], 4)*math.Sin(x[0])
}

// friedman of five axes of the unit cube (J. H. Friedman, 1991), and a sixth that does not matter.
func friedman(u []float64) float64 {
	return 10*math.Sin(math.Pi*u[0]*u[1]) + 20*(u[2]-0.5)*(u[2]-0.5) + 10*u[3] + 5*u[4]
}

// quadric of three axes.
func quadric(u []float64) float64 {
	return 3 - u[0] + 2*u[1]*u[1] + u[0]*u[2] - 4*u[2]*u[2]
}

func fit(t *testing.T, kind Kind, f func([]float64) float64, x [][]float64) *Surface {
	y := make([]float64, len(x))
	for i := range x {
		y[i] = f(x[i])
	}
	s, err := Fit(kind, x, y)
	require.NoError(t, err)
	return s
}

// TestQuadraticOfAQuadric is exact between the points and beyond, whatever design tells the terms apart.
func TestQuadraticOfAQuadric(t *testing.T) {
	for _, x := range [][][]float64{sample.Composite(3), sample.Latin(30, 3)} {
		s := fit(t, Quadratic, quadric, x)
		for _, p := range [][]float64{{0.2, 0.7, 0.4}, {1.3, -0.2, 2}} {
			v, d := s.At(p)
			assert.InDelta(t, quadric(p), v, 1e-10)
			assert.InDelta(t, 0, d, 1e-10)
		}
		size, share := s.Error()
		assert.InDelta(t, 0, size, 1e-9)
		assert.InDelta(t, 0, share, 1e-9)
	}
}

// TestLeavingOut gives what a surface without the point predicts there.
func TestLeavingOut(t *testing.T) {
	x := sample.Latin(24, 2)
	for _, kind := range []Kind{Gaussian, Quadratic, Radial} {
		s := fit(t, kind, branin, x)
		for _, i := range []int{0, 7, 23} {
			other, err := s.Without(func(k int) bool { return k == i })
			require.NoError(t, err)
			want := other.Value(x[i])
			assert.InDelta(t, want, s.Left[i], 1e-6*s.scale, "%d, %d", kind, i)
		}
	}
}

// TestErrorsFall with the number of points, of each surface that can follow the function, and the surfaces go through what they know.
func TestErrorsFall(t *testing.T) {
	for _, kind := range []Kind{Gaussian, Radial} {
		before := math.Inf(1)
		for _, n := range []int{15, 30, 60, 120} {
			s := fit(t, kind, branin, sample.Sobol(n, 2))
			sum, count := 0.0, 0.0
			for _, p := range sample.Halton(400, 2) {
				e := s.Value(p) - branin(p)
				sum, count = sum+e*e, count+1
			}
			e := math.Sqrt(sum/count) / s.scale
			assert.Less(t, e, 0.7*before, "%d points", n)
			before = e
			assert.InDelta(t, s.Y[3], s.Value(s.X[3]), 2e-3*s.scale)
		}
		assert.Less(t, before, map[Kind]float64{Gaussian: 0.005, Radial: 0.05}[kind])
	}
}

// TestBandsCover 95 % of what is computed elsewhere, or nearly.
func TestBandsCover(t *testing.T) {
	for _, c := range []struct {
		name string
		f    func([]float64) float64
		n, d int
	}{{"branin", branin, 20, 2}, {"branin", branin, 40, 2}, {"ishigami", ishigami, 60, 3}, {"ishigami", ishigami, 120, 3}, {"friedman", friedman, 60, 6}, {"friedman", friedman, 120, 6}} {
		inside, all := 0, 0
		for shift := range 5 { // designs
			x := sample.Sobol(c.n*(shift+1), c.d)[c.n*shift:]
			s := fit(t, Gaussian, c.f, x)
			for _, p := range sample.Halton(200, c.d) {
				v, dev := s.At(p)
				if math.Abs(v-c.f(p)) <= 1.96*dev {
					inside++
				}
				all++
			}
		}
		share := float64(inside) / float64(all)
		t.Logf("%s of %d points: %.3f", c.name, c.n, share)
		assert.True(t, share > 0.90 && share < 0.98, "%s of %d points: %.3f", c.name, c.n, share)
	}
}

// TestAxisThatDoesNotMatter has a length far longer than the others'.
func TestAxisThatDoesNotMatter(t *testing.T) {
	lengths := fit(t, Gaussian, friedman, sample.Latin(100, 6)).model.(*gaussian).lengths
	for _, l := range lengths[:3] {
		assert.Greater(t, lengths[5], 4*l)
	}
}

// TestLevels: all combinations of a few values tell what is smooth between them; what turns between them cannot be told, and neither the error nor the
// band says that it could.
func TestLevels(t *testing.T) {
	var grid [][]float64
	for i := range 5 {
		for j := range 6 {
			for k := range 4 {
				grid = append(grid, []float64{float64(i) / 4, float64(j) / 5, float64(k) / 3})
			}
		}
	}
	linear := func(u []float64) float64 { return 177 + 355*u[1] + 1e-4*math.Sin(1000*(u[0]+u[1]*7+u[2]*13)) }
	smooth := func(u []float64) float64 { return math.Exp(-2*u[2]) * (1 + 0.5*u[0]) / (0.3 + u[1]) }
	turning := func(u []float64) float64 { return math.Sin(5*math.Pi*u[1]+1) + u[0] }
	for name, c := range map[string]struct {
		f    func([]float64) float64
		most float64 // of the mean error, by the deviation
	}{"linear": {linear, 1e-4}, "smooth": {smooth, 0.02}} {
		s := fit(t, Gaussian, c.f, grid)
		sum := 0.0
		for _, p := range sample.Halton(300, 3) {
			v, d := s.At(p)
			e := math.Abs(v - c.f(p))
			sum += e / 300
			assert.Less(t, e, 6*d+1e-3, "%s at %v", name, p)
		}
		assert.Less(t, sum, c.most*s.scale, name)
	}
	s := fit(t, Gaussian, turning, grid)
	_, share := s.Error()
	assert.Greater(t, share, 0.3)
	inside := 0
	for _, p := range sample.Halton(300, 3) {
		if v, d := s.At(p); math.Abs(v-turning(p)) <= 1.96*d {
			inside++
		}
	}
	assert.Greater(t, inside, 250, "%d of 300", inside)
}

// TestSource evaluates to the same as the surface.
func TestSource(t *testing.T) {
	for _, kind := range []Kind{Gaussian, Quadratic, Radial} {
		s := fit(t, kind, quadric, sample.Latin(20, 3))
		source := s.Source()
		for _, p := range sample.Halton(10, 3) {
			assert.InDelta(t, s.Value(p), source.At(p), 1e-10, fmt.Sprint(kind))
		}
	}
}

// TestWhatCannotBeFitted says why.
func TestWhatCannotBeFitted(t *testing.T) {
	line := [][]float64{{0, 0}, {0.25, 0.25}, {0.5, 0.5}, {0.75, 0.75}, {1, 1}, {0.1, 0.1}, {0.9, 0.9}}
	y := []float64{1, 2, 3, 4, 5, 6, 7}
	for _, c := range []struct {
		kind  Kind
		x     [][]float64
		words string
	}{{Quadratic, line[:5], "has 6 terms, and 5"}, {Quadratic, line, "apart"}, {Radial, line, "along one line"}, {Radial, line[:3], "4 trials or more"}, {Gaussian, line[:2], "3 trials"}, {Gaussian, nil, "no value"}} {
		_, err := Fit(c.kind, c.x, y[:len(c.x)])
		assert.ErrorContains(t, err, c.words)
	}
	_, err := Fit(Gaussian, line, []float64{1, 2, math.NaN(), 4, 5, 6, 7})
	assert.ErrorContains(t, err, "not a number")
	// All alike, or one point twice, is no fault.
	s, err := Fit(Gaussian, line, []float64{4, 4, 4, 4, 4, 4, 4})
	require.NoError(t, err)
	v, d := s.At([]float64{0.3, 0.8})
	assert.InDelta(t, 4, v, 1e-9)
	assert.InDelta(t, 0, d, 1e-6)
	s, err = Fit(Radial, append([][]float64{{0, 1}, {0, 1}}, line...), append([]float64{3, 5}, y...))
	require.NoError(t, err)
	assert.InDelta(t, 4, s.Value([]float64{0, 1}), 1e-9)
}

// TestFall is e^(−r).
func TestFall(t *testing.T) {
	for r := 0.0; r < 690; r += 0.0137 * (1 + r) {
		assert.InEpsilon(t, math.Exp(-r), fall(r), 1e-13)
	}
	assert.Zero(t, fall(1e9))
}
