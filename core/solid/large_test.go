package solid

import (
	"bytes"
	"encoding/binary"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// binary STL of triangles, three corners each.
func stl(corners [][3]float64) []byte {
	var b bytes.Buffer
	b.Write(make([]byte, 80))
	put := func(v any) {
		if err := binary.Write(&b, binary.LittleEndian, v); err != nil {
			panic(err)
		}
	}
	put(uint32(len(corners) / 3))
	for i := 0; i < len(corners); i += 3 {
		put([3]float32{})
		for _, p := range corners[i : i+3] {
			put([3]float32{float32(p[0]), float32(p[1]), float32(p[2])})
		}
		put(uint16(0))
	}
	return b.Bytes()
}

// TestLooseTriangles: thousands that do not hang together are refused in words, at once.
func TestLooseTriangles(t *testing.T) {
	var corners [][3]float64
	for i := range 40_000 {
		x, y := float64(i%200), float64(i/200)
		corners = append(corners, [3]float64{x, y, 0}, [3]float64{x + 0.5, y, 0}, [3]float64{x, y + 0.5, 0.1})
	}
	_, err := ReadSTL("loose", stl(corners), 1e-3)
	assert.ErrorContains(t, err, "40000 separate surfaces; 2000 are read at most")
}

// TestManySmallBodies: as many as are read are told apart, more are refused.
func TestManySmallBodies(t *testing.T) {
	tetrahedra := func(n int) (corners [][3]float64) {
		for i := range n {
			x, y := 2*float64(i%50), 2*float64(i/50)
			a, b, c, d := [3]float64{x, y, 0}, [3]float64{x + 1, y, 0}, [3]float64{x, y + 1, 0}, [3]float64{x, y, 1}
			corners = append(corners, a, c, b, a, b, d, a, d, c, b, c, d)
		}
		return corners
	}
	in, err := ReadSTL("grit", stl(tetrahedra(1500)), 1e-3)
	require.NoError(t, err)
	assert.Len(t, in.Bodies, 1500)
	_, err = ReadSTL("grit", stl(tetrahedra(2001)), 1e-3)
	assert.ErrorContains(t, err, "2001 separate surfaces")
}

// TestAFineBall of 280,000 triangles is read whole.
func TestAFineBall(t *testing.T) {
	const n, m = 350, 400
	at := func(i, j int) [3]float64 {
		b, a := math.Sincos(math.Pi * float64(i) / n)
		sin, cos := math.Sincos(2 * math.Pi * float64(j%m) / m)
		return [3]float64{10 * b * cos, 10 * b * sin, 10 * a}
	}
	var corners [][3]float64
	for i := range n {
		for j := range m {
			if i < n-1 {
				corners = append(corners, at(i, j), at(i+1, j), at(i+1, j+1))
			}
			if i > 0 {
				corners = append(corners, at(i, j), at(i+1, j+1), at(i, j+1))
			}
		}
	}
	in, err := ReadSTL("ball", stl(corners), 1e-3)
	require.NoError(t, err)
	require.Len(t, in.Bodies, 1)
	assert.InEpsilon(t, 4./3*math.Pi*1e-6, in.Bodies[0].Volume(), 1e-3)
	_, stack := in.Bodies[0].Stack()
	assert.False(t, stack)
}
