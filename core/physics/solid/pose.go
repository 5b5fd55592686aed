package solid

import (
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/material"
	"saltkettle/core/mesh"
	"saltkettle/core/model"
)

// draft collects the conditions of a run.
type draft struct {
	*frame.Posing
	posed   *frame.Posed
	problem Problem
}

// pose turns the conditions of the model into equations on the mesh.
func pose(p *frame.Posing) (*frame.Posed, error) {
	swings := p.Transient && p.Model.Says(KeyInertia)
	d := &draft{Posing: p, problem: Problem{Form: formOf(p.Model), Inertia: p.Modal || p.Swings || swings, Bodies: map[int32]Body{}}}
	d.posed = &frame.Posed{
		Fields: []frame.Field{{Field: couple.Field{Name: "displacement", Components: d.problem.Form.components(), Bodies: p.Lives(key), Rigid: true, Inertial: swings}, Unit: "m"}},
		Facets: map[int32]bool{}, Joints: map[int32]bool{}, Balances: balances(d.problem.Form), Flux: "", Shown: Shown, Read: read,
	}
	for b := range d.posed.Fields[0].Bodies {
		part := p.Part(b)
		body := Body{Modulus: part.Law(material.YoungsModulus), Ratio: part.Law(material.PoissonRatio), Density: part.Law(material.Density), Loss: part.Law(material.LossFactor)}
		d.takes(body.Modulus, body.Ratio)
		d.problem.Bodies[b] = body
	}
	d.conditions()
	d.symmetry()
	if err := d.Err(); err != nil {
		return nil, err
	}
	d.posed.Free = func(g *couple.Group, field int) error {
		if p.Modal || swings {
			return nil // what is free moves as a whole, at no frequency or with its mass
		}
		return d.Loose(g.FixedRigid(field, d.problem.Form == Round), "nothing holds the %s in all directions: it could move or turn as a whole", "fix a surface of it, or say how more of it moves")
	}
	d.posed.Build = func(b *frame.Building) (frame.Kernel, error) {
		return NewKernel(b.Group, &d.problem, b.Component, b.Variable, b.Varies)
	}
	return d.posed, nil
}

// formOf is the form of the space of a model.
func formOf(m *model.Resolved) Form {
	switch {
	case m.Document.Space.Kind == model.Axial:
		return Round
	case m.Document.Space.Kind != model.Plane:
		return Space
	case m.Says(KeyThin):
		return Stress
	}
	return Strain
}

// balances are the sums of forces by direction. Round an axis only that along it says
// anything.
func balances(form Form) (list []frame.Balance) {
	for i := range form.components() {
		if form == Round && i == 0 {
			continue
		}
		list = append(list, frame.Balance{Name: "force along " + axes[i], Unit: "N", Component: i})
	}
	return list
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
	var forces []string
	field := &d.posed.Fields[0].Field
	hold := func(c *model.ResolvedSentence, facets []int32, component int, value law.Law) {
		field.Held = append(field.Held, couple.Held{Facets: facets, Component: component, Value: value, Least: law.NoBound, What: "displacement", Key: c.ID})
	}
	for _, c := range d.Conditions(key) {
		switch c.Kind {
		case KeyFixed:
			for i := range field.Components {
				hold(c, d.On(c), i, formula.Fixed(0))
			}
		case KeyMoved:
			for i := range field.Components {
				if value := c.Laws[axes[i]]; value != nil {
					hold(c, d.On(c), i, value)
				}
			}
		case KeySlides:
			field.Slides = append(field.Slides, couple.Slide{Facets: d.act(c), Key: c.ID})
		case KeyPressure:
			facets := d.act(c)
			d.problem.Pressures = append(d.problem.Pressures, Pressure{Facets: facets, Value: c.Laws["pressure"]})
			d.posed.Keys = append(d.posed.Keys, c.ID)
			d.takes(c.Laws["pressure"])
		case KeyForce:
			facets := d.act(c)
			d.problem.Forces = append(d.problem.Forces, Force{Facets: facets, Total: [3]Law{c.Laws["x"], c.Laws["y"], c.Laws["z"]}})
			forces = append(forces, c.ID)
		case KeyExpands:
			free, _ := c.Laws["temperature"].Constant()
			for _, b := range d.BodiesOf(c.On) {
				if body, bends := d.problem.Bodies[b]; bends {
					body.Expansion, body.Free = d.Part(b).Law(material.Expansion), free
					d.problem.Bodies[b] = body
					d.posed.Takes = append(d.posed.Takes, couple.Temperature)
				}
			}
		}
	}
	d.posed.Keys = append(d.posed.Keys, forces...)
}

// symmetry holds what lies in planes of symmetry and on the axis in them: nothing crosses
// these.
func (d *draft) symmetry() {
	field := &d.posed.Fields[0].Field
	in := func(key string, axis int, at float64, pick func(k int32) bool) {
		var facets []int32
		for k := range d.Mesh.Facets {
			f := &d.Mesh.Facets[k]
			here := field.Bodies[f.Body] && pick(int32(k))
			for _, v := range f.Corners() {
				here = here && math.Abs(d.Mesh.Nodes[3*v+int32(axis)]-at) <= closeToPlane
			}
			if here {
				facets = append(facets, int32(k))
			}
		}
		if len(facets) > 0 {
			field.Held = append(field.Held, couple.Held{Facets: facets, Component: axis, Value: formula.Fixed(0), Least: law.NoBound, What: "displacement", Key: key})
		}
	}
	for i, c := range d.Model.Cuts {
		if c.Axis < field.Components {
			in("cut "+d.Model.Document.Space.Cuts[i].ID, c.Axis, c.At, func(k int32) bool { return d.Mesh.Sides[d.Mesh.Facets[k].Side] == mesh.CutSide })
		}
	}
	if d.problem.Form == Round {
		in("axis", 0, 0, func(k int32) bool { return d.Mesh.Facets[k].Other < 0 })
	}
}

// closeToPlane is how far from a plane of symmetry a node on it may be, m.
const closeToPlane = 1e-12

// act notes the facets on which a condition acts.
func (d *draft) act(c *model.ResolvedSentence) []int32 {
	facets := d.On(c)
	for _, k := range facets {
		d.posed.Facets[k] = true
	}
	return facets
}
