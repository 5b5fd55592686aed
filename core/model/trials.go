package model

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
)

// TrialSet is runs of the model with other values of its parameters, and what they are made for.
type TrialSet struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Vary []Vary `json:"vary,omitempty"`
	// Pattern is how the values meet: one of [Patterns], empty for all combinations, and Runs how many trials there are of one that
	// spreads them.
	Pattern string `json:"pattern,omitempty"`
	Runs    string `json:"runs,omitempty"`
	// Goals say what is wanted of the trials, Limits what they have to keep, and While is a further condition on them: a formula of readings
	// and parameters, such as "r2 < 60 °C".
	Goals  []Goal  `json:"goals,omitempty"`
	Limits []Limit `json:"limits,omitempty"`
	While  string  `json:"while,omitempty"`
	// Surface is how readings are predicted between the trials: one of [Surfaces], empty for the first.
	Surface string `json:"surface,omitempty"`
	// Search is how further trials are chosen.
	Search Search `json:"search,omitzero"`
	// Fields keeps the fields of the trials, so that plates can show them.
	Fields bool `json:"fields,omitempty"`
}

// Pattern is a way in which values of parameters meet in trials.
type Pattern struct {
	// Key is what a document says, Words what people read.
	Key, Words string
	// Spread says that it spreads any number of trials between the ends, where others take so many values of each parameter.
	Spread bool
}

// Patterns lists them in the order of menus.
var Patterns = []Pattern{
	{"", "all combinations", false}, {OneAtATime, "one at a time from the sheet", false}, {Composite, "corners, middles of faces and the middle", false},
	{Latin, "Latin hypercube", true}, {Sobol, "sequence of Sobol", true}, {Halton, "sequence of Halton", true}, {ByLines, "line by line of lists", false},
}

// Keys of patterns.
const (
	OneAtATime = "one at a time"
	Composite  = "composite"
	Latin      = "latin"
	Sobol      = "sobol"
	Halton     = "halton"
	ByLines    = "lines"
)

// Meeting is the pattern of a set; ok is false if it is not known.
func (t *TrialSet) Meeting() (p Pattern, ok bool) {
	i := slices.IndexFunc(Patterns, func(p Pattern) bool { return p.Key == t.Pattern })
	if i < 0 {
		return p, false
	}
	return Patterns[i], true
}

// Counted says that each parameter takes so many values as it says.
func (t *TrialSet) Counted() bool { return t.Pattern == "" || t.Pattern == OneAtATime }

// Vary is a parameter that varies.
type Vary struct {
	// ID is the number that it keeps.
	ID        string `json:"id,omitempty"`
	Parameter string `json:"parameter"`
	// As is how: one of [Variations], empty for evenly between two ends.
	As    string `json:"as,omitempty"`
	From  string `json:"from,omitempty"`
	To    string `json:"to,omitempty"`
	Count string `json:"count,omitempty"`
	// Listed are its values one by one, parted by semicolons.
	Listed string `json:"listed,omitempty"`
	// Mean and Deviation are those of a normal distribution.
	Mean      string `json:"mean,omitempty"`
	Deviation string `json:"deviation,omitempty"`
}

// Ways in which a parameter varies.
const (
	Whole        = "whole"
	ListedValues = "listed"
	Normal       = "normal"
)

// Variations are the ways in which a parameter varies with their words, in the order of menus.
var Variations = []struct{ Key, Words string }{{"", "evenly"}, {Whole, "whole numbers"}, {ListedValues, "a list"}, {Normal, "normal distribution"}}

// Goal is what is wanted of a reading.
type Goal struct {
	// ID is the number that it keeps.
	ID string `json:"id,omitempty"`
	// Want is one of [Wants], and Reading the id of the reading that is to be so.
	Want    string `json:"want"`
	Reading string `json:"reading"`
	// Target is the value that it is to be near.
	Target string `json:"target,omitempty"`
}

// Wants of a goal.
const (
	Least    = "least"
	Greatest = "greatest"
	Near     = "near"
)

// Limit is what a reading has to keep.
type Limit struct {
	// ID is the number that it keeps.
	ID      string `json:"id,omitempty"`
	Reading string `json:"reading"`
	// Side is Under or Over.
	Side  string `json:"side"`
	Value string `json:"value"`
}

// Sides of a limit.
const (
	Under = "under"
	Over  = "over"
)

// Surfaces are the ways of predicting between trials with their words, in the order of menus.
var Surfaces = []struct{ Key, Words string }{{"", "Gaussian process"}, {Quadratic, "full quadratic"}, {Radial, "radial functions"}}

// Keys of surfaces but the usual one.
const (
	Quadratic = "quadratic"
	Radial    = "radial"
)

// Search is how further trials are chosen from those that are made.
type Search struct {
	// Method is one of [Searches], empty for the first.
	Method string `json:"method,omitempty"`
	// Most is how many further trials there may be, and Within how well what was predicted has to agree with what is computed for the
	// search to end, by the range of the reading over the trials.
	Most   string `json:"most,omitempty"`
	Within string `json:"within,omitempty"`
}

// Searches are the ways of choosing further trials with their words, in the order of menus.
var Searches = []struct{ Key, Words string }{
	{"", "where a goal may improve, by the surface"}, {Knowledge, "where the surface knows least"}, {Direct, "directly, downhill from the best"}, {Evolution, "by generations of an evolution"},
}

// Keys of searches but the usual one.
const (
	Knowledge = "knowledge"
	Direct    = "direct"
	Evolution = "evolution"
)

// ResolvedTrials is a trial set with its values.
type ResolvedTrials struct {
	*TrialSet
	Axes []Axis
	// Aims and Bounds are the goals and limits with their values, each nil if none are good.
	Aims   []Aim
	Bounds []Bound
	// Keeps is the further condition by the readings of the model in their order, nil for none. Parameters are among its inputs, behind the
	// readings, in the order of the axes.
	Keeps *formula.Program
	// Most and Within are those of the search.
	Most   int
	Within float64
	// Good says that the set can run.
	Good bool
	// added are the values of trials beyond the pattern, SI by axis.
	added [][]float64
}

// Aim is a goal with its values.
type Aim struct {
	Want, Reading string
	Target        float64 // SI
}

// Cost of a value of the reading, SI: the less the better.
func (a *Aim) Cost(v float64) float64 {
	switch a.Want {
	case Greatest:
		return -v
	case Near:
		return math.Abs(v - a.Target)
	}
	return v
}

// Bound is a limit with its value.
type Bound struct {
	Reading, Side string
	Value         float64 // SI
}

// Excess is by how much a value of the reading, SI, breaks the limit: 0 or less where it keeps it.
func (b *Bound) Excess(v float64) float64 {
	if b.Side == Over {
		return b.Value - v
	}
	return v - b.Value
}

// MaxTrials bounds a trial set.
const MaxTrials = 2000

// Planned is the number of trials of the pattern.
func (t *ResolvedTrials) Planned() int {
	if len(t.Axes) == 0 {
		return 0
	}
	if t.Pattern != "" {
		return len(t.Axes[0].Values)
	}
	n := 1
	for _, a := range t.Axes {
		// More than can be made are as many as one more than that: products wrap round.
		n = min(n*len(a.Values), MaxTrials+1)
	}
	return n
}

// Count is the number of trials, with those beyond the pattern.
func (t *ResolvedTrials) Count() int { return t.Planned() + len(t.added) }

// With is the set with further trials behind those of its pattern, by their values on the axes, SI.
func (t *ResolvedTrials) With(added [][]float64) *ResolvedTrials {
	out := *t
	out.added = added
	return &out
}

// Values of a trial on the axes, SI. The last axis varies fastest in all combinations.
func (t *ResolvedTrials) Values(trial int) []float64 {
	if k := trial - t.Planned(); k >= 0 {
		return t.added[k]
	}
	x := make([]float64, len(t.Axes))
	for i := len(x) - 1; i >= 0; i-- {
		list := t.Axes[i].Values
		if t.Pattern != "" {
			x[i] = list[trial]
			continue
		}
		x[i], trial = list[trial%len(list)], trial/len(list)
	}
	return x
}

// Document is the model with values of its parameters, SI by axis.
func (t *ResolvedTrials) Document(doc *Document, values []float64) (*Document, error) {
	out := *doc
	out.Parameters = slices.Clone(doc.Parameters)
	for i, v := range values {
		if err := out.SetParameter(t.Axes[i].Parameter, t.Axes[i].Text(v)); err != nil {
			return nil, err
		}
	}
	return &out, nil
}

// trials checks the trial sets. Their faults keep only the sets from running.
func (r *resolver) trials() {
	first := len(r.findings)
	for i := range r.doc.Trials {
		before := len(r.findings)
		set := ResolvedTrials{TrialSet: &r.doc.Trials[i]}
		r.trialSet(&set)
		set.Good = len(r.findings) == before
		r.out.Trials = append(r.out.Trials, set)
	}
	for i := first; i < len(r.findings); i++ {
		r.findings[i].Severity = Doubtful
	}
}

func (r *resolver) trialSet(t *ResolvedTrials) {
	place := "trials/" + t.ID
	if len(t.Vary) == 0 {
		r.find(Missing, place, "say which parameter varies", "nothing varies in the trial set %q", t.Name)
		return
	}
	seen := map[string]bool{}
	for i := range t.Vary {
		v := &t.Vary[i]
		at := place + "/vary/" + v.ID
		k := slices.IndexFunc(r.doc.Parameters, func(p Parameter) bool { return p.Name == v.Parameter })
		value, known := r.out.Parameters[v.Parameter]
		switch {
		case k < 0:
			r.find(Wrong, at+"/parameter", "choose a parameter of the model", "the trial set %q varies %q, which is no parameter", t.Name, v.Parameter)
			continue
		case seen[v.Parameter]:
			r.find(Wrong, at+"/parameter", "choose another parameter", "the trial set %q varies %s twice", t.Name, v.Parameter)
			continue
		case !known:
			continue // another finding says why
		}
		seen[v.Parameter] = true
		if a, ok := r.axis(at, v, &r.doc.Parameters[k], value, t.TrialSet); ok {
			t.Axes = append(t.Axes, a)
		}
	}
	r.pattern(place, t)
	if n := t.Planned(); n > MaxTrials {
		r.find(Wrong, place, "vary fewer parameters or in fewer steps", "the trial set %q has %d trials; %d are the most", t.Name, n, MaxTrials)
	}
	r.goals(place, t)
	r.limits(place, t)
	r.while(place+"/while", t)
	r.search(place, t)
}

// Trial sets by their ids.
func (d *Document) trialSet(id string) *TrialSet {
	i := slices.IndexFunc(d.Trials, func(t TrialSet) bool { return t.ID == id })
	if i < 0 {
		return nil
	}
	return &d.Trials[i]
}

// AddTrialSet adds a trial set over the first parameter and returns its id.
func (d *Document) AddTrialSet() string {
	id := d.freeID("t")
	set := TrialSet{ID: id, Name: "trials " + strings.TrimPrefix(id, "t")}
	if len(d.Readings) > 0 {
		set.Goals = []Goal{{ID: "1", Want: Least, Reading: d.Readings[0].ID}}
	}
	d.Trials = append(d.Trials, set)
	return id
}

// RemoveTrialSet removes a trial set.
func (d *Document) RemoveTrialSet(id string) error {
	i := slices.IndexFunc(d.Trials, func(t TrialSet) bool { return t.ID == id })
	if i < 0 {
		return &GoneError{"trials/" + id}
	}
	d.Trials = slices.Delete(d.Trials, i, i+1)
	return nil
}

// VaryValue makes the value at a place a parameter and lets that vary in a trial set.
func (d *Document) VaryValue(id, place string) (string, error) {
	name, err := d.Lift(place)
	if err != nil {
		return "", err
	}
	return d.AddVary(id, name)
}

// KeepFields says whether the fields of the trials of a set are kept.
func (d *Document) KeepFields(id string, on bool) error {
	t := d.trialSet(id)
	if t == nil {
		return &GoneError{"trials/" + id}
	}
	t.Fields = on
	return nil
}

// AddVary lets another parameter vary in a trial set, between its bounds or a fifth to each side of its value, and returns the place of its
// first value.
func (d *Document) AddVary(id, parameter string) (string, error) {
	t := d.trialSet(id)
	if t == nil {
		return "", &GoneError{"trials/" + id}
	}
	i := slices.IndexFunc(d.Parameters, func(p Parameter) bool { return p.Name == parameter })
	if i < 0 {
		return "", &GoneError{"parameters/" + parameter}
	}
	p := &d.Parameters[i]
	var number string
	y := Vary{Parameter: p.Name, From: p.Least, To: p.Most, Count: "5"}
	if f, err := formula.Parse(p.Value); err == nil && y.From == "" && y.To == "" {
		if v, err := f.Eval(formula.Values{}); err == nil {
			if u, err := quantity.ParseUnit(v.Unit); err == nil {
				now := u.From(v.SI, false)
				y.From, y.To = strings.TrimSpace(fmt.Sprintf("%.4g %s", 0.8*now, u.Text)), strings.TrimSpace(fmt.Sprintf("%.4g %s", 1.2*now, u.Text))
			}
		}
	}
	t.Vary, number = appended(t.Vary, y)
	return fmt.Sprintf("trials/%s/vary/%s/from", id, number), nil
}

// AddGoal adds a goal to a trial set, over a reading that has none yet, and returns its place.
func (d *Document) AddGoal(id string) (string, error) {
	t := d.trialSet(id)
	if t == nil {
		return "", &GoneError{"trials/" + id}
	}
	var number string
	t.Goals, number = appended(t.Goals, Goal{Want: Least, Reading: d.freeReading(func(q string) bool {
		return slices.ContainsFunc(t.Goals, func(g Goal) bool { return g.Reading == q })
	})})
	return fmt.Sprintf("trials/%s/goals/%s/reading", id, number), nil
}

// AddLimit adds a limit to a trial set, on a reading that has no goal and no limit yet, and returns its place.
func (d *Document) AddLimit(id string) (string, error) {
	t := d.trialSet(id)
	if t == nil {
		return "", &GoneError{"trials/" + id}
	}
	var number string
	t.Limits, number = appended(t.Limits, Limit{Side: Under, Reading: d.freeReading(func(q string) bool {
		return slices.ContainsFunc(t.Goals, func(g Goal) bool { return g.Reading == q }) || slices.ContainsFunc(t.Limits, func(l Limit) bool { return l.Reading == q })
	})})
	return fmt.Sprintf("trials/%s/limits/%s/value", id, number), nil
}

// freeReading is the first reading that is not taken, the first of all if each is.
func (d *Document) freeReading(taken func(id string) bool) string {
	for _, q := range d.Readings {
		if !taken(q.ID) {
			return q.ID
		}
	}
	if len(d.Readings) > 0 {
		return d.Readings[0].ID
	}
	return ""
}

// AddLines gives parameters of a trial set the values of a table, a list each, whose trials are its lines. Those that do not vary yet begin to.
func (d *Document) AddLines(id string, parameters []string, lines [][]string) error {
	t := d.trialSet(id)
	if t == nil {
		return &GoneError{"trials/" + id}
	}
	if len(lines) == 0 {
		return fmt.Errorf("the table has no line of values")
	}
	if len(lines) > MaxTrials {
		return fmt.Errorf("the table has %d lines; %d trials are the most", len(lines), MaxTrials)
	}
	vary := slices.DeleteFunc(slices.Clone(t.Vary), func(v Vary) bool { return !slices.Contains(parameters, v.Parameter) })
	for k, name := range parameters {
		if !slices.ContainsFunc(d.Parameters, func(p Parameter) bool { return p.Name == name }) {
			return fmt.Errorf("the table has a column %q, which is no parameter of the model", name)
		}
		if slices.Contains(parameters[:k], name) {
			return fmt.Errorf("the table has two columns of %s", name)
		}
		texts := make([]string, len(lines))
		for i, l := range lines {
			texts[i] = strings.TrimSpace(l[k])
			if texts[i] == "" {
				return fmt.Errorf("line %d of the table has no value of %s", i+1, name)
			}
		}
		i := slices.IndexFunc(vary, func(v Vary) bool { return v.Parameter == name })
		if i < 0 {
			vary, _ = appended(vary, Vary{Parameter: name})
			i = len(vary) - 1
		}
		vary[i].As, vary[i].Listed = ListedValues, strings.Join(texts, "; ")
	}
	t.Vary, t.Pattern = vary, ByLines
	return nil
}
