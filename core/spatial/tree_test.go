package spatial

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestTreesFindAllBoxes: of many, few, one and none, of very unequal ones and flat ones, they are
// those that a look at each finds.
func TestTreesFindAllBoxes(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for _, n := range []int{0, 1, 2, 4, 5, 17, 3000} {
		boxes := make([]Box, n)
		for i := range boxes {
			size := 0.001
			if i%50 == 0 {
				size = 0.5
			}
			for d := range 3 {
				boxes[i].Lo[d] = r.Float64()
				boxes[i].Hi[d] = boxes[i].Lo[d] + size*r.Float64()
			}
			if i%7 == 0 {
				boxes[i].Hi[2] = boxes[i].Lo[2]
			}
		}
		tree := NewTree(boxes)
		look := func(x [3]float64) {
			var want, got []int32
			for i := range boxes {
				if boxes[i].has(x) {
					want = append(want, int32(i))
				}
			}
			tree.Each(x, func(i int32) bool { got = append(got, i); return true })
			slices.Sort(got)
			assert.Equal(t, want, got)
			calls := 0
			tree.Each(x, func(int32) bool { calls++; return false })
			assert.LessOrEqual(t, calls, 1)
		}
		for range 50 {
			look([3]float64{r.Float64(), r.Float64(), r.Float64()})
		}
		for i := range min(n, 40) {
			look(boxes[i].Lo)
			look(boxes[i].Hi)
		}
	}
}

// TestTheCurveFillsTheSpace: places of a lattice that follow each other are neighbours.
func TestTheCurveFillsTheSpace(t *testing.T) {
	const n = 16
	var points []float64
	for i := range n * n * n {
		points = append(points, float64(i%n), float64(i/n%n), float64(i/n/n))
	}
	order := Order(points)
	for i := 1; i < len(order); i++ {
		a, b := points[3*order[i-1]:], points[3*order[i]:]
		assert.InDelta(t, 1, math.Abs(a[0]-b[0])+math.Abs(a[1]-b[1])+math.Abs(a[2]-b[2]), 0)
	}
	assert.Equal(t, []int32{0, 1}, Order([]float64{1, 2, 3, 1, 2, 3}))
	assert.Empty(t, Order(nil))
}

// TestNearest: of things large and small, the one that a look at each of them finds.
func TestNearest(t *testing.T) {
	rng := rand.New(rand.NewPCG(9, 1))
	for _, count := range []int{1, 3, 200} {
		var boxes []Box
		for range count {
			var b Box
			size := math.Pow(10, -3*rng.Float64())
			for d := range 3 {
				b.Lo[d] = rng.Float64()
				b.Hi[d] = b.Lo[d] + size*rng.Float64()
			}
			boxes = append(boxes, b)
		}
		tree := NewTree(boxes)
		for range 300 {
			x := [3]float64{3*rng.Float64() - 1, 3*rng.Float64() - 1, 3*rng.Float64() - 1}
			want := math.Inf(1)
			for i := range boxes {
				want = min(want, boxes[i].away(x))
			}
			got, thing := tree.Nearest(x, func(thing int32) float64 { return boxes[thing].away(x) })
			require.Equal(t, want, got)
			require.Equal(t, want, boxes[thing].away(x))
		}
	}
	_, thing := NewTree(nil).Nearest([3]float64{}, nil)
	assert.Equal(t, int32(-1), thing)
}
