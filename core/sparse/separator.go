package sparse

import "math/rand/v2"

// division is a graph cut into two sides and a separator between them.
type division struct {
	g      *graph
	side   []int8
	weight [3]int32
	total  int32
	// Work of refine: for each vertex of the separator, what would join it from the
	// other side if the vertex moved left or right.
	pull   [2][]int32
	queue  [2]gainQueue
	locked []bool
	trail  []move
}

// move is a vertex that left the separator for a side.
type move struct {
	vertex int32
	to     int8
}

func newDivision(g *graph) *division {
	d := &division{g: g, side: make([]int8, g.n())}
	for i, w := range g.weight {
		d.side[i] = -1
		d.total += w
	}
	return d
}

// put gives a vertex its side.
func (d *division) put(v int32, side int8) {
	if old := d.side[v]; old >= 0 {
		d.weight[old] -= d.g.weight[v]
	}
	d.side[v] = side
	d.weight[side] += d.g.weight[v]
}

// cut starts from two sides: the vertices at the border of the one with the
// lighter border become the separator.
func (d *division) cut(side []int8) {
	var border [2]int32
	touches := func(v int32) bool {
		for _, u := range d.g.near(v) {
			if side[u] != side[v] {
				return true
			}
		}
		return false
	}
	edge := make([]bool, len(side))
	for v := range side {
		if edge[v] = touches(int32(v)); edge[v] {
			border[side[v]] += d.g.weight[v]
		}
	}
	from := left
	if border[right] < border[left] {
		from = right
	}
	for v, s := range side {
		if edge[v] && s == from {
			s = separator
		}
		d.put(int32(v), s)
	}
}

// cost is what a division is judged by: the weight of the separator, and much
// more where the sides are out of balance.
func (d *division) cost() float64 {
	return judge(d.weight, d.total)
}

func judge(weight [3]int32, total int32) float64 {
	heavy := float64(max(weight[left], weight[right]))
	both := float64(weight[left]+weight[right]) + 1
	over := max(0, heavy/both-imbalance)
	return float64(weight[separator])*(1+0.2*max(0, heavy/both-0.5)) + over*float64(total)
}

func (d *division) better(than float64) bool { return d.cost() < than }

// refine moves vertices out of the separator as long as that makes it lighter,
// also through some moves that make it heavier.
func (d *division) refine(rng *rand.Rand) {
	n := d.g.n()
	d.pull[left], d.pull[right] = make([]int32, n), make([]int32, n)
	d.locked = make([]bool, n)
	for s := range d.queue {
		d.queue[s].place = make([]int32, n)
		for i := range d.queue[s].place {
			d.queue[s].place[i] = -1
		}
	}
	for range passes {
		if !d.pass(rng) {
			return
		}
	}
}

// pass is one round of moves; it returns whether the division got better.
func (d *division) pass(rng *rand.Rand) bool {
	d.trail = d.trail[:0]
	d.queue[left].clear()
	d.queue[right].clear()
	clear(d.locked)
	for v, s := range d.side {
		if s == separator {
			d.enter(int32(v))
		}
	}
	start := d.cost()
	best, kept, idle := start, 0, 0
	limit := max(patience, d.g.n()/50)
	for idle < limit {
		to, ok := d.next(rng)
		if !ok {
			break
		}
		v := d.queue[to].pop()
		if other := &d.queue[1-to]; other.place[v] >= 0 {
			other.remove(v)
		}
		d.locked[v] = true
		d.trail = append(d.trail, move{v, to})
		d.move(v, to)
		if c := d.cost(); c < best {
			best, kept, idle = c, len(d.trail), 0
		} else {
			idle++
		}
	}
	for i := len(d.trail) - 1; i >= kept; i-- {
		d.undo(d.trail[i])
	}
	return best < start
}

// next chooses the side that the next vertex goes to.
func (d *division) next(rng *rand.Rand) (int8, bool) {
	l, r := &d.queue[left], &d.queue[right]
	switch {
	case l.empty() && r.empty():
		return 0, false
	case l.empty():
		return right, true
	case r.empty():
		return left, true
	}
	limit := imbalance * float64(d.weight[left]+d.weight[right])
	switch {
	case float64(d.weight[left]) > limit:
		return right, true
	case float64(d.weight[right]) > limit:
		return left, true
	case l.key[0] > r.key[0]:
		return left, true
	case l.key[0] < r.key[0]:
		return right, true
	case d.weight[left] < d.weight[right]:
		return left, true
	case d.weight[left] > d.weight[right]:
		return right, true
	}
	return int8(rng.IntN(2)), true
}

// enter computes what a vertex of the separator would pull and queues it.
func (d *division) enter(v int32) {
	var near [2]int32
	for _, u := range d.g.near(v) {
		if s := d.side[u]; s != separator {
			near[s] += d.g.weight[u]
		}
	}
	d.pull[left][v], d.pull[right][v] = near[right], near[left]
	if d.locked[v] {
		return
	}
	d.queue[left].push(v, d.g.weight[v]-near[right])
	d.queue[right].push(v, d.g.weight[v]-near[left])
}

// move takes a vertex from the separator to a side; its neighbours on the other
// side join the separator.
func (d *division) move(v int32, to int8) {
	g := d.g
	d.put(v, to)
	for _, u := range g.near(v) {
		switch d.side[u] {
		case separator:
			// Moving u to the other side would pull v now.
			d.change(u, 1-to, g.weight[v])
		case 1 - to:
			d.put(u, separator)
			for _, x := range g.near(u) {
				if d.side[x] == separator {
					d.change(x, to, -g.weight[u])
				}
			}
			d.enter(u)
		}
	}
}

// change corrects what moving v to a side would pull.
func (d *division) change(v int32, to int8, by int32) {
	d.pull[to][v] += by
	if q := &d.queue[to]; q.place[v] >= 0 {
		q.update(v, d.g.weight[v]-d.pull[to][v])
	}
}

// undo takes back a move, the last one that is not yet taken back: what it pulled
// returns to the other side.
func (d *division) undo(m move) {
	d.put(m.vertex, separator)
	// What joined the separator by this move touches no vertex of that side any
	// more.
	for _, u := range d.g.near(m.vertex) {
		if d.side[u] != separator {
			continue
		}
		touches := false
		for _, x := range d.g.near(u) {
			if d.side[x] == m.to {
				touches = true
				break
			}
		}
		if !touches {
			d.put(u, 1-m.to)
		}
	}
}

// gainQueue is a heap of vertices by what moving them gains.
type gainQueue struct {
	vertex, key []int32
	place       []int32 // of each vertex in the heap, −1 if it is not there
}

func (q *gainQueue) empty() bool { return len(q.vertex) == 0 }

func (q *gainQueue) clear() {
	for _, v := range q.vertex {
		q.place[v] = -1
	}
	q.vertex, q.key = q.vertex[:0], q.key[:0]
}

func (q *gainQueue) push(v, key int32) {
	if q.place[v] >= 0 {
		q.update(v, key)
		return
	}
	q.vertex, q.key = append(q.vertex, v), append(q.key, key)
	q.place[v] = int32(len(q.vertex) - 1)
	q.up(len(q.vertex) - 1)
}

func (q *gainQueue) pop() int32 {
	v := q.vertex[0]
	q.remove(v)
	return v
}

func (q *gainQueue) remove(v int32) {
	i, last := int(q.place[v]), len(q.vertex)-1
	q.swap(i, last)
	q.vertex, q.key = q.vertex[:last], q.key[:last]
	q.place[v] = -1
	if i < last {
		q.down(q.up(i))
	}
}

func (q *gainQueue) update(v, key int32) {
	i := int(q.place[v])
	q.key[i] = key
	q.down(q.up(i))
}

func (q *gainQueue) swap(i, j int) {
	q.vertex[i], q.vertex[j] = q.vertex[j], q.vertex[i]
	q.key[i], q.key[j] = q.key[j], q.key[i]
	q.place[q.vertex[i]], q.place[q.vertex[j]] = int32(i), int32(j)
}

func (q *gainQueue) up(i int) int {
	for i > 0 {
		p := (i - 1) / 2
		if q.key[p] >= q.key[i] {
			break
		}
		q.swap(i, p)
		i = p
	}
	return i
}

func (q *gainQueue) down(i int) {
	for {
		c := 2*i + 1
		if c >= len(q.key) {
			return
		}
		if c+1 < len(q.key) && q.key[c+1] > q.key[c] {
			c++
		}
		if q.key[i] >= q.key[c] {
			return
		}
		q.swap(i, c)
		i = c
	}
}
