package model

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"saltkettle/core/formula"
)

// Lift makes the value at a place a parameter: the parameter takes the value as
// it was written, and its name stands at the place. It returns the name.
func (d *Document) Lift(place string) (string, error) {
	text := d.textAt(place)
	if text == nil || strings.HasPrefix(place, "parameters/") || strings.HasPrefix(place, "readings/") {
		return "", fmt.Errorf("the value at %s cannot become a parameter", place)
	}
	value := strings.TrimSpace(*text)
	f, err := formula.Parse(value)
	if err != nil {
		return "", fmt.Errorf("%q cannot become a parameter: %w", value, err)
	}
	if names := f.Names(); len(names) == 1 && names[0] == value {
		return "", fmt.Errorf("%s is a parameter already", value)
	}
	name := d.freeName(d.suggestName(place))
	d.Parameters = append(d.Parameters, Parameter{Name: name, Value: value})
	return name, d.Set(place, name)
}

// suggestName makes a name for the value at a place: of a part its name and the
// dimension, of a sentence the slot.
func (d *Document) suggestName(place string) string {
	path := strings.Split(place, "/")
	last := path[len(path)-1]
	if path[0] != "parts" {
		return last
	}
	if word, ok := map[string]string{"from": "bottom", "to": "top"}[last]; ok {
		last = word
	}
	if i := d.Part(path[1]); i >= 0 {
		if words := strings.Fields(d.Parts[i].Name); len(words) > 0 {
			last = words[len(words)-1] + "_" + last
		}
	}
	return last
}

// freeName turns text into a name that no parameter has.
func (d *Document) freeName(text string) string {
	base := strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || r == '_' {
			return r
		}
		return '_'
	}, text)
	if nameFault(base) != "" {
		base = "a_" + base
	}
	name := base
	for i := 2; slices.ContainsFunc(d.Parameters, func(p Parameter) bool { return p.Name == name }); i++ {
		name = fmt.Sprintf("%s%d", base, i)
	}
	return name
}

// Lower puts the value of a parameter back wherever it is used, and removes the
// parameter.
func (d *Document) Lower(name string) error {
	i := slices.IndexFunc(d.Parameters, func(p Parameter) bool { return p.Name == name })
	if i < 0 {
		return &GoneError{"parameters/" + name}
	}
	value := strings.TrimSpace(d.Parameters[i].Value)
	if value == "" {
		return fmt.Errorf("the parameter %s has no value to put back", name)
	}
	d.Parameters = slices.Delete(d.Parameters, i, i+1)
	for k := range d.Trials {
		t := &d.Trials[k]
		t.Vary = slices.DeleteFunc(slices.Clone(t.Vary), func(v Vary) bool { return v.Parameter == name })
	}
	d.eachFormula(func(text *string) {
		if strings.TrimSpace(*text) == name {
			*text = value
			return
		}
		*text = formula.Rename(*text, name, "("+value+")")
	})
	return nil
}
