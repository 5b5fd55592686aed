// Package surface fits surfaces to numbers that are known at points, and predicts them elsewhere, with how far off it may be.
//
// Points are scaled to about 0 to 1 along each axis by who calls.
package surface

import (
	"fmt"
	"math"
	"runtime"
	"slices"
	"sync"
)

// Kind is a way of fitting.
type Kind int

// Ways of fitting.
const (
	Gaussian Kind = iota
	Quadratic
	Radial
)

// Surface is a fitted surface.
type Surface struct {
	Kind Kind
	// X are the points, n×d, and Y the values that it was fitted to, those of points that coincide as their mean.
	X [][]float64
	Y []float64
	// Left are the values that the surface predicts at each point from all others.
	Left []float64
	// LeftDeviation are the standard deviations of these.
	LeftDeviation []float64
	model         form
	// between is the root of the mean square of what whole levels of the points are mispredicted by when they are left out, 0 if they have none.
	between     float64
	mean, scale float64 // of Y
}

// form is a surface of values with mean 0 and deviation 1.
type form interface {
	// at predicts a value and its standard deviation; without with a deviation of 0.
	at(x []float64, with bool) (value, deviation float64)
	// left predicts each point from all others.
	left() (values, deviations []float64)
	// widen makes deviations wider by a factor.
	widen(by float64)
	// again is fitted to other points, with the same lengths and noise.
	again(x [][]float64, y []float64) (form, error)
	// source writes the numbers of the surface.
	source() Source
}

// Fit fits a surface to values y at points x.
func Fit(kind Kind, x [][]float64, y []float64) (*Surface, error) { return FitStepped(kind, x, y, nil) }

// FitStepped is [Fit] where nothing lies between the values of some axes, such as whole numbers; nil for none.
func FitStepped(kind Kind, x [][]float64, y []float64, stepped []bool) (*Surface, error) {
	if len(x) != len(y) || len(x) == 0 {
		return nil, fmt.Errorf("there is no value to fit a surface to")
	}
	s := &Surface{Kind: kind}
	s.X, s.Y = merged(x, y)
	n := float64(len(s.Y))
	for _, v := range s.Y {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return nil, fmt.Errorf("a value is not a number")
		}
		s.mean += v / n
	}
	for _, v := range s.Y {
		s.scale += (v - s.mean) * (v - s.mean) / n
	}
	s.scale = math.Sqrt(s.scale)
	if s.scale <= 1e-13*math.Abs(s.mean) { // all alike
		s.scale = 1e-13*math.Abs(s.mean) + math.SmallestNonzeroFloat64
	}
	z := make([]float64, len(s.Y))
	for i, v := range s.Y {
		z[i] = (v - s.mean) / s.scale
	}
	var err error
	switch kind {
	case Quadratic:
		s.model, err = fitQuadratic(s.X, z)
	case Radial:
		s.model, err = fitRadial(s.X, z)
	default:
		s.model, err = fitGaussian(s.X, z)
	}
	if err != nil {
		return nil, err
	}
	if err := s.leaveLevels(z, stepped); err != nil {
		return nil, err
	}
	s.Left, s.LeftDeviation = s.model.left()
	for i := range s.Left {
		s.Left[i] = s.mean + s.scale*s.Left[i]
		s.LeftDeviation[i] *= s.scale
	}
	return s, nil
}

// mostLevels is of how many values along an axis points are said to lie on levels.
const mostLevels = 12

// leaveLevels leaves whole levels out of a design that has such, as all combinations have: a point that is left out alone is told by others of its level
// there, whatever happens between the levels. If a level is mispredicted by more than deviations say, they are made wider.
func (s *Surface) leaveLevels(z []float64, stepped []bool) error {
	sum, squares, count := 0.0, 0.0, 0.0
	for j := range s.X[0] {
		values := levels(s.X, j)
		if stepped != nil && stepped[j] || len(values) < 4 || len(values) > mostLevels || 2*len(values) > len(s.X) {
			continue
		}
		for _, level := range values[1 : len(values)-1] { // what lies between others
			on := func(i int) bool { return math.Abs(s.X[i][j]-level) < 1e-9 }
			var x [][]float64
			var y []float64
			for i := range s.X {
				if !on(i) {
					x, y = append(x, s.X[i]), append(y, z[i])
				}
			}
			less, err := s.model.again(x, y)
			if err != nil {
				continue // too few are left to tell
			}
			for i := range s.X {
				if !on(i) {
					continue
				}
				v, d := less.at(s.X[i], true)
				sum += (v - z[i]) * (v - z[i])
				if d > 0 {
					squares += (v - z[i]) * (v - z[i]) / (d * d)
				}
				count++
			}
		}
	}
	if count == 0 {
		return nil
	}
	s.between = s.scale * math.Sqrt(sum/count)
	if f := math.Sqrt(squares / count); f > 1 && !math.IsInf(f, 0) {
		s.model.widen(f)
	}
	return nil
}

// merged joins points that coincide.
func merged(x [][]float64, y []float64) (points [][]float64, values []float64) {
	var counts []float64
	for i, p := range x {
		k := slices.IndexFunc(points, func(q []float64) bool {
			for j := range q {
				if math.Abs(q[j]-p[j]) > 1e-9 {
					return false
				}
			}
			return true
		})
		if k < 0 {
			points, values, counts = append(points, p), append(values, y[i]), append(counts, 1)
			continue
		}
		counts[k]++
		values[k] += (y[i] - values[k]) / counts[k]
	}
	return points, values
}

// At predicts the value at a point and its standard deviation, NaN where the surface cannot tell.
func (s *Surface) At(x []float64) (value, deviation float64) {
	v, d := s.model.at(x, true)
	return s.mean + s.scale*v, s.scale * d
}

// Value predicts the value at a point.
func (s *Surface) Value(x []float64) float64 {
	v, _ := s.model.at(x, false)
	return s.mean + s.scale*v
}

// Without is the surface of the points but some, with the same lengths and noise if it has such.
func (s *Surface) Without(left func(i int) bool) (*Surface, error) {
	out := &Surface{Kind: s.Kind, mean: s.mean, scale: s.scale}
	var z []float64
	for i := range s.X {
		if !left(i) {
			out.X, out.Y, z = append(out.X, s.X[i]), append(out.Y, s.Y[i]), append(z, (s.Y[i]-s.mean)/s.scale)
		}
	}
	if len(z) == 0 {
		return nil, fmt.Errorf("no point is left")
	}
	var err error
	out.model, err = s.model.again(out.X, z)
	return out, err
}

// Values predicts those at many points, over all cores.
func (s *Surface) Values(x [][]float64) []float64 {
	out := make([]float64, len(x))
	workers := runtime.GOMAXPROCS(0)
	var wg sync.WaitGroup
	for w := range workers {
		wg.Go(func() {
			for i := w * len(x) / workers; i < (w+1)*len(x)/workers; i++ {
				out[i] = s.Value(x[i])
			}
		})
	}
	wg.Wait()
	return out
}

// Error is the root of the mean square of what each point is mispredicted by when it is left out, or of what whole levels are if that is more, and Share
// that by the deviation of the values: 1 for a surface that tells no more than their mean does.
func (s *Surface) Error() (size, share float64) {
	sum := 0.0
	for i, v := range s.Left {
		sum += (v - s.Y[i]) * (v - s.Y[i])
	}
	size = max(math.Sqrt(sum/float64(len(s.Y))), s.between)
	return size, size / s.scale
}

// ByLevels says that the error is that of whole levels left out.
func (s *Surface) ByLevels() bool {
	size, _ := s.Error()
	return s.between > 0 && size == s.between
}

// Source is the numbers of a surface, for programs that evaluate it elsewhere: value = Mean + Scale·f(x), with f
// Σ Weights[i]·φ(Σ ((x − Points[i])/Lengths)²) + Σ Terms[k]·Π x^Powers[k], where φ of the squared distance s is
// (1 + √(5s) + 5s/3)·e^(−√(5s)) of a Gaussian process and s^(3/2) of radial functions.
type Source struct {
	Kind        Kind
	Mean, Scale float64
	Points      [][]float64 // n×d
	Weights     []float64   // n
	Lengths     []float64   // d
	Terms       []float64   // m
	Powers      [][]int     // m×d
}

// Source is the numbers of the surface.
func (s *Surface) Source() Source {
	out := s.model.source()
	out.Kind, out.Mean, out.Scale = s.Kind, s.mean, s.scale
	return out
}

// At evaluates the surface from its numbers.
func (s *Source) At(x []float64) float64 {
	f := 0.0
	for i, p := range s.Points {
		sum := 0.0
		for j, v := range x {
			d := (v - p[j]) / s.Lengths[j]
			sum += d * d
		}
		if s.Kind == Radial {
			f += s.Weights[i] * sum * math.Sqrt(sum)
		} else {
			f += s.Weights[i] * matern(5*sum)
		}
	}
	for k, c := range s.Terms {
		for j, p := range s.Powers[k] {
			for range p {
				c *= x[j]
			}
		}
		f += c
	}
	return s.Mean + s.Scale*f
}
