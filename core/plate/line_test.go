package plate

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestValuesAlongALine: straight and square ones to round-off by the order of the cells, none where
// there is nothing.
func TestValuesAlongALine(t *testing.T) {
	for order := 1; order <= 2; order++ {
		f := fields(t, false, order)
		straight := of(f, func(x, y, z float64) float64 { return 3 + 20*x - 10*y + 5*z })
		square := of(f, func(x, _, z float64) float64 { return 1e4 * (x*x - z*z) })
		l := Line{From: [3]float64{-0.035, 0.003, 0.004}, To: [3]float64{0.035, -0.001, 0.009}}
		far, values := NewInside(f).Along(l, 141, straight, square)
		require.Len(t, far, 141)
		assert.InDelta(t, l.Length(), far[140], 1e-15)
		for i := range far {
			x := l.At(float64(i) / 140)
			if math.Abs(x[0]) > 0.03+1e-9 {
				assert.True(t, math.IsNaN(values[0][i]), "beside the box")
				continue
			}
			assert.InDelta(t, 3+20*x[0]-10*x[1]+5*x[2], values[0][i], 1e-9)
			assert.InDelta(t, 1e4*(x[0]*x[0]-x[2]*x[2]), values[1][i], map[int]float64{1: 0.5, 2: 1e-4}[order]) // cells are curved below the rim
		}
	}
	flat := fields(t, true, 2)
	_, values := NewInside(flat).Along(Line{From: [3]float64{0, -0.02, 0}, To: [3]float64{0, 0.02, 0}}, 11, of(flat, func(_, y, _ float64) float64 { return y * y }))
	assert.InDelta(t, 4e-4, values[0][10], 1e-12)
}

// TestWaysGoRoundAndAlong: circles and paths have their lengths and pass where they should.
func TestWaysGoRoundAndAlong(t *testing.T) {
	n := 1 / math.Sqrt(3)
	for _, round := range [][3]float64{{0, 0, 1}, {1, 0, 0}, {n, n, n}} {
		c := Circle{Middle: [3]float64{0.01, -0.02, 0.03}, Round: round, Radius: 0.02}
		assert.InDelta(t, 2*math.Pi*0.02, c.Length(), 1e-15)
		for _, part := range []float64{0, 0.2, 0.5, 0.9} {
			arm := minus(c.At(part), c.Middle)
			assert.InDelta(t, 0.02, math.Sqrt(dot(arm, arm)), 1e-15)
			assert.InDelta(t, 0, dot(arm, round), 1e-15)
		}
		// It turns to the left about its direction.
		turned := cross(minus(c.At(0), c.Middle), minus(c.At(0.1), c.Middle))
		assert.Positive(t, dot(turned, round))
		first, last := c.At(0), c.At(1)
		assert.InDeltaSlice(t, first[:], last[:], 1e-15)
	}
	p := NewPath([][3]float64{{0, 0, 0}, {3, 0, 0}, {3, 0, 0}, {3, 4, 0}})
	assert.InDelta(t, 7, p.Length(), 1e-15)
	assert.Equal(t, [3]float64{1.5, 0, 0}, p.At(1.5/7))
	end := p.At(5. / 7)
	assert.InDeltaSlice(t, []float64{3, 2, 0}, end[:], 1e-12)
	assert.Equal(t, [3]float64{3, 4, 0}, p.At(1))
	ball := Round([3]float64{1, 2, 3}, 0.5, 40)
	require.Len(t, ball, 40)
	assert.Equal(t, [3]float64{1, 2, 3}, ball[0])
	var middle [3]float64
	for _, x := range ball {
		far := minus(x, ball[0])
		assert.LessOrEqual(t, math.Sqrt(dot(far, far)), 0.5+1e-12)
		for d := range middle {
			middle[d] += x[d] / 40
		}
	}
	assert.InDeltaSlice(t, []float64{1, 2, 3}, middle[:], 0.06, "evenly about it")
}
