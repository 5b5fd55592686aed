package model_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
)

// says resolves a document and returns what is found, as one text.
func says(doc *model.Document) string {
	_, list := check(doc)
	return strings.Join(list, "\n")
}

// TestMessagesSayWhatToDo: each was met by somebody who knew the documents alone.
func TestMessagesSayWhatToDo(t *testing.T) {
	doc := load(t, "pan-floor")
	doc.Space.Kind = "flat"
	text := says(doc)
	assert.Contains(t, text, `there is no space "flat"`)
	assert.NotContains(t, text, "span", "a wrong kind of space raises no errors of its own")

	doc = load(t, "bittern-post")
	doc.Space.Cuts = []model.Cut{{Across: "z", At: "0 mm", Keep: "greater"}}
	assert.Contains(t, says(doc), `nothing can be cut across "z" in a axial space — choose x or y`)

	// Names near an unknown one.
	doc = load(t, "pan-floor")
	for value, near := range map[string]string{"temprature": "temperature", "Time": "time", "2*pich": "pitch", "pwoer": "power", "zzzzzz": ""} {
		require.NoError(t, doc.Set("conditions/c2/values/coefficient", "850 W/(m²·K)*"+value))
		text := says(doc)
		if near == "" {
			assert.NotContains(t, text, "did you mean", value)
		} else {
			assert.Contains(t, text, "did you mean "+near, value)
		}
	}

	// A model of current alone that is asked for a conductivity.
	doc = load(t, "electrode-lead")
	doc.CarryAll()
	doc = doc.Clone() // with maps of its own
	for i := range doc.Materials {
		delete(doc.Materials[i].Properties, "conductivity")
	}
	assert.NotContains(t, says(doc), "current alone", "heat is meant here")
	doc.Conditions = doc.Conditions[:0]
	_, err := doc.AddSentence(physics.Catalog(), "electric.flows", model.Patch{Part: doc.Parts[0].ID})
	require.NoError(t, err)
	assert.Contains(t, says(doc), "solve for the current alone")

	// The start is not missing where sentences give it everywhere.
	doc = load(t, "bittern-post")
	doc.Run = model.Run{Kind: model.Transient, End: "1 h"}
	assert.Contains(t, says(doc), "temperature at the start has not been given")
	for _, p := range doc.Parts {
		assert.Contains(t, says(doc), "temperature at the start has not been given")
		id, err := doc.AddSentence(physics.Catalog(), "heat.start", model.Patch{Part: p.ID})
		require.NoError(t, err)
		require.NoError(t, doc.Set("conditions/"+id+"/values/temperature", "20 °C"))
	}
	assert.Empty(t, says(doc))
	doc.Run.Longest = "3 mm"
	assert.Contains(t, says(doc), "longest step in time")
}

// TestUnitsOfQuantitiesHaveNames: what readings can be is written as people write it.
func TestUnitsOfQuantitiesHaveNames(t *testing.T) {
	for _, v := range physics.Quantities {
		symbol := v.Dimension.Symbol()
		assert.NotContains(t, symbol, "⁻", v.Name)
		assert.NotContains(t, symbol, "kg·", v.Name)
	}
	for unit, want := range map[string]string{"V/m": "V/m", "kV/mm": "V/m", "W/m²": "W/m²", "K/s": "K/s", "mΩ": "Ω", "nF": "F", "Ω·m²": "Ω·m²"} {
		assert.Equal(t, want, quantity.MustUnit(unit).Dimension.Symbol())
	}
}

// TestOverlapsOfSectionsAreThoseOfTheDevice: their volume does not depend on the mesh, and they
// point to a place that sections have.
func TestOverlapsOfSectionsAreThoseOfTheDevice(t *testing.T) {
	for kind, want := range map[string]float64{model.Plane: 0.01 * 0.02 * 0.3, model.Axial: 2 * math.Pi * 0.025 * 0.01 * 0.02} {
		for _, size := range []string{"1 mm", "20 mm"} {
			doc := model.New("sections")
			doc.Space = model.Space{Kind: kind, Unit: "mm", Depth: "0.3 m"}
			for i, id := range []string{"a", "b"} {
				doc.Parts = append(doc.Parts, model.Part{ID: id, Name: id, Material: "steel 304", Role: model.Solved,
					Outline: model.Outline{Kind: "rectangle", Width: "20 mm", Depth: "20 mm"}, Place: model.Place{X: fmt.Sprintf("%d mm", 20+10*i)}})
			}
			doc.Mesh.Size = size
			r, list := check(doc)
			require.Len(t, r.Overlaps, 1, kind)
			assert.InEpsilon(t, want, r.Overlaps[0].Volume, 1e-9, "%s, cells of %s", kind, size)
			assert.Contains(t, strings.Join(list, "\n"), "parts/b/place/x: doubtful")
		}
	}
}
