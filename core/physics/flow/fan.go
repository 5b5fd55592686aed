package flow

import (
	"fmt"
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// fan is an opening whose pressure follows from how much comes in through all of it.
type fan struct {
	pressure Law
	work     interface {
		Run(in [][]float64, out []float64, slopes ...[]float64)
	}
	in [][]float64
	// Of the state that was surveyed last: what comes in, m³/s, the pressure, Pa, and its slope, Pa·s/m³.
	flow, now, slope float64
	// lets is how much goes out with each unknown, m², by equation.
	lets map[int32]float64
}

// newFan prepares one.
func newFan(pressure Law) *fan {
	f := &fan{pressure: pressure, in: make([][]float64, len(law.Variables))}
	for v := range f.in {
		f.in[v] = make([]float64, 1)
	}
	f.work = pressure.NewWork(law.VolumeFlow)
	return f
}

// at finds the pressure at a flow.
func (f *fan) at(flow float64) error {
	f.flow, f.in[law.VolumeFlow][0] = flow, flow
	var now, slope [1]float64
	f.work.Run(f.in, now[:], slope[:])
	if f.now, f.slope = now[0], slope[0]; math.IsNaN(f.now) || math.IsInf(f.now, 0) {
		return &law.Error{Body: -1, What: fmt.Sprintf("pressure of a fan at %.3g m³/s", flow), Value: f.now}
	}
	return nil
}

// pressureAt is that of an opening at a point of its side.
func (k *Kernel) pressureAt(opening, point int) float64 {
	if f := k.fans[opening]; f != nil {
		return f.now
	}
	return k.sides[opening].At(0, point)
}

// surveyFans finds what comes in through each fan at a state, and its pressure.
func (k *Kernel) surveyFans(s *fem.System, at *fem.State) error {
	for i, f := range k.fans {
		if f == nil {
			continue
		}
		if f.lets == nil {
			var err error
			if f.lets, err = k.letting(s, k.problem.Openings[i].Facets); err != nil {
				return err
			}
		}
		flow := 0.0
		for e, area := range f.lets {
			flow -= area * at.U[e]
		}
		if err := f.at(flow); err != nil {
			return err
		}
	}
	return nil
}

// letting is how much goes out through facets with each unknown: the integral of its function times the normal.
func (k *Kernel) letting(s *fem.System, facets []int32) (lets map[int32]float64, err error) {
	lets = map[int32]float64{}
	field := s.FieldAt(k.u)
	sides := make([]fem.Side, len(facets))
	for i, facet := range facets {
		sides[i] = k.group.Side(facet, false)
	}
	err = s.EachFunction(sides, func(node int32, value, weight float64, normal [3]float64) {
		for i := range k.n {
			if e := s.Equation(field, i, node); e >= 0 {
				lets[e] += weight * value * normal[i]
			}
		}
	})
	return lets, err
}

// Distant says that what comes in through a fan at one place changes its pressure at all others, or what repeats is pushed
// everywhere by how much of it there is.
func (k *Kernel) Distant() bool {
	for _, f := range k.fans {
		if f != nil {
			return true
		}
	}
	return k.again != nil && k.again.ByVolume
}

// AddDistant adds to dst how the residual changes by the pressures of fans with a change of the unknowns, and by that which
// a flow that repeats loses.
func (k *Kernel) AddDistant(dst, change []float64) {
	k.addAgain(dst, change)
	for _, f := range k.fans {
		if f == nil {
			continue
		}
		flow := 0.0
		for e, area := range f.lets {
			flow -= area * change[e]
		}
		for e, area := range f.lets {
			dst[e] += f.slope * flow * area
		}
	}
}
