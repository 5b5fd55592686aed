package model

import (
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
)

// ShownAs is the field of a plate, the first one of all if it names none that is known, and the unit
// of its colour bar: the usual one of the field if it has none that fits.
func (p *Plate) ShownAs(cat *Catalog) (sentence.Field, quantity.Unit) {
	f, ok := cat.Field(p.Field)
	if !ok {
		f = cat.Fields[0]
	}
	usual := quantity.MustUnit(f.Units[0])
	if u, err := quantity.ParseUnit(p.Unit); err == nil && p.Unit != "" && u.Dimension == usual.Dimension {
		return f, u
	}
	return f, usual
}

func (r *resolver) plates() {
	for i := range r.doc.Plates {
		p := &r.doc.Plates[i]
		place := "plates/" + p.ID
		shows, unit := p.ShownAs(r.cat)
		if p.Field != shows.Name {
			var names []string
			for _, f := range r.cat.Fields {
				names = append(names, f.Name)
			}
			r.find(Doubtful, place+"/field", "choose one of "+strings.Join(names, ", "), "a plate cannot show %q", p.Field)
		}
		words := shows.Words()
		u, err := quantity.ParseUnit(p.Unit)
		if err != nil || p.Unit != "" && u.Dimension != unit.Dimension {
			r.find(Doubtful, place+"/unit", "write "+strings.Join(shows.Units, " or "), "a %s cannot be shown in %q", words, p.Unit)
		}
		lo, okLo := r.plateBound(place+"/low", p.Low, p)
		hi, okHi := r.plateBound(place+"/high", p.High, p)
		if okLo && okHi && p.Low != "" && p.High != "" && lo >= hi {
			r.find(Doubtful, place+"/low", "", "the range of the plate %q ends before it begins", p.Name)
		}
	}
}

// plateBound checks the end of a colour bar. A fault there does not keep the
// model from running.
func (r *resolver) plateBound(place, text string, p *Plate) (float64, bool) {
	before := len(r.findings)
	f, _ := p.ShownAs(r.cat)
	v, ok := r.value(place, text, need{label: "end of the colour bar", unit: f.Units[0], temperature: f.Temperature, optional: true})
	for i := before; i < len(r.findings); i++ {
		r.findings[i].Severity = Doubtful
	}
	return v, ok
}

// PlateRange returns the fixed ends of a plate's colour bar in SI units; ok is false
// for an end that is automatic.
func (r *Resolved) PlateRange(p *Plate, cat *Catalog) (lo, hi float64, fixedLo, fixedHi bool) {
	_, unit := p.ShownAs(cat)
	end := func(text string) (float64, bool) {
		if strings.TrimSpace(text) == "" {
			return 0, false
		}
		f, err := formula.Parse(text)
		if err != nil {
			return 0, false
		}
		v, err := f.Eval(r.Parameters)
		return v.SI, err == nil && v.Dimension == unit.Dimension
	}
	lo, fixedLo = end(p.Low)
	hi, fixedHi = end(p.High)
	return lo, hi, fixedLo, fixedHi
}
