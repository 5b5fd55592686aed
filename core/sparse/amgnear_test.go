package sparse

import (
	"maps"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// plate is the stiffness of m by m bilinear squares in plane stress, held at the
// left, with the coordinates of its free nodes.
func plate(m int) (*CSR, []float64) {
	const nu = 0.3
	var k [8][8]float64
	g := 1 / math.Sqrt(3)
	corner := [4][2]float64{{-1, -1}, {1, -1}, {1, 1}, {-1, 1}}
	for _, xi := range []float64{-g, g} {
		for _, eta := range []float64{-g, g} {
			var b [3][8]float64
			for i, c := range corner {
				dx, dy := c[0]*(1+c[1]*eta)/2, c[1]*(1+c[0]*xi)/2
				b[0][2*i], b[1][2*i+1], b[2][2*i], b[2][2*i+1] = dx, dy, dy, dx
			}
			d := [3][3]float64{{1, nu, 0}, {nu, 1, 0}, {0, 0, (1 - nu) / 2}}
			for i := range 8 {
				for j := range 8 {
					for p := range 3 {
						for q := range 3 {
							k[i][j] += b[p][i] * d[p][q] * b[q][j] / (1 - nu*nu) / 4
						}
					}
				}
			}
		}
	}
	n := 2 * m * (m + 1)
	rows := make([]map[int]float64, n)
	for i := range rows {
		rows[i] = map[int]float64{}
	}
	number := func(x, y int) int { return y*m + x - 1 }
	for y := range m {
		for x := range m {
			at := [4][2]int{{x, y}, {x + 1, y}, {x + 1, y + 1}, {x, y + 1}}
			for i := range 8 {
				for j := range 8 {
					p, q := at[i/2], at[j/2]
					if p[0] > 0 && q[0] > 0 {
						rows[2*number(p[0], p[1])+i%2][2*number(q[0], q[1])+j%2] += k[i][j]
					}
				}
			}
		}
	}
	a := &CSR{Rows: []int32{0}}
	for _, row := range rows {
		for _, c := range slices.Sorted(maps.Keys(row)) {
			a.Cols, a.Data = append(a.Cols, int32(c)), append(a.Data, row[c])
		}
		a.Rows = append(a.Rows, int32(len(a.Cols)))
	}
	var at []float64
	for y := range m + 1 {
		for x := 1; x <= m; x++ {
			at = append(at, float64(x), float64(y))
		}
	}
	return a, at
}

func TestMultigridForElasticity(t *testing.T) {
	count := func(m int, near bool) int {
		a, at := plate(m)
		set := &AMGSettings{Coarsest: 60}
		if near {
			set.Near, set.PerNode = RigidMotions(at, 2), 2
		}
		pre, err := NewAMG(t.Context(), a, set)
		require.NoError(t, err)
		require.Greater(t, len(pre.Levels()), 1)
		return checkIterative(t, "plate", CG, a, pre, Settings{}).Iterations
	}
	assert.Less(t, count(40, true), count(40, false)*4/5, "rigid motions help")
	assert.LessOrEqual(t, count(40, true), count(16, true)+8, "about independent of the mesh")
}

func TestRigidMotionsDoNotStrain(t *testing.T) {
	a, at := plate(8)
	for _, v := range RigidMotions(at, 2) {
		r := make([]float64, a.N())
		a.MulVec(r, v)
		for i := range r {
			if at[i/2*2] > 1 {
				assert.InDelta(t, 0, r[i], 1e-12, "away from the clamp")
			}
		}
	}
	assert.Len(t, RigidMotions(make([]float64, 30), 3), 6)
}

// TestMultigridOnFlatCells: where cells are much thinner than wide, multigrid needs
// a few times the iterations of even ones, not many times.
func TestMultigridOnFlatCells(t *testing.T) {
	count := func(h float64) int {
		// Bricks of linear functions, 1 × 1 × h, held on one side: products of the matrices
		// of stiffness and mass along each axis.
		const n = 24
		along := func(h float64) (k, m [3]float64) {
			return [3]float64{-1 / h, 2 / h, -1 / h}, [3]float64{h / 6, 4 * h / 6, h / 6}
		}
		k, m := along(1)
		kz, mz := along(h)
		a := &CSR{Rows: []int32{0}}
		for i := range n * n * n {
			x, y, z := i%n, i/n%n, i/n/n
			for dz := -1; dz <= 1; dz++ {
				for dy := -1; dy <= 1; dy++ {
					for dx := -1; dx <= 1; dx++ {
						if x+dx < 0 || x+dx >= n || y+dy < 0 || y+dy >= n || z+dz < 0 || z+dz >= n {
							continue
						}
						a.Cols = append(a.Cols, int32(i+dx+n*dy+n*n*dz))
						a.Data = append(a.Data, k[dx+1]*m[dy+1]*mz[dz+1]+m[dx+1]*k[dy+1]*mz[dz+1]+m[dx+1]*m[dy+1]*kz[dz+1])
					}
				}
			}
			a.Rows = append(a.Rows, int32(len(a.Cols)))
		}
		pre, err := NewAMG(t.Context(), a, nil)
		require.NoError(t, err)
		return checkIterative(t, "bricks", CG, a, pre, Settings{}).Iterations
	}
	even := count(1)
	assert.LessOrEqual(t, count(0.2), 3*even)
	assert.LessOrEqual(t, count(0.05), 4*even)
}
