package model

import (
	"slices"
	"strings"

	"saltkettle/core/formula"
)

// Use is a value that uses a parameter.
type Use struct {
	Place string
	Words string // "pan floor, top"
}

// plainText are the ends of places whose values are no formulas.
var plainText = []string{"on", "name", "role", "material", "kind", "along", "centred", "order", "medium", "heat"}

// Uses lists the values that use each parameter, by its name.
func (d *Document) Uses(cat *Catalog) map[string][]Use {
	uses := map[string][]Use{}
	known := map[string]bool{}
	for _, p := range d.Parameters {
		known[p.Name] = true
	}
	// add notes a value that may be made of several texts.
	add := func(u Use, texts ...string) {
		seen := map[string]bool{}
		for _, text := range texts {
			if !formula.Mentions(text, func(word string) bool { return known[word] }) {
				continue
			}
			f, err := formula.Parse(text)
			if err != nil {
				continue
			}
			for _, name := range f.Names() {
				if known[name] && !seen[name] {
					seen[name] = true
					uses[name] = append(uses[name], u)
				}
			}
		}
	}
	for _, e := range d.flatten(cat) {
		last := e.place[strings.LastIndexByte(e.place, '/')+1:]
		if e.value != present && !slices.Contains(plainText, last) {
			add(Use{e.place, e.what}, e.value)
		}
	}
	for i := range d.Readings {
		q := &d.Readings[i]
		if text, ok := q.Values["formula"]; ok {
			add(Use{"readings/" + q.ID + "/values/formula", q.ID}, text)
		}
	}
	for section, list := range map[string][]Sentence{"conditions": d.Conditions, "readings": d.Readings} {
		for i := range list {
			s := list[i]
			s.On.eachEnd(func(at string, text *string) { add(Use{section + "/" + s.ID + "/on/" + at, s.ID + ", box"}, *text) })
		}
	}
	for _, p := range d.Parameters {
		add(Use{"parameters/" + p.Name + "/least", "bounds of " + p.Name}, p.Least, p.Most)
	}
	for _, p := range d.Plates {
		add(Use{"plates/" + p.ID + "/low", "range of the plate " + p.Name}, p.Low, p.High)
	}
	return uses
}
