package coupled

import (
	"context"
	"errors"

	"saltkettle/core/fem"
)

// MarchSettings of [Group.March].
type MarchSettings struct {
	SolveSettings
	// End of the time, s, and the tolerance of a step.
	End, Tolerance float64
	// Start sets out to the value of the first field when time begins, at places in a
	// body. At nodes that bodies share it is that of the later one.
	Start func(body int32, x [][3]float64, out []float64) error
	// Moment is called at the start and after every step with the solution there; it
	// may end the march by returning true.
	Moment func(s *Solution) (stop bool)
}

// Tolerances of Newton's method within a step: in the last one, of which the balance
// is drawn up, and how far the residual need fall in the others. There it begins with
// the error of a prediction, a few times that of the step itself.
const (
	marchTolerance = 1e-9
	marchFall      = 1e-3
)

// March follows the fields through time. The first field changes with it; the others
// follow at once. The solution that it returns is that of the last moment.
func (g *Group) March(ctx context.Context, kernel fem.Kernel, set *MarchSettings) (*Solution, error) {
	s := &Solution{Group: g, Kernel: kernel, State: &fem.State{U: make([]float64, g.System.N)}, Straight: set.Straight}
	if err := g.begin(s.State.U, set); err != nil {
		return nil, err
	}
	c := g.System.NewConstraints()
	l := g.linear(kernel, c, &set.SolveSettings)
	l.progress = nil
	newton := fem.NewtonSettings{Tolerance: marchTolerance, Fall: marchFall, MaxSteps: set.MaxSteps, Straight: set.Straight, Linear: l.solve}
	if err := g.follow(ctx, s, c, &newton); err != nil {
		return nil, err
	}
	if err := g.hold(0, c); err != nil {
		return nil, err
	}
	for e, fixed := range c.Fixed {
		if fixed {
			s.State.U[e] = c.Value[e]
		}
	}
	if set.Moment != nil && set.Moment(s) {
		return s, nil
	}
	var failed error
	r, err := g.System.March(ctx, kernel, s.State, c, &fem.TransientSettings{
		Newton: newton, End: set.End, Tolerance: set.Tolerance, FirstStep: set.End / 1e4,
		Constrain: func(time float64, c *fem.Constraints) {
			if err := g.hold(time, c); err != nil && failed == nil {
				failed = err
			}
		},
		Step: func(time float64, _ []float64) bool {
			if time < s.State.Time {
				return false // the middle of the first step
			}
			s.Linear, s.Method = l.result, l.method
			return failed != nil || set.Moment != nil && set.Moment(s)
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

// begin sets the state when time begins.
func (g *Group) begin(u []float64, set *MarchSettings) error {
	for i, f := range g.System.FieldOf() {
		u[i] = g.start[f]
	}
	var equations []int32
	var places [][3]float64
	var values []float64
	block := &g.System.Grid.Blocks[0]
	seen := make([]int32, g.System.Grid.NodeCount()) // by the last body, from 1
	for body := range int32(len(g.Volume)) {
		equations, places = equations[:0], places[:0]
		for c, b := range block.Part {
			if b != body {
				continue
			}
			for _, v := range block.Nodes(c) {
				if seen[v] > body {
					continue
				}
				seen[v] = body + 1
				if e := g.System.Equation(0, 0, v); e >= 0 {
					equations, places = append(equations, e), append(places, g.System.Grid.At(v))
				}
			}
		}
		values = append(values[:0], make([]float64, len(places))...)
		if err := set.Start(body, places, values); err != nil {
			return err
		}
		for i, e := range equations {
			u[e] = values[i]
		}
	}
	return nil
}

// follow solves for the other fields while the first one stays.
func (g *Group) follow(ctx context.Context, s *Solution, c *fem.Constraints, newton *fem.NewtonSettings) error {
	if len(g.start) == 1 {
		return nil
	}
	if err := g.hold(0, c); err != nil {
		return err
	}
	all := &fem.Constraints{Fixed: append([]bool(nil), c.Fixed...), Value: append([]float64(nil), c.Value...)}
	for e, f := range g.System.FieldOf() {
		if f == 0 {
			all.Fixed[e], all.Value[e] = true, s.State.U[e]
		}
	}
	once := *newton
	once.Fall = 0
	direct := &fem.Direct{}
	once.Linear = direct.Solve
	s.State.Rate = make([]float64, g.System.N)
	_, err := g.System.Solve(ctx, s.Kernel, s.State, all, &once)
	s.State.Rate = nil
	return err
}
