package solid

import (
	"errors"
	"fmt"
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/material"
)

// read evaluates a reading of the deformation.
func read(r *frame.Reading) error {
	if part, not := r.Model.Absent(key, r.Sentence); not {
		return fmt.Errorf("the %s does not bend", r.Model.Parts[part].Name)
	}
	switch r.Sentence.Kind {
	case KeyDisplacement, KeyMises:
		name := map[string]string{KeyDisplacement: "displacement", KeyMises: "von_mises"}[r.Sentence.Kind]
		m, err := r.Measure(name, r.Region)
		if err != nil {
			return err
		}
		r.Value, r.At = m.Greatest, &m.MostAt
		return nil
	case KeyAlong:
		return stressAlong(r)
	case KeySafety:
		return safety(r)
	case KeyEnergy:
		m, err := r.Measure("strain_energy", r.Region)
		if err != nil {
			return err
		}
		r.Value = m.Integral
		return nil
	case KeyHold, KeyMoment:
		return holds(r)
	case KeyBuckling:
		return buckles(r)
	case KeyModalMass:
		return moves(r)
	}
	return fmt.Errorf("readings of the kind %q cannot be taken", r.Sentence.Kind)
}

// greatest finds the greatest value of something that follows from the stress at points, with its place.
func greatest(r *frame.Reading, f func(part int, p *fem.Point, k *Kernel, s [6]float64) float64) error {
	if r.Solution.Swing != nil {
		return errors.New("how it swings is no value of one place")
	}
	k := r.Kernel.(*Kernel).Fork().(*Kernel)
	best := math.Inf(-1)
	see := func(points []fem.Point) error {
		if err := k.Prepare(-1, points); err != nil || k.now == nil {
			return err
		}
		for i := range points {
			var at strained
			if err := k.strained(&points[i], i, &at); err != nil {
				return err
			}
			if v := f(r.Owner[points[i].Part][0], &points[i], k, k.true(&at)); v > best {
				best, r.At = v, &[3]float64{points[i].X[0], points[i].X[1], points[i].X[2]}
			}
		}
		return nil
	}
	var err error
	if r.Region.Facets == nil {
		err = r.Solution.System.EachCell(r.Solution.State, r.Region.Bodies, func(points []fem.Point, _ []float64) error { return see(points) })
	} else {
		var sides []fem.Side
		for _, facet := range r.Region.Facets {
			sides = append(sides, r.Solution.Side(facet, !r.Region.Bodies[r.Mesh.Facets[facet].Body]))
		}
		err = r.Solution.System.EachSide(r.Solution.State, sides, func(_ int, points []fem.Point, _ []float64) error { return see(points) })
	}
	r.Value = best
	return err
}

// stressAlong is the greatest stress n·σ·n along a direction.
func stressAlong(r *frame.Reading) error {
	var n [3]float64
	size := 0.0
	for i, name := range axes {
		if l := r.Sentence.Laws[name]; l != nil {
			n[i], _ = l.Constant()
		}
		size += n[i] * n[i]
	}
	if size == 0 {
		return errors.New("the direction is no direction")
	}
	return greatest(r, func(_ int, _ *fem.Point, _ *Kernel, s [6]float64) (v float64) {
		for i, p := range pairs {
			v += twice[i] * s[i] * n[p[0]] * n[p[1]] / size
		}
		return v
	})
}

// safety is the least ratio of a strength to the stress of von Mises.
func safety(r *frame.Reading) error {
	given := r.Sentence.Laws["strength"]
	for _, part := range r.Sentence.Parts {
		if given == nil && r.Model.Parts[part].Properties[material.YieldStrength].Program == nil {
			return fmt.Errorf("%s has no yield strength: give one, or write a strength", r.Model.Parts[part].Material.Name)
		}
	}
	err := greatest(r, func(part int, p *fem.Point, k *Kernel, s [6]float64) float64 {
		strength := 0.0
		if given != nil {
			strength, _ = given.Constant()
		} else {
			t := law.UsualTemperature
			if k.t >= 0 {
				t = p.U[k.t]
			}
			strength = r.Model.Parts[part].Properties[material.YieldStrength].At(t)
		}
		return vonMises(s) / strength
	})
	r.Value = 1 / r.Value
	return err
}

// holds is the force along an axis, or the torque about one, with which what is around a surface holds it: what held
// values there take up, and what springs under it pull.
func holds(r *frame.Reading) error {
	s, k := r.Solution, r.Kernel.(*Kernel)
	if s.Swing != nil {
		return errors.New("how what holds swings is not known")
	}
	axis := axisOf(r.Sentence)
	if k.problem.Form == Round {
		axis = 1
	}
	var at [3]float64
	for i, name := range through {
		if l := r.Sentence.Laws[name]; l != nil {
			at[i], _ = l.Constant()
		}
	}
	take := func(x, f [3]float64) {
		if r.Sentence.Kind == KeyHold {
			r.Value += f[axis]
			return
		}
		t := cross([3]float64{x[0] - at[0], x[1] - at[1], x[2] - at[2]}, f)
		r.Value += t[axis]
	}
	if err := s.Holding(r.Field, r.Region.Facets, take); err != nil {
		return err
	}
	return springs(r, k, take)
}

// springs calls f with what springs pull with at points of the surface of a reading.
func springs(r *frame.Reading, k *Kernel, f func(x, force [3]float64)) error {
	mine := map[int32]bool{}
	for _, facet := range r.Region.Facets {
		mine[facet] = true
	}
	side := r.Solution.SideOf()
	own := k.Fork().(*Kernel)
	for n := range k.problem.Loads {
		l := &k.problem.Loads[n]
		if l.Kind != Springs {
			continue
		}
		var numbers []int32
		for _, facet := range l.Facets {
			if mine[facet] {
				numbers = append(numbers, int32(side[facet]))
			}
		}
		err := r.Solution.System.EachFace(r.Solution.State, numbers, r.Field, func(number int, points []fem.Point, weights []float64, _ []int32, _ [][]float64) error {
			if err := own.Prepare(number, points); err != nil {
				return err
			}
			var t traction
			for q, w := range weights {
				p := points[q]
				p.Number = q
				own.traction(int32(n), &p, &t)
				f(p.X, [3]float64{w * t.f[0], w * t.f[1], w * t.f[2]})
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// buckles is the factor by which all that acts may grow until the device buckles.
func buckles(r *frame.Reading) error {
	if r.Kernel.(*Kernel).problem.Large {
		return errors.New("it is found where small deformation is taken; what bends far is led to its loads part by part instead")
	}
	factor, err := r.Buckling()
	switch {
	case err != nil:
		return err
	case math.IsInf(factor, 1):
		return errors.New("what acts makes it stiffer alone: it does not buckle")
	}
	r.Value = factor
	return nil
}

// moves is the mass that a mode moves along an axis.
func moves(r *frame.Reading) error {
	if len(r.Modes) == 0 {
		return fmt.Errorf("%w: the run does not find modes", couple.ErrAbsent)
	}
	n, _ := r.Sentence.Laws["number"].Constant()
	axis := axisOf(r.Sentence)
	if int(n) > len(r.Modes) {
		return fmt.Errorf("the run finds %d modes only", len(r.Modes))
	}
	m := r.Modes[int(n)-1]
	if axis >= len(m.Moves) || r.Kernel.(*Kernel).problem.Form == Round && axis == 0 {
		return errors.New("nothing moves along that axis as a whole")
	}
	r.Value = m.Moves[axis]
	return nil
}
