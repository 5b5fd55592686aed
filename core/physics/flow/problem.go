// Package flow is flow of fluids that are not compressed: of velocity and pressure, by functions of order 2 and 1 (C. Taylor and
// P. Hood, Comput. Fluids 1 (1973) 73) or of order 1 alike, all in one Newton, and of what carries the eddies of a turbulent one.
package flow

import (
	"math"
	"slices"

	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
)

// Law is a number that may depend on what laws may depend on.
type Law = law.Law

// Body is what fills a body.
type Body struct {
	Density   Law // kg/m³
	Viscosity Law // Pa·s
	Capacity  Law // J/(kg·K), nil where no heat is solved for
	// Conductivity, W/(m·K), is wanted where eddies spread heat.
	Conductivity Law
	Thins        *Thinning
	Matrix       *Matrix // nil for none
	// Reference is the density that is at rest under gravity, kg/m³, also what inertia is of.
	Reference float64
}

// Opening is facets through which fluid passes as pressure makes it.
type Opening struct {
	Facets   []int32
	Pressure Law // Pa
	// Total says that it is that of fluid at rest, from where it is drawn.
	Total bool
	// Fan says that the pressure depends on how much comes in through all of them.
	Fan bool
	// Eddies is what comes in brings along of what is carried of them.
	Eddies [mostCarried]float64
}

// Repeat says what drives a flow that repeats.
type Repeat struct {
	// Facets through which it comes in; Along is the way to where it leaves, m.
	Facets []int32
	Along  [3]float64
	From   [3]float64 // the middle of the facets, m
	// Drop is the pressure that is lost on the way, Pa; or Volume, m³/s, comes in, and Drop is what that takes.
	Drop, Volume float64
	ByVolume     bool
	// Viscosity is about that of what flows, Pa·s.
	Viscosity float64
}

// Problem is the flow in some bodies.
type Problem struct {
	Dimension int
	Round     bool // about the y axis, x being the distance from it
	Transient bool
	// Turbulent says that the flow has eddies that are not resolved; Walls are the facets that it sticks to then, and
	// Rough those that are not smooth.
	Turbulent bool
	// Energy says that it carries the energy of its eddies and the rate at which they decay along, else one viscosity.
	Energy bool
	// Thin is the greatest viscosity over the density of what flows, m²/s, at a usual temperature.
	Thin  float64
	Walls []int32
	Rough []Rough
	// Stable says that velocity and pressure have functions of order 1 alike, which needs stabilisation.
	Stable   bool
	Bodies   map[int32]Body
	Openings []Opening
	// Inlets are facets at which the velocity is held: what enters there is counted.
	Inlets [][]int32
	// Stuck are facets at which all of the velocity is held.
	Stuck []int32
	// Repeat says that the flow repeats, nil if it does not.
	Repeat *Repeat
	// Gravity along the axes, m/s², nil for none.
	Gravity [3]Law
	// Ease multiplies the viscosity while a hard solution is approached.
	Ease float64
}

// Fields are those of this physics that plates show.
var Fields = []sentence.Field{
	{Name: "velocity", Symbol: "u", Also: []string{"speed"}, Units: []string{"m/s", "mm/s", "cm/s"}, Usual: &sentence.Usual{Streams: "80"}},
	{Name: "pressure", Symbol: "p", Units: []string{"Pa", "kPa", "bar", "mbar"}, Usual: &sentence.Usual{}},
	{Name: "total_pressure", Symbol: "p₀", Units: []string{"Pa", "kPa", "bar", "mbar"}, Derived: true},
	{Name: "shear_rate", Symbol: "γ̇", Units: []string{"1/s"}, Derived: true},
	{Name: carried, Symbol: "ν̃", Units: []string{"m²/s", "mm²/s"}, Usual: &sentence.Usual{}},
	{Name: energy, Symbol: "k", Units: []string{"m²/s²"}, Usual: &sentence.Usual{}},
	{Name: "eddy_decay", Symbol: "ω", Units: []string{"1/s"}, Derived: true},
	{Name: "eddy_viscosity", Symbol: "νₜ", Units: []string{"m²/s", "mm²/s"}, Derived: true},
}

// Places of what follows from velocity and pressure.
const (
	speed    = 0 // three components and the size
	pressure = 4
	shear    = 5
	vortex   = 6
	total    = 7
	rubbed   = 8 // three components and the size
	leaves   = 12
	swirls   = 13
	units    = 14
	decays   = 15
	derived  = 16
)

// Derived are the velocity along x, y and z and its size, the pressure, the shear rate √(2 D:D) of the rate of
// strain D, the vorticity about z, and the pressure with that of the speed, p + ρu²/2. On surfaces there are the
// friction of the fluid on them, along x, y and z and its size, and how fast it leaves through them. Of a turbulent flow
// there is the viscosity of its eddies, and at walls the thickness of the first cells in units of the wall, y⁺; and the rate at which they decay, ω, if that is
// carried along.
var Derived = func() (list []formula.Variable) {
	add := func(unit string, names ...string) {
		for _, name := range names {
			list = append(list, formula.Variable{Name: name, Dimension: quantity.MustUnit(unit).Dimension})
		}
	}
	add("m/s", "velocity_x", "velocity_y", "velocity_z", "velocity")
	add("Pa", "pressure")
	add("1/s", "shear_rate", "vorticity")
	add("Pa", "total_pressure", "wall_shear_x", "wall_shear_y", "wall_shear_z", "wall_shear")
	add("m/s", "leaving_speed")
	add("m²/s", "eddy_viscosity")
	add("1", "wall_units")
	add("1/s", "eddy_decay")
	return list
}()

// Nodal marks those with values at nodes: the pressure has them at corners alone.
var Nodal = slices.Concat(slices.Repeat([]bool{true}, 4), make([]bool, derived-4))

// Names of what a turbulent flow carries along: the viscosity of eddies, or their energy and the logarithm of the rate, in 1/s, at
// which they decay.
const (
	carried  = "carried_viscosity"
	energy   = "eddy_energy"
	logDecay = "eddy_decay_logarithm"
)

// shown says which of the derived quantities are kept as fields; velocity and pressure are so already.
func (p *Problem) shown(name string) bool {
	return name == "shear_rate" || name == "vorticity" || name == "total_pressure" || p.Turbulent && name == "eddy_viscosity" || p.Energy && name == "eddy_decay"
}

// ease is the factor of the viscosity.
func (p *Problem) ease() float64 {
	if p.Ease == 0 {
		return 1
	}
	return p.Ease
}

// size of a vector.
func size(v [3]float64) float64 { return math.Sqrt(v[0]*v[0] + v[1]*v[1] + v[2]*v[2]) }
