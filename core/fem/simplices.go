package fem

import (
	"math"

	"saltkettle/core/mesh"
)

// lattice are the parts of a reference triangle of order 2 that are triangles of order 1, and
// those of a reference tetrahedron.
var (
	triangleParts = [][3][3]float64{
		{{0, 0}, {0.5, 0}, {0, 0.5}}, {{0.5, 0}, {1, 0}, {0.5, 0.5}}, {{0, 0.5}, {0.5, 0.5}, {0, 1}}, {{0.5, 0.5}, {0, 0.5}, {0.5, 0}},
	}
	tetrahedronParts = [][4][3]float64{
		{{0, 0, 0}, {0.5, 0, 0}, {0, 0.5, 0}, {0, 0, 0.5}}, {{0.5, 0, 0}, {1, 0, 0}, {0.5, 0.5, 0}, {0.5, 0, 0.5}},
		{{0, 0.5, 0}, {0.5, 0.5, 0}, {0, 1, 0}, {0, 0.5, 0.5}}, {{0, 0, 0.5}, {0.5, 0, 0.5}, {0, 0.5, 0.5}, {0, 0, 1}},
		// The octahedron that is left, about the line from (½, 0, 0) to (0, ½, ½).
		{{0.5, 0, 0}, {0.5, 0.5, 0}, {0, 0.5, 0}, {0, 0.5, 0.5}}, {{0.5, 0, 0}, {0, 0.5, 0}, {0, 0, 0.5}, {0, 0.5, 0.5}},
		{{0.5, 0, 0}, {0, 0, 0.5}, {0.5, 0, 0.5}, {0, 0.5, 0.5}}, {{0.5, 0, 0}, {0.5, 0, 0.5}, {0.5, 0.5, 0}, {0, 0.5, 0.5}},
	}
	wedgeTetrahedra      = [][]int{{0, 1, 2, 5}, {0, 1, 5, 4}, {0, 4, 5, 3}}
	hexahedronTetrahedra = [][]int{{0, 1, 2, 6}, {0, 2, 3, 6}, {0, 3, 7, 6}, {0, 7, 4, 6}, {0, 4, 5, 6}, {0, 5, 1, 6}}
)

// Simplices divides an element of space into tetrahedra, one of a plane into triangles, and a bar into lines,
// between its nodes: those of order 2 into as many more as they have nodes more.
func (e *Element) Simplices() [][]int {
	var list [][]int
	add := func(divide [][]int, corners ...[3]float64) {
		nodes := make([]int, len(corners))
		for i, x := range corners {
			nodes[i] = e.nodeAt(x)
		}
		for _, d := range divide {
			simplex := make([]int, len(d))
			for i, c := range d {
				simplex[i] = nodes[c]
			}
			list = append(list, simplex)
		}
	}
	// Pieces of a line and of a triangle.
	line := [][2]float64{{-1, 1}}
	triangles := [][3][3]float64{{{0, 0}, {1, 0}, {0, 1}}}
	tetrahedra := [][4][3]float64{{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}}}
	if e.Order == 2 {
		line, triangles, tetrahedra = [][2]float64{{-1, 0}, {0, 1}}, triangleParts, tetrahedronParts
	}
	switch e.Form {
	case mesh.Bar:
		for _, x := range line {
			add([][]int{{0, 1}}, [3]float64{x[0]}, [3]float64{x[1]})
		}
	case mesh.Triangle:
		for _, t := range triangles {
			add([][]int{{0, 1, 2}}, t[:]...)
		}
	case mesh.Quadrilateral:
		for _, x := range line {
			for _, y := range line {
				add([][]int{{0, 1, 2}, {0, 2, 3}}, [3]float64{x[0], y[0]}, [3]float64{x[1], y[0]}, [3]float64{x[1], y[1]}, [3]float64{x[0], y[1]})
			}
		}
	case mesh.Tetrahedron:
		for _, t := range tetrahedra {
			add([][]int{{0, 1, 2, 3}}, t[:]...)
		}
	case mesh.Wedge:
		for _, z := range line {
			for _, t := range triangles {
				var corners [][3]float64
				for _, level := range z {
					for _, c := range t {
						corners = append(corners, [3]float64{c[0], c[1], level})
					}
				}
				add(wedgeTetrahedra, corners...)
			}
		}
	case mesh.Hexahedron:
		for _, z := range line {
			for _, y := range line {
				for _, x := range line {
					var corners [][3]float64
					for _, level := range z {
						corners = append(corners, [3]float64{x[0], y[0], level}, [3]float64{x[1], y[0], level}, [3]float64{x[1], y[1], level}, [3]float64{x[0], y[1], level})
					}
					add(hexahedronTetrahedra, corners...)
				}
			}
		}
	}
	return list
}

// nodeAt is the node at a place of the reference cell.
func (e *Element) nodeAt(x [3]float64) int {
	for i, p := range e.Nodes {
		if math.Abs(p[0]-x[0])+math.Abs(p[1]-x[1])+math.Abs(p[2]-x[2]) < 1e-9 {
			return i
		}
	}
	panic("fem: an element has no node where one of its parts has a corner")
}
