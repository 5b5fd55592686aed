package web

import (
	"context"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"math"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/app/jobs"
	"saltkettle/app/store"
	"saltkettle/core/drawing"
	"saltkettle/core/model"
	"saltkettle/examples"
)

// TestMain lets the test binary play the worker.
func TestMain(m *testing.M) {
	if os.Getenv("KETTLE_TEST_WORKER") != "" {
		if err := jobs.Work(context.Background(), os.Stdin, os.Stdout); err != nil {
			os.Exit(1)
		}
		os.Exit(0)
	}
	os.Exit(m.Run())
}

// site is a server on a fresh data folder.
type site struct {
	t      testing.TB
	store  *store.Store
	server *httptest.Server
	client *http.Client
	web    *Server
}

// through sends a request to a handler alone.
func (s *site) through(h http.Handler, path string) (*http.Response, string) {
	w := httptest.NewRecorder()
	h.ServeHTTP(w, httptest.NewRequest("GET", path, nil))
	return w.Result(), w.Body.String()
}

func open(t testing.TB) *site {
	t.Helper()
	t.Setenv("KETTLE_TEST_WORKER", "1")
	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	log := slog.New(slog.DiscardHandler)
	m := jobs.New(s, []string{os.Args[0]}, log)
	ctx, cancel := context.WithCancel(context.Background())
	require.NoError(t, m.Start(ctx))
	web, err := New(s, m, log)
	require.NoError(t, err)
	server := httptest.NewServer(web.Handler())
	t.Cleanup(func() {
		server.CloseClientConnections()
		server.Close()
		cancel()
		m.Wait()
		s.Close()
	})
	client := server.Client()
	client.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	return &site{t, s, server, client, web}
}

func (s *site) do(method, path string, form url.Values, header ...string) (*http.Response, string) {
	s.t.Helper()
	var body io.Reader
	if form != nil {
		body = strings.NewReader(form.Encode())
	}
	r, err := http.NewRequest(method, s.server.URL+path, body)
	require.NoError(s.t, err)
	if form != nil {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	for i := 0; i < len(header); i += 2 {
		r.Header.Set(header[i], header[i+1])
	}
	resp, err := s.client.Do(r)
	require.NoError(s.t, err)
	defer resp.Body.Close()
	text, err := io.ReadAll(resp.Body)
	require.NoError(s.t, err)
	return resp, string(text)
}

// demo puts a demo model on the shelf.
func (s *site) demo(key string) store.Model {
	s.t.Helper()
	doc, err := examples.Load(key)
	require.NoError(s.t, err)
	m, err := s.store.CreateModel(s.t.Context(), doc)
	require.NoError(s.t, err)
	return m
}

func (s *site) edit(m store.Model, query string, form url.Values) (*http.Response, string) {
	s.t.Helper()
	return s.do("POST", fmt.Sprintf("/models/%d/edit?%s", m.ID, query), form, "HX-Request", "true")
}

func TestPagesAnswer(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	for path, want := range map[string]string{
		"/":                                     "Pan floor heater",
		fmt.Sprintf("/models/%d/", m.ID):        "gives heat to",
		fmt.Sprintf("/models/%d/plates", m.ID):  "There is no result yet",
		"/static/vendor/htmx.min.js":            "htmx",
		fmt.Sprintf("/models/%d/file", m.ID):    `"kettle": 7`,
		fmt.Sprintf("/models/%d/brief", m.ID):   "hearth brick",
		"/static/vendor/three/OrbitControls.js": "OrbitControls",
	} {
		resp, body := s.do("GET", path, nil)
		assert.Equal(t, http.StatusOK, resp.StatusCode, path)
		assert.Contains(t, body, want, path)
		assert.Contains(t, resp.Header.Get("Content-Security-Policy"), "script-src 'self';")
	}
	for _, path := range []string{"/nowhere", "/models/77/", "/models/x/", "/runs/5/surface", "/models/77/drawing"} {
		resp, body := s.do("GET", path, nil)
		assert.Equal(t, http.StatusNotFound, resp.StatusCode, path)
		assert.Contains(t, body, "Not here", path)
	}
}

// TestTheReaderOfSTEPFilesIsAlone: only its worker may build functions, and its code comes as
// it is packed, for the worker to unpack.
func TestTheReaderOfSTEPFilesIsAlone(t *testing.T) {
	s := open(t)
	resp, body := s.do("GET", "/static/js/step-worker.js", nil)
	require.Equal(t, http.StatusOK, resp.StatusCode)
	assert.Contains(t, resp.Header.Get("Content-Security-Policy"), "script-src 'self' 'unsafe-eval';")
	for _, path := range []string{"/static/js/step.js", "/static/js/sheet.js", "/"} {
		other, _ := s.do("GET", path, nil)
		assert.NotContains(t, other.Header.Get("Content-Security-Policy"), "unsafe-eval", path)
	}
	paths := regexp.MustCompile(`/static/vendor/step/[\w.-]+`).FindAllString(body, -1)
	require.Len(t, paths, 2)
	for _, path := range paths {
		packed, data := s.do("GET", path, nil)
		assert.Equal(t, http.StatusOK, packed.StatusCode, path)
		assert.NotEmpty(t, data)
		if strings.HasSuffix(path, ".gz") {
			assert.Empty(t, packed.Header.Get("Content-Encoding"))
			assert.Equal(t, "\x1f\x8b", data[:2])
		}
	}
}

func TestEditsAnswerWithTheBrief(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	resp, body := s.edit(m, "op=set&place=parameters/t/value", url.Values{"value": {"6 mm"}})
	require.Equal(t, http.StatusOK, resp.StatusCode)
	assert.Contains(t, body, `value="6 mm"`)
	assert.Contains(t, body, "rev 2")
	assert.Contains(t, resp.Header.Get("HX-Trigger-After-Swap"), "kettle:changed")

	// A wrong value is kept as it was typed and said to be wrong.
	_, body = s.do("POST", fmt.Sprintf("/models/%d/edit?op=set&place=parts/floor/outline/width", m.ID), url.Values{"value": {`10 "W" <b>`}}, "HX-Request", "true", "Kettle-Open", "floor")
	assert.Contains(t, body, `value="10 &#34;W&#34; &lt;b&gt;"`)
	assert.Contains(t, body, `aria-invalid="true"`)
	assert.Contains(t, body, "1 wrong")

	resp, body = s.do("POST", fmt.Sprintf("/models/%d/runs", m.ID), url.Values{}, "HX-Request", "true")
	assert.Equal(t, http.StatusUnprocessableEntity, resp.StatusCode)
	assert.Contains(t, body, "cannot run yet")

	s.edit(m, "op=set&place=parts/floor/material", url.Values{"value": {"scale"}})
	_, body = s.edit(m, "op=own-material&id=floor", url.Values{})
	assert.Contains(t, body, "scale has no thermal conductivity")
	for range 2 {
		s.do("POST", fmt.Sprintf("/models/%d/undo", m.ID), url.Values{}, "HX-Request", "true")
	}
	_, body = s.do("POST", fmt.Sprintf("/models/%d/undo", m.ID), url.Values{}, "HX-Request", "true")
	assert.Contains(t, body, "Nothing missing")
	_, body = s.do("POST", fmt.Sprintf("/models/%d/redo", m.ID), url.Values{}, "HX-Request", "true")
	assert.Contains(t, body, "1 wrong")

	for query, status := range map[string]int{
		"op=set&place=parts/lid/name":     http.StatusConflict,
		"op=explode":                      http.StatusUnprocessableEntity,
		"op=add-sentence&kind=heat.magic": http.StatusUnprocessableEntity,
		"op=move-part&id=rod&by=one":      http.StatusUnprocessableEntity,
	} {
		resp, body := s.edit(m, query, url.Values{"value": {"x"}})
		assert.Equal(t, status, resp.StatusCode, query)
		assert.NotEmpty(t, body)
	}
	for _, query := range []string{"op=lift&place=parts/brick/outline/depth", "op=lower&id=brick_depth", "op=own-material&id=floor", "op=add-part&outline=disc", "op=duplicate-part&id=rod", "op=move-part&id=rod&by=1", "op=array&id=brick&on=true",
		"op=add-parameter", "op=add-sentence&kind=heat.held&on=floor%7Cleft", "op=remove-sentence&section=conditions&id=c1", "op=remove-part&id=wall", "op=remove-parameter&id=rods"} {
		resp, body := s.edit(m, query, url.Values{})
		assert.Equal(t, http.StatusOK, resp.StatusCode, "%s: %s", query, body)
	}
	doc, err := s.store.Document(t.Context(), m.ID, 0)
	require.NoError(t, err)
	assert.Len(t, doc.Parts, 5)
	assert.Equal(t, "steel 304 of mine", doc.Parts[doc.Part("floor")].Material)
	assert.Equal(t, "72 mm", doc.Parts[doc.Part("brick")].Outline.Depth)
	assert.Equal(t, "floor|left", doc.Conditions[1].On.String())
}

func TestRevisions(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	s.edit(m, "op=set&place=parameters/t/value", url.Values{"value": {"6 mm"}})
	s.edit(m, "op=set&place=parts/rod/material", url.Values{"value": {"steel 304"}})
	base := fmt.Sprintf("/models/%d/revisions", m.ID)
	_, body := s.do("GET", base, nil)
	assert.Contains(t, body, "t: 5 mm → 6 mm")
	assert.Contains(t, body, "heater rod: copper → steel 304")
	_, body = s.do("GET", base+"?from=3&to=1", nil)
	assert.Contains(t, body, "<li>t: 6 mm → 5 mm</li><li>heater rod: steel 304 → copper</li>")
	resp, _ := s.do("POST", base+"/2", url.Values{})
	assert.Equal(t, http.StatusSeeOther, resp.StatusCode)
	now, err := s.store.Model(t.Context(), m.ID)
	require.NoError(t, err)
	assert.Equal(t, 2, now.Head)
	for _, path := range []string{base + "/9", base + "/x"} {
		resp, _ = s.do("POST", path, url.Values{})
		assert.NotEqual(t, http.StatusSeeOther, resp.StatusCode)
	}
	resp, _ = s.do("GET", base+"?from=1&to=77", nil)
	assert.Equal(t, http.StatusNotFound, resp.StatusCode)
}

func TestOtherSitesCannotEdit(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	resp, _ := s.do("POST", fmt.Sprintf("/models/%d/remove", m.ID), url.Values{}, "Origin", "http://elsewhere.example", "Sec-Fetch-Site", "cross-site")
	assert.Equal(t, http.StatusForbidden, resp.StatusCode)
	_, err := s.store.Model(t.Context(), m.ID)
	assert.NoError(t, err)
}

func TestShelf(t *testing.T) {
	s := open(t)
	resp, _ := s.do("POST", "/models", url.Values{"demo": {"bittern-post"}})
	require.Equal(t, http.StatusSeeOther, resp.StatusCode)
	assert.Equal(t, "/models/1/", resp.Header.Get("Location"))
	s.do("POST", "/models", url.Values{"name": {"Blank"}})
	s.do("POST", "/models/1/duplicate", url.Values{})
	s.do("POST", "/models/2/rename", url.Values{"name": {"Brine <trough>"}})
	resp, _ = s.do("POST", "/models/1/remove", url.Values{})
	_, body := s.do("GET", resp.Header.Get("Location"), nil)
	assert.Contains(t, body, "“Bittern pan post” was taken off")
	assert.Contains(t, body, "Bittern pan post copy")
	assert.Contains(t, body, "Brine &lt;trough&gt;")
	assert.Contains(t, body, "<path d=", "models have a drawn picture")
	s.do("POST", "/models/1/restore", url.Values{})
	list, err := s.store.Models(t.Context())
	require.NoError(t, err)
	assert.Len(t, list, 3)
	resp, body = s.do("POST", "/models/2/rename", url.Values{"name": {" "}})
	assert.Equal(t, http.StatusUnprocessableEntity, resp.StatusCode)
	assert.Contains(t, body, "A model needs a name")
}

func TestImportAndExport(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	_, file := s.do("GET", fmt.Sprintf("/models/%d/file", m.ID), nil)
	send := func(content string) (*http.Response, string) {
		return s.upload("/models/import", "pan.kettle.json", content, nil)
	}
	resp, _ := send(file)
	assert.Equal(t, http.StatusSeeOther, resp.StatusCode)
	doc, err := s.store.Document(t.Context(), 2, 0)
	require.NoError(t, err)
	want, err := model.Parse([]byte(file))
	require.NoError(t, err)
	want.CarryAll()
	assert.Equal(t, want, doc, "the file, with the materials that it uses")
	resp, body := send(strings.Replace(file, `"aim"`, `"goal"`, 1))
	assert.Equal(t, http.StatusUnprocessableEntity, resp.StatusCode)
	assert.Contains(t, body, "there is no field")
	resp, _ = send(strings.Repeat(" ", maxBody+10))
	assert.Contains(t, []int{http.StatusRequestEntityTooLarge, http.StatusUnprocessableEntity}, resp.StatusCode)
}

func TestDrawing(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	_, body := s.do("GET", fmt.Sprintf("/models/%d/drawing", m.ID), nil)
	var scene drawing.Scene
	require.NoError(t, json.Unmarshal([]byte(body), &scene))
	require.Len(t, scene.Parts, 4)
	assert.Len(t, scene.Parts[1].Copies, 5)
	assert.Equal(t, "top of the pan floor", scene.Parts[2].Sides[4].Words)
	assert.True(t, scene.Parts[3].Shown)
	assert.Len(t, scene.Flags, 7)
	assert.Equal(t, 1000.0, scene.Scale)
}

// TestRunToPlates runs a model through the pages as a browser does, follows its
// events, and reads the plates.
func TestRunToPlates(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	base := fmt.Sprintf("/models/%d", m.ID)
	s.edit(m, "op=set&place=mesh/size", url.Values{"value": {"5 mm"}})
	events, err := s.client.Get(s.server.URL + base + "/events")
	require.NoError(t, err)
	defer events.Body.Close()
	assert.Equal(t, "text/event-stream", events.Header.Get("Content-Type"))
	// The errors are asked for: unasked they depend on how fast the machine is.
	resp, slip := s.do("POST", base+"/runs", url.Values{"mesh-error": {"yes"}}, "HX-Request", "true")
	assert.Equal(t, http.StatusNoContent, resp.StatusCode)
	assert.Empty(t, slip, "the slip comes with the events alone, so none can be older than what stands there")
	s.wait(events.Body, "settled")

	_, brief := s.do("GET", base+"/brief", nil)
	assert.Contains(t, brief, "340.0 W")
	s.edit(m, "op=set&place=parameters/power/value", url.Values{"value": {"170 W"}})
	_, brief = s.do("GET", base+"/brief", nil)
	assert.Contains(t, brief, "from before the last change")
	resp, _ = s.do("POST", base+"/runs", url.Values{"mesh-error": {"yes"}})
	assert.Equal(t, http.StatusSeeOther, resp.StatusCode, "without scripts one goes back to the sheet")
	s.wait(events.Body, "#2", `>settled<`)

	_, plates := s.do("GET", base+"/plates", nil)
	assert.Contains(t, plates, "power: 340 W → 170 W")
	assert.Contains(t, plates, "<small>−170</small>", "what the reading changed by")
	assert.Contains(t, plates, "closed to round-off")
	_, first := s.do("GET", base+"/plates?run=1", nil)
	assert.Contains(t, first, "#1 · rev 2")
	resp, _ = s.do("GET", base+"/plates?run=9", nil)
	assert.Equal(t, http.StatusNotFound, resp.StatusCode)

	_, table := s.do("GET", base+"/readings.csv", nil)
	assert.Equal(t, 3, strings.Count(table, "\n"))
	assert.Contains(t, table, "heat into brine (W),error of heat into brine (W)")
	assert.Contains(t, table, "hottest place (°C),error of hottest place (K)")
	assert.Contains(t, brief, `class="margin"`, "readings show their error")
	assert.Contains(t, plates, "how far a reading may be from the exact one")
	s.edit(m, "op=add-slice&id=I&across=z", url.Values{"at": {"4 mm"}})
	_, plates = s.do("GET", base+"/plates", nil)
	assert.Contains(t, plates, `"slices":[{"id":"1","normal":[0,0,1],"at":0.004,"keep":-1}]`)
	resp, cut := s.do("GET", "/runs/1/slice?normal=0,0,2&at=0.004&field=temperature", nil)
	require.Equal(t, http.StatusOK, resp.StatusCode)
	length := binary.LittleEndian.Uint32([]byte(cut))
	var head struct{ Corners, Count int }
	require.NoError(t, json.Unmarshal([]byte(cut)[4:4+length], &head))
	assert.Equal(t, 3, head.Corners)
	assert.Len(t, cut, 4+int(length)+head.Count*(36+12+4))
	for i := range head.Count {
		z := math.Float32frombits(binary.LittleEndian.Uint32([]byte(cut)[4+int(length)+36*i+8:]))
		require.InDelta(t, 0.004, z, 1e-6)
	}
	for query, code := range map[string]int{"normal=0,0,0&at=0&field=temperature": http.StatusBadRequest, "normal=1,0,0&at=soon&field=temperature": http.StatusBadRequest,
		"normal=1,0,0&at=0&field=speed": http.StatusNotFound, "normal=1,0,0&at=0&field=temperature&moment=4": http.StatusNotFound} {
		resp, _ := s.do("GET", "/runs/1/slice?"+query, nil)
		assert.Equal(t, code, resp.StatusCode, query)
	}
	s.edit(m, "op=add-level&id=I", url.Values{"at": {"80 °C"}})
	_, plates = s.do("GET", base+"/plates", nil)
	assert.Contains(t, plates, `"levels":[353.15]`)
	for query, code := range map[string]int{"at=353&field=temperature": http.StatusOK, "at=hot&field=temperature": http.StatusBadRequest, "at=353&field=speed": http.StatusNotFound} {
		resp, _ := s.do("GET", "/runs/1/level?"+query, nil)
		assert.Equal(t, code, resp.StatusCode, query)
	}
	s.edit(m, "op=remove&place=plates/I/levels/1", nil)
	s.edit(m, "op=set&place=plates/I/slices/1/at", url.Values{"value": {"4 kg"}})
	_, plates = s.do("GET", base+"/plates", nil)
	assert.Contains(t, plates, `"slices":[]`, "one that is wrong is left out, and its field says why")
	assert.Contains(t, plates, "where a length is wanted")
	s.edit(m, "op=remove&place=plates/I/slices/1", nil)
	s.edit(m, "op=add-line&id=I", url.Values{"from_x": {"-50 mm"}, "to_x": {"50 mm"}, "from_z": {"16 mm"}, "to_z": {"16 mm"}})
	_, plates = s.do("GET", base+"/plates", nil)
	assert.Contains(t, plates, `"lines":{"1":{"ways":[{"ends":[-0.05,0,0.016,0.05,0,0.016]}],"also":[]}}`)
	assert.Contains(t, plates, `data-overlay="2"`, "runs can be laid over each other")
	resp, along := s.do("GET", "/runs/1/line?field=temperature&way=%7B%22ends%22:%5B-0.07,0,0.016,0.05,0,0.016%5D%7D", nil)
	require.Equal(t, http.StatusOK, resp.StatusCode)
	var line struct {
		Far    []float64
		Values []*float64
	}
	require.NoError(t, json.Unmarshal([]byte(along), &line))
	require.Len(t, line.Values, len(line.Far))
	assert.InDelta(t, 0.12, line.Far[len(line.Far)-1], 1e-12)
	assert.Nil(t, line.Values[0], "it begins beside the device")
	require.NotNil(t, line.Values[300])
	assert.Greater(t, *line.Values[300], 300.)
	for query, code := range map[string]int{"field=temperature&way=%7B%22ends%22:%5B0,0,0,0,0,0%5D%7D": http.StatusUnprocessableEntity, "field=temperature&way=%7B%22path%22:[0,0,0]}": http.StatusUnprocessableEntity, "field=temperature&way=%7B%22circle%22:[0,0,0.016,0,0,1,0.02]}": http.StatusOK,
		"field=temperature&way=%7B%22path%22:[0,0,0.016,0.01,0,0.016,0.01,0.01,0.016]}": http.StatusOK, "field=speed&way=%7B%22ends%22:%5B0,0,0,1,0,0%5D%7D": http.StatusNotFound} {
		resp, _ := s.do("GET", "/runs/1/line?"+query, nil)
		assert.Equal(t, code, resp.StatusCode, query)
	}
	s.edit(m, "op=set&place=plates/I/lines/1/to_x", url.Values{"value": {"-50 mm"}})
	_, plates = s.do("GET", base+"/plates", nil)
	assert.Contains(t, plates, "the line ends where it begins")
	s.edit(m, "op=remove&place=plates/I/lines/1", nil)
	s.fieldsOnSurfaces()
	for path, want := range map[string]string{"/runs/1/nodes.csv": "temperature (K)", "/runs/1/result.vtu": "UnstructuredGrid", "/runs/2/surface": `"groups"`} {
		resp, body := s.do("GET", path, nil)
		assert.Equal(t, http.StatusOK, resp.StatusCode)
		assert.Contains(t, body, want)
	}
}

// fieldsOnSurfaces looks at what comes of fields, formulas and differences of the runs 1 and 2.
func (s *site) fieldsOnSurfaces() {
	t := s.t
	values := func(query string) (list []float64) {
		resp, body := s.do("GET", "/runs/1/values?"+query, nil)
		require.Equal(t, http.StatusOK, resp.StatusCode, body)
		require.Zero(t, len(body)%4)
		for i := 0; i < len(body); i += 4 {
			list = append(list, float64(math.Float32frombits(binary.LittleEndian.Uint32([]byte(body)[i:]))))
		}
		return list
	}
	plain := values("field=temperature")
	formula := values("field=" + url.QueryEscape("=2*temperature - temperature + 0 K*x/(1 m)"))
	none, some := values("field=temperature&minus=1"), values("field=temperature&minus=2")
	require.Len(t, formula, len(plain))
	for i, v := range plain {
		require.Greater(t, v, 300.)
		require.InDelta(t, v, formula[i], 1e-3)
		require.InDelta(t, 0, none[i], 1e-6, "a run differs nowhere from itself")
		require.Greater(t, some[i], 10., "twice the power is hotter everywhere")
	}
	assert.Len(t, values("vector=heat_flux"), 0, "components of what follows are not on the surface")
	for query, code := range map[string]int{"field=speed": http.StatusNotFound, "field=%3Dspeed*2": http.StatusUnprocessableEntity, "field=temperature&minus=99": http.StatusNotFound, "field=temperature&moment=7": http.StatusNotFound, "field=%3Dtemperature&moment=7": http.StatusNotFound, "field=%3Dtemperature&moment=-1": http.StatusNotFound, "field=temperature&minus=2&moment=3": http.StatusNotFound, "field=temperature&moment=x": http.StatusBadRequest} {
		resp, _ := s.do("GET", "/runs/1/values?"+query, nil)
		assert.Equal(t, code, resp.StatusCode, query)
	}
	resp, body := s.do("GET", "/runs/1/at?field=temperature&places=0,0,0.012,0,0,9", nil)
	require.Equal(t, http.StatusOK, resp.StatusCode)
	var probed struct{ Values []*float64 }
	require.NoError(t, json.Unmarshal([]byte(body), &probed))
	at := probed.Values
	require.Len(t, at, 2)
	assert.Greater(t, *at[0], 350.)
	assert.Nil(t, at[1])
	for query, code := range map[string]int{"vector=heat_flux&count=20&on=inside": http.StatusOK, "vector=heat_flux&count=20&on=surface": http.StatusOK, "vector=heat_flux&count=20&on=slices&normal=0,0,1&at=0.012": http.StatusOK,
		"vector=heat_flux&count=20&on=the+moon": http.StatusUnprocessableEntity, "vector=heat_flux&count=0&on=inside": http.StatusUnprocessableEntity, "vector=wind&count=5&on=inside": http.StatusNotFound} {
		resp, _ := s.do("GET", "/runs/1/arrows?field=temperature&"+query, nil)
		assert.Equal(t, code, resp.StatusCode, query)
	}
	for query, code := range map[string]int{"count=8": http.StatusOK, "count=8&part=1": http.StatusOK, "count=8&way=%7B%22ends%22:%5B-0.05,0,0.012,0.05,0,0.012%5D%7D": http.StatusOK, "count=8&way=%7B%22circle%22:[0,0,0.016,0,0,1,0.02]}": http.StatusOK, "count=8&near=0,0,0.016": http.StatusOK, "count=8&side=floor%7Ctop": http.StatusOK,
		"count=8&side=floor%7Clid": http.StatusUnprocessableEntity, "count=8&near=1": http.StatusUnprocessableEntity, "count=8&way=1": http.StatusUnprocessableEntity, "count=8&part=x": http.StatusUnprocessableEntity, "count=9999": http.StatusUnprocessableEntity} {
		resp, _ := s.do("GET", "/runs/1/streams?field=temperature&vector=heat_flux&"+query, nil)
		assert.Equal(t, code, resp.StatusCode, query)
	}
}

// wait reads a stream of events until it has said some words, one after the other.
func (s *site) wait(r io.Reader, words ...string) {
	s.t.Helper()
	done := make(chan bool, 1)
	go func() {
		var seen strings.Builder
		buf := make([]byte, 4096)
		for {
			n, err := r.Read(buf)
			seen.Write(buf[:n])
			rest, all := seen.String(), true
			for _, word := range words {
				var found bool
				_, rest, found = strings.Cut(rest, word)
				all = all && found
			}
			if all {
				done <- true
				return
			}
			if err != nil {
				done <- false
				return
			}
		}
	}()
	select {
	case ok := <-done:
		require.True(s.t, ok, "the stream ended without %q", words)
	case <-time.After(2 * time.Minute):
		require.Fail(s.t, fmt.Sprintf("the stream never said %q", words))
	}
}
