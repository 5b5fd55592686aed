package model

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/material"
	"saltkettle/core/quantity"
)

// Kinds of sentences that the model itself has to know: they say where a physics
// lives. Their definitions are with the physics.
const (
	enclosure      = "heat.enclosure"
	currentFlows   = "electric.flows"
	currentHeats   = "electric.heats"
	fieldFills     = "electric.field"
	thermoelectric = "electric.thermoelectric"
	electricPrefix = "electric."
	heatPrefix     = "heat."
	startsAt       = "heat.start"
)

// defaultTolerance of a step in time: with it the error in time of the cases in
// core/validation is below 0.1 % of how far their readings go.
const defaultTolerance = 1e-4

// run checks what a run in time needs.
func (r *resolver) run() {
	switch r.doc.Run.Kind {
	case "", Steady:
		return
	case Transient:
	default:
		r.find(Wrong, "run/kind", "choose steady or transient", "a run is steady or transient, not %q", r.doc.Run.Kind)
		return
	}
	if !r.out.Heat {
		r.find(Wrong, "run/kind", "choose a steady run, or solve for heat", "nothing but heat changes in time so far")
	}
	if v, ok := r.value("run/end", r.doc.Run.End, need{label: "length of time", unit: "s", positive: true}); ok {
		r.out.End = v
	}
	r.from()
	start := need{label: "temperature at the start", unit: "°C", temperature: true, optional: r.out.From > 0 || r.startsSaid()}
	if v, ok := r.value("run/start", r.doc.Run.Start, start); ok {
		r.out.Start = v
	}
	r.out.Tolerance = defaultTolerance
	v, ok := r.value("run/tolerance", r.doc.Run.Tolerance, need{label: "tolerance of a step", optional: true})
	switch {
	case !ok || strings.TrimSpace(r.doc.Run.Tolerance) == "":
	case v < 1e-8 || v > 0.1:
		r.find(Wrong, "run/tolerance", "choose 0.000001 % to 10 %", "steps cannot be chosen to a tolerance of %q", r.doc.Run.Tolerance)
	default:
		r.out.Tolerance = v
	}
	if v, ok := r.value("run/longest", r.doc.Run.Longest, need{label: "longest step in time", unit: "s", positive: true, optional: true}); ok {
		r.out.Longest = v
	}
}

// startsSaid says that sentences give the temperature at the start of every solved part.
func (r *resolver) startsSaid() bool {
	for _, p := range r.doc.Parts {
		said := func(s Sentence) bool { return !s.Off && s.Kind == startsAt && s.On == Patch{Part: p.ID} }
		if p.Role == Solved && !slices.ContainsFunc(r.doc.Conditions, said) {
			return false
		}
	}
	return len(r.doc.Parts) > 0
}

// from reads which run a run in time goes on from.
func (r *resolver) from() {
	text := strings.TrimPrefix(strings.TrimSpace(r.doc.Run.From), "#")
	if text == "" {
		return
	}
	n, err := strconv.Atoi(text)
	if err != nil || n < 1 {
		r.find(Wrong, "run/from", "write the number of a run of this model, or leave it empty", "%q is not the number of a run to begin from", r.doc.Run.From)
		return
	}
	r.out.From = n
}

// until compiles the condition that ends a run in time. Its inputs are all readings and
// the time.
func (r *resolver) until() {
	text := strings.TrimSpace(r.doc.Run.Until)
	if text == "" || !r.doc.Transient() {
		return
	}
	const place, example = "run/until", "write for example r1 > 60 °C"
	f, err := formula.Parse(text)
	if err != nil {
		r.find(Wrong, place, example, "the condition that ends the run cannot be read: %v", err)
		return
	}
	env := r.environment()
	for _, q := range r.out.Readings {
		env.Variables = append(env.Variables, formula.Variable{Name: q.ID, Dimension: q.Dimension, Temperature: q.Temperature})
	}
	elsewhere := env.Elsewhere
	env.Elsewhere = func(name string) string {
		if slices.ContainsFunc(r.doc.Readings, func(q Sentence) bool { return q.ID == name }) {
			return fmt.Sprintf("the reading %s is not right yet", name)
		}
		return elsewhere(name)
	}
	env.Variables = append(env.Variables, formula.Time)
	p, err := f.Compile(env)
	if err != nil {
		r.find(Wrong, place, example, "the condition that ends the run cannot be computed: %v", err)
		return
	}
	if _, constant := p.Constant(); constant || p.Dimension != quantity.None {
		r.find(Wrong, place, example, "the condition that ends the run, %q, compares no reading and no time with anything", text)
		return
	}
	for i, q := range r.out.Readings {
		if p.Uses(i) && q.InTime {
			r.find(Wrong, place, example, "the condition that ends the run speaks of %s, which is known at its end only", q.ID)
			return
		}
	}
	r.out.Until = p
}

// property finds what a physics needs of the material of a part.
func (r *resolver) property(part int, key material.Key, why string, to *material.Function) {
	p := &r.out.Parts[part]
	if p.Material.Name == "" {
		return // that is outstanding already
	}
	f, err := r.function(p.Material, key)
	if err != nil {
		severity := Wrong
		if !p.Material.Gives(key) {
			severity = Missing
		}
		r.find(severity, propertyPlace(p.Material, key), "give the property or choose another material", "%s the %s, and %v", why, p.Name, err)
		return
	}
	*to = f
}

// current finds in which parts current flows and what that needs.
func (r *resolver) current() {
	terminal, ofCurrent := false, false
	for i := range r.out.Conditions {
		c := &r.out.Conditions[i]
		switch c.Kind {
		case currentFlows:
			r.out.Electric = true
			r.out.Parts[c.Part].Conducts = true
		case fieldFills:
			r.out.Electric, r.out.Static = true, true
			r.out.Parts[c.Part].Conducts = true
		case currentHeats:
			r.out.Heats = r.out.Heat
		}
		ofCurrent = ofCurrent || c.Kind == currentFlows
		terminal = terminal || strings.HasPrefix(c.Kind, electricPrefix+"voltage")
	}
	for i := range r.out.Conditions {
		c := &r.out.Conditions[i]
		if r.out.Static && ofCurrent && c.Kind == fieldFills {
			r.find(Wrong, "conditions/"+c.ID, "switch one of the two off", "current flows in one part and the field of charges fills another: a run solves for one of them")
		}
		if !strings.HasPrefix(c.Kind, electricPrefix) || c.Part < 0 || c.Kind == currentFlows || c.Kind == fieldFills {
			continue
		}
		if ofField := c.Kind == electricPrefix+"charge"; c.Kind != electricPrefix+"voltage" && ofField != r.out.Static && r.out.Electric {
			r.find(Wrong, "conditions/"+c.ID, "remove it or switch it off", "%s does not belong to %s", c.ID, electricWords(r.out.Static))
			continue
		}
		p := &r.out.Parts[c.Part]
		if !p.Conducts {
			r.find(Wrong, "conditions/"+c.ID+"/on", "add “Electric current flows in the "+p.Name+"”, or choose another part", "%s speaks of the %s, in which no current flows", c.ID, p.Name)
		}
		if facing := r.doc.Part(c.On.Facing); c.Definition.Inner && facing >= 0 && !r.out.Parts[facing].Conducts {
			other := r.out.Parts[facing].Name
			r.find(Wrong, "conditions/"+c.ID+"/on", "add “Electric current flows in the "+other+"”, or choose another part", "%s speaks of current that enters the %s, in which none flows", c.ID, other)
		}
		if c.Kind == thermoelectric && p.Conducts {
			r.property(c.Part, material.Seebeck, "heat drives current in", &p.Seebeck)
		}
	}
	if !r.out.Electric {
		if !r.out.Heat && len(r.doc.Physics) > 0 {
			r.find(Missing, "conditions", "say in which part current flows", "no part conducts current")
		}
		return
	}
	r.out.Heats = r.out.Heats && !r.out.Static
	for i := range r.out.Parts {
		if r.out.Parts[i].Conducts && r.out.Static {
			r.property(i, material.Permittivity, "a field fills", &r.out.Parts[i].Permittivity)
		} else if r.out.Parts[i].Conducts {
			r.property(i, material.Resistivity, "current flows in", &r.out.Parts[i].Resistivity)
		}
	}
	if !terminal {
		r.find(Missing, "conditions", "make a surface a terminal at a voltage, such as 0 V", "nothing fixes the electric potential: no terminal has a voltage")
	}
}

// named finds properties of a material that a sentence names; what is a word for it.
func (r *resolver) named(place, name, what string, res *ResolvedSentence, keys ...material.Key) bool {
	m, ok := material.Find(r.doc.Materials, strings.TrimSpace(name))
	if !ok {
		m, ok = material.Find(material.Library(), strings.TrimSpace(name))
	}
	if !ok {
		r.find(Wrong, place, "choose a "+what+" of the library, such as air, water or paraffin wax", "there is no %s %q whose properties are known", what, name)
		return false
	}
	res.Properties = map[material.Key]material.Function{}
	for _, key := range keys {
		f, err := r.function(m, key)
		if err != nil {
			r.find(Wrong, place, "give the property, choose another "+what+", or type a number", "%s takes its numbers from the properties of the %s, and %v", res.ID, what, err)
			return false
		}
		res.Properties[key] = f
	}
	return true
}

// electricWords names what the electric physics solves for.
func electricWords(static bool) string {
	if static {
		return "the field of charges"
	}
	return "a current"
}

// storage finds what a run in time needs of the materials.
func (r *resolver) storage() {
	if !r.doc.Transient() || !r.out.Heat {
		return
	}
	for i := range r.out.Parts {
		if p := &r.out.Parts[i]; p.Part != nil && p.Role == Solved {
			r.property(i, material.Density, "heat is stored in", &p.DensityOf)
			r.property(i, material.HeatCapacity, "heat is stored in", &p.Capacity)
		}
	}
}

// radiates finds the emissivities of the parts whose surfaces radiate to each other. One
// that is missing counts only where the part is in the open, which the mesh shows.
func (r *resolver) radiates() {
	if !r.out.Heat || !slices.ContainsFunc(r.out.Conditions, func(c ResolvedSentence) bool { return c.Kind == enclosure }) {
		return
	}
	for i := range r.out.Parts {
		if p := &r.out.Parts[i]; p.Part != nil && p.Role == Solved && p.Material.Has(material.Emissivity) {
			r.property(i, material.Emissivity, "radiation leaves", &p.Emissivity)
		}
	}
}
