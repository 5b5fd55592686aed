package fem

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/parallel"
	"saltkettle/core/sparse"
)

// Response is a linear system that swings at frequencies about a state:
//
//	(K·(1 + i·η) + iω·C − ω²·M + Σ gₖ(ω)·Sₖ)·u = f + Σ gₖ(ω)·fₖ,
//
// with η·K given as Loss and the sums those of Shares. What is nil is zero.
type Response struct {
	Stiffness, Loss, Damping, Mass *sparse.CSR
	// Load and the held values of Constraints are complex amplitudes.
	Load        []complex128
	Constraints *Constraints
	Held        []complex128
	// Shares depend on the frequency in ways of their own.
	Shares []Share
	// Arrives is a load at few unknowns that depends on the angular frequency in any way, as a wave that comes from far away does; nil for none.
	Arrives func(omega float64) (at []int32, load []complex128)
	// Symmetric says that all matrices are.
	Symmetric bool

	system   *System
	relation *elimination
	free     *Constraints
	analysis *sparse.Analysis
	solver   *ranked // of the last frequency, with rows and columns times sizes
	sizes    []float64
}

// Share is a matrix, a product of a vector with itself and a load that count with a factor by the angular frequency, rad/s. Any may be nil.
type Share struct {
	Matrix *sparse.CSR
	// Along is a, by all unknowns, of a matrix a·aᵀ, which is never made: it joins all unknowns where a is not zero.
	Along  []float64
	Load   []float64
	Factor func(omega float64) complex128
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
	r.free = r.relation.free(r.Constraints)
	r.Load = append([]complex128(nil), r.Load...)
	r.Shares = slices.Clone(r.Shares)
	all := []**sparse.CSR{&r.Stiffness, &r.Loss, &r.Damping, &r.Mass}
	for i := range r.Shares {
		all = append(all, &r.Shares[i].Matrix)
	}
	for _, m := range all {
		if *m != nil {
			*m = r.relation.left(*m)
		}
	}
	if r.relation != nil {
		inParts(r.Load, r.relation.residual)
		for i := range r.Shares {
			for _, v := range []*[]float64{&r.Shares[i].Load, &r.Shares[i].Along} {
				if *v != nil {
					*v = slices.Clone(*v)
					r.relation.residual(*v)
				}
			}
		}
	}
	if r.relation != nil && r.Arrives != nil {
		return nil, errors.New("what comes from far away meets what moves as one")
	}
	r.sizes = s.sizesBy(r.Stiffness)
	return &r, nil
}

// sizesBy are what rows and columns of the unknowns are multiplied by so that fields in units that are far apart, as a displacement and a
// pressure, come to one size, without which the smallest would drown.
func (s *System) sizesBy(stiffness *sparse.CSR) []float64 {
	fields := s.FieldOf()
	size := make([]float64, len(s.Fields))
	for e, f := range fields {
		size[f] = max(size[f], math.Abs(stiffness.At(e, e)))
	}
	by := make([]float64, s.N)
	for e, f := range fields {
		by[e] = 1
		if size[f] > 0 {
			by[e] = 1 / math.Sqrt(size[f])
		}
	}
	return by
}

// term is a matrix, or a vector times itself, with what it counts with at an angular frequency.
type term struct {
	matrix *sparse.CSR
	along  []float64
	factor func(omega float64) complex128
}

// terms are those of the matrix of the system.
func (r *Response) terms() (list []term) {
	add := func(m *sparse.CSR, factor func(omega float64) complex128) {
		if m != nil {
			list = append(list, term{matrix: m, factor: factor})
		}
	}
	add(r.Stiffness, func(float64) complex128 { return 1 })
	add(r.Loss, func(float64) complex128 { return 1i })
	add(r.Damping, func(omega float64) complex128 { return complex(0, omega) })
	add(r.Mass, func(omega float64) complex128 { return complex(-omega*omega, 0) })
	for _, s := range r.Shares {
		add(s.Matrix, s.Factor)
		if s.Along != nil {
			list = append(list, term{along: s.Along, factor: s.Factor})
		}
	}
	return list
}

// right is the right side at an angular frequency, without what held values give.
func (r *Response) right(omega float64) []complex128 {
	b := slices.Clone(r.Load)
	for _, s := range r.Shares {
		if s.Load == nil {
			continue
		}
		by := s.Factor(omega)
		for i, v := range s.Load {
			b[i] += by * complex(v, 0)
		}
	}
	if r.Arrives != nil {
		at, load := r.Arrives(omega)
		for i, e := range at {
			b[e] += load[i]
		}
	}
	return b
}

// holds says that an unknown is held in the system.
func (r *Response) holds(i int) bool { return r.free.Fixed[i] }

// held are the amplitudes of what is held, 0 elsewhere.
func (r *Response) held() []complex128 {
	x := make([]complex128, len(r.Load))
	for i, fixed := range r.free.Fixed {
		if fixed && r.Held != nil && r.Constraints.Fixed[i] {
			x[i] = r.Held[i]
		}
	}
	return x
}

// at returns the amplitudes at an angular frequency, rad/s, of the unknowns that relations leave, and keeps what solves for them.
func (r *Response) at(ctx context.Context, omega float64) ([]complex128, error) {
	a := r.Stiffness
	system := &sparse.Matrix[complex128]{Rows: a.Rows, Cols: a.Cols, Data: make([]complex128, len(a.Data))}
	x, b := r.held(), r.right(omega)
	solver := &ranked{system: system}
	for _, t := range r.terms() {
		by := t.factor(omega)
		if t.matrix == nil {
			solver.add(t.along, by, r, x, b)
			continue
		}
		parallel.For(len(system.Data), 1<<16, func(_, lo, hi int) {
			for i := lo; i < hi; i++ {
				system.Data[i] += by * complex(t.matrix.Data[i], 0)
			}
		})
	}
	system.Fix(r.free.Fixed, x, b)
	if r.analysis == nil {
		kind := sparse.Unsymmetric
		if r.Symmetric {
			kind = sparse.Symmetric
		}
		r.analysis = sparse.Analyse(system, kind, nil)
	}
	for i := range b {
		b[i] *= complex(r.sizes[i], 0)
		x[i] /= complex(r.sizes[i], 0)
		cols, data := system.Row(i)
		for k, c := range cols {
			data[k] *= complex(r.sizes[i]*r.sizes[c], 0)
		}
	}
	var err error
	if solver.factors, err = sparse.Factor(ctx, r.analysis, system, nil); err != nil {
		return nil, fmt.Errorf("the response at %g rad/s cannot be found, perhaps because that is a resonance without damping: %w", omega, err)
	}
	solver.join()
	solver.Solve(x, b, refinements)
	r.solver = solver
	for i := range x {
		x[i] *= complex(r.sizes[i], 0)
	}
	return x, nil
}
