package model

import (
	"strings"

	"saltkettle/core/sample"
)

// usualRuns is how many trials a pattern spreads where nothing is said.
const usualRuns = 20

// mostCorners is of how many parameters a composite design has all corners.
const mostCorners = 8

// pattern makes the values of the axes trial by trial, of a set of another pattern than all combinations.
func (r *resolver) pattern(place string, t *ResolvedTrials) {
	p, known := t.Meeting()
	n := usualRuns
	if !known {
		var keys []string
		for _, p := range Patterns {
			keys = append(keys, `"`+p.Key+`"`)
		}
		r.find(Wrong, place+"/pattern", "choose one of "+strings.Join(keys, ", "), "the trial set %q has a pattern %q that is not known", t.Name, t.Pattern)
		return
	}
	if p.Spread && strings.TrimSpace(t.Runs) != "" {
		v, ok := r.value(place+"/runs", t.Runs, need{label: "number of trials", positive: true, whole: true})
		if !ok {
			return
		}
		if v < 2 || v > MaxTrials {
			r.find(Wrong, place+"/runs", "", "a set has 2 to %d trials, not %g", MaxTrials, v)
			return
		}
		n = int(v)
	}
	d := len(t.Axes)
	if d == 0 || d < len(t.Vary) {
		return // other findings say why
	}
	var points [][]float64
	switch t.Pattern {
	case "":
		return
	case ByLines:
		r.lines(place, t)
		return
	case OneAtATime:
		r.oneAtATime(t)
		return
	case Composite:
		if d > mostCorners {
			r.find(Wrong, place+"/pattern", "vary fewer parameters, or spread the trials", "the corners of %d parameters are too many", d)
			return
		}
		points = sample.Composite(d)
	case Latin:
		points = sample.Latin(n, d)
	case Halton:
		points = sample.Halton(n, d)
	case Sobol:
		if d > sample.MostSobol {
			r.find(Wrong, place+"/pattern", "choose another pattern, or vary fewer", "the sequence of Sobol is known for %d parameters, and %d vary", sample.MostSobol, d)
			return
		}
		points = sample.Sobol(n, d)
	}
	for j := range t.Axes {
		a := &t.Axes[j]
		a.Values = make([]float64, len(points))
		for i, x := range points {
			a.Values[i] = a.Quantile(x[j])
		}
	}
}

// oneAtATime begins with what the sheet says and lets each parameter take its values while the others stay.
func (r *resolver) oneAtATime(t *ResolvedTrials) {
	lists := make([][]float64, len(t.Axes))
	for j := range t.Axes {
		lists[j] = t.Axes[j].Values
	}
	for j := range t.Axes {
		a := &t.Axes[j]
		now := r.out.Parameters[a.Parameter].SI
		a.Values = []float64{now}
		for k, list := range lists {
			for _, v := range list {
				if k != j {
					v = now
				}
				a.Values = append(a.Values, v)
			}
		}
	}
}

// lines checks that the lists of a set that is made line by line are as long as each other.
func (r *resolver) lines(place string, t *ResolvedTrials) {
	n := len(t.Axes[0].Values)
	for i := range t.Axes {
		if a := &t.Axes[i]; len(a.Values) != n {
			r.find(Wrong, place+"/vary/"+t.Vary[i].ID+"/listed", "give each a value for each line", "%s has %d values and %s has %d; each trial takes one of each", t.Axes[0].Parameter, n, a.Parameter, len(a.Values))
			return
		}
	}
}
