package jobs

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"os/exec"
	"strings"
	"sync"
	"time"

	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/result"
	"saltkettle/core/solve"
)

// Progress is the newest state of a run that is under way.
type Progress struct {
	Run     store.Run
	Event   solve.Event
	History []Point // residuals so far
	Started time.Time
}

// Point is a residual after some iterations.
type Point struct {
	Iteration int
	Residual  float64
}

// Manager works the queue off, one run at a time: a run uses all cores.
type Manager struct {
	store   *store.Store
	command []string // starts a worker
	log     *slog.Logger
	wake    chan struct{}

	mu       sync.Mutex
	current  *Progress
	stop     func() // ends the current run
	stopped  bool   // somebody asked for that
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
	if n > 0 {
		m.log.Info("runs of an earlier server were interrupted", "runs", n)
	}
	m.wg.Go(func() {
		for ctx.Err() == nil {
			if !m.next(ctx) {
				select {
				case <-ctx.Done():
				case <-m.wake:
				}
			}
		}
	})
	m.Wake()
	return nil
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

// Queue adds a run of a model, with the mesh error of its readings however long that
// takes if asked for.
func (m *Manager) Queue(ctx context.Context, modelID uint, meshError bool) (store.Run, error) {
	r, err := m.store.QueueRun(ctx, modelID, meshError)
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
		// The server is ending: the run is marked when it starts again.
		return false
	}
	run.Seconds = time.Since(started).Seconds()
	readings := conclude(&run, last, err)
	m.mu.Lock()
	if m.stopped && run.Status == store.Failed && last.Error == "" {
		run.Status, run.Message = string(result.Stopped), "stopped before there was a solution"
	}
	m.mu.Unlock()
	if err := m.store.FinishRun(ctx, run, readings); err != nil {
		m.log.Error("a run could not be recorded", "run", run.ID, "error", err)
		run.Status, run.Message, run.HasResult = store.Failed, "the result could not be stored: "+err.Error(), false
		if err := m.store.FinishRun(ctx, run, nil); err != nil {
			m.log.Error("a failed run could not be recorded", "run", run.ID, "error", err)
		}
	}
	m.mu.Lock()
	m.current, m.stop = nil, nil
	m.mu.Unlock()
	m.Notify(run.ModelID)
	return true
}

// conclude turns the last message of a worker into the state of its run.
func conclude(run *store.Run, last Message, err error) []result.Reading {
	switch {
	case last.Result != nil:
		r := last.Result
		run.Status, run.Message, run.HasResult = string(r.Status), r.Reason, last.Saved
		run.Nodes, run.Cells = r.Mesh.Nodes, r.Mesh.Cells
		if len(r.Balances) > 0 {
			for _, b := range r.Balances {
				run.Closure = max(run.Closure, b.Closure)
			}
		}
		return r.Readings
	case len(last.Wrong) > 0:
		run.Status, run.Message = store.Failed, words(last.Wrong)
	case last.Error != "":
		run.Status, run.Message = store.Failed, last.Error
	default:
		run.Status, run.Message = store.Failed, "the solver ended unexpectedly"
		if err != nil {
			run.Message += ": " + err.Error()
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

// stopGrace is how long a worker may take to stop before it is killed.
const stopGrace = 5 * time.Second

// work runs a worker and returns its last message that is not an event.
func (m *Manager) work(ctx context.Context, run store.Run) (Message, error) {
	doc, err := m.store.Document(ctx, run.ModelID, run.Revision)
	if err != nil {
		return Message{}, err
	}
	dir := m.store.RunTemp(run.ID)
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return Message{}, err
	}
	cmd := exec.Command(m.command[0], m.command[1:]...)
	var stderr bytes.Buffer
	cmd.Stderr = &limited{buf: &stderr, left: 16 << 10}
	stdin, err := cmd.StdinPipe()
	if err != nil {
		return Message{}, err
	}
	stdout, err := cmd.StdoutPipe()
	if err != nil {
		return Message{}, err
	}
	if err := cmd.Start(); err != nil {
		return Message{}, err
	}
	var once sync.Once
	var timer *time.Timer
	stop := func() {
		once.Do(func() {
			stdin.Close()
			timer = time.AfterFunc(stopGrace, func() { _ = cmd.Process.Kill() })
		})
	}
	m.mu.Lock()
	m.stop = stop
	m.mu.Unlock()
	unhook := context.AfterFunc(ctx, stop)
	defer unhook()
	if err := json.NewEncoder(stdin).Encode(Task{Document: doc, Dir: dir, Views: m.store.ViewsDir(), MeshError: run.MeshError}); err != nil {
		m.log.Warn("a worker did not take its task", "error", err)
	}
	last := m.listen(stdout, run)
	err = cmd.Wait()
	stop() // closes the pipe and starts a timer for a process that is gone
	timer.Stop()
	if text := strings.TrimSpace(stderr.String()); text != "" {
		m.log.Warn("a worker complained", "run", run.ID, "text", text)
		if err != nil {
			first, _, _ := strings.Cut(text, "\n")
			err = fmt.Errorf("%w: %s", err, first)
		}
	}
	return last, err
}

// listen reads the messages of a worker to their end.
func (m *Manager) listen(r io.Reader, run store.Run) Message {
	var last Message
	in := bufio.NewReader(r)
	for {
		line, err := in.ReadBytes('\n')
		if len(line) > 0 {
			var msg Message
			if jsonErr := json.Unmarshal(line, &msg); jsonErr != nil {
				m.log.Warn("a worker wrote something else than a message", "run", run.ID)
			} else if msg.Event != nil {
				m.progress(run, *msg.Event)
			} else {
				last = msg
			}
		}
		if err != nil {
			if !errors.Is(err, io.EOF) {
				m.log.Warn("a worker's output broke off", "run", run.ID, "error", err)
			}
			return last
		}
	}
}

// maxHistory bounds the residuals that are kept for the picture of progress.
const maxHistory = 400

func (m *Manager) progress(run store.Run, e solve.Event) {
	m.mu.Lock()
	if p := m.current; p != nil && p.Run.ID == run.ID {
		if e.Cells == 0 {
			e.Cells, e.Nodes = p.Event.Cells, p.Event.Nodes
		}
		p.Event = e
		if e.Iteration > 0 && len(p.History) < maxHistory {
			p.History = append(p.History, Point{e.Iteration, e.Residual})
		}
	}
	m.mu.Unlock()
	m.Notify(run.ModelID)
}

// limited keeps the first bytes that are written to it.
type limited struct {
	buf  *bytes.Buffer
	left int
}

func (l *limited) Write(p []byte) (int, error) {
	n := min(len(p), l.left)
	l.buf.Write(p[:n])
	l.left -= n
	return len(p), nil
}
