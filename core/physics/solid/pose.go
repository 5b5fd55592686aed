package solid

import (
	"fmt"
	"math"
	"slices"

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
	keys    []string // of loads, and where they act
	on      []model.Patch
	tethers []couple.Tether
	loaded  bool // something acts
	turning map[int32]bool
}

// pose turns the conditions of the model into equations on the mesh.
func pose(p *frame.Posing) (*frame.Posed, error) {
	swings := p.Transient && p.Model.Says(KeyInertia)
	d := &draft{Posing: p, turning: map[int32]bool{}, problem: Problem{Form: formOf(p.Model), Large: p.Model.Says(KeyLarge), Inertia: p.Modal || p.Swings || swings, Bodies: map[int32]Body{}}}
	d.posed = &frame.Posed{
		Fields: []frame.Field{{Field: couple.Field{Name: "displacement", Components: d.problem.Form.components(), Bodies: p.Lives(key), Rigid: true, Inertial: swings}, Unit: "m"}},
		Facets: map[int32]bool{}, Joints: map[int32]bool{}, Balances: balances(d.problem.Form), Flux: "", Shown: Shown, Read: read,
		Takes: []string{couple.PressureOnWalls}, Supplies: []frame.Supplied{{Quantity: couple.MotionOfWalls}},
	}
	d.bodies()
	d.conditions()
	d.symmetry()
	d.volumes()
	if err := d.Err(); err != nil {
		return nil, err
	}
	d.onHeld()
	d.posed.Free = func(g *couple.Group, field int) error {
		if d.Modal && !d.loaded || swings {
			return nil // what is free moves as a whole, at no frequency or with its mass
		}
		return d.loose(g.FixedRigid(field, d.problem.Form == Round, d.tethers))
	}
	d.posed.Loaded, d.posed.Unbounded = d.loaded, unbounded
	d.posed.Check = func(s *couple.Solution) { d.check(s) }
	d.posed.Build = func(b *frame.Building) (frame.Kernel, error) {
		at := Components{b.Component, -1, b.Variable}
		if len(d.posed.Fields) > 1 {
			at.Pressure = b.Component + d.problem.Form.components()
		}
		return NewKernel(b.Group, &d.problem, at, b.Varies)
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

// takes notes that laws depend on the temperature.
func (d *draft) takes(laws ...Law) {
	if uses(laws...) && !slices.Contains(d.posed.Takes, couple.Temperature) {
		d.posed.Takes = append(d.posed.Takes, couple.Temperature)
	}
}

// bodies gives those that bend their properties.
func (d *draft) bodies() {
	rubber := map[int32]bool{}
	for _, c := range d.Conditions(key) {
		if c.Kind == KeyRubber {
			for _, b := range d.BodiesOf(c.On) {
				rubber[b] = true
			}
		}
	}
	for b := range d.posed.Fields[0].Bodies {
		body := bodyOf(d.Part(b), rubber[b])
		d.takes(append(append(append(body.Modulus[:], body.Ratio[:]...), body.Shear[:]...), body.Mooney[:]...)...)
		d.problem.Bodies[b] = body
	}
}

// bodyOf has the properties of a part.
func bodyOf(p *model.ResolvedPart, rubber bool) Body {
	b := Body{
		Modulus: [3]Law{p.Law(material.YoungsModulus)}, Ratio: [3]Law{p.Law(material.PoissonRatio)},
		Density: p.Law(material.Density), Loss: p.Law(material.LossFactor), Rubber: rubber,
	}
	if rubber {
		b.Mooney = [2]Law{p.Law(material.RubberC10), p.Law(material.RubberC01)}
		return b
	}
	if !byAxesOf(p) {
		return b
	}
	b.Turn = p.Turn
	b.Modulus[1], b.Modulus[2] = p.Law(material.YoungsModulusY), p.Law(material.YoungsModulusZ)
	for i := 1; i < 3; i++ {
		if b.Modulus[i] == nil {
			b.Modulus[i] = b.Modulus[i-1]
		}
	}
	b.Shear = [3]Law{p.Law(material.ShearModulus), p.Law(material.ShearModulusYZ), p.Law(material.ShearModulusXZ)}
	b.Ratio[1], b.Ratio[2] = p.Law(material.PoissonRatioYZ), p.Law(material.PoissonRatioXZ)
	for i := 1; i < 3; i++ {
		if b.Shear[i] == nil {
			b.Shear[i] = b.Shear[0]
		}
	}
	return b
}

// byAxesOf says that the material of a part is another one along its axes.
func byAxesOf(p *model.ResolvedPart) bool {
	return p.Law(material.YoungsModulusY) != nil || p.Law(material.YoungsModulusZ) != nil
}

// conditions takes in those of the model.
func (d *draft) conditions() {
	field := &d.posed.Fields[0].Field
	hold := func(c *model.ResolvedSentence, component int, value law.Law) {
		field.Held = append(field.Held, couple.Held{Facets: d.On(c), Component: component, Value: value, Least: law.NoBound, What: "displacement", Key: c.ID})
		d.loaded = d.loaded || !isZero(value)
	}
	var pulls []string
	for _, c := range d.Conditions(key) {
		switch c.Kind {
		case KeyFixed:
			for i := range field.Components {
				hold(c, i, formula.Fixed(0))
			}
		case KeyMoved:
			for i := range field.Components {
				if value := c.Laws[axes[i]]; value != nil {
					hold(c, i, value)
				}
			}
		case KeySlanted, KeyRound:
			d.directed(c)
		case KeySlides:
			field.Slides = append(field.Slides, couple.Slide{Facets: d.act(c), Key: c.ID})
		case KeyRigid:
			field.Patches = append(field.Patches, couple.Patch{Facets: d.On(c), Round: d.problem.Form == Round})
		case KeyGlides:
			field.Glides = append(field.Glides, d.joints(c))
		case KeyParted:
			field.Jumps = append(field.Jumps, d.joints(c)...)
		case KeyPressure:
			d.load(c, Load{Kind: Pressure, Value: [3]Law{c.Laws["pressure"]}})
		case KeyForce:
			d.load(c, Load{Kind: Force, InAll: true, Value: byAxis(c)})
		case KeySpread:
			d.load(c, Load{Kind: Force, Value: byAxis(c)})
		case KeyTorque:
			d.load(c, Load{Kind: Torque, InAll: true, Value: byAxis(c)})
		case KeyBed, KeySprings:
			d.load(c, Load{Kind: Springs, InAll: c.Kind == KeySprings, Value: byAxis(c)})
			for i := range field.Components {
				if v := c.Laws[axes[i]]; v != nil && !isZero(v) {
					d.tethers = append(d.tethers, couple.Tether{Facets: d.On(c), Component: i})
				}
			}
		case KeyMass:
			d.load(c, Load{Kind: Mass, InAll: true, Value: [3]Law{c.Laws["mass"]}})
		case KeyFollows:
			for _, k := range d.On(c) {
				d.turning[k] = true
			}
		case KeyPushed:
			d.pushed(c)
		case KeyWeight, KeySpin:
			pulls = append(pulls, c.ID)
			d.pull(c)
		case KeyExpands, KeyInitial, KeyDying:
			d.property(c)
		}
	}
	for i := range d.problem.Loads {
		l := &d.problem.Loads[i]
		l.Follows = l.Kind == Force && slices.ContainsFunc(l.Facets, func(k int32) bool { return d.turning[k] })
	}
	d.posed.Keys = append(d.keys, pulls...)
}

// isZero says that a law is nothing everywhere.
func isZero(l law.Law) bool {
	if l == nil {
		return true
	}
	v, constant := l.Constant()
	return constant && v == 0
}

// byAxis are the values of a sentence by direction.
func byAxis(c *model.ResolvedSentence) (list [3]Law) {
	for i, name := range axes {
		list[i] = c.Laws[name]
	}
	return list
}

// load adds what a sentence lets act.
func (d *draft) load(c *model.ResolvedSentence, l Load) {
	l.Facets = d.act(c)
	for _, v := range l.Value {
		d.loaded = d.loaded || l.Kind != Springs && l.Kind != Mass && !isZero(v)
	}
	d.takes(l.Value[:]...)
	d.problem.Loads, d.keys, d.on = append(d.problem.Loads, l), append(d.keys, c.ID), append(d.on, c.On)
}

// pull adds what pulls each mass.
func (d *draft) pull(c *model.ResolvedSentence) {
	p := Pull{Bodies: map[int32]bool{}, Acceleration: byAxis(c), Spin: c.Laws["speed"]}
	if c.Kind == KeySpin {
		p.Acceleration = [3]Law{}
		p.Axis, p.Through = d.axisWith(c)
	}
	for _, b := range d.BodiesOf(c.On) {
		if _, bends := d.problem.Bodies[b]; bends {
			p.Bodies[b] = true
		}
	}
	for _, v := range append(p.Acceleration[:], p.Spin) {
		d.loaded = d.loaded || !isZero(v)
	}
	d.problem.Pulls = append(d.problem.Pulls, p)
}

// axisWith is the axis of a sentence, with a point on it: in an axial space the axis of that.
func (d *draft) axisWith(c *model.ResolvedSentence) (axis int, at [3]float64) {
	if d.problem.Form == Round {
		return 1, at
	}
	for i, name := range through {
		if l := c.Laws[name]; l != nil {
			at[i], _ = l.Constant()
		}
	}
	return max(0, axisOf(c)), at
}

// property gives bodies what a sentence says of them.
func (d *draft) property(c *model.ResolvedSentence) {
	for _, b := range d.BodiesOf(c.On) {
		body, bends := d.problem.Bodies[b]
		if !bends {
			continue
		}
		switch c.Kind {
		case KeyExpands:
			body.Free, _ = c.Laws["temperature"].Constant()
			for i, key := range []material.Key{material.Expansion, material.ExpansionY, material.ExpansionZ} {
				body.Expansion[i] = d.Part(b).Law(key)
			}
			if body.Expansion[1] != nil || body.Expansion[2] != nil {
				body.Turn = d.Part(b).Turn
			}
			if d.loaded = true; !slices.Contains(d.posed.Takes, couple.Temperature) {
				d.posed.Takes = append(d.posed.Takes, couple.Temperature)
			}
		case KeyInitial:
			for i, name := range []string{"xx", "yy", "zz", "xy", "yz", "zx"} {
				body.Initial[i] = c.Laws[name]
				d.loaded = d.loaded || !isZero(c.Laws[name])
			}
		case KeyDying:
			body.Dying = [2]Law{c.Laws["mass"], c.Laws["stiffness"]}
		}
		d.problem.Bodies[b] = body
	}
}

// directed holds a surface along axes that are slanted, or away from an axis, round it and along it.
func (d *draft) directed(c *model.ResolvedSentence) {
	field := &d.posed.Fields[0].Field
	axis, at := d.axisWith(c)
	a, b := (axis+1)%3, (axis+2)%3
	direction := func(component int) func(x [3]float64) [3]float64 {
		if c.Kind == KeySlanted {
			turn := 0.0
			if l := c.Laws["turn"]; l != nil {
				turn, _ = l.Constant()
			}
			var n [3]float64
			switch cos, sin := math.Cos(turn), math.Sin(turn); component {
			case axis:
				n[axis] = 1
			case a:
				n[a], n[b] = cos, sin
			default:
				n[a], n[b] = -sin, cos
			}
			return func([3]float64) [3]float64 { return n }
		}
		return func(x [3]float64) (n [3]float64) {
			switch component {
			case 0:
				n[a], n[b] = x[a]-at[a], x[b]-at[b]
			case 1:
				n[a], n[b] = -(x[b] - at[b]), x[a]-at[a]
			default:
				n[axis] = 1
			}
			return n
		}
	}
	for i := range 3 {
		value := c.Laws[axes[i]]
		if value == nil {
			continue
		}
		d.loaded = d.loaded || !isZero(value)
		field.Slides = append(field.Slides, couple.Slide{Facets: d.act(c), Key: c.ID, Direction: direction(i), Value: value})
	}
}

// joints are those across which a sentence lets the displacement jump.
func (d *draft) joints(c *model.ResolvedSentence) (list []int32) {
	for _, k := range d.On(c) {
		f := &d.Mesh.Facets[k]
		if f.Other >= 0 && d.posed.Fields[0].Bodies[f.Body] && d.posed.Fields[0].Bodies[f.OtherBody] {
			d.posed.Joints[k] = true
			list = append(list, k)
		}
	}
	if len(list) == 0 {
		d.Refuse("conditions/"+c.ID+"/on", "name a surface at which two parts meet that bend", "%s speaks of no place where two parts that bend touch", c.ID)
	}
	return list
}

// pushed lets what flows push parts.
func (d *draft) pushed(c *model.ResolvedSentence) {
	mine := d.BodySet(c.On)
	push := &frame.Push{Key: c.ID}
	for k := range d.Mesh.Facets {
		f := &d.Mesh.Facets[k]
		if f.Other >= 0 && mine[f.Body] != mine[f.OtherBody] {
			push.Facets = append(push.Facets, int32(k))
		}
	}
	d.posed.Takes = append(d.posed.Takes, couple.PushOnWalls)
	d.posed.Push = append(d.posed.Push, push)
	d.loaded = true
}

// volumes adds the pressure that keeps the volume of what is like rubber.
func (d *draft) volumes() {
	mixed := map[int32]bool{}
	for b, body := range d.problem.Bodies {
		if !body.Rubber || d.problem.Form == Stress {
			continue
		}
		if v, constant := body.Ratio[0].Constant(); constant && v <= hardlyKept {
			continue
		}
		if d.Modal || d.Swings || d.problem.Inertia {
			continue // without it; resolve has said what that needs
		}
		body.Mixed, mixed[b] = true, true
		d.problem.Bodies[b] = body
	}
	if len(mixed) > 0 {
		d.posed.Mixed = true
		d.posed.Fields = append(d.posed.Fields, frame.Field{Field: couple.Field{Name: "pressure that keeps the volume", Bodies: mixed, Order: 1}, Unit: "Pa"})
	}
}

// hardlyKept is the ratio of Poisson up to which the volume needs no pressure of its own.
const hardlyKept = 0.49

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

// loose says in words which parts are held in fewer ways than they can move, and how they can.
func (d *draft) loose(err error) error {
	var l *couple.LooseError
	if !asLoose(err, &l) {
		return err
	}
	out := d.Loose(err, "nothing holds the %s in all directions: it could "+looseWords(l.Motions)+" as a whole", "fix a surface of it, or say how more of it moves")
	if e, ok := out.(*frame.ModelError); ok {
		e.Findings[0].Motions = motions(l.Motions)
	}
	return out
}

// motionWords are those for a motion.
func motionWords(m couple.Motion) string {
	along := func(v [3]float64) string {
		for i, x := range v {
			if math.Abs(x) > 1-1e-6 {
				return axes[i]
			}
		}
		return fmt.Sprintf("(%.2g, %.2g, %.2g)", v[0], v[1], v[2])
	}
	if m.Turn == [3]float64{} {
		return "move along " + along(m.Move)
	}
	return "turn about " + along(m.Turn)
}
