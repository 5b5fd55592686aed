package fem

import (
	"fmt"

	"saltkettle/core/dense"
)

// Smooth turns quantities that follow from the fields, such as fluxes, into values at
// corners of cells: in each cell the straight function nearest to what they are at its
// quadrature points is taken to the corners, and the mean over the cells that have a
// corner, weighted by volume, is its value. f evaluates the quantities, out[i] the
// i-th, at points of one part.
//
// corners numbers the corners of the cells of the first block; where a quantity jumps
// from part to part they have different numbers. Cells of other parts than the given
// ones, nil for all, are left out, and values at corners that only they have are 0.
func (s *System) Smooth(at *State, parts map[int32]bool, corners []int32, count, quantities int, f func(points []Point, out [][]float64) error) ([][]float64, error) {
	a := newAssembler(s, nil, at, nil, nil, 0, int32(s.N))
	b := newBatch(a, 0)
	k := b.low.Count()
	if len(corners) != k*b.block.Count() {
		return nil, fmt.Errorf("fem: %d corners are given for %d cells of %d", len(corners), b.block.Count(), k)
	}
	fit := nearest(b.c)
	points := len(b.c.rule.Points)
	sums, weights := make([][]float64, quantities), make([]float64, count)
	values := make([][]float64, quantities)
	for i := range sums {
		sums[i], values[i] = make([]float64, count), make([]float64, batchCells*points)
	}
	out := make([][]float64, quantities)
	err := b.each(parts, func(cells []int, p []Point, w []float64) error {
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
			for i, c := range corners[k*cell : k*(cell+1)] {
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
	if err != nil {
		return nil, err
	}
	for _, list := range sums {
		for c, w := range weights {
			if w > 0 {
				list[c] /= w
			}
		}
	}
	return sums, nil
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
