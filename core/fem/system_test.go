package fem

import (
	"context"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/mesh"
	"saltkettle/core/sparse"
)

var solidForms = []mesh.Form{mesh.Triangle, mesh.Quadrilateral, mesh.Tetrahedron, mesh.Wedge, mesh.Hexahedron}

func TestPatchOfEveryElement(t *testing.T) {
	for _, form := range solidForms {
		for order := 1; order <= 2; order++ {
			g := cube(form, 3, 0.15)
			if order == 2 {
				g = g.Elevated(nil)
			}
			require.NoError(t, g.Check(), form)
			s, err := NewSystem(g, []Field{{Name: "u", Components: 1}}, nil)
			require.NoError(t, err)
			exact := func(x [3]float64) float64 { return 2 + 3*x[0] - x[1] + 0.5*x[2] }
			u, _ := solved(t, s, conduction{}, func(c *Constraints) { s.Hold(c, 0, 0, g.edge(), exact) }, sparse.Definite)
			assert.Less(t, misfit(t, s, u, exact), 1e-12, "%s of order %d", form, order)
		}
	}
}

func TestOrderOfConvergenceOfEveryElement(t *testing.T) {
	wave := func(x float64) float64 { return math.Sin(math.Pi * x) }
	for _, form := range solidForms {
		dimension := NewElement(form, 1).Dimension
		exact := func(x [3]float64) float64 {
			v := wave(x[0]) * wave(x[1])
			if dimension == 3 {
				v *= wave(x[2])
			}
			return v
		}
		k := conduction{source: func(x [3]float64, _ float64) float64 { return float64(dimension) * math.Pi * math.Pi * exact(x) }}
		for order := 1; order <= 2; order++ {
			var errors [2]float64
			for i, n := range []int{4, 8} {
				g := cube(form, n, 0)
				if order == 2 {
					g = g.Elevated(nil)
				}
				s, err := NewSystem(g, []Field{{Name: "u", Components: 1}}, &SystemSettings{Degree: 4})
				require.NoError(t, err)
				u, _ := solved(t, s, k, func(c *Constraints) { s.Hold(c, 0, 0, g.edge(), exact) }, sparse.Definite)
				errors[i] = misfit(t, s, u, exact)
			}
			found := math.Log2(errors[0] / errors[1])
			assert.InDelta(t, float64(order+1), found, 0.25, "%s of order %d", form, order)
		}
	}
}

// stokes is slow flow: −Δv + ∇p = 0, ∇·v = 0 with components v₁, v₂, p.
type stokes struct{}

func (stokes) Cell(p *Point, t *Terms) error {
	for a := range 2 {
		t.Flux[a] = p.Grad[a]
		t.Flux[a][a] -= p.U[2]
		for d := range 3 {
			t.FluxGrad[t.Index(a, a)][d][d] = 1
		}
		t.FluxU[t.Index(a, 2)][a] = -1
		t.SourceGrad[t.Index(2, a)][a] = -1
	}
	t.Source[2] = -p.Grad[0][0] - p.Grad[1][1]
	return nil
}

func TestSeveralFieldsOfDifferentOrder(t *testing.T) {
	// Flow between plates: v = y(1 − y), p = −2x, which elements of order 2 and 1
	// represent exactly.
	g := cube(mesh.Triangle, 4, 0.1).Elevated(nil)
	s, err := NewSystem(g, []Field{{Name: "v", Components: 2}, {Name: "p", Components: 1, Order: 1}}, nil)
	require.NoError(t, err)
	worst, what, err := CheckTangent(stokes{}, &Point{U: []float64{1, 2, 3}, Grad: make([][3]float64, 3), Rate: make([]float64, 3)}, -1)
	require.NoError(t, err)
	require.Less(t, worst, 1e-6, what)
	u, _ := solved(t, s, stokes{}, func(c *Constraints) {
		s.Hold(c, 0, 0, g.edge(), func(x [3]float64) float64 { return x[1] * (1 - x[1]) })
		s.Hold(c, 0, 1, g.edge(), func([3]float64) float64 { return 0 })
		s.Hold(c, 1, 0, []int32{0}, func([3]float64) float64 { return 0 })
	}, sparse.Symmetric)
	for v := range g.NodeCount() {
		x := g.At(int32(v))
		assert.InDelta(t, x[1]*(1-x[1]), u[s.Equation(0, 0, int32(v))], 1e-11)
		if e := s.Equation(1, 0, int32(v)); e >= 0 {
			assert.InDelta(t, -2*x[0], u[e], 1e-9)
		}
	}
}

func TestFieldsLiveOnParts(t *testing.T) {
	g := cube(mesh.Quadrilateral, 4, 0)
	s, err := NewSystem(g, []Field{{Name: "u", Components: 1}, {Name: "w", Components: 1, Parts: map[int32]bool{1: true}}}, nil)
	require.NoError(t, err)
	assert.Equal(t, 25+15, s.N)
	_, err = NewSystem(g, []Field{{Name: "w", Components: 1, Parts: map[int32]bool{7: true}}}, nil)
	assert.ErrorContains(t, err, "no field lives in any part")
}

func TestPeriodicPairs(t *testing.T) {
	const n = 8
	g := cube(mesh.Quadrilateral, n, 0)
	var ties [][2]int32
	for j := range int32(n + 1) {
		ties = append(ties, [2]int32{j*(n+1) + n, j * (n + 1)})
	}
	s, err := NewSystem(g, []Field{{Name: "u", Components: 1}}, &SystemSettings{Ties: ties})
	require.NoError(t, err)
	assert.Equal(t, n*(n+1), s.N)
	// The source has no mean along x, so that u does neither: u = cos(2πx)/(4π²).
	k := conduction{source: func(x [3]float64, _ float64) float64 { return math.Cos(2 * math.Pi * x[0]) }}
	u, _ := solved(t, s, k, func(c *Constraints) {
		s.Hold(c, 0, 0, []int32{0}, func([3]float64) float64 { return 1 / (4 * math.Pi * math.Pi) })
	}, sparse.Definite)
	e := misfit(t, s, u, func(x [3]float64) float64 { return math.Cos(2*math.Pi*x[0]) / (4 * math.Pi * math.Pi) })
	assert.Less(t, e, 2e-3)
	_, err = NewSystem(g, []Field{{Components: 1}}, &SystemSettings{Ties: [][2]int32{{0, 999}}})
	assert.ErrorContains(t, err, "does not exist")
}

// contact is conduction with a resistance to the passage across joints and an
// exchange with surroundings at sides.
type contact struct {
	conduction
	passage, exchange, around float64
}

func (k contact) Joint(_ int, p *Point, other []float64, t *JointTerms) error {
	t.Source[0] = k.passage * (p.U[0] - other[0])
	t.SourceU[0], t.SourceOther[0] = k.passage, -k.passage
	return nil
}

func (k contact) Side(_ int, p *Point, t *Terms) error {
	t.Source[0] = k.exchange * (p.U[0] - k.around)
	t.SourceU[0] = k.exchange
	return nil
}

func TestJumpsAndSides(t *testing.T) {
	for _, form := range solidForms {
		for order := 1; order <= 2; order++ {
			g, origin := cube(form, 2, 0).Split(map[int32]bool{1: true})
			if order == 2 {
				g = g.Elevated(nil)
			}
			assert.NotEmpty(t, origin)
			// The sides at the gap, matched by their middles.
			middle := func(s Side) (m [3]float64) {
				list := g.SideNodes(s)
				for _, v := range list {
					for d, x := range g.At(v) {
						m[d] += x / float64(len(list))
					}
				}
				return m
			}
			var sides []Side
			var joints []Joint
			var gap []Side
			for _, s := range g.Sides() {
				m := middle(s)
				switch {
				case m[0] > 1-1e-9:
					sides = append(sides, s)
				case math.Abs(m[0]-0.5) < 1e-9:
					gap = append(gap, s)
				}
			}
			for _, a := range gap {
				for _, b := range gap {
					pa, pb := g.Blocks[0].Part[a.Cell], g.Blocks[0].Part[b.Cell]
					if pa == 0 && pb == 1 && distance(middle(a), middle(b)) < 1e-9 {
						joints = append(joints, Joint{a, b})
					}
				}
			}
			require.NotEmpty(t, joints)
			s, err := NewSystem(g, []Field{{Name: "u", Components: 1}}, &SystemSettings{Sides: sides, Joints: joints})
			require.NoError(t, err)
			// Resistances in series: 0.5 + 1/4 + 0.5 + 1/2, driven by 7.
			k := contact{passage: 4, exchange: 2, around: 7}
			var held []int32
			for v := range g.NodeCount() {
				if g.Nodes[3*v] < 1e-12 {
					held = append(held, int32(v))
				}
			}
			u, r := solved(t, s, k, func(c *Constraints) { s.Hold(c, 0, 0, held, func([3]float64) float64 { return 0 }) }, sparse.Definite)
			var through float64
			for _, v := range held {
				through += r.Reaction[s.Equation(0, 0, v)]
			}
			assert.InDelta(t, -4, through, 1e-11, "%s of order %d", form, order)
			sum, err := s.Integrate(&State{U: u}, map[int32]bool{1: true}, func(p *Point) float64 { return p.U[0] })
			require.NoError(t, err)
			assert.InDelta(t, 0.5*(3+5)/2, sum, 1e-11, "beyond the jump")
			rates, err := s.Inertia(k, &State{U: u})
			require.NoError(t, err)
			assert.Zero(t, slices.Max(rates.Data), "what passes is no matter of rates")
			assert.Zero(t, slices.Min(rates.Data))
		}
	}
}

func TestAxialSpaceAndCurvedEdges(t *testing.T) {
	// A quarter of a disc of radius 1 on elements of order 2 with nodes on the arc.
	const n = 4
	g := cube(mesh.Quadrilateral, n, 0)
	for v := range g.NodeCount() {
		x, y := g.Nodes[3*v], g.Nodes[3*v+1]
		r := math.Max(x, y)
		if d := math.Hypot(x, y); d > 0 {
			g.Nodes[3*v], g.Nodes[3*v+1] = x/d*r, y/d*r
		}
	}
	area := func(g *Grid) float64 {
		s, err := NewSystem(g, []Field{{Components: 1}}, nil)
		require.NoError(t, err)
		a, err := s.Integrate(&State{U: make([]float64, s.N)}, nil, func(*Point) float64 { return 1 })
		require.NoError(t, err)
		return a
	}
	straight := math.Abs(area(g) - math.Pi/4)
	curved := g.Elevated(func(x [3]float64) [3]float64 {
		r := math.Hypot(x[0], x[1])
		if r < 0.95 || x[0] < 1e-9 || x[1] < 1e-9 {
			return x
		}
		return [3]float64{x[0] / r, x[1] / r}
	})
	assert.Less(t, math.Abs(area(curved)-math.Pi/4), straight/100)
	axial := cube(mesh.Triangle, 3, 0.1)
	axial.Measure = Around
	assert.InDelta(t, math.Pi, area(axial), 1e-13, "a full cylinder")
	flat := cube(mesh.Triangle, 3, 0.1)
	flat.Measure = Deep(0.3)
	assert.InDelta(t, 0.3, area(flat), 1e-14)
}

func TestErrorEstimate(t *testing.T) {
	exact := func(x [3]float64) float64 { return math.Sin(math.Pi*x[0]) * math.Sin(math.Pi*x[1]) }
	k := conduction{source: func(x [3]float64, _ float64) float64 { return 2 * math.Pi * math.Pi * exact(x) }}
	g := cube(mesh.Quadrilateral, 16, 0)
	s, err := NewSystem(g, []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	u, _ := solved(t, s, k, func(c *Constraints) { s.Hold(c, 0, 0, g.edge(), exact) }, sparse.Definite)
	e, err := s.FluxError(&State{U: u}, nil, each(gradients))
	require.NoError(t, err)
	sum, err := s.Integrate(&State{U: u}, nil, func(p *Point) float64 {
		dx := p.Grad[0][0] - math.Pi*math.Cos(math.Pi*p.X[0])*math.Sin(math.Pi*p.X[1])
		dy := p.Grad[0][1] - math.Pi*math.Sin(math.Pi*p.X[0])*math.Cos(math.Pi*p.X[1])
		return dx*dx + dy*dy
	})
	require.NoError(t, err)
	assert.InEpsilon(t, math.Sqrt(sum), e.Total, 0.15, "estimated like the true error")
	var all [3]float64
	for _, c := range e.Cells[0] {
		for d, v := range c {
			all[d] += v
		}
	}
	assert.InEpsilon(t, all[0], all[1], 0.02, "nearly the same along both axes: the parts meet across x")
	assert.InEpsilon(t, e.Total*e.Total, all[0]+all[1], 1e-12)
}

func TestModesAndHarmonicResponse(t *testing.T) {
	const n = 10
	g := cube(mesh.Quadrilateral, n, 0).Elevated(nil)
	s, err := NewSystem(g, []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	c := s.NewConstraints()
	s.Hold(c, 0, 0, g.edge(), func([3]float64) float64 { return 0 })
	stiffness, mass, err := s.Linearised(conduction{capacity: 1}, &State{U: make([]float64, s.N)})
	require.NoError(t, err)
	values, vectors, err := s.Modes(context.Background(), stiffness, mass, c, 5)
	require.NoError(t, err)
	for i, want := range []float64{2, 5, 5, 8, 10} {
		assert.InEpsilon(t, want*math.Pi*math.Pi, values[i], 1e-3)
	}
	// Driven in the shape of a mode the response is that of one oscillator.
	f, load := make([]float64, s.N), make([]complex128, s.N)
	mass.MulVec(f, vectors[0])
	for i, v := range f {
		load[i] = complex(v, 0)
	}
	const omega, damping = 4.0, 0.3
	d := mass.Clone()
	for i := range d.Data {
		d.Data[i] *= damping
	}
	r, err := s.NewResponse(Response{Stiffness: stiffness, Damping: d, Mass: mass, Load: load, Constraints: c})
	require.NoError(t, err)
	x, err := amplitudes(t, r, omega)
	require.NoError(t, err)
	factor := 1 / complex(values[0]-omega*omega, omega*damping)
	for i, v := range vectors[0] {
		want := factor * complex(v, 0)
		assert.InDelta(t, real(want), real(x[i]), 1e-9)
		assert.InDelta(t, imag(want), imag(x[i]), 1e-9)
	}
}
