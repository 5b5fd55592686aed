package couple

import (
	"context"
	"errors"
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/sparse"
)

const angular = 2 * math.Pi

// Lossy is a kernel whose stiffness loses a part of what it stores in each swing.
type Lossy interface {
	fem.Kernel
	// Loss is a kernel whose stiffness is that part, nil if nothing is lost.
	Loss() fem.Kernel
	// Dying is one whose stiffness is what makes swings die away as fast as they go, for rates of second order; nil for
	// nothing.
	Dying() fem.Kernel
}

// nudged is how far what swings is put out of its middle to find what that does: what depends on
// it in a straight way is found to round-off.
const nudged = 1e-3

// Response finds the complex amplitudes of the group at frequencies, Hz, about a state that is
// solved for: of all that swings in its kernel and in what it holds. Second says that rates are
// of second order. Each is called with those of one frequency.
func (g *Group) Response(ctx context.Context, kernel fem.Kernel, at *fem.State, second bool, frequencies []float64, each func(frequency float64, amplitude []complex128) error) error {
	stiffness, mass, err := g.System.Linearised(kernel, at)
	if err != nil {
		return err
	}
	r := fem.Response{Stiffness: stiffness, Damping: mass, Constraints: g.System.NewConstraints()}
	if second {
		r.Damping, r.Mass = nil, mass
	}
	if second {
		if r.Damping, err = g.damping(kernel, at); err != nil {
			return err
		}
	}
	for _, k := range fem.Each(kernel) {
		l, ok := k.(Lossy)
		if !ok {
			continue
		}
		if loss := l.Loss(); loss != nil {
			if r.Loss, _, err = g.System.Linearised(loss, at); err != nil {
				return err
			}
		}
	}
	var sides [2][]float64
	var held [2]*fem.Constraints
	for i, swing := range [2]float64{nudged, -nudged} {
		state := *at
		state.Swing = swing
		if state.Rate == nil {
			state.Rate = make([]float64, g.System.N)
		}
		sides[i] = make([]float64, g.System.N)
		if err := g.System.Assemble(kernel, &state, sides[i], nil); err != nil {
			return err
		}
		held[i] = g.System.NewConstraints()
		if err := g.holdAt(at.Time, swing, held[i]); err != nil {
			return err
		}
	}
	r.Constraints = held[0]
	any := false
	for i := range sides[0] {
		load := (sides[1][i] - sides[0][i]) / (2 * nudged)
		value := (held[0].Value[i] - held[1].Value[i]) / (2 * nudged)
		r.Load, r.Held = append(r.Load, complex(load, 0)), append(r.Held, complex(value, 0))
		any = any || load != 0 || value != 0
	}
	if !any {
		return errors.New("nothing swings")
	}
	response, err := g.System.NewResponse(r)
	if err != nil {
		return err
	}
	for _, f := range frequencies {
		if err := ctx.Err(); err != nil {
			return err
		}
		u, err := response.At(ctx, angular*f)
		var singular *sparse.SingularError
		if errors.As(err, &singular) {
			err = errors.New("there is a resonance without damping at one of the frequencies")
		}
		if err != nil {
			return err
		}
		if err := each(f, u); err != nil {
			return err
		}
	}
	return nil
}

// damping is the matrix of what makes swings die away as fast as they go, nil if there is none.
func (g *Group) damping(kernel fem.Kernel, at *fem.State) (*sparse.CSR, error) {
	for _, k := range fem.Each(kernel) {
		if l, ok := k.(Lossy); ok {
			if dying := l.Dying(); dying != nil {
				matrix, _, err := g.System.Linearised(dying, at)
				return matrix, err
			}
		}
	}
	return nil, nil
}

// Swung is the state that a solution is out of its middle with one part of complex amplitudes.
func Swung(at *fem.State, amplitude []complex128, part func(complex128) float64) *fem.State {
	out := *at
	out.U = make([]float64, len(at.U))
	for i, v := range at.U {
		out.U[i] = v + part(amplitude[i])
	}
	return &out
}
