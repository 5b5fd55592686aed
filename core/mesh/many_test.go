package mesh

import (
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// cases is how many random plans are meshed: 200, or what KETTLE_CASES says.
func cases(t *testing.T) uint64 {
	text := os.Getenv("KETTLE_CASES")
	if text == "" {
		return 200
	}
	n, err := strconv.ParseUint(text, 10, 32)
	require.NoError(t, err)
	return n
}

// randomOutline is a box, a star, a needle or a comb, turned, sometimes flush with the
// one before or beside it by next to nothing.
func randomOutline(rng *rand.Rand, before []Point) []Point {
	var p []Point
	switch rng.IntN(6) {
	case 0, 1:
		w, d := 0.01+0.1*rng.Float64(), 0.01+0.1*rng.Float64()
		p = []Point{{0, 0}, {w, 0}, {w, d}, {0, d}}
	case 2: // a star
		n := 3 + rng.IntN(9)
		for i := range 2 * n {
			s, c := math.Sincos(math.Pi * float64(i) / float64(n))
			r := 0.05 * (0.25 + 0.75*float64(i%2))
			p = append(p, Point{r * c, r * s})
		}
	case 3: // a needle
		p = []Point{{0, 0}, {0.1, 0.0004 + 0.002*rng.Float64()}, {0.1 * rng.Float64(), 0.01 * rng.Float64()}}
		if (p[1].X-p[0].X)*(p[2].Y-p[0].Y)-(p[2].X-p[0].X)*(p[1].Y-p[0].Y) < 0 {
			p[1], p[2] = p[2], p[1]
		}
	case 4: // a comb with thin gaps
		n := 2 + rng.IntN(4)
		gap := math.Pow(10, -2.2-3*rng.Float64())
		p = []Point{{0, 0}, {float64(n)*(0.01+gap) - gap, 0}}
		for i := n - 1; i >= 0; i-- {
			x := float64(i) * (0.01 + gap)
			p = append(p, Point{x + 0.01, 0.03}, Point{x, 0.03})
			if i > 0 {
				p = append(p, Point{x, 0.005}, Point{x - gap, 0.005})
			}
		}
	default: // a round one of many pieces
		n := 12 + rng.IntN(60)
		for i := range n {
			s, c := math.Sincos(2 * math.Pi * float64(i) / float64(n))
			p = append(p, Point{0.03 * c, 0.03 * s})
		}
	}
	dx, dy, turn := 0.1*rng.Float64(), 0.1*rng.Float64(), 0.0
	switch rng.IntN(4) {
	case 0:
		turn = 2 * math.Pi * rng.Float64()
	case 1:
		turn = math.Pi / 2 * float64(rng.IntN(4))
		dx, dy = math.Round(dx*100)/100, math.Round(dy*100)/100
	}
	if len(before) > 0 && rng.IntN(3) == 0 { // at a corner of the one before, or beside it
		at := before[rng.IntN(len(before))]
		dx, dy = at.X, at.Y
		if rng.IntN(2) == 0 {
			dx += math.Pow(10, -4-7*rng.Float64())
		}
	}
	s, c := math.Sincos(turn)
	for i, q := range p {
		p[i] = Point{q.X*c - q.Y*s + dx, q.X*s + q.Y*c + dy}
	}
	return p
}

// TestManyPlans meshes random outlines that overlap, touch and nearly touch. Every
// triangle turns left; the triangles of a body have the area that its edges in the mesh
// enclose, to 1e-12, and that of its outline but for the tolerance; and each triangle has
// the bodies that hold its middle.
func TestManyPlans(t *testing.T) {
	n := cases(t)
	require.Positive(t, n)
	for seed := range n {
		rng := rand.New(rand.NewPCG(seed, 77))
		var segments []Segment
		var sizes, areas, lengths []float64
		var before []Point
		for b := range int32(1 + rng.IntN(5)) {
			p := randomOutline(rng, before)
			segments = append(segments, polygon(b, p...)...)
			sizes = append(sizes, 0.003+0.03*rng.Float64())
			area, length := 0.0, 0.0
			for i, q := range p {
				r := p[(i+1)%len(p)]
				area += (q.X*r.Y - r.X*q.Y) / 2
				length += math.Hypot(r.X-q.X, r.Y-q.Y)
			}
			areas, lengths = append(areas, area), append(lengths, length)
			before = p
		}
		set := &PlanSettings{Sizes: sizes, MaxTriangles: 2_000_000}
		if seed%4 == 1 {
			set.Growth = 0.2 + rng.Float64()
		}
		if seed%8 == 3 {
			set.Across, set.Growth = slices.Repeat([]int{2}, len(sizes)), 0.5
		}
		if seed%8 == 5 { // layers along some of the outlines, within or without
			with := int32(rng.IntN(len(sizes)))
			wall := &Wall{First: 2e-4 + 1e-3*rng.Float64(), Growth: 1 + 0.5*rng.Float64(), Count: 1 + rng.IntN(6)}
			left := rng.IntN(2) == 0
			for i := range segments {
				if segments[i].Tag.Body == with {
					segments[i].Wall, segments[i].Left = wall, left
				}
			}
		}
		if seed%8 == 7 { // lengths by a field that jumps and has a pole
			at, step := Point{0.1 * rng.Float64(), 0.1 * rng.Float64()}, 1+3*rng.Float64()
			set.Growth, set.SizeAt = usualGrowth, func(p Point) float64 {
				h := 5e-4 + 0.3*math.Sqrt(sq(p, at))
				if p.X > at.X {
					h *= step
				}
				return h
			}
		}
		plan, err := NewPlan(segments, set)
		require.NoError(t, err, "seed %d", seed)
		lo, hi := bounds(segments)
		tolerance := 4 * mergeTolerance * math.Hypot(hi.X-lo.X, hi.Y-lo.Y)
		bodies := newBodies(segments, len(sizes))
		inside := make([]exactSum, len(sizes))
		edges := make([]exactSum, len(sizes))
		for i, tri := range plan.Triangles {
			a, b, c := plan.Points[tri[0]], plan.Points[tri[1]], plan.Points[tri[2]]
			area := ((b.X-a.X)*(c.Y-a.Y) - (c.X-a.X)*(b.Y-a.Y)) / 2
			if !(area > 0) {
				t.Fatalf("seed %d: triangle %d does not turn left", seed, i)
			}
			members := plan.Members[plan.Region[i]]
			middle := Point{(a.X + b.X + c.X) / 3, (a.Y + b.Y + c.Y) / 3}
			for _, body := range members {
				inside[body].add(area)
				for k := range 3 {
					g := plan.Neighbours[i][k]
					other := false
					if g >= 0 {
						for _, o := range plan.Members[plan.Region[g]] {
							other = other || o == body
						}
					}
					if !other {
						u, v := plan.Points[tri[next(k)]], plan.Points[tri[prev(k)]]
						edges[body].add(((u.X-lo.X)*(v.Y-lo.Y) - (v.X-lo.X)*(u.Y-lo.Y)) / 2)
					}
				}
			}
			// Labels are tested where the middle is clear of all outlines.
			for body := range bodies {
				has := false
				for _, o := range members {
					has = has || int(o) == body
				}
				if has != bodies[body].contains(middle) && clearance(segments, int32(body), middle) > 2*tolerance {
					t.Fatalf("seed %d: triangle %d has the wrong bodies", seed, i)
				}
			}
		}
		for b := range sizes {
			assert.InDelta(t, edges[b].value(), inside[b].value(), 1e-12*math.Max(areas[b], 1e-3), "seed %d, body %d", seed, b)
			assert.InDelta(t, areas[b], inside[b].value(), tolerance*lengths[b], "seed %d, body %d", seed, b)
		}
		if t.Failed() {
			return
		}
	}
}

// exactSum adds numbers without the error of adding (A. Neumaier, Z. angew. Math. Mech.
// 54 (1974) 39).
type exactSum struct{ sum, lost float64 }

func (s *exactSum) add(x float64) {
	t := s.sum + x
	if math.Abs(s.sum) >= math.Abs(x) {
		s.lost += (s.sum - t) + x
	} else {
		s.lost += (x - t) + s.sum
	}
	s.sum = t
}

func (s *exactSum) value() float64 { return s.sum + s.lost }

// clearance is the distance from a place to the outline of a body.
func clearance(segments []Segment, body int32, p Point) float64 {
	best := math.Inf(1)
	for _, s := range segments {
		if s.Tag.Body != body {
			continue
		}
		dx, dy := s.B.X-s.A.X, s.B.Y-s.A.Y
		u := min(max(((p.X-s.A.X)*dx+(p.Y-s.A.Y)*dy)/(dx*dx+dy*dy), 0), 1)
		best = min(best, math.Hypot(p.X-s.A.X-u*dx, p.Y-s.A.Y-u*dy))
	}
	return best
}
