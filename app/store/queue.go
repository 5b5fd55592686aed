package store

import (
	"context"
	"slices"

	"gorm.io/gorm"
)

// QueuedRun is a run that waits or is under way, with the name of its model.
type QueuedRun struct {
	Run
	Name string
}

// Queue lists the runs of all models that are under way, and behind them those that wait, in their turn.
func (s *Store) Queue(ctx context.Context) ([]QueuedRun, error) {
	var list []QueuedRun
	err := s.db.WithContext(ctx).Table("jobs").Select("runs.*, models.name AS name").
		Joins("JOIN runs ON runs.id = jobs.run_id").Joins("JOIN models ON models.id = runs.model_id").
		Where("jobs.state IN ?", []string{Queued, Running}).Order("jobs.state = 'queued', jobs.place, jobs.id").Scan(&list).Error
	return list, err
}

// MoveQueued moves a run that waits by some places in the queue; one that does not wait any more stays.
func (s *Store) MoveQueued(ctx context.Context, runID uint, by int) error {
	return s.transaction(ctx, func(tx *gorm.DB) error {
		list, err := gorm.G[Job](tx).Where("state = ?", Queued).Order("place, id").Find(ctx)
		if err != nil {
			return err
		}
		from := slices.IndexFunc(list, func(j Job) bool { return j.RunID == runID })
		if from < 0 {
			return nil
		}
		job := list[from]
		list = slices.Insert(slices.Delete(list, from, from+1), min(max(from+by, 0), len(list)-1), job)
		for i := range list {
			list[i].Place = i + 1
			if err := tx.Save(&list[i]).Error; err != nil {
				return err
			}
		}
		return nil
	})
}
