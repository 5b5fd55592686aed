package trial

import (
	"math"

	"saltkettle/core/sample"
	"saltkettle/core/surface"
)

// Sensitivity is what of the variance of a reading comes from a parameter (I. M. Sobol, 1993; A. Saltelli et al., Comput. Phys. Commun. 181 (2010)
// 259): First from it alone, Total with all that it does together with others. The errors are standard errors of how far the trials tell them.
type Sensitivity struct {
	Parameter              string
	First, Total           float64
	FirstError, TotalError float64
}

// Matters says that the parameter makes up more of the variance than a twentieth, or may do.
func (s *Sensitivity) Matters() bool { return s.Total+2*s.TotalError >= 0.05 }

// How many points the parts of the variance are taken from, of the surface and of each that lacks a group of trials, and into how many groups trials
// are parted for that.
const (
	sensitivityPoints = 2048
	groupPoints       = 512
	groups            = 8
)

// Sensitivities of a reading on its surface, over the distributions of the parameters. What the surface itself does not know is found by leaving
// groups of trials out of it (jackknife).
func (p *Prediction) Sensitivities(reading string) ([]Sensitivity, error) {
	s, _, err := p.Surface(reading)
	if err != nil {
		return nil, err
	}
	first, total := p.parts(s, sensitivityPoints)
	out := make([]Sensitivity, len(p.Axes))
	for j := range out {
		out[j] = Sensitivity{Parameter: p.Axes[j].Parameter, First: first[j], Total: total[j], FirstError: math.NaN(), TotalError: math.NaN()}
	}
	var firsts, totals [][]float64
	for g := range groups {
		less, err := s.Without(func(i int) bool { return (i*7919)%groups == g })
		if err != nil {
			return out, nil // too few trials to tell; the errors stay unknown
		}
		f, t := p.parts(less, groupPoints)
		firsts, totals = append(firsts, f), append(totals, t)
	}
	for j := range out {
		out[j].FirstError, out[j].TotalError = jackknife(firsts, j), jackknife(totals, j)
	}
	return out, nil
}

// jackknife is the standard error of a number from what it is without each group.
func jackknife(list [][]float64, j int) float64 {
	mean, n := 0.0, float64(len(list))
	for _, v := range list {
		mean += v[j] / n
	}
	sum := 0.0
	for _, v := range list {
		sum += (v[j] - mean) * (v[j] - mean)
	}
	return math.Sqrt((n - 1) / n * sum)
}

// parts of the variance of a surface by axis, from n points and those with one value of another point.
func (p *Prediction) parts(s *surface.Surface, n int) (first, total []float64) {
	d := len(p.Axes)
	pairs := spread(n, 2*d)
	a, b := make([][]float64, n), make([][]float64, n)
	for i, u := range pairs {
		a[i], b[i] = p.drawn(u[:d]), p.drawn(u[d:])
	}
	ya, yb := s.Values(a), s.Values(b)
	mean, variance := 0.0, 0.0
	for i := range ya {
		mean += (ya[i] + yb[i]) / float64(2*n)
	}
	for i := range ya {
		variance += ((ya[i]-mean)*(ya[i]-mean) + (yb[i]-mean)*(yb[i]-mean)) / float64(2*n)
	}
	first, total = make([]float64, d), make([]float64, d)
	if variance <= 1e-24*mean*mean {
		return first, total
	}
	mixed := make([][]float64, n)
	for j := range d {
		for i := range mixed {
			mixed[i] = append([]float64(nil), a[i]...)
			mixed[i][j] = b[i][j]
		}
		y := s.Values(mixed)
		for i := range y {
			first[j] += (yb[i] - mean) * (y[i] - ya[i]) / float64(n) / variance
			total[j] += (ya[i] - y[i]) * (ya[i] - y[i]) / float64(2*n) / variance // M. J. W. Jansen, 1999
		}
	}
	return first, total
}

// spread is n points of d dimensions that fill the cube.
func spread(n, d int) [][]float64 {
	if d <= sample.MostSobol {
		return sample.Sobol(n, d)
	}
	return sample.Halton(n, d)
}

// drawn are scaled parameters by their distributions.
func (s *Set) drawn(u []float64) []float64 {
	x := make([]float64, len(u))
	for j := range x {
		x[j] = s.Axes[j].Scaled(s.Axes[j].Quantile(u[j]))
	}
	return x
}

// Curve is a reading over a parameter, SI.
type Curve struct {
	X, Y []float64
	// Band is the half of the width of the band in which 95 % lie, nil for none.
	Band []float64
}

// How many points a curve has, and over how many points the others are taken the mean of.
const (
	curvePoints = 41
	meanPoints  = 256
)

// MainEffect is the mean of a reading over all other parameters by one of them, by its axis.
func (p *Prediction) MainEffect(reading string, axis int) (c Curve, err error) {
	s, _, err := p.Surface(reading)
	if err != nil {
		return c, err
	}
	var points [][]float64
	others := spread(meanPoints, len(p.Axes))
	for k := range curvePoints {
		u := float64(k) / (curvePoints - 1)
		for _, o := range others {
			x := p.drawn(o)
			x[axis] = u
			points = append(points, x)
		}
	}
	values := s.Values(points)
	a := &p.Axes[axis]
	for k := range curvePoints {
		u, sum := float64(k)/(curvePoints-1), 0.0
		for _, v := range values[k*meanPoints : (k+1)*meanPoints] {
			sum += v
		}
		c.X, c.Y = append(c.X, (1-u)*a.From+u*a.To), append(c.Y, sum/meanPoints)
	}
	return c, nil
}

// Section is a reading by one parameter, by its axis, while the others stay at values, SI, with its band.
func (p *Prediction) Section(reading string, axis int, values []float64) (c Curve, err error) {
	s, _, err := p.Surface(reading)
	if err != nil {
		return c, err
	}
	x, a := p.Scaled(values), &p.Axes[axis]
	for k := range curvePoints {
		u := float64(k) / (curvePoints - 1)
		x[axis] = u
		v, d := s.At(x)
		c.X, c.Y, c.Band = append(c.X, (1-u)*a.From+u*a.To), append(c.Y, v), append(c.Band, Within*d)
	}
	return c, nil
}

// Slope is the derivative of a reading by a parameter on the surface at values, all SI.
func (p *Prediction) Slope(reading string, axis int, values []float64) (float64, error) {
	s, _, err := p.Surface(reading)
	if err != nil {
		return 0, err
	}
	const h = 0.005
	x, y := p.Scaled(values), p.Scaled(values)
	x[axis], y[axis] = x[axis]-h, y[axis]+h
	a := &p.Axes[axis]
	return (s.Value(y) - s.Value(x)) / (2 * h * (a.To - a.From)), nil
}
