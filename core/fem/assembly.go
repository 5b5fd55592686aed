package fem

import (
	"slices"
	"sync"

	"saltkettle/core/mesh"
	"saltkettle/core/parallel"
	"saltkettle/core/sparse"
)

// Space is the nodal functions of order 1 on a mesh: the pattern of its matrices
// and which cells touch which node.
type Space struct {
	Mesh *mesh.Mesh
	// start and cells list the cells at each node, ascending.
	start, cells []int32
	rows, cols   []int32
}

// NewSpace builds the pattern of a mesh.
func NewSpace(m *mesh.Mesh) *Space {
	n := m.NodeCount()
	s := &Space{Mesh: m, start: make([]int32, n+1), cells: make([]int32, len(m.Cells)), rows: make([]int32, n+1)}
	for _, v := range m.Cells {
		s.start[v+1]++
	}
	for i := range n {
		s.start[i+1] += s.start[i]
	}
	fill := slices.Clone(s.start[:n])
	for k, v := range m.Cells {
		s.cells[fill[v]] = int32(k / mesh.WedgeNodes)
		fill[v]++
	}
	s.pattern()
	return s
}

// pattern lists the neighbours of every node, ascending, itself included. Each
// core writes its rows into a buffer of its own, which are then joined.
func (s *Space) pattern() {
	n := len(s.start) - 1
	buffers := make([][]int32, parallel.Workers())
	first := make([]int, parallel.Workers())
	parallel.For(n, 2048, func(w, lo, hi int) {
		first[w] = lo
		out := make([]int32, 0, 24*(hi-lo))
		for i := lo; i < hi; i++ {
			begin := len(out)
			for _, c := range s.cells[s.start[i]:s.start[i+1]] {
			nodes:
				for _, v := range s.Mesh.Cells[mesh.WedgeNodes*c : mesh.WedgeNodes*c+6] {
					for _, u := range out[begin:] {
						if u == v {
							continue nodes
						}
					}
					out = append(out, v)
				}
			}
			slices.Sort(out[begin:])
			s.rows[i+1] = int32(len(out) - begin)
		}
		buffers[w] = out
	})
	for i := range n {
		s.rows[i+1] += s.rows[i]
	}
	s.cols = make([]int32, s.rows[n])
	for w, b := range buffers {
		copy(s.cols[s.rows[first[w]]:], b)
	}
}

// chunks is into how many parts sums over cells are cut, so that they do not
// depend on the number of cores.
const chunks = 64

// Volumes returns the volume of each body, m³.
func Volumes(m *mesh.Mesh, bodies int) ([]float64, error) {
	parts := make([][]float64, chunks)
	failed := make([]error, chunks)
	n := m.CellCount()
	parallel.For(chunks, 1, func(_, lo, hi int) {
		var w Wedge
		for p := lo; p < hi; p++ {
			parts[p] = make([]float64, bodies)
			for c := p * n / chunks; c < (p+1)*n/chunks; c++ {
				if err := w.Set(m, c); err != nil {
					failed[p] = err
					break
				}
				for _, v := range w.Volume {
					parts[p][m.Body[c]] += v
				}
			}
		}
	})
	sum := make([]float64, bodies)
	for p, part := range parts {
		if failed[p] != nil {
			return nil, failed[p]
		}
		for b, v := range part {
			sum[b] += v
		}
	}
	return sum, nil
}

// NewMatrix returns a zero matrix with the pattern of the space.
func (s *Space) NewMatrix() *sparse.CSR {
	return &sparse.CSR{Rows: s.rows, Cols: s.cols, Data: make([]float64, len(s.cols))}
}

// CellKernel computes the matrix and the load of a cell. k and f are zero when
// it is called, and w holds the cell.
type CellKernel func(cell int, w *Wedge, k *[36]float64, f *[6]float64)

// Assemble adds the cell matrices to a and the cell loads to b.
func (s *Space) Assemble(a *sparse.CSR, b []float64, kernel CellKernel) error {
	var mu sync.Mutex
	var failed error
	parallel.For(s.Mesh.NodeCount(), 1024, func(_, lo, hi int) {
		if err := s.assembleRows(a, b, kernel, int32(lo), int32(hi)); err != nil {
			mu.Lock()
			failed = err
			mu.Unlock()
		}
	})
	return failed
}

func (s *Space) assembleRows(a *sparse.CSR, b []float64, kernel CellKernel, lo, hi int32) error {
	var w Wedge
	for c := range s.Mesh.CellCount() {
		nodes := s.Mesh.Cells[mesh.WedgeNodes*c : mesh.WedgeNodes*c+6]
		mine := false
		for _, v := range nodes {
			mine = mine || v >= lo && v < hi
		}
		if !mine {
			continue
		}
		if err := w.Set(s.Mesh, c); err != nil {
			return err
		}
		var k [36]float64
		var f [6]float64
		kernel(c, &w, &k, &f)
		for i, v := range nodes {
			if v < lo || v >= hi {
				continue
			}
			b[v] += f[i]
			cols, data := a.Row(int(v))
			for j, u := range nodes {
				at, _ := slices.BinarySearch(cols, u)
				data[at] += k[6*i+j]
			}
		}
	}
	return nil
}

// AddFacet adds the integrals over a facet of c·NᵢNⱼ to a and of d·Nᵢ to b,
// with c and d given at its quadrature points.
func AddFacet(a *sparse.CSR, b []float64, f *mesh.Facet, w *Facet, c, d *[4]float64) {
	corners := f.Corners()
	for i, v := range corners {
		var row [4]float64
		any := false
		for q := range w.Points {
			n := w.Shape[q][i] * w.Area[q]
			b[v] += d[q] * n
			if c[q] != 0 {
				any = true
				for j := range corners {
					row[j] += c[q] * n * w.Shape[q][j]
				}
			}
		}
		if !any {
			continue
		}
		cols, data := a.Row(int(v))
		for j, u := range corners {
			at, _ := slices.BinarySearch(cols, u)
			data[at] += row[j]
		}
	}
}

// CellsAt returns the cells that touch a node.
func (s *Space) CellsAt(node int32) []int32 { return s.cells[s.start[node]:s.start[node+1]] }
