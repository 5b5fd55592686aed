package couple

import (
	"cmp"
	"context"
	"errors"
	"math"
	"slices"

	"saltkettle/core/fem"
	"saltkettle/core/law"
	"saltkettle/core/sparse"
)

// SolveSettings of [Group.Solve]. The zero value works.
type SolveSettings struct {
	// Straight says that the equations are linear, Symmetric that their matrix is
	// symmetric.
	Straight, Symmetric bool
	// MaxIterations of all linear solves together, and MaxSteps of Newton's method;
	// 0 lets it choose.
	MaxIterations, MaxSteps int
	// Tolerance of the residual, for a solution that another one only begins with; 0 is as small as balances
	// need it.
	Tolerance float64
	// Carried says that the field of the group is carried along by a flow that is given.
	Carried bool
	// Direct says that nothing but a factorisation solves the linear equations.
	Direct bool
	// Bold takes whole steps of Newton's method alone.
	Bold bool
	// Paced, if it is not nil, says that the group is a flow that is solved step by step.
	Paced *Paced
	// DirectUnknowns is up to how many unknowns coupled fields are solved by
	// factorisation at once, and Patience how many iterations a linear solve of larger
	// ones may take before it is; 0 lets it choose.
	DirectUnknowns, Patience int
	// From is what the solution begins with, nil for the starts of the fields.
	From []float64
	// Near says that it is of another shape or other conditions, and not of equations that are nearly these.
	Near bool
	// Polish is that of [fem.NewtonSettings].
	Polish bool
	// Only are the fields that are solved for, nil for all of the group; the others stay as they are in From.
	Only []int
	// Time of the steady state, s, for what is held.
	Time float64
	// Given has the values of the fields that the group does not solve for, by field, as
	// [Solution.Nodal] gives them.
	Given [][]float64
	// Inertia leads through an artificial time in which its terms by rates resist changes; nil for none.
	Inertia fem.Kernel
	// Watch is shown a flow that is solved step by step, from where it is near to a solution on, and says whether what it is
	// watched for stayed as it was in the last steps. It may be nil.
	Watch func(s *Solution, steps int) (rest bool, err error)
	// Progress is called after each iteration. It may be nil.
	Progress func(iteration int, residual float64)
}

// firstArtificial is the length of the first step through an artificial time, s: it soon fits what it is for.
const firstArtificial = 1e-2

// tolerances of the residual: it closes balances to well below 1e-8.
const (
	tolerance = 1e-11
	// enough is where a residual that round-off keeps from falling any further is
	// accepted.
	enough = 1e-9
)

// Solution is the fields of a group at the end of a solution.
type Solution struct {
	*Group
	State  *fem.State
	Kernel fem.Kernel
	// Linear tells of all linear solves together; its status is that of the last.
	Linear sparse.Result
	// Steps of Newton's method, 1 for linear equations, with the relative residual
	// before each and at the end; for a march the steps in time that were made, and
	// those that were rejected.
	Steps     int
	Rejected  int
	Residuals []float64
	// Period, s, of a swing for which there may be no steady state, 0 for none that is known.
	Period float64
	// Settled says that the equations hold to the tolerance, Straight that they are
	// linear.
	Settled, Straight bool
	// Fault is what laws cannot be at the states that Newton's method went to, if that ended
	// it; the state is the last one before.
	Fault *law.Error
	// Method names how the linear equations were solved.
	Method string
	// Held is what enters by each held value, in the order of the fields and of their
	// lists.
	Held []float64
	// HeldSize is the sum of the sizes of what enters by it from place to place: more than
	// Held where as much enters here as leaves there.
	HeldSize []float64
	// Slid is the same by slide and component.
	Slid [][3]float64

	// Swing is how the solution swings about its state, nil if it does not: what is measured is
	// then amplitudes.
	Swing *Swing

	damping  *sparse.CSR    // of a march, nil for none
	onJoints map[int32]bool // nodes

	flows   map[string]*flow // by field and bodies, of the state at flowsAt
	flowsAt float64
	// assembled is the residual of the state assembledOf at assembledAt.
	assembled   []float64
	assembledOf *fem.State
	assembledAt float64
}

// Solve finds the steady state. The solution is usable, with its status, even if it
// has not settled.
func (g *Group) Solve(ctx context.Context, kernel fem.Kernel, set *SolveSettings) (*Solution, error) {
	c := g.System.NewConstraints()
	if err := g.hold(set.Time, c); err != nil {
		return nil, err
	}
	s := g.Begun(kernel, set.Given)
	s.Straight, s.State.Time = set.Straight, set.Time
	if set.From != nil {
		copy(s.State.U, set.From)
	}
	if set.Only != nil {
		g.keepAll(c, s.State.U, set.Only)
	}
	if set.Paced != nil {
		r, l, err := g.solvePaced(ctx, kernel, s, c, set)
		if err := s.finish(ctx, l, r, err); err != nil {
			return nil, err
		}
		return s, s.reactions(r)
	}
	lower, err := g.lowerFirst(ctx, kernel, set, manyUnknowns)
	if err != nil {
		return nil, err
	}
	if lower != nil {
		copy(s.State.U, lower)
	}
	l := g.linear(kernel, c, set)
	newton := fem.NewtonSettings{Bold: set.Bold, Tolerance: cmp.Or(set.Tolerance, tolerance), MaxSteps: set.MaxSteps, Straight: set.Straight, Linear: l.solve, Near: set.Near, Polish: set.Polish}
	switch {
	case set.Inertia != nil:
		mass, err := g.System.Inertia(set.Inertia, s.State)
		if err != nil {
			return nil, err
		}
		newton.Artificial = &fem.Artificial{First: firstArtificial, Mass: mass}
	case l.always && len(l.distant) == 0:
		newton.Again = l.again
	}
	r, err := g.System.Solve(ctx, kernel, s.State, c, &newton)
	if err := s.finish(ctx, l, r, err); err != nil {
		return nil, err
	}
	return s, s.reactions(r)
}

// keepAll holds all unknowns at what they are but those of some fields, and leaves out the relations of others.
func (g *Group) keepAll(c *fem.Constraints, u []float64, but []int) {
	of := g.System.FieldOf()
	for e, f := range of {
		if !slices.Contains(but, f) {
			c.Fixed[e], c.Value[e] = true, u[e]
		}
	}
	c.Relations = slices.DeleteFunc(c.Relations, func(r fem.Relation) bool { return !slices.Contains(but, of[r.Of]) })
}

// Begun is a solution that has only begun: all is as it starts.
func (g *Group) Begun(kernel fem.Kernel, given [][]float64) *Solution {
	s := &Solution{Group: g, Kernel: kernel, State: &fem.State{U: make([]float64, g.System.N), Given: given}}
	g.starts(s.State.U)
	s.Held, s.HeldSize, s.Slid = make([]float64, len(g.held)), make([]float64, len(g.held)), make([][3]float64, len(g.slides))
	return s
}

// starts sets the values with which fields begin.
func (g *Group) starts(u []float64) {
	for i, f := range g.System.FieldOf() {
		u[i] = g.Fields[f].Start
	}
	for f := range g.Fields {
		at := g.Fields[f].StartAt
		if at == nil {
			continue
		}
		for v := range int32(g.System.Grid.NodeCount()) {
			if e := g.System.Equation(f, 0, v); e >= 0 {
				u[e] = at(g.System.Grid.At(v))
			}
		}
	}
}

// finish takes over how a solution went.
func (s *Solution) finish(ctx context.Context, l *linear, r *fem.NewtonResult, err error) error {
	s.Steps, s.Residuals, s.Settled = r.Steps, r.Residuals, r.Settled
	s.Linear, s.Method, s.Period = l.result, l.method, r.Period
	last := math.Inf(1)
	if n := len(s.Residuals); n > 0 {
		last = s.Residuals[n-1]
	}
	switch {
	case err == nil:
	case ctx.Err() != nil && errors.Is(err, ctx.Err()):
		s.Linear.Status = sparse.Stopped
	case errors.Is(err, errSpent):
		s.Linear.Status = sparse.LimitReached
	case errors.Is(err, fem.ErrNotSettled):
		if s.Settled = last <= enough; !s.Settled {
			s.Linear.Status = sparse.LimitReached
			if math.IsNaN(last) || math.IsInf(last, 0) {
				s.Linear.Status = sparse.NotFinite
			}
		}
	case r.Steps > 0 && errors.As(err, &s.Fault):
		s.Settled, s.Linear.Status = false, sparse.LimitReached
	default:
		return err
	}
	return nil
}

// reactions sums what enters by the held values.
func (s *Solution) reactions(r *fem.NewtonResult) error {
	if len(s.held)+len(s.slides) == 0 {
		return nil
	}
	reaction := r.Reaction
	if reaction == nil {
		var err error
		if reaction, err = s.residual(); err != nil {
			return err
		}
	}
	s.enter(reaction)
	return nil
}

// residual is that of all equations at the state: what held unknowns and relations take up.
func (s *Solution) residual() ([]float64, error) {
	out := make([]float64, s.System.N)
	if err := s.System.Assemble(s.Kernel, s.State, out, nil); err != nil {
		return nil, err
	}
	if s.damping != nil && s.State.Speed != nil {
		dying := make([]float64, s.System.N)
		s.damping.MulVec(dying, s.State.Speed)
		for i, v := range dying {
			out[i] += v
		}
	}
	for e, push := range s.Push {
		out[e] -= push
	}
	return out, nil
}

// Assembled is the residual of the equations at the state, which is not to be changed: several readings are sums of it.
func (s *Solution) Assembled() ([]float64, error) {
	if s.assembled == nil || s.assembledOf != s.State || s.assembledAt != s.State.Time {
		out := make([]float64, s.System.N)
		if err := s.System.Assemble(s.Kernel, s.State, out, nil); err != nil {
			return nil, err
		}
		s.assembled, s.assembledOf, s.assembledAt = out, s.State, s.State.Time
	}
	return s.assembled, nil
}

// enter sums what enters by the held values from what held unknowns take up.
func (s *Solution) enter(reaction []float64) {
	if len(s.slides)+len(s.Group.joined) > 0 {
		reaction = slices.Clone(reaction)
	}
	s.unjoined(reaction)
	s.Slid = s.slid(reaction)
	s.Held, s.HeldSize = make([]float64, len(s.held)), make([]float64, len(s.held))
	for i, list := range s.heldEquations() {
		for _, e := range list {
			s.Held[i] += reaction[e]
			s.HeldSize[i] += math.Abs(reaction[e])
		}
	}
}

// heldEquations lists the equations that each condition holds: those of a node belong to
// the last of those that hold it.
func (g *Group) heldEquations() [][]int32 {
	if g.holds != nil {
		return g.holds
	}
	owner := make([]int32, g.System.N)
	for i, h := range g.held {
		for _, v := range h.nodes {
			if e := g.System.Equation(h.field, h.Component, v); e >= 0 {
				owner[e] = int32(i) + 1
			}
		}
	}
	g.holds = make([][]int32, len(g.held))
	for e, i := range owner {
		if i > 0 {
			g.holds[i-1] = append(g.holds[i-1], int32(e))
		}
	}
	return g.holds
}

// fixed are all equations that conditions hold.
func (g *Group) fixed() map[int32]bool {
	out := map[int32]bool{}
	for _, list := range g.heldEquations() {
		for _, e := range list {
			out[e] = true
		}
	}
	return out
}

// HeldFacets are the facets on which a field is held or level.
func (g *Group) HeldFacets(field int) map[int32]bool {
	out := map[int32]bool{}
	for _, h := range g.held {
		if h.field == field {
			for _, k := range h.Facets {
				out[k] = true
			}
		}
	}
	for _, list := range g.Fields[field].Level {
		for _, k := range list {
			out[k] = true
		}
	}
	return out
}

// Clamped are the facets on which all components of a field are held.
func (g *Group) Clamped(field int) map[int32]bool {
	components := map[int32]map[int]bool{}
	for _, h := range g.held {
		if h.field != field {
			continue
		}
		for _, k := range h.Facets {
			if components[k] == nil {
				components[k] = map[int]bool{}
			}
			components[k][h.Component] = true
		}
	}
	out := map[int32]bool{}
	for k, list := range components {
		if len(list) == g.Fields[field].Components {
			out[k] = true
		}
	}
	return out
}

// Entered calls f with what enters by each held value and each slide of a component of a field,
// by the keys of their sentences; size is the sum of the sizes from place to place.
func (s *Solution) Entered(field, component int, f func(key string, value, size float64)) {
	for i, h := range s.held {
		if h.field == field && h.Component == component {
			f(h.Key, s.Held[i], s.HeldSize[i])
		}
	}
	for i := range s.Group.Pushed {
		if p := &s.Group.Pushed[i]; p.Field == field {
			f(p.Key, p.Sum[component], p.Size[component])
		}
	}
	for i := range s.fed {
		if fed := &s.fed[i]; fed.field == field && component == 0 {
			var sum, size float64
			_ = s.feeds(fed, s.State.Time, s.State.Swing, func(_ int32, flow float64) { // it has been found before
				sum, size = sum+flow, size+math.Abs(flow)
			})
			f(fed.Key, sum, size)
		}
	}
	for i := range s.slides {
		if s.slides[i].field == field && component < s.Fields[field].Components {
			f(s.slides[i].key, s.Slid[i][component], 0)
		}
	}
}

// HeldKeys are the keys of the sentences behind held values, in their order.
func (g *Group) HeldKeys() []string {
	var list []string
	for _, h := range g.held {
		list = append(list, h.Key)
	}
	return list
}

// HeldBy lists the equations that a held value holds.
func (s *Solution) HeldBy(i int) []int32 { return s.heldEquations()[i] }

// Distant is a kernel whose terms also depend on the unknowns elsewhere, by what is too
// dense to be kept in the matrix.
type Distant interface {
	// Distant says that there is such a dependence.
	Distant() bool
	// AddDistant adds to dst how the residual changes by it with a change of the unknowns.
	AddDistant(dst, change []float64)
}

// Accountant is a kernel that tells what its conditions bring in.
type Accountant interface {
	// Accounts is how many conditions it has; Sourced the bodies in which some of
	// them act.
	Accounts() int
	Sourced() map[int32]bool
	// Entering adds to sums what enters by each condition at the points of some cells
	// of a body, with side −1, or of a side, where gradients are not known unless its terms there need them.
	Entering(side int, points []fem.Point, weights, sums []float64) error
}

// JointAccountant is one in whose accounts there is what enters at joints.
type JointAccountant interface {
	Accountant
	TakesAtJoints() bool
	EnteringJoint(number int, p *fem.Point, other []float64, weight float64, sums []float64) error
}

// Entering sums what enters by each condition of a kernel.
func (s *Solution) Entering(k Accountant) ([]float64, error) {
	sums := make([]float64, k.Accounts())
	if q, ok := k.(fem.Surveyor); ok {
		if err := q.Survey(s.System, s.State); err != nil {
			return nil, err
		}
	}
	err := s.eachFacet(k, func(n int, points []fem.Point, weights []float64) error { return k.Entering(n, points, weights, sums) })
	if on := k.Sourced(); err == nil && len(on) > 0 {
		err = s.System.EachCell(s.State, on, func(points []fem.Point, weights []float64) error {
			return k.Entering(-1, points, weights, sums)
		})
	}
	if j, ok := k.(JointAccountant); ok && err == nil && j.TakesAtJoints() {
		err = s.System.EachJoint(s.State, func(number int, p *fem.Point, other []float64, weight float64) error {
			return j.EnteringJoint(number, p, other, weight, sums)
		})
	}
	return sums, err
}

// eachFacet calls f for the sides of the facets with conditions, with gradients if the terms of a kernel there
// need them.
func (s *Solution) eachFacet(k Accountant, f func(n int, points []fem.Point, weights []float64) error) error {
	if v, ok := k.(fem.FaceKernel); ok && !v.ByValues() {
		sides := make([]fem.Side, len(s.Facets))
		for n, facet := range s.Facets {
			sides[n] = s.sides[facet]
		}
		return s.System.EachSide(s.State, sides, f)
	}
	all := make([]int32, len(s.Facets))
	for n := range all {
		all[n] = int32(n)
	}
	return s.System.EachFace(s.State, all, 0, func(n int, points []fem.Point, weights []float64, _ []int32, _ [][]float64) error {
		return f(n, points, weights)
	})
}

// Forked is a kernel for a core, with work memory of its own.
func Forked(k Deriver, core int) Deriver {
	if f, ok := k.(fem.Forker); ok && core > 0 {
		if own, ok := f.Fork().(Deriver); ok {
			return own
		}
	}
	return k
}

// Smooth returns quantities that follow from the fields, as a kernel derives them, at
// points. Where the kernel lives in none of the bodies that have a point it is not a number.
func (s *Solution) Smooth(k Deriver, field, quantities int, points *fem.Points) ([][]float64, error) {
	if s.Fields[field].Facets != nil {
		return s.smoothOn(k, field, quantities, points)
	}
	parts := s.System.Fields[field].Parts
	values, err := s.System.Smooth(s.State, parts, points.Cells, len(points.Node), quantities, func(core int) func([]fem.Point, [][]float64) error {
		return Forked(k, core).Derive
	})
	if err != nil || parts == nil {
		return values, err
	}
	for i, body := range points.Part {
		if parts[body] {
			continue
		}
		for _, list := range values {
			list[i] = math.NaN()
		}
	}
	return values, nil
}

// AtNodes returns a component of a field at the nodes of the mesh, NaN where it is not.
func (s *Solution) AtNodes(field, component int) []float64 {
	out := make([]float64, s.Mesh.NodeCount())
	for v := range out {
		out[v] = math.NaN()
		if e := s.System.Equation(field, component, int32(v)); e >= 0 {
			out[v] = s.State.U[e]
		}
	}
	return out
}

// ValuesAt returns what f makes of the equations of a component of a field at points, NaN where
// the field is not; what has functions of order 1 on elements of order 2 is straight between
// corners.
func (s *Solution) ValuesAt(field, component int, points *fem.Points, f func(equation int32) float64) []float64 {
	out := make([]float64, len(points.Node))
	for i, v := range points.Node {
		out[i] = math.NaN()
		if e := s.System.Equation(field, component, v); e >= 0 && s.Touches(field, points.Part[i]) {
			out[i] = f(e)
		}
	}
	if s.Fields[field].Order == 1 && s.Fields[field].Facets == nil {
		s.System.Grid.Straighten(s.Fields[field].Bodies, points.Cells, [][]float64{out})
	}
	return out
}

// Nodal returns the values of a field at all nodes of the elements, at node·components +
// component, 0 where it is not: what other groups are given.
func (s *Solution) Nodal(field int) []float64 {
	n := s.Fields[field].Components
	out := make([]float64, n*s.System.Grid.NodeCount())
	for v := range s.System.Grid.NodeCount() {
		for c := range n {
			if e := s.System.Equation(field, c, int32(v)); e >= 0 {
				out[n*v+c] = s.State.U[e]
			}
		}
	}
	return out
}

// ValueAt is a component of a field at a node of the elements, solved for or given.
func (s *Solution) ValueAt(field, component int, node int32) (value float64, known bool) {
	if e := s.System.Equation(field, component, node); e >= 0 {
		return s.State.U[e], true
	}
	if n := s.Fields[field].Components; field < len(s.State.Given) && s.State.Given[field] != nil {
		return s.State.Given[field][n*int(node)+component], true
	}
	return 0, false
}

// Changed is by how much the unknowns change for a small load on them, with the sign of a source, in the equations about the state.
func (s *Solution) Changed(ctx context.Context, load []float64) ([]float64, error) {
	c := s.System.NewConstraints()
	if err := s.hold(s.State.Time, c); err != nil {
		return nil, err
	}
	if len(c.Relations) > 0 {
		return nil, errors.New("what a small load changes is not known where unknowns follow from each other")
	}
	tangent := s.System.NewMatrix()
	if err := s.System.Assemble(s.Kernel, s.State, make([]float64, s.System.N), tangent); err != nil {
		return nil, err
	}
	b, step := slices.Clone(load), make([]float64, s.System.N)
	tangent.Fix(c.Fixed, step, b)
	symmetric := !slices.ContainsFunc(fem.Each(s.Kernel), func(k fem.Kernel) bool {
		of, ok := k.(interface{ Symmetric() bool })
		return !ok || !of.Symmetric()
	})
	l := s.linear(s.Kernel, c, &SolveSettings{Symmetric: symmetric})
	return step, l.solve(ctx, tangent, step, b, changeTolerance)
}

// changeTolerance is how small the residual of a small change is to be.
const changeTolerance = 1e-12
