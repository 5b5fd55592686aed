package model_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
)

func measured(t *testing.T, doc *model.Document, a model.Patch, b *model.Patch) *model.Measured {
	t.Helper()
	var second *model.Picked
	if b != nil {
		second = &model.Picked{On: *b, At: [3]float64{0.03, 0.04, 0}}
	}
	m, err := model.Measure(doc, physics.Catalog(), model.Picked{On: a}, second)
	require.NoError(t, err)
	return m
}

func TestMeasuring(t *testing.T) {
	doc := load(t, "pan-floor")
	top, bottom := model.Patch{Part: "floor", Side: "top"}, model.Patch{Part: "floor", Side: "bottom"}
	one := measured(t, doc, top, nil)
	assert.InEpsilon(t, 0.104*0.072, one.Area, 1e-12)
	assert.InEpsilon(t, 0.104*0.072*0.005, one.Volume, 1e-12)

	thick := measured(t, doc, top, &bottom)
	assert.True(t, thick.Parallel)
	assert.InDelta(t, 0.005, thick.Distance, 1e-12)
	assert.Equal(t, "t", thick.Parameter, "the parameter is what was measured")
	side := model.Patch{Part: "floor", Side: "left"}
	corner := measured(t, doc, top, &side)
	assert.InDelta(t, math.Pi/2, corner.Angle, 1e-12)
	assert.InDelta(t, 0.05, corner.Distance, 1e-12, "from place to place")

	// The width of the brick is one number; its height over the rods two.
	right := model.Patch{Part: "brick", Side: "right"}
	wide := measured(t, doc, model.Patch{Part: "brick", Side: "left"}, &right)
	assert.InDelta(t, 0.104, wide.Distance, 1e-12)
	assert.Equal(t, "parts/brick/outline/width", wide.Control)
	under := model.Patch{Part: "brick", Side: "bottom"}
	both := measured(t, doc, model.Patch{Part: "brick", Side: "top"}, &under)
	assert.Empty(t, both.Control, "its top and its bottom are two numbers")
	// From rod to rod it is the pitch.
	other := model.Patch{Part: "rod", Side: "front", Copy: 2}
	pitch := measured(t, doc, model.Patch{Part: "rod", Side: "front", Copy: 1}, &other)
	assert.InDelta(t, 0.013, pitch.Distance, 1e-12)
	assert.Equal(t, "pitch", pitch.Parameter)

	post := load(t, "testdata/solid-post")
	rim := measured(t, post, model.Patch{Part: post.Parts[1].ID, Side: "rim"}, nil)
	assert.False(t, rim.Flat)
	assert.Positive(t, rim.Radius)
	r, _ := model.Resolve(post, physics.Catalog())
	assert.InEpsilon(t, 2*math.Pi*rim.Radius*(r.Parts[1].Z1-r.Parts[1].Z0), rim.Area, 2e-3)
	_, err := model.Measure(doc, physics.Catalog(), model.Picked{On: model.Patch{Part: "floor", Side: "rim"}}, nil)
	var gone *model.GoneError
	assert.ErrorAs(t, err, &gone)
}
