package model_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// TestLinesOfAllKinds: straight ones, circles and sides are evaluated with their stations and what is drawn
// besides; what is wrong is said where it stands.
func TestLinesOfAllKinds(t *testing.T) {
	doc, cat := trough(t), physics.Catalog()
	part := doc.Parts[0].ID
	id, err := doc.AddPlate(cat, "temperature")
	require.NoError(t, err)
	place, err := doc.AddLine(id, model.Line{Kind: model.Circle, FromZ: "2 mm", Radius: "5 mm", Count: "3", ByX: "1 mm", Also: "heat flux"})
	require.NoError(t, err)
	assert.Equal(t, "plates/"+id+"/lines/1/from_x", place)
	_, err = doc.AddLine(id, model.Line{Kind: model.OnSide, Side: part + "|front", Height: "0.5"})
	require.NoError(t, err)
	plate := func() *model.Plate { return &doc.Plates[len(doc.Plates)-1] }
	said := func(place string) string {
		_, findings := model.Resolve(doc, cat)
		assert.Empty(t, model.Blocking(findings), "what a plate shows keeps no model from running")
		for _, f := range findings {
			if f.Place == "plates/"+id+"/"+place {
				return f.Message
			}
		}
		return ""
	}
	r, _ := model.Resolve(doc, cat)
	lines := r.PlateLines(plate(), cat)
	require.Len(t, lines, 2)
	require.Len(t, lines["1"].Ways, 3)
	last := *lines["1"].Ways[2].Circle
	assert.InDeltaSlice(t, []float64{0.002, 0, 0.002, 0, 0, 1, 0.005}, last[:], 1e-15)
	require.Len(t, lines["1"].Also, 1)
	assert.Equal(t, "heat_flux", lines["1"].Also[0].Name)
	own := r.Parts[0]
	lo, hi := own.Outline.Box()
	path := lines["2"].Ways[0].Path
	require.Len(t, path, 6)
	assert.InDelta(t, hi.X-lo.X, path[3]-path[0], 1e-12, "the front runs from the left to the right")
	assert.InDelta(t, lo.Y, path[1], 1e-12)
	assert.InDelta(t, (own.Z0+own.Z1)/2, path[2], 1e-12)

	for _, c := range []struct{ place, value, says string }{
		{"lines/1/radius", "-1 mm", "radius of the circle"},
		{"lines/1/around", "w", `cannot run round "w"`},
		{"lines/1/count", "40", "can be 12 at most"},
		{"lines/1/by_x", "", "3 lines lie at one place"},
		{"lines/1/also", "nonsense*", "cannot be drawn along a line"},
		{"lines/1/also", "heat flux; = temperature^2", "axes for two units"},
		{"lines/1/kind", "spiral", `cannot be a "spiral"`},
		{"lines/2/side", part + "|nowhere", "has no side"},
		{"lines/2/side", "gone|front", "is not there"},
		{"lines/2/height", "2", "height of the line"},
	} {
		line := &plate().Lines[map[byte]int{'1': 0, '2': 1}[c.place[6]]]
		before := *line
		require.NoError(t, doc.Set("plates/"+id+"/"+c.place, c.value))
		assert.Contains(t, said(c.place), c.says)
		*line = before
	}
}

// TestUsualPlates: what physics declare stands behind the plates of the document as long as nobody has one
// of the field, and is kept when it is changed.
func TestUsualPlates(t *testing.T) {
	doc, cat := trough(t), physics.Catalog()
	own := len(doc.AllPlates(cat, func(string) bool { return false }))
	all := doc.AllPlates(cat, func(field string) bool { return field == "heat_flux" || field == "displacement" })
	require.Greater(t, len(all), own)
	last := all[slices.IndexFunc(all, func(p model.Plate) bool { return p.Field == "displacement" })]
	assert.True(t, doc.IsUsual(last.ID))
	assert.Equal(t, model.Automatic, last.Bent, "what bends is drawn so")
	doc.KeepUsual(cat, last.ID)
	assert.False(t, doc.IsUsual(last.ID))
	require.NoError(t, doc.Set("plates/"+last.ID+"/bent", "2"))
	doc.KeepUsual(cat, last.ID)
	doc.KeepUsual(cat, "usual-nothing")
	assert.Len(t, doc.AllPlates(cat, func(string) bool { return false }), own+1)

	require.NoError(t, doc.SeePart(last.ID, doc.Parts[0].ID, model.Pale))
	require.NoError(t, doc.SeePart(last.ID, doc.Parts[0].ID, model.Hidden))
	kept := doc.Plates[len(doc.Plates)-1]
	assert.Equal(t, []model.Seen{{ID: doc.Parts[0].ID, How: model.Hidden}}, kept.Seen)
	require.NoError(t, doc.SeePart(last.ID, doc.Parts[0].ID, ""))
	assert.Error(t, doc.SeePart(last.ID, "gone", model.Pale))
	assert.Error(t, doc.SeePart(last.ID, doc.Parts[0].ID, "striped"))

	id, err := doc.AddSwing(cat, "displacement_z", true)
	require.NoError(t, err)
	assert.Empty(t, cat.Swinging(&doc.Plates[len(doc.Plates)-1]), "a phase is none")
	_, err = doc.AddSwing(cat, "displacement_z", false)
	require.NoError(t, err)
	assert.Equal(t, "displacement_z", cat.Swinging(&doc.Plates[len(doc.Plates)-1]))
	require.NoError(t, doc.Set("plates/"+id+"/shared", last.ID))
	_, findings := model.Resolve(doc, cat)
	messages := []string{}
	for _, f := range findings {
		messages = append(messages, f.Message)
	}
	assert.NotContains(t, messages, `the end of the colour bar "pi" has no unit`)
	assert.Contains(t, messages, "atan2(displacement_z_imaginary, displacement_z_real) cannot share a scale with displacement")
}
