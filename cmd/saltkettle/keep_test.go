package main

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/app/store"
)

// TestKeepingData: a folder goes into a file and comes back, and is looked at, from the command
// line.
func TestKeepingData(t *testing.T) {
	temp := t.TempDir()
	data, file, back := filepath.Join(temp, "data"), filepath.Join(temp, "b"), filepath.Join(temp, "back")
	code, _, stderr := command(t, "backup", file, "--data", data)
	assert.Equal(t, exitOther, code)
	assert.Contains(t, stderr, "there is no data folder at "+data)
	s, err := store.Open(data)
	require.NoError(t, err)
	require.NoError(t, fillShelf(t.Context(), s))
	list, err := s.Models(t.Context())
	require.NoError(t, err)
	code, out, stderr := command(t, "backup", file, "--data", data)
	require.Equal(t, exitSettled, code, stderr)
	assert.Contains(t, out, "revisions, 0 results written to "+file)
	code, _, stderr = command(t, "doctor", "--data", data)
	assert.Equal(t, exitOther, code)
	assert.Contains(t, stderr, "the data folder is in use")
	require.NoError(t, s.Close())

	code, _, stderr = command(t, "restore", file, "--data", back)
	require.Equal(t, exitSettled, code, stderr)
	code, out, _ = command(t, "doctor", "--data", back)
	assert.Equal(t, exitSettled, code)
	assert.Contains(t, out, back+" is in order")
	s, err = store.Open(back)
	require.NoError(t, err)
	again, err := s.Models(t.Context())
	require.NoError(t, err)
	assert.Equal(t, len(list), len(again))
	require.NoError(t, s.Close())

	require.NoError(t, os.Mkdir(filepath.Join(back, "runs", "77"), 0o700))
	code, out, stderr = command(t, "doctor", "--data", back)
	assert.Equal(t, exitOther, code)
	assert.Equal(t, "runs/77 belongs to no run\n    --mend puts it aside\n", out)
	assert.Contains(t, stderr, "not in order")
	code, out, _ = command(t, "doctor", "--data", back, "--mend")
	assert.Equal(t, exitSettled, code)
	assert.Contains(t, out, "mended")
	code, _, _ = command(t, "restore", file, "--data", back)
	assert.Equal(t, exitOther, code)
}
