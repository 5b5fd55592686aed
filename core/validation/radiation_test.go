package validation

import (
	"fmt"
	"math"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics/heat"
)

const modest = "Modest, Radiative Heat Transfer, 3rd ed., 2013, "

// Radiation lists the cases of radiation between surfaces. View factors come from
// rays, so that agreement is demanded and no order.
func Radiation() []Case {
	return []Case{facingSquares(), quarterOfSquares(), cornerSquares(), facingDiscs(), concentricCylinders(), reradiatingBox(), shieldedPlates(), cylindersInSection(), ballInShell()}
}

// black is σT⁴, W/m².
func black(t float64) float64 { return heat.Boltzmann * t * t * t * t }

// plate is a part of 10 mm between heights in mm.
func plate(id string, from, to float64, o model.Outline) model.Part {
	return model.Part{ID: id, Name: id, Material: "alloy", Role: model.Solved, Outline: o, Span: model.Span{From: fmt.Sprintf("%g mm", from), To: fmt.Sprintf("%g mm", to)}}
}

func squareOf(width string) model.Outline {
	return model.Outline{Kind: "rectangle", Width: width, Depth: width}
}

// radiating makes a model whose parts let nothing through but at some surfaces, which
// have emissivities, and at others, which have temperatures. The parts conduct so well
// that each is even. The surroundings are near absolute zero.
func radiating(size string, parts []model.Part, emissivities, temperatures [][3]string, reading model.Sentence) *model.Document {
	n := 0
	var c []model.Sentence
	add := func(kind string, on model.Patch, values ...string) {
		n++
		c = append(c, sentence(fmt.Sprintf("c%d", n), kind, on, values...))
	}
	for _, p := range parts {
		add(heat.KeyInsulated, patch(p.ID, "*"))
	}
	add(heat.KeyEnclosure, model.Patch{}, "temperature", "0.001 K")
	for _, s := range emissivities {
		add(heat.KeyEmissivity, patch(s[0], s[1]), "emissivity", s[2])
		// This opens the surface again after all were closed.
		add(heat.KeyFlux, patch(s[0], s[1]), "flux", "0 W/m²")
	}
	for _, s := range temperatures {
		add(heat.KeyHeld, patch(s[0], s[1]), "temperature", s[2])
	}
	d := document("radiation", size, parts, []material.Material{stuff("alloy", 2e4)}, c, reading)
	d.Mesh.Across = "1"
	return d
}

func facingSquares() Case {
	return Case{
		Name:     "View factor of facing squares",
		About:    "Black squares of 1 m, 1 m apart, one at 500 K, the other and the surroundings near absolute zero.",
		Quantity: "heat that leaves through the cold square (it arrives, so the value is negative)", Unit: "W", Source: modest + "appendix D, configuration 38: F = 0.199825",
		Reference: -0.199825 * black(500), Sizes: []string{"250 mm", "125 mm", "62.5 mm"}, Within: 1e-3,
		Document: func(size string) *model.Document {
			return radiating(size, []model.Part{plate("warm", -10, 0, squareOf("1 m")), plate("cold", 1000, 1010, squareOf("1 m"))},
				[][3]string{{"warm", "top", "1"}, {"cold", "bottom", "1"}}, [][3]string{{"warm", "bottom", "500 K"}, {"cold", "top", "0.001 K"}},
				sentence("r1", heat.KeyThrough, patch("cold", "bottom")))
		},
	}
}

func quarterOfSquares() Case {
	c := facingSquares()
	c.Name = "A quarter of facing squares"
	c.About = "The same, cut at both planes of symmetry: what is left sees the images of the rest."
	c.Reference /= 4
	c.Within = 2e-3
	whole := c.Document
	c.Document = func(size string) *model.Document {
		d := whole(size)
		d.Space.Cuts = []model.Cut{{Across: "x", At: "0 mm", Keep: model.Greater}, {Across: "y", At: "0 mm", Keep: model.Less}}
		return d
	}
	return c
}

func cornerSquares() Case {
	return Case{
		Name:     "View factor of squares that share an edge",
		About:    "Black squares of 1 m at a right angle, 0.1 mm apart at their common edge, one at 500 K, the other and the surroundings near absolute zero.",
		Quantity: "heat that leaves through the cold square", Unit: "W", Source: modest + "appendix D, configuration 39: F = 0.200044",
		Reference: -0.200044 * black(500), Sizes: []string{"250 mm", "125 mm", "62.5 mm"}, Within: 2e-3,
		Document: func(size string) *model.Document {
			wall := plate("cold", 0, 1000, model.Outline{Kind: "rectangle", Width: "10 mm", Depth: "1 m"})
			wall.Place = model.Place{X: "505.1 mm"}
			wall.Cells = size
			return radiating(size, []model.Part{plate("warm", -10, 0, squareOf("1 m")), wall},
				[][3]string{{"warm", "top", "1"}, {"cold", "left", "1"}}, [][3]string{{"warm", "bottom", "500 K"}, {"cold", "right", "0.001 K"}},
				sentence("r1", heat.KeyThrough, patch("cold", "left")))
		},
	}
}

func facingDiscs() Case {
	const r = 1.0
	return Case{
		Name:     "View factor of coaxial discs",
		About:    "Black discs of radius 1 m, 1 m apart, one at 500 K, the other and the surroundings near absolute zero. The rims are polygons in the mesh.",
		Quantity: "heat that leaves through the cold disc", Unit: "W", Source: modest + "appendix D, configuration 40: F = 0.381966",
		Reference: -0.381966 * black(500) * math.Pi * r * r, Sizes: []string{"300 mm", "150 mm"}, Within: 3e-3,
		Document: func(size string) *model.Document {
			disc := model.Outline{Kind: "disc", Diameter: "2 m"}
			return radiating(size, []model.Part{plate("warm", -10, 0, disc), plate("cold", 1000, 1010, disc)},
				[][3]string{{"warm", "top", "1"}, {"cold", "bottom", "1"}}, [][3]string{{"warm", "bottom", "500 K"}, {"cold", "top", "0.001 K"}},
				sentence("r1", heat.KeyThrough, patch("cold", "bottom")))
		},
	}
}

func concentricCylinders() Case {
	const r1, r2, e1, e2, long = 0.01, 0.02, 0.8, 0.4, 0.08
	return Case{
		Name:     "Exchange between long concentric cylinders",
		About:    "A pipe of 20 mm at 600 K with ε = 0.8 in a tube of 40 mm bore at 300 K with ε = 0.4, 880 mm long, of which the middle 80 mm count. Both are polygons in the mesh.",
		Quantity: "heat that leaves through the middle of the pipe", Unit: "W", Source: incropera + "table 13.3: σA₁(T₁⁴ − T₂⁴)/(1/ε₁ + (1 − ε₂)/ε₂·r₁/r₂)",
		Reference: 2 * math.Pi * r1 * long * (black(600) - black(300)) / (1/e1 + (1-e2)/e2*r1/r2),
		Sizes:     []string{"16 mm", "8 mm"}, Within: 1e-2,
		Document: func(size string) *model.Document {
			rod := model.Outline{Kind: "ring", Diameter: "20 mm", Inner: "10 mm"}
			end, middle, other, tube := plate("end", -400, 0, rod), plate("rod", 0, 80, rod), plate("other", 80, 480, rod),
				plate("tube", -400, 480, model.Outline{Kind: "ring", Diameter: "46 mm", Inner: "40 mm"})
			end.Cells, other.Cells = "20 mm", "20 mm"
			return radiating(size, []model.Part{end, middle, other, tube},
				[][3]string{{"end", "rim", "0.8"}, {"rod", "rim", "0.8"}, {"other", "rim", "0.8"}, {"tube", "bore", "0.4"}}, [][3]string{{"end", "bore", "600 K"}, {"rod", "bore", "600 K"}, {"other", "bore", "600 K"}, {"tube", "rim", "300 K"}},
				sentence("r1", heat.KeyThrough, patch("rod", "rim")))
		},
	}
}

func reradiatingBox() Case {
	const e1, e2, f = 0.8, 0.5, 0.199825
	space := 1 / (f + (1-f)/2)
	return Case{
		Name:     "Three surfaces that enclose a space",
		About:    "Floor (ε = 0.8, 600 K) and ceiling (ε = 0.5, 300 K) of a box of 1 m, whose walls take no heat and give back what arrives. The reference takes each surface as even.",
		Quantity: "heat that leaves through the floor", Unit: "W", Source: incropera + "section 13.3.5, reradiating surface",
		Reference: (black(600) - black(300)) / ((1-e1)/e1 + space + (1-e2)/e2),
		Sizes:     []string{"200 mm", "100 mm"}, Within: 2e-2,
		Document: func(size string) *model.Document {
			walls := plate("walls", 0, 1000, model.Outline{Kind: "rectangle", Width: "1.2 m", Depth: "1.2 m", Holes: []model.Hole{{Outline: squareOf("1 m")}}})
			return radiating(size, []model.Part{plate("floor", -10, -0.1, squareOf("1 m")), plate("ceiling", 1000.1, 1010, squareOf("1 m")), walls},
				[][3]string{{"floor", "top", "0.8"}, {"ceiling", "bottom", "0.5"}, {"walls", "hole 1", "1"}}, [][3]string{{"floor", "bottom", "600 K"}, {"ceiling", "top", "300 K"}},
				sentence("r1", heat.KeyThrough, patch("floor", "top")))
		},
	}
}

func shieldedPlates() Case {
	const eps = 0.6
	return Case{
		Name:     "Plates with a shield between them",
		About:    "Plates of 1 m at 600 K and 300 K and a shield between them that floats, gaps of 0.5 mm, ε = 0.6 throughout. The reference has no edges.",
		Quantity: "heat that leaves through the warm plate", Unit: "W", Source: incropera + "section 13.3.4: σA(T₁⁴ − T₂⁴)/(2(2/ε − 1))",
		Reference: (black(600) - black(300)) / (2 * (2/eps - 1)), Sizes: []string{"200 mm", "100 mm"}, Within: 1e-2,
		Document: func(size string) *model.Document {
			return radiating(size, []model.Part{plate("warm", -10, 0, squareOf("1 m")), plate("shield", 0.5, 2.5, squareOf("1 m")), plate("cold", 3, 13, squareOf("1 m"))},
				[][3]string{{"warm", "top", "0.6"}, {"shield", "bottom", "0.6"}, {"shield", "top", "0.6"}, {"cold", "bottom", "0.6"}}, [][3]string{{"warm", "bottom", "600 K"}, {"cold", "top", "300 K"}},
				sentence("r1", heat.KeyThrough, patch("warm", "top")))
		},
	}
}

func cylindersInSection() Case {
	const r1, r2, e1, e2, long = 0.01, 0.02, 0.8, 0.4, 0.08
	return Case{
		Name:     "Exchange between endless concentric cylinders",
		About:    "Plane space 80 mm deep: a pipe of 20 mm at 600 K with ε = 0.8 in a tube of 40 mm bore at 300 K with ε = 0.4. Both are polygons in the mesh.",
		Quantity: "heat that leaves through the pipe", Unit: "W", Source: incropera + "table 13.3: σA₁(T₁⁴ − T₂⁴)/(1/ε₁ + (1 − ε₂)/ε₂·r₁/r₂)",
		Reference: 2 * math.Pi * r1 * long * (black(600) - black(300)) / (1/e1 + (1-e2)/e2*r1/r2),
		Sizes:     []string{"2 mm", "1 mm"}, Within: 5e-3,
		Document: func(size string) *model.Document {
			rod, tube := plate("rod", 0, 1, model.Outline{Kind: "ring", Diameter: "20 mm", Inner: "10 mm"}), plate("tube", 0, 1, model.Outline{Kind: "ring", Diameter: "46 mm", Inner: "40 mm"})
			d := radiating(size, []model.Part{rod, tube}, [][3]string{{"rod", "rim", "0.8"}, {"tube", "bore", "0.4"}},
				[][3]string{{"rod", "bore", "600 K"}, {"tube", "rim", "300 K"}}, sentence("r1", heat.KeyThrough, patch("rod", "rim")))
			d.Space.Kind, d.Space.Depth = model.Plane, "80 mm"
			return d
		},
	}
}

func ballInShell() Case {
	const r1, r2, e1, e2 = 0.01, 0.02, 0.8, 0.4
	return Case{
		Name:     "Exchange between concentric spheres",
		About:    "Axial space: a ball of 20 mm at 600 K with ε = 0.8 in a shell of 40 mm bore at 300 K with ε = 0.4. Both are polygons in the mesh.",
		Quantity: "heat that leaves through the ball", Unit: "W", Source: incropera + "table 13.3: σA₁(T₁⁴ − T₂⁴)/(1/ε₁ + (1 − ε₂)/ε₂·(r₁/r₂)²)",
		Reference: 4 * math.Pi * r1 * r1 * (black(600) - black(300)) / (1/e1 + (1-e2)/e2*(r1/r2)*(r1/r2)),
		Sizes:     []string{"2 mm", "1 mm"}, Within: 5e-3,
		Document: func(size string) *model.Document {
			half := func(outer, inner string) model.Outline {
				return model.Outline{Kind: "sector", Diameter: outer, Inner: inner, Angle: "180 deg"}
			}
			ball, shell := plate("ball", 0, 1, half("20 mm", "10 mm")), plate("shell", 0, 1, half("46 mm", "40 mm"))
			ball.Place.Turn, shell.Place.Turn = "-90 deg", "-90 deg"
			d := radiating(size, []model.Part{ball, shell}, [][3]string{{"ball", "rim", "0.8"}, {"shell", "bore", "0.4"}},
				[][3]string{{"ball", "bore", "600 K"}, {"shell", "rim", "300 K"}}, sentence("r1", heat.KeyThrough, patch("ball", "rim")))
			d.Space.Kind = model.Axial
			return d
		},
	}
}
