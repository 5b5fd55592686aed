package fem

import "saltkettle/core/mesh"

// cornerRule has the corners of a facet, each with its part of it.
func cornerRule(form mesh.Form) *Rule {
	e, r := NewElement(form, 1), &Rule{}
	whole := 0.
	for _, w := range NewRule(form, 1).Weights {
		whole += w
	}
	for _, at := range e.Nodes {
		r.Points, r.Weights = append(r.Points, at), append(r.Weights, whole/float64(e.Count()))
	}
	return r
}

// runCorners integrates the terms at corners of sides.
func (a *assembler) runCorners(k CornerKernel) error {
	cache := sideCache{}
	var p Point
	for number, s := range a.sides {
		if !k.HasCorners(number) || !a.takes(false) || !a.load(&a.Grid.Blocks[s.Block], s.Cell, &s) {
			continue
		}
		b := &a.Grid.Blocks[s.Block]
		key := [2]int{s.Block, s.Facet}
		on, known := cache[key]
		if !known {
			on = newSideWith(b.Element, NewElement(b.Element.Form, 1), s.Facet, cornerRule)
			cache[key] = on
		}
		on.load(a.Grid, b.Nodes(s.Cell))
		for q := range on.rule.Points {
			if err := on.set(q); err != nil {
				return err
			}
			a.normal = on.normal
			a.fields(b.Element, on.cell, q)
			p = a.point
			p.Part, p.X, p.Normal = b.Part[s.Cell], on.x, on.normal
			a.terms.reset()
			if err := k.Corner(number, &p, a.terms); err != nil {
				return err
			}
			a.add(on.plain, false)
		}
		a.scatter()
	}
	return nil
}
