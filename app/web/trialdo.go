package web

import (
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"saltkettle/app/store"
	"saltkettle/core/formula"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
	"saltkettle/core/table"
	"saltkettle/core/trial"
)

// startTrials queues the trials of a set of the current revision, all or those that are chosen.
func (s *trialsPage) startTrials(w http.ResponseWriter, r *http.Request) {
	ctx, id := r.Context(), modelID(r)
	doc, err := s.store.Document(ctx, id, 0)
	var places []int
	if err == nil {
		places, err = placesOf(r)
	}
	if err == nil {
		err = s.beginTrials(ctx, id, doc, r.FormValue("set"), places)
	}
	s.afterSeries(w, r, id, r.FormValue("set"), err)
}

// placesOf reads the places of trials of a form, nil for none.
func placesOf(r *http.Request) ([]int, error) {
	text := r.FormValue("places")
	if text == "" {
		return nil, nil
	}
	var places []int
	for _, t := range strings.Split(text, ",") {
		p, err := strconv.Atoi(t)
		if err != nil || p < 0 || len(places) > model.MaxTrials {
			return nil, &userError{fmt.Errorf("a trial is given by its number")}
		}
		places = append(places, p)
	}
	return places, nil
}

func (s *trialsPage) beginTrials(ctx context.Context, id uint, doc *model.Document, set string, places []int) error {
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
	count := resolved.Trials[i].Planned()
	if slices.ContainsFunc(places, func(p int) bool { return p >= count }) {
		return &userError{fmt.Errorf("there is no such trial")}
	}
	_, err := s.jobs.QueueTrials(ctx, id, set, count, places)
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

// makeMore makes further trials of a series that has ended: those that are chosen, those that failed again, or all that are left.
func (s *trialsPage) makeMore(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	series, err := s.seriesOf(r)
	var places []int
	if err == nil {
		places, err = placesOf(r)
	}
	if err == nil && r.FormValue("what") == "failed" {
		var made []store.Trial
		made, err = s.store.Trials(ctx, series.ID)
		places = []int{}
		for _, t := range made {
			if t.Status == store.Failed {
				places = append(places, t.Place)
			}
		}
	}
	if err == nil {
		err = s.jobs.MakeMore(series, func() error { return s.store.WantMore(ctx, series.ID, places) })
	}
	s.afterSeries(w, r, series.ModelID, series.SetID, err)
}

// searchTrials lets a series choose further trials.
func (s *trialsPage) searchTrials(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	series, err := s.seriesOf(r)
	var o *outcomes
	if err == nil {
		o, err = s.outcomes(ctx, series)
	}
	if err == nil {
		switch {
		case series.Active():
			err = &userError{fmt.Errorf("these trials are still under way")}
		case !o.set.Good:
			err = &userError{fmt.Errorf("the trial set cannot run yet: mend what is marked first")}
		case len(o.Aims) == 0 && o.set.Search.Method != model.Knowledge:
			err = &userError{fmt.Errorf("nothing is wanted yet: add a goal")}
		default:
			err = s.jobs.MakeMore(series, func() error { return s.store.Search(ctx, series.ID) })
		}
	}
	s.afterSeries(w, r, series.ModelID, series.SetID, err)
}

// tryValues adds a trial at values of the parameters that the form says, with what is predicted of it.
func (s *trialsPage) tryValues(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	series, err := s.seriesOf(r)
	var in *insight
	if err == nil {
		in, err = s.insightOf(ctx, r)
	}
	var values []float64
	if err == nil {
		values, err = in.readValues(r.FormValue("at"))
	}
	if err == nil {
		p := trial.Proposal{Values: values, Why: "asked for", Predicted: map[string]trial.Estimate{}}
		for i, key := range in.keys {
			if in.errs[i] == nil {
				v, d, _ := in.p.At(key, values)
				p.Predicted[key] = trial.Estimate{Value: v, Deviation: finite(d)}
			}
		}
		err = s.jobs.MakeMore(series, func() error { return s.store.AddProposals(ctx, series.ID, []trial.Proposal{p}) })
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
	s.afterTouch(w, r, series, err)
}

// markTrials sets marks, or takes them away.
func (s *trialsPage) markTrials(w http.ResponseWriter, r *http.Request) {
	series, err := s.seriesOf(r)
	var places []int
	if err == nil {
		places, err = placesOf(r)
	}
	if err == nil {
		err = s.store.MarkTrials(r.Context(), series.ID, places, r.FormValue("marked") == "true")
	}
	s.afterTouch(w, r, series, err)
}

// setByHand sets the value of a reading of a trial by hand, or takes back what was set.
func (s *trialsPage) setByHand(w http.ResponseWriter, r *http.Request) {
	series, err := s.seriesOf(r)
	var o *outcomes
	if err == nil {
		o, err = s.outcomes(r.Context(), series)
	}
	place, wrong := strconv.Atoi(r.FormValue("place"))
	if err == nil && (wrong != nil || place < 0 || place >= len(o.List)) {
		err = &userError{fmt.Errorf("there is no such trial")}
	}
	h := store.HandValues{Reason: strings.TrimSpace(r.FormValue("reason"))}
	if err == nil {
		t := o.made[place]
		if before := t.Hand(); before != nil {
			h.Values = before.Values
		} else {
			h.Values = map[string]float64{}
		}
		key, text := r.FormValue("reading"), strings.TrimSpace(r.FormValue("value"))
		switch q, known := o.kinds[key]; {
		case !known:
			err = &userError{fmt.Errorf("the trials have no reading %q", key)}
		case text == "":
			delete(h.Values, key)
		default:
			h.Values[key], err = typedValue(text, q.Shown.Unit, q.Difference)
		}
	}
	if err == nil {
		err = s.store.SetByHand(r.Context(), series.ID, place, h)
	}
	s.afterTouch(w, r, series, err)
}

// typedValue is a value in SI that was typed with its unit, or as a bare number in a unit.
func typedValue(text, unit string, difference bool) (float64, error) {
	u := quantity.MustUnit(unit)
	if difference && u.Affine() {
		u = quantity.MustUnit("K")
	}
	f, err := formula.Parse(text)
	var v quantity.Value
	if err == nil {
		v, err = f.Eval(formula.Values{})
	}
	if err != nil {
		return 0, &userError{fmt.Errorf("%q is no value: %w", text, err)}
	}
	if v.Unit == "" && v.Dimension == quantity.None {
		return u.SI(v.SI), nil
	}
	if v.Dimension != u.Dimension {
		return 0, &userError{fmt.Errorf("%q is no value in %s", text, unit)}
	}
	return v.SI, nil
}

// wantSlopes asks for how the readings of a trial change with what varies.
func (s *trialsPage) wantSlopes(w http.ResponseWriter, r *http.Request) {
	series, err := s.seriesOf(r)
	place, wrong := strconv.Atoi(r.FormValue("place"))
	if err == nil && wrong != nil {
		err = &userError{fmt.Errorf("a trial is given by its number")}
	}
	if err == nil {
		err = s.jobs.MakeMore(series, func() error { return s.store.WantSlopes(r.Context(), series.ID, place) })
	}
	s.afterSeries(w, r, series.ModelID, series.SetID, err)
}

// dropFields deletes the fields of the trials.
func (s *trialsPage) dropFields(w http.ResponseWriter, r *http.Request) {
	series, err := s.seriesOf(r)
	if err == nil {
		err = s.store.DropFields(r.Context(), series.ID)
	}
	s.afterTouch(w, r, series, err)
}

// afterTouch answers what people did to trials, and tells other windows.
func (s *trialsPage) afterTouch(w http.ResponseWriter, r *http.Request, series store.Series, err error) {
	if err == nil {
		s.jobs.Notify(series.ModelID)
	}
	s.afterSeries(w, r, series.ModelID, series.SetID, err)
}

// useTrial gives the parameters of the model the values of a trial, those that the form says in their units, or the first of them alone the value
// that it says.
func (s *trialsPage) useTrial(w http.ResponseWriter, r *http.Request) {
	series, err := s.seriesOf(r)
	var o *outcomes
	if err == nil {
		o, err = s.outcomes(r.Context(), series)
	}
	var values []float64
	if at := r.FormValue("at"); err == nil && at != "" {
		values, err = o.readValues(at)
	} else if err == nil {
		place, wrong := strconv.Atoi(r.FormValue("place"))
		if wrong != nil || place < 0 || place >= len(o.List) {
			err = &userError{fmt.Errorf("there is no such trial")}
		} else {
			values = o.set.Values(place)
		}
	}
	if err == nil {
		_, _, err = s.store.Edit(r.Context(), series.ModelID, stamp(r), nil, func(d *model.Document) error {
			for i, x := range values {
				value := o.set.Axes[i].Text(x)
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

// mostTable is how long a table of trials may be, bytes.
const mostTable = 4 << 20

// takeTable takes a table in as the trials of a set: a file or text of CSV whose head names parameters, or readings, which are left out.
func (s *trialsPage) takeTable(w http.ResponseWriter, r *http.Request) {
	ctx, id := r.Context(), modelID(r)
	r.Body = http.MaxBytesReader(w, r.Body, mostTable)
	text := r.FormValue("text")
	if f, _, err := r.FormFile("file"); err == nil {
		data, err := io.ReadAll(f)
		f.Close()
		if err != nil {
			s.fail(w, r, &userError{fmt.Errorf("the table cannot be read: %w", err)})
			return
		}
		text = string(data)
	}
	_, _, err := s.store.Edit(ctx, id, stamp(r), nil, func(d *model.Document) error {
		names, lines, err := readTable(text, d)
		if err != nil {
			return &userError{err}
		}
		if err := d.AddLines(r.FormValue("set"), names, lines); err != nil {
			var gone *model.GoneError
			if errors.As(err, &gone) {
				return err
			}
			return &userError{err}
		}
		return nil
	})
	if err == nil {
		s.jobs.Notify(id)
	}
	s.afterSeries(w, r, id, r.FormValue("set"), err)
}

// readTable reads the columns of a table that are parameters of a model. A head may say the unit of its column, as in "pitch (mm)".
func readTable(text string, d *model.Document) (names []string, lines [][]string, err error) {
	in := csv.NewReader(strings.NewReader(strings.TrimPrefix(text, "\ufeff")))
	first, _, _ := strings.Cut(text, "\n")
	switch {
	case strings.Contains(first, "\t"):
		in.Comma = '\t'
	case strings.Contains(first, ";"):
		in.Comma = ';'
	}
	in.TrimLeadingSpace = true
	all, err := in.ReadAll()
	if err != nil {
		return nil, nil, fmt.Errorf("the table cannot be read: %w", err)
	}
	if len(all) < 2 {
		return nil, nil, fmt.Errorf("the table needs a head with the names of parameters, and a line for each trial")
	}
	type column struct {
		at   int
		unit string
	}
	var columns []column
	for k, head := range all[0] {
		name, unit, _ := strings.Cut(table.Raw(strings.TrimSpace(head)), "(")
		name, unit = strings.TrimSpace(name), strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(unit), ")"))
		if slices.ContainsFunc(d.Parameters, func(p model.Parameter) bool { return p.Name == name }) {
			names, columns = append(names, name), append(columns, column{k, unit})
		}
	}
	if len(names) == 0 {
		return nil, nil, fmt.Errorf("no head of the table is a parameter of the model: %s", strings.Join(all[0], ", "))
	}
	for _, row := range all[1:] {
		line := make([]string, len(columns))
		for i, c := range columns {
			line[i] = table.Raw(strings.TrimSpace(row[c.at]))
			if _, err := strconv.ParseFloat(line[i], 64); err == nil && c.unit != "" {
				line[i] += " " + c.unit
			}
		}
		lines = append(lines, line)
	}
	return names, lines, nil
}
