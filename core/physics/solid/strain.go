package solid

import (
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// strained is a material at a point.
type strained struct {
	f [3][3]float64 // deformation gradient; 1 where deformation is small
	j float64       // its determinant
	// e is the strain: Green's where deformation is large.
	e [6]float64
	// s is the stress, the second of Piola and Kirchhoff where deformation is large, with its derivatives by the strain and
	// by the temperature.
	s, byHeat [6]float64
	d         stiffness
	// energy is what is stored in it, J/m³.
	energy float64
	// Of a body that keeps its volume by a pressure: what there is too much of it, with its derivative by the pressure, −, and
	// by the temperature, and the derivative by the deformation gradient.
	mixed                       bool
	excess, yield, excessByHeat float64
	cofactor                    [3][3]float64
}

// strained finds the stress at a point that is number q of those that were prepared.
func (k *Kernel) strained(p *fem.Point, q int, at *strained) error {
	u := k.u
	at.f = [3][3]float64{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}
	g := [3][3]float64{} // ∇u
	for i := range k.n {
		g[i] = p.Grad[u+i]
	}
	if k.n == 2 {
		g[0][2], g[1][2] = 0, 0
	}
	if k.problem.Form == Round {
		g[2][2] = p.U[u] / p.X[0]
	}
	for i := range 6 {
		a, b := pairs[i][0], pairs[i][1]
		at.e[i] = (g[a][b] + g[b][a]) / 2
	}
	if k.problem.Large {
		for i := range 3 {
			for j := range 3 {
				at.f[i][j] += g[i][j]
			}
		}
		for i := range 6 {
			a, b := pairs[i][0], pairs[i][1]
			for m := range 3 {
				at.e[i] += g[m][a] * g[m][b] / 2
			}
		}
	}
	at.j = 1
	if k.problem.Form == Stress {
		return k.free(p, q, at)
	}
	if k.problem.Large {
		c := cofactor(&at.f)
		if at.j = at.f[0][0]*c[0][0] + at.f[0][1]*c[0][1] + at.f[0][2]*c[0][2]; !(at.j > 0) {
			return &law.Error{Body: k.body, What: "volume of a cell, which turned inside out,", Value: at.j}
		}
	}
	return k.stressed(p, q, at)
}

// stressed finds the stress that a strain makes, by the law of the body at hand.
func (k *Kernel) stressed(p *fem.Point, q int, at *strained) error {
	heat := &k.strain[q]
	if !k.here.Rubber {
		var slope stiffness
		var err error
		if at.d, slope, err = k.elastic(q); err != nil {
			return err
		}
		var elastic [6]float64
		for i := range elastic {
			elastic[i] = at.e[i] - heat.value[i]
		}
		at.s = at.d.times(&elastic)
		at.energy = 0
		for i, s := range at.s {
			at.energy += twice[i] * s * elastic[i] / 2
		}
		if k.heats {
			at.byHeat = slope.times(&elastic)
			less := at.d.times(&heat.slope)
			for i := range less {
				at.byHeat[i] -= less[i]
			}
		}
		k.begun(q, at)
		return nil
	}
	m, grows := k.rubber(p, q)
	at.mixed = m.mixed
	flat := [6]float64{1, 1, 1} // ∂J/∂E
	at.cofactor = [3][3]float64{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}
	if k.problem.Large {
		var c [6]float64
		for i := range c {
			c[i] = 2 * at.e[i]
			if i < 3 {
				c[i]++
			}
		}
		at.s, flat, at.d, at.j, at.energy = m.far(&c)
		at.cofactor = cofactor(&at.f)
	} else {
		at.d = m.near()
		at.s = at.d.times(&at.e)
		at.j = 1 + at.e[0] + at.e[1] + at.e[2]
		at.energy = 0
		for i, s := range at.s {
			at.energy += twice[i] * s * at.e[i] / 2
		}
		for i := range 3 {
			if m.mixed {
				at.s[i] += m.pi
			} else {
				at.s[i] -= m.bulk * (m.volume - 1)
			}
		}
	}
	at.byHeat = [6]float64{}
	if m.mixed {
		at.excess, at.excessByHeat, at.yield = at.j-m.volume, -grows, 0
		if !math.IsInf(m.bulk, 0) {
			at.yield = 1 / m.bulk
			at.excess -= m.pi / m.bulk
		}
	} else if k.heats {
		for i := range flat {
			at.byHeat[i] = -m.bulk * grows * flat[i]
		}
	}
	k.begun(q, at)
	return nil
}

// begun adds the stress that there is from the beginning.
func (k *Kernel) begun(q int, at *strained) {
	for i, l := range k.here.Initial {
		if l != nil {
			at.s[i] += k.part * k.now.At(initial+i, q)
		}
	}
}

// almostKept is the ratio of Poisson of what keeps its volume, where nothing locks.
const almostKept = 0.499999

// rubber are the constants of the body at hand at a point, with how fast heat makes its volume grow, 1/K.
func (k *Kernel) rubber(p *fem.Point, q int) (m rubber, grows float64) {
	nu, part := k.now.At(ratio, q), 1.0
	if k.here.share != nil {
		part = k.now.At(share, q)
	}
	m.mixed = k.here.Mixed
	if !m.mixed {
		nu = min(nu, almostKept)
	}
	if k.here.Mooney[0] != nil {
		m.c10, m.c01 = part*k.now.At(mooney, q), part*k.now.At(mooney+1, q)
	} else {
		m.c10 = part * k.now.At(modulus, q) / (4 * (1 + nu))
	}
	m.bulk = 4 * (m.c10 + m.c01) * (1 + nu) / (3 * (1 - 2*nu))
	if m.mixed {
		m.pi = p.U[k.pi]
	}
	heat := &k.strain[q]
	mean := (heat.value[0] + heat.value[1] + heat.value[2]) / 3
	slope := heat.slope[0] + heat.slope[1] + heat.slope[2]
	if !k.problem.Large {
		m.volume = 1 + 3*mean
		return m, slope
	}
	m.volume = (1 + mean) * (1 + mean) * (1 + mean)
	return m, (1 + mean) * (1 + mean) * slope
}

// Where nothing pushes across a plane the strain there follows from that by Newton's method.
const (
	freeSteps = 60
	freeEnd   = 1e-14
)

// free finds the stress where nothing pushes across the plane.
func (k *Kernel) free(p *fem.Point, q int, at *strained) error {
	if k.problem.Large {
		// As thick as leaves the volume is a good beginning for what is like rubber.
		if flat := (1+2*at.e[0])*(1+2*at.e[1]) - 4*at.e[3]*at.e[3]; k.here.Rubber && flat > 0 {
			at.e[2] = (1/flat - 1) / 2
		}
		if at.f[0][0]*at.f[1][1]-at.f[0][1]*at.f[1][0] <= 0 {
			return &law.Error{Body: k.body, What: "area of a cell, which turned inside out,", Value: -1}
		}
	}
	for range freeSteps {
		if err := k.stressed(p, q, at); err != nil {
			return err
		}
		step := at.s[2] / at.d[2][2]
		least := -0.5
		if next := at.e[2] - step; k.problem.Large && next <= least {
			step = (at.e[2] - least) / 2
		}
		at.e[2] -= step
		if math.Abs(step) <= freeEnd*(1+math.Abs(at.e[2])) {
			break
		}
	}
	if k.problem.Large {
		at.f[2][2] = math.Sqrt(1 + 2*at.e[2])
		at.j = (at.f[0][0]*at.f[1][1] - at.f[0][1]*at.f[1][0]) * at.f[2][2]
	}
	by, heat := at.d[2], at.byHeat[2]
	for i := range by {
		at.byHeat[i] -= by[i] * heat / by[2]
		if i == 2 {
			continue
		}
		for l := range by {
			at.d[i][l] -= by[i] * by[l] / by[2]
		}
	}
	at.d[2] = [6]float64{}
	at.s[2], at.byHeat[2] = 0, 0
	return nil
}

// true is the stress of Cauchy, by the deformed area.
func (k *Kernel) true(at *strained) (s [6]float64) {
	if !k.problem.Large {
		return at.s
	}
	for i := range 6 {
		a, b := pairs[i][0], pairs[i][1]
		for m := range 3 {
			for n := range 3 {
				s[i] += at.f[a][m] * at.s[place[m][n]] * at.f[b][n] / at.j
			}
		}
	}
	return s
}
