package flow

import (
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/physics/flow/eddy"
	"saltkettle/core/spatial"
)

// A flow that is turbulent is solved for on the mean: its eddies spread momentum as if the fluid were more viscous, by a
// viscosity that follows from one that the flow carries along (see the package eddy).
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

// nowhere is how far off walls are if there are none, m.
const nowhere = 1e9

// leastFacing is the cosine of the angle to the normal of a wall from which on a node does not lie above it.
const leastFacing = 0.75

// layer is where a point lies among walls.
type layer struct {
	away   float64 // m, counted from where a rough wall seems to be
	rough  float64 // m
	along  bool    // its cell is one of the first along a wall
	height float64 // of that, m
	// friction is the speed of friction at the wall, m/s, in such a cell, with its derivative by the shear rate, m, and units
	// its height in units of the wall.
	friction, byShear, units float64
}

// newEddies measures how far nodes are from walls.
func newEddies(k *Kernel) *eddies {
	w, s := &eddies{}, k.group.System
	type facet struct {
		corners [][3]float64
		rough   float64
	}
	height := map[int32]float64{}
	for _, r := range k.problem.Rough {
		for _, f := range r.Facets {
			height[f] = r.Height
			if r.Height > 0 && w.rough == nil {
				w.rough = make([]float64, s.Grid.NodeCount())
			}
		}
	}
	var list []facet
	var boxes []spatial.Box
	on := map[int32]float64{}
	for _, f := range k.problem.Walls {
		one := facet{rough: height[f]}
		for _, v := range s.Grid.SideNodes(k.group.Side(f, false)) {
			one.corners = append(one.corners, s.Grid.At(v))
			on[v] = max(on[v], one.rough)
		}
		box := spatial.Box{Lo: one.corners[0], Hi: one.corners[0]}
		for _, x := range one.corners {
			for d := range 3 {
				box.Lo[d], box.Hi[d] = min(box.Lo[d], x[d]), max(box.Hi[d], x[d])
			}
		}
		list, boxes = append(list, one), append(boxes, box)
	}
	tree := spatial.NewTree(boxes)
	count := s.Grid.NodeCount()
	w.away, w.beside = make([]float64, count), make([]bool, count)
	for v := range count {
		x := s.Grid.At(int32(v))
		if rough, is := on[int32(v)]; is {
			if w.rough != nil {
				w.rough[v] = rough
			}
			continue
		}
		square, thing := tree.Nearest(x, func(thing int32) float64 {
			return square(away(x, nearest(x, list[thing].corners)))
		})
		if thing < 0 {
			w.away[v] = nowhere
			continue
		}
		w.away[v] = math.Sqrt(square)
		f := &list[thing]
		if w.rough != nil {
			w.rough[v] = f.rough
		}
		w.beside[v] = above(x, f.corners) < leastFacing
	}
	return w
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
		l.away = 1e-300 // in a corner all of whose nodes are at walls, where nothing is carried
	}
	l.away += eddy.Behind(l.rough)
	return l
}

// swirl adds to how a fluid resists being sheared what its eddies do.
func (k *Kernel) swirl(p *fem.Point, r *rubs) {
	rho := k.here.Reference
	r.layer = k.layerAt(p)
	l := &r.layer
	if !l.along {
		value, slope := eddy.Viscosity(p.U[k.e], r.mu/rho, l.rough/l.away)
		r.mu, r.byEddies = r.mu+rho*value, rho*slope
		return
	}
	shear := math.Sqrt(k.shearSquare(p))
	nu := r.mu / rho
	re := shear * l.height * l.height / nu
	var slope float64
	l.units, slope = eddy.Distance(re, l.rough/l.height)
	l.friction = l.units * nu / l.height
	if re == 0 {
		return
	}
	l.byShear = l.friction * slope / shear
	more := l.units * l.units / re
	r.mu, r.byHeat = r.mu*more, r.byHeat*more
	r.byShear = r.mu * (2*slope - 1) / (shear * shear)
}

// turning is how much vorticity there is at a point, less what the flow is strained less than it turns, 1/s, as eddies are
// not fed where it turns without being strained (J. Dacles-Mariani and others, AIAA J. 33 (1995) 1561), with the derivative
// by the slopes of the velocity.
func (k *Kernel) turning(p *fem.Point) (value float64, slope [3][3]float64) {
	n, u := k.n, k.u
	var turns float64
	for i := range n {
		for j := range n {
			w := (p.Grad[u+i][j] - p.Grad[u+j][i]) / 2
			turns += 2 * w * w
			slope[i][j] = 2 * w
		}
	}
	if turns == 0 {
		return 0, slope
	}
	turns = math.Sqrt(turns)
	strained := math.Sqrt(k.shearSquare(p))
	by, also := 1/turns, 0.0
	value = turns
	if strained < turns && strained > 0 {
		value, by, also = 2*strained-turns, -1/turns, 2/strained
	}
	if least := turning0 * turns; value < least {
		value, by, also = least, turning0/turns, 0
	}
	for i := range n {
		for j := range n {
			slope[i][j] = by*slope[i][j] + also*(p.Grad[u+i][j]+p.Grad[u+j][i])
		}
	}
	return value, slope
}

// turning0 is the least part of the vorticity that counts.
const turning0 = 0.1

// carries adds the equation of the viscosity that is carried.
func (k *Kernel) carries(p *fem.Point, t *fem.Terms, r *rubs, nu float64) {
	e, u, n := k.e, k.u, k.n
	v, l := p.U[e], &r.layer
	var grows, byV, byShear float64
	var slope [3][3]float64
	if l.along {
		grows, byV, byShear = eddy.AtWall(v, max(l.friction, 1e-300), l.away)
		if byShear *= l.byShear; !k.friction.stays && !k.problem.Transient {
			byShear = 0 // far from a solution it leads astray
		}
		if shear := math.Sqrt(k.shearSquare(p)); byShear != 0 {
			for i := range n {
				for j := range n {
					slope[i][j] = (p.Grad[u+i][j] + p.Grad[u+j][i]) / shear
				}
			}
		}
	} else {
		var shear float64
		shear, slope = k.turning(p)
		grows, byV, byShear = eddy.Growth(v, nu, max(shear, 1e-12), l.away, l.rough/l.away)
	}
	spread, spreadBy := eddy.Spread(v, nu)
	grad := &p.Grad[e]
	steep, along := 0.0, 0.0
	for i := range n {
		steep += grad[i] * grad[i]
		along += p.U[u+i] * grad[i]
	}
	residual := along - grows - eddy.Sharpens*steep
	if k.problem.Transient {
		residual += p.Rate[e]
	}
	ee := t.Index(e, e)
	t.Source[e] += residual
	if k.problem.Transient {
		t.SourceRate[ee]++
	}
	// Far from a solution what makes it grow is left out of the matrix: it would make that singular.
	if by := -byV; by > 0 || k.friction.stays || k.problem.Transient {
		t.SourceU[ee] += by
	}
	for i := range n {
		t.SourceGrad[ee][i] += p.U[u+i] - 2*eddy.Sharpens*grad[i]
		t.SourceU[t.Index(e, u+i)] += grad[i]
		t.Flux[e][i] += spread * grad[i]
		t.FluxU[ee][i] += spreadBy * grad[i]
		t.FluxGrad[ee][i][i] += spread
		if byShear != 0 {
			for j := range n {
				t.SourceGrad[t.Index(e, u+i)][j] -= byShear * slope[i][j]
			}
		}
	}
	// What is stabilised: without what spreads but by its steepness, which is all of it in cells of order 1.
	residual -= spreadBy * steep
	g := p.Metric()
	var through, square float64
	for i := range n {
		for j := range n {
			through += p.U[u+i] * g[i][j] * p.U[u+j]
			square += g[i][j] * g[i][j]
		}
	}
	tau := 1 / math.Sqrt(through+rubsOther*spread*spread*square+byV*byV)
	for i := range n {
		by := tau * p.U[u+i]
		t.Flux[e][i] += by * residual
		if -byV > 0 || k.friction.stays || k.problem.Transient {
			t.FluxU[ee][i] -= by * byV
		}
		for j := range n {
			t.FluxGrad[ee][i][j] += by * (p.U[u+j] - 2*(eddy.Sharpens+spreadBy)*grad[j])
			t.FluxU[t.Index(e, u+j)][i] += by * grad[j]
			if byShear != 0 {
				for l := range n {
					t.FluxGrad[t.Index(e, u+j)][i][l] -= by * byShear * slope[j][l]
				}
			}
		}
		t.FluxU[t.Index(e, u+i)][i] += tau * residual
		if k.problem.Transient {
			t.FluxRate[ee][i] += by
		}
	}
}

// eddiesIn adds that what comes in through an opening brings its eddies along.
func (k *Kernel) eddiesIn(o *Opening, p *fem.Point, t *fem.Terms) {
	through := k.through(p)
	if k.e < 0 || through >= 0 {
		return
	}
	e := k.e
	more := p.U[e] - o.Eddies
	t.Source[e] -= through * more
	t.SourceU[t.Index(e, e)] -= through
	for i := range k.n {
		t.SourceU[t.Index(e, k.u+i)] -= p.Normal[i] * more
	}
}

// roughSide adds that at a rough wall the viscosity of eddies is not nothing: it is none where the wall seems to be.
func (k *Kernel) roughSide(height float64, p *fem.Point, t *fem.Terms) {
	e := k.e
	nu := k.now.At(viscosity, p.Number) * k.problem.ease() / k.here.Reference
	spread, by := eddy.Spread(p.U[e], nu)
	over := 1 / eddy.Behind(height)
	t.Source[e] += spread * p.U[e] * over
	t.SourceU[t.Index(e, e)] += (spread + by*p.U[e]) * over
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
		j.Value[0] += diffusivity * (eddy.Conducts(l.units, prandtl, l.rough/l.height*l.units) - 1)
		return
	}
	moves := r.mu/k.here.Reference - nu
	of := eddy.Prandtl(moves/nu, prandtl)
	j.Value[0] += moves / of
	j.U[k.e][0] += r.byEddies / k.here.Reference / of
}

// SpreadHeat adds the conductivity of eddies at a point of a cell that was prepared, W/(m·K).
func (k *Kernel) SpreadHeat(p *fem.Point, j *couple.Jet) {
	if k.now == nil || k.e < 0 || k.here.Conductivity == nil {
		return
	}
	holds := k.here.Reference * k.now.At(capacity, p.Number) // J/(m³·K)
	value, by := j.Value[0], j.U[k.e][0]
	k.Spread(p, k.now.At(conductivity, p.Number)/holds, j)
	j.Value[0] = value + holds*(j.Value[0]-value)
	j.U[k.e][0] = by + holds*(j.U[k.e][0]-by)
}

// wallsOf are all facets of walls, each once.
func wallsOf(lists ...[]int32) []int32 {
	all := slices.Concat(lists...)
	slices.Sort(all)
	return slices.Compact(all)
}
