package solve

import (
	"math"

	"saltkettle/core/frame"
	"saltkettle/core/material"
	"saltkettle/core/model"
)

// ranges warns of correlations and of properties that were used beyond where they hold: of the
// materials of parts, of layers and contacts, and of the fluids of correlations.
func (r *run) ranges() error {
	for _, p := range r.posed.parts {
		if p.Check == nil {
			continue
		}
		s, err := r.solutionOf(p)
		if err != nil {
			return err
		}
		p.Check(s)
	}
	variable := r.posed.variable
	if variable == nil {
		return nil
	}
	lo, hi := make([]float64, len(r.model.Parts)), make([]float64, len(r.model.Parts))
	for i := range lo {
		lo[i], hi[i] = math.Inf(1), math.Inf(-1)
	}
	temperature := r.states.of[variable.group].AtNodes(variable.field, 0)
	for c, b := range r.mesh.Body {
		part := r.owner[b][0]
		for _, n := range r.mesh.Cell(int32(c)) {
			t := temperature[n]
			lo[part], hi[part] = min(lo[part], t), max(hi[part], t)
		}
	}
	beyond := func(key material.Key, f material.Function, of, reaches string, part int) {
		if words := frame.Beyond(key, &f, of, reaches, lo[part], hi[part]); words != "" {
			r.warn("%s", words)
		}
	}
	for i := range r.model.Parts {
		p := &r.model.Parts[i]
		if p.Role != model.Solved {
			continue
		}
		for _, d := range material.Definitions {
			if f, ok := p.Properties[d.Key]; ok {
				beyond(d.Key, f, p.Material.Name, "the "+p.Name+" reaches", i)
			}
		}
	}
	for i := range r.model.Conditions {
		c := &r.model.Conditions[i]
		for j := range c.Definition.Slots {
			if !c.Definition.Slots[j].Layer {
				continue
			}
			for _, part := range c.Parts {
				for key, f := range c.Properties {
					beyond(key, f, "the layer of "+c.ID, "the "+r.model.Parts[part].Name+" beside it reaches", part)
				}
			}
		}
	}
	return nil
}
