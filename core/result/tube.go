package result

import (
	"saltkettle/core/fem"
	"saltkettle/core/shape"
)

// tube adds the bars of a body that is a line, in their order along it, as a tube.
func (s *Surface) tube(g Group, bars []Face, grid *fem.Grid, points *fem.Points, radius float64) {
	g.First = len(s.triangles) / 3
	g.Outlines[0], g.Edges[0] = len(s.outlines)/2, len(s.edges)/2
	g.Sides = []GroupSide{{First: g.First}}
	const n = shape.TubeSides
	at := func(p int32) [3]float64 { return [3]float64(points.At[3*p : 3*p+3]) }
	ends := func(f *Face) (a, b int32) {
		own := points.Cells[f.Block][grid.Blocks[f.Block].Element.Count()*f.Cell:]
		return own[0], own[1]
	}
	var u [3]float64
	// ring adds the vertices round a point between one before and one behind it, and returns the first of them.
	ring := func(before, p, behind int32) uint32 {
		first := uint32(len(s.point))
		var forward [3]float64
		x, y := at(before), at(behind)
		long := shape.Apart(x, y)
		for d := range forward {
			forward[d] = (y[d] - x[d]) / long
		}
		var list [n][3]float64
		list, u = shape.Hoop(at(p), forward, u, radius)
		for _, x := range list {
			s.point = append(s.point, p)
			s.positions = append(s.positions, float32(x[0]), float32(x[1]), float32(x[2]))
		}
		for k := range uint32(n) {
			s.edges = append(s.edges, first+k, first+(k+1)%n)
		}
		return first
	}
	cap := func(first uint32, turned bool) {
		for k := uint32(1); k < n-1; k++ {
			if turned {
				s.triangles = append(s.triangles, first, first+k+1, first+k)
			} else {
				s.triangles = append(s.triangles, first, first+k, first+k+1)
			}
		}
		for k := range uint32(n) {
			s.outlines = append(s.outlines, first+k, first+(k+1)%n)
		}
	}
	var last uint32
	for i := range bars {
		a, b := ends(&bars[i])
		if i == 0 {
			last = ring(a, a, b)
			cap(last, true)
		}
		behind := b
		if i+1 < len(bars) {
			_, behind = ends(&bars[i+1])
		}
		next := ring(a, b, behind)
		for k := range uint32(n) {
			l := (k + 1) % n
			s.triangles = append(s.triangles, last+k, last+l, next+l, last+k, next+l, next+k)
		}
		last = next
	}
	cap(last, false)
	g.Count = len(s.triangles)/3 - g.First
	g.Sides[0].Count = g.Count
	g.Outlines[1], g.Edges[1] = len(s.outlines)/2-g.Outlines[0], len(s.edges)/2-g.Edges[0]
	s.Groups = append(s.Groups, g)
}
