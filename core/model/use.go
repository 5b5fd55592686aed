package model

import (
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/sentence"
)

// Use is a value that uses a parameter.
type Use struct {
	Place string
	Words string // "pan floor, top"
}

// Uses lists the values that use each parameter, by its name.
func (d *Document) Uses(cat *Catalog) map[string][]Use {
	uses := map[string][]Use{}
	known := map[string]bool{}
	for _, p := range d.Parameters {
		known[p.Name] = true
	}
	d.walk(func(v value) {
		words, ok := d.useWords(cat, v)
		if !ok || !formula.Mentions(*v.text, func(word string) bool { return known[word] }) {
			return
		}
		f, err := formula.Parse(*v.text)
		if err != nil {
			return
		}
		for _, name := range f.Names() {
			list := uses[name]
			if n := len(list); !known[name] || n > 0 && list[n-1].Words == words {
				continue // it stands in another text of the same thing
			}
			uses[name] = append(list, Use{v.place, words})
		}
	})
	return uses
}

// Liftable lists the values that may become parameters: numbers that decide what a run comes to.
func (d *Document) Liftable(cat *Catalog) (list []Use) {
	d.walk(func(v value) {
		words, ok := d.useWords(cat, v)
		path := strings.Split(v.place, "/")
		if !ok || !v.decides || words == "" || strings.TrimSpace(*v.text) == "" || path[0] == "parameters" || path[0] == "readings" || path[0] == "run" {
			return
		}
		f, err := formula.Parse(*v.text)
		if err != nil || len(f.Names()) > 0 {
			return
		}
		if _, err := f.Eval(formula.Values{}); err == nil {
			list = append(list, Use{v.place, words + ": " + strings.TrimSpace(*v.text)})
		}
	})
	return list
}

// useWords are those for a value that may use parameters; ok is false for one that is no formula.
func (d *Document) useWords(cat *Catalog, v value) (words string, ok bool) {
	path := strings.Split(v.place, "/")
	if !v.formula || len(path) != 4 || path[2] != "values" {
		return v.words, v.formula
	}
	s := d.sentence(path[0], path[1])
	k, known := cat.Kind(s.Kind)
	if !known {
		return "", false
	}
	slot, known := k.Slot(path[3])
	if !known || slot.Kind == sentence.Text {
		return "", false
	}
	if len(k.Slots) > 1 {
		return s.ID + ", " + slot.Label, true
	}
	return s.ID, true
}
