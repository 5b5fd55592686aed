package solid

import (
	"errors"
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/law"
)

// Kernel has the terms of a problem.
type Kernel struct {
	problem *Problem
	u, t    int  // first component of the displacement, and that of the temperature, −1 for none
	pi      int  // component of the pressure that keeps volumes, −1 for none
	n       int  // components of the displacement
	varies  bool // the temperature changes while the displacement is solved for
	heats   bool // derivatives by the temperature are wanted
	at      [][]int32
	areas   []area
	part    float64 // of all loads that acts
	grads   bool    // terms on sides need gradients
	// stiffened adds what the stress at hand does to a small change beside it.
	stiffened bool

	// Work memory.
	sets   map[int32]*law.Set
	loads  []*law.Set
	now    *law.Set // nil in a body that does not bend
	here   *Body
	body   int32
	pulls  []int32 // of the body at hand
	turn   turning
	strain []thermal // by point
	warm   []fem.Point
}

// thermal is strain by heat with its derivative by the temperature.
type thermal struct{ value, slope [6]float64 }

// Places of the laws of a body in its set. Behind them are those of its pulls.
const (
	modulus   = 0 // along x, y, z
	ratio     = 3 // of xy, yz, xz
	shear     = 6
	density   = 9
	expansion = 10
	share     = 13
	mooney    = 14
	initial   = 16
	drags     = 22
	pulling   = 23
	ofPull    = 4 // laws of a pull
)

// Components are those of a group in which a kernel works: the first of the displacement, that of the pressure that keeps
// volumes and that of the temperature, −1 for one that is not solved for.
type Components struct{ Displacement, Pressure, Temperature int }

// NewKernel prepares the terms of a problem; varies says that the temperature changes while the group is solved.
func NewKernel(g *couple.Group, p *Problem, c Components, varies bool) (*Kernel, error) {
	k := &Kernel{problem: p, u: c.Displacement, t: c.Temperature, pi: c.Pressure, n: p.Form.components(), varies: varies && c.Temperature >= 0, part: 1, at: make([][]int32, len(g.Facets)), sets: map[int32]*law.Set{}}
	k.heats = k.varies
	side := g.SideOf()
	for i := range p.Loads {
		l := &p.Loads[i]
		for _, f := range l.Facets {
			k.at[side[f]] = append(k.at[side[f]], int32(i))
		}
		a, err := areaOf(g, l.Facets)
		if err != nil {
			return nil, err
		}
		k.areas = append(k.areas, a)
		k.grads = k.grads || p.Large && (l.Kind == Pressure || l.Follows)
	}
	k.loads = k.newLoads()
	return k, nil
}

// Fork returns a kernel with work memory of its own.
func (k *Kernel) Fork() fem.Kernel {
	out := *k
	out.sets, out.loads = map[int32]*law.Set{}, k.newLoads()
	out.strain, out.warm, out.pulls = nil, nil, nil
	return &out
}

func uses(laws ...Law) bool {
	for _, l := range laws {
		if l != nil && l.Uses(law.Temperature) {
			return true
		}
	}
	return false
}

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
	if !bends {
		return true
	}
	return !k.problem.Large && !(k.varies && (b.expands() || uses(b.Modulus[:]...) || uses(b.Ratio[:]...) || uses(b.Shear[:]...) || uses(b.Mooney[:]...)))
}

// LinearSide says that what acts on a side does not depend on the fields but in a straight way.
func (k *Kernel) LinearSide(number int) bool {
	for _, i := range k.at[number] {
		l := &k.problem.Loads[i]
		if k.problem.Large && (l.Kind == Pressure || l.Follows) || k.varies && uses(l.Value[:]...) {
			return false
		}
	}
	return true
}

// LinearJoint says that nothing passes joints.
func (k *Kernel) LinearJoint(int) bool { return true }

// ByValues says that terms on sides need no gradients.
func (k *Kernel) ByValues() bool { return !k.grads }

// Symmetric says that the matrix of the equations is symmetric. What turns with a surface makes it a little less so.
func (k *Kernel) Symmetric() bool { return !k.varies && !k.grads }

// Stiffen adds to the tangent of small deformation what the stress at hand does to what is small beside it: a string that
// is pulled sounds higher.
func (k *Kernel) Stiffen(on bool) { k.stiffened = on }

// Ramp lets a part of all loads act.
func (k *Kernel) Ramp(part float64) { k.part = part }

// Prepare evaluates all laws at some points of a body or on a side.
func (k *Kernel) Prepare(side int, points []fem.Point) error {
	if len(points) == 0 {
		return nil
	}
	body := points[0].Part
	b, bends := k.problem.Bodies[body]
	if side >= 0 {
		return k.prepareSide(side, body, points)
	}
	if !bends {
		k.now = nil
		return nil
	}
	k.enter(body, &b)
	if err := k.heated(points); err != nil {
		return err
	}
	k.now.Run(points, k.t)
	if b.Rubber && b.Mooney[0] != nil {
		return k.now.Check(mooney, body, "first constant of Mooney and Rivlin", 0, false)
	}
	if err := errors.Join(k.now.Check(modulus, body, "Young's modulus", 0, false), k.now.Check(ratio, body, "Poisson's ratio", -1, false)); err != nil {
		return err
	}
	if b.Rubber {
		return nil
	}
	return k.now.CheckMost(ratio, body, "Poisson's ratio", mostRatio)
}

// enter makes the laws of a body those at hand.
func (k *Kernel) enter(body int32, b *Body) {
	k.here, k.body, k.pulls = b, body, k.pulls[:0]
	for i := range k.problem.Pulls {
		if k.problem.Pulls[i].Bodies[body] {
			k.pulls = append(k.pulls, int32(i))
		}
	}
	if b.Turn != 0 {
		k.turn = newTurning(math.Cos(b.Turn), math.Sin(b.Turn))
	}
	if k.now = k.sets[body]; k.now != nil {
		return
	}
	var laws []Law
	for _, list := range [][]Law{b.Modulus[:], b.Ratio[:], b.Shear[:], {b.Density}, b.Expansion[:], {b.share}, b.Mooney[:], b.Initial[:], {b.drags}} {
		laws = append(laws, list...)
	}
	for _, i := range k.pulls {
		p := &k.problem.Pulls[i]
		laws = append(append(laws, p.Acceleration[:]...), p.Spin)
	}
	k.now = law.NewSet(laws...)
	k.sets[body] = k.now
}

// mostRatio is where displacements alone begin to lock: at 1/2 the volume cannot change.
const mostRatio = 0.4995

// heated finds the strain by heat at points: the integral of the expansion from the temperature
// without stress, by the rule of Gauss with as many points as this.
const heatPoints = 3

var gauss = [heatPoints][2]float64{{0.5 - 0.3872983346207417, 5. / 18}, {0.5, 8. / 18}, {0.5 + 0.3872983346207417, 5. / 18}}

func (k *Kernel) heated(points []fem.Point) error {
	for len(k.strain) < len(points) {
		k.strain = append(k.strain, thermal{})
	}
	clear(k.strain)
	if !k.here.expands() || k.t < 0 {
		return nil
	}
	for len(k.warm) < len(points) {
		k.warm = append(k.warm, fem.Point{U: make([]float64, len(points[0].U))})
	}
	warm := k.warm[:len(points)]
	// Along the axes of the body; where one is not given it is as along the first.
	at := func(axis, i int) float64 {
		if k.here.Expansion[axis] == nil {
			axis = 0
		}
		return k.now.At(expansion+axis, i)
	}
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
			for axis := range 3 {
				k.strain[i].value[axis] += k.part * g[1] * (points[i].U[k.t] - k.here.Free) * at(axis, i)
			}
		}
	}
	k.now.Run(points, k.t)
	for i := range points {
		s := &k.strain[i]
		for axis := range 3 {
			s.slope[axis] = k.part * at(axis, i)
		}
		if k.here.Turn != 0 {
			s.value, s.slope = k.turn.tensor(&s.value), k.turn.tensor(&s.slope)
		}
	}
	return nil
}

// Cell adds the stress, what pulls each mass, and inertia.
func (k *Kernel) Cell(p *fem.Point, t *fem.Terms) error {
	if k.now == nil {
		return nil
	}
	var at strained
	if err := k.strained(p, p.Number, &at); err != nil {
		return err
	}
	k.stressTerms(p, &at, t)
	if at.mixed {
		k.volumeTerms(p, &at, t)
	}
	rho := 0.0
	if len(k.pulls) > 0 || k.problem.Inertia || k.here.drags != nil {
		rho = k.now.At(density, p.Number)
	}
	if k.here.drags != nil {
		for i := range k.n {
			t.SourceU[t.Index(k.u+i, k.u+i)] += rho * k.now.At(drags, p.Number)
		}
	}
	for at := range k.pulls {
		f, slope := k.pull(at, p.Number, p)
		for i := range k.n {
			t.Source[k.u+i] -= rho * f[i]
			t.SourceU[t.Index(k.u+i, k.u+i)] -= rho * slope[i]
		}
	}
	if k.problem.Inertia {
		for i := range k.n {
			t.Source[k.u+i] += rho * p.Rate[k.u+i]
			t.SourceRate[t.Index(k.u+i, k.u+i)] += rho
		}
	}
	return nil
}

// stressTerms adds the flux P and its derivatives by the gradients,
//
//	∂P[i][J]/∂F[k][L] = δ[i][k]·S[J][L] + F[i][M]·C[M][J][N][L]·F[k][N].
func (k *Kernel) stressTerms(p *fem.Point, at *strained, t *fem.Terms) {
	n, u := k.n, k.u
	if !k.problem.Large {
		for i := range n {
			for j := range n {
				t.Flux[u+i][j] += at.s[place[i][j]]
				m := &t.FluxGrad[t.Index(u+i, u+j)]
				for a := range n {
					row := &at.d[place[i][a]]
					for b := range n {
						m[a][b] += row[place[j][b]]
					}
				}
			}
		}
		if k.stiffened {
			for i := range n {
				m := &t.FluxGrad[t.Index(u+i, u+i)]
				for a := range n {
					for b := range n {
						m[a][b] += at.s[place[a][b]]
					}
				}
			}
		}
		if k.heats {
			for i := range n {
				for j := range n {
					t.FluxU[t.Index(u+i, k.t)][j] += at.byHeat[place[i][j]]
				}
			}
		}
		if k.problem.Form == Round {
			k.hoop(p, t, &at.d, nil, at.s[2], at.byHeat[2], at)
		}
		return
	}
	f := &at.f
	var first [3][3]float64 // P
	for i := range 3 {
		for j := range 3 {
			for m := range 3 {
				first[i][j] += f[i][m] * at.s[place[m][j]]
			}
		}
	}
	// half[i][J][N][L] = F[i][M]·C[M][J][N][L]
	var half [3][3][6]float64
	for i := range 3 {
		for j := range 3 {
			h := &half[i][j]
			for m := range 3 {
				if x := f[i][m]; x != 0 {
					row := &at.d[place[m][j]]
					for c := range h {
						h[c] += x * row[c]
					}
				}
			}
		}
	}
	whole := func(i, j, a, b int) float64 { // ∂P[i][j]/∂F[a][b]
		h := &half[i][j]
		x := h[place[0][b]]*f[a][0] + h[place[1][b]]*f[a][1] + h[place[2][b]]*f[a][2]
		if i == a {
			x += at.s[place[j][b]]
		}
		return x
	}
	for i := range n {
		for j := range n {
			t.Flux[u+i][j] += first[i][j]
			m := &t.FluxGrad[t.Index(u+i, u+j)]
			for a := range n {
				for b := range n {
					m[a][b] += whole(i, a, j, b)
				}
			}
		}
	}
	if k.heats {
		for i := range n {
			for j := range n {
				for m := range 3 {
					t.FluxU[t.Index(u+i, k.t)][j] += f[i][m] * at.byHeat[place[m][j]]
				}
			}
		}
	}
	if k.problem.Form == Round {
		k.hoop(p, t, nil, whole, first[2][2], f[2][2]*at.byHeat[2], at)
	}
}

// hoop adds what stretches round the axis: s by u/r, with the stiffness d or with what far deformation has for it.
func (k *Kernel) hoop(p *fem.Point, t *fem.Terms, d *stiffness, far func(i, j, a, b int) float64, s, byHeat float64, at *strained) {
	u, r := k.u, p.X[0]
	by := far
	if far == nil {
		by = func(i, j, a, b int) float64 { return d[place[i][j]][place[a][b]] }
	}
	t.Source[u] += s / r
	t.SourceU[t.Index(u, u)] += by(2, 2, 2, 2) / (r * r)
	if far == nil && k.stiffened {
		t.SourceU[t.Index(u, u)] += s / (r * r)
	}
	for j := range 2 {
		for b := range 2 {
			t.SourceGrad[t.Index(u, u+j)][b] += by(2, 2, j, b) / r
			t.FluxU[t.Index(u+j, u)][b] += by(j, b, 2, 2) / r
		}
	}
	if k.heats {
		t.SourceU[t.Index(u, k.t)] += byHeat / r
	}
}

// volumeTerms adds the equation of the pressure that keeps volumes, and what that changes of the stress.
func (k *Kernel) volumeTerms(p *fem.Point, at *strained, t *fem.Terms) {
	u, pi := k.u, k.pi
	t.Source[pi] += at.excess
	t.SourceU[t.Index(pi, pi)] -= at.yield
	c := &at.cofactor
	for i := range k.n {
		for j := range k.n {
			t.FluxU[t.Index(u+i, pi)][j] += c[i][j]
			t.SourceGrad[t.Index(pi, u+i)][j] += c[i][j]
		}
	}
	if k.problem.Form == Round {
		t.SourceU[t.Index(u, pi)] += c[2][2] / p.X[0]
		t.SourceU[t.Index(pi, u)] += c[2][2] / p.X[0]
	}
	if k.heats {
		t.SourceU[t.Index(pi, k.t)] += at.excessByHeat
	}
}

// Loss has the stiffness times the loss factors, nil if there are none.
func (k *Kernel) Loss() fem.Kernel {
	return k.only(func(b *Body) (Law, Law) { return b.Loss, nil })
}

// Dying has what makes swings die away as fast as they go: the stiffness and the mass, each times its factor, nil if there
// is nothing of that.
func (k *Kernel) Dying() fem.Kernel {
	return k.only(func(b *Body) (Law, Law) { return b.Dying[1], b.Dying[0] })
}

// only is a kernel of the stiffness times a factor of the bodies, with their mass times another one as a stiffness, nil
// if there is none.
func (k *Kernel) only(of func(b *Body) (stiff, massive Law)) fem.Kernel {
	some := *k.problem
	some.Bodies, some.Loads, some.Pulls, some.Inertia = map[int32]Body{}, nil, nil, false
	for n, b := range k.problem.Bodies {
		stiff, massive := of(&b)
		if stiff == nil && massive == nil {
			continue
		}
		b.Expansion, b.Initial, b.Loss, b.Dying = [3]Law{}, [6]Law{}, nil, [2]Law{}
		if b.share, b.drags = stiff, massive; stiff == nil {
			b.share = formula.Fixed(0)
		}
		some.Bodies[n] = b
	}
	if len(some.Bodies) == 0 {
		return nil
	}
	out := *k
	out.problem, out.at, out.sets, out.loads, out.areas = &some, make([][]int32, len(k.at)), map[int32]*law.Set{}, nil, nil
	return &out
}
