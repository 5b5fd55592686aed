package flow

import (
	"math"

	"saltkettle/core/fem"
)

// transport is what there is at a point in the equation of a number that a flow carries along, over its density:
//
//	∂v/∂t + u·∇v = g + ∇·(s∇v)
//
// with derivatives by what is carried, by its slopes and by the square of the shear rate, or another square of slopes of the
// velocity.
type transport struct {
	grows   float64 // g
	by      [mostCarried]float64
	byGrad  [mostCarried][3]float64
	byShear float64
	leans   [3]float64 // what the slope of v has beside that of the component

	spreads        float64 // s, m²/s
	spreadsBy      [mostCarried]float64
	spreadsByShear float64

	bends        float64 // ∇s·∇v, all that it spreads in cells of order 1
	bendsBy      [mostCarried]float64
	bendsByGrad  [mostCarried][3]float64
	bendsByShear float64

	rate float64 // how fast it grows or decays, 1/s
	// drift times the slope of v is with what a change of v is carried beside the flow where g has the square of that slope, m²/s.
	drift float64
}

// slopes are derivatives of a square of slopes of the velocity by these, and by the velocity off an axis.
type slopes struct {
	grad [3][3]float64
	off  float64
}

// strained are those of the square of the shear rate.
func (k *Kernel) strained(p *fem.Point) (s slopes) {
	for i := range k.n {
		for j := range k.n {
			s.grad[i][j] = 2 * (p.Grad[k.u+i][j] + p.Grad[k.u+j][i])
		}
	}
	if k.problem.Round && p.X[0] > 0 {
		s.off = 4 * p.U[k.u] / (p.X[0] * p.X[0])
	}
	return s
}

// carry adds the equation of component e, with what keeps it from being jagged where it is carried faster than it spreads.
func (k *Kernel) carry(p *fem.Point, t *fem.Terms, e int, c *transport, shear *slopes) {
	u, n := k.u, k.n
	grad := p.Grad[e]
	for i := range n {
		grad[i] += c.leans[i]
	}
	along := 0.0
	for i := range n {
		along += p.U[u+i] * grad[i]
	}
	residual := along - c.grows
	if k.problem.Transient {
		residual += p.Rate[e]
	}
	g := p.Metric()
	var carries [3]float64 // what carries a change of v along
	for i := range n {
		carries[i] = p.U[u+i] + c.drift*grad[i]
	}
	var through, square float64
	for i := range n {
		for j := range n {
			through += carries[i] * g[i][j] * carries[j]
			square += g[i][j] * g[i][j]
		}
	}
	tau := 1 / math.Sqrt(through+rubsOther*c.spreads*c.spreads*square+c.rate*c.rate)
	strong := residual - c.bends
	t.Source[e] += residual
	for i := range n {
		by := tau * carries[i]
		t.Flux[e][i] += c.spreads*grad[i] + by*strong
		v := t.Index(e, u+i)
		t.SourceU[v] += grad[i]
		t.FluxU[v][i] += tau * strong
		for j := range n {
			t.FluxU[t.Index(e, u+j)][i] += by * grad[j]
		}
		t.SourceGrad[t.Index(e, e)][i] += p.U[u+i]
		for j := range n {
			t.FluxGrad[t.Index(e, e)][i][j] += by * p.U[u+j]
		}
		t.FluxGrad[t.Index(e, e)][i][i] += c.spreads + tau*strong*c.drift
		if k.problem.Transient {
			t.FluxRate[t.Index(e, e)][i] += by
		}
	}
	if k.problem.Transient {
		t.SourceRate[t.Index(e, e)]++
	}
	for f := range k.carried {
		at := t.Index(e, k.e+f)
		t.SourceU[at] -= c.by[f]
		for i := range n {
			by := tau * carries[i]
			t.SourceGrad[at][i] -= c.byGrad[f][i]
			t.FluxU[at][i] += c.spreadsBy[f]*grad[i] - by*(c.by[f]+c.bendsBy[f])
			for j := range n {
				t.FluxGrad[at][i][j] -= by * (c.byGrad[f][j] + c.bendsByGrad[f][j])
			}
		}
	}
	if c.byShear == 0 && c.spreadsByShear == 0 && c.bendsByShear == 0 {
		return
	}
	for l := range n {
		at := t.Index(e, u+l)
		for m := range n {
			s := shear.grad[l][m]
			t.SourceGrad[at][m] -= c.byShear * s
			for i := range n {
				t.FluxGrad[at][i][m] += s * (c.spreadsByShear*grad[i] - tau*carries[i]*(c.byShear+c.bendsByShear))
			}
		}
	}
	if shear.off != 0 {
		at := t.Index(e, u)
		t.SourceU[at] -= c.byShear * shear.off
		for i := range n {
			t.FluxU[at][i] += shear.off * (c.spreadsByShear*grad[i] - tau*carries[i]*(c.byShear+c.bendsByShear))
		}
	}
}
