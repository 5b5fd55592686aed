package flow

import (
	"errors"
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/material"
	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/physics/flow/eddy"
	"saltkettle/core/quantity"
)

// usualEddies is the carried viscosity over that of the fluid in a stream of which nothing is said (P. R. Spalart and C. L.
// Rumsey, AIAA J. 45 (2007) 2544).
const usualEddies = 3.

// startPart is the carried viscosity with which a flow begins over its speed and size: with so much it finds its way, and
// that is blown out on the way.
const startPart = 0.1

// turbulence says what the viscosity that is carried is at walls and in what comes in.
func (d *draft) turbulence() {
	d.problem.Walls = wallsOf(d.wet)
	rough := map[int32]bool{}
	for _, r := range d.problem.Rough {
		for _, k := range r.Facets {
			rough[k] = true
		}
	}
	var smooth []int32
	for _, k := range d.problem.Walls {
		if !rough[k] {
			smooth = append(smooth, k)
		}
	}
	brings := d.brings()
	nu := 0.0
	for b := range d.fluid {
		nu = max(nu, d.thin(b))
	}
	field := &d.posed.Fields[2].Field
	field.Start = usualEddies * nu
	if !d.problem.Transient { // in time it is what there is at the beginning
		field.Start = max(field.Start, startPart*d.liveliness())
	}
	hold := func(key string, facets []int32, value float64, shape func(x [3]float64) float64) {
		field.Held = append(field.Held, couple.Held{Facets: facets, Value: formula.Fixed(value), Shape: shape, Least: law.NoBound, What: "carried viscosity of eddies", Key: key})
	}
	usual := false
	for i, facets := range d.problem.Inlets {
		value, said := brings[d.inlets[i]]
		if shape := d.arrive[d.inlets[i]]; shape != nil && !said {
			hold(d.inlets[i], facets, 1, shape)
			continue
		}
		if !said {
			value, usual = usualEddies*nu, true
		}
		hold(d.inlets[i], facets, value, nil)
	}
	for i := range d.problem.Openings {
		o := &d.problem.Openings[i]
		value, said := brings[d.openings[i]]
		if !said {
			value, usual = usualEddies*nu, true
		}
		o.Eddies = value
	}
	// Nothing is held where walls begin.
	if len(smooth) > 0 {
		hold("walls", smooth, 0, nil)
	}
	if usual {
		d.Note("What comes in is taken to bring few eddies along: their viscosity is carried as %s times that of the fluid, unless a sentence says more.", quantity.Figures(usualEddies, 2))
	}
}

// shareOfLength is the viscosity of eddies over the root of their energy and their size.
var shareOfLength = math.Pow(0.09, 0.25)

// brings is the carried viscosity of what comes in by sentences that say it, by the keys of those that let it in.
func (d *draft) brings() map[string]float64 {
	by := map[string]float64{}
	for _, c := range d.Conditions(key) {
		if c.Kind != KeyBrings && c.Kind != KeyRatio {
			continue
		}
		mine := map[int32]bool{}
		for _, k := range d.On(c) {
			mine[k] = true
		}
		found := false
		for _, other := range d.Conditions(key) {
			if !enters(other.Kind) {
				continue
			}
			for _, k := range d.On(other) {
				if !mine[k] {
					continue
				}
				found = true
				nu := d.thin(d.Mesh.Facets[k].Body)
				if c.Kind == KeyRatio {
					by[other.ID] = nu * eddy.Ratio(said(c, "ratio"))
					break
				}
				speed := math.Abs(said(other, "speed"))
				if other.Kind == KeyStream {
					speed = d.wide
				}
				if other.Kind == KeyThrough {
					speed = math.Abs(said(other, "flow")) / d.area(d.On(other))
				}
				if speed == 0 {
					d.Refuse("conditions/"+c.ID, "say by how much its eddies are more viscous than the fluid", "%s: how fast it comes in by %s is not said with a number", c.ID, other.ID)
					break
				}
				energy := 1.5 * math.Pow(speed*said(c, "intensity"), 2)
				by[other.ID] = nu * eddy.Ratio(shareOfLength*math.Sqrt(energy)*said(c, "length")/nu)
				break
			}
		}
		if !found {
			d.Refuse("conditions/"+c.ID+"/on", "choose where fluid comes in", "%s: nothing comes in there", c.ID)
		}
	}
	return by
}

// onTheMean is the profile of a turbulent flow in a long channel that some facets are a section of: at each distance from the
// walls the speed of the law of the wall, with a friction by which the mean of it is the one that is said; its eddies as H.
// Reichardt, Z. angew. Math. Mech. 31 (1951) 208, has them.
func (d *draft) onTheMean(c *model.ResolvedSentence, facets []int32) (func(x [3]float64) float64, error) {
	p, err := d.newPatch(facets)
	if err != nil {
		return nil, err
	}
	slot, over := "speed", 1.
	if c.Kind == KeyThrough {
		slot, over = "flow", p.area
	}
	if _, constant := c.Laws[slot].Constant(); !constant {
		return nil, errors.New("how much of it comes in must be a number, for what its eddies do")
	}
	mean := math.Abs(said(c, slot)) / over
	if len(p.edges) == 0 || mean == 0 {
		return p.shape(p.even())
	}
	off, widest := make([]float64, len(p.at)), 0.0
	for i, x := range p.at {
		off[i] = math.Inf(1)
		for _, e := range p.edges {
			y := p.at[e[0]]
			if e[0] != e[1] {
				y = onLine(x, y, p.at[e[1]])
			}
			off[i] = min(off[i], size(away(x, y)))
		}
		widest = max(widest, off[i])
	}
	nu := d.thin(d.Mesh.Facets[facets[0]].Body)
	friction, w := mean/20, make([]float64, len(p.at))
	for range 100 {
		sum := 0.0
		for i, y := range off {
			w[i] = eddy.Speed(y*friction/nu, 0)
			sum += p.share[i] / p.area * w[i]
		}
		if sum == 0 {
			break // there is no node between the walls, which is said below
		}
		next := mean / sum
		if math.Abs(next-friction) < 1e-9*friction {
			break
		}
		friction = math.Sqrt(next * friction)
	}
	eddies := make([]float64, len(p.at))
	for i, y := range off {
		middle := 1 - y/widest
		spread := eddy.Kappa / 6 * friction * widest * (1 - middle*middle) * (1 + 2*middle*middle)
		eddies[i] = min(eddy.Kappa*friction*y, nu*eddy.Ratio(spread/nu))
	}
	d.arrive[c.ID] = p.by(eddies)
	return p.shape(w)
}

// thin is the viscosity over the density of what fills a body, m²/s, at a usual temperature.
func (d *draft) thin(body int32) float64 {
	f := d.Part(body).Properties[material.Viscosity]
	return f.At(min(max(law.UsualTemperature, f.From), f.To)) / d.problem.Bodies[body].Reference
}

// liveliness is about how fast what flows is times how far it does, m²/s, by what is said with numbers.
func (d *draft) liveliness() float64 {
	speed := d.wide
	for _, c := range d.Conditions(key) {
		switch c.Kind {
		case KeyInlet, KeyChannel:
			speed = max(speed, math.Abs(said(c, "speed")))
		case KeyThrough, KeyCarries:
			speed = max(speed, math.Abs(said(c, "flow"))/d.area(d.On(c)))
		case KeyOpening, KeyStill, KeyFan, KeyRepeats:
			for b := range d.fluid {
				speed = max(speed, math.Sqrt(2*math.Abs(said(c, "pressure"))/d.problem.Bodies[b].Reference))
			}
		case KeyWallMoves:
			speed = max(speed, size([3]float64{said(c, "x"), said(c, "y"), said(c, "z")}))
		}
	}
	lo, hi := [3]float64{math.Inf(1), math.Inf(1), math.Inf(1)}, [3]float64{math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	d.Mesh.EachCell(func(cell int32, _ mesh.Form, corners []int32) {
		if !d.fluid[d.Mesh.Body[cell]] {
			return
		}
		for _, v := range corners {
			for i, x := range d.Mesh.At(v) {
				lo[i], hi[i] = min(lo[i], x), max(hi[i], x)
			}
		}
	})
	return speed * size(away(hi, lo))
}
