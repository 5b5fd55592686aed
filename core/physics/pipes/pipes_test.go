package pipes

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/fem"
	"saltkettle/core/law/lawtest"
	"saltkettle/core/mesh"
	"saltkettle/core/shape"

	"saltkettle/core/couple"
)

// TestFrictionOverTheMoodyRange: Colebrook's equation holds to round-off, the explicit relations are near it by as much as their authors say, and some
// values are those of the chart (F. M. White, Fluid Mechanics, 7th ed., 2011, section 6.7).
func TestFrictionOverTheMoodyRange(t *testing.T) {
	for _, rough := range []float64{0, 1e-6, 1e-5, 1e-4, 1e-3, 1e-2, 5e-2} {
		for re := TurbulentFrom; re <= 1e8; re *= 1.3 {
			f := Colebrook.Factor(re, rough, 64)
			x := 1 / math.Sqrt(f)
			assert.InDelta(t, x, -2*math.Log10(rough/3.7+2.51*x/re), 1e-12*x, "Re %g, rough %g", re, rough)
			assert.InEpsilon(t, f, Haaland.Factor(re, rough, 64), 0.025, "Re %g, rough %g", re, rough)
			if rough >= 1e-6 && rough <= 1e-2 && re >= 5e3 {
				assert.InEpsilon(t, f, SwameeJain.Factor(re, rough, 64), 0.035, "Re %g, rough %g", re, rough)
				assert.InEpsilon(t, f, Churchill.Factor(re, rough, 64), 0.06, "Re %g, rough %g", re, rough)
			}
		}
	}
	for re, f := range map[float64]float64{1e4: 0.0309, 1e5: 0.0180, 1e6: 0.0116, 1e7: 0.0081, 1e8: 0.0059} {
		assert.InDelta(t, f, Colebrook.Factor(re, 0, 64), 6e-5)
	}
	for _, r := range []Relation{Colebrook, Churchill, Haaland, SwameeJain} {
		assert.InEpsilon(t, 0.064, r.Factor(1000, 1e-3, 64), 1e-6, Relations[r])
		for re := 100.0; re < 1e7; re *= 1.07 { // slopes, and pressures that grow with the flow
			_, slope := r.factor(re, 1e-3, 64)
			h := 1e-5 * re
			assert.InDelta(t, (r.Factor(re+h, 1e-3, 64)-r.Factor(re-h, 1e-3, 64))/(2*h), slope, 1e-3*math.Abs(slope)+1e-9/re, "%s at %g", Relations[r], re)
			assert.Greater(t, r.Factor(1.01*re, 1e-3, 64)*1.0201, r.Factor(re, 1e-3, 64), "%s at %g", Relations[r], re)
		}
	}
	assert.InDelta(t, 56.91, Channel(1, 1).Laminar, 0.02)
	assert.InDelta(t, 96, Channel(1, 1e-6).Laminar, 1e-3)
}

func TestLossesOfBendsAndValves(t *testing.T) {
	assert.InDelta(t, 0.985, bendLoss(math.Pi/2, 0, 1e5), 0.01, "a mitre of 90°")
	assert.Less(t, bendLoss(math.Pi/4, 0, 1e5), 0.25)
	// A smooth bend of 90° with a radius of 2 diameters at Re 2·10⁵ takes about 0.17 in all (White, figure 6.20), its friction 0.05 of it.
	assert.InDelta(t, 0.12, bendLoss(math.Pi/2, 2, 2e5), 0.04)
	assert.Zero(t, bendLoss(0, 2, 1e5))
	gate := 0
	assert.Equal(t, 0.15, valveLoss(gate, 1))
	assert.InDelta(t, 2.1, valveLoss(gate, 0.5), 1e-12)
	assert.Equal(t, closed, valveLoss(gate, 0))
	for kind := range valves {
		for open := 0.99; open > 0; open -= 0.01 {
			assert.Greater(t, valveLoss(kind, open), valveLoss(kind, open+0.01), "%s, %g open", Valves[kind], open)
		}
	}
}

func fluid() *Fluid {
	return &Fluid{Density: 998, Capacity: 4180, Conductivity: 0.6, viscosity: 1e-3, Temperature: 293}
}

// bars are pieces of pipe of all kinds.
func bars() map[string]*Bar {
	pump := &Pump{Head: 14, Slope: 300, Curve: 5e5}
	return map[string]*Bar{
		"long":    {Section: Round(0.05), Fluid: fluid(), Point: -1, Length: 20, Rough: 5e-5},
		"short":   {Section: Round(0.3), Fluid: fluid(), Point: -1, Length: 0.1, Rough: 1e-3, Relation: Churchill},
		"channel": {Section: Channel(0.1, 0.02), Fluid: fluid(), Point: -1, Length: 3, Relation: Haaland},
		"fitting": {Section: Round(0.05), Fluid: fluid(), Items: []*Item{{Forward: 2, Back: 0.5, Valve: -1}}},
		"check":   {Section: Round(0.05), Fluid: fluid(), Items: []*Item{{Forward: 2, Back: closed, Valve: -1}}},
		"pump":    {Section: Round(0.05), Fluid: fluid(), Items: []*Item{{Pump: pump, Valve: -1}, {Angle: 1, Radius: 1.5, Valve: -1}}},
		"nothing": {Section: Round(0.05), Fluid: fluid(), Like: 0.5},
	}
}

// TestFlowThatTakesAPressure: it is found to round-off at all pressures, either way, grows with the pressure, and by its slope.
func TestFlowThatTakesAPressure(t *testing.T) {
	set := &setting{viscosity: 1e-3, opening: 1, speed: 0.9}
	for name, b := range bars() {
		for _, sign := range []float64{-1, 1} {
			last := math.Inf(-1)
			for p := 1e-6; p < 1e7; p *= 1.7 {
				m, slope := b.flow(sign*p, set)
				taken, _ := b.loss(m, set)
				still, _ := b.loss(0, set)
				assert.InDelta(t, sign*p, taken, 1e-12*(p+math.Abs(still)), "%s at %g", name, sign*p)
				assert.Greater(t, sign*m, last, "%s at %g", name, sign*p)
				last = sign * m
				more, _ := b.flow(sign*p*(1+1e-6), set)
				if d := (more - m) / (sign * p * 1e-6); name != "pump" && p > 1e-3 { // whose bend changes with the flow
					assert.InEpsilon(t, d, slope, 1e-4, "%s at %g", name, sign*p)
				}
			}
		}
	}
	m, _ := bars()["check"].flow(-1e5, set)
	assert.InDelta(t, 0, m, 1e-4, "nothing flows back")
}

func TestPumpAtAnotherSpeed(t *testing.T) {
	p := &Pump{Head: 20, Slope: 100, Curve: 1e5}
	head, _ := p.lifts(0.004, 1)
	slower, slope := p.lifts(0.002, 0.5)
	assert.InDelta(t, head/4, slower, 1e-12, "half the flow at half the speed, a quarter of the head")
	assert.InDelta(t, -100*0.5-2e5*0.002, slope, 1e-9)
	back, _ := p.lifts(-0.001, 1)
	assert.Greater(t, back, 20.0)
}

// TestTangents compares all derivatives of the terms of a bar with differences.
func TestTangents(t *testing.T) {
	for _, name := range []string{"long", "channel"} { // at points as much heat leaves as enters: differences of nothing tell nothing
		b := bars()[name]
		for _, warm := range []bool{false, true} {
			b.Nodes = [2]int32{4, 5}
			b.Rise = 0.3
			b.Wall = &Wall{Coefficient: lawtest.Of(t, "12"), Surroundings: lawtest.Of(t, "280")}
			if warm {
				b.Fluid.Viscosity, b.Fluid.varies = lawtest.Of(t, "0.001*exp((293 K - temperature)/40 K)"), true
			}
			k := &Kernel{problem: &Problem{Gravity: 9.81, Bars: []Bar{*b}, of: map[[3]int32]int{{0, 4, 5}: 0}, Warm: true, Zero: 293, Transient: true}, p: 0, t: 1, straight: new(bool)}
			k.work()
			p := &fem.Point{Nodes: []int32{4, 5}, Functions: []float64{0.3, 0.7}, Inverse: [3][3]float64{{0.6, 0.8, 0}}, U: []float64{5300, 311}, Rate: make([]float64, 2),
				Grad: [][3]float64{{-900, -1200, 0}, {-4, 3, 0}}}
			worst, what, err := fem.CheckTangent(k, p, -1)
			require.NoError(t, err)
			assert.Less(t, worst, 2e-4, "%s: %s", name, what)
		}
	}
}

// TestWarmthAlongAPipe: what is lost is what passes the wall, also where next to nothing flows.
func TestWarmthAlongAPipe(t *testing.T) {
	b := bars()["long"]
	for _, m := range []float64{1e-9, 1e-4, 0.1, 10} {
		left, passes := b.warmth(m, 25)
		assert.InDelta(t, m*b.Fluid.Capacity*(1-left), passes, 1e-9*m*b.Fluid.Capacity)
		assert.LessOrEqual(t, passes, 25*b.Edge()*b.Length*(1+1e-12))
	}
}

// TestShareOfACell: the mean of a cell by its shares is that of a linear field at its middle.
func TestShareOfACell(t *testing.T) {
	c := &cell{nodes: []int32{0, 1}, share: []float64{0.5, 1.5}, volume: 2}
	assert.Equal(t, 0.25*4+0.75*8, c.mean(func(v int32) float64 { return 4 + 4*float64(v) }))
}

// TestEndsOfABar are found at its points from value and slope.
func TestEndsOfABar(t *testing.T) {
	line, err := shape.NewLine([]shape.LinePoint{{Name: "a"}, {Name: "b", At: [3]float64{3, 0, 4}}})
	require.NoError(t, err)
	m := &mesh.Mesh{Sides: []string{""}}
	require.NoError(t, m.AddLines([]mesh.LineBody{{Line: line}}, 0))
	g, err := couple.New(m, 1, []couple.Field{{Name: "u"}}, &couple.Settings{Facets: []int32{0, 1}})
	require.NoError(t, err)
	u := make([]float64, g.System.N)
	g.System.Interpolate(u, 0, 0, func(x [3]float64) float64 { return 7 + x[0] })
	seen := 0
	require.NoError(t, g.System.EachCell(&fem.State{U: u}, nil, func(points []fem.Point, weights []float64) error {
		for q := range points {
			a, b := ends(&points[q], 0)
			assert.InDelta(t, 7, a, 1e-12)
			assert.InDelta(t, 10, b, 1e-12)
			seen++
		}
		return nil
	}))
	assert.Positive(t, seen, fmt.Sprint(len(m.Body)))
	assert.InDelta(t, 5, g.Volume[0], 1e-12, "a bar counts by its length")
	assert.Equal(t, 1.0, g.Area[0], "an end stands for 1")
}
