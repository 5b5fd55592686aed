package model

import (
	"math"

	"saltkettle/core/mesh"
	"saltkettle/core/quantity"
	"saltkettle/core/shape"
)

// maxPairs bounds how many pairs of bodies are measured for their overlap at
// each check.
const maxPairs = 400

// Overlap is where two parts are at once: triangles in plan with a span.
type Overlap struct {
	// Place of the finding that asks about it.
	Place     string
	Under     int // parts
	Over      int
	Volume    float64 // m³
	Z0, Z1    float64
	Triangles [][3]shape.Point
}

// overlaps lists solved parts that overlap, as a question: the later part
// displaces the earlier one, which is meant for a fluid round a solid but
// perhaps not for two solids. Parts that are shown only displace nothing; where a
// solved one pierces them, it does not fit.
func (r *resolver) overlaps() {
	if !r.doc.Space.Flat() && r.doc.Space.Kind != Solid {
		return // what the outlines make is not known
	}
	type pair struct{ under, over int }
	volume := map[pair]float64{}
	var order []pair
	measured := 0
	boxes := r.out.boxes()
	for _, p := range r.out.meeting(0) {
		under, over := &r.out.Bodies[p[0]], &r.out.Bodies[p[1]]
		key := pair{under.Part, over.Part}
		if under.Line != nil || over.Line != nil || !r.mayOverlap(key.under, key.over) {
			continue
		}
		height := min(under.Z1, over.Z1) - max(under.Z0, over.Z0)
		if height <= 1e-9*(over.Z1-over.Z0) || !boxes[p[0]].shares(&boxes[p[1]]) {
			continue
		}
		if measured++; measured > maxPairs {
			return
		}
		triangles := common(under.Outline, over.Outline)
		// Less than a ten-millionth of the smaller body is round-off.
		if areaOf(triangles)*height <= 1e-7*min(under.Outline.Area()*(under.Z1-under.Z0), over.Outline.Area()*(over.Z1-over.Z0)) {
			continue
		}
		v := r.volumeOf(triangles, height)
		if _, ok := volume[key]; !ok {
			order = append(order, key)
		}
		volume[key] += v
		r.out.Overlaps = append(r.out.Overlaps, Overlap{Place: r.overlapPlace(key.under, key.over), Under: key.under, Over: key.over, Volume: v,
			Z0: max(under.Z0, over.Z0), Z1: min(under.Z1, over.Z1), Triangles: triangles})
	}
	for _, k := range order {
		under, over := r.out.Parts[k.under], r.out.Parts[k.over]
		place := r.overlapPlace(k.under, k.over)
		switch {
		case k.under == k.over:
			r.find(Doubtful, place, "make the pitch larger", "the copies of the %s overlap each other by %s", under.Name, volumeWords(volume[k]))
		case under.Role == Solved && over.Role == Solved:
			r.find(Doubtful, place, "move one of them if that is not meant", "the %s overlaps the %s by %s and displaces it", over.Name, under.Name, volumeWords(volume[k]))
		default:
			shown, solved := under, over
			if over.Role == Shown {
				shown, solved = over, under
			}
			r.find(Doubtful, place, "move one of them", "the %s does not fit: it pierces the %s, which is shown only, by %s", solved.Name, shown.Name, volumeWords(volume[k]))
		}
	}
}

// volumeOf is the volume over triangles in plan: of a height in a solid space, of the depth
// in a plane one, and of what they sweep round the axis in an axial one.
func (r *resolver) volumeOf(triangles [][3]shape.Point, height float64) (sum float64) {
	switch r.doc.Space.Kind {
	case Plane:
		return areaOf(triangles) * r.out.Depth
	case Axial:
		for _, t := range triangles {
			// Pappus: the area times the way of its centroid.
			sum += areaOf([][3]shape.Point{t}) * 2 * math.Pi * (t[0].X + t[1].X + t[2].X) / 3
		}
		return sum
	}
	return areaOf(triangles) * height
}

// overlapPlace is the place of the finding about two parts.
func (r *resolver) overlapPlace(under, over int) string {
	if under == over {
		return "parts/" + r.out.Parts[under].ID + "/array/pitch"
	}
	if r.doc.Space.Flat() {
		return "parts/" + r.out.Parts[over].ID + "/place/x"
	}
	return "parts/" + r.out.Parts[over].ID + "/span/from"
}

func volumeWords(v float64) string { return quantity.Show(v, "mm³", false, 3) }

// mayOverlap says whether an overlap of two parts would be worth a question.
func (r *resolver) mayOverlap(under, over int) bool {
	u, o := &r.out.Parts[under], &r.out.Parts[over]
	fluid := func(p *ResolvedPart) bool {
		return p.fluid() || p.Fill != nil || p.isAround()
	}
	if u.Role == Solved && o.Role == Solved {
		return !fluid(u) && o.Fill == nil
	}
	// Two that are shown only are not looked at.
	return u.Role != o.Role && u.Role != Off && o.Role != Off && !fluid(u) && !fluid(o)
}

// shares says that two boxes have more than an edge in common in plan.
func (a *box) shares(b *box) bool {
	return a.lo[0] < b.hi[0] && b.lo[0] < a.hi[0] && a.lo[1] < b.hi[1] && b.lo[1] < a.hi[1]
}

// common is what two outlines share, from a coarse mesh of both.
func common(a, b shape.Outline) (list [][3]shape.Point) {
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
		return nil
	}
	for i, t := range plan.Triangles {
		if len(plan.Members[plan.Region[i]]) < 2 {
			continue
		}
		p, q, s := plan.Points[t[0]], plan.Points[t[1]], plan.Points[t[2]]
		list = append(list, [3]shape.Point{shape.Point(p), shape.Point(q), shape.Point(s)})
	}
	return list
}

func areaOf(list [][3]shape.Point) (sum float64) {
	for _, t := range list {
		p, q, s := t[0], t[1], t[2]
		sum += ((q.X-p.X)*(s.Y-p.Y) - (q.Y-p.Y)*(s.X-p.X)) / 2
	}
	return sum
}
