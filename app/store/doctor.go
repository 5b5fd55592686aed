package store

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"gorm.io/gorm"

	"saltkettle/core/result"
)

// Complaint is something that is wrong with a data folder.
type Complaint struct {
	// What is wrong, and what can be done, in words.
	What, Advice string
	// Mended says that it was.
	Mended bool
	mend   func() error
}

// Checkup is what a look at a data folder found.
type Checkup struct {
	Kept
	Complaints []Complaint
}

// Well says that nothing is wrong, or not any more.
func (c *Checkup) Well() bool {
	return !slices.ContainsFunc(c.Complaints, func(w Complaint) bool { return !w.Mended })
}

// Examine looks at a data folder in which no server works: whether the database is whole, every
// revision can be read, every result is what its run wrote, and nothing lies about. With mend
// set it mends what can be: results that are damaged are put aside, in the folder damaged, and
// their runs marked as failed, and what belongs to nothing is put aside too. It deletes
// nothing but what runs left that did not end.
func Examine(ctx context.Context, dir string, mend bool) (*Checkup, error) {
	if _, err := os.Stat(filepath.Join(dir, databaseFile)); err != nil {
		return nil, fmt.Errorf("there is no data folder at %s: %w", dir, err)
	}
	held, err := lock(dir)
	if err != nil {
		return nil, err
	}
	defer held.Close()
	db, err := connect(dir)
	if err != nil {
		return nil, err
	}
	defer disconnect(db)
	d := &doctor{db: db, dir: dir}
	if whole, err := d.database(ctx); err != nil || !whole {
		return &d.Checkup, err
	}
	kept, runs, err := holds(ctx, dir)
	if err != nil {
		return nil, fmt.Errorf("the database cannot be read: %w", err)
	}
	d.Kept = kept
	if err := d.revisions(ctx); err != nil {
		return nil, err
	}
	d.results(ctx, runs)
	if err := d.loose(ctx, runs); err != nil {
		return nil, err
	}
	for i := range d.Complaints {
		c := &d.Complaints[i]
		if !mend || c.mend == nil {
			continue
		}
		if err := c.mend(); err != nil {
			return &d.Checkup, fmt.Errorf("%s: it could not be mended: %w", c.What, err)
		}
		c.Mended = true
	}
	return &d.Checkup, nil
}

type doctor struct {
	Checkup
	db  *gorm.DB
	dir string
}

func (d *doctor) complain(what, advice string, mend func() error) {
	d.Complaints = append(d.Complaints, Complaint{What: what, Advice: advice, mend: mend})
}

// database says whether the database is whole.
func (d *doctor) database(ctx context.Context) (bool, error) {
	var found []string
	if err := d.db.WithContext(ctx).Raw("PRAGMA integrity_check(20)").Scan(&found).Error; err != nil {
		found = []string{err.Error()}
	}
	if !slices.Equal(found, []string{"ok"}) {
		d.complain("the database is damaged: "+strings.Join(found, "; "), "restore a backup", nil)
		return false, nil
	}
	var version int
	if err := d.db.WithContext(ctx).Raw("SELECT COALESCE(MAX(version), 0) FROM schema_versions").Scan(&version).Error; err != nil {
		d.complain("the database is not one of this program: "+err.Error(), "restore a backup", nil)
		return false, nil
	}
	if version != len(migrations) {
		return false, fmt.Errorf("the data folder has schema %d and this program knows %d; start a server of the version that is to use it once, which brings it up to date", version, len(migrations))
	}
	var loose []struct{ Table, Parent string }
	if err := d.db.WithContext(ctx).Raw("PRAGMA foreign_key_check").Scan(&loose).Error; err != nil {
		return false, err
	}
	if len(loose) > 0 {
		d.complain(fmt.Sprintf("the database has %d rows that refer to what is not there, the first in %s to %s", len(loose), loose[0].Table, loose[0].Parent), "restore a backup", nil)
	}
	return true, nil
}

// revisions reads every revision of every model.
func (d *doctor) revisions(ctx context.Context) error {
	models, err := gorm.G[Model](d.db).Order("id").Find(ctx)
	if err != nil {
		return err
	}
	for _, m := range models {
		var numbers []int
		if err := d.db.WithContext(ctx).Model(&Revision{}).Where("model_id = ?", m.ID).Order("number").Pluck("number", &numbers).Error; err != nil {
			return err
		}
		if !slices.Contains(numbers, m.Head) {
			d.complain(fmt.Sprintf("model %d, %s, refers to revision %d, which is not there", m.ID, m.Name, m.Head), "restore a backup", nil)
		}
		for _, n := range numbers {
			if _, err := (&Store{db: d.db}).document(ctx, d.db, m.ID, n); err != nil {
				d.complain(fmt.Sprintf("revision %d of model %d, %s, cannot be read: %v", n, m.ID, m.Name, err), "go back to another revision of the model, or restore a backup", nil)
			}
		}
	}
	return nil
}

// results compares every result with what its run wrote.
func (d *doctor) results(ctx context.Context, runs []uint) {
	for _, id := range runs {
		name := strconv.Itoa(int(id))
		err := result.Verify(filepath.Join(d.dir, "runs", name))
		if err == nil {
			continue
		}
		d.complain(fmt.Sprintf("run %d: %v", id, err), "--mend puts the result aside and marks the run as failed", func() error {
			if err := d.aside(name); err != nil && !errors.Is(err, fs.ErrNotExist) {
				return err
			}
			return d.db.WithContext(ctx).Model(&Run{}).Where("id = ?", id).Updates(map[string]any{
				"has_result": false, "status": Failed, "message": "its result was damaged and has been put aside; run it again"}).Error
		})
	}
}

// loose looks for folders that belong to no run with a result.
func (d *doctor) loose(ctx context.Context, runs []uint) error {
	entries, err := os.ReadDir(filepath.Join(d.dir, "runs"))
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	// The next start of a server sees to the runs that were under way.
	used, err := unended(ctx, d.db)
	if err != nil {
		return err
	}
	for _, e := range entries {
		number, part := strings.CutSuffix(e.Name(), ".part")
		id, err := strconv.ParseUint(number, 10, 32)
		known := err == nil && (slices.Contains(used, uint(id)) || !part && slices.Contains(runs, uint(id)))
		switch {
		case known:
		case part && err == nil:
			d.complain(fmt.Sprintf("runs/%s was left by a run that did not end", e.Name()), "--mend removes it", func() error {
				return os.RemoveAll(filepath.Join(d.dir, "runs", e.Name()))
			})
		default:
			d.complain(fmt.Sprintf("runs/%s belongs to no run", e.Name()), "--mend puts it aside", func() error { return d.aside(e.Name()) })
		}
	}
	return nil
}

// aside moves a folder of runs into the folder damaged, under a name that is free.
func (d *doctor) aside(name string) error {
	to := filepath.Join(d.dir, "damaged")
	if err := os.MkdirAll(to, 0o700); err != nil {
		return err
	}
	free := filepath.Join(to, name)
	for i := 2; ; i++ {
		if _, err := os.Lstat(free); errors.Is(err, fs.ErrNotExist) {
			break
		}
		free = filepath.Join(to, fmt.Sprintf("%s-%d", name, i))
	}
	return os.Rename(filepath.Join(d.dir, "runs", name), free)
}
