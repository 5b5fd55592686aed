package pipes

import (
	"slices"

	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
)

// key is that of this physics.
const key = "pipes"

// Physics is flow in pipes as the program knows it.
var Physics = frame.Physics{
	PhysicsKind: model.PhysicsKind{
		Key: key, Name: "pipe flow", Nowhere: "Nothing flows in pipes", Closed: "flow in pipes",
		Lives:   func(*model.Resolved) string { return "What fills {} flows along it" },
		Resolve: resolve, FromRest: true, OnLines: true,
		Order:   func(*model.Resolved) int { return 1 },
		PerNode: func(*model.Resolved) int { return 2 },
	},
	Kinds: Kinds(), Plates: Fields, Derived: Derived, Nodal: make([]bool, len(Derived)), Saddle: true, Pose: pose,
}

// Derived are the quantities that follow from flow in pipes.
var Derived = func() (list []formula.Variable) {
	for _, v := range [][2]string{{"pipe_speed", "m/s"}, {"pipe_flow", "m³/s"}, {"pipe_velocity", "m/s"}, {"pipe_velocity_x", "m/s"}, {"pipe_velocity_y", "m/s"}, {"pipe_velocity_z", "m/s"},
		{"pipe_static", "Pa"}, {"pipe_absolute", "Pa"}, {"pipe_head", "m"}, {"pipe_grade", "m"}, {"pipe_reynolds", "1"}} {
		list = append(list, formula.Variable{Name: v[0], Dimension: quantity.MustUnit(v[1]).Dimension})
	}
	return list
}()

// usualAir is how the air presses where nothing is said, Pa.
const usualAir = 101325.0

// resolve finds which parts are pipes, and what is said of none.
func resolve(r *model.Resolving) {
	for i := range r.Conditions {
		c := &r.Conditions[i]
		if c.Kind != KeyCarries {
			continue
		}
		for _, part := range c.Parts {
			if !r.Parts[part].IsLine() {
				r.Find(model.Wrong, "conditions/"+c.ID+"/on", "draw it as a line", "%s lets what fills the %s flow along it, which is no line", c.ID, r.Parts[part].Name)
				continue
			}
			r.Live(part)
			r.Property(part, material.Density, "what fills the %s flows", "")
			r.Property(part, material.Viscosity, "what fills the %s flows", "")
			r.Perhaps(part, material.VapourPressure)
		}
	}
	for i := range r.Parts {
		if p := &r.Parts[i]; p.Part != nil && p.IsLine() && p.Role == model.Solved && !r.Lives(key, i) {
			r.Find(model.Missing, "conditions", "say that what fills it flows, or make it shown only", "the %s is a line, and nothing says what it carries", p.Name)
		}
	}
	if !r.Solves(key) {
		return
	}
	if r.Document.Modal() || r.Document.Swings() {
		r.Find(model.Wrong, "run/kind", "let the run be steady or in time", "what flows in pipes has no modes and no response here")
	}
	said := func(kinds ...string) map[int]bool {
		set := map[int]bool{}
		for i := range r.Conditions {
			if c := &r.Conditions[i]; slices.Contains(kinds, c.Kind) {
				for _, p := range c.Parts {
					set[p] = true
				}
			}
		}
		return set
	}
	sized, rough, warm := said(KeyRound, KeyChannel), said(KeyWall, KeyRough), said(KeyWarms, KeyInside)
	for _, part := range r.LivesIn(key) {
		name := r.Parts[part].Name
		if !sized[part] {
			r.Find(model.Missing, "conditions", "say its inner diameter", "nothing says how wide the %s is inside", name)
		}
		if !rough[part] {
			r.Find(model.Missing, "conditions", "say what its wall is of, or how rough it is", "nothing says how rough the %s is", name)
		}
		if len(warm) > 0 {
			r.Property(part, material.HeatCapacity, "heat goes along with what fills the %s", "")
			r.Property(part, material.Conductivity, "heat goes along with what fills the %s", "")
		}
		if len(warm) > 0 && !warm[part] {
			r.Find(model.Missing, "conditions", "say that heat goes along it, and what passes its wall", "heat goes along other pipes, and nothing says what it does in the %s", name)
		}
	}
	pull, ends, stands := false, false, false
	for i := range r.Conditions {
		c := &r.Conditions[i]
		if model.Of(c.Kind) != key {
			continue
		}
		pull = pull || c.Kind == KeyGravity
		stands = stands || c.Kind == KeyTank
		ends = ends || c.Kind == KeyTank || c.Kind == KeyOpen || c.Kind == KeyBeyond
		if part, not := r.Absent(key, c); not {
			r.Find(model.Wrong, "conditions/"+c.ID+"/on", "say what it carries, or choose another part", "%s speaks of the %s, of which nothing says that something flows in it", c.ID, r.Parts[part].Name)
		}
		resolveCondition(r, c)
	}
	if !ends {
		r.Find(model.Missing, "conditions", "say where a tank, the open or a pressure is", "nothing fixes the pressure in the pipes")
	}
	if stands && !pull {
		r.Find(model.Missing, "conditions", "say that what is in pipes weighs something", "there are tanks, and nothing pulls down what is in them")
	}
	if lo, hi := heights(r); !pull && !stands && hi > lo {
		r.Find(model.Doubtful, "conditions", "say that what is in pipes weighs something", "pipes rise by %s, and what is in them weighs nothing", quantity.Show(hi-lo, "m", false, 3))
	}
}

// heights are those between which pipes are.
func heights(r *model.Resolving) (lo, hi float64) {
	first := true
	for i := range r.Bodies {
		b := &r.Bodies[i]
		if b.Line == nil || !r.Lives(key, b.Part) {
			continue
		}
		if first {
			lo, hi, first = b.Z0, b.Z1, false
		}
		lo, hi = min(lo, b.Z0), max(hi, b.Z1)
	}
	return lo, hi
}

// resolveCondition checks what a condition says by itself.
func resolveCondition(r *model.Resolving, c *model.ResolvedSentence) {
	at := "conditions/" + c.ID
	number := func(slot string) (float64, bool) {
		if l := c.Laws[slot]; l != nil {
			return l.Constant()
		}
		return 0, false
	}
	switch c.Kind {
	case KeyPump:
		h0, ok0 := number("head0")
		h1, ok1 := number("head1")
		if ok0 && ok1 && h1 >= h0 {
			r.Find(model.Wrong, at+"/values/head1", "give a smaller head there", "the head of the pump of %s does not fall as more flows: such a pump may run in two ways", c.ID)
			return
		}
		if (c.Laws["head2"] == nil) != (c.Laws["flow2"] == nil) {
			r.Find(model.Missing, at, "give both or none", "%s gives a greater flow without its head, or a head without its flow", c.ID)
			return
		}
		if pump, ok := pumpOf(c); ok && (pump.Curve < 0 || pump.Slope < 0) {
			r.Find(model.Wrong, at, "choose points on a curve that falls, and the more the more flows", "the parabola through the heads of the pump of %s rises somewhere, or falls less and less", c.ID)
		}
	case KeyTank:
		if r.Document.Transient() && c.Laws["area"] == nil {
			r.Find(model.Doubtful, at+"/values/area", "give its area if its level changes", "the level of the tank of %s stays where it is: nothing says how large its surface is", c.ID)
		}
		if l := c.Laws["level"]; l != nil && c.Laws["area"] != nil {
			if _, constant := l.Constant(); !constant {
				r.Find(model.Wrong, at+"/values/level", "give the height to begin with, or leave the area out", "%s says how the level changes, and also from how much surface it follows", c.ID)
			}
		}
	case KeyInside:
		switch {
		case r.Document.Space.Kind != model.Solid:
			r.Find(model.Wrong, at, "choose a solid space, or say what is round it", "%s lets a pipe lie in other parts, and in a space of lines there are none", c.ID)
		case !r.Solves("heat"):
			r.Find(model.Missing, at, "solve for heat, too", "%s speaks of heat that goes into parts, which is left out", c.ID)
		case r.Document.Transient():
			r.Find(model.Wrong, "run/kind", "let the run be steady", "in time pipes do not follow here how warm the parts are in which they lie")
		}
	case KeyWarms:
		if (c.Laws["coefficient"] == nil) != (c.Laws["surroundings"] == nil) {
			r.Find(model.Missing, at, "give both or none", "%s gives what passes the wall without the temperature around, or the other way round", c.ID)
		}
	}
}

// pumpOf is the curve of a pump, if its numbers are known.
func pumpOf(c *model.ResolvedSentence) (*Pump, bool) {
	number := func(slot string) float64 {
		if l := c.Laws[slot]; l != nil {
			v, _ := l.Constant()
			return v
		}
		return 0
	}
	p := &Pump{Head: number("head0"), Speed: c.Laws["speed"], Efficiency: number("efficiency")}
	h1, q1, h2, q2 := number("head1"), number("flow1"), number("head2"), number("flow2")
	if q1 <= 0 {
		return p, false
	}
	if c.Laws["flow2"] == nil {
		p.Curve = (p.Head - h1) / (q1 * q1)
		return p, true
	}
	if q2 <= 0 || q1 == q2 {
		return p, false
	}
	// h0 − s·q − c·q² through both.
	f1, f2 := (p.Head-h1)/q1, (p.Head-h2)/q2
	p.Curve = (f2 - f1) / (q2 - q1)
	p.Slope = f1 - p.Curve*q1
	return p, true
}
