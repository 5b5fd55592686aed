package fem

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"saltkettle/core/mesh"
)

// TestPeaks: the greatest value of a parabola lies between the nodes, on an edge or at a corner, and is
// found there.
func TestPeaks(t *testing.T) {
	for form := range mesh.Form(mesh.Forms) {
		e := NewElement(form, 2)
		inside := map[int][3]float64{1: {0.2}, 2: {0.3, 0.21}, 3: {0.22, 0.31, 0.17}}[e.Dimension]
		field := func(top [3]float64) []float64 {
			values := make([]float64, e.Count())
			for i, p := range e.Nodes {
				values[i] = 7
				for d := range e.Dimension {
					values[i] -= float64(d+1) * (p[d] - top[d]) * (p[d] - top[d])
				}
			}
			return values
		}
		at, value := e.Peak(field(inside))
		assert.InDelta(t, 7, value, 1e-6, form)
		for d := range e.Dimension {
			assert.InDelta(t, inside[d], at[d], 1e-3, form)
		}
		// A top outside the cell: the greatest value is on its boundary, and no node is higher.
		values := field([3]float64{3, 3, 3})
		_, value = e.Peak(values)
		most := math.Inf(-1)
		for _, v := range values {
			most = max(most, v)
		}
		assert.GreaterOrEqual(t, value, most, form)
		assert.Less(t, value, 7.0, form)
	}
}
