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
