package web

import (
	"bytes"
	"net/http"
	"strings"
	"unicode"

	"github.com/go-chi/chi/v5"

	"saltkettle/core/drawing"
	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// shapeFiles is the shape of a device, as it is meshed and as files.
type shapeFiles struct {
	*desk
	meshes meshes
}

// Routes adds the routes of shapes.
func (s *shapeFiles) Routes(r chi.Router) {
	r.Get("/models/{model}/mesh", s.heavy(s.mesh))
	r.Get("/models/{model}/mesh/progress", s.meshProgress)
	r.Get("/models/{model}/device.{format}", s.heavy(s.exportShape))
	r.Get("/models/{model}/file", s.exportModel)
}

// exportShape answers with the device as STL, its plan as DXF or its drawing as SVG.
func (s *shapeFiles) exportShape(w http.ResponseWriter, r *http.Request) {
	m, err := s.store.Model(r.Context(), modelID(r))
	var doc *model.Document
	if err == nil {
		doc, err = s.store.Document(r.Context(), m.ID, m.Head)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	name := fileName(doc.Name)
	var b bytes.Buffer
	kind := ""
	switch format := chi.URLParam(r, "format"); format {
	case "stl":
		resolved, grid, owners, meshErr := s.meshes.of(r.Context(), m.ID, m.Head, doc)
		if err = meshErr; err == nil {
			err = drawing.WriteSTL(&b, resolved, grid, owners)
		}
		name, kind = name+".stl", "model/stl"
	case "dxf":
		resolved, _ := model.Resolve(doc, physics.Catalog())
		err = drawing.WriteDXF(&b, resolved)
		name, kind = name+".dxf", "image/vnd.dxf"
	case "svg":
		resolved, _ := model.Resolve(doc, physics.Catalog())
		b.WriteString(drawing.NewScene(resolved, physics.Catalog()).Thumbnail(1200, 800))
		name, kind = name+".svg", "image/svg+xml"
	default:
		http.NotFound(w, r)
		return
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	attach(w, name, kind)
	_, _ = w.Write(b.Bytes()) // the other side may have gone
}

// fileName makes a name for a file of that of a model.
func fileName(name string) string {
	return strings.Map(func(c rune) rune {
		if unicode.IsLetter(c) || unicode.IsDigit(c) {
			return c
		}
		return '-'
	}, strings.ToLower(name))
}
