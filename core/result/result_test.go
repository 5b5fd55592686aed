package result

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func fields() *Fields {
	return &Fields{Nodes: make([]float64, 18), Cells: []int32{0, 1, 2, 3, 4, 5}, Part: []int32{0}, Values: []Field{{FieldName: FieldName{Name: "temperature", Unit: "K"}, Values: []float64{300, 301, 302, 303, 304, 305}}}}
}

func TestFolderIsCompleteOrNot(t *testing.T) {
	dir := t.TempDir()
	_, err := Load(dir)
	assert.ErrorIs(t, err, os.ErrNotExist)
	require.NoError(t, SaveFields(dir, fields(), &Surface{}))
	_, err = Load(dir)
	assert.ErrorIs(t, err, os.ErrNotExist, "fields alone are no result")
	require.NoError(t, SaveSummary(dir, &Result{Status: Settled, Reason: "why"}))
	r, err := Load(dir)
	require.NoError(t, err)
	assert.Equal(t, "why", r.Reason)
	f, err := LoadFields(dir)
	require.NoError(t, err)
	assert.Equal(t, fields(), f)
	assert.NoFileExists(t, filepath.Join(dir, "result.json.part"))

	// A folder that was cut short is refused, not read as something else.
	require.NoError(t, os.Truncate(filepath.Join(dir, "temperature.f64"), 16))
	_, err = LoadFields(dir)
	assert.ErrorContains(t, err, "do not fit each other")
	require.NoError(t, os.WriteFile(filepath.Join(dir, "result.json"), []byte("{"), 0o644))
	_, err = Load(dir)
	assert.Error(t, err)
}

func TestSavingWhereNothingCanBeSaved(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "missing")
	assert.Error(t, SaveFields(dir, fields(), &Surface{}))
	assert.Error(t, SaveSummary(dir, &Result{}))
	assert.NoDirExists(t, dir)
}
