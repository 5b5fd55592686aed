package model

import (
	"saltkettle/core/mesh"
	"saltkettle/core/quantity"
	"saltkettle/core/shape"
)

// maxPairs bounds how many pairs of bodies are measured for their overlap at
// each check.
const maxPairs = 400

// overlaps lists solved parts that overlap, as a question: the later part
// displaces the earlier one, which is meant for a fluid round a solid but
// perhaps not for two solids.
func (r *resolver) overlaps() {
	type pair struct{ under, over int }
	volume := map[pair]float64{}
	var order []pair
	measured := 0
	for j := range r.out.Bodies {
		over := &r.out.Bodies[j]
		for i := range j {
			under := &r.out.Bodies[i]
			key := pair{under.Part, over.Part}
			if !r.mayOverlap(key.under, key.over) {
				continue
			}
			height := min(under.Z1, over.Z1) - max(under.Z0, over.Z0)
			if height <= 1e-9*(over.Z1-over.Z0) || !boxesMeet(under.Outline, over.Outline) {
				continue
			}
			if measured++; measured > maxPairs {
				return
			}
			v := commonArea(under.Outline, over.Outline) * height
			// Less than a ten-millionth of the smaller body is round-off.
			if v <= 1e-7*min(under.Outline.Area()*(under.Z1-under.Z0), over.Outline.Area()*(over.Z1-over.Z0)) {
				continue
			}
			if _, ok := volume[key]; !ok {
				order = append(order, key)
			}
			volume[key] += v
		}
	}
	for _, k := range order {
		under, over := r.out.Parts[k.under], r.out.Parts[k.over]
		if k.under == k.over {
			r.find(Doubtful, "parts/"+under.ID+"/array/pitch", "make the pitch larger", "the copies of the %s overlap each other by %s", under.Name, volumeWords(volume[k]))
			continue
		}
		r.find(Doubtful, "parts/"+over.ID+"/span/from", "move one of them if that is not meant", "the %s overlaps the %s by %s and displaces it", over.Name, under.Name, volumeWords(volume[k]))
	}
}

func volumeWords(v float64) string { return quantity.Show(v, "mm³", false, 3) }

// mayOverlap says whether an overlap of two parts would be worth a question.
func (r *resolver) mayOverlap(under, over int) bool {
	u, o := &r.out.Parts[under], &r.out.Parts[over]
	fluid := u.Material.Family == "gas" || u.Material.Family == "liquid"
	return u.Role == Solved && o.Role == Solved && !fluid
}

func boxesMeet(a, b shape.Outline) bool {
	alo, ahi := a.Box()
	blo, bhi := b.Box()
	return alo.X < bhi.X && blo.X < ahi.X && alo.Y < bhi.Y && blo.Y < ahi.Y
}

// commonArea is the area that two outlines share, from a coarse mesh of both.
func commonArea(a, b shape.Outline) float64 {
	var segments []mesh.Segment
	extent := 0.0
	for k, o := range []shape.Outline{a, b} {
		lo, hi := o.Box()
		extent = max(extent, hi.X-lo.X, hi.Y-lo.Y)
		for _, loop := range o.Loops {
			for _, e := range loop {
				from := e.From
				for _, to := range e.Chords(0) {
					segments = append(segments, mesh.Segment{A: mesh.Point(from), B: mesh.Point(to), Tag: mesh.Tag{Body: int32(k)}})
					from = to
				}
			}
		}
	}
	plan, err := mesh.NewPlan(segments, &mesh.PlanSettings{Sizes: []float64{4 * extent, 4 * extent}, MaxTriangles: 20000})
	if err != nil {
		return 0
	}
	var area float64
	for i, t := range plan.Triangles {
		if len(plan.Members[plan.Region[i]]) < 2 {
			continue
		}
		p, q, s := plan.Points[t[0]], plan.Points[t[1]], plan.Points[t[2]]
		area += ((q.X-p.X)*(s.Y-p.Y) - (q.Y-p.Y)*(s.X-p.X)) / 2
	}
	return area
}
