package validation

import (
	"context"
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/solve"
)

// TestMeshErrorsAreHonest runs the cases with an exact answer on several meshes and
// counts how often the true error lies within the estimated one.
func TestMeshErrorsAreHonest(t *testing.T) {
	held, all := 0, 0
	var report strings.Builder
	for _, c := range All() {
		if c.Within > 0 {
			continue // the reference itself is approximate
		}
		sizes := append([]string(nil), c.Sizes...)
		for _, s := range c.Sizes {
			if c.Document(s).Transient() {
				break // these take many steps: their own meshes are enough
			}
			var mm float64
			_, err := fmt.Sscanf(s, "%g mm", &mm)
			require.NoError(t, err)
			sizes = append(sizes, fmt.Sprintf("%g mm", 0.8*mm), fmt.Sprintf("%g mm", 1.3*mm))
		}
		for _, size := range sizes {
			r, err := solve.Run(context.Background(), c.Document(size), solve.Options{EstimateWithin: -1})
			require.NoError(t, err)
			q := r.Readings[0]
			if q.Error == nil {
				continue
			}
			// Shown and SI values differ by a factor or a zero point only.
			truth := math.Abs(q.Shown.Value - c.Reference)
			stated := *q.Error * factor(q.Value, q.Shown.Value)
			all++
			if truth <= stated {
				held++
			} else {
				fmt.Fprintf(&report, "%s, %s: error %.3g, stated %.3g\n", c.Name, size, truth, stated)
			}
			assert.Less(t, stated, 0.5*math.Abs(c.Reference), "an estimate that says nothing: %s, %s", c.Name, size)
		}
	}
	require.Greater(t, all, 40)
	assert.GreaterOrEqual(t, float64(held), 0.9*float64(all), "%d of %d\n%s", held, all, &report)
	t.Logf("the true error lies within the stated one in %d of %d readings\n%s", held, all, &report)
}

// factor is the ratio of the unit shown to SI where it is not a shifted one.
func factor(si, shown float64) float64 {
	if si == 0 || math.Abs(shown-si) < 300 && math.Abs(si-shown-273.15) < 1e-6 {
		return 1
	}
	return math.Abs(shown / si)
}
