package radiation

import (
	"math"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sheet is a parallelogram of n by n facets that faces along u × v.
func sheet(class int32, a, u, v vector, n int) []Facet {
	var list []Facet
	at := func(i, j int) [3]float64 {
		return a.plus(u.times(float64(i) / float64(n))).plus(v.times(float64(j) / float64(n)))
	}
	for i := range n {
		for j := range n {
			list = append(list, Facet{Class: class, Corners: [][3]float64{at(i, j), at(i+1, j), at(i+1, j+1), at(i, j+1)}})
		}
	}
	return list
}

// disc of radius 1 at a height, of rings of facets of nearly one area, facing up or
// down. Its outline is a polygon with the area of the circle.
func disc(class int32, z float64, up bool) []Facet {
	const rings, around = 12, 96
	var list []Facet
	grow := math.Sqrt(math.Pi / (around * math.Sin(math.Pi/around) * math.Cos(math.Pi/around)))
	at := func(r, k int) [3]float64 {
		s, c := math.Sincos(2 * math.Pi * float64(k) / around)
		q := grow * float64(r) / rings
		return [3]float64{q * c, q * s, z}
	}
	for r := range rings {
		for k := range around {
			q := [][3]float64{at(r, k), at(r+1, k), at(r+1, k+1), at(r, k+1)}
			if r == 0 {
				q = q[:3]
			}
			if !up {
				for i, j := 0, len(q)-1; i < j; i, j = i+1, j-1 {
					q[i], q[j] = q[j], q[i]
				}
			}
			list = append(list, Facet{Class: class, Corners: q})
		}
	}
	return list
}

// factor is the view factor from class 0 to class 1.
func factor(t *testing.T, facets []Facet, set *Settings) float64 {
	t.Helper()
	v, err := Compute(t.Context(), facets, set)
	require.NoError(t, err)
	var of [2]map[int32]bool
	for c := range of {
		of[c] = map[int32]bool{}
		for i := range facets {
			if facets[i].Class == int32(c) {
				of[c][v.Patch[i]] = true
			}
		}
	}
	n := v.Count()
	for i := range n {
		sum := v.Open[i]
		for j := range n {
			sum += v.Exchange[i*n+j]
			require.Equal(t, v.Exchange[i*n+j], v.Exchange[j*n+i], "reciprocity")
		}
		require.InEpsilon(t, v.Area[i], sum, 1e-12, "closure")
	}
	return v.Factor(of[0], of[1])
}

// TestKnownViewFactors: squares that face each other, that share an edge, and discs.
func TestKnownViewFactors(t *testing.T) {
	x, y, z := vector{1}, vector{0, 1}, vector{0, 0, 1}
	facing := append(sheet(0, vector{}, x, y, 8), sheet(1, z, y, x, 8)...)
	assert.InEpsilon(t, 0.199825, factor(t, facing, nil), 1e-3)
	corner := append(sheet(0, vector{}, x, y, 8), sheet(1, vector{}, y, z, 8)...)
	assert.InEpsilon(t, 0.200044, factor(t, corner, nil), 1e-3)
	discs := append(disc(0, 0, true), disc(1, 1, false)...)
	assert.InEpsilon(t, 0.381966, factor(t, discs, &Settings{Patches: 200}), 1e-3)
	// A screen between them with a hole: what passes is what the hole lets through.
	screen := append(append([]Facet(nil), facing...), sheet(2, vector{0, 0, 0.5}, x.times(0.5), y, 4)...)
	screen = append(screen, sheet(3, vector{0, 0, 0.5}, y, x.times(0.5), 4)...)
	half := factor(t, screen, nil)
	assert.Less(t, half, 0.12)
	assert.Greater(t, half, 0.09)
}

// lines is a way of n facets from a to b; its body is to the left.
func lines(class int32, a, b vector, n int) []Facet {
	var list []Facet
	for i := range n {
		at := func(k int) [3]float64 { return a.plus(b.minus(a).times(float64(k) / float64(n))) }
		list = append(list, Facet{Class: class, Corners: [][3]float64{at(i), at(i + 1)}})
	}
	return list
}

// TestKnownViewFactorsOfSections: endless strips in a plane space; discs, a cylinder
// and the sphere in a sphere in an axial one.
func TestKnownViewFactorsOfSections(t *testing.T) {
	plane := &Settings{Space: Plane, Depth: 0.3}
	facing := append(lines(0, vector{1, 0}, vector{0, 0}, 12), lines(1, vector{0, 1}, vector{1, 1}, 12)...)
	assert.InEpsilon(t, math.Sqrt2-1, factor(t, facing, plane), 1e-3, "strips as wide as their distance: √2 − 1")
	corner := append(lines(0, vector{1, 0}, vector{0, 0}, 12), lines(1, vector{0, 0}, vector{0, 1}, 12)...)
	assert.InEpsilon(t, 1-math.Sqrt2/2, factor(t, corner, plane), 1e-3, "strips at a right angle")

	axial := &Settings{Space: Axial}
	discs := append(lines(0, vector{1, 0}, vector{0, 0}, 10), lines(1, vector{0, 1}, vector{1, 1}, 10)...)
	assert.InEpsilon(t, 0.381966, factor(t, discs, axial), 2e-3)
	tube := append(lines(0, vector{1, 1}, vector{1, 0}, 10), discs[10:]...)
	tube = append(tube, lines(2, vector{1, 0}, vector{0, 0}, 10)...)
	assert.InEpsilon(t, (1-0.381966)/2, factor(t, tube, axial), 2e-3, "from the wall of a tube to its end")

	// All that leaves a ball arrives at the shell; of what leaves the shell, as much as
	// the areas say.
	around := func(class int32, r float64, outward bool) []Facet {
		var list []Facet
		const n = 40
		at := func(k int) [3]float64 {
			s, c := math.Sincos(math.Pi * (float64(k)/n - 0.5))
			return [3]float64{r * c, r * s}
		}
		for k := range n {
			f := Facet{Class: class, Corners: [][3]float64{at(k), at(k + 1)}}
			if !outward {
				f.Corners[0], f.Corners[1] = f.Corners[1], f.Corners[0]
			}
			list = append(list, f)
		}
		return list
	}
	balls := append(around(0, 1, true), around(1, 2, false)...)
	assert.InEpsilon(t, 1, factor(t, balls, axial), 1e-3)
	shell := append(around(0, 2, false), around(1, 1, true)...)
	assert.InEpsilon(t, 0.25, factor(t, shell, axial), 3e-3)
	v, err := Compute(t.Context(), balls, axial)
	require.NoError(t, err)
	sum := 0.0
	for _, a := range v.Area {
		sum += a
	}
	assert.InEpsilon(t, 4*math.Pi*(1+4), sum, 2e-3)
	assert.NotEqual(t, Key(facing, plane), Key(facing, axial))
}

// TestMirrors: half of what faces itself, and a quarter, see what the whole sees.
func TestMirrors(t *testing.T) {
	x, y, z := vector{0.5}, vector{0, 0.5}, vector{0, 0, 1}
	quarters := append(sheet(0, vector{}, x, y, 5), sheet(1, z, y, x, 5)...)
	assert.InEpsilon(t, 0.199825, factor(t, quarters, &Settings{Mirrors: []Mirror{{0, 0.5}, {1, 0}}}), 1e-3)
	corner := append(sheet(0, vector{}, vector{1}, y, 8), sheet(1, vector{}, y, z, 8)...)
	assert.InEpsilon(t, 0.200044, factor(t, corner, &Settings{Mirrors: []Mirror{{1, 0.5}}}), 1e-3)
	strips := append(lines(0, vector{0.5, 0}, vector{0, 0}, 6), lines(1, vector{0, 1}, vector{0.5, 1}, 6)...)
	assert.InEpsilon(t, math.Sqrt2-1, factor(t, strips, &Settings{Space: Plane, Depth: 0.3, Mirrors: []Mirror{{0, 0.5}}}), 1e-3)
	// A disc alone sees its image.
	v, err := Compute(t.Context(), lines(0, vector{1, 0}, vector{0, 0}, 10), &Settings{Space: Axial, Mirrors: []Mirror{{1, 0.5}}})
	require.NoError(t, err)
	all := map[int32]bool{}
	for _, p := range v.Patch {
		all[p] = true
	}
	assert.InEpsilon(t, 0.381966, v.Factor(all, all), 2e-3)
	assert.NotEqual(t, Key(corner, nil), Key(corner, &Settings{Mirrors: []Mirror{{1, 0.5}}}))
}

// TestRaysAgreeWithoutTheTree compares what rays meet with a search through all
// triangles.
func TestRaysAgreeWithoutTheTree(t *testing.T) {
	var list []triangle
	facets := append(disc(0, 0, true), sheet(1, vector{-1, -1, 0.7}, vector{1.3, 0.2, 0.1}, vector{0, 1.7, -0.3}, 9)...)
	for i := range facets {
		list = append(list, split(&facets[i], int32(i))...)
	}
	tree := newTree(append([]triangle(nil), list...))
	hits := 0
	for k := range 3000 {
		f := float64(k)
		from := vector{math.Mod(f*0.618, 2) - 1, math.Mod(f*0.414, 2) - 1, 0.3}
		s, c := math.Sincos(f * 2.4)
		up := math.Mod(f*0.732, 2) - 1
		along := vector{c * math.Sqrt(1-up*up), s * math.Sqrt(1-up*up), up}
		best, want := math.Inf(1), int32(-1)
		for i := range list {
			if d, ok := list[i].meets(from, along); ok && d > tree.near && d < best {
				best, want = d, list[i].owner
			}
		}
		got := tree.first(from, along)
		require.Equal(t, want < 0, got < 0, "ray %d", k)
		if got < 0 {
			continue
		}
		hits++
		// On an edge that two facets share either may be met.
		least := math.Inf(1)
		for i := range list {
			if d, ok := list[i].meets(from, along); ok && list[i].owner == got {
				least = min(least, d)
			}
		}
		require.InDelta(t, best, least, 1e-12, "ray %d meets %d, not %d", k, got, want)
	}
	assert.Greater(t, hits, 1000)
}

// ball is a sphere of facets between circles of latitude and meridians, seen from
// outside or from inside.
func ball(class int32, radius float64, outside bool) []Facet {
	const rows, columns = 16, 32
	var list []Facet
	at := func(r, c int) [3]float64 {
		sr, cr := math.Sincos(math.Pi * float64(r) / rows)
		sc, cc := math.Sincos(2 * math.Pi * float64(c) / columns)
		return [3]float64{radius * sr * cc, radius * sr * sc, radius * cr}
	}
	for r := range rows {
		for c := range columns {
			q := [][3]float64{at(r, c), at(r+1, c), at(r+1, c+1), at(r, c+1)}
			switch r {
			case 0:
				q = q[:3]
			case rows - 1:
				q = append(q[:2], q[3])
			}
			if !outside {
				for i, j := 0, len(q)-1; i < j; i, j = i+1, j-1 {
					q[i], q[j] = q[j], q[i]
				}
			}
			list = append(list, Facet{Class: class, Corners: q})
		}
	}
	return list
}

// lost is what goes to the surroundings in all, W.
func lost(x *Exchange, h, e []float64, around float64) float64 {
	var sum float64
	for i, open := range x.Views.Open {
		sum += open * (e[i] + (1-x.emissivity[i])*h[i] - around)
	}
	return sum
}

// enclosure solves for what class 0 loses per area when the classes emit as bodies of
// given σT⁴.
func enclosure(t *testing.T, facets []Facet, emissivity, power []float64) (loses, ratio, all float64) {
	t.Helper()
	v, err := Compute(t.Context(), facets, nil)
	require.NoError(t, err)
	n := v.Count()
	eps, e := make([]float64, n), make([]float64, n)
	class := make([]int32, n)
	for i, p := range v.Patch {
		class[p] = facets[i].Class
	}
	areas := make([]float64, len(power))
	for p, c := range class {
		eps[p], e[p] = emissivity[c], emissivity[c]*power[c]
		areas[c] += v.Area[p]
		require.Less(t, v.Open[p], 1e-9*v.Area[p], "no ray escapes")
	}
	h := make([]float64, n)
	x := NewExchange(v, eps)
	x.Irradiation(h, e, 123)
	for p, c := range class {
		q := v.Area[p] * (e[p] - eps[p]*h[p])
		all += q
		if c == 0 {
			loses += q / areas[0]
		}
	}
	assert.InDelta(t, 0, lost(x, h, e, 123), 1e-6)
	return loses, areas[0] / areas[1], all
}

// TestEnclosures: a ball in a ball exchanges as two resistances in a row say, one in a
// shell with a shield between as four do; in a box whose walls are black only the
// floor's emissivity counts. Nothing is lost.
func TestEnclosures(t *testing.T) {
	const warm, cold, e0, e1 = 2325.0, 459.0, 0.8, 0.4
	facets := append(ball(0, 0.5, true), ball(1, 1, false)...)
	got, ratio, all := enclosure(t, facets, []float64{e0, e1}, []float64{warm, cold})
	assert.InEpsilon(t, (warm-cold)/(1/e0+(1-e1)/e1*ratio), got, 2e-3)
	assert.InDelta(t, 0, all, 1e-8*warm)

	x, y, z := vector{1}, vector{0, 1}, vector{0, 0, 1}
	box := sheet(0, vector{}, x, y, 6)
	for _, s := range [][]Facet{sheet(1, z, y, x, 6), sheet(1, vector{}, y, z, 6), sheet(1, x, z, y, 6), sheet(1, vector{}, z, x, 6), sheet(1, y, x, z, 6)} {
		box = append(box, s...)
	}
	got, _, _ = enclosure(t, box, []float64{e0, 1}, []float64{warm, cold})
	assert.InEpsilon(t, e0*(warm-cold), got, 1e-9)
	v, err := Compute(t.Context(), box, nil)
	require.NoError(t, err)
	half, full := make([]float64, v.Count()), make([]float64, v.Count())
	for i := range half {
		half[i], full[i] = 0.5, 1
	}
	ex := NewExchange(v, half)
	assert.True(t, ex.Fits(half))
	assert.False(t, ex.Fits(full))
}

// TestPatchesKeepClasses: joined facets have one class, all facets a patch, and the
// key tells shapes apart.
func TestPatchesKeepClasses(t *testing.T) {
	x, y, z := vector{1}, vector{0, 1}, vector{0, 0, 1}
	facets := append(sheet(0, vector{}, x, y, 16), sheet(1, z, y, x, 16)...)
	v, err := Compute(t.Context(), facets, &Settings{Patches: 50, Rays: 64})
	require.NoError(t, err)
	assert.Equal(t, 50, v.Count())
	class := map[int32]int32{}
	for i, p := range v.Patch {
		if c, ok := class[p]; ok {
			require.Equal(t, c, facets[i].Class)
		}
		class[p] = facets[i].Class
	}
	assert.Len(t, class, 50)
	again, err := Compute(t.Context(), facets, &Settings{Patches: 50, Rays: 64})
	require.NoError(t, err)
	assert.Equal(t, v, again, "the same bits in every run")
	key := Key(facets, nil)
	assert.Equal(t, key, Key(facets, &Settings{Patches: 1000}))
	assert.NotEqual(t, key, Key(facets, &Settings{Patches: 999}))
	facets[3].Corners[0][2] = 1e-9
	assert.NotEqual(t, key, Key(facets, nil))
}

// TestStore: what was kept comes back as it was; the oldest goes when there is no room.
func TestStore(t *testing.T) {
	v, err := Compute(t.Context(), sheet(0, vector{}, vector{1}, vector{0, 1}, 2), &Settings{Rays: 16})
	require.NoError(t, err)
	s := &Store{Dir: t.TempDir() + "/views"}
	assert.Nil(t, s.Load("first"))
	require.NoError(t, s.Save("first", v))
	assert.Equal(t, v, s.Load("first"))
	s.Most = 1
	require.NoError(t, s.Save("second", v))
	assert.NotNil(t, s.Load("second"), "the newest always stays")
	assert.Nil(t, s.Load("first"))
	require.NoError(t, os.WriteFile(s.path("second"), []byte("cut off"), 0o644))
	assert.Nil(t, s.Load("second"))
}
