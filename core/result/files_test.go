package result

import (
	"bytes"
	"encoding/binary"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/fem"
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
func fieldsOf(g *fem.Grid) *Fields {
	p := g.Points(2)
	f := NewFields(g, p, func(body int32) int { return int(body) })
	t, v := make([]float64, len(p.Node)), make([]float64, len(p.Node))
	for i, body := range p.Part {
		t[i] = 300 + 1000*f.Nodes[3*i+2] + 5*float64(body)
		v[i] = f.Nodes[3*i]
		if body == 1 {
			v[i] = math.NaN()
		}
	}
	f.Values = []Field{{FieldName: FieldName{Name: "temperature", Unit: "K"}, Values: t}, {FieldName: FieldName{Name: "potential", Unit: "V"}, Values: v}}
	return f
}

// outside are the outer sides of cells, and those between bodies.
func outside(g *fem.Grid) (list []Face) {
	for _, s := range g.Sides() {
		list = append(list, Face{Side: s, Name: int32(s.Facet), Inner: s.Other >= 0})
	}
	return list
}

// grids are two boxes of each form of cells and each order, one above the other.
func grids(t *testing.T) map[string]*fem.Grid {
	t.Helper()
	wedges := fem.FromMesh(slabs(t))
	bricks := &fem.Grid{Blocks: []fem.Block{{Element: fem.NewElement(mesh.Hexahedron, 1)}}}
	flat := &fem.Grid{Blocks: []fem.Block{{Element: fem.NewElement(mesh.Triangle, 1)}, {Element: fem.NewElement(mesh.Quadrilateral, 1)}}}
	for z := range 3 {
		for y := range 2 {
			for x := range 2 {
				bricks.Nodes = append(bricks.Nodes, 0.01*(float64(x)-0.5), 0.01*(float64(y)-0.5), 0.002*float64(z))
			}
		}
		flat.Nodes = append(flat.Nodes, 0, 0.01*float64(z), 0, 0.01, 0.01*float64(z), 0)
	}
	for z := range int32(2) {
		v := 4 * z
		b := &bricks.Blocks[0]
		b.Cells, b.Part = append(b.Cells, v, v+1, v+3, v+2, v+4, v+5, v+7, v+6), append(b.Part, z)
	}
	flat.Blocks[0].Cells, flat.Blocks[0].Part = []int32{0, 1, 3, 0, 3, 2}, []int32{0, 0}
	flat.Blocks[1].Cells, flat.Blocks[1].Part = []int32{2, 3, 5, 4}, []int32{1}
	return map[string]*fem.Grid{"wedges": wedges, "wedges of order 2": wedges.Elevated(nil), "bricks": bricks, "bricks of order 2": bricks.Elevated(nil),
		"a section": flat, "a section of order 2": flat.Elevated(nil)}
}

// sideNames are what the facets of a cell are called.
var sideNames = []string{"f0", "f1", "f2", "f3", "f4", "f5"}

// TestFieldsOfAnyCells: what is written of cells of any form and order is read back, drawn
// and found at places.
func TestFieldsOfAnyCells(t *testing.T) {
	for name, g := range grids(t) {
		p := g.Points(2)
		f := NewFields(g, p, func(body int32) int { return int(body) })
		values := make([]float64, len(p.Node))
		for i := range values {
			x := p.At[3*i : 3*i+3]
			values[i] = 3 + 200*x[0] - 100*x[1] + 50*x[2] + float64(p.Part[i])
		}
		f.Values = []Field{{FieldName: FieldName{Name: "temperature", Unit: "K"}, Values: values}}
		flat := g.Blocks[0].Element.Dimension == 2
		faces := outside(g)
		if flat {
			faces = nil
			for bi := range g.Blocks {
				for c := range g.Blocks[bi].Count() {
					faces = append(faces, Face{Side: fem.Side{Block: bi, Cell: c, Facet: fem.Itself}})
				}
			}
		}
		s := NewSurface(g, p, faces, sideNames, [][2]int{{0, 0}, {1, 0}}, 0)
		require.NoError(t, s.Show(f.Values))
		// The area of all triangles, with those between the bodies seen from both.
		var area float64
		at := func(v uint32) [3]float64 {
			return [3]float64{float64(s.positions[3*v]), float64(s.positions[3*v+1]), float64(s.positions[3*v+2])}
		}
		for i := 0; i < len(s.triangles); i += 3 {
			a, b, c := at(s.triangles[i]), at(s.triangles[i+1]), at(s.triangles[i+2])
			u, v := [3]float64{b[0] - a[0], b[1] - a[1], b[2] - a[2]}, [3]float64{c[0] - a[0], c[1] - a[1], c[2] - a[2]}
			area += math.Sqrt(math.Pow(u[1]*v[2]-u[2]*v[1], 2)+math.Pow(u[2]*v[0]-u[0]*v[2], 2)+math.Pow(u[0]*v[1]-u[1]*v[0], 2)) / 2
		}
		want := 4*0.01*0.01 + 8*0.01*0.002
		if flat {
			want = 2 * 0.01 * 0.01
		}
		assert.InEpsilon(t, want, area, 1e-5, name)

		dir := t.TempDir()
		doc := model.New("slabs")
		doc.Parts = []model.Part{{ID: "lower"}, {ID: "upper"}}
		series := &Series{}
		for k, time := range []float64{0, 1, 2} {
			require.NoError(t, series.Add(dir, time, f.Values))
			if k == 2 {
				series.Thin()
			}
		}
		require.NoError(t, SaveFields(dir, f, s, series))
		require.NoError(t, SaveSummary(dir, &Result{Document: doc, Mesh: Mesh{Blocks: f.Cells()}, Fields: []FieldName{f.Values[0].FieldName}, Moments: series.Moments}))
		assert.NoFileExists(t, filepath.Join(dir, "moment-1-temperature.f64"), "it was left out")
		require.NoError(t, Verify(dir))
		back, err := LoadFields(dir)
		require.NoError(t, err)
		assert.Equal(t, f, back, name)
		r, err := Load(dir)
		require.NoError(t, err)
		moment, ok := r.MomentNear(1.6)
		require.True(t, ok)
		assert.Equal(t, Moment{2, 2}, moment)
		then, err := LoadMoment(dir, moment)
		require.NoError(t, err)
		assert.Equal(t, values, then.Values[0].Values)
		none, err := LoadFields(dir, "speed")
		require.NoError(t, err)
		assert.Empty(t, none.Values)

		e, err := LoadEarlier(dir)
		require.NoError(t, err)
		x := [][3]float64{{0.002, 0.003, 0.0011}, {0.0021, 0.0132, 0.0031}}
		if !flat {
			x[1][1] = 0.0032
		}
		out := make([]float64, 2)
		missing, err := e.At("temperature", "lower", x, out)
		require.NoError(t, err)
		assert.Zero(t, missing, name)
		for i, at := range x {
			if flat {
				at[2] = 0
			}
			assert.InDelta(t, 3+200*at[0]-100*at[1]+50*at[2]+float64(i), out[i], 1e-9, name)
		}
		var b bytes.Buffer
		require.NoError(t, f.WriteVTU(&b))
		assert.Contains(t, b.String(), fmt.Sprintf(`NumberOfPoints="%d" NumberOfCells="%d"`, len(values), len(f.Part)))
	}
}

// TestEarlierFieldsAreTakenUp: in the part of the same name, then in any, and what is nowhere
// is counted.
func TestEarlierFieldsAreTakenUp(t *testing.T) {
	m := slabs(t)
	doc := model.New("slabs")
	doc.Parts = []model.Part{{ID: "lower"}, {ID: "upper"}}
	e := NewEarlier(&Result{Document: doc}, fieldsOf(fem.FromMesh(m)))
	assert.True(t, e.Has("temperature"))
	assert.False(t, e.Has("speed"))
	x := [][3]float64{{0, 0, 0.001}, {0.001, 0.002, 0.002}, {0.004, 0, 0.0035}, {1, 1, 1}}
	out := []float64{1, 1, 1, 1}
	missing, err := e.At("temperature", "upper", x, out)
	require.NoError(t, err)
	assert.Equal(t, 1, missing)
	assert.InDeltaSlice(t, []float64{301, 307, 308.5, 1}, out, 1e-9)
	out = []float64{1, 1, 1, 1}
	missing, err = e.At("temperature", "lower", x, out)
	require.NoError(t, err)
	assert.Equal(t, 1, missing)
	assert.InDelta(t, 302, out[1], 1e-9, "the lower side of what both share")
	missing, err = e.At("potential", "upper", x, out)
	require.NoError(t, err)
	assert.Equal(t, 2, missing, "a field that is not everywhere")
}

// TestExportsReadBack: CSV and VTU hold every value.
func TestExportsReadBack(t *testing.T) {
	f := fieldsOf(fem.FromMesh(slabs(t)))
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
	g := fem.FromMesh(slabs(t))
	f := fieldsOf(g)
	s := NewSurface(g, g.Points(2), outside(g), sideNames, [][2]int{{0, 0}, {1, 0}}, 0)
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
	g := fem.FromMesh(slabs(t))
	points := g.Points(2)
	owner := [][2]int{{0, 0}, {1, 0}}
	moment := func(k float64) []Field {
		f := fieldsOf(g).Values
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
	held, filed := NewSurface(g, points, outside(g), sideNames, owner, 0), NewSurface(g, points, outside(g), sideNames, owner, 0)
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
	again := NewSurface(g, points, outside(g), sideNames, owner, 0)
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
