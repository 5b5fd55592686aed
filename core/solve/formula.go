package solve

import (
	"fmt"
	"math"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/model"
	"saltkettle/core/physics/heat"
	"saltkettle/core/result"
)

// temperature is the law of the temperature itself.
var temperature = func() heat.Law {
	f, err := formula.Parse("temperature")
	if err != nil {
		panic(err)
	}
	p, err := f.Compile(formula.Environment{Variables: heat.Quantities})
	if err != nil {
		panic(err)
	}
	return p
}()

// formula evaluates a reading that is a formula.
func (r *run) formula(q *model.ResolvedSentence, out *result.Reading) error {
	var in []float64
	for i := range r.model.Readings {
		before := &r.model.Readings[i]
		if before.ID == q.ID {
			break
		}
		value, ok := r.readingValue(before.ID)
		if !ok && q.Formula.Uses(len(in)) {
			return fmt.Errorf("it uses %s, which could not be read", before.ID)
		}
		in = append(in, value)
	}
	for i := range q.Formula.Reductions {
		v, at, err := r.reduce(&q.Formula.Reductions[i])
		if err != nil {
			return err
		}
		in = append(in, v)
		if at != nil && len(q.Formula.Reductions) == 1 {
			out.At = at
		}
	}
	if out.Value = q.Formula.At(in...); math.IsNaN(out.Value) || math.IsInf(out.Value, 0) {
		return fmt.Errorf("the formula has no finite value")
	}
	out.Difference = !q.Temperature
	return nil
}

func (r *run) readingValue(id string) (float64, bool) {
	for i := range r.result.Readings {
		if r.result.Readings[i].Key == id {
			return r.result.Readings[i].Value, true
		}
	}
	return 0, false
}

// reduce takes one number from the result, with the place of an extreme or of a
// point.
func (r *run) reduce(d *formula.Reduction) (float64, *[3]float64, error) {
	s := r.solution
	var m *heat.Measure
	switch len(d.Points) {
	case 1:
		v, inside := s.AtPoints(d.Quantity, d.Points[0][:])
		if !inside[0] {
			return 0, nil, fmt.Errorf("the point of %s lies in no solved part", d.Quantity)
		}
		return v[0], &d.Points[0], nil
	case 2:
		m = s.OnLine(d.Quantity, d.Points[0], d.Points[1])
		if m.Content == 0 {
			return 0, nil, fmt.Errorf("the line of %s runs through no solved part", d.Quantity)
		}
	default:
		p, err := r.model.Document.RegionPatch(d.Region)
		if err != nil {
			return 0, nil, err
		}
		if p.Side == "" && p.Facing == "" {
			m = s.InBodies(d.Quantity, r.bodySet(p))
		} else {
			m = s.OnFacets(d.Quantity, r.facets(p, false), r.bodySet(p))
		}
		if m.Content == 0 {
			return 0, nil, fmt.Errorf("there is no %s", strings.TrimSuffix(r.model.Document.PatchWords(p), ","))
		}
	}
	switch d.Kind {
	case "greatest":
		return m.Greatest, &m.MostAt, nil
	case "least":
		return m.Least, &m.LeastAt, nil
	case "mean":
		return m.Mean(), nil, nil
	}
	return m.Integral, nil, nil
}

// bodySet is the bodies of the mesh that a patch names.
func (r *run) bodySet(p model.Patch) map[int32]bool {
	set := map[int32]bool{}
	for _, b := range r.bodiesOf(p) {
		set[b] = true
	}
	return set
}
