package model

import (
	"slices"
	"strings"

	"saltkettle/core/sentence"
)

// Vector is a vector, or a symmetric tensor, of which there are components.
type Vector struct {
	Name, Words string
	Tensor      bool
}

// Vectors are those that follow from the physics of a catalog.
func (c *Catalog) Vectors() []Vector {
	var list []Vector
	for _, v := range c.Quantities {
		name, ok := strings.CutSuffix(v.Name, "_x")
		whole, tensor := strings.CutSuffix(v.Name, "_xx")
		if tensor {
			name, ok = whole, true
		}
		if !ok {
			continue
		}
		f, known := c.Field(name)
		if !known {
			f = sentence.Field{Name: name}
		}
		words := f.Words()
		if tensor {
			words = "principal directions of the " + words
		}
		list = append(list, Vector{name, words, tensor})
	}
	return list
}

// Vector finds one by its name.
func (c *Catalog) Vector(name string) (Vector, bool) {
	list := c.Vectors()
	i := slices.IndexFunc(list, func(v Vector) bool { return v.Name == name })
	if i < 0 {
		return Vector{}, false
	}
	return list[i], true
}

// vector finds a vector of a plate by its name.
func (r *resolver) vector(place, name string, tensors bool) bool {
	if v, ok := r.cat.Vector(name); ok && (tensors || !v.Tensor) {
		return true
	}
	var names []string
	for _, v := range r.cat.Vectors() {
		if tensors || !v.Tensor {
			names = append(names, v.Name)
		}
	}
	r.find(Doubtful, place, "choose one of "+strings.Join(names, ", "), "%q has no direction", name)
	return false
}

// MostArrows and MostStreams are how many a plate can have of one kind.
const (
	MostArrows  = 5000
	MostStreams = 500
)

// many evaluates a number of things that are drawn.
func (r *resolver) many(place, text, label string, most float64) (int, bool) {
	n, ok := r.value(place, text, need{label: label, positive: true, whole: true})
	if ok && n > most {
		r.find(Doubtful, place, "", "the %s can be %v at most", label, most)
		return 0, false
	}
	return int(n), ok
}

// one demands that a text is one of some.
func (r *resolver) one(place, what, text string, of ...string) bool {
	if slices.Contains(of, text) {
		return true
	}
	r.find(Doubtful, place, "write "+strings.TrimPrefix(strings.Join(of, " or "), " or "), "%s cannot be %q", what, text)
	return false
}

// PlateArrows are arrows of a plate.
type PlateArrows struct {
	ID, Field, On string
	Count         int
	Equal         bool
}

// arrows evaluates arrows of a plate, whose faults keep no model from running.
func (r *resolver) arrows(plate string, a *Arrows) (PlateArrows, bool) {
	place, before := plate+"/arrows/"+a.ID, len(r.findings)
	n, counted := r.many(place+"/count", a.Count, "number of arrows", MostArrows)
	ok := r.vector(place+"/field", a.Field, true)
	ok = r.one(place+"/on", "where arrows stand", a.On, Inside, OnSurface, OnSlices) && ok
	ok = r.one(place+"/length", "the length of arrows", a.Length, "", Equal) && ok
	r.soften(before)
	return PlateArrows{a.ID, a.Field, a.On, n, a.Length == Equal}, ok && counted
}

// PlateStreams are streams of a plate.
type PlateStreams struct {
	ID, Field string
	Count     int
	// Part is the number of the part in which they begin, −1 for all.
	Part int
	// Ways are those on which they begin, Side the patch, nil for none, and Near the place, m, nil for
	// none.
	Ways []PlateWay
	Side *Patch
	Near *[3]float64
}

// streams evaluates streams of a plate, whose faults keep no model from running.
func (r *resolver) streams(plate string, p *Plate, s *Streams) (PlateStreams, bool) {
	place, before := plate+"/streams/"+s.ID, len(r.findings)
	n, counted := r.many(place+"/count", s.Count, "number of streams", MostStreams)
	ok := r.vector(place+"/field", s.Field, false) && counted
	out := PlateStreams{ID: s.ID, Field: s.Field, Count: n, Part: -1}
	list, id, _ := strings.Cut(s.From, "/")
	switch list {
	case Everywhere:
	case "parts":
		if out.Part = r.doc.Part(id); out.Part < 0 {
			r.find(Doubtful, place+"/from", "choose another", "the part in which streams begin is not there any more")
			ok = false
		}
	case "lines":
		i := find(p.Lines, id)
		if i < 0 {
			r.find(Doubtful, place+"/from", "choose another", "the line on which streams begin is not there any more")
			ok = false
			break
		}
		line, good := r.line(plate, p, &p.Lines[i])
		out.Ways, ok = line.Ways, ok && good
	case "probes":
		i := find(p.Probes, id)
		if i < 0 {
			r.find(Doubtful, place+"/from", "choose another", "the probe at which streams begin is not there any more")
			ok = false
			break
		}
		at, good := r.probe(plate, &p.Probes[i])
		out.Near, ok = &at, ok && good
	case "sides":
		patch, err := ParsePatch(id)
		if err != nil || len(r.out.PartsOf(patch)) == 0 {
			r.find(Doubtful, place+"/from", "choose another", "the side at which streams begin is not there any more")
			ok = false
			break
		}
		if out.Side = &patch; !r.doc.Space.Flat() {
			break
		}
		// A side of a section is a line.
		line, good := r.line(plate, p, &Line{Kind: OnSide, Side: id})
		out.Side, out.Ways, ok = nil, line.Ways, ok && good
	default:
		r.find(Doubtful, place+"/from", "write "+Everywhere+", parts/ and the id of a part, or lines/ or probes/ and the number of one", "streams cannot begin at %q", s.From)
		ok = false
	}
	r.soften(before)
	return out, ok
}

// probe evaluates the place of a probe, m, whose faults keep no model from running.
func (r *resolver) probe(plate string, b *Probe) (at [3]float64, ok bool) {
	before := len(r.findings)
	ok = true
	for d, text := range [3]string{b.X, b.Y, b.Z} {
		v, good := r.value(plate+"/probes/"+b.ID+"/"+string("xyz"[d]), text, need{label: "coordinate of the probe", unit: lengthUnit, optional: true})
		at[d], ok = v, ok && good
	}
	r.soften(before)
	return at, ok
}

// PlateLook is how a plate shows its field.
type PlateLook struct {
	Map         string
	Logarithmic bool
	// Bands is the number of colours, 0 for as many as there are values.
	Bands int
	// Bent is how many times the displacement the device is bent, and Automatic says that this is
	// as much as can be seen well.
	Bent      float64
	Automatic bool
}

// MostBands is how many colours a scale can be divided into.
const MostBands = 40

// look evaluates how a plate shows its field; faults keep no model from running.
func (r *resolver) look(plate string, p *Plate) PlateLook {
	before := len(r.findings)
	var l PlateLook
	if r.one(plate+"/map", "colours", p.Map, "", AboutZero, Round) {
		l.Map = p.Map
	}
	if r.one(plate+"/spacing", "the spacing of the scale", p.Spacing, "", Logarithmic) {
		l.Logarithmic = p.Spacing == Logarithmic
	}
	if strings.TrimSpace(p.Bands) != "" {
		l.Bands, _ = r.many(plate+"/bands", p.Bands, "number of bands", MostBands)
	}
	switch strings.TrimSpace(p.Bent) {
	case "":
	case Automatic:
		l.Automatic = true
	default:
		l.Bent, _ = r.value(plate+"/bent", p.Bent, need{label: "factor of the bending"})
	}
	if l.Logarithmic && l.Map != "" {
		r.find(Doubtful, plate+"/spacing", "choose colours from the lowest to the highest", "a logarithmic scale has no middle at zero and no turn")
		l.Logarithmic = false
	}
	r.soften(before)
	return l
}

// quiet evaluates what plates show without noting faults again.
func (r *Resolved) quiet(cat *Catalog) *resolver {
	return &resolver{doc: r.Document, out: r, cat: cat}
}

// PlateArrows evaluates those arrows of a plate that can be.
func (r *Resolved) PlateArrows(p *Plate, cat *Catalog) []PlateArrows {
	var list []PlateArrows
	for i := range p.Arrows {
		if a, ok := r.quiet(cat).arrows("", &p.Arrows[i]); ok {
			list = append(list, a)
		}
	}
	return list
}

// PlateStreams evaluates those streams of a plate that can be.
func (r *Resolved) PlateStreams(p *Plate, cat *Catalog) []PlateStreams {
	var list []PlateStreams
	for i := range p.Streams {
		if s, ok := r.quiet(cat).streams("", p, &p.Streams[i]); ok {
			list = append(list, s)
		}
	}
	return list
}

// PlateProbes evaluates the places, m, of those probes of a plate that can be, by their numbers.
func (r *Resolved) PlateProbes(p *Plate) map[string][3]float64 {
	list := map[string][3]float64{}
	for i := range p.Probes {
		if at, ok := r.quiet(&Catalog{}).probe("", &p.Probes[i]); ok {
			list[p.Probes[i].ID] = at
		}
	}
	return list
}

// PlateLook evaluates how a plate shows its field.
func (r *Resolved) PlateLook(p *Plate) PlateLook { return r.quiet(&Catalog{}).look("", p) }
