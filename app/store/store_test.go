package store

import (
	"context"
	"errors"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/result"
)

func open(t *testing.T, dir string) *Store {
	t.Helper()
	s, err := Open(dir)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return s
}

func setAim(aim string) func(*model.Document) error {
	return func(d *model.Document) error { return d.Set("aim", aim) }
}

func TestRevisionsUndoAndRedo(t *testing.T) {
	ctx := t.Context()
	dir := t.TempDir()
	s := open(t, dir)
	m, err := s.CreateModel(ctx, model.New("Test pan"))
	require.NoError(t, err)
	aim := func() string {
		d, err := s.Document(ctx, m.ID, 0)
		require.NoError(t, err)
		return d.Aim
	}
	for _, a := range []string{"one", "two"} {
		_, _, err = s.Edit(ctx, m.ID, Stamp{}, nil, setAim(a))
		require.NoError(t, err)
	}
	same, _, err := s.Edit(ctx, m.ID, Stamp{}, nil, setAim("two"))
	require.NoError(t, err)
	assert.Equal(t, 3, same.Head, "an edit that changes nothing makes no revision")

	_, err = s.Undo(ctx, m.ID, Stamp{})
	require.NoError(t, err)
	assert.Equal(t, "one", aim())
	_, err = s.Redo(ctx, m.ID, Stamp{})
	require.NoError(t, err)
	assert.Equal(t, "two", aim())
	_, err = s.Redo(ctx, m.ID, Stamp{})
	assert.ErrorIs(t, err, ErrNothing)
	_, err = s.Undo(ctx, m.ID, Stamp{})
	require.NoError(t, err)
	now, _, err := s.Edit(ctx, m.ID, Stamp{}, nil, setAim("three"))
	require.NoError(t, err)
	assert.Equal(t, 4, now.Head)
	_, err = s.Redo(ctx, m.ID, Stamp{})
	assert.ErrorIs(t, err, ErrNothing)
	old, err := s.Document(ctx, m.ID, 3)
	require.NoError(t, err)
	assert.Equal(t, "two", old.Aim, "no revision is ever lost")

	// Everything is still there after the server was closed.
	require.NoError(t, s.Close())
	s = open(t, dir)
	assert.Equal(t, "three", aim())
	require.NoError(t, s.RemoveModel(ctx, m.ID))
	_, err = s.Model(ctx, m.ID)
	assert.True(t, IsNotFound(err))
	require.NoError(t, s.RestoreModel(ctx, m.ID))
	assert.Equal(t, "three", aim())
	assert.True(t, IsNotFound(s.RemoveModel(ctx, 99)))
}

func TestRunsAndJobs(t *testing.T) {
	ctx := t.Context()
	dir := t.TempDir()
	s := open(t, dir)
	m, err := s.CreateModel(ctx, model.New("Test pan"))
	require.NoError(t, err)
	var runs []Run
	for range 4 {
		r, err := s.QueueRun(ctx, m.ID, Wishes{})
		require.NoError(t, err)
		runs = append(runs, r)
	}
	_, r, err := s.NextJob(ctx)
	require.NoError(t, err)
	assert.Equal(t, runs[0].ID, r.ID, "first come, first served")
	require.NoError(t, os.MkdirAll(s.RunTemp(r.ID), 0o755))
	r.Status, r.HasResult, r.Cells = string(result.Settled), true, 12
	require.NoError(t, s.FinishRun(ctx, r, []result.Reading{{Key: "r2", Name: "b", Value: 2, Shown: result.Shown{Unit: "K"}}, {Key: "r1", Name: "a", Value: 1}}))
	assert.DirExists(t, s.RunDir(r.ID))
	q, err := s.Readings(ctx, r.ID)
	require.NoError(t, err)
	require.Len(t, q, 2)
	assert.Equal(t, "r2", q[0].Key, "readings keep their order")
	assert.ErrorContains(t, s.FinishRun(ctx, Run{ID: r.ID, ModelID: m.ID}, nil), "cannot become")

	ok, err := s.CancelQueued(ctx, runs[3].ID)
	require.NoError(t, err)
	assert.True(t, ok)
	ok, err = s.CancelQueued(ctx, r.ID)
	require.NoError(t, err)
	assert.False(t, ok)

	// The server ends while the second run is under way; the third still waits.
	_, second, err := s.NextJob(ctx)
	require.NoError(t, err)
	require.NoError(t, os.MkdirAll(s.RunTemp(second.ID), 0o755))
	require.NoError(t, s.Close())
	s = open(t, dir)
	n, err := s.Interrupt(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	second, err = s.Run(ctx, second.ID)
	require.NoError(t, err)
	assert.Equal(t, Interrupted, second.Status)
	assert.NoDirExists(t, s.RunTemp(second.ID))
	_, third, err := s.NextJob(ctx)
	require.NoError(t, err)
	assert.Equal(t, runs[2].ID, third.ID)
	_, _, err = s.NextJob(ctx)
	assert.True(t, IsNotFound(err))
	last, err := s.LastResult(ctx, m.ID)
	require.NoError(t, err)
	assert.Equal(t, r.ID, last.ID)
}

func TestNewerDatabaseIsRefused(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	require.NoError(t, s.db.Exec("INSERT INTO schema_versions VALUES (999, '2030-01-01')").Error)
	require.NoError(t, s.Close())
	_, err := Open(dir)
	assert.ErrorContains(t, err, "newer version")
	blocked := filepath.Join(dir, "file")
	require.NoError(t, os.WriteFile(blocked, nil, 0o644))
	_, err = Open(blocked)
	assert.Error(t, err)
}

// TestManyEditorsAtOnce: edits from several windows follow each other, and none
// is lost.
func TestManyEditorsAtOnce(t *testing.T) {
	s := open(t, t.TempDir())
	m, err := s.CreateModel(t.Context(), model.New("Test pan"))
	require.NoError(t, err)
	const editors, edits = 6, 8
	var wg sync.WaitGroup
	failed := make([]error, editors)
	for e := range editors {
		wg.Go(func() {
			for range edits {
				_, _, err := s.Edit(context.Background(), m.ID, Stamp{}, nil, func(d *model.Document) error {
					d.AddParameter()
					return nil
				})
				if err != nil {
					failed[e] = err
				}
			}
		})
	}
	wg.Wait()
	for _, err := range failed {
		require.NoError(t, err)
	}
	doc, err := s.Document(t.Context(), m.ID, 0)
	require.NoError(t, err)
	assert.Len(t, doc.Parameters, editors*edits)
	list, err := s.Revisions(t.Context(), m.ID, 0, 1000)
	require.NoError(t, err)
	require.Len(t, list, editors*edits+1)
	for i, r := range list {
		assert.Equal(t, len(list)-i, r.Number)
		assert.Equal(t, r.Number-1, r.Parent)
	}
}

// TestAFailingEditChangesNothing: what f did before its error is rolled back.
func TestAFailingEditChangesNothing(t *testing.T) {
	s := open(t, t.TempDir())
	m, err := s.CreateModel(t.Context(), model.New("Test pan"))
	require.NoError(t, err)
	_, _, err = s.Edit(t.Context(), m.ID, Stamp{}, nil, func(d *model.Document) error {
		d.Name = "half done"
		return errors.New("no")
	})
	assert.ErrorContains(t, err, "no")
	doc, err := s.Document(t.Context(), m.ID, 0)
	require.NoError(t, err)
	assert.Equal(t, "Test pan", doc.Name)
	_, err = s.GoTo(t.Context(), m.ID, 12)
	assert.True(t, IsNotFound(err))
	_, err = s.Undo(t.Context(), m.ID, Stamp{})
	assert.ErrorIs(t, err, ErrNothing)
	undo, redo, err := s.CanUndo(t.Context(), m)
	require.NoError(t, err)
	assert.False(t, undo || redo)
}

// TestAResultThatCannotBePutInPlace leaves no run that claims to have one.
func TestAResultThatCannotBePutInPlace(t *testing.T) {
	s := open(t, t.TempDir())
	m, err := s.CreateModel(t.Context(), model.New("Test pan"))
	require.NoError(t, err)
	_, err = s.QueueRun(t.Context(), m.ID, Wishes{})
	require.NoError(t, err)
	_, run, err := s.NextJob(t.Context())
	require.NoError(t, err)
	run.Status, run.HasResult = string(result.Settled), true
	assert.ErrorContains(t, s.FinishRun(t.Context(), run, nil), "cannot be put in its place")
	kept, err := s.Run(t.Context(), run.ID)
	require.NoError(t, err)
	assert.False(t, kept.HasResult)
	_, err = s.LastResult(t.Context(), m.ID)
	assert.True(t, IsNotFound(err))
}

func TestAnOlderDatabaseIsBroughtUpToDate(t *testing.T) {
	ctx, dir := t.Context(), t.TempDir()
	s, err := Open(dir)
	require.NoError(t, err)
	m, err := s.CreateModel(ctx, model.New("Old pan"))
	require.NoError(t, err)
	db, err := s.db.DB()
	require.NoError(t, err)
	// As the first version left it, with a run and a reading.
	for _, command := range []string{
		`DROP TABLE settings`,
		`ALTER TABLE models DROP COLUMN last_run`,
		`DROP TABLE revision_surfaces`,
		`DROP TABLE surfaces`,
		`ALTER TABLE revisions DROP COLUMN window`,
		`DROP TABLE trials`,
		`DROP TABLE series`,
		`DROP TABLE readings`,
		`CREATE TABLE readings (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, place INTEGER NOT NULL, key TEXT NOT NULL, name TEXT NOT NULL, value REAL NOT NULL, unit TEXT NOT NULL, difference BOOLEAN NOT NULL, PRIMARY KEY (run_id, key))`,
		`DELETE FROM schema_versions WHERE version > 1`,
	} {
		_, err := db.Exec(command)
		require.NoError(t, err, command)
	}
	run, err := s.QueueRun(ctx, m.ID, Wishes{})
	require.NoError(t, err)
	_, err = db.Exec(`DROP INDEX runs_by_series`)
	require.NoError(t, err)
	for _, column := range []string{"mesh_error", "token", "anyway", "reached", "goes_on", "note", "kept", "series_id", "trial", "parameters"} {
		_, err = db.Exec(`ALTER TABLE runs DROP COLUMN ` + column)
		require.NoError(t, err)
	}
	_, err = db.Exec(`ALTER TABLE jobs DROP COLUMN place`)
	require.NoError(t, err)
	_, err = db.Exec(`INSERT INTO readings VALUES (?, 0, 'r1', 'hottest', 350, '°C', 0)`, run.ID)
	require.NoError(t, err)
	require.NoError(t, s.Close())

	s = open(t, dir)
	list, err := s.Readings(ctx, run.ID)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, 350.0, list[0].Value)
	assert.Nil(t, list[0].Error, "the mesh error of an old run is not known")
	margin := 0.25
	_, claimed, err := s.NextJob(ctx)
	require.NoError(t, err)
	require.Equal(t, run.ID, claimed.ID)
	require.NoError(t, s.FinishRun(ctx, claimed, []result.Reading{{Key: "r2", Value: 1, Error: &margin}}))
	list, err = s.Readings(ctx, run.ID)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, &margin, list[slices.IndexFunc(list, func(q Reading) bool { return q.Key == "r2" })].Error)
}

// TestOneServerAFolder: a second one is told who works there and changes nothing; when the
// first has ended it may.
func TestOneServerAFolder(t *testing.T) {
	dir := t.TempDir()
	s, err := Open(dir)
	require.NoError(t, err)
	m, err := s.CreateModel(t.Context(), model.New("Test pan"))
	require.NoError(t, err)
	run, err := s.QueueRun(t.Context(), m.ID, Wishes{})
	require.NoError(t, err)
	_, _, err = s.NextJob(t.Context())
	require.NoError(t, err)
	require.NoError(t, os.MkdirAll(s.RunTemp(run.ID), 0o700))

	_, err = Open(dir)
	require.ErrorIs(t, err, ErrInUse)
	assert.ErrorContains(t, err, dir)
	assert.ErrorContains(t, err, strconv.Itoa(os.Getpid()))
	assert.DirExists(t, s.RunTemp(run.ID), "what runs goes on")
	now, err := s.Run(t.Context(), run.ID)
	require.NoError(t, err)
	assert.Equal(t, Running, now.Status)

	require.NoError(t, s.Close())
	again := open(t, dir)
	_, err = again.Run(t.Context(), run.ID)
	assert.NoError(t, err)
	assert.NotEqual(t, "", run.Token)
}

// TestFoldersOfAnyName: also with what means something in the address of a database; others
// may not look into them.
func TestFoldersOfAnyName(t *testing.T) {
	for _, name := range []string{"a#b", "what?", "100%", "50%25", "sp ace", "Süd"} {
		dir := filepath.Join(t.TempDir(), name)
		s, err := Open(dir)
		require.NoError(t, err, name)
		m, err := s.CreateModel(t.Context(), model.New(name))
		require.NoError(t, err, name)
		require.NoError(t, s.Close())
		assert.FileExists(t, filepath.Join(dir, "saltkettle.db"))
		back, err := open(t, dir).Model(t.Context(), m.ID)
		require.NoError(t, err)
		assert.Equal(t, name, back.Name)
		info, err := os.Stat(dir)
		require.NoError(t, err)
		assert.Zero(t, info.Mode().Perm()&0o077, "only its owner looks into it")
	}
}

// TestACompleteResultIsAdopted: a run whose folder was in its place when the server ended, but
// not its record, is recorded at the next start; what is not complete is interrupted and its
// folder, like those of nobody, is removed.
func TestACompleteResultIsAdopted(t *testing.T) {
	ctx, dir := t.Context(), t.TempDir()
	s := open(t, dir)
	m, err := s.CreateModel(ctx, model.New("Test pan"))
	require.NoError(t, err)
	var runs []Run
	for range 3 {
		_, err := s.QueueRun(ctx, m.ID, Wishes{})
		require.NoError(t, err)
		_, run, err := s.NextJob(ctx)
		require.NoError(t, err)
		runs = append(runs, run)
	}
	require.NoError(t, os.MkdirAll(s.RunDir(runs[0].ID), 0o700))
	require.NoError(t, result.SaveSummary(s.RunDir(runs[0].ID), &result.Result{Status: result.Settled, Mesh: result.Mesh{Cells: 70}, Readings: []result.Reading{{Key: "r1", Value: 7, Unknown: "it was not asked for"}, {Key: "r2", Value: math.NaN(), Missing: "no current passes there"}}}))
	for _, name := range []string{s.RunTemp(runs[1].ID), s.RunTemp(99)} {
		require.NoError(t, os.MkdirAll(name, 0o700))
	}
	// The third lost power before its arrays were all on the disk.
	require.NoError(t, os.MkdirAll(s.RunDir(runs[2].ID), 0o700))
	require.NoError(t, result.SaveFields(s.RunDir(runs[2].ID), &result.Fields{Nodes: []float64{1, 2, 3}}, &result.Surface{}, nil))
	require.NoError(t, result.SaveSummary(s.RunDir(runs[2].ID), &result.Result{Status: result.Settled}))
	require.NoError(t, os.Truncate(filepath.Join(s.RunDir(runs[2].ID), "nodes.f64"), 8))
	n, err := s.Interrupt(ctx)
	require.NoError(t, err)
	assert.Equal(t, 2, n)
	first, err := s.Run(ctx, runs[0].ID)
	require.NoError(t, err)
	assert.Equal(t, "settled", first.Status)
	assert.True(t, first.HasResult)
	assert.Equal(t, 70, first.Cells)
	readings, err := s.Readings(ctx, runs[0].ID)
	require.NoError(t, err)
	require.Len(t, readings, 2)
	assert.Equal(t, "its error is not known: it was not asked for", readings[0].Trust)
	assert.Equal(t, "no current passes there", readings[1].Missing)
	for _, cut := range runs[1:] {
		run, err := s.Run(ctx, cut.ID)
		require.NoError(t, err)
		assert.Equal(t, Interrupted, run.Status)
		assert.False(t, run.HasResult)
	}
	removed, err := s.Sweep(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, removed)
	assert.NoDirExists(t, s.RunTemp(99))
	assert.DirExists(t, s.RunDir(runs[0].ID))

	// A second try of what was half done succeeds.
	_, err = s.QueueRun(ctx, m.ID, Wishes{})
	require.NoError(t, err)
	_, third, err := s.NextJob(ctx)
	require.NoError(t, err)
	require.NoError(t, os.MkdirAll(s.RunDir(third.ID), 0o700))
	require.NoError(t, result.SaveSummary(s.RunDir(third.ID), &result.Result{Status: result.Settled}))
	third.HasResult, third.Status = true, "settled"
	require.NoError(t, s.FinishRun(ctx, third, nil))
	assert.NoError(t, s.Ping(ctx))
	require.NoError(t, s.Close())
	assert.Error(t, s.Ping(ctx))
}
