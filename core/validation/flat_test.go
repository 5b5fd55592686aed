package validation

import (
	"math"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics/heat"
)

// Flat lists the cases of plane and axial spaces.
func Flat() []Case { return []Case{sphere(), curvedSphere(), pipe(), bar()} }

// section is a document in a flat space with one part.
func section(kind, size string, o model.Outline, at model.Place, conditions []model.Sentence, reading model.Sentence) *model.Document {
	p := model.Part{ID: "body", Name: "body", Material: "clay", Role: model.Solved, Outline: o, Place: at}
	d := document("section", size, []model.Part{p}, []material.Material{stuff("clay", 2)}, conditions, reading)
	d.Space.Kind = kind
	return d
}

func sphere() Case {
	const r, k, q = 0.02, 2.0, 1e6
	return Case{
		Name:     "Sphere with a uniform source",
		About:    "Axial space: a half disc of 20 mm about the axis, k = 2 W/(m·K), q = 1 MW/m³, surface held at 0.001 K above absolute zero. The surface is a polygon in the mesh.",
		Quantity: "greatest temperature rise", Unit: "K", Source: incropera + "section 3.5.2: qR²/(6k)",
		Reference: q * r * r / (6 * k), Sizes: []string{"2 mm", "1 mm", "0.5 mm"}, MinOrder: 1.7,
		Document: func(size string) *model.Document {
			half := model.Outline{Kind: "sector", Diameter: "40 mm", Inner: "0 mm", Angle: "180 deg"}
			return section(model.Axial, size, half, model.Place{Turn: "-90 deg"},
				[]model.Sentence{sentence("c1", "heat.source-density", patch("body", ""), "density", "1 MW/m³"),
					sentence("c2", "heat.held", patch("body", "rim"), "temperature", "0.001 K")},
				sentence("r1", "heat.spread", patch("body", "")))
		},
	}
}

func curvedSphere() Case {
	c := sphere().ofOrderTwo("Sphere with a uniform source, elements of order 2", "4 mm", "2 mm", "1 mm")
	c.About = "Axial space: a half disc of 20 mm about the axis, k = 2 W/(m·K), q = 1 MW/m³, surface held at 0.001 K above absolute zero. Edges on the surface are curved."
	c.MinOrder, c.Within = 0, 1e-6
	return c
}

func pipe() Case {
	const r1, r2, long, k, h, inside, air = 0.01, 0.03, 0.05, 2.0, 40.0, 400.0, 300.0
	return Case{
		Name:     "Wall of a pipe",
		About:    "Axial space: a wall from 10 mm to 30 mm from the axis, 50 mm long, k = 2 W/(m·K), 400 K within, air at 300 K with 40 W/(m²·K) without.",
		Quantity: "heat that leaves through the outside", Unit: "W", Source: incropera + "section 3.3.1",
		Reference: (inside - air) / (math.Log(r2/r1)/(2*math.Pi*k*long) + 1/(h*2*math.Pi*r2*long)),
		Sizes:     []string{"4 mm", "2 mm", "1 mm"}, MinOrder: 1.8,
		Document: func(size string) *model.Document {
			return section(model.Axial, size, model.Outline{Kind: "rectangle", Width: "20 mm", Depth: "50 mm"}, model.Place{X: "20 mm"},
				[]model.Sentence{sentence("c1", "heat.held", patch("body", "left"), "temperature", "400 K"),
					sentence("c2", "heat.convection", patch("body", "right"), "medium", "air", "temperature", "300 K", "coefficient", "40 W/(m²·K)")},
				sentence("r1", heat.KeyThrough, patch("body", "right")))
		},
	}
}

func bar() Case {
	return Case{
		Name:     "Bar in a plane space",
		About:    "Plane space 0.3 m deep: 50 × 20 mm between ends held at 300 K and 400 K, k = 2 W/(m·K).",
		Quantity: "heat that leaves through the cold end", Unit: "W", Source: "k·A·ΔT/L",
		Reference: 2 * 0.02 * 0.3 * 100 / 0.05, Sizes: []string{"5 mm", "2.5 mm"}, Exact: true,
		Document: func(size string) *model.Document {
			d := section(model.Plane, size, model.Outline{Kind: "rectangle", Width: "50 mm", Depth: "20 mm"}, model.Place{},
				[]model.Sentence{sentence("c1", "heat.held", patch("body", "left"), "temperature", "300 K"),
					sentence("c2", "heat.held", patch("body", "right"), "temperature", "400 K")},
				sentence("r1", heat.KeyThrough, patch("body", "left")))
			d.Space.Depth = "0.3 m"
			return d
		},
	}
}
