package formula

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"saltkettle/core/quantity"
)

// Addition is a function of up to three quantities that another package adds to those that every
// formula knows.
type Addition struct {
	Name, Does string
	Arguments  []Variable
	Dimension  quantity.Dimension
	// At is the value for arguments in SI units; those that it does not have are 0. It is not
	// a number where it does not hold.
	At func(a, b, c float64) float64
}

// AddFunction adds a function. It is for the start of a program; a name that is taken is a fault of it.
func AddFunction(e Addition) {
	if IsReserved(e.Name) || len(e.Arguments) == 0 || len(e.Arguments) > 3 {
		panic("formula: " + e.Name + " cannot be added")
	}
	names := make([]string, len(e.Arguments))
	for i, v := range e.Arguments {
		names[i] = v.Name
	}
	n := len(names)
	functions[e.Name] = function{n, n, e.Name + "(" + strings.Join(names, ", ") + ")", e.Does, func(b *builder, args []operand) (operand, string) {
		for i, v := range e.Arguments {
			if args[i].dim != v.Dimension {
				return operand{}, fmt.Sprintf("the %s of %s is %s, where %s is wanted", v.Name, e.Name, args[i].dim.Name(), v.Dimension.Name())
			}
		}
		return b.emit(kindOf{dim: e.Dimension}, instruction{op: opCall, call: e.At}, args...), ""
	}}
	functionNames = strings.Join(slices.Sorted(maps.Keys(functions)), ", ")
}

// Opaque is the program of a function of one variable that has no formula.
func Opaque(text string, d quantity.Dimension, f func(x float64) float64) *Program {
	call := func(a, _, _ float64) float64 { return f(a) }
	return &Program{text: text, Dimension: d, inputs: 1, registers: 2, result: 1, uses: []bool{true},
		code: []instruction{{op: opCall, out: 1, a: 0, b: -1, c: -1, call: call}}}
}
