package fem

import (
	"math"
	"slices"
)

// leastPart is the shortest part of a step of Newton's method that is tried.
const leastPart = 1.0 / 64

// search takes as much of the step as makes the residual fall, or all of it if asked
// to.
func (n *newton) search(now float64, all bool) (float64, error) {
	copy(n.before, n.at.U)
	// The tangent is left out where the step probably leads to the end.
	tangent := !n.last(now)
	var rate []float64
	if n.at.Rate != nil {
		rate = append(rate, n.at.Rate...)
	}
	for part := 1.0; ; part /= 2 {
		n.take(part, rate)
		err := n.assemble(tangent)
		next := now
		if err == nil {
			next = n.judge()
		} else if part <= leastPart {
			copy(n.at.U, n.before) // where it could be assembled
			copy(n.at.Rate, rate)
			return 0, err
		}
		if err == nil && (all || next < (1-0.1*part)*now || part <= leastPart) {
			n.Parts = append(n.Parts, part)
			return next, nil
		}
	}
}

// take goes a part of the step from where it begins, rates too if there are any.
func (n *newton) take(part float64, rate []float64) {
	for i, d := range n.step {
		n.at.U[i] = n.before[i] + part*d
		if rate != nil {
			n.at.Rate[i] = rate[i] + n.slope(i)*part*d
		}
	}
}

// flat is how flat the energy is along a step where it is long enough, relative to how steep it is where that begins, and mostTries how
// often that is looked for.
const (
	flat      = 0.5
	mostTries = 6
)

// downhill takes as much of the step as leads near the least energy along it, of which the residual is the slope: where that rises
// behind the end of the step all of it, else what a chord of the slope says.
func (n *newton) downhill(now float64, all bool) (float64, error) {
	copy(n.before, n.at.U)
	var rate []float64
	if n.at.Rate != nil {
		rate = append(rate, n.at.Rate...)
	}
	steep := n.along()
	low, part := 0., min(1, 2*n.reach())
	at := steep // slope at low
	for try := 1; ; try++ {
		n.take(part, rate)
		// The first is as a rule good: its tangent costs little more than looking whether it is.
		tangent := try == 1 && !n.last(now)
		err := n.assemble(tangent)
		if err != nil && part <= leastPart {
			copy(n.at.U, n.before)
			copy(n.at.Rate, rate)
			return 0, err
		}
		slope := math.Inf(1)
		if err == nil {
			slope = n.along()
		}
		if err == nil && (all || slope <= flat*math.Abs(steep) || try >= mostTries || part <= leastPart) && (slope >= -flat*math.Abs(steep) || part == 1 || try >= mostTries) {
			n.Parts = append(n.Parts, part)
			if tangent || n.last(now) && part == 1 {
				return n.judge(), nil
			}
			if err := n.assemble(true); err != nil {
				return 0, err
			}
			return n.judge(), nil
		}
		switch {
		case slope < 0: // too short after all
			low, at = part, slope
			part = min(1, 2*part)
		case math.IsInf(slope, 0) || math.IsNaN(slope):
			part = low + (part-low)/2
		default:
			part = low + (part-low)*min(0.7, max(0.1, at/(at-slope)))
		}
	}
}

// along is the residual along the step: the slope of the energy of what has one.
func (n *newton) along() (sum float64) {
	for i, r := range n.residual {
		if !n.c.Fixed[i] {
			sum += r * n.step[i]
		}
	}
	return sum
}

// boldly takes the whole step.
func (n *newton) boldly(now float64, _ bool) (float64, error) {
	copy(n.before, n.at.U)
	n.take(1, slices.Clone(n.at.Rate))
	if err := n.assemble(!n.last(now)); err != nil {
		copy(n.at.U, n.before) // where it could be assembled
		return 0, err
	}
	n.Parts = append(n.Parts, 1)
	return n.judge(), nil
}

// naturally takes as much of the step as makes what a step with the same tangent would be from there shorter.
func (n *newton) naturally(now float64, all bool) (float64, error) {
	copy(n.before, n.at.U)
	scale := n.sizesOf()
	whole := n.length(n.step, scale)
	if n.again == nil {
		n.again, n.right = make([]float64, n.N), make([]float64, n.N)
	}
	for part := min(1, 2*n.reach()); ; part /= 2 {
		n.take(part, nil)
		err := n.assemble(false)
		short := part <= leastPart
		if err != nil && short {
			copy(n.at.U, n.before)
			return 0, err
		}
		good := err == nil && (all || short)
		if err == nil && !good {
			for i, r := range n.residual {
				if n.right[i] = -r; n.c.Fixed[i] {
					n.right[i] = 0
				}
			}
			if err := n.set.Again(n.again, n.right); err != nil {
				return 0, err
			}
			// Whole of a shorter step there is (1 − part) of it left, were the equations linear.
			good = n.length(n.again, scale) <= (1-part/4)*whole
		}
		if !good {
			continue
		}
		n.Parts = append(n.Parts, part)
		if n.last(now) && part == 1 {
			return n.judge(), nil
		}
		if err := n.assemble(true); err != nil {
			return 0, err
		}
		return n.judge(), nil
	}
}

// reach is how much of the last step was taken, 1 before there was one.
func (n *newton) reach() float64 {
	if len(n.Parts) == 0 {
		return 1
	}
	return n.Parts[len(n.Parts)-1]
}

// sizesOf are the largest values of the fields, or of the step in them, to which changes are compared.
func (n *newton) sizesOf() []float64 {
	scale := make([]float64, len(n.scale))
	for i, v := range n.at.U {
		f := n.fieldOf(i)
		scale[f] = max(scale[f], math.Abs(v), math.Abs(n.step[i]))
	}
	return scale
}

// length is the root of the sum of the squares of changes, relative to the sizes of their fields.
func (n *newton) length(step, scale []float64) (sum float64) {
	for i, d := range step {
		f := n.fieldOf(i)
		if scale[f] > 0 {
			d /= scale[f]
		}
		sum += d * d
	}
	return math.Sqrt(sum)
}
