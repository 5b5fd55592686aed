package magnetic

import (
	"math"
	"slices"

	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// matter is what fills a place: how flux density and field strength follow from each other there, and what current flows.
type matter struct {
	problem *Problem
	t       int  // component of the temperature, −1 if it is not known
	varies  bool // it changes while the field is solved for
	// Work memory.
	sets map[int32]*law.Set
	now  *law.Set
	body *Body // at hand, nil for vacuum
}

// Places of the laws of a body in its set.
const (
	permeability = iota
	northX
	northY
	northZ
	remanence
	turns
	amperes
	resistivity
	total
	voltage
	resistance
	velocityX
	velocityY
)

// fork is matter with work memory of its own.
func (m *matter) fork() *matter {
	return &matter{problem: m.problem, t: m.t, varies: m.varies, sets: map[int32]*law.Set{}}
}

// Straight says that the equations are linear.
func (m *matter) Straight() bool {
	for body := range m.problem.Bodies {
		if !m.LinearCells(body) {
			return false
		}
	}
	return true
}

// LinearCells says that the terms of a body are linear.
func (m *matter) LinearCells(body int32) bool {
	b := m.problem.Bodies[body]
	return b == nil || b.Iron == nil && !(m.varies && b.warms())
}

// LinearSide says that the terms on sides are linear.
func (m *matter) LinearSide(int) bool { return true }

// ByValues says that terms on sides need no gradients.
func (m *matter) ByValues() bool { return true }

// Symmetric says that the matrix of the equations is symmetric: it is not with circuits and conductors that move, nor where the temperature, which the field does
// not change, is solved for with it.
func (m *matter) Symmetric() bool {
	if len(m.problem.Circuits) > 0 {
		return false
	}
	for _, b := range m.problem.Bodies {
		if m.varies && b.warms() || b.moves() {
			return false
		}
	}
	return true
}

// Descends says that the equations are those of the least energy of the field: H and B grow with each other.
func (m *matter) Descends() bool { return m.Symmetric() && !m.problem.Moves && !m.varies }

// Secant lets the matrix have B over H in place of their slopes.
func (m *matter) Secant(on bool) { m.problem.secant = on }

// Accounts says that nothing enters that a balance is of.
func (m *matter) Accounts() int { return 0 }

// Sourced says the same.
func (m *matter) Sourced() map[int32]bool { return nil }

// Entering adds nothing.
func (m *matter) Entering(int, []fem.Point, []float64, []float64) error { return nil }

// Prepare evaluates all laws at some points of a body.
func (m *matter) Prepare(side int, points []fem.Point) error {
	if side >= 0 {
		return nil
	}
	body := points[0].Part
	m.body = m.problem.Bodies[body]
	b := m.body
	if b == nil {
		return nil
	}
	if m.now = m.sets[body]; m.now == nil {
		var c Circuit
		if b.Circuit != nil {
			c = *b.Circuit
		}
		m.now = law.NewSet(b.Permeability, b.North[0], b.North[1], b.North[2], b.Remanence, b.Turns, b.Current, b.Resistivity, c.Total, c.Voltage, c.Resistance, b.Velocity[0], b.Velocity[1])
		m.sets[body] = m.now
	}
	m.now.Run(points, m.t)
	if b.Permeability != nil {
		if err := m.now.Check(permeability, body, "relative permeability", 0, false); err != nil {
			return err
		}
	}
	if b.Remanence != nil {
		if err := m.now.Check(remanence, body, "remanence", 0, true); err != nil {
			return err
		}
	}
	if b.Resistivity != nil {
		if err := m.now.Check(resistivity, body, "electrical resistivity", 0, false); err != nil {
			return err
		}
	}
	for _, of := range []struct {
		law  int
		what string
	}{{amperes, "current"}, {total, "current"}, {voltage, "voltage"}, {velocityX, "velocity"}, {velocityY, "velocity"}} {
		if err := m.now.Check(of.law, body, of.what, law.NoBound, false); err != nil {
			return err
		}
	}
	return nil
}

// reference is the temperature at which remanences are given, K.
const reference = 293.15

// north is the remanence of a magnet at prepared point q, T.
func (m *matter) north(p *fem.Point, q int) (out vector) {
	b := m.body
	if b == nil || b.Remanence == nil {
		return out
	}
	x, y, z := m.now.At(northX, q), m.now.At(northY, q), m.now.At(northZ, q)
	long := math.Sqrt(x*x + y*y + z*z)
	if long == 0 {
		return out // it has no direction there, as on the axis of a radial one
	}
	strength := m.now.At(remanence, q) / long
	if m.t >= 0 {
		strength *= 1 + b.Slope*(p.U[m.t]-reference)
	}
	cos, sin := math.Cos(b.Turn), math.Sin(b.Turn)
	return vector{strength * (x*cos - y*sin), strength * (x*sin + y*cos), strength * z}
}

// against is the field strength against the north of a magnet at prepared point q, A/m, less than nothing along it, 0 elsewhere.
func (m *matter) against(p *fem.Point, q int, h vector) float64 {
	north := m.north(p, q)
	if north == (vector{}) {
		return 0
	}
	return -dot(h, north) / size(north)
}

// atWork is a flux density over a field strength, relative to that of vacuum: less than at first in iron that saturates, 1 in magnets.
func (m *matter) atWork(b, h float64) float64 {
	if m.body == nil || m.body.Remanence != nil {
		return 1
	}
	if h == 0 {
		if m.body.Iron != nil {
			_, steep, _ := m.body.Iron.Flux(0)
			return steep / Vacuum
		}
		return m.relative(0)
	}
	return b / (Vacuum * h)
}

// relative is the relative permeability at prepared point q.
func (m *matter) relative(q int) float64 {
	if m.body == nil || m.body.Permeability == nil {
		return 1
	}
	return m.now.At(permeability, q)
}

// winds is how many turns there are to an area at prepared point q, 1/m².
func (m *matter) winds(q int) float64 {
	if b := m.body; b != nil && b.Turns != nil {
		return m.now.At(turns, q) / b.Area
	}
	return 0
}

// density is that of the current that is given at prepared point q, A/m².
func (m *matter) density(q int) float64 {
	if m.body == nil || m.body.Current == nil {
		return 0
	}
	return m.winds(q) * m.now.At(amperes, q)
}

// warmth is by how much what is at prepared point q changes for each kelvin, if the temperature is solved for with the field: the
// remanence, T, and the permeability and the conductivity as a part of what they are.
func (m *matter) warmth(p *fem.Point, q int) (north vector, relative, conducts float64) {
	b := m.body
	if !m.varies || b == nil || !b.warms() {
		return north, 0, 0
	}
	if b.Remanence != nil {
		by := b.Slope / (1 + b.Slope*(p.U[m.t]-reference))
		if now := m.now.At(remanence, q); now > 0 {
			by += m.now.Slope(remanence, q) / now
		}
		for i, v := range m.north(p, q) {
			north[i] = by * v
		}
	}
	if b.Permeability != nil && b.Iron == nil {
		relative = m.now.Slope(permeability, q) / m.relative(q)
	}
	if b.Resistivity != nil {
		conducts = -m.now.Slope(resistivity, q) / m.now.At(resistivity, q)
	}
	return north, relative, conducts
}

// conductivity at prepared point q of a body in which the field drives currents, 1/(Ω·m), 0 elsewhere.
func (m *matter) conductivity(q int) float64 {
	if m.body == nil || m.body.Resistivity == nil {
		return 0
	}
	return 1 / m.now.At(resistivity, q)
}

// moves says that a body moves through the field.
func (b *Body) moves() bool { return b.Velocity[0] != nil || b.Velocity[1] != nil }

// velocity at prepared point q, m/s.
func (m *matter) velocity(q int) (v [2]float64, moves bool) {
	if m.body == nil || !m.body.moves() {
		return v, false
	}
	return [2]float64{m.now.At(velocityX, q), m.now.At(velocityY, q)}, true
}

// warms says that what a body does depends on the temperature.
func (b *Body) warms() bool {
	return b.Remanence != nil && b.Slope != 0 || slices.ContainsFunc([]Law{b.Permeability, b.Remanence, b.Resistivity}, func(l Law) bool { return l != nil && l.Uses(law.Temperature) })
}

// airy says that what fills a body is as vacuum for a force.
func (m *matter) airy() bool {
	b := m.body
	return b == nil || b.Iron == nil && b.Remanence == nil && b.Turns == nil && b.Resistivity == nil && b.Shell == nil && m.relative(0) <= almostAir
}

// almostAir is the relative permeability up to which something is as air for a force.
const almostAir = 1.001

// tensor is the derivative of a vector by a vector.
type tensor [3][3]float64

// isotropic is the vector along v that is as long as of says of the length of v, with its derivative, or with their ratio in place of that
// (secant): of gives a length, its derivative and the energy.
func isotropic(secant bool, v vector, of func(long float64) (value, slope, energy float64)) (out vector, d tensor, energy float64) {
	long := size(v)
	value, slope, energy := of(long)
	ratio := slope
	if long > 0 {
		ratio = value / long
	}
	if secant {
		slope = ratio
	}
	for i := range v {
		out[i] = ratio * v[i]
		d[i][i] = ratio
		for j := range v {
			if long > 0 {
				d[i][j] += (slope - ratio) * v[i] * v[j] / (long * long)
			}
		}
	}
	return out, d, energy
}

// proportional is a law of [isotropic] that is a factor.
func proportional(by float64) func(long float64) (value, slope, energy float64) {
	return func(long float64) (float64, float64, float64) { return by * long, by, by / 2 * long * long }
}

// strength is the field strength at prepared point q for a flux density, with its derivative and the energy per volume.
func (m *matter) strength(p *fem.Point, q int, b vector) (h vector, d tensor, energy float64) {
	if m.body != nil && m.body.Iron != nil {
		return isotropic(m.problem.secant, b, m.body.Iron.Strength)
	}
	north := m.north(p, q)
	for i := range b {
		b[i] -= north[i]
	}
	h, d, energy = isotropic(m.problem.secant, b, proportional(1/(Vacuum*m.relative(q))))
	if m.body != nil && m.body.Shell != nil {
		energy = 0
		for i, by := range m.squeeze(p.X) {
			h[i] *= by
			d[i][i] *= by
			energy += h[i] * b[i] / 2
		}
	}
	return h, d, energy
}

// induced is the flux density at prepared point q for a field strength, with its derivative and the energy per volume.
func (m *matter) induced(p *fem.Point, q int, h vector) (b vector, d tensor, energy float64) {
	if m.body != nil && m.body.Iron != nil {
		return isotropic(m.problem.secant, h, m.body.Iron.Flux)
	}
	b, d, energy = isotropic(m.problem.secant, h, proportional(Vacuum*m.relative(q)))
	if m.body != nil && m.body.Shell != nil {
		energy = 0
		for i, by := range m.squeeze(p.X) {
			b[i] /= by
			d[i][i] /= by
			energy += h[i] * b[i] / 2
		}
		return b, d, energy
	}
	north := m.north(p, q)
	for i := range b {
		b[i] += north[i]
	}
	return b, d, energy
}
