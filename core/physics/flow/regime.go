package flow

import (
	"fmt"
	"maps"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
	"saltkettle/core/material"
	"saltkettle/core/quantity"
)

// fastest is about a third of the speed of sound in air: above it a gas is compressed by its own speed.
const fastest = 100 // m/s

// regime says by which numbers the flow is known, and warns of one that may not be as it was computed: without turbulence,
// and not compressed.
func (d *draft) regime(s *couple.Solution) {
	n, err := d.numbers(s)
	if err != nil || n.mean == 0 {
		return // what failed fails elsewhere too
	}
	reynolds := n.mean * n.wide / n.viscosity
	words := fmt.Sprintf("Reynolds number %s by the mean speed of %s and the hydraulic diameter of %s", about(reynolds), speedWords(n.mean), lengthWords(n.wide))
	if n.diffusivity > 0 {
		words += fmt.Sprintf(", Péclet number %s of heat", about(n.mean*n.wide/n.diffusivity))
	}
	if n.rayleigh > 0 {
		words += fmt.Sprintf(", Rayleigh number %s by a height of %s and the temperatures that the fluid has", about(n.rayleigh), lengthWords(n.height))
	}
	gas := ""
	for _, b := range slices.Sorted(maps.Keys(d.problem.Bodies)) {
		if d.Part(b).Material.Family == "gas" {
			gas = d.Part(b).Name
		}
	}
	if gas != "" {
		mach, knudsen := gasNumbers(n.density, n.viscosity*n.density, n.most, n.wide)
		words += fmt.Sprintf(", Mach number %s, Knudsen number %s", about(mach), about(knudsen))
	}
	if again := d.built.again; again != nil {
		words += fmt.Sprintf("; plates show its pressure without the even fall of %s until it repeats", quantity.Show(again.drop, "Pa", false, 3))
	}
	d.Note("The flow: %s", words)
	if reynolds > mostLaminar {
		d.Warn("the Reynolds number of the flow is about %s by its mean speed and hydraulic diameter: above about %g a flow through a channel is likely to be turbulent, and this one was computed without", about(reynolds), mostLaminar)
	}
	if n.rayleigh > mostBuoyant {
		d.Warn("the Rayleigh number of the flow is about %s: above about 10⁹ it is likely to be turbulent, and this one was computed without", about(n.rayleigh))
	}
	if gas != "" && n.most > fastest {
		d.Warn("the %s flows at up to %s: it would be compressed", gas, quantity.Show(n.most, "m/s", false, 3))
	}
}

// numbers are what a flow is known by, means over all that flows.
type numbers struct {
	mean, most       float64 // speed, m/s
	wide             float64 // four times the volume over the surface of the walls, m
	viscosity        float64 // over the density, m²/s
	density          float64 // kg/m³
	diffusivity      float64 // of heat, m²/s, 0 if none is solved for
	rayleigh, height float64 // by the extent along gravity, m; 0 for none
}

// numbers finds them.
func (d *draft) numbers(s *couple.Solution) (n numbers, err error) {
	k := d.built.Fork().(*Kernel)
	strength, axis := 0.0, 0
	for i, l := range d.problem.Gravity {
		if l == nil {
			continue
		}
		if g, ok := l.Constant(); ok && math.Abs(g) > strength {
			strength, axis = math.Abs(g), i
		}
	}
	var volume, stores, conducts float64
	lo, hi := [3]float64{math.Inf(1), math.Inf(1), math.Inf(1)}, [3]float64{math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	light, heavy := math.Inf(1), math.Inf(-1)
	err = s.System.EachCell(s.State, d.fluid, func(points []fem.Point, weights []float64) error {
		if err := k.Prepare(-1, points); err != nil || k.now == nil {
			return err
		}
		part := d.Part(points[0].Part)
		for q, w := range weights {
			p := &points[q]
			u := k.speed(p)
			n.most = max(n.most, u)
			rho := k.now.At(density, q)
			light, heavy = min(light, rho), max(heavy, rho)
			volume, n.mean = volume+w, n.mean+w*u
			n.viscosity, n.density = n.viscosity+w*k.now.At(viscosity, q)/k.here.Reference, n.density+w*rho
			for i, x := range p.X {
				lo[i], hi[i] = min(lo[i], x), max(hi[i], x)
			}
			at := law.UsualTemperature
			if k.t >= 0 {
				at = p.U[k.t]
			}
			if l := part.Law(material.Conductivity); l != nil && k.here.Capacity != nil {
				f := part.Properties[material.Conductivity]
				conducts += w * f.At(min(max(at, f.From), f.To))
				stores += w * rho * k.now.At(capacity, q)
			}
		}
		return nil
	})
	walls := d.area(d.wet)
	if err != nil || volume == 0 || walls == 0 {
		return numbers{}, err
	}
	n.mean, n.viscosity, n.density, n.wide = n.mean/volume, n.viscosity/volume, n.density/volume, 4*volume/walls
	if stores > 0 {
		n.diffusivity = conducts / stores
	}
	if n.height = hi[axis] - lo[axis]; strength > 0 && heavy > light && n.diffusivity > 0 {
		n.rayleigh = strength * (heavy - light) / n.density * math.Pow(n.height, 3) / (n.viscosity * n.diffusivity)
	}
	return n, nil
}
