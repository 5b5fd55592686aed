package couple

import (
	"fmt"
	"math"

	"saltkettle/core/spatial"
)

// Repeat says that a field has the same values on facets as a way farther on, m: the device is one of many alike.
type Repeat struct {
	Facets []int32
	Shift  [3]float64
}

// closeTo is how far from where it is looked for a node may be, as a part of the way there.
const closeTo = 1e-6

// Partners finds for some points, among others, those that lie a way farther on; −1 for none. Coordinates follow each
// other, m.
func Partners(points, others []float64, shift [3]float64) []int32 {
	within := closeTo * math.Sqrt(shift[0]*shift[0]+shift[1]*shift[1]+shift[2]*shift[2])
	bins := spatial.NewBins(others)
	list := make([]int32, len(points)/3)
	for i := range list {
		var lo, hi [3]float64
		for d := range 3 {
			at := points[3*i+d] + shift[d]
			lo[d], hi[d] = at-within, at+within
		}
		list[i] = -1
		bins.Each(lo, hi, func(k int32) {
			for d := range 3 {
				if x := others[3*int(k)+d]; x < lo[d] || x > hi[d] {
					return
				}
			}
			list[i] = k
		})
	}
	return list
}

// ties are the pairs of nodes of the grid that share their unknowns as fields repeat. All fields of a group do, or none.
func (g *Ground) ties(own []int) (pairs [][2]int32, err error) {
	for _, f := range own {
		if len(g.Fields[f].Repeats) != len(g.Fields[own[0]].Repeats) {
			return nil, fmt.Errorf("couple: %s repeats and %s, with which it is solved, does not", g.Fields[f].Name, g.Fields[own[0]].Name)
		}
	}
	for _, r := range g.Fields[own[0]].Repeats {
		nodes := nodesOf(g.grid, g.sides, r.Facets)
		var at []float64
		for _, v := range nodes {
			x := g.grid.At(v)
			at = append(at, x[:]...)
		}
		for i, partner := range Partners(at, g.grid.Nodes, r.Shift) {
			if partner < 0 {
				return nil, fmt.Errorf("couple: no node lies opposite to node %d", nodes[i])
			}
			pairs = append(pairs, [2]int32{nodes[i], partner})
		}
	}
	return pairs, nil
}
