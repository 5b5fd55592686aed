package flow

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/physics/flow/eddy"
)

// swirling is the turbulent flow in a basin whose rim is a wall, as rough as sand of a height.
func swirling(t *testing.T, flat, round, two bool, height float64) (*Kernel, *couple.Group) {
	t.Helper()
	m := basin(t, flat)
	n := 3
	if flat {
		n = 2
	}
	var rim []int32
	for k, f := range m.Facets {
		if f.Other < 0 && m.Sides[f.Side] == "rim" {
			rim = append(rim, int32(k))
		}
	}
	require.NotEmpty(t, rim)
	p := &Problem{Dimension: n, Round: round, Stable: true, Turbulent: true, Energy: two, Walls: rim, Stuck: rim, Rough: []Rough{{Facets: rim, Height: height}},
		Bodies: map[int32]Body{0: {Density: formula.Fixed(1000), Viscosity: formula.Fixed(1e-3), Capacity: formula.Fixed(4000), Conductivity: formula.Fixed(0.6), Reference: 1000}}}
	fields := []couple.Field{{Name: "velocity", Components: n}, {Name: "pressure"}, {Name: carried}}
	if two {
		fields = append(fields[:2], couple.Field{Name: energy}, couple.Field{Name: logDecay})
	}
	g, err := couple.New(m, 1, fields, &couple.Settings{Facets: rim})
	require.NoError(t, err)
	k := NewKernel(g, p, 0, -1, false)
	k.Keep(true)
	return k, g
}

// placed is a point in a cell, one of the first along the wall or not.
func placed(t *testing.T, k *Kernel, g *couple.Group, along bool) (out fem.Point) {
	t.Helper()
	found := false
	require.NoError(t, g.System.EachCell(&fem.State{U: make([]float64, g.System.N)}, nil, func(points []fem.Point, _ []float64) error {
		if l := k.layerAt(&points[0]); !found && l.along == along {
			found, out = true, points[0]
			n := len(out.U)
			out.U, out.Grad, out.Rate = make([]float64, n), make([][3]float64, n), make([]float64, n)
		}
		return nil
	}))
	require.True(t, found, "there is no such cell")
	return out
}

// TestDerivativesOfEddies: of what they add to friction, and of what carries them, by all that they depend on, at rest, where
// what stabilises takes no part.
func TestDerivativesOfEddies(t *testing.T) {
	for name, c := range map[string]struct{ flat, round bool }{"plane": {true, false}, "round": {true, true}, "space": {false, false}} {
		for _, height := range []float64{0, 1e-3} {
			for _, two := range []bool{false, true} {
				k, g := swirling(t, c.flat, c.round, two, height)
				for _, along := range []bool{true, false} {
					at := placed(t, k, g, along)
					at.Grad[0], at.Grad[1] = [3]float64{2, 30, 0}, [3]float64{-7, -2, 0}
					at.U[k.e], at.Grad[k.e] = 3e-4, [3]float64{1e-4, -3e-4, 0}
					if two {
						at.U[k.e], at.Grad[k.e] = 100, [3]float64{0.5, -2, 0} // so much that all is near a wall
						// What a slope of the rate carries along is stabilised, too: there is none.
						at.U[k.e+1], at.Grad[k.e+1] = 3, k.eddies.farther(&at)
						for i := range at.Grad[k.e+1] {
							at.Grad[k.e+1][i] /= k.layerAt(&at).away
						}
					}
					worst, what, err := fem.CheckTangent(k, &at, -1)
					require.NoError(t, err)
					assert.Less(t, worst, 5e-4, "%s, along the wall %v, energy %v: %s", name, along, two, what)
				}
			}
		}
	}
}

// TestFrictionInTheFirstCells: the shear in them times what they resist with is the friction of the law of the wall at their
// height, and heat passes as eddies carry it.
func TestFrictionInTheFirstCells(t *testing.T) {
	for _, height := range []float64{0, 1e-3} {
		k, g := swirling(t, true, false, false, height)
		at := placed(t, k, g, true)
		at.Grad[0] = [3]float64{0, 300, 0}
		require.NoError(t, k.Prepare(-1, []fem.Point{at}))
		r := k.rubs(&at, 0)
		l := r.layer
		require.True(t, l.along)
		friction := math.Sqrt(r.mu * 300 / 1000)
		assert.InEpsilon(t, friction, l.friction, 1e-6)
		units := l.height * friction / 1e-6
		assert.InEpsilon(t, eddy.Viscous.Speed(units, height*friction/1e-6), 300*l.height/friction, 1e-4)
		j := couple.NewJet(4)
		k.SpreadHeat(&at, j)
		assert.InEpsilon(t, 0.6*(eddy.Viscous.Conducts(units, 1e-6/(0.6/4e6), height*friction/1e-6)-1), j.Value[0], 1e-6)
		// Off the wall by the viscosity that is carried.
		at = placed(t, k, g, false)
		at.U[k.e] = 1e-4
		require.NoError(t, k.Prepare(-1, []fem.Point{at}))
		moves := k.rubs(&at, 0).mu/1000 - 1e-6
		j.Reset()
		k.Spread(&at, 1e-6, j)
		assert.InEpsilon(t, moves/eddy.Prandtl(moves/1e-6, 1), j.Value[0], 1e-9)
	}
}

// TestHowFarFromWalls: in the middle of a disc as far as it is wide, to within what its rim is cut off; at walls nothing.
func TestHowFarFromWalls(t *testing.T) {
	k, g := swirling(t, false, false, false, 0)
	grid := g.System.Grid
	for v := range grid.NodeCount() {
		x := grid.At(int32(v))
		off := 0.02 - math.Hypot(x[0]-0.05, x[1])
		if k.problem.Walls == nil {
			continue
		}
		assert.InDelta(t, off, k.eddies.away[v], 1.5e-3)
	}
	// Beside a line and off its ends, above a triangle and beside it.
	a, b, c := [3]float64{0, 0, 0}, [3]float64{2, 0, 0}, [3]float64{0, 2, 0}
	assert.Equal(t, [3]float64{1, 0, 0}, nearest([3]float64{1, 3, 0}, [][3]float64{a, b}))
	assert.Equal(t, b, nearest([3]float64{5, 1, 0}, [][3]float64{a, b}))
	assert.Equal(t, [3]float64{0.5, 0.5, 0}, nearest([3]float64{0.5, 0.5, 3}, [][3]float64{a, b, c}))
	assert.Equal(t, [3]float64{1, 1, 0}, nearest([3]float64{2, 2, 1}, [][3]float64{a, b, c}))
	assert.InDelta(t, 1, above([3]float64{0.5, 0.5, 3}, [][3]float64{a, b, c}), 1e-12)
	assert.InDelta(t, 0, above([3]float64{-3, 0.5, 0}, [][3]float64{a, b, c}), 1e-12)
}
