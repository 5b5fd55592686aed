package web

import (
	"fmt"
	"net/http"
	"testing"

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
	for _, path := range []string{"/slice?axis=0&at=0&field=temperature", "/line?field=temperature&ends=0,0,0,1,0,0", "/level?at=353&field=temperature", "/moments.zip", "/result.vtu", "/nodes.csv", "/surface"} {
		resp, body := s.do("GET", bare+path, nil)
		assert.Equal(t, http.StatusNotFound, resp.StatusCode, path)
		assert.Contains(t, body, "Not here", path)
	}
	for _, moment := range []string{"abc", "-1", "1.5"} {
		resp, _ := s.do("GET", bare+"/slice?axis=0&at=0&field=temperature&moment="+moment, nil)
		assert.Equal(t, http.StatusBadRequest, resp.StatusCode, moment)
	}
}

// TestFieldsReadLastAreKept: the one asked for comes to the front, what cannot be read drives
// none out, and another attempt of a run is another result.
func TestFieldsReadLastAreKept(t *testing.T) {
	var c inside
	run := func(token string) *store.Run {
		r := &store.Run{Token: token}
		r.ID = 7
		return r
	}
	first := new(result.Fields)
	for i := range insideKept {
		c.list = append(c.list, insideField{of: fmt.Sprintf("7 a temperature %d", i-1), fields: new(result.Fields)})
	}
	c.list[insideKept-1].fields = first
	got, err := c.load(t.TempDir(), run("a"), "temperature", insideKept-2)
	require.NoError(t, err)
	assert.Same(t, first, got)
	assert.Same(t, first, c.list[0].fields)
	for _, r := range []*store.Run{run("b"), run("")} {
		_, err = c.load(t.TempDir(), r, "temperature", -1)
		assert.Error(t, err, "there are no files")
	}
	assert.Len(t, c.list, insideKept)
}
