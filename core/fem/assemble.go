package fem

import (
	"slices"
	"sync"

	"saltkettle/core/parallel"
	"saltkettle/core/sparse"
)

// State is where the equations of a system are assembled.
type State struct {
	U []float64
	// Rate is the rate of change of U, nil for a steady state; RateSlope its
	// derivative by U.
	Rate      []float64
	RateSlope float64
	Time      float64
}

// JointKernel is a kernel with terms across joints. p is on side A, other has the
// values on side B. Source of the terms acts on side A and, with the other sign,
// on side B; otherSource has its derivatives by the values of side B.
type JointKernel interface {
	Kernel
	Joint(number int, p *Point, other []float64, t *Terms, otherSource []float64) error
}

// Assemble adds up the residual and, if it is not nil, the tangent of the equations
// of a kernel, both set to zero before. Each goroutine has rows of its own, so that
// the sums do not depend on their number.
func (s *System) Assemble(kernel Kernel, at *State, residual []float64, tangent *sparse.CSR) error {
	clear(residual)
	if tangent != nil {
		clear(tangent.Data)
	}
	var mu sync.Mutex
	var failed error
	parallel.For(s.N, 1024, func(_, lo, hi int) {
		a := newAssembler(s, kernel, at, residual, tangent, int32(lo), int32(hi))
		if err := a.run(); err != nil {
			mu.Lock()
			failed = err
			mu.Unlock()
		}
	})
	return failed
}

// assembler works for the rows from lo to hi.
type assembler struct {
	*System
	kernel   Kernel
	at       *State
	residual []float64
	tangent  *sparse.CSR
	lo, hi   int32
	point    Point
	terms    *Terms
	eq       []int32  // of the local unknowns, −1 for fields that are not there
	span     [][2]int // by component: its local unknowns
	f, k     []float64
	shapes   [][]float64 // by component at the point at hand
	slopes   [][][3]float64
	source   []float64 // of a block, by column
	flux     [][3]float64
}

func newAssembler(s *System, kernel Kernel, at *State, residual []float64, tangent *sparse.CSR, lo, hi int32) *assembler {
	n := s.Components
	return &assembler{
		System: s, kernel: kernel, at: at, residual: residual, tangent: tangent, lo: lo, hi: hi,
		point:  Point{Time: at.Time, U: make([]float64, n), Grad: make([][3]float64, n), Rate: make([]float64, n)},
		terms:  newTerms(n),
		span:   make([][2]int, n),
		shapes: make([][]float64, n), slopes: make([][][3]float64, n),
	}
}

func (a *assembler) run() error {
	for bi := range a.Grid.Blocks {
		b := &a.Grid.Blocks[bi]
		low := NewElement(b.Element.Form, 1)
		c := newCell(b.Element, low, NewRule(b.Element.Form, a.rules[bi]))
		for cell, part := range b.Part {
			if !a.load(b, cell) {
				continue
			}
			nodes := b.Nodes(cell)
			for q := range c.rule.Points {
				if err := c.set(a.Grid, nodes, q); err != nil {
					return err
				}
				a.fields(b.Element, c, q)
				a.point.Part, a.point.X = part, c.x
				a.terms.reset()
				if err := a.kernel.Cell(&a.point, a.terms); err != nil {
					return err
				}
				a.add(c.weight, true)
			}
			a.scatter()
		}
	}
	if k, ok := a.kernel.(SideKernel); ok {
		if err := a.runSides(k); err != nil {
			return err
		}
	}
	if k, ok := a.kernel.(JointKernel); ok {
		return a.runJoints(k)
	}
	return nil
}

// load lists the unknowns of a cell. It returns false if none of its rows is ours.
func (a *assembler) load(b *Block, cell int) bool {
	nodes, part := b.Nodes(cell), b.Part[cell]
	mine := false
	for _, v := range nodes {
		g := a.group[v]
		mine = mine || a.start[g] < a.hi && a.start[g+1] > a.lo
	}
	if !mine {
		return false
	}
	a.eq = a.eq[:0]
	for f, field := range a.Fields {
		k := a.count(f, b.Element)
		if !a.lives(f, part) {
			k = 0
		}
		for c := range field.Components {
			a.span[a.First[f]+c] = [2]int{len(a.eq), len(a.eq) + k}
			for _, v := range nodes[:k] {
				a.eq = append(a.eq, a.System.eq[f][v]+int32(c))
			}
		}
	}
	n := len(a.eq)
	if cap(a.f) < n {
		a.f, a.k = make([]float64, n), make([]float64, n*n)
	}
	a.f, a.k = a.f[:n], a.k[:n*n]
	clear(a.f)
	clear(a.k)
	return true
}

// fields computes the components at a point.
func (a *assembler) fields(e *Element, c *cell, q int) {
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
		for comp := a.First[f]; comp < a.First[f]+field.Components; comp++ {
			a.shapes[comp], a.slopes[comp] = n, g
			var u, rate float64
			var grad [3]float64
			lo, hi := a.span[comp][0], a.span[comp][1]
			for i, eq := range a.eq[lo:hi] {
				v := a.at.U[eq]
				u += n[i] * v
				grad[0] += g[i][0] * v
				grad[1] += g[i][1] * v
				grad[2] += g[i][2] * v
				if a.at.Rate != nil {
					rate += n[i] * a.at.Rate[eq]
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
		for i := range hi - lo {
			v := s * shape[i]
			if fluxes {
				g := &slope[i]
				v += w * (q[0]*g[0] + q[1]*g[1] + q[2]*g[2])
			}
			a.f[lo+i] += v
		}
		if a.tangent == nil {
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
	su := t.SourceU[at] + a.at.RateSlope*t.SourceRate[at]
	sg := t.SourceGrad[at]
	fu, fg := t.FluxU[at], t.FluxGrad[at]
	for d := range fu {
		fu[d] += a.at.RateSlope * t.FluxRate[at][d]
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
		if a.tangent == nil {
			continue
		}
		cols, data := a.tangent.Row(int(row))
		for j, v := range a.k[i*n : (i+1)*n] {
			if v != 0 {
				at, _ := slices.BinarySearch(cols, a.eq[j])
				data[at] += v
			}
		}
	}
}

// sideCache keeps the sides of elements that were prepared.
type sideCache map[[2]int]*side

func (a *assembler) side(cache sideCache, s Side) *side {
	key := [2]int{s.Block, s.Facet}
	f, ok := cache[key]
	if !ok {
		e := a.Grid.Blocks[s.Block].Element
		f = newSide(e, NewElement(e.Form, 1), s.Facet, a.rules[s.Block])
		cache[key] = f
	}
	return f
}

func (a *assembler) runSides(k SideKernel) error {
	cache := sideCache{}
	for number, s := range a.sides {
		b := &a.Grid.Blocks[s.Block]
		if !a.load(b, s.Cell) {
			continue
		}
		f := a.side(cache, s)
		for q := range f.rule.Points {
			if err := f.set(a.Grid, b.Nodes(s.Cell), q); err != nil {
				return err
			}
			a.fields(b.Element, f.cell, q)
			a.point.Part, a.point.X, a.point.Normal = b.Part[s.Cell], f.x, f.normal
			a.terms.reset()
			if err := k.Side(number, &a.point, a.terms); err != nil {
				return err
			}
			a.add(f.weight, false)
		}
		a.scatter()
	}
	return nil
}
