package fem

import "saltkettle/core/mesh"

// Skin is a facet of an element, or an element of the plane, as flat pieces between its nodes.
type Skin struct {
	// Corners turn left seen from outside.
	Corners []int
	// Triangles between nodes of the element.
	Triangles [][3]int
	// Edges are lines along the edges of the facet, of two or more nodes each.
	Edges [][]int
}

// Itself is the facet of a cell of the plane that is the cell.
const Itself = -1

// Skin returns that of a facet, or of an element of the plane as [Itself].
func (e *Element) Skin(facet int) *Skin {
	s := &Skin{}
	if facet == Itself {
		for i := range e.Corners {
			s.Corners = append(s.Corners, i)
		}
	} else {
		s.Corners = e.Facets[facet]
	}
	n := len(s.Corners)
	middles := make([]int, n) // of the edges
	for i, a := range s.Corners {
		b := s.Corners[(i+1)%n]
		if e.Order == 1 {
			s.Edges = append(s.Edges, []int{a, b})
			continue
		}
		middles[i] = e.between(a, b)
		s.Edges = append(s.Edges, []int{a, middles[i], b})
	}
	c, m := s.Corners, middles
	switch {
	case e.Order == 1 && n == 3:
		s.Triangles = [][3]int{{c[0], c[1], c[2]}}
	case e.Order == 1:
		s.Triangles = [][3]int{{c[0], c[1], c[2]}, {c[0], c[2], c[3]}}
	case n == 3:
		s.Triangles = [][3]int{{c[0], m[0], m[2]}, {m[0], c[1], m[1]}, {m[2], m[1], c[2]}, {m[0], m[1], m[2]}}
	default:
		o := e.between(c...)
		for i := range c {
			s.Triangles = append(s.Triangles, [3]int{c[i], m[i], o}, [3]int{c[i], o, m[(i+3)%4]})
		}
	}
	return s
}

// between is the node in the middle of some corners.
func (e *Element) between(corners ...int) int {
	var x [3]float64
	for _, c := range corners {
		for d, v := range e.Nodes[c] {
			x[d] += v / float64(len(corners))
		}
	}
	return e.nodeAt(x)
}

// vtk has, by form, the number of its cells of order 1 and of order 2 in VTU files, and the
// corners in whose middles the further nodes of order 2 lie there, in their order.
var vtk = map[mesh.Form]struct {
	types   [2]uint8
	further [][]int
}{
	mesh.Bar:           {[2]uint8{3, 21}, [][]int{{0, 1}}},
	mesh.Triangle:      {[2]uint8{5, 22}, [][]int{{0, 1}, {1, 2}, {2, 0}}},
	mesh.Quadrilateral: {[2]uint8{9, 28}, [][]int{{0, 1}, {1, 2}, {2, 3}, {3, 0}, {0, 1, 2, 3}}},
	mesh.Tetrahedron:   {[2]uint8{10, 24}, [][]int{{0, 1}, {1, 2}, {2, 0}, {0, 3}, {1, 3}, {2, 3}}},
	mesh.Wedge: {[2]uint8{13, 32}, [][]int{{0, 1}, {1, 2}, {2, 0}, {3, 4}, {4, 5}, {5, 3}, {0, 3}, {1, 4}, {2, 5},
		{0, 1, 4, 3}, {1, 2, 5, 4}, {2, 0, 3, 5}}},
	mesh.Hexahedron: {[2]uint8{12, 29}, [][]int{{0, 1}, {1, 2}, {2, 3}, {3, 0}, {4, 5}, {5, 6}, {6, 7}, {7, 4}, {0, 4}, {1, 5}, {2, 6}, {3, 7},
		{0, 3, 7, 4}, {1, 2, 6, 5}, {0, 1, 5, 4}, {3, 2, 6, 7}, {0, 1, 2, 3}, {4, 5, 6, 7}, {0, 1, 2, 3, 4, 5, 6, 7}}},
}

// VTK returns the number that the element has in VTU files, and its nodes in their order.
func (e *Element) VTK() (number uint8, nodes []int) {
	of := vtk[e.Form]
	for i := range e.Corners {
		nodes = append(nodes, i)
	}
	if e.Order == 2 {
		for _, corners := range of.further {
			nodes = append(nodes, e.between(corners...))
		}
	}
	return of.types[e.Order-1], nodes
}
