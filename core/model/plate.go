package model

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
)

func (r *resolver) plates() {
	for i := range r.doc.Plates {
		p := &r.doc.Plates[i]
		place := "plates/" + p.ID
		shows, unit := r.shows(place+"/field", p)
		words := shows.Words()
		u, err := quantity.ParseUnit(p.Unit)
		if err != nil || p.Unit != "" && u.Dimension != unit.Dimension {
			r.find(Doubtful, place+"/unit", "write "+strings.Join(shows.Units, " or "), "a %s cannot be shown in %q", words, p.Unit)
		}
		lo, okLo := r.plateBound(place+"/low", p.Low, p)
		hi, okHi := r.plateBound(place+"/high", p.High, p)
		for k := range p.Slices {
			r.slice(place, &p.Slices[k])
		}
		for k := range p.Lines {
			r.line(place, p, &p.Lines[k])
		}
		for k := range p.Levels {
			r.level(place, p, &p.Levels[k])
		}
		for k := range p.Arrows {
			r.arrows(place, &p.Arrows[k])
		}
		for k := range p.Streams {
			r.streams(place, p, &p.Streams[k])
		}
		for k := range p.Probes {
			r.probe(place, &p.Probes[k])
		}
		r.look(place, p)
		r.sharing(place, p)
		for _, seen := range p.Seen {
			r.one(place+"/seen/"+seen.ID+"/how", "how a part is drawn", seen.How, Pale, Hidden)
		}
		if okLo && okHi && p.Low != "" && p.High != "" && lo >= hi {
			r.find(Doubtful, place+"/low", "", "the range of the plate %q ends before it begins", p.Name)
		}
	}
}

// soften makes what was found since there were so many findings keep no model from running.
func (r *resolver) soften(before int) {
	for i := before; i < len(r.findings); i++ {
		r.findings[i].Severity = Doubtful
	}
}

// normal is that of a slice across an axis, or of numbers with commas between them.
func (s *Space) normal(across string) (n [3]float64, ok bool) {
	axes := s.Axes()
	if i := slices.Index(axes, across); i >= 0 {
		n[strings.Index("xyz", across)] = 1
		return n, true
	}
	texts := strings.Split(across, ",")
	if len(texts) < len(axes) || len(texts) > 3 {
		return n, false
	}
	size := 0.0
	for i, text := range texts {
		v, err := strconv.ParseFloat(strings.TrimSpace(text), 64)
		if err != nil || math.Abs(v) > 1e6 || v != v || i >= len(axes) && v != 0 {
			return n, false
		}
		n[i] = v
		size += v * v
	}
	for i := range n {
		n[i] /= math.Sqrt(size)
	}
	return n, size > 1e-12
}

// slice checks a slice of a plate, whose faults keep no model from running.
func (r *resolver) slice(plate string, s *Slice) (normal [3]float64, at float64, ok bool) {
	place, before := plate+"/slices/"+s.ID, len(r.findings)
	at, ok = r.value(place+"/at", s.At, need{label: "place of the slice", unit: lengthUnit})
	normal, good := r.doc.Space.normal(s.Across)
	if !good {
		axes := strings.Join(r.doc.Space.Axes(), " or ")
		r.find(Doubtful, place+"/across", "write "+axes+", or a direction such as 1, 1, 0", "a slice is across %s, not %q", axes, s.Across)
		ok = false
	}
	if !slices.Contains([]string{"", Less, Greater}, s.Keep) {
		r.find(Doubtful, place+"/keep", "write "+Less+", "+Greater+" or nothing", "what a slice keeps cannot be %q", s.Keep)
		ok = false
	}
	r.soften(before)
	return normal, at, ok
}

// level evaluates a level of a plate, SI, whose faults keep no model from running.
func (r *resolver) level(plate string, p *Plate, l *Level) (float64, bool) {
	before := len(r.findings)
	f, _ := r.out.Shows(p, r.cat)
	v, ok := r.value(plate+"/levels/"+l.ID+"/at", l.At, need{label: "level of the plate", unit: f.Units[0], temperature: f.Temperature})
	r.soften(before)
	return v, ok
}

// PlateLevels evaluates those levels of a plate that can be, SI.
func (r *Resolved) PlateLevels(p *Plate, cat *Catalog) (list []float64) {
	quiet := r.quiet(cat)
	for i := range p.Levels {
		if v, ok := quiet.level("", p, &p.Levels[i]); ok {
			list = append(list, v)
		}
	}
	return list
}

// MaxSlices is how many slices a plate can have.
const MaxSlices = 6

// PlateSlice is a slice of a plate, m.
type PlateSlice struct {
	ID     string
	Normal [3]float64 // of length 1
	At     float64
	// Keep is −1 for what is less, 1 for what is greater, 0 for both.
	Keep int
}

// PlateSlices evaluates those slices of a plate that can be.
func (r *Resolved) PlateSlices(p *Plate) []PlateSlice {
	quiet := r.quiet(&Catalog{})
	var list []PlateSlice
	for i := range p.Slices {
		s := &p.Slices[i]
		if normal, at, ok := quiet.slice("", s); ok {
			list = append(list, PlateSlice{s.ID, normal, at, map[string]int{Less: -1, Greater: 1}[s.Keep]})
		}
	}
	return list
}

// removeItem takes a slice, level, line, arrows, streams or a probe away.
func (p *Plate) removeItem(list, id string) (ok bool) {
	switch list {
	case "slices":
		p.Slices, ok = without(p.Slices, id)
	case "levels":
		p.Levels, ok = without(p.Levels, id)
	case "lines":
		p.Lines, ok = without(p.Lines, id)
	case "arrows":
		p.Arrows, ok = without(p.Arrows, id)
	case "streams":
		p.Streams, ok = without(p.Streams, id)
	case "probes":
		p.Probes, ok = without(p.Probes, id)
	}
	return ok
}

// plateBound checks the end of a colour bar. A fault there does not keep the
// model from running.
func (r *resolver) plateBound(place, text string, p *Plate) (float64, bool) {
	before := len(r.findings)
	f, _ := r.out.Shows(p, r.cat)
	v, ok := r.value(place, text, need{label: "end of the colour bar", unit: f.Units[0], temperature: f.Temperature, optional: true})
	r.soften(before)
	return v, ok
}

// PlateRange returns the fixed ends of a plate's colour bar in SI units; ok is false
// for an end that is automatic.
func (r *Resolved) PlateRange(p *Plate, cat *Catalog) (lo, hi float64, fixedLo, fixedHi bool) {
	_, unit := r.Shows(p, cat)
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
