package main

import (
	"fmt"
	"math/rand/v2"
	"runtime"
	"text/tabwriter"

	"saltkettle/core/dense"
	"saltkettle/core/fem"
	"saltkettle/core/mesh"
	"saltkettle/core/parallel"
	"saltkettle/core/sparse"
)

// kernels measures what all solvers rest on: products of full and of sparse
// matrices, and assembly.
func kernels(w *tabwriter.Writer) error {
	fmt.Fprintln(w, "\nkernel\tone core\tall cores\tunit\t")
	for _, row := range []struct {
		name, unit string
		measure    func() (float64, error)
	}{
		{fmt.Sprintf("full product 1024³ (%s)", dense.Kernel()), "GFLOP/s", fullProduct},
		{"reading and writing memory, 3 × 160 MB", "GB/s", memory},
		{"sparse product, 990 000 rows of 27", "GB/s", sparseProduct},
		{"assembly of conduction on 1 000 000 wedges", "s", generalAssembly},
	} {
		all, err := row.measure()
		if err != nil {
			return err
		}
		before := runtime.GOMAXPROCS(1)
		one, err := row.measure()
		runtime.GOMAXPROCS(before)
		if err != nil {
			return err
		}
		fmt.Fprintf(w, "%s\t%.2f\t%.2f\t%s\t\n", row.name, one, all, row.unit)
	}
	return nil
}

func fullProduct() (float64, error) {
	const n = 1024
	rng := rand.New(rand.NewPCG(1, 2))
	a, b, c := make([]float64, n*n), make([]float64, n*n), make([]float64, n*n)
	for i := range a {
		a[i], b[i] = rng.Float64(), rng.Float64()
	}
	s, err := best(func() error {
		for range 5 {
			dense.Add(c, n, n, n, n, 1, dense.Operand[float64]{Data: a, Row: n, Col: 1}, dense.Operand[float64]{Data: b, Row: n, Col: 1}, dense.Full, parallel.Workers())
		}
		return nil
	})
	return 5 * 2 * n * n * n / s / 1e9, err
}

func memory() (float64, error) {
	const n = 20_000_000
	a, b, c := make([]float64, n), make([]float64, n), make([]float64, n)
	s, err := best(func() error {
		parallel.For(n, 1<<16, func(_, lo, hi int) {
			x, y, z := a[lo:hi], b[lo:hi], c[lo:hi]
			for i := range z {
				z[i] = x[i] + 1.5*y[i]
			}
		})
		return nil
	})
	return 24 * n / s / 1e9, err
}

// bricks is the pattern of 27 neighbours on 99 × 100 × 100 nodes.
func bricks() *sparse.CSR {
	const nx, ny, nz = 99, 100, 100
	m := &sparse.CSR{Rows: []int32{0}}
	for z := range nz {
		for y := range ny {
			for x := range nx {
				for k := max(z-1, 0); k <= min(z+1, nz-1); k++ {
					for j := max(y-1, 0); j <= min(y+1, ny-1); j++ {
						for i := max(x-1, 0); i <= min(x+1, nx-1); i++ {
							m.Cols = append(m.Cols, int32((k*ny+j)*nx+i))
							m.Data = append(m.Data, 0.1)
						}
					}
				}
				m.Rows = append(m.Rows, int32(len(m.Cols)))
			}
		}
	}
	return m
}

func sparseProduct() (float64, error) {
	m := bricks()
	x, y := make([]float64, m.N()), make([]float64, m.N())
	for i := range x {
		x[i] = float64(i % 7)
	}
	s, err := best(func() error {
		for range 5 {
			m.MulVec(y, x)
		}
		return nil
	})
	return 5 * (12*float64(len(m.Cols)) + 24*float64(m.N())) / s / 1e9, err
}

// wedges is a cube of about a million wedges.
func wedges() *mesh.Mesh {
	const n = 79
	m := &mesh.Mesh{Blocks: []mesh.Block{{Form: mesh.Wedge}}}
	b := &m.Blocks[0]
	for z := range n + 1 {
		for y := range n + 1 {
			for x := range n + 1 {
				m.Nodes = append(m.Nodes, float64(x)/n, float64(y)/n, float64(z)/n)
			}
		}
	}
	at := func(x, y, z int) int32 { return int32((z*(n+1)+y)*(n+1) + x) }
	for z := range n {
		for y := range n {
			for x := range n {
				for _, t := range [2][3][2]int{{{x, y}, {x + 1, y}, {x + 1, y + 1}}, {{x, y}, {x + 1, y + 1}, {x, y + 1}}} {
					for level := z; level <= z+1; level++ {
						for _, p := range t {
							b.Cells = append(b.Cells, at(p[0], p[1], level))
						}
					}
					m.Body = append(m.Body, 0)
				}
			}
		}
	}
	return m
}

// diffusion is conduction with k = 1.
type diffusion struct{}

func (diffusion) Cell(p *fem.Point, t *fem.Terms) error {
	t.Flux[0] = p.Grad[0]
	for d := range 3 {
		t.FluxGrad[0][d][d] = 1
	}
	return nil
}

func generalAssembly() (float64, error) {
	s, err := fem.NewSystem(fem.FromMesh(wedges()), []fem.Field{{Name: "temperature", Components: 1}}, nil)
	if err != nil {
		return 0, err
	}
	a, r, u := s.NewMatrix(), make([]float64, s.N), make([]float64, s.N)
	return best(func() error { return s.Assemble(diffusion{}, &fem.State{U: u}, r, a) })
}
