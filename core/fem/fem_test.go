package fem

import (
	"math"
	"runtime"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/mesh"
	"saltkettle/core/shape"
	"saltkettle/core/sparse"
)

// block is an unstructured mesh of a box with a disc standing on it.
func block(t *testing.T) *mesh.Mesh {
	t.Helper()
	box, err := shape.Rectangle(0.08, 0.05)
	require.NoError(t, err)
	post, err := shape.Disc(0.02)
	require.NoError(t, err)
	m, err := mesh.NewStack([]mesh.StackBody{
		{Body: shape.Body{Outline: box, Z0: 0, Z1: 0.01}, Size: 0.006, Across: 2},
		{Body: shape.Body{Part: 1, Outline: post.Move(0.01, 0.005, 0), Z0: 0.01, Z1: 0.04}, Size: 0.004, Across: 2},
	}, nil)
	require.NoError(t, err)
	return m
}

// conducting is conduction with an own coefficient in each part and a source that
// grows with the field.
type conducting struct{ source float64 }

func (k conducting) Cell(p *Point, t *Terms) error {
	c := 1 + 4*float64(p.Part)
	for d, g := range p.Grad[0] {
		t.Flux[0][d] += c * g
		t.FluxGrad[0][d][d] += c
	}
	t.Source[0] -= k.source * (1 + p.U[0])
	t.SourceU[0] -= k.source
	return nil
}

// TestDeviceMesh: on the mesh of a device volumes and areas are those of its shape,
// the pattern is that of the cells, the matrix has constants in its kernel and does
// not depend on the number of cores, and turned cells are found.
func TestDeviceMesh(t *testing.T) {
	m := block(t)
	g := FromMesh(m)
	sides := g.Sides()
	s, err := NewSystem(g, []Field{{Name: "u", Components: 1}}, &SystemSettings{Sides: sides})
	require.NoError(t, err)
	at := &State{U: make([]float64, s.N)}
	volume := map[int32]float64{}
	require.NoError(t, s.EachCell(at, nil, func(points []Point, weights []float64) error {
		for i, w := range weights {
			volume[points[i].Part] += w
			assert.Equal(t, points[0].Part, points[i].Part, "one part at a time")
		}
		return nil
	}))
	assert.InEpsilon(t, 0.08*0.05*0.01, volume[0], 1e-12)
	assert.InEpsilon(t, math.Pi*1e-4*0.03, volume[1], 5e-3)
	var top float64
	require.NoError(t, s.EachSide(at, sides, func(n int, points []Point, weights []float64) error {
		for i, w := range weights {
			if sides[n].Other < 0 && points[i].Normal[2] > 0.999 {
				top += w
			}
		}
		return nil
	}))
	assert.InEpsilon(t, 0.08*0.05, top, 1e-12, "what looks up is the plan")

	a, b := s.NewMatrix(), make([]float64, s.N)
	require.NoError(t, s.Assemble(conducting{}, at, b, a))
	ones := make([]float64, s.N)
	for i := range ones {
		ones[i] = 1
	}
	out := make([]float64, s.N)
	a.MulVec(out, ones)
	assert.Less(t, sparse.Norm(out), 1e-12*sparse.Norm(a.Data))
	near := map[[2]int32]bool{}
	for c := range m.CellCount() {
		for _, v := range g.Blocks[0].Nodes(c) {
			for _, u := range g.Blocks[0].Nodes(c) {
				near[[2]int32{v, u}] = true
			}
		}
	}
	assert.Len(t, near, len(a.Data))
	before := runtime.GOMAXPROCS(1)
	single, c := s.NewMatrix(), make([]float64, s.N)
	require.NoError(t, s.Assemble(conducting{2}, at, c, single))
	runtime.GOMAXPROCS(2)
	double, d := s.NewMatrix(), make([]float64, s.N)
	require.NoError(t, s.Assemble(conducting{2}, at, d, double))
	runtime.GOMAXPROCS(before)
	worst := 0.0
	for i := range single.Data {
		worst = max(worst, math.Abs(single.Data[i]-double.Data[i]))
	}
	assert.Less(t, worst, 1e-15*sparse.Norm(single.Data))
	assert.InEpsilon(t, -2*(volume[0]+volume[1]), sum64(c), 1e-12)

	first := m.Cell(0)
	first[0], first[1] = first[1], first[0]
	assert.ErrorIs(t, s.Assemble(conducting{}, at, b, a), ErrInverted)
}

func sum64(list []float64) (sum float64) {
	for _, v := range list {
		sum += v
	}
	return sum
}

// TestLevelField: a field that is level on a set of nodes, with a given flow into
// them, against the value that such a flow needs when the nodes are held; a second
// field is not touched by it.
func TestLevelField(t *testing.T) {
	g := cube(mesh.Hexahedron, 3, 0)
	var left, right []int32
	var inlet []Side
	for v := range g.NodeCount() {
		switch x := g.At(int32(v))[0]; {
		case x < 1e-9:
			left = append(left, int32(v))
		case x > 1-1e-9:
			right = append(right, int32(v))
		}
	}
	for _, s := range g.Sides() {
		nodes := g.SideNodes(s)
		all := s.Other < 0
		for _, v := range nodes {
			all = all && g.At(v)[0] > 1-1e-9
		}
		if all {
			inlet = append(inlet, s)
		}
	}
	fields := []Field{{Name: "u", Components: 1}, {Name: "w", Components: 1}}
	s, err := NewSystem(g, fields, &SystemSettings{Sides: inlet, Level: map[int][][]int32{0: {right}}})
	require.NoError(t, err)
	assert.Equal(t, 2*g.NodeCount()-len(right)+1, s.N)
	c := s.NewConstraints()
	for f := range fields {
		s.Hold(c, f, 0, left, func([3]float64) float64 { return 0 })
	}
	at := &State{U: make([]float64, s.N)}
	_, err = s.Solve(t.Context(), inflow{}, at, c, nil)
	require.NoError(t, err)
	// k(y) = 1 + y: the mean conductance is 3/2, and a flow of 3 needs a step of 2;
	// where the flow is spread evenly the field follows the conductivity.
	for _, v := range right {
		assert.InDelta(t, 2, at.U[s.Equation(0, 0, v)], 1e-9)
	}
	low, high := math.Inf(1), math.Inf(-1)
	for _, v := range right {
		u := at.U[s.Equation(1, 0, v)]
		low, high = min(low, u), max(high, u)
	}
	assert.Greater(t, high-low, 0.3)
	_, err = NewSystem(g, fields, &SystemSettings{Level: map[int][][]int32{0: {right, right[:1]}}})
	assert.ErrorContains(t, err, "two sets on which u is level")
}

// inflow is conduction of two fields with k = 1 + y and a flow of 3 in all into each.
type inflow struct{}

func (inflow) Cell(p *Point, t *Terms) error {
	for f := range 2 {
		for d, g := range p.Grad[f] {
			t.Flux[f][d] = (1 + p.X[1]) * g
			t.FluxGrad[t.Index(f, f)][d][d] = 1 + p.X[1]
		}
	}
	return nil
}

func (inflow) Side(_ int, _ *Point, t *Terms) error {
	t.Source[0], t.Source[1] = -3, -3
	return nil
}
