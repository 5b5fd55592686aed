// Package film is thin films of a liquid between a surface of the device and a wall that faces it (O. Reynolds, Phil. Trans. R. Soc. 177 (1886) 157),
//
//	∂(θh)/∂t + ∇·(θh·U − h³/(12µ)·∇p) = 0
//
// along the surface, with the thickness h, the mean U of the velocities of both walls, the viscosity µ and the pressure p above that around. Where
// the pressure would fall below that at which the film breaks up, p₀, it stays there and the part θ of the gap that is filled falls below 1
// instead, so that no liquid is lost (B. Jakobsson and L. Floberg, 1957; K. O. Olsson, 1965; H. G. Elrod, J. Lubr. Technol. 103 (1981) 350).
//
// A film that bears a load W has one more unknown, by how much it is thicker everywhere, with ∫p dA = W, and as it tilts two more, with no moment
// about the place of the load.
package film

import (
	"saltkettle/core/law"
	"saltkettle/core/sentence"
)

// Law is a number that may depend on the temperature, the place and the time.
type Law = law.Law

// Problem is the films of a model.
type Problem struct {
	Transient bool
	Films     []*Film
	// Of is the film on a facet of the mesh, and On that on a body: there is one at most.
	Of map[int32]*Film
	On map[int32]*Film
}

// Film is one of them.
type Film struct {
	Key    string // of its sentence
	Facets []int32
	// Thickness, m, and Viscosity, Pa·s.
	Thickness, Viscosity Law
	// Facing and Slides are the velocities of the wall that faces it and of the surface itself, m/s; Closes how fast the former comes nearer.
	Facing, Slides [3]Law
	Closes         Law
	// Breaks is the pressure at which it breaks up, Pa; Whole says that it never does.
	Breaks float64
	Whole  bool
	// Clipped says that a pressure below that counts as that, whatever liquid there is.
	Clipped bool
	// Stiffens is the part by which the viscosity rises with the pressure, 1/Pa.
	Stiffens float64
	// Bears is the load, N, nil for none; Tilts says that it acts at At, m.
	Bears Law
	Tilts bool
	At    [3]float64
	// Pushes says that the pressure acts on what bends, Yields that the thickness follows it.
	Pushes, Yields bool
	// Warms is the part of the heat of its friction that goes into what it lies on.
	Warms float64

	lift, tilt int // components from the first one of the physics on, −1 for none; the tilts follow each other
	force      int // that of the force, where there is a lift
	ways       int // about how many axes it tilts
	area       float64
}

// Places of the laws of a film in its set.
const (
	thickness = iota
	viscosity
	closes
	bears
	facing
	slides = facing + 3
)

func (f *Film) laws() []Law {
	list := []Law{f.Thickness, f.Viscosity, f.Closes, f.Bears}
	return append(append(list, f.Facing[:]...), f.Slides[:]...)
}

// Fields are those of this physics that plates show.
var Fields = []sentence.Field{
	{Name: "film_pressure", Label: "pressure of the film", Symbol: "p", Units: []string{"Pa", "kPa", "MPa", "bar"}, Derived: true},
	{Name: "film_thickness", Label: "thickness of the film", Symbol: "h", Units: []string{"m", "µm", "mm"}, Derived: true},
	{Name: "film_filled", Label: "part of the gap that is filled", Symbol: "θ", Units: []string{"1", "%"}, Derived: true},
	{Name: "film_friction", Label: "friction of the film", Symbol: "τ", Units: []string{"Pa", "kPa"}, Derived: true},
}
