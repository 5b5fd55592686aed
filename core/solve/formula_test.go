package solve

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/result"
)

// ask adds readings that are formulas and returns their ids.
func ask(t *testing.T, doc *model.Document, formulas ...string) []string {
	t.Helper()
	var ids []string
	for _, text := range formulas {
		id, err := doc.AddSentence(physics.Catalog(), "formula", model.Patch{})
		require.NoError(t, err)
		set(t, doc, "readings/"+id+"/values/formula", text)
		ids = append(ids, id)
	}
	return ids
}

// TestFormulasAgreeWithSentences takes the same numbers by formulas and by
// sentences.
func TestFormulasAgreeWithSentences(t *testing.T) {
	doc := demo(t, "pan-floor")
	id := ask(t, doc,
		"greatest(temperature over floor.top) - least(temperature over floor.top)",
		"greatest(temperature over rod)",
		"mean(temperature over floor.top)",
		"total(850 W/(m²·K)*(temperature - 72 °C) over floor.top)",
		"r2 - r3",
		"total(7900 kg/m³ over floor)",
		"at(temperature, 0 mm, 0 mm, 12 mm)",
		"mean(temperature along -52 mm, 0 mm, 16 mm, 52 mm, 0 mm, 16 mm)",
		"total(heat_flux_z over floor)/t",
		"mean(temperature over rod[1]) - mean(temperature over rod[5])",
	)
	o := settle(t, doc)
	require.Empty(t, o.Warnings)
	assert.InDelta(t, value(t, o, "r1"), value(t, o, id[0]), 1e-9)
	assert.InDelta(t, value(t, o, "r2"), value(t, o, id[1]), 1e-9)
	assert.InDelta(t, value(t, o, "r3"), value(t, o, id[2]), 1e-9)
	assert.InEpsilon(t, 340, value(t, o, id[3]), 1e-9)
	assert.InDelta(t, value(t, o, "r2")-value(t, o, "r3"), value(t, o, id[4]), 1e-9)
	assert.InEpsilon(t, value(t, o, "r5"), value(t, o, id[5]), 1e-9)
	assert.True(t, value(t, o, id[6]) < value(t, o, id[1]) && value(t, o, id[6]) > value(t, o, "r3"), "inside the middle rod")
	line := value(t, o, id[7])
	assert.True(t, line > value(t, o, "r3")-30 && line < value(t, o, "r2"))
	assert.InEpsilon(t, 340, value(t, o, id[8]), 0.03, "all heat rises through the floor")
	assert.InDelta(t, 0, value(t, o, id[9]), 0.2, "the device is symmetric, its mesh nearly")
	for _, q := range o.Readings {
		if q.Key == id[1] {
			assert.Equal(t, "°C", q.Shown.Unit)
			require.NotNil(t, q.At)
			assert.InDelta(t, 0.012, q.At[2], 0.0021)
		}
		if q.Key == id[0] {
			assert.Equal(t, "K", q.Shown.Unit)
		}
	}
}

func TestReadingsThatCannotBeTaken(t *testing.T) {
	doc := demo(t, "pan-floor")
	doc.Readings = doc.Readings[:5]
	ask(t, doc, "mean(temperature along 3 m, 0 m, 0 m, 4 m, 0 m, 0 m)", "mean(temperature along 1 m, 0 m, 0 m, 2 m, 0 m, 0 m)",
		"1 K/(greatest(temperature over rod) - greatest(temperature over rod))*1 K", "r6 + 1 K", "mean(temperature over floor facing brick)")
	o, err := Run(t.Context(), doc, Options{})
	require.NoError(t, err)
	assert.Equal(t, result.NotSettled, o.Status)
	missing := map[string]string{}
	for _, q := range o.Readings {
		missing[q.Key] = q.Missing
	}
	assert.Equal(t, map[string]string{"r1": "", "r2": "", "r3": "", "r4": "", "r5": "",
		"r6": "the line of temperature runs through no solved part", "r7": "the line of temperature runs through no solved part",
		"r8": "the formula has no finite value", "r9": "it uses r6, which has no value", "r10": "there is no pan floor, where it meets the hearth brick"}, missing)
	assert.Contains(t, o.Reason, "r6 has no value")
}

// TestLawsOfAModel: the range of a material is watched over, and a law without a
// usable value ends the run in words.
func TestLawsOfAModel(t *testing.T) {
	doc := demo(t, "pan-floor")
	set(t, doc, "parts/brick/material", "fire clay, furnace lining")
	o := settle(t, doc)
	require.Len(t, o.Warnings, 1)
	assert.Contains(t, o.Warnings[0], "the conductivity of fire clay, furnace lining is known 204.9 °C to 1205 °C; the hearth brick reaches 13")
	assert.Contains(t, o.Solver.Method, "Newton's method")

	doc = demo(t, "pan-floor")
	doc.CarryAll()
	set(t, doc, "materials/steel 304/conductivity", "table(temperature, 0 °C: 14.5 W/(m·K), 100: 16; refuse)")
	_, err := Run(t.Context(), doc, Options{})
	var bad *ModelError
	require.ErrorAs(t, err, &bad)
	assert.Contains(t, err.Error(), "parts/floor/material: wrong: in the pan floor the conductivity is undefined at the temperatures that occur")

	doc = demo(t, "pan-floor")
	set(t, doc, "conditions/c2/values/coefficient", "850 W/(m²·K)*sqrt((temperature - 200 °C)/1 K)")
	_, err = Run(t.Context(), doc, Options{})
	require.ErrorAs(t, err, &bad)
	assert.Contains(t, err.Error(), "the heat-transfer coefficient is undefined")
}
