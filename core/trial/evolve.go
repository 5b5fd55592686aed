package trial

import (
	"cmp"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"

	"saltkettle/core/surface"
)

// creature is a point of an evolution.
type creature struct {
	u      []float64 // scaled
	costs  []float64 // of the goals; nil if it failed
	broken float64   // by how much it breaks what it has to keep, 0 for not at all
	rank   int
	room   float64 // distance of its neighbours on its front, by the ranges of the costs
}

// evolution is the elitist search for a front by K. Deb, A. Pratap, S. Agarwal, T. Meyarivan (IEEE Trans. Evol. Comput. 6 (2002) 182), with the
// crossing and the mutation that they use.
type evolution struct {
	set    *Set
	rng    *rand.Rand
	values func(u []float64) (costs []float64, broken float64, known bool)
}

// crowd is how many live in an evolution on real trials, by the number of parameters.
func crowd(d int) int { return 4 * min(2+d, 8) }

// generation makes as many children as there are parents; those whose costs are not known are returned alone.
func (e *evolution) generation(parents []creature) (all []creature, unknown [][]float64) {
	children := make([][]float64, 0, len(parents))
	for len(children) < len(parents) {
		a, b := e.chosen(parents), e.chosen(parents)
		x, y := e.cross(a.u, b.u)
		children = append(children, e.mutate(x), e.mutate(y))
	}
	for _, u := range children[:len(parents)] {
		u = e.set.Scaled(e.set.Unscaled(u))
		costs, broken, known := e.values(u)
		if !known {
			unknown = append(unknown, u)
			continue
		}
		all = append(all, creature{u: u, costs: costs, broken: broken})
	}
	if len(unknown) > 0 {
		return nil, unknown
	}
	return survivors(append(all, parents...), len(parents)), nil
}

// chosen is the better one of two.
func (e *evolution) chosen(list []creature) *creature {
	a, b := &list[e.rng.IntN(len(list))], &list[e.rng.IntN(len(list))]
	if b.rank < a.rank || b.rank == a.rank && b.room > a.room {
		return b
	}
	return a
}

// cross is the simulated binary crossing, with an index of 15.
func (e *evolution) cross(a, b []float64) (x, y []float64) {
	x, y = slices.Clone(a), slices.Clone(b)
	for j := range x {
		if e.rng.Float64() < 0.5 {
			continue
		}
		r := e.rng.Float64()
		beta := math.Pow(2*r, 1./16)
		if r > 0.5 {
			beta = math.Pow(1/(2*(1-r)), 1./16)
		}
		x[j], y[j] = ((1+beta)*a[j]+(1-beta)*b[j])/2, ((1-beta)*a[j]+(1+beta)*b[j])/2
	}
	return x, y
}

// mutate is the polynomial mutation, with an index of 20.
func (e *evolution) mutate(u []float64) []float64 {
	for j := range u {
		u[j] = min(max(u[j], 0), 1)
		if e.rng.Float64() >= 1/float64(len(u)) {
			continue
		}
		r := e.rng.Float64()
		step := math.Pow(2*r, 1./21) - 1
		if r > 0.5 {
			step = 1 - math.Pow(2*(1-r), 1./21)
		}
		u[j] = min(max(u[j]+step, 0), 1)
	}
	return u
}

// better says that one is to live rather than another: one that keeps what it has to, then one that breaks less, then one that beats it.
func better(a, b *creature) bool {
	switch {
	case b.costs == nil:
		return a.costs != nil
	case a.costs == nil:
		return false
	case a.broken != b.broken:
		return a.broken < b.broken
	}
	return beats(a.costs, b.costs)
}

// survivors are the n best of a list, front by front, and of the last front those with the most room.
func survivors(list []creature, n int) []creature {
	var out []creature
	rest := slices.Clone(list)
	for rank := 0; len(rest) > 0 && len(out) < n; rank++ {
		var front, others []creature
		for i := range rest {
			beaten := slices.ContainsFunc(rest, func(o creature) bool { return better(&o, &rest[i]) })
			rest[i].rank = rank
			if beaten {
				others = append(others, rest[i])
			} else {
				front = append(front, rest[i])
			}
		}
		makeRoom(front)
		slices.SortStableFunc(front, func(a, b creature) int { return cmp.Compare(b.room, a.room) })
		out = append(out, front[:min(len(front), n-len(out))]...)
		rest = others
	}
	return out
}

// makeRoom says how far apart the neighbours of each on a front are.
func makeRoom(front []creature) {
	if len(front) == 0 || front[0].costs == nil {
		return
	}
	for i := range front {
		front[i].room = 0
	}
	for k := range front[0].costs {
		slices.SortStableFunc(front, func(a, b creature) int { return cmp.Compare(a.costs[k], b.costs[k]) })
		lo, hi := front[0].costs[k], front[len(front)-1].costs[k]
		front[0].room, front[len(front)-1].room = math.Inf(1), math.Inf(1)
		for i := 1; i < len(front)-1 && hi > lo; i++ {
			front[i].room += (front[i+1].costs[k] - front[i-1].costs[k]) / (hi - lo)
		}
	}
}

// seed of evolutions: the same trials lead to the same ones.
const seed = 7

// judged is the costs of the goals and by how much readings break what they have to keep.
func (s *Set) judged(spans spans, values []float64, readings map[string]float64) (costs []float64, broken float64) {
	for i := range s.Aims {
		v, ok := readings[s.Aims[i].Reading]
		if !ok {
			return nil, 0
		}
		costs = append(costs, s.Aims[i].Cost(v))
	}
	for i := range s.Bounds {
		v, ok := readings[s.Bounds[i].Reading]
		if !ok {
			return nil, 0
		}
		broken += max(0, s.Bounds[i].Excess(v)/spans.of(s.Bounds[i].Reading))
	}
	if broken == 0 && !s.keepFurther(values, readings) {
		broken = 1
	}
	return costs, broken
}

// evolution chooses the next generation of real trials; those before are taken anew from what is known.
func (p *Prediction) evolution(most int) (Step, error) {
	planned := p.planned()
	spans := planned.spans()
	var first []creature
	for i := range p.Planned() {
		if p.List[i].Done && p.List[i].Counts {
			costs, broken := planned.judged(spans, p.Values(i), p.List[i].Readings)
			first = append(first, creature{u: p.Scaled(p.Values(i)), costs: costs, broken: broken})
		}
	}
	n := min(crowd(len(p.Axes)), max(4, most/2))
	if len(first) < 4 {
		return Step{}, fmt.Errorf("an evolution begins with four trials of the pattern or more that count, and there are %d", len(first))
	}
	e := &evolution{set: p.Set, rng: rand.New(rand.NewPCG(seed, seed)), values: func(u []float64) ([]float64, float64, bool) {
		values := p.Unscaled(u)
		for i := range p.List {
			if !p.same(p.Values(i), values) {
				continue
			}
			if !p.List[i].Done || !p.List[i].Counts {
				return nil, 0, true
			}
			costs, broken := planned.judged(spans, values, p.List[i].Readings)
			return costs, broken, true
		}
		return nil, 0, false
	}}
	living := survivors(first, n)
	for generation := 1; generation <= most; generation++ {
		next, unknown := e.generation(living)
		if len(unknown) == 0 {
			living = next
			continue
		}
		step := Step{Words: fmt.Sprintf("generation %d", generation)}
		for _, u := range unknown {
			values := p.Unscaled(u)
			if !slices.ContainsFunc(step.Proposals, func(o Proposal) bool { return p.same(o.Values, values) }) {
				step.Proposals = append(step.Proposals, Proposal{Values: values, Why: fmt.Sprintf("generation %d", generation)})
			}
		}
		return step, nil
	}
	return Step{Done: true, Words: "further generations bring nothing new"}, nil
}

// How many live, and how long, in an evolution on surfaces.
const (
	surfaceCrowd       = 60
	surfaceGenerations = 60
)

// PredictedFront is the front of the goals by the surfaces, as values of the parameters, SI, from the least cost of the first goal on.
func (p *Prediction) PredictedFront() ([][]float64, error) {
	keys := p.known()
	fits := make([]*surface.Surface, len(keys))
	for i, key := range keys {
		var err error
		if fits[i], _, err = p.Surface(key); err != nil {
			return nil, err
		}
	}
	spans := p.spans()
	e := &evolution{set: p.Set, rng: rand.New(rand.NewPCG(seed, seed)), values: func(u []float64) ([]float64, float64, bool) {
		readings := make(map[string]float64, len(keys))
		for i, key := range keys {
			readings[key] = fits[i].Value(u)
		}
		costs, broken := p.judged(spans, p.Unscaled(u), readings)
		return costs, broken, true
	}}
	var living []creature
	for _, u := range spread(surfaceCrowd, len(p.Axes)) {
		u = p.Scaled(p.Unscaled(u))
		costs, broken, _ := e.values(u)
		living = append(living, creature{u: u, costs: costs, broken: broken})
	}
	living = survivors(living, surfaceCrowd)
	for range surfaceGenerations {
		living, _ = e.generation(living)
	}
	slices.SortStableFunc(living, func(a, b creature) int { return cmp.Compare(a.costs[0], b.costs[0]) })
	var front [][]float64
	for i := range living {
		if living[i].rank == 0 && living[i].broken == 0 {
			front = append(front, p.Unscaled(living[i].u))
		}
	}
	return front, nil
}

// proposeFront proposes of the front of the surfaces the point that is least known, and the one farthest from the trials.
func (p *Prediction) proposeFront(add func(values []float64, why string) error) error {
	front, err := p.PredictedFront()
	if err != nil || len(front) == 0 {
		return err
	}
	unknown := func(values []float64) (sum float64) {
		for i := range p.Aims {
			if _, d, err := p.At(p.Aims[i].Reading, values); err == nil && d > 0 {
				sum += d / p.span(p.Aims[i].Reading)
			}
		}
		return sum
	}
	places := p.places(nil)
	far := func(values []float64) float64 { return apart(p.Scaled(values), places) }
	most := func(f func([]float64) float64) []float64 {
		return slices.MaxFunc(front, func(a, b []float64) int { return cmp.Compare(f(a), f(b)) })
	}
	if err := add(most(unknown), "the front by the surface, least known here"); err != nil {
		return err
	}
	return add(most(far), "the front by the surface, far from other trials")
}
