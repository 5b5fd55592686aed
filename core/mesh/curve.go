package mesh

import "math"

// Curve returns a function that moves the middles of edges that lie on arcs onto them,
// for elements of order 2; nil if the plan has no arcs. It knows such a middle by where
// the corners put it.
func (m *Mesh) Curve() func(x [3]float64) [3]float64 {
	p := m.Plan
	lo, hi := Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
	for _, q := range p.Points {
		lo = Point{min(lo.X, q.X), min(lo.Y, q.Y)}
		hi = Point{max(hi.X, q.X), max(hi.Y, q.Y)}
	}
	grain := 1e-10 * math.Hypot(hi.X-lo.X, hi.Y-lo.Y)
	key := func(x, y float64) [2]int64 {
		return [2]int64{int64(math.Round((x - lo.X) / grain)), int64(math.Round((y - lo.Y) / grain))}
	}
	moved := map[[2]int64]Point{}
	for t, tri := range p.Triangles {
		for i, s := range p.Segments[t] {
			if s == none || p.Arcs[s].Radius == 0 {
				continue
			}
			a, b := p.Points[tri[next(i)]], p.Points[tri[prev(i)]]
			mid := Point{(a.X + b.X) / 2, (a.Y + b.Y) / 2}
			to := p.Arcs[s].onto(mid)
			// A vertex where outlines cross may lie beside its arc: then the edge is no
			// chord, and stays straight.
			if math.Sqrt(sq(to, mid)) > 0.1*math.Sqrt(sq(a, b)) {
				continue
			}
			moved[key(mid.X, mid.Y)] = to
		}
	}
	if len(moved) == 0 {
		return nil
	}
	return func(x [3]float64) [3]float64 {
		at := key(x[0], x[1])
		for dx := int64(-1); dx <= 1; dx++ {
			for dy := int64(-1); dy <= 1; dy++ {
				if q, ok := moved[[2]int64{at[0] + dx, at[1] + dy}]; ok {
					return [3]float64{q.X, q.Y, x[2]}
				}
			}
		}
		return x
	}
}
