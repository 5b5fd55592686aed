package couple

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/mesh"
)

// conduct is conduction by body, with a source, storage, loss at sides and a conductance at
// joints: all linear.
type conduct struct {
	k, source []float64 // by body
	capacity  float64
	loss      float64 // per area, of the field itself
	joint     float64
	sources   map[int32]bool
}

func (c *conduct) Cell(p *fem.Point, t *fem.Terms) error {
	k := c.k[p.Part]
	for d, g := range p.Grad[0] {
		t.Flux[0][d] += k * g
		t.FluxGrad[0][d][d] += k
	}
	if c.source != nil {
		t.Source[0] -= c.source[p.Part]
	}
	t.Source[0] += c.capacity * p.Rate[0]
	t.SourceRate[0] += c.capacity
	return nil
}

func (c *conduct) Side(_ int, p *fem.Point, t *fem.Terms) error {
	t.Source[0] += c.loss * p.U[0]
	t.SourceU[0] += c.loss
	return nil
}

func (c *conduct) Joint(_ int, p *fem.Point, other []float64, t *fem.JointTerms) error {
	t.Source[0] += c.joint * (p.U[0] - other[0])
	t.SourceU[0] += c.joint
	t.SourceOther[0] -= c.joint
	return nil
}

func (c *conduct) Accounts() int           { return 2 }
func (c *conduct) Sourced() map[int32]bool { return c.sources }

// Entering accounts for the loss and for the sources.
func (c *conduct) Entering(side int, points []fem.Point, weights, sums []float64) error {
	for q, w := range weights {
		if side >= 0 {
			sums[0] -= w * c.loss * points[q].U[0]
		} else {
			sums[1] += w * c.source[points[q].Part]
		}
	}
	return nil
}

// Derive gives the flux along x.
func (c *conduct) Derive(points []fem.Point, out [][]float64) error {
	for i := range points {
		out[0][i] = -c.k[points[i].Part] * points[i].Grad[0][0]
	}
	return nil
}

func side(m *mesh.Mesh, body int32, name string) []int32 {
	return facets(m, func(f *mesh.Facet) bool { return f.Body == body && f.Other < 0 && m.Sides[f.Side] == name })
}

func heldAt(list []int32, v float64) Held {
	return Held{Facets: list, Value: formula.Fixed(v), Least: math.Inf(-1)}
}

func only(bodies ...int32) map[int32]bool {
	set := map[int32]bool{}
	for _, b := range bodies {
		set[b] = true
	}
	return set
}

// TestFlowsAddUp: in bodies with sources, a loss and held ends what leaves each through its
// whole surface is what its source gives, what passes between them leaves one and enters the
// other, and what held values bring in is what passes them; at both orders.
func TestFlowsAddUp(t *testing.T) {
	for order := 1; order <= 2; order++ {
		m := pair(t)
		left, top := side(m, 0, "left"), side(m, 1, "top")
		between := facets(m, func(f *mesh.Facet) bool { return f.Other >= 0 })
		g, err := New(m, 2, []Field{{Held: []Held{heldAt(left, 5), heldAt(side(m, 1, "right"), 1)}}}, &Settings{Order: order, Facets: top})
		require.NoError(t, err)
		k := &conduct{k: []float64{3, 0.2}, source: []float64{2e5, -4e4}, loss: 40, sources: only(0, 1)}
		s, err := g.Solve(t.Context(), k, &SolveSettings{Straight: true, Symmetric: true})
		require.NoError(t, err)
		require.True(t, s.Settled)
		through := func(list []int32, bodies ...int32) float64 {
			q, err := s.Through(0, list, only(bodies...), k)
			require.NoError(t, err)
			return q
		}
		whole := func(body int32) []int32 {
			return facets(m, func(f *mesh.Facet) bool { return f.Body == body || f.OtherBody == body && f.Other >= 0 })
		}
		volume := 0.02 * 0.01 * 0.006
		size := 2e5 * volume
		assert.InDelta(t, 2e5*volume, through(whole(0), 0), 1e-9*size, "order %d", order)
		assert.InDelta(t, -4e4*volume, through(whole(1), 1), 1e-9*size)
		assert.InDelta(t, through(between, 0), -through(between, 1), 1e-9*size)
		assert.InDelta(t, 0, through(between, 0, 1), 1e-12, "nothing leaves both through what lies between them")
		assert.InDelta(t, s.Held[0], -through(left, 0), 1e-9*size)
		assert.GreaterOrEqual(t, s.HeldSize[0], math.Abs(s.Held[0]))
		in, err := s.Entering(k)
		require.NoError(t, err)
		assert.InDelta(t, in[0], -through(top, 1), 1e-9*size)
		assert.InDelta(t, (2e5-4e4)*volume, in[1], 1e-9*size)
		assert.InDelta(t, 0, in[0]+in[1]+s.Held[0]+s.Held[1], 1e-9*size, "the account closes")
	}
}

// TestFlowsWhereAHeldPatchEnds: what passes a held side of one of two bodies is all that the
// held value brings in, also at the nodes of the border between them, where the flux has no
// bound; two held sides next to each other share by what their bodies conduct.
func TestFlowsWhereAHeldPatchEnds(t *testing.T) {
	m := pair(t)
	front := side(m, 0, "front")
	g, err := New(m, 2, []Field{{Held: []Held{heldAt(front, 1), heldAt(side(m, 1, "right"), 0)}}}, &Settings{})
	require.NoError(t, err)
	k := &conduct{k: []float64{1, 1}}
	s, err := g.Solve(t.Context(), k, &SolveSettings{Straight: true, Symmetric: true})
	require.NoError(t, err)
	q, err := s.Through(0, front, only(0), k)
	require.NoError(t, err)
	assert.InEpsilon(t, s.Held[0], -q, 1e-9)

	m = pair(t)
	backs := append(side(m, 0, "back"), side(m, 1, "back")...)
	fronts := append(side(m, 0, "front"), side(m, 1, "front")...)
	g, err = New(m, 2, []Field{{Held: []Held{heldAt(backs, 1), heldAt(fronts, 0)}}}, &Settings{})
	require.NoError(t, err)
	k = &conduct{k: []float64{400, 0.1}}
	s, err = g.Solve(t.Context(), k, &SolveSettings{Straight: true, Symmetric: true})
	require.NoError(t, err)
	for body, conductivity := range k.k {
		q, err := s.Through(0, side(m, int32(body), "back"), only(int32(body)), k)
		require.NoError(t, err)
		assert.InEpsilon(t, -conductivity*0.02*0.006/0.01, q, 1e-8, "body %d", body)
	}
}

// TestJumpsAndLevels: across a joint the field jumps by what passes; a level patch has one
// value that is not known.
func TestJumpsAndLevels(t *testing.T) {
	m := pair(t)
	between := facets(m, func(f *mesh.Facet) bool { return f.Other >= 0 })
	right := side(m, 1, "right")
	g, err := New(m, 2, []Field{{Held: []Held{heldAt(side(m, 0, "left"), 0)}, Jumps: between, Level: [][]int32{right}}}, &Settings{Facets: right, Joints: between})
	require.NoError(t, err)
	k := &conduct{k: []float64{2, 2}, joint: 50}
	enter := &entering{conduct: k, total: 3, area: g.AreaOf(right)}
	s, err := g.Solve(t.Context(), enter, &SolveSettings{Straight: true, Symmetric: true})
	require.NoError(t, err)
	area := 0.01 * 0.006
	end := 3/area*(0.04/2) + 3/area/50
	values := s.AtNodes(0, 0)
	for _, f := range right {
		for _, v := range m.Facets[f].Corners() {
			assert.InEpsilon(t, end, values[v], 1e-9)
		}
	}
	q, err := s.Through(0, between, only(1), enter)
	require.NoError(t, err)
	assert.InEpsilon(t, 3, q, 1e-9)
	assert.Len(t, g.HeldFacets(0), len(right)+len(side(m, 0, "left")))
}

// entering lets something enter through the sides in place of the loss.
type entering struct {
	*conduct
	total, area float64
}

func (e *entering) Side(_ int, _ *fem.Point, t *fem.Terms) error {
	t.Source[0] -= e.total / e.area
	return nil
}

func quantityOf(t *testing.T, text string, k Deriver) *Quantity {
	f, err := formula.Parse(text)
	require.NoError(t, err)
	variables := append(append([]formula.Variable{}, law.Variables...), formula.Variable{Name: "flux"})
	p, err := f.Compile(formula.Environment{Variables: variables})
	require.NoError(t, err)
	return &Quantity{Program: p, Temperature: 0, Sources: []Source{{Kernel: k, First: len(law.Variables), Count: 1, Nodal: []bool{false}}}}
}

// TestMeasures: extremes, means, integrals and values at points of a field that is linear
// in x, 100 K + 1000 K/m·x, over bodies, facets, lines and points.
func TestMeasures(t *testing.T) {
	for order := 1; order <= 2; order++ {
		m := pair(t)
		g, err := New(m, 2, []Field{{Start: 90, Changes: true, Held: []Held{heldAt(side(m, 0, "left"), 90), heldAt(side(m, 1, "right"), 130)}}}, &Settings{Order: order})
		require.NoError(t, err)
		k := &conduct{k: []float64{7, 7}}
		s, err := g.Solve(t.Context(), k, &SolveSettings{Straight: true, Symmetric: true})
		require.NoError(t, err)
		q := quantityOf(t, "temperature/1 K", k)
		b, err := s.InBodies(q, only(1))
		require.NoError(t, err)
		assert.InDelta(t, 110, b.Least, 1e-8)
		assert.InDelta(t, 130, b.Greatest, 1e-8)
		assert.InDelta(t, 120, b.Mean(), 1e-8)
		assert.InDelta(t, 0.03, b.MostAt[0], 1e-12)
		assert.InEpsilon(t, 0.02*0.01*0.006, b.Content, 1e-12)
		top, err := s.OnFacets(q, side(m, 0, "top"), only(0))
		require.NoError(t, err)
		assert.InEpsilon(t, 100*0.02*0.01, top.Integral, 1e-9)
		flux, err := s.OnFacets(quantityOf(t, "flux", k), side(m, 0, "top"), only(0))
		require.NoError(t, err)
		assert.InEpsilon(t, -7000, flux.Mean(), 1e-8)
		line, err := s.OnLine(q, [3]float64{-0.03, 0, 0.003}, [3]float64{0.05, 0, 0.003})
		require.NoError(t, err)
		assert.InDelta(t, 0.04, line.Content, 4e-4, "as far as it runs through the mesh")
		assert.InDelta(t, 110, line.Mean(), 0.2)
		values, inside, err := s.AtPoints(q, []float64{0.017, 0.001, 0.001, 1, 1, 1})
		require.NoError(t, err)
		assert.Equal(t, []bool{true, false}, inside)
		assert.InDelta(t, 117, values[0], 1e-8)
		least, most := s.Extremes(0)
		assert.InDelta(t, 90, least.Value, 1e-9)
		assert.InDelta(t, 130, most.Value, 1e-9)
		assert.Equal(t, int32(1), most.Body)
		_, err = s.InBodies(&Quantity{Program: q.Program, Temperature: -1}, only(0))
		assert.ErrorIs(t, err, ErrAbsent)
	}
}

// TestMarchCountsAndLocates: an even field that loses what it stores decays as exp(−t/τ);
// weights of the stages add up to the steps, what enters times them is what is stored, states
// within steps lie on the curve, and the march ends where it is told to.
func TestMarchCountsAndLocates(t *testing.T) {
	m := pair(t)
	all := facets(m, func(f *mesh.Facet) bool { return f.Other < 0 })
	g, err := New(m, 2, []Field{{Changes: true}}, &Settings{Facets: all})
	require.NoError(t, err)
	// So well conducted that it stays even.
	k := &conduct{k: []float64{1e7, 1e7}, source: []float64{0, 0}, capacity: 1e3, loss: 2}
	area, volume := g.AreaOf(all), g.VolumeOf([]int32{0, 1})
	tau := 1e3 * volume / (2 * area)
	begin := func(_, _ int, _ int32, _ [][3]float64, out []float64) error {
		for i := range out {
			out[i] = 8
		}
		return nil
	}
	set := &MarchSettings{SolveSettings: SolveSettings{Straight: true, Symmetric: true}, End: 2 * tau, Tolerance: 1e-5, Start: begin}
	moments, given, weights := 0, 0.0, 0.0
	set.Moment = func(s *Solution, step *fem.Step) bool {
		moments++
		if step == nil {
			return false
		}
		require.NoError(t, s.EachStage(step, func(at *Solution, weight float64) error {
			in, err := at.Entering(k)
			given, weights = given+weight*in[0], weights+weight
			return err
		}))
		mid := (step.From + step.To) / 2
		assert.InDelta(t, 8*math.Exp(-mid/tau), s.Within(step, mid).U[0], 1e-3)
		return false
	}
	s, err := g.March(t.Context(), k, set)
	require.NoError(t, err)
	require.True(t, s.Settled)
	assert.Equal(t, s.Steps+1, moments)
	assert.InEpsilon(t, 2*tau, weights, 1e-12)
	assert.InEpsilon(t, 1e3*volume*(s.State.U[0]-8), given, 1e-9, "what entered is what was stored")
	assert.InEpsilon(t, 8*math.Exp(-2), s.State.U[0], 1e-4)

	set.Locate = func(s *Solution, step *fem.Step) (float64, bool) {
		return tau, step.To >= tau
	}
	s, err = g.March(t.Context(), k, set)
	require.NoError(t, err)
	assert.InEpsilon(t, 8*math.Exp(-1), s.State.U[0], 1e-4, "the last step was made again to end there")
	assert.InEpsilon(t, tau, s.State.Time, 1e-9)

	stopped, cancel := context.WithCancel(t.Context())
	cancel()
	set.Locate = nil
	s, err = g.March(stopped, k, set)
	require.NoError(t, err)
	assert.False(t, s.Settled)
}
