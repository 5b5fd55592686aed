package magnetic

import (
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/frame"
)

// kernel has the terms of a problem, in sections or in space.
type kernel interface {
	frame.Kernel
	fem.Preparer
	Fork() fem.Kernel
	// stuff is its matter, after it was prepared.
	stuff() *matter
	// state is flux density, T, and field strength, A/m, at prepared point q, with the energy per volume, J/m³.
	state(p *fem.Point, q int) (b, h vector, energy float64)
	// through is the flux between a point and where the potential is nothing, Wb, 0 in space.
	through(p *fem.Point) float64
	// heat is the power per volume that currents turn into heat at prepared point q, W/m³, in the mean over a swing of what alternates.
	heat(p *fem.Point, q int) float64
	// parts are those of which means of squares are sums.
	parts() []part
}

// part is a kernel of a part of the field, with the share of it.
type part struct {
	kernel kernel
	share  float64
}

// section has the terms of a problem in a plane or round an axis.
type section struct {
	*matter
	a      int    // component of the potential
	open   []bool // by side of the group
	step   int    // components from one unknown to the next
	second bool   // the late half of what alternates
}

// newKernel prepares the terms of a problem for component a of a group, with the temperature in component t, −1 if it is not
// known; varies says that it changes while the group is solved.
func newKernel(g *couple.Group, p *Problem, a, t int, varies bool) kernel {
	m := (&matter{problem: p, t: t, varies: varies && t >= 0}).fork()
	open := make([]bool, len(g.Facets))
	side := g.SideOf()
	for _, f := range p.Open {
		open[side[f]] = true
	}
	switch {
	case p.Solid:
		return newSpace(m, a, open)
	case p.Frequency > 0:
		return newAlternating(m, a, open)
	}
	return &section{m, a, open, 1, false}
}

// Fork returns a kernel with work memory of its own.
func (k *section) Fork() fem.Kernel { return &section{k.fork(), k.a, k.open, k.step, k.second} }

func (k *section) stuff() *matter { return k.matter }

// curl is how the flux density follows from the potential and its slopes: B = of·u + by·∇u, and its part of the test functions
// along the current.
type curl struct {
	of   [2]float64
	by   [2][2]float64 // component of B, axis of the slope
	test float64
}

func (k *section) curl(p *fem.Point) curl {
	if r := p.X[0]; k.problem.Round {
		return curl{of: [2]float64{0, 2}, by: [2][2]float64{{0, -r}, {r, 0}}, test: r}
	}
	return curl{by: [2][2]float64{{0, 1}, {-1, 0}}, test: 1}
}

// flux is the flux density at a point by the potential of a component.
func (c *curl) flux(p *fem.Point, a int) (b vector) {
	g := &p.Grad[a]
	for i := range c.of {
		b[i] = c.of[i]*p.U[a] + c.by[i][0]*g[0] + c.by[i][1]*g[1]
	}
	return b
}

func (k *section) state(p *fem.Point, q int) (b, h vector, energy float64) {
	c := k.curl(p)
	b = c.flux(p, k.a)
	h, _, energy = k.strength(p, q, b)
	return b, h, energy
}

// Cell adds the field, the currents of coils and those that it drives.
func (k *section) Cell(p *fem.Point, t *fem.Terms) error {
	a, q, c := k.a, p.Number, k.curl(p)
	h, d, _ := k.strength(p, q, c.flux(p, k.a))
	aa := t.Index(a, a)
	t.Source[a] -= c.test * k.density(q)
	k.drives(p, q, t)
	if k.varies {
		north, relative, _ := k.warmth(p, q)
		nu, at := 1/(Vacuum*k.relative(q)), t.Index(a, k.t)
		for i := range c.of {
			warm := -relative*h[i] - nu*north[i]
			t.SourceU[at] += c.of[i] * warm
			for x := range 2 {
				t.FluxU[at][x] += c.by[i][x] * warm
			}
		}
	}
	for i := range c.of {
		t.Source[a] += c.of[i] * h[i]
		for x := range 2 {
			t.Flux[a][x] += c.by[i][x] * h[i]
		}
		for j := range c.of {
			t.SourceU[aa] += c.of[i] * d[i][j] * c.of[j]
			for x := range 2 {
				t.SourceGrad[aa][x] += c.of[i] * d[i][j] * c.by[j][x]
				t.FluxU[aa][x] += c.by[i][x] * d[i][j] * c.of[j]
				for y := range 2 {
					t.FluxGrad[aa][x][y] += c.by[i][x] * d[i][j] * c.by[j][y]
				}
			}
		}
	}
	return nil
}

// Side adds that beyond an open side the field is that of a dipole in the middle: it falls off with the square of the distance in a
// plane, A along R⁻¹, and with its cube round an axis, u along R⁻³.
func (k *section) Side(number int, p *fem.Point, t *fem.Terms) error {
	if !k.open[number] {
		return nil
	}
	by := k.problem.falls(p) / Vacuum
	if r := p.X[0]; k.problem.Round {
		by = r * (3*r*k.problem.falls(p) - 2*p.Normal[0]) / Vacuum
	}
	t.Source[k.a] += by * p.U[k.a]
	t.SourceU[t.Index(k.a, k.a)] += by
	return nil
}

// falls is n·R/R², 1/m, on a side with the normal n at R from the middle: by how much what goes with 1/R falls off through it.
func (p *Problem) falls(at *fem.Point) float64 {
	var along, square float64
	for i, x := range at.X {
		x -= p.Middle[i]
		along, square = along+x*at.Normal[i], square+x*x
	}
	return along / square
}

// Derive computes the derived quantities.
func (k *section) Derive(points []fem.Point, out [][]float64) error { return derive(k, points, out) }

func derive(k kernel, points []fem.Point, out [][]float64) error {
	if err := k.Prepare(-1, points); err != nil {
		return err
	}
	for i := range points {
		b, h, energy := k.state(&points[i], i)
		density := dot(b, h) - energy
		b, h = k.stuff().meant(points[i].X, b, h)
		for x := range b {
			out[x][i], out[4+x][i] = b[x], h[x]
		}
		out[3][i], out[7][i], out[8][i], out[9][i], out[10][i] = size(b), size(h), k.through(&points[i]), energy, k.heat(&points[i], i)
		out[11][i], out[12][i] = k.stuff().against(&points[i], i, h), k.stuff().atWork(size(b), size(h))
		out[13][i] = density
		if body := k.stuff().body; body != nil && body.Knee > 0 {
			out[14][i] = out[11][i] / body.Knee
		} else {
			out[14][i] = 0
		}
	}
	return nil
}

func (k *section) parts() []part { return []part{{k, 1}} }

func (k *section) heat(p *fem.Point, q int) float64 { return k.warmsBy(p, q) }

func (k *section) through(p *fem.Point) float64 {
	if r := p.X[0]; k.problem.Round {
		return 2 * math.Pi * r * r * p.U[k.a]
	}
	return k.problem.Depth * p.U[k.a]
}
