package web

import (
	"bytes"
	"fmt"
	"html/template"
	"mime"
	"net/http"
	"runtime/debug"
	"strings"

	"github.com/go-chi/chi/v5"

	"saltkettle/app/store"
	"saltkettle/core/drawing"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/examples"
)

// shelfView is the shelf.
type shelfView struct {
	Title   string
	Cards   []card
	Demos   []examples.Example
	Waiting int          // runs of all models that wait or are under way
	Removed *store.Model // just now, can be put back
}

// card is a model on the shelf.
type card struct {
	store.Model
	Aim     string
	Site    string
	Picture template.HTML
	// Field is the field of the last run that is seen in place of the drawing, "" for none.
	Field    string
	Readings []readingView
	Run      *store.Run
	State    string
	Changed  string
	// Fault says why there is no more of the card.
	Fault string
}

// shelfPage is the list of models and what is done with whole models.
type shelfPage struct{ *desk }

// Routes adds the routes of the shelf.
func (s *shelfPage) Routes(r chi.Router) {
	r.Get("/", s.shelf)
	r.Post("/models", s.createModel)
	r.Post("/models/import", s.heavy(s.importModel))
	r.Post("/models/{model}/rename", s.renameModel)
	r.Post("/models/{model}/duplicate", s.duplicateModel)
	r.Post("/models/{model}/remove", s.removeModel)
	r.Post("/models/{model}/restore", s.restoreModel)
}

func (s *shelfPage) shelf(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	list, err := s.store.Models(ctx)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	view := shelfView{Title: "Shelf", Demos: examples.List}
	for _, m := range list {
		view.Cards = append(view.Cards, s.safeCard(r, m))
	}
	if queue, err := s.store.Queue(ctx); err == nil {
		view.Waiting = len(queue)
	}
	if id := number(r.URL.Query().Get("removed")); id > 0 {
		if m, err := s.store.Removed(ctx, id); err == nil {
			view.Removed = &m
		}
	}
	s.render(w, r, http.StatusOK, "shelf", view)
}

// safeCard makes the card of a model; one that cannot be made says why and hides no other.
func (s *shelfPage) safeCard(r *http.Request, m store.Model) (c card) {
	plain := card{Model: m, Changed: ago(m.UpdatedAt)}
	defer func() {
		if fault := recover(); fault != nil {
			s.log.Error("a card could not be made", "model", m.ID, "fault", fault, "stack", string(debug.Stack()))
			c = plain
			c.Fault = "Its page cannot be made from this revision. The server's log says why."
		}
	}()
	c, err := s.card(r, m)
	if err != nil {
		s.log.Error("a card could not be made", "model", m.ID, "error", err)
		c = plain
		c.Fault = "It cannot be read: " + err.Error() + "."
	}
	return c
}

func (s *shelfPage) card(r *http.Request, m store.Model) (card, error) {
	ctx := r.Context()
	c := card{Model: m, Changed: ago(m.UpdatedAt)}
	doc, err := s.store.Document(ctx, m.ID, m.Head)
	if err != nil {
		return c, err
	}
	resolved, findings := model.Resolve(doc, physics.Catalog())
	c.Aim, c.Site = doc.Aim, doc.Site
	c.Picture = template.HTML(drawing.NewScene(resolved, physics.Catalog()).Thumbnail(300, 170)) // numbers and colours only
	c.State = outstandingWords(model.Blocking(findings))
	run, err := s.store.LastResult(ctx, m.ID)
	if store.IsNotFound(err) {
		return c, nil
	}
	if err != nil {
		return c, err
	}
	c.Run = &run
	readings, err := s.store.Readings(ctx, run.ID)
	if err != nil {
		return c, err
	}
	if stale, err := s.stale(ctx, m, run.Revision, doc); err == nil && !stale {
		c.Field = doc.AllPlates(physics.Catalog(), func(string) bool { return false })[0].Field
	}
	for _, q := range readings[:min(len(readings), 3)] {
		c.Readings = append(c.Readings, newReadingView(q))
	}
	return c, nil
}

func (s *shelfPage) createModel(w http.ResponseWriter, r *http.Request) {
	doc := model.New("Untitled device")
	if key := r.FormValue("demo"); key != "" {
		demo, err := examples.Load(key)
		if err != nil {
			s.fail(w, r, &userError{err})
			return
		}
		doc = demo
	} else if name := strings.TrimSpace(r.FormValue("name")); name != "" {
		doc.Name = name
	}
	s.keep(w, r, doc)
}

// keep stores a new model and goes to its sheet.
func (s *shelfPage) keep(w http.ResponseWriter, r *http.Request, doc *model.Document) {
	doc.CarryAll()
	m, err := s.store.CreateModel(r.Context(), doc)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	http.Redirect(w, r, fmt.Sprintf("/models/%d/", m.ID), http.StatusSeeOther)
}

func (s *shelfPage) importModel(w http.ResponseWriter, r *http.Request) {
	file, name, err := uploaded(r)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	defer func() { _ = file.Close() }()
	doc, err := model.Read(file)
	if err != nil {
		s.fail(w, r, &userError{fmt.Errorf("%s cannot be read as a model: %w", name, err)})
		return
	}
	if err := doc.CheckLabels(); err != nil {
		s.fail(w, r, &userError{fmt.Errorf("%s cannot be taken: %w", name, err)})
		return
	}
	s.keep(w, r, doc)
}

func (s *shapeFiles) exportModel(w http.ResponseWriter, r *http.Request) {
	doc, err := s.store.Document(r.Context(), modelID(r), 0)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	attach(w, fileName(doc.Name)+".kettle.json", "application/json")
	_ = doc.Write(w) // the other side may have gone
}

// attach makes an answer a file to save.
func attach(w http.ResponseWriter, name, kind string) {
	w.Header().Set("Content-Type", kind)
	// Names beyond ASCII are encoded as RFC 6266 has it.
	w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
}

func (s *shelfPage) renameModel(w http.ResponseWriter, r *http.Request) {
	_, _, err := s.store.Edit(r.Context(), modelID(r), stamp(r), nil, func(d *model.Document) error {
		return d.Set("name", r.FormValue("name"))
	})
	s.backToShelf(w, r, "", err)
}

func (s *shelfPage) duplicateModel(w http.ResponseWriter, r *http.Request) {
	doc, err := s.store.Document(r.Context(), modelID(r), 0)
	if err == nil {
		doc.Name += " copy"
		_, err = s.store.CreateModel(r.Context(), doc)
	}
	s.backToShelf(w, r, "", err)
}

func (s *shelfPage) removeModel(w http.ResponseWriter, r *http.Request) {
	s.backToShelf(w, r, fmt.Sprintf("?removed=%d", modelID(r)), s.store.RemoveModel(r.Context(), modelID(r)))
}

func (s *shelfPage) restoreModel(w http.ResponseWriter, r *http.Request) {
	s.backToShelf(w, r, "", s.store.RestoreModel(r.Context(), modelID(r)))
}

func (s *shelfPage) backToShelf(w http.ResponseWriter, r *http.Request, query string, err error) {
	if err != nil {
		s.fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/"+query, http.StatusSeeOther)
}

// outstandingWords says in a few words what is missing.
func outstandingWords(blocking []model.Finding) string {
	missing, wrong := 0, 0
	for _, f := range blocking {
		if f.Severity == model.Missing {
			missing++
		} else {
			wrong++
		}
	}
	var b bytes.Buffer
	if missing > 0 {
		fmt.Fprintf(&b, "%d missing", missing)
	}
	if wrong > 0 {
		if missing > 0 {
			b.WriteString(", ")
		}
		fmt.Fprintf(&b, "%d wrong", wrong)
	}
	return b.String()
}
