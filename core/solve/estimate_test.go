package solve

import (
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
)

// values makes samples of 7 + c·hᵖ.
func values(c, p float64, lengths ...float64) []sample {
	var s []sample
	for _, h := range lengths {
		s = append(s, sample{h, 7 + c*math.Pow(h, p)})
	}
	return s
}

func TestMeshErrorOfKnownOrders(t *testing.T) {
	for _, p := range []float64{0.5, 0.8, 1, 1.5, 2} {
		e, order := meshError(values(3, p, 0.1, 0.16, 0.26), 2)
		truth := 3 * math.Pow(0.1, p)
		assert.InEpsilon(t, p, order, 1e-3)
		assert.GreaterOrEqual(t, e, safety*truth*(1-1e-3), "order %g", p)
		assert.Less(t, e, 2.5*truth, "order %g", p)
	}
	// A higher order is not believed, but the error is held.
	e, _ := meshError(values(3, 4, 0.1, 0.16, 0.26), 2)
	assert.Greater(t, e, 3e-4)
	// Two meshes: more caution.
	e, order := meshError(values(3, 2, 0.1, 0.16), 2)
	assert.InEpsilon(t, doubtful*0.03, e, 1e-6)
	assert.Zero(t, order)
	// Values that swing, and values that do not change.
	e, _ = meshError([]sample{{0.1, 7}, {0.16, 7.2}, {0.26, 6.9}}, 2)
	assert.GreaterOrEqual(t, e, 0.3)
	e, _ = meshError([]sample{{0.1, 7}, {0.16, 7}, {0.26, 7}}, 2)
	assert.Less(t, e, 1e-8)
}

// TestThinPartsAreEstimatedByFinerMeshes: a strip thinner than the cells keeps coarser
// meshes from being coarser.
func TestThinPartsAreEstimatedByFinerMeshes(t *testing.T) {
	doc := demo(t, "pan-floor")
	doc.Parts = doc.Parts[2:3]
	for place, v := range map[string]string{"outline/width": "60 mm", "outline/depth": "3 mm", "span/from": "0 mm", "span/to": "25 mm"} {
		set(t, doc, "parts/floor/"+place, v)
	}
	doc.Conditions[0].Kind, doc.Conditions[0].Values = "heat.source-density", map[string]string{"density": "2 MW/m³*(1 + z/25 mm)"}
	set(t, doc, "conditions/c1/on", "floor")
	set(t, doc, "mesh/size", "26 mm")
	set(t, doc, "mesh/across", "1")
	doc.Readings = []model.Sentence{{ID: "r1", Kind: "heat.mean", On: model.Patch{Part: "floor"}}}
	o, err := Run(t.Context(), doc, Options{Now: time.Now, EstimateWithin: -1})
	require.NoError(t, err)
	require.Len(t, o.Readings, 1)
	set(t, doc, "mesh/size", "1 mm")
	finest := settle(t, doc)
	for i, q := range o.Readings {
		require.NotNil(t, q.Error, q.Key)
		truth := math.Abs(q.Value - finest.Readings[i].Value)
		assert.Greater(t, truth, 0.01, "the coarse mesh errs")
		assert.LessOrEqual(t, truth, *q.Error, q.Key)
	}
}

func TestReadingsHaveAMeshErrorWhereThereIsTime(t *testing.T) {
	doc := demo(t, "testdata/solid-post")
	for within, want := range map[time.Duration]bool{-1: true, 0: false, time.Nanosecond: false} {
		o, err := Run(t.Context(), doc, Options{Now: time.Now, EstimateWithin: within})
		require.NoError(t, err)
		for _, q := range o.Readings {
			assert.Equal(t, want, q.Error != nil, "%s within %s", q.Key, within)
		}
	}
}
