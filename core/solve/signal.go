package solve

import (
	"fmt"
	"math"
	"slices"

	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
)

// mostBreaks is how often signals may jump or bend within a run.
const mostBreaks = 20000

// Signals are looked at in so many points over a run; within a step at least at
// leastLooks.
const (
	looks      = 20000
	leastLooks = 24
	mostPlaces = 12 // at which a signal that depends on the place is looked at
	signalFall = 50 // the part of the time that the longest step is, if there are signals
)

// signal is a value of a sentence that changes in time.
type signal struct {
	key, label string
	law        law.Law
	places     [][3]float64 // one if it does not depend on the place
	size       float64      // of its integral over the run
	bends      bool         // it is not straight between its breaks
	missed     float64      // of that, by the steps that were made
	trial      float64      // by the step at hand
}

// signals are those of a run, with when they jump or bend.
type signals struct {
	list   []*signal
	breaks []float64
	end    float64
	allow  float64 // of the size of a signal, in all
	work   columns
}

// columns are the inputs of a law at many times.
type columns struct {
	in  [][]float64
	out []float64
}

// newSignals finds the values that change in time.
func (r *run) newSignals() (*signals, error) {
	s := &signals{end: r.model.End, allow: r.model.Tolerance}
	add := func(p *formula.Program, input int, place, what string) error {
		breaks, err := p.Breaks(input, 0, s.end, mostBreaks)
		if err == nil && len(s.breaks)+len(breaks) > mostBreaks {
			err = fmt.Errorf("the signals of the model change abruptly more than %d times together", mostBreaks)
		}
		if err != nil {
			return wrong(place, "make the run shorter, or give the mean of what changes so fast", "%s cannot be followed through %s: %v", what, quantity.Show(s.end, "s", false, 4), err)
		}
		s.breaks = append(s.breaks, breaks...)
		return nil
	}
	for i := range r.model.Conditions {
		c := &r.model.Conditions[i]
		for j := range c.Definition.Slots {
			slot := &c.Definition.Slots[j]
			l := c.Laws[slot.Name]
			if l == nil || !l.Uses(law.Moment) {
				continue
			}
			if err := add(l, law.Moment, "conditions/"+c.ID+"/values/"+slot.Name, "the "+slot.Label+" in "+c.ID); err != nil {
				return nil, err
			}
			g := &signal{key: c.ID, label: slot.Label, law: l, places: [][3]float64{{}}}
			if slices.ContainsFunc([]int{1, 2, 3, 4, 5}, l.Uses) {
				g.places = r.placesOf(c.On)
			}
			s.list = append(s.list, g)
		}
	}
	if until := r.model.Until; until != nil {
		if err := add(until, len(r.model.Readings), "run/until", "the condition that ends the run"); err != nil {
			return nil, err
		}
	}
	slices.Sort(s.breaks)
	s.breaks = slices.Compact(s.breaks)
	for _, g := range s.list {
		s.measure(g)
	}
	return s, nil
}

// placesOf are some places of what a patch names, evenly taken from its nodes.
func (r *run) placesOf(p model.Patch) [][3]float64 {
	grid := r.posed.groups[0].System.Grid
	var nodes []int32
	if bodies := r.site().BodySet(p); p.Side == "" && p.Facing == "" {
		for _, b := range grid.Blocks {
			for c, part := range b.Part {
				if bodies[part] {
					nodes = append(nodes, b.Nodes(c)[0])
				}
			}
		}
	} else {
		for _, k := range r.site().Facets(p, false) {
			nodes = append(nodes, r.mesh.Facets[k].Nodes[0])
		}
	}
	var list [][3]float64
	for i := 0; i < len(nodes); i += max(1, len(nodes)/mostPlaces) {
		list = append(list, grid.At(nodes[i]))
	}
	return list
}

// values of a signal at a place at n+1 times evenly spread from one to another, a little
// inside where it may jump at the ends. The temperature is the usual one.
func (s *signals) values(g *signal, place [3]float64, from, to float64, n int) []float64 {
	w := &s.work
	if w.in == nil {
		w.in = make([][]float64, len(law.Variables))
	}
	var points []fem.Point
	inset := 1e-9 * (to - from)
	for i := range n + 1 {
		t := from + inset + (to-from-2*inset)*float64(i)/float64(n)
		points = append(points, fem.Point{X: place, Time: t})
	}
	set := law.NewSet(g.law)
	set.Run(points, -1)
	w.out = w.out[:0]
	for i := range points {
		w.out = append(w.out, set.At(0, i))
	}
	return w.out
}

// integral of a signal from one time to another between which it is smooth, by the rule of
// Simpson, with its deviation from a level.
func (s *signals) integral(g *signal, place [3]float64, from, to float64, n int, of func(v float64) float64) float64 {
	n += n % 2
	v := s.values(g, place, from, to, n)
	sum := 0.0
	for i, x := range v {
		weight := 2.0
		switch {
		case i == 0 || i == n:
			weight = 1
		case i%2 == 1:
			weight = 4
		}
		sum += weight * of(x)
	}
	return sum * (to - from) / float64(3*n)
}

func same(v float64) float64 { return v }

// measure finds the size of a signal: the integral of its absolute value or, of a
// temperature, of how far it is from its mean.
func (s *signals) measure(g *signal) {
	scale := g.law.Dimension == quantity.MustUnit("K").Dimension
	over := func(place [3]float64, of func(v float64) float64) (sum float64) {
		from := 0.0
		for _, to := range append(slices.Clone(s.breaks), s.end) {
			sum += s.integral(g, place, from, to, s.looksIn(to-from), of)
			from = to
		}
		return sum
	}
	for _, place := range g.places {
		g.bends = g.bends || s.bendsAt(g, place)
		level := 0.0
		if scale {
			level = over(place, same) / s.end
		}
		size := over(place, func(v float64) float64 { return math.Abs(v - level) })
		if scale {
			size = max(size, 1e-4*math.Abs(level)*s.end)
		}
		g.size = max(g.size, size)
	}
}

// bendsAt says that a signal is not straight between its breaks at a place.
func (s *signals) bendsAt(g *signal, place [3]float64) bool {
	from := 0.0
	for _, to := range append(slices.Clone(s.breaks), s.end) {
		v := s.values(g, place, from, to, s.looksIn(to-from))
		n := len(v) - 1
		for i, x := range v {
			if line := v[0] + (v[n]-v[0])*float64(i)/float64(n); math.Abs(x-line) > 1e-6*(math.Abs(v[0])+math.Abs(v[n])+math.Abs(x)) {
				return true
			}
		}
		from = to
	}
	return false
}

func (s *signals) looksIn(length float64) int {
	return max(leastLooks, int(looks*length/s.end))
}

// miss is how much of the signals the stages of a step miss, relative to what is allowed.
func (s *signals) miss(step *fem.Step) float64 {
	// Steps share what is allowed by their lengths, and none needs less than a few.
	share := s.allow * min(1./3, max(1./30, 10*(step.To-step.From)/s.end))
	worst := 0.0
	for _, g := range s.list {
		g.trial = 0
		for _, place := range g.places {
			taken := 0.0
			for _, stage := range step.Stages {
				set := law.NewSet(g.law)
				set.Run([]fem.Point{{X: place, Time: stage.Time}}, -1)
				taken += stage.Weight * set.At(0, 0)
			}
			given := s.integral(g, place, step.From, step.To, s.looksIn(step.To-step.From), same)
			if d := taken - given; math.Abs(d) > math.Abs(g.trial) {
				g.trial = d
			}
		}
		if g.size > 0 {
			worst = max(worst, math.Abs(g.trial)/(share*g.size))
		}
	}
	return worst
}

// accept takes the step that was last looked at as made.
func (s *signals) accept() {
	for _, g := range s.list {
		g.missed += g.trial
	}
}
