package web

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
	"saltkettle/core/trial"
)

// trialRow is a line of the table.
type trialRow struct {
	Number        int
	Place         int
	Cells         []trialCell
	State         string
	Why           string // it was added
	Made, Counts  bool
	Good, Best    bool
	Front, Marked bool
	Breaks        bool // what it has to keep
	Busy          bool
	Slopes        string // how its readings change with what varies, in words
	Run           int    // number of the run with its fields, 0 for none
}

// trialCell is a value of a line; Sort is a number to sort by.
type trialCell struct {
	Text, Sort string
	Hand       string // why it was set by hand, and what was computed
}

// bestView is the best trial, or the front.
type bestView struct {
	Number, Place int
	Words         string
	Front         int // trials on the front, 0 with one goal
	Between       string
	Value         string // text of the parameter where the parabola ends
}

// proposalView is a trial beyond the pattern with what was predicted of it.
type proposalView struct {
	Number, Place int
	Why           string
	Compared      []string // reading: predicted, computed
	Off           string
}

// proposalsShown is how many of the trials beyond the pattern are seen at once.
const proposalsShown = 4

// outcomes are the trials of a series with what the chart and the table show.
type outcomes struct {
	*trial.Set
	series store.Series
	doc    *model.Document // as it was tried
	set    *model.ResolvedTrials
	made   map[int]store.Trial
	fields map[int]int               // runs with the fields of trials
	kinds  map[string]result.Reading // a reading of each key, for names and units
	keys   []string
	busy   []int
}

// outcomes reads the trials of a series with the document that they were made of.
func (s *trialsPage) outcomes(ctx context.Context, series store.Series) (*outcomes, error) {
	doc, err := s.store.SeriesDocument(ctx, series)
	if err != nil {
		return nil, err
	}
	o := &outcomes{series: series, doc: doc, made: map[int]store.Trial{}, fields: map[int]int{}, kinds: map[string]result.Reading{}, busy: s.jobs.Busy(series.ID)}
	resolved, _ := model.Resolve(doc, physics.Catalog())
	i := slices.IndexFunc(resolved.Trials, func(t model.ResolvedTrials) bool { return t.ID == series.SetID })
	if i < 0 {
		return nil, fmt.Errorf("the trial set of series %d: %w", series.Number, store.ErrNotFound)
	}
	o.set = series.With(&resolved.Trials[i])
	o.Set = &trial.Set{ResolvedTrials: o.set, Model: resolved, List: make([]trial.Outcome, o.set.Count())}
	made, err := s.store.Trials(ctx, series.ID)
	if err != nil {
		return nil, err
	}
	for _, t := range made {
		if t.Place >= len(o.List) {
			continue
		}
		o.made[t.Place] = t
		for _, q := range t.Readings() {
			if _, ok := o.kinds[q.Key]; !ok {
				o.kinds[q.Key] = q
			}
		}
		o.List[t.Place] = t.Outcome()
	}
	for _, q := range doc.Readings {
		if _, ok := o.kinds[q.ID]; ok {
			o.keys = append(o.keys, q.ID)
		}
	}
	return o, nil
}

// fitKey changes when the surfaces do, and key when what they tell does.
func (o *outcomes) fitKey() string {
	var key strings.Builder
	fmt.Fprintf(&key, "%d %q", o.series.ID, o.set.TrialSet.Surface)
	for place := range o.List {
		if t, made := o.made[place]; made { // one that was made again has another time
			fmt.Fprintf(&key, " %d %s %t %g %s", place, t.Status, t.Counts(), t.Seconds, t.ByHand)
		}
	}
	return key.String()
}

func (o *outcomes) key() string {
	t := o.set.TrialSet
	return fmt.Sprintf("%s %v %v %q", o.fitKey(), t.Goals, t.Limits, t.While)
}

// variable is what an axis of the chart can show: a parameter or a reading.
type variable struct {
	key, name, unit string
	of              func(place int) (float64, bool) // in the unit
	shown           func(v float64) float64         // of SI
}

func (o *outcomes) parameters() []variable {
	var list []variable
	for i := range o.set.Axes {
		a := &o.set.Axes[i]
		shown := func(v float64) float64 { return a.Unit.From(v, false) }
		list = append(list, variable{a.Parameter, a.Parameter, a.Unit.Text, func(place int) (float64, bool) {
			return shown(o.set.Values(place)[i]), true
		}, shown})
	}
	return list
}

func (o *outcomes) readings() []variable {
	var list []variable
	for _, key := range o.keys {
		list = append(list, o.reading(key))
	}
	return list
}

func (o *outcomes) reading(key string) variable {
	q := o.kinds[key]
	u := quantity.MustUnit(q.Shown.Unit)
	shown := func(v float64) float64 { return u.From(v, q.Difference) }
	return variable{key, q.Name, q.Shown.Unit, func(place int) (float64, bool) {
		v, ok := o.List[place].Readings[key]
		return shown(v), ok
	}, shown}
}

// words are a value of a reading, SI, in its unit.
func (o *outcomes) words(key string, v float64) string {
	q := o.kinds[key]
	return quantity.Show(v, q.Shown.Unit, q.Difference, 4)
}

// pick chooses a variable by its key, or the one at a place of the list.
func pick(list []variable, key string, usual int) int {
	if i := slices.IndexFunc(list, func(v variable) bool { return v.key == key }); i >= 0 {
		return i
	}
	return min(usual, len(list)-1)
}

// planned shows the trials of a set of which none has been made.
func (v *trialsView) planned(set *model.ResolvedTrials) {
	if !set.Good {
		return
	}
	for i := range set.Axes {
		v.Heads = append(v.Heads, columnView{Key: set.Axes[i].Parameter, Name: set.Axes[i].Parameter, Unit: set.Axes[i].Unit.Text})
	}
	for place := range set.Planned() {
		row := trialRow{Number: place + 1, Place: place, State: "planned"}
		for i, x := range set.Values(place) {
			row.Cells = append(row.Cells, numberCell(set.Axes[i].Unit.From(x, false), true))
		}
		v.Rows = append(v.Rows, row)
	}
}

// numberCell is a number in the table; a parameter is told with all its figures.
func numberCell(x float64, parameter bool) trialCell {
	text := quantity.Figures(x, 4)
	if parameter {
		text = tickText(x)
	}
	return trialCell{Text: text, Sort: fmt.Sprintf("%.12g", x)}
}

// fill sets the table, the chart and the best trial.
func (v *trialsView) fill(o *outcomes, r *http.Request) {
	parameters, readings := o.parameters(), o.readings()
	best, found := o.Best()
	front := o.Front()
	if found {
		v.Best = o.best(best, front)
	}
	for _, p := range append(slices.Clone(parameters), readings...) {
		v.Heads = append(v.Heads, columnView{Key: p.key, Name: p.name, Unit: p.unit})
	}
	v.Moves = o.moves()
	proposals := o.series.Proposals()
	wanted, marked := o.series.Places(), o.series.Marked()
	for place := range o.List {
		t, made := o.made[place]
		row := trialRow{Number: place + 1, Place: place, Made: made, State: "left out so far", Marked: slices.Contains(marked, place), Run: o.fields[place], Busy: slices.Contains(o.busy, place)}
		if slices.Contains(wanted, place) {
			row.State = "waiting"
		}
		if row.Busy {
			row.State = "running"
		}
		if k := place - o.set.Planned(); k >= 0 && k < len(proposals) {
			row.Why = proposals[k].Why
			v.Proposals = append(v.Proposals, o.proposal(place, &proposals[k]))
		}
		for _, p := range parameters {
			x, _ := p.of(place)
			row.Cells = append(row.Cells, numberCell(x, true))
		}
		for _, q := range readings {
			cell := trialCell{}
			if x, ok := q.of(place); ok {
				cell = numberCell(x, false)
			}
			if h := t.Hand(); h != nil {
				if _, set := h.Values[q.key]; set {
					cell.Hand = fmt.Sprintf("set by hand: %s; %s was computed", h.Reason, o.computed(&t, q))
				}
			}
			row.Cells = append(row.Cells, cell)
		}
		if made {
			row.state(&t)
			row.Slopes = o.slopes(&t)
			row.Breaks = !o.KeepsTrial(place)
			row.Best = found && best.Trial == place
			row.Front = len(o.Aims) > 1 && slices.Contains(front, place)
		}
		v.Rows = append(v.Rows, row)
	}
	if n := len(v.Proposals); n > proposalsShown {
		v.Earlier, v.Proposals = v.Proposals[:n-proposalsShown], v.Proposals[n-proposalsShown:]
	}
	if len(readings) > 0 {
		v.charts(o, r, parameters, readings, best, found, front)
	}
}

// slopes says how the readings that are spoken of change with what varies, all readings if none is, "" if that was not found.
func (o *outcomes) slopes(t *store.Trial) string {
	if t.Slopes == store.SlopesWanted {
		return "Slopes are being found."
	}
	list := t.SlopeList()
	keys := o.spoken()
	if len(keys) == 0 {
		keys = o.keys
	}
	var words []string
	for _, key := range keys {
		var parts []string
		for i := range o.set.Axes {
			a := &o.set.Axes[i]
			for _, s := range list {
				if v, ok := s.Of[key]; ok && s.Parameter == a.Parameter {
					parts = append(parts, o.slopeWords(key, a, v))
				}
			}
		}
		if len(parts) > 0 {
			words = append(words, o.kinds[key].Name+" "+strings.Join(parts, ", "))
		}
	}
	for _, s := range list {
		if s.Missing != "" {
			words = append(words, s.Parameter+": "+s.Missing)
		}
	}
	if len(words) == 0 {
		if t.Slopes != "" {
			return "Nothing varies here of which there could be a little more."
		}
		return ""
	}
	return "By the equations: " + strings.Join(words, "; ") + "."
}

// computed is the value of a reading that was computed, in words.
func (o *outcomes) computed(t *store.Trial, q variable) string {
	for _, x := range t.Readings() {
		if x.Key == q.key && x.Missing == "" {
			return o.words(q.key, x.Value)
		}
	}
	return "nothing"
}

// state says what became of a trial.
func (row *trialRow) state(t *store.Trial) {
	row.State, row.Counts = t.Status, t.Counts()
	row.Good = t.Status == string(result.Settled)
	if t.Message != "" {
		row.State += ": " + t.Message
	}
	if t.Hand() != nil {
		row.State += " — value set by hand"
	}
	if t.Kept != nil && *t.Kept != row.Good {
		row.State += map[bool]string{true: " — kept by hand", false: " — left out by hand"}[*t.Kept]
	}
}

// proposal is a trial beyond the pattern with what was predicted of it.
func (o *outcomes) proposal(place int, p *trial.Proposal) proposalView {
	v := proposalView{Number: place + 1, Place: place, Why: p.Why}
	for _, key := range o.keys {
		e, ok := p.Predicted[key]
		if !ok {
			continue
		}
		words := fmt.Sprintf("%s %s predicted", o.kinds[key].Name, o.words(key, e.Value))
		if x, made := o.List[place].Readings[key]; made {
			words += ", " + o.words(key, x)
		}
		v.Compared = append(v.Compared, words)
	}
	if share, ok := o.Disagreement(place, p.Predicted); ok {
		v.Off = fmt.Sprintf("off by %.2g %%", 100*share)
	}
	return v
}

// best says which trial is the best.
func (o *outcomes) best(b trial.Best, front []int) *bestView {
	v := &bestView{Number: b.Trial + 1, Place: b.Trial}
	var words []string
	for i, x := range o.set.Values(b.Trial) {
		a := &o.set.Axes[i]
		words = append(words, strings.TrimSpace(fmt.Sprintf("%s %s %s", a.Parameter, tickText(a.Unit.From(x, false)), a.Unit.Text)))
	}
	for i := range o.Aims {
		key := o.Aims[i].Reading
		words = append(words, o.kinds[key].Name+" "+o.words(key, o.List[b.Trial].Readings[key]))
	}
	v.Words = strings.Join(words, ", ")
	if len(o.Aims) > 1 {
		v.Front = len(front)
	}
	if b.Between {
		a := &o.set.Axes[0]
		v.Between = fmt.Sprintf("A parabola through it and its neighbours ends at %s %s with %s", a.Parameter, quantity.Show(b.At, a.Unit.Text, false, 4), o.words(o.Aims[0].Reading, b.Estimate))
		v.Value = fmt.Sprintf("%.4g %s", a.Unit.From(b.At, false), a.Unit.Text)
	}
	return v
}
