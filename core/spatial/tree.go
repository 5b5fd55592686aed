package spatial

import "math"

// fan is how many boxes of a tree lie in one of the next level.
const fan = 4

// Box is the places between two corners, with both.
type Box struct{ Lo, Hi [3]float64 }

// has says that a place is in the box.
func (b *Box) has(x [3]float64) bool {
	return x[0] >= b.Lo[0] && x[0] <= b.Hi[0] && x[1] >= b.Lo[1] && x[1] <= b.Hi[1] && x[2] >= b.Lo[2] && x[2] <= b.Hi[2]
}

// join is the box that holds all of some.
func join(list []Box) Box {
	out := list[0]
	for _, b := range list[1:] {
		for d := range 3 {
			out.Lo[d], out.Hi[d] = min(out.Lo[d], b.Lo[d]), max(out.Hi[d], b.Hi[d])
		}
	}
	return out
}

// Tree finds boxes by places, however unequal the boxes are. They are sorted along a curve that
// fills the space, and each four that follow each other lie in a box of the next level.
type Tree struct {
	things []int32 // by their places along the curve
	levels [][]Box // the boxes of the things first, the box of all last
}

// NewTree makes a tree of boxes, which are called by their numbers.
func NewTree(boxes []Box) *Tree {
	t := &Tree{}
	if len(boxes) == 0 {
		return t
	}
	centres := make([]float64, 3*len(boxes))
	for i := range boxes {
		for d := range 3 {
			centres[3*i+d] = boxes[i].Lo[d]/2 + boxes[i].Hi[d]/2
		}
	}
	t.things = Order(centres)
	level := make([]Box, len(boxes))
	for i, thing := range t.things {
		level[i] = boxes[thing]
	}
	t.levels = append(t.levels, level)
	for len(level) > 1 {
		next := make([]Box, (len(level)+fan-1)/fan)
		for i := range next {
			next[i] = join(level[fan*i : min(fan*(i+1), len(level))])
		}
		t.levels = append(t.levels, next)
		level = next
	}
	return t
}

// Things are the numbers of the boxes in the order in which those that are near each other follow each
// other.
func (t *Tree) Things() []int32 { return t.things }

// Each calls f with the number of each box that has a place, until f returns false.
func (t *Tree) Each(x [3]float64, f func(thing int32) bool) {
	if top := len(t.levels) - 1; top >= 0 {
		t.each(top, 0, x, f)
	}
}

func (t *Tree) each(level, i int, x [3]float64, f func(thing int32) bool) bool {
	if !t.levels[level][i].has(x) {
		return true
	}
	if level == 0 {
		return f(t.things[i])
	}
	for k := fan * i; k < min(fan*(i+1), len(t.levels[level-1])); k++ {
		if !t.each(level-1, k, x, f) {
			return false
		}
	}
	return true
}

// away is the square of the distance of a place from the box.
func (b *Box) away(x [3]float64) (square float64) {
	for d, v := range x {
		if off := max(b.Lo[d]-v, v-b.Hi[d]); off > 0 {
			square += off * off
		}
	}
	return square
}

// Nearest is the least of the squares of distances of things from a place, each found by f, and which thing it is; −1 in an
// empty tree. No thing is nearer than its box.
func (t *Tree) Nearest(x [3]float64, f func(thing int32) (square float64)) (least float64, thing int32) {
	least, thing = math.Inf(1), -1
	if top := len(t.levels) - 1; top >= 0 {
		t.nearest(top, 0, x, f, &least, &thing)
	}
	return least, thing
}

func (t *Tree) nearest(level, i int, x [3]float64, f func(thing int32) float64, least *float64, thing *int32) {
	if level == 0 {
		if square := f(t.things[i]); square < *least {
			*least, *thing = square, t.things[i]
		}
		return
	}
	// The nearer ones first, so that most of the others need not be asked.
	var away [fan]float64
	var order [fan]int
	first := fan * i
	count := min(fan, len(t.levels[level-1])-first)
	for k := range count {
		away[k] = t.levels[level-1][first+k].away(x)
		at := k
		for ; at > 0 && away[order[at-1]] > away[k]; at-- {
			order[at] = order[at-1]
		}
		order[at] = k
	}
	for _, k := range order[:count] {
		if away[k] >= *least {
			return
		}
		t.nearest(level-1, first+k, x, f, least, thing)
	}
}
