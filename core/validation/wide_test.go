package validation

import (
	"fmt"
	"math"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics/flow"
)

// Wide lists the cases of bodies in a wide turbulent stream, which take minutes. Their sizes are those of cells along the body.
func Wide() []Case { return []Case{thinPlate()} }

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
