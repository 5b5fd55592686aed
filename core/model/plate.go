package model

import (
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
)

// PlateField is a field that a plate can show.
type PlateField struct {
	Name, Symbol string
	// Units in which it is usually shown, the first one if nobody chose.
	Units []string
	// Temperature marks one on a scale with a zero point.
	Temperature bool
}

// PlateFields lists the fields that plates can show.
var PlateFields = []PlateField{
	{"temperature", "T", []string{"°C", "K", "°F"}, true},
	{"potential", "V", []string{"V", "mV", "kV"}, false},
	{"heat_flux", "q", []string{"W/m²", "kW/m²", "W/cm²"}, false},
	{"current_density", "J", []string{"A/mm²", "A/m²", "A/cm²"}, false},
	{"joule_heat", "p", []string{"W/m³", "kW/m³", "W/cm³"}, false},
	{"electric_field", "E", []string{"V/m", "V/mm", "kV/mm"}, false},
}

// Words is the name of the field for people.
func (f *PlateField) Words() string { return strings.ReplaceAll(f.Name, "_", " ") }

func plateNames() (list []string) {
	for _, f := range PlateFields {
		list = append(list, f.Name)
	}
	return list
}

// Shows is the field of a plate, the temperature if it names none that is known.
func (p *Plate) Shows() PlateField {
	i := slices.IndexFunc(PlateFields, func(f PlateField) bool { return f.Name == p.Field })
	return PlateFields[max(i, 0)]
}

// ShownIn is the unit of a plate, the usual one of its field if it has none that
// fits.
func (p *Plate) ShownIn() quantity.Unit {
	f := p.Shows()
	usual := quantity.MustUnit(f.Units[0])
	if u, err := quantity.ParseUnit(p.Unit); err == nil && p.Unit != "" && u.Dimension == usual.Dimension {
		return u
	}
	return usual
}

func (r *resolver) plates() {
	for i := range r.doc.Plates {
		p := &r.doc.Plates[i]
		place := "plates/" + p.ID
		if p.Field != p.Shows().Name {
			r.find(Doubtful, place+"/field", "choose one of "+strings.Join(plateNames(), ", "), "a plate cannot show %q", p.Field)
		}
		shows := p.Shows()
		words := shows.Words()
		u, err := quantity.ParseUnit(p.Unit)
		if err != nil || p.Unit != "" && u.Dimension != p.ShownIn().Dimension {
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
	f := p.Shows()
	v, ok := r.value(place, text, need{label: "end of the colour bar", unit: f.Units[0], temperature: f.Temperature, optional: true})
	for i := before; i < len(r.findings); i++ {
		r.findings[i].Severity = Doubtful
	}
	return v, ok
}

// PlateRange returns the fixed ends of a plate's colour bar in SI units; ok is false
// for an end that is automatic.
func (r *Resolved) PlateRange(p *Plate) (lo, hi float64, fixedLo, fixedHi bool) {
	end := func(text string) (float64, bool) {
		if strings.TrimSpace(text) == "" {
			return 0, false
		}
		f, err := formula.Parse(text)
		if err != nil {
			return 0, false
		}
		v, err := f.Eval(r.Parameters)
		return v.SI, err == nil && v.Dimension == p.ShownIn().Dimension
	}
	lo, fixedLo = end(p.Low)
	hi, fixedHi = end(p.High)
	return lo, hi, fixedLo, fixedHi
}
