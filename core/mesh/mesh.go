package mesh

import "slices"

// Mesh is a division of a device into cells, in blocks of one form each. Cells are numbered
// block by block.
type Mesh struct {
	// Nodes holds x, y, z of each node, m. In a flat mesh z is 0.
	Nodes  []float64
	Blocks []Block
	// Body of each cell.
	Body []int32
	// Facets are the outer facets of all bodies and the ones between bodies.
	Facets []Facet
	// Sides are the names that facets refer to; number 0 is "", a side that the
	// outline does not have because another body has been cut out there.
	Sides []string
	// Plan is the division of the plan below a stack; that of a flat mesh has its cells.
	Plan *Plan
	// Beyond has, for facets along which the mesh has been cut, the nodes of the cell
	// beyond, in the order of those of the facet.
	Beyond map[int32][4]int32
	// Layered marks the cells of layers along walls; nil if there are none.
	Layered []bool
	// Grid has the lines along each axis of a mesh of bricks, m; nil for others.
	Grid *[3][]float64
	// Levels in z from which the layers were made, m; those of a flat mesh are the two ends of
	// what it stands for.
	Levels []float64
	// Lines has what its bars stand for; nil if there are none.
	Lines *Lines
}

// Block is cells of one form, of order 1.
type Block struct {
	Form Form
	// First is the number of the first of them.
	First int32
	// Cells holds the corners of each.
	Cells []int32
}

// Count is the number of cells of a block.
func (b *Block) Count() int { return len(b.Cells) / b.Form.Corners() }

// HangsLike says that the cells of two meshes hang together in the same way, wherever their nodes are.
func (m *Mesh) HangsLike(o *Mesh) bool {
	return slices.EqualFunc(m.Blocks, o.Blocks, func(a, b Block) bool { return a.Form == b.Form && slices.Equal(a.Cells, b.Cells) }) && slices.Equal(m.Body, o.Body)
}

// Cell returns the corners of a cell of the block.
func (b *Block) Cell(i int) []int32 {
	n := b.Form.Corners()
	return b.Cells[n*i : n*(i+1)]
}

// NodeCount is the number of nodes.
func (m *Mesh) NodeCount() int { return len(m.Nodes) / 3 }

// CellCount is the number of cells.
func (m *Mesh) CellCount() int { return len(m.Body) }

// At is the place of a node.
func (m *Mesh) At(node int32) [3]float64 { return [3]float64(m.Nodes[3*node : 3*node+3]) }

// Places are those of the corners of a facet.
func (m *Mesh) Places(facet int32) (list [][3]float64) {
	for _, v := range m.Facets[facet].Corners() {
		list = append(list, m.At(v))
	}
	return list
}

// Find returns the block of a cell and its number there.
func (m *Mesh) Find(cell int32) (block, number int) {
	for block = len(m.Blocks) - 1; block > 0 && m.Blocks[block].First > cell; block-- {
	}
	return block, int(cell - m.Blocks[block].First)
}

// Cell returns the corners of a cell.
func (m *Mesh) Cell(cell int32) []int32 {
	block, number := m.Find(cell)
	return m.Blocks[block].Cell(number)
}

// Form returns that of a cell.
func (m *Mesh) Form(cell int32) Form {
	block, _ := m.Find(cell)
	return m.Blocks[block].Form
}

// Flat says that the cells lie in a plane.
func (m *Mesh) Flat() bool { return len(m.Blocks) > 0 && m.Blocks[0].Form.Dimension() == 2 }

// EachCell calls f for all cells with their corners.
func (m *Mesh) EachCell(f func(cell int32, form Form, corners []int32)) {
	for k := range m.Blocks {
		b := &m.Blocks[k]
		for i := range b.Count() {
			f(b.First+int32(i), b.Form, b.Cell(i))
		}
	}
}

// Facet is a face of a cell that lies on the outside of its body; in a flat mesh an edge.
type Facet struct {
	// Nodes turn left seen from outside the cell; those that it has not are −1.
	Nodes [4]int32
	// Cell on the inner side, and its body and the side of that body.
	Cell, Body, Side int32
	// Other is the cell beyond, −1 if there is nothing, with its body and side.
	Other, OtherBody, OtherSide int32
}

// Corners returns the nodes of the facet.
func (f *Facet) Corners() []int32 {
	n := 4
	for n > 0 && f.Nodes[n-1] < 0 {
		n--
	}
	return f.Nodes[:n]
}

// Edges returns the ends of the lines that bound the facet: in space its edges, in a flat mesh
// its two ends, each of which stands for the line across the plane.
func (f *Facet) Edges() [][2]int32 {
	corners := f.Corners()
	if len(corners) == 2 {
		return [][2]int32{{corners[0], corners[0]}, {corners[1], corners[1]}}
	}
	var list [][2]int32
	for i, a := range corners {
		list = append(list, [2]int32{a, corners[(i+1)%len(corners)]})
	}
	return list
}
