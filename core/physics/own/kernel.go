package own

import (
	"errors"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// Kernel has the terms of a problem: for test functions v of each equation
//
//	∫ (c·∂u/∂t + V·∇u − s)·v + (D∇u − F)·∇v,
//
// and in bodies in which something carries u along τ(V·∇v) times what of the equation is left without D, with the τ of [couple.StreamTime].
type Kernel struct {
	problem *Problem
	group   *couple.Group
	u, t    int // component of the first unknown, and of the temperature, −1 for none
	varies  bool
	at      [][]int  // by side the entrants
	facets  []int32  // by side
	along   bool     // some equation is on a surface
	own     [][2]int // variables of laws that change while the group is solved, each with its component

	// Work memory.
	bodies map[int32][]*region
	sides  map[int][]*region
	sets   []*law.Set // by entrant
	now    []*region
}

// region is the terms of an equation somewhere, with their laws.
type region struct {
	*Terms
	component int
	set       *law.Set
}

// newKernel prepares the terms of a problem for the components of a group from u on, with the temperature in component t, −1 if it is not solved
// for; varies says that it changes while the group is solved.
func newKernel(g *couple.Group, p *Problem, u, t int, varies bool) (*Kernel, error) {
	k := &Kernel{problem: p, group: g, u: u, t: t, varies: varies && t >= 0, at: make([][]int, len(g.Facets)), facets: g.Facets}
	side := g.SideOf()
	for i, e := range p.Entrants {
		if g.AreaOf(e.Facets) == 0 {
			return nil, errors.New("a condition acts on a patch without area")
		}
		for _, f := range e.Facets {
			k.at[side[f]] = append(k.at[side[f]], i)
		}
	}
	for i := range p.Equations {
		k.along = k.along || p.Equations[i].Facets != nil
	}
	for n, component := range g.System.Named {
		if component >= 0 && !g.System.Fields[g.System.FieldAt(component)].Given {
			k.own = append(k.own, [2]int{law.Concentration + n, component})
		}
	}
	if k.varies {
		k.own = append(k.own, [2]int{law.Temperature, t})
	}
	k.work()
	return k, nil
}

// setOf is a set of laws with their slopes by what changes while the group is solved.
func (k *Kernel) setOf(laws ...Law) *law.Set {
	var by []int
	for _, o := range k.own {
		by = append(by, o[0])
	}
	return law.NewSetBy(by, laws...)
}

// work makes work memory.
func (k *Kernel) work() {
	k.bodies, k.sides, k.sets, k.now = map[int32][]*region{}, map[int][]*region{}, nil, nil
	for _, e := range k.problem.Entrants {
		k.sets = append(k.sets, k.setOf(e.Flux))
	}
}

// Fork returns a kernel with work memory of its own.
func (k *Kernel) Fork() fem.Kernel {
	out := *k
	out.work()
	return &out
}

// region takes the terms of an equation, nil for none, to some others.
func (k *Kernel) region(list []*region, equation int, t *Terms) []*region {
	if t == nil {
		return list
	}
	return append(list, &region{t, k.u + equation, k.setOf(t.laws()...)})
}

// inBody has the terms in a body.
func (k *Kernel) inBody(body int32) []*region {
	list, known := k.bodies[body]
	if !known {
		for i := range k.problem.Equations {
			list = k.region(list, i, k.problem.Equations[i].Bodies[body])
		}
		k.bodies[body] = list
	}
	return list
}

// onSide has those on a side.
func (k *Kernel) onSide(side int) []*region {
	list, known := k.sides[side]
	if !known {
		for i := range k.problem.Equations {
			list = k.region(list, i, k.problem.Equations[i].Facets[k.facets[side]])
		}
		k.sides[side] = list
	}
	return list
}

// depends says that a law changes while the group is solved.
func (k *Kernel) depends(laws ...Law) bool {
	for _, l := range laws {
		for _, o := range k.own {
			if l != nil && l.Uses(o[0]) {
				return true
			}
		}
	}
	return false
}

// linear says that none of some terms changes while the group is solved.
func (k *Kernel) linear(list []*region) bool {
	for _, r := range list {
		if k.depends(r.laws()...) {
			return false
		}
	}
	return true
}

// LinearCells says that the terms of a body are linear.
func (k *Kernel) LinearCells(body int32) bool { return k.linear(k.inBody(body)) }

// LinearSide says that those on a side are.
func (k *Kernel) LinearSide(side int) bool {
	for _, i := range k.at[side] {
		if k.depends(k.problem.Entrants[i].Flux) {
			return false
		}
	}
	return k.linear(k.onSide(side))
}

// LinearJoint says that nothing passes joints.
func (k *Kernel) LinearJoint(int) bool { return true }

// ByValues says that terms on sides need no gradients: those on surfaces do.
func (k *Kernel) ByValues() bool { return !k.along }

// every says that all terms of all equations hold to something.
func (k *Kernel) every(holds func(t *Terms) bool) bool {
	for i := range k.problem.Equations {
		e := &k.problem.Equations[i]
		for _, list := range []map[int32]*Terms{e.Bodies, e.Facets} {
			for _, t := range list {
				if !holds(t) {
					return false
				}
			}
		}
	}
	return true
}

// Straight says that the equations are linear.
func (k *Kernel) Straight() bool {
	for _, e := range k.problem.Entrants {
		if k.depends(e.Flux) {
			return false
		}
	}
	return k.every(func(t *Terms) bool { return !k.depends(t.laws()...) })
}

// Symmetric says that the matrix of the equations is symmetric.
func (k *Kernel) Symmetric() bool { return k.Straight() && !k.Streams() }

// Streams says that something is carried along.
func (k *Kernel) Streams() bool { return !k.every(func(t *Terms) bool { return !t.carries() }) }

// Timeless says that the time is in none of the terms.
func (k *Kernel) Timeless() bool {
	timeless := func(l Law) bool { return l == nil || !l.Uses(law.Moment) }
	for _, e := range k.problem.Entrants {
		if !timeless(e.Flux) {
			return false
		}
	}
	return k.every(func(t *Terms) bool {
		for _, l := range t.laws() {
			if !timeless(l) {
				return false
			}
		}
		return true
	})
}

// Prepare evaluates all laws at some points of a body or on a side.
func (k *Kernel) Prepare(side int, points []fem.Point) error {
	if side >= 0 {
		for _, i := range k.at[side] {
			k.sets[i].Run(points, k.t)
			if err := k.sets[i].Check(0, -1, "amount that enters", law.NoBound, false); err != nil {
				return err
			}
		}
		k.now = k.onSide(side)
	} else {
		k.now = k.inBody(points[0].Part)
	}
	for _, r := range k.now {
		r.set.Run(points, k.t)
		for i := range r.laws() {
			var err error
			switch {
			case i < carried:
				err = r.set.Check(i, points[0].Part, "flow down its slope of "+law.OwnOf(r.component-k.u), 0, true)
			default:
				err = r.set.Check(i, points[0].Part, "equation of "+law.OwnOf(r.component-k.u), law.NoBound, false)
			}
			if err != nil {
				return err
			}
		}
	}
	return nil
}

// slopes calls f for the derivatives of a law in row a by what changes while the group is solved.
func (k *Kernel) slopes(set *law.Set, number, q int, t *fem.Terms, a int, f func(at int, slope float64)) {
	for _, o := range k.own {
		if v := set.SlopeBy(number, o[0], q); v != 0 {
			f(t.Index(a, o[1]), v)
		}
	}
}

// add adds the terms of a region.
func (k *Kernel) add(r *region, p *fem.Point, t *fem.Terms) {
	a, q := r.component, p.Number
	aa := t.Index(a, a)
	for d, g := range p.Grad[a] {
		by := r.set.At(spread+d, q)
		t.Flux[a][d] += by * g
		t.FluxGrad[aa][d][d] += by
		k.slopes(r.set, spread+d, q, t, a, func(at int, slope float64) { t.FluxU[at][d] += slope * g })
		along := r.set.At(carried+d, q)
		t.Source[a] += along * g
		t.SourceGrad[aa][d] += along
		k.slopes(r.set, carried+d, q, t, a, func(at int, slope float64) { t.SourceU[at] += slope * g })
		for i := range r.Besides {
			t.Flux[a][d] -= r.set.At(besides+3*i+d, q)
			k.slopes(r.set, besides+3*i+d, q, t, a, func(at int, slope float64) { t.FluxU[at][d] -= slope })
		}
	}
	for i := range r.Arises {
		t.Source[a] -= r.set.At(r.arises()+i, q)
		k.slopes(r.set, r.arises()+i, q, t, a, func(at int, slope float64) { t.SourceU[at] -= slope })
	}
	if r.Stored != nil && k.problem.Transient {
		c := r.set.At(stored, q)
		t.Source[a] += c * p.Rate[a]
		t.SourceRate[aa] += c
		k.slopes(r.set, stored, q, t, a, func(at int, slope float64) { t.SourceU[at] += slope * p.Rate[a] })
	}
}

// stabilise adds what keeps an unknown that is carried along from swinging from cell to cell.
func (k *Kernel) stabilise(r *region, p *fem.Point, t *fem.Terms) {
	a, q := r.component, p.Number
	var v [3]float64
	var spreads, residual, rate float64
	for d, g := range p.Grad[a] {
		v[d] = r.set.At(carried+d, q)
		spreads += r.set.At(spread+d, q) / 3
		residual += v[d] * g
	}
	for i := range r.Arises {
		residual -= r.set.At(r.arises()+i, q)
	}
	if r.Stored != nil && k.problem.Transient {
		rate = r.set.At(stored, q)
		residual += rate * p.Rate[a]
	}
	tau, _ := couple.StreamTime(p, v, spreads, k.problem.Order)
	if tau == 0 {
		return
	}
	aa := t.Index(a, a)
	for d := range v {
		along := tau * v[d]
		t.Flux[a][d] += along * residual
		t.FluxRate[aa][d] += along * rate
		for e := range v {
			t.FluxGrad[aa][d][e] += along * v[e]
		}
		for i := range r.Arises {
			k.slopes(r.set, r.arises()+i, q, t, a, func(at int, slope float64) { t.FluxU[at][d] -= along * slope })
		}
	}
}

// Cell adds the terms in bodies.
func (k *Kernel) Cell(p *fem.Point, t *fem.Terms) error {
	for _, r := range k.now {
		k.add(r, p, t)
		if r.carries() {
			k.stabilise(r, p, t)
		}
	}
	return nil
}

// Side adds those on surfaces, and what enters.
func (k *Kernel) Side(side int, p *fem.Point, t *fem.Terms) error {
	for _, i := range k.at[side] {
		a := k.u + k.problem.Entrants[i].Equation
		t.Source[a] -= k.sets[i].At(0, p.Number)
		k.slopes(k.sets[i], 0, p.Number, t, a, func(at int, slope float64) { t.SourceU[at] -= slope })
	}
	for _, r := range k.now {
		k.add(r, p, t)
	}
	return nil
}

// Accounts are, by equation, what enters, arises, is stored and carried along, each by the sentence behind it.
func (k *Kernel) Accounts() int { return len(k.problem.Equations) * k.problem.Accounts }

// Sourced are the bodies in which equations hold.
func (k *Kernel) Sourced() map[int32]bool {
	on := map[int32]bool{}
	for i := range k.problem.Equations {
		for b := range k.problem.Equations[i].Bodies {
			on[b] = true
		}
	}
	return on
}

// Entering adds up what enters each equation.
func (k *Kernel) Entering(side int, points []fem.Point, weights, sums []float64) error {
	if err := k.Prepare(side, points); err != nil {
		return err
	}
	n := k.problem.Accounts
	if side >= 0 {
		for _, i := range k.at[side] {
			for q, w := range weights {
				sums[k.problem.Entrants[i].Equation*n+i] += w * k.sets[i].At(0, q)
			}
		}
	}
	for _, r := range k.now {
		own := sums[(r.component-k.u)*n:][:n]
		for q, w := range weights {
			p := &points[q]
			for i, by := range r.ArisesBy {
				own[by] += w * r.set.At(r.arises()+i, q)
			}
			if r.carries() {
				for d, g := range p.Grad[r.component] {
					own[r.CarriedBy] -= w * r.set.At(carried+d, q) * g
				}
			}
			if r.Stored != nil && k.problem.Transient {
				own[r.StoredBy] -= w * r.set.At(stored, q) * p.Rate[r.component]
			}
		}
	}
	return nil
}

// Derive has nothing that follows from the unknowns.
func (k *Kernel) Derive([]fem.Point, [][]float64) error { return nil }
