package web

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"saltkettle/app/store"
	"saltkettle/core/model"
)

// trialsView is the trials page.
type trialsView struct {
	pageView
	Sets []plateLink
	Set  *trialSetView
	// Ready says that the model itself could run.
	Ready bool
	// Show is what the chart shows, and Choices are what more can be chosen of it.
	Show    field
	Choices []field
	Chart   string // as JSON
	Source  string // an address that answers with it, if it is not at hand
	Series  *seriesView
	Rows    []trialRow
	Heads   []columnView
	Best    *bestView
	Moves   *movesView
	// Insight is an address that answers with what the surfaces tell, "" for none yet, and InsightKey changes when that does.
	Insight, InsightKey string
	// Proposals are the last ones of the trials beyond the pattern, and Earlier those before them.
	Proposals, Earlier []proposalView
	State              string
}

// seriesView is how far the trials are.
type seriesView struct {
	store.Series
	Done, Left, Busy int
	Failed, Rest     int // that failed, and that are not made
	Words            string
	Elapsed          string
	Stale            bool
	Fields           string // room that the fields take, in words
}

// trialsPage is the trial sets of a model and their series.
type trialsPage struct {
	*desk
	known  *recent[*insight]
	fitted *recent[*fitted]
}

func newTrialsPage(d *desk) *trialsPage {
	return &trialsPage{d, &recent[*insight]{most: insightsKept}, &recent[*fitted]{most: insightsKept}}
}

// Routes adds the routes of trials.
func (s *trialsPage) Routes(r chi.Router) {
	r.Get("/models/{model}/trials", s.trials)
	r.Post("/models/{model}/trials", s.startTrials)
	r.Post("/models/{model}/trials/table", s.takeTable)
	r.Post("/series/{series}/stop", s.stopTrials)
	r.Post("/series/{series}/go-on", s.goOnTrials)
	r.Post("/series/{series}/more", s.makeMore)
	r.Post("/series/{series}/search", s.searchTrials)
	r.Post("/series/{series}/try", s.tryValues)
	r.Post("/series/{series}/keep", s.keepTrial)
	r.Post("/series/{series}/mark", s.markTrials)
	r.Post("/series/{series}/by-hand", s.setByHand)
	r.Post("/series/{series}/drop-fields", s.dropFields)
	r.Post("/series/{series}/slopes", s.wantSlopes)
	r.Post("/series/{series}/use", s.useTrial)
	r.Get("/series/{series}/insight", s.heavy(s.insight))
	r.Get("/series/{series}/chart", s.heavy(s.chart))
	r.Get("/series/{series}/predict", s.heavy(s.predict))
	r.Get("/series/{series}/trials.csv", s.exportTrials)
	r.Get("/series/{series}/surface.csv", s.heavy(s.exportSurface))
	r.Get("/series/{series}/surface.go", s.heavy(s.exportGo))
	r.Get("/series/{series}/surface.c", s.heavy(s.exportC))
	r.Get("/series/{series}/surface.fmu", s.heavy(s.exportFMU))
}

func (s *trialsPage) trials(w http.ResponseWriter, r *http.Request) {
	v, err := s.newTrials(r)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	name := "trials"
	if r.Header.Get("HX-Request") != "" {
		name = "trials-answer"
	}
	s.render(w, r, http.StatusOK, name, v)
}

// answerTrials renders the page anew after an edit.
func (s *trialsPage) answerTrials(w http.ResponseWriter, r *http.Request, focus string) {
	if path := strings.Split(focus, "/"); len(path) > 1 && path[0] == "trials" {
		r.Form.Set("set", path[1])
	}
	v, err := s.newTrials(r)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	announce(w, "kettle:changed", map[string]string{"focus": focus})
	s.render(w, r, http.StatusOK, "trials-answer", v)
}

func (s *trialsPage) newTrials(r *http.Request) (trialsView, error) {
	ctx := r.Context()
	m, err := s.store.Model(ctx, modelID(r))
	if err != nil {
		return trialsView{}, err
	}
	doc, err := s.store.Document(ctx, m.ID, m.Head)
	if err != nil {
		return trialsView{}, err
	}
	v := trialsView{pageView: pageView{m.Name, m, "trials"}, State: s.trialsState(ctx, m)}
	k := newBriefMaker(m.ID, doc)
	v.Ready = len(model.Blocking(k.findings)) == 0
	if len(doc.Trials) == 0 {
		return v, nil
	}
	chosen := max(0, slices.IndexFunc(doc.Trials, func(t model.TrialSet) bool { return t.ID == r.FormValue("set") }))
	for i, t := range doc.Trials {
		v.Sets = append(v.Sets, plateLink{ID: t.ID, Number: fmt.Sprint(i + 1), Name: t.Name, Chosen: i == chosen})
	}
	v.Set = k.trialSet(chosen)
	series, err := s.store.LastSeries(ctx, m.ID, v.Set.ID)
	if store.IsNotFound(err) {
		v.Set.Forecast = s.forecast(ctx, m, v.Set.Count, nil)
		v.planned(&k.resolved.Trials[chosen])
		return v, nil
	}
	if err != nil {
		return v, err
	}
	o, err := s.outcomes(ctx, series)
	if err != nil {
		return v, err
	}
	v.Set.Forecast = s.forecast(ctx, m, v.Set.Count, o)
	if v.Series, err = s.seriesView(ctx, series, o, m); err != nil {
		return v, err
	}
	v.fill(o, r)
	if len(o.made) > 0 && !series.Active() {
		v.InsightKey = o.key()
		v.Insight = fmt.Sprintf("/series/%d/insight", series.ID)
	}
	return v, nil
}

// forecast is how long the trials are likely to take, "" if nothing tells: by those of the set that were made, or by the last run.
func (s *trialsPage) forecast(ctx context.Context, m store.Model, count int, o *outcomes) string {
	each := 0.0
	if o != nil && o.series.Seconds > 0 && len(o.made) > 0 {
		each = o.series.Seconds / float64(len(o.made))
	} else if run, err := s.store.LastResult(ctx, m.ID); err == nil {
		each = run.Seconds
	}
	if each == 0 || count == 0 {
		return ""
	}
	return "about " + seconds(each*float64(count)) + " here"
}

func (s *trialsPage) seriesView(ctx context.Context, series store.Series, o *outcomes, m store.Model) (*seriesView, error) {
	v := &seriesView{Series: series, Done: len(o.made), Busy: len(s.jobs.Busy(series.ID)), Stale: series.Revision != m.Head, Elapsed: seconds(series.Seconds)}
	wanted := len(series.Places())
	v.Left = max(0, wanted-v.Done)
	v.Rest = o.set.Count() - v.Done
	for i := range o.made {
		if o.made[i].Status == store.Failed {
			v.Failed++
		}
	}
	runs, err := s.store.TrialRuns(ctx, series.ID)
	if err != nil {
		return v, err
	}
	sum := int64(0)
	for _, r := range runs {
		sum += s.store.RunBytes(r.ID)
		o.fields[r.Trial] = r.Number
	}
	if sum > 0 {
		v.Fields = bytesWords(sum)
	}
	switch {
	case series.Status == store.SeriesDone:
		v.Words = fmt.Sprintf("%d of %d done · %s", v.Done, o.set.Count(), v.Elapsed)
		if series.Message != "" {
			v.Words += " · " + series.Message
		}
	case series.Status == store.SeriesStopped:
		v.Words = fmt.Sprintf("stopped at %d of %d", v.Done, o.set.Count())
		if series.Message != "" && series.Message != "stopped" {
			v.Words += ": " + series.Message
		}
	case v.Done == 0:
		v.Words = fmt.Sprintf("0 of %d", wanted)
		if v.Busy == 0 {
			v.Words = "waiting"
		}
	case v.Left == 0 && series.Searching:
		v.Words = fmt.Sprintf("%d done · choosing the next", v.Done)
	default:
		v.Words = fmt.Sprintf("%d of %d · about %s left", v.Done, wanted, seconds(series.Seconds/float64(v.Done)*float64(v.Left)))
	}
	return v, nil
}

// trialsState is the signature of what the trials page of a model shows.
func (s *desk) trialsState(ctx context.Context, m store.Model) string {
	list, err := s.store.ModelSeries(ctx, m.ID)
	if err != nil || len(list) == 0 {
		return fmt.Sprint(m.Head)
	}
	state := fmt.Sprint(m.Head)
	for _, x := range list {
		state += fmt.Sprintf("/%d %s %d %d %d", x.ID, x.Status, x.Made, x.Touched, len(x.Added)+len(x.Wanted))
	}
	return state
}

// seriesOf finds the series in an address.
func (s *trialsPage) seriesOf(r *http.Request) (store.Series, error) {
	return s.store.Series(r.Context(), number(chi.URLParam(r, "series")))
}
