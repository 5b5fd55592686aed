package jobs

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/app/store"
)

// TestRunsThatDoNotFit: a run that would take more memory than it may is not begun and says so;
// begun all the same, it ends in words before the system has to end it.
func TestRunsThatDoNotFit(t *testing.T) {
	s, m := begin(t, "work")
	m.Memory = 70e6
	doc := panFloor(t)
	require.NoError(t, doc.Set("mesh/size", "0.9 mm"))
	entry, err := s.CreateModel(t.Context(), doc)
	require.NoError(t, err)
	queued, err := m.Queue(t.Context(), entry.ID, store.Wishes{})
	require.NoError(t, err)
	r := ended(t, s, queued.ID)
	assert.Equal(t, store.TooLarge, r.Status)
	assert.Regexp(t, `^with \S+ cells it would take about \S+ MB of memory, and may take 70 MB: make cells larger, or run it all the same$`, r.Message)
	assert.False(t, r.HasResult)
	queued, err = m.Queue(t.Context(), entry.ID, store.Wishes{Anyway: true})
	require.NoError(t, err)
	r = ended(t, s, queued.ID)
	assert.Equal(t, store.Failed, r.Status)
	assert.Regexp(t, `^out of memory at \S+ cells: the run took 0\.1 GB and may take 0\.1 GB; make cells larger, or let runs take more`, r.Message)
	assert.NoDirExists(t, s.RunTemp(r.ID))
	assert.Positive(t, memoryLeft(), "what is left is known here")
	m.Memory = 0
	require.NoError(t, doc.Set("mesh/size", "6 mm"))
	entry, err = s.CreateModel(t.Context(), doc)
	require.NoError(t, err)
	queued, err = m.Queue(t.Context(), entry.ID, store.Wishes{})
	require.NoError(t, err)
	assert.Equal(t, "settled", ended(t, s, queued.ID).Status)
}
