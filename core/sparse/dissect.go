package sparse

import (
	"math/rand/v2"
	"slices"
	"sync"

	"saltkettle/core/parallel"
)

// Parameters of nested dissection.
const (
	leafSize    = 160  // unknowns of a part that minimum degree orders
	coarseSize  = 120  // vertices of the coarsest graph
	attempts    = 5    // initial separators tried there
	imbalance   = 0.57 // the larger side may have this part of both sides
	patience    = 300  // moves without gain before a pass of refinement ends
	passes      = 8    // of refinement on each level
	serialBelow = 5000 // parts smaller than this are not worth a goroutine
)

// Sides of a vertex.
const (
	left int8 = iota
	right
	separator
)

// nestedDissection returns an order of the vertices by multilevel nested
// dissection: a small set of vertices that separates the graph into two halves
// comes last, the halves are ordered in the same way. Separators are found on a
// coarse graph made by matching heavy edges and refined on the way back (G.
// Karypis and V. Kumar, SIAM J. Sci. Comput. 20 (1998) 359) by moving vertices
// between separator and sides as in C. Fiduccia and R. Mattheyses (Proc. 19th
// Design Automation Conf. (1982) 175). With the coordinates of the vertices (three
// each) the first cut is the plane across the longest extent instead.
func nestedDissection(g *graph, coordinates []float64) []int32 {
	all := make([]int32, g.n())
	for i := range all {
		all[i] = int32(i)
	}
	out := make([]int32, g.n())
	var wg sync.WaitGroup
	dissect(g, coordinates, all, out, 1, &wg)
	wg.Wait()
	return out
}

// dissect orders the vertices of g, called names outside, into out.
func dissect(g *graph, coordinates []float64, names, out []int32, seed uint64, wg *sync.WaitGroup) {
	n := g.n()
	total := 0
	for _, w := range g.weight {
		total += int(w)
	}
	var side []int8
	if total > leafSize {
		side = split(g, coordinates, seed)
	}
	var lists [3][]int32
	for v, s := range side {
		lists[s] = append(lists[s], int32(v))
	}
	if len(lists[left]) == 0 || len(lists[right]) == 0 {
		for i, v := range minimumDegree(g) {
			out[i] = names[v]
		}
		return
	}
	at := 0
	local := make([]int32, n)
	for s := left; s <= right; s++ {
		keep := lists[s]
		part := g.part(keep, local, func(v int32) bool { return side[v] == s })
		inner := make([]int32, len(keep))
		var where []float64
		if coordinates != nil {
			where = make([]float64, 0, 3*len(keep))
		}
		for i, v := range keep {
			inner[i] = names[v]
			if coordinates != nil {
				where = append(where, coordinates[3*v:3*v+3]...)
			}
		}
		place := out[at : at+len(keep)]
		at += len(keep)
		if s == left && len(keep) > serialBelow && parallel.Workers() > 1 {
			wg.Go(func() { dissect(part, where, inner, place, mix(seed), wg) })
		} else {
			dissect(part, where, inner, place, mix(seed+1), wg)
		}
	}
	for _, v := range lists[separator] {
		out[at] = names[v]
		at++
	}
}

// split divides the vertices into two sides and a separator.
func split(g *graph, coordinates []float64, seed uint64) []int8 {
	rng := rand.New(rand.NewPCG(seed, 1))
	if coordinates != nil {
		d := newDivision(g)
		d.cut(planeSides(g, coordinates))
		d.refine()
		return d.side
	}
	levels, maps := coarsen(g, coarseSize, rng)
	bottom := levels[len(levels)-1]
	var best *division
	for range attempts {
		d := newDivision(bottom)
		d.cut(grown(bottom, rng))
		d.refine()
		if best == nil || d.cost() < best.cost() {
			best = d
		}
	}
	return best.project(levels, maps).side
}

// coarsen contracts a graph until it is as small as wanted. Each graph but the
// last comes with the numbers of its vertices in the next.
func coarsen(g *graph, size int, rng *rand.Rand) (levels []*graph, maps [][]int32) {
	levels = []*graph{g}
	for levels[len(levels)-1].n() > size {
		fine := levels[len(levels)-1]
		coarse, number := fine.contract(fine.match(rng))
		if coarse.n() > fine.n()*19/20 {
			break
		}
		levels, maps = append(levels, coarse), append(maps, number)
	}
	return levels, maps
}

// project takes a division of the coarsest graph back to the finest.
func (d *division) project(levels []*graph, maps [][]int32) *division {
	for k := len(maps) - 1; k >= 0; k-- {
		fine := newDivision(levels[k])
		for v, c := range maps[k] {
			fine.put(int32(v), d.side[c])
		}
		fine.refine()
		d = fine
	}
	return d
}

// planeSides divides the vertices at the median of their longest extent.
func planeSides(g *graph, at []float64) []int8 {
	axis, most := 0, -1.0
	for d := range 3 {
		lo, hi := at[d], at[d]
		for i := d; i < len(at); i += 3 {
			lo, hi = min(lo, at[i]), max(hi, at[i])
		}
		if hi-lo > most {
			axis, most = d, hi-lo
		}
	}
	order := make([]int32, g.n())
	total := 0
	for i := range order {
		order[i] = int32(i)
		total += int(g.weight[i])
	}
	slices.SortFunc(order, func(a, b int32) int {
		switch x, y := at[3*a+int32(axis)], at[3*b+int32(axis)]; {
		case x < y:
			return -1
		case x > y:
			return 1
		}
		return int(a - b)
	})
	side := make([]int8, g.n())
	sum := 0
	for _, v := range order {
		if sum += int(g.weight[v]); 2*sum > total {
			side[v] = right
		}
	}
	return side
}

// match joins each vertex with the free neighbour of the heaviest edge.
func (g *graph) match(rng *rand.Rand) []int32 {
	n := g.n()
	group := make([]int32, n)
	for i := range group {
		group[i] = -1
	}
	var total int32
	for _, w := range g.weight {
		total += w
	}
	limit := 3*total/(2*coarseSize) + 1
	for _, v := range rng.Perm(n) {
		i := int32(v)
		if group[i] >= 0 {
			continue
		}
		mate, heavy := i, int32(-1)
		for k := g.ptr[i]; k < g.ptr[i+1]; k++ {
			u := g.adj[k]
			if group[u] >= 0 || g.weight[u]+g.weight[i] > limit {
				continue
			}
			w := int32(1)
			if g.edge != nil {
				w = g.edge[k]
			}
			if w > heavy {
				mate, heavy = u, w
			}
		}
		group[i], group[mate] = i, i
	}
	return group
}

// grown divides a small graph in two by growing one side from a random vertex,
// always taking the neighbour that adds least to the cut.
func grown(g *graph, rng *rand.Rand) []int8 {
	n := g.n()
	side := make([]int8, n)
	gain := make([]int32, n)
	var total, sum int32
	for v := range n {
		side[v] = right
		total += g.weight[v]
		gain[v] = -1 << 30
	}
	for 2*sum < total {
		best := int32(-1)
		for v := range int32(n) {
			if side[v] == right && gain[v] > -1<<30 && (best < 0 || gain[v] > gain[best]) {
				best = v
			}
		}
		if best < 0 {
			for best = int32(rng.IntN(n)); side[best] == left; {
				best = (best + 1) % int32(n)
			}
		}
		if sum+g.weight[best]-total/2 > total/2-sum && sum > 0 {
			break
		}
		side[best] = left
		sum += g.weight[best]
		for k := g.ptr[best]; k < g.ptr[best+1]; k++ {
			u := g.adj[k]
			w := int32(1)
			if g.edge != nil {
				w = g.edge[k]
			}
			if gain[u] == -1<<30 {
				gain[u] = 0
				for x := g.ptr[u]; x < g.ptr[u+1]; x++ {
					if g.edge != nil {
						gain[u] -= g.edge[x]
					} else {
						gain[u]--
					}
				}
			}
			gain[u] += 2 * w
		}
	}
	return side
}
