package web

import (
	"fmt"
	"net/http"
	"net/url"

	"github.com/go-chi/chi/v5"

	"saltkettle/app/help"
	"saltkettle/app/store"
	"saltkettle/docs"
)

// helpPage is what users read.
type helpPage struct {
	*desk
	book *help.Book
}

func newHelpPage(d *desk) (*helpPage, error) {
	book, err := help.Load(docs.Files)
	return &helpPage{d, book}, err
}

// mostFound is how many paragraphs a search lists.
const mostFound = 30

// Routes adds the routes of the help.
func (s *helpPage) Routes(r chi.Router) {
	r.Get("/help", s.search)
	r.Get("/help/about", s.about)
	r.Get("/help/"+help.Schema, func(w http.ResponseWriter, r *http.Request) { http.ServeFileFS(w, r, docs.Files, help.Schema) })
	r.Get("/help/{page}", s.page)
}

// helpView is a page of the help, or what a search has found.
type helpView struct {
	Title    string
	Pages    []*help.Page
	Page     *help.Page // nil for a search
	Question string
	Found    []help.Found
}

func (s *helpPage) page(w http.ResponseWriter, r *http.Request) {
	p, ok := s.book.Page(chi.URLParam(r, "page"))
	if !ok {
		s.fail(w, r, fmt.Errorf("the page %q of the help: %w", chi.URLParam(r, "page"), store.ErrNotFound))
		return
	}
	s.render(w, r, http.StatusOK, "help", helpView{Title: p.Title, Pages: s.book.Pages, Page: p})
}

// search shows what has the words of a question, and without one the first page.
func (s *helpPage) search(w http.ResponseWriter, r *http.Request) {
	question := r.URL.Query().Get("q")
	v := helpView{Title: "Help", Pages: s.book.Pages, Question: question}
	if question == "" {
		v.Page = s.book.Pages[0]
	}
	v.Found = s.book.Search(question, mostFound)
	s.render(w, r, http.StatusOK, "help", v)
}

// about leads to the paragraph about something, or to what a search for it finds.
func (s *helpPage) about(w http.ResponseWriter, r *http.Request) {
	of := r.URL.Query().Get("of")
	to := "/help?q=" + url.QueryEscape(of)
	if section, ok := s.book.About(of); ok {
		to = section.Address()
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
}
