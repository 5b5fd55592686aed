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

// resolved is the pan floor of 25 trials with its trial set changed.
func resolved(t *testing.T, change func(d *model.Document)) *Set {
	t.Helper()
	doc, err := examples.Load("pan-floor")
	require.NoError(t, err)
	doc.Trials = []model.TrialSet{{ID: "t1", Name: "floor", Vary: []model.Vary{{ID: "1", Parameter: "pitch", From: "13 mm", To: "15 mm", Count: "5"}, {ID: "2", Parameter: "t", From: "4 mm", To: "8 mm", Count: "5"}},
		Goals: []model.Goal{{ID: "1", Want: model.Least, Reading: "r5"}}, Limits: []model.Limit{{ID: "1", Reading: "r1", Side: model.Under, Value: "10 K"}}}}
	change(doc)
	r, findings := model.Resolve(doc, physics.Catalog())
	require.Empty(t, findings)
	require.Len(t, r.Trials, 1)
	require.True(t, r.Trials[0].Good)
	return &Set{ResolvedTrials: &r.Trials[0], Model: r, List: make([]Outcome, r.Trials[0].Count())}
}

// over gives the trials of a set readings that a function of the values of its parameters tells.
func over(s *Set, of func(at []float64) map[string]float64) {
	for i := range s.List {
		s.List[i] = Outcome{Done: true, Counts: true, Readings: of(s.Values(i))}
	}
}

func TestBestKeepsTheLimits(t *testing.T) {
	s := resolved(t, func(d *model.Document) {})
	require.Equal(t, 25, s.Count())
	// Unevenness grows with the pitch and falls with the thickness; mass grows with it.
	over(s, func(at []float64) map[string]float64 {
		return map[string]float64{"r1": at[0]*1e3 - 2*at[1]*1e3, "r5": at[1]}
	})
	best, ok := s.Best()
	require.True(t, ok)
	assert.InDelta(t, 0.004, best.Value, 1e-12, "the thinnest floor will do at some pitch")
	assert.Less(t, s.List[best.Trial].Readings["r1"], 10.0)

	first := best.Trial
	s.List[first].Counts = false
	best, ok = s.Best()
	require.True(t, ok)
	assert.NotEqual(t, first, best.Trial, "a trial that does not count is not the best")

	for i := range s.List {
		s.List[i].Readings["r1"] = 11
	}
	_, ok = s.Best()
	assert.False(t, ok)
	delete(s.List[0].Readings, "r1")
	assert.False(t, s.KeepsTrial(0), "what is not known keeps no limit")
}

func TestConditionMaySpeakOfWhatVaries(t *testing.T) {
	s := resolved(t, func(d *model.Document) {
		require.NoError(t, d.Set("trials/t1/while", "t > 5.5 mm"))
		d.Trials[0].Limits = nil
	})
	over(s, func(at []float64) map[string]float64 { return map[string]float64{"r5": at[1]} })
	best, ok := s.Best()
	require.True(t, ok)
	assert.InDelta(t, 0.006, best.Value, 1e-12)
}

func TestTheParabolaFindsTheEndBetweenTrials(t *testing.T) {
	s := resolved(t, func(d *model.Document) {
		require.NoError(t, d.RemoveItem("trials/t1/vary/1"))
		require.NoError(t, d.RemoveItem("trials/t1/limits/1"))
		require.NoError(t, d.Set("trials/t1/goals/1/want", "greatest"))
	})
	const top = 0.00571
	over(s, func(at []float64) map[string]float64 {
		return map[string]float64{"r5": 7 - 1e6*(at[0]-top)*(at[0]-top)}
	})
	best, ok := s.Best()
	require.True(t, ok)
	require.True(t, best.Between)
	assert.InDelta(t, 0.006, s.Axes[0].Values[best.Trial], 1e-12)
	assert.InDelta(t, top, best.At, 1e-9)
	assert.InDelta(t, 7, best.Estimate, 1e-9)
	// At the end of the range there is nothing to draw a parabola through.
	over(s, func(at []float64) map[string]float64 { return map[string]float64{"r5": at[0]} })
	best, ok = s.Best()
	require.True(t, ok)
	assert.False(t, best.Between)
	assert.Equal(t, s.Count()-1, best.Trial)
}

func TestEveryTrialHasItsOwnModel(t *testing.T) {
	s := resolved(t, func(d *model.Document) {})
	s.ResolvedTrials = s.With([][]float64{{0.01411, 0.0052}})
	seen := map[string]bool{}
	for i := range s.Count() {
		doc, err := s.Document(s.Model.Document, s.Values(i))
		require.NoError(t, err)
		out, findings := model.Resolve(doc, physics.Catalog())
		require.Empty(t, findings)
		for k, v := range s.Values(i) {
			assert.InEpsilon(t, v, out.Parameters[s.Axes[k].Parameter].SI, 1e-11)
		}
		seen[fmt.Sprint(doc.Parameters)] = true
	}
	assert.Len(t, seen, s.Count())
	assert.Equal(t, "13 mm", s.Model.Document.Parameters[2].Value, "the model itself stays")
}

// TestFront of two goals is what no other trial beats; the compromise lies between its ends.
func TestFront(t *testing.T) {
	s := resolved(t, func(d *model.Document) {
		d.Trials[0].Limits = nil
		d.Trials[0].Goals = []model.Goal{{ID: "1", Want: model.Least, Reading: "r5"}, {ID: "2", Want: model.Least, Reading: "r1"}}
	})
	// Each thickness has one pitch on the front: the narrowest, 13 mm.
	over(s, func(at []float64) map[string]float64 { return map[string]float64{"r1": at[0] / at[1], "r5": at[1]} })
	front := s.Front()
	require.Len(t, front, 5)
	for _, i := range front {
		assert.InDelta(t, 0.013, s.Values(i)[0], 1e-12)
	}
	// Round-off in what is the same brings nothing to the front.
	over(s, func(at []float64) map[string]float64 {
		return map[string]float64{"r1": at[0] / at[1], "r5": at[1] * (1 - 1e-11*at[0])}
	})
	assert.Len(t, s.Front(), 5)
	best, ok := s.Best()
	require.True(t, ok)
	assert.Greater(t, s.Values(best.Trial)[1], 0.004)
	assert.Less(t, s.Values(best.Trial)[1], 0.008)
	// A third goal that each trial has to itself brings all to the front; one near a value, those nearest.
	s.Aims = append(s.Aims, model.Aim{Want: model.Greatest, Reading: "r2"})
	over(s, func(at []float64) map[string]float64 {
		return map[string]float64{"r1": at[0] / at[1], "r5": at[1], "r2": at[0]}
	})
	assert.Len(t, s.Front(), 25)
	s.Aims = []model.Aim{{Want: model.Near, Reading: "r5", Target: 0.0061}}
	for _, i := range s.Front() {
		assert.InDelta(t, 0.006, s.Values(i)[1], 1e-12)
	}
	s.Aims = nil
	assert.Empty(t, s.Front())
}
