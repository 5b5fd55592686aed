package own

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
	"saltkettle/core/law/lawtest"
	"saltkettle/core/mesh"
	"saltkettle/core/shape"
)

// TestTangents: the derivatives of all terms are those that differences show, of an equation in a body and of one on its surface, each of which depends on the
// other, on itself and on the temperature, and of what enters.
func TestTangents(t *testing.T) {
	o, err := shape.Rectangle(2, 1)
	require.NoError(t, err)
	m, err := mesh.NewStack([]mesh.StackBody{{Body: shape.Body{Outline: o, Z1: 1}, Size: 0.5, Across: 1}}, &mesh.StackSettings{Flat: true})
	require.NoError(t, err)
	var facets []int32
	for k := range m.Facets {
		facets = append(facets, int32(k))
	}
	terms := func() *Terms {
		l := func(text string) Law { return lawtest.Of(t, text) }
		return &Terms{Spread: [3]Law{l("1 + own_1^2 + 0.1*own_2"), l("2 + 0.2*own_1"), nil}, Stored: l("1 + 0.3*own_2"), Carried: [3]Law{l("3 + own_1"), l("-2"), nil},
			Besides: [][3]Law{{l("own_1*own_2"), l("x/1 m + own_2^2"), nil}}, Arises: []Law{l("own_1*own_2*(temperature/300 K)"), l("-2*own_1^2")}, ArisesBy: []int{1, 2}, StoredBy: 3, CarriedBy: 4}
	}
	p := &Problem{Transient: true, Order: 2, Accounts: 5, Equations: []Equation{{Number: 0, Bodies: map[int32]*Terms{0: terms()}}, {Number: 1, Facets: map[int32]*Terms{}}},
		Entrants: []Entrant{{Equation: 0, Facets: facets, Flux: lawtest.Of(t, "0.4*own_1*own_2")}}}
	for _, k := range facets {
		side := terms()
		side.Carried = [3]Law{}
		p.Equations[1].Facets[k] = side
	}
	g, err := couple.New(m, 1, []couple.Field{{Name: "temperature"}, {Name: law.OwnOf(0), Changes: true}, {Name: law.OwnOf(1), Facets: facets, Changes: true}}, &couple.Settings{Order: 2, Facets: facets})
	require.NoError(t, err)
	k, err := newKernel(g, p, 1, 0, true)
	require.NoError(t, err)
	assert.False(t, k.Straight())
	assert.False(t, k.LinearCells(0))
	assert.True(t, k.Streams())
	assert.True(t, k.Timeless())
	named := make([]int, law.Named)
	for i := range named {
		named[i] = -1
	}
	named[law.Species], named[law.Species+1] = 1, 2
	at := fem.Point{X: [3]float64{0.5, 0.4, 0}, Normal: [3]float64{0.6, 0.8, 0}, U: []float64{310, 1.2, 0.7}, Rate: []float64{0, 0.3, -0.2}, Named: named,
		Grad: [][3]float64{{}, {0.4, 0.7, 0}, {0.8, -0.6, 0}}, Inverse: [3][3]float64{{25, 2, 0}, {-3, 24, 0}, {0, 0, 10}}}
	for _, side := range []int{-1, 0} {
		worst, what, err := fem.CheckTangent(k, &at, side)
		require.NoError(t, err)
		// How long what is left over counts along the stream goes by the spread, which is taken to stay.
		assert.Less(t, worst, map[int]float64{-1: 5e-2, 0: 2e-5}[side], "side %d: %s", side, what)
	}
}
