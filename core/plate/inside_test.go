package plate

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/result"
)

// vectorOf is a vector field at all points.
func vectorOf(f *result.Fields, at func(x, y, z float64) [3]float64) [][]float64 {
	out := make([][]float64, 3)
	for d := range out {
		out[d] = of(f, func(x, y, z float64) float64 { return at(x, y, z)[d] })
	}
	return out
}

// TestStreamsCloseRoundACentre: round an axis a stream is a circle, with the time of one turn,
// in cells of both orders and in a section.
func TestStreamsCloseRoundACentre(t *testing.T) {
	for name, f := range map[string]*result.Fields{"wedges": fields(t, false, 1), "of order 2": fields(t, false, 2), "section": fields(t, true, 2)} {
		in := NewInside(f)
		vector := vectorOf(f, func(x, y, _ float64) [3]float64 { return [3]float64{-3 * y, 3 * x, 0} })
		height := of(f, func(x, _, z float64) float64 { return z + 2*x })
		starts := [][3]float64{{0.012, 0, 0.004}, {0.005, 0, 0.006}, {1, 0, 0}}
		if name == "section" {
			vector, starts[0][2], starts[1][2] = vector[:2], 0, 0
		}
		list := in.Streams(vector, starts, height)
		require.Len(t, list, 2, "%s: none from beside the device", name)
		for i, s := range list {
			r, n := starts[i][0], len(s.Points)
			for k, p := range s.Points {
				assert.InDelta(t, r, math.Hypot(p[0], p[1]), 2e-3*r, name)
				assert.InDelta(t, starts[i][2], p[2], 1e-9, name)
				assert.InDelta(t, p[2]+2*p[0], s.Values[0][k], 1e-9, name)
			}
			assert.InDelta(t, 2*math.Pi/3, s.Time[n-1]-s.Time[0], 0.3, "%s: one turn, up to a step", name)
			gap := minus(s.Points[0], s.Points[n-1])
			assert.Less(t, math.Sqrt(dot(gap, gap)), 2e-3, "it comes back")
		}
	}
}

// TestStreamsKeepWhatTheyFollow: along a saddle the product of x and y stays, both ends lie where the
// device does, and it takes the time that it takes.
func TestStreamsKeepWhatTheyFollow(t *testing.T) {
	f := fields(t, false, 1)
	in := NewInside(f)
	vector := vectorOf(f, func(x, y, _ float64) [3]float64 { return [3]float64{2 * x, -2 * y, 0} })
	list := in.Streams(vector, [][3]float64{{0.01, 0.01, 0.005}})
	require.Len(t, list, 1)
	s := list[0]
	for _, p := range s.Points {
		assert.InDelta(t, 1e-4, p[0]*p[1], 1e-7)
	}
	first, last := s.Points[0], s.Points[len(s.Points)-1]
	assert.InDelta(t, 0.02, first[1], 1e-5, "the side of the box")
	assert.InDelta(t, 0.03, last[0], 1e-5)
	assert.InDelta(t, math.Log(last[0]/first[0])/2, s.Time[len(s.Time)-1]-s.Time[0], 2e-2)
	// A field that is in one part alone has no stream in the other, and one that vanishes none at all.
	for i := range f.Nodes {
		if i%3 == 2 && f.Nodes[i] > 0.01 {
			vector[0][i/3] = math.NaN()
		}
	}
	assert.Empty(t, in.Streams(vector, [][3]float64{{0, 0, 0.03}}))
	assert.Empty(t, in.Streams(vectorOf(f, func(_, _, _ float64) [3]float64 { return [3]float64{} }), [][3]float64{{0, 0, 0.005}}))
}

// TestPlacesAreEvenlySpread: over parts by their volumes, over a slice by its area, and no place is
// taken twice.
func TestPlacesAreEvenlySpread(t *testing.T) {
	f := fields(t, false, 1)
	in := NewInside(f)
	any := func(int32) bool { return true }
	box, post := 0.06*0.04*0.01, math.Pi*1e-4*0.03
	count := 0
	for _, x := range in.Spread(300, any) {
		if x[2] > 0.01 {
			count++
		}
	}
	assert.InDelta(t, 300*post/(box+post), count, 6)
	quarter := 0
	for _, x := range in.Spread(200, func(part int32) bool { return part == 0 }) {
		require.Less(t, x[2], 0.01)
		if x[0] > 0 && x[1] > 0 {
			quarter++
		}
	}
	assert.InDelta(t, 50, quarter, 6)
	all := in.Spread(1e6, any)
	assert.Len(t, slices.Compact(slices.Clone(all)), len(all))
	assert.Greater(t, len(all), len(f.Part)/2, "small cells beside large ones may be left out")
	slice := Slice(f, Across(1, 0.001))
	left := 0
	places := slice.SpreadOver(100)
	for _, x := range places {
		assert.InDelta(t, 0.001, x[1], 1e-7)
		if x[0] < 0 {
			left++
		}
	}
	assert.Len(t, places, 100)
	assert.InDelta(t, 50, left, 4)
	assert.Empty(t, Slice(f, Across(1, 1)).SpreadOver(10))
	assert.Empty(t, in.Spread(10, func(int32) bool { return false }))
}

// TestArrowsAreTheVectorsThere: and of a tensor its principal directions.
func TestArrowsAreTheVectorsThere(t *testing.T) {
	f := fields(t, false, 2)
	in := NewInside(f)
	vector := vectorOf(f, func(x, y, z float64) [3]float64 { return [3]float64{1 + x, y, -z} })
	value := of(f, func(x, _, _ float64) float64 { return 5 * x })
	list := in.Arrows(vector, [][3]float64{{0.005, 0.002, 0.02}, {0.5, 0, 0}}, value)
	require.Len(t, list, 1)
	assert.InDeltaSlice(t, []float64{1.005, 0.002, -0.02}, list[0].Vector[:], 1e-9)
	assert.InDelta(t, 0.025, list[0].Value, 1e-9)
	even := func(v float64) []float64 { return of(f, func(_, _, _ float64) float64 { return v }) }
	list = in.Arrows([][]float64{even(1), even(1), even(0), even(3), even(0), even(0)}, [][3]float64{{0, 0, 0.005}}, value)
	require.Len(t, list, 2, "4, −2 and nothing")
	assert.InDelta(t, 4, math.Hypot(list[0].Vector[0], list[0].Vector[1]), 1e-9)
	assert.InDelta(t, list[0].Vector[0], list[0].Vector[1], 1e-9)
	assert.True(t, list[0].Both && !list[0].Pushes && list[1].Pushes)
	assert.InDelta(t, -list[1].Vector[0], list[1].Vector[1], 1e-9)

	r := rand.New(rand.NewPCG(5, 6))
	for range 200 {
		var m [6]float64
		for i := range m {
			m[i] = 1e8 * r.NormFloat64()
		}
		values, directions := Principal(m)
		assert.True(t, values[0] >= values[1] && values[1] >= values[2])
		full := [3][3]float64{{m[0], m[3], m[5]}, {m[3], m[1], m[4]}, {m[5], m[4], m[2]}}
		for k, v := range directions {
			for d := range 3 {
				assert.InDelta(t, values[k]*v[d], dot(full[d], v), 1e-5)
			}
		}
	}
}

// TestStreamsEndWhereFieldsPointAgainstEachOther: where two parts meet with fields that both lead to
// their boundary a stream goes no further, after some steps and not thousands.
func TestStreamsEndWhereFieldsPointAgainstEachOther(t *testing.T) {
	f := fields(t, false, 1)
	in := NewInside(f)
	vector := vectorOf(f, func(_, _, _ float64) [3]float64 { return [3]float64{1, 0, 0} })
	first := 0
	for k := range f.Blocks { // the points of the post are its own
		b := &f.Blocks[k]
		for i, p := range b.Cells {
			vector[2][p] = map[int32]float64{0: 2, 1: -2}[f.Part[first+i/b.Element.Count()]]
		}
		first += b.Count()
	}
	list := in.Streams(vector, [][3]float64{{-0.004, 0, 0.005}})
	require.Len(t, list, 1)
	last := list[0].Points[len(list[0].Points)-1]
	assert.InDelta(t, 0.01, last[2], 1e-4, "where they meet")
	assert.Less(t, len(list[0].Points), 200)
}
