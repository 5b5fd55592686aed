package flow

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/law/lawtest"
	"saltkettle/core/mesh"
	"saltkettle/core/shape"
)

// basin is a round part, in space or as a section.
func basin(t *testing.T, flat bool) *mesh.Mesh {
	t.Helper()
	o, err := shape.Disc(0.04)
	require.NoError(t, err)
	m, err := mesh.NewStack([]mesh.StackBody{{Body: shape.Body{Outline: o.Move(0.05, 0, 0), Z1: 0.01}, Size: 0.012, Across: 1}}, &mesh.StackSettings{Flat: flat})
	require.NoError(t, err)
	return m
}

// TestTangents: the derivatives of all terms are those that differences show, in sections, round an axis and in
// space, with what depends on the temperature, in time, and at openings of both kinds with the stream either way.
func TestTangents(t *testing.T) {
	for name, c := range map[string]struct{ flat, round, stable bool }{"plane": {true, false, false}, "round": {true, true, false}, "space": {false, false, false}, "space of order 1": {false, false, true}} {
		m := basin(t, c.flat)
		n := 3
		if c.flat {
			n = 2
		}
		var outside []int32
		for k, f := range m.Facets {
			if f.Other < 0 {
				outside = append(outside, int32(k))
			}
		}
		for _, total := range []bool{false, true} {
			p := &Problem{Dimension: n, Round: c.round, Transient: true, Stable: c.stable, Bodies: map[int32]Body{0: {
				Density: lawtest.Of(t, "1000 kg/m³*(1 - 4e-4 1/K*(temperature - 300 K))"), Viscosity: lawtest.Of(t, "1e-3 Pa·s*exp(-0.02 1/K*(temperature - 300 K))"),
				Capacity: lawtest.Of(t, "4000 J/(kg·K)"), Reference: 1000,
				Thins:  &Thinning{Fast: lawtest.Of(t, "2e-4 Pa·s"), Time: lawtest.Of(t, "0.7 s"), Exponent: lawtest.Of(t, "0.6")},
				Matrix: &Matrix{Permeability: lawtest.Of(t, "1e-5 m²"), Inertia: lawtest.Of(t, "30 1/m")}}},
				Openings: []Opening{{Facets: outside, Pressure: lawtest.Of(t, "12 Pa + 3 Pa*x/1 m"), Total: total}}}
			if c.stable { // τ follows the friction, but not in its derivatives
				b := p.Bodies[0]
				b.Thins = nil
				p.Bodies[0] = b
			}
			p.Gravity = [3]Law{lawtest.Of(t, "1 m/s²"), lawtest.Of(t, "-9 m/s²"), lawtest.Of(t, "2 m/s²")}
			fields := []couple.Field{{Name: "temperature"}, {Name: "velocity", Components: n, Changes: true}, {Name: "pressure", Order: 1, Multiplier: true}}
			g, err := couple.New(m, 1, fields, &couple.Settings{Order: 2, Facets: outside})
			require.NoError(t, err)
			k := NewKernel(g, p, 1, 0, true)
			k.Keep(true)
			for _, way := range []float64{1, -1} {
				at := fem.Point{X: [3]float64{0.05, 0.004, 0.002}, Normal: [3]float64{0.6, 0.8, 0}, U: []float64{310}, Grad: [][3]float64{{3, -2, 1}}, Rate: []float64{0},
					Inverse: [3][3]float64{{300, 20, -10}, {-30, 240, 5}, {0, 15, 500}}}
				for i := range n + 1 {
					at.U = append(at.U, way*(0.3+0.1*float64(i)))
					at.Grad = append(at.Grad, [3]float64{0.2 * float64(i), 1 - float64(i), 0.3})
					at.Rate = append(at.Rate, 0.1*float64(i))
				}
				for _, side := range []int{-1, 0} {
					worst, what, err := fem.CheckTangent(k, &at, side)
					require.NoError(t, err)
					assert.Less(t, worst, 2e-4, "%s, total %v, side %d: %s", name, total, side, what)
				}
			}
		}
	}
}

// TestWhatAFlowTakesAlong: the supply is ρ·c·u with its derivatives.
func TestWhatAFlowTakesAlong(t *testing.T) {
	m := basin(t, true)
	p := &Problem{Dimension: 2, Bodies: map[int32]Body{0: {Density: formula.Fixed(1000), Viscosity: formula.Fixed(1e-3), Capacity: formula.Fixed(4000), Reference: 1000}}}
	g, err := couple.New(m, 1, []couple.Field{{Name: "velocity", Components: 2}, {Name: "pressure", Order: 1}}, &couple.Settings{Order: 2})
	require.NoError(t, err)
	k := NewKernel(g, p, 0, -1, false)
	at := fem.Point{U: []float64{0.2, -0.1, 5}, Grad: make([][3]float64, 3), Rate: make([]float64, 3)}
	require.NoError(t, k.Prepare(-1, []fem.Point{at}))
	j := couple.NewJet(3)
	k.Supply(couple.HeatStream, &at, j)
	assert.Equal(t, [3]float64{8e5, -4e5, 0}, j.Value)
	assert.Equal(t, 4e6, j.U[1][1])
	any, _ := k.SuppliesIn(couple.HeatStream, 0)
	assert.True(t, any)
	out := make([][]float64, derived)
	for d := range out {
		out[d] = make([]float64, 1)
	}
	at.Grad[0], at.Grad[1] = [3]float64{0, 3, 0}, [3]float64{1, 0, 0}
	require.NoError(t, k.Derive([]fem.Point{at}, out))
	assert.InDelta(t, 4, out[shear][0], 1e-12)
	assert.InDelta(t, -2, out[vortex][0], 1e-12)
	assert.InDelta(t, 5, out[pressure][0], 1e-12)
}

// TestWhereSidesMeetTheSameHolds: what comes in through a bent side is held in the order of the side, each time.
func TestWhereSidesMeetTheSameHolds(t *testing.T) {
	m := basin(t, true)
	d := &draft{Posing: &frame.Posing{Site: &frame.Site{Mesh: m}}, problem: Problem{Dimension: 2}}
	var outside []int32
	for k, f := range m.Facets {
		if f.Other < 0 {
			outside = append(outside, int32(k))
		}
	}
	first := d.byNormal(outside)
	require.Greater(t, len(first), 8)
	var all []int32
	for i, side := range first {
		all = append(all, side.facets...)
		assert.InDelta(t, 1, size(side.normal), 1e-6)
		if i > 0 {
			assert.Less(t, first[i-1].facets[0], side.facets[0])
		}
	}
	assert.ElementsMatch(t, outside, all)
}
