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
	"saltkettle/core/trial"
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

// QueueTrials begins a series of a trial set of a model, of whose trials those are made that are wanted, all for nil.
func (m *Manager) QueueTrials(ctx context.Context, modelID uint, setID string, count int, wanted []int) (store.Series, error) {
	s, err := m.store.QueueSeries(ctx, modelID, setID, count, wanted)
	if err == nil {
		m.Notify(modelID)
		m.Wake()
	}
	return s, err
}

// GoOn lets a series that was stopped make the trials that it lacks.
func (m *Manager) GoOn(ctx context.Context, s store.Series) error {
	return m.waken(s, m.store.MarkSeries(ctx, s.ID, store.Queued, ""))
}

// MakeMore lets a series that has ended make further trials, or choose some, by what a change of the store says.
func (m *Manager) MakeMore(s store.Series, change func() error) error { return m.waken(s, change()) }

func (m *Manager) waken(s store.Series, err error) error {
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

// nextTrials makes trials of the oldest series, until it is done or a run waits, and says whether there were any.
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

// batch is the trials of a series that are made in one go.
type batch struct {
	m        *Manager
	series   store.Series
	doc      *model.Document
	resolved *model.Resolved
	set      *model.ResolvedTrials
	earlier  string
	compared map[int]string

	mu       sync.Mutex
	left     []int
	level    *float64 // of what properties depend on, in the trial that settled last
	progress *SeriesProgress
	err      error
}

// makeTrials makes the trials that a series lacks: one at first, then as many side by side as there are cores if they are small. When all are made it
// is done, or chooses further ones. It ends early if a run waits.
func (m *Manager) makeTrials(ctx context.Context, s store.Series) error {
	b := &batch{m: m, series: s}
	var err error
	if b.doc, err = m.store.Document(ctx, s.ModelID, s.Revision); err != nil {
		return err
	}
	if b.resolved, b.set, err = ResolveSeries(b.doc, s); err != nil {
		return err
	}
	made, err := m.store.Trials(ctx, s.ID)
	if err != nil {
		return err
	}
	unknowns := 0
	has := map[int]bool{}
	for _, t := range made {
		has[t.Place] = true
		unknowns = max(unknowns, t.Unknowns)
	}
	for _, p := range s.Places() {
		if !has[p] && p < b.set.Count() {
			b.left = append(b.left, p)
		}
	}
	forget(m.store.NearDir(), s.ID)
	if len(b.left) == 0 {
		for i := range made {
			if made[i].Slopes == store.SlopesWanted {
				return b.slopes(ctx, made[i].Place)
			}
		}
		return b.further(ctx, made)
	}
	b.earlier, b.compared = m.others(ctx, s.ModelID, b.resolved)
	inner, stop := context.WithCancel(ctx)
	defer stop()
	b.progress = &SeriesProgress{Series: s, stop: stop}
	m.mu.Lock()
	m.series = b.progress
	m.mu.Unlock()
	started := time.Now()
	workers, threads := 1, 0
	switch {
	case unknowns == 0: // how large they are shows the first
		b.left = b.left[:1]
	case unknowns <= smallTrial:
		workers, threads = min(runtime.NumCPU(), len(b.left)), 1
	}
	var wg sync.WaitGroup
	for range workers {
		wg.Go(func() { b.work(inner, threads) })
	}
	wg.Wait()
	m.mu.Lock()
	m.series = nil
	stopped := b.progress.stopped
	m.mu.Unlock()
	if ctx.Err() != nil || stopped {
		return nil // what was not finished is made again when the series goes on
	}
	if b.err != nil {
		return b.err
	}
	return m.store.SeriesTook(ctx, s.ID, time.Since(started).Seconds())
}

// ResolveSeries is a document with the trial set of a series, which has the trials beyond its pattern.
func ResolveSeries(doc *model.Document, s store.Series) (*model.Resolved, *model.ResolvedTrials, error) {
	resolved, findings := model.Resolve(doc, physics.Catalog())
	if list := model.Blocking(findings); len(list) > 0 {
		return nil, nil, fmt.Errorf("the model is not ready: %s", words(list[:1]))
	}
	i := slices.IndexFunc(resolved.Trials, func(t model.ResolvedTrials) bool { return t.ID == s.SetID })
	if i < 0 || !resolved.Trials[i].Good {
		return nil, nil, fmt.Errorf("the trial set %s cannot be run as it is", s.SetID)
	}
	return resolved, s.With(&resolved.Trials[i]), nil
}

// further chooses the next trials of a series that has all it was to make, or ends it.
func (b *batch) further(ctx context.Context, made []store.Trial) error {
	s, m := b.series, b.m
	if s.Searching {
		doc, err := m.store.SeriesDocument(ctx, s)
		if err != nil {
			return err
		}
		resolved, wished, err := ResolveSeries(doc, s)
		if err != nil {
			return err
		}
		set := &trial.Set{ResolvedTrials: wished, Model: resolved, List: make([]trial.Outcome, wished.Count())}
		for i := range made {
			if p := made[i].Place; p < len(set.List) {
				set.List[p] = made[i].Outcome()
			}
		}
		step, err := trial.Next(trial.Predict(set), s.Proposals())
		if err != nil {
			return fmt.Errorf("no further trials can be chosen: %w", err)
		}
		if !step.Done {
			return m.store.AddProposals(ctx, s.ID, step.Proposals)
		}
		err = m.store.MarkSeries(ctx, s.ID, store.SeriesDone, step.Words)
		m.Notify(s.ModelID)
		return err
	}
	forget(m.store.NearDir(), 0)
	err := m.store.MarkSeries(ctx, s.ID, store.SeriesDone, "")
	m.Notify(s.ModelID)
	return err
}

// work makes trials until none is left, one fails to be recorded or a run waits.
func (b *batch) work(ctx context.Context, threads int) {
	for ctx.Err() == nil && !b.m.store.Waits(ctx) {
		place, ok := b.take()
		if !ok {
			return
		}
		err := b.makeTrial(ctx, place, threads)
		b.mu.Lock()
		b.err = cmp.Or(b.err, err)
		failed := b.err != nil
		b.mu.Unlock()
		b.m.mu.Lock()
		b.progress.Busy = slices.DeleteFunc(b.progress.Busy, func(p int) bool { return p == place })
		b.m.mu.Unlock()
		b.m.Notify(b.series.ModelID)
		if failed {
			return
		}
	}
}

// take takes the next trial.
func (b *batch) take() (place int, ok bool) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if len(b.left) == 0 {
		return 0, false
	}
	place, b.left = b.left[0], b.left[1:]
	b.m.mu.Lock()
	b.progress.Busy = append(b.progress.Busy, place)
	b.m.mu.Unlock()
	b.m.Notify(b.series.ModelID)
	return place, true
}

// makeTrial makes one trial and records it.
func (b *batch) makeTrial(ctx context.Context, place, threads int) error {
	m, s := b.m, b.series
	values := b.set.Values(place)
	doc, err := b.set.Document(b.doc, values)
	if err != nil {
		return err
	}
	task := &Task{Document: doc, Views: m.store.ViewsDir(), Earlier: b.earlier, Compared: b.compared, Trial: true, Threads: threads, Memory: cmp.Or(m.Memory, memoryLeft())}
	b.mu.Lock()
	task.Level = b.level
	b.mu.Unlock()
	if b.resolved.Stepwise {
		task.Keep = nearDir(m.store.NearDir(), s.ID, place)
		if near := nearest(m.store.NearDir(), s.ID, b.set, place); near >= 0 {
			task.Near = nearDir(m.store.NearDir(), s.ID, near)
		}
	}
	var run store.Run
	if b.set.Fields {
		texts := map[string]string{}
		for i := range b.set.Axes {
			texts[b.set.Axes[i].Parameter] = b.set.Axes[i].Text(values[i])
		}
		if run, err = m.store.BeginTrialRun(ctx, s, place, texts); err != nil {
			return err
		}
		if task.Dir, err = m.store.Prepare(ctx, run); err != nil {
			return err
		}
	}
	started := time.Now()
	last, err := m.child(ctx, task, func(solve.Event) {})
	if ctx.Err() != nil {
		return nil
	}
	readings := conclude(&run, last, err)
	t := store.Trial{SeriesID: s.ID, Place: place, Status: run.Status, Message: run.Message, Seconds: time.Since(started).Seconds()}
	if r := last.Result; r != nil {
		t.Unknowns = r.Mesh.Unknowns
		b.settled(r)
	}
	if t.Status == string(result.Stopped) {
		t.Status = store.Failed
	}
	if run.ID != 0 {
		run.Seconds = t.Seconds
		if err := m.store.FinishRun(ctx, run, readings); err != nil {
			// The trial counts all the same: what cannot be kept are its fields.
			m.log.Warn("the fields of a trial could not be kept", "series", s.ID, "trial", place+1, "error", err)
		}
	}
	return m.patiently(ctx, func() error { return m.store.AddTrial(ctx, t, readings) })
}

// settled takes from a trial what others may begin with.
func (b *batch) settled(r *result.Result) {
	if r.Status != result.Settled || r.Least == nil || r.Greatest == nil {
		return
	}
	level := (r.Least.Value + r.Greatest.Value) / 2
	b.mu.Lock()
	b.level = &level
	b.mu.Unlock()
}

// slopes finds how the readings of a trial change with what varies.
func (b *batch) slopes(ctx context.Context, place int) error {
	m, s := b.m, b.series
	doc, err := b.set.Document(b.doc, b.set.Values(place))
	if err != nil {
		return err
	}
	var names []string
	for i := range b.set.Axes {
		if b.set.Axes[i].Free() { // of others there is no little more
			names = append(names, b.set.Axes[i].Parameter)
		}
	}
	if len(names) == 0 {
		return b.m.store.SetSlopes(ctx, b.series.ID, place, []solve.Slope{})
	}
	inner, stop := context.WithCancel(ctx)
	defer stop()
	b.progress = &SeriesProgress{Series: s, Busy: []int{place}, stop: stop}
	m.mu.Lock()
	m.series = b.progress
	m.mu.Unlock()
	m.Notify(s.ModelID)
	last, err := m.child(inner, &Task{Document: doc, Views: m.store.ViewsDir(), Trial: true, Slopes: names, Memory: cmp.Or(m.Memory, memoryLeft())}, func(solve.Event) {})
	m.mu.Lock()
	m.series = nil
	stopped := b.progress.stopped
	m.mu.Unlock()
	if ctx.Err() != nil || stopped {
		return nil
	}
	list := last.Slopes
	if list == nil {
		var run store.Run
		conclude(&run, last, err)
		for _, name := range names {
			list = append(list, solve.Slope{Parameter: name, Missing: run.Message})
		}
	}
	return m.store.SetSlopes(ctx, s.ID, place, list)
}
