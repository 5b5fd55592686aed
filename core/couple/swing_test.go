package couple

import (
	"math"
	"math/cmplx"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/law"
)

// The rod of these tests is the pair of boxes, from -10 mm to 30 mm along x, which does alike all
// over each cut across x.
const rodFrom, rodLength = -0.01, 0.04

// lawOf compiles a law of the variables that all laws have.
func lawOf(t *testing.T, text string) law.Law {
	t.Helper()
	f, err := formula.Parse(text)
	require.NoError(t, err)
	p, err := f.Compile(formula.Environment{Variables: law.Variables})
	require.NoError(t, err)
	return p
}

// rod is a group of one field on the pair of boxes, of order 2, held at its left end by a law and at
// its right end at 0, or free there.
func rod(t *testing.T, left law.Law, rightHeld bool) *Group {
	t.Helper()
	m := pair(t)
	held := []Held{{Facets: side(m, 0, "left"), Value: left, Least: math.Inf(-1)}}
	if rightHeld {
		held = append(held, heldAt(side(m, 1, "right"), 0))
	}
	g, err := New(m, 2, []Field{{Held: held}}, &Settings{Order: 2})
	require.NoError(t, err)
	return g
}

func atRest(g *Group) *fem.State { return &fem.State{U: make([]float64, g.System.N)} }

// TestModesOfARod: the lowest ones of a rod that is held at one end or at both, as rates of decay
// and as frequencies, with their shapes.
func TestModesOfARod(t *testing.T) {
	const k, capacity = 3., 2e4
	for _, both := range []bool{true, false} {
		g := rod(t, formula.Fixed(0), both)
		modes, err := g.Modes(t.Context(), &conduct{k: []float64{k, k}, capacity: capacity}, atRest(g), 3, true, []bool{false})
		require.NoError(t, err)
		require.Len(t, modes, 3)
		for i, mode := range modes {
			wave := (float64(i) + 1) * math.Pi / rodLength
			if !both {
				wave -= math.Pi / rodLength / 2
			}
			want := k / capacity * wave * wave
			assert.InEpsilon(t, want, mode.Eigenvalue, 4e-4, "mode %d, both held: %v", i+1, both)
			assert.InEpsilon(t, math.Sqrt(want)/(2*math.Pi), mode.Frequency(), 2e-4)
			// The size of a shape is free.
			most := 0.0
			for _, v := range mode.Shape {
				if math.Abs(v) > math.Abs(most) {
					most = v
				}
			}
			for v := range int32(g.System.Grid.NodeCount()) {
				x := g.System.Grid.At(v)[0] - rodFrom
				e := g.System.Equation(0, 0, v)
				assert.InDelta(t, math.Abs(math.Sin(wave*x)), math.Abs(mode.Shape[e]/most), 5e-3)
			}
		}
	}
}

// TestModesThatAreNone: more than there are unknowns, and what has no mass, are refused in words.
func TestModesThatAreNone(t *testing.T) {
	g := rod(t, formula.Fixed(0), true)
	_, err := g.Modes(t.Context(), &conduct{k: []float64{1, 1}, capacity: 1}, atRest(g), g.System.N, true, []bool{false})
	assert.ErrorContains(t, err, "so many modes the mesh does not have")
	_, err = g.Modes(t.Context(), &conduct{k: []float64{1, 1}}, atRest(g), 2, true, []bool{false})
	assert.Error(t, err, "without a capacity nothing is slow")
	assert.Zero(t, (&Mode{Eigenvalue: -1e-9}).Frequency(), "round-off is at rest")
}

// lossy loses a part of what its stiffness stores.
type lossy struct {
	*conduct
	part float64
}

func (lossy) Dying() fem.Kernel { return nil }

func (l lossy) Loss() fem.Kernel {
	k := make([]float64, len(l.k))
	for i, v := range l.k {
		k[i] = l.part * v
	}
	return &conduct{k: k}
}

// TestResponseOfARod: a rod whose end swings has the waves of the exact solution, for rates of
// first order, of second order, and with a loss, about any middle.
func TestResponseOfARod(t *testing.T) {
	const k, capacity, part = 3., 2e4, 0.1
	plain := &conduct{k: []float64{k, k}, capacity: capacity}
	for name, c := range map[string]struct {
		kernel      fem.Kernel
		second      bool
		frequencies []float64
		// squared is the square of what the wave grows by along x.
		squared func(omega float64) complex128
	}{
		"first order":  {plain, false, []float64{0.002, 0.05, 0.5}, func(w float64) complex128 { return complex(0, w*capacity/k) }},
		"second order": {plain, true, []float64{0.05, 0.2, 0.33}, func(w float64) complex128 { return complex(-w*w*capacity/k, 0) }},
		"with a loss":  {lossy{plain, part}, true, []float64{0.05, 0.153, 0.33}, func(w float64) complex128 { return complex(-w*w*capacity/k, 0) / complex(1, part) }},
	} {
		g := rod(t, lawOf(t, "7 + 5*swing"), true)
		at := atRest(g)
		for i := range at.U {
			at.U[i] = 3
		}
		var seen []float64
		_, err := g.Response(t.Context(), c.kernel, at, c.second, false, c.frequencies, func(f float64, amplitude []complex128) error {
			seen = append(seen, f)
			grows := cmplx.Sqrt(c.squared(2 * math.Pi * f))
			size := 0.0
			for _, u := range amplitude {
				size = max(size, cmplx.Abs(u))
			}
			for v := range int32(g.System.Grid.NodeCount()) {
				rest := complex(rodLength-(g.System.Grid.At(v)[0]-rodFrom), 0)
				want := 5 * cmplx.Sinh(grows*rest) / cmplx.Sinh(grows*rodLength)
				assert.Less(t, cmplx.Abs(amplitude[g.System.Equation(0, 0, v)]-want), 2e-3*size, "%s at %g Hz", name, f)
			}
			return nil
		})
		require.NoError(t, err, name)
		assert.Equal(t, c.frequencies, seen)
	}
}

// TestResponseOfNothing: what does not swing has none, and states out of the middle are made of
// parts of amplitudes.
func TestResponseOfNothing(t *testing.T) {
	g := rod(t, formula.Fixed(4), true)
	_, err := g.Response(t.Context(), &conduct{k: []float64{1, 1}, capacity: 1}, atRest(g), false, false, []float64{1}, func(float64, []complex128) error { return nil })
	assert.ErrorContains(t, err, "nothing swings")
	middle := &fem.State{U: []float64{10, 20}, Time: 3}
	amplitude := []complex128{complex(1, -2), complex(0, 4)}
	for want, part := range map[[2]float64]func(complex128) float64{{11, 20}: func(u complex128) float64 { return real(u) }, {8, 24}: func(u complex128) float64 { return imag(u) }} {
		out := Swung(middle, amplitude, part)
		assert.Equal(t, want[:], out.U)
		assert.Equal(t, 3., out.Time)
	}
	assert.Equal(t, []float64{10, 20}, middle.U, "the middle stays")
}
