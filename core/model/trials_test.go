package model_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/examples"
)

// TestFaultsOfTrialSets: each is said at its place, and none keeps the model itself
// from running.
func TestFaultsOfTrialSets(t *testing.T) {
	for _, c := range []struct{ place, value, at, words string }{
		{"trials/t1/vary/1/from", "3 kg", "trials/t1/vary/1/from", "length"},
		{"trials/t1/vary/1/to", "13 mm", "trials/t1/vary/1/to", "does not vary"},
		{"trials/t1/vary/1/count", "1", "trials/t1/vary/1/count", "2 to 2000"},
		{"trials/t1/vary/1/count", "401", "trials/t1", "2000 are the most"},
		{"trials/t1/vary/2/to", "14 mm", "trials/t1/vary/2", "greatest value, 12 mm"},
		{"trials/t1/vary/2/from", "1 mm", "trials/t1/vary/2", "least value, 2 mm"},
		{"trials/t1/vary/1/parameter", "depth", "trials/t1/vary/1/parameter", "no parameter"},
		{"trials/t1/vary/2/parameter", "pitch", "trials/t1/vary/2/parameter", "twice"},
		{"trials/t1/goal/while", "r1 + 1 K", "trials/t1/goal/while", "compares nothing"},
		{"trials/t1/goal/while", "r1 < 3 W", "trials/t1/goal/while", "cannot be computed"},
		{"trials/t1/goal/while", "r1 <", "trials/t1/goal/while", "cannot be read"},
		{"trials/t1/goal/want", "most", "trials/t1/goal/want", "least or greatest"},
		{"trials/t1/goal/reading", "r9", "trials/t1/goal/reading", "no reading"},
	} {
		doc, err := examples.Load("pan-floor")
		require.NoError(t, err)
		require.NoError(t, doc.Set(c.place, c.value))
		r, findings := model.Resolve(doc, physics.Catalog())
		assert.Empty(t, model.Blocking(findings))
		require.NotEmpty(t, findings, c.value)
		assert.Equal(t, c.at, findings[0].Place)
		assert.Contains(t, findings[0].Message, c.words)
		assert.False(t, r.Trials[0].Good)
	}
}

// TestPatternsOfTrials: how many there are of each, within the ends, and each trial a model of its own.
func TestPatternsOfTrials(t *testing.T) {
	for _, c := range []struct {
		pattern, runs string
		count         int
	}{{"", "", 25}, {model.OneAtATime, "", 1 + 10}, {model.Composite, "", 1 + 4 + 4}, {model.Latin, "30", 30}, {model.Sobol, "", 20}, {model.Halton, "8", 8}} {
		doc, err := examples.Load("pan-floor")
		require.NoError(t, err)
		doc.Trials[0].Pattern, doc.Trials[0].Runs = c.pattern, c.runs
		r, findings := model.Resolve(doc, physics.Catalog())
		require.Empty(t, findings)
		set := &r.Trials[0]
		assert.True(t, set.Good)
		assert.Equal(t, c.count, set.Count(), c.pattern)
		seen := map[[2]string]bool{}
		for i := range set.Count() {
			made, err := set.Document(doc, i)
			require.NoError(t, err)
			var values [2]string
			for k, at := range set.At(i) {
				values[k] = set.Axes[k].Text(at)
				v := set.Axes[k].Values[at]
				lo, hi := [2]float64{13e-3, 4e-3}[k], [2]float64{15e-3, 8e-3}[k]
				if c.pattern != model.OneAtATime { // in which others stay as the sheet says
					assert.True(t, v > lo-1e-12 && v < hi+1e-12, "%s: %g", c.pattern, v)
				}
			}
			seen[values] = true
			p := slices.IndexFunc(made.Parameters, func(p model.Parameter) bool { return p.Name == set.Axes[0].Parameter })
			assert.Equal(t, values[0], made.Parameters[p].Value)
		}
		if c.pattern != model.OneAtATime { // in which what the sheet says may be among the values
			assert.Len(t, seen, c.count, c.pattern)
		}
	}
	doc, err := examples.Load("pan-floor")
	require.NoError(t, err)
	doc.Trials[0].Pattern, doc.Trials[0].Vary[0].Count = model.Latin, ""
	r, _ := model.Resolve(doc, physics.Catalog())
	assert.True(t, r.Trials[0].Good, "a spread needs no number of values")
	for _, bad := range [][3]string{{"spiral", "", "not known"}, {model.Latin, "1", "2 to 2000"}, {model.Sobol, "many", "number of trials"}} {
		doc.Trials[0].Pattern, doc.Trials[0].Runs = bad[0], bad[1]
		r, findings := model.Resolve(doc, physics.Catalog())
		assert.False(t, r.Trials[0].Good)
		assert.Contains(t, findings[0].Message, bad[2])
	}
}

func TestTrialSetsAreEdited(t *testing.T) {
	doc, err := examples.Load("pan-floor")
	require.NoError(t, err)
	id := doc.AddTrialSet()
	assert.Equal(t, "t2", id)
	place, err := doc.AddVary(id, "t")
	require.NoError(t, err)
	assert.Equal(t, "trials/t2/vary/1/from", place)
	assert.Equal(t, model.Vary{ID: "1", Parameter: "t", From: "2 mm", To: "12 mm", Count: "5"}, doc.Trials[1].Vary[0], "the bounds of the parameter are its range")
	require.NoError(t, doc.Set("parameters/t/name", "thick"))
	assert.Equal(t, "thick", doc.Trials[0].Vary[1].Parameter, "a renamed parameter goes on varying")
	require.NoError(t, doc.RemoveItem("trials/"+id+"/vary/1"))
	var gone *model.GoneError
	assert.ErrorAs(t, doc.RemoveItem("trials/"+id+"/vary/1"), &gone)
	require.NoError(t, doc.RemoveTrialSet(id))
	assert.ErrorAs(t, doc.RemoveTrialSet(id), &gone)
	assert.ErrorAs(t, doc.Set("trials/t2/name", "x"), &gone)
	_, err = doc.AddVary("t1", "nothing")
	assert.ErrorAs(t, err, &gone)

	var text strings.Builder
	require.NoError(t, doc.Write(&text))
	back, err := model.Read(strings.NewReader(text.String()))
	require.NoError(t, err)
	assert.Equal(t, doc.Trials, back.Trials)
}
