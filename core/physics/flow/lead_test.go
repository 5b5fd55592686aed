package flow

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/fem"
	"saltkettle/core/physics/flow/eddy"
)

// TestWayOfOneViscosity: energy and rate are turned into the viscosity that moves as much, which is nothing at walls, and back: where
// there is shear as much energy arises as decays, elsewhere the rate stays.
func TestWayOfOneViscosity(t *testing.T) {
	k, g := swirling(t, true, false, true, 0)
	s := g.System
	at := &fem.State{U: make([]float64, s.N)}
	const shear, moves = 40., 3e-4 // 1/s, m²/s
	for v := range int32(s.Grid.NodeCount()) {
		at.U[s.Equation(0, 0, v)] = shear * s.Grid.At(v)[1]
	}
	const slow = 0.1 // 1/s
	k.eachEddy(func(v, energy, rate int32) {
		at.U[energy], at.U[rate] = moves*slow, math.Log(slow*max(k.eddies.away[v], leastAway))
	})
	k.problem.Thin, k.friction.fastest = 1e-6, 100
	require.IsType(t, energyAndRate{}, k.spreading)
	held, ok := k.Lead(at)
	require.True(t, ok)
	require.IsType(t, leading{}, k.spreading)
	walls := 0
	k.eachEddy(func(v, energy, _ int32) {
		if k.eddies.away[v] == 0 {
			walls++
			assert.Contains(t, held, energy)
			assert.Zero(t, at.U[energy])
			return
		}
		moved, _ := eddy.Viscosity(at.U[energy], k.problem.Thin, 0)
		assert.InEpsilon(t, moves, moved, 1e-6)
	})
	assert.Len(t, held, walls)

	require.NoError(t, k.Follow(at))
	require.IsType(t, energyAndRate{}, k.spreading)
	k.eachEddy(func(v, energy, rate int32) {
		d := k.eddies.away[v]
		if d == 0 {
			return
		}
		omega := math.Exp(at.U[rate]) / d
		assert.InEpsilon(t, shear/math.Sqrt(eddy.Decay), omega, 1e-6)
		assert.InEpsilon(t, moves*shear*shear, eddy.Decay*at.U[energy]*omega, 1e-6, "as much arises as decays")
	})
	k.problem.Transient = true
	_, ok = k.Lead(at)
	assert.False(t, ok, "in time it goes on from where it is")
}
