package solid

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
)

// some materials of all kinds, whose properties depend on the temperature.
func some() map[string]Body {
	soft := iso(lawOf("10e9*(1 - 1e-3*(temperature/300 K - 1))*(2 - temperature/300 K)"), lawOf("0.3*temperature/350 K"))
	wood := Body{
		Modulus: [3]Law{lawOf("12e9*(2 - temperature/300 K)"), fix(1e9), fix(0.6e9)}, Ratio: [3]Law{lawOf("0.4*temperature/350 K"), nil, fix(0.35)},
		Shear: [3]Law{lawOf("0.7e9*temperature/300 K"), fix(0.1e9), fix(0.6e9)}, Turn: 0.4,
	}
	rubber := Body{Modulus: [3]Law{fix(3e6)}, Ratio: [3]Law{fix(0.4)}, Rubber: true}
	mooney := Body{Mooney: [2]Law{fix(3e5), fix(1e5)}, Ratio: [3]Law{fix(0.45)}, Rubber: true}
	kept := Body{Mooney: [2]Law{fix(3e5), fix(1e5)}, Ratio: [3]Law{fix(0.5)}, Rubber: true, Mixed: true}
	list := map[string]Body{"soft": soft, "wood": wood, "rubber": rubber, "of Mooney and Rivlin": mooney, "that keeps its volume": kept}
	for name, b := range list {
		b.Density, b.Free = fix(2000), 290
		b.Expansion = [3]Law{lawOf("1e-5/K*(temperature/300 K)^2")}
		if name == "wood" {
			b.Expansion[1], b.Expansion[2] = fix(3e-5), fix(4e-5)
		}
		b.Initial = [6]Law{fix(1e4), nil, fix(-2e4), fix(3e3)}
		list[name] = b
	}
	return list
}

// TestTangents compares all derivatives with differences, in all forms, for small and large deformation, with a temperature
// that is solved for together with the displacement.
func TestTangents(t *testing.T) {
	for form, flat := range map[Form]bool{Space: false, Strain: true, Stress: true, Round: true} {
		m := plate(t, flat)
		n := form.components()
		on := outside(m)
		fields := []couple.Field{{Name: "temperature"}, {Name: "displacement", Components: n}, {Name: "pressure"}}
		for _, large := range []bool{false, true} {
			for name, body := range some() {
				what := fmt.Sprintf("form %d, %s, large %v", form, name, large)
				if form == Stress && body.Mixed {
					continue
				}
				g, err := couple.New(m, 1, fields, &couple.Settings{Facets: on})
				require.NoError(t, err)
				pulled := map[int32]bool{0: true}
				k, err := NewKernel(g, &Problem{Form: form, Large: large, Inertia: true, Bodies: map[int32]Body{0: body},
					Pulls: []Pull{{Bodies: pulled, Acceleration: [3]Law{fix(1), fix(2), fix(3)}}, {Bodies: pulled, Spin: fix(700), Axis: 2, Through: [3]float64{0.01, 0.02, 0}}},
					Loads: []Load{
						{Kind: Pressure, Facets: on, Value: [3]Law{lawOf("1e6*temperature/300 K")}},
						{Kind: Force, Facets: on, Value: [3]Law{fix(3e5), fix(-2e5), fix(1e5)}, Follows: true},
						{Kind: Force, Facets: on, Value: [3]Law{lawOf("3*temperature/300 K"), fix(2)}, InAll: true},
						{Kind: Torque, Facets: on, Value: [3]Law{nil, nil, fix(3)}, InAll: true},
						{Kind: Springs, Facets: on, Value: [3]Law{fix(1e9), lawOf("1e8*temperature/300 K"), fix(1e7)}},
						{Kind: Mass, Facets: on, Value: [3]Law{fix(3)}, InAll: true},
					}}, Components{1, n + 1, 0}, true)
				require.NoError(t, err)
				for side := -1; side <= 0; side++ {
					p := &fem.Point{X: [3]float64{0.04, 0.01, 0.002}, Normal: [3]float64{0.6, 0.8, 0}, U: append([]float64{350, 2e-3, -1e-3, 3e-3}[:n+1], 2e5), Rate: []float64{1, 2, 3, 4, 5}[:n+2]}
					p.Grad = append([][3]float64{{120, -40, 77}, {0.2, 0.1, -0.04}, {0.05, -0.3, 0.1}, {0.02, 0.06, 0.1}}[:n+1], [3]float64{1, 2, 3})
					if !large {
						for i := 1; i <= n; i++ {
							for d := range 3 {
								p.Grad[i][d] /= 100
							}
							p.U[i] /= 100
						}
					}
					worst, words, err := fem.CheckTangent(k, p, side)
					require.NoError(t, err, what)
					assert.Less(t, worst, 3e-5, "%s, side %d: %s", what, side, words)
				}
			}
		}
	}
}

// TestStressIsTheSlopeOfWhatIsStored: the work of a small change is what the stored energy grows by, for all materials far from
// their shape, and a turn changes neither.
func TestStressIsTheSlopeOfWhatIsStored(t *testing.T) {
	m := plate(t, false)
	for name, body := range some() {
		if body.Mixed {
			continue // what is stored is not what it is without the equation of its pressure
		}
		body.Expansion, body.Initial = [3]Law{}, [6]Law{}
		g, err := couple.New(m, 1, []couple.Field{{Name: "displacement", Components: 3}}, &couple.Settings{})
		require.NoError(t, err)
		k, err := NewKernel(g, &Problem{Large: true, Bodies: map[int32]Body{0: body}}, Components{0, -1, -1}, false)
		require.NoError(t, err)
		at := func(f [3][3]float64) (s strained) {
			p := fem.Point{X: [3]float64{0.1, 0, 0}, U: make([]float64, 3), Grad: make([][3]float64, 3)}
			for i := range 3 {
				p.Grad[i] = f[i]
				p.Grad[i][i]--
			}
			require.NoError(t, k.Prepare(-1, []fem.Point{p}))
			require.NoError(t, k.strained(&p, 0, &s))
			return s
		}
		f := [3][3]float64{{1.2, 0.1, -0.04}, {0.05, 0.8, 0.1}, {0.02, 0.06, 1.1}}
		first := at(f)
		for i := range 3 {
			for j := range 3 {
				const h = 1e-6
				up, down := f, f
				up[i][j] += h
				down[i][j] -= h
				above, below := at(up), at(down)
				want := 0.0 // P = F·S
				for a := range 3 {
					want += f[i][a] * first.s[place[a][j]]
				}
				size := math.Abs(first.s[0]) + math.Abs(first.s[1])
				assert.InDelta(t, want, (above.energy-below.energy)/(2*h), 1e-6*size, "%s, %d %d", name, i, j)
			}
		}
		c, s := math.Cos(1.1), math.Sin(1.1)
		turned := [3][3]float64{}
		for i, r := range [3][3]float64{{c, 0, s}, {0, 1, 0}, {-s, 0, c}} {
			for j := range 3 {
				for a := range 3 {
					turned[i][j] += r[a] * f[a][j]
				}
			}
		}
		after := at(turned)
		for i := range 6 {
			assert.InDelta(t, first.s[i], after.s[i], 1e-9*(math.Abs(first.s[0])+math.Abs(first.s[1])), name)
		}
	}
}

// TestLawsAreAlikeNearTheShape: what is like rubber answers to small strains as what is elastic with the same constants does.
func TestLawsAreAlikeNearTheShape(t *testing.T) {
	const e, nu = 3e6, 0.4
	mu, bulk := e/(2*(1+nu)), e/(3*(1-2*nu))
	lambda, shear, _, _ := lame(e, nu, 0, 0)
	want := isotropic(lambda, shear)
	for _, m := range []rubber{{c10: mu / 2, bulk: bulk, volume: 1}, {c10: mu / 3, c01: mu / 6, bulk: bulk, volume: 1}} {
		_, _, far, j, energy := m.far(&[6]float64{1, 1, 1})
		near := m.near()
		assert.InDelta(t, 1, j, 1e-15)
		assert.InDelta(t, 0, energy, 1e-6)
		for i := range 6 {
			for k := range 6 {
				assert.InDelta(t, want[i][k], far[i][k], 1e-9*e)
				assert.InDelta(t, want[i][k], near[i][k], 1e-9*e)
			}
		}
	}
	d, _, ok := byAxes([3]float64{e, e, e}, [3]float64{nu, nu, nu}, [3]float64{mu, mu, mu}, [3]float64{}, [3]float64{}, [3]float64{})
	require.True(t, ok)
	turn := newTurning(math.Cos(0.7), math.Sin(0.7))
	turned := turn.stiffness(&d)
	for i := range 6 {
		for k := range 6 {
			assert.InDelta(t, want[i][k], d[i][k], 1e-9*e)
			assert.InDelta(t, want[i][k], turned[i][k], 1e-9*e, "it is the same along all directions")
		}
	}
	_, _, ok = byAxes([3]float64{e, e, e}, [3]float64{0.9, 0.9, 0.9}, [3]float64{mu, mu, mu}, [3]float64{}, [3]float64{}, [3]float64{})
	assert.False(t, ok, "no material pushes back by less than nothing")
}
