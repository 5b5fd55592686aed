// Package magnetic is the field of magnets and steady currents,
//
//	∇×H = J,  ∇·B = 0,
//
// with iron that saturates, magnets with a remanence and coils.
//
// In sections B = ∇×A. In a plane space the unknown is A along
// z, Wb/m, positive towards the viewer. In an axial one, with x the radius r and y the axis, it is
// u = A_φ/r, T, with φ round the axis like the fingers of a right hand whose thumb points along y:
//
//	B_r = −r·∂u/∂y,  B_y = 2u + r·∂u/∂r,
//
// which has no 1/r in it and no condition on the axis; tests are those of r·w. A uniform field along the
// axis is a constant u (S. J. Salon, Finite Element Analysis of Electrical Machines, 1995, chapter 2, has
// the usual forms).
//
// In space H = T − ∇φ with the unknown φ, A, in iron, magnets and air alike, where T is what coils make ([Winding]).
//
// Symbols: A vector potential, B flux density (T), H field strength (A/m), J current density (A/m²), µ₀
// permeability of vacuum. The flux stays within surfaces of which nothing is said.
package magnetic

import (
	"math"

	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
)

// Law is a number that may depend on the temperature, the place and the time.
type Law = law.Law

// Vacuum is the permeability of vacuum, H/m.
const Vacuum = 1.25663706127e-6

// Problem is the magnetic field of a group. Facets are numbers of facets of its mesh.
type Problem struct {
	// Solid says that it is in space, Round that the section is an axial one; else Depth is that of the plane, m.
	Solid, Round bool
	Depth        float64
	// Moves says that the field changes in time, Frequency with which it alternates, Hz, 0 for one that does not.
	Moves     bool
	Frequency float64
	// Circuits of its bodies.
	Circuits []*Circuit
	// Windings of one in space.
	Windings []*Winding
	// Bodies by their number in the mesh; those without an entry are as vacuum.
	Bodies map[int32]*Body
	// Open are facets beyond which the field goes on into open space, seen from Middle, m.
	Open   []int32
	Middle [3]float64
	// secant lets matrices have B over H in place of their slopes.
	secant bool
}

// motion says that a conductor moves through the field.
func (p *Problem) motion() bool {
	for _, b := range p.Bodies {
		if b.moves() {
			return true
		}
	}
	return false
}

// Body has the properties of a body.
type Body struct {
	// Permeability relative to that of vacuum: of a magnet that of recoil; nil means 1.
	Permeability Law
	// Iron is the curve of a body that saturates; nil means none.
	Iron *Curve
	// Remanence of a magnet, T, nil for none, North its direction in the axes of the part, which is turned by Turn about z, rad,
	// and Slope by how much of itself it changes for each kelvin from 20 °C on.
	Remanence   Law
	North       [3]Law
	Turn, Slope float64
	// Resistivity of a body in which the field drives currents, Ω·m; nil for none.
	Resistivity Law
	// Velocity of one that moves through the field, m/s; nil for none.
	Velocity [2]Law
	// Circuit that it is part of, nil for none.
	Circuit *Circuit
	// Turns that carry a current, A, each, which is nil where they are fed; nil for none. Area is that of the section of the body, m².
	Turns, Current Law
	Area           float64
	// Shell that it is, in which places stand for others that are farther away, nil for none.
	Shell *frame.Shell
	// Knee is the strength of an opposing field beyond which a magnet loses remanence, A/m, 0 if it is not known.
	Knee float64
}

// Fields are those of this physics that plates show.
var Fields = []sentence.Field{
	{Name: "flux_density", Symbol: "B", Also: []string{"induction", "magnetic field"}, Usual: &sentence.Usual{}, Units: []string{"T", "mT", "µT"}, Derived: true},
	{Name: "flux_function", Symbol: "Ψ", Also: []string{"flux lines", "vector potential"}, Units: []string{"Wb", "mWb", "µWb"}, Derived: true},
	{Name: "field_strength", Symbol: "H", Units: []string{"A/m", "kA/m"}, Derived: true},
	{Name: "vector_potential", Symbol: "A", Units: []string{"Wb/m", "mWb/m"}},
	{Name: "vector_potential_over_radius", Symbol: "A/r", Units: []string{"T", "mT", "µT"}},
	{Name: "scalar_potential", Symbol: "φ", Units: []string{"A"}},
	{Name: "driven_heat", Symbol: "p", Also: []string{"eddy currents", "loss"}, Units: []string{"W/m³", "kW/m³", "W/cm³"}, Derived: true},
	{Name: "opposing_field", Symbol: "Hₒ", Also: []string{"demagnetisation", "operating point"}, Units: []string{"kA/m", "A/m"}, Derived: true},
	{Name: "knee_share", Symbol: "Hₒ/Hₖ", Label: "nearness of the magnet to its knee", Also: []string{"demagnetised", "knee"}, Units: []string{"1", "%"}, Derived: true},
	{Name: "permeability_at_work", Symbol: "µᵣ", Also: []string{"saturation"}, Units: []string{"1"}, Derived: true},
	{Name: "field_coenergy", Symbol: "w′", Units: []string{"J/m³", "kJ/m³"}, Derived: true},
	{Name: "field_energy", Symbol: "w", Units: []string{"J/m³", "kJ/m³"}, Derived: true},
}

// Derived are the quantities that follow from the potential: flux density and field strength along x, y and z and their
// sizes, the flux between a line of flux and where the potential is nothing, the energy of the field per volume, the power
// that currents turn into heat per volume, the field strength against the north of a magnet, and flux density over field strength
// relative to that of vacuum, 1 in magnets, the co-energy per volume, B·H less the energy, and the field
// strength against the north of a magnet as a part of that from which on it loses remanence for good.
var Derived = func() []formula.Variable {
	var list []formula.Variable
	for _, v := range []struct{ name, unit string }{{"flux_density", "T"}, {"field_strength", "A/m"}} {
		d := quantity.MustUnit(v.unit).Dimension
		for _, end := range []string{"_x", "_y", "_z", ""} {
			list = append(list, formula.Variable{Name: v.name + end, Dimension: d})
		}
	}
	return append(list, formula.Variable{Name: "flux_function", Dimension: quantity.MustUnit("Wb").Dimension},
		formula.Variable{Name: "field_energy", Dimension: quantity.MustUnit("J/m³").Dimension}, formula.Variable{Name: "driven_heat", Dimension: quantity.MustUnit("W/m³").Dimension},
		formula.Variable{Name: "opposing_field", Dimension: quantity.MustUnit("A/m").Dimension}, formula.Variable{Name: "permeability_at_work"}, formula.Variable{Name: "field_coenergy", Dimension: quantity.MustUnit("J/m³").Dimension},
		formula.Variable{Name: "knee_share"})
}()

// Nodal marks the derived quantities that have values at nodes.
var Nodal = []bool{false, false, false, false, false, false, false, false, true, false, false, false, false, false, false}

// vector along x, y and z.
type vector = [3]float64

func dot(a, b vector) float64 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }

func size(v vector) float64 { return math.Sqrt(dot(v, v)) }

func cross(a, b vector) vector {
	return vector{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}
