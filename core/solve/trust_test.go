package solve

import (
	"encoding/json"
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/result"
)

// wire is a rod of 100 × 10 × 10 mm of 1 Ω·mm²/m along x in two halves: 1 mΩ in all.
func wire(t *testing.T) *model.Document {
	doc := model.New("wire")
	doc.Physics = []model.Physics{{Kind: "electric"}}
	doc.Materials = []material.Material{{Name: "alloy", Properties: map[material.Key]material.Property{material.Resistivity: {Value: "1e-6 Ω·m"}, material.Permittivity: {Value: "4"}}}}
	for i, id := range []string{"a", "b"} {
		doc.Parts = append(doc.Parts, model.Part{ID: id, Name: id, Material: "alloy", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "50 mm", Depth: "10 mm"},
			Place: model.Place{X: fmt.Sprintf("%d mm", 50*i)}, Span: model.Span{From: "0 mm", To: "10 mm"}})
		add(t, doc, "electric.flows", model.Patch{Part: id})
	}
	set(t, doc, "mesh/size", "10 mm")
	return doc
}

// TestResistanceIsThatBetweenTerminals: whatever potentials they are at, and it is refused
// where more than two are meant.
func TestResistanceIsThatBetweenTerminals(t *testing.T) {
	for _, volts := range [][2]string{{"1 V", "0 V"}, {"1 V", "0.5 V"}, {"-2 V", "3 V"}, {"0 V", "1 mV"}} {
		doc := wire(t)
		add(t, doc, "electric.voltage", model.Patch{Part: "a", Side: "left"}, "voltage", volts[0])
		add(t, doc, "electric.voltage", model.Patch{Part: "b", Side: "right"}, "voltage", volts[1])
		add(t, doc, "electric.resistance", model.Patch{Part: "a", Side: "left"})
		add(t, doc, "electric.resistance", model.Patch{Part: "b", Side: "right"})
		o := settle(t, doc)
		assert.InEpsilon(t, 1e-3, value(t, o, "r1"), 1e-9, volts)
		assert.InEpsilon(t, 1e-3, value(t, o, "r2"), 1e-9, volts)
	}
	// A terminal that takes a current, and another circuit that does not matter.
	doc := wire(t)
	doc.Parts[1].Place.X = "80 mm"
	for part, volts := range map[string]string{"a": "5 V", "b": "1 V"} {
		add(t, doc, "electric.voltage", model.Patch{Part: part, Side: "left"}, "voltage", volts)
		add(t, doc, "electric.current", model.Patch{Part: part, Side: "right"}, "current", "3 A")
	}
	add(t, doc, "electric.resistance", model.Patch{Part: "a", Side: "right"})
	assert.InEpsilon(t, 0.5e-3, value(t, settle(t, doc), "r1"), 1e-9)
	// Three potentials in one conductor.
	doc = wire(t)
	add(t, doc, "electric.voltage", model.Patch{Part: "a", Side: "left"}, "voltage", "1 V")
	add(t, doc, "electric.voltage", model.Patch{Part: "b", Side: "right"}, "voltage", "0 V")
	add(t, doc, "electric.voltage", model.Patch{Part: "a", Side: "top"}, "voltage", "0.4 V")
	doc.Conditions[4].On = model.Patch{Part: "b", Facing: "a"}
	add(t, doc, "electric.resistance", model.Patch{Part: "a", Side: "left"})
	o, err := Run(t.Context(), doc, Options{})
	require.NoError(t, err)
	assert.Equal(t, result.NotSettled, o.Status)
	assert.Contains(t, o.Reason, "more than two potentials")
	assert.Contains(t, o.Reason, "abs(mean(potential over")
	// The capacitance of a plate capacitor at 7 V and 2 V.
	doc = wire(t)
	doc.Conditions, doc.Parts = nil, doc.Parts[:1]
	add(t, doc, "electric.field", model.Patch{Part: "a"})
	add(t, doc, "electric.voltage", model.Patch{Part: "a", Side: "left"}, "voltage", "7 V")
	add(t, doc, "electric.voltage", model.Patch{Part: "a", Side: "right"}, "voltage", "2 V")
	add(t, doc, "electric.capacitance", model.Patch{Part: "a", Side: "right"})
	assert.InEpsilon(t, 8.8541878128e-12*4*1e-4/0.05, value(t, settle(t, doc), "r1"), 1e-8)
}

// TestReadingsWithoutAValueStay: with the reason, in JSON too, and the run is not settled. A
// point outside is found before the run.
func TestReadingsWithoutAValueStay(t *testing.T) {
	doc := wire(t)
	add(t, doc, "electric.voltage", model.Patch{Part: "a", Side: "left"}, "voltage", "1 V")
	add(t, doc, "electric.voltage", model.Patch{Part: "b", Side: "right"}, "voltage", "1 V")
	add(t, doc, "electric.resistance", model.Patch{Part: "a", Side: "left"})
	add(t, doc, "electric.potential", model.Patch{Part: "a", Side: "left"})
	ask(t, doc, "2*r1")
	o, err := Run(t.Context(), doc, Options{EstimateWithin: -1})
	require.NoError(t, err)
	assert.Equal(t, result.NotSettled, o.Status)
	require.Len(t, o.Readings, 3)
	assert.True(t, math.IsNaN(o.Readings[0].Value))
	assert.Contains(t, o.Readings[0].Missing, "no terminal at another potential")
	assert.InDelta(t, 1, o.Readings[1].Value, 1e-12)
	assert.Contains(t, o.Readings[2].Missing, "r1, which has no value")
	data, err := json.Marshal(o.Result)
	require.NoError(t, err)
	assert.Contains(t, string(data), `"value":null`)
	var back result.Result
	require.NoError(t, json.Unmarshal(data, &back))
	assert.True(t, math.IsNaN(back.Readings[0].Value))
	assert.Equal(t, o.Readings[0].Missing, back.Readings[0].Missing)

	for text, good := range map[string]bool{
		"at(potential, 90 mm, 0 mm, 5 mm)": false, "at(potential, 0 mm, 0 mm, 11 mm)": false, "at(potential, 0 mm, 20 mm, 5 mm)": false,
		"at(potential, 0 mm, 0 mm, 5 mm)": true, "at(potential, 75 mm, 5 mm, 10 mm)": true, "at(potential, 25 mm, 0 mm, 0 mm)": true,
	} {
		doc.Readings = doc.Readings[:0]
		ask(t, doc, text)
		_, findings := model.Resolve(doc, physics.Catalog())
		if blocking := model.Blocking(findings); good {
			assert.Empty(t, blocking, text)
		} else {
			require.Len(t, blocking, 1, text)
			assert.Contains(t, blocking[0].Message, "lies in no solved part")
		}
	}
}

// TestAReadingOfAPhysicsThatIsOffWaits: it is no fault of the run.
func TestAReadingOfAPhysicsThatIsOffWaits(t *testing.T) {
	doc := demo(t, "electrode-lead")
	set(t, doc, "mesh/size", "12 mm", "physics/heat", "")
	o := settle(t, doc)
	waits := 0
	for _, q := range o.Readings {
		if q.Waits {
			waits++
			assert.NotEmpty(t, q.Missing)
		}
	}
	assert.Positive(t, waits)
}

// TestErrorsOrTheirReasons: each reading states its error, made of its parts, or why not.
func TestErrorsOrTheirReasons(t *testing.T) {
	doc := bath(t, "100 s", [2]string{"heat.source", "1 kW"})
	add(t, doc, "heat.convection", model.Patch{Part: "bath", Side: "left"}, "medium", "air", "temperature", "20 °C", "coefficient", "500 W/(m²·K)")
	set(t, doc, "mesh/size", "20 mm")
	o, err := Run(t.Context(), doc, Options{EstimateWithin: -1})
	require.NoError(t, err)
	q := o.Readings[0]
	require.NotNil(t, q.Error, q.Unknown)
	require.Len(t, q.Errors, 2)
	assert.Equal(t, ofCells, q.Errors[0].Of)
	assert.Equal(t, ofSteps, q.Errors[1].Of)
	assert.InEpsilon(t, q.Errors[0].Value+q.Errors[1].Value, *q.Error, 1e-12)

	o, err = Run(t.Context(), doc, Options{})
	require.NoError(t, err)
	assert.Nil(t, o.Readings[0].Error)
	assert.Equal(t, "it was not asked for", o.Readings[0].Unknown)
}

// TestSharpEdgesAreNamed: where the flux has no bound is said with what helps.
func TestSharpEdgesAreNamed(t *testing.T) {
	doc := bath(t, "")
	doc.Run = model.Run{}
	doc.Parts = append(doc.Parts, doc.Parts[0])
	doc.Parts[1].ID, doc.Parts[1].Name, doc.Parts[1].Place = "next", "next", model.Place{X: "100 mm"}
	add(t, doc, "heat.held", model.Patch{Part: "bath", Side: "top"}, "temperature", "40 °C")
	add(t, doc, "heat.held", model.Patch{Part: "next", Side: "bottom"}, "temperature", "20 °C")
	doc.Readings = nil
	add(t, doc, "heat.through", model.Patch{Part: "bath", Side: "top"})
	set(t, doc, "mesh/size", "15 mm")
	o, err := Run(t.Context(), doc, Options{EstimateWithin: -1})
	require.NoError(t, err)
	require.NotEmpty(t, o.Warnings)
	last := o.Warnings[len(o.Warnings)-1]
	assert.Contains(t, last, "the flux has no bound at (50")
	assert.Contains(t, last, "is held and the")
	assert.Contains(t, last, "finer in rounds")
	// A block without such edges.
	doc.Parts, doc.Conditions = doc.Parts[:1], doc.Conditions[:1]
	add(t, doc, "heat.held", model.Patch{Part: "bath", Side: "bottom"}, "temperature", "20 °C")
	o, err = Run(t.Context(), doc, Options{EstimateWithin: -1})
	require.NoError(t, err)
	assert.Empty(t, o.Warnings)
}

// TestEmissivitiesHaveBounds: as numbers before the run, as formulas within it.
func TestEmissivitiesHaveBounds(t *testing.T) {
	doc := bath(t, "")
	doc.Run = model.Run{}
	add(t, doc, "heat.radiation", model.Patch{Part: "bath", Side: "top"}, "temperature", "20 °C", "emissivity", "1.5")
	_, err := Run(t.Context(), doc, Options{})
	assert.ErrorContains(t, err, "must lie between 0 and 1")
	set(t, doc, "conditions/c1/values/emissivity", "0.9 + 0.01*temperature/1 K")
	_, err = Run(t.Context(), doc, Options{})
	assert.ErrorContains(t, err, "the emissivity becomes")
	set(t, doc, "conditions/c1/values/emissivity", "0.9", "conditions/c1/values/temperature", "5000 K")
	_, findings := model.Resolve(doc, physics.Catalog())
	require.Len(t, findings, 1)
	assert.Contains(t, findings[0].Message, "lies outside what a device can have")
}
