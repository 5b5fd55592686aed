package electric

import "saltkettle/core/sentence"

// Keys of the sentences of electric current.
const (
	KeyFlows          = "electric.flows"
	KeyVoltage        = "electric.voltage"
	KeyCurrent        = "electric.current"
	KeyContact        = "electric.contact"
	KeyHeats          = "electric.heats"
	KeyThermoelectric = "electric.thermoelectric"
	KeyField          = "electric.field"
	KeyCharge         = "electric.charge"

	KeyPotential  = "electric.potential"
	KeyThrough    = "electric.through"
	KeyResistance = "electric.resistance"
	KeyPower      = "electric.power"

	KeyChargeOn    = "electric.charge-on"
	KeyCapacitance = "electric.capacitance"
)

// Kinds are the sentences of electric current.
func Kinds() []sentence.Kind {
	return []sentence.Kind{
		{
			Key: KeyFlows, Group: sentence.Condition, Title: "electric current flows in a part",
			Template: "Electric current flows in the {on}.", Acts: sentence.Bodies,
		},
		{
			Key: KeyVoltage, Group: sentence.Condition, Title: "terminal at a voltage",
			Template: "The {on} is a terminal at {voltage}.", Acts: sentence.Surfaces,
			Continues: true,
			Slots:     []sentence.Slot{{Name: "voltage", Label: "voltage", Unit: "V", May: sentence.Moment, Usual: sentence.Usually(-1e6, 1e6, "a terminal")}},
		},
		{
			Key: KeyCurrent, Group: sentence.Condition, Title: "terminal that takes a current",
			Template: "The {on} is a terminal through which {current} enters.", Acts: sentence.Surfaces, Exposed: true,
			Continues: true,
			Slots:     []sentence.Slot{{Name: "current", Label: "current", Unit: "A", May: sentence.Moment, Usual: sentence.Usually(-1e6, 1e6, "a terminal")}},
		},
		{
			Key: KeyContact, Group: sentence.Condition, Title: "current meets a contact resistance",
			Template: "At the {on}, current meets a contact resistance of {resistance}.", Acts: sentence.Surfaces, Inner: true,
			Slots: []sentence.Slot{{Name: "resistance", Label: "electrical contact resistance", Unit: "Ω·m²", Positive: true, May: sentence.Everything, Usual: sentence.Usually(1e-14, 1, "a contact")}},
		},
		{
			Key: KeyHeats, Group: sentence.Condition, Title: "current heats what it flows through",
			Template: "Current heats the parts that it flows through.",
		},
		{
			Key: KeyThermoelectric, Group: sentence.Condition, Title: "heat drives current, current carries heat",
			Template: "In the {on}, heat drives current and current carries heat.", Acts: sentence.Bodies,
		},
		{
			Key: KeyField, Group: sentence.Condition, Title: "a field of charges fills a part",
			Template: "The electric field of charges fills the {on}.", Acts: sentence.Bodies,
		},
		{
			Key: KeyCharge, Group: sentence.Condition, Title: "terminal that carries a charge",
			Template: "The {on} is a terminal that carries {charge}.", Acts: sentence.Surfaces, Exposed: true,
			Continues: true,
			Slots:     []sentence.Slot{{Name: "charge", Label: "charge", Unit: "nC", Usual: sentence.Usually(-1, 1, "a terminal")}},
		},
		{
			Key: KeyPotential, Group: sentence.Reading, Title: "mean potential",
			Template: "mean potential of the {on}", Acts: sentence.Bodies | sentence.Surfaces, Unit: "V",
		},
		{
			Key: KeyThrough, Group: sentence.Reading, Title: "current that leaves",
			Template: "current that leaves through the {on}", Acts: sentence.Surfaces, Unit: "A",
		},
		{
			Key: KeyResistance, Group: sentence.Reading, Title: "resistance seen from a terminal",
			Template: "resistance between the {on} and the other terminal", Acts: sentence.Surfaces, Unit: "mΩ",
		},
		{
			Key: KeyPower, Group: sentence.Reading, Title: "electric power turned into heat",
			Template: "electric power turned into heat in the {on}", Acts: sentence.Bodies, Unit: "W",
		},
		{
			Key: KeyChargeOn, Group: sentence.Reading, Title: "charge",
			Template: "charge on the {on}", Acts: sentence.Surfaces, Unit: "nC",
		},
		{
			Key: KeyCapacitance, Group: sentence.Reading, Title: "capacitance seen from a terminal",
			Template: "capacitance between the {on} and the other terminal", Acts: sentence.Surfaces, Unit: "pF",
		},
	}
}
