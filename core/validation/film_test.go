package validation

import (
	"fmt"
	"math"

	"saltkettle/core/model"
	"saltkettle/core/physics/body"
	"saltkettle/core/physics/film"
	"saltkettle/core/physics/own"
)

// Film lists the cases of films, and of equations of the user's own.
func Film() []Case {
	return []Case{widerSlider(), stepOfRayleigh(), longJournal(), simpleJournal(), squeezedDiscs(), moistBoard(), surfaceOfABlock()}
}

// padded makes a model of a pad over a length, mm, on whose lower edge a film lies, and on whose other edges nothing.
func padded(kind, size string, long float64, thickness, viscosity string, reading model.Sentence, conditions ...model.Sentence) *model.Document {
	d := model.New("film")
	d.Space = model.Space{Kind: kind, Unit: "mm"}
	if kind == model.Plane {
		d.Space.Depth = "1 m"
	}
	reading.ID = "r1"
	d.Physics, d.Parts, d.Readings = nil, []model.Part{oblong("pad", "steel 316", 0, 0, long, 10)}, []model.Sentence{reading}
	d.Conditions = append([]model.Sentence{sentence("c1", film.KeyLies, patch("pad", "front"), "thickness", thickness, "viscosity", viscosity)}, conditions...)
	d.Mesh = model.Mesh{Size: size, Across: "1", Order: "2"}
	d.Enumerate()
	return d
}

func widerSlider() Case {
	const long, thin, mu, speed, k = 0.1, 50e-6, 0.05, 3.0, 1.2
	return Case{
		Name: "Slider of no end in width", About: "Plane space, a film of 110 to 50 µm under 100 mm, 0.05 Pa·s, beside a wall that slides with 3 m/s.",
		Quantity: "force of the film on a metre of width", Unit: "N", Source: "exact: 6µUL²/(h²k²)·(ln(1 + k) − 2k/(2 + k)), k = 1.2 (A. Cameron, The Principles of Lubrication, 1966)",
		Reference: 6 * mu * speed * long * long / (thin * thin * k * k) * (math.Log(1+k) - 2*k/(2+k)),
		Sizes:     []string{"5 mm", "2.5 mm", "1.25 mm"}, MinOrder: 1.8,
		Document: func(size string) *model.Document {
			return padded(model.Plane, size, 100, "50 µm*(1 + 1.2*(1 - x/100 mm))", "0.05 Pa·s", sentence("", film.KeyForce, patch("pad", "front")),
				sentence("c2", film.KeyFacing, patch("pad", "front"), "x", "3 m/s"))
		},
	}
}

func stepOfRayleigh() Case {
	return Case{
		Name: "Step bearing of Rayleigh", About: "Plane space, a film of 80 µm over 70 mm, then 40 µm over 30 mm, 0.02 Pa·s, beside a wall that slides with 4 m/s.",
		Quantity: "force of the film on a metre of width", Unit: "N", Source: "exact: half the length times 6µU(h₁ − h₂)/(h₁³/l₁ + h₂³/l₂)",
		Reference: 0.05 * 6 * 0.02 * 4 * 40e-6 / (math.Pow(80e-6, 3)/0.07 + math.Pow(40e-6, 3)/0.03), Exact: true,
		Sizes: []string{"10 mm", "5 mm"},
		Document: func(size string) *model.Document {
			return padded(model.Plane, size, 100, "if(x < 70 mm, 80 µm, 40 µm)", "0.02 Pa·s", sentence("", film.KeyForce, patch("pad", "front")),
				sentence("c2", film.KeyFacing, patch("pad", "front"), "x", "4 m/s"))
		},
	}
}

// sommerfeld integrates the pressure of a long journal that breaks up where pressure and slope end together, N on a metre.
func sommerfeld(radius, clearance, eccentric, mu, speed float64) float64 {
	h := func(a float64) float64 { return clearance * (1 + eccentric*math.Cos(a)) }
	to := func(end float64) (p, sum float64) {
		const n = 20000
		for i := range n {
			a := (float64(i) + 0.5) / n * end
			step := 6 * mu * speed * (h(a) - h(end)) / math.Pow(h(a), 3) * radius * end / n
			p += step
			sum += (p - step/2) * radius * end / n
		}
		return p, sum
	}
	lo, hi := math.Pi, 1.9*math.Pi
	for range 50 {
		if p, _ := to((lo + hi) / 2); p > 0 {
			lo = (lo + hi) / 2
		} else {
			hi = (lo + hi) / 2
		}
	}
	_, sum := to(lo)
	return sum
}

func longJournal() Case {
	return Case{
		Name: "Long journal that breaks up", About: "Plane space, the film of a journal of 20 mm radius, 40 µm clearance and an eccentricity of 0.6, unrolled, 0.03 Pa·s, 5 m/s.",
		Quantity: "pressure of the film over its area, on a metre", Unit: "N", Source: "by integration of dp/dx = 6µU(h − h*)/h³ to where h is h* and p nothing (A. Sommerfeld, 1904; H. Swift, 1932; W. Stieber, 1933)",
		Reference: sommerfeld(0.02, 40e-6, 0.6, 0.03, 5), Sizes: []string{"2 mm", "1 mm", "0.5 mm"}, MinOrder: 1.5, Closes: 1e-6,
		Document: func(size string) *model.Document {
			return padded(model.Plane, size, 40*math.Pi, "40 µm*(1 + 0.6*cos(x/20 mm))", "0.03 Pa·s", sentence("", film.KeyForce, patch("pad", "front")),
				sentence("c2", film.KeyFacing, patch("pad", "front"), "x", "5 m/s"))
		},
	}
}

// gumbel integrates the pressure of a long journal that is whole all round, where it is more than nothing, N on a metre.
func gumbel(radius, clearance, eccentric, mu, speed float64) (sum float64) {
	h := func(a float64) float64 { return clearance * (1 + eccentric*math.Cos(a)) }
	const n = 200000
	var squares, cubes float64
	for i := range n {
		a := (float64(i) + 0.5) / n * 2 * math.Pi
		squares, cubes = squares+math.Pow(h(a), -2), cubes+math.Pow(h(a), -3)
	}
	p := 0.0
	for i := range n {
		a := (float64(i) + 0.5) / n * 2 * math.Pi
		step := 6 * mu * speed * (h(a) - squares/cubes) / math.Pow(h(a), 3) * radius * 2 * math.Pi / n
		p += step
		sum += max(0, p-step/2) * radius * 2 * math.Pi / n
	}
	return sum
}

func simpleJournal() Case {
	return Case{
		Name: "Long journal that breaks up in the simple way", About: "Plane space, the film of that journal, with pressures below nothing taken as nothing.",
		Quantity: "pressure of the film over its area, on a metre", Unit: "N", Source: "by integration of the solution of A. Sommerfeld, 1904, where it is more than nothing (L. Gümbel, 1914)",
		Reference: gumbel(0.02, 40e-6, 0.6, 0.03, 5), Sizes: []string{"4 mm", "2 mm"}, Within: 1e-3,
		Document: func(size string) *model.Document {
			return padded(model.Plane, size, 40*math.Pi, "40 µm*(1 + 0.6*cos(x/20 mm))", "0.03 Pa·s", sentence("", film.KeyForce, patch("pad", "front")),
				sentence("c2", film.KeyFacing, patch("pad", "front"), "x", "5 m/s"), sentence("c3", film.KeySimple, patch("pad", "front")))
		},
	}
}

func squeezedDiscs() Case {
	return Case{
		Name: "Discs that press a film out", About: "Axial space, a film of 0.1 mm and 2 Pa·s between discs of 30 mm radius that come nearer with 0.2 mm/s.",
		Quantity: "force of the film", Unit: "N", Source: "exact: 3πµR⁴V/(2h³) (J. Stefan, 1874)",
		Reference: 3 * math.Pi * 2 * math.Pow(0.03, 4) * 2e-4 / (2 * 1e-12), Sizes: []string{"4 mm", "2 mm", "1 mm"}, MinOrder: 1.8,
		Document: func(size string) *model.Document {
			return padded(model.Axial, size, 30, "0.1 mm", "2 Pa·s", sentence("", film.KeyForce, patch("pad", "front")),
				sentence("c2", film.KeyCloses, patch("pad", "front"), "speed", "0.2 mm/s"))
		},
	}
}

func moistBoard() Case {
	return Case{
		Name: "Moisture into a board", About: "Plane space, an equation of the user's own: moisture spreads into a board of 20 mm from both faces with 1e-9 m²/s, from 50 to 90 kg/m³, for 6 h.",
		Quantity: "mean moisture", Unit: "kg/m³", Source: "exact: J. Crank, The Mathematics of Diffusion, 2nd ed., 1975, equation 4.18",
		Reference: func() float64 {
			left := 0.
			for n := 1; n < 199; n += 2 {
				left += 8 / math.Pow(float64(n)*math.Pi, 2) * math.Exp(-1e-9*math.Pow(float64(n)*math.Pi/0.02, 2)*6*3600)
			}
			return 90 - 40*left
		}(),
		Sizes: []string{"4 mm", "2 mm", "1 mm"}, Within: 1e-3,
		Document: func(size string) *model.Document {
			d := padded(model.Plane, size, 20, "1 µm", "1 Pa·s", sentence("", body.KeyFormula, model.Patch{}, "formula", "mean(moisture over pad)"))
			of := func(id, kind, side string, values ...string) {
				d.Conditions = append(d.Conditions, sentence(id, kind, patch("pad", side), append([]string{"unknown", "moisture"}, values...)...))
			}
			d.Conditions = nil
			of("c1", own.KeyIn, "", "unit", "kg/m³", "spread", "1e-9 m²/s")
			of("c2", own.KeyStored, "", "capacity", "1")
			of("c3", own.KeyStart, "", "value", "50 kg/m³")
			of("c4", own.KeyHeld, "left", "value", "90 kg/m³")
			of("c5", own.KeyHeld, "right", "value", "90 kg/m³")
			d.Run = model.Run{Kind: model.Transient, End: "6 h"}
			return d
		},
	}
}

func surfaceOfABlock() Case {
	const a, b = 0.2, 0.1
	return Case{
		Name: "An equation on a surface", About: "Solid space, an unknown on the top of a block of 200 mm by 100 mm, held at its edges: −∇·(2∇u) = 300 along it.",
		Quantity: "mean of the unknown", Unit: "m", Source: "exact: series of sines in both directions",
		Reference: func() (sum float64) {
			for m := 1; m < 200; m += 2 {
				for n := 1; n < 200; n += 2 {
					k := math.Pow(float64(m)*math.Pi/a, 2) + math.Pow(float64(n)*math.Pi/b, 2)
					sum += 64 / math.Pow(math.Pi, 4) / float64(m*m*n*n) / k * 300 / 2
				}
			}
			return sum
		}(),
		Sizes: []string{"40 mm", "20 mm", "10 mm"}, MinOrder: 2.5,
		Document: func(size string) *model.Document {
			d := padded(model.Solid, size, 200, "1 µm", "1 Pa·s", sentence("", body.KeyFormula, model.Patch{}, "formula", "mean(height over block.top)"))
			block := oblong("block", "steel 316", 0, 0, 200, 100)
			block.Span = model.Span{From: "0 mm", To: fmt.Sprintf("%g mm", 30.)}
			d.Parts = []model.Part{block}
			d.Conditions = []model.Sentence{
				sentence("c1", own.KeyAlong, patch("block", "top"), "unknown", "height", "unit", "m", "spread", "2 N/m"),
				sentence("c2", own.KeyArises, patch("block", "top"), "unknown", "height", "rate", "300 Pa"),
				sentence("c3", own.KeyEdges, patch("block", "top"), "unknown", "height", "value", "0 m")}
			return d
		},
	}
}
