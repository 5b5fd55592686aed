package trace

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestNearestEnds: the tree finds what looking at all finds, while points go.
func TestNearestEnds(t *testing.T) {
	rnd := rand.New(rand.NewPCG(3, 5))
	for _, n := range []int{1, 2, 7, 300} {
		points := make([]point, n)
		for i := range points {
			points[i] = point{float64(rnd.IntN(20)), float64(rnd.IntN(20))}
		}
		tree := newEnds(points)
		gone := make([]bool, n)
		for range 2 * n {
			p, within := point{20 * rnd.Float64(), 20 * rnd.Float64()}, 6*rnd.Float64()
			want := -1
			for i, q := range points {
				if d := p.to(q); !gone[i] && d <= within && (want < 0 || d < p.to(points[want])) {
					want = i
				}
			}
			require.Equal(t, want, tree.nearest(p, within))
			if k := rnd.IntN(n); !gone[k] {
				gone[k] = true
				tree.remove(k)
			}
		}
	}
}

// dxf writes lines.
func dxf(lines [][4]float64) []byte {
	var b strings.Builder
	b.WriteString("0\nSECTION\n2\nENTITIES\n")
	for _, l := range lines {
		fmt.Fprintf(&b, "0\nLINE\n8\n0\n10\n%.12g\n20\n%.12g\n11\n%.12g\n21\n%.12g\n", l[0], l[1], l[2], l[3])
	}
	b.WriteString("0\nENDSEC\n0\nEOF\n")
	return []byte(b.String())
}

// TestManyLinesAtOnePlace: tens of thousands of lines in what was one square of a grid, and as
// many that meet at a point, are read beside a square that is closed.
func TestManyLinesAtOnePlace(t *testing.T) {
	square := [][4]float64{{0, 0, 1000, 0}, {1000, 0, 1000, 1000}, {1000, 1000, 0, 1000}, {0, 1000, 0, 0}}
	rnd := rand.New(rand.NewPCG(1, 2))
	for name, line := range map[string]func() [4]float64{
		"scattered": func() [4]float64 {
			x, y := 500+0.1*rnd.Float64(), 500+0.1*rnd.Float64()
			return [4]float64{x, y, x + 1e-3, y}
		},
		"a star": func() [4]float64 { return [4]float64{500, 500, 400 * rnd.Float64(), 900 * rnd.Float64()} },
	} {
		lines := square
		for range 40_000 {
			lines = append(lines, line())
		}
		d, err := Read("a.dxf", dxf(lines), "mm")
		require.NoError(t, err, name)
		assert.NotEmpty(t, d.Outlines, name)
		largest := d.Outlines[0].Loop
		assert.Len(t, largest, 4, name)
	}
}
