package web

import (
	"context"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"saltkettle/app/jobs"
	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
	"saltkettle/core/solve"
)

// runView is the slip that tells of the newest run.
type runView struct {
	store.Run
	Stages  []stageView
	Mesh    string
	Detail  string // of the stage that is under way
	Elapsed string
	// Left is how long it may still take, in words, and Before how many runs wait before it.
	Left   string
	Before int
	Chart  template.HTML
	// Readings on the way, and which picture of the field there is, 0 for none.
	Readings []soFarView
	Glimpse  int
	Good     bool
	Words    string
	Plates   bool // there is something to look at
	// TooLarge says that it was not begun for want of memory, and can be all the same.
	TooLarge bool
	// GoOn is the time from which it can go on, in words, empty if it cannot.
	GoOn string
}

// soFarView is a reading on the way.
type soFarView struct {
	Name, Value string
	Curve       template.HTML
}

// stageView is a stage of a run: before, now or done.
type stageView struct{ Name, State string }

// runView returns the slip for the newest run, nil if there is none.
func (s *desk) runView(h history) *runView {
	if len(h.runs) == 0 {
		return nil
	}
	v := &runView{Run: h.runs[0]}
	if !v.Active() {
		v.Good = v.Status == string(result.Settled)
		v.Plates, v.TooLarge = v.HasResult, v.Status == store.TooLarge
		v.Words = v.Status
		if v.Message != "" {
			v.Words += ": " + v.Message
		}
		v.Elapsed = seconds(v.Seconds)
		if v.Reached > 0 {
			v.GoOn = quantity.Show(v.Reached, "s", false, 3)
		}
		return v
	}
	p, ok := s.jobs.Current(v.ID)
	if !ok {
		v.Words = "waiting"
		if list, err := s.store.Queue(context.Background()); err == nil {
			v.Before = max(0, slices.IndexFunc(list, func(q store.QueuedRun) bool { return q.ID == v.ID }))
		}
		return v
	}
	v.Words = "running"
	v.Elapsed = seconds(time.Since(p.Started).Seconds())
	state := "done"
	for _, name := range solve.Stages {
		if name == "views" && p.Event.Stage != name {
			continue // few runs have this stage
		}
		if name == p.Event.Stage {
			state = "now"
		}
		v.Stages = append(v.Stages, stageView{name, state})
		if state == "now" {
			state = "before"
		}
	}
	if p.Event.Cells > 0 {
		v.Mesh = quantity.Count(p.Event.Cells) + " cells, " + quantity.Count(p.Event.Nodes) + " unknowns"
	}
	if p.Event.Triangles > 0 {
		v.Detail = quantity.Count(p.Event.Triangles) + " triangles in plan so far"
	}
	if p.Event.End > 0 {
		v.Detail = quantity.Show(p.Event.Time, "s", false, 3) + " of " + quantity.Show(p.Event.End, "s", false, 3)
	}
	if p.Event.Part > 0 && p.Event.Part < 1 {
		v.Detail = fmt.Sprintf("view factors, %.0f %%", 100*p.Event.Part)
	}
	if p.Event.Iteration > 0 {
		v.Detail = fmt.Sprintf("iteration %d, residual %s", p.Event.Iteration, quantity.Figures(p.Event.Residual, 2))
	}
	v.Chart = residualChart(p.History)
	v.Left, v.Glimpse = s.left(context.Background(), &p), p.Event.Glimpse
	for _, q := range p.Readings[:min(len(p.Readings), 4)] {
		v.Readings = append(v.Readings, soFarView{q.Name, quantity.Figures(q.Values[len(q.Values)-1], 4) + " " + q.Unit, curve(q.At, q.Values)})
	}
	return v
}

// left says how long a run that is under way may still take: as its way in time or over frequency tells, or
// as the last run of the model that settled took, of which the time grows a little more than the unknowns.
func (s *desk) left(ctx context.Context, p *jobs.Progress) string {
	took, e := time.Since(p.Started).Seconds(), &p.Event
	part := e.Part
	if e.End > 0 {
		part = e.Time / e.End
	}
	if part > 0.02 {
		return "about " + seconds(took*(1-part)/part) + " left"
	}
	runs, err := s.store.Runs(ctx, p.Run.ModelID, 10)
	if err != nil {
		return ""
	}
	for _, r := range runs {
		if r.Status != string(result.Settled) || r.Nodes == 0 || r.Seconds < 1 {
			continue
		}
		want := r.Seconds
		if e.Nodes > 0 {
			want *= math.Pow(float64(e.Nodes)/float64(r.Nodes), growth)
		}
		if want <= took {
			return ""
		}
		return fmt.Sprintf("about %s left, as run #%d took", seconds(want-took), r.Number)
	}
	if steps := stepsLeft(p.History); steps > 0 && e.Iteration > 0 {
		return "about " + seconds(took*steps/float64(e.Iteration)) + " left, if the residual falls on like that"
	}
	return ""
}

// stepsLeft is how many steps it takes until the residual of a run is so small that it has settled, mostly, if it falls on as in the
// last ones; 0 where it falls too little to tell.
func stepsLeft(history []jobs.Point) float64 {
	const (
		looked  = 10
		clearly = 3.
		settled = 1e-7
	)
	n := len(history)
	if n <= looked || history[n-1].Residual <= settled {
		return 0
	}
	first, last := history[n-1-looked], history[n-1]
	fell := math.Log(first.Residual / last.Residual)
	if !(fell > math.Log(clearly)) || last.Iteration <= first.Iteration {
		return 0
	}
	return math.Log(last.Residual/settled) / fell * float64(last.Iteration-first.Iteration)
}

// growth is the power of the number of unknowns with which the time of a run grows.
const growth = 1.15

// curve draws numbers over others, small and without axes.
func curve(x, y []float64) template.HTML {
	if len(x) < 3 || !(slices.Max(x) > slices.Min(x)) {
		return ""
	}
	const w, h = 120.0, 18.0
	x0, x1, y0, y1 := slices.Min(x), slices.Max(x), slices.Min(y), slices.Max(y)
	if y1 == y0 {
		y0, y1 = y0-1, y1+1
	}
	var b strings.Builder
	fmt.Fprintf(&b, `<svg class="so-far" preserveAspectRatio="none" viewBox="0 0 %.0f %.0f" aria-hidden="true"><polyline points="`, w, h)
	for i := range x {
		fmt.Fprintf(&b, "%.1f,%.1f ", w*(x[i]-x0)/(x1-x0), 1+(h-2)*(y1-y[i])/(y1-y0))
	}
	b.WriteString(`"/></svg>`)
	return template.HTML(b.String()) // numbers only
}

// residualChart draws the fall of the residual on a logarithmic scale down to
// the tolerance.
func residualChart(list []jobs.Point) template.HTML {
	if len(list) < 2 {
		return ""
	}
	const w, h, decades = 280.0, 44.0, 12.0
	var b strings.Builder
	fmt.Fprintf(&b, `<svg class="residuals" preserveAspectRatio="none" viewBox="0 0 %.0f %.0f" role="img" aria-label="residual over iterations">`, w, h)
	for d := 0.0; d <= decades; d += 4 {
		y := 2 + (h-4)*d/decades
		fmt.Fprintf(&b, `<line x1="0" y1="%.1f" x2="%.0f" y2="%.1f"/>`, y, w, y)
	}
	b.WriteString(`<polyline points="`)
	last := float64(list[len(list)-1].Iteration)
	for _, p := range list {
		d := min(max(-math.Log10(max(p.Residual, 1e-300)), 0), decades)
		fmt.Fprintf(&b, "%.1f,%.1f ", w*float64(p.Iteration)/last, 2+(h-4)*d/decades)
	}
	b.WriteString(`"/></svg>`)
	return template.HTML(b.String()) // numbers only
}

// runsAPI starts and stops runs.
type runsAPI struct{ *desk }

// Routes adds the routes of runs.
func (s *runsAPI) Routes(r chi.Router) {
	r.Post("/models/{model}/runs", s.startRun)
	r.Post("/runs/{run}/stop", s.stopRun)
	r.Post("/runs/{run}/go-on", s.goOn)
	r.Post("/runs/{run}/delete", s.deleteRun)
	r.Post("/runs/{run}/note", s.noteRun)
	r.Post("/runs/{run}/keep", s.keepRun)
	r.Get("/runs/{run}/glimpse.png", s.heavy(s.glimpse))
}

// startRun queues a run of the current revision, unless the model is not ready or
// a run of it is under way.
func (s *runsAPI) startRun(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	id := modelID(r)
	doc, err := s.store.Document(ctx, id, 0)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	_, findings := model.Resolve(doc, physics.Catalog())
	if r.FormValue("light") != "" {
		s.lightRun(w, r, id, doc, findings)
		return
	}
	if blocking := model.Blocking(findings); len(blocking) > 0 {
		s.fail(w, r, &userError{fmt.Errorf("the model cannot run yet: %s", blocking[0].Message)})
		return
	}
	s.queue(w, r, id, store.Wishes{MeshError: r.FormValue("mesh-error") != "", Anyway: r.FormValue("anyway") != ""})
}

// lightest is how long the last run may have taken, s, for another to be made at each change.
var lightest = 2.0

// lightRun queues a run of what was just changed, if that is light: the model can run, nothing of it is
// under way, its last run was short, and something changed on which the result depends. It says so
// once when runs have become too long, and is silent about the rest.
func (s *runsAPI) lightRun(w http.ResponseWriter, r *http.Request, id uint, doc *model.Document, findings []model.Finding) {
	ctx := r.Context()
	m, err := s.store.Model(ctx, id)
	var runs []store.Run
	if err == nil {
		runs, err = s.store.Runs(ctx, id, 1)
	}
	stale := len(runs) == 0
	if err == nil && !stale {
		stale, err = s.stale(ctx, m, runs[0].Revision, doc)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	if len(model.Blocking(findings)) > 0 || !stale || len(runs) > 0 && runs[0].Active() {
		w.WriteHeader(http.StatusNoContent)
		return
	}
	if len(runs) > 0 && runs[0].Seconds > lightest {
		s.fail(w, r, &userError{fmt.Errorf("run #%d took %s: from here on the model is run with Enter", runs[0].Number, quantity.Show(runs[0].Seconds, "s", false, 2))})
		return
	}
	s.queue(w, r, id, store.Wishes{})
}

// goOn queues a run that goes on from where another one stopped, with the model of that.
func (s *runsAPI) goOn(w http.ResponseWriter, r *http.Request) {
	run, err := s.store.Run(r.Context(), runID(r))
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.queue(w, r, run.ModelID, store.Wishes{GoesOn: run.ID})
}

// queue queues a run of a model, unless one of it is under way.
func (s *runsAPI) queue(w http.ResponseWriter, r *http.Request, model uint, wishes store.Wishes) {
	runs, err := s.store.Runs(r.Context(), model, 1)
	if err == nil && len(runs) > 0 && runs[0].Active() {
		err = &userError{fmt.Errorf("run #%d of this model is still under way", runs[0].Number)}
	}
	if err == nil {
		_, err = s.jobs.Queue(r.Context(), model, wishes)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.answerRun(w, r, model)
}

// noteRun keeps what was written about a run.
func (s *runsAPI) noteRun(w http.ResponseWriter, r *http.Request) {
	if err := s.store.NoteRun(r.Context(), runID(r), strings.TrimSpace(r.FormValue("note"))); err != nil {
		s.fail(w, r, err)
		return
	}
	w.WriteHeader(http.StatusNoContent)
}

// keepRun says whether the fields of a run stay however many newer ones there are.
func (s *runsAPI) keepRun(w http.ResponseWriter, r *http.Request) {
	if err := s.store.KeepRun(r.Context(), runID(r), r.FormValue("kept") == "true"); err != nil {
		s.fail(w, r, err)
		return
	}
	w.WriteHeader(http.StatusNoContent)
}

// deleteRun deletes a run with its result, and goes to the plates.
func (s *runsAPI) deleteRun(w http.ResponseWriter, r *http.Request) {
	run, err := s.store.DeleteRun(r.Context(), runID(r))
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.jobs.Notify(run.ModelID)
	to := fmt.Sprintf("/models/%d/plates", run.ModelID)
	if r.Header.Get("HX-Request") != "" {
		w.Header().Set("HX-Redirect", to)
		w.WriteHeader(http.StatusNoContent)
		return
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
}

func (s *runsAPI) stopRun(w http.ResponseWriter, r *http.Request) {
	run, err := s.store.Run(r.Context(), runID(r))
	if err == nil {
		err = s.jobs.Stop(r.Context(), run)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.answerRun(w, r, run.ModelID)
}

// answerRun goes back to the sheet; a page with scripts gets nothing, for the
// stream of events alone writes its slip: an answer could arrive after the news
// of a quick end and put the older state over it.
func (s *runsAPI) answerRun(w http.ResponseWriter, r *http.Request, id uint) {
	if r.Header.Get("HX-Request") != "" {
		w.WriteHeader(http.StatusNoContent)
		return
	}
	http.Redirect(w, r, fmt.Sprintf("/models/%d/", id), http.StatusSeeOther)
}
