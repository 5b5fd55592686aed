package solve

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// TestPatchesOfSeveralParts: one sentence about several surfaces gives what as many sentences do,
// a total is shared among all of them, and what is left out or lies beyond a box is not touched.
func TestPatchesOfSeveralParts(t *testing.T) {
	bank := func() *model.Document {
		d := brewBlock(model.Solid, "4 mm", "1", "300 K")
		d.Parts[0].Array = &model.Array{Count: "3", Pitch: "30 mm", Along: "x", Centred: true}
		pot := d.Parts[0]
		pot.ID, pot.Name, pot.Material, pot.Array, pot.Group = "pot", "pot", "iron", nil, "pots"
		pot.Place.Y = "40 mm"
		d.Parts = append(d.Parts, pot)
		iron := d.Materials[0]
		iron.Name, iron.Family = "iron", "metal"
		d.Materials = append(d.Materials, iron)
		d.Conditions, d.Readings = nil, nil
		return d
	}
	held := func(d *model.Document, on ...model.Patch) {
		for _, p := range on {
			add(t, d, "heat.held", p, "temperature", "300 K")
		}
	}
	area := func(d *model.Document, on model.Patch) float64 {
		add(t, d, "heat.flux", on, "flux", "1000 W/m²")
		o := settle(t, d)
		return o.Balances[0].In / 1000 * 1e6 // mm²
	}
	block := func(side string) model.Patch { return model.Patch{Part: "block", Side: side} }
	bottoms := model.Patch{Part: model.AllParts, Side: "bottom"}
	top := 20. * 12
	for _, c := range []struct {
		on   model.Patch
		want float64
	}{
		{block("top"), 3 * top},
		{model.Patch{Part: "block", Side: "top", Copies: "1, 3"}, 2 * top},
		{block("top").With(model.Patch{Part: "pot", Side: "top"}), 4 * top},
		{model.Patch{Part: model.AllParts, Side: "top"}, 4 * top},
		{model.Patch{Part: model.AllFluids, Side: "top"}, 3 * top},
		{model.Patch{Part: model.AllSolids, Side: "top"}, top},
		{model.Patch{Part: model.GroupName("pots"), Side: "top"}, top},
		{model.Patch{Part: model.AllParts, Side: "top"}.Without(model.Patch{Part: "block", Copy: 2}), 3 * top},
		{model.Patch{Part: model.AllParts, Side: model.WholeSurface}.Without(bottoms).Without(model.Patch{Part: "pot", Side: "top"}), 3*top + 4*2*8*(20+12)},
		{block("top").In(&model.Box{{"-25 mm", "25 mm"}}), 1.75 * top},
		{block("top").In(&model.Box{{"", "-25 mm"}, {"", "100 mm"}, {"7 mm", ""}}), 0.25 * top},
	} {
		d := bank()
		held(d, bottoms)
		assert.InEpsilon(t, c.want, area(d, c.on), 0.13, d.PatchWords(c.on))
	}
	// A sum in all is one sum.
	d := bank()
	held(d, bottoms)
	add(t, d, "heat.source", model.Patch{Part: model.AllParts}.Without(model.Patch{Part: "pot"}), "power", "9 W")
	id := add(t, d, "heat.source", model.Patch{Part: "pot"}, "power", "2 W")
	o := settle(t, d)
	assert.InDelta(t, 11, o.Balances[0].In, 1e-9)
	set(t, d, "conditions/"+id+"/off", "true")
	read, err := d.AddSentence(physics.Catalog(), "body.volume", model.Patch{Part: model.AllFluids})
	assert.NoError(t, err)
	facing, err := d.AddSentence(physics.Catalog(), "heat.through", model.Patch{Part: "block", Side: "bottom"}.With(model.Patch{Part: "pot", Side: "bottom"}))
	assert.NoError(t, err)
	o = settle(t, d)
	assert.InDelta(t, 9, o.Balances[0].In, 1e-9)
	assert.InEpsilon(t, 3*20*12*8e-9, value(t, o, read), 1e-9)
	assert.InDelta(t, 9, value(t, o, facing), 1e-6)
}
