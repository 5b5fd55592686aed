package web

import (
	"context"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
	"saltkettle/core/table"
	"saltkettle/core/trial"
)

// trialsView is the trials page.
type trialsView struct {
	pageView
	Sets []plateLink
	Set  *trialSetView
	// Ready says that the model itself could run.
	Ready bool
	// Choices of the chart.
	Across, Up, Shade field
	Chart             string // as JSON
	Series            *seriesView
	Rows              []trialRow
	Heads             []columnView
	Best              *bestView
	Moves             *movesView
	State             string
}

// trialSetView is what varies and what is wanted.
type trialSetView struct {
	ID                   string
	Name                 field
	Vary                 []varyView
	Pattern, Runs        field
	Counted, Spread      bool     // each parameter has a number of values, or the set one of trials
	Left                 []string // parameters that could vary too
	Want, Reading, While field
	Words                string // how many trials
	Faults               []string
	Good                 bool
}

// varyView is a row of what varies.
type varyView struct {
	Place           string
	Parameter       string
	From, To, Count field
	Faulty          bool
}

// seriesView is how far the trials are.
type seriesView struct {
	store.Series
	Done    int
	Left    int
	Busy    int
	Words   string
	Elapsed string
	Stale   bool
}

// trialRow is a line of the table.
type trialRow struct {
	Number       int
	Place        int
	Cells        []string
	State        string
	Made, Counts bool
	Good, Best   bool
	Breaks       bool // the condition of the goal
}

// bestView is the best trial.
type bestView struct {
	Number, Place int
	Words         string
	Between       string
	Value         string // text of the parameter where the parabola ends
}

// outcomes are the trials of a series with what the chart and the table show.
type outcomes struct {
	doc      *model.Document // as it was tried
	resolved *model.Resolved
	set      *model.ResolvedTrials
	list     []trial.Outcome
	made     map[int]store.Trial
	kinds    map[string]result.Reading // a reading of each key, for names and units
	keys     []string
}

// trialsPage is the trial sets of a model and their series.
type trialsPage struct{ *desk }

// Routes adds the routes of trials.
func (s *trialsPage) Routes(r chi.Router) {
	r.Get("/models/{model}/trials", s.trials)
	r.Post("/models/{model}/trials", s.startTrials)
	r.Post("/series/{series}/stop", s.stopTrials)
	r.Post("/series/{series}/go-on", s.goOnTrials)
	r.Post("/series/{series}/keep", s.keepTrial)
	r.Post("/series/{series}/use", s.useTrial)
	r.Get("/series/{series}/trials.csv", s.exportTrials)
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
		return v, nil
	}
	if err != nil {
		return v, err
	}
	o, err := s.outcomes(ctx, series)
	if err != nil {
		return v, err
	}
	v.Series = s.seriesView(series, o, m)
	v.fill(o, r)
	return v, nil
}

// trialSet fills the sections of a trial set.
func (k *briefMaker) trialSet(i int) *trialSetView {
	t := &k.doc.Trials[i]
	at := "trials/" + t.ID + "/"
	v := &trialSetView{ID: t.ID, Good: k.resolved.Trials[i].Good, Name: k.field(at+"name", t.Name, "name of the trial set", "name")}
	varies := map[string]bool{}
	for n := range t.Vary {
		y := &t.Vary[n]
		varies[y.Parameter] = true
		place := at + "vary/" + y.ID
		row := varyView{Place: place, Parameter: y.Parameter,
			From:  k.field(place+"/from", y.From, "first value of "+y.Parameter, "from"),
			To:    k.field(place+"/to", y.To, "last value of "+y.Parameter, "to"),
			Count: k.field(place+"/count", y.Count, "number of values of "+y.Parameter, "5")}
		_, row.Faulty = k.faults[place]
		v.Vary = append(v.Vary, row)
	}
	for _, p := range k.doc.Parameters {
		if _, formula := k.resolved.Definitions[p.Name]; !varies[p.Name] && !formula {
			v.Left = append(v.Left, p.Name)
		}
	}
	names, texts := []string{""}, []string{"no reading"}
	for _, q := range k.doc.Readings {
		names, texts = append(names, q.ID), append(texts, readingName(&q))
	}
	var keys, patterns []string
	for _, p := range model.Patterns {
		keys, patterns = append(keys, p.Key), append(patterns, p.Words)
		v.Spread = v.Spread || p.Spread && p.Key == t.Pattern
	}
	v.Counted = t.Counted()
	v.Pattern = k.choice(at+"pattern", t.Pattern, "how the values meet", keys, patterns)
	v.Runs = k.field(at+"runs", t.Runs, "number of trials", "20")
	v.Want = k.choice(at+"goal/want", t.Goal.Want, "what is wanted", []string{"", model.Least, model.Greatest}, []string{"No goal", "Least", "Greatest"})
	v.Reading = k.choice(at+"goal/reading", t.Goal.Reading, "reading of the goal", names, texts)
	v.While = k.field(at+"goal/while", t.Goal.While, "condition that a trial has to keep", "anything holds")
	if n := k.resolved.Trials[i].Count(); v.Good {
		v.Words = quantity.Count(n) + " trials"
	}
	for _, f := range k.findings {
		if f.Place == "trials/"+t.ID || len(f.Place) > len(at) && f.Place[:len(at)] == at {
			v.Faults = append(v.Faults, f.Message)
		}
	}
	return v
}

// readingName is the name of a reading, or its id.
func readingName(q *model.Sentence) string {
	if q.Name != "" {
		return q.Name
	}
	return q.ID
}

// outcomes reads the trials of a series with the document that they were made of.
func (s *trialsPage) outcomes(ctx context.Context, series store.Series) (*outcomes, error) {
	doc, err := s.store.Document(ctx, series.ModelID, series.Revision)
	if err != nil {
		return nil, err
	}
	o := &outcomes{doc: doc, made: map[int]store.Trial{}, kinds: map[string]result.Reading{}}
	o.resolved, _ = model.Resolve(doc, physics.Catalog())
	i := slices.IndexFunc(o.resolved.Trials, func(t model.ResolvedTrials) bool { return t.ID == series.SetID })
	if i < 0 {
		return nil, fmt.Errorf("the trial set of series %d: %w", series.Number, store.ErrNotFound)
	}
	o.set = &o.resolved.Trials[i]
	o.list = make([]trial.Outcome, o.set.Count())
	made, err := s.store.Trials(ctx, series.ID)
	if err != nil {
		return nil, err
	}
	for _, t := range made {
		if t.Place >= len(o.list) {
			continue
		}
		o.made[t.Place] = t
		out := trial.Outcome{Done: true, Counts: t.Counts(), Readings: map[string]float64{}}
		for _, q := range t.Readings() {
			if q.Missing == "" {
				out.Readings[q.Key] = q.Value
			}
			if _, ok := o.kinds[q.Key]; !ok {
				o.kinds[q.Key] = q
			}
		}
		o.list[t.Place] = out
	}
	for _, q := range doc.Readings {
		if _, ok := o.kinds[q.ID]; ok {
			o.keys = append(o.keys, q.ID)
		}
	}
	return o, nil
}

func (s *trialsPage) seriesView(series store.Series, o *outcomes, m store.Model) *seriesView {
	v := &seriesView{Series: series, Done: len(o.made), Busy: len(s.jobs.Busy(series.ID)), Stale: series.Revision != m.Head, Elapsed: seconds(series.Seconds)}
	v.Left = v.Count - v.Done
	switch {
	case series.Status == store.SeriesDone:
		v.Words = fmt.Sprintf("%d of %d done · %s", v.Done, v.Count, v.Elapsed)
	case series.Status == store.SeriesStopped:
		v.Words = fmt.Sprintf("stopped at %d of %d", v.Done, v.Count)
		if series.Message != "" && series.Message != "stopped" {
			v.Words += ": " + series.Message
		}
	case v.Done == 0:
		v.Words = fmt.Sprintf("0 of %d", v.Count)
		if v.Busy == 0 {
			v.Words = "waiting"
		}
	default:
		v.Words = fmt.Sprintf("%d of %d · about %s left", v.Done, v.Count, seconds(series.Seconds/float64(v.Done)*float64(v.Left)))
	}
	return v
}

// variable is what an axis of the chart can show: a parameter or a reading.
type variable struct {
	key, name, unit string
	of              func(place int) (float64, bool) // in the unit
}

func (o *outcomes) parameters() []variable {
	var list []variable
	for i := range o.set.Axes {
		a := &o.set.Axes[i]
		list = append(list, variable{a.Parameter, a.Parameter, a.Unit.Text, func(place int) (float64, bool) {
			return a.Unit.From(a.Values[o.set.At(place)[i]], false), true
		}})
	}
	return list
}

func (o *outcomes) readings() []variable {
	var list []variable
	for _, key := range o.keys {
		q := o.kinds[key]
		u := quantity.MustUnit(q.Shown.Unit)
		list = append(list, variable{key, q.Name, q.Shown.Unit, func(place int) (float64, bool) {
			v, ok := o.list[place].Readings[key]
			return u.From(v, q.Difference), ok
		}})
	}
	return list
}

// pick chooses a variable by its key, or the one at a place of the list.
func pick(list []variable, key string, usual int) int {
	if i := slices.IndexFunc(list, func(v variable) bool { return v.key == key }); i >= 0 {
		return i
	}
	return min(usual, len(list)-1)
}

// fill sets the table, the chart and the best trial.
func (v *trialsView) fill(o *outcomes, r *http.Request) {
	parameters, readings := o.parameters(), o.readings()
	best, found := trial.FindBest(o.resolved, o.set, o.list)
	if found {
		v.Best = o.best(best)
	}
	for _, p := range append(slices.Clone(parameters), readings...) {
		v.Heads = append(v.Heads, columnView{Key: p.key, Name: p.name, Unit: p.unit})
	}
	v.Moves = o.moves()
	for place := range o.list {
		t, made := o.made[place]
		row := trialRow{Number: place + 1, Place: place, Made: made, State: "to be made"}
		for _, p := range parameters {
			x, _ := p.of(place)
			row.Cells = append(row.Cells, tickText(x))
		}
		for _, q := range readings {
			text := ""
			if x, ok := q.of(place); ok {
				text = quantity.Figures(x, 4)
			}
			row.Cells = append(row.Cells, text)
		}
		if made {
			row.State, row.Counts = t.Status, t.Counts()
			row.Good = t.Status == string(result.Settled)
			if t.Message != "" {
				row.State += ": " + t.Message
			}
			if t.Kept != nil && *t.Kept != row.Good {
				row.State += map[bool]string{true: " — kept by hand", false: " — left out by hand"}[*t.Kept]
			}
			row.Breaks = !trial.Keeps(o.resolved, o.set, place, &o.list[place])
			row.Best = found && best.Trial == place
		}
		v.Rows = append(v.Rows, row)
	}
	if len(readings) == 0 {
		return
	}
	across := append(slices.Clone(parameters), readings...)
	x := pick(across, r.FormValue("across"), 0)
	goal := max(0, slices.IndexFunc(readings, func(q variable) bool { return q.key == o.set.Goal.Reading }))
	y := pick(readings, r.FormValue("up"), goal)
	shade := -1
	if len(parameters) > 1 {
		shade = pick(parameters, r.FormValue("shade"), 1)
		v.Shade = choiceOf("shade", parameters, shade)
	}
	v.Across, v.Up = choiceOf("across", across, x), choiceOf("up", readings, y)
	c := trialChart{x: across[x], y: readings[y], best: -1, line: len(parameters) == 1 && x == 0}
	if shade >= 0 {
		c.shade = &parameters[shade]
	}
	if found {
		c.best = best.Trial
		if best.Between && x == 0 && readings[y].key == o.set.Goal.Reading {
			q := o.kinds[o.set.Goal.Reading]
			c.end = &[2]float64{o.set.Axes[0].Unit.From(best.At, false), quantity.MustUnit(q.Shown.Unit).From(best.Estimate, q.Difference)}
		}
	}
	v.Chart = c.data(o)
}

// choiceOf is a select of variables.
func choiceOf(name string, list []variable, chosen int) field {
	f := field{Place: name, Value: list[chosen].key, Label: name}
	for _, v := range list {
		f.Names, f.Texts = append(f.Names, v.key), append(f.Texts, v.name)
	}
	return f
}

// best says which trial is the best.
func (o *outcomes) best(b trial.Best) *bestView {
	v := &bestView{Number: b.Trial + 1, Place: b.Trial}
	show := func(q result.Reading, x float64) string { return quantity.Show(x, q.Shown.Unit, q.Difference, 4) }
	for i, at := range o.set.At(b.Trial) {
		a := &o.set.Axes[i]
		v.Words += fmt.Sprintf("%s, ", strings.TrimSpace(fmt.Sprintf("%s %s %s", a.Parameter, tickText(a.Unit.From(a.Values[at], false)), a.Unit.Text)))
	}
	q := o.kinds[o.set.Goal.Reading]
	v.Words += q.Name + " " + show(q, b.Value)
	if b.Between {
		a := &o.set.Axes[0]
		v.Between = fmt.Sprintf("A parabola through it and its neighbours ends at %s %s with %s", a.Parameter, quantity.Show(b.At, a.Unit.Text, false, 4), show(q, b.Estimate))
		v.Value = fmt.Sprintf("%.4g %s", a.Unit.From(b.At, false), a.Unit.Text)
	}
	return v
}

// trialsState is the signature of what the trials page of a model shows.
func (s *desk) trialsState(ctx context.Context, m store.Model) string {
	list, err := s.store.ModelSeries(ctx, m.ID)
	if err != nil || len(list) == 0 {
		return fmt.Sprint(m.Head)
	}
	state := fmt.Sprint(m.Head)
	for _, x := range list {
		state += fmt.Sprintf("/%d %s %d %d", x.ID, x.Status, x.Made, x.Kept)
	}
	return state
}

// seriesOf finds the series in an address.
func (s *trialsPage) seriesOf(r *http.Request) (store.Series, error) {
	return s.store.Series(r.Context(), number(chi.URLParam(r, "series")))
}

// startTrials queues the trials of a set of the current revision.
func (s *trialsPage) startTrials(w http.ResponseWriter, r *http.Request) {
	ctx, id := r.Context(), modelID(r)
	doc, err := s.store.Document(ctx, id, 0)
	if err == nil {
		err = s.beginTrials(ctx, id, doc, r.FormValue("set"))
	}
	s.afterSeries(w, r, id, r.FormValue("set"), err)
}

func (s *trialsPage) beginTrials(ctx context.Context, id uint, doc *model.Document, set string) error {
	resolved, findings := model.Resolve(doc, physics.Catalog())
	if blocking := model.Blocking(findings); len(blocking) > 0 {
		return &userError{fmt.Errorf("the model cannot run yet: %s", blocking[0].Message)}
	}
	i := slices.IndexFunc(resolved.Trials, func(t model.ResolvedTrials) bool { return t.ID == set })
	if i < 0 {
		return &model.GoneError{Place: "trials/" + set}
	}
	if !resolved.Trials[i].Good {
		return &userError{fmt.Errorf("the trial set cannot run yet: mend what is marked first")}
	}
	if last, err := s.store.LastSeries(ctx, id, set); err == nil && last.Active() {
		return &userError{fmt.Errorf("these trials are still under way")}
	}
	_, err := s.jobs.QueueTrials(ctx, id, set, resolved.Trials[i].Count())
	return err
}

func (s *trialsPage) stopTrials(w http.ResponseWriter, r *http.Request) {
	series, err := s.seriesOf(r)
	if err == nil && series.Active() {
		err = s.jobs.StopSeries(r.Context(), series)
	}
	s.afterSeries(w, r, series.ModelID, series.SetID, err)
}

func (s *trialsPage) goOnTrials(w http.ResponseWriter, r *http.Request) {
	series, err := s.seriesOf(r)
	if err == nil && series.Status == store.SeriesStopped {
		err = s.jobs.GoOn(r.Context(), series)
	}
	s.afterSeries(w, r, series.ModelID, series.SetID, err)
}

// keepTrial lets a trial count by hand, or not.
func (s *trialsPage) keepTrial(w http.ResponseWriter, r *http.Request) {
	series, err := s.seriesOf(r)
	place, wrong := strconv.Atoi(r.FormValue("place"))
	if err == nil && wrong != nil {
		err = &userError{fmt.Errorf("a trial is given by its number")}
	}
	if err == nil {
		kept := r.FormValue("kept") == "true"
		err = s.store.KeepTrial(r.Context(), series.ID, place, &kept)
	}
	s.afterSeries(w, r, series.ModelID, series.SetID, err)
}

// useTrial gives the parameters of the model the values of a trial, or the first of
// them the value that the form says.
func (s *trialsPage) useTrial(w http.ResponseWriter, r *http.Request) {
	series, err := s.seriesOf(r)
	var o *outcomes
	if err == nil {
		o, err = s.outcomes(r.Context(), series)
	}
	place, wrong := strconv.Atoi(r.FormValue("place"))
	if err == nil && (wrong != nil || place < 0 || place >= len(o.list)) {
		err = &userError{fmt.Errorf("there is no such trial")}
	}
	if err == nil {
		_, _, err = s.store.Edit(r.Context(), series.ModelID, stamp(r), nil, func(d *model.Document) error {
			for i, at := range o.set.At(place) {
				value := o.set.Axes[i].Text(at)
				if between := r.FormValue("value"); i == 0 && between != "" {
					value = between
				}
				if err := d.SetParameter(o.set.Axes[i].Parameter, value); err != nil {
					return err
				}
			}
			return nil
		})
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.jobs.Notify(series.ModelID)
	http.Redirect(w, r, fmt.Sprintf("/models/%d/", series.ModelID), http.StatusSeeOther)
}

// afterSeries goes back to the trials; with scripts the stream of events says what
// changed.
func (s *trialsPage) afterSeries(w http.ResponseWriter, r *http.Request, id uint, set string, err error) {
	switch {
	case err != nil:
		s.fail(w, r, err)
	case r.Header.Get("HX-Request") != "":
		if err := r.ParseForm(); err == nil {
			r.Form.Set("set", set)
		}
		chi.RouteContext(r.Context()).URLParams.Add("model", fmt.Sprint(id))
		s.answerTrials(w, r, "")
	default:
		http.Redirect(w, r, fmt.Sprintf("/models/%d/trials?set=%s", id, set), http.StatusSeeOther)
	}
}

// exportTrials answers with the table as CSV, in the units in which it is shown.
func (s *trialsPage) exportTrials(w http.ResponseWriter, r *http.Request) {
	series, err := s.seriesOf(r)
	var o *outcomes
	if err == nil {
		o, err = s.outcomes(r.Context(), series)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	attach(w, fmt.Sprintf("trials-%d.csv", series.Number), "text/csv; charset=utf-8")
	out := table.NewWriter(w)
	head := []string{"trial"}
	columns := append(o.parameters(), o.readings()...)
	for _, c := range columns {
		head = append(head, fmt.Sprintf("%s (%s)", c.name, c.unit))
	}
	_ = out.Write(append(head, "state", "counts"))
	for place := range o.list {
		t, made := o.made[place]
		if !made {
			continue
		}
		line := []string{fmt.Sprint(place + 1)}
		for _, c := range columns {
			x, ok := c.of(place)
			if !ok || math.IsNaN(x) {
				line = append(line, "")
				continue
			}
			line = append(line, fmt.Sprintf("%.10g", x))
		}
		_ = out.Write(append(line, t.Status, fmt.Sprint(t.Counts())))
	}
	_ = out.Flush() // the other side may have gone
}
