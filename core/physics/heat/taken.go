package heat

import (
	"saltkettle/core/couple"
	"saltkettle/core/fem"
)

// taken is heat that other physics supply.
type taken struct {
	supplies []couple.Supply
	jet      *couple.Jet
	joints   *couple.JointJet
	streams  bool // a flow takes heat along
}

func newTaken(supplies []couple.Supply, components int) taken {
	if len(supplies) == 0 {
		return taken{}
	}
	// A fork has a list of its own, which is bound to the forks of those that supply.
	t := taken{append([]couple.Supply(nil), supplies...), couple.NewJet(components), couple.NewJointJet(components), false}
	for _, s := range supplies {
		t.streams = t.streams || s.Quantity == couple.HeatStream
	}
	return t
}

// Bind takes from what stands for the kernels that supply.
func (k *Kernel) Bind(of func(fem.Kernel) fem.Kernel) {
	for i, s := range k.taken.supplies {
		k.taken.supplies[i] = s.Bound(of)
	}
}

func (t *taken) varies() bool {
	for _, s := range t.supplies {
		if s.Varies {
			return true
		}
	}
	return false
}

func (t *taken) variesIn(body int32) bool {
	for _, s := range t.supplies {
		if any, varies := s.Kernel.SuppliesIn(s.Quantity, body); s.Varies && any && varies {
			return true
		}
	}
	return false
}

func (t *taken) variesAt(joint int) bool {
	for _, s := range t.supplies {
		if any, varies := s.Kernel.SuppliesAt(s.Quantity, joint); s.Varies && any && varies {
			return true
		}
	}
	return false
}

// releasesIn says that heat is released in a body.
func (t *taken) releasesIn(body int32) bool {
	for _, s := range t.supplies {
		if any, _ := s.Kernel.SuppliesIn(s.Quantity, body); any && (s.Quantity == couple.HeatPerVolume || s.Quantity == couple.HeatStream) {
			return true
		}
	}
	return false
}

// Streams says that a flow takes heat along.
func (k *Kernel) Streams() bool { return k.taken.streams }

// prepare lets those that supply see points of cells.
func (t *taken) prepare(points []fem.Point) error {
	for _, s := range t.supplies {
		if err := s.Kernel.Prepare(-1, points); err != nil {
			return err
		}
	}
	return nil
}

// cell adds what is released at a point and what is carried there to component a.
func (t *taken) cell(a int, p *fem.Point, to *fem.Terms) {
	for _, s := range t.supplies {
		if s.Quantity == couple.HeatAtJoints {
			continue
		}
		j := t.jet
		j.Reset()
		s.Kernel.Supply(s.Quantity, p, j)
		if s.Quantity == couple.HeatPerVolume {
			to.Source[a] -= j.Value[0]
			for b := range j.U {
				at := to.Index(a, b)
				to.SourceU[at] -= j.U[b][0]
				to.SourceRate[at] -= j.Rate[b][0]
				for d, v := range j.Grad[b][0] {
					to.SourceGrad[at][d] -= v
				}
			}
			continue
		}
		if s.Quantity == couple.HeatStream {
			stream(a, p, j, to)
			continue
		}
		for d := range 3 {
			to.Flux[a][d] -= j.Value[d]
			for b := range j.U {
				at := to.Index(a, b)
				to.FluxU[at][d] -= j.U[b][d]
				for e, v := range j.Grad[b][d] {
					to.FluxGrad[at][d][e] -= v
				}
			}
		}
	}
}

// stream adds what a flow takes along: its heat for each kelvin times the slope of the temperature.
func stream(a int, p *fem.Point, j *couple.Jet, to *fem.Terms) {
	for d := range 3 {
		slope := p.Grad[a][d]
		to.Source[a] += j.Value[d] * slope
		to.SourceGrad[to.Index(a, a)][d] += j.Value[d]
		for b := range j.U {
			to.SourceU[to.Index(a, b)] += j.U[b][d] * slope
		}
	}
}

// spread adds to component a how the eddies of a flow spread heat at a point, and returns their conductivity, W/(m·K).
func (t *taken) spread(a int, p *fem.Point, to *fem.Terms) float64 {
	j := t.jet
	j.Reset()
	for _, s := range t.supplies {
		if k, ok := s.Kernel.(couple.Spreader); ok && s.Quantity == couple.HeatStream {
			k.SpreadHeat(p, j)
		}
	}
	by := j.Value[0]
	if by == 0 {
		return 0
	}
	aa := to.Index(a, a)
	for d, slope := range p.Grad[a] {
		to.Flux[a][d] += by * slope
		to.FluxGrad[aa][d][d] += by
		for b := range j.U {
			to.FluxU[to.Index(a, b)][d] += j.U[b][0] * slope
		}
	}
	return by
}

// stabilise adds to component a, tested along what a flow takes along, all that is at a point but conduction, where
// cells of an order are coarse for the flow, see [couple.StreamTime]: it is all that the terms have as a source.
func (t *taken) stabilise(a int, p *fem.Point, to *fem.Terms, conductivity fem.Tensor, order int) {
	j := t.jet
	j.Reset()
	for _, s := range t.supplies {
		if s.Quantity == couple.HeatStream {
			s.Kernel.Supply(s.Quantity, p, j)
		}
	}
	square, along := 0.0, 0.0
	for d, v := range conductivity.Times(j.Value) {
		square, along = square+j.Value[d]*j.Value[d], along+j.Value[d]*v
	}
	if square == 0 {
		return
	}
	tau, _ := couple.StreamTime(p, j.Value, along/square, order)
	if tau == 0 {
		return
	}
	for d := range 3 {
		by := tau * j.Value[d]
		to.Flux[a][d] += by * to.Source[a]
		for b := range j.U {
			at := to.Index(a, b)
			to.FluxU[at][d] += by*to.SourceU[at] + tau*j.U[b][d]*to.Source[a]
			to.FluxRate[at][d] += by * to.SourceRate[at]
			for e, v := range to.SourceGrad[at] {
				to.FluxGrad[at][d][e] += by * v
			}
		}
	}
}

// joint adds what is released at a point of a joint, half on either side.
func (t *taken) joint(a, number int, p *fem.Point, other []float64, to *fem.JointTerms) error {
	for _, s := range t.supplies {
		if s.Quantity != couple.HeatAtJoints {
			continue
		}
		j := t.joints
		j.Reset()
		if err := s.Kernel.SupplyJoint(s.Quantity, number, p, other, j); err != nil {
			return err
		}
		to.Both[a] -= j.Value / 2
		for b := range j.U {
			at := to.Index(a, b)
			to.BothU[at] -= j.U[b] / 2
			to.BothOther[at] -= j.Other[b] / 2
		}
	}
	return nil
}

// released adds up what is released at a point of a cell.
func (t *taken) released(a int, p *fem.Point, weight float64, sums []float64) {
	for i, s := range t.supplies {
		if s.Quantity == couple.HeatPerVolume {
			t.jet.Reset()
			s.Kernel.Supply(s.Quantity, p, t.jet)
			sums[i] += weight * t.jet.Value[0]
		}
		if s.Quantity == couple.HeatStream { // what is taken along is given by nothing else
			t.jet.Reset()
			s.Kernel.Supply(s.Quantity, p, t.jet)
			for d := range 3 {
				sums[i] -= weight * t.jet.Value[d] * p.Grad[a][d]
			}
		}
	}
}

// EnteringJoint adds up what is released at a point of a joint.
func (k *Kernel) EnteringJoint(number int, p *fem.Point, other []float64, weight float64, sums []float64) error {
	t := &k.taken
	from := k.Accounts() - len(t.supplies)
	for i, s := range t.supplies {
		if s.Quantity != couple.HeatAtJoints {
			continue
		}
		t.joints.Reset()
		if err := s.Kernel.SupplyJoint(s.Quantity, number, p, other, t.joints); err != nil {
			return err
		}
		sums[from+i] += weight * t.joints.Value
	}
	return nil
}

// TakesAtJoints says that heat is released at joints.
func (k *Kernel) TakesAtJoints() bool {
	for _, s := range k.taken.supplies {
		if s.Quantity == couple.HeatAtJoints {
			return true
		}
	}
	return false
}
