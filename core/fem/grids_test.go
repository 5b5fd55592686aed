package fem

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"saltkettle/core/mesh"
	"saltkettle/core/sparse"
)

// cube divides the unit square or cube into n cells along each axis, of the given
// form; its right half is part 1. Inner nodes are moved by jitter times a cell.
func cube(form mesh.Form, n int, jitter float64) *Grid {
	e := NewElement(form, 1)
	g := &Grid{Blocks: []Block{{Element: e}}}
	b := &g.Blocks[0]
	rng := rand.New(rand.NewPCG(41, 42))
	layers := n + 1
	if e.Dimension == 2 {
		layers = 1
	}
	for k := range layers {
		for j := range n + 1 {
			for i := range n + 1 {
				p := [3]float64{float64(i), float64(j), float64(k)}
				// The middle plane stays, so that the parts are halves.
				for d := range e.Dimension {
					inner := p[d] > 0 && p[d] < float64(n) && (d > 0 || 2*i != n)
					if inner && form != mesh.Wedge || inner && d < 2 && k == 0 {
						p[d] += jitter * (2*rng.Float64() - 1)
					}
					p[d] /= float64(n)
				}
				g.Nodes = append(g.Nodes, p[:]...)
			}
		}
	}
	at := func(i, j, k int) int32 { return int32((k*(n+1)+j)*(n+1) + i) }
	for k := range max(layers-1, 1) {
		for j := range n {
			for i := range n {
				lower := [4]int32{at(i, j, k), at(i+1, j, k), at(i+1, j+1, k), at(i, j+1, k)}
				var upper [4]int32
				if e.Dimension == 3 {
					upper = [4]int32{at(i, j, k+1), at(i+1, j, k+1), at(i+1, j+1, k+1), at(i, j+1, k+1)}
				}
				var cells [][]int32
				switch form {
				case mesh.Quadrilateral:
					cells = [][]int32{lower[:]}
				case mesh.Triangle:
					cells = [][]int32{{lower[0], lower[1], lower[2]}, {lower[0], lower[2], lower[3]}}
				case mesh.Hexahedron:
					cells = [][]int32{append(append([]int32{}, lower[:]...), upper[:]...)}
				case mesh.Wedge:
					cells = [][]int32{{lower[0], lower[1], lower[2], upper[0], upper[1], upper[2]}, {lower[0], lower[2], lower[3], upper[0], upper[2], upper[3]}}
				case mesh.Tetrahedron:
					// Six around the diagonal.
					a, z := lower[0], upper[2]
					ring := []int32{lower[1], lower[2], lower[3], upper[3], upper[0], upper[1]}
					for r := range ring {
						cells = append(cells, []int32{a, ring[r], ring[(r+1)%6], z})
					}
				}
				part := int32(0)
				if 2*i >= n {
					part = 1
				}
				for _, c := range cells {
					b.Cells = append(b.Cells, c...)
					b.Part = append(b.Part, part)
				}
			}
		}
	}
	return g
}

func (g *Grid) edge() []int32 {
	var list []int32
	dimension := g.Blocks[0].Element.Dimension
	for v := range g.NodeCount() {
		p := g.At(int32(v))
		for d := range dimension {
			if p[d] < 1e-12 || p[d] > 1-1e-12 {
				list = append(list, int32(v))
				break
			}
		}
	}
	return list
}

// conduction is −∇·(k(u)∇u) + c·u' = q with k = 1 + slope·u.
type conduction struct {
	slope, capacity float64
	source          func(x [3]float64, t float64) float64
}

func (k conduction) Cell(p *Point, t *Terms) error {
	value := 1 + k.slope*p.U[0]
	for d := range 3 {
		t.Flux[0][d] = value * p.Grad[0][d]
		t.FluxU[0][d] = k.slope * p.Grad[0][d]
		t.FluxGrad[0][d][d] = value
	}
	t.Source[0] = k.capacity * p.Rate[0]
	t.SourceRate[0] = k.capacity
	if k.source != nil {
		t.Source[0] -= k.source(p.X, p.Time)
	}
	return nil
}

func solved(t *testing.T, s *System, kernel Kernel, hold func(c *Constraints), kind sparse.Kind) ([]float64, *NewtonResult) {
	at := &State{U: make([]float64, s.N)}
	c := s.NewConstraints()
	if hold != nil {
		hold(c)
	}
	r, err := s.Solve(context.Background(), kernel, at, c, &NewtonSettings{Kind: kind, Tolerance: 1e-12})
	require.NoError(t, err)
	return at.U, r
}

// misfit is the root mean square of a field less a function.
func misfit(t *testing.T, s *System, u []float64, exact func(x [3]float64) float64) float64 {
	sum, err := s.Integrate(&State{U: u}, nil, func(p *Point) float64 {
		d := p.U[0] - exact(p.X)
		return d * d
	})
	require.NoError(t, err)
	return math.Sqrt(sum)
}

func distance(a, b [3]float64) float64 {
	return math.Hypot(math.Hypot(a[0]-b[0], a[1]-b[1]), a[2]-b[2])
}
