package store

import (
	"context"
	"fmt"
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
}

// Revision is a state of a model.
type Revision struct {
	ID        uint `gorm:"primaryKey"`
	ModelID   uint
	Number    int
	Parent    int // number of the revision that it was made from, 0 for the first
	Document  string
	CreatedAt time.Time
}

// CreateModel adds a model with its first revision.
func (s *Store) CreateModel(ctx context.Context, doc *model.Document) (Model, error) {
	m := Model{Name: doc.Name, Head: 1, CreatedAt: s.now(), UpdatedAt: s.now()}
	err := s.transaction(ctx, func(tx *gorm.DB) error {
		if err := gorm.G[Model](tx).Create(ctx, &m); err != nil {
			return err
		}
		return gorm.G[Revision](tx).Create(ctx, &Revision{ModelID: m.ID, Number: 1, Document: string(doc.Bytes()), CreatedAt: s.now()})
	})
	return m, err
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
	return document(ctx, s.db, id, number)
}

func document(ctx context.Context, db *gorm.DB, id uint, number int) (*model.Document, error) {
	r, err := gorm.G[Revision](db).Where("model_id = ? AND number = ?", id, number).First(ctx)
	if err != nil {
		return nil, found(err, fmt.Sprintf("revision %d of model %d", number, id))
	}
	return model.Parse([]byte(r.Document))
}

// Edit changes the current revision of a model by f and makes the result a new
// revision, unless nothing changed.
func (s *Store) Edit(ctx context.Context, id uint, f func(*model.Document) error) (Model, error) {
	var m Model
	err := s.transaction(ctx, func(tx *gorm.DB) error {
		var err error
		if m, err = gorm.G[Model](tx).Where("id = ? AND removed_at IS NULL", id).First(ctx); err != nil {
			return found(err, fmt.Sprintf("model %d", id))
		}
		doc, err := document(ctx, tx, id, m.Head)
		if err != nil {
			return err
		}
		before := string(doc.Bytes())
		if err := f(doc); err != nil {
			return err
		}
		after := string(doc.Bytes())
		if after == before {
			return nil
		}
		var last int
		if err := tx.Model(&Revision{}).Where("model_id = ?", id).Select("MAX(number)").Scan(&last).Error; err != nil {
			return err
		}
		if err := gorm.G[Revision](tx).Create(ctx, &Revision{ModelID: id, Number: last + 1, Parent: m.Head, Document: after, CreatedAt: s.now()}); err != nil {
			return err
		}
		m.Head, m.Name, m.UpdatedAt = last+1, doc.Name, s.now()
		return tx.Save(&m).Error
	})
	return m, err
}

// Undo makes the parent of the current revision current.
func (s *Store) Undo(ctx context.Context, id uint) (Model, error) {
	return s.move(ctx, id, func(tx *gorm.DB, head int) (int, error) {
		r, err := gorm.G[Revision](tx).Where("model_id = ? AND number = ?", id, head).First(ctx)
		return r.Parent, err
	})
}

// Redo makes the newest revision that was made from the current one current.
func (s *Store) Redo(ctx context.Context, id uint) (Model, error) {
	return s.move(ctx, id, func(tx *gorm.DB, head int) (int, error) {
		list, err := gorm.G[Revision](tx).Where("model_id = ? AND parent = ?", id, head).Order("number DESC").Limit(1).Find(ctx)
		if err != nil || len(list) == 0 {
			return 0, err
		}
		return list[0].Number, nil
	})
}

// GoTo makes a revision current.
func (s *Store) GoTo(ctx context.Context, id uint, number int) (Model, error) {
	return s.move(ctx, id, func(*gorm.DB, int) (int, error) { return number, nil })
}

// Revisions lists the revisions of a model, the newest first.
func (s *Store) Revisions(ctx context.Context, id uint, limit int) ([]Revision, error) {
	return gorm.G[Revision](s.db).Where("model_id = ?", id).Order("number DESC").Limit(limit).Find(ctx)
}

func (s *Store) move(ctx context.Context, id uint, to func(tx *gorm.DB, head int) (int, error)) (Model, error) {
	var m Model
	err := s.transaction(ctx, func(tx *gorm.DB) error {
		var err error
		if m, err = gorm.G[Model](tx).Where("id = ? AND removed_at IS NULL", id).First(ctx); err != nil {
			return found(err, fmt.Sprintf("model %d", id))
		}
		number, err := to(tx, m.Head)
		if err != nil {
			return err
		}
		if number == 0 {
			return ErrNothing
		}
		doc, err := document(ctx, tx, id, number)
		if err != nil {
			return err
		}
		m.Head, m.Name, m.UpdatedAt = number, doc.Name, s.now()
		return tx.Save(&m).Error
	})
	return m, err
}

// CanUndo and CanRedo say whether there is something to go to.
func (s *Store) CanUndo(ctx context.Context, m Model) (undo, redo bool, err error) {
	r, err := gorm.G[Revision](s.db).Where("model_id = ? AND number = ?", m.ID, m.Head).First(ctx)
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
