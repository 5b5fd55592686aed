package trial

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/optimize"
	"gonum.org/v1/gonum/stat/distuv"

	"saltkettle/core/surface"
)

// candidates is how many points a search over a surface begins with, and refined how many of the best it goes down from.
const (
	candidates = 1024
	refined    = 4
)

// lowest finds the lowest value of a cheap function over the parameters, SI, that may be taken: from points that fill the range and from those that
// are given, then downhill.
func (s *Set) lowest(f func(values []float64) float64, given [][]float64) (values []float64, least float64) {
	type point struct {
		u []float64
		f float64
	}
	failed := s.failed()
	at := func(u []float64) point {
		inside := make([]float64, len(u))
		out := 0.0
		for j, v := range u {
			inside[j] = min(max(v, 0), 1)
			out += math.Abs(v - inside[j])
		}
		p := point{inside, f(s.Unscaled(inside))}
		for _, x := range failed {
			if distance(inside, x) < failedRoom {
				p.f = math.Inf(1)
			}
		}
		if out > 0 && !math.IsInf(p.f, 1) {
			p.f += out * (1 + math.Abs(p.f))
		}
		return p
	}
	var list []point
	for _, u := range spread(candidates, len(s.Axes)) {
		list = append(list, at(u))
	}
	for _, v := range given {
		list = append(list, at(s.Scaled(v)))
	}
	byValue := func(a, b point) int {
		switch {
		case a.f < b.f:
			return -1
		case a.f > b.f:
			return 1
		}
		return 0
	}
	slices.SortStableFunc(list, byValue)
	best := list[0]
	for _, start := range list[:min(refined, len(list))] {
		res, err := optimize.Minimize(optimize.Problem{Func: func(u []float64) float64 { return at(u).f }}, start.u,
			&optimize.Settings{FuncEvaluations: 60 * len(s.Axes)}, &optimize.NelderMead{SimplexSize: 0.05})
		if res == nil || err != nil && res.X == nil {
			continue
		}
		if p := at(res.X); p.f < best.f {
			best = p
		}
	}
	return s.Unscaled(best.u), best.f
}

// failedRoom is how near to a trial that failed no other is sought, by scaled parameters.
const failedRoom = 0.03

// failed are the scaled values of the trials that were made and do not count.
func (s *Set) failed() (list [][]float64) {
	for i := range s.List {
		if s.List[i].Failed {
			list = append(list, s.Scaled(s.Values(i)))
		}
	}
	return list
}

// distance of two points.
func distance(a, b []float64) float64 {
	sum := 0.0
	for j := range a {
		sum += (a[j] - b[j]) * (a[j] - b[j])
	}
	return math.Sqrt(sum)
}

// Optimum is where the surfaces are best in the goal within the limits, and what they predict there.
type Optimum struct {
	Values    []float64 // SI
	Estimates map[string]Estimate
	// Keeps says that what is predicted keeps the limits.
	Keeps bool
}

// Optimum by the surfaces; of several goals the best mean of them by their ranges.
func (p *Prediction) Optimum() (o Optimum, err error) {
	if len(p.Aims) == 0 {
		return o, fmt.Errorf("nothing is wanted: give the set a goal")
	}
	cost, err := p.costOfEstimates()
	if err != nil {
		return o, err
	}
	o.Values, _ = p.lowest(cost, p.made())
	if o.Estimates, err = p.Estimates(o.Values); err != nil {
		return o, err
	}
	o.Keeps = p.Keep(o.Values, values(o.Estimates))
	return o, nil
}

func values(list map[string]Estimate) map[string]float64 {
	out := map[string]float64{}
	for k, e := range list {
		out[k] = e.Value
	}
	return out
}

// made are the values of the trials that count.
func (s *Set) made() (list [][]float64) {
	for i := range s.List {
		if s.List[i].Done && s.List[i].Counts {
			list = append(list, s.Values(i))
		}
	}
	return list
}

// heavy is what breaking a limit by the range of its reading costs, by the range of the goal: no goal is worth it.
const heavy = 1e3

// cost is one number of readings: goals by their ranges, and what breaks limits. More is by how much what a limit is about may be worse than its
// reading, SI by limit; nil for nothing.
func (s *Set) cost(spans spans, values []float64, readings map[string]float64, more []float64) float64 {
	sum := 0.0
	for i := range s.Aims {
		a := &s.Aims[i]
		v, ok := readings[a.Reading]
		if !ok {
			return math.Inf(1)
		}
		sum += a.Cost(v) / spans.of(a.Reading)
	}
	broken := 0.0
	for i := range s.Bounds {
		b := &s.Bounds[i]
		v, ok := readings[b.Reading]
		if !ok {
			return math.Inf(1)
		}
		e := b.Excess(v)
		if more != nil {
			e += more[i]
		}
		if e > 0 {
			broken += 1e-3 + e/spans.of(b.Reading)
		}
	}
	if broken == 0 && !s.keepFurther(values, readings) {
		broken = 1
	}
	return sum + heavy*broken
}

// span is the range of a reading over the trials, 1 where there is none.
func (s *Set) span(reading string) float64 {
	lo, hi := s.Range(reading)
	if !(hi > lo) {
		return 1
	}
	return hi - lo
}

// spans are the ranges of the readings that goals and limits are about, found once where they are asked for often.
type spans struct {
	set  *Set
	size map[string]float64
}

func (s *Set) spans() spans { return spans{s, map[string]float64{}} }

func (s spans) of(reading string) float64 {
	v, known := s.size[reading]
	if !known {
		v = s.set.span(reading)
		s.size[reading] = v
	}
	return v
}

// costOfEstimates is the cost by the surfaces, which are to keep limits with a deviation to spare: half of the trials that are just to keep one would
// break it.
func (p *Prediction) costOfEstimates() (func(values []float64) float64, error) {
	keys := p.known()
	fits := make([]*surface.Surface, len(keys))
	for i, key := range keys {
		var err error
		if fits[i], _, err = p.Surface(key); err != nil {
			return nil, err
		}
	}
	spans := p.spans()
	return func(values []float64) float64 {
		u := p.Scaled(values)
		readings := make(map[string]float64, len(keys))
		more := make([]float64, len(p.Bounds))
		for i, key := range keys {
			bound := false
			for k := range p.Bounds {
				if p.Bounds[k].Reading == key {
					bound = true
				}
			}
			if !bound {
				readings[key] = fits[i].Value(u)
				continue
			}
			var d float64
			readings[key], d = fits[i].At(u)
			for k := range p.Bounds {
				if p.Bounds[k].Reading == key && d > 0 {
					more[k] = d
				}
			}
		}
		return p.cost(spans, values, readings, more)
	}, nil
}

// improvement is the expected improvement of the goal over the best trial (J. Mockus, 1978; D. R. Jones, M. Schonlau, W. J. Welch, J. Global Optim.
// 13 (1998) 455) times the chance that the limits are kept, by the range of the goal. Where no trial keeps them yet it is the chance alone.
func (p *Prediction) improvement() (func(values []float64) float64, error) {
	best, found := p.Best()
	a := &p.Aims[0]
	goal, _, err := p.Surface(a.Reading)
	if err != nil {
		return nil, err
	}
	least := 0.0
	if found {
		v, _ := p.value(best.Trial, a.Reading)
		least = a.Cost(v)
	}
	bounds := make([]*surface.Surface, len(p.Bounds))
	for i := range p.Bounds {
		if bounds[i], _, err = p.Surface(p.Bounds[i].Reading); err != nil {
			return nil, err
		}
	}
	span := p.span(a.Reading)
	return func(values []float64) float64 {
		u := p.Scaled(values)
		chance := 1.0
		readings := map[string]float64{}
		for i := range p.Bounds {
			v, d := bounds[i].At(u)
			readings[p.Bounds[i].Reading] = v
			chance *= below(p.Bounds[i].Excess(v), d)
		}
		v, d := goal.At(u)
		readings[a.Reading] = v
		if p.Keeps != nil && !p.keepFurther(values, readings) {
			return 0
		}
		if !found {
			return chance
		}
		return chance * expected(a.Cost, v, d, least) / span
	}, nil
}

// below is the chance that a normal number of a mean and deviation is below 0.
func below(mean, deviation float64) float64 {
	if !(deviation > 0) {
		if mean <= 0 {
			return 1
		}
		return 0
	}
	return distuv.UnitNormal.CDF(-mean / deviation)
}

// expected is the mean of how far a cost of a normal number is below the least so far, over five deviations to each side.
func expected(cost func(float64) float64, mean, deviation, least float64) float64 {
	if !(deviation > 0) {
		return max(0, least-cost(mean))
	}
	const n = 60
	sum, weight := 0.0, 0.0
	for k := range n {
		z := 5 * (2*(float64(k)+0.5)/n - 1)
		w := math.Exp(-z * z / 2)
		weight += w
		sum += w * max(0, least-cost(mean+z*deviation))
	}
	return sum / weight
}
