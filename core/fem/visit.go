package fem

import "saltkettle/core/parallel"

// EachCell calls f for groups of cells of some parts, nil for all, with the
// quadrature points of assembly in them, cell by cell, and the volumes that these
// stand for.
func (s *System) EachCell(at *State, parts map[int32]bool, f func(points []Point, weights []float64) error) error {
	a := newAssembler(s, nil, at, nil, nil, 0, int32(s.N))
	for bi := range s.Grid.Blocks {
		if err := newBatch(a, bi).each(parts, func(_ []int, points []Point, weights []float64) error { return f(points, weights) }); err != nil {
			return err
		}
	}
	return nil
}

// AllCells is [System.EachCell] on all cores: of says what each of them calls for its cells, one
// core at a time, and must give functions that share nothing.
func (s *System) AllCells(at *State, parts map[int32]bool, of func(core int) func(points []Point, weights []float64) error) error {
	return s.onAllCores(func(core, cores int, fail func(error)) func() {
		f := of(core)
		return func() {
			a := newAssembler(s, nil, at, nil, nil, 0, int32(s.N))
			for bi := range s.Grid.Blocks {
				if err := newBatch(a, bi).eachOf(core, cores, parts, func(_ []int, points []Point, weights []float64) error { return f(points, weights) }); err != nil {
					fail(err)
					return
				}
			}
		}
	})
}

// fewCells is below how many cells one core does a loop by itself.
const fewCells = 2000

// onAllCores makes what each core does, one after the other, and does it. The first error of the
// first core that has one is returned.
func (s *System) onAllCores(of func(core, cores int, fail func(error)) func()) error {
	count := 0
	for bi := range s.Grid.Blocks {
		count += s.Grid.Blocks[bi].Count()
	}
	cores := max(1, min(parallel.Workers(), count/fewCells))
	errs := make([]error, cores)
	var list []func()
	for core := range cores {
		list = append(list, of(core, cores, func(err error) { errs[core] = err }))
	}
	parallel.For(cores, 1, func(_, lo, hi int) {
		for core := lo; core < hi; core++ {
			list[core]()
		}
	})
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

// each calls f for groups of cells of one of some parts, nil for all, with their
// quadrature points, cell by cell. The batch is given back.
func (b *batch) each(parts map[int32]bool, f func(cells []int, points []Point, weights []float64) error) error {
	return b.eachOf(0, 1, parts, f)
}

// eachOf is each for the share of the cells that one of several cores has.
func (b *batch) eachOf(core, cores int, parts map[int32]bool, f func(cells []int, points []Point, weights []float64) error) error {
	defer b.rest()
	visit := func() error {
		if len(b.names) == 0 {
			return nil
		}
		defer func() { b.names = b.names[:0] }()
		if err := b.place(); err != nil {
			return err
		}
		return f(b.names, b.points, b.weight)
	}
	n := b.block.Count()
	for cell := core * n / cores; cell < (core+1)*n/cores; cell++ {
		part := b.block.Part[cell]
		if len(b.names) == batchCells || len(b.names) > 0 && b.block.Part[b.names[0]] != part {
			if err := visit(); err != nil {
				return err
			}
		}
		if parts == nil || parts[part] {
			if len(b.names) == 0 {
				b.layout(part)
			}
			b.names = append(b.names, cell)
		}
	}
	return visit()
}

// EachSide calls f for sides of cells with the quadrature points on each and the
// areas that these stand for.
func (s *System) EachSide(at *State, sides []Side, f func(number int, points []Point, weights []float64) error) error {
	a := newAssembler(s, nil, at, nil, nil, 0, int32(s.N))
	var weights []float64
	take := func(_ int, side Side) bool {
		a.fetch(&s.Grid.Blocks[side.Block], side.Cell, &side)
		return true
	}
	return a.eachSide(sides, take, func(number int, on *side, points []Point) error {
		weights = weights[:0]
		for q := range points {
			weights = append(weights, on.kept[q].weight)
		}
		return f(number, points, weights)
	})
}

// AtPlace returns the fields at a place in a cell.
func (s *System) AtPlace(at *State, place Place) (Point, error) {
	a := newAssembler(s, nil, at, nil, nil, 0, int32(s.N))
	b := &s.Grid.Blocks[place.Block]
	c := newCell(b.Element, NewElement(b.Element.Form, 1), &Rule{Points: [][3]float64{place.At}, Weights: []float64{1}})
	a.fetch(b, place.Cell, nil)
	c.load(s.Grid, b.Nodes(place.Cell))
	if err := c.set(0); err != nil {
		return Point{}, err
	}
	a.fields(b.Element, c, 0)
	a.point.Part, a.point.X = b.Part[place.Cell], c.x
	return a.point, nil
}

// ResidualOf sums the residual of the cells of some parts alone, without terms on
// sides and joints.
func (s *System) ResidualOf(kernel Kernel, at *State, parts map[int32]bool) ([]float64, error) {
	out := make([]float64, s.N)
	if err := s.survey(kernel, at); err != nil {
		return nil, err
	}
	a := newAssembler(s, kernel, at, out, nil, 0, int32(s.N))
	a.only = parts
	for bi := range s.Grid.Blocks {
		if err := a.runCells(bi); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Shares adds up, at each node of some sides, the integrals over them of the square
// of the function of a field there. Nodes that share their unknowns count as one of them.
func (s *System) Shares(sides []Side, f int) (map[int32]float64, error) {
	a := newAssembler(s, nil, &State{}, nil, nil, 0, int32(s.N))
	cache, sums := sideCache{}, map[int32]float64{}
	for _, side := range sides {
		b := &s.Grid.Blocks[side.Block]
		on, nodes := a.side(cache, side), b.Nodes(side.Cell)
		on.load(s.Grid, nodes)
		list := b.Element.onFacet(side.Facet)
		for q := range on.rule.Points {
			if err := on.set(q); err != nil {
				return nil, err
			}
			n := on.n[q]
			if s.low(f, b.Element) {
				n = on.low[q]
			}
			for _, i := range list {
				if i < len(n) {
					sums[s.group[nodes[i]]] += on.weight * n[i] * n[i]
				}
			}
		}
	}
	return sums, nil
}

// EachFunction calls f for the functions of the nodes on some sides at the points of these, with the weight of a point
// and the normal there.
func (s *System) EachFunction(sides []Side, f func(node int32, value, weight float64, normal [3]float64)) error {
	a := newAssembler(s, nil, &State{}, nil, nil, 0, int32(s.N))
	cache := sideCache{}
	for _, side := range sides {
		b := &s.Grid.Blocks[side.Block]
		on, nodes := a.side(cache, side), b.Nodes(side.Cell)
		on.load(s.Grid, nodes)
		for q := range on.rule.Points {
			if err := on.set(q); err != nil {
				return err
			}
			for _, i := range b.Element.onFacet(side.Facet) {
				f(nodes[i], on.n[q][i], on.weight, on.normal)
			}
		}
	}
	return nil
}

// SideResiduals calls f for each side of the system with its residuals for a field
// at the nodes of the side, in the order of [Grid.SideNodes].
func (s *System) SideResiduals(kernel Kernel, at *State, field int, f func(number int, values []float64)) error {
	if err := s.survey(kernel, at); err != nil {
		return err
	}
	a := newAssembler(s, kernel, at, nil, nil, 0, int32(s.N))
	k, ok := a.kernel.(SideKernel)
	if !ok {
		return nil
	}
	var values []float64
	return a.eachSide(a.sides, func(_ int, side Side) bool { return a.load(&s.Grid.Blocks[side.Block], side.Cell, &side) }, func(number int, on *side, points []Point) error {
		if err := a.sideTerms(k, number, on, points); err != nil {
			return err
		}
		b := &s.Grid.Blocks[a.sides[number].Block]
		values = values[:0]
		span := a.span[s.First[field]]
		for k, i := range b.Element.onFacet(a.sides[number].Facet) {
			v := 0.0
			if s.on[field] != nil {
				i = k
			}
			if i < span[1]-span[0] {
				v = a.f[span[0]+i]
			}
			values = append(values, v)
		}
		f(number, values)
		return nil
	})
}
