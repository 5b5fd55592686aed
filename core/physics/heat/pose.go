package heat

import (
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics/convect"
	"saltkettle/core/result"
)

// draft collects the conditions of a run.
type draft struct {
	*frame.Posing
	posed      *frame.Posed
	problem    Problem
	conditions []*model.ResolvedSentence
	keys       struct{ sources, fluxes, convections, radiations []string }
	anchors    []int32 // facets that fix the temperature
	levels     frame.Levels
	// Conditions on all surfaces of which nothing else is said.
	elsewhere []int
	// The sentence that lets surfaces radiate to each other, −1 if there is none, and the
	// emissivities that sentences give, by facet.
	exchange   int
	emissivity map[int32]law.Law
	// radiation is how the surfaces see each other, nil if they do not radiate to each other.
	radiation *result.Radiation
}

// pose turns the conditions of the model into equations on the mesh. On one surface a
// later convection takes the place of an earlier one, radiation likewise, given
// fluxes add, "lets no heat through" cancels all of them, and a held temperature
// holds over all others.
func pose(p *frame.Posing) (*frame.Posed, error) {
	d := &draft{Posing: p, conditions: p.Conditions(key), exchange: -1, emissivity: map[int32]law.Law{},
		posed: &frame.Posed{
			Fields: []frame.Field{{Field: couple.Field{Name: "temperature", Changes: true}, Unit: "K"}}, Facets: map[int32]bool{}, Joints: map[int32]bool{},
			Takes:    []string{couple.HeatPerVolume, couple.HeatAtJoints, couple.HeatCarried, couple.HeatStream},
			Supplies: []frame.Supplied{{Quantity: couple.Temperature}},
			Balances: []frame.Balance{{Name: "heat", Unit: "W"}}, Flux: "heat_flux", Shown: func(string) bool { return true }, Read: read,
		}}
	if p.Mesh.Lines != nil { // what flows along lines has a temperature of its own
		d.posed.Fields[0].Bodies = p.Lives(key)
	}
	d.problem.Bodies = make([]Body, len(p.Owner))
	d.problem.Transient = p.Transient || p.Modal || p.Swings
	d.problem.Section = p.Model.Document.Space.Flat()
	d.problem.Order = p.Model.Order
	for b := range p.Owner {
		d.problem.Bodies[b] = bodyOf(p.Part(int32(b)))
	}
	on, err := d.act()
	if err != nil {
		return nil, err
	}
	d.everywhereElse(on)
	d.surfaces(on)
	if err := d.enclosure(on); err != nil {
		return nil, err
	}
	d.posed.Fields[0].Start = d.levels.Mean(law.UsualTemperature)
	d.finish()
	return d.posed, nil
}

// bodyOf gives a body of the mesh the properties of its part.
func bodyOf(p *model.ResolvedPart) Body {
	h := Body{Turn: p.Turn, Density: p.Law(material.Density), Capacity: p.Law(material.HeatCapacity)}
	for axis, key := range along {
		h.Conductivity[axis] = p.Law(key)
	}
	return h
}

// along are the conductivities along the axes of a part.
var along = []material.Key{material.Conductivity, material.ConductivityY, material.ConductivityZ}

// finish says how the kernel is made and what is asked of the solution.
func (d *draft) finish() {
	p := d.posed
	p.Free = func(g *couple.Group, field int) error {
		if d.Transient || d.Modal {
			return nil
		}
		return d.Loose(g.Fixed(field, d.anchors, d.seen()), "heat has no way out of the %s: nothing fixes its temperature", "let a surface give heat to a fluid, or hold its temperature")
	}
	var kernel *Kernel
	var streams bool
	field := 0
	p.Build = func(b *frame.Building) (frame.Kernel, error) {
		var supplies []couple.Supply
		for _, quantity := range p.Takes {
			supplies = append(supplies, b.Suppliers(quantity)...)
		}
		p.Keys = slices.Concat(d.keys.sources, d.keys.fluxes, d.keys.convections, d.keys.radiations)
		for _, s := range supplies {
			p.Keys = append(p.Keys, s.Sentence)
		}
		// What takes heat from one place to another by itself may make it cold anywhere.
		streams = len(b.Suppliers(couple.HeatStream)) > 0 && len(b.Suppliers(couple.HeatCarried)) == 0
		field = b.Group.System.FieldAt(b.Component)
		var err error
		kernel, err = NewKernel(b.Group, &d.problem, b.Component, supplies...)
		return kernel, err
	}
	p.Doubt = func(s *couple.Solution, field int) string { return melted(d.Site, s, field) }
	p.Check = func(s *couple.Solution) {
		d.ranges(kernel)
		if streams {
			d.fronts(s, field)
		}
	}
	p.Note = func(r *result.Result) { r.Radiation = d.radiation }
}

// acting is the conditions on a facet, −1 for none.
type acting struct {
	convection, radiation int
	fluxes                []int
	still                 bool // nothing passes, as a sentence says
}

// act sorts out which condition acts where.
func (d *draft) act() ([]acting, error) {
	on := make([]acting, len(d.Mesh.Facets))
	for i := range on {
		on[i].convection, on[i].radiation = -1, -1
	}
	for i, c := range d.conditions {
		switch c.Kind {
		case KeySource, KeyDensity:
			d.problem.Sources = append(d.problem.Sources, Source{Bodies: d.BodiesOf(c.On), Total: c.Laws["power"], Volume: c.Laws["density"]})
			d.keys.sources = append(d.keys.sources, c.ID)
		case KeyStart:
			d.posed.Starts = append(d.posed.Starts, frame.Start{Sentence: c, Value: c.Laws["temperature"], Positive: true})
		case KeyElsewhere:
			d.elsewhere = append(d.elsewhere, i)
		case KeyEnclosure:
			if d.exchange >= 0 {
				d.Warn("%s takes the place of %s: surfaces radiate to each other once", c.ID, d.conditions[d.exchange].ID)
			}
			d.exchange = i
		default:
			d.condition(i, c, d.On(c), on)
		}
	}
	return on, d.Err()
}

// everywhereElse gives the surfaces with nothing beyond them of which no sentence
// speaks the last of the conditions that are meant for those. Where the device goes on
// beyond a surface nothing is lost.
func (d *draft) everywhereElse(on []acting) {
	if len(d.elsewhere) == 0 {
		return
	}
	last := d.elsewhere[len(d.elsewhere)-1]
	taken := d.Continues()
	for _, h := range d.posed.Fields[0].Held {
		for _, k := range h.Facets {
			taken[k] = true
		}
	}
	for k := range on {
		a := &on[k]
		if d.Surface(int32(k)) && !taken[int32(k)] && !a.still && a.convection < 0 && a.radiation < 0 && len(a.fluxes) == 0 {
			a.convection = last
		}
	}
}

// condition takes in a condition on facets.
func (d *draft) condition(i int, c *model.ResolvedSentence, facets []int32, on []acting) {
	for _, k := range facets {
		switch c.Kind {
		case KeyConvection:
			on[k].convection, on[k].still = i, false
		case KeyRadiation:
			on[k].radiation, on[k].still = i, false
		case KeyFlux, KeyFluxTotal:
			on[k].fluxes, on[k].still = append(on[k].fluxes, i), false
		case KeyInsulated:
			on[k] = acting{-1, -1, nil, true}
		case KeyEmissivity:
			d.emissivity[k] = c.Laws["emissivity"]
		case KeyContact, KeyLayer:
			d.posed.Joints[k] = true
		default:
			if Correlations[c.Kind] != nil {
				on[k].convection, on[k].still = i, false
			}
		}
	}
	field := &d.posed.Fields[0].Field
	switch c.Kind {
	case KeyHeld:
		value := c.Laws["temperature"]
		field.Held = append(field.Held, couple.Held{Facets: facets, Value: value, What: "temperature held", Key: c.ID})
		d.levels.Add(value)
	case KeyContact:
		field.Jumps = append(field.Jumps, facets...)
		d.problem.Contacts = append(d.problem.Contacts, Contact{Facets: facets, Resistance: c.Laws["resistance"]})
	case KeyLayer:
		field.Jumps = append(field.Jumps, facets...)
		d.problem.Contacts = append(d.problem.Contacts, Contact{Facets: facets, Thickness: c.Laws["thickness"], Conductivity: c.Properties[material.Conductivity].Program})
	}
}

// surfaces makes the conditions on surfaces from what acts on each facet.
func (d *draft) surfaces(on []acting) {
	for i, c := range d.conditions {
		compute := Correlations[c.Kind]
		switch c.Kind {
		case KeyConvection, KeyElsewhere, KeyRadiation, KeyFlux, KeyFluxTotal:
		default:
			if compute == nil {
				continue
			}
		}
		var facets []int32
		for k := range on {
			if on[k].convection == i || on[k].radiation == i || slices.Contains(on[k].fluxes, i) {
				facets = append(facets, int32(k))
				d.posed.Facets[int32(k)] = true
			}
		}
		if len(facets) == 0 {
			d.Warn("%s acts nowhere: later sentences speak of all its surfaces", c.ID)
			continue
		}
		switch {
		case compute != nil || c.Kind == KeyConvection || c.Kind == KeyElsewhere:
			x := Convection{Facets: facets, Coefficient: c.Laws["coefficient"], Medium: c.Laws["temperature"]}
			if compute != nil {
				x.Correlation = &Correlated{Compute: compute, Fluid: fluid(c), Length: c.Laws["length"], Second: c.Laws["second"], Speed: c.Laws["speed"]}
			}
			d.problem.Convections = append(d.problem.Convections, x)
			d.keys.convections = append(d.keys.convections, c.ID)
			d.levels.Add(c.Laws["temperature"])
			d.anchors = append(d.anchors, facets...)
		case c.Kind == KeyRadiation:
			d.problem.Radiations = append(d.problem.Radiations, Radiation{Facets: facets, Emissivity: c.Laws["emissivity"], Surroundings: c.Laws["temperature"]})
			d.keys.radiations = append(d.keys.radiations, c.ID)
			d.levels.Add(c.Laws["temperature"])
			d.anchors = append(d.anchors, facets...)
		default:
			d.problem.Fluxes = append(d.problem.Fluxes, Flux{Facets: facets, Total: c.Laws["power"], Area: c.Laws["flux"]})
			d.keys.fluxes = append(d.keys.fluxes, c.ID)
		}
	}
}

// fluid tabulates the properties of the fluid that a sentence names. Beyond the range in which one
// is known it holds its last value, which is warned of: a correlation can lead anywhere there.
func fluid(c *model.ResolvedSentence) *convect.Fluid {
	of := func(key material.Key) func(t float64) float64 {
		f, ok := c.Properties[key]
		if !ok {
			return nil
		}
		return convect.Tabulated(func(t float64) float64 { return f.At(min(max(t, f.From), f.To)) })
	}
	return &convect.Fluid{Conductivity: of(material.Conductivity), Density: of(material.Density), Capacity: of(material.HeatCapacity), Viscosity: of(material.Viscosity), Expansion: of(material.VolumetricExpansion)}
}
