package jobs

import (
	"cmp"
	"context"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"sync"
	"time"

	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
	"saltkettle/core/solve"
)

// Progress is the newest state of a run that is under way.
type Progress struct {
	Run     store.Run
	Event   solve.Event
	History []Point // residuals so far
	// Readings are those on the way, by their names, with the place on the axis of each: time, or how
	// many there were before.
	Readings []ReadingSoFar
	Started  time.Time
}

// ReadingSoFar is a reading of a run that is under way.
type ReadingSoFar struct {
	Name, Unit string
	At, Values []float64
}

// take takes the readings of an event, the newest of which stay when there are many.
func (p *Progress) take(e *solve.Event) {
	for _, q := range e.Readings {
		i := slices.IndexFunc(p.Readings, func(r ReadingSoFar) bool { return r.Name == q.Name })
		if i < 0 {
			i = len(p.Readings)
			p.Readings = append(p.Readings, ReadingSoFar{Name: q.Name, Unit: q.Unit})
		}
		r := &p.Readings[i]
		at := e.Time
		if e.End == 0 {
			at = float64(len(r.At))
		}
		r.At, r.Values = append(r.At, at), append(r.Values, q.Value)
		if len(r.At) > maxHistory {
			r.At, r.Values = thinned(r.At), thinned(r.Values)
		}
	}
}

// thinned is every second number of a list.
func thinned(list []float64) []float64 {
	for i := range len(list) / 2 {
		list[i] = list[2*i]
	}
	return list[:len(list)/2]
}

// Point is a residual after some iterations.
type Point struct {
	Iteration int
	Residual  float64
}

// Manager works the queue off, one run at a time: a run uses all cores. Trials are made
// when no run waits.
type Manager struct {
	store   *store.Store
	command []string // starts a worker
	log     *slog.Logger
	wake    chan struct{}
	// Memory is how much a run may take, bytes; 0 means what is left on the machine.
	Memory int64

	mu       sync.Mutex
	current  *Progress
	stop     func() // ends the current run
	stopped  bool   // somebody asked for that
	series   *SeriesProgress
	watchers map[chan struct{}]uint
	wg       sync.WaitGroup
}

// New returns a manager whose workers are started by command.
func New(s *store.Store, command []string, log *slog.Logger) *Manager {
	return &Manager{store: s, command: command, log: log, wake: make(chan struct{}, 1), watchers: map[chan struct{}]uint{}}
}

// Start marks what an earlier server left unfinished as interrupted and begins
// to work the queue off, until ctx ends. Wait returns when the work has ended.
func (m *Manager) Start(ctx context.Context) error {
	n, err := m.store.Interrupt(ctx)
	if err != nil {
		return err
	}
	if swept, err := m.store.Sweep(ctx); err != nil {
		m.log.Warn("what runs left behind could not be removed", "error", err)
	} else if swept > 0 {
		m.log.Info("what runs left behind was removed", "folders", swept)
	}
	if n > 0 {
		m.log.Info("runs of an earlier server were interrupted", "runs", n)
	}
	m.wg.Go(func() {
		for ctx.Err() == nil {
			if !m.next(ctx) && !m.nextTrials(ctx) {
				select {
				case <-ctx.Done():
				case <-m.wake:
				}
			}
		}
	})
	m.wg.Go(func() { m.tidy(ctx) })
	m.Wake()
	return nil
}

// tidyEvery is how often the store is tidied.
const tidyEvery = 6 * time.Hour

// tidy keeps the store tidy until ctx ends.
func (m *Manager) tidy(ctx context.Context) {
	for {
		if said, err := m.store.Tidy(ctx); err != nil && ctx.Err() == nil {
			m.log.Warn("the store could not be tidied", "error", err)
		} else if said != "" {
			m.log.Info("the store was tidied", "done", said)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(tidyEvery):
		}
	}
}

// Wait returns when the manager has stopped.
func (m *Manager) Wait() { m.wg.Wait() }

// Wake makes the manager look at the queue.
func (m *Manager) Wake() {
	select {
	case m.wake <- struct{}{}:
	default:
	}
}

// Queue adds a run of a model.
func (m *Manager) Queue(ctx context.Context, modelID uint, wishes store.Wishes) (store.Run, error) {
	r, err := m.store.QueueRun(ctx, modelID, wishes)
	if err == nil {
		m.Notify(modelID)
		m.Wake()
	}
	return r, err
}

// Stop ends a run, waiting or under way.
func (m *Manager) Stop(ctx context.Context, run store.Run) error {
	ok, err := m.store.CancelQueued(ctx, run.ID)
	if err != nil || ok {
		m.Notify(run.ModelID)
		return err
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.current != nil && m.current.Run.ID == run.ID && m.stop != nil {
		m.stopped = true
		m.stop()
	}
	return nil
}

// Current returns the progress of a run that is under way.
func (m *Manager) Current(runID uint) (Progress, bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.current == nil || m.current.Run.ID != runID {
		return Progress{}, false
	}
	p := *m.current
	p.History = append([]Point(nil), p.History...)
	return p, true
}

// Watch returns a channel that gets a value whenever something about a model
// changes, and a function that ends it.
func (m *Manager) Watch(modelID uint) (<-chan struct{}, func()) {
	ch := make(chan struct{}, 1)
	m.mu.Lock()
	m.watchers[ch] = modelID
	m.mu.Unlock()
	return ch, func() {
		m.mu.Lock()
		delete(m.watchers, ch)
		m.mu.Unlock()
	}
}

// Notify tells the watchers of a model that something changed.
func (m *Manager) Notify(modelID uint) {
	m.mu.Lock()
	defer m.mu.Unlock()
	for ch, id := range m.watchers {
		if id == modelID {
			select {
			case ch <- struct{}{}:
			default:
			}
		}
	}
}

// next works one job off and says whether there was one.
func (m *Manager) next(ctx context.Context) bool {
	_, run, err := m.store.NextJob(ctx)
	if err != nil {
		if !store.IsNotFound(err) && ctx.Err() == nil {
			m.log.Error("the queue cannot be read", "error", err)
		}
		return false
	}
	started := time.Now()
	m.mu.Lock()
	m.current, m.stopped = &Progress{Run: run, Started: started}, false
	m.mu.Unlock()
	m.Notify(run.ModelID)

	last, err := m.work(ctx, run)
	if ctx.Err() != nil {
		// The server is ending: what ran is marked at once, and again at the next start if
		// that does not succeed.
		if _, err := m.store.Interrupt(context.WithoutCancel(ctx)); err != nil {
			m.log.Error("a run could not be marked as interrupted", "run", run.ID, "error", err)
		}
		return false
	}
	run.Seconds = time.Since(started).Seconds()
	m.mu.Lock()
	run.Cells, run.Nodes = m.current.Event.Cells, m.current.Event.Nodes
	m.mu.Unlock()
	readings := conclude(&run, last, err)
	m.mu.Lock()
	if m.stopped && run.Status == store.Failed && last.Error == "" {
		run.Status, run.Message = string(result.Stopped), "stopped before there was a solution"
	}
	m.mu.Unlock()
	if err := m.patiently(ctx, func() error { return m.store.FinishRun(ctx, run, readings) }); err != nil {
		m.log.Error("a run could not be recorded", "run", run.ID, "error", err)
		run.Status, run.Message, run.HasResult = store.Failed, "the result could not be stored: "+err.Error(), false
		if err := m.store.FinishRun(ctx, run, nil); err != nil {
			m.log.Error("a failed run could not be recorded", "run", run.ID, "error", err)
		}
	}
	if _, err := m.store.KeepNewest(ctx, run.ModelID); err != nil {
		m.log.Warn("the fields of older runs could not be deleted", "model", run.ModelID, "error", err)
	}
	m.mu.Lock()
	m.current, m.stop = nil, nil
	m.mu.Unlock()
	m.Notify(run.ModelID)
	return true
}

// patience is how often what has to be recorded is tried, with waits that grow up to
// longestWait between: a database may be held by a backup for a while.
const patience = 12

var longestWait = 10 * time.Second

// patiently does something until it succeeds, the server ends or patience does.
func (m *Manager) patiently(ctx context.Context, do func() error) error {
	wait := longestWait / 64
	for try := 1; ; try++ {
		err := do()
		if err == nil || try == patience || ctx.Err() != nil {
			return err
		}
		m.log.Warn("the store does not answer, and is asked again", "try", try, "error", err)
		select {
		case <-ctx.Done():
		case <-time.After(wait):
		}
		wait = min(2*wait, longestWait)
	}
}

// conclude turns the last message of a worker into the state of its run.
func conclude(run *store.Run, last Message, err error) []result.Reading {
	switch {
	case last.Result != nil:
		run.Take(last.Result, last.Saved)
		return last.Result.Readings
	case len(last.Wrong) > 0:
		run.Status, run.Message = store.Failed, words(last.Wrong)
	case last.TooLarge:
		run.Status, run.Message = store.TooLarge, last.Error
	case last.Error != "":
		run.Status, run.Message = store.Failed, last.Error
	default:
		run.Status, run.Message = store.Failed, "the solver ended unexpectedly"
		if err != nil {
			run.Message += ": " + err.Error()
			if strings.Contains(err.Error(), "signal: killed") {
				run.Message = "the system ended the solver, most likely for want of memory; make cells larger"
				if run.Cells > 0 {
					run.Message = fmt.Sprintf("the system ended the solver at %s cells, most likely for want of memory; make cells larger", quantity.Count(run.Cells))
				}
			}
		}
	}
	return nil
}

func words(list []model.Finding) string {
	lines := make([]string, len(list))
	for i, f := range list {
		lines[i] = f.Message
		if f.Fix != "" {
			lines[i] += " — " + f.Fix
		}
	}
	return strings.Join(lines, "; ")
}

// work runs a worker on a run and returns its last message that is not an event.
func (m *Manager) work(ctx context.Context, run store.Run) (Message, error) {
	doc, err := m.store.Document(ctx, run.ModelID, run.Revision)
	if err != nil {
		return Message{}, err
	}
	dir, err := m.store.Prepare(ctx, run)
	if err != nil {
		return Message{Error: err.Error()}, nil
	}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	m.mu.Lock()
	m.stop = stop
	m.mu.Unlock()
	task := &Task{Document: doc, Dir: dir, Views: m.store.ViewsDir(), MeshError: run.MeshError,
		Memory: cmp.Or(m.Memory, memoryLeft()), Anyway: run.Anyway, Checkpoints: checkpoints}
	resolved, _ := model.Resolve(doc, physics.Catalog())
	task.Earlier, task.Compared = m.others(ctx, run.ModelID, resolved)
	return m.child(ctx, task, func(e solve.Event) { m.progress(run, e) })
}

// checkpoints is after how long a run in time leaves another checkpoint: so much of it is lost
// at most.
var checkpoints = 20 * time.Second

// others are the folders of the other runs of a model that it speaks of: of that which it goes on from, "" if there is none, and of those
// with which readings are compared, by their numbers.
func (m *Manager) others(ctx context.Context, modelID uint, resolved *model.Resolved) (earlier string, compared map[int]string) {
	folder := func(number int) string {
		run, err := m.store.RunNumber(ctx, modelID, number)
		if err != nil || !run.HasResult {
			return ""
		}
		return m.store.RunDir(run.ID)
	}
	if resolved.From > 0 {
		earlier = folder(resolved.From)
	}
	compared = map[int]string{}
	for _, number := range solve.ComparedRuns(resolved) {
		compared[number] = folder(number)
	}
	return earlier, compared
}

// maxHistory bounds the residuals that are kept for the picture of progress.
const maxHistory = 400

func (m *Manager) progress(run store.Run, e solve.Event) {
	m.mu.Lock()
	if p := m.current; p != nil && p.Run.ID == run.ID {
		if e.Cells == 0 {
			e.Cells, e.Nodes = p.Event.Cells, p.Event.Nodes
		}
		e.Glimpse = max(e.Glimpse, p.Event.Glimpse)
		p.take(&e)
		p.Event = e
		if e.Iteration > 0 && len(p.History) < maxHistory {
			p.History = append(p.History, Point{e.Iteration, e.Residual})
		}
	}
	m.mu.Unlock()
	m.Notify(run.ModelID)
}
