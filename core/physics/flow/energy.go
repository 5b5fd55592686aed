package flow

import (
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/physics/flow/eddy"
)

// energyAndRate is the model that carries the energy of eddies along and the logarithm of the rate at which they decay: of that
// times the distance from walls, which is even where the speed along them is logarithmic.
type energyAndRate struct{}

// state is what it depends on at a point, but for slopes.
func (energyAndRate) state(k *Kernel, p *fem.Point, l layer, nu float64) (s eddy.State) {
	s.Distance, s.Nu, s.Settling = l.away, nu, k.settling()
	s.In[eddy.ByEnergy], s.In[eddy.ByRate], s.In[eddy.ByShear] = max(p.U[k.e], 0), p.U[k.e+1]-math.Log(l.away), k.shearSquare(p)
	return s
}

func (energyAndRate) brings(_ *Kernel, _ *fem.Point, o *Opening, away float64) [mostCarried]float64 {
	return [mostCarried]float64{o.Eddies[0], o.Eddies[1] + math.Log(away)}
}

func (energyAndRate) law() *eddy.Law { return eddy.Energetic }

func (e energyAndRate) moves(k *Kernel, p *fem.Point, l layer, nu float64) (m moved) {
	s := e.state(k, p, l, nu)
	of := s.Viscosity()
	m.value, m.by = of.Value, [mostCarried]float64{of.By[eddy.ByEnergy], of.By[eddy.ByRate]}
	if k.settling() { // far from a solution it would leave nothing to resist with where there is much shear for the energy
		m.byShear = 2 * of.By[eddy.ByShear]
	}
	return m
}

func (m energyAndRate) carries(k *Kernel, p *fem.Point, t *fem.Terms, l layer, nu float64) {
	var energy, rate transport
	if l.along {
		energy, rate = m.atWall(k, p, l, nu)
	} else {
		energy, rate = m.within(k, p, l, nu)
	}
	for c, one := range []*transport{&energy, &rate} {
		// Far from a solution what makes it grow is left out of the matrix: it would make that singular.
		if one.rate = one.by[c]; one.rate > 0 && !k.settling() {
			one.by[c] = 0
		}
		if !l.along && !k.settling() {
			one.byShear, one.spreadsByShear, one.bendsByShear = 0, 0, 0
		}
	}
	shear := k.strained(p)
	k.carry(p, t, k.e, &energy, &shear)
	k.carry(p, t, k.e+1, &rate, &shear)
}

// within is off walls.
func (m energyAndRate) within(k *Kernel, p *fem.Point, l layer, nu float64) (energy, rate transport) {
	s := m.state(k, p, l, nu)
	gradK, gradW := &p.Grad[k.e], p.Grad[k.e+1]
	farther := k.eddies.farther(p)
	for i := range k.n {
		rate.leans[i] = -farther[i] / l.away
		gradW[i] += rate.leans[i]
		s.In[eddy.ByCross] += gradK[i] * gradW[i]
		s.In[eddy.BySteepEnergy] += gradK[i] * gradK[i]
		s.In[eddy.BySteepRate] += gradW[i] * gradW[i]
	}
	of := s.Turning()
	set := func(c *transport, grows, spreads, bends *eddy.Value) {
		c.grows, c.spreads, c.bends = grows.Value, spreads.Value, bends.Value
		c.byShear, c.spreadsByShear, c.bendsByShear = grows.By[eddy.ByShear], spreads.By[eddy.ByShear], bends.By[eddy.ByShear]
		for i, by := range [mostCarried]int{eddy.ByEnergy, eddy.ByRate} {
			c.by[i], c.spreadsBy[i], c.bendsBy[i] = grows.By[by], spreads.By[by], bends.By[by]
		}
		bySlopes := func(of *eddy.Value) (out [mostCarried][3]float64) {
			for i := range k.n {
				out[0][i] = of.By[eddy.ByCross]*gradW[i] + 2*of.By[eddy.BySteepEnergy]*gradK[i]
				out[1][i] = of.By[eddy.ByCross]*gradK[i] + 2*of.By[eddy.BySteepRate]*gradW[i]
			}
			return out
		}
		c.byGrad, c.bendsByGrad = bySlopes(grows), bySlopes(bends)
	}
	set(&energy, &of.EnergyGrows, &of.EnergySpreads, &of.EnergyBends)
	set(&rate, &of.RateGrows, &of.RateSpreads, &of.RateBends)
	rate.drift = -2 * rate.spreads
	return energy, rate
}

// follows is by how much faster than eddies decay their rate becomes in the first cells along a wall what it is there by the law of
// the wall: so much that nothing else has a say.
const follows = 10.

// atWall is in the first cells along a wall, where both are as in the law of the wall at the nodes off it, as no straight line is
// what they are in between. As much energy arises and decays as there, so that in equilibrium it is what it is there; where the
// flow parts from the wall or comes back to it, and there is no friction, it comes from elsewhere, and the rate follows from it.
func (energyAndRate) atWall(k *Kernel, p *fem.Point, l layer, nu float64) (energy, rate transport) {
	by := l.bySquare()
	friction := max(l.friction, 1e-100)
	b := eddy.BesideWall(friction, nu, l.height, l.rough)
	energy.spreads, energy.spreadsByShear = b.Spreads, b.SpreadsBy*by
	decays := eddy.Decay * math.Exp(b.Rate)
	energy.grows, energy.by[0] = decays*(b.Energy-p.U[k.e]), -decays
	energy.byShear = (decays*b.EnergyBy + energy.grows*b.RateBy) * by

	moved, byFriction, byEnergy := eddy.FrictionOf(friction, max(p.U[k.e], 0))
	w := eddy.BesideWall(moved, nu, l.height, l.rough)
	decays = follows * math.Exp(w.Rate)
	rate.grows, rate.by[1] = decays*(w.Rate+math.Log(l.height)-p.U[k.e+1]), -decays
	changes := (decays + rate.grows) * w.RateBy // how fast it follows depends on friction, too
	rate.by[0], rate.byShear = changes*byEnergy, changes*byFriction*by
	rate.spreads, rate.spreadsByShear = energy.spreads, energy.spreadsByShear
	return energy, rate
}
