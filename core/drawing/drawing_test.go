package drawing

import (
	"encoding/xml"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/examples"
)

func scene(t *testing.T, key string) *Scene {
	t.Helper()
	data, err := os.ReadFile(filepath.Join("..", "..", "examples", key+".kettle.json"))
	require.NoError(t, err)
	doc, err := model.Parse(data)
	require.NoError(t, err)
	r, _ := model.Resolve(doc, physics.Catalog())
	return NewScene(r, physics.Catalog())
}

func TestSceneHasPartsSidesAndFlags(t *testing.T) {
	s := scene(t, "testdata/solid-post")
	require.Len(t, s.Parts, 4)
	post := s.Parts[1]
	assert.Equal(t, []Side{{"rim", "rim of the post"}, {"top", "top of the post"}, {"bottom", "bottom of the post"}}, post.Sides)
	loop := post.Copies[0].Loops[0]
	assert.Len(t, loop.Points, 72)
	assert.NotContains(t, loop.Corner, true, "an arc has no corners")
	slab := s.Parts[0].Copies[0].Loops[0]
	assert.Equal(t, []bool{true, true, true, true}, slab.Corner)
	assert.Equal(t, []int{0, 1, 2, 3}, slab.Side)
	words := map[string]string{}
	for _, f := range s.Flags {
		words[f.ID] = f.Words
	}
	assert.Equal(t, "The rim of the post gives heat to air at 24 °C that rises along it by itself, height high.", words["c2"])
	assert.Len(t, s.Flags, 7)
}

func TestAnIncompleteModelIsDrawnAsFarAsItGoes(t *testing.T) {
	doc, err := examples.Load("pan-floor")
	require.NoError(t, err)
	require.NoError(t, doc.Set("parts/rod/outline/width", "nonsense"))
	require.NoError(t, doc.Set("space/unit", ""))
	doc.Conditions[0].On.Part = "lid"
	r, _ := model.Resolve(doc, physics.Catalog())
	s := NewScene(r, physics.Catalog())
	assert.Len(t, s.Parts, 3)
	assert.Len(t, s.Flags, 6)
	assert.Equal(t, 1.0, s.Scale)
	r, _ = model.Resolve(model.New("blank"), physics.Catalog())
	assert.Equal(t, []Part{}, NewScene(r, physics.Catalog()).Parts)
}

func TestThumbnailIsValidAndInside(t *testing.T) {
	for _, e := range examples.List {
		svg := scene(t, e.Key).Thumbnail(300, 170)
		var root struct {
			Paths []struct {
				D    string `xml:"d,attr"`
				Fill string `xml:"fill,attr"`
			} `xml:"path"`
		}
		require.NoError(t, xml.Unmarshal([]byte(svg), &root))
		require.NotEmpty(t, root.Paths)
		holes := 0
		for _, p := range root.Paths {
			holes = max(holes, strings.Count(p.D, "Z")-1)
			for _, xy := range strings.FieldsFunc(p.D, func(r rune) bool { return strings.ContainsRune("MLZ", r) }) {
				var x, y float64
				_, err := fmt.Sscanf(xy, "%f %f", &x, &y)
				require.NoError(t, err)
				assert.True(t, x >= 9.9 && x <= 290.1 && y >= 9.9 && y <= 160.1, "%s lies outside", xy)
			}
		}
		if e.Key == "grate-bar" {
			assert.Equal(t, 5, holes, "the slots are seen in the top of the bar")
		}
	}
	assert.NotContains(t, (&Scene{}).Thumbnail(10, 10), "NaN")
}

// TestSmallDrawingsAreCut: half of a device is drawn, also where the plane runs through
// corners, through holes, or past everything.
func TestSmallDrawingsAreCut(t *testing.T) {
	ell := Body{Loops: []Loop{{Points: [][2]float64{{0, 0}, {4, 0}, {4, 1}, {1, 1}, {1, 3}, {0, 3}}, Side: make([]int, 6), Corner: make([]bool, 6)}}, Z1: 2}
	area := func(b *Body) (sum float64) {
		for _, l := range b.Loops {
			for i, p := range l.Points {
				q := l.Points[(i+1)%len(l.Points)]
				sum += (p[0]*q[1] - q[0]*p[1]) / 2
			}
		}
		return sum * (b.Z1 - b.Z0)
	}
	for _, c := range []struct {
		cut  CutPlane
		want float64
	}{{CutPlane{0, 2, true}, 4}, {CutPlane{0, 2, false}, 8}, {CutPlane{0, 1, false}, 6}, {CutPlane{1, 1, true}, 4}, {CutPlane{2, 0.5, false}, 3}, {CutPlane{0, -1, true}, 12}} {
		got := ell.cut([]CutPlane{c.cut})
		require.NotNil(t, got)
		assert.InDelta(t, c.want, area(got), 1e-12, "%+v", c.cut)
	}
	assert.Nil(t, ell.cut([]CutPlane{{0, 4, true}}))
	assert.Nil(t, ell.cut([]CutPlane{{2, 2, true}}))
	for _, key := range []string{"grate-bar", "pan-floor", "sluice-rod"} {
		s := scene(t, key)
		whole := s.Thumbnail(300, 170)
		s.Cuts = []CutPlane{{0, 0, true}, {1, 0, true}}
		half := s.Thumbnail(300, 170)
		assert.NotEqual(t, whole, half)
		assert.NotContains(t, half, "NaN")
		assert.Contains(t, half, "<path")
	}
}

func TestTones(t *testing.T) {
	for _, f := range material.Families {
		assert.NotEqual(t, paperTones, Tones(f), "the family %s has no colour", f)
	}
	assert.Equal(t, paperTones, Tones(""))
	assert.Equal(t, "#808080", blend("#000000", "#ffffff", 0.5))
	assert.Equal(t, "#102030", blend("#102030", "#ffffff", -1))
}

// TestWays are the directions that sentences give parts: of magnets with their turn, of currents by their sign.
func TestWays(t *testing.T) {
	scene := func(key string, change func(d *model.Document)) *Scene {
		d, err := examples.Load(key)
		require.NoError(t, err)
		change(d)
		r, _ := model.Resolve(d, physics.Catalog())
		return NewScene(r, physics.Catalog())
	}
	s := scene("lid-latch", func(d *model.Document) {
		d.Parts[d.Part("magnet")].Place.Turn = "90 deg"
	})
	require.Len(t, s.Ways, 1)
	w := s.Ways[0]
	assert.Equal(t, "magnet", w.Part)
	assert.InDelta(t, -1, w.Along[0], 1e-9, "north is along y before it is turned to the left")
	assert.InDelta(t, 0.0045, w.At[0], 1e-9)
	assert.InDelta(t, 0.0025, w.At[1], 1e-9)
	assert.InDelta(t, 0.005, w.Size, 1e-9)
	s = scene("turning-latch", func(d *model.Document) {
		d.Conditions = append(d.Conditions, model.Sentence{ID: "x", Kind: "magnetic.coil", On: model.Patch{Part: "base"}, Values: map[string]string{"turns": "3", "current": "-2 A"}})
	})
	require.Len(t, s.Ways, 3)
	assert.Equal(t, [3]float64{0, 0, -1}, s.Ways[1].Along)
	assert.False(t, s.Ways[1].Turns)
	assert.Equal(t, [3]float64{0, 0, -1}, s.Ways[2].Along)
	assert.True(t, s.Ways[2].Turns)
	s = scene("induction-kettle", func(*model.Document) {})
	require.NotEmpty(t, s.Ways)
	assert.Equal(t, [3]float64{0, 0, -1}, s.Ways[0].Along, "on the right of the axis what runs to its right goes away")
}

// TestLinesAreDrawn as tubes whose balls are the points, with what stands there, and as lines in space in a DXF drawing.
func TestLinesAreDrawn(t *testing.T) {
	d := model.New("pipe")
	d.Space = model.Space{Kind: model.Lines, Unit: "m"}
	d.Physics = nil
	d.Parts = []model.Part{{ID: "a", Name: "main", Material: "water", Role: model.Solved, Outline: model.Outline{Kind: model.LineOutline, Points: []model.Point{
		{ID: "1", X: "0 m", Y: "0 m", Z: "1 m"}, {ID: "2", X: "4 m", Y: "0 m", Z: "1 m", Round: "0.2 m", Name: "elbow"}, {ID: "3", X: "4 m", Y: "3 m", Z: "2 m"}}}}}
	d.Conditions = []model.Sentence{{ID: "c1", Kind: "pipes.valve", On: model.Patch{Part: "a", Side: "elbow"}, Values: map[string]string{"kind": "gate", "opening": "50 %"}}}
	d.Mesh.Size = "1 m"
	r, _ := model.Resolve(d, physics.Catalog())
	s := NewScene(r, physics.Catalog())
	require.Len(t, s.Parts, 1)
	var names []string
	for _, side := range s.Parts[0].Sides {
		names = append(names, side.Name)
	}
	assert.Equal(t, []string{"", "start", "elbow", "end"}, names)
	body := s.Parts[0].Copies[0]
	assert.True(t, body.Smooth)
	seen := map[int]int{}
	for _, side := range body.Solid.Side {
		seen[side]++
	}
	assert.Len(t, seen, 4)
	assert.Equal(t, seen[1], seen[2], "each point has a ball")
	require.Len(t, s.Symbols, 1)
	assert.Equal(t, "valve", s.Symbols[0].Kind)
	assert.NotEqual(t, 4.0, s.Symbols[0].At[0], "in the middle of the arc")
	assert.Contains(t, s.Thumbnail(100, 80), "<path")
	var b strings.Builder
	require.NoError(t, WriteDXF(&b, r))
	assert.Contains(t, b.String(), " 31\n2\n")
}
