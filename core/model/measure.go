package model

import (
	"math"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
	"saltkettle/core/shape"
)

// Picked is a place on a side of a copy of a part.
type Picked struct {
	On Patch
	At [3]float64 // m
}

// Measured is what was measured, in SI units.
type Measured struct {
	// Of one side: its area, whether it is flat, and its radius if it is round.
	Area   float64
	Flat   bool
	Radius float64
	Volume float64 // of one copy of the part, as it is drawn
	// Of two: the distance between flat sides that are parallel, or else between the
	// places, and the angle between flat sides, rad.
	Distance float64
	Parallel bool
	Angle    float64
	// Control is the place of the one number that the distance between parallel sides is,
	// or the name of a parameter that is it; empty if more than one is.
	Control, Parameter string
}

// plane of a flat side: a point and the outward normal.
type plane struct {
	at, normal [3]float64
}

// sideOf describes a side of a copy of a part.
func (r *Resolved) sideOf(p Patch) (m Measured, flat plane, ok bool) {
	i := r.Document.Part(p.Part)
	if i < 0 {
		return m, flat, false
	}
	for _, b := range r.Bodies {
		if b.Part != i || b.Copy != max(p.Copy, 1)-1 {
			continue
		}
		height := b.Z1 - b.Z0
		m.Volume = b.Outline.Area() * height
		switch r.Document.Space.Kind {
		case Plane:
			height = r.Depth
			m.Volume = b.Outline.Area() * height
		case Axial:
			m.Volume = 2 * math.Pi * b.Outline.MomentX()
		}
		if !r.Document.Space.Flat() && (p.Side == shape.Top || p.Side == shape.Bottom) {
			m.Area, m.Flat = b.Outline.Area(), true
			flat = plane{[3]float64{0, 0, b.Z0}, [3]float64{0, 0, -1}}
			if p.Side == shape.Top {
				flat = plane{[3]float64{0, 0, b.Z1}, [3]float64{0, 0, 1}}
			}
			return m, flat, true
		}
		m.Flat = true
		for _, loop := range b.Outline.Loops {
			for _, e := range loop {
				if e.Name != p.Side {
					continue
				}
				from := e.From
				length := 0.0
				for _, to := range e.Chords(b.Outline.Width / 500) {
					l := math.Hypot(to.X-from.X, to.Y-from.Y)
					if r.Document.Space.Kind == Axial {
						m.Area += math.Pi * (from.X + to.X) * l
					} else {
						length += l
					}
					from = to
				}
				if e.Arc {
					m.Radius = math.Hypot(e.From.X-e.Centre.X, e.From.Y-e.Centre.Y)
				}
				m.Area += length * height
				l := math.Hypot(e.To.X-e.From.X, e.To.Y-e.From.Y)
				here := plane{[3]float64{e.From.X, e.From.Y, 0}, [3]float64{(e.To.Y - e.From.Y) / l, (e.From.X - e.To.X) / l, 0}}
				straight := !e.Arc && e.Via == nil
				m.Flat = m.Flat && straight && (!ok || math.Abs(dot(here.normal, flat.normal)-1) < 1e-9 && math.Abs(dot(minus(here.at, flat.at), flat.normal)) < 1e-9*b.Outline.Width)
				flat, ok = here, true
			}
		}
		return m, flat, ok
	}
	return m, flat, false
}

func dot(a, b [3]float64) float64 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }

func minus(a, b [3]float64) [3]float64 { return [3]float64{a[0] - b[0], a[1] - b[1], a[2] - b[2]} }

// parallel says that two planes face the same or opposite ways.
const parallel = 1e-9

// Measure measures one side, or two against each other. It fails if a side is not there.
func Measure(doc *Document, cat *Catalog, a Picked, b *Picked) (*Measured, error) {
	r, _ := Resolve(doc, cat)
	m, first, ok := r.sideOf(a.On)
	if !ok {
		return nil, &GoneError{"parts/" + a.On.Part}
	}
	if b == nil {
		return &m, nil
	}
	n, second, ok := r.sideOf(b.On)
	if !ok {
		return nil, &GoneError{"parts/" + b.On.Part}
	}
	d := minus(b.At, a.At)
	out := &Measured{Distance: math.Sqrt(dot(d, d)), Flat: m.Flat && n.Flat}
	if !out.Flat {
		return out, nil
	}
	c := dot(first.normal, second.normal)
	out.Angle = math.Acos(min(max(math.Abs(c), 0), 1))
	if 1-math.Abs(c) > parallel {
		return out, nil
	}
	out.Parallel = true
	out.Distance = math.Abs(dot(minus(second.at, first.at), first.normal))
	out.Control, out.Parameter = control(doc, cat, r, a.On, b.On, out.Distance)
	return out, nil
}

// control finds the one number of the two parts, or the one parameter, that the distance
// between their sides grows with, one to one.
func control(doc *Document, cat *Catalog, r *Resolved, a, b Patch, distance float64) (place, parameter string) {
	const step = 1e-5
	slope := func(change func(d *Document)) float64 {
		d := *doc
		d.Parameters = append([]Parameter(nil), doc.Parameters...)
		d.Parts = append([]Part(nil), doc.Parts...)
		for i := range d.Parts {
			o := &d.Parts[i].Outline
			o.Points = append([]Point(nil), o.Points...)
			d.Parts[i].Array = d.Parts[i].Array.clone()
		}
		change(&d)
		changed, _ := Resolve(&d, cat)
		_, first, ok1 := changed.sideOf(a)
		_, second, ok2 := changed.sideOf(b)
		if !ok1 || !ok2 {
			return math.NaN()
		}
		return (math.Abs(dot(minus(second.at, first.at), first.normal)) - distance) / step
	}
	raised := func(text string) (string, bool) {
		f, err := formula.Parse(text)
		if err != nil || len(f.Names()) > 0 {
			return "", false
		}
		v, err := f.Eval(r.Parameters)
		if err != nil || v.Dimension != quantity.MustUnit("m").Dimension {
			return "", false
		}
		return number(v.SI+step, "m"), true
	}
	numbers, parameters := 0, 0
	note := func(s float64, count *int, at, name string) {
		if math.IsNaN(s) || math.Abs(s) < 1e-4 {
			return
		}
		*count++
		switch {
		case math.Abs(math.Abs(s)-1) > 1e-3:
			*count++ // not one to one
		case name != "":
			parameter = name
		default:
			place = at
		}
	}
	seen := map[string]bool{}
	for _, id := range []string{a.Part, b.Part} {
		if seen[id] {
			continue
		}
		seen[id] = true
		p := &doc.Parts[doc.Part(id)]
		p.eachText(func(at, _ string, text *string) {
			if strings.Contains(at, "/holes/") || strings.Contains(at, "/fill/") {
				return
			}
			if to, ok := raised(*text); ok {
				note(slope(func(d *Document) {
					if t := d.textAt(at); t != nil {
						*t = to
					}
				}), &numbers, at, "")
			}
		})
	}
	for i, q := range doc.Parameters {
		if to, ok := raised(q.Value); ok {
			note(slope(func(d *Document) { d.Parameters[i].Value = to }), &parameters, "", q.Name)
		}
	}
	// A parameter that was made for it goes before numbers that happen to.
	switch {
	case parameters == 1:
		return "", parameter
	case parameters == 0 && numbers == 1:
		return place, ""
	}
	return "", ""
}
