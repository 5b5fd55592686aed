package magnetic

import (
	"maps"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/formula"
	"saltkettle/core/law"
)

// bounds takes in how the field ends: where it is open, where flux crosses, and where it stays within, which holds the potential in
// sections and lets it be in space, where what crosses does.
func (d *draft) bounds(open, crossed map[int32]bool) {
	var held []int32
	for i := range d.Mesh.Facets {
		k, f := int32(i), &d.Mesh.Facets[i]
		switch {
		case !d.edge(f.Body, f.OtherBody) || d.onAxis(k):
		case d.faraway(k):
			held = append(held, k)
		case open[k]:
			d.problem.Open = append(d.problem.Open, k)
			d.posed.Facets[k] = true
		case crossed[k]:
			if d.problem.Solid {
				held = append(held, k)
			}
		default:
			d.kept = append(d.kept, k)
			if !d.problem.Solid {
				held = append(held, k)
			}
		}
	}
	if field := &d.posed.Fields[0]; d.problem.Solid && len(held)+len(d.problem.Open) == 0 {
		// Its level is anything.
		field.Pins = [][]int32{slices.Sorted(maps.Keys(field.Bodies))}
	}
	var level [][]int32
	if !d.problem.Solid {
		held, level = d.pieces(held)
	}
	for i := range d.posed.Fields {
		field := &d.posed.Fields[i]
		if field.Even {
			break
		}
		if field.Level = level; len(held) > 0 {
			field.Held = []couple.Held{{Facets: held, Value: formula.Fixed(0), Least: law.NoBound, What: "magnetic potential"}}
		}
	}
}

// pieces parts what keeps the flux within a section into what is held at nothing and pieces that do not touch it: between these there
// may be flux, which comes in and leaves where it crosses and closes beyond, so that each has one potential that is not known. Round the
// axis that is of no flux, and a piece that is not everywhere as far from it is held, too, as one potential is not one flux there.
func (d *draft) pieces(facets []int32) (held []int32, level [][]int32) {
	parent := map[int32]int32{}
	var root func(v int32) int32
	root = func(v int32) int32 {
		if p, ok := parent[v]; ok && p != v {
			parent[v] = root(p)
			return parent[v]
		}
		return v
	}
	for _, k := range facets {
		corners := d.Mesh.Facets[k].Corners()
		for _, v := range corners[1:] {
			parent[root(v)] = root(corners[0])
		}
	}
	of, first := map[int32][]int32{}, []int32{}
	for _, k := range facets {
		r := root(d.Mesh.Facets[k].Corners()[0])
		if of[r] == nil {
			first = append(first, r)
		}
		of[r] = append(of[r], k)
	}
	axis := false
	for v := range d.Mesh.NodeCount() {
		axis = axis || d.problem.Round && d.Mesh.Nodes[3*v] <= nearAxis
	}
	for i, r := range first {
		lo, hi := math.Inf(1), 0.
		for _, k := range of[r] {
			for _, v := range d.Mesh.Facets[k].Corners() {
				x := d.Mesh.Nodes[3*v]
				lo, hi = min(lo, x), max(hi, x)
			}
		}
		switch {
		case i == 0 && !axis || d.problem.Round && lo <= nearAxis:
			held = append(held, of[r]...)
		case d.problem.Round && hi-lo > 1e-9*hi:
			held = append(held, of[r]...)
			d.Warn("a piece of what keeps the flux within is apart from the rest and not everywhere as far from the axis: no flux is taken to pass between it and the axis")
		default:
			level = append(level, of[r])
		}
	}
	return held, level
}

// nearAxis is how far from the axis something lies on it, m.
const nearAxis = 1e-12

// edge says that the field ends between two bodies, of which the second may be none.
func (d *draft) edge(body, other int32) bool {
	lives := d.posed.Fields[0].Bodies
	return lives[body] && (other < 0 || !lives[other]) || other >= 0 && lives[other] && !lives[body]
}

// onAxis says that a facet lies on the axis of an axial space, where nothing needs to hold.
func (d *draft) onAxis(k int32) bool {
	return d.problem.Round && !slices.ContainsFunc(d.Mesh.Facets[k].Corners(), func(v int32) bool { return d.Mesh.Nodes[3*v] > nearAxis })
}
