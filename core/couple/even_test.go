package couple

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/fem"
	"saltkettle/core/mesh"
)

// lumped lets field v, which has one value, be a third of the sum of u over the device, and u follow the place.
type lumped struct{ volume float64 }

func (k lumped) Cell(p *fem.Point, t *fem.Terms) error {
	t.Source[0] = p.U[0] - p.X[0]
	t.SourceU[t.Index(0, 0)] = 1
	if p.Part == 1 {
		t.Source[1] = 3*p.U[1] - p.U[0]/k.volume
		t.SourceU[t.Index(1, 1)] = 3
		t.SourceU[t.Index(1, 0)] = -1 / k.volume
	}
	return nil
}

// TestEvenFields have one unknown in all that they live in, whatever the order of the cells.
func TestEvenFields(t *testing.T) {
	for order := 1; order <= 2; order++ {
		m := pair(t)
		g, err := New(m, 2, []Field{{Name: "u"}, {Name: "v", Bodies: only(1), Even: true}}, &Settings{Order: order})
		require.NoError(t, err)
		alone, err := New(m, 2, []Field{{Name: "u"}}, &Settings{Order: order})
		require.NoError(t, err)
		require.Equal(t, alone.System.N+1, g.System.N)
		volume := 0.02 * 0.01 * 0.006
		s, err := g.Solve(t.Context(), lumped{volume}, &SolveSettings{Straight: true})
		require.NoError(t, err)
		// ∫3v = ∫u/V over the second box, whose middle is at 20 mm.
		some := 0
		for node := range int32(g.Grid().NodeCount()) {
			if e := g.System.Equation(1, 0, node); e >= 0 {
				some++
				assert.InEpsilon(t, 0.02/(3*volume), s.State.U[e], 1e-9)
			}
		}
		assert.Positive(t, some)
	}
}

// bulging is a flux that saturates, the slope of an energy.
type bulging struct{}

func (bulging) Descends() bool { return true }

func (bulging) Cell(p *fem.Point, t *fem.Terms) error {
	g := p.Grad[0]
	root := math.Sqrt(1 + g[0]*g[0] + g[1]*g[1] + g[2]*g[2])
	t.Source[0] = -300
	for i := range g {
		t.Flux[0][i] = g[i] * (1 + 1/root)
		t.FluxGrad[0][i][i] = 1 + 1/root
		for j := range g {
			t.FluxGrad[0][i][j] -= g[i] * g[j] / (root * root * root)
		}
	}
	return nil
}

// TestOrderOneFirst: what order 2 begins with is near to where it ends, and it ends where it does without.
func TestOrderOneFirst(t *testing.T) {
	m := pair(t)
	rim := facets(m, func(f *mesh.Facet) bool { return f.Other < 0 })
	g, err := New(m, 2, []Field{{Name: "u", Held: []Held{heldAt(rim, 0)}}}, &Settings{Order: 2, Facets: rim})
	require.NoError(t, err)
	set := &SolveSettings{Symmetric: true}
	s, err := g.Solve(t.Context(), bulging{}, set)
	require.NoError(t, err)
	require.True(t, s.Settled)
	none, err := g.lowerFirst(t.Context(), bulging{}, set, g.System.N+1)
	require.NoError(t, err)
	assert.Nil(t, none, "it is not worth it")
	begins, err := g.lowerFirst(t.Context(), bulging{}, set, 1)
	require.NoError(t, err)
	most, apart, size := 0., 0., 0.
	for i, v := range s.State.U {
		most = max(most, math.Abs(v))
		apart, size = apart+(begins[i]-v)*(begins[i]-v), size+v*v
	}
	assert.Less(t, apart, 0.1*size)
	again, err := g.Solve(t.Context(), bulging{}, &SolveSettings{Symmetric: true, From: begins})
	require.NoError(t, err)
	assert.InDeltaSlice(t, s.State.U, again.State.U, 1e-8*most)
	assert.LessOrEqual(t, again.Steps, s.Steps)
}
