package material

import (
	"saltkettle/core/formula"
	"saltkettle/core/quantity"
)

// Reference is a correlation of the literature that properties may be written with, as a function
// of every formula.
type Reference struct {
	formula.Addition
	// Unit of the value, and Source.
	Unit, Source string
}

// Variables of reference functions.
var (
	Pressure  = formula.Variable{Name: "pressure", Dimension: quantity.MustUnit("Pa").Dimension}
	Fraction  = formula.Variable{Name: "mass_fraction"}
	Humidity  = formula.Variable{Name: "humidity"}
	Frequency = formula.Variable{Name: "frequency", Dimension: quantity.MustUnit("Hz").Dimension}
)

const (
	iapws   = "IAPWS SR6-08, Liquid Water at 0.1 MPa, 2011"
	sharqa  = "Sharqawy, Lienhard, Zubair, Desalin. Water Treat. 16 (2010) 354"
	tsiling = "ideal mixture of dry air and vapour; Wilke, J. Chem. Phys. 18 (1950) 517; Tsilingiris, Energy Convers. Manage. 49 (2008) 1098"
)

// References lists the functions in the order in which they are shown.
var References = []Reference{
	ofWater("water_density", "the density of water, 0 to 150 °C", "kg/m³", waterDensity, "Kell, J. Chem. Eng. Data 20 (1975) 97"),
	ofWater("water_viscosity", "the viscosity of water, −20 to 110 °C", "Pa·s", waterViscosity, iapws),
	ofWater("water_conductivity", "the thermal conductivity of water, −20 to 110 °C", "W/(m·K)", waterConductivity, iapws),
	ofWater("water_heat_capacity", "the heat capacity of water, 0 to 110 °C", "J/(kg·K)", waterCapacity, "Incropera, DeWitt, Bergman, Lavine, Fundamentals of Heat and Mass Transfer, 6th ed., 2007, table A.6"),
	ofWater("water_permittivity", "the static relative permittivity of water, −20 to 110 °C", "", waterPermittivity, iapws),
	ofWater("water_sound_speed", "the speed of sound in water, 0 to 95 °C", "m/s", waterSound, "Marczak, J. Acoust. Soc. Am. 102 (1997) 2776"),
	ofWater("water_vapour_pressure", "the pressure of vapour over water, 0 to 370 °C", "Pa", waterVapour, "Wagner, Pruß, J. Phys. Chem. Ref. Data 22 (1993) 783"),
	ofWater("water_surface_tension", "the surface tension of water, 0 to 370 °C", "N/m", waterTension, "IAPWS R1-76, Surface Tension of Ordinary Water Substance, 2014"),
	ofBrine("brine_density", "the density of sodium chloride in water, 5 to 100 °C, up to 0.26", "kg/m³", brineDensity, "Laliberté, Cooper, J. Chem. Eng. Data 49 (2004) 1141"),
	ofBrine("brine_viscosity", "the viscosity of the same", "Pa·s", brineViscosity, "Laliberté, J. Chem. Eng. Data 52 (2007) 321"),
	ofBrine("brine_heat_capacity", "the heat capacity of the same", "J/(kg·K)", brineCapacity, "Laliberté, J. Chem. Eng. Data 54 (2009) 1725"),
	ofBrine("brine_conductivity", "the thermal conductivity of the same", "W/(m·K)", brineConductivity, "Yusufova and others, J. Eng. Phys. 29 (1975) 1225"),
	ofBrine("brine_resistivity", "the electrical resistivity of the same", "Ω·m", brineResistivity, "Kaye, Laby, Tables of Physical and Chemical Constants, 16th ed., 1995"),
	ofBrine("brine_vapour_pressure", "the pressure of vapour over the same", "Pa", brineVapour, "Robinson, Stokes, Electrolyte Solutions, 1959, with the pressure over water"),
	ofBrine("seawater_density", "the density of sea water, 0 to 120 °C, up to 0.12", "kg/m³", seaDensity, sharqa),
	ofBrine("seawater_viscosity", "the viscosity of sea water", "Pa·s", seaViscosity, sharqa),
	ofBrine("seawater_heat_capacity", "the heat capacity of sea water", "J/(kg·K)", seaCapacity, sharqa),
	ofBrine("seawater_conductivity", "the thermal conductivity of sea water", "W/(m·K)", seaConductivity, sharqa),
	ofBrine("seawater_sound_speed", "the speed of sound in sea water, 2 to 30 °C, 0.025 to 0.040", "m/s", seaSound, "Mackenzie, J. Acoust. Soc. Am. 70 (1981) 807"),
	ofAir("humid_air_density", "the density of air with vapour, 0 to 100 °C", "kg/m³", humidDensity),
	ofAir("humid_air_heat_capacity", "the heat capacity of the same", "J/(kg·K)", humidCapacity),
	ofAir("humid_air_viscosity", "the viscosity of the same", "Pa·s", humidViscosity),
	ofAir("humid_air_conductivity", "the thermal conductivity of the same", "W/(m·K)", humidConductivity),
	ofAir("humid_air_sound_speed", "the speed of sound in the same", "m/s", humidSound),
	{formula.Addition{Name: "air_absorption", Does: "how fast the amplitude of sound falls in air at 1 atm", Arguments: []formula.Variable{Frequency, Temperature, Humidity},
		Dimension: quantity.MustUnit("1/m").Dimension, At: airAbsorption}, "1/m", "ISO 9613-1, 1993"},
	{formula.Addition{Name: "sutherland", Does: "the viscosity of a gas from that at 0 °C and its constant", Dimension: quantity.MustUnit("Pa·s").Dimension, At: sutherland,
		Arguments: []formula.Variable{Temperature, {Name: "at_0", Dimension: quantity.MustUnit("Pa·s").Dimension}, {Name: "constant", Dimension: quantity.MustUnit("K").Dimension}}},
		"Pa·s", "Sutherland, Phil. Mag. 36 (1893) 507"},
	{formula.Addition{Name: "ideal_gas_density", Does: "the density of an ideal gas", Dimension: quantity.MustUnit("kg/m³").Dimension,
		At:        func(T, p, m float64) float64 { return p * m / (gasConstant * T) },
		Arguments: []formula.Variable{Temperature, Pressure, {Name: "molar_mass", Dimension: quantity.MustUnit("kg/mol").Dimension}}}, "kg/m³", "law of ideal gases"},
}

func ofWater(name, does, unit string, f func(T float64) float64, source string) Reference {
	return Reference{formula.Addition{Name: name, Does: does, Arguments: []formula.Variable{Temperature}, Dimension: quantity.MustUnit(unit).Dimension,
		At: func(T, _, _ float64) float64 { return f(T) }}, unit, source}
}

func ofBrine(name, does, unit string, f func(T, w float64) float64, source string) Reference {
	return Reference{formula.Addition{Name: name, Does: does, Arguments: []formula.Variable{Temperature, Fraction}, Dimension: quantity.MustUnit(unit).Dimension,
		At: func(T, w, _ float64) float64 { return f(T, w) }}, unit, source}
}

func ofAir(name, does, unit string, f func(T, p, humidity float64) float64) Reference {
	return Reference{formula.Addition{Name: name, Does: does, Arguments: []formula.Variable{Temperature, Pressure, Humidity}, Dimension: quantity.MustUnit(unit).Dimension, At: f}, unit, tsiling}
}

func init() {
	for _, r := range References {
		formula.AddFunction(r.Addition)
	}
}

// mustTable is a smooth curve through rows, held beyond them.
func mustTable(x, y []float64) func(x float64) float64 {
	t, err := formula.NewTable(x, y, true, formula.Hold)
	if err != nil {
		panic("material: " + err.Error())
	}
	return t.At
}
