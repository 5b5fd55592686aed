package model

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"saltkettle/core/material"
)

// changedHere is the source of a property that was typed in the model.
const changedHere = "given in this model"

// Material finds a material that the model carries; it returns −1 if it carries
// none of the name.
func (d *Document) Material(name string) int {
	return slices.IndexFunc(d.Materials, func(m material.Material) bool { return strings.EqualFold(m.Name, strings.TrimSpace(name)) })
}

// textOf returns the text of a material that stands at "family", "about", a
// property, the "at", "from", "to", "source" or "spread" of one, or a state, nil if there is none.
func textOf(m *material.Material, path string) *string {
	key, field, _ := strings.Cut(path, "/")
	switch path {
	case "family":
		return &m.Family
	case "about":
		return &m.About
	case "temper":
		return &m.Temper
	}
	if key == "state" {
		text := m.State[field]
		return &text // put back by keepMaterial
	}
	if _, known := material.Define(material.Key(key)); !known {
		return nil
	}
	p := m.Properties[material.Key(key)]
	text, ok := map[string]string{"": p.Value, "at": p.At, "from": p.From, "to": p.To, "source": p.Source, "spread": p.Spread}[field]
	if !ok {
		return nil
	}
	return &text
}

// keepMaterial changes a text of a material that the model carries. Rows of
// numbers that were pasted become a table. The source of a property whose value
// changes is forgotten: it is the user's now.
func (d *Document) keepMaterial(name, path, value string) {
	i := d.Material(name)
	if i < 0 {
		return
	}
	m := &d.Materials[i]
	key, field, _ := strings.Cut(path, "/")
	if key == "state" {
		*m = m.With(field, value)
		if value == "" {
			delete(m.State, field)
		}
		return
	}
	def, known := material.Define(material.Key(key))
	if !known {
		return
	}
	old := m.Properties[def.Key]
	p := old
	switch field {
	case "":
		if text, ok := material.PasteTable(def, value); ok {
			value = text
		}
		if p.Value != value {
			p = material.Property{Value: value, Source: changedHere}
		}
	case "at":
		p.At = value
	case "from":
		p.From = value
	case "to":
		p.To = value
	case "source":
		p.Source = value
	case "spread":
		p.Spread = value
	}
	if p == old {
		return
	}
	// The map may be the library's.
	m.Properties = maps.Clone(m.Properties)
	if m.Properties == nil {
		m.Properties = map[material.Key]material.Property{}
	}
	m.Properties[def.Key] = p
}

// CarryAll copies every material that parts use and that the model does not
// carry yet into the model.
func (d *Document) CarryAll() {
	for _, p := range d.Parts {
		d.carry(p.Material)
	}
}

// carry copies a material of the library into the model, under the name that the
// library has for it.
func (d *Document) carry(name string) {
	if d.Material(name) >= 0 {
		return
	}
	if m, ok := material.Find(material.Library(), name); ok {
		d.Materials = append(d.Materials, m)
	}
}

// UseMaterial copies a material of the library into the model.
func (d *Document) UseMaterial(name string) error {
	d.carry(name)
	if d.Material(name) < 0 {
		return fmt.Errorf("the library has no material %q", name)
	}
	return nil
}

// AddMaterial adds a material without properties, or a copy of another one.
func (d *Document) AddMaterial(name, like string) error {
	name = strings.TrimSpace(name)
	if err := material.CheckName(name); err != nil {
		return err
	}
	if d.Material(name) >= 0 {
		return fmt.Errorf("the model has a material %q already", name)
	}
	m := material.Material{Name: name}
	if like != "" {
		from, ok := material.Find(d.Materials, like)
		if !ok {
			if from, ok = material.Find(material.Library(), like); !ok {
				return fmt.Errorf("there is no material %q to copy", like)
			}
		}
		m = from
		m.Name, m.Properties, m.State = name, maps.Clone(from.Properties), maps.Clone(from.State)
	}
	d.Materials = append(d.Materials, m)
	return nil
}

// RenameMaterial changes the name of a material that the model carries, and of
// the parts that are made of it.
func (d *Document) RenameMaterial(from, to string) error {
	i := d.Material(from)
	if i < 0 {
		return &GoneError{"materials/" + from}
	}
	to = strings.TrimSpace(to)
	if err := material.CheckName(to); err != nil {
		return err
	}
	if j := d.Material(to); j >= 0 && j != i {
		return fmt.Errorf("the model has a material %q already", to)
	}
	for k := range d.Parts {
		if strings.EqualFold(strings.TrimSpace(d.Parts[k].Material), d.Materials[i].Name) {
			d.Parts[k].Material = to
		}
	}
	d.Materials[i].Name = to
	return nil
}

// RemoveMaterial takes a material out of the model, unless a part is made of it.
func (d *Document) RemoveMaterial(name string) error {
	i := d.Material(name)
	if i < 0 {
		return &GoneError{"materials/" + name}
	}
	if parts := d.MadeOf(name); len(parts) > 0 {
		return fmt.Errorf("the %s is made of %s: give it another material first", d.Parts[parts[0]].Name, name)
	}
	d.Materials = slices.Delete(d.Materials, i, i+1)
	return nil
}

// RemoveProperty takes a property away from a material that the model carries.
func (d *Document) RemoveProperty(name string, key material.Key) error {
	i := d.Material(name)
	if i < 0 {
		return &GoneError{"materials/" + name}
	}
	d.Materials[i].Properties = maps.Clone(d.Materials[i].Properties)
	delete(d.Materials[i].Properties, key)
	return nil
}

// AddProperty gives a material a property without a value yet, to be typed.
func (d *Document) AddProperty(name string, key material.Key) error {
	i := d.Material(name)
	if i < 0 {
		return &GoneError{"materials/" + name}
	}
	if _, known := material.Define(key); !known {
		return fmt.Errorf("there is no property %q", key)
	}
	m := &d.Materials[i]
	if _, there := m.Properties[key]; there {
		return nil
	}
	m.Properties = maps.Clone(m.Properties)
	if m.Properties == nil {
		m.Properties = map[material.Key]material.Property{}
	}
	m.Properties[key] = material.Property{}
	return nil
}

// MadeOf lists the parts that are made of a material, by index.
func (d *Document) MadeOf(name string) []int {
	var list []int
	for i := range d.Parts {
		if strings.EqualFold(strings.TrimSpace(d.Parts[i].Material), strings.TrimSpace(name)) {
			list = append(list, i)
		}
	}
	return list
}

// ImportMaterials adds materials to the model. Those of a name that the model
// has are an error, unless they are to replace what it has.
func (d *Document) ImportMaterials(list []material.Material, replace bool) error {
	var twice []string
	for _, m := range list {
		if d.Material(m.Name) >= 0 {
			twice = append(twice, m.Name)
		}
	}
	if len(twice) > 0 && !replace {
		return fmt.Errorf("the model has %s already: choose to replace what it has, or rename it first", strings.Join(twice, ", "))
	}
	for _, m := range list {
		if i := d.Material(m.Name); i >= 0 {
			d.Materials[i] = m
		} else {
			d.Materials = append(d.Materials, m)
		}
	}
	return nil
}
