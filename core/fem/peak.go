package fem

// Peak finds where a field is greatest within an element, from its values at the nodes: the place in the
// reference cell and the value there. One of order 1 is greatest at a corner; one of order 2 is followed
// uphill from its greatest node, in steps that are halved until they are a ten-thousandth of the cell, so
// that the value is met to about 1e-8 of its range in the cell.
func (e *Element) Peak(values []float64) (at [3]float64, value float64) {
	best := 0
	for i, v := range values {
		if v > values[best] {
			best = i
		}
	}
	at, value = e.Nodes[best], values[best]
	if e.Order == 1 {
		return at, value
	}
	n, dn := make([]float64, e.Count()), make([][3]float64, e.Count())
	of := func(p [3]float64) (sum float64) {
		e.shape(p, n, dn)
		for i, v := range values {
			sum += n[i] * v
		}
		return sum
	}
	ways := 1
	for range e.Dimension {
		ways *= 3
	}
	for step := 0.25; step > 1e-4; {
		found := false
		for way := range ways {
			next, rest := at, way
			for d := range e.Dimension {
				next[d] += step * float64(rest%3-1)
				rest /= 3
			}
			if !e.holds(next, 1e-12) {
				continue
			}
			if v := of(next); v > value {
				at, value, found = next, v, true
			}
		}
		if !found {
			step /= 2
		}
	}
	return at, value
}
