package model_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/sentence"
)

// piped is a model of a line with an arc and a name, and a second one that ends on it.
func piped() *model.Document {
	d := model.New("pipes")
	d.Space = model.Space{Kind: model.Lines, Unit: "m"}
	d.Physics = nil
	line := func(id string, points ...model.Point) model.Part {
		return model.Part{ID: id, Name: id, Material: "water", Role: model.Solved, Outline: model.Outline{Kind: model.LineOutline, Points: points}}
	}
	d.Parts = []model.Part{
		line("main", model.Point{X: "0 m", Y: "0 m", Z: "2 m"}, model.Point{X: "6 m", Y: "0 m", Z: "2 m", Round: "0.5 m", Name: "elbow"}, model.Point{X: "6 m", Y: "4 m", Z: "2 m"}),
		line("branch", model.Point{X: "3 m", Y: "0 m", Z: "2 m"}, model.Point{X: "3 m", Y: "5 m", Z: "1 m"}),
	}
	d.Mesh.Size = "1 m"
	d.Plates = []model.Plate{{ID: "I", Field: "pipe_speed", Lines: []model.Line{{Kind: model.Along, Side: "main"}}}}
	d.Enumerate()
	return d
}

func TestLinesAreResolved(t *testing.T) {
	d := piped()
	d.Conditions = []model.Sentence{{ID: "c1", Kind: "pipes.valve", On: model.Patch{Part: "main", Side: "elbow"}, Values: map[string]string{"kind": "gate", "opening": "1"}}}
	r, findings := model.Resolve(d, physics.Catalog())
	assert.Equal(t, []string{"start", "elbow", "end"}, r.Sides(0))
	assert.InDelta(t, 10-1+0.7853981634, r.Parts[0].Line.Length(), 1e-9)
	assert.Equal(t, []string{"start", "end"}, r.LineSides(1))
	for _, f := range findings {
		assert.NotContains(t, f.Message, "high", "heights of lines are no slips")
	}
	m, owners, err := r.MeshOf(t.Context(), 0, nil)
	require.NoError(t, err)
	assert.Equal(t, []int{0, 1}, owners)
	at := 0
	for i := range m.Lines.Pieces {
		if m.Piece(int32(i)).Point >= 0 {
			at++
		}
	}
	assert.Equal(t, 1, at, "the elbow, at which the valve is, too")
	assert.Equal(t, "elbow of the main", d.PatchWords(model.Patch{Part: "main", Side: "elbow"}))
}

func TestWhatIsOfferedOnLines(t *testing.T) {
	assert.Equal(t, []string{model.LineOutline}, model.Space{Kind: model.Lines}.Outlines())
	assert.NotContains(t, model.Space{Kind: model.Plane}.Outlines(), model.LineOutline)
	assert.Contains(t, model.Space{Kind: model.Solid}.Outlines(), model.LineOutline)
	assert.NotContains(t, model.HoleKeys(), model.LineOutline)
	cat := physics.Catalog()
	offered := map[string]bool{}
	for _, g := range []sentence.Group{sentence.Condition, sentence.Reading} {
		for _, k := range cat.Group(g) {
			if cat.Offered(k, model.Space{Kind: model.Lines}) {
				offered[model.Of(k.Key)] = true
			}
			assert.True(t, cat.Offered(k, model.Space{Kind: model.Solid}))
		}
	}
	assert.True(t, offered["pipes"])
	assert.False(t, offered["heat"])
	id, err := piped().AddPart(model.LineOutline)
	require.NoError(t, err)
	assert.NotEmpty(t, id)
}

func TestWhatIsWrongWithLines(t *testing.T) {
	for _, c := range []struct {
		spoil func(d *model.Document)
		words string
	}{
		{func(d *model.Document) { d.Parts[0].Outline.Points[1].Name = "start" }, `cannot be called "start"`},
		{func(d *model.Document) { d.Parts[0].Outline.Points[1].Round = "5 m" }, "take more than the way"},
		{func(d *model.Document) { d.Parts[0].Outline.Points[2].Z = "4 kg" }, "z of point 3 of the main"},
		{func(d *model.Document) { d.Parts[1].Outline = model.Outline{Kind: "disc", Diameter: "1 m"} }, "the branch is no line"},
		{func(d *model.Document) { d.Plates[0].Lines[0].Side = "nobody" }, "is not there"},
	} {
		d := piped()
		c.spoil(d)
		_, findings := model.Resolve(d, physics.Catalog())
		text := ""
		for _, f := range findings {
			text += f.Message + "; "
		}
		assert.Contains(t, text, c.words)
	}
}
