package mesh

import (
	"container/heap"
	"math"
	"slices"
)

// grade sets the edge lengths that the vertices ask for: pieces with a length of their
// own, gaps that want a number of cells across, and a field; from there they grow with
// the distance.
func (r *refiner) grade(pieces []piece, set *PlanSettings, across []int) {
	gaps := slices.Max(across) > 0
	own := set.SizeAt != nil || gaps
	for i := range pieces {
		own = own || pieces[i].size > 0
	}
	if !own && set.Growth == 0 {
		return
	}
	r.slope, r.field = math.Inf(1), set.SizeAt
	if set.Growth > 0 {
		r.slope = set.Growth
	}
	r.want = make([]float64, len(r.points))
	for v := range r.want {
		r.want[v] = math.Inf(1)
		if r.field != nil {
			r.want[v] = r.field(r.points[v])
		}
	}
	for i := range pieces {
		h := pieces[i].wanted(set.Sizes)
		if pieces[i].size == 0 && set.Growth == 0 {
			continue
		}
		for _, v := range r.ends[i] {
			r.want[v] = min(r.want[v], h)
		}
	}
	if gaps {
		r.gaps(across)
	}
	r.spread()
}

// narrowest is the least length of cells in gaps, as a part of that in the region: what is
// narrower has fewer cells across than was asked for.
const narrowest = 1. / 200

// gaps asks for cells, some in each region, across the gaps between pieces that run side by side. Where they
// do, faces of the triangulation of the outlines stand on one piece with a vertex of the
// other. Pieces longer than their gap is wide are split first, so that all of it is seen.
func (r *refiner) gaps(of []int) {
	along := map[int32][]Point{} // directions of the pieces at each vertex
	direction := func(s int32) Point {
		a, b := r.points[r.ends[s][0]], r.points[r.ends[s][1]]
		return Point{b.X - a.X, b.Y - a.Y}
	}
	for s, e := range r.ends {
		d := direction(int32(s))
		along[e[0]], along[e[1]] = append(along[e[0]], d), append(along[e[1]], d)
	}
	for range 60 {
		var long [][2]int32
		for f := range r.faces {
			fc := &r.faces[f]
			across := float64(of[fc.region])
			if r.size[fc.region] == 0 || across == 0 {
				continue
			}
			for i := range 3 {
				v, a, b := fc.v[i], fc.v[next(i)], fc.v[prev(i)]
				wide, length := r.gap(fc, i, func(d Point) bool {
					if s := r.segmentOf(v); s != none {
						return alike(direction(s), d)
					}
					return slices.ContainsFunc(along[v], func(o Point) bool { return alike(o, d) })
				})
				h := wide / across
				if wide == 0 || h >= r.size[fc.region] {
					continue
				}
				if least := r.size[fc.region] * narrowest; h < least {
					h, wide = least, least*across
				}
				for _, x := range [3]int32{v, a, b} {
					r.want[x] = min(r.want[x], h)
				}
				if length > wide {
					long = append(long, [2]int32{a, b})
				}
			}
		}
		if len(long) == 0 || len(r.faces) > r.limit {
			return
		}
		for _, e := range long {
			r.splitSegment(e)
		}
	}
}

// gap is the width of a gap that face fc spans from the piece opposite vertex i to that
// vertex, 0 for none, and the length of the piece. beside says whether an outline at
// the vertex runs along a direction.
func (r *refiner) gap(fc *face, i int, beside func(d Point) bool) (wide, length float64) {
	if fc.s[i] == none || fc.s[next(i)] != none || fc.s[prev(i)] != none {
		return 0, 0
	}
	p, u, w := r.points[fc.v[i]], r.points[fc.v[next(i)]], r.points[fc.v[prev(i)]]
	d := Point{w.X - u.X, w.Y - u.Y}
	l2 := d.X*d.X + d.Y*d.Y
	foot := (p.X-u.X)*d.X + (p.Y-u.Y)*d.Y
	if foot < 0 || foot > l2 || !beside(d) {
		return 0, 0
	}
	length = math.Sqrt(l2)
	return math.Abs((p.X-u.X)*d.Y-(p.Y-u.Y)*d.X) / length, length
}

// alike says whether two directions are within 45° of each other, either way.
func alike(a, b Point) bool {
	dot := a.X*b.X + a.Y*b.Y
	return 2*dot*dot > (a.X*a.X+a.Y*a.Y)*(b.X*b.X+b.Y*b.Y)
}

// vertexSize is a vertex in a queue, the one with the least length first.
type vertexSize struct {
	v    int32
	size float64
}

type sizeQueue []vertexSize

func (q sizeQueue) Len() int           { return len(q) }
func (q sizeQueue) Less(i, j int) bool { return q[i].size < q[j].size }
func (q sizeQueue) Swap(i, j int)      { q[i], q[j] = q[j], q[i] }
func (q *sizeQueue) Push(x any)        { *q = append(*q, x.(vertexSize)) }
func (q *sizeQueue) Pop() any {
	old := *q
	last := old[len(old)-1]
	*q = old[:len(old)-1]
	return last
}

// spread lets lengths grow no faster than the slope along the edges (E. W. Dijkstra,
// Numerische Mathematik 1 (1959) 269).
func (r *refiner) spread() {
	if math.IsInf(r.slope, 1) {
		return
	}
	var q sizeQueue
	for v, h := range r.want {
		if !math.IsInf(h, 1) {
			q = append(q, vertexSize{int32(v), h})
		}
	}
	heap.Init(&q)
	for len(q) > 0 {
		e := heap.Pop(&q).(vertexSize)
		if e.size > r.want[e.v] {
			continue
		}
		r.around(e.v, func(u int32) {
			if h := e.size + r.slope*math.Sqrt(sq(r.points[u], r.points[e.v])); h < r.want[u] {
				r.want[u] = h
				heap.Push(&q, vertexSize{u, h})
			}
		})
	}
}

// around calls f for the vertices that an edge joins to v; some twice.
func (t *triangulation) around(v int32, f func(u int32)) {
	start := t.at[v]
	for _, turn := range [2]func(int) int{next, prev} {
		for g := start; g != none; {
			fc := &t.faces[g]
			i := fc.corner(v)
			f(fc.v[next(i)])
			f(fc.v[prev(i)])
			if g = fc.n[turn(i)]; g == start {
				return
			}
		}
	}
}

// inherit gives a new vertex the length that its neighbours leave it.
func (r *refiner) inherit(v int32) {
	h := math.Inf(1)
	if r.field != nil {
		h = r.field(r.points[v])
	}
	if !math.IsInf(r.slope, 1) {
		r.around(v, func(u int32) {
			if u < v {
				h = min(h, r.want[u]+r.slope*math.Sqrt(sq(r.points[u], r.points[v])))
			}
		})
	} else if int(v) < len(r.owner) && r.owner[v] != none {
		for _, e := range r.ends[r.owner[v]] {
			h = min(h, r.want[e])
		}
	}
	for int(v) >= len(r.want) {
		r.want = append(r.want, math.Inf(1))
	}
	r.want[v] = h
}
