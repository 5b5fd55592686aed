package web

import (
	"bytes"
	"database/sql"
	"fmt"
	"io"
	"math"
	"mime"
	"mime/multipart"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
)

// hostile are documents that a file may hold, each with a value that nobody thought of.
func hostile() map[string]func(d *model.Document) {
	return map[string]func(d *model.Document){
		"dimension of a parameter": func(d *model.Document) {
			d.Parameters = append(d.Parameters, model.Parameter{Name: "far", Value: "((1 m)^5)^5", Least: "1 m", Most: "((2 m)^5)^5"})
		},
		"dimension of a bound": func(d *model.Document) {
			d.Parameters = append(d.Parameters, model.Parameter{Name: "far", Value: "(1 m)^12", Least: "(1 m)^12", Unit: "m^12"})
		},
		"unit of the space":   func(d *model.Document) { d.Space.Unit = "furlong" },
		"dimension of a unit": func(d *model.Document) { d.Space.Unit = "kg" },
		"kind of space":       func(d *model.Document) { d.Space.Kind = "folded" },
		"reading of a reading": func(d *model.Document) {
			d.Readings = append(d.Readings, model.Sentence{ID: "r70", Kind: "formula", Values: map[string]string{"formula": "total(temperature^12 over floor)"}})
		},
		"unit of a reading": func(d *model.Document) { d.Readings[0].Unit = "parsec" },
		"number of trials": func(d *model.Document) {
			t := model.TrialSet{ID: "t1", Name: "all"}
			for i := range 63 {
				name := fmt.Sprintf("p%d", i)
				d.Parameters = append(d.Parameters, model.Parameter{Name: name, Value: "1"})
				t.Vary = append(t.Vary, model.Vary{Parameter: name, From: "1", To: "2", Count: "2"})
			}
			d.Trials = append(d.Trials, t)
		},
		"count of an array": func(d *model.Document) { d.Parts[1].Array = &model.Array{Count: "1e18", Pitch: "1 mm", Along: "x"} },
		"range of a property": func(d *model.Document) {
			d.Materials = append(d.Materials, odd("12.7 W/(m·K)*temperature/temperature"))
			d.Parts[2].Material = "odd"
		},
		"undefined property": func(d *model.Document) {
			d.Materials = append(d.Materials, odd("1 W/(m·K)*(0/(temperature/1 K))^0/(0*temperature/1 K)"))
			d.Parts[2].Material = "odd"
		},
		"infinite property": func(d *model.Document) {
			d.Materials = append(d.Materials, odd("1e308 W/(m·K)*temperature/1 K*1e300"))
			d.Parts[2].Material = "odd"
		},
		"plate of nothing": func(d *model.Document) {
			d.Plates = []model.Plate{{ID: "I", Field: "speed", Unit: "furlong", Low: "1e999"}}
		},
	}
}

func odd(conductivity string) material.Material {
	return material.Material{Name: "odd", Properties: map[material.Key]material.Property{material.Conductivity: {Value: conductivity}, material.Density: {Value: "1e3 kg/m³"}}}
}

// TestNothingInAFileTakesThePagesDown: whatever a document holds, its pages answer, the
// shelf shows it and all others, and a run ends with a word.
func TestNothingInAFileTakesThePagesDown(t *testing.T) {
	s := open(t)
	good := s.demo("electrode-lead")
	for name, spoil := range hostile() {
		demo := s.demo("pan-floor")
		base, err := s.store.Document(t.Context(), demo.ID, 0)
		require.NoError(t, err)
		doc := base.Clone()
		doc.Name = name
		spoil(doc)
		m, err := s.store.CreateModel(t.Context(), doc)
		require.NoError(t, err, name)
		at := fmt.Sprintf("/models/%d", m.ID)
		for _, path := range []string{"/", at + "/", at + "/brief", at + "/drawing", at + "/materials", at + "/materials?m=odd", at + "/plates", at + "/trials", at + "/revisions", at + "/file", at + "/mesh"} {
			resp, body := s.do("GET", path, nil)
			assert.NotEqual(t, http.StatusInternalServerError, resp.StatusCode, "%s: %s: %s", name, path, body)
			assert.Less(t, len(body), 4<<20, "%s: %s", name, path)
		}
		resp, _ := s.do("POST", at+"/runs", url.Values{}, "HX-Request", "true")
		assert.Less(t, resp.StatusCode, http.StatusInternalServerError, name)
		s.do("POST", at+"/remove", url.Values{})
		s.do("POST", fmt.Sprintf("/models/%d/remove", demo.ID), url.Values{})
	}
	_, shelf := s.do("GET", "/", nil)
	assert.Contains(t, shelf, good.Name)
}

// TestADamagedRevisionHidesNoOther: the shelf says which model cannot be read and offers to undo
// its last change, its page too, and that leads back.
func TestADamagedRevisionHidesNoOther(t *testing.T) {
	s := open(t)
	good := s.demo("electrode-lead")
	bad := s.demo("pan-floor")
	s.edit(bad, "op=set&place=aim", url.Values{"value": {"another aim"}})
	db, err := sql.Open("sqlite3", filepath.Join(filepath.Dir(filepath.Dir(s.store.RunDir(1))), "saltkettle.db"))
	require.NoError(t, err)
	_, err = db.Exec(`UPDATE revisions SET document = '{"kettle": 4, "name": ' WHERE model_id = ? AND number = 2`, bad.ID)
	require.NoError(t, err)
	require.NoError(t, db.Close())
	_, shelf := s.do("GET", "/", nil)
	assert.Contains(t, shelf, good.Name)
	assert.Contains(t, shelf, "It cannot be read")
	resp, page := s.do("GET", fmt.Sprintf("/models/%d/", bad.ID), nil)
	assert.Equal(t, http.StatusInternalServerError, resp.StatusCode)
	assert.Contains(t, page, "Undo the last change")
	resp, _ = s.do("POST", fmt.Sprintf("/models/%d/undo", bad.ID), url.Values{"to": {"sheet"}})
	assert.Equal(t, http.StatusSeeOther, resp.StatusCode)
	resp, _ = s.do("GET", resp.Header.Get("Location"), nil)
	assert.Equal(t, http.StatusOK, resp.StatusCode)
}

// TestPanicsAreSaid: a fault of the program is a page in words.
func TestPanicsAreSaid(t *testing.T) {
	s := open(t)
	h := s.web.recovered(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { panic("a fault") }))
	_, body := s.through(h, "/models/7/plates")
	assert.Contains(t, body, "a fault of its own")
	assert.Contains(t, body, "/models/7/undo")
	assert.NotContains(t, body, "goroutine")
}

// TestTicksEnd: whatever the range.
func TestTicksEnd(t *testing.T) {
	inf, nan := math.Inf(1), math.NaN()
	for _, r := range [][2]float64{{0, 1}, {12.7, math.Nextafter(12.7, 13)}, {1e300, 1.0000001e300}, {-1e308, 1e308}, {0, 0}, {5, 5}, {nan, 1}, {0, nan}, {0, inf}, {-inf, inf}, {0, 5e-324}, {3, 2}, {1e16, 1e16 + 2}} {
		list := ticks(r[0], r[1], 4)
		assert.NotEmpty(t, list, r)
		assert.LessOrEqual(t, len(list), 40, r)
	}
	for _, y := range [][]float64{{12.7, math.Nextafter(12.7, 13)}, {nan, 1}, {inf, 1}, {0, 0}, {1e308, -1e308}} {
		assert.True(t, strings.HasSuffix(string(lineChart("odd", []float64{0, 1}, y, "K", "W")), "</svg>"))
	}
}

// TestResultsAreKeptByTheirToken: the surface of a run may be kept only under the token of the
// run, which no other run in any folder has.
func TestResultsAreKeptByTheirToken(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	s.edit(m, "op=set&place=mesh/size", url.Values{"value": {"10 mm"}})
	events, err := s.client.Get(s.server.URL + fmt.Sprintf("/models/%d/events", m.ID))
	require.NoError(t, err)
	defer events.Body.Close()
	s.do("POST", fmt.Sprintf("/models/%d/runs", m.ID), url.Values{}, "HX-Request", "true")
	s.wait(events.Body, "settled")
	run, err := s.store.Run(t.Context(), 1)
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(run.Token), 20)
	for query, want := range map[string]string{"": "no-store", "?of=": "no-store", "?of=another": "no-store", "?of=" + run.Token: "private, max-age=86400, immutable"} {
		resp, _ := s.do("GET", "/runs/1/surface"+query, nil)
		assert.Equal(t, want, resp.Header.Get("Cache-Control"), query)
	}
	_, plates := s.do("GET", fmt.Sprintf("/models/%d/plates", m.ID), nil)
	assert.Contains(t, plates, run.Token)

	// A result that was damaged is not drawn, and the page of the others still comes.
	dir := s.store.RunDir(1)
	damage := func(name string) {
		path := filepath.Join(dir, name)
		data, err := os.ReadFile(path)
		require.NoError(t, err)
		data[len(data)/2] ^= 1
		require.NoError(t, os.WriteFile(path, data, 0o600))
	}
	for _, c := range [][2]string{{"surface.bin", "/runs/1/surface"}, {"temperature.f64", "/runs/1/result.vtu"}} {
		damage(c[0])
		resp, body := s.do("GET", c[1], nil, "HX-Request", "true")
		assert.Equal(t, http.StatusInternalServerError, resp.StatusCode)
		assert.Contains(t, body, "The result is damaged: "+c[0])
	}
	damage("result.json")
	resp, body := s.do("GET", fmt.Sprintf("/models/%d/plates", m.ID), nil)
	assert.Equal(t, http.StatusOK, resp.StatusCode)
	assert.Contains(t, body, "Run #1 cannot be shown: the result is damaged: result.json in ")
	assert.Contains(t, body, `<a href="?run=1`, "the runs are still listed")
	assert.NotContains(t, body, "There is no result yet")
}

// TestAnswersInSmallThings: health, HEAD, names with accents, uploads that are too large.
func TestAnswersInSmallThings(t *testing.T) {
	s := open(t)
	resp, body := s.do("GET", "/healthz", nil)
	assert.Equal(t, "ok\n", body)
	assert.Equal(t, http.StatusOK, resp.StatusCode)
	m := s.demo("pan-floor")
	resp, body = s.do("HEAD", fmt.Sprintf("/models/%d/", m.ID), nil)
	assert.Equal(t, http.StatusOK, resp.StatusCode)
	assert.Empty(t, body)
	s.do("POST", fmt.Sprintf("/models/%d/rename", m.ID), url.Values{"name": {"Sole für die Pfanne"}})
	resp, _ = s.do("GET", fmt.Sprintf("/models/%d/file", m.ID), nil)
	_, params, err := mime.ParseMediaType(resp.Header.Get("Content-Disposition"))
	require.NoError(t, err)
	assert.Contains(t, params["filename"], "für")

	var b bytes.Buffer
	form := multipart.NewWriter(&b)
	w, err := form.CreateFormFile("file", "large.kettle.json")
	require.NoError(t, err)
	_, err = w.Write(make([]byte, maxBody+1))
	require.NoError(t, err)
	require.NoError(t, form.Close())
	answer, err := s.client.Post(s.server.URL+"/models/import", form.FormDataContentType(), &b)
	require.NoError(t, err)
	defer answer.Body.Close()
	text, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	assert.Equal(t, http.StatusRequestEntityTooLarge, answer.StatusCode)
	assert.Contains(t, string(text), "ore than 64 MB were sent")
}
