package solid

import (
	"slices"
	"strings"

	"saltkettle/core/model"
	"saltkettle/core/sentence"
)

// Keys of the sentences of solids.
const (
	KeyBends    = "solid.bends"
	KeyThin     = "solid.thin"
	KeyInertia  = "solid.inertia"
	KeyLarge    = "solid.large"
	KeyRubber   = "solid.rubber"
	KeyFixed    = "solid.fixed"
	KeyMoved    = "solid.moved"
	KeySlanted  = "solid.moved-slanted"
	KeyRound    = "solid.moved-round"
	KeySlides   = "solid.slides"
	KeyRigid    = "solid.rigid"
	KeyBed      = "solid.bed"
	KeySprings  = "solid.springs"
	KeyPressure = "solid.pressure"
	KeyForce    = "solid.force"
	KeySpread   = "solid.spread-force"
	KeyFollows  = "solid.follows"
	KeyTorque   = "solid.torque"
	KeyPushed   = "solid.pushed"
	KeyMass     = "solid.mass"
	KeyWeight   = "solid.weight"
	KeySpin     = "solid.spin"
	KeyExpands  = "solid.expands"
	KeyInitial  = "solid.initial"
	KeyDying    = "solid.damping"
	KeyGlides   = "solid.glides"
	KeyParted   = "solid.parted"

	KeyDisplacement = "solid.displacement"
	KeyMises        = "solid.mises"
	KeyAlong        = "solid.stress-along"
	KeyHold         = "solid.reaction"
	KeyMoment       = "solid.reaction-torque"
	KeySafety       = "solid.safety"
	KeyEnergy       = "solid.energy"
	KeyModalMass    = "solid.modal-mass"
	KeyBuckling     = "solid.buckling"
)

// axes are the names of slots by direction.
var axes = [3]string{"x", "y", "z"}

// Names of the slots of an axis: along which it lies, and the point that it goes through.
const axisSlot = "axis"

var through = [3]string{"px", "py", "pz"}

// axisOf is the number of the axis that a sentence names, −1 if it names none.
func axisOf(s *model.ResolvedSentence) int {
	return slices.Index(axes[:], strings.TrimSpace(s.Values[axisSlot]))
}

// along are slots for values by direction.
func along(what, unit, without string, lo, hi float64, whose string, may sentence.Dependence) (list []sentence.Slot) {
	for _, axis := range axes {
		list = append(list, sentence.Slot{Name: axis, Label: what + " along " + axis, Unit: unit, Without: without, May: may, Usual: sentence.Usually(lo, hi, whose)})
	}
	return list
}

// anAxis are slots for an axis.
func anAxis() []sentence.Slot {
	list := []sentence.Slot{{Name: axisSlot, Label: "direction of the axis: x, y or z", Kind: sentence.Text, Default: "z"}}
	for i, name := range through {
		list = append(list, sentence.Slot{Name: name, Label: axes[i] + " of a point on the axis", Unit: "mm", Without: "0", Usual: sentence.Usually(-1e3, 1e3, "a device")})
	}
	return list
}

// Kinds are the sentences that are about solids.
func Kinds() []sentence.Kind { return append(conditions(), readings()...) }

func conditions() []sentence.Kind {
	const everything = sentence.Everything
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
			Key: KeyLarge, Group: sentence.Condition, Title: "what bends may bend far",
			Template: "What bends may turn and stretch far from its shape.",
		},
		{
			Key: KeyRubber, Group: sentence.Condition, Title: "a part stretches like rubber",
			Template: "The {on} stretches like rubber, which hardly changes its volume.", Acts: sentence.Bodies,
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
			Key: KeySlanted, Group: sentence.Condition, Title: "surface that moves along slanted axes",
			Template: "The {on} moves by {x} along x, {y} along y, {z} along z of axes that are turned by {turn} about {axis}.", Acts: sentence.Surfaces, Anchors: true,
			Slots: append(along("displacement", "mm", "free", -1, 1, "a device", sentence.Place|sentence.Moment),
				sentence.Slot{Name: "turn", Label: "angle by which the axes are turned", Unit: "deg", Usual: sentence.Usually(-6.3, 6.3, "an angle")},
				sentence.Slot{Name: axisSlot, Label: "axis about which they are turned: x, y or z", Kind: sentence.Text, Default: "z"}),
		},
		{
			Key: KeyRound, Group: sentence.Condition, Title: "surface that moves away from an axis, round it or along it",
			Template: "The {on} moves by {x} away from the axis along {axis} through {px}, {py}, {pz}, {y} round it and {z} along it.", Acts: sentence.Surfaces, Anchors: true,
			Slots: append([]sentence.Slot{
				{Name: "x", Label: "displacement away from the axis", Unit: "mm", Without: "free", May: sentence.Place | sentence.Moment, Usual: sentence.Usually(-1, 1, "a device")},
				{Name: "y", Label: "displacement round the axis", Unit: "mm", Without: "free", May: sentence.Place | sentence.Moment, Usual: sentence.Usually(-1, 1, "a device")},
				{Name: "z", Label: "displacement along the axis", Unit: "mm", Without: "free", May: sentence.Place | sentence.Moment, Usual: sentence.Usually(-1, 1, "a device")},
			}, anAxis()...),
		},
		{
			Key: KeySlides, Group: sentence.Condition, Title: "roller: surface that slides along itself",
			Template: "The {on} slides along itself and keeps where it is across.", Acts: sentence.Surfaces, Anchors: true,
		},
		{
			Key: KeyRigid, Group: sentence.Condition, Title: "surface that stays rigid",
			Template: "The {on} stays as it is and moves as one.", Acts: sentence.Surfaces,
		},
		{
			Key: KeyBed, Group: sentence.Condition, Title: "springs under each area",
			Template: "Springs of {x} along x, {y} along y, {z} along z under each area hold the {on}.", Acts: sentence.Surfaces, Anchors: true, Exposed: true,
			Slots: along("stiffness by area", "N/mm³", "none", 0, 1e15, "a bed", everything),
		},
		{
			Key: KeySprings, Group: sentence.Condition, Title: "springs, in all",
			Template: "Springs of {x} along x, {y} along y, {z} along z in all hold the {on}.", Acts: sentence.Surfaces, Anchors: true, Exposed: true,
			Slots: along("stiffness", "N/mm", "none", 0, 1e12, "springs", sentence.Moment),
		},
		{
			Key: KeyPressure, Group: sentence.Condition, Title: "pressure",
			Template: "A pressure of {pressure} acts on the {on}.", Acts: sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{{Name: "pressure", Label: "pressure", Unit: "MPa", May: everything, Usual: sentence.Usually(-1e10, 1e10, "a surface")}},
		},
		{
			Key: KeyForce, Group: sentence.Condition, Title: "force, in all",
			Template: "A force of {x} along x, {y} along y, {z} along z acts on the {on}.", Acts: sentence.Surfaces, Exposed: true,
			Slots: along("force", "N", "none", -1e8, 1e8, "a device", sentence.Moment),
		},
		{
			Key: KeySpread, Group: sentence.Condition, Title: "force on each area",
			Template: "A force of {x} along x, {y} along y, {z} along z acts on each area of the {on}.", Acts: sentence.Surfaces, Exposed: true,
			Slots: along("force by area", "MPa", "none", -1e10, 1e10, "a surface", everything),
		},
		{
			Key: KeyFollows, Group: sentence.Condition, Title: "forces turn with a surface",
			Template: "Forces on the {on} turn with it.", Acts: sentence.Surfaces, Exposed: true,
		},
		{
			Key: KeyTorque, Group: sentence.Condition, Title: "torque, in all",
			Template: "A torque of {x} about x, {y} about y, {z} about z acts on the {on}.", Acts: sentence.Surfaces, Exposed: true,
			Slots: along("torque", "N·m", "none", -1e8, 1e8, "a device", sentence.Moment),
		},
		{
			Key: KeyPushed, Group: sentence.Condition, Title: "push of a flow",
			Template: "What flows past the {on} pushes it, and does not notice that it bends.", Acts: sentence.Bodies,
		},
		{
			Key: KeyMass, Group: sentence.Condition, Title: "attached mass",
			Template: "A mass of {mass} is attached to the {on}.", Acts: sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{{Name: "mass", Label: "attached mass", Unit: "kg", Positive: true, Usual: sentence.Usually(1e-6, 1e5, "a device")}},
		},
		{
			Key: KeyWeight, Group: sentence.Condition, Title: "weight, or another acceleration",
			Template: "Each mass of the {on} is pulled by {x} along x, {y} along y, {z} along z.", Acts: sentence.Bodies,
			Slots: along("acceleration", "m/s²", "none", -1e5, 1e5, "a device", sentence.Place|sentence.Moment),
		},
		{
			Key: KeySpin, Group: sentence.Condition, Title: "spin",
			Template: "The {on} spins at {speed} about the axis along {axis} through {px}, {py}, {pz}.", Acts: sentence.Bodies,
			Slots: append([]sentence.Slot{{Name: "speed", Label: "speed of the spin", Unit: "rpm", Usual: sentence.Usually(-1e5, 1e5, "a device")}}, anAxis()...),
		},
		{
			Key: KeyExpands, Group: sentence.Condition, Title: "heat expands a part",
			Template: "Heat expands the {on}, which is free of stress at {temperature}.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{{Name: "temperature", Label: "temperature without stress", Unit: "°C", Temperature: true, Usual: sentence.Usually(20, 4000, "a device")}},
		},
		{
			Key: KeyInitial, Group: sentence.Condition, Title: "stress from the beginning",
			Template: "The {on} has a stress from the beginning: {xx}, {yy}, {zz} along x, y, z, and {xy}, {yz}, {zx} of shear.", Acts: sentence.Bodies,
			Slots: func() (list []sentence.Slot) {
				for _, name := range []string{"xx", "yy", "zz", "xy", "yz", "zx"} {
					list = append(list, sentence.Slot{Name: name, Label: "stress " + name, Unit: "MPa", Without: "0", May: sentence.Place, Usual: sentence.Usually(-5e9, 5e9, "a device")})
				}
				return list
			}(),
		},
		{
			Key: KeyDying, Group: sentence.Condition, Title: "swings die away by mass and stiffness",
			Template: "Swings of the {on} die away by {mass} of its mass and {stiffness} of its stiffness.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{
				{Name: "mass", Label: "damping by the mass", Unit: "1/s", Without: "none", Within: &sentence.Range{Least: 0, Most: 1e9}, Usual: sentence.Usually(0, 1e5, "a device")},
				{Name: "stiffness", Label: "damping by the stiffness", Unit: "s", Without: "none", Within: &sentence.Range{Least: 0, Most: 1e3}, Usual: sentence.Usually(0, 0.1, "a device")},
			},
		},
		{
			Key: KeyGlides, Group: sentence.Condition, Title: "surface that slides along what it touches",
			Template: "The {on} slides along what it touches and stays on it.", Acts: sentence.Surfaces, Inner: true,
		},
		{
			Key: KeyParted, Group: sentence.Condition, Title: "surface that is parted from what it touches",
			Template: "The {on} is parted from what it touches.", Acts: sentence.Surfaces, Inner: true,
		},
	}
}

func readings() []sentence.Kind {
	direction := func(label string) sentence.Slot {
		return sentence.Slot{Name: axisSlot, Label: label + ": x, y or z", Kind: sentence.Text, Default: "x"}
	}
	return []sentence.Kind{
		{
			Key: KeyDisplacement, Group: sentence.Reading, Title: "greatest displacement",
			Template: "greatest displacement of the {on}", Acts: sentence.Bodies | sentence.Surfaces, Unit: "mm",
		},
		{
			Key: KeyMises, Group: sentence.Reading, Sloped: true, Title: "greatest von Mises stress",
			Template: "greatest von Mises stress of the {on}", Acts: sentence.Bodies | sentence.Surfaces, Unit: "MPa",
		},
		{
			Key: KeyAlong, Group: sentence.Reading, Sloped: true, Title: "greatest stress along a direction",
			Template: "greatest stress of the {on} along {x}, {y}, {z}", Acts: sentence.Bodies | sentence.Surfaces, Unit: "MPa",
			Slots: []sentence.Slot{{Name: "x", Label: "x of the direction", Default: "1"}, {Name: "y", Label: "y of the direction", Default: "0"}, {Name: "z", Label: "z of the direction", Default: "0"}},
		},
		{
			Key: KeyHold, Group: sentence.Reading, Title: "force that holds a surface",
			Template: "force along {axis} that holds the {on}", Acts: sentence.Surfaces, Unit: "N", Slots: []sentence.Slot{direction("direction of the force")},
		},
		{
			Key: KeyMoment, Group: sentence.Reading, Title: "torque that holds a surface",
			Template: "torque about the axis along {axis} through {px}, {py}, {pz} that holds the {on}", Acts: sentence.Surfaces, Unit: "N·m", Slots: anAxis(),
		},
		{
			Key: KeySafety, Group: sentence.Reading, Sloped: true, Title: "safety against a strength",
			Template: "least safety of the {on} against a strength of {strength}", Acts: sentence.Bodies | sentence.Surfaces,
			Slots: []sentence.Slot{{Name: "strength", Label: "strength", Unit: "MPa", Without: "its yield strength", Positive: true, Usual: sentence.Usually(1e4, 1e10, "a material")}},
		},
		{
			Key: KeyEnergy, Group: sentence.Reading, Title: "energy of deformation",
			Template: "energy of deformation stored in the {on}", Acts: sentence.Bodies, Unit: "J",
		},
		{
			Key: KeyBuckling, Group: sentence.Reading, Title: "factor until it buckles",
			Template: "factor by which all that acts may grow until the {on} buckles", Acts: sentence.Bodies,
		},
		{
			Key: KeyModalMass, Group: sentence.Reading, Title: "mass that a mode moves",
			Template: "mass that mode {number} moves along {axis}", Unit: "g",
			Slots: []sentence.Slot{{Name: "number", Label: "number of the mode", Positive: true, Whole: true, Default: "1"}, direction("direction")},
		},
	}
}
