package fem

import (
	"context"
	"fmt"

	"saltkettle/core/sparse"
)

// Alpha holds the parameters of the generalised-α method.
type Alpha struct{ M, F, Beta, Gamma float64 }

// NewAlpha returns the parameters for a damping of the highest frequencies: the
// spectral radius there is between 0 (all gone in a step) and 1 (none).
func NewAlpha(radius float64) Alpha {
	a := Alpha{M: (2*radius - 1) / (radius + 1), F: radius / (radius + 1)}
	a.Gamma = 0.5 - a.M + a.F
	a.Beta = 0.25 * (1 - a.M + a.F) * (1 - a.M + a.F)
	return a
}

// Inertia marches M·ü + C·u̇ + K·u = f(t) with steps of a fixed length by the
// generalised-α method (J. Chung, G. Hulbert, J. Appl. Mech. 60 (1993) 371), of
// order 2. u and v hold the state at the start and receive that at the end; fixed
// unknowns keep their values.
func Inertia(ctx context.Context, mass, damping, stiffness *sparse.CSR, load func(time float64, f []float64), fixed []bool, u, v []float64, step float64, steps int, p Alpha, each func(time float64, u, v []float64)) error {
	n := mass.N()
	if !(step > 0) || len(u) != n || len(v) != n {
		return fmt.Errorf("a march of steps of %g s with %d unknowns does not fit matrices of order %d", step, len(u), n)
	}
	clampRows := func(a *sparse.CSR, b []float64) {
		if fixed != nil {
			a.Fix(fixed, make([]float64, n), b)
		}
	}
	f, r, tmp, acc, next := make([]float64, n), make([]float64, n), make([]float64, n), make([]float64, n), make([]float64, n)
	subtract := func(a *sparse.CSR, x []float64) {
		if a == nil {
			return
		}
		a.MulVec(tmp, x)
		for i := range r {
			r[i] -= tmp[i]
		}
	}
	factor := func(a *sparse.CSR) (*sparse.Factors[float64], error) {
		clampRows(a, make([]float64, n))
		return sparse.Factor(ctx, sparse.Analyse(a, sparse.Symmetric, nil), a, nil)
	}
	start, err := factor(mass.Clone())
	if err != nil {
		return err
	}
	load(0, r)
	subtract(damping, v)
	subtract(stiffness, u)
	clampVector(fixed, r)
	start.Solve(acc, r)
	system := sparse.Combined(mass, 1-p.M, stiffness, (1-p.F)*p.Beta*step*step)
	if damping != nil {
		system = sparse.Combined(system, 1, damping, (1-p.F)*p.Gamma*step)
	}
	all, err := factor(system)
	if err != nil {
		return err
	}
	uf, vf := make([]float64, n), make([]float64, n)
	for k := range steps {
		if err := ctx.Err(); err != nil {
			return err
		}
		load((float64(k)+1-p.F)*step, f)
		copy(r, f)
		for i := range u {
			uf[i] = u[i] + (1-p.F)*(step*v[i]+step*step*(0.5-p.Beta)*acc[i])
			vf[i] = v[i] + (1-p.F)*step*(1-p.Gamma)*acc[i]
		}
		subtract(stiffness, uf)
		subtract(damping, vf)
		mass.MulVec(tmp, acc)
		for i := range r {
			r[i] -= p.M * tmp[i]
		}
		clampVector(fixed, r)
		all.Solve(next, r)
		for i := range u {
			u[i] += step*v[i] + step*step*((0.5-p.Beta)*acc[i]+p.Beta*next[i])
			v[i] += step * ((1-p.Gamma)*acc[i] + p.Gamma*next[i])
		}
		acc, next = next, acc
		if each != nil {
			each(float64(k+1)*step, u, v)
		}
	}
	return nil
}

func clampVector(fixed []bool, r []float64) {
	for i, f := range fixed {
		if f {
			r[i] = 0
		}
	}
}
