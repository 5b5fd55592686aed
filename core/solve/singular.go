package solve

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
)

// Edges of the region of a field at which its flux has no bound: the field goes like r^λ
// about an edge with the angle ω within the region, λ = π/ω if both faces are held or
// neither, π/(2ω) if one is (R. B. Kellogg, in K. Hubbard, Numerical Solution of Partial
// Differential Equations II, 1971; P. Grisvard, Elliptic Problems in Nonsmooth Domains,
// 1985, chapter 4). Readings then converge with the order 2λ on even meshes.

// sharp is the λ below which an edge counts.
const sharp = 0.9

// edge is a line of the boundary of the region of a field.
type edge struct {
	nodes  [2]int32
	angle  float64 // within the region
	faces  int     // of the boundary that meet there
	held   int     // of these
	facets [2]int32
	// firstHeld says that the first of the facets is held.
	firstHeld bool
}

// lambda is the exponent of the field at the edge.
func (e *edge) lambda() float64 {
	if e.faces != 2 || e.angle <= 0 {
		return math.Inf(1)
	}
	if e.held == 1 {
		return math.Pi / (2 * e.angle)
	}
	return math.Pi / e.angle
}

// sharpEdges are those of all fields, the sharpest first.
func (r *run) sharpEdges() []edge {
	var list []edge
	for _, p := range r.posed.parts {
		if p.Flux != "" {
			held := r.posed.groups[p.group].HeldFacets(p.field)
			list = append(list, r.edgesOf(p, held, func(e *edge) bool { return e.lambda() < sharp })...)
		}
	}
	slices.SortStableFunc(list, func(a, b edge) int {
		switch la, lb := a.lambda(), b.lambda(); {
		case la < lb:
			return -1
		case la > lb:
			return 1
		}
		return 0
	})
	return list
}

func edgeKey(a, b int32) uint64 { return uint64(min(a, b))<<32 | uint64(max(a, b)) }

// edgesOf are the edges of the region of the field that a part is about, with the faces there that are among some, of which
// something holds.
func (r *run) edgesOf(p *portion, held map[int32]bool, is func(e *edge) bool) []edge {
	m, g, field := r.mesh, r.posed.groups[p.group], p.field
	edges := map[uint64]*edge{}
	for k := range m.Facets {
		f := &m.Facets[k]
		here, beyond := g.Lives(field, f.Body), f.Other >= 0 && g.Lives(field, f.OtherBody)
		if here == beyond {
			continue
		}
		for _, ends := range f.Edges() {
			key := edgeKey(ends[0], ends[1])
			e := edges[key]
			if e == nil {
				e = &edge{nodes: ends}
				edges[key] = e
			}
			if e.faces < 2 {
				e.facets[e.faces] = int32(k)
			}
			e.faces++
			if held[int32(k)] {
				e.held++
				e.firstHeld = e.firstHeld || e.faces == 1
			}
		}
	}
	m.EachCell(func(c int32, form mesh.Form, nodes []int32) {
		if !g.Lives(field, m.Body[c]) {
			return
		}
		if form.Dimension() == 2 {
			n := len(nodes)
			for i, v := range nodes {
				if e := edges[edgeKey(v, v)]; e != nil {
					a := m.At(v)
					e.angle += dihedral(a, [3]float64{a[0], a[1], a[2] + 1}, m.At(nodes[(i+1)%n]), m.At(nodes[(i+n-1)%n]))
				}
			}
			return
		}
		for _, w := range form.Edges() {
			if e := edges[edgeKey(nodes[w[0]], nodes[w[1]])]; e != nil {
				e.angle += dihedral(m.At(nodes[w[0]]), m.At(nodes[w[1]]), m.At(nodes[w[2]]), m.At(nodes[w[3]]))
			}
		}
	})
	var list []edge
	for _, e := range edges {
		if is(e) {
			list = append(list, *e)
		}
	}
	slices.SortFunc(list, func(a, b edge) int { return int(a.nodes[0]) - int(b.nodes[0]) })
	return list
}

// dihedral is the angle about the line from a to b between the half planes through c and d.
func dihedral(a, b, c, d [3]float64) float64 {
	minus := func(p, q [3]float64) [3]float64 { return [3]float64{p[0] - q[0], p[1] - q[1], p[2] - q[2]} }
	dot := func(p, q [3]float64) float64 { return p[0]*q[0] + p[1]*q[1] + p[2]*q[2] }
	axis := minus(b, a)
	across := func(p [3]float64) [3]float64 {
		v := minus(p, a)
		f := dot(v, axis) / dot(axis, axis)
		return [3]float64{v[0] - f*axis[0], v[1] - f*axis[1], v[2] - f*axis[2]}
	}
	u, v := across(c), across(d)
	return math.Acos(min(1, max(-1, dot(u, v)/math.Sqrt(dot(u, u)*dot(v, v)))))
}

// singular names the sharpest edge at which the flux has no bound, if the readings show it,
// and says what helps.
func (r *run) singular(e *estimates, edges []edge) {
	if len(edges) == 0 {
		return
	}
	var keys []string
	for _, q := range r.result.Readings {
		for _, p := range e.parts[q.Key] {
			if p.Of == ofCells && p.Value > 1e-3*math.Abs(q.Value) {
				keys = append(keys, q.Key)
			}
		}
	}
	if len(keys) == 0 {
		return
	}
	worst := r.steepest(edges)
	advice := "let the run make cells finer in rounds"
	if r.model.Rounds > 0 {
		advice = "allow more rounds of finer cells"
	}
	r.warn("the flux has no bound %s: errors fall there with the power %s of the size of cells only; for less of %s %s", r.edgeWords(worst), quantity.Figures(2*worst.lambda(), 2), strings.Join(keys, ", "), advice)
}

// steepest is that of the edges with about the least λ near which the fluxes are least
// exact.
func (r *run) steepest(edges []edge) *edge {
	sums := make([]float64, r.mesh.NodeCount())
	if fluxes, err := r.fluxErrors(); err == nil {
		for _, f := range fluxes {
			for c, v := range slices.Concat(f.Cells...) {
				for _, n := range r.mesh.Cell(int32(c)) {
					sums[n] += (v[0] + v[1] + v[2]) / max(f.Norm*f.Norm, math.SmallestNonzeroFloat64)
				}
			}
		}
	}
	best := &edges[0]
	of := func(e *edge) float64 { return sums[e.nodes[0]] + sums[e.nodes[1]] }
	for i := range edges {
		if e := &edges[i]; e.lambda() < edges[0].lambda()+0.05 && of(e) > of(best) {
			best = e
		}
	}
	return best
}

// edgeWords says where an edge is.
func (r *run) edgeWords(e *edge) string {
	unit := r.model.Document.Space.Unit
	var coordinates []string
	for d := range 3 {
		if d == 2 && r.model.Document.Space.Flat() {
			break
		}
		mid := (r.mesh.Nodes[3*e.nodes[0]+int32(d)] + r.mesh.Nodes[3*e.nodes[1]+int32(d)]) / 2
		coordinates = append(coordinates, quantity.Figures(quantity.MustUnit(unit).From(mid, false), 4)) // checked when the model was resolved
	}
	side := func(k int32) string {
		f := &r.mesh.Facets[k]
		return r.model.Document.PatchWords(model.Patch{Part: r.model.Parts[r.owner[f.Body][0]].ID, Side: r.mesh.Sides[f.Side]})
	}
	where := fmt.Sprintf("at (%s) %s, ", strings.Join(coordinates, ", "), unit)
	if e.held == 1 {
		held, free := e.facets[0], e.facets[1]
		if !e.firstHeld {
			held, free = free, held
		}
		return where + fmt.Sprintf("where the %s is held and the %s is not", side(held), side(free))
	}
	return where + fmt.Sprintf("in the inner corner of the %s and the %s", side(e.facets[0]), side(e.facets[1]))
}
