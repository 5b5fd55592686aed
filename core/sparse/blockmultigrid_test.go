package sparse

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// cavity is slow flow in a box of n³ nodes with speed and pressure at each, by differences of
// equal order with a term that keeps the pressure smooth; a stream blows with a speed. Nodes on
// the walls are held in their speeds. stretch is by how much longer the last cell along z is than the first.
func cavity(n int, blow, stretch float64) (a *CSR, at [][3]float64, held []bool) {
	h := 1 / float64(n-1)
	zs := make([]float64, n)
	for k := 1; k < n; k++ {
		zs[k] = zs[k-1] + math.Pow(stretch, float64(k-1)/float64(max(n-2, 1)))
	}
	for k := range zs {
		zs[k] /= zs[n-1]
	}
	place := func(i [3]int) [3]float64 {
		return [3]float64{float64(i[0]) * h, float64(i[1]) * h, zs[i[2]]}
	}
	number := func(i [3]int) int32 { return int32((i[2]*n+i[1])*n + i[0]) }
	a = &CSR{Rows: []int32{0}}
	for z := range n {
		for y := range n {
			for x := range n {
				here := [3]int{x, y, z}
				at = append(at, place(here))
				wall := x == 0 || y == 0 || z == 0 || x == n-1 || y == n-1 || z == n-1
				wide := [3]float64{h, h, (zs[min(z+1, n-1)] - zs[max(z-1, 0)]) / 2}
				volume := wide[0] * wide[1] * wide[2]
				for r := range 4 {
					row := map[int32]float64{}
					add := func(node int32, c int, v float64) { row[4*node+int32(c)] += v }
					for dz := -1; dz <= 1; dz++ { // the pattern of all neighbours
						for dy := -1; dy <= 1; dy++ {
							for dx := -1; dx <= 1; dx++ {
								j := [3]int{x + dx, y + dy, z + dz}
								if min(j[0], j[1], j[2]) >= 0 && max(j[0], j[1], j[2]) < n && dx*dx+dy*dy+dz*dz <= 1 {
									for c := range 4 {
										add(number(j), c, 0)
									}
								}
							}
						}
					}
					me := number(here)
					held = append(held, wall && r < 3)
					if wall && r < 3 {
						add(me, r, 1)
					} else {
						for d := range 3 {
							for _, s := range [2]int{-1, 1} {
								j := here
								if j[d] += s; j[d] < 0 || j[d] >= n {
									continue
								}
								far := math.Abs(place(j)[d] - place(here)[d])
								by := volume / wide[d] / far
								outside := number(j)
								isWall := false
								for e := range 3 {
									isWall = isWall || j[e] == 0 || j[e] == n-1
								}
								if r < 3 {
									add(me, r, by)
									if !isWall {
										add(outside, r, -by)
									}
									if d == 0 && s < 0 { // the stream comes from there
										add(me, r, blow*volume/far)
										if !isWall {
											add(outside, r, -blow*volume/far)
										}
									}
									if d == r {
										add(outside, 3, float64(s)*volume/2/wide[d])
									}
									continue
								}
								if !isWall {
									add(outside, d, float64(s)*volume/2/wide[d])
								}
								smooth := wide[d] * wide[d] / 12
								add(me, 3, smooth*by)
								add(outside, 3, -smooth*by)
							}
						}
						if r == 3 && me == 0 {
							row[3] *= 2 // the level of the pressure
						}
					}
					for _, c := range sortedKeys(row) {
						a.Cols, a.Data = append(a.Cols, c), append(a.Data, row[c])
					}
					a.Rows = append(a.Rows, int32(len(a.Cols)))
				}
			}
		}
	}
	return a, at, held
}

func sortedKeys(m map[int32]float64) []int32 {
	list := make([]int32, 0, len(m))
	for k := range m {
		list = append(list, k)
	}
	sortShort(list)
	return list
}

// TestBlockMultigridOnFlow: on equations of slow flow the iterations hardly grow with the mesh,
// also on stretched ones and with a stream, where block factors alone take many; another matrix of
// the same pattern is taken without finding the levels again.
func TestBlockMultigridOnFlow(t *testing.T) {
	iterations := func(n int, blow, stretch float64, alone bool) int {
		a, at, held := cavity(n, blow, stretch)
		require.NoError(t, a.Check())
		m, err := NewBlocked[float32](a, 4)
		require.NoError(t, err)
		var pre Preconditioner
		if alone {
			pre, err = NewBlockILU(m, nil)
			require.NoError(t, err)
		} else {
			grid, err := NewBlockMultigrid(context.Background(), m, &BlockMultigridSettings{At: at, Held: held})
			require.NoError(t, err)
			levels := grid.Levels()
			assert.Less(t, levels[len(levels)-1], 121)
			assert.Less(t, levels[1]*5, levels[0])
			pre = grid
		}
		b := randomVector(a.N())
		for u, is := range held {
			if is {
				b[u] = 0
			}
		}
		x := make([]float64, a.N())
		r := GMRES(context.Background(), a, b, x, pre, &Settings{Tolerance: 1e-8, MaxIterations: 400})
		assert.Equal(t, Converged, r.Status, "n = %d, blow %g, stretch %g: %d iterations, residual %g", n, blow, stretch, r.Iterations, r.Residual)
		return r.Iterations
	}
	for _, c := range []struct{ blow, stretch float64 }{{0, 1}, {200, 1}, {0, 50}} {
		small, large := iterations(9, c.blow, c.stretch, false), iterations(17, c.blow, c.stretch, false)
		alone := iterations(17, c.blow, c.stretch, true)
		t.Logf("blow %g, stretch %g: %d, %d iterations; block factors alone %d", c.blow, c.stretch, small, large, alone)
		assert.Less(t, float64(large), 1.7*float64(small)+3)
		assert.Less(t, large, alone)
	}

	a, at, held := cavity(9, 0, 1)
	other, _, _ := cavity(9, 100, 1)
	m, err := NewBlocked[float64](a, 4)
	require.NoError(t, err)
	grid, err := NewBlockMultigrid(context.Background(), m, &BlockMultigridSettings{At: at, Held: held})
	require.NoError(t, err)
	m.Set(other)
	require.NoError(t, grid.Renew(m))
	fresh, err := NewBlockMultigrid(context.Background(), m, &BlockMultigridSettings{At: at, Held: held})
	require.NoError(t, err)
	r := randomVector(a.N())
	want, got := make([]float64, a.N()), make([]float64, a.N())
	fresh.Apply(want, r)
	grid.Apply(got, r)
	assert.InDeltaSlice(t, want, got, 1e-12)
	ctx, stop := context.WithCancel(context.Background())
	stop()
	_, err = NewBlockMultigrid(ctx, m, nil)
	assert.ErrorIs(t, err, context.Canceled)
}
