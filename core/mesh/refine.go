package mesh

import (
	"errors"
	"math"
)

// shortest is the length, relative to the least that is wanted, below which edges are not
// split for the sake of angles: where outlines run closer beside each other than that,
// good angles would need cells without number.
const shortest = 1e-3

// errTooMany is returned when a plan would have more triangles than allowed.
var errTooMany = errors.New("too many triangles")

// refiner improves a triangulation until every face of a wanted region has
// angles of at least the bound and is no larger than its region asks for.
type refiner struct {
	watch func(triangles int) (stop bool)
	*triangulation
	size      []float64 // wanted edge length per region, 0 for a region that is not meshed
	ends      [][2]int32
	apexShell []bool // per input vertex: two segments meet there at a sharp angle
	owner     []int32
	sin2      float64 // square of the sine of the smallest angle allowed
	offset    float64 // height over base of the triangle with that angle at its apex
	shortest2 float64 // no edge is split into pieces whose square is below this
	limit     int
	arcs      []Circle // of each input segment
	// want is the edge length asked for at each vertex, nil for none; it grows by slope
	// times the distance, and is no more than what field says.
	want  []float64
	slope float64
	field func(Point) float64

	encroached [][2]int32 // ends of subsegments to split
	frozen     map[[2]int32]bool
	bad        []badFace
	head       int
}

// badFace remembers a face with the vertices that it had.
type badFace struct {
	f int32
	v [3]int32
}

// angleBound is the smallest angle that refinement aims for away from sharp
// input corners, degrees.
const angleBound = 25

// sharpCosine marks input corners below 60°, around which segments are split on
// circles so that the pieces match (Ruppert 1995, section 6).
const sharpCosine = 0.5

func newRefiner(t *triangulation, size []float64, ends [][2]int32, limit int) *refiner {
	r := &refiner{triangulation: t, size: size, ends: ends, limit: limit, frozen: map[[2]int32]bool{}}
	s := math.Sin(angleBound * math.Pi / 180)
	r.sin2 = s * s
	r.offset = 0.97 / (2 * math.Tan(angleBound*math.Pi/360))
	least := math.Inf(1)
	for _, h := range size {
		if h > 0 {
			least = min(least, h)
		}
	}
	r.shortest2 = (least * shortest) * (least * shortest)
	r.apexShell = r.sharpVertices()
	r.owner = make([]int32, len(t.points))
	for i := range r.owner {
		r.owner[i] = none
	}
	return r
}

// sharpVertices marks the vertices at which two subsegments meet at less than
// 60°.
func (r *refiner) sharpVertices() []bool {
	sharp := make([]bool, len(r.points))
	around := make([][]int32, len(r.points))
	for _, e := range r.ends {
		around[e[0]] = append(around[e[0]], e[1])
		around[e[1]] = append(around[e[1]], e[0])
	}
	for v, others := range around {
		for i, a := range others {
			for _, b := range others[:i] {
				p, q, o := r.points[a], r.points[b], r.points[v]
				dot := (p.X-o.X)*(q.X-o.X) + (p.Y-o.Y)*(q.Y-o.Y)
				if dot > sharpCosine*math.Sqrt(sq(p, o)*sq(q, o)) {
					sharp[v] = true
				}
			}
		}
	}
	return sharp
}

// lookEvery is after how many steps of refinement somebody is told of them, and asked whether the
// mesh is still wanted.
const lookEvery = 1 << 12

// run refines. It returns errTooMany if the limit of faces is met.
func (r *refiner) run() error {
	for f := range r.faces {
		r.queue(int32(f))
	}
	for step := 0; ; step++ {
		if len(r.faces) > r.limit {
			return errTooMany
		}
		if step%lookEvery == 0 && r.watch != nil && r.watch(len(r.faces)) {
			return ErrStopped
		}
		if n := len(r.encroached); n > 0 {
			e := r.encroached[n-1]
			r.encroached = r.encroached[:n-1]
			if !r.splitSegment(e) {
				r.frozen[pair(e[0], e[1])] = true
			}
			continue
		}
		if r.head == len(r.bad) {
			return nil
		}
		b := r.bad[r.head]
		r.head++
		if r.head > 1<<16 && r.head*2 > len(r.bad) {
			r.bad = append(r.bad[:0], r.bad[r.head:]...)
			r.head = 0
		}
		if r.faces[b.f].v == b.v {
			r.splitFace(b)
		}
	}
}

// queue looks at a face: encroached edges and, if it is meshed, its quality.
func (r *refiner) queue(f int32) {
	fc := &r.faces[f]
	if r.size[fc.region] == 0 {
		return
	}
	for i := range 3 {
		if fc.s[i] != none && r.encroaches(r.points[fc.v[i]], fc.v[next(i)], fc.v[prev(i)]) {
			r.encroached = append(r.encroached, [2]int32{fc.v[next(i)], fc.v[prev(i)]})
		}
	}
	if r.isBad(fc) {
		r.bad = append(r.bad, badFace{f, fc.v})
	}
}

// encroaches says whether p lies inside the circle that has ab as its diameter.
func (r *refiner) encroaches(p Point, a, b int32) bool {
	u, w := r.points[a], r.points[b]
	return (u.X-p.X)*(w.X-p.X)+(u.Y-p.Y)*(w.Y-p.Y) < 0
}

// measures returns the squared lengths of the edges opposite each vertex and
// twice the area.
func (r *refiner) measures(fc *face) (l [3]float64, area2 float64) {
	a, b, c := r.points[fc.v[0]], r.points[fc.v[1]], r.points[fc.v[2]]
	return [3]float64{sq(b, c), sq(c, a), sq(a, b)}, (b.X-a.X)*(c.Y-a.Y) - (b.Y-a.Y)*(c.X-a.X)
}

// isBad says whether a meshed face must be split.
func (r *refiner) isBad(fc *face) bool {
	l, area2 := r.measures(fc)
	product := l[0] * l[1] * l[2]
	// The circumradius is the product of the edges over twice the double area.
	h := r.size[fc.region]
	if r.want != nil {
		h = min(h, r.want[fc.v[0]], r.want[fc.v[1]], r.want[fc.v[2]])
	}
	h *= sizeFactor
	if product > 4*area2*area2*h*h {
		return true
	}
	short := 0
	for i := 1; i < 3; i++ {
		if l[i] < l[short] {
			short = i
		}
	}
	// sin²(least angle) = area2²/(product of the other two squared edges).
	if area2*area2*l[short] >= r.sin2*product {
		return false
	}
	return l[short] > r.shortest2 && !r.isSharpTip(fc, short)
}

// sizeFactor is the largest circumradius over the wanted edge length. With it
// the mean edge of a mesh comes out at about the wanted length.
const sizeFactor = 0.78

// isSharpTip says whether the shortest edge of a face joins two segments that
// meet at a sharp corner at equal distance from it: such a face cannot be made
// better without end (Miller, Pav, Walkington, "When and why Delaunay
// refinement algorithms work", Int. J. Comput. Geom. Appl. 15 (2005) 25–54).
func (r *refiner) isSharpTip(fc *face, short int) bool {
	a, b := fc.v[next(short)], fc.v[prev(short)]
	sa, sb := r.segmentOf(a), r.segmentOf(b)
	if sa == none || sb == none || sa == sb {
		return false
	}
	for _, u := range r.ends[sa] {
		for _, w := range r.ends[sb] {
			if u == w && r.apexShell[u] {
				da, db := math.Sqrt(sq(r.points[a], r.points[u])), math.Sqrt(sq(r.points[b], r.points[u]))
				return math.Abs(da-db) < 0.01*max(da, db)
			}
		}
	}
	return false
}

// segmentOf returns the segment in whose inside a vertex lies, none for input
// vertices and free ones.
func (r *refiner) segmentOf(v int32) int32 {
	if int(v) >= len(r.owner) {
		return none
	}
	return r.owner[v]
}

// splitSegment splits a subsegment at its middle or, next to a sharp corner, on
// a circle around that corner whose radius is a power of two. It returns false
// if the subsegment cannot be split any further.
func (r *refiner) splitSegment(e [2]int32) bool {
	f, i, ok := r.edge(e[0], e[1])
	if !ok {
		if f, i, ok = r.edge(e[1], e[0]); !ok {
			return true // it was split already
		}
	}
	s := r.faces[f].s[i]
	if s == none {
		return true
	}
	a, b := r.faces[f].v[next(i)], r.faces[f].v[prev(i)]
	pa, pb := r.points[a], r.points[b]
	l2 := sq(pa, pb)
	if l2 < 4*r.shortest2 || len(r.frozen) > 0 && r.frozen[pair(a, b)] {
		return false
	}
	u := 0.5
	shellA := int(a) < len(r.apexShell) && r.apexShell[a]
	shellB := int(b) < len(r.apexShell) && r.apexShell[b]
	if shellA != shellB {
		l := math.Sqrt(l2)
		shell := math.Exp2(math.Round(math.Log2(l / 2)))
		if shell > 0.75*l {
			shell /= 2
		}
		u = shell / l
		if shellB {
			u = 1 - u
		}
	}
	p := Point{pa.X + u*(pb.X-pa.X), pa.Y + u*(pb.Y-pa.Y)}
	straight := p
	if int(s) < len(r.arcs) && r.arcs[s].Radius > 0 {
		p = r.arcs[s].onto(p)
	}
	if p = r.snap(p); p == pa || p == pb {
		return false
	}
	v := r.insertOnEdge(p, f, i)
	if v == a || v == b {
		v = r.insertOnEdge(r.snap(straight), f, i) // there is no room beside the chord
	}
	if int(v) != len(r.points)-1 || v == a || v == b {
		return false
	}
	r.own(v, s)
	r.lookAround()
	return true
}

// own notes that a vertex lies inside a segment.
func (r *refiner) own(v, s int32) {
	for int(v) >= len(r.owner) {
		r.owner = append(r.owner, none)
	}
	r.owner[v] = s
	if r.want != nil {
		r.inherit(v)
	}
}

// lookAround queues the faces that the last insertion made.
func (r *refiner) lookAround() {
	for _, f := range r.cavity {
		r.queue(f)
	}
}

// splitFace inserts a point that removes a bad face: its circumcentre, or a
// nearer point on the bisector of its shortest edge where that is enough for
// the angle bound (Üngör 2004). If the point would encroach on a subsegment,
// that is split instead.
func (r *refiner) splitFace(b badFace) {
	fc := &r.faces[b.f]
	if !r.isBad(fc) {
		return
	}
	p, ok := r.steiner(fc)
	if !ok {
		return
	}
	f, edge, blocked := r.locate(p, b.f, true)
	if blocked {
		if r.faces[f].s[edge] == none {
			return
		}
		r.splitInstead(f, edge, b)
		return
	}
	if edge >= 0 && r.faces[f].s[edge] != none {
		r.splitInstead(f, edge, b)
		return
	}
	r.findCavity(p, f, edge)
	found := false
	for _, e := range r.boundary {
		if e.segment != none && r.encroaches(p, e.a, e.b) && r.splittable(e.a, e.b) {
			r.encroached = append(r.encroached, [2]int32{e.a, e.b})
			found = true
		}
	}
	if found {
		r.bad = append(r.bad, b)
		return
	}
	for _, v := range r.faces[f].v {
		if r.points[v] == p {
			return
		}
	}
	v := r.addPoint(p, none)
	r.fill(v)
	r.own(v, none)
	r.lookAround()
}

// splitInstead queues a subsegment that hides the point wanted for face b.
func (r *refiner) splitInstead(f int32, edge int, b badFace) {
	u, w := r.faces[f].v[next(edge)], r.faces[f].v[prev(edge)]
	if r.splittable(u, w) {
		r.encroached = append(r.encroached, [2]int32{u, w})
		r.bad = append(r.bad, b)
	}
}

func (r *refiner) splittable(a, b int32) bool {
	return sq(r.points[a], r.points[b]) >= 4*r.shortest2 && (len(r.frozen) == 0 || !r.frozen[pair(a, b)])
}

// pair orders the ends of an edge.
func pair(a, b int32) [2]int32 { return [2]int32{min(a, b), max(a, b)} }

// steiner chooses the point that removes a bad face.
func (r *refiner) steiner(fc *face) (Point, bool) {
	l, area2 := r.measures(fc)
	if area2 <= 0 {
		return Point{}, false
	}
	short := 0
	for i := 1; i < 3; i++ {
		if l[i] < l[short] {
			short = i
		}
	}
	a, b, c := r.points[fc.v[next(short)]], r.points[fc.v[prev(short)]], r.points[fc.v[short]]
	// Circumcentre relative to a.
	bx, by, cx, cy := b.X-a.X, b.Y-a.Y, c.X-a.X, c.Y-a.Y
	d := 2 * (bx*cy - by*cx)
	ux := (cy*(bx*bx+by*by) - by*(cx*cx+cy*cy)) / d
	uy := (bx*(cx*cx+cy*cy) - cx*(bx*bx+by*by)) / d
	centre := Point{a.X + ux, a.Y + uy}
	mid := Point{(a.X + b.X) / 2, (a.Y + b.Y) / 2}
	far := math.Sqrt(sq(centre, mid))
	if near := r.offset * math.Sqrt(l[short]); far > near {
		w := near / far
		centre = Point{mid.X + w*(centre.X-mid.X), mid.Y + w*(centre.Y-mid.Y)}
	}
	p := r.snap(centre)
	return p, p != a && p != b && p != c
}
