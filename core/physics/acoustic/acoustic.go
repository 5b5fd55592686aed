package acoustic

import (
	"slices"

	"saltkettle/core/frame"
	"saltkettle/core/material"
	"saltkettle/core/model"
)

// key is that of this physics.
const key = "acoustic"

// Physics is sound as the program knows it.
var Physics = frame.Physics{
	PhysicsKind: model.PhysicsKind{
		Key: key, Name: "sound", Nowhere: "There is no sound", Closed: "sound",
		Lives:   func(*model.Resolved) string { return "Sound fills {}" },
		Resolve: resolve, Inertial: true, InertiaBy: KeyFills,
		Order:   func(*model.Resolved) int { return 2 },
		PerNode: func(*model.Resolved) int { return 1 },
	},
	Kinds: Kinds(), Plates: Fields, Derived: Derived, Nodal: Nodal, ShapeSize: 1, Pose: pose,
}

// swingsAlone are the kinds that let something swing at frequencies, and nothing in time.
var swingsAlone = map[string]string{
	KeyLoses: "what a fluid loses in each swing", KeyAbsorbs: "a porous absorber", KeyGap: "a narrow gap", KeyPipe: "a narrow duct", KeyShell: "a frame in which sound dies away",
	KeyLined: "a lining", KeyArrives: "a wave from far away",
}

// drives are those that let something swing, or drive it in time, and say nothing of modes.
var drives = map[string]string{KeyMoves: "a wall that moves", KeyArises: "a volume that comes and goes", KeyDuct: "a wave that comes"}

// resolve finds in which parts there is sound and what that needs.
func resolve(r *model.Resolving) {
	for i := range r.Conditions {
		if c := &r.Conditions[i]; c.Kind == KeyFills {
			r.Live(c.Parts...)
		}
	}
	if !r.Solves(key) {
		return
	}
	if !r.Document.Dynamic() {
		r.Find(model.Wrong, "run/kind", "choose modes, a response over frequencies, or a run in time", "sound is what swings, and in a steady run nothing does")
	}
	narrow, filled := map[int]bool{}, map[int]string{}
	for i := range r.Conditions {
		c := &r.Conditions[i]
		if model.Of(c.Kind) != key || c.Kind == KeyFills || len(c.Parts) == 0 && c.Kind != KeyArrives {
			continue
		}
		if c.Kind == KeyArrives {
			arrives(r, c)
		} else if part, not := r.Absent(key, c); not {
			p := &r.Parts[part]
			r.Find(model.Wrong, "conditions/"+c.ID+"/on", "add “Sound fills the "+p.Name+"”, or choose another part", "%s speaks of the %s, in which there is no sound", c.ID, p.Name)
		}
		if words, alone := swingsAlone[c.Kind]; alone && r.Document.Dynamic() && !r.Document.Swings() {
			r.Find(model.Wrong, "conditions/"+c.ID, "find the response over frequencies, or remove it", "%s acts at frequencies alone, and %s says it of a run without", words, c.ID)
		}
		if words, is := drives[c.Kind]; is && r.Document.Modal() && (c.Kind != KeyDuct || c.Laws["pressure"] != nil) {
			r.Find(model.Wrong, "conditions/"+c.ID, "remove it, or find the response", "%s drives sound, and modes are what swings by itself", words)
		}
		if slices.Contains([]string{KeyLoses, KeyAbsorbs, KeyGap, KeyPipe}, c.Kind) {
			for _, part := range c.Parts {
				if other, twice := filled[part]; twice {
					r.Find(model.Wrong, "conditions/"+c.ID, "keep one of them", "%s and %s both say what becomes of the sound in the %s", other, c.ID, r.Parts[part].Name)
				}
				filled[part] = c.ID
			}
		}
		if c.Kind == KeyGap || c.Kind == KeyPipe {
			for _, part := range c.Parts {
				narrow[part] = true
			}
		}
	}
	for _, i := range r.LivesIn(key) {
		r.Property(i, material.Density, "sound fills the %s", "")
		r.Property(i, material.SoundSpeed, "sound fills the %s", "")
		if narrow[i] {
			for _, property := range []material.Key{material.Viscosity, material.Conductivity, material.HeatCapacity, material.HeatCapacityRatio} {
				r.Property(i, property, "the walls of the %s take up sound", "")
			}
		}
	}
}

// arrives finds what is wrong with a wave from far away.
func arrives(r *model.Resolving, c *model.ResolvedSentence) {
	x, y, z := c.Laws["x"], c.Laws["y"], c.Laws["z"]
	switch {
	case slices.ContainsFunc(r.Conditions, func(o model.ResolvedSentence) bool { return o.Kind == KeyArrives && o.ID < c.ID }):
		r.Find(model.Wrong, "conditions/"+c.ID, "keep one of them", "two waves come from far away at once, and a run finds what one does")
	case !r.Says(KeyShell):
		r.Find(model.Wrong, "conditions/"+c.ID, "let a box round all others be a frame in which sound dies away", "a wave from far away comes in through a frame, and nothing says which part is one")
	case x == nil && y == nil && z == nil:
		r.Find(model.Missing, "conditions/"+c.ID+"/values/x", "write for example 1", "nothing says along what the wave of %s comes", c.ID)
	case r.Document.Space.Kind == model.Axial && x != nil, r.Document.Space.Flat() && z != nil:
		r.Find(model.Wrong, "conditions/"+c.ID, "leave that direction empty", "in this space a wave cannot come along the direction of %s: it would not be the same all round, or all through", c.ID)
	}
}
