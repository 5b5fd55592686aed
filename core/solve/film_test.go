package solve

import (
	"errors"
	"fmt"
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"saltkettle/core/model"
)

// pad is a section of a plate of a length, mm, whose lower edge a film lies on, of 1 m depth.
func pad(long float64, size, thickness, viscosity string) *model.Document {
	d := magnetic(model.Plane, size)
	d.Space.Depth = "1 m"
	d.Parts = []model.Part{{ID: "pad", Name: "pad", Material: "steel 316", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: fmt.Sprintf("%g mm", long), Depth: "10 mm"}, Place: model.Place{X: fmt.Sprintf("%g mm", long/2), Y: "5 mm"}}}
	condition(d, "film.lies", "pad", "front", "thickness", thickness, "viscosity", viscosity)
	return d
}

// TestSlider: the pressure under a plane slider of no end in width bears what the formula says, drags as it says, lets through the flow that it says, and
// the error falls with the square of the cells, and of a film that never breaks up with their fourth power.
func TestSlider(t *testing.T) {
	const long, thin, ratio, mu, speed = 0.1, 50e-6, 2.2, 0.05, 3.0
	errs := map[bool][]float64{}
	for i := range 4 {
		size, whole := []string{"5 mm", "2.5 mm"}[i%2], i > 1
		d := pad(100, size, "50 µm*(1 + 1.2*(1 - x/100 mm))", "0.05 Pa·s")
		condition(d, "film.facing", "pad", "front", "x", "3 m/s")
		if whole {
			condition(d, "film.whole", "pad", "front")
		}
		force, drag, centre := wish(d, "film.force", "pad", "front", "N"), wish(d, "film.drag", "pad", "front", "N"), wish(d, "film.centre", "pad", "front", "mm", "axis", "x")
		out, in := wish(d, "film.leaves", "pad", "right", "mL/s"), wish(d, "film.leaves", "pad", "left", "mL/s")
		filled := wish(d, "formula", "", "", "1", "formula", "least(film_filled over pad.front)")
		resist := wish(d, "film.resist", "pad", "front", "N")
		d.Enumerate()
		o := settle(t, d)
		k := ratio - 1
		bears := 6 * mu * speed * long * long / (thin * thin * k * k) * (math.Log(ratio) - 2*k/(2+k))
		errs[whole] = append(errs[whole], math.Abs(value(t, o, force)/bears-1))
		assert.InEpsilon(t, speed*thin*(1+k)/(2+k), value(t, o, out), 1e-3)
		assert.InEpsilon(t, -value(t, o, out), value(t, o, in), 1e-9)
		assert.InEpsilon(t, mu*speed*long/(thin*k)*(4*math.Log(ratio)-6*k/(2+k)), value(t, o, resist), 5e-3)
		assert.Less(t, value(t, o, drag), value(t, o, resist))
		assert.InEpsilon(t, 57.7924e-3, value(t, o, centre), 3e-3)
		assert.InDelta(t, 1, value(t, o, filled), 1e-12)
	}
	assert.Less(t, errs[false][1], 2e-3)
	assert.Less(t, errs[false][1], errs[false][0]/3)
	assert.Less(t, errs[true][1], 1e-6)
	assert.Less(t, errs[true][1], errs[true][0]/8)
}

// TestStepBearing of Rayleigh: the greatest pressure is at the step.
func TestStepBearing(t *testing.T) {
	const long, mu, speed = 0.1, 0.02, 4.0
	h1, h2, first := 80e-6, 40e-6, 0.07
	d := pad(100, "2.5 mm", "if(x < 70 mm, 80 µm, 40 µm)", "0.02 Pa·s")
	condition(d, "film.facing", "pad", "front", "x", "4 m/s")
	most, force := wish(d, "formula", "", "", "MPa", "formula", "greatest(film_pressure over pad.front)"), wish(d, "film.force", "pad", "front", "N")
	d.Enumerate()
	o := settle(t, d)
	second := long - first
	p := 6 * mu * speed * (h1 - h2) / (h1*h1*h1/first + h2*h2*h2/second)
	assert.InEpsilon(t, p, value(t, o, most), 1e-6)
	assert.InEpsilon(t, p*long/2, value(t, o, force), 1e-6)
}

// TestLongJournal unrolled: it is whole up to where pressure and slope end together, and no liquid is lost beyond.
func TestLongJournal(t *testing.T) {
	const radius, clearance, eccentric, mu, speed = 0.02, 40e-6, 0.6, 0.03, 5.0
	round := 2 * math.Pi * radius * 1e3
	var forces []float64
	for _, size := range []string{"1 mm", "0.5 mm"} {
		d := pad(round, size, "40 µm*(1 + 0.6*cos(x/20 mm))", "0.03 Pa·s")
		condition(d, "film.facing", "pad", "front", "x", "5 m/s")
		force := wish(d, "film.force", "pad", "front", "N")
		out, in := wish(d, "film.leaves", "pad", "right", "mL/s"), wish(d, "film.leaves", "pad", "left", "mL/s")
		least, filled := wish(d, "formula", "", "", "kPa", "formula", "least(film_pressure over pad.front)"), wish(d, "formula", "", "", "1", "formula", "least(film_filled over pad.front)")
		most := wish(d, "formula", "", "", "MPa", "formula", "greatest(film_pressure over pad.front)")
		d.Enumerate()
		o := settle(t, d)
		// By integration: dp/dx = 6µU(h − h*)/h³ up to where h* = h and p = 0.
		h := func(a float64) float64 { return clearance * (1 + eccentric*math.Cos(a)) }
		end := func(at float64) (p, peak, sum float64) {
			const n = 20000
			for i := range n {
				a := (float64(i) + 0.5) / n * at
				step := 6 * mu * speed * (h(a) - h(at)) / math.Pow(h(a), 3) * radius * at / n
				p += step
				peak, sum = max(peak, p), sum+(p-step/2)*radius*at/n
			}
			return p, peak, sum
		}
		lo, hi := math.Pi, 1.9*math.Pi
		for range 60 {
			if p, _, _ := end((lo + hi) / 2); p > 0 {
				lo = (lo + hi) / 2
			} else {
				hi = (lo + hi) / 2
			}
		}
		_, peak, sum := end(lo)
		forces = append(forces, value(t, o, force)/sum-1)
		assert.InEpsilon(t, peak, value(t, o, most), 2e-3)
		assert.InEpsilon(t, speed/2*h(lo), -value(t, o, in), 2e-3)
		assert.InEpsilon(t, -value(t, o, in), value(t, o, out), 1e-6)
		assert.InDelta(t, 0, value(t, o, least), 1e-6*peak)
		assert.InEpsilon(t, h(lo)/(clearance*(1+eccentric)), value(t, o, filled), 3e-2)
	}
	assert.InDelta(t, 0, forces[0], 2e-3)
	assert.InDelta(t, 0, forces[1], 2e-4)
}

// TestSqueezedDiscs: a film between round discs that come nearer bears 3πηR⁴V/(2h³).
func TestSqueezedDiscs(t *testing.T) {
	d := magnetic(model.Axial, "1 mm")
	d.Space.Depth = ""
	d.Parts = []model.Part{{ID: "disc", Name: "disc", Material: "steel 316", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "30 mm", Depth: "8 mm"}, Place: model.Place{X: "15 mm", Y: "4 mm"}}}
	condition(d, "film.lies", "disc", "front", "thickness", "0.1 mm", "viscosity", "2 Pa·s")
	condition(d, "film.closes", "disc", "front", "speed", "0.2 mm/s")
	force := wish(d, "film.force", "disc", "front", "N")
	d.Enumerate()
	o := settle(t, d)
	assert.InEpsilon(t, 3*math.Pi*2*math.Pow(0.03, 4)*2e-4/(2*1e-12), value(t, o, force), 5e-4)
	for _, b := range o.Balances {
		assert.InEpsilon(t, math.Pi*0.03*0.03*2e-4, b.In, 1e-9)
	}
}

// TestFilmFormsAgain where the gap narrows again, with all the liquid that was let in: the force of both parts is that of the integrals.
func TestFilmFormsAgain(t *testing.T) {
	const radius, mu, speed, n = 0.02, 0.03, 5.0, 40000
	h := func(a float64) float64 { return 40e-6 * (1 + 0.6*math.Cos(a-math.Pi-0.5)) }
	d := pad((2*math.Pi+0.5)*radius*1e3, "0.25 mm", "40 µm*(1 + 0.6*cos(x/20 mm - 3.641592653589793))", "0.03 Pa·s")
	condition(d, "film.facing", "pad", "front", "x", "5 m/s")
	force, out := wish(d, "film.force", "pad", "front", "N"), wish(d, "film.leaves", "pad", "right", "mL/s")
	d.Enumerate()
	o := settle(t, d)
	bears := func(from, to, flow float64) (p, sum float64) {
		for i := range n {
			a := from + (float64(i)+0.5)/n*(to-from)
			step := 12 * mu / math.Pow(h(a), 3) * (h(a)*speed/2 - flow) * radius * (to - from) / n
			p += step
			sum += (p - step/2) * radius * (to - from) / n
		}
		return p, sum
	}
	bisect := func(lo, hi float64, more func(x float64) bool) float64 {
		for range 60 {
			if x := (lo + hi) / 2; more(x) {
				lo = x
			} else {
				hi = x
			}
		}
		return lo
	}
	ends := bisect(0.5, 2, func(x float64) bool { p, _ := bears(0, x, h(x)*speed/2); return p > 0 })
	flow := h(ends) * speed / 2
	begins := bisect(3.7, 2*math.Pi+0.49, func(x float64) bool { p, _ := bears(x, 2*math.Pi+0.5, flow); return p > 0 })
	_, first := bears(0, ends, flow)
	_, second := bears(begins, 2*math.Pi+0.5, flow)
	assert.InEpsilon(t, flow, value(t, o, out), 1e-4)
	assert.InEpsilon(t, first+second, value(t, o, force), 1e-3)
	assert.Greater(t, second, 0.01*first)
}

// TestFilmBearsALoad: it is lifted, and tilts, until it bears what it has to where it has to; where it cannot, the run says so.
func TestFilmBearsALoad(t *testing.T) {
	d := pad(100, "1 mm", "80 µm*(1 + 0.6*(1 - x/100 mm))", "0.05 Pa·s")
	condition(d, "film.facing", "pad", "front", "x", "3 m/s")
	k := 1.2
	bears := 6 * 0.05 * 3 * 0.01 / (25e-10 * k * k) * (math.Log(2.2) - 2*k/(2+k))
	condition(d, "film.bears", "pad", "front", "force", fmt.Sprintf("%.9g N", bears))
	condition(d, "film.tilts", "pad", "front", "x", "57.79241 mm", "y", "0 mm")
	thin, thick := wish(d, "formula", "", "", "µm", "formula", "least(film_thickness over pad.front)"), wish(d, "formula", "", "", "µm", "formula", "greatest(film_thickness over pad.front)")
	force := wish(d, "film.force", "pad", "front", "N")
	d.Enumerate()
	o := settle(t, d)
	assert.InEpsilon(t, 50e-6, value(t, o, thin), 2e-3)
	assert.InEpsilon(t, 110e-6, value(t, o, thick), 1e-3)
	assert.InEpsilon(t, bears, value(t, o, force), 1e-7)
}

// TestFilmOnWhatBends: the film pushes a pad of rubber that gives way as the pressure says, and is as much thicker; each of them by itself leaves the
// other out.
func TestFilmOnWhatBends(t *testing.T) {
	force, up, gap := map[string]float64{}, map[string]float64{}, map[string]float64{}
	for _, way := range []string{"neither", "pushes", "yields", "both"} {
		d := pad(100, "2.5 mm", "50 µm*(1 + 1.2*(1 - x/100 mm))", "0.05 Pa·s")
		d.Parts[0].Material = "polyacetal"
		condition(d, "film.facing", "pad", "front", "x", "3 m/s")
		condition(d, "solid.bends", "pad", "")
		condition(d, "solid.fixed", "pad", "back")
		if way == "pushes" || way == "both" {
			condition(d, "film.pushes", "pad", "front")
		}
		if way == "yields" || way == "both" {
			condition(d, "film.yields", "pad", "front")
		}
		bears, moved := wish(d, "film.force", "pad", "front", "N"), wish(d, "formula", "", "", "nm", "formula", "mean(displacement_y over pad.front)")
		thicker := wish(d, "formula", "", "", "nm", "formula", "mean(film_thickness over pad.front) - 80 µm")
		d.Enumerate()
		o := settle(t, d)
		force[way], up[way], gap[way] = value(t, o, bears), value(t, o, moved), value(t, o, thicker)
	}
	assert.InEpsilon(t, force["neither"], force["pushes"], 1e-12)
	assert.InEpsilon(t, force["neither"], force["yields"], 1e-12)
	assert.Zero(t, up["yields"])
	assert.InDelta(t, 0, gap["pushes"], 1e-12)
	assert.InEpsilon(t, up["both"], gap["both"], 1e-6)
	assert.Greater(t, up["both"], 1e-6)
	assert.Less(t, force["both"], 0.97*force["neither"])
	assert.InEpsilon(t, up["pushes"]/force["pushes"], up["both"]/force["both"], 0.05)
}

// TestFilmWarmsWhatItLiesOn: all that its friction turns into heat leaves at the back of the pad, which is as much warmer at its face as it conducts;
// with a viscosity that falls with the temperature both are found together.
func TestFilmWarmsWhatItLiesOn(t *testing.T) {
	for _, falls := range []bool{false, true} {
		viscosity := "0.05 Pa·s"
		if falls {
			viscosity += "*exp(-0.03/K*(temperature - 293.15 K))"
		}
		d := pad(100, "2.5 mm", "20 µm", viscosity)
		d.Physics = []model.Physics{{Kind: "heat"}}
		condition(d, "film.facing", "pad", "front", "x", "3 m/s")
		condition(d, "film.warms", "pad", "front", "part", "100 %")
		condition(d, "heat.held", "pad", "back", "temperature", "20 °C")
		warm, through := wish(d, "formula", "", "", "K", "formula", "mean(temperature over pad.front) - 293.15 K"), wish(d, "heat.through", "pad", "back", "W")
		drag := wish(d, "film.resist", "pad", "front", "N")
		d.Enumerate()
		o := settle(t, d)
		assert.InEpsilon(t, 3*value(t, o, drag), value(t, o, through), 1e-6, "the walls slide by each other with 3 m/s")
		if mu := 0.05; falls {
			assert.Less(t, value(t, o, drag), 0.97*mu*3/20e-6*0.1)
		} else {
			assert.InEpsilon(t, mu*3/20e-6*0.1, value(t, o, drag), 1e-9)
		}
		assert.Greater(t, value(t, o, warm), 1.)
	}
}

// TestFilmByAnEquationOfItsOwn: a square pad in space bears the same by the built-in film and by the equation of it written on the surface.
func TestFilmByAnEquationOfItsOwn(t *testing.T) {
	d := magnetic(model.Solid, "10 mm")
	d.Space.Depth = ""
	d.Parts = []model.Part{{ID: "pad", Name: "pad", Material: "steel 316", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "100 mm", Depth: "100 mm"}, Span: model.Span{From: "0 mm", To: "20 mm"}}}
	d.Parameters = []model.Parameter{{Name: "gap", Value: "50 µm*(1.5 - x/100 mm)"}, {Name: "mu", Value: "0.05 Pa·s"}, {Name: "speed", Value: "3 m/s"}}
	condition(d, "film.lies", "pad", "bottom", "thickness", "gap", "viscosity", "mu")
	condition(d, "film.whole", "pad", "bottom")
	condition(d, "film.facing", "pad", "bottom", "x", "speed")
	condition(d, "own.along", "pad", "bottom", "unknown", "push", "unit", "Pa", "spread", "gap^3/(12*mu)")
	condition(d, "own.besides", "pad", "bottom", "unknown", "push", "x", "gap*speed/2")
	condition(d, "own.edges", "pad", "bottom", "unknown", "push", "value", "0 Pa")
	built, own := wish(d, "film.force", "pad", "bottom", "N"), wish(d, "formula", "", "", "N", "formula", "total(push over pad.bottom)")
	d.Enumerate()
	o := settle(t, d)
	assert.InEpsilon(t, value(t, o, built), value(t, o, own), 1e-8)
	assert.InEpsilon(t, 0.0689*0.05*3*0.1*0.1*0.1/25e-10, value(t, o, own), 2e-2)
}

// TestFilmPressedOutInTime by walls that come nearer as is said, and by a load, under which a disc sinks as 1/h² − 1/h₀² = 4Wt/(3πηR⁴).
func TestFilmPressedOutInTime(t *testing.T) {
	for _, loaded := range []bool{false, true} {
		d := magnetic(model.Axial, "1 mm")
		d.Space.Depth = ""
		d.Parts = []model.Part{{ID: "disc", Name: "disc", Material: "steel 316", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "30 mm", Depth: "8 mm"}, Place: model.Place{X: "15 mm", Y: "4 mm"}}}
		thickness := "0.1 mm - 0.1 mm/s*time"
		if loaded {
			thickness = "0.1 mm"
			condition(d, "film.bears", "disc", "front", "force", "500 N")
		}
		condition(d, "film.lies", "disc", "front", "thickness", thickness, "viscosity", "2 Pa·s")
		d.Run = model.Run{Kind: model.Transient, End: "0.5 s"}
		force, thin := wish(d, "film.force", "disc", "front", "N"), wish(d, "formula", "", "", "µm", "formula", "mean(film_thickness over disc.front)")
		d.Enumerate()
		o := settle(t, d)
		four := math.Pow(0.03, 4)
		if loaded {
			assert.InEpsilon(t, 1/math.Sqrt(1e8+4*500*0.5/(3*math.Pi*2*four)), value(t, o, thin), 1e-3)
			assert.InEpsilon(t, 500, value(t, o, force), 1e-6)
		} else {
			assert.InEpsilon(t, 3*math.Pi*2*four*1e-4/(2*math.Pow(0.5e-4, 3)), value(t, o, force), 1e-3)
		}
	}
}

// TestWrongFilms are refused with what would mend them.
func TestWrongFilms(t *testing.T) {
	for words, change := range map[string]func(d *model.Document){
		"two films lie on the pad": func(d *model.Document) {
			condition(d, "film.lies", "pad", "left", "thickness", "1 µm", "viscosity", "1 Pa·s")
		},
		"say what load the film bears": func(d *model.Document) { condition(d, "film.tilts", "pad", "front", "x", "1 mm", "y", "0 mm") },
		"the same all round does not tilt": func(d *model.Document) {
			d.Space = model.Space{Kind: model.Axial, Unit: "mm"}
			condition(d, "film.bears", "pad", "front", "force", "3 N")
			condition(d, "film.tilts", "pad", "front", "x", "1 mm", "y", "0 mm")
		},
		"nothing says that it does":       func(d *model.Document) { condition(d, "film.pushes", "pad", "front") },
		"no film lies on the":             func(d *model.Document) { condition(d, "film.whole", "pad", "back") },
		"films have no modes":             func(d *model.Document) { d.Run = model.Run{Kind: model.Modes, Count: "2"} },
		"thickness of the film becomes -": func(d *model.Document) { d.Conditions[0].Values["thickness"] = "10 µm - 10 µm*x/50 mm" },
	} {
		d := pad(100, "10 mm", "50 µm", "0.05 Pa·s")
		condition(d, "film.facing", "pad", "front", "x", "3 m/s")
		change(d)
		o, err := Run(t.Context(), d, Options{Now: time.Now})
		if err == nil {
			err = errors.New(o.Reason)
		}
		assert.ErrorContains(t, err, words)
	}
}

// TestFilmThatIsFed: what flows in at an edge, of a section or in space, drives the film by Hagen's law and leaves at the other one.
func TestFilmThatIsFed(t *testing.T) {
	const long, thin, mu, flow = 0.1, 50e-6, 0.05, 2e-6 // m²/s
	for _, solid := range []bool{false, true} {
		d := pad(100, "10 mm", "50 µm", "0.05 Pa·s")
		side, wide := "front", 1.0
		if solid {
			d.Space, side, wide = model.Space{Kind: model.Solid, Unit: "mm"}, "bottom", 0.04
			d.Parts[0].Outline.Depth, d.Parts[0].Span = "40 mm", model.Span{From: "0 mm", To: "10 mm"}
			d.Conditions[0].On.Side = side
			condition(d, "film.sealed", "pad", "front")
			condition(d, "film.sealed", "pad", "back")
		}
		condition(d, "film.whole", "pad", side)
		condition(d, "film.fed", "pad", "left", "flow", "2 mm²/s")
		out := wish(d, "film.leaves", "pad", "right", "m³/s")
		most := wish(d, "formula", "", "", "Pa", "formula", "greatest(film_pressure over pad."+side+")")
		d.Enumerate()
		o := settle(t, d)
		assert.InEpsilon(t, flow*wide, value(t, o, out), 1e-9)
		assert.InEpsilon(t, 12*mu*flow*long/(thin*thin*thin), value(t, o, most), 1e-6)
		for _, b := range o.Balances {
			if b.Name == "volume of films" {
				assert.InEpsilon(t, flow*wide, b.In, 1e-9)
				assert.Less(t, b.Closure, 1e-9)
			}
		}
	}
}
