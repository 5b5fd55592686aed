package solve

import (
	"errors"
	"fmt"
	"math"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/physics/body"
	"saltkettle/core/physics/coupled"
	"saltkettle/core/physics/electric"
	"saltkettle/core/physics/heat"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
	"saltkettle/core/shape"
)

// read takes the readings and the extremes from the solution.
func (r *run) read() error {
	if t := r.posed.temperature; t >= 0 {
		lo, hi := r.solution.Extremes(t)
		r.result.Least, r.result.Greatest = r.extreme(lo), r.extreme(hi)
	}
	for i := range r.model.Readings {
		q := &r.model.Readings[i]
		if q.InTime && r.passing {
			continue // it is known at the end
		}
		v, err := r.reading(q)
		if err != nil {
			v.Missing, v.Value, v.Shown.Value, v.At = err.Error(), math.NaN(), math.NaN(), nil
			v.Waits = errors.Is(err, coupled.ErrAbsent)
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

func (r *run) extreme(e coupled.Extreme) *result.Extreme {
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
		err = r.take(q, &out)
	}
	if err == nil {
		r.show(&out, q)
	}
	return out, err
}

// region is what a reading speaks of.
type region struct {
	bodies map[int32]bool
	facets []int32 // nil for whole bodies
}

func (r *run) region(p model.Patch) (region, error) {
	g := region{bodies: r.bodySet(p)}
	if p.Side == "" && p.Facing == "" {
		return g, nil
	}
	if g.facets = r.facets(p, false); len(g.facets) == 0 {
		return g, fmt.Errorf("there is no %s", strings.TrimSuffix(r.model.Document.PatchWords(p), ","))
	}
	return g, nil
}

// measure measures a quantity over a region.
func (r *run) measure(program *formula.Program, g region) (*coupled.Measure, error) {
	q := r.quantity(program)
	if g.facets == nil {
		return r.solution.InBodies(q, g.bodies)
	}
	return r.solution.OnFacets(q, g.facets, g.bodies)
}

// take evaluates a reading that is no formula.
func (r *run) take(q *model.ResolvedSentence, out *result.Reading) error {
	p := r.posed
	if q.Kind == body.KeyVolume || q.Kind == body.KeyMass {
		var err error
		out.Value, err = r.amount(q)
		return err
	}
	if strings.HasPrefix(q.Kind, "heat.") && p.heat == nil || strings.HasPrefix(q.Kind, "electric.") && p.electric == nil {
		return coupled.ErrAbsent
	}
	g, err := r.region(q.On)
	if err != nil {
		return err
	}
	switch q.Kind {
	case heat.KeyGreatest, heat.KeyLeast, heat.KeySpread, heat.KeyMean:
		m, err := r.measure(temperature, g)
		if err != nil {
			return err
		}
		if m.Content == 0 {
			return fmt.Errorf("nothing is left of the %s in the mesh", r.model.Document.PatchWords(q.On))
		}
		switch q.Kind {
		case heat.KeyGreatest:
			out.Value, out.At = m.Greatest, &m.MostAt
		case heat.KeyLeast:
			out.Value, out.At = m.Least, &m.LeastAt
		case heat.KeySpread:
			out.Value = m.Greatest - m.Least
		default:
			out.Value = m.Mean()
		}
		return nil
	case heat.KeyThrough:
		out.Value, err = r.solution.Through(p.temperature, g.facets, g.bodies, p.kernel)
		return err
	}
	return r.takeElectric(q, out, g)
}

// takeElectric evaluates a reading of the current.
func (r *run) takeElectric(q *model.ResolvedSentence, out *result.Reading, g region) error {
	p := r.posed
	if !r.model.Parts[q.Part].Conducts {
		return fmt.Errorf("no current flows in the %s", r.model.Parts[q.Part].Name)
	}
	if static := q.Kind == electric.KeyChargeOn || q.Kind == electric.KeyCapacitance; static != r.model.Static && q.Kind != electric.KeyPotential {
		return coupled.ErrAbsent
	}
	var err error
	switch q.Kind {
	case electric.KeyChargeOn:
		// The field points away from charge: what leaves the insulator is the charge on its
		// other side, with the other sign.
		out.Value, err = r.solution.Through(p.potential, g.facets, g.bodies, p.kernel)
		out.Value = -out.Value
		return err
	case electric.KeyPotential:
		m, err := r.measure(potential, g)
		if err == nil {
			out.Value = m.Mean()
		}
		return err
	case electric.KeyThrough:
		out.Value, err = r.solution.Through(p.potential, g.facets, g.bodies, p.kernel)
		return err
	case electric.KeyResistance, electric.KeyCapacitance:
		difference, err := r.acrossTerminals(g)
		if err != nil {
			return err
		}
		current, err := r.solution.Through(p.potential, g.facets, g.bodies, p.kernel)
		if err != nil {
			return err
		}
		least := 1e-12 // A/V
		if r.model.Static {
			least = 1e-12 * electric.Vacuum
		}
		if math.Abs(current) <= least*math.Abs(difference) {
			return errors.New("no current passes there")
		}
		out.Value = math.Abs(difference / current)
		if r.model.Static {
			out.Value = 1 / out.Value
		}
		return nil
	case electric.KeyPower:
		out.Value, _, err = p.electric.Power(r.solution, g.bodies)
		return err
	}
	return fmt.Errorf("readings of the kind %q cannot be taken", q.Kind)
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
	p := &r.model.Parts[q.Part]
	var volume float64
	if p.Role == model.Solved {
		for _, b := range r.bodiesOf(q.On) {
			volume += r.posed.group.Volume[b]
		}
	} else {
		for _, b := range r.model.Bodies {
			if b.Part == q.Part && (q.On.Copy == 0 || q.On.Copy == b.Copy+1) {
				volume += r.volumeOf(&b)
			}
		}
	}
	if q.Kind == body.KeyVolume {
		return volume, nil
	}
	if p.Density == 0 {
		return 0, fmt.Errorf("%s has no density", p.Material.Name)
	}
	return volume * p.Density, nil
}
