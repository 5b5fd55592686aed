package web

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"unicode"
	"unicode/utf8"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"saltkettle/app/store"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
)

// platesView is the plates page.
type platesView struct {
	Trial *trialStep // what is shown is a trial, nil for a run
	pageView
	Plate *plateView
	// Plates are those of the model; Fields can be shown by new ones.
	Plates []plateLink
	Fields []plateLink
	// Swings are the quantities whose swing or phase can be shown.
	Swings   []plateLink
	Run      *store.Run
	Stale    bool
	Greatest *extremeView
	Least    *extremeView
	Columns  []columnView
	Rows     []rowView
	trustView
	// Damage says why the result that was chosen cannot be shown.
	Damage string
	// MayEstimate offers a run that estimates them, however long it takes.
	MayEstimate bool
	// Charts of the readings of a run in time, and why it ended early.
	Charts []chartView
	Modes  *modesView // of a run that finds them
	// ByFrequency says that the charts are over frequency.
	ByFrequency bool
	// Moments is what fields are kept at, "" if at the end alone.
	Moments   string
	Ended     string
	State     string
	Config    *plateConfig // for the script
	Beside    besideView
	RunStatus *runView
}

// chartView is a reading over time, or over frequency.
type chartView struct {
	Name           string
	TimeUnit, Unit string
	Plot           string // the numbers, as JSON
}

// platesPage is the plates of a model and what its results are handed over as.
type platesPage struct {
	*desk
	insides  *recent[*interior]
	surfaces *recent[*result.SurfaceFile]
	pictures *recent[[]byte]
	likes    *recent[*alike]
}

func newPlatesPage(d *desk) *platesPage {
	return &platesPage{d, &recent[*interior]{most: insideKept}, &recent[*result.SurfaceFile]{most: surfacesKept}, &recent[[]byte]{most: picturesKept}, &recent[*alike]{most: picturesKept}}
}

// Routes adds the routes of plates and results.
func (s *platesPage) Routes(r chi.Router) {
	r.Get("/models/{model}/plates", s.plates)
	r.Get("/models/{model}/readings.csv", s.exportReadings)
	r.Group(func(r chi.Router) {
		// What is drawn is sent in as few bytes as can be had without much waiting.
		r.Use(middleware.Compress(1, "application/octet-stream"))
		r.Get("/runs/{run}/surface", s.surface)
		r.Get("/runs/{run}/values", s.surfaceValues)
		r.Get("/runs/{run}/slice", s.heavy(s.slice))
		r.Get("/runs/{run}/level", s.heavy(s.level))
		r.Get("/runs/{run}/arrows", s.heavy(s.arrows))
		r.Get("/runs/{run}/streams", s.heavy(s.streams))
	})
	r.Get("/runs/{run}/picture.png", s.heavy(s.picture))
	r.Get("/runs/{run}/result.vtu", s.exportVTU)
	r.Get("/runs/{run}/line", s.heavy(s.line))
	r.Get("/runs/{run}/at", s.heavy(s.at))
	r.Get("/runs/{run}/nodes.csv", s.exportCSV)
	r.Get("/runs/{run}/moments.zip", s.exportMoments)
	r.Get("/runs/{run}/over-time.csv", s.exportHistory)
}

func (s *platesPage) plates(w http.ResponseWriter, r *http.Request) {
	v, err := s.newPlates(r)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.render(w, r, http.StatusOK, "plates", v)
}

func (s *platesPage) newPlates(r *http.Request) (platesView, error) {
	ctx := r.Context()
	m, err := s.store.Model(ctx, modelID(r))
	if err != nil {
		return platesView{}, err
	}
	doc, err := s.store.Document(ctx, m.ID, m.Head)
	if err != nil {
		return platesView{}, err
	}
	v := platesView{pageView: pageView{m.Name, m, "plates"}}
	h, err := s.history(ctx, m)
	if err != nil {
		return v, err
	}
	if err := s.compare(ctx, &h); err != nil {
		return v, err
	}
	v.State, v.RunStatus = state(m, h), s.runView(h)
	done := h.withReadings()
	n, _ := strconv.Atoi(r.URL.Query().Get("run"))
	if len(done) == 0 && n >= 0 {
		return v, nil
	}
	var chosen store.Run
	if n >= 0 {
		chosen = done[max(0, slices.IndexFunc(done, func(x store.Run) bool { return x.HasResult }))]
	}
	if n < 0 {
		if chosen, err = s.trialRun(ctx, &v, m, n); err != nil {
			return v, err
		}
	} else if n > 0 {
		i := slices.IndexFunc(done, func(x store.Run) bool { return x.Number == n })
		if i < 0 {
			return v, fmt.Errorf("run #%d of this model: %w", n, store.ErrNotFound)
		}
		chosen = done[i]
	}
	compareRuns(&v, h, done, chosen.ID)
	for i := range v.Rows {
		if n := s.store.RunBytes(v.Rows[i].ID); n > 0 {
			v.Rows[i].Room = bytesWords(n)
		}
	}
	if !chosen.HasResult {
		v.Damage = fmt.Sprintf("Run #%d cannot be shown: %s.", chosen.Number, chosen.Message)
		return v, nil
	}
	res, err := result.Load(s.store.RunDir(chosen.ID))
	if err != nil {
		// The other runs can be seen all the same.
		v.Damage = fmt.Sprintf("Run #%d cannot be shown: %v.", chosen.Number, err)
		s.log.Error("a result cannot be read", "run", chosen.ID, "error", err)
		return v, nil
	}
	v.Run = &chosen
	if v.Stale, err = s.stale(ctx, m, chosen.Revision, doc); err != nil {
		return v, err
	}
	v.trustView = newTrust(res)
	v.MayEstimate = res.Status == result.Settled && res.Seconds["estimate"] == 0 && len(res.Readings) > 0 && !v.Stale && v.Trial == nil
	s.modes(&v, res, chosen, done)
	if err := s.fillPlate(&v, doc, res, r.URL.Query().Get("plate")); err != nil {
		return v, err
	}
	if err := s.beside(r, &v, done, doc); err != nil {
		return v, err
	}
	if e := res.Ended; e != nil {
		v.Ended = fmt.Sprintf("It ended early, at %s, when %s came to hold", quantity.Show(e.At, "s", false, 6), e.Condition)
	}
	for _, x := range done {
		if x.HasResult {
			v.Plate.Overlays = append(v.Plate.Overlays, overlayView{x.ID, x.Number, x.ID == chosen.ID})
		}
	}
	v.Charts = charts(res)
	if len(res.Moments) > 0 {
		v.Moments = "moment"
		switch {
		case len(res.Modes) > 0:
			v.Moments = "mode"
		case res.History != nil && res.History.Axis == result.ByFrequency:
			v.Moments = "frequency"
		}
	}
	v.ByFrequency = res.History != nil && res.History.Axis == result.ByFrequency
	return v, nil
}

// trialStep says which trial is shown, and which come before and after it.
type trialStep struct {
	Values string // of what varies
	// Before and After are the numbers of runs, 0 for none.
	Before, After int
	Trials        string // address of the trials
}

// trialRun is a trial with its fields by the number of its run.
func (s *platesPage) trialRun(ctx context.Context, v *platesView, m store.Model, n int) (store.Run, error) {
	run, err := s.store.RunNumber(ctx, m.ID, n)
	if err != nil {
		return run, err
	}
	list, err := s.store.TrialRuns(ctx, run.SeriesID)
	if err != nil {
		return run, err
	}
	series, err := s.store.Series(ctx, run.SeriesID)
	if err != nil {
		return run, err
	}
	v.Trial = &trialStep{Values: run.ParameterWords(), Trials: "trials?set=" + url.QueryEscape(series.SetID)}
	i := slices.IndexFunc(list, func(x store.Run) bool { return x.ID == run.ID })
	if i > 0 {
		v.Trial.Before = list[i-1].Number
	}
	if i >= 0 && i+1 < len(list) {
		v.Trial.After = list[i+1].Number
	}
	return run, nil
}

// modeWords are the frequencies of modes, or the rates at which they decay.
func modeWords(r *result.Result) []string {
	var list []string
	for _, m := range r.Modes {
		value, unit := m.Frequency, "Hz"
		if m.Rate != 0 {
			value, unit = m.Rate, "1/s"
		}
		list = append(list, quantity.Show(value, unit, false, 5))
	}
	return list
}

// charts draws the readings of a run in time.
func charts(res *result.Result) []chartView {
	h := res.History
	if h == nil || len(h.Times) < 2 {
		return nil
	}
	unit, by := "s", 1.0
	switch end := h.Times[len(h.Times)-1]; {
	case h.Axis == result.ByFrequency:
		unit = "Hz"
	case end >= 2*86400:
		unit, by = "d", 86400
	case end >= 2*3600:
		unit, by = "h", 3600
	case end >= 300:
		unit, by = "min", 60
	}
	times := make([]float64, len(h.Times))
	for i, t := range h.Times {
		times[i] = t / by
	}
	var list []chartView
	for _, q := range res.Readings {
		y := h.Readings[q.Key]
		known := 0
		for _, v := range y {
			if v == v {
				known++
			}
		}
		if len(y) != len(times) || known < 2 { // one that is taken from the whole run has no curve
			continue
		}
		if plot, err := json.Marshal(struct {
			Times  []float64     `json:"times"`
			Values result.Values `json:"values"`
		}{times, y}); err == nil {
			list = append(list, chartView{q.Name, unit, q.Shown.Unit, string(plot)})
		}
	}
	return list
}

// capital is a text that begins with a capital letter.
func capital(text string) string {
	first, n := utf8.DecodeRuneInString(text)
	if n == 0 {
		return ""
	}
	return string(unicode.ToUpper(first)) + text[n:]
}

// differenceUnit is the unit of differences of values in a unit.
func differenceUnit(unit string) string {
	if u, err := quantity.ParseUnit(unit); err == nil && u.Affine() {
		return "K"
	}
	return unit
}
