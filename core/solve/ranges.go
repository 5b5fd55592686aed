package solve

import (
	"math"
	"slices"
	"strings"

	"saltkettle/core/material"
	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
)

// ranges warns of correlations and of properties that were used beyond where they hold: of the
// materials of parts, of layers and contacts, and of the fluids of correlations.
func (r *run) ranges() {
	if r.posed.temperature < 0 {
		return
	}
	films := r.posed.heat.Films()
	for i, words := range r.posed.heat.Outside() {
		if words != "" {
			r.warn("the coefficient of %s lies outside the range of its correlation: %s", r.posed.heatKeys[i], words)
		}
		if films[i].Least > 0 {
			r.fluidBeyond(r.posed.heatKeys[i], films[i].Least, films[i].Greatest)
		}
	}
	lo, hi := make([]float64, len(r.model.Parts)), make([]float64, len(r.model.Parts))
	for i := range lo {
		lo[i], hi[i] = math.Inf(1), math.Inf(-1)
	}
	temperature := r.solution.AtNodes(r.posed.temperature)
	for c, b := range r.mesh.Body {
		part := r.owner[b][0]
		for _, n := range r.mesh.Cells[mesh.WedgeNodes*c : mesh.WedgeNodes*(c+1)] {
			t := temperature[n]
			lo[part], hi[part] = min(lo[part], t), max(hi[part], t)
		}
	}
	for i := range r.model.Parts {
		p := &r.model.Parts[i]
		if p.Role != model.Solved {
			continue
		}
		for _, q := range []struct {
			key material.Key
			f   *material.Function
		}{
			{material.Conductivity, &p.Conductivity[0]}, {material.ConductivityY, &p.Conductivity[1]}, {material.ConductivityZ, &p.Conductivity[2]},
			{material.HeatCapacity, &p.Capacity}, {material.Density, &p.DensityOf},
			{material.Resistivity, &p.Resistivity}, {material.Permittivity, &p.Permittivity}, {material.Seebeck, &p.Seebeck},
		} {
			if q.f.Program != nil && (p.Material.Has(q.key) || q.key == material.Conductivity) {
				r.beyond(q.key, q.f, p.Material.Name, "the "+p.Name+" reaches", lo[i], hi[i])
			}
		}
	}
	for i := range r.model.Conditions {
		c := &r.model.Conditions[i]
		if c.Part < 0 || len(c.Properties) == 0 || slices.Contains(r.posed.heatKeys, c.ID) {
			continue
		}
		for key, f := range c.Properties { // a layer
			r.beyond(key, &f, "the layer of "+c.ID, "the "+r.model.Parts[c.Part].Name+" beside it reaches", lo[c.Part], hi[c.Part])
		}
	}
}

// fluidBeyond warns of the fluid of a sentence whose properties were taken beyond where they are
// known.
func (r *run) fluidBeyond(key string, lo, hi float64) {
	for i := range r.model.Conditions {
		c := &r.model.Conditions[i]
		if c.ID != key {
			continue
		}
		for _, d := range material.Definitions { // in their order
			if f, ok := c.Properties[d.Key]; ok {
				r.beyond(d.Key, &f, "the "+strings.TrimSpace(c.Values["medium"])+" of "+key, "between surface and fluid it takes those of", lo, hi)
			}
		}
	}
}

// roundOffOfRange is by how many kelvins a range may be left.
const roundOffOfRange = 1e-6

// beyond warns if a property was used at temperatures at which it is not known.
func (r *run) beyond(key material.Key, f *material.Function, of, reaches string, lo, hi float64) {
	if hi <= f.To+roundOffOfRange && lo >= f.From-roundOffOfRange {
		return
	}
	d, _ := material.Define(key)
	known := d.ArgumentWords(f.From) + " to " + d.ArgumentWords(f.To)
	switch {
	case math.IsInf(f.From, -1):
		known = "up to " + d.ArgumentWords(f.To)
	case math.IsInf(f.To, 1):
		known = "from " + d.ArgumentWords(f.From) + " on"
	}
	r.warn("the %s of %s is known %s; %s %s … %s", strings.TrimPrefix(d.Name, "thermal "), of, known, reaches,
		quantity.Show(lo, "°C", false, 4), quantity.Show(hi, "°C", false, 4))
}
