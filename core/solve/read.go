package solve

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/physics/body"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
	"saltkettle/core/shape"
)

// read takes the readings and the extremes from the solution.
func (r *run) read() error {
	if v := r.posed.variable; v != nil && !r.model.Document.Swings() {
		lo, hi := r.states.of[v.group].Extremes(v.field)
		r.result.Least, r.result.Greatest = r.extreme(lo), r.extreme(hi)
	}
	for i := range r.model.Readings {
		q := &r.model.Readings[i]
		if (q.InTime || q.Kind == body.KeyPeak) && r.passing {
			continue // it is known at the end
		}
		v, err := r.reading(q)
		if r.model.Document.Swings() && !r.passing && q.Kind != body.KeyPhase && q.Kind != body.KeyPeak {
			err = cmp.Or(err, r.peak(&v))
			r.show(&v, q)
		}
		if err != nil {
			v.Missing, v.Value, v.Shown.Value, v.At = err.Error(), math.NaN(), math.NaN(), nil
			v.Waits = errors.Is(err, couple.ErrAbsent)
			r.show(&v, q)
		}
		r.result.Readings = append(r.result.Readings, v)
	}
	return nil
}

// taken says of a run that a reading of it has no value, so that it is not settled. One that
// waits for a physics that is not solved for is no fault.
func (r *run) taken() {
	for _, q := range r.result.Readings {
		if q.Missing != "" && !q.Waits && r.result.Status == result.Settled {
			r.result.Status, r.result.Reason = result.NotSettled, fmt.Sprintf("%s has no value: %s", q.Key, q.Missing)
		}
	}
}

func (r *run) extreme(e couple.Extreme) *result.Extreme {
	if r.model.Document.Space.Flat() {
		e.At[2] = 0
	}
	return &result.Extreme{Value: e.Value, At: e.At, Part: r.bodyName(e.Body)}
}

// reading evaluates one reading.
func (r *run) reading(q *model.ResolvedSentence) (result.Reading, error) {
	k := q.Definition
	doc := r.model.Document
	out := result.Reading{Key: q.ID, Name: q.Name, Words: doc.Words(physics.Catalog(), q.Sentence), Difference: k.Difference}
	if out.Name == "" {
		out.Name = out.Words
	}
	var err error
	if q.Formula != nil {
		err = r.formula(q, &out)
	} else {
		err = r.takeReading(q, &out)
	}
	if err == nil {
		r.show(&out, q)
	}
	return out, err
}

// measure measures a quantity over a region.
func (r *run) measure(program *formula.Program, g frame.Region) (*couple.Measure, error) {
	s, err := r.viewer(program)
	if err != nil {
		return nil, err
	}
	q := r.quantity(program)
	if g.Facets == nil {
		return s.InBodies(q, g.Bodies)
	}
	return s.OnFacets(q, g.Facets, g.Bodies)
}

// takeReading evaluates a reading that is no formula.
func (r *run) takeReading(q *model.ResolvedSentence, out *result.Reading) (err error) {
	if q.Kind == body.KeyVolume || q.Kind == body.KeyMass {
		out.Value, err = r.amount(q)
		return err
	}
	if q.Kind == body.KeyMode || q.Kind == body.KeyDies {
		out.Value, err = r.modeReading(q)
		return err
	}
	if q.Kind == body.KeyPhase || q.Kind == body.KeyPeak {
		out.Value, err = r.swungReading(q)
		return err
	}
	if q.Kind == body.KeyLess {
		out.Difference = true
		out.Value, err = r.less(q)
		return err
	}
	i := slices.IndexFunc(r.posed.parts, func(p *portion) bool { return p.Key == model.Of(q.Kind) })
	if i < 0 {
		return couple.ErrAbsent
	}
	p := r.posed.parts[i]
	t := &frame.Reading{Site: r.site(), Sentence: q, Field: p.field, Kernel: p.kernel, Modes: r.result.Modes, Buckling: func() (float64, error) { return r.buckling(p) },
		Measure: func(name string, g frame.Region) (*couple.Measure, error) { return r.measure(named(name), g) }}
	if t.Region, err = t.Site.Region(q.On, q.Box); err != nil {
		return err
	}
	if t.Solution, err = r.readable(p.group); err != nil {
		return err
	}
	t.Changed = func(load []float64) ([]float64, error) { return t.Solution.Changed(r.ctx, load) }
	err = p.Read(t)
	out.Difference = out.Difference || t.Solution.Swing != nil
	out.Value, out.At = t.Value, t.At
	out.Again, out.AgainBy = t.Again, t.AgainBy
	return err
}

// show converts the value to the unit that the reading asks for.
func (r *run) show(out *result.Reading, q *model.ResolvedSentence) {
	unit := q.Unit
	if unit == "" {
		unit = q.UsualUnit()
	}
	u := quantity.MustUnit(unit) // checked when the model was resolved
	if out.Difference && u.Affine() {
		unit, u = "K", quantity.MustUnit("K")
	}
	out.Unit = u.Dimension.Symbol()
	out.Shown = result.Shown{Value: u.From(out.Value, out.Difference), Unit: unit}
}

// volumeOf is the volume of a body by its outline.
func (r *run) volumeOf(b *shape.Body) float64 {
	switch r.model.Document.Space.Kind {
	case model.Plane:
		return b.Outline.Area() * r.model.Depth
	case model.Axial:
		// Pappus: the area times the way of its centroid.
		return 2 * math.Pi * b.Outline.MomentX()
	}
	return b.Outline.Area() * (b.Z1 - b.Z0)
}

// amount is the volume or the mass of a part: of the mesh for solved parts, so
// that what other parts displace is left out, and of the outlines for parts that
// are shown only.
func (r *run) amount(q *model.ResolvedSentence) (float64, error) {
	var volume, mass float64
	for _, part := range q.Parts {
		p := &r.model.Parts[part]
		own := 0.0
		if p.Role == model.Solved {
			for _, b := range r.site().BodiesOf(q.On) {
				if r.owner[b][0] == part {
					own += r.posed.ground.Volume[b]
				}
			}
		} else {
			for _, b := range r.model.Bodies {
				if b.Part == part && q.On.Has(b.Copy+1) {
					own += r.volumeOf(&b)
				}
			}
		}
		if q.Kind == body.KeyMass && p.Density == 0 {
			return 0, fmt.Errorf("%s has no density", p.Material.Name)
		}
		volume, mass = volume+own, mass+own*p.Density
	}
	if q.Kind == body.KeyVolume {
		return volume, nil
	}
	return mass, nil
}
