package own

import (
	"errors"

	"saltkettle/core/couple"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
)

// key is that of this physics.
const key = "own"

// Physics is equations of the user's own as the program knows them.
var Physics = frame.Physics{
	PhysicsKind: model.PhysicsKind{
		Key: key, Name: "your own equation", Nowhere: "Nothing follows an equation of your own", Closed: "what flows by equations of your own",
		Lives:   func(*model.Resolved) string { return "An equation of your own holds in {}" },
		Resolve: resolve, FromRest: true,
		PerNode: func(r *model.Resolved) int { return len(unknowns(r)) },
	},
	Kinds: Kinds(), Plates: Fields, Pose: pose, Names: true,
}

// states says that a kind of sentence states an equation.
func states(kind string) bool { return kind == KeyIn || kind == KeyAlong }

// unknowns are the numbers of the unknowns whose equations hold somewhere.
func unknowns(r *model.Resolved) (list []int) {
	for n := range law.Owns {
		for i := range r.Conditions {
			if c := &r.Conditions[i]; states(c.Kind) && c.About[unknown] == n {
				list = append(list, n)
				break
			}
		}
	}
	return list
}

// What each term's slots are to be multiplied by to be one of the equation, with the unknown itself if of says so.
var terms = map[string]struct {
	slots []string
	unit  string
	of    bool
}{
	KeyIn: {[]string{"spread"}, "1/m²", true}, KeyAlong: {[]string{"spread"}, "1/m²", true}, KeyAxes: {axes, "1/m²", true},
	KeyStored: {[]string{"capacity"}, "1/s", true}, KeyCarried: {axes, "1/m", true}, KeyBesides: {axes, "1/m", false},
	KeyArises: {[]string{"rate"}, "1", false}, KeyEnters: {[]string{"flux"}, "1/m", false}, KeyFed: {[]string{"flow"}, "1/m", false},
}

var axes = []string{"x", "y", "z"}

// resolve finds in which parts equations hold, and checks the dimensions of their terms.
func resolve(r *model.Resolving) {
	type stated struct {
		by    *model.ResolvedSentence
		unit  quantity.Dimension
		parts map[int]bool
		term  quantity.Dimension // of all terms
	}
	all := map[int]*stated{}
	for i := range r.Conditions {
		c := &r.Conditions[i]
		if !states(c.Kind) {
			continue
		}
		r.Live(c.Parts...)
		u, err := quantity.ParseUnit(c.Values[unit])
		if err != nil {
			continue // another finding says so
		}
		s := all[c.About[unknown]]
		if s == nil {
			s = &stated{by: c, unit: u.Dimension, parts: map[int]bool{}}
			all[c.About[unknown]] = s
			if l := c.Laws["spread"]; l != nil {
				s.term = l.Dimension.Times(u.Dimension).Times(quantity.MustUnit("1/m²").Dimension)
			}
		}
		switch {
		case s.by.Kind != c.Kind:
			r.Find(model.Wrong, "conditions/"+c.ID, "give one of them another name", "%s is unknown in a part by %s and on a surface by %s", c.Values[unknown], s.by.ID, c.ID)
		case s.unit != u.Dimension:
			r.Find(model.Wrong, "conditions/"+c.ID+"/values/"+unit, "write "+s.by.Values[unit], "%s is in %s by %s and in %s by %s", c.Values[unknown], s.by.Values[unit], s.by.ID, c.Values[unit], c.ID)
		}
		for _, p := range c.Parts {
			s.parts[p] = true
		}
	}
	for i := range r.Conditions {
		c := &r.Conditions[i]
		if model.Of(c.Kind) != key || len(c.Parts) == 0 {
			continue
		}
		at, name := "conditions/"+c.ID, c.Values[unknown]
		s := all[c.About[unknown]]
		if s == nil {
			r.Find(model.Wrong, at, "switch the sentence on that says where it is unknown", "%s speaks of %s, which is unknown nowhere", c.ID, name)
			continue
		}
		for _, p := range c.Parts {
			if !s.parts[p] && (c.Kind != KeyHeld && c.Kind != KeyFed || s.by.Kind == KeyIn) {
				r.Find(model.Wrong, at+"/on", "say that it is unknown there, or choose another part", "%s speaks of %s of the %s, where it is not unknown", c.ID, name, r.Parts[p].Name)
				break
			}
		}
		if along := s.by.Kind == KeyAlong; along && (c.Kind == KeyCarried || c.Kind == KeyEnters) || !along && (c.Kind == KeyEdges || c.Kind == KeyFed) {
			r.Find(model.Wrong, at, "remove it", "%s cannot be said of %s, which is unknown %s", c.ID, name, map[bool]string{true: "on a surface: let more of it arise there, or flow besides", false: "in parts, not on a surface"}[along])
			continue
		}
		value, term := c.Laws["value"], terms[c.Kind]
		if value != nil && value.Dimension != s.unit {
			r.Find(model.Wrong, at+"/values/value", "write it in "+s.by.Values[unit], "%s gives %s as %s, and it is %s", c.ID, name, value.Dimension.Name(), s.unit.Name())
		}
		for _, slot := range term.slots {
			l := c.Laws[slot]
			if l == nil {
				continue
			}
			mine := l.Dimension.Times(quantity.MustUnit(term.unit).Dimension)
			if term.of {
				mine = mine.Times(s.unit)
			}
			if zero, constant := l.Constant(); mine != s.term && !(constant && zero == 0) {
				want := l.Dimension.Times(s.term).Over(mine)
				r.Find(model.Wrong, at+"/values/"+slot, "write it in "+want.String(), "in the equation of %s the term of %s is %s, and that of %s is %s", name, s.by.ID, s.term.Name(), c.ID, mine.Name())
			}
		}
	}
	if r.Solves(key) && (r.Document.Modal() || r.Document.Swings()) {
		r.Find(model.Wrong, "run/kind", "let the run be steady or in time", "equations of your own have no modes and no response here")
	}
}

// draft collects the conditions of a run.
type draft struct {
	*frame.Posing
	posed   *frame.Posed
	problem Problem
	of      map[int]int // by number of an unknown its place among those that are there
	names   []string
	terms   []quantity.Dimension // of each equation
}

// account makes one for a sentence and returns its number.
func (d *draft) account(c *model.ResolvedSentence) int {
	d.posed.Keys = append(d.posed.Keys, c.ID)
	d.problem.Accounts = len(d.posed.Keys)
	return d.problem.Accounts - 1
}

// pose turns the conditions of the model into equations on the mesh.
func pose(p *frame.Posing) (*frame.Posed, error) {
	d := &draft{Posing: p, of: map[int]int{}, problem: Problem{Transient: p.Transient, Order: p.Model.Order}}
	d.posed = &frame.Posed{Facets: map[int32]bool{}, Joints: map[int32]bool{},
		Shown: func(string) bool { return true }, Read: func(*frame.Reading) error { return errors.New("there are no such readings of equations of your own") }}
	for i, n := range unknowns(p.Model) {
		d.of[n] = i
		d.problem.Equations = append(d.problem.Equations, Equation{Number: n})
		d.posed.Fields = append(d.posed.Fields, frame.Field{Field: couple.Field{Name: law.OwnOf(n), Bodies: map[int32]bool{}}})
		d.names, d.terms = append(d.names, ""), append(d.terms, quantity.None)
	}
	for _, c := range d.Conditions(key) {
		for _, l := range c.Laws {
			if l != nil && l.Uses(law.Temperature) && len(d.posed.Takes) == 0 {
				d.posed.Takes = []string{couple.Temperature}
			}
		}
		if states(c.Kind) {
			d.state(c)
		}
	}
	for _, c := range d.Conditions(key) {
		if c.Kind == KeyEnters {
			d.condition(c)
			d.account(c)
		}
	}
	for _, c := range d.Conditions(key) {
		if !states(c.Kind) && c.Kind != KeyEnters {
			d.condition(c)
		}
	}
	if err := d.Err(); err != nil {
		return nil, err
	}
	for i := range d.problem.Equations {
		e, term := &d.problem.Equations[i], d.terms[i].Times(quantity.MustUnit("m³").Dimension)
		if e.Facets != nil {
			term = d.terms[i].Times(quantity.MustUnit("m²").Dimension)
		}
		d.posed.Balances = append(d.posed.Balances, frame.Balance{Name: d.names[i], Unit: term.Symbol(), Field: i})
	}
	d.posed.Build = func(b *frame.Building) (frame.Kernel, error) {
		return newKernel(b.Group, &d.problem, b.Component, b.Variable, b.Varies)
	}
	d.posed.Free = d.loose
	return d.posed, nil
}

// state takes in a sentence that says where something is unknown.
func (d *draft) state(c *model.ResolvedSentence) {
	i := d.of[c.About[unknown]]
	e, field := &d.problem.Equations[i], &d.posed.Fields[i]
	d.names[i], field.Label, field.Unit = c.Values[unknown], c.Values[unknown], quantity.MustUnit(c.Values[unit]).Dimension.Symbol()
	l := c.Laws["spread"]
	d.terms[i] = l.Dimension.Times(quantity.MustUnit(c.Values[unit]).Dimension).Times(quantity.MustUnit("1/m²").Dimension)
	terms := func() *Terms { return &Terms{Spread: [3]Law{l, l, l}} }
	if c.Kind == KeyIn {
		if e.Bodies == nil {
			e.Bodies = map[int32]*Terms{}
		}
		for _, b := range d.BodiesOf(c.On) {
			e.Bodies[b], field.Bodies[b] = terms(), true
		}
		return
	}
	if e.Facets == nil {
		e.Facets = map[int32]*Terms{}
	}
	for _, k := range d.On(c) {
		e.Facets[k], d.posed.Facets[k] = terms(), true
		field.Facets = append(field.Facets, k)
		field.Bodies[d.Mesh.Facets[k].Body] = true
	}
}

// each calls f for the terms of the equation of a sentence where that acts.
func (d *draft) each(c *model.ResolvedSentence, f func(t *Terms)) {
	e := &d.problem.Equations[d.of[c.About[unknown]]]
	if e.Bodies != nil {
		for _, b := range d.BodiesOf(c.On) {
			if t := e.Bodies[b]; t != nil {
				f(t)
			}
		}
		return
	}
	some := false
	for _, k := range d.On(c) {
		if t := e.Facets[k]; t != nil {
			f(t)
			some = true
		}
	}
	if !some {
		d.Refuse("conditions/"+c.ID+"/on", "choose a surface on which it is", "%s acts nowhere: %s is not on the %s", c.ID, c.Values[unknown], d.Words(c.On))
	}
}

// condition takes in another one.
func (d *draft) condition(c *model.ResolvedSentence) {
	i := d.of[c.About[unknown]]
	field := &d.posed.Fields[i].Field
	axes := [3]Law{c.Laws["x"], c.Laws["y"], c.Laws["z"]}
	switch c.Kind {
	case KeyAxes:
		d.each(c, func(t *Terms) { t.Spread = axes })
	case KeyStored:
		by := d.account(c)
		d.each(c, func(t *Terms) { t.Stored, t.StoredBy = c.Laws["capacity"], by })
		field.Changes = d.Transient
	case KeyCarried:
		by := d.account(c)
		d.each(c, func(t *Terms) { t.Carried, t.CarriedBy = axes, by })
	case KeyBesides:
		d.each(c, func(t *Terms) { t.Besides = append(t.Besides, axes) })
	case KeyArises:
		by := d.account(c)
		d.each(c, func(t *Terms) { t.Arises, t.ArisesBy = append(t.Arises, c.Laws["rate"]), append(t.ArisesBy, by) })
	case KeyEnters:
		facets := d.On(c)
		d.problem.Entrants = append(d.problem.Entrants, Entrant{Equation: i, Facets: facets, Flux: c.Laws["flux"]})
		for _, k := range facets {
			d.posed.Facets[k] = true
		}
	case KeyHeld:
		field.Held = append(field.Held, couple.Held{Facets: d.On(c), Value: c.Laws["value"], Least: law.NoBound, What: d.names[i], Key: c.ID})
	case KeyFed:
		field.Fed = append(field.Fed, couple.Fed{Meets: d.On(c), Flow: c.Laws["flow"], Key: c.ID})
	case KeyEdges:
		var own []int32
		for _, k := range d.On(c) {
			if d.problem.Equations[i].Facets[k] != nil {
				own = append(own, k)
			}
		}
		field.Held = append(field.Held, couple.Held{Facets: own, Rim: true, Open: d.GoesOn(), Value: c.Laws["value"], Least: law.NoBound, What: d.names[i], Key: c.ID})
	case KeyStart:
		d.posed.Starts = append(d.posed.Starts, frame.Start{Field: i, Sentence: c, Value: c.Laws["value"]})
	}
}

// loose refuses what nothing fixes: an unknown of a steady run that is held nowhere, and of which nothing arises that depends on it.
func (d *draft) loose(g *couple.Group, field int) error {
	for i := range d.problem.Equations {
		e := &d.problem.Equations[i]
		if d.Transient && d.posed.Fields[i].Changes || d.reacts(i) {
			continue
		}
		if e.Facets != nil {
			if len(d.posed.Fields[i].Held) == 0 {
				return frame.Wrong("conditions", "give a value at its edges, or where it meets another surface", "nothing fixes how large %s is", d.names[i])
			}
			continue
		}
		if err := d.Loose(g.Fixed(field+i, nil, nil), "nothing fixes how large "+d.names[i]+" is in the %s", "give a value at a surface, or let something arise that depends on it"); err != nil {
			return err
		}
	}
	return nil
}

// reacts says that what arises or enters of an unknown depends on it.
func (d *draft) reacts(i int) bool {
	e := &d.problem.Equations[i]
	uses := func(l Law) bool { return l != nil && l.Uses(law.Own+e.Number) }
	for _, list := range []map[int32]*Terms{e.Bodies, e.Facets} {
		for _, t := range list {
			for _, l := range t.Arises {
				if uses(l) {
					return true
				}
			}
		}
	}
	for _, in := range d.problem.Entrants {
		if in.Equation == i && uses(in.Flux) {
			return true
		}
	}
	return false
}
