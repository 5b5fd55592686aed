package couple

import (
	"context"
	"errors"
	"slices"

	"saltkettle/core/fem"
	"saltkettle/core/sparse"
)

// MarchSettings of [Group.March].
type MarchSettings struct {
	SolveSettings
	// End of the time, s, the tolerance of a step, and the longest one, s; 0 means no bound.
	End, Tolerance, Longest float64
	// Breaks are those of [fem.TransientSettings], Missed likewise.
	Breaks []float64
	Missed func(s *Solution, step *fem.Step) (float64, error)
	// Start sets out to what a component of a field that changes is when time begins, at places in a
	// body. At nodes that bodies share it is that of the later one.
	Start func(field, component int, body int32, x [][3]float64, out []float64) error
	// GoesOn says that it is where another run ended: then nothing begins steady.
	GoesOn bool
	// Jump is called when held values jump, with the state before and the solution after.
	// It may be nil.
	Jump func(before []float64, s *Solution) error
	// Locate says that the march is to end within a step, and when. It may be nil.
	Locate func(s *Solution, step *fem.Step) (at float64, ends bool)
	// Moment is called at the start, with no step, and after every step with the solution
	// there; it may end the march by returning true. The time of the state is a little
	// before the end of the step, where data may jump.
	Moment func(s *Solution, step *fem.Step) (stop bool)
	// Resume and Checkpoint are those of [fem.TransientSettings]. A march that goes on
	// neither asks for the start nor calls Moment there.
	Resume     *fem.Checkpoint
	Checkpoint func(c *fem.Checkpoint)
}

// marchTolerance is that of Newton's method within a step: the account of the whole run
// closes to about as much.
const marchTolerance = 1e-7

// March follows the fields through time. Those that change at a rate of first order are given at their
// start; those with inertia begin at rest, and those that do not
// change follow at once. The solution that it returns is that of the last moment.
func (g *Group) March(ctx context.Context, kernel fem.Kernel, set *MarchSettings) (*Solution, error) {
	if !slices.ContainsFunc(g.Own, func(f int) bool { return g.Fields[f].moves() }) {
		return nil, errors.New("couple: no field of the group changes in time")
	}
	s := &Solution{Group: g, Kernel: kernel, State: &fem.State{U: make([]float64, g.System.N), Given: set.Given}, Straight: set.Straight}
	c := g.System.NewConstraints()
	l := g.linear(kernel, c, &set.SolveSettings)
	l.progress, l.repeated = nil, true
	newton := fem.NewtonSettings{Bold: set.Bold, Polish: set.Polish, Tolerance: marchTolerance, MaxSteps: set.MaxSteps, Straight: set.Straight, Linear: l.solve}
	if set.Resume == nil {
		if err := g.setOut(ctx, s, c, &newton, set); err != nil {
			return nil, err
		}
		if set.Moment != nil && set.Moment(s, nil) {
			return s, nil
		}
	}
	var failed error
	changes, second := make([]bool, len(g.Fields)), make([]bool, len(g.Fields))
	for i := range changes {
		changes[i], second[i] = g.Fields[i].moves(), g.Fields[i].Inertial
	}
	damping, err := g.damping(kernel, s.State)
	if err != nil {
		return nil, err
	}
	s.damping = damping
	r, err := g.System.March(ctx, kernel, s.State, c, &fem.TransientSettings{
		Newton: newton, End: set.End, Tolerance: set.Tolerance, FirstStep: set.End / 1e4, LongestStep: set.Longest,
		Bound:   slices.ContainsFunc(g.Own, func(f int) bool { return g.Fields[f].Multiplier }),
		Changes: changes, Second: second, Damping: damping, Breaks: set.Breaks, Resume: set.Resume, Checkpoint: set.Checkpoint,
		Missed: func(step *fem.Step) float64 {
			if set.Missed == nil || failed != nil {
				return 0
			}
			var missed float64
			missed, failed = set.Missed(s, step)
			return missed
		},
		Constrain: func(time float64, c *fem.Constraints) {
			if err := g.hold(time, c); err != nil && failed == nil {
				failed = err
			}
		},
		Jump: func(before []float64) error {
			if set.Jump == nil || failed != nil {
				return failed
			}
			return set.Jump(before, s)
		},
		Locate: func(step *fem.Step) (float64, bool) {
			if failed != nil || set.Locate == nil {
				return step.To, failed != nil
			}
			return set.Locate(s, step)
		},
		Step: func(step *fem.Step) bool {
			s.Linear, s.Method = l.result, l.method
			s.State.Time = step.Stages[len(step.Stages)-1].Time
			return failed != nil || set.Moment != nil && set.Moment(s, step)
		},
	})
	if failed != nil {
		return nil, failed
	}
	if r != nil {
		s.Steps, s.Rejected = r.Accepted, r.Rejected
	}
	how := &fem.NewtonResult{Steps: s.Steps, Settled: err == nil}
	if err != nil && (errors.Is(err, fem.ErrStepTooSmall) || errors.Is(err, fem.ErrNotSettled)) {
		how.Residuals = []float64{1}
		err = errors.Join(err, fem.ErrNotSettled)
	}
	if err := s.finish(ctx, l, how, err); err != nil {
		return nil, err
	}
	return s, s.reactions(how)
}

// setOut makes the state when time begins.
func (g *Group) setOut(ctx context.Context, s *Solution, c *fem.Constraints, newton *fem.NewtonSettings, set *MarchSettings) error {
	if err := g.begin(s.State.U, set); err != nil {
		return err
	}
	if err := g.follow(ctx, s, c, newton, set); err != nil {
		return err
	}
	if err := g.hold(0, c); err != nil {
		return err
	}
	for e, fixed := range c.Fixed {
		if fixed {
			s.State.U[e] = c.Value[e]
		}
	}
	return nil
}

// EachStage calls f with the solution at the stages of a step and how long each counts, s:
// what enters there, times these, is what enters in the step.
//
// Of equations that are linear and the same at all times it calls f once, with the mean of the stages and the whole
// length of the step: what enters is linear, too.
func (s *Solution) EachStage(step *fem.Step, f func(s *Solution, weight float64) error) error {
	now := s.State
	defer func() { s.State = now }()
	if s.Straight && fem.Timeless(s.Kernel) {
		mean := meanOf(step)
		s.State = &fem.State{U: mean.U, Rate: mean.Rate, Time: mean.Time, Given: now.Given}
		s.enter(mean.Reaction)
		return f(s, mean.Weight)
	}
	for _, g := range step.Stages {
		s.State = &fem.State{U: g.U, Rate: g.Rate, Time: g.Time, Given: now.Given}
		s.enter(g.Reaction)
		if err := f(s, g.Weight); err != nil {
			return err
		}
	}
	return nil
}

// meanOf is the mean of the stages of a step by their weights, with the whole weight.
func meanOf(step *fem.Step) fem.Stage {
	n := len(step.After)
	mean := fem.Stage{U: make([]float64, n), Rate: make([]float64, n), Reaction: make([]float64, n)}
	for _, g := range step.Stages {
		mean.Weight += g.Weight
	}
	for _, g := range step.Stages {
		share := g.Weight / mean.Weight
		mean.Time += share * g.Time
		for i := range n {
			mean.U[i] += share * g.U[i]
			mean.Rate[i] += share * g.Rate[i]
			mean.Reaction[i] += share * g.Reaction[i]
		}
	}
	return mean
}

// Within is the state at a time within a step.
func (s *Solution) Within(step *fem.Step, time float64) *fem.State {
	at := &fem.State{U: make([]float64, len(step.After)), Rate: make([]float64, len(step.After)), Time: time, Given: s.State.Given}
	field := s.System.FieldOf()
	step.At(time, func(i int) bool { return s.Fields[field[i]].moves() }, at.U)
	x := (time - step.From) / (step.To - step.From)
	for i, r := range step.RateAfter {
		at.Rate[i] = r
		if step.RateBefore != nil {
			at.Rate[i] = step.RateBefore[i] + x*(r-step.RateBefore[i])
		}
	}
	return at
}

// begin sets the state when time begins.
func (g *Group) begin(u []float64, set *MarchSettings) error {
	g.starts(u)
	for _, f := range g.Own {
		for c := 0; g.Fields[f].Changes && c < g.Fields[f].Components; c++ {
			if err := g.Fill(u, f, c, set.Start); err != nil {
				return err
			}
		}
	}
	return nil
}

// Fill sets a component of a field among unknowns to what start says of places in a body; out is 0 before.
func (g *Group) Fill(u []float64, field, component int, start func(field, component int, body int32, x [][3]float64, out []float64) error) error {
	var equations []int32
	var places [][3]float64
	var values []float64
	seen := make([]int32, g.System.Grid.NodeCount()) // by the last body, from 1
	for body := range int32(len(g.Volume)) {
		equations, places = equations[:0], places[:0]
		g.eachCellOf(body, func(nodes []int32) {
			for _, v := range nodes {
				if seen[v] > body || !g.Touches(field, body) {
					continue
				}
				seen[v] = body + 1
				if e := g.System.Equation(field, component, v); e >= 0 {
					equations, places = append(equations, e), append(places, g.System.Grid.At(v))
				}
			}
		})
		values = append(values[:0], make([]float64, len(places))...)
		if err := start(field, component, body, places, values); err != nil {
			return err
		}
		for i, e := range equations {
			u[e] = values[i]
		}
	}
	return nil
}

// follow solves for the fields that do not change, and those that begin at rest in time, while the others stay.
func (g *Group) follow(ctx context.Context, s *Solution, c *fem.Constraints, newton *fem.NewtonSettings, set *MarchSettings) error {
	stays := func(f int) bool { // the first step finds a multiplier
		return g.Fields[f].moves() && (set.GoesOn || !g.Fields[f].BeginsSteady) || g.Fields[f].Multiplier
	}
	if !slices.ContainsFunc(g.Own, func(f int) bool { return !stays(f) }) {
		return nil
	}
	g.starting = true
	err := g.hold(0, c)
	g.starting = false
	if err != nil {
		return err
	}
	all := &fem.Constraints{Fixed: append([]bool(nil), c.Fixed...), Value: append([]float64(nil), c.Value...)}
	for e, f := range g.System.FieldOf() {
		if stays(f) {
			all.Fixed[e], all.Value[e] = true, s.State.U[e]
		}
	}
	once := *newton
	once.Near = set.Near
	direct := &fem.Direct{}
	if !set.Symmetric {
		direct.Kind = sparse.Unsymmetric
	}
	once.Linear = direct.Solve
	s.State.Rate = make([]float64, g.System.N)
	_, err = g.System.Solve(ctx, s.Kernel, s.State, all, &once)
	s.State.Rate = nil
	clear(c.Fixed) // what is held afterwards is found anew
	return err
}
