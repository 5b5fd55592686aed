package mesh

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAMeshIsStopped when nobody wants it, before it is refined, and is whole otherwise.
func TestAMeshIsStopped(t *testing.T) {
	bodies := []StackBody{rect(t, 0.4, 0.3, 0, 0, 0, 0.01, 0.002)}
	stop := make(chan struct{})
	m, err := NewStack(bodies, &StackSettings{Stop: stop})
	require.NoError(t, err)
	assert.Greater(t, m.CellCount(), 10_000)
	close(stop)
	_, err = NewStack(bodies, &StackSettings{Stop: stop})
	assert.ErrorIs(t, err, ErrStopped)
}
