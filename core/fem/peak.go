package fem

import (
	"math"
	"sync"

	"saltkettle/core/mesh"
)

// Ceiling is a bound of what a field may rise to within an element of order 2, from its values at the nodes: the greatest at a corner, above which the
// part of order 1 never is, and as much as what bends, at the other nodes, can add.
func (e *Element) Ceiling(values []float64) float64 {
	c := ceilings()[e]
	top, bend := math.Inf(-1), 0.
	for _, v := range values[:e.Corners] {
		top = max(top, v)
	}
	for k, low := range c.low {
		level := 0.
		for i, n := range low {
			level += n * values[i]
		}
		bend = max(bend, math.Abs(values[e.Corners+k]-level))
	}
	return top + c.most*bend
}

// ceiling has the functions of order 1 of an element at its nodes that are no corners, and the most that the sizes of its functions of these
// come to.
type ceiling struct {
	low  [][]float64
	most float64
}

// ceilings are those of all elements of order 2.
var ceilings = sync.OnceValue(func() map[*Element]ceiling {
	const parts, slack = 24, 1.05 // between places that are looked at
	all := map[*Element]ceiling{}
	for _, pair := range elements {
		linear, e := pair[0], pair[1]
		var c ceiling
		n, dn := make([]float64, e.Count()), make([][3]float64, e.Count())
		for _, at := range e.Nodes[e.Corners:] {
			low := make([]float64, e.Corners)
			linear.shape(at, low, dn)
			c.low = append(c.low, low)
		}
		places := 1
		for range e.Dimension {
			places *= parts + 1
		}
		for place := range places {
			var at [3]float64
			for d := range e.Dimension {
				at[d] = 2*float64(place%(parts+1))/parts - 1
				place /= parts + 1
			}
			if !e.holds(at, 1e-12) {
				continue
			}
			e.shape(at, n, dn)
			sum := 0.
			for _, v := range n[e.Corners:] {
				sum += math.Abs(v)
			}
			c.most = max(c.most, sum*slack)
		}
		all[e] = c
	}
	return all
})

// Peak finds where a field is greatest within an element, from its values at the nodes: the place in the
// reference cell and the value there. One of order 1 is greatest at a corner; one of order 2 is followed
// uphill from its greatest node, along lines each to the top of the parabola that it is there, until
// that no longer adds 1e-10 of its range in the cell.
func (e *Element) Peak(values []float64) (at [3]float64, value float64) {
	best, least := 0, values[0]
	for i, v := range values {
		if v > values[best] {
			best = i
		}
		least = min(least, v)
	}
	at, value = e.Nodes[best], values[best]
	if e.Order == 1 || value == least {
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
	on := func(t float64, way [3]float64) (p [3]float64) {
		for d := range p {
			p[d] = at[d] + t*way[d]
		}
		return p
	}
	const enough, sweeps = 1e-10, 60
	for range sweeps {
		before := value
		for _, way := range uphill[e.Dimension] {
			lo, hi := e.within(at, way)
			if hi-lo < 1e-9 {
				continue
			}
			low, high := of(on(lo, way)), of(on(hi, way))
			middle := of(on((lo+hi)/2, way))
			t, v := lo, low
			if high > v {
				t, v = hi, high
			}
			if bend := low - 2*middle + high; bend < 0 {
				top := min(hi, max(lo, (lo+hi)/2+(hi-lo)/4*(low-high)/bend))
				if there := of(on(top, way)); there > v {
					t, v = top, there
				}
			}
			if v > value {
				at, value = on(t, way), v
			}
		}
		if value-before <= enough*(value-least) {
			break
		}
	}
	return at, value
}

// uphill are the lines along which elements are searched, by their dimension: the axes and what lies between two of them.
var uphill = func() (all [4][][3]float64) {
	for dimension := 1; dimension <= 3; dimension++ {
		list := &all[dimension]
		for d := range dimension {
			var way [3]float64
			way[d] = 1
			*list = append(*list, way)
		}
		for a := range dimension {
			for b := range a {
				for _, sign := range []float64{-1, 1} {
					var way [3]float64
					way[a], way[b] = sign, 1
					*list = append(*list, way)
				}
			}
		}
	}
	return all
}()

// within is how far a line from a place in the reference cell may go, back and on.
func (e *Element) within(at, way [3]float64) (lo, hi float64) {
	lo, hi = math.Inf(-1), math.Inf(1)
	below := func(x, slope, most float64) { // x + t·slope is no more than that
		switch {
		case slope > 0:
			hi = min(hi, (most-x)/slope)
		case slope < 0:
			lo = max(lo, (most-x)/slope)
		}
	}
	simplex := 0 // how many axes are those of one
	switch e.Form {
	case mesh.Triangle, mesh.Wedge:
		simplex = 2
	case mesh.Tetrahedron:
		simplex = 3
	}
	sum, slope := 0., 0.
	for d := range e.Dimension {
		if d < simplex {
			below(-at[d], -way[d], 0)
			sum, slope = sum+at[d], slope+way[d]
			continue
		}
		below(at[d], way[d], 1)
		below(-at[d], -way[d], 1)
	}
	if simplex > 0 {
		below(sum, slope, 1)
	}
	return min(lo, 0), max(hi, 0)
}
