package fem

import (
	"errors"
	"math"
	"runtime"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/mesh"
	"saltkettle/core/sparse"
)

func TestAssemblyOfSystemsDoesNotDependOnTheCores(t *testing.T) {
	g := cube(mesh.Wedge, 12, 0.1)
	s, err := NewSystem(g, []Field{{Name: "u", Components: 1}}, nil)
	require.NoError(t, err)
	u := make([]float64, s.N)
	s.Interpolate(u, 0, 0, func(x [3]float64) float64 { return x[0]*x[1] + x[2] })
	run := func(threads int) ([]float64, *sparse.CSR) {
		before := runtime.GOMAXPROCS(threads)
		defer runtime.GOMAXPROCS(before)
		r, a := make([]float64, s.N), s.NewMatrix()
		require.NoError(t, s.Assemble(conduction{slope: 0.3}, &State{U: u}, r, a))
		return r, a
	}
	r1, a1 := run(1)
	r2, a2 := run(2)
	assert.Equal(t, r1, r2)
	assert.Equal(t, a1.Data, a2.Data)
}

// each gives every core the same function, which keeps nothing.
func each(f func(points []Point, out [][]float64) error) func(int) func(points []Point, out [][]float64) error {
	return func(int) func(points []Point, out [][]float64) error { return f }
}

// TestLoopsOnAllCores: loops over cells find on many cores what they find on one, and say what fails.
func TestLoopsOnAllCores(t *testing.T) {
	g := cube(mesh.Wedge, 16, 0.1)
	for i := range g.Blocks[0].Part {
		g.Blocks[0].Part[i] = int32(i / 3000)
	}
	s, err := NewSystem(g, []Field{{Components: 1}}, nil)
	require.NoError(t, err)
	u := make([]float64, s.N)
	for v := range g.NodeCount() {
		x := g.At(int32(v))
		u[s.Equation(0, 0, int32(v))] = x[0]*x[0] + math.Sin(3*x[1]) + x[2]
	}
	at := &State{U: u}
	points := g.Points(3)
	flux := func(points []Point, out [][]float64) error {
		for i := range points {
			for d := range out {
				out[d][i] = points[i].Grad[0][d]
			}
		}
		return nil
	}
	type found struct {
		sum    float64
		smooth [][]float64
		flux   *Estimate
	}
	all := func() (f found) {
		var sums []*float64
		require.NoError(t, s.AllCells(at, map[int32]bool{0: true, 2: true}, func(int) func([]Point, []float64) error {
			own := new(float64)
			sums = append(sums, own)
			return func(points []Point, w []float64) error {
				for i := range points {
					*own += w[i] * points[i].U[0]
				}
				return nil
			}
		}))
		for _, own := range sums {
			f.sum += *own
		}
		f.smooth, err = s.Smooth(at, nil, points.Cells, len(points.Node), 3, each(flux))
		require.NoError(t, err)
		f.flux, err = s.FluxError(at, nil, each(flux))
		require.NoError(t, err)
		return f
	}
	before := runtime.GOMAXPROCS(1)
	one := all()
	runtime.GOMAXPROCS(4)
	four := all()
	bad := errors.New("bad")
	err = s.AllCells(at, nil, func(core int) func([]Point, []float64) error {
		return func([]Point, []float64) error {
			if core == 3 {
				return bad
			}
			return nil
		}
	})
	runtime.GOMAXPROCS(before)
	assert.ErrorIs(t, err, bad)
	assert.InEpsilon(t, one.sum, four.sum, 1e-12)
	for i := range one.smooth {
		assert.InDeltaSlice(t, one.smooth[i], four.smooth[i], 1e-11)
	}
	assert.InEpsilon(t, one.flux.Total, four.flux.Total, 1e-11)
	assert.InEpsilon(t, one.flux.Cells[0][5000][0], four.flux.Cells[0][5000][0], 1e-9)
}
