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

// TestPolishedToRoundOff: a few whole steps more from a coarse tolerance; what is held stays.
func TestPolishedToRoundOff(t *testing.T) {
	g := cube(mesh.Quadrilateral, 8, 0.1)
	s, err := NewSystem(g, []Field{{Name: "u", Components: 1}}, nil)
	require.NoError(t, err)
	exact := func(x [3]float64) float64 { return (math.Sqrt(1+8*x[0]) - 1) / 2 }
	left := func(polish bool) float64 {
		c := s.NewConstraints()
		s.Hold(c, 0, 0, g.edge(), exact)
		at := &State{U: make([]float64, s.N)}
		r, err := s.Solve(t.Context(), conduction{slope: 2}, at, c, &NewtonSettings{Tolerance: 1e-2, Kind: sparse.Unsymmetric, Polish: polish})
		require.NoError(t, err)
		sum := 0.0
		for i, q := range r.Reaction {
			if c.Fixed[i] {
				assert.Equal(t, c.Value[i], at.U[i])
			} else {
				sum += q * q
			}
		}
		return math.Sqrt(sum)
	}
	assert.Greater(t, left(false), 1e-9)
	assert.Less(t, left(true), 1e-14)
}

// TestBarsInSpace: gradients on a bar that lies anywhere are those along it, its ends stand for an area of 1, and places on it are found.
func TestBarsInSpace(t *testing.T) {
	g := &Grid{Nodes: []float64{1, 2, 3, 3, 3, 5}, Blocks: []Block{{Element: NewElement(mesh.Bar, 1), Cells: []int32{0, 1}, Part: []int32{0}}}}
	for _, grid := range []*Grid{g, g.Elevated(nil)} {
		sides := []Side{{Block: 0, Cell: 0, Facet: 0}, {Block: 0, Cell: 0, Facet: 1}}
		s, err := NewSystem(grid, []Field{{Name: "u", Components: 1}}, &SystemSettings{Sides: sides})
		require.NoError(t, err)
		u := make([]float64, s.N)
		s.Interpolate(u, 0, 0, func(x [3]float64) float64 { return 9 * x[0] })
		way := [3]float64{2. / 3, 1. / 3, 2. / 3}
		long := 0.0
		require.NoError(t, s.EachCell(&State{U: u}, nil, func(points []Point, weights []float64) error {
			for q := range points {
				long += weights[q]
				for d, a := range way {
					assert.InDelta(t, 6*a, points[q].Grad[0][d], 1e-12, "9 along x is 6 along the bar")
				}
			}
			return nil
		}))
		assert.InDelta(t, 3, long, 1e-12)
		require.NoError(t, s.EachSide(&State{U: u}, sides, func(number int, points []Point, weights []float64) error {
			assert.Equal(t, []float64{1}, weights)
			for d, a := range way {
				assert.InDelta(t, a*float64(2*number-1), points[0].Normal[d], 1e-12, "out of it")
			}
			return nil
		}))
		found := grid.Locate([]float64{2, 2.5, 4, 2, 2.5, 4.1}, OnSide)
		assert.Equal(t, 0, found[0].Cell)
		assert.InDelta(t, 0, found[0].At[0], 1e-12)
		assert.Equal(t, -1, found[1].Cell, "it lies beside the bar")
	}
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
