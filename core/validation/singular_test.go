package validation

import (
	"fmt"
	"math"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics/heat"
)

// Singular lists the cases in which fluxes grow without bound at an edge: where a held
// patch ends on a smooth surface, and at corners that point inwards.
func Singular() []Case {
	return []Case{quarterElectrodes(), crossedElectrodes(), thickCross(), bend(), notch(), notchFlow(), discContact(), discContactOnOrderTwo()}
}

// quadrants are four squares of 20 mm round the middle that make one of 40 mm.
func quadrants(stuff string) []model.Part {
	var parts []model.Part
	for _, q := range []struct {
		id   string
		x, y int
	}{{"ne", 10, 10}, {"nw", -10, 10}, {"sw", -10, -10}, {"se", 10, -10}} {
		parts = append(parts, model.Part{ID: q.id, Name: q.id, Material: stuff, Role: model.Solved,
			Outline: model.Outline{Kind: "rectangle", Width: "20 mm", Depth: "20 mm"}, Place: model.Place{X: fmt.Sprintf("%d mm", q.x), Y: fmt.Sprintf("%d mm", q.y)}})
	}
	return parts
}

// selfDual is the source of cases whose held and insulated arcs a quarter turn exchanges.
const selfDual = "exact: a quarter turn exchanges held and insulated edges, so that the square conducts like its material one square long"

func quarterElectrodes() Case {
	return Case{
		Name:     "Square held at two opposite corners",
		About:    "Plane space 1 m deep: a square of 40 mm, k = 10 W/(m·K), held at 310 K from the middle of one edge round a corner to the middle of the next, at 300 K likewise at the opposite corner; nothing passes elsewhere. The flux is singular where held edges end.",
		Quantity: "heat that enters through one edge of the warm corner", Unit: "W", Source: selfDual,
		Reference: -50, Sizes: []string{"4 mm", "2 mm", "1 mm", "0.5 mm"}, MinOrder: 0.8, Finest: 2e-2,
		Document: func(size string) *model.Document {
			d := document("square", size, quadrants("steel"), []material.Material{stuff("steel", 10)}, nil, sentence("r1", heat.KeyThrough, patch("se", "right")))
			d.Space.Kind = model.Plane
			for i, p := range []model.Patch{patch("se", "right"), patch("se", "front"), patch("nw", "left"), patch("nw", "back")} {
				d.Conditions = append(d.Conditions, sentence(fmt.Sprintf("c%d", i+1), heat.KeyHeld, p, "temperature", []string{"310 K", "300 K"}[i/2]))
			}
			return d
		},
	}
}

func crossedElectrodes() Case {
	return quarterElectrodes().ofOrderTwo("Square held at two opposite corners, elements of order 2", "5 mm", "2.5 mm", "1.25 mm")
}

func thickCross() Case {
	c := quarterElectrodes()
	c.Name = "Plate held at two opposite corners"
	c.About = "As the square, in a solid space: 6 mm thick, through 2 cells."
	c.Reference, c.Sizes = -50*0.006, []string{"5 mm", "2.5 mm", "1.25 mm"}
	c.Finest = 3e-2
	flat := c.Document
	c.Document = func(size string) *model.Document {
		d := flat(size)
		d.Space.Kind = model.Solid
		for i := range d.Parts {
			d.Parts[i].Span = model.Span{From: "0 mm", To: "6 mm"}
		}
		return d
	}
	return c
}

func bend() Case {
	const squares = 8 + 1 - 2*math.Ln2/math.Pi
	return Case{
		Name:     "Bend of a strip",
		About:    "Plane space 1 mm deep: a strip 10 mm wide that turns a right angle, with 40 mm before and behind the corner, ρ = 0.5 µΩ·m, between terminals at 1 mV and 0 V. The inner corner is singular.",
		Quantity: "resistance", Unit: "mΩ", Source: "exact by conformal mapping: the corner counts 1 − 2·ln 2/π squares, up to exp(−8π) of the arms",
		Reference: 1e3 * 0.5e-6 / 1e-3 * squares, Sizes: []string{"4 mm", "2 mm", "1 mm"}, MinOrder: 1, Finest: 5e-3,
		Document: func(size string) *model.Document {
			corner := model.Outline{Kind: "path"}
			for _, p := range [][2]string{{"0 mm", "0 mm"}, {"50 mm", "0 mm"}, {"50 mm", "50 mm"}, {"40 mm", "50 mm"}, {"40 mm", "10 mm"}, {"0 mm", "10 mm"}} {
				corner.Points = append(corner.Points, model.Point{X: p[0], Y: p[1]})
			}
			corner.Points[2].Name, corner.Points[5].Name = "end", "start"
			m := stuff("strip", 10)
			m.Properties[material.Resistivity] = material.Property{Value: "0.5e-6 Ω·m"}
			p := model.Part{ID: "strip", Name: "strip", Material: "strip", Role: model.Solved, Outline: corner}
			d := document("bend", size, []model.Part{p}, []material.Material{m}, []model.Sentence{
				sentence("c1", "electric.flows", patch("strip", "")),
				sentence("c2", "electric.voltage", patch("strip", "start"), "voltage", "1 mV"),
				sentence("c3", "electric.voltage", patch("strip", "end"), "voltage", "0 V"),
			}, sentence("r1", "electric.resistance", patch("strip", "start")))
			d.Readings[0].Unit = "mΩ"
			d.Physics = []model.Physics{{Kind: "electric"}}
			d.Space.Kind, d.Space.Depth = model.Plane, "1 mm"
			return d
		},
	}
}

func notch() Case {
	return Case{
		Name:     "Corner that points inwards",
		About:    "Plane space: an L of three squares of 10 mm about the inner corner, edges held at r^⅔·sin(⅔φ)·10 K/(10 mm)^⅔ above 300 K, which is the solution.",
		Quantity: "temperature 4 mm from the corner on the diagonal, above 300 K", Unit: "K", Source: "exact",
		Reference: 10 * math.Pow(0.4, 2./3), Sizes: []string{"2 mm", "1 mm", "0.5 mm"}, MinOrder: 1, Finest: 1e-2,
		Document: func(size string) *model.Document {
			return notched(size, formulaReading(fmt.Sprintf("at(temperature, %.9g mm, %.9g mm, 0 mm) - 300 K", -4*math.Sqrt2/2, -4*math.Sqrt2/2)))
		},
	}
}

func notchFlow() Case {
	// What passes the edge y = 0, 0 < x < 10 mm: k·∫∂T/∂n = k·10 K per metre of depth.
	c := notch()
	c.Name = "Heat through the edge of a corner that points inwards"
	c.Quantity, c.Unit, c.Reference, c.MinOrder, c.Finest = "heat that leaves through one edge of the corner", "W", 20, 0.5, 2e-2
	c.Document = func(size string) *model.Document {
		return notched(size, sentence("r1", heat.KeyThrough, patch("ell", "inner")))
	}
	return c
}

func notched(size string, reading model.Sentence) *model.Document {
	ell := model.Outline{Kind: "path"}
	for _, p := range [][2]string{{"0 mm", "0 mm"}, {"0 mm", "10 mm"}, {"-10 mm", "10 mm"}, {"-10 mm", "-10 mm"}, {"10 mm", "-10 mm"}, {"10 mm", "0 mm"}} {
		ell.Points = append(ell.Points, model.Point{X: p[0], Y: p[1]})
	}
	ell.Points[5].Name = "inner"
	p := model.Part{ID: "ell", Name: "ell", Material: "clay", Role: model.Solved, Outline: ell}
	// The angle from the diagonal of the L, that points to −x, −y, positive towards +x.
	law := "300 K + 10 K*(hypot(x, y)/10 mm)^(2/3)*sin(2/3*(135 deg + atan2(x - y, -x - y)))"
	d := document("notch", size, []model.Part{p}, []material.Material{stuff("clay", 2)}, []model.Sentence{
		sentence("c1", heat.KeyHeld, patch("ell", model.WholeSurface), "temperature", law)}, reading)
	d.Space.Kind = model.Plane
	return d
}

// discField is what a disc of radius 10 mm held at 10 K above a half space gives.
const discField = "300 K + 10 K*2/pi/1 rad*asin(20 mm/(hypot(r - 10 mm, y) + hypot(r + 10 mm, y)))"

func discContact() Case {
	return Case{
		Name:     "Disc on a half space",
		About:    "Axial space: a disc of 10 mm radius held 10 K above the far temperature on the face of a half space, k = 2 W/(m·K), of which 40 mm by 40 mm are meshed with the exact solution held at their ends. The flux is singular at the rim of the disc.",
		Quantity: "heat that leaves through the disc", Unit: "W", Source: carslaw + "section 8.2: 4·k·a·ΔT, and the field there",
		Reference: -4 * 2 * 0.01 * 10, Sizes: []string{"4 mm", "2 mm", "1 mm", "0.5 mm"}, MinOrder: 0.8, Finest: 3e-2,
		Document: func(size string) *model.Document {
			core := model.Part{ID: "core", Name: "core", Material: "clay", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "10 mm", Depth: "40 mm"}, Place: model.Place{X: "5 mm", Y: "-20 mm"}}
			ring := model.Part{ID: "ring", Name: "ring", Material: "clay", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "30 mm", Depth: "40 mm"}, Place: model.Place{X: "25 mm", Y: "-20 mm"}}
			d := document("disc", size, []model.Part{core, ring}, []material.Material{stuff("clay", 2)}, []model.Sentence{
				sentence("c1", heat.KeyHeld, patch("core", "front"), "temperature", discField),
				sentence("c2", heat.KeyHeld, patch("ring", "front"), "temperature", discField),
				sentence("c3", heat.KeyHeld, patch("ring", "right"), "temperature", discField),
				sentence("c4", heat.KeyHeld, patch("core", "back"), "temperature", "310 K"),
			}, sentence("r1", heat.KeyThrough, patch("core", "back")))
			d.Space.Kind = model.Axial
			return d
		},
	}
}

func discContactOnOrderTwo() Case {
	return discContact().ofOrderTwo("Disc on a half space, elements of order 2", "5 mm", "2.5 mm", "1.25 mm")
}
