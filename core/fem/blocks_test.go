package fem

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/mesh"
)

// TestBlocksAreTheMatrix: the residual and the tangent in blocks are those of the unknowns, of cells of every form, with
// sides, a field that lives in one part only and one that is given.
func TestBlocksAreTheMatrix(t *testing.T) {
	for _, form := range solidForms {
		g := cube(form, 3, 0.15)
		for bi := range g.Blocks {
			for cell := range g.Blocks[bi].Part {
				if g.At(g.Blocks[bi].Nodes(cell)[0])[0] > 0.5 {
					g.Blocks[bi].Part[cell] = 1
				}
			}
		}
		var outer []Side
		for _, s := range g.Sides() {
			if s.Other < 0 {
				outer = append(outer, s)
			}
		}
		s, err := NewSystem(g, []Field{{Components: 1, Parts: map[int32]bool{1: true}}, {Components: 2}, {Components: 3, Given: true}}, &SystemSettings{Sides: outer})
		require.NoError(t, err)
		rng := rand.New(rand.NewPCG(3, 4))
		at := &State{U: make([]float64, s.N), Rate: make([]float64, s.N), RateSlope: 2}
		for i := range at.U {
			at.U[i], at.Rate[i] = rng.NormFloat64(), rng.NormFloat64()
		}
		want, got, tangent := make([]float64, s.N), make([]float64, s.N), s.NewMatrix()
		require.NoError(t, s.Assemble(mixed{}, at, want, tangent))
		b, err := s.NewBlocks()
		require.NoError(t, err)
		assert.Equal(t, 3, b.B)
		m := b.NewMatrix()
		require.NoError(t, b.Assemble(t.Context(), mixed{}, at, got, m))
		for i := range want {
			require.InDelta(t, want[i], got[i], 1e-12, "form %v", form)
		}
		// As products with a vector.
		x, in, out := make([]float64, s.N), make([]float64, m.N()), make([]float64, m.N())
		for e := range x {
			x[e] = rng.NormFloat64()
			in[b.Place[e]] = x[e]
		}
		tangent.MulVec(want, x)
		m.MulVec(out, in)
		for e := range want {
			require.InDelta(t, want[e], out[b.Place[e]], 1e-5*(1+math.Abs(want[e])), "form %v", form)
		}
		// What is held says nothing but its value.
		fixed := make([]bool, s.N)
		fixed[s.N/2] = true
		b.Hold(m, fixed, []float64{2, 1, 1}, []float64{1, 1, 3})
		m.MulVec(out, in)
		assert.InDelta(t, x[s.N/2], out[b.Place[s.N/2]], 1e-6)
	}
	level, err := NewSystem(cube(mesh.Hexahedron, 2, 0), []Field{{Components: 1}}, &SystemSettings{Level: map[int][][]int32{0: {{0, 1}}}})
	require.NoError(t, err)
	_, err = level.NewBlocks()
	assert.Error(t, err)
}

// fading is a linear kernel in time, which says whether the time is in none of its terms.
type fading struct{ timeless bool }

func (f fading) Timeless() bool { return f.timeless }
func (fading) Cell(p *Point, t *Terms) error {
	t.Source[0], t.SourceRate[0], t.SourceU[0] = p.Rate[0]+3*p.U[0]-p.X[0], 1, 3
	t.Flux[0] = p.Grad[0]
	for d := range 3 {
		t.FluxGrad[0][d][d] = 1
	}
	return nil
}

// TestTimelessMarch: steps of equations that are assembled once are those of equations that are assembled at each
// stage, to round-off.
func TestTimelessMarch(t *testing.T) {
	s, err := NewSystem(cube(mesh.Wedge, 3, 0.1), []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	march := func(timeless bool) *State {
		at := &State{U: make([]float64, s.N)}
		s.Interpolate(at.U, 0, 0, func(x [3]float64) float64 { return 1 + x[1]*x[2] })
		c := s.NewConstraints()
		_, err := s.March(t.Context(), fading{timeless}, at, c, &TransientSettings{End: 0.4, Tolerance: 1e-4, Newton: NewtonSettings{Straight: true},
			Constrain: func(time float64, c *Constraints) { c.Fixed[0], c.Value[0] = true, 1+time }})
		require.NoError(t, err)
		return at
	}
	want, got := march(false), march(true)
	assert.True(t, Timeless(fading{true}))
	assert.False(t, Timeless(Sum(fading{true}, fading{false})))
	for i := range want.U {
		require.InDelta(t, want.U[i], got.U[i], 1e-9)
	}
	assert.InDelta(t, 1.4, got.U[0], 1e-9)
}

// TestBlocksOfWhatIsTied: nodes that share their unknowns have a row together, with what both meet.
func TestBlocksOfWhatIsTied(t *testing.T) {
	for _, form := range []mesh.Form{mesh.Quadrilateral, mesh.Hexahedron, mesh.Wedge} {
		for _, order := range []int{1, 2} {
			g := cube(form, 3, 0)
			if order == 2 {
				g = g.Elevated(nil)
			}
			var ties [][2]int32
			for v := range g.NodeCount() {
				x := g.At(int32(v))
				for u := range g.NodeCount() {
					if x[0] == 1 && g.At(int32(u)) == [3]float64{0, x[1], x[2]} {
						ties = append(ties, [2]int32{int32(v), int32(u)})
					}
				}
			}
			require.NotEmpty(t, ties)
			s, err := NewSystem(g, []Field{{Components: 2}, {Components: 1}}, &SystemSettings{Ties: ties})
			require.NoError(t, err)
			rng := rand.New(rand.NewPCG(7, 8))
			at := &State{U: make([]float64, s.N)}
			for i := range at.U {
				at.U[i] = rng.NormFloat64()
			}
			want, got, tangent := make([]float64, s.N), make([]float64, s.N), s.NewMatrix()
			require.NoError(t, s.Assemble(full{}, at, want, tangent))
			b, err := s.NewBlocks()
			require.NoError(t, err)
			assert.Len(t, b.Node, g.NodeCount()-len(ties))
			m := b.NewMatrix()
			require.NoError(t, b.Assemble(t.Context(), full{}, at, got, m))
			x, in, out := make([]float64, s.N), make([]float64, m.N()), make([]float64, m.N())
			for e := range want {
				require.InDelta(t, want[e], got[e], 1e-11*(1+math.Abs(want[e])))
				x[e] = rng.NormFloat64()
				in[b.Place[e]] = x[e]
			}
			tangent.MulVec(want, x)
			m.MulVec(out, in)
			for e, v := range want {
				require.InDelta(t, v, out[b.Place[e]], 1e-4*(1+math.Abs(v)), "form %v, order %d", form, order)
			}
		}
	}
}
