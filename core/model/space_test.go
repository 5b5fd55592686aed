package model

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/sentence"
)

// TestCoordinatesMeanWhatTheSpaceHas: in an axial space r is the distance from the axis,
// which is x; what a space does not have is said.
func TestCoordinatesMeanWhatTheSpaceHas(t *testing.T) {
	for kind, cases := range map[string]map[string]string{
		Axial: {"1 W/m²*r/1 m": "3", "1 W/m²*x/1 m": "3", "1 W/m²*y/1 m": "4", "1 W/m²*z/1 m": "there is no z in an axial space", "1 W/m²*theta/1 rad": "nothing differs round the axis"},
		Plane: {"1 W/m²*r/1 m": "5", "1 W/m²*z/1 m": "nothing differs along z in a plane space"},
		Solid: {"1 W/m²*r/1 m": "5", "1 W/m²*z/1 m": "7"},
	} {
		for text, want := range cases {
			doc := New("places")
			doc.Space.Kind = kind
			r := &resolver{doc: doc, cat: &Catalog{Catalog: &sentence.Catalog{Variables: law.Variables}}, out: &Resolved{Document: doc, Parameters: formula.Values{}}}
			p, ok := r.law("conditions/c1/values/flux", text, need{label: "flux", unit: "W/m²"}, sentence.Everything)
			if !ok {
				require.Len(t, r.findings, 1)
				assert.Contains(t, r.findings[0].Message, want, "%s in %s", text, kind)
				continue
			}
			assert.Equal(t, want, fmt.Sprint(p.At(300, 3, 4, 7, 5, 0.9, 0)), "%s in %s", text, kind)
		}
	}
}

// TestOlderAxialModelsAreAskedAboutTheRadius: as long as the value stays what it was, also
// after the model has been saved.
func TestOlderAxialModelsAreAskedAboutTheRadius(t *testing.T) {
	text := `{"kettle": 3, "name": "old", "space": {"kind": "axial", "unit": "mm"}, "mesh": {"size": "1 mm", "across": "1"},
		"conditions": [{"id": "c1", "kind": "heat.source-density", "on": {"part": "p"}, "values": {"density": "1 W/m³*r/1 m"}},
			{"id": "c2", "kind": "heat.source-density", "on": {"part": "p"}, "values": {"density": "1 W/m³*x/1 m"}}]}`
	doc, err := Parse([]byte(text))
	require.NoError(t, err)
	require.Len(t, doc.Asks, 1)
	assert.Equal(t, "conditions/c1/values/density", doc.Asks[0].Place)
	asked := func(d *Document) bool {
		r := &resolver{doc: d, out: &Resolved{Document: d}}
		r.asks()
		return len(r.findings) == 1 && strings.Contains(r.findings[0].Message, "distance from the axis")
	}
	saved := doc.Clone()
	assert.True(t, asked(saved))
	require.NoError(t, saved.Set("conditions/c1/values/density", "1 W/m³*x/1 m"))
	assert.False(t, asked(saved))
	doc, err = Parse([]byte(strings.Replace(text, "axial", "plane", 1)))
	require.NoError(t, err)
	assert.Empty(t, doc.Asks)
}
