package film

import "saltkettle/core/sentence"

// Keys of the sentences of films.
const (
	KeyLies     = "film.lies"
	KeyFacing   = "film.facing"
	KeySlides   = "film.slides"
	KeyCloses   = "film.closes"
	KeyPressure = "film.pressure"
	KeySealed   = "film.sealed"
	KeyFed      = "film.fed"
	KeyBreaks   = "film.breaks"
	KeyWhole    = "film.whole"
	KeySimple   = "film.simple"
	KeyStiffens = "film.stiffens"
	KeyBears    = "film.bears"
	KeyTilts    = "film.tilts"
	KeyPushes   = "film.pushes"
	KeyYields   = "film.yields"
	KeyWarms    = "film.warms"

	KeyForce  = "film.force"
	KeyCentre = "film.centre"
	KeyDrag   = "film.drag"
	KeyResist = "film.resist"
	KeyLeaves = "film.leaves"
	KeyLift   = "film.lift"
)

// Kinds are the sentences of films.
func Kinds() []sentence.Kind {
	velocity := func(what string) (list []sentence.Slot) {
		for _, axis := range []string{"x", "y", "z"} {
			list = append(list, sentence.Slot{Name: axis, Label: what + " along " + axis, Unit: "m/s", Without: "nothing", May: sentence.Place | sentence.Moment, Usual: sentence.Usually(-200, 200, "a wall")})
		}
		return list
	}
	pressure := sentence.Slot{Name: "pressure", Label: "pressure, above that around", Unit: "kPa", May: sentence.Place | sentence.Moment, Usual: sentence.Usually(-1.1e5, 1e10, "a film")}
	return []sentence.Kind{
		{
			Key: KeyLies, Group: sentence.Condition, Title: "a film",
			Template: "A film {thickness} thick with a viscosity of {viscosity} lies on the {on}.", Acts: sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{
				{Name: "thickness", Label: "thickness", Unit: "µm", Positive: true, May: sentence.Place | sentence.Moment, Usual: sentence.Usually(1e-8, 5e-3, "a film")},
				{Name: "viscosity", Label: "viscosity", Unit: "Pa·s", Positive: true, May: sentence.Place | sentence.Fields, Usual: sentence.Usually(1e-6, 1e4, "a film")}},
		},
		{
			Key: KeyFacing, Group: sentence.Condition, Title: "the wall that faces a film moves",
			Template: "The wall that faces the {on} slides along it with ({x}, {y}, {z}).", Acts: sentence.Surfaces, Slots: velocity("speed"),
		},
		{
			Key: KeySlides, Group: sentence.Condition, Title: "a surface under a film runs along itself",
			Template: "The {on} runs along itself with ({x}, {y}, {z}) under its film.", Acts: sentence.Surfaces, Slots: velocity("speed"),
		},
		{
			Key: KeyCloses, Group: sentence.Condition, Title: "the wall that faces a film comes nearer",
			Template: "The wall that faces the {on} comes nearer with {speed}.", Acts: sentence.Surfaces,
			Slots: []sentence.Slot{{Name: "speed", Label: "speed", Unit: "mm/s", May: sentence.Place | sentence.Moment, Usual: sentence.Usually(-10, 10, "a wall")}},
		},
		{
			Key: KeyPressure, Group: sentence.Condition, Title: "pressure where a film ends",
			Template: "Where a film meets the {on} its pressure is {pressure}.", Acts: sentence.Surfaces, Slots: []sentence.Slot{pressure},
		},
		{
			Key: KeySealed, Group: sentence.Condition, Title: "a sealed edge of a film",
			Template: "Where a film meets the {on} it is sealed.", Acts: sentence.Surfaces,
		},
		{
			Key: KeyFed, Group: sentence.Condition, Title: "a flow where a film ends",
			Template: "Where a film meets the {on} {flow} flows into it, along each length of its edge.", Acts: sentence.Surfaces,
			Slots: []sentence.Slot{{Name: "flow", Label: "volume flow by length", Unit: "mm²/s", May: sentence.Place | sentence.Moment, Usual: sentence.Usually(-0.1, 0.1, "a film")}},
		},
		{
			Key: KeyBreaks, Group: sentence.Condition, Title: "the pressure below which a film breaks up",
			Template: "The film on the {on} breaks up at {pressure}.", Acts: sentence.Surfaces,
			Slots: []sentence.Slot{{Name: "pressure", Label: "pressure, above that around", Unit: "kPa", Usual: sentence.Usually(-1.1e5, 1, "a film")}},
		},
		{
			Key: KeyWhole, Group: sentence.Condition, Title: "a film that never breaks up",
			Template: "The film on the {on} never breaks up.", Acts: sentence.Surfaces,
		},
		{
			Key: KeySimple, Group: sentence.Condition, Title: "a film that breaks up in the simple way",
			Template: "Where the pressure of the film on the {on} falls below that at which it breaks up it counts as that, however much liquid there is.", Acts: sentence.Surfaces,
		},
		{
			Key: KeyStiffens, Group: sentence.Condition, Title: "viscosity that rises with the pressure",
			Template: "The viscosity of the film on the {on} rises with its pressure by {coefficient}.", Acts: sentence.Surfaces,
			Slots: []sentence.Slot{{Name: "coefficient", Label: "part per pressure", Unit: "1/Pa", Positive: true, Usual: sentence.Usually(1e-10, 1e-7, "a liquid")}},
		},
		{
			Key: KeyBears, Group: sentence.Condition, Title: "a film that bears a given load",
			Template: "The film on the {on} bears {force} and is as much thicker, or thinner, everywhere as that takes.", Acts: sentence.Surfaces,
			Slots: []sentence.Slot{{Name: "force", Label: "force", Unit: "N", Positive: true, May: sentence.Moment, Usual: sentence.Usually(1e-4, 1e8, "a film")}},
		},
		{
			Key: KeyTilts, Group: sentence.Condition, Title: "a film whose wall tilts under its load",
			Template: "The load on the film of the {on} acts at ({x}, {y}, {z}), about which the wall tilts.", Acts: sentence.Surfaces,
			Slots: []sentence.Slot{{Name: "x", Label: "place along x", Unit: "mm"}, {Name: "y", Label: "place along y", Unit: "mm"}, {Name: "z", Label: "place along z", Unit: "mm", Without: "0 mm"}},
		},
		{
			Key: KeyPushes, Group: sentence.Condition, Title: "a film pushes what it lies on",
			Template: "The film pushes the {on}, which bends.", Acts: sentence.Surfaces,
		},
		{
			Key: KeyYields, Group: sentence.Condition, Title: "a film is thicker where what it lies on bends away",
			Template: "The film on the {on} is as much thicker as that bends away.", Acts: sentence.Surfaces,
		},
		{
			Key: KeyWarms, Group: sentence.Condition, Title: "friction of a film warms what it lies on",
			Template: "{part} of what the friction of the film turns into heat goes into the {on}.", Acts: sentence.Surfaces,
			Slots: []sentence.Slot{{Name: "part", Label: "part of the heat", Default: "50 %", Within: &sentence.Range{Least: 0, Most: 1}}},
		},
		{Key: KeyForce, Group: sentence.Reading, Title: "force of a film", Template: "force that the film bears on the {on}", Acts: sentence.Surfaces, Unit: "N"},
		{Key: KeyCentre, Group: sentence.Reading, Title: "centre of the pressure of a film", Template: "place along {axis} of the force of the film on the {on}", Acts: sentence.Surfaces, Unit: "mm",
			Slots: []sentence.Slot{{Name: "axis", Label: "axis: x, y or z", Kind: sentence.Text, Default: "x"}}},
		{Key: KeyDrag, Group: sentence.Reading, Title: "drag of a film on what it lies on", Template: "drag of the film on the {on}", Acts: sentence.Surfaces, Unit: "N"},
		{Key: KeyResist, Group: sentence.Reading, Title: "drag of a film on the wall that faces it", Template: "drag of the film on the wall that faces the {on}", Acts: sentence.Surfaces, Unit: "N"},
		{Key: KeyLeaves, Group: sentence.Reading, Title: "what leaves a film at its edges", Template: "volume that leaves the film where it meets the {on}", Acts: sentence.Surfaces, Unit: "mL/s"},
		{Key: KeyLift, Group: sentence.Reading, Title: "how far a film is lifted by its load", Template: "by how much the load makes the film on the {on} thicker", Acts: sentence.Surfaces, Unit: "µm"},
	}
}
