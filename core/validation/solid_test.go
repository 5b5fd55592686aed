package validation

import (
	"fmt"
	"math"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics/body"
	"saltkettle/core/physics/heat"
	"saltkettle/core/physics/solid"
)

const timoshenko = "Timoshenko, Goodier, Theory of Elasticity, 3rd ed., 1970, "

// Solid lists the cases of elastic deformation.
func Solid() []Case {
	return []Case{pulledBar(), cantilever(), membrane(), pressedTube(), pressedRing(), hotTube(), heatedBar(), bimetal(), tone(), memory()}
}

// elastic is a material that bends; expansion is per kelvin.
func elastic(name string, modulus string, ratio, expansion float64) material.Material {
	m := stuff(name, 20)
	m.Properties[material.YoungsModulus] = material.Property{Value: modulus}
	m.Properties[material.PoissonRatio] = material.Property{Value: fmt.Sprint(ratio)}
	m.Properties[material.Expansion] = material.Property{Value: fmt.Sprintf("%g 1/K", expansion)}
	return m
}

// formula is a reading that is a formula, in a unit.
func formula(text, unit string) model.Sentence {
	s := sentence("r1", "formula", model.Patch{}, "formula", text)
	s.Unit = unit
	return s
}

// cold leaves heat out.
func cold(d *model.Document) *model.Document {
	d.Physics = nil
	return d
}

// rollers keep the left, front and bottom of a block in their planes.
func rollers(id string) []model.Sentence {
	return []model.Sentence{
		sentence("c1", solid.KeyBends, patch(id, "")),
		sentence("c2", solid.KeyMoved, patch(id, "left"), "x", "0 mm"),
		sentence("c3", solid.KeyMoved, patch(id, "front"), "y", "0 mm"),
		sentence("c4", solid.KeyMoved, patch(id, "bottom"), "z", "0 mm"),
	}
}

func pulledBar() Case {
	return Case{
		Name:     "Bar that is pulled",
		About:    "50 × 20 × 10 mm, E = 10 GPa, ν = 0.3, left, front and bottom kept in their planes, 4 kN along x on the right end.",
		Quantity: "sum of the lengthening and ten times the thinning across y", Unit: "µm", Source: "exact: FL/(EA), ν·F/(EA)·b",
		Reference: 1e6 * (4e3*0.05/(10e9*2e-4) - 10*0.3*4e3/(10e9*2e-4)*0.02), Sizes: []string{"5 mm", "2.5 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			return cold(document("bar", size, []model.Part{block("bar", "alloy", 0, 50)}, []material.Material{elastic("alloy", "10 GPa", 0.3, 0)},
				append(rollers("bar"), sentence("c5", solid.KeyForce, patch("bar", "right"), "x", "4 kN")),
				formula("mean(displacement_x over bar.right) + 10*mean(displacement_y over bar.back)", "µm")))
		},
	}
}

func cantilever() Case {
	const l, h, e, f = 0.1, 0.01, 70e9, 100.0
	i, a := 0.02*h*h*h/12, 0.02*h
	return Case{
		Name:     "Cantilever on elements of order 2",
		About:    "100 × 20 × 10 mm, E = 70 GPa, ν = 0, fixed at one end, 100 N along −z on the other.",
		Quantity: "deflection of the end", Unit: "mm", Source: "beam with shear: FL³/(3EI) + FL/(κGA), κ = 5/6",
		Reference: 1e3 * (f*l*l*l/(3*e*i) + f*l/(5./6*e/2*a)), Sizes: []string{"10 mm", "5 mm"}, Within: 1e-3,
		Document: func(size string) *model.Document {
			d := cold(document("beam", size, []model.Part{block("beam", "alloy", 0, 100)}, []material.Material{elastic("alloy", "70 GPa", 0, 0)},
				[]model.Sentence{sentence("c1", solid.KeyBends, patch("beam", "")), sentence("c2", solid.KeyFixed, patch("beam", "left")),
					sentence("c3", solid.KeyForce, patch("beam", "right"), "z", "-100 N")},
				formula("-mean(displacement_z over beam.right)", "mm")))
			d.Mesh.Order = "2"
			return d
		},
	}
}

func membrane() Case {
	return Case{
		Name:     "Tapered panel under shear, on elements of order 2",
		About:    "Plane space, thin: corners (0, 0), (48, 44), (48, 60), (0, 44) m, 1 m deep, E = 1 Pa, ν = 1/3, left edge fixed, 1 N along y on the right edge.",
		Quantity: "displacement along y at (48, 52) m", Unit: "m", Source: "Cook, Malkus, Plesha, Concepts and Applications of Finite Element Analysis, 3rd ed., 1989: 23.96 on fine meshes",
		Reference: 23.96, Sizes: []string{"12 m", "6 m", "3 m"}, Within: 3e-3,
		Document: func(size string) *model.Document {
			o := model.Outline{Kind: "path", Points: []model.Point{{X: "0 m", Y: "0 m"}, {X: "48 m", Y: "44 m"}, {X: "48 m", Y: "60 m"}, {X: "0 m", Y: "44 m"}}}
			d := section(model.Plane, size, o, model.Place{}, []model.Sentence{
				sentence("c1", solid.KeyBends, patch("body", "")), sentence("c2", solid.KeyThin, model.Patch{}),
				sentence("c3", solid.KeyFixed, patch("body", "e4")), sentence("c4", solid.KeyForce, patch("body", "e2"), "y", "1 N")},
				formula("at(displacement_y, 47.999999 m, 52 m, 0 m)", "m"))
			d.Materials = []material.Material{elastic("clay", "1e4 Pa", 1./3, 0)}
			d.Conditions[3].Values["y"] = "1e4 N" // moduli below 10 kPa are asked about
			d.Mesh.Order = "2"
			return cold(d)
		},
	}
}

// Lamé's tube: radii 10 and 30 mm, 20 MPa within, E = 10 GPa, ν = 0.3.
const (
	bore, outside, within = 0.01, 0.03, 20e6
	tubeModulus, tubeNu   = 10e9, 0.3
)

func pressedTube() Case {
	a, b := bore, outside
	return Case{
		Name:     "Thick tube under pressure, axial space, on elements of order 2",
		About:    "Radii 10 and 30 mm, 20 mm long between planes that keep their place, 20 MPa within, E = 10 GPa, ν = 0.3.",
		Quantity: "widening of the bore", Unit: "µm", Source: timoshenko + "section 28 (Lamé), without strain along the axis",
		Reference: 1e6 * (1 + tubeNu) * within * a * a / (tubeModulus * (b*b - a*a)) * ((1-2*tubeNu)*a + b*b/a),
		Sizes:     []string{"8 mm", "4 mm", "2 mm"}, MinOrder: 2.8,
		Document: func(size string) *model.Document {
			d := tube(size)
			d.Conditions = append(d.Conditions, sentence("c4", solid.KeyPressure, patch("body", "left"), "pressure", "20 MPa"))
			d.Readings = []model.Sentence{formula("mean(displacement_x over body.left)", "µm")}
			return cold(d)
		},
	}
}

// tube is a wall round the axis between planes that keep their place.
func tube(size string) *model.Document {
	d := section(model.Axial, size, model.Outline{Kind: "rectangle", Width: "20 mm", Depth: "20 mm"}, model.Place{X: "20 mm"},
		[]model.Sentence{sentence("c1", solid.KeyBends, patch("body", "")),
			sentence("c2", solid.KeyMoved, patch("body", "front"), "y", "0 mm"), sentence("c3", solid.KeyMoved, patch("body", "back"), "y", "0 mm")},
		sentence("r1", solid.KeyMises, patch("body", "")))
	d.Materials = []material.Material{elastic("clay", "10 GPa", tubeNu, 1e-5)}
	d.Mesh.Order = "2"
	return d
}

func pressedRing() Case {
	a, b := bore, outside
	return Case{
		Name:     "Thin ring under pressure, plane space, on elements of order 2",
		About:    "A quarter of a ring between rollers, radii 10 and 30 mm, 20 MPa within, E = 10 GPa, ν = 0.3, without stress across the plane. Edges are curved.",
		Quantity: "widening of the bore", Unit: "µm", Source: timoshenko + "section 28 (Lamé)",
		Reference: 1e6 * within * a / tubeModulus * ((a*a+b*b)/(b*b-a*a) + tubeNu),
		Sizes:     []string{"8 mm", "4 mm", "2 mm"}, MinOrder: 2,
		Document: func(size string) *model.Document {
			d := section(model.Plane, size, model.Outline{Kind: "sector", Diameter: "60 mm", Inner: "20 mm", Angle: "90°"}, model.Place{},
				[]model.Sentence{sentence("c1", solid.KeyBends, patch("body", "")), sentence("c2", solid.KeyThin, model.Patch{}),
					sentence("c3", solid.KeyMoved, patch("body", "start"), "y", "0 mm"), sentence("c4", solid.KeyMoved, patch("body", "end"), "x", "0 mm"),
					sentence("c5", solid.KeyPressure, patch("body", "bore"), "pressure", "20 MPa")},
				formula("mean(displacement over body.bore)", "µm"))
			d.Materials = []material.Material{elastic("clay", "10 GPa", tubeNu, 0)}
			d.Mesh.Order = "2"
			return cold(d)
		},
	}
}

func hotTube() Case {
	a, b := bore, outside
	log := math.Log(b / a)
	return Case{
		Name:     "Thick tube that is hotter within, on elements of order 2",
		About:    "The tube of Lamé without pressure, 120 °C within and 20 °C without, free of stress at 20 °C, α = 10 µm/(m·K): heat is solved first, then the deformation.",
		Quantity: "stress round the axis at the bore", Unit: "MPa", Source: timoshenko + "section 151",
		Reference: 1e-6 * tubeModulus * 1e-5 * 100 / (2 * (1 - tubeNu) * log) * (1 - 2*b*b/(b*b-a*a)*log),
		Sizes:     []string{"8 mm", "4 mm", "2 mm"}, MinOrder: 1.4, Finest: 1e-2,
		Document: func(size string) *model.Document {
			d := tube(size)
			d.Conditions = append(d.Conditions, sentence("c4", solid.KeyExpands, patch("body", ""), "temperature", "20 °C"),
				sentence("c5", heat.KeyHeld, patch("body", "left"), "temperature", "120 °C"), sentence("c6", heat.KeyHeld, patch("body", "right"), "temperature", "20 °C"))
			d.Readings = []model.Sentence{formula("mean(stress_zz over body.left)", "MPa")}
			return d
		},
	}
}

func heatedBar() Case {
	return Case{
		Name:     "Bar between ends of different temperature, on elements of order 2",
		About:    "50 × 20 × 10 mm, 20 °C and 120 °C at its ends, free of stress at 20 °C, α = 10 µm/(m·K), ν = 0.3, left, front and bottom kept in their planes.",
		Quantity: "lengthening, mean over the hot end", Unit: "µm", Source: "exact by reciprocity: α∫ΔT dV/A",
		Reference: 1e6 * 1e-5 * 50 * 0.05, Sizes: []string{"10 mm", "5 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			d := document("bar", size, []model.Part{block("bar", "alloy", 0, 50)}, []material.Material{elastic("alloy", "10 GPa", 0.3, 1e-5)},
				append(rollers("bar"), sentence("c5", solid.KeyExpands, patch("bar", ""), "temperature", "20 °C"),
					sentence("c6", heat.KeyHeld, patch("bar", "left"), "temperature", "20 °C"), sentence("c7", heat.KeyHeld, patch("bar", "right"), "temperature", "120 °C")),
				formula("mean(displacement_x over bar.right)", "µm"))
			d.Mesh.Order = "2"
			return d
		},
	}
}

func bimetal() Case {
	const l, rise, alpha = 0.1, 100.0, 1e-5
	// Two layers of the same thickness and stiffness: the curvature is 3/2·Δα·ΔT/h with h that
	// of both; of the free end it makes κ·L²/2.
	const h = 0.004
	return Case{
		Name:     "Strip of two metals, on elements of order 2",
		About:    "Plane space, thin: 100 mm long, two layers of 2 mm with E = 100 GPa, ν = 0, one with α = 10 µm/(m·K) and one without, 100 K warmer than free of stress, one end kept in its plane.",
		Quantity: "deflection of the end", Unit: "mm", Source: "Timoshenko, J. Opt. Soc. Am. 11 (1925) 233: 3·Δα·ΔT/(2h)·L²/2",
		Reference: 1e3 * 1.5 * alpha * rise / h * l * l / 2, Sizes: []string{"1 mm", "0.5 mm"}, Within: 2e-3,
		Document: func(size string) *model.Document {
			d := section(model.Plane, size, model.Outline{Kind: "rectangle", Width: "100 mm", Depth: "2 mm"}, model.Place{X: "50 mm", Y: "1 mm"}, nil,
				formula("mean(displacement_y over body.right)", "mm"))
			upper := d.Parts[0]
			upper.ID, upper.Name, upper.Material, upper.Place.Y = "upper", "upper", "stiff", "3 mm"
			d.Parts = append(d.Parts, upper)
			d.Materials = []material.Material{elastic("clay", "100 GPa", 0, alpha), elastic("stiff", "100 GPa", 0, 0)}
			d.Conditions = []model.Sentence{sentence("c1", solid.KeyBends, patch("body", "")), sentence("c2", solid.KeyBends, patch("upper", "")), sentence("c3", solid.KeyThin, model.Patch{}),
				sentence("c4", solid.KeyMoved, patch("body", "left"), "x", "0 mm"), sentence("c5", solid.KeyMoved, patch("upper", "left"), "x", "0 mm", "y", "0 mm"),
				sentence("c6", solid.KeyExpands, patch("body", ""), "temperature", "20 °C"),
				sentence("c7", heat.KeyHeld, patch("body", "front"), "temperature", "120 °C"), sentence("c8", heat.KeyHeld, patch("upper", "back"), "temperature", "120 °C")}
			d.Mesh.Order = "2"
			return d
		},
	}
}

func tone() Case {
	const l, h, e, rho, root = 0.1, 0.004, 70e9, 1000.0, 1.875104068711961
	return Case{
		Name:     "Lowest tone of a cantilever, on elements of order 2",
		About:    "Plane space, thin: 100 × 4 mm, E = 70 GPa, ν = 0, ρ = 1000 kg/m³, fixed at one end.",
		Quantity: "frequency", Unit: "Hz", Source: "slender beam: β₁²/(2πL²)·√(EI/(ρA)), β₁ = 1.8751; shear and rotation take 0.1 % away",
		Reference: root * root / (2 * math.Pi * l * l) * math.Sqrt(e/rho*h*h/12), Sizes: []string{"2 mm", "1 mm"}, Within: 2e-3,
		Document: func(size string) *model.Document {
			d := section(model.Plane, size, model.Outline{Kind: "rectangle", Width: "100 mm", Depth: "4 mm"}, model.Place{},
				[]model.Sentence{sentence("c1", solid.KeyBends, patch("body", "")), sentence("c2", solid.KeyThin, model.Patch{}), sentence("c3", solid.KeyFixed, patch("body", "left"))},
				sentence("r1", body.KeyMode, model.Patch{}, body.Number, "1"))
			d.Materials = []material.Material{elastic("clay", "70 GPa", 0, 0)}
			d.Mesh.Order = "2"
			d.Run = model.Run{Kind: model.Modes, Count: "1"}
			return cold(d)
		},
	}
}

func memory() Case {
	const l = 0.05
	return Case{
		Name:     "Slowest decay of what a wall remembers",
		About:    "Plane space: 50 × 5 mm, ends held, k = 2 W/(m·K), ρ = 1000 kg/m³, c = 1000 J/(kg·K).",
		Quantity: "rate of the third mode", Unit: "1/s", Source: carslaw + "section 3.3: k/(ρc)·(3π/L)²",
		Reference: 2e-6 * 9 * math.Pi * math.Pi / (l * l), Sizes: []string{"2 mm", "1 mm", "0.5 mm"}, MinOrder: 1.7, Finest: 1e-2,
		Document: func(size string) *model.Document {
			d := section(model.Plane, size, model.Outline{Kind: "rectangle", Width: "50 mm", Depth: "5 mm"}, model.Place{},
				[]model.Sentence{sentence("c1", heat.KeyHeld, patch("body", "left"), "temperature", "300 K"), sentence("c2", heat.KeyHeld, patch("body", "right"), "temperature", "400 K")},
				sentence("r1", body.KeyMode, model.Patch{}, body.Number, "3"))
			d.Readings[0].Unit = "1/s"
			d.Materials[0].Properties[material.HeatCapacity] = material.Property{Value: "1000 J/(kg·K)"}
			d.Run = model.Run{Kind: model.Modes, Count: "3"}
			return d
		},
	}
}
