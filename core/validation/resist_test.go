package validation

import (
	"fmt"
	"math"

	"saltkettle/core/model"
	"saltkettle/core/physics/flow"
)

// Resist lists the cases of fluids that are held up in other ways than by a viscosity that stays, and of what drives
// them.
func Resist() []Case {
	return []Case{thinning(), matrixChannel(), fanOnAChannel(), turningRing()}
}

// thinning is a power law, which Carreau's comes to where the shear rate times the time is large.
func thinning() Case {
	const k, n, radius, u, length = 0.05, 0.5, 0.02, 0.05, 0.06
	const time = 1e6
	rest := k * math.Pow(time, 1-n)
	return Case{
		Name:     "Pipe, a fluid that is thinner where it is sheared",
		About:    "Axial space, radius 20 mm, 60 mm long, 0.05 Pa·s at 1/s, falling by the root of the shear rate; a developed profile comes in.",
		Quantity: "pressure that is lost", Unit: "Pa", Source: "Bird, Stewart, Lightfoot, Transport Phenomena, 2nd ed., 2002, equation 8.3-9",
		Reference: 2 * k * length / radius * math.Pow((3*n+1)/n*u/radius, n), Sizes: []string{"5 mm", "2.5 mm", "1.25 mm"}, Within: 2e-3,
		Document: func(size string) *model.Document {
			d := flowing(model.Axial, size, "20 mm", "60 mm", "10 mm", "30 mm", rest, []model.Sentence{
				sentence("c2", flow.KeyInlet, patch("body", "front"), "speed", fmt.Sprintf("%.12g m/s*(1 - (r/20 mm)^3)", u*(3*n+1)/(n+1))), sentence("c3", flow.KeyOpening, patch("body", "back")),
				sentence("c4", flow.KeyThins, patch("body", ""), "time", "1e6 s", "exponent", "0.5")},
				sentence("r1", flow.KeyMean, patch("body", "front")))
			return d
		},
	}
}

func matrixChannel() Case {
	const mu, u, h, l, permeability = 0.02, 0.01, 0.02, 0.06, 1e-5
	m := h / 2 / math.Sqrt(permeability)
	return Case{
		Name:     "Channel filled with a matrix",
		About:    "Plane space, 20 mm wide, 60 mm long, 0.01 m/s on the mean, permeability 1e-5 m²; the developed profile comes in.",
		Quantity: "pressure that is lost", Unit: "Pa", Source: "Brinkman 1949: µUL/K/(1 − tanh(m)/m), m = H/(2√K)",
		Reference: mu * u * l / permeability / (1 - math.Tanh(m)/m), Sizes: []string{"5 mm", "2.5 mm", "1.25 mm"}, Within: 2e-3,
		Document: func(size string) *model.Document {
			return flowing(model.Plane, size, "60 mm", "20 mm", "30 mm", "10 mm", mu, []model.Sentence{
				sentence("c2", flow.KeyInlet, patch("body", "left"), "speed", fmt.Sprintf("0.01 m/s*(1 - cosh((y - 10 mm)/%.12g m)/%.12g)/%.12g", math.Sqrt(permeability), math.Cosh(m), 1-math.Tanh(m)/m)),
				sentence("c3", flow.KeyOpening, patch("body", "right")), sentence("c4", flow.KeyMatrix, patch("body", ""), "permeability", "1e-5 m²")},
				sentence("r1", flow.KeyMean, patch("body", "left")))
		},
	}
}

// fanOnAChannel is slow enough for what the fluid has in speed to count for nothing.
func fanOnAChannel() Case {
	// 1e-4 Pa − 50 Pa·s/m³·Q = 12µL/(H³)·Q for 1 m of depth
	channel := 12 * 0.02 * 0.06 / (0.02 * 0.02 * 0.02)
	return Case{
		Name:     "Fan on a channel",
		About:    "Plane space, 20 mm wide, 60 mm long, 0.02 Pa·s; the pressure of the fan falls by a straight line from 0.1 mPa.",
		Quantity: "volume that flows, for 1 m of depth", Unit: "m³/s", Source: "exact, but for the speed of what comes in: where the line of the fan meets that of the channel",
		Reference: 1e-4 / (50 + channel), Sizes: []string{"5 mm", "2.5 mm"}, Within: 2e-3,
		Document: func(size string) *model.Document {
			d := flowing(model.Plane, size, "60 mm", "20 mm", "30 mm", "10 mm", 0.02, []model.Sentence{
				sentence("c2", flow.KeyFan, patch("body", "left"), "pressure", "1e-4 Pa - 50 Pa s/m³*volume_flow"), sentence("c3", flow.KeyOpening, patch("body", "right"))},
				sentence("r1", flow.KeyVolumeFlow, patch("body", "right")))
			d.Readings[0].Unit = "m³/s"
			return d
		},
	}
}

// turningRing is a fluid round a rod that turns in a ring at rest.
func turningRing() Case {
	const inner, outer, rate, at = 0.01, 0.03, 2., 0.02
	a := rate / (1/(inner*inner) - 1/(outer*outer))
	return Case{
		Name:     "Rod that turns in a ring",
		About:    "Plane space, radii 10 and 30 mm, 0.02 Pa·s, the rod turns at 2 rad/s.",
		Quantity: "speed half way across", Unit: "m/s", Source: "exact: Couette flow between cylinders",
		Reference: a * (1/at - at/(outer*outer)), Sizes: []string{"6 mm", "3 mm", "1.5 mm"}, MinOrder: 2,
		Document: func(size string) *model.Document {
			d := flowing(model.Plane, size, "60 mm", "60 mm", "0 mm", "0 mm", 0.02, []model.Sentence{
				sentence("c2", flow.KeyWallTurns, patch("body", "bore"), "rate", "2 rad/s")}, formula("at(velocity_y, 20 mm, 0 mm, 0 mm)", "m/s"))
			d.Parts[0].Outline = model.Outline{Kind: "ring", Diameter: "60 mm", Inner: "20 mm"}
			return d
		},
	}
}
