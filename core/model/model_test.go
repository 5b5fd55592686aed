package model_test

import (
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/examples"
)

func load(t testing.TB, name string) *model.Document {
	t.Helper()
	data, err := os.ReadFile(filepath.Join("..", "..", "examples", name+".kettle.json"))
	require.NoError(t, err)
	doc, err := model.Parse(data)
	require.NoError(t, err)
	return doc
}

// check resolves a document and returns its findings as lines.
func check(doc *model.Document) (*model.Resolved, []string) {
	r, findings := model.Resolve(doc, physics.Catalog())
	var lines []string
	for _, f := range findings {
		lines = append(lines, f.String())
	}
	return r, lines
}

func TestExamplesResolve(t *testing.T) {
	r, findings := check(load(t, "pan-floor"))
	assert.Empty(t, findings)
	require.Len(t, r.Bodies, 1+5+1+2)
	rod := r.Bodies[1]
	assert.InDelta(t, 0.010, rod.Z0, 1e-15)
	assert.InDelta(t, -2*0.013-0.003, rod.Outline.Loops[0][0].From.Y, 1e-15, "the array is centred")
	assert.InDelta(t, 401.0, r.Parts[1].Law(material.Conductivity).At(300), 1e-12)
	_, findings = check(load(t, "bittern-post"))
	assert.Empty(t, findings)
}

func TestRoundTrip(t *testing.T) {
	doc := load(t, "pan-floor")
	again, err := model.Parse(doc.Bytes())
	require.NoError(t, err)
	assert.Equal(t, doc, again)
}

func TestReadingIsStrict(t *testing.T) {
	text := string(load(t, "pan-floor").Bytes())
	cases := []struct{ from, to, want string }{
		{`"kettle": 7`, `"kettle": 9`, "reads versions up to 7: use a newer program"},
		{`"kettle": 7`, `"kettle": 0`, "does not say its version"},
		{`"aim"`, `"goal"`, `no field "goal"`},
		{`"name": "Pan floor heater"`, `"name": 7`, "line 3: name must be a text in quotes, not number"},
		{`"parts": [`, `"parts": [,`, "not JSON"},
		{"{\n", "{{\n", "line 1: this is not JSON"},
	}
	for _, c := range cases {
		require.Contains(t, text, c.from)
		_, err := model.Parse([]byte(strings.Replace(text, c.from, c.to, 1)))
		assert.ErrorContains(t, err, c.want)
	}
	_, err := model.Parse([]byte(text + "{}"))
	assert.ErrorContains(t, err, "text follows")
	_, err = model.Parse(nil)
	assert.ErrorContains(t, err, "ends too early")
}

// TestFindings breaks the demo in one place at a time and demands a finding
// there that says what is wrong.
func TestFindings(t *testing.T) {
	cases := []struct{ place, value, want string }{
		{"mesh/size", "", "missing: the cell size has not been given"},
		{"mesh/size", "2.5", "has no unit"},
		{"mesh/size", "-2 mm", "greater than zero"},
		{"mesh/across", "2.5", "whole number"},
		{"parts/floor/span/to", "14 mm + thick", `no parameter "thick"`},
		{"parts/floor/span/to", "10 mm", "at or below its bottom"},
		{"parts/floor/material", "unobtainium", `no material "unobtainium"`},
		{"parts/floor/material", "", "has no material"},
		{"parts/floor/name", "", "has no name"},
		{"parts/floor/role", "half", "cannot be"},
		{"parts/rod/array/count", "2.5", "whole number"},
		{"parts/rod/array/count", "1e7", "2000 copies at most"},
		{"parts/rod/array/pitch", "0 mm", "lie on each other"},
		{"parts/rod/array/along", "w", "along \"w\""},
		{"parts/brick/outline/width", "104 W", "is a power, where a length is wanted"},
		{"parts/brick/outline/width", "104000 mm", "doubtful: the hearth brick is 104"},
		{"parameters/t/value", "pitch + (", "cannot be read"},
		{"parameters/t/value", "2*pitch + t", "need each other"},
		{"parameters/t/value", "", "has no value"},
		{"conditions/c2/values/temperature", "-300 °C", "absolute zero"},
		{"conditions/c2/values/coefficient", "850 W/m²", "a heat flux, where a heat-transfer coefficient"},
		{"conditions/c2/values/coefficient", "850 kW/(m²·K)", "doubtful: the heat-transfer coefficient in c2 lies outside"},
		{"conditions/c2/values/medium", "", "does not name the fluid"},
		{"conditions/c2/on", "floor|rim", `has no side "rim"`},
		{"conditions/c2/on", "wall|top", "which is shown only"},
		{"conditions/c2/on", "lid|top", "a part \"lid\" that is not there"},
		{"conditions/c2/on", "floor", "acts on surfaces"},
		{"conditions/c2/on", "", "does not say where it acts"},
		{"conditions/c1/on", "rod|top", "acts on whole parts"},
		{"conditions/c1/on", "rod||9", "has 5 copies"},
		{"readings/r1/unit", "W", "cannot be shown in"},
		{"space/unit", "furlong", "not made in"},
	}
	for _, c := range cases {
		doc := load(t, "pan-floor")
		require.NoError(t, doc.Set(c.place, c.value), c.place)
		_, findings := check(doc)
		require.NotEmpty(t, findings, "%s = %q", c.place, c.value)
		found := false
		for _, f := range findings {
			found = found || strings.Contains(f, c.want)
		}
		assert.True(t, found, "%s = %q gave %q", c.place, c.value, findings)
		if c.place != "parts/floor/role" {
			assert.True(t, strings.HasPrefix(findings[0], c.place) || strings.HasPrefix(findings[0], strings.Split(c.place, "/")[0]), "the place of %q", findings[0])
		}
	}
}

func TestOverlapsAreAskedAbout(t *testing.T) {
	doc := load(t, "pan-floor")
	require.NoError(t, doc.Set("parts/rod/span/from", "9 mm"))
	_, findings := check(doc)
	require.Len(t, findings, 1)
	// Five rods of 6 mm, 1 mm deep, over the 104 mm of the brick.
	assert.Contains(t, findings[0], "doubtful: the heater rod overlaps the hearth brick by 3120\u00a0mm³ and displaces it")
	require.NoError(t, doc.Set("parts/brick/material", "air"))
	_, findings = check(doc)
	assert.Empty(t, findings, "a solid in a fluid is meant")

	doc = load(t, "pan-floor")
	require.NoError(t, doc.Set("parameters/pitch/value", "5 mm"))
	_, findings = check(doc)
	require.Len(t, findings, 1)
	assert.Contains(t, findings[0], "copies of the heater rod overlap each other by 1920\u00a0mm³")
	doc = load(t, "pan-floor")
	require.NoError(t, doc.Set("parts/rod/outline/kind", "disc"))
	require.NoError(t, doc.Set("parts/rod/outline/diameter", "10 mm"))
	require.NoError(t, doc.Set("parts/rod/span/to", "15 mm"))
	_, findings = check(doc)
	require.Len(t, findings, 1)
	assert.Contains(t, findings[0], "the pan floor overlaps the heater rod by 392\u00a0mm³", "five discs of 78.5 mm²")
}

func TestIDs(t *testing.T) {
	doc := load(t, "pan-floor")
	doc.Parts[1].ID = "brick"
	doc.Readings[0].ID = `r"1`
	doc.Plates = nil
	_, findings := check(doc)
	assert.Contains(t, strings.Join(findings, "\n"), `parts: wrong: two have the id "brick"`)
	assert.Contains(t, strings.Join(findings, "\n"), `readings: wrong: number 1 has the id "r\"1"`)
	require.NoError(t, doc.Set("plates/I/low", "80 °C"), "the plate that is shown by default can be changed")
	assert.Equal(t, "80 °C", doc.Plates[0].Low)
}

func TestBlankModelSaysWhatIsMissing(t *testing.T) {
	_, findings := check(model.New("Empty"))
	assert.Equal(t, []string{
		"mesh/size: missing: the cell size has not been given — type a value with its unit",
		"parts: missing: the model has no parts yet — add a part",
	}, findings)
}

func TestEditing(t *testing.T) {
	doc := model.New("Trough")
	id, err := doc.AddPart("disc")
	require.NoError(t, err)
	require.NoError(t, doc.Set("parts/"+id+"/material", "Copper"))
	require.Len(t, doc.Materials, 1, "a model carries the materials that it uses")
	other, err := doc.DuplicatePart(id)
	require.NoError(t, err)
	require.NoError(t, doc.MovePart(other, -5))
	assert.Equal(t, other, doc.Parts[0].ID)
	c, err := doc.AddSentence(physics.Catalog(), "heat.convection", model.Patch{Part: id, Side: "top"})
	require.NoError(t, err)
	assert.Equal(t, "air", doc.Conditions[0].Values["medium"])
	assert.Equal(t, "The top of the part 1 gives heat to air at … with coefficient ….", doc.Words(physics.Catalog(), &doc.Conditions[0]))
	require.NoError(t, doc.RemoveSentence("conditions", c))
	assert.Empty(t, doc.Conditions)
	var gone *model.GoneError
	for _, err := range []error{doc.Set("parts/p9/name", "x"), doc.RemovePart("p9"), doc.MovePart("p9", 1), doc.RemoveSentence("readings", "r1"),
		doc.RemoveParameter("t"), doc.Set("nonsense", "x"), doc.Set("parts/p1/weight", "x")} {
		assert.ErrorAs(t, err, &gone)
	}
	assert.Error(t, doc.Set("name", " "))
	assert.Error(t, doc.Set("aim", strings.Repeat("x", 30000)))
}

func TestRenamingAParameterKeepsFormulas(t *testing.T) {
	doc := load(t, "pan-floor")
	require.NoError(t, doc.Set("parameters/t/name", "floor_height"))
	assert.Equal(t, "14 mm + floor_height", doc.Parts[2].Span.To)
	assert.Equal(t, "44 mm + floor_height", doc.Parts[3].Span.To)
	_, findings := check(doc)
	assert.Empty(t, findings)
	var words []string
	for _, u := range doc.Uses(physics.Catalog())["floor_height"] {
		words = append(words, u.Words)
	}
	assert.Equal(t, []string{"pan floor, top", "pan wall, bottom", "pan wall, top"}, words)
	assert.ErrorContains(t, doc.Set("parameters/rods/name", "pitch"), "already")
	assert.ErrorContains(t, doc.Set("parameters/rods/name", "max"), "meaning of its own")
	assert.ErrorContains(t, doc.Set("parameters/rods/name", "2 rods"), "cannot be a name")
}

func TestLiftAndLower(t *testing.T) {
	doc := load(t, "pan-floor")
	name, err := doc.Lift("parts/brick/outline/width")
	require.NoError(t, err)
	assert.Equal(t, "brick_width", name)
	assert.Equal(t, "brick_width", doc.Parts[0].Outline.Width)
	second, err := doc.Lift("conditions/c2/values/coefficient")
	require.NoError(t, err)
	assert.Equal(t, "850 W/(m²·K)", doc.Parameters[5].Value)
	_, findings := check(doc)
	assert.Empty(t, findings)
	for _, place := range []string{"parts/brick/outline/width", "parameters/t/value", "aim", "parts/lid/name"} {
		_, err = doc.Lift(place)
		assert.Error(t, err, place)
	}
	require.NoError(t, doc.Lower(name))
	require.NoError(t, doc.Lower(second))
	assert.Equal(t, load(t, "pan-floor").Bytes(), doc.Bytes(), "put back, the model is as it was")
	require.NoError(t, doc.Lower("t"))
	assert.Equal(t, "14 mm + (5 mm)", doc.Parts[2].Span.To)
	_, findings = check(doc)
	assert.Empty(t, findings)
	assert.Error(t, doc.Lower("t"))
}

func TestMaterialsOfTheModel(t *testing.T) {
	doc := load(t, "pan-floor")
	doc.CarryAll()
	require.Len(t, doc.Materials, 3)
	require.NoError(t, doc.Set("materials/steel 304/conductivity", "16.2 W/(m·K)"))
	r, findings := check(doc)
	assert.Empty(t, findings)
	assert.InDelta(t, 16.2, r.Parts[2].Law(material.Conductivity).At(500), 1e-12)
	library, _ := material.Find(material.Library(), "steel 304")
	assert.Contains(t, library.Properties[material.Conductivity].Value, "300: 14.9", "the library stays as it is")
	assert.Equal(t, "steel 304, thermal conductivity: table(temperature, 100 K: 9.2 W/(m·K), 200: 12.6 … → 16.2 W/(m·K)", model.DiffWords(model.Diff(carried(t), doc, physics.Catalog())))

	require.NoError(t, doc.AddMaterial("scale", ""))
	require.NoError(t, doc.Set("parts/floor/material", "scale"))
	_, findings = check(doc)
	require.NotEmpty(t, findings)
	assert.Contains(t, findings[0], "materials/scale/conductivity: missing: the pan floor conducts heat, and scale has no thermal conductivity")
	require.NoError(t, doc.Set("materials/scale/conductivity", "2 W/m"))
	_, findings = check(doc)
	assert.Contains(t, findings[0], "materials/scale/conductivity: wrong")
	assert.Error(t, doc.AddMaterial("Scale", ""))
	assert.Error(t, doc.AddMaterial("a/b", ""))
	assert.Error(t, doc.AddMaterial("new", "nothing"))
	require.NoError(t, doc.AddMaterial("my copper", "copper"))
	assert.Error(t, doc.Set("materials/nothing/density", "1 kg/m³"))
}

// carried is the demo with its materials in it.
func carried(t *testing.T) *model.Document {
	doc := load(t, "pan-floor")
	doc.CarryAll()
	return doc
}

func TestDiffSpeaksInSentences(t *testing.T) {
	older, newer := load(t, "pan-floor"), load(t, "pan-floor")
	require.NoError(t, newer.Set("parameters/t/value", "6 mm"))
	require.NoError(t, newer.Set("parts/rod/material", "steel 304"))
	require.NoError(t, newer.Set("conditions/c2/values/coefficient", "600 W/(m²·K)"))
	newer.Conditions = append(newer.Conditions, model.Sentence{ID: "c3", Kind: "heat.held", On: model.Patch{Part: "brick", Side: "bottom"}, Values: map[string]string{"temperature": "20 °C"}})
	require.NoError(t, newer.RemovePart("wall"))
	require.NoError(t, newer.Set("aim", "something else"))
	assert.Equal(t, "t: 5 mm → 6 mm; heater rod: copper → steel 304; c2, heat-transfer coefficient: 850 W/(m²·K) → 600 W/(m²·K); "+
		"added: The bottom of the hearth brick is held at 20 °C.; removed: part pan wall", model.DiffWords(model.Diff(older, newer, physics.Catalog())))
	assert.Empty(t, model.Diff(older, older.Clone(), physics.Catalog()))
}

func TestPatchText(t *testing.T) {
	for _, p := range []model.Patch{{}, {Part: "rod"}, {Part: "rod", Side: "top"}, {Part: "rod", Copy: 3}, {Part: "rod", Facing: "floor"}, {Part: "rod", Side: "left", Copy: 2, Facing: "outside"}} {
		again, err := model.ParsePatch(p.String())
		require.NoError(t, err)
		assert.Equal(t, p, again)
	}
	_, err := model.ParsePatch("rod|top|zero")
	assert.Error(t, err)
	doc := load(t, "pan-floor")
	assert.Equal(t, "left side of the heater rod 2, where it meets the pan floor,", doc.PatchWords(model.Patch{Part: "rod", Side: "left", Copy: 2, Facing: "floor"}))
}

func FuzzParse(f *testing.F) {
	f.Add(load(f, "pan-floor").Bytes())
	f.Add([]byte(`{"kettle":1,"parts":[{"id":"a","role":"solved","outline":{"kind":"disc","diameter":"1e300 m"},"array":{"count":"1e9","pitch":"1 m","along":"x"}}]}`))
	f.Add([]byte(`{"kettle":1,"parameters":[{"name":"x","value":"x","least":"y"}],"readings":[{"id":"r1","kind":"formula","values":{"formula":"mean(x over p)"}}]}`))
	f.Add([]byte(`{"kettle":2,"materials":[{"name":"a","properties":{"density":{"value":"table(temperature, 0 °C: 1 kg/m³, 1: 2)"}}}],"parts":[{"id":"a","role":"solved","material":"a"}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		doc, err := model.Parse(data)
		if err != nil {
			return
		}
		model.Resolve(doc, physics.Catalog())
		_ = model.Diff(doc, doc, physics.Catalog())
		for _, p := range doc.Parameters {
			_ = doc.Uses(physics.Catalog())[p.Name]
		}
	})
}

// TestFinishOfAPart: parts of one material radiate as their finishes do; one that the material has
// not is refused.
func TestFinishOfAPart(t *testing.T) {
	doc := model.New("plates")
	for i, finish := range []string{"", "oxidised", "Painted"} {
		doc.Parts = append(doc.Parts, model.Part{ID: fmt.Sprint("p", i), Name: fmt.Sprint("plate ", i), Material: "steel 304", Finish: finish, Role: model.Solved,
			Outline: model.Outline{Kind: "rectangle", Width: "20 mm", Depth: "20 mm"}, Span: model.Span{From: fmt.Sprint(10*i, " mm"), To: fmt.Sprint(10*i+5, " mm")}})
	}
	doc.Mesh.Size = "5 mm"
	id, err := doc.AddSentence(physics.Catalog(), "heat.enclosure", model.Patch{})
	require.NoError(t, err)
	require.NoError(t, doc.Set("conditions/"+id+"/values/temperature", "20 °C"))
	r, _ := model.Resolve(doc, physics.Catalog())
	for i, want := range []float64{0.17, 0.7, 0.9} {
		require.NotNil(t, r.Parts[i].Law(material.Emissivity), i)
		v, _ := r.Parts[i].Law(material.Emissivity).Constant()
		assert.InDelta(t, want, v, 1e-12, i)
	}
	require.NoError(t, doc.Set("parts/p1/finish", "mirror bright"))
	_, findings := model.Resolve(doc, physics.Catalog())
	require.True(t, slices.ContainsFunc(findings, func(f model.Finding) bool {
		return f.Place == "parts/p1/finish" && strings.Contains(f.Message, "the finishes of steel 304 are polished, as rolled")
	}), findings)
}

// TestStateOfAMaterial is edited like a property, and changes what the part weighs.
func TestStateOfAMaterial(t *testing.T) {
	doc := model.New("vat")
	doc.Parts = []model.Part{{ID: "p1", Name: "vat", Material: "brine", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "1 m", Depth: "1 m"}, Span: model.Span{From: "0 m", To: "1 m"}}}
	require.NoError(t, doc.UseMaterial("brine"))
	r, _ := model.Resolve(doc, physics.Catalog())
	assert.InEpsilon(t, 1147.8, r.Parts[0].Density, 1e-3)
	before := doc.Clone()
	require.NoError(t, doc.Set("materials/brine/state/mass_fraction", "10 %"))
	r, _ = model.Resolve(doc, physics.Catalog())
	assert.InEpsilon(t, 1070.7, r.Parts[0].Density, 1e-3)
	changes := model.Diff(before, doc, physics.Catalog())
	require.Len(t, changes, 1)
	assert.Equal(t, "10 %", changes[0].To)
	require.NoError(t, doc.Set("materials/brine/state/mass_fraction", "200 %"))
	_, findings := model.Resolve(doc, physics.Catalog())
	require.NotEmpty(t, findings)
}

// TestSameResult: what a model says of plates, names and units of readings leaves a result what it is.
func TestSameResult(t *testing.T) {
	cat := physics.Catalog()
	doc := func(edits ...[2]string) *model.Document {
		d, err := examples.Load("pan-floor")
		require.NoError(t, err)
		for _, e := range edits {
			require.NoError(t, d.Set(e[0], e[1]), e)
		}
		return d
	}
	as := doc()
	for _, e := range [][2]string{{"plates/I/low", "20 °C"}, {"name", "pan"}, {"aim", "warmth"}, {"readings/r1/name", "skew"}, {"readings/r3/unit", "K"}} {
		assert.True(t, model.SameResult(as, doc(e), cat), "%v", e)
	}
	for _, e := range [][2]string{{"parameters/power/value", "1 W"}, {"mesh/size", "9 mm"}, {"readings/r1/on", "rod"}, {"run/kind", "transient"}} {
		assert.False(t, model.SameResult(as, doc(e), cat), "%v", e)
	}
	cut := doc()
	place, err := cut.AddSlice("I", "z", "3 mm")
	require.NoError(t, err)
	assert.Equal(t, "plates/I/slices/1/at", place)
	assert.True(t, model.SameResult(as, cut, cat))
	r, findings := model.Resolve(cut, cat)
	assert.Empty(t, model.Blocking(findings))
	assert.Equal(t, []model.PlateSlice{{ID: "1", Normal: [3]float64{0, 0, 1}, At: 0.003, Keep: -1}}, r.PlateSlices(&cut.Plates[0]))
	require.NoError(t, cut.Set(place, "t/2"))
	require.NoError(t, cut.Set("parameters/t/name", "thickness"))
	assert.Equal(t, "thickness/2", cut.Plates[0].Slices[0].At)
	require.NoError(t, cut.Set("plates/I/slices/1/across", "w"))
	_, err = cut.AddSlice("I", "x", "1 mm")
	require.NoError(t, err)
	r, findings = model.Resolve(cut, cat)
	assert.Equal(t, []model.PlateSlice{{ID: "2", Normal: [3]float64{1, 0, 0}, At: 0.001, Keep: -1}}, r.PlateSlices(&cut.Plates[0]), "the one that can be keeps its number")
	assert.Empty(t, model.Blocking(findings), "a slice that cannot be keeps no model from running")
	assert.NotEmpty(t, findings)
	require.NoError(t, cut.RemoveItem("plates/I/slices/1"))
	assert.Error(t, cut.RemoveItem("plates/I/slices/1"))
	place, err = cut.AddLine("I", model.Line{FromX: "1 mm", ToX: "thickness", ToZ: "3 mm"})
	require.NoError(t, err)
	r, _ = model.Resolve(cut, cat)
	ends := r.PlateLines(&cut.Plates[0], cat)["1"].Ways[0].Ends
	assert.Equal(t, []float64{0.001, 0, 0, 0.005, 0, 0.003}, []float64{ends[0], ends[1], ends[2], math.Round(1e6*ends[3]) / 1e6, ends[4], ends[5]})
	require.NoError(t, cut.Set(place, "3 kg"))
	r, findings = model.Resolve(cut, cat)
	assert.Empty(t, r.PlateLines(&cut.Plates[0], cat))
	assert.Empty(t, model.Blocking(findings))
	require.NoError(t, cut.RemoveItem("plates/I/lines/1"))
	cut = doc()
	place, err = cut.AddLevel("I", "80 °C")
	require.NoError(t, err)
	assert.True(t, model.SameResult(as, cut, cat))
	r, _ = model.Resolve(cut, cat)
	assert.Equal(t, []float64{353.15}, r.PlateLevels(&cut.Plates[0], cat))
	require.NoError(t, cut.Set(place, "80 W"))
	r, findings = model.Resolve(cut, cat)
	assert.Empty(t, r.PlateLevels(&cut.Plates[0], cat))
	assert.Empty(t, model.Blocking(findings))
	assert.NotEmpty(t, findings)
	require.NoError(t, cut.RemoveItem("plates/I/levels/1"))
	_, err = cut.AddLevel("IX", "80 °C")
	assert.Error(t, err)
	_, err = cut.AddLine("IX", model.Line{})
	assert.Error(t, err)
	cut = doc()
	for range model.MaxSlices {
		_, err = cut.AddSlice("I", "z", "0 mm")
		require.NoError(t, err)
	}
	_, err = cut.AddSlice("I", "z", "0 mm")
	assert.ErrorContains(t, err, "take one away")
	cut.Plates[0].Slices, cut.Space.Kind = nil, model.Plane
	_, err = cut.AddSlice("I", "z", "0 mm")
	assert.ErrorContains(t, err, "x or y", "a section has no z")
	_, err = cut.AddSlice("IX", "z", "0 mm")
	assert.Error(t, err)
	_, err = cut.AddSlice("I", "w", "0 mm")
	assert.Error(t, err)
}
