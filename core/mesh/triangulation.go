package mesh

import (
	"cmp"
	"math"
	"slices"
)

// none marks a missing neighbour, segment or vertex.
const none = int32(-1)

// face is a triangle of the triangulation. Its vertices turn left. Neighbour
// n[i] and segment s[i] lie on the edge opposite vertex v[i].
type face struct {
	v, n, s [3]int32
	region  int32
}

// triangulation is a constrained Delaunay triangulation of the square that
// surrounds its points.
type triangulation struct {
	grid
	points []Point
	faces  []face
	at     []int32 // at[v] is some face of vertex v
	last   int32   // where the next walk begins

	// Work for the insertion of a point.
	stamp    []uint32 // per face: the insertion that has it in its cavity
	now      uint32
	cavity   []int32
	boundary []rimEdge
	link     []int32 // per vertex: the new face that begins there
	seed     uint32
}

// rimEdge is an edge of the boundary of a cavity, seen from inside.
type rimEdge struct {
	a, b, outer, segment, region, owner int32
}

// corners is the number of vertices of the surrounding square, which are the
// first ones.
const corners = 4

// newTriangulation makes the two triangles of a square that surrounds the box
// with a wide margin.
func newTriangulation(lo, hi Point, capacity int) *triangulation {
	size := max(hi.X-lo.X, hi.Y-lo.Y)
	margin := 3 * size
	extent := max(math.Abs(lo.X), math.Abs(lo.Y), math.Abs(hi.X), math.Abs(hi.Y)) + 4*size
	t := &triangulation{grid: newGrid(extent), seed: 1}
	t.points = make([]Point, 0, capacity+corners)
	t.at = make([]int32, 0, capacity+corners)
	t.link = make([]int32, 0, capacity+corners)
	t.faces = make([]face, 0, 2*capacity+8)
	t.stamp = make([]uint32, 0, 2*capacity+8)
	for _, p := range []Point{{lo.X - margin, lo.Y - margin}, {hi.X + margin, lo.Y - margin}, {hi.X + margin, hi.Y + margin}, {lo.X - margin, hi.Y + margin}} {
		t.addPoint(t.snap(p), 0)
	}
	t.addFace(face{v: [3]int32{0, 1, 2}, n: [3]int32{none, 1, none}, s: [3]int32{none, none, none}})
	t.addFace(face{v: [3]int32{0, 2, 3}, n: [3]int32{none, none, 0}, s: [3]int32{none, none, none}})
	t.at[3] = 1
	return t
}

func (t *triangulation) addPoint(p Point, f int32) int32 {
	t.points = append(t.points, p)
	t.at = append(t.at, f)
	t.link = append(t.link, none)
	return int32(len(t.points) - 1)
}

func (t *triangulation) addFace(f face) int32 {
	t.faces = append(t.faces, f)
	t.stamp = append(t.stamp, 0)
	return int32(len(t.faces) - 1)
}

func next(i int) int { return (i + 1) % 3 }
func prev(i int) int { return (i + 2) % 3 }

// side returns which neighbour of f is g, −1 if none is.
func (f *face) side(g int32) int {
	for i, n := range f.n {
		if n == g {
			return i
		}
	}
	return -1
}

// corner returns the place of vertex v in f, −1 if it is not there.
func (f *face) corner(v int32) int {
	for i, w := range f.v {
		if w == v {
			return i
		}
	}
	return -1
}

// locate walks from face start to the face that contains p. With stopAt set it
// ends at the first constrained edge in its way and returns that edge;
// otherwise edge is −1, or the edge of f on which p lies.
func (t *triangulation) locate(p Point, start int32, stopAt bool) (f int32, edge int, blocked bool) {
	f = start
	from := none
walk:
	for {
		fc := &t.faces[f]
		edge = -1
		t.seed = t.seed*1664525 + 1013904223
		first := int(t.seed >> 24 % 3)
		for k := range 3 {
			i := (first + k) % 3
			if fc.n[i] == from && from != none {
				continue
			}
			a, b := t.points[fc.v[next(i)]], t.points[fc.v[prev(i)]]
			o := t.orient(a, b, p)
			if o < 0 {
				if stopAt && fc.s[i] != none {
					return f, i, true
				}
				if fc.n[i] == none {
					return f, i, true
				}
				from = f
				f = fc.n[i]
				continue walk
			}
			if o == 0 {
				edge = i
			}
		}
		if edge < 0 && from != none {
			// The edge that was crossed was not tested: p may lie on it.
			if i := fc.side(from); i >= 0 {
				if t.orient(t.points[fc.v[next(i)]], t.points[fc.v[prev(i)]], p) == 0 {
					edge = i
				}
			}
		}
		return f, edge, false
	}
}

// findCavity gathers the faces whose circumcircle contains p and that p sees,
// starting from f and, if edge ≥ 0, its neighbour across that edge. The result
// is in t.cavity and t.boundary.
func (t *triangulation) findCavity(p Point, f int32, edge int) {
	t.now++
	t.cavity = append(t.cavity[:0], f)
	t.stamp[f] = t.now
	core := 1
	if edge >= 0 && t.faces[f].n[edge] != none {
		g := t.faces[f].n[edge]
		t.cavity = append(t.cavity, g)
		t.stamp[g] = t.now
		core = 2
	}
	for k := 0; k < len(t.cavity); k++ {
		fc := &t.faces[t.cavity[k]]
		for i := range 3 {
			g := fc.n[i]
			if g == none || fc.s[i] != none || t.stamp[g] == t.now {
				continue
			}
			gv := &t.faces[g].v
			if t.inCircle(t.points[gv[0]], t.points[gv[1]], t.points[gv[2]], p) > 0 {
				t.stamp[g] = t.now
				t.cavity = append(t.cavity, g)
			}
		}
	}
	// Where the search went round the end of a segment it may hold faces that p
	// does not see; they are taken out again until the cavity is a star.
	for !t.findBoundary(p, f, edge, core) {
	}
}

// findBoundary lists the rim of the cavity. If an edge of it does not face p, it
// removes the face behind it and returns false.
func (t *triangulation) findBoundary(p Point, f0 int32, edge, core int) bool {
	t.boundary = t.boundary[:0]
	for k, f := range t.cavity {
		fc := &t.faces[f]
		for i := range 3 {
			g := fc.n[i]
			if edge >= 0 && (f == f0 && i == edge || core == 2 && k == 1 && g == f0 && i == fc.side(f0)) {
				continue
			}
			if g != none && t.stamp[g] == t.now && fc.s[i] == none {
				continue
			}
			a, b := fc.v[next(i)], fc.v[prev(i)]
			if k >= core && t.orient(t.points[a], t.points[b], p) <= 0 {
				t.stamp[f] = 0
				t.cavity = slices.Delete(t.cavity, k, k+1)
				return false
			}
			t.boundary = append(t.boundary, rimEdge{a, b, g, fc.s[i], fc.region, f})
		}
	}
	return true
}

// fill replaces the cavity by the star of the new vertex v. The faces of the
// star are left in t.cavity.
func (t *triangulation) fill(v int32) {
	for len(t.cavity) < len(t.boundary) {
		t.cavity = append(t.cavity, t.addFace(face{}))
	}
	// A rim of fewer edges than faces cannot be: a star has two faces more than
	// the triangulation that it replaces, or as many on the border.
	for k, e := range t.boundary {
		f := t.cavity[k]
		t.faces[f] = face{v: [3]int32{v, e.a, e.b}, n: [3]int32{e.outer, none, none}, s: [3]int32{e.segment, none, none}, region: e.region}
		t.link[e.a] = f
	}
	for k, e := range t.boundary {
		f := t.cavity[k]
		if e.outer != none {
			// The neighbour still points to the old face, whose slot may be in use again.
			o := &t.faces[e.outer]
			for i := range 3 {
				if o.v[next(i)] == e.b && o.v[prev(i)] == e.a {
					o.n[i] = f
				}
			}
		}
		if g := t.link[e.b]; g != none {
			t.faces[f].n[1] = g
			t.faces[g].n[2] = f
		}
		t.at[e.a] = f
	}
	for _, e := range t.boundary {
		t.link[e.a] = none
	}
	t.at[v] = t.cavity[0]
	t.last = t.cavity[0]
}

// insert adds a point that no face has as a vertex and returns its number. A
// point on a constrained edge splits it.
func (t *triangulation) insert(p Point, start int32) int32 {
	f, edge, _ := t.locate(p, start, false)
	return t.insertAt(p, f, edge)
}

// insertAt adds a point inside face f, or on its given edge.
func (t *triangulation) insertAt(p Point, f int32, edge int) int32 {
	for i := range 3 {
		if t.points[t.faces[f].v[i]] == p {
			return t.faces[f].v[i]
		}
	}
	split := none
	var a, b int32
	if edge >= 0 {
		split = t.faces[f].s[edge]
		a, b = t.faces[f].v[next(edge)], t.faces[f].v[prev(edge)]
	}
	t.findCavity(p, f, edge)
	v := t.addPoint(p, none)
	t.fill(v)
	if split != none {
		t.mark(a, v, split)
		t.mark(v, b, split)
	}
	return v
}

// edge finds the face and the place of the edge from a to b.
func (t *triangulation) edge(a, b int32) (int32, int, bool) {
	f := t.at[a]
	start := f
	for {
		fc := &t.faces[f]
		i := fc.corner(a)
		if fc.v[next(i)] == b {
			return f, prev(i), true
		}
		f = fc.n[next(i)]
		if f == none || f == start {
			break
		}
	}
	if f == none {
		// The walk met the border: go the other way round.
		f = start
		for f != none {
			fc := &t.faces[f]
			i := fc.corner(a)
			if fc.v[next(i)] == b {
				return f, prev(i), true
			}
			f = fc.n[prev(i)]
			if f == start {
				break
			}
		}
	}
	return none, 0, false
}

// mark makes the edge between a and b a piece of segment s.
func (t *triangulation) mark(a, b, s int32) {
	f, i, ok := t.edge(a, b)
	if !ok {
		if f, i, ok = t.edge(b, a); !ok {
			return
		}
	}
	t.faces[f].s[i] = s
	if g := t.faces[f].n[i]; g != none {
		t.faces[g].s[t.faces[g].side(f)] = s
	}
}

// insertAll adds points in an order that keeps the walks short and returns the
// vertex of each.
func (t *triangulation) insertAll(points []Point, lo, hi Point) []int32 {
	order := make([]int32, len(points))
	keys := make([]uint32, len(points))
	scale := 65535 / max(hi.X-lo.X, hi.Y-lo.Y)
	for i, p := range points {
		order[i] = int32(i)
		keys[i] = hilbert(uint32((p.X-lo.X)*scale), uint32((p.Y-lo.Y)*scale))
	}
	slices.SortFunc(order, func(i, j int32) int { return cmp.Or(cmp.Compare(keys[i], keys[j]), cmp.Compare(i, j)) })
	vertex := make([]int32, len(points))
	for _, i := range order {
		vertex[i] = t.insert(t.snap(points[i]), t.last)
	}
	return vertex
}

// hilbert is the place of a cell on the Hilbert curve of order 16.
func hilbert(x, y uint32) uint32 {
	var d uint32
	for s := uint32(1 << 15); s > 0; s >>= 1 {
		var rx, ry uint32
		if x&s != 0 {
			rx = 1
		}
		if y&s != 0 {
			ry = 1
		}
		d += s * s * ((3 * rx) ^ ry)
		if ry == 0 {
			if rx == 1 {
				x, y = 65535-x, 65535-y
			}
			x, y = y, x
		}
	}
	return d
}
