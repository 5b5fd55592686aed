package fem

import (
	"context"
	"errors"
	"slices"

	"saltkettle/core/parallel"
	"saltkettle/core/sparse"
)

// Blocks are the equations of a system in square blocks, one for each pair of nodes that meet, with a row and a column
// for each component of all fields: what a preconditioner for several unknowns of a node needs, in half the memory.
// Components that a node does not have stand alone in it.
type Blocks struct {
	System *System
	B      int
	// Node is the grid node of each row of blocks, Place the place of each equation among their rows.
	Node  []int32
	Place []int32

	first   []int   // by component its place in a block, −1 for one that is given
	row     []int32 // by grid node, −1 for one without unknowns
	absent  []int32 // places without an equation
	pattern *sparse.Blocked[float32]
}

// NewBlocks makes the blocks of a system without level sets and extra unknowns, for kernels without terms at joints. Nodes
// that are tied have a row together.
func (s *System) NewBlocks() (*Blocks, error) {
	b := &Blocks{System: s, row: make([]int32, s.Grid.NodeCount()), Place: make([]int32, s.N)}
	for _, f := range s.Fields {
		for range f.Components {
			if f.Given {
				b.first = append(b.first, -1)
				continue
			}
			b.first = append(b.first, b.B)
			b.B++
		}
	}
	if len(s.extra) > 0 || len(s.extras) > 0 || b.B > sparse.MaxBlock {
		return nil, errors.New("fem: the unknowns of these equations do not belong to nodes alone")
	}
	for v := range b.row {
		b.row[v] = -1
	}
	for v := range b.row {
		at := &b.row[s.group[v]]
		for f := range s.Fields {
			if s.eq[f][v] >= 0 && *at < 0 {
				*at = int32(len(b.Node))
				b.Node = append(b.Node, s.group[v])
			}
		}
	}
	for v := range b.row {
		b.row[v] = b.row[s.group[v]]
	}
	for r, v := range b.Node {
		for f, field := range s.Fields {
			for c := range field.Components {
				if field.Given {
					continue
				}
				at := int32(r*b.B + b.first[s.First[f]+c])
				if e := s.eq[f][v]; e >= 0 {
					b.Place[e+int32(c)] = at
				} else {
					b.absent = append(b.absent, at)
				}
			}
		}
	}
	b.meet()
	return b, nil
}

// meet finds which nodes meet in a cell.
func (b *Blocks) meet() {
	g, n := b.System.Grid, len(b.Node)
	begin := make([]int64, n+1)
	each := func(f func(row int32, block int, cell int)) {
		for bi := range g.Blocks {
			for cell := range g.Blocks[bi].Count() {
				for _, v := range g.Blocks[bi].Nodes(cell) {
					if r := b.row[v]; r >= 0 {
						f(r, bi, cell)
					}
				}
			}
		}
	}
	each(func(row int32, _, _ int) { begin[row+1]++ })
	for i := range n {
		begin[i+1] += begin[i]
	}
	type place struct{ block, cell int32 }
	of, at := make([]place, begin[n]), slices.Clone(begin[:n])
	each(func(row int32, block, cell int) {
		of[at[row]] = place{int32(block), int32(cell)}
		at[row]++
	})
	m := &sparse.Blocked[float32]{B: b.B, Rows: make([]int64, n+1)}
	pieces, firsts := make([][]int32, parallel.Workers()), make([]int, parallel.Workers())
	parallel.For(n, 1024, func(worker, lo, hi int) {
		firsts[worker] = lo
		var out []int32
		seen := make([]int32, n)
		for i := range seen {
			seen[i] = -1
		}
		for r := lo; r < hi; r++ {
			from := len(out)
			for _, p := range of[begin[r]:begin[r+1]] {
				for _, v := range g.Blocks[p.block].Nodes(int(p.cell)) {
					if c := b.row[v]; c >= 0 && seen[c] != int32(r) {
						seen[c] = int32(r)
						out = append(out, c)
					}
				}
			}
			slices.Sort(out[from:])
			m.Rows[r+1] = int64(len(out) - from)
		}
		pieces[worker] = out
	})
	for i := range n {
		m.Rows[i+1] += m.Rows[i]
	}
	m.Cols = make([]int32, m.Rows[n])
	for w, p := range pieces {
		copy(m.Cols[m.Rows[firsts[w]]:], p)
	}
	b.pattern = m
}

// NewMatrix returns a matrix of zeros. All of them share their pattern.
func (b *Blocks) NewMatrix() *sparse.Blocked[float32] {
	m := *b.pattern
	m.Data = make([]float32, len(m.Cols)*b.B*b.B)
	return &m
}

// Assemble adds up the residual and the blocks of the tangent of the equations of a kernel, both set to zero before. It ends
// with the error of the context soon after that is over.
func (b *Blocks) Assemble(ctx context.Context, kernel Kernel, at *State, residual []float64, m *sparse.Blocked[float32]) error {
	s := b.System
	clear(residual)
	parallel.For(len(m.Data), 1<<16, func(_, lo, hi int) { clear(m.Data[lo:hi]) })
	if err := s.survey(kernel, at); err != nil {
		return err
	}
	errs := make([]error, parallel.Workers())
	parallel.For(s.N, 256, func(worker, lo, hi int) {
		a := newAssembler(s, kernel, at, residual, nil, int32(lo), int32(hi))
		a.blocks, a.into, a.ctx = b, m, ctx
		errs[worker] = a.run()
	})
	return first(errs)
}

// Hold makes the rows of held unknowns, and of components that nodes do not have, say nothing but their value, and
// takes these from the others; scale multiplies rows and columns by component first.
func (b *Blocks) Hold(m *sparse.Blocked[float32], fixed []bool, rows, cols []float64) {
	held := b.Held(fixed)
	size := b.B * b.B
	parallel.For(len(b.Node), 512, func(_, lo, hi int) {
		for r := lo; r < hi; r++ {
			for k := m.Rows[r]; k < m.Rows[r+1]; k++ {
				d, c := m.Data[int(k)*size:][:size], int(m.Cols[k])
				for i := range b.B {
					for j := range b.B {
						if held[r*b.B+i] || held[c*b.B+j] {
							d[i*b.B+j] = 0
							if r == c && i == j {
								d[i*b.B+j] = 1
							}
							continue
						}
						d[i*b.B+j] *= float32(rows[i] * cols[j])
					}
				}
			}
		}
	})
}

// Held marks the places of unknowns that are held, and of components that nodes do not have.
func (b *Blocks) Held(fixed []bool) []bool {
	out := make([]bool, b.B*len(b.Node))
	for _, at := range b.absent {
		out[at] = true
	}
	for e, is := range fixed {
		if is {
			out[b.Place[e]] = true
		}
	}
	return out
}

// diagonal is the block of a row with itself.
func (b *Blocks) diagonal(m *sparse.Blocked[float32], row int) []float32 {
	k, _ := slices.BinarySearch(m.Cols[m.Rows[row]:m.Rows[row+1]], int32(row))
	return m.Data[(int(m.Rows[row])+k)*b.B*b.B:][:b.B*b.B]
}

// AddDiagonal adds values, by row of blocks, to the diagonal of the components of a field.
func (b *Blocks) AddDiagonal(m *sparse.Blocked[float32], field int, values []float64) {
	from := b.first[b.System.First[field]]
	for row, v := range values {
		d := b.diagonal(m, row)
		for c := from; c < from+b.System.Fields[field].Components; c++ {
			d[c*b.B+c] += float32(v)
		}
	}
}

// Scale is a list by component of the values of fields.
func (b *Blocks) Scale(of func(field int) float64) []float64 {
	list := make([]float64, b.B)
	for f, field := range b.System.Fields {
		for c := range field.Components {
			if at := b.first[b.System.First[f]+c]; at >= 0 {
				list[at] = of(f)
			}
		}
	}
	return list
}

// Row is that of a grid node, −1 for one without unknowns.
func (b *Blocks) Row(node int32) int32 { return b.row[node] }

// scatterBlocks adds a derivative of equation i by unknown j.
func (a *assembler) scatterBlocks(i, j int32, v float64) {
	if v == 0 {
		return
	}
	b, m := a.blocks, a.into
	p, q := b.Place[i], b.Place[j]
	row, col := p/int32(b.B), q/int32(b.B)
	k, _ := slices.BinarySearch(m.Cols[m.Rows[row]:m.Rows[row+1]], col)
	m.Data[(int(m.Rows[row])+k)*b.B*b.B+int(p)%b.B*b.B+int(q)%b.B] += float32(v)
}

// scatterCell adds the local tangent of a cell of a batch to our rows, node by node.
func (b *batch) scatterCell(cell int, eqs []int32) {
	a, n := b.assembler, b.n
	blocks, m := a.blocks, a.into
	size := blocks.B
	k := b.k[cell*n*n : (cell+1)*n*n]
	nodes := b.block.Nodes(b.names[cell])
	at := b.found
	for i, v := range nodes {
		row := blocks.row[v]
		cols := m.Cols[m.Rows[row]:m.Rows[row+1]]
		for j, u := range nodes {
			x, _ := slices.BinarySearch(cols, blocks.row[u])
			at[j] = (int(m.Rows[row]) + x) * size * size
		}
		for r := range a.Components {
			lo, hi := a.span[r][0], a.span[r][1]
			if lo+i >= hi {
				continue
			}
			if e := eqs[lo+i]; e < a.lo || e >= a.hi {
				continue
			}
			for c := range a.Components {
				width := a.width(c)
				from := k[b.begin[r*a.Components+c]+i*width:][:width]
				to := blocks.first[r]*size + blocks.first[c]
				for j, v := range from {
					m.Data[at[j]+to] += float32(v)
				}
			}
		}
	}
}
