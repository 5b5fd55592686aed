package result

import (
	"bytes"
	"encoding/binary"
	"encoding/csv"
	"encoding/json"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/shape"
)

// slabs are two boxes of 10 × 10 × 2 mm on each other.
func slabs(t *testing.T) *mesh.Mesh {
	t.Helper()
	box, err := shape.Rectangle(0.01, 0.01)
	require.NoError(t, err)
	var list []mesh.StackBody
	for i := range 2 {
		list = append(list, mesh.StackBody{Body: shape.Body{Part: i, Outline: box, Z0: 0.002 * float64(i), Z1: 0.002 * float64(i+1)}, Size: 0.005, Across: 1})
	}
	m, err := mesh.NewStack(list, nil)
	require.NoError(t, err)
	return m
}

// fieldsOf gives both bodies the temperature 300 K + 1 K/mm·z, the upper one 5 K more, and the
// potential to the lower one alone.
func fieldsOf(m *mesh.Mesh) *Fields {
	p := NewPoints(m, 2)
	f := &Fields{Nodes: p.Places(m), Cells: p.Cells, Part: append([]int32(nil), m.Body...)}
	t, v := make([]float64, len(p.Node)), make([]float64, len(p.Node))
	for i, body := range p.Body {
		t[i] = 300 + 1000*f.Nodes[3*i+2] + 5*float64(body)
		v[i] = f.Nodes[3*i]
		if body == 1 {
			v[i] = math.NaN()
		}
	}
	f.Values = []Field{{FieldName: FieldName{Name: "temperature", Unit: "K"}, Values: t}, {FieldName: FieldName{Name: "potential", Unit: "V"}, Values: v}}
	return f
}

// TestWhereBodiesMeetEachHasItsOwnPoints: what jumps has two values there.
func TestWhereBodiesMeetEachHasItsOwnPoints(t *testing.T) {
	m := slabs(t)
	p := NewPoints(m, 2)
	require.Len(t, p.First, 3)
	assert.Equal(t, len(p.Node), int(p.First[2]))
	seen := map[[3]float64]map[int32]bool{}
	for i, x := range p.Node {
		at := [3]float64(m.Nodes[3*x : 3*x+3])
		if seen[at] == nil {
			seen[at] = map[int32]bool{}
		}
		assert.False(t, seen[at][p.Body[i]], "a body has a point once")
		seen[at][p.Body[i]] = true
	}
	for at, bodies := range seen {
		want := 1
		if math.Abs(at[2]-0.002) < 1e-12 {
			want = 2
		}
		assert.Len(t, bodies, want)
	}
	for c, b := range m.Body {
		for i := range mesh.WedgeNodes {
			point := p.Cells[mesh.WedgeNodes*c+i]
			assert.Equal(t, b, p.Body[point])
			assert.Equal(t, m.Cells[mesh.WedgeNodes*c+i], p.Node[point])
		}
	}
}

// TestEarlierFieldsAreTakenUp: in the part of the same name, then in any, and what is nowhere
// is counted.
func TestEarlierFieldsAreTakenUp(t *testing.T) {
	m := slabs(t)
	doc := model.New("slabs")
	doc.Parts = []model.Part{{ID: "lower"}, {ID: "upper"}}
	e := NewEarlier(&Result{Document: doc}, fieldsOf(m))
	assert.True(t, e.Has("temperature"))
	assert.False(t, e.Has("speed"))
	x := [][3]float64{{0, 0, 0.001}, {0.001, 0.002, 0.002}, {0.004, 0, 0.0035}, {1, 1, 1}}
	out := []float64{1, 1, 1, 1}
	missing := e.At("temperature", "upper", x, out)
	assert.Equal(t, 1, missing)
	assert.InDeltaSlice(t, []float64{301, 307, 308.5, 1}, out, 1e-9)
	out = []float64{1, 1, 1, 1}
	assert.Equal(t, 1, e.At("temperature", "lower", x, out))
	assert.InDelta(t, 302, out[1], 1e-9, "the lower side of what both share")
	assert.Equal(t, 2, e.At("potential", "upper", x, out), "a field that is not everywhere")
}

// TestExportsReadBack: CSV and VTU hold every value.
func TestExportsReadBack(t *testing.T) {
	f := fieldsOf(slabs(t))
	var b bytes.Buffer
	require.NoError(t, f.WriteCSV(&b))
	rows, err := csv.NewReader(&b).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 1+len(f.Values[0].Values))
	assert.Equal(t, []string{"x (m)", "y (m)", "z (m)", "temperature (K)", "potential (V)"}, rows[0])
	empty := 0
	for _, row := range rows[1:] {
		if row[4] == "" {
			empty++
		}
	}
	assert.Equal(t, len(f.Values[0].Values)/2, empty, "the upper body has no potential")
	b.Reset()
	require.NoError(t, f.WriteVTU(&b))
	text := b.String()
	for _, want := range []string{`Name="temperature"`, `Name="potential"`, `Name="part"`, `Name="connectivity"`} {
		assert.Equal(t, 1, strings.Count(text, want), want)
	}
}

// TestSurfacesHoldWhatTheySay: the header counts what follows it.
func TestSurfacesHoldWhatTheySay(t *testing.T) {
	m := slabs(t)
	f := fieldsOf(m)
	s := NewSurface(m, NewPoints(m, 2), [][2]int{{0, 0}, {1, 0}})
	require.NoError(t, s.Show(f.Values))
	var b bytes.Buffer
	_, err := s.WriteTo(&b)
	require.NoError(t, err)
	data := b.Bytes()
	assert.Zero(t, len(data)%4)
	n := binary.LittleEndian.Uint32(data)
	var header struct {
		Counts struct{ Vertices int }
		Fields []FieldName
	}
	require.NoError(t, json.Unmarshal(data[4:4+n], &header))
	assert.Positive(t, header.Counts.Vertices)
	assert.Len(t, header.Fields, 2)
	assert.Greater(t, len(data), int(n)+12*header.Counts.Vertices)
}

// TestMomentsInAFileAreThoseInMemory: also after every second one was left out and after an
// interruption, and with what came after the checkpoint left out.
func TestMomentsInAFileAreThoseInMemory(t *testing.T) {
	m := slabs(t)
	points := NewPoints(m, 2)
	owner := [][2]int{{0, 0}, {1, 0}}
	moment := func(k float64) []Field {
		f := fieldsOf(m).Values
		for i := range f {
			for j := range f[i].Values {
				f[i].Values[j] = k + float64(j)/1000
			}
		}
		return f
	}
	bytesOf := func(s *Surface) []byte {
		var b bytes.Buffer
		_, err := s.WriteTo(&b)
		require.NoError(t, err)
		return b.Bytes()
	}
	dir := t.TempDir()
	held, filed := NewSurface(m, points, owner), NewSurface(m, points, owner)
	require.NoError(t, filed.KeepIn(dir))
	show := func(s *Surface, from, to int) {
		for k := from; k < to; k++ {
			require.NoError(t, s.ShowAt(float64(k), moment(float64(k))))
		}
	}
	for _, s := range []*Surface{held, filed} {
		show(s, 0, 5)
		s.Thin()
		assert.Equal(t, []float64{0, 2, 4}, s.Moments)
		show(s, 5, 7)
	}
	assert.Equal(t, bytesOf(held), bytesOf(filed))
	so, err := filed.SoFar()
	require.NoError(t, err)
	filed.Thin()
	show(filed, 50, 53) // comes to nothing
	require.NoError(t, filed.Close())
	again := NewSurface(m, points, owner)
	require.NoError(t, again.KeepIn(dir))
	require.NoError(t, again.Resume(so))
	show(held, 7, 9)
	show(again, 7, 9)
	assert.Equal(t, bytesOf(held), bytesOf(again))
	require.Error(t, held.Show(moment(1)[:1]), "moments have the same fields")
}

// TestCheckpointsAreWholeOrNone: what is read is what was written.
func TestCheckpointsAreWholeOrNone(t *testing.T) {
	dir := t.TempDir()
	_, err := LoadCheckpoint(dir, nil)
	require.ErrorIs(t, err, ErrNoCheckpoint)
	state := map[string][]float64{"a": {1, math.NaN()}}
	require.NoError(t, SaveCheckpoint(dir, Progress{3, 9}, state))
	require.NoError(t, os.WriteFile(filepath.Join(dir, checkpointFile+".part"), []byte("half of the next"), 0o600))
	var back map[string][]float64
	p, err := LoadCheckpoint(dir, &back)
	require.NoError(t, err)
	assert.Equal(t, Progress{3, 9}, p)
	assert.Equal(t, 1., back["a"][0])
	assert.True(t, math.IsNaN(back["a"][1]))
	require.NoError(t, os.Truncate(filepath.Join(dir, checkpointFile), 40))
	var damaged *DamagedError
	_, err = LoadCheckpoint(dir, nil)
	require.ErrorAs(t, err, &damaged)
	require.NoError(t, RemoveCheckpoint(dir))
	assert.NoFileExists(t, filepath.Join(dir, checkpointFile))
}

// TestReadingsOverTimeAsCSV: units in the head, nothing where there is no value.
func TestReadingsOverTimeAsCSV(t *testing.T) {
	r := &Result{Readings: []Reading{{Key: "r1", Name: "lid, mean", Shown: Shown{Unit: "°C"}}, {Key: "r2", Name: "share"}, {Key: "r3", Name: "at the end"}},
		History: &History{Times: []float64{0, 1.5}, Readings: map[string]Values{"r1": {20, 21.25}, "r2": {math.NaN(), 0.5}}}}
	var b bytes.Buffer
	require.NoError(t, r.WriteHistory(&b))
	assert.Equal(t, "time (s),\"lid, mean (°C)\",share\n0,20,\n1.5,21.25,0.5\n", b.String())
	data, err := json.Marshal(r.History)
	require.NoError(t, err)
	assert.Contains(t, string(data), `"r2":[null,0.5]`)
	var back History
	require.NoError(t, json.Unmarshal(data, &back))
	assert.True(t, math.IsNaN(back.Readings["r2"][0]))
}

// TestReadingsKeepWhatIsMissing: as null, with its reason, and the error with its parts.
func TestReadingsKeepWhatIsMissing(t *testing.T) {
	sum := 0.3
	for _, want := range []Reading{
		{Key: "r1", Value: 350, Shown: Shown{76.85, "°C"}, Error: &sum, Errors: []ErrorPart{{Of: "cells", Value: 0.2, Order: 2}, {Of: "rays", Value: 0.1}}},
		{Key: "r2", Value: math.NaN(), Shown: Shown{math.NaN(), "W"}, Missing: "no current passes there"},
		{Key: "r3", Value: 1, Unknown: "the run is not settled"},
	} {
		data, err := json.Marshal(want)
		require.NoError(t, err)
		var got Reading
		require.NoError(t, json.Unmarshal(data, &got))
		if want.Missing != "" {
			assert.Contains(t, string(data), `"value":null`)
			assert.True(t, math.IsNaN(got.Value) && math.IsNaN(got.Shown.Value))
			got.Value, want.Value, got.Shown.Value, want.Shown.Value = 0, 0, 0, 0
		}
		assert.Equal(t, want, got)
	}
	r := &Result{Readings: []Reading{{Key: "r1", Unknown: "a"}, {Key: "r2"}, {Key: "r3", Unknown: "b"}, {Key: "r4", Unknown: "a"}}}
	assert.Equal(t, []string{"the error of r1, r4 is not known: a", "the error of r3 is not known: b"}, r.UnknownErrors())
	b := Balance{}
	b.Add("c1", 2)
	b.Add("c1", 3)
	b.Add(Stores, -4)
	assert.Equal(t, []Entry{{"c1", 5}, {Stores, -4}}, b.Entries)
	v, ok := b.Stored()
	assert.True(t, ok)
	assert.InDelta(t, 4, v, 0)
}
