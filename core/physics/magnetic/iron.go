package magnetic

import (
	"errors"
	"sort"
)

// Curve is how flux density and field strength of iron follow from each other, with the energy of the field: by monotone cubics
// through samples of the curve of its material, and as in vacuum beyond its end.
type Curve struct{ strength, flux *monotone }

// samples is how many there are; they are densest at the beginning.
const samples = 400

// NewCurve samples the flux density over the field strength, A/m, up to the last one that is known.
func NewCurve(of func(h float64) float64, last float64) (*Curve, error) {
	b, h := []float64{0}, []float64{0}
	for i := 1; i <= samples; i++ {
		t := float64(i) / samples
		at := last * t * t * t * t
		now := of(at)
		if now <= b[len(b)-1] {
			return nil, errors.New("its flux density does not grow with the field everywhere")
		}
		b, h = append(b, now), append(h, at)
	}
	return &Curve{newMonotone(b, h, 1/Vacuum), newMonotone(h, b, Vacuum)}, nil
}

// Last is the flux density up to which it is known, T.
func (c *Curve) Last() float64 { return c.flux.y[len(c.flux.y)-1] }

// Strength is the field strength at a flux density b ≥ 0, its derivative, and the energy per volume.
func (c *Curve) Strength(b float64) (h, slope, energy float64) { return c.strength.at(b) }

// Flux is the flux density at a field strength h ≥ 0, its derivative, and the energy per volume.
func (c *Curve) Flux(h float64) (b, slope, energy float64) {
	b, slope, other := c.flux.at(h)
	return b, slope, b*h - other
}

// monotone is a rising function by cubics between samples (F. N. Fritsch and R. E. Carlson, SIAM J. Numer. Anal. 17 (1980) 238, with the
// slopes of F. N. Fritsch and J. Butland), with its integral, and straight beyond the last one.
type monotone struct {
	x, y, slope, sum []float64
	beyond           float64 // slope there
}

func newMonotone(x, y []float64, beyond float64) *monotone {
	n := len(x)
	m := &monotone{x: x, y: y, slope: make([]float64, n), sum: make([]float64, n), beyond: beyond}
	steep := make([]float64, n-1)
	for i := range steep {
		steep[i] = (y[i+1] - y[i]) / (x[i+1] - x[i])
	}
	m.slope[0], m.slope[n-1] = steep[0], steep[n-2]
	for i := 1; i < n-1; i++ {
		l, r := x[i]-x[i-1], x[i+1]-x[i]
		m.slope[i] = 3 * (l + r) / ((2*r+l)/steep[i-1] + (2*l+r)/steep[i])
	}
	for i := 1; i < n; i++ {
		d := x[i] - x[i-1]
		m.sum[i] = m.sum[i-1] + d*(y[i]+y[i-1])/2 + d*d*(m.slope[i-1]-m.slope[i])/12
	}
	return m
}

// at is the value at x ≥ 0, its derivative, and its integral from nothing.
func (m *monotone) at(x float64) (y, slope, sum float64) {
	n := len(m.x)
	if x >= m.x[n-1] {
		d := x - m.x[n-1]
		return m.y[n-1] + d*m.beyond, m.beyond, m.sum[n-1] + d*(m.y[n-1]+d*m.beyond/2)
	}
	i := max(1, sort.SearchFloat64s(m.x, x)) - 1
	d := m.x[i+1] - m.x[i]
	t := (x - m.x[i]) / d
	y0, y1, m0, m1 := m.y[i], m.y[i+1], d*m.slope[i], d*m.slope[i+1]
	p, q := 3*(y1-y0)-2*m0-m1, 2*(y0-y1)+m0+m1
	return y0 + t*(m0+t*(p+t*q)), (m0 + t*(2*p+3*t*q)) / d, m.sum[i] + d*t*(y0+t*(m0/2+t*(p/3+t*q/4)))
}
