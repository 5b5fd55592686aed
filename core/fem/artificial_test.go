package fem

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestPeriodOfASwing is found from steps of any length, and none of what dies away.
func TestPeriodOfASwing(t *testing.T) {
	swings, dies := &passing{}, &passing{}
	for i, at := 0, 0.0; i < 120; i++ {
		at += 0.11 + 0.05*math.Sin(float64(i))
		swings.times, swings.signal = append(swings.times, at), append(swings.signal, 3+math.Sin(2*math.Pi*at/1.7))
		dies.times, dies.signal = append(dies.times, at), append(dies.signal, math.Exp(-at))
	}
	assert.InEpsilon(t, 1.7, swings.period(), 0.02)
	assert.Zero(t, dies.period())
}
