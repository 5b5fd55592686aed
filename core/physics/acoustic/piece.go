package acoustic

import (
	"saltkettle/core/fem"
	"saltkettle/core/sparse"
)

// piece is a part of the matrix of what swings: the derivatives of a kernel by values, or by rates, with what they count with at an angular
// frequency.
type piece struct {
	kernel  *Kernel
	byRates bool
	factor  func(omega float64) complex128
}

// pieces are all of which the cells of a matrix are the sum.
func (k *Kernel) pieces() []piece {
	list := []piece{
		{k.as(whole, 0), false, func(float64) complex128 { return 1 }},
		{k.as(whole, 0), true, func(omega float64) complex128 { return complex(-omega*omega, 0) }}}
	for _, part := range k.Spectrum() {
		if of := part.Kernel.(*Kernel); of.role != wall && of.role != drive { // these have sides alone
			list = append(list, piece{of, false, part.Factor})
		}
	}
	return list
}

// assemble makes the matrix of a piece by the cells of some bodies alone, with what swings there.
func (p piece) assemble(s *fem.System, at *fem.State, bodies map[int32]bool) (matrix *sparse.CSR, load []float64, err error) {
	state := fem.State{U: make([]float64, s.N), Rate: make([]float64, s.N), Time: at.Time, Given: at.Given, Swing: 1, ByRates: p.byRates}
	if p.byRates {
		state.RateSlope = 1
	}
	matrix, load = s.NewMatrix(), make([]float64, s.N)
	return matrix, load, s.Assemble(within{p.kernel, bodies}, &state, load, matrix)
}

// within is a kernel in the cells of some bodies alone.
type within struct {
	*Kernel
	bodies map[int32]bool
}

func (w within) Fork() fem.Kernel { return within{w.Kernel.Fork().(*Kernel), w.bodies} }

func (w within) Cell(p *fem.Point, t *fem.Terms) error {
	if !w.bodies[p.Part] {
		return nil
	}
	return w.Kernel.Cell(p, t)
}

// Side adds nothing.
func (w within) Side(int, *fem.Point, *fem.Terms) error { return nil }

// Joint adds nothing.
func (w within) Joint(int, *fem.Point, []float64, *fem.JointTerms) error { return nil }
