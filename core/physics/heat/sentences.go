package heat

import "saltkettle/core/sentence"

// Keys of the sentences of heat conduction.
const (
	KeySource     = "heat.source"
	KeyDensity    = "heat.source-density"
	KeyHeld       = "heat.held"
	KeyConvection = "heat.convection"
	KeyFlux       = "heat.flux"
	KeyFluxTotal  = "heat.flux-total"
	KeyInsulated  = "heat.insulated"

	KeyGreatest = "heat.greatest"
	KeyLeast    = "heat.least"
	KeyMean     = "heat.mean"
	KeySpread   = "heat.spread"
	KeyThrough  = "heat.through"
)

// Kinds are the sentences of heat conduction.
func Kinds() []sentence.Kind {
	temperature := sentence.Slot{Name: "temperature", Label: "temperature", Unit: "°C", Temperature: true}
	return []sentence.Kind{
		{
			Key: KeySource, Group: sentence.Condition, Title: "heat released, in all",
			Template: "The {on} releases {power} of heat in all.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{{Name: "power", Label: "power", Unit: "W"}},
		},
		{
			Key: KeyDensity, Group: sentence.Condition, Title: "heat released per volume",
			Template: "The {on} releases {density} of heat.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{{Name: "density", Label: "power per volume", Unit: "W/m³"}},
		},
		{
			Key: KeyConvection, Group: sentence.Condition, Title: "heat given to a fluid",
			Template: "The {on} gives heat to {medium} at {temperature} with coefficient {coefficient}.",
			Acts:     sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{
				{Name: "medium", Label: "fluid", Kind: sentence.Text, Default: "air"},
				temperature,
				// From still gas to boiling liquid (Incropera et al., table 1.1).
				{Name: "coefficient", Label: "heat-transfer coefficient", Unit: "W/(m²·K)", Positive: true, Usual: [2]float64{1, 1e5}},
			},
		},
		{
			Key: KeyHeld, Group: sentence.Condition, Title: "temperature held",
			Template: "The {on} is held at {temperature}.", Acts: sentence.Surfaces,
			Slots: []sentence.Slot{temperature},
		},
		{
			Key: KeyFlux, Group: sentence.Condition, Title: "heat received per area",
			Template: "The {on} receives {flux} of heat.", Acts: sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{{Name: "flux", Label: "heat flux", Unit: "W/m²"}},
		},
		{
			Key: KeyFluxTotal, Group: sentence.Condition, Title: "heat received, in all",
			Template: "The {on} receives {power} of heat in all.", Acts: sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{{Name: "power", Label: "power", Unit: "W"}},
		},
		{
			Key: KeyInsulated, Group: sentence.Condition, Title: "no heat let through",
			Template: "The {on} lets no heat through.", Acts: sentence.Surfaces, Exposed: true,
		},
		{
			Key: KeyGreatest, Group: sentence.Reading, Title: "greatest temperature",
			Template: "greatest temperature of the {on}", Acts: sentence.Bodies | sentence.Surfaces, Unit: "°C",
		},
		{
			Key: KeyLeast, Group: sentence.Reading, Title: "least temperature",
			Template: "least temperature of the {on}", Acts: sentence.Bodies | sentence.Surfaces, Unit: "°C",
		},
		{
			Key: KeyMean, Group: sentence.Reading, Title: "mean temperature",
			Template: "mean temperature of the {on}", Acts: sentence.Bodies | sentence.Surfaces, Unit: "°C",
		},
		{
			Key: KeySpread, Group: sentence.Reading, Title: "temperature spread",
			Template: "spread of temperature, greatest less least, of the {on}", Acts: sentence.Bodies | sentence.Surfaces, Unit: "K", Difference: true,
		},
		{
			Key: KeyThrough, Group: sentence.Reading, Title: "heat that leaves",
			Template: "heat that leaves through the {on}", Acts: sentence.Surfaces, Unit: "W",
		},
	}
}
