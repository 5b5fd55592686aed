package result

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"saltkettle/core/fem"
	"saltkettle/core/mesh"
	"saltkettle/core/shape"
)

// TestBarsAreDrawnAsTubes: as one closed tube along a body, with the values of the points of its bars.
func TestBarsAreDrawnAsTubes(t *testing.T) {
	g := &fem.Grid{Nodes: []float64{0, 0, 0, 2, 0, 0, 2, 0, 3}, Blocks: []fem.Block{{Element: fem.NewElement(mesh.Bar, 1), Cells: []int32{0, 1, 1, 2}, Part: []int32{0, 0}}}}
	points := g.Points(1)
	faces := []Face{{Side: fem.Side{Cell: 0, Facet: fem.Itself}}, {Side: fem.Side{Cell: 1, Facet: fem.Itself}}}
	s := NewSurface(g, points, faces, []string{""}, [][2]int{{0, 0}}, 0.1)
	assert.Equal(t, 3*shape.TubeSides, s.Counts.Vertices)
	assert.Equal(t, 2*2*shape.TubeSides+2*(shape.TubeSides-2), s.Counts.Triangles)
	edges := map[[2]uint32]int{}
	for i := 0; i < len(s.triangles); i += 3 {
		for k := range 3 {
			a, b := s.triangles[i+k], s.triangles[i+(k+1)%3]
			edges[[2]uint32{a, b}]++
		}
	}
	for e, n := range edges {
		assert.Equal(t, 1, n)
		assert.Equal(t, 1, edges[[2]uint32{e[1], e[0]}], "it is closed, and turns one way")
	}
	for i, p := range s.point {
		at := s.positions[3*i : 3*i+3]
		far := 0.0
		for d := range 3 {
			far = math.Hypot(far, float64(at[d])-points.At[3*int(p)+d])
		}
		assert.InDelta(t, 0.1, far, 1e-6, "round its point")
	}
	assert.NoError(t, s.Show([]Field{{FieldName: FieldName{Name: "v"}, Values: []float64{1, 2, 3}}}))
	assert.Equal(t, s.Groups[0].Count, s.Groups[0].Sides[0].Count)
}
