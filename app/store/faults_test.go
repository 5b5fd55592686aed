package store

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
)

// TestAFullDisk: an edit that finds no room says so, changes nothing, and succeeds when there is
// room again.
func TestAFullDisk(t *testing.T) {
	s := open(t, t.TempDir())
	doc := model.New("Pan")
	m, err := s.CreateModel(t.Context(), doc)
	require.NoError(t, err)
	db, err := s.db.DB()
	require.NoError(t, err)
	db.SetMaxOpenConns(1) // a pragma is of one connection
	var pages int
	require.NoError(t, db.QueryRow("PRAGMA page_count").Scan(&pages))
	_, err = db.Exec("PRAGMA max_page_count = 1") // as many as there are
	require.NoError(t, err)
	long := make([]byte, 19_000)
	for i := range long {
		long[i] = 'x'
	}
	edit := func() error {
		for range 20 {
			if _, _, err := s.Edit(t.Context(), m.ID, Stamp{}, nil, func(d *model.Document) error { return d.Set("aim", d.Aim+"y"+string(long[:900])) }); err != nil {
				return err
			}
		}
		return nil
	}
	var full *FullError
	require.ErrorAs(t, edit(), &full)
	assert.ErrorContains(t, full, "nothing was changed")
	before, err := s.Document(t.Context(), m.ID, 0)
	require.NoError(t, err)
	_, err = db.Exec("PRAGMA max_page_count = 100000")
	require.NoError(t, err)
	_, _, err = s.Edit(t.Context(), m.ID, Stamp{}, nil, setAim("again"))
	require.NoError(t, err)
	_, err = s.Undo(t.Context(), m.ID, Stamp{})
	require.NoError(t, err)
	after, err := s.Document(t.Context(), m.ID, 0)
	require.NoError(t, err)
	assert.Equal(t, before.Aim, after.Aim)
}

// TestWordsForFoldersThatCannotBeOpened name the folder and what to do.
func TestWordsForFoldersThatCannotBeOpened(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, databaseFile), []byte("this is no database, whatever its name says, and long enough to be looked at"), 0o600))
	_, err := Open(dir)
	require.ErrorContains(t, err, "is damaged; look at it with saltkettle doctor --data "+dir)
	file := filepath.Join(dir, "file")
	require.NoError(t, os.WriteFile(file, nil, 0o600))
	_, err = Open(file)
	assert.ErrorContains(t, err, file)
	err = explained("/d", os.ErrPermission)
	assert.ErrorContains(t, err, "the data folder /d cannot be written; let this user write it, or name another folder with --data")
}
