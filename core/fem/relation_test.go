package fem

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/mesh"
	"saltkettle/core/sparse"
)

// on lists the nodes of a grid at which a function of the place vanishes.
func (g *Grid) on(f func(x [3]float64) float64) (list []int32) {
	for v := range int32(g.NodeCount()) {
		if math.Abs(f(g.At(v))) < 1e-9 {
			list = append(list, v)
		}
	}
	return list
}

// TestPeriodicWithAnOffset: a field that is 5 higher on one side than on the other, wherever it
// is, is straight between, in every form of cell and order.
func TestPeriodicWithAnOffset(t *testing.T) {
	for _, form := range []mesh.Form{mesh.Triangle, mesh.Quadrilateral, mesh.Tetrahedron, mesh.Hexahedron, mesh.Wedge} {
		for _, order := range []int{1, 2} {
			g := cube(form, 3, 0)
			if order == 2 {
				g = g.Elevated(nil)
			}
			s, err := NewSystem(g, []Field{{Components: 1}}, nil)
			require.NoError(t, err)
			left, right := g.on(func(x [3]float64) float64 { return x[0] }), g.on(func(x [3]float64) float64 { return x[0] - 1 })
			require.Equal(t, len(left), len(right))
			u, r := solved(t, s, conduction{}, func(c *Constraints) {
				s.Hold(c, 0, 0, left[:1], func([3]float64) float64 { return 2 })
				for _, a := range right {
					for _, b := range left {
						x, y := g.At(a), g.At(b)
						if x[0] = 0; distance(x, y) < 1e-9 {
							c.Relations = append(c.Relations, Relation{Of: s.Equation(0, 0, a), By: []int32{s.Equation(0, 0, b)}, Factors: []float64{1}, Value: 5})
						}
					}
				}
				require.Len(t, c.Relations, len(left))
			}, sparse.Symmetric)
			assert.True(t, r.Settled)
			assert.Less(t, misfit(t, s, u, func(x [3]float64) float64 { return 2 + 5*x[0] }), 1e-9, "form %v, order %d", form, order)
		}
	}
}

// TestGivenMean: where nothing else fixes its level, the mean of a field may be given; what is
// held in a relation is respected.
func TestGivenMean(t *testing.T) {
	g := cube(mesh.Hexahedron, 3, 0.1)
	s, err := NewSystem(g, []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	relation := Relation{Of: 7, Value: 3 * float64(s.N)}
	for i := range int32(s.N) {
		if i != 7 {
			relation.By, relation.Factors = append(relation.By, i), append(relation.Factors, -1)
		}
	}
	u, _ := solved(t, s, conduction{}, func(c *Constraints) { c.Relations = []Relation{relation} }, sparse.Symmetric)
	assert.Less(t, misfit(t, s, u, func([3]float64) float64 { return 3 }), 1e-9)
	// The unknown that it is given for is held: another one is taken out.
	u, _ = solved(t, s, conduction{}, func(c *Constraints) {
		c.Fixed[7], c.Value[7] = true, 3
		c.Relations = []Relation{relation}
	}, sparse.Symmetric)
	assert.Less(t, misfit(t, s, u, func([3]float64) float64 { return 3 }), 1e-9)
}

// TestPatchAsOne: a patch with one unknown of its own, on which something acts.
func TestPatchAsOne(t *testing.T) {
	g := cube(mesh.Wedge, 4, 0)
	s, err := NewSystem(g, []Field{{Components: 1}}, &SystemSettings{Extra: []int{0}})
	require.NoError(t, err)
	all := s.Extra(0)
	u, r := solved(t, s, conduction{}, func(c *Constraints) {
		s.Hold(c, 0, 0, g.on(func(x [3]float64) float64 { return x[0] }), func([3]float64) float64 { return 0 })
		for _, v := range g.on(func(x [3]float64) float64 { return x[0] - 1 }) {
			c.Relations = append(c.Relations, Relation{Of: s.Equation(0, 0, v), By: []int32{all}, Factors: []float64{1}})
		}
		c.Load = map[int32]float64{all: 7}
	}, sparse.Symmetric)
	assert.InEpsilon(t, 7, u[all], 1e-9, "the flux over an area of 1 at a conductivity of 1")
	assert.Less(t, misfit(t, s, u, func(x [3]float64) float64 { return 7 * x[0] }), 1e-9)
	var held float64
	for _, v := range g.on(func(x [3]float64) float64 { return x[0] }) {
		held += r.Reaction[s.Equation(0, 0, v)]
	}
	assert.InDelta(t, -7, held, 1e-9)
}

// TestChainsOfRelations are followed to their end, also against their order, and what they
// leave over without a contradiction does nothing.
func TestChainsOfRelations(t *testing.T) {
	g := cube(mesh.Quadrilateral, 2, 0)
	s, err := NewSystem(g, []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	c := s.NewConstraints()
	c.Fixed[0], c.Value[0] = true, 1
	one := []float64{1}
	c.Relations = []Relation{{Of: 2, By: []int32{1}, Factors: []float64{2}}, {Of: 1, By: []int32{0}, Factors: one, Value: 1}, {Of: 2, By: []int32{0}, Factors: one, Value: 3}}
	u := make([]float64, s.N)
	e, err := s.newElimination(c)
	require.NoError(t, err)
	u[0] = 1
	e.complete(u)
	assert.InDeltaSlice(t, []float64{1, 2, 4}, u[:3], 1e-14)
	c.Relations[2].Value = 4
	_, err = s.newElimination(c)
	assert.ErrorContains(t, err, "contradicts")
}
