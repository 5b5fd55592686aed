package shape

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestLineWithAnArc: a corner of 90° with a radius R is shorter by 2R − πR/2, and the middle of its arc is R(√2 − 1) from the corner.
func TestLineWithAnArc(t *testing.T) {
	l, err := NewLine([]LinePoint{{"start", [3]float64{0, 0, 0}, 0}, {"point 2", [3]float64{3, 0, 0}, 0.5}, {"end", [3]float64{3, 0, 2}, 0}})
	require.NoError(t, err)
	assert.InDelta(t, math.Pi/2, l.Turn(1), 1e-12)
	assert.InDelta(t, 5-1+math.Pi/4, l.Length(), 1e-12)
	for _, s := range l.Stations() {
		switch s.Point {
		case 1:
			assert.InDelta(t, 0.5*(math.Sqrt2-1), Apart(s.At, l.Points[1].At), 1e-12)
		case -1: // on the arc or at its ends
			assert.InDelta(t, 0.5, Apart(s.At, [3]float64{2.5, 0, 0.5}), 1e-12)
		}
	}
	tube, nearest := l.Tube(0.05, 0)
	assert.Len(t, nearest, len(tube.Triangles))
	area := 10 * 0.5 * 0.05 * 0.05 * math.Sin(2*math.Pi/10)
	assert.InEpsilon(t, area*l.Length(), tube.Volume(), 0.01, "closed, and turned outwards")
}

func TestLinesThatCannotBe(t *testing.T) {
	at := func(x ...float64) (list []LinePoint) {
		for _, x := range x {
			list = append(list, LinePoint{At: [3]float64{x, 0, 0}})
		}
		return list
	}
	_, err := NewLine(at(1))
	assert.ErrorContains(t, err, "two points")
	_, err = NewLine(at(1, 2, 2))
	assert.ErrorContains(t, err, "points 2 and 3")
	bent := at(0, 1, 1)
	bent[2].At[1], bent[1].Round = 1, 2
	_, err = NewLine(bent)
	assert.ErrorContains(t, err, "take more than the way")
}
