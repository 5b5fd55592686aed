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

// propertyAt returns the text of a property of a material that the model
// carries, nil if it carries no such material or there is no such property.
func (d *Document) propertyAt(name string, key material.Key) *string {
	m, ok := material.Find(d.Materials, name)
	if _, known := material.Define(key); !ok || !known {
		return nil
	}
	text := m.Properties[key].Value
	return &text
}

// keepProperty changes a property of a material that the model carries. Its
// source is forgotten: it is the user's value now.
func (d *Document) keepProperty(name string, key material.Key, value string) {
	for i := range d.Materials {
		m := &d.Materials[i]
		if !strings.EqualFold(m.Name, strings.TrimSpace(name)) || m.Properties[key].Value == value {
			continue
		}
		// The map may be the library's.
		m.Properties = maps.Clone(m.Properties)
		if m.Properties == nil {
			m.Properties = map[material.Key]material.Property{}
		}
		m.Properties[key] = material.Property{Value: value, Source: changedHere}
	}
}

// CarryAll copies every material that parts use and that the model does not
// carry yet into the model.
func (d *Document) CarryAll() {
	for _, p := range d.Parts {
		d.carry(p.Material)
	}
}

// AddMaterial adds a material without properties, or a copy of another one.
func (d *Document) AddMaterial(name, like string) error {
	name = strings.TrimSpace(name)
	switch {
	case name == "" || len(name) > 80 || strings.ContainsAny(name, "/|"):
		return fmt.Errorf("a material needs a name of up to 80 characters without / and |")
	case slices.ContainsFunc(d.Materials, func(m material.Material) bool { return strings.EqualFold(m.Name, name) }):
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
		m.Family, m.About, m.Properties = from.Family, from.About, maps.Clone(from.Properties)
	}
	d.Materials = append(d.Materials, m)
	return nil
}
