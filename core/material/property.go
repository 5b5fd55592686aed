package material

import (
	"fmt"
	"math"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
)

// Function is a property ready for evaluation.
type Function struct {
	*formula.Program // of what its definition says, mostly the temperature, K; in SI units
	// From and To are the ends of the range in which it holds, ±Inf where none is
	// stated.
	From, To float64
	// Derived says in words from what it follows, if it is not given.
	Derived string
}

// Has says whether a property has been given.
func (m Material) Has(k Key) bool { return strings.TrimSpace(m.Properties[k].Value) != "" }

// Gives says whether a property has been given, or follows from others.
func (m Material) Gives(k Key) bool { return m.Has(k) || m.derivation(k) != nil }

// samples is at how many places of its range a property is tried.
const samples = 33

// Function reads a property, or derives it from others. It fails if the material lacks it, if
// the text cannot be read with the parameters of the scope, which may be nil, and the state of the
// material, and if a value in its range is not what the property can be.
func (m Material) Function(k Key, scope formula.Scope) (Function, error) {
	d, ok := Define(k)
	if !ok {
		panic("material: unknown property " + string(k))
	}
	p := m.Properties[k]
	if !m.Has(k) {
		if r := m.derivation(k); r != nil {
			return m.derive(r, scope)
		}
		return Function{}, fmt.Errorf("%s has no %s", m.Name, d.Name)
	}
	fail := func(format string, args ...any) (Function, error) {
		return Function{}, fmt.Errorf("the %s of %s %s", d.Name, m.Name, fmt.Sprintf(format, args...))
	}
	f, err := formula.Parse(p.Value)
	if err != nil {
		return fail("cannot be read: %v", err)
	}
	if name := m.ambiguous(f, scope); name != "" {
		return fail("uses %s, which is a parameter and a state of the material: state the %s of %s, or give the parameter another name", name, name, m.Name)
	}
	inner, err := m.scope(scope)
	if err != nil {
		return fail("cannot be computed: %v", err)
	}
	var variables []formula.Variable
	if !d.Alone {
		variables = append(variables, d.Variable())
	}
	program, err := f.Compile(formula.Environment{Scope: inner, Variables: variables})
	if err != nil {
		return fail("cannot be computed: %v", err)
	}
	if want := quantity.MustUnit(d.Unit).Dimension; program.Dimension != want {
		return fail("is given as %s; write it in %s", program.Dimension.Name(), unitWords(d.Unit))
	}
	out := Function{Program: program, From: math.Inf(-1), To: math.Inf(1)}
	for _, end := range []struct {
		text string
		to   *float64
	}{{p.From, &out.From}, {p.To, &out.To}} {
		if *end.to, err = d.end(end.text, *end.to); err != nil {
			return fail("has a range that cannot be read: %v", err)
		}
	}
	if !(out.From < out.To) {
		return fail("has a range that ends before it begins")
	}
	defined := 0
	for _, x := range out.Ticks(d, samples) {
		v := program.At(x)
		if math.IsNaN(v) {
			continue // beyond a table that refuses
		}
		defined++
		if !(v > d.Least || d.Closed && v == d.Least) || v > d.Most || math.IsInf(v, 0) {
			where := ""
			if _, constant := program.Constant(); !constant {
				where = " at " + d.ArgumentWords(x)
			}
			return fail("%s; it is %s%s", d.boundWords(), quantity.Show(v, d.Unit, true, 4), where)
		}
	}
	if defined == 0 {
		return fail("is undefined from %s to %s", d.ArgumentWords(out.Ticks(d, 2)[0]), d.ArgumentWords(out.Ticks(d, 2)[1]))
	}
	return out, nil
}

func unitWords(unit string) string {
	if unit == "" {
		return "a plain number"
	}
	return unit
}

// end reads an end of a range.
func (d Definition) end(text string, none float64) (float64, error) {
	if strings.TrimSpace(text) == "" {
		return none, nil
	}
	v, err := worth(text)
	if err != nil {
		return 0, err
	}
	if want := d.Variable().Dimension; v.Dimension != want {
		return 0, fmt.Errorf("%q is %s, where %s is wanted", text, v.Dimension.Name(), want.Name())
	}
	return v.SI, nil
}

// worth is the value of a text that depends on nothing.
func worth(text string) (quantity.Value, error) {
	f, err := formula.Parse(text)
	if err != nil {
		return quantity.Value{}, err
	}
	return f.Eval(formula.Values{})
}

func (d Definition) boundWords() string {
	return fmt.Sprintf("must lie between %g and %s", quantity.MustUnit(d.Unit).From(d.Least, true), strings.TrimSpace(fmt.Sprintf("%g %s", quantity.MustUnit(d.Unit).From(d.Most, true), d.Unit)))
}

// Unusual says in words what known materials have, if the function has values beyond that
// in its range, "" otherwise.
func (f Function) Unusual(d Definition) string {
	for _, x := range f.Ticks(d, samples) {
		if v := f.At(x); v < d.UsualLeast || v > d.UsualMost {
			return fmt.Sprintf("is %s, where materials have %s … %s", quantity.Show(v, d.Unit, true, 3), quantity.Show(d.UsualLeast, d.Unit, true, 2), quantity.Show(d.UsualMost, d.Unit, true, 2))
		}
	}
	return ""
}

// ArgumentWords writes what the property is a function of: a temperature in °C, a field in A/m.
func (d Definition) ArgumentWords(x float64) string {
	if d.Over != nil {
		return strings.TrimSpace(fmt.Sprintf("%.4g %s", x, d.Across().Text))
	}
	return strings.Replace(fmt.Sprintf("%.4g °C", x-273.15), "-", "−", 1)
}

// Ticks returns n temperatures or fields over the range of the function.
func (f Function) Ticks(d Definition, n int) []float64 {
	from, to := f.From, f.To
	a, b := d.usual()
	if math.IsInf(from, -1) {
		from = min(a, to-1)
	}
	if math.IsInf(to, 1) {
		to = max(b, from+1)
	}
	x := make([]float64, n)
	for i := range x {
		x[i] = from + (to-from)*float64(i)/float64(n-1)
	}
	return x
}

// ReferenceTemperature is where a property that varies is quoted, K.
const ReferenceTemperature = 293.15

// Typical is the value at 20 °C, or where it is defined nearest to that; of a
// magnetisation curve the value at 1000 A/m, over frequency at 1 kHz, of a cell half full.
func (f Function) Typical(d Definition) (value, at float64) {
	at = ReferenceTemperature
	switch d.Over {
	case &Field, &Frequency:
		at = 1000
	case &Charge:
		at = 0.5
	}
	at = min(max(at, f.From), f.To)
	if value = f.At(at); !math.IsNaN(value) {
		return value, at
	}
	for _, at = range f.Ticks(d, samples) {
		if value = f.At(at); !math.IsNaN(value) {
			break
		}
	}
	return value, at
}
