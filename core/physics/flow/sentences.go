package flow

import "saltkettle/core/sentence"

// Keys of the sentences of flow.
const (
	KeyFlows     = "flow.flows"
	KeyInlet     = "flow.inlet"
	KeyChannel   = "flow.channel"
	KeyThrough   = "flow.through"
	KeyOpening   = "flow.opening"
	KeyStill     = "flow.still"
	KeySlips     = "flow.slips"
	KeyWallMoves = "flow.wall-moves"
	KeyGravity   = "flow.gravity"
	KeyAhead     = "flow.ahead"
	KeyThins     = "flow.thins"
	KeyMatrix    = "flow.matrix"
	KeyWallTurns = "flow.wall-turns"
	KeyFan       = "flow.fan"
	KeyRepeats   = "flow.repeats"
	KeyCarries   = "flow.repeats-with"
	KeyTurbulent = "flow.turbulent"
	KeyEnergy    = "flow.turbulent-energy"
	KeyRough     = "flow.rough"
	KeyBrings    = "flow.brings-eddies"
	KeyRatio     = "flow.brings-ratio"
	KeyStream    = "flow.stream"

	KeySpeed       = "flow.speed"
	KeyMean        = "flow.mean-pressure"
	KeyVolumeFlow  = "flow.volume-flow"
	KeyMassFlow    = "flow.mass-flow"
	KeyForce       = "flow.force"
	KeyTorque      = "flow.torque"
	KeyLost        = "flow.power-lost"
	KeyMixed       = "flow.mixed-temperature"
	KeyLoss        = "flow.loss"
	KeyStays       = "flow.stays"
	KeyCoefficient = "flow.coefficient"
)

// axes are the names of the slots by direction.
var axes = [3]string{"x", "y", "z"}

// Kinds are the sentences of flow.
func Kinds() []sentence.Kind {
	speed := sentence.Slot{Name: "speed", Label: "speed", Unit: "m/s", May: sentence.Place | sentence.Moment, Usual: sentence.Usually(-100, 100, "a flow that is not compressed")}
	mean := speed
	mean.May = sentence.Moment
	pressure := func(name, without string) sentence.Slot {
		return sentence.Slot{Name: name, Label: "pressure", Unit: "Pa", Without: without, May: sentence.Place | sentence.Moment, Usual: sentence.Usually(-1e8, 1e8, "a flow")}
	}
	along := func(what, unit, without string, lo, hi float64, whose string, may sentence.Dependence) (list []sentence.Slot) {
		for _, axis := range axes {
			list = append(list, sentence.Slot{Name: axis, Label: what + " along " + axis, Unit: unit, Without: without, May: may, Usual: sentence.Usually(lo, hi, whose)})
		}
		return list
	}
	var way []sentence.Slot
	for _, axis := range axes {
		way = append(way, sentence.Slot{Name: axis, Label: "way along " + axis, Unit: "mm", Without: "0"})
	}
	way = way[:len(way):len(way)]
	return []sentence.Kind{
		{
			Key: KeyFlows, Group: sentence.Condition, Title: "a fluid flows",
			Template: "What fills the {on} flows.", Acts: sentence.Bodies,
		},
		{
			Key: KeyTurbulent, Group: sentence.Condition, Title: "flow that is turbulent",
			Template: "The flow is turbulent, and solved for on the mean: its eddies spread momentum, heat and what is dissolved.",
		},
		{
			Key: KeyEnergy, Group: sentence.Condition, Title: "flow that is turbulent, by the energy of eddies",
			Template: "The flow is turbulent, and solved for on the mean: it carries the energy of its eddies along, and how fast they decay.",
		},
		{
			Key: KeyRough, Group: sentence.Condition, Title: "rough wall",
			Template: "The {on} is as rough as sand of {height}.", Acts: sentence.Surfaces,
			Slots: []sentence.Slot{{Name: "height", Label: "size of the grains of sand", Unit: "mm", Positive: true, Usual: sentence.Usually(1e-7, 1, "a wall")}},
		},
		{
			Key: KeyBrings, Group: sentence.Condition, Title: "eddies that come in",
			Template: "What comes in through the {on} swings by {intensity} of its speed, in eddies of {length}.", Acts: sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{{Name: "intensity", Label: "swing of the speed over the speed", Unit: "%", Positive: true, Usual: sentence.Usually(1e-4, 0.5, "a stream")},
				{Name: "length", Label: "size of eddies", Unit: "mm", Positive: true, Usual: sentence.Usually(1e-5, 1e2, "eddies")}},
		},
		{
			Key: KeyRatio, Group: sentence.Condition, Title: "eddies that come in, by their viscosity",
			Template: "What comes in through the {on} has eddies that are {ratio} times as viscous as the fluid.", Acts: sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{{Name: "ratio", Label: "viscosity of eddies over that of the fluid", Usual: sentence.Usually(0, 1e4, "a stream")}},
		},
		{
			Key: KeyInlet, Group: sentence.Condition, Title: "comes in at a speed",
			Template: "Fluid comes in through the {on} at {speed}, everywhere alike unless a formula says otherwise.",
			Acts:     sentence.Surfaces, Exposed: true, Continues: true, Slots: []sentence.Slot{speed},
		},
		{
			Key: KeyStream, Group: sentence.Condition, Title: "wide stream that flows past",
			Template: "A wide stream flows past with {x} along x, {y} along y, {z} along z: it comes in through the {on} and leaves there, as it is directed.",
			Acts:     sentence.Surfaces, Exposed: true, Continues: true, Far: true,
			Slots: along("speed of the stream", "m/s", "nothing", -100, 100, "a stream that is not compressed", sentence.Place),
		},
		{
			Key: KeyChannel, Group: sentence.Condition, Title: "comes in as from a long channel",
			Template: "Fluid comes in through the {on} as from a long channel, at {speed} on the mean.",
			Acts:     sentence.Surfaces, Exposed: true, Continues: true, Slots: []sentence.Slot{mean},
		},
		{
			Key: KeyThrough, Group: sentence.Condition, Title: "volume that comes in",
			Template: "{flow} of fluid come in through the {on}, as from a long channel.",
			Acts:     sentence.Surfaces, Exposed: true, Continues: true,
			Slots: []sentence.Slot{{Name: "flow", Label: "volume flow", Unit: "l/min", May: sentence.Moment, Usual: sentence.Usually(-100, 100, "a device")}},
		},
		{
			Key: KeyOpening, Group: sentence.Condition, Title: "leaves against a pressure",
			Template: "Fluid leaves, or comes in, through the {on} against a pressure of {pressure}.",
			Acts:     sentence.Surfaces, Exposed: true, Continues: true, Slots: []sentence.Slot{pressure("pressure", "nothing")},
		},
		{
			Key: KeyStill, Group: sentence.Condition, Title: "comes in from where it is at rest",
			Template: "Fluid comes in through the {on} from where it is at rest under a pressure of {pressure}.",
			Acts:     sentence.Surfaces, Exposed: true, Continues: true, Slots: []sentence.Slot{pressure("pressure", "")},
		},
		{
			Key: KeySlips, Group: sentence.Condition, Title: "wall without friction, or symmetry",
			Template: "Fluid slips along the {on} without friction.", Acts: sentence.Surfaces,
		},
		{
			Key: KeyWallMoves, Group: sentence.Condition, Title: "wall that moves along itself",
			Template: "The {on} moves along itself with {x} along x, {y} along y, {z} along z.",
			Acts:     sentence.Surfaces, Slots: along("speed", "m/s", "nothing", -100, 100, "a wall", sentence.Place|sentence.Moment),
		},
		{
			Key: KeyWallTurns, Group: sentence.Condition, Title: "wall that turns",
			Template: "The {on} turns at {rate} about the line through ({x}, {y}) along z, to the left seen from above.", Acts: sentence.Surfaces,
			Slots: []sentence.Slot{{Name: "rate", Label: "rate of turning", Unit: "rad/s", May: sentence.Moment, Usual: sentence.Usually(-1e4, 1e4, "a wall")},
				{Name: "x", Label: "x of the line", Unit: "mm", Without: "0"}, {Name: "y", Label: "y of the line", Unit: "mm", Without: "0"}},
		},
		{
			Key: KeyFan, Group: sentence.Condition, Title: "blown in by a fan, or pumped in",
			Template: "A fan or pump brings fluid in through the {on}, from a pressure of nothing, with {pressure} at the volume_flow that it moves.",
			Acts:     sentence.Surfaces, Exposed: true, Continues: true,
			Slots: []sentence.Slot{{Name: "pressure", Label: "pressure of the fan", Unit: "Pa", May: sentence.VolumeFlow, Usual: sentence.Usually(-1e8, 1e8, "a fan")}},
		},
		{
			Key: KeyRepeats, Group: sentence.Condition, Title: "flow that repeats, by the pressure that it loses",
			Template: "What comes in through the {on} leaves {x} along x, {y} along y, {z} along z from there just as it came, and loses {pressure} on the way.",
			Acts:     sentence.Surfaces, Exposed: true, Continues: true,
			Slots: append(way, sentence.Slot{Name: "pressure", Label: "pressure that is lost", Unit: "Pa", Usual: sentence.Usually(-1e8, 1e8, "a flow")}),
		},
		{
			Key: KeyCarries, Group: sentence.Condition, Title: "flow that repeats, by how much of it there is",
			Template: "{flow} of fluid come in through the {on} and leave {x} along x, {y} along y, {z} along z from there just as they came.",
			Acts:     sentence.Surfaces, Exposed: true, Continues: true,
			Slots: append(way, sentence.Slot{Name: "flow", Label: "volume flow", Unit: "l/min", Usual: sentence.Usually(-100, 100, "a device")}),
		},
		{
			Key: KeyMatrix, Group: sentence.Condition, Title: "flows through a porous matrix",
			Template: "A matrix in the {on} holds the fluid up: its permeability is {permeability}, and its inertia {inertia}.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{{Name: "permeability", Label: "permeability", Unit: "m²", Positive: true, May: sentence.Place, Usual: sentence.Usually(1e-18, 1e-2, "a matrix")},
				{Name: "inertia", Label: "inertia of the matrix, over the length in which a speed is lost", Unit: "1/m", Without: "nothing", May: sentence.Place, Usual: sentence.Usually(0, 1e7, "a matrix")}},
		},
		{
			Key: KeyThins, Group: sentence.Condition, Title: "becomes thinner as it is sheared",
			Template: "What flows in the {on} becomes thinner as it is sheared: down to {fast}, with the time {time} and the exponent {exponent}.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{{Name: "fast", Label: "viscosity of what is sheared fast", Unit: "Pa·s", Without: "nothing", Usual: sentence.Usually(0, 1e3, "a fluid")},
				{Name: "time", Label: "time, over which the shear rate counts as fast", Unit: "s", Positive: true, Usual: sentence.Usually(1e-9, 1e9, "a fluid")},
				{Name: "exponent", Label: "exponent, 1 for a viscosity that stays", Positive: true, Usual: sentence.Usually(0.1, 2, "a fluid")}},
		},
		{
			Key: KeyGravity, Group: sentence.Condition, Title: "gravity",
			Template: "Gravity pulls fluids with {x} along x, {y} along y, {z} along z; those at {temperature} are in balance.",
			Slots: append(along("gravity", "m/s²", "nothing", -1000, 1000, "a device", sentence.Moment),
				sentence.Slot{Name: "temperature", Label: "temperature at which fluids are in balance", Unit: "°C", Temperature: true, Usual: sentence.Usually(200, 2000, "a device")}),
		},
		{
			Key: KeyAhead, Group: sentence.Condition, Title: "flow that is steady",
			Template: "The flow is steady: it is found once, before time begins.", Transient: true,
		},
		{
			Key: KeySpeed, Group: sentence.Reading, Title: "greatest speed",
			Template: "greatest speed of the {on}", Acts: sentence.Bodies, Unit: "m/s",
		},
		{
			Key: KeyMean, Group: sentence.Reading, Title: "mean pressure",
			Template: "mean pressure of the {on}", Acts: sentence.Bodies | sentence.Surfaces, Unit: "Pa",
		},
		{
			Key: KeyVolumeFlow, Group: sentence.Reading, Title: "volume that leaves through a surface",
			Template: "volume of fluid that leaves through the {on}", Acts: sentence.Surfaces, Unit: "l/min",
		},
		{
			Key: KeyMassFlow, Group: sentence.Reading, Title: "mass that leaves through a surface",
			Template: "mass of fluid that leaves through the {on}", Acts: sentence.Surfaces, Unit: "kg/s",
		},
		{
			Key: KeyLoss, Group: sentence.Reading, Title: "pressure that a flow that repeats loses",
			Template: "pressure that the flow loses until it repeats", Unit: "Pa",
		},
		{
			Key: KeyStays, Group: sentence.Reading, Title: "mean time that a fluid stays",
			Template: "mean time that fluid stays in the {on}", Acts: sentence.Bodies, Unit: "s",
		},
		{
			Key: KeyForce, Group: sentence.Reading, Title: "force of a fluid on a surface",
			Template: "force of the fluid on the {on} along {axis}", Acts: sentence.Surfaces, Unit: "N",
			Slots: []sentence.Slot{{Name: "axis", Label: "axis of the force", Kind: sentence.Text, Default: "x"}},
		},
		{
			Key: KeyCoefficient, Group: sentence.Reading, Title: "coefficient of a force, such as drag or lift",
			Template: "coefficient of the force of the fluid on the {on} along {axis} turned by {turn} about z, by a speed of {speed} and an area of {area}", Acts: sentence.Surfaces,
			Slots: []sentence.Slot{{Name: "axis", Label: "axis of the force", Kind: sentence.Text, Default: "x"},
				{Name: "turn", Label: "turn of that axis about z, to the left", Unit: "deg", Without: "nothing", Usual: sentence.Usually(-7, 7, "an angle")},
				{Name: "speed", Label: "speed that it is counted by", Unit: "m/s", Positive: true, Usual: sentence.Usually(0, 100, "a stream")},
				{Name: "area", Label: "area that it is counted by", Unit: "m²", Positive: true, Usual: sentence.Usually(1e-8, 1e4, "a body")}},
		},
		{
			Key: KeyTorque, Group: sentence.Reading, Title: "torque of a fluid on a surface",
			Template: "torque of the fluid on the {on} about the line through ({x}, {y}) along z", Acts: sentence.Surfaces, Unit: "N·m",
			Slots: []sentence.Slot{{Name: "x", Label: "x of the line", Unit: "mm", Without: "0"}, {Name: "y", Label: "y of the line", Unit: "mm", Without: "0"}},
		},
		{
			Key: KeyLost, Group: sentence.Reading, Title: "power that friction takes",
			Template: "power that friction takes from the flow in the {on}", Acts: sentence.Bodies, Unit: "W",
		},
		{
			Key: KeyMixed, Group: sentence.Reading, Title: "temperature of what flows through, mixed",
			Template: "temperature of what flows through the {on}, mixed", Acts: sentence.Surfaces, Unit: "°C",
		},
	}
}
