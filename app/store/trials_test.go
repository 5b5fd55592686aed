package store

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/result"
)

func TestSeriesSurvivesAndCounts(t *testing.T) {
	ctx := t.Context()
	dir := t.TempDir()
	s := open(t, dir)
	m, err := s.CreateModel(ctx, model.New("Test pan"))
	require.NoError(t, err)
	first, err := s.QueueSeries(ctx, m.ID, "t1", 3)
	require.NoError(t, err)
	second, err := s.QueueSeries(ctx, m.ID, "t1", 3)
	require.NoError(t, err)
	assert.Equal(t, []int{1, 2}, []int{first.Number, second.Number})

	next, err := s.NextSeries(ctx)
	require.NoError(t, err)
	assert.Equal(t, first.ID, next.ID)
	assert.Equal(t, Running, next.Status)
	reading := []result.Reading{{Key: "r1", Value: 300, Unit: "K"}}
	require.NoError(t, s.AddTrial(ctx, Trial{SeriesID: first.ID, Place: 1, Status: string(result.Settled)}, reading))
	require.NoError(t, s.AddTrial(ctx, Trial{SeriesID: first.ID, Place: 0, Status: string(result.NotSettled)}, reading))
	require.NoError(t, s.SeriesTook(ctx, first.ID, 1.5))
	require.NoError(t, s.Close())

	// After a restart the series under way is the next one still.
	s = open(t, dir)
	next, err = s.NextSeries(ctx)
	require.NoError(t, err)
	assert.Equal(t, first.ID, next.ID)
	assert.Equal(t, 1.5, next.Seconds)
	list, err := s.Trials(ctx, first.ID)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, reading, list[1].Readings())
	assert.False(t, list[0].Counts(), "it did not settle")
	assert.True(t, list[1].Counts())

	before, err := s.ModelSeries(ctx, m.ID)
	require.NoError(t, err)
	require.Len(t, before, 2)
	assert.Equal(t, []int{2, 0}, []int{before[0].Made, before[1].Made})
	yes := true
	require.NoError(t, s.KeepTrial(ctx, first.ID, 0, &yes))
	assert.ErrorIs(t, s.KeepTrial(ctx, first.ID, 2, &yes), ErrNotFound)
	after, err := s.ModelSeries(ctx, m.ID)
	require.NoError(t, err)
	assert.NotEqual(t, before[0].Kept, after[0].Kept, "pages see that something changed")
	list, err = s.Trials(ctx, first.ID)
	require.NoError(t, err)
	assert.True(t, list[0].Counts(), "overruled by hand")

	require.NoError(t, s.MarkSeries(ctx, first.ID, SeriesDone, ""))
	next, err = s.NextSeries(ctx)
	require.NoError(t, err)
	assert.Equal(t, second.ID, next.ID)
	last, err := s.LastSeries(ctx, m.ID, "t1")
	require.NoError(t, err)
	assert.Equal(t, second.ID, last.ID)
	_, err = s.LastSeries(ctx, m.ID, "t9")
	assert.ErrorIs(t, err, ErrNotFound)
}
