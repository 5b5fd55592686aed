package species

import (
	"saltkettle/core/law"
	"saltkettle/core/sentence"
)

// Keys of the sentences of species.
const (
	KeyDissolved = "species.dissolved"
	KeyHeld      = "species.held"
	KeyEnters    = "species.enters"
	KeyArises    = "species.arises"
	KeyStart     = "species.start"

	KeyMean    = "species.mean"
	KeyAmount  = "species.amount"
	KeyThrough = "species.through"
	KeyMixed   = "species.mixed"
	KeyUneven  = "species.uneven"
)

// Kinds are the sentences of species.
func Kinds() []sentence.Kind {
	var names []string
	for i := range law.Species {
		names = append(names, law.ConcentrationOf(i))
	}
	name := sentence.Slot{Name: "species", Label: "name of what is dissolved", Kind: sentence.Text, Names: names}
	of := sentence.Slot{Name: "species", Label: "dissolved species", Kind: sentence.Text, Among: names}
	concentration := func(may sentence.Dependence) sentence.Slot {
		return sentence.Slot{Name: "concentration", Label: "concentration", Unit: "mol/m³", May: may, Usual: sentence.Usually(0, 60000, "what is dissolved")}
	}
	return []sentence.Kind{
		{
			Key: KeyDissolved, Group: sentence.Condition, Title: "something is dissolved",
			Template: "{species} is dissolved in the {on} and spreads with {diffusivity}.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{name, {Name: "diffusivity", Label: "diffusivity", Unit: "m²/s", Positive: true, May: sentence.Everything, Usual: sentence.Usually(1e-14, 1e-2, "what is dissolved")}},
		},
		{
			Key: KeyHeld, Group: sentence.Condition, Title: "concentration at a surface, or of what comes in",
			Template: "{species} has a concentration of {concentration} at the {on}.", Acts: sentence.Surfaces, Continues: true,
			Slots: []sentence.Slot{of, concentration(sentence.Place | sentence.Moment)},
		},
		{
			Key: KeyEnters, Group: sentence.Condition, Title: "enters or arises at a surface",
			Template: "{flux} of {species} enters, or arises, at the {on}.", Acts: sentence.Surfaces,
			Slots: []sentence.Slot{of, {Name: "flux", Label: "amount per area", Unit: "mol/(m²·s)", May: sentence.Everything}},
		},
		{
			Key: KeyArises, Group: sentence.Condition, Title: "arises or vanishes in a part",
			Template: "{rate} of {species} arises in the {on}.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{of, {Name: "rate", Label: "amount per volume", Unit: "mol/(m³·s)", May: sentence.Everything}},
		},
		{
			Key: KeyStart, Group: sentence.Condition, Title: "concentration when time begins",
			Template: "{species} has a concentration of {concentration} in the {on} when time begins.", Acts: sentence.Bodies, Transient: true, Starts: true,
			Slots: []sentence.Slot{of, concentration(sentence.Place)},
		},
		{
			Key: KeyMean, Group: sentence.Reading, Title: "mean concentration",
			Template: "mean concentration of {species} of the {on}", Acts: sentence.Bodies | sentence.Surfaces, Unit: "mol/m³", Slots: []sentence.Slot{of},
		},
		{
			Key: KeyAmount, Group: sentence.Reading, Title: "amount in a part",
			Template: "amount of {species} in the {on}", Acts: sentence.Bodies, Unit: "mol", Slots: []sentence.Slot{of},
		},
		{
			Key: KeyThrough, Group: sentence.Reading, Title: "amount that leaves through a surface",
			Template: "amount of {species} that leaves through the {on}", Acts: sentence.Surfaces, Unit: "mol/s", Slots: []sentence.Slot{of},
		},
		{
			Key: KeyMixed, Group: sentence.Reading, Title: "concentration of what flows through, mixed",
			Template: "concentration of {species} in what flows through the {on}, mixed", Acts: sentence.Surfaces, Unit: "mol/m³", Slots: []sentence.Slot{of},
		},
		{
			Key: KeyUneven, Group: sentence.Reading, Title: "how unevenly it is mixed",
			Template: "deviation of {species} from its mean, over its mean, of the {on}", Acts: sentence.Bodies | sentence.Surfaces, Unit: "", Slots: []sentence.Slot{of},
		},
	}
}
