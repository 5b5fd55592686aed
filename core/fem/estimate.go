package fem

import (
	"math"
	"slices"
)

// Estimate is the error of a flux in each cell.
type Estimate struct {
	// Cells[b][c] are the integrals of the squared error over cell c of block b, by the
	// axes of the flux. Total is the root of the sum over all, Norm that of the integral
	// of the squared flux itself.
	Cells       [][][3]float64
	Total, Norm float64
}

// Relative is the error relative to the flux.
func (e *Estimate) Relative() float64 {
	if e.Norm == 0 {
		return 0
	}
	return e.Total / e.Norm
}

// FluxError estimates the error of a flux that follows from the fields, such as k·∇T, in
// some parts, nil for all. The flux is smoothed: the value at a node is the mean over the
// cells of its part, weighted by what the node has of them. The difference to the flux
// itself estimates its error (O. Zienkiewicz, J. Zhu, Int. J. Numer. Methods Eng. 24
// (1987) 337). f evaluates it at points of one part, out[d] along axis d.
func (s *System) FluxError(at *State, parts map[int32]bool, f func(points []Point, out [][]float64) error) (*Estimate, error) {
	most := int32(0)
	for _, b := range s.Grid.Blocks {
		most = max(most, slices.Max(b.Part))
	}
	slots := s.Grid.Points(int(most) + 1)
	of, count := slots.Cells, len(slots.Node)
	sums, weights := make([][3]float64, count), make([]float64, count)
	out := make([][]float64, 3)
	visit := func(g func(bi, cell int, n []float64, w float64, flux [3]float64)) error {
		a := newAssembler(s, nil, at, nil, nil, 0, int32(s.N))
		for bi := range s.Grid.Blocks {
			b := newBatch(a, bi)
			per := len(b.c.rule.Points)
			err := b.each(parts, func(cells []int, points []Point, w []float64) error {
				for d := range out {
					for len(out[d]) < len(points) {
						out[d] = append(out[d], 0)
					}
					out[d] = out[d][:len(points)]
				}
				if err := f(points, out); err != nil {
					return err
				}
				for k := range points {
					g(bi, cells[k/per], b.c.n[k%per], w[k], [3]float64{out[0][k], out[1][k], out[2][k]})
				}
				return nil
			})
			if err != nil {
				return err
			}
		}
		return nil
	}
	err := visit(func(bi, cell int, n []float64, w float64, flux [3]float64) {
		for i, at := range of[bi][len(n)*cell : len(n)*(cell+1)] {
			// Squares of the functions: on elements of order 2 their integrals may
			// vanish at corners.
			w := w * n[i] * n[i]
			weights[at] += w
			for d, v := range flux {
				sums[at][d] += w * v
			}
		}
	})
	if err != nil {
		return nil, err
	}
	for at, w := range weights {
		for d := range 3 {
			sums[at][d] /= w
		}
	}
	e := &Estimate{Cells: make([][][3]float64, len(s.Grid.Blocks))}
	for bi := range s.Grid.Blocks {
		e.Cells[bi] = make([][3]float64, s.Grid.Blocks[bi].Count())
	}
	var norm, total float64
	err = visit(func(bi, cell int, n []float64, w float64, flux [3]float64) {
		var smooth [3]float64
		for i, at := range of[bi][len(n)*cell : len(n)*(cell+1)] {
			for d, r := range sums[at] {
				smooth[d] += n[i] * r
			}
		}
		for d, v := range flux {
			square := w * (smooth[d] - v) * (smooth[d] - v)
			e.Cells[bi][cell][d] += square
			total += square
			norm += w * v * v
		}
	})
	e.Total, e.Norm = math.Sqrt(total), math.Sqrt(norm)
	return e, err
}
