package trial

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/examples"
)

// resolved is the pan floor with its trial set changed.
func resolved(t *testing.T, change func(d *model.Document)) (*model.Resolved, *model.ResolvedTrials) {
	t.Helper()
	doc, err := examples.Load("pan-floor")
	require.NoError(t, err)
	change(doc)
	r, findings := model.Resolve(doc, physics.Catalog())
	require.Empty(t, findings)
	require.Len(t, r.Trials, 1)
	require.True(t, r.Trials[0].Good)
	return r, &r.Trials[0]
}

// over gives the trials of a set readings that a function tells.
func over(set *model.ResolvedTrials, of func(at []float64) map[string]float64) []Outcome {
	list := make([]Outcome, set.Count())
	for i := range list {
		var at []float64
		for k, n := range set.At(i) {
			at = append(at, set.Axes[k].Values[n])
		}
		list[i] = Outcome{Done: true, Counts: true, Readings: of(at)}
	}
	return list
}

func TestBestKeepsTheCondition(t *testing.T) {
	r, set := resolved(t, func(d *model.Document) {})
	require.Equal(t, 25, set.Count())
	// Unevenness grows with the pitch and falls with the thickness; mass grows with it.
	list := over(set, func(at []float64) map[string]float64 {
		return map[string]float64{"r1": at[0]*1e3 - 2*at[1]*1e3, "r5": at[1]}
	})
	best, ok := FindBest(r, set, list)
	require.True(t, ok)
	assert.InDelta(t, 0.004, best.Value, 1e-12, "the thinnest floor will do at some pitch")
	assert.Less(t, list[best.Trial].Readings["r1"], 10.0)

	first := best.Trial
	list[first].Counts = false
	best, ok = FindBest(r, set, list)
	require.True(t, ok)
	assert.NotEqual(t, first, best.Trial, "a trial that does not count is not the best")

	for i := range list {
		list[i].Readings["r1"] = 11
	}
	_, ok = FindBest(r, set, list)
	assert.False(t, ok)
	delete(list[0].Readings, "r1")
	assert.False(t, Keeps(r, set, 0, &list[0]), "what is not known keeps no condition")
}

func TestConditionMaySpeakOfWhatVaries(t *testing.T) {
	r, set := resolved(t, func(d *model.Document) { require.NoError(t, d.Set("trials/t1/goal/while", "t > 5.5 mm")) })
	list := over(set, func(at []float64) map[string]float64 { return map[string]float64{"r5": at[1]} })
	best, ok := FindBest(r, set, list)
	require.True(t, ok)
	assert.InDelta(t, 0.006, best.Value, 1e-12)
}

func TestTheParabolaFindsTheEndBetweenTrials(t *testing.T) {
	r, set := resolved(t, func(d *model.Document) {
		require.NoError(t, d.RemoveItem("trials/t1/vary/1"))
		require.NoError(t, d.Set("trials/t1/goal/while", ""))
		require.NoError(t, d.Set("trials/t1/goal/want", "greatest"))
	})
	const top = 0.00571
	list := over(set, func(at []float64) map[string]float64 {
		return map[string]float64{"r5": 7 - 1e6*(at[0]-top)*(at[0]-top)}
	})
	best, ok := FindBest(r, set, list)
	require.True(t, ok)
	require.True(t, best.Between)
	assert.InDelta(t, 0.006, set.Axes[0].Values[best.Trial], 1e-12)
	assert.InDelta(t, top, best.At, 1e-9)
	assert.InDelta(t, 7, best.Estimate, 1e-9)
	// At the end of the range there is nothing to draw a parabola through.
	list = over(set, func(at []float64) map[string]float64 { return map[string]float64{"r5": at[0]} })
	best, ok = FindBest(r, set, list)
	require.True(t, ok)
	assert.False(t, best.Between)
	assert.Equal(t, set.Count()-1, best.Trial)
}

func TestEveryTrialHasItsOwnModel(t *testing.T) {
	r, set := resolved(t, func(d *model.Document) {})
	seen := map[string]bool{}
	for i := range set.Count() {
		doc, err := set.Document(r.Document, i)
		require.NoError(t, err)
		out, findings := model.Resolve(doc, physics.Catalog())
		require.Empty(t, findings)
		for k, at := range set.At(i) {
			assert.InEpsilon(t, set.Axes[k].Values[at], out.Parameters[set.Axes[k].Parameter].SI, 1e-11)
		}
		seen[fmt.Sprint(doc.Parameters)] = true
	}
	assert.Len(t, seen, set.Count())
	assert.Equal(t, "13 mm", r.Document.Parameters[2].Value, "the model itself stays")
}
