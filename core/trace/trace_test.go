package trace

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// area of an outline without its holes, m².
func area(o Outline) float64 {
	of := func(v []Vertex) float64 {
		sum := 0.0
		for i, a := range v {
			b := v[(i+1)%len(v)]
			sum += (a.X*b.Y - b.X*a.Y) / 2
			if a.Bend != 0 {
				chord := math.Hypot(b.X-a.X, b.Y-a.Y)
				r := chord / 2 / math.Sin(math.Abs(a.Bend)/2)
				sum += math.Copysign(r*r/2*(math.Abs(a.Bend)-math.Sin(math.Abs(a.Bend))), a.Bend)
			}
		}
		return math.Abs(sum)
	}
	sum := of(o.Loop)
	for _, h := range o.Holes {
		sum -= of(h)
	}
	return sum
}

func groups(list ...any) string {
	var b strings.Builder
	for i := 0; i < len(list); i += 2 {
		fmt.Fprintf(&b, "%v\n%v\n", list[i], list[i+1])
	}
	return b.String()
}

func TestDXF(t *testing.T) {
	// A plate of four lines, one of them the other way round, with a bolt hole, a
	// slot as a polyline with bulges, and an island in the slot.
	text := groups(0, "SECTION", 2, "HEADER", 9, "$INSUNITS", 70, 4, 0, "ENDSEC", 0, "SECTION", 2, "ENTITIES",
		0, "LINE", 8, "plate", 10, 0, 20, 0, 11, 60, 21, 0,
		0, "LINE", 8, "plate", 10, 60, 20, 40, 11, 60, 21, 0.0001,
		0, "LINE", 8, "plate", 10, 60, 20, 40, 11, 0, 21, 40,
		0, "LINE", 8, "plate", 10, 0, 20, 40, 11, 0, 21, 0,
		0, "CIRCLE", 8, "plate", 10, 10, 20, 20, 40, 4,
		0, "LWPOLYLINE", 8, "plate", 90, 4, 70, 1, 10, 25, 20, 15, 10, 45, 20, 15, 42, 1, 10, 45, 20, 25, 10, 25, 20, 25, 42, 1,
		0, "ELLIPSE", 8, "island", 10, 35, 20, 20, 11, 4, 21, 0, 40, 0.5, 41, 0, 42, 6.283185307179586,
		0, "LINE", 8, "loose", 10, 100, 20, 0, 11, 120, 21, 0,
		0, "TEXT", 8, "plate", 1, "PLATE 3",
		0, "ENDSEC", 0, "EOF")
	d, err := Read("plate.DXF", []byte(text), "")
	require.NoError(t, err)
	require.Len(t, d.Outlines, 2)
	assert.Equal(t, "mm", d.Unit)
	plate := d.Outlines[0]
	assert.Equal(t, "plate", plate.Name)
	require.Len(t, plate.Holes, 2)
	assert.InEpsilon(t, (2400-16*math.Pi-200-25*math.Pi)*1e-6, area(plate), 1e-5)
	assert.Equal(t, "island", d.Outlines[1].Name)
	assert.InEpsilon(t, 8*math.Pi*1e-6, area(d.Outlines[1]), 5e-3)
	assert.Equal(t, []string{"1 of the kind TEXT left out", "1 small gaps were closed", "1 open lines were left out"}, d.Report)

	d, err = Read("plate.dxf", []byte(text), "in")
	require.NoError(t, err)
	assert.InEpsilon(t, (2400-16*math.Pi-200-25*math.Pi)*0.0254*0.0254, area(d.Outlines[0]), 1e-5, "the unit that was asked for counts")

	// A disc by a quadratic rational spline over four quarters, and by two arcs and
	// an old-style polyline.
	w := math.Sqrt2 / 2
	spline := groups(0, "SECTION", 2, "ENTITIES", 0, "SPLINE", 8, "s", 70, 1, 71, 2)
	for _, k := range []float64{0, 0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 4} {
		spline += groups(40, k)
	}
	for i, p := range [][2]float64{{1, 0}, {1, 1}, {0, 1}, {-1, 1}, {-1, 0}, {-1, -1}, {0, -1}, {1, -1}, {1, 0}} {
		weight := 1.0
		if i%2 == 1 {
			weight = w
		}
		spline += groups(10, p[0], 20, p[1], 41, weight)
	}
	spline += groups(0, "ARC", 8, "a", 10, 5, 20, 0, 40, 1, 50, 90, 51, 270, 0, "ARC", 8, "a", 10, 5, 20, 0, 40, 1, 50, 270, 51, 90,
		0, "POLYLINE", 8, "p", 70, 1, 0, "VERTEX", 10, 9, 20, 0, 42, 1, 0, "VERTEX", 10, 11, 20, 0, 42, 1, 0, "SEQEND", 0, "ENDSEC")
	d, err = Read("discs.dxf", []byte(spline), "cm")
	require.NoError(t, err)
	require.Len(t, d.Outlines, 3)
	for _, o := range d.Outlines {
		assert.InEpsilon(t, math.Pi*1e-4, area(o), 3e-3, o.Name)
	}
}

func TestSVG(t *testing.T) {
	text := `<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" width="100mm" viewBox="0 0 200 100">
	<defs><rect id="never" width="9" height="9"/></defs>
	<g transform="translate(20, 10)"><path id="plate" d="M0 0h80v40l-80 0z"/><circle cx="20" cy="20" r="10" transform="rotate(30 20 20)"/></g>
	<rect id="soft" x="120" y="10" width="40" height="20" rx="5"/>
	<path id="drop" d="M150,60 c10,0 10,20 0,20 s-10-20 0-20"/>
	<polygon id="tri" points="10,70 50,70 10,90"/><text>no</text></svg>`
	d, err := Read("sheet.svg", []byte(text), "")
	require.NoError(t, err)
	require.Len(t, d.Outlines, 4)
	by := map[string]Outline{}
	for _, o := range d.Outlines {
		by[o.Name] = o
	}
	// Two units of the file are a millimetre.
	assert.InEpsilon(t, (80*40-0)/4*1e-6, area(Outline{Loop: by["plate"].Loop}), 1e-9)
	assert.InEpsilon(t, (800-(4-math.Pi)*25)/4*1e-6, area(by["soft"]), 1e-9)
	assert.InEpsilon(t, 100e-6, area(by["tri"]), 1e-9)
	require.Len(t, by["plate"].Holes, 1)
	assert.InEpsilon(t, (3200-100*math.Pi)/4*1e-6, area(by["plate"]), 1e-9)
	for _, v := range by["plate"].Loop {
		assert.Less(t, v.Y, 0.0, "y runs upward")
	}
	assert.Contains(t, d.Report, "1 of the kind <text> left out")
	for _, bad := range []string{"", "<html/>", "<svg", `<svg xmlns="x"><path d="M0 0 L1"/></svg>`, `<svg><path d="M0 0 W1 1"/></svg>`, `<svg><g transform="bend(3)"/></svg>`, `<svg><line x1="0" y1="0" x2="5" y2="5"/></svg>`} {
		_, err := Read("a.svg", []byte(bad), "")
		assert.Error(t, err, bad)
	}
}

func TestPoints(t *testing.T) {
	d, err := Read("foot.csv", []byte("x;y\r\n0;0\r\n30;0\r\n0;20\r\n0;0\r\n"), "mm")
	require.NoError(t, err)
	assert.InEpsilon(t, 300e-6, area(d.Outlines[0]), 1e-12)
	for text, words := range map[string]string{"0 0\n1 1": "three points", "0 0\n1 1\na b": "line 3", "0,0\n1,0\n1": "line 3"} {
		_, err := Read("a.csv", []byte(text), "mm")
		assert.ErrorContains(t, err, words)
	}
	_, err = Read("a.step", nil, "mm")
	assert.ErrorContains(t, err, ".dxf, .svg, .csv or .stl")
	_, err = Read("a.csv", []byte("0 0\n1 0\n0 1"), "furlong")
	assert.ErrorContains(t, err, "furlong")
}

// FuzzRead: whatever a file says, reading it ends in words.
func FuzzRead(f *testing.F) {
	f.Add("a.dxf", groups(0, "SECTION", 2, "ENTITIES", 0, "CIRCLE", 10, 1, 20, 2, 40, 3, 0, "ENDSEC"))
	f.Add("a.svg", `<svg viewBox="0 0 1 1" width="3in"><path d="M0 0a1 2 30 1 0 4 4q1 1 2 0t.5.5-1-1z"/></svg>`)
	f.Add("a.csv", "1,2\n3,4\n5,7")
	f.Fuzz(func(t *testing.T, name, text string) {
		d, err := Read(name, []byte(text), "mm")
		if err == nil && len(d.Outlines) == 0 {
			t.Fatal("neither an outline nor an error")
		}
	})
}
