package validation

import (
	"fmt"
	"math"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics/flow"
	"saltkettle/core/physics/heat"
)

// Turbulent lists the cases of turbulent flow. Their sizes are those of the first cells along walls.
func Turbulent() []Case {
	return rested([]Case{
		betweenWalls(395, 20.13), betweenWalls(590, 21.26), alongAPlate(),
		turbulentPipe(1e4, 0, "0.5 mm", "0.25 mm"), turbulentPipe(1e5, 0, "0.5 mm", "0.06 mm"), turbulentPipe(1e6, 0, "0.25 mm", "0.008 mm"), turbulentPipe(1e7, 0, "0.1 mm", "0.001 mm"),
		turbulentPipe(1e6, 0.01, "0.5 mm", "0.1 mm"), turbulentPipe(1e7, 0.001, "0.25 mm", "0.02 mm"), heatInATube(),
		byEnergy(betweenWalls(395, 20.13)), byEnergy(betweenWalls(590, 21.26)), byEnergy(alongAPlate(), "1 mm", "0.25 mm"),
		byEnergy(turbulentPipe(1e4, 0, "0.5 mm", "0.05 mm")), byEnergy(turbulentPipe(1e5, 0, "0.5 mm", "0.06 mm", "0.006 mm")), byEnergy(turbulentPipe(1e6, 0, "0.25 mm", "0.008 mm", "0.0008 mm")), byEnergy(turbulentPipe(1e7, 0, "0.1 mm", "0.0001 mm")),
		byEnergy(turbulentPipe(1e6, 0.01, "0.5 mm", "0.1 mm")), byEnergy(turbulentPipe(1e7, 0.001, "0.25 mm", "0.02 mm")), byEnergy(heatInATube(), "0.4 mm", "0.003 mm"),
	})
}

// rested are cases that have settled where their readings are at rest.
func rested(list []Case) []Case {
	for i := range list {
		list[i].Closes = 1e-6
	}
	return list
}

// byEnergy is a case whose flow carries the energy of its eddies along and how fast they decay.
func byEnergy(c Case, sizes ...string) Case {
	document := c.Document
	c.Name, c.Within = c.Name+", by the energy of eddies", 0.09
	if len(sizes) > 0 {
		c.Sizes = sizes
	}
	c.Document = func(size string) *model.Document {
		d := document(size)
		for i := range d.Conditions {
			if d.Conditions[i].Kind == flow.KeyTurbulent {
				d.Conditions[i].Kind = flow.KeyEnergy
			}
		}
		return d
	}
	return c
}

// blown is a fluid of 1000 kg/m³ that is as runny as flows need to be turbulent.
func blown(viscosity float64) material.Material {
	return material.Material{Name: "clay", Family: "liquid", Properties: map[material.Key]material.Property{
		material.Density: {Value: "1000 kg/m³"}, material.Viscosity: {Value: fmt.Sprintf("%g Pa·s", viscosity)},
		material.HeatCapacity: {Value: "4000 J/(kg·K)"}, material.Conductivity: {Value: fmt.Sprintf("%g W/(m·K)", viscosity*4000/0.7)}}}
}

// layered asks for layers along sides of the body, the first of a thickness, until they are as thick as cells of a size or
// all of them as a length, m.
func layered(d *model.Document, first string, size, all float64, sides ...string) {
	var mm float64
	if _, err := fmt.Sscanf(first, "%g mm", &mm); err != nil {
		panic(err)
	}
	count := 0
	for h, sum := mm/1000, 0.; count < 50 && sum < all && h < size; count++ {
		sum += h
		h *= 1.25
	}
	for _, side := range sides {
		d.Mesh.Walls = append(d.Mesh.Walls, model.MeshWall{On: patch("body", side), First: first, Count: fmt.Sprint(max(2, count)), Growth: "1.25"})
	}
}

// turbulent turns a section that flows into one whose flow is turbulent.
func turbulent(d *model.Document, viscosity float64, size string) *model.Document {
	d.Materials = []material.Material{blown(viscosity)}
	d.Conditions = append(d.Conditions, sentence("t", flow.KeyTurbulent, model.Patch{}))
	d.Mesh.Order, d.Mesh.Size, d.Mesh.Across = "", size, "1"
	return d
}

func betweenWalls(friction, want float64) Case {
	const half, speed = 0.01, 0.05 // m, m/s
	return Case{
		Name:     fmt.Sprintf("Turbulent flow between walls, Reynolds number of friction %g", friction),
		About:    "Plane space, walls 20 mm apart, 1000 kg/m³, driven by 5 Pa every 20 mm, the flow repeats: a speed of friction of 0.05 m/s. Sizes are those of the first cells.",
		Quantity: "speed in the middle", Unit: "m/s", Source: "Moser, Kim & Mansour, Phys. Fluids 11 (1999) 943",
		Reference: want * speed, Sizes: []string{"1 mm", "0.25 mm", "0.02 mm"}, Within: 0.04,
		Document: func(size string) *model.Document {
			d := flowing(model.Plane, size, "20 mm", "20 mm", "10 mm", "10 mm", 1, []model.Sentence{
				sentence("c2", flow.KeyRepeats, patch("body", "left"), "x", "20 mm", "pressure", "5 Pa")}, sentence("r1", flow.KeySpeed, patch("body", "")))
			turbulent(d, 1000*half*speed/friction, "1.5 mm")
			layered(d, size, 1.2e-3, 8e-3, "front", "back")
			return d
		},
	}
}

func alongAPlate() Case {
	const reynolds = 1e7
	mean := 0.003
	for range 50 { // Schoenherr
		mean = math.Pow(0.242/math.Log10(reynolds*mean), 2)
	}
	return Case{
		Name:     "Turbulent flow along a plate, Reynolds number 10⁷",
		About:    "Plane space, a plate 2 m long behind 0.5 m without friction, 5 m/s, 1000 kg/m³, 0.001 Pa·s. Sizes are those of the first cells, 190 to 1 units of the wall.",
		Quantity: "force of friction", Unit: "N", Source: "Schoenherr, Trans. Soc. Nav. Arch. Mar. Eng. 40 (1932) 279",
		Reference: mean * 1000 * 25, Sizes: []string{"1 mm", "0.25 mm", "0.005 mm"}, Within: 0.05,
		Document: func(size string) *model.Document {
			d := flowing(model.Plane, size, "2 m", "0.5 m", "1 m", "0.25 m", 1, []model.Sentence{
				sentence("c2", flow.KeyInlet, patch("ahead", "left"), "speed", "5 m/s"), sentence("c3", flow.KeyOpening, patch("body", "right")),
				sentence("c4", flow.KeyFlows, patch("ahead", "")), sentence("c5", flow.KeySlips, patch("ahead", "front")),
				sentence("c6", flow.KeySlips, patch("ahead", "back")), sentence("c7", flow.KeySlips, patch("body", "back"))},
				sentence("r1", flow.KeyForce, patch("body", "front"), "axis", "x"))
			ahead := d.Parts[0]
			ahead.ID, ahead.Name, ahead.Outline.Width, ahead.Place.X = "ahead", "ahead", "0.5 m", "-0.25 m"
			d.Parts = append(d.Parts, ahead)
			turbulent(d, 0.001, "60 mm")
			layered(d, size, 15e-3, 0.1, "front")
			also := d.Mesh.Walls[0]
			also.On.Part = "ahead"
			d.Mesh.Walls, d.Mesh.Growth = append(d.Mesh.Walls, also), "1.2"
			d.Mesh.Near = []model.MeshNear{{On: patch("body", "left"), Size: "2 mm"}}
			return d
		},
	}
}

// colebrook is the coefficient of friction of a pipe, by the Reynolds number and the roughness over the diameter.
func colebrook(reynolds, rough float64) float64 {
	f := 0.02
	for range 100 {
		f = math.Pow(-2*math.Log10(rough/3.7+2.51/(reynolds*math.Sqrt(f))), -2)
	}
	return f
}

func turbulentPipe(reynolds, rough float64, sizes ...string) Case {
	const radius, speed = 0.02, 1.0
	words := "smooth"
	if rough > 0 {
		words = fmt.Sprintf("rough as sand of %g of the diameter", rough)
	}
	return Case{
		Name:     fmt.Sprintf("Turbulent flow in a pipe, Reynolds number %.0e, %s", reynolds, words),
		About:    "Axial space, radius 20 mm, 1 m/s on the mean, 1000 kg/m³, the flow repeats every 40 mm. Sizes are those of the first cells.",
		Quantity: "pressure that is lost", Unit: "Pa", Source: "Colebrook, J. Inst. Civ. Eng. 11 (1939) 133",
		Reference: colebrook(reynolds, rough) * 1000 * speed * speed / 2, Sizes: sizes, Within: 0.06,
		Document: func(size string) *model.Document {
			conditions := []model.Sentence{sentence("c2", flow.KeyCarries, patch("body", "front"), "y", "40 mm", "flow", fmt.Sprintf("%g m³/s", math.Pi*radius*radius*speed))}
			if rough > 0 {
				conditions = append(conditions, sentence("c3", flow.KeyRough, patch("body", "right"), "height", fmt.Sprintf("%g mm", rough*40)))
			}
			d := flowing(model.Axial, size, "20 mm", "40 mm", "10 mm", "20 mm", 1, conditions, sentence("r1", flow.KeyLoss, model.Patch{}))
			turbulent(d, 1000*speed*2*radius/reynolds, "2 mm")
			layered(d, size, 1.3e-3, 9e-3, "right")
			return d
		},
	}
}

func heatInATube() Case {
	const reynolds, prandtl = 1e5, 0.7
	f := math.Pow(0.79*math.Log(reynolds)-1.64, -2)
	nusselt := f / 8 * (reynolds - 1000) * prandtl / (1 + 12.7*math.Sqrt(f/8)*(math.Pow(prandtl, 2./3)-1)) * (1 + math.Pow(0.04/1.2, 2./3))
	units := 4 * nusselt / (reynolds * prandtl) * 1.2 / 0.04
	return Case{
		Name:     "Heat in a tube, Reynolds number 10⁵",
		About:    "Axial space, radius 20 mm, 1.2 m long, 10 m/s as from a long pipe at 20 °C, the wall at 60 °C, a Prandtl number of 0.7. Sizes are those of the first cells.",
		Quantity: "temperature of what leaves, mixed", Unit: "°C", Source: "Gnielinski, Int. Chem. Eng. 16 (1976) 359",
		Reference: 60 - 40*math.Exp(-units), Sizes: []string{"0.4 mm", "0.05 mm"}, Within: 0.03,
		Document: func(size string) *model.Document {
			d := flowing(model.Axial, size, "20 mm", "1.2 m", "10 mm", "0.6 m", 1, []model.Sentence{
				sentence("c2", flow.KeyChannel, patch("body", "front"), "speed", "10 m/s"), sentence("c3", flow.KeyOpening, patch("body", "back")),
				sentence("c4", heat.KeyHeld, patch("body", "front"), "temperature", "20 °C"), sentence("c5", heat.KeyHeld, patch("body", "right"), "temperature", "60 °C")},
				sentence("r1", flow.KeyMixed, patch("body", "back")))
			d.Physics = []model.Physics{{Kind: "heat"}}
			turbulent(d, 1000*10*0.04/reynolds, "2.5 mm")
			layered(d, size, 1.6e-3, 9e-3, "right")
			return d
		},
	}
}
