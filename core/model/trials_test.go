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
		{"trials/t1/while", "r1 + 1 K", "trials/t1/while", "compares nothing"},
		{"trials/t1/while", "r1 < 3 W", "trials/t1/while", "cannot be computed"},
		{"trials/t1/while", "r1 <", "trials/t1/while", "cannot be read"},
		{"trials/t1/goals/1/want", "most", "trials/t1/goals/1/want", "least, greatest"},
		{"trials/t1/goals/1/reading", "r9", "trials/t1/goals/1/reading", "no reading"},
		{"trials/t1/limits/1/reading", "r9", "trials/t1/limits/1/reading", "no reading"},
		{"trials/t1/limits/1/value", "3 W", "trials/t1/limits/1/value", "limit of r1"},
		{"trials/t1/limits/1/side", "beside", "trials/t1/limits/1/side", "under or over"},
		{"trials/t1/vary/1/as", "by luck", "trials/t1/vary/1/as", "not known"},
		{"trials/t1/pattern", "lines", "trials/t1/vary/1/as", "no list"},
		{"trials/t1/surface", "velvet", "trials/t1/surface", "not known"},
		{"trials/t1/search/method", "luck", "trials/t1/search/method", "not known"},
		{"trials/t1/search/most", "0", "trials/t1/search/most", "number of further trials"},
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
			made, err := set.Document(doc, set.Values(i))
			require.NoError(t, err)
			var values [2]string
			for k, v := range set.Values(i) {
				values[k] = set.Axes[k].Text(v)
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
	assert.Equal(t, "t3", id)
	place, err := doc.AddVary(id, "t")
	require.NoError(t, err)
	assert.Equal(t, "trials/t3/vary/1/from", place)
	assert.Equal(t, model.Vary{ID: "1", Parameter: "t", From: "2 mm", To: "12 mm", Count: "5"}, doc.Trials[2].Vary[0], "the bounds of the parameter are its range")
	require.NoError(t, doc.Set("parameters/t/name", "thick"))
	assert.Equal(t, "thick", doc.Trials[0].Vary[1].Parameter, "a renamed parameter goes on varying")
	require.NoError(t, doc.RemoveItem("trials/"+id+"/vary/1"))
	var gone *model.GoneError
	assert.ErrorAs(t, doc.RemoveItem("trials/"+id+"/vary/1"), &gone)
	require.NoError(t, doc.RemoveTrialSet(id))
	assert.ErrorAs(t, doc.RemoveTrialSet(id), &gone)
	assert.ErrorAs(t, doc.Set("trials/t3/name", "x"), &gone)
	_, err = doc.AddVary("t1", "nothing")
	assert.ErrorAs(t, err, &gone)

	var text strings.Builder
	require.NoError(t, doc.Write(&text))
	back, err := model.Read(strings.NewReader(text.String()))
	require.NoError(t, err)
	assert.Equal(t, doc.Trials, back.Trials)
}

// TestWaysToVary: whole numbers, lists, a normal distribution, and lines of a table, with the values that may be taken between trials.
func TestWaysToVary(t *testing.T) {
	vary := func(pattern string, list ...model.Vary) (*model.ResolvedTrials, []model.Finding) {
		doc, err := examples.Load("pan-floor")
		require.NoError(t, err)
		doc.Trials[0].Vary, doc.Trials[0].Pattern, doc.Trials[0].Runs = list, pattern, "40"
		doc.Enumerate()
		r, findings := model.Resolve(doc, physics.Catalog())
		return &r.Trials[0], findings
	}
	rods := model.Vary{Parameter: "rods", As: model.Whole, From: "3", To: "6"}
	thick := model.Vary{Parameter: "t", As: model.ListedValues, Listed: "4 mm; 5 mm, 8 mm"}
	set, findings := vary("", rods, thick)
	require.Empty(t, findings)
	assert.Equal(t, 4*3, set.Count())
	assert.Equal(t, []float64{3, 0.008}, set.Values(2))
	assert.Equal(t, 5.0, set.Axes[0].Unscaled(0.6), "a whole number between")
	assert.Equal(t, 0.005, set.Axes[1].Snap(0.0061), "the nearest of the list")
	assert.False(t, set.Axes[1].Free())

	set, findings = vary(model.Latin, rods, thick)
	require.Empty(t, findings)
	counts := map[float64]int{}
	for i := range set.Count() {
		counts[set.Values(i)[0]]++
	}
	assert.Equal(t, map[float64]int{3: 10, 4: 10, 5: 10, 6: 10}, counts, "each as often as the others")

	set, findings = vary(model.Latin, model.Vary{Parameter: "t", As: model.Normal, Mean: "6 mm", Deviation: "0.5 mm"})
	require.Empty(t, findings)
	mean, square := 0.0, 0.0
	for i := range set.Count() {
		v := set.Values(i)[0]*1e3 - 6
		mean, square = mean+v/40, square+v*v/40
	}
	assert.InDelta(t, 0, mean, 0.03)
	assert.InDelta(t, 0.25, square, 0.03)
	assert.True(t, set.Axes[0].Spreads())

	set, findings = vary(model.ByLines, thick, model.Vary{Parameter: "rods", As: model.ListedValues, Listed: "3; 3; 5"})
	require.Empty(t, findings)
	assert.Equal(t, 3, set.Count())
	assert.Equal(t, []float64{0.008, 5}, set.Values(2))
	more := set.With([][]float64{{0.007, 4}})
	assert.Equal(t, []float64{0.007, 4}, more.Values(3))
	assert.Equal(t, 3, set.Count(), "the set itself stays")

	for _, c := range []struct {
		pattern string
		vary    []model.Vary
		words   string
	}{
		{model.ByLines, []model.Vary{thick, {Parameter: "rods", As: model.ListedValues, Listed: "3; 5"}}, "t has 3 values and rods has 2"},
		{"", []model.Vary{{Parameter: "t", As: model.ListedValues, Listed: "4 mm; 4 mm"}}, "not two different"},
		{"", []model.Vary{{Parameter: "rods", As: model.Whole, From: "2.5", To: "6"}}, "whole"},
		{"", []model.Vary{{Parameter: "t", As: model.Normal, Mean: "6 mm", Deviation: "3 mm", Count: "3"}}, "least value"},
		{"", []model.Vary{{Parameter: "t", As: model.Normal, Deviation: "0 mm", Count: "3"}}, "standard deviation"},
	} {
		set, findings := vary(c.pattern, c.vary...)
		assert.False(t, set.Good)
		require.NotEmpty(t, findings, c.words)
		assert.Contains(t, findings[0].Message, c.words)
	}
}

// TestTableOfTrials is taken in as lists, a line for each trial; what is wrong with it is said and changes nothing.
func TestTableOfTrials(t *testing.T) {
	doc, err := examples.Load("pan-floor")
	require.NoError(t, err)
	require.NoError(t, doc.AddLines("t1", []string{"t", "pitch"}, [][]string{{"4 mm", "13 mm"}, {"5 mm", "14 mm"}}))
	r, findings := model.Resolve(doc, physics.Catalog())
	require.Empty(t, findings)
	require.Len(t, r.Trials[0].Axes, 2)
	assert.Equal(t, 2, r.Trials[0].Count())
	before := string(doc.Bytes())
	for _, c := range []struct {
		names []string
		lines [][]string
		words string
	}{
		{[]string{"t"}, nil, "no line"}, {[]string{"depth"}, [][]string{{"1 mm"}}, "no parameter"},
		{[]string{"t", "t"}, [][]string{{"1 mm", "2 mm"}}, "two columns"}, {[]string{"t"}, [][]string{{"4 mm"}, {" "}}, "line 2"},
	} {
		assert.ErrorContains(t, doc.AddLines("t1", c.names, c.lines), c.words)
		assert.Equal(t, before, string(doc.Bytes()))
	}
}

// TestGoalsOfOlderFiles become goals and limits, or a further condition where they are more than a limit.
func TestGoalsOfOlderFiles(t *testing.T) {
	doc, err := examples.Load("pan-floor")
	require.NoError(t, err)
	doc.Trials = []model.TrialSet{{ID: "t1", Name: "old", Vary: []model.Vary{{ID: "1", Parameter: "t", From: "4 mm", To: "8 mm", Count: "3"}}, While: "here"}}
	text := strings.Replace(string(doc.Bytes()), `"kettle": 7`, `"kettle": 6`, 1)
	for _, c := range []struct {
		goal, while string
		goals       int
		limits      []model.Limit
	}{
		{`{"want": "least", "reading": "r5", "while": "r1 < 10 K"}`, "", 1, []model.Limit{{ID: "1", Reading: "r1", Side: model.Under, Value: "10 K"}}},
		{`{"want": "greatest", "reading": "r5", "while": "r1 > 1.5e1 K"}`, "", 1, []model.Limit{{ID: "1", Reading: "r1", Side: model.Over, Value: "1.5e1 K"}}},
		{`{"want": "least", "reading": "r5", "while": "r1 < 10 K && t > 5 mm"}`, "r1 < 10 K && t > 5 mm", 1, nil},
		{`{"want": "least", "reading": "r5"}`, "", 1, nil},
		{`{}`, "", 0, nil},
	} {
		doc, err := model.Parse([]byte(strings.Replace(text, `"while": "here"`, `"goal": `+c.goal, 1)))
		require.NoError(t, err)
		set := doc.Trials[0]
		assert.Len(t, set.Goals, c.goals)
		assert.Equal(t, c.limits, set.Limits)
		assert.Equal(t, c.while, set.While)
	}
	_, err = model.Parse([]byte(strings.Replace(string(doc.Bytes()), `"while": "here"`, `"goal": {}`, 1)))
	assert.ErrorContains(t, err, "goal")
}
