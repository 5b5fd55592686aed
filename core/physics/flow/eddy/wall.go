package eddy

import (
	"math"
	"sync"
)

// Law is the law of the wall of a model. Along a wall where what presses and carries is little, the friction is the same at
// all distances, the viscosity of eddies follows from the distance, and the speed from that: u⁺ = ∫ dy⁺/(1 + ν⁺(y⁺)). It goes
// from the layer that the viscosity governs, u⁺ = y⁺, to the logarithm, so that it is true however far a point is from the wall.
type Law struct {
	// moves is the viscosity of eddies over that of the fluid at a distance from a wall of a roughness, all in wall units.
	moves func(y, rough float64) float64
	table func() *inverse
}

func newLaw(moves func(y, rough float64) float64) *Law {
	l := &Law{moves: moves}
	l.table = sync.OnceValue(l.invert)
	return l
}

// smallest and largest are the ends of the table, of the Reynolds number u y/ν, and step is that of its logarithm.
const (
	smallest = 1e-4
	largest  = 1e10
	step     = 0.05
)

// Nodes and weights of the quadrature of Gauss with five points, on [−1, 1].
var (
	gaussAt = [5]float64{-0.9061798459386640, -0.5384693101056831, 0, 0.5384693101056831, 0.9061798459386640}
	gaussOf = [5]float64{0.2369268850561891, 0.4786286704993665, 0.5688888888888889, 0.4786286704993665, 0.2369268850561891}
)

// bend is the distance, in wall units, about which the integrals along a wall change from even to logarithmic.
const bend = 8.

// integral is ∫ f dy from the wall to a distance, in wall units, of a function that falls like 1/y far out.
func integral(y float64, f func(y float64) float64) (sum float64) {
	end := math.Log1p(y / bend)
	pieces := 2 + int(3*end)
	width := end / float64(pieces)
	for i := range pieces {
		for k, at := range gaussAt {
			s := width * (float64(i) + (1+at)/2)
			e := bend * math.Exp(s)
			sum += width / 2 * gaussOf[k] * e * f(e-bend)
		}
	}
	return sum
}

// Speed is u⁺ at a distance y⁺ from a wall of a roughness of sand, all in wall units.
func (l *Law) Speed(y, rough float64) float64 {
	return integral(y, func(y float64) float64 { return 1 / (1 + l.moves(y, rough)) })
}

// inverse has ln y⁺ by ln(u y/ν) along a smooth wall, with its slopes.
type inverse struct{ at, slope []float64 }

func (l *Law) invert() *inverse {
	t := &inverse{}
	y := math.Sqrt(smallest)
	for re := math.Log(smallest); re < math.Log(largest)+step; re += step {
		for range 50 {
			u := l.Speed(y, 0)
			change := (re - math.Log(u*y)) / (1 + y/(u*(1+l.moves(y, 0))))
			y *= math.Exp(change)
			if math.Abs(change) < 1e-13 {
				break
			}
		}
		t.at, t.slope = append(t.at, math.Log(y)), append(t.slope, 1/(1+y/(l.Speed(y, 0)*(1+l.moves(y, 0)))))
	}
	return t
}

// Distance is y⁺ where a flow has a speed u at a distance y from a wall, by the Reynolds number u y/ν of these, with the
// derivative of its logarithm by that of the number. rough is the roughness of the wall over the distance.
func (l *Law) Distance(re, rough float64) (y, slope float64) {
	if re <= smallest {
		return math.Sqrt(re), 0.5
	}
	t := l.table()
	at := min((math.Log(re)-math.Log(smallest))/step, float64(len(t.at)-2))
	i := int(at)
	x := min(at-float64(i), 1)
	a, b, c, d := t.at[i], t.at[i+1], step*t.slope[i], step*t.slope[i+1]
	cubic, square := c+d-2*(b-a), 3*(b-a)-2*c-d
	y = math.Exp(a + x*(c+x*(square+x*cubic)))
	slope = (c + x*(2*square+3*x*cubic)) / step
	if rough == 0 {
		return y, slope
	}
	for range 50 {
		u := l.Speed(y, rough*y)
		// As it grows the roughness does too, in wall units: the derivative is taken by differences.
		const part = 1e-4
		more := y * (1 + part)
		slope = 1 / (1 + (l.Speed(more, rough*more)/u-1)/part)
		change := (math.Log(re) - math.Log(u*y)) * slope
		y *= math.Exp(change)
		if math.Abs(change) < 1e-10 {
			break
		}
	}
	return y, slope
}

// evenly is the Prandtl number of eddies far from walls.
const evenly = 0.85

// Prandtl is the Prandtl number of eddies, by their viscosity over that of the fluid and the Prandtl number of that (W. M.
// Kays, J. Heat Transfer 116 (1994) 284, and W. M. Kays and M. E. Crawford, Convective Heat and Mass Transfer, 1993).
func Prandtl(eddies, fluid float64) float64 {
	if eddies <= 0 {
		return 2 * evenly
	}
	root := math.Sqrt(evenly)
	x := 0.3 * eddies * fluid
	return 1 / (0.5/evenly + x/root - x*x*(-math.Expm1(-1/(x*root))))
}

// Conducts is by what the conductivity of a fluid is multiplied between a wall and a distance y⁺ from there, so that as
// much heat passes as eddies carry. rough is the roughness in wall units.
func (l *Law) Conducts(y, prandtl, rough float64) float64 {
	if y < 1e-3 {
		return 1
	}
	// What resists: over the distance alone without eddies.
	resists := integral(y, func(y float64) float64 {
		eddies := l.moves(y, rough)
		return 1 / (1 + eddies*prandtl/Prandtl(eddies, prandtl))
	})
	return y / resists
}
