package pipes

import (
	"slices"
	"strings"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
)

// draft collects the conditions of a run.
type draft struct {
	*frame.Posing
	posed   *frame.Posed
	problem *Problem
	at      map[[2]int32]int // by body and point of its line: its bar
	keys    map[string]int
	held    map[int32]string // nodes at which a pressure is given, with the sentence
}

// pose turns the conditions of the model into equations on the mesh.
func pose(p *frame.Posing) (*frame.Posed, error) {
	d := &draft{Posing: p, problem: &Problem{Air: usualAir, Transient: p.Transient, Fluids: map[int32]*Fluid{}, Open: map[int32]bool{}, of: map[[3]int32]int{}}, at: map[[2]int32]int{}, keys: map[string]int{}, held: map[int32]string{}}
	bodies := d.Lives(key)
	d.posed = &frame.Posed{Facets: map[int32]bool{}, Joints: map[int32]bool{}, Shown: func(string) bool { return true }, Outright: true, Chords: true, Exact: true, Read: read,
		Fields:   []frame.Field{{Field: couple.Field{Name: "pipe_total", Order: 1, Bodies: bodies, Changes: p.Transient, BeginsSteady: true}, Unit: "Pa", Label: "total pressure in pipes"}},
		Balances: []frame.Balance{{Name: "mass in pipes", Unit: "kg/s"}}}
	for _, c := range d.Conditions(key) {
		switch c.Kind {
		case KeyWarms:
			d.problem.Warm = true
		case KeyInside:
			d.problem.Warm = true
			d.posed.InTurns = true
			d.posed.Takes = []string{couple.Temperature}
			d.posed.Supplies = append(d.posed.Supplies, frame.Supplied{Quantity: couple.HeatPerVolume, Sentence: c.ID})
		case KeyGravity:
			d.problem.Gravity = constant(c, "strength")
		case KeyAir:
			d.problem.Air = constant(c, "pressure")
		}
	}
	if d.problem.Warm {
		d.posed.Fields = append(d.posed.Fields, frame.Field{Field: couple.Field{Name: "pipe_temperature", Order: 1, Bodies: bodies, Changes: p.Transient, BeginsSteady: true}, Unit: "K", Label: "temperature in pipes"})
		d.posed.Late, d.posed.Bold = []int{1}, true // flows hardly depend on it: from those without it whole steps lead to both
		if !p.Transient {
			d.posed.Balances = append(d.posed.Balances, frame.Balance{Name: "heat in pipes", Unit: "W", Field: 1})
		}
	}
	d.bars(bodies)
	if err := d.fluids(); err != nil {
		return nil, err
	}
	for _, c := range d.Conditions(key) {
		d.said(c)
	}
	d.corners()
	if err := d.Err(); err != nil {
		return nil, err
	}
	if err := d.connected(); err != nil {
		return nil, err
	}
	d.begins()
	d.problem.accounts = len(d.posed.Keys)
	d.posed.Build = func(b *frame.Building) (frame.Kernel, error) {
		k := newKernel(b.Group, d.problem, b.Component)
		if d.posed.InTurns {
			var err error
			if k.inside, err = newInside(d, b.Group, b.Variable); err != nil {
				return nil, err
			}
		}
		return k, nil
	}
	d.posed.Check = d.check
	return d.posed, nil
}

// constant is the number that a slot of a sentence is, 0 for none.
func constant(c *model.ResolvedSentence, slot string) float64 {
	if l := c.Laws[slot]; l != nil {
		v, _ := l.Constant()
		return v
	}
	return 0
}

// bars takes in those of the mesh.
func (d *draft) bars(bodies map[int32]bool) {
	m := d.Mesh
	for i := range m.Lines.Pieces {
		cell := m.Lines.First + int32(i)
		if !bodies[m.Body[cell]] {
			continue
		}
		piece, corners := &m.Lines.Pieces[i], m.Cell(cell)
		n := len(d.problem.Bars)
		bar := Bar{Body: m.Body[cell], Nodes: [2]int32{corners[0], corners[1]}, Length: piece.Length, Point: piece.Point, Beside: -1}
		if bar.Point < 0 {
			bar.Rise = m.At(corners[1])[2] - m.At(corners[0])[2]
		}
		if piece.Point >= 0 {
			d.at[[2]int32{bar.Body, piece.Point}] = n
		}
		d.problem.of[[3]int32{bar.Body, bar.Nodes[0], bar.Nodes[1]}] = n
		d.problem.Bars = append(d.problem.Bars, bar)
	}
	// The heights of what is drawn beside a point are those of the point.
	for i := range d.problem.Bars {
		b := &d.problem.Bars[i]
		if b.Point >= 0 {
			for _, other := range []int{i - 1, i + 1} {
				if other >= 0 && other < len(d.problem.Bars) && d.problem.Bars[other].Body == b.Body && d.problem.Bars[other].Point < 0 && b.Beside < 0 {
					b.Beside = other
				}
			}
			rise := m.At(b.Nodes[1])[2] - m.At(b.Nodes[0])[2]
			if next := i + 1; next < len(d.problem.Bars) && d.problem.Bars[next].Body == b.Body && d.problem.Bars[next].Nodes[0] == b.Nodes[1] {
				d.problem.Bars[next].Rise += rise
			} else if i > 0 {
				d.problem.Bars[i-1].Rise += rise
			}
		}
	}
}

// fluids finds what fills each pipe, how wide it is and how rough.
func (d *draft) fluids() error {
	type pipe struct {
		section  Section
		rough    float64
		relation Relation
		wall     *Wall
	}
	of := map[int32]*pipe{}
	byPart := map[int]*Fluid{}
	for _, c := range d.Conditions(key) {
		if c.Definition.Acts == 0 || len(c.Parts) == 0 {
			continue
		}
		for _, body := range d.BodiesOf(c.On) {
			if of[body] == nil {
				of[body] = &pipe{}
			}
			p := of[body]
			switch c.Kind {
			case KeyCarries:
				part := d.Owner[body][0]
				if byPart[part] == nil || byPart[part].Temperature != constant(c, "temperature") {
					fluid, err := newFluid(&d.Model.Parts[part], constant(c, "temperature"))
					if err != nil {
						return err
					}
					byPart[part] = fluid
				}
				d.problem.Fluids[body] = byPart[part]
				d.problem.Zero = constant(c, "temperature")
			case KeyRound:
				p.section = Round(constant(c, "diameter"))
			case KeyChannel:
				p.section = Channel(constant(c, "width"), constant(c, "height"))
			case KeyRough:
				p.rough = constant(c, "roughness")
			case KeyWall:
				p.rough, _ = law.Still(c.Properties[material.Roughness].Program, false)
			case KeyFriction:
				p.relation = Relation(slices.Index(Relations, strings.TrimSpace(c.Values["relation"])))
			case KeyInside:
				p.wall = &Wall{Key: c.ID, Inside: true, Coefficient: c.Laws["coefficient"], long: d.Mesh.Lines.Line[body].Length(), account: d.account(c.ID)}
			case KeyWarms:
				p.wall = &Wall{Key: c.ID, Coefficient: c.Laws["coefficient"], Surroundings: c.Laws["surroundings"], account: d.account(c.ID)}
			}
		}
	}
	for i := range d.problem.Bars {
		b := &d.problem.Bars[i]
		p := of[b.Body]
		b.Section, b.Rough, b.Relation, b.Wall, b.Fluid = p.section, p.rough, p.relation, p.wall, d.problem.Fluids[b.Body]
		b.Fluid.varies = b.Fluid.varies && d.problem.Warm
	}
	return nil
}

// newFluid is what fills a part.
func newFluid(p *model.ResolvedPart, temperature float64) (*Fluid, error) {
	f := &Fluid{Name: p.Material.Name, Temperature: temperature, Viscosity: p.Law(material.Viscosity), Vapour: p.Law(material.VapourPressure), liquid: p.Material.Family == "liquid"}
	for _, of := range []struct {
		key material.Key
		to  *float64
	}{{material.Density, &f.Density}, {material.HeatCapacity, &f.Capacity}, {material.Conductivity, &f.Conductivity}, {material.Viscosity, &f.viscosity}} {
		if l := p.Law(of.key); l != nil {
			*of.to = atTemperature(l, temperature)
			if !(*of.to > 0) {
				return nil, frame.Wrong("parts/"+p.ID+"/material", "give it properties that hold there, or another temperature", "the %s of %s is not known at %s", of.key, f.Name, quantity.Show(temperature, "°C", false, 4))
			}
		}
	}
	_, constant := f.Viscosity.Constant()
	f.varies = !constant
	return f, nil
}

// atTemperature is a law at a temperature, K.
func atTemperature(l Law, temperature float64) float64 {
	s := law.NewSet(l)
	s.Run([]fem.Point{{U: []float64{temperature}, Grad: make([][3]float64, 1), Rate: make([]float64, 1)}}, 0)
	return s.At(0, 0)
}

// account is the number of that of a sentence.
func (d *draft) account(id string) int {
	n, known := d.keys[id]
	if !known {
		n = len(d.posed.Keys)
		d.keys[id] = n
		d.posed.Keys = append(d.posed.Keys, id)
	}
	return n
}

// points calls f for the points of lines that a condition is about, with the facet there, and notes that it is about none.
func (d *draft) points(c *model.ResolvedSentence, f func(facet, body int32, point int32)) {
	for _, k := range d.On(c) {
		facet := &d.Mesh.Facets[k]
		line := d.Mesh.Lines.Line[facet.Body]
		if line == nil {
			continue
		}
		name := d.Mesh.Sides[facet.Side]
		for i, q := range line.Points {
			if q.Name == name {
				f(k, facet.Body, int32(i))
			}
		}
	}
}

// said takes in what a sentence says of points.
func (d *draft) said(c *model.ResolvedSentence) {
	switch c.Kind {
	case KeyTank, KeyOpen, KeyBeyond:
		d.holds(c)
	case KeyLeaves, KeyEnters:
		d.points(c, func(k, body, _ int32) {
			d.posed.Facets[k] = true
			d.problem.Ends = append(d.problem.Ends, End{Facet: k, Flow: c.Laws["flow"], Out: c.Kind == KeyLeaves, Temperature: c.Laws["temperature"], account: d.account(c.ID), body: body})
		})
	case KeyBend, KeyValve, KeyCheck, KeyFitting, KeyLike, KeyPump:
		d.points(c, func(_, body, point int32) {
			i, ok := d.at[[2]int32{body, point}]
			if !ok {
				return
			}
			bar := &d.problem.Bars[i]
			line := d.Mesh.Lines.Line[body]
			if last := len(line.Points) - 1; c.Kind == KeyBend && (point == 0 || int(point) == last) {
				d.Refuse("conditions/"+c.ID+"/on", "choose a point between its ends", "%s speaks of a bend at an end of the %s", c.ID, d.BodyName(body))
				return
			}
			item := &Item{Key: c.ID, Kind: c.Kind, Valve: -1}
			switch c.Kind {
			case KeyBend:
				item.Angle, item.Radius = line.Turn(int(point)), constant(c, "radius")/bar.Diameter
				bar.Items = slices.DeleteFunc(bar.Items, func(o *Item) bool { return o.Kind == KeyBend })
			case KeyValve:
				item.Valve, item.Opening = slices.Index(Valves, strings.TrimSpace(c.Values["kind"])), c.Laws["opening"]
			case KeyCheck:
				item.Forward, item.Back = constant(c, "loss"), closed
			case KeyFitting:
				item.Forward, item.Back = constant(c, "loss"), constant(c, "loss")
			case KeyLike:
				bar.Like += constant(c, "length")
			case KeyPump:
				item.Pump, _ = pumpOf(c)
			}
			bar.Items = append(bar.Items, item)
		})
	}
}

// holds takes in a place at which the pressure is given.
func (d *draft) holds(c *model.ResolvedSentence) {
	field := &d.posed.Fields[0].Field
	form := 0.0
	if c.Kind == KeyTank {
		form = opening[slices.Index(Openings, strings.TrimSpace(c.Values["form"]))]
	}
	d.points(c, func(k, body, _ int32) {
		node := d.Mesh.Facets[k].Nodes[0]
		if other := d.held[node]; other != "" {
			if other != c.ID {
				d.Refuse("conditions/"+c.ID+"/on", "remove one of them", "%s and %s both say what the pressure is at the %s", other, c.ID, d.Words(c.On))
			}
			return
		}
		d.held[node] = c.ID
		if c.Kind == KeyOpen {
			d.problem.Open[node] = true
		}
		d.posed.Facets[k] = true
		fluid := d.problem.Fluids[body]
		held := couple.Held{Facets: []int32{k}, Value: formula.Fixed(0), Least: law.NoBound, What: "pressure in pipes", Key: c.ID}
		if l := c.Laws["pressure"]; l != nil {
			held.Value = l
		}
		if c.Kind == KeyTank {
			// The pressure under the surface, less the height of the place.
			weight, height := fluid.Density*d.problem.Gravity, d.Mesh.At(node)[2]
			over := 0.0
			if l := c.Laws["pressure"]; l != nil {
				if v, constant := l.Constant(); constant {
					over = v
				} else {
					d.Refuse("conditions/"+c.ID+"/values/pressure", "give a number", "the pressure over the tank of %s cannot change in time", c.ID)
				}
			}
			held.Value, held.Offset = c.Laws["level"], over/weight-height
			held.Shape = func([3]float64) float64 { return weight }
			if l := c.Laws["area"]; l != nil {
				area, _ := l.Constant()
				d.problem.Ends = append(d.problem.Ends, End{Facet: k, Area: area, account: d.account(c.ID), body: body})
				held.AtStart = d.Transient
			}
		}
		field.Held = append(field.Held, held)
		if d.problem.Warm {
			warm := couple.Held{Facets: []int32{k}, Value: formula.Fixed(fluid.Temperature), Least: 0, What: "temperature in pipes", Key: c.ID}
			if l := c.Laws["temperature"]; l != nil {
				warm.Value = l
			}
			d.posed.Fields[1].Held = append(d.posed.Fields[1].Held, warm)
		}
		// What flows in loses its speed there, what flows out by the form of the opening.
		for i := range d.problem.Bars {
			b := &d.problem.Bars[i]
			switch {
			case b.Point < 0:
			case b.Nodes[0] == node:
				b.Items = append(b.Items, &Item{Key: c.ID, Forward: form, Back: 1, Valve: -1})
			case b.Nodes[1] == node:
				b.Items = append(b.Items, &Item{Key: c.ID, Forward: 1, Back: form, Valve: -1})
			}
		}
	})
}

// corners gives those of lines the losses of bends of their radii, of which nothing else is said.
func (d *draft) corners() {
	for at, i := range d.at {
		bar := &d.problem.Bars[i]
		line := d.Mesh.Lines.Line[at[0]]
		turn := line.Turn(int(at[1]))
		if turn > 1e-3 && !slices.ContainsFunc(bar.Items, func(o *Item) bool { return o.Kind == KeyBend }) {
			bar.Items = append(bar.Items, &Item{Angle: turn, Radius: line.Points[at[1]].Round / bar.Diameter, Valve: -1})
		}
	}
}

// connected says what is wrong with how pipes are joined: pieces without a given pressure, and different fluids.
func (d *draft) connected() error {
	parent := map[int32]int32{}
	var find func(v int32) int32
	find = func(v int32) int32 {
		p, ok := parent[v]
		if !ok || p == v {
			parent[v] = v
			return v
		}
		root := find(p)
		parent[v] = root
		return root
	}
	fluids := map[int32]*Bar{}
	for i := range d.problem.Bars {
		b := &d.problem.Bars[i]
		for _, v := range b.Nodes {
			if other := fluids[v]; other != nil && (other.Fluid.Name != b.Fluid.Name || other.Fluid.Temperature != b.Fluid.Temperature) {
				return frame.Wrong("conditions", "let both carry the same, at the same temperature", "the %s and the %s are joined and carry different fluids: %s at %s and %s at %s", d.BodyName(other.Body), d.BodyName(b.Body),
					other.Fluid.Name, quantity.Show(other.Fluid.Temperature, "°C", false, 4), b.Fluid.Name, quantity.Show(b.Fluid.Temperature, "°C", false, 4))
			}
			fluids[v] = b
		}
		parent[find(b.Nodes[0])] = find(b.Nodes[1])
	}
	fixed := map[int32]bool{}
	for v := range d.held {
		fixed[find(v)] = true
	}
	for i := range d.problem.Bars {
		if b := &d.problem.Bars[i]; !fixed[find(b.Nodes[0])] {
			return frame.Wrong("conditions", "join it to others, or say where a tank, the open or a pressure is", "nothing fixes the pressure in the %s", d.BodyName(b.Body))
		}
	}
	return nil
}

// begins says with what pressures a solution begins: those of a fluid at rest under the mean of what is held.
func (d *draft) begins() {
	var sum, n float64
	weight := 0.0
	for _, f := range d.problem.Fluids {
		weight = max(weight, f.Density*d.problem.Gravity)
	}
	for _, h := range d.posed.Fields[0].Held {
		v, constant := h.Value.Constant()
		if !constant {
			continue
		}
		v += h.Offset
		at := d.Mesh.At(d.Mesh.Facets[h.Facets[0]].Nodes[0])
		if h.Shape != nil {
			v *= h.Shape(at)
		}
		sum, n = sum+v+weight*at[2], n+1
	}
	mean := sum / max(1, n)
	d.posed.Fields[0].StartAt = func(x [3]float64) float64 { return mean - weight*x[2] }
	if d.problem.Warm {
		d.posed.Fields[1].Start = d.problem.Zero
	}
}
