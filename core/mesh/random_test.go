package mesh

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/shape"
)

// facetVector is the area of a facet times its normal, outward from its cell.
func facetVector(m *Mesh, f *Facet) (v [3]float64) {
	corners := f.Corners()
	p := func(i int) []float64 { return m.Nodes[3*corners[i]:] }
	for i := 1; i+1 < len(corners); i++ {
		var a, b [3]float64
		for r := range 3 {
			a[r], b[r] = p(i)[r]-p(0)[r], p(i + 1)[r]-p(0)[r]
		}
		v[0] += (a[1]*b[2] - a[2]*b[1]) / 2
		v[1] += (a[2]*b[0] - a[0]*b[2]) / 2
		v[2] += (a[0]*b[1] - a[1]*b[0]) / 2
	}
	return v
}

// TestStackRandom stacks random boxes and discs that overlap, touch and float.
// Whatever comes out, every cell is upright and positive, the volumes add up
// over layers, and the facets of every body close its surface and enclose its
// volume.
func TestStackRandom(t *testing.T) {
	for seed := range uint64(60) {
		rng := rand.New(rand.NewPCG(seed, 11))
		var bodies []StackBody
		for i := range 2 + rng.IntN(4) {
			var o shape.Outline
			var err error
			if rng.IntN(2) == 0 {
				o, err = shape.Rectangle(0.02+0.08*rng.Float64(), 0.02+0.08*rng.Float64())
			} else {
				o, err = shape.Disc(0.02 + 0.06*rng.Float64())
			}
			require.NoError(t, err)
			z0 := math.Round(rng.Float64()*4) / 100
			angle := 0.0
			if rng.IntN(3) == 0 {
				angle = rng.Float64()
			}
			bodies = append(bodies, StackBody{
				Body: shape.Body{Part: i, Outline: o.Move(0.06*rng.Float64(), 0.06*rng.Float64(), angle), Z0: z0, Z1: z0 + 0.005 + 0.02*rng.Float64()},
				Size: 0.01 + 0.02*rng.Float64(), Across: 1 + rng.IntN(2),
			})
		}
		m, err := NewStack(bodies, nil)
		require.NoError(t, err)
		volume := make([]float64, len(bodies))
		for c := range m.CellCount() {
			v := m.Size(int32(c))
			if !(v > 0) {
				t.Fatalf("seed %d: cell %d is inverted", seed, c)
			}
			volume[m.Body[c]] += v
		}
		closed := make([][3]float64, len(bodies))
		enclosed := make([]float64, len(bodies))
		for i := range m.Facets {
			f := &m.Facets[i]
			if f.Body == f.OtherBody || f.Cell == f.Other || m.Body[f.Cell] != f.Body || f.Other >= 0 && m.Body[f.Other] != f.OtherBody {
				t.Fatalf("seed %d: facet %d names the wrong bodies", seed, i)
			}
			v := facetVector(m, f)
			x := m.Nodes[3*f.Nodes[0]:]
			through := (v[0]*x[0] + v[1]*x[1] + v[2]*x[2]) / 3
			for r := range 3 {
				closed[f.Body][r] += v[r]
			}
			enclosed[f.Body] += through
			if f.OtherBody >= 0 {
				for r := range 3 {
					closed[f.OtherBody][r] -= v[r]
				}
				enclosed[f.OtherBody] -= through
			}
		}
		last := len(bodies) - 1
		// Nothing displaces the last body. More nodes on its arcs bring its volume closer to
		// that of the circle.
		least, most := polygonVolume(bodies[last]), bodies[last].Outline.Area()*(bodies[last].Z1-bodies[last].Z0)
		assert.Greater(t, volume[last], least*(1-1e-6))
		assert.Less(t, volume[last], most*(1+1e-6))
		for b := range bodies {
			assert.InDelta(t, volume[b], enclosed[b], 1e-12, "seed %d, body %d", seed, b)
			for r := range 3 {
				assert.InDelta(t, 0, closed[b][r], 1e-13, "seed %d, body %d", seed, b)
			}
		}
	}
}

// polygonVolume is the volume of a body whose arcs are chords, as in its mesh.
func polygonVolume(b StackBody) float64 {
	size := min(b.Size, b.Outline.Width/float64(b.Across))
	var area float64
	for _, loop := range b.Outline.Loops {
		for _, e := range loop {
			from := e.From
			for _, to := range e.Chords(size) {
				area += (from.X*to.Y - to.X*from.Y) / 2
				from = to
			}
		}
	}
	return area * (b.Z1 - b.Z0)
}

// TestTriangulationIsDelaunay: before refinement, no vertex lies inside the
// circle of a triangle that sees it across unconstrained edges.
func TestTriangulationIsDelaunay(t *testing.T) {
	rng := rand.New(rand.NewPCG(9, 9))
	points := make([]Point, 400)
	for i := range points {
		points[i] = Point{rng.Float64(), rng.Float64()}
		if i%5 == 0 { // some on a lattice, so that many lie on common circles
			points[i] = Point{math.Round(points[i].X*8) / 8, math.Round(points[i].Y*8) / 8}
		}
	}
	lo, hi := Point{0, 0}, Point{1, 1}
	tr := newTriangulation(lo, hi, len(points))
	v := tr.insertAll(points, lo, hi)
	for k := range 12 { // long segments across everything
		tr.addSegment(v[k*7+1], v[k*11+100], int32(k))
	}
	for f := range tr.faces {
		fc := &tr.faces[f]
		a, b, c := tr.points[fc.v[0]], tr.points[fc.v[1]], tr.points[fc.v[2]]
		if tr.orient(a, b, c) <= 0 {
			t.Fatalf("face %d does not turn left", f)
		}
		for i, g := range fc.n {
			if g == none || fc.s[i] != none {
				continue
			}
			k := tr.faces[g].side(int32(f))
			if k < 0 || tr.inCircle(a, b, c, tr.points[tr.faces[g].v[k]]) > 0 {
				t.Fatalf("the edge between faces %d and %d is not Delaunay", f, g)
			}
		}
	}
	// Every segment is there, whole or cut where it crosses others.
	length := make([]float64, 12)
	for f := range tr.faces {
		fc := &tr.faces[f]
		for i, s := range fc.s {
			if s != none && int32(f) < fc.n[i] {
				length[s] += math.Sqrt(sq(tr.points[fc.v[next(i)]], tr.points[fc.v[prev(i)]]))
			}
		}
	}
	for k := range 12 {
		assert.InDelta(t, math.Sqrt(sq(points[k*7+1], points[k*11+100])), length[k], 1e-9)
	}
}
