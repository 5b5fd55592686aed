package store

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/result"
)

// worked is a data folder with two models, one of them edited twice, and a result of two runs
// of it; its server is still at work.
func worked(t *testing.T) (*Store, string) {
	t.Helper()
	ctx, dir := t.Context(), filepath.Join(t.TempDir(), "data")
	s := open(t, dir)
	_, err := s.CreateModel(ctx, model.New("Test pan"))
	require.NoError(t, err)
	m, err := s.CreateModel(ctx, model.New("Test kiln"))
	require.NoError(t, err)
	for _, words := range []string{"first", "second"} {
		_, _, err := s.Edit(ctx, m.ID, Stamp{}, nil, func(d *model.Document) error { d.Name = words; return nil })
		require.NoError(t, err)
		finish(t, s, m.ID)
	}
	return s, dir
}

// finish makes a run of a model with a result of one reading.
func finish(t *testing.T, s *Store, modelID uint) Run {
	t.Helper()
	ctx := t.Context()
	_, err := s.QueueRun(ctx, modelID, Wishes{})
	require.NoError(t, err)
	_, run, err := s.NextJob(ctx)
	require.NoError(t, err)
	dir := s.RunTemp(run.ID)
	require.NoError(t, os.MkdirAll(dir, 0o700))
	require.NoError(t, result.SaveFields(dir, &result.Fields{Nodes: []float64{1, 2, float64(run.ID)}}, &result.Surface{}, nil))
	require.NoError(t, result.SaveSummary(dir, &result.Result{Status: result.Settled}))
	run.HasResult, run.Status = true, "settled"
	require.NoError(t, s.FinishRun(ctx, run, []result.Reading{{Key: "r1", Value: 7}}))
	return run
}

// TestBackupOfALiveFolder: what a server keeps comes back from one file, as it was when the
// backup was made.
func TestBackupOfALiveFolder(t *testing.T) {
	ctx := t.Context()
	s, dir := worked(t)
	file := filepath.Join(t.TempDir(), "works.tar.gz")
	kept, err := Backup(ctx, dir, file)
	require.NoError(t, err)
	assert.Equal(t, Kept{Models: 2, Revisions: 4, Runs: 2}, kept)
	later, err := s.CreateModel(ctx, model.New("Too late"))
	require.NoError(t, err)
	_, err = Backup(ctx, dir, file)
	assert.ErrorContains(t, err, "is there already")
	entries, err := os.ReadDir(filepath.Dir(file))
	require.NoError(t, err)
	assert.Len(t, entries, 1, "nothing else is left")

	back := filepath.Join(t.TempDir(), "deep", "back")
	kept, err = Restore(ctx, file, back)
	require.NoError(t, err)
	assert.Equal(t, Kept{Models: 2, Revisions: 4, Runs: 2}, kept)
	r := open(t, back)
	defer r.Close()
	doc, err := r.Document(ctx, 2, 2)
	require.NoError(t, err)
	assert.Equal(t, "first", doc.Name)
	readings, err := r.Readings(ctx, 2)
	require.NoError(t, err)
	require.Len(t, readings, 1)
	assert.InDelta(t, 7, readings[0].Value, 0)
	f, err := os.ReadFile(filepath.Join(r.RunDir(2), "nodes.f64"))
	require.NoError(t, err)
	want, err := os.ReadFile(filepath.Join(s.RunDir(2), "nodes.f64"))
	require.NoError(t, err)
	assert.Equal(t, want, f)
	_, err = r.Model(ctx, later.ID)
	assert.True(t, IsNotFound(err))
	info, err := os.Stat(back)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o700), info.Mode().Perm())

	_, err = Restore(ctx, file, back)
	assert.ErrorContains(t, err, "is not empty")
	_, err = Backup(ctx, filepath.Join(dir, "none"), filepath.Join(t.TempDir(), "x"))
	assert.ErrorContains(t, err, "there is no data folder")
	assert.NoDirExists(t, filepath.Join(dir, "none"))
	require.NoError(t, os.WriteFile(filepath.Join(s.RunDir(1), "nodes.f64"), []byte("bad"), 0o600))
	kept, err = Backup(ctx, dir, filepath.Join(t.TempDir(), "damaged"))
	require.NoError(t, err)
	require.Len(t, kept.Damaged, 1)
	assert.Contains(t, kept.Damaged[0], "nodes.f64")
	require.NoError(t, s.Close())
}

// TestEditsGoOnDuringABackup: each backup is of one moment, whatever is written meanwhile.
func TestEditsGoOnDuringABackup(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	s, dir := worked(t)
	ended := make(chan error, 1)
	go func() {
		for ctx.Err() == nil {
			_, _, err := s.Edit(t.Context(), 1, Stamp{}, nil, func(d *model.Document) error { d.Name += "x"; return nil })
			if err != nil {
				ended <- err
				return
			}
		}
		ended <- nil
	}()
	for range 3 {
		temp := t.TempDir()
		kept, err := Backup(t.Context(), dir, filepath.Join(temp, "b"))
		require.NoError(t, err)
		again, err := Restore(t.Context(), filepath.Join(temp, "b"), filepath.Join(temp, "back"))
		require.NoError(t, err)
		assert.Equal(t, kept, again)
		checkup, err := Examine(t.Context(), filepath.Join(temp, "back"), false)
		require.NoError(t, err)
		assert.Empty(t, checkup.Complaints)
	}
	cancel()
	require.NoError(t, <-ended)
	require.NoError(t, s.Close())
}

// archive is a file like a backup, of what it is told.
func archive(t *testing.T, heads ...tar.Header) []byte {
	t.Helper()
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	a := tar.NewWriter(z)
	for _, h := range heads {
		h.Mode, h.Size = 0o600, 1
		if h.Typeflag != tar.TypeReg {
			h.Size = 0
		}
		require.NoError(t, a.WriteHeader(&h))
		if h.Size > 0 {
			_, err := a.Write([]byte("x"))
			require.NoError(t, err)
		}
	}
	require.NoError(t, a.Close())
	require.NoError(t, z.Close())
	return b.Bytes()
}

// TestWhatIsNoBackupIsNotRestored: nothing is written outside the folder, and none is made of a
// file that is something else, damaged or cut short.
func TestWhatIsNoBackupIsNotRestored(t *testing.T) {
	s, dir := worked(t)
	whole := filepath.Join(t.TempDir(), "b")
	_, err := Backup(t.Context(), dir, whole)
	require.NoError(t, err)
	require.NoError(t, s.Close())
	good, err := os.ReadFile(whole)
	require.NoError(t, err)
	flipped := bytes.Clone(good)
	flipped[len(flipped)/2] ^= 8
	regular := func(name string) tar.Header { return tar.Header{Typeflag: tar.TypeReg, Name: name} }
	for name, data := range map[string][]byte{
		"text":      []byte("{}"),
		"empty":     archive(t),
		"outside":   archive(t, regular("../saltkettle.db")),
		"absolute":  archive(t, regular("/tmp/saltkettle.db")),
		"dots":      archive(t, regular("runs/1/../../../x")),
		"parent":    archive(t, regular("runs/1/..")),
		"key":       archive(t, regular("key")),
		"link":      archive(t, tar.Header{Typeflag: tar.TypeSymlink, Name: "runs/1/x", Linkname: "/etc/passwd"}),
		"twice":     archive(t, regular("saltkettle.db"), regular("saltkettle.db")),
		"no store":  archive(t, regular("saltkettle.db")),
		"runs only": archive(t, regular("runs/1/result.json")),
		"cut short": good[:len(good)-9],
		"half":      good[:len(good)/2],
		"flipped":   flipped,
	} {
		temp := t.TempDir()
		file := filepath.Join(temp, "file")
		require.NoError(t, os.WriteFile(file, data, 0o600))
		_, err := Restore(t.Context(), file, filepath.Join(temp, "data"))
		require.Error(t, err, name)
		entries, err := os.ReadDir(temp)
		require.NoError(t, err)
		assert.Len(t, entries, 1, "%s leaves nothing", name)
	}
	_, err = Restore(t.Context(), filepath.Join(t.TempDir(), "none"), filepath.Join(t.TempDir(), "x"))
	assert.ErrorContains(t, err, "the backup cannot be read")
}

// TestDoctor: each thing that can be wrong with a folder is found, and what can be mended is.
func TestDoctor(t *testing.T) {
	ctx := t.Context()
	s, dir := worked(t)
	_, err := Examine(ctx, dir, false)
	require.ErrorIs(t, err, ErrInUse, "a server is at work")
	first := s.RunDir(1)
	require.NoError(t, s.Close())
	found, err := Examine(ctx, dir, false)
	require.NoError(t, err)
	assert.Empty(t, found.Complaints)
	assert.True(t, found.Well())
	assert.Equal(t, Kept{Models: 2, Revisions: 4, Runs: 2}, found.Kept)

	require.NoError(t, os.Truncate(filepath.Join(first, "nodes.f64"), 8))
	require.NoError(t, os.RemoveAll(filepath.Join(dir, "runs", "2")))
	for _, name := range []string{"7.part", "9", "notes"} {
		require.NoError(t, os.MkdirAll(filepath.Join(dir, "runs", name), 0o700))
	}
	want := []string{"run 1: the result is damaged: nodes.f64", "run 2: ", "runs/7.part was left by a run", "runs/9 belongs to no run", "runs/notes belongs to no run"}
	words := func(c *Checkup) (list []string) {
		for i, w := range c.Complaints {
			list = append(list, w.What)
			assert.NotEmpty(t, w.Advice)
			if i < len(want) {
				assert.True(t, strings.HasPrefix(w.What, want[i]), w.What)
			}
		}
		return list
	}
	found, err = Examine(ctx, dir, false)
	require.NoError(t, err)
	require.Len(t, words(found), 5)
	assert.False(t, found.Well())
	assert.DirExists(t, filepath.Join(dir, "runs", "7.part"), "a look changes nothing")
	found, err = Examine(ctx, dir, true)
	require.NoError(t, err)
	require.Len(t, words(found), 5)
	assert.True(t, found.Well())
	for _, name := range []string{"1", "9", "notes"} {
		assert.DirExists(t, filepath.Join(dir, "damaged", name))
	}
	assert.NoDirExists(t, filepath.Join(dir, "damaged", "7.part"))
	found, err = Examine(ctx, dir, true)
	require.NoError(t, err)
	assert.Empty(t, found.Complaints)
	assert.Zero(t, found.Runs)

	s = open(t, dir)
	run, err := s.Run(ctx, 1)
	require.NoError(t, err)
	assert.Equal(t, Failed, run.Status)
	assert.False(t, run.HasResult)
	assert.Contains(t, run.Message, "run it again")
	require.NoError(t, s.db.Exec("UPDATE revisions SET document = '{' WHERE id = 2").Error)
	require.NoError(t, s.db.Exec("UPDATE models SET head = 5 WHERE id = 1").Error)
	require.NoError(t, s.Close())
	found, err = Examine(ctx, dir, true)
	require.NoError(t, err)
	require.Len(t, found.Complaints, 2)
	assert.Contains(t, found.Complaints[0].What, "model 1, Test pan, refers to revision 5")
	assert.Contains(t, found.Complaints[1].What, "revision 1 of model 2")
	assert.False(t, found.Well())

	// A database that is not whole is said to be so.
	f, err := os.OpenFile(filepath.Join(dir, databaseFile), os.O_RDWR, 0)
	require.NoError(t, err)
	_, err = f.WriteAt(bytes.Repeat([]byte{0xff}, 4096), 8192)
	require.NoError(t, err)
	require.NoError(t, f.Close())
	found, err = Examine(ctx, dir, true)
	require.NoError(t, err)
	require.Len(t, found.Complaints, 1)
	assert.Contains(t, found.Complaints[0].What, "the database is damaged")
	_, err = Examine(ctx, filepath.Join(dir, "none"), false)
	assert.ErrorContains(t, err, "there is no data folder")
}
