package magnetic

import "saltkettle/core/sentence"

// Keys of the sentences of magnetic fields.
const (
	KeyMagnet     = "magnetic.magnet"
	KeyCoil       = "magnetic.coil"
	KeyCrosses    = "magnetic.crosses"
	KeyOpen       = "magnetic.open"
	KeyShell      = "magnetic.shell"
	KeyDriven     = "magnetic.driven"
	KeyAlternates = "magnetic.alternates"
	KeyTotal      = "magnetic.total"
	KeyFed        = "magnetic.fed"
	KeyMoves      = "magnetic.moves"

	KeyForce      = "magnetic.force"
	KeyTorque     = "magnetic.torque"
	KeyLinkage    = "magnetic.linkage"
	KeyInductance = "magnetic.inductance"
	KeyMutual     = "magnetic.mutual"
	KeyEnergy     = "magnetic.energy"
	KeyFlux       = "magnetic.flux"
	KeyLost       = "magnetic.lost"
	KeyCurrent    = "magnetic.current"
	KeyVoltage    = "magnetic.voltage"
)

// moving are the kinds by which the field has rates.
var moving = []string{KeyDriven, KeyTotal, KeyFed, KeyMoves}

// Kinds are the sentences of magnetic fields.
func Kinds() []sentence.Kind {
	direction := func(name string) sentence.Slot {
		return sentence.Slot{Name: name, Label: "direction of the north, along " + name, Without: "nothing", May: sentence.Place}
	}
	speed := func(name string) sentence.Slot {
		return sentence.Slot{Name: name, Label: "velocity along " + name, Unit: "m/s", Without: "nothing", May: sentence.Place | sentence.Moment, Usual: sentence.Usually(-1e3, 1e3, "a conductor")}
	}
	return []sentence.Kind{
		{
			Key: KeyMagnet, Group: sentence.Condition, Title: "magnet",
			Template: "The {on} is a magnet whose north points along ({x}, {y}, {z}) in its own axes.", Acts: sentence.Bodies, Way: [3]string{"x", "y", "z"},
			Slots: []sentence.Slot{direction("x"), direction("y"), direction("z")},
		},
		{
			Key: KeyCoil, Group: sentence.Condition, Title: "coil, or conductor with a current",
			Template: "In the {on} run {turns} turns, each with {current}: towards the viewer, or to the right of y round the axis, of z round its hole.", Acts: sentence.Bodies, Round: []string{"turns", "current"},
			Slots: []sentence.Slot{
				{Name: "turns", Label: "number of turns", Default: "1", May: sentence.Place, Usual: sentence.Usually(-1e6, 1e6, "a coil")},
				{Name: "current", Label: "current", Unit: "A", May: sentence.Moment, Usual: sentence.Usually(-1e6, 1e6, "a coil")}},
		},
		{
			Key: KeyCrosses, Group: sentence.Condition, Title: "flux that crosses at right angles",
			Template: "Flux crosses the {on} at right angles.", Acts: sentence.Surfaces, Exposed: true, Continues: true,
		},
		{
			Key: KeyOpen, Group: sentence.Condition, Title: "open space beyond",
			Template: "Beyond the {on} the field goes on into open space.", Acts: sentence.Surfaces, Exposed: true, Continues: true, Far: true,
		},
		{
			Key: KeyShell, Group: sentence.Condition, Title: "all space beyond, in a shell",
			Template: "The {on}, a box round all others, stands for all space beyond them: its outer sides are infinitely far away.", Acts: sentence.Bodies,
		},
		{
			Key: KeyDriven, Group: sentence.Condition, Title: "currents driven by a field that changes",
			Template: "A field that changes drives currents in the {on}, each of which closes beyond the section.", Acts: sentence.Bodies, Within: true,
		},
		{
			Key: KeyTotal, Group: sentence.Condition, Title: "current in all that spreads by itself",
			Template: "Through the {on} run {current} in all, spread as the field lets them: towards the viewer, or round the axis to the right of its y.", Acts: sentence.Bodies, Within: true, Round: []string{"current"},
			Slots: []sentence.Slot{{Name: "current", Label: "current", Unit: "A", May: sentence.Moment, Usual: sentence.Usually(-1e6, 1e6, "a conductor")}},
		},
		{
			Key: KeyFed, Group: sentence.Condition, Title: "coil that is fed with a voltage",
			Template: "The {turns} turns in the {on} are fed with {voltage} through {resistance} in all.", Acts: sentence.Bodies, Round: []string{"turns", "voltage"},
			Slots: []sentence.Slot{
				{Name: "turns", Label: "number of turns, less than nothing where they run back", Default: "1", May: sentence.Place, Usual: sentence.Usually(-1e6, 1e6, "a coil")},
				{Name: "voltage", Label: "voltage", Unit: "V", May: sentence.Moment, Usual: sentence.Usually(-1e6, 1e6, "a coil")},
				{Name: "resistance", Label: "resistance of all turns and what feeds them", Unit: "Ω", Positive: true, Usual: sentence.Usually(1e-6, 1e6, "a coil")}},
		},
		{
			Key: KeyMoves, Group: sentence.Condition, Title: "conductor that moves through the field",
			Template: "The {on} moves with ({x}, {y}), which changes nothing of its shape, and the field drives currents in it.", Acts: sentence.Bodies, Within: true,
			Slots: []sentence.Slot{speed("x"), speed("y")},
		},
		{
			Key: KeyAlternates, Group: sentence.Condition, Title: "currents that alternate",
			Template: "Currents and voltages alternate with {frequency}: what is said of them are amplitudes.",
			Slots:    []sentence.Slot{{Name: "frequency", Label: "frequency", Unit: "Hz", Positive: true, Usual: sentence.Usually(0.01, 1e7, "a current")}},
		},
		{
			Key: KeyForce, Group: sentence.Reading, Title: "magnetic force",
			Template: "magnetic force on the {on} along {axis}", Acts: sentence.Bodies, Unit: "N",
			Slots: []sentence.Slot{{Name: "axis", Label: "axis of the force", Kind: sentence.Text, Default: "y"}},
		},
		{
			Key: KeyTorque, Group: sentence.Reading, Title: "magnetic torque",
			Template: "magnetic torque on the {on} about the line through ({px}, {py}) along z", Acts: sentence.Bodies, Unit: "N·m",
			Slots: []sentence.Slot{{Name: "px", Label: "x of the line", Unit: "mm", Without: "0"}, {Name: "py", Label: "y of the line", Unit: "mm", Without: "0"}},
		},
		{
			Key: KeyLinkage, Group: sentence.Reading, Title: "flux that turns hold",
			Template: "flux that the turns in the {on} hold, added up", Acts: sentence.Bodies, Unit: "mWb",
		},
		{
			Key: KeyInductance, Group: sentence.Reading, Title: "inductance",
			Template: "flux that the turns in the {on} hold, for each ampere in them", Acts: sentence.Bodies, Unit: "mH",
		},
		{
			Key: KeyMutual, Group: sentence.Reading, Title: "inductance between turns",
			Template: "flux that the turns in the {on} hold more, for each ampere more in the turns in the part {other}", Acts: sentence.Bodies, Unit: "mH",
			Slots: []sentence.Slot{{Name: "other", Label: "name of the part with the other turns", Kind: sentence.Text}},
		},
		{
			Key: KeyEnergy, Group: sentence.Reading, Title: "energy of the magnetic field",
			Template: "energy of the magnetic field in the {on}", Acts: sentence.Bodies, Unit: "J",
		},
		{
			Key: KeyFlux, Group: sentence.Reading, Title: "magnetic flux through a surface",
			Template: "magnetic flux out through the {on}", Acts: sentence.Surfaces, Unit: "mWb",
		},
		{
			Key: KeyLost, Group: sentence.Reading, Title: "power of driven currents turned into heat",
			Template: "power of driven currents turned into heat in the {on}", Acts: sentence.Bodies, Unit: "W",
		},
		{
			Key: KeyCurrent, Group: sentence.Reading, Title: "current through a section",
			Template: "current through the section of the {on}, each turn of it counted", Acts: sentence.Bodies, Unit: "A",
		},
		{
			Key: KeyVoltage, Group: sentence.Reading, Title: "voltage along a conductor",
			Template: "voltage that drives the current through the {on}", Acts: sentence.Bodies, Unit: "V",
		},
	}
}
