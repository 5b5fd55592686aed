package solid

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/shape"
	"saltkettle/core/trace"
)

// prism is the corners of the triangles of an extruded polygon that turns left.
func prism(z0, z1 float64, p ...shape.Point) (list [][3]float64) {
	n := len(p)
	for i := range p {
		a, b := p[i], p[(i+1)%n]
		list = append(list, [3]float64{a.X, a.Y, z0}, [3]float64{b.X, b.Y, z0}, [3]float64{b.X, b.Y, z1},
			[3]float64{a.X, a.Y, z0}, [3]float64{b.X, b.Y, z1}, [3]float64{a.X, a.Y, z1})
		if i > 1 {
			list = append(list, [3]float64{p[0].X, p[0].Y, z1}, [3]float64{p[i-1].X, p[i-1].Y, z1}, [3]float64{p[i].X, p[i].Y, z1},
				[3]float64{p[0].X, p[0].Y, z0}, [3]float64{p[i].X, p[i].Y, z0}, [3]float64{p[i-1].X, p[i-1].Y, z0})
		}
	}
	return list
}

func box(x, y, z, w, d, h float64) [][3]float64 {
	return prism(z, z+h, shape.Point{X: x, Y: y}, shape.Point{X: x + w, Y: y}, shape.Point{X: x + w, Y: y + d}, shape.Point{X: x, Y: y + d})
}

func text(solids map[string][][3]float64) []byte {
	var b strings.Builder
	for name, corners := range solids {
		fmt.Fprintf(&b, "solid %s\n", name)
		for i := 0; i < len(corners); i += 3 {
			b.WriteString(" facet normal 0 0 0\n  outer loop\n")
			for _, p := range corners[i : i+3] {
				fmt.Fprintf(&b, "   vertex %.9g %.9g %.9g\n", p[0], p[1], p[2])
			}
			b.WriteString("  endloop\n endfacet\n")
		}
		fmt.Fprintf(&b, "endsolid %s\n", name)
	}
	return []byte(b.String())
}

func binaryOf(corners [][3]float64) []byte {
	var b bytes.Buffer
	b.Write(make([]byte, 80))
	_ = binary.Write(&b, binary.LittleEndian, uint32(len(corners)/3))
	for i := 0; i < len(corners); i += 3 {
		b.Write(make([]byte, 12))
		for _, p := range corners[i : i+3] {
			for _, x := range p {
				_ = binary.Write(&b, binary.LittleEndian, float32(x))
			}
		}
		b.Write(make([]byte, 2))
	}
	return b.Bytes()
}

func TestSeveralBodiesTextAndBinary(t *testing.T) {
	two := append(box(0, 0, 0, 30, 20, 10), box(50, 0, 0, 10, 10, 10)...)
	for name, data := range map[string][]byte{"text": text(map[string][][3]float64{"sluice_block": two}), "binary": binaryOf(two)} {
		in, err := ReadSTL("block", data, 1e-3)
		require.NoError(t, err, name)
		require.Len(t, in.Bodies, 2, name)
		assert.InEpsilon(t, 6e-6, in.Bodies[0].Volume(), 1e-6, "the largest first")
		assert.InEpsilon(t, 1e-6, in.Bodies[1].Volume(), 1e-6)
		assert.Empty(t, in.Report)
		layers, ok := in.Bodies[0].Stack()
		require.True(t, ok)
		require.Len(t, layers, 1)
		assert.Len(t, layers[0].Loop, 4, "four corners, whatever the triangles are")
		assert.InDelta(t, 0.01, layers[0].Z1-layers[0].Z0, 1e-9)
	}
}

// TestStacksHaveTheirOutlines: a flange on a plate with a round bore, and a cavity.
func TestStacksHaveTheirOutlines(t *testing.T) {
	// A plate under a narrower block: one closed surface, seen from outside.
	wide, narrow := box(0, 0, 0, 40, 40, 5), box(10, 10, 5, 20, 20, 15)
	in, err := ReadSTL("flange", binaryOf(append(wide, narrow...)), 1e-3)
	require.NoError(t, err)
	sum := 0
	for i := range in.Bodies {
		layers, ok := in.Bodies[i].Stack()
		require.True(t, ok)
		sum += len(layers)
	}
	assert.Equal(t, 2, sum)

	var circle []shape.Point
	for i := range 48 {
		s, c := math.Sincos(2 * math.Pi * float64(i) / 48)
		circle = append(circle, shape.Point{X: 20 + 8*c, Y: 20 + 8*s})
	}
	hole := prism(0, 5, circle...)
	// The bore: its walls turned inward, without its ends; the ends of the plate are rings.
	var tube [][3]float64
	for i := 0; i < len(hole); i += 3 {
		a, b, c := hole[i], hole[i+1], hole[i+2]
		if a[2] == b[2] && b[2] == c[2] {
			continue
		}
		tube = append(tube, a, c, b)
	}
	plate := wide[:0:0]
	for i := 0; i < len(wide); i += 3 {
		if a := wide[i : i+3]; a[0][2] != a[1][2] || a[1][2] != a[2][2] {
			plate = append(plate, a...)
		}
	}
	corner := []shape.Point{{X: 0, Y: 0}, {X: 40, Y: 0}, {X: 40, Y: 40}, {X: 0, Y: 40}}
	for i := range circle {
		a, b := circle[i], circle[(i+1)%len(circle)]
		at := func(k int) shape.Point { return corner[(int(math.Floor((float64(k)+6)/12))+2)%4] }
		p, q := at(i), at(i+1)
		for _, z := range [2]float64{0, 5} {
			ring := [][3]float64{{a.X, a.Y, z}, {p.X, p.Y, z}, {b.X, b.Y, z}}
			if p != q {
				ring = append(ring, [3]float64{p.X, p.Y, z}, [3]float64{q.X, q.Y, z}, [3]float64{b.X, b.Y, z})
			}
			for k := 0; k < len(ring); k += 3 {
				if z == 0 {
					ring[k+1], ring[k+2] = ring[k+2], ring[k+1]
				}
			}
			plate = append(plate, ring...)
		}
	}
	in, err = ReadSTL("plate", binaryOf(append(plate, tube...)), 1e-3)
	require.NoError(t, err)
	require.Len(t, in.Bodies, 1)
	layers, ok := in.Bodies[0].Stack()
	require.True(t, ok)
	require.Len(t, layers, 1)
	require.Len(t, layers[0].Holes, 1)
	assert.Len(t, layers[0].Holes[0], 2, "a circle of two arcs")
	assert.InDelta(t, 0.016, math.Abs(layers[0].Holes[0][1].X-layers[0].Holes[0][0].X), 1e-6)

	// A box within a box, turned inward, is a cavity of it.
	inner := box(5, 5, 5, 10, 10, 10)
	for i := 0; i < len(inner); i += 3 {
		inner[i+1], inner[i+2] = inner[i+2], inner[i+1]
	}
	in, err = ReadSTL("hollow", binaryOf(append(box(0, 0, 0, 20, 20, 20), inner...)), 1e-3)
	require.NoError(t, err)
	require.Len(t, in.Bodies, 1)
	assert.InEpsilon(t, 7e-6, in.Bodies[0].Volume(), 1e-6)
	assert.False(t, in.Bodies[0].Contains([3]float64{0.01, 0.011, 0.0102}))
	assert.True(t, in.Bodies[0].Contains([3]float64{0.002, 0.011, 0.0102}))
}

func TestGapsAreMendedOrSaid(t *testing.T) {
	torn := box(0, 0, 0, 30, 20, 10)
	for i := range torn[:9] {
		torn[i][0] += 2e-3 // 2 µm beside its neighbours
	}
	in, err := ReadSTL("torn", binaryOf(torn), 1e-3)
	require.NoError(t, err)
	require.Len(t, in.Bodies, 1)
	assert.Contains(t, strings.Join(in.Report, "; "), "were joined")
	// A triangle is missing: the hole is small.
	in, err = ReadSTL("holed", binaryOf(box(0, 0, 0, 30, 20, 10)[3:]), 1e-3)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(in.Report, "; "), "1 small holes were closed")
	assert.InEpsilon(t, 6e-6, in.Bodies[0].Volume(), 1e-6)
	// Half of a tube is not there.
	var circle []shape.Point
	for i := range 60 {
		s, c := math.Sincos(2 * math.Pi * float64(i) / 60)
		circle = append(circle, shape.Point{X: 10 * c, Y: 10 * s})
	}
	whole := prism(0, 5, circle...)
	open := whole[:0:0]
	for i := 0; i < len(whole); i += 3 {
		if a := whole[i : i+3]; a[0][2] != 5 || a[1][2] != 5 || a[2][2] != 5 {
			open = append(open, a...)
		}
	}
	_, err = ReadSTL("cup", binaryOf(open), 1e-3)
	assert.ErrorContains(t, err, "is open: 60 edges")
	inside := box(0, 0, 0, 30, 20, 10)
	for i := 0; i < len(inside); i += 3 {
		inside[i+1], inside[i+2] = inside[i+2], inside[i+1]
	}
	in, err = ReadSTL("inside out", binaryOf(inside), 1e-3)
	require.NoError(t, err)
	assert.Positive(t, in.Bodies[0].Volume())
	for name, data := range map[string]string{"": "no triangles|not an STL", "solid x\nvertex 1 2\n": "line 2", "solid x\n vertex 1 2 a": "no number", "solid x\nvertex 1 2 3\n": "three corners", "solid x": "no triangles"} {
		_, err := ReadSTL("bad", []byte(name), 1)
		require.Error(t, err, name)
		_ = data
	}
}

func FuzzSTL(f *testing.F) {
	f.Add(text(map[string][][3]float64{"x": box(0, 0, 0, 1, 1, 1)}))
	f.Add(binaryOf(box(0, 0, 0, 1, 1, 1)))
	f.Fuzz(func(t *testing.T, data []byte) {
		in, err := ReadSTL("x", data, 1)
		if err != nil {
			return
		}
		for i := range in.Bodies {
			in.Bodies[i].Stack()
		}
	})
}

// TestArcsAreFound: edges that are the chords of an arc become it; a polygon that is meant
// as one stays.
func TestArcsAreFound(t *testing.T) {
	// A plate of 40 × 20 mm, two corners rounded by 6 mm, and a right end that is a half circle.
	arc := func(x, y, r, from, to float64, n int) (list []shape.Point) {
		for k := range n + 1 {
			s, c := math.Sincos((from + (to-from)*float64(k)/float64(n)) * math.Pi / 180)
			list = append(list, shape.Point{X: x + r*c, Y: y + r*s})
		}
		return list
	}
	p := append(arc(6, 6, 6, 180, 270, 9), arc(40, 10, 10, -90, 90, 24)...)
	p = append(p, arc(6, 14, 6, 90, 180, 7)...)
	read := func(p []shape.Point) []trace.Vertex {
		in, err := ReadSTL("plate", binaryOf(prism(0, 5, p...)), 1e-3)
		require.NoError(t, err)
		require.Len(t, in.Bodies, 1)
		layers, ok := in.Bodies[0].Stack()
		require.True(t, ok)
		require.Len(t, layers, 1)
		return layers[0].Loop
	}
	loop := read(p)
	bends := 0.0
	for _, v := range loop {
		bends += v.Bend
	}
	assert.InDelta(t, 2*math.Pi, bends, 1e-4)
	assert.LessOrEqual(t, len(loop), 7, "%v", loop)
	var exact float64 // its area with the arcs
	for i, v := range loop {
		w := loop[(i+1)%len(loop)]
		exact += (v.X*w.Y - w.X*v.Y) / 2
		if v.Bend != 0 {
			chord := math.Hypot(w.X-v.X, w.Y-v.Y)
			r := chord / (2 * math.Sin(v.Bend/2))
			exact += r * r / 2 * (v.Bend - math.Sin(v.Bend))
		}
	}
	want := 40*20e-6 - 2*(1-math.Pi/4)*36e-6 + math.Pi/2*100e-6
	assert.InEpsilon(t, want, exact, 1e-5)
	assert.Len(t, read(arc(0, 0, 10, 0, 315, 7)), 8, "an octagon")
}
