package solve

import (
	"bytes"
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/physics/body"
)

// rakeArm is a bar that is fixed at its left end, of a material that bends.
func rakeArm() *model.Document {
	d := model.New("rake arm")
	d.Physics = nil
	d.Parts = []model.Part{{ID: "arm", Name: "arm", Material: "alloy", Role: model.Solved,
		Outline: model.Outline{Kind: "rectangle", Width: "60 mm", Depth: "20 mm"}, Span: model.Span{From: "0 mm", To: "10 mm"}, Place: model.Place{X: "30 mm"}}}
	d.Materials = []material.Material{{Name: "alloy", Family: "metal", Properties: map[material.Key]material.Property{
		material.YoungsModulus: {Value: "70 GPa"}, material.PoissonRatio: {Value: "0.33"}, material.Expansion: {Value: "2e-5 1/K"},
		material.Conductivity: {Value: "100 W/(m·K)"}, material.Density: {Value: "2700 kg/m³"}, material.HeatCapacity: {Value: "900 J/(kg·K)"}}}}
	d.Conditions = []model.Sentence{
		{ID: "c1", Kind: "solid.bends", On: model.Patch{Part: "arm"}},
		{ID: "c2", Kind: "solid.fixed", On: model.Patch{Part: "arm", Side: "left"}},
		{ID: "c3", Kind: "solid.force", On: model.Patch{Part: "arm", Side: "right"}, Values: map[string]string{"z": "-50 N"}},
	}
	d.Readings = []model.Sentence{
		{ID: "r1", Kind: "solid.displacement", On: model.Patch{Part: "arm"}},
		{ID: "r2", Kind: "solid.mises", On: model.Patch{Part: "arm"}},
		{ID: "r3", Kind: "formula", Values: map[string]string{"formula": "mean(displacement_x over arm.right)"}, Unit: "µm"},
	}
	d.Mesh = model.Mesh{Size: "6 mm", Across: "2", Order: "2"}
	d.Enumerate()
	return d
}

// TestVectorsThroughTheDoor: components, sizes and balances of a vector come out by name, also
// in the file for other programs.
func TestVectorsThroughTheDoor(t *testing.T) {
	o := settle(t, rakeArm())
	var names []string
	for _, f := range o.Result.Fields {
		names = append(names, f.Name)
	}
	assert.Equal(t, []string{"displacement_x", "displacement_y", "displacement_z", "displacement", "stress_xx"}, names[:5])
	assert.Equal(t, []string{"displacement"}, o.SolvedFor())
	require.Len(t, o.Balances, 3)
	assert.Equal(t, "force along z", o.Balances[2].Name)
	assert.InDelta(t, 50, o.Balances[2].In, 1e-8)
	for _, b := range o.Balances[:2] {
		assert.Zero(t, b.In, "what rounding leaves is nothing")
		assert.Less(t, b.Closure, 1e-9)
	}
	most, ok := o.FieldNamed("displacement")
	require.True(t, ok)
	assert.InEpsilon(t, value(t, o, "r1"), most.Greatest.Value, 1e-3, "at nodes and at corners")
	var vtu bytes.Buffer
	require.NoError(t, o.Fields.WriteVTU(&vtu))
	assert.Contains(t, vtu.String(), `Name="displacement" NumberOfComponents="3"`)
	assert.NotContains(t, vtu.String(), `"displacement_x"`)
	assert.Contains(t, vtu.String(), `Name="von_mises" NumberOfComponents="1"`)
	assert.Contains(t, vtu.String(), `Name="stress" NumberOfComponents="6"`)
	assert.NotContains(t, vtu.String(), `"stress_xx"`)
	vector := o.Fields.Values[3]
	for i, size := range vector.Values {
		x, y, z := o.Fields.Values[0].Values[i], o.Fields.Values[1].Values[i], o.Fields.Values[2].Values[i]
		require.InDelta(t, math.Sqrt(x*x+y*y+z*z), size, 1e-15)
	}
}

// TestHeatThenStress: heat is solved first and does not notice that the parts bend; switched
// off, nothing of it is left.
func TestHeatThenStress(t *testing.T) {
	doc := rakeArm()
	doc.Physics = []model.Physics{{Kind: "heat"}}
	doc.Conditions[2] = model.Sentence{ID: "c3", Kind: "solid.expands", On: model.Patch{Part: "arm"}, Values: map[string]string{"temperature": "20 °C"}}
	doc.Conditions = append(doc.Conditions,
		model.Sentence{ID: "c4", Kind: "heat.held", On: model.Patch{Part: "arm", Side: "left"}, Values: map[string]string{"temperature": "20 °C"}},
		model.Sentence{ID: "c5", Kind: "heat.held", On: model.Patch{Part: "arm", Side: "right"}, Values: map[string]string{"temperature": "120 °C"}})
	doc.Readings = append(doc.Readings, model.Sentence{ID: "r4", Kind: "heat.through", On: model.Patch{Part: "arm", Side: "left"}})
	warm := settle(t, doc)
	assert.Contains(t, warm.Solver.Method, "temperature: ")
	assert.Contains(t, warm.Solver.Method, "then displacement: ")
	// αΔT/2·L, and a little for the end that cannot widen.
	assert.InEpsilon(t, 2e-5*50*0.06, value(t, warm, "r3"), 0.03)
	// One field may be asked for beside the other.
	doc.Readings = append(doc.Readings, model.Sentence{ID: "r5", Kind: "formula", Values: map[string]string{"formula": "mean(von_mises*(temperature - 0 K)/300 K over arm)"}})
	assert.Greater(t, value(t, settle(t, doc), "r5"), 0.9*warm.Result.Fields[0].Least.Value)
	off(t, doc, "c1")
	for _, id := range []string{"c2", "c3"} {
		off(t, doc, id)
	}
	alone := settle(t, doc)
	assert.InEpsilon(t, value(t, warm, "r4"), value(t, alone, "r4"), 1e-13)
	require.Equal(t, "r1", alone.Readings[0].Key)
	assert.True(t, alone.Readings[0].Waits)
}

// TestStressInTime: the deformation follows the temperature of each moment; at rest it is that of
// the steady run.
func TestStressInTime(t *testing.T) {
	doc := rakeArm()
	doc.Mesh.Order = "1"
	doc.Physics = []model.Physics{{Kind: "heat"}}
	doc.Conditions[2] = model.Sentence{ID: "c3", Kind: "solid.expands", On: model.Patch{Part: "arm"}, Values: map[string]string{"temperature": "20 °C"}}
	doc.Conditions = append(doc.Conditions,
		model.Sentence{ID: "c4", Kind: "heat.held", On: model.Patch{Part: "arm", Side: "right"}, Values: map[string]string{"temperature": "120 °C"}})
	steady := settle(t, doc)
	doc.Run = model.Run{Kind: model.Transient, End: "10 min", Start: "20 °C"}
	moving := settle(t, doc)
	assert.InEpsilon(t, value(t, steady, "r3"), value(t, moving, "r3"), 1e-5)
	curve := moving.History.Readings["r3"]
	assert.Less(t, curve[0], 0.2*curve[len(curve)-1])
	assert.Contains(t, moving.Solver.Method, "steps in time")
	assert.Equal(t, "heat over the run", moving.Balances[0].Name)
}

// TestWhoFollowsWhom: a current in what does not notice the temperature is solved first; where
// it does, both are solved together or, if a sentence says so, in turn, to the same end.
func TestWhoFollowsWhom(t *testing.T) {
	doc := demo(t, "electrode-lead")
	set(t, doc, "mesh/size", "12 mm")
	together := settle(t, doc)
	assert.Contains(t, together.Solver.Method, "Newton's method")
	id, err := doc.AddSentence(physics.Catalog(), body.KeyTurns, model.Patch{})
	require.NoError(t, err)
	turned := settle(t, doc)
	assert.Contains(t, turned.Solver.Method, "turns")
	for i, q := range together.Readings {
		assert.InEpsilon(t, q.Value, turned.Readings[i].Value, 1e-7, q.Key)
	}
	for _, b := range turned.Balances {
		assert.Less(t, b.Closure, 1e-7, b.Name)
	}
	off(t, doc, id)
	doc.CarryAll()
	doc = doc.Clone() // with maps of its own
	for i := range doc.Materials {
		if p, ok := doc.Materials[i].Properties[material.Resistivity]; ok {
			p.Value, p.From, p.To = "2e-8 Ω·m", "", ""
			doc.Materials[i].Properties[material.Resistivity] = p
		}
	}
	follows := settle(t, doc)
	assert.Regexp(t, "^potential: .*; then temperature: ", follows.Solver.Method)
	assert.Less(t, follows.Balances[0].Closure, 1e-9, "all electric power becomes heat")
}

// TestHalfASolid: what lies in a plane of symmetry stays in it.
func TestHalfASolid(t *testing.T) {
	whole := rakeArm()
	doc := rakeArm()
	doc.Space.Cuts = []model.Cut{{Across: "y", At: "0 mm", Keep: model.Greater}}
	doc.Conditions[2].Values["z"] = "-25 N"
	doc.Enumerate()
	full, half := settle(t, whole), settle(t, doc)
	assert.InEpsilon(t, value(t, full, "r1"), value(t, half, "r1"), 5e-3, "on other cells")
	keys := map[string]bool{}
	for _, e := range half.Balances[1].Entries {
		keys[e.Key] = true
	}
	assert.True(t, keys["cut 1"], "the plane holds it: %v", half.Balances[1].Entries)
}

// TestSolidsThatCannotRun: what is missing or wrong is said with its place.
func TestSolidsThatCannotRun(t *testing.T) {
	for name, c := range map[string]struct {
		change func(d *model.Document)
		words  string
	}{
		"not held": {func(d *model.Document) { d.Conditions = append(d.Conditions[:1], d.Conditions[2]) }, "nothing holds what bends"},
		"it can turn": {func(d *model.Document) {
			d.Conditions[1] = model.Sentence{ID: "c2", Kind: "solid.moved", On: model.Patch{Part: "arm", Side: "left"}, Values: map[string]string{"x": "0 mm"}}
		}, "nothing holds the device in all directions"},
		"no modulus": {func(d *model.Document) { delete(d.Materials[0].Properties, material.YoungsModulus) }, "alloy has no Young's modulus"},
		"no heat": {func(d *model.Document) {
			d.Conditions = append(d.Conditions, model.Sentence{ID: "c9", Kind: "solid.expands", On: model.Patch{Part: "arm"}, Values: map[string]string{"temperature": "20 °C"}})
		}, "c9 needs the temperature, which is not solved for"},
		"it would lock": {func(d *model.Document) {
			d.Materials[0].Properties[material.PoissonRatio] = material.Property{Value: "0.4999"}
		}, "so that its cells would lock"},
		"along z":       {func(d *model.Document) { d.Space.Kind = model.Plane }, "gives a value along z"},
		"does not bend": {func(d *model.Document) { d.Conditions = d.Conditions[1:] }, "which does not bend"},
		"thin in space": {func(d *model.Document) {
			d.Conditions = append(d.Conditions, model.Sentence{ID: "c9", Kind: "solid.thin"})
		}, "c9 speaks of a plane space"},
		"nothing at all": {func(d *model.Document) { d.Conditions = nil }, "nothing is solved for"},
	} {
		doc := rakeArm().Clone()
		c.change(doc)
		_, err := Run(t.Context(), doc, Options{})
		require.Error(t, err, name)
		assert.Contains(t, strings.ToLower(err.Error()), strings.ToLower(c.words), name)
	}
}

// TestSlidingOnASlant: a bar that is turned by 30° and slides along three of its sides is as long
// as one along the axes, and what it slides on holds it.
func TestSlidingOnASlant(t *testing.T) {
	for _, order := range []string{"1", "2"} {
		doc := rakeArm()
		doc.Mesh.Order = order
		doc.Parts[0].Place.Turn = "30 deg"
		doc.Conditions = doc.Conditions[:1]
		for i, side := range []string{"left", "front", "bottom"} {
			doc.Conditions = append(doc.Conditions, model.Sentence{ID: fmt.Sprintf("c%d", i+2), Kind: "solid.slides", On: model.Patch{Part: "arm", Side: side}})
		}
		doc.Conditions = append(doc.Conditions, model.Sentence{ID: "c9", Kind: "solid.force", On: model.Patch{Part: "arm", Side: "right"},
			Values: map[string]string{"x": "1000 N*cos(30 deg)", "y": "1000 N*sin(30 deg)"}})
		doc.Readings[2].Values["formula"] = "mean(displacement_x*cos(30 deg) + displacement_y*sin(30 deg) over arm.right)"
		o := settle(t, doc)
		assert.InEpsilon(t, 1000*0.06/(70e9*2e-4), value(t, o, "r3"), 1e-9)
		assert.InEpsilon(t, 1000/2e-4, value(t, o, "r2"), 1e-8)
		entries := map[string]float64{}
		for _, e := range o.Balances[1].Entries {
			entries[e.Key] = e.Value
		}
		assert.InDelta(t, 500, entries["c9"], 1e-8)
		assert.InDelta(t, -500, entries["c2"], 1e-6, "the end holds it: %v", o.Balances[1].Entries)

		// The tones are those of the bar along the axes.
		doc.Run = model.Run{Kind: model.Modes, Count: "3"}
		turned := settle(t, doc)
		doc.Parts[0].Place.Turn = ""
		along := settle(t, doc)
		for i := range 3 {
			assert.InEpsilon(t, along.Modes[i].Frequency, turned.Modes[i].Frequency, 5e-3, "on other cells")
		}
	}
}
