package pipes

import "saltkettle/core/sentence"

// Keys of the sentences of pipes.
const (
	KeyCarries  = "pipes.carries"
	KeyRound    = "pipes.round"
	KeyChannel  = "pipes.channel"
	KeyWall     = "pipes.wall"
	KeyRough    = "pipes.rough"
	KeyFriction = "pipes.friction"
	KeyGravity  = "pipes.gravity"
	KeyAir      = "pipes.air"
	KeyTank     = "pipes.tank"
	KeyOpen     = "pipes.open"
	KeyBeyond   = "pipes.beyond"
	KeyLeaves   = "pipes.leaves"
	KeyEnters   = "pipes.enters"
	KeyBend     = "pipes.bend"
	KeyValve    = "pipes.valve"
	KeyCheck    = "pipes.check"
	KeyFitting  = "pipes.fitting"
	KeyLike     = "pipes.like"
	KeyPump     = "pipes.pump"
	KeyWarms    = "pipes.warms"
	KeyInside   = "pipes.inside"

	KeyFlow        = "pipes.flow"
	KeyMass        = "pipes.mass"
	KeySpeed       = "pipes.speed"
	KeyPressure    = "pipes.pressure"
	KeyTotal       = "pipes.total"
	KeyReynolds    = "pipes.reynolds"
	KeyLost        = "pipes.lost"
	KeyTemperature = "pipes.temperature"
	KeyPower       = "pipes.power"
	KeyLevel       = "pipes.level"
	KeyGivesOff    = "pipes.gives-off"
)

// Kinds are the sentences of pipes.
func Kinds() []sentence.Kind {
	temperature := func(name, without string) sentence.Slot {
		return sentence.Slot{Name: name, Label: "temperature", Unit: "°C", Temperature: true, Without: without, May: sentence.Moment, Usual: sentence.Usually(200, 700, "what flows in pipes")}
	}
	length := func(name, label string) sentence.Slot {
		return sentence.Slot{Name: name, Label: label, Unit: "mm", Positive: true, Usual: sentence.Usually(1e-4, 5, "a pipe")}
	}
	flow := sentence.Slot{Name: "flow", Label: "volume flow", Unit: "m³/h", May: sentence.Moment, Usual: sentence.Usually(-10, 10, "a pipe")}
	pressure := func(without string) sentence.Slot {
		return sentence.Slot{Name: "pressure", Label: "pressure, above that of the air", Unit: "kPa", Without: without, May: sentence.Moment, Usual: sentence.Usually(-1.02e5, 1e8, "a pipe")}
	}
	loss := func(standard string) sentence.Slot {
		return sentence.Slot{Name: "loss", Label: "loss, in dynamic pressures", Unit: "1", Default: standard, Within: &sentence.Range{Least: 0, Most: 1e12}, Usual: sentence.Usually(0, 1000, "a fitting")}
	}
	head := func(name, label, without string) sentence.Slot {
		return sentence.Slot{Name: name, Label: label, Unit: "m", Without: without, Usual: sentence.Usually(0, 2000, "a pump")}
	}
	condition := func(key, title, template string, acts sentence.Acts, at sentence.OnLines, slots ...sentence.Slot) sentence.Kind {
		return sentence.Kind{Key: key, Group: sentence.Condition, Title: title, Template: template, Acts: acts, At: at, Slots: slots}
	}
	reading := func(key, title, template, unit string, slots ...sentence.Slot) sentence.Kind {
		return sentence.Kind{Key: key, Group: sentence.Reading, Title: title, Template: template, Acts: sentence.Bodies | sentence.Surfaces, Unit: unit, Slots: slots}
	}
	symbols := map[string]string{KeyTank: "tank", KeyOpen: "mouth", KeyBeyond: "mouth", KeyLeaves: "out", KeyEnters: "in", KeyBend: "fitting", KeyValve: "valve", KeyCheck: "check", KeyFitting: "fitting", KeyLike: "fitting", KeyPump: "pump"}
	list := []sentence.Kind{
		condition(KeyCarries, "a pipe", "What fills the {on} flows along it, at {temperature}.", sentence.Bodies, sentence.Nowhere,
			sentence.Slot{Name: "temperature", Label: "temperature", Unit: "°C", Temperature: true, Default: "20 °C", Usual: sentence.Usually(200, 700, "what flows in pipes")}),
		condition(KeyRound, "a round pipe", "The {on} is {diameter} wide inside.", sentence.Bodies, sentence.Nowhere, length("diameter", "inner diameter")),
		condition(KeyChannel, "a channel with four walls", "The {on} is {width} by {height} inside.", sentence.Bodies, sentence.Nowhere, length("width", "inner width"), length("height", "inner height")),
		condition(KeyWall, "what the wall of a pipe is of", "The wall of the {on} is of {wall}.", sentence.Bodies, sentence.Nowhere,
			sentence.Slot{Name: "wall", Label: "material of the wall", Kind: sentence.Text, Rough: true}),
		condition(KeyRough, "how rough a pipe is", "The wall of the {on} is as rough as {roughness}.", sentence.Bodies, sentence.Nowhere,
			sentence.Slot{Name: "roughness", Label: "roughness", Unit: "mm", Within: &sentence.Range{Least: 0, Most: 1}, Usual: sentence.Usually(0, 0.01, "a pipe")}),
		condition(KeyFriction, "the relation of friction", "Friction in the {on} is that of {relation}.", sentence.Bodies, sentence.Nowhere,
			sentence.Slot{Name: "relation", Label: "relation", Kind: sentence.Text, Choices: Relations, Default: Relations[Colebrook]}),
		condition(KeyGravity, "weight of what is in pipes", "What is in pipes is pulled down, against z, by {strength}.", 0, sentence.Nowhere,
			sentence.Slot{Name: "strength", Label: "strength of gravity", Unit: "m/s²", Default: "9.80665 m/s²", Positive: true, Usual: sentence.Usually(1, 30, "gravity")}),
		condition(KeyAir, "pressure of the air round pipes", "The air round pipes presses with {pressure}.", 0, sentence.Nowhere,
			sentence.Slot{Name: "pressure", Label: "absolute pressure of the air", Unit: "kPa", Default: "101.325 kPa", Positive: true, Usual: sentence.Usually(3e4, 1.1e5, "the air")}),
		condition(KeyTank, "a tank at an end", "At the {on} is a tank, filled to the height {level} over {area}, at {temperature}, under {pressure}; its openings are {form}.", sentence.Surfaces, sentence.AtEnds,
			sentence.Slot{Name: "level", Label: "height of its surface, along z", Unit: "m", May: sentence.Moment},
			sentence.Slot{Name: "area", Label: "area of its surface", Unit: "m²", Positive: true, Without: "any area, so that it stays there"},
			temperature("temperature", "the temperature of the pipe"), pressure("the air"),
			sentence.Slot{Name: "form", Label: "form of its openings", Kind: sentence.Text, Choices: Openings, Default: Openings[0]}),
		condition(KeyOpen, "an end in the open", "What comes out at the {on} comes out into the open.", sentence.Surfaces, sentence.AtEnds),
		condition(KeyBeyond, "a pressure beyond an end", "Beyond the {on} the pressure is {pressure}, and what comes from there has {temperature}.", sentence.Surfaces, sentence.AtEnds,
			pressure(""), temperature("temperature", "the temperature of the pipe")),
		condition(KeyLeaves, "a flow that is drawn off", "{flow} is drawn off at the {on}.", sentence.Surfaces, sentence.Nowhere, flow),
		condition(KeyEnters, "a flow that is let in", "{flow} is let in at the {on}, at {temperature}.", sentence.Surfaces, sentence.Nowhere, flow, temperature("temperature", "the temperature of the pipe")),
		condition(KeyBend, "a bend", "The {on} is a bend with a radius of {radius}.", sentence.Surfaces, sentence.OnLine, sentence.Slot{Name: "radius", Label: "radius to its middle", Unit: "mm", Within: &sentence.Range{Least: 0, Most: 1e4}, Usual: sentence.Usually(0, 10, "a bend")}),
		condition(KeyValve, "a valve", "At the {on} is a {kind} valve, {opening} open.", sentence.Surfaces, sentence.OnLine,
			sentence.Slot{Name: "kind", Label: "kind of valve", Kind: sentence.Text, Choices: Valves, Default: Valves[0]},
			sentence.Slot{Name: "opening", Label: "opening", Unit: "1", Default: "100 %", May: sentence.Moment, Within: &sentence.Range{Least: 0, Most: 1}}),
		condition(KeyCheck, "a check valve", "At the {on} a check valve lets nothing flow back; forward it takes {loss} times the dynamic pressure.", sentence.Surfaces, sentence.OnLine, loss("2")),
		condition(KeyFitting, "a fitting", "What is at the {on} takes {loss} times the dynamic pressure.", sentence.Surfaces, sentence.OnLine, loss("")),
		condition(KeyLike, "a fitting that takes as much as some pipe", "What is at the {on} takes as much as {length} of the pipe.", sentence.Surfaces, sentence.OnLine,
			sentence.Slot{Name: "length", Label: "length of pipe", Unit: "m", Positive: true, Usual: sentence.Usually(0.01, 500, "a fitting")}),
		condition(KeyPump, "a pump", "At the {on} a pump lifts by {head0} at no flow, by {head1} at {flow1} and by {head2} at {flow2}, at {speed} of its speed, with an efficiency of {efficiency}.", sentence.Surfaces, sentence.OnLine,
			head("head0", "head at no flow", ""), head("head1", "head at a flow", ""), sentence.Slot{Name: "flow1", Label: "flow", Unit: "m³/h", Positive: true},
			head("head2", "head at a greater flow", "as much as a parabola from its top gives"), sentence.Slot{Name: "flow2", Label: "greater flow", Unit: "m³/h", Positive: true, Without: "any other flow"},
			sentence.Slot{Name: "speed", Label: "part of the speed for which that holds", Unit: "1", Default: "100 %", May: sentence.Moment, Within: &sentence.Range{Least: 0, Most: 3}},
			sentence.Slot{Name: "efficiency", Label: "efficiency", Unit: "1", Without: "…", Within: &sentence.Range{Least: 0.01, Most: 1}}),
		condition(KeyWarms, "heat that goes along pipes", "Heat goes along with what flows in the {on}, and through its wall by {coefficient} to surroundings at {surroundings}.", sentence.Bodies, sentence.Nowhere,
			sentence.Slot{Name: "coefficient", Label: "heat through the wall, by its inner face", Unit: "W/(m²·K)", Without: "nothing", May: sentence.Moment | sentence.Place, Usual: sentence.Usually(0.05, 1e4, "a pipe")},
			sentence.Slot{Name: "surroundings", Label: "temperature around", Unit: "°C", Temperature: true, Without: "any temperature", May: sentence.Moment | sentence.Place, Usual: sentence.Usually(200, 1500, "surroundings")}),
		condition(KeyInside, "a pipe that lies in other parts", "The {on} lies in other parts, and heat goes along it and through its wall into these by {coefficient}.", sentence.Bodies, sentence.Nowhere,
			sentence.Slot{Name: "coefficient", Label: "heat through the wall, by its inner face", Unit: "W/(m²·K)", Without: "as much as follows from the flow", Positive: true, May: sentence.Moment, Usual: sentence.Usually(0.05, 1e6, "a pipe")}),

		reading(KeyFlow, "flow in a pipe", "flow in the {on}", "m³/h"),
		reading(KeyMass, "mass flow in a pipe", "mass flow in the {on}", "kg/s"),
		reading(KeySpeed, "speed in a pipe", "speed in the {on}", "m/s"),
		reading(KeyPressure, "pressure in a pipe", "{scale} pressure in the {on}", "kPa", sentence.Slot{Name: "scale", Label: "scale", Kind: sentence.Text, Choices: []string{"gauge", "absolute"}, Default: "gauge"}),
		reading(KeyTotal, "total pressure in a pipe", "total pressure in the {on}", "kPa"),
		reading(KeyReynolds, "Reynolds number in a pipe", "Reynolds number in the {on}", "1"),
		reading(KeyLost, "head that is lost", "head lost in the {on}", "m"),
		{Key: KeyTemperature, Group: sentence.Reading, Title: "temperature in a pipe", Template: "temperature in the {on}", Acts: sentence.Bodies | sentence.Surfaces, Unit: "°C"},
		reading(KeyPower, "power of a pump", "power that the pump at the {on} gives", "W"),
		reading(KeyLevel, "level in a tank", "level of the tank at the {on}", "m"),
		reading(KeyGivesOff, "heat that a pipe gives off", "heat that the {on} gives off through its wall", "W"),
	}
	for i := range list {
		list[i].Symbol = symbols[list[i].Key]
	}
	return list
}
