package fem

import (
	"math"

	"saltkettle/core/parallel"
)

// Recovered is a smoothed flux at the nodes, by part: fluxes may jump from part to
// part, not within one.
type Recovered struct {
	slot   map[nodePart]int32
	values [][3]float64
}

type nodePart struct {
	node, part int32
}

// At returns the smoothed flux at a node of a part, false if the part does not have
// the node.
func (r *Recovered) At(node, part int32) ([3]float64, bool) {
	k, ok := r.slot[nodePart{node, part}]
	if !ok {
		return [3]float64{}, false
	}
	return r.values[k], true
}

// slots numbers the nodes of each part and lists the numbers of each cell's nodes.
func (g *Grid) slots() (map[nodePart]int32, [][]int32) {
	number := map[nodePart]int32{}
	of := make([][]int32, len(g.Blocks))
	for bi := range g.Blocks {
		b := &g.Blocks[bi]
		for cell, part := range b.Part {
			for _, v := range b.Nodes(cell) {
				key := nodePart{v, part}
				k, ok := number[key]
				if !ok {
					k = int32(len(number))
					number[key] = k
				}
				of[bi] = append(of[bi], k)
			}
		}
	}
	return number, of
}

// Estimate is the error of a flux in each cell.
type Estimate struct {
	// Cells[b][c] is the root of the integral of the squared error over cell c of
	// block b, Total that over all, Norm that of the flux itself.
	Cells       [][]float64
	Total, Norm float64
}

// Relative is the error relative to the flux.
func (e *Estimate) Relative() float64 {
	if e.Norm == 0 {
		return 0
	}
	return e.Total / e.Norm
}

// Recover smooths a flux of the fields, such as k·∇T: the value at a node is the
// mean over the cells of its part, weighted by what the node has of them. The
// difference to the flux itself estimates its error (O. Zienkiewicz, J. Zhu, Int.
// J. Numer. Methods Eng. 24 (1987) 337).
func (s *System) Recover(at *State, flux func(p *Point) [3]float64) (*Recovered, *Estimate, error) {
	slot, of := s.Grid.slots()
	sums, weights := make([][3]float64, len(slot)), make([]float64, len(slot))
	visit := func(f func(bi, cell int, c *cell, q int, v [3]float64)) error {
		return s.visit(at, nil, 0, func(bi, cell int, c *cell, q int, p *Point) { f(bi, cell, c, q, flux(p)) })
	}
	err := visit(func(bi, cell int, c *cell, q int, v [3]float64) {
		k := len(c.grad)
		for i, at := range of[bi][k*cell : k*(cell+1)] {
			// Squares of the functions: on elements of order 2 their integrals may
			// vanish at corners.
			w := c.weight * c.n[q][i] * c.n[q][i]
			weights[at] += w
			for d := range v {
				sums[at][d] += w * v[d]
			}
		}
	})
	if err != nil {
		return nil, nil, err
	}
	for at, w := range weights {
		for d := range 3 {
			sums[at][d] /= w
		}
	}
	e := &Estimate{Cells: make([][]float64, len(s.Grid.Blocks))}
	for bi := range s.Grid.Blocks {
		e.Cells[bi] = make([]float64, s.Grid.Blocks[bi].Count())
	}
	var norm float64
	err = visit(func(bi, cell int, c *cell, q int, v [3]float64) {
		k := len(c.grad)
		var smooth [3]float64
		for i, at := range of[bi][k*cell : k*(cell+1)] {
			for d, r := range sums[at] {
				smooth[d] += c.n[q][i] * r
			}
		}
		for d := range v {
			e.Cells[bi][cell] += c.weight * (smooth[d] - v[d]) * (smooth[d] - v[d])
			norm += c.weight * v[d] * v[d]
		}
	})
	if err != nil {
		return nil, nil, err
	}
	var total float64
	for _, list := range e.Cells {
		for c, v := range list {
			total += v
			list[c] = math.Sqrt(v)
		}
	}
	e.Total, e.Norm = math.Sqrt(total), math.Sqrt(norm)
	return &Recovered{slot, sums}, e, nil
}

// Sizes turns an estimate into the size that each cell of a block should have, as a
// multiple of its size now, so that the error falls to a part of the flux and is
// spread evenly: order is that of the elements, dimension that of the space.
func (e *Estimate) Sizes(block int, target float64, order, dimension int) []float64 {
	count := 0
	for _, list := range e.Cells {
		count += len(list)
	}
	allowed := target * e.Norm / math.Sqrt(float64(count))
	out := make([]float64, len(e.Cells[block]))
	parallel.For(len(out), 4096, func(_, lo, hi int) {
		for c := lo; c < hi; c++ {
			ratio := 4.0
			if v := e.Cells[block][c]; v > 0 {
				ratio = math.Pow(allowed/v, 1/(float64(order)+float64(dimension)/2))
			}
			out[c] = min(4, max(0.1, ratio))
		}
	})
	return out
}

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
			a.load(b, cell)
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
