package sparse

import (
	"slices"

	"saltkettle/core/parallel"
)

// graph is the adjacency of unknowns without loops, both directions stored.
type graph struct {
	ptr    []int32
	adj    []int32
	weight []int32 // of the vertices: how many unknowns each stands for
	edge   []int32 // weights of the edges, nil for 1 everywhere
}

func (g *graph) n() int { return len(g.ptr) - 1 }

func (g *graph) near(v int32) []int32 { return g.adj[g.ptr[v]:g.ptr[v+1]] }

// adjacency returns the graph of A + Aᵀ from a pattern by rows.
func adjacency(rows, cols []int32) *graph {
	n := len(rows) - 1
	if g := symmetricAdjacency(rows, cols); g != nil {
		return g
	}
	count := make([]int32, n+1)
	for i := range n {
		for _, c := range cols[rows[i]:rows[i+1]] {
			if int(c) != i {
				count[i+1]++
				count[c+1]++
			}
		}
	}
	for i := range n {
		count[i+1] += count[i]
	}
	both := make([]int32, count[n])
	at := slices.Clone(count[:n])
	for i := range n {
		for _, c := range cols[rows[i]:rows[i+1]] {
			if int(c) != i {
				both[at[i]] = c
				at[i]++
				both[at[c]] = int32(i)
				at[c]++
			}
		}
	}
	g := &graph{ptr: make([]int32, n+1), adj: both[:0], weight: ones(n)}
	for i := range n {
		list := both[count[i]:count[i+1]]
		slices.Sort(list)
		g.adj = append(g.adj, slices.Compact(list)...)
		g.ptr[i+1] = int32(len(g.adj))
	}
	return g
}

// symmetricAdjacency is the graph of a pattern that is symmetric, nil if it is not.
func symmetricAdjacency(rows, cols []int32) *graph {
	n := len(rows) - 1
	// Each element of the lower part must be met by the next one of its column in
	// the upper part, row by row.
	next := make([]int32, n)
	diagonal := 0
	for i := range n {
		list := cols[rows[i]:rows[i+1]]
		at, found := slices.BinarySearch(list, int32(i))
		for _, c := range list[:at] {
			if p := next[c]; p >= rows[c+1] || cols[p] != int32(i) {
				return nil
			}
			next[c]++
		}
		if found {
			diagonal++
			at++
		}
		next[i] = rows[i] + int32(at)
	}
	for i := range n {
		if next[i] != rows[i+1] {
			return nil
		}
	}
	g := &graph{ptr: make([]int32, n+1), adj: make([]int32, 0, len(cols)-diagonal), weight: ones(n)}
	for i := range n {
		for _, c := range cols[rows[i]:rows[i+1]] {
			if int(c) != i {
				g.adj = append(g.adj, c)
			}
		}
		g.ptr[i+1] = int32(len(g.adj))
	}
	return g
}

func ones(n int) []int32 {
	s := make([]int32, n)
	for i := range s {
		s[i] = 1
	}
	return s
}

// twins returns for each vertex the first vertex with the same neighbours, itself
// included, such as the unknowns of one node of a mesh.
func (g *graph) twins() []int32 {
	n := g.n()
	key := make([]uint64, n)
	parallel.For(n, 4096, func(_, lo, hi int) {
		for v := lo; v < hi; v++ {
			h := mix(uint64(v))
			for _, u := range g.near(int32(v)) {
				h += mix(uint64(u))
			}
			key[v] = h
		}
	})
	first := make(map[uint64]int32, n/3+1)
	group := make([]int32, n)
	for v := range int32(n) {
		group[v] = v
		u, ok := first[key[v]]
		if !ok {
			first[key[v]] = v
			continue
		}
		if g.same(u, v) {
			group[v] = u
		}
	}
	return group
}

// same says that two vertices are neighbours and have all other neighbours in
// common.
func (g *graph) same(u, v int32) bool {
	a, b := g.near(u), g.near(v)
	if len(a) != len(b) {
		return false
	}
	i, j, met := 0, 0, false
	for i < len(a) || j < len(b) {
		switch {
		case i < len(a) && a[i] == v:
			met = true
			i++
		case j < len(b) && b[j] == u:
			j++
		case i < len(a) && j < len(b) && a[i] == b[j]:
			i++
			j++
		default:
			return false
		}
	}
	return met
}

// mix scatters the bits of a number (the finaliser of splitmix64).
func mix(x uint64) uint64 {
	x += 0x9e3779b97f4a7c15
	x = (x ^ x>>30) * 0xbf58476d1ce4e5b9
	x = (x ^ x>>27) * 0x94d049bb133111eb
	return x ^ x>>31
}

// contract unites the vertices of each group, named by one of its members, and
// returns the smaller graph with the new number of each vertex.
func (g *graph) contract(group []int32) (*graph, []int32) {
	n := g.n()
	number := make([]int32, n)
	count := int32(0)
	for v := range n {
		if group[v] == int32(v) {
			number[v] = count
			count++
		}
	}
	for v := range n {
		number[v] = number[group[v]]
	}
	members := make([]int32, count+1)
	for _, c := range number {
		members[c+1]++
	}
	for c := range count {
		members[c+1] += members[c]
	}
	list := make([]int32, n)
	at := slices.Clone(members[:count])
	for v, c := range number {
		list[at[c]] = int32(v)
		at[c]++
	}
	out := &graph{ptr: make([]int32, count+1), weight: make([]int32, count), adj: make([]int32, 0, len(g.adj)/2), edge: make([]int32, 0, len(g.adj)/2)}
	place := make([]int32, count)
	for i := range place {
		place[i] = -1
	}
	for c := range count {
		begin := int32(len(out.adj))
		for _, v := range list[members[c]:members[c+1]] {
			out.weight[c] += g.weight[v]
			for k := g.ptr[v]; k < g.ptr[v+1]; k++ {
				u := number[g.adj[k]]
				if u == c {
					continue
				}
				w := int32(1)
				if g.edge != nil {
					w = g.edge[k]
				}
				if p := place[u]; p >= begin {
					out.edge[p] += w
				} else {
					place[u] = int32(len(out.adj))
					out.adj = append(out.adj, u)
					out.edge = append(out.edge, w)
				}
			}
		}
		out.ptr[c+1] = int32(len(out.adj))
	}
	return out, number
}

// part returns the graph of some vertices, ascending in keep; local is scratch
// with an entry for each vertex of g.
func (g *graph) part(keep, local []int32, inside func(v int32) bool) *graph {
	size := 0
	for i, v := range keep {
		local[v] = int32(i)
		size += len(g.near(v))
	}
	out := &graph{ptr: make([]int32, len(keep)+1), weight: make([]int32, len(keep)), adj: make([]int32, 0, size)}
	for i, v := range keep {
		out.weight[i] = g.weight[v]
		for _, u := range g.near(v) {
			if inside(u) {
				out.adj = append(out.adj, local[u])
			}
		}
		out.ptr[i+1] = int32(len(out.adj))
	}
	return out
}
