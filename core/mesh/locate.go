package mesh

import "math"

// Slack of [Mesh.Locate]: what lies on a side belongs to the cell.
const onSide = 1e-9

// Locate returns for each point the cell that holds it and its place in the
// reference wedge, the triangle (0, 0), (1, 0), (0, 1) times [−1, 1]; the cell is −1
// outside the mesh. Where cells meet the first one is taken. Points have three
// coordinates each.
func (m *Mesh) Locate(points []float64) (cells []int32, places [][3]float64) {
	return m.LocateNear(points, onSide)
}

// LocateNear is [Mesh.Locate] where points may lie outside their cell by a part of
// its size, as on a curved side of another mesh.
func (m *Mesh) LocateNear(points []float64, slack float64) (cells []int32, places [][3]float64) {
	n := len(points) / 3
	cells, places = make([]int32, n), make([][3]float64, n)
	for i := range cells {
		cells[i] = -1
	}
	bins := newBins(points)
	for c := range m.CellCount() {
		nodes := m.Cells[WedgeNodes*c : WedgeNodes*(c+1)]
		at := func(i int) []float64 { return m.Nodes[3*nodes[i] : 3*nodes[i]+3] }
		a, b, d, top := at(0), at(1), at(2), at(3)
		z0, z1 := a[2], top[2]
		det := (b[0]-a[0])*(d[1]-a[1]) - (d[0]-a[0])*(b[1]-a[1])
		lo := [3]float64{min(a[0], b[0], d[0]), min(a[1], b[1], d[1]), z0}
		hi := [3]float64{max(a[0], b[0], d[0]), max(a[1], b[1], d[1]), z1}
		for r := range lo {
			// The barycentric slack reaches at most twice as far along an axis.
			reach := 2 * slack * (hi[r] - lo[r])
			lo[r], hi[r] = lo[r]-reach, hi[r]+reach
		}
		bins.each(lo, hi, func(i int32) {
			x := points[3*i : 3*i+3]
			if cells[i] >= 0 || x[2] < z0-slack*(z1-z0) || x[2] > z1+slack*(z1-z0) {
				return
			}
			// Wedges stand upright: the place in plan and the height are apart.
			l1 := ((x[0]-a[0])*(d[1]-a[1]) - (d[0]-a[0])*(x[1]-a[1])) / det
			l2 := ((b[0]-a[0])*(x[1]-a[1]) - (x[0]-a[0])*(b[1]-a[1])) / det
			if l1 < -slack || l2 < -slack || l1+l2 > 1+slack {
				return
			}
			cells[i] = int32(c)
			places[i] = [3]float64{l1, l2, 2*(x[2]-z0)/(z1-z0) - 1}
		})
	}
	return cells, places
}

// bins sort points into equal boxes, a few points in each.
type bins struct {
	low, by [3]float64 // corner of all, boxes per metre
	count   [3]int
	first   []int32 // by box, the place of its first point in list
	list    []int32
}

func newBins(points []float64) *bins {
	n := len(points) / 3
	b := &bins{count: [3]int{1, 1, 1}}
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
func (b *bins) along(r int, x float64) int {
	return min(max(int((x-b.low[r])*b.by[r]), 0), b.count[r]-1)
}

// each calls f for the points in the boxes that a range touches.
func (b *bins) each(lo, hi [3]float64, f func(i int32)) {
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
