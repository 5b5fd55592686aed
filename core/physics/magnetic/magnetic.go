package magnetic

import (
	"errors"
	"fmt"
	"math"
	"math/cmplx"
	"slices"
	"strings"

	"saltkettle/core/fem"
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
		Resolve: resolve, MovesBy: KeyDriven,
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
		case KeyCoil:
			if made = true; !r.Document.Space.Flat() {
				r.Find(model.Wrong, "conditions/"+c.ID, "choose a plane or an axial space, or remove it", "currents make a field in sections alone, not yet in a solid space")
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
		if c.Kind == KeyDriven {
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

// read evaluates a reading.
func read(r *frame.Reading) (err error) {
	k := r.Kernel.(kernel)
	if part, not := r.Model.Absent(key, r.Sentence); not {
		return fmt.Errorf("no magnetic field fills the %s", r.Model.Parts[part].Name)
	}
	switch r.Sentence.Kind {
	case KeyForce:
		axis := r.Sentence.Values["axis"]
		if may := axesOf(r.Model); !slices.Contains(may, axis) {
			return errors.New(alongNone(axis, may))
		}
		force, _, err := push(k, r.Solution, r.Field, r.Region.Bodies, vector{})
		if err != nil {
			return err
		}
		r.Value = force[slices.Index(axes, axis)]
	case KeyTorque:
		if r.Model.Document.Space.Kind == model.Axial {
			return errors.New("there is no torque about z in an axial space")
		}
		var about vector
		for i, name := range []string{"px", "py"} {
			if l := r.Sentence.Laws[name]; l != nil {
				about[i], _ = l.Constant()
			}
		}
		_, torque, err := push(k, r.Solution, r.Field, r.Region.Bodies, about)
		if err != nil {
			return err
		}
		r.Value = torque[2]
	case KeyLinkage, KeyFlux:
		of := linkedBy
		if r.Sentence.Kind == KeyFlux {
			of = fluxThrough
		}
		v, err := amplitude(k, r, of)
		if err != nil {
			return err
		}
		if r.Value = real(v); imag(v) != 0 {
			r.Value = cmplx.Abs(v)
		}
	case KeyInductance:
		v, err := amplitude(k, r, linkedBy)
		if err != nil {
			return err
		}
		current, err := currentIn(k, r)
		if err != nil {
			return err
		}
		if current == 0 {
			return errors.New("no current runs there")
		}
		r.Value = real(v) / current
	case KeyEnergy:
		if r.Solution.Swing != nil {
			return errors.New("how the energy of what swings comes and goes is not known: let currents alternate in a steady run")
		}
		m, err := r.Measure("field_energy", r.Region)
		if err != nil {
			return err
		}
		r.Value = m.Integral
	case KeyLost:
		r.Value, err = lost(k, r)
	default:
		err = fmt.Errorf("readings of the kind %q cannot be taken", r.Sentence.Kind)
	}
	return err
}

// lost is the power of driven currents, W: of the moment, or its mean over a swing.
func lost(k kernel, r *frame.Reading) (sum float64, err error) {
	s, p := r.Solution, k.stuff().problem
	switch {
	case !p.Moves && p.Frequency == 0:
		return 0, errors.New("nothing drives currents: they are driven where a sentence says in which part, by currents that alternate, in a run in time, or in one that finds the response to what swings")
	case s.Swing == nil:
		m, err := r.Measure("driven_heat", r.Region)
		if err != nil {
			return 0, err
		}
		return m.Integral, nil
	}
	at, omega := k.Fork().(kernel), 2*math.Pi*s.Swing.Frequency
	for _, state := range []*fem.State{s.Swing.Real, s.Swing.Imaginary} {
		rate := *state
		rate.Rate = make([]float64, len(state.U))
		for i, v := range state.U {
			rate.Rate[i] = omega * (v - s.State.U[i])
		}
		err := s.System.EachCell(&rate, r.Region.Bodies, func(points []fem.Point, weights []float64) error {
			if err := at.Prepare(-1, points); err != nil {
				return err
			}
			for q, w := range weights {
				sum += w / 2 * at.heat(&points[q], q)
			}
			return nil
		})
		if err != nil {
			return 0, err
		}
	}
	return sum, nil
}

// amplitude is a quantity in which the field is linear, or its complex amplitude where that alternates or swings.
func amplitude(k kernel, r *frame.Reading, of func(k kernel, r *frame.Reading, state *fem.State) (float64, error)) (complex128, error) {
	s := r.Solution
	var parts [2]float64
	var err error
	switch halves := k.parts(); {
	case len(halves) == 2:
		for i, half := range halves {
			if parts[i], err = of(half.kernel, r, s.State); err != nil {
				return 0, err
			}
		}
	case s.Swing != nil:
		middle, err := of(k, r, s.State)
		if err != nil {
			return 0, err
		}
		for i, state := range []*fem.State{s.Swing.Real, s.Swing.Imaginary} {
			if parts[i], err = of(k, r, state); err != nil {
				return 0, err
			}
			parts[i] -= middle
		}
	default:
		if parts[0], err = of(k, r, s.State); err != nil {
			return 0, err
		}
	}
	return complex(parts[0], parts[1]), nil
}

// eachTurns calls f for the points of coils in the bodies that a reading is of, at a state, with their section and turns per area.
func eachTurns(k kernel, r *frame.Reading, state *fem.State, f func(at *section, p *fem.Point, q int, weight, turns float64) error) error {
	at, ok := k.parts()[0].kernel.Fork().(*section)
	coils := false
	if ok {
		err := r.Solution.System.EachCell(state, r.Region.Bodies, func(points []fem.Point, weights []float64) error {
			if err := at.Prepare(-1, points); err != nil || at.body == nil || at.body.Turns == nil {
				return err
			}
			coils = true
			for q, w := range weights {
				if err := f(at, &points[q], q, w, at.now.At(turns, q)/at.body.Area); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	if !coils {
		return errors.New("no turns run there")
	}
	return nil
}

// linkedBy is the flux that the turns of coils hold at a state, Wb.
func linkedBy(k kernel, r *frame.Reading, state *fem.State) (sum float64, err error) {
	err = eachTurns(k, r, state, func(at *section, p *fem.Point, _ int, weight, turns float64) error {
		c := at.curl(p)
		sum += weight * turns * c.test * p.U[at.a]
		return nil
	})
	return sum, err
}

// currentIn is the current in each of these turns, A, of what swings its amplitude.
func currentIn(k kernel, r *frame.Reading) (current float64, err error) {
	at := func(swing float64) (current float64, err error) {
		state, known := *r.Solution.State, false
		state.Swing = swing
		err = eachTurns(k, r, &state, func(at *section, _ *fem.Point, q int, _, _ float64) error {
			i := at.now.At(amperes, q)
			if known && math.Abs(i-current) > 1e-9*math.Abs(current) {
				return errors.New("not all turns there have the same current")
			}
			known, current = true, i
			return nil
		})
		return current, err
	}
	current, err = at(0)
	if err != nil || r.Solution.Swing == nil {
		return current, err
	}
	swung, err := at(1)
	return swung - current, err
}

// fluxThrough is the flux out through facets at a state, Wb: out of the bodies that the patch names, where they are these.
func fluxThrough(k kernel, r *frame.Reading, state *fem.State) (sum float64, err error) {
	mine, lives := r.Region.Bodies, r.Solution.Fields[r.Field].Bodies
	var sides []fem.Side
	for _, f := range r.Region.Facets {
		facet := &r.Mesh.Facets[f]
		if here := mine[facet.Body]; here && lives[facet.Body] || !here && facet.Other >= 0 && lives[facet.OtherBody] {
			sides = append(sides, r.Solution.Side(f, !here))
		}
	}
	if len(sides) == 0 {
		return 0, errors.New("no magnetic field meets it")
	}
	at := k.Fork().(kernel)
	err = r.Solution.System.EachSide(state, sides, func(_ int, points []fem.Point, weights []float64) error {
		if err := at.Prepare(-1, points); err != nil {
			return err
		}
		for q, w := range weights {
			b, _, _ := at.state(&points[q], q)
			sum += w * dot(b, points[q].Normal)
		}
		return nil
	})
	return sum, err
}
