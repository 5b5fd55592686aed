package acoustic

import "saltkettle/core/sentence"

// Keys of the sentences of sound.
const (
	KeyFills     = "acoustic.fills"
	KeyLoses     = "acoustic.loses"
	KeyAbsorbs   = "acoustic.absorbs"
	KeyGap       = "acoustic.gap"
	KeyPipe      = "acoustic.pipe"
	KeyShell     = "acoustic.shell"
	KeyArises    = "acoustic.arises"
	KeyPressure  = "acoustic.pressure"
	KeySoft      = "acoustic.soft"
	KeyFree      = "acoustic.free"
	KeyImpedance = "acoustic.impedance"
	KeyLined     = "acoustic.lined"
	KeyMoves     = "acoustic.moves"
	KeyLeaves    = "acoustic.leaves"
	KeyDuct      = "acoustic.duct"
	KeyArrives   = "acoustic.arrives"

	KeyLevel  = "acoustic.level"
	KeyMean   = "acoustic.mean"
	KeyPower  = "acoustic.power"
	KeyComing = "acoustic.coming"
	KeyMet    = "acoustic.met"
	KeyTaken  = "acoustic.taken"
	KeySent   = "acoustic.sent"
	KeyFar    = "acoustic.far"
)

// Slots that laws of several sentences have.
const (
	weighting = "weighting"
	reference = "reference"
	order     = "order"
)

// Kinds are the sentences of sound.
func Kinds() []sentence.Kind {
	resistivity := sentence.Slot{Name: "resistivity", Label: "flow resistivity", Unit: "Pa·s/m²", Positive: true, Usual: sentence.Usually(500, 1e6, "an absorber")}
	width := sentence.Slot{Name: "width", Label: "width", Unit: "mm", Positive: true, Usual: sentence.Usually(1e-6, 0.1, "a narrow duct")}
	waves := &sentence.Range{Least: 0, Most: 30}
	return []sentence.Kind{
		{
			Key: KeyFills, Group: sentence.Condition, Title: "sound fills a part",
			Template: "Sound fills the {on}.", Acts: sentence.Bodies,
		},
		{
			Key: KeyLoses, Group: sentence.Condition, Title: "fluid that takes a part of the sound",
			Template: "Sound in the {on} loses the part {part} of what it stores in each swing, over 2π.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{{Name: "part", Label: "loss factor", Positive: true, Usual: sentence.Usually(1e-6, 0.3, "a fluid")}},
		},
		{
			Key: KeyAbsorbs, Group: sentence.Condition, Title: "porous absorber",
			Template: "The {on} is filled with a porous absorber of {resistivity}.", Acts: sentence.Bodies, Slots: []sentence.Slot{resistivity},
		},
		{
			Key: KeyGap, Group: sentence.Condition, Title: "narrow gap whose walls take sound",
			Template: "The {on} stands for a gap between walls {width} apart, which take up sound by friction and heat.", Acts: sentence.Bodies, Slots: []sentence.Slot{width},
		},
		{
			Key: KeyPipe, Group: sentence.Condition, Title: "narrow round ducts whose walls take sound",
			Template: "The {on} stands for round ducts {width} wide, whose walls take up sound by friction and heat.", Acts: sentence.Bodies, Slots: []sentence.Slot{width},
		},
		{
			Key: KeyShell, Group: sentence.Condition, Title: "frame in which sound goes away for good",
			Template: "In the {on}, a box round all others, sound dies away as it would in open space.", Acts: sentence.Bodies,
		},
		{
			Key: KeyArises, Group: sentence.Condition, Title: "volume that comes and goes",
			Template: "In the {on} {flow} of volume comes and goes.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{{Name: "flow", Label: "volume per time", Unit: "m³/s", May: sentence.Moment, Usual: sentence.Usually(-10, 10, "a source of sound")}},
		},
		{
			Key: KeyPressure, Group: sentence.Condition, Title: "given sound pressure",
			Template: "At the {on} the sound pressure is {pressure}.", Acts: sentence.Surfaces, Continues: true,
			Slots: []sentence.Slot{{Name: "pressure", Label: "sound pressure", Unit: "Pa", May: sentence.Moment | sentence.Place, Usual: sentence.Usually(-1e5, 1e5, "sound")}},
		},
		{
			Key: KeySoft, Group: sentence.Condition, Title: "surface that gives way at once",
			Template: "The {on} gives way to sound at once, so that there is no pressure.", Acts: sentence.Surfaces, Continues: true,
		},
		{
			Key: KeyFree, Group: sentence.Condition, Title: "free surface of a liquid with its weight",
			Template: "The {on} is the free surface of a liquid that {gravity} pulls back.", Acts: sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{{Name: "gravity", Label: "gravity", Unit: "m/s²", Default: "9.81 m/s²", Positive: true, Usual: sentence.Usually(0.1, 30, "gravity")}},
		},
		{
			Key: KeyImpedance, Group: sentence.Condition, Title: "wall with an impedance",
			Template: "The {on} meets sound with a resistance of {resistance} and a reactance of {reactance}.", Acts: sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{
				{Name: "resistance", Label: "resistance, pressure over speed", Unit: "Pa·s/m", May: sentence.Frequency, Usual: sentence.Usually(0, 1e8, "a wall")},
				{Name: "reactance", Label: "reactance, more than nothing as of a mass", Unit: "Pa·s/m", Without: "nothing", May: sentence.Frequency, Usual: sentence.Usually(-1e9, 1e9, "a wall")}},
		},
		{
			Key: KeyLined, Group: sentence.Condition, Title: "porous lining on a hard wall",
			Template: "The {on} is lined with a porous layer of {resistivity}, {depth} deep, on a hard wall.", Acts: sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{resistivity, {Name: "depth", Label: "depth", Unit: "mm", Positive: true, Usual: sentence.Usually(1e-3, 1, "a lining")}},
		},
		{
			Key: KeyMoves, Group: sentence.Condition, Title: "wall that moves",
			Template: "The {on} moves into the sound with {speed}.", Acts: sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{{Name: "speed", Label: "speed", Unit: "m/s", May: sentence.Moment | sentence.Place, Usual: sentence.Usually(-10, 10, "a wall")}},
		},
		{
			Key: KeyLeaves, Group: sentence.Condition, Title: "sound that leaves into open space",
			Template: "Through the {on} sound leaves into open space, away from the middle of the device.", Acts: sentence.Surfaces, Exposed: true, Continues: true, Far: true,
		},
		{
			Key: KeyDuct, Group: sentence.Condition, Title: "end of a duct that goes on",
			Template: "Beyond the {on} a duct goes on: a wave of {pressure} comes as its wave {order}, and all that goes out leaves.", Acts: sentence.Surfaces, Exposed: true, Continues: true,
			Slots: []sentence.Slot{
				{Name: "pressure", Label: "pressure of the wave that comes, where it is greatest", Unit: "Pa", Without: "nothing", May: sentence.Moment, Usual: sentence.Usually(-1e4, 1e4, "sound")},
				{Name: order, Label: "which wave of the duct comes, 0 is the plane one", Without: "0, the plane one", Whole: true, Within: waves}},
		},
		{
			Key: KeyArrives, Group: sentence.Condition, Title: "plane wave from far away",
			Template: "From far away comes a plane wave of {pressure} along ({x}, {y}, {z}), in through the frame in which sound dies away.",
			Slots: []sentence.Slot{
				{Name: "pressure", Label: "pressure of the wave", Unit: "Pa", May: sentence.Moment, Usual: sentence.Usually(-1e4, 1e4, "sound")},
				{Name: "x", Label: "direction along x", Without: "nothing"}, {Name: "y", Label: "direction along y", Without: "nothing"}, {Name: "z", Label: "direction along z", Without: "nothing"}},
		},
		{
			Key: KeyLevel, Group: sentence.Reading, Title: "sound pressure level",
			Template: "sound pressure level at the {on}, in dB over {reference}, weighted by {weighting}", Acts: sentence.Bodies | sentence.Surfaces,
			Slots: []sentence.Slot{
				{Name: reference, Label: "reference", Unit: "µPa", Default: "20 µPa", Positive: true, Usual: sentence.Usually(1e-6, 2e-5, "sound")},
				{Name: weighting, Label: "weighting: A, C or none", Kind: sentence.Text, Default: "none"}},
		},
		{
			Key: KeyMean, Group: sentence.Reading, Title: "sound pressure, mean of its square",
			Template: "sound pressure at the {on}, root of the mean of its square", Acts: sentence.Bodies | sentence.Surfaces, Unit: "Pa",
		},
		{
			Key: KeyPower, Group: sentence.Reading, Title: "sound power that leaves",
			Template: "sound power out through the {on}", Acts: sentence.Surfaces, Unit: "W",
		},
		{
			Key: KeyComing, Group: sentence.Reading, Title: "power of the waves that come",
			Template: "power of the waves that come in through the {on}", Acts: sentence.Surfaces, Unit: "W",
		},
		{
			Key: KeySent, Group: sentence.Reading, Title: "power that leaves as one wave of a duct",
			Template: "power that leaves through the {on} as wave {order} of a duct", Acts: sentence.Surfaces, Unit: "W",
			Slots: []sentence.Slot{{Name: order, Label: "which wave, 0 is the plane one", Without: "0, the plane one", Whole: true, Within: waves}},
		},
		{
			Key: KeyMet, Group: sentence.Reading, Title: "impedance that sound meets",
			Template: "impedance that sound meets at the {on}", Acts: sentence.Surfaces, Unit: "Pa·s/m",
		},
		{
			Key: KeyTaken, Group: sentence.Reading, Title: "part of a wave that is taken up",
			Template: "part of a wave straight onto it that the {on} takes up", Acts: sentence.Surfaces, Unit: "%",
		},
		{
			Key: KeyFar, Group: sentence.Reading, Title: "sound pressure far away",
			Template: "sound pressure {distance} away along ({x}, {y}, {z}), by what the {on} sends, root of the mean of its square", Acts: sentence.Surfaces, Unit: "Pa",
			Slots: []sentence.Slot{
				{Name: "distance", Label: "distance, as if it were far", Unit: "m", Default: "1 m", Positive: true, Usual: sentence.Usually(0.1, 1e4, "a distance")},
				{Name: "x", Label: "direction along x", Without: "nothing"}, {Name: "y", Label: "direction along y", Without: "nothing"}, {Name: "z", Label: "direction along z", Without: "nothing"}},
		},
	}
}
