package mesh

// Locate returns for each point the cell that holds it and its place in the
// reference wedge, the triangle (0, 0), (1, 0), (0, 1) times [−1, 1]; the cell is −1
// outside the mesh. Where cells meet the first one is taken. Points have three
// coordinates each.
func (m *Mesh) Locate(points []float64) (cells []int32, places [][3]float64) {
	n := len(points) / 3
	cells, places = make([]int32, n), make([][3]float64, n)
	for i := range cells {
		cells[i] = -1
	}
	const slack = 1e-9
	for c := range m.CellCount() {
		nodes := m.Cells[WedgeNodes*c : WedgeNodes*(c+1)]
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
			cells[i] = int32(c)
			places[i] = [3]float64{l1, l2, 2*(x[2]-z0)/(z1-z0) - 1}
		}
	}
	return cells, places
}
