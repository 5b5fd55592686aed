package store

import (
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/result"
)

// finished makes a run of a model that has a result of some kilobytes.
func finished(t *testing.T, s *Store, m Model) Run {
	t.Helper()
	_, err := s.QueueRun(t.Context(), m.ID, Wishes{})
	require.NoError(t, err)
	_, run, err := s.NextJob(t.Context())
	require.NoError(t, err)
	require.NoError(t, os.MkdirAll(s.RunTemp(run.ID), 0o700))
	require.NoError(t, os.WriteFile(s.RunTemp(run.ID)+"/fields", make([]byte, 5000), 0o600))
	run.Status, run.HasResult = string(result.Settled), true
	require.NoError(t, s.FinishRun(t.Context(), run, []result.Reading{{Key: "r1", Value: 7}}))
	return run
}

// TestTheBinEmptiesItself after the time said, and not before; nothing of a purged model is left.
func TestTheBinEmptiesItself(t *testing.T) {
	s := open(t, t.TempDir())
	ctx := t.Context()
	doc := model.New("Lump")
	doc.Parts = []model.Part{{ID: "p1", Name: "lump", Role: model.Solved, Outline: model.Outline{Kind: "surface"}, Surface: ball(20)}}
	old, err := s.CreateModel(ctx, doc)
	require.NoError(t, err)
	other, err := s.CreateModel(ctx, doc)
	require.NoError(t, err)
	run, kept := finished(t, s, old), finished(t, s, other)
	require.Error(t, s.Purge(ctx, old.ID), "only what is in the bin can be deleted")
	require.NoError(t, s.RemoveModel(ctx, old.ID))
	now := time.Now()
	s.now = func() time.Time { return now.Add(29 * 24 * time.Hour) }
	said, err := s.Tidy(ctx)
	require.NoError(t, err)
	assert.Empty(t, said)
	s.now = func() time.Time { return now.Add(31 * 24 * time.Hour) }
	said, err = s.Tidy(ctx)
	require.NoError(t, err)
	assert.Contains(t, said, "models deleted from the bin: 1")
	for _, table := range []string{"models", "revisions", "runs", "readings", "jobs", "surfaces", "revision_surfaces"} {
		var n int64
		require.NoError(t, s.db.Table(table).Count(&n).Error)
		assert.Equal(t, int64(1), n, table)
	}
	assert.NoDirExists(t, s.RunDir(run.ID))
	assert.DirExists(t, s.RunDir(kept.ID))
	// Never means never, and a run under way keeps its model.
	require.NoError(t, s.Set(ctx, BinDays, 0))
	require.NoError(t, s.RemoveModel(ctx, other.ID))
	s.now = func() time.Time { return now.Add(3000 * 24 * time.Hour) }
	_, err = s.Tidy(ctx)
	require.NoError(t, err)
	require.NoError(t, s.RestoreModel(ctx, other.ID))
	_, err = s.QueueRun(ctx, other.ID, Wishes{})
	require.NoError(t, err)
	require.NoError(t, s.RemoveModel(ctx, other.ID))
	var active *ActiveError
	require.ErrorAs(t, s.Purge(ctx, other.ID), &active)
	assert.ErrorContains(t, active, "stop it first")
	assert.Error(t, s.Set(ctx, "hue", 3))
	assert.Error(t, s.Set(ctx, BinDays, -1))
}

// TestFieldsOfOlderRunsGo, their readings stay; a run that is deleted is gone with all it had.
func TestFieldsOfOlderRunsGo(t *testing.T) {
	s := open(t, t.TempDir())
	ctx := t.Context()
	m, err := s.CreateModel(ctx, model.New("Pan"))
	require.NoError(t, err)
	var runs []Run
	for range 4 {
		runs = append(runs, finished(t, s, m))
	}
	before, err := s.Disk(ctx)
	require.NoError(t, err)
	require.Len(t, before.Models, 1)
	assert.Equal(t, []int{4, 4}, []int{before.Models[0].Runs, before.Models[0].Results})
	assert.Equal(t, int64(20_000), before.Models[0].Folders)
	assert.NotZero(t, before.Free)
	n, err := s.KeepNewest(ctx, m.ID)
	require.NoError(t, err)
	assert.Zero(t, n, "all are kept unless somebody chooses")
	require.NoError(t, s.Set(ctx, KeepResults, 2))
	_, err = s.Tidy(ctx)
	require.NoError(t, err)
	for i, r := range runs {
		now, err := s.Run(ctx, r.ID)
		require.NoError(t, err)
		assert.Equal(t, i >= 2, now.HasResult, i)
		readings, err := s.Readings(ctx, r.ID)
		require.NoError(t, err)
		assert.Len(t, readings, 1)
		_, err = os.Stat(s.RunDir(r.ID))
		assert.Equal(t, i >= 2, err == nil, i)
	}
	gone, err := s.DeleteRun(ctx, runs[3].ID)
	require.NoError(t, err)
	assert.Equal(t, 4, gone.Number)
	_, err = s.Run(ctx, runs[3].ID)
	assert.True(t, IsNotFound(err))
	assert.NoDirExists(t, s.RunDir(runs[3].ID))
	after, err := s.Disk(ctx)
	require.NoError(t, err)
	assert.Equal(t, int64(5_000), after.Models[0].Folders)
	queued, err := s.QueueRun(ctx, m.ID, Wishes{})
	require.NoError(t, err)
	assert.Equal(t, 5, queued.Number, "what speaks of run 4 never means another one")
	var active *ActiveError
	_, err = s.DeleteRun(ctx, queued.ID)
	assert.ErrorAs(t, err, &active)
}

// TestRoomIsGivenBack to the disk when much was deleted.
func TestRoomIsGivenBack(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	ctx := t.Context()
	doc := model.New("Lump")
	for i := range 40 {
		surface := ball(60)
		surface.Points[0] = float64(i)
		doc.Parts = append(doc.Parts, model.Part{ID: "p" + string(rune('A'+i)), Name: "lump", Role: model.Solved, Outline: model.Outline{Kind: "surface"}, Surface: surface})
	}
	m, err := s.CreateModel(ctx, doc)
	require.NoError(t, err)
	require.NoError(t, s.RemoveModel(ctx, m.ID))
	require.NoError(t, s.Purge(ctx, m.ID))
	said, err := s.Tidy(ctx)
	require.NoError(t, err)
	assert.Contains(t, said, "given back to the disk")
	info, err := os.Stat(dir + "/" + databaseFile)
	require.NoError(t, err)
	assert.Less(t, info.Size(), int64(1<<20))
}

// TestNotesAndWhatIsKept: notes stay with a run, and the fields of one that is kept are not deleted for
// newer ones, until it is no longer kept.
func TestNotesAndWhatIsKept(t *testing.T) {
	ctx := t.Context()
	s := open(t, t.TempDir())
	m, err := s.CreateModel(ctx, model.New("Pan"))
	require.NoError(t, err)
	var runs []Run
	for range 3 {
		runs = append(runs, finished(t, s, m))
	}
	assert.Equal(t, int64(5000), s.RunBytes(runs[0].ID))
	require.NoError(t, s.NoteRun(ctx, runs[0].ID, "with the old rods"))
	require.NoError(t, s.KeepRun(ctx, runs[0].ID, true))
	var refused *RefusedError
	require.ErrorAs(t, s.NoteRun(ctx, runs[0].ID, strings.Repeat("a", MostNote+1)), &refused)
	assert.True(t, IsNotFound(s.NoteRun(ctx, 99, "x")))
	assert.True(t, IsNotFound(s.KeepRun(ctx, 99, true)))
	n, err := s.DropResults(ctx, m.ID, 1)
	require.NoError(t, err)
	assert.Equal(t, 1, n, "the second alone")
	first, err := s.Run(ctx, runs[0].ID)
	require.NoError(t, err)
	assert.True(t, first.HasResult && first.Kept)
	assert.Equal(t, "with the old rods", first.Note)
	require.NoError(t, s.KeepRun(ctx, runs[0].ID, false))
	_, err = s.DropResults(ctx, m.ID, 1)
	require.NoError(t, err)
	assert.Zero(t, s.RunBytes(runs[0].ID))
}
