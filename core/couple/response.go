package couple

import (
	"context"
	"errors"
	"math"
	"slices"

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

// Spectral is a kernel with terms that count with a factor by the frequency of what swings, beside those that it has itself.
type Spectral interface {
	fem.Kernel
	Spectrum() []Spectrum
}

// Spectrum is a kernel whose stiffness, and what swings in it, counts with a factor by the angular frequency, rad/s.
type Spectrum struct {
	Kernel fem.Kernel
	Factor func(omega float64) complex128
}

// Reached is a kernel that something reaches from far away, by the angular frequency, rad/s: a load at some unknowns. It gives nil where nothing does.
type Reached interface {
	fem.Kernel
	Arrives(g *Group, at *fem.State) (func(omega float64) (at []int32, load []complex128), error)
}

// Continued is a kernel with what goes on beyond the mesh, which joins all unknowns of a border: by shapes there, each of which counts with a factor by
// the frequency, the highest of which is most, rad/s.
type Continued interface {
	fem.Kernel
	Continues(g *Group, at *fem.State, most float64) ([]fem.Share, error)
}

// sweepTolerance is by how much, of the largest amplitude at a frequency, those that are found from others may be wrong.
const sweepTolerance = 1e-5

// Swept says how a response was found.
type Swept struct {
	// Solved is at how many frequencies the whole system was solved, and Wrong by how much, of the largest amplitude there, those between
	// were wrong where that was looked at last.
	Solved int
	Wrong  float64
}

// nudged is how far what swings is put out of its middle to find what that does: what depends on
// it in a straight way is found to round-off.
const nudged = 1e-3

// Response finds the complex amplitudes of the group at frequencies, Hz, about a state that is
// solved for: of all that swings in its kernel and in what it holds. Second says that rates are
// of second order. Each is called with those of one frequency.
func (g *Group) Response(ctx context.Context, kernel fem.Kernel, at *fem.State, second, symmetric bool, frequencies []float64, each func(frequency float64, amplitude []complex128) error) (how Swept, err error) {
	stiffness, mass, err := g.System.Linearised(kernel, at)
	if err != nil {
		return how, err
	}
	r := fem.Response{Stiffness: stiffness, Damping: mass, Constraints: g.System.NewConstraints(), Symmetric: symmetric}
	loss, dying, err := g.losses(kernel, at)
	if err != nil {
		return how, err
	}
	if r.Loss = loss; second {
		r.Mass, r.Damping = mass, dying
	}
	any := false
	for _, k := range fem.Each(kernel) {
		if a, ok := k.(Reached); ok {
			arrives, err := a.Arrives(g, at)
			if err != nil {
				return how, err
			}
			if arrives != nil {
				r.Arrives, any = arrives, true
			}
		}
		if c, ok := k.(Continued); ok {
			shares, err := c.Continues(g, at, angular*slices.Max(frequencies))
			if err != nil {
				return how, err
			}
			for _, share := range shares {
				any = any || share.Load != nil
			}
			r.Shares = append(r.Shares, shares...)
		}
		if s, ok := k.(Spectral); ok {
			for _, part := range s.Spectrum() {
				share := fem.Share{Factor: part.Factor}
				if share.Matrix, err = g.stiffness(part.Kernel, at); err != nil {
					return how, err
				}
				if !slices.ContainsFunc(share.Matrix.Data, func(v float64) bool { return v != 0 }) {
					share.Matrix = nil
				}
				if share.Load, err = g.swinging(part.Kernel, at); err != nil {
					return how, err
				}
				if any = any || share.Load != nil; share.Matrix != nil || share.Load != nil {
					r.Shares = append(r.Shares, share)
				}
			}
		}
	}
	load, err := g.swinging(kernel, at)
	if err != nil {
		return how, err
	}
	any = any || load != nil
	r.Load = make([]complex128, g.System.N)
	for i, v := range load {
		r.Load[i] = complex(v, 0)
	}
	var held [2]*fem.Constraints
	for i, swing := range [2]float64{nudged, -nudged} {
		held[i] = g.System.NewConstraints()
		if err := g.holdAt(at.Time, swing, held[i]); err != nil {
			return how, err
		}
	}
	r.Constraints = held[0]
	for i := range held[0].Value {
		value := (held[0].Value[i] - held[1].Value[i]) / (2 * nudged)
		r.Held = append(r.Held, complex(value, 0))
		any = any || value != 0
	}
	if !any {
		return how, errors.New("nothing swings")
	}
	response, err := g.System.NewResponse(r)
	if err != nil {
		return how, err
	}
	omegas := make([]float64, len(frequencies))
	for i, f := range frequencies {
		omegas[i] = angular * f
	}
	how.Solved, how.Wrong, err = response.Sweep(ctx, omegas, sweepTolerance, func(i int, u []complex128) error { return each(frequencies[i], u) })
	var singular *sparse.SingularError
	if errors.As(err, &singular) {
		err = errors.New("there is a resonance without damping at one of the frequencies")
	}
	return how, err
}

// stiffness is the derivative of the residual of a kernel by the unknowns.
func (g *Group) stiffness(kernel fem.Kernel, at *fem.State) (*sparse.CSR, error) {
	m := g.System.NewMatrix()
	state := fem.State{U: at.U, Rate: make([]float64, g.System.N), Time: at.Time, Given: at.Given}
	return m, g.System.Assemble(kernel, &state, make([]float64, g.System.N), m)
}

// swinging is what swings in a kernel, as a load, nil if nothing does.
func (g *Group) swinging(kernel fem.Kernel, at *fem.State) ([]float64, error) {
	var sides [2][]float64
	for i, swing := range [2]float64{nudged, -nudged} {
		state := *at
		state.Swing = swing
		if state.Rate == nil {
			state.Rate = make([]float64, g.System.N)
		}
		sides[i] = make([]float64, g.System.N)
		if err := g.System.Assemble(kernel, &state, sides[i], nil); err != nil {
			return nil, err
		}
	}
	any := false
	for i := range sides[0] {
		sides[0][i] = (sides[1][i] - sides[0][i]) / (2 * nudged)
		any = any || sides[0][i] != 0
	}
	if !any {
		return nil, nil
	}
	return sides[0], nil
}

// damping is the matrix of what makes swings die away as fast as they go, nil if there is none.
func (g *Group) damping(kernel fem.Kernel, at *fem.State) (sum *sparse.CSR, err error) {
	for _, k := range fem.Each(kernel) {
		if l, ok := k.(Lossy); ok {
			if sum, err = g.plus(sum, l.Dying(), at); err != nil {
				return nil, err
			}
		}
	}
	return sum, nil
}

// plus adds the stiffness of a kernel to a matrix; both may be nil.
func (g *Group) plus(sum *sparse.CSR, kernel fem.Kernel, at *fem.State) (*sparse.CSR, error) {
	if kernel == nil {
		return sum, nil
	}
	m, err := g.stiffness(kernel, at)
	if err != nil || sum == nil {
		return m, err
	}
	for i, v := range m.Data {
		sum.Data[i] += v
	}
	return sum, nil
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
