package solve

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/physics/coupled"
	"saltkettle/core/result"
)

// temperature and potential are the laws of the fields themselves.
var temperature, potential = named("temperature"), named("potential")

func named(name string) *formula.Program {
	f, err := formula.Parse(name)
	if err != nil {
		panic(err)
	}
	p, err := f.Compile(formula.Environment{Variables: physics.Quantities})
	if err != nil {
		panic(err)
	}
	return p
}

// quantity joins a formula with the kernels that know what it uses.
func (r *run) quantity(program *formula.Program) *coupled.Quantity {
	p := r.posed
	q := &coupled.Quantity{Program: program, Temperature: p.temperature}
	for _, part := range p.parts {
		q.Sources = append(q.Sources, coupled.Source{Kernel: part.kernel, First: part.first, Count: len(part.derived), Nodal: part.nodal})
	}
	return q
}

// formula evaluates a reading that is a formula.
func (r *run) formula(q *model.ResolvedSentence, out *result.Reading) error {
	var in []float64
	for i := range r.model.Readings {
		before := &r.model.Readings[i]
		if before.ID == q.ID {
			break
		}
		value, ok := r.valueOf(before.ID)
		if !ok && q.Formula.Uses(len(in)) {
			return fmt.Errorf("it uses %s, which has no value", before.ID)
		}
		in = append(in, value)
	}
	if r.model.Document.Transient() {
		in = append(in, r.moment)
	}
	for i := range q.Formula.Reductions {
		if d := &q.Formula.Reductions[i]; d.InTime {
			v, err := r.overTime(d, q.Followed)
			if err != nil {
				return err
			}
			in = append(in, v)
			continue
		}
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
		return errors.New("the formula has no finite value")
	}
	out.Difference = !q.Temperature
	return nil
}

// reduce takes one number from the result, with the place of an extreme or of a
// point.
func (r *run) reduce(d *formula.Reduction) (float64, *[3]float64, error) {
	q := r.quantity(d.Quantity)
	var m *coupled.Measure
	points := slices.Clone(d.Points)
	if r.model.Document.Space.Flat() {
		// Within the one layer of cells, wherever z was put.
		for i := range points {
			points[i][2] = r.mesh.Levels[1] / 2
		}
	}
	switch len(points) {
	case 1:
		v, inside, err := r.solution.AtPoints(q, points[0][:])
		if err != nil {
			return 0, nil, err
		}
		if !inside[0] {
			return 0, nil, fmt.Errorf("the point of %s lies in no solved part", d.Quantity)
		}
		return v[0], &d.Points[0], nil
	case 2:
		var err error
		if m, err = r.solution.OnLine(q, points[0], points[1]); err != nil {
			return 0, nil, err
		}
		if m.Content == 0 {
			return 0, nil, fmt.Errorf("the line of %s runs through no solved part", d.Quantity)
		}
	default:
		p, err := r.model.Document.RegionPatch(d.Region)
		if err != nil {
			return 0, nil, err
		}
		g, err := r.region(p)
		if err != nil {
			return 0, nil, err
		}
		if m, err = r.measure(d.Quantity, g); err != nil {
			return 0, nil, err
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
