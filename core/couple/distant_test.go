package couple

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/fem"
)

// levelled loses as much everywhere as the mean of all unknowns is above a value: a dense matrix of rank one.
type levelled struct {
	by, mean float64
	lumps    []float64 // what an even source of one adds to the equations
}

func (k *levelled) Cell(p *fem.Point, t *fem.Terms) error {
	t.Source[0] += k.by * k.mean
	return nil
}

func (k *levelled) Survey(s *fem.System, at *fem.State) error {
	k.mean = mean(at.U)
	return nil
}

func (k *levelled) Distant() bool { return true }

func (k *levelled) AddDistant(dst, change []float64) {
	for e, v := range k.lumps {
		dst[e] += k.by * mean(change) * v
	}
}

func (k *levelled) Straight() bool { return true }

func mean(list []float64) (sum float64) {
	for _, v := range list {
		sum += v
	}
	return sum / float64(len(list))
}

// stiff conducts, loses heat, and gains an even source.
type stiff struct{ source float64 }

func (k stiff) Cell(p *fem.Point, t *fem.Terms) error {
	t.Source[0] += p.U[0] - k.source
	t.SourceU[0]++
	for i := range 3 {
		t.Flux[0][i] += p.Grad[0][i]
		t.FluxGrad[0][i][i]++
	}
	return nil
}

// TestAllThatStandsBesideAMatrixCounts: with two dense parts Newton's method still takes one step.
func TestAllThatStandsBesideAMatrixCounts(t *testing.T) {
	g, err := New(pair(t), 2, []Field{{Name: "u"}}, &Settings{})
	require.NoError(t, err)
	lumps := make([]float64, g.System.N)
	require.NoError(t, g.System.Assemble(stiff{-1}, &fem.State{U: make([]float64, g.System.N)}, lumps, nil))
	kernel := fem.Sum(stiff{12}, &levelled{by: 2, lumps: lumps}, &levelled{by: 3, lumps: lumps})
	s, err := g.Solve(t.Context(), kernel, &SolveSettings{Direct: true})
	require.NoError(t, err)
	require.True(t, s.Settled)
	assert.LessOrEqual(t, s.Steps, 2)
	for _, v := range s.State.U {
		assert.InEpsilon(t, 12./(1+2+3), v, 1e-9)
	}
}
