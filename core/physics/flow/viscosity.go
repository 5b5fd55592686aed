package flow

import (
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/physics/flow/eddy"
)

// oneViscosity is the model that carries one viscosity along.
type oneViscosity struct{}

func (oneViscosity) brings(_ *Kernel, _ *fem.Point, o *Opening, _ float64) [mostCarried]float64 {
	return o.Eddies
}

func (oneViscosity) law() *eddy.Law { return eddy.Viscous }

func (oneViscosity) moves(k *Kernel, p *fem.Point, l layer, nu float64) (m moved) {
	m.value, m.by[0] = eddy.Viscosity(p.U[k.e], nu, l.rough/l.away)
	return m
}

// turning is how much vorticity there is at a point, less what the flow is strained less than it turns, 1/s, as eddies are
// not fed where it turns without being strained (J. Dacles-Mariani and others, AIAA J. 33 (1995) 1561), with the derivative
// by the slopes of the velocity.
func (k *Kernel) turning(p *fem.Point) (value float64, by slopes) {
	n, u := k.n, k.u
	var turns float64
	for i := range n {
		for j := range n {
			w := (p.Grad[u+i][j] - p.Grad[u+j][i]) / 2
			turns += 2 * w * w
			by.grad[i][j] = 2 * w
		}
	}
	if turns == 0 {
		return 0, by
	}
	turns = math.Sqrt(turns)
	strained := math.Sqrt(k.shearSquare(p))
	turned, also := 1/turns, 0.0
	value = turns
	if strained < turns && strained > 0 {
		value, turned, also = 2*strained-turns, -1/turns, 2/strained
	}
	if least := turning0 * turns; value < least {
		value, turned, also = least, turning0/turns, 0
	}
	for i := range n {
		for j := range n {
			by.grad[i][j] = turned*by.grad[i][j] + also*(p.Grad[u+i][j]+p.Grad[u+j][i])
		}
	}
	if also > 0 && k.problem.Round && p.X[0] > 0 {
		by.off = also * 2 * p.U[u] / (p.X[0] * p.X[0])
	}
	return value, by
}

// turning0 is the least part of the vorticity that counts.
const turning0 = 0.1

func (oneViscosity) carries(k *Kernel, p *fem.Point, t *fem.Terms, l layer, nu float64) {
	v, grad := p.U[k.e], &p.Grad[k.e]
	var c transport
	var shear slopes
	if l.along {
		c.grows, c.rate, c.byShear = eddy.AtWall(v, max(l.friction, 1e-300), l.away)
		if c.byShear *= l.bySquare(); k.settling() {
			shear = k.strained(p)
		} else {
			c.byShear = 0 // far from a solution it leads astray
		}
	} else {
		var turns float64
		turns, shear = k.turning(p)
		c.grows, c.rate, c.byShear = eddy.Growth(v, nu, max(turns, 1e-12), l.away, l.rough/l.away)
	}
	// Far from a solution what makes it grow is left out of the matrix: it would make that singular.
	if c.rate < 0 || k.settling() {
		c.by[0] = c.rate
	}
	c.spreads, c.spreadsBy[0] = eddy.Spread(v, nu)
	steep := 0.0
	for i := range k.n {
		steep += grad[i] * grad[i]
		c.byGrad[0][i], c.bendsByGrad[0][i] = 2*eddy.Sharpens*grad[i], 2*c.spreadsBy[0]*grad[i]
	}
	c.grows += eddy.Sharpens * steep
	c.bends = c.spreadsBy[0] * steep
	k.carry(p, t, k.e, &c, &shear)
}

// roughSide adds that at a rough wall the viscosity of eddies is not nothing: it is none where the wall seems to be.
func (k *Kernel) roughSide(height float64, p *fem.Point, t *fem.Terms) {
	e := k.e
	nu := k.now.At(viscosity, p.Number) * k.problem.ease() / k.here.Reference
	spread, by := eddy.Spread(p.U[e], nu)
	over := 1 / eddy.Behind(height)
	t.Source[e] += spread * p.U[e] * over
	t.SourceU[t.Index(e, e)] += (spread + by*p.U[e]) * over
}
