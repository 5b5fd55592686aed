package couple

import (
	"math"
	"slices"
)

// freely is the part of a rigid motion that held values must take away for it to be held.
const freely = 1e-6

// FixedRigid demands that held values let no connected piece of a displacement move or turn as
// a whole; round says that it is that of an axial space, which can move along its axis alone.
func (g *Group) FixedRigid(field int, round bool) error {
	s, m := g.System, g.Mesh
	all := g.piecesOf(field)
	held := map[int32][][]float64{} // by piece: what held values say of its motions
	n := g.Fields[field].Components
	scale := 0.0
	for _, x := range m.Nodes {
		scale = max(scale, math.Abs(x))
	}
	for i, h := range g.held {
		if h.field != field {
			continue
		}
		for _, v := range h.nodes {
			e := s.Equation(field, 0, v)
			if e < 0 || int(e) >= len(all) || g.middle(v) {
				continue
			}
			p := all.find(e)
			x := s.Grid.At(v)
			for d := range x {
				x[d] /= scale
			}
			held[p] = reduce(held[p], motions(x, g.held[i].Component, n, round))
		}
	}
	for i := range g.slides {
		for v, normal := range g.slides[i].normals {
			if g.slides[i].field != field || g.middle(v) {
				continue
			}
			x := s.Grid.At(v)
			for d := range x {
				x[d] /= scale
			}
			row := make([]float64, len(motions(x, 0, n, round)))
			for d := range n {
				for k, m := range motions(x, d, n, round) {
					row[k] += normal[d] * m
				}
			}
			p := all.find(s.Equation(field, 0, v))
			held[p] = reduce(held[p], row)
		}
	}
	most := len(motions([3]float64{}, 0, n, round))
	var loose []int32
	for c, body := range m.Body {
		if g.Lives(field, body) && !slices.Contains(loose, body) && len(held[all.find(s.Equation(field, 0, m.Cell(int32(c))[0]))]) < most {
			loose = append(loose, body)
		}
	}
	if len(loose) > 0 {
		return &LooseError{field, loose}
	}
	return nil
}

// middle says that a node is none of the mesh but in the middle of an edge or a face.
func (g *Group) middle(node int32) bool { return int(node) >= g.Mesh.NodeCount() }

// motions are what a component of the displacement at a place is in each rigid motion.
func motions(x [3]float64, component, n int, round bool) []float64 {
	if round {
		return []float64{map[bool]float64{true: 1}[component == 1]}
	}
	row := make([]float64, n, 6)
	row[component] = 1
	for d := range n {
		for e := d + 1; e < n; e++ {
			switch component {
			case d:
				row = append(row, -x[e])
			case e:
				row = append(row, x[d])
			default:
				row = append(row, 0)
			}
		}
	}
	return row
}

// reduce adds a row to rows that are orthonormal, unless it follows from them.
func reduce(rows [][]float64, row []float64) [][]float64 {
	if len(rows) == len(row) {
		return rows
	}
	for range 2 { // once more, for round-off
		for _, r := range rows {
			var dot float64
			for i, v := range r {
				dot += v * row[i]
			}
			for i, v := range r {
				row[i] -= dot * v
			}
		}
	}
	var size float64
	for _, v := range row {
		size += v * v
	}
	if size = math.Sqrt(size); size < freely {
		return rows
	}
	for i := range row {
		row[i] /= size
	}
	return append(rows, row)
}
