package mesh

import (
	"cmp"
	"math"
	"slices"
)

// Angles returns the least angle in plan of each cell, degrees, of a quadrilateral as a part of
// the one that it could have at best, 90, times 60: 60 is the best of all forms.
// Cells of layers along walls, which are thin on purpose, have 45.
func (m *Mesh) Angles() []float32 {
	out := make([]float32, m.CellCount())
	m.EachCell(func(cell int32, form Form, corners []int32) {
		if m.Layered != nil && m.Layered[cell] {
			out[cell] = 45
			return
		}
		if form == Bar {
			out[cell] = 60
			return
		}
		base := corners
		if form.Dimension() == 3 {
			base = corners[:len(corners)/2] // of an upright cell
		}
		p := func(i int) Point { v := base[i%len(base)]; return Point{m.Nodes[3*v], m.Nodes[3*v+1]} }
		if len(base) == 3 {
			out[cell] = float32(leastAngle(p(0), p(1), p(2)))
			return
		}
		least := 90.0
		for i := range base {
			least = min(least, corner(p(i+3), p(i), p(i+1)), 180-corner(p(i+3), p(i), p(i+1)))
		}
		out[cell] = float32(least * 60 / 90)
	})
	return out
}

// corner is the angle at b between the lines to a and c, degrees.
func corner(a, b, c Point) float64 {
	ux, uy, vx, vy := a.X-b.X, a.Y-b.Y, c.X-b.X, c.Y-b.Y
	return math.Atan2(math.Abs(ux*vy-uy*vx), ux*vx+uy*vy) * 180 / math.Pi
}

// leastAngle of a triangle, degrees.
func leastAngle(a, b, c Point) float64 {
	l := [3]float64{math.Sqrt(sq(b, c)), math.Sqrt(sq(c, a)), math.Sqrt(sq(a, b))}
	slices.Sort(l[:])
	area2 := math.Abs((b.X-a.X)*(c.Y-a.Y) - (b.Y-a.Y)*(c.X-a.X))
	return math.Asin(min(area2/(l[1]*l[2]), 1)) * 180 / math.Pi
}

// Size is the volume of an upright cell, m³, or the area of a flat one, m², or the length of one on a line, m.
func (m *Mesh) Size(cell int32) float64 {
	corners := m.Cell(cell)
	if m.Form(cell) == Bar {
		return m.Piece(cell).Length
	}
	if m.Form(cell).Dimension() == 2 {
		return m.area(corners)
	}
	half := len(corners) / 2
	return m.area(corners[:half]) * (m.Nodes[3*corners[half]+2] - m.Nodes[3*corners[0]+2])
}

// Across is how far a cell goes along its axes at most, m: the longest way between its corners over the root of their number.
func (m *Mesh) Across(cell int32) float64 {
	corners, most := m.Cell(cell), 0.0
	for i, a := range corners {
		for _, b := range corners[:i] {
			square := 0.0
			for k, x := range m.At(a) {
				d := x - m.At(b)[k]
				square += d * d
			}
			most = max(most, square)
		}
	}
	return math.Sqrt(most / float64(m.Form(cell).Dimension()))
}

// area of a polygon in plan.
func (m *Mesh) area(corners []int32) float64 {
	var twice float64
	a := m.At(corners[0])
	for i := 2; i < len(corners); i++ {
		b, c := m.At(corners[i-1]), m.At(corners[i])
		twice += (b[0]-a[0])*(c[1]-a[1]) - (b[1]-a[1])*(c[0]-a[0])
	}
	return twice / 2
}

// Centre of a cell.
func (m *Mesh) Centre(cell int32) (x [3]float64) {
	corners := m.Cell(cell)
	for _, v := range corners {
		for r := range x {
			x[r] += m.Nodes[3*int(v)+r] / float64(len(corners))
		}
	}
	return x
}

// Worst lists the n cells with the least angles, the worst first, with no two at one
// place in plan.
func (m *Mesh) Worst(angles []float32, n int) []int32 {
	list := make([]int32, len(angles))
	for i := range list {
		list[i] = int32(i)
	}
	slices.SortFunc(list, func(a, b int32) int { return cmp.Or(cmp.Compare(angles[a], angles[b]), cmp.Compare(a, b)) })
	var out []int32
	seen := map[[2]float64]bool{}
	for _, c := range list {
		x := m.Centre(c)
		if at := [2]float64{x[0], x[1]}; !seen[at] {
			seen[at] = true
			out = append(out, c)
		}
		if len(out) == n {
			break
		}
	}
	return out
}

// Exposed lists the sides of the cells that keep says stay where they end at cells that
// do not, at another body or outside, as facets of those cells; of a flat mesh these cells
// themselves.
func (m *Mesh) Exposed(keep func(cell int32) bool) []Facet {
	if m.Flat() {
		return m.faces(keep)
	}
	open := make(map[facetKey]Facet)
	m.EachCell(func(c int32, form Form, own []int32) {
		if !keep(c) || form == Bar {
			return
		}
		for _, f := range form.Facets() {
			facet := Facet{Nodes: [4]int32{none, none, none, none}, Cell: c, Body: m.Body[c], Other: none, OtherBody: none}
			for k, corner := range f {
				facet.Nodes[k] = own[corner]
			}
			key := keyOf(facet.Corners())
			other, seen := open[key]
			if seen && other.Body == facet.Body {
				delete(open, key)
				continue
			}
			if seen {
				continue // the first body shows the face between two
			}
			open[key] = facet
		}
	})
	list := make([]Facet, 0, len(open))
	for _, f := range open {
		list = append(list, f)
	}
	slices.SortFunc(list, func(a, b Facet) int {
		return cmp.Or(cmp.Compare(a.Cell, b.Cell), slices.Compare(a.Nodes[:], b.Nodes[:]))
	})
	return list
}

// faces are the cells of a flat mesh as facets.
func (m *Mesh) faces(keep func(cell int32) bool) []Facet {
	var list []Facet
	m.EachCell(func(c int32, _ Form, corners []int32) {
		if keep(c) {
			f := Facet{Nodes: [4]int32{none, none, none, none}, Cell: c, Body: m.Body[c], Other: none, OtherBody: none}
			copy(f.Nodes[:], corners)
			list = append(list, f)
		}
	})
	return list
}

// AreaOf is the area of a facet, of a flat mesh its length.
func (m *Mesh) AreaOf(k int32) float64 {
	corners := m.Facets[k].Corners()
	a := m.At(corners[0])
	if len(corners) < 3 {
		b := m.At(corners[len(corners)-1])
		return math.Hypot(b[0]-a[0], b[1]-a[1])
	}
	var sum [3]float64
	for i := 2; i < len(corners); i++ {
		b, c := m.At(corners[i-1]), m.At(corners[i])
		for d := range 3 {
			e, f := (d+1)%3, (d+2)%3
			sum[d] += (b[e]-a[e])*(c[f]-a[f]) - (b[f]-a[f])*(c[e]-a[e])
		}
	}
	return math.Sqrt(sum[0]*sum[0]+sum[1]*sum[1]+sum[2]*sum[2]) / 2
}
