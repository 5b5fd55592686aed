package eddy

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestDerivativesOfEnergyAndRate are those of differences, where what blends both parts of the model does not change.
func TestDerivativesOfEnergyAndRate(t *testing.T) {
	for name, c := range map[string]State{
		"near a wall":       {In: [Inputs]float64{0.02, math.Log(100), 900, -3, 1e6, 2}, Distance: 2e-3, Nu: 1e-6},
		"far from walls":    {In: [Inputs]float64{0.3, math.Log(50), 400, 3, 20, 5}, Distance: 10, Nu: 1e-6},
		"sheared much":      {In: [Inputs]float64{0.02, math.Log(100), 4e6, -3, 1e6, 2}, Distance: 2e-3, Nu: 1e-6},
		"hardly any eddies": {In: [Inputs]float64{1e-6, math.Log(100), 1e4, -1e-4, 10, 1e-6}, Distance: 0.01, Nu: 1e-6},
	} {
		all := func(s State) map[string]Value {
			of := s.Turning()
			return map[string]Value{"viscosity": of.Viscosity, "energy grows": of.EnergyGrows, "rate grows": of.RateGrows, "energy spreads": of.EnergySpreads, "rate spreads": of.RateSpreads}
		}
		exact := all(c)
		assert.Equal(t, exact["viscosity"], c.Viscosity())
		for by := range Inputs {
			h := 1e-6 * math.Abs(c.In[by])
			up, down := c, c
			up.In[by] += h
			down.In[by] -= h
			above, below := all(up), all(down)
			for what, value := range exact {
				slope := (above[what].Value - below[what].Value) / (2 * h)
				size := math.Abs(value.Value / c.In[by])
				assert.InDelta(t, slope, value.By[by], 2e-3*max(math.Abs(slope), 1e-2*size), "%s: %s by %d", name, what, by)
			}
		}
	}
}

// TestInEquilibrium: where as much energy arises as decays in a layer of even friction, the viscosity of the logarithmic law is a
// solution of the model: both grow by what they lose as they spread.
func TestInEquilibrium(t *testing.T) {
	const friction, y = 0.05, 0.01
	s := State{Distance: y, Nu: 1e-12}
	energy, omega := friction*friction/math.Sqrt(Decay), friction/(math.Sqrt(Decay)*kappaOf*y)
	shear := friction / (kappaOf * y)
	s.In = [Inputs]float64{energy, math.Log(omega), shear * shear, 0, 1 / (y * y), 0}
	of := s.Turning()
	moves := kappaOf * friction * y
	assert.InEpsilon(t, moves, of.Viscosity.Value, 3e-3)
	assert.InDelta(t, 0, of.EnergyGrows.Value, 5e-3*Decay*energy*omega)
	// ν_t ∇w is the same everywhere: what the rate grows by is nothing.
	assert.InDelta(t, 0, of.RateGrows.Value, 5e-3*omega)
}

// TestEnergeticLayer: even at the wall, then logarithmic as measured, with as much energy as decays; found again from the speed.
func TestEnergeticLayer(t *testing.T) {
	assert.InEpsilon(t, 0.5, Energetic.Speed(0.5, 0), 1e-3)
	for _, y := range []float64{300, 1e4} {
		assert.InDelta(t, math.Log(y)/0.41+5.2, Energetic.Speed(y, 0), 0.25)
	}
	for _, y := range []float64{0.3, 7, 40, 1e4} {
		got, _ := Energetic.Distance(Energetic.Speed(y, 0)*y, 0)
		assert.InEpsilon(t, y, got, 1e-4)
	}
	const friction, nu = 0.05, 1e-6
	far := BesideWall(friction, nu, 0.2, 0)
	assert.InEpsilon(t, friction*friction/0.3, far.Energy, 0.01)
	assert.InDelta(t, math.Log(friction/(0.3*kappaOf*0.2)), far.Rate, 0.02)
	near := BesideWall(friction, nu, 4e-6, 0)
	assert.InDelta(t, math.Log(6*nu/(beta1*4e-6*4e-6)), near.Rate, 1e-9)
	// Rough walls: u⁺ = ln(y/k)/κ + 8.5.
	for _, k := range []float64{100, 1000} {
		assert.InDelta(t, math.Log(50)/kappaOf+nikuradse, Energetic.Speed(50*k, k), 0.25)
	}
}

// TestDerivativesAtWalls of what there is along a wall, by the friction and by the energy.
func TestDerivativesAtWalls(t *testing.T) {
	const nu = 1e-6
	for _, distance := range []float64{3e-6, 2e-4, 3e-3} {
		for _, rough := range []float64{0, 1e-3} {
			u := 0.05
			h := 1e-5 * u
			b, up, down := BesideWall(u, nu, distance, rough), BesideWall(u+h, nu, distance, rough), BesideWall(u-h, nu, distance, rough)
			assert.InDelta(t, (up.Energy-down.Energy)/(2*h), b.EnergyBy, 0.02*math.Abs(b.EnergyBy)+1e-6)
			assert.InDelta(t, (up.Rate-down.Rate)/(2*h), b.RateBy, 0.3)
			assert.InDelta(t, (up.Spreads-down.Spreads)/(2*h), b.SpreadsBy, 0.02*math.Abs(b.SpreadsBy)+1e-9)
		}
	}
	for _, energy := range []float64{0, 0.004, 0.0083, 0.1} {
		const u, h = 0.05, 1e-7
		value, byFriction, byEnergy := FrictionOf(u, energy)
		up, _, _ := FrictionOf(u+h, energy)
		down, _, _ := FrictionOf(u-h, energy)
		assert.InDelta(t, (up-down)/(2*h), byFriction, 1e-4)
		up, _, _ = FrictionOf(u, energy+h)
		down, _, _ = FrictionOf(u, max(0, energy-h))
		assert.InDelta(t, (up-down)/(h+min(h, energy)), byEnergy, 1e-2*max(byEnergy, 1e-3))
		assert.InDelta(t, math.Sqrt(max(u*u, 0.3*energy)), value, 0.03*value)
	}
}
