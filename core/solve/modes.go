package solve

import (
	"context"
	"errors"
	"fmt"
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/frame"
	"saltkettle/core/model"
	"saltkettle/core/physics/body"
	"saltkettle/core/result"
	"saltkettle/core/sparse"
)

// findModes finds the modes of the last group whose field has rates, about the state that the
// groups before it find.
func (r *run) findModes(ctx context.Context) error {
	p := r.posed
	own := -1
	for n, g := range p.groups {
		if g.moves() {
			own = n
		}
	}
	for n := range own {
		s, err := r.solveGroup(ctx, n, nil)
		if err != nil {
			return err
		}
		r.states.of, r.states.fresh = append(r.states.of, s), n+1
	}
	g := p.groups[own]
	part := g.parts[0]
	symmetric, joined := true, len(g.parts) > 1
	for _, other := range g.parts {
		symmetric = symmetric && other.kernel.Symmetric()
		if joined && (!other.Inertial || len(other.Fields) > 1) {
			return frame.Wrong("run/kind", "switch off what couples them", "modes are found of what has rates of second order alone, and here %s and %s act on each other", g.parts[0].Name, g.parts[1].Name)
		}
	}
	if !symmetric && !joined {
		return frame.Wrong("run/kind", "leave out what depends on the "+part.about().Name, "the matrices of %s are not symmetric, so that it has no modes that could be found", part.Name)
	}
	p.marching = own
	s, err := r.middle(ctx, own, part)
	if err != nil {
		return err
	}
	s.Straight, s.Settled, s.Method = true, true, "eigenvalues by the block Krylov–Schur method with LDLᵀ factorisation; that none is missed is checked"
	s.Linear.Status = sparse.Converged
	r.states.of, r.states.fresh = append(r.states.of, s), own+1
	defer stiffen(g)()
	var effort []bool
	for _, other := range g.parts {
		for k := range other.Fields {
			effort = append(effort, other.Fields[k].Effort)
		}
	}
	modes, err := g.Modes(ctx, g.kernel, s.State, r.model.Count, symmetric, effort)
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if err != nil {
		return frame.Wrong("run/kind", "ask for other modes, or hold the device", "the modes cannot be found: %v", err)
	}
	if part.Loaded && !joined && modes[0].Eigenvalue < -unstable*math.Abs(modes[len(modes)-1].Eigenvalue) {
		return frame.Wrong("run/kind", "let less act", "what acts makes the device give way: at rest it would buckle, and it has no modes")
	}
	for n := own + 1; n < len(p.groups); n++ {
		r.states.of, r.states.fresh = append(r.states.of, p.groups[n].Begun(p.groups[n].kernel, r.given(n))), n+1
		r.states.of[n].Settled = true
	}
	return r.tellModes(g, modes)
}

// unstable is the part of the largest eigenvalue found by which a least one below zero is no round-off.
const unstable = 1e-6

// middle is the state about which a group swings: where what acts on it leads to, if something does.
func (r *run) middle(ctx context.Context, own int, part *portion) (*couple.Solution, error) {
	g := r.posed.groups[own]
	if !part.Loaded {
		return g.Begun(g.kernel, r.given(own)), nil
	}
	s, err := r.solveGroup(ctx, own, nil)
	if err == nil && !s.Settled {
		err = frame.Wrong("run/kind", "run it steady first, and see why", "the state about which the device would swing was not found")
	}
	if err == nil {
		r.note("The device swings about the state to which what acts on it leads: loads and heat change how it does.")
	}
	return s, err
}

// stiffen lets the forces at hand count in how a group answers to small changes, and returns what ends that.
func stiffen(g *group) (end func()) {
	set := func(on bool) {
		for _, part := range g.parts {
			if k, ok := part.kernel.(frame.Stiffened); ok && part.Loaded {
				k.Stiffen(on)
			}
		}
	}
	set(true)
	return func() { set(false) }
}

// tellModes keeps frequencies and shapes. The greatest value of a shape, of the field that has most of its energy, is as large as the
// physics says.
func (r *run) tellModes(g *group, modes []couple.Mode) error {
	r.result.Modes = nil
	s := r.solution()
	for i := range modes {
		m := &modes[i]
		told, most := result.Mode{Rate: m.Eigenvalue}, g.parts[0]
		if most.Inertial {
			told = result.Mode{Frequency: m.Frequency(), Dies: m.Dies}
			if !most.Fields[0].Effort {
				told.Moves, told.Whole = m.Moves, m.Whole
			}
		}
		if len(g.parts) > 1 {
			told.Shares = map[string]float64{}
			greatest := 0.
			for n, part := range g.parts { // of a field each
				told.Shares[part.about().Name] = m.Shares[n]
				if m.Shares[n] > greatest {
					most, greatest = part, m.Shares[n]
				}
			}
		}
		r.result.Modes = append(r.result.Modes, told)
		scale(m.Shape, s.System.FieldOf(), most.field, s.Fields[most.field].Components, most.ShapeSize)
		if r.quiet {
			continue
		}
		surface, err := r.drawing()
		if err != nil {
			return err
		}
		surface.Axis = result.ByMode
		if err := r.keep(&fem.State{U: m.Shape, Given: s.State.Given}, told.Frequency+told.Rate); err != nil {
			return err
		}
	}
	s.State = &fem.State{U: modes[0].Shape, Given: s.State.Given}
	return nil
}

// scale makes the greatest size of a vector of some components, that of a field, one value, and its sign so that
// the component that decides it is positive.
func scale(u []float64, fields []int, field, components int, to float64) {
	most, sign := 0.0, 1.0
	for i := 0; i+components <= len(u); {
		if fields[i] != field {
			i++
			continue
		}
		square, largest := 0.0, 0.0
		for _, v := range u[i : i+components] {
			square += v * v
			if math.Abs(v) > math.Abs(largest) {
				largest = v
			}
		}
		if square > most*(1+1e-6) {
			most, sign = square, math.Copysign(1, largest)
		}
		i += components
	}
	if most == 0 {
		return
	}
	by := sign * to / math.Sqrt(most)
	for i := range u {
		u[i] *= by
	}
}

// errNoModes says that a reading is about modes, and the run is not.
var errNoModes = errors.New("the run does not find modes")

// modeReading reads the frequency or the rate of a mode, or how fast it dies away.
func (r *run) modeReading(q *model.ResolvedSentence) (float64, error) {
	if len(r.result.Modes) == 0 {
		return 0, errors.Join(couple.ErrAbsent, errNoModes)
	}
	n, _ := q.Laws[body.Number].Constant()
	if int(n) > len(r.result.Modes) {
		return 0, fmt.Errorf("the run finds %d modes only", len(r.result.Modes))
	}
	m := r.result.Modes[int(n)-1]
	if q.Kind == body.KeyDies {
		return m.Dies, nil
	}
	return m.Frequency + m.Rate, nil
}

// buckling is the least factor by which what acts may grow until what a part is about gives way.
func (r *run) buckling(p *portion) (float64, error) {
	s, err := r.readable(p.group)
	if err != nil {
		return 0, err
	}
	g := r.posed.groups[p.group]
	if s.Swing != nil || !p.kernel.Symmetric() || len(g.parts) > 1 {
		return 0, errors.New("the equations are not such that this is known")
	}
	return g.Buckling(r.ctx, g.kernel, s.State, func(on bool) {
		if k, ok := p.kernel.(frame.Stiffened); ok {
			k.Stiffen(on)
		}
	})
}
