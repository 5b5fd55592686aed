package eddy

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestDerivatives of what arises and spreads are those of differences, where shear is much and little, near walls and far.
func TestDerivatives(t *testing.T) {
	const nu = 1.5e-5
	near := func(want, got, size float64, what string, args ...any) {
		t.Helper()
		assert.InDelta(t, want, got, 1e-5*max(math.Abs(want), size), append([]any{what}, args...)...)
	}
	for _, v := range []float64{0.01 * nu, nu, 5 * nu, 300 * nu} {
		for _, d := range []float64{1e-5, 1e-3, 0.1} {
			for _, shear := range []float64{0.1, 30, 3e4} {
				for _, rough := range []float64{0, 0.3} {
					h := 1e-6 * math.Abs(v)
					_, byV, byShear := Growth(v, nu, shear, d, rough)
					up, _, _ := Growth(v+h, nu, shear, d, rough)
					down, _, _ := Growth(v-h, nu, shear, d, rough)
					near((up-down)/(2*h), byV, math.Abs(up/v), "growth by v: v %g, d %g, shear %g", v, d, shear)
					k := 1e-6 * shear
					up, _, _ = Growth(v, nu, shear+k, d, rough)
					down, _, _ = Growth(v, nu, shear-k, d, rough)
					near((up-down)/(2*k), byShear, math.Abs(up/shear), "growth by shear: v %g, d %g, shear %g", v, d, shear)
				}
			}
			h := 1e-6 * math.Abs(v)
			_, by := Spread(v, nu)
			up, _ := Spread(v+h, nu)
			down, _ := Spread(v-h, nu)
			near((up-down)/(2*h), by, 1e-3, "spread, v %g", v)
			_, by = Viscosity(v, nu, 0.2)
			up, _ = Viscosity(v+h, nu, 0.2)
			down, _ = Viscosity(v-h, nu, 0.2)
			near((up-down)/(2*h), by, 1e-6, "viscosity, v %g", v)
			_, by, byFriction := AtWall(v, 0.3, d)
			up, _, _ = AtWall(v+h, 0.3, d)
			down, _, _ = AtWall(v-h, 0.3, d)
			near((up-down)/(2*h), by, math.Abs(up/v), "at the wall, v %g", v)
			up, _, _ = AtWall(v, 0.3+1e-6, d)
			down, _, _ = AtWall(v, 0.3-1e-6, d)
			near((up-down)/2e-6, byFriction, math.Abs(up), "at the wall by friction, v %g", v)
		}
	}
}

// TestAtAWall: where friction is the same at all distances, the carried viscosity κ u y of the model spreads as much as
// arises: the law of the wall is its solution. The shear follows from the friction.
func TestAtAWall(t *testing.T) {
	const friction, nu = 0.3, 1e-6
	for _, y := range []float64{1e-7, 1e-5, 3e-5, 1e-4, 1e-2} {
		v := Kappa * friction * y
		grows, _, _ := AtWall(v, friction, y)
		spreads := Kappa * friction * Kappa * friction * (1/sigma + Sharpens)
		assert.InDelta(t, 0, (grows+spreads)/spreads, 1e-12)
		plus := y * friction / nu
		shear := friction * friction / nu / (1 + Viscous.moves(plus, 0))
		own, _, _ := Growth(v, nu, shear, y, 0)
		assert.InDelta(t, 0, (own+spreads)/spreads, 1e-9, "y⁺ %g", plus)
	}
}

// TestLawOfTheWall: even at the wall, then logarithmic as measured, and found again from the speed.
func TestLawOfTheWall(t *testing.T) {
	assert.InEpsilon(t, 0.5, Viscous.Speed(0.5, 0), 1e-4)
	for _, y := range []float64{100, 1e3, 1e5} {
		assert.InEpsilon(t, math.Log(y)/Kappa+5.03, Viscous.Speed(y, 0), 5e-3)
	}
	// The integral itself, with steps ten thousand times as many.
	for _, rough := range []float64{0, 3, 300} {
		sum, y := 0.0, 0.0
		for y < 500 {
			h := 1e-3
			sum += h / (1 + Viscous.moves(y+h/2, rough))
			y += h
		}
		assert.InEpsilon(t, sum, Viscous.Speed(y, rough), 1e-4, "rough %g", rough)
	}
	for _, y := range []float64{1e-3, 0.3, 7, 40, 1e4} {
		got, slope := Viscous.Distance(Viscous.Speed(y, 0)*y, 0)
		assert.InEpsilon(t, y, got, 1e-6)
		re := Viscous.Speed(y, 0) * y
		up, _ := Viscous.Distance(re*1.001, 0)
		down, _ := Viscous.Distance(re/1.001, 0)
		assert.InEpsilon(t, math.Log(up/down)/(2*math.Log(1.001)), slope, 1e-4, "y⁺ %g", y)
		for _, rough := range []float64{0.01, 0.3} {
			got, slope := Viscous.Distance(Viscous.Speed(y, rough*y)*y, rough)
			assert.InEpsilon(t, y, got, 1e-6)
			up, _ := Viscous.Distance(Viscous.Speed(y, rough*y)*y*1.001, rough)
			down, _ := Viscous.Distance(Viscous.Speed(y, rough*y)*y/1.001, rough)
			assert.InEpsilon(t, math.Log(up/down)/(2*math.Log(1.001)), slope, 1e-3)
		}
	}
	// Rough walls: u⁺ = ln(y/k)/κ + 8.5 (J. Nikuradse).
	for _, k := range []float64{100, 1000} {
		assert.InDelta(t, math.Log(50)/Kappa+8.5, Viscous.Speed(50*k, k), 0.5)
	}
}

// TestHeatAtWalls: conduction alone at the wall, and far out the law of B. A. Kader, Int. J. Heat Mass Transfer 24 (1981)
// 1541; where heat is much slower than friction the eddies near the wall, which it depends on, are not as exact.
func TestHeatAtWalls(t *testing.T) {
	assert.InDelta(t, 1, Viscous.Conducts(1e-4, 0.7, 0), 1e-6)
	for prandtl, within := range map[float64]float64{0.7: 0.05, 5: 0.11, 20: 0.21} {
		beta := math.Pow(3.85*math.Cbrt(prandtl)-1.3, 2) + 2.12*math.Log(prandtl)
		for _, y := range []float64{100, 1000} {
			theta := prandtl * y / Viscous.Conducts(y, prandtl, 0)
			assert.InEpsilon(t, 2.12*math.Log(1+y)+beta, theta, within, "Pr %g, y⁺ %g", prandtl, y)
		}
	}
	assert.InDelta(t, 0.85, Prandtl(1e5, 0.7), 1e-3)
	assert.InDelta(t, 1.7, Prandtl(1e-9, 0.7), 1e-3)
}

func TestRatio(t *testing.T) {
	for _, eddies := range []float64{1e-6, 0.1, 10, 1e4} {
		v, _ := Viscosity(Ratio(eddies), 1, 0)
		assert.InEpsilon(t, eddies, v, 1e-8)
	}
	assert.Zero(t, Ratio(0))
}
