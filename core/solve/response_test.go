package solve

import (
	"math"
	"math/cmplx"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/result"
)

// TestHeatWave: the temperature of a thick wall whose face swings dies away with the depth like
// exp(−x/δ), δ = √(2a/ω), and what swings does not depend on where its middle is.
func TestHeatWave(t *testing.T) {
	doc := rakeArm()
	doc.Physics = []model.Physics{{Kind: "heat"}}
	doc.Parts[0].Outline.Depth, doc.Parts[0].Span.To = "4 mm", "4 mm"
	doc.Mesh = model.Mesh{Size: "2 mm", Across: "1", Order: "2"}
	doc.Conditions = []model.Sentence{
		{ID: "c1", Kind: "heat.held", On: model.Patch{Part: "arm", Side: "left"}, Values: map[string]string{"temperature": "350 K + 5 K*swing"}},
		{ID: "c2", Kind: "heat.convection", On: model.Patch{Part: "arm", Side: "right"}, Values: map[string]string{"medium": "air", "temperature": "300 K", "coefficient": "10 W/(m²·K)"}}}
	doc.Readings = []model.Sentence{
		{ID: "r1", Kind: "formula", Values: map[string]string{"formula": "at(temperature, 5 mm, 0 mm, 2 mm)"}, Unit: "K"},
		{ID: "r2", Kind: "heat.greatest", On: model.Patch{Part: "arm"}, Unit: "K"},
		{ID: "r3", Kind: "heat.mean", On: model.Patch{Part: "arm", Side: "right"}, Unit: "K"}}
	doc.Run = model.Run{Kind: model.Response, Lowest: "0.1 Hz", Highest: "1 Hz", Count: "3"}
	o := settle(t, doc)
	require.Equal(t, result.ByFrequency, o.History.Axis)
	require.Len(t, o.History.Times, 3)
	const a = 100. / (2700 * 900)
	for i, f := range o.History.Times {
		depth := math.Sqrt(a / (math.Pi * f))
		assert.InEpsilon(t, 5*math.Exp(-0.005/depth), o.History.Readings["r1"][i], 5e-3, "%g Hz", f)
		assert.InEpsilon(t, 5, o.History.Readings["r2"][i], 1e-9, "the face itself swings most")
	}
	assert.InEpsilon(t, o.History.Readings["r1"][0], value(t, o, "r1"), 1e-12, "a reading is that of the frequency at which it is greatest")
	assert.Less(t, value(t, o, "r3"), 0.5)
	assert.Equal(t, result.ByFrequency, o.Surface.Axis)
	assert.Len(t, o.Surface.Moments, 3)
	temperature, _ := o.FieldNamed("temperature")
	assert.InEpsilon(t, 5, temperature.Greatest.Value, 1e-9, "what is drawn is the amplitude")

	// The parts of the swing lag behind that of the face by the depth over δ.
	parts := map[string][]float64{}
	for _, f := range o.Fields.Values {
		parts[f.Name] = f.Values
	}
	depth := math.Sqrt(a / (math.Pi * o.History.Times[o.Surface.Shown]))
	for i, amplitude := range parts["temperature"] {
		x := (o.Fields.Nodes[3*i] - least(o.Fields.Nodes)) / depth
		want := 5 * cmplx.Exp(complex(-x, -x))
		if x*depth < 0.01 { // from its other face waves come back
			assert.InDelta(t, real(want), parts["temperature_real"][i], 0.03)
			assert.InDelta(t, imag(want), parts["temperature_imaginary"][i], 0.03)
		}
		assert.InDelta(t, amplitude, math.Hypot(parts["temperature_real"][i], parts["temperature_imaginary"][i]), 1e-9)
	}

	doc.Conditions[0].Values["temperature"] = "350 K"
	_, err := Run(t.Context(), doc, Options{})
	assert.ErrorContains(t, err, "nothing swings")
}

// least is the least x of places, three coordinates each.
func least(places []float64) float64 {
	lo := places[0]
	for i := 0; i < len(places); i += 3 {
		lo = min(lo, places[i])
	}
	return lo
}

// TestSwingingBar: a slender bar that is fixed at one end and shaken at the other, with a part of
// what it stores lost, goes as its equation says.
func TestSwingingBar(t *testing.T) {
	doc := tine(1)
	doc.Readings = []model.Sentence{{ID: "r1", Kind: "formula", Values: map[string]string{"formula": "mean(displacement_z over arm.right)"}, Unit: "mm"}}
	doc.Materials[0].Properties[material.LossFactor] = material.Property{Value: "0.02"}
	doc.Conditions = append(doc.Conditions, model.Sentence{ID: "c3", Kind: "solid.force", On: model.Patch{Part: "arm", Side: "right"}, Values: map[string]string{"z": "3 N + 2 N*swing"}})
	doc.Run = model.Run{Kind: model.Response, Lowest: "20 Hz", Highest: "160 Hz", Count: "8"}
	o := settle(t, doc)
	// A force F at the free end moves it by F/(EIk³)·(sin kL·cosh kL − cos kL·sinh kL)/(1 + cos kL·cosh kL).
	const length, width, thick = 0.2, 0.008, 0.004
	stiff := complex(70e9*width*thick*thick*thick/12, 0) * (1 + 0.02i)
	for i, f := range o.History.Times {
		omega := 2 * math.Pi * f
		k := cmplx.Pow(complex(2700*width*thick*omega*omega, 0)/stiff, 0.25)
		x := k * length
		want := 2 / (stiff * k * k * k) * (cmplx.Sin(x)*cmplx.Cosh(x) - cmplx.Cos(x)*cmplx.Sinh(x)) / (1 + cmplx.Cos(x)*cmplx.Cosh(x))
		assert.InEpsilon(t, 1e3*cmplx.Abs(want), o.History.Readings["r1"][i], 0.03, "%g Hz", f)
	}
}
