package species

import (
	"errors"
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// Kernel has the terms of a problem: for test functions v of each species
//
//	∫ (∂c/∂t + u·∇c − s)·v + D∇c·∇v + τ(u·∇v)(∂c/∂t + u·∇c − s)
//
// with the τ of [couple.StreamTime] in cells that are coarse for the flow.
type Kernel struct {
	problem *Problem
	group   *couple.Group
	c, t    int // component of the first species, and of the temperature, −1 for none
	varies  bool
	carry   []couple.Supply
	at      [][]int    // by side the entrants
	parts   []int      // components of all species that a model can have, −1 for none
	round   []fem.Side // of what flows

	// Work memory.
	bodies map[int32]*bodyLaws
	sets   []*law.Set  // by entrant
	jet    *couple.Jet // of the stream
	wide   *couple.Jet // of what its eddies spread
	// spreads is by how much, m²/s, at the point at hand, by species that are there.
	spreads []float64
	now     *bodyLaws
}

// bodyLaws are those of a body: the diffusivity of each species that is there, and what arises.
type bodyLaws struct {
	set     *law.Set
	here    []int // species
	sources []int // after the diffusivities
	of      []int // by source its species, as a place in here
	carried bool
}

// NewKernel prepares the terms of a problem for the components of a group from c on, with the temperature in
// component t, −1 if it is not solved for; varies says that it changes while the group is solved. With
// supplies the species are carried along.
func NewKernel(g *couple.Group, p *Problem, c, t int, varies bool, supplies ...couple.Supply) (*Kernel, error) {
	k := &Kernel{problem: p, group: g, c: c, t: t, varies: varies && t >= 0, carry: supplies, at: make([][]int, len(g.Facets)), parts: make([]int, law.Species)}
	for i := range k.parts {
		k.parts[i] = -1
	}
	for i, s := range p.Species {
		k.parts[s.Number] = c + i
	}
	side := g.SideOf()
	for i, e := range p.Entrants {
		if g.AreaOf(e.Facets) == 0 {
			return nil, errors.New("a condition acts on a patch without area")
		}
		for _, f := range e.Facets {
			k.at[side[f]] = append(k.at[side[f]], i)
		}
	}
	k.work()
	return k, nil
}

// by are the variables by which laws have slopes.
func (k *Kernel) by() []int {
	list := []int{law.Temperature}
	for i := range law.Species {
		list = append(list, law.Concentration+i)
	}
	return list
}

// work makes work memory.
func (k *Kernel) work() {
	k.bodies, k.sets, k.now = map[int32]*bodyLaws{}, nil, nil
	for _, e := range k.problem.Entrants {
		k.sets = append(k.sets, law.NewSetBy(k.by(), e.Flux))
	}
	k.jet, k.wide = couple.NewJet(k.group.System.Components), couple.NewJet(k.group.System.Components)
	k.carry, k.spreads = append([]couple.Supply(nil), k.carry...), make([]float64, len(k.problem.Species))
}

// Fork returns a kernel with work memory of its own.
func (k *Kernel) Fork() fem.Kernel {
	out := *k
	out.work()
	return &out
}

// Bind takes from what stands for the kernels that supply.
func (k *Kernel) Bind(of func(fem.Kernel) fem.Kernel) {
	for i, s := range k.carry {
		k.carry[i] = s.Bound(of)
	}
}

// laws of a body.
func (k *Kernel) laws(body int32) *bodyLaws {
	if b, ok := k.bodies[body]; ok {
		return b
	}
	b := &bodyLaws{}
	var list []Law
	for i := range k.problem.Species {
		if d, is := k.problem.Species[i].Diffusivity[body]; is {
			b.here, list = append(b.here, i), append(list, d)
		}
	}
	for i, s := range k.problem.Sources {
		for at, own := range b.here {
			if own == s.Species && s.Bodies[body] {
				b.sources, b.of, list = append(b.sources, i), append(b.of, at), append(list, s.Rate)
			}
		}
	}
	for _, s := range k.carry {
		any, _ := s.Kernel.SuppliesIn(s.Quantity, body)
		b.carried = b.carried || any
	}
	b.set = law.NewSetBy(k.by(), list...)
	k.bodies[body] = b
	return b
}

// depends says that a law changes while the group is solved.
func (k *Kernel) depends(l Law) bool {
	return varies(l) || k.varies && l != nil && l.Uses(law.Temperature)
}

// Straight says that the equations are linear.
func (k *Kernel) Straight() bool {
	for _, s := range k.carry {
		if s.Varies {
			return false
		}
	}
	for i := range k.problem.Species {
		for b := range k.problem.Species[i].Diffusivity {
			if !k.LinearCells(b) {
				return false
			}
		}
	}
	for _, e := range k.problem.Entrants {
		if k.depends(e.Flux) {
			return false
		}
	}
	return true
}

// Symmetric says that the matrix of the equations is symmetric.
func (k *Kernel) Symmetric() bool { return len(k.carry) == 0 && k.Straight() }

// Streams says that what is dissolved is carried along.
func (k *Kernel) Streams() bool { return len(k.carry) > 0 }

// LinearCells says that the terms of a body are linear.
func (k *Kernel) LinearCells(body int32) bool {
	for _, s := range k.carry {
		if any, varies := s.Kernel.SuppliesIn(s.Quantity, body); s.Varies && any && varies {
			return false
		}
	}
	for i := range k.problem.Species {
		if k.depends(k.problem.Species[i].Diffusivity[body]) {
			return false
		}
	}
	for _, s := range k.problem.Sources {
		if s.Bodies[body] && k.depends(s.Rate) {
			return false
		}
	}
	return true
}

// LinearSide says that the conditions on a side are linear.
func (k *Kernel) LinearSide(number int) bool {
	for _, i := range k.at[number] {
		if k.depends(k.problem.Entrants[i].Flux) {
			return false
		}
	}
	return true
}

// Timeless says that the time is in none of the terms.
func (k *Kernel) Timeless() bool {
	for _, s := range k.carry {
		if t, ok := s.Kernel.(fem.TimelessKernel); !ok || !t.Timeless() {
			return false
		}
	}
	for i := range k.problem.Species {
		for _, d := range k.problem.Species[i].Diffusivity {
			if !law.Timeless(d) {
				return false
			}
		}
	}
	for _, s := range k.problem.Sources {
		if !law.Timeless(s.Rate) {
			return false
		}
	}
	for _, e := range k.problem.Entrants {
		if !law.Timeless(e.Flux) {
			return false
		}
	}
	return true
}

// LinearJoint says that nothing passes joints.
func (k *Kernel) LinearJoint(int) bool { return true }

// ByValues says that terms on sides need no gradients.
func (k *Kernel) ByValues() bool { return true }

// Prepare evaluates all laws at some points of a body or on a side.
func (k *Kernel) Prepare(side int, points []fem.Point) error {
	if side >= 0 {
		for _, i := range k.at[side] {
			k.sets[i].Run(points, k.t)
			if err := k.sets[i].Check(0, -1, "amount that enters", law.NoBound, false); err != nil {
				return err
			}
		}
		return nil
	}
	body := points[0].Part
	k.now = k.laws(body)
	b := k.now
	if len(b.here) == 0 {
		return nil
	}
	b.set.Run(points, k.t)
	for i := range b.here {
		if err := b.set.Check(i, body, "diffusivity", 0, true); err != nil {
			return err
		}
	}
	for i := range b.sources {
		if err := b.set.Check(len(b.here)+i, body, "amount that arises", law.NoBound, false); err != nil {
			return err
		}
	}
	return nil
}

// stream is the velocity at a point in the jet.
func (k *Kernel) stream(p *fem.Point) (u [3]float64) {
	k.jet.Reset()
	for _, s := range k.carry {
		s.Kernel.Supply(s.Quantity, p, k.jet)
	}
	return k.jet.Value
}

// Cell adds what is stored, carried, spread and what arises.
func (k *Kernel) Cell(p *fem.Point, t *fem.Terms) error {
	b, q := k.now, p.Number
	if len(b.here) == 0 {
		return nil
	}
	var u [3]float64
	if b.carried {
		u = k.stream(p)
	}
	for i, s := range b.here {
		a := k.c + s
		aa := t.Index(a, a)
		d := b.set.At(i, q)
		for e, g := range p.Grad[a] {
			t.Flux[a][e] += d * g
			t.FluxGrad[aa][e][e] += d
		}
		k.slopes(b.set, i, q, t, a, func(at int, slope float64) {
			for e, g := range p.Grad[a] {
				t.FluxU[at][e] += slope * g
			}
		})
		if k.problem.Transient {
			t.Source[a] += p.Rate[a]
			t.SourceRate[aa]++
		}
		if b.carried {
			for e, g := range p.Grad[a] {
				t.Source[a] += u[e] * g
				t.SourceGrad[aa][e] += u[e]
				for other := range k.jet.U {
					t.SourceU[t.Index(a, other)] += k.jet.U[other][e] * g
				}
			}
		}
	}
	for i, at := range b.of {
		a := k.c + b.here[at]
		law := len(b.here) + i
		t.Source[a] -= b.set.At(law, q)
		k.slopes(b.set, law, q, t, a, func(at int, slope float64) { t.SourceU[at] -= slope })
	}
	if b.carried {
		k.spread(p, t)
		k.stabilise(p, t, u)
	}
	return nil
}

// spread adds how the eddies of what carries species spread them.
func (k *Kernel) spread(p *fem.Point, t *fem.Terms) {
	for i, s := range k.now.here {
		a, by := k.c+s, k.eddies(p, k.now.set.At(i, p.Number))
		if k.spreads[i] = by; by == 0 {
			continue
		}
		for d, slope := range p.Grad[a] {
			t.Flux[a][d] += by * slope
			t.FluxGrad[t.Index(a, a)][d][d] += by
			for b := range k.wide.U {
				t.FluxU[t.Index(a, b)][d] += k.wide.U[b][0] * slope
			}
		}
	}
}

// eddies is by how much those of what carries a species spread it at a point beside its diffusivity, m²/s, with its derivatives
// in a jet.
func (k *Kernel) eddies(p *fem.Point, diffusivity float64) float64 {
	k.wide.Reset()
	for _, s := range k.carry {
		if by, ok := s.Kernel.(couple.Spreader); ok {
			by.Spread(p, diffusivity, k.wide)
		}
	}
	return k.wide.Value[0]
}

// slopes calls f for the derivatives of a law in row a by what changes while the group is solved.
func (k *Kernel) slopes(set *law.Set, number, q int, t *fem.Terms, a int, f func(at int, slope float64)) {
	if k.varies {
		if v := set.Slope(number, q); v != 0 {
			f(t.Index(a, k.t), v)
		}
	}
	for s, component := range k.parts {
		if component < 0 {
			continue
		}
		if v := set.SlopeBy(number, law.Concentration+s, q); v != 0 {
			f(t.Index(a, component), v)
		}
	}
}

// stabilise adds τ(u·∇v) times the residual of each species at a point of a body with a flow.
func (k *Kernel) stabilise(p *fem.Point, t *fem.Terms, u [3]float64) {
	b, q := k.now, p.Number
	for i, s := range b.here {
		a := k.c + s
		aa := t.Index(a, a)
		tau, slower := couple.StreamTime(p, u, b.set.At(i, q)+k.spreads[i], k.problem.Order)
		if tau == 0 {
			continue
		}
		residual := 0.0
		for e, g := range p.Grad[a] {
			residual += u[e] * g
		}
		if k.problem.Transient {
			residual += p.Rate[a]
		}
		for n, at := range b.of {
			if at == i {
				residual -= b.set.At(len(b.here)+n, q)
			}
		}
		for e := range 3 {
			along := tau * u[e]
			t.Flux[a][e] += along * residual
			for f := range 3 {
				t.FluxGrad[aa][e][f] += along * u[f]
			}
			if k.problem.Transient {
				t.FluxRate[aa][e] += along
			}
			for other := range k.jet.U {
				// The velocity within the residual and that of the test function.
				sum := 0.0
				for f, g := range p.Grad[a] {
					sum += k.jet.U[other][f] * g
				}
				t.FluxU[t.Index(a, other)][e] += along*sum + tau*k.jet.U[other][e]*residual
			}
			k.slopes(b.set, i, q, t, a, func(at int, slope float64) { t.FluxU[at][e] += slower * slope * u[e] * residual })
			for n, at := range b.of {
				if at == i {
					k.slopes(b.set, len(b.here)+n, q, t, a, func(at int, slope float64) { t.FluxU[at][e] -= along * slope })
				}
			}
		}
	}
}

// Side adds what enters on a side.
func (k *Kernel) Side(number int, p *fem.Point, t *fem.Terms) error {
	for _, i := range k.at[number] {
		a := k.c + k.problem.Entrants[i].Species
		t.Source[a] -= k.sets[i].At(0, p.Number)
		k.slopes(k.sets[i], 0, p.Number, t, a, func(at int, slope float64) { t.SourceU[at] -= slope })
	}
	return nil
}

// accounts is how many there are of a species: sources, entrants, and what is carried.
func (k *Kernel) accounts() int { return len(k.problem.Sources) + len(k.problem.Entrants) + 1 }

// Accounts are, by species, the sources, the entrants, and what the flow brings and takes away.
func (k *Kernel) Accounts() int { return len(k.problem.Species) * k.accounts() }

// Sourced are the bodies where something arises or is carried.
func (k *Kernel) Sourced() map[int32]bool {
	on := map[int32]bool{}
	for i := range k.problem.Species {
		for b := range k.problem.Species[i].Diffusivity {
			if l := k.laws(b); l.carried || len(l.sources) > 0 {
				on[b] = true
			}
		}
	}
	return on
}

// Entering adds up what enters of each species, mol/s.
func (k *Kernel) Entering(side int, points []fem.Point, weights, sums []float64) error {
	if err := k.Prepare(side, points); err != nil {
		return err
	}
	m := k.accounts()
	if side >= 0 {
		for _, i := range k.at[side] {
			for q, w := range weights {
				sums[k.problem.Entrants[i].Species*m+len(k.problem.Sources)+i] += w * k.sets[i].At(0, q)
			}
		}
		return nil
	}
	b := k.now
	if b.carried {
		for _, s := range k.carry {
			if err := s.Kernel.Prepare(-1, points); err != nil {
				return err
			}
		}
	}
	for q, w := range weights {
		for i, at := range b.of {
			sums[b.here[at]*m+b.sources[i]] += w * b.set.At(len(b.here)+i, q)
		}
		if !b.carried {
			continue
		}
		u := k.stream(&points[q])
		for _, s := range b.here {
			for e, g := range points[q].Grad[k.c+s] {
				sums[s*m+m-1] -= w * u[e] * g
			}
		}
	}
	return nil
}

// Gains is how fast the amount of each species grows, mol/s.
func (k *Kernel) Gains(s *couple.Solution) ([]float64, error) {
	sums := make([]float64, len(k.problem.Species))
	err := s.System.EachCell(s.State, nil, func(points []fem.Point, weights []float64) error {
		for _, i := range k.laws(points[0].Part).here {
			for q, w := range weights {
				sums[i] += w * points[q].Rate[k.c+i]
			}
		}
		return nil
	})
	return sums, err
}

// Carried is how much of each species the flow carries into bodies and out of them, mol/s.
func (k *Kernel) Carried(s *couple.Solution) ([]float64, error) {
	sums := make([]float64, len(k.problem.Species))
	if len(k.carry) == 0 {
		return sums, nil
	}
	if k.round == nil {
		for f := range s.Mesh.Facets {
			m := &s.Mesh.Facets[f]
			here, beyond := k.laws(m.Body).carried, m.Other >= 0 && k.laws(m.OtherBody).carried
			if here != beyond {
				k.round = append(k.round, s.Side(int32(f), !here))
			}
		}
	}
	err := k.across(s, k.round, func(p *fem.Point, through float64) {
		for i := range sums {
			sums[i] += math.Abs(through * p.U[k.c+i])
		}
	})
	return sums, err
}

// across calls f for points on sides with how much of a fluid passes there, m³/s.
func (k *Kernel) across(s *couple.Solution, sides []fem.Side, f func(p *fem.Point, through float64)) error {
	return s.System.EachSide(s.State, sides, func(_ int, points []fem.Point, weights []float64) error {
		if !k.laws(points[0].Part).carried {
			return nil
		}
		for _, s := range k.carry {
			if err := s.Kernel.Prepare(-1, points); err != nil {
				return err
			}
		}
		for q, w := range weights {
			u, n := k.stream(&points[q]), points[q].Normal
			f(&points[q], w*(u[0]*n[0]+u[1]*n[1]+u[2]*n[2]))
		}
		return nil
	})
}

// Derive computes the derived quantities, of which there are none.
func (k *Kernel) Derive([]fem.Point, [][]float64) error { return nil }
