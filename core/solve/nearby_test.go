package solve

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/result"
	"saltkettle/examples"
)

// from are options of a run that begins with a result.
func from(o *Outcome) Options {
	e := result.NewEarlier(o.Result, o.Fields)
	return Options{Near: func() (*result.Earlier, error) { return e, nil }, Earlier: func(int) (*result.Earlier, error) { return e, nil }}
}

// TestSteadyFlowsGoOn: one that begins where it ended is there; one that is driven more strongly takes fewer steps than from rest, by
// either model, to the same readings; and one whose walls have moved is found all the same.
func TestSteadyFlowsGoOn(t *testing.T) {
	for _, kind := range models {
		d := byModel(gale(model.Plane), kind)
		first, err := Run(t.Context(), d, Options{})
		require.NoError(t, err)
		again, err := Run(t.Context(), d, from(first))
		require.NoError(t, err)
		assert.Less(t, len(again.Solver.Steps), len(first.Solver.Steps)/3, kind)
		sameReadings(t, first, again)

		d.Conditions[1].Values["pressure"] = "6 Pa"
		rest, err := Run(t.Context(), d, Options{})
		require.NoError(t, err)
		near, err := Run(t.Context(), d, from(first))
		require.NoError(t, err)
		assert.Less(t, len(near.Solver.Steps), len(rest.Solver.Steps), kind)
		sameReadings(t, rest, near)

		d.Parts[0].Outline.Depth = "1.5*(" + d.Parts[0].Outline.Depth + ")"
		rest, err = Run(t.Context(), d, Options{})
		require.NoError(t, err)
		near, err = Run(t.Context(), d, from(first))
		require.NoError(t, err)
		sameReadings(t, rest, near)
	}
}

func sameReadings(t *testing.T, want, got *Outcome) {
	t.Helper()
	require.Equal(t, result.Settled, got.Status, got.Reason)
	require.Len(t, got.Readings, len(want.Readings))
	for i, q := range want.Readings {
		assert.InEpsilon(t, q.Value, got.Readings[i].Value, 1e-4, q.Name)
	}
}

// TestAFlowGoesOnFromARun that its model names; one that had no eddies is of no use to one that has, which says so.
func TestAFlowGoesOnFromARun(t *testing.T) {
	d := gale(model.Plane)
	first, err := Run(t.Context(), d, Options{})
	require.NoError(t, err)
	d.Run.From = "#3"
	again, err := Run(t.Context(), d, Options{Earlier: from(first).Earlier})
	require.NoError(t, err)
	assert.Less(t, len(again.Solver.Steps), len(first.Solver.Steps)/3)
	_, err = Run(t.Context(), d, Options{})
	assert.ErrorContains(t, err, "run #3")

	other, err := Run(t.Context(), byModel(d, models[1]), Options{Earlier: from(first).Earlier})
	require.NoError(t, err)
	assert.Equal(t, result.Settled, other.Status)
	assert.Contains(t, other.Warnings, "run #3, from which this one goes on, has no eddy_energy: this one begins from rest")
}

// TestReadingsAtRest changed by next to nothing of the most that they ever were.
func TestReadingsAtRest(t *testing.T) {
	f := &followed{}
	assert.False(t, f.rest(1), "nothing is read")
	f.values = map[string][]float64{"a": {100, 3, 3, 3 + 1e-5}, "b": {5, 7, 1, 1}}
	assert.True(t, f.rest(1))
	assert.False(t, f.rest(2))
	assert.False(t, f.rest(4), "so many there were not")
	f.values["b"][3] += 1e-3
	assert.False(t, f.rest(1))
}

// TestIronBeginsNear: the latch in space with another gap takes fewer steps from a field that it had than from none, though a field strength
// that comes from other cells is far off in iron, and pulls the same.
func TestIronBeginsNear(t *testing.T) {
	d, err := examples.Load("lid-latch-solid")
	require.NoError(t, err)
	d.Mesh = model.Mesh{Size: "6 mm", Across: "2", Growth: "1.5", Order: "1"}
	first, err := Run(t.Context(), d, Options{})
	require.NoError(t, err)
	d.Parameters[0].Value = "1.5 mm"
	rest, err := Run(t.Context(), d, Options{})
	require.NoError(t, err)
	near, err := Run(t.Context(), d, from(first))
	require.NoError(t, err)
	assert.Less(t, len(near.Solver.Steps), len(rest.Solver.Steps)*3/4)
	sameReadings(t, rest, near)
}

// TestALevelSavesAStep of Newton's method where properties depend on the temperature, and changes no reading; without fields nothing else is lost.
func TestALevelSavesAStep(t *testing.T) {
	doc, err := examples.Load("pan-floor")
	require.NoError(t, err)
	require.NoError(t, doc.Set("mesh/size", "6 mm"))
	whole, err := Run(t.Context(), doc, Options{})
	require.NoError(t, err)
	level := (whole.Least.Value + whole.Greatest.Value) / 2
	lean, err := Run(t.Context(), doc, Options{Level: &level, Lean: true})
	require.NoError(t, err)
	assert.Less(t, len(lean.Solver.Steps), len(whole.Solver.Steps))
	assert.Nil(t, lean.Fields)
	require.Len(t, lean.Readings, len(whole.Readings))
	for i, q := range whole.Readings {
		assert.InEpsilon(t, q.Value, lean.Readings[i].Value, 1e-8, q.Name)
	}
}
