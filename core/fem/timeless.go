package fem

import (
	"saltkettle/core/parallel"
	"saltkettle/core/sparse"
)

// TimelessKernel is a kernel that knows whether the time is in any of its terms other than by rates.
type TimelessKernel interface {
	Kernel
	// Timeless says that it is in none.
	Timeless() bool
}

// Timeless says that the time is in none of the terms of a kernel, as far as it knows.
func Timeless(k Kernel) bool {
	for _, k := range Each(k) {
		t, ok := inner(k).(TimelessKernel)
		if !ok || !t.Timeless() {
			return false
		}
	}
	return true
}

// timeless is equations that are linear and the same at all times: what they are where all unknowns are nothing, and
// the matrices by which they change from there with the unknowns and with their rates. What they are at a state does
// not depend on where the march began, so that one that goes on does as one that was never left.
type timeless struct {
	residual, rates []float64
	stiffness, mass *sparse.CSR
	field           []int // of each unknown, nil if all rates have one slope
}

// newTimeless assembles those of a kernel with what is given at a state.
func (s *System) newTimeless(kernel Kernel, at *State) (*timeless, error) {
	t := &timeless{residual: make([]float64, s.N), rates: make([]float64, s.N)}
	still := &State{U: make([]float64, s.N), Rate: make([]float64, s.N), Time: at.Time, Given: at.Given}
	var err error
	if t.stiffness, t.mass, err = s.Linearised(kernel, still); err != nil {
		return nil, err
	}
	if len(s.Fields) > 1 {
		t.field = s.FieldOf()
	}
	return t, s.Assemble(kernel, still, t.residual, nil)
}

// assemble is [System.Assemble] at a state.
func (t *timeless) assemble(at *State, residual []float64, tangent *sparse.CSR) {
	t.stiffness.MulVec(residual, at.U)
	t.mass.MulVec(t.rates, at.Rate)
	parallel.For(len(residual), 4096, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			residual[i] += t.residual[i] + t.rates[i]
		}
	})
	if tangent == nil {
		return
	}
	parallel.For(len(tangent.Data), 1<<15, func(_, lo, hi int) {
		if at.RateSlopes == nil || t.field == nil {
			slope := at.RateSlope
			if at.RateSlopes != nil {
				slope = at.RateSlopes[0]
			}
			for k := lo; k < hi; k++ {
				tangent.Data[k] = t.stiffness.Data[k] + slope*t.mass.Data[k]
			}
			return
		}
		for k := lo; k < hi; k++ {
			tangent.Data[k] = t.stiffness.Data[k] + at.RateSlopes[t.field[tangent.Cols[k]]]*t.mass.Data[k]
		}
	})
}
