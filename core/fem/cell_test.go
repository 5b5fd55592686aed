package fem

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/mesh"
)

// TestStraightCells have one Jacobian, which is what each point of theirs has by itself; bent ones are seen to be bent.
func TestStraightCells(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 5))
	for form := mesh.Triangle; form < mesh.Forms; form++ {
		e := NewElement(form, 1)
		rule := NewRule(form, 3)
		g := &Grid{}
		nodes := make([]int32, e.Count())
		// Stretches by powers of two keep all digits, so that edges that are alike stay so.
		scale := [3]float64{2, 0.5, 4}
		for i, p := range e.Nodes {
			nodes[i] = int32(i)
			g.Nodes = append(g.Nodes, scale[0]*p[0]+0.25*p[1], scale[1]*p[1], scale[2]*p[2])
		}
		c := newCell(e, NewElement(form, 1), rule)
		c.load(g, nodes)
		require.True(t, c.straight, form)
		for q := range rule.Points {
			require.NoError(t, c.move(q))
			fast := *c
			c.known = false
			require.NoError(t, c.move(q))
			assert.InDeltaSlice(t, c.x[:], fast.x[:], 1e-14)
			assert.InDelta(t, c.weight, fast.weight, 1e-14)
			for k := range 3 {
				assert.InDeltaSlice(t, c.inverse[k][:], fast.inverse[k][:], 1e-14)
			}
		}
		if e.Count() == e.Dimension+1 {
			continue // a simplex is always straight
		}
		for i := range g.Nodes {
			if e.Dimension == 3 || i%3 < 2 {
				g.Nodes[i] += 0.05 * rng.Float64()
			}
		}
		c.load(g, nodes)
		assert.False(t, c.straight, form)
	}
}
