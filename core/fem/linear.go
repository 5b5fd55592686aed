package fem

import (
	"cmp"
	"context"
	"errors"
	"slices"

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
	return s.modes(ctx, stiffness, mass, c, nil, &sparse.EigenSettings[float64]{Count: count, Symmetric: true, Verify: true})
}

// JoinedModes is [System.Modes] of motions and the efforts that go with them, as of what bends and the sound that it sends out: matrices that are
// not symmetric, of which the eigenvalues are real all the same. Effort says of each field of the system whether it is one; the pressure of a
// fluid that drives a motion by M = (M₁ 0; Cᵀ M₂) and K = (K₁ −C; 0 K₂) is.
func (s *System) JoinedModes(ctx context.Context, stiffness, mass *sparse.CSR, c *Constraints, count int, effort []bool) (values []float64, vectors [][]float64, err error) {
	by := s.sizesBy(stiffness)
	scaled := func(m *sparse.CSR) *sparse.CSR {
		m = m.Clone()
		for r := range m.N() {
			cols, data := m.Row(r)
			for k, c := range cols {
				data[k] *= by[r] * by[c]
			}
		}
		return m
	}
	efforts := make([]bool, s.N)
	for e, f := range s.FieldOf() {
		efforts[e] = effort[f]
	}
	values, vectors, err = s.modes(ctx, scaled(stiffness), scaled(mass), c, efforts, &sparse.EigenSettings[float64]{Count: count, Verify: true})
	for _, v := range vectors {
		for e := range v {
			v[e] *= by[e]
		}
	}
	order := make([]int, len(values))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int { return cmp.Compare(values[a], values[b]) })
	sorted, shapes := make([]float64, len(values)), make([][]float64, len(values))
	for i, k := range order {
		sorted[i], shapes[i] = values[k], vectors[k]
	}
	return sorted, shapes, err
}

// modes finds them as the settings say; efforts are the unknowns that are, nil for none.
func (s *System) modes(ctx context.Context, stiffness, mass *sparse.CSR, c *Constraints, efforts []bool, set *sparse.EigenSettings[float64]) (values []float64, vectors [][]float64, err error) {
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
	set.Shift = -belowAll * largest
	if efforts != nil {
		set.Efforts = make([]bool, len(names))
		for i, name := range names {
			set.Efforts[i] = efforts[name]
		}
	}
	r, err := sparse.Eigen(ctx, k, m, set)
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
