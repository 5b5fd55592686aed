package model

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
)

// ofFormula begins the field of a plate that shows a formula of its own.
const ofFormula = "="

// OwnFormula is the formula of a field of a plate; ok is false if it names a field.
func OwnFormula(field string) (text string, ok bool) { return strings.CutPrefix(field, ofFormula) }

// FieldCalled finds a field by its name, by what people call it, or by words of these that no other
// field has; other texts are formulas.
func (c *Catalog) FieldCalled(text string) string {
	text = strings.TrimSpace(text)
	words := strings.Fields(strings.ToLower(text))
	called := func(f *sentence.Field) []string {
		return append([]string{f.Name, strings.ReplaceAll(f.Name, "_", " "), f.Words(), f.Symbol}, f.Also...)
	}
	var found []string
	for i := range c.Fields {
		f := &c.Fields[i]
		for _, name := range called(f) {
			if strings.EqualFold(name, text) {
				return f.Name
			}
		}
		all := strings.ToLower(strings.Join(called(f), " "))
		if len(words) > 0 && !slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(all, w) }) {
			found = append(found, f.Name)
		}
	}
	if len(found) == 1 {
		return found[0]
	}
	if text == "" || strings.HasPrefix(text, ofFormula) {
		return text
	}
	return ofFormula + text
}

// PlateProgram compiles a formula of a plate: of parameters, of the place and of the quantities of the
// catalog, which are the inputs in their order.
func (r *Resolved) PlateProgram(text string, cat *Catalog) (*formula.Program, error) {
	f, err := formula.Parse(text)
	if err != nil {
		return nil, err
	}
	return f.Compile(formula.Environment{Scope: r.Parameters, Variables: cat.Quantities, Names: coordinates[r.Document.Space.Kind]})
}

// Shows is the field of a plate, the first one of all if it names none that is known, and the unit of its
// colour bar: the usual one of the field if it has none that fits. A formula is a field of its own.
func (r *Resolved) Shows(p *Plate, cat *Catalog) (sentence.Field, quantity.Unit) {
	f, ok := cat.Field(p.Field)
	if text, own := OwnFormula(p.Field); own {
		if program, err := r.PlateProgram(text, cat); err == nil {
			f, ok = sentence.Field{Name: p.Field, Label: text, Symbol: "f", Units: []string{program.Dimension.Symbol()}, Temperature: program.Affine, Derived: true}, true
			if program.Affine {
				f.Units = []string{"°C", "K"}
			}
		}
	}
	if !ok {
		f = cat.Fields[0]
	}
	usual := quantity.MustUnit(f.Units[0])
	if u, err := quantity.ParseUnit(p.Unit); err == nil && p.Unit != "" && u.Dimension == usual.Dimension {
		return f, u
	}
	return f, usual
}

// shows says what is wrong with the field of a plate.
func (r *resolver) shows(place string, p *Plate) (sentence.Field, quantity.Unit) {
	f, unit := r.out.Shows(p, r.cat)
	if p.Field == f.Name {
		return f, unit
	}
	if text, own := OwnFormula(p.Field); own {
		_, err := r.out.PlateProgram(text, r.cat)
		r.find(Doubtful, place, "write for example heat_flux_z, or temperature - 20 °C", "a plate cannot show %q: %v", text, err)
		return f, unit
	}
	var names []string
	for _, f := range r.cat.Fields {
		names = append(names, f.Name)
	}
	r.find(Doubtful, place, "choose one of "+strings.Join(names, ", "), "a plate cannot show %q", p.Field)
	return f, unit
}

// PlateValues evaluates a formula of a plate at places, three coordinates each, m, from the quantities
// there, which are asked for by their names.
func (r *Resolved) PlateValues(text string, cat *Catalog, places []float64, of func(quantity string) ([]float64, error)) ([]float64, error) {
	p, err := r.PlateProgram(text, cat)
	if err != nil {
		return nil, err
	}
	in := make([][]float64, len(cat.Quantities))
	for i, v := range cat.Quantities {
		if !p.Uses(i) {
			continue
		}
		if v.Name == formula.Time.Name || v.Name == formula.Swing.Name {
			return nil, fmt.Errorf("a plate cannot depend on %s", v.Name)
		}
		if k := slices.IndexFunc(formula.Coordinates, func(c formula.Variable) bool { return c.Name == v.Name }); k >= 0 {
			in[i] = coordinate(k, places)
		} else if in[i], err = of(v.Name); err != nil {
			return nil, err
		}
	}
	out := make([]float64, len(places)/3)
	p.NewWork().Run(in, out)
	return out, nil
}

// coordinate is x, y, z, the distance from the z axis or the angle about it, of places.
func coordinate(k int, places []float64) []float64 {
	out := make([]float64, len(places)/3)
	for i := range out {
		x := places[3*i : 3*i+3]
		switch k {
		case 3:
			out[i] = math.Hypot(x[0], x[1])
		case 4:
			out[i] = math.Atan2(x[1], x[0])
		default:
			out[i] = x[k]
		}
	}
	return out
}
