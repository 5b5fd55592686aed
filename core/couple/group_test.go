package couple

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/mesh"
	"saltkettle/core/shape"
)

// pair is two boxes of 20 × 10 × 6 mm side by side.
func pair(t *testing.T) *mesh.Mesh {
	t.Helper()
	box, err := shape.Rectangle(0.02, 0.01)
	require.NoError(t, err)
	var list []mesh.StackBody
	for i := range 2 {
		list = append(list, mesh.StackBody{Body: shape.Body{Outline: box.Move(0.02*float64(i), 0, 0), Z0: 0, Z1: 0.006}, Size: 0.003, Across: 2})
	}
	m, err := mesh.NewStack(list, nil)
	require.NoError(t, err)
	return m
}

// facets are those for which pick is true.
func facets(m *mesh.Mesh, pick func(f *mesh.Facet) bool) (list []int32) {
	for k := range m.Facets {
		if pick(&m.Facets[k]) {
			list = append(list, int32(k))
		}
	}
	return list
}

// TestGroupsMeasureTheirDevice: volumes and areas are those of the device, of both orders
// and with a measure of its own.
func TestGroupsMeasureTheirDevice(t *testing.T) {
	for order := 1; order <= 2; order++ {
		for _, deep := range []float64{1, 3} {
			m := pair(t)
			outer := facets(m, func(f *mesh.Facet) bool { return f.Other < 0 })
			set := &Settings{Order: order, Facets: outer, Measure: func([3]float64) float64 { return deep }}
			g, err := New(m, 2, []Field{{Name: "u"}}, set)
			require.NoError(t, err)
			for _, v := range g.Volume {
				assert.InEpsilon(t, deep*0.02*0.01*0.006, v, 1e-12)
			}
			assert.InEpsilon(t, deep*2*(0.04*0.01+0.04*0.006+0.01*0.006), g.AreaOf(outer), 1e-12)
			assert.InEpsilon(t, 2*deep*0.02*0.01*0.006, g.VolumeOf([]int32{0, 1}), 1e-12)
		}
	}
}

// TestFlatGroupsAreOfTriangles: a flat mesh is seen from above; its upper nodes have the unknowns
// of the lower ones, and its measure is that of the device, also along joints and of order 2.
func TestFlatGroupsAreOfTriangles(t *testing.T) {
	for order := 1; order <= 2; order++ {
		for _, jumps := range []bool{false, true} {
			box, err := shape.Rectangle(0.02, 0.01)
			require.NoError(t, err)
			var list []mesh.StackBody
			for i := range 2 {
				list = append(list, mesh.StackBody{Body: shape.Body{Outline: box.Move(0.01+0.02*float64(i), 0, 0), Z0: 0, Z1: 1}, Size: 0.003, Across: 2})
			}
			m, err := mesh.NewStack(list, &mesh.StackSettings{Flat: true})
			require.NoError(t, err)
			outer := facets(m, func(f *mesh.Facet) bool { return f.Other < 0 })
			set := &Settings{Order: order, Facets: outer, Measure: fem.Around}
			field := Field{Name: "u"}
			if jumps {
				set.Joints = facets(m, func(f *mesh.Facet) bool { return f.Other >= 0 })
				require.NotEmpty(t, set.Joints)
				field.Jumps = set.Joints
			}
			g, err := New(m, 2, []Field{field}, set)
			require.NoError(t, err)
			// Rings about the axis x = 0, 10 mm high.
			ring := func(inner, outer float64) float64 { return math.Pi * (outer*outer - inner*inner) * 0.01 }
			assert.InEpsilon(t, ring(0, 0.02), g.Volume[0], 1e-12)
			assert.InEpsilon(t, ring(0.02, 0.04), g.Volume[1], 1e-12)
			assert.InEpsilon(t, 2*math.Pi*(0.04*0.04+0.04*0.01), g.AreaOf(outer), 1e-12, "both discs and the outer cylinder")
			most := int32(0)
			for c := range m.CellCount() {
				for _, v := range m.Cell(int32(c)) {
					e := g.System.Equation(0, 0, v)
					require.GreaterOrEqual(t, e, int32(0))
					most = max(most, e)
				}
			}
			if order == 1 {
				assert.Equal(t, m.NodeCount(), g.System.N)
				assert.Equal(t, int32(g.System.N-1), most)
			}
		}
	}
}

// TestFieldsHangTogether: a field is fixed if every connected piece of it is, by a value that
// is held or a facet that anchors it; a jump parts it no more than a pair that acts across.
func TestFieldsHangTogether(t *testing.T) {
	m := pair(t)
	left := facets(m, func(f *mesh.Facet) bool { return f.Body == 0 && m.Sides[f.Side] == "left" })
	between := facets(m, func(f *mesh.Facet) bool { return f.Other >= 0 })
	require.NotEmpty(t, left)
	require.NotEmpty(t, between)
	only := func(body int32) map[int32]bool { return map[int32]bool{body: true} }
	for name, c := range map[string]struct {
		field   Field
		anchors []int32
		want    []int32
	}{
		"held":             {Field{Held: []Held{{Facets: left, Value: formula.Fixed(1), Least: math.Inf(-1)}}}, nil, nil},
		"anchored":         {Field{}, left, nil},
		"nothing":          {Field{}, nil, []int32{0, 1}},
		"in one body":      {Field{Bodies: only(0)}, left, nil},
		"in the other one": {Field{Bodies: only(1)}, left, []int32{1}},
	} {
		g, err := New(pair(t), 2, []Field{c.field}, &Settings{Facets: left})
		require.NoError(t, err, name)
		err = g.Fixed(0, c.anchors, nil)
		if c.want == nil {
			assert.NoError(t, err, name)
			continue
		}
		var loose *LooseError
		require.ErrorAs(t, err, &loose, name)
		assert.Equal(t, c.want, loose.Bodies, name)
	}
	// Where the field may jump, the contact still ties its sides together.
	g, err := New(m, 2, []Field{{Jumps: between}}, &Settings{Facets: left, Joints: between})
	require.NoError(t, err)
	assert.NoError(t, g.Fixed(0, left, nil))
	single, err := New(pair(t), 2, []Field{{}}, &Settings{Facets: left})
	require.NoError(t, err)
	assert.Greater(t, g.System.N, single.System.N, "the nodes of the contact have two values")
	even, err := New(pair(t), 2, []Field{{}}, &Settings{Facets: left, Joints: between})
	require.NoError(t, err)
	assert.Equal(t, single.System.N, even.System.N, "without a jump they share one")
}
