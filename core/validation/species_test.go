package validation

import (
	"fmt"
	"math"

	"saltkettle/core/model"
	"saltkettle/core/physics/flow"
	"saltkettle/core/physics/species"
)

// Species lists the cases of what is dissolved and carried along.
func Species() []Case {
	return []Case{decay(model.Plane), decay(model.Axial), besideEachOther(), dispersed(), takenByAWall()}
}

// plug is a section of 60 × 20 mm through which a fluid flows at 0.01 m/s everywhere; in an axial one along y.
func plug(space, size, diffusivity, inlet string, conditions []model.Sentence, reading model.Sentence) *model.Document {
	sides := []string{"left", "right", "front", "back"}
	w, d, x, y := "60 mm", "20 mm", "30 mm", "10 mm"
	if space == model.Axial {
		sides = []string{"front", "back", "right", ""}
		w, d, x, y = "20 mm", "60 mm", "10 mm", "30 mm"
	}
	list := []model.Sentence{
		sentence("c2", flow.KeyInlet, patch("body", sides[0]), "speed", "0.01 m/s"), sentence("c3", flow.KeyOpening, patch("body", sides[1])),
		sentence("c4", flow.KeySlips, patch("body", sides[2])),
		sentence("c6", species.KeyDissolved, patch("body", ""), "species", "dye", "diffusivity", diffusivity),
		sentence("c7", species.KeyHeld, patch("body", sides[0]), "species", "dye", "concentration", inlet)}
	if sides[3] != "" {
		list = append(list, sentence("c5", flow.KeySlips, patch("body", sides[3])))
	}
	return flowing(space, size, w, d, x, y, 0.02, append(list, conditions...), reading)
}

// decay is exact: D·c″ − u·c′ − k·c = 0 with the slope of nothing at the end.
func decay(space string) Case {
	const d, u, k, l = 1e-4, 0.01, 0.2, 0.06
	a, b := (u+math.Sqrt(u*u+4*d*k))/(2*d), (u-math.Sqrt(u*u+4*d*k))/(2*d)
	// c = (b·e^{bL}·e^{ax} − a·e^{aL}·e^{bx})/(b·e^{bL} − a·e^{aL}), at the end
	end := (b - a) * math.Exp((a+b)*l) / (b*math.Exp(b*l) - a*math.Exp(a*l))
	return Case{
		Name:     "Decay along a stream, " + space + " space",
		About:    "60 mm along a stream of 0.01 m/s everywhere, 1e-4 m²/s, 0.2/s of it vanishes, 100 mol/m³ come in.",
		Quantity: "concentration at the end", Unit: "mol/m³", Source: "exact: two exponential functions",
		Reference: 100 * end, Sizes: []string{"10 mm", "5 mm", "2.5 mm"}, MinOrder: 2.7,
		Document: func(size string) *model.Document {
			side := "right"
			if space == model.Axial {
				side = "back"
			}
			return plug(space, size, "1e-4 m²/s", "100 mol/m³", []model.Sentence{
				sentence("c8", species.KeyArises, patch("body", ""), "species", "dye", "rate", "-0.2/s*dye")},
				sentence("r1", species.KeyMean, patch("body", side), "species", "dye"))
		},
	}
}

func besideEachOther() Case {
	const d, u, x = 1e-6, 0.01, 0.06
	from := 0.02 // where the two would have met
	at := func(y, x float64) float64 { return 50 * math.Erfc(-y/math.Sqrt(4*d*x/u)) }
	return Case{
		Name:     "Two streams beside each other",
		About:    "Plane space, 60 mm along a stream of 0.01 m/s everywhere, 1e-6 m²/s; it comes in as after 20 mm.",
		Quantity: "concentration 2 mm beside the middle after 50 mm", Unit: "mol/m³", Source: "½·erfc(−y/√(4Dx/u)), exact but for what spreads along the stream, a part of 1e-3 here",
		Reference: at(0.002, 0.07), Sizes: []string{"8 mm", "4 mm", "2 mm", "1 mm"}, Within: 1e-3,
		Document: func(size string) *model.Document {
			return plug(model.Plane, size, "1e-6 m²/s", fmt.Sprintf("50 mol/m³*(1 + erf((y - 10 mm)/%.12g m))", math.Sqrt(4*d*from/u)), nil,
				formula("at(dye, 50 mm, 12 mm, 0 mm)", "mol/m³"))
		},
	}
}

// dispersed is a cloud that a stream between plates draws out.
func dispersed() Case {
	const s, d, u, h, t = 0.01, 1e-6, 0.01, 1e-3, 8.
	pe := u * h / d
	along := d * (1 + pe*pe/210)
	return Case{
		Name:     "Cloud in a channel, drawn out by its stream",
		About:    "Plane space, 1 mm wide, 0.01 m/s on the mean, 1e-6 m²/s (Péclet number 10); a cloud of 10 mm (standard deviation) at the start, read after 8 s.",
		Quantity: "mean across the middle of the cloud", Unit: "mol/m³", Source: "Wooding, J. Fluid Mech. 7 (1960) 501: spreads along by D(1 + Pe²/210), once it is even across",
		Reference: 100 * s / math.Sqrt(s*s+2*along*t), Sizes: []string{"1 mm"}, Within: 2e-3,
		Document: func(size string) *model.Document {
			doc := flowing(model.Plane, size, "180 mm", "1 mm", "90 mm", "0.5 mm", 0.02, []model.Sentence{
				sentence("c2", flow.KeyChannel, patch("body", "left"), "speed", "0.01 m/s"), sentence("c3", flow.KeyOpening, patch("body", "right")),
				sentence("c6", species.KeyDissolved, patch("body", ""), "species", "dye", "diffusivity", "1e-6 m²/s"),
				sentence("c7", species.KeyHeld, patch("body", "left"), "species", "dye", "concentration", "0 mol/m³"),
				sentence("c5", flow.KeyAhead, model.Patch{}),
				sentence("c8", species.KeyStart, patch("body", ""), "species", "dye", "concentration", "100 mol/m³*exp(-((x - 50 mm)/10 mm)^2/2)")},
				formula("mean(dye along 130 mm, 0 mm, 0 mm, 130 mm, 1 mm, 0 mm)", "mol/m³"))
			doc.Run = model.Run{Kind: model.Transient, End: "8 s", Tolerance: "1e-5"}
			return doc
		},
	}
}

func takenByAWall() Case {
	const d, u, h, l = 1e-10, 0.01, 1e-3, 0.02
	shear := 6 * u / h
	return Case{
		Name:     "Wall that takes all that comes to it",
		About:    "Plane space, 1 mm wide, 20 mm long, 0.01 m/s on the mean as from a long channel, 1e-10 m²/s; 100 mol/m³ come in, none are left at the wall.",
		Quantity: "amount that the wall takes, for 1 m of depth", Unit: "mol/s", Source: "Lévêque 1928: 3/2·D·c·L^⅔/(Γ(4/3)·(9D/γ)^⅓), for a layer that is thin against the channel",
		Reference: 1.5 * d * 100 * math.Pow(l, 2./3) / (math.Gamma(4./3) * math.Cbrt(9*d/shear)), Sizes: []string{"0.4 mm", "0.2 mm", "0.1 mm"}, Within: 0.01,
		Document: func(size string) *model.Document {
			doc := flowing(model.Plane, size, "20 mm", "1 mm", "10 mm", "0.5 mm", 0.001, []model.Sentence{
				sentence("c2", flow.KeyChannel, patch("body", "left"), "speed", "0.01 m/s"), sentence("c3", flow.KeyOpening, patch("body", "right")),
				sentence("c6", species.KeyDissolved, patch("body", ""), "species", "dye", "diffusivity", "1e-10 m²/s"),
				sentence("c7", species.KeyHeld, patch("body", "left"), "species", "dye", "concentration", "100 mol/m³"),
				sentence("c8", species.KeyHeld, patch("body", "front"), "species", "dye", "concentration", "0 mol/m³")},
				sentence("r1", species.KeyThrough, patch("body", "front"), "species", "dye"))
			doc.Mesh.Near = []model.MeshNear{{On: patch("body", "front"), Size: "(" + size + ")/20"}}
			return doc
		},
	}
}
