package solve

import (
	"fmt"
	"math"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/result"
)

// plates are thin square plates of 1 m, one above the other, the lowest heated and each
// with an emissivity; the highest is held at a temperature. The outer surfaces of the
// first and the last let nothing through.
func plates(t *testing.T, gap float64, emissivity ...string) *model.Document {
	t.Helper()
	doc := model.New("plates")
	doc.Parameters, doc.Parts, doc.Conditions, doc.Readings = nil, nil, nil, nil
	z := 0.0
	for i, e := range emissivity {
		id := fmt.Sprintf("p%d", i+1)
		doc.Parts = append(doc.Parts, model.Part{ID: id, Name: id, Role: model.Solved, Material: "copper",
			Outline: model.Outline{Kind: "rectangle", Width: "1 m", Depth: "1 m"},
			Span:    model.Span{From: fmt.Sprintf("%g m", z), To: fmt.Sprintf("%g m", z+0.01)}})
		z += 0.01 + gap
		for _, side := range []string{"top", "bottom"} {
			add(t, doc, "heat.emissivity", model.Patch{Part: id, Side: side}, "emissivity", e)
		}
		for _, side := range []string{"left", "right", "front", "back"} {
			add(t, doc, "heat.insulated", model.Patch{Part: id, Side: side})
		}
	}
	last := doc.Parts[len(doc.Parts)-1].ID
	add(t, doc, "heat.insulated", model.Patch{Part: "p1", Side: "bottom"})
	add(t, doc, "heat.insulated", model.Patch{Part: last, Side: "top"})
	add(t, doc, "heat.enclosure", model.Patch{}, "temperature", "0.001 K")
	set(t, doc, "mesh/size", "0.125 m", "mesh/across", "1")
	return doc
}

func add(t *testing.T, doc *model.Document, kind string, on model.Patch, values ...string) string {
	t.Helper()
	id, err := doc.AddSentence(physics.Catalog(), kind, on)
	require.NoError(t, err)
	for i := 0; i < len(values); i += 2 {
		set(t, doc, "conditions/"+id+"/values/"+values[i], values[i+1])
	}
	return id
}

const sigma = 5.670374419e-8

func power(celsius float64) float64 { return sigma * math.Pow(celsius+273.15, 4) }

// TestBlackPlatesOneApart: a black plate that faces another, colder one gets back what
// the view factor says, and loses the rest to the surroundings.
func TestBlackPlatesOneApart(t *testing.T) {
	doc := plates(t, 1, "1", "1")
	add(t, doc, "heat.held", model.Patch{Part: "p1", Side: "bottom"}, "temperature", "500 °C")
	add(t, doc, "heat.held", model.Patch{Part: "p2", Side: "top"}, "temperature", "100 °C")
	o := settle(t, doc)
	entries := map[string]float64{}
	for _, e := range o.Balances[0].Entries {
		entries[e.Key] = e.Value
	}
	// The plates are of copper, hardly warmer below than above: their surfaces tell.
	hot, cold := surface(t, doc, "p1", "top"), surface(t, doc, "p2", "bottom")
	const f = 0.199825
	held := doc.Conditions[len(doc.Conditions)-2].ID
	assert.InEpsilon(t, power(hot)-f*power(cold), entries[held], 2e-3)
	assert.Less(t, o.Balances[0].Closure, 1e-8)
	assert.InEpsilon(t, 4.08, o.Radiation.Area, 1e-9, "both sides and the edges of both")
	steps := o.Solver.Steps
	require.GreaterOrEqual(t, len(steps), 4)
	last := len(steps) - 1
	for last > 1 && steps[last] < 1e-11 {
		last--
	}
	assert.Less(t, steps[last], 20*steps[last-1]*steps[last-1]+1e-9, "the steps are quadratic: %v", steps)
}

// surface is the mean temperature of a surface, °C.
func surface(t *testing.T, doc *model.Document, part, side string) float64 {
	t.Helper()
	id, err := doc.AddSentence(physics.Catalog(), "heat.mean", model.Patch{Part: part, Side: side})
	require.NoError(t, err)
	return value(t, settle(t, doc), id) - 273.15
}

// TestShieldedPlates: with a thin shield between two close plates half as much passes,
// if all have one emissivity.
func TestShieldedPlates(t *testing.T) {
	through := func(doc *model.Document) (flow, difference float64) {
		last := doc.Parts[len(doc.Parts)-1].ID
		add(t, doc, "heat.source", model.Patch{Part: "p1"}, "power", "4000 W")
		add(t, doc, "heat.held", model.Patch{Part: last, Side: "top"}, "temperature", "20 °C")
		hot, cold := surface(t, doc, "p1", "top"), surface(t, doc, last, "bottom")
		return 4000, power(hot) - power(cold)
	}
	q, open := through(plates(t, 0.0005, "0.6", "0.6"))
	assert.InEpsilon(t, q*(2/0.6-1), open, 0.01)
	q, shielded := through(plates(t, 0.0005, "0.6", "0.6", "0.6"))
	assert.InEpsilon(t, q*2*(2/0.6-1), shielded, 0.01)
}

// TestViewFactorsAreShared: a second run of a shape takes the view factors of the first,
// with the same result; switched off, the sentence does nothing.
func TestViewFactorsAreShared(t *testing.T) {
	doc := plates(t, 0.1, "0.9", "0.5")
	doc.Conditions = doc.Conditions[:len(doc.Conditions):len(doc.Conditions)]
	add(t, doc, "heat.source", model.Patch{Part: "p1"}, "power", "500 W")
	add(t, doc, "heat.held", model.Patch{Part: "p2", Side: "top"}, "temperature", "20 °C")
	id, err := doc.AddSentence(physics.Catalog(), "heat.greatest", model.Patch{Part: "p1"})
	require.NoError(t, err)
	dir := t.TempDir()
	run := func() *Outcome {
		o, err := Run(t.Context(), doc, Options{Now: time.Now, Views: dir})
		require.NoError(t, err)
		require.Equal(t, result.Settled, o.Status, o.Reason)
		return o
	}
	first, second := run(), run()
	assert.False(t, first.Radiation.Reused)
	assert.True(t, second.Radiation.Reused)
	assert.Equal(t, value(t, first, id), value(t, second, id))
	assert.Less(t, second.Radiation.Closure, 0.05)
	files, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, files, 1)
	for i := range doc.Conditions {
		if doc.Conditions[i].Kind == "heat.enclosure" {
			doc.Conditions[i].Off = true
		}
	}
	_, err = Run(t.Context(), doc, Options{})
	assert.ErrorContains(t, err, "heat has no way out of the p1", "no radiation leads heat over the gap")
}

// TestRadiationThatCannotBe: what is missing or contradicts is said with its place.
func TestRadiationThatCannotBe(t *testing.T) {
	doc := plates(t, 0.1, "0.9", "0.5")
	add(t, doc, "heat.held", model.Patch{Part: "p2", Side: "top"}, "temperature", "20 °C")
	add(t, doc, "heat.radiation", model.Patch{Part: "p1", Side: "top"}, "temperature", "20 °C", "emissivity", "0.3")
	_, err := Run(t.Context(), doc, Options{})
	assert.ErrorContains(t, err, "lets the p1 radiate to surroundings, though")
	doc.Conditions = doc.Conditions[:len(doc.Conditions)-1]
	set(t, doc, "parts/p1/material", "Invar")
	for i := range doc.Conditions {
		if c := &doc.Conditions[i]; c.Kind == "heat.emissivity" || c.Kind == "heat.insulated" {
			c.Off = true
		}
	}
	_, err = Run(t.Context(), doc, Options{})
	assert.ErrorContains(t, err, "the emissivity of Invar, of which the p1 is, is not known")
	set(t, doc, "conditions/"+doc.Conditions[len(doc.Conditions)-2].ID+"/values/temperature", "-300 °C")
	_, err = Run(t.Context(), doc, Options{})
	assert.Error(t, err)
}
