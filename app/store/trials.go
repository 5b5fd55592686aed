package store

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"saltkettle/core/model"
	"saltkettle/core/result"
	"saltkettle/core/solve"
	"saltkettle/core/trial"
)

// Series is what is made of a trial set of a revision.
type Series struct {
	ID        uint `gorm:"primaryKey"`
	ModelID   uint
	SetID     string // of the trial set in the document
	Number    int    // counts the series of the model
	Revision  int
	Status    string // queued, running, done or stopped
	Message   string
	Count     int // of trials of the pattern
	CreatedAt time.Time
	Seconds   float64
	// Wanted are the places of the trials that are to be made, as JSON; empty for all of the pattern.
	Wanted string
	// Added are the trials beyond the pattern as JSON: proposals of a search, behind the places of the pattern.
	Added string
	// Searching says that further trials are chosen when all that are wanted are made.
	Searching bool
	// Marks are the places of the trials that people marked, as JSON, made or not.
	Marks string
	// Touched counts what people changed by hand.
	Touched int
}

// Ends of a series.
const (
	SeriesDone    = "done"
	SeriesStopped = "stopped"
)

// Active says that the series is waiting or under way.
func (s Series) Active() bool { return s.Status == Queued || s.Status == Running }

// Proposals are the trials beyond the pattern.
func (s Series) Proposals() (list []trial.Proposal) {
	if s.Added == "" || json.Unmarshal([]byte(s.Added), &list) != nil {
		return nil
	}
	return list
}

// With is a trial set with the trials of the series beyond its pattern.
func (s Series) With(t *model.ResolvedTrials) *model.ResolvedTrials {
	var added [][]float64
	for _, p := range s.Proposals() {
		if len(p.Values) == len(t.Axes) {
			added = append(added, p.Values)
		}
	}
	return t.With(added)
}

// Places are those of the trials that are to be made: of the pattern those that are wanted, and all beyond it.
func (s Series) Places() (places []int) {
	if s.Wanted == "" || json.Unmarshal([]byte(s.Wanted), &places) != nil {
		places = nil
		for i := range s.Count {
			places = append(places, i)
		}
	}
	for i := range s.Proposals() {
		if !slices.Contains(places, s.Count+i) {
			places = append(places, s.Count+i)
		}
	}
	return places
}

// Marked are the places of the trials that people marked.
func (s Series) Marked() (places []int) {
	if s.Marks == "" || json.Unmarshal([]byte(s.Marks), &places) != nil {
		return nil
	}
	return places
}

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
	// ByHand are values of readings that people set, as JSON.
	ByHand string
	// Slopes are how readings change with what varies, as JSON; SlopesWanted if they are asked for.
	Slopes string
	// Results are the readings as JSON.
	Results string `gorm:"column:readings"`
}

// SlopesWanted stands for slopes that are asked for and not found yet.
const SlopesWanted = "wanted"

// SlopeList is how readings change with what varies, nil if that is not known.
func (t *Trial) SlopeList() (list []solve.Slope) {
	if json.Unmarshal([]byte(t.Slopes), &list) != nil {
		return nil
	}
	return list
}

// HandValues are values of readings that were set by hand, and why. The computed ones stay beside them.
type HandValues struct {
	Values map[string]float64 `json:"values"` // SI by reading
	Reason string             `json:"reason"`
}

// Hand is what was set by hand, nil for nothing.
func (t *Trial) Hand() *HandValues {
	var h HandValues
	if t.ByHand == "" || json.Unmarshal([]byte(t.ByHand), &h) != nil || len(h.Values) == 0 {
		return nil
	}
	return &h
}

// Counts says whether the trial may be compared with others.
func (t *Trial) Counts() bool {
	if t.Kept != nil {
		return *t.Kept
	}
	return t.Status == string(result.Settled) || t.Hand() != nil
}

// Readings are those of the trial; there are none of one that failed.
func (t *Trial) Readings() []result.Reading {
	var list []result.Reading
	if json.Unmarshal([]byte(t.Results), &list) != nil {
		return nil
	}
	return list
}

// Outcome is what came of the trial, with what was set by hand in place of what was computed.
func (t *Trial) Outcome() trial.Outcome {
	out := trial.Outcome{Done: true, Counts: t.Counts(), Failed: !t.Counts(), Readings: map[string]float64{}}
	for _, q := range t.Readings() {
		if q.Missing == "" {
			out.Readings[q.Key] = q.Value
		}
	}
	if h := t.Hand(); h != nil {
		maps.Copy(out.Readings, h.Values)
	}
	return out
}

// QueueSeries begins a series of a trial set of the current revision, of so many trials, of which those are made that are wanted, all for nil. The
// fields of earlier series of the set are deleted.
func (s *Store) QueueSeries(ctx context.Context, modelID uint, setID string, count int, wanted []int) (Series, error) {
	text, err := placesText(wanted)
	if err != nil {
		return Series{}, err
	}
	var out Series
	err = s.transaction(ctx, func(tx *gorm.DB) error {
		m, err := gorm.G[Model](tx).Where("id = ? AND removed_at IS NULL", modelID).First(ctx)
		if err != nil {
			return found(err, fmt.Sprintf("model %d", modelID))
		}
		var last int
		if err := tx.Model(&Series{}).Where("model_id = ?", modelID).Select("COALESCE(MAX(number), 0)").Scan(&last).Error; err != nil {
			return err
		}
		out = Series{ModelID: modelID, SetID: setID, Number: last + 1, Revision: m.Head, Status: Queued, Count: count, Wanted: text, CreatedAt: s.now()}
		return gorm.G[Series](tx).Create(ctx, &out)
	})
	if err != nil {
		return out, err
	}
	return out, s.dropFields(ctx, "series_id IN (SELECT id FROM series WHERE model_id = ? AND set_id = ? AND id <> ?)", modelID, setID, out.ID)
}

func placesText(places []int) (string, error) {
	if places == nil {
		return "", nil
	}
	data, err := json.Marshal(places)
	return string(data), err
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

// WantMore lets a series that has ended make further trials of its pattern as well, nil for all; those of them that did not settle are made again.
func (s *Store) WantMore(ctx context.Context, id uint, places []int) error {
	return s.transaction(ctx, func(tx *gorm.DB) error {
		series, err := gorm.G[Series](tx).Where("id = ?", id).First(ctx)
		if err != nil {
			return found(err, fmt.Sprintf("series %d", id))
		}
		if series.Active() {
			return &RefusedError{fmt.Errorf("these trials are still under way")}
		}
		text := ""
		if places != nil {
			all := series.Places()
			for _, p := range places {
				if p >= 0 && p < series.Count+len(series.Proposals()) && !slices.Contains(all, p) {
					all = append(all, p)
				}
			}
			slices.Sort(all)
			if text, err = placesText(all); err != nil {
				return err
			}
			if err := tx.Where("series_id = ? AND place IN ? AND status <> ?", id, places, string(result.Settled)).Delete(&Trial{}).Error; err != nil {
				return err
			}
		}
		return tx.Model(&Series{}).Where("id = ?", id).Updates(map[string]any{"status": Queued, "message": "", "searching": false, "wanted": text}).Error
	})
}

// Search lets a series that has ended choose further trials.
func (s *Store) Search(ctx context.Context, id uint) error {
	return s.db.WithContext(ctx).Model(&Series{}).Where("id = ? AND status NOT IN ?", id, []string{Queued, Running}).
		Updates(map[string]any{"status": Queued, "message": "", "searching": true}).Error
}

// AddProposals adds trials beyond the pattern to a series and lets it make them. One that has ended makes them alone, and searches no further.
func (s *Store) AddProposals(ctx context.Context, id uint, more []trial.Proposal) error {
	return s.transaction(ctx, func(tx *gorm.DB) error {
		series, err := gorm.G[Series](tx).Where("id = ?", id).First(ctx)
		if err != nil {
			return found(err, fmt.Sprintf("series %d", id))
		}
		list := append(series.Proposals(), more...)
		if series.Count+len(list) > model.MaxTrials {
			return &RefusedError{fmt.Errorf("a series has at most %d trials", model.MaxTrials)}
		}
		text, err := json.Marshal(list)
		if err != nil {
			return err
		}
		change := map[string]any{"added": string(text)}
		if !series.Active() {
			change["status"], change["message"], change["searching"] = Queued, "", false
		}
		return tx.Model(&Series{}).Where("id = ?", id).Updates(change).Error
	})
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
}

// ModelSeries lists the series of a model, the oldest first.
func (s *Store) ModelSeries(ctx context.Context, modelID uint) ([]SeriesCount, error) {
	var list []SeriesCount
	err := s.db.WithContext(ctx).Table("series").Where("series.model_id = ?", modelID).Order("series.number").
		Select("series.*, COUNT(trials.place) AS made").
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
	return s.changeTrials(ctx, seriesID, []int{place}, "kept", kept)
}

// MarkTrials sets the marks of trials, or takes them away.
func (s *Store) MarkTrials(ctx context.Context, seriesID uint, places []int, marked bool) error {
	return s.transaction(ctx, func(tx *gorm.DB) error {
		series, err := gorm.G[Series](tx).Where("id = ?", seriesID).First(ctx)
		if err != nil {
			return found(err, fmt.Sprintf("series %d", seriesID))
		}
		list := slices.DeleteFunc(series.Marked(), func(p int) bool { return slices.Contains(places, p) })
		for _, p := range places {
			if p < 0 || p >= series.Count+len(series.Proposals()) {
				return fmt.Errorf("trial %d: %w", p+1, ErrNotFound)
			}
			if marked {
				list = append(list, p)
			}
		}
		slices.Sort(list)
		text, err := placesText(slices.Compact(list))
		if err != nil {
			return err
		}
		return tx.Model(&Series{}).Where("id = ?", seriesID).Updates(map[string]any{"marks": text, "touched": gorm.Expr("touched + 1")}).Error
	})
}

// SetByHand sets values of readings of a trial by hand; the computed ones stay. No values take back what was set.
func (s *Store) SetByHand(ctx context.Context, seriesID uint, place int, h HandValues) error {
	text := ""
	if len(h.Values) > 0 {
		if strings.TrimSpace(h.Reason) == "" {
			return &RefusedError{fmt.Errorf("say why the value is set by hand")}
		}
		if len(h.Reason) > MostNote {
			return &RefusedError{fmt.Errorf("a reason may have %d characters at most", MostNote)}
		}
		data, err := json.Marshal(h)
		if err != nil {
			return err
		}
		text = string(data)
	}
	return s.changeTrials(ctx, seriesID, []int{place}, "by_hand", text)
}

func (s *Store) changeTrials(ctx context.Context, seriesID uint, places []int, column string, value any) error {
	return s.transaction(ctx, func(tx *gorm.DB) error {
		done := tx.Model(&Trial{}).Where("series_id = ? AND place IN ?", seriesID, places).Update(column, value)
		if done.Error == nil && done.RowsAffected == 0 && len(places) > 0 {
			return fmt.Errorf("trial %d: %w", places[0]+1, ErrNotFound)
		}
		if done.Error != nil {
			return done.Error
		}
		return tx.Model(&Series{}).Where("id = ?", seriesID).UpdateColumn("touched", gorm.Expr("touched + 1")).Error
	})
}

// WantSlopes asks for the slopes of a trial.
func (s *Store) WantSlopes(ctx context.Context, seriesID uint, place int) error {
	if err := s.changeTrials(ctx, seriesID, []int{place}, "slopes", SlopesWanted); err != nil {
		return err
	}
	return s.db.WithContext(ctx).Model(&Series{}).Where("id = ? AND status NOT IN ?", seriesID, []string{Queued, Running}).
		Updates(map[string]any{"status": Queued, "searching": false}).Error
}

// SetSlopes records the slopes of a trial.
func (s *Store) SetSlopes(ctx context.Context, seriesID uint, place int, list []solve.Slope) error {
	text, err := json.Marshal(list)
	if err != nil {
		return err
	}
	return s.changeTrials(ctx, seriesID, []int{place}, "slopes", string(text))
}

// BeginTrialRun makes room for the fields of a trial: a run of the revision of its series with other values of parameters, which counts as broken
// off until it is finished.
func (s *Store) BeginTrialRun(ctx context.Context, series Series, place int, parameters map[string]string) (Run, error) {
	if err := s.dropFields(ctx, "series_id = ? AND trial = ?", series.ID, place); err != nil {
		return Run{}, err
	}
	text, err := json.Marshal(parameters)
	if err != nil {
		return Run{}, err
	}
	var r Run
	err = s.transaction(ctx, func(tx *gorm.DB) error {
		var last int
		if err := tx.Model(&Run{}).Where("model_id = ?", series.ModelID).Select("COALESCE(MIN(number), 0)").Scan(&last).Error; err != nil {
			return err
		}
		r = Run{ModelID: series.ModelID, Number: min(last, 0) - 1, Revision: series.Revision, Status: Interrupted, CreatedAt: s.now(), Token: rand.Text(),
			SeriesID: series.ID, Trial: place, Parameters: string(text)}
		return gorm.G[Run](tx).Create(ctx, &r)
	})
	return r, err
}

// TrialRuns lists the runs that are trials of a series with their fields, in the order of the set.
func (s *Store) TrialRuns(ctx context.Context, seriesID uint) ([]Run, error) {
	return gorm.G[Run](s.db).Where("series_id = ? AND has_result", seriesID).Order("trial").Find(ctx)
}

// DropFields deletes the fields of the trials of a series.
func (s *Store) DropFields(ctx context.Context, seriesID uint) error {
	return s.dropFields(ctx, "series_id = ?", seriesID)
}

func (s *Store) dropFields(ctx context.Context, where string, args ...any) error {
	var runs []Run
	err := s.transaction(ctx, func(tx *gorm.DB) (err error) {
		if runs, err = gorm.G[Run](tx).Where("number < 0 AND "+where, args...).Find(ctx); err != nil {
			return err
		}
		for _, r := range runs {
			if err := tx.Exec("DELETE FROM runs WHERE id = ?", r.ID).Error; err != nil {
				return err
			}
		}
		return nil
	})
	for _, r := range runs {
		err = errors.Join(err, s.discard(r.ID))
	}
	return err
}

// RunDocument is the document that a run was made of: of a trial the revision with its values of the parameters.
func (s *Store) RunDocument(ctx context.Context, r Run) (*model.Document, error) {
	doc, err := s.Document(ctx, r.ModelID, r.Revision)
	if err != nil || r.Parameters == "" {
		return doc, err
	}
	var values map[string]string
	if err := json.Unmarshal([]byte(r.Parameters), &values); err != nil {
		return nil, err
	}
	for _, name := range slices.Sorted(maps.Keys(values)) {
		if err := doc.SetParameter(name, values[name]); err != nil {
			return nil, err
		}
	}
	return doc, nil
}

// SeriesDocument is the document that a series was made of, with what is wanted of its trials, and how it is predicted and sought, as the newest
// revision says: that changes nothing of what was tried.
func (s *Store) SeriesDocument(ctx context.Context, series Series) (*model.Document, error) {
	doc, err := s.Document(ctx, series.ModelID, series.Revision)
	if err != nil {
		return nil, err
	}
	now, err := s.Document(ctx, series.ModelID, 0)
	if err != nil {
		return nil, err
	}
	for i := range doc.Trials {
		for _, t := range now.Trials {
			if d := &doc.Trials[i]; d.ID == t.ID && d.ID == series.SetID {
				d.Goals, d.Limits, d.While, d.Surface, d.Search = t.Goals, t.Limits, t.While, t.Surface, t.Search
			}
		}
	}
	return doc, nil
}

// Waits says that a run waits to be made.
func (s *Store) Waits(ctx context.Context) bool {
	n, err := gorm.G[Job](s.db).Where("state = ?", Queued).Count(ctx, "id")
	return err == nil && n > 0
}
