package plate

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/fem"
	"saltkettle/core/mesh"
	"saltkettle/core/result"
	"saltkettle/core/shape"
)

// fields are those of a post of 20 mm across and 30 mm high on a box of 60 × 40 × 10 mm, or of a section.
func fields(t *testing.T, flat bool, order int) *result.Fields {
	t.Helper()
	box, err := shape.Rectangle(0.06, 0.04)
	require.NoError(t, err)
	post, err := shape.Disc(0.02)
	require.NoError(t, err)
	bodies := []mesh.StackBody{{Body: shape.Body{Outline: box, Z1: 0.01}, Size: 0.004, Across: 2}}
	if !flat {
		bodies = append(bodies, mesh.StackBody{Body: shape.Body{Part: 1, Outline: post, Z0: 0.01, Z1: 0.04}, Size: 0.003, Across: 2})
	}
	m, err := mesh.NewStack(bodies, &mesh.StackSettings{Flat: flat})
	require.NoError(t, err)
	g := fem.FromMesh(m)
	if order == 2 {
		g = g.Elevated(m.Curve())
	}
	return result.NewFields(g, g.Points(len(bodies)), func(body int32) int { return int(body) })
}

// of is a function of the place at all points.
func of(f *result.Fields, at func(x, y, z float64) float64) []float64 {
	out := make([]float64, len(f.Nodes)/3)
	for i := range out {
		out[i] = at(f.Nodes[3*i], f.Nodes[3*i+1], f.Nodes[3*i+2])
	}
	return out
}

// sizes are the areas or lengths of a section by part.
func sizes(s *Section) map[int32]float64 {
	at := func(i int) [3]float64 {
		return [3]float64{float64(s.Positions[3*i]), float64(s.Positions[3*i+1]), float64(s.Positions[3*i+2])}
	}
	sum := map[int32]float64{}
	for k, part := range s.Parts {
		a, b := at(s.Corners*k), at(s.Corners*k+1)
		u := [3]float64{b[0] - a[0], b[1] - a[1], b[2] - a[2]}
		if s.Corners == 2 {
			sum[part] += math.Sqrt(u[0]*u[0] + u[1]*u[1] + u[2]*u[2])
			continue
		}
		c := at(s.Corners*k + 2)
		v := [3]float64{c[0] - a[0], c[1] - a[1], c[2] - a[2]}
		sum[part] += math.Sqrt(math.Pow(u[1]*v[2]-u[2]*v[1], 2)+math.Pow(u[2]*v[0]-u[0]*v[2], 2)+math.Pow(u[0]*v[1]-u[1]*v[0], 2)) / 2
	}
	return sum
}

// TestSlicesHaveTheAreaOfTheDevice: across an axis and on a slant, of both orders, with the values
// that are there.
func TestSlicesHaveTheAreaOfTheDevice(t *testing.T) {
	for order := 1; order <= 2; order++ {
		f := fields(t, false, order)
		values := of(f, func(x, y, z float64) float64 { return 3 + 20*x - 10*y + 5*z })
		area := math.Pi * 1e-4 * map[int]float64{1: 0.99, 2: 1}[order] // a polygon at order 1
		upright := Slice(f, Across(0, 0.001), values)
		assert.InEpsilon(t, 0.04*0.01, sizes(upright)[0], 1e-6)
		assert.InEpsilon(t, 0.03*2*math.Sqrt(1e-4-1e-6), sizes(upright)[1], 1e-2)
		level := Slice(f, Across(2, 0.023), values)
		assert.InEpsilon(t, area, sizes(level)[1], 2e-2)
		assert.Zero(t, sizes(level)[0])
		slant := Slice(f, Plane{Normal: [3]float64{math.Sqrt(0.5), 0, math.Sqrt(0.5)}, At: 0.005 * math.Sqrt(0.5)}, values)
		assert.InEpsilon(t, 0.04*0.01*math.Sqrt2, sizes(slant)[0], 1e-5)
		segment := 1e-4*math.Acos(0.5) - 0.005*math.Sqrt(0.75e-4) // of the post's disc
		assert.InEpsilon(t, segment*math.Sqrt2, sizes(slant)[1], 1e-2)
		for _, s := range []*Section{upright, level, slant} {
			require.Len(t, s.Values[0], 3*s.Count())
			for i, v := range s.Values[0] {
				x, y, z := float64(s.Positions[3*i]), float64(s.Positions[3*i+1]), float64(s.Positions[3*i+2])
				assert.InDelta(t, 3+20*x-10*y+5*z, float64(v), 1e-5)
			}
		}
		assert.Zero(t, Slice(f, Across(1, 5)).Count(), "it passes beside")
	}
}

// TestLevelsOfAField: a ball about a place has its surface, a ring in a section its length, and
// where the field is not known there is none.
func TestLevelsOfAField(t *testing.T) {
	for order := 1; order <= 2; order++ {
		f := fields(t, false, order)
		far := of(f, func(x, y, z float64) float64 { return math.Sqrt(x*x + y*y + (z-0.005)*(z-0.005)) })
		assert.InEpsilon(t, 4*math.Pi*16e-6, sizes(Level(f, far, 0.004))[0], 0.15/float64(order*order))
		for i := range far {
			if f.Nodes[3*i] > 0 {
				far[i] = math.NaN()
			}
		}
		assert.Less(t, sizes(Level(f, far, 0.004))[0], 2.3*math.Pi*16e-6)

		flat := fields(t, true, order)
		ring := of(flat, func(x, y, _ float64) float64 { return math.Hypot(x, y) })
		s := Level(flat, ring, 0.012)
		assert.Equal(t, 2, s.Corners)
		assert.InEpsilon(t, 2*math.Pi*0.012, sizes(s)[0], 0.02)
	}
}
