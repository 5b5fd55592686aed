package fem

import (
	"math"

	"saltkettle/core/sparse"
)

// Artificial is a time through which a steady state is approached where Newton's method alone does not lead to it: each
// step is one of Newton's for an implicit step in that time (C. T. Kelley and D. E. Keyes, SIAM J. Numer. Anal. 35 (1998)
// 508), as long as the fields change by about artificialChange of what they are apart. It grows by itself as they change
// less.
type Artificial struct {
	// First is the length of the first step, s; it is shortened until it fits.
	First float64
	// Mass is what resists the change of the unknowns. Fields without any follow at once.
	Mass *sparse.CSR
}

// Inertia is the derivative of the terms of a kernel by the rates of the unknowns.
func (s *System) Inertia(kernel Kernel, at *State) (*sparse.CSR, error) {
	residual, mass := make([]float64, s.N), s.NewMatrix()
	err := s.Assemble(kernel, &State{U: at.U, Rate: make([]float64, s.N), RateSlope: 1, ByRates: true, Time: at.Time, Given: at.Given}, residual, mass)
	return mass, err
}

const (
	artificialChange = 0.25 // of a field in a step
	artificialMost   = 1.0  // beyond it a step is made again, shorter
	artificialGrow   = 3.0
	artificialShrink = 0.1
	artificialTries  = 12 // of a step
)

// passing is such an approach under way.
type passing struct {
	*Artificial
	mass *sparse.CSR // with what relations leave
	dt   float64
	// What is looked at from step to step: the time and a sum of all that moves, with signs that stand for no shape.
	time   float64
	times  []float64
	signal []float64
	moves  []bool    // fields that the mass resists
	sizes  []float64 // how far the values of each field have been apart
}

// newPassing begins one.
func (n *newton) newPassing() *passing {
	p := &passing{Artificial: n.set.Artificial, dt: n.set.Artificial.First, moves: make([]bool, len(n.Fields)), sizes: make([]float64, len(n.Fields))}
	p.mass = p.Mass
	if n.eliminated != nil {
		p.mass = n.eliminated.matrix()
		n.eliminated.tangent(p.mass, p.Mass)
	}
	for i := range n.N {
		for k := p.mass.Rows[i]; k < p.mass.Rows[i+1]; k++ {
			if p.mass.Data[k] != 0 {
				p.moves[n.fieldOf(i)] = true
			}
		}
	}
	return p
}

// pass makes a step in artificial time and leaves the residual and the tangent of where it leads.
func (n *newton) pass(now float64) (float64, error) {
	p := n.passing
	copy(n.before, n.at.U)
	for f, v := range n.spread() {
		p.sizes[f] = max(p.sizes[f], v)
	}
	for try := 0; ; try++ {
		if err := n.direction(now); err != nil {
			return 0, err
		}
		change := 0.0
		for i, d := range n.step {
			if f := n.fieldOf(i); p.moves[f] && p.sizes[f] > 0 {
				change = max(change, math.Abs(d)/p.sizes[f])
			}
		}
		if change <= artificialMost || try == artificialTries {
			for i, d := range n.step {
				n.at.U[i] = n.before[i] + d
			}
			err := n.assemble(true)
			if err == nil {
				p.look(n)
				p.dt *= min(artificialGrow, max(artificialShrink, artificialChange/max(change, 1e-300)))
				n.Parts = append(n.Parts, 1)
				return n.judge(), nil
			}
			if try == artificialTries {
				return 0, err
			}
			copy(n.at.U, n.before)
		}
		p.dt *= artificialShrink
		if err := n.assemble(true); err != nil { // the tangent has been changed
			return 0, err
		}
	}
}

// look notes the sum of all that moves, each value with a sign of its own.
func (p *passing) look(n *newton) {
	p.time += p.dt
	sum, sign := 0.0, uint32(1)
	for i, v := range n.at.U {
		sign = sign*1664525 + 1013904223
		if f := n.fieldOf(i); p.moves[f] && p.sizes[f] > 0 {
			if v /= p.sizes[f]; sign>>31 == 1 {
				v = -v
			}
			sum += v
		}
	}
	p.times, p.signal = append(p.times, p.time), append(p.signal, sum)
}

// period is that of a swing that goes on, s, 0 for none: of the later half of what was looked at, between the times at
// which it goes up through its mean.
func (p *passing) period() float64 {
	from := len(p.times) / 2
	times, signal := p.times[from:], p.signal[from:]
	if len(times) < 8 {
		return 0
	}
	mean, span := 0.0, times[len(times)-1]-times[0]
	for i := range times[1:] {
		mean += (signal[i] + signal[i+1]) / 2 * (times[i+1] - times[i]) / span
	}
	var ups []float64
	for i := range times[1:] {
		if a, b := signal[i]-mean, signal[i+1]-mean; a < 0 && b >= 0 {
			ups = append(ups, times[i]+(times[i+1]-times[i])*a/(a-b))
		}
	}
	if len(ups) < 3 {
		return 0
	}
	return (ups[len(ups)-1] - ups[0]) / float64(len(ups)-1)
}

// spread is how far the values of each field are apart, or if all are the same from nothing.
func (n *newton) spread() []float64 {
	lo, hi := make([]float64, len(n.Fields)), make([]float64, len(n.Fields))
	for f := range lo {
		lo[f], hi[f] = math.Inf(1), math.Inf(-1)
	}
	for i, v := range n.at.U {
		f := n.fieldOf(i)
		lo[f], hi[f] = min(lo[f], v), max(hi[f], v)
	}
	for f := range hi {
		if hi[f] > lo[f] {
			hi[f] -= lo[f]
		} else {
			hi[f] = math.Abs(hi[f])
		}
	}
	return hi
}
