package convect

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

// even is a fluid with the same properties at all temperatures.
func even(k, rho, c, mu, beta float64) *Fluid {
	same := func(v float64) func(float64) float64 { return func(float64) float64 { return v } }
	return &Fluid{Conductivity: same(k), Density: same(rho), Capacity: same(c), Viscosity: same(mu), Expansion: same(beta)}
}

// TestWorkedExamples compares with examples of Incropera and others, Fundamentals of
// Heat and Mass Transfer, 6th ed., 2007, with the properties given there.
func TestWorkedExamples(t *testing.T) {
	// 9.2: glass door 0.71 m high at 232 °C in air at 23 °C: Ra = 1.813e9, Nu = 147, h =
	// 7.0 W/(m²·K). Properties at 400 K: k = 33.8e-3, ν = 26.4e-6, α = 38.3e-6, β = 0.0025.
	air := even(33.8e-3, 0.8711, 33.8e-3/(0.8711*38.3e-6), 26.4e-6*0.8711, 0.0025)
	v := VerticalPlate(&Case{Fluid: air, Surface: 232 + 273.15, Bulk: 23 + 273.15, Length: 0.71})
	assert.InEpsilon(t, 1.813e9, v.Size, 0.01)
	assert.InEpsilon(t, 7.0, v.Coefficient, 0.01)
	assert.Empty(t, v.Outside)

	// 9.4: level pipe of 0.1 m at 165 °C in air at 23 °C: Ra = 5.073e6, Nu = 23.3, h = 7.29.
	air = even(0.0313, 1, 0.0313/32.8e-6, 22.8e-6, 2.725e-3)
	v = LyingCylinder(&Case{Fluid: air, Surface: 165 + 273.15, Bulk: 23 + 273.15, Length: 0.1})
	assert.InEpsilon(t, 5.073e6, v.Size, 0.01)
	assert.InEpsilon(t, 7.29, v.Coefficient, 0.01)

	// 7.4: cylinder of 12.7 mm at 128.4 °C across air of 26.2 °C at 10 m/s: Re = 6071, Nu =
	// 40.6 by Churchill and Bernstein, h = 96 (with Pr = 0.70).
	air = even(0.030, 1, 0.030/(20.92e-6/0.70), 20.92e-6, 0)
	v = AcrossCylinder(&Case{Fluid: air, Surface: 401.55, Bulk: 299.35, Length: 12.7e-3, Speed: 10})
	assert.InEpsilon(t, 6071, v.Size, 0.01)
	assert.InEpsilon(t, 40.6*0.030/12.7e-3, v.Coefficient, 0.01)

	// 7.2 (first strip): 60 m/s along plates, Re over the first metre with ν = 26.41e-6.
	air = even(0.0338, 1, 0.0338/(26.41e-6/0.69), 26.41e-6, 0)
	v = AlongPlate(&Case{Fluid: air, Surface: 503.15, Bulk: 298.15, Length: 0.22, Speed: 60})
	assert.InEpsilon(t, 5e5, v.Size, 0.01)
	assert.InEpsilon(t, 0.664*math.Sqrt(v.Size)*math.Cbrt(0.69)*0.0338/0.22, v.Coefficient, 1e-9)
}

// TestLimits: developed laminar flow, the mean of the local coefficient, continuity at
// the ends of ranges, and numbers outside.
func TestLimits(t *testing.T) {
	water := even(0.6, 1000, 4200, 8e-4, 2e-4)
	v := InDuct(&Case{Fluid: water, Surface: 320, Bulk: 300, Length: 0.01, Second: 1e6, Speed: 0.05})
	assert.InEpsilon(t, 3.66*0.6/0.01, v.Coefficient, 1e-4)
	for _, re := range []float64{2300, 4000} {
		at := func(re float64) float64 {
			return InDuct(&Case{Fluid: water, Surface: 320, Bulk: 300, Length: 0.01, Second: 1, Speed: re * 8e-7 / 0.01}).Coefficient
		}
		assert.InEpsilon(t, at(re*(1-1e-9)), at(re*(1+1e-9)), 1e-6)
	}
	// Dittus and Boelter agree within their spread.
	re := 5e4
	v = InDuct(&Case{Fluid: water, Surface: 320, Bulk: 300, Length: 0.01, Second: 1e6, Speed: re * 8e-7 / 0.01})
	assert.InEpsilon(t, 0.023*math.Pow(re, 0.8)*math.Pow(5.6, 0.4)*60, v.Coefficient, 0.2)

	const l, n = 0.3, 20000
	sum := 0.0
	for i := range n {
		sum += AlongPlateLocal(&Case{Fluid: water, Surface: 310, Bulk: 300, Length: l * (float64(i) + 0.5) / n, Speed: 0.5}).Coefficient / n
	}
	assert.InEpsilon(t, AlongPlate(&Case{Fluid: water, Surface: 310, Bulk: 300, Length: l, Speed: 0.5}).Coefficient, sum, 0.015, "but for the first tenth of a millimetre")

	up := &Case{Fluid: water, Surface: 310, Bulk: 300, Length: 0.02, Up: 1}
	down := *up
	down.Up = -1
	assert.Greater(t, LevelPlate(up).Coefficient, 1.5*LevelPlate(&down).Coefficient, "heat rises freely from the top of a warm plate")
	cold := down
	cold.Surface = 290
	assert.InEpsilon(t, LevelPlate(up).Coefficient, LevelPlate(&cold).Coefficient, 1e-3, "and sinks freely from the underside of a cold one")
	huge := *up
	huge.Length = 5
	assert.Contains(t, LevelPlate(&huge).Outside, "is above 1e+11")
	assert.Contains(t, AcrossCylinder(&Case{Fluid: water, Surface: 310, Bulk: 300, Length: 1e-5, Speed: 1e-4}).Outside, "is below")
	still := VerticalPlate(&Case{Fluid: water, Surface: 300, Bulk: 300, Length: 0.1})
	assert.InEpsilon(t, 0.825*0.825*0.6/0.1, still.Coefficient, 1e-9)
}

func TestTabulated(t *testing.T) {
	f := Tabulated(func(t float64) float64 { return 1e-5 * math.Pow(t/300, 0.7) })
	assert.InEpsilon(t, 1e-5*math.Pow(456.3/300, 0.7), f(456.3), 1e-6)
	assert.True(t, math.IsNaN(f(10)))
	assert.True(t, math.IsNaN(f(1e4)))
}
