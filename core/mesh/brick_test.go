package mesh

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/shape"
)

// ball is a surface of triangles round the origin.
func ball(radius float64, n int) *shape.Surface {
	s := &shape.Surface{}
	at := func(i, j int) int32 { return int32(i*2*n + j%(2*n)) }
	for i := range n + 1 {
		for j := range 2 * n {
			a, b := math.Pi*float64(i)/float64(n), math.Pi*float64(j)/float64(n)
			s.Points = append(s.Points, [3]float64{radius * math.Sin(a) * math.Cos(b), radius * math.Sin(a) * math.Sin(b), radius * math.Cos(a)})
		}
	}
	for i := range n {
		for j := range 2 * n {
			if i > 0 {
				s.Triangles = append(s.Triangles, [3]int32{at(i, j), at(i+1, j+1), at(i, j+1)})
			}
			if i < n-1 {
				s.Triangles = append(s.Triangles, [3]int32{at(i, j), at(i+1, j), at(i+1, j+1)})
			}
		}
	}
	return s
}

// solidOf makes a body of a surface.
func solidOf(t *testing.T, s *shape.Surface, size float64) StackBody {
	lo, hi := s.Box()
	o, err := shape.Rectangle(hi[0]-lo[0], hi[1]-lo[1])
	require.NoError(t, err)
	return StackBody{Body: shape.Body{Outline: o.Move((hi[0]+lo[0])/2, (hi[1]+lo[1])/2, 0), Z0: lo[2], Z1: hi[2], Solid: s}, Size: size, Across: 1}
}

// TestBricksConvergeToABall: the volume of the steps nears that of the ball, and the
// facets close around it.
func TestBricksConvergeToABall(t *testing.T) {
	s := ball(0.02, 40)
	require.Positive(t, s.Volume())
	last := 1.0
	for _, size := range []float64{4e-3, 2e-3, 1e-3} {
		m, err := NewStack([]StackBody{rect(t, 0.06, 0.06, 0, 0, -0.03, 0.03, 6e-3), solidOf(t, s, size)}, nil)
		require.NoError(t, err)
		v := volumes(t, m, 2)
		off := math.Abs(v[1]/s.Volume() - 1)
		assert.Less(t, off, 0.08)
		assert.InEpsilon(t, 0.06*0.06*0.06, v[0]+v[1], 1e-9, "nothing is lost")
		assert.InDelta(t, off, math.Abs(m.Missed(1, s.Volume())), 1e-12)
		last = min(last, off)
		var closed [3]float64
		for i := range m.Facets {
			f := &m.Facets[i]
			sign := 0.0
			switch {
			case f.Body == 1:
				sign = 1
			case f.OtherBody == 1:
				sign = -1
			}
			v := facetVector(m, f)
			for r := range closed {
				closed[r] += sign * v[r]
			}
		}
		for r := range closed {
			assert.InDelta(t, 0, closed[r], 1e-12)
		}
		for _, side := range []string{"left", "right", "front", "back", "top", "bottom"} {
			assert.InEpsilon(t, math.Pi*0.02*0.02, areaOf(m, 1, side), 0.12, "the steps of a side have the area of its shadow: %s", side)
		}
	}
	assert.Less(t, last, 0.01)
}

// TestBricksBesideOutlines: faces of boxes are met exactly, sides of outlines keep their
// names, a fill stays within walls, and thin walls are missed.
func TestBricksBesideOutlines(t *testing.T) {
	s := ball(0.004, 12)
	cup := rect(t, 0.04, 0.03, 0, 0, -0.01, 0.0123, 0.005)
	air := rect(t, 0.1, 0.08, 0, 0, -0.03, 0.03, 0.01)
	air.Fill = &Fill{}
	m, err := NewStack([]StackBody{cup, solidOf(t, s, 1e-3), air}, nil)
	require.NoError(t, err)
	v := volumes(t, m, 3)
	assert.InEpsilon(t, 0.04*0.03*0.0223, v[0]+v[1], 1e-9)
	assert.InEpsilon(t, 0.1*0.08*0.06, v[0]+v[1]+v[2], 1e-9)
	assert.InEpsilon(t, 0.04*0.0223, areaOf(m, 0, "front"), 1e-9)
	assert.InEpsilon(t, 0.04*0.03, areaOf(m, 0, "top"), 1e-9)
	thin := s.Moved(func(p [3]float64) [3]float64 { return [3]float64{p[0], p[1] * 0.02, p[2]} })
	b := solidOf(t, thin, 3e-3)
	b.Across = 1
	m, err = NewStack([]StackBody{b, rect(t, 0.02, 0.02, 0.1, 0, 0, 0.01, 0.005)}, nil)
	require.NoError(t, err)
	assert.Greater(t, math.Abs(m.Missed(0, thin.Volume())), 0.05, "bricks do not resolve it")
	_, found := m.Leak(thin)
	assert.False(t, found, "one brick across is none too few")
	// A slanted wall slips through between the middles of bricks.
	slant := thin.Moved(func(p [3]float64) [3]float64 { return [3]float64{p[0]*0.8 - p[1]*0.6, p[0]*0.6 + p[1]*0.8, p[2]} })
	m, err = NewStack([]StackBody{solidOf(t, slant, 5e-4)}, nil)
	require.NoError(t, err)
	assert.Greater(t, m.Missed(0, slant.Volume()), 0.05)
	leak, found := m.Leak(slant)
	require.True(t, found)
	assert.InDelta(t, 0, 0.8*leak.At[1]-0.6*leak.At[0], 1e-4, "it is in the wall")
	assert.Less(t, math.Hypot(0.8*leak.At[0]+0.6*leak.At[1], leak.At[2]), 0.004)
	assert.InDelta(t, 1.5e-4, leak.Thickness, 1.2e-4)
	m, err = NewStack([]StackBody{solidOf(t, s, 5e-4)}, nil)
	require.NoError(t, err)
	_, found = m.Leak(s)
	assert.False(t, found, "a rounded body has no wall")
	_, err = NewStack([]StackBody{solidOf(t, s, 1e-3)}, &StackSettings{Flat: true})
	assert.ErrorContains(t, err, "solid space")
}
