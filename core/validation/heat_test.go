package validation

import (
	"fmt"
	"math"

	"saltkettle/core/material"
	"saltkettle/core/model"
)

// stuff is a material with a conductivity, for cases.
func stuff(name string, k float64) material.Material {
	return material.Material{Name: name, Family: "metal", Properties: map[material.Key]material.Property{
		material.Conductivity: {Value: fmt.Sprintf("%g W/(m·K)", k)},
		material.Density:      {Value: "1000 kg/m³"},
	}}
}

// block is a box of 20 × 10 mm in y and z, from x0 to x1 (mm).
func block(id, stuff string, x0, x1 float64) model.Part {
	return model.Part{ID: id, Name: id, Material: stuff, Role: model.Solved,
		Outline: model.Outline{Kind: "rectangle", Width: fmt.Sprintf("%g mm", x1-x0), Depth: "20 mm"},
		Span:    model.Span{From: "0 mm", To: "10 mm"}, Place: model.Place{X: fmt.Sprintf("%g mm", (x0+x1)/2)}}
}

func sentence(id, kind string, on model.Patch, values ...string) model.Sentence {
	s := model.Sentence{ID: id, Kind: kind, On: on, Values: map[string]string{}}
	for i := 0; i < len(values); i += 2 {
		s.Values[values[i]] = values[i+1]
	}
	return s
}

func patch(part, side string) model.Patch { return model.Patch{Part: part, Side: side} }

func document(name, size string, parts []model.Part, stuffs []material.Material, conditions []model.Sentence, reading model.Sentence) *model.Document {
	d := model.New(name)
	d.Parts, d.Materials, d.Conditions = parts, stuffs, conditions
	d.Mesh.Size, d.Mesh.Across = size, "2" // whatever flows
	d.Readings = []model.Sentence{reading}
	d.Enumerate()
	return d
}

const incropera = "Incropera, DeWitt, Bergman, Lavine, Fundamentals of Heat and Mass Transfer, 6th ed., 2007, "

// Heat lists the cases of steady conduction.
func Heat() []Case {
	return []Case{slab(), compositeWall(), fin(), cylinder(), heldWall()}
}

func slab() Case {
	const l, k, q, h, medium = 0.05, 14.9, 2e6, 850.0, 72.0
	return Case{
		Name:     "Slab with a uniform source",
		About:    "Thickness 50 mm, k = 14.9 W/(m·K), q = 2 MW/m³, one face insulated, the other cooled by a fluid at 72 °C with 850 W/(m²·K).",
		Quantity: "mean temperature in the slab above the fluid", Unit: "K", Source: incropera + "section 3.5: qL/h + qL²/(3k)",
		Reference: q*l/h + q*l*l/(3*k),
		Sizes:     []string{"5 mm", "2.5 mm", "1.25 mm"}, MinOrder: 1.9,
		Document: func(size string) *model.Document {
			d := document("slab", size, []model.Part{block("slab", "steel", 0, 50)}, []material.Material{stuff("steel", k)},
				[]model.Sentence{sentence("c1", "heat.source-density", patch("slab", ""), "density", "2 MW/m³"),
					sentence("c2", "heat.convection", patch("slab", "right"), "medium", "brine", "temperature", "0.001 K", "coefficient", "850 W/(m²·K)")},
				sentence("r1", "heat.mean", patch("slab", "")))
			d.Readings[0].Unit = "K"
			return d
		},
	}
}

func compositeWall() Case {
	const h, hot, medium, area = 600.0, 450.0, 293.15, 2e-4
	r := 1/h + 0.010/1.0 + 0.004/401 + 0.030/14.9
	return Case{
		Name:     "Composite wall",
		About:    "10 mm of k = 1, 4 mm of 401 and 30 mm of 14.9 W/(m·K) in series between a face held at 450 K and a fluid at 293.15 K with 600 W/(m²·K), 2 cm².",
		Quantity: "heat that passes from the first layer to the second", Unit: "W", Source: incropera + "section 3.1.3",
		Reference: (hot - medium) / r * area, Sizes: []string{"5 mm", "2.5 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			return document("wall", size, []model.Part{block("clay", "clay", 0, 10), block("copper", "copper", 10, 14), block("steel", "steel", 14, 44)},
				[]material.Material{stuff("clay", 1), stuff("copper", 401), stuff("steel", 14.9)},
				[]model.Sentence{sentence("c1", "heat.held", patch("clay", "left"), "temperature", "450 K"),
					sentence("c2", "heat.convection", patch("steel", "right"), "medium", "brine", "temperature", "293.15 K", "coefficient", "600 W/(m²·K)")},
				sentence("r1", "heat.through", model.Patch{Part: "clay", Facing: "copper"}))
		},
	}
}

func fin() Case {
	const l, w, t, k, h, root, medium = 0.05, 0.02, 0.01, 14.9, 0.5, 360.0, 290.0
	m := math.Sqrt(h * 2 * (w + t) / (k * w * t))
	return Case{
		Name:     "Straight fin with an insulated tip",
		About:    "50 × 20 × 10 mm, k = 14.9 W/(m·K), root held at 360 K, air at 290 K with 0.5 W/(m²·K) on the sides: Bi = 1.7e-4, so that the one-dimensional solution holds to about 1e-4.",
		Quantity: "heat that leaves through the root (it enters, so the value is negative)", Unit: "W", Source: incropera + "table 3.4: −√(hPkA)·θ·tanh(mL)",
		Reference: -math.Sqrt(h*2*(w+t)*k*w*t) * (root - medium) * math.Tanh(m*l),
		Sizes:     []string{"10 mm", "5 mm", "2.5 mm"}, Within: 2e-4,
		Document: func(size string) *model.Document {
			c := []model.Sentence{sentence("c1", "heat.convection", patch("fin", "*"), "medium", "air", "temperature", "290 K", "coefficient", "0.5 W/(m²·K)"),
				sentence("c2", "heat.insulated", patch("fin", "right")),
				sentence("c3", "heat.held", patch("fin", "left"), "temperature", "360 K")}
			d := document("fin", size, []model.Part{block("fin", "steel", 0, 50)}, []material.Material{stuff("steel", k)}, c, sentence("r1", "heat.through", patch("fin", "left")))
			return d
		},
	}
}

func cylinder() Case {
	const r, k, q = 0.02, 2.0, 1e6
	return Case{
		Name:     "Cylinder with a uniform source",
		About:    "Radius 20 mm, k = 2 W/(m·K), q = 1 MW/m³, rim held at 0.001 K above absolute zero so that the reading is the rise. The rim is a polygon in the mesh.",
		Quantity: "greatest temperature rise", Unit: "K", Source: incropera + "section 3.5.2: qR²/(4k)",
		Reference: q * r * r / (4 * k), Sizes: []string{"4 mm", "2 mm", "1 mm"}, MinOrder: 1.8,
		Document: func(size string) *model.Document {
			p := model.Part{ID: "rod", Name: "rod", Material: "clay", Role: model.Solved, Outline: model.Outline{Kind: "disc", Diameter: "40 mm"}, Span: model.Span{From: "0 mm", To: "5 mm"}}
			d := document("cylinder", size, []model.Part{p}, []material.Material{stuff("clay", k)},
				[]model.Sentence{sentence("c1", "heat.source-density", patch("rod", ""), "density", "1 MW/m³"),
					sentence("c2", "heat.held", patch("rod", "rim"), "temperature", "0.001 K")},
				sentence("r1", "heat.spread", patch("rod", "")))
			return d
		},
	}
}

func heldWall() Case {
	return Case{
		Name:     "Patch test",
		About:    "A block of 50 mm between faces held at 300 K and 400 K, k = 14.9 W/(m·K), 2 cm², on an unstructured mesh: a linear field.",
		Quantity: "heat that leaves through the cold face", Unit: "W", Source: "k·A·ΔT/L",
		Reference: 14.9 * 2e-4 * 100 / 0.05, Sizes: []string{"5 mm", "2.5 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			return document("patch", size, []model.Part{block("block", "steel", 0, 50)}, []material.Material{stuff("steel", 14.9)},
				[]model.Sentence{sentence("c1", "heat.held", patch("block", "left"), "temperature", "300 K"),
					sentence("c2", "heat.held", patch("block", "right"), "temperature", "400 K")},
				sentence("r1", "heat.through", patch("block", "left")))
		},
	}
}
