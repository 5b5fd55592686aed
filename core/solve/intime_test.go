package solve

import (
	"errors"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/result"
)

// cooling is two thin slabs with a contact between them, cooled so slowly that each
// has about one temperature: together they fall as exp(−h·t/(ρ·c·L)).
func cooling(t *testing.T) *model.Document {
	doc := model.New("cooling slabs")
	doc.Materials = []material.Material{{Name: "slab", Properties: map[material.Key]material.Property{
		material.Conductivity: {Value: "200 W/(m·K)"}, material.Density: {Value: "1000 kg/m³"}, material.HeatCapacity: {Value: "1000 J/(kg·K)"}}}}
	for i, id := range []string{"lower", "upper"} {
		span := [][2]string{{"0 mm", "5 mm"}, {"5 mm", "10 mm"}}[i]
		doc.Parts = append(doc.Parts, model.Part{ID: id, Name: id, Material: "slab", Role: model.Solved,
			Outline: model.Outline{Kind: "rectangle", Width: "20 mm", Depth: "20 mm"}, Span: model.Span{From: span[0], To: span[1]}})
	}
	doc.Run = model.Run{Kind: model.Transient, End: "2000 s", Start: "400 K", Tolerance: "1e-5"}
	set(t, doc, "mesh/size", "5 mm")
	add(t, doc, "heat.convection", model.Patch{Part: "upper", Side: "top"}, "medium", "air", "temperature", "300 K", "coefficient", "10 W/(m²·K)")
	add(t, doc, "heat.contact", model.Patch{Part: "lower", Facing: "upper"}, "resistance", "1e-3 m²·K/W")
	add(t, doc, "heat.mean", model.Patch{Part: "lower"})
	add(t, doc, "heat.mean", model.Patch{Part: "upper"})
	return doc
}

// TestRunEndsWhenItsConditionHolds: at the time of the exact solution, with closed
// balances, and not at all where the condition never holds.
func TestRunEndsWhenItsConditionHolds(t *testing.T) {
	doc := cooling(t)
	doc.Conditions = doc.Conditions[:1] // without the contact
	doc.Run.Until = "r1 < 350 K and time > 1 s"
	o := settle(t, doc)
	require.NotNil(t, o.Ended)
	assert.InEpsilon(t, 1000*math.Log(2), o.Ended.At, 2e-3)
	assert.Equal(t, o.Ended.At, o.History.Times[len(o.History.Times)-1])
	assert.Equal(t, o.Ended.At, o.Surface.Moments[len(o.Surface.Moments)-1], "the end is among the plates")
	assert.InDelta(t, 350, value(t, o, "r1"), 1e-4, "the last step ends there")

	doc.Run.Until = "r1 < 250 K"
	o = settle(t, doc)
	assert.Nil(t, o.Ended)
	assert.Contains(t, o.Warnings[len(o.Warnings)-1], "did not come to hold")

	for until, words := range map[string]string{"r1 < 3 mm": "temperature", "r1 <": "cannot be read", "1 < 2": "compares no reading", "r7 > 3 K": "r7"} {
		doc.Run.Until = until
		_, err := Run(t.Context(), doc, Options{})
		var wrong *ModelError
		require.ErrorAs(t, err, &wrong, until)
		assert.Equal(t, "run/until", wrong.Findings[0].Place)
		assert.Contains(t, wrong.Error(), words)
	}
}

// TestRunGoesOnFromAnother: in two pieces a run ends as it does in one, also across a
// contact and on another mesh; what the earlier run did not have is asked for.
func TestRunGoesOnFromAnother(t *testing.T) {
	whole := settle(t, cooling(t))
	doc := cooling(t)
	doc.Run.End = "800 s"
	first := settle(t, doc)
	jump := value(t, first, "r1") - value(t, first, "r2")
	assert.Greater(t, jump, 0.15, "the contact holds heat back")

	dir := t.TempDir()
	require.NoError(t, result.SaveFields(dir, first.Fields, first.Surface, nil))
	require.NoError(t, result.SaveSummary(dir, first.Result))
	opt := Options{Earlier: func(n int) (*result.Earlier, error) {
		if n != 3 {
			return nil, errors.New("there is no such run")
		}
		return result.LoadEarlier(dir)
	}}
	goOn := func(doc *model.Document) (*Outcome, error) {
		doc.Run.From, doc.Run.End, doc.Run.Start = "#3", "1200 s", ""
		return Run(t.Context(), doc, opt)
	}
	for size, slack := range map[string]float64{"5 mm": 1e-2, "3 mm": 2e-2} {
		doc = cooling(t)
		doc.Mesh.Size = size
		o, err := goOn(doc)
		require.NoError(t, err)
		for _, key := range []string{"r1", "r2"} {
			assert.InDelta(t, value(t, whole, key), value(t, o, key), slack, size)
			assert.InDelta(t, first.History.Readings[key][len(first.History.Times)-1], o.History.Readings[key][0], slack, "it begins there")
		}
	}

	doc = cooling(t)
	doc.Parts = append(doc.Parts, model.Part{ID: "lid", Name: "lid", Material: "slab", Role: model.Solved,
		Outline: model.Outline{Kind: "rectangle", Width: "20 mm", Depth: "20 mm"}, Span: model.Span{From: "10 mm", To: "12 mm"}})
	set(t, doc, "conditions/c1/on", "lid|top")
	_, err := goOn(doc)
	require.ErrorContains(t, err, "no temperature for the lid")
	doc.Run.Start = "310 K"
	o, err := Run(t.Context(), doc, opt)
	require.NoError(t, err)
	assert.Contains(t, o.Warnings[0], "they begin at 36.85")

	doc.Run.From = "4"
	_, err = Run(t.Context(), doc, opt)
	require.ErrorContains(t, err, "there is no such run")
	doc.Run.From = "the last one"
	_, err = Run(t.Context(), doc, opt)
	require.ErrorContains(t, err, "not the number of a run")
}
