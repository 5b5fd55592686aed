package model

import (
	"cmp"
	"slices"
)

// box is the extent of a body.
type box struct{ lo, hi [3]float64 }

// boxes are the extents of the bodies, in their order.
func (r *Resolved) boxes() []box {
	if len(r.extents) != len(r.Bodies) {
		r.extents = make([]box, len(r.Bodies))
		for i := range r.Bodies {
			b := &r.Bodies[i]
			lo, hi := b.Outline.Box()
			r.extents[i] = box{[3]float64{lo.X, lo.Y, b.Z0}, [3]float64{hi.X, hi.Y, b.Z1}}
		}
	}
	return r.extents
}

// Neighbours lists for each part those whose boxes meet its own, in order.
func (r *Resolved) Neighbours() [][]int {
	list := make([][]int, len(r.Parts))
	largest := 0.0
	for _, b := range r.boxes() {
		for k := range 3 {
			largest = max(largest, b.hi[k]-b.lo[k])
		}
	}
	for _, p := range r.meeting(1e-7 * largest) {
		i, j := r.Bodies[p[0]].Part, r.Bodies[p[1]].Part
		if i != j {
			list[i], list[j] = append(list[i], j), append(list[j], i)
		}
	}
	for i := range list {
		slices.Sort(list[i])
		list[i] = slices.Compact(list[i])
	}
	return list
}

// meeting lists the pairs of bodies whose boxes are no farther apart than gap in any direction,
// the earlier body first, ordered by the later one. It sweeps along the axis over which the
// bodies are spread the most.
func (r *Resolved) meeting(gap float64) [][2]int {
	boxes := r.boxes()
	axis, widest := 0, 0.0
	for k := range 3 {
		lo, hi := 0.0, 0.0
		for i, b := range boxes {
			if i == 0 {
				lo, hi = b.lo[k], b.lo[k]
			}
			lo, hi = min(lo, b.lo[k]), max(hi, b.lo[k])
		}
		if hi-lo > widest {
			axis, widest = k, hi-lo
		}
	}
	order := make([]int, len(boxes))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(i, j int) int { return cmp.Compare(boxes[i].lo[axis], boxes[j].lo[axis]) })
	var pairs [][2]int
	var open []int
	for _, i := range order {
		b := &boxes[i]
		open = slices.DeleteFunc(open, func(j int) bool { return boxes[j].hi[axis] < b.lo[axis]-gap })
		for _, j := range open {
			o := &boxes[j]
			apart := false
			for k := range 3 {
				apart = apart || o.hi[k] < b.lo[k]-gap || b.hi[k] < o.lo[k]-gap
			}
			if !apart {
				pairs = append(pairs, [2]int{min(i, j), max(i, j)})
			}
		}
		open = append(open, i)
	}
	slices.SortFunc(pairs, func(a, b [2]int) int { return cmp.Or(cmp.Compare(a[1], b[1]), cmp.Compare(a[0], b[0])) })
	return pairs
}
