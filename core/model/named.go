package model

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
)

// Named are the names that the sentences of a document give to quantities, by these. A sentence that is switched
// off gives one too, so that the others keep theirs.
func (d *Document) Named(cat *Catalog) map[string]string {
	names, _ := d.naming(cat)
	return names
}

// naming has these names, and the units of the quantities whose sentences say one.
func (d *Document) naming(cat *Catalog) (names, units map[string]string) {
	out, units := map[string]string{}, map[string]string{}
	for i := range d.Conditions {
		s := &d.Conditions[i]
		k, ok := cat.Kind(s.Kind)
		if !ok {
			continue
		}
		for j := range k.Slots {
			slot := &k.Slots[j]
			name := strings.TrimSpace(s.Values[slot.Name])
			if slot.Names == nil || name == "" || slices.Contains(slices.Collect(maps.Values(out)), name) {
				continue
			}
			for _, quantity := range slot.Names {
				if out[quantity] != "" {
					continue
				}
				out[quantity] = name
				for _, other := range k.Slots {
					if other.UnitOf {
						units[quantity] = strings.TrimSpace(s.Values[other.Name])
					}
				}
				break
			}
		}
	}
	return out, units
}

// typed are variables with the dimensions that the document gives to those that it names.
func (r *Resolved) typed(list []formula.Variable) []formula.Variable {
	if len(r.units) == 0 {
		return list
	}
	list = slices.Clone(list)
	for i := range list {
		if text, said := r.units[list[i].Name]; said {
			if u, err := quantity.ParseUnit(text); err == nil {
				list[i].Dimension = u.Dimension
			}
		}
	}
	return list
}

// For is the catalog in which quantities that a document names are called so.
func (c *Catalog) For(d *Document) *Catalog {
	named, units := d.naming(c)
	if len(named) == 0 {
		return c
	}
	own, out := *c.Catalog, *c
	own.Fields = slices.Clone(own.Fields)
	for i := range own.Fields {
		if f := &own.Fields[i]; named[f.Name] != "" {
			f.Label = "concentration of " + named[f.Name]
			if unit, said := units[f.Name]; said {
				f.Label, f.Units = named[f.Name], []string{unit}
			}
		}
	}
	out.Catalog = &own
	return &out
}

// names says what names mean in formulas: those of coordinates by the space, and those that sentences give.
func (r *Resolved) names() map[string]formula.Meaning {
	meanings := coordinates[r.Document.Space.Kind]
	if len(r.named) == 0 {
		return meanings
	}
	out := maps.Clone(meanings)
	if out == nil {
		out = map[string]formula.Meaning{}
	}
	for quantity, name := range r.named {
		out[name] = formula.Meaning{Is: quantity}
	}
	return out
}

// giveName checks a name that a sentence gives to one of some quantities, and says which one it is.
func (r *resolver) giveName(place, name string, slot *sentence.Slot, res *ResolvedSentence) bool {
	for i, q := range slot.Names {
		if r.out.named[q] == name {
			res.Refer(slot.Name, i)
			return r.fitName(place, name)
		}
	}
	r.find(Wrong, place, "use fewer", "%q is one too many: a model has up to %d of them", name, len(slot.Names))
	return false
}

// fitName says whether a name can stand in formulas.
func (r *resolver) fitName(place, name string) bool {
	fault := nameFault(name)
	if _, taken := r.out.Parameters[name]; taken && fault == "" {
		fault = fmt.Sprintf("a parameter is called %q too; choose another name", name)
	}
	if fault != "" {
		r.find(Wrong, place, "", "%s", fault)
	}
	return fault == ""
}

// refer finds the quantity that a sentence speaks of by its name.
func (r *resolver) refer(place, name string, slot *sentence.Slot, res *ResolvedSentence) bool {
	var given []string
	for _, q := range slot.Among {
		switch r.out.named[q] {
		case "":
		case name:
			res.Refer(slot.Name, r.number(q))
			return true
		default:
			given = append(given, r.out.named[q])
		}
	}
	slices.Sort(given)
	fix := "say first that there is something of that name"
	if len(given) > 0 {
		fix = "write " + strings.Join(given, " or ")
	}
	r.find(Wrong, place, fix, "there is no %s %q", slot.Label, name)
	return false
}

// number is the place of a quantity among those that a slot gives names to.
func (r *resolver) number(quantity string) int {
	for _, k := range r.cat.Group(sentence.Condition) {
		for j := range k.Slots {
			if i := slices.Index(k.Slots[j].Names, quantity); i >= 0 {
				return i
			}
		}
	}
	return -1
}

// Refer notes which of the quantities that have names a slot is about.
func (s *ResolvedSentence) Refer(slot string, number int) {
	if s.About == nil {
		s.About = map[string]int{}
	}
	s.About[slot] = number
}
