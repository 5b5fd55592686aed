package plate

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestPictures: of two squares the nearer one is seen, in the colour of its value, and only where it is.
func TestPictures(t *testing.T) {
	s := &Skin{Flat: true, Positions: []float32{0, 0, 0, 2, 0, 0, 2, 1, 0, 0, 1, 0, 0, 0, 1, 1, 0, 1, 1, 1, 1, 0, 1, 1},
		Values: []float32{10, 10, 10, 10, 20, 20, 20, 20}, Triangles: []uint32{0, 1, 2, 0, 2, 3, 4, 5, 6, 4, 6, 7}}
	p := s.Picture(200, 100, 10, 20)
	at := func(x, y int) [4]uint8 { c := p.NRGBAAt(x, y); return [4]uint8{c.R, c.G, c.B, c.A} }
	colour := func(v float64) [4]uint8 {
		c := tinted(Rising(v), 1)
		return [4]uint8{c.R, c.G, c.B, c.A}
	}
	assert.Equal(t, colour(1), at(50, 50), "the nearer one")
	assert.Equal(t, colour(0), at(150, 50))
	assert.Zero(t, at(1, 1)[3], "there is nothing")
	assert.Less(t, Rising(0.2)[1], Rising(0.8)[1])
}
