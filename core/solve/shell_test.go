package solve

import (
	"fmt"
	"math"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
)

// inShell puts a device of a magnet and of air around it into a shell as thick as room, mm; the part of what stands for space beyond
// comes first.
func inShell(kind, size string, room float64, magnet model.Part) *model.Document {
	lo := -10 - room
	left := lo
	if kind == model.Axial {
		left = 0
	}
	d := magnetic(kind, size, box("shell", "nothing", min(left, 2*lo+10), 2*lo+10, -2*lo-10, -2*lo-10), box("out", "nothing", left, lo, -lo, -lo), magnet)
	if kind == model.Axial {
		d.Parts[0] = box("shell", "nothing", 0, 2*lo+10, -2*lo-10, -2*lo-10)
	}
	d.Conditions = []model.Sentence{
		{ID: "m", Kind: "magnetic.magnet", On: model.Patch{Part: magnet.ID}, Values: map[string]string{"y": "1"}},
		{ID: "s", Kind: "magnetic.shell", On: model.Patch{Part: "shell"}}}
	return d
}

// TestAShellStandsForAllSpace: a round magnet in a plane has half of its remanence in it, with the field of a dipole around, and the more
// exactly the finer the cells: nothing is left of where the boundary lies.
func TestAShellStandsForAllSpace(t *testing.T) {
	var off []float64
	for _, size := range []string{"2 mm", "1 mm"} {
		d := inShell(model.Plane, size, 10, disc("magnet", "magnet", 0, 0, 10))
		d.Readings = []model.Sentence{
			{ID: "r1", Kind: "formula", Values: map[string]string{"formula": "mean(flux_density_y over magnet)"}},
			{ID: "r2", Kind: "formula", Values: map[string]string{"formula": "at(flux_density_x, 17.7 mm, 17.7 mm, 0 mm)"}},
			{ID: "r3", Kind: "formula", Values: map[string]string{"formula": "total(field_energy over shell)"}},
			{ID: "r4", Kind: "formula", Values: map[string]string{"formula": "at(flux_density_y, 24 mm, 0.1 mm, 0 mm)"}}}
		d.Enumerate()
		o := settle(t, d)
		off = append(off, math.Abs(value(t, o, "r1")/0.6-1))
		assert.InEpsilon(t, 0.6*100/(2*17.7*17.7), value(t, o, "r2"), 0.02)
		// What lies beyond a square has less energy than what lies beyond the circle in it, and more than beyond that around it.
		beyond := func(radius float64) float64 {
			return 0.1 * math.Pi * math.Pow(0.6, 2) * math.Pow(0.01, 4) / (2 * vacuum * radius * radius)
		}
		assert.Greater(t, value(t, o, "r3"), beyond(0.02*math.Sqrt2))
		assert.Less(t, value(t, o, "r3"), beyond(0.02))
		// In the shell the field is that of the place that is meant: a fifth of the way stands for 20 mm + 20 mm·(0.4/0.6).
		assert.InEpsilon(t, -0.6*math.Pow(10/(20+20*0.4/0.6), 2), value(t, o, "r4"), 0.03)
	}
	assert.Less(t, off[1], 5e-4)
	assert.Less(t, off[1], off[0]/2)
}

// TestShellsInSpaceAndRoundAnAxis: a cube that is a magnet has two thirds of its remanence in its middle, and outside what the closed form
// of a block says, of a quarter of it; so has a ball round an axis, with a shell that is cut by the plane of its middle.
func TestShellsInSpaceAndRoundAnAxis(t *testing.T) {
	span := func(v float64) model.Span {
		return model.Span{From: fmt.Sprintf("%g mm", -v), To: fmt.Sprintf("%g mm", v)}
	}
	d := magnetic(model.Solid, "2.5 mm", box("shell", "nothing", -15, -15, 15, 15), box("out", "nothing", -10, -10, 10, 10), box("magnet", "magnet", -5, -5, 5, 5))
	for i, v := range []float64{15, 10, 5} {
		d.Parts[i].Span = span(v)
	}
	d.Space.Cuts = []model.Cut{{Across: "x", At: "0 mm", Keep: "greater"}, {Across: "y", At: "0 mm", Keep: "greater"}}
	d.Conditions = []model.Sentence{
		{ID: "m", Kind: "magnetic.magnet", On: model.Patch{Part: "magnet"}, Values: map[string]string{"z": "1"}},
		{ID: "s", Kind: "magnetic.shell", On: model.Patch{Part: "shell"}}}
	d.Readings = []model.Sentence{
		{ID: "r1", Kind: "formula", Values: map[string]string{"formula": "at(flux_density_z, 0.01 mm, 0.01 mm, 0.01 mm)"}},
		{ID: "r2", Kind: "formula", Values: map[string]string{"formula": "at(flux_density_z, 0.01 mm, 0.01 mm, 9 mm)"}}}
	d.Enumerate()
	o := settle(t, d)
	assert.InEpsilon(t, 0.8, value(t, o, "r1"), 0.02)
	side := func(z float64) float64 { return math.Atan(100 / (2 * z * math.Sqrt(4*z*z+200))) }
	assert.InEpsilon(t, 1.2/math.Pi*(side(4)-side(14)), value(t, o, "r2"), 0.02)

	ball := box("ball", "magnet", 0, 0, 10, 10)
	ball.Outline, ball.Place = model.Outline{Kind: "path", Points: []model.Point{{X: "0 mm", Y: "0 mm"}}}, model.Place{}
	for i := range 25 {
		turn := math.Pi / 2 * float64(i) / 24
		ball.Outline.Points = append(ball.Outline.Points, model.Point{X: fmt.Sprintf("%.10g mm", 10*math.Cos(turn)), Y: fmt.Sprintf("%.10g mm", 10*math.Sin(turn))})
	}
	flat := inShell(model.Axial, "1.5 mm", 10, ball)
	for i, far := range []float64{30, 20} {
		flat.Parts[i] = box(flat.Parts[i].ID, "nothing", 0, 0, far, far)
	}
	for i, part := range []string{"shell", "out", "ball"} {
		flat.Conditions = append(flat.Conditions, model.Sentence{ID: fmt.Sprintf("c%d", i), Kind: "magnetic.crosses", On: model.Patch{Part: part, Side: "front"}})
	}
	flat.Conditions[4].On.Side = "e1"
	flat.Readings = []model.Sentence{{ID: "r1", Kind: "formula", Values: map[string]string{"formula": "mean(flux_density_y over ball)"}}}
	flat.Enumerate()
	assert.InEpsilon(t, 0.8, value(t, settle(t, flat), "r1"), 1e-3)
}

// TestWhatIsNoShell says why.
func TestWhatIsNoShell(t *testing.T) {
	for words, change := range map[string]func(d *model.Document){
		"is not beyond a box":       func(d *model.Document) { d.Parts[1] = disc("out", "nothing", 0, 0, 20) },
		"lies not round the others": func(d *model.Document) { d.Conditions[1].On.Part = "out" },
		"space beyond is empty": func(d *model.Document) {
			d.Parts[0].Material = "magnet"
			d.Conditions = append(d.Conditions, model.Sentence{ID: "x", Kind: "magnetic.magnet", On: model.Patch{Part: "shell"}, Values: map[string]string{"y": "1"}})
		},
		"another sentence says": func(d *model.Document) {
			d.Conditions = append(d.Conditions, model.Sentence{ID: "x", Kind: "magnetic.open", On: model.Patch{Part: "shell", Side: "right"}})
		},
	} {
		d := inShell(model.Plane, "4 mm", 10, disc("magnet", "magnet", 0, 0, 10))
		change(d)
		d.Enumerate()
		_, err := Run(t.Context(), d, Options{Now: time.Now})
		require.ErrorContains(t, err, words)
	}
}

// TestAirThatEndsTooNear to a magnet is warned of where nothing is said of its sides, with how much is squeezed in, and not the plane of
// symmetry that the magnet itself meets.
func TestAirThatEndsTooNear(t *testing.T) {
	for _, c := range []struct {
		room  float64
		half  bool
		warns bool
	}{{10, false, true}, {10, true, true}, {100, false, false}, {100, true, false}} {
		left := -10 - c.room
		d := magnetic(model.Plane, fmt.Sprintf("%g mm", c.room/3), box("out", "nothing", left, left, 10+c.room, 10+c.room), disc("magnet", "magnet", 0, 0, 10))
		if c.half {
			d.Space.Cuts = []model.Cut{{Across: "x", At: "0 mm", Keep: "greater"}}
		}
		d.Conditions = []model.Sentence{{ID: "m", Kind: "magnetic.magnet", On: model.Patch{Part: "magnet"}, Values: map[string]string{"y": "1"}}}
		d.Enumerate()
		said := strings.Contains(strings.Join(settle(t, d).Warnings, "; "), "would lie beyond the out")
		assert.Equal(t, c.warns, said, "%+v", c)
	}
}
