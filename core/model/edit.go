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

// maxText bounds what one value can hold, bytes.
const maxText = 20000

// Set changes the value at a place. Values that are wrong are kept as they were
// typed: findings say what is wrong with them.
func (d *Document) Set(place, value string) error {
	if len(value) > maxText {
		return fmt.Errorf("a value may have %d characters at most", maxText)
	}
	value = strings.TrimSpace(value)
	if place == "name" || strings.HasSuffix(place, "/name") {
		if err := checkName(cmp.Or(strings.TrimSuffix(strings.TrimSuffix(place, "name"), "/"), "the model"), value); err != nil {
			return err
		}
	}
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
	o, _, err := d.outlineAt(place)
	if err != nil {
		return
	}
	if k, _ := outlineKind(o.Kind); k.Points && len(o.Points) == 0 {
		o.Points = firstPoints()
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
	case "mesh":
		id, on := strings.CutSuffix(rest, "/on")
		if !on {
			return false, nil
		}
		p, err := ParsePatch(value)
		if err != nil {
			return true, err
		}
		if i := find(d.Mesh.Near, id); path[1] == "near" && i >= 0 {
			d.Mesh.Near[i].On = p
			return true, nil
		}
		if i := find(d.Mesh.Walls, id); path[1] == "walls" && i >= 0 {
			d.Mesh.Walls[i].On = p
			return true, nil
		}
		return false, gone
	case "conditions", "readings":
		s := d.sentence(path[0], path[1])
		if s == nil {
			return false, gone
		}
		if at, ok := strings.CutPrefix(rest+"/", "on/"); ok {
			at = strings.TrimSuffix(at, "/")
			if s.On.end(at) != nil {
				return false, nil // a text
			}
			return true, s.On.set(at, value)
		}
		switch rest {
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
	if !idPattern.MatchString(kind) {
		return fmt.Errorf("there is no physics %q", kind)
	}
	i := slices.IndexFunc(d.Physics, func(p Physics) bool { return p.Kind == kind })
	switch {
	case on && i < 0:
		d.Physics = append(d.Physics, Physics{Kind: kind})
	case !on && i >= 0:
		d.Physics = slices.Delete(d.Physics, i, i+1)
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
	if len(path) == 3 {
		switch path[0] {
		case "materials":
			if i := d.Material(path[1]); i >= 0 {
				return textOf(&d.Materials[i], path[2]) // properties are put back by keepValue
			}
			return nil
		case "conditions", "readings":
			s := d.sentence(path[0], path[1])
			if s == nil {
				return nil
			}
			if name, ok := strings.CutPrefix(path[2], "values/"); ok {
				text := s.Values[name] // which may not be there yet
				return &text           // put back by keepValue
			}
			if at, ok := strings.CutPrefix(path[2], "on/"); ok {
				return s.On.end(at) // put back by keepValue
			}
		}
	}
	var found *string
	d.walkAt(path[0], func(v value) {
		if v.place == place {
			found = v.text
		}
	})
	return found
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
		if at, ok := strings.CutPrefix(path[2], "on/"); ok {
			d.sentence(path[0], path[1]).On.setEnd(at, value)
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
	for _, p := range d.Plates {
		used[p.ID] = true
	}
	for _, t := range d.Trials {
		used[t.ID] = true
	}
	for i := 1; ; i++ {
		if id := prefix + strconv.Itoa(i); !used[id] {
			return id
		}
	}
}

// AddSentence adds a condition or reading about a patch and returns its id.
func (d *Document) AddSentence(cat *Catalog, key string, on Patch) (string, error) {
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

// CopySentence adds a sentence like another one behind it, about the same patch, and returns its id.
func (d *Document) CopySentence(section, id string) (string, error) {
	if section != "conditions" && section != "readings" {
		return "", &GoneError{section}
	}
	list := d.section(section)
	i := slices.IndexFunc(*list, func(s Sentence) bool { return s.ID == id })
	if i < 0 {
		return "", &GoneError{section + "/" + id}
	}
	s := (*list)[i]
	s.Values = maps.Clone(s.Values)
	s.ID = d.freeID(section[:1])
	if s.Name != "" {
		s.Name += " copy"
	}
	*list = slices.Insert(*list, i+1, s)
	return s.ID, nil
}

// ChangePatch changes what a condition or reading is about.
func (d *Document) ChangePatch(section, id string, change func(Patch) Patch) error {
	s := d.sentence(section, id)
	if s == nil {
		return &GoneError{section + "/" + id}
	}
	s.On = change(s.On)
	return nil
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
	d.renameUses(from, to)
	return nil
}

// renameUses gives what formulas and trial sets call by one name another.
func (d *Document) renameUses(from, to string) {
	for k := range d.Trials {
		for j := range d.Trials[k].Vary {
			if v := &d.Trials[k].Vary[j]; v.Parameter == from {
				v.Parameter = to
			}
		}
	}
	d.eachFormula(func(text *string) { *text = formula.Rename(*text, from, to) })
}

// eachFormula calls f with every text that may be a formula.
func (d *Document) eachFormula(f func(*string)) {
	d.walk(func(v value) {
		if v.formula {
			f(v.text)
		}
	})
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
