package validation

import (
	"fmt"
	"math"
	"math/cmplx"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics/magnetic"
)

// Magnetic lists the cases of magnets, currents and iron.
func Magnetic() []Case {
	return []Case{roundAWire(), ironRoundAWire(), betweenWires(), solenoid(), ballMagnet(), ballInOpenSpace(), onTheAxis(model.Axial), onTheAxis(model.Solid),
		lossesIn(model.Plane, 50, "2 mm", "1 mm"), lossesIn(model.Plane, 5000, "1 mm", "0.5 mm", "0.25 mm"), lossesIn(model.Axial, 50, "2 mm", "1 mm"), lossesIn(model.Axial, 5000, "1 mm", "0.5 mm", "0.25 mm"),
		coaxialLine(), ironBall(), pullAcrossAGap(), shield(), inductanceByEnergy(), wireWithSkin()}
}

// coaxialLine has a current that returns in its sheath: its energy is half of its inductance times the square of the current.
func coaxialLine() Case {
	const a, b, c, current = 2., 6., 8., 100.
	inner := 0.25
	gap := math.Log(b / a)
	sheath := (math.Pow(c, 4)*math.Log(c/b)/math.Pow(c*c-b*b, 2) - (3*c*c-b*b)/(4*(c*c-b*b)))
	return Case{
		Name:     "Coaxial line",
		About:    "Plane space, 1 m deep: 100 A through a wire of 2 mm radius return in a sheath from 6 to 8 mm.",
		Quantity: "inductance by the energy of the field", Unit: "µH", Source: "exact: µ₀/(2π)·(¼ + ln(b/a) + c⁴·ln(c/b)/(c²−b²)² − (3c²−b²)/(4(c²−b²)))",
		Reference: 1e6 * magnetic.Vacuum / (2 * math.Pi) * (inner + gap + sheath), Sizes: []string{"2 mm", "1 mm", "0.5 mm"}, MinOrder: 1.5,
		Document: func(size string) *model.Document {
			return magnets(model.Plane, size, []model.Part{disc("out", "nothing", 0, 0, 10), disc("sheath", "nothing", 0, 0, c), disc("between", "nothing", 0, 0, b), disc("wire", "nothing", 0, 0, a)},
				[]model.Sentence{coil("wire", "1", "100 A"), coil("sheath", "1", "-100 A")},
				fmt.Sprintf("2*1e6*(total(field_energy over out) + total(field_energy over sheath) + total(field_energy over between) + total(field_energy over wire))/%g", current*current))
		},
	}
}

// ironBall lies in the field of turns on a ball, as close as the sine of the angle from the axis, which make a uniform one within and
// that of a dipole outside.
func ironBall() Case {
	const inner, outer, relative, amperes = 0.025, 0.03, 100., 1000.
	area := math.Pi / 2 * (outer*outer - inner*inner)
	return Case{
		Name:     "Iron ball in a field",
		About:    "Axial space, a ball of 10 mm radius and relative permeability 100 amid turns from 25 to 30 mm, as close as the sine of the angle from the axis, so that the field within is uniform without it; air to 40 mm, and open space beyond.",
		Quantity: "flux density in its middle", Unit: "mT", Source: "exact: 3µᵣ/(µᵣ + 2) of that without it, ⅔·µ₀·J·(c − b)",
		Reference: 1e3 * 3 * relative / (relative + 2) * 2 / 3 * magnetic.Vacuum * amperes / area * (outer - inner), Sizes: []string{"4 mm", "2 mm", "1 mm"}, MinOrder: 1.5,
		Document: func(size string) *model.Document {
			return withLinear(magnets(model.Axial, size, []model.Part{halfDisc("out", "nothing", 40), halfDisc("turns", "nothing", 1e3*outer), halfDisc("air", "nothing", 1e3*inner), halfDisc("ball", "linear", 10)},
				[]model.Sentence{coil("turns", "1000*x/sqrt(x^2 + y^2)", "1 A"), sentence("open", magnetic.KeyOpen, patch("out", "*"))}, "at(flux_density_y, 0 mm, 0 mm, 0 mm)*1000"))
		},
	}
}

// withLinear adds iron of an even permeability.
func withLinear(d *model.Document) *model.Document {
	d.Materials = append(d.Materials, material.Material{Name: "linear", Family: "metal", Properties: map[material.Key]material.Property{material.Permeability: {Value: "100"}}})
	return d
}

func shield() Case {
	const a, b, inner, outer, relative, amperes = 0.015, 0.018, 0.03, 0.034, 100., 1000.
	area := math.Pi * (outer*outer - inner*inner)
	without := magnetic.Vacuum * amperes / area * (outer - inner) / 2
	return Case{
		Name:     "Shielding by a tube",
		About:    "Plane space, a tube from 15 to 18 mm of relative permeability 100 amid currents from 30 to 34 mm that go with the cosine of the angle, so that the field across it is uniform without it; air to 45 mm, and open space beyond.",
		Quantity: "flux density in its middle", Unit: "mT", Source: "exact: 4µᵣ/((µᵣ + 1)² − (a/b)²·(µᵣ − 1)²) of that without it, ½·µ₀·J·(d − c)",
		Reference: -1e3 * without * 4 * relative / (math.Pow(relative+1, 2) - math.Pow(a/b*(relative-1), 2)), Sizes: []string{"4 mm", "2 mm", "1 mm"}, Within: 1e-4,
		Document: func(size string) *model.Document {
			return withLinear(magnets(model.Plane, size, []model.Part{disc("out", "nothing", 0, 0, 45), disc("currents", "nothing", 0, 0, 1e3*outer), disc("air", "nothing", 0, 0, 1e3*inner), disc("tube", "linear", 0, 0, 1e3*b), disc("hole", "nothing", 0, 0, 1e3*a)},
				[]model.Sentence{coil("currents", "1000*x/sqrt(x^2 + y^2)", "1 A"), sentence("open", magnetic.KeyOpen, patch("out", "*"))}, "at(flux_density_y, 0 mm, 0 mm, 0 mm)*1000"))
		},
	}
}

func pullAcrossAGap() Case {
	const relative = 100.
	b := 1.2 * 10 / (10 + 2 + 10/relative)
	return Case{
		Name:     "Pull across a gap",
		About:    "Plane space, 1 m deep: a magnet of 10 mm, a gap of 2 mm and 10 mm of iron of relative permeability 100 in a closed path 20 mm wide, whose ends flux crosses.",
		Quantity: "force on the iron", Unit: "N", Source: "exact: B²A/(2µ₀), B = Br·h/(h + g + l/µᵣ)",
		Reference: -b * b * 0.02 / (2 * magnetic.Vacuum), Sizes: []string{"4 mm", "2 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			d := withLinear(magnets(model.Plane, size, []model.Part{oblong("magnet", "magnet", 0, 0, 20, 10), oblong("gap", "nothing", 0, 10, 20, 12), oblong("iron", "linear", 0, 12, 20, 22)},
				[]model.Sentence{sentence("m", magnetic.KeyMagnet, patch("magnet", ""), "y", "1"), sentence("low", magnetic.KeyCrosses, patch("magnet", "front")), sentence("high", magnetic.KeyCrosses, patch("iron", "back"))}, "0"))
			d.Readings = []model.Sentence{sentence("r1", magnetic.KeyForce, patch("iron", ""), "axis", "y")}
			return d
		},
	}
}

func inductanceByEnergy() Case {
	c := solenoid()
	c.Name += ", by its energy"
	c.Document = func(size string) *model.Document {
		d := inSolenoid(model.Axial, size, "nothing", "3 A")
		d.Readings = []model.Sentence{sentence("r1", "formula", model.Patch{}, "formula", "2e3*(total(field_energy over core) + total(field_energy over coil) + total(field_energy over out))/9")}
		return d
	}
	return c
}

// wireWithSkin has its impedance by Bessel functions, and that of the field around it.
func wireWithSkin() Case {
	const radius, out, resistivity, hertz, current = 0.002, 0.01, 2e-8, 30e3, 40.
	omega := 2 * math.Pi * hertz
	k := cmplx.Sqrt(complex(0, -omega*magnetic.Vacuum/resistivity))
	z := k*resistivity/(2*math.Pi*radius)*bessel(0, k*radius)/bessel(1, k*radius) + complex(0, omega*magnetic.Vacuum/(2*math.Pi)*math.Log(out/radius))
	return Case{
		Name:     "Current that crowds at the surface of a wire",
		About:    "Plane space, 1 m deep: 40 A in all that alternate with 30 kHz in a wire of 2 mm radius and 2·10⁻⁸ Ω·m, a skin depth of 0.41 mm; the flux stays within 10 mm.",
		Quantity: "voltage along it", Unit: "V", Source: "exact: k·ρ/(2πa)·J₀(ka)/J₁(ka) + iωµ₀/(2π)·ln(b/a), k² = −iωµ₀/ρ",
		Reference: current * cmplx.Abs(z), Sizes: []string{"0.8 mm", "0.4 mm", "0.2 mm"}, Within: 1e-4,
		Document: func(size string) *model.Document {
			d := magnets(model.Plane, size, []model.Part{disc("out", "nothing", 0, 0, 1e3*out), disc("wire", "copper", 0, 0, 1e3*radius)},
				[]model.Sentence{sentence("c", magnetic.KeyTotal, patch("wire", ""), "current", "40 A"), sentence("a", magnetic.KeyAlternates, model.Patch{}, "frequency", "30 kHz")}, "0")
			d.Materials = append(d.Materials, material.Material{Name: "copper", Family: "metal", Properties: map[material.Key]material.Property{material.Permeability: {Value: "1"}, material.Resistivity: {Value: "2e-8 Ω·m"}}})
			d.Readings = []model.Sentence{sentence("r1", magnetic.KeyVoltage, patch("wire", ""))}
			return d
		},
	}
}

// magnets is a section, or a solid, of these parts, of which later ones displace earlier ones.
func magnets(kind, size string, parts []model.Part, conditions []model.Sentence, reading string) *model.Document {
	d := model.New("magnets")
	d.Space = model.Space{Kind: kind, Unit: "mm"}
	if kind == model.Plane {
		d.Space.Depth = "1 m"
	}
	d.Physics = nil
	stuff := func(name string, properties map[material.Key]material.Property) {
		d.Materials = append(d.Materials, material.Material{Name: name, Family: "gas", Properties: properties})
	}
	stuff("nothing", map[material.Key]material.Property{material.Permeability: {Value: "1"}})
	stuff("magnet", map[material.Key]material.Property{material.Remanence: {Value: "1.2 T"}, material.RecoilPermeability: {Value: "1"}})
	stuff("steel", map[material.Key]material.Property{material.Magnetisation: {Value: "pi*4e-7 T·m/A*field + 2 T*tanh(field/(500 A/m))", From: "0 A/m", To: "50 kA/m"}})
	d.Parts, d.Conditions = parts, conditions
	d.Readings = []model.Sentence{sentence("r1", "formula", model.Patch{}, "formula", reading)}
	d.Mesh = model.Mesh{Size: size, Across: "1", Order: "2", Growth: "1.3"}
	return d
}

// disc is a round part, mm; oblong a rectangle from corner to corner.
func disc(id, stuff string, x, y, radius float64) model.Part {
	mm := func(v float64) string { return fmt.Sprintf("%g mm", v) }
	return model.Part{ID: id, Name: id, Material: stuff, Role: model.Solved, Outline: model.Outline{Kind: "disc", Diameter: mm(2 * radius)}, Place: model.Place{X: mm(x), Y: mm(y)}}
}

func oblong(id, stuff string, x0, y0, x1, y1 float64) model.Part {
	mm := func(v float64) string { return fmt.Sprintf("%g mm", v) }
	return model.Part{ID: id, Name: id, Material: stuff, Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: mm(x1 - x0), Depth: mm(y1 - y0)}, Place: model.Place{X: mm((x0 + x1) / 2), Y: mm((y0 + y1) / 2)}}
}

// halfDisc is the right half of a disc about the origin, mm.
func halfDisc(id, stuff string, radius float64) model.Part {
	low, high := fmt.Sprintf("%g mm", -radius), fmt.Sprintf("%g mm", radius)
	return model.Part{ID: id, Name: id, Material: stuff, Role: model.Solved,
		Outline: model.Outline{Kind: "path", Points: []model.Point{{X: "0 mm", Y: low, Bend: "180 deg"}, {X: "0 mm", Y: high}}}}
}

func coil(part, turns, current string) model.Sentence {
	return sentence("coil-"+part, magnetic.KeyCoil, patch(part, ""), "turns", turns, "current", current)
}

func roundAWire() Case {
	return Case{
		Name:     "Field round a wire",
		About:    "Plane space, a wire of 5 mm radius with 100 A in a round space of 40 mm radius that keeps the flux within.",
		Quantity: "flux density 15 mm from its middle", Unit: "mT", Source: "exact: µ₀I/(2πr)",
		Reference: 1e3 * magnetic.Vacuum * 100 / (2 * math.Pi * 0.015), Sizes: []string{"4 mm", "2 mm", "1 mm"}, MinOrder: 1.5,
		Document: func(size string) *model.Document {
			return magnets(model.Plane, size, []model.Part{disc("out", "nothing", 0, 0, 40), disc("wire", "nothing", 0, 0, 5)}, []model.Sentence{coil("wire", "1", "100 A")},
				"at(flux_density_y, 15 mm, 0 mm, 0 mm)*1000")
		},
	}
}

func ironRoundAWire() Case {
	const h = 200 / (2 * math.Pi * 0.025)
	return Case{
		Name:     "Iron that saturates round a wire",
		About:    "Plane space, a wire with 200 A, about it a ring of iron from 20 to 30 mm, B = µ₀H + 2 T·tanh(H/500 A/m): the field strength is as without it.",
		Quantity: "flux density 25 mm from the middle of the wire", Unit: "T", Source: "exact: its curve at I/(2πr)",
		Reference: magnetic.Vacuum*h + 2*math.Tanh(h/500), Sizes: []string{"4 mm", "2 mm", "1 mm"}, Within: 1e-3,
		Document: func(size string) *model.Document {
			return magnets(model.Plane, size, []model.Part{disc("out", "nothing", 0, 0, 40), disc("ring", "steel", 0, 0, 30), disc("hole", "nothing", 0, 0, 20), disc("wire", "nothing", 0, 0, 5)},
				[]model.Sentence{coil("wire", "1", "200 A")}, "at(flux_density_y, 25 mm, 0 mm, 0 mm)")
		},
	}
}

func betweenWires() Case {
	return Case{
		Name:     "Force between parallel wires",
		About:    "Plane space, 1 m deep, two wires 20 mm apart with 100 A against each other, a round space of 100 mm radius and open space beyond it.",
		Quantity: "force", Unit: "N", Source: "exact: µ₀I²L/(2πd)",
		Reference: magnetic.Vacuum * 1e4 / (2 * math.Pi * 0.02), Sizes: []string{"8 mm", "4 mm", "2 mm"}, Within: 5e-3,
		Document: func(size string) *model.Document {
			d := magnets(model.Plane, size, []model.Part{disc("out", "nothing", 0, 0, 100), disc("left", "nothing", -10, 0, 3), disc("right", "nothing", 10, 0, 3)},
				[]model.Sentence{coil("left", "1", "100 A"), coil("right", "1", "-100 A"), sentence("open", magnetic.KeyOpen, patch("out", "rim"))}, "0")
			d.Readings = []model.Sentence{sentence("r1", magnetic.KeyForce, patch("right", ""), "axis", "x")}
			return d
		},
	}
}

// inSolenoid is what is within a piece of a long solenoid of 10 mm radius and 20 mm height, between planes that flux crosses.
func inSolenoid(kind, size, stuff, current string) *model.Document {
	conditions := []model.Sentence{coil("coil", "50", current), sentence("side", magnetic.KeyCrosses, patch("out", "right"))}
	for _, part := range []string{"core", "coil", "out"} {
		for _, side := range []string{"front", "back"} {
			conditions = append(conditions, sentence(part+side, magnetic.KeyCrosses, patch(part, side)))
		}
	}
	return magnets(kind, size, []model.Part{oblong("core", stuff, 0, 0, 10, 20), oblong("coil", "nothing", 10, 0, 12, 20), oblong("out", "nothing", 12, 0, 30, 20)}, conditions, "0")
}

// bessel is the function of the first kind of an order 0 or 1, by its series.
func bessel(order int, z complex128) complex128 {
	term := complex(1, 0)
	if order == 1 {
		term = z / 2
	}
	sum := term
	for k := 1; k < 200; k++ {
		term *= -z * z / 4 / complex(float64(k*(k+order)), 0)
		sum += term
	}
	return sum
}

// lossesIn are those of a slab or a rod in an alternating field along it.
func lossesIn(kind string, frequency float64, sizes ...string) Case {
	const resistivity, half, high, amplitude = 2e-8, 0.01, 0.02, 50 / 0.02 * 3.
	depth := math.Sqrt(resistivity / (math.Pi * frequency * magnetic.Vacuum))
	what, source := "slab of 20 mm, of which a half is seen", "exact: H²ρ/(2δ)·(sinh ξ − sin ξ)/(cosh ξ + cos ξ), ξ the thickness over the skin depth δ"
	xi := 2 * half / depth
	want := amplitude * amplitude * resistivity / (2 * depth) * (math.Sinh(xi) - math.Sin(xi)) / (math.Cosh(xi) + math.Cos(xi)) * high * 1
	if kind == model.Axial {
		what, source = "rod of 10 mm radius", "exact: the power that enters it, by Bessel functions of a complex argument"
		k := cmplx.Sqrt(complex(0, -2*math.Pi*frequency*magnetic.Vacuum/resistivity))
		a := k * complex(half, 0)
		want = -math.Pi * half * high * resistivity * amplitude * amplitude * real(k*bessel(1, a)/bessel(0, a))
	}
	return Case{
		Name:     fmt.Sprintf("Losses at %g Hz, %s space", frequency, kind),
		About:    fmt.Sprintf("A %s, 2·10⁻⁸ Ω·m, in the field of 7500 A/m of a long solenoid that swings with %g Hz: a skin depth of %.2g mm.", what, frequency, 1e3*depth),
		Quantity: "mean power of the currents that it drives", Unit: "W", Source: source, Reference: want, Sizes: sizes, MinOrder: 2.5,
		Document: func(size string) *model.Document {
			d := inSolenoid(kind, size, "copper", "3 A*swing")
			d.Materials = append(d.Materials, material.Material{Name: "copper", Family: "metal", Properties: map[material.Key]material.Property{
				material.Permeability: {Value: "1"}, material.Resistivity: {Value: "2e-8 Ω·m"}}})
			d.Conditions = append(d.Conditions, sentence("driven", magnetic.KeyDriven, patch("core", "")))
			f := fmt.Sprintf("%g Hz", frequency)
			d.Run = model.Run{Kind: model.Response, Lowest: f, Highest: f, Count: "1"}
			d.Readings = []model.Sentence{sentence("r1", magnetic.KeyLost, patch("core", ""))}
			return d
		},
	}
}

func solenoid() Case {
	const turns, high, inner, thick = 50., 0.02, 0.01, 0.002
	return Case{
		Name:     "A piece of a long solenoid",
		About:    "Axial space, 50 turns from 10 to 12 mm radius, 20 mm high, between planes that flux crosses.",
		Quantity: "inductance", Unit: "mH", Source: "exact: the flux of µ₀nI, which falls off evenly within the turns",
		Reference: 1e3 * turns * turns / high * magnetic.Vacuum * math.Pi * (inner*inner + 2*inner*thick/3 + thick*thick/6), Sizes: []string{"4 mm", "2 mm", "1 mm"}, MinOrder: 1.5,
		Document: func(size string) *model.Document {
			d := inSolenoid(model.Axial, size, "nothing", "3 A")
			d.Readings = []model.Sentence{sentence("r1", magnetic.KeyInductance, patch("coil", ""))}
			return d
		},
	}
}

// ballMagnet is a magnetised ball in a ball of air; the flux stays within that, which a factor of the exact solution has.
func ballMagnet() Case {
	const ball, space = 10., 30.
	return Case{
		Name:     "A magnetised ball in a ball that keeps flux within",
		About:    "Axial space, a ball of 10 mm radius with a remanence of 1.2 T along the axis in one of air of 30 mm radius.",
		Quantity: "flux density in its middle", Unit: "T", Source: "exact: ⅔·Br·(1 − a³/b³)",
		Reference: 2. / 3 * 1.2 * (1 - math.Pow(ball/space, 3)), Sizes: []string{"4 mm", "2 mm", "1 mm"}, MinOrder: 1.5,
		Document: func(size string) *model.Document {
			return magnets(model.Axial, size, []model.Part{halfDisc("out", "nothing", space), halfDisc("ball", "magnet", ball)},
				[]model.Sentence{sentence("m", magnetic.KeyMagnet, patch("ball", ""), "y", "1")}, "at(flux_density_y, 0 mm, 0 mm, 0 mm)")
		},
	}
}

func ballInOpenSpace() Case {
	c := ballMagnet()
	document := c.Document
	c.Name = "A magnetised ball in open space"
	c.About = "As before, with open space beyond the air."
	c.Source, c.Reference = "exact: ⅔·Br", 2./3*1.2
	c.Document = func(size string) *model.Document {
		d := document(size)
		d.Conditions = append(d.Conditions, sentence("open", magnetic.KeyOpen, patch("out", "*")))
		return d
	}
	return c
}

// onTheAxis is the field of a cylinder magnet, of which an eighth or a half is enough.
func onTheAxis(kind string) Case {
	const radius, high, at = 0.010, 0.020, 0.008
	half := func(z float64) float64 { return z / math.Hypot(z, radius) }
	c := Case{
		Name:     "On the axis of a cylinder magnet",
		About:    "Axial space, a magnet of 10 mm radius and 20 mm height, 1.2 T along its axis; 40 mm of air, and open space beyond it.",
		Quantity: "flux density 8 mm above it", Unit: "T", Source: "exact: ½·Br·[(z+L)/√((z+L)²+R²) − z/√(z²+R²)]",
		Reference: 0.6 * (half(at+high) - half(at)), Sizes: []string{"4 mm", "2 mm", "1 mm"}, Within: 5e-3,
		Document: func(size string) *model.Document {
			d := magnets(model.Axial, size, []model.Part{oblong("out", "nothing", 0, -50, 50, 50), oblong("magnet", "magnet", 0, -10, 10, 10)},
				[]model.Sentence{sentence("m", magnetic.KeyMagnet, patch("magnet", ""), "y", "1"), sentence("open", magnetic.KeyOpen, patch("out", "*"))}, "at(flux_density_y, 0 mm, 18 mm, 0 mm)")
			d.Mesh.Size, d.Mesh.Growth = "8 mm", "1.15"
			d.Mesh.Near = []model.MeshNear{{On: patch("magnet", "*"), Size: size}}
			return d
		},
	}
	if kind == model.Solid {
		c.Name += ", solid space"
		c.About = "A quarter of the same in a solid space, by the scalar potential."
		c.Sizes, c.Within = []string{"4 mm", "2.5 mm"}, 0.02
		c.Document = func(size string) *model.Document {
			out, magnet := disc("out", "nothing", 0, 0, 50), disc("magnet", "magnet", 0, 0, 10)
			out.Span, magnet.Span = model.Span{From: "-50 mm", To: "50 mm"}, model.Span{From: "-10 mm", To: "10 mm"}
			d := magnets(model.Solid, size, []model.Part{out, magnet}, []model.Sentence{sentence("m", magnetic.KeyMagnet, patch("magnet", ""), "z", "1"),
				sentence("open", magnetic.KeyOpen, patch("out", "*"))}, "at(flux_density_z, 0.01 mm, 0.01 mm, 18 mm)")
			d.Space.Cuts = []model.Cut{{Across: "x", At: "0 mm", Keep: "greater"}, {Across: "y", At: "0 mm", Keep: "greater"}}
			d.Mesh.Size, d.Mesh.Growth = "8 mm", "1.15"
			d.Mesh.Near = []model.MeshNear{{On: patch("magnet", "*"), Size: size}}
			return d
		}
	}
	return c
}
