package mesh

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/shape"
)

// stackOf makes a body of an outline.
func stackOf(t *testing.T, o shape.Outline, err error, z0, z1, size float64) StackBody {
	t.Helper()
	require.NoError(t, err)
	return StackBody{Body: shape.Body{Outline: o, Z0: z0, Z1: z1}, Size: size, Across: 1}
}

func rect(t *testing.T, w, d, x, y, z0, z1, size float64) StackBody {
	o, err := shape.Rectangle(w, d)
	return stackOf(t, o.Move(x, y, 0), err, z0, z1, size)
}

// volumes of the bodies of a mesh, each cell of which is upright and positive.
func volumes(t *testing.T, m *Mesh, n int) []float64 {
	t.Helper()
	v := make([]float64, n)
	for c := range m.CellCount() {
		x := m.Size(int32(c))
		require.Positive(t, x)
		v[m.Body[c]] += x
	}
	return v
}

// areaOf a side of a body.
func areaOf(m *Mesh, body int32, side string) float64 {
	var sum float64
	for i := range m.Facets {
		f := &m.Facets[i]
		if f.Body == body && m.Sides[f.Side] == side || f.OtherBody == body && m.Sides[f.OtherSide] == side {
			v := facetVector(m, f)
			sum += math.Sqrt(v[0]*v[0] + v[1]*v[1] + v[2]*v[2])
		}
	}
	return sum
}

// TestCellsNearASide: short edges at one side, that grow with the distance, and thin
// layers at the top.
func TestCellsNearASide(t *testing.T) {
	b := rect(t, 0.1, 0.06, 0, 0, 0, 0.04, 0.02)
	coarse, err := NewStack([]StackBody{b}, nil)
	require.NoError(t, err)
	b.Near = []Near{{"left", 1e-3}, {"top", 5e-4}}
	m, err := NewStack([]StackBody{b}, &StackSettings{Growth: 0.3})
	require.NoError(t, err)
	volumes(t, m, 1)
	assert.Greater(t, m.CellCount(), 10*coarse.CellCount())
	longest := map[bool]float64{}
	for _, tri := range m.Plan.Triangles {
		for i := range 3 {
			a, c := m.Plan.Points[tri[i]], m.Plan.Points[tri[next(i)]]
			near := max(a.X, c.X) + 0.05
			l := math.Sqrt(sq(a, c))
			assert.Less(t, l, 2.2*(1e-3+0.3*near), "an edge %g m from the side", near)
			longest[near > 0.08] = max(longest[near > 0.08], l)
		}
	}
	assert.Greater(t, longest[true], 0.012, "far away cells are large")
	// Layers grow from the top downward, none by much more than asked for.
	n := len(m.Levels)
	assert.InDelta(t, 5e-4, m.Levels[n-1]-m.Levels[n-2], 2e-4)
	for i := n - 2; i > 0; i-- {
		above, below := m.Levels[i+1]-m.Levels[i], m.Levels[i]-m.Levels[i-1]
		assert.Less(t, below, 1.5*above)
		assert.Greater(t, below, 0.99*above)
	}
}

// TestCellsAcrossAGap: two blocks in a fluid, 1 mm apart, want cells between them.
func TestCellsAcrossAGap(t *testing.T) {
	bodies := []StackBody{rect(t, 0.2, 0.1, 0, 0, 0, 0.01, 0.02), rect(t, 0.04, 0.04, -0.0205, 0, 0, 0.01, 0.02), rect(t, 0.04, 0.04, 0.0205, 0, 0, 0.01, 0.02)}
	count := func(gaps int) (n int) {
		m, err := NewStack(bodies, &StackSettings{Gaps: gaps})
		require.NoError(t, err)
		volumes(t, m, 3)
		// Cells on the way across the middle of the gap.
		for i := range m.Plan.Triangles {
			tri := m.Plan.Triangles[i]
			a, b, c := m.Plan.Points[tri[0]], m.Plan.Points[tri[1]], m.Plan.Points[tri[2]]
			if min(a.Y, b.Y, c.Y) < 0.009 && max(a.Y, b.Y, c.Y) > 0.009 && math.Abs(a.X+b.X+c.X)/3 < 5e-4 {
				n++
			}
		}
		return n
	}
	assert.LessOrEqual(t, count(0), 2)
	assert.GreaterOrEqual(t, count(4), 6)
}

// TestSizesByAField: an estimate of errors asks for short edges in one corner and thin
// layers below.
func TestSizesByAField(t *testing.T) {
	b := rect(t, 0.1, 0.1, 0, 0, 0, 0.01, 0.005)
	m, err := NewStack([]StackBody{b}, nil)
	require.NoError(t, err)
	wanted := func(p Point) float64 { return 1e-3 + 0.1*math.Hypot(p.X+0.05, p.Y+0.05) }
	columns := m.Columns()
	require.Len(t, columns.Plan, len(m.Plan.Triangles))
	require.InDeltaSlice(t, []float64{0.005, 0.005}, columns.Up, 1e-12)
	plan, area := make([]float64, len(columns.Plan)), 0.0
	for c := range m.CellCount() {
		n := m.Cell(int32(c))[0]
		plan[columns.Base[c]] = wanted(Point{m.Nodes[3*n], m.Nodes[3*n+1]})
		assert.Equal(t, m.Nodes[3*n+2] > 0.004, columns.Layer[c] == 1)
	}
	for _, l := range columns.Plan {
		area += math.Sqrt(3) / 4 * l * l
	}
	assert.InEpsilon(t, 0.1*0.1, area, 1e-12)
	f := columns.Field(plan, []float64{1e-3, 1})
	assert.True(t, math.IsInf(f.Plan(Point{0.2, 0}), 1), "outside there is no wish")
	assert.Less(t, f.Plan(Point{-0.0495, -0.0495}), 2e-3)
	assert.InEpsilon(t, 2*f.Plan(Point{0.01, 0.02}), f.Scaled(2).Plan(Point{0.01, 0.02}), 1e-12)
	fine, err := NewStack([]StackBody{b}, &StackSettings{Field: f})
	require.NoError(t, err)
	for _, tri := range fine.Plan.Triangles {
		for i := range 3 {
			a, c := fine.Plan.Points[tri[i]], fine.Plan.Points[tri[next(i)]]
			assert.Less(t, math.Sqrt(sq(a, c)), 2.2*(5e-3+0.1*math.Hypot(max(a.X, c.X)+0.05, max(a.Y, c.Y)+0.05)))
		}
	}
	assert.Greater(t, len(fine.Plan.Triangles), len(m.Plan.Triangles))
	thick := map[bool]int{}
	for _, high := range fine.Columns().Up {
		thick[high <= 1.01e-3]++
	}
	assert.Equal(t, map[bool]int{true: 5, false: 1}, thick, "thin layers are below alone")
}

// TestCutsHalveAMesh: what lies beyond is gone, and the new side has a name.
func TestCutsHalveAMesh(t *testing.T) {
	disc, err := shape.Disc(0.04)
	bodies := []StackBody{rect(t, 0.1, 0.06, 0, 0, 0, 0.02, 0.01), stackOf(t, disc, err, 0.005, 0.015, 0.01)}
	whole, err := NewStack(bodies, nil)
	require.NoError(t, err)
	all := volumes(t, whole, 2)
	m, err := NewStack(bodies, &StackSettings{Cuts: []Cut{{Axis: 0, At: 0, Greater: true}, {Axis: 1, At: 0}, {Axis: 2, At: 0.01}}})
	require.NoError(t, err)
	part := volumes(t, m, 2)
	for b := range all {
		assert.InEpsilon(t, all[b]/8, part[b], 1e-9)
	}
	for i := 0; i < len(m.Nodes); i += 3 {
		assert.True(t, m.Nodes[i] >= -1e-12 && m.Nodes[i+1] <= 1e-12 && m.Nodes[i+2] <= 0.01+1e-12)
	}
	assert.InEpsilon(t, 0.05*0.01+0.03*0.01+0.05*0.03, areaOf(m, 0, CutSide)+areaOf(m, 1, CutSide), 1e-9)
	_, err = NewStack(bodies, &StackSettings{Cuts: []Cut{{Axis: 0, At: 1, Greater: true}}})
	assert.ErrorContains(t, err, "nothing is left")
}

// TestFillTakesWhatIsEmpty: a box of air round a trough takes all that is empty, or
// only the inside of the trough, which a cap closes.
func TestFillTakesWhatIsEmpty(t *testing.T) {
	// A channel of two walls, open at both ends, with a block in it, on a floor.
	walls := []StackBody{rect(t, 0.1, 0.005, 0, 0.0225, 0, 0.03, 0.01), rect(t, 0.1, 0.005, 0, -0.0225, 0, 0.03, 0.01),
		rect(t, 0.01, 0.01, 0, 0, 0, 0.03, 0.01), rect(t, 0.1, 0.05, 0, 0, -0.005, 0, 0.01)}
	air := rect(t, 0.2, 0.1, 0, 0, -0.02, 0.03, 0.02)
	air.Fill = &Fill{}
	bodies := append(walls, air) // the last one, and displaces nothing all the same
	solid := 2*0.1*0.005*0.03 + 0.01*0.01*0.03 + 0.1*0.05*0.005
	m, err := NewStack(bodies, nil)
	require.NoError(t, err)
	assert.InEpsilon(t, 0.2*0.1*0.05-solid, volumes(t, m, 5)[4], 1e-9)

	fill := &Fill{Reached: true, From: [3]float64{0.02, 0.01, 0.01},
		Caps: []Cap{{"inlet", Point{-0.05, -0.02}, Point{-0.05, 0.02}}, {"outlet", Point{0.05, -0.02}, Point{0.05, 0.02}}}}
	bodies[4].Fill = fill
	m, err = NewStack(bodies, nil)
	require.NoError(t, err)
	v := volumes(t, m, 5)
	assert.InEpsilon(t, 0.1*0.04*0.03-0.01*0.01*0.03, v[4], 1e-9)
	assert.InEpsilon(t, 0.005*0.1*0.03, v[0], 1e-9)
	assert.InEpsilon(t, 0.04*0.03, areaOf(m, 4, "inlet"), 1e-9)
	assert.InEpsilon(t, 0.04*0.03, areaOf(m, 4, "outlet"), 1e-9)

	// Without a cap it gets out.
	fill.Caps = fill.Caps[:1]
	m, err = NewStack(bodies, nil)
	require.NoError(t, err)
	assert.InEpsilon(t, 0.2*0.1*0.05-solid, volumes(t, m, 5)[4], 1e-9)
	fill.From = [3]float64{0, 0, 0.01}
	_, err = NewStack(bodies, nil)
	var unreached *UnreachedError
	require.ErrorAs(t, err, &unreached, "it begins within the block")
	assert.Equal(t, 4, unreached.Body)
}

// TestNodesLieOnArcs: also those that refinement adds.
func TestNodesLieOnArcs(t *testing.T) {
	disc, err := shape.Disc(0.04)
	b := stackOf(t, disc, err, 0, 0.01, 0.02)
	b.Near = []Near{{"rim", 4e-4}}
	bar := rect(t, 0.1, 0.0003, 0, 0, 0, 0.01, 3e-4)
	m, err := NewStack([]StackBody{b, bar}, nil)
	require.NoError(t, err)
	volumes(t, m, 2)
	rim := 0
	for i := range m.Facets {
		f := &m.Facets[i]
		if m.Sides[f.Side] != "rim" {
			continue
		}
		for _, v := range f.Corners() {
			rim++
			assert.InDelta(t, 0.02, math.Hypot(m.Nodes[3*v], m.Nodes[3*v+1]), 2e-9)
		}
	}
	assert.Greater(t, rim, 1000)
}

// TestLayersAlongWalls: thin cells of the wanted heights along a rod and the walls of a
// channel, which end where there is no room. Nothing is lost, and all is joined.
func TestLayersAlongWalls(t *testing.T) {
	channel := rect(t, 0.4, 0.1, 0, 0, 0, 0.02, 0.012)
	channel.Walls = []SideWall{{Side: "front", Within: true, Wall: Wall{First: 5e-4, Growth: 1.3, Count: 5}}, {Side: "back", Within: true, Wall: Wall{First: 5e-4, Growth: 1.3, Count: 5}}}
	disc, err := shape.Disc(0.03)
	rod := stackOf(t, disc.Move(-0.05, -0.01, 0), err, 0, 0.02, 0.006)
	rod.Walls = []SideWall{{Wall: Wall{First: 2e-4, Growth: 1.2, Count: 6}}}
	// A block close to the wall, and a needle with sharp corners, with layers all round.
	block := rect(t, 0.03, 0.03, 0.06, -0.0341, 0, 0.02, 0.01)
	block.Walls = []SideWall{{Wall: Wall{First: 3e-4, Growth: 1.2, Count: 4}}}
	needle, err := shape.Path([]shape.Vertex{{Point: shape.Point{X: 0.1, Y: 0}}, {Point: shape.Point{X: 0.16, Y: 0.004}}, {Point: shape.Point{X: 0.1, Y: 0.008}}}, false)
	tip := stackOf(t, needle, err, 0, 0.02, 0.005)
	tip.Walls = []SideWall{{Wall: Wall{First: 2e-4, Growth: 1.2, Count: 4}}}
	bodies := []StackBody{channel, rod, block, tip}
	m, err := NewStack(bodies, nil)
	require.NoError(t, err)
	v := volumes(t, m, 4)
	assert.InEpsilon(t, 0.4*0.1*0.02, v[0]+v[1]+v[2]+v[3], 1e-9)
	assert.InEpsilon(t, 0.03*0.03*0.02, v[2], 1e-6)
	layered := 0
	for _, l := range m.Layered {
		if l {
			layered++
		}
	}
	require.Greater(t, layered, 1000)
	for c, l := range m.Layered {
		if l {
			assert.EqualValues(t, 0, m.Body[c], "layers lie in the channel")
		}
	}
	// On the rod, far from anything, the first cells have the height.
	p := m.Plan
	least, count := math.Inf(1), 0
	for i, tri := range p.Triangles {
		if !p.Layered[i] {
			continue
		}
		for _, q := range tri {
			if d := math.Hypot(p.Points[q].X+0.05, p.Points[q].Y+0.01) - 0.015; d > 1e-6 && d < 0.001 && p.Points[q].Y > 0 {
				least = min(least, d)
				count++
			}
		}
	}
	assert.Greater(t, count, 50)
	assert.InEpsilon(t, 2e-4, least, 0.05)
	// Neighbours see each other.
	for i := range p.Triangles {
		for k, g := range p.Neighbours[i] {
			if g < 0 {
				continue
			}
			a, b := p.Triangles[i][next(k)], p.Triangles[i][prev(k)]
			back := false
			for j, h := range p.Neighbours[g] {
				back = back || int(h) == i && p.Triangles[g][next(j)] == b && p.Triangles[g][prev(j)] == a
			}
			require.True(t, back, "triangle %d and its neighbour %d", i, g)
		}
	}
	// The facets between the channel and the rod are those of the rim.
	assert.InEpsilon(t, 2*math.Pi*0.015*0.02, areaOf(m, 1, "rim"), 2e-3)
	assert.InEpsilon(t, 0.4*0.02, areaOf(m, 0, "back"), 1e-9)
}

// TestLayersRunToTheEnd: along the walls of a channel layers are as thick at its open ends, and where another part goes on, as
// between; beside a body whose cells have no layers they end.
func TestLayersRunToTheEnd(t *testing.T) {
	box := func(x float64, sides ...string) StackBody {
		b := rect(t, 0.04, 0.02, x, 0, 0, 0.01, 5e-3)
		for _, s := range sides {
			b.Walls = append(b.Walls, SideWall{Side: s, Within: true, Wall: Wall{First: 2e-4, Growth: 1.3, Count: 4}})
		}
		return b
	}
	thin := func(m *Mesh, x float64) (count int) {
		for v := range m.NodeCount() {
			if p := m.At(int32(v)); math.Abs(p[0]-x) < 1e-9 && p[2] == 0 && p[1] < -0.01+1.3e-3 {
				count++
			}
		}
		return count
	}
	for _, both := range []bool{true, false} {
		second := box(0.04)
		if both {
			second = box(0.04, "front", "back")
		}
		m, err := NewStack([]StackBody{box(0, "front", "back"), second}, nil)
		require.NoError(t, err)
		v := volumes(t, m, 2)
		assert.InEpsilon(t, 0.04*0.02*0.01, v[0], 1e-9)
		assert.InEpsilon(t, 0.04*0.02*0.01, v[1], 1e-9)
		for _, side := range []string{"left", "right"} {
			assert.InEpsilon(t, 0.02*0.01, areaOf(m, 0, side), 1e-9, side)
		}
		assert.Equal(t, 5, thin(m, -0.02))
		if both {
			assert.Equal(t, 5, thin(m, 0.02))
			assert.Equal(t, 5, thin(m, 0.06))
		} else {
			assert.Less(t, thin(m, 0.02), 5)
		}
	}
}
