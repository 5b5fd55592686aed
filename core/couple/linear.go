package couple

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/fem"
	"saltkettle/core/sparse"
)

// UsualDirect is up to how many unknowns coupled fields are factorised, and usualPatience how many
// iterations larger ones are given before they are: contacts and thermoelectric legs between
// ceramics make iterations many, in the dew sampler thousands.
const (
	UsualDirect   = 120000
	usualPatience = 800
)

// smallRepeated is up to how many unknowns equations that are solved at many steps in time
// are factorised: often the factors serve several steps.
const smallRepeated = 20000

// stale is after how many iterations a preconditioner is made anew for the next
// equations, if it has not been after twice those that it needed at first.
const stale = 30

// errSpent says that all iterations that were allowed have been made.
var errSpent = errors.New("the greatest number of iterations was made")

// linear solves the linear equations of Newton's method.
type linear struct {
	group     *Group
	symmetric bool
	limit     int // of all iterations, 0 for none
	outright  int // coupled fields with up to so many unknowns are factorised at once
	patience  int // iterations that one solution of coupled fields may take
	progress  func(iteration int, residual float64)
	always    bool // they are factorised, however many there are
	carried   bool // what is solved for is carried along by a flow
	repeated  bool // equations like these are solved many times
	weighed   bool // whether they are cheap to factorise has been asked

	// What stands beside the matrix, and the unknowns of which it holds nothing.
	distant []Distant
	fixed   []bool
	kept    []float64

	// Where most unknowns are held: which are not.
	marked []bool
	free   []int32

	result sparse.Result // of all together, with the status of the last
	direct *fem.Direct
	pre    sparse.Preconditioner
	fresh  int       // iterations of the first solution with it
	scale  []float64 // of the unknowns of coupled fields
	method string
}

func (g *Group) linear(kernel fem.Kernel, c *fem.Constraints, set *SolveSettings) *linear {
	l := &linear{group: g, fixed: c.Fixed, symmetric: set.Symmetric, limit: set.MaxIterations, progress: set.Progress, outright: set.DirectUnknowns, patience: set.Patience, always: set.Direct, carried: set.Carried}
	for _, k := range fem.Each(kernel) {
		if d, ok := k.(Distant); ok && d.Distant() {
			l.distant = append(l.distant, d)
		}
	}
	if l.outright == 0 {
		l.outright = UsualDirect
	}
	if l.patience == 0 {
		l.patience = usualPatience
	}
	return l
}

func (l *linear) solve(ctx context.Context, a *sparse.CSR, x, b []float64, tolerance float64) error {
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if l.limit > 0 && l.result.Iterations >= l.limit {
		return errSpent
	}
	fields := len(l.group.Own)
	if l.direct == nil && (l.always || fields > 1 && a.N() <= l.outright || l.repeated && a.N() <= smallRepeated) {
		l.factorise()
	}
	if l.direct == nil && !l.weighed && len(l.distant) == 0 {
		if l.weighed = true; l.group.cheap(a) {
			l.factorise()
		}
	}
	if l.direct != nil {
		return l.directly(ctx, a, x, b, tolerance)
	}
	given, right := a, b
	if fields > 1 {
		a, b = l.scaled(a, b)
	}
	if err := l.precondition(ctx, a); err != nil {
		return err
	}
	set := &sparse.Settings{Tolerance: max(tolerance, 1e-14)}
	if len(l.distant) > 0 {
		set.Beside = func(dst, x []float64) { l.beside(dst, x, fields > 1) }
	}
	if fields > 1 {
		set.MaxIterations = l.patience
	}
	last := false // it is the limit of all iterations that bounds these
	if left := l.limit - l.result.Iterations; l.limit > 0 && (fields == 1 || left <= l.patience) {
		set.MaxIterations, last = left, true
	}
	if before := l.result.Iterations; l.progress != nil {
		set.Progress = func(i int, r float64) { l.progress(before+i, r) }
	}
	solve := sparse.GMRES
	if l.symmetric {
		solve = sparse.CG
	}
	r := solve(ctx, a, b, x, l.pre, set)
	if r.Status == sparse.NotDefinite && l.symmetric {
		// A source that grows with the temperature can take the definiteness away.
		l.symmetric = false
		r = sparse.GMRES(ctx, a, b, x, l.pre, set)
	}
	l.note(r)
	if fields > 1 {
		for i, s := range l.scale {
			x[i] *= s
		}
	}
	if l.fresh == 0 {
		l.fresh = r.Iterations
	}
	if r.Iterations > stale || r.Iterations > 2*l.fresh+4 {
		l.pre, l.fresh = nil, 0
	}
	short := r.Status == sparse.LimitReached && !last || r.Status == sparse.Stagnated && r.Residual > 1e4*set.Tolerance
	if short || r.Status == sparse.NotDefinite {
		// The preconditioner does not suit the equations.
		l.factorise()
		return l.solve(ctx, given, x, right, tolerance)
	}
	if r.Status == sparse.Stopped {
		return ctx.Err()
	}
	return nil
}

// directly solves by factors of the matrix. What stands beside it is left to a few
// iterations.
func (l *linear) directly(ctx context.Context, a *sparse.CSR, x, b []float64, tolerance float64) error {
	if len(l.distant) == 0 {
		l.result.Status = sparse.Converged
		return l.within(x, b, func(x, b []float64) error {
			if len(x) < a.N() {
				a = a.Part(l.marked)
			}
			return l.direct.Solve(ctx, a, x, b, tolerance)
		})
	}
	factors, err := l.direct.Factor(ctx, a)
	if err != nil {
		return err
	}
	r := sparse.GMRES(ctx, a, b, x, factors, &sparse.Settings{Tolerance: max(tolerance, 1e-14), Beside: func(dst, x []float64) { l.beside(dst, x, false) }})
	l.note(r)
	if r.Status == sparse.Stopped {
		return ctx.Err()
	}
	return nil
}

// freeOf are the unknowns that are not held, where they are so few that they are solved for by themselves; nil else. What is held takes no step.
func (l *linear) freeOf(n int) []int32 {
	if l.marked == nil {
		l.marked = make([]bool, n)
		for i := range l.marked {
			if l.marked[i] = !l.fixed[i]; l.marked[i] {
				l.free = append(l.free, int32(i))
			}
		}
	}
	if 2*len(l.free) > n || len(l.free) == 0 {
		return nil
	}
	return l.free
}

// beside adds what stands beside the matrix, scaled as the matrix is if asked to.
func (l *linear) beside(dst, x []float64, scaled bool) {
	change := x
	if scaled {
		change = make([]float64, len(x))
		for i, v := range x {
			change[i] = l.scale[i] * v
		}
	}
	if l.kept == nil {
		l.kept = make([]float64, len(dst))
	}
	clear(l.kept)
	for _, d := range l.distant {
		d.AddDistant(l.kept, change)
	}
	for i, v := range l.kept {
		if scaled {
			v *= l.scale[i]
		}
		if !l.fixed[i] {
			dst[i] += v
		}
	}
}

// factorise goes over to a direct method.
func (l *linear) factorise() {
	kind := sparse.Unsymmetric
	l.method = "LU factorisation"
	if l.symmetric {
		kind = sparse.Symmetric
		l.method = "LDLᵀ factorisation"
	}
	l.direct = &fem.Direct{Kind: kind, Repeated: l.repeated, Kept: l.always && !l.repeated}
}

// again solves with the last matrix, which was factorised, once more.
func (l *linear) again(x, b []float64) error { return l.within(x, b, l.direct.Again) }

// within solves for the unknowns that are not held by themselves, where these are few.
func (l *linear) within(x, b []float64, solve func(x, b []float64) error) error {
	free := l.freeOf(len(b))
	if free == nil {
		return solve(x, b)
	}
	part, right := make([]float64, len(free)), make([]float64, len(free))
	for i, e := range free {
		right[i] = b[e]
	}
	err := solve(part, right)
	for i, e := range free {
		x[e] = part[i]
	}
	return err
}

func (l *linear) note(r sparse.Result) {
	l.result.Status, l.result.Residual = r.Status, r.Residual
	l.result.Iterations += r.Iterations
	l.result.History = append(l.result.History, r.History...)
}

// precondition makes the preconditioner if there is none.
func (l *linear) precondition(ctx context.Context, a *sparse.CSR) error {
	if l.pre != nil {
		return nil
	}
	if l.carried {
		return l.along(ctx, a)
	}
	if len(l.group.Own) == 1 {
		l.method = "conjugate gradients with smoothed-aggregation multigrid"
		if !l.symmetric {
			l.method = "generalised minimal residuals with smoothed-aggregation multigrid"
			a = a.SymmetricPart()
		}
		pre, err := sparse.NewAMG(ctx, a, l.group.hierarchy(l.fixed))
		if err != nil {
			return fmt.Errorf("the matrix cannot be solved: %w", err)
		}
		l.pre = pre
		return nil
	}
	l.method = "generalised minimal residuals with multigrid for each field"
	// The last field first: it drives the ones before it more than they drive it.
	field := l.group.System.FieldOf()
	second := make([]bool, a.N())
	for i, f := range field {
		second[i] = f == l.group.Own[0]
	}
	first := make([]bool, a.N())
	for i := range first {
		first[i] = !second[i]
	}
	var parts [2]sparse.Preconditioner
	for k, marked := range [2][]bool{first, second} {
		pre, err := sparse.NewAMG(ctx, a.Part(marked).SymmetricPart(), nil)
		if err != nil {
			return fmt.Errorf("the matrix cannot be solved: %w", err)
		}
		parts[k] = pre
	}
	var err error
	l.pre, err = sparse.NewBlocks(a, second, parts[0], parts[1], true)
	return err
}

// along makes a preconditioner for what is carried along.
func (l *linear) along(ctx context.Context, a *sparse.CSR) error {
	l.method = "generalised minimal residuals with multigrid and incomplete factors"
	blocks, err := sparse.NewBlocked[float32](a, 1)
	if err != nil {
		return err
	}
	at := make([][3]float64, a.N())
	for v := range int32(l.group.System.Grid.NodeCount()) {
		for _, f := range l.group.Own {
			if e := l.group.System.Equation(f, 0, v); e >= 0 {
				at[e] = l.group.System.Grid.At(v)
			}
		}
	}
	pre, err := sparse.NewBlockMultigrid(ctx, blocks, &sparse.BlockMultigridSettings{At: at, Held: l.fixed})
	if err != nil {
		return fmt.Errorf("the matrix cannot be solved: %w", err)
	}
	l.pre = pre
	return nil
}

// scaled makes the diagonals of all fields alike, so that residuals of different
// units can be compared.
func (l *linear) scaled(a *sparse.CSR, b []float64) (*sparse.CSR, []float64) {
	field := l.group.System.FieldOf()
	n := len(l.group.Fields)
	sum, count := make([]float64, n), make([]float64, n)
	for i, f := range field {
		cols, data := a.Row(i)
		if k, ok := slices.BinarySearch(cols, int32(i)); ok {
			sum[f] += math.Abs(data[k])
		}
		count[f]++
	}
	l.scale = make([]float64, a.N())
	for i, f := range field {
		l.scale[i] = 1
		if sum[f] > 0 {
			l.scale[i] = math.Sqrt(count[f] / sum[f])
		}
	}
	out := a.Clone()
	rhs := make([]float64, len(b))
	for i := range b {
		rhs[i] = l.scale[i] * b[i]
		for k := out.Rows[i]; k < out.Rows[i+1]; k++ {
			out.Data[k] *= l.scale[i] * l.scale[out.Cols[k]]
		}
	}
	return out, rhs
}

// A displacement is factorised if that is so many multiplications at most for each unknown, and takes so much memory, bytes:
// thin devices are, and their cells, often many times as long as thick, are hard for iterations.
const (
	cheapWork   = 3e5
	cheapMemory = 3 << 30
)

// cheap says that equations for which iterations are slow, of a displacement or of what is uneven, are factorised with little work,
// as the graph of the nodes tells.
func (g *Group) cheap(a *sparse.CSR) bool {
	f := &g.Fields[g.Own[0]]
	if len(g.Own) > 1 || !f.Rigid && !f.Uneven {
		return false
	}
	per := max(1, f.Components)
	nodes := sparse.Analyse(nodal(a, per), sparse.Symmetric, &sparse.OrderSettings{Ordering: sparse.Dissection})
	work, memory := float64(nodes.Work)*float64(per*per*per), nodes.Memory(8)*int64(per*per)
	return work <= cheapWork*float64(a.N()) && memory <= cheapMemory
}

// nodal is the pattern of a matrix by nodes, each of which has so many unknowns in turn.
func nodal(a *sparse.CSR, per int) *sparse.CSR {
	n := a.N() / per
	out := &sparse.CSR{Rows: make([]int32, n+1)}
	for v := range n {
		// A row may have less than the others of its node: what relations take out has its diagonal alone.
		begin := len(out.Cols)
		for _, c := range a.Cols[a.Rows[v*per]:a.Rows[(v+1)*per]] {
			if k := c / int32(per); len(out.Cols) == begin || out.Cols[len(out.Cols)-1] != k {
				out.Cols = append(out.Cols, k)
			}
		}
		slices.Sort(out.Cols[begin:])
		out.Cols = out.Cols[:begin+len(slices.Compact(out.Cols[begin:]))]
		out.Rows[v+1] = int32(len(out.Cols))
	}
	out.Data = make([]float64, len(out.Cols))
	return out
}
