package trial

import (
	"fmt"
	"math"
	"slices"
	"sync"

	"gonum.org/v1/gonum/optimize"

	"saltkettle/core/model"
)

// Proposal is a trial that is worth making.
type Proposal struct {
	Values []float64 `json:"values"` // of the parameters, SI, by axis
	Why    string    `json:"why"`
	// Predicted is what was expected of it, by reading; nil where no surface was asked.
	Predicted map[string]Estimate `json:"predicted,omitempty"`
}

// Step is what a search says after the trials that are made.
type Step struct {
	Proposals []Proposal
	// Done says that it is at its end, and Words why, or how far it is.
	Done  bool
	Words string
}

// Next chooses the next trials of a set by its search. Earlier are the proposals that it made before, which are the trials of the set behind its
// pattern in the same order. The same trials always lead to the same step, so that a search may be broken off anywhere.
func Next(p *Prediction, earlier []Proposal) (Step, error) {
	if len(earlier) >= p.Most {
		return Step{Done: true, Words: fmt.Sprintf("ended after %d further trials, the most that it may take", len(earlier))}, nil
	}
	if len(p.Aims) == 0 && p.Search.Method != model.Knowledge {
		return Step{}, fmt.Errorf("nothing is wanted: give the set a goal")
	}
	if p.Planned()+len(earlier) >= model.MaxTrials {
		return Step{Done: true, Words: fmt.Sprintf("ended: a set has at most %d trials", model.MaxTrials)}, nil
	}
	var step Step
	var err error
	switch p.Search.Method {
	case model.Direct:
		step, err = p.direct()
	case model.Evolution:
		step, err = p.evolution(p.Most)
	default:
		step, err = p.bySurface(earlier)
	}
	step.Proposals = step.Proposals[:min(len(step.Proposals), p.Most-len(earlier))]
	return step, err
}

// Disagreement is by how much what was predicted of a trial is off what was computed, by the range of the reading, in the reading in which that is most; ok is
// false if nothing was predicted or computed.
func (s *Set) Disagreement(trial int, predicted map[string]Estimate) (share float64, ok bool) {
	for i := range s.Model.Readings { // in their order
		key := s.Model.Readings[i].ID
		e, has := predicted[key]
		v, made := s.value(trial, key)
		if !has || !made {
			continue
		}
		share, ok = max(share, math.Abs(v-e.Value)/s.span(key)), true
	}
	return share, ok
}

// bySurface chooses by the surfaces, and ends when the trials that were chosen last came out as they were predicted.
func (p *Prediction) bySurface(earlier []Proposal) (Step, error) {
	// Where the goal may improve most is asked for by the end of a search and by what it proposes.
	gain := sync.OnceValue(p.mostGain)
	words := ""
	if n := len(earlier); n > 0 {
		worst, agreed := 0.0, true
		for i := max(0, n-2); i < n; i++ {
			share, ok := p.Disagreement(p.Planned()+i, earlier[i].Predicted)
			worst = max(worst, share)
			agreed = agreed && ok && share <= p.Within
		}
		words = fmt.Sprintf("what was predicted last is off by %.2g %% of the range of the readings", 100*worst)
		if agreed && n >= 2 && p.little(gain) {
			return Step{Done: true, Words: fmt.Sprintf("the last two trials came out as predicted, within %.2g %% of the range of the readings", 100*worst)}, nil
		}
	}
	var list []Proposal
	add := func(values []float64, why string) error {
		taken := slices.ContainsFunc(list, func(o Proposal) bool { return p.same(o.Values, values) })
		for i := range p.Count() {
			taken = taken || p.same(p.Values(i), values)
		}
		if taken {
			return nil
		}
		e, err := p.Estimates(values)
		list = append(list, Proposal{values, why, e})
		return err
	}
	if p.Search.Method != model.Knowledge {
		if err := p.proposeBest(add, gain); err != nil {
			return Step{}, err
		}
		if len(list) == 0 {
			return Step{Done: true, Words: "the best by the surface has been made, and no other trial is likely to improve on it"}, nil
		}
		return Step{Proposals: list, Words: words}, nil
	}
	for range 2 {
		values, err := p.leastKnown(list)
		if err == nil {
			err = add(values, "the surface knows least here")
		}
		if err != nil {
			return Step{}, err
		}
	}
	if len(list) == 0 {
		return Step{Done: true, Words: "every trial that is worth making has been made"}, nil
	}
	return Step{Proposals: list, Words: words}, nil
}

// little says that there is little more to find: that what is least known is known within what the search is to agree within, or that the goal is not
// expected to improve by more than a tenth of that.
func (p *Prediction) little(most func() gained) bool {
	if p.Search.Method == model.Knowledge {
		values, err := p.leastKnown(nil)
		if err != nil {
			return false
		}
		for _, key := range p.known() {
			_, d, err := p.At(key, values)
			if err != nil || !(d <= p.Within*p.span(key)) {
				return false
			}
		}
		return true
	}
	if len(p.Aims) != 1 {
		return true
	}
	g := most()
	return g.err != nil || g.by < p.Within/10
}

// gained is where the goal may improve most, and by how much of its range.
type gained struct {
	values []float64
	by     float64
	err    error
}

func (p *Prediction) mostGain() (g gained) {
	gain, err := p.improvement()
	if err != nil {
		return gained{err: err}
	}
	values, negative := p.lowest(func(v []float64) float64 { return -gain(v) }, p.made())
	return gained{values, -negative, nil}
}

// same says that two lists of values are the same trial.
func (s *Set) same(a, b []float64) bool {
	for j := range a {
		if math.Abs(s.Axes[j].Scaled(a[j])-s.Axes[j].Scaled(b[j])) > 1e-4 {
			return false
		}
	}
	return true
}

// proposeBest proposes the best by the surface and where the goal may improve most, or of several goals points of the front of the surfaces.
func (p *Prediction) proposeBest(add func(values []float64, why string) error, most func() gained) error {
	if len(p.Aims) > 1 {
		return p.proposeFront(add)
	}
	o, err := p.Optimum()
	if err != nil {
		return err
	}
	if err := add(o.Values, "the best by the surface"); err != nil {
		return err
	}
	g := most()
	if g.err != nil || g.by < 1e-6 {
		return g.err
	}
	return add(g.values, "the goal may improve most here")
}

// leastKnown is where what goals and limits are about is least known, away from other proposals.
func (p *Prediction) leastKnown(others []Proposal) ([]float64, error) {
	keys := p.known()
	for _, key := range keys {
		if _, _, err := p.Surface(key); err != nil {
			return nil, err
		}
	}
	if len(keys) == 0 {
		return nil, fmt.Errorf("no reading can be predicted")
	}
	spans, known := p.spans(), p.places(others)
	values, _ := p.lowest(func(v []float64) float64 {
		sum := 0.0
		u := p.Scaled(v)
		for _, key := range keys {
			f, _, _ := p.Surface(key)
			if _, d := f.At(u); d > 0 {
				sum += d / spans.of(key)
			}
		}
		// Surfaces that know all points alike are asked far from those that are made.
		return -sum * min(1, apart(u, known)/0.3)
	}, nil)
	return values, nil
}

// places are the scaled values of the trials and of other proposals.
func (s *Set) places(others []Proposal) (list [][]float64) {
	for i := range s.Count() {
		list = append(list, s.Scaled(s.Values(i)))
	}
	for _, o := range others {
		list = append(list, s.Scaled(o.Values))
	}
	return list
}

// apart is how far a point is from the nearest of others.
func apart(u []float64, others [][]float64) float64 {
	least := math.Inf(1)
	for _, o := range others {
		least = min(least, distance(o, u))
	}
	return least
}

// planned is the set of the trials of the pattern alone: what is measured by them stays the same while a search goes on.
func (s *Set) planned() *Set {
	return &Set{ResolvedTrials: s.With(nil), Model: s.Model, List: s.List[:s.Planned()]}
}

// direct goes downhill from the best of the planned trials by the simplex of J. A. Nelder and R. Mead (1965), whose steps are taken anew from what is
// known until one asks for a trial that is not made.
func (p *Prediction) direct() (Step, error) {
	planned := p.planned()
	spans := planned.spans()
	start, least := []float64(nil), math.Inf(1)
	for i := range planned.List {
		if !planned.List[i].Done || !planned.List[i].Counts {
			continue
		}
		if c := planned.cost(spans, planned.Values(i), planned.List[i].Readings, nil); c < least {
			start, least = planned.Scaled(planned.Values(i)), c
		}
	}
	if start == nil {
		return Step{}, fmt.Errorf("no trial of the pattern counts to begin with")
	}
	var asked []float64
	f := func(u []float64) float64 {
		if asked != nil {
			return math.Inf(1)
		}
		inside, out := make([]float64, len(u)), 0.0
		for j := range u {
			inside[j] = min(max(u[j], 0), 1)
			out += math.Abs(u[j] - inside[j])
		}
		values := p.Unscaled(inside)
		for i := range p.List {
			if !p.same(p.Values(i), values) {
				continue
			}
			if !p.List[i].Done || !p.List[i].Counts {
				return heavy * heavy // a trial that failed is no way to go
			}
			return planned.cost(spans, values, p.List[i].Readings, nil) + heavy*out
		}
		asked = values
		return math.Inf(1)
	}
	settings := &optimize.Settings{FuncEvaluations: 10000, Converger: &optimize.FunctionConverge{Absolute: p.Within / 10, Iterations: 3 * (len(start) + 1)}}
	problem := optimize.Problem{Func: f, Status: func() (optimize.Status, error) {
		if asked != nil {
			return optimize.Success, nil
		}
		return optimize.NotTerminated, nil
	}}
	res, err := optimize.Minimize(problem, start, settings, &optimize.NelderMead{SimplexSize: 0.15})
	if asked != nil {
		return Step{Proposals: []Proposal{{Values: asked, Why: "downhill"}}}, nil
	}
	if err != nil && res == nil {
		return Step{}, err
	}
	return Step{Done: true, Words: "nothing better lies near the best trial"}, nil
}
