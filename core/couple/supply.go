package couple

import "saltkettle/core/fem"

// Jet is a quantity at a point with its derivatives by the components of all fields there. A
// scalar has the first value alone.
type Jet struct {
	Value [3]float64
	U     [][3]float64    // by component
	Rate  [][3]float64    // by the rate of a component, of heat per volume alone
	Grad  [][3][3]float64 // by component: [i][j] is the derivative of value i by gradient j
}

// NewJet makes a jet for n components.
func NewJet(n int) *Jet {
	return &Jet{U: make([][3]float64, n), Rate: make([][3]float64, n), Grad: make([][3][3]float64, n)}
}

// Reset sets all to zero.
func (j *Jet) Reset() {
	j.Value = [3]float64{}
	clear(j.U)
	clear(j.Rate)
	clear(j.Grad)
}

// JointJet is a quantity at a point of a joint with its derivatives by the values on side A,
// where the point is, and on side B.
type JointJet struct {
	Value    float64
	U, Other []float64
}

// NewJointJet makes one for n components.
func NewJointJet(n int) *JointJet { return &JointJet{U: make([]float64, n), Other: make([]float64, n)} }

// Reset sets all to zero.
func (j *JointJet) Reset() {
	j.Value = 0
	clear(j.U)
	clear(j.Other)
}

// Supplier is a kernel that supplies quantities, which others take. What it supplies at points
// of a cell is asked for after it was prepared for these.
type Supplier interface {
	fem.Preparer
	// SuppliesIn says that a quantity is not zero everywhere in a body, and that it depends on
	// fields there.
	SuppliesIn(quantity string, body int32) (any, varies bool)
	// Supply adds a quantity at a point to a jet.
	Supply(quantity string, p *fem.Point, j *Jet)
	// SuppliesAt says the same of a joint.
	SuppliesAt(quantity string, joint int) (any, varies bool)
	// SupplyJoint adds a quantity per area at a point of a joint to a jet.
	SupplyJoint(quantity string, joint int, p *fem.Point, other []float64, j *JointJet) error
}

// Spreader is a supplier of a stream whose eddies spread what it takes along, beside what spreads it within a fluid at rest.
type Spreader interface {
	Supplier
	// Spread adds by how much, m²/s, at a point of a cell for something that spreads with a diffusivity, m²/s, without them.
	Spread(p *fem.Point, diffusivity float64, j *Jet)
	// SpreadHeat adds the conductivity of eddies, W/(m·K).
	SpreadHeat(p *fem.Point, j *Jet)
}

// Quantities that physics exchange.
const (
	Temperature = "temperature"
	// HeatPerVolume is released in cells, W/m³, and HeatAtJoints across joints, W/m².
	HeatPerVolume = "heat per volume"
	HeatAtJoints  = "heat at joints"
	// HeatCarried is the flux of heat by other means than conduction, W/m², a vector.
	HeatCarried = "heat carried"
	// PushOnWalls is what a flow pushes its walls with, at their nodes, N.
	PushOnWalls = "push on walls"
	// MotionOfWalls is the displacement of what bends, m, where its acceleration sends out sound, and PressureOnWalls that of sound, Pa, which
	// pushes it: the terms of both are those of the sound.
	MotionOfWalls   = "motion of walls"
	PressureOnWalls = "pressure on walls"
	// VolumeStream is the volume that a flow takes along, m³/(m²·s), a vector: its velocity.
	VolumeStream = "volume stream"
	// HeatStream is how much heat a flow takes along for each kelvin, W/(m²·K), a vector: with the slope of
	// the temperature it is what that flow takes from where it passes.
	HeatStream = "heat stream"
)

// Supply is a quantity of a supplier. Varies says that it changes while the group that takes it
// is solved, and Sentence is the one that lets it act.
type Supply struct {
	Kernel   Supplier
	Quantity string
	Sentence string
	Varies   bool
}

// Bound is the supply from what stands for its kernel.
func (s Supply) Bound(of func(fem.Kernel) fem.Kernel) Supply {
	s.Kernel = of(s.Kernel).(Supplier)
	return s
}
