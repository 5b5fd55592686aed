package sparse

// quotient is the state of the approximate minimum degree ordering of P. Amestoy,
// T. Davis and I. Duff (SIAM J. Matrix Anal. Appl. 17 (1996) 886) on a quotient
// graph: eliminated vertices become elements, which stand for cliques. The list
// of a live vertex has its elements first, then its neighbours.
type quotient struct {
	n, total  int32
	start     []int32 // of the list of each vertex or element in list; flipped: the one that absorbed it
	length    []int32
	elements  []int32 // how many of the list are elements; −1 absorbed, −2 an element
	list      []int32
	used      int32
	size      []int32 // unknowns of a vertex; negative while it is in the new element, 0 absorbed
	degree    []int32
	mark      []int32
	head      []int32 // by degree: first of a list of vertices
	next      []int32
	last      []int32 // before it in its list, or its hash
	bucket    []int32 // by hash
	stamp     int32
	longest   int32
	least     int32
	done      int32
	pivot     int32
	pivotSize int32
	clique    int32 // size of the new element in unknowns
	from, to  int32 // place of the new element in list
	appended  bool  // it is at the end
}

func flip(i int32) int32 { return -i - 2 }

// minimumDegree returns an order of the vertices that keeps the fill small.
func minimumDegree(g *graph) []int32 {
	n := int32(g.n())
	q := &quotient{n: n, used: int32(len(g.adj))}
	for _, w := range g.weight {
		q.total += w
	}
	q.list = make([]int32, len(g.adj)+len(g.adj)/5+2*int(n)+1)
	copy(q.list, g.adj)
	ints := func(k, value int32) []int32 {
		s := make([]int32, k)
		for i := range s {
			s[i] = value
		}
		return s
	}
	q.start, q.length, q.elements = ints(n+1, 0), ints(n+1, 0), ints(n+1, 0)
	q.size, q.degree, q.mark = ints(n+1, 1), ints(n+1, 0), ints(n+1, 1)
	q.next, q.last, q.bucket = ints(n+1, -1), ints(n+1, -1), ints(n+1, -1)
	q.head = ints(q.total+1, -1)
	copy(q.start, g.ptr[:n])
	copy(q.size, g.weight)
	q.begin(g)
	for q.done < q.total {
		q.choose()
		q.eliminate()
		q.compare()
		q.update()
		q.unite()
		q.finish()
	}
	return q.order()
}

// begin fills the lists by degree.
func (q *quotient) begin(g *graph) {
	n := q.n
	q.renew(0)
	q.elements[n], q.start[n], q.mark[n] = -2, -1, 0
	// Vertices next to nearly all others come last.
	crowded := max(16, int32(10*isqrt(int(q.total))))
	crowded = min(crowded, q.total-2)
	for i := range n {
		var d int32
		for _, u := range g.near(i) {
			d += g.weight[u]
		}
		q.length[i] = g.ptr[i+1] - g.ptr[i]
		q.degree[i] = d
		switch {
		case d == 0:
			q.elements[i] = -2
			q.done += q.size[i]
			q.start[i] = -1
			q.mark[i] = 0
		case d > crowded:
			q.done += q.size[i]
			q.size[i], q.elements[i] = 0, -1
			q.start[i] = flip(n)
			q.size[n]++
		default:
			q.insert(i, d)
		}
	}
}

func isqrt(n int) int {
	r := 0
	for r*r <= n {
		r++
	}
	return r - 1
}

func (q *quotient) insert(i, d int32) {
	if q.head[d] >= 0 {
		q.last[q.head[d]] = i
	}
	q.next[i], q.last[i], q.head[d] = q.head[d], -1, i
}

func (q *quotient) remove(i int32) {
	if q.next[i] >= 0 {
		q.last[q.next[i]] = q.last[i]
	}
	if q.last[i] >= 0 {
		q.next[q.last[i]] = q.next[i]
	} else {
		q.head[q.degree[i]] = q.next[i]
	}
}

// renew raises the stamp above all marks.
func (q *quotient) renew(by int32) {
	q.stamp += by
	if q.stamp < 2 || q.stamp+q.longest < 0 {
		for k := range q.n {
			if q.mark[k] != 0 {
				q.mark[k] = 1
			}
		}
		q.stamp = 2
	}
}

// choose takes a vertex of least degree as the pivot and makes room for its
// element.
func (q *quotient) choose() {
	for q.head[q.least] < 0 {
		q.least++
	}
	k := q.head[q.least]
	q.remove(k)
	q.pivot, q.pivotSize = k, q.size[k]
	q.done += q.pivotSize
	if q.elements[k] > 0 && int(q.used)+int(q.least) >= len(q.list) {
		q.compact()
	}
}

// compact closes the gaps in the lists.
func (q *quotient) compact() {
	for j := range q.n {
		if p := q.start[j]; p >= 0 {
			q.start[j] = q.list[p]
			q.list[p] = flip(j)
		}
	}
	to := int32(0)
	for p := int32(0); p < q.used; {
		j := flip(q.list[p])
		p++
		if j < 0 {
			continue
		}
		q.list[to] = q.start[j]
		q.start[j] = to
		to++
		n := q.length[j] - 1
		copy(q.list[to:to+n], q.list[p:p+n])
		to += n
		p += n
	}
	q.used = to
}

// eliminate makes the pivot an element: the union of its neighbours and those of
// its elements.
func (q *quotient) eliminate() {
	k := q.pivot
	q.clique = 0
	elements := q.elements[k]
	q.size[k] = -q.pivotSize
	p := q.start[k]
	q.from = q.used
	if elements == 0 {
		q.from = p
	}
	q.to = q.from
	for i := int32(0); i <= elements; i++ {
		e, from, n := k, p, q.length[k]-elements
		if i < elements {
			e = q.list[p]
			p++
			from, n = q.start[e], q.length[e]
		}
		for x := from; x < from+n; x++ {
			v := q.list[x]
			s := q.size[v]
			if s <= 0 {
				continue
			}
			q.clique += s
			q.size[v] = -s
			q.list[q.to] = v
			q.to++
			q.remove(v)
		}
		if e != k {
			q.start[e] = flip(k)
			q.mark[e] = 0
		}
	}
	q.appended = elements != 0
	if q.appended {
		q.used = q.to
	}
	q.degree[k], q.start[k], q.length[k], q.elements[k] = q.clique, q.from, q.to-q.from, -2
}

// compare finds for each element near the new one how much of it lies outside.
func (q *quotient) compare() {
	q.renew(0)
	for x := q.from; x < q.to; x++ {
		v := q.list[x]
		s := -q.size[v]
		for _, e := range q.list[q.start[v] : q.start[v]+max(q.elements[v], 0)] {
			if q.mark[e] >= q.stamp {
				q.mark[e] -= s
			} else if q.mark[e] != 0 {
				q.mark[e] = q.degree[e] + q.stamp - s
			}
		}
	}
}

// update bounds the degrees of the vertices of the new element and shortens their
// lists; vertices with nothing else are eliminated with the pivot.
func (q *quotient) update() {
	k := q.pivot
	for x := q.from; x < q.to; x++ {
		v := q.list[x]
		first := q.start[v]
		to := first
		var hash uint32
		var d int32
		p := first
		for ; p < first+q.elements[v]; p++ {
			e := q.list[p]
			if q.mark[e] == 0 {
				continue
			}
			if outside := q.mark[e] - q.stamp; outside > 0 {
				d += outside
				q.list[to] = e
				to++
				hash += uint32(e)
			} else {
				q.start[e] = flip(k)
				q.mark[e] = 0
			}
		}
		q.elements[v] = to - first + 1
		middle := to
		for end := first + q.length[v]; p < end; p++ {
			u := q.list[p]
			if s := q.size[u]; s > 0 {
				d += s
				q.list[to] = u
				to++
				hash += uint32(u)
			}
		}
		if d == 0 {
			q.start[v] = flip(k)
			s := -q.size[v]
			q.clique -= s
			q.pivotSize += s
			q.done += s
			q.size[v], q.elements[v] = 0, -1
			continue
		}
		q.degree[v] = min(q.degree[v], d)
		q.list[to] = q.list[middle]
		q.list[middle] = q.list[first]
		q.list[first] = k
		q.length[v] = to - first + 1
		h := int32(hash % uint32(q.n))
		q.next[v] = q.bucket[h]
		q.bucket[h] = v
		q.last[v] = h
	}
	q.degree[k] = q.clique
	q.longest = max(q.longest, q.clique)
	q.renew(q.longest)
}

// unite joins vertices that have the same lists.
func (q *quotient) unite() {
	for x := q.from; x < q.to; x++ {
		v := q.list[x]
		if q.size[v] >= 0 {
			continue
		}
		h := q.last[v]
		v = q.bucket[h]
		q.bucket[h] = -1
		for ; v >= 0 && q.next[v] >= 0; v = q.next[v] {
			n, elements := q.length[v], q.elements[v]
			for _, u := range q.list[q.start[v]+1 : q.start[v]+n] {
				q.mark[u] = q.stamp
			}
			before := v
			for u := q.next[v]; u >= 0; {
				same := q.length[u] == n && q.elements[u] == elements
				for p := q.start[u] + 1; same && p < q.start[u]+n; p++ {
					same = q.mark[q.list[p]] == q.stamp
				}
				if same {
					q.start[u] = flip(v)
					q.size[v] += q.size[u]
					q.size[u], q.elements[u] = 0, -1
					u = q.next[u]
					q.next[before] = u
				} else {
					before = u
					u = q.next[u]
				}
			}
			q.stamp++
		}
	}
}

// finish puts the vertices of the new element back into the lists by degree.
func (q *quotient) finish() {
	k := q.pivot
	to := q.from
	for x := q.from; x < q.to; x++ {
		v := q.list[x]
		s := -q.size[v]
		if s <= 0 {
			continue
		}
		q.size[v] = s
		d := min(q.degree[v]+q.clique-s, q.total-q.done-s)
		d = max(d, 0)
		q.insert(v, d)
		q.least = min(q.least, d)
		q.degree[v] = d
		q.list[to] = v
		to++
	}
	q.size[k] = q.pivotSize
	q.length[k] = to - q.from
	if q.length[k] == 0 {
		q.start[k], q.mark[k] = -1, 0
	}
	if q.appended {
		q.used = to
	}
}

// order is the postorder of the tree of elements.
func (q *quotient) order() []int32 {
	n := q.n
	parent := make([]int32, n+1)
	for i := range n {
		parent[i] = flip(q.start[i])
	}
	parent[n] = -1
	head, next := q.head[:0], q.next
	for range n + 2 {
		head = append(head, -1)
	}
	for j := n - 1; j >= 0; j-- {
		if q.size[j] == 0 {
			next[j] = head[parent[j]]
			head[parent[j]] = j
		}
	}
	for e := n; e >= 0; e-- {
		if q.size[e] > 0 && parent[e] >= 0 {
			next[e] = head[parent[e]]
			head[parent[e]] = e
		}
	}
	out := make([]int32, 0, n+1)
	stack := make([]int32, 0, 64)
	for root := range n + 1 {
		if parent[root] != -1 {
			continue
		}
		stack = append(stack[:0], root)
		for len(stack) > 0 {
			v := stack[len(stack)-1]
			if child := head[v]; child >= 0 {
				head[v] = next[child]
				stack = append(stack, child)
				continue
			}
			stack = stack[:len(stack)-1]
			if v < n {
				out = append(out, v)
			}
		}
	}
	return out
}
