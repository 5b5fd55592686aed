package heat

import (
	"context"
	"fmt"
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/sparse"
)

var zero = formula.Fixed(0)

// Limits of Newton's method.
const (
	defaultSteps = 40
	// settled is the relative residual at which a nonlinear problem is accepted;
	// within roundOff of it a residual that no longer falls is, too.
	settled  = 1e-12
	roundOff = 1e3
	// leastStep is the shortest part of a step that is tried before it is taken
	// whatever the residual says.
	leastStep = 1.0 / 32
)

// newton is the state of a solution in the making.
type newton struct {
	ctx      context.Context
	set      *Settings
	s        *Solution
	fixed    []bool
	a        *sparse.CSR
	b        []float64
	system   *sparse.CSR // a and b with the held nodes taken out
	load     []float64
	pre      sparse.Preconditioner
	residual []float64
	offset   int // iterations of earlier linear solves
}

// Solve assembles and solves the problem; where coefficients depend on the
// temperature by Newton's method with a line search. The solution is usable,
// with its status, even if it has not settled.
func Solve(ctx context.Context, p *Problem, set *Settings) (*Solution, error) {
	if set == nil {
		set = &Settings{}
	}
	if set.Stage == nil {
		set.Stage = func(string) {}
	}
	s := &Solution{Problem: p, Temperature: make([]float64, p.Mesh.NodeCount())}
	if len(p.Held) == 0 && len(p.Convections) == 0 {
		return nil, ErrNoReference
	}
	set.Stage("assemble")
	s.space = fem.NewSpace(p.Mesh)
	var err error
	if s.Volume, err = fem.Volumes(p.Mesh, len(p.Conductivity)); err != nil {
		return nil, err
	}
	s.laws = newLaws(p, s.Volume)
	if s.surface, err = newSurface(p); err != nil {
		return nil, err
	}
	fixed, err := s.hold()
	if err != nil {
		return nil, err
	}
	n := &newton{ctx: ctx, set: set, s: s, fixed: fixed, a: s.space.NewMatrix(), b: make([]float64, p.Mesh.NodeCount()), residual: make([]float64, p.Mesh.NodeCount())}
	s.guess(n.fixed)
	s.Symmetric = !s.laws.skew
	if err := n.assemble(); err != nil {
		return nil, err
	}
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	set.Stage("solve")
	if s.laws.nonlinear || s.surface.nonlinear {
		err = n.iterate()
	} else {
		tol := set.Tolerance
		if tol == 0 {
			tol = 1e-12
		}
		err = n.step(tol)
		s.Settled = s.Linear.Status == sparse.Converged || s.Linear.Status == sparse.Stagnated && s.Linear.Residual < 1e-9
	}
	if err != nil {
		return nil, err
	}
	return s, s.account(n.a, n.b)
}

// assemble makes the equations at the present temperatures.
func (n *newton) assemble() error {
	s := n.s
	t := s.Temperature
	clear(n.a.Data)
	clear(n.b)
	if err := s.laws.evaluate(t); err != nil {
		return err
	}
	err := s.space.Assemble(n.a, n.b, func(c int, w *fem.Wedge, k *[36]float64, f *[6]float64) { s.laws.cell(c, w, t, k, f) })
	if err == nil {
		err = s.surface.assemble(n.a, n.b, t)
	}
	if err != nil {
		return err
	}
	n.system, n.load = n.a, n.b
	if len(s.Problem.Held) > 0 {
		n.system, n.load = n.a.Clone(), append([]float64(nil), n.b...)
		n.system.Fix(n.fixed, t, n.load)
	}
	return nil
}

// misfit is the residual of the equations relative to their load.
func (n *newton) misfit() float64 {
	n.system.MulVec(n.residual, n.s.Temperature)
	for i := range n.residual {
		n.residual[i] -= n.load[i]
	}
	return sparse.Norm(n.residual) / max(sparse.Norm(n.load), math.SmallestNonzeroFloat64)
}

// step solves the linear equations, beginning at the present temperatures.
func (n *newton) step(tol float64) error {
	s := n.s
	if n.pre == nil {
		approximate := n.system
		if !s.Symmetric {
			approximate = n.system.SymmetricPart()
		}
		pre, err := sparse.NewAMG(approximate, nil)
		if err != nil {
			return fmt.Errorf("the conduction matrix cannot be solved: %w", err)
		}
		n.pre = pre
	}
	set := &sparse.Settings{Tolerance: tol, MaxIterations: n.left()}
	if n.set.Progress != nil {
		set.Progress = func(i int, r float64) { n.set.Progress(n.offset+i, r) }
	}
	solve := sparse.CG
	if !s.Symmetric {
		solve = sparse.GMRES
	}
	res := solve(n.ctx, n.system, n.load, s.Temperature, n.pre, set)
	if res.Status == sparse.NotDefinite && s.Symmetric {
		// A source that grows with the temperature can take the definiteness away.
		s.Symmetric = false
		res = sparse.GMRES(n.ctx, n.system, n.load, s.Temperature, n.pre, set)
	}
	n.offset += res.Iterations
	if res.Iterations > 30 {
		n.pre = nil // it has grown stale
	}
	s.Linear.Status, s.Linear.Residual = res.Status, res.Residual
	s.Linear.Iterations += res.Iterations
	s.Linear.History = append(s.Linear.History, res.History...)
	return nil
}

// left is how many iterations may still be made, 0 if there is no limit.
func (n *newton) left() int {
	if n.set.MaxIterations == 0 {
		return 0
	}
	return max(n.set.MaxIterations-n.offset, 1)
}

// iterate is Newton's method.
func (n *newton) iterate() error {
	s := n.s
	limit := n.set.MaxSteps
	if limit == 0 {
		limit = defaultSteps
	}
	before := make([]float64, len(s.Temperature))
	after := make([]float64, len(s.Temperature))
	now := n.misfit()
	for {
		s.Residuals = append(s.Residuals, now)
		s.Settled = now <= settled
		spent := n.set.MaxIterations > 0 && n.offset >= n.set.MaxIterations
		lost := math.IsNaN(now) || math.IsInf(now, 0)
		if s.Settled || spent || lost || s.Steps >= limit || n.ctx.Err() != nil {
			switch {
			case lost:
				s.Linear.Status = sparse.NotFinite
			case n.ctx.Err() != nil:
				s.Linear.Status = sparse.Stopped
			case !s.Settled:
				s.Linear.Status = sparse.LimitReached
			}
			return nil
		}
		copy(before, s.Temperature)
		// Nothing is gained by solving more exactly than the next residual will be.
		if err := n.step(min(1e-3, max(1e-12, 1e-4*now))); err != nil {
			return err
		}
		s.Steps++
		copy(after, s.Temperature)
		for part := 1.0; ; part /= 2 {
			for i := range after {
				s.Temperature[i] = before[i] + part*(after[i]-before[i])
			}
			err := n.assemble()
			var next float64
			if err == nil {
				next = n.misfit()
			} else if part <= leastStep {
				return err
			}
			near := now < roundOff*settled
			if err == nil && (next < (1-0.1*part)*now || part <= leastStep || near) {
				if near && next > 0.5*now {
					s.Settled = true
					s.Residuals = append(s.Residuals, next)
					return nil
				}
				now = next
				break
			}
		}
	}
}
