package web

import (
	"strings"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
)

// trialSetView is what varies and what is wanted.
type trialSetView struct {
	ID            string
	Name          field
	Vary          []varyView
	Pattern, Runs field
	Spread        bool        // the set has a number of trials
	Left          []string    // parameters that could vary too
	Values        []model.Use // values of the sheet that could
	Goals         []goalView
	Limits        []limitView
	While         field
	Surface       field
	Method        field
	Most, Within  field
	Fields        bool
	Count         int
	Words         string // how many trials
	Forecast      string // how long they may take
	Faults        []string
	Good          bool
	HasReadings   bool
}

// varyView is a row of what varies.
type varyView struct {
	Place     string
	Parameter string
	As        field
	// From, To and Count, or List, or Mean and Deviation, by how it varies.
	Kind                                     string
	From, To, Count, Listed, Mean, Deviation field
	Counted                                  bool // it says how many values it takes
	Faulty                                   bool
}

// goalView and limitView are a goal and a limit.
type goalView struct {
	Place                 string
	Want, Reading, Target field
	Near                  bool
}

type limitView struct {
	Place                string
	Reading, Side, Value field
}

// trialSet fills the sections of a trial set.
func (k *briefMaker) trialSet(i int) *trialSetView {
	t := &k.doc.Trials[i]
	at := "trials/" + t.ID + "/"
	set := &k.resolved.Trials[i]
	v := &trialSetView{ID: t.ID, Good: set.Good, Fields: t.Fields, HasReadings: len(k.doc.Readings) > 0, Name: k.field(at+"name", t.Name, "name of the trial set", "name")}
	varies := map[string]bool{}
	for n := range t.Vary {
		varies[t.Vary[n].Parameter] = true
		v.Vary = append(v.Vary, k.vary(at, t, &t.Vary[n]))
	}
	for _, p := range k.doc.Parameters {
		if _, formula := k.resolved.Definitions[p.Name]; !varies[p.Name] && !formula {
			v.Left = append(v.Left, p.Name)
		}
	}
	v.Values = k.doc.Liftable(physics.Catalog())
	var keys, patterns []string
	for _, p := range model.Patterns {
		keys, patterns = append(keys, p.Key), append(patterns, p.Words)
		v.Spread = v.Spread || p.Spread && p.Key == t.Pattern
	}
	v.Pattern = k.choice(at+"pattern", t.Pattern, "how the values meet", keys, patterns)
	v.Runs = k.field(at+"runs", t.Runs, "number of trials", "20")
	k.wanted(v, at, t)
	pick := func(place, value, label string, list []struct{ Key, Words string }) field {
		var keys, texts []string
		for _, x := range list {
			keys, texts = append(keys, x.Key), append(texts, x.Words)
		}
		return k.choice(at+place, value, label, keys, texts)
	}
	v.Surface = pick("surface", t.Surface, "surface between the trials", model.Surfaces)
	v.Method = pick("search/method", t.Search.Method, "how further trials are chosen", model.Searches)
	v.Most = k.field(at+"search/most", t.Search.Most, "most further trials", "20")
	v.Within = k.field(at+"search/within", t.Search.Within, "agreement, by the range of the reading", "1 %")
	if v.Good {
		v.Count = set.Planned()
		v.Words = quantity.Count(v.Count) + " trials"
	}
	for _, f := range k.findings {
		if f.Place == "trials/"+t.ID || strings.HasPrefix(f.Place, at) {
			v.Faults = append(v.Faults, f.Message)
		}
	}
	return v
}

// vary is a row of what varies.
func (k *briefMaker) vary(at string, t *model.TrialSet, y *model.Vary) varyView {
	place := at + "vary/" + y.ID
	var keys, texts []string
	for _, x := range model.Variations {
		keys, texts = append(keys, x.Key), append(texts, x.Words)
	}
	row := varyView{Place: place, Parameter: y.Parameter, Kind: y.As,
		As:        k.choice(place+"/as", y.As, "how "+y.Parameter+" varies", keys, texts),
		From:      k.field(place+"/from", y.From, "first value of "+y.Parameter, "from"),
		To:        k.field(place+"/to", y.To, "last value of "+y.Parameter, "to"),
		Count:     k.field(place+"/count", y.Count, "number of values of "+y.Parameter, "5"),
		Listed:    k.field(place+"/listed", y.Listed, "values of "+y.Parameter, "one; another; …"),
		Mean:      k.field(place+"/mean", y.Mean, "mean of "+y.Parameter, "as on the sheet"),
		Deviation: k.field(place+"/deviation", y.Deviation, "standard deviation of "+y.Parameter, "deviation"),
		Counted:   t.Counted() && (y.As == "" || y.As == model.Normal)}
	_, row.Faulty = k.faults[place]
	return row
}

// wanted fills goals, limits and the further condition.
func (k *briefMaker) wanted(v *trialSetView, at string, t *model.TrialSet) {
	names, texts := []string{}, []string{}
	for _, q := range k.doc.Readings {
		names, texts = append(names, q.ID), append(texts, readingName(&q))
	}
	for n := range t.Goals {
		g := &t.Goals[n]
		place := at + "goals/" + g.ID
		v.Goals = append(v.Goals, goalView{Place: place, Near: g.Want == model.Near,
			Want:    k.choice(place+"/want", g.Want, "what is wanted", []string{model.Least, model.Greatest, model.Near}, []string{"Least", "Greatest", "Nearest"}),
			Reading: k.choice(place+"/reading", g.Reading, "reading of the goal", names, texts),
			Target:  k.field(place+"/target", g.Target, "value that it is to be near", "value")})
	}
	for n := range t.Limits {
		l := &t.Limits[n]
		place := at + "limits/" + l.ID
		v.Limits = append(v.Limits, limitView{Place: place,
			Reading: k.choice(place+"/reading", l.Reading, "reading of the limit", names, texts),
			Side:    k.choice(place+"/side", l.Side, "side of the limit", []string{model.Under, model.Over}, []string{"under", "over"}),
			Value:   k.field(place+"/value", l.Value, "limit", "value")})
	}
	v.While = k.field(at+"while", t.While, "further condition, such as r1 < 60 °C", "anything else")
}

// readingName is the name of a reading, or its id.
func readingName(q *model.Sentence) string {
	if q.Name != "" {
		return q.Name
	}
	return q.ID
}
