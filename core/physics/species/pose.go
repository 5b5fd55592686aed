package species

import (
	"saltkettle/core/couple"
	"saltkettle/core/frame"
	"saltkettle/core/law"
)

// draft collects the conditions of a run.
type draft struct {
	*frame.Posing
	posed    *frame.Posed
	problem  Problem
	names    []string
	sources  []string    // keys
	entrants []string    // keys
	of       map[int]int // by number of a species its place among those that are there
}

// pose turns the conditions of the model into equations on the mesh.
func pose(p *frame.Posing) (*frame.Posed, error) {
	d := &draft{Posing: p, of: map[int]int{}, problem: Problem{Transient: p.Transient, Order: p.Model.Order}}
	d.posed = &frame.Posed{Facets: map[int32]bool{}, Joints: map[int32]bool{}, Takes: []string{couple.VolumeStream},
		Shown: func(string) bool { return true }, Read: read}
	for i, n := range dissolved(p.Model) {
		d.of[n] = i
		d.problem.Species = append(d.problem.Species, Species{Number: n, Diffusivity: map[int32]Law{}})
		d.posed.Fields = append(d.posed.Fields, frame.Field{Field: couple.Field{Name: law.ConcentrationOf(n), Bodies: map[int32]bool{}, Changes: p.Transient}, Unit: "mol/m³"})
		d.names = append(d.names, "")
	}
	d.conditions()
	if err := d.Err(); err != nil {
		return nil, err
	}
	d.finish()
	return d.posed, nil
}

// takes notes that a law depends on the temperature.
func (d *draft) takes(l Law) {
	if l != nil && l.Uses(law.Temperature) {
		d.posed.Takes = append(d.posed.Takes, couple.Temperature)
	}
}

// conditions takes in those of the model.
func (d *draft) conditions() {
	for _, c := range d.Conditions(key) {
		if c.Kind != KeyDissolved {
			continue
		}
		i := d.of[c.About["species"]]
		d.names[i] = c.Values["species"]
		d.posed.Fields[i].Label = "concentration of " + d.names[i]
		for _, b := range d.BodiesOf(c.On) {
			d.problem.Species[i].Diffusivity[b] = c.Laws["diffusivity"]
			d.posed.Fields[i].Bodies[b] = true
		}
		d.takes(c.Laws["diffusivity"])
	}
	for _, c := range d.Conditions(key) {
		i := d.of[c.About["species"]]
		switch c.Kind {
		case KeyHeld:
			field := &d.posed.Fields[i].Field
			field.Held = append(field.Held, couple.Held{Facets: d.On(c), Value: c.Laws["concentration"], Least: law.NoBound, What: "concentration", Key: c.ID})
		case KeyEnters:
			facets := d.On(c)
			d.problem.Entrants = append(d.problem.Entrants, Entrant{Species: i, Facets: facets, Flux: c.Laws["flux"]})
			d.entrants = append(d.entrants, c.ID)
			d.takes(c.Laws["flux"])
			for _, k := range facets {
				d.posed.Facets[k] = true
			}
		case KeyArises:
			d.problem.Sources = append(d.problem.Sources, Source{Species: i, Bodies: d.BodySet(c.On), Rate: c.Laws["rate"]})
			d.sources = append(d.sources, c.ID)
			d.takes(c.Laws["rate"])
		case KeyStart:
			d.posed.Starts = append(d.posed.Starts, frame.Start{Field: i, Sentence: c, Value: c.Laws["concentration"]})
		}
	}
}

// finish says how the kernel is made and what is counted.
func (d *draft) finish() {
	p := d.posed
	for i, name := range d.names {
		p.Balances = append(p.Balances, frame.Balance{Name: name, Unit: "mol/s", Field: i})
	}
	p.Build = func(b *frame.Building) (frame.Kernel, error) {
		carry := b.Suppliers(couple.VolumeStream)
		p.Keys = append(append([]string{}, d.sources...), d.entrants...)
		carried := ""
		if len(carry) > 0 {
			carried = carry[0].Sentence
		}
		p.Keys = append(p.Keys, carried)
		return NewKernel(b.Group, &d.problem, b.Component, b.Variable, b.Varies, carry...)
	}
	p.Free = d.loose
	p.Doubt, p.Check = d.negative, d.fronts
}

// loose refuses what nothing fixes: a species in a steady run that is held nowhere and does not react.
func (d *draft) loose(g *couple.Group, field int) error {
	if d.Transient {
		return nil
	}
	for i := range d.problem.Species {
		if d.reacts(i) {
			continue
		}
		if err := d.Loose(g.Fixed(field+i, nil, nil), "nothing fixes how much of "+d.names[i]+" there is in the %s", "say its concentration at a surface, or let it vanish at a rate that depends on it"); err != nil {
			return err
		}
	}
	return nil
}

// reacts says that what arises of a species depends on its concentration.
func (d *draft) reacts(i int) bool {
	number := d.problem.Species[i].Number
	for _, s := range d.problem.Sources {
		if s.Species == i && usesSpecies(s.Rate, number) {
			return true
		}
	}
	for _, e := range d.problem.Entrants {
		if e.Species == i && usesSpecies(e.Flux, number) {
			return true
		}
	}
	return false
}
