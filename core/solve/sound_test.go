package solve

import (
	"fmt"
	"math"
	"math/cmplx"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
)

// Of the gas in these tests: its density, kg/m³, and its speed of sound, m/s.
const gasDensity, gasSpeed = 1.2, 340.0

// sounding is a section with parts of a gas in which there is sound.
func sounding(kind, size string, parts ...model.Part) *model.Document {
	d := model.New("sound")
	d.Space = model.Space{Kind: kind, Unit: "mm"}
	if kind == model.Plane {
		d.Space.Depth = "100 mm"
	}
	d.Physics = nil
	d.Materials = append(d.Materials, material.Material{Name: "gas", Family: "gas", Properties: map[material.Key]material.Property{
		material.Density: {Value: "1.2 kg/m³"}, material.SoundSpeed: {Value: "340 m/s"}, material.Viscosity: {Value: "1.8e-5 Pa·s"}, material.Conductivity: {Value: "0.026 W/(m·K)"},
		material.HeatCapacity: {Value: "1005 J/(kg·K)"}, material.HeatCapacityRatio: {Value: "1.4"}}})
	d.Parts = parts
	d.Mesh = model.Mesh{Size: size, Across: "2", Order: "2"}
	for i, p := range parts {
		d.Conditions = append(d.Conditions, model.Sentence{ID: fmt.Sprintf("f%d", i), Kind: "acoustic.fills", On: model.Patch{Part: p.ID}})
	}
	return d
}

// condition adds a condition.
func condition(d *model.Document, kind, part, side string, values ...string) {
	s := model.Sentence{ID: fmt.Sprintf("s%d", len(d.Conditions)), Kind: kind, On: model.Patch{Part: part, Side: side}, Values: map[string]string{}}
	for i := 0; i+1 < len(values); i += 2 {
		s.Values[values[i]] = values[i+1]
	}
	d.Conditions = append(d.Conditions, s)
}

// wish adds a reading and returns its key.
func wish(d *model.Document, kind, part, side, unit string, values ...string) string {
	s := model.Sentence{ID: fmt.Sprintf("r%d", len(d.Readings)+1), Kind: kind, On: model.Patch{Part: part, Side: side}, Unit: unit, Values: map[string]string{}}
	for i := 0; i+1 < len(values); i += 2 {
		s.Values[values[i]] = values[i+1]
	}
	d.Readings = append(d.Readings, s)
	return s.ID
}

// over lets a run find the response at frequencies.
func over(d *model.Document, lowest, highest float64, count int) {
	d.Run = model.Run{Kind: model.Response, Lowest: fmt.Sprintf("%g Hz", lowest), Highest: fmt.Sprintf("%g Hz", highest), Count: fmt.Sprint(count)}
}

// TestModesOfABox: the tones of closed boxes of gas are those of cosines, of an open tube those of a quarter of a wave.
func TestModesOfABox(t *testing.T) {
	d := sounding(model.Plane, "60 mm", box("room", "gas", 0, 0, 500, 300))
	d.Run = model.Run{Kind: model.Modes, Count: "6"}
	d.Enumerate()
	o := settle(t, d)
	var want []float64
	for _, n := range [][2]float64{{0, 0}, {1, 0}, {0, 1}, {1, 1}, {2, 0}, {2, 1}} {
		want = append(want, gasSpeed/2*math.Hypot(n[0]/0.5, n[1]/0.3))
	}
	require.Len(t, o.Modes, 6)
	for i, m := range o.Modes {
		assert.InDelta(t, want[i], m.Frequency, 5e-4*want[5])
	}
}

// TestModesDieAway by a resistance at the end of a tube, and with a block that has a loss factor at the end of one, as exact solutions say.
func TestModesDieAway(t *testing.T) {
	const times = 40.
	d := sounding(model.Plane, "50 mm", box("tube", "gas", 0, 0, 500, 50))
	condition(d, "acoustic.impedance", "tube", "right", "resistance", fmt.Sprintf("%g Pa·s/m", times*gasDensity*gasSpeed))
	d.Run = model.Run{Kind: model.Modes, Count: "3"}
	second := wish(d, "body.damping", "", "", "1", "number", "2")
	d.Enumerate()
	o := settle(t, d)
	assert.Equal(t, o.Modes[1].Dies, value(t, o, second))
	for n := 1; n < 3; n++ { // tan(kL) = i·ρc/Z
		assert.InEpsilon(t, math.Atanh(1/times)/(float64(n)*math.Pi), o.Modes[n].Dies, 2e-3)
	}
	d = piston(model.Plane)
	condition(d, "acoustic.impedance", "tube", "left", "resistance", fmt.Sprintf("%g Pa·s/m", times*gasDensity*gasSpeed))
	d.Run = model.Run{Kind: model.Modes, Count: "3"}
	d.Enumerate()
	o = settle(t, d)
	// With p = cos(kx + φ), tan φ = −i·ρc/Z; the piston at L as in TestAPistonClosesATube, for complex frequencies by Newton's method.
	left := func(w complex128) complex128 {
		k := w / gasSpeed
		turn := cmplx.Atan(complex(0, -1/times))
		return (0.012*w*w-400)*cmplx.Sin(k*0.5+turn) - gasDensity*gasSpeed*0.005*w*cmplx.Cos(k*0.5+turn)
	}
	for _, m := range o.Modes[1:] {
		w := complex(2*math.Pi*m.Frequency, 0)
		for range 20 {
			w -= left(w) * 1e-3 / (left(w+1e-3) - left(w))
		}
		assert.InEpsilon(t, math.Abs(imag(w))/real(w), m.Dies, 2e-2)
	}
}

// TestLiningsAndAbsorbers: a lining, and a part that is filled with the same absorber before a hard wall, take up what the law says.
func TestLiningsAndAbsorbers(t *testing.T) {
	const sigma, deep = 2e4, 0.05
	want := func(f float64) float64 {
		x := f / sigma
		z := complex(1+0.070*math.Pow(x, -0.632), -0.107*math.Pow(x, -0.632))
		k := complex(1+0.109*math.Pow(x, -0.618), -0.160*math.Pow(x, -0.618)) * complex(2*math.Pi*f/gasSpeed, 0)
		seen := z / (1i * cmplx.Tan(k*complex(deep, 0)))
		back := cmplx.Abs((seen - 1) / (seen + 1))
		return 1 - back*back
	}
	for _, filled := range []bool{false, true} {
		d := sounding(model.Plane, "25 mm", box("duct", "gas", 0, 0, 200, 50))
		if filled {
			d = sounding(model.Plane, "25 mm", box("duct", "gas", 0, 0, 200, 50), box("wool", "gas", 200, 0, 200+1e3*deep, 50))
			condition(d, "acoustic.absorbs", "wool", "", "resistivity", "2e4 Pa·s/m²")
		} else {
			condition(d, "acoustic.lined", "duct", "right", "resistivity", "2e4 Pa·s/m²", "depth", "50 mm")
		}
		condition(d, "acoustic.duct", "duct", "left", "pressure", "1 Pa*swing")
		over(d, 250, 2000, 10)
		taken := wish(d, "acoustic.taken", "duct", "right", "1")
		d.Enumerate()
		o := settle(t, d)
		for i, f := range o.History.Times {
			assert.InDelta(t, want(f), o.History.Readings[taken][i], 1e-3, "%g Hz, filled: %v", f, filled)
		}
	}
}

// TestABallThatPulses sends out what the series says, through a round side from which waves leave, and into a frame round a box.
func TestABallThatPulses(t *testing.T) {
	ball := model.Part{ID: "space", Name: "space", Material: "gas", Role: model.Solved}
	ring := func(radius float64, up bool) (list []model.Point) {
		for i := range 25 {
			turn := math.Pi * (float64(i)/24 - 0.5)
			if !up {
				turn = -turn
			}
			list = append(list, model.Point{X: fmt.Sprintf("%.10g mm", radius*math.Cos(turn)), Y: fmt.Sprintf("%.10g mm", radius*math.Sin(turn))})
		}
		return list
	}
	const a = 0.1
	for _, framed := range []bool{false, true} {
		p := ball
		p.Outline = model.Outline{Kind: "path", Points: append(ring(400, true), ring(1e3*a, false)...)}
		side := "e26"
		d := sounding(model.Axial, "40 mm", p)
		if framed {
			p.Outline = model.Outline{Kind: "path", Points: append([]model.Point{{X: "0 mm", Y: "-300 mm"}, {X: "300 mm", Y: "-300 mm"}, {X: "300 mm", Y: "300 mm"}, {X: "0 mm", Y: "300 mm"}}, ring(1e3*a, false)...)}
			frame := p
			frame.ID, frame.Name, frame.Outline.Points = "frame", "frame", nil
			for _, at := range [][2]int{{0, -450}, {450, -450}, {450, 450}, {0, 450}, {0, 300}, {300, 300}, {300, -300}, {0, -300}} {
				frame.Outline.Points = append(frame.Outline.Points, model.Point{X: fmt.Sprintf("%d mm", at[0]), Y: fmt.Sprintf("%d mm", at[1])})
			}
			d = sounding(model.Axial, "40 mm", frame, p)
			condition(d, "acoustic.shell", "frame", "")
			side = "e5"
		} else {
			condition(d, "acoustic.leaves", "space", "e1")
		}
		first := 1
		fmt.Sscanf(side, "e%d", &first)
		for i := range 24 {
			if !framed && i > 0 {
				condition(d, "acoustic.leaves", "space", fmt.Sprintf("e%d", 1+i))
			}
			condition(d, "acoustic.moves", "space", fmt.Sprintf("e%d", first+i), "speed", "0.01 m/s*swing")
		}
		over(d, 150, 900, 6)
		mean := wish(d, "acoustic.mean", "space", side, "Pa")
		d.Enumerate()
		o := settle(t, d)
		for i, f := range o.History.Times {
			ka := 2 * math.Pi * f / gasSpeed * a
			want := gasDensity * gasSpeed * 0.01 * ka / math.Hypot(1, ka) / math.Sqrt2
			assert.InEpsilon(t, want, o.History.Readings[mean][i], 0.012, "%g Hz, framed: %v", f, framed)
		}
	}
}

// piston is a block on springs of 400 N/m and 12 g that closes a tube of gas, which it moves along.
func piston(kind string) *model.Document {
	d := sounding(kind, "50 mm", box("tube", "gas", 0, 0, 500, 50), box("block", "stiff", 500, 0, 520, 50))
	d.Conditions = d.Conditions[:1]
	d.Materials = append(d.Materials, material.Material{Name: "stiff", Family: "metal", Properties: map[material.Key]material.Property{
		material.Density: {Value: "120 kg/m³"}, material.YoungsModulus: {Value: "1e9 Pa"}, material.PoissonRatio: {Value: "0"}}})
	condition(d, "solid.bends", "block", "")
	condition(d, "solid.springs", "block", "right", "x", "400 N/m")
	for _, side := range []string{"front", "back"} {
		condition(d, "solid.slides", "block", side)
	}
	return d
}

// TestAPistonClosesATube: the tones of both together are those of tan(kL)·(m·ω² − s) = ρ·c·ω·S, and the response to a push on the piston, by an exact
// solution, takes as much in as the end of the tube lets out.
func TestAPistonClosesATube(t *testing.T) {
	const long, area, mass, springs = 0.5, 0.05 * 0.1, 0.02 * 0.05 * 0.1 * 120, 400.
	d := piston(model.Plane)
	d.Run = model.Run{Kind: model.Modes, Count: "5"}
	d.Enumerate()
	o := settle(t, d)
	// ρcωS·cos(kL) = (s − mω²)·... : the pressure at the piston is ρcω·cot(kL) times how far it is out.
	left := func(f float64) float64 {
		w := 2 * math.Pi * f
		k := w / gasSpeed
		return (mass*w*w-springs)*math.Sin(k*long) - gasDensity*gasSpeed*w*area*math.Cos(k*long)
	}
	var want []float64
	for f := 1.; len(want) < 4; f += 0.5 {
		if lo, hi := f, f+0.5; left(lo)*left(hi) < 0 {
			for range 60 {
				if mid := (lo + hi) / 2; left(lo)*left(mid) <= 0 {
					hi = mid
				} else {
					lo = mid
				}
			}
			want = append(want, lo)
		}
	}
	require.Len(t, o.Modes, 5)
	assert.InDelta(t, 0, o.Modes[0].Frequency, 1e-2*want[0], "at rest the pressure may be anything")
	for i, f := range want {
		m := o.Modes[i+1]
		assert.InEpsilon(t, f, m.Frequency, 1e-3)
		assert.InDelta(t, 1, m.Shares["displacement"]+m.Shares["sound_pressure"], 1e-9)
	}
	assert.Greater(t, o.Modes[2].Shares["sound_pressure"], 0.9, "half a wave in the tube")

	d = piston(model.Plane)
	condition(d, "acoustic.duct", "tube", "left")
	condition(d, "solid.force", "block", "right", "x", "-1 N*swing")
	over(d, 20, 400, 20)
	out := wish(d, "acoustic.power", "tube", "left", "W")
	into := wish(d, "acoustic.power", "tube", "right", "W")
	d.Enumerate()
	o = settle(t, d)
	for i, f := range o.History.Times {
		w := 2 * math.Pi * f
		// The duct is a resistance of ρ·c·S to the piston.
		speed := cmplx.Abs(1 / complex(gasDensity*gasSpeed*area, w*mass-springs/w))
		assert.InEpsilon(t, gasDensity*gasSpeed*area*speed*speed/2, o.History.Readings[out][i], 2e-3, "%g Hz", f)
		assert.InEpsilon(t, -o.History.Readings[into][i], o.History.Readings[out][i], 1e-6)
	}
}

// TestSoundInTime: a pulse that is given at one end of a tube runs along it, comes to a wall that takes it up and does not come back; what a hard wall
// turns back stands twice as high before it.
func TestSoundInTime(t *testing.T) {
	const when = 1e-3 // s, the middle of the pulse
	pulse := func(time float64) float64 { return math.Exp(-math.Pow((time-when)/2.5e-4, 2)) }
	for _, hard := range []bool{false, true} {
		d := sounding(model.Plane, "15 mm", box("tube", "gas", 0, 0, 500, 20))
		d.Run = model.Run{Kind: model.Transient, End: "2.4 ms", Tolerance: "0.01 %"}
		condition(d, "acoustic.pressure", "tube", "left", "pressure", "1 Pa*exp(-((time - 1 ms)/0.25 ms)^2)")
		if !hard {
			condition(d, "acoustic.impedance", "tube", "right", "resistance", "408 Pa·s/m")
		}
		half := wish(d, "formula", "", "", "", "formula", "at(sound_pressure, 250 mm, 10 mm, 0 mm)")
		end := wish(d, "formula", "", "", "", "formula", "at(sound_pressure, 500 mm, 10 mm, 0 mm)")
		d.Enumerate()
		o := settle(t, d)
		factor := 1.
		if hard {
			factor = 2
		}
		for i, time := range o.History.Times {
			assert.InDelta(t, factor*pulse(time-0.5/gasSpeed), o.History.Readings[end][i], 0.02*factor, "%g s", time)
			if !hard {
				assert.InDelta(t, pulse(time-0.25/gasSpeed), o.History.Readings[half][i], 0.02, "%g s", time)
			}
		}
	}
}

// TestWhatIsWrongWithSound is said, with what mends it.
func TestWhatIsWrongWithSound(t *testing.T) {
	says := func(words string, change func(d *model.Document)) {
		t.Helper()
		d := sounding(model.Plane, "50 mm", box("duct", "gas", 0, 0, 500, 100))
		condition(d, "acoustic.duct", "duct", "left", "pressure", "2 Pa*swing")
		over(d, 100, 1000, 3)
		change(d)
		d.Enumerate()
		_, err := Run(t.Context(), d, Options{})
		assert.ErrorContains(t, err, words)
	}
	says("nothing swings", func(d *model.Document) { d.Conditions[1].Values["pressure"] = "2 Pa" })
	says("in a steady run nothing does", func(d *model.Document) { d.Run = model.Run{} })
	says("modes are what swings by itself", func(d *model.Document) { d.Run = model.Run{Kind: model.Modes} })
	says("acts at frequencies alone", func(d *model.Document) {
		d.Run = model.Run{Kind: model.Modes}
		d.Conditions = d.Conditions[:1]
		condition(d, "acoustic.impedance", "duct", "right", "resistance", "400 Pa·s/m", "reactance", "30 Pa·s/m")
	})
	says("would give sound away", func(d *model.Document) {
		condition(d, "acoustic.impedance", "duct", "right", "resistance", "300 Pa·s/m - 1 Pa·s²/m*swing_frequency")
	})
	says("takes up nothing", func(d *model.Document) {
		condition(d, "acoustic.impedance", "duct", "right", "resistance", "0 Pa·s/m")
	})
	says("both say what becomes of the sound", func(d *model.Document) {
		condition(d, "acoustic.absorbs", "duct", "", "resistivity", "2e4 Pa·s/m²")
		condition(d, "acoustic.gap", "duct", "", "width", "1 mm")
	})
	says("there is no sound", func(d *model.Document) {
		d.Parts = append(d.Parts, box("other", "gas", 500, 0, 600, 100))
		condition(d, "acoustic.soft", "other", "right")
	})
	// In time what bends beside sound needs inertia.
	d := piston(model.Plane)
	d.Run = model.Run{Kind: model.Transient, End: "1 ms"}
	d.Enumerate()
	_, err := Run(t.Context(), d, Options{})
	assert.ErrorContains(t, err, "has no inertia")
}

// TestWhatDrivesSoundInTime: a wall that moves, and a wave that comes in by a duct, send a pulse of ρ·c times the speed, or of their pressure, along a tube
// that takes it up at its end.
func TestWhatDrivesSoundInTime(t *testing.T) {
	pulse := func(time float64) float64 { return math.Exp(-math.Pow((time-1e-3)/2.5e-4, 2)) }
	for _, wall := range []bool{false, true} {
		d := sounding(model.Plane, "15 mm", box("tube", "gas", 0, 0, 500, 20))
		d.Run = model.Run{Kind: model.Transient, End: "3 ms", Tolerance: "0.01 %"}
		const want = gasDensity * gasSpeed * 0.01
		if wall {
			condition(d, "acoustic.moves", "tube", "left", "speed", "0.01 m/s*exp(-((time - 1 ms)/0.25 ms)^2)")
			condition(d, "acoustic.impedance", "tube", "right", "resistance", "408 Pa·s/m")
		} else {
			condition(d, "acoustic.duct", "tube", "left", "pressure", "4.08 Pa*exp(-((time - 1 ms)/0.25 ms)^2)")
			condition(d, "acoustic.duct", "tube", "right")
		}
		half := wish(d, "formula", "", "", "", "formula", "at(sound_pressure, 250 mm, 10 mm, 0 mm)")
		d.Enumerate()
		o := settle(t, d)
		for i, time := range o.History.Times {
			assert.InDelta(t, want*pulse(time-0.25/gasSpeed), o.History.Readings[half][i], 0.02*want, "%g s, wall: %v", time, wall)
		}
	}
}

// TestABasinThatSloshes under its weight has the tone of a wave on deep water, as good as still for sound.
func TestABasinThatSloshes(t *testing.T) {
	d := sounding(model.Plane, "100 mm", box("basin", "gas", 0, 0, 1000, 500))
	d.Materials[0].Properties[material.Density], d.Materials[0].Properties[material.SoundSpeed] = material.Property{Value: "1000 kg/m³"}, material.Property{Value: "1500 m/s"}
	condition(d, "acoustic.free", "basin", "back", "gravity", "9.81 m/s²")
	d.Run = model.Run{Kind: model.Modes, Count: "4"}
	d.Enumerate()
	o := settle(t, d)
	for n := 1; n < 4; n++ {
		k := float64(n) * math.Pi
		assert.InEpsilon(t, math.Sqrt(9.81*k*math.Tanh(k*0.5))/(2*math.Pi), o.Modes[n].Frequency, 2e-3)
	}
}

// TestANarrowGapTakesSoundUp as far as waves in it die away before its closed end.
func TestANarrowGapTakesSoundUp(t *testing.T) {
	const deep, width = 0.2, 0.2e-3
	for _, round := range []bool{false, true} {
		d := sounding(model.Plane, "20 mm", box("duct", "gas", 0, 0, 200, 50), box("slots", "gas", 200, 0, 200+1e3*deep, 50))
		kind := "acoustic.gap"
		if round {
			kind = "acoustic.pipe"
		}
		condition(d, kind, "slots", "", "width", "0.2 mm")
		condition(d, "acoustic.duct", "duct", "left", "pressure", "1 Pa*swing")
		over(d, 100, 1000, 5)
		taken := wish(d, "acoustic.taken", "duct", "right", "1")
		d.Enumerate()
		o := settle(t, d)
		for i, f := range o.History.Times {
			omega := 2 * math.Pi * f
			free := func(prandtl float64) complex128 {
				s := complex(width/2, 0) * cmplx.Sqrt(complex(0, omega*gasDensity*prandtl/1.8e-5))
				if !round {
					return 1 - cmplx.Tanh(s)/s
				}
				j0, j1, term := complex(0, 0), complex(0, 0), complex(1, 0) // series of I₀ and I₁
				for k := range 60 {
					j0, j1 = j0+term, j1+term*s/complex(2*float64(k+1), 0)
					term *= s * s / complex(4*float64((k+1)*(k+1)), 0)
				}
				return 1 - 2*j1/(s*j0)
			}
			density := gasDensity / free(1)
			stiff := gasDensity * gasSpeed * gasSpeed / (1.4 - 0.4*free(1.8e-5*1005/0.026))
			z := cmplx.Sqrt(density * stiff)
			z /= 1i * cmplx.Tan(complex(omega*deep, 0)*cmplx.Sqrt(density/stiff))
			back := cmplx.Abs((z - gasDensity*gasSpeed) / (z + gasDensity*gasSpeed))
			assert.InDelta(t, 1-back*back, o.History.Readings[taken][i], 2e-3, "%g Hz, round: %v", f, round)
		}
	}
}

// TestVolumeThatComesAndGoes in all parts of a sentence together, slowly, raises the pressure of a closed room alike everywhere: ρc²·Q/(ωV).
func TestVolumeThatComesAndGoes(t *testing.T) {
	d := sounding(model.Plane, "100 mm", box("left", "gas", 0, 0, 100, 200), box("right", "gas", 100, 0, 400, 200))
	condition(d, "acoustic.arises", "left", "", "flow", "1e-4 m³/s*swing")
	d.Conditions[2].On.Part = model.AllParts
	over(d, 5, 5, 1)
	mean := wish(d, "acoustic.mean", "right", "", "Pa")
	d.Enumerate()
	assert.InEpsilon(t, gasDensity*gasSpeed*gasSpeed*1e-4/(2*math.Pi*5*0.4*0.2*0.1)/math.Sqrt2, value(t, settle(t, d), mean), 1e-3)
}

// TestSoundFarAway: a ball that goes to and fro along an axis, by what passes a surface around it, sends what the series of a dipole says, and nothing
// to its sides; a quarter of one that swells and shrinks in space, with its images, what that of a pole does.
func TestSoundFarAway(t *testing.T) {
	const a, hertz = 0.1, 500.0
	ka := 2 * math.Pi * hertz / gasSpeed * a
	space := model.Part{ID: "space", Name: "space", Material: "gas", Role: model.Solved, Outline: model.Outline{Kind: "path", Points: []model.Point{
		{X: "0 mm", Y: "-300 mm", Bend: "180 deg"}, {X: "0 mm", Y: "300 mm"}, {X: "0 mm", Y: "100 mm", Bend: "-180 deg"}, {X: "0 mm", Y: "-100 mm"}}}}
	d := sounding(model.Axial, "30 mm", space)
	condition(d, "acoustic.leaves", "space", "e1")
	condition(d, "acoustic.moves", "space", "e3", "speed", "0.01 m/s*swing*y/sqrt(x^2 + y^2)")
	over(d, hertz, hertz, 1)
	inner, aside, outer := wish(d, "acoustic.far", "space", "e3", "Pa", "distance", "10 m", "y", "1"), wish(d, "acoustic.far", "space", "e3", "Pa", "distance", "10 m", "x", "1"), wish(d, "acoustic.far", "space", "e1", "Pa", "distance", "10 m", "y", "-2")
	d.Enumerate()
	o := settle(t, d)
	slope := cmplx.Abs(complex(2-ka*ka, 2*ka)) / (ka * ka * ka) // of the wave of order 1 that leaves
	want := gasDensity * gasSpeed * 0.01 / slope / (2 * math.Pi * hertz / gasSpeed * 10) / math.Sqrt2
	assert.InEpsilon(t, want, value(t, o, inner), 0.03)
	assert.InEpsilon(t, want, value(t, o, outer), 0.03)
	assert.Less(t, value(t, o, aside), 5e-3*want)

	// A long block in space that a wall drives from one end, cut by two planes: what its small open end sends is that of a pole.
	block := box("duct", "gas", -50, -50, 50, 50)
	block.Span = model.Span{From: "0 mm", To: "300 mm"}
	d = sounding(model.Solid, "50 mm", block)
	d.Space.Cuts = []model.Cut{{Across: "x", At: "0 mm", Keep: "greater"}, {Across: "y", At: "0 mm", Keep: "greater"}}
	condition(d, "acoustic.moves", "duct", "bottom", "speed", "0.01 m/s*swing")
	condition(d, "acoustic.impedance", "duct", "top", "resistance", "408 Pa·s/m")
	over(d, 20, 20, 1)
	far := wish(d, "acoustic.far", "duct", "top", "Pa", "distance", "10 m", "x", "1")
	d.Enumerate()
	want = gasDensity * 2 * math.Pi * 20 * 0.01 * 0.1 * 0.1 / (4 * math.Pi * 10) / math.Sqrt2
	assert.InEpsilon(t, want, value(t, settle(t, d), far), 0.01, "all four quarters")
}

// TestAWaveFromFarAway runs through what there is in a frame as if that had no end, at all frequencies of a sweep, in a plane and round an axis along it.
func TestAWaveFromFarAway(t *testing.T) {
	for _, kind := range []string{model.Plane, model.Axial} {
		left := -200.
		points := [][2]int{{-350, -350}, {350, -350}, {350, 350}, {-350, 350}}
		if kind == model.Axial {
			left, points = 0, [][2]int{{0, -350}, {350, -350}, {350, 350}, {0, 350}, {0, 200}, {200, 200}, {200, -200}, {0, -200}}
		}
		frame := model.Part{ID: "frame", Name: "frame", Material: "gas", Role: model.Solved, Outline: model.Outline{Kind: "path"}}
		for _, at := range points {
			frame.Outline.Points = append(frame.Outline.Points, model.Point{X: fmt.Sprintf("%d mm", at[0]), Y: fmt.Sprintf("%d mm", at[1])})
		}
		d := sounding(kind, "25 mm", frame, box("inside", "gas", left, -200, 200, 200))
		condition(d, "acoustic.shell", "frame", "")
		condition(d, "acoustic.arrives", "", "", "pressure", "1 Pa*swing", "y", "2")
		over(d, 200, 1500, 20)
		mean := wish(d, "acoustic.mean", "inside", "", "Pa")
		d.Enumerate()
		o := settle(t, d)
		for i, f := range o.History.Times {
			assert.InEpsilon(t, 1/math.Sqrt2, o.History.Readings[mean][i], 3e-3, "%s, %g Hz", kind, f)
		}
		assert.Contains(t, strings.Join(o.Notes, " "), "were solved at")
		condition(d, "acoustic.arrives", "", "", "pressure", "1 Pa*swing", "y", "1")
		d.Enumerate()
		_, err := Run(t.Context(), d, Options{})
		assert.ErrorContains(t, err, "two waves come")
		d.Conditions = d.Conditions[:len(d.Conditions)-1]
		delete(d.Conditions[3].Values, "y")
		_, err = Run(t.Context(), d, Options{})
		assert.ErrorContains(t, err, "nothing says along what")
		d.Conditions[3].Values["z"] = "1"
		_, err = Run(t.Context(), d, Options{})
		assert.ErrorContains(t, err, "leave that direction empty")
		d.Conditions[2].Off = true
		_, err = Run(t.Context(), d, Options{})
		assert.ErrorContains(t, err, "comes in through a frame")
	}
}

// TestAFrameOfAnAbsorber stands for one without an end: what is before it meets the resistance of the absorber itself.
func TestAFrameOfAnAbsorber(t *testing.T) {
	d := sounding(model.Plane, "12 mm", box("duct", "gas", 0, 0, 200, 50), box("wool", "gas", 200, 0, 250, 50), box("frame", "gas", 250, 0, 350, 50))
	condition(d, "acoustic.duct", "duct", "left", "pressure", "1 Pa*swing")
	condition(d, "acoustic.shell", "frame", "")
	for _, part := range []string{"wool", "frame"} {
		condition(d, "acoustic.absorbs", part, "", "resistivity", "2e4 Pa·s/m²")
	}
	over(d, 300, 2000, 5)
	met := wish(d, "acoustic.met", "duct", "right", "Pa·s/m")
	d.Enumerate()
	o := settle(t, d)
	for i, f := range o.History.Times {
		x := f / 2e4
		assert.InEpsilon(t, gasDensity*gasSpeed*cmplx.Abs(complex(1+0.070*math.Pow(x, -0.632), -0.107*math.Pow(x, -0.632))), o.History.Readings[met][i], 5e-3, "%g Hz", f)
	}
}
