package fem

import (
	"slices"

	"saltkettle/core/dense"
)

// smallCell is the most nodes of a cell whose blocks are integrated in registers.
const smallCell = 8

// small is work memory for cells of at most eight nodes at which all unknowns are, where blocks in single precision are
// wanted: the gradients of the functions are the same for all fields then, and the blocks of a cell are sums over points of
// their products with the derivatives, without a way through the reference cell.
type small struct {
	// By point, the gradient by axis and then the value of each function; trial is multiplied by the weight.
	test, trial []float32
	// By pair of components and point, the derivatives of flux and source by gradient and value.
	terms [][]float32
	// By pair of components, by function of the row and of the column.
	sums  [][64]float32
	of    []int // by place in a block the pair of components, if each cell has all of the unknowns of it at each node
	slope [smallCell][3]float64
	// order has the nodes of the cell at hand by their columns.
	order [smallCell]int32
}

// alike says whether the cells of the layout are such.
func (b *batch) alike() bool {
	a, n := b.assembler, b.block.Element.Count()
	if a.blocks == nil || a.at.ByRates || n > smallCell {
		return false
	}
	for r := range a.Components {
		if w := a.width(r); w != n && a.blocks.first[r] >= 0 {
			return false
		}
	}
	for f := range a.Fields {
		if a.System.low(f, b.block.Element) {
			return false
		}
	}
	return true
}

// evaluateAlike calls the kernel at all points and adds the blocks of its terms to our rows.
func (b *batch) evaluateAlike() error {
	a, points := b.assembler, len(b.c.rule.Points)
	s, pairs := &b.small, a.Components*a.Components
	if len(s.terms) != pairs {
		s.terms, s.sums = make([][]float32, pairs), make([][64]float32, pairs)
		for i := range s.terms {
			s.terms[i] = make([]float32, 16*points)
		}
		s.test, s.trial = make([]float32, 32*points), make([]float32, 32*points)
	}
	if s.of = s.of[:0]; b.n == a.blocks.B*b.block.Element.Count() {
		s.of = slices.Grow(s.of, a.blocks.B*a.blocks.B)[:a.blocks.B*a.blocks.B]
		for r := range a.Components {
			for c := range a.Components {
				if a.width(r) > 0 && a.width(c) > 0 {
					s.of[a.blocks.B*a.blocks.first[r]+a.blocks.first[c]] = r*a.Components + c
				}
			}
		}
	}
	for cell := range b.names {
		f := b.f[cell*b.n : (cell+1)*b.n]
		for q := range points {
			k := cell*points + q
			a.terms.reset()
			if err := a.kernel.Cell(&b.points[k], a.terms); err != nil {
				return err
			}
			b.takeAlike(q, k, f)
		}
		for r := range a.Components {
			for c := range a.Components {
				if pair := r*a.Components + c; a.width(r) > 0 && a.width(c) > 0 {
					dense.Bilinear(&s.sums[pair], s.test, s.terms[pair], s.trial)
				}
			}
		}
		b.addAlike(cell)
	}
	return nil
}

// takeAlike adds the terms at point k, the q-th of its cell, to the residual of the cell, and notes the derivatives.
func (b *batch) takeAlike(q, k int, f []float64) {
	a, s, t := b.assembler, &b.small, b.terms
	m, w := &b.inverse[k], b.weight[k]
	n, dn := b.c.n[q], b.c.dn[q]
	slope, test, trial := s.slope[:len(dn)], s.test[32*q:32*q+32], s.trial[32*q:32*q+32]
	n = n[:len(slope)]
	for i := range slope {
		d := &dn[i]
		x := d[0]*m[0][0] + d[1]*m[1][0] + d[2]*m[2][0]
		y := d[0]*m[0][1] + d[1]*m[1][1] + d[2]*m[2][1]
		z := d[0]*m[0][2] + d[1]*m[1][2] + d[2]*m[2][2]
		slope[i] = [3]float64{x, y, z}
		test[i], test[8+i], test[16+i], test[24+i] = float32(x), float32(y), float32(z), float32(n[i])
		trial[i], trial[8+i], trial[16+i], trial[24+i] = float32(w*x), float32(w*y), float32(w*z), float32(w*n[i])
	}
	for r := range a.Components {
		lo, hi := a.span[r][0], a.span[r][1]
		if lo == hi {
			continue
		}
		rows, v := f[lo:hi], &t.Flux[r]
		rows = rows[:len(slope)]
		source, x, y, z := w*t.Source[r], w*v[0], w*v[1], w*v[2]
		for i := range rows {
			g := &slope[i]
			rows[i] += source*n[i] + x*g[0] + y*g[1] + z*g[2]
		}
		for c := range a.Components {
			if a.width(c) == 0 {
				continue
			}
			pair := r*a.Components + c
			out := (*dense.Four)(s.terms[pair][16*q:])
			g, u, e := &t.FluxGrad[pair], &t.FluxU[pair], &t.SourceGrad[pair]
			out[0], out[1], out[2], out[3] = float32(g[0][0]), float32(g[0][1]), float32(g[0][2]), float32(u[0])
			out[4], out[5], out[6], out[7] = float32(g[1][0]), float32(g[1][1]), float32(g[1][2]), float32(u[1])
			out[8], out[9], out[10], out[11] = float32(g[2][0]), float32(g[2][1]), float32(g[2][2]), float32(u[2])
			out[12], out[13], out[14], out[15] = float32(e[0]), float32(e[1]), float32(e[2]), float32(t.SourceU[pair])
			if by := a.rateSlopes[c]; by != 0 {
				rate := &t.FluxRate[pair]
				out[3] += float32(by * rate[0])
				out[7] += float32(by * rate[1])
				out[11] += float32(by * rate[2])
				out[15] += float32(by * t.SourceRate[pair])
			}
		}
	}
}

// addAlike adds the blocks of a cell to our rows.
func (b *batch) addAlike(cell int) {
	a, s := b.assembler, &b.small
	blocks, m := a.blocks, a.into
	size := blocks.B
	nodes, eqs := b.block.Nodes(b.names[cell]), b.eqs[cell*b.n:(cell+1)*b.n]
	order := s.order[:len(nodes)]
	for i, v := range nodes {
		at := i
		for ; at > 0 && blocks.row[nodes[order[at-1]]] > blocks.row[v]; at-- {
			order[at] = order[at-1]
		}
		order[at] = int32(i)
	}
	for i, v := range nodes {
		ours, all := false, len(s.of) > 0
		for r := range a.Components {
			if a.width(r) > 0 {
				e := eqs[a.span[r][0]+i]
				mine := e >= a.lo && e < a.hi
				ours, all = ours || mine, all && mine
			}
		}
		if !ours {
			continue
		}
		row := blocks.row[v]
		at, cols := int(m.Rows[row]), m.Cols[m.Rows[row]:m.Rows[row+1]]
		k := 0
		for _, j := range order {
			for col := blocks.row[nodes[j]]; cols[k] != col; {
				k++
			}
			if all {
				s.addBlock(m.Data[(at+k)*size*size:], 8*i+int(j))
				continue
			}
			to := m.Data[(at+k)*size*size:][:size*size]
			for r := range a.Components {
				if a.width(r) == 0 {
					continue
				}
				if e := eqs[a.span[r][0]+i]; e < a.lo || e >= a.hi {
					continue
				}
				line := to[blocks.first[r]*size:][:size]
				for c := range a.Components {
					if a.width(c) > 0 {
						line[blocks.first[c]] += s.sums[r*a.Components+c][8*i+int(j)]
					}
				}
			}
		}
	}
}

// addBlock adds the sums of a pair of functions to a whole block.
func (s *small) addBlock(to []float32, at int) {
	at &= 63
	to = to[:len(s.of)]
	for x, pair := range s.of {
		to[x] += s.sums[pair][at]
	}
}
