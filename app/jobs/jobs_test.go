package jobs

import (
	"context"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/result"
)

// TestMain lets the test binary play the worker, or one that misbehaves.
func TestMain(m *testing.M) {
	switch os.Getenv("KETTLE_TEST_WORKER") {
	case "work":
		if err := Work(context.Background(), os.Stdin, os.Stdout); err != nil {
			os.Exit(1)
		}
		os.Exit(0)
	case "die":
		_, _ = os.Stderr.WriteString("fatal error: out of memory\n")
		os.Exit(2)
	case "hang":
		// Takes its task and waits until it is told to stop.
		_, _ = io.Copy(io.Discard, os.Stdin)
		os.Exit(0)
	}
	os.Exit(m.Run())
}

func panFloor(t *testing.T) *model.Document {
	t.Helper()
	data, err := os.ReadFile(filepath.Join("..", "..", "examples", "pan-floor.kettle.json"))
	require.NoError(t, err)
	doc, err := model.Parse(data)
	require.NoError(t, err)
	require.NoError(t, doc.Set("mesh/size", "6 mm"))
	return doc
}

// begin starts a manager whose workers behave as the mode says.
func begin(t *testing.T, mode string) (*store.Store, *Manager) {
	t.Helper()
	t.Setenv("KETTLE_TEST_WORKER", mode)
	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	m := New(s, []string{os.Args[0]}, slog.New(slog.DiscardHandler))
	ctx, cancel := context.WithCancel(context.Background())
	require.NoError(t, m.Start(ctx))
	t.Cleanup(func() {
		cancel()
		m.Wait()
		s.Close()
	})
	return s, m
}

// ended waits until a run is not active any more.
func ended(t *testing.T, s *store.Store, id uint) store.Run {
	t.Helper()
	var r store.Run
	require.Eventually(t, func() bool {
		var err error
		r, err = s.Run(t.Context(), id)
		return err == nil && !r.Active()
	}, time.Minute, 5*time.Millisecond)
	return r
}

func TestRunEndsWithItsResult(t *testing.T) {
	s, m := begin(t, "work")
	ctx := t.Context()
	entry, err := s.CreateModel(ctx, panFloor(t))
	require.NoError(t, err)
	changed, done := m.Watch(entry.ID)
	defer done()
	queued, err := m.Queue(ctx, entry.ID, store.Wishes{})
	require.NoError(t, err)
	r := ended(t, s, queued.ID)
	assert.Equal(t, string(result.Settled), r.Status, r.Message)
	assert.Less(t, r.Closure, 1e-8)
	assert.Positive(t, r.Cells)
	assert.Len(t, changed, 1, "watchers are told")
	full, err := result.Load(s.RunDir(r.ID))
	require.NoError(t, err)
	assert.Equal(t, "Pan floor heater", full.Document.Name)
	fields, err := result.LoadFields(s.RunDir(r.ID))
	require.NoError(t, err)
	assert.Greater(t, len(fields.Values[0].Values), r.Nodes, "where bodies meet each has its nodes")
	readings, err := s.Readings(ctx, r.ID)
	require.NoError(t, err)
	require.Len(t, readings, 6)
	assert.InEpsilon(t, 340, readings[3].Value, 1e-8)
}

func TestFaultsOfTheModelAreSaid(t *testing.T) {
	s, m := begin(t, "work")
	doc := panFloor(t)
	doc.Conditions = doc.Conditions[:1]
	entry, err := s.CreateModel(t.Context(), doc)
	require.NoError(t, err)
	queued, err := m.Queue(t.Context(), entry.ID, store.Wishes{})
	require.NoError(t, err)
	r := ended(t, s, queued.ID)
	assert.Equal(t, store.Failed, r.Status)
	assert.Contains(t, r.Message, "heat has no way out of the hearth brick")
	assert.False(t, r.HasResult)
}

func TestWorkerThatDies(t *testing.T) {
	s, m := begin(t, "die")
	entry, err := s.CreateModel(t.Context(), panFloor(t))
	require.NoError(t, err)
	queued, err := m.Queue(t.Context(), entry.ID, store.Wishes{})
	require.NoError(t, err)
	r := ended(t, s, queued.ID)
	assert.Equal(t, store.Failed, r.Status)
	assert.Contains(t, r.Message, "out of memory")
	assert.NoDirExists(t, s.RunTemp(r.ID))
}

func TestStopRunningAndQueued(t *testing.T) {
	s, m := begin(t, "hang")
	entry, err := s.CreateModel(t.Context(), panFloor(t))
	require.NoError(t, err)
	first, err := m.Queue(t.Context(), entry.ID, store.Wishes{})
	require.NoError(t, err)
	second, err := m.Queue(t.Context(), entry.ID, store.Wishes{})
	require.NoError(t, err)
	require.Eventually(t, func() bool { _, ok := m.Current(first.ID); return ok }, 5*time.Second, time.Millisecond)
	require.NoError(t, m.Stop(t.Context(), second))
	r := ended(t, s, second.ID)
	assert.Equal(t, string(result.Stopped), r.Status)
	require.Eventually(t, func() bool {
		require.NoError(t, m.Stop(t.Context(), first))
		r, err := s.Run(t.Context(), first.ID)
		return err == nil && !r.Active()
	}, 5*time.Second, 5*time.Millisecond)
	r, err = s.Run(t.Context(), first.ID)
	require.NoError(t, err)
	assert.Equal(t, string(result.Stopped), r.Status)
}

// warming is a small floor of the pan in time, with a tolerance that takes many steps.
func warming(t *testing.T) *model.Document {
	t.Helper()
	doc := panFloor(t)
	for place, value := range map[string]string{"run/kind": "transient", "run/end": "20 min", "run/start": "20 °C", "run/tolerance": "1e-5", "mesh/size": "30 mm", "mesh/across": "1"} {
		require.NoError(t, doc.Set(place, value))
	}
	return doc
}

// TestRunInTimeGoesOn: when the server ends in the middle of a run the next one goes on with it
// where it was, and where somebody stops it it has a result, from which another run can go on.
func TestRunInTimeGoesOn(t *testing.T) {
	before := checkpoints
	checkpoints = 50 * time.Millisecond
	t.Cleanup(func() { checkpoints = before })
	t.Setenv("KETTLE_TEST_WORKER", "work")
	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	entry, err := s.CreateModel(t.Context(), warming(t))
	require.NoError(t, err)
	serve := func() (*Manager, func()) {
		m := New(s, []string{os.Args[0]}, slog.New(slog.DiscardHandler))
		ctx, cancel := context.WithCancel(context.Background())
		require.NoError(t, m.Start(ctx))
		return m, func() { cancel(); m.Wait() }
	}
	reaches := func(m *Manager, run store.Run, at float64) {
		t.Helper()
		require.Eventually(t, func() bool {
			p, ok := m.Current(run.ID)
			return ok && p.Event.Time > at
		}, time.Minute, time.Millisecond)
	}
	m, end := serve()
	first, err := m.Queue(t.Context(), entry.ID, store.Wishes{})
	require.NoError(t, err)
	reaches(m, first, 1)
	end()
	r, err := s.Run(t.Context(), first.ID)
	require.NoError(t, err)
	assert.Equal(t, store.Queued, r.Status, r.Message)
	assert.Greater(t, r.Reached, 1.)

	m, end = serve()
	defer func() { end() }()
	reaches(m, first, r.Reached+1)
	p, _ := m.Current(first.ID)
	assert.Greater(t, p.Event.Time, r.Reached)
	require.NoError(t, m.Stop(t.Context(), first))
	r = ended(t, s, first.ID)
	assert.Equal(t, string(result.Stopped), r.Status, r.Message)
	assert.Contains(t, r.Message, "after ")
	assert.True(t, r.HasResult)
	assert.NotZero(t, r.Reached)

	second, err := m.Queue(t.Context(), entry.ID, store.Wishes{GoesOn: first.ID})
	require.NoError(t, err)
	r = ended(t, s, second.ID)
	assert.Equal(t, string(result.Settled), r.Status, r.Message)
	assert.Zero(t, r.Reached)
	whole, err := result.Load(s.RunDir(second.ID))
	require.NoError(t, err)
	assert.Zero(t, whole.History.Times[0])
	assert.InDelta(t, 1200, whole.History.Times[len(whole.History.Times)-1], 1e-9)
	assert.NoFileExists(t, s.RunDir(second.ID)+"/checkpoint.bin")
}
