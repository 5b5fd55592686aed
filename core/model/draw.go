package model

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"saltkettle/core/quantity"
	"saltkettle/core/trace"
)

// maxTraced bounds how many outlines are taken from one drawing.
const maxTraced = 200

// AddTraced adds a part for each outline of a drawing, named after its layer or
// the drawing, and returns their ids. Their heights are left to be given.
func (d *Document) AddTraced(name string, drawing *trace.Drawing) ([]string, error) {
	if n := len(drawing.Outlines); n > maxTraced {
		return nil, fmt.Errorf("the drawing has %d outlines; a model takes %d from one", n, maxTraced)
	}
	for _, o := range drawing.Outlines {
		longest := len(o.Loop)
		for _, h := range o.Holes {
			longest = max(longest, len(h))
		}
		if longest > maxPoints {
			return nil, fmt.Errorf("an outline of the drawing has %d points; a path may have %d", longest, maxPoints)
		}
	}
	var ids []string
	for _, o := range drawing.Outlines {
		p := Part{ID: d.freeID("p"), Role: Solved, Outline: d.traced(o.Loop)}
		if disc, x, y, ok := d.tracedDisc(o.Loop); ok && len(o.Holes) == 0 {
			p.Outline, p.Place = disc, Place{X: x, Y: y}
		}
		if p.Name = strings.TrimSpace(o.Name); p.Name == "" || p.Name == "0" || p.Name == "outline" {
			p.Name = name
		}
		if len(drawing.Outlines) > 1 && p.Name == name {
			p.Name += " " + strconv.Itoa(len(ids)+1)
		}
		for _, h := range o.Holes {
			p.Outline.Holes = append(p.Outline.Holes, d.tracedHole(h))
		}
		p.Outline.enumerate()
		d.Parts = append(d.Parts, p)
		ids = append(ids, p.ID)
	}
	return ids, nil
}

// written writes a length in the unit of the drawing, to a nanometre at best.
func (d *Document) written(si float64) string {
	unit := d.Space.Unit
	u, err := quantity.ParseUnit(unit)
	if err != nil || unit == "" {
		unit, u = "mm", quantity.MustUnit("mm")
	}
	v := u.From(si, false)
	if math.Abs(v) < 1e-9 {
		v = 0
	}
	return strconv.FormatFloat(v, 'g', 7, 64) + " " + unit
}

// traced is a path through the corners of a loop.
func (d *Document) traced(loop []trace.Vertex) Outline {
	o := Outline{Kind: "path"}
	for _, v := range loop {
		p := Point{X: d.written(v.X), Y: d.written(v.Y)}
		if v.Bend != 0 {
			p.Bend = strconv.FormatFloat(v.Bend*180/math.Pi, 'g', 9, 64) + " deg"
		}
		o.Points = append(o.Points, p)
	}
	return o
}

// tracedHole is a disc if the loop is a circle, else a path.
func (d *Document) tracedHole(loop []trace.Vertex) Hole {
	if disc, x, y, ok := d.tracedDisc(loop); ok {
		return Hole{Outline: disc, X: x, Y: y}
	}
	return Hole{Outline: d.traced(loop)}
}

// tracedDisc is the circle that a loop of two arcs may be, with its place.
func (d *Document) tracedDisc(loop []trace.Vertex) (disc Outline, x, y string, ok bool) {
	if len(loop) != 2 || !near(math.Abs(loop[0].Bend), math.Pi) || !near(math.Abs(loop[1].Bend), math.Pi) {
		return disc, "", "", false
	}
	a, b := loop[0], loop[1]
	return Outline{Kind: "disc", Diameter: d.written(math.Hypot(b.X-a.X, b.Y-a.Y))}, d.written((a.X + b.X) / 2), d.written((a.Y + b.Y) / 2), true
}

func near(a, b float64) bool { return math.Abs(a-b) <= 1e-9*math.Abs(b) }
