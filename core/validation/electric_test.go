package validation

import (
	"fmt"
	"math"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics/electric"
	"saltkettle/core/physics/heat"
)

// Electric lists the cases of electric current, of the heat that it makes and of the
// thermoelectric effects.
func Electric() []Case {
	return []Case{heldRod(), annularSector(), contactOfRods(), peltierLeg(), bestCurrent(), plateCapacitor(), coaxialCapacitor()}
}

// Exchange lists the cases of contact resistance and of radiation to surroundings.
func Exchange() []Case { return []Case{contactWall(), radiatingPlate()} }

// conductor is a material with a resistivity and, if it is not 0, a Seebeck
// coefficient.
func conductor(name string, k, resistivity, seebeck float64) material.Material {
	m := stuff(name, k)
	m.Properties[material.Resistivity] = material.Property{Value: fmt.Sprintf("%g Ω·m", resistivity)}
	if seebeck != 0 {
		m.Properties[material.Seebeck] = material.Property{Value: fmt.Sprintf("%g V/K", seebeck)}
	}
	return m
}

func heldRod() Case {
	const rho, k, volts = 2e-7, 60.0, 0.05
	return Case{
		Name:     "Rod with a voltage between held ends",
		About:    "50 mm long, ρ = 0.2 µΩ·m, k = 60 W/(m·K), 50 mV between ends at one temperature, sides insulated.",
		Quantity: "greatest rise of temperature", Unit: "K", Source: carslaw + "section 4.10: V²σ/(8k)",
		Reference: volts * volts / rho / (8 * k), Sizes: []string{"6 mm", "3 mm", "1.5 mm"}, MinOrder: 1.5,
		Document: func(size string) *model.Document {
			d := document("rod", size, []model.Part{block("rod", "alloy", 0, 50)}, []material.Material{conductor("alloy", k, rho, 0)},
				append(between("rod", "300 K", "300 K"),
					sentence("c3", electric.KeyFlows, patch("rod", "")), sentence("c4", electric.KeyHeats, model.Patch{}),
					sentence("c5", electric.KeyVoltage, patch("rod", "left"), "voltage", "0 V"),
					sentence("c6", electric.KeyVoltage, patch("rod", "right"), "voltage", "50 mV")),
				sentence("r1", heat.KeySpread, patch("rod", "")))
			return d
		},
	}
}

func annularSector() Case {
	const rho, inner, outer, thick, turn = 1e-6, 0.01, 0.03, 0.005, math.Pi / 2
	return Case{
		Name:     "Resistance of an annular sector",
		About:    "Quarter of a ring, radii 10 and 30 mm, 5 mm thick, ρ = 1 µΩ·m, current along the arc from one straight edge to the other, 1 A spread over an equipotential terminal.",
		Quantity: "resistance", Unit: "mΩ", Source: "exact: ρφ/(t·ln(b/a))",
		Reference: 1e3 * rho * turn / (thick * math.Log(outer/inner)), Sizes: []string{"5 mm", "2.5 mm", "1.25 mm"}, MinOrder: 1.6,
		Document: func(size string) *model.Document {
			p := model.Part{ID: "strap", Name: "strap", Material: "alloy", Role: model.Solved,
				Outline: model.Outline{Kind: "sector", Diameter: "60 mm", Inner: "20 mm", Angle: "90°"},
				Span:    model.Span{From: "0 mm", To: "5 mm"}}
			d := document("strap", size, []model.Part{p}, []material.Material{conductor("alloy", 60, rho, 0)},
				[]model.Sentence{sentence("c1", electric.KeyFlows, patch("strap", "")),
					sentence("c2", electric.KeyVoltage, patch("strap", "start"), "voltage", "0 V"),
					sentence("c3", electric.KeyCurrent, patch("strap", "end"), "current", "1 A")},
				sentence("r1", electric.KeyResistance, patch("strap", "end")))
			d.Physics = []model.Physics{{Kind: "electric"}}
			return d
		},
	}
}

func contactOfRods() Case {
	const rho, rc, volts, area = 2e-7, 4e-9, 0.02, 2e-4
	return Case{
		Name:     "Rods joined by a contact resistance",
		About:    "20 and 30 mm of ρ = 0.2 µΩ·m, 2 cm², joined by 4 nΩ·m², 20 mV between their ends.",
		Quantity: "current", Unit: "A", Source: "exact: V/(ρL/A + R_c/A)",
		Reference: volts * area / (rho*0.05 + rc), Sizes: []string{"5 mm", "2.5 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			d := document("rods", size, []model.Part{block("first", "alloy", 0, 20), block("second", "alloy", 20, 50)}, []material.Material{conductor("alloy", 60, rho, 0)},
				[]model.Sentence{sentence("c1", electric.KeyFlows, patch("first", "")), sentence("c2", electric.KeyFlows, patch("second", "")),
					sentence("c3", electric.KeyContact, model.Patch{Part: "first", Facing: "second"}, "resistance", "4e-9 Ω·m²"),
					sentence("c4", electric.KeyVoltage, patch("first", "left"), "voltage", "20 mV"),
					sentence("c5", electric.KeyVoltage, patch("second", "right"), "voltage", "0 V")},
				sentence("r1", electric.KeyThrough, model.Patch{Part: "first", Facing: "second"}))
			d.Physics = []model.Physics{{Kind: "electric"}}
			return d
		},
	}
}

// leg is a thermoelectric leg 10 mm long between 280 K and 300 K with a current.
func leg(size, current string, reading model.Sentence) *model.Document {
	d := document("leg", size, []model.Part{block("leg", "telluride", 0, 10)}, []material.Material{conductor("telluride", 1.5, 1e-5, 2e-4)},
		append(between("leg", "280 K", "300 K"),
			sentence("c3", electric.KeyFlows, patch("leg", "")), sentence("c4", electric.KeyHeats, model.Patch{}),
			sentence("c5", electric.KeyThermoelectric, patch("leg", "")),
			sentence("c6", electric.KeyVoltage, patch("leg", "right"), "voltage", "0 V"),
			sentence("c7", electric.KeyCurrent, patch("leg", "left"), "current", current)), reading)
	return d
}

func peltierLeg() Case {
	const area, l, rho, k, s, current, cold, step = 2e-4, 0.01, 1e-5, 1.5, 2e-4, 30.0, 280.0, 20.0
	return Case{
		Name:     "Thermoelectric leg",
		About:    "10 mm long, 2 cm², S = 200 µV/K, ρ = 10 µΩ·m, k = 1.5 W/(m·K), 30 A, between 280 K and 300 K.",
		Quantity: "heat taken up at the cold end (it enters, so the value is negative)", Unit: "W", Source: "exact: −(S·Tc·I − I²R/2 − KΔT)",
		Reference: -(s*cold*current - current*current*rho*l/area/2 - k*area/l*step), Sizes: []string{"5 mm", "2.5 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			return leg(size, "30 A", sentence("r1", heat.KeyThrough, patch("leg", "left")))
		},
	}
}

func bestCurrent() Case {
	const area, l, rho, k, s, hot = 2e-4, 0.01, 1e-5, 1.5, 2e-4, 300.0
	// The cold end takes nothing up: S·Tc·I = I²R/2 + KΔT has the greatest ΔT where
	// I = S·Tc/R; then ΔT = ½ZTc² with Z = S²/(ρk).
	z := s * s / (rho * k)
	cold := (math.Sqrt(1+2*z*hot) - 1) / z
	current := s * cold / (rho * l / area)
	return Case{
		Name:     "Greatest difference of temperature of a leg",
		About:    fmt.Sprintf("The leg with its hot end at 300 K, a closed cold end and the best current, S·Tc/R = %.5g A.", current),
		Quantity: "difference of temperature", Unit: "K", Source: "exact: ½ZTc²",
		Reference: z * cold * cold / 2, Sizes: []string{"5 mm", "2.5 mm", "1.25 mm"}, MinOrder: 1.5,
		Document: func(size string) *model.Document {
			d := leg(size, fmt.Sprintf("%.12g A", current), formulaReading("300 K - mean(temperature over leg.left)"))
			d.Conditions = d.Conditions[1:] // the cold end is free
			return d
		},
	}
}

// insulator is a material with a permittivity.
func insulator(name string, relative float64) material.Material {
	m := stuff(name, 0.2)
	m.Properties[material.Permittivity] = material.Property{Value: fmt.Sprint(relative)}
	return m
}

func plateCapacitor() Case {
	const area, first, second = 2e-4, 2.5, 6.0
	return Case{
		Name:     "Parallel plates with two layers",
		About:    "1 mm with ε_r = 2.5 and 2 mm with 6 between plates of 2 cm²; the field stays between them.",
		Quantity: "capacitance", Unit: "pF", Source: "exact: ε₀A/(d₁/ε₁ + d₂/ε₂)",
		Reference: 1e12 * electric.Vacuum * area / (1e-3/first + 2e-3/second), Sizes: []string{"5 mm", "2.5 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			d := document("plates", size, []model.Part{block("first", "resin", 0, 1), block("second", "glass", 1, 3)}, []material.Material{insulator("resin", first), insulator("glass", second)},
				[]model.Sentence{sentence("c1", electric.KeyField, patch("first", "")), sentence("c2", electric.KeyField, patch("second", "")),
					sentence("c3", electric.KeyVoltage, patch("first", "left"), "voltage", "0 V"),
					sentence("c4", electric.KeyCharge, patch("second", "right"), "charge", "3 nC")},
				sentence("r1", electric.KeyCapacitance, patch("second", "right")))
			d.Physics = []model.Physics{{Kind: "electric"}}
			return d
		},
	}
}

func coaxialCapacitor() Case {
	const inner, outer, long, relative = 0.01, 0.03, 0.005, 2.5
	return Case{
		Name:     "Coaxial capacitor",
		About:    "Radii 10 and 30 mm, 5 mm long, ε_r = 2.5, 100 V; the circles are polygons in the mesh.",
		Quantity: "charge on the bore", Unit: "nC", Source: "exact: 2πε₀ε_r·l·V/ln(b/a)",
		Reference: 1e9 * 100 * 2 * math.Pi * electric.Vacuum * relative * long / math.Log(outer/inner), Sizes: []string{"4 mm", "2 mm", "1 mm"}, MinOrder: 1.6,
		Document: func(size string) *model.Document {
			p := model.Part{ID: "ring", Name: "ring", Material: "resin", Role: model.Solved,
				Outline: model.Outline{Kind: "ring", Diameter: "60 mm", Inner: "20 mm"}, Span: model.Span{From: "0 mm", To: "5 mm"}}
			d := document("coaxial", size, []model.Part{p}, []material.Material{insulator("resin", relative)},
				[]model.Sentence{sentence("c1", electric.KeyField, patch("ring", "")),
					sentence("c2", electric.KeyVoltage, patch("ring", "bore"), "voltage", "100 V"),
					sentence("c3", electric.KeyVoltage, patch("ring", "rim"), "voltage", "0 V")},
				sentence("r1", electric.KeyChargeOn, patch("ring", "bore")))
			d.Physics = []model.Physics{{Kind: "electric"}}
			return d
		},
	}
}

func contactWall() Case {
	const hot, cold, area = 400.0, 300.0, 2e-4
	return Case{
		Name:     "Wall with a contact resistance",
		About:    "20 mm of k = 10 and 30 mm of 20 W/(m·K) between 400 K and 300 K with 20 cm²·K/W between them, 2 cm².",
		Quantity: "heat that passes the contact", Unit: "W", Source: incropera + "section 3.1.4",
		Reference: (hot - cold) * area / (0.02/10 + 2e-3 + 0.03/20), Sizes: []string{"5 mm", "2.5 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			return document("wall", size, []model.Part{block("first", "steel", 0, 20), block("second", "bronze", 20, 50)},
				[]material.Material{stuff("steel", 10), stuff("bronze", 20)},
				[]model.Sentence{sentence("c1", heat.KeyHeld, patch("first", "left"), "temperature", "400 K"),
					sentence("c2", heat.KeyHeld, patch("second", "right"), "temperature", "300 K"),
					sentence("c3", heat.KeyContact, model.Patch{Part: "first", Facing: "second"}, "resistance", "20 cm²·K/W")},
				sentence("r1", heat.KeyThrough, model.Patch{Part: "first", Facing: "second"}))
		},
	}
}

func radiatingPlate() Case {
	const e, around, flux = 0.8, 290.0, 5000.0
	return Case{
		Name:     "Plate that radiates to its surroundings",
		About:    "5 kW/m² enter at the back and leave by radiation with ε = 0.8 to surroundings at 290 K.",
		Quantity: "temperature of the face above the surroundings", Unit: "K", Source: "exact: εσ(T⁴ − T₀⁴) = q",
		Reference: math.Pow(flux/(e*heat.Boltzmann)+math.Pow(around, 4), 0.25) - around, Sizes: []string{"5 mm", "2.5 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			return document("plate", size, []model.Part{block("plate", "steel", 0, 30)}, []material.Material{stuff("steel", 25)},
				[]model.Sentence{sentence("c1", heat.KeyFlux, patch("plate", "left"), "flux", "5 kW/m²"),
					sentence("c2", heat.KeyRadiation, patch("plate", "right"), "temperature", "290 K", "emissivity", "0.8")},
				formulaReading("mean(temperature over plate.right) - 290 K"))
		},
	}
}
