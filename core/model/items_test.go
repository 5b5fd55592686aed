package model_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// corner is a point of a path.
func corner(x, y string) model.Point { return model.Point{X: x, Y: y} }

// drawn is a model of one path with four points and two holes.
func drawn(t *testing.T) *model.Document {
	t.Helper()
	doc := plate(t, model.Outline{Kind: "path", Points: []model.Point{corner("0 mm", "0 mm"), corner("40 mm", "0 mm"), corner("40 mm", "30 mm"), corner("0 mm", "30 mm")},
		Holes: []model.Hole{{Outline: model.Outline{Kind: "disc", Diameter: "4 mm"}, X: "10 mm", Y: "10 mm"}, {Outline: model.Outline{Kind: "disc", Diameter: "6 mm"}, X: "30 mm", Y: "20 mm"}}})
	return doc
}

// TestNumbersOfEntriesStay: what is put before an entry of a list, or taken away, changes neither
// its place nor the names of its sides.
func TestNumbersOfEntriesStay(t *testing.T) {
	doc := drawn(t)
	_, err := doc.AddSentence(physics.Catalog(), "heat.held", model.Patch{Part: "p1", Side: "hole 2"})
	require.NoError(t, err)
	side := func(name string) float64 {
		r, _ := check(doc)
		for _, loop := range r.Parts[0].Outline.Loops {
			for _, e := range loop {
				if e.Name == name {
					return e.From.X
				}
			}
		}
		t.Fatalf("there is no side %q", name)
		return 0
	}
	third, second := side("e3"), side("hole 2")
	place, err := doc.AddPoint("parts/p1/outline/points/1")
	require.NoError(t, err)
	assert.Equal(t, "parts/p1/outline/points/5/x", place)
	set(t, doc, place, "20 mm", strings.TrimSuffix(place, "x")+"y", "-3 mm")
	assert.InDelta(t, third, side("e3"), 1e-12)
	require.NoError(t, doc.RemoveItem("parts/p1/outline/points/2"))
	require.NoError(t, doc.RemoveItem("parts/p1/outline/holes/1"))
	assert.InDelta(t, third, side("e3"), 1e-12)
	assert.InDelta(t, second, side("hole 2"), 1e-12)
	back, err := model.Parse(doc.Bytes())
	require.NoError(t, err)
	assert.Equal(t, doc, back, "a file keeps the numbers")
	hole, err := doc.AddHole("p1", "disc")
	require.NoError(t, err)
	assert.Equal(t, "parts/p1/outline/holes/3", hole)
}

// TestNumbersOfFilesAreMended: entries without a number, with one that another has, or with none
// that a place could have get numbers of their own.
func TestNumbersOfFilesAreMended(t *testing.T) {
	text := `{"kettle": 4, "name": "x", "space": {"kind": "solid", "unit": "mm"}, "mesh": {"size": "", "across": ""},
		"parts": [{"id": "p", "name": "p", "role": "solved", "outline": {"kind": "path", "points": [
		{"x": "1", "y": "0"}, {"id": "7", "x": "2", "y": "0"}, {"id": "7", "x": "3", "y": "0"}, {"id": "a/b", "x": "4", "y": "0"}, {"id": "-1", "x": "5", "y": "0"}, {"id": "99999999999999", "x": "6", "y": "0"}]}}]}`
	doc, err := model.Parse([]byte(text))
	require.NoError(t, err)
	var ids []string
	for _, p := range doc.Parts[0].Outline.Points {
		ids = append(ids, p.ID)
	}
	assert.Equal(t, []string{"8", "7", "9", "10", "11", "12"}, ids)
}

// TestClash: an edit on an older revision goes through where what it speaks of is the same, and
// only there.
func TestClash(t *testing.T) {
	seen := drawn(t)
	change := func(f func(d *model.Document)) *model.Document {
		d := seen.Clone()
		f(d)
		return d
	}
	must := func(err error) { require.NoError(t, err) }
	var gone *model.GoneError
	var clash *model.ClashError
	point := "parts/p1/outline/points/3/x"
	// A point before it is gone, another one changed: its place means the same.
	now := change(func(d *model.Document) {
		must(d.RemoveItem("parts/p1/outline/points/1"))
		must(d.Set("parts/p1/outline/points/2/x", "1 mm"))
	})
	assert.NoError(t, model.Clash(seen, now, nil, []string{point, "aim", "parts/p1/outline/points/3"}))
	assert.ErrorAs(t, model.Clash(seen, now, nil, []string{"parts/p1/outline/points/1/x"}), &gone)
	require.ErrorAs(t, model.Clash(seen, now, nil, []string{"parts/p1/outline/points/2/x"}), &clash)
	assert.Equal(t, []string{"40 mm", "1 mm"}, []string{clash.Was, clash.Now})
	assert.Equal(t, "outline, points, 2, x of the part 1 was changed in another window: it was “40 mm”, and is “1 mm” now", clash.Error())
	// A whole entry differs if anything in it does.
	require.ErrorAs(t, model.Clash(seen, now, nil, []string{"parts/p1"}), &clash)
	require.ErrorAs(t, model.Clash(seen, change(func(d *model.Document) { must(d.Set("conditions/c1/values/temperature", "4 °C")) }), nil, []string{"conditions/c1"}), &clash)
	assert.Contains(t, clash.Now, "4 °C")
	// What was away for a while is another thing, though it looks the same.
	away := change(func(d *model.Document) { must(d.RemoveItem("parts/p1/outline/points/3")) })
	assert.ErrorAs(t, model.Clash(seen, seen.Clone(), []*model.Document{away}, []string{point}), &clash)
	// Values that are left out of a file stand for nothing.
	assert.NoError(t, model.Clash(seen, seen.Clone(), nil, []string{"mesh/growth", "parts/p1/fill", "run/end", "space/depth", "physics/electric"}))
	require.ErrorAs(t, model.Clash(seen, change(func(d *model.Document) { must(d.Set("mesh/growth", "1.3")) }), nil, []string{"mesh/growth"}), &clash)
	assert.Equal(t, "nothing", strings.Fields(strings.SplitN(clash.Error(), "it was ", 2)[1])[0][:7])
	// Materials and parameters are known by their names.
	must(seen.UseMaterial("copper"))
	renamed := change(func(d *model.Document) { must(d.Set("materials/copper/name", "red copper")) })
	assert.ErrorAs(t, model.Clash(seen, renamed, nil, []string{"materials/copper/conductivity"}), &gone)
	assert.NoError(t, model.Clash(seen, change(func(d *model.Document) { must(d.Set("materials/copper/density", "9 g/cm³")) }), nil, []string{"materials/copper/conductivity"}))
}

// TestSurfacesApart: a document without its surfaces is the same again with them, and a file has
// them without their names.
func TestSurfacesApart(t *testing.T) {
	doc := drawn(t)
	s := &model.Surface{Points: []float64{0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1.5e-3}, Triangles: []int32{0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3}}
	for range 2 {
		doc.Parts = append(doc.Parts, model.Part{ID: "s" + string(rune('0'+len(doc.Parts))), Name: "lump", Role: model.Solved, Outline: model.Outline{Kind: "surface"}, Surface: s})
	}
	bare, surfaces := doc.WithoutSurfaces()
	require.Len(t, surfaces, 1, "the same surface is stored once")
	assert.NotContains(t, string(bare.Bytes()), "triangles")
	back, err := model.Parse(bare.Bytes())
	require.NoError(t, err)
	require.NoError(t, back.AttachSurfaces(func(content string) (*model.Surface, error) {
		return model.SurfaceOf(content, surfaces[content].Data())
	}))
	assert.Equal(t, string(doc.Bytes()), string(back.Bytes()))
	assert.NotContains(t, string(back.Bytes()), "content")
	assert.Equal(t, len(doc.Bytes()), doc.Size())
	for content, s := range surfaces {
		data := s.Data()
		data[9] ^= 1
		_, err := model.SurfaceOf(content, data)
		assert.ErrorContains(t, err, "damaged")
	}
	// A file cannot name a surface that stands elsewhere.
	named, err := model.Read(strings.NewReader(string(bare.Bytes())))
	require.NoError(t, err)
	assert.Empty(t, named.Parts[1].Surface.Content)
}
