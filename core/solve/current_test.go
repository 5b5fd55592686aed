package solve

import (
	"fmt"
	"math"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/result"
)

func off(t *testing.T, doc *model.Document, id string) {
	t.Helper()
	require.NoError(t, doc.Set("conditions/"+id+"/off", "true"))
}

// TestCurrentAndHeat: the lead with current alone, with both but without the
// coupling, and coupled: the resistance rises as the copper warms.
func TestCurrentAndHeat(t *testing.T) {
	doc := demo(t, "electrode-lead")
	set(t, doc, "mesh/size", "9 mm")
	coupled := settle(t, doc)
	require.Len(t, coupled.Balances, 2)
	heat, current := coupled.Balances[0], coupled.Balances[1]
	assert.Less(t, current.Closure, 1e-10)
	assert.InDelta(t, 900, current.In, 1e-9)
	entries := map[string]float64{}
	for _, e := range heat.Entries {
		entries[e.Key] = e.Value
	}
	assert.InEpsilon(t, 900*value(t, coupled, "r2"), entries["c8"], 1e-8, "all electric power becomes heat")
	n := len(coupled.Solver.Steps)
	require.Greater(t, n, 2)
	assert.Less(t, coupled.Solver.Steps[n-1], math.Pow(coupled.Solver.Steps[n-2], 1.5), "the residual squares")
	assert.Equal(t, []string{"temperature", "potential"}, []string{coupled.Result.Fields[0].Name, coupled.Result.Fields[1].Name})

	off(t, doc, "c8")
	apart := settle(t, doc)
	assert.Less(t, value(t, apart, "r1"), 273.15+48.1, "nothing heats the clamp but the brine")
	assert.Less(t, value(t, apart, "r5"), value(t, coupled, "r5"))

	require.NoError(t, doc.Set("physics/heat", "false"))
	doc.Readings = doc.Readings[1:5]
	alone := settle(t, doc)
	assert.Equal(t, "current", alone.Balances[0].Name)
	assert.Nil(t, alone.Greatest)
	assert.InEpsilon(t, value(t, apart, "r5"), value(t, alone, "r5"), 0.05)
	assert.Equal(t, "potential", alone.Result.Fields[0].Name)
}

// TestCurrentsThatCannotFlow: every fault is found before or during the run and said
// with its place.
func TestCurrentsThatCannotFlow(t *testing.T) {
	for want, change := range map[string]func(d *model.Document){
		"conditions: nothing fixes the electric potential": func(d *model.Document) { d.Conditions[4].Off = true },
		"conditions: no terminal fixes the electric potential of the copper strip: it floats": func(d *model.Document) {
			d.Conditions[1].Off, d.Conditions[5].Off = true, true // no clamp between strip and stem
		},
		"conditions/c5/on: the terminals of c6 and c5 touch": func(d *model.Document) {
			d.Conditions[5] = model.Sentence{ID: "c6", Kind: "electric.voltage", On: model.Patch{Part: "stem", Side: "rim"}, Values: map[string]string{"voltage": "1 V"}}
			d.Conditions[4], d.Conditions[5] = d.Conditions[5], d.Conditions[4]
		},
		"conditions/c4/on: c4 speaks of the copper strip, in which no current flows": func(d *model.Document) { d.Conditions[0].Off = true },
		"conditions/c6/on: c6 speaks of current that enters the clamp plate":         func(d *model.Document) { d.Conditions[1].Off = true },
		"conditions/c8: current flows in one part and the field of charges fills another": func(d *model.Document) {
			d.Conditions[7] = model.Sentence{ID: "c8", Kind: "electric.field", On: model.Patch{Part: "clamp"}}
		},
		"materials/oak/resistivity: current flows in the clamp plate, and oak": func(d *model.Document) { d.Parts[1].Material = "oak" },
		"materials/odd/resistivity: current flows in the copper strip, and the electrical resistivity of odd must lie between 0 and 1e+30": func(d *model.Document) {
			require.NoError(t, d.AddMaterial("odd", "copper"))
			require.NoError(t, d.Set("materials/odd/resistivity", "1e-8 Ω·m*(300 K - temperature)/1 K"))
			d.Parts[0].Material = "odd"
		},
	} {
		doc := demo(t, "electrode-lead")
		set(t, doc, "mesh/size", "12 mm")
		change(doc)
		_, err := Run(t.Context(), doc, Options{})
		var wrong *ModelError
		if assert.ErrorAs(t, err, &wrong, want) {
			found := false
			for _, f := range wrong.Findings {
				found = found || strings.Contains(f.Place+": "+f.Message, want)
			}
			assert.True(t, found, "%s is not in %v", want, wrong)
		}
	}
}

// TestThermalRunaway: with a resistivity that rises with the temperature and too much
// current there is no steady state, and the run says so.
func TestThermalRunaway(t *testing.T) {
	doc := demo(t, "electrode-lead")
	set(t, doc, "mesh/size", "12 mm")
	for _, current := range []string{"9000 A", "30 kA", "200 kA"} {
		set(t, doc, "parameters/current/value", current)
		o, err := Run(t.Context(), doc, Options{})
		require.NoError(t, err, current)
		assert.Equal(t, result.NotSettled, o.Status, current)
		assert.Contains(t, o.Reason, "current may heat its conductors faster", current)
	}
	// A rod cooled at its ends, of which the resistance rises as fast as the heat flows away.
	doc = wire(t)
	doc.Physics = []model.Physics{{Kind: "heat"}, {Kind: "electric"}}
	doc.Materials[0].Properties[material.Conductivity] = material.Property{Value: "20 W/(m·K)"}
	doc.Materials[0].Properties[material.Resistivity] = material.Property{Value: "1e-6 Ω·m*(1 + 0.01/K*(temperature - 20 °C))"}
	for part, side := range map[string]string{"a": "left", "b": "right"} {
		add(t, doc, "heat.held", model.Patch{Part: part, Side: side}, "temperature", "20 °C")
	}
	add(t, doc, "electric.heats", model.Patch{})
	add(t, doc, "electric.voltage", model.Patch{Part: "a", Side: "left"}, "voltage", "0 V")
	id := add(t, doc, "electric.current", model.Patch{Part: "b", Side: "right"}, "current", "100 A")
	// It runs away where j²·ρ·α/k·(L/π)² reaches 1.
	limit := 1e-4 * math.Sqrt(20/(1e-6*0.01)) * math.Pi / 0.1
	for _, part := range []float64{0.9, 1.05, 1.5, 4, 30} {
		set(t, doc, "conditions/"+id+"/values/current", fmt.Sprintf("%g A", part*limit))
		o, err := Run(t.Context(), doc, Options{})
		require.NoError(t, err)
		if part < 1 {
			assert.Equal(t, result.Settled, o.Status, o.Reason)
			continue
		}
		assert.Equal(t, result.NotSettled, o.Status, "%g of the limit", part)
		assert.Contains(t, o.Reason, "current may heat its conductors faster")
	}
}

// TestRunInTime: the post that begins cold comes to its steady state; readings and
// fields are kept on the way, and the balance counts what is stored.
func TestRunInTime(t *testing.T) {
	doc := demo(t, "testdata/solid-post")
	// The post alone, on a foot that stays cold.
	doc.Parts, doc.Readings = doc.Parts[1:], doc.Readings[:1]
	doc.Conditions = append(doc.Conditions[:2:2], model.Sentence{ID: "c4", Kind: "heat.held", On: model.Patch{Part: "post", Side: "bottom"}, Values: map[string]string{"temperature": "24 °C"}})
	doc.Readings[0].On = model.Patch{Part: "post"}
	set(t, doc, "mesh/size", "25 mm")
	steady := settle(t, doc)
	set(t, doc, "run/kind", "transient", "run/end", "12 h", "run/start", "24 °C", "run/tolerance", "0.2 %")
	id, err := doc.AddSentence(physics.Catalog(), "heat.start", model.Patch{Part: "cup"})
	require.NoError(t, err)
	set(t, doc, "conditions/"+id+"/values/temperature", "90 °C")
	o := settle(t, doc)
	assert.InDelta(t, value(t, steady, "r1"), value(t, o, "r1"), 0.02)
	h := o.History
	require.NotNil(t, h)
	require.Len(t, h.Readings["r1"], len(h.Times))
	assert.Zero(t, h.Times[0])
	assert.InDelta(t, 12*3600, h.Times[len(h.Times)-1], 1e-6)
	assert.InDelta(t, 24, h.Readings["r1"][0], 1e-9, "it begins as it was told to")
	assert.InDelta(t, value(t, o, "r1")-273.15, h.Readings["r1"][len(h.Times)-1], 1e-9)
	for i := 1; i < len(h.Times); i++ {
		assert.Greater(t, h.Times[i], h.Times[i-1])
		assert.Greater(t, h.Readings["r1"][i], h.Readings["r1"][i-1]-0.1, "the foot warms")
	}
	moments := o.Surface.Moments
	require.Len(t, moments, frames)
	assert.InDelta(t, 6*3600, moments[12], 1e-6)
	assert.Zero(t, len(drawnBytes(t, o))%4)

	set(t, doc, "conditions/c1/values/temperature", "24 °C + 80 K*ramp(time, 0 s, 1 h)")
	slow := settle(t, doc)
	assert.Less(t, slow.History.Readings["r1"][5], h.Readings["r1"][len(h.Times)/2])
	// What is stored is an account of its own.
	set(t, doc, "run/end", "20 min")
	early := settle(t, doc)
	entries := map[string]float64{}
	for _, e := range early.Balances[1].Entries {
		entries[e.Key] = e.Value
	}
	assert.Less(t, entries["stored"], -1.0)

	set(t, doc, "run/kind", "steady")
	_, err = Run(t.Context(), doc, Options{Now: time.Now})
	assert.ErrorContains(t, err, "does not pass in a steady run")
	set(t, doc, "run/kind", "transient", "run/end", "")
	_, err = Run(t.Context(), doc, Options{Now: time.Now})
	assert.ErrorContains(t, err, "the length of time has not been given")
}

// TestOrderTwoOfAModel: order 2 has more unknowns on the same cells and comes to the
// same result.
func TestOrderTwoOfAModel(t *testing.T) {
	doc := demo(t, "testdata/solid-post")
	set(t, doc, "mesh/size", "16 mm", "parts/slab/cells", "25 mm")
	first := settle(t, doc)
	set(t, doc, "mesh/order", "2")
	second := settle(t, doc)
	assert.Greater(t, second.Mesh.Unknowns, 3*first.Mesh.Unknowns)
	assert.InEpsilon(t, value(t, first, "r2"), value(t, second, "r2"), 0.1)
	set(t, doc, "mesh/order", "3")
	_, err := Run(t.Context(), doc, Options{})
	assert.ErrorContains(t, err, "order 1 or 2")
}
