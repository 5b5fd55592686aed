package couple

import (
	"slices"

	"saltkettle/core/parallel"
	"saltkettle/core/sparse"
)

// pacedFactors factorises the equations of each step, which takes little where space is flat: there cells may be thousands
// of times as long as they are thick, which no iterations like.
type pacedFactors struct {
	*pacing
	matrix  *sparse.CSR
	pattern *sparse.Analysis
	list    []int32 // nodes
	right   []float64
	rows    []float64 // by equation
	cols    []float64
}

func newPacedFactors(p *pacing) (*pacedFactors, error) {
	n := p.System.N
	s := &pacedFactors{pacing: p, matrix: p.System.NewMatrix(), right: make([]float64, n), rows: make([]float64, n), cols: make([]float64, n)}
	for v := range int32(p.System.Grid.NodeCount()) {
		if p.System.Shared(v) == v && slices.ContainsFunc(p.Own, func(f int) bool { return p.System.Equation(f, 0, v) >= 0 }) {
			s.list = append(s.list, v)
		}
	}
	return s, nil
}

func (s *pacedFactors) nodes() []int32 { return s.list }

func (s *pacedFactors) assemble() error {
	return s.System.Assemble(s.kernel, s.state, s.residual, s.matrix)
}

func (s *pacedFactors) solve(resist []float64) (sparse.Result, error) {
	inertia, row, col := make([]float64, len(s.Fields)), make([]float64, len(s.Fields)), make([]float64, len(s.Fields))
	for f := range s.Fields {
		inertia[f] = s.inertia(f)
		row[f], col[f] = s.scales(f)
	}
	for e, f := range s.field {
		s.rows[e], s.cols[e] = row[f], col[f]
	}
	parallel.For(s.System.N, 1024, func(_, lo, hi int) {
		for e := lo; e < hi; e++ {
			cols, data := s.matrix.Row(e)
			s.right[e] = -s.residual[e] * s.rows[e]
			if s.still[e] {
				s.right[e] = 0
			}
			for k, c := range cols {
				switch {
				case int(c) == e && s.still[e]:
					data[k] = 1
				case s.still[e] || s.still[c]:
					data[k] = 0
				case int(c) == e:
					data[k] = (data[k] + inertia[s.field[e]]*resist[s.node[e]]) * s.rows[e] * s.cols[e]
				default:
					data[k] *= s.rows[e] * s.cols[c]
				}
			}
		}
	})
	if s.pattern == nil {
		s.pattern = sparse.Analyse(s.matrix, sparse.Unsymmetric, nil)
	}
	factors, err := sparse.Factor(s.ctx, s.pattern, s.matrix, nil)
	if err != nil {
		return sparse.Result{}, err
	}
	clear(s.change)
	linear := &sparse.Settings{Tolerance: exactly, MaxIterations: mostLinear, Flexible: true}
	if len(s.distant) > 0 {
		in, out := make([]float64, s.System.N), make([]float64, s.System.N)
		linear.Beside = func(dst, x []float64) {
			for e, v := range x {
				if in[e] = v * s.cols[e]; s.still[e] {
					in[e] = 0
				}
			}
			clear(out)
			s.beside(out, in)
			for e, v := range out {
				if !s.still[e] {
					dst[e] += v * s.rows[e]
				}
			}
		}
	}
	r := sparse.GMRES(s.ctx, s.matrix, s.right, s.change, factors, linear)
	for e := range s.change {
		s.change[e] *= s.cols[e]
	}
	return r, nil
}

func (s *pacedFactors) words(int) string { return "factorised each" }
