package web

import (
	"net/http"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"

	"saltkettle/app/store"
)

// queueView is the page of the runs of all models that wait or are under way.
type queueView struct {
	Title string
	Runs  []queuedView
}

// queuedView is one of them.
type queuedView struct {
	store.QueuedRun
	Words       string
	First, Last bool // of those that wait
}

// queuePage is the queue of runs.
type queuePage struct{ *desk }

// Routes adds the routes of the queue.
func (s *queuePage) Routes(r chi.Router) {
	r.Get("/queue", s.queue)
	r.Post("/queue/{run}/move", s.move)
	r.Post("/queue/{run}/stop", s.stop)
}

func (s *queuePage) queue(w http.ResponseWriter, r *http.Request) {
	list, err := s.store.Queue(r.Context())
	if err != nil {
		s.fail(w, r, err)
		return
	}
	v := queueView{Title: "Runs that wait"}
	for i, q := range list {
		one := queuedView{QueuedRun: q, Words: "waits", First: i == 0 || list[i-1].Status != store.Queued, Last: i == len(list)-1}
		if p, under := s.jobs.Current(q.ID); under {
			one.Words = p.Event.Stage + ", " + seconds(time.Since(p.Started).Seconds()) + " so far"
			if left := s.left(r.Context(), &p); left != "" {
				one.Words += ", " + left
			}
		}
		v.Runs = append(v.Runs, one)
	}
	s.render(w, r, http.StatusOK, "queue", v)
}

func (s *queuePage) move(w http.ResponseWriter, r *http.Request) {
	by, err := strconv.Atoi(r.FormValue("by"))
	if err == nil {
		err = s.store.MoveQueued(r.Context(), runID(r), by)
	}
	s.back(w, r, err)
}

func (s *queuePage) stop(w http.ResponseWriter, r *http.Request) {
	run, err := s.store.Run(r.Context(), runID(r))
	if err == nil {
		err = s.jobs.Stop(r.Context(), run)
	}
	s.back(w, r, err)
}

// back shows the queue as it is now.
func (s *queuePage) back(w http.ResponseWriter, r *http.Request, err error) {
	if err != nil {
		s.fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/queue", http.StatusSeeOther)
}
