package heat

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/mesh"
	"saltkettle/core/shape"
)

// law compiles a formula of the temperature and the coordinates.
func lawOf(text string, args ...any) Law {
	f, err := formula.Parse(fmt.Sprintf(text, args...))
	if err != nil {
		panic(err)
	}
	p, err := f.Compile(formula.Environment{Variables: quantities})
	if err != nil {
		panic(err)
	}
	return p
}

var temperature = lawOf("temperature")

var quantities = append(append([]formula.Variable{}, law.Variables...), Derived...)

// TestConductivityOfTemperature: with k = k₀(1 + β(T − T₀)) the transformed
// temperature of Kirchhoff, T + β(T − T₀)²/2, is linear (H. S. Carslaw, J. C.
// Jaeger, Conduction of Heat in Solids, 2nd ed., 1959, section 1.6).
func TestConductivityOfTemperature(t *testing.T) {
	const l, k0, beta, cold, hot = 0.05, 15.0, 4e-3, 300.0, 700.0
	kirchhoff := func(t float64) float64 { return (t - cold) + beta*(t-cold)*(t-cold)/2 }
	exact := func(x, _, _ float64) float64 {
		f := kirchhoff(hot) * x / l
		return cold + (math.Sqrt(1+2*beta*f)-1)/beta
	}
	var errors []misfit
	for _, size := range []float64{4e-3, 2e-3, 1e-3} {
		m := slabs(t, size, l)
		p := &wall{Mesh: m, Bodies: []Body{Isotropic(lawOf("%g W/(m·K)*(1 + %g/K*(temperature - %g K))", k0, beta, cold))},
			Held: []held{{facets(m, 0, "left", -1), fix(cold)}, {facets(m, 0, "right", -1), fix(hot)}}}
		s := solve(t, p)
		errors = append(errors, l2(t, s, exact))
		flow := k0 * kirchhoff(hot) / l * 2e-4
		assert.InEpsilon(t, flow, s.Held[1], 1e-4)
		// What passes a section inside is read from the same equations.
		assert.InEpsilon(t, -flow, s.Through(t, facets(m, 0, "right", -1), map[int32]bool{0: true}), 1e-4)
		assert.InEpsilon(t, flow/2e-4, s.InBodies(t, lawOf("heat_flux"), map[int32]bool{0: true}).Mean(), 2e-3)
		assert.LessOrEqual(t, s.Steps, 6)
		// Newton's method doubles the digits at the end.
		n := len(s.Residuals)
		assert.Less(t, s.Residuals[n-1], max(1e-11, math.Pow(s.Residuals[n-2], 1.5)))
	}
	assert.Greater(t, order(errors[0], errors[1]), 1.8)
	assert.Greater(t, order(errors[1], errors[2]), 1.8)
	t.Logf("errors %v", errors)
}

// TestSourceOfTemperature: a sink in proportion to the excess of temperature
// makes the slab a fin, T = T∞ + θ·cosh(m(L − x))/cosh(mL); a source that grows
// with it makes the cosine of the hyperbolic one a circular one.
func TestSourceOfTemperature(t *testing.T) {
	const l, k, medium, root = 0.05, 20.0, 290.0, 350.0
	for _, m2 := range []float64{3000, -800} {
		shape := math.Cosh
		mm := math.Sqrt(math.Abs(m2))
		if m2 < 0 {
			shape = math.Cos
		}
		exact := func(x, _, _ float64) float64 { return medium + (root-medium)*shape(mm*(l-x))/shape(mm*l) }
		var errors []misfit
		for _, size := range []float64{4e-3, 2e-3} {
			m := slabs(t, size, l)
			p := &wall{Mesh: m, Bodies: []Body{Isotropic(fix(k))}, Sources: []Source{{Bodies: []int32{0}, Volume: lawOf("%g W/(m³·K)*(%g K - temperature)", m2*k, medium)}},
				Held: []held{{facets(m, 0, "left", -1), fix(root)}}}
			errors = append(errors, l2(t, solve(t, p), exact))
		}
		assert.Greater(t, order(errors[0], errors[1]), 1.8)
		assert.Less(t, errors[1].error, 0.5)
	}
}

// TestConvectionOfTemperature: with h = C·(T − T∞)^¼ all heat q leaves at
// T − T∞ = (q/C)^⅘.
func TestConvectionOfTemperature(t *testing.T) {
	const c, q, medium = 6.0, 4000.0, 293.15
	m := slabs(t, 5e-3, 0.03)
	right := facets(m, 0, "right", -1)
	p := &wall{Mesh: m, Bodies: []Body{Isotropic(fix(10))}, Fluxes: []Flux{{Facets: facets(m, 0, "left", -1), Total: fix(q * 2e-4)}},
		Convections: []Convection{cooled(right, lawOf("%g W/(m²·K^1.25)*max(temperature - %g K, 0.01 K)^0.25", c, medium), fix(medium))}}
	s := solve(t, p)
	assert.InDelta(t, medium+math.Pow(q/c, 0.8), s.OnFacets(t, temperature, right, map[int32]bool{0: true}).Mean(), 1e-6)
	assert.InEpsilon(t, -q*2e-4, s.Convections[0], 1e-9)
	assert.True(t, s.Symmetric)
}

// TestLawsOfPlace: a manufactured temperature T₀ + A·sin(πx/L)·cos(πy/W) with
// the source, the held values and the flux that belong to it.
func TestLawsOfPlace(t *testing.T) {
	const l, w, a, k = 0.04, 0.02, 50.0, 3.0
	exact := func(x, y, _ float64) float64 { return 300 + a*math.Sin(math.Pi*x/l)*math.Cos(math.Pi*y/w) }
	var errors []misfit
	for _, size := range []float64{3e-3, 1.5e-3, 0.75e-3} {
		m := slabs(t, size, l)
		field := fmt.Sprintf("%g K*sin(pi*x/%g m)*cos(pi*y/%g m)", a, l, w)
		p := &wall{Mesh: m, Bodies: []Body{Isotropic(fix(k))},
			Sources: []Source{{Bodies: []int32{0}, Volume: lawOf("%g W/(m³·K)*%s", k*math.Pi*math.Pi*(1/(l*l)+1/(w*w)), field)}},
			Held:    []held{{facets(m, 0, "left", -1), lawOf("300 K + %s", field)}, {facets(m, 0, "right", -1), lawOf("300 K + %s", field)}},
			Fluxes: []Flux{
				{Facets: facets(m, 0, "front", -1), Area: lawOf("-%g W/m²*sin(pi*x/%g m)", a*k*math.Pi/w, l)},
				{Facets: facets(m, 0, "back", -1), Area: lawOf("-%g W/m²*sin(pi*x/%g m)", a*k*math.Pi/w, l)}}}
		s := solve(t, p)
		errors = append(errors, l2(t, s, exact))
	}
	assert.Greater(t, order(errors[0], errors[1]), 1.7)
	assert.Greater(t, order(errors[1], errors[2]), 1.7)
	t.Logf("errors %v", errors)
}

// TestConductivityByAxes: in a rod that lies turned, heat flows along its own x
// axis with the conductivity along that axis, whatever the others are.
func TestConductivityByAxes(t *testing.T) {
	const l, turn = 0.05, 0.6
	o, err := shape.Rectangle(l, 0.02)
	require.NoError(t, err)
	m, err := mesh.NewStack([]mesh.StackBody{{Body: shape.Body{Outline: o.Move(0, 0, turn), Z1: 0.01}, Size: 3e-3, Across: 2}}, nil)
	require.NoError(t, err)
	for axis, sides := range [][2]string{{"left", "right"}, {"front", "back"}, {"bottom", "top"}} {
		along := [3]Law{fix(30), fix(5), fix(2)}
		p := &wall{Mesh: m, Bodies: []Body{{Conductivity: along, Turn: turn}},
			Held: []held{{facets(m, 0, sides[0], -1), fix(300)}, {facets(m, 0, sides[1], -1), fix(340)}}}
		size := [3]float64{l, 0.02, 0.01}
		volume := size[0] * size[1] * size[2]
		k, _ := along[axis].Constant()
		assert.InEpsilon(t, k*40*volume/(size[axis]*size[axis]), solve(t, p).Held[1], 1e-9)
		along[axis] = lawOf("%g W/(m·K) + 0 W/(m·K²)*temperature", k)
		p.Bodies[0].Conductivity = along
		assert.InEpsilon(t, k*40*volume/(size[axis]*size[axis]), solve(t, p).Held[1], 1e-7, "as a law")
	}
}

func TestLawsThatCannotHold(t *testing.T) {
	m := slabs(t, 5e-3, 0.03)
	left := []held{{facets(m, 0, "left", -1), fix(300)}}
	p := &wall{Mesh: m, Bodies: []Body{Isotropic(lawOf("10 W/(m·K) - 1 W/(m·K²)*(temperature - 280 K)"))}, Held: left}
	_, err := p.solve(t)
	var bad *law.Error
	require.ErrorAs(t, err, &bad)
	assert.EqualValues(t, 0, bad.Body)
	assert.ErrorContains(t, err, "the conductivity becomes -10")
	// On a surface a coefficient may vanish, but not turn negative, and a held or a
	// fluid's temperature stays above absolute zero.
	right := facets(m, 0, "right", -1)
	for words, c := range map[string]Convection{
		"the heat-transfer coefficient becomes -5":   cooled(right, lawOf("-5 W/(m²·K) + 0 W/(m³·K)*x"), fix(300)),
		"the temperature of the fluid becomes":       cooled(right, fix(10), lawOf("1 K - 400 K*z/10 mm")),
		"the heat-transfer coefficient is undefined": cooled(right, lawOf("10 W/(m²·K)*log(-z/1 m)"), fix(300)),
	} {
		_, err = (&wall{Mesh: m, Bodies: []Body{Isotropic(fix(1))}, Held: left, Convections: []Convection{c}}).solve(t)
		assert.ErrorContains(t, err, words)
	}
	_, err = (&wall{Mesh: m, Bodies: []Body{Isotropic(fix(1))}, Held: []held{{right, lawOf("300 K*log(-1 - x/1 m)")}}}).solve(t)
	assert.ErrorContains(t, err, "the temperature held is undefined")
	_, err = (&wall{Mesh: m, Bodies: []Body{Isotropic(fix(1))}, Convections: []Convection{cooled(right, lawOf("5 W/(m²·K)*ramp(z, 4 mm, 8 mm)"), fix(300))}}).solve(t)
	assert.NoError(t, err)
	// A source that grows faster than heat can leave has no steady solution.
	p = &wall{Mesh: m, Bodies: []Body{Isotropic(fix(1))}, Held: left,
		Sources: []Source{{Bodies: []int32{0}, Volume: lawOf("1e7 W/m³*exp(min((temperature - 300 K)/20 K, 200))")}}}
	s, err := p.solve(t)
	if err == nil {
		assert.False(t, s.Settled)
	}
}

// TestReadingsOfQuantities: lines, points and totals in a slab with a linear
// temperature.
func TestReadingsOfQuantities(t *testing.T) {
	m := slabs(t, 4e-3, 0.05)
	p := &wall{Mesh: m, Bodies: []Body{Isotropic(fix(14.9))}, Held: []held{
		{facets(m, 0, "left", -1), fix(300)}, {facets(m, 0, "right", -1), fix(400)}}}
	s := solve(t, p)
	line := s.OnLine(t, temperature, [3]float64{-0.05, 0, 0.005}, [3]float64{0.05, 0, 0.005})
	assert.InDelta(t, 0.05, line.Content, 3e-4, "only the part in the mesh counts")
	assert.InDelta(t, 350, line.Mean(), 0.5)
	values, inside := s.AtPoints(t, lawOf("temperature + 0 K*x/1 m"), []float64{0.0125, 0.003, 0.0021, 0.2, 0, 0})
	assert.Equal(t, []bool{true, false}, inside)
	assert.InDelta(t, 325, values[0], 1e-8)
	all := map[int32]bool{0: true}
	assert.InEpsilon(t, 350*1e-5, s.InBodies(t, temperature, all).Integral, 1e-9)
	whole := s.InBodies(t, temperature, all)
	assert.InDelta(t, 400, whole.Greatest, 1e-9)
	assert.InDelta(t, 0.05, whole.MostAt[0], 1e-12)
	assert.InEpsilon(t, 14.9*100/0.05, -s.OnFacets(t, lawOf("heat_flux_x"), facets(m, 0, "top", -1), all).Mean(), 1e-9)
}
