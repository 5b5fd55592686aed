package web

import (
	"encoding/json"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"slices"

	"saltkettle/core/model"
	"saltkettle/core/trial"
)

// What the chart of trials shows, by its key.
const (
	showScatter = ""
	showAxes    = "axes"
	showFit     = "fit"
	showCurve   = "curve"
	showSurface = "surface"
	showEffects = "effects"
)

// trialPoint is a trial in the chart.
type trialPoint struct {
	Trial int     `json:"trial"` // its place in the set
	X     float64 `json:"x"`
	Y     float64 `json:"y"`
	// Shade is from 0 to 1.
	Shade  float64 `json:"shade"`
	Counts bool    `json:"counts"`
	Breaks bool    `json:"breaks,omitempty"`
	Front  bool    `json:"front,omitempty"`
}

// trialAxis is what an axis of the chart has.
type trialAxis struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	Unit  string `json:"unit"`
	// Limits are values that are drawn.
	Limits []trialLimit `json:"limits,omitempty"`
	// Low and High are the ends over the trials, of axes side by side.
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// trialLimit is a limit on an axis.
type trialLimit struct {
	Value float64 `json:"value"`
	Words string  `json:"words"`
}

// scatter is trials as points.
type scatter struct {
	Show   string       `json:"show"`
	X      trialAxis    `json:"x"`
	Y      trialAxis    `json:"y"`
	Points []trialPoint `json:"points"`
	Shade  *trialAxis   `json:"shade"`
	Line   bool         `json:"line"`  // joins the points in their order
	Stairs bool         `json:"front"` // draws the front
	// Down and Left say in which direction of the axes it is better, of the front.
	Down bool        `json:"down"`
	Left bool        `json:"left"`
	Best int         `json:"best"` // trial, −1 for none
	End  *[2]float64 `json:"end"`  // of the parabola through the best one
}

// parallel is trials as lines over axes side by side.
type parallel struct {
	Show  string         `json:"show"`
	Axes  []trialAxis    `json:"axes"`
	Lines []parallelLine `json:"lines"`
	Best  int            `json:"best"`
}

type parallelLine struct {
	Trial  int        `json:"trial"`
	Values []*float64 `json:"values"`
	Shade  float64    `json:"shade"`
	Counts bool       `json:"counts"`
	Front  bool       `json:"front,omitempty"`
}

// charts sets what the chart shows and what can be chosen.
func (v *trialsView) charts(o *outcomes, r *http.Request, parameters, readings []variable, best trial.Best, found bool, front []int) {
	show := r.FormValue("show")
	shows := []struct{ key, words string }{{showScatter, "one against another"}, {showAxes, "all side by side"}}
	if !o.series.Active() {
		shows = append(shows, []struct{ key, words string }{{showFit, "predicted against computed"}, {showCurve, "curve of a parameter"}, {showEffects, "effects of all parameters"}}...)
		if len(parameters) > 1 {
			shows = append(shows, struct{ key, words string }{showSurface, "surface over two parameters"})
		}
	}
	if !slices.ContainsFunc(shows, func(s struct{ key, words string }) bool { return s.key == show }) {
		show = showScatter
	}
	v.Show = field{Place: "show", Value: show, Label: "what the chart shows"}
	for _, s := range shows {
		v.Show.Names, v.Show.Texts = append(v.Show.Names, s.key), append(v.Show.Texts, s.words)
	}
	all := append(slices.Clone(parameters), readings...)
	changing := slices.DeleteFunc(slices.Clone(all), func(q variable) bool { return slices.Contains(o.keys, q.key) && !o.Varies(q.key) })
	switch show {
	case showScatter:
		v.scatter(o, r, all, readings, parameters, best, found, front)
	case showAxes:
		shade := pick(changing, r.FormValue("shade"), pick(changing, readings[o.goalOf(readings)].key, len(changing)-1))
		v.Choices = []field{choiceOf("shade", "Shade by", changing, shade)}
		v.Chart = asJSON(o.parallel(changing, shade, best, found, front))
	default:
		query := url.Values{"show": {show}}
		add := func(name, label string, list []variable, i int) {
			v.Choices = append(v.Choices, choiceOf(name, label, list, i))
			query.Set(name, list[i].key)
		}
		add("of", "Of", readings, pick(readings, r.FormValue("of"), o.goalOf(readings)))
		if show == showCurve || show == showSurface {
			add("by", "By", parameters, pick(parameters, r.FormValue("by"), 0))
		}
		if show == showSurface {
			by := pick(parameters, r.FormValue("by"), 0)
			second := pick(parameters, r.FormValue("and"), 1)
			if second == by {
				second = (by + 1) % len(parameters)
			}
			add("and", "And", parameters, second)
		}
		v.Source = fmt.Sprintf("/series/%d/chart?%s", o.series.ID, query.Encode())
	}
}

// goalOf is the place among readings of the first goal's.
func (o *outcomes) goalOf(readings []variable) int {
	for i := range o.Aims {
		if k := slices.IndexFunc(readings, func(q variable) bool { return q.key == o.Aims[i].Reading }); k >= 0 {
			return k
		}
	}
	return 0
}

// spoken are the keys that goals and limits are about, goals first.
func (o *outcomes) spoken() (keys []string) {
	add := func(key string) {
		if slices.Contains(o.keys, key) && !slices.Contains(keys, key) {
			keys = append(keys, key)
		}
	}
	for i := range o.Aims {
		add(o.Aims[i].Reading)
	}
	for i := range o.Bounds {
		add(o.Bounds[i].Reading)
	}
	return keys
}

// scatter is the chart of one against another: by default the goals and limits, else the first parameter and the goal.
func (v *trialsView) scatter(o *outcomes, r *http.Request, all, readings, parameters []variable, best trial.Best, found bool, front []int) {
	acrossKey, upKey := parameters[0].key, readings[0].key
	if keys := o.spoken(); len(keys) > 1 {
		acrossKey, upKey = keys[0], keys[1]
	} else if len(keys) == 1 {
		upKey = keys[0]
	}
	x := pick(all, r.FormValue("across"), pick(all, acrossKey, 0))
	y := pick(all, r.FormValue("up"), pick(all, upKey, 0))
	shades := append([]variable{{key: "none", name: "nothing"}}, all...)
	usual := 0
	if len(parameters) > 1 || all[x].key != parameters[0].key {
		usual = 1 + min(1, len(parameters)-1)
	}
	shade := pick(shades, r.FormValue("shade"), usual)
	v.Choices = []field{choiceOf("across", "Across", all, x), choiceOf("up", "Up", all, y), choiceOf("shade", "Shade by", shades, shade)}
	c := scatter{X: o.axis(all[x]), Y: o.axis(all[y]), Best: -1, Line: len(parameters) == 1 && x == 0 && o.set.Pattern == ""}
	if shade > 0 {
		a := o.axis(shades[shade])
		c.Shade = &a
	}
	if found {
		c.Best = best.Trial
		if best.Between && x == 0 && all[y].key == o.Aims[0].Reading {
			c.End = &[2]float64{o.set.Axes[0].Unit.From(best.At, false), all[y].shown(best.Estimate)}
		}
	}
	// The front is drawn as stairs where both of its goals are on the axes.
	if len(o.Aims) == 2 && len(front) > 0 {
		for i := range o.Aims {
			better := o.Aims[i].Want == model.Least
			if o.Aims[i].Want == model.Near {
				continue
			}
			switch o.Aims[i].Reading {
			case all[x].key:
				c.Left, c.Stairs = better, true
			case all[y].key:
				c.Down = better
			}
		}
		keys := []string{o.Aims[0].Reading, o.Aims[1].Reading}
		c.Stairs = slices.Contains(keys, all[x].key) && slices.Contains(keys, all[y].key) && x != y && o.Aims[0].Want != model.Near && o.Aims[1].Want != model.Near
	}
	for place := range o.List {
		if !o.List[place].Done {
			continue
		}
		px, okX := all[x].of(place)
		py, okY := all[y].of(place)
		if !okX || !okY || math.IsNaN(px+py) || math.IsInf(px+py, 0) {
			continue
		}
		p := trialPoint{Trial: place, X: px, Y: py, Counts: o.List[place].Counts, Breaks: !o.KeepsTrial(place), Front: len(o.Aims) > 1 && slices.Contains(front, place)}
		p.Shade = 0.5
		if c.Shade != nil {
			if s, ok := shades[shade].of(place); ok && c.Shade.High > c.Shade.Low {
				p.Shade = (s - c.Shade.Low) / (c.Shade.High - c.Shade.Low)
			}
		}
		c.Points = append(c.Points, p)
	}
	if len(c.Points) > 0 {
		v.Chart = asJSON(c)
	}
}

// axis is a variable as an axis, with the limits on it.
func (o *outcomes) axis(v variable) trialAxis {
	a := trialAxis{Key: v.key, Label: v.name, Unit: v.unit, Low: math.Inf(1), High: math.Inf(-1)}
	for place := range o.List {
		if !o.List[place].Done {
			continue
		}
		if x, ok := v.of(place); ok && !math.IsNaN(x) {
			a.Low, a.High = min(a.Low, x), max(a.High, x)
		}
	}
	if a.High < a.Low {
		a.Low, a.High = 0, 0
	}
	for i := range o.Bounds {
		if b := &o.Bounds[i]; b.Reading == v.key {
			a.Limits = append(a.Limits, trialLimit{v.shown(b.Value), b.Side + " " + o.words(b.Reading, b.Value)})
		}
	}
	return a
}

// parallel is the chart of all side by side.
func (o *outcomes) parallel(all []variable, shade int, best trial.Best, found bool, front []int) parallel {
	c := parallel{Show: showAxes, Best: -1}
	if found {
		c.Best = best.Trial
	}
	for _, v := range all {
		c.Axes = append(c.Axes, o.axis(v))
	}
	for place := range o.List {
		if !o.List[place].Done {
			continue
		}
		l := parallelLine{Trial: place, Counts: o.List[place].Counts, Front: slices.Contains(front, place), Shade: 0.5}
		for i, v := range all {
			x, ok := v.of(place)
			if !ok || math.IsNaN(x) || math.IsInf(x, 0) {
				l.Values = append(l.Values, nil)
				continue
			}
			l.Values = append(l.Values, &x)
			if a := &c.Axes[i]; i == shade && a.High > a.Low {
				l.Shade = (x - a.Low) / (a.High - a.Low)
			}
		}
		c.Lines = append(c.Lines, l)
	}
	return c
}

// choiceOf is a select of variables.
func choiceOf(name, label string, list []variable, chosen int) field {
	f := field{Place: name, Value: list[chosen].key, Label: label}
	for _, v := range list {
		f.Names, f.Texts = append(f.Names, v.key), append(f.Texts, v.name)
	}
	return f
}

// asJSON is a value as JSON, "" if a number of it is none.
func asJSON(v any) string {
	data, err := json.Marshal(v)
	if err != nil {
		return ""
	}
	return string(data)
}
