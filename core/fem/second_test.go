package fem

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/mesh"
)

// looker is a kernel that looks at points with second derivatives.
type looker struct{ look func(p *Point) }

func (l looker) Cell(p *Point, _ *Terms) error { l.look(p); return nil }
func (l looker) Seconds() bool                 { return true }

// TestSecondDerivatives: of a polynomial of degree 2 on cells that are sheared they are exact, and
// of one of degree 1 they vanish wherever the corners of cells are.
func TestSecondDerivatives(t *testing.T) {
	want := [6]float64{2, -4, 6, 3, -2, 5}
	poly := func(x [3]float64) float64 {
		return 1 + x[0] - 2*x[1] + (want[0]*x[0]*x[0]+want[1]*x[1]*x[1]+want[2]*x[2]*x[2])/2 + want[3]*x[0]*x[1] + want[4]*x[1]*x[2] + want[5]*x[2]*x[0]
	}
	line := func(x [3]float64) float64 { return 3 - 4*x[0] + 2*x[1] + x[2] }
	for _, form := range []mesh.Form{mesh.Triangle, mesh.Quadrilateral, mesh.Tetrahedron, mesh.Hexahedron, mesh.Wedge} {
		sheared := cube(form, 2, 0).Elevated(nil)
		flat := form == mesh.Triangle || form == mesh.Quadrilateral
		for v := range sheared.NodeCount() {
			p := sheared.Nodes[3*v : 3*v+3]
			p[0], p[1] = p[0]+0.3*p[1], p[1]-0.2*p[0]
			if !flat {
				p[2] += 0.4*p[0] + 0.1*p[1]
			}
		}
		for _, c := range []struct {
			grid  *Grid
			f     func(x [3]float64) float64
			bends bool
		}{{sheared, poly, true}, {cube(form, 2, 0.2).Elevated(nil), line, false}} {
			s, err := NewSystem(c.grid, []Field{{Components: 2}, {Components: 1, Order: 1}}, nil)
			require.NoError(t, err)
			u := make([]float64, s.N)
			s.Interpolate(u, 0, 1, c.f)
			s.Interpolate(u, 1, 0, line)
			count := 0
			require.NoError(t, s.Assemble(looker{func(p *Point) {
				count++
				for k := range want {
					expected := 0.0
					if c.bends && (!flat || pairs[k][0] != 2 && pairs[k][1] != 2) {
						expected = want[k]
					}
					assert.InDelta(t, expected, p.Second[1][k], 1e-9, "form %v, %d", form, k)
					assert.InDelta(t, 0, p.Second[2][k], 1e-9, "of order 1, form %v", form)
				}
			}}, &State{U: u}, make([]float64, s.N), nil))
			assert.Positive(t, count)
		}
	}
}

// TestMetric of cells of a cube that is cut into n along each axis.
func TestMetric(t *testing.T) {
	s, err := NewSystem(cube(mesh.Hexahedron, 4, 0), []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	require.NoError(t, s.Assemble(looker{func(p *Point) {
		g := p.Metric()
		for d := range 3 {
			assert.InDelta(t, 0.25, 2/math.Sqrt(g[d][d]), 1e-12)
		}
	}}, &State{U: make([]float64, s.N)}, make([]float64, s.N), nil))
}

// TestRegularCells: edges of the regular reference cell of every form are 2 long.
func TestRegularCells(t *testing.T) {
	for _, form := range []mesh.Form{mesh.Triangle, mesh.Quadrilateral, mesh.Tetrahedron, mesh.Wedge, mesh.Hexahedron} {
		e := NewElement(form, 1)
		edges := 0
		for _, facet := range e.Facets {
			for i, a := range facet {
				b := facet[(i+1)%len(facet)]
				var d [3]float64
				for r := range 3 {
					for c := range 3 {
						d[r] += e.Regular[r][c] * (e.Nodes[b][c] - e.Nodes[a][c])
					}
				}
				assert.InDelta(t, 2, math.Sqrt(d[0]*d[0]+d[1]*d[1]+d[2]*d[2]), 1e-12, "form %v", form)
				edges++
			}
		}
		assert.Positive(t, edges)
	}
}
