package couple

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/mesh"
	"saltkettle/core/shape"
)

// springs are unknowns, components of one field or several fields, that conduct each by itself, are
// drawn to a value of their own, and hold each other together: −k∇²u + u + hold·(u − other) = pull.
type springs struct {
	k, hold float64
	pull    []float64
}

func (s *springs) Cell(p *fem.Point, t *fem.Terms) error {
	n := len(s.pull)
	for c, pull := range s.pull {
		own := t.Index(c, c)
		for d := range 3 {
			t.Flux[c][d] += s.k * p.Grad[c][d]
			t.FluxGrad[own][d][d] += s.k
		}
		other := (c + 1) % n
		t.Source[c] += p.U[c] - pull + s.hold*(p.U[c]-p.U[other])
		t.SourceU[own] += 1 + s.hold
		t.SourceU[t.Index(c, other)] -= s.hold
	}
	return nil
}

// turned is a box of 20 × 10 × 6 mm with its corner at the origin, turned about z; its end at 20 mm
// along its length is the side "right".
func turned(t *testing.T, angle float64, flat bool) *mesh.Mesh {
	t.Helper()
	box, err := shape.Rectangle(0.02, 0.01)
	require.NoError(t, err)
	box = box.Move(0.01, 0.005, 0).Move(0, 0, angle)
	m, err := mesh.NewStack([]mesh.StackBody{{Body: shape.Body{Outline: box, Z1: 0.006}, Size: 0.002, Across: 2}}, &mesh.StackSettings{Flat: flat})
	require.NoError(t, err)
	return m
}

// TestNothingPassesASlide: on a slant the part of a vector across it is held and the rest goes its
// way, as in the exact solution; the slide takes up what presses on it, across it alone.
func TestNothingPassesASlide(t *testing.T) {
	const k, angle, length = 1e-4, 0.5, 0.02
	pull := []float64{3, -1, 2}
	normal, along := [3]float64{math.Cos(angle), math.Sin(angle)}, [3]float64{-math.Sin(angle), math.Cos(angle)}
	m := turned(t, angle, false)
	right := side(m, 0, "right")
	g, err := New(m, 1, []Field{{Name: "v", Components: 3, Slides: []Slide{{Facets: right, Key: "c1"}}}}, &Settings{Order: 2, Facets: right})
	require.NoError(t, err)
	s, err := g.Solve(t.Context(), &springs{k: k, pull: pull}, &SolveSettings{Straight: true, Symmetric: true})
	require.NoError(t, err)
	require.True(t, s.Settled)
	across, deep := normal[0]*pull[0]+normal[1]*pull[1], math.Sqrt(k)
	for v := range int32(g.System.Grid.NodeCount()) {
		x := g.System.Grid.At(v)
		far := normal[0]*x[0] + normal[1]*x[1]
		var u [3]float64
		for c := range u {
			u[c], _ = s.ValueAt(0, c, v)
		}
		assert.InDelta(t, across*(1-math.Cosh(far/deep)/math.Cosh(length/deep)), normal[0]*u[0]+normal[1]*u[1], 2e-4)
		assert.InDelta(t, along[0]*pull[0]+along[1]*pull[1], along[0]*u[0]+along[1]*u[1], 1e-8)
		assert.InDelta(t, pull[2], u[2], 1e-8)
	}
	press := across * k / deep * math.Tanh(length/deep) * 0.01 * 0.006
	require.Len(t, s.Slid, 1)
	for d, v := range s.Slid[0] {
		assert.InDelta(t, -press*normal[d], v, 2e-4*press)
	}
	sums := map[string]float64{}
	for c := range 3 {
		s.Entered(0, c, func(key string, sum, _ float64) { sums[key] += sum * normal[c] })
	}
	assert.InEpsilon(t, -press, sums["c1"], 2e-4)
}

// TestWhatSlidesHoldStill: three faces on which a box slides hold it as three held components do;
// two do not, and a section needs two, round an axis one across it.
func TestWhatSlidesHoldStill(t *testing.T) {
	for name, c := range map[string]struct {
		flat, round bool
		angle       float64
		slides      []string
		held        map[string]int // component by side
		loose       bool
	}{
		"two faces":                    {angle: 0.3, slides: []string{"right", "back"}, loose: true},
		"three faces":                  {angle: 0.3, slides: []string{"right", "back", shape.Top}},
		"opposite faces count once":    {slides: []string{"right", "left", shape.Top, shape.Bottom}, loose: true},
		"faces and a component":        {slides: []string{"right", "back"}, held: map[string]int{shape.Top: 2}},
		"components":                   {held: map[string]int{"left": 0, "front": 1, shape.Bottom: 2}},
		"one of each twice":            {held: map[string]int{"left": 0, "right": 0, shape.Bottom: 2}, loose: true},
		"a section on one side":        {flat: true, angle: 0.3, slides: []string{"front"}, loose: true},
		"a section on two":             {flat: true, angle: 0.3, slides: []string{"front", "left"}},
		"round an axis, along r":       {flat: true, round: true, held: map[string]int{"right": 0}, loose: true},
		"round an axis, along it":      {flat: true, round: true, held: map[string]int{"front": 1}},
		"round an axis, on a cone":     {flat: true, round: true, angle: 0.3, slides: []string{"right"}},
		"round an axis, on a cylinder": {flat: true, round: true, slides: []string{"right"}, loose: true},
	} {
		m := turned(t, c.angle, c.flat)
		f := Field{Name: "v", Components: 3}
		if c.flat {
			f.Components = 2
		}
		for _, name := range c.slides {
			f.Slides = append(f.Slides, Slide{Facets: side(m, 0, name)})
		}
		for name, component := range c.held {
			h := heldAt(side(m, 0, name), 0)
			h.Component = component
			f.Held = append(f.Held, h)
		}
		for order := 1; order <= 2; order++ {
			g, err := New(m, 1, []Field{f}, &Settings{Order: order, Facets: facets(m, func(*mesh.Facet) bool { return true })})
			require.NoError(t, err, name)
			err = g.FixedRigid(0, c.round, nil)
			var loose *LooseError
			if !c.loose {
				assert.NoError(t, err, name)
			} else if assert.ErrorAs(t, err, &loose, name) {
				assert.Equal(t, []int32{0}, loose.Bodies)
			}
		}
	}
}

// TestWaysToSolveAgree: two fields that hold each other by factors of the matrix, by multigrid for
// each field, and by factors after patience has run out; with one field alike or not.
func TestWaysToSolveAgree(t *testing.T) {
	m := turned(t, 0, false)
	fields := []Field{{Name: "a", Held: []Held{heldAt(side(m, 0, "left"), 4)}}, {Name: "b", Held: []Held{{Facets: side(m, 0, "right"), Value: formula.Fixed(-2), Least: math.Inf(-1)}}}}
	g, err := New(m, 1, fields, &Settings{Order: 2})
	require.NoError(t, err)
	kernel := &springs{k: 1e-3, hold: 40, pull: []float64{1, 0}}
	var first []float64
	for _, c := range []struct {
		set    SolveSettings
		method string
	}{
		{SolveSettings{Symmetric: true}, "LDLᵀ factorisation"},
		{SolveSettings{}, "LU factorisation"},
		{SolveSettings{DirectUnknowns: 1}, "generalised minimal residuals with multigrid for each field"},
		{SolveSettings{DirectUnknowns: 1, Symmetric: true}, "generalised minimal residuals with multigrid for each field"},
		{SolveSettings{DirectUnknowns: 1, Patience: 2}, "LU factorisation"},
	} {
		c.set.Straight = true
		s, err := g.Solve(t.Context(), kernel, &c.set)
		require.NoError(t, err)
		require.True(t, s.Settled, c.method)
		assert.Equal(t, c.method, s.Method)
		if first == nil {
			first = s.State.U
		}
		assert.InDeltaSlice(t, first, s.State.U, 1e-8, c.method)
	}
	s, err := g.Solve(t.Context(), kernel, &SolveSettings{Straight: true, DirectUnknowns: 1, MaxIterations: 1})
	require.NoError(t, err)
	assert.False(t, s.Settled, "it is stopped, and says so")
}
