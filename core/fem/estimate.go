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
// (1987) 337). of gives each core what evaluates it at points of one part, out[d] along axis d.
func (s *System) FluxError(at *State, parts map[int32]bool, of func(core int) func(points []Point, out [][]float64) error) (*Estimate, error) {
	most := int32(0)
	for _, b := range s.Grid.Blocks {
		most = max(most, slices.Max(b.Part))
	}
	slots := s.Grid.Points(int(most) + 1)
	points, count := slots.Cells, len(slots.Node)
	// visit calls what each core makes of a point: its cell with the functions there, the volume that it
	// stands for and the flux.
	visit := func(made func(core int) func(bi, cell int, n []float64, w float64, flux [3]float64)) error {
		return s.onAllCores(func(core, cores int, fail func(error)) func() {
			f, g := of(core), made(core)
			return func() {
				a, out := newAssembler(s, nil, at, nil, nil, 0, int32(s.N)), make([][]float64, 3)
				for bi := range s.Grid.Blocks {
					b := newBatch(a, bi)
					c, per := b.c, len(b.c.rule.Points)
					err := b.eachOf(core, cores, parts, func(cells []int, points []Point, w []float64) error {
						for d := range out {
							out[d] = slices.Grow(out[d][:0], len(points))[:len(points)]
						}
						if err := f(points, out); err != nil {
							return err
						}
						for k := range points {
							g(bi, cells[k/per], c.n[k%per], w[k], [3]float64{out[0][k], out[1][k], out[2][k]})
						}
						return nil
					})
					if err != nil {
						fail(err)
						return
					}
				}
			}
		})
	}
	type share struct {
		sums    [][3]float64
		weights []float64
	}
	var shares []*share
	err := visit(func(int) func(bi, cell int, n []float64, w float64, flux [3]float64) {
		own := &share{make([][3]float64, count), make([]float64, count)}
		shares = append(shares, own)
		return func(bi, cell int, n []float64, w float64, flux [3]float64) {
			for i, at := range points[bi][len(n)*cell : len(n)*(cell+1)] {
				// Squares of the functions: on elements of order 2 their integrals may
				// vanish at corners.
				w := w * n[i] * n[i]
				own.weights[at] += w
				for d, v := range flux {
					own.sums[at][d] += w * v
				}
			}
		}
	})
	if err != nil {
		return nil, err
	}
	sums := shares[0].sums
	for at := range sums {
		w := shares[0].weights[at]
		for _, other := range shares[1:] {
			w += other.weights[at]
			for d, v := range other.sums[at] {
				sums[at][d] += v
			}
		}
		for d := range 3 {
			sums[at][d] /= w
		}
	}
	e := &Estimate{Cells: make([][][3]float64, len(s.Grid.Blocks))}
	for bi := range s.Grid.Blocks {
		e.Cells[bi] = make([][3]float64, s.Grid.Blocks[bi].Count())
	}
	var squares []*[2]float64 // by core: of the errors and of the flux itself
	err = visit(func(int) func(bi, cell int, n []float64, w float64, flux [3]float64) {
		own := &[2]float64{}
		squares = append(squares, own)
		return func(bi, cell int, n []float64, w float64, flux [3]float64) {
			var smooth [3]float64
			for i, at := range points[bi][len(n)*cell : len(n)*(cell+1)] {
				for d, r := range sums[at] {
					smooth[d] += n[i] * r
				}
			}
			for d, v := range flux {
				square := w * (smooth[d] - v) * (smooth[d] - v)
				e.Cells[bi][cell][d] += square
				own[0] += square
				own[1] += w * v * v
			}
		}
	})
	var total, norm float64
	for _, own := range squares {
		total, norm = total+own[0], norm+own[1]
	}
	e.Total, e.Norm = math.Sqrt(total), math.Sqrt(norm)
	return e, err
}
