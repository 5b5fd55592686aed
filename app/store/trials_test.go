package store

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/result"
	"saltkettle/core/trial"
)

func TestSeriesSurvivesAndCounts(t *testing.T) {
	ctx := t.Context()
	dir := t.TempDir()
	s := open(t, dir)
	m, err := s.CreateModel(ctx, model.New("Test pan"))
	require.NoError(t, err)
	first, err := s.QueueSeries(ctx, m.ID, "t1", 3, nil)
	require.NoError(t, err)
	second, err := s.QueueSeries(ctx, m.ID, "t1", 3, nil)
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
	assert.NotEqual(t, before[0].Touched, after[0].Touched, "pages see that something changed")
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

// TestWhatPeopleDoToTrials: marks, values by hand with a reason, and further trials that are wanted.
func TestWhatPeopleDoToTrials(t *testing.T) {
	ctx := t.Context()
	s := open(t, t.TempDir())
	m, err := s.CreateModel(ctx, model.New("Test pan"))
	require.NoError(t, err)
	series, err := s.QueueSeries(ctx, m.ID, "t1", 5, []int{0, 3})
	require.NoError(t, err)
	assert.Equal(t, []int{0, 3}, series.Places())
	require.NoError(t, s.AddTrial(ctx, Trial{SeriesID: series.ID, Place: 0, Status: string(result.NotSettled)}, []result.Reading{{Key: "r1", Value: 300}, {Key: "r2", Value: 5}}))
	require.NoError(t, s.AddTrial(ctx, Trial{SeriesID: series.ID, Place: 3, Status: Failed}, nil))

	require.NoError(t, s.MarkTrials(ctx, series.ID, []int{0, 3}, true))
	require.NoError(t, s.MarkTrials(ctx, series.ID, []int{3}, false))
	require.NoError(t, s.MarkTrials(ctx, series.ID, []int{4}, true), "what is not made yet can be marked")
	assert.ErrorIs(t, s.MarkTrials(ctx, series.ID, []int{5}, true), ErrNotFound)
	var refused *RefusedError
	assert.ErrorAs(t, s.SetByHand(ctx, series.ID, 0, HandValues{Values: map[string]float64{"r1": 310}}), &refused, "no reason")
	require.NoError(t, s.SetByHand(ctx, series.ID, 0, HandValues{map[string]float64{"r1": 310}, "measured"}))
	list, err := s.Trials(ctx, series.ID)
	require.NoError(t, err)
	now, err := s.Series(ctx, series.ID)
	require.NoError(t, err)
	assert.Equal(t, []int{0, 4}, now.Marked())
	o := list[0].Outcome()
	assert.True(t, o.Counts, "what is set by hand counts")
	assert.Equal(t, map[string]float64{"r1": 310, "r2": 5}, o.Readings)
	assert.Equal(t, 300.0, list[0].Readings()[0].Value, "the computed value stays")
	require.NoError(t, s.SetByHand(ctx, series.ID, 0, HandValues{}))
	list, err = s.Trials(ctx, series.ID)
	require.NoError(t, err)
	assert.Nil(t, list[0].Hand())
	assert.False(t, list[0].Counts())

	assert.ErrorAs(t, s.WantMore(ctx, series.ID, nil), &refused, "it is under way")
	require.NoError(t, s.MarkSeries(ctx, series.ID, SeriesDone, ""))
	require.NoError(t, s.WantMore(ctx, series.ID, []int{3, 1, 9}))
	series, err = s.Series(ctx, series.ID)
	require.NoError(t, err)
	assert.Equal(t, []int{0, 1, 3}, series.Places())
	list, err = s.Trials(ctx, series.ID)
	require.NoError(t, err)
	assert.Len(t, list, 1, "what failed is made again")
	require.NoError(t, s.AddProposals(ctx, series.ID, []trial.Proposal{{Values: []float64{1, 2}, Why: "asked"}}))
	series, err = s.Series(ctx, series.ID)
	require.NoError(t, err)
	assert.Equal(t, []int{0, 1, 3, 5}, series.Places())
	assert.Equal(t, "asked", series.Proposals()[0].Why)
	assert.ErrorAs(t, s.AddProposals(ctx, series.ID, make([]trial.Proposal, model.MaxTrials)), &refused)
}
