package sparse

import (
	"fmt"
	"math"

	"saltkettle/core/dense"
	"saltkettle/core/parallel"
)

// scale finds factors for rows and columns that bring the largest element of each
// near 1.
func (f *Factors[T]) scale(m *Matrix[T]) error {
	row, err := m.largest(nil)
	if err != nil {
		return err
	}
	var col []float64
	if f.a.Kind == Unsymmetric {
		for i, v := range row {
			row[i] = inverse(v)
		}
		col = m.largestOfColumns(row)
		for j, v := range col {
			col[j] = inverse(v)
		}
	} else {
		// Twice the roots, as D. Ruiz (RAL-TR-2001-034) has it, keep the symmetry.
		for i, v := range row {
			row[i] = math.Sqrt(inverse(v))
		}
		again, err := m.largest(row)
		if err != nil {
			return err
		}
		for i, v := range again {
			row[i] *= math.Sqrt(inverse(v))
		}
		col = row
	}
	f.rows, f.cols = make([]float64, len(row)), make([]float64, len(row))
	for k, v := range f.a.order {
		// Powers of two do not round.
		f.rows[k], f.cols[k] = power(row[v]), power(col[v])
	}
	return nil
}

// inverse is 1/x, and 1 for an empty row or column.
func inverse(x float64) float64 {
	if x == 0 {
		return 1
	}
	return 1 / x
}

func power(x float64) float64 {
	_, e := math.Frexp(x)
	return math.Ldexp(1, e)
}

// largest is the largest magnitude in each row, with rows and columns multiplied by
// factors, nil for none.
func (m *Matrix[T]) largest(factor []float64) ([]float64, error) {
	out := make([]float64, m.N())
	parallel.For(m.N(), rowGrain, func(_, lo, hi int) {
		for i := lo; i < hi; i++ {
			cols, data := m.Row(i)
			for k, c := range cols {
				v := dense.Magnitude(data[k])
				if factor != nil {
					v *= factor[i] * factor[c]
				}
				out[i] = max(out[i], v) // an undefined value stays
			}
		}
	})
	for i, v := range out {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return nil, fmt.Errorf("sparse: row %d of the matrix has an element that is not finite", i)
		}
	}
	return out, nil
}

// largestOfColumns is the largest magnitude in each column of the matrix whose rows
// are multiplied by factors.
func (m *Matrix[T]) largestOfColumns(factor []float64) []float64 {
	out := make([]float64, m.N())
	for i, f := range factor {
		cols, data := m.Row(i)
		for k, c := range cols {
			out[c] = max(out[c], dense.Magnitude(data[k])*f)
		}
	}
	return out
}
