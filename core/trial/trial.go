// Package trial judges the trials of a set: which counts, which is the best, what moves what, what is predicted between them, and which are worth
// making next.
package trial

import (
	"math"
	"slices"

	"saltkettle/core/model"
)

// Outcome is what came of a trial.
type Outcome struct {
	// Done says that it has readings.
	Done bool
	// Failed says that it was made and came to nothing that counts.
	Failed bool
	// Counts says that it may be the best: it settled, or was kept by hand.
	Counts bool
	// Readings in SI units by id.
	Readings map[string]float64
}

// Set is a trial set with what came of its trials.
type Set struct {
	*model.ResolvedTrials
	Model *model.Resolved
	List  []Outcome // by trial, as many as the set counts
}

// value is a reading of a trial that counts; ok is false if it has none.
func (s *Set) value(trial int, reading string) (v float64, ok bool) {
	if trial < 0 || trial >= len(s.List) || !s.List[trial].Done || !s.List[trial].Counts {
		return 0, false
	}
	v, ok = s.List[trial].Readings[reading]
	return v, ok && !math.IsNaN(v) && !math.IsInf(v, 0)
}

// Keep says whether readings, SI, keep the limits and the further condition at values of the parameters.
func (s *Set) Keep(values []float64, readings map[string]float64) bool {
	for i := range s.Bounds {
		v, ok := readings[s.Bounds[i].Reading]
		if !ok || !(s.Bounds[i].Excess(v) <= 0) {
			return false
		}
	}
	return s.keepFurther(values, readings)
}

func (s *Set) keepFurther(values []float64, readings map[string]float64) bool {
	if s.Keeps == nil {
		return true
	}
	in := make([]float64, 0, len(s.Model.Readings)+len(values))
	for i := range s.Model.Readings {
		v, ok := readings[s.Model.Readings[i].ID]
		if !ok {
			v = math.NaN()
		}
		in = append(in, v)
	}
	return s.Keeps.At(append(in, values...)...) == 1
}

// KeepsTrial says whether a trial keeps the limits and the further condition.
func (s *Set) KeepsTrial(trial int) bool { return s.Keep(s.Values(trial), s.List[trial].Readings) }

// costs of the goals of a trial that counts and keeps what it has to; ok is false for others.
func (s *Set) costs(trial int) (costs []float64, ok bool) {
	for i := range s.Aims {
		v, has := s.value(trial, s.Aims[i].Reading)
		if !has {
			return nil, false
		}
		costs = append(costs, s.Aims[i].Cost(v))
	}
	return costs, len(costs) > 0 && s.KeepsTrial(trial)
}

// Front lists the trials that count and keep what they have to and that no other beats: none is as good in every goal and better in one. With one
// goal these are the best.
func (s *Set) Front() (front []int) {
	all := make([][]float64, len(s.List))
	for i := range s.List {
		all[i], _ = s.costs(i)
		if _, ok := s.costs(i); !ok {
			all[i] = nil
		}
	}
	for i, c := range all {
		if c != nil && !slices.ContainsFunc(all, func(o []float64) bool { return o != nil && beats(o, c) }) {
			front = append(front, i)
		}
	}
	return front
}

// alike is by how much, relative to them, costs differ that are the same but for round-off.
const alike = 1e-9

// beats says that costs are nowhere more and somewhere less than others, by more than round-off: the same mass of another mesh is no better.
func beats(a, b []float64) bool {
	less := false
	for i := range a {
		room := alike * max(math.Abs(a[i]), math.Abs(b[i]))
		if a[i] > b[i]+room {
			return false
		}
		less = less || a[i] < b[i]-room
	}
	return less
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

// Best is the trial that is best in the goal; of several goals the one of the front that is nearest to the best in all of them, by their ranges over
// the front. ok is false if there is no goal or no trial that counts keeps what it has to.
func (s *Set) Best() (b Best, ok bool) {
	front := s.Front()
	if len(front) == 0 {
		return b, false
	}
	b.Trial = s.compromise(front)
	b.Value, _ = s.value(b.Trial, s.Aims[0].Reading)
	if len(s.Aims) > 1 || len(s.Axes) != 1 || s.Pattern != "" || s.Aims[0].Want == model.Near || b.Trial >= s.Planned() {
		return b, true
	}
	x := s.Axes[0].Values
	near := func(i int) (float64, bool) {
		if i < 0 || i >= len(x) || !s.Axes[0].Free() {
			return 0, false
		}
		_, keeps := s.costs(i)
		v, _ := s.value(i, s.Aims[0].Reading)
		return v, keeps
	}
	before, has1 := near(b.Trial - 1)
	after, has2 := near(b.Trial + 1)
	if has1 && has2 {
		b.Between, b.At, b.Estimate = vertex(x[b.Trial-1:b.Trial+2], [3]float64{before, b.Value, after})
	}
	return b, true
}

// compromise is the trial of a front that is nearest to the best of each goal.
func (s *Set) compromise(front []int) int {
	lo, hi := make([]float64, len(s.Aims)), make([]float64, len(s.Aims))
	for k := range s.Aims {
		lo[k], hi[k] = math.Inf(1), math.Inf(-1)
		for _, i := range front {
			c, _ := s.costs(i)
			lo[k], hi[k] = min(lo[k], c[k]), max(hi[k], c[k])
		}
	}
	best, least := front[0], math.Inf(1)
	for _, i := range front {
		c, _ := s.costs(i)
		sum := 0.0
		for k := range c {
			if hi[k] > lo[k] {
				sum += math.Pow((c[k]-lo[k])/(hi[k]-lo[k]), 2)
			}
		}
		if sum < least {
			best, least = i, sum
		}
	}
	return best
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
