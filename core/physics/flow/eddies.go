package flow

import (
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/physics/flow/eddy"
)

// A flow that is turbulent is solved for on the mean: its eddies spread momentum as if the fluid were more viscous, by a
// viscosity that follows from what the flow carries along (see the package eddy).
//
// In the first cells along a wall the speed is a straight line, where it is none if they are thicker than the layer that the
// viscosity governs. There the viscosity is the one by which such a line leads to the friction of the law of the wall at the
// nodes off the wall, which that of the fluid is if they are near enough: so it does not matter how far that is. It follows
// from the shear rate like that of a fluid that becomes thicker or thinner.

// Rough is facets of walls that are as rough as sand.
type Rough struct {
	Facets []int32
	Height float64 // m
}

// eddies is what is known of the places of a turbulent flow.
type eddies struct {
	away   []float64 // by node, how far it is from a wall, m
	rough  []float64 // by node, the height of the sand at the nearest one, m; nil if none is rough
	beside []bool    // nodes for which the nearest place at walls is an edge, and that lie to the side of it
}

// leastFacing is the cosine of the angle to the normal of a wall from which on a node does not lie above it.
const leastFacing = 0.75

// leastAway is the distance from walls for which that of a place at one counts, m.
const leastAway = 1e-9

// layer is where a point lies among walls.
type layer struct {
	away   float64 // m, counted from where a rough wall seems to be
	rough  float64 // m
	along  bool    // its cell is one of the first along a wall
	height float64 // of that, m
	// friction is the speed of friction at the wall, m/s, in such a cell, with its derivative by the shear rate, m, and units
	// its height in units of the wall.
	friction, byShear, units float64
	shear                    float64 // rate there, 1/s
}

// newEddies measures how far nodes are from walls.
func newEddies(k *Kernel) *eddies {
	w, s := &eddies{}, k.group.System
	height := k.problem.heights()
	on := map[int32]float64{}
	for _, f := range k.problem.Walls {
		for _, v := range s.Grid.SideNodes(k.group.Side(f, false)) {
			on[v] = max(on[v], height[f])
		}
	}
	walls := newWalls(k.group.Mesh, k.problem.Walls)
	count := s.Grid.NodeCount()
	w.away, w.beside = make([]float64, count), make([]bool, count)
	if len(height) > 0 {
		w.rough = make([]float64, count)
	}
	for v := range count {
		x := s.Grid.At(int32(v))
		if rough, is := on[int32(v)]; is {
			if w.rough != nil {
				w.rough[v] = rough
			}
			continue
		}
		far, i := walls.away(x)
		w.away[v] = far
		if i < 0 {
			continue
		}
		if w.rough != nil {
			w.rough[v] = height[k.problem.Walls[i]]
		}
		w.beside[v] = above(x, walls.corners[i]) < leastFacing
	}
	return w
}

// heights of the sand of walls that are rough, by facet.
func (p *Problem) heights() map[int32]float64 {
	by := map[int32]float64{}
	for _, r := range p.Rough {
		for _, f := range r.Facets {
			if r.Height > 0 {
				by[f] = r.Height
			}
		}
	}
	return by
}

// farther is how the distance from walls grows along the axes at a point of a cell.
func (w *eddies) farther(p *fem.Point) (slope [3]float64) {
	for a, v := range p.Nodes {
		s := p.Slope(a)
		for i := range 3 {
			slope[i] += w.away[v] * s[i]
		}
	}
	return slope
}

// layerAt finds where a point lies among walls.
func (k *Kernel) layerAt(p *fem.Point) (l layer) {
	w, any, beside := k.eddies, false, false
	for a, v := range p.Nodes {
		d := w.away[v]
		l.away += p.Functions[a] * d
		l.height = max(l.height, d)
		any, beside = any || d == 0, beside || w.beside[v]
		if w.rough != nil {
			l.rough += p.Functions[a] * w.rough[v]
		}
	}
	l.along = any && !beside && l.height > 0
	if l.away == 0 {
		l.away = leastAway // in a corner all of whose nodes are at walls, where nothing is carried
	}
	l.away += eddy.Behind(l.rough)
	return l
}

// spreading is a model of what eddies do, by what it carries along in components from that of the kernel on.
type spreading interface {
	// moves is how viscous eddies are off walls in a fluid of a kinematic viscosity, m²/s.
	moves(k *Kernel, p *fem.Point, l layer, nu float64) moved
	// brings is what is carried of what an opening lets in, at a distance from walls, m.
	brings(k *Kernel, p *fem.Point, o *Opening, away float64) [mostCarried]float64
	// law is that of the wall by it.
	law() *eddy.Law
	// carries adds the equations of what is carried.
	carries(k *Kernel, p *fem.Point, t *fem.Terms, l layer, nu float64)
}

// moved is the kinematic viscosity of eddies, m²/s, with its derivatives by what is carried and by the shear rate over that.
type moved struct {
	value   float64
	by      [mostCarried]float64
	byShear float64
}

// mostCarried is how much a model carries at most.
const mostCarried = 2

// swirl adds to how a fluid resists being sheared what its eddies do.
func (k *Kernel) swirl(p *fem.Point, r *rubs) {
	r.layer = k.layerAt(p)
	l, rho := &r.layer, k.here.Reference
	if !l.along {
		m := k.spreading.moves(k, p, *l, r.mu/rho)
		r.mu, r.byShear = r.mu+rho*m.value, rho*m.byShear
		for c, by := range m.by {
			r.byEddies[c] = rho * by
		}
		return
	}
	shear := math.Sqrt(k.shearSquare(p))
	l.shear = shear
	nu := r.mu / rho
	re := shear * l.height * l.height / nu
	var slope float64
	l.units, slope = k.spreading.law().Distance(re, l.rough/l.height)
	l.friction = l.units * nu / l.height
	if re == 0 {
		return
	}
	l.byShear = l.friction * slope / shear
	more := l.units * l.units / re
	r.mu, r.byHeat = r.mu*more, r.byHeat*more
	r.byShear = r.mu * (2*slope - 1) / (shear * shear)
}

// settling says that equations are near their solution, or of a step in time: then derivatives are exact.
func (k *Kernel) settling() bool { return k.friction.stays || k.problem.Transient }

// bySquare is the derivative of the speed of friction by the square of the shear rate.
func (l *layer) bySquare() float64 {
	if l.shear == 0 {
		return 0
	}
	return l.byShear / (2 * l.shear)
}

// eddiesIn adds that what comes in through an opening brings its eddies along.
func (k *Kernel) eddiesIn(o *Opening, p *fem.Point, t *fem.Terms) {
	through := k.through(p)
	if k.e < 0 || through >= 0 {
		return
	}
	brings := k.spreading.brings(k, p, o, k.layerAt(p).away)
	for c := range k.carried {
		e := k.e + c
		more := p.U[e] - brings[c]
		t.Source[e] -= through * more
		t.SourceU[t.Index(e, e)] -= through
		for i := range k.n {
			t.SourceU[t.Index(e, k.u+i)] -= p.Normal[i] * more
		}
	}
}

// Spread adds by how much eddies spread what has a diffusivity, m²/s, at a point of a cell that was prepared, m²/s.
func (k *Kernel) Spread(p *fem.Point, diffusivity float64, j *couple.Jet) {
	if k.now == nil || k.e < 0 || diffusivity <= 0 {
		return
	}
	nu := k.now.At(viscosity, p.Number) * k.problem.ease() / k.here.Reference
	prandtl := nu / diffusivity
	r := rubs{mu: nu * k.here.Reference}
	k.swirl(p, &r)
	l := &r.layer
	if l.along {
		j.Value[0] += diffusivity * (k.spreading.law().Conducts(l.units, prandtl, l.rough/l.height*l.units) - 1)
		return
	}
	moves := r.mu/k.here.Reference - nu
	of := eddy.Prandtl(moves/nu, prandtl)
	j.Value[0] += moves / of
	for c := range k.carried {
		j.U[k.e+c][0] += r.byEddies[c] / k.here.Reference / of
	}
}

// SpreadHeat adds the conductivity of eddies at a point of a cell that was prepared, W/(m·K).
func (k *Kernel) SpreadHeat(p *fem.Point, j *couple.Jet) {
	if k.now == nil || k.e < 0 || k.here.Conductivity == nil {
		return
	}
	holds := k.here.Reference * k.now.At(capacity, p.Number) // J/(m³·K)
	of := append([][3]float64{j.Value}, j.U[k.e:k.e+k.carried]...)
	k.Spread(p, k.now.At(conductivity, p.Number)/holds, j)
	j.Value[0] = of[0][0] + holds*(j.Value[0]-of[0][0])
	for c, by := range of[1:] {
		j.U[k.e+c][0] = by[0] + holds*(j.U[k.e+c][0]-by[0])
	}
}

// wallsOf are all facets of walls, each once.
func wallsOf(lists ...[]int32) []int32 {
	all := slices.Concat(lists...)
	slices.Sort(all)
	return slices.Compact(all)
}
