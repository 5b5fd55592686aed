package solid

import (
	"slices"
	"strings"

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
		Resolve: resolve, Inertial: true, InertiaBy: KeyInertia, Order: func(*model.Resolved) int { return 2 },
		Factorised: func(r *model.Resolved) bool { return r.Says(KeyLarge) },
		PerNode: func(r *model.Resolved) int {
			if r.Document.Space.Flat() {
				return 2
			}
			return 3
		},
	},
	Kinds: Kinds(), Plates: Fields, Derived: Derived, Nodal: Nodal, Invariants: invariants, ShapeSize: 1e-3, Provides: []string{couple.MotionOfWalls}, Pose: pose,
}

// resolve finds which parts bend and what that needs.
func resolve(r *model.Resolving) {
	for i := range r.Conditions {
		if c := &r.Conditions[i]; c.Kind == KeyBends {
			r.Live(c.Parts...)
		}
	}
	held, swings := len(r.Cuts) > 0, r.Document.Transient() && r.Says(KeyInertia)
	pulled := map[int]bool{} // parts whose mass something pulls
	for i := range r.Conditions {
		c := &r.Conditions[i]
		if model.Of(c.Kind) != key || c.Kind == KeyBends {
			continue
		}
		held = held || c.Definition.Anchors
		if about(r, c); len(c.Parts) == 0 {
			continue
		}
		if part, not := r.Absent(key, c); not {
			p := &r.Parts[part]
			r.Find(model.Wrong, "conditions/"+c.ID+"/on", "add “The "+p.Name+" bends and stretches under what acts on it”, or choose another part", "%s speaks of the %s, which does not bend", c.ID, p.Name)
		}
		switch c.Kind {
		case KeyExpands:
			if !r.Given(couple.Temperature) {
				r.Find(model.Wrong, "conditions/"+c.ID, "solve for heat too, or remove it", "%s needs the temperature, which is not solved for", c.ID)
			}
			for _, part := range c.Parts {
				if r.Lives(key, part) {
					r.Property(part, material.Expansion, "heat expands the %s", "")
					r.Perhaps(part, material.ExpansionY)
					r.Perhaps(part, material.ExpansionZ)
				}
			}
		case KeyWeight, KeySpin, KeyDying:
			for _, part := range c.Parts {
				pulled[part] = true
			}
		}
	}
	onHeld(r)
	for _, i := range r.LivesIn(key) {
		properties(r, i, pulled[i] || r.Document.Modal() || r.Document.Swings() || swings)
	}
	if r.Solves(key) && !r.Document.Modal() && !swings {
		free, sure := loosely(r)
		switch {
		case !held:
			r.FindLoose(motions(free), "conditions", "fix a surface, or say how it moves", "nothing holds what bends: it would be pushed away")
		case sure && len(free) > 0:
			r.FindLoose(motions(free), "conditions", "fix a surface, or say how more of it moves", "nothing holds the device in all directions: it could %s as a whole", looseWords(free))
		}
	}
	if r.Solves(key) && strings.TrimSpace(r.Document.Mesh.Order) == "1" {
		r.Find(model.Doubtful, "mesh/order", "choose order 2, or leave it empty", "what bends is too stiff in cells of order 1")
	}
	readingsOf(r)
}

// properties asks for those of a part that bends.
func properties(r *model.Resolving, i int, massive bool) {
	p := &r.Parts[i]
	rubber := slices.ContainsFunc(r.Conditions, func(c model.ResolvedSentence) bool { return c.Kind == KeyRubber && slices.Contains(c.Parts, i) })
	if rubber && p.Material.Has(material.RubberC10) {
		r.Perhaps(i, material.RubberC10)
		r.Perhaps(i, material.RubberC01)
		r.Perhaps(i, material.YoungsModulus)
	} else {
		r.Property(i, material.YoungsModulus, "the %s bends", "")
	}
	r.Property(i, material.PoissonRatio, "the %s bends", "")
	if f, ok := p.Properties[material.PoissonRatio]; ok && f.Program != nil && !rubber {
		if v, constant := f.Constant(); constant && v > mostRatio {
			r.Find(model.Wrong, propertyOf(p), "say that the "+p.Name+" stretches like rubber, or choose another material", "the %s hardly changes its volume, with a ratio of Poisson of %g, so that its cells would lock", p.Name, v)
		}
	}
	if !rubber {
		other := false
		for _, k := range []material.Key{material.YoungsModulusY, material.YoungsModulusZ} {
			other = r.Perhaps(i, k) || other
		}
		if other {
			r.Property(i, material.ShearModulus, "the %s bends, another way along each of its axes", "")
			for _, k := range []material.Key{material.ShearModulusYZ, material.ShearModulusXZ, material.PoissonRatioYZ, material.PoissonRatioXZ} {
				r.Perhaps(i, k)
			}
		}
	} else if r.Document.Modal() || r.Document.Swings() || r.Document.Transient() && r.Says(KeyInertia) {
		if f, ok := p.Properties[material.PoissonRatio]; ok && f.Program != nil {
			if v, constant := f.Constant(); constant && v > hardlyKept {
				r.Find(model.Wrong, propertyOf(p), "give a ratio of 0.49 at most", "the volume of the %s is kept by a pressure where its ratio of Poisson is above 0.49, and that has no mass: swings of it cannot be found", p.Name)
			}
		}
	}
	r.Perhaps(i, material.YieldStrength)
	if m := &r.Parts[i].Material; (r.Document.Swings()) && m.Has(material.LossFactor) {
		r.Property(i, material.LossFactor, "swings die away in the %s", "")
	}
	if massive {
		r.Property(i, material.Density, "the mass of the %s counts", "")
	}
}

func propertyOf(p *model.ResolvedPart) string { return "parts/" + p.ID + "/material" }

// about finds what is wrong with what a sentence says in the space of the document.
func about(r *model.Resolving, c *model.ResolvedSentence) {
	flat, axial := r.Document.Space.Flat(), r.Document.Space.Kind == model.Axial
	at := "conditions/" + c.ID
	switch {
	case c.Kind == KeyThin && r.Document.Space.Kind != model.Plane:
		r.Find(model.Wrong, at, "remove it", "%s speaks of a plane space, and this one is %s", c.ID, r.Document.Space.Kind)
	case c.Kind == KeyTorque && axial:
		r.Find(model.Wrong, at, "remove it", "%s twists about an axis, round which nothing moves in an axial space", c.ID)
	case c.Kind == KeyTorque && flat:
		for _, name := range axes[:2] {
			if c.Laws[name] != nil {
				r.Find(model.Wrong, at+"/values/"+name, "leave it empty", "%s twists about %s, and in a plane nothing turns about that", c.ID, name)
			}
		}
	case c.Kind == KeyRigid && r.Says(KeyLarge):
		r.Find(model.Wrong, at, "give the part a very stiff material instead, or take small deformation", "a surface that moves as one can turn by small angles only, and %s stands beside what may bend far", c.ID)
	case c.Kind == KeyDying && r.Document.Transient() && !isZero(c.Laws["mass"]):
		r.Find(model.Wrong, at+"/values/mass", "leave it empty, or find the response over frequencies", "how swings die away by their mass is known over frequencies, not in time, and %s speaks of it", c.ID)
	case c.Kind == KeyFollows && !r.Says(KeyLarge):
		r.Find(model.Doubtful, at, "say that what bends may bend far", "forces turn with a surface where deformation is large; here it is small, and %s does nothing", c.ID)
	case c.Kind == KeyRound && axial, c.Kind == KeySlanted && axial:
		r.Find(model.Wrong, at, "say how it moves along x and y", "%s has an axis of its own, and an axial space has one already", c.ID)
	case c.Kind == KeyGlides && r.Says(KeyLarge):
		r.Find(model.Wrong, at, "take small deformation", "what slides along each other may do so by small ways only, and %s stands beside what may bend far", c.ID)
	case c.Kind == KeyPushed:
		if !r.Pushed() {
			r.Find(model.Doubtful, at, "let a fluid flow, or leave it out", "nothing flows that could push in %s: it does nothing", c.ID)
		}
	}
	if flat && c.Kind != KeyTorque && c.Kind != KeyRound && c.Laws[axes[2]] != nil {
		r.Find(model.Wrong, at+"/values/z", "leave it empty", "%s gives a value along z, and a %s space has x and y alone", c.ID, r.Document.Space.Kind)
	}
	if _, has := c.Definition.Slot(axisSlot); has && !axial {
		axis := axisOf(c)
		switch {
		case axis < 0:
			r.Find(model.Wrong, at+"/values/"+axisSlot, "write x, y or z", "an axis lies along x, y or z, not %q", c.Values[axisSlot])
		case flat && axis != 2:
			r.Find(model.Wrong, at+"/values/"+axisSlot, "write z", "in a plane an axis lies along z, across it")
		}
	}
}

// readingsOf finds what is wrong with readings.
func readingsOf(r *model.Resolving) {
	for i := range r.Readings {
		q := &r.Readings[i]
		if q.Kind != KeyHold && q.Kind != KeyMoment && q.Kind != KeyModalMass {
			continue
		}
		axis := axisOf(q)
		wrong := axis < 0 || r.Document.Space.Flat() && (axis == 2) != (q.Kind == KeyMoment)
		if r.Document.Space.Kind == model.Axial {
			wrong = axis != 1 || q.Kind == KeyMoment
		}
		if wrong {
			r.Find(model.Wrong, "readings/"+q.ID+"/values/"+axisSlot, "choose another axis", "%s is along or about no axis that this space has for it", q.ID)
		}
	}
}
