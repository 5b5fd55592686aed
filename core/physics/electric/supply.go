package electric

import (
	"saltkettle/core/couple"
	"saltkettle/core/fem"
)

// SuppliesIn says that a body gives off heat or carries it along.
func (k *Kernel) SuppliesIn(quantity string, body int32) (any, varies bool) {
	b, conducts := k.problem.Bodies[body]
	switch {
	case !conducts || k.problem.Static:
		return false, false
	case quantity == couple.HeatPerVolume:
		return true, true
	case quantity == couple.HeatCarried:
		return b.Seebeck != nil && k.t >= 0, true
	}
	return false, false
}

// Supply adds the power per volume that becomes heat, W/m³, or the heat that current carries
// along, W/m².
func (k *Kernel) Supply(quantity string, p *fem.Point, j *couple.Jet) {
	if k.now == nil {
		return
	}
	f := k.flow(p, p.Number)
	v, h := k.v, k.t
	if quantity == couple.HeatPerVolume {
		j.Value[0] += dot(f.j, f.e)
		for d := range 3 {
			j.Grad[v][0][d] -= f.sigma*f.e[d] + f.j[d]
		}
		if h >= 0 {
			j.U[h][0] += dot(f.jSlope, f.e)
			for d := range 3 {
				j.Grad[h][0][d] -= f.sigma * f.s * f.e[d]
			}
		}
		return
	}
	if !k.seebeck {
		return
	}
	temperature := p.U[h]
	for d := range 3 {
		j.Value[d] += f.s * temperature * f.j[d]
		j.U[h][d] += f.s*f.j[d] + f.sSlope*temperature*f.j[d] + f.s*temperature*f.jSlope[d]
		j.Grad[v][d][d] -= f.s * temperature * f.sigma
		j.Grad[h][d][d] -= f.s * temperature * f.sigma * f.s
	}
}

// SuppliesAt says that a contact gives off heat.
func (k *Kernel) SuppliesAt(quantity string, joint int) (any, varies bool) {
	contact := quantity == couple.HeatAtJoints && k.joints[joint] >= 0
	return contact, contact
}

// SupplyJoint adds the power per area that becomes heat in a contact, W/m².
func (k *Kernel) SupplyJoint(_ string, number int, p *fem.Point, other []float64, j *couple.JointJet) error {
	resistance, slope, err := k.contact(number, p)
	if err != nil || resistance == 0 {
		return err
	}
	jump := p.U[k.v] - other[k.v]
	j.Value += jump * jump / resistance
	j.U[k.v] += 2 * jump / resistance
	j.Other[k.v] -= 2 * jump / resistance
	if k.t >= 0 {
		j.U[k.t] -= jump * jump * slope / (resistance * resistance)
	}
	return nil
}
