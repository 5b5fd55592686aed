// Package material holds what parts are made of: properties with their units,
// conditions and sources, and the library that ships with the program.
//
// A property is a value as text with its unit: one number, or a formula or table
// of the temperature with the range in which it holds. A model carries a copy of every material that it uses, so
// that it reads the same when the library has changed.
package material

import (
	"bytes"
	_ "embed"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"sync"
)

// Property is one property of a material.
type Property struct {
	// Value with its unit, as text; it may be a formula of the temperature, or of
	// the field for a magnetisation curve.
	Value string `json:"value"`
	// At is the condition for which a single value holds, for example "20 °C".
	At string `json:"at,omitempty"`
	// From and To are the ends of the range for which the values were measured.
	From string `json:"from,omitempty"`
	To   string `json:"to,omitempty"`
	// Source is where the value was published.
	Source string `json:"source,omitempty"`
}

// Material is a named set of properties.
type Material struct {
	Name string `json:"name"`
	// Family groups materials and gives the colour on the drawing: metal, copper,
	// iron, brick, glass, insulation, plastic, liquid, gas, wood, light.
	Family     string           `json:"family,omitempty"`
	About      string           `json:"about,omitempty"`
	Properties map[Key]Property `json:"properties,omitempty"`
}

// Families are the groups that a material may belong to.
var Families = []string{"metal", "light", "copper", "iron", "brick", "glass", "insulation", "plastic", "wood", "liquid", "gas"}

//go:embed library.json
var libraryJSON []byte

var library = sync.OnceValues(func() ([]Material, error) {
	dec := json.NewDecoder(bytes.NewReader(libraryJSON))
	dec.DisallowUnknownFields()
	var list []Material
	if err := dec.Decode(&list); err != nil {
		return nil, fmt.Errorf("the material library cannot be read: %w", err)
	}
	return list, nil
})

// Library returns the materials that ship with the program, by name. The slice
// must not be changed.
func Library() []Material {
	list, err := library()
	if err != nil {
		panic("material: " + err.Error()) // the file is embedded and tested
	}
	return list
}

// Find looks a material up in a list by its name, without regard to case.
func Find(list []Material, name string) (Material, bool) {
	name = strings.TrimSpace(name)
	i := slices.IndexFunc(list, func(m Material) bool { return strings.EqualFold(m.Name, name) })
	if i < 0 {
		return Material{}, false
	}
	return list[i], true
}
