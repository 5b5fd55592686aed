package validation

import (
	"fmt"
	"math"
	"math/cmplx"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics/body"
	"saltkettle/core/physics/solid"
)

// Bending lists the cases of deformation that is large, of materials of other kinds, of what spins, buckles and swings.
func Bending() []Case {
	return []Case{pulledHole(), spinningDisc(), slantedGrain(), elastica(), swollenTube(), strut(), string_(), freeBeam(), sparsePlate(), dampedBar()}
}

// bends makes a section of a material bend, thin if it is one.
func bends(d *model.Document, m material.Material, more ...model.Sentence) *model.Document {
	m.Name = "clay"
	d.Materials = []material.Material{m}
	d.Conditions = append([]model.Sentence{sentence("c1", solid.KeyBends, patch("body", ""))}, more...)
	for i := range d.Conditions {
		d.Conditions[i].ID = fmt.Sprintf("c%d", i+1)
	}
	d.Enumerate()
	return cold(d)
}

// strip is a section 100 mm long and of some thickness, from x = 0, 10 mm deep.
func strip(size, thick string, reading model.Sentence) *model.Document {
	d := section(model.Plane, size, model.Outline{Kind: "rectangle", Width: "100 mm", Depth: thick}, model.Place{X: "50 mm"}, nil, reading)
	d.Space.Depth = "10 mm"
	return d
}

func pulledHole() Case {
	return Case{
		Name:     "Wide plate with a hole that is pulled",
		About:    "Plane space, thin: 80 × 80 mm with a hole of 20 mm, cut to a quarter; on the other edges acts what an endless plate pulled by 10 MPa has there; E = 70 GPa, ν = 0.3.",
		Quantity: "stress at the rim across the pull", Unit: "MPa", Source: timoshenko + "section 35 (Kirsch): 3σ", Reference: 30,
		Sizes: []string{"8 mm", "4 mm", "2 mm"}, Within: 2e-3,
		Document: func(size string) *model.Document {
			o := model.Outline{Kind: "rectangle", Width: "80 mm", Depth: "80 mm", Holes: []model.Hole{{Outline: model.Outline{Kind: "disc", Diameter: "20 mm"}}}}
			d := section(model.Plane, size, o, model.Place{}, nil, formula("at(stress_xx, 0.000001 mm, 10.000001 mm, 0 mm)", "MPa"))
			d.Space.Cuts = []model.Cut{{Across: "x", At: "0 mm", Keep: "greater"}, {Across: "y", At: "0 mm", Keep: "greater"}}
			q := "(10 mm/r)^2"
			xx := fmt.Sprintf("10 MPa*(1 - %s*(1.5*cos(2*theta) + cos(4*theta)) + 1.5*%s^2*cos(4*theta))", q, q)
			yy := fmt.Sprintf("10 MPa*(-%s*(0.5*cos(2*theta) - cos(4*theta)) - 1.5*%s^2*cos(4*theta))", q, q)
			xy := fmt.Sprintf("10 MPa*(-%s*(0.5*sin(2*theta) + sin(4*theta)) + 1.5*%s^2*sin(4*theta))", q, q)
			d.Mesh.Near = []model.MeshNear{{On: patch("body", "hole 1"), Size: size + "/4"}}
			return bends(d, elastic("clay", "70 GPa", 0.3, 0), sentence("", solid.KeyThin, model.Patch{}),
				sentence("", solid.KeySpread, patch("body", "right"), "x", xx, "y", xy),
				sentence("", solid.KeySpread, patch("body", "back"), "x", xy, "y", yy))
		},
	}
}

func spinningDisc() Case {
	const a, b, nu, rho, w = 0.02, 0.08, 0.3, 1000.0, 1000.0
	return Case{
		Name:     "Spinning ring",
		About:    "Plane space, thin: radii 20 and 80 mm, cut to a quarter, 1000 rad/s about its axis, ρ = 1000 kg/m³, E = 70 GPa, ν = 0.3.",
		Quantity: "modulus times the strain round the bore", Unit: "MPa", Source: timoshenko + "section 32: (3+ν)/4·ρω²·(b² + (1−ν)/(3+ν)·a²)",
		Reference: 1e-6 * (3 + nu) / 4 * rho * w * w * (b*b + (1-nu)/(3+nu)*a*a), Sizes: []string{"16 mm", "4 mm", "2 mm"}, MinOrder: 2.5,
		Document: func(size string) *model.Document {
			d := section(model.Plane, size, model.Outline{Kind: "sector", Diameter: "160 mm", Inner: "40 mm", Angle: "90°"}, model.Place{}, nil, formula("mean(displacement_r over body.bore)/20 mm*70 GPa", "MPa"))
			return bends(d, elastic("clay", "70 GPa", nu, 0), sentence("", solid.KeyThin, model.Patch{}), sentence("", solid.KeySlides, patch("body", "start")), sentence("", solid.KeySlides, patch("body", "end")),
				sentence("", solid.KeySpin, patch("body", ""), "speed", "1000 rad/s", "axis", "z"))
		},
	}
}

func slantedGrain() Case {
	const e1, e2, g, nu, angle, pull = 12e9, 1e9, 0.7e9, 0.4, math.Pi / 6, 10e6
	c, s := math.Cos(angle), math.Sin(angle)
	// The strains of a pull along x, from the compliance along the axes of the grain.
	s11, s22, s12, s66 := 1/e1, 1/e2, -nu/e1, 1/g
	along := c*c*c*c*s11 + s*s*s*s*s22 + c*c*s*s*(2*s12+s66)
	across := s12*(c*c*c*c+s*s*s*s) + c*c*s*s*(s11+s22-s66)
	shear := 2*s11*c*c*c*s - 2*s22*c*s*s*s - (2*s12+s66)*(c*c*c*s-c*s*s*s)
	return Case{
		Name:     "Panel pulled aslant to its grain",
		About:    "Plane space, thin: 100 × 20 mm of wood with its grain turned by 30°, E = 12 and 1 GPa, G = 0.7 GPa, ν = 0.4, pulled by 10 MPa along x.",
		Quantity: "lengthening and ten times what it slants", Unit: "µm", Source: "exact: the compliance, turned (S. G. Lekhnitskii, Theory of Elasticity of an Anisotropic Body, 1963)",
		Reference: 1e6 * pull * (along*0.1 + 10*shear*0.1), Sizes: []string{"10 mm", "5 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			d := section(model.Plane, size, model.Outline{Kind: "path", Points: []model.Point{
				// Turned back by 30° in its own axes, so that it lies along x.
				{X: cornered(0, -10, -angle)[0], Y: cornered(0, -10, -angle)[1]}, {X: cornered(100, -10, -angle)[0], Y: cornered(100, -10, -angle)[1]},
				{X: cornered(100, 10, -angle)[0], Y: cornered(100, 10, -angle)[1]}, {X: cornered(0, 10, -angle)[0], Y: cornered(0, 10, -angle)[1]},
			}}, model.Place{Turn: "30 deg"}, nil, formula("mean(displacement_x over body.e2) + 10*(mean(displacement_y over body.e2) - mean(displacement_y over body.e4))", "µm"))
			m := elastic("clay", "12 GPa", nu, 0)
			m.Properties[material.YoungsModulusY] = material.Property{Value: "1 GPa"}
			m.Properties[material.YoungsModulusZ] = material.Property{Value: "1 GPa"}
			m.Properties[material.ShearModulus] = material.Property{Value: "0.7 GPa"}
			return bends(d, m, sentence("", solid.KeyThin, model.Patch{}),
				sentence("", solid.KeyMoved, patch("body", "e4"), "x", "0 mm", "y", fmt.Sprintf("%.17g*y", pull*across)),
				sentence("", solid.KeySpread, patch("body", "e2"), "x", "10 MPa"),
				sentence("", solid.KeySpread, patch("body", "e1"), "x", "0 MPa"))
		},
	}
}

// cornered is a place, mm, turned about the origin.
func cornered(x, y, turn float64) [2]string {
	c, s := math.Cos(turn), math.Sin(turn)
	return [2]string{fmt.Sprintf("%.15g mm", c*x-s*y), fmt.Sprintf("%.15g mm", s*x+c*y)}
}

func elastica() Case {
	return Case{
		Name:     "Strip bent far by a force at its end",
		About:    "Plane space, thin: 100 × 1 mm, 10 mm deep, E = 12 GPa, ν = 0, fixed at one end, 10 N along y on the other, ten times EI/L².",
		Quantity: "way of the end along y", Unit: "mm", Source: "elastica: K. Mattiasson, Int. J. Numer. Meth. Engng. 17 (1981) 145: 0.81061·L",
		Reference: 81.061, Sizes: []string{"4 mm", "0.7 mm"}, Within: 1e-3,
		Document: func(size string) *model.Document {
			d := strip(size, "1 mm", formula("mean(displacement_y over body.right)", "mm"))
			d.Mesh.Across = "1"
			return bends(d, elastic("clay", "12 GPa", 0, 0), sentence("", solid.KeyThin, model.Patch{}), sentence("", solid.KeyLarge, model.Patch{}),
				sentence("", solid.KeyFixed, patch("body", "left")), sentence("", solid.KeyForce, patch("body", "right"), "y", "10 N"))
		},
	}
}

func swollenTube() Case {
	const first, last, mu = 10.0, 20.0, 1e6 // mm, Pa
	a := 15.0
	grows := a*a - first*first
	b := math.Sqrt(last*last + grows)
	p := mu * (math.Log(last/first) - math.Log(b/a) + grows/2*(1/(a*a)-1/(b*b)))
	return Case{
		Name:     "Thick tube of rubber that is blown up",
		About:    fmt.Sprintf("Axial space: radii 10 and 20 mm between planes that keep their place, E = 3 MPa, ν = 0.5, %.6g MPa within, which follows the wall.", p*1e-6),
		Quantity: "widening of the bore", Unit: "mm", Source: "exact, neo-Hookean and without change of volume: p = µ·[ln(B/A) − ln(b/a) + (a² − A²)/2·(1/a² − 1/b²)]",
		Reference: a - first, Sizes: []string{"5 mm", "2.5 mm", "1.25 mm"}, MinOrder: 2.8,
		Document: func(size string) *model.Document {
			d := section(model.Axial, size, model.Outline{Kind: "rectangle", Width: "10 mm", Depth: "10 mm"}, model.Place{X: "15 mm"}, nil, formula("mean(displacement_x over body.left)", "mm"))
			return bends(d, elastic("clay", "3 MPa", 0.5, 0), sentence("", solid.KeyLarge, model.Patch{}), sentence("", solid.KeyRubber, patch("body", "")),
				sentence("", solid.KeyMoved, patch("body", "front"), "y", "0 mm"), sentence("", solid.KeyMoved, patch("body", "back"), "y", "0 mm"),
				sentence("", solid.KeyPressure, patch("body", "left"), "pressure", fmt.Sprintf("%.15g Pa", p)))
		},
	}
}

func strut() Case {
	const l, h, e = 0.1, 0.002, 70e9
	i, a := 0.01*h*h*h/12, 0.01*h
	euler := math.Pi * math.Pi * e * i / (4 * l * l)
	return Case{
		Name:     "Strut that buckles",
		About:    "Plane space, thin: 100 × 2 mm, 10 mm deep, E = 70 GPa, ν = 0, fixed at one end, pressed by 10 N at the other.",
		Quantity: "factor until it buckles", Unit: "", Source: "Euler's load π²EI/(4L²), with shear: 1/(1/P + 1/(κGA)) (S. Timoshenko, J. M. Gere, Theory of Elastic Stability, 2nd ed., 1961, section 2.17)",
		Reference: 1 / (1/euler + 1/(5./6*e/2*a)) / 10, Sizes: []string{"4 mm", "0.9 mm"}, Within: 1e-3,
		Document: func(size string) *model.Document {
			d := strip(size, "2 mm", sentence("r1", solid.KeyBuckling, patch("body", "")))
			return bends(d, elastic("clay", "70 GPa", 0, 0), sentence("", solid.KeyThin, model.Patch{}),
				sentence("", solid.KeyFixed, patch("body", "left")), sentence("", solid.KeyForce, patch("body", "right"), "x", "-10 N"))
		},
	}
}

func string_() Case {
	const l, h, e, rho, pull = 0.1, 0.001, 70e9, 1000.0, 500.0
	i, a := 0.01*h*h*h/12, 0.01*h
	return Case{
		Name:     "Strip that is stretched and swings",
		About:    "Plane space, thin: 100 × 1 mm, 10 mm deep, E = 70 GPa, ν = 0, ρ = 1000 kg/m³, both ends free to turn about their middles as they keep their place across, pulled by 500 N.",
		Quantity: "lowest frequency of bending", Unit: "Hz", Source: "beam under tension: 1/(2L)·√((T + π²EI/L²)/(ρA))",
		Reference: 1 / (2 * l) * math.Sqrt((pull+math.Pi*math.Pi*e*i/(l*l))/(rho*a)), Sizes: []string{"4 mm", "0.7 mm"}, Within: 2e-3,
		Document: func(size string) *model.Document {
			// Weak springs keep it from moving away along itself, which is its first mode.
			d := strip(size, "1 mm", sentence("r1", body.KeyMode, model.Patch{}, body.Number, "2"))
			d.Run = model.Run{Kind: model.Modes, Count: "2"}
			return bends(d, elastic("clay", "70 GPa", 0, 0), sentence("", solid.KeyThin, model.Patch{}),
				sentence("", solid.KeyMoved, patch("body", "left"), "y", "0 mm"), sentence("", solid.KeyMoved, patch("body", "right"), "y", "0 mm"),
				sentence("", solid.KeyBed, patch("body", "left"), "x", "1 N/mm³"),
				sentence("", solid.KeySpread, patch("body", "left"), "x", "-50 MPa"), sentence("", solid.KeySpread, patch("body", "right"), "x", "50 MPa"))
		},
	}
}

func freeBeam() Case {
	const l, h, e, rho, root = 0.1, 0.002, 70e9, 1000.0, 4.730040744862704
	return Case{
		Name:     "Beam that nothing holds",
		About:    "100 × 20 × 2 mm, E = 70 GPa, ν = 0, ρ = 1000 kg/m³, free: six motions as a whole come first.",
		Quantity: "seventh frequency", Unit: "Hz", Source: "slender beam: β²/(2πL²)·√(EI/(ρA)), β = 4.7300; shear and rotation take 0.1 % away",
		Reference: root * root / (2 * math.Pi * l * l) * math.Sqrt(e/rho*h*h/12), Sizes: []string{"10 mm", "5 mm"}, Within: 3e-3,
		Document: func(size string) *model.Document {
			p := block("body", "clay", 0, 100)
			p.Span.To = "2 mm"
			d := document("beam", size, []model.Part{p}, nil, nil, sentence("r1", body.KeyMode, model.Patch{}, body.Number, "7"))
			d.Mesh.Across = "1"
			d.Run = model.Run{Kind: model.Modes, Count: "8"}
			return bends(d, elastic("clay", "70 GPa", 0, 0))
		},
	}
}

func sparsePlate() Case {
	const l, h, e, nu, rho = 0.1, 0.002, 70e9, 0.3, 1000.0
	d := e * h * h * h / (12 * (1 - nu*nu))
	return Case{
		Name:     "Square plate whose rim keeps its height",
		About:    "100 × 100 × 2 mm, E = 70 GPa, ν = 0.3, ρ = 1000 kg/m³; the rim moves along x and y alone.",
		Quantity: "lowest frequency of bending", Unit: "Hz", Source: "thin plate: π/L²·√(D/(ρh)) (S. Timoshenko, Vibration Problems in Engineering, 3rd ed., 1955, section 69); a rim that may twist and shear take about 1 % away",
		Reference: math.Pi / (l * l) * math.Sqrt(d/(rho*h)), Sizes: []string{"10 mm", "7 mm"}, Within: 1.2e-2,
		Document: func(size string) *model.Document {
			p := model.Part{ID: "body", Name: "body", Material: "clay", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "100 mm", Depth: "100 mm"}, Span: model.Span{From: "0 mm", To: "2 mm"}}
			doc := document("plate", size, []model.Part{p}, nil, nil, sentence("r1", body.KeyMode, model.Patch{}, body.Number, "4"))
			doc.Mesh.Across = "1"
			doc.Run = model.Run{Kind: model.Modes, Count: "4"}
			var list []model.Sentence
			for _, side := range []string{"left", "right", "front", "back"} {
				list = append(list, sentence("", solid.KeyMoved, patch("body", side), "z", "0 mm"))
			}
			return bends(doc, elastic("clay", "70 GPa", nu, 0), list...)
		},
	}
}

func dampedBar() Case {
	const l, e, rho, eta, f = 0.1, 70e9, 1000.0, 0.05, 20000.0
	k := complex(2*math.Pi*f, 0) / cmplx.Sqrt(complex(e/rho, eta*e/rho))
	u := cmplx.Tan(k*l) / (k * complex(e, eta*e)) * 1e6 // by 1 MPa
	return Case{
		Name:     "Bar with losses near its resonance",
		About:    "Plane space, thin: 100 × 10 mm, E = 70 GPa, ν = 0, ρ = 1000 kg/m³, loss factor 0.05, fixed at one end, 1 MPa swings along it on the other at 20 kHz.",
		Quantity: "amplitude of the end", Unit: "µm", Source: "exact: σ·tan(kL)/(E*k), E* = E(1 + iη), k = ω·√(ρ/E*)",
		Reference: 1e6 * cmplx.Abs(u), Sizes: []string{"20 mm", "5 mm"}, Within: 1e-5,
		Document: func(size string) *model.Document {
			d := strip(size, "10 mm", formula("mean(displacement_x over body.right)", "µm"))
			d.Mesh.Across = "1"
			d.Run = model.Run{Kind: model.Response, Lowest: "20 kHz", Highest: "20 kHz", Count: "1"}
			m := elastic("clay", "70 GPa", 0, 0)
			m.Properties[material.LossFactor] = material.Property{Value: "0.05"}
			return bends(d, m, sentence("", solid.KeyThin, model.Patch{}), sentence("", solid.KeyFixed, patch("body", "left")),
				sentence("", solid.KeySpread, patch("body", "right"), "x", "1 MPa*swing"))
		},
	}
}
