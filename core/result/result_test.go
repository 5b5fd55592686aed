package result

import (
	"bytes"
	"crypto/sha256"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/fem"
	"saltkettle/core/mesh"
)

func fields() *Fields {
	return &Fields{Nodes: make([]float64, 18), Blocks: []Block{{fem.NewElement(mesh.Wedge, 1), []int32{0, 1, 2, 3, 4, 5}}}, Part: []int32{0}, Values: []Field{{FieldName: FieldName{Name: "temperature", Unit: "K"}, Values: []float64{300, 301, 302, 303, 304, 305}}}}
}

func TestFolderIsCompleteOrNot(t *testing.T) {
	dir := t.TempDir()
	_, err := Load(dir)
	assert.ErrorIs(t, err, os.ErrNotExist)
	require.NoError(t, SaveFields(dir, fields(), &Surface{}, nil))
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

	// One from before there were sums is read, but not if it was cut short.
	require.NoError(t, os.Remove(filepath.Join(dir, "SHA256SUMS")))
	require.NoError(t, Verify(dir))
	f, err = LoadFields(dir)
	require.NoError(t, err)
	assert.Equal(t, fields(), f)
	require.NoError(t, os.Truncate(filepath.Join(dir, "temperature.f64"), 16))
	assert.ErrorContains(t, Verify(dir), "do not fit each other")
	_, err = LoadFields(dir)
	assert.ErrorContains(t, err, "do not fit each other")
	require.NoError(t, os.WriteFile(filepath.Join(dir, "result.json"), []byte("{"), 0o644))
	_, err = Load(dir)
	assert.Error(t, err)
}

func TestSavingWhereNothingCanBeSaved(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "missing")
	assert.Error(t, SaveFields(dir, fields(), &Surface{}, nil))
	assert.Error(t, SaveSummary(dir, &Result{}))
	assert.NoDirExists(t, dir)
}

// saved is a folder with a result, and the names of its files.
func saved(t *testing.T) (string, []string) {
	t.Helper()
	dir := t.TempDir()
	require.NoError(t, SaveFields(dir, fields(), &Surface{}, nil))
	require.NoError(t, SaveSummary(dir, &Result{Status: Settled, Fields: []FieldName{{Name: "temperature", Unit: "K"}}}))
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	var names []string
	for _, e := range entries {
		if e.Name() != "SHA256SUMS" {
			names = append(names, e.Name())
		}
	}
	require.Equal(t, []string{"cells.i32", "nodes.f64", "part.i32", "result.json", "surface.bin", "temperature.f64"}, names)
	return dir, names
}

// anyOf reads all that a folder holds, as those who draw and take away do.
func anyOf(dir string) error {
	if _, err := LoadFields(dir); err != nil {
		return err
	}
	f, err := OpenSurface(dir)
	if err != nil {
		return err
	}
	return f.WriteShape(io.Discard)
}

// TestDamageIsNeverRead: a single bit of any file of a result that has changed, a file that was
// cut short or is gone is found whenever it is read, and named.
func TestDamageIsNeverRead(t *testing.T) {
	dir, names := saved(t)
	require.NoError(t, Verify(dir))
	require.NoError(t, anyOf(dir))
	for _, name := range names {
		path := filepath.Join(dir, name)
		data, err := os.ReadFile(path)
		require.NoError(t, err)
		bad := bytes.Clone(data)
		bad[len(bad)/2] ^= 4
		for _, other := range [][]byte{bad, data[:len(data)-1], append(bytes.Clone(data), 0)} {
			require.NoError(t, os.WriteFile(path, other, 0o600))
			for _, err := range []error{Verify(dir), anyOf(dir)} {
				var damaged *DamagedError
				require.ErrorAs(t, err, &damaged, name)
				assert.Equal(t, name, damaged.File)
				assert.ErrorContains(t, err, "has changed since the run wrote it; run again")
			}
		}
		require.NoError(t, os.Remove(path))
		assert.ErrorContains(t, Verify(dir), name+" in "+dir+" is missing")
		assert.ErrorContains(t, anyOf(dir), name+" in "+dir+" is missing")
		require.NoError(t, os.WriteFile(path, data, 0o600))
		require.NoError(t, Verify(dir))
	}
	// Sums that are not sums are damage too.
	require.NoError(t, os.WriteFile(filepath.Join(dir, "SHA256SUMS"), []byte("\x00\x00"), 0o600))
	assert.ErrorContains(t, Verify(dir), "SHA256SUMS")
	assert.ErrorContains(t, anyOf(dir), "SHA256SUMS")
}

// TestSumsAreThoseOfTheStandardTool: a line of 64 digits, two spaces and the name for each file.
func TestSumsAreThoseOfTheStandardTool(t *testing.T) {
	dir, names := saved(t)
	text, err := os.ReadFile(filepath.Join(dir, "SHA256SUMS"))
	require.NoError(t, err)
	var want strings.Builder
	for _, name := range names {
		data, err := os.ReadFile(filepath.Join(dir, name))
		require.NoError(t, err)
		fmt.Fprintf(&want, "%x  %s\n", sha256.Sum256(data), name)
	}
	assert.Equal(t, want.String(), string(text))
}

// TestSavingAgain: a folder that is written once more has the sums of what it holds then.
func TestSavingAgain(t *testing.T) {
	dir, _ := saved(t)
	require.NoError(t, SaveSummary(dir, &Result{Status: Stopped, Fields: []FieldName{{Name: "temperature", Unit: "K"}}}))
	require.NoError(t, Verify(dir))
	f := fields()
	f.Values[0].Values[0] = 7
	require.NoError(t, SaveFields(dir, f, &Surface{}, nil))
	require.NoError(t, SaveSummary(dir, &Result{Status: Settled, Fields: []FieldName{{Name: "temperature", Unit: "K"}}}))
	require.NoError(t, Verify(dir))
	again, err := LoadFields(dir)
	require.NoError(t, err)
	assert.InDelta(t, 7, again.Values[0].Values[0], 0)
}
