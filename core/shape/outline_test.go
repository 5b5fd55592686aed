package shape

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// must returns an outline after checking that its loops are closed and turn the
// right way.
func must(t *testing.T, o Outline, err error) Outline {
	t.Helper()
	require.NoError(t, err)
	for k, loop := range o.Loops {
		for i, e := range loop {
			next := loop[(i+1)%len(loop)]
			assert.InDelta(t, 0, distance(e.To, next.From), 1e-12, "loop %d is open behind %s", k, e.Name)
			for _, p := range e.Chords(0.001) {
				if e.Arc {
					assert.InDelta(t, e.radius(), distance(p, e.Centre), 1e-12)
				}
			}
		}
		assert.Equal(t, k == 0, loop.area() > 0, "loop %d", k)
	}
	return o
}

func TestAreasOfOutlines(t *testing.T) {
	v := func(x, y, r float64) Vertex { return Vertex{Point: Point{x, y}, Round: r} }
	ring, err := Ring(0.06, 0.04)
	ring = must(t, ring, err)
	assert.InEpsilon(t, math.Pi/4*(0.0036-0.0016), ring.Area(), 1e-12)
	assert.Equal(t, []string{"rim", "bore"}, ring.Sides())
	sector, err := Sector(0.06, 0.04, 1.2)
	assert.InEpsilon(t, 0.6*(0.0009-0.0004), must(t, sector, err).Area(), 1e-12)
	pie, err := Sector(0.06, 0, 4)
	assert.InEpsilon(t, 2*0.0009, must(t, pie, err).Area(), 1e-12)
	slot, err := Slot(0.05, 0.02)
	assert.InEpsilon(t, 0.03*0.02+math.Pi*1e-4, must(t, slot, err).Area(), 1e-12)
	hex, err := Polygon(6, 0.01)
	assert.InEpsilon(t, 2*math.Sqrt(3)*0.25e-4, must(t, hex, err).Area(), 1e-12)
	assert.Len(t, hex.Sides(), 6)

	rect, err := Rectangle(0.04, 0.02)
	require.NoError(t, err)
	soft, err := rect.Round(0.003)
	assert.InEpsilon(t, 8e-4-(4-math.Pi)*9e-6, must(t, soft, err).Area(), 1e-12)
	assert.Equal(t, []string{"corner", "front", "right", "back", "left"}, soft.Sides())
	cut, err := rect.Chamfer(0.003)
	assert.InEpsilon(t, 8e-4-4*4.5e-6, must(t, cut, err).Area(), 1e-12)
	whole, err := rect.Round(0.01)
	assert.InEpsilon(t, 0.02*0.02+math.Pi*1e-4, must(t, whole, err).Area(), 1e-12, "the ends have become half circles")
	_, err = rect.Round(0.011)
	assert.ErrorContains(t, err, "do not fit")

	// An angle piece, given clockwise, with one inner and one outer corner rounded.
	path, err := Path([]Vertex{v(0, 0, 0), v(0, 0.03, 0), v(0.01, 0.03, 0.002), v(0.01, 0.01, 0.004), v(0.03, 0.01, 0), v(0.03, 0, 0)}, false)
	path = must(t, path, err)
	assert.InEpsilon(t, 5e-4-(1-math.Pi/4)*4e-6+(1-math.Pi/4)*16e-6, path.Area(), 1e-12)
	assert.ElementsMatch(t, []string{"e1", "e2", "e3", "e4", "e5", "e6", "corner"}, path.Sides())
	for _, e := range path.Loops[0] {
		if e.Name == "e1" {
			assert.Equal(t, 0.0, e.From.X+e.To.X, "e1 is still the one at x = 0")
		}
	}
	// A disc of two arcs, a lens, and a keyhole whose one side bends inward.
	disc, err := Path([]Vertex{{Point: Point{-0.01, 0}, Bend: math.Pi}, {Point: Point{0.01, 0}, Bend: math.Pi}}, false)
	assert.InEpsilon(t, math.Pi*1e-4, must(t, disc, err).Area(), 1e-12)
	notch, err := Path([]Vertex{v(0, 0, 0), {Point: Point{0.02, 0}, Bend: -math.Pi}, v(0.02, 0.02, 0), v(0, 0.02, 0)}, false)
	assert.InEpsilon(t, 4e-4-math.Pi/2*1e-4, must(t, notch, err).Area(), 1e-12)
	_, err = Path([]Vertex{v(0, 0, 0), {Point: Point{0.02, 0}, Bend: 6.3}, v(0.02, 0.02, 0)}, false)
	assert.ErrorContains(t, err, "e2 cannot bend by 361")
	// A closed curve through points of a circle is nearly the circle.
	var points []Vertex
	for i := range 24 {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / 24)
		points = append(points, v(0.02*cos, 0.02*sin, 0))
	}
	round, err := Path(points, true)
	assert.InEpsilon(t, math.Pi*4e-4, must(t, round, err).Area(), 2e-3)

	strip, err := Strip([]Vertex{v(0, 0, 0), v(0.05, 0, 0.01), v(0.05, 0.04, 0), v(0.09, 0.04, 0)}, 0.004)
	strip = must(t, strip, err)
	// The area is the width times the length of the middle line, where its corners
	// are round or mitred.
	length := 0.05 + 0.04 + 0.04 - 2*0.01 + math.Pi/2*0.01
	assert.InEpsilon(t, 0.004*length, strip.Area(), 1e-12)
	assert.Equal(t, []string{"right", "end", "left", "start"}, strip.Sides())
}

func TestMirrorAndHoles(t *testing.T) {
	v := func(x, y, r float64) Vertex { return Vertex{Point: Point{x, y}, Round: r} }
	path, err := Path([]Vertex{v(0, 0, 0), v(0.03, 0, 0.005), v(0.01, 0.02, 0)}, false)
	require.NoError(t, err)
	m := must(t, path.Mirror(), nil)
	assert.InEpsilon(t, path.Area(), m.Area(), 1e-12)
	lo, hi := path.Box()
	mlo, mhi := m.Box()
	assert.InDelta(t, -hi.X, mlo.X, 1e-12)
	assert.InDelta(t, -lo.X, mhi.X, 1e-12)
	back := m.Mirror()
	for i, e := range back.Loops[0] {
		assert.Equal(t, path.Loops[0][i].Name, e.Name)
		assert.InDelta(t, 0, distance(path.Loops[0][i].From, e.From), 1e-15)
	}
	smooth, err := Path([]Vertex{v(0, 0, 0), v(0.03, 0, 0), v(0.04, 0.02, 0), v(0, 0.03, 0)}, true)
	require.NoError(t, err)
	assert.InEpsilon(t, smooth.Area(), must(t, smooth.Mirror(), nil).Area(), 1e-12)

	plate, _ := Rectangle(0.04, 0.02)
	disc, _ := Disc(0.006)
	holed, err := plate.Cut(disc.Move(0.01, 0, 0), "hole 1")
	holed = must(t, holed, err)
	assert.InEpsilon(t, 8e-4-math.Pi*9e-6, holed.Area(), 1e-12)
	assert.Contains(t, holed.Sides(), "hole 1")
	_, err = holed.Cut(disc.Move(0.013, 0, 0), "hole 2")
	assert.ErrorContains(t, err, "cross")
	_, err = plate.Cut(disc.Move(0.02, 0.001, 0), "hole 1")
	assert.Error(t, err)
	_, err = plate.Cut(disc.Move(0.1, 0, 0), "hole 1")
	assert.ErrorContains(t, err, "does not lie inside")
}

func TestOutlinesThatCannotBe(t *testing.T) {
	v := func(x, y, r float64) Vertex { return Vertex{Point: Point{x, y}, Round: r} }
	for words, make := range map[string]func() (Outline, error){
		"outer diameter greater": func() (Outline, error) { return Ring(1, 1) },
		"which may be zero":      func() (Outline, error) { return Sector(1, 2, 1) },
		"0 and 360":              func() (Outline, error) { return Sector(2, 1, 7) },
		"greater than its depth": func() (Outline, error) { return Slot(1, 1) },
		"3 to 200 sides":         func() (Outline, error) { return Polygon(2, 1) },
		"greater than zero":      func() (Outline, error) { return Polygon(5, 0) },
		"three points":           func() (Outline, error) { return Path([]Vertex{v(0, 0, 0), v(1, 1, 0)}, false) },
		"1 and 2 of the path":    func() (Outline, error) { return Path([]Vertex{v(0, 0, 0), v(0, 0, 0), v(1, 1, 0)}, false) },
		"crosses itself": func() (Outline, error) {
			return Path([]Vertex{v(0, 0, 0), v(1, 1, 0), v(1, 0, 0), v(0, 1.5, 0)}, false)
		},
		"point 2 lies at an arc": func() (Outline, error) {
			return Path([]Vertex{{Point: Point{0, 0}, Bend: 1}, v(1, 0, 0.1), v(1, 1, 0), v(0, 1, 0)}, false)
		},
		"less than nothing": func() (Outline, error) {
			return Path([]Vertex{v(0, 0, -1), v(1, 1, 0), v(0, 1, 0)}, false)
		},
		"two points":       func() (Outline, error) { return Strip([]Vertex{v(0, 0, 0)}, 1) },
		"turns back":       func() (Outline, error) { return Strip([]Vertex{v(0, 0, 0), v(1, 0, 0), v(0.5, 0, 0)}, 0.1) },
		"too tight":        func() (Outline, error) { return Strip([]Vertex{v(0, 0, 0), v(1, 0, 0.04), v(1, 1, 0)}, 0.1) },
		"1 and 2 of the s": func() (Outline, error) { return Strip([]Vertex{v(0, 0, 0), v(0, 0, 0)}, 0.1) },
	} {
		_, err := make()
		assert.ErrorContains(t, err, words)
	}
}

// TestMomentsTurnOutlinesIntoBodies: by the rule of Pappus a half disc makes a ball and
// a rectangle off the axis a tube; a hole takes its part away.
func TestMomentsTurnOutlinesIntoBodies(t *testing.T) {
	half, err := Sector(0.04, 0, math.Pi)
	half = must(t, half, err).Move(0, 0, -math.Pi/2)
	assert.InEpsilon(t, 4./3*math.Pi*0.02*0.02*0.02, 2*math.Pi*half.MomentX(), 1e-4)
	wall, err := Rectangle(0.01, 0.04)
	wall = must(t, wall, err).Move(0.025, 0.3, 0)
	assert.InEpsilon(t, math.Pi*(0.03*0.03-0.02*0.02)*0.04, 2*math.Pi*wall.MomentX(), 1e-12)
	assert.InEpsilon(t, 2*wall.MomentX(), wall.Move(0.025, 0, 0).MomentX(), 1e-12, "twice as far from the axis")
}
