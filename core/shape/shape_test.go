package shape

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestOutlines(t *testing.T) {
	r, err := Rectangle(0.104, 0.072)
	require.NoError(t, err)
	assert.Equal(t, []string{"front", "right", "back", "left"}, r.Sides())
	assert.InEpsilon(t, 0.104*0.072, r.Area(), 1e-14)
	d, err := Disc(0.02)
	require.NoError(t, err)
	assert.InEpsilon(t, math.Pi*1e-4, d.Area(), 1e-14)
	moved := d.Move(1, 2, 0.3)
	assert.InEpsilon(t, math.Pi*1e-4, moved.Area(), 1e-9)
	lo, hi := moved.Box()
	assert.InDelta(t, 0.99, lo.X, 2e-5)
	assert.InDelta(t, 2.01, hi.Y, 2e-5)
	_, err = Rectangle(0, 1)
	assert.Error(t, err)
	_, err = Disc(-1)
	assert.Error(t, err)
}

func TestTurningMovesNamedEdges(t *testing.T) {
	r, _ := Rectangle(2, 1)
	turned := r.Move(5, 0, math.Pi/2)
	right := turned.Loops[0][1]
	require.Equal(t, "right", right.Name)
	// The right side of a part turned left by 90° lies at the greatest y.
	assert.InDelta(t, 1, right.From.Y, 1e-15)
	assert.InDelta(t, 1, right.To.Y, 1e-15)
}

func TestChordsLieOnTheArc(t *testing.T) {
	d, _ := Disc(2)
	moved := d.Move(3, 4, 0)
	n := 0
	for _, e := range moved.Loops[0] {
		for _, p := range e.Chords(0.05) {
			assert.InDelta(t, 1, math.Hypot(p.X-3, p.Y-4), 1e-12)
			n++
		}
	}
	assert.Equal(t, 128, n, "as many chords as the step asks for, quarter by quarter")
}
