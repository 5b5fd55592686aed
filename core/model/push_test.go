package model_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/shape"
)

// middles are the middles of the sides of a part with their outward directions.
func middles(r *model.Resolved, part int) map[string][4]float64 {
	out := map[string][4]float64{}
	for _, loop := range r.Parts[part].Outline.Loops {
		for _, e := range loop {
			if e.Arc {
				out[e.Name] = [4]float64{0, 0, math.Hypot(e.From.X-e.Centre.X, e.From.Y-e.Centre.Y), 1}
				continue
			}
			l := math.Hypot(e.To.X-e.From.X, e.To.Y-e.From.Y)
			out[e.Name] = [4]float64{(e.From.X + e.To.X) / 2, (e.From.Y + e.To.Y) / 2, (e.To.Y - e.From.Y) / l, (e.From.X - e.To.X) / l}
		}
	}
	return out
}

// TestPushedSidesMoveAlone: each side of a turned and mirrored box and of a free outline
// moves outward by the distance, and the opposite one stays.
func TestPushedSidesMoveAlone(t *testing.T) {
	const by = 0.003
	box := model.Part{ID: "p", Name: "box", Material: "oak", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "40 mm", Depth: "2 cm"}, Span: model.Span{From: "0 mm", To: "10 mm"},
		Place: model.Place{X: "7 mm", Turn: "30 deg", Mirror: true}}
	path := box
	path.Outline = model.Outline{Kind: "path", Points: []model.Point{{X: "0 mm", Y: "0 mm"}, {X: "0 mm", Y: "30 mm"}, {X: "40 mm", Y: "30 mm"}, {X: "40 mm", Y: "0 mm"}}}
	path.Place = model.Place{}
	for _, c := range []struct {
		part     model.Part
		opposite map[string]string
	}{{box, map[string]string{"left": "right", "right": "left", "front": "back", "back": "front"}}, {path, map[string]string{"e1": "e3", "e2": "e4", "e3": "e1", "e4": "e2"}}} {
		for side, other := range c.opposite {
			doc := model.New("x")
			p := c.part
			p.Outline.Points = append([]model.Point(nil), p.Outline.Points...)
			doc.Parts = []model.Part{p}
			doc.Enumerate()
			before, _ := model.Resolve(doc, physics.Catalog())
			changed, err := doc.Push(physics.Catalog(), model.Patch{Part: "p", Side: side}, by)
			require.NoError(t, err)
			assert.NotEmpty(t, changed)
			after, _ := model.Resolve(doc, physics.Catalog())
			a, b := middles(before, 0), middles(after, 0)
			along := func(side string) float64 {
				return (b[side][0]-a[side][0])*a[side][2] + (b[side][1]-a[side][1])*a[side][3]
			}
			assert.InDelta(t, by, along(side), 1e-9, "%s of the %s", side, p.Outline.Kind)
			assert.InDelta(t, 0, along(other), 1e-9, "opposite %s of the %s", side, p.Outline.Kind)
		}
	}
}

func TestPushMovesTheParameter(t *testing.T) {
	doc := load(t, "pan-floor")
	changed, err := doc.Push(physics.Catalog(), model.Patch{Part: "floor", Side: shape.Top}, 0.0015)
	require.NoError(t, err)
	assert.Equal(t, []string{"parameters/t/value"}, changed)
	assert.Equal(t, "6.5 mm", doc.Parameters[3].Value)
	_, err = doc.Push(physics.Catalog(), model.Patch{Part: "brick", Side: shape.Bottom}, 0.002)
	require.NoError(t, err)
	assert.Equal(t, "-2 mm", doc.Parts[0].Span.From)
	// The unit in which a number was written stays.
	require.NoError(t, doc.Set("parts/brick/outline/width", "10.4 cm"))
	_, err = doc.Push(physics.Catalog(), model.Patch{Part: "brick", Side: "left"}, 0.001)
	require.NoError(t, err)
	assert.Equal(t, "10.5 cm", doc.Parts[0].Outline.Width)
	assert.Equal(t, "-0.5 mm", doc.Parts[0].Place.X)
	// A number that twice a parameter makes moves it by half; parameters of parameters too.
	require.NoError(t, doc.Set("parameters/pitch/value", "2*t"))
	require.NoError(t, doc.Set("parts/brick/outline/width", "4*pitch"))
	_, err = doc.Push(physics.Catalog(), model.Patch{Part: "brick", Side: "right"}, 0.008)
	require.NoError(t, err)
	assert.Equal(t, "7.5 mm", doc.Parameters[3].Value)

	disc := load(t, "testdata/solid-post")
	_, err = disc.Push(physics.Catalog(), model.Patch{Part: disc.Parts[1].ID, Side: "rim"}, 0.001)
	require.NoError(t, err)
	var gone *model.GoneError
	_, err = disc.Push(physics.Catalog(), model.Patch{Part: "nothing", Side: "rim"}, 0.001)
	assert.ErrorAs(t, err, &gone)
	_, err = disc.Push(physics.Catalog(), model.Patch{Part: disc.Parts[0].ID, Side: "corner"}, 0.001)
	assert.ErrorContains(t, err, "cannot be drawn out")
}

func TestMovedPartsKeepTheirParameters(t *testing.T) {
	doc := load(t, "pan-floor")
	_, err := doc.MoveBy(physics.Catalog(), "floor", [3]float64{0.004, 0, -0.001})
	require.NoError(t, err)
	p := doc.Parts[2]
	assert.Equal(t, [3]string{"4 mm", "13 mm", "13 mm + t"}, [3]string{p.Place.X, p.Span.From, p.Span.To})
	assert.Equal(t, "5 mm", doc.Parameters[3].Value)
	require.NoError(t, doc.Set("parts/floor/place/y", "pitch"))
	_, err = doc.MoveBy(physics.Catalog(), "floor", [3]float64{0, 0.002, 0})
	require.NoError(t, err)
	assert.Equal(t, "2 mm + pitch", doc.Parts[2].Place.Y)
	_, err = doc.MoveBy(physics.Catalog(), "floor", [3]float64{0, -0.002, 0})
	require.NoError(t, err)
	assert.Equal(t, "0 mm + pitch", doc.Parts[2].Place.Y)
	_, err = doc.TurnBy(physics.Catalog(), "floor", math.Pi/6)
	require.NoError(t, err)
	assert.Equal(t, "30 deg", doc.Parts[2].Place.Turn)
	id, err := doc.AddAround("box-around", 0.1)
	require.NoError(t, err)
	_, err = doc.MoveBy(physics.Catalog(), id, [3]float64{1, 0, 0})
	assert.ErrorContains(t, err, "follows from the other parts")
	_, err = doc.Push(physics.Catalog(), model.Patch{Part: id, Side: "left"}, 0.01)
	require.NoError(t, err)
	assert.Equal(t, "60 mm", doc.Parts[0].Outline.Left)
}
