package flow

import (
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// Kernel has the terms of a problem: for test functions v and q,
//
//	∫ ρ(∂u/∂t + u·∇u)·v + µ(∇u + ∇uᵀ):∇v − p∇·v − (ρ(T) − ρ)g·v − q∇·u
//
// and at openings the pressure that acts there.
type Kernel struct {
	problem  *Problem
	group    *couple.Group
	u, p, t  int // first component of the velocity, that of the pressure, and of the temperature, −1 for none
	e        int // the first of what a turbulent flow carries along, −1 for none
	carried  int // how much that is
	n        int // components of the velocity
	varies   bool
	at       [][]int   // by side the accounts: openings, then inlets
	friction *friction // nil without stabilisation
	eddies   *eddies   // nil without any
	// spreading is the model of these.
	spreading spreading
	rough     []float64 // by side the height of the sand, m; nil if all is smooth
	fans      []*fan    // by opening, nil for others

	// Work memory.
	sets    map[int32]*law.Set
	sides   []*law.Set // by opening
	gravity *law.Set
	again   *again   // nil if it does not repeat
	now     *law.Set // nil in a body that does not flow
	here    Body
}

// Places of the laws of a body in its set.
const (
	density = iota
	viscosity
	capacity
	thinFast
	thinTime
	thinExponent
	matrixPermeability
	matrixInertia
	conductivity
	bodyLaws
)

// NewKernel prepares the terms of a problem for the components of a group from u on, with the temperature in
// component t, −1 if it is not solved for; varies says that it changes while the group is solved.
func NewKernel(g *couple.Group, p *Problem, u, t int, varies bool) *Kernel {
	k := &Kernel{problem: p, u: u, p: u + p.Dimension, t: t, e: -1, n: p.Dimension, varies: varies && t >= 0, at: make([][]int, len(g.Facets))}
	side := g.SideOf()
	number := 0
	act := func(facets []int32) {
		for _, f := range facets {
			k.at[side[f]] = append(k.at[side[f]], number)
		}
		number++
	}
	for _, o := range p.Openings {
		act(o.Facets)
	}
	for _, facets := range p.Inlets {
		act(facets)
	}
	for _, o := range p.Openings {
		var f *fan
		if o.Fan {
			f = newFan(o.Pressure)
		}
		k.fans = append(k.fans, f)
	}
	k.group, k.again = g, newAgain(p.Repeat)
	if p.Stable {
		k.friction = &friction{}
	}
	if p.Turbulent {
		k.e, k.eddies = k.p+1, newEddies(k)
		k.carried, k.spreading = 1, oneViscosity{}
		if p.Energy {
			k.carried, k.spreading = 2, energyAndRate{}
		}
	}
	for _, r := range p.Rough {
		for _, f := range r.Facets {
			if r.Height > 0 && !p.Energy { // of which nothing is carried into walls
				if k.rough == nil {
					k.rough = make([]float64, len(g.Facets))
				}
				k.rough[side[f]] = r.Height
			}
		}
	}
	k.work()
	return k
}

// work makes work memory.
func (k *Kernel) work() {
	k.sets, k.sides = map[int32]*law.Set{}, nil
	for _, o := range k.problem.Openings {
		if o.Fan {
			k.sides = append(k.sides, law.NewSet(nil)) // see fans
			continue
		}
		k.sides = append(k.sides, law.NewSet(o.Pressure))
	}
	k.gravity = law.NewSet(k.problem.Gravity[:]...)
}

// Fork returns a kernel with work memory of its own.
func (k *Kernel) Fork() fem.Kernel {
	out := *k
	out.work()
	return &out
}

// Straight says that the equations are linear, which they never are; Symmetric that their matrix is symmetric.
func (k *Kernel) Straight() bool  { return false }
func (k *Kernel) Symmetric() bool { return false }

// Ease multiplies the viscosity: what flows slowly is found first.
func (k *Kernel) Ease(factor float64) { k.problem.Ease = factor }

// LinearCells says that the terms of a body are linear: nothing is where nothing flows.
func (k *Kernel) LinearCells(body int32) bool {
	_, flows := k.problem.Bodies[body]
	return !flows
}

// LinearSide says that nothing acts on a side.
func (k *Kernel) LinearSide(number int) bool {
	return len(k.at[number]) == 0 && (k.rough == nil || k.rough[number] == 0)
}

// LinearJoint says that nothing passes joints.
func (k *Kernel) LinearJoint(int) bool { return true }

// Timeless says that the time is in none of the terms.
func (k *Kernel) Timeless() bool {
	for _, o := range k.problem.Openings {
		if !law.Timeless(o.Pressure) {
			return false
		}
	}
	return law.Timeless(k.problem.Gravity[:]...)
}

// ByValues says that terms on sides need gradients: the friction at openings is that of fluid that goes on as
// it comes.
func (k *Kernel) ByValues() bool { return false }

// Prepare evaluates all laws at some points of a body or on a side.
func (k *Kernel) Prepare(side int, points []fem.Point) error {
	if side >= 0 {
		for _, i := range k.at[side] {
			if i >= len(k.sides) {
				continue
			}
			k.sides[i].Run(points, -1)
			if err := k.sides[i].Check(0, -1, "pressure", law.NoBound, false); err != nil {
				return err
			}
		}
		if !k.LinearSide(side) {
			return k.enter(points)
		}
		return nil
	}
	return k.enter(points)
}

// enter evaluates the laws of a body at points in it or on its side.
func (k *Kernel) enter(points []fem.Point) error {
	body := points[0].Part
	b, flows := k.problem.Bodies[body]
	if !flows {
		k.now = nil
		return nil
	}
	k.here = b
	if k.now = k.sets[body]; k.now == nil {
		var by []int
		if k.varies {
			by = []int{law.Temperature}
		}
		k.now = law.NewSetBy(by, b.laws()...)
		k.sets[body] = k.now
	}
	k.now.Run(points, k.t)
	k.gravity.Run(points, -1)
	return k.checkLaws(body)
}

// Cell adds inertia, friction, pressure and buoyancy, and that no fluid is made.
func (k *Kernel) Cell(p *fem.Point, t *fem.Terms) error {
	if k.now == nil {
		return nil
	}
	q, n, u, w := p.Number, k.n, k.u, k.p
	rho, rubs := k.here.Reference, k.rubs(p, q)
	mu, slope := rubs.mu, rubs.byHeat
	for i := range n {
		source := 0.0
		for j := range n {
			source += rho * p.U[u+j] * p.Grad[u+i][j]
			strain := p.Grad[u+i][j] + p.Grad[u+j][i]
			t.Flux[u+i][j] += mu * strain
			t.FluxGrad[t.Index(u+i, u+i)][j][j] += mu
			t.FluxGrad[t.Index(u+i, u+j)][j][i] += mu
			t.SourceU[t.Index(u+i, u+j)] += rho * p.Grad[u+i][j]
			t.SourceGrad[t.Index(u+i, u+i)][j] += rho * p.U[u+j]
			if k.varies && slope != 0 {
				t.FluxU[t.Index(u+i, k.t)][j] += slope * strain
			}
			for c := range k.carried {
				t.FluxU[t.Index(u+i, k.e+c)][j] += rubs.byEddies[c] * strain
			}
		}
		t.Flux[u+i][i] -= p.U[w]
		t.FluxU[t.Index(u+i, w)][i]--
		t.Source[w] -= p.Grad[u+i][i]
		t.SourceGrad[t.Index(w, u+i)][i]--
		if k.problem.Transient {
			source += rho * p.Rate[u+i]
			t.SourceRate[t.Index(u+i, u+i)] += rho
		}
		if k.t >= 0 {
			g := k.gravity.At(i, q)
			source -= (k.now.At(density, q) - rho) * g
			if k.varies {
				t.SourceU[t.Index(u+i, k.t)] -= k.now.Slope(density, q) * g
			}
		}
		if k.again != nil {
			source -= k.again.push[i]
		}
		t.Source[u+i] += source
	}
	if k.problem.Round {
		k.round(p, t, &rubs)
	}
	if rubs.byShear != 0 {
		k.sheared(p, t, rubs.byShear)
	}
	k.held(p, t)
	if k.problem.Stable {
		k.stabilise(p, t, mu, slope)
	}
	if k.e >= 0 {
		k.spreading.carries(k, p, t, rubs.layer, k.now.At(viscosity, q)*k.problem.ease()/rho)
	}
	return nil
}

// round adds what goes round the axis.
func (k *Kernel) round(p *fem.Point, t *fem.Terms, rubs *rubs) {
	u, w, r, mu := k.u, k.p, p.X[0], rubs.mu
	t.Source[u] += (2*mu*p.U[u]/r - p.U[w]) / r
	t.SourceU[t.Index(u, u)] += 2 * mu / (r * r)
	t.SourceU[t.Index(u, w)] -= 1 / r
	if k.varies {
		t.SourceU[t.Index(u, k.t)] += 2 * rubs.byHeat * p.U[u] / (r * r)
	}
	for c := range k.carried {
		t.SourceU[t.Index(u, k.e+c)] += 2 * rubs.byEddies[c] * p.U[u] / (r * r)
	}
	t.Source[w] -= p.U[u] / r
	t.SourceU[t.Index(w, u)] -= 1 / r
}

// Side adds the pressure at openings. Where fluid comes in through one it brings no momentum along: without
// that a stream that turns back would feed itself (M. Braack and P. B. Mucha, J. Comput. Math. 32 (2014) 507).
func (k *Kernel) Side(number int, p *fem.Point, t *fem.Terms) error {
	for _, i := range k.at[number] {
		if i >= len(k.problem.Openings) {
			continue
		}
		k.opening(&k.problem.Openings[i], k.pressureAt(i, p.Number), p, t)
		k.eddiesIn(&k.problem.Openings[i], p, t)
	}
	if k.rough != nil && k.rough[number] > 0 {
		k.roughSide(k.rough[number], p, t)
	}
	return nil
}

func (k *Kernel) opening(o *Opening, pressure float64, p *fem.Point, t *fem.Terms) {
	u, rho := k.u, k.here.Reference
	rubs := k.rubs(p, p.Number)
	through, mu, slope := k.through(p), rubs.mu, rubs.byHeat
	for i := range k.n {
		t.Source[u+i] += pressure * p.Normal[i]
		for j := range k.n {
			t.Source[u+i] -= mu * p.Grad[u+j][i] * p.Normal[j]
			t.SourceGrad[t.Index(u+i, u+j)][i] -= mu * p.Normal[j]
			if k.varies {
				t.SourceU[t.Index(u+i, k.t)] -= slope * p.Grad[u+j][i] * p.Normal[j]
			}
			for c := range k.carried {
				t.SourceU[t.Index(u+i, k.e+c)] -= rubs.byEddies[c] * p.Grad[u+j][i] * p.Normal[j]
			}
			if rubs.byShear == 0 {
				continue
			}
			by := rubs.byShear * p.Grad[u+j][i] * p.Normal[j]
			for l := range k.n {
				for m := range k.n {
					t.SourceGrad[t.Index(u+i, u+l)][m] -= by * (p.Grad[u+l][m] + p.Grad[u+m][l])
				}
			}
			if k.problem.Round && p.X[0] > 0 {
				t.SourceU[t.Index(u+i, u)] -= by * 2 * p.U[u] / (p.X[0] * p.X[0])
			}
		}
	}
	if through >= 0 {
		return
	}
	for i := range k.n {
		if o.Total { // what it is faster by it is lower in pressure
			for j := range k.n {
				t.Source[u+i] -= rho / 2 * p.U[u+j] * p.U[u+j] * p.Normal[i]
				t.SourceU[t.Index(u+i, u+j)] -= rho * p.U[u+j] * p.Normal[i]
			}
			continue
		}
		t.Source[u+i] -= rho / 2 * through * p.U[u+i]
		t.SourceU[t.Index(u+i, u+i)] -= rho / 2 * through
		for j := range k.n {
			t.SourceU[t.Index(u+i, u+j)] -= rho / 2 * p.Normal[j] * p.U[u+i]
		}
	}
}

// through is how fast fluid leaves at a point of a side, m/s.
func (k *Kernel) through(p *fem.Point) (sum float64) {
	for i := range k.n {
		sum += p.U[k.u+i] * p.Normal[i]
	}
	return sum
}

// Accounts are, by direction and then of mass, the openings and the inlets, and what acts within the fluid.
func (k *Kernel) Accounts() int { return (k.n + 1) * k.accounts() }

func (k *Kernel) accounts() int { return len(k.problem.Openings) + len(k.problem.Inlets) + 1 }

// Sourced are the bodies that flow.
func (k *Kernel) Sourced() map[int32]bool {
	on := map[int32]bool{}
	for b := range k.problem.Bodies {
		on[b] = true
	}
	return on
}

// Entering adds up the forces on the fluid, N, what it carries along counted as one of them, and the mass that
// comes in, kg/s.
func (k *Kernel) Entering(side int, points []fem.Point, weights, sums []float64) error {
	if err := k.Prepare(side, points); err != nil {
		return err
	}
	m := k.accounts()
	if side < 0 {
		if k.now == nil {
			return nil
		}
		for q, w := range weights {
			for i := range k.n {
				sums[i*m+m-1] += w * k.within(&points[q], q, i)
			}
		}
		return nil
	}
	terms := fem.NewTerms(len(points[0].U))
	for q, w := range weights {
		p := &points[q]
		for _, number := range k.at[side] {
			sums[k.n*m+number] -= w * k.here.Reference * k.through(p)
			if number >= len(k.problem.Openings) {
				continue
			}
			terms.Reset()
			k.opening(&k.problem.Openings[number], k.pressureAt(number, q), p, terms)
			for i := range k.n {
				sums[i*m+number] -= w * terms.Source[k.u+i]
			}
		}
	}
	return nil
}

// Carried is how much momentum the fluid carries in and out through openings and inlets, N, by direction, and how
// much mass, kg/s.
func (k *Kernel) Carried(s *couple.Solution) ([]float64, error) {
	sums := make([]float64, k.n+1)
	var sides []fem.Side
	add := func(facets []int32) {
		for _, f := range facets {
			_, here := k.problem.Bodies[s.Mesh.Facets[f].Body]
			sides = append(sides, s.Side(f, !here))
		}
	}
	for _, o := range k.problem.Openings {
		add(o.Facets)
	}
	for _, facets := range k.problem.Inlets {
		add(facets)
	}
	err := s.System.EachSide(s.State, sides, func(_ int, points []fem.Point, weights []float64) error {
		rho := k.problem.Bodies[points[0].Part].Reference
		for q, w := range weights {
			mass := w * rho * math.Abs(k.through(&points[q]))
			sums[k.n] += mass
			for i := range k.n {
				sums[i] += mass * math.Abs(points[q].U[k.u+i])
			}
		}
		return nil
	})
	return sums, err
}

// within is buoyancy less inertia at a point, N/m³.
func (k *Kernel) within(p *fem.Point, q, i int) float64 {
	f := 0.0
	for j := range k.n {
		f -= k.here.Reference * p.U[k.u+j] * p.Grad[k.u+i][j]
	}
	if k.problem.Transient {
		f -= k.here.Reference * p.Rate[k.u+i]
	}
	if k.t >= 0 {
		f += (k.now.At(density, q) - k.here.Reference) * k.gravity.At(i, q)
	}
	if k.problem.Round && i == 0 {
		f -= (2*k.rubs(p, q).mu*p.U[k.u]/p.X[0] - p.U[k.p]) / p.X[0]
	}
	if k.again != nil {
		f += k.again.push[i]
	}
	drag, _, _ := k.drag(p, q)
	return f - drag*p.U[k.u+i]
}

// SuppliesIn says that a body flows, and carries heat along.
func (k *Kernel) SuppliesIn(quantity string, body int32) (any, varies bool) {
	b, flows := k.problem.Bodies[body]
	carries := flows && (quantity == couple.VolumeStream || quantity == couple.HeatStream && b.Capacity != nil)
	return carries, carries
}

// Supply adds u, m/s, with which all is carried along, or ρ·c·u, W/(m²·K), by which a slope of the temperature is.
func (k *Kernel) Supply(quantity string, p *fem.Point, j *couple.Jet) {
	if k.now == nil {
		return
	}
	if quantity == couple.VolumeStream {
		for d := range k.n {
			j.Value[d] += p.U[k.u+d]
			j.U[k.u+d][d]++
		}
		return
	}
	rho, c := k.here.Reference, k.now.At(capacity, p.Number)
	for d := range k.n {
		j.Value[d] += rho * c * p.U[k.u+d]
		j.U[k.u+d][d] += rho * c
		if k.varies {
			j.U[k.t][d] += rho * k.now.Slope(capacity, p.Number) * p.U[k.u+d]
		}
	}
}

// SuppliesAt says that nothing is supplied at joints.
func (k *Kernel) SuppliesAt(string, int) (any, varies bool) { return false, false }

// SupplyJoint supplies nothing.
func (k *Kernel) SupplyJoint(string, int, *fem.Point, []float64, *couple.JointJet) error { return nil }

// onSurface computes what there is on surfaces: the friction on them, without what presses, and how fast fluid leaves.
func (k *Kernel) onSurface(p *fem.Point, mu float64, q int, out [][]float64) {
	var f [3]float64
	press := 0.0
	for i := range k.n {
		for j := range k.n {
			f[i] -= mu * (p.Grad[k.u+i][j] + p.Grad[k.u+j][i]) * p.Normal[j]
		}
		press += f[i] * p.Normal[i]
	}
	for i := range k.n {
		f[i] -= press * p.Normal[i]
		out[rubbed+i][q] = f[i]
	}
	// The normal leads out of the fluid: what it rubs lies beyond.
	out[rubbed+3][q], out[leaves][q] = size(f), k.through(p)
}

// Derive computes the derived quantities; outside of what flows there are none.
func (k *Kernel) Derive(points []fem.Point, out [][]float64) error {
	if err := k.Prepare(-1, points); err != nil {
		return err
	}
	for q := range points {
		for d := range derived {
			out[d][q] = 0
		}
		if k.now == nil {
			continue
		}
		p := &points[q]
		var v [3]float64
		for d := range k.n {
			v[d] = p.U[k.u+d]
			out[speed+d][q] = v[d]
		}
		out[speed+3][q], out[pressure][q] = size(v), p.U[k.p]+k.falls(p.X)
		r := k.rubs(p, q)
		rho, mu := k.here.Reference, r.mu
		out[total][q] = out[pressure][q] + rho/2*size(v)*size(v)
		k.onSurface(p, mu, q, out)
		if k.e >= 0 {
			out[units][q] = r.layer.units
			if !r.layer.along {
				out[swirls][q] = max(0, mu/rho-k.now.At(viscosity, q)*k.problem.ease()/rho)
			}
			if k.problem.Energy {
				out[decays][q] = math.Exp(p.U[k.e+1]) / r.layer.away
			}
		}
		square := k.shearSquare(p)
		out[shear][q], out[vortex][q] = math.Sqrt(square), p.Grad[k.u+1][0]-p.Grad[k.u][1]
	}
	return nil
}
