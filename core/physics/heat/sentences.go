package heat

import (
	"slices"
	"strings"

	"saltkettle/core/material"
	"saltkettle/core/physics/convect"
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
	KeyEnclosure  = "heat.enclosure"
	KeyEmissivity = "heat.emissivity"

	KeyVerticalPlate   = "heat.vertical-plate"
	KeyLevelPlate      = "heat.level-plate"
	KeyLyingCylinder   = "heat.lying-cylinder"
	KeyAlongPlate      = "heat.along-plate"
	KeyAlongPlateLocal = "heat.along-plate-local"
	KeyAcrossCylinder  = "heat.across-cylinder"
	KeyInDuct          = "heat.in-duct"

	KeyContact = "heat.contact"
	KeyLayer   = "heat.layer"
	KeyStart   = "heat.start"

	KeyGreatest = "heat.greatest"
	KeyLeast    = "heat.least"
	KeyMean     = "heat.mean"
	// KeyCoefficient is that of a surface against a temperature.
	KeyCoefficient = "heat.coefficient"
	KeySpread      = "heat.spread"
	KeyThrough     = "heat.through"
)

// Correlations are those behind the sentences that name none of a coefficient.
var Correlations = map[string]convect.Correlation{
	KeyVerticalPlate: convect.VerticalPlate, KeyLevelPlate: convect.LevelPlate, KeyLyingCylinder: convect.LyingCylinder,
	KeyAlongPlate: convect.AlongPlate, KeyAlongPlateLocal: convect.AlongPlateLocal, KeyAcrossCylinder: convect.AcrossCylinder, KeyInDuct: convect.InDuct,
}

// correlated is the sentences whose coefficient comes from a correlation.
func correlated(temperature sentence.Slot) []sentence.Kind {
	length := func(name, label string) sentence.Slot {
		return sentence.Slot{Name: name, Label: label, Unit: "mm", Positive: true, Usual: sentence.Usually(1e-4, 50, "a surface")}
	}
	speed := sentence.Slot{Name: "speed", Label: "speed of the fluid", Unit: "m/s", Within: &sentence.Range{Most: 1000}, May: sentence.Moment, Usual: sentence.Usually(1e-4, 100, "a flow")}
	kind := func(key, title, words string, slots ...sentence.Slot) sentence.Kind {
		driven := slices.ContainsFunc(slots, func(s sentence.Slot) bool { return s.Name == speed.Name })
		medium := sentence.Slot{Name: "medium", Label: "fluid", Kind: sentence.Text, Fluid: true, Buoyant: !driven, Default: "air"}
		return sentence.Kind{Key: key, Group: sentence.Condition, Title: title, Heading: "heat given to a fluid, coefficient computed", Template: "The {on} gives heat to {medium} at {temperature}" + words,
			Acts: sentence.Surfaces, Exposed: true, Anchors: true, Slots: append([]sentence.Slot{medium, temperature}, slots...)}
	}
	distance := sentence.Slot{Name: "length", Label: "distance from the leading edge", Unit: "mm", May: sentence.Place}
	return []sentence.Kind{
		kind(KeyVerticalPlate, "heat that rises along an upright surface", " that rises along it by itself, {length} high.", length("length", "height")),
		kind(KeyLevelPlate, "heat given by a level surface to a still fluid", " that is still, as a level surface with {length} as its area over its perimeter.", length("length", "area over perimeter")),
		kind(KeyLyingCylinder, "heat given by a lying cylinder to a still fluid", " that is still, as a lying cylinder {length} across.", length("length", "diameter")),
		kind(KeyAlongPlate, "heat given to a flow along a surface", " that flows along it at {speed} over {length}.", speed, length("length", "length along the flow")),
		kind(KeyAlongPlateLocal, "heat given to a flow along a surface, from place to place", " that flows along it at {speed} and has come {length} from the leading edge.", speed, distance),
		kind(KeyAcrossCylinder, "heat given to a flow across a cylinder", " that flows across it at {speed}, as a cylinder {length} across.", speed, length("length", "diameter")),
		kind(KeyInDuct, "heat given to a flow through a duct", " that flows through it at {speed}, as a duct {length} across (hydraulic diameter) and {second} long.", speed, length("length", "hydraulic diameter"), length("second", "length of the duct")),
	}
}

// Kinds are the sentences of heat conduction.
func Kinds() []sentence.Kind {
	temperature := sentence.Slot{Name: "temperature", Label: "temperature", Unit: "°C", Temperature: true, May: sentence.Place | sentence.Moment, Usual: usualTemperature}
	return append([]sentence.Kind{
		{
			Key: KeySource, Group: sentence.Condition, Title: "heat released, in all",
			Template: "The {on} releases {power} of heat in all.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{{Name: "power", Label: "power", Unit: "W", May: sentence.Moment, Usual: sentence.Usually(-1e8, 1e8, "a device")}},
		},
		{
			Key: KeyDensity, Group: sentence.Condition, Title: "heat released per volume",
			Template: "The {on} releases {density} of heat.", Acts: sentence.Bodies,
			Slots: []sentence.Slot{{Name: "density", Label: "power per volume", Unit: "W/m³", May: sentence.Everything, Usual: sentence.Usually(-1e12, 1e12, "a source")}},
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
			Slots: []sentence.Slot{{Name: "flux", Label: "heat flux", Unit: "W/m²", May: sentence.Everything, Usual: sentence.Usually(-1e9, 1e9, "a surface")}},
		},
		{
			Key: KeyFluxTotal, Group: sentence.Condition, Title: "heat received, in all",
			Template: "The {on} receives {power} of heat in all.", Acts: sentence.Surfaces, Exposed: true,
			Slots: []sentence.Slot{{Name: "power", Label: "power", Unit: "W", May: sentence.Moment, Usual: sentence.Usually(-1e8, 1e8, "a device")}},
		},
		{
			Key: KeyInsulated, Group: sentence.Condition, Title: "no heat let through",
			Template: "The {on} lets no heat through.", Acts: sentence.Surfaces, Exposed: true,
		},
		{
			Key: KeyElsewhere, Group: sentence.Condition, Title: "all other surfaces give heat to a fluid",
			Template: "All other outside surfaces give heat to {medium} at {temperature} with coefficient {coefficient}.",
			Exposed:  true, Anchors: true, Everywhere: true,
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
				{Name: "emissivity", Label: "emissivity", Unit: "", Within: &sentence.Range{Most: 1}, May: sentence.Everything, Usual: sentence.Usually(0.01, 1, "a surface")}},
		},
		{
			Key: KeyEnclosure, Group: sentence.Condition, Title: "surfaces radiate to each other",
			Template: "All surfaces in the open radiate to each other and, where nothing is in the way, to surroundings at {temperature}.",
			Exposed:  true, Anchors: true, Slots: []sentence.Slot{temperature},
		},
		{
			Key: KeyEmissivity, Group: sentence.Condition, Title: "emissivity of a surface",
			Template: "The {on} has emissivity {emissivity}.", Acts: sentence.Surfaces,
			Slots: []sentence.Slot{{Name: "emissivity", Label: "emissivity", Unit: "", Within: &sentence.Range{Most: 1}, May: sentence.Everything, Usual: sentence.Usually(0.01, 1, "a surface")}},
		},
		{
			Key: KeyContact, Group: sentence.Condition, Title: "heat meets a contact resistance",
			Template: "At the {on}, heat meets a contact resistance of {resistance}.", Acts: sentence.Surfaces, Inner: true,
			Slots: []sentence.Slot{{Name: "resistance", Label: "thermal contact resistance", Unit: "m²·K/W", Positive: true, May: sentence.Everything, Usual: sentence.Usually(1e-8, 10, "a contact")}},
		},
		{
			Key: KeyLayer, Group: sentence.Condition, Title: "heat passes a thin layer",
			Template: "At the {on}, heat passes a layer of {material}, {thickness} thick.", Acts: sentence.Surfaces, Inner: true,
			Slots: []sentence.Slot{
				{Name: "material", Label: "material of the layer", Kind: sentence.Text, Layer: true},
				{Name: "thickness", Label: "thickness of the layer", Unit: "µm", Positive: true, May: sentence.Place, Usual: sentence.Usually(1e-9, 0.05, "a thin layer")}},
		},
		{
			Key: KeyStart, Group: sentence.Condition, Title: "temperature at the start",
			Template: "The {on} is at {temperature} when time begins.", Acts: sentence.Bodies, Transient: true, Starts: true,
			Slots: []sentence.Slot{{Name: "temperature", Label: "temperature at the start", Unit: "°C", Temperature: true, May: sentence.Place, Usual: usualTemperature}},
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
			Key: KeyCoefficient, Group: sentence.Reading, Title: "heat-transfer coefficient of a surface",
			Template: "heat that leaves through the {on}, by its area and by how much warmer than {temperature} it is", Acts: sentence.Surfaces, Unit: "W/(m²·K)",
			Slots: []sentence.Slot{{Name: "temperature", Label: "temperature that counts as that of the fluid", Unit: "°C", Temperature: true, Usual: sentence.Usually(200, 2000, "a fluid")}},
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
	}, correlated(temperature)...)
}

// usualTemperature asks about temperatures that devices do not have.
var usualTemperature = sentence.Usually(20, 4000, "a device")

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
