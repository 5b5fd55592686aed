package model

import (
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
)

// Definition is a parameter that is a formula of the place, of the time or of what is solved for: it stands for that formula where the quantities
// are known, and has no value of its own.
type Definition struct {
	Formula     *formula.Formula
	Dimension   quantity.Dimension
	Temperature bool // on the scale
}

// definitions are the formulas that names stand for.
func (r *Resolved) definitions() map[string]*formula.Formula {
	if len(r.Definitions) == 0 {
		return nil
	}
	out := make(map[string]*formula.Formula, len(r.Definitions))
	for name, d := range r.Definitions {
		out[name] = d.Formula
	}
	return out
}

// differs says that a name is a quantity, or stands for a formula of some.
func (r *resolver) differs(name string) bool {
	if _, is := r.out.Definitions[name]; is {
		return true
	}
	for quantity, given := range r.out.named {
		if given == name || quantity == name {
			return given == name
		}
	}
	return slices.ContainsFunc(r.quantities(), func(v formula.Variable) bool { return v.Name == name })
}

// quantities are all that a definition may be a formula of.
func (r *resolver) quantities() []formula.Variable {
	list := slices.Clone(r.cat.Quantities)
	for _, v := range append(append(slices.Clone(formula.Coordinates), formula.Time, formula.Swing, formula.Frequency), r.cat.Variables...) {
		if !slices.ContainsFunc(list, func(o formula.Variable) bool { return o.Name == v.Name }) {
			list = append(list, v)
		}
	}
	return list
}

// define checks a parameter that is a formula of quantities.
func (r *resolver) define(name, place string, f *formula.Formula) {
	env := r.environment()
	env.Variables = r.out.typed(r.quantities())
	p, err := f.Compile(env)
	if err != nil {
		r.find(Wrong, place, "", "the parameter %s, %q, cannot be computed: %v", name, f, err)
		return
	}
	i := slices.IndexFunc(r.doc.Parameters, func(q Parameter) bool { return q.Name == name })
	q := &r.doc.Parameters[i]
	r.unit(q, p.Dimension)
	if at := "parameters/" + name; strings.TrimSpace(q.Least+q.Most) != "" {
		r.find(Wrong, at+"/value", "remove its bounds", "the parameter %s differs from place to place, or in time, and has no one value that could be within bounds", name)
	}
	if r.out.Definitions == nil {
		r.out.Definitions = map[string]Definition{}
	}
	r.out.Definitions[name] = Definition{Formula: f, Dimension: p.Dimension, Temperature: p.Affine}
}
