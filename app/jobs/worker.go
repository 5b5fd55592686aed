// Package jobs works the queue of runs off in child processes of the program, so
// that a solver that fails, runs out of memory or is stopped never takes the
// server down.
//
// A worker reads one Task as JSON from its standard input, writes Messages as
// JSON lines to its standard output, and stops when its input closes.
package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"runtime"
	"sync"
	"time"

	"saltkettle/core/model"
	"saltkettle/core/result"
	"saltkettle/core/solve"
)

// Task is what a worker is asked to do.
type Task struct {
	Document *model.Document `json:"document"`
	Dir      string          `json:"dir"`   // exists, and receives the result; empty keeps the readings alone
	Views    string          `json:"views"` // keeps view factors
	// Earlier is the folder of the result that the run goes on from, empty for none.
	Earlier string `json:"earlier,omitempty"`
	// Compared are the folders of the results with which readings are compared, by the numbers of their runs.
	Compared map[int]string `json:"compared,omitempty"`
	// Near is the folder of the fields that steady flows begin with, and Keep the one in which a run that has settled leaves its
	// own for others; empty for none.
	Near string `json:"near,omitempty"`
	Keep string `json:"keep,omitempty"`
	// Level is a value of what properties of materials depend on that is about right; nil for none.
	Level *float64 `json:"level,omitempty"`
	// MeshError asks for the mesh error of the readings, however long it takes.
	MeshError bool `json:"mesh_error"`
	// Trial is one of many: nothing but its readings counts.
	Trial bool `json:"trial,omitempty"`
	// Slopes are the parameters by which slopes of the readings are wanted, nil for none: then they alone are found.
	Slopes []string `json:"slopes,omitempty"`
	// Memory is how much the run may take, bytes, 0 for any amount: it is not begun if it
	// would take more, unless Anyway is set, and ends when it does.
	Memory int64 `json:"memory,omitempty"`
	Anyway bool  `json:"anyway,omitempty"`
	// Checkpoints is after how long a run in time leaves another checkpoint in Dir; it goes on
	// from the one that it finds there.
	Checkpoints time.Duration `json:"checkpoints,omitempty"`
	// Threads bounds the cores that it uses; 0 means all.
	Threads int `json:"threads,omitempty"`
}

// Message is one line from a worker: an event, the result or a failure.
type Message struct {
	Event  *solve.Event    `json:"event,omitempty"`
	Result *result.Result  `json:"result,omitempty"`
	Saved  bool            `json:"saved,omitempty"` // the folder is complete
	Slopes []solve.Slope   `json:"slopes,omitempty"`
	Wrong  []model.Finding `json:"wrong,omitempty"` // faults of the model
	Error  string          `json:"error,omitempty"`
	// TooLarge says that the run was not begun: it would have taken more memory than it may.
	TooLarge bool `json:"too_large,omitempty"`
}

// Work carries out one task. It ends early when in is closed by the other side.
func Work(ctx context.Context, in io.Reader, out io.Writer) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	var task Task
	dec := json.NewDecoder(in)
	if err := dec.Decode(&task); err != nil {
		return fmt.Errorf("the task cannot be read: %w", err)
	}
	go func() {
		// Nothing more is sent: reading ends when the server stops the run, or dies.
		_, _ = io.Copy(io.Discard, in)
		cancel()
	}()
	enc := json.NewEncoder(out)
	within := solve.UsualEstimate
	if task.MeshError {
		within = -1
	}
	if task.Trial {
		within = 0
	}
	if task.Threads > 0 {
		runtime.GOMAXPROCS(task.Threads)
	}
	guard := &memoryGuard{limit: task.Memory, enc: enc}
	if task.Memory > 0 {
		defer guard.watch()()
	}
	forecast := task.Memory
	if task.Anyway {
		forecast = 0
	}
	opt := solve.Options{
		Memory: forecast,
		Earlier: func(int) (*result.Earlier, error) {
			if task.Earlier == "" {
				return nil, errors.New("this model has no result of it")
			}
			return result.LoadEarlier(task.Earlier)
		},
		Compared: func(number int) (*result.Result, error) {
			if task.Compared[number] == "" {
				return nil, errors.New("this model has no result of it")
			}
			return result.Load(task.Compared[number])
		},
		Dir: task.Dir, Views: task.Views, Now: time.Now, EstimateWithin: within,
		Level:       task.Level,
		Lean:        task.Trial && task.Dir == "" && task.Keep == "",
		Checkpoints: task.Checkpoints, Resume: true,
		Progress: guard.progress,
	}
	if task.Near != "" {
		opt.Near = sync.OnceValues(func() (*result.Earlier, error) {
			near, err := result.LoadEarlier(task.Near)
			if err != nil {
				return nil, nil // then it begins from rest
			}
			return near, nil
		})
	}
	var slopes []solve.Slope
	var outcome *solve.Outcome
	var err error
	if len(task.Slopes) > 0 {
		outcome, slopes, err = solve.Slopes(ctx, task.Document, task.Slopes, opt)
	} else {
		outcome, err = solve.Run(ctx, task.Document, opt)
	}
	guard.mu.Lock() // what follows is the last message
	defer guard.mu.Unlock()
	var wrong *solve.ModelError
	var large *solve.MemoryError
	switch {
	case errors.As(err, &large):
		return enc.Encode(Message{Error: err.Error(), TooLarge: true})
	case errors.As(err, &wrong):
		return enc.Encode(Message{Wrong: wrong.Findings})
	case err != nil:
		return enc.Encode(Message{Error: err.Error()})
	}
	keep(task.Keep, outcome)
	r := *outcome.Result
	r.Document = nil
	return enc.Encode(Message{Result: &r, Saved: outcome.Fields != nil, Slopes: slopes})
}
