package magnetic

import (
	"fmt"
	"slices"
	"strings"

	"saltkettle/core/frame"
	"saltkettle/core/material"
	"saltkettle/core/model"
)

// key is that of this physics.
const key = "magnetic"

// Physics is the magnetic field as the program knows it.
var Physics = frame.Physics{
	PhysicsKind: model.PhysicsKind{
		Key: key, Name: "magnetism", Nowhere: "Nothing is magnetic", Closed: "flux",
		Lives:   func(*model.Resolved) string { return "A magnetic field fills {}" },
		Resolve: resolve, MovesBy: moving, Expect: expect, Stepwise: true,
		Order: func(r *model.Resolved) int {
			if r.Document.Space.Flat() && !r.Document.Transient() {
				return 2 // forces follow from slopes
			}
			return 0
		},
		PerNode: func(r *model.Resolved) int {
			if r.Says(KeyAlternates) {
				return 2
			}
			return 1
		},
	},
	Kinds: Kinds(), Plates: Fields, Derived: Derived, Nodal: Nodal, Invariants: invariants, Pose: pose,
}

// invariants lets energy and power be nowhere less than nothing, as smoothed they may be.
func invariants(values [][]float64) {
	for i, v := range Derived {
		if v.Name != "field_energy" && v.Name != "driven_heat" {
			continue
		}
		for k := range values[i] {
			values[i][k] = max(0, values[i][k])
		}
	}
}

// axes, as readings name them.
var axes = []string{"x", "y", "z"}

// axesOf are those along which there may be a force.
func axesOf(r *model.Resolved) []string {
	switch {
	case r.Document.Space.Kind == model.Axial:
		return axes[1:2]
	case r.Document.Space.Flat():
		return axes[:2]
	}
	return axes
}

func alongNone(axis string, may []string) string {
	return fmt.Sprintf("a magnetic force is along %s here, not along %q", strings.Join(may, " or "), axis)
}

// resolve lets the field fill all solved parts if there is a magnet or a coil, and finds what that needs.
func resolve(r *model.Resolving) {
	var magnets []int
	carries := map[int]string{}
	made := false
	for i := range r.Conditions {
		switch c := &r.Conditions[i]; c.Kind {
		case KeyMagnet:
			made, magnets = true, append(magnets, c.Parts...)
			if c.Laws["x"] == nil && c.Laws["y"] == nil && c.Laws["z"] == nil {
				r.Find(model.Missing, "conditions/"+c.ID+"/values/y", "write for example 1 along y", "nothing says where the north of the magnet in %s points", c.ID)
			}
		case KeyAlternates:
			if r.Says(KeyMagnet) {
				r.Find(model.Wrong, "conditions/"+c.ID, "remove it, or leave the magnet out", "what alternates is found without magnets, and %s lets currents alternate", c.ID)
			}
			if r.Document.Swings() {
				r.Find(model.Wrong, "conditions/"+c.ID, "remove it, or choose a steady run", "a run that finds the response has frequencies of its own, and %s says another one", c.ID)
			}
		case KeyCoil, KeyTotal, KeyFed:
			if made = true; !r.Document.Space.Flat() && c.Kind != KeyCoil {
				r.Find(model.Wrong, "conditions/"+c.ID, "choose a plane or an axial space, or say what current each turn has", "how currents spread in conductors, or follow from a voltage, is found in sections alone, not yet in a solid space")
			}
			for _, part := range c.Parts {
				if other, twice := carries[part]; twice {
					r.Find(model.Wrong, "conditions/"+c.ID, "keep one of them", "%s and %s both say what current the %s carries", other, c.ID, r.Parts[part].Name)
				}
				carries[part] = c.ID
			}
		}
	}
	if made {
		r.Live(r.Solved()...)
	}
	for i := range r.Conditions {
		c := &r.Conditions[i]
		if model.Of(c.Kind) != key || len(c.Parts) == 0 {
			continue
		}
		if part, not := r.Absent(key, c); not {
			r.Find(model.Wrong, "conditions/"+c.ID+"/on", "let that part be solved, and say which part is a magnet or a coil", "%s speaks of the %s, in which there is no magnetic field", c.ID, r.Parts[part].Name)
		}
		if c.Kind == KeyMoves {
			switch {
			case c.Laws["x"] == nil && c.Laws["y"] == nil:
				r.Find(model.Missing, "conditions/"+c.ID+"/values/y", "write for example 2 m/s", "nothing says how fast the conductor in %s moves", c.ID)
			case r.Document.Space.Kind == model.Axial && c.Laws["x"] != nil:
				r.Find(model.Wrong, "conditions/"+c.ID+"/values/x", "leave it empty", "round an axis a conductor moves along y alone, and %s lets it move along x", c.ID)
			}
		}
		if c.Kind == KeyDriven || c.Kind == KeyTotal || c.Kind == KeyMoves {
			for _, part := range c.Parts {
				r.Property(part, material.Resistivity, "currents are driven in the %s", "")
			}
			if !r.Document.Space.Flat() {
				r.Find(model.Wrong, "conditions/"+c.ID, "choose a plane or an axial space, or remove it", "currents are driven in sections alone, not yet in a solid space")
			}
		}
	}
	may := axesOf(r.Resolved)
	for i := range r.Readings {
		if q := &r.Readings[i]; q.Kind == KeyMutual && strings.TrimSpace(q.Values["other"]) != "" && !slices.ContainsFunc(r.Parts, func(p model.ResolvedPart) bool { return p.Part != nil && named(p.Part, q.Values["other"]) }) {
			r.Find(model.Wrong, "readings/"+q.ID+"/values/other", "write the name of the part with the other turns", "there is no part %q", q.Values["other"])
		}
		if q := &r.Readings[i]; q.Kind == KeyForce && !slices.Contains(may, q.Values["axis"]) {
			r.Find(model.Wrong, "readings/"+q.ID+"/values/axis", "write "+strings.Join(may, " or "), "%s", alongNone(q.Values["axis"], may))
		}
	}
	for _, i := range r.LivesIn(key) {
		part := &r.Parts[i]
		gives := part.Material.Gives
		switch {
		case slices.Contains(magnets, i):
			r.Property(i, material.Remanence, "the %s is a magnet", "")
			for _, other := range []material.Key{material.RecoilPermeability, material.RemanenceSlope, material.Coercivity} {
				if gives(other) {
					r.Property(i, other, "the %s is a magnet", "")
				}
			}
		case gives(material.Magnetisation):
			r.Property(i, material.Magnetisation, "a magnetic field fills the %s", "")
		case gives(material.Permeability):
			r.Property(i, material.Permeability, "a magnetic field fills the %s", "")
		}
		if part.Part != nil && gives(material.Remanence) && !slices.Contains(magnets, i) && part.Material.Name != "" {
			r.Find(model.Doubtful, fmt.Sprintf("parts/%s/material", part.ID), "add “The "+part.Name+" is a magnet”", "the %s is of a magnet's material, but nothing says where its north points: it is taken to be without remanence", part.Name)
		}
	}
}
