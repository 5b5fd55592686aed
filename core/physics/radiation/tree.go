package radiation

import "math"

// triangle is prepared for rays: a corner, two edges and the normal.
type triangle struct {
	a, u, v vector
	n       vector // of length 1, out of the opaque body
	owner   int32  // facet
}

// node of the tree of boxes; its children follow, or its triangles.
type node struct {
	lo, hi      vector
	first       int32 // child or triangle
	count, axis int32 // of triangles, 0 for a branch
}

// tree finds the first triangle that a ray meets (a bounding-volume hierarchy with
// the surface-area rule; J. Goldsmith and J. Salmon, IEEE Computer Graphics and
// Applications 7 (1987) 14).
type tree struct {
	nodes     []node
	triangles []triangle
	near      float64 // hits closer than this are the start of the ray
}

const (
	leafSize = 4
	buckets  = 16
)

func newTree(list []triangle) *tree {
	t := &tree{triangles: list}
	lo, hi := boxOf(list)
	t.near = 1e-9 * hi.minus(lo).length()
	t.nodes = append(t.nodes, node{})
	t.build(0, 0, len(list))
	return t
}

func (t *triangle) centre() vector { return t.a.plus(t.u.plus(t.v).times(1. / 3)) }

func boxOf(list []triangle) (lo, hi vector) {
	lo, hi = vector{math.Inf(1), math.Inf(1), math.Inf(1)}, vector{math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	for i := range list {
		s := &list[i]
		for _, p := range []vector{s.a, s.a.plus(s.u), s.a.plus(s.v)} {
			lo, hi = lo.least(p), hi.greatest(p)
		}
	}
	return lo, hi
}

// surface of a box, halved.
func surface(lo, hi vector) float64 {
	d := hi.minus(lo)
	if d[0] < 0 {
		return 0
	}
	return d[0]*d[1] + d[1]*d[2] + d[2]*d[0]
}

// build makes a node of the triangles from i to j.
func (t *tree) build(at, i, j int) {
	n := &t.nodes[at]
	n.lo, n.hi = boxOf(t.triangles[i:j])
	if j-i <= leafSize {
		n.first, n.count = int32(i), int32(j-i)
		return
	}
	mid, axis := t.split(i, j)
	first := len(t.nodes)
	t.nodes[at].first, t.nodes[at].axis = int32(first), int32(axis)
	t.nodes = append(t.nodes, node{}, node{})
	t.build(first, i, mid)
	t.build(first+1, mid, j)
}

// split orders triangles into two groups by the place of least cost.
func (t *tree) split(i, j int) (mid, axis int) {
	list := t.triangles[i:j]
	lo, hi := list[0].centre(), list[0].centre()
	for k := range list {
		lo, hi = lo.least(list[k].centre()), hi.greatest(list[k].centre())
	}
	d := hi.minus(lo)
	for r := range d {
		if d[r] > d[axis] {
			axis = r
		}
	}
	bucket := func(s *triangle) int {
		return min(int(buckets*(s.centre()[axis]-lo[axis])/d[axis]), buckets-1)
	}
	if d[axis] > 0 {
		if cut := cheapest(list, bucket); cut > 0 {
			for k := range list {
				if bucket(&list[k]) < cut {
					list[k], list[mid] = list[mid], list[k]
					mid++
				}
			}
			return i + mid, axis
		}
	}
	return (i + j) / 2, axis
}

// cheapest is the bucket before which a cut costs least, 0 if all are in one.
func cheapest(list []triangle, bucket func(*triangle) int) int {
	var lo, hi [buckets]vector
	var count [buckets]int
	for b := range buckets {
		lo[b], hi[b] = boxOf(nil)
	}
	for k := range list {
		b := bucket(&list[k])
		l, h := boxOf(list[k : k+1])
		lo[b], hi[b] = lo[b].least(l), hi[b].greatest(h)
		count[b]++
	}
	// From the right first, then from the left.
	var right [buckets]float64
	l, h := boxOf(nil)
	n := 0
	for b := buckets - 1; b > 0; b-- {
		l, h = l.least(lo[b]), h.greatest(hi[b])
		n += count[b]
		right[b] = float64(n) * surface(l, h)
	}
	l, h = boxOf(nil)
	best, cut, left := math.Inf(1), 0, 0
	for b := 1; b < buckets; b++ {
		l, h = l.least(lo[b-1]), h.greatest(hi[b-1])
		left += count[b-1]
		if cost := float64(left)*surface(l, h) + right[b]; left > 0 && left < len(list) && cost < best {
			best, cut = cost, b
		}
	}
	return cut
}

// first returns the facet that a ray meets first, −1 for none. A facet that is met
// from behind stops the ray too.
func (t *tree) first(from, along vector) int32 {
	inverse := vector{1 / along[0], 1 / along[1], 1 / along[2]}
	best, hit := math.Inf(1), int32(-1)
	var stack [64]int32
	top := 1
	for top > 0 {
		top--
		n := &t.nodes[stack[top]]
		if !n.meets(from, inverse, best) {
			continue
		}
		if n.count == 0 {
			near, far := n.first, n.first+1
			if along[n.axis] < 0 {
				near, far = far, near
			}
			stack[top], stack[top+1] = far, near
			top += 2
			continue
		}
		for k := n.first; k < n.first+n.count; k++ {
			if d, ok := t.triangles[k].meets(from, along); ok && d > t.near && d < best {
				best, hit = d, t.triangles[k].owner
			}
		}
	}
	return hit
}

// meets says whether a ray passes the box closer than some distance.
func (n *node) meets(from, inverse vector, within float64) bool {
	enter, leave := 0.0, within
	for r := range from {
		a, b := (n.lo[r]-from[r])*inverse[r], (n.hi[r]-from[r])*inverse[r]
		if a > b {
			a, b = b, a
		}
		if a > enter { // false for NaN: a ray within the plane of a face
			enter = a
		}
		if b < leave {
			leave = b
		}
	}
	return enter <= leave*(1+1e-12)
}

// edgeTolerance lets no ray pass between two triangles that share an edge.
const edgeTolerance = 1e-12

// meets computes where a ray meets a triangle (T. Möller and B. Trumbore, Journal of
// Graphics Tools 2 (1997) 21).
func (s *triangle) meets(from, along vector) (distance float64, ok bool) {
	p := along.cross(s.v)
	det := s.u.dot(p)
	if det == 0 {
		return 0, false
	}
	d := from.minus(s.a)
	x := d.dot(p) / det
	if x < -edgeTolerance || x > 1+edgeTolerance {
		return 0, false
	}
	q := d.cross(s.u)
	y := along.dot(q) / det
	if y < -edgeTolerance || x+y > 1+edgeTolerance {
		return 0, false
	}
	return s.v.dot(q) / det, true
}

// vector is a point or a direction, m.
type vector [3]float64

func (a vector) plus(b vector) vector   { return vector{a[0] + b[0], a[1] + b[1], a[2] + b[2]} }
func (a vector) minus(b vector) vector  { return vector{a[0] - b[0], a[1] - b[1], a[2] - b[2]} }
func (a vector) times(f float64) vector { return vector{a[0] * f, a[1] * f, a[2] * f} }
func (a vector) dot(b vector) float64   { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }
func (a vector) length() float64        { return math.Sqrt(a.dot(a)) }
func (a vector) least(b vector) vector {
	return vector{min(a[0], b[0]), min(a[1], b[1]), min(a[2], b[2])}
}
func (a vector) greatest(b vector) vector {
	return vector{max(a[0], b[0]), max(a[1], b[1]), max(a[2], b[2])}
}
func (a vector) cross(b vector) vector {
	return vector{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}
