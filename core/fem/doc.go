// Package fem has what finite elements of any physics need: shape functions at
// quadrature points, sparsity patterns of a mesh, parallel assembly and
// integrals over facets.
//
// Cells are wedges of order 1 for now (six nodes, see package mesh). Assembly
// gives each core a range of rows: a core computes every cell that touches its
// rows and adds only to them, so that no two cores write to the same place and
// every row is summed in the order of the cells whatever the number of cores.
package fem
