package quantity

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// FuzzParseUnit: nothing makes the reader fail, and what it accepts can be
// converted there and back.
func FuzzParseUnit(f *testing.F) {
	for _, s := range []string{"W/(m²·K)", "W m-2 K-1", "1/K", "((m))", "°C", "µΩ·m", "m^-12", "%", "l/min", "//", "m^", "kg·(m/s)²"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		u, n := ScanUnit(text)
		if n < 0 || n > len(text) || n == 0 && u.Factor != 1 {
			t.Fatalf("%q: %d bytes, factor %g", text, n, u.Factor)
		}
		u, err := ParseUnit(text)
		if err != nil || u.Factor == 0 || math.IsInf(u.Factor, 0) {
			return
		}
		if back := u.From(u.SI(2.5), false); math.Abs(back-2.5) > 1e-6*math.Max(1, math.Abs(u.Offset/u.Factor)) {
			t.Fatalf("%q: 2.5 became %g", text, back)
		}
	})
}

// TestEverySymbolReadsBack: each unit of the table is read by its symbol, with
// every prefix that it takes, and no two readings of a text are possible.
func TestEverySymbolReadsBack(t *testing.T) {
	for name, s := range symbols {
		u, err := ParseUnit(name)
		require.NoError(t, err, name)
		assert.Equal(t, s.factor, u.Factor, name)
		assert.NotEmpty(t, s.about, name)
		if !s.prefixed {
			continue
		}
		for prefix, factor := range prefixes {
			if _, taken := symbols[prefix+name]; taken {
				continue // the table wins: "min", "cd"
			}
			u, err := ParseUnit(prefix + name)
			require.NoError(t, err, prefix+name)
			assert.InEpsilon(t, factor*s.factor, u.Factor, 1e-12, prefix+name)
		}
	}
}

// TestTakenPrefixesAreKnown lists the texts that could be a prefixed unit but are
// a unit of their own, so that a new unit cannot change the meaning of a text
// unnoticed.
func TestTakenPrefixesAreKnown(t *testing.T) {
	var taken []string
	for name, s := range symbols {
		for prefix := range prefixes {
			if _, ok := symbols[prefix+name]; ok && s.prefixed {
				taken = append(taken, prefix+name)
			}
		}
	}
	for _, name := range taken {
		assert.Contains(t, []string{"cd", "ft", "Pa", "hp"}, name)
	}
}

func TestDimensionsSaySo(t *testing.T) {
	for _, n := range names {
		assert.Equal(t, n.d, MustUnit(n.unit).Dimension, n.name)
		assert.Equal(t, n.unit, n.d.Symbol())
	}
	odd := MustUnit("m^3/s^4").Dimension
	assert.Equal(t, "m³·s⁻⁴", odd.String())
	assert.Equal(t, "a quantity in m³·s⁻⁴", odd.Name())
	_, err := MustUnit("m").Dimension.Power(1, 7)
	assert.Error(t, err, "a seventh is not kept exactly")
	assert.Equal(t, None, MustUnit("rad").Dimension.WithoutAngle())
	assert.Panics(t, func() { MustUnit("wat") })
	assert.True(t, IsUnit("kPa"))
	assert.False(t, IsUnit("pitch"))
}

func TestFigures(t *testing.T) {
	cases := map[float64]string{
		math.NaN(): "undefined", math.Inf(1): "∞", math.Inf(-1): "−∞", 99999: "99\u202f999", 1e7: "1·10⁷", 123456789: "1.235·10⁸",
		0.00012345: "0.0001234", 9.99999: "10.000", -45.5: "−45.50",
	}
	for x, want := range cases {
		got := Figures(x, 0)
		if x == 0.00012345 || x == 9.99999 { // the last digit depends on how the tie falls
			assert.True(t, strings.HasPrefix(got, want[:5]), got)
			continue
		}
		assert.Equal(t, want, got)
	}
}
