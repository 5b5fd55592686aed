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

	VolumetricExpansion Key = "volumetric_expansion"
	SurfaceTension      Key = "surface_tension"
	VapourPressure      Key = "vapour_pressure"
	BulkModulus         Key = "bulk_modulus"
	MolarMass           Key = "molar_mass"
	HeatCapacityRatio   Key = "heat_capacity_ratio"
	MeltingPoint        Key = "melting_point"
	VapourResistance    Key = "vapour_resistance"

	YoungsModulusY     Key = "youngs_modulus_y"
	YoungsModulusZ     Key = "youngs_modulus_z"
	ShearModulus       Key = "shear_modulus"
	ShearModulusYZ     Key = "shear_modulus_yz"
	ShearModulusXZ     Key = "shear_modulus_xz"
	PoissonRatioYZ     Key = "poisson_ratio_yz"
	PoissonRatioXZ     Key = "poisson_ratio_xz"
	ExpansionY         Key = "expansion_y"
	ExpansionZ         Key = "expansion_z"
	YieldStrength      Key = "yield_strength"
	TensileStrength    Key = "tensile_strength"
	FatigueStrength    Key = "fatigue_strength"
	LossFactor         Key = "loss_factor"
	RubberC10          Key = "rubber_c10"
	RubberC01          Key = "rubber_c01"
	ShearSpeed         Key = "shear_speed"
	BarSpeed           Key = "bar_speed"
	FlowResistivity    Key = "flow_resistivity"
	Porosity           Key = "porosity"
	Tortuosity         Key = "tortuosity"
	SoundAbsorption    Key = "sound_absorption"
	Coercivity         Key = "coercivity"
	Demagnetisation    Key = "demagnetisation"
	Henry              Key = "henry"
	Solubility         Key = "solubility"
	RecoilPermeability Key = "recoil_permeability"
	RemanenceSlope     Key = "remanence_slope"
	CoercivitySlope    Key = "coercivity_slope"
	CuriePoint         Key = "curie_point"
	LossTangent        Key = "loss_tangent"
	Roughness          Key = "roughness"
	OpenVoltage        Key = "open_voltage"
	CellResistance     Key = "cell_resistance"
	ChargeCapacity     Key = "charge_capacity"
	ExchangeCurrent    Key = "exchange_current"
	ActivationEnergy   Key = "activation_energy"
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
	// Over is what it is a function of where that is not the temperature.
	Over *formula.Variable
	// Alone says that it is one number, which depends on nothing, and Pair that it is of two
	// substances: of a [Pair], not of a material.
	Alone, Pair bool
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
	{Key: Magnetisation, Name: "flux density over field strength", Symbol: "B(H)", Unit: "T", Group: "magnetic", Most: 1e3, UsualLeast: 0, UsualMost: 3, Closed: true, Over: &Field},
	{Key: Viscosity, Name: "viscosity", Symbol: "µ", Unit: "Pa·s", Group: "flow", Most: 1e15, UsualLeast: 1e-6, UsualMost: 1e6},
	{Key: Expansion, Name: "thermal expansion, linear", Symbol: "α", Unit: "1/K", Group: "solid", Least: -1, Most: 1, UsualLeast: -1e-5, UsualMost: 4e-3},
	{Key: YoungsModulus, Name: "Young's modulus", Symbol: "E", Unit: "GPa", Group: "solid", Most: 1e14, UsualLeast: 1e4, UsualMost: 1.3e12},
	{Key: PoissonRatio, Name: "Poisson's ratio", Symbol: "ν", Group: "solid", Least: -1, Most: 0.5, UsualLeast: 0, UsualMost: 0.5},
	{Key: SoundSpeed, Name: "speed of sound", Symbol: "c_s", Unit: "m/s", Group: "sound", Most: 1e6, UsualLeast: 50, UsualMost: 2e4},
	{Key: Diffusivity, Name: "diffusivity", Symbol: "D", Unit: "m²/s", Group: "flow", Most: 1, UsualLeast: 1e-20, UsualMost: 1e-3},
	{Key: VolumetricExpansion, Name: "volumetric expansion", Symbol: "β", Unit: "1/K", Group: "flow", Least: -1, Most: 1, UsualLeast: -1e-4, UsualMost: 2e-2},
	{Key: SurfaceTension, Name: "surface tension", Symbol: "σ", Unit: "N/m", Group: "flow", Most: 10, UsualLeast: 1e-4, UsualMost: 2},
	{Key: VapourPressure, Name: "vapour pressure", Symbol: "p_v", Unit: "Pa", Group: "flow", Most: 1e9, UsualLeast: 0, UsualMost: 1e8, Closed: true},
	{Key: BulkModulus, Name: "bulk modulus", Symbol: "K", Unit: "GPa", Group: "flow", Most: 1e14, UsualLeast: 1e4, UsualMost: 1e12},
	{Key: MolarMass, Name: "molar mass", Symbol: "M", Unit: "g/mol", Group: "general", Most: 1e3, UsualLeast: 1e-3, UsualMost: 1, Alone: true},
	{Key: HeatCapacityRatio, Name: "ratio of heat capacities", Symbol: "γ", Group: "flow", Least: 1, Most: 2, UsualLeast: 1, UsualMost: 1.7},
	{Key: MeltingPoint, Name: "melting point", Symbol: "T_m", Unit: "K", Group: "general", Most: 1e4, UsualLeast: 1, UsualMost: 4300, Alone: true},
	{Key: VapourResistance, Name: "resistance to vapour, relative to air", Symbol: "µ_v", Group: "flow", Least: 1, Most: 1e9, UsualLeast: 1, UsualMost: 1e6, Closed: true},
	{Key: YoungsModulusY, Name: "Young's modulus along y", Symbol: "E_y", Unit: "GPa", Group: "solid", Most: 1e14, UsualLeast: 1e4, UsualMost: 1.3e12},
	{Key: YoungsModulusZ, Name: "Young's modulus along z", Symbol: "E_z", Unit: "GPa", Group: "solid", Most: 1e14, UsualLeast: 1e4, UsualMost: 1.3e12},
	{Key: ShearModulus, Name: "shear modulus", Symbol: "G", Unit: "GPa", Group: "solid", Most: 1e14, UsualLeast: 1e3, UsualMost: 6e11},
	{Key: ShearModulusYZ, Name: "shear modulus between y and z", Symbol: "G_yz", Unit: "GPa", Group: "solid", Most: 1e14, UsualLeast: 1e3, UsualMost: 6e11},
	{Key: ShearModulusXZ, Name: "shear modulus between x and z", Symbol: "G_xz", Unit: "GPa", Group: "solid", Most: 1e14, UsualLeast: 1e3, UsualMost: 6e11},
	{Key: PoissonRatioYZ, Name: "Poisson's ratio of y and z", Symbol: "ν_yz", Group: "solid", Least: -10, Most: 10, UsualLeast: -0.5, UsualMost: 1},
	{Key: PoissonRatioXZ, Name: "Poisson's ratio of x and z", Symbol: "ν_xz", Group: "solid", Least: -10, Most: 10, UsualLeast: -0.5, UsualMost: 1},
	{Key: ExpansionY, Name: "thermal expansion along y", Symbol: "α_y", Unit: "1/K", Group: "solid", Least: -1, Most: 1, UsualLeast: -1e-5, UsualMost: 4e-3},
	{Key: ExpansionZ, Name: "thermal expansion along z", Symbol: "α_z", Unit: "1/K", Group: "solid", Least: -1, Most: 1, UsualLeast: -1e-5, UsualMost: 4e-3},
	{Key: YieldStrength, Name: "yield strength", Symbol: "R_p", Unit: "MPa", Group: "solid", Most: 1e11, UsualLeast: 1e5, UsualMost: 5e9},
	{Key: TensileStrength, Name: "tensile strength", Symbol: "R_m", Unit: "MPa", Group: "solid", Most: 1e11, UsualLeast: 1e5, UsualMost: 1e10},
	{Key: FatigueStrength, Name: "fatigue strength", Symbol: "σ_w", Unit: "MPa", Group: "solid", Most: 1e11, UsualLeast: 1e5, UsualMost: 2e9},
	{Key: LossFactor, Name: "loss factor", Symbol: "η", Group: "solid", Most: 10, UsualLeast: 1e-6, UsualMost: 3},
	{Key: RubberC10, Name: "first constant of Mooney and Rivlin", Symbol: "C_10", Unit: "MPa", Group: "solid", Most: 1e10, UsualLeast: 1e4, UsualMost: 1e7},
	{Key: RubberC01, Name: "second constant of Mooney and Rivlin", Symbol: "C_01", Unit: "MPa", Group: "solid", Least: -1e10, Most: 1e10, UsualLeast: -1e6, UsualMost: 1e7},
	{Key: ShearSpeed, Name: "speed of shear waves", Symbol: "c_t", Unit: "m/s", Group: "sound", Most: 1e6, UsualLeast: 5, UsualMost: 2e4},
	{Key: BarSpeed, Name: "speed of waves in a bar", Symbol: "c_b", Unit: "m/s", Group: "sound", Most: 1e6, UsualLeast: 5, UsualMost: 2e4},
	{Key: FlowResistivity, Name: "flow resistivity", Symbol: "σ_f", Unit: "Pa·s/m²", Group: "sound", Most: 1e12, UsualLeast: 100, UsualMost: 1e9},
	{Key: Porosity, Name: "porosity", Symbol: "φ", Group: "sound", Most: 1, UsualLeast: 1e-3, UsualMost: 1},
	{Key: Tortuosity, Name: "tortuosity", Symbol: "α_∞", Group: "sound", Least: 1, Most: 100, UsualLeast: 1, UsualMost: 10, Closed: true},
	{Key: SoundAbsorption, Name: "absorption of sound", Symbol: "α_s", Unit: "1/m", Group: "sound", Most: 1e9, UsualLeast: 0, UsualMost: 1e6, Closed: true, Over: &Frequency},
	{Key: Demagnetisation, Name: "flux density over opposing field strength", Symbol: "B(−H)", Unit: "T", Group: "magnetic", Most: 10, UsualLeast: 0, UsualMost: 2, Closed: true, Over: &Field},
	{Key: Henry, Name: "solubility by the law of Henry", Symbol: "H", Unit: "mol/(m³·Pa)", Group: "species", Most: 1e3, UsualLeast: 1e-9, UsualMost: 10, Pair: true},
	{Key: Solubility, Name: "solubility", Symbol: "s", Unit: "g/kg", Group: "species", Most: 1e3, UsualLeast: 1e-9, UsualMost: 10, Pair: true},
	{Key: Coercivity, Name: "intrinsic coercivity", Symbol: "H_cJ", Unit: "kA/m", Group: "magnetic", Most: 1e8, UsualLeast: 0.1, UsualMost: 5e6},
	{Key: RecoilPermeability, Name: "recoil permeability", Symbol: "µ_rec", Group: "magnetic", Least: 1, Most: 100, UsualLeast: 1, UsualMost: 10, Closed: true},
	{Key: RemanenceSlope, Name: "remanence, change for each kelvin", Symbol: "α_Br", Unit: "%/K", Group: "magnetic", Least: -1, Most: 1, UsualLeast: -0.01, UsualMost: 0.01},
	{Key: CoercivitySlope, Name: "coercivity, change for each kelvin", Symbol: "β_Hc", Unit: "%/K", Group: "magnetic", Least: -1, Most: 1, UsualLeast: -0.02, UsualMost: 0.02},
	{Key: CuriePoint, Name: "Curie point", Symbol: "T_C", Unit: "K", Group: "magnetic", Most: 1e4, UsualLeast: 1, UsualMost: 1500, Alone: true},
	{Key: LossTangent, Name: "loss tangent", Symbol: "tan δ", Group: "electric", Most: 1e3, UsualLeast: 1e-6, UsualMost: 10, Over: &Frequency},
	{Key: Roughness, Name: "roughness of walls", Symbol: "k_s", Unit: "mm", Group: "flow", Most: 1, UsualLeast: 1e-8, UsualMost: 0.1, Closed: true},
	{Key: OpenVoltage, Name: "open-circuit voltage", Symbol: "U_0", Unit: "V", Group: "cells", Most: 100, UsualLeast: 0.01, UsualMost: 10, Over: &Charge},
	{Key: CellResistance, Name: "resistance times area", Symbol: "R_A", Unit: "Ω·m²", Group: "cells", Most: 1e3, UsualLeast: 1e-6, UsualMost: 1, Over: &Charge},
	{Key: ChargeCapacity, Name: "charge capacity by mass", Symbol: "Q", Unit: "A·h/kg", Group: "cells", Most: 1e8, UsualLeast: 1e3, UsualMost: 2e7},
	{Key: ExchangeCurrent, Name: "exchange current density", Symbol: "i_0", Unit: "A/m²", Group: "cells", Most: 1e9, UsualLeast: 1e-12, UsualMost: 1e5},
	{Key: ActivationEnergy, Name: "activation energy", Symbol: "E_a", Unit: "kJ/mol", Group: "cells", Most: 1e7, UsualLeast: 1e3, UsualMost: 1e6},
}

// Define returns the definition of a property.
func Define(k Key) (Definition, bool) {
	i := slices.IndexFunc(Definitions, func(d Definition) bool { return d.Key == k })
	if i < 0 {
		return Definition{}, false
	}
	return Definitions[i], true
}

// Temperature and Field are variables of properties.
var (
	Temperature = formula.Variable{Name: "temperature", Dimension: quantity.MustUnit("K").Dimension, Temperature: true}
	Field       = formula.Variable{Name: "field", Dimension: quantity.MustUnit("A/m").Dimension}
	// Charge is how full a cell is, from 0 to 1.
	Charge = formula.Variable{Name: "charge"}
)

// Variable is what the property may depend on, and is a function of.
func (d Definition) Variable() formula.Variable {
	if d.Over != nil {
		return *d.Over
	}
	return Temperature
}

// Across is the unit in which what it is a function of is shown.
func (d Definition) Across() quantity.Unit {
	if d.Over == nil {
		return quantity.MustUnit("°C")
	}
	return quantity.MustUnit(d.Over.Dimension.Symbol())
}

// usual is the range in which a property without a stated range is looked at.
func (d Definition) usual() (from, to float64) {
	switch d.Over {
	case &Field:
		return 0, 1e5
	case &Charge:
		return 0, 1
	case &Frequency:
		return 20, 2e4
	}
	return 273.15, 373.15
}
