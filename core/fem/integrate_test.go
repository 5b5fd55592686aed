package fem

// Integrate is the integral of a quantity over the cells of some parts, nil for
// all.
func (s *System) Integrate(at *State, parts map[int32]bool, f func(p *Point) float64) (float64, error) {
	var sum float64
	err := s.visit(at, parts, 2, func(_, _ int, c *cell, _ int, p *Point) { sum += c.weight * f(p) })
	return sum, err
}

// visit calls f at the quadrature points of the cells of some parts, nil for all, of
// a rule of a higher degree than that of assembly.
func (s *System) visit(at *State, parts map[int32]bool, higher int, f func(bi, cell int, c *cell, q int, p *Point)) error {
	a := newAssembler(s, nil, at, nil, nil, 0, int32(s.N))
	for bi := range s.Grid.Blocks {
		b := &s.Grid.Blocks[bi]
		c := newCell(b.Element, NewElement(b.Element.Form, 1), NewRule(b.Element.Form, s.rules[bi]+higher))
		for cell, part := range b.Part {
			if parts != nil && !parts[part] {
				continue
			}
			a.load(b, cell, nil)
			c.load(s.Grid, b.Nodes(cell))
			for q := range c.rule.Points {
				if err := c.set(q); err != nil {
					return err
				}
				a.fields(b.Element, c, q)
				a.point.Part, a.point.X = part, c.x
				f(bi, cell, c, q, &a.point)
			}
		}
	}
	return nil
}
