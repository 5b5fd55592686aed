package model

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
)

// TrialSet is runs of the model with other values of its parameters.
type TrialSet struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Vary []Vary `json:"vary,omitempty"`
	// Pattern is how the values meet: one of [Patterns], empty for all combinations, and Runs how many trials there are of one that
	// spreads them.
	Pattern string `json:"pattern,omitempty"`
	Runs    string `json:"runs,omitempty"`
	Goal    Goal   `json:"goal,omitzero"`
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
	{Latin, "Latin hypercube", true}, {Sobol, "sequence of Sobol", true}, {Halton, "sequence of Halton", true},
}

// Keys of patterns.
const (
	OneAtATime = "one at a time"
	Composite  = "composite"
	Latin      = "latin"
	Sobol      = "sobol"
	Halton     = "halton"
)

// pattern is that of a set; ok is false if it is not known.
func (t *TrialSet) pattern() (p Pattern, ok bool) {
	i := slices.IndexFunc(Patterns, func(p Pattern) bool { return p.Key == t.Pattern })
	if i < 0 {
		return p, false
	}
	return Patterns[i], true
}

// Counted says that each parameter takes so many values as it says.
func (t *TrialSet) Counted() bool { return t.Pattern == "" || t.Pattern == OneAtATime }

// Vary is a parameter that varies in evenly spaced values, with both ends.
type Vary struct {
	// ID is the number that it keeps.
	ID        string `json:"id,omitempty"`
	Parameter string `json:"parameter"`
	From      string `json:"from"`
	To        string `json:"to"`
	Count     string `json:"count"`
}

// Goal says which trial of a set is the best.
type Goal struct {
	// Want is "least" or "greatest", empty for no goal.
	Want string `json:"want,omitempty"`
	// Reading is the id of the reading that is to be so.
	Reading string `json:"reading,omitempty"`
	// While is a condition that the trial has to keep: a formula of readings and
	// parameters, such as "r2 < 60 °C".
	While string `json:"while,omitempty"`
}

// Wants of a goal.
const (
	Least    = "least"
	Greatest = "greatest"
)

// ResolvedTrials is a trial set with its values.
type ResolvedTrials struct {
	*TrialSet
	Axes []Axis
	// While is the condition of the goal by the readings of the model in their order, nil
	// for none. Parameters are among its inputs, behind the readings, in the order of the
	// axes.
	While *formula.Program
	// Good says that the set can run.
	Good bool
}

// Axis is the values of a parameter that varies: ascending or descending of all combinations, else trial by trial.
type Axis struct {
	Parameter string
	Unit      quantity.Unit // in which the values are shown
	Values    []float64     // SI
	from, to  float64
}

// Text is a value as it stands in a document.
func (a *Axis) Text(i int) string {
	return strings.TrimSpace(fmt.Sprintf("%.12g %s", a.Unit.From(a.Values[i], false), a.Unit.Text))
}

// MaxTrials bounds a trial set.
const MaxTrials = 2000

// Count is the number of trials.
func (t *ResolvedTrials) Count() int {
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

// At are the places on the axes of a trial, counted from 0. The last axis varies fastest.
func (t *ResolvedTrials) At(trial int) []int {
	at := make([]int, len(t.Axes))
	if t.Pattern != "" {
		for i := range at {
			at[i] = trial
		}
		return at
	}
	for i := len(at) - 1; i >= 0; i-- {
		n := len(t.Axes[i].Values)
		at[i], trial = trial%n, trial/n
	}
	return at
}

// Document is the model of a trial.
func (t *ResolvedTrials) Document(doc *Document, trial int) (*Document, error) {
	out := *doc
	out.Parameters = slices.Clone(doc.Parameters)
	for i, at := range t.At(trial) {
		if err := out.SetParameter(t.Axes[i].Parameter, t.Axes[i].Text(at)); err != nil {
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
		if a, ok := r.axis(at, v, &r.doc.Parameters[k], value, t.Counted()); ok {
			t.Axes = append(t.Axes, a)
		}
	}
	r.pattern(place, t)
	if n := t.Count(); n > MaxTrials {
		r.find(Wrong, place, "vary fewer parameters or in fewer steps", "the trial set %q has %d trials; %d are the most", t.Name, n, MaxTrials)
	}
	r.goal(place+"/goal", t)
}

// axis evaluates the values of a parameter that varies.
func (r *resolver) axis(place string, v *Vary, p *Parameter, now quantity.Value, counted bool) (Axis, bool) {
	a := Axis{Parameter: v.Parameter, Unit: r.axisUnit(v, p, now)}
	n := need{unit: now.Dimension.Symbol(), temperature: now.Affine}
	n.label = "least value of " + v.Parameter
	from, ok1 := r.value(place+"/from", v.From, n)
	n.label = "greatest value of " + v.Parameter
	to, ok2 := r.value(place+"/to", v.To, n)
	count, ok3 := 2.0, true
	if counted {
		count, ok3 = r.value(place+"/count", v.Count, need{label: "number of values of " + v.Parameter, positive: true, whole: true})
	}
	if !ok1 || !ok2 || !ok3 {
		return a, false
	}
	if count < 2 || count > MaxTrials {
		r.find(Wrong, place+"/count", "", "%s is to have %g values; it may have 2 to %d", v.Parameter, count, MaxTrials)
		return a, false
	}
	if from == to {
		r.find(Wrong, place+"/to", "give two different ends", "%s does not vary: both ends are the same", v.Parameter)
		return a, false
	}
	for _, end := range []struct {
		text, key string
		sign      float64
	}{{p.Least, "least", 1}, {p.Most, "greatest", -1}} {
		if strings.TrimSpace(end.text) == "" {
			continue
		}
		f, err := formula.Parse(end.text)
		if err != nil {
			continue // another finding says so
		}
		if bound, err := f.Eval(r.out.Parameters); err == nil && min(end.sign*from, end.sign*to)-end.sign*bound.SI < -1e-12*math.Abs(bound.SI) {
			r.find(Wrong, place, "stay within the bounds of the parameter, or change them", "%s is to go beyond its %s value, %s", v.Parameter, end.key, end.text)
			return a, false
		}
	}
	a.from, a.to = from, to
	for i := range int(count) {
		f := float64(i) / (count - 1)
		a.Values = append(a.Values, (1-f)*from+f*to)
	}
	return a, true
}

// axisUnit is the unit in which values of a parameter are written.
func (r *resolver) axisUnit(v *Vary, p *Parameter, now quantity.Value) quantity.Unit {
	for _, text := range []string{r.writtenIn(v.From), p.Unit, now.Unit} {
		if u, err := quantity.ParseUnit(text); err == nil && u.Dimension == now.Dimension && text != "" {
			return u
		}
	}
	return quantity.MustUnit(now.Dimension.Symbol())
}

func (r *resolver) writtenIn(text string) string {
	f, err := formula.Parse(text)
	if err != nil {
		return ""
	}
	v, err := f.Eval(r.out.Parameters)
	if err != nil {
		return ""
	}
	return v.Unit
}

// goal checks what makes a trial the best.
func (r *resolver) goal(place string, t *ResolvedTrials) {
	g := &t.Goal
	if g.Want == "" {
		return
	}
	if g.Want != Least && g.Want != Greatest {
		r.find(Wrong, place+"/want", "choose least or greatest", "a goal is least or greatest, not %q", g.Want)
	}
	if !slices.ContainsFunc(r.doc.Readings, func(q Sentence) bool { return q.ID == g.Reading }) {
		r.find(Wrong, place+"/reading", "choose a reading", "the goal of the trial set %q is about %q, which is no reading", t.Name, g.Reading)
	}
	text := strings.TrimSpace(g.While)
	if text == "" {
		return
	}
	f, err := formula.Parse(text)
	if err != nil {
		r.find(Wrong, place+"/while", "write for example r1 < 60 °C", "the condition of the goal cannot be read: %v", err)
		return
	}
	env := r.environment()
	for _, q := range r.out.Readings {
		env.Variables = append(env.Variables, formula.Variable{Name: q.ID, Dimension: q.Dimension, Temperature: q.Temperature})
	}
	scope := formula.Values{}
	for name, v := range r.out.Parameters {
		scope[name] = v
	}
	for _, a := range t.Axes {
		now := scope[a.Parameter]
		delete(scope, a.Parameter)
		env.Variables = append(env.Variables, formula.Variable{Name: a.Parameter, Dimension: now.Dimension, Temperature: now.Affine})
	}
	env.Scope = scope
	p, err := f.Compile(env)
	if err != nil {
		r.find(Wrong, place+"/while", "write for example r1 < 60 °C", "the condition of the goal cannot be computed: %v", err)
		return
	}
	if p.Dimension != quantity.None {
		r.find(Wrong, place+"/while", "write for example r1 < 60 °C", "the condition of the goal, %q, compares nothing", text)
		return
	}
	t.While = p
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
		set.Goal = Goal{Want: Least, Reading: d.Readings[0].ID}
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

// AddVary lets another parameter vary in a trial set, and returns the place of its
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
	t.Vary, number = appended(t.Vary, Vary{Parameter: p.Name, From: p.Least, To: p.Most, Count: "5"})
	return fmt.Sprintf("trials/%s/vary/%s/from", id, number), nil
}
