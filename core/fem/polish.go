package fem

// polishes is how many whole steps more there are at most.
const polishes = 4

// polish makes whole steps for as long as the residual falls by much. The reactions follow.
func (n *newton) polish() error {
	if err := n.assemble(true); err != nil {
		return err
	}
	now, _ := sizes(n.residual, n.c.Fixed)
	var rate []float64
	for range polishes {
		if n.direction(n.goal) != nil {
			break // what there is solves the equations to the tolerance
		}
		copy(n.before, n.at.U)
		rate = append(rate[:0], n.at.Rate...)
		n.take(1, rate)
		if err := n.assemble(true); err != nil {
			return err
		}
		next, _ := sizes(n.residual, n.c.Fixed)
		if !(next < now) {
			copy(n.at.U, n.before)
			copy(n.at.Rate, rate)
			break
		}
		enough := next > polished*now
		if now = next; enough {
			break
		}
	}
	if err := n.assemble(false); err != nil {
		return err
	}
	n.settle()
	return nil
}

// polished is the part of the residual to which a step must let it fall for another one to be made.
const polished = 0.1
