package mesh

import (
	"cmp"
	"math"
	"slices"

	"saltkettle/core/spatial"
)

// Wall asks for thin layers of cells along an outline: the first of a thickness, each
// further one growth times as thick, count in all.
type Wall struct {
	First  float64 // m
	Growth float64 // 1 or more
	Count  int
}

// thickness of all layers.
func (w *Wall) thickness() float64 {
	t, h := 0.0, w.First
	for range w.Count {
		t += h
		h *= w.Growth
	}
	return t
}

// longest is how long pieces with layers may be, as a part of the thickness of these: the
// cells beside the layers are like them.
const longest = 2.5

// heights of the tops of the layers as parts of the thickness, the last one 1.
func (w *Wall) heights() []float64 {
	out := make([]float64, w.Count)
	t, h, all := 0.0, w.First, w.thickness()
	for i := range out {
		t += h
		h *= w.Growth
		out[i] = t / all
	}
	out[w.Count-1] = 1
	return out
}

// walls is the layers along the outlines of an arrangement. They are strips of the plan
// between the outline and a line beside it; where they have no room they end.
type walls struct {
	pieces []wallPiece
	at     map[int32]*wallVertex // by vertex of the arrangement
}

// wallPiece is a piece with its layered side on the left.
type wallPiece struct {
	from, to int32
	wall     *Wall
	// Numbers of the piece and of the line beside it.
	piece, line int32
}

// wallVertex is a vertex of an outline with layers.
type wallVertex struct {
	normal Point
	long   float64 // thickness, 0 where layers end
	wall   *Wall
	top    int32 // vertex of the line beside the outline
	rung   int32 // piece from here to the top, none for one that is not there
	in     int   // pieces that end here
	out    int
}

const (
	freePart   = 0.3 // of the distance to the next outline that layers may take
	steepest   = 0.5 // rise of the line beside an outline over its run
	blunt      = 0.3 // cosine of half the angle of a corner below which layers end
	wallRounds = 8
)

// wallPieces are the pieces of an arrangement with layers that lie in a body.
func (a *arrangement) wallPieces(bodies []planBody, fills []bool) (list []wallPiece) {
	for i := range a.pieces {
		p := &a.pieces[i]
		if p.wall == nil {
			continue
		}
		q := wallPiece{from: p.a, to: p.b, wall: p.wall, piece: int32(i), line: none}
		if !p.wallLeft {
			q.from, q.to = p.b, p.a
		}
		u, v := a.points[q.from], a.points[q.to]
		there := bodyAt(Point{(u.X+v.X)/2 - 1e-3*(v.Y-u.Y), (u.Y+v.Y)/2 + 1e-3*(v.X-u.X)}, bodies, fills)
		if there == none || p.wallBody != none && p.wallBody != there {
			continue
		}
		list = append(list, q)
	}
	return list
}

// bodyAt is the body at a place: the last one, but a fill only if there is no other.
func bodyAt(x Point, bodies []planBody, fills []bool) int32 {
	there := none
	for i := range bodies {
		if bodies[i].contains(x) && (there == none || !fills[i] || fills[there]) {
			there = int32(i)
		}
	}
	return there
}

// newWalls finds where layers have room, and adds the lines beside the outlines to the
// arrangement. It returns nil if none are wanted, or none lie in a body.
func newWalls(a *arrangement, bodies []planBody, fills []bool) *walls {
	w := &walls{at: map[int32]*wallVertex{}, pieces: a.wallPieces(bodies, fills)}
	if len(w.pieces) == 0 {
		return nil
	}
	vertex := func(v int32) *wallVertex {
		if w.at[v] == nil {
			w.at[v] = &wallVertex{top: none, rung: none}
		}
		return w.at[v]
	}
	normals := map[int32][]Point{}
	for _, p := range w.pieces {
		u, v := a.points[p.from], a.points[p.to]
		l := math.Sqrt(sq(u, v))
		n := Point{(u.Y - v.Y) / l, (v.X - u.X) / l}
		from, to := vertex(p.from), vertex(p.to)
		from.out++
		to.in++
		from.wall, to.wall = p.wall, p.wall
		normals[p.from], normals[p.to] = append(normals[p.from], n), append(normals[p.to], n)
	}
	// Another outline that leaves a vertex on the layered side ends the layers there.
	parted := map[int32]bool{}
	for i, p := range a.pieces {
		if p.wall != nil {
			continue
		}
		for _, e := range [2][2]int32{{p.a, p.b}, {p.b, p.a}} {
			d := Point{a.points[e[1]].X - a.points[e[0]].X, a.points[e[1]].Y - a.points[e[0]].Y}
			if x := w.at[e[0]]; p.rung && x != nil {
				x.rung, x.top = int32(i), e[1]
				x.long = math.Hypot(d.X, d.Y)
				x.normal = Point{d.X / x.long, d.Y / x.long}
				continue
			}
			for _, n := range normals[e[0]] {
				if n.X*d.X+n.Y*d.Y > 1e-9*math.Hypot(d.X, d.Y) {
					parted[e[0]] = true
				}
			}
		}
	}
	near := newNearPieces(a)
	for v, x := range w.at {
		if parted[v] || x.in > 1 || x.out > 1 {
			x.rung, x.long = none, 0
		}
		if x.in != 1 || x.out != 1 || parted[v] || x.rung != none {
			continue // an end, or more than two meet
		}
		n := normals[v]
		sum := Point{n[0].X + n[1].X, n[0].Y + n[1].Y}
		l := math.Hypot(sum.X, sum.Y)
		if l/2 < blunt {
			continue
		}
		x.normal = Point{sum.X / l, sum.Y / l}
		x.long = x.wall.thickness() / (l / 2)
		x.long = min(x.long, freePart*near.free(v, x.normal, x.long/freePart))
	}
	for range wallRounds {
		w.smooth(a)
		bad := w.crossing(a)
		if len(bad) == 0 {
			break
		}
		for _, v := range bad {
			w.at[v].shorten(0)
		}
	}
	if len(w.crossing(a)) > 0 {
		return nil // there is no room for any
	}
	w.draw(a)
	return w
}

// nearPieces are the pieces of an arrangement in boxes.
type nearPieces struct {
	*arrangement
	boxes *spatial.Boxes
}

func newNearPieces(a *arrangement) *nearPieces {
	low, high := Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
	for _, p := range a.points {
		low, high = Point{min(low.X, p.X), min(low.Y, p.Y)}, Point{max(high.X, p.X), max(high.Y, p.Y)}
	}
	n := &nearPieces{a, spatial.NewBoxes(low.xy(), high.xy(), len(a.pieces))}
	for i := range a.pieces {
		u, v := a.points[a.pieces[i].a], a.points[a.pieces[i].b]
		slack := overrun * (math.Abs(u.X-v.X) + math.Abs(u.Y-v.Y))
		n.boxes.Add([2]float64{min(u.X, v.X) - slack, min(u.Y, v.Y) - slack}, [2]float64{max(u.X, v.X) + slack, max(u.Y, v.Y) + slack}, int32(i))
	}
	return n
}

// overrun is the part of its length by which a piece counts as longer than it is.
const overrun = 0.05

// free is the distance from a vertex along a direction to the next outline, or reach if
// that is less.
func (n *nearPieces) free(v int32, along Point, reach float64) float64 {
	p := n.points[v]
	best := reach
	end := Point{p.X + reach*along.X, p.Y + reach*along.Y}
	n.boxes.Each([2]float64{min(p.X, end.X), min(p.Y, end.Y)}, [2]float64{max(p.X, end.X), max(p.Y, end.Y)}, func(box *[]int32) {
		for _, i := range *box {
			q := &n.pieces[i]
			if q.a == v || q.b == v {
				continue
			}
			u, w := n.points[q.a], n.points[q.b]
			dx, dy := w.X-u.X, w.Y-u.Y
			det := along.X*dy - along.Y*dx
			if det == 0 {
				continue
			}
			t := ((u.X-p.X)*dy - (u.Y-p.Y)*dx) / det
			s := ((u.X-p.X)*along.Y - (u.Y-p.Y)*along.X) / det
			if t > 0 && t < best && s >= -overrun && s <= 1+overrun {
				best = t
			}
		}
	})
	return best
}

// smooth lets the thickness rise no faster than it should, and ends layers that would be
// thinner than half of their first.
func (w *walls) smooth(a *arrangement) {
	for range 200 {
		changed := false
		for _, p := range w.pieces {
			from, to := w.at[p.from], w.at[p.to]
			rise := steepest * math.Sqrt(sq(a.points[p.from], a.points[p.to]))
			for _, e := range [2][2]*wallVertex{{from, to}, {to, from}} {
				if most := e[0].long + rise; e[1].long > most {
					e[1].shorten(most)
					changed = true
				}
			}
		}
		for _, x := range w.at {
			if x.long > 0 && x.long < x.wall.First/2 {
				x.shorten(0)
				changed = true
			}
		}
		if !changed {
			return
		}
	}
}

// shorten makes layers thinner; those that end at a piece stay as thick as that is long, or end before it.
func (x *wallVertex) shorten(long float64) {
	if x.long = long; x.rung != none {
		x.long, x.rung = 0, none
	}
}

// end of a vertex's normal at its thickness.
func (x *wallVertex) end(p Point) Point {
	return Point{p.X + x.long*x.normal.X, p.Y + x.long*x.normal.Y}
}

// crossing lists the vertices whose layers would cross an outline or other layers.
func (w *walls) crossing(a *arrangement) []int32 {
	type line struct {
		a, b   Point
		owners [2]int32
		layer  bool
	}
	var lines []line
	for _, p := range w.pieces {
		from, to := w.at[p.from], w.at[p.to]
		if from.long > 0 || to.long > 0 {
			lines = append(lines, line{from.end(a.points[p.from]), to.end(a.points[p.to]), [2]int32{p.from, p.to}, true})
		}
	}
	for v, x := range w.at {
		if x.long > 0 {
			lines = append(lines, line{a.points[v], x.end(a.points[v]), [2]int32{v, v}, true})
		}
	}
	side := func(a, b, c Point) float64 { return (b.X-a.X)*(c.Y-a.Y) - (b.Y-a.Y)*(c.X-a.X) }
	cross := func(p, q line) bool {
		if max(p.a.X, p.b.X) < min(q.a.X, q.b.X) || max(q.a.X, q.b.X) < min(p.a.X, p.b.X) || max(p.a.Y, p.b.Y) < min(q.a.Y, q.b.Y) || max(q.a.Y, q.b.Y) < min(p.a.Y, p.b.Y) {
			return false
		}
		return side(p.a, p.b, q.a)*side(p.a, p.b, q.b) <= 0 && side(q.a, q.b, p.a)*side(q.a, q.b, p.b) <= 0
	}
	foot := map[int32]int32{} // of the tops that are there
	for v, x := range w.at {
		if x.rung != none {
			foot[x.top] = v
		}
	}
	own := func(v int32) int32 {
		if u, ok := foot[v]; ok {
			return u
		}
		return v
	}
	for _, p := range a.pieces {
		lines = append(lines, line{a.points[p.a], a.points[p.b], [2]int32{own(p.a), own(p.b)}, false})
	}
	// By a sweep along x: those whose ranges meet are compared.
	slices.SortFunc(lines, func(p, q line) int {
		return cmp.Or(cmp.Compare(min(p.a.X, p.b.X), min(q.a.X, q.b.X)), cmp.Compare(p.owners[0], q.owners[0]), cmp.Compare(p.owners[1], q.owners[1]))
	})
	var bad []int32
	for i, p := range lines {
		hi := max(p.a.X, p.b.X)
		for _, q := range lines[i+1:] {
			if min(q.a.X, q.b.X) > hi {
				break
			}
			shared := p.owners[0] == q.owners[0] || p.owners[0] == q.owners[1] || p.owners[1] == q.owners[0] || p.owners[1] == q.owners[1]
			if !p.layer && !q.layer || shared || !cross(p, q) {
				continue
			}
			for _, x := range [2]line{p, q} {
				if x.layer {
					bad = append(bad, x.owners[:]...)
				}
			}
		}
	}
	byX := make([]int32, len(a.points))
	for i := range byX {
		byX[i] = int32(i)
	}
	slices.SortFunc(byX, func(u, v int32) int { return cmp.Compare(a.points[u].X, a.points[v].X) })
	// Nor may a vertex lie within, or a strip be turned over.
	for _, q := range w.pieces {
		from, to := w.at[q.from], w.at[q.to]
		if from.long == 0 && to.long == 0 {
			continue
		}
		c := [4]Point{a.points[q.from], a.points[q.to], to.end(a.points[q.to]), from.end(a.points[q.from])}
		turned := false
		for i := range c {
			u, v, x := c[i], c[(i+1)%4], c[(i+2)%4]
			if u != v && v != x && x != u && side(u, v, x) <= 1e-9*(sq(u, v)+sq(v, x)) {
				turned = true
			}
		}
		if turned {
			bad = append(bad, q.from, q.to)
			continue
		}
		lo, hi := c[0], c[0]
		for _, p := range c[1:] {
			lo = Point{min(lo.X, p.X), min(lo.Y, p.Y)}
			hi = Point{max(hi.X, p.X), max(hi.Y, p.Y)}
		}
		first, _ := slices.BinarySearchFunc(byX, lo.X, func(v int32, x float64) int { return cmp.Compare(a.points[v].X, x) })
		for _, v := range byX[first:] {
			p := a.points[v]
			if p.X > hi.X {
				break
			}
			if p.Y < lo.Y || p.Y > hi.Y || own(v) == q.from || own(v) == q.to {
				continue
			}
			if insideTriangle(p, c[0], c[1], c[2]) || insideTriangle(p, c[0], c[2], c[3]) {
				bad = append(bad, q.from, q.to)
			}
		}
	}
	return bad
}

// draw adds the lines beside the outlines.
func (w *walls) draw(a *arrangement) {
	order := make([]int32, 0, len(w.at))
	for v := range w.at {
		order = append(order, v)
	}
	slices.Sort(order)
	for _, v := range order {
		x := w.at[v]
		if x.rung != none {
			continue
		}
		if x.top = v; x.long > 0 {
			x.top = int32(len(a.points))
			a.points = append(a.points, x.end(a.points[v]))
		}
	}
	for i := range w.pieces {
		p := &w.pieces[i]
		from, to := w.at[p.from], w.at[p.to]
		if from.long > 0 || to.long > 0 {
			p.line = int32(len(a.pieces))
			a.pieces = append(a.pieces, piece{a: from.top, b: to.top})
		}
	}
}

// hold keeps the strips out of the refinement. It returns their regions.
func (w *walls) hold(t *triangulation, vertex []int32, wanted []float64) map[int32]bool {
	strips := map[int32]bool{}
	for _, p := range w.pieces {
		from, to := w.at[p.from], w.at[p.to]
		if from.long == 0 && to.long == 0 {
			continue
		}
		// The face on the layered side of the outline.
		f, _, ok := t.edge(vertex[p.from], vertex[p.to])
		if !ok {
			continue
		}
		region := t.faces[f].region
		strips[region] = true
		wanted[region] = 0
	}
	return strips
}

// onPieces lists the vertices that refinement has put into each piece.
func (r *refiner) onPieces() map[int32][]int32 {
	list := map[int32][]int32{}
	for v, s := range r.owner {
		if s != none {
			list[s] = append(list[s], int32(v))
		}
	}
	return list
}
