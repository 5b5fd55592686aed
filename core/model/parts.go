package model

import (
	"math"
	"slices"
	"strings"

	"saltkettle/core/material"
	"saltkettle/core/shape"
)

// parts resolves the parts and makes their bodies.
func (r *resolver) parts() {
	if len(r.doc.Parts) == 0 {
		r.find(Missing, "parts", "add a part", "the model has no parts yet")
	}
	solved := 0
	r.out.Parts = make([]ResolvedPart, len(r.doc.Parts))
	r.bodies = make([][]shape.Body, len(r.doc.Parts))
	// Those that follow from others come last, and stand where they belong.
	order := make([]int, len(r.doc.Parts))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(i, j int) int {
		late := func(k int) int {
			if r.doc.Parts[k].isAround() {
				return 1
			}
			return 0
		}
		return late(i) - late(j)
	})
	for i := range r.doc.Parts {
		r.out.Parts[i].Part = &r.doc.Parts[i]
	}
	for _, i := range order {
		p := &r.doc.Parts[i]
		out := &r.out.Parts[i]
		out.Part = p
		place := "parts/" + p.ID
		if strings.TrimSpace(p.Name) == "" {
			r.find(Missing, place+"/name", "type a name", "part %d has no name", i+1)
		}
		if !slices.Contains(Roles, p.Role) {
			r.find(Wrong, place+"/role", "choose solved, shown only or off", "a part cannot be %q", p.Role)
			continue
		}
		if p.Role == Off {
			continue
		}
		if p.Role == Solved {
			solved++
		}
		r.substance(place, p, out)
		r.shape(place, i, p, out)
	}
	for _, list := range r.bodies {
		r.out.Bodies = append(r.out.Bodies, list...)
	}
	r.tubes()
	if len(r.doc.Parts) > 0 && solved == 0 {
		r.find(Missing, "parts", "make a part solved", "no part is solved")
	}
}

// substance finds the material of a part and what the physics needs of it.
func (r *resolver) substance(place string, p *Part, out *ResolvedPart) {
	name := strings.TrimSpace(p.Material)
	if name == "" {
		if p.Role == Solved {
			r.find(Missing, place+"/material", "type the name of a material", "the %s has no material", p.Name)
		}
		return
	}
	m, ok := material.Find(r.doc.Materials, name)
	if !ok {
		m, ok = material.Find(material.Library(), name)
	}
	if !ok {
		r.find(Wrong, place+"/material", "choose one from the list, or make it one of your own", "there is no material %q", name)
		return
	}
	if finish := strings.TrimSpace(p.Finish); finish != "" {
		finished, err := m.Finished(finish)
		if err != nil {
			r.find(Wrong, place+"/finish", "choose one of them, or none", "the %s cannot be %s: %v", p.Name, finish, err)
		} else {
			m = finished
		}
	}
	out.Material = m
	if m.Gives(material.Density) {
		rho, err := r.function(m, material.Density)
		if err != nil {
			r.find(Wrong, propertyPlace(m, material.Density), "", "%v", err)
		} else {
			d, _ := material.Define(material.Density)
			out.Density, _ = rho.Typical(d)
		}
	}
}

func propertyPlace(m material.Material, key material.Key) string {
	return "materials/" + m.Name + "/" + string(key)
}

// shape makes the bodies of a part.
func (r *resolver) shape(place string, index int, p *Part, out *ResolvedPart) {
	good := true
	length := func(at, text, label string, optional, positive bool) float64 {
		v, ok := r.value(place+at, text, need{label: label + " of the " + p.Name, unit: "mm", optional: optional, positive: positive})
		good = good && ok
		return v
	}
	var o shape.Outline
	var solid *shape.Surface
	var line *shape.Line
	ok := false
	switch {
	case p.Outline.Kind == surfaceKind:
		solid, o, ok = r.surface(place+"/outline/kind", p)
	case p.IsLine():
		line, ok = r.lineOf(place+"/outline", p)
	case r.doc.Space.Kind == Lines:
		r.find(Wrong, place+"/outline/kind", "draw it as a line, or choose a solid space", "the %s is no line, and in a space of lines there is nothing else", p.Name)
	default:
		o, ok = r.outline(place+"/outline", p.Name, &p.Outline, 0)
	}
	good = good && ok
	if ok && line == nil && p.Place.Mirror {
		o = o.Mirror()
	}
	z0, z1 := 0.0, r.out.Size
	if line != nil {
		lo, hi := line.Box()
		z0, z1 = lo[2], hi[2]
	} else if solid != nil {
		lo, hi := solid.Box()
		z0, z1 = lo[2]+length("/span/from", p.Span.From, "height", true, false), hi[2]+length("/span/from", p.Span.From, "height", true, false)
	} else if !r.doc.Space.Flat() && p.isAround() {
		z0, z1 = r.span[0], r.span[1]
	} else if r.doc.Space.Kind == Solid {
		z0, z1 = length("/span/from", p.Span.From, "bottom", false, false), length("/span/to", p.Span.To, "top", false, false)
	} else if p.Array != nil && p.Array.Along == "z" {
		r.find(Wrong, place+"/array/along", "choose x, y or round", "nothing lies along z in a %s space", r.doc.Space.Kind)
		good = false
	}
	if good && z1 <= z0 && line == nil {
		r.find(Wrong, place+"/span/to", "", "the top of the %s lies at or below its bottom", p.Name)
		good = false
	}
	x, y := length("/place/x", p.Place.X, "position", true, false), length("/place/y", p.Place.Y, "position", true, false)
	good = r.fill(place, p, out) && good
	about := shape.Point{X: length("/place/about_x", p.Place.AboutX, "point about which it is turned", true, false), Y: length("/place/about_y", p.Place.AboutY, "point about which it is turned", true, false)}
	turn, ok := r.value(place+"/place/turn", p.Place.Turn, need{label: "turn of the " + p.Name, unit: "deg", optional: true})
	good = good && ok
	steps, ok := r.array(place+"/array", "the "+p.Name, p.Array)
	good = good && ok
	out.Size = r.out.Size
	if strings.TrimSpace(p.Cells) != "" {
		out.Size = length("/cells", p.Cells, "cell size", false, true)
	}
	if !good {
		return
	}
	if turn != 0 {
		// The point stays where it is.
		sin, cos := math.Sincos(turn)
		x += about.X - (about.X*cos - about.Y*sin)
		y += about.Y - (about.X*sin + about.Y*cos)
	}
	out.Copies, out.Z0, out.Z1, out.Turn = len(steps), z0, z1, turn
	if line == nil {
		out.Extent = extent(&o)
	}
	for c, s := range steps {
		body := shape.Body{Part: index, Copy: c, Z0: z0 + s.dz, Z1: z1 + s.dz}
		if line == nil {
			body.Outline = s.place(o, x, y, turn)
		} else {
			body.Line, body.Outline = placedLine(line, s.place(unitOutline, x, y, turn), p.Place.Mirror, s.dz)
		}
		if solid != nil {
			body.Solid, body.Outline = placed(solid, s.place(unitOutline, x, y, turn), p.Place.Mirror, body.Z0)
		}
		if c == 0 {
			out.Outline, out.Line = &body.Outline, body.Line
		}
		if lo, hi := body.Outline.Box(); r.doc.Space.Kind == Axial && lo.X < -1e-9*(hi.X-lo.X) {
			r.find(Wrong, place+"/place/x", "move it to the right: x is the distance from the axis", "the %s reaches beyond the axis", p.Name)
		}
		r.bodies[index] = append(r.bodies[index], body)
	}
}

// step is where a copy of an array lies: shifted, or turned about a centre.
type step struct {
	dx, dy, dz float64
	angle      float64
	x, y       float64 // the centre
}

// place puts an outline where a copy lies.
func (s step) place(o shape.Outline, x, y, turn float64) shape.Outline {
	if s.angle == 0 {
		return o.Move(x+s.dx, y+s.dy, turn)
	}
	return o.Move(x-s.x, y-s.y, turn).Move(s.x, s.y, s.angle)
}

// array returns where the copies of an array lie; a nil array has one.
func (r *resolver) array(place, words string, a *Array) (steps []step, ok bool) {
	if a == nil {
		return []step{{}}, true
	}
	axis := strings.Index("xyz", a.Along)
	round := a.Along == "round"
	if !round && (axis < 0 || len(a.Along) != 1) {
		r.find(Wrong, place+"/along", "choose x, y, z or round", "the copies of %s cannot lie along %q", words, a.Along)
		return nil, false
	}
	unit := "mm"
	if round {
		unit = "deg"
	}
	n, okN := r.value(place+"/count", a.Count, need{label: "number of copies of " + words, positive: true, whole: true})
	if !okN {
		return nil, false
	}
	if n > maxCopies {
		r.find(Wrong, place+"/count", "", "an array may have %d copies at most", maxCopies)
		return nil, false
	}
	var pitch float64
	var okP bool
	if within := strings.TrimSpace(a.Within); within != "" && strings.TrimSpace(a.Pitch) == "" {
		pitch, okP = r.value(place+"/within", within, need{label: "extent of the copies of " + words, unit: unit})
		pitch /= max(n-1, 1)
	} else {
		pitch, okP = r.value(place+"/pitch", a.Pitch, need{label: "pitch of " + words, unit: unit})
	}
	x, okX := r.value(place+"/x", a.X, need{label: "centre of the copies of " + words, unit: "mm", optional: true})
	y, okY := r.value(place+"/y", a.Y, need{label: "centre of the copies of " + words, unit: "mm", optional: true})
	if !okP || !okX || !okY {
		return nil, false
	}
	if n > 1 && pitch == 0 {
		r.find(Wrong, place+"/pitch", "", "the copies of %s lie on each other: the pitch is zero", words)
		return nil, false
	}
	first := 0.0
	if a.Centred {
		first = -(n - 1) / 2
	}
	for c := range int(n) {
		s := step{x: x, y: y}
		at := (first + float64(c)) * pitch
		switch {
		case round:
			s.angle = at
		case axis == 0:
			s.dx = at
		case axis == 1:
			s.dy = at
		default:
			s.dz = at
		}
		steps = append(steps, s)
	}
	return steps, true
}
