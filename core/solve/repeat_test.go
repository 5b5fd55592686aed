package solve

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
