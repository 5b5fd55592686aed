package shape

import (
	"fmt"
	"math"
)

// cornerSide is the name of rounded and cut corners.
const cornerSide = "corner"

// Round returns the outline with all corners between straight edges rounded.
func (o Outline) Round(radius float64) (Outline, error) { return o.corners(radius, true) }

// Chamfer returns the outline with all corners between straight edges cut off at
// the given distance from the corner.
func (o Outline) Chamfer(length float64) (Outline, error) { return o.corners(length, false) }

func (o Outline) corners(size float64, round bool) (Outline, error) {
	if !(size >= 0) {
		return Outline{}, fmt.Errorf("corners cannot be cut by less than nothing")
	}
	out := Outline{Width: o.Width, Loops: make([]Loop, len(o.Loops))}
	for i, loop := range o.Loops {
		var err error
		if out.Loops[i], err = loop.cut(func(int) float64 { return size }, round); err != nil {
			return Outline{}, err
		}
	}
	return out, nil
}

// cut rounds the corners of a closed loop by a radius, or cuts them off at a
// length; corner i is where edge i begins.
func (l Loop) cut(size func(i int) float64, round bool) (Loop, error) {
	return l.trim(size, round, true)
}

// bend rounds the corners of an open chain.
func (l Loop) bend(size func(i int) float64) (Loop, error) { return l.trim(size, true, false) }

func (l Loop) trim(size func(i int) float64, round, closed bool) (Loop, error) {
	n := len(l)
	edges := append(Loop(nil), l...)
	corner := make([]Edge, n) // before edge i
	taken := make([]float64, n)
	for i := range n {
		s := size(i)
		if s == 0 || !closed && i == 0 {
			continue
		}
		if s < 0 {
			return nil, fmt.Errorf("corner %d cannot be cut by less than nothing", i+1)
		}
		j := (i + n - 1) % n
		a, b := l[j], l[i]
		if a.Arc || b.Arc || a.Via != nil || b.Via != nil {
			continue
		}
		la, lb := distance(a.From, a.To), distance(b.From, b.To)
		ux, uy, vx, vy := (a.To.X-a.From.X)/la, (a.To.Y-a.From.Y)/la, (b.To.X-b.From.X)/lb, (b.To.Y-b.From.Y)/lb
		turn := math.Atan2(ux*vy-uy*vx, ux*vx+uy*vy)
		if math.Abs(turn) < 1e-9 {
			continue
		}
		length := s
		if round {
			length = s * math.Abs(math.Tan(turn/2))
		}
		taken[j] += length
		taken[i] += length
		p := b.From
		from, to := Point{p.X - ux*length, p.Y - uy*length}, Point{p.X + vx*length, p.Y + vy*length}
		e := Edge{Name: cornerSide, From: from, To: to}
		if round {
			e.Arc, e.Right = true, turn < 0
			side := math.Copysign(s, turn)
			e.Centre = Point{from.X - uy*side, from.Y + ux*side}
		}
		corner[i] = e
		edges[j].To, edges[i].From = from, to
	}
	var out Loop
	for i, e := range edges {
		length := distance(l[i].From, l[i].To)
		if taken[i] > length*(1+1e-9) {
			return nil, fmt.Errorf("the corners do not fit: they need %.4g mm of an edge that is %.4g mm long", 1e3*taken[i], 1e3*length)
		}
		if corner[i].Name != "" {
			out = append(out, corner[i])
		}
		if taken[i] < length*(1-1e-9) {
			out = append(out, e)
		}
	}
	return out, nil
}

// Cut returns the outline with a hole. All edges of the hole are one side of the
// given name.
func (o Outline) Cut(hole Outline, name string) (Outline, error) {
	out := Outline{Width: o.Width, Loops: append([]Loop(nil), o.Loops...)}
	for _, loop := range hole.Loops {
		l := append(Loop(nil), loop...)
		l.reverse()
		for i := range l {
			l[i].Name = name
		}
		if p := l[0].From; !o.Contains(p) {
			return Outline{}, fmt.Errorf("%s does not lie inside the outline", name)
		}
		out.Loops = append(out.Loops, l)
	}
	return out, out.check()
}

// Contains says whether a place is inside the outline, by counting crossings of
// a ray along x.
func (o Outline) Contains(p Point) bool {
	in := false
	for _, loop := range o.Loops {
		for _, e := range loop {
			a := e.From
			for _, b := range e.Chords(0) {
				if (a.Y > p.Y) != (b.Y > p.Y) && p.X < a.X+(p.Y-a.Y)/(b.Y-a.Y)*(b.X-a.X) {
					in = !in
				}
				a = b
			}
		}
	}
	return in
}

// maxChecked bounds how many chords are compared with each other.
const maxChecked = 4000

// check finds edges that cross each other.
func (o Outline) check() error {
	type chord struct {
		a, b       Point
		name       string
		loop, next int // the chord that follows in the loop
	}
	var list []chord
	for k, loop := range o.Loops {
		first := len(list)
		for _, e := range loop {
			a := e.From
			for _, b := range e.Chords(0) {
				list = append(list, chord{a, b, e.Name, k, len(list) + 1})
				a = b
			}
		}
		list[len(list)-1].next = first
	}
	if len(list) > maxChecked {
		return nil // the mesher meets every crossing
	}
	side := func(a, b, c Point) float64 { return (b.X-a.X)*(c.Y-a.Y) - (b.Y-a.Y)*(c.X-a.X) }
	for i := range list {
		p := &list[i]
		for j := range i {
			q := &list[j]
			if p.next == j || q.next == i ||
				max(p.a.X, p.b.X) < min(q.a.X, q.b.X) || max(q.a.X, q.b.X) < min(p.a.X, p.b.X) ||
				max(p.a.Y, p.b.Y) < min(q.a.Y, q.b.Y) || max(q.a.Y, q.b.Y) < min(p.a.Y, p.b.Y) {
				continue
			}
			if side(p.a, p.b, q.a)*side(p.a, p.b, q.b) < 0 && side(q.a, q.b, p.a)*side(q.a, q.b, p.b) < 0 {
				if p.loop != q.loop {
					return fmt.Errorf("%s and %s cross each other", q.name, p.name)
				}
				return fmt.Errorf("the outline crosses itself, at %s and %s", q.name, p.name)
			}
		}
	}
	return nil
}
