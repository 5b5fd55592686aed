package validation

import (
	"fmt"
	"math"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics/flow"
	"saltkettle/core/physics/heat"
)

// Flow lists the cases of laminar flow.
func Flow() []Case {
	return []Case{channel(), longPipe(), annulus(), kovasznay(), cavity("-least speed along x", "-velocity_x", "0.5 m, 0.1717 m", 0.3885698), cavity("greatest speed along y", "velocity_y", "0.1578 m, 0.5 m", 0.3769447),
		aroundARod("drag", "x", 5.57953523384), aroundARod("lift", "y", 0.010618948146),
		manyRods(0.05, 15.56), manyRods(0.1, 24.83), manyRods(0.2, 51.53),
		heatedBox("1e4", 2.2448), heatedBox("1e5", 4.5216), warmedStream()}
}

// runny is a fluid of 1000 kg/m³.
func runny(viscosity float64) material.Material {
	return material.Material{Name: "clay", Family: "liquid", Properties: map[material.Key]material.Property{
		material.Density: {Value: "1000 kg/m³"}, material.Viscosity: {Value: fmt.Sprintf("%g Pa·s", viscosity)},
		material.HeatCapacity: {Value: "4000 J/(kg·K)"}, material.Conductivity: {Value: "20 W/(m·K)"}}}
}

// flowing is a section that flows.
func flowing(kind, size string, width, depth, x, y string, viscosity float64, conditions []model.Sentence, reading model.Sentence) *model.Document {
	d := section(kind, size, model.Outline{Kind: "rectangle", Width: width, Depth: depth}, model.Place{X: x, Y: y},
		append([]model.Sentence{sentence("c1", flow.KeyFlows, patch("body", ""))}, conditions...), reading)
	d.Materials = []material.Material{runny(viscosity)}
	d.Mesh.Order = "2"
	return cold(d)
}

func channel() Case {
	return Case{
		Name:     "Channel between plates",
		About:    "Plane space, 20 mm wide and 60 mm long, 1000 kg/m³, 0.02 Pa·s, 0.05 m/s on the mean, as from a long channel.",
		Quantity: "pressure that is lost", Unit: "Pa", Source: "exact: 12µUL/H²",
		Reference: 12 * 0.02 * 0.05 * 0.06 / (0.02 * 0.02), Sizes: []string{"10 mm", "5 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			return flowing(model.Plane, size, "60 mm", "20 mm", "30 mm", "10 mm", 0.02, []model.Sentence{
				sentence("c2", flow.KeyChannel, patch("body", "left"), "speed", "0.05 m/s"), sentence("c3", flow.KeyOpening, patch("body", "right"))},
				sentence("r1", flow.KeyMean, patch("body", "left")))
		},
	}
}

func longPipe() Case {
	return Case{
		Name:     "Pipe, axial space",
		About:    "Radius 20 mm, 60 mm long, 1000 kg/m³, 0.02 Pa·s, 0.05 m/s on the mean, as from a long pipe.",
		Quantity: "pressure that is lost", Unit: "Pa", Source: "exact: 8µUL/R²",
		Reference: 8 * 0.02 * 0.05 * 0.06 / (0.02 * 0.02), Sizes: []string{"10 mm", "5 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			return flowing(model.Axial, size, "20 mm", "60 mm", "10 mm", "30 mm", 0.02, []model.Sentence{
				sentence("c2", flow.KeyChannel, patch("body", "front"), "speed", "0.05 m/s"), sentence("c3", flow.KeyOpening, patch("body", "back"))},
				sentence("r1", flow.KeyMean, patch("body", "front")))
		},
	}
}

// manyRods is a square array of rods that take a share of the room, through which a fluid flows slowly: a rod and what flows
// by it, which repeats.
func manyRods(share, reference float64) Case {
	const drop, mu, apart = 1e-3, 0.02, 0.01
	return Case{
		Name:     fmt.Sprintf("Rods in a square array, which take %g of the room", share),
		About:    "Plane space 1 m deep, rods 10 mm apart, 1000 kg/m³, 0.02 Pa·s, 1 mPa from one to the next; the flow repeats.",
		Quantity: "volume that flows between two middles", Unit: "m³/s", Source: fmt.Sprintf("Sangani, Acrivos, Int. J. Multiphase Flow 8 (1982) 193: a rod takes %g·µu", reference),
		Reference: drop * apart / (mu * reference) * apart, Sizes: []string{"1 mm", "0.5 mm"}, Within: 2e-3,
		Document: func(size string) *model.Document {
			doc := flowing(model.Plane, size, "10 mm", "10 mm", "5 mm", "5 mm", mu, []model.Sentence{
				sentence("c2", flow.KeyRepeats, patch("body", "left"), "pressure", "1e-3 Pa", "x", "10 mm"),
				sentence("c3", flow.KeySlips, patch("body", "front")), sentence("c4", flow.KeySlips, patch("body", "back")),
			}, sentence("r1", flow.KeyVolumeFlow, patch("body", "right")))
			doc.Parts[0].Outline.Holes = []model.Hole{{Outline: model.Outline{Kind: "disc", Diameter: fmt.Sprintf("%.12g mm", 20*math.Sqrt(share/math.Pi))}}}
			doc.Readings[0].Unit = "m³/s"
			doc.Enumerate()
			return doc
		},
	}
}

func annulus() Case {
	const r, k, u, mu, l = 0.03, 1. / 3, 0.02, 0.05, 0.04
	ln := math.Log(1 / k)
	return Case{
		Name:     "Room between two pipes, axial space",
		About:    "Radii 10 and 30 mm, 40 mm long, 1000 kg/m³, 0.05 Pa·s, 0.02 m/s on the mean, as from a long one.",
		Quantity: "pressure that is lost", Unit: "Pa", Source: "Bird, Stewart, Lightfoot, Transport Phenomena, 2nd ed., 2002, equation 2.4-16",
		Reference: 8 * mu * u * l / (r * r * (1 + k*k - (1-k*k)/ln)), Sizes: []string{"10 mm", "5 mm", "2.5 mm"}, MinOrder: 2.3,
		Document: func(size string) *model.Document {
			return flowing(model.Axial, size, "20 mm", "40 mm", "20 mm", "20 mm", mu, []model.Sentence{
				sentence("c2", flow.KeyChannel, patch("body", "front"), "speed", "0.02 m/s"), sentence("c3", flow.KeyOpening, patch("body", "back"))},
				sentence("r1", flow.KeyMean, patch("body", "front")))
		},
	}
}

func kovasznay() Case {
	lambda := 20 - math.Sqrt(400+4*math.Pi*math.Pi)
	u := fmt.Sprintf("1 m/s*(1 - exp(%.15g*x/1 m)*cos(2*pi*y/1 m))", lambda)
	v := fmt.Sprintf("%.15g m/s*exp(%.15g*x/1 m)*sin(2*pi*y/1 m)", lambda/(2*math.Pi), lambda)
	return Case{
		Name:     "Stream behind a grid",
		About:    "Plane space, 1.5 × 1 m, 1000 kg/m³, 25 Pa·s (Reynolds number 40), the velocity of the exact solution all round.",
		Quantity: "speed along x at (0.3, 0.1) m", Unit: "m/s", Source: "Kovasznay, Proc. Camb. Phil. Soc. 44 (1948) 58: 1 − exp(λx)·cos 2πy",
		Reference: 1 - math.Exp(lambda*0.3)*math.Cos(2*math.Pi*0.1), Sizes: []string{"0.2 m", "0.1 m", "0.05 m"}, MinOrder: 2,
		Document: func(size string) *model.Document {
			return flowing(model.Plane, size, "1.5 m", "1 m", "0.25 m", "0 m", 25, []model.Sentence{
				sentence("c2", flow.KeyWallMoves, patch("body", model.WholeSurface), "x", u, "y", v)},
				formula("at(velocity_x, 0.3 m, 0.1 m, 0 m)", "m/s"))
		},
	}
}

func cavity(what, name, place string, reference float64) Case {
	return Case{
		Name:     "Box whose lid moves, Reynolds number 1000",
		About:    "Plane space, 1 × 1 m, 1000 kg/m³, 1 Pa·s, the lid moves along itself at 1 m/s.",
		Quantity: what + " on the middle line, at (" + place + ")", Unit: "m/s", Source: "Botella, Peyret, Comput. Fluids 27 (1998) 421, table 9 and 10",
		Reference: reference, Sizes: []string{"0.06 m", "0.03 m", "0.02 m"}, Within: 2e-3,
		Document: func(size string) *model.Document {
			return flowing(model.Plane, size, "1 m", "1 m", "0.5 m", "0.5 m", 1, []model.Sentence{
				sentence("c2", flow.KeyWallMoves, patch("body", "back"), "x", "1 m/s")},
				formula(signed(name, place), "m/s"))
		},
	}
}

// signed is a reading at a place, with the sign that stands before a name.
func signed(name, place string) string {
	if name[0] == '-' {
		return fmt.Sprintf("-at(%s, %s, 0 m)", name[1:], place)
	}
	return fmt.Sprintf("at(%s, %s, 0 m)", name, place)
}

func heatedBox(rayleigh string, nusselt float64) Case {
	return Case{
		Name:     "Heated box, Rayleigh number " + rayleigh,
		About:    "Plane space, 1 × 1 m, Prandtl number 0.71, left at 300.5 K, right at 299.5 K, the other sides let no heat through; what is warm is lighter by a thousandth for each kelvin.",
		Quantity: "heat that passes, relative to that at rest", Unit: "W", Source: "de Vahl Davis, Int. J. Numer. Methods Fluids 3 (1983) 249; to more digits Le Quéré, Comput. Fluids 20 (1991) 29, and others",
		Reference: nusselt, Sizes: []string{"0.08 m", "0.04 m"}, Within: 2e-3,
		Document: func(size string) *model.Document {
			d := flowing(model.Plane, size, "1 m", "1 m", "0.5 m", "0.5 m", 0.71, []model.Sentence{
				sentence("c2", heat.KeyHeld, patch("body", "left"), "temperature", "300.5 K"), sentence("c3", heat.KeyHeld, patch("body", "right"), "temperature", "299.5 K"),
				sentence("c4", flow.KeyGravity, model.Patch{}, "y", "-710 m/s²*"+rayleigh, "temperature", "300 K")},
				sentence("r1", heat.KeyThrough, patch("body", "right")))
			return buoyant(d)
		},
	}
}

// buoyant gives what fills a document conductivity, heat capacity and expansion of about one.
func buoyant(d *model.Document) *model.Document {
	p := d.Materials[0].Properties
	p[material.Density] = material.Property{Value: "1 kg/m³*(1 - 0.001 1/K*(temperature - 300 K))"}
	p[material.HeatCapacity], p[material.Conductivity] = material.Property{Value: "1 J/(kg·K)"}, material.Property{Value: "1 W/(m·K)"}
	d.Physics = []model.Physics{{Kind: "heat"}}
	return d
}

func warmedStream() Case {
	return Case{
		Name:     "Stream between walls that give heat",
		About:    "Plane space, 4 mm wide and 60 mm long, 0.01 m/s on the mean, 5 kW/m² from either side, 20 W/(m·K), 4 kJ/(kg·K).",
		Quantity: "wall above the middle, 48 mm down the stream", Unit: "K", Source: "exact far from the inlet: 5/8·qH/k, H half the width",
		Reference: 5. / 8 * 5e3 * 0.002 / 20, Sizes: []string{"2 mm", "1 mm", "0.5 mm"}, Within: 1e-3,
		Document: func(size string) *model.Document {
			d := flowing(model.Plane, size, "60 mm", "4 mm", "30 mm", "2 mm", 0.02, []model.Sentence{
				sentence("c2", flow.KeyChannel, patch("body", "left"), "speed", "0.01 m/s"), sentence("c3", flow.KeyOpening, patch("body", "right")),
				sentence("c4", heat.KeyHeld, patch("body", "left"), "temperature", "300 K"),
				sentence("c5", heat.KeyFlux, patch("body", "front"), "flux", "5 kW/m²"), sentence("c6", heat.KeyFlux, patch("body", "back"), "flux", "5 kW/m²")},
				formula("at(temperature, 48 mm, 0 mm, 0 mm) - at(temperature, 48 mm, 2 mm, 0 mm)", "K"))
			d.Physics = []model.Physics{{Kind: "heat"}}
			return d
		},
	}
}

// aroundARod is the benchmark of a cylinder in a channel, a little aside of its middle.
func aroundARod(what, axis string, coefficient float64) Case {
	return Case{
		Name:     "Cylinder in a channel, Reynolds number 20: " + what,
		About:    "Plane space, 2.2 × 0.41 m, cylinder of 0.1 m at (0.2, 0.2) m, 500 m long so that ½ρU²D is 1 N, 1 kg/m³, 0.001 Pa·s, 0.2 m/s on the mean as from a long channel.",
		Quantity: "force on the cylinder, over ½ρU²D", Unit: "N", Source: "Schäfer, Turek, Notes on Numerical Fluid Mechanics 52 (1996) 547, case 2D-1; to more digits John, Matthies, Int. J. Numer. Methods Fluids 37 (2001) 885",
		Reference: coefficient, Sizes: []string{"40 mm", "20 mm"}, Within: map[string]float64{"x": 1e-3, "y": 3e-2}[axis],
		Document: func(size string) *model.Document {
			d := flowing(model.Plane, size, "2.2 m", "0.41 m", "1.1 m", "0.205 m", 0.001, []model.Sentence{
				sentence("c2", flow.KeyChannel, patch("body", "left"), "speed", "0.2 m/s"), sentence("c3", flow.KeyOpening, patch("body", "right"))},
				sentence("r1", flow.KeyForce, patch("body", "hole 1"), "axis", axis))
			d.Materials[0].Properties[material.Density] = material.Property{Value: "1 kg/m³"}
			d.Space.Depth = "500 m" // so that ½ρU²D is 1 N
			d.Parts[0].Outline.Holes = []model.Hole{{Outline: model.Outline{Kind: "disc", Diameter: "0.1 m"}, X: "-0.9 m", Y: "-0.005 m"}}
			d.Mesh.Near = []model.MeshNear{{On: patch("body", "hole 1"), Size: map[string]string{"40 mm": "8 mm", "20 mm": "3 mm"}[size]}}
			d.Enumerate()
			return d
		},
	}
}
