package couple

import (
	"math"

	"saltkettle/core/fem"
)

// StreamTime is the time τ, s, by which what is carried along with a velocity u, m/s, and spreads with a diffusivity,
// m²/s, is stabilised in cells of an order that are coarse for it: to its equation, tested with v, that tested with
// τ u·∇v is added, without what spreads (A. N. Brooks and T. J. R. Hughes, Comput. Methods Appl. Mech. Eng. 32
// (1982) 199). Where a function of the cell spans so little that spreading keeps it smooth, at cell Péclet numbers
// up to 1, it is nothing, so that it takes nothing from the order. slope is its derivative by the diffusivity, s²/m².
func StreamTime(p *fem.Point, u [3]float64, diffusivity float64, order int) (tau, slope float64) {
	g := p.Metric()
	through := 0.0
	for i := range 3 {
		for j := range 3 {
			through += u[i] * g[i][j] * u[j]
		}
	}
	if through == 0 {
		return 0, 0
	}
	half := 1 / (float64(order) * math.Sqrt(through)) // the time through half the reach of a function
	peclet := (u[0]*u[0] + u[1]*u[1] + u[2]*u[2]) * half
	if peclet <= diffusivity {
		return 0, 0
	}
	return half * (1 - diffusivity/peclet), -half / peclet
}
