package formula

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func timeProgram(t *testing.T, text string) *Program {
	t.Helper()
	f, err := Parse(text)
	require.NoError(t, err, text)
	p, err := f.Compile(Environment{Variables: []Variable{Coordinates[0], Time}})
	require.NoError(t, err, text)
	return p
}

// TestBreaksAreFound: every place where a formula of the time jumps or bends is found, to
// round-off.
func TestBreaksAreFound(t *testing.T) {
	for text, want := range map[string][]float64{
		"pulse(time, 40 s, 41 s)":                                 {40, 41},
		"pulse(time, 40 s, 43 s, 2 s)":                            {39, 41, 42, 44},
		"3*ramp(time, 10 s, 20 s) + 1":                            {10, 20},
		"square(time, 25 s)":                                      {12.5, 25, 37.5, 50},
		"triangle(time, 30 s)":                                    {15, 30, 45},
		"table(time, 5 s: 1, 17 s: 4, 70 s: 2)":                   {5, 17},
		"curve(time, 5 s: 1, 17 s: 4, 29 s: 2)":                   {5, 17, 29},
		"if(time < 12 s, 1, 2)":                                   {12},
		"if(time >= 12 s and time < 13 s or time > 50 s, 1, 2)":   {12, 13, 50},
		"max(time, 22 s)/1 s":                                     {22},
		"abs(time - 7 s)/1 s":                                     {7},
		"floor(time/20 s)":                                        {20, 40},
		"round(time/20 s)":                                        {10, 30, 50},
		"pulse(mod(time, 20 s), 4 s, 5 s)":                        {4, 5, 20, 24, 25, 40, 44, 45},
		"if(sin(time/10 s) > 0, 1, 0)":                            {10 * math.Pi},
		"if(time^2 > 400 s^2, 1, 0)":                              {20},
		"sin(time/1 s)":                                           nil,
		"if(x > 1 m, 1, 2)*pulse(time, 1 s, 2 s)":                 {1, 2},
		"if(x > 1 m and time > 3 s, 1, 2)":                        {3},
		"if(time > 3 s, x/1 m, 2)":                                {3},
		"pulse(time - 10 s, 0 s, 1 s) + pulse(time, 10 s, 11 s)":  {10, 11},
		"if(square(time, 40 s) > 0.5, ramp(time, 30 s, 45 s), 0)": {20, 30, 40, 45},
	} {
		got, err := timeProgram(t, text).Breaks(1, 0, 60, 1000)
		require.NoError(t, err, text)
		assert.Len(t, got, len(want), text)
		assert.InDeltaSlice(t, want, got, 1e-9, text)
	}
	_, err := timeProgram(t, "square(time, 1 ms)").Breaks(1, 0, 3600, 20000)
	assert.ErrorContains(t, err, "more than 20000 times")
	got, err := timeProgram(t, "x/1 m").Breaks(1, 0, 3600, 20000)
	require.NoError(t, err)
	assert.Empty(t, got)
}
