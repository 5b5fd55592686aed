// Package trial judges the trials of a set: which counts, which is the best, and where
// between trials the best would be.
package trial

import (
	"math"

	"saltkettle/core/model"
)

// Outcome is what came of a trial.
type Outcome struct {
	// Done says that it has readings.
	Done bool
	// Counts says that it may be the best: it settled, or was kept by hand.
	Counts bool
	// Readings in SI units by id.
	Readings map[string]float64
}

// Best is the best of the trials of a set.
type Best struct {
	Trial int // counted from 0
	Value float64
	// Between says that the parabola through the best trial and its two neighbours has
	// its end between them: at At of the parameter that varies, where it is Estimate.
	Between      bool
	At, Estimate float64
}

// Keeps says whether a trial keeps the condition of the goal.
func Keeps(r *model.Resolved, t *model.ResolvedTrials, trial int, o *Outcome) bool {
	if t.While == nil {
		return true
	}
	var in []float64
	for i := range r.Readings {
		v, ok := o.Readings[r.Readings[i].ID]
		if !ok {
			v = math.NaN()
		}
		in = append(in, v)
	}
	for i, at := range t.At(trial) {
		in = append(in, t.Axes[i].Values[at])
	}
	return t.While.At(in...) == 1
}

// FindBest finds the best trial; ok is false if the set has no goal or none that counts
// keeps its condition.
func FindBest(r *model.Resolved, t *model.ResolvedTrials, list []Outcome) (b Best, ok bool) {
	sign := 1.0
	switch t.Goal.Want {
	case model.Least:
	case model.Greatest:
		sign = -1
	default:
		return b, false
	}
	value := func(i int) (float64, bool) {
		if i < 0 || i >= len(list) || !list[i].Done || !list[i].Counts {
			return 0, false
		}
		v, has := list[i].Readings[t.Goal.Reading]
		return v, has && Keeps(r, t, i, &list[i])
	}
	for i := range list {
		if v, has := value(i); has && (!ok || sign*v < sign*b.Value) {
			b.Trial, b.Value, ok = i, v, true
		}
	}
	if !ok || len(t.Axes) != 1 || t.Pattern != "" {
		return b, ok
	}
	before, has1 := value(b.Trial - 1)
	after, has2 := value(b.Trial + 1)
	if has1 && has2 {
		x := t.Axes[0].Values
		b.Between, b.At, b.Estimate = vertex(x[b.Trial-1:b.Trial+2], [3]float64{before, b.Value, after})
	}
	return b, ok
}

// vertex is the end of the parabola through three points.
func vertex(x []float64, y [3]float64) (ok bool, at, value float64) {
	d1, d2 := (y[1]-y[0])/(x[1]-x[0]), (y[2]-y[1])/(x[2]-x[1])
	curve := (d2 - d1) / (x[2] - x[0])
	if curve == 0 {
		return false, 0, 0
	}
	// y = y₀ + d1·(x−x₀) + curve·(x−x₀)·(x−x₁)
	at = (x[0]+x[1])/2 - d1/(2*curve)
	if at < min(x[0], x[2]) || at > max(x[0], x[2]) {
		return false, 0, 0
	}
	return true, at, y[0] + d1*(at-x[0]) + curve*(at-x[0])*(at-x[1])
}
