package web

import (
	"context"
	"testing"
	"time"

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
