package material

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
)

// StateVariable is what properties may depend on beside what they are a function of. A material
// states its value, which may be a formula of parameters.
type StateVariable struct {
	formula.Variable
	Label       string
	Unit        string
	Usual       string // where the material does not state it; "" where it must
	Least, Most float64
	// Range over which a family of curves is drawn.
	From, To float64
}

// States lists them.
var States = []StateVariable{
	{Pressure, "pressure", "kPa", "101325 Pa", 1, 1e9, 5e4, 5e5},
	{Fraction, "mass fraction of what is dissolved", "%", "", 0, 1, 0.05, 0.25},
	{Humidity, "relative humidity", "%", "", 0, 1, 0, 1},
}

func stateOf(name string) (StateVariable, bool) {
	i := slices.IndexFunc(States, func(s StateVariable) bool { return s.Name == name })
	if i < 0 {
		return StateVariable{}, false
	}
	return States[i], true
}

// stated is a scope with the state of a material over another one.
type stated struct {
	own   formula.Values
	outer formula.Scope
}

// Value returns the value of a name.
func (s *stated) Value(name string) (quantity.Value, bool) {
	if v, ok := s.own[name]; ok {
		return v, true
	}
	if s.outer == nil {
		return quantity.Value{}, false
	}
	return s.outer.Value(name)
}

// scope has what the formulas of the material may use: its state, which is the usual one where it
// states none, then parameters.
func (m Material) scope(outer formula.Scope) (formula.Scope, error) {
	if outer == nil {
		outer = formula.Values{}
	}
	own := formula.Values{}
	for _, s := range States {
		text, given := m.State[s.Name]
		if !given {
			if s.Usual == "" {
				continue
			}
			text = s.Usual
		}
		f, err := formula.Parse(text)
		if err != nil {
			return nil, fmt.Errorf("the %s of %s cannot be read: %v", s.Label, m.Name, err)
		}
		v, err := f.Eval(outer)
		if err != nil {
			return nil, fmt.Errorf("the %s of %s cannot be computed: %v", s.Label, m.Name, err)
		}
		if v.Dimension != s.Dimension || !(v.SI >= s.Least && v.SI <= s.Most) {
			return nil, fmt.Errorf("the %s of %s must lie between %s and %s, and is %q", s.Label, m.Name, quantity.Show(s.Least, s.Unit, true, 3), quantity.Show(s.Most, s.Unit, true, 3), text)
		}
		own[s.Name] = v
	}
	return &stated{own, outer}, nil
}

// ambiguous is a state that a formula uses although the material does not state it and a parameter has
// its name, "" if there is none: which of them is meant nobody can know.
func (m Material) ambiguous(f *formula.Formula, outer formula.Scope) string {
	for _, s := range States {
		if _, given := m.State[s.Name]; given || s.Usual == "" || outer == nil || !slices.Contains(f.Names(), s.Name) {
			continue
		}
		if _, taken := outer.Value(s.Name); taken {
			return s.Name
		}
	}
	return ""
}

// With returns the material in another state.
func (m Material) With(name, value string) Material {
	out := m
	out.State = maps.Clone(m.State)
	if out.State == nil {
		out.State = map[string]string{}
	}
	out.State[name] = value
	return out
}

// DependsOn lists the states, of those that the material gives or that are usual, on which a
// property depends.
func (m Material) DependsOn(k Key) (list []StateVariable) {
	for _, s := range States {
		if _, given := m.State[s.Name]; !given && s.Usual == "" {
			continue
		}
		if strings.Contains(m.Properties[k].Value, s.Name) || !m.Has(k) && m.derivedUses(k, s.Name) {
			list = append(list, s)
		}
	}
	return list
}

// stateText writes a state into one cell of a table, and parseState reads it.
func stateText(state map[string]string) string {
	var list []string
	for _, name := range slices.Sorted(maps.Keys(state)) {
		list = append(list, name+" = "+state[name])
	}
	return strings.Join(list, "; ")
}

func parseState(text string) (map[string]string, error) {
	if strings.TrimSpace(text) == "" {
		return nil, nil
	}
	out := map[string]string{}
	for item := range strings.SplitSeq(text, ";") {
		name, value, ok := strings.Cut(item, "=")
		if !ok {
			return nil, fmt.Errorf("%q is no state, such as mass_fraction = 20 %%", item)
		}
		out[strings.TrimSpace(name)] = strings.TrimSpace(value)
	}
	return out, nil
}

// check says what is wrong with the state, the finishes and what is said of values.
func (m Material) check() error {
	for name := range m.State {
		if _, ok := stateOf(name); !ok {
			return fmt.Errorf("%s is in a state of %q, which is not known; known are pressure, mass_fraction and humidity", m.Name, name)
		}
	}
	if _, err := m.scope(nil); err != nil {
		return err
	}
	for k, p := range m.Properties {
		if p.Basis != "" && !slices.Contains([]string{Quoted, Derived, Assumed}, p.Basis) {
			return fmt.Errorf("the %s of %s is said to be %q; it can be %s, %s or %s", k, m.Name, p.Basis, Quoted, Derived, Assumed)
		}
		if _, err := p.Off(); err != nil {
			return fmt.Errorf("the spread of the %s of %s %w", k, m.Name, err)
		}
	}
	for _, f := range m.Finishes {
		if e, err := plainNumber(f.Emissivity, quantity.None); f.Name == "" || err != nil || !(e > 0 && e <= 1) {
			return fmt.Errorf("the finish %q of %s needs a name and an emissivity between 0 and 1", f.Name, m.Name)
		}
		if f.Roughness == "" {
			continue
		}
		if k, err := plainNumber(f.Roughness, quantity.MustUnit("m").Dimension); err != nil || !(k >= 0) {
			return fmt.Errorf("the finish %q of %s has a roughness of %q, which is no length", f.Name, m.Name, f.Roughness)
		}
	}
	return nil
}

// Off is how far a value may be off, as a part of it; 0 if nothing is said of that.
func (p Property) Off() (float64, error) {
	if p.Spread == "" {
		return 0, nil
	}
	v, err := plainNumber(p.Spread, quantity.None)
	if err == nil && !(v > 0 && v <= 10) {
		err = fmt.Errorf("is %q, and not a part such as 3 %%", p.Spread)
	}
	return v, err
}

// Finished is the material with a finish of its surfaces: with the emissivity, and the roughness if
// it has one, of that.
func (m Material) Finished(name string) (Material, error) {
	var names []string
	for _, f := range m.Finishes {
		if !strings.EqualFold(f.Name, name) {
			names = append(names, f.Name)
			continue
		}
		out := m
		out.Finish = f.Name
		out.Properties = maps.Clone(m.Properties)
		out.Properties[Emissivity] = Property{Value: f.Emissivity, At: f.Name, Source: f.Source, Basis: Assumed, Spread: "30 %"}
		if f.Roughness != "" {
			out.Properties[Roughness] = Property{Value: f.Roughness, At: f.Name, Source: f.Source, Basis: Assumed, Spread: "50 %"}
		}
		return out, nil
	}
	if len(names) == 0 {
		return m, fmt.Errorf("no finishes of %s are known", m.Name)
	}
	return m, fmt.Errorf("the finishes of %s are %s", m.Name, strings.Join(names, ", "))
}

// plainNumber reads one number of a dimension.
func plainNumber(text string, want quantity.Dimension) (float64, error) {
	v, err := worth(text)
	if err == nil && v.Dimension != want {
		err = fmt.Errorf("is %s, where %s is wanted", v.Dimension.Name(), want.Name())
	}
	return v.SI, err
}
