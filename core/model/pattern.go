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
	p, known := t.pattern()
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
			a.Values[i] = (1-x[j])*a.from + x[j]*a.to
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
