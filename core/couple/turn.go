package couple

import "math"

// Relaxation finds how much of what comes out of a turn is taken over in the next one, by
// Aitken's Δ² for vectors (B. M. Irons, R. C. Tuck, Int. J. Numer. Methods Eng. 1 (1969) 275).
// The zero value works.
type Relaxation struct {
	weight float64
	before []float64 // how far the turn before was off
	off    []float64
}

// Bounds of how much is taken over.
const (
	firstWeight = 0.8
	leastWeight = 0.05
	mostWeight  = 10
)

// Next moves what went into a turn towards what came out of it, and returns the largest
// difference of the two, relative to the largest value.
func (r *Relaxation) Next(in, out []float64) (change float64) {
	size, most := 0.0, 0.0
	r.off = append(r.off[:0], out...)
	for i, v := range in {
		r.off[i] -= v
		most, size = max(most, math.Abs(r.off[i])), max(size, math.Abs(out[i]))
	}
	if r.before == nil {
		r.weight = firstWeight
	} else {
		var dot, square float64
		for i, d := range r.off {
			step := d - r.before[i]
			dot, square = dot+r.before[i]*step, square+step*step
		}
		if square > 0 {
			r.weight = min(mostWeight, max(leastWeight, math.Abs(r.weight*dot/square)))
		}
	}
	r.before = append(r.before[:0], r.off...)
	for i, d := range r.off {
		in[i] += r.weight * d
	}
	if size == 0 {
		return most
	}
	return most / size
}
