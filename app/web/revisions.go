package web

import (
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

// revisionsShown bounds the page.
const revisionsShown = 200

func (s *Server) revisions(w http.ResponseWriter, r *http.Request) {
	v, err := s.newRevisions(r)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.render(w, r, http.StatusOK, "revisions", v)
}

func (s *Server) newRevisions(r *http.Request) (revisionsView, error) {
	ctx := r.Context()
	m, err := s.store.Model(ctx, modelID(r))
	if err != nil {
		return revisionsView{}, err
	}
	v := revisionsView{pageView: pageView{m.Name, m, "revisions"}}
	list, err := s.store.Revisions(ctx, m.ID, revisionsShown)
	if err != nil {
		return v, err
	}
	runs, err := s.store.Runs(ctx, m.ID, revisionsShown)
	if err != nil {
		return v, err
	}
	docs := map[int]*model.Document{}
	for _, rev := range list {
		if docs[rev.Number], err = model.Parse([]byte(rev.Document)); err != nil {
			return v, fmt.Errorf("revision %d cannot be read: %w", rev.Number, err)
		}
	}
	for _, rev := range list {
		row := revisionView{Number: rev.Number, Parent: rev.Parent, When: ago(rev.CreatedAt), Current: rev.Number == m.Head}
		switch parent := docs[rev.Parent]; {
		case rev.Parent == 0:
			row.Words = "begun"
		case parent == nil:
			row.Words = fmt.Sprintf("made from rev %d", rev.Parent)
		default:
			row.Words = model.DiffWords(model.Diff(parent, docs[rev.Number], physics.Catalog()))
			if row.Words == "" {
				row.Words = "names, readings or plates"
			}
		}
		for _, run := range runs {
			if run.Revision == rev.Number {
				row.Runs = append(row.Runs, run.Number)
			}
		}
		v.Rows = append(v.Rows, row)
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
func (s *Server) openRevision(w http.ResponseWriter, r *http.Request) {
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
