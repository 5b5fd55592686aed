package mesh

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAMeshIsStopped when nobody wants it, wherever it is, and is whole otherwise; how far it is is told.
func TestAMeshIsStopped(t *testing.T) {
	bodies := []StackBody{rect(t, 0.4, 0.3, 0, 0, 0, 0.01, 0.002)}
	var told []int
	m, err := NewStack(bodies, &StackSettings{Watch: func(n int) bool { told = append(told, n); return false }})
	require.NoError(t, err)
	assert.Greater(t, m.CellCount(), 10_000)
	require.Greater(t, len(told), 3)
	assert.True(t, slices.IsSorted(told[:len(told)-1]))
	assert.Equal(t, len(m.Plan.Triangles), told[len(told)-1])
	for _, most := range []int{0, told[1], len(m.Plan.Triangles)} {
		_, err = NewStack(bodies, &StackSettings{Watch: func(n int) bool { return n >= most }})
		assert.ErrorIs(t, err, ErrStopped)
	}
}
