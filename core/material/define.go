package material

import (
	"math"
	"slices"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
)

// Key names a property.
type Key string

// The properties that are known.
const (
	Density       Key = "density"
	Conductivity  Key = "conductivity"
	ConductivityY Key = "conductivity_y"
	ConductivityZ Key = "conductivity_z"
	HeatCapacity  Key = "heat_capacity"
	Emissivity    Key = "emissivity"
	Resistivity   Key = "resistivity"
	Seebeck       Key = "seebeck"
	Permittivity  Key = "permittivity"
	Permeability  Key = "permeability"
	Remanence     Key = "remanence"
	Magnetisation Key = "magnetisation"
	Viscosity     Key = "viscosity"
	Expansion     Key = "expansion"
	YoungsModulus Key = "youngs_modulus"
	PoissonRatio  Key = "poisson_ratio"
	SoundSpeed    Key = "sound_speed"
	Diffusivity   Key = "diffusivity"
)

// Definition says what a property is.
type Definition struct {
	Key  Key
	Name string
	// Symbol is the letter that textbooks use.
	Symbol string
	// Unit is the one in which it is usually given.
	Unit string
	// Group is the physics that it belongs to.
	Group string
	// Least and Most bound its SI value; it lies above Least, or at it if Closed.
	Least, Most float64
	Closed      bool
	// Field says that it is a function of the magnetic field strength instead of
	// the temperature.
	Field bool
}

var inf = math.Inf(1)

// Definitions lists the known properties in the order in which they are shown.
var Definitions = []Definition{
	{Key: Density, Name: "density", Symbol: "ρ", Unit: "kg/m³", Group: "general", Most: inf},
	{Key: Conductivity, Name: "thermal conductivity", Symbol: "k", Unit: "W/(m·K)", Group: "heat", Most: inf},
	{Key: ConductivityY, Name: "thermal conductivity along y", Symbol: "k_y", Unit: "W/(m·K)", Group: "heat", Most: inf},
	{Key: ConductivityZ, Name: "thermal conductivity along z", Symbol: "k_z", Unit: "W/(m·K)", Group: "heat", Most: inf},
	{Key: HeatCapacity, Name: "heat capacity", Symbol: "c", Unit: "J/(kg·K)", Group: "heat", Most: inf},
	{Key: Emissivity, Name: "emissivity", Symbol: "ε", Group: "heat", Most: 1},
	{Key: Resistivity, Name: "electrical resistivity", Symbol: "ρ_e", Unit: "Ω·m", Group: "electric", Most: inf},
	{Key: Seebeck, Name: "Seebeck coefficient", Symbol: "S", Unit: "µV/K", Group: "electric", Least: -inf, Most: inf},
	{Key: Permittivity, Name: "relative permittivity", Symbol: "ε_r", Group: "electric", Least: 1, Most: inf, Closed: true},
	{Key: Permeability, Name: "relative permeability", Symbol: "µ_r", Group: "magnetic", Most: inf},
	{Key: Remanence, Name: "remanence", Symbol: "B_r", Unit: "T", Group: "magnetic", Most: inf},
	{Key: Magnetisation, Name: "flux density over field strength", Symbol: "B(H)", Unit: "T", Group: "magnetic", Most: inf, Closed: true, Field: true},
	{Key: Viscosity, Name: "viscosity", Symbol: "µ", Unit: "Pa·s", Group: "flow", Most: inf},
	{Key: Expansion, Name: "thermal expansion, linear", Symbol: "α", Unit: "1/K", Group: "solid", Least: -inf, Most: inf},
	{Key: YoungsModulus, Name: "Young's modulus", Symbol: "E", Unit: "GPa", Group: "solid", Most: inf},
	{Key: PoissonRatio, Name: "Poisson's ratio", Symbol: "ν", Group: "solid", Least: -1, Most: 0.5},
	{Key: SoundSpeed, Name: "speed of sound", Symbol: "c_s", Unit: "m/s", Group: "sound", Most: inf},
	{Key: Diffusivity, Name: "diffusivity", Symbol: "D", Unit: "m²/s", Group: "flow", Most: inf},
}

// Define returns the definition of a property.
func Define(k Key) (Definition, bool) {
	i := slices.IndexFunc(Definitions, func(d Definition) bool { return d.Key == k })
	if i < 0 {
		return Definition{}, false
	}
	return Definitions[i], true
}

// Temperature and Field are the variables of properties.
var (
	Temperature = formula.Variable{Name: "temperature", Dimension: quantity.MustUnit("K").Dimension, Temperature: true}
	Field       = formula.Variable{Name: "field", Dimension: quantity.MustUnit("A/m").Dimension}
)

// Variable is what the property may depend on.
func (d Definition) Variable() formula.Variable {
	if d.Field {
		return Field
	}
	return Temperature
}

// usual is the range in which a property without a stated range is looked at.
func (d Definition) usual() (from, to float64) {
	if d.Field {
		return 0, 1e5
	}
	return 273.15, 373.15
}
