package solve

import (
	"math"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
)

// repeating is the gutter as one of many lengths that are alike.
func repeating(kind string, values map[string]string) *model.Document {
	d := gutter("plane")
	values["x"] = "60 mm"
	d.Conditions = []model.Sentence{d.Conditions[0], {ID: "c2", Kind: kind, On: model.Patch{Part: "gut", Side: "left"}, Values: values}}
	d.Readings = append(d.Readings[:1], d.Readings[2], d.Readings[4], model.Sentence{ID: "r6", Kind: "flow.loss", Unit: "Pa"}, model.Sentence{ID: "r7", Kind: "flow.stays", On: model.Patch{Part: "gut"}, Unit: "s"})
	return d
}

// TestFlowThatRepeats: the parabola of a channel without ends, exactly, by its pressure and by its volume.
func TestFlowThatRepeats(t *testing.T) {
	drop := 12 * 0.02 * 0.05 * 0.06 / (0.02 * 0.02) // Pa
	for kind, values := range map[string]map[string]string{"flow.repeats": {"pressure": "1.8 Pa"}, "flow.repeats-with": {"flow": "1e-3 m³/s"}} {
		o := settle(t, repeating(kind, values))
		assert.InEpsilon(t, 0.075, value(t, o, "r1"), 2e-7, kind)
		assert.InEpsilon(t, 0.05*0.02, value(t, o, "r3"), 2e-7, kind)
		assert.InEpsilon(t, 6*0.02*0.05*0.06/0.02, value(t, o, "r5"), 2e-7, "all of the half that a wall holds, as there are no ends")
		assert.InEpsilon(t, drop, value(t, o, "r6"), 2e-7, kind)
		assert.InEpsilon(t, 0.06/0.05, value(t, o, "r7"), 2e-7, kind)
		for _, b := range o.Balances {
			assert.Less(t, b.Closure, 1e-8, b.Name)
		}
	}
	_, err := Run(t.Context(), repeating("flow.repeats", map[string]string{"pressure": "1 Pa", "y": "5 mm"}), Options{})
	require.Error(t, err)
	assert.Contains(t, err.Error(), "do not lie as they do at the left")
	warm := repeating("flow.repeats", map[string]string{"pressure": "1 Pa"})
	warm.Physics = []model.Physics{{Kind: "heat"}}
	_, err = Run(t.Context(), warm, Options{})
	require.Error(t, err)
	assert.Contains(t, err.Error(), "carries along is not known")
}

// TestFlowThroughManyRods: slow flow through a square array of rods takes the force that A. S. Sangani and A. Acrivos,
// Int. J. Multiphase Flow 8 (1982) 193, have: on a rod and its length 24.83 times the viscosity and the mean speed where rods
// take a tenth of the room.
func TestFlowThroughManyRods(t *testing.T) {
	d := repeating("flow.repeats-with", map[string]string{"flow": "1e-6 m³/s"})
	d.Space.Unit = "mm"
	d.Parts[0].Outline = model.Outline{Kind: "rectangle", Width: "10 mm", Depth: "10 mm"}
	d.Parts[0].Place = model.Place{X: "5 mm", Y: "5 mm"}
	radius := 0.01 * math.Sqrt(0.1/math.Pi)
	d.Parts = append(d.Parts, model.Part{ID: "rod", Name: "rod", Material: "steel", Role: model.Solved, Outline: model.Outline{Kind: "disc", Diameter: strconv.FormatFloat(2*radius*1e3, 'g', -1, 64) + " mm"}, Place: model.Place{X: "5 mm", Y: "5 mm"}})
	d.Materials = append(d.Materials, material.Material{Name: "steel", Family: "metal", Properties: map[material.Key]material.Property{material.Density: {Value: "8000 kg/m³"}}})
	d.Conditions[1].Values["x"] = "10 mm"
	for i, side := range []string{"front", "back"} {
		d.Conditions = append(d.Conditions, model.Sentence{ID: []string{"s1", "s2"}[i], Kind: "flow.slips", On: model.Patch{Part: "gut", Side: side}})
	}
	d.Mesh = model.Mesh{Size: "0.6 mm", Across: "1", Order: "2"}
	d.Readings = []model.Sentence{{ID: "r1", Kind: "flow.force", On: model.Patch{Part: "rod", Side: "rim"}, Values: map[string]string{"axis": "x"}, Unit: "N"}}
	d.Enumerate()
	o := settle(t, d)
	mean := 1e-6 / 0.01
	assert.InEpsilon(t, 24.83, value(t, o, "r1")/(0.02*mean), 2e-3)
}
