package solid

import (
	"math"

	"saltkettle/core/shape"
	"saltkettle/core/trace"
)

// What edges of a loop have to be like to be the chords of an arc: all as long and turned
// as far from one to the next, at least so many, and none turned further than a polygon
// would be that is meant as one.
const (
	alike     = 5e-3
	leastEdge = 4
	mostTurn  = 25 * math.Pi / 180
	leastTurn = 0.2 * math.Pi / 180
)

// arcs makes the corners of a loop those of an outline, with an arc in the place of edges
// that are the chords of one.
func arcs(loop []shape.Point) []trace.Vertex {
	n := len(loop)
	length, turn := make([]float64, n), make([]float64, n) // of the edge from a corner, and at it
	for i, p := range loop {
		q := loop[(i+1)%n]
		length[i] = math.Hypot(q.X-p.X, q.Y-p.Y)
	}
	for i, p := range loop {
		o, q := loop[(i+n-1)%n], loop[(i+1)%n]
		ux, uy, vx, vy := p.X-o.X, p.Y-o.Y, q.X-p.X, q.Y-p.Y
		turn[i] = math.Atan2(ux*vy-uy*vx, ux*vx+uy*vy)
	}
	// A corner within an arc, and two that are within the same one.
	within := func(i int) bool {
		a, b := length[(i+n-1)%n], length[i]
		t := math.Abs(turn[i])
		return math.Abs(a-b) <= alike*max(a, b) && t >= leastTurn && t <= mostTurn
	}
	together := func(i, k int) bool {
		return within(i) && within(k) && math.Abs(turn[i]-turn[k]) <= alike*math.Abs(turn[i])
	}
	// Begin at a corner that is within no arc, or where one ends.
	start := 0
	for start < n && within(start) && together((start+n-1)%n, start) {
		start++
	}
	var out []trace.Vertex
	for at := 0; at < n; {
		i := (start + at) % n
		v := trace.Vertex{X: loop[i].X, Y: loop[i].Y}
		// Edges from here on whose corners between are within one arc.
		edges := 1
		for at+edges < n && within((i+edges)%n) && (edges == 1 || together((i+1)%n, (i+edges)%n)) {
			edges++
		}
		if edges < leastEdge {
			out = append(out, v)
			at++
			continue
		}
		// Arcs of more than half a turn are two.
		sum := 0.0
		for k := 1; k < edges; k++ {
			sum += turn[(i+k)%n]
		}
		each := sum / float64(edges-1)
		if half := edges / 2; math.Abs(each)*float64(edges) > math.Pi {
			v.Bend = each * float64(half)
			mid := loop[(i+half)%n]
			out = append(out, v, trace.Vertex{X: mid.X, Y: mid.Y, Bend: each * float64(edges-half)})
		} else {
			v.Bend = each * float64(edges)
			out = append(out, v)
		}
		at += edges
	}
	return out
}
