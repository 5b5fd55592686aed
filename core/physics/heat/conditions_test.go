package heat

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/physics/convect"
)

// TestOrderTwo: cells of order 2 reach the order 3 in the root mean square, and
// follow a parabola exactly.
func TestOrderTwo(t *testing.T) {
	const l, k, a = 0.04, 3.0, 50.0
	exact := func(x, _, _ float64) float64 { return 300 + a*math.Sin(math.Pi*x/l) }
	var errors []misfit
	for _, size := range []float64{4e-3, 2e-3} {
		m := slabs(t, size, l)
		p := &wall{Mesh: m, Order: 2, Bodies: []Body{Isotropic(fix(k))},
			Sources: []Source{{Bodies: []int32{0}, Volume: lawOf("%g W/m³*sin(pi*x/%g m)", a*k*math.Pi*math.Pi/(l*l), l)}},
			Held:    []held{{append(facets(m, 0, "left", -1), facets(m, 0, "right", -1)...), fix(300)}}}
		s := solve(t, p)
		errors = append(errors, l2(t, s, exact))
		// What passes a plane inside follows from the equations of the cells.
		assert.InEpsilon(t, a*k*math.Pi/l*2e-4, s.Through(t, facets(m, 0, "left", -1), map[int32]bool{0: true}), 1e-4)
	}
	assert.Greater(t, order(errors[0], errors[1]), 2.75)

	m := slabs(t, 5e-3, l)
	p := &wall{Mesh: m, Order: 2, Bodies: []Body{Isotropic(fix(k))}, Sources: []Source{{Bodies: []int32{0}, Total: fix(2)}},
		Held: []held{{append(facets(m, 0, "left", -1), facets(m, 0, "right", -1)...), fix(300)}}}
	q := 2 / (l * 2e-4)
	assert.Less(t, l2(t, solve(t, p), func(x, _, _ float64) float64 { return 300 + q/(2*k)*x*(l-x) }).error, 1e-9)
}

// TestContact: two slabs with a contact resistance between them: the temperature
// jumps there by the flux times the resistance, and what passes is the same on both
// sides. A third body bridges the gap at one edge only if it is said to.
func TestContact(t *testing.T) {
	const r, hot, cold = 2e-3, 400.0, 300.0
	for order := 1; order <= 2; order++ {
		m := slabs(t, 5e-3, 0.02, 0.03)
		gap := facets(m, 0, "*", 1)
		p := &wall{Mesh: m, Order: order, Bodies: []Body{Isotropic(fix(10)), Isotropic(fix(20))},
			Contacts: []Contact{{Facets: gap, Resistance: fix(r)}},
			Held:     []held{{facets(m, 0, "left", -1), fix(hot)}, {facets(m, 1, "right", -1), fix(cold)}}}
		s := solve(t, p)
		flux := (hot - cold) / (0.02/10 + r + 0.03/20)
		assert.InEpsilon(t, flux*2e-4, s.Held[0], 1e-9)
		first, second := map[int32]bool{0: true}, map[int32]bool{1: true}
		assert.InEpsilon(t, flux*2e-4, s.Through(t, gap, first), 1e-8)
		assert.InEpsilon(t, -flux*2e-4, s.Through(t, gap, second), 1e-8)
		temperature := lawOf("temperature")
		jump := s.OnFacets(t, temperature, gap, first).Mean() - s.OnFacets(t, temperature, gap, second).Mean()
		assert.InEpsilon(t, flux*r, jump, 1e-9)
	}
}

// TestRadiation: a plate that a flux heats from behind radiates at εσ(T⁴ − T₀⁴).
func TestRadiation(t *testing.T) {
	const e, around, flux = 0.8, 290.0, 5000.0
	m := slabs(t, 5e-3, 0.03)
	right := facets(m, 0, "right", -1)
	p := &wall{Mesh: m, Bodies: []Body{Isotropic(fix(25))}, Fluxes: []Flux{{Facets: facets(m, 0, "left", -1), Area: fix(flux)}},
		Radiations: []Radiation{{right, fix(e), fix(around)}}}
	s := solve(t, p)
	face := math.Pow(flux/(e*Boltzmann)+math.Pow(around, 4), 0.25)
	assert.InEpsilon(t, face, s.OnFacets(t, lawOf("temperature"), right, map[int32]bool{0: true}).Mean(), 1e-9)
	assert.InEpsilon(t, -flux*2e-4, s.Radiations[0], 1e-9)
	n := len(s.Residuals)
	assert.Less(t, s.Residuals[n-1], max(1e-11, math.Pow(s.Residuals[n-2], 1.5)), "Newton's method doubles the digits")
}

// TestCorrelatedPlate: an upright plate that a flux heats from behind is where the
// correlation and the flux agree, and a correlation outside its range says so.
func TestCorrelatedPlate(t *testing.T) {
	const flux, medium, high = 300.0, 293.15, 0.01
	air := &convect.Fluid{Conductivity: func(float64) float64 { return 0.0263 }, Density: func(t float64) float64 { return 348.4 / t },
		Capacity: func(float64) float64 { return 1007 }, Viscosity: func(float64) float64 { return 1.846e-5 }, Expansion: func(t float64) float64 { return 1 / t }}
	m := slabs(t, 5e-3, 0.03)
	right := facets(m, 0, "right", -1)
	by := func(c convect.Correlation) Convection {
		return Convection{Facets: right, Medium: fix(medium), Correlation: &Correlated{Compute: c, Fluid: air, Length: fix(high)}}
	}
	p := &wall{Mesh: m, Bodies: []Body{Isotropic(fix(25))}, Fluxes: []Flux{{Facets: facets(m, 0, "left", -1), Area: fix(flux)}}, Convections: []Convection{by(convect.VerticalPlate)}}
	s := solve(t, p)
	face := s.OnFacets(t, lawOf("temperature"), right, map[int32]bool{0: true}).Mean()
	h := convect.VerticalPlate(&convect.Case{Fluid: air, Surface: face, Bulk: medium, Length: high}).Coefficient
	assert.InEpsilon(t, flux, h*(face-medium), 1e-7)
	assert.Equal(t, []string{"", ""}, s.kernel.Outside())
	// A level plate of this size is too small for its correlation.
	p.Convections = []Convection{by(convect.LevelPlate)}
	assert.Contains(t, solve(t, p).kernel.Outside()[1], "Ra = ")
}

// TestTangents compares all derivatives with differences.
func TestTangents(t *testing.T) {
	m := slabs(t, 5e-3, 0.02, 0.03)
	right := facets(m, 1, "right", -1)
	all := &Problem{Transient: true,
		Bodies: []Body{
			{Conductivity: [3]Law{lawOf("5 W/(m·K)*temperature/300 K"), lawOf("2 W/(m·K)"), lawOf("3 W/(m·K) + 1 W/(m²·K)*x")}, Turn: 0.4, Density: lawOf("2000 kg/m³*(400 K/temperature)"), Capacity: lawOf("2 J/(kg·K²)*temperature")},
			{Conductivity: [3]Law{fix(4)}, Density: fix(1000), Capacity: fix(500)}},
		Sources: []Source{{Bodies: []int32{0}, Total: lawOf("3 W"), Volume: lawOf("10 W/m³*exp(temperature/100 K)")}},
		Fluxes:  []Flux{{Facets: right, Area: lawOf("3 W/(m²·K)*temperature"), Total: fix(3)}},
		Convections: []Convection{cooled(right, lawOf("2 W/(m²·K²)*temperature"), lawOf("0.5*temperature + 100 K")),
			{Facets: right, Medium: fix(300), Correlation: &Correlated{Compute: convect.AlongPlate, Fluid: &convect.Fluid{Conductivity: func(x float64) float64 { return 1e-4 * x }, Density: func(x float64) float64 { return 350 / x }, Capacity: func(float64) float64 { return 1000 }, Viscosity: func(x float64) float64 { return 6e-8 * x }}, Length: fix(0.1), Speed: fix(3)}}},
		Radiations: []Radiation{{right, lawOf("temperature/900 K"), fix(280)}}}
	g, err := couple.New(m, 2, []couple.Field{{Name: "temperature"}}, &couple.Settings{Facets: right})
	require.NoError(t, err)
	k, err := NewKernel(g, all, 0)
	require.NoError(t, err)
	for side := -1; side <= 0; side++ {
		p := &fem.Point{X: [3]float64{0.01, 0.004, 0.003}, U: []float64{350}, Grad: [][3]float64{{120, -40, 77}}, Rate: []float64{0.3}}
		worst, what, err := fem.CheckTangent(k, p, side)
		require.NoError(t, err)
		assert.Less(t, worst, 1e-6, what)
	}
}

// TestTheTangentOfALayer: its conductivity depends on the mean of both sides.
func TestTheTangentOfALayer(t *testing.T) {
	m := slabs(t, 5e-3, 0.02, 0.03)
	gap := facets(m, 0, "*", 1)
	g, err := couple.New(m, 2, []couple.Field{{Name: "temperature", Jumps: gap}}, &couple.Settings{Joints: gap})
	require.NoError(t, err)
	k, err := NewKernel(g, &Problem{Bodies: []Body{Isotropic(fix(1)), Isotropic(fix(1))},
		Contacts: []Contact{{Facets: gap, Thickness: fix(2e-4), Conductivity: lawOf("2e-4 W/(m·K³)*temperature^2")}}}, 0)
	require.NoError(t, err)
	k = k.Fork().(*Kernel)
	at := func(own, other float64) *fem.JointTerms {
		terms := fem.NewJointTerms(1)
		require.NoError(t, k.Joint(0, &fem.Point{U: []float64{own}}, []float64{other}, terms))
		return terms
	}
	const step = 1e-3
	here := at(350, 310)
	assert.InEpsilon(t, 40*2e-4*330*330/2e-4, here.Source[0], 1e-12)
	assert.InEpsilon(t, (at(350+step, 310).Source[0]-at(350-step, 310).Source[0])/(2*step), here.SourceU[0], 1e-7)
	assert.InEpsilon(t, (at(350, 310+step).Source[0]-at(350, 310-step).Source[0])/(2*step), here.SourceOther[0], 1e-7)
}
