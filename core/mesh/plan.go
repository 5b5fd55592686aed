package mesh

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"
)

// PlanSettings are the wishes for a plan mesh.
type PlanSettings struct {
	// Sizes is the wanted edge length in each body, m.
	Sizes []float64
	// Fills marks the bodies that take only what others leave; nil means none does.
	Fills []bool
	// Growth is by which part of the distance from a place the length of cells may be
	// greater than there; 0 means any.
	Growth float64
	// Across is the least number of cells across gaps between outlines, by the body in the gap; nil means none.
	Across []int
	// SizeAt is the wanted edge length at a place, m, such as an estimate of errors asks
	// for; it may be nil.
	SizeAt func(Point) float64
	// MaxTriangles bounds the mesh; 0 means 4,000,000.
	MaxTriangles int
	// Watch is told now and then how many triangles there are so far, and ends the work with
	// [ErrStopped] by returning true. It may be nil.
	Watch func(triangles int) (stop bool)
}

// ErrStopped says that nobody wants a mesh any more.
var ErrStopped = errors.New("the mesh was stopped")

// Plan is a triangulation of the outlines of a device, seen from above.
type Plan struct {
	Points []Point
	// Triangles hold their vertices turning left.
	Triangles [][3]int32
	// Neighbours[t][i] is the triangle across the edge opposite vertex i, −1 if
	// there is none.
	Neighbours [][3]int32
	// Segments[t][i] is the piece of outline on the edge opposite vertex i, −1 if
	// there is none; Tags says which outlines a piece belongs to.
	Segments [][3]int32
	Tags     [][]Tag
	Arcs     []Circle // of each piece; the radius is 0 for a straight one
	// Region of each triangle; Members lists the bodies that cover a region, in
	// ascending order.
	Region  []int32
	Members [][]int32
	// Inside is a point of each region.
	Inside []Point
	// Pairs has, for a triangle that is one half of a quadrilateral, the other half, and −1 for
	// others; nil if there are none.
	Pairs []int32
	// Layered marks the triangles of layers along walls; nil if there are none.
	Layered []bool
	// Merged counts outline points that were moved onto another one because they
	// were nearer than the tolerance of 1e-7 of the device.
	Merged int
}

// pair returns the other half of the quadrilateral that a triangle belongs to, −1 if it is one
// by itself.
func (p *Plan) pair(t int) int32 {
	if p.Pairs == nil {
		return none
	}
	return p.Pairs[t]
}

// polygon returns the corners, turning left, of the triangle or the quadrilateral that a
// triangle is or belongs to.
func (p *Plan) polygon(t int) []int32 {
	v, other := p.Triangles[t], p.pair(t)
	if other == none {
		return v[:]
	}
	for i, g := range p.Neighbours[t] {
		if g != other {
			continue
		}
		for j, back := range p.Neighbours[other] {
			if back == int32(t) {
				return []int32{v[i], v[next(i)], p.Triangles[other][j], v[prev(i)]}
			}
		}
	}
	panic("mesh: the halves of a quadrilateral do not touch")
}

// defaultMaxTriangles keeps a slip in a cell size from filling the memory.
const defaultMaxTriangles = 4_000_000

// TooFineError says that a mesh would be larger than allowed.
type TooFineError struct{ Limit int }

func (e *TooFineError) Error() string {
	return fmt.Sprintf("the cell sizes ask for more than %d triangles in plan; make the cells larger", e.Limit)
}

// bailout is a fault deep in the triangulation that only the data can cause. It
// is turned into an error where the triangulation was asked for.
type bailout string

// NewPlan triangulates the outlines given by their straight segments. The
// segments of each body form closed loops; a place is inside a body if a ray
// from it crosses its loops an odd number of times.
func NewPlan(segments []Segment, set *PlanSettings) (plan *Plan, err error) {
	defer func() {
		if fault := recover(); fault != nil {
			b, ok := fault.(bailout)
			if !ok {
				panic(fault)
			}
			plan, err = nil, fmt.Errorf("the outlines cannot be meshed: %s; move one of them a little", string(b))
		}
	}()
	if len(segments) == 0 {
		return nil, errors.New("there is no outline to mesh")
	}
	limit := set.MaxTriangles
	if limit == 0 {
		limit = defaultMaxTriangles
	}
	for i, h := range set.Sizes {
		if !(h > 0) {
			return nil, fmt.Errorf("the cell size of body %d is not positive", i+1)
		}
	}
	lo, hi := bounds(segments)
	size := math.Hypot(hi.X-lo.X, hi.Y-lo.Y)
	if !(size > 0) || math.IsInf(size, 0) {
		return nil, errors.New("the outlines have no extent")
	}
	if least := leastTriangles(segments, set.Sizes); least > float64(limit) {
		return nil, &TooFineError{limit}
	}
	a := arrange(segments, size)
	var length float64
	for _, p := range a.pieces {
		length += math.Sqrt(sq(a.points[p.a], a.points[p.b])) / p.wanted(set.Sizes)
	}
	if length > float64(limit) {
		return nil, &TooFineError{limit}
	}
	bodies := newBodies(segments, len(set.Sizes))
	fills := set.Fills
	if fills == nil {
		fills = make([]bool, len(set.Sizes))
	}
	a.addRungs(bodies, fills)
	a.divide(set)
	layers := newWalls(a, bodies, fills)

	t := newTriangulation(lo, hi, len(a.points))
	vertex := t.insertAll(a.points, lo, hi)
	ends := make([][2]int32, len(a.pieces))
	tags, arcs := make([][]Tag, len(a.pieces)), make([]Circle, len(a.pieces))
	for i, p := range a.pieces {
		ends[i] = [2]int32{vertex[p.a], vertex[p.b]}
		tags[i], arcs[i] = p.tags, p.arc
		t.addSegment(ends[i][0], ends[i][1], int32(i))
	}
	members, inside := t.label(bodies)
	wanted, across := make([]float64, len(members)), make([]int, len(members))
	for r, bodies := range members {
		for _, b := range bodies {
			if set.Across != nil && (len(bodies) == 1 || !fills[b]) {
				across[r] = max(across[r], set.Across[b])
			}
			if wanted[r] == 0 || set.Sizes[b] < wanted[r] {
				wanted[r] = set.Sizes[b]
			}
		}
	}
	r := newRefiner(t, wanted, ends, limit+limit/4)
	r.arcs, r.watch = arcs, set.Watch
	var strips map[int32]bool
	if layers != nil {
		strips = layers.hold(t, vertex, wanted)
	}
	r.grade(a.pieces, set, across)
	if err := r.run(); errors.Is(err, ErrStopped) {
		return nil, err
	} else if err != nil {
		return nil, &TooFineError{limit}
	}
	plan, number := t.extract(members)
	if layers != nil {
		layers.fill(plan, strips, vertex, number, r.onPieces())
	}
	plan.Tags, plan.Arcs, plan.Inside = tags, arcs, inside
	plan.Merged = a.merged
	if len(plan.Triangles) > limit {
		return nil, &TooFineError{limit}
	}
	return plan, nil
}

// leastTriangles is how many triangles the body with the most needs at least,
// before any of them is made.
func leastTriangles(segments []Segment, sizes []float64) float64 {
	area := make([]float64, len(sizes))
	for _, s := range segments {
		if s.Loose {
			continue
		}
		area[s.Tag.Body] += (s.A.X*s.B.Y - s.B.X*s.A.Y) / 2
	}
	var most float64
	for b, h := range sizes {
		// The circumradius is at most sizeFactor·h, so that no triangle is larger
		// than the equilateral one with it.
		r := sizeFactor * h
		most = max(most, math.Abs(area[b])/(3*math.Sqrt(3)/4*r*r))
	}
	return most
}

func bounds(segments []Segment) (lo, hi Point) {
	lo, hi = segments[0].A, segments[0].A
	for _, s := range segments {
		for _, p := range [2]Point{s.A, s.B} {
			lo = Point{min(lo.X, p.X), min(lo.Y, p.Y)}
			hi = Point{max(hi.X, p.X), max(hi.Y, p.Y)}
		}
	}
	return lo, hi
}

// label gives every face the number of its region, which is bounded by
// constrained edges, and returns the bodies that cover each region and a point in it.
func (t *triangulation) label(bodies []planBody) (members [][]int32, points []Point) {
	for f := range t.faces {
		t.faces[f].region = none
	}
	var stack []int32
	for start := range t.faces {
		if t.faces[start].region != none {
			continue
		}
		region := int32(len(members))
		t.faces[start].region = region
		stack = append(stack[:0], int32(start))
		best, inside := -1.0, Point{}
		for len(stack) > 0 {
			f := stack[len(stack)-1]
			stack = stack[:len(stack)-1]
			fc := &t.faces[f]
			if r, p := t.inradius(fc); r > best {
				best, inside = r, p
			}
			for i := range 3 {
				if g := fc.n[i]; g != none && fc.s[i] == none && t.faces[g].region == none {
					t.faces[g].region = region
					stack = append(stack, g)
				}
			}
		}
		var cover []int32
		for b := range bodies {
			if bodies[b].contains(inside) {
				cover = append(cover, int32(b))
			}
		}
		members, points = append(members, cover), append(points, inside)
	}
	return members, points
}

// inradius returns the radius and the centre of the circle inside a face.
func (t *triangulation) inradius(fc *face) (float64, Point) {
	a, b, c := t.points[fc.v[0]], t.points[fc.v[1]], t.points[fc.v[2]]
	la, lb, lc := math.Sqrt(sq(b, c)), math.Sqrt(sq(c, a)), math.Sqrt(sq(a, b))
	sum := la + lb + lc
	area2 := (b.X-a.X)*(c.Y-a.Y) - (b.Y-a.Y)*(c.X-a.X)
	return area2 / sum, Point{(la*a.X + lb*b.X + lc*c.X) / sum, (la*a.Y + lb*b.Y + lc*c.Y) / sum}
}

// planBody answers whether points lie inside one body.
type planBody struct {
	lo, hi   Point
	segments []Segment
}

func newBodies(segments []Segment, n int) []planBody {
	bodies := make([]planBody, n)
	for _, s := range segments {
		if s.Loose {
			continue
		}
		bodies[s.Tag.Body].segments = append(bodies[s.Tag.Body].segments, s)
	}
	for i := range bodies {
		if len(bodies[i].segments) > 0 {
			bodies[i].lo, bodies[i].hi = bounds(bodies[i].segments)
		}
	}
	return bodies
}

// contains counts how often a ray toward +x crosses the outline.
func (b *planBody) contains(p Point) bool {
	if len(b.segments) == 0 || p.X < b.lo.X || p.X > b.hi.X || p.Y < b.lo.Y || p.Y > b.hi.Y {
		return false
	}
	inside := false
	for _, s := range b.segments {
		if (s.A.Y > p.Y) != (s.B.Y > p.Y) && p.X < s.A.X+(p.Y-s.A.Y)/(s.B.Y-s.A.Y)*(s.B.X-s.A.X) {
			inside = !inside
		}
	}
	return inside
}

// extract keeps the faces of covered regions, renumbered along a space-filling
// curve so that neighbours in the plane are near in memory, and returns the new numbers of
// the vertices.
func (t *triangulation) extract(members [][]int32) (plan *Plan, number []int32) {
	used := make([]bool, len(t.points))
	var kept []int32
	for f := range t.faces {
		if fc := &t.faces[f]; len(members[fc.region]) > 0 {
			kept = append(kept, int32(f))
			for _, v := range fc.v {
				used[v] = true
			}
		}
	}
	lo, hi := Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
	var order []int32
	for v, u := range used {
		if u {
			p := t.points[v]
			lo = Point{min(lo.X, p.X), min(lo.Y, p.Y)}
			hi = Point{max(hi.X, p.X), max(hi.Y, p.Y)}
			order = append(order, int32(v))
		}
	}
	scale := 65535 / max(hi.X-lo.X, hi.Y-lo.Y)
	key := func(p Point) uint32 { return hilbert(uint32((p.X-lo.X)*scale), uint32((p.Y-lo.Y)*scale)) }
	keys := make([]uint32, len(t.points))
	for _, v := range order {
		keys[v] = key(t.points[v])
	}
	slices.SortFunc(order, func(a, b int32) int { return cmp.Or(cmp.Compare(keys[a], keys[b]), cmp.Compare(a, b)) })
	plan = &Plan{Points: make([]Point, len(order)), Members: members}
	number = make([]int32, len(t.points))
	for i, v := range order {
		number[v] = int32(i)
		plan.Points[i] = t.points[v]
	}
	first := func(f int32) int32 {
		v := t.faces[f].v
		return min(number[v[0]], number[v[1]], number[v[2]])
	}
	slices.SortFunc(kept, func(f, g int32) int { return cmp.Or(cmp.Compare(first(f), first(g)), cmp.Compare(f, g)) })
	place := make([]int32, len(t.faces))
	for i := range place {
		place[i] = none
	}
	for i, f := range kept {
		place[f] = int32(i)
	}
	n := len(kept)
	plan.Triangles, plan.Neighbours = make([][3]int32, n), make([][3]int32, n)
	plan.Segments, plan.Region = make([][3]int32, n), make([]int32, n)
	for i, f := range kept {
		fc := &t.faces[f]
		for k := range 3 {
			plan.Triangles[i][k] = number[fc.v[k]]
			plan.Neighbours[i][k] = none
			if g := fc.n[k]; g != none {
				plan.Neighbours[i][k] = place[g]
			}
		}
		plan.Segments[i] = fc.s
		plan.Region[i] = fc.region
	}
	return plan, number
}
