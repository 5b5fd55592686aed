package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"

	"saltkettle/core/result"
)

// Series is one working off of a trial set of a revision of a model.
type Series struct {
	ID        uint `gorm:"primaryKey"`
	ModelID   uint
	SetID     string // of the trial set in the document
	Number    int    // counts the series of the model
	Revision  int
	Status    string // queued, running, done or stopped
	Message   string
	Count     int // of trials
	CreatedAt time.Time
	Seconds   float64
}

// Ends of a series.
const (
	SeriesDone    = "done"
	SeriesStopped = "stopped"
)

// Active says that the series is waiting or under way.
func (s Series) Active() bool { return s.Status == Queued || s.Status == Running }

// Trial is a trial of a series, once it has been made: a run of the document of its
// revision with other values of parameters.
type Trial struct {
	SeriesID uint `gorm:"primaryKey;autoIncrement:false"`
	Place    int  `gorm:"primaryKey;autoIncrement:false"` // in the set, counted from 0
	Status   string
	Message  string
	Seconds  float64
	Unknowns int
	// Kept overrules by hand whether the trial counts; nil leaves it to its status.
	Kept *bool
	// Results are the readings as JSON.
	Results string `gorm:"column:readings"`
}

// Counts says whether the trial may be compared with others.
func (t *Trial) Counts() bool {
	if t.Kept != nil {
		return *t.Kept
	}
	return t.Status == string(result.Settled)
}

// Readings are those of the trial; there are none of one that failed.
func (t *Trial) Readings() []result.Reading {
	var list []result.Reading
	if json.Unmarshal([]byte(t.Results), &list) != nil {
		return nil
	}
	return list
}

// QueueSeries begins a series of a trial set of the current revision.
func (s *Store) QueueSeries(ctx context.Context, modelID uint, setID string, count int) (Series, error) {
	var out Series
	err := s.transaction(ctx, func(tx *gorm.DB) error {
		m, err := gorm.G[Model](tx).Where("id = ? AND removed_at IS NULL", modelID).First(ctx)
		if err != nil {
			return found(err, fmt.Sprintf("model %d", modelID))
		}
		var last int
		if err := tx.Model(&Series{}).Where("model_id = ?", modelID).Select("COALESCE(MAX(number), 0)").Scan(&last).Error; err != nil {
			return err
		}
		out = Series{ModelID: modelID, SetID: setID, Number: last + 1, Revision: m.Head, Status: Queued, Count: count, CreatedAt: s.now()}
		return gorm.G[Series](tx).Create(ctx, &out)
	})
	return out, err
}

// NextSeries returns the oldest series that is under way or waits, and marks it as
// running. ErrNotFound says that there is none.
func (s *Store) NextSeries(ctx context.Context) (Series, error) {
	list, err := gorm.G[Series](s.db).Where("status IN ?", []string{Running, Queued}).Order("id").Limit(1).Find(ctx)
	if err != nil {
		return Series{}, err
	}
	if len(list) == 0 {
		return Series{}, ErrNotFound
	}
	if list[0].Status == Queued {
		list[0].Status = Running
		err = s.MarkSeries(ctx, list[0].ID, Running, "")
	}
	return list[0], err
}

// MarkSeries gives a series another status.
func (s *Store) MarkSeries(ctx context.Context, id uint, status, message string) error {
	return s.db.WithContext(ctx).Model(&Series{}).Where("id = ?", id).Updates(map[string]any{"status": status, "message": message}).Error
}

// Series returns a series.
func (s *Store) Series(ctx context.Context, id uint) (Series, error) {
	r, err := gorm.G[Series](s.db).Where("id = ?", id).First(ctx)
	return r, found(err, fmt.Sprintf("series %d", id))
}

// LastSeries returns the newest series of a trial set of a model.
func (s *Store) LastSeries(ctx context.Context, modelID uint, setID string) (Series, error) {
	r, err := gorm.G[Series](s.db).Where("model_id = ? AND set_id = ?", modelID, setID).Order("number DESC").First(ctx)
	return r, found(err, "a series of the trial set")
}

// SeriesCount is a series with how many of its trials have been made.
type SeriesCount struct {
	Series
	Made int
	Kept int // changes when a trial is kept or left out by hand
}

// ModelSeries lists the series of a model, the oldest first.
func (s *Store) ModelSeries(ctx context.Context, modelID uint) ([]SeriesCount, error) {
	var list []SeriesCount
	err := s.db.WithContext(ctx).Table("series").Where("series.model_id = ?", modelID).Order("series.number").
		Select("series.*, COUNT(trials.place) AS made, COALESCE(SUM((1 + trials.kept) * (1 + trials.place)), 0) AS kept").
		Joins("LEFT JOIN trials ON trials.series_id = series.id").Group("series.id").Scan(&list).Error
	return list, err
}

// SeriesTook adds to the time that a series has taken.
func (s *Store) SeriesTook(ctx context.Context, id uint, seconds float64) error {
	return s.db.WithContext(ctx).Model(&Series{}).Where("id = ?", id).UpdateColumn("seconds", gorm.Expr("seconds + ?", seconds)).Error
}

// AddTrial records a trial that was made.
func (s *Store) AddTrial(ctx context.Context, t Trial, readings []result.Reading) error {
	text, err := json.Marshal(readings)
	if err != nil {
		return err
	}
	t.Results = string(text)
	return s.db.WithContext(ctx).Save(&t).Error
}

// Trials lists the trials of a series that have been made, in the order of the set.
func (s *Store) Trials(ctx context.Context, seriesID uint) ([]Trial, error) {
	return gorm.G[Trial](s.db).Where("series_id = ?", seriesID).Order("place").Find(ctx)
}

// KeepTrial says by hand whether a trial counts; nil leaves it to its status again.
func (s *Store) KeepTrial(ctx context.Context, seriesID uint, place int, kept *bool) error {
	done := s.db.WithContext(ctx).Model(&Trial{}).Where("series_id = ? AND place = ?", seriesID, place).Update("kept", kept)
	if done.Error == nil && done.RowsAffected == 0 {
		return fmt.Errorf("trial %d: %w", place+1, ErrNotFound)
	}
	return done.Error
}
