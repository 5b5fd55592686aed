package formula

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"saltkettle/core/quantity"
)

// function is one entry of the table of functions. apply returns why the
// arguments do not fit, "" if they do.
type function struct {
	least, most int // most 0 means any number
	apply       func(args []quantity.Value) (quantity.Value, string)
}

func (f function) arity() string {
	switch {
	case f.most == 0:
		return fmt.Sprintf("%d arguments or more", f.least)
	case f.least == 1:
		return "one argument"
	}
	return fmt.Sprintf("%d arguments", f.least)
}

var functions = map[string]function{
	"sqrt":  {1, 1, func(a []quantity.Value) (quantity.Value, string) { return power(a[0], quantity.Number(0.5)) }},
	"abs":   {1, 1, keep(math.Abs)},
	"floor": {1, 1, plain(math.Floor)},
	"ceil":  {1, 1, plain(math.Ceil)},
	"round": {1, 1, plain(math.Round)},
	"exp":   {1, 1, plain(math.Exp)},
	"log":   {1, 1, plain(math.Log)},
	"log10": {1, 1, plain(math.Log10)},
	"tanh":  {1, 1, plain(math.Tanh)},
	"sin":   {1, 1, ofAngle(math.Sin)},
	"cos":   {1, 1, ofAngle(math.Cos)},
	"tan":   {1, 1, ofAngle(math.Tan)},
	"asin":  {1, 1, toAngle(math.Asin)},
	"acos":  {1, 1, toAngle(math.Acos)},
	"atan":  {1, 1, toAngle(math.Atan)},
	"atan2": {2, 2, func(a []quantity.Value) (quantity.Value, string) {
		if why := same(a[0], a[1], "set against"); why != "" {
			return a[0], why
		}
		return quantity.Value{SI: math.Atan2(a[0].SI, a[1].SI), Dimension: angle}, ""
	}},
	"min": {1, 0, pick(func(a, b float64) bool { return a < b })},
	"max": {1, 0, pick(func(a, b float64) bool { return a > b })},
	"if": {3, 3, func(a []quantity.Value) (quantity.Value, string) {
		if a[0].Dimension != quantity.None {
			return a[0], "the first argument must be a comparison"
		}
		if why := same(a[1], a[2], "chosen against"); why != "" {
			return a[0], why
		}
		if a[0].SI != 0 {
			return a[1], ""
		}
		return a[2], ""
	}},
}

var functionNames = strings.Join(slices.Sorted(maps.Keys(functions)), ", ")

var angle = quantity.MustUnit("rad").Dimension

// plain wraps a function from plain numbers to plain numbers.
func plain(f func(float64) float64) func([]quantity.Value) (quantity.Value, string) {
	return func(a []quantity.Value) (quantity.Value, string) {
		if a[0].Dimension != quantity.None {
			return a[0], "the argument must be a plain number, not " + a[0].Dimension.Name()
		}
		return quantity.Number(f(a[0].SI)), ""
	}
}

// keep wraps a function that keeps the dimension.
func keep(f func(float64) float64) func([]quantity.Value) (quantity.Value, string) {
	return func(a []quantity.Value) (quantity.Value, string) {
		if a[0].Affine {
			return a[0], "a temperature on a scale has no size of its own"
		}
		return quantity.Value{SI: f(a[0].SI), Dimension: a[0].Dimension}, ""
	}
}

// ofAngle wraps a function of an angle; a plain number is taken as radians.
func ofAngle(f func(float64) float64) func([]quantity.Value) (quantity.Value, string) {
	return func(a []quantity.Value) (quantity.Value, string) {
		if a[0].Dimension.WithoutAngle() != quantity.None || a[0].Dimension != quantity.None && a[0].Dimension != angle {
			return a[0], "the argument must be an angle, not " + a[0].Dimension.Name()
		}
		return quantity.Number(f(a[0].SI)), ""
	}
}

// toAngle wraps a function from a plain number to an angle.
func toAngle(f func(float64) float64) func([]quantity.Value) (quantity.Value, string) {
	p := plain(f)
	return func(a []quantity.Value) (quantity.Value, string) {
		v, why := p(a)
		v.Dimension = angle
		return v, why
	}
}

// pick chooses the argument that is better than all others.
func pick(better func(a, b float64) bool) func([]quantity.Value) (quantity.Value, string) {
	return func(args []quantity.Value) (quantity.Value, string) {
		best := args[0]
		for _, a := range args[1:] {
			if why := same(best, a, "set against"); why != "" {
				return best, why
			}
			if better(a.SI, best.SI) {
				best = a
			}
		}
		return best, ""
	}
}
