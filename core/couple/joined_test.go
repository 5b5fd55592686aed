package couple

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/sparse"
)

// TestFreeMotions: what a body can still do is told by its motions along and about the axes, and about others where it is held
// on a line beside its middle.
func TestFreeMotions(t *testing.T) {
	x, y, z := [3]float64{1, 0, 0}, [3]float64{0, 1, 0}, [3]float64{0, 0, 1}
	hold := func(at [][3]float64, along ...[3]float64) (places, directions [][3]float64) {
		for _, p := range at {
			for _, d := range along {
				places, directions = append(places, p), append(directions, d)
			}
		}
		return places, directions
	}
	assert.Len(t, Free(3, false, nil, nil), 6)
	assert.Len(t, Free(2, false, nil, nil), 3)
	assert.Len(t, Free(2, true, nil, nil), 1, "round an axis a body can move along that alone")
	// A table.
	at, along := hold([][3]float64{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}}, z)
	list := Free(3, false, at, along)
	require.Len(t, list, 3)
	assert.Equal(t, x, list[0].Move)
	assert.Equal(t, y, list[1].Move)
	assert.InDelta(t, 1, list[2].Turn[2], 1e-12)
	// A hinge along y, at x = 3.
	at, along = hold([][3]float64{{3, 0, 0}, {3, 1, 0}, {3, 2, 0}}, x, y, z)
	list = Free(3, false, at, along)
	require.Len(t, list, 1)
	assert.InDelta(t, 1, math.Abs(list[0].Turn[1]), 1e-9)
	assert.InDelta(t, 3, list[0].Through[0], 1e-9)
	// Held in three directions at one place it turns about any axis, and at three places not at all.
	at, along = hold([][3]float64{{1, 2, 3}}, x, y, z)
	assert.Len(t, Free(3, false, at, along), 3)
	at, along = hold([][3]float64{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}}, x, y, z)
	assert.Empty(t, Free(3, false, at, along))
}

// TestCombine finds the factors of rows that make up another one.
func TestCombine(t *testing.T) {
	rows := [][]float64{{1, 0, 0, 2}, {0, 0, 1e-3, 1}, {3, 1, 0, 0}}
	want := []float64{0.5, -2, 4}
	row := make([]float64, 4)
	for i, f := range want {
		for k, v := range rows[i] {
			row[k] += f * v
		}
	}
	for i, f := range combine(rows, row) {
		assert.InDelta(t, want[i], f, 1e-9)
	}
}

// TestPatchThatMovesAsOne: all of a face of a box follows from as many of its unknowns as a rigid body has motions, and does what
// that does.
func TestPatchThatMovesAsOne(t *testing.T) {
	m := turned(t, 0.3, false)
	right := side(m, 0, "right")
	g, err := New(m, 1, []Field{{Name: "u", Components: 3, Rigid: true, Patches: []Patch{{Facets: right}}}}, &Settings{Order: 2})
	require.NoError(t, err)
	nodes := nodesOf(g.grid, g.sides, right)
	assert.Len(t, g.joined, 3*len(nodes)-6)
	motion := func(x [3]float64) [3]float64 { // a move and a turn
		return [3]float64{1 + 0.2*x[1] - 0.3*x[2], 2 - 0.2*x[0] + 0.5*x[2], 3 + 0.3*x[0] - 0.5*x[1]}
	}
	u := make([]float64, g.System.N)
	for v := range int32(g.grid.NodeCount()) {
		for c, x := range motion(g.grid.At(v)) {
			u[g.System.Equation(0, c, v)] = x
		}
	}
	for _, r := range g.joined {
		sum := r.Value
		for i, by := range r.By {
			sum += r.Factors[i] * u[by]
		}
		assert.InDelta(t, u[r.Of], sum, 1e-12)
	}
}

// TestNodalPattern has all that the rows of a node have, also if relations leave one of them its diagonal alone.
func TestNodalPattern(t *testing.T) {
	a := &sparse.CSR{
		Rows: []int32{0, 1, 4, 5, 8},
		Cols: []int32{0, 0, 1, 3, 2, 0, 2, 3},
		Data: make([]float64, 8),
	}
	got := nodal(a, 2)
	assert.Equal(t, []int32{0, 2, 4}, got.Rows)
	assert.Equal(t, []int32{0, 1, 0, 1}, got.Cols)
	assert.Len(t, got.Data, 4)
}
