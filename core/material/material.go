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
	// Basis says how it came about: quoted from the source, derived from what the source says,
	// or assumed. Spread is how far it may be off, as a part such as "3 %".
	Basis  string `json:"basis,omitempty"`
	Spread string `json:"spread,omitempty"`
}

// How values come about.
const (
	Quoted  = "quoted"
	Derived = "derived"
	Assumed = "assumed"
)

// Finish is a surface that a material may have.
type Finish struct {
	Name       string `json:"name"`
	Emissivity string `json:"emissivity"`
	// Roughness of walls of it, empty if it is not known.
	Roughness string `json:"roughness,omitempty"`
	Source    string `json:"source,omitempty"`
}

// Material is a named set of properties.
type Material struct {
	Name string `json:"name"`
	// Family groups materials and gives the colour on the drawing: metal, copper,
	// iron, brick, glass, insulation, plastic, liquid, gas, wood, light.
	Family string `json:"family,omitempty"`
	About  string `json:"about,omitempty"`
	// Temper is the treatment of a metal that its strength is of, "" if it has none.
	Temper string `json:"temper,omitempty"`
	// State has what properties depend on beside the temperature, such as "mass_fraction": "20 %".
	State      map[string]string `json:"state,omitempty"`
	Properties map[Key]Property  `json:"properties,omitempty"`
	// Finishes are the surfaces that it may have; its emissivity is of the first one.
	Finishes []Finish `json:"finishes,omitempty"`
	// Finish is the one of them that the emissivity is of, "" for the first.
	Finish string `json:"-"`
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
	if i >= 0 {
		return list[i], true
	}
	for _, a := range older {
		if !strings.EqualFold(a.name, name) {
			continue
		}
		if m, ok := Find(list, a.is); ok {
			m = m.With(a.state, a.value)
			m.Name = a.name
			return m, true
		}
	}
	return Material{}, false
}

// older are names that the library had for what is one material with a state now.
var older = []struct{ name, is, state, value string }{
	{"brine 20 %", "brine", Fraction.Name, "20 %"},
	{"brine 26 %", "brine", Fraction.Name, "26 %"},
}
