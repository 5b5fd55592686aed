package model

import (
	"encoding/json"
	"regexp"
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
)

// usualMost and usualWithin are those of a search that does not say: how many further trials, and how well they have to agree.
const (
	usualMost   = 20
	usualWithin = 0.01
)

// reading of a goal or a limit, nil if there is none.
func (r *resolver) readingOf(place, id, what string, t *ResolvedTrials) *ResolvedSentence {
	i := slices.IndexFunc(r.doc.Readings, func(q Sentence) bool { return q.ID == id })
	if i < 0 {
		r.find(Wrong, place, "choose a reading", "%s of the trial set %q is about %q, which is no reading", what, t.Name, id)
		return nil
	}
	// One that is outstanding is known by other findings.
	if i = slices.IndexFunc(r.out.Readings, func(q ResolvedSentence) bool { return q.ID == id }); i < 0 {
		return nil
	}
	return &r.out.Readings[i]
}

// ofReading is what a value to compare a reading with has to be.
func ofReading(q *ResolvedSentence, label string) need {
	return need{label: label, unit: q.Dimension.Symbol(), temperature: q.Temperature}
}

// goals checks what is wanted of trials.
func (r *resolver) goals(place string, t *ResolvedTrials) {
	for i := range t.Goals {
		g := &t.Goals[i]
		at := place + "/goals/" + g.ID
		if g.Want != Least && g.Want != Greatest && g.Want != Near {
			r.find(Wrong, at+"/want", "choose least, greatest or near", "a goal is least, greatest or near a value, not %q", g.Want)
			continue
		}
		q := r.readingOf(at+"/reading", g.Reading, "a goal", t)
		if q == nil {
			continue
		}
		if slices.ContainsFunc(t.Goals[:i], func(o Goal) bool { return o.Reading == g.Reading }) {
			r.find(Wrong, at+"/reading", "choose another reading", "the trial set %q has two goals for %s", t.Name, g.Reading)
			continue
		}
		aim := Aim{Want: g.Want, Reading: g.Reading}
		if g.Want == Near {
			v, ok := r.value(at+"/target", g.Target, ofReading(q, "value that "+g.Reading+" is to be near"))
			if !ok {
				continue
			}
			aim.Target = v
		}
		t.Aims = append(t.Aims, aim)
	}
}

// limits checks what readings of trials have to keep.
func (r *resolver) limits(place string, t *ResolvedTrials) {
	for i := range t.Limits {
		l := &t.Limits[i]
		at := place + "/limits/" + l.ID
		if l.Side != Under && l.Side != Over {
			r.find(Wrong, at+"/side", "choose under or over", "a reading stays under or over a limit, not %q", l.Side)
			continue
		}
		q := r.readingOf(at+"/reading", l.Reading, "a limit", t)
		if q == nil {
			continue
		}
		if v, ok := r.value(at+"/value", l.Value, ofReading(q, "limit of "+l.Reading)); ok {
			t.Bounds = append(t.Bounds, Bound{Reading: l.Reading, Side: l.Side, Value: v})
		}
	}
}

// while checks the further condition of a trial set.
func (r *resolver) while(place string, t *ResolvedTrials) {
	text := strings.TrimSpace(t.While)
	if text == "" {
		return
	}
	f, err := formula.Parse(text)
	if err != nil {
		r.find(Wrong, place, "write for example r1 < 60 °C", "the condition of the trials cannot be read: %v", err)
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
		r.find(Wrong, place, "write for example r1 < 60 °C", "the condition of the trials cannot be computed: %v", err)
		return
	}
	if p.Dimension != quantity.None {
		r.find(Wrong, place, "write for example r1 < 60 °C", "the condition of the trials, %q, compares nothing", text)
		return
	}
	t.Keeps = p
}

// search checks how further trials are chosen, and by which surface.
func (r *resolver) search(place string, t *ResolvedTrials) {
	known := func(at, key, what string, list []struct{ Key, Words string }) {
		if !slices.ContainsFunc(list, func(m struct{ Key, Words string }) bool { return m.Key == key }) {
			r.find(Wrong, at, "", "the trial set %q has a %s %q that is not known", t.Name, what, key)
		}
	}
	known(place+"/surface", t.Surface, "surface", Surfaces)
	known(place+"/search/method", t.Search.Method, "search", Searches)
	t.Most, t.Within = usualMost, usualWithin
	if strings.TrimSpace(t.Search.Most) != "" {
		if v, ok := r.value(place+"/search/most", t.Search.Most, need{label: "number of further trials", positive: true, whole: true}); ok {
			t.Most = int(min(v, MaxTrials))
		}
	}
	if strings.TrimSpace(t.Search.Within) != "" {
		if v, ok := r.value(place+"/search/within", t.Search.Within, need{label: "agreement of the search", positive: true}); ok {
			t.Within = v
		}
	}
}

// goalsBefore brings the one goal that trial sets had before version 7 to goals, limits and a further condition. It leaves what it cannot read to
// who reads on.
func goalsBefore(data []byte) []byte {
	var doc map[string]json.RawMessage
	var sets []map[string]json.RawMessage
	if json.Unmarshal(data, &doc) != nil || json.Unmarshal(doc["trials"], &sets) != nil {
		return data
	}
	changed := false
	for _, set := range sets {
		var g struct{ Want, Reading, While string }
		if set["goal"] == nil || json.Unmarshal(set["goal"], &g) != nil {
			continue
		}
		changed = true
		delete(set, "goal")
		if g.Want == "" {
			continue
		}
		set["goals"] = raw([]Goal{{Want: g.Want, Reading: g.Reading}})
		if m := plainLimit.FindStringSubmatch(g.While); m != nil {
			set["limits"] = raw([]Limit{{Reading: m[1], Side: map[string]string{"<": Under, ">": Over}[m[2]], Value: m[3]}})
		} else if g.While != "" {
			set["while"] = raw(g.While)
		}
	}
	if !changed {
		return data
	}
	doc["trials"] = raw(sets)
	return raw(doc)
}

// plainLimit is a condition that holds a reading against a number with its unit.
var plainLimit = regexp.MustCompile(`^\s*(r\d+)\s*([<>])\s*([-+.\deE]+(?:\s+[^\s<>=&|()]+)?)\s*$`)

// raw is a value that can always be written as JSON.
func raw(v any) json.RawMessage {
	data, err := json.Marshal(v)
	if err != nil {
		panic(err)
	}
	return data
}
