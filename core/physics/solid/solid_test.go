package solid

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/mesh"
	"saltkettle/core/shape"
)

func fix(si float64) Law { return formula.Fixed(si) }

// iso are the properties of what is the same along all directions.
func iso(modulus, ratio Law) Body { return Body{Modulus: [3]Law{modulus}, Ratio: [3]Law{ratio}} }

func lawOf(text string) Law {
	f, err := formula.Parse(text)
	if err != nil {
		panic(err)
	}
	p, err := f.Compile(formula.Environment{Variables: law.Variables})
	if err != nil {
		panic(err)
	}
	return p
}

// plate is a round plate, meshed with cells of all shapes, and a flat one of it.
func plate(t *testing.T, flat bool) *mesh.Mesh {
	t.Helper()
	o, err := shape.Disc(0.04)
	require.NoError(t, err)
	m, err := mesh.NewStack([]mesh.StackBody{{Body: shape.Body{Outline: o.Move(0.05, 0, 0), Z1: 0.01}, Size: 0.012, Across: 1}}, &mesh.StackSettings{Flat: flat})
	require.NoError(t, err)
	return m
}

// outside are all facets with nothing beyond them.
func outside(m *mesh.Mesh) (list []int32) {
	for k, f := range m.Facets {
		if f.Other < 0 {
			list = append(list, int32(k))
		}
	}
	return list
}

// held is a displacement that is held on facets by laws of the place.
func held(facets []int32, laws ...Law) couple.Field {
	f := couple.Field{Name: "displacement", Components: len(laws), Rigid: true}
	for i, l := range laws {
		f.Held = append(f.Held, couple.Held{Facets: facets, Component: i, Value: l, Least: law.NoBound, What: "displacement"})
	}
	return f
}

// TestPatch: a displacement that is linear in the place is exact, with its stress, in every form
// and order.
func TestPatch(t *testing.T) {
	const e, nu = 10e9, 0.3
	x, y, z := "(1e-3*x + 2e-3*y)", "(-3e-3*x + 5e-4*y)", "(7e-4*z + 2e-4*x)"
	lambda, mu := e*nu/((1+nu)*(1-2*nu)), e/(2*(1+nu))
	plane := e * nu / (1 - nu*nu)
	for _, c := range []struct {
		form Form
		laws []Law
		want [6]float64
	}{
		{Space, []Law{lawOf(x), lawOf(y), lawOf(z)}, [6]float64{lambda*2.2e-3 + 2*mu*1e-3, lambda*2.2e-3 + 2*mu*5e-4, lambda*2.2e-3 + 2*mu*7e-4, mu * -1e-3, 0, mu * 2e-4}},
		{Strain, []Law{lawOf(x), lawOf(y)}, [6]float64{lambda*1.5e-3 + 2*mu*1e-3, lambda*1.5e-3 + 2*mu*5e-4, lambda * 1.5e-3, mu * -1e-3, 0, 0}},
		{Stress, []Law{lawOf(x), lawOf(y)}, [6]float64{plane*1.5e-3 + 2*mu*1e-3, plane*1.5e-3 + 2*mu*5e-4, 0, mu * -1e-3, 0, 0}},
		// r·c stretches as much round the axis as along r.
		{Round, []Law{lawOf("1e-3*x"), lawOf("5e-4*y")}, [6]float64{lambda*2.5e-3 + 2*mu*1e-3, lambda*2.5e-3 + 2*mu*5e-4, lambda*2.5e-3 + 2*mu*1e-3, 0, 0, 0}},
	} {
		for at := range 4 {
			order, large := 1+at%2, at > 1
			m := plate(t, c.form != Space)
			set := &couple.Settings{Order: order}
			if c.form == Round {
				set.Measure = fem.Around
			}
			g, err := couple.New(m, 1, []couple.Field{held(outside(m), c.laws...)}, set)
			require.NoError(t, err)
			k, err := NewKernel(g, &Problem{Form: c.form, Large: large, Bodies: map[int32]Body{0: iso(fix(e), fix(nu))}}, Components{0, -1, -1}, false)
			require.NoError(t, err)
			s, err := g.Solve(t.Context(), k, &couple.SolveSettings{Straight: k.Straight(), Symmetric: k.Symmetric()})
			require.NoError(t, err)
			require.True(t, s.Settled)
			uniform := math.NaN()
			require.NoError(t, s.System.EachCell(s.State, nil, func(points []fem.Point, _ []float64) error {
				out := make([][]float64, derived)
				for i := range out {
					out[i] = make([]float64, len(points))
				}
				require.NoError(t, k.Derive(points, out))
				for i := range points {
					if large { // a shape that is the same everywhere has one stress, that of its law
						p := points[i]
						p.Number = i
						var at strained
						require.NoError(t, k.strained(&p, i, &at))
						s := k.true(&at)
						for d := range s {
							assert.InDelta(t, s[d], out[stress+d][i], 1e-6*e*1e-3)
							assert.InDelta(t, c.want[d], s[d], 0.02*lambda*2.5e-3, "and for strains this small nearly that of small ones")
						}
						assert.InDelta(t, first(out[mises][0], &uniform), out[mises][i], 1e-6*e*1e-3, "form %d, order %d", c.form, order)
						continue
					}
					for d, want := range c.want {
						assert.InDelta(t, want, out[stress+d][i], 1e-6*e*1e-3, "form %d, order %d, component %d", c.form, order, d)
					}
				}
				return nil
			}))
		}
	}
}

// first is the first of all values.
func first(v float64, of *float64) float64 {
	if math.IsNaN(*of) {
		*of = v
	}
	return *of
}

// TestPrincipalStresses against those of a stress that was turned.
func TestPrincipalStresses(t *testing.T) {
	for _, want := range [][3]float64{{3, 1, -2}, {5, 5, 1}, {1, -4, -4}, {2, 2, 2}, {0, 0, 0}, {1e8, 1e8 - 1, -1e8}} {
		a, b := 0.7, 1.1
		sa, ca, sb, cb := math.Sin(a), math.Cos(a), math.Sin(b), math.Cos(b)
		turn := [3][3]float64{{ca, -sa * cb, sa * sb}, {sa, ca * cb, -ca * sb}, {0, sb, cb}}
		var s [6]float64
		for i := range 3 {
			for j := i; j < 3; j++ {
				var v float64
				for k, w := range want {
					v += turn[i][k] * w * turn[j][k]
				}
				s[place[i][j]] = v
			}
		}
		got := principals(s)
		for i := range want {
			assert.InDelta(t, want[i], got[i], 1e-7*(1+math.Abs(want[0])))
		}
		x, y, z := want[0]-want[1], want[1]-want[2], want[2]-want[0]
		assert.InDelta(t, math.Sqrt((x*x+y*y+z*z)/2), vonMises(s), 1e-7*(1+math.Abs(want[0])))
	}
}

// TestWhatIsLoose: a plate that is held in fewer directions than it can move in is found.
func TestWhatIsLoose(t *testing.T) {
	m := plate(t, false)
	var bottom, rim []int32
	for k, f := range m.Facets {
		switch m.Sides[f.Side] {
		case shape.Bottom:
			bottom = append(bottom, int32(k))
		case "rim":
			rim = append(rim, int32(k))
		}
	}
	hold := func(facets []int32, components ...int) (list []couple.Held) {
		for _, c := range components {
			list = append(list, couple.Held{Facets: facets, Component: c, Value: fix(0)})
		}
		return list
	}
	for name, c := range map[string]struct {
		held  []couple.Held
		loose bool
	}{
		"free": {nil, true}, "on a table": {hold(bottom, 2), true}, "on a table with a rim": {append(hold(bottom, 2), hold(rim, 0)...), true},
		"held at its rim along x and y": {append(hold(bottom, 2), hold(rim, 0, 1)...), false}, "fixed below": {hold(bottom, 0, 1, 2), false},
	} {
		g, err := couple.New(m, 1, []couple.Field{{Name: "displacement", Components: 3, Held: c.held}}, &couple.Settings{})
		require.NoError(t, err)
		err = g.FixedRigid(0, false, nil)
		if c.loose {
			assert.Error(t, err, name)
		} else {
			assert.NoError(t, err, name)
		}
	}
}

// TestMassIsExact though the stiffness is many orders larger: a mass that were found as a
// difference of matrices would be round-off.
func TestMassIsExact(t *testing.T) {
	m := plate(t, false)
	g, err := couple.New(m, 1, []couple.Field{{Name: "displacement", Components: 3}}, &couple.Settings{Order: 2})
	require.NoError(t, err)
	k, err := NewKernel(g, &Problem{Inertia: true, Bodies: map[int32]Body{0: {Modulus: [3]Law{fix(1e12)}, Ratio: [3]Law{fix(0.3)}, Density: fix(1e-3)}}}, Components{0, -1, -1}, false)
	require.NoError(t, err)
	_, mass, err := g.System.Linearised(k, &fem.State{U: make([]float64, g.System.N)})
	require.NoError(t, err)
	var sum float64
	for _, v := range mass.Data {
		sum += v
	}
	assert.InEpsilon(t, 3*1e-3*g.Volume[0], sum, 1e-12)
}

// TestInvariantsFollowFromComponents: of smoothed stresses none of von Mises is negative, and they are
// those of the components; what is nowhere stays no number.
func TestInvariantsFollowFromComponents(t *testing.T) {
	values := make([][]float64, derived)
	for i := range values {
		values[i] = []float64{-1, -1, math.NaN()}
	}
	for i, s := range [][6]float64{{100, 0, 0, 0, 0, 0}, {50, 50, 50, 30, 0, 0}} {
		for d, v := range s {
			values[stress+d][i] = v
		}
	}
	invariants(values)
	assert.InDelta(t, 100, values[mises][0], 1e-9)
	assert.InDelta(t, 30*math.Sqrt(3), values[mises][1], 1e-9)
	for d, want := range []float64{80, 50, 20} {
		assert.InDelta(t, want, values[principal+d][1], 1e-9)
	}
	assert.True(t, math.IsNaN(values[mises][2]) && math.IsNaN(values[principal][2]))
}

// TestPowersAtCorners against those of M. L. Williams and of textbooks.
func TestPowersAtCorners(t *testing.T) {
	assert.InDelta(t, 0.5445, unbounded(1.5*math.Pi, 0), 2e-3)
	assert.InDelta(t, 0.5, unbounded(2*math.Pi, 0), 2e-3)
	assert.InDelta(t, 0.711, unbounded(math.Pi/2, 1), 2e-3, "beside a held face, ν = 0.3")
	assert.Equal(t, 1.0, unbounded(math.Pi/2, 0))
	assert.Equal(t, 1.0, unbounded(math.Pi/3, 1))
	assert.Less(t, unbounded(1.5*math.Pi, 2), 0.65)
}
