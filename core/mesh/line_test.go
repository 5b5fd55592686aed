package mesh

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/shape"
)

func lineOf(t *testing.T, points ...[3]float64) LineBody {
	t.Helper()
	var list []shape.LinePoint
	for _, x := range points {
		list = append(list, shape.LinePoint{Name: string(rune('a' + len(list))), At: x})
	}
	l, err := shape.NewLine(list)
	require.NoError(t, err)
	return LineBody{Line: l, Opens: make([]bool, len(points)), Wide: make([]bool, len(points))}
}

// woven makes a mesh of lines.
func woven(t *testing.T, lines ...LineBody) *Mesh {
	t.Helper()
	m := &Mesh{Sides: []string{""}}
	require.NoError(t, m.AddLines(lines, 0))
	return m
}

// TestLinesAreJoined: where they have points at one place, where an end lies on another one, and nowhere else.
func TestLinesAreJoined(t *testing.T) {
	m := woven(t, lineOf(t, [3]float64{0, 0, 0}, [3]float64{10, 0, 0}), lineOf(t, [3]float64{10, 0, 0}, [3]float64{10, 5, 0}),
		lineOf(t, [3]float64{4, 0, 0}, [3]float64{4, 3, 0}), lineOf(t, [3]float64{7, 0, 0}, [3]float64{7, 0, 2}), lineOf(t, [3]float64{2, -1, 0}, [3]float64{2, 1, 0}))
	assert.Equal(t, 3+1+1+1+1, m.CellCount(), "two ends on the first divide it into three, and what only crosses it divides nothing")
	assert.Equal(t, 2+1+2+2+2, m.NodeCount())
	var long float64
	for i := range 3 {
		p := m.Piece(int32(i))
		long += p.Length
		assert.InDelta(t, p.Length, m.Size(int32(i)), 1e-12)
	}
	assert.InDelta(t, 10, long, 1e-12)
	assert.Len(t, m.Facets, 10, "both ends of each")
	for _, f := range m.Facets {
		assert.Contains(t, []string{"a", "b"}, m.Sides[f.Side])
		assert.Len(t, f.Corners(), 1)
	}
}

// TestLinesAreOpenedAtPoints: what is at a point has a cell of its own, short to look at and of no length, between the line before and behind it.
func TestLinesAreOpenedAtPoints(t *testing.T) {
	first, second := lineOf(t, [3]float64{0, 0, 0}, [3]float64{5, 0, 0}, [3]float64{5, 5, 0}), lineOf(t, [3]float64{0, 0, 0}, [3]float64{-3, 0, 0})
	first.Opens[1], first.Wide[0] = true, true
	first.Size = 2.5
	m := woven(t, first, second)
	var at []int32
	var long float64
	for i := range m.Lines.Pieces {
		p := m.Piece(int32(i))
		if at = append(at, p.Point); p.Point >= 0 {
			assert.Zero(t, p.Length)
		}
		if m.Body[i] == 0 {
			long += p.Length
		}
	}
	assert.Equal(t, []int32{0, -1, -1, 1, -1, -1, 0, -1}, at, "both lines are opened where something is for all that end there")
	assert.InDelta(t, 10, long, 1e-12)
	for i := 1; i < 6; i++ {
		assert.Equal(t, m.Cell(int32(i - 1))[1], m.Cell(int32(i))[0], "they follow each other")
	}
	assert.Equal(t, m.Cell(0)[0], m.Cell(6)[0], "both begin where they meet")
	for _, f := range m.Facets {
		if m.Body[f.Cell] == 0 && m.Sides[f.Side] == "b" {
			assert.Equal(t, m.Cell(3)[0], f.Nodes[0])
		}
	}
	assert.Equal(t, float32(60), m.Angles()[0])
}

func TestTooManyCellsOnLines(t *testing.T) {
	l := lineOf(t, [3]float64{0, 0, 0}, [3]float64{5, 0, 0})
	l.Size = 0.01
	assert.ErrorContains(t, (&Mesh{Sides: []string{""}}).AddLines([]LineBody{l}, 100), "more than 100 cells")
}
