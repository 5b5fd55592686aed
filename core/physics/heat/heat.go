package heat

import (
	"fmt"
	"strings"

	"saltkettle/core/couple"
	"saltkettle/core/frame"
	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
)

// key is that of this physics.
const key = "heat"

// memoryOfRadiation is what the exchange of radiation was measured to take, bytes.
const memoryOfRadiation = 45e6

// Physics is conduction of heat as the program knows it.
var Physics = frame.Physics{
	PhysicsKind: model.PhysicsKind{
		Key: key, Name: "heat", Asked: true,
		Lives: func(*model.Resolved) string { return "Heat is conducted in {}" }, Nowhere: "Heat is left out", Closed: "heat",
		Resolve: resolve, Changes: true, Gives: []string{couple.Temperature},
		Start:   sentence.Slot{Label: "temperature at the start", Unit: "°C", Temperature: true},
		PerNode: func(*model.Resolved) int { return 1 },
		Beside: func(r *model.Resolved) float64 {
			if r.Says(KeyEnclosure) {
				return memoryOfRadiation
			}
			return 0
		},
	},
	Kinds: Kinds(), Plates: Fields, Derived: Derived, ShapeSize: 1, Pose: pose,
}

// resolve finds what heat needs of the materials of all solved parts.
func resolve(r *model.Resolving) {
	fix := ""
	for _, other := range r.Others() {
		fix = fmt.Sprintf(", or solve for the %s alone: leave heat out under physics", other.Name)
	}
	for _, i := range r.Solved() {
		r.Live(i)
		m := &r.Parts[i].Material
		for axis, k := range along {
			if axis == 0 || m.Gives(k) {
				if !r.Property(i, k, "the %s conducts heat", fix) {
					break
				}
			}
		}
		if r.Document.Dynamic() {
			r.Property(i, material.Density, "heat is stored in the %s", "")
			r.Property(i, material.HeatCapacity, "heat is stored in the %s", "")
		}
		// An emissivity that is missing counts only where the part is in the open, which the mesh
		// shows.
		if r.Says(KeyEnclosure) && m.Has(material.Emissivity) {
			r.Property(i, material.Emissivity, "radiation leaves the %s", "")
		}
	}
	parts, any := r.Unanchored()
	if !any {
		if len(r.Solved()) > 0 && len(r.Document.Conditions) > 0 {
			r.Find(model.Doubtful, "conditions", "let a surface give heat to a fluid, or hold its temperature", "nothing leads heat away: no condition fixes a temperature")
		}
		return
	}
	for _, p := range parts {
		r.Find(model.Doubtful, "parts/"+r.Parts[p].ID+"/span/from", "let it touch a part that loses heat, or give it a condition", "heat has no way out of the %s: it touches nothing that leads heat away", r.Parts[p].Name)
	}
}

// beyondAll is the temperature above which no device is what it was, K.
const beyondAll = 6000

// melted says that temperatures cannot be, "" if they can.
func melted(site *frame.Site, s *couple.Solution, field int) string {
	_, most := s.Extremes(field)
	if most.Value <= beyondAll {
		return ""
	}
	return fmt.Sprintf("the %s reaches %s, where no material is what it was", site.BodyName(most.Body), quantity.Show(most.Value, "°C", false, 3))
}

// ranges warns of correlations that were used beyond where they hold, and of their fluids.
func (d *draft) ranges(k *Kernel) {
	films := k.Films()
	for i, words := range k.Outside() {
		if words != "" {
			d.Warn("the coefficient of %s lies outside the range of its correlation: %s", d.posed.Keys[i], words)
		}
		if films[i].Least > 0 {
			d.fluidBeyond(d.posed.Keys[i], films[i].Least, films[i].Greatest)
		}
	}
}

// fluidBeyond warns of the fluid of a sentence whose properties were taken beyond where they are
// known.
func (d *draft) fluidBeyond(sentence string, lo, hi float64) {
	for _, c := range d.conditions {
		if c.ID != sentence {
			continue
		}
		for _, p := range material.Definitions { // in their order
			if f, ok := c.Properties[p.Key]; ok {
				if words := frame.Beyond(p.Key, &f, "the "+strings.TrimSpace(c.Values["medium"])+" of "+sentence, "between surface and fluid it takes those of", lo, hi); words != "" {
					d.Warn("%s", words)
				}
			}
		}
	}
}

// read evaluates a reading of heat.
func read(r *frame.Reading) (err error) {
	if r.Sentence.Kind == KeyThrough {
		r.Value, err = r.Through()
		return err
	}
	m, err := r.Measure("temperature", r.Region)
	if err != nil {
		return err
	}
	if m.Content == 0 {
		return fmt.Errorf("nothing is left of the %s in the mesh", r.Model.Document.PatchWords(r.Sentence.On))
	}
	switch r.Sentence.Kind {
	case KeyCoefficient:
		leaves, err := r.Through()
		reference, _ := r.Sentence.Laws["temperature"].Constant()
		r.Value = leaves / (m.Content * (m.Mean() - reference))
		return err
	case KeyGreatest:
		r.Value, r.At = m.Greatest, &m.MostAt
	case KeyLeast:
		r.Value, r.At = m.Least, &m.LeastAt
	case KeySpread:
		r.Value = m.Greatest - m.Least
	default:
		r.Value = m.Mean()
	}
	return nil
}
