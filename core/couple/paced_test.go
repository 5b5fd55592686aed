package couple

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"saltkettle/core/sparse"
)

// TestHowLongStepsAre: they grow where nothing hinders them, stay where a part of one was made, and get shorter where that was small
// or led away, but never too short to leave a wake behind; where friction is carried along they stay short until a solution is near.
func TestHowLongStepsAre(t *testing.T) {
	p := &pacing{set: &Paced{}, part: 1}
	p.last.Status = sparse.Converged
	assert.Equal(t, 100*leastPace, p.longer(100, 1, 2), "also as the residual rises")
	assert.Equal(t, 300., p.longer(100, 3, 1))
	assert.Equal(t, 100*growPace, p.longer(100, 1e3, 1))
	p.last.Iterations = patient + 1
	assert.Equal(t, 100., p.longer(100, 1e3, 1))
	p.last.Iterations, p.part = 1, 0.5
	assert.Equal(t, 100., p.longer(100, 1e3, 1))
	p.part = 0.125
	assert.Equal(t, 100*shorter, p.longer(100, 1e3, 1))
	p.away = true
	assert.Equal(t, 100*shortest, p.longer(100, 1e3, 1))
	assert.Equal(t, fewestCells, p.longer(fewestCells, 1e3, 1))
	p.away, p.part = false, 1
	p.last.Status = sparse.LimitReached
	assert.Equal(t, 100*shortest, p.longer(100, 1e3, 1))

	p.last.Status, p.set.Carried = sparse.Converged, []int{2}
	assert.Equal(t, boldest, p.longer(150, 10, 1))
	assert.InEpsilon(t, 10*boldest, p.longer(1e3, 1e-5, certain/10), 1e-12)
}
