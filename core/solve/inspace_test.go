package solve

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/result"
)

// trough is the gutter in space, with cells of order 1.
func trough() *model.Document {
	d := gutter(model.Solid)
	d.Space.Depth = ""
	d.Parts[0].Span = model.Span{From: "0 mm", To: "20 mm"}
	d.Mesh.Order = "1"
	d.Conditions[1].Values["speed"] = "1 mm/s"
	d.Readings = d.Readings[1:4]
	return d
}

// TestFlowInSpaceInTime: what sets out from rest comes to the steady flow, with all of what comes in leaving.
func TestFlowInSpaceInTime(t *testing.T) {
	steady := settle(t, trough())
	d := trough()
	d.Run = model.Run{Kind: model.Transient, End: "60 s", Tolerance: "1 %"}
	o, err := Run(t.Context(), d, Options{})
	require.NoError(t, err)
	require.Equal(t, result.Settled, o.Status, o.Reason)
	assert.InEpsilon(t, value(t, steady, "r2"), value(t, o, "r2"), 1e-3)
	assert.InEpsilon(t, 1e-3*4e-4, value(t, o, "r3"), 1e-6)
	for _, b := range o.Balances {
		assert.Less(t, b.Closure, 1e-5, "%s: as exactly as the steps are solved", b.Name)
	}
}

// TestSlipAslantInSpace is refused in words.
func TestSlipAslantInSpace(t *testing.T) {
	d := trough()
	d.Parts[0].Place.Turn = "10 deg"
	d.Conditions = append(d.Conditions, model.Sentence{ID: "s", Kind: "flow.slips", On: model.Patch{Part: "gut", Side: "front"}})
	_, err := Run(t.Context(), d, Options{})
	require.Error(t, err)
	assert.Contains(t, err.Error(), "slips along flat surfaces across an axis only")
}
