package model_test

import (
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
