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
	stiffness = s.NewMatrix()
	if err := s.Assemble(kernel, &State{U: at.U, Rate: rate, Time: at.Time, Given: at.Given}, residual, stiffness); err != nil {
		return nil, nil, err
	}
	// By themselves: as a difference of matrices the mass would drown in the round-off of the
	// stiffness.
	mass, err = s.Inertia(kernel, at)
	return stiffness, mass, err
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

// belowAll is how far below zero, as a part of the largest ratio of the diagonals, the shift of
// [Modes] lies: what is held by nothing has eigenvalues of zero, at which nothing can be
// factorised.
const belowAll = 1e-10

// Modes finds the lowest eigenvalues λ of K·x = λ·M·x with held unknowns at zero,
// for symmetric K and M, neither of which has negative ones, and checks that none is missed.
// Vectors have all unknowns.
func (s *System) Modes(ctx context.Context, stiffness, mass *sparse.CSR, c *Constraints, count int) (values []float64, vectors [][]float64, err error) {
	e, err := s.newElimination(c)
	if err != nil {
		return nil, nil, err
	}
	stiffness, mass, c = e.left(stiffness), e.left(mass), e.free(c)
	k, names := Free(stiffness, c)
	m, _ := Free(mass, c)
	largest := 0.0
	for i := range k.N() {
		if mass := m.At(i, i); mass > 0 {
			largest = max(largest, k.At(i, i)/mass)
		}
	}
	r, err := sparse.Eigen(ctx, k, m, &sparse.EigenSettings[float64]{Count: count, Symmetric: true, Verify: true, Shift: -belowAll * largest})
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
		if e != nil {
			e.step(x)
		}
		values, vectors = append(values, real(v)), append(vectors, x)
	}
	return values, vectors, nil
}

// Response is a linear system that swings at frequencies about a state:
//
//	(K·(1 + i·η) + iω·C − ω²·M)·u = f,
//
// with η·K given as Loss. What is nil is zero.
type Response struct {
	Stiffness, Loss, Damping, Mass *sparse.CSR
	// Load and the held values of Constraints are complex amplitudes.
	Load        []complex128
	Constraints *Constraints
	Held        []complex128

	system   *System
	relation *elimination
	free     *Constraints
	analysis *sparse.Analysis
}

// NewResponse prepares a response; the matrices and amplitudes have all unknowns.
func (s *System) NewResponse(r Response) (*Response, error) {
	r.system = s
	if r.Constraints == nil {
		r.Constraints = s.NewConstraints()
	}
	var err error
	if r.relation, err = s.newElimination(r.Constraints); err != nil {
		return nil, err
	}
	for _, m := range []**sparse.CSR{&r.Stiffness, &r.Loss, &r.Damping, &r.Mass} {
		if *m != nil {
			*m = r.relation.left(*m)
		}
	}
	r.free = r.relation.free(r.Constraints)
	r.Load = append([]complex128(nil), r.Load...)
	if r.relation != nil {
		inParts(r.Load, r.relation.residual)
	}
	return &r, nil
}

// At returns the amplitudes at an angular frequency, rad/s.
func (r *Response) At(ctx context.Context, omega float64) ([]complex128, error) {
	a := r.Stiffness
	system := &sparse.Matrix[complex128]{Rows: a.Rows, Cols: a.Cols, Data: make([]complex128, len(a.Data))}
	add := func(m *sparse.CSR, by complex128) {
		if m == nil {
			return
		}
		for i, v := range m.Data {
			system.Data[i] += by * complex(v, 0)
		}
	}
	add(r.Stiffness, 1)
	add(r.Loss, 1i)
	add(r.Damping, complex(0, omega))
	add(r.Mass, complex(-omega*omega, 0))
	x, b := make([]complex128, len(r.Load)), append([]complex128(nil), r.Load...)
	for i, fixed := range r.free.Fixed {
		if fixed && r.Held != nil && r.Constraints.Fixed[i] {
			x[i] = r.Held[i]
		}
	}
	system.Fix(r.free.Fixed, x, b)
	if r.analysis == nil {
		r.analysis = sparse.Analyse(system, sparse.Unsymmetric, nil)
	}
	factors, err := sparse.Factor(ctx, r.analysis, system, nil)
	if err != nil {
		return nil, fmt.Errorf("the response at %g rad/s cannot be found, perhaps because that is a resonance without damping: %w", omega, err)
	}
	factors.Refined(system, x, b, 2)
	if r.relation != nil {
		inParts(x, r.relation.step)
	}
	return x, nil
}
