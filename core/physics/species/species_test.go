package species

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

// vat is a section of 20 × 10 mm.
func vat(t *testing.T) *mesh.Mesh {
	t.Helper()
	o, err := shape.Rectangle(0.02, 0.01)
	require.NoError(t, err)
	m, err := mesh.NewStack([]mesh.StackBody{{Body: shape.Body{Outline: o, Z1: 0.01}, Size: 0.004, Across: 1}}, &mesh.StackSettings{Flat: true})
	require.NoError(t, err)
	return m
}

// stream is a flow with one velocity everywhere.
type stream struct{ u [3]float64 }

func (s stream) Cell(*fem.Point, *fem.Terms) error         { return nil }
func (s stream) Timeless() bool                            { return true }
func (s stream) Prepare(int, []fem.Point) error            { return nil }
func (s stream) SuppliesIn(string, int32) (any, vary bool) { return true, false }
func (s stream) SuppliesAt(string, int) (any, vary bool)   { return false, false }
func (s stream) Supply(_ string, _ *fem.Point, j *couple.Jet) {
	for d, v := range s.u {
		j.Value[d] += v
	}
}
func (s stream) SupplyJoint(string, int, *fem.Point, []float64, *couple.JointJet) error { return nil }

// TestTangents: the derivatives of all terms are those that differences show, of two species that react with each
// other within and at a surface, with the temperature, in time, in a stream that cells are coarse for.
func TestTangents(t *testing.T) {
	m := vat(t)
	var outside []int32
	for k := range m.Facets {
		outside = append(outside, int32(k))
	}
	rate := lawtest.Of(t, "-2 m³/(mol·s)*concentration_1*concentration_3*exp(0.01 1/K*(temperature - 300 K))")
	p := &Problem{Transient: true, Order: 2,
		Species:  []Species{{Number: 0, Diffusivity: map[int32]Law{0: lawtest.Of(t, "1e-4 m²/s*(1 + concentration_3/(9 mol/m³))")}}, {Number: 2, Diffusivity: map[int32]Law{0: lawtest.Of(t, "2e-4 m²/s*(temperature/300 K)")}}},
		Sources:  []Source{{Species: 0, Bodies: map[int32]bool{0: true}, Rate: rate}, {Species: 1, Bodies: map[int32]bool{0: true}, Rate: rate}},
		Entrants: []Entrant{{Species: 1, Facets: outside, Flux: lawtest.Of(t, "-3e-3 m/s*concentration_3*concentration_1/(1 mol/m³)")}}}
	g, err := couple.New(m, 1, []couple.Field{{Name: "temperature"}, {Name: "a", Changes: true}, {Name: "b", Changes: true}}, &couple.Settings{Order: 2, Facets: outside})
	require.NoError(t, err)
	for name, carry := range map[string][]couple.Supply{"at rest": nil, "in a stream": {{Kernel: stream{[3]float64{0.4, -0.2, 0}}, Quantity: couple.VolumeStream}}} {
		k, err := NewKernel(g, p, 1, 0, true, carry...)
		require.NoError(t, err)
		at := fem.Point{X: [3]float64{0.005, 0.004, 0}, Normal: [3]float64{0.6, 0.8, 0}, U: []float64{310, 2, 3}, Named: []int{1, -1, 2}, Rate: []float64{0, 0.3, -0.2},
			Grad: [][3]float64{{3, -2, 0}, {0.4, 0.7, 0}, {-1, 0.2, 0}}, Inverse: [3][3]float64{{250, 20, 0}, {-30, 240, 0}, {0, 0, 100}}}
		for _, side := range []int{-1, 0} {
			worst, what, err := fem.CheckTangent(k, &at, side)
			require.NoError(t, err)
			assert.Less(t, worst, 2e-5, "%s, side %d: %s", name, side, what)
		}
		assert.False(t, k.Straight())
		assert.True(t, k.Timeless())
	}
}

// TestWhereCellsAreCoarse: the stabilisation acts where a function of a cell spans much of what spreads, grows with
// the cell, and is nothing elsewhere.
func TestWhereCellsAreCoarse(t *testing.T) {
	at := func(size float64) *fem.Point {
		return &fem.Point{Inverse: [3][3]float64{{2 / size, 0, 0}, {0, 2 / size, 0}, {0, 0, 2 / size}}}
	}
	u := [3]float64{0.3, 0.4, 0}
	time := func(size float64, u [3]float64, diffusivity float64, order int) float64 {
		tau, _ := couple.StreamTime(at(size), u, diffusivity, order)
		return tau
	}
	assert.Zero(t, time(0.01, u, 1, 1), "spreading rules")
	assert.Zero(t, time(0.01, [3]float64{}, 0, 1), "nothing flows")
	assert.InEpsilon(t, 0.01/(2*0.5), time(0.01, u, 0, 1), 1e-12, "half the time through the cell")
	assert.InEpsilon(t, 0.01/(4*0.5), time(0.01, u, 0, 2), 1e-12)
	assert.Less(t, time(0.01, u, 1e-3, 1), 0.01)
}
