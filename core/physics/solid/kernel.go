package solid

import (
	"errors"
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// Kernel has the terms of a problem.
type Kernel struct {
	problem *Problem
	u, t    int  // first component of the displacement, and that of the temperature, −1 for none
	n       int  // components of the displacement
	varies  bool // the temperature changes while the displacement is solved for
	at      [][]load

	// Work memory.
	sets   map[int32]*law.Set
	loads  []*law.Set // by pressure and then by force
	area   []float64  // of the forces
	now    *law.Set   // nil in a body that does not bend
	here   *Body
	strain []thermal // by point
	warm   []fem.Point
}

// load is one of the pressures or, behind them, of the forces.
type load struct{ number int }

// thermal is strain by heat with its derivative by the temperature.
type thermal struct{ value, slope float64 }

// Places of the laws of a body in its set.
const (
	modulus = iota
	ratio
	density
	expansion
	share
)

// NewKernel prepares the terms of a problem for the components of a group from u on, with the
// temperature in component t, −1 if it is not solved for; varies says that it changes while the
// group is solved.
func NewKernel(g *couple.Group, p *Problem, u, t int, varies bool) (*Kernel, error) {
	k := &Kernel{problem: p, u: u, t: t, n: p.Form.components(), varies: varies && t >= 0, at: make([][]load, len(g.Facets)), sets: map[int32]*law.Set{}}
	side := g.SideOf()
	act := func(facets []int32) {
		for _, f := range facets {
			k.at[side[f]] = append(k.at[side[f]], load{len(k.area)})
		}
		k.area = append(k.area, g.AreaOf(facets))
	}
	for _, q := range p.Pressures {
		act(q.Facets)
	}
	for _, f := range p.Forces {
		act(f.Facets)
	}
	for _, a := range k.area {
		if a == 0 {
			return nil, errors.New("a force acts on a patch without area")
		}
	}
	k.loads = k.newLoads()
	return k, nil
}

func (k *Kernel) newLoads() (list []*law.Set) {
	for _, q := range k.problem.Pressures {
		list = append(list, law.NewSet(q.Value))
	}
	for _, f := range k.problem.Forces {
		list = append(list, law.NewSet(f.Total[:]...))
	}
	return list
}

// Fork returns a kernel with work memory of its own.
func (k *Kernel) Fork() fem.Kernel {
	out := *k
	out.sets, out.loads = map[int32]*law.Set{}, k.newLoads()
	out.strain, out.warm = nil, nil
	return &out
}

func uses(l Law) bool { return l != nil && l.Uses(law.Temperature) }

// Straight says that the equations are linear.
func (k *Kernel) Straight() bool {
	for b := range k.problem.Bodies {
		if !k.LinearCells(b) {
			return false
		}
	}
	for number := range k.at {
		if !k.LinearSide(number) {
			return false
		}
	}
	return true
}

// LinearCells says that the terms of a body are linear.
func (k *Kernel) LinearCells(body int32) bool {
	b, bends := k.problem.Bodies[body]
	return !k.varies || !bends || b.Expansion == nil && !uses(b.Modulus) && !uses(b.Ratio)
}

// LinearSide says that what acts on a side does not depend on the fields.
func (k *Kernel) LinearSide(number int) bool {
	for _, l := range k.at[number] {
		if k.varies && l.number < len(k.problem.Pressures) && uses(k.problem.Pressures[l.number].Value) {
			return false
		}
	}
	return true
}

// LinearJoint says that nothing passes joints.
func (k *Kernel) LinearJoint(int) bool { return true }

// ByValues says that terms on sides need no gradients.
func (k *Kernel) ByValues() bool { return true }

// Symmetric says that the matrix of the equations is symmetric.
func (k *Kernel) Symmetric() bool { return !k.varies }

// Prepare evaluates all laws at some points of a body or on a side.
func (k *Kernel) Prepare(side int, points []fem.Point) error {
	if side >= 0 {
		for _, l := range k.at[side] {
			set := k.loads[l.number]
			set.Run(points, k.t)
			for i := range 3 {
				if what, count := k.what(l); i < count {
					if err := set.Check(i, -1, what, law.NoBound, false); err != nil {
						return err
					}
				}
			}
		}
		return nil
	}
	body := points[0].Part
	b, bends := k.problem.Bodies[body]
	if !bends {
		k.now = nil
		return nil
	}
	k.here = &b
	if k.now = k.sets[body]; k.now == nil {
		k.now = law.NewSet(b.Modulus, b.Ratio, b.Density, b.Expansion, b.share)
		k.sets[body] = k.now
	}
	if err := k.heated(points); err != nil {
		return err
	}
	k.now.Run(points, k.t)
	return errors.Join(k.now.Check(modulus, body, "Young's modulus", 0, false), k.now.Check(ratio, body, "Poisson's ratio", -1, false),
		k.now.CheckMost(ratio, body, "Poisson's ratio", mostRatio))
}

// mostRatio is where displacements alone begin to lock: at 1/2 the volume cannot change.
const mostRatio = 0.4995

func (k *Kernel) what(l load) (string, int) {
	if l.number < len(k.problem.Pressures) {
		return "pressure", 1
	}
	return "force", 3
}

// heated finds the strain by heat at points: the integral of the expansion from the temperature
// without stress, by the rule of Gauss with as many points as this.
const heatPoints = 3

var gauss = [heatPoints][2]float64{{0.5 - 0.3872983346207417, 5. / 18}, {0.5, 8. / 18}, {0.5 + 0.3872983346207417, 5. / 18}}

func (k *Kernel) heated(points []fem.Point) error {
	for len(k.strain) < len(points) {
		k.strain = append(k.strain, thermal{})
	}
	clear(k.strain)
	if k.here.Expansion == nil || k.t < 0 {
		return nil
	}
	for len(k.warm) < len(points) {
		k.warm = append(k.warm, fem.Point{U: make([]float64, len(points[0].U))})
	}
	warm := k.warm[:len(points)]
	for _, g := range gauss {
		for i := range points {
			p := &points[i]
			warm[i].Part, warm[i].X, warm[i].Time = p.Part, p.X, p.Time
			warm[i].U[k.t] = k.here.Free + g[0]*(p.U[k.t]-k.here.Free)
		}
		k.now.Run(warm, k.t)
		if err := k.now.Check(expansion, points[0].Part, "thermal expansion", law.NoBound, false); err != nil {
			return err
		}
		for i := range points {
			k.strain[i].value += g[1] * (points[i].U[k.t] - k.here.Free) * k.now.At(expansion, i)
		}
	}
	k.now.Run(points, k.t)
	for i := range points {
		k.strain[i].slope = k.now.At(expansion, i)
	}
	return nil
}

// lame are Lamé's constants, with the first one that couples the strains within the plane where
// nothing pushes across it, and their derivatives by the temperature.
type lame struct{ lambda, mu, lambdaSlope, muSlope float64 }

func (k *Kernel) lame(q int) (l lame) {
	e, nu := k.now.At(modulus, q), k.now.At(ratio, q)
	if k.here.share != nil {
		e *= k.now.At(share, q)
	}
	eSlope, nuSlope := k.now.Slope(modulus, q), k.now.Slope(ratio, q)
	l.mu = e / (2 * (1 + nu))
	l.muSlope = eSlope/(2*(1+nu)) - l.mu*nuSlope/(1+nu)
	if k.problem.Form == Stress {
		l.lambda = e * nu / (1 - nu*nu)
		l.lambdaSlope = eSlope*nu/(1-nu*nu) + e*nuSlope*(1+nu*nu)/((1-nu*nu)*(1-nu*nu))
		return l
	}
	d := (1 + nu) * (1 - 2*nu)
	l.lambda = e * nu / d
	l.lambdaSlope = eSlope*nu/d + e*nuSlope*(1+2*nu*nu)/(d*d)
	return l
}

// strains are the elastic ones at a point: xx, yy, zz, and xy, yz, zx without the factor two.
func (k *Kernel) strains(p *fem.Point) (e [6]float64) {
	u := k.u
	e[0], e[1] = p.Grad[u][0], p.Grad[u+1][1]
	e[3] = (p.Grad[u][1] + p.Grad[u+1][0]) / 2
	heat := k.strain[p.Number].value
	switch k.problem.Form {
	case Space:
		e[2] = p.Grad[u+2][2]
		e[4], e[5] = (p.Grad[u+1][2]+p.Grad[u+2][1])/2, (p.Grad[u+2][0]+p.Grad[u][2])/2
	case Round:
		e[2] = p.U[u] / p.X[0]
	case Stress:
		e[0], e[1] = e[0]-heat, e[1]-heat
		return e // what it is across the plane follows from there being no stress
	}
	for i := range 3 {
		e[i] -= heat
	}
	return e
}

// stresses at a point, in the order of strains.
func (l *lame) stresses(e [6]float64, form Form) (s [6]float64) {
	trace := l.lambda * (e[0] + e[1] + e[2])
	for i := range s {
		s[i] = 2 * l.mu * e[i]
	}
	s[0], s[1] = s[0]+trace, s[1]+trace
	if form != Stress {
		s[2] += trace
	}
	return s
}

// place of component i, j among six.
var place = [3][3]int{{0, 3, 5}, {3, 1, 4}, {5, 4, 2}}

// Cell adds the stress, and inertia.
func (k *Kernel) Cell(p *fem.Point, t *fem.Terms) error {
	if k.now == nil {
		return nil
	}
	l := k.lame(p.Number)
	e := k.strains(p)
	s := l.stresses(e, k.problem.Form)
	n, u := k.n, k.u
	for i := range n {
		for j := range n {
			t.Flux[u+i][j] += s[place[i][j]]
			// By the gradient of component j.
			m := &t.FluxGrad[t.Index(u+i, u+j)]
			m[i][j] += l.lambda
			m[j][i] += l.mu
			if i == j {
				for d := range n {
					m[d][d] += l.mu
				}
			}
		}
	}
	if k.problem.Form == Round {
		k.hoop(p, t, &l, s[2])
	}
	if k.varies {
		k.byTemperature(p, t, &l, e)
	}
	if k.problem.Inertia {
		rho := k.now.At(density, p.Number)
		for i := range n {
			t.Source[u+i] += rho * p.Rate[u+i]
			t.SourceRate[t.Index(u+i, u+i)] += rho
		}
	}
	return nil
}

// hoop adds what stretches round the axis.
func (k *Kernel) hoop(p *fem.Point, t *fem.Terms, l *lame, s float64) {
	u, r := k.u, p.X[0]
	t.Source[u] += s / r
	t.SourceU[t.Index(u, u)] += (l.lambda + 2*l.mu) / (r * r)
	for j := range 2 {
		t.SourceGrad[t.Index(u, u+j)][j] += l.lambda / r
		t.FluxU[t.Index(u+j, u)][j] += l.lambda / r
	}
}

// byTemperature adds the derivatives by the temperature.
func (k *Kernel) byTemperature(p *fem.Point, t *fem.Terms, l *lame, e [6]float64) {
	slope := k.strain[p.Number].slope
	by := (&lame{lambda: l.lambdaSlope, mu: l.muSlope}).stresses(e, k.problem.Form)
	across := 3.
	if k.problem.Form == Stress {
		across = 2
	}
	for i := range 3 {
		by[i] -= (across*l.lambda + 2*l.mu) * slope
	}
	for i := range k.n {
		for j := range k.n {
			t.FluxU[t.Index(k.u+i, k.t)][j] += by[place[i][j]]
		}
	}
	if k.problem.Form == Round {
		t.SourceU[t.Index(k.u, k.t)] += by[2] / p.X[0]
	}
}

// traction is what a load pushes with at a point of a side, N/m², with the derivative of its
// size along the outside by the temperature.
func (k *Kernel) traction(l load, p *fem.Point) (f [3]float64, slope float64) {
	set := k.loads[l.number]
	if l.number < len(k.problem.Pressures) {
		for i := range f {
			f[i] = -set.At(0, p.Number) * p.Normal[i]
		}
		return f, -set.Slope(0, p.Number)
	}
	for i := range f {
		f[i] = set.At(i, p.Number) / k.area[l.number]
	}
	return f, 0
}

// Side adds pressures and forces.
func (k *Kernel) Side(number int, p *fem.Point, t *fem.Terms) error {
	for _, l := range k.at[number] {
		f, slope := k.traction(l, p)
		for i := range k.n {
			t.Source[k.u+i] -= f[i]
			if k.varies && slope != 0 {
				t.SourceU[t.Index(k.u+i, k.t)] -= slope * p.Normal[i]
			}
		}
	}
	return nil
}

// Loss has the stiffness times the loss factors, nil if there are none.
func (k *Kernel) Loss() fem.Kernel {
	lossy := *k.problem
	lossy.Bodies, lossy.Pressures, lossy.Forces, lossy.Inertia = map[int32]Body{}, nil, nil, false
	for b, body := range k.problem.Bodies {
		if body.Loss != nil {
			lossy.Bodies[b] = Body{Modulus: body.Modulus, Ratio: body.Ratio, share: body.Loss}
		}
	}
	if len(lossy.Bodies) == 0 {
		return nil
	}
	out := *k
	out.problem, out.at, out.sets, out.loads, out.area = &lossy, make([][]load, len(k.at)), map[int32]*law.Set{}, nil, nil
	return &out
}

// Accounts are, by direction, the pressures and then the forces.
func (k *Kernel) Accounts() int { return k.n * len(k.area) }

// Sourced says that no body is a source of force.
func (k *Kernel) Sourced() map[int32]bool { return nil }

// Entering adds up what each load pushes with along each direction, N.
func (k *Kernel) Entering(side int, points []fem.Point, weights, sums []float64) error {
	if err := k.Prepare(side, points); err != nil {
		return err
	}
	for _, l := range k.at[side] {
		for q, w := range weights {
			f, _ := k.traction(l, &points[q])
			for i := range k.n {
				sums[i*len(k.area)+l.number] += w * f[i]
			}
		}
	}
	return nil
}

// Scale is the force by which the bodies are pulled together and apart, N: their stress over a
// section of about their size. Sums of forces are held against it.
func (k *Kernel) Scale(s *couple.Solution) (float64, error) {
	bodies := map[int32]bool{}
	for b := range k.problem.Bodies {
		bodies[b] = true
	}
	var sum float64
	least, most := [3]float64{math.Inf(1), math.Inf(1), math.Inf(1)}, [3]float64{math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	err := s.System.EachCell(s.State, bodies, func(points []fem.Point, weights []float64) error {
		if err := k.Prepare(-1, points); err != nil {
			return err
		}
		for i, w := range weights {
			p := &points[i]
			l := k.lame(i)
			v := l.stresses(k.strains(p), k.problem.Form)
			sum += w * math.Sqrt(v[0]*v[0]+v[1]*v[1]+v[2]*v[2]+2*(v[3]*v[3]+v[4]*v[4]+v[5]*v[5]))
			for d, x := range p.X {
				least[d], most[d] = min(least[d], x), max(most[d], x)
			}
		}
		return nil
	})
	size := max(most[0]-least[0], most[1]-least[1], most[2]-least[2])
	if err != nil || sum == 0 || size == 0 {
		return 0, err
	}
	return sum / size, nil
}

// Derive computes the derived quantities; outside of what bends there are none.
func (k *Kernel) Derive(points []fem.Point, out [][]float64) error {
	if err := k.Prepare(-1, points); err != nil {
		return err
	}
	for i := range points {
		for d := range derived {
			out[d][i] = 0
		}
		if k.now == nil {
			continue
		}
		p := &points[i]
		var square float64
		for d := range k.n {
			v := p.U[k.u+d]
			out[displacement+d][i] = v
			square += v * v
		}
		out[displacement+3][i] = math.Sqrt(square)
		// Points need not be those that were numbered together.
		at := *p
		at.Number = i
		l := k.lame(i)
		s := l.stresses(k.strains(&at), k.problem.Form)
		for d, v := range s {
			out[stress+d][i] = v
		}
		out[mises][i] = vonMises(s)
		for d, v := range principals(s) {
			out[principal+d][i] = v
		}
	}
	return nil
}

// invariants are those of stresses that were smoothed by components.
func invariants(values [][]float64) {
	for i := range values[stress] {
		var s [6]float64
		for d := range s {
			s[d] = values[stress+d][i]
		}
		values[mises][i] = vonMises(s)
		for d, v := range principals(s) {
			values[principal+d][i] = v
		}
	}
}

// vonMises is the equivalent stress.
func vonMises(s [6]float64) float64 {
	a, b, c := s[0]-s[1], s[1]-s[2], s[2]-s[0]
	return math.Sqrt((a*a+b*b+c*c)/2 + 3*(s[3]*s[3]+s[4]*s[4]+s[5]*s[5]))
}

// principals are the principal stresses, the greatest first, as the roots of the characteristic
// polynomial by the cosine of a third of an angle (O. K. Smith, Comm. ACM 4 (1961) 168).
func principals(s [6]float64) [3]float64 {
	mean := (s[0] + s[1] + s[2]) / 3
	a, b, c := s[0]-mean, s[1]-mean, s[2]-mean
	p := math.Sqrt((a*a + b*b + c*c + 2*(s[3]*s[3]+s[4]*s[4]+s[5]*s[5])) / 6)
	if p <= 1e-14*math.Abs(mean) || p == 0 {
		return [3]float64{mean, mean, mean}
	}
	det := (a*(b*c-s[4]*s[4]) - s[3]*(s[3]*c-s[4]*s[5]) + s[5]*(s[3]*s[4]-b*s[5])) / (2 * p * p * p)
	angle := math.Acos(min(1, max(-1, det))) / 3
	first := mean + 2*p*math.Cos(angle)
	third := mean + 2*p*math.Cos(angle+2*math.Pi/3)
	return [3]float64{first, 3*mean - first - third, third}
}

// Gains is how fast the momentum of the bodies grows, N.
func (k *Kernel) Gains(s *couple.Solution) ([]float64, error) {
	sum := make([]float64, k.n)
	own := k.Fork().(*Kernel)
	err := s.System.EachCell(s.State, nil, func(points []fem.Point, weights []float64) error {
		if _, bends := k.problem.Bodies[points[0].Part]; !bends {
			return nil
		}
		if err := own.Prepare(-1, points); err != nil {
			return err
		}
		for q, w := range weights {
			for i := range sum {
				sum[i] += w * own.now.At(density, q) * points[q].Rate[k.u+i]
			}
		}
		return nil
	})
	return sum, err
}
