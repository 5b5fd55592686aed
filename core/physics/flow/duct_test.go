package flow

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/law/lawtest"
	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/shape"
)

// box is a part of 10 × 20 × 20 mm in space and its facets at one end.
func box(t *testing.T, size float64) (d *draft, end []int32) {
	t.Helper()
	o, err := shape.Rectangle(0.01, 0.02)
	require.NoError(t, err)
	m, err := mesh.NewStack([]mesh.StackBody{{Body: shape.Body{Outline: o, Z1: 0.02}, Size: size, Across: 1}}, nil)
	require.NoError(t, err)
	for k, f := range m.Facets {
		if m.Sides[f.Side] == "left" {
			end = append(end, int32(k))
		}
	}
	d = &draft{Posing: &frame.Posing{Site: &frame.Site{Mesh: m, Model: &model.Resolved{}}}, problem: Problem{Dimension: 3, Stable: true}, fluid: map[int32]bool{0: true},
		passes: map[int32]bool{}, free: map[int32]bool{}}
	for _, k := range end {
		d.passes[k] = true
	}
	return d, end
}

// TestDevelopedProfile of a square duct: nothing at walls, a mean of 1, and in the middle what the series has
// (F. M. White, Viscous Fluid Flow, 2006, section 3-3.3).
func TestDevelopedProfile(t *testing.T) {
	d, end := box(t, 0.001)
	profile, err := d.inSpace(end)
	require.NoError(t, err)
	assert.InEpsilon(t, 2.0962, profile([3]float64{-0.005, 0, 0.01}), 0.01)
	assert.Zero(t, profile([3]float64{-0.005, -0.01, 0.01}))
	sum, area := 0.0, 0.0
	for _, k := range end {
		_, a := d.normalOf(k)
		area += a
		corners := d.Mesh.Facets[k].Corners()
		for _, v := range corners {
			sum += a / float64(len(corners)) * profile([3]float64(d.Mesh.Nodes[3*v:3*v+3]))
		}
	}
	assert.InDelta(t, 4e-4, area, 1e-12)
	assert.InEpsilon(t, area, sum, 1e-9, "as much comes in as is said")

	even := d.evenly(end)
	require.NotNil(t, even)
	assert.Greater(t, even([3]float64{-0.005, 0, 0.01}), 1., "more in the middle for what walls hold")
	assert.Zero(t, even([3]float64{-0.005, 0.01, 0.01}))

	// With no wall but one beside it, it is half of a parabola between plates.
	for k, f := range d.Mesh.Facets {
		if name := d.Mesh.Sides[f.Side]; name == "top" || name == "bottom" || name == "back" {
			d.free[int32(k)] = true
		}
	}
	d.walled = nil
	profile, err = d.inSpace(end)
	require.NoError(t, err)
	for _, y := range []float64{-0.01, -0.004, 0.006, 0.01} {
		s := (0.01 - y) / 0.02
		assert.InDelta(t, 1.5*(1-s*s), profile([3]float64{-0.005, y, 0.01}), 0.01, "%g", y)
	}

	coarse, end := box(t, 0.02)
	_, err = coarse.inSpace(end)
	assert.ErrorContains(t, err, "make cells finer there")
}

// TestAslant tells surfaces that face along an axis from others.
func TestAslant(t *testing.T) {
	d, end := box(t, 0.005)
	assert.False(t, d.aslant(end))
	m := basin(t, false)
	d.Mesh = m
	var all []int32
	for k := range m.Facets {
		all = append(all, int32(k))
	}
	assert.True(t, d.aslant(all))
}

// TestFanRoundAnAxis: what comes in through a fan is counted all the way round, and a change of it elsewhere changes
// the equations as differences say.
func TestFanRoundAnAxis(t *testing.T) {
	m := basin(t, true) // from 30 to 70 mm off the axis
	var outside []int32
	for k, f := range m.Facets {
		if f.Other < 0 {
			outside = append(outside, int32(k))
		}
	}
	p := &Problem{Dimension: 2, Round: true, Bodies: map[int32]Body{0: {Density: formula.Fixed(1000), Viscosity: formula.Fixed(0.01), Reference: 1000}},
		Openings: []Opening{{Facets: outside, Pressure: lawtest.Of(t, "20 Pa - 4e3 Pa s²/m⁶*volume_flow^2"), Total: true, Fan: true}}}
	g, err := couple.New(m, 1, []couple.Field{{Name: "velocity", Components: 2}, {Name: "pressure", Order: 1}}, &couple.Settings{Order: 2, Facets: outside, Measure: fem.Around})
	require.NoError(t, err)
	k := NewKernel(g, p, 0, -1, false)
	require.True(t, k.Distant())
	s := g.System
	at := &fem.State{U: make([]float64, s.N)}
	// u = −0.1/s·(x − 50 mm): what comes in is 0.1/s·∫ ∂(r·(r − 50 mm))/∂r, over the volume.
	s.Interpolate(at.U, 0, 0, func(x [3]float64) float64 { return -0.1 * (x[0] - 0.05) })
	require.NoError(t, k.Survey(s, at))
	want := 0.0
	require.NoError(t, s.EachCell(at, nil, func(points []fem.Point, weights []float64) error {
		for i, w := range weights {
			r := points[i].X[0]
			want += w * 0.1 * (2*r - 0.05) / r
		}
		return nil
	}))
	assert.InEpsilon(t, want, k.fans[0].flow, 1e-9)

	change := make([]float64, s.N)
	for e := range change {
		change[e] = 1e-4 * math.Sin(float64(e))
	}
	linear := make([]float64, s.N)
	k.AddDistant(linear, change)
	force := func(by float64) (float64, *fan) {
		next := &fem.State{U: make([]float64, s.N)}
		for e := range next.U {
			next.U[e] = at.U[e] + by*change[e]
		}
		require.NoError(t, k.Survey(s, next))
		return k.fans[0].now, k.fans[0]
	}
	up, f := force(1)
	down, _ := force(-1)
	for e, area := range f.lets {
		require.InDelta(t, (up-down)/2*area, linear[e], 1e-9*(1+math.Abs(linear[e])))
	}
}
