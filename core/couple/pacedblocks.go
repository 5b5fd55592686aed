package couple

import (
	"fmt"

	"saltkettle/core/fem"
	"saltkettle/core/sparse"
)

// pacedBlocks solves the equations of steps by iterations in blocks of the unknowns of a node.
type pacedBlocks struct {
	*pacing
	blocks   *fem.Blocks
	matrix   *sparse.Blocked[float32]
	pre      *sparse.BlockMultigrid[float32]
	right, x []float64
}

func newPacedBlocks(p *pacing) (*pacedBlocks, error) {
	blocks, err := p.System.NewBlocks()
	if err != nil {
		return nil, err
	}
	s := &pacedBlocks{pacing: p, blocks: blocks, matrix: blocks.NewMatrix()}
	n := s.matrix.N()
	s.right, s.x = make([]float64, n), make([]float64, n)
	return s, nil
}

func (s *pacedBlocks) nodes() []int32 { return s.blocks.Node }

func (s *pacedBlocks) assemble() error {
	return s.blocks.Assemble(s.ctx, s.kernel, s.state, s.residual, s.matrix)
}

func (s *pacedBlocks) solve(resist []float64) (sparse.Result, error) {
	own := make([]float64, len(resist))
	for f := range s.Fields {
		if by := s.inertia(f); by > 0 {
			for i, r := range resist {
				own[i] = by * r
			}
			s.blocks.AddDiagonal(s.matrix, f, own)
		}
	}
	rows := s.blocks.Scale(func(f int) float64 { row, _ := s.scales(f); return row })
	cols := s.blocks.Scale(func(f int) float64 { _, col := s.scales(f); return col })
	s.blocks.Hold(s.matrix, s.still, rows, cols)
	if s.pre == nil {
		at := make([][3]float64, len(s.blocks.Node))
		for i, v := range s.blocks.Node {
			at[i] = s.System.Grid.At(v)
		}
		var err error
		s.pre, err = sparse.NewBlockMultigrid(s.ctx, s.matrix, &sparse.BlockMultigridSettings{At: at, Held: s.blocks.Held(s.c.Fixed)})
		if err != nil {
			return sparse.Result{}, err
		}
	} else if err := s.pre.Renew(s.matrix); err != nil {
		return sparse.Result{}, err
	}
	b := s.blocks.B
	clear(s.right)
	clear(s.x)
	for e, r := range s.residual {
		if !s.still[e] {
			at := s.blocks.Place[e]
			s.right[at] = -r * rows[int(at)%b]
		}
	}
	linear := &sparse.Settings{Tolerance: pacedLinear, MaxIterations: mostLinear, Flexible: true}
	if len(s.distant) > 0 {
		linear.Beside = func(dst, x []float64) { s.alsoBeside(dst, x, rows, cols) }
	}
	r := sparse.GMRES(s.ctx, s.matrix, s.right, s.x, s.pre, linear)
	for e := range s.change {
		at := s.blocks.Place[e]
		s.change[e] = s.x[at] * cols[int(at)%b]
	}
	return r, nil
}

// alsoBeside adds what stands beside the matrix times unknowns without dimensions.
func (s *pacedBlocks) alsoBeside(dst, x, rows, cols []float64) {
	n, b := s.System.N, s.blocks.B
	change, out := make([]float64, n), make([]float64, n)
	for e := range change {
		if at := int(s.blocks.Place[e]); !s.still[e] {
			change[e] = x[at] * cols[at%b]
		}
	}
	s.beside(out, change)
	for e, v := range out {
		if at := int(s.blocks.Place[e]); !s.still[e] {
			dst[at] += v * rows[at%b]
		}
	}
}

func (s *pacedBlocks) words(iterations int) string {
	return fmt.Sprintf("multigrid in blocks of %d on %d levels, %d iterations", s.blocks.B, len(s.pre.Levels()), iterations)
}
