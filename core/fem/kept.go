package fem

import (
	"saltkettle/core/parallel"
	"saltkettle/core/sparse"
)

// LinearKernel is a kernel that knows where its terms are linear in the unknowns and their
// rates, with coefficients that depend on nothing else than the place and the time. A
// solution assembles them once.
type LinearKernel interface {
	Kernel
	LinearCells(part int32) bool
	LinearSide(number int) bool
	LinearJoint(number int) bool
}

// takes says that terms are among those that are to be added.
func (a *assembler) takes(linear bool) bool { return a.which == nil || *a.which == linear }

func (a *assembler) linearCells(part int32) bool {
	k, ok := a.kernel.(LinearKernel)
	return ok && k.LinearCells(part)
}

func (a *assembler) linearSide(number int) bool {
	k, ok := a.kernel.(LinearKernel)
	return ok && k.LinearSide(number)
}

func (a *assembler) linearJoint(number int) bool {
	k, ok := a.kernel.(LinearKernel)
	return ok && k.LinearJoint(number)
}

// kept assembles the equations of a kernel at states of one instant, with what is linear
// in them kept from the first: the residual r₀ at u₀ and the matrix K, which give
// r₀ + K·(u − u₀) at u.
type kept struct {
	*System
	kernel Kernel
	// Some says that some terms are linear, which is not worth it if all are.
	some     bool
	start    []float64
	change   []float64 // from there
	residual []float64
	matrix   *sparse.CSR
	// always is what they are at all instants, nil if that is not so.
	always *timeless
}

func (s *System) keep(kernel Kernel, all bool) *kept {
	k := &kept{System: s, kernel: kernel}
	if l, ok := kernel.(LinearKernel); ok && !all {
		asked := map[int32]bool{}
		for _, b := range s.Grid.Blocks {
			for _, part := range b.Part {
				if !asked[part] {
					asked[part] = true
					k.some = k.some || l.LinearCells(part)
				}
			}
		}
	}
	return k
}

// Assemble is [System.Assemble].
func (k *kept) Assemble(at *State, residual []float64, tangent *sparse.CSR) error {
	if k.always != nil {
		k.always.assemble(at, residual, tangent)
		return nil
	}
	if !k.some {
		return k.System.Assemble(k.kernel, at, residual, tangent)
	}
	if k.start == nil {
		if err := k.begin(at); err != nil {
			return err
		}
	}
	if tangent != nil {
		copy(tangent.Data, k.matrix.Data)
	}
	parallel.For(k.N, 4096, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			k.change[i] = at.U[i] - k.start[i]
		}
	})
	k.matrix.MulVec(residual, k.change)
	parallel.For(k.N, 4096, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			residual[i] += k.residual[i]
		}
	})
	if err := k.survey(k.kernel, at); err != nil {
		return err
	}
	others := false
	return k.add(k.kernel, at, residual, tangent, &others)
}

// begin assembles what is linear.
func (k *kept) begin(at *State) error {
	k.matrix = k.NewMatrix()
	k.residual = make([]float64, k.N)
	linear := true
	if err := k.add(k.kernel, at, k.residual, k.matrix, &linear); err != nil {
		return err
	}
	k.change = make([]float64, k.N)
	k.start = append([]float64(nil), at.U...)
	return nil
}
