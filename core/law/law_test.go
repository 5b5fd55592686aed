package law

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/quantity"
)

func lawOf(t *testing.T, text, unit string) Law {
	t.Helper()
	e, err := formula.Parse(text)
	require.NoError(t, err)
	p, err := e.Compile(formula.Environment{Variables: Variables})
	require.NoError(t, err)
	require.Equal(t, quantity.MustUnit(unit).Dimension, p.Dimension)
	return p
}

// TestLawsAtPoints: values of the place, the time and the temperature, and the slope by the
// temperature, which is the one that differences show.
func TestLawsAtPoints(t *testing.T) {
	s := NewSet(lawOf(t, "2 W/(m·K) + 0.01 W/(m·K²)*(temperature - 300 K)*x/1 m", "W/(m·K)"), lawOf(t, "5 W*sin(time/1 s)", "W"), lawOf(t, "r*1 N/m", "N"), nil)
	at := func(temperature float64) []fem.Point {
		return []fem.Point{{X: [3]float64{3, 4, 1}, Time: 2, U: []float64{temperature}}, {X: [3]float64{-1, 0, 0}, Time: 0, U: []float64{350}}}
	}
	s.Run(at(320), 0)
	assert.InDelta(t, 2.6, s.At(0, 0), 1e-12)
	assert.InDelta(t, 1.5, s.At(0, 1), 1e-12)
	assert.InDelta(t, 5*math.Sin(2), s.At(1, 0), 1e-12)
	assert.InDelta(t, 5, s.At(2, 0), 1e-12, "the distance from the axis")
	assert.Zero(t, s.At(3, 1), "no law is zero")
	assert.Zero(t, s.Slope(1, 0))
	slope, here := s.Slope(0, 0), s.At(0, 0)
	s.Run(at(320.5), 0)
	assert.InEpsilon(t, (s.At(0, 0)-here)/0.5, slope, 1e-9)
	s.Run(at(320), -1)
	assert.InDelta(t, 2+0.01*(UsualTemperature-300)*3, s.At(0, 0), 1e-12, "where no temperature is solved for")
}

// TestLawsThatFallTooLow: a value below its bound, at it, or none at all is an error that
// names the body, the quantity and the value.
func TestLawsThatFallTooLow(t *testing.T) {
	s := NewSet(lawOf(t, "1 W - 0.01 W/K*(temperature - 300 K)", "W"), lawOf(t, "1 W/(temperature - 300 K)*1 K", "W"))
	run := func(temperature float64) { s.Run([]fem.Point{{U: []float64{temperature}}}, 0) }
	run(350)
	assert.NoError(t, s.Check(0, 4, "power", 0, false))
	run(400)
	assert.NoError(t, s.Check(0, 4, "power", 0, true), "at the bound")
	assert.Error(t, s.Check(0, 4, "power", 0, false))
	run(450)
	var fault *Error
	require.ErrorAs(t, s.Check(0, 4, "power", 0, true), &fault)
	assert.Equal(t, int32(4), fault.Body)
	assert.InDelta(t, -0.5, fault.Value, 1e-12)
	assert.NoError(t, s.Check(0, 4, "power", NoBound, false))
	run(300)
	assert.Error(t, s.Check(1, 4, "power", NoBound, false), "a division by zero")
}

// TestLawsOfATemperatureThatIsNotSolvedFor have one value, and follow the temperature again where one is.
func TestLawsOfATemperatureThatIsNotSolvedFor(t *testing.T) {
	s := NewSet(lawOf(t, "2 W/K*(temperature - 273.15 K)", "W"))
	points := []fem.Point{{U: []float64{300}}, {U: []float64{310}}}
	for range 2 {
		s.Run(points, -1)
		assert.InDelta(t, 2*(UsualTemperature-273.15), s.At(0, 1), 1e-9)
		assert.Zero(t, s.Slope(0, 1))
		require.NoError(t, s.Check(0, 0, "power", 0, false))
		s.Run(points, 0)
		assert.InDelta(t, 2*(310-273.15), s.At(0, 1), 1e-9)
		assert.InDelta(t, 2, s.Slope(0, 1), 1e-12)
	}
}

// TestLawsOfConcentrations: values and slopes by each of them, and nothing where none is solved for.
func TestLawsOfConcentrations(t *testing.T) {
	l := lawOf(t, "3 m³/(mol·s)*concentration_1*concentration_3", "mol/(m³·s)")
	s := NewSetBy([]int{Temperature, Concentration, Concentration + 2}, l)
	points := []fem.Point{{U: []float64{5, 2}, Named: []int{0, -1, 1}}}
	s.Run(points, -1)
	assert.InDelta(t, 30, s.At(0, 0), 1e-12)
	assert.InDelta(t, 6, s.SlopeBy(0, Concentration, 0), 1e-12)
	assert.InDelta(t, 15, s.SlopeBy(0, Concentration+2, 0), 1e-12)
	assert.Zero(t, s.SlopeBy(0, Concentration+1, 0))
	points[0].Named = nil
	s.Run(points, -1)
	assert.Zero(t, s.At(0, 0))
}
