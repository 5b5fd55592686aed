package formula

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/quantity"
)

// Scope looks names up.
type Scope interface {
	// Value returns the value of a parameter, and whether there is one.
	Value(name string) (quantity.Value, bool)
}

// Values is a scope held in a map.
type Values map[string]quantity.Value

// Value returns the value of a parameter.
func (v Values) Value(name string) (quantity.Value, bool) {
	x, ok := v[name]
	return x, ok
}

// constants that every formula knows.
var constants = map[string]quantity.Value{"pi": quantity.Number(math.Pi)}

// Coordinates are the variables for the place, in the order x, y, z, then the
// distance from the z axis and the angle about it from the x axis.
var Coordinates = []Variable{
	{Name: "x", Dimension: length}, {Name: "y", Dimension: length}, {Name: "z", Dimension: length},
	{Name: "r", Dimension: length}, {Name: "theta", Dimension: angle.dim},
}

// overFrequency is what reductions over that are written with: parameters may have this name.
const overFrequency = "frequency"

// Frequency is what the amplitudes of a response are over, Hz.
var Frequency = Variable{Name: "swing_frequency", Dimension: quantity.MustUnit("Hz").Dimension}

// Time is the variable for the moment.
var Time = Variable{Name: "time", Dimension: quantity.MustUnit("s").Dimension}

// Swing is the variable for how far what swings is out of its middle: its amplitude is what a
// value has at 1 more than at 0.
var Swing = Variable{Name: "swing"}

// fields are the names of what is solved for and of what follows from it; no
// parameter may have them.
var fields = []string{"field"}

// AddFields adds names of fields. It is to be called before formulas are read.
func AddFields(names ...string) { fields = append(fields, names...) }

var length = quantity.MustUnit("m").Dimension

// reductions by name, with the words for what they do.
var reductions = map[string]string{
	"greatest": "the greatest value",
	"least":    "the least value",
	"mean":     "the mean by volume, area or length",
	"total":    "the integral over the volume, area or length",
	"at":       "the value at a point",
}

// timeReductions are those that there are over time alone.
var timeReductions = map[string]string{
	"crossing":  "the first moment at which a value is reached",
	"amplitude": "the amplitude of the first harmonic in the last period",
	"phase":     "by how much that is ahead of sin(2π·time/period)",
}

func init() {
	for name, does := range timeReductions {
		reductions[name] = does
	}
}

// IsReserved says whether a name has a meaning of its own in formulas.
func IsReserved(name string) bool {
	_, constant := constants[name]
	_, function := functions[name]
	variable := func(v Variable) bool { return v.Name == name }
	return constant || function || precedence[name] > 0 || reductions[name] != "" || name == "table" || name == "curve" ||
		slices.Contains(words, name) || slices.Contains(fields, name) || name == Time.Name || name == Swing.Name || slices.ContainsFunc(Coordinates, variable)
}

// Environment says what a formula may use.
type Environment struct {
	// Scope has the parameters; it may be nil.
	Scope Scope
	// Definitions are formulas that names stand for, of variables, parameters and each other; none may need itself.
	Definitions map[string]*Formula
	// Variables are the inputs of the program.
	Variables []Variable
	// Points are the variables inside reductions; with none there are no
	// reductions.
	Points []Variable
	// Moments are the variables of what is followed over time, or over frequency if Axis is [Frequency]; with none there are no
	// reductions over it.
	Moments []Variable
	Axis    Variable
	// Names says what some of the names of variables mean here.
	Names map[string]Meaning
	// Elsewhere says of a name that is known in other places why it is not here,
	// "" for names that are not known at all. It may be nil.
	Elsewhere func(name string) string
}

// Eval computes the formula with the parameters of a scope.
func (f *Formula) Eval(scope Scope) (quantity.Value, error) {
	p, err := f.Compile(Environment{Scope: scope})
	if err != nil {
		return quantity.Value{}, err
	}
	v := quantity.Value{SI: p.value, Dimension: p.Dimension, Affine: p.Affine}
	switch n := f.root.(type) {
	case literal:
		v.Unit = n.value.Unit
	case negation:
		if l, ok := n.operand.(literal); ok {
			v.Unit = l.value.Unit
		}
	case reference:
		if x, ok := scope.Value(n.name); ok {
			v.Unit = x.Unit
		}
	}
	return v, nil
}

// Compile checks the dimensions of a formula and makes a program of it. Whatever
// does not depend on a variable is computed at once.
func (f *Formula) Compile(env Environment) (*Program, error) {
	b := &builder{f: f, env: env, folded: map[float64]int32{}, p: &Program{text: f.text}}
	count := 0
	visit(f.root, func(n node) {
		if _, ok := n.(reduction); ok {
			count++
		}
	})
	b.p.inputs = len(env.Variables) + count
	b.p.registers = b.p.inputs
	b.p.uses = make([]bool, b.p.inputs)
	root, err := b.build(f.root)
	if err != nil {
		return nil, err
	}
	b.p.Dimension, b.p.Affine = root.dim, root.sort != plain
	if root.constant {
		if !finite(root.value) {
			return nil, &Error{Text: f.text, What: "the result is not a finite number"}
		}
		b.p.value, b.p.inputs = root.value, 0
		b.p.code, b.p.constants, b.p.uses, b.p.registers = nil, nil, nil, 0
		return b.p, nil
	}
	b.p.result = root.register
	return b.p, nil
}

// operand is a value in a program: known already, or in a register.
type operand struct {
	kindOf
	constant bool
	value    float64
	register int32
	from     node
}

func known(k kindOf, x float64) operand { return operand{kindOf: k, constant: true, value: x} }

type builder struct {
	f      *Formula
	env    Environment
	p      *Program
	folded map[float64]int32  // registers of constants
	stood  map[string]operand // what definitions came to
}

// text is the source of an operand, for messages.
func (b *builder) text(o operand) string {
	if o.from == nil {
		return "the value"
	}
	from, to := o.from.span()
	text := []rune(b.f.text[from:to])
	if len(text) > 40 {
		text = append(text[:39], '…')
	}
	return fmt.Sprintf("%q", string(text))
}

// build returns the operand for a node.
func (b *builder) build(n node) (operand, error) {
	var o operand
	var why string
	var err error
	at, _ := n.span()
	switch n := n.(type) {
	case literal:
		o = known(kindOfValue(n.value), n.value.SI)
	case group:
		o, err = b.build(n.inner)
	case reference:
		at = n.at
		o, why = b.name(n.name)
	case negation:
		o, why, err = b.negation(n)
	case binary:
		at = n.at
		var left, right operand
		if left, err = b.build(n.left); err == nil {
			var unit bool
			if right, unit = b.perUnit(n); !unit {
				right, err = b.build(n.right)
			}
			if err == nil {
				o, why = b.binary(n.op, left, right)
			}
		}
	case call:
		args := make([]operand, len(n.args))
		for i, a := range n.args {
			if args[i], err = b.build(a); err != nil {
				return o, err
			}
		}
		if o, why = functions[n.name].build(b, args); why != "" {
			why = n.name + ": " + why
		}
	case tableNode:
		o, err = b.table(n)
	case reduction:
		o, err = b.reduction(n)
	default:
		panic("formula: unknown node")
	}
	if err != nil {
		return o, err
	}
	if why != "" {
		return o, fault(b.f.text, at, "%s", why)
	}
	o.from = n
	return o, nil
}

// Meaning is what a name means: another variable or, if there is none, why it means nothing.
type Meaning struct{ Is, Why string }

// name is the operand for a variable, a parameter or a constant.
func (b *builder) name(name string) (operand, string) {
	if m, ok := b.env.Names[name]; ok {
		if m.Is == "" {
			return operand{}, m.Why
		}
		name = m.Is
	}
	for i, v := range b.env.Variables {
		if v.Name == name {
			b.p.uses[i] = true
			k := kindOf{dim: v.Dimension}
			if v.Temperature {
				k.sort = absolute
			}
			return operand{kindOf: k, register: int32(i)}, ""
		}
	}
	if d, ok := b.env.Definitions[name]; ok {
		return b.defined(name, d)
	}
	if b.env.Scope != nil {
		if v, ok := b.env.Scope.Value(name); ok {
			return known(kindOfValue(v), v.SI), ""
		}
	}
	if v, ok := constants[name]; ok {
		return known(kindOfValue(v), v.SI), ""
	}
	if b.env.Elsewhere != nil {
		if why := b.env.Elsewhere(name); why != "" {
			return operand{}, why
		}
	}
	if slices.ContainsFunc(Coordinates, func(v Variable) bool { return v.Name == name }) || name == Time.Name || slices.Contains(fields, name) {
		return operand{}, fmt.Sprintf("%q cannot be used here: this value does not differ from place to place or from moment to moment", name)
	}
	hint := ""
	if quantity.IsUnit(name) {
		hint = "; a unit must follow a number"
	}
	if near := b.near(name); len(near) > 0 {
		hint += "; did you mean " + strings.Join(near, " or ") + "?"
	}
	return operand{}, fmt.Sprintf("there is no parameter %q%s", name, hint)
}

// defined is the operand for a formula that a name stands for, which is computed once.
func (b *builder) defined(name string, d *Formula) (operand, string) {
	if o, known := b.stood[name]; known {
		return o, ""
	}
	outer := b.f
	b.f = d
	o, err := b.build(d.root)
	b.f = outer
	if err != nil {
		why := err.Error()
		if fault := (*Error)(nil); errors.As(err, &fault) {
			why = fault.What
		}
		return o, fmt.Sprintf("%s is %q: %s", name, d.text, why)
	}
	if b.stood == nil {
		b.stood = map[string]operand{}
	}
	b.stood[name] = o
	return o, ""
}

// negation reads "-5 °C" as minus five degrees, not as the negated temperature.
func (b *builder) negation(n negation) (operand, string, error) {
	if l, ok := n.operand.(literal); ok && l.value.Affine {
		u, err := quantity.ParseUnit(l.value.Unit)
		if err != nil {
			return operand{}, err.Error(), nil
		}
		return known(kindOfValue(l.value), u.SI(-u.From(l.value.SI, false))), "", nil
	}
	o, err := b.build(n.operand)
	if err != nil {
		return o, "", err
	}
	if o.sort == scale {
		return o, fmt.Sprintf(notOnScale, "negated"), nil
	}
	return b.emit(kindOf{dim: o.dim}, instruction{op: opNeg}, o), "", nil
}

// perUnit reads "0.002/K" and "3/K^2" as per kelvin, unless K is a name in this
// model.
func (b *builder) perUnit(n binary) (operand, bool) {
	left := n.left
	if minus, negated := left.(negation); negated {
		left = minus.operand
	}
	if _, number := left.(literal); !number || n.op != "/" {
		return operand{}, false
	}
	exponent := 1.0
	right := n.right
	if p, ok := right.(binary); ok && p.op == "^" {
		l, ok := p.right.(literal)
		if !ok || l.value.Dimension != quantity.None {
			return operand{}, false
		}
		exponent, right = l.value.SI, p.left
	}
	r, ok := right.(reference)
	if !ok || slices.ContainsFunc(b.env.Variables, func(v Variable) bool { return v.Name == r.name }) {
		return operand{}, false
	}
	if b.env.Scope != nil {
		if _, taken := b.env.Scope.Value(r.name); taken {
			return operand{}, false
		}
	}
	if _, taken := b.env.Definitions[r.name]; taken {
		return operand{}, false
	}
	u, err := quantity.ParseUnit(r.name)
	if err != nil || u.Affine() {
		return operand{}, false
	}
	o, why := b.power(known(kindOf{dim: u.Dimension}, u.SI(1)), known(pure, exponent))
	o.from = n.right
	return o, why == ""
}

func (b *builder) binary(op string, x, y operand) (operand, string) {
	switch op {
	case "+", "-":
		verb, code := "added to", opAdd
		first, second := y, x
		if op == "-" {
			verb, code = "taken from", opSub
		}
		if x.dim != y.dim {
			return x, b.mismatch(first, second, verb)
		}
		k, why := sumKind(x.kindOf, y.kindOf, op)
		if why != "" {
			return x, why
		}
		return b.emit(k, instruction{op: code}, x, y), ""
	case "*", "/":
		if x.sort == scale || y.sort == scale {
			return x, fmt.Sprintf(notOnScale, "multiplied or divided")
		}
		k, in := kindOf{dim: x.dim.Times(y.dim)}, instruction{op: opMul}
		if op == "/" {
			k, in = kindOf{dim: x.dim.Over(y.dim)}, instruction{op: opDiv}
		}
		if !k.dim.Fits() {
			return x, noQuantity
		}
		if op == "/" && y.constant && y.value == 0 {
			return x, "this divides by zero"
		}
		return b.emit(k, in, x, y), ""
	case "^":
		return b.power(x, y)
	case "and", "or":
		if x.dim != quantity.None || y.dim != quantity.None {
			return x, op + " joins comparisons, not quantities"
		}
		code := opAnd
		if op == "or" {
			code = opOr
		}
		return b.emit(pure, instruction{op: code}, x, y), ""
	}
	if x.dim != y.dim {
		return x, b.mismatch(x, y, "compared with")
	}
	switch op {
	case "<":
		return b.emit(pure, instruction{op: opLess}, x, y), ""
	case "<=":
		return b.emit(pure, instruction{op: opLessEqual}, x, y), ""
	case ">":
		return b.emit(pure, instruction{op: opLess}, y, x), ""
	case ">=":
		return b.emit(pure, instruction{op: opLessEqual}, y, x), ""
	case "==":
		return b.emit(pure, instruction{op: opEqual}, x, y), ""
	}
	return b.emit(pure, instruction{op: opNotEqual}, x, y), ""
}

// mismatch says that two terms have different dimensions.
func (b *builder) mismatch(x, y operand, verb string) string {
	return fmt.Sprintf("%s is %s and cannot be %s %s, which is %s", b.text(x), x.dim.Name(), verb, b.text(y), y.dim.Name())
}

func (b *builder) power(x, y operand) (operand, string) {
	switch {
	case y.dim != quantity.None:
		return x, "an exponent must be a plain number, not " + y.dim.Name()
	case x.sort == scale:
		return x, fmt.Sprintf(notOnScale, "raised to a power")
	case !y.constant && x.dim != quantity.None:
		return x, fmt.Sprintf("%s is %s: its exponent must be the same everywhere", b.text(x), x.dim.Name())
	}
	k, why := powerKind(x.kindOf, y.value)
	if why != "" {
		return x, why
	}
	if y.constant && y.value == 2 {
		return b.emit(k, instruction{op: opMul}, x, x), ""
	}
	return b.emit(k, instruction{op: opPow}, x, y), ""
}

// noQuantity refuses dimensions that no quantity has, before they wrap round.
const noQuantity = "the result has a unit with an exponent beyond 12, which no quantity has"

// emit adds an instruction, or computes it if its operands are known.
func (b *builder) emit(k kindOf, in instruction, args ...operand) operand {
	all := true
	for _, a := range args {
		all = all && a.constant
	}
	in.b, in.c = -1, -1
	if all {
		var col [3][]float64
		for i, a := range args {
			col[i] = []float64{a.value}
		}
		out := []float64{0}
		in.values(out, col[0], col[1], col[2])
		return known(k, out[0])
	}
	for i, to := range []*int32{&in.a, &in.b, &in.c}[:len(args)] {
		*to = b.register(args[i])
	}
	in.out = int32(b.p.registers)
	b.p.registers++
	b.p.code = append(b.p.code, in)
	return operand{kindOf: k, register: in.out}
}

// register returns where an operand is, after putting a constant into one.
func (b *builder) register(o operand) int32 {
	if !o.constant {
		return o.register
	}
	if r, ok := b.folded[o.value]; ok {
		return r
	}
	r := int32(b.p.registers)
	b.p.registers++
	b.p.constants = append(b.p.constants, constant{r, o.value})
	b.folded[o.value] = r
	return r
}

// table builds a table whose rows are known.
func (b *builder) table(n tableNode) (operand, error) {
	arg, err := b.build(n.argument)
	if err != nil {
		return arg, err
	}
	k := kindOf{}
	column := func(list []node, like kindOf, what string) ([]float64, error) {
		out := make([]float64, len(list))
		for i, m := range list {
			o, err := b.build(m)
			if err != nil {
				return nil, err
			}
			at, _ := m.span()
			if !o.constant {
				return nil, fault(b.f.text, at, "the rows of a table must be the same everywhere; %s is not", b.text(o))
			}
			if what == "value" && i == 0 {
				like = o.kindOf
			}
			if o.dim != like.dim {
				return nil, fault(b.f.text, at, "the %s %s in row %d is %s, where %s is wanted", what, b.text(o), i+1, o.dim.Name(), like.dim.Name())
			}
			if what == "value" {
				k = o.kindOf
			}
			out[i] = o.value
		}
		return out, nil
	}
	x, err := column(n.keys, arg.kindOf, "argument")
	if err != nil {
		return arg, err
	}
	y, err := column(n.values, kindOf{}, "value")
	if err != nil {
		return arg, err
	}
	t, err := NewTable(x, y, n.smooth, n.beyond)
	if err != nil {
		return arg, fault(b.f.text, n.at, "%v", err)
	}
	return b.emit(k, instruction{op: opTable, table: t}, arg), nil
}
