package couple

import (
	"context"
	"errors"
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/sparse"
)

// Mode is a way in which a group moves by itself: its shape is a vector of all unknowns.
type Mode struct {
	// Eigenvalue of K·x = λ·M·x: the square of the angular frequency, 1/s², where rates are
	// second ones, and the rate of decay, 1/s, where they are first ones.
	Eigenvalue float64
	Shape      []float64
}

// Frequency is that of a mode with second rates, Hz.
func (m *Mode) Frequency() float64 { return math.Sqrt(max(m.Eigenvalue, 0)) / (2 * math.Pi) }

// Modes finds the lowest modes of the group about a state, with all held values at rest. The
// kernel's matrices must be symmetric.
func (g *Group) Modes(ctx context.Context, kernel fem.Kernel, at *fem.State, count int) ([]Mode, error) {
	c := g.System.NewConstraints()
	if err := g.hold(at.Time, c); err != nil {
		return nil, err
	}
	stiffness, mass, err := g.System.Linearised(kernel, at)
	if err != nil {
		return nil, err
	}
	free := 0
	for _, fixed := range c.Fixed {
		if !fixed {
			free++
		}
	}
	if count > free {
		return nil, errors.New("so many modes the mesh does not have")
	}
	values, vectors, err := g.System.Modes(ctx, stiffness, mass, c, count)
	if err != nil && ctx.Err() == nil {
		var singular *sparse.SingularError
		if errors.As(err, &singular) {
			err = errors.New("something in it has no mass, or nothing that holds it together")
		}
	}
	list := make([]Mode, len(values))
	for i := range list {
		list[i] = Mode{values[i], vectors[i]}
	}
	return list, err
}
