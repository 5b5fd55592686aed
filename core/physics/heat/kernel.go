package heat

import (
	"errors"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
	"saltkettle/core/physics/convect"
)

// Kernel has the terms of a problem.
type Kernel struct {
	problem *Problem
	group   *couple.Group
	t       int // component of the temperature
	// Conditions on facets, and which act on each side of the group.
	conditions []condition
	at         [][]int
	// Numbers of the sources in each body, and of the contact at each joint.
	sources [][]int
	joints  []int
	volume  []float64 // of the bodies of each source, m³

	// Work memory.
	bodies  []*bodyLaws
	sets    []*law.Set // by condition
	between []*law.Set // by contact
	now     *bodyLaws
	mid     []float64  // the fields within a contact
	held    []*content // by body

	enclosed *enclosed // nil if no radiation is exchanged
	taken    taken
}

// condition is what happens on facets: the heat that leaves per area, W/m², with its
// derivative by the temperature, from the values of the laws.
type condition struct {
	laws       []Law
	bounds     []bound
	area       float64 // of all its facets, m²
	leaving    func(c *condition, s *law.Set, side, point int, p *fem.Point, t float64) (flux, slope float64)
	correlated *Correlated
	up         int // the axis that points up, of a correlation
	radiates   bool
	enclosed   *enclosed // among surfaces
	// outside says by what the range of the correlation was left, film between which
	// temperatures the properties of its fluid were taken.
	outside string
	film    Film
}

// Film is the range of temperatures for which the properties of the fluid of a correlation were
// taken, K.
type Film struct{ Least, Greatest float64 }

// bound is what a law on a surface may be.
type bound struct {
	what  string
	least float64
	most  float64 // 0 for none
}

// bodyLaws are the laws of a body: conductivity along three axes, density, capacity
// and sources.
type bodyLaws struct {
	set      *law.Set
	cos, sin float64
	simple   bool // the same constant conductivity along all axes
	value    float64
	sources  []int // numbers of the sources after the first five laws: totals, then volumes
}

// NewKernel prepares the terms of a problem for component t of a group.
//
// With supplies it takes heat from other physics.
func NewKernel(g *couple.Group, p *Problem, t int, supplies ...couple.Supply) (*Kernel, error) {
	k := &Kernel{problem: p, group: g, t: t, at: make([][]int, len(g.Facets)), sources: make([][]int, len(p.Bodies))}
	k.taken = newTaken(supplies, g.System.Components)
	for i, s := range p.Sources {
		for _, b := range s.Bodies {
			k.sources[b] = append(k.sources[b], i)
		}
		k.volume = append(k.volume, g.VolumeOf(s.Bodies))
	}
	side := g.SideOf()
	add := func(facets []int32, c condition) error {
		c.area = g.AreaOf(facets)
		for _, f := range facets {
			k.at[side[f]] = append(k.at[side[f]], len(k.conditions))
		}
		k.conditions = append(k.conditions, c)
		if c.area == 0 {
			return errors.New("a condition acts on a patch without area")
		}
		return nil
	}
	var err error
	for _, f := range p.Fluxes {
		err = errors.Join(err, add(f.Facets, condition{laws: []Law{f.Total, f.Area}, bounds: []bound{{what: "heat", least: law.NoBound}, {what: "heat flux", least: law.NoBound}}, leaving: entering}))
	}
	up := 2
	if p.Section {
		up = 1
	}
	for _, c := range p.Convections {
		if c.Correlation != nil {
			x := c.Correlation
			err = errors.Join(err, add(c.Facets, condition{laws: []Law{c.Medium, x.Length, x.Second, x.Speed}, correlated: x, up: up, leaving: byCorrelation,
				bounds: []bound{{what: "temperature of the fluid"}, {what: "length"}, {what: "length"}, {what: "speed", least: law.NoBound}}}))
			continue
		}
		err = errors.Join(err, add(c.Facets, condition{laws: []Law{c.Coefficient, c.Medium}, bounds: []bound{{what: "heat-transfer coefficient"}, {what: "temperature of the fluid"}}, leaving: convected}))
	}
	for _, r := range p.Radiations {
		err = errors.Join(err, add(r.Facets, condition{laws: []Law{r.Emissivity, r.Surroundings}, bounds: []bound{{what: "emissivity", most: 1}, {what: "temperature of the surroundings"}}, leaving: radiated, radiates: true}))
	}
	if e := p.Enclosure; e != nil {
		k.enclosed = newEnclosed(g, e, t)
		for i, l := range e.Emissivity {
			var facets []int32
			for n, of := range e.Of {
				if int(of) == i {
					facets = append(facets, e.Facets[n])
				}
			}
			err = errors.Join(err, add(facets, condition{laws: []Law{l}, bounds: []bound{{what: "emissivity", most: 1}}, leaving: exchanged, enclosed: k.enclosed}))
		}
	}
	var contacts [][]int32
	for _, c := range p.Contacts {
		contacts = append(contacts, c.Facets)
	}
	k.joints = g.JointsOf(contacts)
	return k, err
}

func entering(c *condition, s *law.Set, _, q int, _ *fem.Point, _ float64) (flux, slope float64) {
	return -s.At(0, q)/c.area - s.At(1, q), -s.Slope(1, q)
}

func convected(_ *condition, s *law.Set, _, q int, _ *fem.Point, t float64) (flux, slope float64) {
	h, medium := s.At(0, q), s.At(1, q)
	return h * (t - medium), s.Slope(0, q)*(t-medium) + h*(1-s.Slope(1, q))
}

func radiated(_ *condition, s *law.Set, _, q int, _ *fem.Point, t float64) (flux, slope float64) {
	e, around := Boltzmann*s.At(0, q), s.At(1, q)
	difference := t*t*t*t - around*around*around*around
	return e * difference, Boltzmann*s.Slope(0, q)*difference + 4*e*(t*t*t-around*around*around*s.Slope(1, q))
}

// nudge is the difference of temperature by which a correlation is differentiated, K.
const nudge = 1e-3

func byCorrelation(c *condition, s *law.Set, _, q int, p *fem.Point, t float64) (flux, slope float64) {
	at := c.at(s, q, p, t)
	h := c.correlated.Compute(&at).Coefficient
	leaves := func(t float64) float64 {
		at.Surface = t
		return c.correlated.Compute(&at).Coefficient * (t - at.Bulk)
	}
	return h * (t - at.Bulk), (leaves(t+nudge) - leaves(t-nudge)) / (2 * nudge)
}

// at is what a correlation is applied to at a point.
func (c *condition) at(s *law.Set, q int, p *fem.Point, t float64) convect.Case {
	return convect.Case{Fluid: c.correlated.Fluid, Surface: t, Bulk: s.At(0, q), Length: s.At(1, q), Second: s.At(2, q), Speed: s.At(3, q), Up: p.Normal[c.up]}
}

// Fork returns a kernel with work memory of its own.
func (k *Kernel) Fork() fem.Kernel {
	out := *k
	out.mid = nil
	out.taken = newTaken(k.taken.supplies, k.group.System.Components)
	out.bodies, out.sets, out.between = make([]*bodyLaws, len(k.problem.Bodies)), make([]*law.Set, len(k.conditions)), make([]*law.Set, len(k.problem.Contacts))
	return &out
}

// Straight says that the equations are linear.
func (k *Kernel) Straight() bool {
	for b := range k.problem.Bodies {
		if !k.LinearCells(int32(b)) {
			return false
		}
	}
	for i := range k.conditions {
		if !k.conditions[i].linear() {
			return false
		}
	}
	for i := range k.problem.Contacts {
		if k.problem.Contacts[i].varies() {
			return false
		}
	}
	return !k.taken.varies()
}

// Timeless says that the time is in none of the terms.
func (k *Kernel) Timeless() bool {
	for b := range k.problem.Bodies {
		if !law.Timeless(k.lawsOf(int32(b))...) {
			return false
		}
	}
	for i := range k.conditions {
		if !law.Timeless(k.conditions[i].laws...) {
			return false
		}
	}
	for i := range k.problem.Contacts {
		if laws := k.problem.Contacts[i].laws(); !law.Timeless(laws[:]...) {
			return false
		}
	}
	for _, s := range k.taken.supplies {
		if t, ok := s.Kernel.(fem.TimelessKernel); !ok || !t.Timeless() {
			return false
		}
	}
	return true
}

// LinearCells says that the terms of a body are linear.
func (k *Kernel) LinearCells(body int32) bool {
	return !anyUses(k.lawsOf(body)) && !k.taken.variesIn(body)
}

// LinearSide says that the conditions on a side are linear.
func (k *Kernel) LinearSide(number int) bool {
	for _, i := range k.at[number] {
		if !k.conditions[i].linear() {
			return false
		}
	}
	return true
}

// LinearJoint says that what passes a joint is linear.
func (k *Kernel) LinearJoint(number int) bool {
	i := k.joints[number]
	return (i < 0 || !k.problem.Contacts[i].varies()) && !k.taken.variesAt(number)
}

// ByValues says that terms on sides need no gradients.
func (k *Kernel) ByValues() bool { return true }

// linear says that what leaves is linear in the temperature.
func (c *condition) linear() bool {
	return c.correlated == nil && c.enclosed == nil && !c.radiates && !anyUses(c.laws)
}

// varies says that a contact depends on the temperature.
func (c *Contact) varies() bool {
	laws := c.laws()
	return anyUses(laws[:])
}

// anyUses says that a law depends on the temperature.
func anyUses(laws []Law) bool {
	return slices.ContainsFunc(laws, func(l Law) bool { return l != nil && l.Uses(law.Temperature) })
}

// Symmetric says that the matrix of the equations is symmetric: no conductivity
// depends on the temperature, and no radiation comes from elsewhere.
func (k *Kernel) Symmetric() bool {
	if k.enclosed != nil || k.taken.varies() || k.Streams() {
		return false
	}
	for b := range k.problem.Bodies {
		if anyUses(k.problem.Bodies[b].Conductivity[:]) {
			return false
		}
	}
	for i := range k.problem.Contacts {
		if k.problem.Contacts[i].varies() {
			return false
		}
	}
	return true
}

// Places of the laws of a body in its set.
const (
	alongX = iota
	alongY
	alongZ
	density
	capacity
	ofSources // two for each: the total and that per volume
)

func (k *Kernel) lawsOf(body int32) []Law {
	b := &k.problem.Bodies[body]
	list := make([]Law, ofSources)
	for r, l := range b.Conductivity {
		if l == nil {
			l = list[0]
		}
		list[r] = l
	}
	if k.problem.Transient {
		list[density], list[capacity] = b.Density, b.Capacity
	}
	for _, i := range k.sources[body] {
		list = append(list, k.problem.Sources[i].Total, k.problem.Sources[i].Volume)
	}
	return list
}

func (k *Kernel) laws(body int32) *bodyLaws {
	if k.bodies == nil {
		k.bodies = make([]*bodyLaws, len(k.problem.Bodies))
	}
	b := k.bodies[body]
	if b == nil {
		list := k.lawsOf(body)
		turn := k.problem.Bodies[body].Turn
		b = &bodyLaws{set: law.NewSet(list...), cos: math.Cos(turn), sin: math.Sin(turn), sources: k.sources[body]}
		if x, ok := list[alongX].Constant(); ok {
			b.simple, b.value = true, x
			for _, l := range list[:density] {
				y, ok := l.Constant()
				b.simple = b.simple && ok && y == x
			}
		}
		k.bodies[body] = b
	}
	return b
}

// Prepare evaluates all laws at some points of a body or on a side.
func (k *Kernel) Prepare(side int, points []fem.Point) error {
	if side < 0 {
		body := points[0].Part
		b := k.laws(body)
		k.now = b
		b.set.Run(points, k.t)
		for r := range density {
			if err := b.set.Check(r, body, "conductivity", 0, false); err != nil {
				return err
			}
		}
		if k.problem.Transient {
			for r, what := range map[int]string{density: "density", capacity: "heat capacity"} {
				if err := b.set.Check(r, body, what, 0, false); err != nil {
					return err
				}
			}
		}
		for i := range b.sources {
			for r := range 2 {
				if err := b.set.Check(ofSources+2*i+r, body, "heat released", law.NoBound, false); err != nil {
					return err
				}
			}
		}
		return nil
	}
	for _, i := range k.at[side] {
		c := &k.conditions[i]
		if k.sets[i] == nil {
			k.sets[i] = law.NewSet(c.laws...)
		}
		k.sets[i].Run(points, k.t)
		for r, b := range c.bounds {
			if err := k.sets[i].Check(r, -1, b.what, b.least, true); err != nil {
				return err
			}
			if b.most > 0 {
				if err := k.sets[i].CheckMost(r, -1, b.what, b.most); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// tensors returns the conductivity and its derivative at a point.
func (b *bodyLaws) tensors(q int) (k, slope fem.Tensor) {
	if b.simple {
		return fem.Tensor{XX: b.value, YY: b.value, ZZ: b.value}, fem.Tensor{}
	}
	s := b.set
	return fem.Turned([3]float64{s.At(alongX, q), s.At(alongY, q), s.At(alongZ, q)}, b.cos, b.sin),
		fem.Turned([3]float64{s.Slope(alongX, q), s.Slope(alongY, q), s.Slope(alongZ, q)}, b.cos, b.sin)
}

// Cell adds conduction, storage and sources.
func (k *Kernel) Cell(p *fem.Point, t *fem.Terms) error {
	b, a, q := k.now, k.t, p.Number
	aa := t.Index(a, a)
	tensor, slope := b.tensors(q)
	g := p.Grad[a]
	for d, v := range tensor.Times(g) {
		t.Flux[a][d] += v
	}
	m := &t.FluxGrad[aa]
	m[0][0] += tensor.XX
	m[0][1] += tensor.XY
	m[1][0] += tensor.XY
	m[1][1] += tensor.YY
	m[2][2] += tensor.ZZ
	if slope != (fem.Tensor{}) {
		for d, v := range slope.Times(g) {
			t.FluxU[aa][d] += v
		}
	}
	s := b.set
	if k.problem.Transient {
		stored := s.At(density, q) * s.At(capacity, q)
		t.Source[a] += stored * p.Rate[a]
		t.SourceRate[aa] += stored
		t.SourceU[aa] += p.Rate[a] * (s.Slope(density, q)*s.At(capacity, q) + s.At(density, q)*s.Slope(capacity, q))
	}
	for i, n := range b.sources {
		t.Source[a] -= s.At(ofSources+2*i, q)/k.volume[n] + s.At(ofSources+2*i+1, q)
		t.SourceU[aa] -= s.Slope(ofSources+2*i+1, q)
	}
	k.taken.cell(a, p, t)
	if k.taken.streams {
		if more := k.taken.spread(a, p, t); more > 0 {
			tensor.XX, tensor.YY, tensor.ZZ = tensor.XX+more, tensor.YY+more, tensor.ZZ+more
		}
		k.taken.stabilise(a, p, t, tensor, k.problem.Order)
	}
	return nil
}

// Side adds the conditions on a side.
func (k *Kernel) Side(number int, p *fem.Point, t *fem.Terms) error {
	for _, i := range k.at[number] {
		c := &k.conditions[i]
		flux, slope := c.leaving(c, k.sets[i], number, p.Number, p, p.U[k.t])
		t.Source[k.t] += flux
		t.SourceU[t.Index(k.t, k.t)] += slope
	}
	return nil
}

// Joint adds the heat that passes a contact.
func (k *Kernel) Joint(number int, p *fem.Point, other []float64, t *fem.JointTerms) error {
	if err := k.taken.joint(k.t, number, p, other, t); err != nil {
		return err
	}
	i := k.joints[number]
	if i < 0 {
		return nil // the temperature does not jump here
	}
	if k.between[i] == nil {
		laws := k.problem.Contacts[i].laws()
		k.between[i] = law.NewSet(laws[:]...)
	}
	// What depends on the temperature does so on its mean across the contact.
	a := k.t
	mid := *p
	k.mid = append(k.mid[:0], p.U...)
	k.mid[a] = (p.U[a] + other[a]) / 2
	mid.U = k.mid
	s := k.between[i]
	s.Run([]fem.Point{mid}, a)
	if err := errors.Join(s.Check(0, -1, "contact resistance", 0, false), s.Check(1, -1, "conductivity of a layer", 0, false)); err != nil {
		return err
	}
	conducts := s.At(1, 0) / s.At(0, 0)
	slope := (s.Slope(1, 0) - conducts*s.Slope(0, 0)) / s.At(0, 0) / 2
	aa := t.Index(a, a)
	jump := p.U[a] - other[a]
	t.Source[a] += jump * conducts
	t.SourceU[aa] += conducts + jump*slope
	t.SourceOther[aa] += jump*slope - conducts
	return nil
}

// Accounts are the sources, fluxes, convections, radiations and the emissivities of the
// enclosure, in this order, and then what is released by each supply.
func (k *Kernel) Accounts() int {
	return len(k.problem.Sources) + len(k.conditions) + len(k.taken.supplies)
}

// Sourced are the bodies with sources.
func (k *Kernel) Sourced() map[int32]bool {
	on := map[int32]bool{}
	for b, list := range k.sources {
		if len(list) > 0 || k.taken.releasesIn(int32(b)) {
			on[int32(b)] = true
		}
	}
	return on
}

// Entering adds up what each condition brings in, W.
func (k *Kernel) Entering(side int, points []fem.Point, weights, sums []float64) error {
	if k.sets == nil {
		*k = *k.Fork().(*Kernel)
	}
	if err := k.Prepare(side, points); err != nil {
		return err
	}
	if side < 0 {
		if err := k.taken.prepare(points); err != nil {
			return err
		}
	}
	for q, w := range weights {
		if side < 0 {
			for i, n := range k.now.sources {
				sums[n] += w * (k.now.set.At(ofSources+2*i, q)/k.volume[n] + k.now.set.At(ofSources+2*i+1, q))
			}
			k.taken.released(k.t, &points[q], w, sums[k.Accounts()-len(k.taken.supplies):])
			continue
		}
		for _, i := range k.at[side] {
			c := &k.conditions[i]
			p := &points[q]
			flux, _ := c.leaving(c, k.sets[i], side, q, p, p.U[k.t])
			if c.correlated != nil {
				at := c.at(k.sets[i], q, p, p.U[k.t])
				v := c.correlated.Compute(&at)
				if c.outside == "" {
					c.outside = v.Outside
				}
				if c.film.Least == 0 || v.Film < c.film.Least {
					c.film.Least = v.Film
				}
				c.film.Greatest = max(c.film.Greatest, v.Film)
			}
			sums[len(k.problem.Sources)+i] -= w * flux
		}
	}
	return nil
}

// Outside says, by account, how the range of a correlation was left by the solution of
// which the accounts were drawn up, "" where it was not.
func (k *Kernel) Outside() []string {
	out := make([]string, len(k.problem.Sources))
	for i := range k.conditions {
		out = append(out, k.conditions[i].outside)
	}
	return out
}

// Films says, by account, for which temperatures the properties of the fluid of a correlation were
// taken by the same solution; zero where there is none.
func (k *Kernel) Films() []Film {
	out := make([]Film, len(k.problem.Sources))
	for i := range k.conditions {
		out = append(out, k.conditions[i].film)
	}
	return out
}

// leastFlow is the part of what the bodies would conduct at their temperature against absolute
// zero below which no flow can be told from round-off.
const leastFlow = 1e-4

// Scale is the least flow of heat that can be told from round-off, W.
func (k *Kernel) Scale(s *couple.Solution) (float64, error) {
	var sum, volume float64
	err := s.System.EachCell(s.State, nil, func(points []fem.Point, weights []float64) error {
		b := k.laws(points[0].Part)
		b.set.Run(points, k.t)
		for q, w := range weights {
			tensor, _ := b.tensors(q)
			sum += w * tensor.XX * math.Abs(points[q].U[k.t])
			volume += w
		}
		return nil
	})
	if volume == 0 {
		return 0, err
	}
	return leastFlow * sum / math.Cbrt(volume*volume), err
}

// Derive computes the heat flux, −k∇T, W/m².
func (k *Kernel) Derive(points []fem.Point, out [][]float64) error {
	b := k.laws(points[0].Part)
	b.set.Run(points, k.t)
	for i := range points {
		tensor, _ := b.tensors(i)
		v := tensor.Times(points[i].Grad[k.t])
		var square float64
		for d, x := range v {
			out[d][i] = -x
			square += x * x
		}
		out[3][i] = math.Sqrt(square)
	}
	return nil
}
