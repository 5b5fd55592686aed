package model_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// TestPatchesOfMany: what is added and taken away, copies and a box are kept by the line that
// forms carry and by a file, and come back as they were when they are undone.
func TestPatchesOfMany(t *testing.T) {
	top, rim, lid := model.Patch{Part: "floor", Side: "top"}, model.Patch{Part: "rod", Side: "rim"}, model.Patch{Part: "lid"}
	p := top.With(rim).Without(lid).In(&model.Box{{"0 mm", "a + 2 mm"}, {}, {"", "5 mm"}})
	p.Copies = "1-3, 7"
	line, err := model.ParsePatch(p.String())
	require.NoError(t, err)
	assert.Equal(t, p, line)
	data, err := json.Marshal(p)
	require.NoError(t, err)
	var back model.Patch
	require.NoError(t, json.Unmarshal(data, &back))
	assert.Equal(t, p, back)
	assert.JSONEq(t, `{"part":"floor","side":"top","copies":"1-3, 7","also":[{"part":"rod","side":"rim"}],"but":[{"part":"lid"}],"within":[["0 mm","a + 2 mm"],["",""],["","5 mm"]]}`, string(data))
	for copy, has := range map[int]bool{1: true, 3: true, 4: false, 7: true, 8: false} {
		assert.Equal(t, has, p.Has(copy), copy)
	}
	assert.Equal(t, top, top.With(rim).Without(rim))
	assert.Equal(t, top, top.Without(lid).With(lid))
	assert.Equal(t, top, top.With(top))
	assert.Equal(t, rim, top.With(rim).Without(top))
	assert.Equal(t, model.Patch{}, top.Without(top))
	assert.Equal(t, top, p.First().In(nil).Without(lid).With(lid).First().In(nil).First().With(model.Patch{Part: "floor", Side: "top", Copies: "1-3, 7"}).First().With(top).Without(model.Patch{Part: "floor", Side: "top", Copies: "1-3, 7"}))
	for _, bad := range []string{"a|b|c|d|e", "a|b|3-1", "a¦?b", "a¦in|1|2", "a¦+b|c|x"} {
		_, err := model.ParsePatch(bad)
		assert.Error(t, err, bad)
	}
	for file, says := range map[string]string{
		`{"part":"a","beside":"b"}`:                                             "beside",
		`{"part":"a","also":[{"part":"b","also":[{"part":"c"}]}]}`:              `the patch of the part "b", which is added or taken away, cannot have also`,
		`{"part":"a","but":[{"part":"b","within":[["","1"],["",""],["",""]]}]}`: "say them of the first patch",
		`{"part":"a","also":[{"part":"b","side":"top|left"}]}`:                  "take | and ¦ out",
		`{"part":"a","but":[{"part":"b¦c"}]}`:                                   "take | and ¦ out",
		`{"part":"a","also":[{"part":"b","copies":"3-1"}]}`:                     "3-1",
		`{"part":"a","within":[["0|","1 mm"],["",""],["",""]]}`:                 `a box from "0|" to "1 mm"`,
	} {
		kept := back
		err := json.Unmarshal([]byte(file), &back)
		require.Error(t, err, file)
		assert.Contains(t, err.Error(), says, file)
		assert.Equal(t, kept, back, "nothing of it is taken")
	}
}

// TestPatchesInSentences: they are edited by their places, said in words, follow the names of
// parameters, and what is wrong with them is said.
func TestPatchesInSentences(t *testing.T) {
	doc := trough(t)
	doc.Parameters = append(doc.Parameters, model.Parameter{Name: "reach", Value: "12 mm"})
	first, second := doc.Parts[0].ID, doc.Parts[1].ID
	id, err := doc.AddSentence(physics.Catalog(), "heat.convection", model.Patch{Part: first, Side: "top"})
	require.NoError(t, err)
	at := "conditions/" + id + "/on"
	for _, edit := range [][2]string{{"/also/new", second + "|top"}, {"/but/new", second}, {"/within", "true"}, {"/within/x/1", "reach"}, {"", first + "|left"}} {
		require.NoError(t, doc.Set(at+edit[0], edit[1]), edit)
	}
	s := doc.Conditions[len(doc.Conditions)-1]
	added, taken, box := s.On.Terms()
	assert.Equal(t, []model.Patch{{Part: first, Side: "left"}, {Part: second, Side: "top"}}, added)
	assert.Equal(t, []model.Patch{{Part: second}}, taken)
	assert.Equal(t, "reach", box[0][1])
	words := doc.PatchWords(s.On)
	assert.Contains(t, words, "left side of the "+doc.Parts[0].Name+" and the top of the "+doc.Parts[1].Name+" but not the "+doc.Parts[1].Name+" within x up to reach")
	require.Contains(t, doc.Uses(physics.Catalog()), "reach")
	require.NoError(t, doc.Set("parameters/reach/name", "extent"))
	_, _, box = doc.Conditions[len(doc.Conditions)-1].On.Terms()
	assert.Equal(t, "extent", box[0][1])
	require.NoError(t, doc.Set(at+"/but/0", ""))
	require.NoError(t, doc.Set(at+"/within", "false"))
	assert.Error(t, doc.Set(at+"/also/7", first))
	assert.Error(t, doc.Set(at+"/within/x/1", "3 mm"), "there is no box any more")

	find := func(on model.Patch) string {
		doc.Conditions[len(doc.Conditions)-1].On = on
		_, findings := model.Resolve(doc, physics.Catalog())
		for _, f := range findings {
			if f.Place == at {
				return f.Message
			}
		}
		return ""
	}
	assert.Empty(t, find(model.Patch{Part: model.AllParts, Side: model.WholeSurface, Facing: model.Outside}))
	assert.Contains(t, find(model.Patch{Part: model.AllFluids, Side: "*"}), "none that are solved")
	assert.Contains(t, find(model.Patch{Part: model.GroupName("racks"), Side: "*"}), "group “racks”")
	assert.Contains(t, find(model.Patch{Part: model.AllParts, Side: "underside"}), "none of the parts")
	assert.Contains(t, find(model.Patch{Part: first, Side: "top", Copies: "1-9"}), "copies")
	assert.Contains(t, find(model.Patch{Part: first, Side: "top"}.Without(model.Patch{Part: first})), "leaves out all")
	assert.Contains(t, find(model.Patch{Part: first, Side: "top"}.In(&model.Box{{"5 mm", "1 mm"}})), "ends along x before it begins")
	assert.Contains(t, find(model.Patch{Part: first, Side: "top"}.With(model.Patch{Part: first})), "as a whole")
	assert.Contains(t, find(model.Patch{Part: first, Side: "top"}.Without(model.Patch{Part: "gone"})), "that is not there")
	doc.Parts[0].Group, doc.Parts[1].Group = "racks", "racks"
	assert.Empty(t, find(model.Patch{Part: model.GroupName("racks"), Side: "*"}))
}

// TestSentencesAreCopied: behind the one that is copied, with values of its own.
func TestSentencesAreCopied(t *testing.T) {
	doc := trough(t)
	id, err := doc.AddSentence(physics.Catalog(), "heat.convection", model.Patch{Part: doc.Parts[0].ID, Side: "top"})
	require.NoError(t, err)
	require.NoError(t, doc.Set("conditions/"+id+"/values/temperature", "40 °C"))
	copied, err := doc.CopySentence("conditions", id)
	require.NoError(t, err)
	assert.NotEqual(t, id, copied)
	require.NoError(t, doc.Set("conditions/"+copied+"/values/temperature", "50 °C"))
	n := len(doc.Conditions)
	assert.Equal(t, []string{"40 °C", "50 °C"}, []string{doc.Conditions[n-2].Values["temperature"], doc.Conditions[n-1].Values["temperature"]})
	assert.Equal(t, doc.Conditions[n-2].On, doc.Conditions[n-1].On)
	for _, place := range [][2]string{{"conditions", "c99"}, {"parts", id}} {
		var gone *model.GoneError
		_, err = doc.CopySentence(place[0], place[1])
		assert.ErrorAs(t, err, &gone)
	}
}
