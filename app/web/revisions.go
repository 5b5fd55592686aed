package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"

	"github.com/go-chi/chi/v5"

	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// revisionsView is the page of the revisions of a model.
type revisionsView struct {
	pageView
	Rows []revisionView
	// Older is the number before which older revisions stand on the next page, 0 if there is
	// none. Newest says that this is the first page.
	Older  int
	Newest bool
	// A comparison of two revisions in sentences, if one was asked for.
	From, To int
	Changes  []string
	Compared bool
}

// revisionView is a revision with what changed since the one it was made from.
type revisionView struct {
	Number, Parent int
	Words          string
	When           string
	Current        bool
	Runs           []int
}

// revisionsShown is how many revisions stand on a page.
const revisionsShown = 50

// documents reads the revisions of a model for a list of what changed in each, the newest first:
// the parent of one is most often the next.
type documents struct {
	*desk
	ctx    context.Context
	model  uint
	number int
	last   *model.Document
}

// changed says what changed in a revision; of one that cannot be read it says so.
func (d *documents) changed(rev store.Revision) string {
	newer, err := d.read(rev.Number)
	if err != nil {
		return "cannot be read: " + err.Error()
	}
	if rev.Parent == 0 {
		return "begun"
	}
	parent, err := d.read(rev.Parent)
	if err != nil {
		return fmt.Sprintf("made from rev %d, which cannot be read", rev.Parent)
	}
	if words := model.DiffWords(model.Diff(parent, newer, physics.Catalog())); words != "" {
		return words
	}
	return "names, readings or plates"
}

// read returns a revision; the last one that was read is kept.
func (d *documents) read(number int) (*model.Document, error) {
	if d.number == number && d.last != nil {
		return d.last, nil
	}
	doc, err := d.store.Document(d.ctx, d.model, number)
	if err == nil {
		d.number, d.last = number, doc
	}
	return doc, err
}

// revisionsPage is the revisions of a model.
type revisionsPage struct{ *desk }

// Routes adds the routes of revisions.
func (s *revisionsPage) Routes(r chi.Router) {
	r.Get("/models/{model}/revisions", s.revisions)
	r.Post("/models/{model}/revisions/{revision}", s.openRevision)
}

func (s *revisionsPage) revisions(w http.ResponseWriter, r *http.Request) {
	v, err := s.newRevisions(r)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.render(w, r, http.StatusOK, "revisions", v)
}

func (s *revisionsPage) newRevisions(r *http.Request) (revisionsView, error) {
	ctx := r.Context()
	m, err := s.store.Model(ctx, modelID(r))
	if err != nil {
		return revisionsView{}, err
	}
	v := revisionsView{pageView: pageView{m.Name, m, "revisions"}}
	before := int(number(r.URL.Query().Get("before")))
	list, err := s.store.Revisions(ctx, m.ID, before, revisionsShown+1)
	if err != nil {
		return v, err
	}
	if len(list) > revisionsShown {
		list = list[:revisionsShown]
		v.Older = list[len(list)-1].Number
	}
	v.Newest = before == 0
	runs, err := s.store.RunsOf(ctx, m.ID, list)
	if err != nil {
		return v, err
	}
	docs := &documents{desk: s.desk, ctx: ctx, model: m.ID}
	for _, rev := range list {
		v.Rows = append(v.Rows, revisionView{Number: rev.Number, Parent: rev.Parent, When: ago(rev.CreatedAt), Current: rev.Number == m.Head,
			Runs: runs[rev.Number], Words: docs.changed(rev)})
	}
	v.From, v.To = int(number(r.URL.Query().Get("from"))), int(number(r.URL.Query().Get("to")))
	if v.From > 0 && v.To > 0 {
		older, err := s.store.Document(ctx, m.ID, v.From)
		if err != nil {
			return v, err
		}
		newer, err := s.store.Document(ctx, m.ID, v.To)
		if err != nil {
			return v, err
		}
		v.Compared = true
		for _, c := range model.Diff(older, newer, physics.Catalog()) {
			v.Changes = append(v.Changes, c.String())
		}
	}
	return v, nil
}

// openRevision makes an older revision current again.
func (s *revisionsPage) openRevision(w http.ResponseWriter, r *http.Request) {
	n := number(chi.URLParam(r, "revision"))
	if _, err := s.store.GoTo(r.Context(), modelID(r), int(n)); errors.Is(err, store.ErrNothing) {
		s.fail(w, r, fmt.Errorf("revision %q: %w", chi.URLParam(r, "revision"), store.ErrNotFound))
		return
	} else if err != nil {
		s.fail(w, r, err)
		return
	}
	s.jobs.Notify(modelID(r))
	http.Redirect(w, r, fmt.Sprintf("/models/%d/", modelID(r)), http.StatusSeeOther)
}
