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
// programs: the temperature, the coordinates, the time and the swing.
var Variables = append(append([]formula.Variable{
	{Name: "temperature", Dimension: quantity.MustUnit("K").Dimension, Temperature: true},
}, formula.Coordinates...), formula.Time, formula.Swing)

// The places of some of the variables.
const (
	Temperature = 0
	radius      = 4
	angle       = 5
	Moment      = 6
	swing       = 7
)

// Law is a number that may depend on [Variables]; nil is zero.
type Law = *formula.Program

// UsualTemperature is taken where no temperature is solved for, K.
const UsualTemperature = 293.15

// Set is some laws with their values at points. It serves one goroutine.
type Set struct {
	entries []entry
	in      [][]float64
	varies  bool
	polar   bool
}

// entry is one law.
type entry struct {
	constant bool
	value    float64
	work     *formula.Work
	sloped   bool
	values   []float64
	slopes   []float64
}

// NewSet makes a set.
func NewSet(laws ...Law) *Set {
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
			if e.sloped = l.Uses(Temperature); e.sloped {
				e.work = l.NewWork(Temperature)
			} else {
				e.work = l.NewWork()
			}
		}
		s.entries = append(s.entries, e)
	}
	return s
}

// Run evaluates the laws at points, whose component number t is the temperature; −1
// means that none is solved for.
func (s *Set) Run(points []fem.Point, t int) {
	if !s.varies {
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
	}
	for i := range s.entries {
		e := &s.entries[i]
		if e.constant {
			continue
		}
		if cap(e.values) < len(points) {
			e.values, e.slopes = make([]float64, len(points)), make([]float64, len(points))
		}
		e.values, e.slopes = e.values[:len(points)], e.slopes[:len(points)]
		if e.sloped {
			e.work.Run(s.in, e.values, e.slopes)
		} else {
			e.work.Run(s.in, e.values)
		}
	}
}

// At is the value of a law at a point of the last run.
func (s *Set) At(law, point int) float64 {
	if e := &s.entries[law]; !e.constant {
		return e.values[point]
	}
	return s.entries[law].value
}

// Slope is the derivative of a law by the temperature at a point of the last run.
func (s *Set) Slope(law, point int) float64 {
	if e := &s.entries[law]; e.sloped {
		return e.slopes[point]
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
	if !e.constant {
		values = e.values
	}
	for _, v := range values {
		if !holds(v) || math.IsInf(v, 0) {
			return &Error{body, what, v}
		}
	}
	return nil
}

// NoBound is below all numbers.
var NoBound = math.Inf(-1)
