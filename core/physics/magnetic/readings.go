package magnetic

import (
	"errors"
	"fmt"
	"math"
	"math/cmplx"
	"slices"

	"saltkettle/core/fem"
	"saltkettle/core/frame"
	"saltkettle/core/model"
)

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
		i := slices.Index(axes, axis)
		err = pulled(k, r, vector{}, func(sum *pull) float64 { return sum.force[i] })
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
		err = pulled(k, r, about, func(sum *pull) float64 { return sum.torque[2] })
	case KeyLinkage, KeyFlux:
		of := linkedBy
		if r.Sentence.Kind == KeyFlux {
			of = fluxThrough
		}
		v, err := amplitude(k, r, of)
		if err != nil {
			return err
		}
		r.Value = shown(k, r, v)
	case KeyCurrent, KeyVoltage:
		of := currentThrough
		if r.Sentence.Kind == KeyVoltage {
			of = voltageAlong
		}
		v, err := amplitude(k, r, of)
		if err != nil {
			return err
		}
		r.Value = shown(k, r, v)
	case KeyInductance:
		v, err := amplitude(k, r, linkedBy)
		if err != nil {
			return err
		}
		current, err := amplitude(k, r, currentIn)
		if err != nil {
			return err
		}
		if current == 0 {
			return errors.New("no current runs there")
		}
		r.Value = real(v / current)
	case KeyMutual:
		r.Value, err = mutual(k, r)
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

// pulled reads a component of a force or a torque, by virtual work and, where it is known, in another way.
func pulled(k kernel, r *frame.Reading, about vector, of func(sum *pull) float64) error {
	sum, err := push(k, r, about, 0)
	if err != nil {
		return err
	}
	r.Value = of(&sum)
	if other, by, err := again(k, r, about); err == nil {
		v := of(&other)
		r.Again, r.AgainBy = &v, by
	}
	return nil
}

// lost is the power that currents turn into heat, W: of the moment, or its mean over a swing.
func lost(k kernel, r *frame.Reading) (sum float64, err error) {
	s, p := r.Solution, k.stuff().problem
	switch {
	case !p.Moves && p.Frequency == 0 && len(p.Circuits) == 0 && !p.motion():
		return 0, errors.New("nothing drives currents: they are driven where a sentence says in which part, by currents that alternate, in a run in time, or in one that finds the response to what swings")
	case s.Swing == nil:
		m, err := r.Measure("driven_heat", r.Region)
		if err != nil {
			return 0, err
		}
		return m.Integral, nil
	}
	at, fields := k.Fork().(kernel), s.System.FieldOf()
	for _, state := range swings(r) {
		// What runs in the middle of the swing is no part of it.
		state.U = slices.Clone(state.U)
		for e, f := range fields {
			if f >= r.Field && f <= r.Field+len(p.Circuits) {
				state.U[e] -= s.State.U[e]
			}
		}
		err := s.System.EachCell(&state, r.Region.Bodies, func(points []fem.Point, weights []float64) error {
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

// swings are the two states of a swing with their rates, of which the first has what swings by itself.
func swings(r *frame.Reading) (out [2]fem.State) {
	s := r.Solution
	omega := 2 * math.Pi * s.Swing.Frequency
	out = [2]fem.State{*s.Swing.Real, *s.Swing.Imaginary}
	for i := range out {
		out[i].Swing = float64(1 - i)
		out[i].Rate = make([]float64, len(s.State.U))
		by, other := -omega, s.Swing.Imaginary.U
		if i == 1 {
			by, other = omega, s.Swing.Real.U
		}
		for e, v := range s.State.U {
			out[i].Rate[e] = by * (other[e] - v)
		}
	}
	return out
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
		for i, state := range swings(r) {
			if parts[i], err = of(k, r, &state); err != nil {
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

// shown is that as a number: of what alternates or swings how large it is, of what stands still with its sign.
func shown(k kernel, r *frame.Reading, v complex128) float64 {
	if len(k.parts()) > 1 || r.Solution.Swing != nil {
		return cmplx.Abs(v)
	}
	return real(v)
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
		return errNoTurns
	}
	return nil
}

var errNoTurns = errors.New("no turns run there")

// linkedBy is the flux that the turns of coils hold at a state, Wb.
func linkedBy(k kernel, r *frame.Reading, state *fem.State) (sum float64, err error) {
	if s, ok := k.Fork().(*space); ok {
		return s.linked(r, state)
	}
	err = eachTurns(k, r, state, func(at *section, p *fem.Point, _ int, weight, turns float64) error {
		c := at.curl(p)
		sum += weight * turns * c.test * p.U[at.a]
		return nil
	})
	return sum, err
}

// currentIn is the current in each of these turns at a state, A.
func currentIn(k kernel, r *frame.Reading, state *fem.State) (current float64, err error) {
	known := false
	if s, ok := k.Fork().(*space); ok {
		err = r.Solution.System.EachCell(state, r.Region.Bodies, func(points []fem.Point, _ []float64) error {
			if err := s.Prepare(-1, points); err != nil {
				return err
			}
			for i, w := range s.wound.windings {
				if now := s.wound.laws[i].At(amperesOf, 0); w.Body == points[0].Part {
					if known && math.Abs(now-current) > 1e-9*math.Abs(current) {
						return errUneven
					}
					known, current = true, now
				}
			}
			return nil
		})
		return current, err
	}
	err = eachTurns(k, r, state, func(at *section, p *fem.Point, q int, _, _ float64) error {
		i := 0.
		switch c := at.made(); {
		case c != nil:
			i = p.U[at.circuit(c)]
		case !at.second:
			i = at.now.At(amperes, q)
		}
		if known && math.Abs(i-current) > 1e-9*math.Abs(current) {
			return errUneven
		}
		known, current = true, i
		return nil
	})
	return current, err
}

var errUneven = errors.New("not all turns there have the same current")

// currentThrough is all current through the sections of the bodies that a reading is of at a state, A.
func currentThrough(k kernel, r *frame.Reading, state *fem.State) (sum float64, err error) {
	at, ok := k.Fork().(*section)
	if !ok {
		return 0, errors.New("there are no currents in space")
	}
	err = r.Solution.System.EachCell(state, r.Region.Bodies, func(points []fem.Point, weights []float64) error {
		if err := at.Prepare(-1, points); err != nil {
			return err
		}
		for q, w := range weights {
			sum += w * at.along(&points[q]) * at.flows(&points[q], q)
		}
		return nil
	})
	return sum, err
}

// voltageAlong is the voltage that drives a current through the one circuit in the bodies that a reading is of, V.
func voltageAlong(k kernel, r *frame.Reading, state *fem.State) (volts float64, err error) {
	at, ok := k.Fork().(*section)
	var of *Circuit
	if ok {
		err = r.Solution.System.EachCell(state, r.Region.Bodies, func(points []fem.Point, _ []float64) error {
			if err := at.Prepare(-1, points); err != nil {
				return err
			}
			switch c := at.made(); {
			case c == nil || of != nil && of != c:
				of, ok = nil, false
			case of == nil:
				of = c
				if volts = points[0].U[at.circuit(c)]; c.Total == nil {
					volts = 0
					if !at.second {
						volts = at.now.At(voltage, 0)
					}
				}
			}
			return nil
		})
	}
	if err == nil && (!ok || of == nil) {
		err = errors.New("the voltage along a conductor is known where its current in all is given, or where turns are fed")
	}
	return volts, err
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
