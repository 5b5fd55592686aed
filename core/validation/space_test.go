package validation

import (
	"saltkettle/core/model"
	"saltkettle/core/physics/flow"
	"saltkettle/core/physics/heat"
)

// Space lists the cases of flow in space, with functions of order 1.
func Space() []Case {
	return []Case{cube("least speed along the lid's motion on the upright middle line", "least(velocity_x along 0.5 m, 0.5 m, 0 m, 0.5 m, 0.5 m, 1 m)", -0.2804, 0.05, "0.1 m", "0.04 m"),
		cube("greatest upright speed on the level middle line", "greatest(velocity_z along 0 m, 0.5 m, 0.5 m, 1 m, 0.5 m, 0.5 m)", 0.2467, 0.03, "0.05 m"), squareDuct(false), squareDuct(true), heatedCube()}
}

// bricks makes the part of a document a box from the origin on, mm, which is cut into hexahedra.
func bricks(d *model.Document, size [3]float64) *model.Document {
	s := &model.Surface{}
	for v := range 8 {
		s.Points = append(s.Points, size[0]*float64(v&1), size[1]*float64(v>>1&1), size[2]*float64(v>>2&1))
	}
	for _, q := range [][4]int32{{0, 2, 3, 1}, {4, 5, 7, 6}, {0, 1, 5, 4}, {1, 3, 7, 5}, {3, 2, 6, 7}, {2, 0, 4, 6}} {
		s.Triangles = append(s.Triangles, q[0], q[1], q[2], q[0], q[2], q[3])
	}
	p := &d.Parts[0]
	p.Outline, p.Surface, p.Place, p.Span = model.Outline{Kind: "surface"}, s, model.Place{}, model.Span{}
	return d
}

func cube(what, reading string, reference, within float64, sizes ...string) Case {
	return Case{
		Name:     "Cube whose lid moves, Reynolds number 1000: " + what,
		About:    "Solid space, 1 × 1 × 1 m of hexahedra of order 1, 1000 kg/m³, 1 Pa·s, the lid moves along itself at 1 m/s.",
		Quantity: what, Unit: "m/s", Source: "Albensoeder, Kuhlmann, J. Comput. Phys. 206 (2005) 536",
		Reference: reference, Sizes: sizes, Within: within,
		Document: func(size string) *model.Document {
			d := flowing(model.Solid, size, "1 m", "1 m", "0.5 m", "0.5 m", 1, []model.Sentence{
				sentence("c2", flow.KeyWallMoves, patch("body", "top"), "x", "1 m/s")}, formula(reading, "m/s"))
			d.Mesh.Order = "1"
			return bricks(d, [3]float64{1000, 1000, 1000})
		},
	}
}

func heatedCube() Case {
	return Case{
		Name:     "Heated cube, Rayleigh number 1e5",
		About:    "Solid space, 1 × 1 × 1 m of hexahedra of order 1, Prandtl number 0.71, left at 300.5 K, right at 299.5 K, the other sides let no heat through; what is warm is lighter by a thousandth for each kelvin.",
		Quantity: "heat that passes, relative to that at rest", Unit: "W", Source: "Tric, Labrosse, Betrouni, Int. J. Heat Mass Transfer 43 (2000) 4043",
		Reference: 4.3370, Sizes: []string{"0.125 m", "0.0625 m"}, Within: 0.04,
		Document: func(size string) *model.Document {
			d := flowing(model.Solid, size, "1 m", "1 m", "0.5 m", "0.5 m", 0.71, []model.Sentence{
				sentence("c2", heat.KeyHeld, patch("body", "left"), "temperature", "300.5 K"), sentence("c3", heat.KeyHeld, patch("body", "right"), "temperature", "299.5 K"),
				sentence("c4", flow.KeyGravity, model.Patch{}, "z", "-7.1e7 m/s²", "temperature", "300 K")},
				sentence("r1", heat.KeyThrough, patch("body", "right")))
			d.Mesh.Order = "1"
			return bricks(buoyant(d), [3]float64{1000, 1000, 1000})
		},
	}
}

// squareDuct is a slow flow, so that what comes in brings no momentum along.
func squareDuct(hexahedra bool) Case {
	form := "wedges"
	if hexahedra {
		form = "hexahedra"
	}
	return Case{
		Name:     "Square duct of " + form,
		About:    "Solid space, 20 × 20 mm across and 60 mm long, " + form + " of order 1, 1000 kg/m³, 0.02 Pa·s, 0.1 mPa between its ends.",
		Quantity: "volume that flows", Unit: "m³/s", Source: "White, Viscous Fluid Flow, 3rd ed., 2006, equation 3-48: 0.0351443·a⁴Δp/(µL)",
		Reference: 1e-4 * 0.0351443 * 1.6e-7 / (0.02 * 0.06), Sizes: []string{"5 mm", "2.5 mm", "1.5 mm"}, Within: 0.02,
		Document: func(size string) *model.Document {
			d := flowing(model.Solid, size, "60 mm", "20 mm", "30 mm", "10 mm", 0.02, []model.Sentence{
				sentence("c2", flow.KeyOpening, patch("body", "left"), "pressure", "1e-4 Pa"), sentence("c3", flow.KeyOpening, patch("body", "right"))},
				sentence("r1", flow.KeyVolumeFlow, patch("body", "right")))
			d.Readings[0].Unit, d.Mesh.Order = "m³/s", "1"
			d.Parts[0].Span = model.Span{From: "0 mm", To: "20 mm"}
			if hexahedra {
				return bricks(d, [3]float64{60, 20, 20})
			}
			return d
		},
	}
}
