package result

import (
	"bytes"
	"encoding/binary"
	"math"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/fem"
)

// TestSurfacesAreReadPieceByPiece: the shape and the values of each field at each moment are those
// of the whole file, and a file that changes while it is read is found.
func TestSurfacesAreReadPieceByPiece(t *testing.T) {
	g := fem.FromMesh(slabs(t))
	s := NewSurface(g, g.Points(2), outside(g), sideNames, [][2]int{{0, 0}, {1, 0}}, 0)
	for k := range 3 {
		f := fieldsOf(g).Values
		for i := range f {
			for j := range f[i].Values {
				f[i].Values[j] = float64(100*k+10*i) + float64(j%7)
			}
			f[i].Values[0] = math.NaN()
		}
		require.NoError(t, s.ShowAt(float64(k), f))
	}
	var whole bytes.Buffer
	_, err := s.WriteTo(&whole)
	require.NoError(t, err)
	dir := t.TempDir()
	path := filepath.Join(dir, surfaceFile)
	require.NoError(t, os.WriteFile(path, whole.Bytes(), 0o600))
	f, err := OpenSurface(dir)
	require.NoError(t, err)
	assert.Equal(t, 3, f.Sets())
	var shape bytes.Buffer
	require.NoError(t, f.WriteShape(&shape))
	size := 4 * f.Counts.Vertices
	var together []byte
	for set := range 3 {
		for _, name := range f.Fields {
			data, err := f.Values(name.Name, set)
			require.NoError(t, err)
			together = append(together, data...)
		}
	}
	head := 4 + int(binary.LittleEndian.Uint32(whole.Bytes())) + 3*size
	assert.Equal(t, whole.Bytes(), append(append(bytes.Clone(shape.Bytes()[:head]), together...), shape.Bytes()[head:]...))
	places, err := f.Vertices()
	require.NoError(t, err)
	assert.Equal(t, s.positions, places)
	lo, hi, err := f.Range(f.Fields[1].Name)
	require.NoError(t, err)
	assert.Equal(t, []float64{10, 216}, []float64{lo, hi})
	for _, set := range []int{-1, 3} {
		_, err = f.Values(f.Fields[0].Name, set)
		assert.Error(t, err)
	}
	_, err = f.Values("speed", 0)
	assert.Error(t, err)

	require.NoError(t, os.Chtimes(path, time.Time{}, time.Now().Add(time.Hour)))
	var damaged *DamagedError
	_, err = f.Values(f.Fields[0].Name, 0)
	require.ErrorAs(t, err, &damaged)
	require.NoError(t, os.WriteFile(path, whole.Bytes()[:whole.Len()-4], 0o600))
	_, err = OpenSurface(dir)
	assert.ErrorContains(t, err, "bytes and not")
	require.NoError(t, os.Remove(path))
	require.ErrorAs(t, f.WriteShape(&shape), &damaged)
	assert.True(t, damaged.Missing)
}

// TestFieldsAreReadOneByOne: they are those that are read together, and what is not kept is said.
func TestFieldsAreReadOneByOne(t *testing.T) {
	dir, _ := saved(t)
	r, err := NewReader(dir)
	require.NoError(t, err)
	all, err := LoadFields(dir)
	require.NoError(t, err)
	values, err := r.Values("temperature", AtEnd)
	require.NoError(t, err)
	assert.Equal(t, all.Values[0].Values, values)
	assert.Equal(t, all.Blocks, r.Cells.Blocks)
	var none *NotKeptError
	for _, c := range []struct {
		field  string
		moment int
	}{{"speed", AtEnd}, {"temperature", 0}, {"temperature", -2}} {
		_, err := r.Values(c.field, c.moment)
		assert.ErrorAs(t, err, &none, c.field)
	}
}
