package model

import (
	"fmt"
	"maps"
	"slices"

	"saltkettle/core/material"
)

// value is a text of a document where it stands. Whoever wants to know all of them asks a walk:
// there is no other list of them.
type value struct {
	place, words string
	text         *string
	// formula says that it may be one.
	formula bool
	// decides says that the result depends on it.
	decides bool
}

// sections are those of a document in the order of the brief; "" is its head.
var sections = []string{"", "space", "parameters", "parts", "materials", "conditions", "mesh", "run", "readings", "trials", "plates"}

// walk calls f with every text of a document, section by section. What f makes of a text stays,
// also where it lies in a map.
func (d *Document) walk(f func(value)) {
	for _, section := range sections {
		d.walkAt(section, f)
	}
}

// walkAt is the walk through one section; what is none lies in the head.
func (d *Document) walkAt(section string, f func(value)) {
	switch section {
	case "space":
		d.walkSpace(f)
	case "parameters":
		d.walkParameters(f)
	case "parts":
		for i := range d.Parts {
			d.Parts[i].walk(i, f)
		}
	case "materials":
		d.walkMaterials(f)
	case "conditions":
		for i := range d.Conditions {
			d.Conditions[i].walk(section, f)
		}
	case "mesh":
		d.walkMesh(f)
	case "run":
		d.walkRun(f)
	case "readings":
		for i := range d.Readings {
			d.Readings[i].walk(section, f)
		}
	case "trials":
		for i := range d.Trials {
			d.Trials[i].walk(f)
		}
	case "plates":
		for i := range d.Plates {
			d.Plates[i].walk(f)
		}
	default:
		d.walkHead(f)
	}
}

// plain and computed are values that are words, or formulas, on which a result depends; note and bound
// likewise such on which it does not.
func plain(place, words string, text *string) value {
	return value{place: place, words: words, text: text, decides: true}
}

func computed(place, words string, text *string) value {
	return value{place: place, words: words, text: text, formula: true, decides: true}
}

func note(place string, text *string) value { return value{place: place, text: text} }

func bound(place, words string, text *string) value {
	return value{place: place, words: words, text: text, formula: true}
}

func (d *Document) walkHead(f func(value)) {
	f(note("name", &d.Name))
	f(note("site", &d.Site))
	f(note("aim", &d.Aim))
}

func (d *Document) walkSpace(f func(value)) {
	s := &d.Space
	f(note("space/unit", &s.Unit))
	f(plain("space/kind", "space", &s.Kind))
	f(computed("space/depth", "depth of the space", &s.Depth))
	for i := range s.Cuts {
		c := &s.Cuts[i]
		at, what := "space/cuts/"+c.ID+"/", "cut across "+c.Across
		f(plain(at+"across", what, &c.Across))
		f(computed(at+"at", what, &c.At))
		f(plain(at+"keep", what+", keeps", &c.Keep))
	}
}

func (d *Document) walkParameters(f func(value)) {
	for i := range d.Parameters {
		p := &d.Parameters[i]
		at := "parameters/" + p.Name + "/"
		f(computed(at+"value", p.Name, &p.Value))
		f(note(at+"about", &p.About))
		f(note(at+"unit", &p.Unit))
		f(bound(at+"least", "bounds of "+p.Name, &p.Least))
		f(bound(at+"most", "bounds of "+p.Name, &p.Most))
	}
}

// walk goes through the part with a number.
func (p *Part) walk(number int, f func(value)) {
	at := "parts/" + p.ID
	f(plain(at+"/name", fmt.Sprintf("name of part %d", number+1), &p.Name))
	f(plain(at+"/role", p.Name, (*string)(&p.Role)))
	f(plain(at+"/material", p.Name, &p.Material))
	f(plain(at+"/finish", p.Name+", finish", &p.Finish))
	f(plain(at+"/group", p.Name+", group", &p.Group))
	f(note(at+"/note", &p.Note))
	f(plain(at+"/outline/kind", p.Name+", outline", &p.Outline.Kind))
	p.eachText(func(place, words string, text *string) { f(computed(place, words, text)) })
	for i := range p.Outline.Holes {
		h := &p.Outline.Holes[i]
		place, what := at+"/outline/holes/"+h.ID, p.Name+", "+h.side()
		f(plain(place+"/kind", what, &h.Kind))
		if h.Array != nil {
			f(plain(place+"/array/along", what+", along", &h.Array.Along))
		}
	}
	for i := range p.Outline.Points {
		q := &p.Outline.Points[i]
		f(plain(at+"/outline/points/"+q.ID+"/name", fmt.Sprintf("%s, name of side %d", p.Name, i+1), &q.Name))
	}
	if p.Fill != nil {
		for i := range p.Fill.Caps {
			c := &p.Fill.Caps[i]
			f(plain(at+"/fill/caps/"+c.ID+"/name", fmt.Sprintf("%s, cap %d", p.Name, i+1), &c.Name))
		}
	}
	if p.Array != nil {
		f(plain(at+"/array/along", p.Name+", along", &p.Array.Along))
	}
}

// walkMaterials goes through what a result takes from the materials.
func (d *Document) walkMaterials(f func(value)) {
	for i := range d.Materials {
		m := &d.Materials[i]
		for _, s := range material.States {
			if v, ok := m.State[s.Name]; ok {
				was := v
				if f(plain("materials/"+m.Name+"/state/"+s.Name, m.Name+", "+s.Label, &v)); v != was {
					m.State = maps.Clone(m.State) // the map may be the library's
					m.State[s.Name] = v
				}
			}
		}
		for _, key := range propertyKeys(m) {
			p := m.Properties[key]
			was := p.Value
			words := string(key)
			if def, ok := material.Define(key); ok {
				words = def.Name
			}
			if f(computed("materials/"+m.Name+"/"+string(key), m.Name+", "+words, &p.Value)); p.Value != was {
				m.Properties = maps.Clone(m.Properties)
				m.Properties[key] = p
			}
		}
	}
}

// propertyKeys are those of a material in the order in which they are defined, and then others.
func propertyKeys(m *material.Material) []material.Key {
	var list []material.Key
	for _, def := range material.Definitions {
		if _, ok := m.Properties[def.Key]; ok {
			list = append(list, def.Key)
		}
	}
	for _, key := range slices.Sorted(maps.Keys(m.Properties)) {
		if !slices.Contains(list, key) {
			list = append(list, key)
		}
	}
	return list
}

func (s *Sentence) walk(section string, f func(value)) {
	at := section + "/" + s.ID
	f(note(at+"/name", &s.Name))
	f(note(at+"/unit", &s.Unit))
	f(note(at+"/note", &s.Note))
	for _, name := range slices.Sorted(maps.Keys(s.Values)) {
		text := s.Values[name]
		f(computed(at+"/values/"+name, s.ID, &text))
		s.Values[name] = text
	}
	s.On.eachEnd(func(place string, text *string) { f(computed(at+"/on/"+place, s.ID+", box", text)) })
}

func (d *Document) walkMesh(f func(value)) {
	m := &d.Mesh
	f(computed("mesh/size", "cell size", &m.Size))
	f(computed("mesh/across", "cells across", &m.Across))
	f(plain("mesh/order", "order of the cells", &m.Order))
	f(computed("mesh/growth", "growth of the cells", &m.Growth))
	f(computed("mesh/gaps", "cells across gaps", &m.Gaps))
	f(computed("mesh/rounds", "rounds of finer cells", &m.Rounds))
	f(computed("mesh/error", "error of fluxes", &m.Error))
	f(computed("mesh/change", "change of readings", &m.Change))
	for i := range m.Near {
		n := &m.Near[i]
		f(computed("mesh/near/"+n.ID+"/size", "cells at the "+d.PatchWords(n.On), &n.Size))
	}
	for i := range m.Walls {
		w := &m.Walls[i]
		at, what := "mesh/walls/"+w.ID, "layers at the "+d.PatchWords(w.On)
		f(computed(at+"/first", what, &w.First))
		f(computed(at+"/count", what+", number", &w.Count))
		f(computed(at+"/growth", what+", growth", &w.Growth))
	}
}

func (d *Document) walkRun(f func(value)) {
	r := &d.Run
	f(plain("run/kind", "run", &r.Kind))
	f(computed("run/end", "length of time", &r.End))
	f(computed("run/start", "temperature at the start", &r.Start))
	f(plain("run/from", "run to begin from", &r.From))
	f(computed("run/until", "condition that ends the run", &r.Until))
	f(computed("run/tolerance", "tolerance of a step", &r.Tolerance))
	f(computed("run/longest", "longest step", &r.Longest))
	f(computed("run/count", "number of modes or frequencies", &r.Count))
	f(computed("run/lowest", "lowest frequency", &r.Lowest))
	f(computed("run/highest", "highest frequency", &r.Highest))
	f(plain("run/spread", "spread of frequencies", &r.Spread))
	f(computed("run/listed", "frequencies", &r.Listed))
}

func (t *TrialSet) walk(f func(value)) {
	at := "trials/" + t.ID + "/"
	f(note(at+"name", &t.Name))
	f(note(at+"pattern", &t.Pattern))
	f(bound(at+"runs", "number of trials of "+t.Name, &t.Runs))
	words := "trials of " + t.Name
	f(bound(at+"while", "what trials of "+t.Name+" must keep", &t.While))
	f(note(at+"surface", &t.Surface))
	f(note(at+"search/method", &t.Search.Method))
	f(bound(at+"search/most", words, &t.Search.Most))
	f(bound(at+"search/within", words, &t.Search.Within))
	for i := range t.Vary {
		v := &t.Vary[i]
		place := at + "vary/" + v.ID + "/"
		f(note(place+"parameter", &v.Parameter))
		f(note(place+"as", &v.As))
		f(bound(place+"from", words, &v.From))
		f(bound(place+"to", words, &v.To))
		f(bound(place+"count", words, &v.Count))
		f(note(place+"listed", &v.Listed))
		f(bound(place+"mean", words, &v.Mean))
		f(bound(place+"deviation", words, &v.Deviation))
	}
	for i := range t.Goals {
		g := &t.Goals[i]
		place := at + "goals/" + g.ID + "/"
		f(note(place+"want", &g.Want))
		f(note(place+"reading", &g.Reading))
		f(bound(place+"target", words, &g.Target))
	}
	for i := range t.Limits {
		l := &t.Limits[i]
		place := at + "limits/" + l.ID + "/"
		f(note(place+"reading", &l.Reading))
		f(note(place+"side", &l.Side))
		f(bound(place+"value", words, &l.Value))
	}
}

func (p *Plate) walk(f func(value)) {
	at := "plates/" + p.ID + "/"
	f(note(at+"name", &p.Name))
	f(note(at+"field", &p.Field))
	f(note(at+"unit", &p.Unit))
	f(bound(at+"low", "range of plate "+p.ID, &p.Low))
	f(bound(at+"high", "range of plate "+p.ID, &p.High))
	f(note(at+"map", &p.Map))
	f(note(at+"spacing", &p.Spacing))
	f(bound(at+"bands", "bands of plate "+p.ID, &p.Bands))
	f(bound(at+"bent", "bending of plate "+p.ID, &p.Bent))
	f(note(at+"shared", &p.Shared))
	for i := range p.Seen {
		f(note(at+"seen/"+p.Seen[i].ID+"/how", &p.Seen[i].How))
	}
	for i := range p.Slices {
		s := &p.Slices[i]
		place := at + "slices/" + s.ID + "/"
		f(note(place+"across", &s.Across))
		f(bound(place+"at", "slice of plate "+p.ID, &s.At))
		f(note(place+"keep", &s.Keep))
	}
	for i := range p.Levels {
		l := &p.Levels[i]
		f(bound(at+"levels/"+l.ID+"/at", "level of plate "+p.ID, &l.At))
	}
	for i := range p.Lines {
		p.Lines[i].walk(at+"lines/"+p.Lines[i].ID+"/", "line of plate "+p.ID, f)
	}
	for i := range p.Arrows {
		a := &p.Arrows[i]
		place := at + "arrows/" + a.ID + "/"
		f(note(place+"field", &a.Field))
		f(note(place+"on", &a.On))
		f(bound(place+"count", "arrows of plate "+p.ID, &a.Count))
		f(note(place+"length", &a.Length))
	}
	for i := range p.Streams {
		s := &p.Streams[i]
		place := at + "streams/" + s.ID + "/"
		f(note(place+"field", &s.Field))
		f(note(place+"from", &s.From))
		f(bound(place+"count", "streams of plate "+p.ID, &s.Count))
	}
	for i := range p.Probes {
		b := &p.Probes[i]
		place := at + "probes/" + b.ID + "/"
		f(bound(place+"x", "probe of plate "+p.ID, &b.X))
		f(bound(place+"y", "probe of plate "+p.ID, &b.Y))
		f(bound(place+"z", "probe of plate "+p.ID, &b.Z))
	}
}
