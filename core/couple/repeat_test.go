package couple

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestPartners are those that lie a way farther on, to within a millionth of it, and no others.
func TestPartners(t *testing.T) {
	others := []float64{0, 0, 0, 1, 0, 0, 1, 1e-9, 5, 2, 0, 0}
	assert.Equal(t, []int32{1, 3, -1}, Partners([]float64{0, 0, 0, 1, 1e-8, 0, 0, 1e-3, 0}, others, [3]float64{1, 0, 0}))
	assert.Equal(t, []int32{2}, Partners([]float64{0, 0, 0}, others, [3]float64{1, 0, 5}))
}
