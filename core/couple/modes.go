package couple

import (
	"context"
	"errors"
	"math"
	"slices"

	"saltkettle/core/fem"
	"saltkettle/core/sparse"
)

// Mode is a way in which a group moves by itself: its shape is a vector of all unknowns.
type Mode struct {
	// Eigenvalue of K·x = λ·M·x: the square of the angular frequency, 1/s², where rates are
	// second ones, and the rate of decay, 1/s, where they are first ones.
	Eigenvalue float64
	Shape      []float64
	// Moves is, by component, the part of the mass that moves with the mode when all of it is moved along that: (φ·M·1)²/(φ·M·φ).
	Moves []float64
	Whole float64 // the mass of all
	// Dies is how fast it dies away, as a part of what would let it not swing at all, by what the kernel loses, to first order of that.
	Dies float64
	// Shares is, by field of the group, the part of all energy that is in it.
	Shares []float64
}

// Frequency is that of a mode with second rates, Hz.
func (m *Mode) Frequency() float64 { return math.Sqrt(max(m.Eigenvalue, 0)) / (2 * math.Pi) }

// Modes finds the lowest modes of the group about a state, with all held values at rest, whether the
// kernel's matrices are symmetric or not. Effort says of each field of the group whether it is an effort, as a pressure, of which the matrices
// are over the square of the frequency what those of a displacement are.
func (g *Group) Modes(ctx context.Context, kernel fem.Kernel, at *fem.State, count int, symmetric bool, effort []bool) ([]Mode, error) {
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
	var values []float64
	var vectors [][]float64
	if symmetric {
		values, vectors, err = g.System.Modes(ctx, stiffness, mass, c, count)
	} else {
		efforts := make([]bool, len(g.System.Fields))
		for n, f := range g.Own {
			efforts[f] = effort[n]
		}
		values, vectors, err = g.System.JoinedModes(ctx, stiffness, mass, c, count, efforts)
	}
	if err != nil && ctx.Err() == nil {
		var singular *sparse.SingularError
		if errors.As(err, &singular) {
			err = errors.New("something in it has no mass, or nothing that holds it together")
		}
	}
	list := make([]Mode, len(values))
	along := g.along(mass)
	whole := 0.0
	for _, x := range along[0] {
		whole += x
	}
	loss, dying, err2 := g.losses(kernel, at)
	if err == nil {
		err = err2
	}
	lost := make([]float64, g.System.N)
	massed, stiffened := make([]float64, g.System.N), make([]float64, g.System.N)
	fields := g.System.FieldOf()
	for i := range list {
		list[i] = Mode{Eigenvalue: values[i], Shape: vectors[i], Whole: whole, Shares: make([]float64, len(g.Own))}
		if omega := math.Sqrt(max(0, values[i])); omega > 0 && (loss != nil || dying != nil) {
			// The left vector of what is joined has efforts over the eigenvalue.
			left := slices.Clone(vectors[i])
			for n, f := range g.Own {
				for e := range left {
					if effort[n] && fields[e] == f {
						left[e] /= values[i]
					}
				}
			}
			mass.MulVec(massed, vectors[i])
			whole := sparse.Dot(left, massed)
			for k, m := range []*sparse.CSR{loss, dying} {
				if m != nil {
					m.MulVec(lost, vectors[i])
					list[i].Dies += sparse.Dot(left, lost) * [2]float64{1, omega}[k] / (2 * values[i] * whole)
				}
			}
		}
		own, all := 0., 0.
		for n, f := range g.Own {
			part := slices.Clone(vectors[i])
			for e := range part {
				if fields[e] != f {
					part[e] = 0
				}
			}
			mass.MulVec(massed, part)
			stiffness.MulVec(stiffened, part)
			kinetic, stored := values[i]*sparse.Dot(massed, part), sparse.Dot(stiffened, part)
			if n == 0 {
				own = sparse.Dot(massed, part)
			}
			if effort[n] && values[i] > 0 {
				kinetic, stored = kinetic/values[i], stored/values[i]
			}
			list[i].Shares[n] = kinetic + stored
			all += kinetic + stored
		}
		for n := range list[i].Shares {
			list[i].Shares[n] /= all
		}
		for _, m := range along {
			by := sparse.Dot(m, vectors[i])
			list[i].Moves = append(list[i].Moves, by*by/own)
		}
	}
	return list, err
}

// losses are the matrices of what is lost as a part of what is stored, and of what makes swings die away as fast as they go; nil for nothing.
func (g *Group) losses(kernel fem.Kernel, at *fem.State) (loss, dying *sparse.CSR, err error) {
	for _, k := range fem.Each(kernel) {
		if l, ok := k.(Lossy); ok && err == nil {
			loss, err = g.plus(loss, l.Loss(), at)
		}
	}
	if err == nil {
		dying, err = g.damping(kernel, at)
	}
	return loss, dying, err
}

// along is what the mass does, by component of the first field of the group, when all of it is moved along that.
func (g *Group) along(mass *sparse.CSR) (list [][]float64) {
	f := g.Own[0]
	for c := range g.Fields[f].Components {
		one, out := make([]float64, g.System.N), make([]float64, g.System.N)
		for v := range g.System.Grid.NodeCount() {
			if e := g.System.Equation(f, c, int32(v)); e >= 0 {
				one[e] = 1
			}
		}
		mass.MulVec(out, one)
		for e, of := range g.System.FieldOf() {
			if of != f {
				out[e] = 0 // what it sends out is not moved
			}
		}
		list = append(list, out)
	}
	return list
}

// Buckling is the least factor by which what presses on a group about a state may grow until it gives way: λ of
// (K + λ·G)·x = 0, with the stiffness K and what the forces at hand add to it, G, which the kernel's tangent has if it is
// told to by stiffen. It is infinite if these only make it stiffer.
func (g *Group) Buckling(ctx context.Context, kernel fem.Kernel, at *fem.State, stiffen func(on bool)) (float64, error) {
	c := g.System.NewConstraints()
	if err := g.hold(at.Time, c); err != nil {
		return 0, err
	}
	stiffness, _, err := g.System.Linearised(kernel, at)
	if err != nil {
		return 0, err
	}
	stiffen(true)
	defer stiffen(false)
	whole, _, err := g.System.Linearised(kernel, at)
	if err != nil {
		return 0, err
	}
	// Of (K + t·G)·x = µ·K·x, µ = 1 − t/λ: the least µ is that of the least positive λ, and is found from below where all are
	// positive.
	part := g.System.NewMatrix()
	for t := 1.0; t > leastBuckling; t /= 4 {
		for i := range part.Data {
			part.Data[i] = stiffness.Data[i] + t*(whole.Data[i]-stiffness.Data[i])
		}
		values, _, err := g.System.Modes(ctx, part, stiffness, c, 1)
		switch {
		case ctx.Err() != nil:
			return 0, ctx.Err()
		case err == nil && values[0] >= 1-1e-9:
			return math.Inf(1), nil
		case err == nil && values[0] > 0:
			return t / (1 - values[0]), nil
		}
	}
	return 0, errors.New("no part of what acts is borne")
}

// leastBuckling is the least part of the loads that is looked at.
const leastBuckling = 1e-6
