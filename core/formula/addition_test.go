package formula

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/quantity"
)

// TestAddedFunctions have their dimensions checked, fold where all is known, and have slopes by
// each of their arguments.
func TestAddedFunctions(t *testing.T) {
	kelvin, pascal := quantity.MustUnit("K").Dimension, quantity.MustUnit("Pa").Dimension
	AddFunction(Addition{Name: "test_density", Does: "a test", Arguments: []Variable{{Name: "temperature", Dimension: kelvin}, {Name: "pressure", Dimension: pascal}},
		Dimension: quantity.MustUnit("kg/m³").Dimension, At: func(t, p, _ float64) float64 { return p / (287 * t) }})
	t.Cleanup(func() { delete(functions, "test_density") })
	assert.Panics(t, func() { AddFunction(Addition{Name: "test_density", Arguments: []Variable{{}}}) })
	variables := []Variable{{Name: "temperature", Dimension: kelvin, Temperature: true}, {Name: "pressure", Dimension: pascal}}
	compile := func(text string) (*Program, error) {
		f, err := Parse(text)
		require.NoError(t, err)
		return f.Compile(Environment{Variables: variables})
	}
	p, err := compile("2*test_density(temperature, pressure)")
	require.NoError(t, err)
	out, dt, dp := make([]float64, 2), make([]float64, 2), make([]float64, 2)
	p.NewWork(0, 1).Run([][]float64{{300, 400}, {1e5, 2e5}}, out, dt, dp)
	for i, want := range []float64{2e5 / (287 * 300), 4e5 / (287 * 400)} {
		assert.InEpsilon(t, want, out[i], 1e-14)
		assert.InEpsilon(t, -want/[]float64{300, 400}[i], dt[i], 1e-7)
		assert.InEpsilon(t, want/[]float64{1e5, 2e5}[i], dp[i], 1e-7)
	}
	p, err = compile("test_density(20 °C, 1 bar)")
	require.NoError(t, err)
	v, constant := p.Constant()
	assert.True(t, constant)
	assert.InEpsilon(t, 1e5/(287*293.15), v, 1e-14)
	for text, part := range map[string]string{
		"test_density(pressure, pressure)": "the temperature of test_density is a pressure",
		"test_density(temperature, 3)":     "the pressure of test_density is a plain number",
	} {
		_, err = compile(text)
		assert.ErrorContains(t, err, part)
	}
	_, err = Parse("test_density(temperature)")
	assert.ErrorContains(t, err, "takes 2 arguments")

	q := Opaque("a square", quantity.None, func(x float64) float64 { return x * x })
	q.NewWork(0).Run([][]float64{{3}}, out[:1], dt[:1])
	assert.Equal(t, 9., out[0])
	assert.InDelta(t, 6, dt[0], 1e-6)
	assert.True(t, q.Uses(0))
	_, constant = q.Constant()
	assert.False(t, constant)
	assert.Equal(t, "a square", q.String())
	assert.False(t, math.IsNaN(q.At(2)))
}
