package trace

import (
	"cmp"
	"slices"
)

// ends finds the nearest of the ends of lines that are left: a k-d tree over points in the plane
// (J. L. Bentley, 1975) from which points are taken away. Building it takes n log² n, a search or
// a removal log n on the average, wherever the points lie.
type ends struct {
	points []point
	order  []int32 // the tree: the middle of a range splits it, by x and y in turn
	place  []int32 // of each point in order
	left   []int32 // how many points are left in the range of which one is the middle
}

func newEnds(points []point) *ends {
	t := &ends{points: points, order: make([]int32, len(points)), place: make([]int32, len(points)), left: make([]int32, len(points))}
	for i := range t.order {
		t.order[i] = int32(i)
	}
	t.build(0, len(points), 0)
	for i, p := range t.order {
		t.place[p] = int32(i)
	}
	return t
}

// along is a coordinate of a point.
func (p point) along(axis int) float64 {
	if axis == 0 {
		return p.x
	}
	return p.y
}

func (t *ends) build(lo, hi, axis int) {
	if lo >= hi {
		return
	}
	slices.SortFunc(t.order[lo:hi], func(a, b int32) int {
		return cmp.Or(cmp.Compare(t.points[a].along(axis), t.points[b].along(axis)), cmp.Compare(a, b))
	})
	mid := (lo + hi) / 2
	t.left[mid] = int32(hi - lo)
	t.build(lo, mid, 1-axis)
	t.build(mid+1, hi, 1-axis)
}

// remove takes a point away.
func (t *ends) remove(p int) {
	at := int(t.place[p])
	lo, hi := 0, len(t.order)
	for {
		mid := (lo + hi) / 2
		t.left[mid]--
		switch {
		case at < mid:
			hi = mid
		case at > mid:
			lo = mid + 1
		default:
			t.order[mid] = -1 - t.order[mid] // it still splits its range
			return
		}
	}
}

// nearest returns the point that is left within a distance of a place and nearest to it, the
// first one of several, −1 if there is none.
func (t *ends) nearest(p point, within float64) int {
	best := -1
	var search func(lo, hi, axis int)
	search = func(lo, hi, axis int) {
		if lo >= hi {
			return
		}
		mid := (lo + hi) / 2
		if t.left[mid] == 0 {
			return
		}
		k, gone := t.order[mid], false
		if k < 0 {
			k, gone = -1-k, true
		}
		q := t.points[k]
		if d := p.to(q); !gone && (d < within || d == within && (best < 0 || int(k) < best)) {
			best, within = int(k), d
		}
		d := p.along(axis) - q.along(axis)
		if d <= 0 {
			search(lo, mid, 1-axis)
			if -d <= within {
				search(mid+1, hi, 1-axis)
			}
			return
		}
		search(mid+1, hi, 1-axis)
		if d <= within {
			search(lo, mid, 1-axis)
		}
	}
	search(0, len(t.order), 0)
	return best
}
