package validation

import (
	"fmt"
	"math"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics/flow"
)

// Wide lists the cases of turbulent streams past bodies and steps, which take minutes.
func Wide() []Case {
	return rested([]Case{thinPlate(), backwardStep(), byEnergy(backwardStep()), squarePlate(), byEnergy(squarePlate())})
}

// squarePlate is a quarter of a plate across a stream, between its planes of symmetry.
func squarePlate() Case {
	return Case{
		Name:     "Drag of a square plate across a turbulent stream",
		About:    "Solid space, a quarter of a plate of 1 m by 1 m by 50 mm in a stream of 10 m/s, Reynolds number 6.7·10⁵, 8 m of room beside and 16 m behind it. Sizes are those of cells at the plate; with finer ones, from 60 mm on, the wake is not steady.",
		Quantity: "coefficient of drag", Unit: "", Source: "S. Hoerner, Fluid-dynamic drag (1965), 1.17; others 1.10 to 1.20",
		Reference: 1.17, Sizes: []string{"100 mm", "80 mm"}, Within: 0.08,
		Document: func(size string) *model.Document {
			d := model.New("across")
			d.Space = model.Space{Kind: model.Solid, Unit: "m"}
			d.Physics = nil
			d.Materials = []material.Material{{Name: "draught", Family: "gas", Properties: map[material.Key]material.Property{
				material.Density: {Value: "1.2 kg/m³"}, material.Viscosity: {Value: "1.8e-5 Pa·s"}}}}
			box := func(id, stuff, width, depth, x, y, to string) model.Part {
				return model.Part{ID: id, Name: id, Material: stuff, Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: width, Depth: depth},
					Place: model.Place{X: x, Y: y}, Span: model.Span{From: "0 m", To: to}}
			}
			d.Parts = []model.Part{box("wind", "draught", "24 m", "8 m", "4 m", "4 m", "8 m"), box("plate", "copper", "50 mm", "0.5 m", "0 m", "0.25 m", "0.5 m")}
			d.Conditions = []model.Sentence{sentence("c1", flow.KeyFlows, patch("wind", "")), sentence("t", flow.KeyTurbulent, model.Patch{}),
				sentence("c2", flow.KeyInlet, patch("wind", "left"), "speed", "10 m/s"), sentence("c3", flow.KeyOpening, patch("wind", "right"))}
			for _, side := range []string{"front", "back", "top", "bottom"} {
				d.Conditions = append(d.Conditions, sentence(side, flow.KeySlips, patch("wind", side)))
			}
			d.Readings = []model.Sentence{sentence("r1", flow.KeyCoefficient, model.Patch{Part: "plate", Facing: "wind"}, "axis", "x", "turn", "0 deg", "speed", "10 m/s", "area", "0.25 m²")}
			d.Mesh = model.Mesh{Size: "1.5 m", Across: "1", Growth: "1.25", Near: []model.MeshNear{{On: patch("plate", "*"), Size: size}}}
			return d
		},
	}
}

// backwardStep is that of a channel that widens by a step from 8 to 9 of its heights, 105 of them behind the inlet: so much that the
// layer at the wall is 1.5 steps thick before it.
func backwardStep() Case {
	return Case{
		Name:     "Turbulent flow over a backward step",
		About:    "Plane space, a channel 0.8 m deep that gets deeper by 0.1 m, 10.5 m behind the inlet, 1 m/s, Reynolds number by the height of the step 36 000. Sizes are those of cells along the bed behind the step; the first cells at walls are a tenth of them.",
		Quantity: "where the flow comes back to the bed, in steps", Unit: "", Source: "D. Driver & H. Seegmiller, AIAA J. 23 (1985) 163, 6.26 ± 0.10",
		Reference: 6.26, Sizes: []string{"20 mm", "10 mm", "5 mm"}, Within: 0.12,
		Document: func(size string) *model.Document {
			var mm float64
			if _, err := fmt.Sscanf(size, "%g mm", &mm); err != nil {
				panic(err)
			}
			d := model.New("step")
			d.Space = model.Space{Kind: model.Plane, Unit: "m", Depth: "1 m"}
			d.Physics, d.Materials = nil, []material.Material{blown(1000 * 0.1 / 36000)}
			for _, p := range []struct{ id, width, depth, x, y string }{{"ahead", "10.5 m", "0.8 m", "-5.25 m", "0.5 m"}, {"behind", "1.2 m", "0.9 m", "0.6 m", "0.45 m"}, {"body", "3.8 m", "0.9 m", "3.1 m", "0.45 m"}} {
				d.Parts = append(d.Parts, model.Part{ID: p.id, Name: p.id, Material: "clay", Role: model.Solved,
					Outline: model.Outline{Kind: "rectangle", Width: p.width, Depth: p.depth}, Place: model.Place{X: p.x, Y: p.y}})
				d.Conditions = append(d.Conditions, sentence("f"+p.id, flow.KeyFlows, patch(p.id, "")))
				for _, side := range []string{"front", "back"} {
					d.Mesh.Walls = append(d.Mesh.Walls, model.MeshWall{On: patch(p.id, side), First: fmt.Sprintf("%g mm", mm/10), Count: "12", Growth: "1.25"})
				}
			}
			d.Conditions = append(d.Conditions, sentence("t", flow.KeyTurbulent, model.Patch{}),
				sentence("c2", flow.KeyInlet, patch("ahead", "left"), "speed", "1 m/s"), sentence("c3", flow.KeyOpening, patch("body", "right")))
			d.Readings = []model.Sentence{sentence("r1", "formula", model.Patch{}, "formula", "greatest(if(wall_shear_x < 0 Pa, x, 0 m) over behind.front)/0.1 m")}
			d.Mesh.Size, d.Mesh.Growth = "100 mm", "1.15"
			d.Mesh.Near = []model.MeshNear{{On: patch("behind", "front"), Size: size}, {On: patch("behind", "left"), Size: size}}
			return d
		},
	}
}

// thinPlate is that of a plate of 1 m by 20 mm with round ends: a thin one where nothing rubs lifts by 2π times the sine of the angle.
func thinPlate() Case {
	const angle = 3.
	return Case{
		Name:     "Lift of a thin plate in a wide turbulent stream",
		About:    "Plane space, a plate 1 m long and 20 mm thick with round ends, 3° to a stream of 30 m/s, Reynolds number 2·10⁶, 30 m of room. Sizes are those of cells along the plate.",
		Quantity: "coefficient of lift", Unit: "", Source: "thin sections: 2π·sin α",
		Reference: 2 * math.Pi * math.Sin(angle*math.Pi/180), Sizes: []string{"20 mm", "5 mm", "2 mm"}, Within: 0.1,
		Document: func(size string) *model.Document {
			turn := angle * math.Pi / 180
			d := model.New("wide")
			d.Space = model.Space{Kind: model.Plane, Unit: "m", Depth: "1 m"}
			d.Physics = nil
			d.Materials = []material.Material{{Name: "draught", Family: "gas", Properties: map[material.Key]material.Property{
				material.Density: {Value: "1.2 kg/m³"}, material.Viscosity: {Value: "1.8e-5 Pa·s"}}}}
			d.Parts = []model.Part{
				{ID: "wind", Name: "wind", Material: "draught", Role: model.Solved, Outline: model.Outline{Kind: "box-around", Left: "30 m", Right: "60 m", Front: "30 m", Back: "30 m"}},
				{ID: "plate", Name: "plate", Material: "copper", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "1 m", Depth: "20 mm", Round: "9 mm"}}}
			d.Conditions = []model.Sentence{sentence("c1", flow.KeyFlows, patch("wind", "")), sentence("t", flow.KeyTurbulent, model.Patch{}),
				sentence("c2", flow.KeyStream, patch("wind", "*"), "x", fmt.Sprintf("%.12g m/s", 30*math.Cos(turn)), "y", fmt.Sprintf("%.12g m/s", 30*math.Sin(turn)))}
			d.Readings = []model.Sentence{sentence("r1", flow.KeyCoefficient, model.Patch{Part: "plate", Facing: "wind"}, "axis", "y", "turn", "3 deg", "speed", "30 m/s", "area", "1 m²")}
			d.Mesh = model.Mesh{Size: "2 m", Growth: "1.2", Near: []model.MeshNear{{On: patch("plate", "*"), Size: size}}}
			return d
		},
	}
}
