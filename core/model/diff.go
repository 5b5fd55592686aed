package model

import (
	"fmt"
	"reflect"
	"strings"
)

// Change is one difference between two models, in words.
type Change struct {
	// Place is where the value stands in the newer model.
	Place string
	// What names the thing that changed, for example "pan floor, top".
	What string
	// From and To are the values; From is empty for something added, To for
	// something removed.
	From, To string
}

func (c Change) String() string {
	switch {
	case c.From == "":
		return "added: " + c.What + withValue(c.To)
	case c.To == "":
		return "removed: " + c.What + withValue(c.From)
	}
	from, to := shorten(c.From), shorten(c.To)
	if from == to {
		from, to = c.From, c.To
	}
	return fmt.Sprintf("%s: %s → %s", c.What, from, to)
}

// shorten cuts a long value, such as a table.
func shorten(v string) string {
	if r := []rune(v); len(r) > 60 {
		return string(r[:48]) + " …"
	}
	return v
}

func withValue(v string) string {
	if v == "" || v == present {
		return ""
	}
	return " = " + shorten(v)
}

// present stands for the value of a thing that only is or is not there.
const present = "·"

// entry is one value of a model with its name in words. Entries of the same
// owner come and go together.
type entry struct {
	place, what, value string
	owner              string
	words              string // of the whole owner, if this entry stands for it
}

// flatten lists what decides the result of a model, in its order.
func (d *Document) flatten(cat *Catalog) []entry {
	var list []entry
	add := func(place, what, value string) {
		list = append(list, entry{place: place, what: what, value: strings.TrimSpace(value)})
	}
	take := func(v value) {
		if v.decides {
			add(v.place, v.words, *v.text)
		}
	}
	d.walkParameters(take)
	for i := range d.Parts {
		p := &d.Parts[i]
		at := "parts/" + p.ID
		owner := len(list)
		list = append(list, entry{place: at, what: "part " + p.Name, value: present, owner: at, words: "part " + p.Name})
		p.walk(i, func(v value) {
			if *v.text != "" || !strings.Contains(v.place, "/points/") && !strings.Contains(v.place, "/holes/") {
				take(v)
			}
		})
		if p.Outline.Smooth {
			add(at+"/outline/smooth", p.Name+", smooth", "yes")
		}
		if p.Place.Mirror {
			add(at+"/place/mirror", p.Name+", mirrored", "yes")
		}
		if p.Fill != nil {
			add(at+"/fill", p.Name+", fills what is empty", "yes")
		}
		if a := p.Array; a != nil {
			add(at+"/array/centred", p.Name+", centred", fmt.Sprint(a.Centred))
		}
		add(at+"/order", p.Name+", order", fmt.Sprint(i+1))
		for k := owner + 1; k < len(list); k++ {
			list[k].owner = at
		}
	}
	d.walkMaterials(take)
	for i := range d.Conditions {
		s := &d.Conditions[i]
		if s.Off {
			continue
		}
		at := "conditions/" + s.ID
		list = append(list, entry{place: at, what: s.ID, value: present, owner: at, words: d.Words(cat, s)})
		list = append(list, entry{place: at + "/on", what: s.ID, value: d.PatchWords(s.On), owner: at},
			entry{place: at + "/kind", what: s.ID + ", kind", value: s.Kind, owner: at})
		k, ok := cat.Kind(s.Kind)
		if !ok {
			continue
		}
		for _, slot := range k.Slots {
			what := s.ID
			if len(k.Slots) > 1 {
				what += ", " + slot.Label
			}
			list = append(list, entry{place: at + "/values/" + slot.Name, what: what, value: strings.TrimSpace(s.Values[slot.Name]), owner: at})
		}
	}
	for _, p := range cat.Physics {
		if !p.Asked {
			continue
		}
		solved := "left out"
		if d.Solves(p.Key) {
			solved = "solved"
		}
		add("physics/"+p.Key, p.Name, solved)
	}
	d.walkMesh(take)
	d.walkSpace(take)
	d.walkRun(take)
	return list
}

// Diff lists what changed from an older model to a newer one, in the order of
// the newer one, then what was removed. Names, aims, readings and plates are left
// out: they do not change the result.
func Diff(older, newer *Document, cat *Catalog) []Change {
	a, b := older.flatten(cat), newer.flatten(cat)
	index := func(list []entry) map[string]entry {
		m := make(map[string]entry, len(list))
		for _, e := range list {
			m[e.place] = e
		}
		return m
	}
	was, is := index(a), index(b)
	owned := func(e entry, in map[string]entry) bool {
		_, ok := in[e.owner]
		return e.owner != "" && e.owner != e.place && !ok
	}
	var list []Change
	shifted := len(older.Parts) != len(newer.Parts)
	for _, e := range b {
		old, ok := was[e.place]
		switch {
		case owned(e, was) || shifted && strings.HasSuffix(e.place, "/order"):
		case !ok && e.words != "":
			list = append(list, Change{Place: e.place, What: e.words, To: e.value})
		case !ok && e.value != "" && e.owner == "" && !strings.HasPrefix(e.place, "materials/"):
			list = append(list, Change{Place: e.place, What: e.what, To: e.value})
		case !ok && e.value != "" && !strings.HasPrefix(e.place, "materials/"):
			list = append(list, Change{Place: e.place, What: e.what, From: "none", To: e.value})
		case ok && old.value != e.value:
			list = append(list, Change{Place: e.place, What: e.what, From: orNone(old.value), To: orNone(e.value)})
		}
	}
	for _, e := range a {
		_, ok := is[e.place]
		switch {
		case ok || owned(e, is) || strings.HasPrefix(e.place, "materials/"):
		case e.words != "":
			list = append(list, Change{Place: e.place, What: e.words, From: e.value})
		case e.owner == "" && e.value != "":
			list = append(list, Change{Place: e.place, What: e.what, From: e.value})
		case e.value != "":
			list = append(list, Change{Place: e.place, What: e.what, From: e.value, To: "none"})
		}
	}
	return list
}

// SameResult says that a run of one model gives what a run of the other does: what they say of
// plates, trials and names does not matter.
func SameResult(a, b *Document, cat *Catalog) bool {
	if len(Diff(a, b, cat)) > 0 || len(a.Readings) != len(b.Readings) {
		return false
	}
	for i := range a.Readings {
		p, q := a.Readings[i], b.Readings[i]
		p.Name, q.Name, p.Unit, q.Unit = "", "", "", ""
		if !reflect.DeepEqual(p, q) {
			return false
		}
	}
	return true
}

func orNone(v string) string {
	if v == "" {
		return "none"
	}
	return v
}

// DiffWords joins changes into one line.
func DiffWords(list []Change) string {
	words := make([]string, len(list))
	for i, c := range list {
		words[i] = c.String()
	}
	return strings.Join(words, "; ")
}
