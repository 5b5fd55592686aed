package web

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/result"
	"saltkettle/core/trial"
)

// TestMovesInATable: readings by parameters, pale where chance may be all of it, and a parameter that none follows by name.
func TestMovesInATable(t *testing.T) {
	set := &model.ResolvedTrials{TrialSet: &model.TrialSet{Pattern: model.Latin}, Axes: []model.Axis{{Parameter: "gap", Values: []float64{1, 2, 3, 4, 5, 6}}, {Parameter: "hue", Values: []float64{3, 1, 2, 2, 1, 3}}}}
	o := &outcomes{Set: &trial.Set{ResolvedTrials: set}, set: set, keys: []string{"r1", "r2"}, kinds: map[string]result.Reading{"r1": {Name: "flow"}, "r2": {Name: "level"}}}
	for i := range 6 {
		o.List = append(o.List, trial.Outcome{Done: true, Counts: true, Readings: map[string]float64{"r1": float64(-i), "r2": 4}})
	}
	v := o.moves()
	require.NotNil(t, v)
	assert.Equal(t, []string{"gap", "hue"}, v.Parameters)
	require.Len(t, v.Rows, 2)
	assert.Equal(t, "flow", v.Rows[0].Name)
	assert.Equal(t, moveCell{"−1.00", false}, v.Rows[0].Cells[0])
	assert.True(t, v.Rows[0].Cells[1].Faint)
	assert.Equal(t, moveCell{"–", true}, v.Rows[1].Cells[0], "it stays the same")
	assert.Contains(t, v.Idle, "hue")
	assert.NotContains(t, v.Idle, "gap")
	o.List = o.List[:3]
	o.set.Axes[0].Values, o.set.Axes[1].Values = o.set.Axes[0].Values[:3], o.set.Axes[1].Values[:3]
	assert.Nil(t, o.moves())
}

// TestSurfacesAreFittedAnew when a trial is made again, set by hand or left out, and not when it is marked.
func TestSurfacesAreFittedAnew(t *testing.T) {
	no := false
	of := func(change func(x *store.Trial)) string {
		x := store.Trial{Status: "failed", Seconds: 2}
		change(&x)
		return (&outcomes{Set: &trial.Set{List: make([]trial.Outcome, 1)}, set: &model.ResolvedTrials{TrialSet: &model.TrialSet{}}, made: map[int]store.Trial{0: x}}).fitKey()
	}
	same := of(func(*store.Trial) {})
	assert.Equal(t, same, of(func(x *store.Trial) { x.Slopes = store.SlopesWanted }))
	for _, change := range []func(x *store.Trial){func(x *store.Trial) { x.Seconds = 3 }, func(x *store.Trial) { x.Status = "settled" }, func(x *store.Trial) { x.ByHand = `{"values":{"r1":1}}` }} {
		assert.NotEqual(t, same, of(change))
	}
	settled := func(x *store.Trial) { x.Status = "settled" }
	assert.NotEqual(t, of(settled), of(func(x *store.Trial) { settled(x); x.Kept = &no }))
}
