package store

import (
	"context"
	"fmt"
	"sync"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"saltkettle/core/model"
)

// Surface is a surface from a file, stored once however many revisions have it.
type Surface struct {
	Content string `gorm:"primaryKey"` // names it: a hash of data
	Data    []byte
}

// RevisionSurface says that a revision has a surface.
type RevisionSurface struct {
	RevisionID uint   `gorm:"primaryKey"`
	Content    string `gorm:"primaryKey"`
}

// packedDocument is a document as it is stored: its surfaces apart from its text.
type packedDocument struct {
	text     []byte
	surfaces map[string]*model.Surface
}

// packed takes the surfaces out of a document, and refuses one that could not be read from a file
// again.
func packed(doc *model.Document) (packedDocument, error) {
	bare, surfaces := doc.WithoutSurfaces()
	p := packedDocument{bare.Bytes(), surfaces}
	if len(p.text) > model.MaxFile {
		return p, &RefusedError{fmt.Errorf("the model would be larger than %d MB", model.MaxFile>>20)}
	}
	// A number takes less than this in a file.
	most := len(p.text)
	for i := range doc.Parts {
		if s := doc.Parts[i].Surface; s != nil {
			most += 40*len(s.Points) + 24*len(s.Triangles)
		}
	}
	if most > model.MaxFile {
		if n := doc.Size(); n > model.MaxFile {
			return p, &RefusedError{fmt.Errorf("the model would be %d MB as a file; %d MB are the most: make its surfaces coarser, or take parts out", n>>20, model.MaxFile>>20)}
		}
	}
	return p, nil
}

// keepSurfaces stores those surfaces of a revision that are new, and that it has them.
func (s *Store) keepSurfaces(ctx context.Context, tx *gorm.DB, revision uint, surfaces map[string]*model.Surface) error {
	for content, surface := range surfaces {
		if len(surface.Points) > 0 {
			known, err := gorm.G[Surface](tx).Where("content = ?", content).Count(ctx, "content")
			if err != nil {
				return err
			}
			if known == 0 {
				if err := gorm.G[Surface](tx).Create(ctx, &Surface{content, surface.Data()}); err != nil {
					return err
				}
			}
		}
		if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&RevisionSurface{revision, content}).Error; err != nil {
			return err
		}
	}
	return nil
}

// packOlder stores the surfaces of revisions of older versions of the program, which have them in
// their text, once. It returns how many revisions that were.
func (s *Store) packOlder(ctx context.Context) (int, error) {
	var ids []uint
	err := s.db.WithContext(ctx).Raw(`SELECT id FROM revisions WHERE document LIKE '%"triangles"%' AND id NOT IN (SELECT revision_id FROM revision_surfaces)`).Scan(&ids).Error
	if err != nil {
		return 0, err
	}
	done := 0
	for _, id := range ids {
		r, err := gorm.G[Revision](s.db).Where("id = ?", id).First(ctx)
		if err != nil {
			return done, err
		}
		doc, err := model.Parse([]byte(r.Document))
		if err != nil {
			continue // it stays as it is, for whoever looks for damage
		}
		p, err := packed(doc)
		if err != nil || len(p.surfaces) == 0 {
			continue
		}
		err = s.transaction(ctx, func(tx *gorm.DB) error {
			if err := s.keepSurfaces(ctx, tx, id, p.surfaces); err != nil {
				return err
			}
			return tx.Model(&Revision{}).Where("id = ?", id).UpdateColumn("document", string(p.text)).Error
		})
		if err != nil {
			return done, err
		}
		done++
	}
	return done, nil
}

// attachSurfaces gives the parts of a document the surfaces that its text only names.
func (s *Store) attachSurfaces(ctx context.Context, db *gorm.DB, doc *model.Document) error {
	return doc.AttachSurfaces(func(content string) (*model.Surface, error) {
		if known := s.surfaces.get(content); known != nil {
			return known, nil
		}
		row, err := gorm.G[Surface](db).Where("content = ?", content).First(ctx)
		if err != nil {
			return nil, found(err, "the surface "+content)
		}
		surface, err := model.SurfaceOf(content, row.Data)
		if err != nil {
			return nil, err
		}
		s.surfaces.put(content, surface)
		return surface, nil
	})
}

// maxSurfaceCache bounds what is kept of surfaces in memory, triangles.
const maxSurfaceCache = 2_000_000

// surfaceCache keeps the surfaces that were read last. They are never changed.
type surfaceCache struct {
	mu    sync.Mutex
	known map[string]*model.Surface
	size  int
}

func (c *surfaceCache) get(content string) *model.Surface {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.known[content]
}

func (c *surfaceCache) put(content string, s *model.Surface) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.known == nil || c.size > maxSurfaceCache {
		c.known, c.size = map[string]*model.Surface{}, 0
	}
	c.known[content] = s
	c.size += len(s.Triangles) / 3
}
