package model_test

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// plate is a model of one part with the given outline.
func plate(t *testing.T, o model.Outline) *model.Document {
	t.Helper()
	doc := model.New("plate")
	id, err := doc.AddPart(o.Kind)
	require.NoError(t, err)
	doc.Parts[0].Outline = o
	doc.Enumerate()
	set(t, doc, "parts/"+id+"/material", "copper", "parts/"+id+"/span/from", "0 mm", "parts/"+id+"/span/to", "2 mm", "mesh/size", "3 mm")
	held, err := doc.AddSentence(physics.Catalog(), "heat.held", model.Patch{Part: id, Side: "top"})
	require.NoError(t, err)
	set(t, doc, "conditions/"+held+"/values/temperature", "20 °C")
	return doc
}

func TestOutlineKinds(t *testing.T) {
	point := func(x, y, round string) model.Point { return model.Point{X: x, Y: y, Round: round} }
	triangle := []model.Point{point("0 mm", "0 mm", ""), point("30 mm", "0 mm", ""), point("0 mm", "20 mm", "")}
	for area, o := range map[float64]model.Outline{
		800:                   {Kind: "rectangle", Width: "40 mm", Depth: "20 mm"},
		800 - (4-math.Pi)*9:   {Kind: "rectangle", Width: "40 mm", Depth: "20 mm", Round: "3 mm"},
		800 - 18:              {Kind: "rectangle", Width: "40 mm", Depth: "20 mm", Chamfer: "3 mm"},
		25 * math.Pi:          {Kind: "disc", Diameter: "10 mm"},
		math.Pi * (900 - 400): {Kind: "ring", Diameter: "60 mm", Inner: "40 mm"},
		math.Pi * 500 / 4:     {Kind: "sector", Diameter: "60 mm", Inner: "40 mm", Angle: "90 deg"},
		400 + math.Pi*100:     {Kind: "slot", Width: "40 mm", Depth: "20 mm"},
		600:                   {Kind: "polygon", Sides: "4", Width: "sqrt(600 mm²)"},
		300:                   {Kind: "path", Points: triangle},
		50 * 4:                {Kind: "strip", Width: "4 mm", Points: []model.Point{point("0 mm", "0 mm", ""), point("30 mm", "0 mm", ""), point("30 mm", "20 mm", "")}},
		600 - 3*math.Pi:       {Kind: "rectangle", Width: "30 mm", Depth: "20 mm", Holes: []model.Hole{{Outline: model.Outline{Kind: "disc", Diameter: "2 mm"}, X: "1 mm", Array: &model.Array{Count: "3", Along: "x", Within: "20 mm", Centred: true}}}},
	} {
		r, findings := check(plate(t, o))
		assert.Empty(t, findings, o.Kind)
		require.Len(t, r.Bodies, 1)
		assert.InEpsilon(t, area, r.Bodies[0].Outline.Area()*1e6, 1e-9, o.Kind)
	}
	for words, o := range map[string]model.Outline{
		"the inner diameter of the part 1 has not been given":      {Kind: "ring", Diameter: "60 mm"},
		"a ring needs an outer diameter greater than its inner":    {Kind: "ring", Diameter: "60 mm", Inner: "70 mm"},
		"the number of sides of the part 1 must be a whole number": {Kind: "polygon", Sides: "4.5", Width: "3 mm"},
		"there is no outline \"blob\"":                             {Kind: "blob"},
		"a path needs three points or more":                        {Kind: "path", Points: triangle[:2]},
		"x of point 2 of the part 1 \"1 s\" is a time":             {Kind: "path", Points: []model.Point{triangle[0], point("1 s", "0 mm", ""), triangle[2]}},
		"hole 1 does not lie inside the outline":                   {Kind: "disc", Diameter: "9 mm", Holes: []model.Hole{{Outline: model.Outline{Kind: "disc", Diameter: "2 mm"}, X: "10 mm"}}},
		"a hole cannot have holes":                                 {Kind: "disc", Diameter: "9 mm", Holes: []model.Hole{{Outline: model.Outline{Kind: "disc", Diameter: "5 mm", Holes: []model.Hole{{Outline: model.Outline{Kind: "disc", Diameter: "2 mm"}}}}}}},
		"cannot lie along z":                                       {Kind: "disc", Diameter: "9 mm", Holes: []model.Hole{{Outline: model.Outline{Kind: "disc", Diameter: "2 mm"}, Array: &model.Array{Count: "2", Along: "z", Pitch: "1 mm"}}}},
		"the corners do not fit":                                   {Kind: "rectangle", Width: "4 mm", Depth: "2 mm", Round: "3 mm"},
	} {
		doc := plate(t, model.Outline{Kind: "disc", Diameter: "9 mm"})
		doc.Parts[0].Outline = o
		doc.Enumerate()
		_, findings := check(doc)
		assert.Contains(t, strings.Join(findings, "\n"), words)
	}
}

func TestRoundArraysAndMirrors(t *testing.T) {
	doc := plate(t, model.Outline{Kind: "rectangle", Width: "4 mm", Depth: "2 mm"})
	doc.Parts[0].Array = &model.Array{Count: "6", Pitch: "60 deg", Along: "round", X: "10 mm"}
	set(t, doc, "parts/p1/place/x", "30 mm", "parts/p1/place/turn", "10 deg")
	r, findings := check(doc)
	assert.Empty(t, findings)
	require.Len(t, r.Bodies, 6)
	for k, b := range r.Bodies {
		lo, hi := b.Outline.Box()
		sin, cos := math.Sincos(math.Pi / 3 * float64(k))
		assert.InDelta(t, 0.01+0.02*cos, (lo.X+hi.X)/2, 1e-12)
		assert.InDelta(t, 0.02*sin, (lo.Y+hi.Y)/2, 1e-12)
		assert.InEpsilon(t, 8e-6, b.Outline.Area(), 1e-12)
	}
	set(t, doc, "parts/p1/array/pitch", "3 mm")
	_, findings = check(doc)
	contains(t, findings, "is a length, where an angle is wanted")

	doc = plate(t, model.Outline{Kind: "sector", Diameter: "20 mm", Inner: "0 mm", Angle: "60 deg"})
	set(t, doc, "parts/p1/place/mirror", "true")
	r, _ = check(doc)
	lo, hi := r.Bodies[0].Outline.Box()
	assert.InDelta(t, -0.01, lo.X, 1e-5)
	assert.InDelta(t, 0, hi.X, 1e-12)
	assert.Equal(t, "part 1, mirrored: none → yes", model.DiffWords(model.Diff(plate(t, doc.Parts[0].Outline), doc, physics.Catalog())))
}

// TestEditingOutlines: points and holes come and go, and a copy of a part has its
// own.
func TestEditingOutlines(t *testing.T) {
	doc := model.New("bar")
	id, err := doc.AddPart("rectangle")
	require.NoError(t, err)
	set(t, doc, "parts/p1/outline/kind", "path")
	at := "parts/" + id + "/outline"
	require.Len(t, doc.Parts[0].Outline.Points, 3)
	place, err := doc.AddPoint(at + "/points/1")
	require.NoError(t, err)
	assert.Equal(t, at+"/points/4/x", place, "the others keep their numbers")
	set(t, doc, place, "4 mm", at+"/points/4/round", "1 mm")
	assert.Equal(t, "4 mm", doc.Parts[0].Outline.Points[1].X)
	require.NoError(t, doc.RemoveItem(at+"/points/1"))
	assert.Equal(t, model.Point{ID: "4", X: "4 mm", Round: "1 mm"}, doc.Parts[0].Outline.Points[0])
	hole, err := doc.AddHole(id, "slot")
	require.NoError(t, err)
	require.NoError(t, doc.SetHoleArray(hole, true))
	set(t, doc, hole+"/width", "8 mm", hole+"/x", "2 mm", hole+"/array/count", "4", hole+"/array/along", "y")
	name, err := doc.Lift(hole + "/width")
	require.NoError(t, err)
	assert.Equal(t, name, doc.Parts[0].Outline.Holes[0].Width)
	copied, err := doc.DuplicatePart(id)
	require.NoError(t, err)
	set(t, doc, "parts/"+copied+"/outline/holes/1/width", "9 mm", "parts/"+copied+"/outline/points/4/x", "5 mm", "parts/"+copied+"/outline/holes/1/array/count", "7")
	first := doc.Parts[0].Outline
	assert.Equal(t, []string{name, "4 mm", "4"}, []string{first.Holes[0].Width, first.Points[0].X, first.Holes[0].Array.Count})
	require.NoError(t, doc.RemoveItem(hole))
	assert.Empty(t, doc.Parts[0].Outline.Holes)
	var gone *model.GoneError
	for _, err := range []error{doc.RemoveItem(hole), doc.RemoveItem(at + "/points/9"), doc.SetHoleArray(at, true), doc.Set(at+"/points/9/x", "1"), doc.Set(hole+"/width", "1")} {
		assert.ErrorAs(t, err, &gone)
	}
	assert.Error(t, doc.Set(at+"/kind", "blob"))
	again, err := model.Parse(doc.Bytes())
	require.NoError(t, err)
	assert.Equal(t, doc.Bytes(), again.Bytes())
}

// TestRoomier: an outline round other parts lies twice as far from them, and as far again where it touches them.
func TestRoomier(t *testing.T) {
	d := model.New("yard")
	d.Space, d.Physics, d.Mesh.Size = model.Space{Kind: model.Plane, Unit: "mm", Depth: "1 m"}, nil, "5 mm"
	d.Conditions = []model.Sentence{{ID: "c1", Kind: "flow.flows", On: model.Patch{Part: "air"}}, {ID: "c2", Kind: "flow.stream", On: model.Patch{Part: "air", Side: "*"}, Values: map[string]string{"x": "1 m/s"}}}
	d.Parts = []model.Part{
		{ID: "air", Name: "air", Material: "air", Role: model.Solved, Outline: model.Outline{Kind: "box-around", Left: "room", Right: "3*room", Front: "0 mm", Back: "room + 1 mm"}},
		{ID: "post", Name: "post", Material: "copper", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "10 mm", Depth: "20 mm"}}}
	d.Parameters = []model.Parameter{{Name: "room", Value: "5 mm"}}
	box := func() (lo, hi [2]float64) {
		r, findings := model.Resolve(d, physics.Catalog())
		require.NotNil(t, r, findings)
		l, h := r.Parts[0].Outline.Box()
		return [2]float64{l.X, l.Y}, [2]float64{h.X, h.Y}
	}
	lo, hi := box()
	assert.InDeltaSlice(t, []float64{-10e-3, -10e-3, 20e-3, 16e-3}, []float64{lo[0], lo[1], hi[0], hi[1]}, 1e-12)
	require.True(t, d.Parts[0].Outline.Around())
	require.False(t, d.Parts[1].Outline.Around())
	d.Parts[0].Outline.Roomier()
	lo, hi = box()
	assert.InDeltaSlice(t, []float64{-15e-3, -10e-3, 35e-3, 22e-3}, []float64{lo[0], lo[1], hi[0], hi[1]}, 1e-12)
}
