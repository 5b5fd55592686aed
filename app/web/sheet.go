package web

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"saltkettle/app/store"
	"saltkettle/core/drawing"
	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// pageView is what every page of a model has.
type pageView struct {
	Title string
	Model store.Model
	Tab   string
}

// sheetView is the sheet with its brief.
type sheetView struct {
	pageView
	Brief *briefView
}

// answer renders what an edit changes on a page; focus is a place to put the cursor.
type answer func(w http.ResponseWriter, r *http.Request, focus string)

// sheetPage is the sheet of a model, and the edits of all pages.
type sheetPage struct {
	*desk
	// answers are those of the pages besides the sheet that make edits.
	answers map[string]answer
	shown   briefs
}

// Routes adds the routes of the sheet.
func (s *sheetPage) Routes(r chi.Router) {
	r.Get("/models/{model}/", s.sheet)
	r.Get("/models/{model}/brief", s.brief)
	r.Get("/models/{model}/parts/{part}", s.partDetails)
	r.Get("/models/{model}/choices", s.choices)
	r.Get("/models/{model}/drawing", s.drawing)
	r.Get("/models/{model}/measure", s.heavy(s.measure))
	r.Post("/models/{model}/edit", s.edit)
	r.Post("/models/{model}/undo", s.undo)
	r.Post("/models/{model}/redo", s.redo)
	r.Post("/models/{model}/trace", s.heavy(s.trace))
}

func (s *sheetPage) sheet(w http.ResponseWriter, r *http.Request) {
	b, err := s.newBrief(r.Context(), modelID(r), "")
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.shown.keep(b.Model.ID, "", b)
	s.render(w, r, http.StatusOK, "sheet", sheetView{pageView{b.Model.Name, b.Model, "sheet"}, b})
}

// brief answers with the brief and the title block alone; it says what has changed since the
// revision that the window shows.
func (s *sheetPage) brief(w http.ResponseWriter, r *http.Request) {
	if from := stamp(r); from.Seen > 0 {
		m, err := s.store.Model(r.Context(), modelID(r))
		own := false
		if err == nil {
			own, err = s.store.OwnWork(r.Context(), m.ID, from.Seen, m.Head, from.Window)
		}
		if err == nil && !own {
			seen := from.Seen
			tell(w, "Changed in another window: "+s.changes(r.Context(), m.ID, seen, m.Head)+".")
		}
	}
	s.answerBrief(w, r, "")
}

// changes says in words how one revision differs from another, as far as that can be said.
func (s *sheetPage) changes(ctx context.Context, id uint, from, to int) string {
	older, err := s.store.Document(ctx, id, from)
	if err != nil {
		return "everything"
	}
	newer, err := s.store.Document(ctx, id, to)
	if err != nil {
		return "everything"
	}
	list := model.Diff(older, newer, physics.Catalog())
	if len(list) == 0 {
		return "names, readings or plates"
	}
	words := model.DiffWords(list[:min(len(list), 3)])
	if len(list) > 3 {
		words += fmt.Sprintf(" and %d more", len(list)-3)
	}
	return words
}

// drawing answers with the scene as JSON.
func (s *sheetPage) drawing(w http.ResponseWriter, r *http.Request) {
	doc, err := s.store.Document(r.Context(), modelID(r), 0)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	resolved, _ := model.Resolve(doc, physics.Catalog())
	body, err := json.Marshal(drawing.NewScene(resolved, physics.Catalog()))
	if err != nil {
		s.fail(w, r, err)
		return
	}
	// Most edits leave the drawing as it is: a browser that has it is told so.
	sum := sha256.Sum256(body)
	tag := `"` + hex.EncodeToString(sum[:16]) + `"`
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Cache-Control", "no-cache, private")
	w.Header().Set("ETag", tag)
	if r.Header.Get("If-None-Match") == tag {
		w.WriteHeader(http.StatusNotModified)
		return
	}
	_, _ = w.Write(body) // the other side may have gone
}

// edit applies one operation to the model.
func (s *sheetPage) edit(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		s.fail(w, r, &userError{err})
		return
	}
	op, ok := operations[r.Form.Get("op")]
	if !ok {
		s.fail(w, r, &userError{fmt.Errorf("there is no operation %q", r.Form.Get("op"))})
		return
	}
	var touches []string
	if op.touches != nil {
		touches = op.touches(r.Form)
	}
	focus := ""
	m, before, err := s.store.Edit(r.Context(), modelID(r), stamp(r), touches, func(d *model.Document) error {
		keepUsual(d, r.Form)
		var err error
		focus, err = op.do(d, r.Form)
		return err
	})
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.jobs.Notify(modelID(r))
	cameFrom(w, before, m.Head)
	if answer := s.answers[r.Form.Get("page")]; answer != nil {
		answer(w, r, focus)
		return
	}
	s.answerBrief(w, r, focus)
}

// stamp reads the window that a request comes from, and the revision that this shows.
func stamp(r *http.Request) store.Stamp {
	window := r.Header.Get("Kettle-Window")
	if len(window) > 40 {
		window = window[:40]
	}
	return store.Stamp{Window: window, Seen: int(number(r.Header.Get("Kettle-Seen")))}
}

// cameFrom tells a window which revision was current before what it did, and which is now. If it
// shows the first, what it asks for next is meant for the second.
func cameFrom(w http.ResponseWriter, before, after int) {
	w.Header().Set("Kettle-Before", strconv.Itoa(before))
	w.Header().Set("Kettle-After", strconv.Itoa(after))
}

func (s *sheetPage) undo(w http.ResponseWriter, r *http.Request) {
	m, err := s.store.Undo(r.Context(), modelID(r), stamp(r))
	s.afterMove(w, r, "taken back", m, err)
}

func (s *sheetPage) redo(w http.ResponseWriter, r *http.Request) {
	m, err := s.store.Redo(r.Context(), modelID(r), stamp(r))
	s.afterMove(w, r, "done again", m, err)
}

func (s *sheetPage) afterMove(w http.ResponseWriter, r *http.Request, what string, m store.Move, err error) {
	if err != nil && !errors.Is(err, store.ErrNothing) {
		s.fail(w, r, err)
		return
	}
	s.jobs.Notify(modelID(r))
	if err == nil {
		cameFrom(w, m.Before, m.Model.Head)
	}
	if m.Foreign {
		words := s.changes(r.Context(), m.Model.ID, min(m.Before, m.Model.Head), max(m.Before, m.Model.Head))
		tell(w, "What was "+what+" had been made in another window: "+words+".")
	}
	switch r.FormValue("to") {
	case "shelf":
		http.Redirect(w, r, "/", http.StatusSeeOther)
	case "sheet":
		http.Redirect(w, r, fmt.Sprintf("/models/%d/", modelID(r)), http.StatusSeeOther)
	default:
		s.answerBrief(w, r, "")
	}
}
