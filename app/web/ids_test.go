package web

import (
	"bytes"
	"encoding/json"
	"fmt"
	"html"
	"mime/multipart"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/examples"
)

// TestIDsFromElsewhereArePlain: a file with ids that are more than names is refused.
func TestIDsFromElsewhereArePlain(t *testing.T) {
	s := open(t)
	for _, id := range []string{`"><meta http-equiv=refresh content=0>`, `x" onclick="`, "a/b", "<form>", "", "ü", "a b"} {
		for name, set := range map[string]func(d *model.Document){
			"part":    func(d *model.Document) { d.Parts[0].ID = id },
			"reading": func(d *model.Document) { d.Readings[0].ID = id },
			"plate":   func(d *model.Document) { d.Plates[0].ID = id },
		} {
			doc, err := examples.Load("pan-floor")
			require.NoError(t, err)
			set(doc)
			var b bytes.Buffer
			form := multipart.NewWriter(&b)
			w, err := form.CreateFormFile("file", "odd.kettle.json")
			require.NoError(t, err)
			require.NoError(t, doc.Write(w))
			require.NoError(t, form.Close())
			resp, err := s.client.Post(s.server.URL+"/models/import", form.FormDataContentType(), &b)
			require.NoError(t, err)
			resp.Body.Close()
			assert.Equal(t, http.StatusUnprocessableEntity, resp.StatusCode, "%s %q", name, id)
		}
	}
}

// TestNamesAreNotEndless: neither a file nor an edit brings a name that no list can hold, and
// 200 characters of any script are taken.
func TestNamesAreNotEndless(t *testing.T) {
	long, longest := strings.Repeat("ü", 201), strings.Repeat("ü", 200)
	for what, set := range map[string]func(d *model.Document, name string){
		"the model":             func(d *model.Document, name string) { d.Name = name },
		"one of the parameters": func(d *model.Document, name string) { d.Parameters[0].Name = name },
		"one of the parts":      func(d *model.Document, name string) { d.Parts[0].Name = name },
		"one of the readings":   func(d *model.Document, name string) { d.Readings[0].Name = name },
		"one of the plates":     func(d *model.Document, name string) { d.Plates[0].Name = name },
	} {
		doc, err := examples.Load("pan-floor")
		require.NoError(t, err)
		set(doc, long)
		assert.EqualError(t, doc.CheckLabels(), "the name of "+what+" has 201 characters; 200 are the most")
		set(doc, longest)
		assert.NoError(t, doc.CheckLabels())
	}
	doc, err := examples.Load("pan-floor")
	require.NoError(t, err)
	assert.ErrorContains(t, doc.Set("name", long), "the name of the model has 201 characters")
	assert.ErrorContains(t, doc.Set("parts/floor/name", long), "the name of parts/floor has 201")
	assert.NoError(t, doc.Set("parts/floor/name", longest))
}

// TestEditsOfButtonsHoldValues: a value with quotation marks stays a value.
func TestEditsOfButtonsHoldValues(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	odd := `t","op":"remove-part","id":"floor`
	s.edit(m, "op=set&place=parameters/t/name", url.Values{"value": {odd}})
	_, page := s.do("GET", fmt.Sprintf("/models/%d/", m.ID), nil)
	ops := regexp.MustCompile(`data-op="([^"]*)"`).FindAllStringSubmatch(page, -1)
	require.Greater(t, len(ops), 30)
	for _, found := range ops {
		var edit map[string]string
		require.NoError(t, json.Unmarshal([]byte(html.UnescapeString(found[1])), &edit), found[1])
		if edit["op"] == "remove-part" {
			assert.NotContains(t, edit["id"], `"`)
		}
		if edit["op"] == "remove-parameter" {
			assert.NotEqual(t, "floor", edit["id"])
		}
	}
}
