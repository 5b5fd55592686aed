package own

import (
	"saltkettle/core/law"
	"saltkettle/core/sentence"
)

// Keys of the sentences of equations of the user's own.
const (
	KeyIn      = "own.in"
	KeyAlong   = "own.along"
	KeyAxes    = "own.axes"
	KeyStored  = "own.stored"
	KeyCarried = "own.carried"
	KeyBesides = "own.besides"
	KeyArises  = "own.arises"
	KeyEnters  = "own.enters"
	KeyHeld    = "own.held"
	KeyEdges   = "own.edges"
	KeyFed     = "own.fed"
	KeyStart   = "own.start"
)

// Slots that sentences have: the unknown, where it is named and where it is spoken of, and its unit.
const (
	unknown = "unknown"
	unit    = "unit"
)

// Kinds are the sentences of equations of the user's own.
func Kinds() []sentence.Kind {
	var names []string
	for i := range law.Owns {
		names = append(names, law.OwnOf(i))
	}
	named := sentence.Slot{Name: unknown, Label: "name of the unknown", Kind: sentence.Text, Names: names}
	in := sentence.Slot{Name: unit, Label: "unit of the unknown", Kind: sentence.Text, UnitOf: true}
	of := sentence.Slot{Name: unknown, Label: "unknown", Kind: sentence.Text, Among: names}
	any := func(name, label string, may sentence.Dependence) sentence.Slot {
		return sentence.Slot{Name: name, Label: label, AnyUnit: true, May: may}
	}
	const depends = sentence.Everything
	along := func(what string) (list []sentence.Slot) {
		for _, axis := range []string{"x", "y", "z"} {
			s := any(axis, what+" along "+axis, depends)
			s.Without = "nothing"
			list = append(list, s)
		}
		return list
	}
	with := func(slots ...sentence.Slot) []sentence.Slot { return append([]sentence.Slot{of}, slots...) }
	return []sentence.Kind{
		{
			Key: KeyIn, Group: sentence.Condition, Title: "an unknown of your own in a part",
			Template: "In the {on} {unknown}, in {unit}, is unknown and flows down its slope with {spread}.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{named, in, any("spread", "how readily it flows down its slope", depends)},
		},
		{
			Key: KeyAlong, Group: sentence.Condition, Title: "an unknown of your own on a surface",
			Template: "On the {on} {unknown}, in {unit}, is unknown and flows down its slope along the surface with {spread}.", Acts: sentence.Surfaces,
			Slots: []sentence.Slot{named, in, any("spread", "how readily it flows down its slope", depends)},
		},
		{
			Key: KeyAxes, Group: sentence.Condition, Title: "it flows down its slope by axes",
			Template: "{unknown} flows down its slope in the {on} with {x} along x, {y} along y and {z} along z instead.", Acts: sentence.Bodies | sentence.Surfaces,
			Slots: with(along("how readily it flows")...),
		},
		{
			Key: KeyStored, Group: sentence.Condition, Title: "it is stored",
			Template: "{capacity} times the rate of {unknown} is stored in the {on}.", Acts: sentence.Bodies | sentence.Surfaces,
			Slots: with(any("capacity", "how much is stored", depends)),
		},
		{
			Key: KeyCarried, Group: sentence.Condition, Title: "it is carried along",
			Template: "{unknown} is carried along in the {on} with ({x}, {y}, {z}).", Acts: sentence.Bodies,
			Slots: with(along("how fast it is carried")...),
		},
		{
			Key: KeyBesides, Group: sentence.Condition, Title: "flows besides",
			Template: "Besides, ({x}, {y}, {z}) of {unknown} flows in the {on}.", Acts: sentence.Bodies | sentence.Surfaces,
			Slots: with(along("what flows besides")...),
		},
		{
			Key: KeyArises, Group: sentence.Condition, Title: "arises or vanishes",
			Template: "{rate} of {unknown} arises in the {on}.", Acts: sentence.Bodies | sentence.Surfaces,
			Slots: with(any("rate", "what arises", depends)),
		},
		{
			Key: KeyEnters, Group: sentence.Condition, Title: "enters at a surface",
			Template: "{flux} of {unknown} enters at the {on}.", Acts: sentence.Surfaces,
			Slots: with(any("flux", "what enters", depends)),
		},
		{
			Key: KeyHeld, Group: sentence.Condition, Title: "a value at a surface, or where one on a surface meets another",
			Template: "{unknown} is {value} at the {on}.", Acts: sentence.Surfaces,
			Slots: with(any("value", "value", sentence.Place|sentence.Moment)),
		},
		{
			Key: KeyEdges, Group: sentence.Condition, Title: "a value at all edges of a surface",
			Template: "{unknown} is {value} at all edges of the {on}.", Acts: sentence.Surfaces,
			Slots: with(any("value", "value", sentence.Place|sentence.Moment)),
		},
		{
			Key: KeyFed, Group: sentence.Condition, Title: "flows in where a surface meets another",
			Template: "{flow} of {unknown} flows in along each length where its surface meets the {on}.", Acts: sentence.Surfaces,
			Slots: with(any("flow", "what flows in by length", sentence.Place|sentence.Moment)),
		},
		{
			Key: KeyStart, Group: sentence.Condition, Title: "a value when time begins",
			Template: "{unknown} is {value} in the {on} when time begins.", Acts: sentence.Bodies | sentence.Surfaces, Transient: true, Starts: true,
			Slots: with(any("value", "value", sentence.Place)),
		},
	}
}
