package electric

import (
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/material"
)

// draft collects the conditions of a run.
type draft struct {
	*frame.Posing
	posed   *frame.Posed
	problem Problem
}

// pose turns the conditions of the model into equations on the mesh.
func pose(p *frame.Posing) (*frame.Posed, error) {
	static := p.Model.Says(KeyField)
	d := &draft{Posing: p, problem: Problem{Bodies: map[int32]Body{}, Static: static}, posed: &frame.Posed{
		Fields: []frame.Field{{Field: couple.Field{Name: "potential", Bodies: p.Lives(key)}, Unit: "V"}}, Facets: map[int32]bool{}, Joints: map[int32]bool{},
		Balances: []frame.Balance{{Name: "current", Unit: "A"}}, Flux: "current_density", Shown: Shown(static),
	}}
	if static {
		d.posed.Balances = []frame.Balance{{Name: "charge", Unit: "C"}}
	}
	for b := range d.posed.Fields[0].Bodies {
		part := p.Part(b)
		body := Body{Resistivity: part.Law(material.Resistivity), Permittivity: part.Law(material.Permittivity), Seebeck: part.Law(material.Seebeck)}
		d.problem.Bodies[b] = body
		d.takes(body.Resistivity, body.Permittivity, body.Seebeck)
		if body.Seebeck != nil {
			d.posed.Takes = append(d.posed.Takes, couple.Temperature) // its gradient drives current
			d.posed.Supplies = append(d.posed.Supplies, frame.Supplied{Quantity: couple.HeatCarried})
		}
	}
	d.conditions()
	if err := d.Err(); err != nil {
		return nil, err
	}
	if err := d.shortCircuits(); err != nil {
		return nil, err
	}
	d.finish()
	return d.posed, nil
}

// takes notes that a law depends on the temperature.
func (d *draft) takes(laws ...Law) {
	for _, l := range laws {
		if uses(l) {
			d.posed.Takes = append(d.posed.Takes, couple.Temperature)
		}
	}
}

// conditions takes in those of the model.
func (d *draft) conditions() {
	field := &d.posed.Fields[0].Field
	for _, c := range d.Conditions(key) {
		switch c.Kind {
		case KeyHeats:
			if !d.problem.Static {
				d.posed.Supplies = append(d.posed.Supplies, frame.Supplied{Quantity: couple.HeatPerVolume, Sentence: c.ID}, frame.Supplied{Quantity: couple.HeatAtJoints, Sentence: c.ID})
				d.posed.Unstable = "current may heat its conductors faster than the heat can leave"
			}
		case KeyContact:
			facets := d.On(c)
			field.Jumps = append(field.Jumps, facets...)
			d.problem.Contacts = append(d.problem.Contacts, Contact{Facets: facets, Resistance: c.Laws["resistance"]})
			d.takes(c.Laws["resistance"])
			for _, k := range facets {
				d.posed.Joints[k] = true
			}
		case KeyVoltage:
			field.Held = append(field.Held, couple.Held{Facets: d.On(c), Value: c.Laws["voltage"], Least: law.NoBound, What: "voltage", Key: c.ID})
		case KeyCurrent, KeyCharge:
			total := c.Laws["current"]
			if c.Kind == KeyCharge {
				total = c.Laws["charge"]
			}
			facets := d.On(c)
			d.problem.Currents = append(d.problem.Currents, Current{Facets: facets, Total: total})
			field.Level = append(field.Level, facets)
			d.posed.Keys = append(d.posed.Keys, c.ID)
			for _, k := range facets {
				d.posed.Facets[k] = true
			}
		}
	}
}

// shortCircuits refuses terminals that touch although their potentials differ.
func (d *draft) shortCircuits() error {
	type terminal struct {
		key     string
		voltage float64 // NaN if it is not a given number
	}
	at := map[int32]terminal{}
	claim := func(key string, facets []int32, voltage float64) error {
		for _, k := range facets {
			for _, v := range d.Mesh.Facets[k].Corners() {
				if other, ok := at[v]; ok && other.key != key && other.voltage != voltage {
					return frame.Wrong("conditions/"+key+"/on", "leave a gap or an insulating part between them", "the terminals of %s and %s touch, though their potentials differ: that is a short circuit", other.key, key)
				}
				at[v] = terminal{key, voltage}
			}
		}
		return nil
	}
	for _, h := range d.posed.Fields[0].Held {
		voltage := math.NaN()
		if v, ok := h.Value.Constant(); ok {
			voltage = v
		}
		if err := claim(h.Key, h.Facets, voltage); err != nil {
			return err
		}
	}
	for i, c := range d.problem.Currents {
		if err := claim(d.posed.Keys[i], c.Facets, math.NaN()); err != nil {
			return err
		}
	}
	return nil
}

// finish says how the kernel is made and how readings are taken.
func (d *draft) finish() {
	p := d.posed
	p.Free = func(g *couple.Group, field int) error {
		return d.Loose(g.Fixed(field, nil, nil), "no terminal fixes the electric potential of the %s: it floats", "make a surface a terminal at a voltage, or let the part touch one that has one")
	}
	p.Build = func(b *frame.Building) (frame.Kernel, error) {
		return NewKernel(b.Group, &d.problem, b.Component, b.Variable, b.Varies)
	}
	p.Read = func(r *frame.Reading) error { return read(r, d.problem.Static) }
}
