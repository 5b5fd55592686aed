package web

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"

	"saltkettle/core/drawing"
	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
)

// maxLook bounds the mesh that a sheet looks at, cells.
const maxLook = 1_200_000

// meshes keeps the last mesh that was looked at: a cut through it needs no new one.
type meshes struct {
	making   atomic.Pointer[making]
	mu       sync.Mutex
	model    uint
	revision int
	resolved *model.Resolved
	mesh     *mesh.Mesh
	owners   []int
}

// making is a mesh that is being made.
type making struct {
	model     uint
	triangles atomic.Int64 // in plan so far
}

// of meshes a revision of a model, one at a time, unless nobody waits for it any more.
func (c *meshes) of(ctx context.Context, id uint, revision int, doc *model.Document) (*model.Resolved, *mesh.Mesh, []int, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.mesh != nil && c.model == id && c.revision == revision {
		return c.resolved, c.mesh, c.owners, nil
	}
	resolved, findings := model.Resolve(doc, physics.Catalog())
	for _, f := range model.Blocking(findings) {
		if strings.HasPrefix(f.Place, "parts") && !strings.HasSuffix(f.Place, "/material") || strings.HasPrefix(f.Place, "mesh") || strings.HasPrefix(f.Place, "space") || strings.HasPrefix(f.Place, "parameters") {
			return nil, nil, nil, &userError{fmt.Errorf("there is no mesh yet: %s", f.Message)}
		}
	}
	now := &making{model: id}
	c.making.Store(now)
	defer c.making.Store(nil)
	m, owners, err := resolved.MeshOf(ctx, maxLook, func(n int) { now.triangles.Store(int64(n)) })
	if ctx.Err() != nil {
		return nil, nil, nil, ctx.Err()
	}
	if err != nil {
		return nil, nil, nil, &userError{err}
	}
	c.model, c.revision, c.resolved, c.mesh, c.owners = id, revision, resolved, m, owners
	return resolved, m, owners, nil
}

// meshProgress says in words how far the mesh is that a window waits for.
func (s *shapeFiles) meshProgress(w http.ResponseWriter, r *http.Request) {
	w.Header().Set("Content-Type", "text/plain; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	text := "The mesh waits for others to be made."
	switch now := s.meshes.making.Load(); {
	case now == nil:
		text = "The mesh is being made."
	case now.model == modelID(r):
		text = "The mesh is being made: " + quantity.Count(int(now.triangles.Load())) + " triangles in plan so far."
	}
	_, _ = io.WriteString(w, text) // the other side may have gone
}

// mesh answers with the mesh of the current revision for drawing, cut open at a plane if
// the query names one.
func (s *shapeFiles) mesh(w http.ResponseWriter, r *http.Request) {
	m, err := s.store.Model(r.Context(), modelID(r))
	if err != nil {
		s.fail(w, r, err)
		return
	}
	doc, err := s.store.Document(r.Context(), m.ID, m.Head)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	cut := drawing.Plane{Axis: -1}
	if axis := r.URL.Query().Get("cut"); axis != "" {
		cut.Axis = strings.Index("xyz", axis)
		cut.At, err = strconv.ParseFloat(r.URL.Query().Get("at"), 64)
		if len(axis) != 1 || cut.Axis < 0 || err != nil {
			s.fail(w, r, &userError{errors.New("a cut is across x, y or z at a number of metres")})
			return
		}
	}
	resolved, grid, owners, err := s.meshes.of(r.Context(), m.ID, m.Head, doc)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/octet-stream")
	w.Header().Set("Cache-Control", "no-store")
	_, _ = w.Write(drawing.NewMeshLook(resolved, physics.Catalog(), grid, owners, cut).Bytes()) // the other side may have gone
}
