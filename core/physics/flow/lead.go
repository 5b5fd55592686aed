package flow

import (
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/physics/flow/eddy"
)

// leading is the model that carries one viscosity along in the place of the energy of eddies, while their rate stays: from rest it
// finds flows where that with energy and rate, which feed each other, often finds none. The flow with these begins
// with what it finds.
type leading struct{ oneViscosity }

func (leading) brings(k *Kernel, p *fem.Point, o *Opening, _ float64) [mostCarried]float64 {
	nu := k.now.At(viscosity, p.Number) * k.problem.ease() / k.here.Reference
	return [mostCarried]float64{nu * eddy.Ratio(o.Eddies[0]/math.Exp(o.Eddies[1])/nu), p.U[k.e+1]}
}

func (m leading) carries(k *Kernel, p *fem.Point, t *fem.Terms, l layer, nu float64) {
	t.SourceU[t.Index(k.e+1, k.e+1)]++
	m.oneViscosity.carries(k, p, t, l, nu)
}

// Lead turns what a state has of energy and rate at nodes into a viscosity that is carried, until [Kernel.Follow]; held are the
// equations of those at walls, where it is nothing, and ok says that there is such a way.
func (k *Kernel) Lead(at *fem.State) (held []int32, ok bool) {
	if !k.problem.Energy || k.problem.Transient {
		return nil, false
	}
	k.spreading = leading{}
	nu := k.problem.Thin
	k.eachEddy(func(v, energy, rate int32) {
		d := k.eddies.away[v]
		at.U[energy] = nu * eddy.Ratio(max(at.U[energy], 0)*d/math.Exp(at.U[rate])/nu)
		if d == 0 {
			held = append(held, energy)
		}
	})
	return held, true
}

// eachEddy goes through the nodes with energy and rate, by their equations.
func (k *Kernel) eachEddy(f func(node, energy, rate int32)) {
	s := k.group.System
	field := s.FieldAt(k.e)
	for v := range int32(s.Grid.NodeCount()) {
		if e := s.Equation(field, 0, v); e >= 0 && s.Shared(v) == v {
			f(v, e, s.Equation(field+1, 0, v))
		}
	}
}

// mostSwing is the energy of eddies over the square of the greatest speed that they hardly exceed.
const mostSwing = 0.1

// Follow turns a viscosity that is carried back into energy and rate: as much of both as there is where as much energy arises as
// decays by the shear, but at least as they were.
func (k *Kernel) Follow(at *fem.State) error {
	s := k.group.System
	count := s.Grid.NodeCount()
	shear, volume := make([]float64, count), make([]float64, count)
	bodies := map[int32]bool{}
	for b := range k.problem.Bodies {
		bodies[b] = true
	}
	err := s.EachCell(at, bodies, func(points []fem.Point, weights []float64) error {
		for q, w := range weights {
			p := &points[q]
			size := math.Sqrt(k.shearSquare(p))
			for a, v := range p.Nodes {
				shear[s.Shared(v)] += w * p.Functions[a] * size
				volume[s.Shared(v)] += w * p.Functions[a]
			}
		}
		return nil
	})
	nu, most := k.problem.Thin, mostSwing*k.friction.fastest*k.friction.fastest
	k.eachEddy(func(v, energy, rate int32) {
		moves, _ := eddy.Viscosity(at.U[energy], nu, 0)
		turns := shear[v] / volume[v] / math.Sqrt(eddy.Decay)
		if d := k.eddies.away[v]; d > 0 {
			turns = max(turns, math.Exp(at.U[rate])/d)
			at.U[rate] = math.Log(turns * d)
		}
		at.U[energy] = min(moves*turns, most)
	})
	k.spreading = energyAndRate{}
	return err
}

var _ couple.Leader = (*Kernel)(nil)
