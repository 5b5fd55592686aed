package sparse

import (
	"slices"

	"saltkettle/core/dense"
	"saltkettle/core/parallel"
)

// Kind is what is known of a matrix.
type Kind int

// Kinds of matrices.
const (
	Definite    Kind = iota // symmetric positive definite
	Symmetric               // symmetric (for complex numbers: without conjugation)
	Unsymmetric             // any, with a pattern that is about symmetric
)

// Ordering is the way to find the order of elimination.
type Ordering int

// Orderings.
const (
	Automatic     Ordering = iota // minimum degree, or dissection where that is less work
	MinimumDegree                 // approximate minimum degree
	Dissection                    // nested dissection
)

// worthDissection is the number of multiplications of a factorisation above which
// it is worth to look for a better order than that of minimum degree.
const worthDissection = 8e9

// OrderSettings choose the order of elimination. The zero value works.
type OrderSettings struct {
	Ordering Ordering
	// Coordinates of the unknowns, three each, let dissection cut in space; nil if
	// there are none.
	Coordinates []float64
}

// Analysis is what can be known of a factorisation from the pattern of the matrix
// alone. It serves all matrices with this pattern.
type Analysis struct {
	Kind Kind
	// Fill is the number of elements of L (and U), Work that of multiplications.
	Fill int64
	Work float64

	n      int
	order  []int32 // order[k] is the unknown eliminated as number k
	place  []int32 // its inverse
	fronts []front // children before parents
	// By columns, for unsymmetric matrices: where in the data of the matrix the
	// elements of each column are.
	columns []int32
	rowOf   []int32
	dataOf  []int32
	// Subtrees that can be done at the same time, in order of falling work, then the
	// fronts above them.
	subtrees [][]int32
	top      []int32
	stack    int64 // elements of the blocks that wait for their parents, at most
}

// front is a step of the elimination: columns first to last, exclusive, all with
// the same rows below.
type front struct {
	first, last int32
	rows        []int32
	parent      int32
	children    []int32
	work        float64
}

// N is the order of the matrix.
func (a *Analysis) N() int { return a.n }

// Memory is the predicted size of a factorisation in bytes while it is made, for
// elements of the given bytes.
func (a *Analysis) Memory(elementBytes int) int64 {
	var left int64
	for i := range a.fronts {
		f := &a.fronts[i]
		p, r := int64(f.last-f.first), int64(len(f.rows))
		left += p * (p + r)
		if a.Kind == Unsymmetric {
			left += p * r
		}
	}
	return (left + a.stack) * int64(elementBytes)
}

// Analyse finds an order of elimination for a matrix and the structure of its
// factors. Values matter only where the diagonal of an indefinite matrix is zero.
func Analyse[T dense.Scalar](m *Matrix[T], kind Kind, set *OrderSettings) *Analysis {
	if set == nil {
		set = &OrderSettings{}
	}
	g := adjacency(m.Rows, m.Cols)
	a := &Analysis{Kind: kind, n: m.N()}
	group := g.twins()
	if kind != Definite {
		pairs(m, g, group)
	}
	small, number := g.contract(group)
	small.edge = nil
	var where []float64
	if set.Coordinates != nil {
		where = make([]float64, 3*small.n())
		for v := range m.N() {
			copy(where[3*number[v]:3*number[v]+3], set.Coordinates[3*v:3*v+3])
		}
	}
	if set.Ordering != Dissection {
		a.order = expand(minimumDegree(small), number)
		a.build(g)
	}
	if set.Ordering == Dissection || set.Ordering == Automatic && a.Work > worthDissection {
		d := &Analysis{Kind: kind, n: a.n, order: expand(nestedDissection(small, where), number)}
		d.build(g)
		if a.fronts == nil || d.Work < a.Work {
			a = d
		}
	}
	if kind == Unsymmetric {
		a.transpose(m.Rows, m.Cols)
	}
	a.schedule(parallel.Workers())
	return a
}

// expand turns an order of groups into one of their members.
func expand(coarse, number []int32) []int32 {
	start := make([]int32, len(coarse)+1)
	at := make([]int32, len(coarse))
	for k, c := range coarse {
		at[c] = int32(k)
	}
	for _, c := range number {
		start[at[c]+1]++
	}
	for k := range coarse {
		start[k+1] += start[k]
	}
	out := make([]int32, len(number))
	for v, c := range number {
		k := at[c]
		out[start[k]] = int32(v)
		start[k]++
	}
	return out
}

// pairs joins each unknown without a diagonal worth the name to a neighbour that
// it is strongly tied to, so that the two are eliminated together.
func pairs[T dense.Scalar](m *Matrix[T], g *graph, group []int32) {
	n := m.N()
	paired := make([]bool, n)
	size := make([]int32, n)
	for _, c := range group {
		size[c]++
	}
	largest := make([]float64, n)
	for i := range n {
		cols, data := m.Row(i)
		for k := range cols {
			largest[i] = max(largest[i], dense.Magnitude(data[k]))
		}
	}
	for i := range n {
		if size[group[i]] > 1 || paired[i] || dense.Magnitude(m.At(i, i)) > 1e-3*largest[i] {
			continue
		}
		near := g.near(int32(i))
		best, most := -1, 0.0
		for k, u := range near {
			if paired[u] || size[group[u]] > 1 || largest[u] == 0 {
				continue
			}
			v := dense.Magnitude(m.At(i, int(u))) + dense.Magnitude(m.At(int(u), i))
			if v /= largest[u] + largest[i]; v > most {
				best, most = k, v
			}
		}
		if best < 0 {
			continue
		}
		u := near[best]
		paired[i], paired[u] = true, true
		first := min(int32(i), u)
		group[i], group[u] = first, first
	}
}

// build finds the tree of fronts for the order at hand, and perhaps a better
// equivalent order.
func (a *Analysis) build(g *graph) {
	n := a.n
	a.setPlaces()
	parent := a.tree(g)
	// Postorder, so that subtrees are contiguous.
	post := postorder(parent)
	order := make([]int32, n)
	for k, j := range post {
		order[k] = a.order[j]
	}
	at := make([]int32, n)
	for k, j := range post {
		at[j] = int32(k)
	}
	relabelled := make([]int32, n)
	for k, j := range post {
		relabelled[k] = -1
		if p := parent[j]; p >= 0 {
			relabelled[k] = at[p]
		}
	}
	a.order = order
	a.setPlaces()
	count := a.counts(g, relabelled)
	a.amalgamate(relabelled, count)
	a.setPlaces()
	a.structures(g)
}

func (a *Analysis) setPlaces() {
	a.place = make([]int32, a.n)
	for k, v := range a.order {
		a.place[v] = int32(k)
	}
}

// tree is the elimination tree (J. Liu, SIAM J. Matrix Anal. Appl. 11 (1990) 134).
func (a *Analysis) tree(g *graph) []int32 {
	parent, ancestor := make([]int32, a.n), make([]int32, a.n)
	for i := range int32(a.n) {
		parent[i], ancestor[i] = -1, -1
		for _, u := range g.near(a.order[i]) {
			k := a.place[u]
			for k >= 0 && k < i {
				next := ancestor[k]
				ancestor[k] = i
				if next < 0 {
					parent[k] = i
				}
				k = next
			}
		}
	}
	return parent
}

// postorder lists the nodes of a forest, children before parents.
func postorder(parent []int32) []int32 {
	n := len(parent)
	head, next := make([]int32, n), make([]int32, n)
	for i := range head {
		head[i] = -1
	}
	for i := n - 1; i >= 0; i-- {
		if p := parent[i]; p >= 0 {
			next[i] = head[p]
			head[p] = int32(i)
		}
	}
	out := make([]int32, 0, n)
	var stack []int32
	for root := range n {
		if parent[root] >= 0 {
			continue
		}
		stack = append(stack, int32(root))
		for len(stack) > 0 {
			v := stack[len(stack)-1]
			if c := head[v]; c >= 0 {
				head[v] = next[c]
				stack = append(stack, c)
				continue
			}
			stack = stack[:len(stack)-1]
			out = append(out, v)
		}
	}
	return out
}

// counts is the number of elements of each column of L, the diagonal included (J.
// Gilbert, E. Ng, B. Peyton, SIAM J. Matrix Anal. Appl. 15 (1994) 1075), for a
// postordered tree.
func (a *Analysis) counts(g *graph, parent []int32) []int32 {
	n := int32(a.n)
	count, first := make([]int32, n), make([]int32, n)
	seen, leaf, ancestor := make([]int32, n), make([]int32, n), make([]int32, n)
	for j := range n {
		first[j], seen[j], leaf[j], ancestor[j] = -1, -1, -1, j
	}
	for k := range n {
		if first[k] < 0 {
			count[k] = 1
		}
		for j := k; j >= 0 && first[j] < 0; j = parent[j] {
			first[j] = k
		}
	}
	for j := range n {
		if p := parent[j]; p >= 0 {
			count[p]--
		}
		for _, u := range g.near(a.order[j]) {
			i := a.place[u]
			if i <= j || first[j] <= seen[i] {
				continue
			}
			seen[i] = first[j]
			before := leaf[i]
			leaf[i] = j
			count[j]++
			if before < 0 {
				continue
			}
			root := before
			for root != ancestor[root] {
				root = ancestor[root]
			}
			for s := before; s != root; {
				s, ancestor[s] = ancestor[s], root
			}
			count[root]--
		}
		if parent[j] >= 0 {
			ancestor[j] = parent[j]
		}
	}
	for j := range n {
		if p := parent[j]; p >= 0 {
			count[p] += count[j]
		}
	}
	return count
}

// renumber makes the fronts of those that remain, in postorder.
func (a *Analysis) renumber(list []merged) {
	parent := make([]int32, len(list))
	for s := range list {
		parent[s] = list[s].parent
	}
	order := make([]int32, 0, a.n)
	number := make([]int32, len(list))
	var own func(s int32)
	own = func(s int32) {
		for _, c := range list[s].absorbed {
			own(c)
		}
		for _, j := range list[s].columns {
			order = append(order, a.order[j])
		}
	}
	for _, s := range postorder(parent) {
		f := &list[s]
		if f.gone {
			continue
		}
		number[s] = int32(len(a.fronts))
		first := int32(len(order))
		own(s)
		a.fronts = append(a.fronts, front{first: first, last: int32(len(order)), parent: s})
	}
	a.order = order
	for k := range a.fronts {
		f := &a.fronts[k]
		if p := list[f.parent].parent; p >= 0 {
			f.parent = number[p]
			a.fronts[f.parent].children = append(a.fronts[f.parent].children, int32(k))
		} else {
			f.parent = -1
		}
	}
}

// structures finds the rows below each front.
func (a *Analysis) structures(g *graph) {
	seen := make([]int32, a.n)
	for i := range seen {
		seen[i] = -1
	}
	var rows []int32
	for k := range a.fronts {
		f := &a.fronts[k]
		rows = rows[:0]
		add := func(r int32) {
			if r >= f.last && seen[r] != int32(k) {
				seen[r] = int32(k)
				rows = append(rows, r)
			}
		}
		for j := f.first; j < f.last; j++ {
			for _, u := range g.near(a.order[j]) {
				add(a.place[u])
			}
		}
		for _, c := range f.children {
			for _, r := range a.fronts[c].rows {
				add(r)
			}
		}
		slices.Sort(rows)
		f.rows = slices.Clone(rows)
		p, r := float64(f.last-f.first), float64(len(f.rows))
		f.work = p*p*p/6 + p*p*r/2 + p*r*r/2
		fill := int64(f.last-f.first) * (int64(f.last-f.first) + 1) / 2
		fill += int64(f.last-f.first) * int64(len(f.rows))
		if a.Kind == Unsymmetric {
			f.work *= 2
			fill *= 2
		}
		a.Fill += fill
		a.Work += f.work
	}
}

// transpose lists the elements by columns.
func (a *Analysis) transpose(rows, cols []int32) {
	a.columns = make([]int32, a.n+1)
	for _, c := range cols {
		a.columns[c+1]++
	}
	for j := range a.n {
		a.columns[j+1] += a.columns[j]
	}
	a.rowOf, a.dataOf = make([]int32, len(cols)), make([]int32, len(cols))
	at := slices.Clone(a.columns[:a.n])
	for i := range a.n {
		for k := rows[i]; k < rows[i+1]; k++ {
			c := cols[k]
			a.rowOf[at[c]], a.dataOf[at[c]] = int32(i), k
			at[c]++
		}
	}
}

// schedule cuts the tree into subtrees for the workers and the fronts above them,
// on which all workers work together.
func (a *Analysis) schedule(workers int) {
	below := make([]float64, len(a.fronts))
	size := make([]int64, len(a.fronts))
	first := make([]int32, len(a.fronts))
	var heap []int32
	for k := range a.fronts {
		f := &a.fronts[k]
		below[k] += f.work
		first[k] = int32(k)
		if len(f.children) > 0 {
			first[k] = first[f.children[0]]
		}
		r := int64(len(f.rows))
		var waiting int64
		for _, c := range f.children {
			size[k] = max(size[k], waiting+size[c])
			rc := int64(len(a.fronts[c].rows))
			waiting += rc * rc
		}
		size[k] = max(size[k], waiting+r*r)
		if f.parent >= 0 {
			below[f.parent] += below[k]
		} else {
			heap = append(heap, int32(k))
			a.stack = max(a.stack, size[k])
		}
	}
	byWork := func(x, y int32) int {
		switch {
		case below[x] > below[y]:
			return -1
		case below[x] < below[y]:
			return 1
		}
		return int(x - y)
	}
	// The largest subtrees are opened until the parts are small enough to be dealt
	// out evenly.
	for workers > 1 && len(heap) > 0 {
		slices.SortFunc(heap, byWork)
		if below[heap[0]] < a.Work/float64(6*workers) || len(a.fronts[heap[0]].children) == 0 || len(heap) > 64*workers {
			break
		}
		k := heap[0]
		a.top = append(a.top, k)
		heap = append(heap[1:], a.fronts[k].children...)
	}
	slices.Sort(a.top)
	slices.SortFunc(heap, byWork)
	// While several subtrees are done at a time, their blocks wait as well.
	var waiting, busy int64
	for i, k := range heap {
		r := int64(len(a.fronts[k].rows))
		waiting += r * r
		if i < workers {
			busy += size[k]
		}
	}
	a.stack = max(a.stack, waiting+busy)
	for _, k := range heap {
		list := make([]int32, 0, k-first[k]+1)
		for s := first[k]; s <= k; s++ {
			list = append(list, s)
		}
		a.subtrees = append(a.subtrees, list)
	}
}
