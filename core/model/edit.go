package model

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/sentence"
)

// GoneError says that an edit speaks of something that is no longer there, for
// example because it was removed in another window.
type GoneError struct{ Place string }

func (e *GoneError) Error() string {
	return fmt.Sprintf("%s is no longer there; it may have been removed in another window", e.Place)
}

// maxText bounds what one value can hold.
const maxText = 20000

// Set changes the value at a place. Values that are wrong are kept as they were
// typed: findings say what is wrong with them.
func (d *Document) Set(place, value string) error {
	if len(value) > maxText {
		return fmt.Errorf("a value may have %d characters at most", maxText)
	}
	value = strings.TrimSpace(value)
	if place == "name" && value == "" {
		return fmt.Errorf("a model needs a name")
	}
	if done, err := d.setSpecial(strings.Split(place, "/"), value); done || err != nil {
		return err
	}
	text := d.textAt(place)
	if text == nil {
		return &GoneError{place}
	}
	*text = value
	if strings.HasPrefix(place, "parts/") && strings.HasSuffix(place, "/kind") {
		d.givePoints(strings.TrimSuffix(place, "/kind"))
	}
	if name, ok := strings.CutSuffix(place, "/material"); ok && strings.HasPrefix(name, "parts/") {
		d.carry(value)
	}
	d.keepValue(place, value)
	return nil
}

// givePoints gives an outline that has become a path its first points.
func (d *Document) givePoints(place string) {
	o, _, _, err := d.outlineAt(place)
	if err != nil {
		return
	}
	if k, _ := outlineKind(o.Kind); k.Points && len(o.Points) == 0 {
		o.Points = make([]Point, 3)
	}
}

// setSpecial handles the places whose values are not plain text.
func (d *Document) setSpecial(path []string, value string) (done bool, err error) {
	if len(path) == 2 && path[0] == "physics" {
		return true, d.setPhysics(path[1], value == "true")
	}
	if len(path) < 3 {
		return false, nil
	}
	gone := &GoneError{strings.Join(path, "/")}
	rest := strings.Join(path[2:], "/")
	switch path[0] {
	case "parameters":
		if rest != "name" {
			return false, nil
		}
		i := slices.IndexFunc(d.Parameters, func(p Parameter) bool { return p.Name == path[1] })
		if i < 0 {
			return false, gone
		}
		return true, d.renameParameter(i, value)
	case "materials":
		if rest == "name" {
			return true, d.RenameMaterial(path[1], value)
		}
	case "parts":
		i := d.Part(path[1])
		if i < 0 {
			return false, gone
		}
		p := &d.Parts[i]
		switch rest {
		case "role":
			p.Role = Role(value)
			return true, nil
		case "place/mirror":
			p.Place.Mirror = value == "true"
			return true, nil
		case "outline/smooth":
			p.Outline.Smooth = value == "true"
			return true, nil
		case "array/centred":
			if p.Array == nil {
				return false, gone
			}
			p.Array.Centred = value == "true"
			return true, nil
		}
		if strings.HasPrefix(rest, "outline/") && strings.HasSuffix(rest, "/kind") || rest == "outline/kind" {
			if _, known := outlineKind(value); !known {
				return false, fmt.Errorf("there is no outline %q", value)
			}
		}
	case "conditions", "readings":
		s := d.sentence(path[0], path[1])
		if s == nil {
			return false, gone
		}
		switch rest {
		case "on":
			p, err := ParsePatch(value)
			if err == nil {
				s.On = p
			}
			return true, err
		case "off":
			s.Off = value == "true"
			return true, nil
		}
	case "plates":
		if len(d.Plates) == 0 {
			d.Plates = New("").Plates
		}
	}
	return false, nil
}

// setPhysics takes a physics in or out.
func (d *Document) setPhysics(kind string, on bool) error {
	if kind != "heat" && kind != "electric" {
		return fmt.Errorf("there is no physics %q", kind)
	}
	i := slices.IndexFunc(d.Physics, func(p Physics) bool { return p.Kind == kind })
	switch {
	case on && i < 0:
		d.Physics = append(d.Physics, Physics{Kind: kind})
	case !on && i >= 0:
		d.Physics = slices.Delete(d.Physics, i, i+1)
	}
	if len(d.Physics) == 0 {
		// Current flows where sentences say so.
		d.Physics = []Physics{{Kind: "electric"}}
	}
	return nil
}

// Solves says that a physics is taken in.
func (d *Document) Solves(kind string) bool {
	return slices.ContainsFunc(d.Physics, func(p Physics) bool { return p.Kind == kind })
}

// sentence finds a condition or reading, nil if it is not there.
func (d *Document) sentence(section, id string) *Sentence {
	list := *d.section(section)
	i := slices.IndexFunc(list, func(s Sentence) bool { return s.ID == id })
	if i < 0 {
		return nil
	}
	return &list[i]
}

// textAt returns the text at a place, nil if there is none.
func (d *Document) textAt(place string) *string {
	path := strings.SplitN(place, "/", 3)
	fields := map[string]*string{"name": &d.Name, "site": &d.Site, "aim": &d.Aim,
		"space/unit": &d.Space.Unit, "space/kind": &d.Space.Kind, "space/depth": &d.Space.Depth, "mesh/size": &d.Mesh.Size, "mesh/across": &d.Mesh.Across, "mesh/order": &d.Mesh.Order,
		"run/kind": &d.Run.Kind, "run/end": &d.Run.End, "run/start": &d.Run.Start, "run/tolerance": &d.Run.Tolerance}
	if len(path) < 3 {
		return fields[place]
	}
	fields = nil
	switch path[0] {
	case "parameters":
		if i := slices.IndexFunc(d.Parameters, func(p Parameter) bool { return p.Name == path[1] }); i >= 0 {
			p := &d.Parameters[i]
			fields = map[string]*string{"value": &p.Value, "about": &p.About, "unit": &p.Unit, "least": &p.Least, "most": &p.Most}
		}
	case "materials":
		if i := d.Material(path[1]); i >= 0 {
			return textOf(&d.Materials[i], path[2]) // properties are put back by keepValue
		}
		return nil
	case "parts":
		if i := d.Part(path[1]); i >= 0 {
			p := &d.Parts[i]
			fields = map[string]*string{"name": &p.Name, "material": &p.Material}
			p.eachText(func(at, _ string, text *string) { fields[strings.TrimPrefix(at, "parts/"+p.ID+"/")] = text })
			if p.Array != nil {
				fields["array/along"] = &p.Array.Along
			}
			fields["outline/kind"] = &p.Outline.Kind
			for i := range p.Outline.Holes {
				h := &p.Outline.Holes[i]
				at := fmt.Sprintf("outline/holes/%d/", i+1)
				fields[at+"kind"] = &h.Kind
				if h.Array != nil {
					fields[at+"array/along"] = &h.Array.Along
				}
			}
		}
	case "conditions", "readings":
		if s := d.sentence(path[0], path[1]); s != nil {
			if name, ok := strings.CutPrefix(path[2], "values/"); ok {
				text := s.Values[name]
				return &text // put back by keepValue
			}
			fields = map[string]*string{"name": &s.Name, "unit": &s.Unit}
		}
	case "plates":
		if i := slices.IndexFunc(d.Plates, func(p Plate) bool { return p.ID == path[1] }); i >= 0 {
			p := &d.Plates[i]
			fields = map[string]*string{"name": &p.Name, "field": &p.Field, "unit": &p.Unit, "low": &p.Low, "high": &p.High}
		}
	}
	return fields[path[2]]
}

// keepValue stores what lies in maps: the values of sentences and the properties
// of materials.
func (d *Document) keepValue(place, value string) {
	path := strings.SplitN(place, "/", 3)
	if len(path) < 3 {
		return
	}
	switch path[0] {
	case "conditions", "readings":
		if name, ok := strings.CutPrefix(path[2], "values/"); ok {
			s := d.sentence(path[0], path[1])
			if s.Values == nil {
				s.Values = map[string]string{}
			}
			s.Values[name] = value
		}
	case "materials":
		d.keepMaterial(path[1], path[2], value)
	}
}

// section returns the list of sentences of a section.
func (d *Document) section(name string) *[]Sentence {
	if name == "readings" {
		return &d.Readings
	}
	return &d.Conditions
}

// AddPart adds a part of an outline kind on top of the last one and returns its
// id.
func (d *Document) AddPart(outline string) (string, error) {
	k, known := outlineKind(outline)
	if !known {
		return "", fmt.Errorf("there is no outline %q", outline)
	}
	p := Part{ID: d.freeID("p"), Role: Solved, Outline: Outline{Kind: outline}}
	if k.Points {
		p.Outline.Points = make([]Point, 3)
	}
	p.Name = "part " + strings.TrimPrefix(p.ID, "p")
	if n := len(d.Parts); n > 0 {
		p.Span.From = d.Parts[n-1].Span.To
	}
	d.Parts = append(d.Parts, p)
	return p.ID, nil
}

// freeID returns the first of p1, p2 … that no part, condition, reading or plate
// has.
func (d *Document) freeID(prefix string) string {
	used := map[string]bool{}
	for _, p := range d.Parts {
		used[p.ID] = true
	}
	for _, s := range d.Conditions {
		used[s.ID] = true
	}
	for _, s := range d.Readings {
		used[s.ID] = true
	}
	for i := 1; ; i++ {
		if id := prefix + strconv.Itoa(i); !used[id] {
			return id
		}
	}
}

// DuplicatePart adds a copy of a part after it and returns its id.
func (d *Document) DuplicatePart(id string) (string, error) {
	i := d.Part(id)
	if i < 0 {
		return "", &GoneError{"parts/" + id}
	}
	p := d.Parts[i]
	p.ID = d.freeID("p")
	p.Name += " copy"
	p.Array = p.Array.clone()
	p.Outline.Points = slices.Clone(p.Outline.Points)
	p.Outline.Holes = slices.Clone(p.Outline.Holes)
	for k := range p.Outline.Holes {
		p.Outline.Holes[k].Points = slices.Clone(p.Outline.Holes[k].Points)
		p.Outline.Holes[k].Array = p.Outline.Holes[k].Array.clone()
	}
	d.Parts = slices.Insert(d.Parts, i+1, p)
	return p.ID, nil
}

// RemovePart removes a part. Sentences about it stay and become findings, so
// that nothing is lost that a new part could take over.
func (d *Document) RemovePart(id string) error {
	i := d.Part(id)
	if i < 0 {
		return &GoneError{"parts/" + id}
	}
	d.Parts = slices.Delete(d.Parts, i, i+1)
	return nil
}

// MovePart shifts a part by a number of places in the order of parts.
func (d *Document) MovePart(id string, by int) error {
	i := d.Part(id)
	if i < 0 {
		return &GoneError{"parts/" + id}
	}
	to := min(max(i+by, 0), len(d.Parts)-1)
	p := d.Parts[i]
	d.Parts = slices.Insert(slices.Delete(d.Parts, i, i+1), to, p)
	return nil
}

func (a *Array) clone() *Array {
	if a == nil {
		return nil
	}
	c := *a
	return &c
}

// AddHole adds a hole to the outline of a part.
func (d *Document) AddHole(id, kind string) (place string, err error) {
	i := d.Part(id)
	if i < 0 {
		return "", &GoneError{"parts/" + id}
	}
	k, known := outlineKind(kind)
	if !known {
		return "", fmt.Errorf("there is no outline %q", kind)
	}
	h := Hole{Outline: Outline{Kind: kind}}
	if k.Points {
		h.Points = make([]Point, 3)
	}
	o := &d.Parts[i].Outline
	o.Holes = append(o.Holes, h)
	return fmt.Sprintf("parts/%s/outline/holes/%d", id, len(o.Holes)), nil
}

// outlineAt finds the outline at a place such as parts/p1/outline or
// parts/p1/outline/holes/2; hole counts from 1 and is 0 for the part's own.
func (d *Document) outlineAt(place string) (o *Outline, part, hole int, err error) {
	path := strings.Split(place, "/")
	if len(path) >= 3 && path[0] == "parts" && path[2] == "outline" {
		if part = d.Part(path[1]); part >= 0 {
			o = &d.Parts[part].Outline
			if len(path) == 3 {
				return o, part, 0, nil
			}
			if n, err := strconv.Atoi(path[len(path)-1]); err == nil && len(path) == 5 && path[3] == "holes" && n >= 1 && n <= len(o.Holes) {
				return &o.Holes[n-1].Outline, part, n, nil
			}
		}
	}
	return nil, 0, 0, &GoneError{place}
}

// RemoveHole takes the hole at a place away.
func (d *Document) RemoveHole(place string) error {
	_, part, hole, err := d.outlineAt(place)
	if err != nil {
		return err
	}
	if hole == 0 {
		return fmt.Errorf("%s is no hole", place)
	}
	o := &d.Parts[part].Outline
	o.Holes = slices.Delete(o.Holes, hole-1, hole)
	return nil
}

// SetHoleArray makes the hole at a place an array, or a single one again.
func (d *Document) SetHoleArray(place string, on bool) error {
	_, part, hole, err := d.outlineAt(place)
	if err != nil || hole == 0 {
		return cmp.Or(err, error(&GoneError{place}))
	}
	h := &d.Parts[part].Outline.Holes[hole-1]
	h.Array = nil
	if on {
		h.Array = &Array{Count: "2", Along: "x", Centred: true}
	}
	return nil
}

// maxPoints bounds a path.
const maxPoints = 1000

// AddPoint adds a point behind the one with the number after, counted from 1, to
// the outline at a place.
func (d *Document) AddPoint(place string, after int) (string, error) {
	o, _, _, err := d.outlineAt(place)
	if err != nil {
		return "", err
	}
	if len(o.Points) >= maxPoints {
		return "", fmt.Errorf("a path may have %d points at most", maxPoints)
	}
	after = min(max(after, 0), len(o.Points))
	o.Points = slices.Insert(slices.Clone(o.Points), after, Point{})
	return fmt.Sprintf("%s/points/%d/x", place, after+1), nil
}

// RemovePoint takes a point, counted from 1, away from the outline at a place.
func (d *Document) RemovePoint(place string, n int) error {
	o, _, _, err := d.outlineAt(place)
	if err != nil {
		return err
	}
	if n < 1 || n > len(o.Points) {
		return &GoneError{fmt.Sprintf("%s/points/%d", place, n)}
	}
	o.Points = slices.Delete(slices.Clone(o.Points), n-1, n)
	return nil
}

// SetArray makes a part an array, or a single body again.
func (d *Document) SetArray(id string, on bool) error {
	i := d.Part(id)
	if i < 0 {
		return &GoneError{"parts/" + id}
	}
	d.Parts[i].Array = nil
	if on {
		d.Parts[i].Array = &Array{Count: "2", Along: "x", Centred: true}
	}
	return nil
}

// AddSentence adds a condition or reading about a patch and returns its id.
func (d *Document) AddSentence(cat *sentence.Catalog, key string, on Patch) (string, error) {
	k, ok := cat.Kind(key)
	if !ok {
		return "", fmt.Errorf("there is no sentence of the kind %q", key)
	}
	s := Sentence{Kind: key, On: on}
	if k.Acts == 0 {
		s.On = Patch{}
	}
	for _, slot := range k.Slots {
		if slot.Default != "" {
			if s.Values == nil {
				s.Values = map[string]string{}
			}
			s.Values[slot.Name] = slot.Default
		}
	}
	if k.Group == sentence.Reading {
		s.ID = d.freeID("r")
		d.Readings = append(d.Readings, s)
	} else {
		s.ID = d.freeID("c")
		d.Conditions = append(d.Conditions, s)
	}
	return s.ID, nil
}

// RemoveSentence removes a condition or reading from its section.
func (d *Document) RemoveSentence(section, id string) error {
	list := d.section(section)
	i := slices.IndexFunc(*list, func(s Sentence) bool { return s.ID == id })
	if i < 0 {
		return &GoneError{section + "/" + id}
	}
	*list = slices.Delete(*list, i, i+1)
	return nil
}

// AddParameter adds a parameter without a value and returns its name.
func (d *Document) AddParameter() string {
	for i := 1; ; i++ {
		name := "a" + strconv.Itoa(i)
		if !slices.ContainsFunc(d.Parameters, func(p Parameter) bool { return p.Name == name }) {
			d.Parameters = append(d.Parameters, Parameter{Name: name})
			return name
		}
	}
}

// RemoveParameter removes a parameter. Formulas that use it become findings.
func (d *Document) RemoveParameter(name string) error {
	i := slices.IndexFunc(d.Parameters, func(p Parameter) bool { return p.Name == name })
	if i < 0 {
		return &GoneError{"parameters/" + name}
	}
	d.Parameters = slices.Delete(d.Parameters, i, i+1)
	return nil
}

// renameParameter changes a name everywhere it is used.
func (d *Document) renameParameter(i int, to string) error {
	from := d.Parameters[i].Name
	if to == from {
		return nil
	}
	if what := nameFault(to); what != "" {
		return fmt.Errorf("%s", what)
	}
	if slices.ContainsFunc(d.Parameters, func(p Parameter) bool { return p.Name == to }) {
		return fmt.Errorf("there is a parameter %s already", to)
	}
	d.Parameters[i].Name = to
	d.eachFormula(func(text *string) { *text = formula.Rename(*text, from, to) })
	return nil
}

// eachFormula calls f with every text that may be a formula.
func (d *Document) eachFormula(f func(*string)) {
	for i := range d.Parameters {
		p := &d.Parameters[i]
		f(&p.Value)
		f(&p.Least)
		f(&p.Most)
	}
	for i := range d.Materials {
		m := &d.Materials[i]
		own := false // the map may be the library's
		for key, p := range m.Properties {
			before := p.Value
			if f(&p.Value); p.Value != before {
				if !own {
					m.Properties, own = maps.Clone(m.Properties), true
				}
				m.Properties[key] = p
			}
		}
	}
	for i := range d.Parts {
		d.Parts[i].eachText(func(_, _ string, text *string) { f(text) })
	}
	for _, list := range [][]Sentence{d.Conditions, d.Readings} {
		for i := range list {
			for name, text := range list[i].Values {
				f(&text)
				list[i].Values[name] = text
			}
		}
	}
	f(&d.Mesh.Size)
	f(&d.Mesh.Across)
	f(&d.Run.End)
	f(&d.Run.Start)
	f(&d.Run.Tolerance)
	for i := range d.Plates {
		f(&d.Plates[i].Low)
		f(&d.Plates[i].High)
	}
}

// SetParameter gives a parameter another value, for trials and the command line.
func (d *Document) SetParameter(name, value string) error {
	for i := range d.Parameters {
		if d.Parameters[i].Name == name {
			d.Parameters[i].Value = value
			return nil
		}
	}
	var names []string
	for _, p := range d.Parameters {
		names = append(names, p.Name)
	}
	return fmt.Errorf("the model has no parameter %q; it has %s", name, strings.Join(names, ", "))
}
