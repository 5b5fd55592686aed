// Package pipes is the flow in networks of pipes that are much longer than wide. Along each piece between two nodes a and b, with the total
// pressures p and the heights z there,
//
//	p_a − p_b + ρg(z_a − z_b) + Δ(ṁ) = (f L/D + ΣK)·ρv|v|/2,   v = ṁ/(ρA),
//
// with the friction factor f of a relation, losses K of what is at its points and the gain Δ of a pump; and what enters a node leaves it. The mass
// flow ṁ of a piece is found from the pressures at its ends, so that these are what is unknown (see E. Todini and S. Pilati, 1988, for the same
// equations in both). Heat goes along with the flow, and through the wall to what is around, exactly along each piece:
//
//	T_b = T_s + (T_a − T_s)·exp(−U·P·L/(ṁc)).
//
// Density and heat capacity are those at the temperature that is said of a pipe, the viscosity that at the temperature which is found.
package pipes

import (
	"saltkettle/core/law"
	"saltkettle/core/sentence"
)

// Law is a number that may depend on the time.
type Law = law.Law

// Fluid is what fills a pipe.
type Fluid struct {
	Name                            string
	Density, Capacity, Conductivity float64
	Viscosity, Vapour               Law // Pa·s and Pa, of the temperature; the latter may be nil
	Temperature                     float64
	viscosity                       float64 // at that temperature
	varies, liquid                  bool
}

// within is a temperature, K, kept near that of the fluid: on the way to a solution it may be any.
func (f *Fluid) within(temperature float64) float64 {
	return min(max(temperature, f.Temperature-farOff), f.Temperature+farOff)
}

// farOff is by how much, K, what flows may be warmer or colder than it is said to be.
const farOff = 90

// Bar is a piece of a pipe between two nodes.
type Bar struct {
	Body  int32
	Nodes [2]int32
	Section
	Fluid    *Fluid
	Relation Relation
	Rough    float64 // m
	Length   float64 // m, 0 for what is at a point, which takes as much as Like of pipe
	Like     float64 // m
	Rise     float64 // of the second node above the first, m
	// Point of its line at which it is, −1 for a piece of pipe, and Beside the piece of pipe next to it in its line.
	Point  int32
	Beside int
	Items  []*Item
	// Wall lets heat through; it may be nil.
	Wall *Wall
}

// Wall is what heat passes to the surroundings of a pipe.
type Wall struct {
	Key          string
	Coefficient  Law // W/(m²·K), by the inner face; nil where a correlation gives it
	Surroundings Law // K
	// Inside says that the surroundings are the parts in which the pipe lies, and long is how long it is there, m.
	Inside  bool
	long    float64
	account int
}

// Item is what stands at a point of a line.
type Item struct {
	Key  string
	Kind string // of its sentence, "" for a corner or what is at an end
	// Forward and Back are what it takes of the dynamic pressure by the direction of the flow along the line.
	Forward, Back float64
	// Angle, rad, and Radius over diameter of a bend, which has an angle.
	Angle, Radius float64
	Valve         int // its kind, of one with an opening
	Opening       Law
	Pump          *Pump
}

// Pump lifts by a parabola of the flow.
type Pump struct {
	// Head at no flow, m, and what it falls with the flow and its square.
	Head, Slope, Curve float64
	// Speed is the part of the one for which the curve holds.
	Speed      Law
	Efficiency float64 // 0 if it is not known
}

// End is a place at which something enters or leaves.
type End struct {
	Facet int32 // of those that the place has on several lines one, as they are one node
	// Flow in, m³/s, at a temperature, K, nil for that of what is there.
	Flow, Temperature Law
	Out               bool // the flow is drawn off
	// Area of a tank whose level changes, m²; 0 for none.
	Area    float64
	account int
	body    int32
}

// Problem is a network.
type Problem struct {
	Gravity, Air float64 // m/s² and Pa
	Bars         []Bar
	Ends         []End
	Fluids       map[int32]*Fluid // by body
	Open         map[int32]bool   // nodes in the open, from which nothing but air could come
	Transient    bool
	Warm         bool             // the temperature is unknown
	Zero         float64          // the temperature from which heat is counted, K
	accounts     int              // of each of the two balances
	of           map[[3]int32]int // the bar of a body between two nodes
}

// Fields are those of this physics that plates show.
var Fields = []sentence.Field{
	{Name: "pipe_total", Label: "total pressure in pipes", Symbol: "p_t", Units: []string{"kPa", "Pa", "bar", "MPa"}, Usual: &sentence.Usual{}},
	{Name: "pipe_temperature", Label: "temperature in pipes", Symbol: "T", Units: []string{"°C", "K"}, Temperature: true},
	{Name: "pipe_speed", Label: "speed in pipes", Symbol: "v", Units: []string{"m/s"}, Derived: true},
	{Name: "pipe_flow", Label: "flow in pipes", Symbol: "Q", Units: []string{"m³/h", "L/s", "m³/s", "L/min"}, Derived: true},
	{Name: "pipe_velocity", Label: "velocity in pipes", Symbol: "v", Units: []string{"m/s"}, Derived: true},
	{Name: "pipe_static", Label: "pressure in pipes", Symbol: "p", Units: []string{"kPa", "Pa", "bar", "MPa"}, Derived: true},
	{Name: "pipe_absolute", Label: "absolute pressure in pipes", Symbol: "p_abs", Units: []string{"kPa", "Pa", "bar", "MPa"}, Derived: true},
	{Name: "pipe_head", Label: "energy head in pipes", Symbol: "H", Units: []string{"m"}, Derived: true},
	{Name: "pipe_grade", Label: "hydraulic grade in pipes", Symbol: "h", Units: []string{"m"}, Derived: true},
	{Name: "pipe_reynolds", Label: "Reynolds number in pipes", Symbol: "Re", Units: []string{"1"}, Derived: true},
}
