package flow

import (
	"cmp"
	"errors"
	"maps"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/material"
	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
)

// draft collects the conditions of a run.
type draft struct {
	*frame.Posing
	posed    *frame.Posed
	problem  Problem
	openings []string // keys
	inlets   []string
	fluid    map[int32]bool
	spoken   map[int32]bool // facets of which a sentence speaks
	free     map[int32]bool // those along which fluid slips
	passes   map[int32]bool // those through which it passes
	walled   map[int32]bool // nodes at walls, nil until they are asked for
	wet      []int32        // walls that it sticks to, still or moving
	built    *Kernel
	// wide is the greatest speed of wide streams, m/s.
	wide    float64
	streams []wideStream
	// arrive is what is carried of eddies, by place, in what comes in by a sentence as from a long channel.
	arrive map[string][]func(x [3]float64) float64
}

// pose turns the conditions of the model into equations on the mesh.
func pose(p *frame.Posing) (*frame.Posed, error) {
	moves := p.Transient && !p.Model.Says(KeyAhead)
	d := &draft{Posing: p, fluid: p.Lives(key), spoken: map[int32]bool{}, free: map[int32]bool{}, passes: map[int32]bool{}, arrive: map[string][]func(x [3]float64) float64{}}
	d.problem = Problem{Dimension: 3, Round: p.Model.Document.Space.Kind == model.Axial, Transient: moves, Bodies: map[int32]Body{}}
	if p.Model.Document.Space.Flat() {
		d.problem.Dimension = 2
	}
	d.posed = &frame.Posed{
		Fields: []frame.Field{
			{Field: couple.Field{Name: "velocity", Components: d.problem.Dimension, Bodies: d.fluid, Changes: moves}, Unit: "m/s"},
			{Field: couple.Field{Name: "pressure", Bodies: d.fluid, Order: 1, Multiplier: true}, Unit: "Pa"},
		},
		Facets: map[int32]bool{}, Joints: map[int32]bool{}, Shown: d.problem.shown, Read: read, Ahead: p.Transient && !moves,
		Supplies: []frame.Supplied{{Quantity: couple.HeatStream}, {Quantity: couple.VolumeStream}, {Quantity: couple.PushOnWalls}},
	}
	d.problem.Energy = p.Model.Says(KeyEnergy)
	d.problem.Turbulent = isTurbulent(p.Model)
	if d.problem.Stable = p.Model.Order == 1; d.problem.Stable {
		d.posed.Paced, d.posed.Fields[1].Order, d.posed.Fields[1].Multiplier = true, 0, moves
	}
	if d.problem.Turbulent {
		d.posed.Fields = append(d.posed.Fields, d.eddyFields()...)
	}
	d.posed.Restless = "a flow that is fast for its friction may swing for ever and have no steady state: run it in time, or make cells finer"
	d.bodies()
	d.conditions()
	if err := d.Err(); err != nil {
		return nil, err
	}
	if err := d.level(); err != nil {
		return nil, err
	}
	d.symmetry()
	d.walls()
	if d.problem.Turbulent {
		d.turbulence()
		if err := d.Err(); err != nil {
			return nil, err
		}
	}
	d.finish()
	return d.posed, nil
}

// bodies gives those that flow what fills them. Under gravity a fluid is at rest at one temperature.
func (d *draft) bodies() {
	at := law.UsualTemperature
	for _, c := range d.Conditions(key) {
		switch c.Kind {
		case KeyFlows:
			for i := range d.posed.Supplies {
				by := &d.posed.Supplies[i]
				by.Sentence = cmp.Or(by.Sentence, c.ID)
			}
		case KeyGravity:
			if v, ok := c.Laws["temperature"].Constant(); ok {
				at = v
			}
			d.problem.Gravity = [3]Law{c.Laws["x"], c.Laws["y"], c.Laws["z"]}
		}
	}
	thins, matrices := map[int32]*Thinning{}, map[int32]*Matrix{}
	for _, c := range d.Conditions(key) {
		for _, b := range d.BodiesOf(c.On) {
			switch c.Kind {
			case KeyThins:
				thins[b] = &Thinning{Fast: c.Laws["fast"], Time: c.Laws["time"], Exponent: c.Laws["exponent"]}
			case KeyMatrix:
				matrices[b] = &Matrix{Permeability: c.Laws["permeability"], Inertia: c.Laws["inertia"]}
			}
		}
	}
	for b := range d.fluid {
		part := d.Part(b)
		body := Body{Thins: thins[b], Matrix: matrices[b], Density: part.Law(material.Density), Viscosity: part.Law(material.Viscosity), Capacity: part.Law(material.HeatCapacity)}
		f := part.Properties[material.Density]
		if d.problem.Turbulent && body.Capacity != nil {
			body.Conductivity = part.Law(material.Conductivity)
		}
		body.Reference = f.At(min(max(at, f.From), f.To))
		for _, l := range []Law{body.Density, body.Viscosity} {
			if l.Uses(law.Temperature) {
				d.posed.Takes = append(d.posed.Takes, couple.Temperature)
				d.posed.Driven = d.posed.Driven || l == body.Density && d.problem.Gravity != [3]Law{}
			}
		}
		d.problem.Bodies[b] = body
	}
}

// hold holds a component of the velocity on facets.
func (d *draft) hold(id string, facets []int32, component int, value Law, shape func(x [3]float64) float64) {
	field := &d.posed.Fields[0].Field
	field.Held = append(field.Held, couple.Held{Facets: facets, Component: component, Value: value, Shape: shape, Least: law.NoBound, What: "speed", Key: id})
}

// conditions takes in those of the model.
func (d *draft) conditions() {
	var moving []*model.ResolvedSentence
	for _, c := range d.Conditions(key) {
		switch { // what comes in beside it must know
		case c.Kind == KeySlips || c.Kind == KeyStream: // beside a wide stream there is no wall
			for _, k := range d.On(c) {
				d.free[k] = true
			}
		case enters(c.Kind):
			for _, k := range d.On(c) {
				d.passes[k] = true
			}
		}
	}
	for _, c := range d.Conditions(key) {
		switch c.Kind {
		case KeyFlows, KeyGravity, KeyAhead, KeyThins, KeyMatrix, KeyTurbulent, KeyEnergy, KeyBrings, KeyRatio:
			continue
		case KeyRough: // says nothing of what else happens there
			height, _ := c.Laws["height"].Constant()
			d.problem.Rough = append(d.problem.Rough, Rough{Facets: d.On(c), Height: height})
			for _, k := range d.On(c) {
				d.posed.Facets[k] = true
			}
			continue
		}
		facets := d.On(c)
		for _, k := range facets {
			d.spoken[k] = true
			d.posed.Facets[k] = true
		}
		switch c.Kind {
		case KeyInlet, KeyChannel, KeyThrough:
			d.inlet(c, facets)
		case KeyStream:
			if err := d.stream(c, facets); err != nil {
				d.Refuse("conditions/"+c.ID, "give its speed by numbers or formulas of the place", "%s: %v", c.ID, err)
			}
		case KeyRepeats, KeyCarries:
			d.repeat(c, facets)
		case KeyFan:
			d.problem.Openings = append(d.problem.Openings, Opening{Facets: facets, Pressure: c.Laws["pressure"], Total: true, Fan: true})
			d.openings = append(d.openings, c.ID)
		case KeyOpening, KeyStill:
			d.problem.Openings = append(d.problem.Openings, Opening{Facets: facets, Pressure: c.Laws["pressure"], Total: c.Kind == KeyStill})
			d.openings = append(d.openings, c.ID)
		case KeySlips:
			d.slip(c, facets)
		case KeyWallMoves, KeyWallTurns:
			moving = append(moving, c)
		}
	}
	for _, c := range moving {
		d.wet = append(d.wet, d.On(c)...)
		if c.Kind == KeyWallTurns {
			d.turning(c)
			continue
		}
		for i := range d.problem.Dimension {
			value := c.Laws[axes[i]]
			if value == nil {
				value = formula.Fixed(0)
			}
			d.hold(c.ID, d.On(c), i, value, nil)
		}
	}
}

// slip lets fluid pass along facets without friction.
func (d *draft) slip(c *model.ResolvedSentence, facets []int32) {
	if d.problem.Stable && d.aslant(facets) {
		d.Refuse("conditions/"+c.ID+"/on", "turn the device along its axes, or choose cells of order 2", "%s: with cells of order 1 a fluid slips along flat surfaces across an axis only", c.ID)
		return
	}
	if !d.problem.Stable {
		d.posed.Fields[0].Slides = append(d.posed.Fields[0].Slides, couple.Slide{Facets: facets, Key: c.ID})
		return
	}
	// Where sides across different axes meet, both hold: their mean would be aslant.
	var across [3][]int32
	for _, k := range facets {
		normal, _ := d.normalOf(k)
		axis := 0
		for i, n := range normal {
			if math.Abs(n) > math.Abs(normal[axis]) {
				axis = i
			}
		}
		across[axis] = append(across[axis], k)
	}
	for _, list := range across {
		if len(list) > 0 {
			d.posed.Fields[0].Slides = append(d.posed.Fields[0].Slides, couple.Slide{Facets: list, Key: c.ID})
		}
	}
}

// turning holds the velocity of a wall that turns about a line along z.
func (d *draft) turning(c *model.ResolvedSentence) {
	var about [2]float64
	for i, name := range []string{"x", "y"} {
		if l := c.Laws[name]; l != nil {
			about[i], _ = l.Constant()
		}
	}
	d.hold(c.ID, d.On(c), 0, c.Laws["rate"], func(x [3]float64) float64 { return about[1] - x[1] })
	d.hold(c.ID, d.On(c), 1, c.Laws["rate"], func(x [3]float64) float64 { return x[0] - about[0] })
	if d.problem.Dimension == 3 {
		d.hold(c.ID, d.On(c), 2, formula.Fixed(0), nil)
	}
}

// inlet holds the velocity where fluid comes in, against the outside.
func (d *draft) inlet(c *model.ResolvedSentence, facets []int32) {
	d.problem.Inlets = append(d.problem.Inlets, facets)
	d.inlets = append(d.inlets, c.ID)
	value, shape := c.Laws["speed"], d.evenly(facets)
	if c.Kind != KeyInlet {
		profile, err := d.developed(c, facets)
		if err != nil {
			d.Refuse("conditions/"+c.ID+"/on", "let it come in at a speed", "%s: %v", c.ID, err)
			return
		}
		shape = profile
		if c.Kind == KeyThrough {
			value = c.Laws["flow"]
			area := d.area(facets)
			shape = func(x [3]float64) float64 { return profile(x) / area }
		}
	} else if _, even := value.Constant(); !even {
		shape = nil
	}
	for _, side := range d.byNormal(facets) {
		for i := range d.problem.Dimension {
			factor := -side.normal[i]
			d.hold(c.ID, side.facets, i, value, func(x [3]float64) float64 {
				if shape == nil {
					return factor
				}
				return factor * shape(x)
			})
		}
	}
}

// developed is the profile of a long channel.
func (d *draft) developed(c *model.ResolvedSentence, facets []int32) (func(x [3]float64) float64, error) {
	switch {
	case d.problem.Turbulent:
		return d.onTheMean(c, facets)
	case d.problem.Dimension == 3:
		return d.inSpace(facets)
	}
	return d.profile(facets)
}

// inSpace is the profile of a long channel in space.
func (d *draft) inSpace(facets []int32) (func(x [3]float64) float64, error) {
	if !d.problem.Stable {
		return nil, errors.New("what comes from a long channel is known for cells of order 1 in space")
	}
	p, err := d.newPatch(facets)
	if err != nil {
		return nil, err
	}
	w, err := p.developed()
	if err != nil {
		return nil, err
	}
	return p.shape(w)
}

// symmetry holds what lies in planes of symmetry and on the axis: nothing crosses these.
func (d *draft) symmetry() {
	for i, c := range d.Model.Cuts {
		if c.Axis >= d.problem.Dimension {
			continue
		}
		if facets := d.within(c.Axis, c.At, func(k int32) bool { return d.Mesh.Sides[d.Mesh.Facets[k].Side] == mesh.CutSide }); len(facets) > 0 {
			d.hold("cut "+d.Model.Document.Space.Cuts[i].ID, facets, c.Axis, formula.Fixed(0), nil)
		}
	}
	if d.problem.Round {
		if facets := d.within(0, 0, func(k int32) bool { return d.Mesh.Facets[k].Other < 0 }); len(facets) > 0 {
			d.hold("axis", facets, 0, formula.Fixed(0), nil)
		}
	}
}

// closeToPlane is how far from a plane of symmetry a node on it may be, m.
const closeToPlane = 1e-12

// within lists the facets of what flows in a plane across an axis; they are no walls.
func (d *draft) within(axis int, at float64, pick func(k int32) bool) (facets []int32) {
	for k := range d.Mesh.Facets {
		f := &d.Mesh.Facets[k]
		if d.fluid[f.Body] && pick(int32(k)) && d.inPlane(int32(k), axis, at) {
			facets = append(facets, int32(k))
			d.free[int32(k)] = true
		}
	}
	return facets
}

// inPlane says that a facet lies in a plane across an axis.
func (d *draft) inPlane(k int32, axis int, at float64) bool {
	for _, v := range d.Mesh.Facets[k].Corners() {
		if math.Abs(d.Mesh.Nodes[3*v+int32(axis)]-at) > closeToPlane {
			return false
		}
	}
	return true
}

// walls are all surfaces of what flows of which nothing else is said: fluid sticks to them. Where they meet
// others they hold.
func (d *draft) walls() {
	var list []int32
	for k := range d.Mesh.Facets {
		f := &d.Mesh.Facets[k]
		here, beyond := d.fluid[f.Body], f.Other >= 0 && d.fluid[f.OtherBody]
		if here != beyond && !d.spoken[int32(k)] && !d.free[int32(k)] {
			list = append(list, int32(k))
		}
	}
	d.wet = append(d.wet, list...)
	if len(list) == 0 {
		return
	}
	for i := range d.problem.Dimension {
		d.hold("walls", list, i, formula.Fixed(0), nil)
	}
	d.narrow()
}

// blocked is the part of the cells of a body with no corner off a wall from which on it is warned of.
const blocked = 0.02

// narrow warns of cells of order 1 between walls that have no corner within the fluid: nothing flows through them.
func (d *draft) narrow() {
	if d.Model.Order != 1 {
		return
	}
	stuck := make([]bool, d.Mesh.NodeCount())
	for _, k := range d.wet {
		for _, v := range d.Mesh.Facets[k].Corners() {
			stuck[v] = true
		}
	}
	all, shut := map[int32]int{}, map[int32]int{}
	d.Mesh.EachCell(func(cell int32, _ mesh.Form, corners []int32) {
		body := d.Mesh.Body[cell]
		if !d.fluid[body] {
			return
		}
		all[body]++
		if !slices.ContainsFunc(corners, func(v int32) bool { return !stuck[v] }) {
			shut[body]++
		}
	})
	for _, b := range slices.Sorted(maps.Keys(shut)) {
		if part := float64(shut[b]) / float64(all[b]); part > blocked {
			d.Warn("%s %% of the cells of the %s have all their corners at walls, and nothing flows through these: make cells smaller there, or ask for more across gaps", quantity.Figures(100*part, 2), d.Part(b).Name)
		}
	}
}

// level fixes that of the pressure in regions of fluid without an opening, and refuses those into which fluid
// comes without a way out.
func (d *draft) level() error {
	region := map[int32]int32{}
	for b := range d.fluid {
		region[b] = b
	}
	var find func(b int32) int32
	find = func(b int32) int32 {
		if region[b] != b {
			region[b] = find(region[b])
		}
		return region[b]
	}
	for k := range d.Mesh.Facets {
		f := &d.Mesh.Facets[k]
		if f.Other < 0 || !d.fluid[f.Body] || !d.fluid[f.OtherBody] {
			continue
		}
		if one, other := d.Part(f.Body), d.Part(f.OtherBody); one.Material.Name != other.Material.Name {
			return frame.Wrong("parts/"+other.ID+"/material", "put a wall between them, or give both the same material", "%s in the %s and %s in the %s touch and both flow: how one pushes the other along is not solved for", one.Material.Name, one.Name, other.Material.Name, other.Name)
		}
		region[find(f.Body)] = find(f.OtherBody)
	}
	open, fed := map[int32]bool{}, map[int32]string{}
	for _, o := range d.problem.Openings {
		for _, k := range o.Facets {
			open[find(d.Mesh.Facets[k].Body)] = true
		}
	}
	for i, facets := range d.problem.Inlets {
		for _, k := range facets {
			fed[find(d.Mesh.Facets[k].Body)] = d.inlets[i]
		}
	}
	pins := map[int32][]int32{}
	for b := range d.fluid {
		if r := find(b); !open[r] {
			if id := fed[r]; id != "" {
				return frame.Wrong("conditions", "let it leave through a surface against a pressure", "what comes in by %s has nowhere to leave the %s", id, d.Part(b).Name)
			}
			pins[r] = append(pins[r], b)
		}
	}
	for _, bodies := range pins {
		slices.Sort(bodies)
		d.posed.Fields[1].Pins = append(d.posed.Fields[1].Pins, bodies)
	}
	slices.SortFunc(d.posed.Fields[1].Pins, slices.Compare)
	for _, bodies := range d.posed.Fields[1].Pins {
		d.Warn("nothing fixes the level of the pressure in the %s: it is counted from a corner of it", d.Part(bodies[0]).Name)
	}
	return nil
}

// finish says how the kernel is made and what is counted.
func (d *draft) finish() {
	p := d.posed
	p.Keys = append(append(d.openings, d.inlets...), p.Supplies[0].Sentence)
	for i := range d.problem.Dimension {
		if d.problem.Round && i == 0 {
			continue // forces across the axis cancel
		}
		p.Balances = append(p.Balances, frame.Balance{Name: "force on the fluid along " + axes[i], Unit: "N", Component: i})
	}
	p.Balances = append(p.Balances, frame.Balance{Name: "mass of fluid", Unit: "kg/s", Component: d.problem.Dimension})
	d.problem.Stuck = append(d.problem.Stuck, d.wet...)
	for _, facets := range d.problem.Inlets {
		d.problem.Stuck = append(d.problem.Stuck, facets...)
	}
	p.Build = func(b *frame.Building) (frame.Kernel, error) {
		d.built = NewKernel(b.Group, &d.problem, b.Component, b.Variable, b.Varies)
		return d.built, nil
	}
	p.Check = d.regime
}
