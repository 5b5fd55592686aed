package fem

import (
	"fmt"

	"saltkettle/core/dense"
	"saltkettle/core/parallel"
)

// Smooth turns quantities that follow from the fields, such as fluxes, into values at
// corners of cells: in each cell the straight function nearest to what they are at its
// quadrature points is taken to the corners, and the mean over the cells that have a
// corner, weighted by volume, is its value. of gives each core what evaluates the quantities, out[i] the
// i-th, at points of one part.
//
// points numbers the nodes of the cells, block by block; where a quantity jumps from part to
// part they have different numbers. Between corners values are straight. Cells of other parts
// than the given ones, nil for all, are left out, and values at points that only they have
// are 0.
func (s *System) Smooth(at *State, parts map[int32]bool, points [][]int32, count, quantities int, of func(core int) func(points []Point, out [][]float64) error) ([][]float64, error) {
	for bi := range s.Grid.Blocks {
		if b := &s.Grid.Blocks[bi]; len(points[bi]) != b.Element.Count()*b.Count() {
			return nil, fmt.Errorf("fem: %d points are given for %d cells of %d", len(points[bi]), b.Count(), b.Element.Count())
		}
	}
	var shares [][][]float64 // by core: the sums, and the weights last
	err := s.onAllCores(func(core, cores int, fail func(error)) func() {
		f, share := of(core), make([][]float64, quantities+1)
		for i := range share {
			share[i] = make([]float64, count)
		}
		shares = append(shares, share)
		return func() {
			a := newAssembler(s, nil, at, nil, nil, 0, int32(s.N))
			for bi := range s.Grid.Blocks {
				if err := newBatch(a, bi).smooth(core, cores, parts, points[bi], share[:quantities], share[quantities], f); err != nil {
					fail(err)
					return
				}
			}
		}
	})
	if err != nil {
		return nil, err
	}
	sums, weights := shares[0][:quantities], shares[0][quantities]
	for _, share := range shares[1:] {
		parallel.For(quantities+1, 1, func(_, lo, hi int) {
			for i := lo; i < hi; i++ {
				for c, v := range share[i] {
					shares[0][i][c] += v
				}
			}
		})
	}
	for _, list := range sums {
		for c, w := range weights {
			if w > 0 {
				list[c] /= w
			}
		}
	}
	s.Grid.Straighten(parts, points, sums)
	return sums, nil
}

// Straighten gives points of cells that are no corners the values of the straight functions
// between these. Points are numbered as [System.Smooth] has them.
func (g *Grid) Straighten(parts map[int32]bool, points [][]int32, values [][]float64) {
	for bi := range g.Blocks {
		g.Blocks[bi].straighten(parts, points[bi], values)
	}
}

func (b *Block) straighten(parts map[int32]bool, points []int32, values [][]float64) {
	e := b.Element
	if e.Count() == e.Corners {
		return
	}
	low := NewElement(e.Form, 1)
	n, dn := make([]float64, e.Corners), make([][3]float64, e.Corners)
	for i := e.Corners; i < e.Count(); i++ {
		low.Shape(e.Nodes[i], n, dn)
		for cell, part := range b.Part {
			if parts != nil && !parts[part] {
				continue
			}
			own := points[e.Count()*cell : e.Count()*(cell+1)]
			for _, list := range values {
				var v float64
				for c, w := range n {
					v += w * list[own[c]]
				}
				list[own[i]] = v
			}
		}
	}
}

// smooth adds what the cells of a block say at their corners, and the weights of that.
func (b *batch) smooth(core, cores int, parts map[int32]bool, corners []int32, sums [][]float64, weights []float64, f func(points []Point, out [][]float64) error) error {
	fit := nearest(b.c)
	all, k, points := b.block.Element.Count(), b.low.Count(), len(b.c.rule.Points)
	out, values := make([][]float64, len(sums)), make([][]float64, len(sums))
	for i := range values {
		values[i] = make([]float64, batchCells*points)
	}
	return b.eachOf(core, cores, parts, func(cells []int, p []Point, w []float64) error {
		for i := range out {
			out[i] = values[i][:len(p)]
		}
		if err := f(p, out); err != nil {
			return err
		}
		for n, cell := range cells {
			var volume float64
			for _, x := range w[n*points : (n+1)*points] {
				volume += x
			}
			for i, c := range corners[all*cell : all*cell+k] {
				weights[c] += volume
				for j := range out {
					var v float64
					for q, x := range fit[i] {
						v += x * out[j][n*points+q]
					}
					sums[j][c] += volume * v
				}
			}
		}
		return nil
	})
}

// nearest has for each corner of a cell the weights of the quadrature points in the
// value there of the function of order 1 nearest to values at these points.
func nearest(c *cell) [][]float64 {
	k, points := len(c.low[0]), len(c.rule.Points)
	m, right := make([]float64, k*k), make([]float64, k*points)
	for q, w := range c.rule.Weights {
		for i, x := range c.low[q] {
			right[i*points+q] = w * x
			for j, y := range c.low[q] {
				m[i*k+j] += w * x * y
			}
		}
	}
	dense.Eliminate(m, right, k, points) // positive definite
	fit := make([][]float64, k)
	for i := range fit {
		fit[i] = right[i*points : (i+1)*points]
	}
	return fit
}
