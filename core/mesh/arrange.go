package mesh

import (
	"cmp"
	"math"
	"slices"
)

// Tag says which edge of which outline a piece of a plan belongs to.
type Tag struct {
	Body int32 // number of the body
	Side int32 // number of the side's name, as given with the segment
}

// Everybody is the body of a tag that speaks of all bodies.
const Everybody = -1

// Segment is a straight piece of the outline of a body.
type Segment struct {
	A, B Point
	Tag  Tag
	// Loose marks a line that is kept as edges of the mesh and bounds no body.
	Loose bool
	// Size is the wanted length of edges at it, m; 0 means that of the body.
	Size float64
	// Arc is the circle of which it is a chord; its radius is 0 for a straight line.
	Arc Circle
	// Wall asks for thin layers along it, to the left of the way from A to B or, if Left is
	// false, to the right; it may be nil.
	Wall *Wall
	Left bool
	// Within limits layers to where the body of the segment is and no later one.
	Within bool
}

// Circle is a centre with a radius, m.
type Circle struct {
	Centre Point
	Radius float64
}

// along moves a point of the line from a to b, near the circle, along the line onto it,
// if that is between the two.
func (c *Circle) along(p, a, b Point) Point {
	dx, dy := b.X-a.X, b.Y-a.Y
	l := math.Hypot(dx, dy)
	dx, dy = dx/l, dy/l
	ox, oy := p.X-c.Centre.X, p.Y-c.Centre.Y
	// |o + t·d|² = r², the root nearer to zero.
	half := ox*dx + oy*dy
	root := half*half - (ox*ox + oy*oy - c.Radius*c.Radius)
	if root < 0 {
		return p
	}
	t := -half - math.Copysign(math.Sqrt(root), -half)
	at := (p.X-a.X)*dx + (p.Y-a.Y)*dy + t
	if math.Abs(t) > 0.1*c.Radius || at <= 0 || at >= l {
		return p
	}
	return Point{p.X + t*dx, p.Y + t*dy}
}

// onto moves a point near the circle onto it.
func (c *Circle) onto(p Point) Point {
	d := math.Sqrt(sq(p, c.Centre))
	if d == 0 {
		return p
	}
	f := c.Radius / d
	return Point{c.Centre.X + f*(p.X-c.Centre.X), c.Centre.Y + f*(p.Y-c.Centre.Y)}
}

// wallBody is the body to which the layers along a segment are limited.
func (s *Segment) wallBody() int32 {
	if s.Within {
		return s.Tag.Body
	}
	return none
}

// arrangement is the outlines of all bodies cut at their meetings: no two
// pieces cross or overlap, and no two vertices are nearer than the tolerance.
type arrangement struct {
	tolerance float64
	points    []Point
	cells     map[[2]int64][]int32
	pieces    []piece
	merged    int // vertices that were moved onto another one by more than round-off
}

// piece is a straight edge between two vertices, with all outlines it is on.
type piece struct {
	a, b int32
	tags []Tag
	size float64 // wanted at it, 0 for none of its own
	arc  Circle
	// Layers along it, on its left or its right.
	wall     *Wall
	wallLeft bool
	wallBody int32 // only where that is, none for anywhere
	// rung says that it is how thick layers are where they end, or where it parts them; it is not divided.
	rung bool
}

// mergeTolerance is the distance, relative to the size of the device, below
// which points are one point and a point on an edge splits it.
const mergeTolerance = 1e-7

// arrange cuts the segments at their meetings.
func arrange(segments []Segment, size float64) *arrangement {
	a := &arrangement{tolerance: mergeTolerance * size, cells: map[[2]int64][]int32{}}
	for _, s := range segments {
		u, v := a.vertex(s.A), a.vertex(s.B)
		if u != v {
			a.pieces = append(a.pieces, piece{u, v, []Tag{s.Tag}, s.Size, s.Arc, s.Wall, s.Left, s.wallBody(), false})
		}
	}
	// Every round cuts at the meetings found; cutting can move a piece by the
	// tolerance and so make a new meeting, but rarely.
	for range 8 {
		cuts := a.meetings()
		a.unite(cuts)
		if len(cuts) == 0 {
			break
		}
	}
	return a
}

// vertex returns the vertex at a point, an existing one if it is within the
// tolerance.
func (a *arrangement) vertex(p Point) int32 {
	cx, cy := int64(math.Floor(p.X/(2*a.tolerance))), int64(math.Floor(p.Y/(2*a.tolerance)))
	for dx := int64(-1); dx <= 1; dx++ {
		for dy := int64(-1); dy <= 1; dy++ {
			for _, v := range a.cells[[2]int64{cx + dx, cy + dy}] {
				if d := sq(a.points[v], p); d <= a.tolerance*a.tolerance {
					if d > 1e-10*a.tolerance*a.tolerance {
						a.merged++
					}
					return v
				}
			}
		}
	}
	v := int32(len(a.points))
	a.points = append(a.points, p)
	a.cells[[2]int64{cx, cy}] = append(a.cells[[2]int64{cx, cy}], v)
	return v
}

// cut asks for a vertex in a piece.
type cut struct {
	piece int
	at    float64 // place along the piece, 0 to 1
	v     int32
}

// meetings finds where pieces cross and where vertices lie on pieces, by a sweep
// along x.
func (a *arrangement) meetings() []cut {
	order := make([]int, len(a.pieces))
	lo := make([]float64, len(a.pieces))
	hi := make([]float64, len(a.pieces))
	for i, p := range a.pieces {
		order[i] = i
		u, v := a.points[p.a], a.points[p.b]
		lo[i], hi[i] = min(u.X, v.X)-a.tolerance, max(u.X, v.X)+a.tolerance
	}
	slices.SortFunc(order, func(i, j int) int { return cmp.Or(cmp.Compare(lo[i], lo[j]), cmp.Compare(i, j)) })
	var cuts []cut
	var active []int
	for _, i := range order {
		kept := active[:0]
		for _, j := range active {
			if hi[j] < lo[i] {
				continue
			}
			kept = append(kept, j)
			cuts = a.meet(cuts, i, j)
		}
		active = append(kept, i)
	}
	return cuts
}

// meet adds the cuts of two pieces.
func (a *arrangement) meet(cuts []cut, i, j int) []cut {
	p, q := a.pieces[i], a.pieces[j]
	pa, pb, qa, qb := a.points[p.a], a.points[p.b], a.points[q.a], a.points[q.b]
	if min(pa.Y, pb.Y)-a.tolerance > max(qa.Y, qb.Y) || max(pa.Y, pb.Y)+a.tolerance < min(qa.Y, qb.Y) {
		return cuts
	}
	before := len(cuts)
	cuts = a.touch(cuts, i, q.a)
	cuts = a.touch(cuts, i, q.b)
	cuts = a.touch(cuts, j, p.a)
	cuts = a.touch(cuts, j, p.b)
	if len(cuts) > before || p.a == q.a || p.a == q.b || p.b == q.a || p.b == q.b {
		return cuts
	}
	dx, dy, ex, ey := pb.X-pa.X, pb.Y-pa.Y, qb.X-qa.X, qb.Y-qa.Y
	det := dx*ey - dy*ex
	if det == 0 {
		return cuts
	}
	u := ((qa.X-pa.X)*ey - (qa.Y-pa.Y)*ex) / det
	w := ((qa.X-pa.X)*dy - (qa.Y-pa.Y)*dx) / det
	if u <= 0 || u >= 1 || w <= 0 || w >= 1 {
		return cuts
	}
	x := Point{pa.X + u*dx, pa.Y + u*dy}
	switch {
	case p.arc.Radius > 0 && q.arc.Radius == 0:
		x = p.arc.along(x, qa, qb)
	case q.arc.Radius > 0 && p.arc.Radius == 0:
		x = q.arc.along(x, pa, pb)
	}
	v := a.vertex(x)
	return append(cuts, cut{i, u, v}, cut{j, w, v})
}

// touch adds a cut where vertex v lies inside piece i.
func (a *arrangement) touch(cuts []cut, i int, v int32) []cut {
	p := a.pieces[i]
	if v == p.a || v == p.b {
		return cuts
	}
	pa, pb, x := a.points[p.a], a.points[p.b], a.points[v]
	dx, dy := pb.X-pa.X, pb.Y-pa.Y
	l2 := dx*dx + dy*dy
	u := ((x.X-pa.X)*dx + (x.Y-pa.Y)*dy) / l2
	if u <= 0 || u >= 1 {
		return cuts
	}
	if d := (x.X-pa.X)*dy - (x.Y-pa.Y)*dx; d*d > a.tolerance*a.tolerance*l2 {
		return cuts
	}
	return append(cuts, cut{i, u, v})
}

// unite cuts the pieces and joins those that have become the same.
func (a *arrangement) unite(cuts []cut) {
	slices.SortFunc(cuts, func(x, y cut) int {
		return cmp.Or(cmp.Compare(x.piece, y.piece), cmp.Compare(x.at, y.at), cmp.Compare(x.v, y.v))
	})
	index := map[[2]int32]int{}
	var pieces []piece
	add := func(u, v int32, p *piece) {
		if u == v {
			return
		}
		if k, ok := index[pair(u, v)]; ok {
			q := &pieces[k]
			for _, t := range p.tags {
				if !slices.Contains(q.tags, t) {
					q.tags = append(q.tags, t)
				}
			}
			if p.size > 0 && (q.size == 0 || p.size < q.size) {
				q.size = p.size
			}
			if q.arc.Radius == 0 {
				q.arc = p.arc
			}
			if q.wall == nil && p.wall != nil {
				q.wall, q.wallLeft, q.wallBody = p.wall, p.wallLeft == (q.a == u), p.wallBody
			}
			return
		}
		index[pair(u, v)] = len(pieces)
		pieces = append(pieces, piece{u, v, slices.Clone(p.tags), p.size, p.arc, p.wall, p.wallLeft, p.wallBody, p.rung})
	}
	k := 0
	for i := range a.pieces {
		p := &a.pieces[i]
		from := p.a
		for ; k < len(cuts) && cuts[k].piece == i; k++ {
			add(from, cuts[k].v, p)
			from = cuts[k].v
		}
		add(from, p.b, p)
	}
	a.pieces = pieces
}

// wanted is the length of edges that a piece asks for by itself or by the bodies whose
// outline it is.
func (p *piece) wanted(sizes []float64) float64 {
	h := math.Inf(1)
	if p.size > 0 {
		h = p.size
	}
	if p.wall != nil {
		h = min(h, longest*p.wall.thickness())
	}
	for _, t := range p.tags {
		if t.Body != Everybody {
			h = min(h, sizes[t.Body])
		}
	}
	return h
}

// divide splits every piece into equal parts no longer than the size wanted by
// the bodies whose outline it is. Pieces with layers, which are not refined later, are divided
// as their ends and the field of the plan ask, too.
func (a *arrangement) divide(set *PlanSettings) {
	at := map[int32]float64{} // wanted at a vertex by the pieces that have a size of their own
	for _, p := range a.pieces {
		if p.size > 0 {
			for _, v := range [2]int32{p.a, p.b} {
				if h, ok := at[v]; !ok || p.size < h {
					at[v] = p.size
				}
			}
		}
	}
	var pieces []piece
	for _, p := range a.pieces {
		pa, pb := a.points[p.a], a.points[p.b]
		length := math.Sqrt(sq(pa, pb))
		n := max(int(math.Ceil(length/p.wanted(set.Sizes)*(1-1e-9))), 1)
		on := func(s float64) Point { return Point{pa.X + s/length*(pb.X-pa.X), pa.Y + s/length*(pb.Y-pa.Y)} }
		var cuts []float64
		switch {
		case p.rung:
		case p.wall != nil:
			var near []vertical
			for i, v := range [2]int32{p.a, p.b} {
				if h := at[v]; h > 0 && set.Growth > 0 {
					near = append(near, vertical{float64(i) * length, h})
				}
			}
			var field func(s float64) float64
			if set.SizeAt != nil {
				field = func(s float64) float64 { return set.SizeAt(on(s)) }
			}
			cuts = between(0, length, n, near, set.Growth, field)
		default:
			for i := 1; i < n; i++ {
				cuts = append(cuts, float64(i)/float64(n)*length)
			}
		}
		from := p.a
		for _, s := range cuts {
			x := on(s)
			if p.arc.Radius > 0 {
				x = p.arc.onto(x)
			}
			a.points = append(a.points, x)
			v := int32(len(a.points) - 1)
			pieces = append(pieces, piece{from, v, p.tags, p.size, p.arc, p.wall, p.wallLeft, p.wallBody, p.rung})
			from = v
		}
		pieces = append(pieces, piece{from, p.b, p.tags, p.size, p.arc, p.wall, p.wallLeft, p.wallBody, p.rung})
	}
	a.pieces = pieces
}
