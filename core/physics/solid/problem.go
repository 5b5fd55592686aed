// Package solid is the deformation of solids, ∇·P + b = 0: small,
//
//	P = σ = C:(e − ε_T) + σ₀,  e = (∇u + ∇uᵀ)/2,
//
// or large, where all is written in the shape that nothing has deformed,
//
//	P = F·S,  F = 1 + ∇u,  S = C:(E − ε_T) + σ₀,  E = (FᵀF − 1)/2,
//
// or S of a material like rubber; in space, in the plane (without strain across it, or without stress) and round an axis.
//
// Symbols: u displacement (m), F deformation gradient, E Green's strain, S second and P first stress of Piola and
// Kirchhoff (Pa), C stiffness (Pa), isotropic or by the axes of a part, ε_T strain by heat, σ₀ stress at the beginning (Pa),
// b force per volume (N/m³). In an axial space x is the distance from the axis, y goes along it, and what has zz is round
// it. (S. Timoshenko, J. N. Goodier, Theory of Elasticity, 3rd ed., 1970; J. Bonet, R. D. Wood, Nonlinear Continuum
// Mechanics for Finite Element Analysis, 2nd ed., 2008.)
package solid

import "saltkettle/core/law"

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
	// Large says that what bends may turn and stretch far.
	Large bool
	// Bodies by their number in the mesh; those without an entry do not bend.
	Bodies map[int32]Body
	Loads  []Load
	Pulls  []Pull
	// Inertia takes the mass into account: rates of the displacement are accelerations.
	Inertia bool
}

// Body has the properties of a body.
type Body struct {
	// Modulus is Young's, Pa, along the axes of the body: of isotropic bodies the first alone. Ratio is Poisson's and Shear
	// the shear modulus, Pa, of the pairs xy, yz and xz: of isotropic bodies the first ratio alone.
	Modulus, Ratio, Shear [3]Law
	Density               Law // kg/m³, with inertia
	// Expansion is that by heat along the axes of the body, 1/K, from the temperature Free, K; nil is none.
	Expansion [3]Law
	Free      float64
	// Loss is the part of what is stored that is lost in a swing, over 2π; nil is none.
	Loss Law
	// Dying are how fast swings die away by the mass, 1/s, and by the stiffness, s (J. W. Strutt, Baron Rayleigh, The
	// Theory of Sound, 1877).
	Dying [2]Law
	// Turn is that of the axes of the body about z, rad.
	Turn float64
	// Rubber says that the body stretches like rubber, by the constants of Mooney and Rivlin, Pa, if there are any, and
	// else by its modulus. Mixed finds what keeps its volume with a pressure of its own.
	Rubber, Mixed bool
	Mooney        [2]Law
	// Initial is the stress that is there from the beginning, Pa: xx, yy, zz, xy, yz, zx.
	Initial [6]Law

	share Law // of the stiffness that counts, nil for all
	drags Law // by which the mass stands for a stiffness, 1/s; nil for none
}

// expands says that heat does something to a body.
func (b *Body) expands() bool {
	return b.Expansion[0] != nil || b.Expansion[1] != nil || b.Expansion[2] != nil
}

// LoadKind is how something acts on facets.
type LoadKind int

// The kinds of loads.
const (
	Pressure LoadKind = iota // against the outside; Value has it first, Pa
	Force                    // N, or N/m² if it is not in all
	Torque                   // N·m in all, about the middle of the facets
	Springs                  // N/m in all, or N/m³: they pull back along each axis
	Mass                     // kg in all, in the first value: it has inertia and what pulls the body pulls it
)

// Load acts on facets.
type Load struct {
	Kind   LoadKind
	Facets []int32
	Value  [3]Law
	// InAll says that the value is for all facets together, over which it is spread evenly.
	InAll bool
	// Follows says that a force turns with the surface, where deformation is large.
	Follows bool
}

// Pull acts on each mass of some bodies: an acceleration, m/s², or the spin about an axis, rad/s, or both.
type Pull struct {
	Bodies       map[int32]bool
	Acceleration [3]Law
	Spin         Law
	Axis         int        // along which the axis lies
	Through      [3]float64 // a point on it, m
}
