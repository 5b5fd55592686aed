package solid

import (
	"cmp"
	"math"
	"slices"

	"saltkettle/core/shape"
	"saltkettle/core/trace"
)

// Layer is an extrusion: an outline with a span in z, m.
type Layer struct {
	trace.Outline
	Z0, Z1 float64
}

// Round says that an outline of the layer has arcs.
func (l Layer) Round() bool {
	bends := func(v trace.Vertex) bool { return v.Bend != 0 }
	return slices.ContainsFunc(l.Loop, bends) || slices.ContainsFunc(l.Holes, func(h []trace.Vertex) bool { return slices.ContainsFunc(h, bends) })
}

// upright is how far from level or upright the normal of a triangle of a stack may be.
const upright = 1e-6

// Stack returns the layers of a body whose surfaces are all level or upright; ok is false
// for another body.
func (b *Body) Stack() (layers []Layer, ok bool) {
	var heights []float64
	lo, hi := b.Box()
	size := math.Max(hi[0]-lo[0], math.Max(hi[1]-lo[1], hi[2]-lo[2]))
	tolerance := 1e-6 * size
	for _, t := range b.Triangles {
		n := b.normal(t)
		z := [3]float64{b.Points[t[0]][2], b.Points[t[1]][2], b.Points[t[2]][2]}
		level := max(z[0], z[1], z[2])-min(z[0], z[1], z[2]) <= tolerance
		if !level && math.Abs(n[2]) > upright {
			return nil, false
		}
		heights = append(heights, z[:]...)
	}
	slices.Sort(heights)
	levels := heights[:1:1]
	for _, z := range heights {
		if z-levels[len(levels)-1] > tolerance {
			levels = append(levels, z)
		}
	}
	for i := range levels[1:] {
		outlines := b.slice((levels[i]+levels[i+1])/2, tolerance)
		if outlines == nil {
			return nil, false
		}
		for _, o := range outlines {
			// The same outline as below is one layer with it.
			k := slices.IndexFunc(layers, func(l Layer) bool { return l.Z1 == levels[i] && same(l.Outline, o, 10*tolerance) })
			if k >= 0 {
				layers[k].Z1 = levels[i+1]
				continue
			}
			layers = append(layers, Layer{o, levels[i], levels[i+1]})
		}
	}
	return layers, len(layers) > 0
}

// normal of a triangle, of length 1.
func (b *Body) normal(t [3]int32) (n [3]float64) {
	p, q, r := b.Points[t[0]], b.Points[t[1]], b.Points[t[2]]
	var u, v [3]float64
	for k := range u {
		u[k], v[k] = q[k]-p[k], r[k]-p[k]
	}
	n = [3]float64{u[1]*v[2] - u[2]*v[1], u[2]*v[0] - u[0]*v[2], u[0]*v[1] - u[1]*v[0]}
	l := math.Sqrt(n[0]*n[0] + n[1]*n[1] + n[2]*n[2])
	for k := range n {
		n[k] /= l
	}
	return n
}

// slice returns the outlines of a body at a height at which no corner lies, nil if they
// do not close.
func (b *Body) slice(z, tolerance float64) []trace.Outline {
	next := map[[2]int64][2]shape.Point{}
	key := func(p shape.Point) [2]int64 {
		return [2]int64{int64(math.Round(p.X / tolerance)), int64(math.Round(p.Y / tolerance))}
	}
	for _, t := range b.Triangles {
		var cut []shape.Point
		for i := range t {
			p, q := b.Points[t[i]], b.Points[t[(i+1)%3]]
			if (p[2] > z) == (q[2] > z) {
				continue
			}
			f := (z - p[2]) / (q[2] - p[2])
			cut = append(cut, shape.Point{X: p[0] + f*(q[0]-p[0]), Y: p[1] + f*(q[1]-p[1])})
		}
		if len(cut) != 2 {
			continue
		}
		n := b.normal(t)
		// The body lies to the left of the way.
		if (cut[1].X-cut[0].X)*-n[1]+(cut[1].Y-cut[0].Y)*n[0] < 0 {
			cut[0], cut[1] = cut[1], cut[0]
		}
		if key(cut[0]) != key(cut[1]) {
			next[key(cut[0])] = [2]shape.Point{cut[0], cut[1]}
		}
	}
	var starts [][2]int64
	for k := range next {
		starts = append(starts, k)
	}
	slices.SortFunc(starts, func(a, b [2]int64) int { return cmp.Or(cmp.Compare(a[0], b[0]), cmp.Compare(a[1], b[1])) })
	var loops [][]shape.Point
	for _, start := range starts {
		var loop []shape.Point
		at := start
		for {
			s, ok := next[at]
			if !ok {
				break
			}
			delete(next, at)
			loop = append(loop, s[0])
			if at = key(s[1]); at == start {
				break
			}
		}
		if len(loop) == 0 {
			continue // it belongs to a loop that was walked
		}
		if at != start {
			return nil
		}
		if loop = corners(loop, 10*tolerance); len(loop) >= 3 {
			loops = append(loops, loop)
		}
	}
	return nested(loops)
}

// corners drops the points of a loop that lie on the line between their neighbours.
func corners(loop []shape.Point, tolerance float64) []shape.Point {
	var out []shape.Point
	n := len(loop)
	for i, p := range loop {
		a, b := loop[(i+n-1)%n], loop[(i+1)%n]
		if len(out) > 0 {
			a = out[len(out)-1]
		}
		dx, dy := b.X-a.X, b.Y-a.Y
		l := math.Hypot(dx, dy)
		if l > 0 && math.Abs((p.X-a.X)*dy-(p.Y-a.Y)*dx)/l <= tolerance && (p.X-a.X)*dx+(p.Y-a.Y)*dy >= 0 {
			continue
		}
		out = append(out, p)
	}
	return out
}

func area(loop []shape.Point) (sum float64) {
	for i, p := range loop {
		q := loop[(i+1)%len(loop)]
		sum += (p.X*q.Y - q.X*p.Y) / 2
	}
	return sum
}

// nested gives each loop that turns left the ones that turn right within it.
func nested(loops [][]shape.Point) []trace.Outline {
	var list []trace.Outline
	var outer [][]shape.Point
	slices.SortStableFunc(loops, func(a, b []shape.Point) int { return cmp.Compare(math.Abs(area(a)), math.Abs(area(b))) })
	for _, l := range loops {
		if area(l) > 0 {
			outer = append(outer, l)
			list = append(list, trace.Outline{Loop: vertices(l)})
		}
	}
	for _, l := range loops {
		if area(l) > 0 {
			continue
		}
		for i, o := range outer { // the smallest first
			if within(l[0], o) {
				list[i].Holes = append(list[i].Holes, vertices(l))
				break
			}
		}
	}
	return list
}

func within(p shape.Point, loop []shape.Point) bool {
	in := false
	for i, a := range loop {
		b := loop[(i+1)%len(loop)]
		if (a.Y > p.Y) != (b.Y > p.Y) && p.X < a.X+(p.Y-a.Y)/(b.Y-a.Y)*(b.X-a.X) {
			in = !in
		}
	}
	return in
}

// roundFrom is from how many corners on an outline on a circle is that circle.
const roundFrom = 12

// vertices makes the corners of a loop those of an outline: two half circles where all
// lie on one, and arcs where some do.
func vertices(loop []shape.Point) []trace.Vertex {
	if len(loop) >= roundFrom {
		var c shape.Point
		for _, p := range loop {
			c.X, c.Y = c.X+p.X/float64(len(loop)), c.Y+p.Y/float64(len(loop))
		}
		least, most, widest := math.Inf(1), 0.0, 0.0
		for i, p := range loop {
			r := math.Hypot(p.X-c.X, p.Y-c.Y)
			least, most = min(least, r), max(most, r)
			q := loop[(i+1)%len(loop)]
			widest = max(widest, math.Hypot(p.X-q.X, p.Y-q.Y))
		}
		if most-least < 1e-4*most && widest < 0.6*most {
			bend := math.Copysign(math.Pi, area(loop))
			r := (least + most) / 2
			return []trace.Vertex{{X: c.X - r, Y: c.Y, Bend: bend}, {X: c.X + r, Y: c.Y, Bend: bend}}
		}
	}
	return arcs(loop)
}

// same says whether two outlines have the same corners.
func same(a, b trace.Outline, tolerance float64) bool {
	loops := func(o trace.Outline) [][]trace.Vertex { return append([][]trace.Vertex{o.Loop}, o.Holes...) }
	la, lb := loops(a), loops(b)
	if len(la) != len(lb) {
		return false
	}
	for i := range la {
		if len(la[i]) != len(lb[i]) {
			return false
		}
		for _, v := range la[i] {
			if !slices.ContainsFunc(lb[i], func(w trace.Vertex) bool { return math.Hypot(v.X-w.X, v.Y-w.Y) <= tolerance }) {
				return false
			}
		}
	}
	return true
}
