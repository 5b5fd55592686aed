package mesh

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// polygon makes the segments of a closed polygon of one body.
func polygon(body int32, points ...Point) []Segment {
	var s []Segment
	for i, p := range points {
		s = append(s, Segment{A: p, B: points[(i+1)%len(points)], Tag: Tag{body, int32(i)}})
	}
	return s
}

func box(body int32, x0, y0, x1, y1 float64) []Segment {
	return polygon(body, Point{x0, y0}, Point{x1, y0}, Point{x1, y1}, Point{x0, y1})
}

func disc(body int32, x, y, r float64, n int) []Segment {
	var points []Point
	for i := range n {
		a := 2 * math.Pi * float64(i) / float64(n)
		points = append(points, Point{x + r*math.Cos(a), y + r*math.Sin(a)})
	}
	return polygon(body, points...)
}

// checkPlan demands a valid mesh: every triangle turns left, neighbours agree,
// and returns the area of each body and the smallest angle in degrees.
func checkPlan(t *testing.T, p *Plan, bodies int) (areas []float64, least float64) {
	t.Helper()
	areas = make([]float64, bodies)
	least = 180
	for i, tri := range p.Triangles {
		a, b, c := p.Points[tri[0]], p.Points[tri[1]], p.Points[tri[2]]
		area := ((b.X-a.X)*(c.Y-a.Y) - (b.Y-a.Y)*(c.X-a.X)) / 2
		if !(area > 0) {
			t.Fatalf("triangle %d is inverted", i)
		}
		for _, body := range p.Members[p.Region[i]] {
			areas[body] += area
		}
		for k := range 3 {
			u, v, w := p.Points[tri[k]], p.Points[tri[next(k)]], p.Points[tri[prev(k)]]
			cos := ((v.X-u.X)*(w.X-u.X) + (v.Y-u.Y)*(w.Y-u.Y)) / math.Sqrt(sq(u, v)*sq(u, w))
			least = min(least, math.Acos(cos)*180/math.Pi)
			n := p.Neighbours[i][k]
			if n < 0 {
				if p.Segments[i][k] < 0 {
					t.Fatal("an outer edge without outline")
				}
				continue
			}
			back := 0
			for j := range 3 {
				if p.Neighbours[n][j] == int32(i) {
					back++
					if p.Segments[i][k] != p.Segments[n][j] {
						t.Fatal("two neighbours disagree on the outline between them")
					}
				}
			}
			if back != 1 || p.Region[n] != p.Region[i] && p.Segments[i][k] < 0 {
				t.Fatalf("triangles %d and %d are not joined well", i, n)
			}
		}
	}
	return areas, least
}

func TestPlanOfRodsOnBrick(t *testing.T) {
	segments := box(0, -0.052, -0.036, 0.052, 0.036)
	sizes := []float64{2.5e-3}
	for i := range 5 {
		y := (float64(i) - 2) * 0.013
		segments = append(segments, box(int32(i+1), -0.06, y-0.003, 0.06, y+0.003)...)
		sizes = append(sizes, 2.5e-3)
	}
	p, err := NewPlan(segments, &PlanSettings{Sizes: sizes})
	require.NoError(t, err)
	areas, least := checkPlan(t, p, 6)
	assert.InEpsilon(t, 0.104*0.072, areas[0], 1e-12)
	assert.InEpsilon(t, 0.120*0.006, areas[3], 1e-12)
	assert.GreaterOrEqual(t, least, float64(angleBound))
	assert.InDelta(t, 3600, len(p.Triangles), 1400)
}

func TestPlanQualityAndGrading(t *testing.T) {
	segments := append(box(0, 0, 0, 1, 1), disc(1, 0.4, 0.5, 0.02, 24)...)
	p, err := NewPlan(segments, &PlanSettings{Sizes: []float64{0.1, 0.004}})
	require.NoError(t, err)
	areas, least := checkPlan(t, p, 2)
	assert.InEpsilon(t, 1, areas[0], 1e-12)
	assert.InEpsilon(t, 12*0.02*0.02*math.Sin(2*math.Pi/24), areas[1], 1e-10)
	assert.GreaterOrEqual(t, least, float64(angleBound))
	assert.Less(t, len(p.Triangles), 1500, "the fine disc must not refine the whole square")
}

func TestPlanWithSharpCornersEnds(t *testing.T) {
	// A needle of 2° and a disc that touches an edge.
	segments := polygon(0, Point{0, 0}, Point{1, 0}, Point{1, 0.035})
	segments = append(segments, disc(1, 0.5, 0.2, 0.2, 48)...)
	p, err := NewPlan(segments, &PlanSettings{Sizes: []float64{0.05, 0.05}})
	require.NoError(t, err)
	areas, _ := checkPlan(t, p, 2)
	assert.InEpsilon(t, 0.0175, areas[0], 1e-9)
	assert.Less(t, len(p.Triangles), 20000)
}

func TestPlanFlushAndNearlyFlush(t *testing.T) {
	// Edges that coincide but for round-off must not make slivers.
	s := append(box(0, 0, 0, 0.3, 0.1), box(1, 0.1+0.2, 0, 0.6, 0.1)...)
	s = append(s, box(2, 0.1, 0.1+1e-13, 0.4, 0.2)...)
	p, err := NewPlan(s, &PlanSettings{Sizes: []float64{0.02, 0.02, 0.02}})
	require.NoError(t, err)
	_, least := checkPlan(t, p, 3)
	assert.GreaterOrEqual(t, least, float64(angleBound))
}

func TestPlanRefusesWhatIsTooFine(t *testing.T) {
	_, err := NewPlan(box(0, 0, 0, 1, 1), &PlanSettings{Sizes: []float64{1e-4}, MaxTriangles: 5000})
	assert.ErrorContains(t, err, "make the cells larger")
	_, err = NewPlan(nil, &PlanSettings{})
	assert.Error(t, err)
}

// TestFaultsOfTheDataAreErrors: coordinates that are no numbers must not bring
// the program down, nor make a mesh.
func TestFaultsOfTheDataAreErrors(t *testing.T) {
	set := &PlanSettings{Sizes: []float64{0.1}}
	for _, x := range []float64{math.NaN(), math.Inf(1), math.Inf(-1)} {
		_, err := NewPlan(box(0, 0, 0, x, 1), set)
		assert.Error(t, err)
	}
	_, err := NewPlan(box(0, 2, 2, 2, 2), set)
	assert.ErrorContains(t, err, "no extent")
	_, err = NewPlan(box(0, 0, 0, 1, 1), &PlanSettings{Sizes: []float64{0}})
	assert.ErrorContains(t, err, "not positive")
}

// TestPlanRandom overlaps random boxes and discs: areas are conserved, nothing
// is inverted, labels are right.
func TestPlanRandom(t *testing.T) {
	for seed := range uint64(200) {
		rng := rand.New(rand.NewPCG(seed, 7))
		var segments []Segment
		var sizes, want []float64
		for b := range int32(2 + rng.IntN(6)) {
			x, y := rng.Float64(), rng.Float64()
			if rng.IntN(2) == 0 {
				w, h := 0.1+rng.Float64(), 0.1+rng.Float64()
				if rng.IntN(3) == 0 { // on a coarse lattice, so that edges coincide
					x, y, w, h = math.Round(x*4)/4, math.Round(y*4)/4, math.Ceil(w*4)/4, math.Ceil(h*4)/4
				}
				segments = append(segments, box(b, x, y, x+w, y+h)...)
				want = append(want, w*h)
			} else {
				r, n := 0.1+0.4*rng.Float64(), 8+rng.IntN(40)
				segments = append(segments, disc(b, x, y, r, n)...)
				want = append(want, float64(n)/2*r*r*math.Sin(2*math.Pi/float64(n)))
			}
			sizes = append(sizes, 0.05+0.3*rng.Float64())
		}
		p, err := NewPlan(segments, &PlanSettings{Sizes: sizes})
		require.NoError(t, err)
		areas, _ := checkPlan(t, p, len(sizes))
		for b := range want {
			require.InEpsilon(t, want[b], areas[b], 3e-6, "seed %d, body %d", seed, b)
		}
	}
}

func TestPredicatesAreExact(t *testing.T) {
	g := newGrid(1)
	rng := rand.New(rand.NewPCG(3, 3))
	for range 2000 {
		a := g.snap(Point{rng.Float64(), rng.Float64()})
		d := g.snap(Point{rng.Float64() / 4, rng.Float64() / 4})
		b := Point{a.X + d.X, a.Y + d.Y}
		c := Point{a.X + 2*d.X, a.Y + 2*d.Y}
		require.Zero(t, g.orient(a, b, c))
		up := Point{c.X, c.Y + g.quantum}
		require.Equal(t, d.X > 0, g.orient(a, b, up) > 0)
		// Four corners of a rotated square lie on one circle.
		e := Point{-d.Y, d.X}
		p, q, r, s := Point{a.X + d.X, a.Y + d.Y}, Point{a.X + e.X, a.Y + e.Y}, Point{a.X - d.X, a.Y - d.Y}, Point{a.X - e.X, a.Y - e.Y}
		require.Zero(t, g.inCircle(p, q, r, s))
		in := Point{s.X + math.Copysign(g.quantum, a.X-s.X), s.Y}
		require.Positive(t, g.inCircle(p, q, r, in))
	}
}
