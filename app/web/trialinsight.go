package web

import (
	"context"
	"errors"
	"fmt"
	"math"
	"net/http"
	"strconv"
	"strings"

	"saltkettle/core/model"
	"saltkettle/core/quantity"
	"saltkettle/core/trial"
)

// insightsKept is of how many series what the surfaces tell is kept.
const insightsKept = 6

// fitted is what the surfaces of a series tell whatever is wanted of it.
type fitted struct {
	p *trial.Prediction
	// Of each reading, by its place among the keys.
	parts   [][]trial.Sensitivity
	errs    []error
	spreads []trial.Spread
}

// insight is what the surfaces of a series tell.
type insight struct {
	*outcomes
	*fitted
	p       *trial.Prediction // with what is wanted now
	chances []trial.Chance
	optimum *trial.Optimum
}

// insightOf finds what the surfaces of a series tell, once for the same trials.
func (s *trialsPage) insightOf(ctx context.Context, r *http.Request) (*insight, error) {
	series, err := s.seriesOf(r)
	if err != nil {
		return nil, err
	}
	o, err := s.outcomes(ctx, series)
	if err != nil {
		return nil, err
	}
	return s.insightInto(o)
}

// insightInto finds what the surfaces of outcomes tell, of which those that only other wishes ask about are there already.
func (s *trialsPage) insightInto(o *outcomes) (*insight, error) {
	return s.known.get(o.key(), func() (*insight, error) {
		f, err := s.fitted.get(o.fitKey(), func() (*fitted, error) { return newFitted(o), nil })
		if err != nil {
			return nil, err
		}
		in := &insight{outcomes: o, fitted: f, p: f.p.Wanting(o.Set)}
		in.chances, _ = in.p.Chances() // none where a surface of a limit says why it is missing
		if best, err := in.p.Optimum(); err == nil {
			in.optimum = &best
		}
		return in, nil
	})
}

// errSame says of a reading that there is nothing to predict.
var errSame = errors.New("the same in all trials")

// newFitted finds what is told of all readings.
func newFitted(o *outcomes) *fitted {
	n := len(o.keys)
	f := &fitted{p: trial.Predict(o.Set), parts: make([][]trial.Sensitivity, n), errs: make([]error, n), spreads: make([]trial.Spread, n)}
	for i, key := range o.keys {
		if !o.Varies(key) {
			f.errs[i] = errSame
			continue
		}
		if f.parts[i], f.errs[i] = f.p.Sensitivities(key); f.errs[i] == nil {
			f.spreads[i], f.errs[i] = f.p.Spread(key)
		}
	}
	return f
}

// insightView is the sections of what the surfaces tell.
type insightView struct {
	Series     uint
	Parameters []string
	Parts      []partsRow
	Idle       []string // what does not matter, in words
	Readings   []predictedView
	Sliders    []sliderView
	Optimum    *optimumView
	Spreads    []spreadRow
	Chances    []string
	Spreading  string // by which distributions
	Missing    string // why there is no surface at all
}

// partsRow is how much of the variance of a reading comes from each parameter.
type partsRow struct {
	Name  string
	Cells []partCell
}

// partCell is a part of the variance in percent.
type partCell struct {
	Total, First float64
	Text, Title  string
	Faint        bool
}

// predictedView is a reading with how well it is predicted.
type predictedView struct {
	Key, Name string
	Error     string
	Missing   string
	Poor      bool // the surface tells little more than the mean of the trials
}

// sliderView is a parameter that can be moved.
type sliderView struct {
	Key, Name, Unit      string
	Low, High, Step, Now float64
	Text                 string
}

// optimumView is the best by the surfaces.
type optimumView struct {
	Words string
	At    string // of its sliders
	Keeps bool
}

// spreadRow is how a reading spreads.
type spreadRow struct{ Name, Mean, Deviation, Low, High string }

func (s *trialsPage) insight(w http.ResponseWriter, r *http.Request) {
	in, err := s.insightOf(r.Context(), r)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.render(w, r, http.StatusOK, "trials-insight", in.view())
}

func (in *insight) view() *insightView {
	v := &insightView{Series: in.series.ID}
	for i := range in.set.Axes {
		v.Parameters = append(v.Parameters, in.set.Axes[i].Parameter)
	}
	matters := map[string][]string{}
	for i, key := range in.keys {
		name := in.kinds[key].Name
		q := predictedView{Key: key, Name: name}
		if in.errs[i] != nil {
			q.Missing = in.errs[i].Error()
			if in.errs[i] != errSame {
				v.Missing = q.Missing
			}
			v.Readings = append(v.Readings, q)
			continue
		}
		f, trials, _ := in.p.Surface(key)
		size, share := f.Error()
		q.Error = fmt.Sprintf("%s is off by %s, %s %%", trial.LeftOut(f, len(trials)), in.difference(key, size), quantity.Figures(100*share, 2))
		q.Poor = share > 0.5
		v.Readings = append(v.Readings, q)
		row := partsRow{Name: name}
		for j := range in.parts[i] {
			p := &in.parts[i][j]
			cell := partCell{Total: 100 * max(0, p.Total), First: 100 * max(0, p.First), Text: fmt.Sprintf("%.0f %%", 100*max(0, p.Total)), Faint: !p.Matters(),
				Title: fmt.Sprintf("alone %.0f %%, with others %.0f %%", 100*max(0, p.First), 100*max(0, p.Total))}
			if !math.IsNaN(p.TotalError) {
				cell.Title += fmt.Sprintf("; standard errors %.1f and %.1f", 100*p.FirstError, 100*p.TotalError)
			}
			row.Cells = append(row.Cells, cell)
			// A surface that tells little cannot say that something does not matter.
			if !p.Matters() && !math.IsNaN(p.TotalError) && !q.Poor {
				matters[p.Parameter] = append(matters[p.Parameter], name)
			}
		}
		v.Parts = append(v.Parts, row)
	}
	if len(v.Parts) > 0 {
		v.Missing = ""
	}
	for _, p := range v.Parameters {
		switch n := len(matters[p]); {
		case n == 0:
		case n == len(v.Parts):
			v.Idle = append(v.Idle, fmt.Sprintf("%s matters for no reading: it makes up less than 5 %% of the variance of each", p))
		default:
			v.Idle = append(v.Idle, fmt.Sprintf("%s does not matter for %s: it makes up less than 5 %% of its variance", p, strings.Join(matters[p], " or ")))
		}
	}
	in.sliders(v)
	in.spreading(v)
	return v
}

// difference is a difference of values of a reading, SI, in its unit.
func (in *outcomes) difference(key string, d float64) string {
	return quantity.Show(d, differenceUnit(in.kinds[key].Shown.Unit), true, 2)
}

// sliders fills the sliders, which begin at the best by the surface, else in the middle.
func (in *insight) sliders(v *insightView) {
	now := make([]float64, len(in.set.Axes))
	for i := range now {
		now[i] = in.set.Axes[i].Unscaled(0.5)
	}
	if in.optimum != nil {
		now = in.optimum.Values
		v.Optimum = &optimumView{Keeps: in.optimum.Keeps}
		var words, at []string
		for i, x := range now {
			a := &in.set.Axes[i]
			words = append(words, strings.TrimSpace(fmt.Sprintf("%s %s %s", a.Parameter, in.valueText(i, x), a.Unit.Text)))
			at = append(at, strconv.FormatFloat(a.Unit.From(x, false), 'g', 8, 64))
		}
		for _, key := range in.spoken() {
			e := in.optimum.Estimates[key]
			words = append(words, in.kinds[key].Name+" "+in.estimate(key, e.Value, e.Deviation))
		}
		v.Optimum.Words, v.Optimum.At = strings.Join(words, ", "), strings.Join(at, ",")
	}
	for i := range in.set.Axes {
		a := &in.set.Axes[i]
		lo, hi := a.Unit.From(min(a.From, a.To), false), a.Unit.From(max(a.From, a.To), false)
		step := (hi - lo) / 200
		if a.Whole() {
			step = 1
		}
		x := a.Unit.From(now[i], false)
		v.Sliders = append(v.Sliders, sliderView{Key: a.Parameter, Name: a.Parameter, Unit: a.Unit.Text, Low: lo, High: hi, Step: step, Now: x, Text: in.valueText(i, now[i])})
	}
}

// valueText is a value of an axis, SI, in its unit: of one that takes only some with all its figures.
func (in *outcomes) valueText(axis int, x float64) string {
	a := &in.set.Axes[axis]
	if !a.Free() {
		return tickText(a.Unit.From(x, false))
	}
	return quantity.Figures(a.Unit.From(x, false), 4)
}

// estimate is a predicted value with its band of 95 %.
func (in *outcomes) estimate(key string, value, deviation float64) string {
	q := in.kinds[key]
	text := quantity.Show(value, q.Shown.Unit, q.Difference, 4)
	if trial.Within*deviation > 1e-6*math.Abs(value) { // less is what no figure shows
		u := quantity.MustUnit(q.Shown.Unit)
		text = fmt.Sprintf("%s ± %s", quantity.Figures(u.From(value, q.Difference), 4), in.difference(key, trial.Within*deviation))
		if u.Affine() && !q.Difference {
			text = fmt.Sprintf("%s ± %s", quantity.Show(value, q.Shown.Unit, false, 4), in.difference(key, trial.Within*deviation))
		}
	}
	return text
}

// spreading fills how readings spread and the chances of breaking limits.
func (in *insight) spreading(v *insightView) {
	var normal, even []string
	for i := range in.set.Axes {
		if in.set.Axes[i].Spreads() {
			normal = append(normal, in.set.Axes[i].Parameter)
		} else {
			even = append(even, in.set.Axes[i].Parameter)
		}
	}
	switch {
	case len(normal) == 0:
		v.Spreading = "if " + strings.Join(even, ", ") + " spread evenly between their ends"
	case len(even) == 0:
		v.Spreading = "as " + strings.Join(normal, ", ") + " spread by their distributions"
	default:
		v.Spreading = "as " + strings.Join(normal, ", ") + " spread by their distributions and " + strings.Join(even, ", ") + " evenly"
	}
	for i, key := range in.keys {
		if in.errs[i] != nil {
			continue
		}
		s := &in.spreads[i]
		v.Spreads = append(v.Spreads, spreadRow{in.kinds[key].Name, in.words(key, s.Mean), in.difference(key, s.Deviation), in.words(key, s.Low), in.words(key, s.High)})
	}
	for i := range in.chances {
		c := &in.chances[i]
		key := c.Bound.Reading
		broken := map[string]string{"under": "over", "over": "under"}[c.Bound.Side]
		words := fmt.Sprintf("%s is %s %s with a chance of %s by the surface", in.kinds[key].Name, broken, in.words(key, c.Bound.Value), trial.Percent(c.Share))
		if c.High-c.Low > 0.001 {
			words += fmt.Sprintf(" (%s to %s if the surface is off by its deviation)", trial.Percent(c.Low), trial.Percent(c.High))
		}
		if c.Counted > 0 {
			words += fmt.Sprintf("; %d of %d trials, which speak for %.2g to %.2g %%", c.Broken, c.Counted, 100*c.CountedLow, 100*c.CountedHigh)
		}
		v.Chances = append(v.Chances, words)
	}
}

// valuesAt reads values of the parameters in their units, "" for the best by the surface or the middle.
func (in *insight) valuesAt(text string) ([]float64, error) {
	if text == "" {
		if in.optimum != nil {
			return in.optimum.Values, nil
		}
		u := make([]float64, len(in.set.Axes))
		for i := range u {
			u[i] = 0.5
		}
		return in.Unscaled(u), nil
	}
	return in.readValues(text)
}

// readValues reads values of the parameters, parted by commas, in their units.
func (in *outcomes) readValues(text string) ([]float64, error) {
	list := strings.Split(text, ",")
	if len(list) != len(in.set.Axes) {
		return nil, &userError{fmt.Errorf("a trial has %d values, and not %d", len(in.set.Axes), len(list))}
	}
	values := make([]float64, len(list))
	for i, t := range list {
		x, err := strconv.ParseFloat(strings.TrimSpace(t), 64)
		if err != nil || math.IsNaN(x) || math.IsInf(x, 0) {
			return nil, &userError{fmt.Errorf("%q is no number", t)}
		}
		values[i] = in.set.Axes[i].Snap(in.set.Axes[i].Unit.SI(x))
	}
	return values, nil
}

// predictedJSON is what is predicted at values of the parameters.
type predictedJSON struct {
	Readings []predictedReading `json:"readings"`
	Keeps    bool               `json:"keeps"`
	Limited  bool               `json:"limited"`
}

type predictedReading struct {
	Key  string `json:"key"`
	Text string `json:"text"`
	// Slopes are in words, by parameter.
	Slopes []string `json:"slopes"`
}

func (s *trialsPage) predict(w http.ResponseWriter, r *http.Request) {
	in, err := s.insightOf(r.Context(), r)
	var values []float64
	if err == nil {
		values, err = in.valuesAt(r.FormValue("at"))
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	out := predictedJSON{Limited: len(in.Bounds) > 0 || in.Keeps != nil}
	known := map[string]float64{}
	for i, key := range in.keys {
		if in.errs[i] != nil {
			continue
		}
		v, d, _ := in.p.At(key, values)
		known[key] = v
		q := predictedReading{Key: key, Text: in.estimate(key, v, d)}
		for j := range in.set.Axes {
			a := &in.set.Axes[j]
			slope, _ := in.p.Slope(key, j, values)
			q.Slopes = append(q.Slopes, in.slopeWords(key, a, slope))
		}
		out.Readings = append(out.Readings, q)
	}
	out.Keeps = in.Keep(values, known)
	answerJSON(w, out)
}

// slopeWords say how a reading changes for a round step of a parameter, by its derivative in SI.
func (in *outcomes) slopeWords(key string, a *model.Axis, slope float64) string {
	step := niceStep(math.Abs(a.Unit.From(a.To, false)-a.Unit.From(a.From, false)) / 10)
	if a.Whole() {
		step = 1
	}
	change := slope * math.Abs(a.Unit.SI(step)-a.Unit.SI(0))
	text := in.difference(key, change)
	if change > 0 {
		text = "+" + text
	}
	return fmt.Sprintf("%s per %s of %s", text, strings.TrimSpace(tickText(step)+" "+a.Unit.Text), a.Parameter)
}

// niceStep is 1, 2 or 5 times a power of ten near a size.
func niceStep(size float64) float64 {
	if !(size > 0) {
		return 1
	}
	p := math.Pow(10, math.Floor(math.Log10(size)))
	for _, k := range []float64{1, 2, 5} {
		if k*p >= size*0.99 {
			return k * p
		}
	}
	return 10 * p
}
