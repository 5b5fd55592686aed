package store

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
)

// TestTheQueueIsReordered: runs of several models wait in turn, one is moved to the front, and that is begun
// next.
func TestTheQueueIsReordered(t *testing.T) {
	s, err := Open(t.TempDir())
	require.NoError(t, err)
	defer s.Close()
	ctx := t.Context()
	var ids []uint
	for _, name := range []string{"brine pump", "crystal rake", "salt hopper"} {
		m, err := s.CreateModel(ctx, model.New(name))
		require.NoError(t, err)
		r, err := s.QueueRun(ctx, m.ID, Wishes{})
		require.NoError(t, err)
		ids = append(ids, r.ID)
	}
	names := func() (list []string) {
		queue, err := s.Queue(ctx)
		require.NoError(t, err)
		for _, q := range queue {
			list = append(list, q.Name+" "+q.Status)
		}
		return list
	}
	assert.Equal(t, []string{"brine pump queued", "crystal rake queued", "salt hopper queued"}, names())
	require.NoError(t, s.MoveQueued(ctx, ids[2], -5))
	assert.Equal(t, []string{"salt hopper queued", "brine pump queued", "crystal rake queued"}, names())
	_, next, err := s.NextJob(ctx)
	require.NoError(t, err)
	assert.Equal(t, ids[2], next.ID)
	require.NoError(t, s.MoveQueued(ctx, ids[2], 1), "one that has begun stays")
	require.NoError(t, s.MoveQueued(ctx, ids[0], 1))
	assert.Equal(t, []string{"salt hopper running", "crystal rake queued", "brine pump queued"}, names())
}
