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

// NewtonSettings of [System.Solve]. The zero value works.
type NewtonSettings struct {
	// Tolerance of the residual relative to its size at the start or, if that is
	// larger, to that of the reactions; 0 means 1e-10.
	Tolerance float64
	MaxSteps  int // 0 means 30
	// Scale has the sizes that residuals are relative to, by field, from one solution to
	// the next like it; it may be nil.
	Scale []float64
	// Kind of the tangent; its zero value is that of a definite one.
	Kind sparse.Kind
	// Artificial leads through an artificial time; nil for none.
	Artificial *Artificial
	// Straight says that the residual is linear: one step leads to the solution.
	Straight bool
	// Linear solves tangent·x = b to a tolerance relative to b; nil factors the
	// tangent.
	Linear func(ctx context.Context, tangent *sparse.CSR, x, b []float64, tolerance float64) error
	// Again solves with the last tangent once more, for a right side. With it the length of a step is judged by
	// what a step would still be from where it leads, and not by the residual, which says little where it is
	// large in a few places alone, such as at the corners of what drives a flow (P. Deuflhard, Newton Methods
	// for Nonlinear Problems, 2004, section 3.3). It is for what does not change in time, and may be nil.
	Again func(x, b []float64) error
	// Bold takes whole steps alone: on the way of what turns far the residual rises by far before it falls. What leads
	// nowhere is for whoever asked to see.
	Bold bool
	// Polish makes a few whole steps more from what is within the tolerance, down to round-off.
	Polish bool
	// Near says that the state to begin with follows from a solution of other equations: where the kernel is a [Secant], it is led nearer first.
	Near bool
	// Progress is called before each step with the relative residual. It may be nil.
	Progress func(step int, residual float64)

	always *timeless
	damped *damped
}

// damped is a matrix that acts on speeds (u − still)/length.
type damped struct {
	matrix *sparse.CSR
	still  []float64
	length float64
}

// add adds what it does at a state to a residual and a tangent of the same pattern, nil for none.
func (d *damped) add(u, residual []float64, tangent *sparse.CSR) {
	parallel.For(len(u), 4096, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			sum := 0.0
			for k := d.matrix.Rows[i]; k < d.matrix.Rows[i+1]; k++ {
				j := d.matrix.Cols[k]
				sum += d.matrix.Data[k] * (u[j] - d.still[j])
				if tangent != nil {
					tangent.Data[k] += d.matrix.Data[k] / d.length
				}
			}
			residual[i] += sum / d.length
		}
	})
}

// NewtonResult tells how a solution went.
type NewtonResult struct {
	Settled bool
	Steps   int
	// Residuals before each step and at the end, relative; Parts is how much of each
	// step was taken.
	Residuals, Parts []float64
	// Period, s, is that of a swing that an artificial time did not end, 0 for none.
	Period float64
	// Reaction is what the held unknowns and relations take up: the residual of all equations,
	// which is zero for the others.
	Reaction []float64
}

// ErrNotSettled says that Newton's method did not reach its tolerance. What it
// reached is in the result.
var ErrNotSettled = errors.New("the equations did not settle")

// stillness is the size of a step, relative to the largest unknown, that counts as
// round-off.
const stillness = 1e-13

// Direct keeps the analysis of a system for the factorisations of its tangents.
type Direct struct {
	Kind sparse.Kind
	// Repeated keeps the last factors for tangents that are the same, as those of steps in
	// time of one length may be.
	Repeated bool
	analysis *sparse.Analysis
	data     []float64 // of the tangent with these factors
	factors  *sparse.Factors[float64]
	// Kept keeps the last factors for [Direct.Again].
	Kept bool
	last *sparse.Factors[float64]
}

// Factor factors the tangent.
func (d *Direct) Factor(ctx context.Context, tangent *sparse.CSR) (*sparse.Factors[float64], error) {
	if d.analysis == nil {
		d.analysis = sparse.Analyse(tangent, d.Kind, nil)
	}
	if d.factors != nil && slices.Equal(d.data, tangent.Data) {
		return d.factors, nil
	}
	d.factors = nil
	f, err := sparse.Factor(ctx, d.analysis, tangent, nil)
	if err == nil && d.Repeated {
		d.data, d.factors = append(d.data[:0], tangent.Data...), f
	}
	return f, err
}

// Solve factors the tangent and solves, as well as it can whatever the tolerance.
func (d *Direct) Solve(ctx context.Context, tangent *sparse.CSR, x, b []float64, _ float64) error {
	f, err := d.Factor(ctx, tangent)
	if err != nil {
		return err
	}
	f.Refined(tangent, x, b, 2)
	if d.Kept {
		d.last = f
	}
	return nil
}

// Again solves with the last tangent for another right side.
func (d *Direct) Again(x, b []float64) error {
	if d.last == nil {
		return errors.New("fem: there are no factors")
	}
	d.last.Solve(x, b)
	return nil
}

// Solve finds where the residual of a kernel vanishes, beginning at the state, by
// Newton's method with a line search. Unknowns under constraints get their values.
func (s *System) Solve(ctx context.Context, kernel Kernel, at *State, c *Constraints, set *NewtonSettings) (*NewtonResult, error) {
	if set == nil {
		set = &NewtonSettings{}
	}
	n := &newton{System: s, ctx: ctx, equations: s.keep(kernel, set.Straight), at: at, c: c, set: *set, whole: s.NewMatrix(), residual: make([]float64, s.N), step: make([]float64, s.N), before: make([]float64, s.N)}
	n.equations.always = set.always
	n.scale = n.set.Scale
	if n.scale == nil {
		n.scale = make([]float64, len(s.Fields))
	}
	if len(s.Fields) > 1 {
		n.field = s.FieldOf()
	}
	if n.c == nil {
		n.c = s.NewConstraints()
	}
	var err error
	if n.eliminated, err = s.newElimination(n.c); err != nil {
		return nil, err
	}
	n.tangent = n.whole
	if n.eliminated != nil {
		n.tangent = n.eliminated.matrix()
	}
	if n.set.Tolerance == 0 {
		n.set.Tolerance = 1e-10
	}
	if n.set.MaxSteps == 0 {
		n.set.MaxSteps = 30
	}
	if n.set.Linear == nil {
		n.set.Linear = (&Direct{Kind: set.Kind}).Solve
	}
	r, err := n.run()
	if err == nil && n.set.Polish && !n.set.Straight {
		err = n.polish()
	}
	return r, err
}

// newton is a solution under way.
type newton struct {
	*System
	NewtonResult
	ctx       context.Context
	equations *kept
	at        *State
	c         *Constraints
	set       NewtonSettings
	// whole is the tangent as it is assembled, tangent what is left of it by relations.
	whole, tangent *sparse.CSR
	eliminated     *elimination // nil if there are no relations
	entire         []float64    // the residual with what relations take up
	passing        *passing     // nil if it leads through no artificial time
	residual       []float64    // with those of the held unknowns
	step           []float64
	before         []float64
	again, right   []float64 // what a step would still be, and its right side
	scale          []float64 // by field
	held           []float64 // by field: the size of the reactions at hand
	gauged         bool      // the scale has been made that of the solution
	field          []int     // of each unknown, nil if there is one field
	floor          []float64 // by field: what rounding the unknowns does to its residual, where there are several
	goal           float64   // of the residual
	known          bool      // a tangent has been assembled
}

// slope is the derivative of the rate of an unknown by its value.
func (n *newton) slope(i int) float64 {
	switch {
	case n.at.RateSlopes == nil:
		return n.at.RateSlope
	}
	return n.at.RateSlopes[n.fieldOf(i)]
}

// fieldOf is the field that an unknown belongs to.
func (n *newton) fieldOf(i int) int {
	if n.field == nil {
		return 0
	}
	return n.field[i]
}

// judge returns the residual of the field that is worst, each relative to the largest
// seen of the field, with that of its held unknowns. Fields have different units.
func (n *newton) judge() float64 {
	free, held := make([]float64, len(n.scale)), make([]float64, len(n.scale))
	for f := range free {
		if n.field == nil {
			free[f], held[f] = sizes(n.residual, n.c.Fixed)
			break
		}
		for i, r := range n.residual {
			if n.field[i] != f {
				continue
			}
			if n.c.Fixed[i] {
				held[f] += r * r
			} else {
				free[f] += r * r
			}
		}
		free[f], held[f] = math.Sqrt(free[f]), math.Sqrt(held[f])
	}
	n.held = held
	worst := 0.0
	for f := range free {
		if n.floor == nil || free[f] > n.floor[f] || math.IsNaN(free[f]) {
			n.scale[f] = max(n.scale[f], free[f])
		}
		n.scale[f] = max(n.scale[f], held[f])
		if math.IsNaN(free[f]) {
			return math.NaN()
		}
		if n.floor != nil && free[f] <= n.floor[f] {
			continue // such as that of what is made nowhere, of a field that began with nothing
		}
		if n.scale[f] > 0 {
			worst = max(worst, free[f]/n.scale[f])
		}
	}
	return worst
}

// coarseScale is how much larger than the reactions of the solution the scale may be.
const coarseScale = 100

// gauge makes the scale that of the reactions of the solution at hand, where a start
// far from it made it much larger.
func (n *newton) gauge() (changed bool) {
	if n.gauged {
		return false
	}
	n.gauged = true
	for f, held := range n.held {
		if held > 0 && n.scale[f] > coarseScale*held {
			n.scale[f], changed = held, true
		}
	}
	return changed
}

// sizes of the residual of the unknowns that are not held, and of the held ones.
func sizes(residual []float64, fixed []bool) (free, held float64) {
	for i, r := range residual {
		if fixed[i] {
			held += r * r
		} else {
			free += r * r
		}
	}
	return math.Sqrt(free), math.Sqrt(held)
}

func (n *newton) run() (*NewtonResult, error) {
	for i, fixed := range n.c.Fixed {
		if fixed {
			n.at.U[i] = n.c.Value[i]
		}
	}
	if n.eliminated != nil {
		n.eliminated.complete(n.at.U)
	}
	if n.set.Near {
		if err := n.nearer(); err != nil {
			return &n.NewtonResult, err
		}
	}
	if err := n.assemble(true); err != nil {
		return &n.NewtonResult, err
	}
	now := n.judge()
	if n.set.Artificial != nil {
		n.passing = n.newPassing()
	}
	n.goal = n.set.Tolerance
	for {
		n.Residuals = append(n.Residuals, now)
		if n.set.Progress != nil {
			n.set.Progress(n.Steps, now)
		}
		switch {
		case now <= n.goal:
			if !n.gauge() {
				return n.settle(), nil
			}
			if err := n.assemble(true); err != nil {
				return &n.NewtonResult, err
			}
			now = n.judge()
			n.Residuals[len(n.Residuals)-1] = now
			if now <= n.goal {
				return n.settle(), nil
			}
		case n.ctx.Err() != nil:
			return &n.NewtonResult, n.ctx.Err()
		case math.IsNaN(now) || math.IsInf(now, 0) || n.Steps >= n.set.MaxSteps:
			if n.passing != nil {
				n.Period = n.passing.period()
			}
			return &n.NewtonResult, fmt.Errorf("%w: residual %.2g after %d steps", ErrNotSettled, now, n.Steps)
		}
		if n.passing != nil {
			next, err := n.pass(now)
			if err != nil {
				return &n.NewtonResult, err
			}
			n.Steps++
			now = next
			continue
		}
		if err := n.direction(now); err != nil {
			return &n.NewtonResult, err
		}
		still := n.still()
		search := n.search
		switch {
		case n.set.Bold:
			search = n.boldly
		case !n.set.Straight && Descends(n.equations.kernel):
			search = n.downhill
		case n.set.Again != nil && !n.set.Straight:
			search = n.naturally
		}
		next, err := search(now, still)
		if err != nil {
			return &n.NewtonResult, err
		}
		n.Steps++
		if n.last(now) && next > n.goal && !still {
			// It did not: go on with the tangent.
			if err := n.assemble(true); err != nil {
				return &n.NewtonResult, err
			}
		}
		stuck := next > stuckFall*now && next < stuckBelow
		if now = next; still {
			n.Residuals = append(n.Residuals, now)
			return n.settle(), nil
		}
		if stuck && now > n.goal {
			if err := n.assemble(true); err != nil {
				return &n.NewtonResult, err
			}
			if n.roundOff() {
				n.Residuals = append(n.Residuals, now)
				return n.settle(), nil
			}
		}
	}
}

// secantSteps is how many steps with ratios in place of slopes lead nearer to a solution: of iron that saturates a third one leads away again.
const secantSteps = 2

// nearer leads the state nearer to a solution by such steps.
func (n *newton) nearer() error {
	defer secant(n.equations.kernel, false)
	for range secantSteps {
		if !secant(n.equations.kernel, true) {
			return nil
		}
		if err := n.assemble(true); err != nil {
			return err
		}
		if err := n.direction(1); err != nil {
			return err
		}
		copy(n.before, n.at.U)
		n.take(1, nil)
	}
	return nil
}

// assemble assembles the residual and, if asked to, the tangent, with loads and without what
// relations take out.
func (n *newton) assemble(tangent bool) error {
	to := n.whole
	if !tangent {
		to = nil
	}
	if err := n.equations.Assemble(n.at, n.residual, to); err != nil {
		return err
	}
	if n.set.damped != nil {
		n.set.damped.add(n.at.U, n.residual, to)
	}
	for i, f := range n.c.Load {
		n.residual[i] -= f
	}
	if n.eliminated != nil {
		n.entire = append(n.entire[:0], n.residual...)
		n.eliminated.residual(n.residual)
		if tangent {
			n.eliminated.tangent(n.tangent, n.whole)
		}
	}
	if n.known = n.known || tangent; n.known && n.field != nil {
		n.floor = n.rounding()
	}
	return nil
}

// last says that the step from a residual probably leads to the end.
func (n *newton) last(now float64) bool {
	return n.set.Straight || now*now < n.goal
}

// settle ends with a solution.
func (n *newton) settle() *NewtonResult {
	n.Settled = true
	n.Reaction = append([]float64(nil), n.residual...)
	if n.eliminated != nil {
		copy(n.Reaction, n.entire)
	}
	return &n.NewtonResult
}

// still says that the step is round-off of the solution: a residual that began with
// round-off falls no further.
func (n *newton) still() bool {
	var step, size float64
	for i, d := range n.step {
		step, size = max(step, math.Abs(d)), max(size, math.Abs(n.at.U[i]))
	}
	return step <= stillness*size
}

// A residual below stuckBelow that a whole step leaves above stuckFall of itself may be
// round-off.
const (
	stuckBelow = 1e-5
	stuckFall  = 0.3
)

// rounding is, by field, what rounding the unknowns does to the residual: 8·ε·‖|K|·|u|‖, with the tangent K as it
// was assembled (N. J. Higham, Accuracy and Stability of Numerical Algorithms, 2002, section 7.1).
func (n *newton) rounding() []float64 {
	const epsilon = 1.0 / (1 << 52)
	floor := make([]float64, len(n.scale))
	k := n.tangent
	for i := range n.N {
		if n.c.Fixed[i] {
			continue
		}
		var sum float64
		for at := k.Rows[i]; at < k.Rows[i+1]; at++ {
			sum += math.Abs(k.Data[at] * n.at.U[k.Cols[at]])
		}
		f := n.fieldOf(i)
		floor[f] += sum * sum
	}
	for f := range floor {
		floor[f] = 8 * epsilon * math.Sqrt(floor[f])
	}
	return floor
}

// roundOff says that no field has a residual larger than what rounding does to it.
func (n *newton) roundOff() bool {
	free, floor := make([]float64, len(n.scale)), n.rounding()
	for i := range n.N {
		if n.c.Fixed[i] {
			continue
		}
		f := n.fieldOf(i)
		free[f] += n.residual[i] * n.residual[i]
	}
	for f := range free {
		if n.scale[f] > 0 && math.Sqrt(free[f]) > max(floor[f], n.goal*n.scale[f]) {
			return false
		}
	}
	return true
}

// direction solves for the step; now is the residual.
func (n *newton) direction(now float64) error {
	b := make([]float64, n.N)
	for i, r := range n.residual {
		b[i] = -r
	}
	if p := n.passing; p != nil {
		for i, m := range p.mass.Data {
			n.tangent.Data[i] += m / p.dt
		}
	}
	clear(n.step)
	n.tangent.Fix(n.c.Fixed, n.step, b)
	clear(n.step)
	// The residual falls by its own size at best: nothing is gained by solving more
	// exactly than that.
	tolerance := 0.2 * n.goal / now
	if !n.set.Straight {
		tolerance = max(tolerance, min(1e-2, 1e-3*now))
	}
	err := n.set.Linear(n.ctx, n.tangent, n.step, b, tolerance)
	var singular *sparse.SingularError
	switch {
	case err == nil:
		if n.eliminated != nil {
			n.eliminated.step(n.step)
		}
		return nil
	case errors.As(err, &singular) && !n.set.Straight:
		// Of equations that depend on the solution the tangent is singular where a branch of
		// solutions ends.
		return fmt.Errorf("%w: after %d steps %w", ErrNotSettled, n.Steps, err)
	}
	return fmt.Errorf("the linear equations of step %d cannot be solved: %w", n.Steps+1, err)
}
