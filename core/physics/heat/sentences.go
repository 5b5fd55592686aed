package heat

import (
	"slices"
	"strings"

	"saltkettle/core/material"
	"saltkettle/core/sentence"
)

// Keys of the sentences of heat conduction.
const (
	KeySource     = "heat.source"
	KeyDensity    = "heat.source-density"
	KeyHeld       = "heat.held"
	KeyConvection = "heat.convection"
	KeyFlux       = "heat.flux"
	KeyFluxTotal  = "heat.flux-total"
	KeyInsulated  = "heat.insulated"
	KeyElsewhere  = "heat.elsewhere"
	KeyRadiation  = "heat.radiation"
	KeyContact    = "heat.contact"
	KeyStart      = "heat.start"

	KeyGreatest = "heat.greatest"
	KeyLeast    = "heat.least"
	KeyMean     = "heat.mean"
	KeySpread   = "heat.spread"
	KeyThrough  = "heat.through"
)

// Kinds are the sentences of heat conduction.
func Kinds() []sentence.Kind {
	temperature := sentence.Slot{Name: "temperature", Label: "temperature", Unit: "°C", Temperature: true, May: sentence.Place | sentence.Moment}
	return []sentence.Kind{
		{
			Key: KeySource, Group: sentence.Condition, Title: "heat released, in all",
			Template: "The {on} releases {power} of heat in all.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{{Name: "power", Label: "power", Unit: "W", May: sentence.Moment}},
		},
		{
			Key: KeyDensity, Group: sentence.Condition, Title: "heat released per volume",
			Template: "The {on} releases {density} of heat.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{{Name: "density", Label: "power per volume", Unit: "W/m³", May: sentence.Everything}},
		},
		{
			Key: KeyConvection, Group: sentence.Condition, Title: "heat given to a fluid",
			Template: "The {on} gives heat to {medium} at {temperature} with coefficient {coefficient}.",
			Acts:     sentence.Surfaces, Exposed: true, Anchors: true,
			Slots: []sentence.Slot{
				{Name: "medium", Label: "fluid", Kind: sentence.Text, Default: "air"},
				temperature,
				{Name: "coefficient", Label: "heat-transfer coefficient", Unit: "W/(m²·K)", Positive: true, May: sentence.Everything, Usual: usualCoefficient},
			},
		},
		{
			Key: KeyHeld, Group: sentence.Condition, Title: "temperature held",
			Template: "The {on} is held at {temperature}.", Acts: sentence.Surfaces, Anchors: true,
			Slots: []sentence.Slot{temperature},
		},
		{
			Key: KeyFlux, Group: sentence.Condition, Title: "heat received per area",
			Template: "The {on} receives {flux} of heat.", Acts: sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{{Name: "flux", Label: "heat flux", Unit: "W/m²", May: sentence.Everything}},
		},
		{
			Key: KeyFluxTotal, Group: sentence.Condition, Title: "heat received, in all",
			Template: "The {on} receives {power} of heat in all.", Acts: sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{{Name: "power", Label: "power", Unit: "W", May: sentence.Moment}},
		},
		{
			Key: KeyInsulated, Group: sentence.Condition, Title: "no heat let through",
			Template: "The {on} lets no heat through.", Acts: sentence.Surfaces, Exposed: true,
		},
		{
			Key: KeyElsewhere, Group: sentence.Condition, Title: "all other surfaces give heat to a fluid",
			Template: "All other outside surfaces give heat to {medium} at {temperature} with coefficient {coefficient}.",
			Exposed:  true, Anchors: true,
			Slots: []sentence.Slot{
				{Name: "medium", Label: "fluid", Kind: sentence.Text, Default: "air"},
				temperature,
				{Name: "coefficient", Label: "heat-transfer coefficient", Unit: "W/(m²·K)", Positive: true, May: sentence.Everything, Usual: usualCoefficient},
			},
		},
		{
			Key: KeyRadiation, Group: sentence.Condition, Title: "heat radiated to surroundings",
			Template: "The {on} radiates to surroundings at {temperature} with emissivity {emissivity}.",
			Acts:     sentence.Surfaces, Exposed: true, Anchors: true,
			Slots: []sentence.Slot{temperature,
				{Name: "emissivity", Label: "emissivity", Unit: "", Positive: true, May: sentence.Everything, Usual: usualEmissivity}},
		},
		{
			Key: KeyContact, Group: sentence.Condition, Title: "heat meets a contact resistance",
			Template: "At the {on}, heat meets a contact resistance of {resistance}.", Acts: sentence.Surfaces, Inner: true,
			Slots: []sentence.Slot{{Name: "resistance", Label: "thermal contact resistance", Unit: "m²·K/W", Positive: true, May: sentence.Everything}},
		},
		{
			Key: KeyStart, Group: sentence.Condition, Title: "temperature at the start",
			Template: "The {on} is at {temperature} when time begins.", Acts: sentence.Bodies, Transient: true,
			Slots: []sentence.Slot{{Name: "temperature", Label: "temperature at the start", Unit: "°C", Temperature: true, May: sentence.Place}},
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

// usualEmissivity is the range of emissivities.
func usualEmissivity(map[string]string) (lo, hi float64, what string) { return 0.01, 1, "a surface" }

// usualCoefficient is the range of heat-transfer coefficients that the medium
// can have, W/(m²·K), from its lowest in free to its highest in forced convection
// (Incropera et al., Fundamentals of Heat and Mass Transfer, table 1.1).
func usualCoefficient(values map[string]string) (lo, hi float64, what string) {
	medium := strings.ToLower(strings.TrimSpace(values["medium"]))
	for _, word := range []string{"boil", "condens", "steam", "vapour"} {
		if strings.Contains(medium, word) {
			return 2500, 1e5, "boiling and condensing"
		}
	}
	m, ok := material.Find(material.Library(), medium)
	words := strings.Fields(medium)
	for i := len(words) - 1; i >= 0 && !ok; i-- {
		m, ok = material.Find(material.Library(), words[i])
	}
	liquid := ok && m.Family == "liquid" || slices.ContainsFunc(words, func(w string) bool {
		return slices.Contains([]string{"brine", "bittern", "oil", "glycol", "coolant", "liquid", "slurry"}, w)
	})
	switch {
	case liquid:
		return 50, 20000, "a liquid"
	case ok && m.Family == "gas" || slices.Contains(words, "gas") || slices.Contains(words, "smoke"):
		return 2, 250, "a gas"
	}
	return 1, 1e5, "any fluid"
}
