package couple

import (
	"math"
	"slices"
)

// What is large for a flow and what is small: how its residual is judged, and by what its equations and unknowns are scaled.

// judge is the residual of the field that is worst, relative to the largest of the field so far, with what holds it,
// and to a floor.
func (p *pacing) judge(floor []float64) (worst float64) {
	free, held := make([]float64, len(p.largest)), make([]float64, len(p.largest))
	for e, v := range p.residual {
		switch {
		case p.c.Fixed[e]:
			held[p.field[e]] += v * v
		case !p.still[e]:
			free[p.field[e]] += v * v
		}
	}
	for f := range free {
		size := math.Sqrt(free[f])
		if math.IsNaN(size) {
			return size
		}
		if p.largest[f] = max(p.largest[f], size, math.Sqrt(held[f])); len(p.set.Carried) > 0 {
			// It begins with far more that is carried than there is in the end: what that did counts no more.
			p.largest[f] = math.Sqrt(held[f])
		}
		if scale := max(p.largest[f], floor[f]); scale > 0 {
			worst = max(worst, size/scale)
		}
	}
	return worst
}

// gauge finds the greatest speed, and how the nodes of the flow resist a change of it.
func (p *pacing) gauge() (resist []float64) {
	nodes, density, speed := p.pace.Resist()
	for _, f := range p.set.Scalars {
		p.spread[f] = spreadOf(p.state.U, p.field, f)
	}
	for _, f := range p.set.Carried {
		if p.spread[f] = mostOf(p.state.U, p.field, f); p.signed[f] {
			p.spread[f] = spreadOf(p.state.U, p.field, f)
		}
	}
	list := p.solver.nodes()
	resist = make([]float64, len(list))
	for i, node := range list {
		resist[i] = nodes[node]
	}
	p.density, p.speed = density, speed
	if speed > 0 && (p.slow == 0 || speed < p.slow) {
		p.slow = speed
	}
	if p.flows = p.speed > 0; !p.flows {
		// What drives it has not moved it yet: as fast as friction levels it out in a cell.
		var all float64
		for _, r := range resist {
			all += r
		}
		volume := p.volume()
		p.speed = max(all/(density*volume)*math.Cbrt(volume/float64(len(resist))), 1e-12)
	}
	return resist
}

// spreadOf is how far the values of a field are apart, or 1 if they are not.
func spreadOf(u []float64, of []int, field int) float64 {
	lo, hi := math.Inf(1), math.Inf(-1)
	for e, v := range u {
		if of[e] == field {
			lo, hi = min(lo, v), max(hi, v)
		}
	}
	if hi > lo {
		return hi - lo
	}
	return 1
}

// mostOf is the greatest value of a field, or 1 if there is none above nothing.
func mostOf(u []float64, of []int, field int) (most float64) {
	for e, v := range u {
		if of[e] == field {
			most = max(most, v)
		}
	}
	if most > 0 {
		return most
	}
	return 1
}

// floor keeps a residual from being held against one that was small already, as of a start that is nearly a solution:
// it counts as at least what the nodes resist with at the greatest speed, and what flows through as much of the flow as
// belongs to a node. At rest there is nothing of that kind.
func (p *pacing) floor(resist []float64) []float64 {
	list := make([]float64, len(p.largest))
	if !p.flows {
		return list
	}
	force := 0.0
	for _, r := range resist {
		force += r * r
	}
	n := float64(len(resist))
	v, q := p.set.Velocity, p.set.Pressure
	for _, f := range p.set.Carried {
		list[f] = p.spread[f] * math.Sqrt(force) / p.density
	}
	list[v], list[q] = p.slow*math.Sqrt(force), p.slow*math.Pow(p.volume()/n, 2./3)*math.Sqrt(n)
	return list
}

// volume of what flows, m³.
func (p *pacing) volume() (sum float64) {
	for b, v := range p.Volume {
		if p.Lives(p.set.Velocity, int32(b)) {
			sum += v
		}
	}
	return sum
}

// inertia of a field is what the resistance of a node counts for it: as it is for a velocity, by its capacity, or of what has
// no mass over the density; nothing for a pressure.
func (p *pacing) inertia(field int) float64 {
	switch {
	case field == p.set.Velocity:
		return 1
	case slices.Contains(p.set.Carried, field):
		return 1 / p.density
	case slices.Contains(p.set.Scalars, field):
		return p.pace.Capacity()
	}
	return 0
}

// scales make the equations and the unknowns of a field free of dimensions: equations over those of the stream, unknowns
// over its speed, its pressure and how far they are apart.
func (p *pacing) scales(field int) (row, col float64) {
	stream, pressure := p.speed, p.density*p.speed*p.speed
	switch {
	case field == p.set.Velocity:
		return 1 / pressure, stream
	case field == p.set.Pressure:
		return 1 / stream, pressure
	case slices.Contains(p.set.Carried, field):
		return 1 / (stream * p.spread[field]), p.spread[field]
	}
	return 1 / (p.density * max(p.pace.Capacity(), 1) * stream * p.spread[field]), p.spread[field]
}
