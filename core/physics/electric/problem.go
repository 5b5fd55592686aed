// Package electric is steady electric current in conductors,
//
//	∇·J = 0,  J = σ(−∇V − S∇T),
//
// with what it does to heat: the power J·(−∇V) that becomes heat and, where the
// thermoelectric effects are taken in, the heat S·T·J that it carries along (the
// effects of Seebeck, Peltier and Thomson together; H. B. Callen, Thermodynamics and
// an Introduction to Thermostatistics, 2nd ed., 1985, section 14.5).
//
// The same equations hold for the field between charges in insulators, with the
// permittivity ε₀ε_r (F/m) in place of σ and the charge density in place of the current: a
// problem is one or the other.
//
// Symbols: V potential (V), J current density (A/m²), σ conductivity (1/(Ω·m)), S
// Seebeck coefficient (V/K), T temperature (K). Surfaces of which nothing is said let
// no current through.
package electric

import (
	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
)

// Law is a number that may depend on the temperature, the place and the time.
type Law = law.Law

// Problem is the current of a group. Facets are numbers of facets of its mesh.
type Problem struct {
	// Static says that this is the field between charges, not a current.
	Static bool
	// Bodies by their number in the mesh; those without an entry do not conduct.
	Bodies   map[int32]Body
	Currents []Current
	Contacts []Contact
}

// Vacuum is the permittivity of vacuum, F/m.
const Vacuum = 8.8541878188e-12

// Body has the properties of a conductor, or of an insulator with a field.
type Body struct {
	Resistivity Law // Ω·m
	// Permittivity relative to that of vacuum, of a static problem.
	Permittivity Law
	// Seebeck is the coefficient of its thermoelectric effects, V/K; nil leaves them
	// out.
	Seebeck Law
}

// Current enters through facets, A in all, or in a static problem charge sits on them, C. The facets have one potential if the group
// keeps the field level on them; otherwise the current is spread evenly.
type Current struct {
	Facets []int32
	Total  Law
}

// Contact is a resistance between conductors, on some of the joints of the group.
type Contact struct {
	Facets     []int32
	Resistance Law // Ω·m²
}

// Fields are those of this physics that plates show.
var Fields = []sentence.Field{
	{Name: "potential", Symbol: "V", Usual: &sentence.Usual{}, Units: []string{"V", "mV", "kV"}},
	{Name: "current_density", Symbol: "J", Usual: &sentence.Usual{Streams: "60"}, Units: []string{"A/mm²", "A/m²", "A/cm²"}, Derived: true},
	{Name: "joule_heat", Symbol: "p", Also: []string{"heat of current", "loss"}, Units: []string{"W/m³", "kW/m³", "W/cm³"}, Derived: true},
	{Name: "electric_field", Symbol: "E", Units: []string{"V/m", "V/mm", "kV/mm"}, Derived: true},
}

// Derived are the quantities that follow from the potential: itself, the current
// density along x, y and z, its size, the power per volume that becomes heat, and the size of the
// electric field.
var Derived = func() []formula.Variable {
	density := quantity.MustUnit("A/m²").Dimension
	list := []formula.Variable{{Name: "potential", Dimension: quantity.MustUnit("V").Dimension}}
	for _, name := range []string{"current_density_x", "current_density_y", "current_density_z", "current_density"} {
		list = append(list, formula.Variable{Name: name, Dimension: density})
	}
	return append(list, formula.Variable{Name: "joule_heat", Dimension: quantity.MustUnit("W/m³").Dimension},
		formula.Variable{Name: "electric_field", Dimension: quantity.MustUnit("V/m").Dimension})
}()

// Shown says which of them are kept as fields of a run with currents, or with charges at rest.
func Shown(static bool) func(name string) bool {
	return func(name string) bool {
		if static {
			return name == "electric_field"
		}
		return name != "potential" // it is solved for
	}
}

// Nodal marks the derived quantities that have values at nodes.
var Nodal = []bool{true, false, false, false, false, false, false}
