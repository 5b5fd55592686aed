package material

import (
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
	// UsualLeast and UsualMost are the ends of what known materials have, SI; a value
	// outside is asked about.
	UsualLeast, UsualMost float64
	// Field says that it is a function of the magnetic field strength instead of
	// the temperature.
	Field bool
}

// Definitions lists the known properties in the order in which they are shown.
var Definitions = []Definition{
	{Key: Density, Name: "density", Symbol: "ρ", Unit: "kg/m³", Group: "general", Most: 1e5, UsualLeast: 0.05, UsualMost: 2.3e4},
	{Key: Conductivity, Name: "thermal conductivity", Symbol: "k", Unit: "W/(m·K)", Group: "heat", Most: 1e7, UsualLeast: 5e-3, UsualMost: 5e3},
	{Key: ConductivityY, Name: "thermal conductivity along y", Symbol: "k_y", Unit: "W/(m·K)", Group: "heat", Most: 1e7, UsualLeast: 5e-3, UsualMost: 5e3},
	{Key: ConductivityZ, Name: "thermal conductivity along z", Symbol: "k_z", Unit: "W/(m·K)", Group: "heat", Most: 1e7, UsualLeast: 5e-3, UsualMost: 5e3},
	{Key: HeatCapacity, Name: "heat capacity", Symbol: "c", Unit: "J/(kg·K)", Group: "heat", Most: 1e9, UsualLeast: 50, UsualMost: 2e4},
	{Key: Emissivity, Name: "emissivity", Symbol: "ε", Group: "heat", Most: 1, UsualLeast: 0.01, UsualMost: 1},
	{Key: Resistivity, Name: "electrical resistivity", Symbol: "ρ_e", Unit: "Ω·m", Group: "electric", Most: 1e30, UsualLeast: 1e-9, UsualMost: 1e20},
	{Key: Seebeck, Name: "Seebeck coefficient", Symbol: "S", Unit: "µV/K", Group: "electric", Least: -1, Most: 1, UsualLeast: -2e-3, UsualMost: 2e-3},
	{Key: Permittivity, Name: "relative permittivity", Symbol: "ε_r", Group: "electric", Least: 1, Most: 1e9, UsualLeast: 1, UsualMost: 1e5, Closed: true},
	{Key: Permeability, Name: "relative permeability", Symbol: "µ_r", Group: "magnetic", Most: 1e9, UsualLeast: 0.9, UsualMost: 1e6},
	{Key: Remanence, Name: "remanence", Symbol: "B_r", Unit: "T", Group: "magnetic", Most: 10, UsualLeast: 0.01, UsualMost: 1.6},
	{Key: Magnetisation, Name: "flux density over field strength", Symbol: "B(H)", Unit: "T", Group: "magnetic", Most: 1e3, UsualLeast: 0, UsualMost: 3, Closed: true, Field: true},
	{Key: Viscosity, Name: "viscosity", Symbol: "µ", Unit: "Pa·s", Group: "flow", Most: 1e15, UsualLeast: 1e-6, UsualMost: 1e6},
	{Key: Expansion, Name: "thermal expansion, linear", Symbol: "α", Unit: "1/K", Group: "solid", Least: -1, Most: 1, UsualLeast: -1e-5, UsualMost: 4e-3},
	{Key: YoungsModulus, Name: "Young's modulus", Symbol: "E", Unit: "GPa", Group: "solid", Most: 1e14, UsualLeast: 1e4, UsualMost: 1.3e12},
	{Key: PoissonRatio, Name: "Poisson's ratio", Symbol: "ν", Group: "solid", Least: -1, Most: 0.5, UsualLeast: 0, UsualMost: 0.5},
	{Key: SoundSpeed, Name: "speed of sound", Symbol: "c_s", Unit: "m/s", Group: "sound", Most: 1e6, UsualLeast: 50, UsualMost: 2e4},
	{Key: Diffusivity, Name: "diffusivity", Symbol: "D", Unit: "m²/s", Group: "flow", Most: 1, UsualLeast: 1e-20, UsualMost: 1e-3},
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
