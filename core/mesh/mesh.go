package mesh

// Mesh is a division of a device into cells, all of one kind for now: wedges of
// order 1 with nodes 0 1 2 on the lower triangle, turning left seen from above,
// and 3 4 5 above them.
type Mesh struct {
	// Nodes holds x, y, z of each node, m.
	Nodes []float64
	// Cells holds six nodes for each wedge.
	Cells []int32
	// Body of each cell.
	Body []int32
	// Facets are the outer facets of all bodies and the ones between bodies.
	Facets []Facet
	// Faces are the facets at the top and the bottom of a flat mesh. They are nothing of
	// the device and are for drawing only.
	Faces []Facet
	// Sides are the names that facets refer to; number 0 is "", a side that the
	// outline does not have because another body has been cut out there.
	Sides []string
	// Plan is the triangulation below the stack.
	Plan *Plan
	// Beyond has, for facets along which the mesh has been cut, the nodes of the cell
	// beyond, in the order of those of the facet.
	Beyond map[int32][4]int32
	// Layered marks the cells of layers along walls; nil if there are none.
	Layered []bool
	// Levels in z from which the layers were made, m.
	Levels []float64
}

// WedgeNodes is the number of nodes of a wedge of order 1.
const WedgeNodes = 6

// NodeCount is the number of nodes.
func (m *Mesh) NodeCount() int { return len(m.Nodes) / 3 }

// CellCount is the number of cells.
func (m *Mesh) CellCount() int { return len(m.Body) }

// Facet is a face of a cell that lies on the outside of its body.
type Facet struct {
	// Nodes turn left seen from outside the cell; the fourth is −1 in a triangle.
	Nodes [4]int32
	// Cell on the inner side, and its body and the side of that body.
	Cell, Body, Side int32
	// Other is the cell beyond, −1 if there is nothing, with its body and side.
	Other, OtherBody, OtherSide int32
}

// setFacesApart moves the facets at the top and the bottom.
func (m *Mesh) setFacesApart(top, bottom int32) {
	rest := m.Facets[:0]
	for _, f := range m.Facets {
		if f.Other < 0 && (f.Side == top || f.Side == bottom) {
			m.Faces = append(m.Faces, f)
		} else {
			rest = append(rest, f)
		}
	}
	m.Facets = rest
}

// Corners returns the nodes of the facet.
func (f *Facet) Corners() []int32 {
	if f.Nodes[3] < 0 {
		return f.Nodes[:3]
	}
	return f.Nodes[:]
}
