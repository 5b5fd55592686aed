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
