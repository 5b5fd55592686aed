package validation

import (
	"fmt"
	"math"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics/heat"
	"saltkettle/core/physics/pipes"
)

// Pipes lists the cases of networks of pipes.
func Pipes() []Case {
	return []Case{twoTanks(), parallelPipes(), laminarPipe(), roughPipe(), channelOfSquares(), pumpAndSystem(), emptyingTank(), heatAlongAPipe(), channelInARod()}
}

// A fluid of round numbers, and gravity.
const (
	fluidDensity, fluidViscosity, fluidHeat, pull = 1000.0, 1e-3, 4000.0, 9.80665
)

// piping makes a model of lines through points, m, filled with that fluid.
func piping(size string, lines map[string][][3]float64, order []string, reading model.Sentence, conditions ...model.Sentence) *model.Document {
	d := model.New("pipes")
	d.Space = model.Space{Kind: model.Lines, Unit: "m"}
	reading.ID = "r1"
	d.Physics, d.Readings = nil, []model.Sentence{reading}
	d.Materials = []material.Material{{Name: "round fluid", Family: "liquid", Properties: map[material.Key]material.Property{material.Density: {Value: "1000 kg/m³"}, material.Viscosity: {Value: "0.001 Pa·s"},
		material.HeatCapacity: {Value: "4000 J/(kg·K)"}, material.Conductivity: {Value: "0.6 W/(m·K)"}}}}
	for _, name := range order {
		p := model.Part{ID: name, Name: name, Material: "round fluid", Role: model.Solved, Outline: model.Outline{Kind: model.LineOutline}}
		for i, x := range lines[name] {
			at := func(d int) string { return fmt.Sprintf("%g m", x[d]) }
			p.Outline.Points = append(p.Outline.Points, model.Point{ID: fmt.Sprint(i + 1), X: at(0), Y: at(1), Z: at(2)})
		}
		d.Parts = append(d.Parts, p)
	}
	d.Conditions = append([]model.Sentence{
		sentence("g", pipes.KeyGravity, model.Patch{}, "strength", "9.80665 m/s²"),
		sentence("f", pipes.KeyCarries, patch(model.AllParts, ""), "temperature", "20 °C"),
	}, conditions...)
	d.Mesh = model.Mesh{Size: size}
	d.Enumerate()
	return d
}

// pipeOf says how wide and how rough a pipe is.
func pipeOf(part, diameter, rough string) []model.Sentence {
	return []model.Sentence{sentence("d"+part, pipes.KeyRound, patch(part, ""), "diameter", diameter), sentence("k"+part, pipes.KeyRough, patch(part, ""), "roughness", rough)}
}

func tank(id, part, side, level string, more ...string) model.Sentence {
	return sentence(id, pipes.KeyTank, patch(part, side), append([]string{"level", level, "form", "sharp"}, more...)...)
}

// darcy solves the equation of Colebrook by taking it in turn.
func darcy(re, rough float64) float64 {
	f := 0.02
	for range 40 {
		f = math.Pow(-2*math.Log10(rough/3.7+2.51/(re*math.Sqrt(f))), -2)
	}
	return f
}

// flowFor is the flow, m³/s, of a turbulent flow in a pipe that takes a head, m, with losses of k dynamic pressures besides.
func flowFor(head, long, diameter, rough, k float64) float64 {
	v := 1.0
	for range 60 {
		v = math.Sqrt(2 * pull * head / (darcy(fluidDensity*v*diameter/fluidViscosity, rough/diameter)*long/diameter + k))
	}
	return v * math.Pi / 4 * diameter * diameter
}

// headFor is the head, m, that a flow, m³/s, takes.
func headFor(flow, long, diameter, rough, k float64) float64 {
	v := flow / (math.Pi / 4 * diameter * diameter)
	return (darcy(fluidDensity*v*diameter/fluidViscosity, rough/diameter)*long/diameter + k) * v * v / (2 * pull)
}

// rootOf finds where a function that grows is nothing.
func rootOf(lo, hi float64, f func(x float64) float64) float64 {
	for range 60 {
		if m := (lo + hi) / 2; f(m) > 0 {
			hi = m
		} else {
			lo = m
		}
	}
	return (lo + hi) / 2
}

func twoTanks() Case {
	return Case{
		Name: "Two tanks joined by a pipe", About: "Space of lines, 100 m of 80 mm, 0.1 mm rough, from a tank at 12 m to one at 7 m.",
		Quantity: "flow", Unit: "m³/h", Source: "exact: Δh = (fL/D + 1.5)·v²/(2g), f of Colebrook taken in turn",
		Reference: 3600 * flowFor(5, 100, 0.08, 1e-4, 1.5), Exact: true, Sizes: []string{"100 m", "10 m"},
		Document: func(size string) *model.Document {
			return piping(size, map[string][][3]float64{"a": {{0, 0, 2}, {60, 80, 2}}}, []string{"a"}, sentence("", pipes.KeyFlow, patch("a", "")),
				append(pipeOf("a", "80 mm", "0.1 mm"), tank("c1", "a", "start", "12 m"), tank("c2", "a", "end", "7 m"))...)
		},
	}
}

func parallelPipes() Case {
	branch := func(head float64) float64 {
		return flowFor(head, 40, 0.05, 5e-5, 0) + flowFor(head, 40, 0.065, 5e-5, 0)
	}
	whole := rootOf(1e-4, 8, func(head float64) float64 {
		q := branch(head)
		return head + headFor(q, 30, 0.1, 5e-5, 0.5) + headFor(q, 20, 0.1, 5e-5, 1) - 8
	})
	return Case{
		Name: "Pipes beside each other", About: "Space of lines, 30 m of 100 mm from a tank, then 40 m of 50 mm and of 65 mm beside each other, then 20 m of 100 mm into a tank 8 m lower, 0.05 mm rough.",
		Quantity: "flow in the narrower one", Unit: "m³/h", Source: "exact: the same head is lost in both, f of Colebrook taken in turn",
		Reference: 3600 * flowFor(whole, 40, 0.05, 5e-5, 0), Exact: true, Sizes: []string{"40 m", "5 m"},
		Document: func(size string) *model.Document {
			lines := map[string][][3]float64{"a": {{0, 0, 0}, {30, 0, 0}}, "b": {{30, 0, 0}, {70, 0, 0}}, "c": {{30, 0, 0}, {70, 0, 0}}, "d": {{70, 0, 0}, {90, 0, 0}}}
			var list []model.Sentence
			for _, p := range [][2]string{{"a", "100 mm"}, {"b", "50 mm"}, {"c", "65 mm"}, {"d", "100 mm"}} {
				list = append(list, pipeOf(p[0], p[1], "0.05 mm")...)
			}
			return piping(size, lines, []string{"a", "b", "c", "d"}, sentence("", pipes.KeyFlow, patch("b", "")), append(list, tank("c1", "a", "start", "9 m"), tank("c2", "d", "end", "1 m"))...)
		},
	}
}

func laminarPipe() Case {
	return Case{
		Name: "Laminar flow in a pipe", About: "Space of lines, 7.2 L/h through 10 m of 4 mm into the open.",
		Quantity: "head lost, with that of the end", Unit: "m", Source: "exact: 128µLQ/(πρgD⁴) (G. Hagen, 1839) and v²/(2g)",
		Reference: 128*fluidViscosity*10*2e-6/(math.Pi*fluidDensity*pull*math.Pow(4e-3, 4)) + math.Pow(2e-6/(math.Pi/4*16e-6), 2)/(2*pull), Within: 1e-6, Sizes: []string{"10 m", "1 m"},
		Document: func(size string) *model.Document {
			return piping(size, map[string][][3]float64{"a": {{0, 0, 0}, {10, 0, 0}}}, []string{"a"}, sentence("", pipes.KeyLost, patch("a", "")),
				append(pipeOf("a", "4 mm", "0 mm"), sentence("c1", pipes.KeyEnters, patch("a", "start"), "flow", "2e-6 m³/s"), sentence("c2", pipes.KeyOpen, patch("a", "end")))...)
		},
	}
}

func roughPipe() Case {
	const v = 2.0
	return Case{
		Name: "Rough pipe at a high Reynolds number", About: "Space of lines, 250 m of 500 mm, 1 mm rough, 2 m/s: Re = 10⁶.",
		Quantity: "head lost, with that of the end", Unit: "m", Source: "exact: (fL/D + 1)·v²/(2g), f of Colebrook taken in turn: 0.02380",
		Reference: headFor(v*math.Pi/4*0.25, 250, 0.5, 1e-3, 1), Within: 1e-6, Sizes: []string{"250 m", "25 m"},
		Document: func(size string) *model.Document {
			return piping(size, map[string][][3]float64{"a": {{0, 0, 0}, {250, 0, 0}}}, []string{"a"}, sentence("", pipes.KeyLost, patch("a", "")),
				append(pipeOf("a", "500 mm", "1 mm"), sentence("c1", pipes.KeyEnters, patch("a", "start"), "flow", fmt.Sprintf("%.15g m³/s", v*math.Pi/4*0.25)), sentence("c2", pipes.KeyOpen, patch("a", "end")))...)
		},
	}
}

func channelOfSquares() Case {
	const v = 0.05
	return Case{
		Name: "Laminar flow in a square channel", About: "Space of lines, 2 m of 10 by 10 mm, 0.05 m/s.",
		Quantity: "pressure behind its beginning", Unit: "kPa", Source: "exact: f·Re = 56.91 (R. K. Shah and A. L. London, 1978)",
		Reference: 56.908 / (fluidDensity * v * 0.01 / fluidViscosity) * 2 / 0.01 * fluidDensity * v * v / 2 / 1000, Within: 1e-3, Sizes: []string{"2 m", "0.2 m"},
		Document: func(size string) *model.Document {
			return piping(size, map[string][][3]float64{"a": {{0, 0, 0}, {2, 0, 0}}}, []string{"a"}, sentence("", pipes.KeyPressure, patch("a", "start"), "scale", "gauge"),
				sentence("d", pipes.KeyChannel, patch("a", ""), "width", "10 mm", "height", "10 mm"), sentence("k", pipes.KeyRough, patch("a", ""), "roughness", "0 mm"),
				sentence("c1", pipes.KeyEnters, patch("a", "start"), "flow", "5e-6 m³/s"), sentence("c2", pipes.KeyOpen, patch("a", "end")))
		},
	}
}

func pumpAndSystem() Case {
	return Case{
		Name: "Pump and system", About: "Space of lines, 60 m of 65 mm, 0.05 mm rough, up by 9 m, a pump of 20 m at no flow, 17 m at 10 m³/h and 11 m at 20 m³/h.",
		Quantity: "flow", Unit: "m³/h", Source: "exact: where the curve of the pump meets Δh + (fL/D + 1.5)·v²/(2g)",
		Reference: 3600 * rootOf(1e-5, 6e-3, func(q float64) float64 {
			h := q * 3600
			return 9 + headFor(q, 60, 0.065, 5e-5, 1.5) - (20 - 0.15*h - 0.015*h*h)
		}),
		Exact: true, Sizes: []string{"60 m", "6 m"},
		Document: func(size string) *model.Document {
			return piping(size, map[string][][3]float64{"a": {{0, 0, 0}, {10, 0, 0}, {60, 0, 0}}}, []string{"a"}, sentence("", pipes.KeyFlow, patch("a", "")),
				append(pipeOf("a", "65 mm", "0.05 mm"), tank("c1", "a", "start", "1 m"), tank("c2", "a", "end", "10 m"),
					sentence("c3", pipes.KeyPump, patch("a", "point 2"), "head0", "20 m", "head1", "17 m", "flow1", "10 m³/h", "head2", "11 m", "flow2", "20 m³/h", "speed", "100 %"))...)
		},
	}
}

func emptyingTank() Case {
	const area, long, diameter, rough, end = 2.0, 20.0, 0.05, 5e-5, 600.0
	level := 3.0
	const steps, dt = 200, end / 200
	fall := func(h float64) float64 { return flowFor(h, long, diameter, rough, 1.5) / area }
	for range steps { // by the rule of W. Kutta
		k1 := fall(level)
		k2 := fall(level - dt/2*k1)
		k3 := fall(level - dt/2*k2)
		k4 := fall(level - dt*k3)
		level -= dt / 6 * (k1 + 2*k2 + 2*k3 + k4)
	}
	return Case{
		Name: "Tank that empties", About: "Space of lines, in time: 2 m² filled 3 m above the end of 20 m of 50 mm, 0.05 mm rough, for 10 min.",
		Quantity: "level", Unit: "m", Source: "by integration of A·dh/dt = −Q(h), h = (fL/D + 1.5)·v²/(2g) (E. Torricelli, with losses)",
		Reference: level, Within: 1e-5, Closes: 1e-6, Sizes: []string{"20 m", "2 m"},
		Document: func(size string) *model.Document {
			d := piping(size, map[string][][3]float64{"a": {{0, 0, 0}, {20, 0, 0}}}, []string{"a"}, sentence("", pipes.KeyLevel, patch("a", "start")),
				append(pipeOf("a", "50 mm", "0.05 mm"), tank("c1", "a", "start", "3 m", "area", "2 m²"), sentence("c2", pipes.KeyOpen, patch("a", "end")))...)
			d.Run = model.Run{Kind: model.Transient, End: "600 s"}
			return d
		},
	}
}

func heatAlongAPipe() Case {
	const flow, u, long, diameter = 1.0 / 3600, 25.0, 120.0, 0.04
	return Case{
		Name: "Heat along a pipe", About: "Space of lines, 1 m³/h at 80 °C along 120 m of 40 mm, 25 W/(m²·K) to surroundings at 10 °C.",
		Quantity: "temperature at its end", Unit: "°C", Source: "exact: T_s + (T₀ − T_s)·exp(−UπDL/(ṁc))",
		Reference: 10 + 70*math.Exp(-u*math.Pi*diameter*long/(fluidDensity*flow*fluidHeat)), Within: 1e-7, Sizes: []string{"120 m", "10 m"},
		Document: func(size string) *model.Document {
			return piping(size, map[string][][3]float64{"a": {{0, 0, 0}, {120, 0, 0}}}, []string{"a"}, sentence("", pipes.KeyTemperature, patch("a", "end")),
				append(pipeOf("a", "40 mm", "0.01 mm"), sentence("c1", pipes.KeyEnters, patch("a", "start"), "flow", "1 m³/h", "temperature", "80 °C"), sentence("c2", pipes.KeyOpen, patch("a", "end")),
					sentence("c3", pipes.KeyWarms, patch("a", ""), "coefficient", "25 W/(m²·K)", "surroundings", "10 °C"))...)
		},
	}
}

func channelInARod() Case {
	const flow, long, inner, outer, k, h = 0.1 / 3600, 1.0, 0.01, 0.04, 5.0, 800.0
	through := 1 / (1/(h*math.Pi*inner) + math.Log(outer/inner)/(2*math.Pi*k)) // W/(m·K)
	return Case{
		Name: "Channel in a rod", About: "Solid space, a rod of 40 mm and 5 W/(m·K), its rim held at 10 °C, with a pipe of 10 mm along its axis, 800 W/(m²·K), 0.1 m³/h at 80 °C, 1 m.",
		Quantity: "temperature at the end of the pipe", Unit: "°C", Source: "exact without conduction along the rod: T_s + (T₀ − T_s)·exp(−U′L/(ṁc)), 1/U′ = 1/(hπd) + ln(D/d)/(2πk)",
		Reference: 10 + 70*math.Exp(-through*long/(fluidDensity*flow*fluidHeat)), Within: 8e-3, Sizes: []string{"8 mm", "4 mm"},
		Document: func(size string) *model.Document {
			d := piping(size, map[string][][3]float64{"a": {{0, 0, 0}, {0, 0, 1}}}, []string{"a"}, sentence("", pipes.KeyTemperature, patch("a", "end")),
				append(pipeOf("a", "10 mm", "0.01 mm"), sentence("c1", pipes.KeyEnters, patch("a", "start"), "flow", "0.1 m³/h", "temperature", "80 °C"), sentence("c2", pipes.KeyOpen, patch("a", "end")),
					sentence("c3", pipes.KeyInside, patch("a", ""), "coefficient", "800 W/(m²·K)"), sentence("c4", heat.KeyHeld, patch("rod", "rim"), "temperature", "10 °C"))...)
			d.Space.Kind, d.Physics = model.Solid, []model.Physics{{Kind: "heat"}}
			d.Materials = append(d.Materials, stuff("rod stuff", 5))
			d.Parts = append([]model.Part{{ID: "rod", Name: "rod", Material: "rod stuff", Role: model.Solved, Outline: model.Outline{Kind: "disc", Diameter: "40 mm"}, Span: model.Span{From: "0 m", To: "1 m"}}}, d.Parts...)
			for i := range d.Conditions {
				if d.Conditions[i].On.Part == model.AllParts {
					d.Conditions[i].On.Part = "a"
				}
			}
			d.Mesh.Across, d.Parts[1].Cells = "1", "20 mm"
			d.Mesh.Near = []model.MeshNear{{ID: "1", On: patch("rod", "top"), Size: "20 mm"}, {ID: "2", On: patch("rod", "bottom"), Size: "20 mm"}}
			return d
		},
	}
}
