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

// angleDimension is that of phases.
var angleDimension = quantity.MustUnit("rad").Dimension

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
// catalog with the parts of those that swing, which are the inputs in their order.
func (r *Resolved) PlateProgram(text string, cat *Catalog) (*formula.Program, error) {
	f, err := formula.Parse(text)
	if err != nil {
		return nil, err
	}
	return f.Compile(formula.Environment{Scope: r.Parameters, Definitions: r.definitions(), Variables: r.typed(cat.plateVariables()), Names: r.names()})
}

// unitsOf are the units in which fields of a dimension are shown, without that of its symbol.
func (c *Catalog) unitsOf(d quantity.Dimension) (list []string) {
	for _, f := range c.Fields {
		for _, text := range f.Units {
			if u, err := quantity.ParseUnit(text); err == nil && u.Dimension == d && u.Offset == 0 && text != d.Symbol() && !slices.Contains(list, text) {
				list = append(list, text)
			}
		}
	}
	return list
}

// plateVariables are what formulas of plates may use: the quantities, and the parts of those that swing,
// which are differences.
func (c *Catalog) plateVariables() []formula.Variable {
	list := slices.Clone(c.Quantities)
	for _, v := range c.Quantities {
		own := func(w formula.Variable) bool { return w.Name == v.Name }
		if own(formula.Time) || own(formula.Swing) || slices.ContainsFunc(formula.Coordinates, own) {
			continue
		}
		for _, part := range swingParts {
			list = append(list, formula.Variable{Name: v.Name + part, Dimension: v.Dimension})
		}
	}
	return list
}

// swingParts end the names of the parts of what swings.
var swingParts = [2]string{"_real", "_imaginary"}

// Swinging is the quantity of which a plate shows how it swings, as its formula is the real part of that and
// nothing else; "" for another plate.
func (c *Catalog) Swinging(p *Plate) string {
	text, own := OwnFormula(p.Field)
	name, real := strings.CutSuffix(strings.TrimSpace(text), swingParts[0])
	if !own || !real || !slices.ContainsFunc(c.Quantities, func(v formula.Variable) bool { return v.Name == name }) {
		return ""
	}
	return name
}

// AddSwing adds a plate of how a quantity swings, or of its phase, and returns its id.
func (d *Document) AddSwing(cat *Catalog, quantity string, phase bool) (string, error) {
	if !slices.ContainsFunc(cat.Quantities, func(v formula.Variable) bool { return v.Name == quantity }) {
		return "", fmt.Errorf("a plate cannot show %q", quantity)
	}
	words := strings.ReplaceAll(quantity, "_", " ")
	p := Plate{Name: words + ", swinging", Field: ofFormula + quantity + swingParts[0], Map: AboutZero}
	if phase {
		p = Plate{Name: "phase of " + words, Field: fmt.Sprintf("%satan2(%s, %s)", ofFormula, quantity+swingParts[1], quantity+swingParts[0]), Map: Round, Unit: "°", Low: "-180°", High: "180°"}
	}
	if len(d.Plates) == 0 {
		d.Plates = New("").Plates
	}
	base := strings.TrimSuffix(strings.TrimSuffix(strings.TrimSuffix(quantity, "_x"), "_y"), "_z")
	if f, ok := cat.Field(base); ok && !phase && !f.Temperature {
		p.Unit = f.Units[0]
	}
	p.ID, p.Name = d.freeID("plate"), plateName(&sentence.Field{Label: p.Name})
	d.Plates = append(d.Plates, p)
	return p.ID, nil
}

// Shows is the field of a plate, the first one of all if it names none that is known, and the unit of its
// colour bar: the usual one of the field if it has none that fits. A formula is a field of its own.
func (r *Resolved) Shows(p *Plate, cat *Catalog) (sentence.Field, quantity.Unit) {
	cat = cat.For(r.Document)
	f, ok := cat.Field(p.Field)
	if text, own := OwnFormula(p.Field); own {
		if program, err := r.PlateProgram(text, cat); err == nil {
			f, ok = sentence.Field{Name: p.Field, Label: text, Symbol: "f", Units: []string{program.Dimension.Symbol()}, Temperature: program.Affine, Derived: true}, true
			if program.Affine {
				f.Units = []string{"°C", "K"}
			} else {
				f.Units = append(f.Units, cat.unitsOf(program.Dimension)...)
			}
			if program.Dimension == angleDimension {
				f.Units = append(f.Units, "°")
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
	variables := cat.plateVariables()
	in := make([][]float64, len(variables))
	for i, v := range variables {
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
