package solve

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/material"
	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/physics/convect"
	"saltkettle/core/physics/coupled"
	"saltkettle/core/physics/electric"
	"saltkettle/core/physics/heat"
	"saltkettle/core/physics/law"
)

// posed is the equations of a run with what became of its sentences.
type posed struct {
	group *coupled.Group
	// heat and electric are nil where the physics is not solved for; temperature and
	// potential are the numbers of their fields, −1 for none.
	heat                   *heat.Kernel
	electric               *electric.Kernel
	temperature, potential int
	kernel                 fem.Kernel
	// parts are what each physics of the run has, in their order.
	parts []portion
	// Keys of the sentences behind the accounts of each kernel and behind the held
	// values of the group.
	heatKeys, currentKeys, heldKeys []string
	heldFields                      []int
	start                           []*model.ResolvedSentence // temperatures at the start
	heats                           string                    // the sentence that says so
}

// portion is what a physics has in a run: the field that it solves for, and what follows from it.
type portion struct {
	kernel interface {
		fem.Kernel
		coupled.Deriver
		Straight() bool
		Symmetric() bool
	}
	name, unit string // of the field
	field      int    // its number
	// derived follow from the field; the first one has a number among what readings may use,
	// and nodal are those that have values at nodes.
	derived []formula.Variable
	first   int
	nodal   []bool
	// flux names the one whose error decides where cells are to be finer.
	flux string
	// shown says which are kept as fields.
	shown func(name string) bool
}

// draft collects the conditions of a run.
type draft struct {
	*run
	heat     heat.Problem
	electric electric.Problem
	fields   struct{ temperature, potential coupled.Field }
	keys     struct{ sources, fluxes, convections, radiations, held, currents, voltages []string }
	facets   map[int32]bool // with conditions
	joints   map[int32]bool
	anchors  []int32 // facets that fix the temperature
	// Conditions on all surfaces of which nothing else is said.
	elsewhere []int
	levels    []float64
	// The sentence that lets surfaces radiate to each other, −1 if there is none, and the
	// emissivities that sentences give, by facet.
	exchange   int
	emissivity map[int32]law.Law
}

// pose turns the conditions of the model into equations on the mesh. On one surface a
// later convection takes the place of an earlier one, radiation likewise, given
// fluxes add, "lets no heat through" cancels all of them, and a held temperature
// holds over all others.
func (r *run) pose(ctx context.Context) error {
	d := &draft{run: r, facets: map[int32]bool{}, joints: map[int32]bool{}, exchange: -1, emissivity: map[int32]law.Law{}}
	d.heat.Bodies = make([]heat.Body, len(r.owner))
	d.heat.Transient = r.model.Document.Transient()
	d.heat.Section = r.model.Document.Space.Flat()
	d.electric.Bodies = map[int32]electric.Body{}
	d.electric.Heats, d.electric.Static = r.model.Heats, r.model.Static
	for b, o := range r.owner {
		d.body(int32(b), &r.model.Parts[o[0]])
	}
	if err := d.conditions(ctx); err != nil {
		return err
	}
	if err := d.shortCircuits(); err != nil {
		return err
	}
	return d.build()
}

// body gives a body of the mesh the properties of its part.
func (d *draft) body(b int32, p *model.ResolvedPart) {
	h := &d.heat.Bodies[b]
	h.Turn = p.Turn
	for axis, f := range p.Conductivity {
		h.Conductivity[axis] = f.Program
	}
	h.Density, h.Capacity = p.DensityOf.Program, p.Capacity.Program
	if p.Conducts {
		d.electric.Bodies[b] = electric.Body{Resistivity: p.Resistivity.Program, Seebeck: p.Seebeck.Program, Permittivity: p.Permittivity.Program}
	}
}

// acting is the conditions on a facet, −1 for none.
type acting struct {
	convection, radiation int
	fluxes                []int
	still                 bool // nothing passes, as a sentence says
}

// conditions sorts out which condition acts where.
func (d *draft) conditions(ctx context.Context) error {
	r := d.run
	var bad []model.Finding
	on := make([]acting, len(r.mesh.Facets))
	for i := range on {
		on[i].convection, on[i].radiation = -1, -1
	}
	r.posed = &posed{temperature: -1, potential: -1}
	for i := range r.model.Conditions {
		c := &r.model.Conditions[i]
		ofHeat := strings.HasPrefix(c.Kind, "heat.")
		if ofHeat && !r.model.Heat {
			continue // it waits for heat to be solved for
		}
		switch c.Kind {
		case heat.KeySource, heat.KeyDensity:
			d.heat.Sources = append(d.heat.Sources, heat.Source{Bodies: r.bodiesOf(c.On), Total: c.Laws["power"], Volume: c.Laws["density"]})
			d.keys.sources = append(d.keys.sources, c.ID)
			continue
		case heat.KeyStart:
			r.posed.start = append(r.posed.start, c)
			continue
		case heat.KeyElsewhere:
			d.elsewhere = append(d.elsewhere, i)
			continue
		case heat.KeyEnclosure:
			if d.exchange >= 0 {
				r.warn("%s takes the place of %s: surfaces radiate to each other once", c.ID, r.model.Conditions[d.exchange].ID)
			}
			d.exchange = i
			continue
		case electric.KeyHeats:
			r.posed.heats = c.ID
			continue
		case electric.KeyFlows, electric.KeyField, electric.KeyThermoelectric:
			continue
		}
		facets := r.facets(c.On, c.Definition.Exposed)
		if c.Definition.Inner {
			facets = slices.DeleteFunc(facets, func(k int32) bool { return r.mesh.Facets[k].Other < 0 })
		}
		if len(facets) == 0 {
			bad = append(bad, model.Finding{Severity: model.Wrong, Place: "conditions/" + c.ID + "/on",
				Message: fmt.Sprintf("%s acts nowhere: there is no %s%s", c.ID, r.model.Document.PatchWords(c.On), freeWords(c.Definition.Exposed)),
				Fix:     "choose another patch"})
			continue
		}
		d.condition(i, c, facets, on)
	}
	if len(bad) > 0 {
		return &ModelError{bad}
	}
	d.everywhereElse(on)
	d.surfaces(on)
	return d.enclosure(ctx, on)
}

// everywhereElse gives the surfaces with nothing beyond them of which no sentence
// speaks the last of the conditions that are meant for those. What passes current at a
// terminal goes on outside: nothing is lost there.
func (d *draft) everywhereElse(on []acting) {
	if len(d.elsewhere) == 0 {
		return
	}
	last := d.elsewhere[len(d.elsewhere)-1]
	taken := map[int32]bool{}
	for _, list := range [][]coupled.Held{d.fields.temperature.Held, d.fields.potential.Held} {
		for _, h := range list {
			for _, k := range h.Facets {
				taken[k] = true
			}
		}
	}
	for _, c := range d.electric.Currents {
		for _, k := range c.Facets {
			taken[k] = true
		}
	}
	for k := range on {
		a := &on[k]
		if d.mesh.Facets[k].Other < 0 && d.mesh.Sides[d.mesh.Facets[k].Side] != mesh.CutSide && !taken[int32(k)] && !a.still && a.convection < 0 && a.radiation < 0 && len(a.fluxes) == 0 {
			a.convection = last
		}
	}
}

// condition takes in a condition on facets.
func (d *draft) condition(i int, c *model.ResolvedSentence, facets []int32, on []acting) {
	for _, k := range facets {
		switch c.Kind {
		case heat.KeyConvection:
			on[k].convection, on[k].still = i, false
		case heat.KeyRadiation:
			on[k].radiation, on[k].still = i, false
		case heat.KeyFlux, heat.KeyFluxTotal:
			on[k].fluxes, on[k].still = append(on[k].fluxes, i), false
		case heat.KeyInsulated:
			on[k] = acting{-1, -1, nil, true}
		case heat.KeyEmissivity:
			d.emissivity[k] = c.Laws["emissivity"]
		case heat.KeyContact, heat.KeyLayer, electric.KeyContact:
			d.joints[k] = true
		default:
			if heat.Correlations[c.Kind] != nil {
				on[k].convection, on[k].still = i, false
			}
		}
	}
	switch c.Kind {
	case heat.KeyHeld:
		value := c.Laws["temperature"]
		d.fields.temperature.Held = append(d.fields.temperature.Held, coupled.Held{Facets: facets, Value: value, What: "temperature held"})
		d.keys.held = append(d.keys.held, c.ID)
		d.level(value)
	case heat.KeyContact:
		d.fields.temperature.Jumps = append(d.fields.temperature.Jumps, facets...)
		d.heat.Contacts = append(d.heat.Contacts, heat.Contact{Facets: facets, Resistance: c.Laws["resistance"]})
	case heat.KeyLayer:
		d.fields.temperature.Jumps = append(d.fields.temperature.Jumps, facets...)
		d.heat.Contacts = append(d.heat.Contacts, heat.Contact{Facets: facets, Thickness: c.Laws["thickness"], Conductivity: c.Properties[material.Conductivity].Program})
	case electric.KeyContact:
		d.fields.potential.Jumps = append(d.fields.potential.Jumps, facets...)
		d.electric.Contacts = append(d.electric.Contacts, electric.Contact{Facets: facets, Resistance: c.Laws["resistance"]})
	case electric.KeyVoltage:
		d.fields.potential.Held = append(d.fields.potential.Held, coupled.Held{Facets: facets, Value: c.Laws["voltage"], Least: law.NoBound, What: "voltage"})
		d.keys.voltages = append(d.keys.voltages, c.ID)
	case electric.KeyCurrent, electric.KeyCharge:
		total := c.Laws["current"]
		if c.Kind == electric.KeyCharge {
			total = c.Laws["charge"]
		}
		d.electric.Currents = append(d.electric.Currents, electric.Current{Facets: facets, Total: total})
		d.fields.potential.Level = append(d.fields.potential.Level, facets)
		d.keys.currents = append(d.keys.currents, c.ID)
		for _, k := range facets {
			d.facets[k] = true
		}
	}
}

// level notes a temperature that the solution can begin with.
func (d *draft) level(t law.Law) {
	if v, ok := t.Constant(); ok {
		d.levels = append(d.levels, v)
	}
}

// surfaces makes the conditions of heat on surfaces from what acts on each facet.
func (d *draft) surfaces(on []acting) {
	r := d.run
	for i := range r.model.Conditions {
		c := &r.model.Conditions[i]
		var facets []int32
		for k := range on {
			if on[k].convection == i || on[k].radiation == i || slices.Contains(on[k].fluxes, i) {
				facets = append(facets, int32(k))
				d.facets[int32(k)] = true
			}
		}
		switch c.Kind {
		case heat.KeyConvection, heat.KeyElsewhere, heat.KeyRadiation, heat.KeyFlux, heat.KeyFluxTotal:
			if !r.model.Heat {
				continue
			}
		default:
			if heat.Correlations[c.Kind] == nil || !r.model.Heat {
				continue
			}
		}
		if len(facets) == 0 {
			r.warn("%s acts nowhere: later sentences speak of all its surfaces", c.ID)
			continue
		}
		compute := heat.Correlations[c.Kind]
		switch {
		case compute != nil || c.Kind == heat.KeyConvection || c.Kind == heat.KeyElsewhere:
			x := heat.Convection{Facets: facets, Coefficient: c.Laws["coefficient"], Medium: c.Laws["temperature"]}
			if compute != nil {
				x.Correlation = &heat.Correlated{Compute: compute, Fluid: fluid(c), Length: c.Laws["length"], Second: c.Laws["second"], Speed: c.Laws["speed"]}
			}
			d.heat.Convections = append(d.heat.Convections, x)
			d.keys.convections = append(d.keys.convections, c.ID)
			d.level(c.Laws["temperature"])
			d.anchors = append(d.anchors, facets...)
		case c.Kind == heat.KeyRadiation:
			d.heat.Radiations = append(d.heat.Radiations, heat.Radiation{Facets: facets, Emissivity: c.Laws["emissivity"], Surroundings: c.Laws["temperature"]})
			d.keys.radiations = append(d.keys.radiations, c.ID)
			d.level(c.Laws["temperature"])
			d.anchors = append(d.anchors, facets...)
		default:
			d.heat.Fluxes = append(d.heat.Fluxes, heat.Flux{Facets: facets, Total: c.Laws["power"], Area: c.Laws["flux"]})
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

// shortCircuits refuses terminals that touch although their potentials differ.
func (d *draft) shortCircuits() error {
	type terminal struct {
		key     string
		voltage float64 // NaN if it is not a given number
	}
	at := map[int32]terminal{}
	claim := func(key string, facets []int32, voltage float64) error {
		for _, k := range facets {
			for _, v := range d.mesh.Facets[k].Corners() {
				if other, ok := at[v]; ok && other.key != key && other.voltage != voltage {
					return wrong("conditions/"+key+"/on", "leave a gap or an insulating part between them", "the terminals of %s and %s touch, though their potentials differ: that is a short circuit", other.key, key)
				}
				at[v] = terminal{key, voltage}
			}
		}
		return nil
	}
	for i, h := range d.fields.potential.Held {
		voltage := math.NaN()
		if v, ok := h.Value.Constant(); ok {
			voltage = v
		}
		if err := claim(d.keys.voltages[i], h.Facets, voltage); err != nil {
			return err
		}
	}
	for i, c := range d.electric.Currents {
		if err := claim(d.keys.currents[i], c.Facets, math.NaN()); err != nil {
			return err
		}
	}
	return nil
}

// build makes the group and its kernels.
func (d *draft) build() error {
	r, m, p := d.run, d.run.model, d.run.posed
	set := &coupled.Settings{Order: m.Order, Facets: sorted(d.facets), Joints: sorted(d.joints), Measure: r.measureOf()}
	var fields []coupled.Field
	if m.Heat {
		f := &d.fields.temperature
		f.Name, f.Start = "temperature", mean(d.levels, law.UsualTemperature)
		p.temperature = len(fields)
		fields = append(fields, *f)
		p.heldKeys = append(p.heldKeys, d.keys.held...)
		for range d.keys.held {
			p.heldFields = append(p.heldFields, p.temperature)
		}
	}
	if m.Electric {
		f := &d.fields.potential
		f.Name = "potential"
		f.Bodies = map[int32]bool{}
		for b := range d.electric.Bodies {
			f.Bodies[b] = true
		}
		p.potential = len(fields)
		fields = append(fields, *f)
		p.heldKeys = append(p.heldKeys, d.keys.voltages...)
		for range d.keys.voltages {
			p.heldFields = append(p.heldFields, p.potential)
		}
	}
	var err error
	if p.group, err = coupled.New(r.mesh, len(r.owner), fields, set); err != nil {
		return err
	}
	r.result.Mesh.Unknowns = p.group.System.N
	if m.Heat {
		if !d.heat.Transient {
			if err := p.group.Fixed(p.temperature, d.anchors, d.seen()); err != nil {
				return r.loose(err, "heat has no way out of the %s: nothing fixes its temperature", "let a surface give heat to a fluid, or hold its temperature")
			}
		}
		if p.heat, err = heat.NewKernel(p.group, &d.heat, p.temperature); err != nil {
			return err
		}
		p.heatKeys = slices.Concat(d.keys.sources, d.keys.fluxes, d.keys.convections, d.keys.radiations)
		p.parts = append(p.parts, portion{kernel: p.heat, name: "temperature", unit: "K", field: p.temperature, derived: heat.Derived,
			first: physics.FirstOfHeat, nodal: make([]bool, len(heat.Derived)), flux: "heat_flux", shown: func(string) bool { return true }})
	}
	if m.Electric {
		if err := p.group.Fixed(p.potential, nil, nil); err != nil {
			return r.loose(err, "no terminal fixes the electric potential of the %s: it floats", "make a surface a terminal at a voltage, or let the part touch one that has one")
		}
		if p.electric, err = electric.NewKernel(p.group, &d.electric, p.potential, p.temperature); err != nil {
			return err
		}
		p.currentKeys = d.keys.currents
		p.parts = append(p.parts, portion{kernel: p.electric, name: "potential", unit: "V", field: p.potential, derived: electric.Derived,
			first: physics.FirstOfElectric, nodal: electric.Nodal, flux: "current_density", shown: electric.Shown(m.Static)})
	}
	var kernels []fem.Kernel
	for _, part := range p.parts {
		kernels = append(kernels, part.kernel)
	}
	p.kernel = fem.Sum(kernels...)
	return nil
}

// measureOf turns what is integrated over a flat space into
// what the device has.
func (r *run) measureOf() func(x [3]float64) float64 {
	switch r.model.Document.Space.Kind {
	case model.Plane:
		return fem.Deep(r.model.Depth)
	case model.Axial:
		return fem.Around
	}
	return nil
}

// loose says in words which parts have nothing that fixes the level of a field.
func (r *run) loose(err error, words, fix string) error {
	var l *coupled.LooseError
	if !errors.As(err, &l) {
		return err
	}
	var names []string
	slices.Sort(l.Bodies) // in the order of the parts
	for _, b := range l.Bodies {
		if name := r.model.Parts[r.owner[b][0]].Name; !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return wrong("conditions", fix, words, strings.Join(names, ", the "))
}

// straight and symmetric ask all kernels.
func (p *posed) straight() bool {
	return !slices.ContainsFunc(p.parts, func(part portion) bool { return !part.kernel.Straight() })
}

func (p *posed) symmetric() bool {
	return !slices.ContainsFunc(p.parts, func(part portion) bool { return !part.kernel.Symmetric() })
}

func sorted(set map[int32]bool) []int32 {
	list := make([]int32, 0, len(set))
	for k := range set {
		list = append(list, k)
	}
	slices.Sort(list)
	return list
}

func mean(list []float64, otherwise float64) float64 {
	if len(list) == 0 {
		return otherwise
	}
	var sum float64
	for _, v := range list {
		sum += v
	}
	return sum / float64(len(list))
}

func freeWords(exposed bool) string {
	if exposed {
		return " with nothing solved beyond it"
	}
	return ""
}

// bodiesOf lists the bodies of the mesh that a patch names.
func (r *run) bodiesOf(p model.Patch) []int32 {
	part := r.model.Document.Part(p.Part)
	var list []int32
	for b, o := range r.owner {
		if o[0] == part && (p.Copy == 0 || p.Copy == o[1]+1) {
			list = append(list, int32(b))
		}
	}
	return list
}

// facets resolves a patch on the mesh. With exposed set only facets with nothing
// beyond them are taken.
func (r *run) facets(p model.Patch, exposed bool) []int32 {
	mine := map[int32]bool{}
	for _, b := range r.bodiesOf(p) {
		mine[b] = true
	}
	facing := -1
	if p.Facing != "" && p.Facing != model.Outside {
		facing = r.model.Document.Part(p.Facing)
	}
	matches := func(body, side, other int32) bool {
		switch {
		case !mine[body]:
			return false
		case p.Side != "" && p.Side != model.WholeSurface && r.mesh.Sides[side] != p.Side:
			return false
		case p.Side != mesh.CutSide && other < 0 && r.mesh.Sides[side] == mesh.CutSide:
			return false // a plane of symmetry is no surface of the device
		case (exposed || p.Facing == model.Outside) && other >= 0:
			return false
		case facing >= 0 && (other < 0 || r.owner[other][0] != facing):
			return false
		}
		return true
	}
	var list []int32
	for k := range r.mesh.Facets {
		f := &r.mesh.Facets[k]
		if matches(f.Body, f.Side, f.OtherBody) || f.OtherBody >= 0 && matches(f.OtherBody, f.OtherSide, f.Body) {
			list = append(list, int32(k))
		}
	}
	return list
}
