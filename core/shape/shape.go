// Package shape describes the outlines of parts in the plan plane and the
// bodies made of them.
//
// An outline is a set of closed loops of named edges: straight lines and arcs.
// The names survive every change of dimensions, so that a condition on "the
// left side" stays where it belongs. A body is an outline with a span in z; an
// array gives several bodies of one part. Lengths are metres, angles radians.
package shape

import (
	"fmt"
	"math"
	"slices"
)

// Point is a place in the plan.
type Point struct{ X, Y float64 }

// Names of the sides of a body that its outline does not name.
const (
	Top    = "top"
	Bottom = "bottom"
)

// Edge is a named piece of an outline: a line, an arc around its centre, or a
// curve through points.
type Edge struct {
	Name     string
	From, To Point
	Arc      bool
	Centre   Point
	Right    bool // the arc turns right instead of left
	// Via are the points of a curve behind From, To included; the pieces between
	// them are straight.
	Via []Point
}

// Loop is a closed sequence of edges with the inside on their left.
type Loop []Edge

// Outline is the shape of a part in plan, about its own origin.
type Outline struct {
	Loops []Loop
	// Width is the least thickness of the outline, on which a wanted number of
	// cells across is based.
	Width float64
}

// Rectangle returns the outline of a box in plan, centred on the origin. Its
// edges are front (least y), right (greatest x), back and left.
func Rectangle(width, depth float64) (Outline, error) {
	if !(width > 0) || !(depth > 0) {
		return Outline{}, fmt.Errorf("a rectangle needs a width and a depth greater than zero")
	}
	a, b := width/2, depth/2
	p := [4]Point{{-a, -b}, {a, -b}, {a, b}, {-a, b}}
	names := [4]string{"front", "right", "back", "left"}
	loop := make(Loop, 4)
	for i := range loop {
		loop[i] = Edge{Name: names[i], From: p[i], To: p[(i+1)%4]}
	}
	return Outline{Loops: []Loop{loop}, Width: min(width, depth)}, nil
}

// Disc returns the outline of a cylinder in plan, centred on the origin. Its one
// side is the rim.
func Disc(diameter float64) (Outline, error) {
	if !(diameter > 0) {
		return Outline{}, fmt.Errorf("a disc needs a diameter greater than zero")
	}
	return Outline{Loops: []Loop{circle("rim", diameter/2, false)}, Width: diameter}, nil
}

// Move returns the outline turned left by angle about its origin and then
// shifted.
func (o Outline) Move(dx, dy, angle float64) Outline {
	sin, cos := math.Sincos(angle)
	if angle == 0 {
		sin, cos = 0, 1
	}
	return o.mapped(func(p Point) Point { return Point{p.X*cos - p.Y*sin + dx, p.X*sin + p.Y*cos + dy} })
}

// mapped returns the outline with all its points moved.
func (o Outline) mapped(place func(Point) Point) Outline {
	moved := Outline{Width: o.Width, Loops: make([]Loop, len(o.Loops))}
	for i, loop := range o.Loops {
		moved.Loops[i] = make(Loop, len(loop))
		for k, e := range loop {
			e.From, e.To, e.Centre = place(e.From), place(e.To), place(e.Centre)
			if e.Via != nil {
				via := make([]Point, len(e.Via))
				for j, p := range e.Via {
					via[j] = place(p)
				}
				e.Via = via
			}
			moved.Loops[i][k] = e
		}
	}
	return moved
}

// Mirror returns the outline reflected in the y axis: what was right is left,
// and keeps its name.
func (o Outline) Mirror() Outline {
	m := o.mapped(func(p Point) Point { return Point{-p.X, p.Y} })
	for _, loop := range m.Loops {
		loop.reverse()
		// The reflection has turned every arc over, and so has the reversal.
		for i := range loop {
			if loop[i].Arc {
				loop[i].Right = !loop[i].Right
			}
		}
	}
	return m
}

// reverse runs through a loop the other way round.
func (l Loop) reverse() {
	slices.Reverse(l)
	for i := range l {
		e := &l[i]
		if e.Via != nil {
			via := append([]Point{e.From}, e.Via[:len(e.Via)-1]...)
			slices.Reverse(via)
			e.Via = via
		}
		e.From, e.To = e.To, e.From
		if e.Arc {
			e.Right = !e.Right
		}
	}
}

// Body is one copy of a part.
type Body struct {
	Part, Copy int // numbers from zero
	Outline    Outline
	Z0, Z1     float64 // bottom and top
	// Solid is the surface of a body that is no extrusion; Outline is then the box around
	// it. It may be nil.
	Solid *Surface
	// Line is that of a body that is one; Solid is then what is drawn for it, with Nearest the point of the line at which each of its triangles
	// is, −1 for none, and Outline the box around it. It may be nil.
	Line    *Line
	Nearest []int
}

// Sides lists the names of the edges, each once.
func (o Outline) Sides() []string {
	var names []string
	seen := map[string]bool{}
	for _, loop := range o.Loops {
		for _, e := range loop {
			if !seen[e.Name] {
				seen[e.Name] = true
				names = append(names, e.Name)
			}
		}
	}
	return names
}

// arcStep is the largest angle that one chord of an arc spans: the area of a
// disc is met to 0.13 %.
const arcStep = 2 * math.Pi / 72

// sweep is the angle from which an arc begins and how far it turns, negative to
// the right.
func (e *Edge) sweep() (from, angle float64) {
	from = math.Atan2(e.From.Y-e.Centre.Y, e.From.X-e.Centre.X)
	to := math.Atan2(e.To.Y-e.Centre.Y, e.To.X-e.Centre.X)
	angle = to - from
	switch {
	case !e.Right && angle <= 0:
		angle += 2 * math.Pi
	case e.Right && angle >= 0:
		angle -= 2 * math.Pi
	}
	return from, angle
}

func (e *Edge) radius() float64 { return math.Hypot(e.From.X-e.Centre.X, e.From.Y-e.Centre.Y) }

// Chords cuts an edge into straight pieces: an arc into chords no longer than
// step and no wider than five degrees, a curve into its pieces, a line into one.
// The first point is left out, the last is To.
func (e Edge) Chords(step float64) []Point {
	if e.Via != nil {
		return e.Via
	}
	if !e.Arc {
		return []Point{e.To}
	}
	r := e.radius()
	a0, angle := e.sweep()
	n := max(int(math.Ceil(math.Abs(angle)/arcStep*(1-1e-9))), 1)
	if step > 0 {
		n = max(n, int(math.Ceil(r*math.Abs(angle)/step*(1-1e-9))))
	}
	points := make([]Point, n)
	for i := range points {
		sin, cos := math.Sincos(a0 + angle*float64(i+1)/float64(n))
		points[i] = Point{e.Centre.X + r*cos, e.Centre.Y + r*sin}
	}
	points[n-1] = e.To
	return points
}

// Box returns the corners of the box around the outline.
func (o Outline) Box() (lo, hi Point) {
	lo, hi = Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
	for _, loop := range o.Loops {
		for _, e := range loop {
			for _, p := range e.Chords(0) {
				lo = Point{min(lo.X, p.X), min(lo.Y, p.Y)}
				hi = Point{max(hi.X, p.X), max(hi.Y, p.Y)}
			}
		}
	}
	return lo, hi
}

// Area of the outline, exact for its lines and arcs, m².
func (o Outline) Area() float64 {
	var sum float64
	for _, loop := range o.Loops {
		sum += loop.area()
	}
	return sum
}

// MomentX is the integral of x over the outline, m³. Arcs are taken as chords of a
// five-hundredth of its width.
func (o Outline) MomentX() float64 {
	var sum float64
	for _, loop := range o.Loops {
		for _, e := range loop {
			from := e.From
			for _, to := range e.Chords(o.Width / 500) {
				sum += (from.X*to.Y - to.X*from.Y) * (from.X + to.X) / 6
				from = to
			}
		}
	}
	return sum
}

// area is positive for a loop that turns left.
func (l Loop) area() float64 {
	var sum float64
	for _, e := range l {
		from := e.From
		for _, to := range e.Via {
			sum += (from.X*to.Y - to.X*from.Y) / 2
			from = to
		}
		if e.Via != nil {
			continue
		}
		sum += (e.From.X*e.To.Y - e.To.X*e.From.Y) / 2
		if e.Arc {
			_, a := e.sweep()
			r := e.radius()
			sum += r * r / 2 * (a - math.Sin(a))
		}
	}
	return sum
}

// perimeter is the length of all edges, m.
func (o Outline) perimeter() float64 {
	var sum float64
	for _, loop := range o.Loops {
		for _, e := range loop {
			from := e.From
			for _, to := range e.Chords(0) {
				sum += distance(from, to)
				from = to
			}
		}
	}
	return sum
}

func distance(a, b Point) float64 { return math.Hypot(b.X-a.X, b.Y-a.Y) }

// Circle returns the centre and the radius of a loop that is a whole circle.
func (l Loop) Circle() (centre Point, radius float64, ok bool) {
	if len(l) == 0 {
		return centre, 0, false
	}
	for i := range l {
		if e := &l[i]; !e.Arc || distance(e.Centre, l[0].Centre) > 1e-9*e.radius() {
			return centre, 0, false
		}
	}
	return l[0].Centre, l[0].radius(), true
}
