package fem

import (
	"context"
	"errors"
	"fmt"

	"saltkettle/core/sparse"
)

// Linearised returns the matrices of a kernel about a state: stiffness, the
// derivative of the residual by the unknowns, and mass, that by their rates.
func (s *System) Linearised(kernel Kernel, at *State) (stiffness, mass *sparse.CSR, err error) {
	residual := make([]float64, s.N)
	rate := at.Rate
	if rate == nil {
		rate = make([]float64, s.N)
	}
	stiffness, mass = s.NewMatrix(), s.NewMatrix()
	if err := s.Assemble(kernel, &State{U: at.U, Rate: rate, Time: at.Time}, residual, stiffness); err != nil {
		return nil, nil, err
	}
	if err := s.Assemble(kernel, &State{U: at.U, Rate: rate, RateSlope: 1, Time: at.Time}, residual, mass); err != nil {
		return nil, nil, err
	}
	for i, k := range stiffness.Data {
		mass.Data[i] -= k
	}
	return stiffness, mass, nil
}

// Free returns a matrix without the rows and columns of held unknowns, and for each
// of its rows the unknown.
func Free(a *sparse.CSR, c *Constraints) (*sparse.CSR, []int32) {
	marked := make([]bool, a.N())
	var names []int32
	for i, fixed := range c.Fixed {
		if !fixed {
			marked[i] = true
			names = append(names, int32(i))
		}
	}
	return a.Part(marked), names
}

// errMissed says that the count of eigenvalues does not agree with those found.
var errMissed = errors.New("some modes in the range stay hidden: ask for a few more")

// Modes finds the lowest eigenvalues λ of K·x = λ·M·x with held unknowns at zero,
// for symmetric K and M, and checks that none is missed. Vectors have all unknowns.
func Modes(ctx context.Context, stiffness, mass *sparse.CSR, c *Constraints, count int) (values []float64, vectors [][]float64, err error) {
	k, names := Free(stiffness, c)
	m, _ := Free(mass, c)
	r, err := sparse.Eigen(ctx, k, m, &sparse.EigenSettings[float64]{Count: count, Symmetric: true, Verify: true})
	if err != nil {
		return nil, nil, err
	}
	if !r.Verified {
		return nil, nil, errMissed
	}
	for i, v := range r.Values {
		x := make([]float64, stiffness.N())
		for j, name := range names {
			x[name] = real(r.Vectors[i][j])
		}
		values, vectors = append(values, real(v)), append(vectors, x)
	}
	return values, vectors, nil
}

// Harmonic solves (K + iω·C − ω²·M)·u = f for the amplitudes at an angular
// frequency, rad/s. Unknowns under constraints have their values. damping may be
// nil.
func Harmonic(ctx context.Context, stiffness, damping, mass *sparse.CSR, f []complex128, c *Constraints, omega float64) ([]complex128, error) {
	n := stiffness.N()
	part := func(a *sparse.CSR) *sparse.Matrix[complex128] {
		out := &sparse.Matrix[complex128]{Rows: a.Rows, Cols: a.Cols, Data: make([]complex128, len(a.Data))}
		for i, v := range a.Data {
			out.Data[i] = complex(v, 0)
		}
		return out
	}
	system := sparse.Combined(part(stiffness), 1, part(mass), complex(-omega*omega, 0))
	if damping != nil {
		system = sparse.Combined(system, 1, part(damping), complex(0, omega))
	}
	b, x := append([]complex128(nil), f...), make([]complex128, n)
	if c != nil {
		for i, v := range c.Value {
			x[i] = complex(v, 0)
		}
		system.Fix(c.Fixed, x, b)
	}
	factors, err := sparse.Factor(ctx, sparse.Analyse(system, sparse.Unsymmetric, nil), system, nil)
	if err != nil {
		return nil, fmt.Errorf("the response at %g rad/s cannot be found, perhaps because that is a resonance without damping: %w", omega, err)
	}
	factors.Refined(system, x, b, 2)
	return x, nil
}
