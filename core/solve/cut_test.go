package solve

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
)

// TestHalfADevice: a plane of symmetry is no surface, neither of "all other surfaces" nor of
// the surface of a part, and half of the power gives the temperatures of the whole.
func TestHalfADevice(t *testing.T) {
	doc := demo(t, "pan-floor")
	set(t, doc, "mesh/size", "4 mm")
	doc.Conditions = append(doc.Conditions,
		model.Sentence{ID: "c3", Kind: "heat.elsewhere", Values: map[string]string{"medium": "air", "temperature": "20 °C", "coefficient": "12 W/(m²·K)"}},
		model.Sentence{ID: "c4", Kind: "heat.convection", On: model.Patch{Part: "brick", Side: "*"}, Values: map[string]string{"medium": "air", "temperature": "20 °C", "coefficient": "6 W/(m²·K)"}})
	whole := settle(t, doc)
	doc.AddCut()
	set(t, doc, "space/cuts/1/across", "y")
	set(t, doc, "conditions/c1/values/power", "power/2")
	half := settle(t, doc)
	assert.InEpsilon(t, value(t, whole, "r4")/2, value(t, half, "r4"), 2e-4)
	assert.InEpsilon(t, value(t, whole, "r3"), value(t, half, "r3"), 1e-3)
	assert.InEpsilon(t, value(t, whole, "r5"), value(t, half, "r5")*2, 1e-9, "what is left is half of the mass")
	entries := map[string]float64{}
	for _, o := range []*Outcome{whole, half} {
		for _, e := range o.Balances[0].Entries {
			entries[e.Key+map[bool]string{true: " whole", false: " half"}[o == whole]] = e.Value
		}
	}
	for _, key := range []string{"c2", "c3", "c4"} {
		assert.InEpsilon(t, entries[key+" whole"]/2, entries[key+" half"], 2e-3, key)
	}
}

// TestHalfAnEnclosure: surfaces see the images of others across a plane of symmetry. The
// half of a cabinet has the temperatures of the whole, and half of what it loses.
func TestHalfAnEnclosure(t *testing.T) {
	doc := demo(t, "drying-cabinet")
	whole := settle(t, doc)
	doc.AddCut()
	set(t, doc, "conditions/c1/values/power", "power/2")
	set(t, doc, "conditions/c4/off", "true") // the left wall is gone
	half := settle(t, doc)
	assert.InEpsilon(t, whole.Radiation.Area/2, half.Radiation.Area, 1e-6, "the plane is no surface")
	for _, r := range whole.Readings {
		start := 293.15
		if r.Difference {
			start = 0
		}
		assert.InEpsilon(t, r.Value-start, value(t, half, r.Key)-start, 6e-3, r.Name)
	}
	entry := func(o *Outcome, key string) float64 {
		for _, e := range o.Balances[0].Entries {
			if e.Key == key {
				return e.Value
			}
		}
		return 0
	}
	assert.InEpsilon(t, entry(whole, "c2")/2, entry(half, "c2"), 1e-2, "what radiation takes away")

	set(t, doc, "mesh/size", "40 mm")
	doc.AddCut()
	set(t, doc, "space/cuts/2/at", "250 mm")
	set(t, doc, "space/cuts/2/keep", "less")
	_, err := Run(t.Context(), doc, Options{})
	var wrong *ModelError
	require.ErrorAs(t, err, &wrong)
	assert.Equal(t, "space/cuts/2/at", wrong.Findings[0].Place)
}
