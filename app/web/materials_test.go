package web

import (
	"bytes"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
)

// upload sends a file with other fields of a form.
func (s *site) upload(path, name, content string, form map[string]string) (*http.Response, string) {
	s.t.Helper()
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	for key, value := range form {
		require.NoError(s.t, w.WriteField(key, value))
	}
	part, err := w.CreateFormFile("file", name)
	require.NoError(s.t, err)
	_, _ = io.WriteString(part, content)
	require.NoError(s.t, w.Close())
	resp, err := s.client.Post(s.server.URL+path, w.FormDataContentType(), &b)
	require.NoError(s.t, err)
	defer resp.Body.Close()
	text, _ := io.ReadAll(resp.Body)
	return resp, string(text)
}

func TestMaterialsPage(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	base := fmt.Sprintf("/models/%d/materials", m.ID)
	_, page := s.do("GET", base+"?m="+url.QueryEscape("water"), nil)
	assert.Contains(t, page, `<svg class="curve"`, "water's viscosity is drawn")
	assert.Contains(t, page, "table A.6")
	assert.NotContains(t, page, `data-place="materials/water/viscosity"`, "the library is not edited")
	resp, _ := s.do("GET", base+"?m=moonstone", nil)
	assert.Equal(t, http.StatusNotFound, resp.StatusCode)

	edit := func(query string, form url.Values) string {
		t.Helper()
		form.Set("page", "materials")
		resp, body := s.do("POST", fmt.Sprintf("/models/%d/edit?%s", m.ID, query), form, "HX-Request", "true")
		require.Equal(t, http.StatusOK, resp.StatusCode, body)
		return resp.Header.Get("HX-Trigger-After-Swap") + body
	}
	body := edit("op=use-material", url.Values{"id": {"brine 20 %"}, "m": {"brine 20 %"}})
	assert.Contains(t, body, `data-place="materials/brine 20 %/viscosity"`)
	body = edit("op=set", url.Values{"place": {"materials/brine 20 %/viscosity"}, "value": {"20 1.557\n60 0.76"}, "m": {"brine 20 %"}})
	assert.Contains(t, body, "table(temperature, 20 °C: 1.557 Pa·s, 60: 0.76)")
	body = edit("op=set", url.Values{"place": {"materials/brine 20 %/viscosity"}, "value": {"thick"}, "m": {"brine 20 %"}})
	assert.Contains(t, body, "no parameter &#34;thick&#34;")
	body = edit("op=add-material", url.Values{"name": {"solé 20 %"}, "like": {"brine 20 %"}, "m": {"brine 20 %"}})
	assert.Contains(t, body, `"name":"sol\u00e9 20 %"`, "the header is ASCII")
	edit("op=give-material", url.Values{"id": {"solé 20 %"}, "part": {"brick"}, "m": {"solé 20 %"}})
	resp, _ = s.do("POST", fmt.Sprintf("/models/%d/edit?op=remove-material&id=%s", m.ID, url.QueryEscape("solé 20 %")), url.Values{})
	assert.Equal(t, http.StatusUnprocessableEntity, resp.StatusCode, "a part is made of it")

	resp, list := s.do("GET", base+"/file?format=csv&m="+url.QueryEscape("solé 20 %"), nil)
	assert.Contains(t, resp.Header.Get("Content-Disposition"), "sol%C3%A9%2020%20%25.csv")
	back, err := material.Read(strings.NewReader(strings.Replace(list, "thick", "2 mPa·s", 1)))
	require.NoError(t, err)
	assert.Equal(t, "solé 20 %", back[0].Name)
	_, all := s.do("GET", base+"/file?all=1", nil)
	library, err := material.Read(strings.NewReader(all))
	require.NoError(t, err)
	assert.Len(t, library, len(material.Library()))

	file := "material,property,value,source\ncopper,conductivity,380 W/(m·K),measured\n"
	resp, _ = s.upload(base+"/file", "m.csv", file, nil)
	assert.Equal(t, http.StatusSeeOther, resp.StatusCode)
	resp, text := s.upload(base+"/file", "m.csv", file, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, resp.StatusCode)
	assert.Contains(t, text, "The model has copper already")
	resp, _ = s.upload(base+"/file", "m.csv", file, map[string]string{"replace": "on"})
	assert.Equal(t, http.StatusSeeOther, resp.StatusCode)
	resp, text = s.upload(base+"/file", "m.csv", strings.Replace(file, "W/(m·K)", "W", 1), map[string]string{"replace": "on"})
	assert.Equal(t, http.StatusUnprocessableEntity, resp.StatusCode)
	assert.Contains(t, text, "is given as a power; write it in W/(m·K)")
	doc, err := s.store.Document(t.Context(), m.ID, 0)
	require.NoError(t, err)
	assert.Equal(t, "380 W/(m·K)", doc.Materials[doc.Material("copper")].Properties[material.Conductivity].Value)
}

func TestADrawingIsTraced(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	path := fmt.Sprintf("/models/%d/trace", m.ID)
	resp, _ := s.upload(path, "foot.csv", "0,0\n30,0\n0,20\n", map[string]string{"unit": "cm"})
	assert.Equal(t, http.StatusSeeOther, resp.StatusCode)
	doc, err := s.store.Document(t.Context(), m.ID, 0)
	require.NoError(t, err)
	require.Len(t, doc.Parts, 5)
	assert.Equal(t, "foot", doc.Parts[4].Name)
	assert.Equal(t, "300 mm", doc.Parts[4].Outline.Points[1].X)
	_, brief := s.do("GET", fmt.Sprintf("/models/%d/parts/p1", m.ID), nil)
	assert.Contains(t, brief, `data-place="parts/p1/outline/points/2/x"`)
	resp, text := s.upload(path, "foot.step", "?", nil)
	assert.Equal(t, http.StatusUnprocessableEntity, resp.StatusCode)
	assert.Contains(t, strings.ToLower(text), "foot.step: a file ends in .dxf, .svg, .csv or .stl")
}
