package trial

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
)

// ishigami (T. Ishigami, T. Homma, 1990), with a fourth parameter that does nothing.
func ishigami(u []float64) map[string]float64 {
	x := [3]float64{}
	for i := range x {
		x[i] = math.Pi * (2*u[i] - 1)
	}
	return map[string]float64{"r1": math.Sin(x[0]) + 7*math.Sin(x[1])*math.Sin(x[1]) + 0.1*math.Pow(x[2], 4)*math.Sin(x[0])}
}

// TestWhatDoesNotMatter is known as such.
func TestWhatDoesNotMatter(t *testing.T) {
	list, err := Predict(cube(100, 4, ishigami)).Sensitivities("r1")
	require.NoError(t, err)
	for j := range list {
		assert.Equal(t, j < 3, list[j].Matters(), "%d: %.3f ± %.3f", j, list[j].Total, list[j].TotalError)
	}
	_, err = Predict(cube(4, 4, ishigami)).Sensitivities("r9")
	assert.Error(t, err)
}

// TestEffects of a function whose mean and slopes are known.
func TestEffects(t *testing.T) {
	of := func(u []float64) map[string]float64 {
		return map[string]float64{"r1": 3 + 2*u[0] + 4*u[0]*u[1] - u[1]*u[1]}
	}
	s := cube(20, 2, of)
	s.ResolvedTrials.Surface = model.Quadratic
	p := Predict(s)
	c, err := p.MainEffect("r1", 0)
	require.NoError(t, err)
	require.Len(t, c.X, curvePoints)
	for i, x := range c.X {
		assert.InDelta(t, 3+4*x-1./3, c.Y[i], 0.02)
	}
	slope, err := p.Slope("r1", 1, []float64{0.25, 0.5})
	require.NoError(t, err)
	assert.InDelta(t, 4*0.25-2*0.5, slope, 1e-8)
	c, err = p.Section("r1", 0, []float64{0.9, 0.5})
	require.NoError(t, err)
	for i, x := range c.X {
		assert.InDelta(t, 3+4*x-0.25, c.Y[i], 1e-9)
		assert.InDelta(t, 0, c.Band[i], 1e-9)
	}
	_, err = p.Section("r9", 0, nil)
	assert.ErrorContains(t, err, "no trial")
}

// TestSpreadOfASum of parameters that spread evenly, and the chance of a limit that is known exactly.
func TestSpreadOfASum(t *testing.T) {
	of := func(u []float64) map[string]float64 { return map[string]float64{"r1": u[0] + u[1]} }
	s := cube(40, 2, of)
	s.ResolvedTrials.Surface = model.Quadratic
	s.Bounds = []model.Bound{{Reading: "r1", Side: model.Under, Value: 1.5}, {Reading: "r1", Side: model.Over, Value: 0.2}}
	p := Predict(s)
	got, err := p.Spread("r1")
	require.NoError(t, err)
	assert.InDelta(t, 1, got.Mean, 1e-3)
	assert.InDelta(t, math.Sqrt(1./6), got.Deviation, 1e-3)
	assert.InDelta(t, math.Sqrt(0.1), got.Low, 5e-3)
	assert.InDelta(t, 2-math.Sqrt(0.1), got.High, 8e-3)
	assert.Equal(t, 40, got.Trials)
	chances, err := p.Chances()
	require.NoError(t, err)
	assert.InDelta(t, 0.125, chances[0].Share, 4e-3)
	assert.InDelta(t, 0.02, chances[1].Share, 2e-3)
	assert.Equal(t, 40, chances[0].Counted)
	assert.Greater(t, chances[0].CountedHigh, 0.125)
	assert.Less(t, chances[0].CountedLow, 0.125)
	lo, hi := wilson(0, 0)
	assert.Equal(t, []float64{0, 1}, []float64{lo, hi})
}

// TestSpreadOfWhatIsNotKnown: a surface that is off widens it, and the chance has a range.
func TestSpreadOfWhatIsNotKnown(t *testing.T) {
	s := cube(30, 2, branin)
	s.ResolvedTrials.Surface = model.Quadratic
	s.Bounds = []model.Bound{{Reading: "r1", Side: model.Under, Value: 150}}
	chances, err := Predict(s).Chances()
	require.NoError(t, err)
	assert.Less(t, chances[0].Low, chances[0].Share)
	assert.Greater(t, chances[0].High, chances[0].Share)
}
