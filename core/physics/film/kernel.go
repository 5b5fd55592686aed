package film

import (
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// Kernel has the terms of a problem: along the surface, for test functions w,
//
//	∫ ∂((1−v)h)/∂t·w + (h³/(12µ)·∇p − (1−v)h·U)·∇w,
//
// with what is missing to a full gap, v = 1 − θ, and where something is l/(2|U|)·(U·∇w) times what is left of the equation, over the length l of a cell
// along the stream, which keeps what is carried along from swinging from cell to cell; and at each node that of p − p₀ and v both are nothing or
// more and one of them is nothing, as P·v + p − p₀ = √((P·v)² + (p − p₀)²) (A. Fischer, Optimization 24 (1992) 269; T. Woloszynski, P.
// Podsiadlo, G. W. Stachowiak, Tribol. Lett. 58 (2015) 18).
type Kernel struct {
	problem *Problem
	p, t    int     // component of p − p₀, v being the next, and of the temperature, −1 for none
	u, n    int     // first component of the displacement of what bends, −1 for none, and how many there are
	scale   float64 // P, Pa
	facets  []int32 // by side

	sets map[*Film]*law.Set
	film *Film
	now  *law.Set
}

// least is the part of the thickness that is said below which a film counts as that thick: on the way to a load it may seem to be less than
// nothing.
const least = 1e-4

func newKernel(g *couple.Group, problem *Problem, p, t, u, n int) (*Kernel, error) {
	k := &Kernel{problem: problem, p: p, t: t, u: u, n: n, facets: g.Facets, sets: map[*Film]*law.Set{}, scale: 1}
	return k, k.gauge(g)
}

// gauge finds P: about the pressure with which the film would flow as fast as it is carried, or pressed out.
func (k *Kernel) gauge(g *couple.Group) error {
	var most float64
	for _, film := range k.problem.Films {
		var sides []fem.Side
		for _, f := range film.Facets {
			sides = append(sides, g.Side(f, false))
		}
		long := math.Sqrt(g.AreaOf(film.Facets))
		err := g.System.EachSide(&fem.State{U: make([]float64, g.System.N)}, sides, func(_ int, points []fem.Point, _ []float64) error {
			if err := k.prepare(film, points); err != nil {
				return err
			}
			for q := range points {
				h, mu := k.now.At(thickness, q), k.now.At(viscosity, q)
				most = max(most, k.now.At(bears, q)/film.area, 12*mu*long/(h*h)*(k.speed(q, &points[q])+math.Abs(k.now.At(closes, q))*long/h))
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	if most > 0 {
		k.scale = most
	}
	return nil
}

// Fork returns a kernel with work memory of its own.
func (k *Kernel) Fork() fem.Kernel {
	out := *k
	out.sets, out.film, out.now = map[*Film]*law.Set{}, nil, nil
	return &out
}

// Straight says that the equations are not linear.
func (k *Kernel) Straight() bool { return false }

// Symmetric says that the matrix is not symmetric.
func (k *Kernel) Symmetric() bool { return false }

// LinearCells says that there is nothing in cells.
func (k *Kernel) LinearCells(int32) bool { return true }

// LinearSide says where nothing is on a side.
func (k *Kernel) LinearSide(side int) bool { return k.problem.Of[k.facets[side]] == nil }

// LinearJoint says that nothing passes joints.
func (k *Kernel) LinearJoint(int) bool { return true }

// ByValues says that terms on sides need gradients.
func (k *Kernel) ByValues() bool { return false }

// variables by which laws have slopes: the time, and the coordinates, by which the thickness of what is carried has some.
var variables = []int{law.Moment, 1, 2, 3, 4, 5, law.Temperature}

// prepare evaluates the laws of a film at points.
func (k *Kernel) prepare(film *Film, points []fem.Point) error {
	if k.film, k.now = film, k.sets[film]; k.now == nil {
		k.now = law.NewSetBy(variables, film.laws()...)
		k.sets[film] = k.now
	}
	k.now.Run(points, k.t)
	if err := k.now.Check(thickness, -1, "thickness of the film", 0, false); err != nil {
		return err
	}
	if err := k.now.Check(viscosity, -1, "viscosity of the film", 0, false); err != nil {
		return err
	}
	for i := closes; i < slides+3; i++ {
		if err := k.now.Check(i, -1, "what a sentence says of the film", law.NoBound, false); err != nil {
			return err
		}
	}
	return nil
}

// Prepare evaluates the laws at points on a side.
func (k *Kernel) Prepare(side int, points []fem.Point) error {
	k.film = nil
	if side < 0 {
		return nil
	}
	if film := k.problem.Of[k.facets[side]]; film != nil {
		return k.prepare(film, points)
	}
	return nil
}

// Cell adds nothing.
func (k *Kernel) Cell(*fem.Point, *fem.Terms) error { return nil }

// part is the derivative of the thickness by a component, or of its rate by the rate of that, which is the same; its slope along the surface has the
// derivative slope by the value of that component, and bySlope by its slope.
type part struct {
	at      int
	by      float64
	slope   [3]float64
	bySlope float64
}

// gap is the film at a point.
type gap struct {
	h     float64    // m
	by    []part     // of h
	slope [3]float64 // of h along the surface
	rate  float64    // ∂h/∂t, m/s
}

// fine is in what, m, and for a metre of arm, the lift and the tilt are unknown: so small that in no equation of the film they count by more than its
// pressures, beside which these would drown as the matrix is factorised.
const fine = 1e-12

// gapAt is the gap at a point.
func (k *Kernel) gapAt(p *fem.Point) (g gap) {
	q, film := p.Number, k.film
	said := k.now.At(thickness, q)
	g.h, g.rate = said, k.now.SlopeBy(thickness, law.Moment, q)-k.now.At(closes, q)
	r := math.Hypot(p.X[0], p.X[1])
	for d := range g.slope {
		g.slope[d] = k.now.SlopeBy(thickness, 1+d, q)
	}
	if r > 0 {
		byR, byTheta := k.now.SlopeBy(thickness, 4, q), k.now.SlopeBy(thickness, 5, q)
		g.slope[0] += byR*p.X[0]/r - byTheta*p.X[1]/(r*r)
		g.slope[1] += byR*p.X[1]/r + byTheta*p.X[0]/(r*r)
	}
	add := func(c part) {
		g.h += c.by * p.U[c.at]
		g.rate += c.by * p.Rate[c.at]
		for d := range g.slope {
			g.slope[d] += c.slope[d]*p.U[c.at] + c.bySlope*p.Grad[c.at][d]
		}
		g.by = append(g.by, c)
	}
	if film.lift >= 0 {
		add(part{at: k.p + film.lift, by: fine})
	}
	if film.tilt >= 0 {
		for i, axis := range film.axes(p) {
			add(part{at: k.p + film.tilt + i, by: fine * film.arm(p, axis), slope: [3]float64{fine * axis[0], fine * axis[1], fine * axis[2]}})
		}
	}
	if film.Yields && k.u >= 0 {
		for c := range k.n {
			add(part{at: k.u + c, by: -p.Normal[c], bySlope: -p.Normal[c]})
		}
	}
	across := 0.
	for d, n := range p.Normal {
		across += n * g.slope[d]
	}
	for d, n := range p.Normal {
		g.slope[d] -= across * n
	}
	if g.h < least*said {
		g.h, g.by, g.rate = least*said, nil, 0
	}
	return g
}

// axes are the directions along the surface about which arms are taken as the film tilts.
func (f *Film) axes(p *fem.Point) [][3]float64 {
	n := p.Normal
	if f.ways == 1 {
		return [][3]float64{{-n[1], n[0], 0}}
	}
	var a [3]float64 // along the axis to which the normal is least inclined
	d := 0
	for e := range n {
		if math.Abs(n[e]) < math.Abs(n[d])-1e-6 {
			d = e
		}
	}
	size := math.Sqrt(1 - n[d]*n[d])
	for e := range a {
		a[e] = -n[d] * n[e] / size
	}
	a[d] += 1 / size
	return [][3]float64{a, {n[1]*a[2] - n[2]*a[1], n[2]*a[0] - n[0]*a[2], n[0]*a[1] - n[1]*a[0]}}
}

// arm is how far a point is from the place of the load along an axis.
func (f *Film) arm(p *fem.Point, axis [3]float64) (sum float64) {
	for d, a := range axis {
		sum += a * (p.X[d] - f.At[d])
	}
	return sum
}

// walls are the mean of the velocities of both walls along the surface, and how much faster the one that faces it is.
func (k *Kernel) walls(q int, p *fem.Point) (mean, apart [3]float64) {
	for d := range mean {
		a, b := k.now.At(facing+d, q), k.now.At(slides+d, q)
		mean[d], apart[d] = (a+b)/2, a-b
	}
	for _, v := range []*[3]float64{&mean, &apart} {
		across := 0.
		for d, n := range p.Normal {
			across += n * v[d]
		}
		for d, n := range p.Normal {
			v[d] -= across * n
		}
	}
	return mean, apart
}

// speed is the size of the mean velocity.
func (k *Kernel) speed(q int, p *fem.Point) float64 {
	u, _ := k.walls(q, p)
	return size(u)
}

func size(v [3]float64) float64 { return math.Sqrt(v[0]*v[0] + v[1]*v[1] + v[2]*v[2]) }

// state is that of the film at a point: the pressure above that around, and the part of the gap that is filled.
// by is the derivative of the pressure by the unknown.
type state struct{ pressure, filled, by float64 }

func (k *Kernel) state(p *fem.Point) state {
	if k.film.Clipped && p.U[k.p] < 0 {
		return state{k.film.Breaks, 1, 0}
	}
	return state{k.film.Breaks + p.U[k.p], 1 - p.U[k.p+1], 1}
}

// HasCorners says that there is a film on a side.
func (k *Kernel) HasCorners(side int) bool { return k.problem.Of[k.facets[side]] != nil }

// Corner adds that of pressure and what is missing one is nothing, or of a film that never breaks up the latter.
func (k *Kernel) Corner(side int, p *fem.Point, t *fem.Terms) error {
	row := k.p + 1
	over, missing := p.U[k.p]/k.scale, p.U[row]
	if k.problem.Of[k.facets[side]].Whole || max(math.Abs(over), math.Abs(missing)) < blunt { // where nothing is known yet it is whole
		t.Source[row] += missing
		t.SourceU[t.Index(row, row)]++
		return nil
	}
	root := math.Sqrt(over*over + missing*missing + blunt*blunt)
	t.Source[row] += over + missing - root
	t.SourceU[t.Index(row, k.p)] += (1 - over/root) / k.scale
	t.SourceU[t.Index(row, row)] += 1 - missing/root
	return nil
}

// blunt keeps the root from having no slope where both are nothing.
const blunt = 1e-9

// Side adds the terms on a side.
func (k *Kernel) Side(_ int, p *fem.Point, t *fem.Terms) error {
	if k.film == nil {
		return nil
	}
	q, a, v := p.Number, k.p, k.p+1
	aa, av := t.Index(a, a), t.Index(a, v)
	g, at := k.gapAt(p), k.state(p)
	mu := k.now.At(viscosity, q)
	stiffer := math.Exp(k.film.Stiffens * at.pressure)
	mu *= stiffer
	u, _ := k.walls(q, p)
	through := g.h * g.h * g.h / (12 * mu)
	for d, slope := range p.Grad[a] {
		t.Flux[a][d] += through*slope - at.filled*g.h*u[d]
		t.FluxGrad[aa][d][d] += through
		t.FluxU[aa][d] -= through * k.film.Stiffens * slope * at.by
		t.FluxU[av][d] += g.h * u[d]
		for _, c := range g.by {
			t.FluxU[t.Index(a, c.at)][d] += (3*through/g.h*slope - at.filled*u[d]) * c.by
		}
		if k.t >= 0 {
			t.FluxU[t.Index(a, k.t)][d] -= through * slope * k.now.SlopeBy(viscosity, law.Temperature, q) * stiffer / mu
		}
	}
	t.Source[a] += at.filled * g.rate
	t.SourceU[av] -= g.rate
	if k.problem.Transient {
		t.Source[a] -= g.h * p.Rate[v]
		t.SourceRate[av] -= g.h
	}
	for _, c := range g.by {
		t.SourceRate[t.Index(a, c.at)] += at.filled * c.by
		if k.problem.Transient {
			t.SourceU[t.Index(a, c.at)] -= c.by * p.Rate[v]
		}
	}
	if !k.film.Whole {
		k.carry(p, t, &g, u, &at)
	}
	k.load(p, t, &at)
	if k.film.Warms > 0 && k.t >= 0 {
		heat, row := k.heat(p, &g), k.t
		t.Source[row] -= heat.power
		t.SourceU[t.Index(row, v)] -= heat.byVoid
		t.SourceU[t.Index(row, a)] -= heat.byPressure
		t.SourceU[t.Index(row, row)] -= heat.byTemperature
		for d := range p.Grad[a] {
			t.SourceGrad[t.Index(row, a)][d] -= heat.bySlope[d]
		}
		for _, c := range g.by {
			t.SourceU[t.Index(row, c.at)] -= heat.byThickness * c.by
		}
	}
	if k.film.Pushes && k.u >= 0 {
		for c := range k.n {
			t.Source[k.u+c] += at.pressure * p.Normal[c]
			t.SourceU[t.Index(k.u+c, a)] += p.Normal[c] * at.by
		}
	}
	return nil
}

// heat is what the friction of a film brings into the surface on which it lies, W/m², with its derivatives.
type heat struct {
	power, byVoid, byPressure, byTemperature, byThickness float64
	bySlope                                               [3]float64
}

// heat is that at a point: Φ = θµΔU²/h + h³/(12µ)·|∇p|², the part of it that the film warms with.
func (k *Kernel) heat(p *fem.Point, g *gap) (out heat) {
	at := k.state(p)
	_, apart := k.walls(p.Number, p)
	stiffer := math.Exp(k.film.Stiffens * at.pressure)
	mu, byT := k.now.At(viscosity, p.Number)*stiffer, k.now.SlopeBy(viscosity, law.Temperature, p.Number)*stiffer
	square := apart[0]*apart[0] + apart[1]*apart[1] + apart[2]*apart[2]
	slope := p.Grad[k.p]
	steep := slope[0]*slope[0] + slope[1]*slope[1] + slope[2]*slope[2]
	h, part := g.h, k.film.Warms
	shear, flow := mu*square/h, h*h*h/(12*mu)*steep
	out.power = part * (at.filled*shear + flow)
	out.byVoid = -part * shear
	byMu := part * (at.filled*shear - flow) / mu
	out.byTemperature, out.byPressure = byMu*byT, byMu*mu*k.film.Stiffens*at.by
	out.byThickness = part * (3*flow - at.filled*shear) / h
	for d := range slope {
		out.bySlope[d] = part * 2 * h * h * h / (12 * mu) * slope[d]
	}
	return out
}

// carry adds what keeps a film that is broken up from swinging from cell to cell.
func (k *Kernel) carry(p *fem.Point, t *fem.Terms, g *gap, u [3]float64, at *state) {
	metric := p.Metric()
	sum := 0.
	for d := range u {
		for e := range u {
			sum += u[d] * metric[d][e] * u[e]
		}
	}
	a, v := k.p, k.p+1
	if p.U[v] <= 0 || sum == 0 {
		return
	}
	tau := 1 / math.Sqrt(sum) // l/(2|U|), with l = 2|U|/√(U·G·U)
	some, bySome := p.U[v]/(p.U[v]+little), little/((p.U[v]+little)*(p.U[v]+little))
	av := t.Index(a, v)
	residual, byVoid, byRate := at.filled*g.rate, -g.rate, 0.
	for d, slope := range p.Grad[v] {
		residual += u[d] * (at.filled*g.slope[d] - g.h*slope)
		byVoid -= u[d] * g.slope[d]
	}
	if k.problem.Transient {
		residual -= g.h * p.Rate[v]
		byRate = -g.h
	}
	for d := range u {
		along := tau * some * u[d]
		t.Flux[a][d] += along * residual
		t.FluxU[av][d] += along*byVoid + tau*bySome*u[d]*residual
		t.FluxRate[av][d] += along * byRate
		for e := range u {
			t.FluxGrad[av][d][e] -= along * u[e] * g.h
		}
		for _, c := range g.by {
			for e, slope := range p.Grad[v] {
				t.FluxU[t.Index(a, c.at)][d] += along * u[e] * (at.filled*c.slope[e] - slope*c.by)
				t.FluxGrad[t.Index(a, c.at)][d][e] += along * u[e] * at.filled * c.bySlope
			}
			t.FluxRate[t.Index(a, c.at)][d] += along * at.filled * c.by
			if k.problem.Transient {
				t.FluxU[t.Index(a, c.at)][d] -= along * p.Rate[v] * c.by
			}
		}
	}
}

// little is how much has to be missing for most of that to be added.
const little = 1e-3

// load adds that the pressure bears what it has to, and turns nothing.
func (k *Kernel) load(p *fem.Point, t *fem.Terms, at *state) {
	film := k.film
	if film.lift < 0 {
		return
	}
	// The force is an unknown of its own, F, so that F^(−½), which falls with the thickness about evenly, says how far it is from the load.
	row, force, lift, wanted := k.p+film.force, p.U[k.p+film.force], k.p+film.lift, k.now.At(bears, p.Number)
	t.Source[row] += at.pressure - force/film.area
	t.SourceU[t.Index(row, k.p)] += at.by
	t.SourceU[t.Index(row, row)] -= 1 / film.area
	part := force / wanted
	value, slope := 1/math.Sqrt(part)-1, -0.5/(part*math.Sqrt(part))
	switch {
	case k.problem.Transient: // how fast the film becomes thinner follows from the load at once
		value, slope = part-1, 1
	case part < hardlyAny:
		value, slope = (1-0.5*(part/hardlyAny-1))/math.Sqrt(hardlyAny)-1, -0.5/(hardlyAny*math.Sqrt(hardlyAny))
	}
	t.Source[lift] += value
	t.SourceU[t.Index(lift, row)] += slope / wanted
	if film.tilt < 0 {
		return
	}
	for i, axis := range film.axes(p) {
		row, arm := k.p+film.tilt+i, film.arm(p, axis)
		t.Source[row] += at.pressure * arm
		t.SourceU[t.Index(row, k.p)] += arm * at.by
	}
}

// hardlyAny is the part of a load below which that goes on straight.
const hardlyAny = 1e-4

// Accounts are, by film, what pressing it out lets enter.
func (k *Kernel) Accounts() int { return len(k.problem.Films) }

// Sourced says that nothing is in cells.
func (k *Kernel) Sourced() map[int32]bool { return nil }

// Entering adds up by how much the gap becomes smaller, m³/s.
func (k *Kernel) Entering(side int, points []fem.Point, weights, sums []float64) error {
	if err := k.Prepare(side, points); err != nil || k.film == nil {
		return err
	}
	for i, film := range k.problem.Films {
		if film != k.film {
			continue
		}
		for q, w := range weights {
			p := points[q]
			p.Number = q
			g := k.gapAt(&p)
			at := k.state(&p)
			rate := at.filled * g.rate
			if k.problem.Transient {
				rate -= g.h * p.Rate[k.p+1]
			}
			sums[i] -= w * rate
		}
	}
	return nil
}

// Derive computes the pressure above that around, the thickness, the part that is filled, and the friction on the surface.
func (k *Kernel) Derive(points []fem.Point, out [][]float64) error {
	film := k.problem.On[points[0].Part]
	if film == nil {
		for _, list := range out {
			for i := range points {
				list[i] = math.NaN()
			}
		}
		return nil
	}
	own := make([]fem.Point, len(points))
	for i := range points {
		own[i] = points[i]
		own[i].Number = i
	}
	if err := k.prepare(film, own); err != nil {
		return err
	}
	for i := range own {
		p := &own[i]
		g := k.gapAt(p)
		at := k.state(p)
		if out[0][i], out[2][i] = at.pressure, at.filled; math.Abs(at.pressure) < roundOff*k.scale {
			out[0][i] = 0
		}
		out[1][i] = g.h
		on, _ := k.friction(p, &g)
		out[3][i] = size(on)
	}
	return nil
}

// roundOff is the part of P that a pressure is known to at best.
const roundOff = 1e-12

// friction is what the film drags on the surface that it lies on, and on the wall that faces it, Pa.
func (k *Kernel) friction(p *fem.Point, g *gap) (on, beyond [3]float64) {
	at := k.state(p)
	_, apart := k.walls(p.Number, p)
	mu := k.now.At(viscosity, p.Number) * math.Exp(k.film.Stiffens*at.pressure)
	for d := range on {
		shear, slope := at.filled*mu*apart[d]/g.h, at.by*g.h/2*p.Grad[k.p][d]
		on[d], beyond[d] = shear-slope, -shear-slope
	}
	return on, beyond
}
