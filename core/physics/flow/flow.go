package flow

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/frame"
	"saltkettle/core/material"
	"saltkettle/core/model"
)

// key is that of this physics.
const key = "flow"

// Physics is flow as the program knows it.
var Physics = frame.Physics{
	PhysicsKind: model.PhysicsKind{
		Key: key, Name: "flow", Nowhere: "Nothing flows", Closed: "fluid",
		Lives:   func(*model.Resolved) string { return "What fills {} flows" },
		Resolve: resolve, Expect: expect, FromRest: true, AheadBy: KeyAhead, Stepwise: true, Pushes: true,
		Order: func(r *model.Resolved) int {
			if r.Document.Space.Flat() && !isTurbulent(r) {
				return 2
			}
			return 1
		},
		PerNode: func(r *model.Resolved) int {
			n := 4
			if r.Document.Space.Flat() {
				n = 3
			}
			if r.Says(KeyEnergy) {
				n += 2
			} else if isTurbulent(r) {
				n++
			}
			return n
		},
	},
	Kinds: Kinds(), Plates: Fields, Derived: Derived, Nodal: Nodal, Saddle: true, Pose: pose,
}

// isTurbulent says that the flow of a model is.
func isTurbulent(r interface{ Says(kind string) bool }) bool {
	return r.Says(KeyTurbulent) || r.Says(KeyEnergy)
}

// enters says that a kind of sentence lets fluid in or out.
func enters(kind string) bool {
	switch kind {
	case KeyInlet, KeyStream, KeyChannel, KeyThrough, KeyOpening, KeyStill, KeyFan, KeyRepeats, KeyCarries:
		return true
	}
	return false
}

// repeats says that a kind of sentence lets the flow repeat.
func repeats(kind string) bool { return kind == KeyRepeats || kind == KeyCarries }

// resolve finds which parts flow and what that needs.
func resolve(r *model.Resolving) {
	for i := range r.Conditions {
		if c := &r.Conditions[i]; c.Kind == KeyFlows {
			r.Live(c.Parts...)
		}
	}
	flat, turbulent := r.Document.Space.Flat(), isTurbulent(r)
	gravity, drives := false, false
	for i := range r.Conditions {
		c := &r.Conditions[i]
		if model.Of(c.Kind) != key || c.Kind == KeyFlows {
			continue
		}
		switch {
		case c.Kind == KeyEnergy && r.Says(KeyTurbulent):
			r.Find(model.Wrong, "conditions/"+c.ID, "leave out one of them", "%s: the flow is said to be turbulent in two ways", c.ID)
		case turbulent && c.Kind == KeyThins:
			r.Find(model.Wrong, "conditions/"+c.ID, "leave it out, or that the flow is turbulent", "%s: what becomes thinner as it is sheared is not solved for with turbulence", c.ID)
		case !turbulent && (c.Kind == KeyRough || c.Kind == KeyBrings || c.Kind == KeyRatio):
			r.Find(model.Wrong, "conditions/"+c.ID, "say that the flow is turbulent, or leave it out", "%s speaks of turbulence, and the flow is not said to be turbulent", c.ID)
		}
		gravity = gravity || c.Kind == KeyGravity
		drives = drives || enters(c.Kind) || c.Kind == KeyWallMoves || c.Kind == KeyWallTurns || c.Kind == KeyGravity
		if c.Kind == KeyWallTurns && r.Document.Space.Kind == model.Axial {
			r.Find(model.Wrong, "conditions/"+c.ID, "draw a section across the axis", "%s: what turns about the axis of an axial space drags fluid round it, which is not solved for", c.ID)
		}
		if flat && c.Laws[axes[2]] != nil {
			r.Find(model.Wrong, "conditions/"+c.ID+"/values/z", "leave it empty", "%s gives a value along z, and a %s space has x and y alone", c.ID, r.Document.Space.Kind)
		}
		if repeats(c.Kind) {
			if !flat && !turbulent && r.Document.Mesh.Order != "2" {
				r.Find(model.Wrong, "mesh/order", "choose order 2", "%s: in space a flow repeats in cells of order 2", c.ID)
			}
			if r.Document.Space.Kind == model.Axial && c.Laws[axes[0]] != nil {
				r.Find(model.Wrong, "conditions/"+c.ID+"/values/x", "leave it empty", "%s: about an axis a flow can repeat along it alone", c.ID)
			}
			if others := r.Carried(); len(others) > 0 {
				r.Find(model.Wrong, "conditions/"+c.ID, "let no "+others+" be solved for", "%s: what a flow that repeats carries along is not known, and %s is solved for", c.ID, others)
			}
		}
		if c.Kind == KeyGravity && r.Document.Space.Kind == model.Axial && c.Laws[axes[0]] != nil {
			r.Find(model.Wrong, "conditions/"+c.ID+"/values/x", "leave it empty", "gravity across the axis is not the same all round it")
		}
		if (c.Kind == KeyChannel || c.Kind == KeyThrough) && !flat && r.Document.Mesh.Order == "2" {
			r.Find(model.Wrong, "conditions/"+c.ID, "choose cells of order 1, or let it come in at a speed, with a formula of the place", "%s: what comes from a long channel is known in plane and axial spaces, and in space for cells of order 1", c.ID)
		}
		if len(c.Parts) == 0 {
			continue
		}
		if part, not := r.Absent(key, c); not {
			p := &r.Parts[part]
			r.Find(model.Wrong, "conditions/"+c.ID+"/on", "add “What fills the "+p.Name+" flows”, or choose another part", "%s speaks of the %s, which does not flow", c.ID, p.Name)
		}
	}
	for _, i := range r.LivesIn(key) {
		p := &r.Parts[i]
		if f := p.Material.Family; f != "" && f != "gas" && f != "liquid" {
			r.Find(model.Wrong, "parts/"+p.ID+"/material", "choose a liquid or a gas", "the %s flows, and %s is neither a liquid nor a gas", p.Name, p.Material.Name)
		}
		r.Property(i, material.Density, "the %s flows", "")
		r.Property(i, material.Viscosity, "the %s flows", "")
		if r.Given(couple.Temperature) {
			r.Property(i, material.HeatCapacity, "the %s carries heat", "")
		}
	}
	if !r.Solves(key) {
		return
	}
	for i := range r.Readings {
		q := &r.Readings[i]
		if q.Kind != KeyForce && q.Kind != KeyCoefficient {
			continue
		}
		if axis := slices.Index(axes[:], q.Values["axis"]); axis < 0 || flat && axis == 2 || r.Document.Space.Kind == model.Axial && axis == 0 {
			r.Find(model.Wrong, "readings/"+q.ID+"/values/axis", "write "+strings.Join(r.Document.Space.Axes(), " or "), "%s is along no axis that this space has", q.ID)
		}
	}
	if !drives {
		r.Find(model.Missing, "conditions", "let fluid come in, let a wall move, or add gravity", "nothing drives the flow")
	}
	switch order := strings.TrimSpace(r.Document.Mesh.Order); {
	case turbulent && order == "2":
		r.Find(model.Wrong, "mesh/order", "choose order 1, or leave it open", "turbulent flow needs functions of order 1 in its cells")
	case flat && !turbulent && order == "1":
		r.Find(model.Wrong, "mesh/order", "choose order 2", "flow needs functions of order 2 in its cells")
	}
	if gravity && !r.Given(couple.Temperature) {
		r.Find(model.Doubtful, "conditions", "solve for heat too", "gravity moves a fluid by differences of its temperature, which is not solved for: it does nothing here")
	}
	if r.Document.Modal() || r.Document.Swings() {
		r.Find(model.Wrong, "run/kind", "let the run be steady or in time", "flow has no modes and no response here")
	}
}

// read evaluates a reading of the flow.
func read(r *frame.Reading) error {
	// What pushes a surface may be said of the solid behind it.
	onWall := r.Sentence.Kind == KeyForce || r.Sentence.Kind == KeyTorque || r.Sentence.Kind == KeyCoefficient
	if part, not := r.Model.Absent(key, r.Sentence); not && !onWall {
		return fmt.Errorf("the %s does not flow", r.Model.Parts[part].Name)
	}
	switch r.Sentence.Kind {
	case KeySpeed:
		m, err := r.Measure("velocity", r.Region)
		if err != nil {
			return err
		}
		r.Value, r.At = m.Greatest, &m.MostAt
		return nil
	case KeyMean:
		m, err := r.Measure("pressure", r.Region)
		if err != nil {
			return err
		}
		r.Value = m.Mean()
		return nil
	case KeyVolumeFlow, KeyMassFlow:
		var err error
		r.Value, err = leaving(r, r.Sentence.Kind == KeyMassFlow)
		return err
	case KeyForce:
		axis := slices.Index(axes[:], r.Sentence.Values["axis"])
		return pushes(r, func(_, f [3]float64) { r.Value += f[axis] })
	case KeyCoefficient:
		return coefficient(r)
	case KeyTorque:
		var about [2]float64
		for i, name := range []string{"x", "y"} {
			if l := r.Sentence.Laws[name]; l != nil {
				about[i], _ = l.Constant()
			}
		}
		return pushes(r, func(x, f [3]float64) { r.Value += (x[0]-about[0])*f[1] - (x[1]-about[1])*f[0] })
	case KeyLoss:
		again := r.Kernel.(*Kernel).again
		if again == nil {
			return errors.New("the flow does not repeat")
		}
		r.Value = again.drop
		return nil
	case KeyStays:
		var err error
		r.Value, err = stays(r)
		return err
	case KeyLost:
		var err error
		r.Value, err = lost(r)
		return err
	case KeyMixed:
		through, err := r.Measure("leaving_speed", r.Region)
		if err != nil {
			return err
		}
		warm, err := r.Measure("temperature*leaving_speed", r.Region)
		if err != nil {
			return err
		}
		if through.Integral == 0 {
			return errors.New("nothing flows through it")
		}
		r.Value = warm.Integral / through.Integral
		return nil
	}
	return fmt.Errorf("readings of the kind %q cannot be taken", r.Sentence.Kind)
}

// coefficient is a force over half the density times the square of a speed times an area.
func coefficient(r *frame.Reading) error {
	number := func(slot string) float64 { return said(r.Sentence, slot) }
	k := r.Kernel.(*Kernel)
	along := [3]float64{}
	along[slices.Index(axes[:], r.Sentence.Values["axis"])] = 1
	sin, cos := math.Sincos(number("turn"))
	along[0], along[1] = along[0]*cos-along[1]*sin, along[0]*sin+along[1]*cos
	if err := pushes(r, func(_, f [3]float64) { r.Value += dot(f, along) }); err != nil {
		return err
	}
	rho := 0.0
	for _, f := range r.Region.Facets {
		m := &r.Mesh.Facets[f]
		for _, b := range [2]int32{m.Body, m.OtherBody} {
			if own, flows := k.problem.Bodies[b]; flows && (b == m.Body || m.Other >= 0) {
				rho = own.Reference
			}
		}
	}
	r.Value /= rho / 2 * number("speed") * number("speed") * number("area")
	return nil
}

// leaving is how much leaves the bodies of a region through its facets, m³/s or kg/s. Within a fluid it is what the
// equations of the bodies let through, so that nothing is lost between one and the next.
func leaving(r *frame.Reading, mass bool) (sum float64, err error) {
	k, s := r.Kernel.(*Kernel), r.Solution
	var sides []fem.Side
	var within []int32
	for _, f := range r.Region.Facets {
		m := &r.Mesh.Facets[f]
		_, here := k.problem.Bodies[m.Body]
		_, beyond := k.problem.Bodies[m.OtherBody]
		if m.Other >= 0 && here && beyond {
			within = append(within, f)
		}
		sides = append(sides, k.side(r, f, r.Region.Bodies))
	}
	err = s.System.EachSide(s.State, sides, func(_ int, points []fem.Point, weights []float64) error {
		rho := 1.0
		if mass {
			rho = k.problem.Bodies[points[0].Part].Reference
		}
		for i, w := range weights {
			for d := range k.n {
				sum += rho * w * points[i].U[k.u+d] * points[i].Normal[d]
			}
		}
		return nil
	})
	if err != nil || len(within) == 0 {
		return sum, err
	}
	rho := 1.0
	for b := range r.Region.Bodies {
		if own, flows := k.problem.Bodies[b]; flows && mass {
			rho = own.Reference
		}
	}
	made, err := k.made(r, within)
	return sum + rho*made, err
}

// made is how much fluid the equations of some bodies alone make at nodes on facets beyond which other fluid is,
// m³/s: it passes there besides what the velocity carries. At a node of several such facets it is divided by areas.
func (k *Kernel) made(r *frame.Reading, within []int32) (sum float64, err error) {
	s, field := r.Solution, r.Field+1
	flows := map[int32]bool{}
	for b := range r.Region.Bodies {
		if _, is := k.problem.Bodies[b]; is {
			flows[b] = true
		}
	}
	residual, err := s.System.ResidualOf(s.Kernel, s.State, flows)
	if err != nil {
		return 0, err
	}
	var mine, all []fem.Side
	for _, f := range within {
		mine = append(mine, k.side(r, f, r.Region.Bodies))
	}
	for f := range r.Mesh.Facets {
		m := &r.Mesh.Facets[f]
		_, beyond := k.problem.Bodies[m.OtherBody]
		_, here := k.problem.Bodies[m.Body]
		if m.Other >= 0 && here && beyond && flows[m.Body] != flows[m.OtherBody] {
			all = append(all, k.side(r, int32(f), r.Region.Bodies))
		}
	}
	shares, err := s.System.Shares(mine, field)
	if err != nil {
		return 0, err
	}
	whole, err := s.System.Shares(all, field)
	if err != nil {
		return 0, err
	}
	for v, share := range shares {
		if e := s.System.Equation(field, 0, v); e >= 0 {
			sum += residual[e] * share / whole[v]
		}
	}
	return sum, nil
}

// side is a facet seen from the fluid: of two bodies that flow from the one of some.
func (k *Kernel) side(r *frame.Reading, facet int32, bodies map[int32]bool) fem.Side {
	m := &r.Mesh.Facets[facet]
	_, here := k.problem.Bodies[m.Body]
	beyond := false
	if m.Other >= 0 {
		_, beyond = k.problem.Bodies[m.OtherBody]
	}
	return r.Solution.Side(facet, !here || beyond && !bodies[m.Body])
}

// pushes calls f for the places of nodes on surfaces that hold the fluid, with its force on them, N: what it takes to
// hold the velocity there, which is as exact as the equations are; at nodes that other surfaces hold, too, it is
// divided by areas.
func pushes(r *frame.Reading, f func(x, force [3]float64)) error {
	k, s := r.Kernel.(*Kernel), r.Solution
	residual, err := s.Assembled()
	if err != nil {
		return err
	}
	held := s.HeldFacets(r.Field)
	var mine, all []fem.Side
	for _, f := range r.Region.Facets {
		if !held[f] {
			return fmt.Errorf("the fluid is not held at all of the %s", r.Words(r.Sentence.On))
		}
		mine = append(mine, k.side(r, f, r.Region.Bodies))
	}
	for f := range held {
		all = append(all, k.side(r, f, r.Region.Bodies))
	}
	shares, err := s.System.Shares(mine, r.Field)
	if err != nil {
		return err
	}
	whole, err := s.System.Shares(all, r.Field)
	if err != nil {
		return err
	}
	for _, v := range slices.Sorted(maps.Keys(shares)) {
		var force [3]float64
		for axis := range k.n {
			if e := s.System.Equation(r.Field, axis, v); e >= 0 {
				force[axis] = -residual[e] * shares[v] / whole[v]
			}
		}
		f(s.System.Grid.At(v), force)
	}
	if k.again == nil {
		return nil
	}
	return s.System.EachSide(s.State, mine, func(_ int, points []fem.Point, weights []float64) error {
		for q, w := range weights {
			p := &points[q]
			by := w * k.falls(p.X)
			f(p.X, [3]float64{by * p.Normal[0], by * p.Normal[1], by * p.Normal[2]})
		}
		return nil
	})
}

// stays is the volume of what flows in bodies over how much of it comes in, s.
func stays(r *frame.Reading) (float64, error) {
	k := r.Kernel.(*Kernel)
	var sides []fem.Side
	for f := range r.Mesh.Facets {
		m := &r.Mesh.Facets[f]
		_, here := k.problem.Bodies[m.Body]
		_, beyond := k.problem.Bodies[m.OtherBody]
		here, beyond = here && r.Region.Bodies[m.Body], m.Other >= 0 && beyond && r.Region.Bodies[m.OtherBody]
		if here != beyond {
			sides = append(sides, r.Solution.Side(int32(f), !here))
		}
	}
	var in, volume float64
	err := r.Solution.System.EachSide(r.Solution.State, sides, func(_ int, points []fem.Point, weights []float64) error {
		for q, w := range weights {
			in -= w * min(0, k.through(&points[q]))
		}
		return nil
	})
	if err != nil {
		return 0, err
	}
	for b := range r.Region.Bodies {
		if _, flows := k.problem.Bodies[b]; flows {
			volume += r.Solution.Volume[b]
		}
	}
	if in == 0 {
		return 0, errors.New("nothing flows through it")
	}
	return volume / in, nil
}

// lost is the power that friction, within the fluid and in matrices, turns into heat in bodies, W.
func lost(r *frame.Reading) (sum float64, err error) {
	k := r.Kernel.(*Kernel).Fork().(*Kernel)
	err = r.Solution.System.EachCell(r.Solution.State, r.Region.Bodies, func(points []fem.Point, weights []float64) error {
		if err := k.Prepare(-1, points); err != nil || k.now == nil {
			return err
		}
		for q, w := range weights {
			p := &points[q]
			drag, _, _ := k.drag(p, q)
			speed := k.speed(p)
			sum += w * (k.rubs(p, q).mu*k.shearSquare(p) + drag*speed*speed)
		}
		return nil
	})
	return sum, err
}
