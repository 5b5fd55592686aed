package formula

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/quantity"
)

// TestDimensionsHaveBounds: what no quantity has is refused, and the unit of all that is not
// can be read.
func TestDimensionsHaveBounds(t *testing.T) {
	for text, good := range map[string]bool{
		"((1 m)^5)^5": false, "(1 m)^12": true, "(1 m)^13": false, "(1 m)^6*(1 m)^6": true, "(1 m)^6*(1 m)^7": false, "1/(1 s)^12/(1 s)": false,
		"((1 m)^12/(1 s)^12)^(1/12)": true, "(1 kg)^7*(1 kg)^-7": true, "(((((1 m)^3)^3)^3)^3)^3": false, "(1 m)^1e9": false, "(1 m)^-1e300": false,
	} {
		f, err := Parse(text)
		require.NoError(t, err, text)
		v, err := f.Eval(Values{})
		if !good {
			assert.Error(t, err, text)
			continue
		}
		require.NoError(t, err, text)
		u, err := quantity.ParseUnit(v.Dimension.Symbol())
		require.NoError(t, err, text)
		assert.Equal(t, v.Dimension, u.Dimension, text)
	}
	// The total of a quantity over a volume, and over time.
	length := Variable{Name: "x", Dimension: quantity.MustUnit("m").Dimension}
	for text, good := range map[string]bool{"total(x^9 over part)": true, "total(x^10 over part)": false} {
		f, err := Parse(text)
		require.NoError(t, err)
		_, err = f.Compile(Environment{Points: []Variable{length}})
		assert.Equal(t, good, err == nil, text)
	}
}
