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
	words := fmt.Sprintf("Reynolds number %s by the mean speed of %s and the %s of %s", about(reynolds), speedWords(n.mean), n.length, lengthWords(n.wide))
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
	if err := d.cramped(s); err != nil {
		return
	}
	if d.problem.Turbulent {
		d.units(n)
	} else if reynolds > mostLaminar {
		d.Warn("the Reynolds number of the flow is about %s by its mean speed and the %s: above about %g a flow through a channel is likely to be turbulent, and this one was computed without", about(reynolds), n.length, mostLaminar)
	}
	if n.rayleigh > mostBuoyant && !d.problem.Turbulent {
		d.Warn("the Rayleigh number of the flow is about %s: above about 10⁹ it is likely to be turbulent, and this one was computed without", about(n.rayleigh))
	}
	if gas != "" && n.most > fastest {
		d.Warn("the %s flows at up to %s: it would be compressed", gas, quantity.Show(n.most, "m/s", false, 3))
	}
}

// mostUnits is how thick the first cells along a wall may be, in units of the wall: beyond that they reach out of where the
// law of the wall holds, mostly.
const mostUnits = 300.

// units says how thick the first cells along walls are.
func (d *draft) units(n numbers) {
	by := "a viscosity that is carried along (Spalart and Allmaras, for flow that is turbulent everywhere)"
	if d.problem.Energy {
		by = "their energy and how fast they decay, both carried along (k–ω with shear stress transport, of Menter and others, 2003); the pressure has two thirds of that energy times the density in it"
	}
	words := "The flow is turbulent: its eddies follow from " + by + ", and friction at walls from the law of the wall"
	if n.wall > 0 {
		words += fmt.Sprintf("; the first cells along them are %s to %s units of the wall thick, %s on the mean (y⁺)", quantity.Figures(n.thinnest, 2), quantity.Figures(n.thickest, 2), quantity.Figures(n.units/n.wall, 2))
	}
	d.Note("%s", words)
	if n.beyond > muchBeyond*n.wall {
		d.Warn("the first cells along %s %% of the walls are more than %g units of the wall thick (y⁺): friction there is not known well; make them thinner", quantity.Figures(100*n.beyond/n.wall, 2), mostUnits)
	}
	if d.problem.Energy && n.between > muchBeyond*n.wall {
		d.Warn("the first cells along %s %% of the walls are %g to %g units of the wall thick (y⁺), which is between the layer that viscosity governs and where the speed is logarithmic: with the energy of eddies friction there comes out too small by up to a tenth; make them thinner than 2 or thicker than 30", quantity.Figures(100*n.between/n.wall, 2), leastBetween, mostBetween)
	}
	if n.ragged > muchBeyond*n.wall {
		d.Warn("the first cells along %s %% of the walls are in no layers: as they are not all of one thickness, friction there comes out too large, by up to as much again; ask for layers", quantity.Figures(100*n.ragged/n.wall, 2))
	}
}

// leastBetween and mostBetween are how thick the first cells along walls are, in units of these, that are too thick for the layer
// that viscosity governs and too thin for the logarithm, where the rate at which eddies decay is no straight line in a cell.
const (
	leastBetween = 4.
	mostBetween  = 25.
)

// muchBeyond is the part of the walls along which first cells may be thicker than they should be.
const muchBeyond = 0.1

// numbers are what a flow is known by, means over all that flows.
type numbers struct {
	mean, most float64 // speed, m/s
	// wide is four times the volume over the surface of the walls, m, or their extent where that is less, as of a body in a wide
	// stream; length says which.
	wide             float64
	length           string
	viscosity        float64 // over the density, m²/s
	density          float64 // kg/m³
	diffusivity      float64 // of heat, m²/s, 0 if none is solved for
	rayleigh, height float64 // by the extent along gravity, m; 0 for none
	// Of a turbulent flow: the least and the greatest thickness of the first cells along walls, in units of the wall, the
	// area of these walls, that thickness times it, and the area of those that are too thick and of those without layers.
	thinnest, thickest          float64
	wall, units, beyond, ragged float64
	between                     float64 // area of those that are too thick and too thin, see [leastBetween]
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
			if k.e >= 0 {
				if l := k.rubs(p, q).layer; l.along && l.friction > 0 {
					n.add(l.units, w/l.height, len(p.Nodes) == k.n+1)
				}
			}
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
	n.mean, n.viscosity, n.density = n.mean/volume, n.viscosity/volume, n.density/volume
	n.wide, n.length = 4*volume/walls, "hydraulic diameter"
	if extent := d.extent(d.wet); extent < n.wide && d.built.again == nil {
		n.wide, n.length = extent, "extent of the walls"
	}
	if stores > 0 {
		n.diffusivity = conducts / stores
	}
	if n.height = hi[axis] - lo[axis]; strength > 0 && heavy > light && n.diffusivity > 0 {
		n.rayleigh = strength * (heavy - light) / n.density * math.Pow(n.height, 3) / (n.viscosity * n.diffusivity)
	}
	return n, nil
}

// extent is how far some facets extend along an axis at most, m.
func (d *draft) extent(facets []int32) (most float64) {
	for axis := range 3 {
		lo, hi := math.Inf(1), math.Inf(-1)
		for _, k := range facets {
			for _, v := range d.Mesh.Facets[k].Corners() {
				x := d.Mesh.Nodes[3*int(v)+axis]
				lo, hi = min(lo, x), max(hi, x)
			}
		}
		most = max(most, hi-lo)
	}
	return most
}

// add takes in the thickness of a first cell along some area of walls.
func (n *numbers) add(units, area float64, ragged bool) {
	if n.wall == 0 {
		n.thinnest = units
	}
	n.thinnest, n.thickest = min(n.thinnest, units), max(n.thickest, units)
	n.wall, n.units = n.wall+area, n.units+area*units
	if units > mostUnits {
		n.beyond += area
	}
	if units > leastBetween && units < mostBetween {
		n.between += area
	}
	if ragged {
		n.ragged += area
	}
}
