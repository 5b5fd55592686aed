package fem

import (
	"context"
	"slices"

	"saltkettle/core/parallel"
	"saltkettle/core/sparse"
)

// State is where the equations of a system are assembled.
type State struct {
	U []float64
	// Rate is the rate of change of U, of fields with rates of second order that of its rate;
	// nil for a steady state. RateSlope is its derivative by U, or by field RateSlopes.
	Rate []float64
	// Speed is how fast fields with rates of second order change at the end of a step in time, nil if it is not known.
	Speed      []float64
	RateSlope  float64
	RateSlopes []float64
	// ByRates assembles the derivatives by the rates alone, with RateSlope.
	ByRates bool
	Time    float64
	// Swing is how far what swings is out of its middle: 1 is its amplitude.
	Swing float64
	// Given has the values of given fields, by field, at node·components + component.
	Given [][]float64
}

// JointKernel is a kernel with terms across joints. p is on side A, other has the
// values on side B.
type JointKernel interface {
	Kernel
	Joint(number int, p *Point, other []float64, t *JointTerms) error
}

// JointTerms is the integrand at a point of a joint. Source and SourceU act on side
// A and, with the other sign, on side B: they are what passes from A to B.
type JointTerms struct {
	*Terms
	// SourceOther has the derivatives of Source by the values on side B.
	SourceOther []float64
	// Both acts on both sides alike, with its derivatives by the values on either, and by the rates on either.
	Both, BothU, BothOther  []float64
	BothRate, BothRateOther []float64
}

// NewJointTerms makes terms for n components.
func NewJointTerms(n int) *JointTerms {
	by := func() []float64 { return make([]float64, n*n) }
	return &JointTerms{newTerms(n), by(), make([]float64, n), by(), by(), by(), by()}
}

func (t *JointTerms) reset() {
	t.Terms.reset()
	clear(t.SourceOther)
	clear(t.Both)
	clear(t.BothU)
	clear(t.BothOther)
	clear(t.BothRate)
	clear(t.BothRateOther)
}

// Assemble adds up the residual and, if it is not nil, the tangent of the equations
// of a kernel, both set to zero before. Each goroutine has rows of its own, so that
// the sums do not depend on their number.
func (s *System) Assemble(kernel Kernel, at *State, residual []float64, tangent *sparse.CSR) error {
	clear(residual)
	if tangent != nil {
		clear(tangent.Data)
	}
	if err := s.survey(kernel, at); err != nil {
		return err
	}
	return s.add(kernel, at, residual, tangent, nil)
}

// add adds the terms of a kernel to a residual and a tangent; which picks those that are
// linear, or the others, nil all.
func (s *System) add(kernel Kernel, at *State, residual []float64, tangent *sparse.CSR, which *bool) error {
	errs := make([]error, parallel.Workers())
	parallel.For(s.N, 256, func(worker, lo, hi int) {
		a := newAssembler(s, kernel, at, residual, tangent, int32(lo), int32(hi))
		a.which = which
		errs[worker] = a.run()
	})
	return first(errs)
}

// first is the first error of some goroutines, or nil.
func first(errs []error) error {
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

// assembler works for the rows from lo to hi.
type assembler struct {
	*System
	kernel   Kernel
	at       *State
	residual []float64
	tangent  *sparse.CSR
	ctx      context.Context // nil for one that is never over
	blocks   *Blocks         // of the tangent in their place, nil for none
	into     *sparse.Blocked[float32]
	lo, hi   int32
	only     map[int32]bool // parts, nil for all
	which    *bool          // linear terms alone or those that are not, nil for all
	point    Point
	terms    *Terms
	eq       []int32   // of the local unknowns, −1 for fields that are not there
	span     [][2]int  // by component: its local unknowns
	u, rate  []float64 // of the local unknowns
	lent     []float64 // values of given fields at the nodes at hand
	lentSpan [][2]int  // by component
	order    []int     // of the local unknowns by their equations
	f, k     []float64
	shapes   [][]float64 // by component at the point at hand
	slopes   [][][3]float64
	// Of the side at hand, nil within a cell, with its normal at the point at hand, and the functions of the fields that live on it.
	here   *Side
	nodes  []int32
	normal [3]float64
	along  [][]float64
	slant  [][][3]float64
	source []float64 // of a block, by column
	// rateSlopes are the derivatives of rates by values, by component.
	rateSlopes []float64
	flux       [][3]float64
}

// rateSlopes are the derivatives of rates by values at a state, by component.
func (s *System) rateSlopes(at *State) []float64 {
	list := make([]float64, s.Components)
	for f := range s.Fields {
		slope := at.RateSlope
		if at.RateSlopes != nil {
			slope = at.RateSlopes[f]
		}
		for c := range max(1, s.Fields[f].Components) {
			list[s.First[f]+c] = slope
		}
	}
	return list
}

func newAssembler(s *System, kernel Kernel, at *State, residual []float64, tangent *sparse.CSR, lo, hi int32) *assembler {
	n := s.Components
	if f, ok := kernel.(Forker); ok {
		kernel = f.Fork()
	}
	return &assembler{
		System: s, kernel: kernel, at: at, residual: residual, tangent: tangent, lo: lo, hi: hi,
		point: Point{Time: at.Time, Swing: at.Swing, Named: s.Named, U: make([]float64, n), Grad: make([][3]float64, n), Rate: make([]float64, n)},
		terms: newTerms(n),
		span:  make([][2]int, n), lentSpan: make([][2]int, n),
		shapes: make([][]float64, n), slopes: make([][][3]float64, n), rateSlopes: s.rateSlopes(at),
	}
}

// derives says that derivatives are wanted.
func (a *assembler) derives() bool { return a.tangent != nil || a.blocks != nil }

func (a *assembler) run() error {
	for bi := range a.Grid.Blocks {
		if err := a.runCells(bi); err != nil {
			return err
		}
	}
	if k, ok := a.kernel.(SideKernel); ok {
		run := a.runSides
		if byValues(a.kernel) {
			run = a.runFaces
		}
		if err := run(k); err != nil {
			return err
		}
	}
	for _, k := range Each(a.kernel) {
		if c, ok := k.(CornerKernel); ok {
			if err := a.runCorners(c); err != nil {
				return err
			}
		}
	}
	if k, ok := a.kernel.(JointKernel); ok {
		return a.runJoints(k)
	}
	return nil
}

// load lists the unknowns of a cell, or of a side of it; nil is the cell. It returns false if none of its rows is ours.
func (a *assembler) load(b *Block, cell int, side *Side) bool {
	if !a.touches(b.Nodes(cell)) {
		return false
	}
	a.fetch(b, cell, side)
	return true
}

// fetch is load whether any of the rows is ours or not.
func (a *assembler) fetch(b *Block, cell int, side *Side) {
	nodes, part := b.Nodes(cell), b.Part[cell]
	a.eq, a.here = a.eq[:0], side
	for f, field := range a.Fields {
		list := a.carried(f, b.Element, part, side)
		if field.Given {
			list = nil
		}
		for c := range field.Components {
			a.span[a.First[f]+c] = [2]int{len(a.eq), len(a.eq) + len(list)}
			for _, i := range list {
				a.eq = append(a.eq, a.System.eq[f][nodes[i]]+int32(c))
			}
		}
	}
	a.lent = a.lent[:0]
	for _, f := range a.given {
		a.nodes = a.nodes[:0]
		for _, i := range a.carried(f, b.Element, part, side) {
			a.nodes = append(a.nodes, nodes[i])
		}
		a.lend(f, a.nodes)
	}
	a.begin()
}

// lend fetches the values of a given field at the nodes at hand that carry it.
func (a *assembler) lend(f int, nodes []int32) {
	n := a.Fields[f].Components
	known := f < len(a.at.Given) && a.at.Given[f] != nil
	for c := range n {
		from := len(a.lent)
		if known {
			for _, v := range nodes {
				a.lent = append(a.lent, a.at.Given[f][int(v)*n+c])
			}
		}
		a.lentSpan[a.First[f]+c] = [2]int{from, len(a.lent)}
	}
}

// local are the values of a component that is solved for, or given, at the nodes at hand.
func (a *assembler) local(comp int) []float64 {
	if u := a.span[comp]; u[0] < u[1] {
		return a.u[u[0]:u[1]]
	}
	return a.lent[a.lentSpan[comp][0]:a.lentSpan[comp][1]]
}

// begin fetches the values of the local unknowns and clears their sums.
func (a *assembler) begin() {
	n := len(a.eq)
	a.u, a.rate = a.u[:0], a.rate[:0]
	for _, eq := range a.eq {
		a.u = append(a.u, a.at.U[eq])
		if a.at.Rate != nil {
			a.rate = append(a.rate, a.at.Rate[eq])
		}
	}
	a.sort(a.eq)
	if cap(a.f) < n {
		a.f, a.k = make([]float64, n), make([]float64, n*n)
	}
	a.f, a.k = a.f[:n], a.k[:n*n]
	clear(a.f)
	clear(a.k)
}

// sort orders local unknowns by their equations.
func (a *assembler) sort(eqs []int32) {
	a.order = a.order[:0]
	for i, eq := range eqs {
		at := len(a.order)
		a.order = append(a.order, i)
		for ; at > 0 && eqs[a.order[at-1]] > eq; at-- {
			a.order[at] = a.order[at-1]
		}
		a.order[at] = i
	}
}

// functions points to the shape functions and gradients of all components at a point.
func (a *assembler) functions(e *Element, c *cell, q int) {
	lowDone := false
	for f, field := range a.Fields {
		n, g := c.n[q], c.grad
		if a.low(f, e) {
			if !lowDone {
				c.setLow(q)
				lowDone = true
			}
			n, g = c.low[q], c.lowGrad
		}
		if a.on[f] != nil && a.here != nil {
			n, g = a.surface(f, a.carried(f, e, a.Grid.Blocks[a.here.Block].Part[a.here.Cell], a.here), n, g)
		}
		for comp := a.First[f]; comp < a.First[f]+field.Components; comp++ {
			a.shapes[comp], a.slopes[comp] = n, g
		}
	}
}

// surface are the functions of a field that lives on the side at hand, and their slopes along it, from those of its cell.
func (a *assembler) surface(f int, list []int, n []float64, g [][3]float64) ([]float64, [][3]float64) {
	if a.along == nil {
		a.along, a.slant = make([][]float64, len(a.Fields)), make([][][3]float64, len(a.Fields))
	}
	own, slopes := a.along[f][:0], a.slant[f][:0]
	for _, i := range list {
		slope := g[i]
		across := slope[0]*a.normal[0] + slope[1]*a.normal[1] + slope[2]*a.normal[2]
		for d := range slope {
			slope[d] -= across * a.normal[d]
		}
		own, slopes = append(own, n[i]), append(slopes, slope)
	}
	a.along[f], a.slant[f] = own, slopes
	return own, slopes
}

// fields computes the components at a point.
func (a *assembler) fields(e *Element, c *cell, q int) {
	a.functions(e, c, q)
	for f, field := range a.Fields {
		for comp := a.First[f]; comp < a.First[f]+field.Components; comp++ {
			n, g := a.shapes[comp], a.slopes[comp]
			var u, rate float64
			var grad [3]float64
			local := a.local(comp)
			n, g = n[:len(local)], g[:len(local)]
			for i, v := range local {
				s := &g[i]
				u += n[i] * v
				grad[0] += s[0] * v
				grad[1] += s[1] * v
				grad[2] += s[2] * v
			}
			if len(a.rate) > 0 {
				for i, v := range a.rate[a.span[comp][0]:a.span[comp][1]] {
					rate += n[i] * v
				}
			}
			a.point.U[comp], a.point.Grad[comp], a.point.Rate[comp] = u, grad, rate
		}
	}
}

// add integrates the terms at a point of the given weight into the local residual
// and tangent.
func (a *assembler) add(w float64, fluxes bool) {
	t, n := a.terms, a.Components
	for r := range n {
		lo, hi := a.span[r][0], a.span[r][1]
		if lo == hi {
			continue
		}
		shape, slope := a.shapes[r], a.slopes[r]
		s, q := w*t.Source[r], t.Flux[r]
		for d := range q {
			q[d] *= w
		}
		for i := range hi - lo {
			v := s * shape[i]
			if fluxes {
				g := &slope[i]
				v += q[0]*g[0] + q[1]*g[1] + q[2]*g[2]
			}
			a.f[lo+i] += v
		}
		if !a.derives() {
			continue
		}
		for c := range n {
			if a.span[c][0] < a.span[c][1] {
				a.addBlock(r, c, w, fluxes)
			}
		}
	}
}

// addBlock integrates the derivatives of component r by component c.
func (a *assembler) addBlock(r, c int, w float64, fluxes bool) {
	t, at := a.terms, r*a.Components+c
	su, sg, fu, fg := t.SourceU[at], t.SourceGrad[at], t.FluxU[at], t.FluxGrad[at]
	if a.at.ByRates {
		su, sg, fu, fg = 0, [3]float64{}, [3]float64{}, [3][3]float64{}
	}
	rate := a.rateSlopes[c]
	su += rate * t.SourceRate[at]
	for d := range fu {
		fu[d] += rate * t.FluxRate[at][d]
	}
	if !fluxes {
		fu, fg = [3]float64{}, [3][3]float64{}
	}
	hasFlux := fu != [3]float64{} || fg != [3][3]float64{}
	hasSource := su != 0 || sg != [3]float64{}
	if !hasFlux && !hasSource {
		return
	}
	rows, cols, n := a.span[r], a.span[c], len(a.f)
	shape, slope := a.shapes[r][:rows[1]-rows[0]], a.slopes[r]
	slope = slope[:len(shape)]
	m := cols[1] - cols[0]
	a.source, a.flux = slices.Grow(a.source[:0], m)[:m], slices.Grow(a.flux[:0], m)[:m]
	source, flux := a.source, a.flux
	other, slopes := a.shapes[c][:m], a.slopes[c][:m]
	for j, nj := range other {
		gj := &slopes[j]
		source[j] = w * (su*nj + sg[0]*gj[0] + sg[1]*gj[1] + sg[2]*gj[2])
		f := &flux[j]
		f[0] = w * (fu[0]*nj + fg[0][0]*gj[0] + fg[0][1]*gj[1] + fg[0][2]*gj[2])
		f[1] = w * (fu[1]*nj + fg[1][0]*gj[0] + fg[1][1]*gj[1] + fg[1][2]*gj[2])
		f[2] = w * (fu[2]*nj + fg[2][0]*gj[0] + fg[2][1]*gj[1] + fg[2][2]*gj[2])
	}
	for i, ni := range shape {
		k := a.k[(rows[0]+i)*n+cols[0]:][:m]
		if hasSource {
			for j, v := range source[:len(k)] {
				k[j] += v * ni
			}
		}
		if hasFlux {
			g := slope[i]
			for j := range flux[:len(k)] {
				f := &flux[j]
				k[j] += f[0]*g[0] + f[1]*g[1] + f[2]*g[2]
			}
		}
	}
}

// scatter adds the local residual and tangent to our rows.
func (a *assembler) scatter() {
	n := len(a.eq)
	for i, row := range a.eq {
		if row < a.lo || row >= a.hi {
			continue
		}
		a.residual[row] += a.f[i]
		if a.blocks != nil {
			for j, col := range a.eq {
				a.scatterBlocks(row, col, a.k[i*n+j])
			}
			continue
		}
		if a.tangent == nil {
			continue
		}
		cols, data := a.tangent.Row(int(row))
		data = data[:len(cols)]
		k, at := a.k[i*n:(i+1)*n], 0
		for _, j := range a.order {
			eq := a.eq[j]
			for cols[at] < eq {
				at++
			}
			data[at] += k[j]
		}
	}
}

// sideCache keeps the sides of elements that were prepared.
type sideCache map[[2]int]*side

func (s *System) side(cache sideCache, of Side) *side {
	key := [2]int{of.Block, of.Facet}
	f, ok := cache[key]
	if !ok {
		e := s.Grid.Blocks[of.Block].Element
		f = newSide(e, NewElement(e.Form, 1), of.Facet, s.rules[of.Block])
		cache[key] = f
	}
	return f
}

func (a *assembler) runSides(k SideKernel) error {
	take := func(number int, s Side) bool {
		return a.takes(a.linearSide(number)) && a.load(&a.Grid.Blocks[s.Block], s.Cell, &s)
	}
	return a.eachSide(a.sides, take, func(number int, on *side, points []Point) error {
		if err := a.sideTerms(k, number, on, points); err != nil {
			return err
		}
		a.scatter()
		return nil
	})
}

// sideTerms integrates the terms on a side whose cell is loaded.
func (a *assembler) sideTerms(k SideKernel, number int, on *side, points []Point) error {
	if p, ok := a.kernel.(Preparer); ok {
		if err := p.Prepare(number, points); err != nil {
			return err
		}
	}
	e := a.Grid.Blocks[a.sides[number].Block].Element
	for q := range points {
		on.restore(q)
		a.normal = on.normal
		a.functions(e, on.cell, q)
		a.terms.reset()
		if err := k.Side(number, &points[q], a.terms); err != nil {
			return err
		}
		a.add(on.weight, true) // what lives in parts has no fluxes here
	}
	return nil
}

// eachSide calls f for those of some sides that take lets pass, with the points on
// them.
func (a *assembler) eachSide(sides []Side, take func(number int, s Side) bool, f func(number int, s *side, points []Point) error) error {
	cache := sideCache{}
	var points []Point
	for number, s := range sides {
		if !take(number, s) {
			continue
		}
		b := &a.Grid.Blocks[s.Block]
		on := a.side(cache, s)
		on.load(a.Grid, b.Nodes(s.Cell))
		for q := range on.rule.Points {
			if err := on.set(q); err != nil {
				return err
			}
			a.normal = on.normal
			a.fields(b.Element, on.cell, q)
			if q == len(points) {
				n := a.Components
				points = append(points, Point{Named: a.Named, U: make([]float64, n), Grad: make([][3]float64, n), Rate: make([]float64, n)})
			}
			p := &points[q]
			p.Number, p.Part, p.Time, p.Swing, p.X, p.Normal = q, b.Part[s.Cell], a.at.Time, a.at.Swing, on.x, on.normal
			copy(p.U, a.point.U)
			copy(p.Grad, a.point.Grad)
			copy(p.Rate, a.point.Rate)
			p.Nodes, p.Functions, p.slopes, p.Inverse = b.Nodes(s.Cell), on.cell.n[q], on.cell.dn[q], on.inverse
		}
		if err := f(number, on, points[:len(on.rule.Points)]); err != nil {
			return err
		}
	}
	return nil
}
