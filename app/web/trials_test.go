package web

import (
	"fmt"
	"html"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/examples"
)

func TestTrialsThroughThePages(t *testing.T) {
	s := open(t)
	doc, err := examples.Load("pan-floor")
	require.NoError(t, err)
	require.NoError(t, doc.Set("mesh/size", "6 mm"))
	doc.Trials = []model.TrialSet{{ID: "t1", Name: "floor", Vary: []model.Vary{{ID: "2", Parameter: "t", From: "4 mm", To: "8 mm", Count: "3"}},
		Goals: []model.Goal{{ID: "1", Want: model.Least, Reading: "r5"}}, Limits: []model.Limit{{ID: "1", Reading: "r1", Side: model.Under, Value: "10 K"}}}}
	require.NoError(t, doc.Set("parameters/pitch/value", "14.4 mm"))
	m, err := s.store.CreateModel(t.Context(), doc)
	require.NoError(t, err)
	page := fmt.Sprintf("/models/%d/trials", m.ID)

	_, body := s.do("GET", page, nil)
	assert.Contains(t, body, ": 3 trials.")
	assert.Contains(t, body, "No trials have been made of this set yet")
	r, body := s.do("POST", page, url.Values{"set": {"t9"}}, "HX-Request", "true")
	assert.Equal(t, 409, r.StatusCode, body)
	r, _ = s.do("POST", page, url.Values{"set": {"t1"}})
	require.Equal(t, 303, r.StatusCode)
	var series store.Series
	require.Eventually(t, func() bool {
		series, err = s.store.LastSeries(t.Context(), m.ID, "t1")
		return err == nil && series.Status == store.SeriesDone
	}, 2*time.Minute, 20*time.Millisecond)

	_, body = s.do("GET", page+"?set=t1", nil)
	assert.Contains(t, body, "3 of 3 done")
	assert.Equal(t, 3, strings.Count(html.UnescapeString(body), `{"trial":`), "the points of the chart")
	assert.Contains(t, body, "unevenness of floor, K", "all readings stand in the table")
	assert.Contains(t, body, "Put it on the sheet")
	assert.Contains(t, body, "breaks a limit", "a thin floor is not even enough")

	// A trial can be left out by hand.
	path := fmt.Sprintf("/series/%d", series.ID)
	r, body = s.do("POST", path+"/keep", url.Values{"place": {"2"}, "kept": {"false"}}, "HX-Request", "true")
	require.Equal(t, 200, r.StatusCode, body)
	assert.Contains(t, body, "left out by hand")
	r, _ = s.do("POST", path+"/keep", url.Values{"place": {"7"}, "kept": {"false"}})
	assert.Equal(t, 404, r.StatusCode)

	_, body = s.do("GET", path+"/trials.csv", nil)
	lines := strings.Split(strings.TrimSpace(body), "\n")
	require.Len(t, lines, 4)
	assert.True(t, strings.HasPrefix(lines[0], "trial,t (mm),unevenness of floor (K)"), lines[0])
	assert.True(t, strings.HasSuffix(lines[3], "settled — left out by hand,false,false"), lines[3])

	// The values of a trial go onto the sheet.
	r, _ = s.do("POST", path+"/use", url.Values{"place": {"1"}})
	require.Equal(t, 303, r.StatusCode)
	now, err := s.store.Document(t.Context(), m.ID, 0)
	require.NoError(t, err)
	assert.Equal(t, "6 mm", now.Parameters[3].Value)
	_, body = s.do("GET", page, nil)
	assert.Contains(t, body, "of rev 1", "the trials are of an older revision")

	// What is wrong with a set is said beside it.
	r, body = s.do("POST", fmt.Sprintf("/models/%d/edit", m.ID), url.Values{"op": {"set"}, "place": {"trials/t1/vary/2/to"}, "value": {"40 mm"}, "page": {"trials"}}, "HX-Request", "true")
	require.Equal(t, 200, r.StatusCode)
	assert.Contains(t, body, "beyond its greatest value")
	r, body = s.do("POST", page, url.Values{"set": {"t1"}}, "HX-Request", "true")
	assert.Equal(t, 422, r.StatusCode, body)
	r, body = s.do("POST", fmt.Sprintf("/models/%d/edit", m.ID), url.Values{"op": {"add-trials"}, "page": {"trials"}}, "HX-Request", "true")
	require.Equal(t, 200, r.StatusCode)
	assert.Contains(t, html.UnescapeString(body), `data-op="{"id":"t2","op":"add-vary","parameter":"pitch"}"`)
}

// madeTrials is a coarse pan floor whose trials over thickness and number of rods are made.
func madeTrials(t *testing.T, s *site) (store.Model, store.Series) {
	doc, err := examples.Load("pan-floor")
	require.NoError(t, err)
	require.NoError(t, doc.Set("mesh/size", "8 mm"))
	doc.Trials = []model.TrialSet{{ID: "t1", Name: "floor", Pattern: model.Sobol, Runs: "8", Vary: []model.Vary{{ID: "1", Parameter: "t", From: "4 mm", To: "8 mm"}, {ID: "2", Parameter: "rods", As: model.Whole, From: "4", To: "5"}},
		Goals:  []model.Goal{{ID: "1", Want: model.Least, Reading: "r5"}, {ID: "2", Want: model.Least, Reading: "r1"}},
		Limits: []model.Limit{{ID: "1", Reading: "r2", Side: model.Under, Value: "170 °C"}}, Search: model.Search{Most: "2"}}}
	m, err := s.store.CreateModel(t.Context(), doc)
	require.NoError(t, err)
	r, body := s.do("POST", fmt.Sprintf("/models/%d/trials", m.ID), url.Values{"set": {"t1"}})
	require.Equal(t, 303, r.StatusCode, body)
	return m, s.seriesDone(t, m)
}

// seriesDone waits until the series of the first set of a model is done.
func (s *site) seriesDone(t *testing.T, m store.Model) (series store.Series) {
	require.Eventually(t, func() bool {
		var err error
		series, err = s.store.LastSeries(t.Context(), m.ID, "t1")
		return err == nil && series.Status == store.SeriesDone
	}, 2*time.Minute, 20*time.Millisecond)
	return series
}

// TestWhatSurfacesTell: the sections, predictions at values, charts and files, and what is wrong to ask for.
func TestWhatSurfacesTell(t *testing.T) {
	s := open(t)
	m, series := madeTrials(t, s)
	path := fmt.Sprintf("/series/%d", series.ID)
	_, body := s.do("GET", path+"/insight", nil)
	text := html.UnescapeString(body)
	assert.Contains(t, text, "rods does not matter for mass of floor")
	assert.Contains(t, text, "the same in all trials", "the heat into the brine")
	assert.Contains(t, text, "with a chance of")
	_, body = s.do("GET", path+"/predict?at=6,4", nil)
	assert.Contains(t, body, `"key":"r5"`)
	assert.Contains(t, body, "g per 0.5 mm of t")
	for _, show := range []string{"fit", "curve&by=t", "effects", "surface&by=t&and=rods"} {
		r, body := s.do("GET", path+"/chart?of=r5&show="+show, nil)
		require.Equal(t, 200, r.StatusCode, body)
		assert.Contains(t, body, "mass of floor", show)
	}
	for _, bad := range []string{"/chart?of=r9&show=fit", "/chart?of=r5&show=smoke", "/chart?of=r5&show=curve&by=power", "/chart?of=r5&show=surface&by=t&and=t", "/predict?at=6", "/predict?at=6,many"} {
		r, _ := s.do("GET", path+bad, nil)
		assert.Equal(t, 422, r.StatusCode, bad)
	}
	for file, begins := range map[string]string{"surface.csv": "t (mm),rods,unevenness of floor (K)", "surface.go": "// Package surface", "surface.c": "// Pan floor heater", "surface.fmu": "PK"} {
		r, body := s.do("GET", path+"/"+file, nil)
		assert.Equal(t, 200, r.StatusCode, file)
		assert.True(t, strings.HasPrefix(body, begins), "%s: %.60s", file, body)
	}
	_, body = s.do("GET", fmt.Sprintf("/models/%d/report", m.ID), nil)
	assert.Contains(t, body, "8 of 8 trials made")
	assert.Contains(t, html.UnescapeString(body), "Predicted between the trials")

	// Of a series without a trial nothing is told, and said to be so.
	empty, err := s.store.QueueSeries(t.Context(), m.ID, "t1", 8, []int{})
	require.NoError(t, err)
	require.NoError(t, s.store.MarkSeries(t.Context(), empty.ID, store.SeriesStopped, "stopped"))
	r, body := s.do("GET", fmt.Sprintf("/series/%d/surface.fmu", empty.ID), nil)
	assert.Equal(t, 422, r.StatusCode)
	assert.Contains(t, body, "reading can be predicted yet")
	r, _ = s.do("GET", fmt.Sprintf("/series/%d/insight", empty.ID), nil)
	assert.Equal(t, 200, r.StatusCode)
}

// TestTrialsAreWorkedWith: goals of the newest revision judge trials of an older one, marks, values by hand, trials that are asked for and a search.
func TestTrialsAreWorkedWith(t *testing.T) {
	s := open(t)
	m, series := madeTrials(t, s)
	page, path := fmt.Sprintf("/models/%d/trials", m.ID), fmt.Sprintf("/series/%d", series.ID)
	edit := func(form url.Values) string {
		r, body := s.do("POST", fmt.Sprintf("/models/%d/edit", m.ID), form, "HX-Request", "true")
		require.Equal(t, 200, r.StatusCode, body)
		return html.UnescapeString(body)
	}
	body := edit(url.Values{"op": {"remove"}, "place": {"trials/t1/goals/2"}, "page": {"trials"}})
	assert.Contains(t, body, "Best: trial", "one goal is left")
	body = edit(url.Values{"op": {"set"}, "place": {"trials/t1/limits/1/value"}, "value": {"1 °C"}, "page": {"trials"}})
	assert.Contains(t, body, "No trial that counts keeps what it has to")
	edit(url.Values{"op": {"remove"}, "place": {"trials/t1/limits/1"}, "page": {"trials"}})

	touch := func(what string, form url.Values, status int) string {
		r, body := s.do("POST", path+"/"+what, form, "HX-Request", "true")
		require.Equal(t, status, r.StatusCode, body)
		return html.UnescapeString(body)
	}
	assert.Contains(t, touch("mark", url.Values{"places": {"0,3"}, "marked": {"true"}}, 200), `title="marked"`)
	touch("mark", url.Values{"places": {"x"}}, 422)
	touch("by-hand", url.Values{"place": {"1"}, "reading": {"r1"}, "value": {"12 K"}}, 422) // no reason
	touch("by-hand", url.Values{"place": {"1"}, "reading": {"r1"}, "value": {"12 kg"}, "reason": {"x"}}, 422)
	touch("by-hand", url.Values{"place": {"1"}, "reading": {"r9"}, "value": {"12 K"}, "reason": {"x"}}, 422)
	touch("by-hand", url.Values{"place": {"99"}, "reading": {"r1"}, "value": {"12 K"}, "reason": {"x"}}, 422)
	body = touch("by-hand", url.Values{"place": {"1"}, "reading": {"r2"}, "value": {"150"}, "reason": {"measured"}}, 200)
	assert.Contains(t, body, "set by hand: measured; ")
	o, err := s.store.Trials(t.Context(), series.ID)
	require.NoError(t, err)
	assert.InDelta(t, 423.15, o[1].Outcome().Readings["r2"], 1e-9, "a bare number is in the unit that is shown")

	touch("slopes", url.Values{"place": {"99"}}, 404)
	touch("slopes", url.Values{"place": {"0"}}, 200)
	s.seriesDone(t, m)
	_, body = s.do("GET", page, nil)
	body = html.UnescapeString(body)
	assert.Contains(t, body, "By the equations: mass of floor +")
	touch("try", url.Values{"at": {"5.5,4.4"}}, 200)
	series = s.seriesDone(t, m)
	require.Len(t, series.Proposals(), 1)
	assert.Equal(t, []float64{0.0055, 4}, series.Proposals()[0].Values, "a whole number of rods")
	touch("search", nil, 200)
	series = s.seriesDone(t, m)
	assert.NotEmpty(t, series.Message)
	edit(url.Values{"op": {"remove"}, "place": {"trials/t1/goals/1"}, "page": {"trials"}})
	touch("search", nil, 422) // nothing is wanted

	r, _ := s.do("POST", path+"/use", url.Values{"at": {"5.25,5"}})
	require.Equal(t, 303, r.StatusCode)
	doc, err := s.store.Document(t.Context(), m.ID, 0)
	require.NoError(t, err)
	assert.Equal(t, "5.25 mm", doc.Parameters[3].Value)
	r, _ = s.do("POST", page+"/table", url.Values{"set": {"t1"}, "text": {"t;rods\n5 mm;4\n6 mm;5\n"}})
	require.Equal(t, 303, r.StatusCode)
	for _, bad := range []string{"", "t\n", "depth\n3\n", "t\n\"5"} {
		r, _ = s.do("POST", page+"/table", url.Values{"set": {"t1"}, "text": {bad}})
		assert.Equal(t, 422, r.StatusCode, bad)
	}
	doc, err = s.store.Document(t.Context(), m.ID, 0)
	require.NoError(t, err)
	assert.Equal(t, "5 mm; 6 mm", doc.Trials[0].Vary[0].Listed)
}
