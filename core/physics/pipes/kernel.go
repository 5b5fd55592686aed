package pipes

import (
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// Kernel has the terms of a network: at each node the mass that leaves along its bars less what enters there, kg/s, and, where heat goes along,
// the heat, W.
type Kernel struct {
	problem *Problem
	p, t    int     // components of the total pressure and of the temperature, −1 for none
	facets  []int32 // by side
	at      [][]int // by side: its ends
	sets    map[Law]*law.Set
	one     []fem.Point
	// straight says that flows are taken in proportion to pressures.
	straight *bool
	inside   *inside // nil where no pipe lies in another part
	last     slice
	lastKey  [3]int32
}

func newKernel(g *couple.Group, problem *Problem, p int) *Kernel {
	k := &Kernel{problem: problem, p: p, t: -1, facets: g.Facets, at: make([][]int, len(g.Facets)), straight: new(bool)}
	if problem.Warm {
		k.t = p + 1
	}
	side := g.SideOf()
	for i, e := range problem.Ends {
		n := side[e.Facet]
		k.at[n] = append(k.at[n], i)
	}
	k.work()
	return k
}

func (k *Kernel) work() {
	k.sets, k.one, k.last = map[Law]*law.Set{}, []fem.Point{{U: make([]float64, 1), Grad: make([][3]float64, 1), Rate: make([]float64, 1)}}, slice{}
}

// Fork returns a kernel with work memory of its own.
func (k *Kernel) Fork() fem.Kernel {
	out := *k
	out.work()
	return &out
}

// Secant lets flows be in proportion to pressures, or no more: the pressures that follow are those with which a solution is looked for.
func (k *Kernel) Secant(on bool) { *k.straight = on }

// Straight says that the equations are not linear.
func (k *Kernel) Straight() bool { return false }

// Symmetric says that their matrix is, where no heat goes along: each flow follows from the difference of two pressures.
func (k *Kernel) Symmetric() bool { return k.t < 0 && !k.varies() }

func (k *Kernel) varies() bool {
	for _, f := range k.problem.Fluids {
		if f.varies {
			return true
		}
	}
	return false
}

// Descends says that they are the slope of a convex function, the content of the network.
func (k *Kernel) Descends() bool { return k.t < 0 }

// value is that of a law at a point of which the temperature is known.
func (k *Kernel) value(l Law, p *fem.Point, temperature float64) float64 {
	if v, constant := l.Constant(); constant {
		return v
	}
	set := k.sets[l]
	if set == nil {
		set = law.NewSet(l)
		k.sets[l] = set
	}
	k.one[0].X, k.one[0].Time, k.one[0].U[0] = p.X, p.Time, temperature
	set.Run(k.one, 0)
	return set.At(0, 0)
}

// slice is a bar at a point of it, with what flows along.
type slice struct {
	*Bar
	number     int
	set        setting
	from, to   float64 // total pressures at its ends, Pa
	a, b       float64 // temperatures there, K
	mass, grow float64 // kg/s, and by how much more for each Pa
	long       float64 // of the cell, m
	taken      float64 // pressure that it takes, Pa
}

// ends are the values of a component at both ends of the cell of a point.
func ends(p *fem.Point, component int) (a, b float64) {
	// The gradient is along the bar: its slope in the reference cell is half the difference.
	var square, slope float64
	for d := range 3 {
		square += p.Inverse[0][d] * p.Inverse[0][d]
		slope += p.Inverse[0][d] * p.Grad[component][d]
	}
	apart := 2 * slope / square
	a, b = shares(p)
	return p.U[component] - b*apart, p.U[component] + a*apart
}

// shares are the functions of order 1 of both ends at a point, also of a cell of order 2.
func shares(p *fem.Point) (a, b float64) {
	at := p.Functions[1] - p.Functions[0] // its place in the reference cell
	return (1 - at) / 2, (1 + at) / 2
}

// slice finds what flows along the bar of a point.
func (k *Kernel) slice(p *fem.Point) (s slice, ok bool) {
	key := [3]int32{p.Part, p.Nodes[0], p.Nodes[1]}
	if k.last.Bar != nil && k.lastKey == key {
		return k.last, true // another point of the same one
	}
	i, ok := k.problem.of[key]
	if !ok {
		return s, false
	}
	s.Bar, s.number = &k.problem.Bars[i], i
	s.from, s.to = ends(p, k.p)
	if s.a, s.b = s.Fluid.Temperature, s.Fluid.Temperature; k.t >= 0 {
		s.a, s.b = ends(p, k.t)
	}
	for d := range 3 { // ∂ξ/∂x is along the bar, 2 over its length
		s.long += p.Inverse[0][d] * p.Inverse[0][d]
	}
	s.long = 2 / math.Sqrt(s.long)
	k.flows(&s, p)
	k.last, k.lastKey = s, key
	return s, true
}

// Prepare forgets what flowed along the last bar: it did so in another state.
func (k *Kernel) Prepare(int, []fem.Point) error {
	k.last.Bar = nil
	return nil
}

// flows finds what flows along a bar whose ends are known.
func (k *Kernel) flows(s *slice, p *fem.Point) {
	s.set = k.setting(s.Bar, p, (s.a+s.b)/2)
	s.taken = s.from - s.to - s.Fluid.Density*k.problem.Gravity*s.Rise
	if *k.straight {
		s.mass, s.grow = s.about(s.taken, &s.set)
		return
	}
	s.mass, s.grow = s.flow(s.taken, &s.set)
}

// of is a bar of a solution.
func (k *Kernel) of(s *couple.Solution, field, i int) slice {
	return k.sliceOf(i, func(offset int, node int32) float64 {
		return s.State.U[s.System.Equation(field+offset, 0, node)]
	}, &fem.Point{X: s.Mesh.At(k.problem.Bars[i].Nodes[0]), Time: s.State.Time})
}

// sliceOf is a bar with what is at its ends: the total pressure, and where heat goes along with the flow the temperature.
func (k *Kernel) sliceOf(i int, value func(offset int, node int32) float64, p *fem.Point) slice {
	b := &k.problem.Bars[i]
	out := slice{Bar: b, number: i, from: value(0, b.Nodes[0]), to: value(0, b.Nodes[1]), a: b.Fluid.Temperature, b: b.Fluid.Temperature}
	if k.t >= 0 {
		out.a, out.b = value(1, b.Nodes[0]), value(1, b.Nodes[1])
	}
	k.flows(&out, p)
	return out
}

// setting is what the laws of a bar are at a point.
func (k *Kernel) setting(b *Bar, p *fem.Point, temperature float64) setting {
	set := setting{viscosity: b.Fluid.viscosity, opening: 1, speed: 1}
	if b.Fluid.varies && k.t >= 0 {
		set.viscosity = k.value(b.Fluid.Viscosity, p, b.Fluid.within(temperature))
	}
	for _, item := range b.Items {
		if item.Opening != nil {
			set.opening = min(max(0, k.value(item.Opening, p, temperature)), 1)
		}
		if item.Pump != nil && item.Pump.Speed != nil {
			set.speed = max(0, k.value(item.Pump.Speed, p, temperature))
		}
	}
	return set
}

// put adds what each end of a bar gives to its node in the row of a component, and how that changes with what is at both ends of another one.
func put(p *fem.Point, t *fem.Terms, s *slice, row int, a, b float64) {
	// A source s and a flux q along the bar give s·l/2 ∓ q.
	t.Source[row] += (a + b) / s.long
	for d := range 3 {
		t.Flux[row][d] += (b - a) / 2 * along(p, s, d)
	}
}

// along is the direction of the bar of a point.
func along(p *fem.Point, s *slice, d int) float64 { return p.Inverse[0][d] * s.long / 2 }

// slopes adds derivatives of what each end gives by the values of a component at the ends: aa is that of what a gives by the value at a.
func slopes(p *fem.Point, t *fem.Terms, s *slice, row, column int, aa, ab, ba, bb float64) {
	at := t.Index(row, column)
	// u_a = u − N_b·l·g and u_b = u + N_a·l·g with the slope g along the bar.
	na, nb := shares(p)
	na, nb = na*s.long, -nb*s.long
	sourceU, sourceG := (aa+ab+ba+bb)/s.long, ((aa+ba)*nb+(ab+bb)*na)/s.long
	fluxU, fluxG := (ba+bb-aa-ab)/2, ((ba-aa)*nb+(bb-ab)*na)/2
	t.SourceU[at] += sourceU
	for d := range 3 {
		t.SourceGrad[at][d] += sourceG * along(p, s, d)
		t.FluxU[at][d] += fluxU * along(p, s, d)
		for e := range 3 {
			t.FluxGrad[at][d][e] += fluxG * along(p, s, d) * along(p, s, e)
		}
	}
}

// Cell adds the terms of a bar.
func (k *Kernel) Cell(p *fem.Point, t *fem.Terms) error {
	s, ok := k.slice(p)
	if !ok {
		return nil
	}
	put(p, t, &s, k.p, s.mass, -s.mass)
	slopes(p, t, &s, k.p, k.p, s.grow, -s.grow, -s.grow, s.grow)
	if k.t < 0 {
		return nil
	}
	if *k.straight { // what heat does follows from flows that are known
		still := s.conducts()
		put(p, t, &s, k.t, still*(s.a-s.b), still*(s.b-s.a))
		slopes(p, t, &s, k.t, k.t, still, -still, -still, still)
		return nil
	}
	byHeat := 0.0 // of the mass flow by the mean temperature
	if s.Fluid.varies {
		byHeat = k.byViscosity(&s, p)
		slopes(p, t, &s, k.p, k.t, byHeat/2, byHeat/2, -byHeat/2, -byHeat/2)
	}
	k.heat(p, t, &s, byHeat)
	return nil
}

// byViscosity is how the mass flow changes with the mean temperature, by the viscosity: the pressure that is taken stays.
func (k *Kernel) byViscosity(s *slice, p *fem.Point) float64 {
	const h = 0.01 // K
	warmer := s.set
	warmer.viscosity = k.value(s.Fluid.Viscosity, p, s.Fluid.within((s.a+s.b)/2+h))
	before, _ := s.loss(s.mass, &s.set)
	after, _ := s.loss(s.mass, &warmer)
	return -(after - before) / h * s.grow
}

// heat adds what goes along with the flow: from the node before it as warm as that is, to the one behind it less what passes the wall; and what is
// conducted along, which is little and keeps a temperature where nothing flows.
func (k *Kernel) heat(p *fem.Point, t *fem.Terms, s *slice, byHeat float64) {
	c, zero := s.Fluid.Capacity, k.problem.Zero
	coefficient, around := k.around(s, p)
	left, _ := s.warmth(s.mass, coefficient)
	byMass := 0.0 // of what is left
	if m := math.Abs(s.mass); m > 0 {
		byMass = left * coefficient * s.Edge() * s.Length / (m * m * c)
	}
	conducts := s.conducts()
	a, b := conducts*(s.a-s.b), conducts*(s.b-s.a)
	aa, ab, ba, bb := conducts, -conducts, -conducts, conducts
	if s.mass >= 0 {
		end := around + (s.a-around)*left
		a += s.mass * c * (s.a - zero)
		b -= s.mass * c * (end - zero)
		aa += s.mass * c
		ba -= s.mass * c * left
		k.byFlow(p, t, s, c*(s.a-zero), -c*(end-zero)-s.mass*c*(s.a-around)*byMass, byHeat)
	} else {
		end := around + (s.b-around)*left
		b -= s.mass * c * (s.b - zero)
		a += s.mass * c * (end - zero)
		bb -= s.mass * c
		ab += s.mass * c * left
		k.byFlow(p, t, s, c*(end-zero)-s.mass*c*(s.b-around)*byMass, -c*(s.b-zero), byHeat)
	}
	put(p, t, s, k.t, a, b)
	slopes(p, t, s, k.t, k.t, aa, ab, ba, bb)
	if k.problem.Transient && s.Point < 0 {
		store := s.Fluid.Density * c * s.Area * s.Length / s.long
		t.Source[k.t] += store * p.Rate[k.t]
		t.SourceRate[t.Index(k.t, k.t)] += store
	}
}

// dead is the Reynolds number below which next to nothing flows.
const dead = 10

// conducts is how much heat goes along a bar at rest, W/K. At a point it is next to nothing.
func (s *slice) conducts() float64 {
	if s.Point >= 0 {
		return 1e-6 * s.Fluid.Conductivity * s.Area / s.Diameter
	}
	return s.Fluid.Conductivity * s.Area / s.Length
}

// byFlow adds how the heat that both ends give changes with the flow. Where it creeps, as into a dead end, that is much for each pascal and yet
// nothing, as the flow stays what it is.
func (k *Kernel) byFlow(p *fem.Point, t *fem.Terms, s *slice, a, b, byHeat float64) {
	if s.reynolds() < dead {
		return
	}
	slopes(p, t, s, k.t, k.p, a*s.grow, -a*s.grow, b*s.grow, -b*s.grow)
	if byHeat != 0 {
		slopes(p, t, s, k.t, k.t, a*byHeat/2, a*byHeat/2, b*byHeat/2, b*byHeat/2)
	}
}

// around is the coefficient of a wall and the temperature around it.
func (k *Kernel) around(s *slice, p *fem.Point) (coefficient, temperature float64) {
	w := s.Wall
	switch {
	case w == nil || s.Point >= 0:
		return 0, s.Fluid.Temperature
	case w.Inside && w.Coefficient == nil:
		return s.duct(w.long), k.inside.wall[s.number]
	case w.Inside:
		return k.value(w.Coefficient, p, s.Fluid.Temperature), k.inside.wall[s.number]
	case w.Coefficient == nil:
		return 0, s.Fluid.Temperature
	}
	return k.value(w.Coefficient, p, s.Fluid.Temperature), k.value(w.Surroundings, p, s.Fluid.Temperature)
}

// enters is the mass flow into an end, kg/s.
func (k *Kernel) enters(e *End, p *fem.Point) float64 {
	fluid := k.problem.Fluids[e.body]
	m := fluid.Density * k.value(e.Flow, p, fluid.Temperature)
	if e.Out {
		return -m
	}
	return m
}

// Side adds what enters or leaves at an end.
func (k *Kernel) Side(side int, p *fem.Point, t *fem.Terms) error {
	for _, i := range k.at[side] {
		e := &k.problem.Ends[i]
		fluid := k.problem.Fluids[e.body]
		if e.Flow != nil {
			m := k.enters(e, p)
			t.Source[k.p] -= m
			if k.t >= 0 {
				if e.Temperature != nil && m > 0 {
					t.Source[k.t] -= m * fluid.Capacity * (k.value(e.Temperature, p, fluid.Temperature) - k.problem.Zero)
				} else {
					t.Source[k.t] -= m * fluid.Capacity * (p.U[k.t] - k.problem.Zero)
					t.SourceU[t.Index(k.t, k.t)] -= m * fluid.Capacity
				}
			}
		}
		if e.Area > 0 && k.problem.Transient {
			t.Source[k.p] += e.Area / k.problem.Gravity * p.Rate[k.p]
			t.SourceRate[t.Index(k.p, k.p)] += e.Area / k.problem.Gravity
		}
	}
	return nil
}

// Accounts are those of the sentences, of mass and then of heat.
func (k *Kernel) Accounts() int { return 2 * k.problem.accounts }

// Sourced are the bodies through whose walls heat goes.
func (k *Kernel) Sourced() map[int32]bool {
	set := map[int32]bool{}
	for i := range k.problem.Bars {
		if b := &k.problem.Bars[i]; b.Wall != nil && k.t >= 0 {
			set[b.Body] = true
		}
	}
	return set
}

// Entering adds what enters by each sentence: mass, kg/s, and heat above that at which it is counted, W.
func (k *Kernel) Entering(side int, points []fem.Point, weights, sums []float64) error {
	n := k.problem.accounts
	if side < 0 {
		for q := range points {
			s, ok := k.slice(&points[q])
			if !ok || s.Wall == nil {
				continue
			}
			sums[n+s.Wall.account] -= weights[q] / s.long * k.passes(&s, &points[q])
		}
		return nil
	}
	for _, i := range k.at[side] {
		e := &k.problem.Ends[i]
		if e.Area > 0 && k.problem.Transient {
			sums[e.account] -= e.Area / k.problem.Gravity * points[0].Rate[k.p]
		}
		if e.Flow == nil {
			continue
		}
		p, fluid := &points[0], k.problem.Fluids[e.body]
		m := k.enters(e, p)
		sums[e.account] += m
		if k.t >= 0 {
			warm := p.U[k.t]
			if e.Temperature != nil && m > 0 {
				warm = k.value(e.Temperature, p, fluid.Temperature)
			}
			sums[n+e.account] += m * fluid.Capacity * (warm - k.problem.Zero)
		}
	}
	return nil
}

// passes is the heat that a bar gives off through its wall, W.
func (k *Kernel) passes(s *slice, p *fem.Point) float64 {
	coefficient, around := k.around(s, p)
	_, by := s.warmth(s.mass, coefficient)
	if s.mass >= 0 {
		return by * (s.a - around)
	}
	return by * (s.b - around)
}
