// Package solid is small elastic deformation of solids,
//
//	∇·σ = 0,  σ = λ·tr(e)·1 + 2µ·e,  e = (∇u + ∇uᵀ)/2 − ε_T·1,
//
// in space, in the plane (without strain across it, or without stress) and round an axis, with
// displacements given by component, forces and pressures, and the strain ε_T that heat brings.
//
// Symbols: u displacement (m), σ stress (Pa), e elastic strain, λ and µ Lamé's constants (Pa),
// E Young's modulus (Pa), ν Poisson's ratio, α linear thermal expansion (1/K). In an axial space
// x is the distance from the axis, y goes along it, and what has zz is round it. (S. Timoshenko,
// J. N. Goodier, Theory of Elasticity, 3rd ed., 1970.)
package solid

import (
	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
)

// Law is a number that may depend on the temperature, the place and the time; nil is zero.
type Law = law.Law

// Form is what space the solids are in.
type Form int

// The forms.
const (
	Space  Form = iota // all three directions
	Strain             // a plane, nothing moves across it
	Stress             // a plane, nothing pushes across it
	Round              // round an axis
)

// components is how many a displacement has.
func (f Form) components() int {
	if f == Space {
		return 3
	}
	return 2
}

// Problem is the solids of a group. Facets are numbers of facets of its mesh.
type Problem struct {
	Form Form
	// Bodies by their number in the mesh; those without an entry do not bend.
	Bodies    map[int32]Body
	Pressures []Pressure
	Forces    []Force
	// Inertia takes the mass into account: rates of the displacement are accelerations.
	Inertia bool
}

// Body has the properties of a body.
type Body struct {
	Modulus Law // Young's, Pa
	Ratio   Law // Poisson's
	Density Law // kg/m³, with inertia
	// Expansion is that by heat, 1/K, from the temperature Free, K; nil is none.
	Expansion Law
	Free      float64
	// Loss is the part of what is stored that is lost in a swing, over 2π; nil is none.
	Loss Law

	share Law // of the modulus that counts, nil for all
}

// Pressure acts against the outside of facets.
type Pressure struct {
	Facets []int32
	Value  Law // Pa
}

// Force is spread evenly over facets.
type Force struct {
	Facets []int32
	Total  [3]Law // N
}

// Fields are those of this physics that plates show.
var Fields = []sentence.Field{
	{Name: "displacement", Symbol: "u", Also: []string{"deflection", "deformation"}, Bends: true, Usual: &sentence.Usual{Bent: true}, Units: []string{"mm", "µm", "m"}},
	{Name: "von_mises", Label: "stress of von Mises", Symbol: "σᵥ", Also: []string{"equivalent stress"}, Usual: &sentence.Usual{Bent: true}, Units: []string{"MPa", "kPa", "Pa", "GPa"}, Derived: true},
	{Name: "stress_1", Label: "greatest principal stress", Symbol: "σ₁", Units: []string{"MPa", "kPa", "Pa", "GPa"}, Derived: true},
	{Name: "stress_3", Label: "least principal stress", Symbol: "σ₃", Units: []string{"MPa", "kPa", "Pa", "GPa"}, Derived: true},
}

// Places of what follows from the displacement.
const (
	displacement = 0 // three components and the size
	stress       = 4 // six components, then von Mises and the three principal ones
	mises        = 10
	principal    = 11
	derived      = 14
)

// Derived are the displacement along x, y and z and its size, the stress by components, the
// equivalent stress of von Mises, and the principal stresses, the greatest first.
var Derived = func() (list []formula.Variable) {
	add := func(unit string, names ...string) {
		for _, name := range names {
			list = append(list, formula.Variable{Name: name, Dimension: quantity.MustUnit(unit).Dimension})
		}
	}
	add("m", "displacement_x", "displacement_y", "displacement_z", "displacement")
	add("Pa", "stress_xx", "stress_yy", "stress_zz", "stress_xy", "stress_yz", "stress_zx", "von_mises", "stress_1", "stress_2", "stress_3")
	return list
}()

// Nodal marks the derived quantities that have values at nodes.
var Nodal = []bool{true, true, true, true, false, false, false, false, false, false, false, false, false, false}

// Shown says which of them are kept as fields: the displacement is solved for.
func Shown(name string) bool {
	for _, v := range Derived[stress:] {
		if v.Name == name {
			return true
		}
	}
	return false
}
