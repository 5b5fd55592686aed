// Package trace reads outlines from drawings in open formats: DXF, SVG and CSV
// points. Whatever the format, lines and arcs are joined where they meet, closed
// loops become outlines, loops inside them their holes, and what could not be
// used is said.
package trace

import (
	"fmt"
	"math"
	"path"
	"slices"
	"strings"
)

// Vertex is a corner of a loop. The edge to the next one is an arc that turns
// left by Bend (rad), or right if that is negative, or a line if it is zero.
type Vertex struct{ X, Y, Bend float64 }

// Outline is a closed loop with the loops that are cut out of it. Lengths are m.
type Outline struct {
	Name  string
	Loop  []Vertex
	Holes [][]Vertex
}

// Drawing is what was read.
type Drawing struct {
	Outlines []Outline
	// Unit is the one that the file states, "" if it states none.
	Unit string
	// Report says what was repaired or left out.
	Report []string
}

// segment is a line or an arc between two points, in units of the file.
type segment struct {
	a, b  point
	bend  float64
	layer string
}

type point struct{ x, y float64 }

func (p point) to(q point) float64 { return math.Hypot(q.x-p.x, q.y-p.y) }

// Limits that keep a file from filling the memory.
const (
	maxSegments = 50_000
	maxBytes    = 20 << 20
	maxLoops    = 1000
)

// lengths of units in metres.
var lengths = map[string]float64{"mm": 1e-3, "cm": 1e-2, "m": 1, "µm": 1e-6, "in": 0.0254}

// Read reads a drawing; the kind is told by the end of its name. unit is that of
// its numbers: mm, cm, m, µm or in. If it is empty, the one that the file states
// is taken, or else mm.
func Read(name string, data []byte, unit string) (*Drawing, error) {
	if len(data) > maxBytes {
		return nil, fmt.Errorf("the drawing is larger than %d MB", maxBytes>>20)
	}
	r := &reader{}
	var err error
	switch ext := strings.ToLower(path.Ext(name)); ext {
	case ".dxf":
		err = r.dxf(string(data))
	case ".svg":
		err = r.svg(data)
	case ".csv", ".txt":
		err = r.points(string(data))
	default:
		return nil, fmt.Errorf("a file ends in .dxf, .svg, .csv or .stl, not in %q; save a STEP file as STL", ext)
	}
	if err != nil {
		return nil, err
	}
	if unit == "" {
		unit = r.unit
	}
	if unit == "" {
		unit = "mm"
	}
	scale, ok := lengths[unit]
	if !ok {
		return nil, fmt.Errorf("drawings are not read in %q; choose mm, cm, m, µm or in", unit)
	}
	d := &Drawing{Unit: r.unit, Report: r.report}
	loops := r.join(d)
	if len(loops) > maxLoops {
		return nil, fmt.Errorf("the drawing has %d closed outlines, more than %d", len(loops), maxLoops)
	}
	d.nest(loops, scale)
	if len(d.Outlines) == 0 {
		return nil, fmt.Errorf("the drawing holds no closed outline%s", strings.Join(append([]string{""}, d.Report...), "; "))
	}
	return d, nil
}

// reader collects the segments of a file.
type reader struct {
	segments []segment
	unit     string
	report   []string
	skipped  map[string]int
}

func (r *reader) add(s segment) error {
	for _, v := range []float64{s.a.x, s.a.y, s.b.x, s.b.y, s.bend} {
		if math.IsNaN(v) || math.Abs(v) > 1e12 {
			return fmt.Errorf("the drawing has a coordinate that is no usable number")
		}
	}
	if len(r.segments) >= maxSegments {
		return fmt.Errorf("the drawing has more than %d lines and arcs", maxSegments)
	}
	r.segments = append(r.segments, s)
	return nil
}

// arc adds an arc round a centre from one angle to the left by another, in pieces
// of half a turn at most.
func (r *reader) arc(c point, radius, from, angle float64, layer string) error {
	n := int(math.Ceil(math.Abs(angle)/math.Pi - 1e-9))
	at := func(a float64) point {
		sin, cos := math.Sincos(a)
		return point{c.x + radius*cos, c.y + radius*sin}
	}
	for i := range n {
		step := angle / float64(n)
		if err := r.add(segment{at(from + step*float64(i)), at(from + step*float64(i+1)), step, layer}); err != nil {
			return err
		}
	}
	return nil
}

// skip notes something that is not read.
func (r *reader) skip(what string) {
	if r.skipped == nil {
		r.skipped = map[string]int{}
	}
	r.skipped[what]++
}

// loop is a closed chain of segments.
type loop struct {
	vertices []Vertex
	layer    string
	outline  []point // flattened
	area     float64
	parent   int
	depth    int
}

// closeness is how near two ends must be, relative to the whole drawing, to be
// joined without a word, and gapLimit with one.
const (
	closeness = 1e-7
	gapLimit  = 2e-4
)

// join chains the segments into closed loops and reports what stays open.
func (r *reader) join(d *Drawing) []loop {
	for what, n := range r.skipped {
		d.Report = append(d.Report, fmt.Sprintf("%d of the kind %s left out", n, what))
	}
	slices.Sort(d.Report)
	lo, hi := point{math.Inf(1), math.Inf(1)}, point{math.Inf(-1), math.Inf(-1)}
	for _, s := range r.segments {
		for _, p := range []point{s.a, s.b} {
			lo, hi = point{min(lo.x, p.x), min(lo.y, p.y)}, point{max(hi.x, p.x), max(hi.y, p.y)}
		}
	}
	size := lo.to(hi)
	segments := slices.DeleteFunc(r.segments, func(s segment) bool { return s.a.to(s.b) <= closeness*size && math.Abs(s.bend) < 1 })
	gap := gapLimit * size
	end := func(e int) point { // of 2·segment + 0 or 1
		if e%2 == 0 {
			return segments[e/2].a
		}
		return segments[e/2].b
	}
	// The ends of each layer that are left, with their numbers in all.
	type layer struct {
		*ends
		numbers []int
	}
	layers := map[string]*layer{}
	place := make([]int, 2*len(segments)) // of an end in its layer
	points := map[string][]point{}
	for e := range place {
		name := segments[e/2].layer
		if layers[name] == nil {
			layers[name] = &layer{}
		}
		place[e] = len(points[name])
		points[name] = append(points[name], end(e))
		layers[name].numbers = append(layers[name].numbers, e)
	}
	for name, l := range layers {
		l.ends = newEnds(points[name])
	}
	used := make([]bool, len(segments))
	use := func(i int) {
		used[i] = true
		l := layers[segments[i].layer]
		l.remove(place[2*i])
		l.remove(place[2*i+1])
	}
	nearest := func(p point, name string) int {
		l := layers[name]
		if k := l.nearest(p, gap); k >= 0 {
			return l.numbers[k]
		}
		return -1
	}
	var loops []loop
	repaired, open := 0, 0
	for first := range segments {
		if used[first] {
			continue
		}
		use(first)
		s := segments[first]
		l := loop{layer: s.layer, vertices: []Vertex{{s.a.x, s.a.y, s.bend}}}
		start, here := s.a, s.b
		for here.to(start) > closeness*size {
			e := nearest(here, l.layer)
			if e < 0 || here.to(start) <= gap && here.to(start) < here.to(end(e)) {
				break
			}
			use(e / 2)
			next := segments[e/2]
			if e%2 == 1 {
				next.a, next.b, next.bend = next.b, next.a, -next.bend
			}
			if here.to(next.a) > closeness*size {
				repaired++
			}
			l.vertices = append(l.vertices, Vertex{next.a.x, next.a.y, next.bend})
			here = next.b
		}
		if here.to(start) > gap {
			open++
			continue
		}
		if here.to(start) > closeness*size {
			repaired++
		}
		if len(l.vertices) >= 2 {
			loops = append(loops, l)
		}
	}
	if repaired > 0 {
		d.Report = append(d.Report, fmt.Sprintf("%d small gaps were closed", repaired))
	}
	if open > 0 {
		d.Report = append(d.Report, fmt.Sprintf("%d open lines were left out", open))
	}
	return loops
}

// flatten cuts the arcs of a loop into chords.
func (l *loop) flatten() {
	n := len(l.vertices)
	for i, v := range l.vertices {
		w := l.vertices[(i+1)%n]
		l.outline = append(l.outline, point{v.X, v.Y})
		pieces := int(math.Ceil(math.Abs(v.Bend) / (math.Pi / 36)))
		for k := 1; k < pieces; k++ {
			l.outline = append(l.outline, bent(point{v.X, v.Y}, point{w.X, w.Y}, v.Bend, float64(k)/float64(pieces)))
		}
	}
	for i, p := range l.outline {
		q := l.outline[(i+1)%len(l.outline)]
		l.area += (p.x*q.y - q.x*p.y) / 2
	}
}

// bent is the point at a share of the way along an arc from a to b.
func bent(a, b point, bend, share float64) point {
	// The centre lies to the left of the chord for arcs that turn left.
	c := math.Tan(math.Pi/2-bend/2) / 2
	centre := point{(a.x+b.x)/2 - (b.y-a.y)*c, (a.y+b.y)/2 + (b.x-a.x)*c}
	sin, cos := math.Sincos(bend * share)
	dx, dy := a.x-centre.x, a.y-centre.y
	return point{centre.x + dx*cos - dy*sin, centre.y + dx*sin + dy*cos}
}

func (l *loop) contains(p point) bool {
	in := false
	n := len(l.outline)
	for i, a := range l.outline {
		b := l.outline[(i+1)%n]
		if (a.y > p.y) != (b.y > p.y) && p.x < a.x+(p.y-a.y)/(b.y-a.y)*(b.x-a.x) {
			in = !in
		}
	}
	return in
}

// nest makes outlines of the loops at even depth and holes of those at odd depth.
func (d *Drawing) nest(loops []loop, scale float64) {
	for i := range loops {
		loops[i].flatten()
	}
	slices.SortStableFunc(loops, func(a, b loop) int {
		switch x, y := math.Abs(a.area), math.Abs(b.area); {
		case x > y:
			return -1
		case x < y:
			return 1
		}
		return 0
	})
	outline := make([]int, len(loops))
	for i := range loops {
		l := &loops[i]
		l.parent = -1
		for j := i - 1; j >= 0; j-- {
			if loops[j].contains(l.outline[0]) {
				l.parent, l.depth = j, loops[j].depth+1
				break
			}
		}
		vertices := make([]Vertex, len(l.vertices))
		for k, v := range l.vertices {
			vertices[k] = Vertex{v.X * scale, v.Y * scale, v.Bend}
		}
		if l.depth%2 == 1 {
			o := &d.Outlines[outline[l.parent]]
			o.Holes = append(o.Holes, vertices)
			continue
		}
		outline[i] = len(d.Outlines)
		d.Outlines = append(d.Outlines, Outline{Name: l.layer, Loop: vertices})
	}
}
