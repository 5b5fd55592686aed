package flow

import (
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/material"
	"saltkettle/core/physics/flow/eddy"
	"saltkettle/core/quantity"
)

// usualEddies is the carried viscosity over that of the fluid in a stream of which nothing is said (P. R. Spalart and C. L.
// Rumsey, AIAA J. 45 (2007) 2544).
const usualEddies = 3.

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
	hold := func(key string, facets []int32, value float64) {
		field.Held = append(field.Held, couple.Held{Facets: facets, Value: formula.Fixed(value), Least: law.NoBound, What: "carried viscosity of eddies", Key: key})
	}
	hold("walls", smooth, 0)
	usual := false
	for i, facets := range d.problem.Inlets {
		value, said := brings[d.inlets[i]]
		if !said {
			value, usual = usualEddies*nu, true
		}
		hold(d.inlets[i], facets, value)
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
		hold("walls", smooth, 0)
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

// thin is the viscosity over the density of what fills a body, m²/s, at a usual temperature.
func (d *draft) thin(body int32) float64 {
	f := d.Part(body).Properties[material.Viscosity]
	return f.At(min(max(law.UsualTemperature, f.From), f.To)) / d.problem.Bodies[body].Reference
}
