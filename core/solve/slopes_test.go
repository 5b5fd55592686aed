package solve

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/examples"
)

// TestSlopes of a pan floor: what is known exactly, what two runs farther apart come to, and that it costs less than those; with a shape that moves, a
// number of rods that cannot be a little more, and a parameter that is none.
func TestSlopes(t *testing.T) {
	doc, err := examples.Load("pan-floor")
	require.NoError(t, err)
	require.NoError(t, doc.Set("mesh/size", "9 mm"))
	out, list, err := Slopes(t.Context(), doc, []string{"power", "t", "rods", "depth"}, Options{})
	require.NoError(t, err)
	require.Len(t, list, 4)
	value := func(o *Outcome, key string) float64 {
		for _, q := range o.Readings {
			if q.Key == key {
				return q.Value
			}
		}
		return 0
	}
	// The mass grows with the thickness and the heat with the power, as much as they are.
	assert.InEpsilon(t, value(out, "r5")/0.005, list[1].Of["r5"], 1e-9)
	assert.InEpsilon(t, 1, list[0].Of["r4"], 1e-6)
	assert.InDelta(t, 0, list[0].Of["r5"], 1e-9)
	for k, name := range []string{"power", "t"} {
		var sides [2]*Outcome
		now, by := []float64{340, 5}[k], 0.02
		for i, f := range []float64{1 - by, 1 + by} {
			d := *doc
			d.Parameters = append(d.Parameters[:0:0], doc.Parameters...)

			require.NoError(t, d.SetParameter(name, fmt.Sprintf("%.12g %s", now*f, []string{"W", "mm"}[k])))
			sides[i], err = Run(t.Context(), &d, Options{})
			require.NoError(t, err)
		}
		scale := []float64{1, 1e-3}[k]
		for _, key := range []string{"r1", "r2", "r6"} {
			far := (value(sides[1], key) - value(sides[0], key)) / (2 * by * now * scale)
			assert.InEpsilon(t, far, list[k].Of[key], 0.01, "%s by %s", key, name)
		}
	}
	assert.NotEmpty(t, list[2].Missing, "a little more than five rods")
	assert.Contains(t, list[3].Missing, "no parameter")
	require.NoError(t, doc.Set("mesh/size", "30 mm"))
	require.NoError(t, doc.Set("mesh/rounds", "1"))
	_, list, err = Slopes(t.Context(), doc, []string{"power"}, Options{})
	require.NoError(t, err)
	assert.Contains(t, list[0].Missing, "finer by itself")
}
