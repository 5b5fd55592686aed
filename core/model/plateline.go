package model

import (
	"fmt"
	"slices"
	"strings"

	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
	"saltkettle/core/shape"
)

// Line is a way along which fields are drawn over the distance; an empty coordinate is 0.
type Line struct {
	// ID is the number that the line keeps.
	ID string `json:"id,omitempty"`
	// Kind is [Circle], [OnSide], [Along] a part that is a line, or empty for a straight way.
	Kind string `json:"kind,omitempty"`
	// The beginning of a straight way, or the middle of a circle.
	FromX string `json:"from_x,omitempty"`
	FromY string `json:"from_y,omitempty"`
	FromZ string `json:"from_z,omitempty"`
	// The end of a straight way.
	ToX string `json:"to_x,omitempty"`
	ToY string `json:"to_y,omitempty"`
	ToZ string `json:"to_z,omitempty"`
	// Radius of a circle, and the axis or the direction, as in [Slice], that it runs round; empty
	// means z.
	Radius string `json:"radius,omitempty"`
	Around string `json:"around,omitempty"`
	// Side is a side of a part along whose edge the way runs, or the part, as [Patch.String] writes it, and Height
	// is how high above the foot of the part, as a part of its height.
	Side   string `json:"side,omitempty"`
	Height string `json:"height,omitempty"`
	// Count is how many such ways there are, empty for one, each moved from the one before.
	Count string `json:"count,omitempty"`
	ByX   string `json:"by_x,omitempty"`
	ByY   string `json:"by_y,omitempty"`
	ByZ   string `json:"by_z,omitempty"`
	// Also names fields that are drawn besides that of the plate, with semicolons between them.
	Also string `json:"also,omitempty"`
}

// What ways there are besides straight ones.
const (
	Circle = "circle"
	OnSide = "side"
	Along  = "along"
)

// MostWays is how many ways one line can have.
const MostWays = 12

// texts are the formulas of a line with their names.
func (l *Line) texts() []namedText {
	return []namedText{{"from_x", &l.FromX}, {"from_y", &l.FromY}, {"from_z", &l.FromZ}, {"to_x", &l.ToX}, {"to_y", &l.ToY}, {"to_z", &l.ToZ},
		{"radius", &l.Radius}, {"height", &l.Height}, {"count", &l.Count}, {"by_x", &l.ByX}, {"by_y", &l.ByY}, {"by_z", &l.ByZ}}
}

// namedText is a text with the last part of its place.
type namedText struct {
	name string
	text *string
}

// walk goes through the texts of a line.
func (l *Line) walk(at, words string, f func(value)) {
	for _, e := range l.texts() {
		f(bound(at+e.name, words, e.text))
	}
	f(note(at+"kind", &l.Kind))
	f(note(at+"around", &l.Around))
	f(note(at+"side", &l.Side))
	f(note(at+"also", &l.Also))
}

// AddLine adds a line of a plate and returns its place.
func (d *Document) AddLine(plate string, l Line) (string, error) {
	p, err := d.plate(plate)
	if err != nil {
		return "", err
	}
	var number string
	p.Lines, number = appended(p.Lines, l)
	return "plates/" + plate + "/lines/" + number + "/from_x", nil
}

// PlateWay is a way that can be followed: one of Ends, Circle and Path.
type PlateWay struct {
	// Ends of a straight one: x, y, z of both, m.
	Ends *[6]float64 `json:"ends,omitempty"`
	// Circle has its middle, m, the direction that it runs round, of length 1, and its radius, m.
	Circle *[7]float64 `json:"circle,omitempty"`
	// Path has x, y, z, m, of the corners of any other.
	Path []float64 `json:"path,omitempty"`
}

// moved is the way at another place.
func (w PlateWay) moved(by [3]float64) PlateWay {
	switch {
	case w.Ends != nil:
		ends := *w.Ends
		for i := range ends {
			ends[i] += by[i%3]
		}
		w.Ends = &ends
	case w.Circle != nil:
		circle := *w.Circle
		for i := range by {
			circle[i] += by[i]
		}
		w.Circle = &circle
	default:
		w.Path = slices.Clone(w.Path)
		for i := range w.Path {
			w.Path[i] += by[i%3]
		}
	}
	return w
}

// PlateLine is a line of a plate with its ways, and the fields that are drawn besides that of the plate.
type PlateLine struct {
	Ways []PlateWay
	Also []sentence.Field
}

// lineMaker evaluates the texts of one line.
type lineMaker struct {
	*resolver
	place string
	line  *Line
	ok    bool
}

func (k *lineMaker) value(name, text string, n need) float64 {
	v, good := k.resolver.value(k.place+"/"+name, text, n)
	k.ok = k.ok && good
	return v
}

// vector evaluates three coordinates.
func (k *lineMaker) vector(name, x, y, z, label string) (v [3]float64) {
	for d, text := range [3]string{x, y, z} {
		v[d] = k.value(name+"_"+string("xyz"[d]), text, need{label: label, unit: lengthUnit, optional: true})
	}
	return v
}

func (k *lineMaker) wrong(name, fix, message string, values ...any) {
	k.ok = false
	k.find(Doubtful, k.place+"/"+name, fix, message, values...)
}

// way is the first of the ways of the line.
func (k *lineMaker) way() PlateWay {
	l := k.line
	switch l.Kind {
	case "":
		from := k.vector("from", l.FromX, l.FromY, l.FromZ, "coordinate of the line")
		to := k.vector("to", l.ToX, l.ToY, l.ToZ, "coordinate of the line")
		if k.ok && from == to {
			k.wrong("to_x", "move one of its ends", "the line ends where it begins")
		}
		return PlateWay{Ends: &[6]float64{from[0], from[1], from[2], to[0], to[1], to[2]}}
	case Circle:
		middle := k.vector("from", l.FromX, l.FromY, l.FromZ, "middle of the circle")
		radius := k.value("radius", l.Radius, need{label: "radius of the circle", unit: lengthUnit, positive: true})
		n := [3]float64{0, 0, 1}
		if l.Around != "" && l.Around != "z" {
			var good bool
			if n, good = k.doc.Space.normal(l.Around); !good {
				k.wrong("around", "write an axis, or a direction such as 1, 1, 0", "a circle cannot run round %q", l.Around)
			}
		}
		if k.doc.Space.Flat() && n != [3]float64{0, 0, 1} {
			k.wrong("around", "write z", "a circle in a section runs round z")
		}
		return PlateWay{Circle: &[7]float64{middle[0], middle[1], middle[2], n[0], n[1], n[2], radius}}
	case OnSide:
		return k.along()
	case Along:
		return k.alongPart()
	}
	k.wrong("kind", "write "+Circle+", "+OnSide+", "+Along+" or nothing", "a line cannot be a %q", l.Kind)
	return PlateWay{}
}

// along is the edge of a side of a part.
func (k *lineMaker) along() PlateWay {
	patch, err := ParsePatch(k.line.Side)
	part := k.doc.Part(patch.Part)
	if err != nil || part < 0 || k.out.Parts[part].Outline == nil {
		k.wrong("side", "choose another", "the side that the line runs along is not there")
		return PlateWay{}
	}
	own := &k.out.Parts[part]
	corners := own.sideCorners(patch.Side)
	if len(corners) < 2 {
		k.wrong("side", "choose a side of its outline", "the %s has no side %q that a line could run along", own.Name, patch.Side)
		return PlateWay{}
	}
	height := k.value("height", k.line.Height, need{label: "height of the line", optional: true, within: &sentence.Range{Least: 0, Most: 1}})
	var w PlateWay
	for _, c := range corners {
		w.Path = append(w.Path, c.X, c.Y, own.Z0+height*(own.Z1-own.Z0))
	}
	return w
}

// alongPart is the way of a part that is a line.
func (k *lineMaker) alongPart() PlateWay {
	patch, err := ParsePatch(k.line.Side)
	part := k.doc.Part(patch.Part)
	if err != nil || part < 0 {
		k.wrong("side", "choose another", "the part that the line runs along is not there")
		return PlateWay{}
	}
	line := k.out.Parts[part].Line
	if line == nil {
		k.wrong("side", "choose a part that is a line", "the %s is no line along which values could be drawn", k.doc.Parts[part].Name)
		return PlateWay{}
	}
	var w PlateWay
	for _, s := range line.Stations() {
		w.Path = append(w.Path, s.At[:]...)
	}
	return w
}

// line evaluates a line of a plate, whose faults keep no model from running.
func (r *resolver) line(plate string, p *Plate, l *Line) (out PlateLine, ok bool) {
	k := &lineMaker{r, plate + "/lines/" + l.ID, l, true}
	before := len(r.findings)
	way := k.way()
	count := 1
	if strings.TrimSpace(l.Count) != "" {
		n, counted := r.many(k.place+"/count", l.Count, "number of ways", MostWays)
		count, k.ok = n, k.ok && counted
	}
	by := k.vector("by", l.ByX, l.ByY, l.ByZ, "step from line to line")
	if k.ok && count > 1 && by == [3]float64{} {
		k.wrong("by_x", "say how far each is from the one before", "the %d lines lie at one place", count)
	}
	for i := range count {
		at := by
		for d := range at {
			at[d] *= float64(i)
		}
		out.Ways = append(out.Ways, way.moved(at))
	}
	if r.cat != nil && len(r.cat.Fields) > 0 {
		out.Also = k.also(p)
	}
	r.soften(before)
	return out, k.ok
}

// also are the fields that are drawn besides that of the plate. A chart has two axes for values.
func (k *lineMaker) also(p *Plate) []sentence.Field {
	_, first := k.out.Shows(p, k.cat)
	units := []quantity.Dimension{first.Dimension}
	var list []sentence.Field
	for text := range strings.SplitSeq(k.line.Also, ";") {
		if text = strings.TrimSpace(text); text == "" {
			continue
		}
		one := &Plate{Field: k.cat.FieldCalled(text)}
		_, known := k.cat.Field(one.Field)
		f, unit := k.out.Shows(one, k.cat)
		if f.Name != one.Field && !known {
			k.wrong("also", "write quantities with ; between them", "%q cannot be drawn along a line", text)
			continue
		}
		if !slices.Contains(units, unit.Dimension) {
			units = append(units, unit.Dimension)
		}
		list = append(list, f)
	}
	if len(units) > 2 {
		k.wrong("also", "draw them along a line each", "a chart has axes for two units, and these quantities have %d", len(units))
	}
	return list
}

// PlateLines evaluates those lines of a plate that can be, by their numbers.
func (r *Resolved) PlateLines(p *Plate, cat *Catalog) map[string]PlateLine {
	quiet := r.quiet(cat)
	list := map[string]PlateLine{}
	for i := range p.Lines {
		if line, ok := quiet.line("", p, &p.Lines[i]); ok {
			list[p.Lines[i].ID] = line
		}
	}
	return list
}

// sideCorners are the places, m, along a side of the outline of the first copy; nil if there is no such
// side.
func (p *ResolvedPart) sideCorners(side string) (corners []shape.Point) {
	for _, loop := range p.Outline.Loops {
		for _, edge := range loop {
			if edge.Name != side {
				continue
			}
			if corners == nil {
				corners = append(corners, edge.From)
			}
			corners = append(corners, edge.Chords(0)...)
		}
	}
	return corners
}

// sharing checks that a scale is shared with a plate that shows something of the same kind.
func (r *resolver) sharing(place string, p *Plate) {
	if p.Shared == "" {
		return
	}
	i := slices.IndexFunc(r.doc.Plates, func(q Plate) bool { return q.ID == p.Shared && q.ID != p.ID })
	if i < 0 {
		r.find(Doubtful, place+"/shared", "choose another", "the plate that shares the scale is not there any more")
		return
	}
	own, mine := r.out.Shows(p, r.cat)
	other, theirs := r.out.Shows(&r.doc.Plates[i], r.cat)
	if mine.Dimension != theirs.Dimension {
		r.find(Doubtful, place+"/shared", "choose another", "%s cannot share a scale with %s", own.Words(), other.Words())
	}
}

// SeePart says how a part is drawn on a plate: [Pale], [Hidden], or "" for as the others are.
func (d *Document) SeePart(plate, part, how string) error {
	p, err := d.plate(plate)
	if err != nil {
		return err
	}
	if d.Part(part) < 0 {
		return &GoneError{"parts/" + part}
	}
	if !slices.Contains([]string{"", Pale, Hidden}, how) {
		return fmt.Errorf("a part cannot be drawn %q", how)
	}
	p.Seen = slices.DeleteFunc(slices.Clone(p.Seen), func(s Seen) bool { return s.ID == part })
	if how != "" {
		p.Seen = append(p.Seen, Seen{part, how})
	}
	return nil
}
