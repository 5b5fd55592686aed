package mesh

import (
	"cmp"
	"math"
	"slices"
)

// Angles returns the least angle of the triangle of each cell, degrees: 60 is the best.
// Cells of layers along walls, which are thin on purpose, have 45.
func (m *Mesh) Angles() []float32 {
	out := make([]float32, m.CellCount())
	for c := range out {
		if m.Layered != nil && m.Layered[c] {
			out[c] = 45
			continue
		}
		n := m.Cells[WedgeNodes*c:]
		p := func(i int) Point { return Point{m.Nodes[3*n[i]], m.Nodes[3*n[i]+1]} }
		out[c] = float32(leastAngle(p(0), p(1), p(2)))
	}
	return out
}

// leastAngle of a triangle, degrees.
func leastAngle(a, b, c Point) float64 {
	l := [3]float64{math.Sqrt(sq(b, c)), math.Sqrt(sq(c, a)), math.Sqrt(sq(a, b))}
	slices.Sort(l[:])
	area2 := math.Abs((b.X-a.X)*(c.Y-a.Y) - (b.Y-a.Y)*(c.X-a.X))
	return math.Asin(min(area2/(l[1]*l[2]), 1)) * 180 / math.Pi
}

// Centre of a cell.
func (m *Mesh) Centre(cell int) (x [3]float64) {
	for _, v := range m.Cells[WedgeNodes*cell : WedgeNodes*(cell+1)] {
		for r := range x {
			x[r] += m.Nodes[3*int(v)+r] / WedgeNodes
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
		x := m.Centre(int(c))
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
// do not, at another body or outside, as facets of those cells.
func (m *Mesh) Exposed(keep func(cell int) bool) []Facet {
	open := make(map[facetKey]Facet)
	for c := range m.CellCount() {
		if !keep(c) {
			continue
		}
		own := m.Cells[WedgeNodes*c : WedgeNodes*(c+1)]
		for _, f := range facetsOfWedge {
			facet := Facet{Nodes: [4]int32{-1, -1, -1, -1}, Cell: int32(c), Body: m.Body[c], Other: -1, OtherBody: -1}
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
	}
	list := make([]Facet, 0, len(open))
	for _, f := range open {
		list = append(list, f)
	}
	slices.SortFunc(list, func(a, b Facet) int {
		return cmp.Or(cmp.Compare(a.Cell, b.Cell), slices.Compare(a.Nodes[:], b.Nodes[:]))
	})
	return list
}
