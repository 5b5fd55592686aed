package magnetic

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
)

// draft collects the conditions of a run.
type draft struct {
	*frame.Posing
	posed     *frame.Posed
	problem   Problem
	component int     // of the potential in its group
	timely    bool    // a current changes in time
	kept      []int32 // facets that keep the flux within, as nothing is said of them
}

// pose turns the conditions of the model into equations on the mesh.
func pose(p *frame.Posing) (*frame.Posed, error) {
	space := p.Model.Document.Space
	d := &draft{Posing: p, problem: Problem{Solid: !space.Flat(), Round: space.Kind == model.Axial, Depth: p.Model.Depth, Bodies: map[int32]*Body{}}}
	field := frame.Field{Field: couple.Field{Name: "vector_potential", Bodies: p.Lives(key), Uneven: true}, Unit: "Wb/m", Label: "vector potential"}
	switch {
	case d.problem.Solid:
		field = frame.Field{Field: couple.Field{Name: "scalar_potential", Bodies: p.Lives(key)}, Unit: "A", Label: "magnetic potential"}
	case d.problem.Round:
		field = frame.Field{Field: couple.Field{Name: "vector_potential_over_radius", Bodies: p.Lives(key), Uneven: true}, Unit: "T", Label: "vector potential over radius"}
	}
	for _, c := range d.Conditions(key) {
		if c.Kind == KeyAlternates {
			d.problem.Frequency, _ = c.Laws["frequency"].Constant()
		}
	}
	d.problem.Moves = d.problem.Frequency == 0 && (p.Transient || p.Swings) && slices.ContainsFunc(moving, p.Model.Says)
	field.Changes, field.BeginsSteady = d.problem.Moves, true
	d.posed = &frame.Posed{Flux: "flux_density", Facets: map[int32]bool{}, Joints: map[int32]bool{},
		Shown: func(name string) bool { return name != "flux_function" || !d.problem.Solid }}
	d.field(field)
	for b := range field.Bodies {
		body, err := d.body(b)
		if err != nil {
			return nil, err
		}
		d.problem.Bodies[b] = body
	}
	if err := cmp.Or(d.conditions(), d.Err()); err != nil {
		return nil, err
	}
	d.posed.Outright = len(d.posed.Fields) > 1
	// What neither the time nor the temperature changes is found once.
	d.posed.Ahead = p.Transient && !d.problem.Moves && len(d.posed.Takes) == 0 && !d.timely
	d.skin()
	d.finish()
	return d.posed, nil
}

// field adds one, and of what alternates that a quarter of a swing later.
func (d *draft) field(f frame.Field) {
	d.posed.Fields = append(d.posed.Fields, f)
	if d.problem.Frequency > 0 {
		f.Name, f.Label = f.Name+"_late", f.Label+", a quarter later"
		d.posed.Fields = append(d.posed.Fields, f)
	}
}

// closes makes bodies a circuit with an unknown of its own.
func (d *draft) closes(on []int32, of *Circuit, label, unit string) {
	if len(on) == 0 {
		return
	}
	of.number = len(d.problem.Circuits)
	d.problem.Circuits = append(d.problem.Circuits, of)
	bodies := map[int32]bool{}
	for _, b := range on {
		bodies[b], d.problem.Bodies[b].Circuit = true, of
	}
	d.field(frame.Field{Field: couple.Field{Name: fmt.Sprintf("circuit_%d", of.number+1), Bodies: bodies, Even: true, BeginsSteady: true}, Unit: unit, Label: label + " of the " + d.BodyName(on[0])})
	d.drivenBy(of.Total, of.Voltage)
}

// heats lets a sentence give off heat, where the run finds what that is.
func (d *draft) heats(sentence string) {
	if len(d.posed.Supplies) == 0 {
		d.posed.Supplies = append(d.posed.Supplies, frame.Supplied{Quantity: couple.HeatPerVolume, Sentence: sentence})
	}
}

// conducts lets the field drive currents in a body.
func (d *draft) conducts(b int32) {
	l := d.Part(b).Law(material.Resistivity)
	d.problem.Bodies[b].Resistivity = l
	d.takes(l)
}

// body takes in the material of a body.
func (d *draft) body(b int32) (*Body, error) {
	part := d.Part(b)
	body := &Body{Turn: part.Turn}
	if f, ok := part.Properties[material.Magnetisation]; ok {
		curve, err := NewCurve(func(h float64) float64 { return f.At(h) }, f.To)
		if err != nil {
			return nil, frame.Wrong("materials/"+part.Material.Name, "mend its curve of flux density over field strength", "the %s cannot be magnetised as its material says: %v", part.Name, err)
		}
		body.Iron = curve
	} else if l := part.Law(material.Permeability); l != nil {
		body.Permeability = l
		d.takes(l)
	}
	return body, nil
}

// takes notes that a law depends on the temperature.
func (d *draft) takes(laws ...Law) {
	for _, l := range laws {
		if l != nil && l.Uses(law.Temperature) {
			d.posed.Takes = append(d.posed.Takes, couple.Temperature)
		}
	}
}

// drivenBy notes that what drives the field changes in time.
func (d *draft) drivenBy(laws ...Law) { d.timely = d.timely || !law.Timeless(laws...) }

// conditions takes in those of the model.
func (d *draft) conditions() error {
	open, crossed := map[int32]bool{}, map[int32]bool{}
	var shells []*model.ResolvedSentence
	for _, c := range d.Conditions(key) {
		switch c.Kind {
		case KeyMagnet:
			for _, b := range d.BodiesOf(c.On) {
				d.magnet(d.problem.Bodies[b], d.Part(b), c)
			}
		case KeyCoil:
			d.drivenBy(c.Laws["current"])
			for _, b := range d.BodiesOf(c.On) {
				body := d.problem.Bodies[b]
				body.Turns, body.Current = c.Laws["turns"], c.Laws["current"]
				if d.problem.Solid {
					w, err := d.winding(b, c)
					if err != nil {
						return err
					}
					d.problem.Windings = append(d.problem.Windings, w)
				}
			}
		case KeyDriven:
			if d.problem.Frequency > 0 || d.problem.Moves {
				d.heats(c.ID)
			}
			for _, b := range d.BodiesOf(c.On) {
				d.conducts(b)
			}
		case KeyMoves:
			if d.Swings && !law.Timeless(c.Laws["x"], c.Laws["y"]) {
				return frame.Wrong("conditions/"+c.ID, "let it move evenly, or choose a run in time", "a field is linear in what swings, and not in the velocity of %s as well", c.ID)
			}
			d.heats(c.ID)
			for _, b := range d.BodiesOf(c.On) {
				d.conducts(b)
				body := d.problem.Bodies[b]
				body.Velocity = [2]Law{c.Laws["x"], c.Laws["y"]}
				d.drivenBy(body.Velocity[:]...)
			}
		case KeyTotal:
			d.heats(c.ID)
			on := d.BodiesOf(c.On)
			for _, b := range on {
				d.conducts(b)
			}
			d.closes(on, &Circuit{Total: c.Laws["current"]}, "voltage", "V")
		case KeyFed:
			d.heats(c.ID)
			on := d.BodiesOf(c.On)
			for _, b := range on {
				d.problem.Bodies[b].Turns = c.Laws["turns"]
			}
			d.closes(on, &Circuit{Voltage: c.Laws["voltage"], Resistance: c.Laws["resistance"]}, "current", "A")
		case KeyShell:
			shells = append(shells, c)
		case KeyOpen, KeyCrosses:
			for _, k := range d.On(c) {
				open[k], crossed[k] = c.Kind == KeyOpen, c.Kind == KeyCrosses
			}
		}
	}
	for _, c := range shells {
		if err := d.shell(c); err != nil {
			return err
		}
	}
	for k := range open {
		if d.faraway(k) {
			return frame.Wrong("conditions/"+shells[0].ID, "remove one of them", "the shell stands for all space beyond, and another sentence says what there is at its outer side")
		}
	}
	d.bounds(open, crossed)
	return nil
}

// magnet makes a body a magnet.
func (d *draft) magnet(b *Body, part *model.ResolvedPart, c *model.ResolvedSentence) {
	b.North, b.Remanence = [3]Law{c.Laws["x"], c.Laws["y"], c.Laws["z"]}, part.Law(material.Remanence)
	b.Iron, b.Permeability = nil, part.Law(material.RecoilPermeability)
	if b.Permeability == nil {
		b.Permeability = part.Law(material.Permeability)
	}
	if l := part.Law(material.RemanenceSlope); l != nil {
		b.Slope, _ = l.Constant()
		d.posed.Takes = append(d.posed.Takes, couple.Temperature)
	}
	if l := part.Law(material.Coercivity); l != nil {
		b.Knee, _ = l.Constant()
	}
	d.takes(b.Remanence, b.North[0], b.North[1], b.North[2])
}

// finish says how the kernel is made and how readings are taken.
func (d *draft) finish() {
	p := d.posed
	p.Free = func(g *couple.Group, field int) error {
		if d.problem.Round || len(d.problem.Open) > 0 || len(d.posed.Fields[0].Pins) > 0 {
			return nil
		}
		return d.Loose(g.Fixed(field, nil, nil), "flux crosses all that bounds the %s: nothing says where its potential is nothing", "let a side of it keep the flux within")
	}
	p.Build = func(b *frame.Building) (frame.Kernel, error) {
		if err := d.measure(b.Group); err != nil {
			return nil, err
		}
		d.component = b.Component
		return newKernel(b.Group, &d.problem, b.Component, b.Variable, b.Varies), nil
	}
	p.Read = read
	p.Check = d.check
}

// measure finds the areas of the sections of coils, and the middle of magnets and coils.
func (d *draft) measure(g *couple.Group) error {
	makes, at := map[int32]bool{}, &fem.State{U: make([]float64, g.System.N)}
	for b, body := range d.problem.Bodies {
		makes[b] = body.Turns != nil || body.Remanence != nil || body.Circuit != nil
		body.Area = 0
	}
	for _, c := range d.problem.Circuits {
		c.Volume = 0
	}
	var sum vector
	volume := 0.
	err := g.System.EachCell(at, makes, func(points []fem.Point, weights []float64) error {
		body := d.problem.Bodies[points[0].Part]
		for q, w := range weights {
			volume += w
			if body.Circuit != nil {
				body.Circuit.Volume += w
			}
			for i, x := range points[q].X {
				sum[i] += w * x
			}
			switch {
			case d.problem.Solid:
			case d.problem.Round:
				body.Area += w / (2 * math.Pi * points[q].X[0])
			default:
				body.Area += w / d.problem.Depth
			}
		}
		return nil
	})
	for i := range sum {
		d.problem.Middle[i] = sum[i] / volume
	}
	if d.problem.Round {
		d.problem.Middle[0] = 0
	}
	return err
}

// check warns of iron beyond its curve and of magnets that lose remanence.
func (d *draft) check(s *couple.Solution) {
	k := newKernel(s.Group, &d.problem, d.component, -1, false)
	d.near(s, k)
	halves := k.parts()
	densest, against, carried := map[int32]float64{}, map[int32]float64{}, map[int32]float64{}
	err := s.System.EachCell(s.State, nil, func(points []fem.Point, weights []float64) error {
		if err := k.Prepare(-1, points); err != nil || k.stuff().body == nil {
			return err
		}
		if section, ok := halves[0].kernel.(*section); ok && k.stuff().body.moves() {
			area, most := 0., 0.
			for q, w := range weights {
				v, _ := k.stuff().velocity(q)
				area += w * section.along(&points[q])
				most = max(most, math.Hypot(v[0], v[1])*k.stuff().conductivity(q)*Vacuum*k.stuff().relative(q))
			}
			carried[points[0].Part] = max(carried[points[0].Part], most*math.Sqrt(area)/2/float64(max(1, d.Model.Order)))
		}
		for q := range points {
			p, square := &points[q], 0.
			var h vector
			for _, half := range halves { // of what alternates the amplitude
				var b vector
				b, h, _ = half.kernel.state(p, q)
				square += dot(b, b)
			}
			switch of := k.stuff().body; {
			case of.Iron != nil:
				densest[p.Part] = max(densest[p.Part], math.Sqrt(square))
			case of.Remanence != nil:
				against[p.Part] = max(against[p.Part], k.stuff().against(p, q, h))
			}
		}
		return nil
	})
	if err != nil {
		return // what failed fails elsewhere too
	}
	for _, b := range slices.Sorted(maps.Keys(d.problem.Bodies)) {
		of := d.problem.Bodies[b]
		if carried[b] > 1 {
			d.Warn("the %s moves so fast that the field in it may swing from cell to cell: cells %s times as short would follow it", d.BodyName(b), quantity.Figures(math.Ceil(carried[b]), 2))
		}
		if of.Iron != nil && densest[b] > of.Iron.Last() {
			d.Warn("the %s has up to %s, beyond its curve, which ends at %s: it is taken to be as vacuum from there on", d.BodyName(b), quantity.Show(densest[b], "T", false, 3), quantity.Show(of.Iron.Last(), "T", false, 3))
		}
		if of.Knee > 0 && against[b] > of.Knee {
			d.Warn("a field of up to %s opposes the %s, which loses remanence for good from %s on: a plate of knee_share shows where, at more than 1", quantity.Show(against[b], "kA/m", false, 3), d.BodyName(b), quantity.Show(of.Knee, "kA/m", false, 3))
		}
	}
}
