package fem

import (
	"context"
	"errors"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/mesh"
	"saltkettle/core/sparse"
)

// outward has the product of normal and place on sides, whose sum over a closed
// surface is the dimension times the volume.
type outward struct{}

func (outward) Cell(*Point, *Terms) error { return nil }

func (outward) Side(_ int, p *Point, t *Terms) error {
	for d, n := range p.Normal {
		t.Source[0] += n * p.X[d]
	}
	return nil
}

func TestNormalsPointOutward(t *testing.T) {
	for _, form := range solidForms {
		for order := 1; order <= 2; order++ {
			g := cube(form, 3, 0.15)
			if order == 2 {
				g = g.Elevated(nil)
			}
			var outer []Side
			inner := 0
			for _, s := range g.Sides() {
				if s.Other < 0 {
					outer = append(outer, s)
				} else {
					inner++
				}
			}
			assert.Positive(t, inner, "sides between the parts are listed")
			s, err := NewSystem(g, []Field{{Components: 1}}, &SystemSettings{Sides: outer})
			require.NoError(t, err)
			r := make([]float64, s.N)
			require.NoError(t, s.Assemble(outward{}, &State{U: make([]float64, s.N)}, r, nil))
			var sum float64
			for _, v := range r {
				sum += v
			}
			assert.InDelta(t, float64(g.Blocks[0].Element.Dimension), sum, 1e-12, "%s of order %d", form, order)
			for _, side := range outer {
				assert.Len(t, g.SideNodes(side), len(g.Blocks[0].Element.onFacet(side.Facet)))
				for _, v := range g.SideNodes(side) {
					x, edge := g.At(v), false
					for d := range g.Blocks[0].Element.Dimension {
						edge = edge || x[d] < 1e-9 || x[d] > 1-1e-9
					}
					assert.True(t, edge, "nodes of outer sides lie outside")
				}
			}
		}
	}
}

func TestRingOfAnAxialSpace(t *testing.T) {
	// From radius 1 to 2 the temperature goes with the logarithm.
	exact := func(x [3]float64) float64 { return math.Log(x[0]) }
	var errors [2]float64
	for i, n := range []int{4, 8} {
		g := cube(mesh.Triangle, n, 0)
		for v := range g.NodeCount() {
			g.Nodes[3*v]++
		}
		g.Measure = Around
		var held []int32
		for v := range g.NodeCount() {
			if x := g.Nodes[3*v]; x < 1+1e-9 || x > 2-1e-9 {
				held = append(held, int32(v))
			}
		}
		s, err := NewSystem(g, []Field{{Components: 1}}, &SystemSettings{Degree: 4})
		require.NoError(t, err)
		u, r := solved(t, s, conduction{}, func(c *Constraints) { s.Hold(c, 0, 0, held, exact) }, sparse.Definite)
		errors[i] = misfit(t, s, u, exact)
		var in float64
		for _, q := range r.Reaction {
			in += max(0, q)
		}
		assert.InEpsilon(t, 2*math.Pi, in, 0.02, "through a cylinder of height 1")
	}
	assert.InDelta(t, 2, math.Log2(errors[0]/errors[1]), 0.15)
}

// steep is a source that is flat but for a step at its root, with a bump before it:
// a full step of Newton's method leads far away.
type steep struct{}

func (steep) Cell(p *Point, t *Terms) error {
	u := p.U[0]
	bump := 0.9 * math.Exp(-4*u*u)
	t.Source[0] = math.Atan(8*(u-3)) + bump + p.Rate[0]
	t.SourceU[0] = 8/(1+64*(u-3)*(u-3)) - 8*u*bump
	t.SourceRate[0] = 1
	return nil
}

func TestArtificialTimeFindsWhatNewtonDoesNot(t *testing.T) {
	s, err := NewSystem(cube(mesh.Quadrilateral, 2, 0), []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	start := func() *State {
		u := make([]float64, s.N)
		for i := range u {
			u[i] = -1
		}
		return &State{U: u}
	}
	_, mass, err := s.Linearised(steep{}, start())
	require.NoError(t, err)
	_, err = s.Solve(context.Background(), steep{}, start(), nil, &NewtonSettings{Kind: sparse.Symmetric})
	require.Error(t, err, "a start from which Newton's method alone gets stuck")
	at := start()
	r, err := s.Solve(context.Background(), steep{}, at, nil, &NewtonSettings{Kind: sparse.Symmetric, Artificial: &Artificial{First: 0.1, Mass: mass}, MaxSteps: 60})
	require.NoError(t, err)
	assert.True(t, r.Settled)
	for _, v := range at.U {
		assert.InDelta(t, 3, v, 1e-8)
	}
}

// broken fails at a place.
type broken struct{}

func (broken) Cell(p *Point, t *Terms) error {
	if p.X[0] > 0.9 {
		return errors.New("no value of the table there")
	}
	return conduction{}.Cell(p, t)
}

func TestWhatCannotBeSolvedIsSaid(t *testing.T) {
	g := cube(mesh.Quadrilateral, 4, 0)
	s, err := NewSystem(g, []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	at := &State{U: make([]float64, s.N)}
	_, err = s.Solve(context.Background(), broken{}, at, nil, nil)
	assert.ErrorContains(t, err, "no value of the table there")
	// Nothing holds the level.
	k := conduction{source: func([3]float64, float64) float64 { return 1 }}
	_, err = s.Solve(context.Background(), k, at, nil, &NewtonSettings{Kind: sparse.Symmetric})
	var singular *sparse.SingularError
	require.ErrorAs(t, err, &singular)
	assert.Equal(t, 1, singular.Dimension)
	stopped, cancel := context.WithCancel(context.Background())
	cancel()
	_, err = s.Solve(stopped, k, at, nil, nil)
	assert.ErrorIs(t, err, context.Canceled)
	// A cell turned inside out.
	cells := g.Blocks[0].Cells
	cells[0], cells[1] = cells[1], cells[0]
	assert.ErrorIs(t, g.Check(), ErrInverted)
	assert.ErrorIs(t, s.Assemble(k, at, make([]float64, s.N), nil), ErrInverted)
}

func TestErrorsOfFluxesThatJumpBetweenParts(t *testing.T) {
	g := cube(mesh.Quadrilateral, 4, 0)
	s, err := NewSystem(g, []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	u := make([]float64, s.N)
	s.Interpolate(u, 0, 0, func(x [3]float64) float64 { return max(x[0]-0.5, 3*(x[0]-0.5)) })
	e, err := s.FluxError(&State{U: u}, nil, each(gradients))
	require.NoError(t, err)
	assert.Less(t, e.Relative(), 1e-12, "constant within each part")
	e, err = s.FluxError(&State{U: u}, map[int32]bool{1: true}, each(gradients))
	require.NoError(t, err)
	assert.InDelta(t, 3*math.Sqrt(0.5), e.Norm, 1e-12, "of one part alone")
}

func gradients(points []Point, out [][]float64) error {
	for i := range points {
		for d, g := range points[i].Grad[0] {
			out[d][i] = g
		}
	}
	return nil
}
