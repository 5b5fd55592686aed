package solid

import (
	"errors"
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// area is that of the facets of a load, m², with their middle, m, and their second moments ∫(|d|²·1 − d·dᵀ) dA about it, m⁴.
type area struct {
	size    float64
	middle  [3]float64
	moments [3][3]float64
}

// areaOf measures facets.
func areaOf(g *couple.Group, facets []int32) (a area, err error) {
	side := g.SideOf()
	var numbers []int32
	for _, f := range facets {
		numbers = append(numbers, int32(side[f]))
	}
	var first [3]float64
	var second [3][3]float64
	err = g.System.EachFace(&fem.State{U: make([]float64, g.System.N)}, numbers, g.Own[0], func(_ int, points []fem.Point, weights []float64, _ []int32, _ [][]float64) error {
		for q, w := range weights {
			x := points[q].X
			a.size += w
			for i := range 3 {
				first[i] += w * x[i]
				for j := range 3 {
					second[i][j] += w * x[i] * x[j]
				}
			}
		}
		return nil
	})
	if err != nil {
		return a, err
	}
	if a.size == 0 {
		return a, errors.New("something acts on a patch without area")
	}
	for i := range 3 {
		a.middle[i] = first[i] / a.size
	}
	trace := 0.0
	for i := range 3 {
		for j := range 3 {
			second[i][j] -= a.size * a.middle[i] * a.middle[j]
		}
		trace += second[i][i]
	}
	for i := range 3 {
		for j := range 3 {
			a.moments[i][j] = -second[i][j]
		}
		a.moments[i][i] += trace
	}
	return a, nil
}

func (k *Kernel) newLoads() (list []*law.Set) {
	for i := range k.problem.Loads {
		list = append(list, law.NewSet(k.problem.Loads[i].Value[:]...))
	}
	return list
}

// names are what values of loads are called.
var names = map[LoadKind]string{Pressure: "pressure", Force: "force", Torque: "torque", Springs: "stiffness of springs", Mass: "attached mass"}

// prepareSide evaluates the laws of all that acts on a side, and of the body behind it.
func (k *Kernel) prepareSide(side int, body int32, points []fem.Point) error {
	for _, n := range k.at[side] {
		set := k.loads[n]
		set.Run(points, k.t)
		for i := range 3 {
			if err := set.Check(i, -1, names[k.problem.Loads[n].Kind], law.NoBound, false); err != nil {
				return err
			}
		}
		if k.problem.Loads[n].Kind == Mass {
			if b, bends := k.problem.Bodies[body]; bends {
				k.enter(body, &b)
				k.now.Run(points, k.t)
			} else {
				k.now = nil
			}
		}
	}
	return nil
}

// pull is the acceleration at a point that is number q of those that were prepared, by the pull that is number at of those
// of the body at hand, with its derivatives by the displacement along each axis, 1/s².
func (k *Kernel) pull(at, q int, p *fem.Point) (f, slope [3]float64) {
	by := &k.problem.Pulls[k.pulls[at]]
	first := pulling + ofPull*at
	for i := range f {
		f[i] = k.part * k.now.At(first+i, q)
	}
	speed := k.now.At(first+3, q)
	if speed == 0 {
		return f, slope
	}
	square := k.part * speed * speed
	// What has moved outward is pulled more: it counts where that is not small beside the shape.
	moves := k.problem.Large || k.stiffened
	for i := range k.n {
		if i == by.Axis {
			continue
		}
		x := p.X[i] - by.Through[i]
		if moves {
			x += p.U[k.u+i]
			slope[i] = square
		}
		f[i] += square * x
	}
	return f, slope
}

// traction is what a load pushes with at a point of a side, N/m² of the shape that nothing has deformed, with its
// derivatives by the displacement, its gradient and the temperature.
type traction struct {
	f, byHeat [3]float64
	byU       [3][3]float64
	byGrad    [3][3][3]float64 // [i][k][L]: ∂f[i]/∂(∂u[k]/∂X[L])
	byRate    float64          // of the inertia of a mass
}

// traction finds that of load n.
func (k *Kernel) traction(n int32, p *fem.Point, t *traction) {
	*t = traction{}
	l, set, a := &k.problem.Loads[n], k.loads[n], &k.areas[n]
	spread := 1.0
	if l.InAll {
		spread = 1 / a.size
	}
	at := func(i int) float64 { return k.part * spread * set.At(i, p.Number) }
	switch l.Kind {
	case Pressure:
		v := at(0)
		for i := range k.n {
			t.f[i], t.byHeat[i] = -v*p.Normal[i], -k.part*spread*set.Slope(0, p.Number)*p.Normal[i]
		}
		if k.problem.Large {
			k.pressing(v, p, t)
		}
	case Force:
		for i := range k.n {
			t.f[i], t.byHeat[i] = at(i), k.part*spread*set.Slope(i, p.Number)
		}
		if l.Follows && k.problem.Large {
			k.following(p, t)
		}
	case Torque:
		inv := a.moments
		if k.n == 2 {
			inv = [3][3]float64{{1, 0, 0}, {0, 1, 0}, {0, 0, a.moments[2][2]}}
		}
		inv = inverse(&inv)
		var b [3]float64
		for i := range 3 {
			for j := range 3 {
				b[i] += inv[i][j] * k.part * set.At(j, p.Number)
			}
		}
		d := [3]float64{p.X[0] - a.middle[0], p.X[1] - a.middle[1], p.X[2] - a.middle[2]}
		t.f = cross(b, d)
	case Springs:
		for i := range k.n {
			stiff := spread * set.At(i, p.Number)
			t.f[i], t.byU[i][i] = -stiff*p.U[k.u+i], -stiff
			t.byHeat[i] = -spread * set.Slope(i, p.Number) * p.U[k.u+i]
		}
	case Mass:
		mass := spread * set.At(0, p.Number)
		for j := range k.pulls {
			f, slope := k.pull(j, p.Number, p)
			for i := range k.n {
				t.f[i] += mass * f[i]
				t.byU[i][i] += mass * slope[i]
			}
		}
		if k.problem.Inertia {
			t.byRate = -mass
			for i := range k.n {
				t.f[i] -= mass * p.Rate[k.u+i]
			}
		}
	}
}

func cross(a, b [3]float64) [3]float64 {
	return [3]float64{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}

// gradient is F at a point of a side. Round the axis it has the stretch there; that across a plane is left at one.
func (k *Kernel) gradient(p *fem.Point) (f [3][3]float64) {
	f = [3][3]float64{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}
	for i := range k.n {
		for j := range k.n {
			f[i][j] += p.Grad[k.u+i][j]
		}
	}
	if k.problem.Form == Round && p.X[0] > 0 {
		f[2][2] += p.U[k.u] / p.X[0]
	}
	return f
}

// signs is the symbol of Levi-Civita.
var signs = func() (e [3][3][3]float64) {
	e[0][1][2], e[1][2][0], e[2][0][1] = 1, 1, 1
	e[0][2][1], e[2][1][0], e[1][0][2] = -1, -1, -1
	return e
}()

// byGradient is the derivative of cof(F)·N by F: out[i][k][L].
func byGradient(f *[3][3]float64, n [3]float64) (out [3][3][3]float64) {
	for i := range 3 {
		for a := range 3 {
			for c := range 3 {
				if signs[i][a][c] == 0 {
					continue
				}
				for j := range 3 {
					if n[j] == 0 {
						continue
					}
					for l := range 3 {
						for m := range 3 {
							out[i][a][l] += signs[i][a][c] * signs[j][l][m] * f[c][m] * n[j]
						}
					}
				}
			}
		}
	}
	return out
}

// pressing lets a pressure act against the deformed surface: −p·cof(F)·N (E. J. Nanson's relation).
func (k *Kernel) pressing(v float64, p *fem.Point, t *traction) {
	f := k.gradient(p)
	c := cofactor(&f)
	by := byGradient(&f, p.Normal)
	heat := 0.0
	for i := range k.n {
		heat += t.byHeat[i] * p.Normal[i]
	}
	for i := range k.n {
		t.f[i], t.byHeat[i] = 0, 0
		for j := range 3 {
			t.f[i] -= v * c[i][j] * p.Normal[j]
			t.byHeat[i] += heat * c[i][j] * p.Normal[j]
		}
		for a := range k.n {
			for l := range k.n {
				t.byGrad[i][a][l] = -v * by[i][a][l]
			}
		}
		if k.problem.Form == Round && p.X[0] > 0 {
			t.byU[i][0] -= v * by[i][2][2] / p.X[0]
		}
	}
}

// following turns a force with the surface: what of it is along the normal stays along that, and what lies in the surface
// goes along with it. Its size stays.
func (k *Kernel) following(p *fem.Point, t *traction) {
	f := k.gradient(p)
	given := t.f
	n := p.Normal
	along := given[0]*n[0] + given[1]*n[1] + given[2]*n[2]
	var in [3]float64 // in the surface
	for i := range in {
		in[i] = given[i] - along*n[i]
	}
	t.f = [3]float64{}
	c := cofactor(&f)
	var a [3]float64
	for i := range 3 {
		for j := range 3 {
			a[i] += c[i][j] * n[j]
		}
	}
	by := byGradient(&f, n)
	k.directed(along, a, func(i, b, l int) float64 { return by[i][b][l] }, t)
	if size := math.Sqrt(in[0]*in[0] + in[1]*in[1] + in[2]*in[2]); size > 0 {
		var b [3]float64
		for i := range 3 {
			for j := range 3 {
				b[i] += f[i][j] * in[j]
			}
		}
		k.directed(size, b, func(i, c, l int) float64 {
			if i == c {
				return in[l]
			}
			return 0
		}, t)
	}
}

// directed adds a force of some size along a vector, whose derivative by F is given.
func (k *Kernel) directed(size float64, a [3]float64, by func(i, b, l int) float64, t *traction) {
	length := math.Sqrt(a[0]*a[0] + a[1]*a[1] + a[2]*a[2])
	if size == 0 || length == 0 {
		return
	}
	for i := range k.n {
		t.f[i] += size * a[i] / length
	}
	slope := func(i, b, l int) float64 {
		var out float64
		for m := range 3 {
			x := -a[i] * a[m] / (length * length)
			if m == i {
				x++
			}
			out += size / length * x * by(m, b, l)
		}
		return out
	}
	for i := range k.n {
		for b := range k.n {
			for l := range k.n {
				t.byGrad[i][b][l] += slope(i, b, l)
			}
		}
	}
}

// Side adds all that acts on a side.
func (k *Kernel) Side(number int, p *fem.Point, t *fem.Terms) error {
	var by traction
	for _, n := range k.at[number] {
		if k.problem.Loads[n].Kind == Mass && k.now == nil {
			continue
		}
		k.traction(n, p, &by)
		for i := range k.n {
			t.Source[k.u+i] -= by.f[i]
			for j := range k.n {
				t.SourceU[t.Index(k.u+i, k.u+j)] -= by.byU[i][j]
				for l := range k.n {
					t.SourceGrad[t.Index(k.u+i, k.u+j)][l] -= by.byGrad[i][j][l]
				}
			}
			t.SourceRate[t.Index(k.u+i, k.u+i)] -= by.byRate
			if k.varies {
				t.SourceU[t.Index(k.u+i, k.t)] -= by.byHeat[i]
			}
		}
	}
	return nil
}
