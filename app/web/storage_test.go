package web

import (
	"fmt"
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/app/store"
)

// TestDiskAndBin: what is taken off the shelf is put back or deleted, and a run can be deleted.
func TestDiskAndBin(t *testing.T) {
	s := open(t)
	m := s.demo("pan-floor")
	_, body := s.do("GET", "/storage", nil)
	assert.Contains(t, body, "Pan floor heater")
	assert.Contains(t, body, "The bin is empty.")
	r, _ := s.do("POST", fmt.Sprintf("/models/%d/purge", m.ID), nil)
	assert.Equal(t, 404, r.StatusCode, "only what is in the bin can be deleted for good")
	s.do("POST", fmt.Sprintf("/models/%d/remove", m.ID), nil)
	_, body = s.do("GET", "/storage", nil)
	assert.Contains(t, body, "delete for good")
	s.do("POST", fmt.Sprintf("/models/%d/restore", m.ID), nil)
	run, err := s.store.QueueRun(t.Context(), m.ID, store.Wishes{})
	require.NoError(t, err)
	r, body = s.do("POST", fmt.Sprintf("/runs/%d/delete", run.ID), nil, "HX-Request", "true")
	assert.Equal(t, 409, r.StatusCode)
	assert.Contains(t, body, "stop it first")
	_, err = s.store.CancelQueued(t.Context(), run.ID)
	require.NoError(t, err)
	r, _ = s.do("POST", fmt.Sprintf("/runs/%d/delete", run.ID), nil, "HX-Request", "true")
	assert.Equal(t, fmt.Sprintf("/models/%d/plates", m.ID), r.Header.Get("HX-Redirect"))
	for form, want := range map[string]int{"bin_days=7": 303, "keep_results=x": 422, "keep_results=-2": 422} {
		values, err := url.ParseQuery(form)
		require.NoError(t, err)
		r, _ = s.do("POST", "/storage/settings", values)
		assert.Equal(t, want, r.StatusCode, form)
	}
	s.do("POST", fmt.Sprintf("/models/%d/remove", m.ID), nil)
	r, _ = s.do("POST", fmt.Sprintf("/models/%d/purge", m.ID), nil)
	assert.Contains(t, r.Header.Get("Location"), "was+deleted")
	r, _ = s.do("GET", fmt.Sprintf("/models/%d/", m.ID), nil)
	assert.Equal(t, 404, r.StatusCode)
	r, _ = s.do("POST", "/storage/tidy", nil)
	assert.Equal(t, 303, r.StatusCode)
}
