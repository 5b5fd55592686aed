package model_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/trace"
)

func TestADrawingBecomesParts(t *testing.T) {
	svg := `<svg xmlns="http://www.w3.org/2000/svg" width="80mm" viewBox="0 0 80 40"><path id="bracket" d="M0 40 V10 a10 10 0 0 1 20 0 V40 z"/><circle cx="10" cy="10" r="3"/><rect width="12" height="9" x="50" y="3"/></svg>`
	drawing, err := trace.Read("a.svg", []byte(svg), "")
	require.NoError(t, err)
	doc := model.New("bracket")
	require.NoError(t, doc.Set("space/unit", "cm"))
	ids, err := doc.AddTraced("sheet 4", drawing)
	require.NoError(t, err)
	require.Equal(t, []string{"p1", "p2"}, ids)
	assert.Equal(t, "bracket", doc.Parts[0].Name)
	assert.Equal(t, "sheet 4 2", doc.Parts[1].Name)
	hole := doc.Parts[0].Outline.Holes[0]
	assert.Equal(t, []string{"disc", "0.6 cm", "1 cm", "-1 cm"}, []string{hole.Kind, hole.Diameter, hole.X, hole.Y})
	for _, id := range ids {
		set(t, doc, "parts/"+id+"/span/from", "0 mm", "parts/"+id+"/span/to", "3 mm")
	}
	r, _ := check(doc)
	require.Len(t, r.Bodies, 2)
	assert.InEpsilon(t, 20*30e-6+math.Pi*50e-6-math.Pi*9e-6, r.Bodies[0].Outline.Area(), 1e-6)
	assert.InEpsilon(t, 108e-6, r.Bodies[1].Outline.Area(), 1e-6)
	many := &trace.Drawing{Outlines: make([]trace.Outline, 201)}
	_, err = doc.AddTraced("x", many)
	assert.ErrorContains(t, err, "201 outlines")
	_, err = doc.AddTraced("x", &trace.Drawing{Outlines: []trace.Outline{{Loop: make([]trace.Vertex, 1001)}}})
	assert.ErrorContains(t, err, "1001 points")
}
