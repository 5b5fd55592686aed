package formula

import (
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/quantity"
)

func scope() Values {
	mm := quantity.MustUnit("mm")
	w := quantity.MustUnit("W")
	return Values{
		"pitch": {SI: mm.SI(13), Dimension: mm.Dimension, Unit: "mm"},
		"power": {SI: 340, Dimension: w.Dimension, Unit: "W"},
		"rods":  quantity.Number(5),
		"t":     {SI: mm.SI(5), Dimension: mm.Dimension, Unit: "mm"},
	}
}

func TestEval(t *testing.T) {
	cases := []struct {
		text string
		want float64
		dim  string // a unit of the expected dimension
	}{
		{"5 mm", 5e-3, "m"},
		{"-5 °C", 268.15, "K"},
		{"2*pitch + 1 mm", 27e-3, "m"},
		{"power/rods", 68, "W"},
		{"850 W/(m²·K)", 850, "W/(m^2*K)"},
		{"850 W/m^2/K * 2", 1700, "W/m^2/K"},
		{"16 W m-1 K-1", 16, "W/(m*K)"},
		{"5 mm-2 mm", 3e-3, "m"},
		{"10 mm/rods", 2e-3, "m"},
		{"72 °C + 6 K", 351.15, "K"},
		{"90 °C - 72 °C", 18, "K"},
		{"60 psi", 413685.4, "Pa"},
		{"2^3^2", 512, ""},
		{"-2^2", -4, ""},
		{"sqrt(4 m²)", 2, "m"},
		{"max(t, 3 mm, 7 mm)", 7e-3, "m"},
		{"if(t > 4 mm and rods == 5, 1, 2)", 1, ""},
		{"sin(30 deg)", 0.5, ""},
		{"atan2(1 mm, 1 mm)/pi*180", 45, "rad"},
		{"1e3 mm", 1, "m"},
		{"3 l/min", 5e-5, "m^3/s"},
		{".5 in", 0.0127, "m"},
	}
	for _, c := range cases {
		f, err := Parse(c.text)
		require.NoError(t, err, c.text)
		v, err := f.Eval(scope())
		require.NoError(t, err, c.text)
		assert.InEpsilon(t, c.want, v.SI, 1e-6, c.text)
		assert.Equal(t, quantity.MustUnit(c.dim).Dimension, v.Dimension, c.text)
	}
}

func TestErrorsSayWhatAndWhere(t *testing.T) {
	cases := []struct{ text, part string }{
		{"", "nothing is written"},
		{"5 mm + 3 s", `"3 s" is a time and cannot be added to "5 mm", which is a length`},
		{"20 °C + 30 °C", "two temperatures on a scale"},
		{"2*20 °C", "write it in K"},
		{"thick + 1 mm", `no parameter "thick"`},
		{"mm", "a unit must follow a number"},
		{"(3 mm", "not closed"},
		{"3 mm)", "not expected"},
		{"3 +", "ends where a value was expected"},
		{"1/0", "divides by zero"},
		{"exp(3 mm)", "must be a plain number"},
		{"wave(3)", "no function"},
		{"max()", "arguments or more"},
		{"2^(1 m)", "an exponent must be a plain number"},
		{"3,5 mm", "decimal point"},
		{"log(-1)", "not a finite number"},
		{"5 $", "not understood"},
		{strings.Repeat("(", 100) + "1", "nested"},
		{strings.Repeat("1+", 12000) + "1", "characters at most"},
	}
	for _, c := range cases {
		f, err := Parse(c.text)
		if err == nil {
			_, err = f.Eval(scope())
		}
		require.Error(t, err, c.text)
		assert.Contains(t, err.Error(), c.part, c.text)
		var e *Error
		assert.True(t, errors.As(err, &e), c.text)
	}
}

func TestNamesAndRenaming(t *testing.T) {
	f, err := Parse("2*pitch + max(t, pitch) - pi")
	require.NoError(t, err)
	assert.Equal(t, []string{"pitch", "t"}, f.Names())
	assert.Equal(t, "2*gap + max(t, gap) - pi", Rename(f.String(), "pitch", "gap"))
	assert.Equal(t, "5 m/(m + mm)", Rename("5 m/(m + q)", "q", "mm"), "a unit is no name")
	assert.Equal(t, "(broken", Rename("(broken", "b", "c"))
	assert.Equal(t, "$", Rename("$", "b", "c"))
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"5 mm", "2*pitch^-1", "if(1<2,3 °C,4 K)", "((((", "1e999", "W m-2", "5 m(", "−3·4", "table(x, 0 m: 1, -1: 2; hold)", "mean(temperature over a[1].b facing \"c\")", "pulse(time, 1 s, 2 s, 3 s)", "at(x,1 m,2 m,3 m)"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		formula, err := Parse(text)
		if err != nil {
			return
		}
		v, err := formula.Eval(scope())
		if err == nil && !finite(v.SI) {
			t.Fatalf("%q gave %v without an error", text, v.SI)
		}
		p, err := formula.Compile(Environment{Scope: scope(), Variables: field, Points: field})
		if err == nil {
			in := append(point(1), make([]float64, len(p.Reductions))...)
			out, slope := []float64{0}, []float64{0}
			columns := make([][]float64, len(in))
			for i := range in {
				columns[i] = in[i : i+1]
			}
			p.NewWork(0).Run(columns, out, slope)
		}
		Rename(text, "x", "pitch")
	})
}
