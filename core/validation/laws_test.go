package validation

import (
	"fmt"
	"math"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics/body"
	"saltkettle/core/physics/heat"
)

// Laws lists the cases in which values depend on the place or the temperature,
// written as formulas and tables.
func Laws() []Case {
	return []Case{conductivityOverTemperature(), conductivityTable(), naturalConvection(), layeredSource(), turnedGrain(), thinLayer()}
}

const carslaw = "Carslaw, Jaeger, Conduction of Heat in Solids, 2nd ed., 1959, "

// varying is a material with a conductivity that is a formula.
func varying(name, k string) material.Material {
	return material.Material{Name: name, Family: "metal", Properties: map[material.Key]material.Property{material.Conductivity: {Value: k}}}
}

// between holds the left and the right face of a part.
func between(part, left, right string) []model.Sentence {
	return []model.Sentence{
		sentence("c1", heat.KeyHeld, patch(part, "left"), "temperature", left),
		sentence("c2", heat.KeyHeld, patch(part, "right"), "temperature", right),
	}
}

func formulaReading(text string) model.Sentence {
	s := sentence("r1", body.KeyFormula, model.Patch{}, "formula", text)
	s.Unit = "K"
	return s
}

func conductivityOverTemperature() Case {
	const l, k0, beta, cold, hot = 0.05, 15.0, 4e-3, 300.0, 700.0
	middle := cold + (math.Sqrt(1+beta*((hot-cold)+beta*(hot-cold)*(hot-cold)/2))-1)/beta
	return Case{
		Name:     "Conductivity that rises with the temperature",
		About:    "Wall of 50 mm between 300 K and 700 K, k = 15 W/(m·K)·(1 + 0.004/K·(T − 300 K)), read at a point.",
		Quantity: "temperature in the middle above the cold face", Unit: "K", Source: carslaw + "section 1.6, transformation of Kirchhoff",
		Reference: middle - cold,
		Sizes:     []string{"8 mm", "4 mm", "2 mm"}, MinOrder: 1.7,
		Document: func(size string) *model.Document {
			return document("wall", size, []model.Part{block("wall", "alloy", 0, 50)}, []material.Material{varying("alloy", "15 W/(m·K)*(1 + 0.004/K*(temperature - 300 K))")},
				between("wall", "300 K", "700 K"), formulaReading("at(temperature, 25 mm, 1.3 mm, 4 mm) - 300 K"))
		},
	}
}

func conductivityTable() Case {
	// The heat flux is the integral of k over the temperature, by the trapezoids of
	// the table, over the thickness.
	flux := (0.5*(10+14)*100 + 0.5*(14+24)*200) / 0.05
	return Case{
		Name:     "Conductivity from a table",
		About:    "Wall of 50 mm between 300 K and 600 K; k from a table with 10, 14 and 24 W/(m·K) at 300, 400 and 600 K.",
		Quantity: "heat that passes", Unit: "W", Source: carslaw + "section 1.6: ∫k dT/L, exact for a table",
		Reference: flux * 2e-4,
		Sizes:     []string{"8 mm", "4 mm", "2 mm"}, MinOrder: 1.7,
		Document: func(size string) *model.Document {
			return document("wall", size, []model.Part{block("wall", "alloy", 0, 50)}, []material.Material{varying("alloy", "table(temperature, 300 K: 10 W/(m·K), 400: 14, 600: 24; refuse)")},
				between("wall", "300 K", "600 K"), sentence("r1", heat.KeyThrough, patch("wall", "left")))
		},
	}
}

func naturalConvection() Case {
	const c, q = 6.0, 4000.0
	return Case{
		Name:     "Coefficient that depends on the temperature",
		About:    "Wall that receives 4 kW/m² on one face and gives it to air at 20 °C with h = 6 W/(m²·K^1.25)·(T − T∞)^0.25.",
		Quantity: "excess of the face over the air", Unit: "K", Source: "balance of heat: (q/C)^(4/5)",
		Reference: math.Pow(q/c, 0.8),
		Sizes:     []string{"8 mm", "4 mm", "2 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			return document("wall", size, []model.Part{block("wall", "alloy", 0, 30)}, []material.Material{stuff("alloy", 10)},
				[]model.Sentence{
					sentence("c1", heat.KeyFlux, patch("wall", "left"), "flux", "4 kW/m²"),
					sentence("c2", heat.KeyConvection, patch("wall", "right"), "medium", "air", "temperature", "20 °C",
						"coefficient", "6 W/(m²·K^1.25)*max(temperature - 20 °C, 0.01 K)^0.25"),
				}, formulaReading("mean(temperature over wall.right) - 20 °C"))
		},
	}
}

func layeredSource() Case {
	const l, k, q = 0.04, 3.0, 2e5
	return Case{
		Name:     "Source that differs from place to place",
		About:    "Wall of 40 mm, k = 3 W/(m·K), both faces held at 300 K, q = 200 kW/m³·sin(πx/L).",
		Quantity: "mean excess of temperature", Unit: "K", Source: "exact: 2qL²/(kπ³)",
		Reference: 2 * q * l * l / (k * math.Pi * math.Pi * math.Pi),
		Sizes:     []string{"8 mm", "4 mm", "2 mm"}, MinOrder: 1.7,
		Document: func(size string) *model.Document {
			return document("wall", size, []model.Part{block("wall", "clay", 0, 40)}, []material.Material{stuff("clay", k)},
				append(between("wall", "300 K", "300 K"), sentence("c3", heat.KeyDensity, patch("wall", ""), "density", "200 kW/m³*sin(pi*x/40 mm)")), formulaReading("mean(temperature over wall) - 300 K"))
		},
	}
}

func thinLayer() Case {
	// The heat is given, so that the layer's integral of k over the temperature is q·d.
	const q, d, k0, beta, cold = 20e3, 2e-4, 0.2, 5e-3, 300.0
	t2 := cold + q*0.03/20
	excess := (math.Sqrt(math.Pow(1+beta*(t2-cold), 2)+2*beta*q*d/k0) - 1) / beta
	return Case{
		Name:     "Thin layer whose conductivity rises with the temperature",
		About:    "20 kW/m² pass 20 mm of k = 10 W/(m·K), a layer of 0.2 mm with k = 0.2 W/(m·K)·(1 + 0.005/K·(T − 300 K)) that is not meshed, and 30 mm of k = 20 W/(m·K) to a face at 300 K.",
		Quantity: "temperature of the heated face above the cold one", Unit: "K", Source: carslaw + "section 1.6, transformation of Kirchhoff",
		Reference: excess + q*0.02/10, Sizes: []string{"5 mm", "2.5 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			return document("wall", size, []model.Part{block("first", "steel", 0, 20), block("second", "bronze", 20, 50)},
				[]material.Material{stuff("steel", 10), stuff("bronze", 20), varying("putty", "0.2 W/(m·K)*(1 + 0.005/K*(temperature - 300 K))")},
				[]model.Sentence{sentence("c1", heat.KeyFlux, patch("first", "left"), "flux", "20 kW/m²"),
					sentence("c2", heat.KeyHeld, patch("second", "right"), "temperature", "300 K"),
					sentence("c3", heat.KeyLayer, model.Patch{Part: "first", Facing: "second"}, "material", "putty", "thickness", "200 µm")},
				formulaReading("mean(temperature over first.left) - 300 K"))
		},
	}
}

func turnedGrain() Case {
	const along, across = 25.0, 1.4
	return Case{
		Name:     "Conductivity by axes in a turned part",
		About:    "Bar of 50 × 20 × 10 mm turned by 33°, k = 25 W/(m·K) along it and 1.4 W/(m·K) across, ends 40 K apart.",
		Quantity: "heat that passes", Unit: "W", Source: "exact: kAΔT/L with the conductivity along the bar",
		Reference: along * 2e-4 * 40 / 0.05,
		Sizes:     []string{"8 mm", "4 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			grain := varying("grain", fmt.Sprintf("%g W/(m·K)", along))
			grain.Properties[material.ConductivityY] = material.Property{Value: fmt.Sprintf("%g W/(m·K)", across)}
			grain.Properties[material.ConductivityZ] = material.Property{Value: fmt.Sprintf("%g W/(m·K)", across)}
			bar := block("bar", "grain", -25, 25)
			bar.Place.Turn = "33 deg"
			return document("bar", size, []model.Part{bar}, []material.Material{grain},
				between("bar", "60 °C", "20 °C"), sentence("r1", heat.KeyThrough, patch("bar", "right")))
		},
	}
}
