// Package web serves the interface: pages from html/template, fragments for
// htmx, and the data of drawings and results. Rules and computation are in core;
// handlers decode, call and render.
package web

import (
	"bytes"
	"context"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"io/fs"
	"log/slog"
	"mime/multipart"
	"net/http"
	"runtime/debug"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"saltkettle/app/jobs"
	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/result"
)

//go:embed templates/*.html
var templateFiles embed.FS

//go:embed static
var staticFiles embed.FS

// maxBody bounds what a request may send, bytes: a file of any kind, and what a form has besides.
const maxBody = model.MaxFile + 1<<20

// desk is what the pages share.
type desk struct {
	store     *store.Store
	jobs      *jobs.Manager
	log       *slog.Logger
	templates *template.Template
	gate      *gate
}

// resource is a part of the interface with its routes.
type resource interface {
	Routes(r chi.Router)
}

// Server is the web interface of a data folder.
type Server struct {
	*desk
	resources []resource
}

// New makes a server.
func New(s *store.Store, m *jobs.Manager, log *slog.Logger) (*Server, error) {
	t, err := template.New("").Funcs(functions).ParseFS(templateFiles, "templates/*.html")
	if err != nil {
		return nil, err
	}
	d := &desk{store: s, jobs: m, log: log, templates: t, gate: newGate()}
	materials, trials := &materialsPage{d}, newTrialsPage(d)
	sheet := &sheetPage{desk: d, answers: map[string]answer{"materials": materials.answerMaterials, "trials": trials.answerTrials}}
	plates := newPlatesPage(d)
	report, err := newReportPage(plates, trials)
	if err != nil {
		return nil, err
	}
	reading, err := newHelpPage(d)
	if err != nil {
		return nil, err
	}
	return &Server{d, []resource{reading, &shelfPage{d}, sheet, &shapeFiles{desk: d}, &runsAPI{d}, plates, report, trials, &revisionsPage{d}, materials, &storagePage{d}, &queuePage{d}}}, nil
}

// Handler returns the routes with their middleware.
func (s *Server) Handler() http.Handler {
	r := chi.NewRouter()
	r.Use(s.recovered, middleware.GetHead, secure, http.NewCrossOriginProtection().Handler, limitBody)
	static, err := fs.Sub(staticFiles, "static")
	if err != nil {
		panic("web: the static files are not embedded: " + err.Error())
	}
	r.Group(func(r chi.Router) {
		r.Use(middleware.Compress(5))
		r.Handle("/static/*", cached(http.StripPrefix("/static/", http.FileServerFS(static))))
		for _, resource := range s.resources {
			resource.Routes(r)
		}
	})
	// A stream must not be buffered by the compressor.
	(&eventStream{s.desk}).Routes(r)
	r.Get("/healthz", s.healthz)
	r.NotFound(func(w http.ResponseWriter, req *http.Request) {
		s.fail(w, req, fmt.Errorf("the page %s: %w", req.URL.Path, store.ErrNotFound))
	})
	return r
}

// healthz says whether the server answers and its store does.
func (s *desk) healthz(w http.ResponseWriter, r *http.Request) {
	w.Header().Set("Content-Type", "text/plain; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	if err := s.store.Ping(r.Context()); err != nil {
		s.log.Error("the store does not answer", "error", err)
		w.WriteHeader(http.StatusServiceUnavailable)
		_, _ = w.Write([]byte("the store does not answer\n"))
		return
	}
	_, _ = w.Write([]byte("ok\n"))
}

// recovered answers requests whose handler panicked with a page that says so; of a model it
// offers to undo the last change, which may be what it cannot show.
func (s *desk) recovered(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			fault := recover()
			if fault == nil {
				return
			}
			if fault == http.ErrAbortHandler {
				panic(fault)
			}
			s.log.Error("a request panicked", "path", r.URL.Path, "fault", fault, "stack", string(debug.Stack()))
			s.fail(w, r, errBroken)
		}()
		next.ServeHTTP(w, r)
	})
}

// errBroken is what is said of a fault of the program.
var errBroken = errors.New("the program came upon a fault of its own, which its log describes; nothing was lost")

// modelOf reads the model in the path of a request, 0 for none.
func modelOf(path string) uint {
	rest, ok := strings.CutPrefix(path, "/models/")
	if !ok {
		return 0
	}
	id, _, _ := strings.Cut(rest, "/")
	return number(id)
}

// secure sets the headers that keep a page from loading or running anything that
// is not the application's own.
func secure(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h, scripts := w.Header(), "'self'"
		if r.URL.Path == "/static/js/step-worker.js" {
			// The reader of STEP files builds functions, in a worker that sees no page.
			scripts += " 'unsafe-eval'"
		}
		h.Set("Content-Security-Policy", "default-src 'self'; img-src 'self' data: blob:; style-src 'self'; script-src "+scripts+"; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'")
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		next.ServeHTTP(w, r)
	})
}

func limitBody(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		r.Body = http.MaxBytesReader(w, r.Body, maxBody)
		next.ServeHTTP(w, r)
	})
}

// cached lets a browser keep static files for the time of a session; a new
// program asks again through the version in their address.
func cached(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Cache-Control", "max-age=3600")
		next.ServeHTTP(w, r)
	})
}

// render executes a template into memory and then writes it, so that a fault
// never leaves half a page.
func (s *desk) render(w http.ResponseWriter, r *http.Request, status int, name string, data any) {
	body, err := s.execute(name, data)
	if err != nil {
		s.log.Error("a page could not be made", "template", name, "error", err)
		http.Error(w, "This page could not be made. The server's log says why.", http.StatusInternalServerError)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(status)
	_, _ = w.Write(body)
}

func (s *desk) execute(name string, data any) ([]byte, error) {
	var b bytes.Buffer
	err := s.templates.ExecuteTemplate(&b, name, data)
	return b.Bytes(), err
}

// failure is what an error page shows.
type failure struct {
	Title, Message string
	// Model whose last change can be undone, 0 for none.
	Model uint
}

// fail answers a request with an error in words.
func (s *desk) fail(w http.ResponseWriter, r *http.Request, err error) {
	status, title := http.StatusInternalServerError, "That did not work"
	var gone *model.GoneError
	var tooLarge *http.MaxBytesError
	var clash *model.ClashError
	var said *userError
	var none *result.NotKeptError
	var refused *store.RefusedError
	var active *store.ActiveError
	switch {
	case store.IsNotFound(err), errors.As(err, &none):
		status, title = http.StatusNotFound, "Not here"
	case errors.As(err, &clash):
		s.answerClash(w, r, clash)
		return
	case errors.As(err, &gone), errors.As(err, &active):
		status = http.StatusConflict
	case errors.As(err, &tooLarge):
		status, err = http.StatusRequestEntityTooLarge, fmt.Errorf("more than %d MB were sent", model.MaxFile>>20)
	case store.IsFull(err):
		status, title = http.StatusInsufficientStorage, "The disk is full"
		s.log.Error("the disk is full", "path", r.URL.Path, "error", err)
	case errors.Is(err, errBusy):
		status, title = http.StatusServiceUnavailable, "Busy"
		w.Header().Set("Retry-After", "5")
	case errors.As(err, &said), errors.As(err, &refused):
		status = http.StatusUnprocessableEntity
	case errors.Is(err, context.Canceled):
		return
	default:
		s.log.Error("a request failed", "path", r.URL.Path, "error", err)
	}
	undoable := uint(0)
	if status == http.StatusInternalServerError {
		undoable = modelOf(r.URL.Path)
	}
	message := capital(err.Error()) + "."
	if r.Header.Get("HX-Request") != "" {
		w.Header().Set("Content-Type", "text/plain; charset=utf-8")
		w.WriteHeader(status)
		_, _ = w.Write([]byte(message))
		return
	}
	s.render(w, r, status, "failure", failure{title, message, undoable})
}

// answerClash answers an edit that was made on what has been changed since, with both versions.
func (s *desk) answerClash(w http.ResponseWriter, r *http.Request, e *model.ClashError) {
	if r.Header.Get("HX-Request") == "" {
		s.render(w, r, http.StatusConflict, "failure", failure{Title: "That did not work", Message: capital(e.Error()) + "."})
		return
	}
	m, err := s.store.Model(r.Context(), modelID(r))
	if err != nil {
		s.fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(http.StatusConflict)
	_ = json.NewEncoder(w).Encode(map[string]any{"place": e.Place, "message": capital(e.Words) + ".", "was": e.Was, "now": e.Now, "revision": m.Head})
}

// userError is a fault of the request that its sender can mend.
type userError struct{ err error }

func (e *userError) Error() string { return e.err.Error() }

// uploaded returns the file that a form sent; the caller closes it.
func uploaded(r *http.Request) (multipart.File, string, error) {
	file, head, err := r.FormFile("file")
	var tooLarge *http.MaxBytesError
	if errors.As(err, &tooLarge) {
		return nil, "", err
	}
	if err != nil {
		return nil, "", &userError{fmt.Errorf("no file was sent; choose one first")}
	}
	return file, head.Filename, nil
}

// modelID and runID read the numbers in an address.
func modelID(r *http.Request) uint { return number(chi.URLParam(r, "model")) }

func runID(r *http.Request) uint { return number(chi.URLParam(r, "run")) }

// number gives 0, which nothing has, for what is not a number.
func number(text string) uint {
	n, err := strconv.ParseUint(text, 10, 32)
	if err != nil {
		return 0
	}
	return uint(n)
}

// ago says how long ago something was.
func ago(t time.Time) string {
	d := time.Since(t)
	switch {
	case d < time.Minute:
		return "just now"
	case d < time.Hour:
		return plural(int(d.Minutes()), "minute") + " ago"
	case d < 24*time.Hour:
		return plural(int(d.Hours()), "hour") + " ago"
	}
	return t.Format("2 January 2006")
}

func plural(n int, word string) string {
	if n == 1 {
		return "1 " + word
	}
	return fmt.Sprintf("%d %ss", n, word)
}
