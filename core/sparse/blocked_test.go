package sparse

import (
	"context"
	"math"
	"math/rand/v2"
	"runtime"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// coupledGrid is a matrix of n×n nodes with b unknowns each, of which those of one node act on
// each other as strongly as on those beside; it is not symmetric.
func coupledGrid(n, b int) *CSR {
	rng := rand.New(rand.NewPCG(4, 8))
	m := &CSR{Rows: []int32{0}}
	for y := range n {
		for x := range n {
			for r := range b {
				for dy := -1; dy <= 1; dy++ {
					for dx := -1; dx <= 1; dx++ {
						i, j := x+dx, y+dy
						if i < 0 || j < 0 || i >= n || j >= n || dx != 0 && dy != 0 {
							continue
						}
						for c := range b {
							v := 0.3 * rng.NormFloat64()
							switch {
							case dx == 0 && dy == 0 && r == c:
								v = 4.05
							case dx == 0 && dy == 0:
								v = 1.5 * float64((r+2*c)%3-1)
							case r == c:
								v = -1 + 0.1*v
							default:
								v *= 0.1
							}
							m.Cols, m.Data = append(m.Cols, int32((j*n+i)*b+c)), append(m.Data, v)
						}
					}
				}
				m.Rows = append(m.Rows, int32(len(m.Cols)))
			}
		}
	}
	return m
}

func randomVector(n int) []float64 {
	rng := rand.New(rand.NewPCG(7, 1))
	x := make([]float64, n)
	for i := range x {
		x[i] = rng.NormFloat64()
	}
	return x
}

// TestBlockedProduct is that of the matrix, for blocks of every order and in half the memory.
func TestBlockedProduct(t *testing.T) {
	for b := 1; b <= 6; b++ {
		a := coupledGrid(9, b)
		require.NoError(t, a.Check())
		x := randomVector(a.N())
		want, got := make([]float64, a.N()), make([]float64, a.N())
		a.MulVec(want, x)
		m, err := NewBlocked[float64](a, b)
		require.NoError(t, err)
		m.MulVec(got, x)
		assert.InDeltaSlice(t, want, got, 1e-12)
		half, err := NewBlocked[float32](a, b)
		require.NoError(t, err)
		half.MulVec(got, x)
		assert.InDeltaSlice(t, want, got, 1e-5)
	}
	_, err := NewBlocked[float64](coupledGrid(3, 2), 5)
	assert.Error(t, err)
}

// TestBlockILUIsExact where a factorisation has no fill, as of a chain of nodes, in either order.
func TestBlockILUIsExact(t *testing.T) {
	a := coupledGrid(40, 3)
	chain := &CSR{Rows: []int32{0}}
	for i := range 120 { // the first row of nodes of the grid, each with those beside it
		for k := a.Rows[i]; k < a.Rows[i+1]; k++ {
			if c := a.Cols[k]; c < 120 {
				chain.Cols, chain.Data = append(chain.Cols, c), append(chain.Data, a.Data[k])
			}
		}
		chain.Rows = append(chain.Rows, int32(len(chain.Cols)))
	}
	x := randomVector(chain.N())
	b, got := make([]float64, chain.N()), make([]float64, chain.N())
	chain.MulVec(b, x)
	m, err := NewBlocked[float64](chain, 3)
	require.NoError(t, err)
	f, err := NewBlockILU(m, nil)
	require.NoError(t, err)
	f.Apply(got, b)
	assert.InDeltaSlice(t, x, got, 1e-10)
	assert.Equal(t, 40, f.Levels(), "a chain is done one after the other")
	coloured, err := NewBlockILU(m, &BlockILUSettings{Colours: true})
	require.NoError(t, err)
	assert.Equal(t, 2, coloured.Levels())
}

// TestBlockILUOfSingles is the incomplete factorisation of the unknowns, whatever the order in
// which levels are done and on however many cores.
func TestBlockILUOfSingles(t *testing.T) {
	a := coupledGrid(30, 1)
	single, err := NewILU(a)
	require.NoError(t, err)
	m, err := NewBlocked[float64](a, 1)
	require.NoError(t, err)
	f, err := NewBlockILU(m, nil)
	require.NoError(t, err)
	assert.Equal(t, 59, f.Levels(), "waves along the diagonals")
	r := randomVector(a.N())
	want, got := make([]float64, a.N()), make([]float64, a.N())
	single.Apply(want, r)
	f.Apply(got, r)
	assert.InDeltaSlice(t, want, got, 1e-12)
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(1))
	alone, err := NewBlockILU(m, nil)
	require.NoError(t, err)
	again := make([]float64, a.N())
	alone.Apply(again, r)
	assert.Equal(t, got, again, "to the last bit on one core")
}

// TestBlocksNeedFewerIterations than single unknowns where those of a node act on each other.
func TestBlocksNeedFewerIterations(t *testing.T) {
	a := coupledGrid(50, 4)
	x := randomVector(a.N())
	b := make([]float64, a.N())
	a.MulVec(b, x)
	iterations := func(pre Preconditioner) int {
		got := make([]float64, a.N())
		r := GMRES(context.Background(), a, b, got, pre, &Settings{Tolerance: 1e-10, MaxIterations: 2000})
		require.Equal(t, Converged, r.Status)
		worst := 0.0
		for i := range got {
			worst = max(worst, math.Abs(got[i]-x[i]))
		}
		assert.Less(t, worst, 1e-6)
		return r.Iterations
	}
	m, err := NewBlocked[float64](a, 4)
	require.NoError(t, err)
	f, err := NewBlockILU(m, nil)
	require.NoError(t, err)
	blocks := iterations(f)
	half, err := NewBlocked[float32](a, 4)
	require.NoError(t, err)
	g, err := NewBlockILU(half, nil)
	require.NoError(t, err)
	assert.InDelta(t, blocks, iterations(g), 2, "single precision is enough")
	coloured, err := NewBlockILU(m, &BlockILUSettings{Colours: true})
	require.NoError(t, err)
	assert.Less(t, iterations(coloured), 3*blocks)
	if single, err := NewILU(a); err == nil {
		assert.LessOrEqual(t, blocks, iterations(single))
	}
}

// TestBlockILUThatFails says at which node.
func TestBlockILUThatFails(t *testing.T) {
	a := coupledGrid(3, 2)
	for r := 4; r < 6; r++ { // the block of node 2
		cols, data := a.Row(r)
		for k, c := range cols {
			if c/2 == 2 {
				data[k] = 0
			}
		}
	}
	for r := range a.N() { // alone
		cols, data := a.Row(r)
		for k, c := range cols {
			if (c/2 == 2) != (r/2 == 2) {
				data[k] = 0
			}
		}
	}
	m, err := NewBlocked[float64](a, 2)
	require.NoError(t, err)
	_, err = NewBlockILU(m, nil)
	assert.ErrorContains(t, err, "node 2")
}
