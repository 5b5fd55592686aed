package solve

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"sync"

	"saltkettle/core/couple"
	"saltkettle/core/formula"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/result"
)

// quantities by name: readings ask for them at every moment of a run.
var quantities sync.Map

// named is the quantity of a name.
func named(name string) *formula.Program {
	if p, ok := quantities.Load(name); ok {
		return p.(*formula.Program)
	}
	f, err := formula.Parse(name)
	if err != nil {
		panic(err)
	}
	p, err := f.Compile(formula.Environment{Variables: physics.Quantities})
	if err != nil {
		panic(err)
	}
	quantities.Store(name, p)
	return p
}

// quantity joins a formula with the kernels that know what it uses.
func (r *run) quantity(program *formula.Program) *couple.Quantity {
	p := r.posed
	q := &couple.Quantity{Program: program, Temperature: -1}
	if p.variable != nil {
		q.Temperature = p.variable.component
	}
	for _, part := range p.parts {
		q.Sources = append(q.Sources, couple.Source{Kernel: part.kernel, First: part.first, Count: len(part.Derived), Nodal: part.Nodal})
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
	out.Difference = !q.Temperature || r.model.Document.Swings()
	return nil
}

// reduce takes one number from the result, with the place of an extreme or of a
// point.
func (r *run) reduce(d *formula.Reduction) (float64, *[3]float64, error) {
	q := r.quantity(d.Quantity)
	s, err := r.viewer(d.Quantity)
	if err != nil {
		return 0, nil, err
	}
	var m *couple.Measure
	points := slices.Clone(d.Points)
	if r.model.Document.Space.Flat() {
		// Within the one layer of cells, wherever z was put.
		for i := range points {
			points[i][2] = r.mesh.Levels[1] / 2
		}
	}
	switch len(points) {
	case 1:
		v, inside, err := s.AtPoints(q, points[0][:])
		if err != nil {
			return 0, nil, err
		}
		if !inside[0] {
			return 0, nil, fmt.Errorf("the point of %s lies in no solved part", d.Quantity)
		}
		return v[0], &d.Points[0], nil
	case 2:
		if m, err = s.OnLine(q, points[0], points[1]); err != nil {
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
		g, err := r.site().Region(p, nil)
		if err != nil {
			return 0, nil, err
		}
		if m, err = r.measure(d.Quantity, g); err != nil {
			return 0, nil, err
		}
		if m.Content == 0 {
			return 0, nil, fmt.Errorf("there is no %s", r.site().Words(p))
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
