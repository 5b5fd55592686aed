// Package sentence describes the conditions and readings of a model as sentences
// with values in place.
//
// Each kind of sentence is defined once, next to its physics: its words, its
// slots with their dimensions and defaults, and what it can act on. Showing,
// editing, checking, comparing and reporting all use that definition.
package sentence

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
)

// Group says in which section of a model a sentence stands.
type Group string

// The groups.
const (
	Condition Group = "condition"
	Reading   Group = "reading"
)

// Acts says what a sentence can be about.
type Acts int

// What a sentence acts on.
const (
	Bodies   Acts = 1 << iota // whole parts
	Surfaces                  // patches of the surface
)

// OnLines says where on a line something is that a sentence speaks of.
type OnLines int

// Where on a line something is.
const (
	Nowhere OnLines = iota
	OnLine          // at a point, between the line before it and the line behind it
	AtEnds          // where lines end, for each that ends there
)

// SlotKind says what a slot takes.
type SlotKind int

// The kinds of slots.
const (
	Quantity SlotKind = iota // a formula with a dimension
	Text                     // words
	Formula                  // a formula of the result, of any dimension
)

// Dependence says what the value of a slot may depend on.
type Dependence int

// What a value may depend on besides parameters.
const (
	Place          Dependence = 1 << iota // the coordinates
	Fields                                // the temperature and whatever else is solved for
	Moment                                // the time
	Concentrations                        // those of dissolved species, and unknowns of equations of the user's own
	VolumeFlow                            // how much flows through the surface
	Frequency                             // that of what swings

	Everything = Place | Fields | Moment | Concentrations
)

// Range is the values between two ends, SI.
type Range struct{ Least, Most float64 }

// Usually says in a slot that values are usual in a range, SI, for something.
func Usually(least, most float64, what string) func(map[string]string) (lo, hi float64, of string) {
	return func(map[string]string) (float64, float64, string) { return least, most, what }
}

// Slot is a place in a sentence for a value.
type Slot struct {
	Name  string
	Label string // what it is, for messages and screen readers
	Kind  SlotKind
	// Unit gives the dimension, and the unit offered when nothing is written.
	Unit string
	// Temperature marks a point on the temperature scale; °C is read as such.
	Temperature bool
	// Fluid marks the name of a material whose flow carries heat, Buoyant that of one that is
	// driven by its own expansion.
	Fluid, Buoyant bool
	// Layer marks the name of a material that heat is conducted through.
	Layer bool
	// Rough marks the name of a material whose walls are as rough as it is.
	Rough bool
	// Names marks a name that the document gives to one of these quantities, the next one that has none;
	// Among are the quantities of which the name of one is meant.
	Names []string
	Among []string
	// UnitOf marks the unit of what is named in the sentence, which is that of its quantity; AnyUnit takes a value of any dimension, which the
	// physics checks.
	UnitOf, AnyUnit bool
	// Choices are the words of which a text is one; nil for any.
	Choices []string
	// Without is what it is without a value, in words; "" says that it needs one.
	Without string
	// Positive refuses zero and negative values, Whole those that are no whole numbers.
	Positive, Whole bool
	// Within bounds what the value can be, SI, ends included; nil means nothing does.
	Within *Range
	// May says what the value may depend on besides parameters.
	May Dependence
	// Usual gives the range in SI units outside which a value is doubtful, and for
	// what it is usual, from the other values of the sentence. It may be nil.
	Usual func(values map[string]string) (lo, hi float64, what string)
	// Default is written when a sentence is added; empty leaves it outstanding.
	Default string
}

// Kind is one kind of sentence.
type Kind struct {
	Key   string
	Group Group
	// Title names the kind in menus, below Heading, or the name of its physics if that is "".
	Title, Heading string
	// Template is the sentence, with {on} for the patch and {slot} for values.
	Template string
	Acts     Acts
	// Exposed limits the sentence to surfaces with nothing solved beyond them.
	Exposed bool
	// Inner limits the sentence to surfaces between two solved parts.
	Inner bool
	// Transient limits the sentence to runs in time.
	Transient bool
	// Anchors says that the condition fixes the level of a temperature.
	Anchors bool
	// Everywhere says that it speaks of all surfaces of which nothing else is said.
	Everywhere bool
	// At says where on a line is what it speaks of, at which the line is divided.
	At OnLines
	// Symbol is what is drawn at points of lines of which it speaks, "" for nothing.
	Symbol string
	// Starts says that the condition gives a field when time begins.
	Starts bool
	// Continues says that the device goes on beyond the surface, so that nothing else is lost
	// there than what the condition speaks of.
	Continues bool
	// Far says that the surface stands for what is far away, so that it ought not to matter where it lies.
	Far bool
	// Way are the slots with a direction in the axes of the parts that it acts on, along x, y and z, and Round are those of what runs
	// towards the viewer of a plane, or to the right of the axis or of z round them, the other way for each of them below nothing: both are
	// drawn.
	Way   [3]string
	Round []string
	// Within says that layers of cells along the sides of the parts that it names lie within them, as in those that flow.
	Within bool
	Slots  []Slot
	// Sloped says of a reading that it is of what follows from slopes of a field, which has no bound at some edges.
	Sloped bool
	// Unit of the result of a reading, and whether it is a difference.
	Unit       string
	Difference bool
}

// Slot returns the slot with a name.
func (k *Kind) Slot(name string) (*Slot, bool) {
	i := slices.IndexFunc(k.Slots, func(s Slot) bool { return s.Name == name })
	if i < 0 {
		return nil, false
	}
	return &k.Slots[i], true
}

// Fragment is a piece of a sentence: words, the patch or a slot.
type Fragment struct {
	Text string
	On   bool
	Slot *Slot
}

// Fragments splits the template.
func (k *Kind) Fragments() []Fragment {
	var list []Fragment
	rest := k.Template
	for rest != "" {
		before, after, ok := strings.Cut(rest, "{")
		if before != "" {
			list = append(list, Fragment{Text: before})
		}
		if !ok {
			break
		}
		name, tail, ok := strings.Cut(after, "}")
		if !ok {
			panic("sentence: open brace in the template of " + k.Key)
		}
		if name == "on" {
			list = append(list, Fragment{On: true})
		} else if s, ok := k.Slot(name); ok {
			list = append(list, Fragment{Slot: s})
		} else {
			panic("sentence: no slot " + name + " in " + k.Key)
		}
		rest = tail
	}
	return list
}

// Words writes the sentence with the words for its patch and its values.
func (k *Kind) Words(on string, values map[string]string) string {
	var b strings.Builder
	for _, f := range k.Fragments() {
		switch {
		case f.On:
			b.WriteString(on)
		case f.Slot != nil:
			v := strings.TrimSpace(values[f.Slot.Name])
			if v == "" {
				v = cmp.Or(f.Slot.Without, "…")
			}
			b.WriteString(v)
		default:
			b.WriteString(f.Text)
		}
	}
	return b.String()
}

// Catalog is the kinds of sentences that are known, in the order of menus.
type Catalog struct {
	// Variables are what the values of conditions may depend on, fields first,
	// then the coordinates; Quantities are what readings may use.
	Variables, Quantities []formula.Variable
	// Fields are those that plates can show, those that are solved for first.
	Fields []Field
	kinds  []Kind
	index  map[string]int
}

// NewCatalog collects kinds. Two of the same key, a template that does not parse
// or a unit that does not are programming errors and panic.
func NewCatalog(lists ...[]Kind) *Catalog {
	c := &Catalog{index: map[string]int{}}
	for _, list := range lists {
		for _, k := range list {
			if _, ok := c.index[k.Key]; ok {
				panic("sentence: two kinds are called " + k.Key)
			}
			k.Fragments()
			for _, s := range k.Slots {
				if s.Kind == Quantity {
					quantity.MustUnit(s.Unit)
				}
			}
			quantity.MustUnit(k.Unit)
			c.index[k.Key] = len(c.kinds)
			c.kinds = append(c.kinds, k)
		}
	}
	return c
}

// Kind looks a kind up.
func (c *Catalog) Kind(key string) (*Kind, bool) {
	i, ok := c.index[key]
	if !ok {
		return nil, false
	}
	return &c.kinds[i], true
}

// Group lists the kinds of a group.
func (c *Catalog) Group(g Group) []*Kind {
	var list []*Kind
	for i := range c.kinds {
		if c.kinds[i].Group == g {
			list = append(list, &c.kinds[i])
		}
	}
	return list
}

// Keys lists the keys of a group, for messages.
func (c *Catalog) Keys(g Group) string {
	var keys []string
	for _, k := range c.Group(g) {
		keys = append(keys, fmt.Sprintf("%q", k.Key))
	}
	return strings.Join(keys, ", ")
}
