package fem

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/mesh"
	"saltkettle/core/sparse"
)

func TestNewtonIsQuadratic(t *testing.T) {
	g := cube(mesh.Quadrilateral, 8, 0.1)
	s, err := NewSystem(g, []Field{{Name: "u", Components: 1}}, nil)
	require.NoError(t, err)
	// (1 + 2u)·u' is constant along x.
	exact := func(x [3]float64) float64 { return (math.Sqrt(1+8*x[0]) - 1) / 2 }
	u, r := solved(t, s, conduction{slope: 2}, func(c *Constraints) { s.Hold(c, 0, 0, g.edge(), exact) }, sparse.Unsymmetric)
	assert.Less(t, misfit(t, s, u, exact), 0.01)
	assert.True(t, r.Settled)
	n := len(r.Residuals)
	require.GreaterOrEqual(t, n, 4)
	// Of the last residuals above round-off each is at most about the square of the
	// one before.
	for i := 2; i < n; i++ {
		if r.Residuals[i] > 1e-13 && r.Residuals[i-1] < 0.1 {
			assert.Less(t, r.Residuals[i], 20*r.Residuals[i-1]*r.Residuals[i-1])
		}
	}
	var sum, size float64
	for _, q := range r.Reaction {
		sum += q
		size += math.Abs(q)
	}
	assert.Less(t, math.Abs(sum), 1e-11*size, "what enters leaves")
}

func TestTangentChecker(t *testing.T) {
	p := &Point{U: []float64{0.7}, Grad: [][3]float64{{0.2, -0.4, 0.9}}, Rate: []float64{1.3}}
	worst, _, err := CheckTangent(conduction{slope: 0.8, capacity: 2}, p, -1)
	require.NoError(t, err)
	assert.Less(t, worst, 1e-7)
	worst, what, err := CheckTangent(wrong{}, p, -1)
	require.NoError(t, err)
	assert.Greater(t, worst, 0.1)
	assert.Equal(t, "derivative of flux by value of component 0 by component 0", what)
}

// wrong forgets that its conductivity depends on u.
type wrong struct{}

func (wrong) Cell(p *Point, t *Terms) error {
	_ = conduction{slope: 0.8}.Cell(p, t)
	t.FluxU[0] = [3]float64{}
	return nil
}

// TestAFarStartDoesNotLoosenTheEnd: a start that is very far off makes the first
// residual huge; the reactions of the solution balance all the same.
func TestAFarStartDoesNotLoosenTheEnd(t *testing.T) {
	g := cube(mesh.Quadrilateral, 8, 0.1)
	s, err := NewSystem(g, []Field{{Name: "u", Components: 1}}, nil)
	require.NoError(t, err)
	c := s.NewConstraints()
	s.Hold(c, 0, 0, g.edge(), func(x [3]float64) float64 { return 1e-3 * x[0] })
	at := &State{U: make([]float64, s.N)}
	for i := range at.U {
		at.U[i] = 1e6 * math.Abs(math.Sin(float64(i)))
	}
	r, err := s.Solve(t.Context(), conduction{}, at, c, &NewtonSettings{Tolerance: 1e-9})
	require.NoError(t, err)
	var sum, size float64
	for _, q := range r.Reaction {
		sum += q
		size += math.Abs(q)
	}
	assert.Less(t, math.Abs(sum), 1e-8*size, "what enters leaves")
	for i, fixed := range c.Fixed {
		if !fixed {
			assert.Less(t, math.Abs(r.Reaction[i]), 1e-8*size)
		}
	}
}

// TestAResidualAtRoundOffIsTheEnd: a great level with a small difference leaves a
// residual that cannot fall to the tolerance; one that stands still above round-off is
// no solution.
func TestAResidualAtRoundOffIsTheEnd(t *testing.T) {
	g := cube(mesh.Quadrilateral, 8, 0.1)
	s, err := NewSystem(g, []Field{{Name: "u", Components: 1}}, nil)
	require.NoError(t, err)
	exact := func(x [3]float64) float64 { return 1e4 + 1e-4*x[0] }
	solve := func(linear func(ctx context.Context, a *sparse.CSR, x, b []float64, tolerance float64) error) (*NewtonResult, error) {
		c := s.NewConstraints()
		s.Hold(c, 0, 0, g.edge(), exact)
		at := &State{U: make([]float64, s.N)}
		for i := range at.U {
			at.U[i] = 1e4
		}
		return s.Solve(t.Context(), conduction{slope: 1e-9}, at, c, &NewtonSettings{Tolerance: 1e-13, Linear: linear, Kind: sparse.Unsymmetric})
	}
	r, err := solve(nil)
	require.NoError(t, err)
	assert.True(t, r.Settled)
	assert.Less(t, r.Steps, 5)
	assert.Greater(t, r.Residuals[len(r.Residuals)-1], 1e-13, "the tolerance is below round-off")
	assert.Less(t, r.Residuals[len(r.Residuals)-1], 1e-6)

	direct := &Direct{Kind: sparse.Unsymmetric}
	steps := 0
	_, err = solve(func(ctx context.Context, a *sparse.CSR, x, b []float64, tolerance float64) error {
		if steps++; steps > 1 { // a solver that leads nowhere
			for i := range x {
				x[i] = 1e-8 * float64(i%3-1)
			}
			return nil
		}
		if err := direct.Solve(ctx, a, x, b, tolerance); err != nil {
			return err
		}
		for i := range x {
			x[i] *= 1 - 1e-6
		}
		return nil
	})
	assert.ErrorIs(t, err, ErrNotSettled)
}

// saturating is a flux that grows by less and less, the slope of a convex energy: 2·g/√(1 + (g/knee)²) + g/1000. It may say so.
type saturating struct {
	knee     float64
	descends bool
}

func (k saturating) Descends() bool { return k.descends }

func (k saturating) Cell(p *Point, t *Terms) error {
	g := p.Grad[0]
	long := math.Sqrt(g[0]*g[0] + g[1]*g[1] + g[2]*g[2])
	root := math.Sqrt(1 + long*long/(k.knee*k.knee))
	ratio, slope := 2/root+1e-3, -2/(root*root*root*k.knee*k.knee)
	t.Source[0] = -1
	for i := range g {
		t.Flux[0][i] = ratio * g[i]
		t.FluxGrad[0][i][i] = ratio
		for j := range g {
			t.FluxGrad[0][i][j] += slope * g[i] * g[j]
		}
	}
	return nil
}

// TestStepsDownAnEnergy lead to the same solution as those that the residual judges, in fewer steps.
func TestStepsDownAnEnergy(t *testing.T) {
	var steps [2]int
	var ends [2][]float64
	for i, descends := range []bool{false, true} {
		g := cube(mesh.Quadrilateral, 12, 0.1)
		s, err := NewSystem(g, []Field{{Name: "u", Components: 1}}, nil)
		require.NoError(t, err)
		kernel := saturating{knee: 0.02, descends: descends}
		worst, _, err := CheckTangent(kernel, &Point{U: []float64{0}, Grad: [][3]float64{{0.02, -0.01, 0}}, Rate: []float64{0}}, -1)
		require.NoError(t, err)
		require.Less(t, worst, 1e-4)
		u, r := solved(t, s, kernel, func(c *Constraints) { s.Hold(c, 0, 0, g.edge(), func([3]float64) float64 { return 0 }) }, sparse.Symmetric)
		assert.True(t, r.Settled)
		steps[i], ends[i] = r.Steps, u
	}
	assert.InDeltaSlice(t, ends[0], ends[1], 1e-7)
	assert.Less(t, steps[1], steps[0])
}
