package film

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law/lawtest"
	"saltkettle/core/mesh"
	"saltkettle/core/shape"
)

// TestTangents: the derivatives of all terms on a side are those that differences show, of a film of which something is missing, under a load, tilted, on
// what bends and is warmed by it, whole and broken up, at rest and in time. Its sizes are such that all of them count.
func TestTangents(t *testing.T) {
	o, err := shape.Rectangle(2, 1)
	require.NoError(t, err)
	m, err := mesh.NewStack([]mesh.StackBody{{Body: shape.Body{Outline: o, Z1: 1}, Size: 0.5, Across: 1}}, &mesh.StackSettings{Flat: true})
	require.NoError(t, err)
	var facets []int32
	for k := range m.Facets {
		facets = append(facets, int32(k))
	}
	on := func(name string) couple.Field { return couple.Field{Name: name, Facets: facets} }
	even := func(name string) couple.Field { return couple.Field{Name: name, Facets: facets, Even: true} }
	g, err := couple.New(m, 1, []couple.Field{{Name: "temperature"}, {Name: "displacement", Components: 2}, on("over"), {Name: "void", Facets: facets, Order: 1}, even("force"), even("lift"), even("tilt")}, &couple.Settings{Order: 2, Facets: facets})
	require.NoError(t, err)
	for _, transient := range []bool{false, true} {
		for _, whole := range []bool{false, true} {
			f := &Film{Facets: facets, Thickness: lawtest.Of(t, "0.5 m + 0.1*x + 0.05*y + 0.02 m/s*time"), Viscosity: lawtest.Of(t, "2 Pa·s*exp(-0.2/K*(temperature - 300 K))"), Closes: lawtest.Of(t, "0.03 m/s"),
				Facing: [3]Law{lawtest.Of(t, "0.7 m/s"), lawtest.Of(t, "0.2 m/s"), nil}, Slides: [3]Law{lawtest.Of(t, "-0.1 m/s"), nil, nil}, Bears: lawtest.Of(t, "3 N"), Tilts: true, At: [3]float64{0.3, 0.1, 0},
				Breaks: -0.2, Whole: whole, Stiffens: 0.3, Pushes: true, Yields: true, Warms: 0.4, force: 2, lift: 3, tilt: 4, ways: 1, area: 6}
			p := &Problem{Transient: transient, Films: []*Film{f}, Of: map[int32]*Film{}}
			for _, k := range facets {
				p.Of[k] = f
			}
			k, err := newKernel(g, p, 3, 0, 1, 2)
			require.NoError(t, err)
			at := fem.Point{X: [3]float64{0.5, 0.4, 0}, Time: 0.5, Normal: [3]float64{0.6, 0.8, 0}, U: []float64{301, 0.02, -0.03, 1.3, 0.2, 2.5, 4e10, 3e10}, Rate: []float64{0, 0, 0, 0.2, 0.3, 0, 2e10, -1e10},
				Grad: [][3]float64{{}, {0.02, 0.01, 0}, {-0.03, 0.02, 0}, {0.8, -0.6, 0}, {0.24, -0.18, 0}, {}, {}, {}}, Inverse: [3][3]float64{{2, 0.3, 0}, {-0.2, 2.2, 0}, {0, 0, 1}}}
			worst, what, err := fem.CheckTangent(k, &at, 0)
			require.NoError(t, err)
			assert.Less(t, worst, 2e-5, "in time: %v, whole: %v: %s", transient, whole, what)
		}
	}
}

// TestOneOfBoth: at a node the pressure above that at which a film breaks up, or what is missing, is nothing, whichever is given.
func TestOneOfBoth(t *testing.T) {
	k := &Kernel{p: 0, scale: 100, facets: []int32{7}, problem: &Problem{Of: map[int32]*Film{7: {}}}}
	for _, c := range []struct{ over, missing, want float64 }{{50, 0, 0}, {0, 0.3, 0}, {-1, 0, -0.02}, {0, -0.1, -0.2}, {50, 0.5, 0.293}} {
		terms := fem.NewTerms(2)
		require.NoError(t, k.Corner(0, &fem.Point{U: []float64{c.over, c.missing}}, terms))
		assert.InDelta(t, c.want, terms.Source[1], 1e-3)
		assert.Zero(t, terms.Source[0])
	}
	assert.True(t, k.HasCorners(0))
}
