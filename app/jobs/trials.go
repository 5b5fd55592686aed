package jobs

import (
	"cmp"
	"context"
	"fmt"
	"runtime"
	"slices"
	"sync"
	"time"

	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/result"
	"saltkettle/core/solve"
)

// SeriesProgress is the state of a series that is under way.
type SeriesProgress struct {
	Series store.Series
	Busy   []int // the trials at hand

	stop    func()
	stopped bool
}

// smallTrial is up to how many unknowns a run leaves cores idle, so that trials are made
// side by side, each on one core.
const smallTrial = 60000

// QueueTrials begins a series of a trial set of a model.
func (m *Manager) QueueTrials(ctx context.Context, modelID uint, setID string, count int) (store.Series, error) {
	s, err := m.store.QueueSeries(ctx, modelID, setID, count)
	if err == nil {
		m.Notify(modelID)
		m.Wake()
	}
	return s, err
}

// GoOn lets a series that was stopped make the trials that it lacks.
func (m *Manager) GoOn(ctx context.Context, s store.Series) error {
	err := m.store.MarkSeries(ctx, s.ID, store.Queued, "")
	if err == nil {
		m.Notify(s.ModelID)
		m.Wake()
	}
	return err
}

// StopSeries ends a series; what it has stays.
func (m *Manager) StopSeries(ctx context.Context, s store.Series) error {
	m.mu.Lock()
	if m.series != nil && m.series.Series.ID == s.ID {
		m.series.stopped = true
		m.series.stop()
	}
	m.mu.Unlock()
	err := m.store.MarkSeries(ctx, s.ID, store.SeriesStopped, "stopped")
	m.Notify(s.ModelID)
	return err
}

// Busy are the trials of a series that are being made.
func (m *Manager) Busy(id uint) []int {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.series == nil || m.series.Series.ID != id {
		return nil
	}
	return slices.Clone(m.series.Busy)
}

// nextTrials makes the next trials of the oldest series and says whether there were any.
func (m *Manager) nextTrials(ctx context.Context) bool {
	s, err := m.store.NextSeries(ctx)
	if err != nil {
		if !store.IsNotFound(err) && ctx.Err() == nil {
			m.log.Error("the trials cannot be read", "error", err)
		}
		return false
	}
	if err := m.makeTrials(ctx, s); err != nil && ctx.Err() == nil {
		m.log.Error("trials could not be made", "series", s.ID, "error", err)
		if err := m.store.MarkSeries(ctx, s.ID, store.SeriesStopped, err.Error()); err != nil {
			m.log.Error("a series could not be stopped", "series", s.ID, "error", err)
			return false
		}
		m.Notify(s.ModelID)
	}
	return ctx.Err() == nil
}

// makeTrials makes as many trials of a series as fit side by side.
func (m *Manager) makeTrials(ctx context.Context, s store.Series) error {
	doc, err := m.store.Document(ctx, s.ModelID, s.Revision)
	if err != nil {
		return err
	}
	resolved, findings := model.Resolve(doc, physics.Catalog())
	if list := model.Blocking(findings); len(list) > 0 {
		return fmt.Errorf("the model is not ready: %s", words(list[:1]))
	}
	i := slices.IndexFunc(resolved.Trials, func(t model.ResolvedTrials) bool { return t.ID == s.SetID })
	if i < 0 || !resolved.Trials[i].Good {
		return fmt.Errorf("the trial set %s cannot be run as it is", s.SetID)
	}
	set := &resolved.Trials[i]
	made, err := m.store.Trials(ctx, s.ID)
	if err != nil {
		return err
	}
	places, threads := nextPlaces(set.Count(), made)
	forget(m.store.NearDir(), s.ID)
	if len(places) == 0 {
		forget(m.store.NearDir(), 0)
		err := m.store.MarkSeries(ctx, s.ID, store.SeriesDone, "")
		m.Notify(s.ModelID)
		return err
	}
	tasks := make([]*Task, len(places))
	earlier, compared := m.others(ctx, s.ModelID, resolved)
	for k, place := range places {
		task := &Task{Views: m.store.ViewsDir(), Earlier: earlier, Compared: compared, Trial: true, Threads: threads, Memory: cmp.Or(m.Memory, memoryLeft())}
		if resolved.Stepwise {
			task.Keep = nearDir(m.store.NearDir(), s.ID, place)
			if near := nearest(m.store.NearDir(), s.ID, set, place); near >= 0 {
				task.Near = nearDir(m.store.NearDir(), s.ID, near)
			}
		}
		if task.Document, err = set.Document(doc, place); err != nil {
			return err
		}
		tasks[k] = task
	}
	inner, stop := context.WithCancel(ctx)
	defer stop()
	progress := &SeriesProgress{Series: s, Busy: places, stop: stop}
	m.mu.Lock()
	m.series = progress
	m.mu.Unlock()
	m.Notify(s.ModelID)
	started := time.Now()
	errs := make([]error, len(places))
	var wg sync.WaitGroup
	for k, place := range places {
		wg.Go(func() { errs[k] = m.makeTrial(inner, s, tasks[k], place) })
	}
	wg.Wait()
	m.mu.Lock()
	m.series = nil
	stopped := progress.stopped
	m.mu.Unlock()
	if ctx.Err() != nil || stopped {
		return nil // what was not finished is made again when the series goes on
	}
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return m.store.SeriesTook(ctx, s.ID, time.Since(started).Seconds())
}

// nextPlaces lists the trials to make next: one at first, then as many as there are
// cores if they are small. threads is how many cores each may use, 0 for all.
func nextPlaces(count int, made []store.Trial) (places []int, threads int) {
	has := map[int]bool{}
	unknowns := 0
	for _, t := range made {
		has[t.Place] = true
		unknowns = max(unknowns, t.Unknowns)
	}
	n := 1
	if unknowns > 0 && unknowns <= smallTrial {
		n, threads = runtime.NumCPU(), 1
	}
	for p := 0; p < count && len(places) < n; p++ {
		if !has[p] {
			places = append(places, p)
		}
	}
	return places, threads
}

// makeTrial makes one trial and records it.
func (m *Manager) makeTrial(ctx context.Context, s store.Series, task *Task, place int) error {
	started := time.Now()
	last, err := m.child(ctx, task, func(solve.Event) {})
	if ctx.Err() != nil {
		return nil
	}
	var run store.Run
	readings := conclude(&run, last, err)
	t := store.Trial{SeriesID: s.ID, Place: place, Status: run.Status, Message: run.Message, Seconds: time.Since(started).Seconds()}
	if last.Result != nil {
		t.Unknowns = last.Result.Mesh.Unknowns
	}
	if t.Status == string(result.Stopped) {
		t.Status = store.Failed
	}
	err = m.store.AddTrial(ctx, t, readings)
	m.Notify(s.ModelID)
	return err
}
