package result

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/fem"
	"saltkettle/core/mesh"
)

// TestExtremesBetweenNodes: a field of order 2 is greatest and least where it is, and the size of a vector never below nothing.
func TestExtremesBetweenNodes(t *testing.T) {
	e := fem.NewElement(mesh.Bar, 2)
	f := &Fields{Blocks: []Block{{Element: e, Cells: []int32{0, 1, 2}}}}
	for _, n := range e.Nodes {
		f.Nodes = append(f.Nodes, n[0], 0, 0)
	}
	steep := make([]float64, 3) // 0 at one end and in the middle, 1 at the other: −1/8 between
	for i, n := range e.Nodes {
		steep[i] = n[0] * (n[0] + 1) / 2
	}
	f.Values = []Field{{FieldName: FieldName{Name: "potential"}, Values: steep}, {FieldName: FieldName{Name: "velocity"}, Values: steep}, {FieldName: FieldName{Name: "velocity_x"}, Values: steep}}
	least, greatest, ok := f.ExtremesOf(&f.Values[0])
	require.True(t, ok)
	assert.InDelta(t, -1./8, least.Value, 1e-7)
	assert.InDelta(t, -0.5, least.At[0], 1e-3)
	assert.Equal(t, 1., greatest.Value)
	least, _, _ = f.ExtremesOf(&f.Values[1])
	assert.Zero(t, least.Value)
}
