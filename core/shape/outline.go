package shape

import (
	"fmt"
	"math"
	"slices"
)

// arc returns an arc edge around the origin between two angles, to the left, or
// to the right if to is less than from.
func arc(name string, r, from, to float64) Edge {
	at := func(a float64) Point {
		sin, cos := math.Sincos(a)
		return Point{r * cos, r * sin}
	}
	return Edge{Name: name, From: at(from), To: at(to), Arc: true, Right: to < from}
}

// circle returns a full circle of four arcs.
func circle(name string, r float64, right bool) Loop {
	p := [4]Point{{r, 0}, {0, r}, {-r, 0}, {0, -r}}
	loop := make(Loop, 4)
	for i := range loop {
		loop[i] = Edge{Name: name, From: p[i], To: p[(i+1)%4], Arc: true}
	}
	if right {
		loop.reverse()
	}
	return loop
}

// Ring returns the outline between two circles round the origin, with the sides
// rim and bore.
func Ring(outer, inner float64) (Outline, error) {
	if !(inner > 0) || !(outer > inner) {
		return Outline{}, fmt.Errorf("a ring needs an outer diameter greater than its inner one, and both greater than zero")
	}
	return Outline{Loops: []Loop{circle("rim", outer/2, false), circle("bore", inner/2, true)}, Width: (outer - inner) / 2}, nil
}

// Sector returns a piece of a ring, or of a disc if inner is zero, from the x
// axis to the left by an angle. Its sides are start, rim, end and bore.
func Sector(outer, inner, angle float64) (Outline, error) {
	if !(inner >= 0) || !(outer > inner) {
		return Outline{}, fmt.Errorf("a sector needs an outer diameter greater than its inner one, which may be zero")
	}
	if !(angle > 0) || !(angle < 2*math.Pi) {
		return Outline{}, fmt.Errorf("a sector needs an angle between 0 and 360 degrees")
	}
	a, b := inner/2, outer/2
	rim := arc("rim", b, 0, angle)
	start := Edge{Name: "start", From: Point{a, 0}, To: rim.From}
	end := Edge{Name: "end", From: rim.To}
	if a == 0 {
		return Outline{Loops: []Loop{{start, rim, end}}, Width: b * math.Min(1, angle)}, nil
	}
	bore := arc("bore", a, angle, 0)
	bore.To = start.From
	end.To = bore.From
	return Outline{Loops: []Loop{{start, rim, end, bore}}, Width: min(b-a, (a+b)/2*angle)}, nil
}

// Slot returns a rectangle with half circles for its left and right ends, all in
// all as wide as width; the sides are those of a rectangle.
func Slot(width, depth float64) (Outline, error) {
	if !(depth > 0) || !(width > depth) {
		return Outline{}, fmt.Errorf("a slot needs a width greater than its depth, and both greater than zero")
	}
	r, c := depth/2, width/2-depth/2
	p := [4]Point{{-c, -r}, {c, -r}, {c, r}, {-c, r}}
	return Outline{Width: depth, Loops: []Loop{{
		{Name: "front", From: p[0], To: p[1]}, {Name: "right", From: p[1], To: p[2], Arc: true, Centre: Point{c, 0}},
		{Name: "back", From: p[2], To: p[3]}, {Name: "left", From: p[3], To: p[0], Arc: true, Centre: Point{-c, 0}}}}}, nil
}

// Polygon returns a regular polygon with the given distance across flats, or
// twice the distance of a flat from the middle. Its sides are e1, e2 and so on
// to the left, e1 at the greatest x.
func Polygon(sides int, across float64) (Outline, error) {
	if sides < 3 || sides > 200 {
		return Outline{}, fmt.Errorf("a polygon has 3 to 200 sides, not %d", sides)
	}
	if !(across > 0) {
		return Outline{}, fmt.Errorf("a polygon needs a width greater than zero")
	}
	half := math.Pi / float64(sides)
	r := across / 2 / math.Cos(half)
	points := make([]Vertex, sides)
	for i := range points {
		sin, cos := math.Sincos(half * (2*float64(i) - 1))
		points[i] = Vertex{Point: Point{r * cos, r * sin}}
	}
	o, err := Path(points, false)
	o.Width = across
	return o, err
}

// Vertex is a corner of a path, rounded by a radius if that is not zero. The
// edge to the next one is an arc that turns left by Bend (rad), or right if that
// is negative.
type Vertex struct {
	Point
	Round, Bend float64
	Name        string // of the edge to the next one; empty means by its number
}

// bent makes an edge an arc that turns by an angle from its beginning to its end.
func (e Edge) bent(angle float64) (Edge, error) {
	if angle == 0 {
		return e, nil
	}
	if math.Abs(angle) > 1.99*math.Pi {
		return e, fmt.Errorf("%s cannot bend by %.4g degrees; an arc turns by less than 358", e.Name, angle*180/math.Pi)
	}
	// The centre lies to the left of the chord for arcs that turn left.
	c := math.Tan(math.Pi/2-angle/2) / 2
	e.Arc, e.Right = true, angle < 0
	e.Centre = Point{(e.From.X+e.To.X)/2 - (e.To.Y-e.From.Y)*c, (e.From.Y+e.To.Y)/2 + (e.To.X-e.From.X)*c}
	return e, nil
}

// Path returns the outline through points, e1 from the first to the second and
// so on; the last edge closes it. Rounded corners are the side corner. A smooth
// path is a closed curve through the points instead (a cubic spline by chord
// length after E. Catmull, R. Rom, 1974).
func Path(points []Vertex, smooth bool) (Outline, error) {
	n := len(points)
	bends := slices.ContainsFunc(points, func(v Vertex) bool { return v.Bend != 0 })
	if n < 3 && !(n == 2 && bends && !smooth) {
		return Outline{}, fmt.Errorf("a path needs three points or more, or two with an arc between them")
	}
	loop := make(Loop, n)
	for i := range points {
		a, b := points[i].Point, points[(i+1)%n].Point
		if a == b {
			return Outline{}, fmt.Errorf("points %d and %d of the path are the same", i+1, (i+1)%n+1)
		}
		name := points[i].Name
		if name == "" {
			name = fmt.Sprintf("e%d", i+1)
		}
		loop[i] = Edge{Name: name, From: a, To: b}
		var err error
		if loop[i], err = loop[i].bent(points[i].Bend); err != nil {
			return Outline{}, err
		}
		if smooth {
			loop[i].Arc = false
			loop[i].Via = spline(points[(i+n-1)%n].Point, a, b, points[(i+2)%n].Point)
		}
	}
	left := loop.area() > 0
	for i := range points {
		if points[i].Round != 0 && !smooth && (loop[i].Arc || loop[(i+n-1)%n].Arc) {
			return Outline{}, fmt.Errorf("point %d lies at an arc, and only corners between straight edges can be rounded", i+1)
		}
	}
	if !smooth {
		var err error
		if loop, err = loop.cut(func(i int) float64 { return points[i].Round }, true); err != nil {
			return Outline{}, err
		}
	}
	if !left {
		loop.reverse()
	}
	o := Outline{Loops: []Loop{loop}}
	if err := o.check(); err != nil {
		return Outline{}, err
	}
	o.Width = min(2*o.Area()/o.perimeter()*1.5, distanceAcross(o))
	return o, nil
}

// distanceAcross is the lesser extent of the box around an outline.
func distanceAcross(o Outline) float64 {
	lo, hi := o.Box()
	return min(hi.X-lo.X, hi.Y-lo.Y)
}

// splinePieces is into how many straight pieces a span of a curve is cut.
const splinePieces = 16

// spline returns the points of the span from b to c behind b.
func spline(a, b, c, d Point) []Point {
	// Centripetal parameters keep the curve from overshooting.
	t1 := math.Sqrt(distance(a, b))
	t2 := t1 + math.Sqrt(distance(b, c))
	t3 := t2 + math.Sqrt(distance(c, d))
	mix := func(p, q Point, from, to, t float64) Point {
		if to == from {
			return p
		}
		u := (t - from) / (to - from)
		return Point{p.X + u*(q.X-p.X), p.Y + u*(q.Y-p.Y)}
	}
	points := make([]Point, splinePieces)
	for i := range points {
		t := t1 + (t2-t1)*float64(i+1)/splinePieces
		p1, p2, p3 := mix(a, b, 0, t1, t), mix(b, c, t1, t2, t), mix(c, d, t2, t3, t)
		points[i] = mix(mix(p1, p2, 0, t2, t), mix(p2, p3, t1, t3, t), t1, t2, t)
	}
	points[splinePieces-1] = c
	return points
}

// Strip returns a band of the given width along an open path, whose corners may
// be rounded. Its sides are left and right of the way, start and end.
func Strip(points []Vertex, width float64) (Outline, error) {
	n := len(points)
	if n < 2 {
		return Outline{}, fmt.Errorf("a strip needs two points or more")
	}
	if !(width > 0) {
		return Outline{}, fmt.Errorf("a strip needs a width greater than zero")
	}
	middle := make(Loop, n-1)
	for i := range middle {
		if points[i].Point == points[i+1].Point {
			return Outline{}, fmt.Errorf("points %d and %d of the strip are the same", i+1, i+2)
		}
		var err error
		if middle[i], err = (Edge{Name: "the strip", From: points[i].Point, To: points[i+1].Point}).bent(points[i].Bend); err != nil {
			return Outline{}, err
		}
	}
	middle, err := middle.bend(func(i int) float64 { return points[i].Round })
	if err != nil {
		return Outline{}, err
	}
	right, err := middle.offset(-width/2, "right")
	if err != nil {
		return Outline{}, err
	}
	left, err := middle.offset(width/2, "left")
	if err != nil {
		return Outline{}, err
	}
	left.reverse()
	loop := append(right, Edge{Name: "end", From: right[len(right)-1].To, To: left[0].From})
	loop = append(loop, left...)
	loop = append(loop, Edge{Name: "start", From: loop[len(loop)-1].To, To: loop[0].From})
	o := Outline{Loops: []Loop{loop}, Width: width}
	return o, o.check()
}

// offset shifts an open chain of lines and arcs to its left. Lines that meet at
// a corner are extended to where they cross.
func (l Loop) offset(by float64, name string) (Loop, error) {
	out := make(Loop, len(l))
	for i, e := range l {
		e.Name = name
		if e.Arc {
			r := e.radius()
			grown := r - by
			if e.Right {
				grown = r + by
			}
			if !(grown > 1e-9*r) {
				return nil, fmt.Errorf("a bend of radius %.4g mm is too tight for the width of the strip", 1e3*r)
			}
			scale := func(p Point) Point {
				return Point{e.Centre.X + (p.X-e.Centre.X)*grown/r, e.Centre.Y + (p.Y-e.Centre.Y)*grown/r}
			}
			e.From, e.To = scale(e.From), scale(e.To)
		} else {
			d := distance(e.From, e.To)
			dx, dy := -(e.To.Y-e.From.Y)/d*by, (e.To.X-e.From.X)/d*by
			e.From, e.To = Point{e.From.X + dx, e.From.Y + dy}, Point{e.To.X + dx, e.To.Y + dy}
		}
		out[i] = e
	}
	for i := 1; i < len(out); i++ {
		a, b := &out[i-1], &out[i]
		if a.Arc || b.Arc {
			b.From = a.To // tangent: the same but for round-off
			continue
		}
		ux, uy, vx, vy := a.To.X-a.From.X, a.To.Y-a.From.Y, b.To.X-b.From.X, b.To.Y-b.From.Y
		det := ux*vy - uy*vx
		if math.Abs(det) <= 1e-12*math.Hypot(ux, uy)*math.Hypot(vx, vy) {
			if ux*vx+uy*vy < 0 {
				return nil, fmt.Errorf("the strip turns back on itself at point %d", i+1)
			}
			b.From = a.To
			continue
		}
		t := ((b.From.X-a.From.X)*vy - (b.From.Y-a.From.Y)*vx) / det
		p := Point{a.From.X + t*ux, a.From.Y + t*uy}
		a.To, b.From = p, p
	}
	return out, nil
}
