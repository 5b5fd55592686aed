package model

import (
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
	for i := range r.doc.Parts {
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
	out.Material = m
	if m.Has(material.Density) {
		rho, err := m.Function(material.Density, r.out.Parameters)
		if err != nil {
			r.find(Wrong, propertyPlace(m, material.Density), "", "%v", err)
		} else {
			d, _ := material.Define(material.Density)
			out.Density, _ = rho.Typical(d)
		}
	}
	if p.Role != Solved {
		return
	}
	for axis, key := range []material.Key{material.Conductivity, material.ConductivityY, material.ConductivityZ} {
		if axis > 0 && !m.Has(key) {
			out.Conductivity[axis] = out.Conductivity[0]
			continue
		}
		k, err := m.Function(key, r.out.Parameters)
		if err != nil {
			severity := Wrong
			if !m.Has(key) {
				severity = Missing
			}
			r.find(severity, propertyPlace(m, key), "give the property or choose another material", "the %s conducts heat, and %v", p.Name, err)
			return
		}
		out.Conductivity[axis] = k
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
	switch p.Outline.Kind {
	case "rectangle":
		w, d := length("/outline/width", p.Outline.Width, "width", false, true), length("/outline/depth", p.Outline.Depth, "depth", false, true)
		if good {
			o, _ = shape.Rectangle(w, d)
		}
	case "disc":
		d := length("/outline/diameter", p.Outline.Diameter, "diameter", false, true)
		if good {
			o, _ = shape.Disc(d)
		}
	default:
		r.find(Wrong, place+"/outline/kind", "choose "+strings.Join(OutlineKinds, " or "), "there is no outline %q", p.Outline.Kind)
		return
	}
	z0, z1 := length("/span/from", p.Span.From, "bottom", false, false), length("/span/to", p.Span.To, "top", false, false)
	if good && z1 <= z0 {
		r.find(Wrong, place+"/span/to", "", "the top of the %s lies at or below its bottom", p.Name)
		good = false
	}
	x, y := length("/place/x", p.Place.X, "position", true, false), length("/place/y", p.Place.Y, "position", true, false)
	turn, ok := r.value(place+"/place/turn", p.Place.Turn, need{label: "turn of the " + p.Name, unit: "deg", optional: true})
	good = good && ok
	count, step, ok := r.array(place+"/array", p)
	good = good && ok
	out.Size = r.out.Size
	if strings.TrimSpace(p.Cells) != "" {
		out.Size = length("/cells", p.Cells, "cell size", false, true)
	}
	if !good {
		return
	}
	first := 0.0
	if p.Array != nil && p.Array.Centred {
		first = -float64(count-1) / 2
	}
	out.Copies, out.Z0, out.Z1, out.Turn = count, z0, z1, turn
	for c := range count {
		n := first + float64(c)
		body := shape.Body{Part: index, Copy: c, Outline: o.Move(x+n*step[0], y+n*step[1], turn), Z0: z0 + n*step[2], Z1: z1 + n*step[2]}
		if c == 0 {
			out.Outline = &body.Outline
		}
		r.out.Bodies = append(r.out.Bodies, body)
	}
}

// array returns the number of copies and the step from one to the next.
func (r *resolver) array(place string, p *Part) (count int, step [3]float64, ok bool) {
	if p.Array == nil {
		return 1, step, true
	}
	n, okN := r.value(place+"/count", p.Array.Count, need{label: "number of copies of the " + p.Name, positive: true, whole: true})
	pitch, okP := r.value(place+"/pitch", p.Array.Pitch, need{label: "pitch of the " + p.Name, unit: "mm"})
	axis := strings.Index("xyz", p.Array.Along)
	if axis < 0 || len(p.Array.Along) != 1 {
		r.find(Wrong, place+"/along", "choose x, y or z", "the copies of the %s cannot lie along %q", p.Name, p.Array.Along)
		return 0, step, false
	}
	if !okN || !okP {
		return 0, step, false
	}
	if n > maxCopies {
		r.find(Wrong, place+"/count", "", "an array may have %d copies at most", maxCopies)
		return 0, step, false
	}
	if n > 1 && pitch == 0 {
		r.find(Wrong, place+"/pitch", "", "the copies of the %s lie on each other: the pitch is zero", p.Name)
		return 0, step, false
	}
	step[axis] = pitch
	return int(n), step, true
}
