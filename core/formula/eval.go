package formula

import (
	"math"

	"saltkettle/core/quantity"
)

// Scope gives the values of names.
type Scope interface {
	// Value returns the value of a parameter, and whether there is one.
	Value(name string) (quantity.Value, bool)
}

// Values is a Scope made from a map.
type Values map[string]quantity.Value

// Value looks the name up.
func (v Values) Value(name string) (quantity.Value, bool) {
	x, ok := v[name]
	return x, ok
}

var constants = map[string]quantity.Value{"pi": quantity.Number(math.Pi)}

// IsReserved says whether a name cannot be used for a parameter.
func IsReserved(name string) bool {
	_, constant := constants[name]
	_, function := functions[name]
	return constant || function || precedence[name] > 0
}

// Eval evaluates the formula. The error is an [*Error].
func (f *Formula) Eval(scope Scope) (quantity.Value, error) {
	v, err := f.eval(f.root, scope)
	if err != nil {
		return quantity.Value{}, err
	}
	if math.IsNaN(v.SI) || math.IsInf(v.SI, 0) {
		return quantity.Value{}, &Error{Text: f.text, What: "the result is not a finite number"}
	}
	if _, ok := f.root.(literal); !ok {
		if _, ok := f.root.(reference); !ok {
			v.Unit = ""
		}
	}
	return v, nil
}

func (f *Formula) eval(n node, scope Scope) (quantity.Value, error) {
	switch n := n.(type) {
	case literal:
		return n.value, nil
	case reference:
		if v, ok := scope.Value(n.name); ok {
			return v, nil
		}
		if v, ok := constants[n.name]; ok {
			return v, nil
		}
		hint := ""
		if quantity.IsUnit(n.name) {
			hint = "; a unit must follow a number"
		}
		return quantity.Value{}, fault(f.text, n.at, "there is no parameter %q%s", n.name, hint)
	case negation:
		v, err := f.eval(n.operand, scope)
		if err != nil {
			return v, err
		}
		if l, ok := n.operand.(literal); ok {
			v, why := negate(l)
			if why != "" {
				return v, fault(f.text, n.at, "%s", why)
			}
			return v, nil
		}
		if v.Affine {
			return v, fault(f.text, n.at, "a temperature on a scale cannot be negated")
		}
		v.SI = -v.SI
		return v, nil
	case binary:
		return f.binary(n, scope)
	case call:
		args := make([]quantity.Value, len(n.args))
		for i, a := range n.args {
			v, err := f.eval(a, scope)
			if err != nil {
				return v, err
			}
			args[i] = v
		}
		v, why := functions[n.name].apply(args)
		if why != "" {
			return v, fault(f.text, n.at, "%s: %s", n.name, why)
		}
		return v, nil
	}
	panic("formula: unknown node")
}

// negate handles "-5 °C", which means five degrees below zero on the scale.
func negate(l literal) (quantity.Value, string) {
	v := l.value
	if !v.Affine {
		v.SI = -v.SI
		return v, ""
	}
	u, err := quantity.ParseUnit(v.Unit)
	if err != nil {
		return v, err.Error()
	}
	v.SI = u.SI(-u.From(v.SI, false))
	return v, ""
}

func (f *Formula) binary(n binary, scope Scope) (quantity.Value, error) {
	a, err := f.eval(n.left, scope)
	if err != nil {
		return a, err
	}
	b, err := f.eval(n.right, scope)
	if err != nil {
		return b, err
	}
	var v quantity.Value
	var why string
	switch n.op {
	case "+", "-":
		v, why = sum(a, b, n.op)
	case "*", "/":
		if a.Affine || b.Affine {
			why = "a temperature on a scale (°C, °F) cannot be multiplied or divided; write it in K"
			break
		}
		if n.op == "*" {
			v = quantity.Value{SI: a.SI * b.SI, Dimension: a.Dimension.Times(b.Dimension)}
			break
		}
		if b.SI == 0 {
			why = "this divides by zero"
			break
		}
		v = quantity.Value{SI: a.SI / b.SI, Dimension: a.Dimension.Over(b.Dimension)}
	case "^":
		v, why = power(a, b)
	case "and", "or":
		if a.Dimension != quantity.None || b.Dimension != quantity.None {
			why = n.op + " joins comparisons, not quantities"
			break
		}
		v = truth(a.SI != 0 && b.SI != 0 || n.op == "or" && (a.SI != 0 || b.SI != 0))
	default:
		if why = same(a, b, "compared with"); why == "" {
			v = truth(compare(n.op, a.SI, b.SI))
		}
	}
	if why != "" {
		return quantity.Value{}, fault(f.text, n.at, "%s", why)
	}
	return v, nil
}

func truth(b bool) quantity.Value {
	if b {
		return quantity.Number(1)
	}
	return quantity.Number(0)
}

func compare(op string, a, b float64) bool {
	switch op {
	case "<":
		return a < b
	case "<=":
		return a <= b
	case ">":
		return a > b
	case ">=":
		return a >= b
	case "==":
		return a == b
	}
	return a != b
}

// same says why two values cannot be joined, "" if they can.
func same(a, b quantity.Value, verb string) string {
	if a.Dimension == b.Dimension {
		return ""
	}
	return a.Dimension.Name() + " cannot be " + verb + " " + b.Dimension.Name()
}

func sum(a, b quantity.Value, op string) (quantity.Value, string) {
	verb := "added to"
	if op == "-" {
		verb = "reduced by"
	}
	if why := same(a, b, verb); why != "" {
		return a, why
	}
	v := quantity.Value{Dimension: a.Dimension}
	if op == "+" {
		if a.Affine && b.Affine {
			return v, "two temperatures on a scale cannot be added; write the difference in K"
		}
		v.SI = a.SI + b.SI
		v.Affine = a.Affine || b.Affine
		return v, ""
	}
	if b.Affine && !a.Affine {
		return v, "a temperature on a scale cannot be taken from a difference"
	}
	v.SI = a.SI - b.SI
	v.Affine = a.Affine && !b.Affine
	return v, ""
}

// power raises a quantity to a plain number. A quantity with a dimension takes
// only exponents that are multiples of one sixtieth.
func power(a, b quantity.Value) (quantity.Value, string) {
	if b.Dimension != quantity.None {
		return a, "an exponent must be a plain number, not " + b.Dimension.Name()
	}
	if a.Affine {
		return a, "a temperature on a scale cannot be raised to a power"
	}
	v := quantity.Value{SI: math.Pow(a.SI, b.SI)}
	if a.Dimension == quantity.None {
		return v, ""
	}
	num := math.Round(b.SI * 60)
	if math.Abs(b.SI*60-num) > 1e-9 || math.Abs(num) > 60*12 {
		return v, a.Dimension.Name() + " cannot be raised to this power"
	}
	d, err := a.Dimension.Power(int(num), 60)
	if err != nil {
		return v, err.Error()
	}
	v.Dimension = d
	return v, ""
}
