package mesh

import "math"

// boxes sort things of the plan into equal boxes by the ranges that they cover.
type boxes struct {
	low       Point
	by        float64 // boxes per metre
	wide, far int
	list      [][]int32
}

// newBoxes makes about as many boxes as there are things in a range.
func newBoxes(lo, hi Point, count int) *boxes {
	w, h := hi.X-lo.X, hi.Y-lo.Y
	b := &boxes{low: lo, by: math.Sqrt(float64(count) / (max(w, h) * max(min(w, h), max(w, h)/float64(count))))}
	b.wide, b.far = int(w*b.by)+1, int(h*b.by)+1
	b.list = make([][]int32, b.wide*b.far)
	return b
}

// box is where a place lies, or the nearest box to it.
func (b *boxes) box(p Point) (x, y int) {
	return min(max(int((p.X-b.low.X)*b.by), 0), b.wide-1), min(max(int((p.Y-b.low.Y)*b.by), 0), b.far-1)
}

// at lists what covers the box of a place.
func (b *boxes) at(p Point) []int32 {
	x, y := b.box(p)
	return b.list[x*b.far+y]
}

// add puts a thing into all boxes that its range touches.
func (b *boxes) add(lo, hi Point, thing int32) {
	b.each(lo, hi, func(list *[]int32) { *list = append(*list, thing) })
}

// each calls f for the boxes that a range touches.
func (b *boxes) each(lo, hi Point, f func(list *[]int32)) {
	x0, y0 := b.box(lo)
	x1, y1 := b.box(hi)
	for x := x0; x <= x1; x++ {
		for y := y0; y <= y1; y++ {
			f(&b.list[x*b.far+y])
		}
	}
}
