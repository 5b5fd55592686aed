package couple

import (
	"math"
	"slices"
)

// freely is the part of a rigid motion that held values must take away for it to be held.
const freely = 1e-6

// Tether is a component of a displacement that something pulls back on facets.
type Tether struct {
	Facets    []int32
	Component int
}

// Motion is one of a rigid body: a move along a direction, or a turn about an axis along a direction through a point.
type Motion struct {
	Move, Turn, Through [3]float64
}

// FixedRigid demands that held values and tethers let no connected piece of a displacement move or turn as
// a whole; round says that it is that of an axial space, which can move along its axis alone. The motions of the first
// piece that can are in the [LooseError].
func (g *Group) FixedRigid(field int, round bool, tethers []Tether) error {
	all := g.piecesOf(field)
	c := g.clusters(field, all)
	n := g.Fields[field].Components
	each := len(motions([3]float64{}, 0, n, round))
	held := map[int32][][]float64{} // by cluster: what is known of the motions of its pieces
	// know takes in that a sum of components at nodes is held.
	know := func(nodes []int32, normals [][3]float64) {
		first := g.System.Equation(field, 0, nodes[0])
		if first < 0 || g.middle(nodes[0]) {
			return
		}
		key := c.of[all.find(first)]
		size := each * len(c.pieces[key])
		if len(held[key]) == size {
			return
		}
		row := make([]float64, size)
		for i, v := range nodes {
			piece := all.find(g.System.Equation(field, 0, v))
			at := each * slices.Index(c.pieces[key], piece)
			x := c.place(piece, g.System.Grid.At(v))
			for d := range n {
				for k, m := range motions(x, d, n, round) {
					row[at+k] += normals[i][d] * m
				}
			}
		}
		held[key] = reduce(held[key], row)
	}
	axis := func(component int) [][3]float64 {
		var d [3]float64
		d[component] = 1
		return [][3]float64{d}
	}
	for i, h := range g.held {
		for _, v := range h.nodes {
			if h.field == field {
				know([]int32{v}, axis(g.held[i].Component))
			}
		}
	}
	for _, t := range tethers {
		for _, v := range nodesOf(g.grid, g.sides, t.Facets) {
			know([]int32{v}, axis(t.Component))
		}
	}
	for i := range g.slides {
		for v, normal := range g.slides[i].normals {
			if g.slides[i].field == field {
				know([]int32{v}, [][3]float64{normal})
			}
		}
	}
	for _, p := range g.glides {
		if p.field == field {
			know([]int32{p.a, p.b}, [][3]float64{p.normal, {-p.normal[0], -p.normal[1], -p.normal[2]}})
		}
	}
	out := &LooseError{Field: field}
	for cell, body := range g.Mesh.Body {
		if !g.Lives(field, body) || slices.Contains(out.Bodies, body) {
			continue
		}
		piece := all.find(g.System.Equation(field, 0, g.Mesh.Cell(int32(cell))[0]))
		key := c.of[piece]
		if len(held[key]) == each*len(c.pieces[key]) {
			continue
		}
		free := freeMotions(held[key], each*slices.Index(c.pieces[key], piece), each, n)
		if len(free) == 0 {
			continue // it is another piece of the cluster that is loose
		}
		if out.Bodies = append(out.Bodies, body); out.Motions == nil {
			for i := range free {
				for d := range 3 {
					free[i].Through[d] = c.middle[piece][d] + c.scale*free[i].Through[d]
				}
			}
			out.Motions = free
		}
	}
	if len(out.Bodies) > 0 {
		return out
	}
	return nil
}

// Free are the motions of one body that nothing keeps it from if it is held at some places, each along a direction; n and round
// are as those of a displacement.
func Free(n int, round bool, at, along [][3]float64) []Motion {
	each := len(motions([3]float64{}, 0, n, round))
	var middle [3]float64
	scale := 0.0
	for _, x := range at {
		for d := range x {
			middle[d] += x[d] / float64(len(at))
		}
	}
	for _, x := range at {
		for d := range x {
			scale = max(scale, math.Abs(x[d]-middle[d]))
		}
	}
	if scale == 0 {
		scale = 1
	}
	var rows [][]float64
	for i, x := range at {
		for d := range x {
			x[d] = (x[d] - middle[d]) / scale
		}
		row := make([]float64, each)
		for d := range n {
			for k, m := range motions(x, d, n, round) {
				row[k] += along[i][d] * m
			}
		}
		rows = reduce(rows, row)
	}
	if len(rows) == each {
		return nil
	}
	list := freeMotions(rows, 0, each, n)
	for i := range list {
		for d := range 3 {
			list[i].Through[d] = middle[d] + scale*list[i].Through[d]
		}
	}
	return list
}

// clusters are the pieces of a displacement that glide along each other, by the first of them.
type clusters struct {
	of     map[int32]int32
	pieces map[int32][]int32
	middle map[int32][3]float64 // of pieces
	scale  float64
}

// place is one relative to the middle of a piece and to the size of the mesh.
func (c *clusters) place(piece int32, x [3]float64) [3]float64 {
	m := c.middle[piece]
	for d := range x {
		x[d] = (x[d] - m[d]) / c.scale
	}
	return x
}

func (g *Group) clusters(field int, all pieces) *clusters {
	c := &clusters{of: map[int32]int32{}, pieces: map[int32][]int32{}, middle: map[int32][3]float64{}}
	count := map[int32]float64{}
	least, most := [3]float64{math.Inf(1), math.Inf(1), math.Inf(1)}, [3]float64{math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	for v := range int32(g.Mesh.NodeCount()) {
		e := g.System.Equation(field, 0, v)
		if e < 0 {
			continue
		}
		p, x := all.find(e), g.System.Grid.At(v)
		if _, known := c.of[p]; !known {
			c.of[p], c.pieces[p] = p, []int32{p}
		}
		m := c.middle[p]
		for d := range x {
			m[d] += x[d]
			least[d], most[d] = min(least[d], x[d]), max(most[d], x[d])
		}
		c.middle[p] = m
		count[p]++
	}
	for p, m := range c.middle {
		for d := range m {
			m[d] /= count[p]
		}
		c.middle[p] = m
	}
	for d := range 3 {
		c.scale = max(c.scale, most[d]-least[d])
	}
	for _, p := range g.glides {
		if p.field != field {
			continue
		}
		a, b := c.of[all.find(g.System.Equation(field, 0, p.a))], c.of[all.find(g.System.Equation(field, 0, p.b))]
		if a == b {
			continue
		}
		for _, piece := range c.pieces[b] {
			c.of[piece] = a
		}
		c.pieces[a] = append(c.pieces[a], c.pieces[b]...)
		delete(c.pieces, b)
	}
	return c
}

// freeMotions are those of a piece, whose motions are some of those that rows are about from a first one on, that rows leave
// free: along and about the axes where that is so, and others.
func freeMotions(rows [][]float64, first, each, n int) (list []Motion) {
	if each == 1 {
		return []Motion{{Move: [3]float64{0, 1, 0}}}
	}
	size := each
	if len(rows) > 0 {
		size = len(rows[0])
	}
	// What is free is what is left of unit vectors.
	var free [][]float64
	take := func(v []float64) {
		before := len(free)
		if free = reduce(free, slices.Clone(v)); len(free) == before {
			return
		}
		list = append(list, motionOf(v[first:first+each], n))
	}
	for k := range each { // those along and about the axes by themselves
		v := make([]float64, size)
		v[first+k] = 1
		rest, change := slices.Clone(v), 0.0
		project(rows, rest)
		for i := range v {
			change = max(change, math.Abs(rest[i]-v[i]))
		}
		if change < freely {
			take(v)
		}
	}
	for k := range each {
		v := make([]float64, size)
		v[first+k] = 1
		project(rows, v)
		project(free, v)
		if own := v[first : first+each]; dot(own, own) > freely {
			take(v)
		}
	}
	return list
}

// motionOf is one by its components: moves, and turns in the planes xy, xz, yz.
func motionOf(v []float64, n int) (m Motion) {
	var t, w [3]float64
	copy(t[:], v[:n])
	if n == 2 {
		w[2] = v[2]
	} else {
		w = [3]float64{v[5], -v[4], v[3]}
	}
	size := math.Sqrt(w[0]*w[0] + w[1]*w[1] + w[2]*w[2])
	if size < freely {
		size = math.Sqrt(t[0]*t[0] + t[1]*t[1] + t[2]*t[2])
		for d := range t {
			m.Move[d] = t[d] / size
		}
		return m
	}
	// The axis goes through ω × t/ω².
	m.Through = [3]float64{(w[1]*t[2] - w[2]*t[1]) / (size * size), (w[2]*t[0] - w[0]*t[2]) / (size * size), (w[0]*t[1] - w[1]*t[0]) / (size * size)}
	for d := range w {
		m.Turn[d] = w[d] / size
	}
	return m
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

// dot is the product of two short rows.
func dot(a, b []float64) (sum float64) {
	for i, x := range a {
		sum += x * b[i]
	}
	return sum
}

// project takes out of a row what rows that are orthonormal have of it.
func project(rows [][]float64, row []float64) {
	for range 2 { // once more, for round-off
		for _, r := range rows {
			by := dot(r, row)
			for i, v := range r {
				row[i] -= by * v
			}
		}
	}
}

// reduce adds a row to rows that are orthonormal, unless it follows from them.
func reduce(rows [][]float64, row []float64) [][]float64 {
	if len(rows) == len(row) {
		return rows
	}
	project(rows, row)
	size := math.Sqrt(dot(row, row))
	if size < freely {
		return rows
	}
	for i := range row {
		row[i] /= size
	}
	return append(rows, row)
}
