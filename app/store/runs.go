package store

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"

	"saltkettle/core/result"
)

// States of a run before it has an outcome of its own, and the ends that are
// none of the solver's.
const (
	Queued  = "queued"
	Running = "running"
	Failed  = "failed"
	// TooLarge is the status of a run that was not begun: it would take more memory than
	// there is.
	TooLarge    = "not begun"
	Interrupted = "interrupted"
)

// Run is a solution of a revision, or the attempt at one.
type Run struct {
	ID        uint `gorm:"primaryKey"`
	ModelID   uint
	Number    int // counts the runs of the model; trials that keep their fields count down from −1
	Revision  int
	Status    string // queued, running, settled, not settled, stopped, failed or interrupted
	Message   string
	CreatedAt time.Time
	Seconds   float64
	Nodes     int
	Cells     int
	Closure   float64
	HasResult bool
	// MeshError asks for the mesh error of the readings, however long it takes.
	MeshError bool
	// Anyway lets the run begin though it would take more memory than there is.
	Anyway bool
	// Reached is the time, s, from which the run can go on, by its checkpoint; 0 if it has none.
	// GoesOn is the run from whose checkpoint it begins, 0 if it begins at its beginning.
	Reached float64
	GoesOn  uint
	// Note is what people wrote about the run; the fields of one that is Kept are deleted by hand alone.
	Note string
	Kept bool
	// Token is of this run alone, whatever data folder is at an address: what a browser
	// keeps of a result is known by it. Runs of older folders have none.
	Token string
	// SeriesID and Trial are those of a run that is a trial with its fields, Trial by its place in the set; Parameters are then its values as
	// JSON, by name.
	SeriesID   uint
	Trial      int
	Parameters string
}

// Name is what the run is called.
func (r Run) Name() string {
	if r.SeriesID != 0 {
		return fmt.Sprintf("trial %d", r.Trial+1)
	}
	return fmt.Sprintf("run #%d", r.Number)
}

// ParameterWords are the values of a trial in words, by the names of its parameters.
func (r Run) ParameterWords() string {
	var values map[string]string
	if json.Unmarshal([]byte(r.Parameters), &values) != nil {
		return ""
	}
	var words []string
	for _, name := range slices.Sorted(maps.Keys(values)) {
		words = append(words, name+" "+values[name])
	}
	return strings.Join(words, ", ")
}

// Active says that the run is waiting or under way.
func (r Run) Active() bool { return r.Status == Queued || r.Status == Running }

// Reading is a number taken from a run.
type Reading struct {
	RunID      uint `gorm:"primaryKey"`
	Place      int
	Key        string `gorm:"primaryKey"`
	Name       string
	Value      float64 // SI
	Unit       string  // in which it is shown
	Difference bool
	Error      *float64 // SI; nil if it is not known
	// Missing says why there is no value, "" if there is one. Trust says in words what the
	// error is made of, or why it is not known.
	Missing, Trust string
}

// Job is an entry of the queue.
type Job struct {
	ID    uint `gorm:"primaryKey"`
	Kind  string
	RunID uint
	State string
	// Place orders those that wait, the least first.
	Place     int
	QueuedAt  time.Time
	StartedAt *time.Time
	EndedAt   *time.Time
}

// moves lists the states that a job may go to from each.
var moves = map[string][]string{
	Queued:  {Running, jobDone, Interrupted},
	Running: {jobDone, Interrupted, Queued},
}

// jobDone is the state of a job that was worked off, however its run ended.
const jobDone = "done"

// Wishes say how a run is made.
type Wishes struct {
	// MeshError asks for the mesh error of the readings however long it takes, Anyway for a
	// run that would take more memory than there is.
	MeshError, Anyway bool
	// GoesOn is a run, by its id, from whose checkpoint it goes on, with the model of that; 0
	// for none.
	GoesOn uint
}

// QueueRun adds a run of the current revision of a model to the queue.
func (s *Store) QueueRun(ctx context.Context, modelID uint, wishes Wishes) (Run, error) {
	var r Run
	err := s.transaction(ctx, func(tx *gorm.DB) error {
		m, err := gorm.G[Model](tx).Where("id = ? AND removed_at IS NULL", modelID).First(ctx)
		if err != nil {
			return found(err, fmt.Sprintf("model %d", modelID))
		}
		var last int
		if err := tx.Model(&Run{}).Where("model_id = ?", modelID).Select("COALESCE(MAX(number), 0)").Scan(&last).Error; err != nil {
			return err
		}
		r = Run{ModelID: modelID, Number: max(last, m.LastRun) + 1, Revision: m.Head, Status: Queued, MeshError: wishes.MeshError, Anyway: wishes.Anyway, GoesOn: wishes.GoesOn, CreatedAt: s.now(), Token: rand.Text()}
		if r.GoesOn != 0 {
			from, err := gorm.G[Run](tx).Where("id = ? AND model_id = ?", r.GoesOn, modelID).First(ctx)
			if err != nil {
				return found(err, fmt.Sprintf("run %d of this model", r.GoesOn))
			}
			if reached(s.folder(from)) == 0 {
				return &RefusedError{fmt.Errorf("run #%d has no checkpoint to go on from any more; run the model again", from.Number)}
			}
			r.Revision, r.MeshError = from.Revision, from.MeshError
		}
		if err := gorm.G[Run](tx).Create(ctx, &r); err != nil {
			return err
		}
		var place int
		if err := tx.Model(&Job{}).Where("state = ?", Queued).Select("COALESCE(MAX(place), 0)").Scan(&place).Error; err != nil {
			return err
		}
		return gorm.G[Job](tx).Create(ctx, &Job{Kind: "run", RunID: r.ID, State: Queued, Place: place + 1, QueuedAt: s.now()})
	})
	return r, err
}

// NextJob marks the waiting job whose turn it is as running and returns it with its run.
// ErrNotFound says that nothing waits.
func (s *Store) NextJob(ctx context.Context) (Job, Run, error) {
	var job Job
	var run Run
	err := s.transaction(ctx, func(tx *gorm.DB) error {
		list, err := gorm.G[Job](tx).Where("state = ?", Queued).Order("place, id").Limit(1).Find(ctx)
		if err != nil {
			return err
		}
		if len(list) == 0 {
			return ErrNotFound
		}
		job = list[0]
		now := s.now()
		job.State, job.StartedAt = Running, &now
		if err := tx.Save(&job).Error; err != nil {
			return err
		}
		if run, err = gorm.G[Run](tx).Where("id = ?", job.RunID).First(ctx); err != nil {
			return err
		}
		run.Status = Running
		return tx.Save(&run).Error
	})
	return job, run, err
}

// FinishRun records the outcome of a run and the end of its job. If the result
// is complete its folder, written under RunTemp, gets its final name first.
func (s *Store) FinishRun(ctx context.Context, run Run, readings []result.Reading) error {
	if err := s.settle(&run); err != nil {
		return err
	}
	return s.transaction(ctx, func(tx *gorm.DB) error {
		if run.SeriesID == 0 { // trials have no job of their own
			if err := endJob(ctx, tx, run.ID, jobDone, s.now()); err != nil {
				return err
			}
		}
		for i, q := range readings {
			row := Reading{RunID: run.ID, Place: i, Key: q.Key, Name: q.Name, Value: q.Value, Unit: q.Shown.Unit, Difference: q.Difference, Error: q.Error, Missing: q.Missing, Trust: q.Trust()}
			if q.Missing != "" {
				row.Value = 0 // a database has no number that is none
			}
			if err := gorm.G[Reading](tx).Create(ctx, &row); err != nil {
				return err
			}
		}
		return tx.Save(&run).Error
	})
}

// endJob moves the job of a run that has ended, or is to wait again, to a state, if the table of moves allows.
func endJob(ctx context.Context, tx *gorm.DB, runID uint, state string, now time.Time) error {
	job, err := gorm.G[Job](tx).Where("run_id = ?", runID).First(ctx)
	if err != nil {
		return found(err, "job")
	}
	for _, to := range moves[job.State] {
		if to == state {
			job.State, job.EndedAt = state, &now
			if state == Queued {
				job.StartedAt, job.EndedAt = nil, nil
			}
			return tx.Save(&job).Error
		}
	}
	return fmt.Errorf("a job that is %s cannot become %s", job.State, state)
}

// CancelQueued takes a run that has not begun out of the queue. It returns false
// if the run is not waiting any more.
func (s *Store) CancelQueued(ctx context.Context, runID uint) (bool, error) {
	done := false
	err := s.transaction(ctx, func(tx *gorm.DB) error {
		run, err := gorm.G[Run](tx).Where("id = ?", runID).First(ctx)
		if err != nil {
			return found(err, fmt.Sprintf("run %d", runID))
		}
		if run.Status != Queued {
			return nil
		}
		done = true
		run.Status, run.Message = string(result.Stopped), "taken out of the queue"
		if err := endJob(ctx, tx, runID, jobDone, s.now()); err != nil {
			return err
		}
		return tx.Save(&run).Error
	})
	return done, err
}

// complete says that the folder of a run is in its place with all it has.
func (s *Store) complete(run uint) bool {
	return result.Verify(s.RunDir(run)) == nil
}

// adopt records the results of runs that were complete when the server ended, but for their
// record.
func (s *Store) adopt(ctx context.Context) error {
	jobs, err := gorm.G[Job](s.db).Where("state = ?", Running).Find(ctx)
	if err != nil {
		return err
	}
	for _, j := range jobs {
		if !s.complete(j.RunID) {
			continue
		}
		r, err := result.Load(s.RunDir(j.RunID))
		if err != nil {
			return err
		}
		run, err := s.Run(ctx, j.RunID)
		if err != nil {
			return err
		}
		run.Take(r, true)
		run.Seconds = r.Seconds["total"]
		if err := s.FinishRun(ctx, run, r.Readings); err != nil {
			return err
		}
	}
	return nil
}

// Take takes over what a result says of its run; saved says that its fields are kept.
func (r *Run) Take(res *result.Result, saved bool) {
	r.Status, r.Message, r.HasResult = string(res.Status), res.Reason, saved
	r.Nodes, r.Cells = res.Mesh.Nodes, res.Mesh.Cells
	r.Closure = NoBalance
	for _, b := range res.Balances {
		r.Closure = max(r.Closure, b.Closure)
	}
}

// NoBalance stands for how far balances are open in a run that has none, such as one that
// finds modes.
const NoBalance = -1

// unended are the runs whose folders are needed though they have no result: those that are
// under way, and those that can go on.
func unended(ctx context.Context, db *gorm.DB) (list []uint, err error) {
	err = db.WithContext(ctx).Raw("SELECT run_id FROM jobs WHERE state = ? UNION SELECT id FROM runs WHERE reached > 0 AND NOT has_result", Running).Scan(&list).Error
	return list, err
}

// Sweep removes the folders of runs that are neither complete nor under way and cannot go on.
func (s *Store) Sweep(ctx context.Context) (removed int, err error) {
	entries, err := os.ReadDir(filepath.Join(s.dir, "runs"))
	if err != nil {
		return 0, err
	}
	used, err := unended(ctx, s.db)
	if err != nil {
		return 0, err
	}
	for _, e := range entries {
		number, part := strings.CutSuffix(e.Name(), ".part")
		id, bad := strconv.ParseUint(number, 10, 32)
		if !part || bad != nil || slices.Contains(used, uint(id)) {
			continue
		}
		if err := os.RemoveAll(filepath.Join(s.dir, "runs", e.Name())); err != nil {
			return removed, err
		}
		removed++
	}
	return removed, nil
}

// Interrupt records what was complete when the server ended, marks what was still running
// then, and returns how many runs that were. Those that have come further wait to go on. Waiting
// jobs stay in the queue.
func (s *Store) Interrupt(ctx context.Context) (int, error) {
	if err := s.adopt(ctx); err != nil {
		return 0, err
	}
	n := 0
	err := s.transaction(ctx, func(tx *gorm.DB) error {
		jobs, err := gorm.G[Job](tx).Where("state = ?", Running).Find(ctx)
		if err != nil {
			return err
		}
		for _, j := range jobs {
			if err := s.lost(ctx, tx, j.RunID); err != nil {
				return err
			}
			n++
		}
		return nil
	})
	return n, err
}

// Run returns a run.
func (s *Store) Run(ctx context.Context, id uint) (Run, error) {
	r, err := gorm.G[Run](s.db).Where("id = ?", id).First(ctx)
	return r, found(err, fmt.Sprintf("run %d", id))
}

// RunNumber returns the run of a model by its number.
func (s *Store) RunNumber(ctx context.Context, modelID uint, number int) (Run, error) {
	r, err := gorm.G[Run](s.db).Where("model_id = ? AND number = ?", modelID, number).First(ctx)
	return r, found(err, fmt.Sprintf("run #%d of this model", number))
}

// Runs lists the runs of a model, the newest first, at most limit of them.
func (s *Store) Runs(ctx context.Context, modelID uint, limit int) ([]Run, error) {
	return gorm.G[Run](s.db).Where("model_id = ? AND number > 0", modelID).Order("number DESC").Limit(limit).Find(ctx)
}

// RunsOf lists the numbers of the runs that were made of revisions of a model, by revision.
func (s *Store) RunsOf(ctx context.Context, modelID uint, revisions []Revision) (map[int][]int, error) {
	runs := map[int][]int{}
	if len(revisions) == 0 {
		return runs, nil
	}
	numbers := make([]int, len(revisions))
	for i, r := range revisions {
		numbers[i] = r.Number
	}
	list, err := gorm.G[Run](s.db).Where("model_id = ? AND number > 0 AND revision IN ?", modelID, numbers).Order("number DESC").Find(ctx)
	for _, r := range list {
		runs[r.Revision] = append(runs[r.Revision], r.Number)
	}
	return runs, err
}

// LastResult returns the newest run of a model that has a result.
func (s *Store) LastResult(ctx context.Context, modelID uint) (Run, error) {
	r, err := gorm.G[Run](s.db).Where("model_id = ? AND number > 0 AND has_result", modelID).Order("number DESC").First(ctx)
	return r, found(err, "a run with a result")
}

// Readings returns the readings of a run in their order.
func (s *Store) Readings(ctx context.Context, runID uint) ([]Reading, error) {
	return gorm.G[Reading](s.db).Where("run_id = ?", runID).Order("place").Find(ctx)
}

// IsNotFound says whether an error means that something is not there.
func IsNotFound(err error) bool { return errors.Is(err, ErrNotFound) }
