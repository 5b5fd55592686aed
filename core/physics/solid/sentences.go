package solid

import "saltkettle/core/sentence"

// Keys of the sentences of solids.
const (
	KeyBends    = "solid.bends"
	KeyThin     = "solid.thin"
	KeyInertia  = "solid.inertia"
	KeyFixed    = "solid.fixed"
	KeyMoved    = "solid.moved"
	KeySlides   = "solid.slides"
	KeyPressure = "solid.pressure"
	KeyForce    = "solid.force"
	KeyExpands  = "solid.expands"

	KeyDisplacement = "solid.displacement"
	KeyMises        = "solid.mises"
)

// axes are the names of the slots by direction.
var axes = [3]string{"x", "y", "z"}

// Kinds are the sentences of solids.
func Kinds() []sentence.Kind {
	along := func(what, unit, without string, lo, hi float64, whose string, may sentence.Dependence) (list []sentence.Slot) {
		for _, axis := range axes {
			list = append(list, sentence.Slot{Name: axis, Label: what + " along " + axis, Unit: unit, Without: without, May: may, Usual: sentence.Usually(lo, hi, whose)})
		}
		return list
	}
	return []sentence.Kind{
		{
			Key: KeyBends, Group: sentence.Condition, Title: "a part bends",
			Template: "The {on} bends and stretches under what acts on it.", Acts: sentence.Bodies,
		},
		{
			Key: KeyThin, Group: sentence.Condition, Title: "a plane device is thin",
			Template: "Nothing holds the device across its plane: it is thin.",
		},
		{
			Key: KeyInertia, Group: sentence.Condition, Title: "what bends has inertia",
			Template: "What bends has inertia: it swings by itself.",
		},
		{
			Key: KeyFixed, Group: sentence.Condition, Title: "surface that is fixed",
			Template: "The {on} is fixed.", Acts: sentence.Surfaces, Anchors: true,
		},
		{
			Key: KeyMoved, Group: sentence.Condition, Title: "surface that moves, or is free, by direction",
			Template: "The {on} moves by {x} along x, {y} along y, {z} along z.",
			Acts:     sentence.Surfaces, Anchors: true, Slots: along("displacement", "mm", "free", -1, 1, "a device", sentence.Place|sentence.Moment),
		},
		{
			Key: KeySlides, Group: sentence.Condition, Title: "surface that slides along itself",
			Template: "The {on} slides along itself and keeps where it is across.", Acts: sentence.Surfaces, Anchors: true,
		},
		{
			Key: KeyPressure, Group: sentence.Condition, Title: "pressure",
			Template: "A pressure of {pressure} acts on the {on}.", Acts: sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{{Name: "pressure", Label: "pressure", Unit: "MPa", May: sentence.Everything, Usual: sentence.Usually(-1e10, 1e10, "a surface")}},
		},
		{
			Key: KeyForce, Group: sentence.Condition, Title: "force, in all",
			Template: "A force of {x} along x, {y} along y, {z} along z acts on the {on}.", Acts: sentence.Surfaces, Exposed: true,
			Slots: along("force", "N", "none", -1e8, 1e8, "a device", sentence.Moment),
		},
		{
			Key: KeyExpands, Group: sentence.Condition, Title: "heat expands a part",
			Template: "Heat expands the {on}, which is free of stress at {temperature}.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{{Name: "temperature", Label: "temperature without stress", Unit: "°C", Temperature: true, Usual: sentence.Usually(20, 4000, "a device")}},
		},
		{
			Key: KeyDisplacement, Group: sentence.Reading, Title: "greatest displacement",
			Template: "greatest displacement of the {on}", Acts: sentence.Bodies | sentence.Surfaces, Unit: "mm",
		},
		{
			Key: KeyMises, Group: sentence.Reading, Title: "greatest von Mises stress",
			Template: "greatest von Mises stress of the {on}", Acts: sentence.Bodies | sentence.Surfaces, Unit: "MPa",
		},
	}
}
