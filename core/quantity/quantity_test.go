package quantity

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestUnits(t *testing.T) {
	cases := []struct {
		text string
		si   float64 // what one of it is
		like string  // a unit of the same dimension
	}{
		{"mm", 1e-3, "m"}, {"µm", 1e-6, "m"}, {"um", 1e-6, "m"}, {"in", 0.0254, "m"}, {"mil", 2.54e-5, "m"},
		{"°C", 274.15, "K"}, {"°F", 255.9277777777778, "K"}, {"bar", 1e5, "Pa"}, {"atm", 101325, "Pa"},
		{"psi", 6894.757293168361, "Pa"}, {"mmHg", 133.32236842105263, "Pa"}, {"l/min", 1e-3 / 60, "m³/s"},
		{"m³/h", 1.0 / 3600, "m³/s"}, {"kg/h", 1.0 / 3600, "kg/s"}, {"rpm", 0.10471975511965977, "rad/s"},
		{"deg", 0.017453292519943295, "rad"}, {"kW", 1000, "W"}, {"BTU/h", 0.2930710701722222, "W"},
		{"mA", 1e-3, "A"}, {"S/m", 1, "1/(Ω·m)"}, {"mT", 1e-3, "T"}, {"Oe", 79.57747154594767, "A/m"},
		{"M", 1000, "mol/m³"}, {"ppm", 1e-6, ""}, {"cP", 1e-3, "Pa·s"}, {"cSt", 1e-6, "m²/s"},
		{"kWh", 3.6e6, "J"}, {"Ah", 3600, "C"}, {"W/(m²·K)", 1, "W/m^2/K"}, {"W m-2 K-1", 1, "W/(m²·K)"},
		{"mm^1.5", math.Pow(1e-3, 1.5), "m^(3/2)"}, {"W/(m²·K^1.25)", 1, "W m-2 K^-1.25"},
		{"kJ/(kg·°C)", 1000, "J/(kg·K)"}, {"1/K", 1, "K^-1"}, {"hPa", 100, "Pa"}, {"dam", 10, "m"},
	}
	for _, c := range cases {
		u, err := ParseUnit(c.text)
		require.NoError(t, err, c.text)
		assert.InEpsilon(t, c.si, u.SI(1), 1e-12, c.text)
		assert.Equal(t, MustUnit(c.like).Dimension, u.Dimension, c.text)
		assert.InDelta(t, 3.5, u.From(u.SI(3.5), false), 1e-9, c.text)
	}
	for _, bad := range []string{"xyz", "W/", "(m", "m)", "m^99", "W//m", "mmm", "W/m²K"} {
		_, err := ParseUnit(bad)
		assert.Error(t, err, bad)
	}
}

func TestScanUnitStopsWhereTheUnitEnds(t *testing.T) {
	cases := []struct {
		text string
		used string
	}{
		{"mm*2", "mm"}, {"mm/rods", "mm"}, {"W/(m²·K) + 3", "W/(m²·K)"}, {"mm-2 mm", "mm"},
		{"m s-2 + 1", "m s-2"}, {"pitch", ""}, {"m)", "m"}, {"", ""},
		// A bare exponent behind a single symbol would hide a missing operator.
		{"mm2", "mm"},
	}
	for _, c := range cases {
		u, n := ScanUnit(c.text)
		assert.Equal(t, c.used, u.Text, c.text)
		assert.Equal(t, len(c.used), n, c.text)
	}
}

func TestShow(t *testing.T) {
	cases := []struct {
		si   float64
		unit string
		diff bool
		want string
	}{
		{391.35, "°C", false, "118.2\u00a0°C"},
		{7.4, "°C", true, "7.400\u00a0K"},
		{0.295, "g", false, "295.0\u00a0g"},
		{1234567, "W", false, "1\u202f234\u202f567\u00a0W"},
		{-0.001, "mm", false, "−1.000\u00a0mm"},
		{1.5e-9, "", false, "1.5·10⁻⁹"},
		{0, "K", true, "0\u00a0K"},
	}
	for _, c := range cases {
		assert.Equal(t, c.want, Show(c.si, c.unit, c.diff, 0))
	}
	assert.Equal(t, "41\u202f208", Count(41208))
	assert.Equal(t, "4120", Count(4120))
}

func TestDimension(t *testing.T) {
	m := MustUnit("m").Dimension
	area, err := m.Power(2, 1)
	require.NoError(t, err)
	half, err := area.Power(1, 2)
	require.NoError(t, err)
	assert.Equal(t, m, half)
	assert.Equal(t, "a heat-transfer coefficient", MustUnit("W/(m²·K)").Dimension.Name())
	assert.Equal(t, "m^(1/2)", func() string { d, _ := m.Power(1, 2); return d.String() }())
}

func TestMargin(t *testing.T) {
	assert.Equal(t, "±\u202f0.2", Margin(0.13, 350, "°C"), "rounded up to one digit, no zero point")
	assert.Equal(t, "±\u202f0.4", Margin(0.2, 350, "°F"))
	assert.Equal(t, "±\u202f3", Margin(0.003, 1, "mW"))
	assert.Equal(t, "±\u202f1", Margin(0.93, 20, "W"))
	assert.Empty(t, Margin(1e-9, 1, "W"))
	assert.Empty(t, Margin(0, 0, "W"))
}
