package fem

import (
	"saltkettle/core/sparse"
)

// ranked solves (A + Σ dₖ·aₖ·aₖᵀ)·x = b for few vectors a that join many unknowns, by the factors of A alone (J. Sherman, W. J. Morrison, Ann.
// Math. Stat. 21 (1950) 124; M. Woodbury, Inverting modified matrices, 1950).
type ranked struct {
	system  *sparse.Matrix[complex128]
	factors *sparse.Factors[complex128]
	along   [][]complex128 // in the sizes of the response, 0 where it holds
	by      []complex128
	answers [][]complex128 // of A to these
	small   [][]complex128 // 1 + d·aᵀ·A⁻¹·a
}

// add takes in a vector, and takes what the held values in x make with it off the right side b.
func (s *ranked) add(along []float64, by complex128, r *Response, x, b []complex128) {
	var held complex128
	v := make([]complex128, len(along))
	for i, a := range along {
		if a == 0 {
			continue
		}
		if r.holds(i) {
			held += complex(a, 0) * x[i]
		} else {
			v[i] = complex(a*r.sizes[i], 0)
		}
	}
	for i, a := range along {
		if a != 0 && !r.holds(i) {
			b[i] -= by * held * complex(a, 0)
		}
	}
	s.along, s.by = append(s.along, v), append(s.by, by)
}

// join finds what the factors make of the vectors.
func (s *ranked) join() {
	for _, a := range s.along {
		answer := make([]complex128, len(a))
		s.factors.Refined(s.system, answer, a, refinements)
		s.answers = append(s.answers, answer)
	}
	for i := range s.along {
		row := make([]complex128, len(s.along))
		for j := range row {
			row[j] = s.by[i] * plain(s.along[i], s.answers[j])
		}
		row[i]++
		s.small = append(s.small, row)
	}
}

// refinements is how often a solution is improved at most.
const refinements = 2

// Solve finds x of a right side and improves it up to so many times.
func (s *ranked) Solve(x, b []complex128, refinements int) {
	s.factors.Refined(s.system, x, b, refinements)
	if len(s.along) == 0 {
		return
	}
	rows, right := make([][]complex128, len(s.small)), make([]complex128, len(s.small))
	for i := range rows {
		rows[i] = append([]complex128(nil), s.small[i]...)
		right[i] = s.by[i] * plain(s.along[i], x)
	}
	for k, by := range eliminate(rows, right) {
		for i, v := range s.answers[k] {
			x[i] -= by * v
		}
	}
}

// plain is the product of two vectors, neither of them conjugated.
func plain(a, b []complex128) (sum complex128) {
	for i, v := range a {
		if v != 0 {
			sum += v * b[i]
		}
	}
	return sum
}
