package surface

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/mat"
)

// quadratic is a full polynomial of the second degree by least squares (R. H. Myers, D. C. Montgomery, Response Surface Methodology, chapter 2).
type quadratic struct {
	x      [][]float64
	y      []float64
	powers [][]int
	terms  []float64
	inside *mat.Dense // (XᵀX)⁻¹
	s2     float64    // variance of the rest, NaN if as many terms as points
}

// powersUpTo lists the products of axes of up to a degree of 1 or 2.
func powersUpTo(d, degree int) (list [][]int) {
	list = append(list, make([]int, d))
	for j := range d {
		p := make([]int, d)
		p[j] = 1
		list = append(list, p)
	}
	if degree < 2 {
		return list
	}
	for j := range d {
		for k := j; k < d; k++ {
			p := make([]int, d)
			p[j]++
			p[k]++
			list = append(list, p)
		}
	}
	return list
}

// products are the terms of a point without their factors.
func products(powers [][]int, x []float64) []float64 {
	out := make([]float64, len(powers))
	for k, p := range powers {
		out[k] = 1
		for j, n := range p {
			for range n {
				out[k] *= x[j]
			}
		}
	}
	return out
}

func fitQuadratic(x [][]float64, y []float64) (form, error) {
	n, powers := len(x), powersUpTo(len(x[0]), 2)
	m := len(powers)
	if n < m {
		return nil, fmt.Errorf("a full quadratic of %d parameters has %d terms, and %d trials count", len(x[0]), m, n)
	}
	a := mat.NewDense(n, m, nil)
	for i := range x {
		a.SetRow(i, products(powers, x[i]))
	}
	var qr mat.QR
	qr.Factorize(a)
	if qr.Cond() > 1e10 {
		return nil, fmt.Errorf("the trials do not tell all terms of a full quadratic apart: each parameter needs three values or more, and not all along one line")
	}
	var c, r mat.Dense
	if err := qr.SolveTo(&c, false, mat.NewDense(n, 1, y)); err != nil {
		return nil, fmt.Errorf("the full quadratic cannot be fitted: %w", err)
	}
	qr.RTo(&r)
	var inner, inverse mat.Dense
	if err := inner.Inverse(r.Slice(0, m, 0, m)); err != nil {
		return nil, fmt.Errorf("the full quadratic cannot be fitted: %w", err)
	}
	inverse.Mul(&inner, inner.T())
	s := &quadratic{x: x, y: y, powers: powers, terms: mat.Col(nil, 0, &c), inside: &inverse, s2: math.NaN()}
	if n > m {
		s.s2 = 0
		for i := range x {
			v, _ := s.at(x[i], false)
			s.s2 += (y[i] - v) * (y[i] - v) / float64(n-m)
		}
	}
	return s, nil
}

// widen makes all deviations wider by a factor.
func (s *quadratic) widen(by float64) { s.s2 *= by * by }

func (s *quadratic) at(x []float64, with bool) (value, deviation float64) {
	p := products(s.powers, x)
	for k, c := range s.terms {
		value += c * p[k]
	}
	if !with {
		return value, 0
	}
	v := mat.NewVecDense(len(p), p)
	return value, math.Sqrt(s.s2 * (1 + mat.Inner(v, s.inside, v)))
}

func (s *quadratic) left() (values, deviations []float64) {
	for i := range s.x {
		v := mat.NewVecDense(len(s.powers), products(s.powers, s.x[i]))
		h := mat.Inner(v, s.inside, v)
		fit, _ := s.at(s.x[i], false)
		values = append(values, s.y[i]-(s.y[i]-fit)/max(1-h, 1e-12))
		deviations = append(deviations, math.Sqrt(s.s2/max(1-h, 1e-12)))
	}
	return values, deviations
}

func (s *quadratic) again(x [][]float64, y []float64) (form, error) { return fitQuadratic(x, y) }

func (s *quadratic) source() Source { return Source{Terms: s.terms, Powers: s.powers} }

// radial is cubes of distances with a plane (M. D. Buhmann, Radial Basis Functions, 2003): it goes through all points. How far off it may be is what
// points left out are mispredicted by, everywhere alike.
type radial struct {
	x       [][]float64
	y       []float64
	weights []float64
	terms   []float64
	powers  [][]int
	errors  []float64 // of each point left out
	rms     float64
}

func fitRadial(x [][]float64, y []float64) (form, error) {
	n, d := len(x), len(x[0])
	powers := powersUpTo(d, 1)
	m := len(powers)
	if n < m+1 {
		return nil, fmt.Errorf("radial functions of %d parameters take %d trials or more that count, and there are %d", d, m+1, n)
	}
	a := mat.NewDense(n+m, n+m, nil)
	b := mat.NewDense(n+m, 1, nil)
	for i := range n {
		for k := range n {
			s := 0.0
			for j := range d {
				s += (x[i][j] - x[k][j]) * (x[i][j] - x[k][j])
			}
			a.Set(i, k, s*math.Sqrt(s))
		}
		for k, v := range products(powers, x[i]) {
			a.Set(i, n+k, v)
			a.Set(n+k, i, v)
		}
		b.Set(i, 0, y[i])
	}
	var inverse, c mat.Dense
	if err := inverse.Inverse(a); err != nil {
		return nil, fmt.Errorf("the trials lie along one line or plane, so that radial functions tell nothing beside it")
	}
	c.Mul(&inverse, b)
	all := mat.Col(nil, 0, &c)
	s := &radial{x: x, y: y, weights: all[:n], terms: all[n:], powers: powers}
	for i := range n { // S. Rippa, Adv. Comput. Math. 11 (1999) 193
		e := all[i] / inverse.At(i, i)
		s.errors = append(s.errors, e)
		s.rms += e * e / float64(n)
	}
	s.rms = math.Sqrt(s.rms)
	return s, nil
}

// widen makes the deviation wider by a factor.
func (s *radial) widen(by float64) { s.rms *= by }

func (s *radial) at(x []float64, _ bool) (value, deviation float64) {
	for i, p := range s.x {
		sum := 0.0
		for j, v := range x {
			sum += (v - p[j]) * (v - p[j])
		}
		value += s.weights[i] * sum * math.Sqrt(sum)
	}
	for k, v := range products(s.powers, x) {
		value += s.terms[k] * v
	}
	return value, s.rms
}

func (s *radial) left() (values, deviations []float64) {
	for i := range s.x {
		values = append(values, s.y[i]-s.errors[i])
		deviations = append(deviations, s.rms)
	}
	return values, deviations
}

func (s *radial) again(x [][]float64, y []float64) (form, error) { return fitRadial(x, y) }

func (s *radial) source() Source {
	lengths := make([]float64, len(s.x[0]))
	for j := range lengths {
		lengths[j] = 1
	}
	return Source{Points: s.x, Weights: s.weights, Lengths: lengths, Terms: s.terms, Powers: s.powers}
}
