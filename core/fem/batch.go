package fem

import (
	"slices"

	"saltkettle/core/dense"
)

// batchCells is how many cells are integrated together.
const batchCells = 64

// Forker is a kernel with work memory: each goroutine asks for one of its own.
type Forker interface {
	Kernel
	Fork() Kernel
}

// Preparer is a kernel that wants to see all points of some cells or of a side of a
// cell at once, before it is called for each of them, so that it can evaluate laws
// of the place and the fields for many points in one go. All lie in one part. Point.Number
// is the place of a point among them. side is −1 for cells.
type Preparer interface {
	Kernel
	Prepare(side int, points []Point) error
}

// batch integrates cells of one part many at a time. The terms at all quadrature
// points are turned to the reference cell, where the products of the shape functions
// and of their derivatives are the same for all cells: what is left of integration is
// the product of two full matrices.
type batch struct {
	*assembler
	number int // of the block
	c      *cell
	block  *Block
	low    *Element
	// By low order of rows and of columns.
	tables [2][2]*table
	names  []int
	all    []Point
	points []Point // of the cells at hand
	// Of each point.
	inverse [][3][3]float64
	weight  []float64
	// Local structure: how many unknowns a cell has, where the block of components r
	// and c begins in its matrix, and for each local unknown its component.
	n     int
	begin []int
	comp  []int
	eqs   []int32 // by cell
	// Coefficients of the reference cell by kind and pair of components, with whether
	// any of a kind is not zero.
	kinds []coefficients
	k, f  []float64 // of all cells
	bend  *bend     // nil if nobody wants second derivatives
	found []int     // blocks of a node with those of its cell
	small small
	// isAlike says that the cells at hand are integrated by small.
	isAlike bool
}

// table holds products of functions and of derivatives at the quadrature points.
type table struct {
	gradGrad, gradValue, valueGrad, valueValue []float64
}

// coefficients of the terms of one pair of components.
type coefficients struct {
	gradGrad, gradValue, valueGrad, valueValue             []float64
	hasGradGrad, hasGradValue, hasValueGrad, hasValueValue bool
}

// newBatch takes one that is at rest or makes one.
func newBatch(a *assembler, bi int) *batch {
	b, ok := a.batches[bi].Get().(*batch)
	if !ok {
		b = &batch{block: &a.Grid.Blocks[bi], number: bi}
		b.low = NewElement(b.block.Element.Form, 1)
		b.found = make([]int, b.block.Element.Count())
		b.c = newCell(b.block.Element, b.low, NewRule(b.block.Element.Form, a.rules[bi]))
	}
	b.assembler, b.bend = a, nil
	if a.kernel != nil && seconds(a.kernel) {
		b.bend = newBend(b.block.Element, b.low, b.c.rule)
	}
	return b
}

// rest gives the batch back for others, with its memory.
func (b *batch) rest() {
	pool := &b.batches[b.number]
	b.assembler, b.names = nil, b.names[:0]
	pool.Put(b)
}

// runCells integrates the cells of a block.
func (a *assembler) runCells(bi int) error {
	b := newBatch(a, bi)
	defer b.rest()
	of := func(at int) int {
		if a.byPart[bi] == nil {
			return at
		}
		return int(a.byPart[bi][at])
	}
	part, linear := int32(-1), false
	for at := range b.block.Part {
		cell := of(at)
		if p := b.block.Part[cell]; p != part || len(b.names) == batchCells {
			if err := b.flush(); err != nil {
				return err
			}
			if p != part {
				part = p
				b.layout(part)
				linear = a.linearCells(part)
			}
		}
		if b.n > 0 && (a.only == nil || a.only[part]) && a.takes(linear) && a.touches(b.block.Nodes(cell)) {
			b.names = append(b.names, cell)
		}
	}
	return b.flush()
}

// touches says whether any row of a node is ours.
func (a *assembler) touches(nodes []int32) bool {
	for _, v := range nodes {
		for f, eq := range a.System.eq {
			if e := eq[v]; e >= 0 && e < a.hi && e+int32(a.Fields[f].Components) > a.lo {
				return true
			}
		}
	}
	return false
}

// layout finds the local structure of the cells of a part.
func (b *batch) layout(part int32) {
	a := b.assembler
	b.comp = b.comp[:0]
	for f, field := range a.Fields {
		k := a.count(f, b.block.Element)
		if !a.lives(f, part) {
			k = 0
		}
		for c := range field.Components {
			comp := a.First[f] + c
			a.span[comp] = [2]int{len(b.comp), len(b.comp) + k}
			for range k {
				b.comp = append(b.comp, comp)
			}
		}
	}
	b.n = len(b.comp)
	pairs := a.Components * a.Components
	b.begin = slices.Grow(b.begin[:0], pairs)[:pairs]
	if b.kinds == nil {
		b.kinds = make([]coefficients, pairs)
	}
	at := 0
	for r := range a.Components {
		for c := range a.Components {
			b.begin[r*a.Components+c] = at
			at += a.width(r) * a.width(c)
		}
	}
	b.isAlike = b.alike()
}

// width is the number of local unknowns of a component.
func (a *assembler) width(comp int) int { return a.span[comp][1] - a.span[comp][0] }

// functions of a field at a point of the reference cell.
func (b *batch) functions(f, q int) (n []float64, dn [][3]float64) {
	if b.assembler.System.low(f, b.block.Element) {
		return b.c.low[q], b.c.lowSlop[q]
	}
	return b.c.n[q], b.c.dn[q]
}

// flush integrates the cells that have been collected.
func (b *batch) flush() error {
	if len(b.names) == 0 {
		return nil
	}
	if ctx := b.assembler.ctx; ctx != nil && ctx.Err() != nil {
		return ctx.Err()
	}
	defer func() { b.names = b.names[:0] }()
	if err := b.place(); err != nil {
		return err
	}
	if p, ok := b.kernel.(Preparer); ok {
		if err := p.Prepare(-1, b.points); err != nil {
			return err
		}
	}
	if err := b.evaluate(); err != nil {
		return err
	}
	if b.derives() && !b.isAlike {
		b.multiply()
	}
	b.scatterAll()
	return nil
}

// place computes geometry and fields at all points.
func (b *batch) place() error {
	a, points := b.assembler, len(b.c.rule.Points)
	total := len(b.names) * points
	for len(b.all) < total {
		n := a.Components
		b.all = append(b.all, Point{Number: len(b.all), Named: b.assembler.Named, U: make([]float64, n), Grad: make([][3]float64, n), Rate: make([]float64, n)})
	}
	b.points = b.all[:total]
	b.inverse, b.weight = slices.Grow(b.inverse[:0], total)[:total], slices.Grow(b.weight[:0], total)[:total]
	b.eqs = b.eqs[:0]
	k := 0
	for _, name := range b.names {
		nodes := b.block.Nodes(name)
		b.c.load(a.Grid, nodes)
		first := len(b.eqs)
		for f, field := range a.Fields {
			for c := range field.Components {
				for _, v := range nodes[:a.width(a.First[f]+c)] {
					b.eqs = append(b.eqs, a.System.eq[f][v]+int32(c))
				}
			}
		}
		a.lent = a.lent[:0]
		for _, f := range a.given {
			part := b.block.Part[name]
			a.lend(f, nodes[:len(a.carried(f, b.block.Element, part, nil))])
		}
		a.u, a.rate = a.u[:0], a.rate[:0]
		for _, eq := range b.eqs[first:] {
			a.u = append(a.u, a.at.U[eq])
			if a.at.Rate != nil {
				a.rate = append(a.rate, a.at.Rate[eq])
			}
		}
		for q := range points {
			if err := b.c.move(q); err != nil {
				return err
			}
			b.inverse[k], b.weight[k] = b.c.inverse, b.c.weight
			p := &b.points[k]
			p.Part, p.X, p.Time, p.Swing = b.block.Part[name], b.c.x, a.at.Time, a.at.Swing
			p.Inverse, p.regular = b.c.inverse, &b.block.Element.Regular
			p.Nodes, p.Functions, p.slopes = nodes, b.c.n[q], b.c.dn[q]
			b.locate(p, q)
			if b.bend != nil {
				if p.Second == nil {
					p.Second = make([][6]float64, a.Components)
				}
				b.bendAt(p, q)
			}
			k++
		}
	}
	return nil
}

// locate computes the components at a point.
func (b *batch) locate(p *Point, q int) {
	a, m := b.assembler, &b.c.inverse
	for f, field := range a.Fields {
		n, dn := b.functions(f, q)
		for comp := a.First[f]; comp < a.First[f]+field.Components; comp++ {
			u := a.local(comp)
			n, dn := n[:len(u)], dn[:len(u)]
			var here, rate, g0, g1, g2 float64
			for i, v := range u {
				d := &dn[i]
				here += n[i] * v
				g0 += d[0] * v
				g1 += d[1] * v
				g2 += d[2] * v
			}
			if len(a.rate) > 0 {
				for i, v := range a.rate[a.span[comp][0]:a.span[comp][1]] {
					rate += n[i] * v
				}
			}
			p.U[comp], p.Rate[comp] = here, rate
			g := &p.Grad[comp]
			g[0] = g0*m[0][0] + g1*m[1][0] + g2*m[2][0]
			g[1] = g0*m[0][1] + g1*m[1][1] + g2*m[2][1]
			g[2] = g0*m[0][2] + g1*m[1][2] + g2*m[2][2]
		}
	}
}

// evaluate calls the kernel at all points and turns its terms to the reference cell.
func (b *batch) evaluate() error {
	a := b.assembler
	cells, points, dim := len(b.names), len(b.c.rule.Points), b.c.dimension
	b.f = slices.Grow(b.f[:0], cells*b.n)[:cells*b.n]
	clear(b.f)
	if b.isAlike {
		return b.evaluateAlike()
	}
	for i := range b.kinds {
		b.kinds[i].clear(len(b.points), dim)
	}
	for k := range b.points {
		a.terms.reset()
		if err := a.kernel.Cell(&b.points[k], a.terms); err != nil {
			return err
		}
		m, w, q := &b.inverse[k], b.weight[k], k%points
		f := b.f[k/points*b.n : (k/points+1)*b.n]
		for fi, field := range a.Fields {
			n, dn := b.functions(fi, q)
			for r := a.First[fi]; r < a.First[fi]+field.Components; r++ {
				rows := f[a.span[r][0]:a.span[r][1]]
				s, v := w*a.terms.Source[r], a.terms.Flux[r]
				var g [3]float64
				for d := range dim {
					g[d] = w * (m[d][0]*v[0] + m[d][1]*v[1] + m[d][2]*v[2])
				}
				n, dn := n[:len(rows)], dn[:len(rows)]
				for i := range rows {
					d := &dn[i]
					rows[i] += s*n[i] + g[0]*d[0] + g[1]*d[1] + g[2]*d[2]
				}
			}
		}
		if !a.derives() {
			continue
		}
		for r := range a.Components {
			for c := range a.Components {
				if a.width(r) > 0 && a.width(c) > 0 {
					b.turn(r*a.Components+c, k, a.rateSlopes[c], m, w)
				}
			}
		}
	}
	return nil
}

// turn takes the derivatives of a pair of components at a point to the reference
// cell.
func (b *batch) turn(pair, k int, slope float64, m *[3][3]float64, w float64) {
	t, o, dim := b.terms, &b.kinds[pair], b.c.dimension
	if b.at.ByRates {
		b.turnRates(pair, k, slope, m, w)
		return
	}
	if s := t.SourceU[pair] + slope*t.SourceRate[pair]; s != 0 {
		o.hasValueValue = true
		o.valueValue[k] = w * s
	}
	if s := &t.SourceGrad[pair]; *s != ([3]float64{}) {
		o.hasValueGrad = true
		for d, out := range o.valueGrad[k*dim : (k+1)*dim] {
			o.valueGrad[k*dim+d] = out + w*(m[d][0]*s[0]+m[d][1]*s[1]+m[d][2]*s[2])
		}
	}
	f := t.FluxU[pair]
	if slope != 0 {
		for d, v := range t.FluxRate[pair] {
			f[d] += slope * v
		}
	}
	if f != ([3]float64{}) {
		o.hasGradValue = true
		for d := range dim {
			o.gradValue[k*dim+d] = w * (m[d][0]*f[0] + m[d][1]*f[1] + m[d][2]*f[2])
		}
	}
	g := &t.FluxGrad[pair]
	if *g == ([3][3]float64{}) {
		return
	}
	o.hasGradGrad = true
	out := o.gradGrad[k*dim*dim : (k+1)*dim*dim]
	for d := range dim {
		x, y, z := w*m[d][0], w*m[d][1], w*m[d][2]
		v0 := x*g[0][0] + y*g[1][0] + z*g[2][0]
		v1 := x*g[0][1] + y*g[1][1] + z*g[2][1]
		v2 := x*g[0][2] + y*g[1][2] + z*g[2][2]
		for e := range dim {
			out[d*dim+e] = v0*m[e][0] + v1*m[e][1] + v2*m[e][2]
		}
	}
}

// turnRates is turn with the derivatives by the rates alone.
func (b *batch) turnRates(pair, k int, slope float64, m *[3][3]float64, w float64) {
	o, dim := &b.kinds[pair], b.c.dimension
	w *= slope
	if s := b.terms.SourceRate[pair]; s != 0 {
		o.hasValueValue = true
		o.valueValue[k] = w * s
	}
	if f := b.terms.FluxRate[pair]; f != ([3]float64{}) {
		o.hasGradValue = true
		for d := range dim {
			o.gradValue[k*dim+d] = w * (m[d][0]*f[0] + m[d][1]*f[1] + m[d][2]*f[2])
		}
	}
}

// clear makes room for the coefficients at some points and sets them to zero.
func (o *coefficients) clear(points, dim int) {
	for _, list := range []struct {
		data *[]float64
		has  *bool
		size int
	}{
		{&o.gradGrad, &o.hasGradGrad, dim * dim}, {&o.gradValue, &o.hasGradValue, dim},
		{&o.valueGrad, &o.hasValueGrad, dim}, {&o.valueValue, &o.hasValueValue, 1},
	} {
		size := points * list.size
		if cap(*list.data) < size {
			*list.data = make([]float64, size)
		} else if *list.has {
			clear(*list.data)
		}
		*list.data, *list.has = (*list.data)[:size], false
	}
}

// multiply integrates the derivatives.
func (b *batch) multiply() {
	a := b.assembler
	cells, points, dim := len(b.names), len(b.c.rule.Points), b.c.dimension
	size := b.n * b.n
	b.k = slices.Grow(b.k[:0], cells*size)[:cells*size]
	clear(b.k)
	for rf, row := range a.Fields {
		for cf, col := range a.Fields {
			t := b.table(rf, cf)
			for r := a.First[rf]; r < a.First[rf]+row.Components; r++ {
				for c := a.First[cf]; c < a.First[cf]+col.Components; c++ {
					pair := r*a.Components + c
					width := a.width(r) * a.width(c)
					o := &b.kinds[pair]
					for _, part := range []struct {
						has         bool
						data, table []float64
						depth       int
					}{
						{o.hasGradGrad, o.gradGrad, t.gradGrad, dim * dim}, {o.hasGradValue, o.gradValue, t.gradValue, dim},
						{o.hasValueGrad, o.valueGrad, t.valueGrad, dim}, {o.hasValueValue, o.valueValue, t.valueValue, 1},
					} {
						if part.has && width > 0 {
							depth := part.depth * points
							dense.Add(b.k[b.begin[pair]:], size, cells, width, depth, 1,
								dense.Operand[float64]{Data: part.data, Row: depth, Col: 1}, dense.Operand[float64]{Data: part.table, Row: width, Col: 1}, dense.Full, 1)
						}
					}
				}
			}
		}
	}
}

// table returns the products of the functions of two fields.
func (b *batch) table(row, col int) *table {
	which := func(f int) int {
		if b.assembler.System.low(f, b.block.Element) {
			return 1
		}
		return 0
	}
	at := &b.tables[which(row)][which(col)]
	if *at != nil {
		return *at
	}
	t := &table{}
	dim := b.c.dimension
	for q := range b.c.rule.Points {
		n, dn := b.functions(row, q)
		m, dm := b.functions(col, q)
		for d := range dim {
			for e := range dim {
				for i := range dn {
					for j := range dm {
						t.gradGrad = append(t.gradGrad, dn[i][d]*dm[j][e])
					}
				}
			}
			for i := range dn {
				for j := range m {
					t.gradValue = append(t.gradValue, dn[i][d]*m[j])
				}
			}
			for i := range n {
				for j := range dm {
					t.valueGrad = append(t.valueGrad, n[i]*dm[j][d])
				}
			}
		}
		for i := range n {
			for j := range m {
				t.valueValue = append(t.valueValue, n[i]*m[j])
			}
		}
	}
	*at = t
	return t
}

// scatterAll adds the residuals and tangents of the cells to our rows.
func (b *batch) scatterAll() {
	a, n := b.assembler, b.n
	for cell := range b.names {
		eqs := b.eqs[cell*n : (cell+1)*n]
		f := b.f[cell*n : (cell+1)*n]
		if a.tangent != nil {
			a.sort(eqs)
		}
		if a.blocks != nil && !b.isAlike {
			b.scatterCell(cell, eqs)
		}
		for i, row := range eqs {
			if row < a.lo || row >= a.hi {
				continue
			}
			a.residual[row] += f[i]
			if a.tangent == nil {
				continue
			}
			k := b.k[cell*n*n : (cell+1)*n*n]
			cols, data := a.tangent.Row(int(row))
			data = data[:len(cols)]
			r, at := b.comp[i], 0
			if a.Components == 1 {
				k = k[i*n : (i+1)*n]
				for _, j := range a.order {
					eq := eqs[j]
					for cols[at] < eq {
						at++
					}
					data[at] += k[j]
				}
				continue
			}
			inRow := i - a.span[r][0]
			for _, j := range a.order {
				eq := eqs[j]
				for cols[at] < eq {
					at++
				}
				c := b.comp[j]
				data[at] += k[b.begin[r*a.Components+c]+inRow*a.width(c)+j-a.span[c][0]]
			}
		}
	}
}
