package couple

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestRelaxation: turns that would run away by themselves, or creep, come to their end.
func TestRelaxation(t *testing.T) {
	for name, slope := range map[string]float64{"runs away": -1.8, "swings": -0.95, "creeps": 0.9, "at once": 0} {
		x, turns := []float64{5, -3}, 0
		var r Relaxation
		for ; turns < 60; turns++ {
			// The fixed point is (2, 2/3).
			out := []float64{2 + slope*(x[0]-2), 2./3 + slope*(x[1]-2./3)}
			if r.Next(x, out) < 1e-12 {
				break
			}
		}
		assert.Less(t, turns, 60, name)
		assert.InDelta(t, 2, x[0], 1e-9, name)
		assert.InDelta(t, 2./3, x[1], 1e-9, name)
	}
}

func TestApart(t *testing.T) {
	single, turns := Apart([][]int{{2}, {0, 1}, {3}})
	assert.Equal(t, [][]int{{2}, {0}, {1}, {3}}, single)
	assert.Equal(t, [][2]int{{1, 2}}, turns)
}

// TestAlong: what holds a node is divided between the directions in which it is held; one that
// follows from others gets nothing, and what no direction has is left out.
func TestAlong(t *testing.T) {
	slant := [3]float64{math.Sqrt(0.5), math.Sqrt(0.5), 0}
	parts := along([][3]float64{{1, 0, 0}, slant}, [3]float64{3, 2, 7})
	assert.InDeltaSlice(t, []float64{1, 0, 0}, parts[0][:], 1e-12)
	assert.InDeltaSlice(t, []float64{2, 2, 0}, parts[1][:], 1e-12)
	parts = along([][3]float64{{1, 0, 0}, {1, 0, 0}, {0, 1, 0}}, [3]float64{3, 2, 0})
	assert.InDeltaSlice(t, []float64{3, 0, 0}, parts[0][:], 1e-12)
	assert.Equal(t, [3]float64{}, parts[1])
	assert.InDeltaSlice(t, []float64{0, 2, 0}, parts[2][:], 1e-12)
}
