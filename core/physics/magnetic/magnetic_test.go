package magnetic

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/law"
)

// steel saturates at 2 T.
func steel(h float64) float64 { return Vacuum*h + 2*math.Tanh(h/500) }

// TestCurve: field strength and flux density follow from each other as the curve says, also beyond its end, with derivatives and
// energies that belong to them.
func TestCurve(t *testing.T) {
	const last = 20e3
	c, err := NewCurve(steel, last)
	require.NoError(t, err)
	assert.InDelta(t, steel(last), c.Last(), 1e-12)
	energy, before := 0.0, 0.0
	const step = 7.
	for h := step; h < 1.5*last; h += step {
		b, slope, w := c.Flux(h)
		want := steel(min(h, last)) + Vacuum*max(0, h-last)
		require.InEpsilon(t, want, b, 1e-5)
		back, steep, same := c.Strength(b)
		require.InEpsilon(t, h, back, 1e-4)
		require.InEpsilon(t, w, same, 1e-4)
		energy += (h - step/2) * (want - before)
		before = want
		require.InEpsilon(t, energy, w, 2e-3)
		up, _, _ := c.Flux(h + 1e-3)
		require.InEpsilon(t, (up-b)/1e-3, slope, 1e-2)
		require.InEpsilon(t, 1/slope, steep, 0.05)
	}
	zero, slope, none := c.Strength(0)
	assert.Zero(t, zero)
	assert.Zero(t, none)
	assert.Positive(t, slope)
	_, err = NewCurve(func(h float64) float64 { return math.Min(h, 100) }, 200)
	assert.ErrorContains(t, err, "does not grow")
}

// kernels are those of all spaces for a body at hand.
func kernels(b *Body) []kernel {
	var list []kernel
	for _, p := range []*Problem{{Depth: 0.1}, {Round: true}, {Solid: true}} {
		p.Bodies = map[int32]*Body{0: b}
		m := (&matter{problem: p, t: -1}).fork()
		if p.Solid {
			list = append(list, newSpace(m, 0, []bool{true}))
		} else {
			list = append(list, &section{m, 0, []bool{true}, 1, false})
		}
	}
	return list
}

// TestTangentsOfWhatAlternates are the derivatives of its terms by both potentials and the temperature, and those of its heat.
func TestTangentsOfWhatAlternates(t *testing.T) {
	c, err := NewCurve(steel, 20e3)
	require.NoError(t, err)
	parsed, err := formula.Parse("2e-8 Ω·m*(1 + 0.004 1/K*(temperature - 293 K))")
	require.NoError(t, err)
	program, err := parsed.Compile(formula.Environment{Variables: law.Variables})
	require.NoError(t, err)
	relative, err := formula.Parse("3 + 0.01 1/K*(temperature - 293 K)")
	require.NoError(t, err)
	soft, err := relative.Compile(formula.Environment{Variables: law.Variables})
	require.NoError(t, err)
	wire := &Circuit{Total: formula.Fixed(40), Volume: 1e-6}
	fed := &Circuit{Voltage: formula.Fixed(6), Resistance: formula.Fixed(0.5), Volume: 1e-6}
	for _, body := range []*Body{{Resistivity: program}, {Iron: c, Resistivity: program}, {Permeability: soft, Resistivity: program},
		{Permeability: soft, Resistivity: program, Circuit: wire}, {Permeability: soft, Turns: formula.Fixed(50), Area: 4e-5, Circuit: fed}} {
		for _, round := range []bool{false, true} {
			m := (&matter{problem: &Problem{Round: round, Depth: 0.1, Frequency: 300, Bodies: map[int32]*Body{0: body}}, t: 4, varies: true}).fork()
			k := newAlternating(m, 0, nil)
			assert.False(t, k.LinearCells(0))
			point := fem.Point{X: [3]float64{0.02, 0.03, 0}, U: []float64{4e-3, -3e-3, 0.2, 0.3, 350}, Grad: [][3]float64{{0.8, -0.5}, {0.3, 0.6}, {}, {}, {}}}
			terms := func(change func(p *fem.Point)) (*fem.Terms, *couple.Jet) {
				p := point
				p.U, p.Grad = append([]float64{}, p.U...), append([][3]float64{}, p.Grad...)
				change(&p)
				require.NoError(t, k.Prepare(-1, []fem.Point{p}))
				out, heat := fem.NewTerms(5), couple.NewJet(5)
				require.NoError(t, k.Cell(&p, out))
				k.Supply(couple.HeatPerVolume, &p, heat)
				assert.InEpsilon(t, k.heat(&p, 0), heat.Value[0], 1e-12)
				any, varies := k.SuppliesIn(couple.HeatPerVolume, 0)
				assert.True(t, any && varies)
				return out, heat
			}
			at, heat := terms(func(*fem.Point) {})
			for col := range 5 {
				d := []float64{1e-7, 1e-7, 1e-6, 1e-6, 1e-2}[col]
				up, warm := terms(func(p *fem.Point) { p.U[col] += d })
				down, cold := terms(func(p *fem.Point) { p.U[col] -= d })
				assert.InDelta(t, (warm.Value[0]-cold.Value[0])/(2*d), heat.U[col][0], 1e-4*math.Abs(heat.U[col][0])+1e-9)
				for row := range 4 {
					n := at.Index(row, col)
					assert.InDelta(t, (up.Source[row]-down.Source[row])/(2*d), at.SourceU[n], 1e-4*math.Abs(at.SourceU[n])+1e-9+1e-8*math.Abs(at.Source[row]/d))
					for x := range 2 {
						assert.InDelta(t, (up.Flux[row][x]-down.Flux[row][x])/(2*d), at.FluxU[n][x], 1e-4*(1+math.Abs(at.FluxU[0][0])+math.Abs(at.FluxU[0][1])))
						if col > 1 {
							continue
						}
						left, _ := terms(func(p *fem.Point) { p.Grad[col][x] += 1e-5 })
						right, _ := terms(func(p *fem.Point) { p.Grad[col][x] -= 1e-5 })
						for y := range 2 {
							assert.InDelta(t, (left.Flux[row][y]-right.Flux[row][y])/2e-5, at.FluxGrad[n][y][x], 1e-4*math.Abs(at.FluxGrad[0][0][0])+1e-9)
						}
					}
				}
			}
		}
	}
}

// TestTangents are the derivatives of the terms, of iron, of a turned magnet and of air, in all spaces; they are symmetric.
func TestTangents(t *testing.T) {
	c, err := NewCurve(steel, 20e3)
	require.NoError(t, err)
	magnet := &Body{Remanence: formula.Fixed(1.2), North: [3]Law{formula.Fixed(1), formula.Fixed(2), formula.Fixed(-1)}, Turn: 0.3, Permeability: formula.Fixed(1.1)}
	shell := &Body{Shell: &frame.Shell{Inner: [3][2]float64{{0, 0.015}, {0, 0.02}, {0, 0.02}}, Outer: [3][2]float64{{0, 0.03}, {0, 0.04}, {0, 0.03}}, Axes: 2}}
	for _, body := range []*Body{nil, {Iron: c}, magnet, shell} {
		for _, k := range kernels(body) {
			point := fem.Point{X: [3]float64{0.02, 0.03, 0.01}, U: []float64{0.4}, Grad: [][3]float64{{8, -5, 3}}}
			if k.stuff().problem.Solid {
				point.Grad[0] = [3]float64{300, -200, 400}
			}
			terms := func(change func(p *fem.Point)) *fem.Terms {
				p := point
				p.U, p.Grad = []float64{p.U[0]}, [][3]float64{p.Grad[0]}
				change(&p)
				require.NoError(t, k.Prepare(-1, []fem.Point{p}))
				out := fem.NewTerms(1)
				require.NoError(t, k.Cell(&p, out))
				return out
			}
			at := terms(func(*fem.Point) {})
			slope := func(of func(*fem.Terms) float64, by func(p *fem.Point, d float64)) float64 {
				const d = 1e-5
				return (of(terms(func(p *fem.Point) { by(p, d) })) - of(terms(func(p *fem.Point) { by(p, -d) }))) / (2 * d)
			}
			axes := 2
			if k.stuff().problem.Solid {
				axes = 3
			}
			scale := math.Abs(at.FluxGrad[0][0][0]) + math.Abs(at.FluxGrad[0][1][1]) + math.Abs(at.SourceU[0])
			near := func(want, got float64) {
				t.Helper()
				assert.InDelta(t, want, got, 1e-5*scale)
			}
			value, grad := func(p *fem.Point, d float64) { p.U[0] += d }, func(x int) func(p *fem.Point, d float64) {
				return func(p *fem.Point, d float64) { p.Grad[0][x] += d }
			}
			near(slope(func(t *fem.Terms) float64 { return t.Source[0] }, value), at.SourceU[0])
			for x := range axes {
				near(slope(func(t *fem.Terms) float64 { return t.Source[0] }, grad(x)), at.SourceGrad[0][x])
				near(slope(func(t *fem.Terms) float64 { return t.Flux[0][x] }, value), at.FluxU[0][x])
				near(at.SourceGrad[0][x], at.FluxU[0][x])
				for y := range axes {
					near(slope(func(t *fem.Terms) float64 { return t.Flux[0][x] }, grad(y)), at.FluxGrad[0][x][y])
					near(at.FluxGrad[0][y][x], at.FluxGrad[0][x][y])
				}
			}
		}
	}
}

// TestTangentsByTheTemperature are the derivatives by it of the terms of a magnet, and of what conducts in a field that changes.
func TestTangentsByTheTemperature(t *testing.T) {
	compiled := func(text string) Law {
		f, err := formula.Parse(text)
		require.NoError(t, err)
		p, err := f.Compile(formula.Environment{Variables: law.Variables})
		require.NoError(t, err)
		return p
	}
	body := &Body{Remanence: compiled("1.2 T - 0.001 T/K*(temperature - 293 K)"), North: [3]Law{formula.Fixed(1), formula.Fixed(2), nil}, Slope: -0.002,
		Permeability: compiled("3 + 0.01 1/K*(temperature - 293 K)"), Resistivity: compiled("2e-8 Ω·m*(1 + 0.004 1/K*(temperature - 293 K))")}
	for _, k := range kernels(body) {
		m := k.stuff()
		m.t, m.varies, m.problem.Moves = 1, true, !m.problem.Solid
		assert.False(t, m.LinearCells(0))
		assert.False(t, m.Symmetric())
		at := func(temperature float64) *fem.Terms {
			p := fem.Point{X: [3]float64{0.02, 0.03, 0.01}, U: []float64{0.4, temperature}, Rate: []float64{30, 0}, Grad: [][3]float64{{8, -5, 3}, {}}}
			require.NoError(t, k.Prepare(-1, []fem.Point{p}))
			out := fem.NewTerms(2)
			require.NoError(t, k.Cell(&p, out))
			return out
		}
		up, down, here := at(350.01), at(349.99), at(350)
		n := here.Index(0, 1)
		near := func(up, down, got float64) {
			t.Helper()
			assert.InDelta(t, (up-down)/0.02, got, 1e-4*math.Abs(got)+1e-9)
		}
		near(up.Source[0], down.Source[0], here.SourceU[n])
		for x := range 3 {
			near(up.Flux[0][x], down.Flux[0][x], here.FluxU[n][x])
		}
	}
	still := (&matter{problem: &Problem{Bodies: map[int32]*Body{0: body}}, t: 1}).fork()
	assert.True(t, still.LinearCells(0) && still.Symmetric(), "a temperature that is known changes nothing of that")
}

// TestADipoleLeavesThroughOpenSides without a residual: what is beyond a sphere, or a circle, goes on as the terms of its side say.
func TestADipoleLeavesThroughOpenSides(t *testing.T) {
	for _, k := range kernels(nil) {
		p := k.stuff().problem
		for _, angle := range []float64{0.3, 1, 1.4} {
			const radius = 0.2
			normal := [3]float64{math.Cos(angle), math.Sin(angle), 0}
			point := fem.Point{X: [3]float64{radius * normal[0], radius * normal[1], 0}, Normal: normal}
			// The potential goes with R to a power, in these directions.
			power, value := -1., math.Sin(angle) // A of a dipole along x
			var slope [3]float64
			switch {
			case p.Solid:
				power = -2
			case p.Round:
				power, value = -3, 1
			}
			for i := range 3 {
				slope[i] = power * value / radius * normal[i]
			}
			if !p.Round { // its change along the circle does not pass through it
				slope[0] -= math.Cos(angle) * math.Sin(angle) / radius
				slope[1] += math.Cos(angle) * math.Cos(angle) / radius
			}
			point.U, point.Grad = []float64{value}, [][3]float64{slope}
			require.NoError(t, k.Prepare(-1, []fem.Point{point}))
			cell, side := fem.NewTerms(1), fem.NewTerms(1)
			require.NoError(t, k.Cell(&point, cell))
			require.NoError(t, k.(fem.SideKernel).Side(0, &point, side))
			through := dot(cell.Flux[0], normal)
			assert.InEpsilon(t, through, -side.Source[0], 1e-9, "%+v at %g", p, angle)
		}
	}
}

// TestSmoothedPowersAreNotNegative, and nothing else changes.
func TestSmoothedPowersAreNotNegative(t *testing.T) {
	values := make([][]float64, len(Derived))
	for i := range values {
		values[i] = []float64{-1, 2}
	}
	invariants(values)
	for i, v := range Derived {
		want := []float64{-1, 2}
		if v.Name == "field_energy" || v.Name == "driven_heat" {
			want[0] = 0
		}
		assert.Equal(t, want, values[i], v.Name)
	}
}
