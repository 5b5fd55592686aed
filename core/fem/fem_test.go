package fem

import (
	"math"
	"math/rand/v2"
	"runtime"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/mesh"
	"saltkettle/core/shape"
	"saltkettle/core/sparse"
)

// distorted is a single wedge with its nodes moved by chance.
func distorted(rng *rand.Rand, by float64) *mesh.Mesh {
	m := &mesh.Mesh{Cells: []int32{0, 1, 2, 3, 4, 5}, Body: []int32{0}}
	for _, p := range [][3]float64{{0, 0, 0}, {2, 0, 0}, {0, 1, 0}, {0, 0, 1.5}, {2, 0, 1.5}, {0, 1, 1.5}} {
		for _, x := range p {
			m.Nodes = append(m.Nodes, x+by*(rng.Float64()-0.5))
		}
	}
	return m
}

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

// TestWedgeReproducesLinearFields: on a distorted wedge the shape functions sum
// to one, and the gradient of any linear field is exact at every point.
func TestWedgeReproducesLinearFields(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 5))
	for range 50 {
		m := distorted(rng, 0.5)
		var w Wedge
		require.NoError(t, w.Set(m, 0))
		g := [3]float64{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}
		for q := range Points {
			var sum float64
			var grad [3]float64
			for i := range 6 {
				sum += WedgeShape(q)[i]
				value := 3 + g[0]*w.X[i][0] + g[1]*w.X[i][1] + g[2]*w.X[i][2]
				for r := range 3 {
					grad[r] += value * w.Gradient[q][i][r]
				}
			}
			assert.InDelta(t, 1, sum, 1e-14)
			for r := range 3 {
				assert.InDelta(t, g[r], grad[r], 1e-10)
			}
		}
	}
}

func TestWedgeIntegrals(t *testing.T) {
	m := distorted(rand.New(rand.NewPCG(1, 1)), 0)
	var w Wedge
	require.NoError(t, w.Set(m, 0))
	var volume float64
	for _, v := range w.Volume {
		volume += v
	}
	assert.InEpsilon(t, 1.5, volume, 1e-14)
	var load [6]float64
	w.Load(&load)
	for _, f := range load {
		assert.InEpsilon(t, 1.5/6, f, 1e-12)
	}
	// A constant field has no energy, and the matrix is symmetric.
	var k [36]float64
	w.Diffusion(&k, 7)
	for i := range 6 {
		var row float64
		for j := range 6 {
			row += k[6*i+j]
			assert.Equal(t, k[6*i+j], k[6*j+i])
		}
		assert.InDelta(t, 0, row, 1e-12)
		assert.Positive(t, k[7*i])
	}
	// The energy of x is its squared gradient times the volume.
	var energy float64
	for i := range 6 {
		for j := range 6 {
			energy += w.X[i][0] * k[6*i+j] * w.X[j][0]
		}
	}
	assert.InEpsilon(t, 7*1.5, energy, 1e-12)
}

func TestInvertedCellsAreFound(t *testing.T) {
	m := distorted(rand.New(rand.NewPCG(1, 1)), 0)
	copy(m.Cells, []int32{3, 4, 5, 0, 1, 2})
	var w Wedge
	assert.ErrorIs(t, w.Set(m, 0), ErrInverted)
	_, err := Volumes(m, 1)
	assert.ErrorIs(t, err, ErrInverted)
	s := NewSpace(m)
	assert.ErrorIs(t, s.Assemble(s.NewMatrix(), make([]float64, 6), func(int, *Wedge, *[36]float64, *[6]float64) {}), ErrInverted)
}

// TestFacet: areas, first moments and the products of two linear
// functions are exact, on triangles and on rectangles turned in space.
func TestFacet(t *testing.T) {
	m := block(t)
	var w Facet
	counts := map[int]int{}
	for i := range m.Facets {
		f := &m.Facets[i]
		w.Set(m, f)
		counts[w.Count]++
		// ∫1, ∫x and ∫x² by the weights, against the exact values.
		x := make([]float64, w.Count)
		var one, first, second, corners float64
		for k, n := range f.Corners() {
			x[k] = m.Nodes[3*n] + 2*m.Nodes[3*n+1] - m.Nodes[3*n+2]
			corners += x[k] / float64(w.Count)
		}
		for k := range x {
			one += w.Share(k)
			first += w.Share(k) * x[k]
		}
		for q := range w.Points {
			here := w.Place[q][0] + 2*w.Place[q][1] - w.Place[q][2]
			second += w.Area[q] * here * here
			assert.InDelta(t, here, w.At(q, []int32{0, 1, 2, 3}[:w.Count], x), 1e-15)
		}
		require.InEpsilon(t, w.Total(), one, 1e-12)
		require.InDelta(t, corners*w.Total(), first, 1e-14)
		var spread float64
		if w.Count == 3 {
			for k := range x {
				spread += (x[k] - corners) * (x[k] - corners) / 12
			}
		} else { // a parallelogram: x is linear in both of its directions
			u, v := x[1]-x[0], x[3]-x[0]
			spread = (u*u + v*v) / 12
		}
		require.InDelta(t, (corners*corners+spread)*w.Total(), second, 1e-14)
	}
	assert.Positive(t, counts[3])
	assert.Positive(t, counts[4])
}

// TestPatternIsThatOfTheCells compares the pattern with all pairs of nodes of
// all cells.
func TestPatternIsThatOfTheCells(t *testing.T) {
	m := block(t)
	a := NewSpace(m).NewMatrix()
	require.NoError(t, a.Check())
	pairs := map[[2]int32]bool{}
	for c := range m.CellCount() {
		nodes := m.Cells[6*c : 6*c+6]
		for _, i := range nodes {
			for _, j := range nodes {
				pairs[[2]int32{i, j}] = true
			}
		}
	}
	assert.Equal(t, len(pairs), len(a.Cols))
	for i := range a.N() {
		cols, _ := a.Row(i)
		for _, c := range cols {
			require.True(t, pairs[[2]int32{int32(i), c}])
		}
	}
}

// TestAssemblyDoesNotDependOnTheCores: the same bits on one core and on several.
func TestAssemblyDoesNotDependOnTheCores(t *testing.T) {
	m := block(t)
	s := NewSpace(m)
	assemble := func(cores int) (*sparse.CSR, []float64) {
		old := runtime.GOMAXPROCS(cores)
		defer runtime.GOMAXPROCS(old)
		a, b := s.NewMatrix(), make([]float64, m.NodeCount())
		require.NoError(t, s.Assemble(a, b, func(c int, w *Wedge, k *[36]float64, f *[6]float64) {
			w.Diffusion(k, float64(1+c%7))
			w.Load(f)
		}))
		return a, b
	}
	a1, b1 := assemble(1)
	a4, b4 := assemble(4)
	assert.Equal(t, a1.Data, a4.Data)
	assert.Equal(t, b1, b4)
	var total float64
	for _, f := range b1 {
		total += f
	}
	volumes, err := Volumes(m, 2)
	require.NoError(t, err)
	assert.InEpsilon(t, volumes[0]+volumes[1], total, 1e-12)
	assert.InEpsilon(t, 0.08*0.05*0.01, volumes[0], 1e-10)
	n := 72.0
	assert.InEpsilon(t, n/2*0.01*0.01*math.Sin(2*math.Pi/n)*0.03, volumes[1], 1e-9)
}

func TestAddFacet(t *testing.T) {
	m := block(t)
	s := NewSpace(m)
	a, b := s.NewMatrix(), make([]float64, m.NodeCount())
	var w Facet
	var area float64
	for i := range m.Facets {
		if f := &m.Facets[i]; f.Other < 0 {
			w.Set(m, f)
			area += w.Total()
			AddFacet(a, b, f, &w, &[4]float64{3, 3, 3, 3}, &[4]float64{5, 5, 5, 5})
		}
	}
	one, y := make([]float64, a.N()), make([]float64, a.N())
	for i := range one {
		one[i] = 1
	}
	a.MulVec(y, one)
	assert.InEpsilon(t, 3*area, sparse.Dot(one, y), 1e-12)
	assert.InEpsilon(t, 5*area, sparse.Dot(one, b), 1e-12)
	for i := range a.N() {
		cols, data := a.Row(i)
		for k, c := range cols {
			require.InDelta(t, data[k], a.At(int(c), i), 1e-18)
		}
	}
}

// TestUprightCells: the short way for cells that stand upright gives what the
// general one does.
func TestUprightCells(t *testing.T) {
	m := block(t)
	for c := range m.CellCount() {
		var w, general Wedge
		require.NoError(t, w.Set(m, c))
		require.True(t, w.upright())
		general.X = w.X
		require.NoError(t, general.setAny())
		for q := range Points {
			assert.InEpsilon(t, general.Volume[q], w.Volume[q], 1e-12)
			for i := range 6 {
				for r := range 3 {
					assert.InDelta(t, general.Gradient[q][i][r], w.Gradient[q][i][r], 1e-8)
				}
			}
		}
		w.X[4][0] += 1e-5
		assert.False(t, w.upright())
	}
}
