package model_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// dissolving names what a sentence says is dissolved.
func dissolving(d *model.Document, names ...string) *model.Document {
	for i, name := range names {
		d.Conditions = append(d.Conditions, model.Sentence{ID: fmt.Sprint("s", i), Kind: "species.dissolved", On: model.Patch{Part: d.Parts[0].ID},
			Values: map[string]string{"species": name, "diffusivity": "1e-9 m²/s"}})
	}
	return d
}

// TestNamesAreGivenInTurn: the first name is that of the first quantity, one that is given twice counts once, and one
// whose sentence is switched off keeps the others in their places.
func TestNamesAreGivenInTurn(t *testing.T) {
	cat := physics.Catalog()
	d := model.New("names")
	d.Parts = []model.Part{{ID: "p1", Name: "pan"}}
	assert.Same(t, cat, cat.For(d), "without names it is the one of all")
	dissolving(d, "acid", "lime", " acid ", "salt")
	d.Conditions[1].Off = true
	assert.Equal(t, map[string]string{"concentration_1": "acid", "concentration_2": "lime", "concentration_3": "salt"}, d.Named(cat))
	own := cat.For(d)
	f, ok := own.Field("concentration_3")
	require.True(t, ok)
	assert.Equal(t, "concentration of salt", f.Words())
	assert.Equal(t, "concentration_3", own.FieldCalled("salt"))
	f, _ = cat.Field("concentration_3")
	assert.Equal(t, "concentration 3", f.Words(), "the one of all stays")
	list := d.AllPlates(cat, func(field string) bool { return field == "concentration_1" })
	assert.Equal(t, "Concentration of acid", list[len(list)-1].Name)
}

// TestNamesThatAreTooMany are said.
func TestNamesThatAreTooMany(t *testing.T) {
	d := model.New("names")
	d.Parts = []model.Part{{ID: "p1", Name: "pan", Role: model.Solved}}
	dissolving(d, "a1", "a2", "a3", "a4", "a5", "a6", "a7")
	_, findings := model.Resolve(d, physics.Catalog())
	text := ""
	for _, f := range findings {
		text += f.String() + "\n"
	}
	assert.Equal(t, 1, strings.Count(text, "one too many"), text)
	assert.Contains(t, text, `"a7" is one too many: a model has up to 6 of them`)
}
