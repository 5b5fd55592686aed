package web

import (
	"encoding/binary"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/drawing"
	"saltkettle/core/model"
)

// wedge is a text STL of a body that is no extrusion along z: a ramp of 40 × 20 × 15.
const wedge = `solid ramp
facet normal 0 0 0
outer loop
vertex 0 0 0
vertex 0 20 0
vertex 40 20 0
endloop
endfacet
facet normal 0 0 0
outer loop
vertex 0 0 0
vertex 40 20 0
vertex 40 0 0
endloop
endfacet
facet normal 0 0 0
outer loop
vertex 40 0 0
vertex 40 20 0
vertex 40 20 15
endloop
endfacet
facet normal 0 0 0
outer loop
vertex 40 0 0
vertex 40 20 15
vertex 40 0 15
endloop
endfacet
facet normal 0 0 0
outer loop
vertex 0 0 0
vertex 40 0 15
vertex 40 20 15
endloop
endfacet
facet normal 0 0 0
outer loop
vertex 0 0 0
vertex 40 20 15
vertex 0 20 0
endloop
endfacet
facet normal 0 0 0
outer loop
vertex 0 0 0
vertex 40 0 0
vertex 40 0 15
endloop
endfacet
facet normal 0 0 0
outer loop
vertex 0 20 0
vertex 40 20 15
vertex 40 20 0
endloop
endfacet
endsolid ramp
`

// look reads the header of a mesh that is looked at.
func (s *site) look(path string) (h drawing.MeshLook, status int, text string) {
	s.t.Helper()
	resp, body := s.do("GET", path, nil, "HX-Request", "true")
	if resp.StatusCode != http.StatusOK {
		return h, resp.StatusCode, body
	}
	n := binary.LittleEndian.Uint32([]byte(body))
	require.NoError(s.t, json.Unmarshal([]byte(body[4:4+n]), &h))
	return h, resp.StatusCode, ""
}

func TestABodyFromAFileIsMeshedInBricks(t *testing.T) {
	s := open(t)
	doc := model.New("ramp")
	require.NoError(t, doc.Set("mesh/size", "2 mm"))
	m, err := s.store.CreateModel(t.Context(), doc)
	require.NoError(t, err)
	base := fmt.Sprintf("/models/%d", m.ID)
	resp, text := s.upload(base+"/trace", "ramp.stl", wedge, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, resp.StatusCode)
	assert.Contains(t, text, "choose one")
	resp, text = s.upload(base+"/trace", "ramp.stl", strings.Replace(wedge, "vertex 0 0 0", "vertex 0 0", 1), map[string]string{"unit": "mm"})
	assert.Equal(t, http.StatusUnprocessableEntity, resp.StatusCode)
	assert.Contains(t, text, "line 4 is not a corner")
	resp, text = s.upload(base+"/trace", "ramp.stl", wedge, map[string]string{"unit": "mm"})
	require.Equal(t, http.StatusSeeOther, resp.StatusCode, text)
	now, err := s.store.Document(t.Context(), m.ID, 0)
	require.NoError(t, err)
	require.Len(t, now.Parts, 1)
	assert.Equal(t, "surface", now.Parts[0].Outline.Kind)

	h, status, _ := s.look(base + "/mesh")
	require.Equal(t, http.StatusOK, status)
	assert.Positive(t, h.Cells)
	cut, _, _ := s.look(base + "/mesh?cut=x&at=0.02")
	assert.Less(t, cut.Counts.Triangles, h.Counts.Triangles)
	_, status, text = s.look(base + "/mesh?cut=r&at=0")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, text, "across x, y or z")
	_, body := s.do("GET", base+"/drawing", nil)
	assert.Contains(t, body, `"solid":{"points"`)
	// Coarse bricks miss it, and that is said.
	s.do("POST", base+"/edit", url.Values{"op": {"set"}, "place": {"mesh/size"}, "value": {"40 mm"}})
	h, _, _ = s.look(base + "/mesh")
	require.NotEmpty(t, h.Notes)
	assert.Contains(t, h.Notes[0].Words, "ramp")
}

func TestShapesAreChangedMeasuredAndExported(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	base := fmt.Sprintf("/models/%d", m.ID)
	edit := func(values ...string) (*http.Response, string) {
		form := url.Values{}
		for i := 0; i < len(values); i += 2 {
			form.Set(values[i], values[i+1])
		}
		return s.do("POST", base+"/edit", form, "HX-Request", "true")
	}
	resp, body := edit("op", "push", "on", "floor|top", "by", "0.002")
	require.Equal(t, http.StatusOK, resp.StatusCode)
	assert.Contains(t, body, `value="7 mm"`)
	resp, _ = edit("op", "push", "on", "floor|top", "by", "NaN")
	assert.Equal(t, http.StatusUnprocessableEntity, resp.StatusCode)
	resp, _ = edit("op", "move", "id", "brick,rod", "z", "-0.001")
	require.Equal(t, http.StatusOK, resp.StatusCode)
	resp, _ = edit("op", "turn", "id", "floor", "by", "0.5235987755982988")
	require.Equal(t, http.StatusOK, resp.StatusCode)
	doc, err := s.store.Document(t.Context(), m.ID, 0)
	require.NoError(t, err)
	assert.Equal(t, "-1 mm", doc.Parts[0].Span.From)
	assert.Equal(t, "30 deg", doc.Parts[2].Place.Turn)

	_, body = s.do("GET", base+"/measure?a=floor|top&at-a=0,0,0&b=floor|bottom&at-b=0,0,0", nil)
	assert.Contains(t, body, "7\u00a0mm")
	assert.Contains(t, body, `This is the parameter <span class="fig">t</span>`)
	resp, _ = s.do("GET", base+"/measure?a=floor|top&at-a=0,0", nil, "HX-Request", "true")
	assert.Equal(t, http.StatusUnprocessableEntity, resp.StatusCode)

	for op, place := range map[string]string{"add-cut": "space/cuts/1/at", "add-near": "mesh/near/1/size"} {
		resp, body = edit("op", op)
		require.Equal(t, http.StatusOK, resp.StatusCode)
		assert.Contains(t, body, `data-place="`+place+`"`)
	}
	resp, body = edit("op", "add-part", "outline", "box-around")
	require.Equal(t, http.StatusOK, resp.StatusCode)
	assert.Contains(t, body, "room on the left")
	edit("op", "set", "place", "mesh/size", "value", "8 mm")
	resp, _ = edit("op", "remove", "place", "mesh/near/1")
	assert.Equal(t, http.StatusOK, resp.StatusCode)

	for path, want := range map[string]string{"stl": "solid pan_floor", "dxf": "ENTITIES", "svg": "<svg"} {
		resp, body := s.do("GET", base+"/device."+path, nil)
		require.Equal(t, http.StatusOK, resp.StatusCode, path)
		assert.Contains(t, body, want)
		assert.Contains(t, resp.Header.Get("Content-Disposition"), "pan-floor-heater."+path)
	}
	resp, _ = s.do("GET", base+"/device.step", nil)
	assert.Equal(t, http.StatusNotFound, resp.StatusCode)
}
