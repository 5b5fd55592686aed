package spatial

import "math"

// Bins sort points into equal boxes, a few points in each.
type Bins struct {
	low, by [3]float64 // corner of all, boxes per metre
	count   [3]int
	first   []int32 // by box, the place of its first point in list
	list    []int32
}

// NewBins sorts points of three coordinates each.
func NewBins(points []float64) *Bins {
	n := len(points) / 3
	b := &Bins{count: [3]int{1, 1, 1}}
	if n == 0 {
		b.first = make([]int32, 2)
		return b
	}
	var high [3]float64
	for r := range 3 {
		b.low[r], high[r] = math.Inf(1), math.Inf(-1)
	}
	for i, x := range points {
		b.low[i%3], high[i%3] = min(b.low[i%3], x), max(high[i%3], x)
	}
	each := math.Cbrt(float64(n) / 2)
	for r := range 3 {
		if wide := high[r] - b.low[r]; wide > 0 && n > 8 {
			b.count[r] = max(1, int(each))
			b.by[r] = float64(b.count[r]) / wide
		}
	}
	b.first = make([]int32, b.count[0]*b.count[1]*b.count[2]+1)
	box := make([]int32, n)
	for i := range box {
		k := 0
		for r := range 3 {
			k = k*b.count[r] + b.along(r, points[3*i+r])
		}
		box[i] = int32(k)
		b.first[k+1]++
	}
	for k := 1; k < len(b.first); k++ {
		b.first[k] += b.first[k-1]
	}
	b.list = make([]int32, n)
	next := append([]int32(nil), b.first...)
	for i, k := range box {
		b.list[next[k]] = int32(i)
		next[k]++
	}
	return b
}

// along is the number of the box along an axis.
func (b *Bins) along(r int, x float64) int {
	return int(min(max((x-b.low[r])*b.by[r], 0), float64(b.count[r]-1)))
}

// Each calls f for the points in the boxes that a range touches.
func (b *Bins) Each(lo, hi [3]float64, f func(i int32)) {
	var from, to [3]int
	for r := range 3 {
		from[r], to[r] = b.along(r, lo[r]), b.along(r, hi[r])
	}
	for x := from[0]; x <= to[0]; x++ {
		for y := from[1]; y <= to[1]; y++ {
			row := (x*b.count[1] + y) * b.count[2]
			for _, i := range b.list[b.first[row+from[2]]:b.first[row+to[2]+1]] {
				f(i)
			}
		}
	}
}
