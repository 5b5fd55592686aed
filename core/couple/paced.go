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
	nearCells   = 1000. // from a solution for other conditions or other cells
	warmCells   = 1e4   // from a solution of equations like these
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
	nearSteps    = 12 // and of one that rest may do better than
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
	// carriedBelow is the residual below which a flow with its own friction has settled: friction has bends where it is nothing,
	// at which it falls little by little from there on. Above it, from restBelow on, it has where its readings are at rest: they
	// stayed as they were in as many steps as make restSteps whole ones together.
	carriedBelow = 1e-8
	restBelow    = 1e-6
	restSteps    = 2
	// nearBelow is the residual below which a solution for something else is worth beginning with: where walls have moved the
	// stream runs into them, which is harder to mend than rest.
	nearBelow = 0.5
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

	// cold says that it begins from rest, near that it begins with a solution of something else.
	cold, near bool
	// watch is shown the state after each step that led below watchBelow, and says whether what it means stayed as it was in some
	// last ones; it may be nil.
	watch func(steps int) (rest bool, err error)
	parts []float64 // of all steps, how much of each was made
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
	p.fix()
	return p, nil
}

// first is the length of the first step, in cells.
func (p *pacing) first() float64 {
	switch {
	case p.cold:
		return firstCells
	case p.near:
		return nearCells
	}
	return warmCells
}

// solve goes through the artificial time until the residual is below a tolerance. What is not worth going on from, or leads no nearer,
// has not settled, and is better looked for from rest.
func (p *pacing) solve(tolerance float64, progress func(step int, residual float64)) (r *fem.NewtonResult, err error) {
	r = &fem.NewtonResult{}
	cells, before, best, since, patience := p.first(), 0.0, math.Inf(1), 0, plateauSteps
	if p.near {
		patience = nearSteps
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
		rest := false
		if p.watch != nil && !leads && now < watchBelow {
			if rest, err = p.watch(p.whole(restSteps)); err != nil {
				return r, err
			}
		}
		if now < 0.9*best && !(p.near && r.Steps == 0) { // it may get worse before it gets better
			best, since = now, 0
		} else {
			since++
		}
		switch {
		case now <= tolerance || rest && now <= restBelow && len(p.set.Carried) > 0:
			r.Settled, r.Reaction = true, p.residual
			return r, nil
		case p.ctx.Err() != nil:
			return r, p.ctx.Err()
		case math.IsNaN(now) || math.IsInf(now, 0) || r.Steps >= pacedSteps || since > patience || since > 5 && best <= enough || p.near && r.Steps == 0 && now > nearBelow:
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
		if err := p.step(cells, resist, floor, r.Steps == 0 && p.cold, since > 0 && since%stuckSteps == 0); err != nil {
			return r, err
		}
		p.parts = append(p.parts, p.part)
		r.Steps++
	}
}

// whole is how many of the last steps make so many whole ones together; more than there were if all of them do not.
func (p *pacing) whole(count float64) (steps int) {
	for steps = 1; steps <= len(p.parts); steps++ {
		if count -= p.parts[len(p.parts)-steps]; count <= 0 {
			return steps
		}
	}
	return steps
}

// fix sets what is held.
func (p *pacing) fix() {
	for e, fixed := range p.c.Fixed {
		if fixed {
			p.state.U[e] = p.c.Value[e]
		}
	}
}

// leader is the kernel that is found by way of simpler equations, which are those to be solved first then.
func (p *pacing) leader() (Leader, bool) {
	l, ok := p.pace.(Leader)
	if ok = ok && p.cold; ok {
		p.led, ok = l.Lead(p.state)
	}
	return l, ok
}

// follow turns to the equations that simpler ones led to.
func (p *pacing) follow(l Leader) error {
	if err := l.Follow(p.state); err != nil {
		return err
	}
	p.fix()
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
	p.cold = set.From == nil || !slices.ContainsFunc(s.State.U, func(v float64) bool { return v != 0 })
	p.near = set.Near && !p.cold
	if set.Watch != nil {
		p.watch = func(steps int) (bool, error) {
			s.flows, s.Method = nil, "steps"
			s.assembled, s.assembledOf, s.assembledAt = p.residual, s.State, s.State.Time
			defer func() { s.flows, s.assembled, s.Method = nil, nil, "" }()
			if err := s.reactions(&fem.NewtonResult{Reaction: p.residual}); err != nil {
				return false, err
			}
			return set.Watch(s, steps)
		}
	}
	exact := tolerance
	if len(set.Paced.Carried) > 0 {
		exact = carriedBelow
	}
	r, err := p.solve(max(set.Tolerance, exact), set.Progress)
	l.result = p.result
	if r.Steps > 0 {
		l.method = "steps in artificial time, " + p.solver.words(p.result.Iterations)
	}
	if r.Settled {
		l.result.Status = sparse.Converged
	}
	return r, l, err
}
