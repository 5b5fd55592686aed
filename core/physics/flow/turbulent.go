package flow

import (
	"errors"
	"fmt"
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/formula"
	"saltkettle/core/frame"
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

// usualSwing is how much a stream of which nothing is said swings over its speed.
const usualSwing = 0.01

// startDecay is how often eddies decay with which a flow begins while it passes: about as often as those of a stream do.
const startDecay = 10.

// brought is what comes in brings along: the viscosity of its eddies, m²/s, and their energy, m²/s².
type brought struct{ viscosity, energy float64 }

// swinging is the energy of eddies in a stream that swings by a part of its speed, m²/s².
func swinging(speed, part float64) float64 { return 1.5 * math.Pow(speed*part, 2) }

// carriedOf is what is carried of it by a fluid of a viscosity over density, m²/s.
func (d *draft) carriedOf(b brought, nu float64) [mostCarried]float64 {
	if d.problem.Energy {
		return [mostCarried]float64{b.energy, math.Log(b.energy / max(b.viscosity, leastMoves*nu))}
	}
	return [mostCarried]float64{nu * eddy.Ratio(b.viscosity/nu)}
}

// leastMoves is the viscosity of eddies over that of the fluid for which a stream counts that has none.
const leastMoves = 1e-6

// eddyFields are those that a turbulent flow carries along.
func (d *draft) eddyFields() []frame.Field {
	field := func(name, unit, label string) frame.Field {
		return frame.Field{Field: couple.Field{Name: name, Bodies: d.fluid, Changes: d.problem.Transient}, Unit: unit, Label: label}
	}
	if d.problem.Energy {
		rate := field(logDecay, "1", "logarithm of the decay of eddies")
		rate.Signed = true
		return []frame.Field{field(energy, "m²/s²", "energy of eddies"), rate}
	}
	return []frame.Field{field(carried, "m²/s", "carried viscosity of eddies")}
}

// turbulence says what is carried of eddies at walls and in what comes in.
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
	nu := d.thickest()
	d.problem.Thin = nu
	speed, length := d.liveliness()
	few, _ := eddy.Viscosity(usualEddies*nu, nu, 0)
	usual := brought{few, swinging(speed, usualSwing)}
	start := usual
	if !d.problem.Transient { // in time it is what there is at the beginning
		moves := max(few, startPart*speed*length)
		start = brought{moves, moves * startDecay * speed / length}
	}
	fields := d.posed.Fields[2:]
	for c := range fields {
		fields[c].Start = d.carriedOf(start, nu)[c]
	}
	depth := func([3]float64) float64 { return 1 }
	if d.problem.Energy {
		depth = d.depth()
		first := fields[1].Start
		fields[1].StartAt = func(x [3]float64) float64 {
			far := depth(x)
			return max(first, eddy.BesideWall(0, nu, far, 0).Rate) + math.Log(far)
		}
	}
	brings := d.brings()
	some := false
	comes := func(id string) [mostCarried]float64 {
		value, said := brings[id]
		if !said {
			value, some = usual, true
		}
		return d.carriedOf(value, nu)
	}
	hold := func(c int, key string, facets []int32, value float64, shape func(x [3]float64) float64) {
		f := &fields[c]
		if at := shape; f.Signed { // a logarithm of what is carried times the depth
			own := value
			value, shape = 1, func(x [3]float64) float64 {
				if at != nil {
					return at(x) + math.Log(depth(x))
				}
				return own + math.Log(depth(x))
			}
		}
		f.Held = append(f.Held, couple.Held{Facets: facets, Value: formula.Fixed(value), Shape: shape, Least: law.NoBound, What: f.Label, Key: key})
	}
	for i, facets := range d.problem.Inlets {
		_, said := brings[d.inlets[i]]
		if shapes := d.arrive[d.inlets[i]]; shapes != nil && !said {
			for c := range fields {
				hold(c, d.inlets[i], facets, 1, shapes[c])
			}
			continue
		}
		value := comes(d.inlets[i])
		for c := range fields {
			hold(c, d.inlets[i], facets, value[c], nil)
		}
	}
	for i := range d.problem.Openings {
		d.problem.Openings[i].Eddies = comes(d.openings[i])
	}
	// Nothing is held where walls begin.
	if len(smooth) > 0 && !d.problem.Energy {
		hold(0, "walls", smooth, 0, nil)
	}
	if !some {
		return
	}
	words := ""
	if d.problem.Energy {
		words = fmt.Sprintf(", and to swing by %s %% of its speed", quantity.Figures(100*usualSwing, 2))
	}
	d.Note("What comes in is taken to bring few eddies along: their viscosity is %s times that of the fluid%s, unless a sentence says more.", quantity.Figures(few/nu, 2), words)
}

// depth is how far places are from walls, m, from where rough ones seem to be, and at a wall as far as half of the first cells.
func (d *draft) depth() func(x [3]float64) float64 {
	walls, height := newWalls(d.Mesh, d.problem.Walls), d.problem.heights()
	least := math.Inf(1) // distance of a node off walls, m
	for v := range int32(d.Mesh.NodeCount()) {
		if far, _ := walls.away(d.Mesh.At(v)); far > 0 {
			least = min(least, far)
		}
	}
	return func(x [3]float64) float64 {
		far, i := walls.away(x)
		far = max(far, least/2)
		if i >= 0 {
			far += eddy.Behind(height[d.problem.Walls[i]])
		}
		return far
	}
}

// shareOfLength is the viscosity of eddies over the root of their energy and their size.
var shareOfLength = math.Pow(0.09, 0.25)

// brings is what comes in brings along by sentences that say it, by the keys of those that let it in.
func (d *draft) brings() map[string]brought {
	by := map[string]brought{}
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
				if c.Kind == KeyRatio {
					speed := d.fast(other)
					if speed == 0 {
						speed, _ = d.liveliness()
					}
					by[other.ID] = brought{d.thin(d.Mesh.Facets[k].Body) * said(c, "ratio"), swinging(speed, usualSwing)}
					break
				}
				speed := d.fast(other)
				if speed == 0 {
					d.Refuse("conditions/"+c.ID, "say by how much its eddies are more viscous than the fluid", "%s: how fast it comes in by %s is not said with a number", c.ID, other.ID)
					break
				}
				energy := swinging(speed, said(c, "intensity"))
				by[other.ID] = brought{shareOfLength * math.Sqrt(energy) * said(c, "length"), energy}
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
			w[i] = d.law().Speed(y*friction/nu, 0)
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
	var values [mostCarried][]float64
	for c := range values {
		values[c] = make([]float64, len(p.at))
	}
	for i, y := range off {
		middle := 1 - y/widest
		spread := eddy.Kappa / 6 * friction * widest * (1 - middle*middle) * (1 + 2*middle*middle)
		if !d.problem.Energy {
			values[0][i] = min(eddy.Kappa*friction*y, nu*eddy.Ratio(spread/nu))
			continue
		}
		// As much arises as decays, by the friction that falls towards the middle; there is some even there.
		k := friction * friction / math.Sqrt(eddy.Decay) * max(middle, middleEnergy)
		near := eddy.BesideWall(friction, nu, max(y, 1e-3*widest), 0)
		values[0][i] = min(k, near.Energy)
		values[1][i] = max(near.Rate, math.Log(k/max(spread, nu)))
	}
	id := c.ID
	for c := range d.posed.Fields[2:] {
		d.arrive[id] = append(d.arrive[id], p.by(values[c]))
	}
	return p.shape(w)
}

// middleEnergy is the energy of eddies in the middle of a channel over that near its walls.
const middleEnergy = 0.25

// law is that of the wall.
func (d *draft) law() *eddy.Law {
	if d.problem.Energy {
		return eddy.Energetic
	}
	return eddy.Viscous
}

// thin is the viscosity over the density of what fills a body, m²/s, at a usual temperature.
func (d *draft) thin(body int32) float64 {
	f := d.Part(body).Properties[material.Viscosity]
	return f.At(min(max(law.UsualTemperature, f.From), f.To)) / d.problem.Bodies[body].Reference
}

// fast is how fast something comes in by a sentence, m/s, by what it says with a number; 0 if it does not say.
func (d *draft) fast(c *model.ResolvedSentence) float64 {
	switch c.Kind {
	case KeyStream:
		return d.wide
	case KeyInlet, KeyChannel:
		return math.Abs(said(c, "speed"))
	case KeyThrough, KeyCarries:
		return math.Abs(said(c, "flow")) / d.area(d.On(c))
	}
	return 0
}

// liveliness is about how fast what flows is, m/s, and how far it does, m, by what is said with numbers.
func (d *draft) liveliness() (speed, length float64) {
	speed = d.wide
	for _, c := range d.Conditions(key) {
		speed = max(speed, d.fast(c))
		switch c.Kind {
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
	length = size(away(hi, lo))
	if speed == 0 {
		speed = likelyReynolds * d.thickest() / length
	}
	return speed, length
}

// thickest is the greatest viscosity over the density of what flows, m²/s, at a usual temperature.
func (d *draft) thickest() (nu float64) {
	for b := range d.fluid {
		nu = max(nu, d.thin(b))
	}
	return nu
}

// likelyReynolds is the Reynolds number that a turbulent flow is taken to have of which no speed is said, as of one that is driven
// by heat.
const likelyReynolds = 1e4
