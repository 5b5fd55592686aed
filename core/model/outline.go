package model

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"saltkettle/core/shape"
)

// Outline is the shape of a part in plan, about its own origin.
type Outline struct {
	// Kind is one of [OutlineKinds], which say what each uses of the rest.
	Kind     string `json:"kind"`
	Width    string `json:"width,omitempty"`
	Depth    string `json:"depth,omitempty"`
	Diameter string `json:"diameter,omitempty"`
	Inner    string `json:"inner,omitempty"`
	Angle    string `json:"angle,omitempty"`
	Sides    string `json:"sides,omitempty"`
	// Points of a path or a strip.
	Points []Point `json:"points,omitempty"`
	// Smooth makes a path a closed curve through its points.
	Smooth bool `json:"smooth,omitempty"`
	// Round is the radius of all corners, Chamfer the length that is cut off them.
	Round   string `json:"round,omitempty"`
	Chamfer string `json:"chamfer,omitempty"`
	// Room between the other parts and an outline round them.
	Left   string `json:"left,omitempty"`
	Right  string `json:"right,omitempty"`
	Front  string `json:"front,omitempty"`
	Back   string `json:"back,omitempty"`
	Below  string `json:"below,omitempty"`
	Above  string `json:"above,omitempty"`
	Margin string `json:"margin,omitempty"`
	Holes  []Hole `json:"holes,omitempty"`
}

// Point is a corner of a path, rounded if it says so. Bend is the angle by which
// the edge to the next point turns to the left; that edge is an arc then.
type Point struct {
	// ID is the number that the point keeps, whatever points come and go before it.
	ID    string `json:"id,omitempty"`
	X     string `json:"x"`
	Y     string `json:"y"`
	Round string `json:"round,omitempty"`
	Bend  string `json:"bend,omitempty"`
	// Z is its height, of a line in space.
	Z string `json:"z,omitempty"`
	// Name of the side from here to the next point; empty means e with the number of the
	// point: e1, e2 and so on.
	Name string `json:"name,omitempty"`
}

// Around says that it follows from the other parts.
func (o *Outline) Around() bool {
	k, ok := outlineKind(o.Kind)
	return ok && k.Around
}

// Roomier leaves twice as much room between the other parts and an outline round them.
func (o *Outline) Roomier() {
	for _, text := range []*string{&o.Left, &o.Right, &o.Front, &o.Back, &o.Below, &o.Above, &o.Margin} {
		if *text != "" {
			*text = "2*(" + *text + ")"
		}
	}
}

// Hole is an outline that is cut out of another one, at a place of that.
type Hole struct {
	Outline
	// ID is the number that the hole keeps.
	ID    string `json:"id,omitempty"`
	X     string `json:"x,omitempty"`
	Y     string `json:"y,omitempty"`
	Turn  string `json:"turn,omitempty"`
	Array *Array `json:"array,omitempty"`
}

// OutlineKind says what an outline is made from.
type OutlineKind struct {
	Key string
	// Template is the outline in words, with its dimensions in braces; those behind
	// the bar are optional and stand in a clause of their own.
	Template string
	// About says how it lies and what its sides are called.
	About string
	// Points says that it runs through points.
	Points bool
	// Around says that it follows from the other parts; only a part can have it, no hole.
	Around bool
	// Read says that it comes from a file, and cannot be chosen.
	Read bool
	// Line says that it is an open way in space, and no outline of anything.
	Line bool
}

// OutlineKinds lists the outlines.
var OutlineKinds = []OutlineKind{
	{Key: "rectangle", Template: "{width} by {depth}|corners rounded by {round}|corners cut off by {chamfer}", About: "`width` along x and `depth` along y about the origin; sides front, right, back, left, and corner where corners are rounded or cut"},
	{Key: "disc", Template: "{diameter} across", About: "round the origin; side rim"},
	{Key: "ring", Template: "{diameter} across with a bore of {inner}", About: "round the origin; sides rim and bore"},
	{Key: "sector", Template: "{angle} of a ring {diameter} across with a bore of {inner}", About: "a piece of a ring round the origin, from the x axis to the left; `inner` may be 0 mm; sides start, rim, end, bore"},
	{Key: "slot", Template: "{width} by {depth}|", About: "a rectangle with half circles as its left and right ends; sides front, right, back, left"},
	{Key: "polygon", Template: "{sides} sides, {width} across flats|corners rounded by {round}", About: "regular, round the origin; sides e1, e2 … to the left, e1 at the greatest x, and corner"},
	{Key: "box-around", Template: "with room of {left} on the left, {right} on the right, {front} in front, {back} at the back, {below} below and {above} above|", About: "a box round all other parts that are solved, in the directions of the axes; its span follows from `below` and `above`; sides front, right, back, left", Around: true},
	{Key: "disc-around", Template: "with room of {margin} around, {below} below and {above} above|", About: "a disc round all other parts that are solved, about the middle of their box; its span follows from `below` and `above`; side rim", Around: true},
	{Key: "surface", Template: "triangles as they were read|", About: "a closed surface that was read from a file; it lies as it was read, moved by its place; a model with such a part is meshed in bricks; sides left, right, front, back, top and bottom by where the surface faces", Read: true},
	{Key: "path", Template: "the points", About: "straight from point to point, and from the last to the first; the side behind a point is e with its number, e1 from the first point to the second and so on, and corner where a point is rounded; `bend` of a point makes the edge behind it an arc; `smooth` makes it a closed curve", Points: true},
	{Key: "strip", Template: "a width of {width} along the points", About: "a band along an open way; sides left and right of the way, start and end", Points: true},
	{Key: LineOutline, Template: "the points", About: "an open way in space, such as that of a pipe; its points have heights `z`, and `round` is the radius with which it bends at one; lines are joined where they have points at one place and where an end lies on another line; its sides are its points: start, end, and point with its number between them, or the `name` of a point", Points: true, Line: true},
}

// outlineKind looks a kind up.
func outlineKind(key string) (OutlineKind, bool) {
	i := slices.IndexFunc(OutlineKinds, func(k OutlineKind) bool { return k.Key == key })
	if i < 0 {
		return OutlineKind{}, false
	}
	return OutlineKinds[i], true
}

// OutlineKeys lists the keys of the outlines.
func OutlineKeys() []string {
	var keys []string
	for _, k := range OutlineKinds {
		if !k.Read {
			keys = append(keys, k.Key)
		}
	}
	return keys
}

// HoleKeys lists the keys of the outlines that a hole can have.
func HoleKeys() []string {
	return slices.DeleteFunc(OutlineKeys(), func(key string) bool {
		k, _ := outlineKind(key)
		return k.Around || k.Line
	})
}

// Dimension is a dimension that an outline may have.
type Dimension struct {
	Name, Label, Unit         string
	Optional, Positive, Whole bool
}

var dimensions = []Dimension{
	{Name: "width", Label: "width", Unit: "mm", Positive: true},
	{Name: "depth", Label: "depth", Unit: "mm", Positive: true},
	{Name: "diameter", Label: "diameter", Unit: "mm", Positive: true},
	{Name: "inner", Label: "inner diameter", Unit: "mm"},
	{Name: "angle", Label: "angle", Unit: "deg", Positive: true},
	{Name: "sides", Label: "number of sides", Positive: true, Whole: true},
	{Name: "round", Label: "corner radius", Unit: "mm", Optional: true},
	{Name: "chamfer", Label: "chamfer", Unit: "mm", Optional: true},
	{Name: "left", Label: "room on the left", Unit: "mm", Optional: true},
	{Name: "right", Label: "room on the right", Unit: "mm", Optional: true},
	{Name: "front", Label: "room in front", Unit: "mm", Optional: true},
	{Name: "back", Label: "room at the back", Unit: "mm", Optional: true},
	{Name: "below", Label: "room below", Unit: "mm", Optional: true},
	{Name: "above", Label: "room above", Unit: "mm", Optional: true},
	{Name: "margin", Label: "room around", Unit: "mm", Optional: true},
}

// Dimensions lists what an outline of a kind uses, in the order of its template.
func (k OutlineKind) Dimensions() []Dimension {
	var list []Dimension
	for _, piece := range strings.Split(k.Template, "{")[1:] {
		name, _, _ := strings.Cut(piece, "}")
		i := slices.IndexFunc(dimensions, func(d Dimension) bool { return d.Name == name })
		list = append(list, dimensions[i])
	}
	return list
}

// Dimension returns the text of a dimension, nil if there is none of the name.
func (o *Outline) Dimension(name string) *string {
	switch name {
	case "width":
		return &o.Width
	case "depth":
		return &o.Depth
	case "diameter":
		return &o.Diameter
	case "inner":
		return &o.Inner
	case "angle":
		return &o.Angle
	case "sides":
		return &o.Sides
	case "round":
		return &o.Round
	case "chamfer":
		return &o.Chamfer
	case "left":
		return &o.Left
	case "right":
		return &o.Right
	case "front":
		return &o.Front
	case "back":
		return &o.Back
	case "below":
		return &o.Below
	case "above":
		return &o.Above
	case "margin":
		return &o.Margin
	}
	return nil
}

// eachText calls f with every formula of an outline, its place and its words.
func (o *Outline) eachText(place, words string, f func(place, words string, text *string)) {
	for _, d := range dimensions {
		f(place+"/"+d.Name, words+", "+d.Label, o.Dimension(d.Name))
	}
	for i := range o.Points {
		p := &o.Points[i]
		at, what := place+"/points/"+p.ID, fmt.Sprintf("%s, point %d", words, i+1)
		f(at+"/x", what+", x", &p.X)
		f(at+"/y", what+", y", &p.Y)
		f(at+"/z", what+", z", &p.Z)
		f(at+"/round", what+", radius", &p.Round)
		f(at+"/bend", what+", bend behind it", &p.Bend)
	}
	for i := range o.Holes {
		h := &o.Holes[i]
		at, what := place+"/holes/"+h.ID, words+", "+h.side()
		h.eachText(at, what, f)
		f(at+"/x", what+", x", &h.X)
		f(at+"/y", what+", y", &h.Y)
		f(at+"/turn", what+", turn", &h.Turn)
		h.Array.eachText(at+"/array", what, f)
	}
}

// eachText calls f with every formula of an array, which may be nil.
func (a *Array) eachText(place, words string, f func(place, words string, text *string)) {
	if a == nil {
		return
	}
	f(place+"/count", words+", copies", &a.Count)
	f(place+"/pitch", words+", pitch", &a.Pitch)
	f(place+"/within", words+", extent of the copies", &a.Within)
	f(place+"/x", words+", centre of the copies, x", &a.X)
	f(place+"/y", words+", centre of the copies, y", &a.Y)
}

// eachText calls f with every formula of a part.
func (p *Part) eachText(f func(place, words string, text *string)) {
	at := "parts/" + p.ID
	p.Outline.eachText(at+"/outline", p.Name, f)
	f(at+"/span/from", p.Name+", bottom", &p.Span.From)
	f(at+"/span/to", p.Name+", top", &p.Span.To)
	f(at+"/place/x", p.Name+", x", &p.Place.X)
	f(at+"/place/y", p.Name+", y", &p.Place.Y)
	f(at+"/place/turn", p.Name+", turn", &p.Place.Turn)
	f(at+"/place/about_x", p.Name+", turned about, x", &p.Place.AboutX)
	f(at+"/place/about_y", p.Name+", turned about, y", &p.Place.AboutY)
	f(at+"/cells", p.Name+", cells", &p.Cells)
	p.Array.eachText(at+"/array", p.Name, f)
	p.Fill.eachText(at+"/fill", p.Name, f)
}

// outline makes an outline; ok is false if a value of it is missing or wrong,
// which has been found then.
func (r *resolver) outline(place, words string, o *Outline, depth int) (out shape.Outline, ok bool) {
	k, known := outlineKind(o.Kind)
	if !known {
		r.find(Wrong, place+"/kind", "choose one of "+strings.Join(OutlineKeys(), ", "), "there is no outline %q", o.Kind)
		return out, false
	}
	ok = true
	value := map[string]float64{}
	for _, d := range k.Dimensions() {
		v, good := r.value(place+"/"+d.Name, *o.Dimension(d.Name), need{label: d.Label + " of the " + words, unit: d.Unit, optional: d.Optional, positive: d.Positive, whole: d.Whole})
		value[d.Name] = v
		ok = ok && good
	}
	var points []shape.Vertex
	if k.Points {
		for i, p := range o.Points {
			at := place + "/points/" + p.ID
			length := func(name, text string, optional bool) float64 {
				v, good := r.value(at+"/"+name, text, need{label: fmt.Sprintf("%s of point %d of the %s", name, i+1, words), unit: "mm", optional: optional})
				ok = ok && good
				return v
			}
			bend, good := r.value(at+"/bend", p.Bend, need{label: fmt.Sprintf("bend behind point %d of the %s", i+1, words), unit: "deg", optional: true})
			ok = ok && good
			name := strings.TrimSpace(p.Name)
			if strings.ContainsAny(name, "|/") || name == shape.Top || name == shape.Bottom || name == WholeSurface || len(name) > 40 || strings.HasPrefix(name, "hole ") {
				r.find(Wrong, at+"/name", "choose another name", "a side of the %s cannot be called %q", words, name)
				ok = false
			}
			points = append(points, shape.Vertex{Name: cmp.Or(name, p.side()), Point: shape.Point{X: length("x", p.X, false), Y: length("y", p.Y, false)}, Round: length("round", p.Round, true), Bend: bend})
		}
	}
	if !ok {
		return out, false
	}
	var err error
	switch o.Kind {
	case "rectangle":
		out, err = shape.Rectangle(value["width"], value["depth"])
	case "disc":
		out, err = shape.Disc(value["diameter"])
	case "ring":
		out, err = shape.Ring(value["diameter"], value["inner"])
	case "sector":
		out, err = shape.Sector(value["diameter"], value["inner"], value["angle"])
	case "slot":
		out, err = shape.Slot(value["width"], value["depth"])
	case "polygon":
		out, err = shape.Polygon(int(value["sides"]), value["width"])
	case "surface":
		out, err = shape.Outline{}, fmt.Errorf("only a part can be a surface that was read")
	case LineOutline:
		out, err = shape.Outline{}, fmt.Errorf("only a part can be a line")
	case "box-around", "disc-around":
		return r.around(place, words, o, value, depth)
	case "path":
		out, err = shape.Path(points, o.Smooth)
	case "strip":
		out, err = shape.Strip(points, value["width"])
	}
	if err == nil && value["round"] != 0 {
		out, err = out.Round(value["round"])
	}
	if err == nil && value["chamfer"] != 0 {
		out, err = out.Chamfer(value["chamfer"])
	}
	if err != nil {
		r.find(Wrong, place+"/kind", "", "the %s: %v", words, err)
		return out, false
	}
	return r.holes(place, words, o, out, depth)
}

// holes cuts the holes out of an outline.
func (r *resolver) holes(place, words string, o *Outline, out shape.Outline, depth int) (shape.Outline, bool) {
	good := true
	for i := range o.Holes {
		h := &o.Holes[i]
		name := h.side()
		at, what := place+"/holes/"+h.ID, name+" of the "+words
		if depth > 0 {
			r.find(Wrong, at, "make it a part of its own", "the %s: a hole cannot have holes", words)
			return out, false
		}
		hole, ok := r.outline(at, what, &h.Outline, depth+1)
		x, okX := r.value(at+"/x", h.X, need{label: "position of " + what, unit: "mm", optional: true})
		y, okY := r.value(at+"/y", h.Y, need{label: "position of " + what, unit: "mm", optional: true})
		turn, okT := r.value(at+"/turn", h.Turn, need{label: "turn of " + what, unit: "deg", optional: true})
		steps, okA := r.array(at+"/array", what, h.Array)
		if !ok || !okX || !okY || !okT || !okA {
			good = false
			continue
		}
		for _, s := range steps {
			if s.dz != 0 {
				r.find(Wrong, at+"/array/along", "choose x, y or round", "%s goes through the whole height: its copies cannot lie along z", what)
				return out, false
			}
			var err error
			if out, err = out.Cut(s.place(hole, x, y, turn), name); err != nil {
				r.find(Wrong, at+"/kind", "", "the %s: %v", words, err)
				return out, false
			}
		}
	}
	return out, good
}

// extent is the size of the box around an outline, m.
func extent(o *shape.Outline) [2]float64 {
	lo, hi := o.Box()
	return [2]float64{hi.X - lo.X, hi.Y - lo.Y}
}
