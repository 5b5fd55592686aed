package store

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"gorm.io/gorm"

	"saltkettle/core/result"
)

// folder is where a run has what it left: its result, or what it can go on from.
func (s *Store) folder(r Run) string {
	if r.HasResult {
		return s.RunDir(r.ID)
	}
	return s.RunTemp(r.ID)
}

// reached is the time of the checkpoint in a folder, s; 0 if it has none that can be read.
func reached(dir string) float64 {
	p, err := result.LoadCheckpoint(dir, nil)
	if err != nil {
		return 0
	}
	return p.Reached
}

// settle gives the folder that a run leaves its final place, or removes it, and notes what it can
// go on from.
func (s *Store) settle(run *Run) error {
	if run.HasResult {
		// A second try finds the folder in its place.
		if err := os.Rename(s.RunTemp(run.ID), s.RunDir(run.ID)); err != nil && !(errors.Is(err, fs.ErrNotExist) && s.complete(run.ID)) {
			return fmt.Errorf("the result cannot be put in its place: %w", err)
		}
		// The database must not point to a folder that a loss of power can undo.
		if err := result.SyncDir(filepath.Dir(s.RunDir(run.ID))); err != nil {
			return fmt.Errorf("the result cannot be kept: %w", err)
		}
	}
	if run.Reached = reached(s.folder(*run)); run.Reached > 0 || run.HasResult {
		return nil
	}
	return os.RemoveAll(s.RunTemp(run.ID))
}

// Prepare makes the folder that a run is written into. If the run is to go on from another one it
// gets the checkpoint of that.
func (s *Store) Prepare(ctx context.Context, run Run) (dir string, err error) {
	dir = s.RunTemp(run.ID)
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return dir, err
	}
	if run.GoesOn == 0 || reached(dir) > 0 {
		return dir, nil
	}
	from, err := s.Run(ctx, run.GoesOn)
	if err != nil {
		return dir, err
	}
	return dir, result.CopyCheckpoint(s.folder(from), dir)
}

// lost is what becomes of a run whose server ended before it did: it waits to go on if its last
// start has brought it further, so that one that takes the whole machine down is not begun for
// ever.
func (s *Store) lost(ctx context.Context, tx *gorm.DB, id uint) error {
	run, err := gorm.G[Run](tx).Where("id = ?", id).First(ctx)
	if err != nil {
		return err
	}
	at, state := reached(s.RunTemp(id)), Interrupted
	if at > run.Reached {
		state, run.Status, run.Message = Queued, Queued, ""
	} else {
		run.Status, run.Message = Interrupted, "the server ended before the run did"
		if at == 0 {
			run.Message += "; run it again"
			if err := os.RemoveAll(s.RunTemp(id)); err != nil {
				return err
			}
		}
	}
	run.Reached = at
	if err := endJob(ctx, tx, id, state, s.now()); err != nil {
		return err
	}
	return tx.Save(&run).Error
}
