package electric

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/mesh"
	"saltkettle/core/physics/heat"
	"saltkettle/core/shape"
)

func fix(si float64) Law { return formula.Fixed(si) }

func lawOf(text string, args ...any) Law {
	f, err := formula.Parse(fmt.Sprintf(text, args...))
	if err != nil {
		panic(err)
	}
	p, err := f.Compile(formula.Environment{Variables: law.Variables})
	if err != nil {
		panic(err)
	}
	return p
}

const width, height = 0.004, 0.002

// rods lays boxes of 4 × 2 mm end to end along x.
func rods(t *testing.T, size float64, lengths ...float64) *mesh.Mesh {
	t.Helper()
	var bodies []mesh.StackBody
	x := 0.0
	for i, l := range lengths {
		o, err := shape.Rectangle(l, width)
		require.NoError(t, err)
		bodies = append(bodies, mesh.StackBody{Body: shape.Body{Part: i, Outline: o.Move(x+l/2, 0, 0), Z1: height}, Size: size, Across: 1})
		x += l
	}
	m, err := mesh.NewStack(bodies, nil)
	require.NoError(t, err)
	return m
}

func facets(m *mesh.Mesh, body int32, side string, other int32) []int32 {
	var list []int32
	for i, f := range m.Facets {
		if f.Body == body && f.OtherBody == other && (m.Sides[f.Side] == side || side == "*") {
			list = append(list, int32(i))
		}
	}
	return list
}

// circuit is heat and current on rods.
type circuit struct {
	mesh     *mesh.Mesh
	heat     []heat.Body
	problem  Problem
	cold     []couple.Held // temperatures
	voltages []couple.Held
	joints   []int32
	order    int
	set      couple.SolveSettings
}

type answer struct {
	*couple.Solution
	kernel *Kernel
	warm   *heat.Kernel // nil without heat
	sum    fem.Kernel
}

// released is the heat that current releases in bodies and at contacts, W, in the accounts of
// heat.
func (a *answer) released(t *testing.T) (bodies, contacts float64) {
	t.Helper()
	in, err := a.Entering(a.warm)
	require.NoError(t, err)
	return in[len(in)-2], in[len(in)-1]
}

// supplies are what heat takes from a current.
func supplies(k *Kernel) (list []couple.Supply) {
	for _, quantity := range []string{couple.HeatCarried, couple.HeatPerVolume, couple.HeatAtJoints} {
		list = append(list, couple.Supply{Kernel: k, Quantity: quantity, Varies: true})
	}
	return list
}

func (c *circuit) solve(t *testing.T) *answer {
	t.Helper()
	conducts := map[int32]bool{}
	for b := range c.problem.Bodies {
		conducts[b] = true
	}
	potential := couple.Field{Name: "potential", Bodies: conducts, Held: c.voltages}
	for _, q := range c.problem.Contacts {
		potential.Jumps = append(potential.Jumps, q.Facets...)
	}
	set := &couple.Settings{Joints: c.joints, Order: c.order}
	for i := range c.voltages {
		c.voltages[i].Least = law.NoBound
	}
	for _, q := range c.problem.Currents {
		set.Facets = append(set.Facets, q.Facets...)
		potential.Level = append(potential.Level, q.Facets)
	}
	fields := []couple.Field{potential}
	v, h := 0, -1
	if c.heat != nil {
		v, h = 1, 0
		fields = []couple.Field{{Name: "temperature", Start: 300, Held: c.cold}, potential}
	}
	g, err := couple.New(c.mesh, max(len(c.heat), len(c.problem.Bodies)), fields, set)
	require.NoError(t, err)
	k, err := NewKernel(g, &c.problem, v, h, true)
	require.NoError(t, err)
	a := &answer{kernel: k, sum: k}
	straight, symmetric := k.Straight(), k.Symmetric()
	if c.heat != nil {
		w, err := heat.NewKernel(g, &heat.Problem{Bodies: c.heat}, h, supplies(k)...)
		require.NoError(t, err)
		a.sum, a.warm = fem.Sum(w, k), w
		straight, symmetric = straight && w.Straight(), symmetric && w.Symmetric()
	}
	how := c.set
	how.Straight, how.Symmetric = straight, symmetric
	a.Solution, err = g.Solve(t.Context(), a.sum, &how)
	require.NoError(t, err)
	require.True(t, a.Settled, "residuals %v", a.Residuals)
	return a
}

// TestRodWithHeldEnds: the peak rise of a rod with a voltage between ends at one
// temperature is V²σ/(8k), in the middle, whatever its length; all electric power
// leaves through the ends as heat. On cells of order 2 the parabola is exact.
func TestRodWithHeldEnds(t *testing.T) {
	const l, rho, k, volts = 0.05, 2e-7, 60.0, 0.05
	for _, c := range []struct {
		order int
		size  float64
		close float64
	}{{1, 1.5e-3, 2e-3}, {2, 4e-3, 1e-8}} {
		m := rods(t, c.size, l)
		left, right := facets(m, 0, "left", -1), facets(m, 0, "right", -1)
		s := (&circuit{mesh: m, heat: []heat.Body{heat.Isotropic(fix(k))}, order: c.order,
			problem:  Problem{Bodies: map[int32]Body{0: {Resistivity: fix(rho)}}},
			cold:     []couple.Held{{Facets: left, Value: fix(300)}, {Facets: right, Value: fix(300)}},
			voltages: []couple.Held{{Facets: left, Value: fix(0)}, {Facets: right, Value: fix(volts)}}}).solve(t)
		_, most := s.Extremes(0)
		assert.InEpsilon(t, volts*volts/rho/(8*k), most.Value-300, c.close)
		current := volts * width * height / (rho * l)
		assert.InEpsilon(t, current, s.Held[3], 1e-9)
		power, contacts := s.released(t)
		alone, err := s.kernel.Power(s.Solution, map[int32]bool{0: true})
		require.NoError(t, err)
		assert.InEpsilon(t, power, alone, 1e-12)
		assert.Zero(t, contacts)
		assert.InEpsilon(t, volts*current, power, 1e-9)
		assert.InEpsilon(t, power, -s.Held[0]-s.Held[1], 1e-8)
	}
}

// TestResistivityOfTemperature: with ρ = ρ₀(1 + αθ), θ the rise above the ends, and
// constant k the rod with a given current I has θ = (cos(ml/2 − mx)/cos(ml/2) − 1)/α,
// m² = ρ₀αj²/k (H. S. Carslaw, J. C. Jaeger, Conduction of Heat in Solids, 2nd ed.,
// 1959, section 4.10 with an α that is positive). Newton's method doubles its digits.
func TestResistivityOfTemperature(t *testing.T) {
	const l, rho, alpha, k, current = 0.05, 5e-7, 4e-3, 40.0, 55.0
	j := current / (width * height)
	mm := math.Sqrt(rho*alpha/k) * j
	peak := (1/math.Cos(mm*l/2) - 1) / alpha
	require.Less(t, mm*l/2, 1.4, "below runaway")
	var errors []float64
	for _, size := range []float64{3e-3, 1.5e-3} {
		m := rods(t, size, l)
		left, right := facets(m, 0, "left", -1), facets(m, 0, "right", -1)
		s := (&circuit{mesh: m, heat: []heat.Body{heat.Isotropic(fix(k))},
			problem: Problem{Bodies: map[int32]Body{0: {Resistivity: lawOf("%g Ω·m*(1 + %g/K*(temperature - 300 K))", rho, alpha)}},
				Currents: []Current{{right, fix(current)}}},
			cold:     []couple.Held{{Facets: left, Value: fix(300)}, {Facets: right, Value: fix(300)}},
			voltages: []couple.Held{{Facets: left, Value: fix(0)}}}).solve(t)
		_, most := s.Extremes(0)
		errors = append(errors, math.Abs((most.Value-300)/peak-1))
		assert.InEpsilon(t, -current, s.Held[2], 1e-8, "it leaves at the other terminal")
		n := len(s.Residuals)
		assert.Less(t, s.Residuals[n-1], max(1e-10, math.Pow(s.Residuals[n-2], 1.4)), "residuals %v", s.Residuals)
	}
	assert.Less(t, errors[1], 0.01)
	assert.Greater(t, math.Log2(errors[0]/errors[1]), 1.5)
}

// TestContactResistance: two rods with a resistance between them carry V/(R₁ + R₂ +
// R_c), and the power of the contact goes half to either side.
func TestContactResistance(t *testing.T) {
	const rho, rc, volts = 2e-7, 4e-9, 0.02
	m := rods(t, 2e-3, 0.02, 0.03)
	gap := facets(m, 0, "*", 1)
	left, right := facets(m, 0, "left", -1), facets(m, 1, "right", -1)
	s := (&circuit{mesh: m, joints: gap, heat: []heat.Body{heat.Isotropic(fix(60)), heat.Isotropic(fix(60))},
		problem: Problem{Bodies: map[int32]Body{0: {Resistivity: fix(rho)}, 1: {Resistivity: fix(rho)}},
			Contacts: []Contact{{gap, fix(rc)}}},
		cold:     []couple.Held{{Facets: left, Value: fix(300)}, {Facets: right, Value: fix(300)}},
		voltages: []couple.Held{{Facets: left, Value: fix(0)}, {Facets: right, Value: fix(volts)}}}).solve(t)
	current := volts * width * height / (rho*0.05 + rc)
	assert.InEpsilon(t, current, s.Held[3], 1e-8)
	bodies, contacts := s.released(t)
	assert.InEpsilon(t, current*current*rc/(width*height), contacts, 1e-8)
	assert.InEpsilon(t, volts*current, bodies+contacts, 1e-8)
	assert.InEpsilon(t, volts*current, -s.Held[0]-s.Held[1], 1e-8)
	through, err := s.Through(1, gap, map[int32]bool{1: true}, s.sum)
	require.NoError(t, err)
	assert.InEpsilon(t, current, through, 1e-8, "it flows from the second rod into the first")
}

// TestThermoelectricLeg: a leg with constant properties between Tc and Th takes up
// S·Tc·I − I²R/2 − KΔT at its cold end.
func TestThermoelectricLeg(t *testing.T) {
	const l, rho, k, seebeck, cold, hot, current = 0.004, 1e-5, 1.5, 200e-6, 280.0, 300.0, 1.5
	m := rods(t, 0.4e-3, l)
	left, right := facets(m, 0, "left", -1), facets(m, 0, "right", -1)
	s := (&circuit{mesh: m, order: 2, heat: []heat.Body{heat.Isotropic(fix(k))},
		problem: Problem{Bodies: map[int32]Body{0: {Resistivity: fix(rho), Seebeck: fix(seebeck)}},
			Currents: []Current{{left, fix(current)}}},
		cold:     []couple.Held{{Facets: left, Value: fix(cold)}, {Facets: right, Value: fix(hot)}},
		voltages: []couple.Held{{Facets: right, Value: fix(0)}}}).solve(t)
	area := width * height
	r, kk := rho*l/area, k*area/l
	assert.InEpsilon(t, seebeck*cold*current-current*current*r/2-kk*(hot-cold), s.Held[0], 1e-7)
	assert.InEpsilon(t, -(seebeck*hot*current + current*current*r/2 - kk*(hot-cold)), s.Held[1], 1e-7)
	potential := s.AtNodes(1, 0)[m.Facets[left[0]].Nodes[0]]
	assert.InEpsilon(t, current*r+seebeck*(hot-cold), potential, 1e-7)
	power, _ := s.released(t)
	assert.InEpsilon(t, power, -s.Held[0]-s.Held[1], 1e-7, "what goes in comes out")
}

// TestWaysToSolveAgree: a leg between straps is solved by factorisation, by iterations,
// and by factorisation after iterations that were not enough, to the same fields.
func TestWaysToSolveAgree(t *testing.T) {
	m := rods(t, 0.5e-3, 0.002, 0.004, 0.002)
	left, right := facets(m, 0, "left", -1), facets(m, 2, "right", -1)
	solve := func(set couple.SolveSettings) *answer {
		strap := Body{Resistivity: fix(2e-8)}
		return (&circuit{mesh: m, heat: []heat.Body{heat.Isotropic(fix(380)), heat.Isotropic(fix(1.5)), heat.Isotropic(fix(380))},
			problem: Problem{Bodies: map[int32]Body{0: strap, 1: {Resistivity: lawOf("1e-5 Ω·m*temperature/300 K"), Seebeck: fix(200e-6)}, 2: strap},
				Currents: []Current{{left, fix(1.5)}}},
			cold:     []couple.Held{{Facets: left, Value: fix(280)}, {Facets: right, Value: fix(300)}},
			voltages: []couple.Held{{Facets: right, Value: fix(0)}}, set: set}).solve(t)
	}
	direct := solve(couple.SolveSettings{})
	iterated := solve(couple.SolveSettings{DirectUnknowns: 1})
	fallen := solve(couple.SolveSettings{DirectUnknowns: 1, Patience: 2})
	assert.Zero(t, direct.Linear.Iterations)
	assert.Positive(t, iterated.Linear.Iterations)
	assert.Equal(t, 2, fallen.Linear.Iterations, "it gives up iterating once and for all")
	assert.Contains(t, iterated.Method, "minimal residuals")
	assert.Contains(t, fallen.Method, "factorisation")
	for _, other := range []*answer{iterated, fallen} {
		for f := range 2 {
			want, got := direct.AtNodes(f, 0), other.AtNodes(f, 0)
			assert.InDeltaSlice(t, want, got, 1e-7*math.Abs(want[0]))
		}
	}
}

// TestTangents compares all derivatives with differences.
func TestTangents(t *testing.T) {
	m := rods(t, 2e-3, 0.02)
	left := facets(m, 0, "left", -1)
	g, err := couple.New(m, 1, []couple.Field{{Name: "temperature"}, {Name: "potential"}}, &couple.Settings{Facets: left})
	require.NoError(t, err)
	for _, b := range []Body{{Resistivity: lawOf("1e-5 Ω·m*(temperature/300 K)^2")}, {Resistivity: lawOf("1e-5 Ω·m*temperature/300 K"), Seebeck: lawOf("200 µV/K*(temperature/300 K)^0.5")}} {
		k, err := NewKernel(g, &Problem{Bodies: map[int32]Body{0: b}, Currents: []Current{{left, fix(3)}}}, 1, 0, true)
		require.NoError(t, err)
		warm, err := heat.NewKernel(g, &heat.Problem{Bodies: []heat.Body{heat.Isotropic(lawOf("30 W/(m·K)*temperature/300 K"))}}, 0, supplies(k)...)
		require.NoError(t, err)
		both := fem.Sum(warm, k)
		for side := -1; side <= 0; side++ {
			p := &fem.Point{X: [3]float64{0.01, 0.001, 0.001}, U: []float64{350, 0.2}, Grad: [][3]float64{{120, -40, 77}, {-2, 0.4, 1}}, Rate: make([]float64, 2)}
			worst, what, err := fem.CheckTangent(both, p, side)
			require.NoError(t, err)
			assert.Less(t, worst, 1e-5, what)
		}
	}
}
