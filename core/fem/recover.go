package fem

import (
	"math"

	"saltkettle/core/parallel"
)

// Recovered is a smoothed flux at the nodes, by part: fluxes may jump from part to
// part, not within one.
type Recovered struct {
	values map[nodePart][3]float64
}

type nodePart struct {
	node, part int32
}

// At returns the smoothed flux at a node of a part.
func (r *Recovered) At(node, part int32) [3]float64 { return r.values[nodePart{node, part}] }

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
	sums, weights := map[nodePart][3]float64{}, map[nodePart]float64{}
	visit := func(f func(bi, cell int, c *cell, q int, v [3]float64)) error {
		a := newAssembler(s, nil, at, nil, nil, 0, int32(s.N))
		for bi := range s.Grid.Blocks {
			b := &s.Grid.Blocks[bi]
			c := newCell(b.Element, NewElement(b.Element.Form, 1), NewRule(b.Element.Form, s.rules[bi]))
			for cell, part := range b.Part {
				a.load(b, cell)
				for q := range c.rule.Points {
					if err := c.set(s.Grid, b.Nodes(cell), q); err != nil {
						return err
					}
					a.fields(b.Element, c, q)
					a.point.Part, a.point.X = part, c.x
					f(bi, cell, c, q, flux(&a.point))
				}
			}
		}
		return nil
	}
	err := visit(func(bi, cell int, c *cell, q int, v [3]float64) {
		b := &s.Grid.Blocks[bi]
		for i, node := range b.Nodes(cell) {
			// Squares of the functions: on elements of order 2 their integrals may
			// vanish at corners.
			w := c.weight * c.n[q][i] * c.n[q][i]
			key := nodePart{node, b.Part[cell]}
			sum := sums[key]
			for d := range sum {
				sum[d] += w * v[d]
			}
			sums[key] = sum
			weights[key] += w
		}
	})
	if err != nil {
		return nil, nil, err
	}
	for key, w := range weights {
		v := sums[key]
		for d := range v {
			v[d] /= w
		}
		sums[key] = v
	}
	e := &Estimate{Cells: make([][]float64, len(s.Grid.Blocks))}
	for bi := range s.Grid.Blocks {
		e.Cells[bi] = make([]float64, s.Grid.Blocks[bi].Count())
	}
	var norm float64
	err = visit(func(bi, cell int, c *cell, q int, v [3]float64) {
		b := &s.Grid.Blocks[bi]
		var smooth [3]float64
		for i, node := range b.Nodes(cell) {
			r := sums[nodePart{node, b.Part[cell]}]
			for d := range smooth {
				smooth[d] += c.n[q][i] * r[d]
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
	return &Recovered{sums}, e, nil
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
	a := newAssembler(s, nil, at, nil, nil, 0, int32(s.N))
	for bi := range s.Grid.Blocks {
		b := &s.Grid.Blocks[bi]
		c := newCell(b.Element, NewElement(b.Element.Form, 1), NewRule(b.Element.Form, s.rules[bi]+2))
		for cell, part := range b.Part {
			if parts != nil && !parts[part] {
				continue
			}
			a.load(b, cell)
			for q := range c.rule.Points {
				if err := c.set(s.Grid, b.Nodes(cell), q); err != nil {
					return 0, err
				}
				a.fields(b.Element, c, q)
				a.point.Part, a.point.X = part, c.x
				sum += c.weight * f(&a.point)
			}
		}
	}
	return sum, nil
}
