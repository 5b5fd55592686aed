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

// springs have, in component 0, 4·ü + (2π)²·4·u = 0 and, in component 1, v̇ + v = 0.
type springs struct{ both bool }

func (k springs) Cell(p *Point, t *Terms) error {
	const w = 4 * math.Pi * math.Pi
	t.Source[0] = 4 * (p.Rate[0] + w*p.U[0])
	t.SourceU[t.Index(0, 0)], t.SourceRate[t.Index(0, 0)] = 4*w, 4
	if k.both {
		t.Source[1] = p.Rate[1] + p.U[1]
		t.SourceU[t.Index(1, 1)], t.SourceRate[t.Index(1, 1)] = 1, 1
	}
	return nil
}

// TestSecondRatesAreOfOrderThree: what swings keeps its tone, alone and beside what decays; the
// error falls with the third power of the step, and with the tolerance.
func TestSecondRatesAreOfOrderThree(t *testing.T) {
	run := func(both bool, set TransientSettings) (float64, *TransientResult, *Checkpoint) {
		fields := []Field{{Components: 1}}
		set.Second = []bool{true}
		if both {
			fields, set.Second = append(fields, Field{Components: 1}), []bool{true, false}
		}
		s, err := NewSystem(cube(mesh.Quadrilateral, 1, 0), fields, nil)
		require.NoError(t, err)
		at := &State{U: make([]float64, s.N)}
		for i := range at.U {
			at.U[i] = 1
		}
		set.End = 2.25 // a quarter of a swing further: what is left is its phase
		var half *Checkpoint
		if set.Resume == nil {
			set.Checkpoint = func(c *Checkpoint) {
				if c.Time < 1.2 {
					half = c
				}
			}
		}
		var worst float64
		set.Step = func(s *Step) bool {
			out := make([]float64, len(at.U))
			mid := (s.From + s.To) / 2
			s.At(mid, func(int) bool { return true }, out)
			worst = max(worst, math.Abs(out[0]-math.Cos(2*math.Pi*mid)))
			return false
		}
		r, err := s.March(t.Context(), springs{both}, at, nil, &set)
		require.NoError(t, err)
		worst = max(worst, math.Abs(at.U[0]))
		if both {
			assert.InDelta(t, math.Exp(-2.25), at.U[1], 1e-3)
		}
		return worst, r, half
	}
	for _, both := range []bool{false, true} {
		coarse, _, _ := run(both, TransientSettings{FirstStep: 2.25 / 90, FixedStep: true})
		fine, _, _ := run(both, TransientSettings{FirstStep: 2.25 / 180, FixedStep: true})
		assert.InDelta(t, 3, math.Log2(coarse/fine), 0.2, "%g, %g", coarse, fine)
		loose, few, _ := run(both, TransientSettings{Tolerance: 1e-3, FirstStep: 1e-3})
		tight, many, half := run(both, TransientSettings{Tolerance: 1e-5, FirstStep: 1e-3})
		assert.Less(t, loose, 0.1)
		assert.Less(t, tight, 2e-3)
		assert.Less(t, few.Accepted, many.Accepted)
		resumed, _, _ := run(both, TransientSettings{Tolerance: 1e-5, FirstStep: 1e-3, Resume: half})
		assert.LessOrEqual(t, resumed, tight, "it goes on as it would have")
	}
}
