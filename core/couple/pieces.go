package couple

import "saltkettle/core/mesh"

// pieces unites equations that hang together.
type pieces []int32

// piecesOf are those of the first component of a field: the cells of the bodies it lives in.
func (g *Group) piecesOf(field int) pieces {
	p := make(pieces, g.System.N)
	for i := range p {
		p[i] = int32(i)
	}
	g.Mesh.EachCell(func(cell int32, _ mesh.Form, nodes []int32) {
		if !g.Lives(field, g.Mesh.Body[cell]) {
			return
		}
		first := g.System.Equation(field, 0, nodes[0])
		for _, v := range nodes[1:] {
			p.join(g.System.Equation(field, 0, v), first)
		}
	})
	return p
}

// find is the equation that stands for the piece of one.
func (p pieces) find(i int32) int32 {
	for p[i] != i {
		p[i] = p[p[i]]
		i = p[i]
	}
	return i
}

func (p pieces) join(a, b int32) { p[p.find(a)] = p.find(b) }
