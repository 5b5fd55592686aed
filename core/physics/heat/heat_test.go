package heat

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/mesh"
	"saltkettle/core/shape"
)

// slabs stacks boxes of 20 × 10 mm on each other along x: thick lists their
// extents in x. They touch with their left and right sides.
func slabs(t *testing.T, size float64, thick ...float64) *mesh.Mesh {
	t.Helper()
	var bodies []mesh.StackBody
	x := 0.0
	for i, l := range thick {
		o, err := shape.Rectangle(l, 0.02)
		require.NoError(t, err)
		bodies = append(bodies, mesh.StackBody{Body: shape.Body{Part: i, Outline: o.Move(x+l/2, 0, 0), Z0: 0, Z1: 0.01}, Size: size, Across: 1})
		x += l
	}
	m, err := mesh.NewStack(bodies, nil)
	require.NoError(t, err)
	return m
}

// facets finds the facets of a body with a side, facing a body (−1 the outside).
func facets(m *mesh.Mesh, body int32, side string, other int32) []int32 {
	var list []int32
	for i, f := range m.Facets {
		if f.Body == body && f.OtherBody == other && (m.Sides[f.Side] == side || side == "*") {
			list = append(list, int32(i))
		}
	}
	return list
}

// cooled is convection with a coefficient.
func cooled(facets []int32, coefficient, medium Law) Convection {
	return Convection{Facets: facets, Coefficient: coefficient, Medium: medium}
}

// fix is a law without variables.
func fix(si float64) Law { return formula.Fixed(si) }

// wall is a problem on a mesh with held temperatures.
type wall struct {
	Mesh        *mesh.Mesh
	Bodies      []Body
	Sources     []Source
	Fluxes      []Flux
	Convections []Convection
	Radiations  []Radiation
	Contacts    []Contact
	Held        []held
	Order       int
}

type held struct {
	Facets []int32
	Value  Law
}

// answer is its solution with what enters by each condition.
type answer struct {
	*couple.Solution
	kernel                                         *Kernel
	Sources, Fluxes, Convections, Radiations, Held []float64
	Symmetric                                      bool
}

func (p *wall) solve(t *testing.T) (*answer, error) {
	t.Helper()
	set := &couple.Settings{Order: p.Order}
	field := couple.Field{Name: "temperature", Start: 300, Changes: true}
	for _, h := range p.Held {
		field.Held = append(field.Held, couple.Held{Facets: h.Facets, Value: h.Value, What: "temperature held"})
	}
	for _, c := range p.Contacts {
		field.Jumps = append(field.Jumps, c.Facets...)
		set.Joints = append(set.Joints, c.Facets...)
	}
	seen := map[int32]bool{}
	add := func(facets []int32) {
		for _, k := range facets {
			if !seen[k] {
				set.Facets = append(set.Facets, k)
			}
			seen[k] = true
		}
	}
	for _, c := range p.Fluxes {
		add(c.Facets)
	}
	for _, c := range p.Convections {
		add(c.Facets)
	}
	for _, c := range p.Radiations {
		add(c.Facets)
	}
	g, err := couple.New(p.Mesh, len(p.Bodies), []couple.Field{field}, set)
	require.NoError(t, err)
	k, err := NewKernel(g, &Problem{Bodies: p.Bodies, Sources: p.Sources, Fluxes: p.Fluxes, Convections: p.Convections, Radiations: p.Radiations, Contacts: p.Contacts}, 0)
	require.NoError(t, err)
	s, err := g.Solve(t.Context(), k, &couple.SolveSettings{Straight: k.Straight(), Symmetric: k.Symmetric()})
	if err != nil {
		return nil, err
	}
	in, err := s.Entering(k)
	require.NoError(t, err)
	a := &answer{Solution: s, kernel: k, Held: s.Held, Symmetric: k.Symmetric()}
	for _, list := range []struct {
		to *[]float64
		n  int
	}{{&a.Sources, len(p.Sources)}, {&a.Fluxes, len(p.Fluxes)}, {&a.Convections, len(p.Convections)}, {&a.Radiations, len(p.Radiations)}} {
		*list.to, in = in[:list.n], in[list.n:]
	}
	return a, nil
}

// closure is how far what enters and what leaves differ, relative to the larger.
func (a *answer) closure() float64 {
	var in, out float64
	for _, list := range [][]float64{a.Sources, a.Fluxes, a.Convections, a.Radiations, a.Held} {
		for _, q := range list {
			in += max(q, 0)
			out -= min(q, 0)
		}
	}
	return math.Abs(in-out) / max(in, out)
}

func (a *answer) quantity(q Law) *couple.Quantity {
	return &couple.Quantity{Program: q, Sources: []couple.Source{{Kernel: a.kernel, First: len(law.Variables), Count: len(Derived), Nodal: make([]bool, len(Derived))}}}
}

func (a *answer) InBodies(t *testing.T, q Law, bodies map[int32]bool) *couple.Measure {
	m, err := a.Solution.InBodies(a.quantity(q), bodies)
	require.NoError(t, err)
	return m
}

func (a *answer) OnFacets(t *testing.T, q Law, facets []int32, bodies map[int32]bool) *couple.Measure {
	m, err := a.Solution.OnFacets(a.quantity(q), facets, bodies)
	require.NoError(t, err)
	return m
}

func (a *answer) OnLine(t *testing.T, q Law, from, to [3]float64) *couple.Measure {
	m, err := a.Solution.OnLine(a.quantity(q), from, to)
	require.NoError(t, err)
	return m
}

func (a *answer) AtPoints(t *testing.T, q Law, points []float64) ([]float64, []bool) {
	v, inside, err := a.Solution.AtPoints(a.quantity(q), points)
	require.NoError(t, err)
	return v, inside
}

func (a *answer) Through(t *testing.T, facets []int32, bodies map[int32]bool) float64 {
	q, err := a.Solution.Through(0, facets, bodies, a.kernel)
	require.NoError(t, err)
	return q
}

func solve(t *testing.T, p *wall) *answer {
	t.Helper()
	s, err := p.solve(t)
	require.NoError(t, err)
	require.True(t, s.Settled, "residuals %v", s.Residuals)
	require.Less(t, s.closure(), 1e-8)
	return s
}

// misfit is the root mean square over the volume of the error against an exact
// solution, by quadrature, with the mean length of plan edges, m.
type misfit struct{ error, h float64 }

func l2(t *testing.T, s *answer, exact func(x, y, z float64) float64) misfit {
	t.Helper()
	var sum, volume float64
	m := s.Mesh
	require.NoError(t, s.System.EachCell(s.State, nil, func(points []fem.Point, weights []float64) error {
		for i, p := range points {
			d := p.U[0] - exact(p.X[0], p.X[1], p.X[2])
			sum += d * d * weights[i]
			volume += weights[i]
		}
		return nil
	}))
	return misfit{math.Sqrt(sum / volume), math.Sqrt(1 / float64(len(m.Plan.Triangles)))}
}

// order is the observed order of convergence between two meshes. Their edges are
// compared by the number of triangles, as unstructured meshes are not nested.
func order(coarse, fine misfit) float64 {
	return math.Log(coarse.error/fine.error) / math.Log(coarse.h/fine.h)
}

// TestPatch: a linear temperature is reproduced to round-off on an unstructured
// mesh, and the flow through its ends is exact.
func TestPatch(t *testing.T) {
	m := slabs(t, 4e-3, 0.05)
	p := &wall{Mesh: m, Bodies: []Body{Isotropic(fix(14.9))}, Held: []held{
		{facets(m, 0, "left", -1), fix(300)}, {facets(m, 0, "right", -1), fix(400)}}}
	s := solve(t, p)
	assert.Less(t, l2(t, s, func(x, _, _ float64) float64 { return 300 + 100*x/0.05 }).error, 1e-9)
	want := 14.9 * 0.02 * 0.01 * 100 / 0.05
	assert.InEpsilon(t, want, s.Held[1], 1e-9)
	assert.InEpsilon(t, want, s.Through(t, facets(m, 0, "left", -1), map[int32]bool{0: true}), 1e-9)
	assert.InDelta(t, 0, s.Through(t, facets(m, 0, "top", -1), map[int32]bool{0: true}), 1e-12)
}

// TestSlabWithSource: k T” + q = 0, one face insulated, the other cooled by
// convection. T = T∞ + qL/h + q(L² − x²)/(2k) (Incropera et al., section 3.5).
func TestSlabWithSource(t *testing.T) {
	const l, k, q, h, medium = 0.05, 14.9, 2e6, 850.0, 345.15
	exact := func(x, _, _ float64) float64 { return medium + q*l/h + q*(l*l-x*x)/(2*k) }
	var errors []misfit
	for _, size := range []float64{4e-3, 2e-3, 1e-3} {
		m := slabs(t, size, l)
		p := &wall{Mesh: m, Bodies: []Body{Isotropic(fix(k))}, Sources: []Source{{Bodies: []int32{0}, Volume: fix(q)}},
			Convections: []Convection{cooled(facets(m, 0, "right", -1), fix(h), fix(medium))}}
		s := solve(t, p)
		errors = append(errors, l2(t, s, exact))
		assert.InEpsilon(t, -q*l*2e-4, s.Convections[0], 1e-9, "all heat leaves by convection")
		assert.InEpsilon(t, q*l*2e-4, s.Through(t, facets(m, 0, "right", -1), map[int32]bool{0: true}), 1e-9)
	}
	assert.Greater(t, order(errors[0], errors[1]), 1.8)
	assert.Greater(t, order(errors[1], errors[2]), 1.8)
	assert.Less(t, errors[2].error, 0.15)
	t.Logf("errors %v, orders %.3f %.3f", errors, order(errors[0], errors[1]), order(errors[1], errors[2]))
}

// TestCompositeWall: three layers in series between a held face and convection.
// The field is piecewise linear, so order 1 elements are exact.
func TestCompositeWall(t *testing.T) {
	thick := []float64{0.010, 0.004, 0.030}
	k := []float64{1.0, 401, 14.9}
	const h, hot, medium, area = 600.0, 450.0, 293.15, 2e-4
	m := slabs(t, 3e-3, thick...)
	var conductivities []Body
	for _, v := range k {
		conductivities = append(conductivities, Isotropic(fix(v)))
	}
	p := &wall{Mesh: m, Bodies: conductivities, Held: []held{{facets(m, 0, "left", -1), fix(hot)}},
		Convections: []Convection{cooled(facets(m, 2, "right", -1), fix(h), fix(medium))}}
	s := solve(t, p)
	r := 1 / h
	for i := range k {
		r += thick[i] / k[i]
	}
	want := (hot - medium) / r * area
	assert.InEpsilon(t, want, s.Held[0], 1e-8)
	// What passes from the first layer to the second and on to the third.
	assert.InEpsilon(t, want, s.Through(t, facets(m, 0, "*", 1), map[int32]bool{0: true}), 1e-8)
	assert.InEpsilon(t, want, s.Through(t, facets(m, 1, "*", 2), map[int32]bool{1: true}), 1e-8)
	assert.InEpsilon(t, -want, s.Through(t, facets(m, 1, "*", 2), map[int32]bool{2: true}), 1e-8)
	assert.InEpsilon(t, medium+want/area/h, s.OnFacets(t, temperature, facets(m, 2, "right", -1), map[int32]bool{2: true}).Mean(), 1e-8)
	// In the middle layer the mean over the volume is the mean of its faces.
	face := hot - want/area*thick[0]/k[0]
	assert.InEpsilon(t, face-want/area*thick[1]/k[1]/2, s.InBodies(t, temperature, map[int32]bool{1: true}).Mean(), 1e-8)
}

// TestFin: a thin straight fin with an insulated tip loses
// √(h P k A)·θ·tanh(mL) (Incropera et al., table 3.4). At Bi = h·t/k = 1e-4 the
// cross-section is even, so the one-dimensional solution holds to about 1e-4.
func TestFin(t *testing.T) {
	const l, w, thick, k, h, root, medium = 0.05, 0.02, 0.01, 401.0, 4.0, 360.0, 290.0
	perimeter, area := 2*(w+thick), w*thick
	mm := math.Sqrt(h * perimeter / (k * area))
	want := math.Sqrt(h*perimeter*k*area) * (root - medium) * math.Tanh(mm*l)
	var errors []float64
	for _, size := range []float64{8e-3, 4e-3} {
		m := slabs(t, size, l)
		var sides []int32
		for _, side := range []string{"front", "back", "top", "bottom"} {
			sides = append(sides, facets(m, 0, side, -1)...)
		}
		p := &wall{Mesh: m, Bodies: []Body{Isotropic(fix(k))}, Held: []held{{facets(m, 0, "left", -1), fix(root)}},
			Convections: []Convection{cooled(sides, fix(h), fix(medium))}}
		s := solve(t, p)
		errors = append(errors, math.Abs(s.Held[0]/want-1))
	}
	assert.Less(t, errors[1], 1e-4)
}

// TestTurnedSlab: a slab with a source between held faces, turned in plan so that
// the exact solution varies along both axes of an unstructured mesh.
func TestTurnedSlab(t *testing.T) {
	const l, k, q = 0.04, 2.0, 1e5
	var errors []misfit
	for _, size := range []float64{2.5e-3, 1.25e-3, 0.625e-3} {
		o, err := shape.Rectangle(l, 0.02)
		require.NoError(t, err)
		m, err := mesh.NewStack([]mesh.StackBody{{Body: shape.Body{Outline: o.Move(0, 0, 0.5), Z1: 0.005}, Size: size, Across: 1}}, nil)
		require.NoError(t, err)
		p := &wall{Mesh: m, Bodies: []Body{Isotropic(fix(k))}, Sources: []Source{{Bodies: []int32{0}, Total: fix(q * l * 0.02 * 0.005)}},
			Held: []held{{append(facets(m, 0, "left", -1), facets(m, 0, "right", -1)...), fix(300)}}}
		s := solve(t, p)
		errors = append(errors, l2(t, s, func(x, y, _ float64) float64 {
			u := x*math.Cos(0.5) + y*math.Sin(0.5)
			return 300 + q/(2*k)*(l*l/4-u*u)
		}))
	}
	t.Logf("errors %v, orders %.3f %.3f", errors, order(errors[0], errors[1]), order(errors[1], errors[2]))
	// Unstructured meshes differ in quality: look at the whole range.
	assert.Greater(t, order(errors[0], errors[2]), 1.85)
}

func TestFluxAndReference(t *testing.T) {
	m := slabs(t, 5e-3, 0.03)
	left, right := facets(m, 0, "left", -1), facets(m, 0, "right", -1)
	p := &wall{Mesh: m, Bodies: []Body{Isotropic(fix(10))}, Fluxes: []Flux{{Facets: left, Total: fix(6)}, {Facets: left, Area: fix(1e4)}}}
	p.Held = []held{{right, fix(300)}}
	s := solve(t, p)
	assert.InEpsilon(t, 8, -s.Held[0], 1e-9)
	assert.InEpsilon(t, -8, s.Through(t, left, map[int32]bool{0: true}), 1e-9)
	lo, hi := s.Extremes(0)
	assert.InDelta(t, 300, lo.Value, 1e-9)
	assert.InEpsilon(t, 300+8/2e-4/10*0.03, hi.Value, 1e-9)
}
