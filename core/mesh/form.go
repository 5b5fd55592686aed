package mesh

// Form is the form of a cell. The reference cells are the segment, square and cube [−1, 1]ᵈ,
// the triangle and tetrahedron with corners at the origin and the unit points, and the product
// of that triangle with [−1, 1].
type Form int8

// Forms of cells.
const (
	Bar Form = iota
	Triangle
	Quadrilateral
	Tetrahedron
	Wedge
	Hexahedron
	Forms // how many there are
)

// topology is how the corners of a form hang together.
type topology struct {
	name               string
	dimension, corners int
	facets             [][]int
	edges              [][4]int
}

var topologies = [Forms]topology{
	Bar:           {"bar", 1, 2, [][]int{{0}, {1}}, nil},
	Triangle:      {"triangle", 2, 3, [][]int{{0, 1}, {1, 2}, {2, 0}}, nil},
	Quadrilateral: {"quadrilateral", 2, 4, [][]int{{0, 1}, {1, 2}, {2, 3}, {3, 0}}, nil},
	Tetrahedron: {"tetrahedron", 3, 4, [][]int{{0, 2, 1}, {0, 1, 3}, {1, 2, 3}, {0, 3, 2}},
		[][4]int{{0, 1, 2, 3}, {1, 2, 0, 3}, {0, 2, 1, 3}, {0, 3, 1, 2}, {1, 3, 0, 2}, {2, 3, 0, 1}}},
	Wedge: {"wedge", 3, 6, [][]int{{0, 2, 1}, {3, 4, 5}, {0, 1, 4, 3}, {1, 2, 5, 4}, {2, 0, 3, 5}},
		[][4]int{{0, 1, 2, 3}, {1, 2, 0, 4}, {2, 0, 1, 5}, {3, 4, 5, 0}, {4, 5, 3, 1}, {5, 3, 4, 2}, {0, 3, 1, 2}, {1, 4, 2, 0}, {2, 5, 0, 1}}},
	Hexahedron: {"hexahedron", 3, 8, [][]int{{0, 3, 2, 1}, {4, 5, 6, 7}, {0, 1, 5, 4}, {1, 2, 6, 5}, {2, 3, 7, 6}, {3, 0, 4, 7}},
		[][4]int{{0, 1, 3, 4}, {1, 2, 0, 5}, {2, 3, 1, 6}, {3, 0, 2, 7}, {4, 5, 7, 0}, {5, 6, 4, 1}, {6, 7, 5, 2}, {7, 4, 6, 3},
			{0, 4, 1, 3}, {1, 5, 2, 0}, {2, 6, 3, 1}, {3, 7, 0, 2}}},
}

func (f Form) String() string { return topologies[f].name }

// Dimension of the space that the form fills.
func (f Form) Dimension() int { return topologies[f].dimension }

// Corners is the number of corners.
func (f Form) Corners() int { return topologies[f].corners }

// Facets lists the corners of each facet of a cell, turning left seen from outside; those of a
// cell of the plane are its edges, turning left about it.
func (f Form) Facets() [][]int { return topologies[f].facets }

// Edges lists the two corners of each edge of a cell of space, with the corners that follow
// from the first of them in the two facets that meet there.
func (f Form) Edges() [][4]int { return topologies[f].edges }

// FormNamed returns the form of a name.
func FormNamed(name string) (Form, bool) {
	for f := range Forms {
		if topologies[f].name == name {
			return f, true
		}
	}
	return 0, false
}
