package solve

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// TestFlatSpaces: volumes are those of the device, sections have no top, no part crosses
// the axis, and a contact, order 2 and a line of readings work as in a solid space.
func TestFlatSpaces(t *testing.T) {
	doc := model.New("pipe")
	doc.Space.Kind = model.Axial
	box := func(id, x string) model.Part {
		return model.Part{ID: id, Name: id, Material: "copper", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "10 mm", Depth: "40 mm"}, Place: model.Place{X: x}}
	}
	doc.Parts = []model.Part{box("inner", "15 mm"), box("outer", "25 mm")}
	doc.Conditions, doc.Readings = nil, nil
	set(t, doc, "mesh/size", "4 mm", "mesh/order", "2")
	add(t, doc, "heat.held", model.Patch{Part: "inner", Side: "left"}, "temperature", "80 °C")
	add(t, doc, "heat.held", model.Patch{Part: "outer", Side: "right"}, "temperature", "20 °C")
	add(t, doc, "heat.contact", model.Patch{Part: "inner", Facing: "outer"}, "resistance", "1e-2 m²·K/W")
	reading := func(kind string, on model.Patch) string {
		id, err := doc.AddSentence(physics.Catalog(), kind, on)
		require.NoError(t, err)
		return id
	}
	volume := reading("body.volume", model.Patch{Part: "inner"})
	through := reading("heat.through", model.Patch{Part: "outer", Side: "right"})
	line := reading("formula", model.Patch{})
	set(t, doc, "readings/"+line+"/values/formula", "mean(temperature along 21 mm, 5 mm, 0 mm, 21 mm, -5 mm, 0 mm)", "readings/"+line+"/unit", "°C")
	o := settle(t, doc)
	const pi = 3.141592653589793
	assert.InEpsilon(t, pi*(0.02*0.02-0.01*0.01)*0.04, value(t, o, volume), 1e-12)
	// The contact is by far the largest resistance.
	assert.InEpsilon(t, 60/(1e-2/(2*pi*0.02*0.04)), value(t, o, through), 1e-2)
	require.Len(t, o.Readings, 3, "%v", o.Warnings)

	set(t, doc, "space/kind", "plane", "space/depth", "0.5 m")
	o = settle(t, doc)
	assert.InEpsilon(t, 0.01*0.04*0.5, value(t, o, volume), 1e-12)

	// A warm level surface that looks up, along y, loses more to a still fluid than one that
	// looks down.
	doc.Conditions = nil
	add(t, doc, "heat.held", model.Patch{Part: "inner", Side: "left"}, "temperature", "80 °C")
	add(t, doc, "heat.held", model.Patch{Part: "outer", Side: "right"}, "temperature", "80 °C")
	for _, side := range []string{"back", "front"} {
		add(t, doc, "heat.level-plate", model.Patch{Part: "inner", Side: side}, "medium", "air", "temperature", "20 °C", "length", "50 mm")
	}
	up, down := reading("heat.through", model.Patch{Part: "inner", Side: "back"}), reading("heat.through", model.Patch{Part: "inner", Side: "front"})
	o = settle(t, doc)
	assert.Greater(t, value(t, o, up), 1.5*value(t, o, down))

	set(t, doc, "space/kind", "axial", "parts/inner/place/x", "2 mm")
	_, err := Run(t.Context(), doc, Options{})
	assert.ErrorContains(t, err, "the inner reaches beyond the axis")
	set(t, doc, "parts/inner/place/x", "15 mm", "conditions/c1/on", "inner|top")
	_, err = Run(t.Context(), doc, Options{})
	assert.ErrorContains(t, err, `has no side "top"`)
	set(t, doc, "space/kind", "round")
	_, err = Run(t.Context(), doc, Options{})
	assert.ErrorContains(t, err, `there is no space "round"`)
}
