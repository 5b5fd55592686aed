package flow

import (
	"math"

	"saltkettle/core/mesh"
	"saltkettle/core/spatial"
)

// walls are facets of them, by their corners, in which the nearest one is found.
type walls struct {
	corners [][][3]float64
	tree    *spatial.Tree
}

// nowhere is how far off walls are if there are none, m.
const nowhere = 1e9

func newWalls(m *mesh.Mesh, facets []int32) *walls {
	w := &walls{}
	var boxes []spatial.Box
	for _, f := range facets {
		var corners [][3]float64
		for _, v := range m.Facets[f].Corners() {
			corners = append(corners, m.At(v))
		}
		box := spatial.Box{Lo: corners[0], Hi: corners[0]}
		for _, x := range corners {
			for d := range 3 {
				box.Lo[d], box.Hi[d] = min(box.Lo[d], x[d]), max(box.Hi[d], x[d])
			}
		}
		w.corners, boxes = append(w.corners, corners), append(boxes, box)
	}
	w.tree = spatial.NewTree(boxes)
	return w
}

// away is how far the nearest wall is, m, and which that is, −1 for none.
func (w *walls) away(x [3]float64) (far float64, which int32) {
	square, which := w.tree.Nearest(x, func(i int32) float64 { return square(away(x, nearest(x, w.corners[i]))) })
	if which < 0 {
		return nowhere, which
	}
	return math.Sqrt(square), which
}

func square(a [3]float64) float64 { return dot(a, a) }

func away(a, b [3]float64) [3]float64 { return [3]float64{a[0] - b[0], a[1] - b[1], a[2] - b[2]} }

// above is the cosine of the angle between the normal of a facet and the way from its nearest place to another.
func above(x [3]float64, corners [][3]float64) float64 {
	way := away(x, nearest(x, corners))
	off := way
	if len(corners) == 2 { // what lies along it
		t := away(corners[1], corners[0])
		by := dot(off, t) / dot(t, t)
		for d := range off {
			off[d] -= by * t[d]
		}
	} else {
		n := normalTo(corners)
		by := dot(off, n) / dot(n, n)
		for d := range off {
			off[d] = by * n[d]
		}
	}
	return size(off) / size(way)
}

// normalTo is the normal of a flat facet in space, of any length.
func normalTo(corners [][3]float64) (n [3]float64) {
	a, b := away(corners[1], corners[0]), away(corners[len(corners)-1], corners[0])
	return [3]float64{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}

// nearest is the place on a facet, a line or a flat polygon, that is nearest to another.
func nearest(x [3]float64, corners [][3]float64) [3]float64 {
	if len(corners) == 2 {
		return onLine(x, corners[0], corners[1])
	}
	best, least := corners[0], math.Inf(1)
	for i := 2; i < len(corners); i++ {
		y := onTriangle(x, corners[0], corners[i-1], corners[i])
		if d := square(away(x, y)); d < least {
			best, least = y, d
		}
	}
	return best
}

func onLine(x, a, b [3]float64) [3]float64 {
	t := away(b, a)
	by := min(1, max(0, dot(away(x, a), t)/dot(t, t)))
	return [3]float64{a[0] + by*t[0], a[1] + by*t[1], a[2] + by*t[2]}
}

// onTriangle is in the plane of it, if that is within, or on an edge.
func onTriangle(x, a, b, c [3]float64) [3]float64 {
	n := normalTo([][3]float64{a, b, c})
	inside := true
	for _, e := range [3][2][3]float64{{a, b}, {b, c}, {c, a}} {
		t, r := away(e[1], e[0]), away(x, e[0])
		across := [3]float64{n[1]*t[2] - n[2]*t[1], n[2]*t[0] - n[0]*t[2], n[0]*t[1] - n[1]*t[0]}
		inside = inside && dot(across, r) >= 0
	}
	if inside {
		by := dot(away(x, a), n) / dot(n, n)
		return [3]float64{x[0] - by*n[0], x[1] - by*n[1], x[2] - by*n[2]}
	}
	best, least := a, math.Inf(1)
	for _, e := range [3][2][3]float64{{a, b}, {b, c}, {c, a}} {
		y := onLine(x, e[0], e[1])
		if d := square(away(x, y)); d < least {
			best, least = y, d
		}
	}
	return best
}
