package fem

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// full has every derivative that terms can have, all of them different and dependent on the place.
type full struct{}

func (full) Cell(p *Point, t *Terms) error {
	n := len(p.U)
	value := func(a, b, k int) float64 {
		return math.Sin(float64(1+7*a+3*b+11*k)) * (1 + p.X[0] - 2*p.X[1]*p.X[2])
	}
	for a := range n {
		for b := range n {
			at := t.Index(a, b)
			t.SourceU[at], t.SourceRate[at] = value(a, b, 0), value(a, b, 1)
			t.Source[a] += t.SourceU[at]*p.U[b] + t.SourceRate[at]*p.Rate[b]
			for i := range 3 {
				t.SourceGrad[at][i], t.FluxU[at][i], t.FluxRate[at][i] = value(a, b, 2+i), value(a, b, 5+i), value(a, b, 8+i)
				t.Source[a] += t.SourceGrad[at][i] * p.Grad[b][i]
				t.Flux[a][i] += t.FluxU[at][i]*p.U[b] + t.FluxRate[at][i]*p.Rate[b]
				for j := range 3 {
					t.FluxGrad[at][i][j] = value(a, b, 11+3*i+j)
					t.Flux[a][i] += t.FluxGrad[at][i][j] * p.Grad[b][j]
				}
			}
		}
	}
	return nil
}

// TestCellsIntegratedInRegisters: residuals and blocks of all kinds of terms, in cells of every form with all unknowns at all
// nodes, are those of the matrix that goes through the reference cell.
func TestCellsIntegratedInRegisters(t *testing.T) {
	for _, form := range solidForms {
		for _, fields := range [][]Field{{{Components: 3}, {Components: 1}}, {{Components: 1}, {Components: 1}}, {{Components: 3}, {Components: 1}, {Components: 1}}} {
			s, err := NewSystem(cube(form, 3, 0.15), fields, nil)
			require.NoError(t, err)
			rng := rand.New(rand.NewPCG(5, 6))
			at := &State{U: make([]float64, s.N), Rate: make([]float64, s.N), RateSlope: 0.7}
			for i := range at.U {
				at.U[i], at.Rate[i] = rng.NormFloat64(), rng.NormFloat64()
			}
			want, got, tangent := make([]float64, s.N), make([]float64, s.N), s.NewMatrix()
			require.NoError(t, s.Assemble(full{}, at, want, tangent))
			b, err := s.NewBlocks()
			require.NoError(t, err)
			m := b.NewMatrix()
			require.NoError(t, b.Assemble(t.Context(), full{}, at, got, m))
			largest := 0.0
			for e := range want {
				require.InDelta(t, want[e], got[e], 1e-11*(1+math.Abs(want[e])))
			}
			for _, v := range tangent.Data {
				largest = max(largest, math.Abs(v))
			}
			x, in, out := make([]float64, s.N), make([]float64, m.N()), make([]float64, m.N())
			for e := range x {
				x[e] = rng.NormFloat64()
				in[b.Place[e]] = x[e]
			}
			tangent.MulVec(want, x)
			m.MulVec(out, in)
			for e := range want {
				require.InDelta(t, want[e], out[b.Place[e]], 2e-5*largest, "form %v, %d unknowns a node", form, b.B)
			}
			over, end := context.WithCancel(t.Context())
			end()
			assert.ErrorIs(t, b.Assemble(over, full{}, at, got, m), context.Canceled)
		}
	}
}
