package store

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"saltkettle/core/model"
)

// Model is an entry of the shelf.
type Model struct {
	ID        uint `gorm:"primaryKey"`
	Name      string
	Head      int // number of the revision that is current
	CreatedAt time.Time
	UpdatedAt time.Time
	RemovedAt *time.Time
	// LastRun is the greatest number of a run that was deleted: numbers are not used again.
	LastRun int
}

// Revision is a state of a model.
type Revision struct {
	ID        uint `gorm:"primaryKey"`
	ModelID   uint
	Number    int
	Parent    int // number of the revision that it was made from, 0 for the first
	Document  string
	CreatedAt time.Time
	// Window is the open page that it was made in, "" if it is not known.
	Window string
}

// Stamp says from where a change of a model comes.
type Stamp struct {
	// Window tells one open page from others, "" if it is none.
	Window string
	// Seen is the revision that the page shows, 0 if it shows none.
	Seen int
}

// RefusedError is what an edit says of itself: the model stays as it was.
type RefusedError struct{ err error }

func (e *RefusedError) Error() string { return e.err.Error() }

// Unwrap returns the error of the edit.
func (e *RefusedError) Unwrap() error { return e.err }

// CreateModel adds a model with its first revision.
func (s *Store) CreateModel(ctx context.Context, doc *model.Document) (Model, error) {
	m := Model{Name: doc.Name, Head: 1, CreatedAt: s.now(), UpdatedAt: s.now()}
	stored, err := packed(doc)
	if err != nil {
		return m, err
	}
	err = s.transaction(ctx, func(tx *gorm.DB) error {
		if err := gorm.G[Model](tx).Create(ctx, &m); err != nil {
			return err
		}
		return s.addRevision(ctx, tx, Revision{ModelID: m.ID, Number: 1}, stored)
	})
	return m, err
}

// addRevision stores a revision with the surfaces of its model.
func (s *Store) addRevision(ctx context.Context, tx *gorm.DB, r Revision, doc packedDocument) error {
	r.Document, r.CreatedAt = string(doc.text), s.now()
	if err := gorm.G[Revision](tx).Create(ctx, &r); err != nil {
		return err
	}
	return s.keepSurfaces(ctx, tx, r.ID, doc.surfaces)
}

// Models lists the shelf, the last changed first.
func (s *Store) Models(ctx context.Context) ([]Model, error) {
	return gorm.G[Model](s.db).Where("removed_at IS NULL").Order("updated_at DESC, id DESC").Find(ctx)
}

// Model returns a model that is on the shelf.
func (s *Store) Model(ctx context.Context, id uint) (Model, error) {
	m, err := gorm.G[Model](s.db).Where("id = ? AND removed_at IS NULL", id).First(ctx)
	return m, found(err, fmt.Sprintf("model %d", id))
}

// Removed returns a model that was taken off the shelf.
func (s *Store) Removed(ctx context.Context, id uint) (Model, error) {
	m, err := gorm.G[Model](s.db).Where("id = ? AND removed_at IS NOT NULL", id).First(ctx)
	return m, found(err, fmt.Sprintf("removed model %d", id))
}

// Document returns a revision of a model; number 0 means the current one.
func (s *Store) Document(ctx context.Context, id uint, number int) (*model.Document, error) {
	if number == 0 {
		m, err := s.Model(ctx, id)
		if err != nil {
			return nil, err
		}
		number = m.Head
	}
	return s.document(ctx, s.db, id, number)
}

// document reads a revision with its surfaces.
func (s *Store) document(ctx context.Context, db *gorm.DB, id uint, number int) (*model.Document, error) {
	r, err := gorm.G[Revision](db).Where("model_id = ? AND number = ?", id, number).First(ctx)
	if err != nil {
		return nil, found(err, fmt.Sprintf("revision %d of model %d", number, id))
	}
	doc, err := model.Parse([]byte(r.Document))
	if err != nil {
		return nil, err
	}
	return doc, s.attachSurfaces(ctx, db, doc)
}

// Edit changes the current revision of a model by f and makes the result a new revision, unless
// nothing changed. touches are the places that the edit depends on: if they are not what they
// were in the revision that its window shows, it fails with a *model.ClashError, or with a
// *model.GoneError. before is the revision that was current.
func (s *Store) Edit(ctx context.Context, id uint, from Stamp, touches []string, f func(*model.Document) error) (m Model, before int, err error) {
	err = s.transaction(ctx, func(tx *gorm.DB) error {
		if m, err = gorm.G[Model](tx).Where("id = ? AND removed_at IS NULL", id).First(ctx); err != nil {
			return found(err, fmt.Sprintf("model %d", id))
		}
		before = m.Head
		doc, err := s.document(ctx, tx, id, m.Head)
		if err != nil {
			return err
		}
		if from.Seen > 0 && from.Seen != m.Head && len(touches) > 0 {
			if err := s.clash(ctx, tx, m, from, doc, touches); err != nil {
				return err
			}
		}
		was, err := packed(doc)
		if err != nil {
			return err
		}
		if err := f(doc); err != nil {
			return &RefusedError{err}
		}
		is, err := packed(doc)
		if err != nil {
			return err
		}
		if bytes.Equal(is.text, was.text) {
			return nil
		}
		var last int
		if err := tx.Model(&Revision{}).Where("model_id = ?", id).Select("MAX(number)").Scan(&last).Error; err != nil {
			return err
		}
		if err := s.addRevision(ctx, tx, Revision{ModelID: id, Number: last + 1, Parent: m.Head, Window: from.Window}, is); err != nil {
			return err
		}
		m.Head, m.Name, m.UpdatedAt = last+1, doc.Name, s.now()
		return tx.Save(&m).Error
	})
	return m, before, err
}

// furthest is how many revisions may lie between what a window shows and the present one for its
// edits to be compared.
const furthest = 500

// clash compares what an edit speaks of in the revision that its window shows with the present
// one.
func (s *Store) clash(ctx context.Context, tx *gorm.DB, m Model, from Stamp, now *model.Document, touches []string) error {
	way, err := way(ctx, tx, m.ID, from.Seen, m.Head)
	if err != nil {
		return err
	}
	docs := make([]*model.Document, len(way))
	for i, number := range way {
		if docs[i], err = s.document(ctx, tx, m.ID, number); err != nil {
			return err
		}
	}
	if err := model.Clash(docs[0], now, docs[1:], touches); err != nil {
		return &RefusedError{err}
	}
	return nil
}

// way lists the revisions on the way from one to another, without the last: back to the one that
// both were made from, and on from there.
func way(ctx context.Context, tx *gorm.DB, id uint, from, to int) ([]int, error) {
	list, err := gorm.G[Revision](tx).Select("number", "parent").Where("model_id = ?", id).Find(ctx)
	if err != nil {
		return nil, err
	}
	parent := map[int]int{}
	for _, r := range list {
		parent[r.Number] = r.Parent
	}
	if _, ok := parent[from]; !ok {
		return nil, &RefusedError{fmt.Errorf("the window shows rev %d, which this model does not have: look at it anew", from)}
	}
	var back, on []int
	line := map[int]bool{}
	for n := to; n > 0; n = parent[n] {
		line[n] = true
	}
	n := from
	for ; n > 0 && !line[n]; n = parent[n] {
		back = append(back, n)
	}
	for k := to; k > 0 && k != n; k = parent[k] {
		on = append(on, k)
	}
	if n > 0 {
		back = append(back, n)
	}
	slices.Reverse(on)
	way := append(back, on...)
	if len(way) > furthest {
		return nil, &RefusedError{fmt.Errorf("the window shows rev %d, of %d revisions ago: look at the model anew", from, len(way)-1)}
	}
	if way[len(way)-1] == to {
		way = way[:len(way)-1]
	}
	return way, nil
}

// Move is a step from one revision to another that was there before.
type Move struct {
	Model Model
	// Before is the revision that was current.
	Before int
	// Foreign says that what was taken back, or done again, came from another window.
	Foreign bool
}

// Undo makes the parent of the current revision current.
func (s *Store) Undo(ctx context.Context, id uint, from Stamp) (Move, error) {
	return s.move(ctx, id, func(tx *gorm.DB, head int) (to, of Revision, err error) {
		of, err = gorm.G[Revision](tx).Select("number", "parent", "window").Where("model_id = ? AND number = ?", id, head).First(ctx)
		return Revision{Number: of.Parent}, of, err
	}, from)
}

// Redo makes the newest revision that was made from the current one current.
func (s *Store) Redo(ctx context.Context, id uint, from Stamp) (Move, error) {
	return s.move(ctx, id, func(tx *gorm.DB, head int) (to, of Revision, err error) {
		list, err := gorm.G[Revision](tx).Select("number", "window").Where("model_id = ? AND parent = ?", id, head).Order("number DESC").Limit(1).Find(ctx)
		if err != nil || len(list) == 0 {
			return to, of, err
		}
		return list[0], list[0], nil
	}, from)
}

// GoTo makes a revision current.
func (s *Store) GoTo(ctx context.Context, id uint, number int) (Move, error) {
	return s.move(ctx, id, func(*gorm.DB, int) (to, of Revision, err error) { return Revision{Number: number}, of, nil }, Stamp{})
}

// Revisions lists the revisions of a model without their documents, the newest first, from the
// one with the number before on, if that is not 0.
func (s *Store) Revisions(ctx context.Context, id uint, before, limit int) ([]Revision, error) {
	q := gorm.G[Revision](s.db).Omit("document").Where("model_id = ?", id)
	if before > 0 {
		q = q.Where("number < ?", before)
	}
	return q.Order("number DESC").Limit(limit).Find(ctx)
}

// move makes another revision current: to, on account of what was done in of.
func (s *Store) move(ctx context.Context, id uint, where func(tx *gorm.DB, head int) (to, of Revision, err error), from Stamp) (Move, error) {
	var v Move
	err := s.transaction(ctx, func(tx *gorm.DB) error {
		m, err := gorm.G[Model](tx).Where("id = ? AND removed_at IS NULL", id).First(ctx)
		if err != nil {
			return found(err, fmt.Sprintf("model %d", id))
		}
		to, of, err := where(tx, m.Head)
		if err != nil {
			return err
		}
		if to.Number == 0 {
			return ErrNothing
		}
		doc, err := s.document(ctx, tx, id, to.Number)
		if err != nil {
			return err
		}
		v.Before, v.Foreign = m.Head, from.Window != "" && of.Window != "" && of.Window != from.Window
		m.Head, m.Name, m.UpdatedAt = to.Number, doc.Name, s.now()
		v.Model = m
		return tx.Save(&m).Error
	})
	return v, err
}

// OwnWork says that one window alone made all that lies between a revision and a later one.
func (s *Store) OwnWork(ctx context.Context, id uint, from, to int, window string) (bool, error) {
	for n := to; n != from; {
		r, err := gorm.G[Revision](s.db).Select("number", "parent", "window").Where("model_id = ? AND number = ?", id, n).First(ctx)
		if errors.Is(err, gorm.ErrRecordNotFound) || err == nil && (r.Window != window || window == "") {
			return false, nil
		}
		if err != nil {
			return false, err
		}
		n = r.Parent
	}
	return true, nil
}

// CanUndo and CanRedo say whether there is something to go to.
func (s *Store) CanUndo(ctx context.Context, m Model) (undo, redo bool, err error) {
	r, err := gorm.G[Revision](s.db).Omit("document").Where("model_id = ? AND number = ?", m.ID, m.Head).First(ctx)
	if err != nil {
		return false, false, found(err, "revision")
	}
	n, err := gorm.G[Revision](s.db).Where("model_id = ? AND parent = ?", m.ID, m.Head).Count(ctx, "id")
	return r.Parent > 0, n > 0, err
}

// RemoveModel takes a model off the shelf; RestoreModel puts it back.
func (s *Store) RemoveModel(ctx context.Context, id uint) error {
	return s.setRemoved(ctx, id, s.now())
}

// RestoreModel puts a removed model back on the shelf.
func (s *Store) RestoreModel(ctx context.Context, id uint) error {
	return s.setRemoved(ctx, id, nil)
}

func (s *Store) setRemoved(ctx context.Context, id uint, at any) error {
	res := s.db.WithContext(ctx).Model(&Model{}).Where("id = ?", id).UpdateColumn("removed_at", at)
	if res.Error == nil && res.RowsAffected == 0 {
		return fmt.Errorf("model %d: %w", id, ErrNotFound)
	}
	return res.Error
}
