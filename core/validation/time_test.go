package validation

import (
	"math"

	"saltkettle/core/material"
	"saltkettle/core/model"
)

// Time lists the cases of heat that changes in time. Steps are held to a small error,
// so that that of the mesh is seen.
func Time() []Case { return []Case{suddenlyCooled(), halfSpace(), periodicSlab()} }

// storing is a material that stores heat: ρ = 1000 kg/m³ and c = 1000 J/(kg·K), so
// that its diffusivity is k/10⁶.
func storing(name string, k float64) material.Material {
	m := stuff(name, k)
	m.Properties[material.HeatCapacity] = material.Property{Value: "1000 J/(kg·K)"}
	return m
}

func inTime(d *model.Document, start, end string) *model.Document {
	d.Run = model.Run{Kind: model.Transient, Start: start, End: end, Tolerance: "1e-6"}
	return d
}

func suddenlyCooled() Case {
	// θ = Σ Cₙ·exp(−ζₙ²·Fo)·cos(ζₙ·x/L), ζₙ·tan ζₙ = Bi = 1.
	const fourier = 0.5
	theta := 0.0
	for n := range 8 {
		z := math.Pi*float64(n) + 0.5
		for range 50 {
			z -= (z*math.Tan(z) - 1) / (math.Tan(z) + z/(math.Cos(z)*math.Cos(z)))
		}
		theta += 4 * math.Sin(z) / (2*z + math.Sin(2*z)) * math.Exp(-z*z*fourier)
	}
	return Case{
		Name:     "Slab suddenly cooled, Bi = 1",
		About:    "Half thickness 50 mm, k = 10 W/(m·K), ρc = 1 MJ/(m³·K), at 100 K above a fluid that begins to cool it with 200 W/(m²·K); read after 125 s, Fo = 0.5.",
		Quantity: "excess of temperature at the insulated face", Unit: "K", Source: incropera + "section 5.5.1, eight terms (first root 0.8603, first coefficient 1.1191)",
		Reference: 100 * theta, Sizes: []string{"10 mm", "5 mm"}, MinOrder: 1.8,
		Document: func(size string) *model.Document {
			d := document("slab", size, []model.Part{block("slab", "steel", 0, 50)}, []material.Material{storing("steel", 10)},
				[]model.Sentence{sentence("c1", "heat.convection", patch("slab", "right"), "medium", "brine", "temperature", "300 K", "coefficient", "200 W/(m²·K)")},
				formulaReading("at(temperature, 0 mm, 0.7 mm, 4 mm) - 300 K"))
			return inTime(d, "400 K", "125 s")
		},
	}
}

func halfSpace() Case {
	const x, alpha, t = 0.02, 2e-5, 40.0
	return Case{
		Name:     "Half space whose face is suddenly heated",
		About:    "k = 20 W/(m·K), ρc = 1 MJ/(m³·K), face raised by 100 K at once; read 20 mm deep after 40 s. The block is 200 mm long: its far end stays cold.",
		Quantity: "rise of temperature 20 mm deep", Unit: "K", Source: carslaw + "section 2.5: θ·erfc(x/√(4αt))",
		Reference: 100 * math.Erfc(x/math.Sqrt(4*alpha*t)), Sizes: []string{"8 mm", "4 mm"}, MinOrder: 1.6,
		Document: func(size string) *model.Document {
			d := document("half space", size, []model.Part{block("ground", "steel", 0, 200)}, []material.Material{storing("steel", 20)},
				[]model.Sentence{sentence("c1", "heat.held", patch("ground", "left"), "temperature", "400 K")},
				formulaReading("at(temperature, 20 mm, 0.7 mm, 4 mm) - 300 K"))
			return inTime(d, "300 K", "40 s")
		},
	}
}

func periodicSlab() Case {
	// With the source q₀·sin(ωt) and nothing let through, the temperature follows its
	// integral exactly everywhere.
	const q0, omega, t = 5e5, 0.2, 40.0
	return Case{
		Name:     "Source that swings in time",
		About:    "A closed block with ρc = 1 MJ/(m³·K) and the source 0.5 MW/m³·sin(0.2/s·t), read after 40 s: all heat is stored.",
		Quantity: "mean rise of temperature", Unit: "K", Source: "exact: q₀(1 − cos ωt)/(ωρc)",
		Reference: q0 * (1 - math.Cos(omega*t)) / (omega * 1e6), Sizes: []string{"10 mm", "5 mm"}, Within: 1e-4,
		Document: func(size string) *model.Document {
			d := document("block", size, []model.Part{block("block", "steel", 0, 50)}, []material.Material{storing("steel", 20)},
				[]model.Sentence{sentence("c1", "heat.source-density", patch("block", ""), "density", "0.5 MW/m³*sin(0.2/s*time)")},
				formulaReading("mean(temperature over block) - 300 K"))
			return inTime(d, "300 K", "40 s")
		},
	}
}
