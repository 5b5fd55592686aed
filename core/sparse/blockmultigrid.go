package sparse

import (
	"context"
	"fmt"
	"slices"

	"saltkettle/core/parallel"
)

// BlockMultigridSettings of [NewBlockMultigrid]. The zero value works.
type BlockMultigridSettings struct {
	// At are the places of the nodes: those that lie near each other are united. nil unites
	// those whose blocks are large.
	At [][3]float64
	// Held marks unknowns whose rows and columns say nothing but their value: they take no part
	// in coarser levels. nil means none.
	Held []bool
	// Matchings are how many times nodes are united in pairs for a coarser level; 0 means 3.
	Matchings int
	// Coarsest is the number of nodes that are solved for directly; 0 means 120.
	Coarsest int
}

// BlockMultigrid is a preconditioner for equations with several unknowns a node, such as speeds
// and a pressure: nodes are united in pairs (Y. Notay, Electron. Trans. Numer. Anal. 37 (2010) 123)
// by how near they are, values are carried between levels as they are, and after the
// correction by a coarser level comes one sweep of incomplete factors in blocks. It may be used for
// any matrix with the pattern that it was made for, see [BlockMultigrid.Renew]. One goroutine
// may use it at a time.
type BlockMultigrid[T Real] struct {
	levels  []*blockLevel[T]
	ctx     context.Context
	coarse  *Factors[float64]
	pattern *Analysis
}

type blockLevel[T Real] struct {
	a     *Blocked[T]
	ilu   *BlockILU[T] // nil on the coarsest level
	held  []bool
	group []int32 // of each node, −1 for one that is held altogether
	// Nodes of each group, and the blocks of the next level that the blocks of their rows add to.
	first   []int32
	members []int32
	adds    []int64
	x, r    []float64
	s       []float64
}

// NewBlockMultigrid makes the levels of a matrix whose rows store their diagonal blocks.
func NewBlockMultigrid[T Real](ctx context.Context, a *Blocked[T], set *BlockMultigridSettings) (*BlockMultigrid[T], error) {
	if set == nil {
		set = &BlockMultigridSettings{}
	}
	matchings, coarsest := set.Matchings, set.Coarsest
	if matchings == 0 {
		matchings = 3
	}
	if coarsest == 0 {
		coarsest = 120
	}
	m := &BlockMultigrid[T]{ctx: ctx}
	l := &blockLevel[T]{a: a, held: set.Held}
	g := a.nearness(set.At)
	for {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		m.levels = append(m.levels, l)
		if l.a.Nodes() <= coarsest {
			break
		}
		next, coarser := l.coarsen(g, matchings)
		if next.a.Nodes() > l.a.Nodes()*9/10 {
			break // nothing is left to be united
		}
		l, g = next, coarser
	}
	return m, m.renew()
}

// Levels are the numbers of nodes, the finest level first.
func (m *BlockMultigrid[T]) Levels() []int {
	var list []int
	for _, l := range m.levels {
		list = append(list, l.a.Nodes())
	}
	return list
}

// Renew takes another matrix with the same pattern, of the same nodes and held unknowns.
func (m *BlockMultigrid[T]) Renew(a *Blocked[T]) error {
	m.levels[0].a = a
	return m.renew()
}

// renew computes all levels anew from the finest.
func (m *BlockMultigrid[T]) renew() error {
	for k, l := range m.levels[:len(m.levels)-1] {
		var err error
		if l.ilu == nil {
			l.ilu, err = NewBlockILU(l.a, nil)
		} else {
			err = l.ilu.Renew(l.a)
		}
		if err != nil {
			return fmt.Errorf("on level %d: %w", k, err)
		}
		l.project(m.levels[k+1])
	}
	for _, l := range m.levels {
		if n := l.a.N(); len(l.x) != n {
			l.x, l.r, l.s = make([]float64, n), make([]float64, n), make([]float64, n)
		}
	}
	last := m.levels[len(m.levels)-1].a.unknowns()
	if m.pattern == nil {
		m.pattern = Analyse(last, Unsymmetric, nil)
	}
	var err error
	m.coarse, err = Factor(m.ctx, m.pattern, last, nil)
	return err
}

// unknowns is the matrix by its unknowns, with every place of its blocks.
func (m *Blocked[T]) unknowns() *CSR {
	b, n := m.B, m.Nodes()
	out := &CSR{Rows: make([]int32, n*b+1)}
	for i := range n {
		for r := range b {
			for k := m.Rows[i]; k < m.Rows[i+1]; k++ {
				for c := range b {
					out.Cols = append(out.Cols, m.Cols[k]*int32(b)+int32(c))
					out.Data = append(out.Data, float64(m.Data[k*int64(b*b)+int64(r*b+c)]))
				}
			}
			out.Rows[i*b+r+1] = int32(len(out.Cols))
		}
	}
	return out
}

// near is a graph of nodes with how near those are that meet.
type near struct {
	rows []int64
	cols []int32
	by   []float32
}

// nearness is one over the square of the distance of nodes, or without places the size of their
// blocks.
func (m *Blocked[T]) nearness(at [][3]float64) *near {
	g := &near{rows: m.Rows, cols: m.Cols, by: make([]float32, len(m.Cols))}
	size := int64(m.B * m.B)
	parallel.For(m.Nodes(), 512, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			for k := m.Rows[i]; k < m.Rows[i+1]; k++ {
				j := m.Cols[k]
				if int(j) == i {
					continue
				}
				if at == nil {
					var sum float64
					for _, v := range m.Data[k*size : (k+1)*size] {
						sum += float64(v) * float64(v)
					}
					g.by[k] = float32(sum)
					continue
				}
				var d float64
				for axis, x := range at[i] {
					d += (x - at[j][axis]) * (x - at[j][axis])
				}
				g.by[k] = float32(1 / d)
			}
		}
	})
	return g
}

// match unites nodes in pairs with the nearest one that is free, those that are out left alone; it
// returns the number of each node's pair and how many there are.
func (g *near) match(out func(i int) bool) (pair []int32, count int) {
	pair = make([]int32, len(g.rows)-1)
	for i := range pair {
		pair[i] = -1
	}
	for i := range pair {
		if pair[i] >= 0 || out != nil && out(i) {
			continue
		}
		best, most := -1, float32(0)
		for k := g.rows[i]; k < g.rows[i+1]; k++ {
			if j := int(g.cols[k]); j != i && pair[j] < 0 && g.by[k] > most && (out == nil || !out(j)) {
				best, most = j, g.by[k]
			}
		}
		pair[i] = int32(count)
		if best >= 0 {
			pair[best] = int32(count)
		}
		count++
	}
	return pair, count
}

// united is the graph of the pairs: what joins two of them adds up.
func (g *near) united(pair []int32, count int) *near {
	first, members := sorted(pair, count)
	out := &near{rows: make([]int64, count+1)}
	place := make([]int64, count)
	for i := range place {
		place[i] = -1
	}
	for p := range count {
		start := int64(len(out.cols))
		for _, i := range members[first[p]:first[p+1]] {
			for k := g.rows[i]; k < g.rows[i+1]; k++ {
				q := pair[g.cols[k]]
				if q < 0 || int(q) == p {
					continue
				}
				if place[q] < start {
					place[q] = int64(len(out.cols))
					out.cols, out.by = append(out.cols, q), append(out.by, 0)
				}
				out.by[place[q]] += g.by[k]
			}
		}
		out.rows[p+1] = int64(len(out.cols))
	}
	return out
}

// sorted lists the nodes of each group, of which those with −1 are in none.
func sorted(group []int32, count int) (first, members []int32) {
	first = make([]int32, count+1)
	for _, g := range group {
		if g >= 0 {
			first[g+1]++
		}
	}
	for i := range count {
		first[i+1] += first[i]
	}
	members = make([]int32, first[count])
	next := slices.Clone(first)
	for i, g := range group {
		if g >= 0 {
			members[next[g]] = int32(i)
			next[g]++
		}
	}
	return first, members
}

// coarsen makes the pattern of the next level and its graph.
func (l *blockLevel[T]) coarsen(g *near, matchings int) (next *blockLevel[T], coarser *near) {
	b, n := l.a.B, l.a.Nodes()
	out := func(i int) bool {
		return l.held != nil && !slices.Contains(l.held[b*i:b*i+b], false)
	}
	l.group = nil
	count := n
	for k := range matchings {
		var pair []int32
		if k > 0 {
			out = nil
		}
		pair, count = g.match(out)
		g = g.united(pair, count)
		if l.group == nil {
			l.group = pair
			continue
		}
		for i, p := range l.group {
			if p >= 0 {
				l.group[i] = pair[p]
			}
		}
	}
	l.first, l.members = sorted(l.group, count)
	next = &blockLevel[T]{a: &Blocked[T]{B: b, Rows: make([]int64, count+1)}}
	// The pattern, with ascending columns, and where each block of a row goes.
	columns := make([][]int32, count)
	parallel.For(count, 64, func(_, lo, hi int) {
		seen := make([]int32, count)
		for i := range seen {
			seen[i] = -1
		}
		for p := lo; p < hi; p++ {
			var list []int32
			for _, i := range l.members[l.first[p]:l.first[p+1]] {
				for _, j := range l.a.Cols[l.a.Rows[i]:l.a.Rows[i+1]] {
					if q := l.group[j]; q >= 0 && seen[q] != int32(p) {
						seen[q] = int32(p)
						list = append(list, q)
					}
				}
			}
			slices.Sort(list)
			columns[p] = list
		}
	})
	for p, list := range columns {
		next.a.Rows[p+1] = next.a.Rows[p] + int64(len(list))
	}
	next.a.Cols = make([]int32, next.a.Rows[count])
	next.a.Data = make([]T, next.a.Rows[count]*int64(b*b))
	l.adds = make([]int64, len(l.a.Cols))
	parallel.For(n, 256, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			p := l.group[i]
			for k := l.a.Rows[i]; k < l.a.Rows[i+1]; k++ {
				l.adds[k] = -1
				if p < 0 || l.group[l.a.Cols[k]] < 0 {
					continue
				}
				at, _ := slices.BinarySearch(columns[p], l.group[l.a.Cols[k]])
				l.adds[k] = next.a.Rows[p] + int64(at)
			}
		}
	})
	for p, list := range columns {
		copy(next.a.Cols[next.a.Rows[p]:], list)
	}
	if l.held != nil {
		next.held = make([]bool, count*b)
		for u := range next.held {
			next.held[u] = true
		}
		for i, p := range l.group {
			for c := range b {
				if p >= 0 && !l.held[b*i+c] {
					next.held[b*int(p)+c] = false
				}
			}
		}
	}
	return next, g
}

// project computes the matrix of the next level: the sums of the blocks between groups, without
// what is held.
func (l *blockLevel[T]) project(next *blockLevel[T]) {
	b := l.a.B
	size := int64(b * b)
	parallel.For(next.a.Nodes(), 64, func(_, lo, hi int) {
		for p := lo; p < hi; p++ {
			clear(next.a.Data[next.a.Rows[p]*size : next.a.Rows[p+1]*size])
			for _, i := range l.members[l.first[p]:l.first[p+1]] {
				for k := l.a.Rows[i]; k < l.a.Rows[i+1]; k++ {
					to := l.adds[k]
					if to < 0 {
						continue
					}
					from, sum := l.a.Data[k*size:(k+1)*size], next.a.Data[to*size:(to+1)*size]
					if l.held == nil {
						for x, v := range from {
							sum[x] += v
						}
						continue
					}
					rows, cols := l.held[b*int(i):], l.held[b*int(l.a.Cols[k]):]
					for r := range b {
						for c := range b {
							if !rows[r] && !cols[c] {
								sum[r*b+c] += from[r*b+c]
							}
						}
					}
				}
			}
			for c := range b {
				if next.held != nil && next.held[b*p+c] { // nothing of it is free
					k, _ := slices.BinarySearch(next.a.Cols[next.a.Rows[p]:next.a.Rows[p+1]], int32(p))
					next.a.Data[(next.a.Rows[p]+int64(k))*size+int64(c*b+c)] = 1
				}
			}
		}
	})
}

// Apply is one V-cycle.
func (m *BlockMultigrid[T]) Apply(dst, r []float64) {
	copy(m.levels[0].r, r)
	m.cycle(0)
	copy(dst, m.levels[0].x)
}

// cycle sets x of a level to what it makes of its r.
func (m *BlockMultigrid[T]) cycle(k int) {
	l := m.levels[k]
	if k == len(m.levels)-1 {
		m.coarse.Solve(l.x, l.r)
		return
	}
	next := m.levels[k+1]
	b := l.a.B
	parallel.For(next.a.Nodes(), 1024, func(_, lo, hi int) {
		for p := lo; p < hi; p++ {
			sum := next.r[b*p : b*p+b]
			clear(sum)
			for _, i := range l.members[l.first[p]:l.first[p+1]] {
				for c := range sum {
					if u := b*int(i) + c; l.held == nil || !l.held[u] {
						sum[c] += l.r[u]
					}
				}
			}
		}
	})
	m.cycle(k + 1)
	parallel.For(l.a.Nodes(), 1024, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			p := l.group[i]
			for c := range b {
				u := b*i + c
				if l.x[u] = 0; p >= 0 && (l.held == nil || !l.held[u]) {
					l.x[u] = next.x[b*int(p)+c]
				}
			}
		}
	})
	l.a.MulVec(l.s, l.x)
	parallel.For(len(l.s), rowGrain, func(_, lo, hi int) {
		for u := lo; u < hi; u++ {
			l.s[u] = l.r[u] - l.s[u]
		}
	})
	l.ilu.Apply(l.s, l.s)
	axpy(l.x, 1, l.s)
}
