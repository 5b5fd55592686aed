package model_test

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// trough is an open trough of two walls on a floor, with air all round it.
func trough(t *testing.T) *model.Document {
	t.Helper()
	doc := model.New("trough")
	add := func(name, width, depth, y, from, to string) {
		id, err := doc.AddPart("rectangle")
		require.NoError(t, err)
		for place, v := range map[string]string{"name": name, "material": "oak", "outline/width": width, "outline/depth": depth, "place/y": y, "span/from": from, "span/to": to} {
			require.NoError(t, doc.Set("parts/"+id+"/"+place, v))
		}
	}
	add("floor", "100 mm", "50 mm", "0 mm", "-5 mm", "0 mm")
	add("wall", "100 mm", "5 mm", "22.5 mm", "0 mm", "30 mm")
	add("other wall", "100 mm", "5 mm", "-22.5 mm", "0 mm", "30 mm")
	require.NoError(t, doc.Set("mesh/size", "10 mm"))
	require.NoError(t, doc.Set("mesh/across", "1"))
	return doc
}

// meshed meshes a model and returns the volumes of its parts by name.
func meshed(t *testing.T, doc *model.Document) (*mesh.Mesh, map[string]float64) {
	t.Helper()
	r, findings := model.Resolve(doc, physics.Catalog())
	for _, f := range model.Blocking(findings) {
		require.Contains(t, f.Place, "conditions", f.Message)
	}
	m, owners, err := r.MeshOf(t.Context(), 0, nil)
	require.NoError(t, err)
	volume := map[string]float64{}
	for c, b := range m.Body {
		volume[r.Parts[r.Bodies[owners[b]].Part].Name] += m.Size(int32(c))
	}
	return m, volume
}

func TestAirRoundADevice(t *testing.T) {
	doc := trough(t)
	id, err := doc.AddAround("box-around", 0.1)
	require.NoError(t, err)
	assert.Equal(t, id, doc.Parts[0].ID, "it comes first: all others displace it")
	require.NoError(t, doc.Set("parts/"+id+"/outline/above", "15 mm"))
	_, volume := meshed(t, doc)
	solid := 0.1*0.05*0.005 + 2*0.1*0.005*0.03
	assert.InEpsilon(t, 0.2*0.15*(0.05+0.005+0.03+0.015)-solid, volume["air"], 1e-9)
	// It follows when the device changes.
	require.NoError(t, doc.Set("parts/p1/outline/width", "140 mm"))
	_, volume = meshed(t, doc)
	assert.InEpsilon(t, 0.24*0.15*0.1-0.14*0.05*0.005-2*0.1*0.005*0.03, volume["air"], 1e-9)

	id, err = doc.AddAround("disc-around", 0.1)
	require.NoError(t, err)
	r, _ := model.Resolve(doc, physics.Catalog())
	lo, hi := r.Parts[doc.Part(id)].Outline.Box()
	assert.InDelta(t, math.Hypot(0.14, 0.05)+0.1, hi.X-lo.X, 1e-4)
	_, findings := check(model.New("x"))
	assert.NotEmpty(t, findings)
	blank := model.New("blank")
	_, err = blank.AddAround("box-around", 0)
	require.NoError(t, err)
	_, findings = check(blank)
	assert.Contains(t, strings.Join(findings, "\n"), "there is none yet")
}

func TestFillOfATrough(t *testing.T) {
	doc := trough(t)
	id, err := doc.AddPart("rectangle")
	require.NoError(t, err)
	at := "parts/" + id + "/"
	for place, v := range map[string]string{"name": "brine", "material": "water", "outline/width": "100 mm", "outline/depth": "50 mm", "span/from": "-5 mm", "span/to": "20 mm"} {
		require.NoError(t, doc.Set(at+place, v))
	}
	require.NoError(t, doc.SetFill(id, true))
	_, volume := meshed(t, doc)
	assert.InEpsilon(t, 0.1*0.04*0.02, volume["brine"], 1e-9, "it displaces nothing, although it comes last")
	assert.InEpsilon(t, 0.1*0.05*0.005, volume["floor"], 1e-9)
	// From one place, up to a weir.
	require.NoError(t, doc.Set(at+"fill/x", "30 mm"))
	require.NoError(t, doc.Set(at+"fill/z", "10 mm"))
	place, err := doc.AddCap(id)
	require.NoError(t, err)
	assert.Equal(t, at+"fill/caps/1/name", place)
	for k, v := range map[string]string{"name": "weir", "from_x": "10 mm", "from_y": "-25 mm", "to_x": "10 mm", "to_y": "25 mm"} {
		require.NoError(t, doc.Set(at+"fill/caps/1/"+k, v))
	}
	m, volume := meshed(t, doc)
	assert.InEpsilon(t, 0.04*0.04*0.02, volume["brine"], 1e-9)
	assert.Contains(t, m.Sides, "weir")
	r, _ := model.Resolve(doc, physics.Catalog())
	assert.Contains(t, r.Sides(doc.Part(id)), "weir", "conditions can speak of it")

	require.NoError(t, doc.Set(at+"fill/z", "-2 mm"))
	r, _ = model.Resolve(doc, physics.Catalog())
	_, _, err = r.MeshOf(t.Context(), 0, nil)
	var fault *model.PlaceError
	require.ErrorAs(t, err, &fault)
	assert.Equal(t, at+"fill/x", fault.Finding.Place)
	assert.Contains(t, fault.Error(), "the brine fills is not empty")
	require.NoError(t, doc.RemoveItem(at+"fill/caps/1"))
	var gone *model.GoneError
	assert.ErrorAs(t, doc.RemoveItem(at+"fill/caps/1"), &gone)
	require.NoError(t, doc.SetFill(id, false))
	_, err = doc.AddCap(id)
	assert.ErrorAs(t, err, &gone)
}

func TestCutsAndWishesOfAModel(t *testing.T) {
	doc := trough(t)
	_, whole := meshed(t, doc)
	assert.Equal(t, "space/cuts/1/at", doc.AddCut())
	m, half := meshed(t, doc)
	for name, v := range whole {
		assert.InEpsilon(t, v/2, half[name], 1e-9)
	}
	cells := m.CellCount()
	place := doc.AddNear(model.Patch{Part: "p1", Side: "top"})
	require.NoError(t, doc.Set(place, "1 mm"))
	m, _ = meshed(t, doc)
	assert.Greater(t, m.CellCount(), cells)
	require.NoError(t, doc.Set("mesh/near/1/on", "p1|cut"))
	finer, _ := meshed(t, doc)
	assert.Greater(t, finer.CellCount(), cells)
	place = doc.AddWall(model.Patch{Part: "p1", Side: "left"})
	require.NoError(t, doc.Set(place, "0.5 mm"))
	r, _ := model.Resolve(doc, physics.Catalog())
	require.Len(t, r.Parts[0].Walls, 1)
	assert.Equal(t, mesh.SideWall{Side: "left", Wall: mesh.Wall{First: 5e-4, Growth: 1.2, Count: 5}}, r.Parts[0].Walls[0], "of a solid they lie without")
	require.NoError(t, doc.Set("mesh/walls/1/on", "p1|top"))
	r, _ = model.Resolve(doc, physics.Catalog())
	assert.Empty(t, r.Parts[0].Walls, "at a top the layers of the stack are thin")
	require.NoError(t, doc.RemoveItem("mesh/walls/1"))
	for _, c := range []struct{ place, value, words string }{
		{"mesh/walls/1/on", "p1|rim", "no side"}, {"mesh/walls/1/growth", "0.5", "from 1 to 3"}, {"mesh/walls/1/count", "100", "at most 60"}, {"mesh/walls/1/count", "2.5", "whole number"},
		{"mesh/near/1/on", "p1|rim", "no side"}, {"mesh/near/1/on", "p9|top", "not there"}, {"mesh/near/1/size", "0 mm", "greater than zero"},
		{"mesh/growth", "0.9", "from just over 1"}, {"mesh/gaps", "70", "at most 50"}, {"mesh/rounds", "9", "at most 8"}, {"mesh/error", "2", "say nothing"}, {"space/cuts/1/across", "r", "across"}, {"space/cuts/1/keep", "both", "keeps"}, {"space/cuts/1/at", "3 s", "length"},
	} {
		bad := trough(t)
		bad.AddCut()
		bad.AddNear(model.Patch{Part: "p1", Side: "top"})
		require.NoError(t, bad.Set("mesh/near/1/size", "2 mm"))
		bad.AddWall(model.Patch{Part: "p1", Side: "left"})
		require.NoError(t, bad.Set("mesh/walls/1/first", "1 mm"))
		require.NoError(t, bad.Set(c.place, c.value))
		_, findings := check(bad)
		assert.Contains(t, strings.Join(findings, "\n"), c.words, c.place)
	}
	require.NoError(t, doc.RemoveItem("space/cuts/1"))
	require.NoError(t, doc.RemoveItem("mesh/near/1"))
	var gone *model.GoneError
	assert.ErrorAs(t, doc.RemoveItem("space/cuts/1"), &gone)
	assert.ErrorAs(t, doc.RemoveItem("mesh/near/1"), &gone)
	assert.ErrorAs(t, doc.RemoveItem("mesh/walls/1"), &gone)
	assert.ErrorAs(t, doc.Set("mesh/near/1/size", "1 mm"), &gone)
}

// TestTurnAboutAPoint: the hinge of a lid stays where it is.
func TestTurnAboutAPoint(t *testing.T) {
	doc := trough(t)
	for place, v := range map[string]string{"place/x": "7 mm", "place/turn": "30 deg", "place/about_x": "-50 mm", "place/about_y": "-2.5 mm"} {
		require.NoError(t, doc.Set("parts/p2/"+place, v))
	}
	r, _ := model.Resolve(doc, physics.Catalog())
	hinge := r.Parts[1].Outline.Loops[0][0].From
	assert.InDelta(t, 0.007-0.05, hinge.X, 1e-12)
	assert.InDelta(t, 0.0225-0.0025, hinge.Y, 1e-12)
}

// TestWhatDoesNotFitItsHousing: a part that is shown only is pierced.
func TestWhatDoesNotFitItsHousing(t *testing.T) {
	doc := trough(t)
	require.NoError(t, doc.Set("parts/p2/role", "shown only"))
	_, findings := check(doc)
	before := len(findings)
	require.NoError(t, doc.Set("parts/p1/span/to", "2 mm"))
	r, list := model.Resolve(doc, physics.Catalog())
	var words []string
	for _, f := range list {
		words = append(words, f.Message)
	}
	assert.Contains(t, strings.Join(words, "\n"), "the floor does not fit: it pierces the wall, which is shown only, by 1000\u00a0mm³")
	assert.Contains(t, strings.Join(words, "\n"), "the other wall overlaps the floor by 1000\u00a0mm³")
	assert.Len(t, list, before+2)
	require.Len(t, r.Overlaps, 2)
	assert.InEpsilon(t, 1e-6, r.Overlaps[0].Volume, 1e-9)
	assert.NotEmpty(t, r.Overlaps[0].Triangles)
}

// TestSidesOfAPathHaveNames: sentences speak of "inlet" whatever the outline becomes.
func TestSidesOfAPathHaveNames(t *testing.T) {
	doc := model.New("basin")
	id, err := doc.AddPart("path")
	require.NoError(t, err)
	at := "parts/" + id + "/outline/points/"
	for i, p := range [][2]string{{"0 mm", "0 mm"}, {"50 mm", "0 mm"}, {"0 mm", "40 mm"}} {
		require.NoError(t, doc.Set(at+string(rune('1'+i))+"/x", p[0]))
		require.NoError(t, doc.Set(at+string(rune('1'+i))+"/y", p[1]))
	}
	require.NoError(t, doc.Set("parts/"+id+"/span/from", "0 mm"))
	require.NoError(t, doc.Set("parts/"+id+"/span/to", "9 mm"))
	require.NoError(t, doc.Set("mesh/size", "5 mm"))
	require.NoError(t, doc.Set(at+"2/name", "inlet"))
	r, _ := model.Resolve(doc, physics.Catalog())
	assert.Equal(t, []string{"e1", "inlet", "e3"}, r.Parts[0].Outline.Sides())
	require.NoError(t, doc.Set(at+"2/name", "top"))
	_, findings := check(doc)
	assert.Contains(t, strings.Join(findings, "\n"), `cannot be called "top"`)
}
