package fem

// Points are the nodes of a grid told apart by part: where parts meet each has its own, so that
// what jumps there has two values. Those of a part follow each other.
type Points struct {
	// Node and part of each point.
	Node, Part []int32
	// Cells are the points of each cell, block by block.
	Cells [][]int32
	// First point of each part, and the number of all behind the last.
	First []int32
	// At is the place of each point, three coordinates each, m.
	At []float64
}

// Points numbers the points of a grid of some parts.
func (g *Grid) Points(parts int) *Points {
	p := &Points{Cells: make([][]int32, len(g.Blocks))}
	for bi := range g.Blocks {
		p.Cells[bi] = make([]int32, len(g.Blocks[bi].Cells))
	}
	number := make([]int32, g.NodeCount()) // by node, of the part at hand, from 1
	for part, cells := range g.ByPart(parts) {
		first := int32(len(p.Node))
		p.First = append(p.First, first)
		for _, c := range cells {
			nodes := g.Blocks[c.Block].Nodes(int(c.Cell))
			own := p.Cells[c.Block][len(nodes)*int(c.Cell):]
			for i, v := range nodes {
				if number[v] <= first {
					p.Node, p.Part = append(p.Node, v), append(p.Part, int32(part))
					number[v] = int32(len(p.Node))
				}
				own[i] = number[v] - 1
			}
		}
	}
	p.First = append(p.First, int32(len(p.Node)))
	p.At = make([]float64, 0, 3*len(p.Node))
	for _, v := range p.Node {
		at := g.At(v)
		p.At = append(p.At, at[:]...)
	}
	return p
}

// CellAt is a cell of a grid.
type CellAt struct{ Block, Cell int32 }

// ByPart lists the cells of each part of a grid of some parts.
func (g *Grid) ByPart(parts int) [][]CellAt {
	list := make([][]CellAt, parts)
	for bi := range g.Blocks {
		for cell, part := range g.Blocks[bi].Part {
			list[part] = append(list[part], CellAt{int32(bi), int32(cell)})
		}
	}
	return list
}
