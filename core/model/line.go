package model

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"saltkettle/core/mesh"
	"saltkettle/core/sentence"
	"saltkettle/core/shape"
)

// LineOutline is the kind of an outline that is a line.
const LineOutline = "line"

// IsLine says that a part is a line.
func (p *Part) IsLine() bool { return p.Outline.Kind == LineOutline }

// drawnWidth is how wide lines are drawn, as a part of the extent of the device.
const drawnWidth = 1.0 / 110

// lineOf makes the line of a part, about its own origin.
func (r *resolver) lineOf(place string, p *Part) (*shape.Line, bool) {
	if r.doc.Space.Flat() {
		r.find(Wrong, place+"/kind", "choose a space of lines, or a solid one", "the %s is a line, which a %s space cannot have", p.Name, r.doc.Space.Kind)
		return nil, false
	}
	good := true
	var points []shape.LinePoint
	taken := map[string]bool{}
	for i := range p.Outline.Points {
		q := &p.Outline.Points[i]
		at := place + "/points/" + q.ID
		length := func(name, text string, optional bool) float64 {
			v, ok := r.value(at+"/"+name, text, need{label: fmt.Sprintf("%s of point %d of the %s", name, i+1, p.Name), unit: lengthUnit, optional: optional})
			good = good && ok
			return v
		}
		name := cmp.Or(strings.TrimSpace(q.Name), p.Outline.PointName(i))
		if strings.ContainsAny(name, "|/") || name == WholeSurface || len(name) > 40 || taken[name] {
			r.find(Wrong, at+"/name", "choose another name", "a point of the %s cannot be called %q", p.Name, name)
			good = false
		}
		taken[name] = true
		points = append(points, shape.LinePoint{Name: name, At: [3]float64{length("x", q.X, false), length("y", q.Y, false), length("z", q.Z, true)}, Round: length("round", q.Round, true)})
	}
	if !good {
		return nil, false
	}
	line, err := shape.NewLine(points)
	if err != nil {
		r.find(Wrong, place+"/kind", "move its points", "the %s: %v", p.Name, err)
		return nil, false
	}
	return line, true
}

// PointName is what a point of a line is called that has no name.
func (o *Outline) PointName(i int) string {
	switch i {
	case 0:
		return shape.Start
	case len(o.Points) - 1:
		return shape.End
	}
	return "point " + o.Points[i].ID
}

// Outlines are the keys of those that a part of a space can have.
func (s Space) Outlines() []string {
	return slices.DeleteFunc(OutlineKeys(), func(key string) bool {
		return (key == LineOutline) != (s.Kind == Lines) && (s.Kind == Lines || s.Flat())
	})
}

// Offered says that a kind of sentence may be of use in a space: of one of lines those of what is solved for along lines, and those of no physics.
func (c *Catalog) Offered(k *sentence.Kind, s Space) bool {
	p, ok := c.physics(Of(k.Key))
	return !ok || s.Kind != Lines || p.OnLines
}

// placedLine moves a line to where a place has put the unit line, by a height, and returns the box around it.
func placedLine(l *shape.Line, unit shape.Outline, mirror bool, dz float64) (*shape.Line, shape.Outline) {
	e := unit.Loops[0][0]
	cos, sin := e.To.X-e.From.X, e.To.Y-e.From.Y
	out := l.Moved(func(p [3]float64) [3]float64 {
		if mirror {
			p[0] = -p[0]
		}
		return [3]float64{e.From.X + p[0]*cos - p[1]*sin, e.From.Y + p[0]*sin + p[1]*cos, p[2] + dz}
	})
	tube, _ := out.Tube(0, 0)
	return out, boxOf(tube)
}

// tubes gives lines what is drawn for them, which is as wide as the device is large.
func (r *resolver) tubes() {
	extent := r.out.Extent()
	for i := range r.out.Bodies {
		if b := &r.out.Bodies[i]; b.Line != nil {
			b.Solid, b.Nearest = b.Line.Tube(extent*drawnWidth/2, extent*drawnWidth*0.8)
		}
	}
}

// DrawnWidth is how wide lines are drawn, m.
func (r *Resolved) DrawnWidth() float64 { return r.Extent() * drawnWidth }

// lines adds the solved bodies that are lines to a mesh, in which it may be that there is nothing yet, and notes whose they are.
func (r *Resolved) lines(ctx context.Context, m *mesh.Mesh, owners []int, maxCells int) ([]int, error) {
	var list []mesh.LineBody
	for i := range r.Bodies {
		b := &r.Bodies[i]
		if p := &r.Parts[b.Part]; b.Line != nil && p.Role == Solved {
			line := mesh.LineBody{Line: b.Line, Size: p.Size, Opens: make([]bool, len(b.Line.Points)), Wide: make([]bool, len(b.Line.Points))}
			for k := range b.Line.Points {
				line.Opens[k] = b.Line.Turn(k) > leastTurn
			}
			list, owners = append(list, line), append(owners, i)
		}
	}
	if len(list) == 0 {
		return owners, nil
	}
	first := len(owners) - len(list)
	byPart := map[int][]int{}
	for k, i := range owners[first:] {
		byPart[r.Bodies[i].Part] = append(byPart[r.Bodies[i].Part], k)
	}
	for i := range r.Conditions {
		c := &r.Conditions[i]
		if c.Definition.At == sentence.Nowhere {
			continue
		}
		added, _, _ := c.On.Terms()
		for _, t := range added {
			for _, part := range r.PartsNamed(t.Part) {
				for _, k := range byPart[part] {
					b := &r.Bodies[owners[first+k]]
					for n, q := range b.Line.Points {
						if (t.Side == q.Name || t.Side == WholeSurface) && t.Has(b.Copy+1) {
							list[k].Opens[n] = list[k].Opens[n] || c.Definition.At == sentence.OnLine
							list[k].Wide[n] = list[k].Wide[n] || c.Definition.At == sentence.AtEnds
						}
					}
				}
			}
		}
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	if err := m.AddLines(list, maxCells); err != nil {
		return nil, &PlaceError{Finding{Wrong, "mesh/size", fmt.Sprintf("the lines cannot be meshed: %v", err), "", nil}}
	}
	return owners, nil
}

// leastTurn is the angle from which on a line has a corner, rad.
const leastTurn = 1e-3

// LineSides are the names of the points of the lines of a part, nil if it is none.
func (r *Resolved) LineSides(part int) []string {
	line := r.Parts[part].Line
	if line == nil {
		return nil
	}
	return line.Names()
}
