package solve

import "math"

// Parameters of the estimate of the error of a mesh, after I. Celik and others, J. Fluids
// Eng. 130 (2008) 078001.
const (
	safety      = 1.5  // where three meshes show an order of convergence
	doubtful    = 4.0  // where they do not, or there are but two
	leastOrder  = 0.4  // a smaller observed order is none
	smoothOrder = 2.0  // no larger one is believed
	leastRatio  = 1.1  // of mean cell lengths for a mesh to count as coarser
	leastOfMesh = 1e-9 // of the value: below it the solver's tolerance counts
)

// sample is a reading on a mesh with a mean length of cells.
type sample struct{ length, value float64 }

// meshError estimates the error of the first of two or three values on meshes that are
// coarser one after the other, and the order of convergence that they show, 0 if they show
// none. No order beyond the expected one is believed: it is luck of one of the meshes.
func meshError(s []sample, expected float64) (value, order float64) {
	r21 := s[1].length / s[0].length
	d21 := s[1].value - s[0].value
	floor := leastOfMesh * math.Abs(s[0].value)
	byOrder := func(p, factor float64) float64 { return factor * math.Abs(d21) / (math.Pow(r21, p) - 1) }
	if len(s) == 2 {
		return max(floor, byOrder(expected, doubtful)), 0
	}
	r32 := s[2].length / s[1].length
	d32 := s[2].value - s[1].value
	if math.Abs(d21) <= floor && math.Abs(d32) <= floor {
		return floor, expected
	}
	// What the two coarser meshes would say of the finest.
	coarse := math.Abs(d32) / (math.Pow(r32, expected) - 1) / math.Pow(r21, expected)
	p, ok := observedOrder(d21, d32, r21, r32)
	switch {
	case d21*d32 <= 0:
		// The values swing: what they swing by counts, and may be luck itself.
		return max(floor, 2*math.Abs(d32), byOrder(expected, doubtful)), 0
	case !ok || p < leastOrder:
		return max(floor, byOrder(min(1, expected), doubtful)), 0
	case p < expected:
		return max(floor, byOrder(p, safety)), p
	}
	return max(floor, byOrder(expected, safety), coarse), expected
}

// observedOrder solves for the order p at which differences between meshes of the
// given ratios of lengths fall.
func observedOrder(d21, d32, r21, r32 float64) (float64, bool) {
	if d21 == 0 || d32 == 0 {
		return 0, false
	}
	s := math.Copysign(1, d32/d21)
	p := 2.0
	for range 100 {
		q := math.Log((math.Pow(r21, p) - s) / (math.Pow(r32, p) - s))
		next := math.Abs(math.Log(math.Abs(d32/d21))+q) / math.Log(r21)
		if math.IsNaN(next) || math.IsInf(next, 0) {
			return 0, false
		}
		if math.Abs(next-p) < 1e-6 {
			return next, true
		}
		p = (p + next) / 2
	}
	return p, true
}
