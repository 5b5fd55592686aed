package couple

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/fem"
	"saltkettle/core/sparse"
)

// Paced says how a group is solved whose fields are a velocity and a pressure of order 1 alike, and scalars that act on
// them: by steps of Newton's method through an artificial time, each cell at its own pace, by iterations in blocks of the
// unknowns of a node.
type Paced struct {
	Velocity, Pressure int // numbers of these fields
	// Scalars hold as much as the flow has a capacity for. Carried are such without a mass; those that are Positive are nowhere
	// less than nothing: where their equations ask for that they are nothing instead.
	Scalars, Carried, Positive []int
	// Direct says that the equations of a step are factorised, which takes little where space is flat.
	Direct bool
}

// PacedKernel is a kernel of a flow.
type PacedKernel interface {
	fem.Kernel
	// Resist is how the nodes of the grid resist a change of their velocity in the time in which what flows leaves a
	// cell, kg/s, with the mean density, kg/m³, and the greatest speed, m/s, at the state that was surveyed last.
	Resist() (nodes []float64, density, speed float64)
	// Capacity is the mean heat capacity of what flows, J/(kg·K), of the state that was surveyed last.
	Capacity() float64
	// Keep lets what the terms take from the state at nodes stay as it was last, or follow the state again.
	Keep(stays bool)
}

// Leader is a kernel of a flow that is found by way of one of simpler equations for the same unknowns.
type Leader interface {
	// Lead turns a state into one of those, of which the terms are from then on, with the equations of what is held for them; ok
	// says that there is such a way.
	Lead(at *fem.State) (held []int32, ok bool)
	// Follow turns it back, with what was found.
	Follow(at *fem.State) error
}

// How the artificial time goes on: the first step in cells, the least that steps get, by how much they grow at most with the
// residual that falls and at least where nothing hinders them, in how many steps a flow is looked for, and how exactly the
// linear equations of a step are solved.
const (
	firstCells  = 10.
	warmCells   = 1e4 // from a solution of equations like these
	fewestCells = 20.
	growPace    = 5.
	leastPace   = 2.
	// boldest is the longest step of a flow that carries its own friction along until its residual is certain: Newton's method
	// alone leads away where a wake may swing.
	boldest = 200.
	certain = 1e-4
	// halvings is how often a step is halved that leads away from the solution of its own equations. Shorter ones follow one
	// that was halved more than once, and still shorter ones one that led away for all that.
	halvings = 3
	shorter  = 0.5
	shortest = 0.3
	// A residual that falls no more in stuckSteps is at a kink of the equations: the next step is made for all that.
	stuckSteps   = 12
	pacedSteps   = 200
	pacedLinear  = 0.05
	plateauSteps = 40
	// exactly is how exactly they are where they are factorised, and mostLinear how many iterations a step may take.
	exactly    = 1e-6
	mostLinear = 150
	// patient is how many iterations the equations of a step may take for steps to become longer.
	patient = 50
	// keptBelow is the residual below which what the terms take from the state at nodes stays as it is: it is of a
	// solution then, to as much, and the equations with it are solved in a few steps.
	keptBelow = 1e-5
	// mostLogarithm is by how much the logarithm of what is carried changes at most in a step.
	mostLogarithm = 2.
	// watchBelow is the residual below which readings mean something.
	watchBelow = 1e-2
	// followBelow is the residual of simpler equations below which those that they lead to are solved.
	followBelow = 1e-3
)

// pacedSolver solves the linear equations of steps.
type pacedSolver interface {
	// nodes of the grid with unknowns.
	nodes() []int32
	// assemble finds the residual and the matrix at the state.
	assemble() error
	// solve finds the change of the unknowns in a step that the nodes resist, without those that are still.
	solve(resist []float64) (sparse.Result, error)
	words(iterations int) string
}

// pacing is such a solution under way.
type pacing struct {
	*Group
	set    *Paced
	ctx    context.Context
	kernel fem.Kernel
	pace   PacedKernel
	// distant have what stands beside the matrix.
	distant []Distant
	state   *fem.State
	c       *fem.Constraints

	warm bool // the start is such a solution
	// watch is shown the state after each step that led below watchBelow; it may be nil.
	watch func() error
	// slow is the least that the greatest speed was: what goes astray is fast.
	slow float64
	// start is the state before a step, part of which was made; away says that it led away for all that.
	start []float64
	part  float64
	away  bool
	// still are the unknowns that are held, and those that would be less than nothing.
	still []bool
	// led are those that are held while simpler equations are solved.
	led []int32

	solver   pacedSolver
	residual []float64
	change   []float64 // of the unknowns in a step
	field    []int
	node     []int32   // that resists a change of an unknown, as the solver counts them
	positive []int32   // equations
	signed   []bool    // by field, what is carried and not positive
	largest  []float64 // residual, by field
	speed    float64   // the greatest, or one that is likely, m/s
	flows    bool      // it is the greatest
	spread   []float64 // how far scalars are apart, by field, or how much is carried
	density  float64
	result   sparse.Result
	last     sparse.Result // of the last step
}

// newPacing prepares one.
func (g *Group) newPacing(ctx context.Context, kernel fem.Kernel, s *Solution, c *fem.Constraints, set *Paced) (*pacing, error) {
	p := &pacing{Group: g, set: set, ctx: ctx, kernel: kernel, state: s.State, c: c, residual: make([]float64, g.System.N), field: g.System.FieldOf(), largest: make([]float64, len(g.Fields)), spread: make([]float64, len(g.Fields))}
	for _, k := range fem.Each(kernel) {
		if own, ok := k.(PacedKernel); ok {
			p.pace = own
		}
		if d, ok := k.(Distant); ok && d.Distant() {
			p.distant = append(p.distant, d)
		}
	}
	for _, r := range c.Relations {
		if len(r.By) > 0 {
			return nil, fmt.Errorf("couple: a velocity that slides along what is aslant is not solved for in blocks")
		}
		c.Fixed[r.Of], c.Value[r.Of] = true, r.Value
	}
	c.Relations = nil
	p.change, p.still, p.node = make([]float64, g.System.N), make([]bool, g.System.N), make([]int32, g.System.N)
	for e, f := range p.field {
		if slices.Contains(set.Positive, f) {
			p.positive = append(p.positive, int32(e))
		}
	}
	p.signed = make([]bool, len(g.Fields))
	for _, f := range set.Carried {
		p.signed[f] = !slices.Contains(set.Positive, f)
	}
	var err error
	if set.Direct {
		p.solver, err = newPacedFactors(p)
	} else {
		p.solver, err = newPacedBlocks(p)
	}
	if err != nil {
		return nil, err
	}
	for i, v := range p.solver.nodes() {
		for _, f := range g.Own {
			if first := g.System.Equation(f, 0, v); first >= 0 {
				for c := range g.Fields[f].Components {
					p.node[int(first)+c] = int32(i)
				}
			}
		}
	}
	p.pace.Keep(false)
	for e, fixed := range c.Fixed {
		if fixed {
			s.State.U[e] = c.Value[e]
		}
	}
	return p, nil
}

// solve goes through the artificial time until the residual is below a tolerance.
func (p *pacing) solve(tolerance float64, progress func(step int, residual float64)) (r *fem.NewtonResult, err error) {
	r = &fem.NewtonResult{}
	cells, before, best, since := firstCells, 0.0, math.Inf(1), 0
	if p.warm {
		cells = warmCells
	}
	leader, leads := p.leader()
	defer func() {
		if leads { // what was found so far is not of its own equations
			err = cmp.Or(err, p.follow(leader))
		}
	}()
	if err := p.solver.assemble(); err != nil {
		return r, err
	}
	for {
		p.bound()
		resist := p.gauge()
		floor := p.floor(resist)
		now := p.judge(floor)
		r.Residuals = append(r.Residuals, now)
		if progress != nil {
			progress(r.Steps, now)
		}
		if leads && (now < followBelow || since > plateauSteps) {
			leads = false
			if err := p.follow(leader); err != nil {
				return r, err
			}
			cells, before, best, since = firstCells, 0, math.Inf(1), 0
			r.Steps++
			continue
		}
		if p.watch != nil && !leads && now < watchBelow {
			if err := p.watch(); err != nil {
				return r, err
			}
		}
		if now < 0.9*best {
			best, since = now, 0
		} else {
			since++
		}
		switch {
		case now <= tolerance:
			r.Settled, r.Reaction = true, p.residual
			return r, nil
		case p.ctx.Err() != nil:
			return r, p.ctx.Err()
		case math.IsNaN(now) || math.IsInf(now, 0) || r.Steps >= pacedSteps || since > plateauSteps || since > 5 && best <= enough:
			r.Reaction = p.residual
			return r, fem.ErrNotSettled
		}
		if now < keptBelow {
			p.pace.Keep(true)
		}
		if before > 0 {
			cells = p.longer(cells, before, now)
		}
		before = now
		if err := p.step(cells, resist, floor, r.Steps == 0 && !p.warm, since > 0 && since%stuckSteps == 0); err != nil {
			return r, err
		}
		r.Steps++
	}
}

// leader is the kernel that is found by way of simpler equations, which are those to be solved first then.
func (p *pacing) leader() (Leader, bool) {
	l, ok := p.pace.(Leader)
	if ok = ok && !p.warm; ok {
		p.led, ok = l.Lead(p.state)
	}
	return l, ok
}

// follow turns to the equations that simpler ones led to.
func (p *pacing) follow(l Leader) error {
	if err := l.Follow(p.state); err != nil {
		return err
	}
	for e, fixed := range p.c.Fixed {
		if fixed {
			p.state.U[e] = p.c.Value[e]
		}
	}
	clear(p.largest)
	p.led = nil
	return p.solver.assemble()
}

// longer is the length of the next step after one from a residual to another.
func (p *pacing) longer(cells, before, now float64) float64 {
	by := min(growPace, max(leastPace, before/now))
	switch {
	case p.away || p.last.Status != sparse.Converged:
		by = shortest
	case p.part <= 0.25:
		by = shorter
	case p.part < 1 || p.last.Iterations > patient:
		by = 1
	}
	if len(p.set.Carried) > 0 {
		by = min(by, boldest*max(1, certain/now)/cells)
	}
	return max(cells*by, fewestCells)
}

// bound finds which unknowns stay as they are: also those that are nothing and would become less.
func (p *pacing) bound() {
	copy(p.still, p.c.Fixed)
	for _, e := range p.led {
		p.still[e] = true
	}
	for _, e := range p.positive {
		if p.state.U[e] <= 0 && p.residual[e] > 0 {
			p.still[e] = true
		}
	}
}

// judge is the residual of the field that is worst, relative to the largest of the field so far, with what holds it,
// and to a floor.
func (p *pacing) judge(floor []float64) (worst float64) {
	free, held := make([]float64, len(p.largest)), make([]float64, len(p.largest))
	for e, v := range p.residual {
		switch {
		case p.c.Fixed[e]:
			held[p.field[e]] += v * v
		case !p.still[e]:
			free[p.field[e]] += v * v
		}
	}
	for f := range free {
		size := math.Sqrt(free[f])
		if math.IsNaN(size) {
			return size
		}
		if p.largest[f] = max(p.largest[f], size, math.Sqrt(held[f])); len(p.set.Carried) > 0 {
			// It begins with far more that is carried than there is in the end: what that did counts no more.
			p.largest[f] = math.Sqrt(held[f])
		}
		if scale := max(p.largest[f], floor[f]); scale > 0 {
			worst = max(worst, size/scale)
		}
	}
	return worst
}

// gauge finds the greatest speed, and how the nodes of the flow resist a change of it.
func (p *pacing) gauge() (resist []float64) {
	nodes, density, speed := p.pace.Resist()
	for _, f := range p.set.Scalars {
		p.spread[f] = spreadOf(p.state.U, p.field, f)
	}
	for _, f := range p.set.Carried {
		if p.spread[f] = mostOf(p.state.U, p.field, f); p.signed[f] {
			p.spread[f] = spreadOf(p.state.U, p.field, f)
		}
	}
	list := p.solver.nodes()
	resist = make([]float64, len(list))
	for i, node := range list {
		resist[i] = nodes[node]
	}
	p.density, p.speed = density, speed
	if speed > 0 && (p.slow == 0 || speed < p.slow) {
		p.slow = speed
	}
	if p.flows = p.speed > 0; !p.flows {
		// What drives it has not moved it yet: as fast as friction levels it out in a cell.
		var all float64
		for _, r := range resist {
			all += r
		}
		volume := p.volume()
		p.speed = max(all/(density*volume)*math.Cbrt(volume/float64(len(resist))), 1e-12)
	}
	return resist
}

// spreadOf is how far the values of a field are apart, or 1 if they are not.
func spreadOf(u []float64, of []int, field int) float64 {
	lo, hi := math.Inf(1), math.Inf(-1)
	for e, v := range u {
		if of[e] == field {
			lo, hi = min(lo, v), max(hi, v)
		}
	}
	if hi > lo {
		return hi - lo
	}
	return 1
}

// mostOf is the greatest value of a field, or 1 if there is none above nothing.
func mostOf(u []float64, of []int, field int) (most float64) {
	for e, v := range u {
		if of[e] == field {
			most = max(most, v)
		}
	}
	if most > 0 {
		return most
	}
	return 1
}

// floor keeps a residual from being held against one that was small already, as of a start that is nearly a solution:
// it counts as at least what the nodes resist with at the greatest speed, and what flows through as much of the flow as
// belongs to a node. At rest there is nothing of that kind.
func (p *pacing) floor(resist []float64) []float64 {
	list := make([]float64, len(p.largest))
	if !p.flows {
		return list
	}
	force := 0.0
	for _, r := range resist {
		force += r * r
	}
	n := float64(len(resist))
	v, q := p.set.Velocity, p.set.Pressure
	for _, f := range p.set.Carried {
		list[f] = p.spread[f] * math.Sqrt(force) / p.density
	}
	list[v], list[q] = p.slow*math.Sqrt(force), p.slow*math.Pow(p.volume()/n, 2./3)*math.Sqrt(n)
	return list
}

// volume of what flows, m³.
func (p *pacing) volume() (sum float64) {
	for b, v := range p.Volume {
		if p.Lives(p.set.Velocity, int32(b)) {
			sum += v
		}
	}
	return sum
}

// step makes a step of a length in cells, or the part of it that leads nearer to the solution of its equations, which are
// those of the flow and what resists its change; or all of it for all that, as the first one from
// rest. The equations are then those of the new state.
func (p *pacing) step(cells float64, resist, floor []float64, fromRest, all bool) error {
	for i := range resist {
		resist[i] /= cells
	}
	r, err := p.solver.solve(resist)
	if err != nil {
		return err
	}
	p.result.Iterations += r.Iterations
	p.last = r
	p.result.Status, p.result.Residual = r.Status, r.Residual
	// No velocity changes by more than the greatest speed, and a logarithm nowhere by more than a number.
	most := 1.0
	for e, f := range p.field {
		switch {
		case f == p.set.Velocity:
			most = max(most, math.Abs(p.change[e])/p.speed)
		case p.signed[f]:
			p.change[e] = min(mostLogarithm, max(-mostLogarithm, p.change[e]))
		}
	}
	p.start = append(p.start[:0], p.state.U...)
	before := p.apart(floor, resist)
	if p.part = 1 / most; fromRest {
		p.part = 1
	}
	for try := 0; ; try++ {
		for e, v := range p.change {
			p.state.U[e] = p.start[e] + p.part*v
		}
		for _, e := range p.positive {
			p.state.U[e] = max(0, p.state.U[e])
		}
		if err := p.solver.assemble(); err != nil {
			return err
		}
		p.away = !(p.apart(floor, resist) <= before)
		if !p.away || all || fromRest || try == halvings {
			return nil
		}
		p.part /= 2
	}
}

// apart is how far the state is from a solution of the equations of a step, all fields together.
func (p *pacing) apart(floor, resist []float64) float64 {
	sizes, inertia := make([]float64, len(p.largest)), make([]float64, len(p.largest))
	for f := range inertia {
		inertia[f] = p.inertia(f)
	}
	for e, v := range p.residual {
		if f := p.field[e]; !p.still[e] {
			v += inertia[f] * resist[p.node[e]] * (p.state.U[e] - p.start[e])
			sizes[f] += v * v
		}
	}
	sum := 0.0
	for f, size := range sizes {
		if scale := max(p.largest[f], floor[f]); scale > 0 {
			sum += size / (scale * scale)
		}
	}
	return math.Sqrt(sum)
}

// inertia of a field is what the resistance of a node counts for it: as it is for a velocity, by its capacity, or of what has
// no mass over the density; nothing for a pressure.
func (p *pacing) inertia(field int) float64 {
	switch {
	case field == p.set.Velocity:
		return 1
	case slices.Contains(p.set.Carried, field):
		return 1 / p.density
	case slices.Contains(p.set.Scalars, field):
		return p.pace.Capacity()
	}
	return 0
}

// scales make the equations and the unknowns of a field free of dimensions: equations over those of the stream, unknowns
// over its speed, its pressure and how far they are apart.
func (p *pacing) scales(field int) (row, col float64) {
	stream, pressure := p.speed, p.density*p.speed*p.speed
	switch {
	case field == p.set.Velocity:
		return 1 / pressure, stream
	case field == p.set.Pressure:
		return 1 / stream, pressure
	case slices.Contains(p.set.Carried, field):
		return 1 / (stream * p.spread[field]), p.spread[field]
	}
	return 1 / (p.density * max(p.pace.Capacity(), 1) * stream * p.spread[field]), p.spread[field]
}

// beside adds what stands beside the matrix times a change of the unknowns.
func (p *pacing) beside(out, change []float64) {
	for _, d := range p.distant {
		d.AddDistant(out, change)
	}
}

// solvePaced is [Group.Solve] of a flow.
func (g *Group) solvePaced(ctx context.Context, kernel fem.Kernel, s *Solution, c *fem.Constraints, set *SolveSettings) (*fem.NewtonResult, *linear, error) {
	l := &linear{group: g}
	p, err := g.newPacing(ctx, kernel, s, c, set.Paced)
	if err != nil {
		return &fem.NewtonResult{}, l, err
	}
	p.warm = slices.ContainsFunc(s.State.U, func(v float64) bool { return v != 0 }) && set.From != nil
	if set.Watch != nil {
		p.watch = func() error {
			s.flows, s.Method = nil, "steps"
			defer func() { s.flows, s.Method = nil, "" }()
			if err := s.reactions(&fem.NewtonResult{Reaction: p.residual}); err != nil {
				return err
			}
			return set.Watch(s)
		}
	}
	r, err := p.solve(cmp.Or(set.Tolerance, tolerance), set.Progress)
	l.result = p.result
	if r.Steps > 0 {
		l.method = "steps in artificial time, " + p.solver.words(p.result.Iterations)
	}
	if r.Settled {
		l.result.Status = sparse.Converged
	}
	return r, l, err
}
