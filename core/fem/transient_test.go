package fem

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/sparse"
)

// decay marches u' = Δu from a mode of a line of elements and returns the error at
// the end against the solution of the equations on the mesh.
func decay(t *testing.T, set TransientSettings) (float64, *TransientResult) {
	g := cube(Quadrilateral, 6, 0)
	s, err := NewSystem(g, []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	c := s.NewConstraints()
	s.Hold(c, 0, 0, g.edge(), func([3]float64) float64 { return 0 })
	k := conduction{capacity: 20}
	stiffness, mass, err := s.Linearised(k, &State{U: make([]float64, s.N)})
	require.NoError(t, err)
	values, vectors, err := Modes(context.Background(), stiffness, mass, c, 1)
	require.NoError(t, err)
	at := &State{U: append([]float64(nil), vectors[0]...)}
	set.End = 2
	set.Newton.Kind = sparse.Definite
	r, err := s.March(context.Background(), k, at, c, &set)
	require.NoError(t, err)
	assert.InDelta(t, 2, r.Time, 1e-12)
	worst, size := 0.0, 0.0
	for i, v := range at.U {
		worst = max(worst, math.Abs(v-vectors[0][i]*math.Exp(-2*values[0])))
		size = max(size, math.Abs(vectors[0][i]))
	}
	return worst / size, r
}

func TestBackwardDifferencesAreOfOrderTwo(t *testing.T) {
	coarse, _ := decay(t, TransientSettings{FixedStep: true, FirstStep: 0.02})
	fine, _ := decay(t, TransientSettings{FixedStep: true, FirstStep: 0.01})
	assert.InDelta(t, 2, math.Log2(coarse/fine), 0.1)
}

func TestStepsFollowTheTolerance(t *testing.T) {
	before := 0
	for _, tolerance := range []float64{1e-3, 1e-4, 1e-5} {
		e, r := decay(t, TransientSettings{Tolerance: tolerance, FirstStep: 1e-3})
		assert.Less(t, e, 60*tolerance)
		assert.Greater(t, r.Accepted, before, "a smaller error takes more steps")
		before = r.Accepted
	}
	assert.Less(t, before, 400)
}

func TestTransientDataThatCannotHold(t *testing.T) {
	g := cube(Quadrilateral, 2, 0)
	s, err := NewSystem(g, []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	_, err = s.March(context.Background(), conduction{capacity: 1}, &State{U: make([]float64, s.N)}, nil, &TransientSettings{})
	assert.ErrorContains(t, err, "the end must be after the start")
	stopped, cancel := context.WithCancel(context.Background())
	cancel()
	_, err = s.March(stopped, conduction{capacity: 1}, &State{U: make([]float64, s.N)}, nil, &TransientSettings{End: 1})
	assert.ErrorIs(t, err, context.Canceled)
}

func TestInertiaIsOfOrderTwo(t *testing.T) {
	// One oscillator with damping: ü + 0.4·u̇ + 9·u = 0, u(0) = 1.
	one := func(v float64) *sparse.CSR {
		return &sparse.CSR{Rows: []int32{0, 1}, Cols: []int32{0}, Data: []float64{v}}
	}
	w := math.Sqrt(9 - 0.04)
	exact := func(t float64) float64 { return math.Exp(-0.2*t) * (math.Cos(w*t) + 0.2/w*math.Sin(w*t)) }
	run := func(steps int, radius float64) float64 {
		u, v := []float64{1}, []float64{0}
		err := Inertia(context.Background(), one(1), one(0.4), one(9), func(_ float64, f []float64) { clear(f) }, nil, u, v, 4/float64(steps), steps, NewAlpha(radius), nil)
		require.NoError(t, err)
		return math.Abs(u[0] - exact(4))
	}
	for _, radius := range []float64{0, 0.5, 1} {
		assert.InDelta(t, 2, math.Log2(run(200, radius)/run(400, radius)), 0.15, "radius %g", radius)
	}
	assert.Error(t, Inertia(context.Background(), one(1), nil, one(9), nil, nil, []float64{1}, []float64{0}, 0, 1, NewAlpha(1), nil))
}
