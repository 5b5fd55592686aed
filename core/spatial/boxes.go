// Package spatial finds things by where they are.
package spatial

import "math"

// Boxes sort things of a plane into equal boxes by the ranges that they cover.
type Boxes struct {
	low       [2]float64
	by        float64 // boxes per metre
	wide, far int
	list      [][]int32
}

// NewBoxes makes about as many boxes as there are things in a range.
func NewBoxes(lo, hi [2]float64, count int) *Boxes {
	w, h := hi[0]-lo[0], hi[1]-lo[1]
	b := &Boxes{low: lo, by: math.Sqrt(float64(count) / (max(w, h) * max(min(w, h), max(w, h)/float64(count))))}
	b.wide, b.far = int(w*b.by)+1, int(h*b.by)+1
	b.list = make([][]int32, b.wide*b.far)
	return b
}

// box is where a place lies, or the nearest box to it.
func (b *Boxes) box(p [2]float64) (x, y int) {
	return min(max(int((p[0]-b.low[0])*b.by), 0), b.wide-1), min(max(int((p[1]-b.low[1])*b.by), 0), b.far-1)
}

// At lists what covers the box of a place.
func (b *Boxes) At(p [2]float64) []int32 {
	x, y := b.box(p)
	return b.list[x*b.far+y]
}

// Add puts a thing into all boxes that its range touches.
func (b *Boxes) Add(lo, hi [2]float64, thing int32) {
	b.Each(lo, hi, func(list *[]int32) { *list = append(*list, thing) })
}

// Each calls f for the boxes that a range touches.
func (b *Boxes) Each(lo, hi [2]float64, f func(list *[]int32)) {
	x0, y0 := b.box(lo)
	x1, y1 := b.box(hi)
	for x := x0; x <= x1; x++ {
		for y := y0; y <= y1; y++ {
			f(&b.list[x*b.far+y])
		}
	}
}
