package fem

import (
	"fmt"
	"math"
	"math/cmplx"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/mesh"
)

// TestSweepFollowsResonances: at a hundred frequencies across a dozen resonances, with a load and a share that depend on the frequency in
// ways of their own and something held that swings, the amplitudes are those of the whole system at each, and few of these are solved for.
func TestSweepFollowsResonances(t *testing.T) {
	g := cube(mesh.Quadrilateral, 10, 0).Elevated(nil)
	s, err := NewSystem(g, []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	stiffness, mass, err := s.Linearised(conduction{capacity: 1}, &State{U: make([]float64, s.N)})
	require.NoError(t, err)
	loss := mass.Clone()
	load := make([]float64, s.N)
	for i := range load {
		load[i] = math.Sin(float64(i))
	}
	c := s.NewConstraints()
	s.Hold(c, 0, 0, g.edge(), func(x [3]float64) float64 { return x[0] })
	held := make([]complex128, s.N)
	for i, v := range c.Value {
		held[i] = complex(v, 0)
	}
	for _, symmetric := range []bool{false, true} {
		of := Response{Stiffness: stiffness, Mass: mass, Load: make([]complex128, s.N), Constraints: c, Held: held, Symmetric: symmetric, Shares: []Share{
			{Matrix: loss, Factor: func(omega float64) complex128 { return complex(0, 0.5*math.Sqrt(omega)) }},
			{Load: load, Factor: func(omega float64) complex128 { return cmplx.Exp(complex(0, -0.3*omega)) }}}}
		var omegas []float64
		for i := range 100 {
			omegas = append(omegas, 2+float64(i)*0.12)
		}
		r, err := s.NewResponse(of)
		require.NoError(t, err)
		one, err := s.NewResponse(of)
		require.NoError(t, err)
		next := 0
		solved, wrong, err := r.Sweep(t.Context(), omegas, 1e-6, func(i int, x []complex128) error {
			require.Equal(t, next, i)
			next++
			want, err := amplitudes(t, one, omegas[i])
			require.NoError(t, err)
			most, off := 0., 0.
			for k, v := range want {
				most, off = max(most, cmplx.Abs(v)), max(off, cmplx.Abs(v-x[k]))
			}
			assert.Less(t, off, 1e-6*most, fmt.Sprint(omegas[i]))
			return nil
		})
		require.NoError(t, err)
		assert.Equal(t, 100, next)
		assert.Less(t, solved, 20)
		assert.LessOrEqual(t, wrong, 1e-6)
	}
}

// amplitudes are those at one frequency, by the whole system.
func amplitudes(t *testing.T, r *Response, omega float64) (x []complex128, err error) {
	_, _, err = r.Sweep(t.Context(), []float64{omega}, 0, func(_ int, amplitude []complex128) error {
		x = amplitude
		return nil
	})
	return x, err
}
