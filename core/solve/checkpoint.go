package solve

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"saltkettle/core/fem"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
)

// checkpoints of a run in time.
type checkpoints struct {
	march   *fem.Checkpoint // after the last step that was made, if that is not written
	written time.Time
	of      [sha256.Size]byte // see origin
}

// checkpointState is what a checkpoint holds beside how far the run was. Gob needs the fields
// exported.
type checkpointState struct {
	Of       [sha256.Size]byte // see origin
	March    *fem.Checkpoint
	Moments  result.MomentsSoFar
	Series   result.Series
	Stride   int
	Steps    int
	Account  accountState
	Signals  []float64 // missed so far, of each
	Times    []float64
	Values   map[string][]float64
	History  *result.History
	Asked    []float64
	Warnings []string
	Seconds  map[string]float64
}

// accountState is an account between steps.
type accountState struct {
	Balances        []result.Balance
	Since           []float64
	Stored, Through float64
}

// origin is what a checkpoint belongs to: the document and the mesh that was made of it.
func (r *run) origin() ([sha256.Size]byte, error) {
	if r.of != [sha256.Size]byte{} {
		return r.of, nil
	}
	doc, err := json.Marshal(r.model.Document)
	if err != nil {
		return [sha256.Size]byte{}, err
	}
	h := sha256.New()
	h.Write(doc)
	// Writing to a hash does not fail.
	_ = binary.Write(h, binary.LittleEndian, r.mesh.Nodes)
	for _, b := range r.mesh.Blocks {
		_ = binary.Write(h, binary.LittleEndian, b.Cells)
	}
	r.of = [sha256.Size]byte(h.Sum(nil))
	return r.of, nil
}

// checkpoint is told of every step. From time to time it writes the state.
func (r *run) checkpoint(march *fem.Checkpoint) {
	r.checkpoints.march = march
	if r.opt.Now == nil {
		return // without a clock it is written at a stop alone
	}
	now := r.opt.Now()
	if r.written.IsZero() {
		r.written = now // it began
	}
	if now.Sub(r.written) >= r.opt.Checkpoints {
		r.leave()
		r.written = r.opt.Now()
	}
}

// leave writes the state after the last step, if there is one. A run does not fail for a
// checkpoint that cannot be written; that is said.
func (r *run) leave() {
	if m := r.checkpoints.march; m != nil {
		if err := r.write(m); err != nil {
			r.warn("after an interruption it could not go on, for no checkpoint can be written: %v", err)
		}
		r.checkpoints.march = nil
	}
}

func (r *run) write(m *fem.Checkpoint) error {
	r.clock()
	of, err := r.origin()
	if err != nil {
		return err
	}
	a := &r.account
	s := checkpointState{Of: of, March: m, Series: r.series, Stride: r.stride, Steps: r.steps, Account: accountState{a.balances, a.since, a.stored, a.through},
		Times: r.followed.times, Values: r.followed.values, History: r.result.History, Asked: r.lastAsked, Warnings: r.result.Warnings, Seconds: r.result.Seconds}
	for _, g := range r.signals.list {
		s.Signals = append(s.Signals, g.missed)
	}
	surface, err := r.drawing()
	if err == nil {
		s.Moments, err = surface.SoFar()
	}
	if err != nil {
		return err
	}
	return result.SaveCheckpoint(r.opt.Dir, result.Progress{Reached: m.Time, End: r.model.End}, &s)
}

// takeUp goes back to the checkpoint in the folder, and returns that of the march; nil if the
// run is to begin at its beginning.
func (r *run) takeUp() (*fem.Checkpoint, error) {
	if !r.opt.Resume || r.opt.Dir == "" || r.quiet {
		return nil, nil
	}
	var s checkpointState
	at, err := result.LoadCheckpoint(r.opt.Dir, &s)
	if errors.Is(err, result.ErrNoCheckpoint) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("the run cannot go on from its checkpoint: %w", err)
	}
	of, err := r.origin()
	if err != nil {
		return nil, err
	}
	if of != s.Of || len(s.Signals) != len(r.signals.list) {
		return nil, fmt.Errorf("the run cannot go on from its checkpoint at %s: that is of another model, or of another version of this program", quantity.Show(at.Reached, "s", false, 4))
	}
	surface, err := r.drawing()
	if err == nil {
		err = errors.Join(surface.Resume(s.Moments), s.Series.Check(r.opt.Dir))
	}
	if err != nil {
		return nil, fmt.Errorf("the run cannot go on from its checkpoint: %w", err)
	}
	r.series, r.stride, r.steps, r.lastAsked = s.Series, s.Stride, s.Steps, s.Asked
	r.account = account{balances: s.Account.Balances, since: s.Account.Since, stored: s.Account.Stored, through: s.Account.Through}
	for i, g := range r.signals.list {
		g.missed = s.Signals[i]
	}
	r.followed = followed{times: s.Times, values: s.Values}
	r.result.History = s.History
	for _, w := range s.Warnings {
		r.warn("%s", w)
	}
	for stage, t := range s.Seconds {
		r.result.Seconds[stage] += t
	}
	return s.March, nil
}
