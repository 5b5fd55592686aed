package model_test

import (
	"math"
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
)

func set(t *testing.T, doc *model.Document, pairs ...string) {
	t.Helper()
	for i := 0; i < len(pairs); i += 2 {
		require.NoError(t, doc.Set(pairs[i], pairs[i+1]))
	}
}

// contains asserts that exactly one finding has the given words.
func contains(t *testing.T, lines []string, words string) {
	t.Helper()
	n := 0
	for _, l := range lines {
		if strings.Contains(l, words) {
			n++
		}
	}
	assert.Equal(t, 1, n, "%q in %v", words, lines)
}

func TestDoubtsAreAskedAbout(t *testing.T) {
	doc := load(t, "pan-floor")
	set(t, doc, "parts/brick/span/to", "9 mm")
	_, findings := check(doc)
	require.Len(t, findings, 1)
	contains(t, findings, "parts/brick/span/from: doubtful: heat has no way out of the hearth brick: it touches nothing that leads heat away")
	set(t, doc, "parts/brick/span/to", "10 mm", "parts/floor/outline/width", "104 m")
	_, findings = check(doc)
	contains(t, findings, "parts/floor/outline/width: doubtful: the pan floor is 104\u00a0m wide")
	set(t, doc, "parts/floor/outline/width", "10.4 m")
	_, findings = check(doc)
	contains(t, findings, "was mm meant?")
	set(t, doc, "parts/floor/outline/width", "104 mm")

	for coefficient, words := range map[string]string{
		"850 W/(m²·K)": "", "12 W/(m²·K)": "outside what a liquid can have, 50 … 20\u202f000", "0.9 MW/(m²·K)": "outside what a liquid can have",
		"850 W/(m²·K)*(1 + 0.01/K*(temperature - 72 °C))": ""} {
		set(t, doc, "conditions/c2/values/coefficient", coefficient)
		_, findings = check(doc)
		if words == "" {
			assert.Empty(t, findings, coefficient)
		} else {
			contains(t, findings, words)
		}
	}
	set(t, doc, "conditions/c2/values/coefficient", "850 W/(m²·K)", "conditions/c2/values/medium", "damp air")
	_, findings = check(doc)
	contains(t, findings, "outside what a gas can have")
	set(t, doc, "conditions/c2/values/medium", "steam, condensing")
	_, findings = check(doc)
	contains(t, findings, "outside what boiling and condensing can have")
	doc.Conditions = doc.Conditions[:1]
	_, findings = check(doc)
	contains(t, findings, "nothing leads heat away")
}

func TestParametersHaveBounds(t *testing.T) {
	doc := load(t, "pan-floor")
	set(t, doc, "parameters/t/unit", "mm", "parameters/t/least", "2 mm", "parameters/t/most", "2*pitch")
	_, findings := check(doc)
	assert.Empty(t, findings)
	set(t, doc, "parameters/t/value", "30 mm")
	_, findings = check(doc)
	contains(t, findings, `parameters/t/value: wrong: the parameter t is "30 mm", above its greatest value 2*pitch`)
	set(t, doc, "parameters/t/value", "1.5 mm")
	_, findings = check(doc)
	contains(t, findings, "below its least value 2 mm")
	set(t, doc, "parameters/t/value", "5 mm", "parameters/t/unit", "s", "parameters/t/least", "2 s")
	_, findings = check(doc)
	contains(t, findings, "parameters/t/value: wrong: the parameter t is a length, where a time is wanted")
	contains(t, findings, "parameters/t/least: wrong")
}

// TestValuesThatVary: what may depend on the place or the temperature, and what
// may not.
func TestValuesThatVary(t *testing.T) {
	doc := load(t, "pan-floor")
	set(t, doc, "conditions/c2/values/temperature", "72 °C + 3 K*x/100 mm")
	r, findings := check(doc)
	assert.Empty(t, findings)
	assert.InDelta(t, 345.15+1.5, r.Conditions[1].Laws["temperature"].At(0, 0.05, 0, 0, 0, 0), 1e-12)
	for place, c := range map[string][2]string{
		"conditions/c1/values/power":       {"340 W*x/1 m", "cannot depend on x"},
		"conditions/c2/values/temperature": {"temperature + 1 K", "cannot depend on temperature"},
		"conditions/c2/values/coefficient": {"850 W/(m²·K)*time/1 s", "time, which does not pass in a steady run"},
		"parts/floor/span/to":              {"20 mm + z", "differs from place to place"},
		"parameters/t/value":               {"temperature", "the parameter t is a temperature, where a length is wanted"},
	} {
		doc := load(t, "pan-floor")
		set(t, doc, place, c[0])
		_, findings := check(doc)
		require.NotEmpty(t, findings, place)
		assert.Contains(t, strings.Join(findings, "\n"), c[1], place)
	}
	assert.ErrorContains(t, doc.Set("parameters/t/name", "temperature"), "a meaning of its own")
}

// TestDefinitions: a parameter may be a formula of the place and of what is solved for; it stands for that where these are known, in others and in
// itself never, keeps its name, and says what it is of.
func TestDefinitions(t *testing.T) {
	doc := load(t, "pan-floor")
	doc.Parameters = append(doc.Parameters, model.Parameter{Name: "away", Value: "sqrt(x^2 + (y - side)^2)", Unit: "mm"}, model.Parameter{Name: "side", Value: "20 mm"},
		model.Parameter{Name: "warm", Value: "exp(-away/100 mm)*(temperature - 300 K)"})
	set(t, doc, "conditions/c2/values/temperature", "72 °C + 3 K*away/100 mm")
	id, err := doc.AddSentence(physics.Catalog(), "formula", model.Patch{})
	require.NoError(t, err)
	set(t, doc, "readings/"+id+"/values/formula", "mean(warm over floor.top)")
	r, findings := check(doc)
	require.Empty(t, findings)
	assert.InDelta(t, 345.15+3*math.Hypot(0.03, 0.04)/0.1, r.Conditions[1].Laws["temperature"].At(0, 0.03, 0.06, 0, 0, 0), 1e-12)
	assert.Equal(t, "a length", r.Definitions["away"].Dimension.Name())
	assert.Equal(t, "a temperature", r.Definitions["warm"].Dimension.Name())
	_, valued := r.Parameters["away"]
	assert.False(t, valued)
	p, err := r.PlateProgram("warm/away", physics.Catalog())
	require.NoError(t, err)
	assert.Equal(t, quantity.MustUnit("K/m").Dimension, p.Dimension)

	require.NoError(t, doc.Set("parameters/away/name", "apart"))
	assert.Equal(t, "72 °C + 3 K*apart/100 mm", doc.Conditions[1].Values["temperature"])
	assert.Len(t, doc.Uses(physics.Catalog())["apart"], 2)
	_, findings = check(doc)
	require.Empty(t, findings)
	name, err := doc.Lift("conditions/c2/values/temperature")
	require.NoError(t, err)
	r, findings = check(doc)
	require.Empty(t, findings)
	assert.Contains(t, r.Definitions, name)

	for place, c := range map[string][2]string{
		"conditions/c1/values/power": {"340 W*apart/1 m", "cannot depend on x"},
		"parts/floor/span/to":        {"apart", `apart is "sqrt(x^2 + (y - side)^2)": x differs from place to place`},
		"parameters/side/value":      {"apart/2", "need each other"},
		"parameters/apart/value":     {"mean(temperature over floor)", "cannot be computed"},
		"parameters/apart/least":     {"2 mm", "no one value that could be within bounds"},
		"parameters/apart/unit":      {"s", "is a length, where a time is wanted"},
	} {
		wrong := doc.Clone()
		set(t, wrong, place, c[0])
		_, findings := check(wrong)
		require.NotEmpty(t, findings, place)
		assert.Contains(t, strings.Join(findings, "\n"), c[1], place)
	}
}

func TestFormulaReadings(t *testing.T) {
	doc := load(t, "pan-floor")
	id, err := doc.AddSentence(physics.Catalog(), "formula", model.Patch{})
	require.NoError(t, err)
	_, findings := check(doc)
	contains(t, findings, id+" has no formula")
	at := "readings/" + id + "/values/formula"
	for text, words := range map[string]string{
		"r2 - mean(temperature over floor.top)":       "",
		`total(temperature over "Heater rod"[2])/1 K`: "",
		"r2 + r3":                                   "",
		"r2 - r4":                                   `"r4" is a power and cannot be taken from "r2", which is a temperature`,
		id + " + 1 K":                               "does not stand above this one",
		"temperature - 20 °C":                       "say of what, as in mean(temperature over part)",
		"mean(temperature over lid)":                `no part "lid"; the parts are brick, rod, floor, wall`,
		"mean(temperature over wall)":               "the pan wall is shown only, and has no result",
		"mean(temperature over floor.rim)":          `no side "rim"`,
		"mean(temperature over rod[9])":             "has 5 copies, and number 9 is spoken of",
		"mean(temperature over floor facing lid)":   `no part "lid"`,
		"mean(temperature over floor facing brick)": "",
		"greatest(colour over floor)":               `no parameter "colour"`,
		"mean(":                                     "cannot be read",
	} {
		set(t, doc, at, text)
		_, findings = check(doc)
		if words == "" {
			assert.Empty(t, findings, text)
		} else {
			contains(t, findings, words)
		}
	}
	set(t, doc, at, "(greatest(temperature over floor) - least(temperature over floor))*2*t/pitch", "readings/"+id+"/unit", "K")
	r, findings := check(doc)
	assert.Empty(t, findings)
	assert.Equal(t, "K", r.Readings[6].Dimension.Symbol())
	assert.Contains(t, doc.Uses(physics.Catalog())["t"], model.Use{Place: at, Words: id})
	require.NoError(t, doc.Set("parameters/t/name", "thick"))
	assert.Contains(t, doc.Readings[6].Values["formula"], "2*thick/pitch")
}

// TestOlderFilesAreUpgraded: version 1 allowed names that mean something now.
func TestOlderFilesAreUpgraded(t *testing.T) {
	text := strings.NewReplacer(`"kettle": 7`, `"kettle": 1`, `"pitch"`, `"r"`, `"14 mm + t"`, `"14 mm + t + 0*r"`).Replace(string(load(t, "pan-floor").Bytes()))
	doc, err := model.Parse([]byte(strings.Replace(text, `"r":`, `"pitch":`, -1)))
	require.NoError(t, err)
	assert.Equal(t, model.Version, doc.Kettle)
	assert.Equal(t, "r_1", doc.Parameters[2].Name)
	assert.Equal(t, "r_1", doc.Parts[1].Array.Pitch)
	assert.Equal(t, "14 mm + t + 0*r_1", doc.Parts[2].Span.To)
	_, findings := check(doc)
	assert.Empty(t, findings)
	// Version 2 did not know of electric quantities.
	text = strings.NewReplacer(`"kettle": 7`, `"kettle": 2`, `"pitch":`, `"pitch":`, `"pitch"`, `"potential"`).Replace(string(load(t, "pan-floor").Bytes()))
	doc, err = model.Parse([]byte(text))
	require.NoError(t, err)
	assert.Equal(t, "potential_1", doc.Parts[1].Array.Pitch)
}

func TestOwnMaterials(t *testing.T) {
	doc := load(t, "pan-floor")
	require.NoError(t, doc.UseMaterial("graphite"))
	assert.Error(t, doc.UseMaterial("moonstone"))
	set(t, doc, "materials/graphite/about", "of the old hearth", "materials/graphite/conductivity", "20\t104\n200\t90", "materials/graphite/conductivity/from", "20 °C",
		"materials/graphite/family", "brick", "parts/brick/material", "graphite")
	m := doc.Materials[0]
	assert.Equal(t, material.Property{Value: "table(temperature, 20 °C: 104 W/(m·K), 200: 90)", From: "20 °C", Source: "given in this model"}, m.Properties[material.Conductivity])
	shipped, _ := material.Find(material.Library(), "graphite")
	assert.Equal(t, "104 W/(m·K)", shipped.Properties[material.Conductivity].Value)
	require.NoError(t, doc.Set("materials/graphite/name", "old graphite"))
	assert.Equal(t, "old graphite", doc.Parts[0].Material)
	assert.Error(t, doc.Set("materials/old graphite/name", "a/b"))
	assert.ErrorContains(t, doc.RemoveMaterial("old graphite"), "the hearth brick is made of old graphite")
	_, findings := check(doc)
	assert.Empty(t, findings)

	require.NoError(t, doc.AddMaterial("scale", ""))
	require.NoError(t, doc.AddProperty("scale", material.Conductivity))
	require.NoError(t, doc.AddProperty("scale", material.Conductivity))
	assert.Error(t, doc.AddProperty("scale", "hue"))
	set(t, doc, "materials/scale/conductivity", "2 W/(m·K)*(1 + 0.1*t/1 mm)", "parts/brick/material", "scale")
	r, findings := check(doc)
	assert.Empty(t, findings, "a property may use parameters")
	assert.InDelta(t, 3, r.Parts[0].Law(material.Conductivity).At(300), 1e-12)
	require.NoError(t, doc.Set("parameters/t/name", "thick"))
	assert.Contains(t, doc.Materials[doc.Material("scale")].Properties[material.Conductivity].Value, "0.1*thick/1 mm")
	require.NoError(t, doc.RemoveProperty("scale", material.Conductivity))
	_, findings = check(doc)
	contains(t, findings, "materials/scale/conductivity: missing")
	require.NoError(t, doc.RemoveMaterial("old graphite"))

	list := []material.Material{{Name: "Scale", Properties: map[material.Key]material.Property{material.Conductivity: {Value: "3 W/(m·K)"}}}, {Name: "soot"}}
	assert.ErrorContains(t, doc.ImportMaterials(list, false), "the model has Scale already")
	require.NoError(t, doc.ImportMaterials(list, true))
	assert.Len(t, doc.Materials, 2)
	_, findings = check(doc)
	assert.Empty(t, findings)
}

func TestFaultyMaterialsAreFound(t *testing.T) {
	doc := load(t, "pan-floor")
	doc.Materials = []material.Material{
		{Name: "tuff", Family: "stone", Properties: map[material.Key]material.Property{"hue": {Value: "1"}}}, {Name: "Tuff"}, {Name: "a/b"}}
	_, findings := check(doc)
	contains(t, findings, `tuff has a property "hue" that is not known`)
	contains(t, findings, "two materials are called Tuff")
	contains(t, findings, `material 3: "a/b" cannot be a name`)
	contains(t, findings, `a family "stone" that is not known`)
}

// TestNumbersBeyondAllDevices are refused in words, wherever they stand, and keep nobody waiting.
func TestNumbersBeyondAllDevices(t *testing.T) {
	for value, words := range map[string]string{"1e308 m": "larger than anything", "1e9 m": "larger than anything", "1e-30 m": "smaller than an atom", "1e200 m": "larger than anything"} {
		for _, place := range []string{"parts/floor/outline/width", "parts/rod/array/pitch", "parts/brick/span/to", "mesh/size"} {
			doc := load(t, "pan-floor")
			require.NoError(t, doc.Set(place, value))
			_, findings := check(doc)
			if place != "parts/rod/array/pitch" && place != "parts/brick/span/to" || words != "smaller than an atom" {
				contains(t, findings, words)
			}
		}
	}
	doc := load(t, "pan-floor")
	require.NoError(t, doc.Set("parameters/power/value", "1e90 W"))
	require.NoError(t, doc.Set("parameters/power/most", ""))
	_, findings := check(doc)
	contains(t, findings, "larger than anything")
}

// TestEveryValueOfARunIsOne: each can be set at its place, is told when it changes, and follows a
// parameter that gets another name.
func TestEveryValueOfARunIsOne(t *testing.T) {
	kind := reflect.TypeFor[model.Run]()
	for i := range kind.NumField() {
		name, _, _ := strings.Cut(kind.Field(i).Tag.Get("json"), ",")
		doc := load(t, "pan-floor")
		before := doc.Clone()
		require.NoError(t, doc.Set("run/"+name, "2*t"), name)
		changes := model.Diff(before, doc, physics.Catalog())
		require.Len(t, changes, 1, name)
		assert.Equal(t, "run/"+name, changes[0].Place)
		require.NoError(t, doc.Set("parameters/t/name", "thick"))
		if name != "kind" && name != "from" && name != "spread" { // these are no formulas
			assert.Equal(t, "2*thick", reflect.ValueOf(doc.Run).Field(i).String(), name)
		}
	}
}
