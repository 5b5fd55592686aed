package solve

import (
	"fmt"
	"math"
	"slices"

	"saltkettle/core/model"
)

// unbounded says of readings whose greatest value lies at an edge where what is read has no bound that they have none: it
// grows with every finer mesh. open are the edges at which it has none, by part.
func (r *run) unbounded(e *estimates, open map[*portion][]edge) {
	for p, edges := range open {
		for i := range r.result.Readings {
			q := &r.result.Readings[i]
			k := slices.IndexFunc(r.model.Readings, func(m model.ResolvedSentence) bool { return m.ID == q.Key })
			if q.At == nil || q.Missing != "" || k < 0 || model.Of(r.model.Readings[k].Kind) != p.Key || !r.model.Readings[k].Definition.Sloped {
				continue
			}
			for k := range edges {
				if !r.isAt(&edges[k], *q.At) {
					continue
				}
				where := r.edgeWords(&edges[k])
				e.lacks(q.Key, "it has no bound "+where)
				r.warn("%s has no bound %s: it grows as cells become smaller; round the corner, or read it elsewhere", q.Key, where)
				break
			}
		}
	}
}

// unboundedEdges are those at which what follows from the slopes of the field of a part has no bound, by part.
func (r *run) unboundedEdges() map[*portion][]edge {
	open := map[*portion][]edge{}
	for _, p := range r.posed.parts {
		if p.Unbounded != nil {
			clamped := r.posed.groups[p.group].Clamped(p.field)
			open[p] = r.edgesOf(p, clamped, func(e *edge) bool { return e.faces == 2 && p.Unbounded(e.angle, e.held) < 1 })
		}
	}
	return open
}

// isAt says that a place is as near to an edge as the cells there are long.
func (r *run) isAt(e *edge, x [3]float64) bool {
	a, b := r.mesh.At(e.nodes[0]), r.mesh.At(e.nodes[1])
	length := math.Sqrt(r.mesh.AreaOf(e.facets[0]))
	if r.model.Document.Space.Flat() {
		length = r.mesh.AreaOf(e.facets[0])
		x[2], a[2], b[2] = 0, 0, 0
	}
	var along, of [3]float64
	var size, dot float64
	for d := range 3 {
		along[d], of[d] = b[d]-a[d], x[d]-a[d]
		size += along[d] * along[d]
		dot += along[d] * of[d]
	}
	part := 0.0
	if size > 0 {
		part = min(1, max(0, dot/size))
	}
	square := 0.0
	for d := range 3 {
		rest := of[d] - part*along[d]
		square += rest * rest
	}
	return math.Sqrt(square) <= length
}

// grows says that values on meshes, the finest first, grow by about as much from each to the next finer one: they come to no
// end.
func grows(s []sample) bool {
	if len(s) < 3 {
		return false
	}
	last, before := s[0].value-s[1].value, s[1].value-s[2].value
	rises := last*before > 0 && math.Abs(s[0].value) > math.Abs(s[1].value)
	// By as much for each halving of the length of cells.
	last /= math.Log(s[1].length / s[0].length)
	before /= math.Log(s[2].length / s[1].length)
	return rises && math.Abs(last) > 0.8*math.Abs(before) && math.Abs(last) > 0.05*math.Abs(s[0].value)
}

// growsWords say so.
func growsWords(s []sample) string {
	return fmt.Sprintf("it grows with every finer mesh, by %.2g %% last: it may have no bound where it is read", 100*math.Abs(1-s[1].value/s[0].value))
}
