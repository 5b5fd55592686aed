package validation

import (
	"fmt"
	"math"
	"math/cmplx"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics/acoustic"
	"saltkettle/core/physics/body"
	"saltkettle/core/physics/solid"
)

// Of the gas of these cases: density, kg/m³, and speed of sound, m/s; and of their water.
const gasDensity, gasSpeed, waterDensity, waterSpeed = 1.2, 340.0, 1000.0, 1500.0

// Acoustic lists the cases of sound, and of sound with solids.
func Acoustic() []Case {
	return []Case{modeOfABox(), quarterWave(), modeOfADrum(), modeOfABall(), wideningOfADuct(), ballThatPulses(), liningOfAWall(), pistonOnATube(), shellInWater(), boxWithAWall(), cylinderInAWave()}
}

// sound makes a model of parts of gas, water, an absorber and metals, with conditions and a reading.
func sound(kind, size string, parts []model.Part, conditions []model.Sentence, reading model.Sentence) *model.Document {
	d := model.New("sound")
	d.Space = model.Space{Kind: kind, Unit: "mm"}
	if kind == model.Plane {
		d.Space.Depth = "1 m"
	}
	d.Physics = nil
	fluid := func(name string, density, speed float64) {
		d.Materials = append(d.Materials, material.Material{Name: name, Family: "gas", Properties: map[material.Key]material.Property{
			material.Density: {Value: fmt.Sprintf("%g kg/m³", density)}, material.SoundSpeed: {Value: fmt.Sprintf("%g m/s", speed)}}})
	}
	fluid("gas", gasDensity, gasSpeed)
	fluid("water", waterDensity, waterSpeed)
	stiff := func(name, modulus, ratio, density string) {
		d.Materials = append(d.Materials, material.Material{Name: name, Family: "metal", Properties: map[material.Key]material.Property{
			material.Density: {Value: density}, material.YoungsModulus: {Value: modulus}, material.PoissonRatio: {Value: ratio}}})
	}
	stiff("steel", "200 GPa", "0.3", "7800 kg/m³")
	stiff("block", "1 GPa", "0", "120 kg/m³")
	for _, p := range parts {
		if p.Material == "gas" || p.Material == "water" {
			conditions = append(conditions, sentence("fills-"+p.ID, acoustic.KeyFills, patch(p.ID, "")))
		} else {
			conditions = append(conditions, sentence("bends-"+p.ID, solid.KeyBends, patch(p.ID, "")))
		}
	}
	reading.ID = "r1"
	d.Parts, d.Conditions, d.Readings = parts, conditions, []model.Sentence{reading}
	d.Mesh = model.Mesh{Size: size, Across: "1", Order: "2"}
	d.Enumerate()
	return d
}

// toneOf is a model whose reading is the frequency of a mode.
func toneOf(number int, kind, size string, parts []model.Part, conditions ...model.Sentence) *model.Document {
	d := sound(kind, size, parts, conditions, sentence("", body.KeyMode, model.Patch{}, "number", fmt.Sprint(number)))
	d.Run = model.Run{Kind: model.Modes, Count: fmt.Sprint(number + 2)}
	return d
}

// swung is one whose reading is of what swings at a frequency.
func swung(hertz float64, kind, size string, parts []model.Part, reading model.Sentence, conditions ...model.Sentence) *model.Document {
	d := sound(kind, size, parts, conditions, reading)
	text := fmt.Sprintf("%g Hz", hertz)
	d.Run = model.Run{Kind: model.Response, Lowest: text, Highest: text, Count: "1"}
	return d
}

// halfRing is the right half of a ring about the origin, mm: its sides are the outer arc, e1, and the inner one, e3.
func halfRing(id, stuff string, outer, inner float64) model.Part {
	mm := func(v float64) string { return fmt.Sprintf("%g mm", v) }
	return model.Part{ID: id, Name: id, Material: stuff, Role: model.Solved, Outline: model.Outline{Kind: "path", Points: []model.Point{
		{X: "0 mm", Y: mm(-outer), Bend: "180 deg"}, {X: "0 mm", Y: mm(outer)}, {X: "0 mm", Y: mm(inner), Bend: "-180 deg"}, {X: "0 mm", Y: mm(-inner)}}}}
}

func modeOfABox() Case {
	return Case{
		Name: "Tone of a box of gas", About: "Plane space, 500 mm by 300 mm of gas (1.2 kg/m³, 340 m/s) between hard walls.",
		Quantity: "frequency of the mode (1, 1)", Unit: "Hz", Source: "exact: c/2·√((1/a)² + (1/b)²)",
		Reference: gasSpeed / 2 * math.Hypot(1/0.5, 1/0.3), Sizes: []string{"150 mm", "75 mm", "37.5 mm"}, MinOrder: 3.5,
		Document: func(size string) *model.Document {
			return toneOf(4, model.Plane, size, []model.Part{oblong("room", "gas", 0, 0, 500, 300)})
		},
	}
}

func quarterWave() Case {
	return Case{
		Name: "Tone of an open tube", About: "Plane space, a tube of 500 mm with one end that gives way to sound at once.",
		Quantity: "lowest frequency", Unit: "Hz", Source: "exact: c/(4L)",
		Reference: gasSpeed / 2, Sizes: []string{"100 mm", "50 mm", "25 mm"}, MinOrder: 3.5,
		Document: func(size string) *model.Document {
			return toneOf(1, model.Plane, size, []model.Part{oblong("tube", "gas", 0, 0, 500, 100)}, sentence("c1", acoustic.KeySoft, patch("tube", "right")))
		},
	}
}

func modeOfADrum() Case {
	const radius = 0.2
	return Case{
		Name: "Tone of a drum of gas", About: "Axial space, a round box of 200 mm radius and 50 mm height of gas between hard walls.",
		Quantity: "lowest frequency across it", Unit: "Hz", Source: "exact: 3.8317·c/(2πa), where J₁ is nothing",
		Reference: 3.831705970207512 * gasSpeed / (2 * math.Pi * radius), Sizes: []string{"50 mm", "25 mm", "12.5 mm"}, MinOrder: 3.5,
		Document: func(size string) *model.Document {
			return toneOf(2, model.Axial, size, []model.Part{oblong("drum", "gas", 0, 0, 200, 50)})
		},
	}
}

func modeOfABall() Case {
	const radius = 0.1
	return Case{
		Name: "Tone of a ball of gas", About: "Axial space, a ball of 100 mm radius of gas in a hard wall.",
		Quantity: "lowest frequency in and out", Unit: "Hz", Source: "exact: 4.4934·c/(2πa), where tan(ka) = ka",
		Reference: 4.493409457909064 * gasSpeed / (2 * math.Pi * radius), Sizes: []string{"40 mm", "20 mm", "10 mm"}, MinOrder: 3,
		Document: func(size string) *model.Document {
			return toneOf(4, model.Axial, size, []model.Part{halfDisc("ball", "gas", 100)})
		},
	}
}

func wideningOfADuct() Case {
	const long, ratio, hertz = 0.5, 4., 170.0
	lets := 1 / (1 + 0.25*math.Pow(ratio-1/ratio, 2)*math.Pow(math.Sin(2*math.Pi*hertz/gasSpeed*long), 2))
	return Case{
		Name:     "Chamber in a duct",
		About:    "Plane space, a duct 5 mm high with a chamber 20 mm high and 500 mm long, a quarter of a wave at 170 Hz, so low that nothing but plane waves matters.",
		Quantity: "sound pressure beyond it of a wave of 1 Pa, root of the mean square", Unit: "Pa", Source: "plane waves: 1/√(1 + ¼(m − 1/m)²·sin²kL)/√2",
		Reference: math.Sqrt(lets / 2), Sizes: []string{"10 mm", "5 mm", "2.5 mm"}, Within: 5e-3,
		Document: func(size string) *model.Document {
			return swung(hertz, model.Plane, size, []model.Part{oblong("in", "gas", -100, 0, 0, 5), oblong("chamber", "gas", 0, 0, 500, 20), oblong("out", "gas", 500, 0, 600, 5)}, sentence("", acoustic.KeyMean, patch("out", "right")),
				sentence("c1", acoustic.KeyDuct, patch("in", "left"), "pressure", "1 Pa*swing"), sentence("c2", acoustic.KeyDuct, patch("out", "right")))
		},
	}
}

func ballThatPulses() Case {
	const radius, hertz = 0.1, 300.0
	ka := 2 * math.Pi * hertz / gasSpeed * radius
	return Case{
		Name: "Ball that pulses", About: "Axial space, a ball of 100 mm radius whose surface moves with 10 mm/s at 300 Hz, in gas that sound leaves through a ball of 300 mm.",
		Quantity: "sound pressure at its surface, root of the mean square", Unit: "Pa", Source: "exact: ρc·v·ka/√(1 + (ka)²)/√2",
		Reference: gasDensity * gasSpeed * 0.01 * ka / math.Hypot(1, ka) / math.Sqrt2, Sizes: []string{"100 mm", "50 mm", "25 mm"}, MinOrder: 2.5,
		Document: func(size string) *model.Document {
			return swung(hertz, model.Axial, size, []model.Part{halfRing("space", "gas", 300, 100)}, sentence("", acoustic.KeyMean, patch("space", "e3")),
				sentence("c1", acoustic.KeyLeaves, patch("space", "e1")), sentence("c2", acoustic.KeyMoves, patch("space", "e3"), "speed", "10 mm/s*swing"))
		},
	}
}

func liningOfAWall() Case {
	const sigma, deep, hertz = 2e4, 0.05, 800.0
	x := hertz / sigma
	z := complex(1+0.070*math.Pow(x, -0.632), -0.107*math.Pow(x, -0.632))
	k := complex(1+0.109*math.Pow(x, -0.618), -0.160*math.Pow(x, -0.618)) * complex(2*math.Pi*hertz/gasSpeed, 0)
	seen := z / (1i * cmplx.Tan(k*complex(deep, 0)))
	back := cmplx.Abs((seen - 1) / (seen + 1))
	return Case{
		Name: "Porous layer before a wall", About: "Plane space, a layer of 50 mm with 20 kPa·s/m² before a hard wall, a wave at 800 Hz straight onto it.",
		Quantity: "part that it takes up", Unit: "%", Source: "by the law of Y. Miki (1990): 1 − |(Z − ρc)/(Z + ρc)|², Z = −i·Zₐ·cot(k·d)",
		Reference: 100 * (1 - back*back), Sizes: []string{"50 mm", "25 mm", "12.5 mm"}, MinOrder: 3,
		Document: func(size string) *model.Document {
			return swung(hertz, model.Plane, size, []model.Part{oblong("duct", "gas", 0, 0, 200, 50), oblong("wool", "gas", 200, 0, 250, 50)}, sentence("", acoustic.KeyTaken, patch("duct", "right")),
				sentence("c1", acoustic.KeyDuct, patch("duct", "left"), "pressure", "1 Pa*swing"), sentence("c2", acoustic.KeyAbsorbs, patch("wool", ""), "resistivity", "2e4 Pa·s/m²"))
		},
	}
}

// root is where a function changes its sign between two places.
func root(f func(float64) float64, lo, hi float64) float64 {
	for range 100 {
		if mid := (lo + hi) / 2; f(lo)*f(mid) <= 0 {
			hi = mid
		} else {
			lo = mid
		}
	}
	return lo
}

func pistonOnATube() Case {
	const long, area, mass, springs = 0.5, 0.05, 0.02 * 0.05 * 120, 4000.0
	left := func(f float64) float64 {
		w := 2 * math.Pi * f
		k := w / gasSpeed
		return (mass*w*w-springs)*math.Sin(k*long) - gasDensity*gasSpeed*w*area*math.Cos(k*long)
	}
	return Case{
		Name: "Piston on springs that closes a tube", About: "Plane space, 1 m deep: a tube of gas, 500 mm long and 50 mm high, closed by a block of 120 g on springs of 4 kN/m.",
		Quantity: "lowest frequency of both", Unit: "Hz", Source: "exact: (m·ω² − s)·sin(kL) = ρ·c·ω·S·cos(kL)",
		Reference: root(left, 20, 100), Sizes: []string{"50 mm", "25 mm", "12.5 mm"}, Within: 1e-4,
		Document: func(size string) *model.Document {
			return toneOf(2, model.Plane, size, []model.Part{oblong("tube", "gas", 0, 0, 500, 50), oblong("block", "block", 500, 0, 520, 50)},
				sentence("c1", solid.KeySprings, patch("block", "right"), "x", "4000 N/m"), sentence("c2", solid.KeySlides, patch("block", "front")), sentence("c3", solid.KeySlides, patch("block", "back")))
		},
	}
}

// shellInWater breathes in a wide fluid, by the waves in and out within it.
func shellInWater() Case {
	const inner, outer, hertz, modulus, ratio, density = 0.095, 0.1, 2000.0, 200e9, 0.3, 7800.0
	w := 2 * math.Pi * hertz
	wide := modulus * (1 - ratio) / ((1 + ratio) * (1 - 2*ratio)) // λ + 2µ
	lame := modulus * ratio / ((1 + ratio) * (1 - 2*ratio))
	k := w * math.Sqrt(density/wide)
	moves := [2]func(r float64) float64{
		func(r float64) float64 { x := k * r; return math.Sin(x)/(x*x) - math.Cos(x)/x },
		func(r float64) float64 { x := k * r; return -math.Cos(x)/(x*x) - math.Sin(x)/x }}
	stress := func(i int, r float64) float64 { // along the radius
		const h = 1e-6
		return wide*(moves[i](r+h)-moves[i](r-h))/(2*h) + 2*lame*moves[i](r)/r
	}
	ka := complex(w/waterSpeed*outer, 0)
	water := complex(waterDensity*waterSpeed, 0) * 1i * ka / (1 + 1i*ka)
	// Within it is pressed by 1 kPa, outside by the water.
	var a [2][2]complex128
	for i := range 2 {
		a[0][i] = complex(stress(i, inner), 0)
		a[1][i] = complex(stress(i, outer), 0) + complex(0, w)*water*complex(moves[i](outer), 0)
	}
	det := a[0][0]*a[1][1] - a[0][1]*a[1][0]
	out := -1000 * (a[1][1]*complex(moves[0](outer), 0) - a[1][0]*complex(moves[1](outer), 0)) / det
	return Case{
		Name: "Shell that breathes in water", About: "Axial space, a shell of steel from 95 to 100 mm (200 GPa, 0.3, 7800 kg/m³), in water (1000 kg/m³, 1500 m/s) that sound leaves through a ball of 300 mm; pushed from within by 1 kPa at 2 kHz.",
		Quantity: "sound pressure at its surface, root of the mean square", Unit: "Pa", Source: "exact: spherical waves in the shell, and in the water p = iω·z·u with z = ρc·ika/(1 + ika) (as M. C. Junger and D. Feit, Sound, Structures, and Their Interaction, 2nd ed., 1986, for a thin one)",
		Reference: cmplx.Abs(complex(0, w)*water*out) / math.Sqrt2, Sizes: []string{"40 mm", "20 mm", "10 mm"}, MinOrder: 2.5,
		Document: func(size string) *model.Document {
			surface, within := patch("space", "*"), patch("shell", "e3")
			surface.Facing = "shell"
			return swung(hertz, model.Axial, size, []model.Part{halfRing("space", "water", 300, 97), halfRing("shell", "steel", 1e3*outer, 1e3*inner)}, sentence("", acoustic.KeyMean, surface),
				sentence("c1", acoustic.KeyLeaves, patch("space", "e1")), sentence("c2", solid.KeyPressure, within, "pressure", "1 kPa*swing"), sentence("c3", solid.KeyBed, within, "y", "1 N/m³"))
		},
	}
}

// boxWithAWall is a closed box of water with one elastic wall: its bending by sines along it and the water by cosines, of which the least
// eigenvalue is where a determinant is nothing.
func boxWithAWall() Case {
	const high, long, thick, modulus, ratio, density, terms = 0.5, 0.4, 0.005, 200e9, 0.3, 7800.0, 12
	bending := modulus * thick * thick * thick / (12 * (1 - ratio*ratio))
	// couples is ∫ sin(nπy/H)·cos(mπy/H) dy.
	couples := func(n, m int) float64 {
		if (n+m)%2 == 0 {
			return 0
		}
		return high / math.Pi * 2 * float64(n) / float64(n*n-m*m)
	}
	determinant := func(f float64) float64 {
		w := 2 * math.Pi * f
		k := w / waterSpeed
		a := make([][]float64, terms)
		for r := range a {
			a[r] = make([]float64, terms)
			for c := range a[r] {
				n, o := r+1, c+1
				if r == c {
					a[r][c] = (bending*math.Pow(float64(n)*math.Pi/high, 4) - w*w*density*thick) * high / 2
				}
				for m := range 60 {
					norm := high / 2
					if m == 0 {
						norm = high
					}
					square := math.Pow(float64(m)*math.Pi/high, 2) - k*k
					stiff := 0. // −coth(γL)/γ
					if g := math.Sqrt(math.Abs(square)); square > 0 {
						stiff = -1 / (g * math.Tanh(g*long))
					} else {
						stiff = 1 / (g * math.Tan(g*long))
					}
					a[r][c] += waterDensity * w * w * stiff * couples(n, m) * couples(o, m) / norm
				}
			}
		}
		det := 1.
		for i := range a {
			p := i
			for r := i + 1; r < terms; r++ {
				if math.Abs(a[r][i]) > math.Abs(a[p][i]) {
					p = r
				}
			}
			if p != i {
				a[p], a[i], det = a[i], a[p], -det
			}
			det *= a[i][i] / (bending * math.Pow(float64(i+1)*math.Pi/high, 4))
			for r := i + 1; r < terms; r++ {
				by := a[r][i] / a[i][i]
				for c := i; c < terms; c++ {
					a[r][c] -= by * a[i][c]
				}
			}
		}
		return det
	}
	// The lowest tone of both, above that of nothing: with two waves in the wall, so that no volume is pressed.
	reference := 0.
	for f := 5.; reference == 0; f++ {
		if determinant(f)*determinant(f+1) < 0 {
			reference = root(determinant, f, f+1)
		}
	}
	return Case{
		Name:     "Closed box of water with one elastic wall",
		About:    "Plane space, 400 mm by 500 mm of water (1000 kg/m³, 1500 m/s), closed by a wall of steel 5 mm thick (200 GPa, 0.3, 7800 kg/m³) whose ends are held across.",
		Quantity: "lowest frequency of both", Unit: "Hz", Source: "a thin wall, sines along it and cosines in the water: the determinant of 12 by 12 terms, with 60 of the water, is nothing",
		Reference: reference, Sizes: []string{"100 mm", "50 mm", "25 mm"}, Within: 5e-3,
		Document: func(size string) *model.Document {
			return toneOf(3, model.Plane, size, []model.Part{oblong("water", "water", 0, 0, 400, 500), oblong("wall", "steel", -5, 0, 0, 500)},
				sentence("c1", solid.KeyMoved, patch("wall", "front"), "x", "0 mm"), sentence("c2", solid.KeyMoved, patch("wall", "back"), "x", "0 mm"), sentence("c3", solid.KeyBed, patch("wall", "left"), "y", "1 N/m³"))
		},
	}
}

// cylinderInAWave is a hard cylinder in a plane wave.
func cylinderInAWave() Case {
	const radius, hertz, turn = 0.1, 800.0, 0.7
	ka := 2 * math.Pi * hertz / gasSpeed * radius
	hankel := func(n int, x float64) complex128 { return complex(math.Jn(n, x), -math.Yn(n, x)) }
	slope := func(f func(n int) complex128, n int) complex128 { return (f(n-1) - f(n+1)) / 2 }
	var sum complex128
	for n := range 40 {
		weight, phase := 2.0, cmplx.Pow(-1i, complex(float64(n), 0))
		if n == 0 {
			weight = 1
		}
		j := func(m int) complex128 { return complex(math.Jn(m, ka), 0) }
		h := func(m int) complex128 { return hankel(m, ka) }
		sum += complex(weight*math.Cos(float64(n)*turn), 0) * phase * (j(n) - slope(j, n)/slope(h, n)*h(n))
	}
	return Case{
		Name: "Hard cylinder in a plane wave", About: "Plane space, a cylinder of 100 mm radius in a wave of 1 Pa at 800 Hz along x, in a square of gas of 400 mm with a frame of 150 mm around in which sound dies away.",
		Quantity: "sound pressure on it, 0.7 rad from the side that the wave leaves", Unit: "Pa", Source: "exact: Σ εₙ(−i)ⁿ·(Jₙ − Jₙ′/Hₙ′·Hₙ)·cos nθ at ka",
		Reference: cmplx.Abs(sum), Sizes: []string{"40 mm", "20 mm", "10 mm"}, MinOrder: 1.5, Finest: 1e-3,
		Document: func(size string) *model.Document {
			gas := oblong("gas", "gas", -200, -200, 200, 200)
			gas.Outline.Holes = []model.Hole{{Outline: model.Outline{Kind: "disc", Diameter: "200 mm"}}}
			frame := oblong("frame", "gas", -350, -350, 350, 350)
			frame.Outline.Holes = []model.Hole{{Outline: model.Outline{Kind: "rectangle", Width: "400 mm", Depth: "400 mm"}}}
			return swung(hertz, model.Plane, size, []model.Part{gas, frame}, sentence("", body.KeyFormula, model.Patch{}, "formula", fmt.Sprintf("at(sound_pressure, %.10g mm, %.10g mm, 0 mm)", 100.001*math.Cos(turn), 100.001*math.Sin(turn))),
				sentence("c1", acoustic.KeyShell, patch("frame", "")), sentence("c2", acoustic.KeyArrives, model.Patch{}, "pressure", "1 Pa*swing", "x", "1"))
		},
	}
}
