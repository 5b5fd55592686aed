package mesh

import (
	"cmp"
	"math"
	"slices"
)

// fill puts the layers in place of the triangles of the strips. number gives the vertices
// of the triangulation those of the plan; extra are those that were put into pieces.
func (w *walls) fill(p *Plan, strips map[int32]bool, vertex, number []int32, extra map[int32][]int32) {
	// line is the vertices of the plan on a piece, from one to another.
	line := func(from, to, piece int32) []int32 {
		list := []int32{from}
		for _, v := range extra[piece] {
			list = append(list, number[v])
		}
		slices.SortFunc(list[1:], func(a, b int32) int {
			return cmp.Compare(sq(p.Points[from], p.Points[a]), sq(p.Points[from], p.Points[b]))
		})
		return append(list, to)
	}
	type edge = [2]int32
	pieces := map[edge]int32{} // of the outlines at the strips
	columns := map[int32][]int32{}
	column := func(v int32) []int32 {
		if c, ok := columns[v]; ok {
			return c
		}
		x := w.at[v]
		foot, top := number[vertex[v]], number[vertex[x.top]]
		c := []int32{foot}
		if x.long > 0 {
			a, b := p.Points[foot], p.Points[top]
			heights := x.wall.heights()
			for _, h := range heights[:len(heights)-1] {
				c = append(c, int32(len(p.Points)))
				p.Points = append(p.Points, Point{a.X + h*(b.X-a.X), a.Y + h*(b.Y-a.Y)})
			}
			c = append(c, top)
		}
		if x.rung != none {
			for k := range len(c) - 1 {
				pieces[pair(c[k], c[k+1])] = x.rung
			}
		}
		columns[v] = c
		return c
	}
	beside := map[edge][2]int{} // triangles that wait for a neighbour, and their corner
	place := make([]int32, len(p.Triangles))
	kept := 0
	region := map[edge]int32{} // of the strip at a piece of outline
	for t := range p.Triangles {
		place[t] = int32(kept)
		tri := p.Triangles[t]
		if !strips[p.Region[t]] {
			kept++
			continue
		}
		place[t] = none
		for i, s := range p.Segments[t] {
			a, b := tri[next(i)], tri[prev(i)]
			region[edge{a, b}] = p.Region[t]
			if s != none {
				pieces[pair(a, b)] = s
			}
		}
	}
	for t := range p.Triangles {
		k := place[t]
		if k == none {
			continue
		}
		for i, g := range p.Neighbours[t] {
			if g < 0 {
				continue
			}
			if p.Neighbours[t][i] = place[g]; place[g] == none {
				beside[pair(p.Triangles[t][next(i)], p.Triangles[t][prev(i)])] = [2]int{int(k), i}
			}
		}
		p.Triangles[k], p.Neighbours[k], p.Segments[k], p.Region[k] = p.Triangles[t], p.Neighbours[t], p.Segments[t], p.Region[t]
	}
	p.Triangles, p.Neighbours, p.Segments, p.Region = p.Triangles[:kept], p.Neighbours[:kept], p.Segments[:kept], p.Region[:kept]
	p.Layered, p.Pairs = make([]bool, kept), slices.Repeat([]int32{none}, kept)
	add := func(r, a, b, c int32) {
		t := len(p.Triangles)
		tri := [3]int32{a, b, c}
		neighbours, segments := [3]int32{none, none, none}, [3]int32{none, none, none}
		p.Triangles, p.Neighbours, p.Segments, p.Region = append(p.Triangles, tri), append(p.Neighbours, neighbours), append(p.Segments, segments), append(p.Region, r)
		p.Layered, p.Pairs = append(p.Layered, true), append(p.Pairs, none)
		for i := range tri {
			key := pair(tri[next(i)], tri[prev(i)])
			if s, ok := pieces[key]; ok {
				p.Segments[t][i] = s
			}
			if o, ok := beside[key]; ok {
				p.Neighbours[t][i], p.Neighbours[o[0]][o[1]] = int32(o[0]), int32(t)
				delete(beside, key)
			} else {
				beside[key] = [2]int{t, i}
			}
		}
	}
	for _, q := range w.pieces {
		if q.line == none {
			continue
		}
		a, b := column(q.from), column(q.to)
		n := max(len(a), len(b)) - 1
		lower := line(a[0], b[0], q.piece)
		r := region[edge{lower[0], lower[1]}]
		for k := range n {
			c, d := a[min(k+1, len(a)-1)], b[min(k+1, len(b)-1)]
			upper := []int32{c, d}
			if k == n-1 {
				upper = line(c, d, q.line)
			}
			zip(p.Points, lower, upper, func(u, v, x int32) { add(r, u, v, x) })
			if t := int32(len(p.Triangles)); len(lower)+len(upper) == 4 && isQuad(p.Points, lower[0], lower[1], upper[1], upper[0]) {
				p.Pairs[t-2], p.Pairs[t-1] = t-1, t-2
			}
			lower = []int32{c, d}
		}
	}
}

// leastSine is that of the corners of quadrilaterals; those with a sharper one stay triangles.
const leastSine = 0.2

// isQuad says whether four points, turning left, make a quadrilateral that is good for a cell.
func isQuad(points []Point, corners ...int32) bool {
	for i, v := range corners {
		a, b, c := points[v], points[corners[(i+1)%4]], points[corners[(i+2)%4]]
		turn := (b.X-a.X)*(c.Y-b.Y) - (b.Y-a.Y)*(c.X-b.X)
		if !(turn > leastSine*math.Sqrt(sq(a, b)*sq(b, c))) {
			return false
		}
	}
	return true
}

// zip makes triangles between two lines that run beside each other, the upper one to the
// left of the lower one. They may share their ends.
func zip(points []Point, lower, upper []int32, add func(a, b, c int32)) {
	i, j := 0, 0
	n, m := len(lower)-1, len(upper)-1
	start, end := lower[0] == upper[0], lower[n] == upper[m]
	along := func(list []int32, k int) float64 {
		first, last := points[list[0]], points[list[len(list)-1]]
		return math.Sqrt(sq(first, points[list[k]]) / sq(first, last))
	}
	for i < n || j < m {
		below := j == m || i < n && along(lower, i+1) <= along(upper, j+1)
		switch { // where they share an end, no triangle may lie on one line
		case start && j == 0 && i < 2:
			below = i == 0
		case end && below && i+1 == n && j < m-1:
			below = false
		case end && !below && j+1 == m && i < n-1:
			below = true
		}
		if below {
			if upper[j] != lower[i] && upper[j] != lower[i+1] {
				add(lower[i], lower[i+1], upper[j])
			}
			i++
		} else {
			if lower[i] != upper[j] && lower[i] != upper[j+1] {
				add(lower[i], upper[j+1], upper[j])
			}
			j++
		}
	}
}
