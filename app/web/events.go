package web

import (
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"
)

// Limits of the stream of events.
const (
	eventGap  = 120 * time.Millisecond // least time between two
	heartbeat = 20 * time.Second
)

// eventStream tells open pages of a model what happens to it.
type eventStream struct{ *desk }

// Routes adds the route of the stream.
func (s *eventStream) Routes(r chi.Router) {
	r.Get("/models/{model}/events", s.events)
}

// events streams what happens to a model: "run" carries the slip of the newest
// run, "changed" the state of the model when a page of it would look different, "trials" that
// of its trials.
func (s *eventStream) events(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	id := modelID(r)
	out := http.NewResponseController(w)
	_ = out.SetWriteDeadline(time.Time{}) // a stream lasts; others are bounded
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	changed, done := s.jobs.Watch(id)
	defer done()
	known, trials := "", ""
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	for {
		m, err := s.store.Model(ctx, id)
		if err != nil {
			return // the model was removed, or the reader is gone
		}
		h, err := s.history(ctx, m)
		if err != nil {
			return
		}
		body, err := s.execute("run", s.runView(h))
		if err != nil {
			s.log.Error("the slip of a run could not be made", "error", err)
			return
		}
		send(w, "run", string(body))
		if now := state(m, h); now != known {
			send(w, "changed", now)
			known = now
		}
		if now := s.trialsState(ctx, m); now != trials {
			send(w, "trials", now)
			trials = now
		}
		if out.Flush() != nil {
			return
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(eventGap):
		}
	wait:
		for {
			select {
			case <-ctx.Done():
				return
			case <-changed:
				break wait
			case <-beat.C:
				_, _ = fmt.Fprint(w, ": still here\n\n")
				if out.Flush() != nil {
					return
				}
			}
		}
	}
}

// send writes one event. A failed write shows at the next flush.
func send(w http.ResponseWriter, name, data string) {
	_, _ = fmt.Fprintf(w, "event: %s\n", name)
	for line := range strings.Lines(data) {
		_, _ = fmt.Fprintf(w, "data: %s\n", strings.TrimRight(line, "\n"))
	}
	_, _ = fmt.Fprint(w, "\n")
}
