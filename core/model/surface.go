package model

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/shape"
	"saltkettle/core/solid"
	"saltkettle/core/trace"
)

// surfaceKind is the kind of an outline that is a surface from a file.
const surfaceKind = "surface"

// surfaceSides are the sides of such a part.
var surfaceSides = []string{"front", "right", "back", "left"}

// surface makes the surface of a part, where it was read, with the box around it.
func (r *resolver) surface(place string, p *Part) (*shape.Surface, shape.Outline, bool) {
	switch {
	case p.Surface == nil || len(p.Surface.Triangles) == 0:
		r.find(Missing, place, "read an STL file, or choose an outline", "the %s is a surface from a file, and has none", p.Name)
		return nil, shape.Outline{}, false
	case r.doc.Space.Flat():
		r.find(Wrong, place, "draw its section", "the %s is a surface, which a %s space cannot have", p.Name, r.doc.Space.Kind)
		return nil, shape.Outline{}, false
	case len(p.Surface.Points)%3 != 0 || len(p.Surface.Triangles)%3 != 0 || len(p.Surface.Triangles) > 3*maxSurface ||
		slices.ContainsFunc(p.Surface.Triangles, func(v int32) bool { return v < 0 || int(v) >= len(p.Surface.Points)/3 }):
		r.find(Wrong, place, "read the file again", "the surface of the %s is not whole", p.Name)
		return nil, shape.Outline{}, false
	}
	scale := 1e-3
	if u, ok := metresOf[r.doc.Space.Unit]; ok {
		scale = u
	}
	s := &shape.Surface{}
	for i := 0; i < len(p.Surface.Points); i += 3 {
		s.Points = append(s.Points, [3]float64{p.Surface.Points[i] * scale, p.Surface.Points[i+1] * scale, p.Surface.Points[i+2] * scale})
	}
	for i := 0; i < len(p.Surface.Triangles); i += 3 {
		s.Triangles = append(s.Triangles, [3]int32(p.Surface.Triangles[i:i+3]))
	}
	if !(s.Volume() > 0) {
		r.find(Wrong, place, "read the file again", "the surface of the %s encloses nothing", p.Name)
		return nil, shape.Outline{}, false
	}
	return s, boxOf(s), true
}

// metresOf are the units of drawings.
var metresOf = map[string]float64{"mm": 1e-3, "cm": 1e-2, "m": 1, "µm": 1e-6, "in": 0.0254}

// unitOutline is a line along x from the origin, which shows where a place puts things.
var unitOutline = shape.Outline{Loops: []shape.Loop{{{From: shape.Point{}, To: shape.Point{X: 1}}}}}

// boxOf is the outline of the box around a surface.
func boxOf(s *shape.Surface) shape.Outline {
	lo, hi := s.Box()
	p := [4]shape.Point{{X: lo[0], Y: lo[1]}, {X: hi[0], Y: lo[1]}, {X: hi[0], Y: hi[1]}, {X: lo[0], Y: hi[1]}}
	loop := make(shape.Loop, 4)
	for i := range loop {
		loop[i] = shape.Edge{Name: surfaceSides[i], From: p[i], To: p[(i+1)%4]}
	}
	return shape.Outline{Loops: []shape.Loop{loop}, Width: min(hi[0]-lo[0], hi[1]-lo[1])}
}

// placed moves a surface to where a place has put the unit line, with its least height
// at z, and returns the box around it.
func placed(s *shape.Surface, unit shape.Outline, mirror bool, z float64) (*shape.Surface, shape.Outline) {
	e := unit.Loops[0][0]
	cos, sin := e.To.X-e.From.X, e.To.Y-e.From.Y
	lo, _ := s.Box()
	out := s.Moved(func(p [3]float64) [3]float64 {
		if mirror {
			p[0] = -p[0]
		}
		return [3]float64{e.From.X + p[0]*cos - p[1]*sin, e.From.Y + p[0]*sin + p[1]*cos, p[2] - lo[2] + z}
	})
	if mirror {
		out.Triangles = make([][3]int32, len(s.Triangles))
		for i, t := range s.Triangles {
			out.Triangles[i] = [3]int32{t[0], t[2], t[1]}
		}
	}
	return out, boxOf(out)
}

// maxSurface bounds the triangles that a model carries for one part.
const maxSurface = 60_000

// AddSolids adds the bodies of a file as parts: stacks of extrusions as outlines with
// spans, other bodies as surfaces. It returns their ids and what became of them.
func (d *Document) AddSolids(name string, in *solid.Import) (ids, report []string, err error) {
	report = slices.Clone(in.Report)
	for k := range in.Bodies {
		b := &in.Bodies[k]
		title := strings.TrimSpace(b.Name)
		if title == "" {
			title = name
		}
		if layers, ok := b.Stack(); ok && len(layers) <= maxTraced {
			added, err := d.addLayers(title, layers)
			if err == nil {
				ids = append(ids, added...)
				if len(layers) > 1 {
					report = append(report, fmt.Sprintf("%s is a stack of %d outlines", title, len(layers)))
				}
				if slices.ContainsFunc(layers, solid.Layer.Round) {
					report = append(report, "short edges of "+title+" that lie on circles became arcs")
				}
				continue
			}
			report = append(report, err.Error())
		}
		if n := len(b.Triangles); n > maxSurface {
			return nil, nil, fmt.Errorf("%s has %d triangles; a model carries %d for one part: make it coarser where it was made", title, n, maxSurface)
		}
		p := Part{ID: d.freeID("p"), Name: title, Role: Solved, Outline: Outline{Kind: surfaceKind}, Surface: &Surface{}}
		scale := metresOf["mm"]
		if u, ok := metresOf[d.Space.Unit]; ok {
			scale = u
		}
		for _, q := range b.Points {
			for _, x := range q {
				p.Surface.Points = append(p.Surface.Points, math.Round(x/scale*1e6)/1e6)
			}
		}
		for _, t := range b.Triangles {
			p.Surface.Triangles = append(p.Surface.Triangles, t[:]...)
		}
		d.Parts = append(d.Parts, p)
		ids = append(ids, p.ID)
		report = append(report, title+" is no stack of extrusions: it is meshed in bricks, and with it the whole model")
	}
	return ids, report, nil
}

// addLayers adds a part for each layer of a stack.
func (d *Document) addLayers(name string, layers []solid.Layer) ([]string, error) {
	var ids []string
	for _, l := range layers {
		o := l.Outline
		o.Name = name
		added, err := d.AddTraced(name, &trace.Drawing{Outlines: []trace.Outline{o}})
		if err != nil {
			return nil, err
		}
		p := &d.Parts[d.Part(added[0])]
		if len(layers) > 1 {
			p.Name = fmt.Sprintf("%s %d", name, len(ids)+1)
		}
		p.Span = Span{From: d.written(l.Z0), To: d.written(l.Z1)}
		ids = append(ids, added...)
	}
	return ids, nil
}
