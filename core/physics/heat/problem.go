// Package heat is conduction of heat in solids,
//
//	ρc·∂T/∂t − ∇·(k ∇T) = q,
//
// with sources q, held temperatures, given fluxes, convection and radiation to
// surroundings on patches of the surface, and contact resistance between parts. All
// other surfaces let no heat through. All values may depend on the temperature, the
// place and the time.
//
// Symbols: T temperature (K), k conductivity (W/(m·K)), ρ density (kg/m³), c heat
// capacity (J/(kg·K)), q power per volume (W/m³), h heat-transfer coefficient
// (W/(m²·K)), ε emissivity. Bodies that touch share nodes unless a contact has a
// resistance.
package heat

import (
	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/physics/convect"
	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
)

// Law is a number that may depend on the temperature, the place and the time; nil is
// zero.
type Law = law.Law

// Boltzmann is the Stefan–Boltzmann constant, W/(m²·K⁴).
const Boltzmann = 5.670374419e-8

// Problem is the heat of a group. Facets are numbers of facets of its mesh.
type Problem struct {
	// Order of the functions in cells, for what is carried along.
	Order       int
	Bodies      []Body // of the mesh
	Sources     []Source
	Fluxes      []Flux
	Convections []Convection
	Radiations  []Radiation
	Contacts    []Contact
	// Section says that y points up and not z, for correlations.
	Section bool
	// Enclosure is the exchange of radiation between surfaces, nil if there is none.
	Enclosure *Enclosure
	// Transient takes the heat that the bodies store into account.
	Transient bool
}

// Body has the properties of a body of the mesh.
type Body struct {
	// Conductivity along the axes x, y and z of the body, W/(m·K); nil along y or z
	// means as along x.
	Conductivity [3]Law
	Turn         float64 // of the axes of the body about z, rad
	// Density, kg/m³, and heat capacity, J/(kg·K), of transient problems.
	Density, Capacity Law
}

// Isotropic is a body with the same conductivity along all axes.
func Isotropic(k Law) Body { return Body{Conductivity: [3]Law{k}} }

// Source is a power released evenly in bodies.
type Source struct {
	Bodies []int32
	Total  Law // in all these bodies together, W, of the time
	Volume Law // per volume, W/m³
}

// Flux is heat that enters through facets.
type Flux struct {
	Facets []int32
	Total  Law // over all of them, W, of the time
	Area   Law // per area, W/m²
}

// Convection is exchange with a medium at a temperature, with a coefficient that is
// given or that a correlation computes.
type Convection struct {
	Facets      []int32
	Medium      Law // K
	Coefficient Law // W/(m²·K)
	// Correlation takes the place of the coefficient.
	Correlation *Correlated
}

// Correlated is a correlation with what it is applied to.
type Correlated struct {
	Compute convect.Correlation
	Fluid   *convect.Fluid
	// Length and Second are the lengths that it asks for, m, and Speed that of the
	// fluid, m/s; nil where it does not.
	Length, Second, Speed Law
}

// Radiation is exchange with large surroundings at a temperature.
type Radiation struct {
	Facets       []int32
	Emissivity   Law
	Surroundings Law // K
}

// Contact is a resistance between bodies, on some of the joints of the group: given, or
// that of a layer too thin to be meshed, which stores no heat.
type Contact struct {
	Facets     []int32
	Resistance Law // m²·K/W
	// Thickness, m, and Conductivity, W/(m·K), of a layer take the place of the
	// resistance.
	Thickness, Conductivity Law
}

// laws of a contact: the resistance of one square metre is the first over the second.
func (c *Contact) laws() [2]Law {
	if c.Thickness != nil {
		return [2]Law{c.Thickness, c.Conductivity}
	}
	return [2]Law{c.Resistance, formula.Fixed(1)}
}

// Fields are those of this physics that plates show.
var Fields = []sentence.Field{
	{Name: "temperature", Symbol: "T", Units: []string{"°C", "K", "°F"}, Temperature: true, Usual: &sentence.Usual{}},
	{Name: "heat_flux", Symbol: "q", Also: []string{"heat flow density"}, Usual: &sentence.Usual{Streams: "60"}, Units: []string{"W/m²", "kW/m²", "W/cm²"}, Derived: true},
}

// Derived are the quantities that follow from the temperature: the heat flux along
// x, y and z and its size.
var Derived = func() []formula.Variable {
	flux := quantity.MustUnit("W/m²").Dimension
	var list []formula.Variable
	for _, name := range []string{"heat_flux_x", "heat_flux_y", "heat_flux_z", "heat_flux"} {
		list = append(list, formula.Variable{Name: name, Dimension: flux})
	}
	return list
}()
