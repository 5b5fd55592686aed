package fem

import (
	"context"
	"math"
	"math/cmplx"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/mesh"
	"saltkettle/core/sparse"
)

// decay marches u' = Δu from a mode of a line of elements and returns the error at
// the end against the solution of the equations on the mesh.
func decay(t *testing.T, set TransientSettings) (float64, *TransientResult) {
	g := cube(mesh.Quadrilateral, 6, 0)
	s, err := NewSystem(g, []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	c := s.NewConstraints()
	s.Hold(c, 0, 0, g.edge(), func([3]float64) float64 { return 0 })
	k := conduction{capacity: 20}
	stiffness, mass, err := s.Linearised(k, &State{U: make([]float64, s.N)})
	require.NoError(t, err)
	values, vectors, err := s.Modes(context.Background(), stiffness, mass, c, 1)
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

// TestTableauxMeetTheirOrder checks the conditions of order 3 of both methods and of order 2
// of the formulas beside them (E. Hairer, S. P. Nørsett, G. Wanner, Solving Ordinary
// Differential Equations I, 1993, table II.2.1), that the last stage is the step and that
// both forget what is infinitely stiff.
func TestTableauxMeetTheirOrder(t *testing.T) {
	for name, m := range map[string]*tableau{"starter": starter, "follower": follower} {
		b := m.weights()
		var sum, c1, c2, ac, missed, missedC float64
		for i := range m.c {
			row := 0.0
			for j, a := range m.a[i] {
				row += a
				ac += b[i] * a * m.c[j]
			}
			assert.InDelta(t, m.c[i], row, 1e-14, name)
			sum, c1, c2 = sum+b[i], c1+b[i]*m.c[i], c2+b[i]*m.c[i]*m.c[i]
			missed, missedC = missed+m.miss[i], missedC+m.miss[i]*m.c[i]
		}
		assert.InDelta(t, 1, sum, 1e-14, name)
		assert.InDelta(t, 1./2, c1, 1e-14, name)
		assert.InDelta(t, 1./3, c2, 1e-14, name)
		assert.InDelta(t, 1./6, ac, 1e-14, name)
		assert.InDelta(t, 0, missed, 1e-14, name)
		assert.InDelta(t, 0, missedC, 1e-14, name)
		assert.InDelta(t, 1, m.c[len(m.c)-1], 0, name)
	}
	// At infinity the stability function is 1 − bᵀA⁻¹1 of the implicit stages.
	for _, z := range []float64{-1e8, -1e10} {
		assert.Less(t, math.Abs(amplification(starter, z, 0)), 1e-7)
		assert.Less(t, math.Abs(amplification(follower, z, 1)), 1e-6)
	}
	for _, y := range []float64{0.1, 0.5, 1, 2, 5, 20, 100} {
		for name, m := range map[string]*tableau{"starter": starter, "follower": follower} {
			grown := cmplx.Abs(amplificationOf(m, complex(0, y)))
			assert.LessOrEqual(t, grown, 1+1e-9, "%s is stable for all that swings", name)
		}
	}
}

func amplification(m *tableau, z float64, _ int) float64 {
	return real(amplificationOf(m, complex(z, 0)))
}

// amplificationOf is by what a step multiplies the solution of u' = λu, z = h·λ.
func amplificationOf(m *tableau, z complex128) complex128 {
	u := make([]complex128, len(m.c))
	for i := range m.c {
		if i == 0 && m.explicit {
			u[0] = 1
			continue
		}
		sum := complex(1, 0)
		for j, a := range m.a[i][:i] {
			sum += z * complex(a, 0) * u[j]
		}
		u[i] = sum / (1 - z*complex(diagonal, 0))
	}
	return u[len(u)-1]
}

func TestStepsInTimeAreOfOrderThree(t *testing.T) {
	coarse, _ := decay(t, TransientSettings{FixedStep: true, FirstStep: 0.04})
	fine, _ := decay(t, TransientSettings{FixedStep: true, FirstStep: 0.02})
	assert.InDelta(t, 3, math.Log2(coarse/fine), 0.15)
}

func TestStepsFollowTheTolerance(t *testing.T) {
	before := 0
	for _, tolerance := range []float64{1e-3, 1e-4, 1e-5} {
		e, r := decay(t, TransientSettings{Tolerance: tolerance, FirstStep: 1e-3})
		assert.Less(t, e, 2*tolerance, "the error falls with the tolerance")
		assert.Greater(t, r.Accepted, before, "a smaller error takes more steps")
		before = r.Accepted
	}
	assert.Less(t, before, 60)
}

// TestMarchGoesOnFromCheckpoint: from any of them it takes the same steps to the same end.
func TestMarchGoesOnFromCheckpoint(t *testing.T) {
	var kept []*Checkpoint
	want, whole := decay(t, TransientSettings{FirstStep: 1e-3, Breaks: []float64{0.7}, Checkpoint: func(c *Checkpoint) { kept = append(kept, c) }})
	require.Len(t, kept, whole.Accepted-1)
	for _, c := range kept {
		got, r := decay(t, TransientSettings{FirstStep: 1e-3, Breaks: []float64{0.7}, Resume: c})
		assert.Equal(t, *whole, *r)
		assert.InEpsilon(t, want, got, 1e-9)
	}
	g := cube(mesh.Quadrilateral, 2, 0)
	s, err := NewSystem(g, []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	_, err = s.March(t.Context(), conduction{capacity: 20}, &State{U: make([]float64, s.N)}, nil, &TransientSettings{End: 2, Resume: kept[0]})
	require.ErrorContains(t, err, "other equations")
}

func TestTransientDataThatCannotHold(t *testing.T) {
	g := cube(mesh.Quadrilateral, 2, 0)
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

func TestHeldValuesMayFollowTheTime(t *testing.T) {
	// With a source that feeds the rate, u = t everywhere.
	g := cube(mesh.Triangle, 4, 0.1)
	s, err := NewSystem(g, []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	k := conduction{capacity: 5, source: func([3]float64, float64) float64 { return 5 }}
	c := s.NewConstraints()
	at := &State{U: make([]float64, s.N)}
	var times []float64
	r, err := s.March(context.Background(), k, at, c, &TransientSettings{End: 3,
		Constrain: func(time float64, c *Constraints) {
			s.Hold(c, 0, 0, g.edge(), func([3]float64) float64 { return time })
		},
		Step: func(s *Step) bool {
			times = append(times, s.To)
			return s.To >= 1
		}})
	require.NoError(t, err)
	assert.Less(t, r.Time, 3.0, "ended by the condition")
	assert.Len(t, times, r.Accepted)
	for _, v := range at.U {
		assert.InDelta(t, r.Time, v, 1e-9)
	}
}

func TestStepsThatFailAreTriedShorter(t *testing.T) {
	// A source that grows by itself: u' = u², u(0) = 1, which ends at t = 1.
	s, err := NewSystem(cube(mesh.Quadrilateral, 1, 0), []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	at := &State{U: []float64{1, 1, 1, 1}}
	r, err := s.March(context.Background(), runaway{}, at, nil, &TransientSettings{End: 0.9, FirstStep: 0.5, Tolerance: 1e-6})
	require.NoError(t, err)
	assert.Positive(t, r.Rejected)
	assert.InEpsilon(t, 10, at.U[0], 1e-2)
	at = &State{U: []float64{1, 1, 1, 1}}
	r, err = s.March(context.Background(), runaway{}, at, nil, &TransientSettings{End: 1.2, MaxSteps: 3000})
	require.Error(t, err)
	assert.InDelta(t, 1, r.Time, 0.02, "the time of the runaway")
}

type runaway struct{}

func (runaway) Cell(p *Point, t *Terms) error {
	t.Source[0] = p.Rate[0] - p.U[0]*p.U[0]
	t.SourceU[0], t.SourceRate[0] = -2*p.U[0], 1
	return nil
}

func TestInertiaKeepsEnergyAndHeldUnknowns(t *testing.T) {
	// Three masses in a row between springs, the first held.
	row := func(d, o float64) *sparse.CSR {
		return &sparse.CSR{Rows: []int32{0, 2, 5, 7}, Cols: []int32{0, 1, 0, 1, 2, 1, 2}, Data: []float64{d, o, o, d, o, o, d}}
	}
	mass, stiffness := row(1, 0), row(2, -1)
	u, v := []float64{0, 0.3, -0.1}, []float64{0, 0, 0.5}
	energy := func(u, v []float64) float64 {
		a, b := make([]float64, 3), make([]float64, 3)
		stiffness.MulVec(a, u)
		mass.MulVec(b, v)
		return (sparse.Dot(a, u) + sparse.Dot(b, v)) / 2
	}
	start, calls := energy(u, v), 0
	err := Inertia(context.Background(), mass, nil, stiffness, func(_ float64, f []float64) { clear(f) }, []bool{true, false, false}, u, v, 0.05, 400, NewAlpha(1),
		func(_ float64, u, v []float64) {
			calls++
			assert.Zero(t, u[0])
			assert.InEpsilon(t, start, energy(u, v), 1e-9)
		})
	require.NoError(t, err)
	assert.Equal(t, 400, calls)
	// A constant load is carried by the springs when damping has taken the motion.
	u, v = make([]float64, 3), make([]float64, 3)
	err = Inertia(context.Background(), mass, row(1, 0), stiffness, func(_ float64, f []float64) { f[2] = 3 }, []bool{true, false, false}, u, v, 0.1, 1000, NewAlpha(0.5), nil)
	require.NoError(t, err)
	assert.InDeltaSlice(t, []float64{0, 1, 2}, u, 1e-6)
}
