package solve

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/result"
)

// tine is a slender bar whose frequencies are read.
func tine(modes int) *model.Document {
	doc := rakeArm()
	doc.Parts[0].Outline.Width, doc.Parts[0].Outline.Depth, doc.Parts[0].Place.X = "200 mm", "8 mm", "100 mm"
	doc.Parts[0].Span.To = "4 mm"
	doc.Materials[0].Properties[material.PoissonRatio] = material.Property{Value: "0"}
	doc.Conditions = doc.Conditions[:2]
	doc.Run = model.Run{Kind: model.Modes, Count: fmt.Sprint(modes)}
	doc.Mesh = model.Mesh{Size: "8 mm", Across: "1", Order: "2"}
	doc.Readings = nil
	for i := range modes {
		doc.Readings = append(doc.Readings, model.Sentence{ID: fmt.Sprintf("r%d", i+1), Kind: "body.mode", Values: map[string]string{"number": fmt.Sprint(i + 1)}})
	}
	return doc
}

// bending is the frequency of a slender bar, Hz, for a root of its equation.
func bending(root, thick float64) float64 {
	return root * root / (2 * math.Pi * 0.2 * 0.2) * math.Sqrt(70e9/2700*thick*thick/12)
}

// TestModesOfABar: fixed at one end it bends about both axes of its section, and free it moves
// and turns in six ways at no frequency before it bends.
func TestModesOfABar(t *testing.T) {
	o := settle(t, tine(3))
	require.Len(t, o.Modes, 3)
	for i, want := range []float64{bending(1.875104, 4e-3), bending(1.875104, 8e-3), bending(4.694091, 4e-3)} {
		assert.InEpsilon(t, want, value(t, o, fmt.Sprintf("r%d", i+1)), 3e-3)
		assert.Equal(t, value(t, o, fmt.Sprintf("r%d", i+1)), o.Modes[i].Frequency)
	}
	assert.Equal(t, result.ByMode, o.Surface.Axis)
	assert.Len(t, o.Surface.Moments, 3)
	most, _ := o.FieldNamed("displacement")
	assert.InEpsilon(t, 1e-3, most.Greatest.Value, 1e-9, "the greatest displacement of a shape is one millimetre")
	assert.InDelta(t, 0.2, most.Greatest.At[0], 1e-9, "at the free end")
	assert.Empty(t, o.Balances)

	free := tine(7)
	free.Conditions = free.Conditions[:1]
	o = settle(t, free)
	bend := bending(4.730041, 4e-3)
	for _, m := range o.Modes[:6] {
		assert.Less(t, m.Frequency, 1e-3*bend)
	}
	assert.InEpsilon(t, bend, o.Modes[6].Frequency, 3e-3)
}

// TestModesOfHeat: a bar with held ends forgets what it was with the rates a·(nπ/L)².
func TestModesOfHeat(t *testing.T) {
	doc := tine(2)
	doc.Physics = []model.Physics{{Kind: "heat"}}
	doc.Conditions = nil
	for i, side := range []string{"left", "right"} {
		doc.Conditions = append(doc.Conditions, model.Sentence{ID: fmt.Sprintf("c%d", i+1), Kind: "heat.held", On: model.Patch{Part: "arm", Side: side}, Values: map[string]string{"temperature": "80 °C"}})
	}
	o := settle(t, doc)
	for i := range 2 {
		n := float64(i + 1)
		assert.InEpsilon(t, 100./(2700*900)*n*n*math.Pi*math.Pi/(0.2*0.2), o.Modes[i].Rate, 1e-4)
	}
	assert.InEpsilon(t, o.Modes[1].Rate, value(t, o, "r2"), 1e-12)
}

// TestModesThatCannotBeFound say why.
func TestModesThatCannotBeFound(t *testing.T) {
	for name, c := range map[string]struct {
		change func(d *model.Document)
		words  string
	}{
		"nothing moves": {func(d *model.Document) { d.Conditions = nil }, "nothing is solved for"},
		"no density":    {func(d *model.Document) { delete(d.Materials[0].Properties, material.Density) }, "the mass of the arm counts"},
		"too many":      {func(d *model.Document) { d.Run.Count = "1000" }, "at most 200 modes"},
		"half a mode":   {func(d *model.Document) { d.Run.Count = "2.5" }, "whole number"},
		"another kind":  {func(d *model.Document) { d.Run.Kind = "tides" }, "finds modes or a response, not"},
		"heat that varies": {func(d *model.Document) {
			d.Physics = []model.Physics{{Kind: "heat"}}
			d.Conditions = []model.Sentence{{ID: "c1", Kind: "heat.held", On: model.Patch{Part: "arm", Side: "left"}, Values: map[string]string{"temperature": "80 °C"}}}
			d.Materials[0].Properties[material.Conductivity] = material.Property{Value: "1 W/(m·K)*temperature/300 K"}
		}, "not symmetric"},
	} {
		doc := tine(1).Clone()
		c.change(doc)
		_, err := Run(t.Context(), doc, Options{})
		require.Error(t, err, name)
		assert.Contains(t, err.Error(), c.words, name)
	}
	doc := rakeArm()
	doc.Readings = []model.Sentence{{ID: "r1", Kind: "body.mode", Values: map[string]string{"number": "1"}}}
	o := settle(t, doc)
	assert.True(t, o.Readings[0].Waits, "in a steady run it waits")
}

// TestModesAreFoundAgain: the modes of a bar on other cells, of other length and under other frequencies are alike those before,
// each to one of them; what swings up and down is not alike what swings sideways.
func TestModesAreFoundAgain(t *testing.T) {
	kept := func(change func(d *model.Document)) *result.Reader {
		d := tine(4)
		change(d)
		dir := t.TempDir()
		_, err := Run(t.Context(), d, Options{Dir: dir})
		require.NoError(t, err)
		r, err := result.NewReader(dir)
		require.NoError(t, err)
		return r
	}
	first := kept(func(*model.Document) {})
	finer := kept(func(d *model.Document) {
		d.Mesh.Size = "5 mm"
		d.Parts[0].Outline.Width, d.Parts[0].Place.X = "240 mm", "120 mm"
	})
	like, err := result.Likeness(first, finer)
	require.NoError(t, err)
	require.Len(t, like, 4)
	for i := range like {
		for j, x := range like[i] {
			if i == j {
				assert.Greater(t, x, 0.98)
			} else {
				assert.Less(t, x, 0.05, "%d %d", i, j)
			}
		}
	}
	// As thick as wide it would swing alike both ways; lower than wide the order of the first two is another one.
	turned := kept(func(d *model.Document) { d.Parts[0].Span.To = "12 mm" })
	like, err = result.Likeness(first, turned)
	require.NoError(t, err)
	assert.Greater(t, like[0][1], 0.98, "the first one of before is the second")
	assert.Greater(t, like[1][0], 0.98)
	_, err = result.Likeness(first, kept(func(d *model.Document) {
		d.Run = model.Run{}
		d.Readings = nil
		say(d, "force", "arm", "right", "x", "1 N")
	}))
	assert.Error(t, err, "a run without modes has none that could be alike")
}
