package store

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Setting is a choice about a data folder.
type Setting struct {
	Name  string `gorm:"primaryKey"`
	Value int
}

// Names of settings, with what they are if nobody has chosen.
const (
	// BinDays is after how many days models in the bin are deleted; 0 means never.
	BinDays = "bin_days"
	// KeepResults is of how many runs of a model, the newest, the fields are kept; 0 means
	// of all. Readings always stay.
	KeepResults = "keep_results"
)

var usual = map[string]int{BinDays: 30, KeepResults: 0}

// Setting returns a setting.
func (s *Store) Setting(ctx context.Context, name string) (int, error) {
	x, err := gorm.G[Setting](s.db).Where("name = ?", name).First(ctx)
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return usual[name], nil
	}
	return x.Value, err
}

// Set changes a setting.
func (s *Store) Set(ctx context.Context, name string, value int) error {
	if _, known := usual[name]; !known || value < 0 || value > 100_000 {
		return &RefusedError{fmt.Errorf("%s cannot be %d", name, value)}
	}
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&Setting{name, value}).Error
}

// ActiveError says that something cannot be deleted while a run of it is under way.
type ActiveError struct{ What string }

func (e *ActiveError) Error() string {
	return e.What + " is waiting or under way: stop it first"
}

// Purge deletes a model from the bin for good, with its revisions, runs and results.
func (s *Store) Purge(ctx context.Context, id uint) error {
	m, err := s.Removed(ctx, id)
	if err != nil {
		return err
	}
	var runs []Run
	err = s.transaction(ctx, func(tx *gorm.DB) error {
		if runs, err = gorm.G[Run](tx).Where("model_id = ?", id).Find(ctx); err != nil {
			return err
		}
		for _, r := range runs {
			if r.Active() {
				return &ActiveError{fmt.Sprintf("run #%d of %s", r.Number, m.Name)}
			}
		}
		active, err := gorm.G[Series](tx).Where("model_id = ? AND status IN ?", id, []string{Queued, Running}).Count(ctx, "id")
		if err != nil {
			return err
		}
		if active > 0 {
			return &ActiveError{"a series of trials of " + m.Name}
		}
		if err := tx.Exec("DELETE FROM models WHERE id = ?", id).Error; err != nil {
			return err
		}
		return tx.Exec("DELETE FROM surfaces WHERE content NOT IN (SELECT content FROM revision_surfaces)").Error
	})
	if err != nil {
		return err
	}
	// The database does not refer to them any more: what is left after a crash is swept.
	for _, r := range runs {
		err = errors.Join(err, s.discard(r.ID))
	}
	return err
}

// discard removes the folder of a run, which the database must not refer to. It first gets the
// name of one that is not complete, so that a crash leaves nothing that looks like a result.
func (s *Store) discard(run uint) error {
	if err := os.Rename(s.RunDir(run), s.RunTemp(run)); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return os.RemoveAll(s.RunTemp(run))
}

// DeleteRun deletes a run with its readings and its result.
func (s *Store) DeleteRun(ctx context.Context, id uint) (Run, error) {
	var run Run
	err := s.transaction(ctx, func(tx *gorm.DB) error {
		var err error
		if run, err = gorm.G[Run](tx).Where("id = ?", id).First(ctx); err != nil {
			return found(err, fmt.Sprintf("run %d", id))
		}
		if run.Active() {
			return &ActiveError{fmt.Sprintf("run #%d", run.Number)}
		}
		if err := tx.Exec("UPDATE models SET last_run = MAX(last_run, ?) WHERE id = ?", run.Number, run.ModelID).Error; err != nil {
			return err
		}
		return tx.Exec("DELETE FROM runs WHERE id = ?", id).Error
	})
	if err != nil {
		return run, err
	}
	return run, s.discard(id)
}

// keptAs is the message of a run whose fields were deleted.
const keptAs = "its fields were deleted to save room; the readings stay"

// MostNote is how long a note about a run can be, bytes.
const MostNote = 500

// NoteRun keeps what people write about a run.
func (s *Store) NoteRun(ctx context.Context, id uint, note string) error {
	if len(note) > MostNote {
		return &RefusedError{fmt.Errorf("a note may have %d characters at most", MostNote)}
	}
	return s.changeRun(ctx, id, "note", note)
}

// KeepRun says whether the fields of a run are kept however many newer ones there are.
func (s *Store) KeepRun(ctx context.Context, id uint, kept bool) error {
	return s.changeRun(ctx, id, "kept", kept)
}

func (s *Store) changeRun(ctx context.Context, id uint, column string, value any) error {
	return s.transaction(ctx, func(tx *gorm.DB) error {
		r := tx.Model(&Run{}).Where("id = ?", id).Update(column, value)
		if r.Error == nil && r.RowsAffected == 0 {
			return fmt.Errorf("run %d: %w", id, ErrNotFound)
		}
		return r.Error
	})
}

// RunBytes is what the files of a run take on the disk.
func (s *Store) RunBytes(id uint) (sum int64) {
	entries, err := os.ReadDir(s.RunDir(id))
	if err != nil {
		return 0
	}
	for _, e := range entries {
		if info, err := e.Info(); err == nil {
			sum += info.Size()
		}
	}
	return sum
}

// DropResults deletes the fields and checkpoints of all but the newest runs of a model that have
// some, and returns of how many. Those that are kept do not count.
func (s *Store) DropResults(ctx context.Context, model uint, keep int) (int, error) {
	var runs []Run
	err := s.transaction(ctx, func(tx *gorm.DB) error {
		var err error
		if runs, err = gorm.G[Run](tx).Where("model_id = ? AND number > 0 AND (has_result OR reached > 0) AND NOT kept AND status NOT IN ?", model, []string{Queued, Running}).Order("number DESC").Offset(keep).Limit(-1).Find(ctx); err != nil {
			return err
		}
		for i := range runs {
			if err := tx.Model(&Run{}).Where("id = ?", runs[i].ID).Updates(map[string]any{"has_result": false, "reached": 0, "message": keptAs}).Error; err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return 0, err
	}
	for _, r := range runs {
		err = errors.Join(err, s.discard(r.ID))
	}
	return len(runs), err
}

// KeepNewest deletes the fields of older runs of a model, as far as the settings say so.
func (s *Store) KeepNewest(ctx context.Context, model uint) (int, error) {
	keep, err := s.Setting(ctx, KeepResults)
	if err != nil || keep == 0 {
		return 0, err
	}
	return s.DropResults(ctx, model, keep)
}

// Tidy does what the settings say: it deletes models that have been in the bin for long enough
// and the fields of older runs, and gives room that the database does not need back to the disk.
// It returns what it did in words, "" for nothing.
func (s *Store) Tidy(ctx context.Context) (string, error) {
	days, err := s.Setting(ctx, BinDays)
	if err != nil {
		return "", err
	}
	said := ""
	if days > 0 {
		bin, err := s.Bin(ctx)
		if err != nil {
			return "", err
		}
		gone := 0
		for _, m := range bin {
			if s.now().Sub(*m.RemovedAt) < time.Duration(days)*24*time.Hour {
				continue
			}
			var active *ActiveError
			if err := s.Purge(ctx, m.ID); errors.As(err, &active) {
				continue
			} else if err != nil {
				return said, err
			}
			gone++
		}
		if gone > 0 {
			said += fmt.Sprintf("models deleted from the bin: %d. ", gone)
		}
	}
	models, err := gorm.G[Model](s.db).Find(ctx)
	if err != nil {
		return said, err
	}
	dropped := 0
	for _, m := range models {
		n, err := s.KeepNewest(ctx, m.ID)
		if err != nil {
			return said, err
		}
		dropped += n
	}
	if dropped > 0 {
		said += fmt.Sprintf("results deleted: %d. ", dropped)
	}
	older, err := s.packOlder(ctx)
	if err != nil {
		return said, err
	}
	if older > 0 {
		said += fmt.Sprintf("revisions whose surfaces are stored apart now: %d. ", older)
	}
	freed, err := s.vacuum(ctx, false)
	if freed > 0 {
		said += fmt.Sprintf("given back to the disk: %d kB. ", freed>>10)
	}
	return said, err
}

// Bin lists the models that were taken off the shelf, the last one first.
func (s *Store) Bin(ctx context.Context) ([]Model, error) {
	return gorm.G[Model](s.db).Where("removed_at IS NOT NULL").Order("removed_at DESC").Find(ctx)
}

// vacuum gives room that the database does not need back to the disk, if that is a quarter of it
// or if it has to be, and returns how much, bytes.
func (s *Store) vacuum(ctx context.Context, always bool) (int64, error) {
	var pages, free, size int64
	db := s.db.WithContext(ctx)
	for pragma, to := range map[string]*int64{"page_count": &pages, "freelist_count": &free, "page_size": &size} {
		if err := db.Raw("PRAGMA " + pragma).Scan(to).Error; err != nil {
			return 0, err
		}
	}
	if free == 0 || !always && (free*size < 4<<20 || free < pages/4) {
		return 0, nil
	}
	if err := db.Exec("VACUUM").Error; err != nil {
		return 0, err
	}
	return free * size, db.Exec("PRAGMA wal_checkpoint(TRUNCATE)").Error
}

// Vacuum gives all room that the database does not need back to the disk.
func (s *Store) Vacuum(ctx context.Context) (int64, error) { return s.vacuum(ctx, true) }

// Use is what a model takes on the disk.
type Use struct {
	Model              Model
	Revisions          int
	Runs, Results      int
	Documents, Folders int64 // bytes
}

// Bytes is all of it.
func (u *Use) Bytes() int64 { return u.Documents + u.Folders }

// DiskUse is what a data folder takes.
type DiskUse struct {
	Models []Use // on the shelf and in the bin
	// Database, Views and Other are the file of the database, view factors that runs share,
	// and all else in the folder, bytes.
	Database, Views, Other int64
	// Free is what is left on the disk, bytes, −1 if that is not known.
	Free int64
}

// Bytes is all of it.
func (d *DiskUse) Bytes() int64 {
	n := d.Database + d.Views + d.Other
	for i := range d.Models {
		n += d.Models[i].Folders
	}
	return n
}

// Disk measures what models take on the disk.
func (s *Store) Disk(ctx context.Context) (*DiskUse, error) {
	models, err := gorm.G[Model](s.db).Order("updated_at DESC, id DESC").Find(ctx)
	if err != nil {
		return nil, err
	}
	db := s.db.WithContext(ctx)
	type count struct {
		ModelID uint
		N       int
		Size    int64
	}
	counted := func(query string) (map[uint]count, error) {
		var list []count
		err := db.Raw(query).Scan(&list).Error
		out := map[uint]count{}
		for _, c := range list {
			out[c.ModelID] = c
		}
		return out, err
	}
	revisions, err := counted("SELECT model_id, COUNT(*) AS n, SUM(LENGTH(document)) AS size FROM revisions GROUP BY model_id")
	if err != nil {
		return nil, err
	}
	surfaces, err := counted(`SELECT r.model_id, 0 AS n, SUM(LENGTH(s.data)) AS size FROM surfaces s
		JOIN (SELECT DISTINCT v.model_id, w.content FROM revision_surfaces w JOIN revisions v ON v.id = w.revision_id) r ON r.content = s.content GROUP BY r.model_id`)
	if err != nil {
		return nil, err
	}
	runs, err := gorm.G[Run](s.db).Select("id", "model_id", "has_result").Find(ctx)
	if err != nil {
		return nil, err
	}
	place := map[uint]int{}
	out := &DiskUse{Free: free(s.dir)}
	for i, m := range models {
		place[m.ID] = i
		out.Models = append(out.Models, Use{Model: m, Revisions: revisions[m.ID].N, Documents: revisions[m.ID].Size + surfaces[m.ID].Size})
	}
	owner := map[string]uint{}
	for _, r := range runs {
		u := &out.Models[place[r.ModelID]]
		u.Runs++
		if r.HasResult {
			u.Results++
		}
		owner[strconv.Itoa(int(r.ID))], owner[strconv.Itoa(int(r.ID))+".part"] = r.ModelID, r.ModelID
	}
	err = filepath.WalkDir(s.dir, func(path string, e fs.DirEntry, err error) error {
		if errors.Is(err, fs.ErrNotExist) {
			return nil // it was deleted meanwhile
		}
		if err != nil || e.IsDir() {
			return err
		}
		info, err := e.Info()
		if err != nil {
			return nil // so was this
		}
		out.add(s.dir, path, info.Size(), owner, place)
		return nil
	})
	return out, err
}

// add counts a file to what it belongs to.
func (d *DiskUse) add(dir, path string, size int64, owner map[string]uint, place map[uint]int) {
	rest, err := filepath.Rel(dir, path)
	if err != nil {
		rest = path
	}
	first, below, _ := strings.Cut(filepath.ToSlash(rest), "/")
	switch {
	case first == "runs":
		run, _, _ := strings.Cut(below, "/")
		if model, ok := owner[run]; ok {
			d.Models[place[model]].Folders += size
			return
		}
		d.Other += size
	case first == "views":
		d.Views += size
	case strings.HasPrefix(first, databaseFile):
		d.Database += size
	default:
		d.Other += size
	}
}
