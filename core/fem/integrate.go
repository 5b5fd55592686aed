package fem

import (
	"saltkettle/core/mesh"
	"saltkettle/core/parallel"
)

// Integrate returns the integral over the cells of the bodies that are marked.
// value is called, concurrently, for groups of cells and fills in the integrand
// at their quadrature points, cell by cell.
func Integrate(m *mesh.Mesh, on []bool, value func(cells []int32, values []float64)) (float64, error) {
	const group = 64
	parts := make([]float64, chunks)
	failed := make([]error, chunks)
	n := m.CellCount()
	parallel.For(chunks, 1, func(_, from, to int) {
		var w Wedge
		cells := make([]int32, 0, group)
		values := make([]float64, group*Points)
		for p := from; p < to; p++ {
			flush := func() {
				if len(cells) == 0 {
					return
				}
				value(cells, values[:len(cells)*Points])
				for i, c := range cells {
					if err := w.Set(m, int(c)); err != nil {
						failed[p] = err
						break
					}
					for q, v := range w.Volume {
						parts[p] += v * values[i*Points+q]
					}
				}
				cells = cells[:0]
			}
			for c := p * n / chunks; c < (p+1)*n/chunks; c++ {
				if on[m.Body[c]] {
					cells = append(cells, int32(c))
				}
				if len(cells) == group {
					flush()
				}
			}
			flush()
		}
	})
	var sum float64
	for p, v := range parts {
		if failed[p] != nil {
			return 0, failed[p]
		}
		sum += v
	}
	return sum, nil
}

// Locate returns for each point the cell that holds it and the shape functions
// there; the cell is −1 outside the mesh. Where cells meet the first one is
// taken. Points have three coordinates each.
func Locate(m *mesh.Mesh, points []float64) (cells []int32, shapes [][6]float64) {
	n := len(points) / 3
	cells, shapes = make([]int32, n), make([][6]float64, n)
	for i := range cells {
		cells[i] = -1
	}
	const slack = 1e-9
	for c := range m.CellCount() {
		nodes := m.Cells[mesh.WedgeNodes*c : mesh.WedgeNodes*c+6]
		at := func(i int) []float64 { return m.Nodes[3*nodes[i] : 3*nodes[i]+3] }
		a, b, d, top := at(0), at(1), at(2), at(3)
		z0, z1 := a[2], top[2]
		det := (b[0]-a[0])*(d[1]-a[1]) - (d[0]-a[0])*(b[1]-a[1])
		for i := range n {
			x := points[3*i : 3*i+3]
			if cells[i] >= 0 || x[2] < z0-slack*(z1-z0) || x[2] > z1+slack*(z1-z0) {
				continue
			}
			// Wedges stand upright: the place in plan and the height are apart.
			l1 := ((x[0]-a[0])*(d[1]-a[1]) - (d[0]-a[0])*(x[1]-a[1])) / det
			l2 := ((b[0]-a[0])*(x[1]-a[1]) - (x[0]-a[0])*(b[1]-a[1])) / det
			if l1 < -slack || l2 < -slack || l1+l2 > 1+slack {
				continue
			}
			h := (x[2] - z0) / (z1 - z0)
			cells[i] = int32(c)
			for k, l := range [3]float64{1 - l1 - l2, l1, l2} {
				shapes[i][k], shapes[i][k+3] = l*(1-h), l*h
			}
		}
	}
	return cells, shapes
}
