package mesh

import "math"

const (
	// upright is the cosine of the angle to the normal of a wall up to which layers end along an outline.
	upright = 0.7
	// rungPart is how much of an outline layers that end along it take at most.
	rungPart = 0.3
)

// layersEnd is a vertex where pieces with layers begin or end.
type layersEnd struct {
	wall *Wall // nil if those on both sides do not fit
	// Directions along the pieces from the vertex on, and their normals.
	along, normal []Point
}

// least is the least cosine of the angle of a direction to the normals.
func (e *layersEnd) least(d Point) float64 {
	least := 1.0
	for _, n := range e.normal {
		least = min(least, n.X*d.X+n.Y*d.Y)
	}
	return least
}

// addRungs splits the outlines along which layers end, such as those through which fluid comes in, at the thickness of the
// layers, and those that part layers on both sides: there the layers need not become thinner.
func (a *arrangement) addRungs(bodies []planBody, fills []bool) {
	ends := map[int32]*layersEnd{}
	for _, p := range a.wallPieces(bodies, fills) {
		u, v := a.points[p.from], a.points[p.to]
		l := math.Sqrt(sq(u, v))
		t, n := Point{(v.X - u.X) / l, (v.Y - u.Y) / l}, Point{(u.Y - v.Y) / l, (v.X - u.X) / l}
		for _, at := range [2]int32{p.from, p.to} {
			e := ends[at]
			if e == nil {
				e = &layersEnd{wall: p.wall}
				ends[at] = e
			}
			if e.wall != nil && *e.wall != *p.wall {
				e.wall = nil
			}
			e.along, e.normal = append(e.along, t), append(e.normal, n)
			t = Point{-t.X, -t.Y}
		}
	}
	// The pieces that leave such a vertex on the layered side.
	leaving := map[int32][]int32{}
	for i := range a.pieces {
		p := &a.pieces[i]
		if p.wall != nil {
			continue
		}
		for _, e := range [2][2]int32{{p.a, p.b}, {p.b, p.a}} {
			end := ends[e[0]]
			if end == nil || end.wall == nil {
				continue
			}
			if d := a.direction(e[0], e[1]); end.least(d) > 1e-9 {
				leaving[e[0]] = append(leaving[e[0]], int32(i))
			}
		}
	}
	for v := range int32(len(a.points)) {
		e, list := ends[v], leaving[v]
		if e == nil || e.wall == nil || len(list) != 1 || len(e.along) > 2 {
			continue
		}
		p := &a.pieces[list[0]]
		other := p.a + p.b - v
		d := a.direction(v, other)
		cosine := e.least(d)
		if cosine < upright || p.arc.Radius != 0 {
			continue
		}
		length := math.Sqrt(sq(a.points[v], a.points[other]))
		if len(e.along) == 1 {
			// Nothing may lie beyond, whose cells would not fit.
			eps := 1e-3 * min(length, e.wall.First)
			t := e.along[0]
			if bodyAt(Point{a.points[v].X + eps*(d.X-0.01*t.X), a.points[v].Y + eps*(d.Y-0.01*t.Y)}, bodies, fills) != none {
				continue
			}
		}
		long := min(e.wall.thickness()/cosine, rungPart*length)
		top := int32(len(a.points))
		a.points = append(a.points, Point{a.points[v].X + long*d.X, a.points[v].Y + long*d.Y})
		rung := *p
		if p.a == v {
			p.a, rung.b = top, top
		} else {
			p.b, rung.a = top, top
		}
		rung.rung = true
		a.pieces = append(a.pieces, rung)
	}
}

// direction from one vertex to another, of length 1.
func (a *arrangement) direction(from, to int32) Point {
	u, v := a.points[from], a.points[to]
	l := math.Sqrt(sq(u, v))
	return Point{(v.X - u.X) / l, (v.Y - u.Y) / l}
}
