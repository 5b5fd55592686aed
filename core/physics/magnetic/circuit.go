package magnetic

import (
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
)

// Circuit is a conductor or a coil of a section of which not the current at each place is given but what runs in all, or what drives it.
// It has one unknown: of a conductor the voltage along it, V, of turns that are fed the current in them, A.
type Circuit struct {
	// Total is the current through all of a conductor, A, nil for turns.
	Total Law
	// Voltage feeds turns, V, through the Resistance of all of them, Ω.
	Voltage, Resistance Law
	// Volume of its bodies, m³.
	Volume float64
	number int
}

// circuit is the component of the unknown of one.
func (k *section) circuit(of *Circuit) int { return k.a + k.step*(1+of.number) }

// along is the field that a volt along a conductor makes, 1/m: through the depth of a plane, or once round the axis.
func (k *section) along(p *fem.Point) float64 {
	if k.problem.Round {
		return 1 / (2 * math.Pi * p.X[0])
	}
	return 1 / k.problem.Depth
}

// rate is how fast the potential changes: as time has it, or in a swing by the other half of it.
type rate struct {
	value  float64
	of     int     // component that it is of
	by     float64 // the other half, for each of its unit
	inTime bool
}

func (k *section) rate(p *fem.Point) rate {
	switch {
	case k.problem.Frequency > 0:
		by := k.omega()
		if !k.second {
			by = -by
		}
		other := k.a + 1
		if k.second {
			other = k.a - 1
		}
		return rate{by * p.U[other], other, by, false}
	case k.problem.Moves:
		return rate{p.Rate[k.a], k.a, 1, true}
	}
	return rate{of: k.a}
}

func (r rate) add(t *fem.Terms, row int, by float64) {
	at := t.Index(row, r.of)
	if r.inTime {
		t.SourceRate[at] += by * r.by
	} else {
		t.SourceU[at] += by * r.by
	}
}

func (k *section) omega() float64 { return 2 * math.Pi * k.problem.Frequency }

// field is what drives currents in a conductor at prepared point q, V/m: that of a change, of a motion, v×B, and of a voltage along it.
func (k *section) field(p *fem.Point, q int) float64 {
	test := k.curl(p).test
	e := -test * k.rate(p).value
	if v, moves := k.velocity(q); moves {
		e -= test * (v[0]*p.Grad[k.a][0] + v[1]*p.Grad[k.a][1])
	}
	if c := k.made(); c != nil && c.Total != nil {
		e += k.along(p) * p.U[k.circuit(c)]
	}
	return e
}

// made is the circuit that the body at hand is part of, nil for none.
func (m *matter) made() *Circuit {
	if m.body == nil {
		return nil
	}
	return m.body.Circuit
}

// flows is the density of all current at prepared point q, A/m².
func (k *section) flows(p *fem.Point, q int) (j float64) {
	if !k.second {
		j = k.density(q)
	}
	if c := k.made(); c != nil && c.Total == nil {
		j += k.winds(q) * p.U[k.circuit(c)]
	}
	if sigma := k.conductivity(q); sigma > 0 {
		j += sigma * k.field(p, q)
	}
	return j
}

// drives adds the currents that the field drives in conductors, and the equation of the circuit that the body at hand is part of: that
// the current of a conductor is what is given, or of turns that voltage is left for resistance what the flux in them does not take.
func (k *section) drives(p *fem.Point, q int, t *fem.Terms) {
	a, test, change := k.a, k.curl(p).test, k.rate(p)
	_, _, conducts := k.warmth(p, q)
	v, moves := k.velocity(q)
	if sigma := k.conductivity(q); sigma > 0 {
		j := sigma * k.field(p, q)
		t.Source[a] -= test * j
		change.add(t, a, sigma*test*test)
		if moves {
			for i := range v {
				t.SourceGrad[t.Index(a, a)][i] += sigma * test * test * v[i]
			}
		}
		if k.varies {
			t.SourceU[t.Index(a, k.t)] -= test * conducts * j
		}
		if c := k.made(); c != nil && c.Total != nil {
			row, along := k.circuit(c), k.along(p)
			t.SourceU[t.Index(a, row)] -= test * sigma * along
			t.Source[row] += along * j
			if !k.second {
				t.Source[row] -= k.now.At(total, q) / c.Volume
			}
			t.SourceU[t.Index(row, row)] += sigma * along * along
			change.add(t, row, -sigma*along*test)
			if moves {
				for i := range v {
					t.SourceGrad[t.Index(row, a)][i] -= sigma * along * test * v[i]
				}
			}
			if k.varies {
				t.SourceU[t.Index(row, k.t)] += along * conducts * j
			}
		}
	}
	if c := k.made(); c != nil && c.Total == nil {
		row, winds, resists := k.circuit(c), k.winds(q), k.now.At(resistance, q)/c.Volume
		t.Source[a] -= test * winds * p.U[row]
		t.SourceU[t.Index(a, row)] -= test * winds
		t.Source[row] += winds*test*change.value + resists*p.U[row]
		if !k.second {
			t.Source[row] -= k.now.At(voltage, q) / c.Volume
		}
		t.SourceU[t.Index(row, row)] += resists
		change.add(t, row, winds*test)
	}
}

// warmsBy is the power per volume that currents turn into heat at prepared point q, W/m³.
func (k *section) warmsBy(p *fem.Point, q int) (heat float64) {
	if sigma := k.conductivity(q); sigma > 0 {
		e := k.field(p, q)
		heat = sigma * e * e
	}
	if c := k.made(); c != nil && c.Total == nil {
		i := p.U[k.circuit(c)]
		heat += k.now.At(resistance, q) / c.Volume * i * i
	}
	return heat
}

// SuppliesIn says that a body in which there are driven currents, or turns of known resistance, gives off heat.
func (k *section) SuppliesIn(quantity string, body int32) (any, varies bool) {
	b := k.problem.Bodies[body]
	is := quantity == couple.HeatPerVolume && b != nil && (b.Resistivity != nil || b.Circuit != nil)
	return is, is
}

// Supply adds that heat, W/m³.
func (k *section) Supply(_ string, p *fem.Point, j *couple.Jet) { k.supply(p, j, 1) }

// supply adds a share of the heat with its derivatives.
func (k *section) supply(p *fem.Point, j *couple.Jet, share float64) {
	q, c := p.Number, k.made()
	j.Value[0] += share * k.warmsBy(p, q)
	if sigma := k.conductivity(q); sigma > 0 {
		e, change := k.field(p, q), k.rate(p)
		by := 2 * share * sigma * e
		to := j.U
		if change.inTime {
			to = j.Rate
		}
		to[change.of][0] -= by * k.curl(p).test * change.by
		if v, moves := k.velocity(q); moves {
			for i := range v {
				j.Grad[k.a][0][i] -= by * k.curl(p).test * v[i]
			}
		}
		if c != nil && c.Total != nil {
			j.U[k.circuit(c)][0] += by * k.along(p)
		}
		if k.varies {
			_, _, conducts := k.warmth(p, q)
			j.U[k.t][0] += share * conducts * sigma * e * e
		}
	}
	if c != nil && c.Total == nil {
		i := k.circuit(c)
		j.U[i][0] += 2 * share * k.now.At(resistance, q) / c.Volume * p.U[i]
	}
}

// SuppliesAt says that nothing is supplied across joints.
func (k *section) SuppliesAt(string, int) (any, varies bool) { return false, false }

// SupplyJoint adds nothing.
func (k *section) SupplyJoint(string, int, *fem.Point, []float64, *couple.JointJet) error {
	return nil
}
