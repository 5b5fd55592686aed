package web

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"saltkettle/app/jobs"
)

// TestHowManyStepsAreLeft: as many as it takes at the pace of the last ten; where they led nowhere nobody knows.
func TestHowManyStepsAreLeft(t *testing.T) {
	var history []jobs.Point
	for i := range 16 {
		r := 1.
		if i > 9 {
			r = history[i-1].Residual / 2
		}
		history = append(history, jobs.Point{Iteration: i + 1, Residual: r})
	}
	assert.InDelta(t, 28.76, stepsLeft(history), 0.01, "from 2⁻⁶ to 10⁻⁷ as by 2⁻⁶ in ten")
	assert.Zero(t, stepsLeft(history[:10]), "too few steps")
	assert.Zero(t, stepsLeft(history[:11]), "it has hardly begun to fall")
	history[15].Residual = 1e-8
	assert.Zero(t, stepsLeft(history), "it is there")
}
