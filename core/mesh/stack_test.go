package mesh

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/shape"
)

func block(part int, w, d, x, y, z0, z1, size float64) StackBody {
	o, err := shape.Rectangle(w, d)
	if err != nil {
		panic(err)
	}
	return StackBody{Body: shape.Body{Part: part, Outline: o.Move(x, y, 0), Z0: z0, Z1: z1}, Size: size, Across: 2}
}

func facetAreaZ(m *Mesh, f *Facet) float64 {
	if f.Nodes[3] >= 0 {
		return 0
	}
	a, b, c := m.Nodes[3*f.Nodes[0]:], m.Nodes[3*f.Nodes[1]:], m.Nodes[3*f.Nodes[2]:]
	return ((b[0]-a[0])*(c[1]-a[1]) - (b[1]-a[1])*(c[0]-a[0])) / 2
}

func TestStackConservesVolumesAndNamesSides(t *testing.T) {
	bodies := []StackBody{
		block(0, 0.10, 0.06, 0, 0, 0, 0.010, 4e-3),       // a base
		block(1, 0.12, 0.01, 0, 0.01, 0.008, 0.02, 3e-3), // a bar sunk 2 mm into it, longer than it
		block(2, 0.10, 0.06, 0, 0, 0.02, 0.023, 4e-3),    // a plate on the bar
	}
	m, err := NewStack(bodies, nil)
	require.NoError(t, err)
	volume := make([]float64, 3)
	for c := range m.CellCount() {
		v := m.Size(int32(c))
		require.Positive(t, v)
		volume[m.Body[c]] += v
	}
	assert.InEpsilon(t, 0.1*0.06*0.01-0.1*0.01*0.002, volume[0], 1e-10)
	assert.InEpsilon(t, 0.12*0.01*0.012, volume[1], 1e-10)
	assert.InEpsilon(t, 0.1*0.06*0.003, volume[2], 1e-10)

	// Horizontal areas by body, side and what lies beyond.
	type key struct {
		body  int32
		side  string
		other int32
	}
	area := map[key]float64{}
	count := map[key]int{}
	for i := range m.Facets {
		f := &m.Facets[i]
		k := key{f.Body, m.Sides[f.Side], f.OtherBody}
		area[k] += facetAreaZ(m, f)
		count[k]++
		assert.Less(t, f.Cell, int32(m.CellCount()))
	}
	assert.InEpsilon(t, 0.1*0.06, area[key{2, "top", -1}], 1e-10)
	assert.InEpsilon(t, 0.1*0.01, area[key{1, "top", 2}], 1e-10)
	assert.InEpsilon(t, 0.1*0.06-0.1*0.01, area[key{0, "top", -1}], 1e-10)
	assert.InEpsilon(t, 0.1*0.01, area[key{0, "", 1}], 1e-10, "the groove floor is no side of the base's own")
	assert.InEpsilon(t, -0.1*0.06, area[key{0, "bottom", -1}], 1e-10)
	assert.Positive(t, count[key{1, "left", -1}])
	assert.Positive(t, count[key{0, "left", 1}]+count[key{0, "left", -1}])
}

func TestStackAcross(t *testing.T) {
	m, err := NewStack([]StackBody{block(0, 1, 1, 0, 0, 0, 0.01, 0.5), block(1, 1, 1, 0, 0, 0.01, 0.011, 0.5)}, nil)
	require.NoError(t, err)
	assert.Len(t, m.Levels, 5, "two cells across each thin layer")
	_, err = NewStack(nil, nil)
	assert.Error(t, err)
	_, err = NewStack([]StackBody{block(0, 1, 1, 0, 0, 0, 1, 0.01)}, &StackSettings{MaxCells: 1000})
	assert.ErrorContains(t, err, "make the cells larger")
}

// TestSectionsAreFlat: a flat mesh has cells of the plane, whose facets are edges; a cut renames
// the nodes of both.
func TestSectionsAreFlat(t *testing.T) {
	var bodies []StackBody
	for i := range 2 {
		o, err := shape.Rectangle(0.02, 0.03)
		require.NoError(t, err)
		bodies = append(bodies, StackBody{Body: shape.Body{Part: i, Outline: o.Move(0.02*float64(i), 0, 0), Z1: 0.005}, Size: 0.001, Across: 4})
	}
	m, err := NewStack(bodies, &StackSettings{Flat: true})
	require.NoError(t, err)
	assert.Equal(t, []float64{0, 0.005}, m.Levels)
	assert.Len(t, m.Blocks, 1)
	assert.Equal(t, Triangle, m.Blocks[0].Form)
	var between []int32
	for k, f := range m.Facets {
		require.NotContains(t, []string{"top", "bottom"}, m.Sides[f.Side])
		if f.Other >= 0 {
			between = append(between, int32(k))
		}
	}
	require.NotEmpty(t, between)
	before := m.NodeCount()
	m.Cut(between)
	assert.Equal(t, before+len(between)+1, m.NodeCount())
	for _, f := range m.Facets {
		require.Len(t, f.Corners(), 2)
		for _, v := range f.Corners() {
			assert.Contains(t, m.Cell(f.Cell), v)
		}
	}
}
