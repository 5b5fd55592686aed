package web

import (
	"context"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestGate: a few compute, a few wait, more are refused; who leaves lets another one in, and who
// gives up waiting takes no place.
func TestGate(t *testing.T) {
	g := newGate()
	var leave []func()
	for range heavyAtOnce {
		l, err := g.enter(t.Context())
		require.NoError(t, err)
		leave = append(leave, l)
	}
	ctx, cancel := context.WithCancel(t.Context())
	gone := make(chan error, heavyWaiting)
	for range heavyWaiting {
		go func() {
			_, err := g.enter(ctx)
			gone <- err
		}()
	}
	require.Eventually(t, func() bool { return len(g.waiting) == heavyWaiting }, time.Minute, time.Millisecond)
	_, err := g.enter(t.Context())
	assert.ErrorIs(t, err, errBusy)
	cancel()
	for range heavyWaiting {
		assert.ErrorIs(t, <-gone, context.Canceled)
	}
	in := make(chan error, 1)
	go func() {
		_, err := g.enter(t.Context())
		in <- err
	}()
	leave[0]()
	assert.NoError(t, <-in)
}

// TestProgressOfAMesh: a window hears of the mesh that it waits for, not of another's.
func TestProgressOfAMesh(t *testing.T) {
	s := &shapeFiles{desk: &desk{}}
	router := chi.NewRouter()
	router.Get("/models/{model}/mesh/progress", s.meshProgress)
	says := func(model string) string {
		w := httptest.NewRecorder()
		router.ServeHTTP(w, httptest.NewRequest(http.MethodGet, "/models/"+model+"/mesh/progress", nil))
		return w.Body.String()
	}
	assert.Equal(t, "The mesh is being made.", says("3"))
	now := &making{model: 3}
	now.triangles.Store(12_345)
	s.meshes.making.Store(now)
	assert.Contains(t, says("3"), "345 triangles in plan so far")
	assert.Equal(t, "The mesh waits for others to be made.", says("4"))
}
