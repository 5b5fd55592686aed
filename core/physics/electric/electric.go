package electric

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/frame"
	"saltkettle/core/material"
	"saltkettle/core/model"
)

// key is that of this physics.
const key = "electric"

// Physics is electric current, or the field of charges, as the program knows it.
var Physics = frame.Physics{
	PhysicsKind: model.PhysicsKind{
		Key: key, Name: "current", Nowhere: "Current flows nowhere", Closed: "current",
		Lives: func(r *model.Resolved) string {
			if r.Says(KeyField) {
				return "A field of charges fills {}"
			}
			return "Current flows in {}"
		},
		Resolve: resolve, PerNode: func(*model.Resolved) int { return 1 },
	},
	Kinds: Kinds(), Plates: Fields, Derived: Derived, Nodal: Nodal, Pose: pose,
}

// resolve finds in which parts current flows and what that needs.
func resolve(r *model.Resolving) {
	static, flows, terminal := r.Says(KeyField), r.Says(KeyFlows), r.Says(KeyVoltage)
	for i := range r.Conditions {
		if c := &r.Conditions[i]; c.Kind == KeyFlows || c.Kind == KeyField {
			r.Live(c.Parts...)
		}
	}
	for i := range r.Conditions {
		c := &r.Conditions[i]
		if static && flows && c.Kind == KeyField {
			r.Find(model.Wrong, "conditions/"+c.ID, "switch one of the two off", "current flows in one part and the field of charges fills another: a run solves for one of them")
		}
		if model.Of(c.Kind) != key || len(c.Parts) == 0 || c.Kind == KeyFlows || c.Kind == KeyField {
			continue
		}
		if ofField := c.Kind == KeyCharge; c.Kind != KeyVoltage && ofField != static && r.Solves(key) {
			r.Find(model.Wrong, "conditions/"+c.ID, "remove it or switch it off", "%s does not belong to %s", c.ID, words(static))
			continue
		}
		part, not := r.Absent(key, c)
		if not {
			p := &r.Parts[part]
			r.Find(model.Wrong, "conditions/"+c.ID+"/on", "add “Electric current flows in the "+p.Name+"”, or choose another part", "%s speaks of the %s, in which no current flows", c.ID, p.Name)
		}
		if facing := r.Document.Part(c.On.Facing); c.Definition.Inner && facing >= 0 && !r.Lives(key, facing) {
			other := r.Parts[facing].Name
			r.Find(model.Wrong, "conditions/"+c.ID+"/on", "add “Electric current flows in the "+other+"”, or choose another part", "%s speaks of current that enters the %s, in which none flows", c.ID, other)
		}
		for _, part := range c.Parts {
			if c.Kind == KeyThermoelectric && r.Lives(key, part) {
				r.Property(part, material.Seebeck, "heat drives current in the %s", "")
			}
		}
	}
	if !r.Solves(key) {
		return
	}
	for _, i := range r.LivesIn(key) {
		if static {
			r.Property(i, material.Permittivity, "a field fills the %s", "")
		} else {
			r.Property(i, material.Resistivity, "current flows in the %s", "")
		}
	}
	if !terminal {
		r.Find(model.Missing, "conditions", "make a surface a terminal at a voltage, such as 0 V", "nothing fixes the electric potential: no terminal has a voltage")
	}
}

// words names what is solved for.
func words(static bool) string {
	if static {
		return "the field of charges"
	}
	return "a current"
}

// read evaluates a reading of the current or of the field.
func read(r *frame.Reading, static bool) (err error) {
	kind := r.Sentence.Kind
	if part, not := r.Model.Absent(key, r.Sentence); not {
		return fmt.Errorf("no current flows in the %s", r.Model.Parts[part].Name)
	}
	if ofField := kind == KeyChargeOn || kind == KeyCapacitance; ofField != static && kind != KeyPotential {
		return couple.ErrAbsent
	}
	switch kind {
	case KeyChargeOn:
		// The field points away from charge: what leaves the insulator is the charge on its
		// other side, with the other sign.
		r.Value, err = r.Through()
		r.Value = -r.Value
	case KeyPotential:
		var m *couple.Measure
		if m, err = r.Measure("potential", r.Region); err == nil {
			r.Value = m.Mean()
		}
	case KeyThrough:
		r.Value, err = r.Through()
	case KeyResistance, KeyCapacitance:
		r.Value, err = resistance(r, static)
	case KeyPower:
		r.Value, err = r.Kernel.(*Kernel).Power(r.Solution, r.Region.Bodies)
	default:
		err = fmt.Errorf("readings of the kind %q cannot be taken", kind)
	}
	return err
}

// resistance is that seen from a terminal, Ω, or in a static field the capacitance, F.
func resistance(r *frame.Reading, static bool) (float64, error) {
	difference, err := acrossTerminals(r)
	if err != nil {
		return 0, err
	}
	current, err := r.Through()
	if err != nil {
		return 0, err
	}
	least := 1e-12 // A/V
	if static {
		least = 1e-12 * Vacuum
	}
	if math.Abs(current) <= least*math.Abs(difference) {
		return 0, errors.New("no current passes there")
	}
	if static {
		return math.Abs(current / difference), nil
	}
	return math.Abs(difference / current), nil
}

// samePotential is the difference of potentials, relative to the greatest, that counts as
// none.
const samePotential = 1e-9

// acrossTerminals is the difference of potential between a patch and the other terminals of
// its conductor, V. These must be at one potential.
func acrossTerminals(r *frame.Reading) (float64, error) {
	m, err := r.Measure("potential", r.Region)
	if err != nil {
		return 0, err
	}
	here := m.Mean()
	mine := map[int32]bool{}
	for _, k := range r.Region.Facets {
		mine[k] = true
	}
	reached := conductor(r)
	size := math.Abs(here)
	var others []float64
	var keys []string
	for i := range r.Model.Conditions {
		c := &r.Model.Conditions[i]
		if c.Kind != KeyVoltage && c.Kind != KeyCurrent && c.Kind != KeyCharge {
			continue
		}
		t := frame.Region{Bodies: r.BodySet(c.On), Facets: r.Facets(c.On, c.Definition.Exposed)}
		t.Facets = slices.DeleteFunc(t.Facets, func(k int32) bool { return mine[k] || !reached[r.Mesh.Facets[k].Body] })
		if len(t.Facets) == 0 {
			continue
		}
		m, err := r.Measure("potential", t)
		if err != nil {
			return 0, err
		}
		others, keys = append(others, m.Mean()), append(keys, c.ID)
		size = max(size, math.Abs(m.Mean()))
	}
	// Those at the potential of the patch are joined with it.
	apart := func(a, b float64) bool { return math.Abs(a-b) > samePotential*size }
	found := math.NaN()
	for i, v := range others {
		switch {
		case !apart(v, here):
		case math.IsNaN(found):
			found = v
		case apart(v, found):
			return 0, fmt.Errorf("its conductor has terminals at more than two potentials (%s among them): say between which two by a formula, such as abs(mean(potential over a.left) - mean(potential over b.right))/abs(r2), where r2 is the current through one of them", keys[i])
		}
	}
	if math.IsNaN(found) {
		return 0, errors.New("its conductor has no terminal at another potential")
	}
	return here - found, nil
}

// conductor is the bodies that what is conducted in the region can reach.
func conductor(r *frame.Reading) map[int32]bool {
	lives := func(body int32) bool { return r.Solution.Lives(r.Field, body) }
	reached := map[int32]bool{}
	for b := range r.Region.Bodies {
		reached[b] = lives(b)
	}
	for grown := true; grown; {
		grown = false
		for k := range r.Mesh.Facets {
			f := &r.Mesh.Facets[k]
			if f.OtherBody >= 0 && reached[f.Body] != reached[f.OtherBody] && lives(f.Body) && lives(f.OtherBody) {
				reached[f.Body], reached[f.OtherBody], grown = true, true, true
			}
		}
	}
	return reached
}
