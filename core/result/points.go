package result

import "saltkettle/core/mesh"

// Points are the corners of the cells of a mesh, told apart by body: where bodies meet
// each has its own, so that what jumps there has two values. Those of a body follow
// each other.
type Points struct {
	// Node of the mesh and body of each point.
	Node, Body []int32
	// Cells are the six points of each wedge.
	Cells []int32
	// First point of each body, and the number of all behind the last.
	First []int32
}

// NewPoints numbers the points of a mesh of some bodies.
func NewPoints(m *mesh.Mesh, bodies int) *Points {
	p := &Points{Cells: make([]int32, len(m.Cells))}
	cells := make([][]int32, bodies)
	for c, b := range m.Body {
		cells[b] = append(cells[b], int32(c))
	}
	number := make([]int32, m.NodeCount()) // by node, of the body at hand, from 1
	for b, list := range cells {
		first := int32(len(p.Node))
		p.First = append(p.First, first)
		for _, c := range list {
			for i := mesh.WedgeNodes * int(c); i < mesh.WedgeNodes*int(c+1); i++ {
				v := m.Cells[i]
				if number[v] <= first {
					p.Node, p.Body = append(p.Node, v), append(p.Body, int32(b))
					number[v] = int32(len(p.Node))
				}
				p.Cells[i] = number[v] - 1
			}
		}
	}
	p.First = append(p.First, int32(len(p.Node)))
	return p
}

// Places are the coordinates of the points, three each, m.
func (p *Points) Places(m *mesh.Mesh) []float64 {
	out := make([]float64, 0, 3*len(p.Node))
	for _, v := range p.Node {
		out = append(out, m.Nodes[3*v:3*v+3]...)
	}
	return out
}
