package solve

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
)

// wound is a coil about a core and a plate of iron above both, round an axis or a quarter of it in space.
func wound(kind string, fine float64) *model.Document {
	size := func(v float64) string { return fmt.Sprintf("%g mm", v*fine) }
	var d *model.Document
	up := "y"
	if kind == model.Axial {
		d = magnetic(kind, size(4), box("out", "nothing", 0, -30, 40, 45), box("coil", "nothing", 0, 0, 9, 10), box("bore", "nothing", 0, 0, 6, 10), box("core", "iron", 0, -4, 5, 12), box("plate", "iron", 0, 14, 10, 17))
	} else {
		up = "z"
		d = magnetic(kind, size(4), disc("out", "nothing", 0, 0, 40), disc("coil", "nothing", 0, 0, 9), disc("bore", "nothing", 0, 0, 6), disc("core", "iron", 0, 0, 5), disc("plate", "iron", 0, 0, 10))
		for i, span := range [][2]float64{{-30, 45}, {0, 10}, {0, 10}, {-4, 12}, {14, 17}} {
			d.Parts[i].Span = model.Span{From: fmt.Sprintf("%g mm", span[0]), To: fmt.Sprintf("%g mm", span[1])}
		}
		d.Space.Cuts = []model.Cut{{Across: "x", At: "0 mm", Keep: "greater"}, {Across: "y", At: "0 mm", Keep: "greater"}}
	}
	for _, part := range []string{"coil", "core", "plate"} {
		d.Mesh.Near = append(d.Mesh.Near, model.MeshNear{On: model.Patch{Part: part, Side: "*"}, Size: size(1)})
	}
	d.Conditions = []model.Sentence{{ID: "c", Kind: "magnetic.coil", On: model.Patch{Part: "coil"}, Values: map[string]string{"turns": "200", "current": "3 A"}},
		{ID: "o", Kind: "magnetic.open", On: model.Patch{Part: "out", Side: "*"}}}
	at := "at(flux_density_y, 0 mm, 20 mm, 0 mm)"
	if up == "z" {
		at = "at(flux_density_z, 0.01 mm, 0.01 mm, 20 mm)"
	}
	d.Readings = []model.Sentence{
		{ID: "r1", Kind: "magnetic.force", On: model.Patch{Part: "plate"}, Values: map[string]string{"axis": up}, Unit: "N"},
		{ID: "r2", Kind: "magnetic.inductance", On: model.Patch{Part: "coil"}, Unit: "H"},
		{ID: "r3", Kind: "formula", Values: map[string]string{"formula": at}},
		{ID: "r4", Kind: "formula", Values: map[string]string{"formula": "total(field_energy over out) + total(field_energy over bore) + total(field_energy over coil) + total(field_energy over core) + total(field_energy over plate)"}}}
	d.Enumerate()
	return d
}

// TestCoilsInSpace: what a section round the axis says of a coil with iron, a quarter of it in space says too.
func TestCoilsInSpace(t *testing.T) {
	flat, solid := settle(t, wound(model.Axial, 0.5)), settle(t, wound(model.Solid, 2))
	for _, id := range []string{"r1", "r2", "r3", "r4"} {
		share := 4.
		if id == "r3" {
			share = 1
		}
		assert.InEpsilon(t, value(t, flat, id), share*value(t, solid, id), 0.04, id)
	}
	assert.InEpsilon(t, 9*value(t, solid, "r2")/2, value(t, solid, "r4"), 0.02, "half of linkage times current, but for what lies in open space")
}

// TestInductanceBetweenTurns is what another ampere adds to the flux that turns hold, with iron that saturates, and the same both ways.
func TestInductanceBetweenTurns(t *testing.T) {
	build := func(current string) *model.Document {
		d := magnetic(model.Axial, "4 mm", box("out", "nothing", 0, -40, 50, 60), box("one", "nothing", 5, 0, 8, 10), box("two", "nothing", 12, 15, 14, 20), box("yoke", "steel", 0, -5, 4, 18))
		d.Materials = append(d.Materials, material.Material{Name: "steel", Family: "metal", Properties: map[material.Key]material.Property{
			material.Magnetisation: {Value: "pi*4e-7 T·m/A*field + 2 T*tanh(field/(500 A/m))", From: "0 A/m", To: "50 kA/m"}}})
		d.Conditions = []model.Sentence{{ID: "c1", Kind: "magnetic.coil", On: model.Patch{Part: "one"}, Values: map[string]string{"turns": "300", "current": current}},
			{ID: "c2", Kind: "magnetic.coil", On: model.Patch{Part: "two"}, Values: map[string]string{"turns": "100", "current": "0 A"}}}
		d.Readings = []model.Sentence{{ID: "r1", Kind: "magnetic.linkage", On: model.Patch{Part: "two"}, Unit: "Wb"},
			{ID: "r2", Kind: "magnetic.mutual", On: model.Patch{Part: "two"}, Values: map[string]string{"other": "one"}, Unit: "H"},
			{ID: "r3", Kind: "magnetic.mutual", On: model.Patch{Part: "one"}, Values: map[string]string{"other": "two"}, Unit: "H"},
			{ID: "r4", Kind: "magnetic.mutual", On: model.Patch{Part: "one"}, Values: map[string]string{"other": "yoke"}, Unit: "H"}}
		d.Enumerate()
		return d
	}
	at := func(current string) *Outcome {
		o, err := Run(t.Context(), build(current), Options{})
		require.NoError(t, err)
		return o
	}
	o := at("200 A")
	less, more := at("199.5 A"), at("200.5 A")
	assert.InEpsilon(t, (value(t, more, "r1")-value(t, less, "r1"))/1, value(t, o, "r2"), 1e-4)
	assert.InEpsilon(t, value(t, o, "r2"), value(t, o, "r3"), 1e-8)
	assert.Less(t, value(t, o, "r2"), 0.9*value(t, at("0.1 A"), "r2"), "iron saturates")
	assert.Contains(t, o.Readings[3].Missing, "no turns")

	solid := wound(model.Solid, 2.5)
	solid.Readings = []model.Sentence{solid.Readings[1], {ID: "r5", Kind: "magnetic.mutual", On: model.Patch{Part: "coil"}, Values: map[string]string{"other": "coil"}, Unit: "H"}}
	o = settle(t, solid)
	assert.InEpsilon(t, value(t, o, "r2"), value(t, o, "r5"), 1e-6, "nothing saturates")
}

// TestRingsThatTurnsRunIn: a square one without iron has the field of Biot and Savart in its middle, whole and as a quarter;
// what is no ring is refused.
func TestRingsThatTurnsRunIn(t *testing.T) {
	ring := func(cuts ...model.Cut) *model.Document {
		near := "0.01 mm"
		if len(cuts) > 1 {
			near = "-0.01 mm"
		}
		d := magnetic(model.Solid, "10 mm", box("out", "nothing", -30, -30, 30, 30), box("coil", "nothing", -11, -11, 11, 11), box("bore", "nothing", -9, -9, 9, 9))
		for i, span := range [][2]float64{{-30, 30}, {-1, 1}, {-1, 1}} {
			d.Parts[i].Span = model.Span{From: fmt.Sprintf("%g mm", span[0]), To: fmt.Sprintf("%g mm", span[1])}
		}
		d.Space.Cuts = cuts
		d.Mesh.Near = []model.MeshNear{{On: model.Patch{Part: "coil", Side: "*"}, Size: "3 mm"}}
		d.Conditions = []model.Sentence{{ID: "c", Kind: "magnetic.coil", On: model.Patch{Part: "coil"}, Values: map[string]string{"turns": "100", "current": "2 A"}},
			{ID: "o", Kind: "magnetic.open", On: model.Patch{Part: "out", Side: "*"}}}
		d.Readings = []model.Sentence{{ID: "r1", Kind: "formula", Values: map[string]string{"formula": "at(flux_density_z, 0.01 mm, " + near + ", 0.01 mm)"}}}
		d.Enumerate()
		return d
	}
	// Turns of a square of 20 mm at an even distance from both edges.
	want := 2 * math.Sqrt2 * vacuum * 200 / (math.Pi * 0.02)
	x := model.Cut{Across: "x", At: "0 mm", Keep: "greater"}
	y := model.Cut{Across: "y", At: "0 mm", Keep: "less"}
	for _, cuts := range [][]model.Cut{nil, {x, y}} {
		b := value(t, settle(t, ring(cuts...)), "r1")
		assert.InEpsilon(t, want, b, 0.02)
	}
	wrong := ring(x)
	wrong.Parts[2].Place.X = "9 mm"
	_, err := Run(t.Context(), wrong, Options{})
	require.ErrorContains(t, err, "turns cannot run in the coil")
	wrong = ring()
	wrong.Parts[2].Span.To = "0.5 mm"
	_, err = Run(t.Context(), wrong, Options{})
	require.ErrorContains(t, err, "not the same at all heights")
	wrong = ring()
	wrong.Parts[2].Outline.Depth = "30 mm"
	_, err = Run(t.Context(), wrong, Options{})
	require.ErrorContains(t, err, "turns cannot run in the coil")
}
