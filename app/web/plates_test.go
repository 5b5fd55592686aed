package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/app/store"
	"saltkettle/core/result"
)

// TestWrongQuestionsOfPlates: what a page would never ask is answered as wrong or not there,
// not with another field than was asked for.
func TestWrongQuestionsOfPlates(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	run, err := s.store.QueueRun(t.Context(), m.ID, store.Wishes{})
	require.NoError(t, err)
	_, err = s.store.CancelQueued(t.Context(), run.ID)
	require.NoError(t, err)
	bare := fmt.Sprintf("/runs/%d", run.ID)
	for _, path := range []string{"/slice?normal=1,0,0&at=0&field=temperature", "/line?field=temperature&way=%7B%22ends%22:%5B0,0,0,1,0,0%5D%7D", "/level?at=353&field=temperature", "/moments.zip", "/result.vtu", "/nodes.csv", "/surface", "/values?field=temperature", "/streams?vector=heat_flux&count=4&field=temperature", "/arrows?vector=heat_flux&count=4&on=inside&field=temperature", "/at?places=0,0,0&field=temperature"} {
		resp, body := s.do("GET", bare+path, nil)
		assert.Equal(t, http.StatusNotFound, resp.StatusCode, path)
		assert.Contains(t, body, "Not here", path)
	}
	for _, moment := range []string{"abc", "-1", "1.5"} {
		resp, _ := s.do("GET", bare+"/slice?normal=1,0,0&at=0&field=temperature&moment="+moment, nil)
		assert.Equal(t, http.StatusBadRequest, resp.StatusCode, moment)
	}
}

// TestWhatWasMadeLastIsKept: what is asked for comes to the front, what cannot be made drives nothing
// out for long, and several who want it at once have it made once.
func TestWhatWasMadeLastIsKept(t *testing.T) {
	c := recent[int]{most: 3}
	count := 0
	do := func() (int, error) { count++; return count, nil }
	for _, of := range []string{"a", "b", "c", "a", "d", "a"} {
		_, err := c.get(of, do)
		require.NoError(t, err)
	}
	assert.Equal(t, 4, count)
	_, err := c.get("b", do)
	require.NoError(t, err)
	assert.Equal(t, 5, count, "b was driven out, a was not")
	for range 2 {
		_, err = c.get("broken", func() (int, error) { count++; return 0, errors.New("no") })
		assert.Error(t, err)
	}
	assert.Equal(t, 7, count, "it is tried again")
	assert.Len(t, c.list, 2)
	var wait sync.WaitGroup
	var made atomic.Int32
	for range 8 {
		wait.Go(func() {
			_, _ = c.get("slow", func() (int, error) { made.Add(1); return 1, nil })
		})
	}
	wait.Wait()
	assert.Equal(t, int32(1), made.Load())
}

// TestRunsAsOneChanges: a change that counts makes a run of a light model; one that does not, one that leaves
// something outstanding, and one of a model whose runs are long make none.
func TestRunsAsOneChanges(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	s.edit(m, "op=set&place=mesh/size", url.Values{"value": {"10 mm"}})
	base := fmt.Sprintf("/models/%d", m.ID)
	light := func() (int, string) {
		resp, body := s.do("POST", base+"/runs", url.Values{"light": {"yes"}}, "HX-Request", "true")
		return resp.StatusCode, body
	}
	defer func(was float64) { lightest = was }(lightest)
	lightest = 1e6 // however slow the machine is
	ended := func(n int) {
		require.Eventually(t, func() bool {
			r, err := s.store.RunNumber(t.Context(), m.ID, n)
			return err == nil && !r.Active()
		}, time.Minute, 20*time.Millisecond)
	}
	status, _ := light()
	require.Equal(t, http.StatusNoContent, status)
	ended(1)
	s.edit(m, "op=set&place=name", url.Values{"value": {"another name"}})
	light()
	_, err := s.store.RunNumber(t.Context(), m.ID, 2)
	assert.True(t, store.IsNotFound(err), "a name changes no result")
	s.edit(m, "op=set&place=parameters/power/value", url.Values{"value": {"200 W"}})
	light()
	ended(2)
	lightest = 0
	s.edit(m, "op=set&place=parameters/power/value", url.Values{"value": {"210 W"}})
	status, body := light()
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, body, "from here on the model is run with Enter")
	lightest = 1e6
	s.edit(m, "op=set&place=parameters/power/value", url.Values{"value": {"200 kg"}})
	status, _ = light()
	assert.Equal(t, http.StatusNoContent, status)
	_, err = s.store.RunNumber(t.Context(), m.ID, 3)
	assert.True(t, store.IsNotFound(err), "it cannot run")
}

// TestReportsSayWhatIsKnown: an error that nobody has found is no small error.
func TestReportsSayWhatIsKnown(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	path := fmt.Sprintf("/models/%d/report", m.ID)
	resp, body := s.do("GET", path, nil)
	assert.Equal(t, http.StatusOK, resp.StatusCode)
	assert.Contains(t, body, "this is the model as it is now")
	assert.Contains(t, body, "Every other surface lets no heat through")
	resp, _ = s.do("GET", path+"?run=4", nil)
	assert.Equal(t, http.StatusNotFound, resp.StatusCode)

	_, err := s.store.QueueRun(t.Context(), m.ID, store.Wishes{})
	require.NoError(t, err)
	_, run, err := s.store.NextJob(t.Context())
	require.NoError(t, err)
	exact := 0.0
	run.Status = "settled"
	require.NoError(t, s.store.FinishRun(t.Context(), run, []result.Reading{{Key: "r1", Name: "of one", Value: 3, Shown: result.Shown{Unit: "K"}, Error: &exact}, {Key: "r2", Name: "of another", Value: 4, Shown: result.Shown{Unit: "K"}}}))
	report := &reportView{pageView: pageView{Model: m}, Brief: &briefView{Model: m}}
	h, err := s.web.history(t.Context(), m)
	require.NoError(t, err)
	report.addValues(h.readings[run.ID], map[string]string{"r1": "the words"})
	require.Len(t, report.Values, 2)
	assert.Equal(t, []string{"less than its last figure", "not known"}, []string{report.Values[0].Exactness, report.Values[1].Exactness})
	assert.Equal(t, "the words", report.Values[0].Words)
}
