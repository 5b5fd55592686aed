package sparse

// division is a graph cut into two sides and a separator between them.
type division struct {
	g      *graph
	side   []int8
	weight [3]int32
	total  int32
	// Work of a pass: for each vertex of the separator, what would join it from the
	// other side if the vertex moved to the side of the pass.
	pull  []int32
	queue gainQueue
	trail []int32
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

// refine moves vertices out of the separator as long as that makes it lighter,
// also through some moves that make it heavier. A pass moves them all to one side,
// so that the separator can walk as a whole; passes take sides in turn.
func (d *division) refine() {
	n := d.g.n()
	d.pull = make([]int32, n)
	d.queue.place = make([]int32, n)
	for i := range d.queue.place {
		d.queue.place[i] = -1
	}
	to := left
	if d.weight[right] < d.weight[left] {
		to = right
	}
	for i, failed := 0, 0; i < passes && failed < 2; i++ {
		if d.pass(to) {
			failed = 0
		} else {
			failed++
		}
		to = 1 - to
	}
}

// pass is one round of moves to a side; it returns whether the division got
// better.
func (d *division) pass(to int8) bool {
	d.trail = d.trail[:0]
	d.queue.clear()
	count := 0
	for v, s := range d.side {
		if s == separator {
			d.enter(int32(v), to)
			count++
		}
	}
	start := d.cost()
	best, kept := start, 0
	limit := min(max(5*count, 20), patience)
	for len(d.trail)-kept < limit && !d.queue.empty() {
		if float64(d.weight[to]) > 1.2*imbalance*float64(d.weight[left]+d.weight[right]) {
			break
		}
		v := d.queue.pop()
		d.trail = append(d.trail, v)
		d.move(v, to)
		if c := d.cost(); c < best {
			best, kept = c, len(d.trail)
		}
	}
	for i := len(d.trail) - 1; i >= kept; i-- {
		d.undo(d.trail[i], to)
	}
	return best < start
}

// enter computes what a vertex of the separator would pull and queues it.
func (d *division) enter(v int32, to int8) {
	var pull int32
	for _, u := range d.g.near(v) {
		if d.side[u] == 1-to {
			pull += d.g.weight[u]
		}
	}
	d.pull[v] = pull
	d.queue.push(v, d.g.weight[v]-pull)
}

// move takes a vertex from the separator to a side; its neighbours on the other
// side join the separator.
func (d *division) move(v int32, to int8) {
	g := d.g
	d.put(v, to)
	for _, u := range g.near(v) {
		if d.side[u] != 1-to {
			continue
		}
		d.put(u, separator)
		for _, x := range g.near(u) {
			if d.side[x] == separator && x != u && d.queue.place[x] >= 0 {
				d.pull[x] -= g.weight[u]
				d.queue.update(x, g.weight[x]-d.pull[x])
			}
		}
		d.enter(u, to)
	}
}

// undo takes back a move, the last one that is not yet taken back: what it pulled
// returns to the other side.
func (d *division) undo(v int32, to int8) {
	d.put(v, separator)
	// What joined the separator by this move touches no vertex of the side any more.
	for _, u := range d.g.near(v) {
		if d.side[u] != separator {
			continue
		}
		touches := false
		for _, x := range d.g.near(u) {
			if d.side[x] == to {
				touches = true
				break
			}
		}
		if !touches {
			d.put(u, 1-to)
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
