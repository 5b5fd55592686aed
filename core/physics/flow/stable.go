package flow

import (
	"maps"
	"math"
	"slices"

	"saltkettle/core/fem"
)

// What is added where velocity and pressure have functions of order 1 alike: for test functions v and q
//
//	∫ τ(u·∇v)·R + τ/ρ ∇q·R + ρ τₗ (∇·v)(∇·u),  R = ρ(∂u/∂t + u·∇u) + ∇p − π − f,
//
// which vanishes with the residual R of the equations (T. E. Tezduyar, Adv. Appl. Mech. 28 (1991) 1; τ as in
// F. Shakib, T. J. R. Hughes and Z. Johan, Comput. Methods Appl. Mech. Eng. 89 (1991) 141). π is the friction as the
// nodes have it, as functions of order 1 have no second derivatives: without it the flow through a channel is up to
// 1 % less within than at its ends, and the pressure is jagged (K. E. Jansen and others, Comput. Methods Appl. Mech.
// Eng. 174 (1999) 153).

// friction is ∇·(2µD) at nodes, N/m³.
type friction struct {
	count    int
	at       []float64 // by node and direction
	still    []bool    // nodes at which the velocity is held
	near     []besides // these, with what they take theirs from, in an order in which that is known
	stays    bool
	resist   []float64 // by node, kg/s
	density  float64   // kg/m³
	capacity float64   // J/(kg·K)
	fastest  float64   // m/s
	time     float64   // of the state, s
}

// prepare finds the nodes at which the velocity is held, once the friction is asked for.
func (f *friction) prepare(k *Kernel) {
	s := k.group.System
	f.count = s.Grid.NodeCount()
	f.still = make([]bool, f.count)
	for _, facet := range k.problem.Stuck {
		for _, v := range s.Grid.SideNodes(k.group.Side(facet, false)) {
			f.still[v] = true
		}
	}
	f.spread(s.Grid, s.Fields[s.FieldAt(k.u)].Parts)
}

// besides is a node at which the velocity is held, and those beside it whose friction it has on the mean: the
// equations there say nothing of it, and nothing would be too little at a wall along which fluid flows.
type besides struct {
	node int32
	of   []int32
}

// spread finds from which nodes those at which the velocity is held take their friction.
func (f *friction) spread(grid *fem.Grid, parts map[int32]bool) {
	meets := map[int32]map[int32]bool{}
	flows := make([]bool, f.count)
	for bi := range grid.Blocks {
		b := &grid.Blocks[bi]
		for cell, part := range b.Part {
			if parts != nil && !parts[part] {
				continue
			}
			nodes := b.Nodes(cell)
			for _, v := range nodes {
				flows[v] = true
				if !f.still[v] {
					continue
				}
				if meets[v] == nil {
					meets[v] = map[int32]bool{}
				}
				for _, w := range nodes {
					if w != v {
						meets[v][w] = true
					}
				}
			}
		}
	}
	left := slices.Sorted(maps.Keys(meets))
	known := make([]bool, f.count)
	for v := range known {
		known[v] = flows[v] && !f.still[v]
	}
	for len(left) > 0 {
		var found []besides
		var rest []int32
		for _, v := range left {
			one := besides{node: v}
			for w := range meets[v] {
				if known[w] {
					one.of = append(one.of, w)
				}
			}
			if len(one.of) == 0 {
				rest = append(rest, v)
				continue
			}
			slices.Sort(one.of)
			found = append(found, one)
		}
		if len(found) == 0 {
			return // all of it is held
		}
		for _, one := range found {
			known[one.node] = true
		}
		f.near, left = append(f.near, found...), rest
	}
}

// rubbed is the friction at a point.
func (k *Kernel) rubbed(p *fem.Point) (f [3]float64) {
	if k.friction.at == nil {
		return f
	}
	for a, v := range p.Nodes {
		for i := range k.n {
			f[i] += p.Functions[a] * k.friction.at[k.n*int(v)+i]
		}
	}
	return f
}

// stabilise adds to the terms at a point.
func (k *Kernel) stabilise(p *fem.Point, t *fem.Terms, mu, slopeMu float64) {
	q, n, u, w := p.Number, k.n, k.u, k.p
	rho := k.here.Reference
	drag, bySpeed, byHeat := k.drag(p, q)
	tau, bulk, slope, warmer := k.times(p, mu, slopeMu, drag, bySpeed, byHeat)
	rubbed := k.rubbed(p)
	div := 0.0
	var velocity [3]float64
	for i := range n {
		div += p.Grad[u+i][i]
		velocity[i] = p.U[u+i]
	}
	if k.problem.Round {
		div += k.bulkRound(p, t, rho*bulk, div)
	}
	for i := range n {
		r := p.Grad[w][i] - rubbed[i]
		for j := range n {
			r += rho * p.U[u+j] * p.Grad[u+i][j]
		}
		if k.problem.Transient {
			r += rho * p.Rate[u+i]
		}
		r += drag * p.U[u+i]
		weight := 0.0
		if k.t >= 0 {
			g := k.gravity.At(i, q)
			r -= (k.now.At(density, q) - rho) * g
			if k.varies {
				weight = k.now.Slope(density, q)*g - byHeat*p.U[u+i]
			}
		}
		// By the residual: its derivatives by what it is made of, once for the test function of the velocity and
		// once for that of the pressure.
		ii, iw, wi := t.Index(u+i, u+i), t.Index(u+i, w), t.Index(w, u+i)
		t.Flux[w][i] -= tau / rho * r
		t.FluxGrad[t.Index(w, w)][i][i] -= tau / rho
		slopes, bySlope, byPressure := &p.Grad[u+i], &t.FluxGrad[ii], &t.FluxGrad[iw]
		byVelocity, toPressure := t.FluxU[t.Index(u+i, u):][:n], t.FluxU[t.Index(w, u):][:n]
		for j := range n {
			along := tau * velocity[j]
			t.Flux[u+i][j] += along * r
			t.FluxGrad[wi][i][j] -= along
			toPressure[j][i] -= tau * slopes[j]
			byVelocity[j][j] += tau * r
			byPressure[j][i] += along
			t.FluxGrad[t.Index(u+i, u+j)][i][j] += rho * bulk
			along *= rho
			for l := range n {
				byVelocity[l][j] += along * slopes[l]
				bySlope[j][l] += along * velocity[l]
			}
			if drag != 0 || bySpeed != 0 {
				// What holds the fluid up, by the velocity along j.
				holds := bySpeed * velocity[i] * velocity[j]
				if i == j {
					holds += drag
				}
				toPressure[j][i] -= tau * holds / rho
				for l := range n {
					byVelocity[j][l] += tau * velocity[l] * holds
				}
			}
			along = tau * velocity[j]
			if k.problem.Transient {
				t.FluxRate[ii][j] += along * rho
			}
			if weight != 0 {
				t.FluxU[t.Index(u+i, k.t)][j] -= along * weight
			}
			if !k.friction.stays && !k.problem.Transient {
				continue // far from a solution the derivative of τ leads astray
			}
			t.FluxU[t.Index(w, u+j)][i] -= slope[j] / rho * r
			for l := range n {
				t.FluxU[t.Index(u+i, u+j)][l] += slope[j] * p.U[u+l] * r
			}
			t.FluxU[t.Index(u+i, u+j)][i] -= rho * bulk * slope[j] / tau * div
		}
		t.Flux[u+i][i] += rho * bulk * div
		if k.problem.Transient {
			t.FluxRate[wi][i] -= tau
		}
		if weight != 0 {
			t.FluxU[t.Index(w, k.t)][i] += tau / rho * weight
		}
		if k.varies && k.friction.stays {
			t.FluxU[t.Index(w, k.t)][i] -= warmer / rho * r
			for l := range n {
				t.FluxU[t.Index(u+i, k.t)][l] += warmer * p.U[u+l] * r
			}
			t.FluxU[t.Index(u+i, k.t)][i] -= rho * bulk * warmer / tau * div
		}
	}
}

// bulkRound adds what the divergence has by the way round the axis, by what of it there is without that, and returns it.
func (k *Kernel) bulkRound(p *fem.Point, t *fem.Terms, bulk, div float64) float64 {
	u, over := k.u, 1/p.X[0]
	more := p.U[u] * over
	t.Source[u] += bulk * (div + more) * over
	t.SourceU[t.Index(u, u)] += bulk * over * over
	for i := range k.n {
		t.SourceGrad[t.Index(u, u+i)][i] += bulk * over
		t.FluxU[t.Index(u+i, u)][i] += bulk * over
	}
	return more
}

// How much the friction of a cell counts for its time: of a tetrahedron, and of other cells.
const (
	rubsSimplex = 1
	rubsOther   = 3
)

// times are τ, s, that of the divergence over the density, τₗ, m²/s, and the derivatives of τ by the velocity and by the
// temperature.
func (k *Kernel) times(p *fem.Point, mu, slopeMu, drag, bySpeed, byHeat float64) (tau, bulk float64, slope [3]float64, warmer float64) {
	g := p.Metric()
	nu := mu / k.here.Reference
	var through, square, trace float64
	for i := range k.n {
		trace += g[i][i]
		for j := range k.n {
			through += p.U[k.u+i] * g[i][j] * p.U[k.u+j]
			square += g[i][j] * g[i][j]
		}
	}
	rubs := float64(rubsOther)
	if len(p.Nodes) == k.n+1 {
		rubs = rubsSimplex
	}
	holds := drag / k.here.Reference
	tau = 1 / math.Sqrt(through+rubs*nu*nu*square+holds*holds)
	cube := tau * tau * tau
	for i := range k.n {
		for j := range k.n {
			slope[i] -= cube * g[i][j] * p.U[k.u+j]
		}
		slope[i] -= cube * holds * bySpeed / k.here.Reference * p.U[k.u+i]
	}
	warmer = -cube / k.here.Reference * (holds*byHeat + rubs*nu*square*slopeMu)
	return tau, 1 / (tau * trace), slope, warmer
}

// Resist is how nodes resist a change of their velocity in the time in which what flows leaves a cell, the mean
// density and the greatest speed.
func (k *Kernel) Resist() (nodes []float64, density, speed float64) {
	return k.friction.resist, k.friction.density, k.friction.fastest
}

// Capacity is the mean heat capacity of what flows, J/(kg·K), 0 if it holds no heat.
func (k *Kernel) Capacity() float64 { return k.friction.capacity }

// slowest is the part of the greatest speed that what leaves cells has at least.
const slowest = 0.1

// pace is how often a second what is at a point leaves its cell, by the flow, at least at a speed, or by friction.
func (k *Kernel) pace(p *fem.Point, least, mu float64) float64 {
	m := &p.Inverse
	var h float64
	if k.n == 2 {
		h = 2 / math.Sqrt(math.Abs(m[0][0]*m[1][1]-m[0][1]*m[1][0]))
	} else {
		det := m[0][0]*(m[1][1]*m[2][2]-m[1][2]*m[2][1]) - m[0][1]*(m[1][0]*m[2][2]-m[1][2]*m[2][0]) + m[0][2]*(m[1][0]*m[2][1]-m[1][1]*m[2][0])
		h = 2 / math.Cbrt(math.Abs(det))
	}
	return max(k.speed(p), least)/h + 2*mu/k.here.Reference/(h*h)
}

// speed at a point, m/s.
func (k *Kernel) speed(p *fem.Point) float64 {
	sum := 0.0
	for i := range k.n {
		sum += p.U[k.u+i] * p.U[k.u+i]
	}
	return math.Sqrt(sum)
}

// fastest is the greatest speed at nodes, m/s.
func (k *Kernel) fastest(s *fem.System, at *fem.State) (most float64) {
	field := s.FieldAt(k.u)
	for v := range s.Grid.NodeCount() {
		if e := s.Equation(field, 0, int32(v)); e >= 0 {
			sum := 0.0
			for i := range k.n {
				sum += at.U[int(e)+i] * at.U[int(e)+i]
			}
			most = max(most, sum)
		}
	}
	return math.Sqrt(most)
}

// Keep lets the friction at nodes stay as it was last, or follow the state again.
func (k *Kernel) Keep(stays bool) {
	if k.friction != nil {
		k.friction.stays = stays
	}
}

// Survey finds the friction at nodes, and the pressures of fans.
func (k *Kernel) Survey(s *fem.System, at *fem.State) error {
	if err := k.surveyFans(s, at); err != nil {
		return err
	}
	if err := k.surveyAgain(s, at); err != nil {
		return err
	}
	f := k.friction
	if f == nil || f.at != nil && (f.stays || k.problem.Transient && f.time == at.Time) {
		return nil
	}
	f.time = at.Time // within a stage of a step it stays what it was when that began
	bodies := map[int32]bool{}
	for b := range k.problem.Bodies {
		bodies[b] = true
	}
	if f.still == nil {
		f.prepare(k)
	}
	f.fastest = k.fastest(s, at)
	n, least := k.n, slowest*f.fastest
	var shares []*rubbing
	err := s.AllCells(at, bodies, func(core int) func([]fem.Point, []float64) error {
		own := k.Fork().(*Kernel)
		share := &rubbing{nodes: make([]float64, (n+2)*f.count)}
		shares = append(shares, share)
		return func(points []fem.Point, weights []float64) error {
			if err := own.Prepare(-1, points); err != nil {
				return err
			}
			for q, w := range weights {
				p := &points[q]
				mu := own.rubs(p, q).mu
				rho := own.here.Reference
				resists := w * rho * own.pace(p, least, mu)
				share.volume, share.mass = share.volume+w, share.mass+w*rho
				if own.here.Capacity != nil {
					share.heat += w * rho * own.now.At(capacity, q)
				}
				for a, v := range p.Nodes {
					at, slope := share.nodes[(n+2)*int(s.Shared(v)):][:n+2], p.Slope(a)
					at[n] += w * p.Functions[a]
					at[n+1] += resists * p.Functions[a]
					for i := range n {
						sum := 0.0
						for j := range n {
							sum += (p.Grad[k.u+i][j] + p.Grad[k.u+j][i]) * slope[j]
						}
						at[i] -= w * mu * sum
					}
					if k.problem.Round {
						at[0] -= w * 2 * mu * p.U[k.u] / (p.X[0] * p.X[0]) * p.Functions[a]
					}
				}
			}
			return nil
		}
	})
	if err != nil {
		return err
	}
	f.take(n, shares)
	for v := range f.count {
		if own := s.Shared(int32(v)); int(own) != v {
			copy(f.at[n*v:n*v+n], f.at[n*int(own):])
		}
	}
	return nil
}

// rubbing is what some cells add to the friction: by node its integral by direction, the volume of the function and
// how it resists.
type rubbing struct {
	nodes        []float64
	volume, mass float64
	heat         float64 // J/K
}

// take adds up what all cells add.
func (f *friction) take(n int, shares []*rubbing) {
	if f.at == nil {
		f.at, f.resist = make([]float64, n*f.count), make([]float64, f.count)
	}
	var volume, mass, heat float64
	for _, share := range shares {
		volume, mass, heat = volume+share.volume, mass+share.mass, heat+share.heat
	}
	f.density, f.capacity = mass/volume, heat/mass
	sum := make([]float64, n+2)
	for v := range f.count {
		clear(sum)
		for _, share := range shares {
			for i, x := range share.nodes[(n+2)*v:][:n+2] {
				sum[i] += x
			}
		}
		f.resist[v] = sum[n+1]
		for i := range n {
			f.at[n*v+i] = 0
			if sum[n] > 0 && !f.still[v] {
				f.at[n*v+i] = sum[i] / sum[n]
			}
		}
	}
	for _, one := range f.near {
		for i := range n {
			sum := 0.0
			for _, v := range one.of {
				sum += f.at[n*int(v)+i]
			}
			f.at[n*int(one.node)+i] = sum / float64(len(one.of))
		}
	}
}
