package jobs

import (
	"context"
	"log/slog"
	"math"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/result"
)

// fewTrials is the coarse pan floor with two trials.
func fewTrials(t *testing.T) *model.Document {
	doc := panFloor(t)
	require.NoError(t, doc.RemoveItem("trials/t1/vary/1"))
	require.NoError(t, doc.Set("trials/t1/vary/2/count", "2"))
	return doc
}

// queuedTrials queues them with workers that do as they are told.
func queuedTrials(t *testing.T, worker string) (*store.Store, *Manager, store.Series) {
	s, m := begin(t, worker)
	entry, err := s.CreateModel(t.Context(), fewTrials(t))
	require.NoError(t, err)
	series, err := m.QueueTrials(t.Context(), entry.ID, "t1", 2, nil)
	require.NoError(t, err)
	return s, m, series
}

func TestTrialsAreMade(t *testing.T) {
	s, _, series := queuedTrials(t, "work")
	ctx := t.Context()
	require.Eventually(t, func() bool {
		now, err := s.Series(ctx, series.ID)
		return err == nil && now.Status == store.SeriesDone
	}, 2*time.Minute, 10*time.Millisecond)
	made, err := s.Trials(ctx, series.ID)
	require.NoError(t, err)
	require.Len(t, made, 2)
	var spread, mass []float64
	for _, x := range made {
		assert.Equal(t, string(result.Settled), x.Status, x.Message)
		list := x.Readings()
		require.Len(t, list, 6)
		spread, mass = append(spread, list[0].Value), append(mass, list[4].Value)
	}
	assert.Less(t, spread[1], spread[0], "a thicker floor is more even")
	assert.InEpsilon(t, 2.0, mass[1]/mass[0], 1e-9)
	assert.NoDirExists(t, s.RunDir(1), "trials leave no files")
}

func TestStoppedTrialsGoOn(t *testing.T) {
	s, m, series := queuedTrials(t, "hang")
	ctx := t.Context()
	status := func() string {
		now, err := s.Series(ctx, series.ID)
		require.NoError(t, err)
		return now.Status
	}
	require.Eventually(t, func() bool { return len(m.Busy(series.ID)) == 1 }, 10*time.Second, time.Millisecond)
	require.NoError(t, m.StopSeries(ctx, series))
	require.Eventually(t, func() bool { return m.Busy(series.ID) == nil }, 10*time.Second, time.Millisecond)
	assert.Equal(t, store.SeriesStopped, status())
	made, err := s.Trials(ctx, series.ID)
	require.NoError(t, err)
	assert.Empty(t, made, "a trial that was broken off is made again")
	require.NoError(t, m.GoOn(ctx, series))
	require.Eventually(t, func() bool { return len(m.Busy(series.ID)) == 1 }, 10*time.Second, time.Millisecond)
	assert.Equal(t, store.Running, status())
}

// TestTrialsThatAreChosen are made alone, then the others; their fields are kept where the set asks for it, and deleted with the next series.
func TestTrialsThatAreChosen(t *testing.T) {
	s, m := begin(t, "work")
	ctx := t.Context()
	doc := fewTrials(t)
	doc.Trials[0].Fields = true
	entry, err := s.CreateModel(ctx, doc)
	require.NoError(t, err)
	series, err := m.QueueTrials(ctx, entry.ID, "t1", 2, []int{1})
	require.NoError(t, err)
	ended := func() []store.Trial {
		require.Eventually(t, func() bool {
			now, err := s.Series(ctx, series.ID)
			return err == nil && now.Status == store.SeriesDone
		}, 2*time.Minute, 10*time.Millisecond)
		made, err := s.Trials(ctx, series.ID)
		require.NoError(t, err)
		return made
	}
	made := ended()
	require.Len(t, made, 1)
	assert.Equal(t, 1, made[0].Place)
	runs, err := s.TrialRuns(ctx, series.ID)
	require.NoError(t, err)
	require.Len(t, runs, 1)
	assert.Positive(t, s.RunBytes(runs[0].ID))
	tried, err := s.RunDocument(ctx, runs[0])
	require.NoError(t, err)
	res, err := result.Load(s.RunDir(runs[0].ID))
	require.NoError(t, err)
	assert.Equal(t, tried.Parameters, res.Document.Parameters)
	assert.NotEqual(t, doc.Parameters, tried.Parameters)
	list, err := s.Runs(ctx, entry.ID, 10)
	require.NoError(t, err)
	assert.Empty(t, list, "trials are no runs of the user's")

	require.NoError(t, m.MakeMore(series, func() error { return s.WantMore(ctx, series.ID, nil) }))
	assert.Len(t, ended(), 2)
	_, err = m.QueueTrials(ctx, entry.ID, "t1", 2, nil)
	require.NoError(t, err)
	assert.NoDirExists(t, s.RunDir(runs[0].ID))
}

// TestASearchAddsTrials of its own until what it predicted comes true, and a restart in between loses nothing.
func TestASearchAddsTrials(t *testing.T) {
	s, m := begin(t, "work")
	ctx := t.Context()
	doc := panFloor(t)
	doc.Trials = []model.TrialSet{{ID: "t1", Name: "thickness", Vary: []model.Vary{{ID: "1", Parameter: "t", From: "4 mm", To: "10 mm", Count: "3"}},
		Goals: []model.Goal{{ID: "1", Want: model.Near, Reading: "r5", Target: "0.55 kg"}}, Search: model.Search{Most: "6"}}}
	entry, err := s.CreateModel(ctx, doc)
	require.NoError(t, err)
	series, err := m.QueueTrials(ctx, entry.ID, "t1", 3, nil)
	require.NoError(t, err)
	done := func() bool {
		now, err := s.Series(ctx, series.ID)
		return err == nil && now.Status == store.SeriesDone
	}
	require.Eventually(t, done, 2*time.Minute, 10*time.Millisecond)
	require.NoError(t, m.MakeMore(series, func() error { return s.Search(ctx, series.ID) }))
	require.Eventually(t, done, 2*time.Minute, 10*time.Millisecond)
	now, err := s.Series(ctx, series.ID)
	require.NoError(t, err)
	made, err := s.Trials(ctx, series.ID)
	require.NoError(t, err)
	require.Greater(t, len(now.Proposals()), 1)
	require.Len(t, made, 3+len(now.Proposals()))
	assert.Regexp(t, "as predicted|has been made", now.Message)
	best := math.Inf(1)
	for i := range made {
		best = min(best, math.Abs(made[i].Outcome().Readings["r5"]-0.55))
	}
	assert.Less(t, best, 2e-3)
	for _, p := range now.Proposals() {
		assert.NotZero(t, p.Predicted["r5"].Value)
	}
}

func TestATrialThatFailsSaysSo(t *testing.T) {
	s, _, series := queuedTrials(t, "die")
	ctx := t.Context()
	require.Eventually(t, func() bool {
		made, err := s.Trials(ctx, series.ID)
		return err == nil && len(made) == 2
	}, time.Minute, 10*time.Millisecond)
	made, err := s.Trials(ctx, series.ID)
	require.NoError(t, err)
	assert.Equal(t, store.Failed, made[0].Status)
	assert.Contains(t, made[0].Message, "out of memory")
	assert.False(t, made[0].Counts())
}

// TestTrialsSurviveTheServer: what was finished when a server ended stays as it was, what was at hand is made anew, and a search goes on where it was.
func TestTrialsSurviveTheServer(t *testing.T) {
	t.Setenv("KETTLE_TEST_WORKER", "work")
	dir, ctx := t.TempDir(), t.Context()
	begin := func() (*store.Store, *Manager, func()) {
		s, err := store.Open(dir)
		require.NoError(t, err)
		m := New(s, []string{os.Args[0]}, slog.New(slog.DiscardHandler))
		inner, cancel := context.WithCancel(context.Background())
		require.NoError(t, m.Start(inner))
		return s, m, func() {
			cancel()
			m.Wait()
			s.Close()
		}
	}
	s, m, end := begin()
	doc := panFloor(t)
	doc.Trials = []model.TrialSet{{ID: "t1", Name: "floor", Vary: []model.Vary{{ID: "1", Parameter: "t", From: "4 mm", To: "10 mm", Count: "5"}}, Goals: []model.Goal{{ID: "1", Want: model.Near, Reading: "r5", Target: "0.5 kg"}}}}
	entry, err := s.CreateModel(ctx, doc)
	require.NoError(t, err)
	series, err := m.QueueTrials(ctx, entry.ID, "t1", 5, nil)
	require.NoError(t, err)
	made := func(s *store.Store) []store.Trial {
		list, err := s.Trials(ctx, series.ID)
		require.NoError(t, err)
		return list
	}
	require.Eventually(t, func() bool { return len(made(s)) >= 2 }, time.Minute, time.Millisecond)
	end()
	s, m, end = begin()
	before := made(s)
	require.GreaterOrEqual(t, len(before), 2)
	done := func() bool {
		now, err := s.Series(ctx, series.ID)
		return err == nil && now.Status == store.SeriesDone
	}
	require.Eventually(t, done, 2*time.Minute, 10*time.Millisecond)
	after := made(s)
	require.Len(t, after, 5)
	for i := range before {
		assert.Equal(t, before[i], after[before[i].Place], "it was not made again")
	}
	require.NoError(t, m.MakeMore(series, func() error { return s.Search(ctx, series.ID) }))
	require.Eventually(t, func() bool { return len(made(s)) > 5 }, time.Minute, time.Millisecond)
	end()
	s, _, end = begin()
	defer end()
	require.Eventually(t, done, 2*time.Minute, 10*time.Millisecond)
	now, err := s.Series(ctx, series.ID)
	require.NoError(t, err)
	assert.Len(t, made(s), 5+len(now.Proposals()))
}
