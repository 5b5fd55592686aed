package fem

import (
	"math"
	"math/rand/v2"
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
		assert.GreaterOrEqual(t, e.Ceiling(values), value, form)
		most := math.Inf(-1)
		for _, v := range values {
			most = max(most, v)
		}
		assert.GreaterOrEqual(t, value, most, form)
		assert.Less(t, value, 7.0, form)
		// What is of order 1 rises to its corners alone; anything else no higher than its ceiling.
		for i, p := range e.Nodes {
			values[i] = p[0] - 2*p[1]
		}
		_, value = e.Peak(values)
		assert.InDelta(t, value, e.Ceiling(values), 1e-12, form)
		random := rand.New(rand.NewPCG(4, uint64(form)))
		for range 200 {
			for i := range values {
				values[i] = random.NormFloat64()
			}
			_, value = e.Peak(values)
			assert.GreaterOrEqual(t, e.Ceiling(values), value, form)
		}
	}
}
