// Package law evaluates the laws of a model, values that may depend on the
// temperature, the place and the time, at many points at once.
package law

import (
	"fmt"
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/quantity"
)

// Variables are what laws may depend on, in the order of the inputs of their
// programs: the temperature, the coordinates, the time, the swing and what models name.
var Variables = func() []formula.Variable {
	list := append([]formula.Variable{{Name: "temperature", Dimension: quantity.MustUnit("K").Dimension, Temperature: true}}, formula.Coordinates...)
	list = append(list, formula.Time, formula.Swing)
	for i := range Named {
		v := formula.Variable{Name: NameOf(i)}
		if i < Species {
			v.Dimension = quantity.MustUnit("mol/m³").Dimension
		}
		list = append(list, v)
	}
	return append(list, formula.Variable{Name: "volume_flow", Dimension: quantity.MustUnit("m³/s").Dimension}, formula.Frequency)
}()

// The places of some of the variables.
const (
	Temperature   = 0
	radius        = 4
	angle         = 5
	Moment        = 6
	swing         = 7
	Concentration = 8 // of the first species
	// VolumeFlow is that through the surface of a sentence, for those alone that say so.
	VolumeFlow = Concentration + Named
	// Own is that of the first unknown of an equation of the user's own, which has the dimension that its model says.
	Own = Concentration + Species
	// Frequency is that of what swings, for those alone that say so.
	Frequency = VolumeFlow + 1
)

// Species is how many dissolved species a model can have.
const Species = 6

// ConcentrationOf is the name of the concentration of a species, from 0 on, which models may give another one.
func ConcentrationOf(i int) string { return fmt.Sprintf("concentration_%d", i+1) }

// Owns is how many unknowns of equations of its own a model can have, and Named how many quantities that it names.
const (
	Owns  = 3
	Named = Species + Owns
)

// OwnOf is the name of an unknown of an equation of the user's own, from 0 on, which models give another one.
func OwnOf(i int) string { return fmt.Sprintf("own_%d", i+1) }

// NameOf is the name of one of the quantities that models name, from 0 on.
func NameOf(i int) string {
	if i < Species {
		return ConcentrationOf(i)
	}
	return OwnOf(i - Species)
}

// Law is a number that may depend on [Variables]; nil is zero.
type Law = *formula.Program

// UsualTemperature is taken where no temperature is solved for, K.
const UsualTemperature = 293.15

// Still is the value of a law that depends on nothing, or on nothing but a temperature that is not solved for.
func Still(l Law, solved bool) (value float64, known bool) {
	s := NewSet(l)
	e := &s.entries[0]
	if !e.constant && (solved || !e.heat) {
		return 0, false
	}
	s.Run([]fem.Point{{}}, -1)
	return s.At(0, 0), true
}

// Set is some laws with their values at points. It serves one goroutine.
type Set struct {
	entries []entry
	in      [][]float64
	varies  bool
	polar   bool
	mixed   bool // some depend on quantities that the model names
}

// entry is one law.
type entry struct {
	constant bool
	value    float64
	// heat says that it depends on the temperature alone, still that none is solved for, so that it has one value.
	heat, still bool
	work        *formula.Work
	values      []float64
	by          []int // the variables by which it has slopes
	slopes      [][]float64
}

// NewSet makes a set of laws with their slopes by the temperature.
func NewSet(laws ...Law) *Set { return NewSetBy([]int{Temperature}, laws...) }

// NewSetBy makes one with slopes by some of the variables.
func NewSetBy(by []int, laws ...Law) *Set {
	s := &Set{in: make([][]float64, len(Variables))}
	for _, l := range laws {
		var e entry
		if l == nil {
			l = formula.Fixed(0)
		}
		e.value, e.constant = l.Constant()
		if !e.constant {
			s.varies = true
			s.polar = s.polar || l.Uses(radius) || l.Uses(angle)
			for _, v := range by {
				if l.Uses(v) {
					e.by = append(e.by, v)
				}
			}
			for v := Concentration; v < Concentration+Named; v++ {
				s.mixed = s.mixed || l.Uses(v)
			}
			e.heat = true
			for v := range Variables {
				e.heat = e.heat && (v == Temperature || !l.Uses(v))
			}
			e.work, e.slopes = l.NewWork(e.by...), make([][]float64, len(e.by))
		}
		s.entries = append(s.entries, e)
	}
	return s
}

// Run evaluates the laws at points, whose component number t is the temperature; −1
// means that none is solved for. Quantities that the model names are those that the points tell of, nothing where they are not.
func (s *Set) Run(points []fem.Point, t int) {
	if !s.varies || s.still(t) {
		return
	}
	for v := range s.in {
		s.in[v] = s.in[v][:0]
	}
	for i := range points {
		p := &points[i]
		here := UsualTemperature
		if t >= 0 {
			here = p.U[t]
		}
		s.in[Temperature] = append(s.in[Temperature], here)
		for d, x := range p.X {
			s.in[1+d] = append(s.in[1+d], x)
		}
		if s.polar {
			s.in[radius] = append(s.in[radius], math.Hypot(p.X[0], p.X[1]))
			s.in[angle] = append(s.in[angle], math.Atan2(p.X[1], p.X[0]))
		}
		s.in[Moment] = append(s.in[Moment], p.Time)
		s.in[swing] = append(s.in[swing], p.Swing)
		s.in[VolumeFlow] = append(s.in[VolumeFlow], 0)
		s.in[Frequency] = append(s.in[Frequency], 0)
		if !s.mixed {
			continue
		}
		for k := range Named {
			here := 0.0
			if k < len(p.Named) && p.Named[k] >= 0 {
				here = p.U[p.Named[k]]
			}
			s.in[Concentration+k] = append(s.in[Concentration+k], here)
		}
	}
	for i := range s.entries {
		e := &s.entries[i]
		if e.constant || e.still {
			continue
		}
		e.values = sized(e.values, len(points))
		for i := range e.slopes {
			e.slopes[i] = sized(e.slopes[i], len(points))
		}
		e.work.Run(s.in, e.values, e.slopes...)
	}
}

// At is the value of a law at a point of the last run.
func (s *Set) At(law, point int) float64 {
	if e := &s.entries[law]; !e.constant && !e.still {
		return e.values[point]
	}
	return s.entries[law].value
}

// still gives laws of a temperature that is not solved for their value, and says that there are no others.
func (s *Set) still(t int) bool {
	all := true
	for i := range s.entries {
		e := &s.entries[i]
		if was := e.still; e.heat {
			if e.still = t < 0; e.still && !was {
				var in [][]float64
				for range Variables {
					in = append(in, []float64{UsualTemperature})
				}
				var out [1]float64
				slopes := make([][]float64, len(e.by))
				for k := range slopes {
					slopes[k] = make([]float64, 1)
				}
				e.work.Run(in, out[:], slopes...)
				e.value = out[0]
			}
		}
		all = all && (e.constant || e.still)
	}
	return all
}

// sized is a list with the memory of one, if it is long enough.
func sized(list []float64, n int) []float64 {
	if cap(list) < n {
		return make([]float64, n)
	}
	return list[:n]
}

// Slope is the derivative of a law by the temperature at a point of the last run.
func (s *Set) Slope(law, point int) float64 { return s.SlopeBy(law, Temperature, point) }

// SlopeBy is that by another variable, which must be one of those that the set was made for.
func (s *Set) SlopeBy(law, variable, point int) float64 {
	e := &s.entries[law]
	if e.still {
		return 0
	}
	for i, v := range e.by {
		if v == variable {
			return e.slopes[i][point]
		}
	}
	return 0
}

// Error says that a law has no usable value somewhere.
type Error struct {
	Body  int32  // of the mesh; −1 on a surface
	What  string // the quantity
	Value float64
}

func (e *Error) Error() string {
	if math.IsNaN(e.Value) {
		return fmt.Sprintf("the %s is undefined at the temperatures that occur", e.What)
	}
	return fmt.Sprintf("the %s becomes %.3g", e.What, e.Value)
}

// Check demands that a law is finite and above a bound, or at it if closed, at the
// points of the last run.
func (s *Set) Check(law int, body int32, what string, bound float64, closed bool) error {
	return s.check(law, body, what, func(v float64) bool { return v > bound || closed && v == bound })
}

// CheckMost demands that a law is at most a bound at the points of the last run.
func (s *Set) CheckMost(law int, body int32, what string, bound float64) error {
	return s.check(law, body, what, func(v float64) bool { return v <= bound })
}

func (s *Set) check(law int, body int32, what string, holds func(v float64) bool) error {
	e := &s.entries[law]
	one := [1]float64{e.value}
	values := one[:]
	if !e.constant && !e.still {
		values = e.values
	}
	for _, v := range values {
		if !holds(v) || math.IsInf(v, 0) {
			return &Error{body, what, v}
		}
	}
	return nil
}

// Timeless says that no law depends on the time.
func Timeless(laws ...Law) bool {
	for _, l := range laws {
		if l != nil && (l.Uses(Moment) || l.Uses(swing)) {
			return false
		}
	}
	return true
}

// NoBound is below all numbers.
var NoBound = math.Inf(-1)
