package formula

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/quantity"
)

// field is what the formulas of these tests may use besides parameters.
var field = append([]Variable{{Name: "temperature", Dimension: quantity.MustUnit("K").Dimension, Temperature: true}, Time}, Coordinates...)

func compile(t *testing.T, text string) *Program {
	t.Helper()
	f, err := Parse(text)
	require.NoError(t, err, text)
	p, err := f.Compile(Environment{Scope: scope(), Variables: field, Points: field})
	require.NoError(t, err, text)
	return p
}

// smoothFormulas are differentiable at the points where they are tried.
var smoothFormulas = []string{
	"16 W/(m·K) + 0.015 W/(m·K²)*(temperature - 300 K)",
	"16 W/(m·K)*(1 + 0.002/K*(temperature - 20 °C))",
	"(temperature/300 K)^0.7", "2 - 1e-3/K*temperature + 3e-6/K²*temperature²",
	"5.67e-8 W/(m²·K⁴)*temperature^4",
	"sqrt(x² + y²)/r", "hypot(x, y)*atan2(y, x)", "exp(-time/4 s)*sin(2*pi*0.3 Hz*time)",
	"table(temperature, 0 °C: 1 W, 50: 2, 100: 5; extend)*2",
	"curve(temperature, 0 °C: 1 W, 50: 2, 100: 5)",
	"curve(time, 0 s: 0, 1: 1, 2: 4, 3: 9, 10: 9.5; extend)",
	"ramp(time, 0 s, 10 s) + smooth(time, 1 s, 8 s) + pulse(time, 1 s, 9 s, 4 s)",
	"triangle(time, 7 s) + square(time, 7 s, 0.25) + mod(time, 3 s)/1 s",
	"min(x, y, 2*z) + max(x, -y)", "if(temperature > 300 K and x < 1 m, x, y)", "abs(x - 3 m) + cbrt(x*y*z)",
	"log(temperature/1 K)*log10(x/1 m) - log2(y/1 m)", "tanh(x/1 m)+sinh(x/1 m)+cosh(y/1 m)+erf(z/1 m)",
	"asin(x/9 m)+acos(x/9 m)*2+atan(y/1 m)", "tan(theta)+cos(theta)", "-x^3/(y+2 m)^2", "2^(x/1 m)",
	"sign(x - 1 m)*y", "floor(x/1 m) + ceil(y/1 m) + round(z/1 m) + x/y",
}

func point(k int) []float64 {
	s := float64(k)
	return []float64{280 + 7.3*s, 0.37 + 0.61*s, 0.4 + 0.13*s, 0.9 + 0.07*s, 0.35 + 0.11*s, 1.1 + 0.03*s, 0.3 + 0.02*s}
}

// TestBatchesAgree compares long columns with single points, and all derivatives
// with differences.
func TestBatchesAgree(t *testing.T) {
	const n = 300 // more than two blocks
	for _, text := range smoothFormulas {
		p := compile(t, text)
		columns := make([][]float64, len(field))
		for v := range columns {
			columns[v] = make([]float64, n)
			for k := range n {
				columns[v][k] = point(k % 7)[v]
			}
		}
		seeds := []int{0, 1, 2, 3, 4, 5, 6}
		slopes := make([][]float64, len(seeds))
		for i := range slopes {
			slopes[i] = make([]float64, n)
		}
		out := make([]float64, n)
		w := p.NewWork(seeds...)
		w.Run(columns, out, slopes...)
		for k := range 7 {
			at := point(k)
			assert.Equal(t, p.At(at...), out[k], text)
			assert.Equal(t, out[k], out[k+7*41], text)
			for v := range at {
				h := 1e-6 * at[v]
				up, down := point(k), point(k)
				up[v] += h
				down[v] -= h
				want := (p.At(up...) - p.At(down...)) / (2 * h)
				assert.InDelta(t, want, slopes[v][k], 2e-7*(1+math.Abs(want)+math.Abs(out[k]/at[v])), "%s by %s at %d", text, field[v].Name, k)
			}
		}
		assert.Zero(t, testing.AllocsPerRun(3, func() { w.Run(columns, out, slopes...) }), "%s allocates", text)
	}
}

func TestTables(t *testing.T) {
	p := compile(t, "table(temperature, -10 °C: -1 kW, 0: 2, 30 °C: 3500 W)")
	for at, want := range map[float64]float64{200: -1000, 263.15: -1000, 268.15: 500, 273.15: 2000, 288.15: 2750, 400: 3500} {
		assert.InDelta(t, want, p.At(at), 1e-9)
	}
	assert.True(t, math.IsNaN(compile(t, "table(x, 0 m: 1, 1: 2; refuse)").At(0, 0, 2)))
	assert.InDelta(t, 3, compile(t, "table(x, 0 m: 1, 1: 2; extend)").At(0, 0, 2), 1e-12)

	// One from nothing begins as steeply as its first piece, however steep the next one is.
	odd, err := NewTable([]float64{0, 150, 300, 450}, []float64{0, 0.08, 0.35, 0.7}, true, Hold)
	require.NoError(t, err)
	assert.InEpsilon(t, 0.08/150, odd.Slope(0), 1e-12)
	// A smooth table stays between its rows where they only rise, and reproduces
	// a straight line.
	x, y := []float64{0, 1, 2, 3, 4}, []float64{0, 0.1, 0.2, 5, 5}
	c, err := NewTable(x, y, true, Hold)
	require.NoError(t, err)
	last := -1.0
	for u := 0.0; u <= 4; u += 0.01 {
		assert.GreaterOrEqual(t, c.At(u), last-1e-12)
		last = c.At(u)
	}
	line, err := NewTable(x, []float64{1, 3, 5, 7, 9}, true, Extend)
	require.NoError(t, err)
	assert.InDelta(t, 12.5, line.At(5.75), 1e-12)
	for _, bad := range []string{"table(x, 1 m: 1, 0 m: 2)", "table(x, 1 m: 1)", "table(x, 1 s: 1, 2 s: 2)", "table(x, 1 m: 1, 2: 3 K)", "table(x, 1 m: x, 2: 3)", "table(x, 0 m: 1, 1: 2; wrap)"} {
		f, err := Parse(bad)
		if err == nil {
			_, err = f.Compile(Environment{Variables: field})
		}
		assert.Error(t, err, bad)
	}
}

func TestReductions(t *testing.T) {
	p := compile(t, `greatest(temperature over floor.top facing brick) - mean(temperature over "heater rod"[2]) + total(x along 0 mm, 0 m, 0 m, 1 m, 0 m, 0 m)/1 m^2*0 K`)
	require.Len(t, p.Reductions, 3)
	assert.Equal(t, Region{Part: "floor", Side: "top", Facing: "brick"}, p.Reductions[0].Region)
	assert.Equal(t, Region{Part: "heater rod", Quoted: true, Copy: 2}, p.Reductions[1].Region)
	assert.Equal(t, [][3]float64{{0, 0, 0}, {1, 0, 0}}, p.Reductions[2].Points)
	in := append(make([]float64, len(field)), 400, 320, 0.5)
	assert.InDelta(t, 80, p.At(in...), 1e-12)
	assert.False(t, p.Affine, "a difference of temperatures")
	assert.Equal(t, "W", compile(t, "total(3 W/m³ over rod)").Dimension.Symbol())
	assert.Equal(t, "W", compile(t, "total(3 W/m² over rod.rim)").Dimension.Symbol())
	assert.True(t, compile(t, "at(temperature, 1 mm, 2 mm, 3 mm)").Affine)
	for text, part := range map[string]string{
		"greatest(temperature)":                     "needs to know over what",
		"mean(temperature over 3)":                  "id of a part was expected",
		"at(temperature, 1 mm, 2 mm)":               "three coordinates, not 2",
		"mean(temperature along 1 mm)":              "six values, not 1",
		"mean(temperature over rod[0])":             "given by its number",
		"mean(mean(x over rod) over rod)":           "in readings only",
		"mean(temperature + 3 m over rod)":          `"3 m" is a length and cannot be added to "temperature", which is a temperature`,
		"mean(temperature over rod":                 "not closed",
		`mean(temperature over "rod)`:               "quotation mark is not closed",
		"at(temperature, x, 1 mm, 1 mm)":            "a coordinate must be a fixed length",
		"temperature + 20 °C":                       "cannot be added",
		"(1 m + x)^(y/1 m)":                         "must be the same everywhere",
		"pulse(time, 1 s, 2 m)":                     "cannot be set against",
		"ramp(time, 2 s, 1 s)":                      "must be less than",
		"mean(temperature over rod.top[1])":         "not closed",
		"square(time, 0 s)":                         "greater than zero",
		"total(temperature over rod) + 1 K":         "cannot be added",
		"if(temperature, 1, 2)":                     "must be a comparison",
		"mean(temperature over floor facing 3)":     "a part or outside was expected",
		"total(unknown over floor)":                 `no parameter "unknown"`,
		"greatest(temperature over rod) over rod":   "not expected here",
		"table(temperature, 0 °C: 1, 0.5: 2, 9, 8)": "a colon was expected",
	} {
		f, err := Parse(text)
		if err == nil {
			_, err = f.Compile(Environment{Scope: scope(), Variables: field, Points: field})
		}
		if assert.Error(t, err, text) {
			assert.Contains(t, err.Error(), part, text)
		}
	}
	f, err := Parse("x + 1 m")
	require.NoError(t, err)
	_, err = f.Eval(scope())
	assert.ErrorContains(t, err, "does not differ from place to place")
	assert.Equal(t, "mean(temperature*gap over t.t)", Rename("mean(temperature*t over t.t)", "t", "gap"), "a part is no parameter")
}

// TestConstantsAreFolded checks that a program keeps only what varies.
func TestConstantsAreFolded(t *testing.T) {
	p := compile(t, "x*(2*pitch + 1 mm)*sin(30 deg)")
	assert.Len(t, p.code, 2)
	v, ok := compile(t, "power/rods").Constant()
	assert.True(t, ok)
	assert.InDelta(t, 68, v, 1e-12)
	_, ok = compile(t, "x").Constant()
	assert.False(t, ok)
	assert.True(t, p.Uses(2))
	assert.False(t, p.Uses(3))
}

func BenchmarkRun(b *testing.B) {
	f, err := Parse(smoothFormulas[0])
	require.NoError(b, err)
	p, err := f.Compile(Environment{Variables: field})
	require.NoError(b, err)
	w := p.NewWork(0)
	in, out, slope := make([]float64, 4096), make([]float64, 4096), make([]float64, 4096)
	columns := make([][]float64, len(field))
	columns[0] = in
	b.SetBytes(int64(len(in)))
	for b.Loop() {
		w.Run(columns, out, slope)
	}
}
