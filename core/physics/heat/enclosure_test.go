package heat

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/mesh"
	"saltkettle/core/physics/radiation"
	"saltkettle/core/shape"
)

// gap is two square slabs of 40 mm with 20 mm between them, and the kernel of the
// radiation between their inner faces.
func gap(t *testing.T, emissivity Law) (*couple.Group, *Kernel) {
	t.Helper()
	var bodies []mesh.StackBody
	for i, z := range []float64{0, 0.03} {
		o, err := shape.Rectangle(0.04, 0.04)
		require.NoError(t, err)
		bodies = append(bodies, mesh.StackBody{Body: shape.Body{Part: i, Outline: o, Z0: z, Z1: z + 0.01}, Size: 0.012, Across: 1})
	}
	m, err := mesh.NewStack(bodies, nil)
	require.NoError(t, err)
	inner := append(facets(m, 0, "top", -1), facets(m, 1, "bottom", -1)...)
	e := &Enclosure{Facets: inner, Of: make([]int32, len(inner)), Emissivity: []Law{emissivity}, Surroundings: fix(290)}
	var list []radiation.Facet
	for _, k := range inner {
		f := radiation.Facet{Class: m.Facets[k].Body}
		for _, v := range m.Facets[k].Corners() {
			f.Corners = append(f.Corners, [3]float64(m.Nodes[3*v:3*v+3]))
		}
		list = append(list, f)
	}
	e.Views, err = radiation.Compute(t.Context(), list, &radiation.Settings{Rays: 500})
	require.NoError(t, err)
	g, err := couple.New(m, 2, []couple.Field{{Name: "temperature"}}, &couple.Settings{Facets: inner})
	require.NoError(t, err)
	k, err := NewKernel(g, &Problem{Bodies: []Body{Isotropic(fix(5)), Isotropic(fix(5))}, Enclosure: e}, 0)
	require.NoError(t, err)
	return g, k
}

// TestExchangeHasItsWholeTangent compares the matrix, with what stands beside it, with
// differences of the whole residual, along directions that reach over the gap.
func TestExchangeHasItsWholeTangent(t *testing.T) {
	g, k := gap(t, fix(0.7))
	s := g.System
	at := &fem.State{U: make([]float64, s.N)}
	for i := range at.U {
		at.U[i] = 400 + 80*math.Sin(float64(7*i))
	}
	for try := range 3 {
		change := make([]float64, s.N)
		for i := range change {
			change[i] = math.Cos(float64((try + 2) * i))
		}
		residual, tangent := make([]float64, s.N), s.NewMatrix()
		require.NoError(t, s.Assemble(k, at, residual, tangent))
		want := make([]float64, s.N)
		tangent.MulVec(want, change)
		near := append([]float64(nil), want...)
		require.True(t, k.Distant())
		k.AddDistant(want, change)
		const h = 1e-3
		shifted := func(by float64) []float64 {
			u := append([]float64(nil), at.U...)
			for i := range u {
				u[i] += by * change[i]
			}
			out := make([]float64, s.N)
			require.NoError(t, s.Assemble(k, &fem.State{U: u}, out, nil))
			return out
		}
		up, down := shifted(h), shifted(-h)
		var off, beside, size float64
		for i := range want {
			d := (up[i] - down[i]) / (2 * h)
			off, size = off+(d-want[i])*(d-want[i]), size+d*d
			beside += (want[i] - near[i]) * (want[i] - near[i])
		}
		assert.Less(t, math.Sqrt(off/size), 1e-8)
		assert.Greater(t, math.Sqrt(beside/size), 1e-5, "the part beside the matrix is not nothing")
	}
}

// TestExchangeOfOneTemperature: where all have the temperature of the surroundings
// nothing passes, whatever the emissivity; an emissivity that the temperature makes
// negative is refused.
func TestExchangeOfOneTemperature(t *testing.T) {
	g, k := gap(t, lawOf("temperature/900 K"))
	s := g.System
	at := &fem.State{U: make([]float64, s.N)}
	for i := range at.U {
		at.U[i] = 290
	}
	residual := make([]float64, s.N)
	require.NoError(t, s.Assemble(k, at, residual, nil))
	for _, r := range residual {
		assert.InDelta(t, 0, r, 1e-9)
	}
	_, k = gap(t, lawOf("1 - temperature/200 K"))
	assert.ErrorContains(t, s.Assemble(k, at, residual, nil), "emissivity")
}
