package flow

import "saltkettle/core/fem"

// Graded is how many components the velocity has.
func (k *Kernel) Graded() int { return k.n }

// Slopes is the friction that a component of the velocity drives along each axis, Pa: where it is not exact, forces and what
// is carried along are not.
func (k *Kernel) Slopes(i int, points []fem.Point, out [][]float64) error {
	if err := k.Prepare(-1, points); err != nil {
		return err
	}
	for q := range points {
		for d := range out {
			out[d][q] = 0
		}
		if k.now == nil {
			continue
		}
		mu := k.rubs(&points[q], q).mu
		for d := range k.n {
			out[d][q] = mu * points[q].Grad[k.u+i][d]
		}
	}
	return nil
}
