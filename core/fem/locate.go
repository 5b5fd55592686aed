package fem

import (
	"math"

	"saltkettle/core/mesh"
	"saltkettle/core/spatial"
)

// Place is a place in a cell of a grid, by its coordinates in the reference cell.
type Place struct {
	Block, Cell int // −1 if no cell holds it
	At          [3]float64
}

// OnSide is the slack of [Grid.Locate] for what lies on a side and belongs to the cell.
const OnSide = 1e-9

// Locate returns for each point the cell that holds it. Points may lie outside their cell by
// slack, a part of its size; where cells meet the first one is taken. Points have three
// coordinates each; in the plane the third one is of no account.
func (g *Grid) Locate(points []float64, slack float64) []Place {
	out := make([]Place, len(points)/3)
	for i := range out {
		out[i].Block, out[i].Cell = -1, -1
	}
	bins := spatial.NewBins(points)
	for bi := range g.Blocks {
		b := &g.Blocks[bi]
		in := newInverter(b.Element)
		for cell := range b.Count() {
			lo, hi := in.load(g, b.Nodes(cell), slack)
			bins.Each(lo, hi, func(i int32) {
				if out[i].Cell >= 0 {
					return
				}
				if at, ok := in.find([3]float64(points[3*i:3*i+3]), slack); ok {
					out[i] = Place{bi, cell, at}
				}
			})
		}
	}
	return out
}

// At is the value at a place in the block, from those at nodes.
func (b *Block) At(p Place, values []float64) (v float64) {
	n, dn := make([]float64, b.Element.Count()), make([][3]float64, b.Element.Count())
	b.Element.Shape(p.At, n, dn)
	for i, node := range b.Nodes(p.Cell) {
		v += n[i] * values[node]
	}
	return v
}

// inverter finds places in the reference cell by those in space.
type inverter struct {
	e      *Element
	at     [][3]float64 // of the nodes
	lo, hi [3]float64
	n      []float64
	dn     [][3]float64
}

func newInverter(e *Element) *inverter {
	return &inverter{e: e, at: make([][3]float64, e.Count()), n: make([]float64, e.Count()), dn: make([][3]float64, e.Count())}
}

// bulge is how far the cell of an element of order 2 may reach beyond its nodes, as a part of
// its size.
const bulge = 0.15

// load takes a cell and returns the range in which it holds points.
func (in *inverter) load(g *Grid, nodes []int32, slack float64) (lo, hi [3]float64) {
	lo, hi = g.At(nodes[0]), g.At(nodes[0])
	for i, v := range nodes {
		in.at[i] = g.At(v)
		for d, x := range in.at[i] {
			lo[d], hi[d] = min(lo[d], x), max(hi[d], x)
		}
	}
	reach := 2 * slack // it reaches at most twice as far along an axis
	if in.e.Order > 1 {
		reach += bulge
	}
	size := 0.0
	for d := range lo {
		size = max(size, hi[d]-lo[d])
	}
	for d := range lo {
		more := reach*(hi[d]-lo[d]) + OnSide*size
		lo[d], hi[d] = lo[d]-more, hi[d]+more
	}
	if in.e.Dimension == 2 {
		lo[2], hi[2] = -math.MaxFloat64, math.MaxFloat64
	}
	in.lo, in.hi = lo, hi
	return lo, hi
}

// mostInversions bounds the steps of Newton's method to a place, which are one for simplices of
// order 1 and few for others that are not much distorted.
const mostInversions = 20

// find returns the place of a point in the reference cell, if the cell holds it.
func (in *inverter) find(x [3]float64, slack float64) (at [3]float64, ok bool) {
	for d := range x {
		if x[d] < in.lo[d] || x[d] > in.hi[d] {
			return at, false
		}
	}
	if in.e.Dimension == 1 {
		return in.along(x, slack)
	}
	if in.e.Form == mesh.Triangle || in.e.Form == mesh.Tetrahedron || in.e.Form == mesh.Wedge {
		at[0], at[1] = 1.0/3, 1.0/3
		if in.e.Form == mesh.Tetrahedron {
			at = [3]float64{0.25, 0.25, 0.25}
		}
	}
	for range mostInversions {
		in.e.Shape(at, in.n, in.dn)
		var miss [3]float64
		var j [3][3]float64
		for i, p := range in.at {
			for d := range in.e.Dimension {
				miss[d] += in.n[i] * p[d]
				for k := range in.e.Dimension {
					j[d][k] += p[d] * in.dn[i][k]
				}
			}
		}
		for d := in.e.Dimension; d < 3; d++ {
			j[d][d] = 1
			miss[d] = x[d]
		}
		var c cell
		det := c.invert(&j)
		if det == 0 {
			return at, false
		}
		step := 0.0
		for k := range in.e.Dimension {
			var by float64
			for d := range 3 {
				by += c.inverse[k][d] * (x[d] - miss[d])
			}
			at[k] += by
			step = max(step, math.Abs(by))
			if !(math.Abs(at[k]) < 20) { // it runs away
				return at, false
			}
		}
		if step < 1e-12 {
			break
		}
	}
	return at, in.e.holds(at, slack)
}

// along finds the place of a point on a bar, of which it may be off by [OnSide] of its length.
func (in *inverter) along(x [3]float64, slack float64) (at [3]float64, ok bool) {
	a, b := in.at[0], in.at[1]
	var square, by, off float64
	for d := range x {
		square += (b[d] - a[d]) * (b[d] - a[d])
		by += (b[d] - a[d]) * (x[d] - a[d])
	}
	by /= square
	for d := range x {
		off += math.Pow(x[d]-a[d]-by*(b[d]-a[d]), 2)
	}
	at[0] = 2*by - 1
	return at, off <= OnSide*OnSide*square && in.e.holds(at, slack)
}

// holds says whether a place lies in the reference cell, or outside by slack, a part of its
// size.
func (e *Element) holds(at [3]float64, slack float64) bool {
	within := func(list ...float64) bool {
		for _, x := range list {
			if math.Abs(x) > 1+2*slack {
				return false
			}
		}
		return true
	}
	simplex := func(list ...float64) bool {
		rest := 1.0
		for _, x := range list {
			if x < -slack {
				return false
			}
			rest -= x
		}
		return rest >= -slack
	}
	switch e.Form {
	case mesh.Triangle:
		return simplex(at[:2]...)
	case mesh.Tetrahedron:
		return simplex(at[:]...)
	case mesh.Wedge:
		return simplex(at[:2]...) && within(at[2])
	}
	return within(at[:e.Dimension]...)
}
