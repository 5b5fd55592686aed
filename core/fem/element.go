package fem

import (
	"fmt"
	"math"

	"saltkettle/core/mesh"
)

// Element is a Lagrange element of order 1 or 2 on a reference cell. Its corners
// come first, in the order of the element of order 1.
type Element struct {
	Form      mesh.Form
	Order     int
	Dimension int
	// Nodes are the places of the nodes in the reference cell.
	Nodes [][3]float64
	// Facets lists the corners of each side of the cell, turning left seen from
	// outside; for a cell of the plane its edges, turning left about it.
	Facets [][]int
	// Corners is the number of corners.
	Corners int
	// Regular takes the reference cell to one whose edges are all 2 long, which does not depend on the order of its
	// corners.
	Regular [3][3]float64
	// shape computes the functions and their derivatives at a point.
	shape func(p [3]float64, n []float64, dn [][3]float64)
	// all are the numbers of all nodes, and facets those of the nodes on each facet, corners first.
	all    []int
	facets [][]int
}

// Count is the number of nodes.
func (e *Element) Count() int { return len(e.Nodes) }

// Shape sets n to the values of the shape functions at a point of the reference
// cell and dn to their derivatives there.
func (e *Element) Shape(p [3]float64, n []float64, dn [][3]float64) { e.shape(p, n, dn) }

func (e *Element) String() string { return fmt.Sprintf("%s of order %d", e.Form, e.Order) }

// NewElement returns the element of a form and an order of 1 or 2.
func NewElement(form mesh.Form, order int) *Element { return elements[form][order-1] }

// elements are all elements, by form and order − 1.
var elements = func() (all [mesh.Forms][2]*Element) {
	for order := 1; order <= 2; order++ {
		all[mesh.Bar][order-1] = product(mesh.Bar, order, nil, 1)
		all[mesh.Quadrilateral][order-1] = product(mesh.Quadrilateral, order, nil, 2)
		all[mesh.Hexahedron][order-1] = product(mesh.Hexahedron, order, nil, 3)
		all[mesh.Triangle][order-1] = simplex(mesh.Triangle, order, 2)
		all[mesh.Tetrahedron][order-1] = simplex(mesh.Tetrahedron, order, 3)
		all[mesh.Wedge][order-1] = product(mesh.Wedge, order, all[mesh.Triangle][order-1], 1)
	}
	return all
}()

// line are the values and derivatives of the Lagrange functions of a segment, the
// ends first.
func line(order int, x float64) (n, d [3]float64) {
	if order == 1 {
		return [3]float64{(1 - x) / 2, (1 + x) / 2}, [3]float64{-0.5, 0.5}
	}
	return [3]float64{x * (x - 1) / 2, x * (x + 1) / 2, 1 - x*x}, [3]float64{x - 0.5, x + 0.5, -2 * x}
}

// linePlaces are the nodes of a segment.
var linePlaces = [3]float64{-1, 1, 0}

// regularSimplex has in its columns the edges of a regular tetrahedron from a corner; the first two are those of a
// triangle.
var regularSimplex = [3][3]float64{{2, 1, 1}, {0, math.Sqrt(3), 1 / math.Sqrt(3)}, {0, 0, math.Sqrt(8. / 3)}}

// simplex is the element of a triangle or tetrahedron.
func simplex(form mesh.Form, order, dimension int) *Element {
	e := &Element{Form: form, Order: order, Dimension: dimension, Corners: dimension + 1, Facets: form.Facets(), Regular: regularSimplex}
	if dimension == 2 {
		e.Regular[0][2], e.Regular[1][2], e.Regular[2] = 0, 0, [3]float64{0, 0, 1}
	}
	corner := make([][3]float64, dimension+1)
	for d := range dimension {
		corner[d+1][d] = 1
	}
	e.Nodes = append(e.Nodes, corner...)
	var edges [][2]int
	for a := range corner {
		for b := range a {
			edges = append(edges, [2]int{b, a})
		}
	}
	if order == 2 {
		for _, edge := range edges {
			var m [3]float64
			for d := range m {
				m[d] = (corner[edge[0]][d] + corner[edge[1]][d]) / 2
			}
			e.Nodes = append(e.Nodes, m)
		}
	}
	e.shape = func(p [3]float64, n []float64, dn [][3]float64) {
		var l [4]float64
		var dl [4][3]float64
		l[0] = 1
		for d := range dimension {
			l[0] -= p[d]
			l[d+1] = p[d]
			dl[0][d] = -1
			dl[d+1][d] = 1
		}
		for a := range corner {
			if order == 1 {
				n[a], dn[a] = l[a], dl[a]
				continue
			}
			n[a] = l[a] * (2*l[a] - 1)
			for d := range 3 {
				dn[a][d] = (4*l[a] - 1) * dl[a][d]
			}
		}
		if order == 2 {
			for k, edge := range edges {
				a, b, i := edge[0], edge[1], len(corner)+k
				n[i] = 4 * l[a] * l[b]
				for d := range 3 {
					dn[i][d] = 4 * (l[a]*dl[b][d] + l[b]*dl[a][d])
				}
			}
		}
	}
	return e
}

// product is the element on the product of a plane element (nil for a point) with
// lines along the following axes.
func product(form mesh.Form, order int, plan *Element, lines int) *Element {
	base := 0
	if plan != nil {
		base = plan.Dimension
	} else {
		plan = point
	}
	e := &Element{Form: form, Order: order, Dimension: base + lines, Facets: form.Facets(), Regular: [3][3]float64{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}}
	if base > 0 {
		e.Regular = plan.Regular
	}
	// The node numbers of a product of lines, corners first and in the order of a
	// cell that turns left.
	type factor struct {
		plan int
		at   [3]int
	}
	var list, rest []factor
	count := order + 1
	total := 1
	for range lines {
		total *= count
	}
	for k := range total * plan.Count() {
		f := factor{plan: k % plan.Count()}
		r := k / plan.Count()
		corner := f.plan < plan.Corners
		for d := range lines {
			f.at[d] = r % count
			r /= count
			corner = corner && f.at[d] < 2
		}
		if corner {
			list = append(list, f)
		} else {
			rest = append(rest, f)
		}
	}
	e.Corners = len(list)
	if lines >= 2 {
		for k := 2; k < len(list); k += 4 {
			list[k], list[k+1] = list[k+1], list[k]
		}
	}
	list = append(list, rest...)
	for _, f := range list {
		p := plan.Nodes[f.plan]
		for d := range lines {
			p[base+d] = linePlaces[f.at[d]]
		}
		e.Nodes = append(e.Nodes, p)
	}
	e.shape = func(p [3]float64, n []float64, dn [][3]float64) {
		var pn [9]float64
		var pd [9][3]float64
		plan.shape(p, pn[:], pd[:])
		var ln, ld [3][3]float64
		for d := range lines {
			ln[d], ld[d] = line(order, p[base+d])
		}
		for k, f := range list {
			v := pn[f.plan]
			g := pd[f.plan]
			for d := range lines {
				v *= ln[d][f.at[d]]
			}
			for d := range lines {
				for b := range base {
					g[b] *= ln[d][f.at[d]]
				}
				s := pn[f.plan] * ld[d][f.at[d]]
				for o := range lines {
					if o != d {
						s *= ln[o][f.at[o]]
					}
				}
				g[base+d] = s
			}
			n[k], dn[k] = v, g
		}
	}
	return e
}

// point is the element of a point: the constant.
var point = &Element{Corners: 1, Nodes: make([][3]float64, 1), shape: func(_ [3]float64, n []float64, dn [][3]float64) {
	n[0], dn[0] = 1, [3]float64{}
}}
