package solve

import (
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// values makes samples of 7 + c·hᵖ.
func values(c, p float64, lengths ...float64) []sample {
	var s []sample
	for _, h := range lengths {
		s = append(s, sample{h, 7 + c*math.Pow(h, p)})
	}
	return s
}

func TestMeshErrorOfKnownOrders(t *testing.T) {
	for _, p := range []float64{0.8, 1, 1.5, 2} {
		e, ok := meshError(values(3, p, 0.1, 0.16, 0.26))
		require.True(t, ok)
		truth := 3 * math.Pow(0.1, p)
		assert.InEpsilon(t, safety*truth, e, 1e-3, "order %g", p)
	}
	// A higher order is not believed, but the error is held.
	e, _ := meshError(values(3, 4, 0.1, 0.16, 0.26))
	assert.Greater(t, e, 3e-4)
	// Two meshes: more caution.
	e, ok := meshError(values(3, 2, 0.1, 0.16))
	require.True(t, ok)
	assert.InEpsilon(t, doubtful*0.03, e, 1e-6)
	_, ok = meshError(values(3, 2, 0.1))
	assert.False(t, ok, "one mesh says nothing")
	// Values that swing, and values that do not change.
	e, _ = meshError([]sample{{0.1, 7}, {0.16, 7.2}, {0.26, 6.9}})
	assert.GreaterOrEqual(t, e, 0.3)
	e, _ = meshError([]sample{{0.1, 7}, {0.16, 7}, {0.26, 7}})
	assert.Less(t, e, 1e-8)
}

func TestReadingsHaveAMeshErrorWhereThereIsTime(t *testing.T) {
	doc := demo(t, "bittern-post")
	for within, want := range map[time.Duration]bool{-1: true, 0: false, time.Nanosecond: false} {
		o, err := Run(t.Context(), doc, Options{Now: time.Now, EstimateWithin: within})
		require.NoError(t, err)
		for _, q := range o.Readings {
			assert.Equal(t, want, q.Error != nil, "%s within %s", q.Key, within)
		}
	}
}
