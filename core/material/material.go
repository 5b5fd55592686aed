// Package material holds what parts are made of: properties with their units,
// conditions and sources, and the library that ships with the program.
//
// A property is a value as text with its unit, valid near the temperature that
// is stated with it. A model carries a copy of every material that it uses, so
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

	"saltkettle/core/quantity"
)

// Key names a property.
type Key string

// The properties that are known.
const (
	Density      Key = "density"
	Conductivity Key = "conductivity"
	HeatCapacity Key = "heat_capacity"
)

// Definition says what a property is.
type Definition struct {
	Key  Key
	Name string
	// Symbol is the letter that textbooks use.
	Symbol string
	// Unit is the SI unit in which it is usually given.
	Unit string
}

// Definitions lists the known properties in the order in which they are shown.
var Definitions = []Definition{
	{Density, "density", "ρ", "kg/m³"},
	{Conductivity, "thermal conductivity", "k", "W/(m·K)"},
	{HeatCapacity, "heat capacity", "c", "J/(kg·K)"},
}

// Define returns the definition of a property.
func Define(k Key) (Definition, bool) {
	for _, d := range Definitions {
		if d.Key == k {
			return d, true
		}
	}
	return Definition{}, false
}

// Property is one property of a material.
type Property struct {
	// Value with its unit, as text.
	Value string `json:"value"`
	// At is the condition for which it holds, for example "20 °C".
	At string `json:"at,omitempty"`
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

// SI evaluates a property. It fails if the material lacks it or the text is not
// a positive value of the right dimension.
func (m Material) SI(k Key) (float64, error) {
	d, ok := Define(k)
	if !ok {
		panic("material: unknown property " + string(k))
	}
	p, ok := m.Properties[k]
	if !ok || strings.TrimSpace(p.Value) == "" {
		return 0, fmt.Errorf("%s has no %s", m.Name, d.Name)
	}
	u, n, err := number(p.Value)
	if err != nil {
		return 0, fmt.Errorf("the %s of %s: %w", d.Name, m.Name, err)
	}
	if want := quantity.MustUnit(d.Unit).Dimension; u.Dimension != want {
		return 0, fmt.Errorf("the %s of %s is given as %s; write it in %s", d.Name, m.Name, u.Dimension.Name(), d.Unit)
	}
	v := u.SI(n)
	if !(v > 0) {
		return 0, fmt.Errorf("the %s of %s must be greater than zero", d.Name, m.Name)
	}
	return v, nil
}

// number splits "0.9 W/(m·K)" into its unit and its number.
func number(text string) (quantity.Unit, float64, error) {
	text = strings.TrimSpace(text)
	end := len(text)
	for i, r := range text {
		if !strings.ContainsRune("+-.0123456789eE", r) {
			end = i
			break
		}
	}
	var n float64
	if _, err := fmt.Sscan(text[:end], &n); err != nil {
		return quantity.Unit{}, 0, fmt.Errorf("%q does not begin with a number", text)
	}
	u, err := quantity.ParseUnit(text[end:])
	return u, n, err
}
