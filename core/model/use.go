package model

import (
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/sentence"
)

// Use is a value that uses a parameter.
type Use struct {
	Place string
	Words string // "pan floor, top"
}

// plainText are the ends of places whose values are no formulas.
var plainText = []string{"on", "name", "role", "material", "kind", "along", "centred", "order", "medium", "heat"}

// UsesOf lists the values that use a parameter.
func (d *Document) UsesOf(name string, cat *sentence.Catalog) []Use {
	var list []Use
	uses := func(text string) bool {
		f, err := formula.Parse(text)
		return err == nil && slices.Contains(f.Names(), name)
	}
	for _, e := range d.flatten(cat) {
		last := e.place[strings.LastIndexByte(e.place, '/')+1:]
		if e.value != present && !slices.Contains(plainText, last) && uses(e.value) {
			list = append(list, Use{e.place, e.what})
		}
	}
	for i := range d.Readings {
		q := &d.Readings[i]
		if text, ok := q.Values["formula"]; ok && uses(text) {
			list = append(list, Use{"readings/" + q.ID + "/values/formula", q.ID})
		}
	}
	for _, p := range d.Parameters {
		if uses(p.Least) || uses(p.Most) {
			list = append(list, Use{"parameters/" + p.Name + "/least", "bounds of " + p.Name})
		}
	}
	for _, p := range d.Plates {
		if uses(p.Low) || uses(p.High) {
			list = append(list, Use{"plates/" + p.ID + "/low", "range of the plate " + p.Name})
		}
	}
	return list
}
