package store

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/result"
)

// TestARunThatCanGoOn waits after the end of its server as long as each start brings it further;
// what it left stays until it is not needed any more.
func TestARunThatCanGoOn(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	ctx := t.Context()
	m, err := s.CreateModel(ctx, model.New("Pan"))
	require.NoError(t, err)
	queued, err := s.QueueRun(ctx, m.ID, Wishes{MeshError: true})
	require.NoError(t, err)
	begin := func(want uint, reaches float64) {
		t.Helper()
		_, run, err := s.NextJob(ctx)
		require.NoError(t, err)
		require.Equal(t, want, run.ID)
		folder, err := s.Prepare(ctx, run)
		require.NoError(t, err)
		require.NoError(t, result.SaveCheckpoint(folder, result.Progress{Reached: reaches, End: 9}, "state"))
	}
	status := func(id uint) Run {
		t.Helper()
		run, err := s.Run(ctx, id)
		require.NoError(t, err)
		return run
	}
	for _, reaches := range []float64{2, 3, 3} {
		begin(queued.ID, reaches)
		_, err = s.Interrupt(ctx)
		require.NoError(t, err)
		n, err := s.Sweep(ctx)
		require.NoError(t, err)
		assert.Zero(t, n)
	}
	ended := status(queued.ID)
	assert.Equal(t, Interrupted, ended.Status, "its last start did not bring it further")
	assert.Equal(t, 3., ended.Reached)

	// Another run goes on from it, with its revision and wishes, and is stopped with a result.
	_, _, err = s.Edit(ctx, m.ID, Stamp{}, nil, func(d *model.Document) error { d.Name = "Pan of today"; return nil })
	require.NoError(t, err)
	next, err := s.QueueRun(ctx, m.ID, Wishes{GoesOn: ended.ID})
	require.NoError(t, err)
	assert.Equal(t, ended.Revision, next.Revision)
	assert.True(t, next.MeshError)
	_, next, err = s.NextJob(ctx)
	require.NoError(t, err)
	folder, err := s.Prepare(ctx, next)
	require.NoError(t, err)
	assert.Equal(t, 3., reached(folder))
	next.Status, next.HasResult = string(result.Stopped), true
	require.NoError(t, s.FinishRun(ctx, next, nil))
	assert.Equal(t, 3., status(next.ID).Reached)
	assert.FileExists(t, s.RunDir(next.ID)+"/checkpoint.bin")

	require.NoError(t, s.Close())
	checkup, err := Examine(ctx, dir, false)
	require.NoError(t, err)
	for _, c := range checkup.Complaints {
		assert.NotContains(t, c.What, "left by a run")
	}
	s = open(t, dir)
	// What is deleted to save room, or damaged, is not gone on from.
	_, err = s.DropResults(ctx, m.ID, 1)
	require.NoError(t, err)
	assert.Zero(t, status(ended.ID).Reached)
	assert.NoDirExists(t, s.RunTemp(ended.ID))
	require.NoError(t, os.Truncate(s.RunDir(next.ID)+"/checkpoint.bin", 50))
	for _, id := range []uint{ended.ID, next.ID} {
		_, err = s.QueueRun(ctx, m.ID, Wishes{GoesOn: id})
		require.ErrorContains(t, err, "no checkpoint to go on from")
	}
	other, err := s.CreateModel(ctx, model.New("Other pan"))
	require.NoError(t, err)
	_, err = s.QueueRun(ctx, other.ID, Wishes{GoesOn: next.ID})
	assert.True(t, IsNotFound(err), "another model has no such run")
}
