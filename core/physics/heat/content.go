package heat

import (
	"math"
	"slices"

	"saltkettle/core/law"
)

// content is the heat that a volume of a body holds by its temperature, J/m³: the integral
// of ρc. Between knots ρc is smooth and taken as the parabola through its values at both
// ends and in the middle, which tables of straight lines are exactly.
type content struct {
	constant    bool
	value       float64 // of ρc, if it is constant
	knots, sums []float64
	ends        [][3]float64 // of ρc between the knots: at the lower one, the middle, the upper one
}

// Temperatures between which the heat content is tabulated, K, in steps of at most
// contentStep; beyond them ρc stays as it is there.
const (
	coldest, hottest = 1, 6000
	contentStep      = 3
)

func newContent(b *Body) *content {
	c := &content{}
	if !anyUses([]Law{b.Density, b.Capacity}) {
		c.constant, c.value = true, heatCapacity(b, []float64{law.UsualTemperature})[0]
		return c
	}
	for t := float64(coldest); t < hottest; t += contentStep {
		c.knots = append(c.knots, t)
	}
	c.knots = append(c.knots, hottest)
	for _, l := range []Law{b.Density, b.Capacity} {
		// More of them than that are as good as smooth.
		if breaks, err := l.Breaks(law.Temperature, coldest, hottest, 4000); err == nil {
			c.knots = append(c.knots, breaks...)
		}
	}
	slices.Sort(c.knots)
	c.knots = slices.Compact(c.knots)
	n := len(c.knots) - 1
	var at []float64
	for i := range n {
		from, to := c.knots[i], c.knots[i+1]
		inset := 1e-9 * (to - from) // ρc may jump at knots
		at = append(at, from+inset, from+(to-from)/2, to-inset)
	}
	v := heatCapacity(b, at)
	c.sums, c.ends = make([]float64, n+1), make([][3]float64, n)
	for i := range n {
		c.ends[i] = [3]float64(v[3*i : 3*i+3])
		c.sums[i+1] = c.sums[i] + c.within(i, c.knots[i+1])
	}
	return c
}

// heatCapacity is ρc at temperatures; where a law is not defined it counts as nothing.
func heatCapacity(b *Body, at []float64) []float64 {
	in := make([][]float64, len(law.Variables))
	in[law.Temperature] = at
	rho, c := make([]float64, len(at)), make([]float64, len(at))
	b.Density.NewWork().Run(in, rho)
	b.Capacity.NewWork().Run(in, c)
	for i := range rho {
		if rho[i] *= c[i]; math.IsNaN(rho[i]) || math.IsInf(rho[i], 0) {
			rho[i] = 0
		}
	}
	return rho
}

// within is the integral from knot i up to a temperature before the next one.
func (c *content) within(i int, t float64) float64 {
	h, e := c.knots[i+1]-c.knots[i], c.ends[i]
	x := (t - c.knots[i]) / h
	slope, bend := -3*e[0]+4*e[1]-e[2], 2*(e[0]-2*e[1]+e[2])
	return h * x * (e[0] + x*(slope/2+x*bend/3))
}

// below is the heat held at a temperature, from the first knot on.
func (c *content) below(t float64) float64 {
	n := len(c.knots) - 1
	switch {
	case t <= c.knots[0]:
		return (t - c.knots[0]) * c.ends[0][0]
	case t >= c.knots[n]:
		return c.sums[n] + (t-c.knots[n])*c.ends[n-1][2]
	}
	i := c.interval(t)
	return c.sums[i] + c.within(i, t)
}

// interval is the number of the knot below a temperature between the first and the last.
func (c *content) interval(t float64) int {
	i, _ := slices.BinarySearch(c.knots, t)
	return max(i-1, 0)
}

// between is the heat taken up from one temperature to another.
func (c *content) between(from, to float64) float64 {
	if c.constant {
		return c.value * (to - from)
	}
	lo, hi := min(from, to), max(from, to)
	if lo > c.knots[0] && hi < c.knots[len(c.knots)-1] {
		if i := c.interval(lo); i == c.interval(hi) {
			return c.within(i, to) - c.within(i, from) // without the round-off of large sums
		}
	}
	return c.below(to) - c.below(from)
}
