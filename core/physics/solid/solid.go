package solid

import (
	"fmt"

	"saltkettle/core/couple"
	"saltkettle/core/frame"
	"saltkettle/core/material"
	"saltkettle/core/model"
)

// key is that of this physics.
const key = "solid"

// Physics is elastic deformation as the program knows it.
var Physics = frame.Physics{
	PhysicsKind: model.PhysicsKind{
		Key: key, Name: "deformation", Nowhere: "Nothing bends",
		Lives:   func(*model.Resolved) string { return "Load and heat bend {}" },
		Resolve: resolve, Inertial: true, InertiaBy: KeyInertia,
		PerNode: func(r *model.Resolved) int {
			if r.Document.Space.Flat() {
				return 2
			}
			return 3
		},
	},
	Kinds: Kinds(), Plates: Fields, Derived: Derived, Nodal: Nodal, Invariants: invariants, ShapeSize: 1e-3, Pose: pose,
}

// resolve finds which parts bend and what that needs.
func resolve(r *model.Resolving) {
	for i := range r.Conditions {
		if c := &r.Conditions[i]; c.Kind == KeyBends {
			r.Live(c.Parts...)
		}
	}
	held, swings := false, r.Document.Transient() && r.Says(KeyInertia)
	flat := r.Document.Space.Flat()
	for i := range r.Conditions {
		c := &r.Conditions[i]
		if model.Of(c.Kind) != key || c.Kind == KeyBends {
			continue
		}
		if c.Kind == KeyThin && r.Document.Space.Kind != model.Plane {
			r.Find(model.Wrong, "conditions/"+c.ID, "remove it", "%s speaks of a plane space, and this one is %s", c.ID, r.Document.Space.Kind)
		}
		held = held || c.Definition.Anchors
		if len(c.Parts) == 0 {
			continue
		}
		if part, not := r.Absent(key, c); not {
			p := &r.Parts[part]
			r.Find(model.Wrong, "conditions/"+c.ID+"/on", "add “The "+p.Name+" bends and stretches under what acts on it”, or choose another part", "%s speaks of the %s, which does not bend", c.ID, p.Name)
		}
		if flat && c.Laws[axes[2]] != nil {
			r.Find(model.Wrong, "conditions/"+c.ID+"/values/z", "leave it empty", "%s gives a value along z, and a %s space has x and y alone", c.ID, r.Document.Space.Kind)
		}
		if c.Kind == KeyExpands {
			if !r.Given(couple.Temperature) {
				r.Find(model.Wrong, "conditions/"+c.ID, "solve for heat too, or remove it", "%s needs the temperature, which is not solved for", c.ID)
			}
			for _, part := range c.Parts {
				if r.Lives(key, part) {
					r.Property(part, material.Expansion, "heat expands the %s", "")
				}
			}
		}
	}
	for _, i := range r.LivesIn(key) {
		r.Property(i, material.YoungsModulus, "the %s bends", "")
		r.Property(i, material.PoissonRatio, "the %s bends", "")
	}
	for _, i := range r.LivesIn(key) {
		if m := &r.Parts[i].Material; r.Document.Swings() && m.Has(material.LossFactor) {
			r.Property(i, material.LossFactor, "swings die away in the %s", "")
		}
		if r.Document.Modal() || r.Document.Swings() || swings {
			r.Property(i, material.Density, "the mass of the %s counts", "")
		}
	}
	if r.Solves(key) && !held && !r.Document.Modal() && !swings {
		r.Find(model.Missing, "conditions", "fix a surface, or say how it moves", "nothing holds what bends: it would be pushed away")
	}
}

// read evaluates a reading of the deformation.
func read(r *frame.Reading) error {
	if part, not := r.Model.Absent(key, r.Sentence); not {
		return fmt.Errorf("the %s does not bend", r.Model.Parts[part].Name)
	}
	name := map[string]string{KeyDisplacement: "displacement", KeyMises: "von_mises"}[r.Sentence.Kind]
	if name == "" {
		return fmt.Errorf("readings of the kind %q cannot be taken", r.Sentence.Kind)
	}
	var m *couple.Measure
	m, err := r.Measure(name, r.Region)
	if err != nil {
		return err
	}
	r.Value, r.At = m.Greatest, &m.MostAt
	return nil
}
